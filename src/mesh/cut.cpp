// Cutting a mesh along sides of the partition, so that a field may jump there.
#include "mesh/mesh.h"

#include <algorithm>
#include <map>
#include <numeric>

namespace yh::mesh {

namespace {

/// Smallest member of a set, with paths halved on the way.
int rootOf(std::vector<int>& parent, int i)
{
    while (parent[size_t(i)] != i)
        i = parent[size_t(i)] = parent[size_t(parent[size_t(i)])];
    return i;
}

}  // namespace

Mesh cut(const Mesh& mesh, const shape::Partition& partition, const std::vector<char>& sides)
{
    auto isCut = [&](int s) {
        const int tag = mesh.sideTag[size_t(s)];
        return tag >= 0 && sides[size_t(tag)] && mesh.sideCells[size_t(s)][1] >= 0;
    };
    std::vector<char> touched(size_t(mesh.vertexCount()), 0);
    for (int s = 0; s < mesh.sideCount(); ++s)
        if (isCut(s))
            for (const int v : mesh.sideCorners(s))
                touched[size_t(v)] = 1;
    // Cells round a touched corner belong together where a side that is not cut joins them.
    std::map<std::pair<int, int>, int> place;  // corner and cell
    std::vector<int> parent;
    for (int t = 0; t < mesh.cellCount(); ++t)
        for (const int v : mesh.corners(t))
            if (touched[size_t(v)]) {
                place[{v, t}] = int(parent.size());
                parent.push_back(int(parent.size()));
            }
    for (int s = 0; s < mesh.sideCount(); ++s) {
        const auto [a, b] = mesh.sideCells[size_t(s)];
        if (b < 0 || isCut(s))
            continue;
        for (const int v : mesh.sideCorners(s))
            if (touched[size_t(v)]) {
                const int i = rootOf(parent, place[{v, a}]), k = rootOf(parent, place[{v, b}]);
                parent[size_t(std::max(i, k))] = std::min(i, k);
            }
    }
    Mesh out;
    out.dimension = mesh.dimension;
    out.vertices = mesh.vertices;
    out.cells = mesh.cells;
    out.piece = mesh.piece;
    std::map<int, int> copyOf;  // by root
    std::vector<char> taken(size_t(mesh.vertexCount()), 0);
    for (int t = 0; t < mesh.cellCount(); ++t)
        for (size_t k = 0; k < size_t(mesh.cornerCount()); ++k) {
            const int v = mesh.cells[size_t(t)][k];
            if (!touched[size_t(v)])
                continue;
            const int root = rootOf(parent, place[{v, t}]);
            auto it = copyOf.find(root);
            if (it == copyOf.end()) {
                // The first set keeps the corner, each further one gets a copy.
                const int id = taken[size_t(v)] ? int(out.vertices.size()) : v;
                if (taken[size_t(v)])
                    out.vertices.push_back(mesh.vertices[size_t(v)]);
                taken[size_t(v)] = 1;
                it = copyOf.emplace(root, id).first;
            }
            out.cells[size_t(t)][k] = it->second;
        }
    // What lies on the geometry still does.
    std::vector<Mesh::CurveEdge> onCurves;
    std::vector<Mesh::SurfaceFace> onSurfaces;
    auto now = [&](int t, int v) {
        const auto c = mesh.corners(t);
        return out.cells[size_t(t)][size_t(std::find(c.begin(), c.end(), v) - c.begin())];
    };
    for (int t = 0; t < mesh.cellCount(); ++t) {
        for (const int e : mesh.edgesOf(t))
            if (mesh.edgeCurve[size_t(e)] >= 0)
                onCurves.push_back({now(t, mesh.edges[size_t(e)][0]),
                                    now(t, mesh.edges[size_t(e)][1]), mesh.edgeCurve[size_t(e)],
                                    mesh.parameters[size_t(e)][0], mesh.parameters[size_t(e)][1]});
        if (mesh.dimension == 3)
            for (const int f : mesh.sidesOf(t))
                if (mesh.sideTag[size_t(f)] >= 0) {
                    const auto& c = mesh.faces[size_t(f)];
                    onSurfaces.push_back(
                        {now(t, c[0]), now(t, c[1]), now(t, c[2]), mesh.sideTag[size_t(f)]});
                }
    }
    out.connect(partition, onCurves, onSurfaces);
    for (int t = 0; t < mesh.cellCount(); ++t)
        for (int k = 0; k < mesh.edgesOfCell(); ++k)
            out.middles[size_t(out.cellEdges[size_t(t)][size_t(k)])] =
                mesh.middles[size_t(mesh.cellEdges[size_t(t)][size_t(k)])];
    for (int s = 0; s < mesh.sideCount(); ++s)
        if (isCut(s)) {
            const auto [a, b] = mesh.sideCells[size_t(s)];
            out.facing.push_back({out.sidesOf(a)[size_t(mesh.localSide(a, s))],
                                  out.sidesOf(b)[size_t(mesh.localSide(b, s))]});
        }
    return out;
}

}  // namespace yh::mesh
