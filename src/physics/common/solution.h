// What passes, store, probes and lenses need of a solved field, whatever its physics.
#pragma once

#include "base/fault.h"
#include "base/progress.h"
#include "fem/assembly.h"
#include "mesh/mesh.h"
#include "physics/common/axis.h"

#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace yh::physics {

using base::Point;

/// A corner, or a place on an edge, where the field has no limit: V ~ r^exponent with an exponent
/// below 1.
struct SingularCorner
{
    int vertex = -1;
    Point at;
    double exponent = 1.0;
};

/// What decides about corners: the coefficient of the flux (0: no field there), and the sides on
/// which the potential is held.
struct CornerProblem
{
    fem::Measure measure = fem::Measure::plane;
    std::function<double(int piece, const Point&)> coefficient;
    std::vector<char> held;  ///< by side of the partition
};
/// Corners with an exponent below 1, and in solids the mesh's corners along edges with one. The
/// exponent is the least positive root of the angular problem around the corner or edge, by
/// transfer matrices over its sectors.
/// Source: Jackson, section 2.11 (from memory), extended to sectors of several media.
[[nodiscard]] std::vector<SingularCorner> findSingularCorners(const CornerProblem& problem,
                                                              const mesh::Mesh& mesh,
                                                              const shape::Partition& partition);

/// Content between the quadratic side k of a cell and the exact border, m^2 or m^3.
[[nodiscard]] double borderOffset(const mesh::Mesh& mesh, const shape::Partition& partition,
                                  const mesh::Geometry& g, int k, int side, int cell);

/// A side of the mesh on a curved border of the partition.
struct CurvedSide
{
    int side = -1, tag = -1;  ///< of the mesh, of the partition
    int cell = -1, other = -1;
    Point middle;       ///< of the side, reference coordinates of the cell
    double offset = 0;  ///< content between the quadratic side and the exact border
};
/// Visits all of them: visit(const CurvedSide&, const mesh::Geometry& of its first cell).
/// @param wanted  by side of the partition: whether its sides count
template <class Wanted, class Visit>
void overCurvedSides(const mesh::Mesh& mesh, const shape::Partition& partition, Wanted wanted,
                     Visit visit)
{
    for (int s = 0; s < mesh.sideCount(); ++s) {
        CurvedSide c{s, mesh.sideTag[size_t(s)], mesh.sideCells[size_t(s)][0],
                     mesh.sideCells[size_t(s)][1]};
        if (c.tag < 0 || partition.sides()[size_t(c.tag)].flat || !wanted(c.tag))
            continue;
        // A cell that its side would fold is straight, and the border there is off by far more.
        const mesh::Geometry g(mesh, c.cell);
        const int k = mesh.localSide(c.cell, s);
        c.middle = g.onSide(k, mesh.dimension == 2 ? Point{0.5} : Point{1.0 / 3, 1.0 / 3});
        c.offset = borderOffset(mesh, partition, g, k, s, c.cell);
        visit(c, g);
    }
}

/// A rigid motion of a body: each of its points p moves by shift + turn x p.
struct Motion
{
    std::vector<int> pieces;  ///< of the body
    Point shift;
    Point turn;  ///< 1/m times what shift is in
    [[nodiscard]] Point at(const Point& p) const { return shift + cross(turn, p); }
    [[nodiscard]] bool operator==(const Motion& o) const
    {
        return pieces == o.pieces && norm(shift - o.shift) == 0 && norm(turn - o.turn) == 0;
    }
};

/// What single places decide, and whose own error matters: a value or directional derivative of the
/// main unknown at a point, or what the field does on a body by virtual work.
struct LocalFunctional
{
    mesh::Locator::Hit hit;
    Point direction;               ///< minus the gradient along it; zero: the value
    int component = 0;             ///< which unknown
    double share = 0;              ///< of the value, beside a derivative
    std::optional<Motion> motion;  ///< work by this motion, in place of all that
    [[nodiscard]] bool operator==(const LocalFunctional& o) const
    {
        return hit.cell == o.hit.cell && norm(hit.xi - o.hit.xi) == 0 &&
               norm(direction - o.direction) == 0 && component == o.component && share == o.share &&
               motion == o.motion;
    }
};

/// A quantity that can be drawn, read and exported.
struct Quantity
{
    std::string name;    ///< as in files: V, E, D, T
    std::string label;   ///< in words: potential
    std::string unit;    ///< SI
    int components = 1;  ///< 1 or 3
    /// What its lines of equal value are called; empty: it has none of its own, as fluxes have not.
    std::string levels;
    bool first = false;  ///< looked at where nothing else was chosen; else the first of the list
    bool moves = false;  ///< a displacement: the shape can be drawn moved by it
};

