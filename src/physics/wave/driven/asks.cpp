#include "physics/wave/driven/asks.h"

#include "base/quantity.h"
#include "network/touchstone.h"
#include "physics/common/ask_maker.h"
#include "physics/common/constants.h"
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

using network::Network;
using network::readTouchstone;
using network::renormalised;
using network::Touchstone;
using network::writeTouchstone;
using sheet::Line;
namespace dim = base::dim;

namespace {

using Complex = std::complex<double>;

/// S of a channel pair in a table or file: with the mode's number where its port has several.
std::string channelName(const WaveDrivenSolver& s, size_t channel)
{
    const auto& c = s.channels()[channel];
    const auto& port = s.problem().ports[size_t(c.port)];
    return port.modes > 1 ? port.name + std::to_string(c.mode + 1) : port.name;
}

/// What a table of S-parameters refers to and is compared with.
struct Comparison
{
    double reference = 0;                   ///< ohm, of all ports; 0: their own impedances
    std::shared_ptr<const Network> beside;  ///< from a file
};

/// V over I of a channel, ohm: that of the whole line or source; of TE and TM modes E over H.
double impedanceOf(const WaveDrivenSolver& s, int order, size_t channel, double f)
{
    const auto& c = s.channels()[channel];
    const auto& port = s.problem().ports[size_t(c.port)];
    const PortMode& m = s.mode(order, int(channel));
    const bool isLine = m.isLine();
    return (isLine ? port.whole : 1.0) * m.impedance(f, s.problem().portEps(port, f), port.mu);
}

/// S at a frequency as a table shows it; nothing where a channel does not propagate and its
/// impedance would be needed.
Eigen::MatrixXcd referred(const WaveDrivenSolver& s, int order, double f, double reference)
{
    Eigen::MatrixXcd S = s.scattering(order, f);
    if (reference <= 0)
        return S;
    if (!S.allFinite()) {
        S.setConstant(std::numeric_limits<double>::quiet_NaN());
        return S;
    }
    Eigen::VectorXd own(S.rows());
    for (Eigen::Index k = 0; k < own.size(); ++k)
        own(k) = impedanceOf(s, order, size_t(k), f);
    return renormalised(S, own, Eigen::VectorXd::Constant(own.size(), reference));
}

/// Largest over least voltage along a line, by its reflection. Source: Pozar, Microwave
/// Engineering, section 2.3 (from memory).
double standingWaveRatio(const Complex& S)
{
    return (1 + std::abs(S)) / (1 - std::abs(S));
}

/// Over the band, for all pairs: |S| in dB, phase in degrees, group delay, what a file says in dB,
/// and the complex numbers.
std::string curves(const WaveDrivenSolver& s, const Comparison& with)
{
    const auto n = Eigen::Index(s.channels().size());
    std::string csv = "frequency (Hz)";
    auto heads = [&](const std::string& title) {
        for (Eigen::Index to = 0; to < n; ++to)
            for (Eigen::Index from = 0; from < n; ++from)
                csv += "," + channelName(s, size_t(from)) + " to " + channelName(s, size_t(to)) +
                       title;
    };
    heads(" (dB)");
    if (with.beside)
        heads(" in file (dB)");
    for (const char* title : {" phase (deg)", " delay (s)", "_re (1)", "_im (1)"})
        heads(title);
    for (Eigen::Index k = 0; k < n; ++k)
        csv += "," + channelName(s, size_t(k)) + " standing wave ratio (1)";
    csv += "\n";
    char text[40];
    auto numbers = [&](const Eigen::MatrixXcd& S, auto part) {
        for (Eigen::Index to = 0; to < n; ++to)
            for (Eigen::Index from = 0; from < n; ++from) {
                const double v = part(S(to, from));
                std::snprintf(text, sizeof text, ",%.9g", v);
                csv += std::isfinite(v) ? text : ",";
            }
    };
    auto decibels = [](const Complex& v) { return 20 * std::log10(std::abs(v)); };
    constexpr double step = 1e-6;
    for (const double f : s.band()) {
        const Eigen::MatrixXcd S = referred(s, s.best(), f, with.reference);
        std::snprintf(text, sizeof text, "%.12g", f);
        csv += text;
        numbers(S, decibels);
        if (with.beside)
            numbers(with.beside->at(f), decibels);
        numbers(S, [](const Complex& v) { return std::arg(v) * 180 / pi; });
        // Minus the slope of the phase by the angular frequency.
        const Eigen::MatrixXcd slope = (referred(s, s.best(), f * (1 + step), with.reference) -
                                        referred(s, s.best(), f * (1 - step), with.reference)) /
                                       (2 * step * f);
        numbers(-(slope.cwiseQuotient(S)) / (2 * pi), [](const Complex& v) { return v.imag(); });
        numbers(S, [](const Complex& v) { return v.real(); });
        numbers(S, [](const Complex& v) { return v.imag(); });
        for (Eigen::Index k = 0; k < n; ++k) {
            // Where all comes back it has no limit.
            constexpr double most = 1e4;
            const double ratio = standingWaveRatio(S(k, k));
            std::snprintf(text, sizeof text, ",%.9g", ratio);
            csv += ratio > 0 && ratio < most ? text : ",";
        }
        csv += "\n";
    }
    return csv;
}

/// The S-parameters over the band where all ports propagate.
std::vector<std::pair<std::string, std::string>> touchstoneFiles(const WaveDrivenSolver& s,
                                                                 const Comparison& with)
{
    Network out;
    for (size_t k = 0; k < s.channels().size(); ++k)
        out.ports.push_back(channelName(s, k));
    constexpr double nominal = 50;
    out.reference.assign(out.ports.size(), with.reference > 0 ? with.reference : nominal);
    for (const double f : s.band())
        if (Eigen::MatrixXcd S = referred(s, s.best(), f, with.reference); S.allFinite()) {
            out.frequency.push_back(f);
            out.S.push_back(std::move(S));
        }
    std::vector<std::string> remarks{"Yellowhorn " YH_VERSION ": S-parameters"};
    std::string plain = "S-parameters";
    if (with.reference <= 0) {
        remarks[0] += ", each channel referred to the impedance of its own guide or source";
        remarks.push_back("the resistance of the option line is nominal");
    }
    std::vector<std::pair<std::string, std::string>> files{
        {plain + ".s" + std::to_string(out.ports.size()) + "p",
         writeTouchstone(out, Touchstone::version1, remarks)}};
    // The second version names the resistance of every port; those of lines hardly vary.
    if (with.reference <= 0 && !out.frequency.empty()) {
        remarks.pop_back();
        for (size_t k = 0; k < out.ports.size(); ++k)
            out.reference[k] = impedanceOf(s, s.best(), k, out.frequency[out.frequency.size() / 2]);
        remarks.push_back("references are those in the middle of the band");
    }
    files.push_back({plain + ".ts", writeTouchstone(out, Touchstone::version2, remarks)});
    return files;
}

std::string level(double gain)
{
    // What lies this far below an even radiator is nothing.
    constexpr double floor = 1e-6;
    char text[40];
    std::snprintf(text, sizeof text, "%.5g", 10 * std::log10(std::max(gain, floor)));
    return text;
}

class DrivenAsks : public AskMaker<WaveProblem>
{
public:
    using AskMaker::AskMaker;

