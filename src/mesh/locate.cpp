// Which cell holds a point: a grid of boxes over the mesh.
#include "mesh/mesh.h"

#include <algorithm>
#include <cmath>

namespace yh::mesh {

namespace {

struct Box
{
    Point low{1e300, 1e300, 1e300}, high{-1e300, -1e300, -1e300};
    void add(const Point& p)
    {
        low = {std::min(low.x, p.x), std::min(low.y, p.y), std::min(low.z, p.z)};
        high = {std::max(high.x, p.x), std::max(high.y, p.y), std::max(high.z, p.z)};
    }
};

/** Where a cell may lie, with room for its bulges. */
Box around(const Mesh& mesh, int t)
{
    Box b;
    for (const int v : mesh.corners(t))
        b.add(mesh.vertices[size_t(v)]);
    for (const int e : mesh.edgesOf(t))
        b.add(mesh.middles[size_t(e)]);
    // The bulge of a quadratic edge reaches little further than its middle's offset.
    const Point size = b.high - b.low;
    const double pad = 0.1 * std::max({size.x, size.y, size.z});
    return {b.low - Point{pad, pad, pad}, b.high + Point{pad, pad, pad}};
}

}  // namespace

Locator::Locator(const Mesh& mesh) : m_mesh(mesh)
{
    Box all;
    for (const Point& p : mesh.vertices)
        all.add(p);
    for (const Point& p : mesh.middles)
        all.add(p);
    const Point span = all.high - all.low;
    m_low = all.low;
    const double count = std::max(1, mesh.cellCount());
    m_cell = mesh.dimension == 2
                 ? std::sqrt(std::max(span.x * span.y, 1e-300) / count)
                 : std::cbrt(std::max(span.x * span.y * span.z, 1e-300) / (0.25 * count));
    m_nx = std::max(1, int(span.x / m_cell) + 1);
    m_ny = std::max(1, int(span.y / m_cell) + 1);
    m_nz = mesh.dimension == 2 ? 1 : std::max(1, int(span.z / m_cell) + 1);
    auto cells = [&](int t, auto&& visit) {
        const Box b = around(m_mesh, t);
        auto index = [&](double x, int n) { return std::clamp(int(x / m_cell), 0, n - 1); };
        const int i0 = index(b.low.x - m_low.x, m_nx), i1 = index(b.high.x - m_low.x, m_nx),
                  j0 = index(b.low.y - m_low.y, m_ny), j1 = index(b.high.y - m_low.y, m_ny),
                  k0 = index(b.low.z - m_low.z, m_nz), k1 = index(b.high.z - m_low.z, m_nz);
        for (int k = k0; k <= k1; ++k)
            for (int j = j0; j <= j1; ++j)
                for (int i = i0; i <= i1; ++i)
                    visit((k * m_ny + j) * m_nx + i);
    };
    m_start.assign(size_t(m_nx) * size_t(m_ny) * size_t(m_nz) + 1, 0);
    for (int t = 0; t < mesh.cellCount(); ++t)
        cells(t, [&](int c) { ++m_start[size_t(c) + 1]; });
    for (size_t c = 1; c < m_start.size(); ++c)
        m_start[c] += m_start[c - 1];
    m_list.resize(size_t(m_start.back()));
    std::vector<int> at(m_start.begin(), m_start.end() - 1);
    for (int t = 0; t < mesh.cellCount(); ++t)
        cells(t, [&](int c) { m_list[size_t(at[size_t(c)]++)] = t; });
}

Locator::Hit Locator::find(Point p) const
{
    const Point f = (1 / m_cell) * (p - m_low);
    if (!(f.x >= -1 && f.y >= -1 && f.x <= m_nx + 1 && f.y <= m_ny + 1 &&
          (m_mesh.dimension == 2 || (f.z >= -1 && f.z <= m_nz + 1))))
        return {};
    const int c =
        (std::clamp(int(f.z), 0, m_nz - 1) * m_ny + std::clamp(int(f.y), 0, m_ny - 1)) * m_nx +
        std::clamp(int(f.x), 0, m_nx - 1);
    Hit best;
    // A point on a border belongs to the cell that it misses least.
    double least = -1e-9;
    for (int i = m_start[size_t(c)]; i < m_start[size_t(c) + 1]; ++i) {
        const int t = m_list[size_t(i)];
        const Geometry g(m_mesh, t);
        Point xi;
        if (!g.invert(p, xi))
            continue;
        double inside = std::min({xi.x, xi.y, 1 - xi.x - xi.y - xi.z});
        if (m_mesh.dimension == 3)
            inside = std::min(inside, xi.z);
        if (inside >= least && (best.cell < 0 || inside > least)) {
            least = inside;
            best = {t,
                    {std::clamp(xi.x, 0.0, 1.0), std::clamp(xi.y, 0.0, 1.0),
                     std::clamp(xi.z, 0.0, 1.0)}};
            if (inside > 1e-9)
                break;
        }
    }
    return best;
}

}  // namespace yh::mesh
