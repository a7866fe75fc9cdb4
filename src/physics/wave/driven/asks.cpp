#include "physics/wave/driven/asks.h"

#include "base/quantity.h"
#include "physics/common/constants.h"
#include "physics/wave/common/scattering_asks.h"
#include "physics/wave/driven/driven.h"
#include "physics/wave/driven/patterns.h"
#include "physics/wave/driven/plane_wave_asks.h"
#include "physics/wave/driven/resonance.h"
#include "sheet/schema.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <fstream>
#include <limits>
#include <memory>

namespace yh::physics {

using sheet::Line;
namespace dim = base::dim;

namespace {

using Complex = std::complex<double>;

std::string level(double gain)
{
    // What lies this far below an even radiator is nothing.
    constexpr double floor = 1e-6;
    char text[40];
    std::snprintf(text, sizeof text, "%.5g", 10 * std::log10(std::max(gain, floor)));
    return text;
}

class DrivenAsks : public ScatteringAsks
{
public:
    using ScatteringAsks::ScatteringAsks;

    std::vector<Ask> run()
    {
        static const Table<DrivenAsks> table = {{"scattering", &DrivenAsks::scattering},
                                                {"imbalance", &DrivenAsks::imbalance},
                                                {"S-parameters", &DrivenAsks::table},
                                                {"port impedance", &DrivenAsks::impedance},
                                                {"input impedance", &DrivenAsks::inputImpedance},
                                                {"standing wave ratio", &DrivenAsks::standing},
                                                {"bandwidth", &DrivenAsks::bandwidth},
                                                {"loaded Q", &DrivenAsks::loaded},
                                                {"gain", &DrivenAsks::direction},
                                                {"axial ratio", &DrivenAsks::direction},
                                                {"radiation efficiency", &DrivenAsks::radiation},
                                                {"radiated power", &DrivenAsks::radiation},
                                                {"absorbed power", &DrivenAsks::taken},
                                                {"specific absorption rate", &DrivenAsks::taken},
                                                {"pattern", &DrivenAsks::pattern},
                                                {"radar cross-section", &DrivenAsks::scattered},
                                                {"cross-section", &DrivenAsks::scattered},
                                                {"cross-sections", &DrivenAsks::scattered},
                                                {"received power", &DrivenAsks::scattered},
                                                {"profile", &DrivenAsks::profile}};
        return make(
            table, 7073,
            "driven waves; ask for a wave from port to port, S-parameters, an impedance or a gain");
    }

private:
    void profile(const Line& l) { profileOf(l, dim::electricField); }
    using Resonance = physics::DrivenResonance;
    static Resonance nearest(const WaveDrivenSolver& s, int order, double f, int line)
    {
        if (auto r = physics::resonanceNear(s, order, f))
            return *r;
        throw base::Error(
            7079, "the S-parameters of this band show no resonance near " + frequencyText(f),
            {line, "at", 0});
    }
    /// Whether anything but the ports takes power.
    [[nodiscard]] bool losesInside() const
    {
        return m_problem.shell.present ||
               std::any_of(m_problem.sides.begin(), m_problem.sides.end(),
                           [](int side) { return side >= 0; }) ||
               std::any_of(m_problem.activePieces.begin(), m_problem.activePieces.end(),
                           [&](int piece) { return m_problem.takesPower(size_t(piece)); });
    }

