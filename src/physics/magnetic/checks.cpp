#include "physics/common/constants.h"
#include "physics/common/routes.h"
#include "physics/magnetic/asks.h"
#include "physics/magnetic/library.h"
#include "physics/magnetic/solid.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace yh::physics {

using sheet::Line;
namespace dim = base::dim;

namespace {

std::string small(double x)
{
    char b[32];
    std::snprintf(b, sizeof b, "%.0e", x);
    return x < 1e-15 ? "rounding" : b;
}

void ampere(const MagneticField& s, std::vector<Check>& list)
{
    const auto b = s.balance(s.order());
    // Magnets alone cancel to a share of the energy, as exactly as the equations were solved.
    const double share = s.problem().isSolid ? 1e-4 : 1e-6,
                 size =
                     std::max({std::abs(b.field), std::abs(b.coils), share * s.energy(s.order())});
    if (!(size > 0))
        return;
    const double off = std::abs(b.field - b.coils) / size;
    constexpr double closes = 1e-6;
    list.push_back(
        {"ampere's law",
         off < closes ? Check::State::good : Check::State::bad,
         s.problem().coils.empty()
             ? "H · B of the magnets and of the space around them cancels to " + small(off)
             : "H · B in all of space equals linkage times current to " + small(off),
         -1,
         {}});
}

/** Says how much of a magnet lies below the knee of its curve. */
void tellBelow(const std::vector<MagneticField::WorkingPoint>& points, double knee, Check& check)
{
    double below = 0, whole = 0;
    for (const auto& w : points) {
        whole += w.volume;
        below += w.B < knee ? w.volume : 0.0;
    }
    const std::string at = base::format(knee, dim::fluxDensity, 3);
    check.state = below > 0 ? Check::State::warning : Check::State::good;
    check.text += below > 0 ? ": " + percent(below / whole) + " of it is below the knee at " + at +
                                  " and will not come back"
                            : ", above its knee at " + at;
}

/// How magnets stand against their knees: each that has a curve, and the lowest of those without.
void knee(const sheet::Model& model, const shape::Partition& partition, MagneticField& s,
          std::vector<Check>& list)
{
    struct Lowest
    {
        const Line* line = nullptr;
        MagneticField::WorkingPoint point;
        [[nodiscard]] std::string text() const
        {
            return "magnet " + line->name() +
                   " goes down to B = " + base::format(point.B, dim::fluxDensity, 3) +
                   " at H = " + base::format(point.H, dim::magneticField, 3);
        }
        [[nodiscard]] std::vector<double> at() const { return {point.at.x, point.at.y}; }
    } unknown;
    for (const Line* l : model.document().ofKind("magnet")) {
        const auto pieces =
            partition.resolve(model.place(*l, "in"), model, {l->id, "in", 0}).pieces;
        const auto points = s.workingPoints(s.order(), pieces);
        if (points.empty())
            continue;
        const MagneticMedium& m = s.problem().media[size_t(pieces[0])];
        const Lowest lowest{
            l, *std::min_element(points.begin(), points.end(),
                                 [](const auto& a, const auto& b) { return a.H < b.H; })};
        if (!m.curve) {
            if (!unknown.line || lowest.point.H < unknown.point.H)
                unknown = lowest;
            continue;
        }
        const auto bend = m.curve->knee();
        Check check{"knee", Check::State::good, lowest.text(), l->id, lowest.at()};
        if (!std::isfinite(bend.B)) {
            const bool beyond = lowest.point.B < m.curve->lowest();
            check.state = beyond ? Check::State::warning : Check::State::good;
            check.text += beyond ? ", beyond the last point of its curve"
                                 : ", above the last point of its curve, which has no knee";
            list.push_back(check);
            continue;
        }
        tellBelow(points, bend.B, check);
        list.push_back(check);
    }
    if (unknown.line)
        list.push_back({"knee", Check::State::note,
                        unknown.text() + "; where its knee is, a curve would say", unknown.line->id,
                        unknown.at()});
}

void curves(const sheet::Model& model, const MagneticField& s, std::vector<Check>& list)
{
    // Singular corners go beyond every curve.
    constexpr double corner = 1e-3;
    if (const auto beyond = s.beyondCurves(); beyond.share > corner) {
        const MagneticMedium& m = s.problem().media[size_t(beyond.piece)];
        list.push_back({"end of curve",
                        Check::State::note,
                        percent(beyond.share) + " of the " + m.material + " goes up to " +
                            base::format(beyond.by, dim::fluxDensity, 2) +
                            " beyond the last point of its curve, where it is carried on " +
                            (m.isMagnet() ? "straight" : "with the slope of vacuum"),
                        -1,
                        {}});
    }
    for (const Line* l : model.document().ofKind("material"))
        if (!l->has("mu") && !l->has("curve") && knownCurve(l->get("material")))
            list.push_back({"known curve",
                            Check::State::note,
                            l->get("material") +
                                " follows a usual curve; steels scatter, and a measured one is "
                                "better: `curve S of H (A/m), B (T): …`",
                            l->id,
                            {}});
}

/** Largest induced current of what moves, and that near its ends along `way`. */
std::array<double, 2> inducedAtEnds(const MagneticSolver& s, const std::vector<char>& moving,
                                    const Point& way)
{
    const mesh::Mesh& m = s.mesh();
    double first = 1e300, last = -1e300, largest = 0, ends = 0;
    auto visit = [&](const auto& look) {
        for (int t = 0; t < m.cellCount(); ++t)
            if (moving[size_t(m.piece[size_t(t)])]) {
                const mesh::Geometry g(m, t);
                look(t, g.centre(), dot(way, g.at(g.centre())));
            }
    };
    visit([&](int, const Point&, double z) {
        first = std::min(first, z);
        last = std::max(last, z);
    });
    visit([&](int t, const Point& xi, double z) {
        const double J = std::abs(s.inducedCurrent(s.order(), t, xi));
        largest = std::max(largest, J);
        constexpr double near = 0.03;
        if (std::min(z - first, last - z) < near * (last - first))
            ends = std::max(ends, J);
    });
    return {largest, ends};
}

/// What moves must go on far enough that its ends carry little of the currents, and cells must
/// resolve how far these are dragged along.
void motion(const sheet::Model& model, const shape::Partition& partition, const MagneticSolver& s,
            std::vector<Check>& list)
{
    const Line* l = model.document().first("motion");
    if (!l || !s.problem().moves())
        return;

    const auto pieces = partition.resolve(model.place(*l, "in"), model, {l->id, "in", 0}).pieces;
    const auto moving = flags(pieces, partition.pieces().size());
    const auto [largest, ends] = inducedAtEnds(s, moving, s.problem().way);
    if (!(largest > 0))
        return;
    constexpr double little = 0.01;
    list.push_back({"ends of what moves",
                    ends < little * largest ? Check::State::good : Check::State::warning,
                    "at the ends of " + l->get("in") + " the current is " +
                        percent(ends / largest) + " of its largest" +
                        (ends < little * largest
                             ? ": it may be taken as endless"
                             : ": they count as if it went on; draw it longer, or take the drag "
                               "as that of one place of an endless one"),
                    l->id,
                    {}});
}

/// What a winding was found to be, which tells a wrong drawing.
void windings(const SolidMagneticSolver& s, std::vector<Check>& list)
{
    for (size_t k = 0; k < s.problem().coils.size(); ++k) {
        const Coil& c = s.problem().coils[k];
        if (c.isImage())
            continue;
        const auto& bar = s.windings().bar(int(k));
        list.push_back({"winding",
                        Check::State::note,
                        "winding " + c.name + ": its mean turn is " +
                            base::format(bar.length, dim::length, 3) + " long" +
                            (s.problem().scale > 1 ? " in the modelled part" : "") + ", through " +
                            base::format(bar.area, dim::of(2, 0, 0), 3),
                        c.line,
                        {}});
    }
}

void corners(const MagneticField& s, std::vector<Check>& list)
{
    const auto sharp = s.singularCorners();
    if (sharp.empty())
        return;
    Check c{"sharp corners", Check::State::note, "", -1, {}};
    double least = 1;
    for (const auto& k : sharp) {
        c.at.push_back(k.at.x);
        c.at.push_back(k.at.y);
        least = std::min(least, k.exponent);
    }
    char grows[32];
    std::snprintf(grows, sizeof grows, "r^%.2f", least - 1);
    c.text = "sharp corners: |B| grows (up to " + std::string(grows) + ") towards " +
             std::to_string(sharp.size()) + (sharp.size() == 1 ? " corner" : " corners") +
             " as long as the steel there does not saturate; round them to find a largest |B|";
    list.push_back(c);
}

}  // namespace

std::vector<Check> makeMagneticChecks(const sheet::Model& model, const shape::Partition& partition,
                                      MagneticField& solver, const std::vector<Ask>& asks)
{
    std::vector<Check> list;
    ampere(solver, list);
    checkSecondRoutes(solver, asks, list);
    knee(model, partition, solver, list);
    curves(model, solver, list);
    if (const auto* drawing = dynamic_cast<const MagneticSolver*>(&solver))
        motion(model, partition, *drawing, list);
    if (const auto* solid = dynamic_cast<const SolidMagneticSolver*>(&solver))
        windings(*solid, list);
    corners(solver, list);
    std::vector<std::string> material;
    for (const auto& m : solver.problem().media)
        material.push_back(m.material);
    for (const Ask& a : asks) {
        const Line* l = model.document().find(a.finding.line);
        std::string trouble;
        if (l && (l->kind == "force" || l->kind == "torque") &&
            !isInOneMedium(partition,
                           partition.resolve(model.place(*l, "on"), model, {l->id, "on", 0}).pieces,
                           material, trouble))
            list.push_back(
                {"medium", Check::State::warning, a.finding.label + ": " + trouble, l->id, {}});
    }
    return list;
}

}  // namespace yh::physics
