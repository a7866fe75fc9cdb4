// A mesh that is the same on both sides of a plane.
#include "mesh/mesh.h"
#include "shape/native.h"

#include <Extrema_ExtPC.hxx>

#include <algorithm>
#include <cmath>
#include <set>

namespace yh::mesh {

namespace {

/// What of a partition is the mirror image of what. Sides and curves that a seam parts may have one
/// image in common; seams lie in the first quadrant, on the side that is meshed.
class Images
{
public:
    Images(const shape::Partition& partition, int axis)
        : m_p(partition), m_axis(axis), m_near(1e-6 * partition.size())
    {
        const auto& curves = m_p.data().curves;
        for (size_t c = 0; c < curves.size(); ++c)
            m_curve.push_back(curveImage(int(c)));
        for (size_t s = 0; s < m_p.sides().size(); ++s)
            m_side.push_back(m_p.dimension() == 2 ? m_curve[s] : sideImage(int(s)));
        for (size_t f = 0; f < m_p.pieces().size(); ++f)
            m_piece.push_back(pieceImage(int(f)));
    }
    [[nodiscard]] int side(int s) const { return m_side[size_t(s)]; }
    [[nodiscard]] int curve(int c) const { return m_curve[size_t(c)]; }
    [[nodiscard]] int piece(int f) const { return m_piece[size_t(f)]; }
    [[nodiscard]] Point of(Point p) const
    {
        (m_axis == 0 ? p.x : m_axis == 1 ? p.y : p.z) *= -1;
        return p;
    }
    /// Parameter of the point of a curve next to a place, and its distance, m.
    double parameter(int curve, const Point& p, double& distance) const
    {
        const BRepAdaptor_Curve& c = m_p.data().curves[size_t(curve)];
        const double unit = m_p.nativeUnit();
        const gp_Pnt at(p.x / unit, p.y / unit, p.z / unit);
        double best = c.FirstParameter(), off = c.Value(best).Distance(at);
        if (const double end = c.Value(c.LastParameter()).Distance(at); end < off) {
            off = end;
            best = c.LastParameter();
        }
        Extrema_ExtPC search(at, c);
        if (search.IsDone())
            for (int i = 1; i <= search.NbExt(); ++i)
                if (const double d = std::sqrt(search.SquareDistance(i)); d < off) {
                    off = d;
                    best = search.Point(i).Parameter();
                }
        distance = off * unit;
        return best;
    }

private:
    [[nodiscard]] int curveImage(int c) const
    {
        const BRepAdaptor_Curve& mine = m_p.data().curves[size_t(c)];
        const double t0 = mine.FirstParameter(), t1 = mine.LastParameter();
        for (size_t k = 0; k < m_p.data().curves.size(); ++k) {
            bool same = true;
            for (const double share : {0.0, 0.31, 0.5, 1.0}) {
                double off = 0;
                parameter(int(k), of(m_p.onCurve(c, t0 + share * (t1 - t0))), off);
                same = same && off < m_near;
                if (!same)
                    break;
            }
            if (same)
                return int(k);
        }
        return -1;
    }
    [[nodiscard]] int sideImage(int s) const
    {
        const shape::Side& mine = m_p.sides()[size_t(s)];
        for (size_t k = 0; k < m_p.sides().size(); ++k)
            if (m_p.sides()[k].flat == mine.flat &&
                m_p.distanceTo(int(k), of(mine.inside)) < m_near)
                return int(k);
        return -1;
    }
    [[nodiscard]] int pieceImage(int f) const
    {
        std::set<int> wanted;
        for (const int s : m_p.pieces()[size_t(f)].sides)
            wanted.insert(m_side[size_t(s)]);
        for (size_t k = 0; k < m_p.pieces().size(); ++k) {
            const auto& sides = m_p.pieces()[k].sides;
            if (std::set<int>(sides.begin(), sides.end()) == wanted)
                return int(k);
        }
        return -1;
    }

