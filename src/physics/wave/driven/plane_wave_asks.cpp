#include "physics/wave/driven/plane_wave_asks.h"

#include "base/quantity.h"
#include "physics/common/constants.h"
#include "physics/wave/common/scattering_asks.h"
#include "physics/wave/driven/asks.h"
#include "physics/wave/driven/patterns.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace yh::physics {

using sheet::Line;
using sheet::Model;
namespace dim = base::dim;

namespace {

Point directionOf(double theta, double phi)
{
    return {std::sin(theta) * std::cos(phi), std::sin(theta) * std::sin(phi), std::cos(theta)};
}
/// Of the sphere around the device, m^2; in drawings by their depth.
double sectionOf(const WaveProblem& p)
{
    const double R = p.shell.inner;
    return p.shell.cylinder ? 2 * R * p.depth() : pi * R * R;
}
/// 4 pi times the power by solid angle over that by area of the wave, m^2; in drawings 2 pi times
/// that by angle and depth, m.
double radar(const WaveDrivenSolver& s, int order, double f, int wave, const Point& direction)
{
    const double E = s.problem().planeWaves[size_t(wave)].field, byArea = E * E / (2 * mu0 * c0);
    return (s.problem().shell.cylinder ? 2 : 4) * pi *
           s.scattered(order, f, wave).intensity(direction) / byArea;
}

/** A cross-section and the components far away that tell how far it is off: its square root is
 their amplitude. */
std::vector<double> radarWithParts(WaveDrivenSolver& s, int order, double f, int wave,
                                   const Point& direction)
{
    const double sigma = radar(s, order, f, wave, direction);
    const auto F = s.scattered(order, f, wave).at(direction);
    double square = 0;
    for (const auto& v : F)
        square += std::norm(v);
    const double scale = square > 0 ? std::sqrt(sigma / square) : 0.0;
    std::vector<double> list{sigma};
    for (const auto& v : F)
        list.insert(list.end(), {scale * v.real(), scale * v.imag()});
    return list;
}

/** The error of a cross-section from those of its components. */
void reduceRadar(Finding& finding, bool drawing)
{
    double off = 0;
    for (size_t i = 1; i < finding.error.size(); ++i)
        off = std::hypot(off, finding.error[i]);
    finding.error = {2 * std::sqrt(finding.value[0]) * off + off * off};
    finding.value.resize(1);
    char text[60];
    std::snprintf(text, sizeof text, drawing ? "%.2f dB of 1 m, by depth" : "%.2f dBsm",
                  10 * std::log10(std::max(finding.value[0], 1e-30)));
    finding.note = text;
}

/** Cross-sections in directions all round. */
std::vector<double> radarAround(WaveDrivenSolver& s, int order, double f, int wave)
{
    constexpr int rows = 6;
    std::vector<double> list;
    for (int i = 0; i <= rows; ++i)
        for (int k = 0; k < 2 * rows; ++k)
            list.push_back(radar(s, order, f, wave, directionOf(pi * i / rows, pi * k / rows)));
    return list;
}

}  // namespace

