#include "physics/wave/common/scattering_asks.h"

#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <fstream>

namespace yh::physics {

using network::Network;
using network::readTouchstone;
namespace dim = base::dim;

namespace {

using Complex = std::complex<double>;

/// Range about a frequency in which a port reflects less than a level: its ends, Hz.
std::array<double, 2> matchedRange(const Scattering& s, int order, int channel, double about,
                                   double most, int line)
{
    auto reflects = [&](double f) { return std::abs(s.scattering(order, f)(channel, channel)); };
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
        throw base::Error(7077,
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

}  // namespace

Scattering& ScatteringAsks::scatteringOf(Solution& solution)
{
    if (auto* own = dynamic_cast<Scattering*>(&solution))
        return *own;
    throw base::Error(7016, "a figure was asked of a field that it does not belong to");
}

double ScatteringAsks::frequencyOf(const Line& l)
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

void ScatteringAsks::scattering(const Line& l)
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
        auto& s = scatteringOf(field);
        const int i = s.channelOf(to, modes[1]), j = s.channelOf(from, modes[0]);
        const auto S = s.scattering(order, f)(i, j);
        if (!std::isfinite(std::abs(S))) {
            const bool comes = std::isfinite(std::abs(s.scattering(order, f)(i, i)));
            const int channel = comes ? j : i;
            const auto& p = s.problem().ports[size_t(comes ? from : to)];
            throw base::Error(7075,
                              frequencyText(f) + " is below the cut-off of port " + p.name + ", " +
                                  frequencyText(s.cutoff(size_t(channel), f)),
                              {line, "at", 0});
        }
        return S;
    };
    Ask size = beginAsk(m_model, l, dim::none, "|S| " + name);
    // The error of a magnitude or phase is that of the complex numbers to which the wave goes:
    // by itself any of them may agree between two orders by chance.
    auto withAll = [value, from, mode = modes[0], f](Solution& field, int order,
                                                     double (*part)(const Complex&)) {
        auto& s = scatteringOf(field);
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
        auto list = withAll(field, order, [](const Complex& v) { return std::abs(v); });
        // Where sizes and phases err apart, a phase that is off says nothing of the size.
        if (scatteringOf(field).errsInPhase())
            for (size_t k = 1; k + 1 < list.size(); k += 2) {
                list[k] = std::hypot(list[k], list[k + 1]);
                list[k + 1] = 0;
            }
        return list;
    };
    size.reduce = [largest, isBack = from == to && modes[0] == modes[1]](Finding& finding,
                                                                         const std::any&) {
        finding.error = {largest(finding)};
        finding.value.resize(1);
        char text[64];
        constexpr double least = 1e-6;
        std::snprintf(text, sizeof text, "%s loss %.4g dB", isBack ? "return" : "insertion",
                      -20 * std::log10(std::max(finding.value[0], least)) + 0.0);
        finding.note = text;
    };
    // Of the wave that comes in: a small reflection is small, not inaccurate.
    size.scale = [](Solution&, int) { return 1.0; };
    m_asks.push_back(std::move(size));
    Ask phase = beginAsk(m_model, l, dim::none, "phase of S " + name);
    phase.finding.within = 0;
    phase.finding.below = phase.finding.above = NAN;
    phase.finding.label += ", rad";
    phase.evaluate = [withAll, value](Solution& field, int order) {
        auto list = withAll(field, order, [](const Complex& v) { return std::arg(v); });
        auto& s = scatteringOf(field);
        if (s.errsInPhase()) {
            // By itself, and without whole turns between levels.
            const Complex best = value(field, s.best()), own = value(field, order);
            list = {std::arg(best) + std::arg(own / best), std::abs(own)};
        }
        return Evaluated(std::move(list), s.errsInPhase());
    };
    // An error beside a number of size |S| turns it by at most their ratio, as an angle.
    phase.reduce = [largest](Finding& finding, const std::any& with) {
        const bool isApart = std::any_cast<bool>(with);
        const double off = isApart ? finding.error[1] : largest(finding),
                     whole = isApart ? finding.value[1]
                                     : std::hypot(finding.value[1], finding.value[2]),
                     turned = off < whole ? std::asin(off / whole) : pi;
        finding.error = {std::min(pi, turned + (isApart ? finding.error[0] : 0.0))};
        finding.value.resize(1);
    };
    m_asks.push_back(std::move(phase));
}

void ScatteringAsks::table(const Line& l)
{
    Ask a = beginAsk(m_model, l, dim::none, "S-parameters");
    a.finding.table = "curves";
    // Judged by all of them at some frequencies of the band.
    const double reference = l.has("reference") ? m_model.number(l, "reference") : 0.0;
    a.evaluate = [reference](Solution& field, int order) {
        auto& s = scatteringOf(field);
        // On a grid sizes are judged, as a phase that is off says nothing of them.
        std::vector<double> list;
        constexpr int places = 11;
        for (int i = 0; i < places; ++i) {
            const auto& p = s.problem();
            const double f = p.low + (p.high - p.low) * i / (places - 1);
            const auto S = s.referred(order, f, reference);
            for (const auto& v : S.reshaped()) {
                if (s.errsInPhase())
                    list.push_back(std::isfinite(std::abs(v)) ? std::abs(v) : 0.0);
                else
                    for (const double part : {v.real(), v.imag()})
                        list.push_back(std::isfinite(part) ? part : 0.0);
            }
        }
        return Evaluated(std::move(list), s.errsInPhase());
    };
    a.reduce = [](Finding& finding, const std::any& sizesOnly) {
        if (std::any_cast<bool>(sizesOnly))
            finding.note = "± of |S|; phases err more, as the findings of waves say";
    };
    a.scale = [](Solution&, int) { return 1.0; };
    Comparison with{reference, {}};
    if (l.has("file"))
        with.beside = besideOf(l);
    a.curves = [with](Solution& field) { return scatteringCurves(scatteringOf(field), with); };
    a.files = [with](Solution& field) { return touchstoneFiles(scatteringOf(field), with); };
    m_asks.push_back(std::move(a));
}

std::shared_ptr<const Network> ScatteringAsks::besideOf(const Line& l)
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

void ScatteringAsks::standing(const Line& l)
{
    const int port = m_problem.portOf(l.get("of"));
    const double f = frequencyOf(l);
    if (port < 0)
        return;
    Ask a = beginAsk(m_model, l, dim::none,
                     "standing wave ratio at " + l.get("of") + " at " + frequencyText(f));
    const double reference = m_model.optionalNumber(l, "reference").value_or(0);
    a.evaluate = [port, f, reference, line = l.id](Solution& field, int order) {
        auto& s = scatteringOf(field);
        const auto k = Eigen::Index(s.channelOf(port, 0));
        const double ratio = standingWaveRatio(s.referred(order, f, reference)(k, k));
        if (!(ratio > 0 && std::isfinite(ratio)))
            throw base::Error(7086,
                              "all that comes into port " + s.problem().ports[size_t(port)].name +
                                  " at " + frequencyText(f) +
                                  " is sent back, or nothing travels there",
                              {line, "at", 0});
        return std::vector{ratio};
    };
    m_asks.push_back(std::move(a));
}
void ScatteringAsks::bandwidth(const Line& l)
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
            auto& s = scatteringOf(field);
            std::array<double, 2> range{s.problem().low, s.problem().low};
            try {
                range = matchedRange(s, order, s.channelOf(port, 0), f, most, line);
            } catch (const base::Error&) {
                // An order that serves the error alone may miss the match altogether.
                if (order >= s.best())
                    throw;
            }
            const bool reaches = range[0] == s.problem().low || range[1] == s.problem().high;
            return Evaluated({width ? range[1] - range[0] : (range[0] + range[1]) / 2}, reaches);
        };
        a.reduce = [](Finding& finding, const std::any& with) {
            finding.note = std::any_cast<bool>(with) ? "the range reaches the end of the band" : "";
        };
        if (!width) {
            a.finding.above = NAN;
            a.finding.within = 0;
        }
        m_asks.push_back(std::move(a));
    }
}

