#include "physics/common/mesh_rung.h"

#include "sheet/schema.h"

#include <algorithm>
#include <numeric>

namespace yh::physics {

using base::Error;
using sheet::Line;

namespace {

/// Cells with one of these corners; by cell.
[[nodiscard]] std::vector<char> touching(const mesh::Mesh& m, const std::vector<char>& vertices)
{
    std::vector<char> marked(size_t(m.cellCount()), 0);
    for (int t = 0; t < m.cellCount(); ++t)
        for (const int v : m.corners(t))
            marked[size_t(t)] |= vertices[size_t(v)];
    return marked;
}

/// The cells that hold most of the indicator (Doerfler's rule); by cell.
/// @param share  of its sum
[[nodiscard]] std::vector<char> mostOf(const std::vector<double>& eta, double share)
{
    const double total = std::accumulate(eta.begin(), eta.end(), 0.0);
    std::vector<int> order(eta.size());
    std::iota(order.begin(), order.end(), 0);
    std::sort(order.begin(), order.end(), [&](int a, int b) {
        return eta[size_t(a)] != eta[size_t(b)] ? eta[size_t(a)] > eta[size_t(b)] : a < b;
    });
    std::vector<char> marked(eta.size(), 0);
    double sum = 0;
    for (const int t : order) {
        if (sum > share * total && total > 0)
            break;
        sum += eta[size_t(t)];
        marked[size_t(t)] = 1;
    }
    return marked;
}

/// Corners at which the field has no limit; by vertex of the mesh.
[[nodiscard]] std::vector<char> singularIn(const mesh::Mesh& m, const Solution& field)
{
    std::vector<char> corners(size_t(m.vertexCount()), 0);
    for (const auto& c : field.singularCorners())
        // The field's own mesh may be cut, and then has more.
        if (c.vertex >= 0 && size_t(c.vertex) < corners.size())
            corners[size_t(c.vertex)] = 1;
    return corners;
}

/// Those of some vertices that a marked cell reaches.
[[nodiscard]] std::vector<char> reached(const mesh::Mesh& m, const std::vector<char>& vertices,
                                        const std::vector<char>& marked)
{
    std::vector<char> some(vertices.size(), 0);
    for (int t = 0; t < m.cellCount(); ++t)
        if (marked[size_t(t)])
            for (const int v : m.corners(t))
                some[size_t(v)] |= vertices[size_t(v)];
    return some;
}

}  // namespace

std::unique_ptr<Rung> Study::first(const Ground& ground) const
{
    return std::make_unique<MeshRung>(*this, ground);
}

MeshRung::MeshRung(const Study& study, const Ground& ground)
    : m_study(study),
      m_model(ground.model),
      m_partition(ground.partition),
      m_mirror(m_model.meshMirror())
{
    m_known = ground.known && take(*ground.known);
    if (m_known)
        return;
    m_mesh = first(ground.progress);
    if (m_mirror >= 0) {
        m_half = m_mesh;
        m_mesh = mesh::mirrored(m_half, m_partition, m_mirror);
    }
}

bool MeshRung::take(const mesh::Mesh& known)
{
    if (m_mirror >= 0)
        return false;
    m_mesh = known;
    // The pairs may not be those that the mesh was made for.
    return mesh::findTwins(m_mesh, m_study.periodic());
}

void MeshRung::pairUp(mesh::Mesh& m) const
{
    if (!mesh::findTwins(m, m_study.periodic()))
        throw Error(
            4007,
            "the two sides of a periodic pair could not be meshed alike; draw the device so "
            "that both have the same pieces");
}

mesh::Options MeshRung::options() const
{
    mesh::Options o;
    o.pieces = m_study.activePieces();
    if (m_mirror >= 0)
        std::erase_if(o.pieces, [this](int f) {
            const Point& p = m_partition.pieces()[size_t(f)].inside;
            return (m_mirror == 0 ? p.x : m_mirror == 1 ? p.y : p.z) < 0;
        });
    if (const Line* l = m_model.document().first("mesh"))
        o.cellsAcrossGap = m_model.count(*l, "cells");
    for (const Line* l : m_model.document().ofKind("mesh size")) {
        const auto s = m_partition.resolve(m_model.place(*l, "in"), m_model, {l->id, "in", 0});
        const double size = m_model.number(*l, "size");
        double area = 0;
        for (const int f : s.pieces) {
            o.sizes.push_back({f, -1, size});
            area += m_partition.pieces()[size_t(f)].content;
        }
        for (const int e : s.sides)
            o.sizes.push_back({-1, e, size});
        constexpr double mostTriangles = 5e6;
        if (area / (0.4 * size * size) > mostTriangles)
            throw Error(7020,
                        "cells of " + base::format(size, base::dim::length) + " in '" +
                            l->get("in") +
                            "' would be more than 5 million triangles; ask for larger ones",
                        {l->id, "size", 0});
    }
    const auto sizes = m_study.cellSizes();
    o.sizes.insert(o.sizes.end(), sizes.begin(), sizes.end());
    o.periodic = m_study.periodic();
    return o;
}

mesh::Mesh MeshRung::first(base::Progress& progress) const
{
    mesh::Mesh m = mesh::generate(m_partition, options(), progress);
    pairUp(m);
    m = mesh::refineAlong(std::move(m), m_partition, m_study.cellsAlong(), progress);
    // Cells shrink towards corners where the field is singular before anything is solved. Towards
    // edges of solids that costs too much: there the indicator finds the few that matter.
    const int cornerLevels = m.dimension == 3 ? 0 : 3;
    for (int i = 0; i < cornerLevels; ++i) {
        std::vector<char> corners(size_t(m.vertexCount()), 0);
        for (const auto& c : m_study.corners(m, m_partition))
            corners[size_t(c.vertex)] = 1;
        if (std::find(corners.begin(), corners.end(), 1) == corners.end())
            break;
        m = mesh::refine(m, m_partition, touching(m, corners));
        pairUp(m);
    }
    return m;
}

std::vector<double> MeshRung::indicator(Solution& field, const Goals& goals) const
{
    std::vector<double> eta(size_t(m_mesh.cellCount()), 0.0);
    auto add = [&eta](const std::vector<double>& more) {
        const double sum = std::accumulate(more.begin(), more.end(), 0.0);
        for (size_t t = 0; t < eta.size() && sum > 0; ++t)
            eta[t] += more[t] / sum;
    };
    // Where only values at places are left, nothing else is worth refining for.
    if (goals.wholly || goals.places.empty())
        add(field.indicator(goals.allDrives));
    for (const auto& functional : goals.places)
        add(field.dualIndicator(functional));
    return eta;
}

void MeshRung::climb(Solution& field, const Goals& goals)
{
    // In space every marked cell costs several others: smaller steps reach a figure sooner.
    const bool solid = m_mesh.dimension == 3;
    const double share = solid             ? m_study.solidShare(goals.onlyCheck)
                         : goals.onlyCheck ? 0.75
                                           : 0.85;
    const std::vector<char> marked = mostOf(indicator(field, goals), share);
    // The first refinement goes to every singular corner: else one that the indicator passes
    // over would keep its error in both passes, unseen.
    std::vector<char> corners = singularIn(m_mesh, field);
    if (goals.passes > 1 || solid)
        corners = reached(m_mesh, corners, marked);
    refine(marked);
    // Towards a singular corner the error falls slowly: go two levels further at once.
    const int extraLevels = solid ? 0 : 2;
    const bool any = std::find(corners.begin(), corners.end(), 1) != corners.end();
    for (int i = 0; i < extraLevels && any; ++i) {
        // Vertices keep their numbers; new ones are no corners.
        corners.resize(size_t(m_mesh.vertexCount()), 0);
        refine(touching(m_mesh, corners));
    }
}

void MeshRung::refine(const std::vector<char>& marked)
{
    if (m_mirror < 0) {
        m_mesh = mesh::refine(m_mesh, m_partition, marked);
        pairUp(m_mesh);
        return;
    }
    // What either side asks for is done on both.
    const auto n = size_t(m_half.cellCount());
    std::vector<char> either(marked.begin(), marked.begin() + std::ptrdiff_t(n));
    for (size_t t = 0; t < n; ++t)
        either[t] = either[t] || marked[n + t];
    m_half = mesh::refine(m_half, m_partition, either);
    m_mesh = mesh::mirrored(m_half, m_partition, m_mirror);
}

}  // namespace yh::physics