Ask crossSectionAsk(const Model& model, const WaveProblem& problem, const Line& l)
{
    const int wave = problem.planeWaveOf(l.get("of"));
    const double f = model.number(l, "at");
    const std::string kind = model.choice(l, "kind");
    Ask a = beginAsk(model, l, dim::area,
                     kind + " cross-section for " + l.get("of") + " at " + frequencyText(f));
    // Extinction is one part of a complex number, which may agree by chance. The other part errs
    // more, in phase, so that a quarter of it counts.
    // The band model is judged by the same number over the sphere's section.
    a.evaluate = [=](Solution& field, int order) {
        auto& s = solverOf(field);
        const auto c = s.crossSections(order, f, wave);
        return Evaluated({kind == "scattering"   ? c.scattering()
                          : kind == "absorption" ? c.absorption
                                                 : c.extinction,
                          c.extinction, c.reactive, c.absorption},
                         s.verified() * sectionOf(s.problem()));
    };
    // Of next to nothing a hundred-thousandth of the sphere's section counts as all.
    a.scale = [value = a.evaluate](Solution& field, int order) {
        constexpr double nothing = 1e-5;
        return std::max(std::abs(value(field, order)[0]),
                        nothing * sectionOf(solverOf(field).problem()));
    };
    a.reduce = [kind](Finding& finding, const std::any& with) {
        const auto& e = finding.error;
        constexpr double share = 0.25;
        const double onwards = std::max(e[1], share * e[2]) + std::any_cast<double>(with),
                     // What is absorbed errs by the same share at least.
            absorbed = std::abs(finding.value[3]) / std::max(std::abs(finding.value[1]), 1e-300);
        finding.error = {kind == "absorption"   ? std::max(e[3], absorbed * onwards)
                         : kind == "extinction" ? onwards
                                                : onwards + e[3]};
        finding.value.resize(1);
    };
    return a;
}

Ask crossSectionsAsk(const Model& model, const WaveProblem& problem, const Line& l)
{
    const int wave = problem.planeWaveOf(l.get("of"));
    Ask a = beginAsk(model, l, dim::area, "cross-sections for " + l.get("of"));
    a.finding.table = "curves";
    a.evaluate = [wave](Solution& field, int order) {
        auto& s = solverOf(field);
        std::vector<double> list;
        constexpr int places = 11;
        const auto& p = s.problem();
        for (int i = 0; i < places; ++i) {
            const auto c =
                s.crossSections(order, p.low + (p.high - p.low) * i / (places - 1), wave);
            list.insert(list.end(), {c.extinction, c.absorption});
        }
        return list;
    };
    // Of the largest in the band.
    a.scale = [evaluate = a.evaluate](Solution& field, int order) {
        const auto list = evaluate(field, order);
        return *std::max_element(list.begin(), list.end());
    };
    a.curves = [wave](Solution& field) {
        auto& s = solverOf(field);
        std::string csv = "frequency (Hz),scattering (m^2),absorption (m^2),extinction (m^2)\n";
        char text[120];
        for (const double f : s.band()) {
            const auto c = s.crossSections(s.best(), f, wave);
            std::snprintf(text, sizeof text, "%.12g,%.9g,%.9g,%.9g\n", f, c.scattering(),
                          c.absorption, c.extinction);
            csv += text;
        }
        return csv;
    };
    return a;
}

Ask radarAsk(const Model& model, const WaveProblem& problem, const Line& l)
{
    const int wave = problem.planeWaveOf(l.get("of"));
    const double f = model.number(l, "at");
    const bool drawing = model.space() == sheet::Space::plane,
               stated = l.has("theta") || l.has("phi");
    // In drawings the observer stands in their plane.
    const double theta = model.optionalNumber(l, "theta").value_or(drawing ? pi / 2 : 0),
                 phi = model.optionalNumber(l, "phi").value_or(0);
    const Point towards = wave < 0 ? Point{} : problem.planeWaves[size_t(wave)].towards,
                direction = stated ? directionOf(theta, phi) : -1.0 * towards;
    std::string name = "radar cross-section for " + l.get("of") + " at " + frequencyText(f);
    if (stated) {
        char text[80];
        std::snprintf(text, sizeof text, ", theta %.3g°, phi %.3g°", theta * 180 / pi,
                      phi * 180 / pi);
        name += text;
    }
    Ask a = beginAsk(model, l, drawing ? dim::length : dim::area, name);

    a.evaluate = [=](Solution& field, int order) {
        return radarWithParts(solverOf(field), order, f, wave, direction);
    };
    // Between two lobes it may vanish: its accuracy is that of the field, by the mean over all.
    a.scale = [=](Solution& field, int order) {
        auto& s = solverOf(field);
        const auto c = s.crossSections(order, f, wave);
        const double mean = c.scattering() / (drawing ? s.problem().depth() : 1.0);
        return std::max(mean, radar(s, order, f, wave, direction));
    };
    a.reduce = [drawing](Finding& finding, const std::any&) { reduceRadar(finding, drawing); };
    return a;
}

