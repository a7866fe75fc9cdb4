#include "physics/electrostatic/checks.h"

#include "physics/common/routes.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <set>

namespace yh::physics {

namespace {

std::string small(double x)
{
    char b[32];
    std::snprintf(b, sizeof b, "%.0e", x);
    return b;
}

void chargeBalance(ElectrostaticSolver& s, std::vector<Check>& checks)
{
    // All conductors together with the fixed charge are neutral, unless flux leaves to infinity
    // round an axis, where infinity is a conductor of the list.
    double sum = 0, most = 0;
    for (const double q : s.best().charge) {
        sum += q;
        most = std::max(most, std::abs(q));
    }
    if (s.problem().hasFixedCharge()) {
        // Unit fields add up to 1 everywhere: their charges with all potentials zero are the
        // negative of the fixed charge.
        double fixed = 0;
        for (const double q : s.best().charge0)
            fixed -= q;
        sum += fixed;
        most = std::max(most, std::abs(fixed));
    }
    const double off = most > 0 ? std::abs(sum) / most : 0.0;
    constexpr double rounding = 1e-9;
    checks.push_back({"charge balance",
                      off < rounding ? Check::State::good : Check::State::bad,
                      "charge balances to " + (off < 1e-15 ? std::string("rounding") : small(off)),
                      -1,
                      {}});
}

void energyRoute(ElectrostaticSolver& s, std::vector<Check>& checks)
{
    // Charge by the flux of D through the surfaces against the stored energy.
    if (s.problem().hasFixedCharge())
        return;
    const auto& p = s.best();
    double byCharge = 0;
    for (size_t k = 0; k < p.charge.size(); ++k)
        if (!s.problem().conductors[k].sides.empty() && p.voltage[k] != 0)
            byCharge += 0.5 * p.voltage[k] * s.surfaceFlux(s.order(), int(k));
    if (!(p.energy > 0))
        return;
    const double off = std::abs(byCharge / s.fieldEnergy(s.order()) - 1);
    constexpr double close = 0.02;
    checks.push_back({"two routes",
                      off < close ? Check::State::good : Check::State::note,
                      "energy and surface charge agree to " + percent(off) +
                          (off < close ? ""
                                       : "; the surface route suffers at sharp corners, the stated "
                                         "value is from the energy"),
                      -1,
                      {}});
}

void corners(ElectrostaticSolver& s, std::vector<Check>& checks)
{
    const auto list = s.singularCorners();
    if (list.empty())
        return;
    Check c{"sharp corners", Check::State::warning, "", -1, {}};
    double least = 1;
    const bool solid = s.space().mesh().dimension == 3;
    for (const auto& k : list) {
        c.at.push_back(k.at.x);
        c.at.push_back(k.at.y);
        if (solid)
            c.at.push_back(k.at.z);
        least = std::min(least, k.exponent);
    }
    char grows[32];
    std::snprintf(grows, sizeof grows, "r^%.2f", least - 1);
    c.text = list.size() == 1
                 ? "sharp corner: |E| grows without limit (" + std::string(grows) +
                       ") towards one corner"
                 : "sharp corners: |E| grows without limit (up to " + std::string(grows) +
                       ") towards " + std::to_string(list.size()) + " corners";
    if (solid)
        c.text =
            "sharp edges: |E| grows without limit (up to " + std::string(grows) + ") towards them";
    c.text += "; round them to find a largest |E| there";
    checks.push_back(c);
}

/// Compares V at mirrored places: the parity of the device about a plane through its middle.
void mirrors(const sheet::Model& model, ElectrostaticSolver& s, std::vector<Check>& checks)
{
    const mesh::Mesh& m = s.space().mesh();
    const mesh::Locator locator(m);
    double x0 = 1e300, x1 = -1e300, y0 = 1e300, y1 = -1e300, v0 = 1e300, v1 = -1e300;
    for (const Point& p : m.vertices) {
        x0 = std::min(x0, p.x);
        x1 = std::max(x1, p.x);
        y0 = std::min(y0, p.y);
        y1 = std::max(y1, p.y);
    }
    for (const double v : s.best().voltage) {
        v0 = std::min(v0, v);
        v1 = std::max(v1, v);
    }
    const bool axi = model.space() == sheet::Space::axisymmetric;
    for (const bool x : {true, false}) {
        if ((x && (axi || s.problem().mirror[0])) || (!x && s.problem().mirror[1]))
            continue;
        const double span = x ? x1 - x0 : y1 - y0;
        double c = x ? 0.5 * (x0 + x1) : 0.5 * (y0 + y1);
        // Corners of the mesh on curved borders need not be mirror images themselves.
        if (std::abs(c) < 1e-2 * span)
            c = 0;
        constexpr int wanted = 400;
        const int stride = std::max(1, m.cellCount() / wanted);
        bool even = true, odd = true, any = false;
        // Mirrored potentials differ by the error of the solution, which is well below this.
        const double close = 0.01 * (v1 - v0), mid = 0.5 * (v0 + v1);
        for (int t = 0; t < m.cellCount() && (even || odd); t += stride) {
            const Point p = mesh::Geometry(m, t).at(mesh::Geometry(m, t).centre());
            const auto hit = locator.find(x ? Point{2 * c - p.x, p.y} : Point{p.x, 2 * c - p.y});
            if (hit.cell < 0) {
                even = odd = false;
                break;
            }
            const auto &a = s.problem().material[size_t(m.piece[size_t(t)])],
                       &b = s.problem().material[size_t(m.piece[size_t(hit.cell)])];
            const double u = s.potential(s.order(), {t, mesh::Geometry(m, t).centre()}),
                         v = s.potential(s.order(), hit);
            even = even && a == b && std::abs(u - v) < close;
            odd = odd && a == b && std::abs(u + v - 2 * mid) < close;
            any = true;
        }
        if (!any || (!even && !odd) || !(v1 > v0))
            continue;
        const bool atZero = std::abs(c)<1e-6 * span, shifted = std::abs(mid)> 1e-6 * (v1 - v0);
        std::string text = std::string("mirror plane ") +
                           (x     ? "x"
                            : axi ? "z"
                                  : "y") +
                           " = " + (atZero ? "0" : base::format(c, base::dim::length)) +
                           " found (" + (even ? "even" : "odd") +
                           "): half the model would give the same answer";
        if (!atZero)
            text += "; move the drawing so that the plane is at 0 to use it";
        else if (!even && shifted)
            text += "; use opposite potentials to apply it";
        std::string proposal;
        if (atZero && (even || !shifted))
            proposal = std::string("mirror plane ") + (x ? "x" : "y") + " = 0 kind " +
                       (even ? "even" : "odd");
        checks.push_back({"mirror plane", Check::State::note, text, -1, {}, proposal});
    }
}

/** Mean of the squared field, at the middles of cells. */
double meanSquare(ElectrostaticSolver& s, const mesh::Mesh& m)
{
    double all = 0, area = 0;
    for (int t = 0; t < m.cellCount(); ++t) {
        const mesh::Geometry g(m, t);
        const Point E = s.field(s.order(), t, g.centre());
        const double a = g.determinant(g.centre());
        all += a * dot(E, E);
        area += a;
    }
    return area > 0 ? all / area : 0.0;
}

void outerBoundary(const sheet::Model& model, const shape::Partition& partition,
                   ElectrostaticSolver& s, std::vector<Check>& checks)
{
    const sheet::Line* outer = model.document().first("outer edge");
    if (!outer || outer->get("is") != "insulated")
        return;
    const mesh::Mesh& m = s.space().mesh();
    std::set<int> held;
    for (const Conductor& c : s.problem().conductors)
        if (!c.hidden)
            held.insert(c.sides.begin(), c.sides.end());
    const double near = 1e-6 * partition.size();
    double sum = 0, length = 0;
    const double mean = meanSquare(s, m);
    for (int e = 0; e < m.edgeCount(); ++e) {
        const int c = m.sideTag[size_t(e)];
        if (m.sideCells[size_t(e)][1] >= 0 || c < 0 || held.count(c) ||
            partition.sides()[size_t(c)].pieces.size() != 1)
            continue;
        const Point p = m.middles[size_t(e)];
        if ((std::abs(p.x) < near &&
             (s.problem().mirror[0] || s.problem().measure == fem::Measure::axisymmetric)) ||
            (std::abs(p.y) < near && s.problem().mirror[1]))
            continue;
        const int t = m.sideCells[size_t(e)][0];
        const Point E = s.field(s.order(), t, mesh::Geometry(m, t).centre());
        const Point a = m.vertices[size_t(m.edges[size_t(e)][0])],
                    b = m.vertices[size_t(m.edges[size_t(e)][1])];
        const double l = std::hypot(b.x - a.x, b.y - a.y);
        sum += l * dot(E, E);
        length += l;
    }
    if (!(length > 0) || !(mean > 0))
        return;
    const double ratio = std::sqrt(sum / length / mean);
    constexpr double noticeable = 0.1;
    if (ratio > noticeable)
        checks.push_back({"outer boundary",
                          Check::State::warning,
                          "the field at the outer edge is still " + percent(ratio) +
                              " of its mean inside: if the device does not end there, enlarge the "
                              "region or choose open space",
                          outer->id,
                          {},
                          "outer edge is open space"});
    else
        checks.push_back(
            {"outer boundary",
             Check::State::good,
             "the field at the outer edge is " + percent(ratio) + " of its mean inside",
             outer->id,
             {}});
}

}  // namespace

std::vector<Check> makeElectrostaticChecks(const sheet::Model& model,
                                           const shape::Partition& partition,
                                           ElectrostaticSolver& solver,
                                           const std::vector<Ask>& asks)
{
    std::vector<Check> checks;
    chargeBalance(solver, checks);
    energyRoute(solver, checks);
    checkSecondRoutes(solver, asks, checks);
    corners(solver, checks);
    mirrors(model, solver, checks);
    outerBoundary(model, partition, solver, checks);
    for (const Ask& a : asks)
        if (model.document().find(a.finding.line) &&
            (model.document().find(a.finding.line)->kind == "force" ||
             model.document().find(a.finding.line)->kind == "torque")) {
            std::string trouble;
            const sheet::Line& l = *model.document().find(a.finding.line);
            if (!solver.medium(
                    partition.resolve(model.place(l, "on"), model, {l.id, "on", 0}).pieces,
                    trouble))
                checks.push_back(
                    {"medium", Check::State::warning, a.finding.label + ": " + trouble, l.id, {}});
        }
    return checks;
}

}  // namespace yh::physics
