// Force and torque of a field on a body, from the stress in the medium around it, by two routes.
#pragma once

#include "fem/assembly.h"
#include "physics/common/functional.h"
#include "sheet/model.h"

#include <array>

namespace yh::physics {

struct BodyForce
{
    Point force;   ///< N; axisymmetric: y is along the axis, x is 0
    Point torque;  ///< N m; drawings: z
};

/// Force on a body by virtual work: the stress weighted by a shape function that falls from 1 on
/// the body to 0 one layer of cells outside it.
/// Source: Coulomb, IEEE Trans. Magn. 19 (1983) 2514 (from memory).
/// @param traction  called with (cell, reference point, place, vector): the stress times it
template <class Traction>
[[nodiscard]] BodyForce forceByVirtualWork(const mesh::Mesh& mesh,
                                           const shape::Partition& partition, fem::Measure measure,
                                           int degree, const std::vector<int>& pieces, Point about,
                                           Traction traction)
{
    const auto body = flags(pieces, partition.pieces().size());
    std::vector<char> weight(size_t(mesh.vertexCount()), 0);
    for (int e = 0; e < mesh.sideCount(); ++e)
        if (const int c = mesh.sideTag[size_t(e)]; c >= 0)
            for (const int f : partition.sides()[size_t(c)].pieces)
                if (body[size_t(f)])
                    for (const int v : mesh.sideCorners(e))
                        weight[size_t(v)] = 1;
    BodyForce F;
    const auto& rule = fem::cellRule(mesh.dimension, degree);
    for (int t = 0; t < mesh.cellCount(); ++t) {
        double w[4] = {0, 0, 0, 0}, any = 0;
        int count = 0;
        for (const int v : mesh.corners(t)) {
            w[count++] = weight[size_t(v)];
            any += weight[size_t(v)];
        }
        if (body[size_t(mesh.piece[size_t(t)])] || any == 0)
            continue;
        const mesh::Geometry g(mesh, t);
        for (const auto& q : rule) {
            Point row[3], grad;
            const double det = g.inverse(q.xi, row);
            for (int c = 0; c < mesh.dimension; ++c)
                grad = grad + (w[c + 1] - w[0]) * row[c];
            const Point p = g.at(q.xi);
            const Point f = -q.w * det * fem::measureAt(measure, p) * traction(t, q.xi, p, grad);
            F.force = F.force + f;
            F.torque = F.torque + cross(p - about, f);
        }
    }
    return F;
}

/// The same by the stress on its surface.
template <class Traction>
[[nodiscard]] BodyForce forceBySurfaceStress(const mesh::Mesh& mesh,
                                             const shape::Partition& partition,
                                             fem::Measure measure, int degree,
                                             const std::vector<int>& pieces, Point about,
                                             Traction traction)
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
            F.torque = F.torque + cross(p - about, f);
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
