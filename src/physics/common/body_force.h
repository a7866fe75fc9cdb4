// Force and torque of a field on a body, from the stress in the medium around it, by two routes.
#pragma once

#include "fem/assembly.h"
#include "physics/common/functional.h"
#include "sheet/model.h"

#include <algorithm>
#include <array>
#include <functional>
#include <map>

namespace yh::physics {

struct BodyForce
{
    Point force;   ///< N; axisymmetric: y is along the axis, x is 0
    Point torque;  ///< about the origin, N m; drawings: z
};

/// By vertex, how far it goes along when a body is shifted by one: 1 on the body, 0 wherever else
/// something bears force, and between the two, in the medium around the body, a smooth fall that is
/// level at both ends. The wider and smoother the fall, the less the force feels of single cells,
/// and of edges where the field has no limit: its error goes with the square of the field's.
/// Source: Henrotte, Deliège, Hameyer, COMPEL 23 (2004) 1061 (from memory); the fall after a
/// potential is our own.
/// @param plain  by piece of the partition: even, isotropic, without charge, current or magnet
[[nodiscard]] std::vector<double> bodyShift(const mesh::Mesh& mesh,
                                            const shape::Partition& partition, fem::Measure measure,
                                            const std::vector<int>& pieces,
                                            const std::vector<char>& plain);

/// What forces on the bodies of one solution need, each worked out once.
class KnownForces
{
public:
    /// @param make  called without arguments
    template <class Make>
    const std::vector<double>& shiftOf(const std::vector<int>& pieces, Make make)
    {
        if (!m_shift.count(pieces))
            m_shift[pieces] = make();
        return m_shift[pieces];
    }
    template <class Make>
    const BodyForce& forceOf(int order, const std::vector<int>& pieces, Make make)
    {
        const std::pair key(order, pieces);
        if (!m_force.count(key))
            m_force[key] = make();
        return m_force[key];
    }
    /// Another field on the same mesh.
    void forgetForces() { m_force.clear(); }

private:
    std::map<std::vector<int>, std::vector<double>> m_shift;
    std::map<std::pair<int, std::vector<int>>, BodyForce> m_force;
};

/// A cell outside a body in which its shift falls.
struct FallingCell
{
    int cell;
    std::array<double, 4> shift;  ///< at its corners
    /// Slope of the shift from the rows of the inverse Jacobian.
    [[nodiscard]] Point slope(const Point row[3], int dimension) const
    {
        Point g;
        for (int c = 0; c < dimension; ++c)
            g = g + (shift[size_t(c) + 1] - shift[0]) * row[c];
        return g;
    }
};
[[nodiscard]] std::vector<FallingCell> fallingCells(const mesh::Mesh& mesh,
                                                    const std::vector<char>& body,
                                                    const std::vector<double>& shift);

/// Force on a body by virtual work: the stress weighted by the slope of its shift.
/// Source: Coulomb, IEEE Trans. Magn. 19 (1983) 2514 (from memory).
/// @param shift     of bodyShift()
/// @param order     of the elements
/// @param traction  called with (cell, reference point, place, vector): the stress times it
template <class Traction>
[[nodiscard]] BodyForce forceByVirtualWork(const mesh::Mesh& mesh,
                                           const shape::Partition& partition, fem::Measure measure,
                                           int order, const std::vector<int>& pieces,
                                           const std::vector<double>& shift, Traction traction)
{
    const auto falling = fallingCells(mesh, flags(pieces, partition.pieces().size()), shift);
    auto addCell = [&](const FallingCell& c, BodyForce& F) {
        const mesh::Geometry g(mesh, c.cell);
        // The stress is of twice the slope's degree, and a torque has the place as well; curved
        // cells and the axis take some more.
        const bool even = !g.curved && measure == fem::Measure::plane;
        for (const auto& q : fem::cellRule(mesh.dimension, even ? 2 * order - 1 : 2 * order + 2)) {
            Point row[3];
            const double det = g.inverse(q.xi, row);
            const Point p = g.at(q.xi);
            const Point f = -q.w * det * fem::measureAt(measure, p) *
                            traction(c.cell, q.xi, p, c.slope(row, mesh.dimension));
            F.force = F.force + f;
            F.torque = F.torque + cross(p, f);
        }
    };
    // Partial sums over fixed blocks: the same for any number of threads.
    constexpr size_t block = 256;
    std::vector<BodyForce> part((falling.size() + block - 1) / block);
#pragma omp parallel for schedule(dynamic, 1)
    for (size_t k = 0; k < part.size(); ++k)
        for (size_t i = k * block; i < std::min(falling.size(), (k + 1) * block); ++i)
            addCell(falling[i], part[k]);
    BodyForce F;
    for (const BodyForce& p : part) {
        F.force = F.force + p.force;
        F.torque = F.torque + p.torque;
    }
    return F;
}

/// Derivative of the work on a body that moves, by each coefficient of a potential whose negative
/// gradient is the field: with the slope s of the shift, the motion v, the field H, the flux B and
/// its derivative M by H, the gradient of a function counts with
///
///   (M s) (H . v) + (B . s) v - (s . v) B
///
/// @param order  of the elements that the derivative is by
/// @param flux   called with (cell, reference point, s, v): that vector
/// @returns shape (functions of the order)
template <class Flux>
[[nodiscard]] std::vector<double> workDerivative(const mesh::Mesh& mesh,
                                                 const shape::Partition& partition, int order,
                                                 const Motion& motion,
                                                 const std::vector<double>& shift, Flux flux)
{
    const fem::H1Space space(mesh, order);
    std::vector<double> by(size_t(space.count(order)), 0.0);
    const auto& rule = fem::cellRule(mesh.dimension, 2 * order + 1);
    int number[fem::mostLocal];
    double sign[fem::mostLocal];
    fem::Basis b;
    for (const FallingCell& c :
         fallingCells(mesh, flags(motion.pieces, partition.pieces().size()), shift)) {
        const mesh::Geometry g(mesh, c.cell);
        space.local(c.cell, number, sign);
        for (const auto& q : rule) {
            Point row[3];
            const double det = g.inverse(q.xi, row);
            const Point f =
                q.w * det * flux(c.cell, q.xi, c.slope(row, mesh.dimension), motion.at(g.at(q.xi)));
            fem::basis(mesh.dimension, order, q.xi, b);
            for (int i = 0; i < space.localCount(order); ++i)
                for (int k = 0; k < mesh.dimension; ++k)
                    by[size_t(number[i])] += sign[i] * b.d[k][i] * dot(row[k], f);
        }
    }
    return by;
}

/// The same by the stress on its surface.
template <class Traction>
[[nodiscard]] BodyForce forceBySurfaceStress(const mesh::Mesh& mesh,
                                             const shape::Partition& partition,
                                             fem::Measure measure, int degree,
                                             const std::vector<int>& pieces, Traction traction)
{
    const auto body = flags(pieces, partition.pieces().size());
    BodyForce F;
    fem::onSides(
        mesh, measure, degree,
        [&](int s, int t) {
            const int c = mesh.sideTag[size_t(s)];
            if (c < 0 || body[size_t(mesh.piece[size_t(t)])])
                return false;
            for (const int f : partition.sides()[size_t(c)].pieces)
                if (body[size_t(f)])
                    return true;
            return false;
        },
        [&](int, int t, const Point& xi, const Point& p, const Point& n) {
            // Outward from the body is inward to the cell outside it.
            const Point f = -1.0 * traction(t, xi, p, n);
            F.force = F.force + f;
            F.torque = F.torque + cross(p, f);
        });
    return F;
}

/// Whether one medium surrounds a body: only then its force does not depend on how the stress
/// divides.
/// @param material  name by piece
[[nodiscard]] bool isInOneMedium(const shape::Partition& partition, const std::vector<int>& pieces,
                                 const std::vector<std::string>& material, std::string& trouble);

/// How force and torque on the whole body follow from those on its modelled part, both about the
/// origin and with all images counted. Where a plane cuts the body, the image adds the mirrored
/// force and, as an axial vector, the reversed mirrored torque; a body beside the plane has an
/// image of its own.
class WholeBody
{
public:
    /// @param mirror  by axis: whether x, y, z = 0 is a plane of symmetry
    /// @param wedges  equal wedges that make up the whole
    WholeBody(const shape::Partition& partition, const std::vector<int>& pieces,
              const std::array<bool, 3>& mirror, int wedges);
    [[nodiscard]] BodyForce of(BodyForce modelled) const;

private:
    double m_share = 1;  ///< of what the scale of the figures counts
    std::array<bool, 3> m_cut{};
    bool m_wedge = false;
};

/// The motion whose work is a figure that goes with a body's force and torque.
/// @param figure  of those about the origin; linear in them
[[nodiscard]] Motion motionOf(const std::vector<int>& pieces,
                              const std::function<double(const BodyForce&)>& figure);

/// The work of a motion as what refinement looks at; empty where it is zero by symmetry.
[[nodiscard]] std::vector<LocalFunctional> movedBy(const Motion& motion);

/// One component of a force or torque that is asked for.
struct ForcePart
{
    std::string name;  ///< such as "force along x on "
    double Point::*component;
    bool isTorque = false;
    [[nodiscard]] std::string unit() const { return isTorque ? "N*m" : "N"; }
};
[[nodiscard]] std::vector<ForcePart> forceParts(bool torque, bool solid, bool axisymmetric);

}  // namespace yh::physics
