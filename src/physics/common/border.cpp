// How far quadratic sides are off the exact borders.
#include "physics/common/solution.h"

#include <cmath>

namespace yh::physics {

double borderOffset(const mesh::Mesh& mesh, const shape::Partition& partition,
                    const mesh::Geometry& g, int k, int side, int t)
{
    const int c = mesh.sideTag[size_t(side)];
    double offset = 0;
    if (mesh.dimension == 3) {
        for (const Point& s : {Point{0.2, 0.2}, Point{0.6, 0.2}, Point{0.2, 0.6}}) {
            const Point xi = g.onSide(k, s), a = g.at(xi);
            const double half = 0.5;  // content of the reference triangle
            offset += half * std::abs(dot(g.outward(k, xi), partition.nearestOn(c, a) - a)) / 3;
        }
        return offset;
    }
    const bool forward = mesh.cells[size_t(t)][size_t(k)] == mesh.edges[size_t(side)][0];
    const auto& par = mesh.parameters[size_t(side)];
    for (const double s : {0.25, 0.75}) {
        const Point xi = g.onSide(k, {forward ? s : 1 - s});
        // Only the part across the side moves the border.
        const Point off = partition.at(c, par[0] + s * (par[1] - par[0])) - g.at(xi);
        offset += std::abs(dot(g.outward(k, xi), off)) / 2;
    }
    return offset;
}

}  // namespace yh::physics