void ScatteringAsks::imbalance(const Line& l)
{
    const int from = m_problem.portOf(l.get("from")), one = m_problem.portOf(l.get("of")),
              other = m_problem.portOf(l.get("and"));
    const double f = frequencyOf(l);
    if (from < 0 || one < 0 || other < 0)
        return;
    const int mode = m_model.count(l, "mode") - 1;
    for (const int port : {from, one, other})
        if (const auto& p = m_problem.ports[size_t(port)]; mode >= p.modes) {
            fault(7083, l, "mode",
                  "port " + p.name + " has " + std::to_string(p.modes) +
                      " mode(s); its line says how many count");
            return;
        }
    Ask& a = add(l, dim::none,
                 "imbalance of " + l.get("of") + " over " + l.get("and") + " from " +
                     l.get("from") + (mode > 0 ? ", mode " + std::to_string(mode + 1) : "") +
                     " at " + frequencyText(f) + ", dB");
    a.evaluate = [=, line = l.id](Solution& field, int level) {
        auto& s = scatteringOf(field);
        const auto S = s.scattering(level, f);
        const int in = s.channelOf(from, mode);
        const double x = std::abs(S(s.channelOf(one, mode), in)),
                     y = std::abs(S(s.channelOf(other, mode), in));
        if (!(x > 0 && y > 0 && std::isfinite(x) && std::isfinite(y)))
            throw base::Error(7087, "nothing comes out of one of these ports", {line, "of", 0});
        // What rounding in single precision leaves of two equal ones.
        const double rounding = s.errsInPhase() && level < s.best() ? 1e-4 : 0;
        return std::vector{20 * std::log10(x / y) + rounding};
    };
    // A decibel: an even parting is no inaccurate one.
    a.scale = [](Solution&, int) { return 1.0; };
}

}  // namespace yh::physics
