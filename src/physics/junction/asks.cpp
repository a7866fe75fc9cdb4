#include "physics/junction/asks.h"

#include <cmath>
#include <cstdio>

namespace yh::physics {

using sheet::Line;
namespace dim = base::dim;

void JunctionAsks::figure(Ask& ask, Value value)
{
    ask.evaluate = [value = std::move(value)](Solution& field, int level) {
        const auto& s = curvesOf(field);
        return std::vector{s.estimate(level, [&](int grid) { return value(s, grid); })};
    };
}

/// A curve judged by its points, each relative to its own size.
void JunctionAsks::table(const Line& l, const std::string& name, const ValueAt& value,
                         std::string (*csv)(const JunctionCurves&))
{
    Ask a = beginAsk(m_model, l, dim::none, name);
    a.finding.table = "curves";
    a.evaluate = [value](Solution& field, int level) {
        const auto& s = curvesOf(field);
        std::vector<double> list;
        for (int i = 0; i < s.conditions().steps; ++i) {
            // What is nothing without a bias has no relative size.
            const double bias = s.conditions().biasOf(i), best = value(s, s.finest(), bias);
            list.push_back(std::abs(bias) > 1e-9 && best != 0
                               ? s.estimate(level, [&](int grid) { return value(s, grid, bias); }) /
                                     best
                               : 1.0);
        }
        return list;
    };
    a.scale = [](Solution&, int) { return 1.0; };
    a.curves = [csv](Solution& field) { return csv(curvesOf(field)); };
    m_asks.push_back(std::move(a));
}

void JunctionAsks::curve(const Line& l)
{
    table(
        l, "current over voltage",
        [](const JunctionCurves& s, int level, double v) { return s.current(level, v); },
        [](const JunctionCurves& s) {
            std::string csv = "V (V),I (A),abs(I) (A)\n";
            char row[96];
            for (int i = 0; i < s.conditions().steps; ++i) {
                const double v = s.conditions().biasOf(i), I = s.current(s.finest(), v);
                if (I != 0 && std::abs(v) > 1e-9)
                    std::snprintf(row, sizeof row, "%.9g,%.9g,%.9g\n", v, I, std::abs(I));
                else
                    std::snprintf(row, sizeof row, "%.9g,%.9g,\n", v, I);
                csv += row;
            }
            return csv;
        });
}

void JunctionAsks::capacitanceCurve(const Line& l)
{
    table(
        l, "capacitance over voltage",
        [](const JunctionCurves& s, int level, double v) { return s.capacitance(level, v); },
        [](const JunctionCurves& s) {
            std::string csv = "V (V),C (F),1/C^2 (1/F^2)\n";
            char row[96];
            for (int i = 0; i < s.conditions().steps; ++i) {
                const double v = s.conditions().biasOf(i), C = s.capacitance(s.finest(), v);
                std::snprintf(row, sizeof row, "%.9g,%.9g,%.9g\n", v, C, 1 / (C * C));
                csv += row;
            }
            return csv;
        });
}

void JunctionAsks::current(const Line& l)
{
    const double v = m_model.number(l, "at");
    figure(add(l, dim::current, "current at " + l.get("at")),
           [v](const JunctionCurves& s, int level) { return s.current(level, v); });
}

void JunctionAsks::ideality(const Line& l)
{
    const double v = m_model.number(l, "at");
    if (std::abs(v) < m_problem.thermal()) {
        fault(7714, l, "at",
              "below the thermal voltage a current does not rise exponentially: state a larger "
              "one");
        return;
    }
    figure(add(l, dim::none, "ideality factor at " + l.get("at")),
           [v](const JunctionCurves& s, int level) {
               const double slope = s.slope(
                   v, [&](double bias) { return std::log(std::abs(s.current(level, bias))); });
               return 1 / (s.conditions().thermal() * std::abs(slope));
           });
}

void JunctionAsks::capacitance(const Line& l)
{
    const double v = m_model.number(l, "at");
    figure(
        add(l, dim::capacitance, "junction capacitance at " + (l.has("at") ? l.get("at") : "0 V")),
        [v](const JunctionCurves& s, int level) { return s.capacitance(level, v); });
}

void JunctionAsks::builtIn(const Line& l)
{
    figure(add(l, dim::voltage, "built-in voltage"),
           [](const JunctionCurves& s, int level) { return s.grid(level).builtIn(s.progress()); });
}

bool JunctionAsks::isLit(const Line& l)
{
    if (!m_problem.isLit)
        fault(7711, l, {},
              "nothing is generated: a dark device has no voltage of its own; add `generating …` "
              "to a layer or to a doped region");
    return m_problem.isLit;
}

void JunctionAsks::open(const Line& l)
{
    if (isLit(l))
        figure(add(l, dim::voltage, "open-circuit voltage"),
               [](const JunctionCurves& s, int level) { return s.openVoltage(level); });
}

void JunctionAsks::power(const Line& l)
{
    if (!isLit(l))
        return;
    figure(add(l, dim::power, "largest power"),
           [](const JunctionCurves& s, int level) { return s.largestPower(level).power; });
    Ask& v = add(l, dim::voltage, "voltage of largest power");
    v.finding.within = 0;
    figure(v, [](const JunctionCurves& s, int level) { return s.largestPower(level).voltage; });
    Ask& f = add(l, dim::none, "fill factor");
    f.finding.within = 0;
    figure(f, [](const JunctionCurves& s, int level) { return s.largestPower(level).fill; });
}

}  // namespace yh::physics
