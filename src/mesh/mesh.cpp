#include "mesh/mesh.h"

#include <algorithm>
#include <cmath>
#include <unordered_map>

namespace yh::mesh {

namespace {

std::uint64_t key(int a, int b)
{
    if (a > b)
        std::swap(a, b);
    return (std::uint64_t(std::uint32_t(a)) << 32) | std::uint32_t(b);
}

double cross(Point a, Point b)
{
    return a.x * b.y - a.y * b.x;
}

}  // namespace

void Mesh::connect(const shape::Partition& partition, std::span<const CurveEdge> onCurves)
{
    // Edges in the order of their lower, then upper corner: the same for any history.
    const size_t nt = triangles.size();
    struct Half
    {
        std::uint64_t k;
        int triangle, local;
    };
    std::vector<Half> halves;
    halves.reserve(3 * nt);
    for (size_t t = 0; t < nt; ++t)
        for (size_t k = 0; k < 3; ++k)
            halves.push_back({key(triangles[t][k], triangles[t][(k + 1) % 3]), int(t), int(k)});
    std::sort(halves.begin(), halves.end(), [](const Half& a, const Half& b) {
        return a.k != b.k ? a.k < b.k : a.triangle < b.triangle;
    });
    edges.clear();
    edgeTriangles.clear();
    triangleEdges.assign(nt, {});
    std::vector<std::uint64_t> keys;
    for (const Half& h : halves) {
        if (keys.empty() || keys.back() != h.k) {
            keys.push_back(h.k);
            edges.push_back({int(h.k >> 32), int(h.k & 0xffffffffu)});
            edgeTriangles.push_back({h.triangle, -1});
        } else {
            edgeTriangles.back()[1] = h.triangle;
        }
        triangleEdges[size_t(h.triangle)][size_t(h.local)] = int(keys.size()) - 1;
    }
    curve.assign(edges.size(), -1);
    parameters.assign(edges.size(), {0.0, 0.0});
    for (const CurveEdge& c : onCurves) {
        const auto it = std::lower_bound(keys.begin(), keys.end(), key(c.a, c.b));
        if (it == keys.end() || *it != key(c.a, c.b))
            continue;
        const size_t e = size_t(it - keys.begin());
        curve[e] = c.curve;
        parameters[e] = c.a < c.b ? std::array{c.ta, c.tb} : std::array{c.tb, c.ta};
    }
    middles.resize(edges.size());
    for (size_t e = 0; e < edges.size(); ++e) {
        if (curve[e] >= 0) {
            middles[e] = partition.at(curve[e], 0.5 * (parameters[e][0] + parameters[e][1]));
        } else {
            const Point a = vertices[size_t(edges[e][0])], b = vertices[size_t(edges[e][1])];
            middles[e] = {0.5 * (a.x + b.x), 0.5 * (a.y + b.y)};
        }
    }
}

Geometry::Geometry(const Mesh& mesh, int triangle)
{
    const auto& t = mesh.triangles[size_t(triangle)];
    for (size_t k = 0; k < 3; ++k) {
        node[k] = mesh.vertices[size_t(t[k])];
        node[3 + k] = mesh.middle(triangle, int(k));
    }
    // A middle off the chord by less than this share of it changes no figure within rounding.
    constexpr double straight = 1e-9;
    for (size_t k = 0; k < 3; ++k) {
        const Point a = node[k], b = node[(k + 1) % 3], m = node[3 + k];
        const double l = std::abs(b.x - a.x) + std::abs(b.y - a.y);
        if (std::abs(m.x - 0.5 * (a.x + b.x)) + std::abs(m.y - 0.5 * (a.y + b.y)) > straight * l)
            curved = true;
    }
}

Point Geometry::at(double u, double v) const
{
    const double w = 1 - u - v;
    const double n[6] = {w * (2 * w - 1), u * (2 * u - 1), v * (2 * v - 1),
                         4 * w * u,       4 * u * v,       4 * v * w};
    Point p;
    for (size_t i = 0; i < 6; ++i) {
        p.x += n[i] * node[i].x;
        p.y += n[i] * node[i].y;
    }
    return p;
}

void Geometry::jacobian(double u, double v, Point& du, Point& dv) const
{
    const double w = 1 - u - v;
    const double nu[6] = {1 - 4 * w, 4 * u - 1, 0, 4 * (w - u), 4 * v, -4 * v};
    const double nv[6] = {1 - 4 * w, 0, 4 * v - 1, -4 * u, 4 * u, 4 * (w - v)};
    du = dv = {};
    for (size_t i = 0; i < 6; ++i) {
        du.x += nu[i] * node[i].x;
        du.y += nu[i] * node[i].y;
        dv.x += nv[i] * node[i].x;
        dv.y += nv[i] * node[i].y;
    }
}

double Geometry::determinant(double u, double v) const
{
    Point du, dv;
    jacobian(u, v, du, dv);
    return cross(du, dv);
}

void Geometry::onSide(int k, double s, double& u, double& v)
{
    u = k == 0 ? s : k == 1 ? 1 - s : 0.0;
    v = k == 0 ? 0.0 : k == 1 ? s : 1 - s;
}

Point Geometry::alongSide(int k, double u, double v) const
{
    Point du, dv;
    jacobian(u, v, du, dv);
    const double a = k == 0 ? 1 : k == 1 ? -1 : 0, b = k == 0 ? 0 : k == 1 ? 1 : -1;
    return {a * du.x + b * dv.x, a * du.y + b * dv.y};
}

double Geometry::leastDeterminant() const
{
    // The determinant is a quadratic of (u, v): corner values and the Bernstein coefficients of
    // the edges bound it from below.
    const double c0 = determinant(0, 0), c1 = determinant(1, 0), c2 = determinant(0, 1);
    const double m0 = 2 * determinant(0.5, 0) - 0.5 * (c0 + c1),
                 m1 = 2 * determinant(0.5, 0.5) - 0.5 * (c1 + c2),
                 m2 = 2 * determinant(0, 0.5) - 0.5 * (c2 + c0);
    return std::min({c0, c1, c2, m0, m1, m2});
}

bool Geometry::invert(Point p, double& u, double& v) const
{
    u = v = 1.0 / 3.0;
    for (int i = 0; i < 20; ++i) {
        const Point q = at(u, v);
        Point du, dv;
        jacobian(u, v, du, dv);
        const double det = cross(du, dv);
        if (det == 0)
            return false;
        const Point r{p.x - q.x, p.y - q.y};
        const double a = cross(r, dv) / det, b = cross(du, r) / det;
        u += a;
        v += b;
        if (std::abs(a) + std::abs(b) < 1e-13)
            return true;
        if (std::abs(u) + std::abs(v) > 50)
            return false;
        if (!curved && i == 1)
            return true;
    }
    return true;
}

Mesh refine(const Mesh& mesh, const shape::Partition& partition, const std::vector<char>& marked,
            std::vector<int>* parent)
{
    const int nt = mesh.triangleCount();
    std::vector<char> split(size_t(mesh.edgeCount()), 0);
    std::vector<int> longest(size_t(nt), 0);
    auto length = [&](int e) {
        const Point a = mesh.vertices[size_t(mesh.edges[size_t(e)][0])],
                    b = mesh.vertices[size_t(mesh.edges[size_t(e)][1])];
        return (a.x - b.x) * (a.x - b.x) + (a.y - b.y) * (a.y - b.y);
    };
    for (int t = 0; t < nt; ++t) {
        const auto& te = mesh.triangleEdges[size_t(t)];
        double best = -1;
        for (int k = 0; k < 3; ++k) {
            // Equal lengths are told apart by the edge number, so that neighbours agree.
            const double l = length(te[size_t(k)]);
            if (l > best * (1 + 1e-12) ||
                (l > best * (1 - 1e-12) && te[size_t(k)] < te[size_t(longest[size_t(t)])])) {
                best = std::max(best, l);
                longest[size_t(t)] = k;
            }
        }
    }
    std::vector<int> stack;
    auto splitEdge = [&](int e) {
        if (split[size_t(e)])
            return;
        split[size_t(e)] = 1;
        for (const int t : mesh.edgeTriangles[size_t(e)])
            if (t >= 0)
                stack.push_back(t);
    };
    for (int t = 0; t < nt; ++t)
        if (marked[size_t(t)])
            for (const int e : mesh.triangleEdges[size_t(t)])
                splitEdge(e);
    while (!stack.empty()) {
        const int t = stack.back();
        stack.pop_back();
        splitEdge(mesh.triangleEdges[size_t(t)][size_t(longest[size_t(t)])]);
    }

    Mesh fine;
    fine.vertices = mesh.vertices;
    std::vector<int> node(size_t(mesh.edgeCount()), -1);
    std::vector<Mesh::CurveEdge> onCurves;
    for (int e = 0; e < mesh.edgeCount(); ++e) {
        const auto& ends = mesh.edges[size_t(e)];
        const int c = mesh.curve[size_t(e)];
        const auto& t = mesh.parameters[size_t(e)];
        if (split[size_t(e)]) {
            node[size_t(e)] = int(fine.vertices.size());
            fine.vertices.push_back(mesh.middles[size_t(e)]);
            if (c >= 0) {
                const double tm = 0.5 * (t[0] + t[1]);
                onCurves.push_back({ends[0], node[size_t(e)], c, t[0], tm});
                onCurves.push_back({node[size_t(e)], ends[1], c, tm, t[1]});
            }
        } else if (c >= 0) {
            onCurves.push_back({ends[0], ends[1], c, t[0], t[1]});
        }
    }
    if (parent)
        parent->clear();
    for (int t = 0; t < nt; ++t) {
        auto push = [&](int a, int b, int c) {
            fine.triangles.push_back({a, b, c});
            fine.face.push_back(mesh.face[size_t(t)]);
            if (parent)
                parent->push_back(t);
        };
        // Turned so that the longest edge comes first: corners a, b, c with ab longest.
        const size_t k = size_t(longest[size_t(t)]);
        const auto& v = mesh.triangles[size_t(t)];
        const auto& e = mesh.triangleEdges[size_t(t)];
        const int a = v[k], b = v[(k + 1) % 3], c = v[(k + 2) % 3];
        const int m = node[size_t(e[k])], n = node[size_t(e[(k + 1) % 3])],
                  o = node[size_t(e[(k + 2) % 3])];
        if (m < 0) {
            push(a, b, c);
        } else if (n >= 0 && o >= 0) {
            push(a, m, o);
            push(m, b, n);
            push(o, n, c);
            push(m, n, o);
        } else {
            if (n >= 0) {
                push(m, b, n);
                push(m, n, c);
            } else {
                push(m, b, c);
            }
            if (o >= 0) {
                push(a, m, o);
                push(o, m, c);
            } else {
                push(a, m, c);
            }
        }
    }
    fine.connect(partition, onCurves);
    return fine;
}

Quality quality(const Mesh& mesh)
{
    Quality q;
    double sum = 0;
    q.worst = 2;
    for (int t = 0; t < mesh.triangleCount(); ++t) {
        const Geometry g(mesh, t);
        double l[3], p = 0;
        for (size_t k = 0; k < 3; ++k) {
            l[k] = std::hypot(g.node[(k + 1) % 3].x - g.node[k].x,
                              g.node[(k + 1) % 3].y - g.node[k].y);
            p += l[k];
        }
        const double area =
            0.5 * std::abs(cross({g.node[1].x - g.node[0].x, g.node[1].y - g.node[0].y},
                                 {g.node[2].x - g.node[0].x, g.node[2].y - g.node[0].y}));
        const double value = 16 * area * area / (p * l[0] * l[1] * l[2]);
        sum += value;
        q.curvedCount += g.curved;
        if (value < q.worst) {
            q.worst = value;
            q.worstAt = g.at(1.0 / 3, 1.0 / 3);
        }
    }
    q.mean = mesh.triangleCount() ? sum / mesh.triangleCount() : 1.0;
    return q;
}

Locator::Locator(const Mesh& mesh) : m_mesh(mesh)
{
    Point low{1e300, 1e300}, high{-1e300, -1e300};
    auto grow = [](Point& l, Point& h, Point p) {
        l.x = std::min(l.x, p.x);
        l.y = std::min(l.y, p.y);
        h.x = std::max(h.x, p.x);
        h.y = std::max(h.y, p.y);
    };
    for (const Point& p : mesh.vertices)
        grow(low, high, p);
    for (const Point& p : mesh.middles)
        grow(low, high, p);
    const double w = high.x - low.x, h = high.y - low.y;
    m_low = low;
    m_cell = std::sqrt(std::max(w * h, 1e-300) / std::max(1, mesh.triangleCount()));
    m_nx = std::max(1, int(w / m_cell) + 1);
    m_ny = std::max(1, int(h / m_cell) + 1);
    auto cells = [&](int t, auto&& visit) {
        Point l{1e300, 1e300}, u{-1e300, -1e300};
        for (size_t k = 0; k < 3; ++k) {
            grow(l, u, mesh.vertices[size_t(mesh.triangles[size_t(t)][k])]);
            // The bulge of a quadratic edge reaches no further than twice its middle's offset.
            const Point m = mesh.middle(t, int(k));
            grow(l, u, m);
        }
        const double pad = 0.1 * std::max(u.x - l.x, u.y - l.y);
        const int i0 = std::clamp(int((l.x - pad - m_low.x) / m_cell), 0, m_nx - 1),
                  i1 = std::clamp(int((u.x + pad - m_low.x) / m_cell), 0, m_nx - 1);
        const int j0 = std::clamp(int((l.y - pad - m_low.y) / m_cell), 0, m_ny - 1),
                  j1 = std::clamp(int((u.y + pad - m_low.y) / m_cell), 0, m_ny - 1);
        for (int j = j0; j <= j1; ++j)
            for (int i = i0; i <= i1; ++i)
                visit(j * m_nx + i);
    };
    m_start.assign(size_t(m_nx) * size_t(m_ny) + 1, 0);
    for (int t = 0; t < mesh.triangleCount(); ++t)
        cells(t, [&](int c) { ++m_start[size_t(c) + 1]; });
    for (size_t c = 1; c < m_start.size(); ++c)
        m_start[c] += m_start[c - 1];
    m_list.resize(size_t(m_start.back()));
    std::vector<int> at(m_start.begin(), m_start.end() - 1);
    for (int t = 0; t < mesh.triangleCount(); ++t)
        cells(t, [&](int c) { m_list[size_t(at[size_t(c)]++)] = t; });
}

Locator::Hit Locator::find(Point p) const
{
    const double fx = (p.x - m_low.x) / m_cell, fy = (p.y - m_low.y) / m_cell;
    if (!(fx >= -1 && fy >= -1 && fx <= m_nx + 1 && fy <= m_ny + 1))
        return {};
    const int c = std::clamp(int(fy), 0, m_ny - 1) * m_nx + std::clamp(int(fx), 0, m_nx - 1);
    Hit best;
    // A point on a border belongs to the triangle that it misses least.
    double least = -1e-9;
    for (int i = m_start[size_t(c)]; i < m_start[size_t(c) + 1]; ++i) {
        const int t = m_list[size_t(i)];
        const Geometry g(m_mesh, t);
        double u, v;
        if (!g.invert(p, u, v))
            continue;
        const double inside = std::min({u, v, 1 - u - v});
        if (inside >= least && (best.triangle < 0 || inside > least)) {
            least = inside;
            best = {t, std::clamp(u, 0.0, 1.0), std::clamp(v, 0.0, 1.0)};
            if (inside > 1e-9)
                break;
        }
    }
    return best;
}

}  // namespace yh::mesh
