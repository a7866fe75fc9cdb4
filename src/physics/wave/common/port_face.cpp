#include "physics/wave/common/port_face.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace yh::physics {

std::vector<int> sidesOf(const WavePort& port, const mesh::Mesh& mesh)
{
    std::vector<int> sides;
    for (int s = 0; s < mesh.sideCount(); ++s)
        if (std::find(port.sides.begin(), port.sides.end(), mesh.sideTag[size_t(s)]) !=
            port.sides.end())
            sides.push_back(s);
    if (sides.empty())
        throw base::Error(6209, "no cell touches this port", {port.line, "on", -1});
    return sides;
}

Face::Face(const WavePort& port, const mesh::Mesh& whole, std::span<const int> walls)
{
    side = sidesOf(port, whole);
    std::set<int> corners;
    for (const int s : side)
        for (const int k : whole.sideCorners(s))
            corners.insert(k);
    vertex.assign(corners.begin(), corners.end());
    std::map<int, int> place;
    for (size_t i = 0; i < vertex.size(); ++i)
        place[vertex[i]] = int(i);
    const auto first = whole.sideCorners(side[0]);
    auto at = [&](int i) { return whole.vertices[size_t(i)]; };
    u = at(first[1]) - at(first[0]);
    u = (1 / norm(u)) * u;
    Point n = cross(u, at(first[2]) - at(first[0]));
    n = (1 / norm(n)) * n;
    v = cross(n, u);
    origin = at(first[0]);
    auto flat = [&](const Point& p) { return Point{dot(p - origin, u), dot(p - origin, v)}; };
    mesh.dimension = 2;
    for (const int i : vertex)
        mesh.vertices.push_back(flat(at(i)));
    for (const int s : side) {
        const auto c = whole.sideCorners(s);
        std::array<int, 4> cell{place[c[0]], place[c[1]], place[c[2]], -1};
        const Point a = mesh.vertices[size_t(cell[0])];
        if (cross(mesh.vertices[size_t(cell[1])] - a, mesh.vertices[size_t(cell[2])] - a).z < 0)
            std::swap(cell[1], cell[2]);
        mesh.cells.push_back(cell);
        mesh.piece.push_back(whole.piece[size_t(whole.sideCells[size_t(s)][0])]);
    }
    mesh.connect(shape::Partition(), std::vector<mesh::Mesh::CurveEdge>{});
    std::map<std::array<int, 2>, int> edges;
    for (const int s : side) {
        int count = 0;
        const auto list = whole.sideEdges(s, count);
        for (int k = 0; k < count; ++k)
            edges[whole.edges[size_t(list[size_t(k)])]] = list[size_t(k)];
    }
    std::set<int> onWalls;
    for (const int s : walls) {
        int count = 0;
        const auto list = whole.sideEdges(s, count);
        for (int k = 0; k < count; ++k)
            onWalls.insert(list[size_t(k)]);
    }
    for (int e = 0; e < mesh.edgeCount(); ++e) {
        const auto& ends = mesh.edges[size_t(e)];
        const int there = edges.at({vertex[size_t(ends[0])], vertex[size_t(ends[1])]});
        edge.push_back(there);
        mesh.middles[size_t(e)] = flat(whole.middles[size_t(there)]);
        if (onWalls.count(there))
            rim.push_back(e);
    }
}

std::vector<int> Face::numbers([[maybe_unused]] const fem::EdgeSpace& here,
                               const fem::EdgeSpace& there, int order) const
{
    std::vector<int> list;
    for (int p = 1; p <= order; ++p) {
        const int copies = p == 1 ? 0 : p == 2 ? 2 : 4, start = p == 1 ? 0 : there.count(p - 1);
        for (const int e : edge)
            list.push_back(start + e);
        for (const int s : side)
            for (int i = 0; i < copies; ++i)
                list.push_back(start + there.mesh().edgeCount() + copies * s + i);
    }
    YH_ASSERT(int(list.size()) == here.count(order), "one number for each function");
    return list;
}

double Face::lean(const fem::EdgeSpace& space, int order, const std::vector<double>& field) const
{
    const Point direction{1.0, 0.618, 0.382}, across{0.31, 1.0, 0.53};
    Point centre;
    double whole = 0;
    for (int t = 0; t < mesh.cellCount(); ++t) {
        const mesh::Geometry g(mesh, t);
        const double area = g.determinant(g.centre());
        centre = centre + area * g.at(g.centre());
        whole += area;
    }
    centre = (1 / whole) * centre;
    // A weight that grows steadily across the face: no symmetry makes the sum vanish, as it would
    // that of the plain field, whose sign is then left to the mesh.
    constexpr double steep = 3;
    double sum = 0;
    for (int t = 0; t < mesh.cellCount(); ++t) {
        const mesh::Geometry g(mesh, t);
        const Point e = space.at(field, order, t, g.centre()).value, p = g.at(g.centre()) - centre;
        const double place = dot(p.x * u + p.y * v, across) / std::sqrt(whole / 2);
        sum += g.determinant(g.centre()) / 2 * std::exp(steep * place) *
               dot(e.x * u + e.y * v, direction);
    }
    return sum;
}

}  // namespace yh::physics