struct Counters
{
    int unknowns = 0, iterations = 0;
    double assembleSeconds = 0, orderSeconds = 0, factorSeconds = 0, solveSeconds = 0,
           factorEntries = 0;
};

/// The fields on one mesh, solved for a range of element orders.
class Solution
{
public:
    virtual ~Solution() = default;
    Solution() = default;
    Solution(const Solution&) = delete;
    Solution& operator=(const Solution&) = delete;

    /// Solves for all orders from the lowest to order().
    /// @throws Error: singular, no convergence, no memory
    virtual void solve(int lowestOrder, base::Progress& progress) = 0;
    /// A cheap look at part of the problem that tells where the mesh is too coarse, before figures
    /// are worth taking.
    /// @returns how far figures of order 1 are from settled; nullopt: there is no such look
    virtual std::optional<double> scout(base::Progress& progress)
    {
        static_cast<void>(progress);
        return std::nullopt;
    }
    [[nodiscard]] virtual const mesh::Mesh& mesh() const = 0;
    [[nodiscard]] virtual int order() const = 0;
    /// Orders at which figures are taken, from rough to best: their differences make the errors.
    /// One alone has none to be compared with.
    [[nodiscard]] virtual std::vector<int> estimates() const
    {
        std::vector<int> orders;
        for (int p = order() > 2 ? order() - 2 : 1; p <= order(); ++p)
            orders.push_back(p);
        return orders;
    }
    [[nodiscard]] virtual Counters counters() const = 0;

    [[nodiscard]] virtual const std::vector<Quantity>& quantities() const = 0;
    /// What these run over; times (showTimes) and what alternates (phaseAxis) are found without.
    [[nodiscard]] virtual std::vector<Axis> axes() const { return {}; }
    /// What the quantities are for, such as 1 W into port A: where linear fields have no size of
    /// their own. Empty: they are as large as they are.
    [[nodiscard]] virtual std::string shownFor() const { return {}; }
    /// All components of all quantities at a place, one after the other, SI.
    virtual void sample(int cell, const Point& xi, double* values) const = 0;

    /// Share of the error by cell, for refinement; shape (cells).
    /// @param allDrives  every drive's own field counts too (a matrix is asked for)
    [[nodiscard]] virtual std::vector<double> indicator(bool allDrives) const = 0;
    /// The same for one functional.
    [[nodiscard]] virtual std::vector<double> dualIndicator(const LocalFunctional& functional) = 0;
    /// An order at which figures may be asked though it was not solved for: they are then those of
    /// order() with what the next one would change; 0: none.
    [[nodiscard]] virtual int nextOrder() const { return 0; }
    /// Whether the form is definite, as that of potentials: energies then come near from one side.
    [[nodiscard]] virtual bool isDefinite() const { return true; }
    /// What the next element order would change in a functional, estimated, where that is known;
    /// and what cannot be known of it, because given values jump.
    struct Change
    {
        double by = 0, unsure = 0;
    };
    [[nodiscard]] virtual std::optional<Change> changeOf(const LocalFunctional& functional)
    {
        static_cast<void>(functional);
        return std::nullopt;
    }
    /// Share of the energy that lies between the quadratic and the exact borders.
    [[nodiscard]] virtual double geometryError() const = 0;
    /// The same of every drive's own field, the largest; for what leans on all of them.
    /// @param ofField  geometryError()
    [[nodiscard]] virtual double geometryErrorOfDrives(double ofField) const { return ofField; }
    [[nodiscard]] virtual std::vector<SingularCorner> singularCorners() const = 0;
    /// Transients: times worth showing, s; empty: steady.
    [[nodiscard]] virtual std::vector<double> showTimes() const { return {}; }
    /// Lets readings be those of a time; of the end without one.
    virtual void showAt(double time) { static_cast<void>(time); }
    /// Transients: lets the lowest order stand for its own solution with steps so long that figures
    /// err about four times as much in time. @returns whether there is one
    virtual bool setCoarse(bool coarse)
    {
        static_cast<void>(coarse);
        return false;
    }
};

/// A solution as that of one field, checked: a study gives asks only to solutions of its own.
/// @throws Error where it is another's
template <class Own>
[[nodiscard]] Own& as(Solution& solution)
{
    if (auto* own = dynamic_cast<Own*>(&solution))
        return *own;
    throw base::Error(7016, "a figure was asked of a field that it does not belong to");
}

}  // namespace yh::physics