Ask receivedAsk(const Model& model, const WaveProblem& problem, const Line& l)
{
    const int port = problem.portOf(l.get("of")), wave = problem.planeWaveOf(l.get("from"));
    const double f = model.number(l, "at");
    Ask a = beginAsk(
        model, l, dim::power,
        "power received at " + l.get("of") + " from " + l.get("from") + " at " + frequencyText(f));
    a.evaluate = [=](Solution& field, int order) {
        return std::vector{solverOf(field).received(order, f, port, wave)};
    };
    a.reduce = [=](Finding& finding, const std::any&) {
        if (wave < 0)
            return;
        // What a source of unit gain would take.
        const double E = problem.planeWaves[size_t(wave)].field;
        finding.note =
            "an area of " + base::format(finding.value[0] / (E * E / (2 * mu0 * c0)), dim::area, 4);
    };
    return a;
}

Ask scatteredPatternAsk(const Model& model, const WaveProblem& problem, const Line& l)
{
    const int wave = problem.planeWaveOf(l.get("of"));
    const double f = model.number(l, "at");
    const std::string name = l.get("of");
    Ask a = beginAsk(model, l, dim::area, "pattern of " + name + " at " + frequencyText(f));
    a.finding.table = "curves";
    auto values = [=](Solution& field, int order) {
        return radarAround(solverOf(field), order, f, wave);
    };
    a.evaluate = values;
    a.scale = [values](Solution& field, int order) {
        const auto list = values(field, order);
        return *std::max_element(list.begin(), list.end());
    };
    // In decibels of 1 m^2, to sixty below the largest.
    auto levels = [=](Solution& field) {
        auto& s = solverOf(field);
        const auto list = values(field, s.best());
        const double least = 1e-6 * *std::max_element(list.begin(), list.end());
        return [=, &s](double theta, double phi) {
            char text[40];
            const double sigma = radar(s, s.best(), f, wave, directionOf(theta, phi));
            std::snprintf(text, sizeof text, "%.5g", 10 * std::log10(std::max(sigma, least)));
            return std::string(text);
        };
    };
    a.curves = [levels](Solution& field) { return patternCuts("dBsm", levels(field)); };
    a.finding.of = name;
    a.finding.directions = "fields/pattern-" + name + ".csv";
    a.files = [levels, file = a.finding.directions](Solution& field) {
        constexpr int rows = 36;
        return std::vector<std::pair<std::string, std::string>>{
            {file, patternTable("radar cross-section (dBsm)", rows, levels(field))}};
    };
    return a;
}

std::vector<Check> extinctionChecks(const WaveDrivenSolver& s)
{
    std::vector<Check> list;
    const auto& p = s.problem();
    for (size_t w = 0; w < p.planeWaves.size(); ++w) {
        const auto c = s.crossSections(s.order(), p.shown, int(w));
        const double E = p.planeWaves[w].field, byArea = E * E / (2 * mu0 * c0),
                     // Of the whole device; a drawing's by its depth.
            sent = s.scattered(s.order(), p.shown, int(w)).power() / byArea *
                   (p.shell.cylinder ? p.depth() : 1.0),
                     off = std::abs(sent - c.scattering()) / c.extinction;
        char text[200];
        std::snprintf(text, sizeof text,
                      "what %s scatters in all directions and what is absorbed agree with what it "
                      "loses on its way on, to %.1g",
                      p.planeWaves[w].name.c_str(), off);
        constexpr double near = 0.02;
        list.push_back({"extinction",
                        off < near ? Check::State::good : Check::State::warning,
                        text,
                        p.planeWaves[w].line,
                        {}});
    }
    return list;
}

}  // namespace yh::physics
