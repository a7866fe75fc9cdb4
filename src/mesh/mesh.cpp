#include "mesh/mesh.h"

#include <algorithm>
#include <cmath>

namespace yh::mesh {

namespace {

std::uint64_t key(int a, int b)
{
    if (a > b)
        std::swap(a, b);
    return (std::uint64_t(std::uint32_t(a)) << 32) | std::uint32_t(b);
}

std::array<int, 3> sorted(int a, int b, int c)
{
    std::array<int, 3> f{a, b, c};
    std::sort(f.begin(), f.end());
    return f;
}

/// Numbers of a list's distinct keys, in rising order: the same for any history of the mesh.
/// visit(key number, cell, local place, whether the key is new)
template <class Key, class Visit>
void numberKeys(std::vector<std::pair<Key, std::pair<int, int>>>& list, Visit visit)
{
    std::sort(list.begin(), list.end());
    int number = -1;
    for (size_t i = 0; i < list.size(); ++i) {
        const bool fresh = i == 0 || list[i].first != list[i - 1].first;
        number += fresh;
        visit(number, list[i].first, list[i].second.first, list[i].second.second, fresh);
    }
}

}  // namespace

std::array<int, 3> Mesh::sideEdges(int side, int& count) const
{
    count = dimension == 2 ? 1 : 3;
    if (dimension == 2)
        return {side, -1, -1};
    const int t = sideCells[size_t(side)][0], k = localSide(t, side);
    std::array<int, 3> list{};
    int n = 0;
    for (int e = 0; e < 6; ++e)
        if (edgeCorner[e][0] != k && edgeCorner[e][1] != k)
            list[size_t(n++)] = cellEdges[size_t(t)][size_t(e)];
    return list;
}

int Mesh::localSide(int cell, int side) const
{
    const auto s = sidesOf(cell);
    return int(std::find(s.begin(), s.end(), side) - s.begin());
}

void Mesh::connect(const shape::Partition& partition, std::span<const CurveEdge> onCurves,
                   std::span<const SurfaceFace> onSurfaces)
{
    connectEdges(onCurves);
    if (dimension == 3)
        connectFaces(onSurfaces);
    placeMiddles(partition);
}

void Mesh::connectEdges(std::span<const CurveEdge> onCurves)
{
    const int nt = cellCount(), local = edgesOfCell();
    std::vector<std::pair<std::uint64_t, std::pair<int, int>>> list;
    list.reserve(size_t(nt) * size_t(local));
    for (int t = 0; t < nt; ++t)
        for (int k = 0; k < local; ++k)
            list.push_back({key(cells[size_t(t)][size_t(edgeCorner[k][0])],
                                cells[size_t(t)][size_t(edgeCorner[k][1])]),
                            {t, k}});
    edges.clear();
    cellEdges.assign(size_t(nt), {-1, -1, -1, -1, -1, -1});
    if (dimension == 2)
        sideCells.clear();
    std::vector<std::uint64_t> keys;
    numberKeys(list, [&](int e, std::uint64_t k, int t, int place, bool fresh) {
        if (fresh) {
            keys.push_back(k);
            edges.push_back({int(k >> 32), int(k & 0xffffffffu)});
            if (dimension == 2)
                sideCells.push_back({t, -1});
        } else if (dimension == 2) {
            sideCells.back()[1] = t;
        }
        cellEdges[size_t(t)][size_t(place)] = e;
    });
    edgeCurve.assign(edges.size(), -1);
    parameters.assign(edges.size(), {0.0, 0.0});
    for (const CurveEdge& c : onCurves) {
        const auto it = std::lower_bound(keys.begin(), keys.end(), key(c.a, c.b));
        if (it == keys.end() || *it != key(c.a, c.b))
            continue;
        const size_t e = size_t(it - keys.begin());
        edgeCurve[e] = c.curve;
        parameters[e] = c.a < c.b ? std::array{c.ta, c.tb} : std::array{c.tb, c.ta};
    }
    if (dimension == 2)
        sideTag = edgeCurve;
}

void Mesh::connectFaces(std::span<const SurfaceFace> onSurfaces)
{
    const int nt = cellCount();
    std::vector<std::pair<std::array<int, 3>, std::pair<int, int>>> list;
    list.reserve(size_t(nt) * 4);
    for (int t = 0; t < nt; ++t) {
        const auto& c = cells[size_t(t)];
        for (int k = 0; k < 4; ++k)
            list.push_back({sorted(c[size_t(faceCorner[k][0])], c[size_t(faceCorner[k][1])],
                                   c[size_t(faceCorner[k][2])]),
                            {t, k}});
    }
    faces.clear();
    sideCells.clear();
    cellFaces.assign(size_t(nt), {-1, -1, -1, -1});
    numberKeys(list, [&](int f, const std::array<int, 3>& k, int t, int place, bool fresh) {
        if (fresh) {
            faces.push_back(k);
            sideCells.push_back({t, -1});
        } else {
            sideCells.back()[1] = t;
        }
        cellFaces[size_t(t)][size_t(place)] = f;
    });
    sideTag.assign(faces.size(), -1);
    for (const SurfaceFace& s : onSurfaces) {
        const auto k = sorted(s.a, s.b, s.c);
        const auto it = std::lower_bound(faces.begin(), faces.end(), k);
        if (it != faces.end() && *it == k)
            sideTag[size_t(it - faces.begin())] = s.surface;
    }
}

void Mesh::placeMiddles(const shape::Partition& partition)
{
    middles.resize(edges.size());
    for (size_t e = 0; e < edges.size(); ++e)
        middles[e] =
            edgeCurve[e] >= 0
                ? partition.onCurve(edgeCurve[e], 0.5 * (parameters[e][0] + parameters[e][1]))
                : 0.5 * (vertices[size_t(edges[e][0])] + vertices[size_t(edges[e][1])]);
    if (dimension == 2)
        return;
    std::vector<char> done(edges.size(), 0);
    for (int f = 0; f < sideCount(); ++f) {
        const int surface = sideTag[size_t(f)];
        if (surface < 0 || partition.sides()[size_t(surface)].flat)
            continue;
        int count = 0;
        const auto list = sideEdges(f, count);
        for (const int e : list)
            if (edgeCurve[size_t(e)] < 0 && !done[size_t(e)]) {
                done[size_t(e)] = 1;
                middles[size_t(e)] = partition.nearestOn(surface, middles[size_t(e)]);
            }
    }
}

Geometry::Geometry(const Mesh& mesh, int cell) : dimension(mesh.dimension)
{
    const auto corners = mesh.corners(cell);
    const size_t n = corners.size();
    for (size_t k = 0; k < n; ++k)
        node[k] = mesh.vertices[size_t(corners[k])];
    // A middle off the chord by less than this share of it changes no figure within rounding.
    constexpr double straight = 1e-9;
    const auto local = mesh.edgesOf(cell);
    for (size_t k = 0; k < local.size(); ++k) {
        const Point& m = node[n + k] = mesh.middles[size_t(local[k])];
        const Point &a = node[size_t(edgeCorner[k][0])], &b = node[size_t(edgeCorner[k][1])];
        const Point off = m - 0.5 * (a + b), along = b - a;
        if (dot(off, off) > straight * straight * dot(along, along))
            curved = true;
    }
}

Point Geometry::at(const Point& xi) const
{
    if (!curved) {
        Point p = (1 - xi.x - xi.y - xi.z) * node[0] + xi.x * node[1] + xi.y * node[2];
        return dimension == 2 ? p : p + xi.z * node[3];
    }
    const double l[4] = {1 - xi.x - xi.y - xi.z, xi.x, xi.y, xi.z};
    const int n = dimension + 1;
    Point p;
    for (int i = 0; i < n; ++i)
        p = p + l[i] * (2 * l[i] - 1) * node[size_t(i)];
    for (int k = 0; k < (dimension == 2 ? 3 : 6); ++k)
        p = p + 4 * l[edgeCorner[k][0]] * l[edgeCorner[k][1]] * node[size_t(n + k)];
    return p;
}

void Geometry::jacobian(const Point& xi, Point column[3]) const
{
    if (!curved) {
        for (int j = 0; j < dimension; ++j)
            column[j] = node[size_t(j + 1)] - node[0];
        return;
    }
    const double l[4] = {1 - xi.x - xi.y - xi.z, xi.x, xi.y, xi.z};
    const int n = dimension + 1;
    // Derivatives by each barycentric coordinate; that of corner 0 falls when any other rises.
    Point d[4];
    for (int i = 0; i < n; ++i)
        d[i] = (4 * l[i] - 1) * node[size_t(i)];
    for (int k = 0; k < (dimension == 2 ? 3 : 6); ++k) {
        const int a = edgeCorner[k][0], b = edgeCorner[k][1];
        d[a] = d[a] + 4 * l[b] * node[size_t(n + k)];
        d[b] = d[b] + 4 * l[a] * node[size_t(n + k)];
    }
    for (int j = 0; j < dimension; ++j)
        column[j] = d[j + 1] - d[0];
}

double Geometry::determinant(const Point& xi) const
{
    Point c[3];
    jacobian(xi, c);
    return dimension == 2 ? c[0].x * c[1].y - c[0].y * c[1].x : dot(c[0], cross(c[1], c[2]));
}

double Geometry::inverse(const Point& xi, Point row[3]) const
{
    Point c[3];
    jacobian(xi, c);
    if (dimension == 2) {
        const double det = c[0].x * c[1].y - c[0].y * c[1].x, s = 1 / det;
        row[0] = {s * c[1].y, -s * c[1].x};
        row[1] = {-s * c[0].y, s * c[0].x};
        row[2] = {};
        return det;
    }
    const Point n = cross(c[1], c[2]);
    const double det = dot(c[0], n), s = 1 / det;
    row[0] = s * n;
    row[1] = s * cross(c[2], c[0]);
    row[2] = s * cross(c[0], c[1]);
    return det;
}

Point Geometry::centre() const
{
    return dimension == 2 ? Point{1.0 / 3, 1.0 / 3} : Point{0.25, 0.25, 0.25};
}

Point Geometry::onSide(int k, const Point& t) const
{
    constexpr Point corner[4] = {{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}};
    if (dimension == 2)
        return (1 - t.x) * corner[k] + t.x * corner[(k + 1) % 3];
    const int* c = faceCorner[k];
    return (1 - t.x - t.y) * corner[c[0]] + t.x * corner[c[1]] + t.y * corner[c[2]];
}

Point Geometry::outward(int k, const Point& xi) const
{
    if (dimension == 2) {
        const Point t = alongSide(k, xi);
        return {t.y, -t.x};
    }
    Point c[3];
    jacobian(xi, c);
    const Point corner[4] = {{}, c[0], c[1], c[2]};
    const int* f = faceCorner[k];
    return cross(corner[f[1]] - corner[f[0]], corner[f[2]] - corner[f[0]]);
}

Point Geometry::alongSide(int k, const Point& xi) const
{
    Point c[3];
    jacobian(xi, c);
    return k == 0 ? c[0] : k == 1 ? c[1] - c[0] : -1.0 * c[1];
}

double Geometry::leastDeterminant() const
{
    if (dimension == 3) {
        double least = determinant(centre());
        constexpr Point corner[4] = {{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}};
        for (const Point& p : corner)
            least = std::min(least, determinant(p));
        for (const auto& e : edgeCorner)
            least = std::min(least, determinant(0.5 * (corner[e[0]] + corner[e[1]])));
        return least;
    }
    // The determinant is a quadratic of (u, v): corner values and the Bernstein coefficients of
    // the edges bound it from below.
    const double c0 = determinant({0, 0}), c1 = determinant({1, 0}), c2 = determinant({0, 1});
    const double m0 = 2 * determinant({0.5, 0}) - 0.5 * (c0 + c1),
                 m1 = 2 * determinant({0.5, 0.5}) - 0.5 * (c1 + c2),
                 m2 = 2 * determinant({0, 0.5}) - 0.5 * (c2 + c0);
    return std::min({c0, c1, c2, m0, m1, m2});
}

bool Geometry::invert(const Point& p, Point& xi) const
{
    xi = centre();
    double size = 1;
    for (int i = 0; i < 20; ++i) {
        Point row[3];
        if (inverse(xi, row) == 0)
            return false;
        const Point r = p - at(xi);
        const Point step{dot(row[0], r), dot(row[1], r), dimension == 3 ? dot(row[2], r) : 0.0};
        xi = xi + step;
        size = std::abs(step.x) + std::abs(step.y) + std::abs(step.z);
        if (size < 1e-13)
            return true;
        if (std::abs(xi.x) + std::abs(xi.y) + std::abs(xi.z) > 50)
            return false;
        if (!curved && i == 1)
            return true;
    }
    constexpr double stillGood = 1e-9;
    return size < stillGood;
}

}  // namespace yh::mesh
