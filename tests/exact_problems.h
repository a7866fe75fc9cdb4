// Problems with exact answers, shared by the tests of figures and of error bars. Sources are named
// beside each; all formulas are from memory.
#pragma once

#include "run/run.h"
#include "sheet/document.h"

#include <cmath>
#include <functional>
#include <string>
#include <vector>

namespace yh::test {

using sheet::Document;
inline constexpr double eps0 = 8.8541878128e-12;
inline constexpr double pi = 3.14159265358979323846;

struct Exact
{
    std::string name;
    std::string source;
    double value;    ///< SI
    Document sheet;  ///< one ask; "within" is set by the test
};

inline Document sheetOf(const std::string& space, const std::string& outer)
{
    Document d;
    d.add("space", {{"type", space}, {"depth", "1 m"}});
    d.add("outer edge", {{"is", outer}});
    return d;
}

/// Inner disc (electrode A, 1 V) in an outer one whose rim is electrode B; plane or spheres.
inline Document coaxial(const std::string& space, const std::string& a, const std::string& b,
                        const std::string& offset = "0 mm")
{
    Document d = sheetOf(space, "insulated");
    d.add("disc", {{"name", "gap"}, {"radius", b}});
    d.add("disc", {{"name", "core"}, {"radius", a}, {"at", offset + ", 0"}});
    d.add("material", {{"material", "vacuum"}, {"in", "gap"}});
    d.add("electrode", {{"name", "A"}, {"voltage", "1 V"}, {"on", "core"}});
    d.add(
        "electrode",
        {{"name", "B"}, {"voltage", "0 V"}, {"on", space == "plane" ? "gap.outer" : "gap.outer"}});
    return d;
}

inline Document with(Document d, const std::string& kind, std::map<std::string, std::string> values)
{
    d.add(kind, std::move(values));
    return d;
}

inline Document capacitanceAB(Document d)
{
    return with(std::move(d), "capacitance", {{"from", "A"}, {"to", "B"}});
}
inline Document capacitanceA(Document d)
{
    return with(std::move(d), "capacitance", {{"from", "A"}});
}

inline Document isolated(std::map<std::string, std::string> shape, const std::string& kind)
{
    Document d = sheetOf("axisymmetric", "open space");
    shape["name"] = "body";
    d.add(kind, shape);
    d.add("electrode", {{"name", "A"}, {"voltage", "1 V"}, {"on", "body"}});
    return capacitanceA(d);
}

inline Document plates(const std::string& lowerEps, const std::string& upperEps)
{
    Document d = sheetOf("plane", "insulated");
    d.add("rectangle",
          {{"name", "low"}, {"width", "4 mm"}, {"height", "1 mm"}, {"at", "0, 0.5 mm"}});
    d.add("rectangle",
          {{"name", "high"}, {"width", "4 mm"}, {"height", "2 mm"}, {"at", "0, 2 mm"}});
    d.add("material", {{"material", "lower"}, {"in", "low"}, {"eps", lowerEps}});
    d.add("material", {{"material", "upper"}, {"in", "high"}, {"eps", upperEps}});
    d.add("electrode", {{"name", "A"}, {"voltage", "1 V"}, {"on", "low.bottom"}});
    d.add("electrode", {{"name", "B"}, {"voltage", "0 V"}, {"on", "high.top"}});
    return d;
}

inline Document wires(const std::string& radius, const std::string& half)
{
    Document d = sheetOf("plane", "open space");
    d.add("disc", {{"name", "left"}, {"radius", radius}, {"at", "-" + half + ", 0"}});
    d.add("disc", {{"name", "right"}, {"radius", radius}, {"at", half + ", 0"}});
    d.add("electrode", {{"name", "A"}, {"voltage", "0.5 V"}, {"on", "left"}});
    d.add("electrode", {{"name", "B"}, {"voltage", "-0.5 V"}, {"on", "right"}});
    return d;
}

/// Modulus k of a square coaxial line from the sides' ratio, by the nome.
inline double ellipticRatio(double k)
{
    return std::comp_ellint_1(k) / std::comp_ellint_1(std::sqrt(1 - k * k));
}
inline double modulusFromRatio(double ratio)
{
    double lo = 1e-12, hi = 1 - 1e-12;
    for (int i = 0; i < 200; ++i) {
        const double mid = 0.5 * (lo + hi);
        (ellipticRatio(mid) < ratio ? lo : hi) = mid;
    }
    return 0.5 * (lo + hi);
}

inline std::vector<Exact> exactProblems()
{
    std::vector<Exact> p;
    const char* jackson = "Jackson, Classical Electrodynamics, 3rd ed., problem 1.6";
    const char* smythe = "Smythe, Static and Dynamic Electricity, 3rd ed., chapter 4";
    const char* lines = "Ramo, Whinnery, van Duzer, Fields and Waves, table of transmission lines";
    for (const auto& [a, b, ratio] :
         {std::tuple{"1 mm", "2 mm", 2.0}, {"1 mm", "1.1 mm", 1.1}, {"0.2 mm", "10 mm", 50.0}})
        p.push_back({std::string("coaxial line, ratio ") + base::formatNumber(ratio, 3), jackson,
                     2 * pi * eps0 / std::log(ratio), capacitanceAB(coaxial("plane", a, b))});
    {
        Document d = coaxial("plane", "1 mm", "4 mm");
        // Painted between the two: the core comes later and keeps its place.
        Document e = sheetOf("plane", "insulated");
        e.add("disc", {{"name", "gap"}, {"radius", "4 mm"}});
        e.add("disc", {{"name", "coat"}, {"radius", "2 mm"}});
        e.add("disc", {{"name", "core"}, {"radius", "1 mm"}});
        e.add("material", {{"material", "vacuum"}, {"in", "gap"}});
        e.add("material", {{"material", "coating"}, {"in", "coat"}, {"eps", "5"}});
        e.add("electrode", {{"name", "A"}, {"voltage", "1 V"}, {"on", "core"}});
        e.add("electrode", {{"name", "B"}, {"voltage", "0 V"}, {"on", "gap.outer"}});
        p.push_back({"coaxial line, coated core", jackson,
                     2 * pi * eps0 / (std::log(2.0) / 5 + std::log(2.0)), capacitanceAB(e)});
    }
    {
        Document d = coaxial("plane", "1 mm", "3 mm");
        for (auto& l : d.lines)
            if (l.kind == "material")
                l.values = {{"material", "graded"}, {"in", "gap"}, {"eps", "sqrt(x^2 + y^2)/1 mm"}};
        p.push_back({"coaxial line, graded permittivity", jackson, 2 * pi * eps0 / (1 - 1.0 / 3),
                     capacitanceAB(d)});
    }
    p.push_back({"eccentric cylinders", smythe, 2 * pi * eps0 / std::acosh((1.0 + 9.0 - 1.0) / 6.0),
                 capacitanceAB(coaxial("plane", "1 mm", "3 mm", "1 mm"))});
    p.push_back({"plates in series", lines, eps0 * 4e-3 / (1e-3 / 2 + 2e-3 / 7),
                 capacitanceAB(plates("2", "7"))});
    {
        Document d = plates("3", "3");
        for (auto& l : d.lines)
            if (l.kind == "material")
                l.values["eps2"] = "9";
        p.push_back(
            {"plates, second axis of a crystal", lines, 9 * eps0 * 4.0 / 3.0, capacitanceAB(d)});
    }
    for (const auto& [r, h, x] :
         {std::tuple{"1 mm", "2 mm", 2.0}, {"1 mm", "10 mm", 10.0}, {"1 mm", "1.1 mm", 1.1}})
        p.push_back(
            {std::string("two parallel wires, distance ") + base::formatNumber(2 * x, 3) + " radii",
             smythe, pi * eps0 / std::acosh(x), capacitanceAB(wires(r, h))});
    {
        // Half of the pair, the other half behind an odd mirror plane.
        Document d = wires("1 mm", "2 mm");
        for (auto& l : d.lines)
            if (l.kind == "electrode")
                l.values["voltage"] = l.name() == "A" ? "-0.5 V" : "0.5 V";
        d.add("mirror plane", {{"at", "x = 0"}, {"kind", "odd"}});
        p.push_back({"two parallel wires, odd mirror plane", smythe, pi * eps0 / std::acosh(2.0),
                     capacitanceAB(d)});
    }
    p.push_back({"concentric spheres", jackson, 4 * pi * eps0 / (1 / 1e-3 - 1 / 2e-3),
                 capacitanceAB(coaxial("axisymmetric", "1 mm", "2 mm"))});
    p.push_back({"concentric spheres, thin gap", jackson, 4 * pi * eps0 / (1 / 1e-3 - 1 / 1.05e-3),
                 capacitanceAB(coaxial("axisymmetric", "1 mm", "1.05 mm"))});
    {
        Document d = coaxial("axisymmetric", "1 mm", "2 mm");
        d.add("mirror plane", {{"at", "y = 0"}, {"kind", "even"}});
        p.push_back({"concentric spheres, even mirror plane", jackson,
                     4 * pi * eps0 / (1 / 1e-3 - 1 / 2e-3), capacitanceAB(d)});
    }
    p.push_back(
        {"isolated sphere", jackson, 4 * pi * eps0 * 1e-3, isolated({{"radius", "1 mm"}}, "disc")});
    p.push_back({"isolated prolate spheroid 3:1", smythe,
                 4 * pi * eps0 * std::sqrt(8.0) * 1e-3 / std::acosh(3.0),
                 isolated({{"a", "1 mm"}, {"b", "3 mm"}}, "ellipse")});
    p.push_back({"isolated oblate spheroid 3:1", smythe,
                 4 * pi * eps0 * std::sqrt(8.0) * 1e-3 / std::acos(1.0 / 3.0),
                 isolated({{"a", "3 mm"}, {"b", "1 mm"}}, "ellipse")});
    p.push_back({"isolated disc", "Jackson, section 3.13", 8 * eps0 * 1e-3,
                 isolated({{"points", "0, 0; 1 mm, 0"}}, "thin line")});
    {
        // Strips from 1 mm to 2 mm on both sides: k = 1/2.
        Document d = sheetOf("plane", "open space");
        d.add("thin line", {{"name", "left"}, {"points", "-2 mm, 0; -1 mm, 0"}});
        d.add("thin line", {{"name", "right"}, {"points", "1 mm, 0; 2 mm, 0"}});
        d.add("electrode", {{"name", "A"}, {"voltage", "1 V"}, {"on", "left"}});
        d.add("electrode", {{"name", "B"}, {"voltage", "0 V"}, {"on", "right"}});
        p.push_back({"coplanar strips",
                     "Collin, Foundations for Microwave Engineering, 2nd ed., appendix III",
                     eps0 / ellipticRatio(0.5), capacitanceAB(d)});
    }
    {
        // Square in a square, sides 2:1. K(l')/K(l) = (b + a)/(b - a), k = ((l' - l)/(l' + l))^2,
        // C = 4 eps K(k')/K(k) ... see the check in tst_exact.
        Document d = sheetOf("plane", "insulated");
        d.add("rectangle", {{"name", "gap"}, {"width", "4 mm"}, {"height", "4 mm"}});
        d.add("rectangle", {{"name", "core"}, {"width", "2 mm"}, {"height", "2 mm"}});
        d.add("material", {{"material", "vacuum"}, {"in", "gap"}});
        d.add("electrode", {{"name", "A"}, {"voltage", "1 V"}, {"on", "core"}});
        d.add("electrode",
              {{"name", "B"}, {"voltage", "0 V"}, {"on", "edges of gap but not edges of core"}});
        const double lp = modulusFromRatio(3.0), l = std::sqrt(1 - lp * lp),
                     k = std::pow((lp - l) / (lp + l), 2);
        p.push_back({"square coaxial line 2:1",
                     "Bowman, Introduction to Elliptic Functions, 1953, page 104",
                     8 * eps0 * ellipticRatio(k), capacitanceAB(d)});
    }
    {
        Document d = coaxial("plane", "1 mm", "4 mm");
        p.push_back({"coaxial line, potential at a point", jackson,
                     std::log(4.0 / 2.0) / std::log(4.0),
                     with(d, "potential at", {{"at", "0, 2 mm"}})});
        p.push_back({"coaxial line, field at a point", jackson, 1 / (2.5e-3 * std::log(4.0)),
                     with(d, "field at", {{"at", "1.5 mm, 2 mm"}})});
        p.push_back({"coaxial line, largest field", jackson, 1 / (1e-3 * std::log(4.0)),
                     with(d, "largest field", {{"in", "gap"}})});
        p.push_back({"coaxial line, mean field", jackson, 2 * 3e-3 / (std::log(4.0) * 15e-6),
                     with(d, "mean field", {{"in", "gap"}})});
        p.push_back({"coaxial line, stored energy", jackson, pi * eps0 / std::log(4.0),
                     with(d, "energy", {})});
    }
    {
        // Uniform charge between grounded cylinders: V = -rho r^2/(4 eps) + c ln r + d.
        Document d = coaxial("plane", "1 mm", "3 mm");
        for (auto& l : d.lines)
            if (l.kind == "electrode")
                l.values["voltage"] = "0 V";
        d.add("space charge", {{"density", "1 uC/m^3"}, {"in", "gap"}});
        const double rho = 1e-6, a = 1e-3, b = 3e-3,
                     c = rho * (b * b - a * a) / (4 * eps0 * std::log(b / a)), r = 2e-3;
        p.push_back({"space charge between cylinders", jackson,
                     -rho * (r * r - a * a) / (4 * eps0) + c * std::log(r / a),
                     with(d, "potential at", {{"at", "0, 2 mm"}})});
    }
    {
        // A floating sheet between plates divides the voltage.
        Document d = plates("2", "2");
        d.add("floating", {{"name", "F"}, {"on", "low.top"}});
        p.push_back({"floating sheet between plates", lines, 1 - 1.0 / 3.0,
                     with(d, "voltage", {{"of", "F"}})});
    }
    {
        // F = V^2/2 dC/dD with C = pi eps / acosh(D / 2a): attraction along x.
        Document d = wires("1 mm", "2 mm");
        const double x = 2.0,
                     dCdD = -pi * eps0 / (std::pow(std::acosh(x), 2) * std::sqrt(x * x - 1)) / 2e-3;
        p.push_back(
            {"force between two wires", smythe, -0.5 * dCdD, with(d, "force", {{"on", "left"}})});
    }
    {
        // Wire with given charge over a grounded plane (odd mirror plane): potential q acosh(h/a) /
        // 2 pi eps.
        Document d = sheetOf("plane", "open space");
        d.add("disc", {{"name", "wire"}, {"radius", "1 mm"}, {"at", "0, 3 mm"}});
        d.add("electrode", {{"name", "A"}, {"voltage", "1 V"}, {"on", "wire"}});
        d.add("mirror plane", {{"at", "y = 0"}, {"kind", "odd"}});
        p.push_back({"wire over a plane, charge", smythe, 2 * pi * eps0 / std::acosh(3.0),
                     with(d, "charge", {{"of", "A"}})});
    }
    return p;
}

inline run::Finding solveOne(Document d, const std::string& within, run::Report* report = nullptr)
{
    for (auto& l : d.lines)
        if (sheet::Document probe; l.kind == "capacitance" || l.kind == "charge" ||
                                   l.kind == "voltage" || l.kind == "energy" ||
                                   l.kind == "largest field" || l.kind == "mean field" ||
                                   l.kind == "potential at" || l.kind == "field at" ||
                                   l.kind == "force" || l.kind == "temperature at")
            l.values["within"] = within;
    base::Progress progress;
    run::Outcome outcome{};
    const run::Result r = run::solve(d, {}, progress, outcome);
    if (report)
        *report = r.report;
    if (!r.report.faults.empty()) {
        run::Finding f;
        f.note = r.report.faults[0].text;
        return f;
    }
    return r.report.findings.at(0);
}

}  // namespace yh::test
