#include "physics/junction/conditions.h"

#include "base/fault.h"
#include "base/golden.h"
#include "physics/common/constants.h"

#include <algorithm>
#include <cstdio>

namespace yh::physics {

double JunctionConditions::screening(double doping) const
{
    return std::sqrt(material.eps * eps0 * thermal() / (elementary * std::max(doping, ni)));
}

void readSemiconductor(const sheet::Model& model, base::Faults& faults, JunctionConditions& c)
{
    const sheet::Document& d = model.document();
    if (const sheet::Line* l = d.first("semiconductor")) {
        const Semiconductor* known = findSemiconductor(l->get("material"));
        c.material = known ? *known : semiconductors()[0];
        c.temperature = model.number(*l, "temperature");
        c.ni = l->has("ni") ? model.number(*l, "ni") : c.material.intrinsic(c.temperature);
        constexpr double low = 150, high = 600;
        if (c.temperature < low || c.temperature > high)
            faults.push_back({7700,
                              {l->id, "temperature", 0},
                              "from 150 K to 600 K all dopants are ionised and these data hold"});
    }
    if (const sheet::Line* l = d.first("recombination"))
        c.auger = c.radiative = !l->get("of").ends_with("only");
}

void readBias(const sheet::Model& model, const sheet::Line& l, base::Faults& faults,
              JunctionConditions& c)
{
    c.from = model.number(l, "from");
    c.to = model.number(l, "to");
    c.steps = model.count(l, "steps");
    constexpr double most = 1000;
    constexpr int points = 2000;
    auto fault = [&](int number, const char* key, const char* text) {
        faults.push_back({number, {l.id, key, 0}, text});
    };
    if (c.steps < 2 || c.steps > points)
        fault(7701, "steps", "from 2 to 2000 points make a curve");
    if (c.from == c.to)
        fault(7702, "to", "the curve ends where it begins");
    if (std::abs(c.from) > most || std::abs(c.to) > most)
        fault(7703, "to", "at most 1000 V: breakdown is not part of this");
}

std::string semiconductorText(const JunctionConditions& c)
{
    char text[160];
    std::snprintf(text, sizeof text,
                  "%s at %.5g K: intrinsic density %.4g /cm³, gap %.4g eV; thermal voltage %.4g mV",
                  c.material.name.c_str(), c.temperature, c.ni * 1e-6,
                  c.material.gapAt(c.temperature), 1e3 * c.thermal());
    return text;
}

double JunctionCurves::slope(double bias, const std::function<double(double)>& f) const
{
    const double h = 0.05 * conditions().thermal();
    return (8 * (f(bias + h) - f(bias - h)) - (f(bias + 2 * h) - f(bias - 2 * h))) / (12 * h);
}

double JunctionCurves::capacitance(int level, double bias) const
{
    return std::abs(slope(bias, [&](double v) { return grid(level).holeCharge(v, progress()); }));
}

double JunctionCurves::openVoltage(int level) const
{
    const double lit = current(level, 0);
    if (lit == 0)
        throw base::Error(7711, "nothing is generated: a dark device has no voltage of its own");
    // The current grows with the voltage: outwards until its sign turns, then between.
    const double step = lit < 0 ? 0.1 : -0.1;
    double a = 0, b = step;
    constexpr double most = 3;
    while ((current(level, b) < 0) == (lit < 0)) {
        a = b;
        b += step;
        if (std::abs(b) > most)
            throw base::Error(7712, "no voltage up to 3 V stops the current");
    }
    double fa = current(level, a), fb = current(level, b);
    for (int i = 0; i < 60 && std::abs(b - a) > 1e-13; ++i) {
        // Regula falsi, Illinois.
        const double c = (a * fb - b * fa) / (fb - fa), fc = current(level, c);
        if (fc == 0)
            return c;
        if ((fc < 0) == (fb < 0)) {
            fa *= 0.5;
        } else {
            a = b;
            fa = fb;
        }
        b = c;
        fb = fc;
    }
    return b;
}

JunctionCurves::Power JunctionCurves::largestPower(int level) const
{
    const double open = openVoltage(level), shorted = current(level, 0);
    auto given = [&](double v) { return -v * current(level, v); };
    constexpr int steps = 45;
    const double v = base::leastAt([&](double bias) { return -given(bias); }, std::min(0.0, open),
                                   std::max(0.0, open), steps),
                 p = given(v);
    return {p, v, p / std::abs(open * shorted)};
}

}  // namespace yh::physics
