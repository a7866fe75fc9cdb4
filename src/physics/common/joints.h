// Resistances between touching regions: the mesh is cut there and a field jumps.
#pragma once

#include "fem/assembly.h"
#include "fem/quadrature.h"
#include "shape/partition.h"

#include <map>
#include <memory>

namespace yh::physics {

/// The mesh cut at sides of the partition; nothing where there are none.
/// @param joints  by side of the partition
template <class Joint>
[[nodiscard]] std::unique_ptr<const mesh::Mesh> cutAt(const std::map<int, Joint>& joints,
                                                      const mesh::Mesh& mesh,
                                                      const shape::Partition& partition)
{
    if (joints.empty())
        return nullptr;
    std::vector<char> sides(partition.sides().size(), 0);
    for (const auto& [side, joint] : joints)
        sides[size_t(side)] = 1;
    return std::make_unique<mesh::Mesh>(mesh::cut(mesh, partition, sides));
}

/// Integral of conductance times the square of a field's jump over the cuts.
/// @param u            coefficients of the field
/// @param conductance  by side of the partition: flow by area and difference; 0: not counted
template <class Conductance>
[[nodiscard]] double jumpPower(const fem::H1Space& space, fem::Measure measure, int order,
                               const std::vector<double>& u, Conductance conductance)
{
    const mesh::Mesh& m = space.mesh();
    double sum = 0;
    for (const auto& [a, b] : m.facing) {
        const double c = conductance(m.sideTag[size_t(a)]);
        if (c == 0)
            continue;
        const int ta = m.sideCells[size_t(a)][0], tb = m.sideCells[size_t(b)][0],
                  k = m.localSide(ta, a);
        const mesh::Geometry ga(m, ta), gb(m, tb);
        for (const auto& q : fem::cellRule(m.dimension - 1, 2 * order + 2)) {
            const mesh::Point xa = ga.onSide(k, q.xi), p = ga.at(xa);
            mesh::Point xb;
            if (!gb.invert(p, xb))
                continue;
            const double step = space.value(u, order, ta, xa) - space.value(u, order, tb, xb);
            sum += q.w * norm(ga.outward(k, xa)) * measureAt(measure, p) * c * step * step;
        }
    }
    return sum;
}

}  // namespace yh::physics
