#include "run/mesh_ladder.h"

#include "sheet/schema.h"

#include <algorithm>

namespace yh::run {

using base::Error;
using physics::Point;
using sheet::Line;
using sheet::Model;

std::string shapeKey(const Model& model)
{
    std::string key;
    char buffer[96];
    const Line* open = model.mappedSpace();
    for (const Line& l : model.document().lines) {
        const sheet::Kind* k = sheet::findKind(l.kind);
        if (!k || (k->section != "shape" && k->section != "mesh" && k->section != "symmetry" &&
                   &l != open))
            continue;
        key += l.kind + ":" + l.name();
        for (const sheet::Slot& f : k->entries) {
            key += "|" + f.key + "=";
            if (f.type == sheet::SlotType::quantity && (l.has(f.key) || !f.fallback.empty())) {
                std::snprintf(buffer, sizeof buffer, "%.17g", model.number(l, f.key));
                key += buffer;
            } else if (f.type == sheet::SlotType::point && (l.has(f.key) || !f.fallback.empty())) {
                const Point p = model.point(l, f.key);
                std::snprintf(buffer, sizeof buffer, "%.17g,%.17g,%.17g", p.x, p.y, p.z);
                key += buffer;
            } else if (f.type == sheet::SlotType::points && l.has(f.key)) {
                for (const auto& s : model.path(l, f.key)) {
                    std::snprintf(buffer, sizeof buffer, "%.17g,%.17g,%.17g;", s.to.x, s.to.y,
                                  s.to.z);
                    key += buffer;
                    if (s.via) {
                        std::snprintf(buffer, sizeof buffer, "via %.17g,%.17g,%.17g;", s.via->x,
                                      s.via->y, s.via->z);
                        key += buffer;
                    }
                }
            } else if (f.type == sheet::SlotType::count && (l.has(f.key) || !f.fallback.empty())) {
                key += std::to_string(model.count(l, f.key));
            } else {
                key += l.get(f.key);
            }
        }
        key += "\n";
    }
    if (const auto waves = model.openSpace()) {
        std::snprintf(buffer, sizeof buffer, "open space|%.17g|%.17g\n", waves->distance,
                      waves->thickness);
        key += buffer;
    }
    return key;
}

std::vector<char> touching(const mesh::Mesh& m, const std::vector<char>& vertices)
{
    std::vector<char> marked(size_t(m.cellCount()), 0);
    for (int t = 0; t < m.cellCount(); ++t)
        for (const int v : m.corners(t))
            marked[size_t(t)] |= vertices[size_t(v)];
    return marked;
}

MeshLadder::MeshLadder(const Model& model, const shape::Partition& partition,
                       const physics::Study& study, base::Progress& progress)
    : m_model(model),
      m_partition(partition),
      m_study(study),
      m_progress(progress),
      m_mirror(model.meshMirror())
{
}

void MeshLadder::begin()
{
    m_mesh = first();
    if (m_mirror >= 0) {
        m_half = m_mesh;
        m_mesh = mesh::mirrored(m_half, m_partition, m_mirror);
    }
}

bool MeshLadder::take(const mesh::Mesh& known)
{
    if (m_mirror >= 0)
        return false;
    m_mesh = known;
    // The pairs may not be those that the mesh was made for.
    return mesh::findTwins(m_mesh, m_study.periodic());
}

void MeshLadder::pairUp(mesh::Mesh& m) const
{
    if (!mesh::findTwins(m, m_study.periodic()))
        throw Error(
            4007,
            "the two sides of a periodic pair could not be meshed alike; draw the device so "
            "that both have the same pieces");
}

mesh::Options MeshLadder::options() const
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

mesh::Mesh MeshLadder::first() const
{
    mesh::Mesh m = mesh::generate(m_partition, options(), m_progress);
    pairUp(m);
    m = mesh::refineAlong(std::move(m), m_partition, m_study.cellsAlong(), m_progress);
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

void MeshLadder::refine(const std::vector<char>& marked)
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

}  // namespace yh::run
