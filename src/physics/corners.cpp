// Exponents of the field at corners of a drawing.
#include "physics/field.h"

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

}  // namespace

std::vector<SingularCorner> findSingularCorners(const CornerProblem& problem,
                                                const mesh::Mesh& mesh,
                                                const shape::Partition& partition)
{
    // Edges of solids are not looked at.
    if (mesh.dimension == 3)
        return {};
    // Only ends of curves can be corners.
    std::map<int, std::vector<int>> at;
    std::vector<std::array<int, 2>> touches(size_t(mesh.vertexCount()), {-1, -1});
    std::vector<char> corner(size_t(mesh.vertexCount()), 0);
    const std::vector<char>& metal = problem.held;
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
    std::vector<SingularCorner> list;
    for (const auto& [corner_, triangles] : at) {
        const int v = corner_;
        const auto& region = partition.regions()[size_t(
            partition.pieces()[size_t(mesh.piece[size_t(triangles[0])])].region)];
        if (region.name == "far shell" || (problem.measure == fem::Measure::axisymmetric &&
                                           mesh.vertices[size_t(v)].x < 1e-9 * partition.size()))
            continue;
        // Triangles around the corner: from side `a` to side `b`, anticlockwise, linked by edges.
        struct Wedge
        {
            int first, last;
            double angle, eps;
        };
        std::vector<Wedge> wedges;
        for (const int t : triangles) {
            const auto c = mesh.corners(t);
            const size_t k = size_t(std::find(c.begin(), c.end(), v) - c.begin());
            const int first = mesh.cellEdges[size_t(t)][k],
                      last = mesh.cellEdges[size_t(t)][(k + 2) % 3];
            // Tangents at the corner: a curved side leaves along twice its middle, less its end.
            const mesh::Geometry g(mesh, t);
            auto leaving = [&](size_t mid, size_t end) {
                return Point{4 * g.node[mid].x - g.node[end].x - 3 * g.node[k].x,
                             4 * g.node[mid].y - g.node[end].y - 3 * g.node[k].y};
            };
            const Point p = leaving(3 + k, (k + 1) % 3), q = leaving(3 + (k + 2) % 3, (k + 2) % 3);
            const double strength =
                problem.coefficient(mesh.piece[size_t(t)], mesh.vertices[size_t(v)]);
            if (strength > 0)
                wedges.push_back({first, last,
                                  std::atan2(p.x * q.y - p.y * q.x, p.x * q.x + p.y * q.y),
                                  strength});
        }
        auto isMetal = [&](int e) {
            return mesh.sideTag[size_t(e)] >= 0 && metal[size_t(mesh.sideTag[size_t(e)])];
        };
        auto isEnd = [&](int e) {
            if (isMetal(e) || mesh.sideCells[size_t(e)][1] < 0)
                return true;
            for (const int t : mesh.sideCells[size_t(e)])
                if (!(problem.coefficient(mesh.piece[size_t(t)], mesh.vertices[size_t(v)]) > 0))
                    return true;
            return false;
        };
        std::vector<char> seen(wedges.size(), 0);
        double least = 1.0;
        auto walk = [&](size_t i, bool ring) {
            const int firstEdge = wedges[i].first;
            std::vector<Sector> sectors;
            int lastEdge = -1;
            for (bool more = true; more;) {
                seen[i] = 1;
                sectors.push_back({wedges[i].angle, wedges[i].eps});
                lastEdge = wedges[i].last;
                more = false;
                if (!isEnd(lastEdge))
                    for (size_t j = 0; j < wedges.size(); ++j)
                        if (!seen[j] && wedges[j].first == lastEdge) {
                            i = j;
                            more = true;
                            break;
                        }
            }
            const int metals = isMetal(firstEdge) + isMetal(lastEdge);
            least = std::min(least, leastExponent(sectors, ring          ? 0
                                                           : metals == 2 ? 1
                                                           : metals == 1 ? 2
                                                                         : 3));
        };
        for (size_t i = 0; i < wedges.size(); ++i)
            if (!seen[i] && isEnd(wedges[i].first))
                walk(i, false);
        for (size_t i = 0; i < wedges.size(); ++i)
            if (!seen[i])
                walk(i, true);
        // A weaker corner than this cannot be told from a smooth field in practice.
        constexpr double noticeable = 0.99;
        if (least < noticeable)
            list.push_back({v, mesh.vertices[size_t(v)], least});
    }
    return list;
}

}  // namespace yh::physics