    void loaded(const Line& l)
    {
        const double f = frequencyOf(l);
        if (!(m_problem.high > m_problem.low)) {
            m_faults.push_back({7080,
                                {l.id, "at", 0},
                                "a resonance shows in a band only; let the band reach past it to "
                                "both sides",
                                false});
            return;
        }
        auto add = [&](const std::string& name, const base::Dimension& d, bool judged, auto part) {
            Ask a = beginAsk(m_model, l, d, name + " near " + frequencyText(f));
            if (!judged) {
                a.finding.within = 0;
                a.finding.above = a.finding.below = NAN;
            }
            a.evaluate = [f, part, line = l.id](Solution& field, int order) {
                return std::vector{part(nearest(solverOf(field), order, f, line))};
            };
            m_asks.push_back(std::move(a));
        };
        add("loaded Q", dim::none, true, [](const Resonance& r) { return r.loaded; });
        add("frequency of the resonance", dim::frequency, false,
            [](const Resonance& r) { return r.frequency; });
        size_t channel = 0;
        for (const auto& port : m_problem.ports)
            for (int k = 0; k < port.modes; ++k, ++channel)
                add("external Q at " + port.name +
                        (port.modes > 1 ? " " + std::to_string(k + 1) : ""),
                    dim::none, false,
                    [channel](const Resonance& r) { return r.external[channel]; });
        if (losesInside())
            add("unloaded Q", dim::none, false, [](const Resonance& r) { return r.unloaded; });
    }
    void impedance(const Line& l)
    {
        const int port = m_problem.portOf(l.get("of"));
        const double f = frequencyOf(l);
        if (port < 0)
            return;
        Ask a = beginAsk(m_model, l, dim::resistance,
                         "impedance of port " + l.get("of") + " at " + frequencyText(f));
        a.evaluate = [port, f, line = l.id](Solution& field, int order) {
            auto& s = solverOf(field);
            const PortMode& m = s.mode(order, s.channelOf(port, 0));
            const auto& p = s.problem().ports[size_t(port)];
            const double eps = s.problem().portEps(p, f);
            if (m.waveImpedance(f, eps, p.mu).imag() != 0)
                throw base::Error(7075,
                                  frequencyText(f) + " is below the cut-off of port " + p.name +
                                      ", " + frequencyText(m.cutoffFrequency(eps, p.mu)),
                                  {line, "at", 0});
            const bool isLine = m.isLine();
            return std::vector{(isLine ? p.whole : 1.0) * m.impedance(f, eps, p.mu)};
        };
        m_asks.push_back(std::move(a));
    }
    void inputImpedance(const Line& l)
    {
        const int port = m_problem.portOf(l.get("of"));
        const double f = frequencyOf(l);
        if (port < 0)
            return;
        const std::string name = " at " + l.get("of") + " at " + frequencyText(f);
        for (const bool real : {true, false}) {
            Ask a = beginAsk(m_model, l, dim::resistance,
                             (real ? "input resistance" : "input reactance") + name);
            // Both parts tell how far the complex number is off.
            a.evaluate = [port, f, real](Solution& field, int order) {
                const Complex z = solverOf(field).inputImpedance(order, f, port);
                return std::vector{real ? z.real() : z.imag(), real ? z.imag() : z.real()};
            };
            a.reduce = [](Finding& finding, const std::any&) {
                finding.error = {std::hypot(finding.error[0], finding.error[1])};
                finding.value.resize(1);
            };
            a.scale = [port, f](Solution& field, int order) {
                return std::abs(solverOf(field).inputImpedance(order, f, port));
            };
            m_asks.push_back(std::move(a));
        }
    }
    /// Whether pieces take power, by mass or not; says where they do not.
    bool takesPower(const Line& l, const std::vector<int>& pieces, bool byMass)
    {
        for (const int piece : pieces) {
            const auto k = size_t(piece);
            const char* fault =
                std::find(m_problem.activePieces.begin(), m_problem.activePieces.end(), piece) ==
                        m_problem.activePieces.end()
                    ? "metal is not entered by the wave; its walls lose power"
                : byMass && !(m_problem.density[k] > 0)
                    ? "the density of a material here is not known: state it in its "
                      "line, as a constant"
                    : nullptr;
            if (fault) {
                m_faults.push_back({7081, {l.id, "in", 0}, fault, false});
                return false;
            }
        }
        return true;
    }