    std::vector<Ask> run()
    {
        static const Table<DrivenAsks> table = {{"scattering", &DrivenAsks::scattering},
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
    /// The frequency of an ask; it must lie in the band.
    double frequencyOf(const Line& l)
    {
        const double f = m_model.number(l, "at");
        constexpr double slack = 1e-9;
        if (f < m_problem.low * (1 - slack) || f > m_problem.high * (1 + slack))
            m_faults.push_back({7074,
                                {l.id, "at", 0},
                                frequencyText(f) + " lies outside the band from " +
                                    frequencyText(m_problem.low) + " to " +
                                    frequencyText(m_problem.high),
                                false});
        return f;
    }
    void scattering(const Line& l)
    {
        const int from = m_problem.portOf(l.get("from")), to = m_problem.portOf(l.get("to"));
        const double f = frequencyOf(l);
        if (from < 0 || to < 0)
            return;
        std::array<int, 2> modes{};
        auto named = [&](size_t which, int port, const char* key, const char* modeKey) {
            const int mode = l.has(modeKey) ? m_model.count(l, modeKey) : 1,
                      count = m_problem.ports[size_t(port)].modes;
            if (mode > count)
                m_faults.push_back({7083,
                                    {l.id, modeKey, 0},
                                    "port " + l.get(key) + " has " + std::to_string(count) +
                                        " mode(s); its line says how many count",
                                    false});
            modes[which] = mode - 1;
            return l.get(key) + (mode > 1 || l.has(modeKey) ? std::to_string(mode) : "");
        };
        const std::string name = named(0, from, "from", "fromMode") + " to " +
                                 named(1, to, "to", "toMode") + " at " + frequencyText(f);
        auto value = [from, to, modes, f, line = l.id](Solution& field, int order) {
            auto& s = solverOf(field);
            const int i = s.channelOf(to, modes[1]), j = s.channelOf(from, modes[0]);
            const auto S = s.scattering(order, f)(i, j);
            if (!std::isfinite(std::abs(S))) {
                const bool comes = std::isfinite(std::abs(s.scattering(order, f)(i, i)));
                const int port = comes ? from : to;
                const auto& p = s.problem().ports[size_t(port)];
                throw base::Error(
                    7075,
                    frequencyText(f) + " is below the cut-off of port " + p.name + ", " +
                        frequencyText(s.mode(s.order(), s.channelOf(port, modes[comes ? 0 : 1]))
                                          .cutoffFrequency(s.problem().portEps(p, f), p.mu)),
                    {line, "at", 0});
            }
            return S;
        };
        Ask size = beginAsk(m_model, l, dim::none, "|S| " + name);
        // The error of a magnitude or phase is that of the complex numbers to which the wave goes:
        // by itself any of them may agree between two orders by chance.
        auto withAll = [value, from, mode = modes[0], f](Solution& field, int order,
                                                         double (*part)(const Complex&)) {
            auto& s = solverOf(field);
            const auto S = s.scattering(order, f);
            const Complex own = value(field, order);
            std::vector<double> list{part(own), own.real(), own.imag()};
            for (Eigen::Index i = 0; i < S.rows(); ++i)
                if (const Complex v = S(i, s.channelOf(from, mode)); std::isfinite(std::abs(v))) {
                    list.push_back(v.real());
                    list.push_back(v.imag());
                }
            return list;
        };
        auto largest = [](const Finding& finding) {
            double most = 0;
            for (size_t k = 1; k + 1 < finding.error.size(); k += 2)
                most = std::max(most, std::hypot(finding.error[k], finding.error[k + 1]));
            return most;
        };
        size.evaluate = [withAll](Solution& field, int order) {
            return withAll(field, order, [](const Complex& v) { return std::abs(v); });
        };
        size.reduce = [largest](Finding& finding, const std::any&) {
            finding.error = {largest(finding)};
            finding.value.resize(1);
        };
        // Of the wave that comes in: a small reflection is small, not inaccurate.
        size.scale = [](Solution&, int) { return 1.0; };
        m_asks.push_back(std::move(size));
        Ask phase = beginAsk(m_model, l, dim::none, "phase of S " + name);
        phase.finding.within = 0;
        phase.finding.below = phase.finding.above = NAN;
        phase.finding.label += ", rad";
        phase.evaluate = [withAll](Solution& field, int order) {
            return withAll(field, order, [](const Complex& v) { return std::arg(v); });
        };
        // An error beside a number of size |S| turns it by at most their ratio, as an angle.
        phase.reduce = [largest](Finding& finding, const std::any&) {
            const double off = largest(finding),
                         whole = std::hypot(finding.value[1], finding.value[2]);
            finding.error = {off < whole ? std::asin(off / whole) : pi};
            finding.value.resize(1);
        };
        m_asks.push_back(std::move(phase));
    }
    using Resonance = physics::DrivenResonance;
    static Resonance nearest(const WaveDrivenSolver& s, int order, double f, int line)
    {
        if (auto r = physics::resonanceNear(s, order, f))
            return *r;
        throw base::Error(
            7079, "the S-parameters of this band show no resonance near " + frequencyText(f),
            {line, "at", 0});
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
        const bool lossy =
            m_problem.shell.present ||
            std::any_of(m_problem.sides.begin(), m_problem.sides.end(),
                        [](int side) { return side >= 0; }) ||
            std::any_of(m_problem.activePieces.begin(), m_problem.activePieces.end(),
                        [&](int piece) { return m_problem.takesPower(size_t(piece)); });
        if (lossy)
            add("unloaded Q", dim::none, false, [](const Resonance& r) { return r.unloaded; });
    }
    void table(const Line& l)
    {
        Ask a = beginAsk(m_model, l, dim::none, "S-parameters");
        a.finding.table = "curves";
        // Judged by all of them at some frequencies of the band.
        const double reference = l.has("reference") ? m_model.number(l, "reference") : 0.0;
        a.evaluate = [reference](Solution& field, int order) {
            auto& s = solverOf(field);
            std::vector<double> list;
            constexpr int places = 11;
            for (int i = 0; i < places; ++i) {
                const auto& p = s.problem();
                const double f = p.low + (p.high - p.low) * i / (places - 1);
                const auto S = referred(s, order, f, reference);
                for (const auto& v : S.reshaped())
                    for (const double part : {v.real(), v.imag()})
                        list.push_back(std::isfinite(part) ? part : 0.0);
            }
            return list;
        };
        a.scale = [](Solution&, int) { return 1.0; };
        Comparison with{reference, {}};
        if (l.has("file"))
            with.beside = besideOf(l);
        a.curves = [with](Solution& field) { return curves(solverOf(field), with); };
        a.files = [with](Solution& field) { return touchstoneFiles(solverOf(field), with); };
        m_asks.push_back(std::move(a));
    }
    /// The network in a file that a line names.
    std::shared_ptr<const Network> besideOf(const Line& l)
    {
        const std::string file = l.get("file");
        auto fault = [&](int number, const std::string& text) {
            m_faults.push_back({number, {l.id, "file", -1}, text, false});
            return nullptr;
        };
        std::ifstream in(m_p.pathOf(file));
        if (!in)
            return fault(7215, "the file " + file + " cannot be read");
        const std::string text{std::istreambuf_iterator<char>(in), {}};
        int ports = 0;
        // The ending says how many there are: .s2p
        if (const auto dot = file.rfind('.'); dot != std::string::npos)
            if (std::sscanf(file.c_str() + dot, ".%*1[sS]%d", &ports) != 1)
                ports = 0;
        size_t channels = 0;
        for (const auto& p : m_problem.ports)
            channels += size_t(p.modes);
        try {
            auto network = std::make_shared<Network>(readTouchstone(text, ports));
            if (network->ports.size() != channels)
                return fault(7216, file + " holds " + std::to_string(network->ports.size()) +
                                       " ports; the sheet has " + std::to_string(channels) +
                                       " channels");
            return network;
        } catch (const base::Error& e) {
            return fault(e.fault().number, e.fault().text);
        }
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
    void standing(const Line& l)
    {
        const int port = m_problem.portOf(l.get("of"));
        const double f = frequencyOf(l);
        if (port < 0)
            return;
        Ask a = beginAsk(m_model, l, dim::none,
                         "standing wave ratio at " + l.get("of") + " at " + frequencyText(f));
        const double reference = m_model.optionalNumber(l, "reference").value_or(0);
        a.evaluate = [port, f, reference, line = l.id](Solution& field, int order) {
            auto& s = solverOf(field);
            const auto k = Eigen::Index(s.channelOf(port, 0));
            const double ratio = standingWaveRatio(referred(s, order, f, reference)(k, k));
            if (!(ratio > 0 && std::isfinite(ratio)))
                throw base::Error(7086,
                                  "all that comes into port " +
                                      s.problem().ports[size_t(port)].name + " at " +
                                      frequencyText(f) + " is sent back, or nothing travels there",
                                  {line, "at", 0});
            return std::vector{ratio};
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
    /// Range about a frequency in which a port reflects less than a level: its ends, Hz.
    static std::array<double, 2> matchedRange(const WaveDrivenSolver& s, int order, int channel,
                                              double about, double most, int line)
    {
        auto reflects = [&](double f) {
            return std::abs(s.scattering(order, f)(channel, channel));
        };
        const double low = s.problem().low, high = s.problem().high;
        constexpr int steps = 400;
        auto place = [&](int i) { return low + (high - low) * i / steps; };
        // The nearest frequency of the band that is matched.
        int start = -1;
        double least = 1;
        for (int i = 0; i <= steps; ++i) {
            const double now = reflects(place(i));
            least = std::min(least, now);
            if (now < most &&
                (start < 0 || std::abs(place(i) - about) < std::abs(place(start) - about)))
                start = i;
        }
        if (start < 0)
            throw base::Error(
                7077,
                "the return loss is nowhere above that; its largest value in the band "
                "is " +
                    std::to_string(-20 * std::log10(least)).substr(0, 5) + " dB",
                {line, "loss", 0});
        auto edge = [&](int way) {
            int i = start;
            while (i + way >= 0 && i + way <= steps && reflects(place(i + way)) < most)
                i += way;
            if (i + way < 0 || i + way > steps)
                return place(i);
            double in = place(i), out = place(i + way);
            for (int k = 0; k < 30; ++k)
                (reflects((in + out) / 2) < most ? in : out) = (in + out) / 2;
            return (in + out) / 2;
        };
        return {edge(-1), edge(1)};
    }
    void bandwidth(const Line& l)
    {
        const int port = m_problem.portOf(l.get("of"));
        const double f = frequencyOf(l), most = std::pow(10, -m_model.number(l, "loss") / 20);
        if (port < 0)
            return;
        const std::string name = " at " + l.get("of") + " about " + frequencyText(f);
        for (const bool width : {true, false}) {
            Ask a = beginAsk(m_model, l, dim::frequency,
                             (width ? "bandwidth" : "middle of the band") + name);
            a.evaluate = [=, line = l.id](Solution& field, int order) {
                auto& s = solverOf(field);
                std::array<double, 2> range{s.problem().low, s.problem().low};
                try {
                    range = matchedRange(s, order, s.channelOf(port, 0), f, most, line);
                } catch (const base::Error&) {
                    // An order that serves the error alone may miss the match altogether.
                    if (order >= s.order())
                        throw;
                }
                const bool reaches = range[0] == s.problem().low || range[1] == s.problem().high;
                return Evaluated({width ? range[1] - range[0] : (range[0] + range[1]) / 2},
                                 reaches);
            };
            a.reduce = [](Finding& finding, const std::any& with) {
                finding.note =
                    std::any_cast<bool>(with) ? "the range reaches the end of the band" : "";
            };
            if (!width) {
                a.finding.above = NAN;
                a.finding.within = 0;
            }
            m_asks.push_back(std::move(a));
        }
    }
    /// What media take.
    void taken(const Line& l)
    {
        const double f = frequencyOf(l);
        const bool byMass = l.kind == "specific absorption rate",
                   largest = byMass && m_model.choice(l, "kind") == "largest";
        const auto pieces = m_p.resolve(m_model.place(l, "in"), m_model, {l.id, "in", 0}).pieces;
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
                return;
            }
        }
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
    void direction(const Line& l)
    {
        const double f = frequencyOf(l);
        if (!hasFarField(l))
            return;
        const bool ratio = l.kind == "axial ratio", largest = !l.has("theta") && !l.has("phi");
        const double theta = m_model.optionalNumber(l, "theta").value_or(0),
                     phi = m_model.optionalNumber(l, "phi").value_or(0);
        const std::string kind = ratio ? "axial ratio" : m_model.choice(l, "kind");
        auto place = [](double t, double p) {
            char text[80];
            std::snprintf(text, sizeof text, "theta %.3g°, phi %.3g°", t * 180 / pi, p * 180 / pi);
            return std::string(text);
        };
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
            char text[64];
            std::snprintf(text, sizeof text, ratio ? "%.2f dB" : "%.2f dBi",
                          (ratio ? 20 : 10) * std::log10(finding.value[0]));
            finding.note = text;
            const auto& towards = std::any_cast<const FarField::Peak&>(with);
            if (largest)
                finding.note += " towards " + place(towards.theta, towards.phi);
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
        auto gains = [f, name = l.get("of")](Solution& field, int order, int rows) {
            auto& s = solverOf(field);
            const int drive = s.driveOf(name);
            const auto far = s.farField(order, f, drive);
            const double accepted = s.powers(order, f, drive).accepted;
            std::vector<double> list;
            for (int i = 0; i <= rows; ++i)
                for (int k = 0; k < 2 * rows; ++k)
                    list.push_back(4 * pi * far.intensity(pi * i / rows, pi * k / rows) / accepted);
            return list;
        };
        a.evaluate = [gains](Solution& field, int order) { return gains(field, order, 6); };
        a.scale = [gains](Solution& field, int order) {
            const auto list = gains(field, order, 6);
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
            auto& s = solverOf(field);
            const int drive = s.driveOf(name);
            const auto far = s.farField(s.order(), f, drive);
            const double accepted = s.powers(s.order(), f, drive).accepted;
            constexpr int rows = 36;
            return std::vector<std::pair<std::string, std::string>>{
                {file, patternTable("gain (dBi)", rows, [&](double theta, double phi) {
                     return level(4 * pi * far.intensity(theta, phi) / accepted);
                 })}};
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
