// Exponents of the field at corners of drawings and edges of solids.
#include "physics/common/solution.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace yh::physics {

namespace {

struct Sector
{
    double angle, eps;
};

/// Closing condition of the angular problem at exponent a; its sign changes at a root.
/// ends: 0 ring, 1 both conductors, 2 conductor and insulated, 3 both insulated.
double angular(const std::vector<Sector>& sectors, int ends, double a)
{
    // State (f, eps f'): columns of the transfer matrix.
    double m[2][2] = {{1, 0}, {0, 1}};
    for (const Sector& s : sectors) {
        const double c = std::cos(a * s.angle), n = std::sin(a * s.angle);
        const double t[2][2] = {{c, n / (a * s.eps)}, {-a * s.eps * n, c}};
        double r[2][2];
        for (int i = 0; i < 2; ++i)
            for (int j = 0; j < 2; ++j)
                r[i][j] = t[i][0] * m[0][j] + t[i][1] * m[1][j];
        std::copy(&r[0][0], &r[0][0] + 4, &m[0][0]);
    }
    switch (ends) {
        case 0:
            return m[0][0] + m[1][1] - 2;
        case 1:
            return m[0][1];
        case 2:
            return m[1][1];
        default:
            return m[1][0];
    }
}

/// Least exponent below 1, or 1. A ring's condition touches zero without crossing in symmetric
/// cases (a = 1 for one medium), so only real crossings count.
double leastExponent(const std::vector<Sector>& sectors, int ends)
{
    constexpr double start = 0.02, step = 0.01, end = 0.995;
    double previous = angular(sectors, ends, start);
    for (double a = start + step; a < end; a += step) {
        const double now = angular(sectors, ends, a);
        if (previous * now < 0) {
            double lo = a - step, hi = a;
            for (int i = 0; i < 40; ++i) {
                const double mid = 0.5 * (lo + hi);
                (angular(sectors, ends, lo) * angular(sectors, ends, mid) <= 0 ? hi : lo) = mid;
            }
            return 0.5 * (lo + hi);
        }
        previous = now;
    }
    return 1.0;
}

/// The part of a cell at a corner or edge, between two of the mesh's sides.
struct Wedge
{
    std::array<int, 2> side;
    double angle, strength;
};

/// What ends a row of wedges.
class Ends
{
public:
    Ends(const CornerProblem& problem, const mesh::Mesh& mesh) : m_problem(problem), m_mesh(mesh) {}
    [[nodiscard]] bool isHeld(int side) const
    {
        const int tag = m_mesh.sideTag[size_t(side)];
        return tag >= 0 && m_problem.held[size_t(tag)];
    }
    [[nodiscard]] bool isEnd(int side, const Point& at) const
    {
        if (isHeld(side) || m_mesh.sideCells[size_t(side)][1] < 0)
            return true;
        for (const int t : m_mesh.sideCells[size_t(side)])
            if (!(m_problem.coefficient(m_mesh.piece[size_t(t)], at) > 0))
                return true;
        return false;
    }

private:
    const CornerProblem& m_problem;
    const mesh::Mesh& m_mesh;
};

/// Least exponent of all rows and rings of wedges round one place.
double leastAround(const std::vector<Wedge>& wedges, const Ends& ends, const Point& at)
{
    std::vector<char> seen(wedges.size(), 0);
    double least = 1.0;
    auto walk = [&](size_t i, size_t entry, bool ring) {
        const int first = wedges[i].side[entry];
        int last = -1;
        std::vector<Sector> sectors;
        for (bool more = true; more;) {
            seen[i] = 1;
            sectors.push_back({wedges[i].angle, wedges[i].strength});
            last = wedges[i].side[1 - entry];
            more = false;
            if (!ends.isEnd(last, at))
                for (size_t j = 0; j < wedges.size() && !more; ++j)
                    if (!seen[j] && (wedges[j].side[0] == last || wedges[j].side[1] == last)) {
                        i = j;
                        entry = wedges[j].side[0] == last ? 0 : 1;
                        more = true;
                    }
        }
        const int held = ends.isHeld(first) + ends.isHeld(last);
        least = std::min(least, leastExponent(sectors, ring        ? 0
                                                       : held == 2 ? 1
                                                       : held == 1 ? 2
                                                                   : 3));
    };
    for (size_t i = 0; i < wedges.size(); ++i)
        for (size_t k = 0; k < 2; ++k)
            if (!seen[i] && ends.isEnd(wedges[i].side[k], at))
                walk(i, k, false);
    for (size_t i = 0; i < wedges.size(); ++i)
        if (!seen[i])
            walk(i, 0, true);
    return least;
}

/// A weaker corner than this cannot be told from a smooth field in practice.
constexpr double noticeable = 0.99;

/** The part of a cell next to one of its edges. */
Wedge wedgeAtEdge(const mesh::Mesh& mesh, int t, int k, double strength)
{
    // The sides at an edge are those opposite the corners that it does not have. The angle
    // is read at the middle of the edge, on the curved sides.
    const int a = mesh::edgeCorner[k][0], b = mesh::edgeCorner[k][1];
    const mesh::Geometry g(mesh, t);
    constexpr double corner[4][3] = {{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}};
    const Point xi{0.5 * (corner[a][0] + corner[b][0]), 0.5 * (corner[a][1] + corner[b][1]),
                   0.5 * (corner[a][2] + corner[b][2])};
    std::array<int, 2> side{-1, -1};
    Point normal[2];
    for (int c = 0, found = 0; c < 4; ++c)
        if (c != a && c != b) {
            side[size_t(found)] = mesh.cellFaces[size_t(t)][size_t(c)];
            const Point n = g.outward(c, xi);
            normal[found++] = (1 / norm(n)) * n;
        }
    const double inside = std::acos(std::clamp(-dot(normal[0], normal[1]), -1.0, 1.0));
    return {side, inside, strength};
}

/// Ends of the edges of the mesh on singular edges of a solid.
std::vector<SingularCorner> singularEdges(const CornerProblem& problem, const mesh::Mesh& mesh,
                                          const shape::Partition& partition)
{
    std::map<int, std::vector<std::pair<int, int>>> cells;  // by edge: cell and its own number
    for (int t = 0; t < mesh.cellCount(); ++t)
        for (int k = 0; k < 6; ++k)
            if (const int e = mesh.cellEdges[size_t(t)][size_t(k)]; mesh.edgeCurve[size_t(e)] >= 0)
                cells[e].push_back({t, k});
    const Ends ends(problem, mesh);
    std::map<int, double> exponent;  // by vertex
    for (const auto& [e, list] : cells) {
        const auto& region = partition.regions()[size_t(
            partition.pieces()[size_t(mesh.piece[size_t(list.front().first)])].region)];
        if (region.hidden)
            continue;
        const Point at = mesh.middles[size_t(e)];
        std::vector<Wedge> wedges;
        for (const auto& [t, k] : list) {
            const double strength = problem.coefficient(mesh.piece[size_t(t)], at);
            if (!(strength > 0))
                continue;
            wedges.push_back(wedgeAtEdge(mesh, t, k, strength));
        }
        const double least = leastAround(wedges, ends, at);
        if (least < noticeable)
            for (const int v : mesh.edges[size_t(e)]) {
                const auto [it, fresh] = exponent.emplace(v, least);
                it->second = std::min(it->second, least);
            }
    }
    std::vector<SingularCorner> result;
    for (const auto& [v, least] : exponent)
        result.push_back({v, mesh.vertices[size_t(v)], least});
    return result;
}

/** The part of a cell of a drawing next to one of its corners. */
Wedge wedgeAtCorner(const mesh::Mesh& mesh, int t, int v, double strength)
{
    const auto c = mesh.corners(t);
    const size_t k = size_t(std::find(c.begin(), c.end(), v) - c.begin());
    const int first = mesh.cellEdges[size_t(t)][k], last = mesh.cellEdges[size_t(t)][(k + 2) % 3];
    // Tangents at the corner: a curved side leaves along twice its middle, less its end.
    const mesh::Geometry g(mesh, t);
    auto leaving = [&](size_t mid, size_t end) {
        return Point{4 * g.node[mid].x - g.node[end].x - 3 * g.node[k].x,
                     4 * g.node[mid].y - g.node[end].y - 3 * g.node[k].y};
    };
    const Point p = leaving(3 + k, (k + 1) % 3), q = leaving(3 + (k + 2) % 3, (k + 2) % 3);
    return {{first, last}, std::atan2(p.x * q.y - p.y * q.x, p.x * q.x + p.y * q.y), strength};
}

/** The cells at every corner of a drawing; only ends of curves can be corners. */
std::map<int, std::vector<int>> cellsAtCorners(const mesh::Mesh& mesh,
                                               const shape::Partition& partition)
{
    std::map<int, std::vector<int>> at;
    std::vector<char> corner(size_t(mesh.vertexCount()), 0);
    for (int e = 0; e < mesh.edgeCount(); ++e)
        if (const int c = mesh.sideTag[size_t(e)]; c >= 0)
            for (size_t k = 0; k < 2; ++k) {
                const double t = mesh.parameters[size_t(e)][k];
                const shape::Side& g = partition.sides()[size_t(c)];
                const double reach = 1e-9 * (g.t1 - g.t0);
                if (std::abs(t - g.t0) < reach || std::abs(t - g.t1) < reach)
                    corner[size_t(mesh.edges[size_t(e)][k])] = 1;
            }
    for (int t = 0; t < mesh.cellCount(); ++t)
        for (const int v : mesh.corners(t))
            if (corner[size_t(v)])
                at[v].push_back(t);
    return at;
}

}  // namespace