    /// What media take.
    void taken(const Line& l)
    {
        const double f = frequencyOf(l);
        const bool byMass = l.kind == "specific absorption rate",
                   largest = byMass && m_model.choice(l, "kind") == "largest";
        const auto pieces = m_p.resolve(m_model.place(l, "in"), m_model, {l.id, "in", 0}).pieces;
        if (!takesPower(l, pieces, byMass))
            return;
        const base::Dimension specific = dim::power / (dim::density * dim::length * dim::area);
        Ask a = beginAsk(m_model, l, byMass ? specific : dim::power,
                         std::string(!byMass   ? "power absorbed"
                                     : largest ? "largest specific absorption rate"
                                               : "specific absorption rate") +
                             " in " + l.get("in") + " from " + l.get("from") + " at " +
                             frequencyText(f));
        if (largest)
            a.degree = 1;
        a.evaluate = [=, name = l.get("from")](Solution& field, int order) {
            auto& s = solverOf(field);
            const int drive = s.driveOf(name);
            if (!byMass)
                return std::vector{s.problem().scale * s.absorbed(order, f, drive, pieces)};
            const auto rate = s.specificAbsorption(order, f, drive, pieces);
            return std::vector{largest ? rate.largest : rate.mean};
        };
        m_asks.push_back(std::move(a));
    }
    /// Figures of plane waves.
    void scattered(const Line& l)
    {
        if (l.kind != "cross-sections")
            static_cast<void>(frequencyOf(l));
        if (m_problem.planeWaveOf(l.get(l.kind == "received power" ? "from" : "of")) < 0)
            return;
        if (l.kind == "pattern" && !hasFarField(l))
            return;
        using Make = Ask (*)(const sheet::Model&, const WaveProblem&, const Line&);
        const Make ask = l.kind == "pattern"               ? &scatteredPatternAsk
                         : l.kind == "radar cross-section" ? &radarAsk
                         : l.kind == "cross-section"       ? &crossSectionAsk
                         : l.kind == "cross-sections"      ? &crossSectionsAsk
                                                           : &receivedAsk;
        m_asks.push_back(ask(m_model, m_problem, l));
    }
    /// Says where there is no far field.
    bool hasFarField(const Line& l)
    {
        if (m_problem.shell.present && !m_problem.shell.cylinder)
            return true;
        m_faults.push_back({7076,
                            {l.id, {}, -1},
                            m_problem.shell.present
                                ? "far fields are those of solids and of bodies round an axis"
                                : "a far field needs open space around the device: add the line "
                                  "`open space`",
                            false});
        return false;
    }
    /// A direction in words.
    static std::string place(double t, double p)
    {
        char text[80];
        std::snprintf(text, sizeof text, "theta %.3g°, phi %.3g°", t * 180 / pi, p * 180 / pi);
        return std::string(text);
    }

    /// Decibels, and where a largest value points.
    static void noteDecibels(Finding& finding, const FarField::Peak& towards, bool ratio,
                             bool largest)
    {
        char text[64];
        std::snprintf(text, sizeof text, ratio ? "%.2f dB" : "%.2f dBi",
                      (ratio ? 20 : 10) * std::log10(finding.value[0]));
        finding.note = text;
        if (largest)
            finding.note += " towards " + place(towards.theta, towards.phi);
    }