    const shape::Partition& m_p;
    int m_axis;
    double m_near;
    std::vector<int> m_side, m_curve, m_piece;
};

[[noreturn]] void notSymmetric(const Point& at)
{
    throw base::Error(4007,
                      "the mesh cannot be mirrored: the device is not the same on both sides of "
                      "the plane, near x = " +
                          base::format(at.x, base::dim::length) +
                          ", y = " + base::format(at.y, base::dim::length) +
                          ", z = " + base::format(at.z, base::dim::length),
                      {-1, "mesh", -1});
}

}  // namespace

Mesh mirrored(const Mesh& half, const shape::Partition& partition, int axis)
{
    const Images images(partition, axis);
    Mesh out;
    out.dimension = half.dimension;
    out.vertices = half.vertices;
    const int n = half.vertexCount();
    std::vector<int> image(static_cast<size_t>(n));
    const double near = 1e-9 * partition.size();
    for (int v = 0; v < n; ++v) {
        const Point p = half.vertices[size_t(v)], q = images.of(p);
        if (norm(p - q) < near) {
            image[size_t(v)] = v;
        } else {
            image[size_t(v)] = int(out.vertices.size());
            out.vertices.push_back(q);
        }
    }
    out.cells = half.cells;
    out.piece = half.piece;
    for (int t = 0; t < half.cellCount(); ++t) {
        std::array<int, 4> c = half.cells[size_t(t)];
        for (int k = 0; k < half.cornerCount(); ++k)
            c[size_t(k)] = image[size_t(c[size_t(k)])];
        std::swap(c[1], c[2]);  // it turns the other way round
        out.cells.push_back(c);
        const int piece = images.piece(half.piece[size_t(t)]);
        if (piece < 0)
            notSymmetric(half.vertices[size_t(half.cells[size_t(t)][0])]);
        out.piece.push_back(piece);
    }
    std::vector<Mesh::CurveEdge> onCurves;
    for (int e = 0; e < half.edgeCount(); ++e) {
        const int c = half.edgeCurve[size_t(e)];
        if (c < 0)
            continue;
        const auto [a, b] = half.edges[size_t(e)];
        const auto [ta, tb] = half.parameters[size_t(e)];
        onCurves.push_back({a, b, c, ta, tb});
        const int d = images.curve(c);
        // The image of a seam is no seam: its edges lie on the surface like any others.
        if (d < 0 && partition.isHiddenCurve(c))
            continue;
        if (d < 0)
            notSymmetric(half.middles[size_t(e)]);
        if (image[size_t(a)] == a && image[size_t(b)] == b)
            continue;
        double off = 0;
        double first = images.parameter(d, images.of(half.vertices[size_t(a)]), off),
               last = images.parameter(d, images.of(half.vertices[size_t(b)]), off);
        const double middle = images.parameter(d, images.of(half.middles[size_t(e)]), off);
        // On a closed curve an end at the seam has two parameters: the middle tells which.
        const BRepAdaptor_Curve& curve = partition.data().curves[size_t(d)];
        const double whole = curve.LastParameter() - curve.FirstParameter();
        for (double* t : {&first, &last})
            if (std::abs(*t - middle) > 0.5 * whole)
                *t += *t < middle ? whole : -whole;
        onCurves.push_back({image[size_t(a)], image[size_t(b)], d, first, last});
    }
    std::vector<Mesh::SurfaceFace> onSurfaces;
    for (int s = 0; s < half.sideCount() && half.dimension == 3; ++s) {
        const int tag = half.sideTag[size_t(s)];
        if (tag < 0)
            continue;
        const auto c = half.sideCorners(s);
        onSurfaces.push_back({c[0], c[1], c[2], tag});
        const int other = images.side(tag);
        if (other < 0)
            notSymmetric(half.vertices[size_t(c[0])]);
        const std::array<int, 3> m{image[size_t(c[0])], image[size_t(c[1])], image[size_t(c[2])]};
        if (m[0] != c[0] || m[1] != c[1] || m[2] != c[2])
            onSurfaces.push_back({m[0], m[1], m[2], other});
    }
    out.connect(partition, onCurves, onSurfaces);
    return out;
}

}  // namespace yh::mesh