std::vector<SingularCorner> findSingularCorners(const CornerProblem& problem,
                                                const mesh::Mesh& mesh,
                                                const shape::Partition& partition)
{
    if (mesh.dimension == 3)
        return singularEdges(problem, mesh, partition);
    const auto at = cellsAtCorners(mesh, partition);
    const Ends ends(problem, mesh);
    std::vector<SingularCorner> list;
    for (const auto& [corner_, triangles] : at) {
        const int v = corner_;
        const auto& region = partition.regions()[size_t(
            partition.pieces()[size_t(mesh.piece[size_t(triangles[0])])].region)];
        if (region.name == "far shell" || (problem.measure == fem::Measure::axisymmetric &&
                                           mesh.vertices[size_t(v)].x < 1e-9 * partition.size()))
            continue;
        std::vector<Wedge> wedges;
        for (const int t : triangles) {
            const double strength =
                problem.coefficient(mesh.piece[size_t(t)], mesh.vertices[size_t(v)]);
            if (strength > 0)
                wedges.push_back(wedgeAtCorner(mesh, t, v, strength));
        }
        const double least = leastAround(wedges, ends, mesh.vertices[size_t(v)]);
        if (least < noticeable)
            list.push_back({v, mesh.vertices[size_t(v)], least});
    }
    return list;
}

}  // namespace yh::physics