    void direction(const Line& l)
    {
        const double f = frequencyOf(l);
        if (!hasFarField(l))
            return;
        const bool ratio = l.kind == "axial ratio", largest = !l.has("theta") && !l.has("phi");
        const double theta = m_model.optionalNumber(l, "theta").value_or(0),
                     phi = m_model.optionalNumber(l, "phi").value_or(0);
        const std::string kind = ratio ? "axial ratio" : m_model.choice(l, "kind");

        Ask a = beginAsk(m_model, l, dim::none,
                         (largest && !ratio ? "largest " : "") + kind + " of " + l.get("of") +
                             " at " + frequencyText(f) + (largest ? "" : ", " + place(theta, phi)));
        a.evaluate = [=, name = l.get("of")](Solution& field, int order) {
            auto& s = solverOf(field);
            const int drive = s.driveOf(name);
            const auto far = s.farField(order, f, drive);
            const FarField::Peak towards =
                largest ? far.strongest() : FarField::Peak{theta, phi, 0};
            if (ratio) {
                // Linear polarisation has no finite ratio; a million stands for it.
                constexpr double line = 1e6;
                return Evaluated({std::min(far.axialRatio(towards.theta, towards.phi), line)},
                                 towards);
            }
            const auto p = s.powers(order, f, drive);
            const double per = kind == "directivity" ? far.radiated()
                               : kind == "gain"      ? p.accepted
                                                     : p.offered;
            return Evaluated({4 * pi * far.intensity(towards.theta, towards.phi) / per}, towards);
        };
        a.reduce = [=](Finding& finding, const std::any& with) {
            noteDecibels(finding, std::any_cast<const FarField::Peak&>(with), ratio, largest);
        };
        m_asks.push_back(std::move(a));
    }
    void radiation(const Line& l)
    {
        const double f = frequencyOf(l);
        if (!m_problem.shell.present) {
            hasFarField(l);
            return;
        }
        const bool share = l.kind == "radiation efficiency";
        Ask a = beginAsk(m_model, l, share ? dim::none : dim::power,
                         l.kind + " of " + l.get("of") + " at " + frequencyText(f));
        a.evaluate = [f, share, name = l.get("of")](Solution& field, int order) {
            auto& s = solverOf(field);
            const auto p = s.powers(order, f, s.driveOf(name));
            return std::vector{share ? p.radiated / p.accepted : p.radiated};
        };
        m_asks.push_back(std::move(a));
    }
    /// Gain in all directions, as a file.
    static std::vector<std::pair<std::string, std::string>> gainFile(const WaveDrivenSolver& s,
                                                                     double f,
                                                                     const std::string& name,
                                                                     const std::string& file)
    {
        const int drive = s.driveOf(name);
        const auto far = s.farField(s.order(), f, drive);
        const double accepted = s.powers(s.order(), f, drive).accepted;
        constexpr int rows = 36;
        return std::vector<std::pair<std::string, std::string>>{
            {file, patternTable("gain (dBi)", rows, [&](double theta, double phi) {
                 return level(4 * pi * far.intensity(theta, phi) / accepted);
             })}};
    }

    /// Gains in directions all round.
    static std::vector<double> gainsOf(WaveDrivenSolver& s, int order, double f,
                                       const std::string& name)
    {
        constexpr int rows = 6;
        const int drive = s.driveOf(name);
        const auto far = s.farField(order, f, drive);
        const double accepted = s.powers(order, f, drive).accepted;
        std::vector<double> list;
        for (int i = 0; i <= rows; ++i)
            for (int k = 0; k < 2 * rows; ++k)
                list.push_back(4 * pi * far.intensity(pi * i / rows, pi * k / rows) / accepted);
        return list;
    }

    void pattern(const Line& l)
    {
        if (m_problem.planeWaveOf(l.get("of")) >= 0)
            return scattered(l);
        const double f = frequencyOf(l);
        if (!hasFarField(l))
            return;
        Ask a = beginAsk(m_model, l, dim::none,
                         "pattern of " + l.get("of") + " at " + frequencyText(f));
        a.finding.table = "curves";
        // Judged by the gain in directions all round, of which small ones count by the largest.
        auto gains = [f, name = l.get("of")](Solution& field, int order) {
            return gainsOf(solverOf(field), order, f, name);
        };
        a.evaluate = [gains](Solution& field, int order) { return gains(field, order); };
        a.scale = [gains](Solution& field, int order) {
            const auto list = gains(field, order);
            return *std::max_element(list.begin(), list.end());
        };
        a.curves = [f, name = l.get("of")](Solution& field) {
            auto& s = solverOf(field);
            const int drive = s.driveOf(name);
            const auto far = s.farField(s.order(), f, drive);
            const double accepted = s.powers(s.order(), f, drive).accepted;
            return patternCuts("dBi", [&](double theta, double phi) {
                return level(4 * pi * far.intensity(theta, phi) / accepted);
            });
        };
        a.finding.of = l.get("of");
        a.finding.directions = "fields/pattern-" + a.finding.of + ".csv";
        a.files = [f, name = l.get("of"), file = a.finding.directions](Solution& field) {
            return gainFile(solverOf(field), f, name, file);
        };
        m_asks.push_back(std::move(a));
    }
};

}  // namespace

std::vector<Ask> drivenAsks(const sheet::Model& model, const shape::Partition& partition,
                            const WaveProblem& problem, base::Faults& faults)
{
    return DrivenAsks(model, partition, problem, faults).run();
}

}  // namespace yh::physics
