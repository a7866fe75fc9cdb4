// First meshes of drawings, by the gmsh library on the kernel's exact shapes.
#include "mesh/mesher.h"

#include <gmsh.h>
#include <BRep_Builder.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>

#include <omp.h>
#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <unordered_map>

namespace yh::mesh {

using base::Error;

namespace {

/// Angle that one curved cell may span.
constexpr double cellAngle = 0.45;
/// The same on the circles of the open space: the mapped field varies strongly across its shell.
constexpr double shellAngle = 0.3;

/// Wanted size along one geometric edge: values at even steps of its parameter.
struct EdgeSizes
{
    double t0 = 0, t1 = 1;
    std::vector<Point> at;
    std::vector<double> size, acrossGap;
};

double distanceToSegment(Point p, Point a, Point b)
{
    const double dx = b.x - a.x, dy = b.y - a.y, l = dx * dx + dy * dy;
    const double s = l > 0 ? std::clamp(((p.x - a.x) * dx + (p.y - a.y) * dy) / l, 0.0, 1.0) : 0.0;
    return std::hypot(a.x + s * dx - p.x, a.y + s * dy - p.y);
}

class SizeField
{
public:
    SizeField(const shape::Partition& p, const Options& o) : m_p(p), m_o(o)
    {
        m_largest = o.largest > 0 ? o.largest : p.size() / 8;
        m_edges.resize(p.sides().size());
        m_lines.resize(p.sides().size());
        const std::set<int> faces(o.pieces.begin(), o.pieces.end());
        for (const int f : faces)
            for (const int e : p.pieces()[size_t(f)].sides)
                if (m_lines[size_t(e)].empty()) {
                    m_lines[size_t(e)] = p.polyline(e);
                    sample(e);
                }
        for (const int f : faces)
            gaps(f);
        enoughAcrossGaps();
        for (const SizeRule& r : o.sizes) {
            if (r.side >= 0)
                limit(r.side, r.size);
            if (r.piece >= 0) {
                m_faceSize[r.piece] = r.size;
                for (const int e : p.pieces()[size_t(r.piece)].sides)
                    limit(e, r.size);
            }
        }
        grade();
    }
    [[nodiscard]] double onEdge(int e, Point p) const
    {
        const EdgeSizes& s = m_edges[size_t(e)];
        double best = 1e300, size = m_largest;
        for (size_t i = 0; i < s.at.size(); ++i) {
            const double d = std::hypot(s.at[i].x - p.x, s.at[i].y - p.y);
            if (d < best) {
                best = d;
                size = s.size[i];
            }
        }
        return size;
    }
    [[nodiscard]] double inFace(int f) const
    {
        auto it = m_faceSize.find(f);
        return it != m_faceSize.end() ? it->second : 1e22;
    }
    [[nodiscard]] double largest() const { return m_largest; }

private:
    void limit(int e, double size)
    {
        for (double& s : m_edges[size_t(e)].size)
            s = std::min(s, size);
    }
    void sample(int e)
    {
        const shape::Side& edge = m_p.sides()[size_t(e)];
        EdgeSizes& s = m_edges[size_t(e)];
        s.t0 = edge.t0;
        s.t1 = edge.t1;
        constexpr int steps = 32;
        // The shell of the open space carries smooth fields only: coarse by its radius.
        for (int i = 0; i <= steps; ++i) {
            const double t = edge.t0 + (edge.t1 - edge.t0) * i / steps;
            s.at.push_back(m_p.at(e, t));
            const Point d = m_p.tangent(e, t);
            const double dt = (edge.t1 - edge.t0) * 1e-4;
            const Point d2 = m_p.tangent(e, t + (i < steps ? dt : -dt));
            const double turn =
                std::abs(std::atan2(d.x * d2.y - d.y * d2.x, d.x * d2.x + d.y * d2.y));
            const double radius = turn > 1e-9 ? std::hypot(d.x, d.y) * dt / turn : 1e300;
            const bool shell = isShell(e);
            s.size.push_back(std::min({shell ? 1e300 : m_largest, edge.content,
                                       radius * (shell ? shellAngle : cellAngle)}));
        }
        s.acrossGap.assign(s.size.size(), 1e300);
    }
    [[nodiscard]] bool isShell(int e) const
    {
        for (const int f : m_p.sides()[size_t(e)].pieces)
            if (!m_p.regions()[size_t(m_p.pieces()[size_t(f)].region)].hidden)
                return false;
        return true;
    }
    /// Cells across the gap between two edges of one face that do not touch each other.
    void gaps(int f)
    {
        const auto& list = m_p.pieces()[size_t(f)].sides;
        std::vector<std::array<double, 4>> box;
        for (const int e : list) {
            std::array<double, 4> b{1e300, 1e300, -1e300, -1e300};
            for (const Point& q : m_lines[size_t(e)]) {
                b = {std::min(b[0], q.x), std::min(b[1], q.y), std::max(b[2], q.x),
                     std::max(b[3], q.y)};
            }
            box.push_back(b);
        }
        const double touch = 1e-9 * m_p.size();
        for (size_t i = 0; i < list.size(); ++i)
            for (size_t j = 0; j < list.size(); ++j) {
                const double reach = m_cellsReach();
                if (i == j || box[i][0] - box[j][2] > reach || box[j][0] - box[i][2] > reach ||
                    box[i][1] - box[j][3] > reach || box[j][1] - box[i][3] > reach)
                    continue;
                if (touches(list[i], list[j], touch))
                    continue;
                EdgeSizes& s = m_edges[size_t(list[i])];
                const auto& line = m_lines[size_t(list[j])];
                for (size_t k = 0; k < s.at.size(); ++k) {
                    double d = 1e300;
                    for (size_t q = 0; q + 1 < line.size(); ++q)
                        d = std::min(d, distanceToSegment(s.at[k], line[q], line[q + 1]));
                    s.acrossGap[k] = std::min(s.acrossGap[k], d / m_o.cellsAcrossGap);
                }
            }
    }
    /// How far the mesh would go beyond the most cells there may be, were gaps filled by cells no
    /// smaller than `least`. Inside of a face cells are as large as those of its border in the
    /// mean.
    [[nodiscard]] double shareOfMost(double least) const
    {
        constexpr double mostCells = 30000, mostOnEdges = 12000;
        std::vector<double> onEdge(m_edges.size(), 0.0), length(m_edges.size(), 0.0);
        for (size_t e = 0; e < m_edges.size(); ++e) {
            const EdgeSizes& s = m_edges[e];
            for (size_t k = 0; k + 1 < s.at.size(); ++k) {
                const double d = std::hypot(s.at[k + 1].x - s.at[k].x, s.at[k + 1].y - s.at[k].y);
                length[e] += d;
                onEdge[e] += d / std::min(s.size[k], std::max(s.acrossGap[k], least));
            }
        }
        double cells = 0, edges = 0;
        for (const double n : onEdge)
            edges += n;
        for (const int f : m_o.pieces) {
            double border = 0, parts = 0;
            for (const int e : m_p.pieces()[size_t(f)].sides) {
                border += length[size_t(e)];
                parts += onEdge[size_t(e)];
            }
            const double size = parts > 0 ? border / parts : m_largest;
            constexpr double ofEquilateral = 0.433;
            cells +=
                std::max(parts, m_p.pieces()[size_t(f)].content / (ofEquilateral * size * size));
        }
        return std::max(cells / mostCells, edges / mostOnEdges);
    }

    /// Cells as small as gaps are narrow: but where these are so long that there would be too many
    /// of them, flat ones, which refinement divides where the field asks for it.
    void enoughAcrossGaps()
    {
        double least = 0;
        if (shareOfMost(0) > 1) {
            // Bisection of its logarithm, up to where gaps ask for nothing any more.
            double low = 1e-9 * m_largest, high = m_largest;
            for (int i = 0; i < 40; ++i) {
                least = std::sqrt(low * high);
                (shareOfMost(least) > 1 ? low : high) = least;
            }
        }
        for (EdgeSizes& s : m_edges)
            for (size_t k = 0; k < s.size.size(); ++k)
                s.size[k] = std::min(s.size[k], std::max(s.acrossGap[k], least));
    }
    /// Gaps wider than this never ask for smaller cells than the largest allowed.
    [[nodiscard]] double m_cellsReach() const { return m_largest * m_o.cellsAcrossGap; }
    [[nodiscard]] bool touches(int a, int b, double tolerance) const
    {
        const auto &p = m_lines[size_t(a)], &q = m_lines[size_t(b)];
        for (const Point& u : {p.front(), p.back()})
            for (const Point& v : {q.front(), q.back()})
                if (std::hypot(u.x - v.x, u.y - v.y) < tolerance)
                    return true;
        return false;
    }
    /// Sizes grow along an edge no faster than this per unit of length.
    void grade()
    {
        constexpr double growth = 0.35;
        for (EdgeSizes& s : m_edges) {
            auto pass = [&](size_t from, size_t to) {
                const double d = std::hypot(s.at[to].x - s.at[from].x, s.at[to].y - s.at[from].y);
                s.size[to] = std::min(s.size[to], s.size[from] + growth * d);
            };
            for (size_t i = 0; i + 1 < s.at.size(); ++i)
                pass(i, i + 1);
            for (size_t i = s.at.size(); i-- > 1;)
                pass(i, i - 1);
        }
    }

    const shape::Partition& m_p;
    const Options& m_o;
    double m_largest = 0;
    std::vector<EdgeSizes> m_edges;
    std::vector<std::vector<Point>> m_lines;
    std::map<int, double> m_faceSize;
};

/// Curves and faces of the library, matched to those of the partition by a point on each.
struct Matching
{
    std::map<int, int> curve, face;
};

Matching match(const shape::Partition& p, const Options& o)
{
    Matching m;
    const double unit = p.nativeUnit(), near = 1e-6 * p.size();
    gmsh::vectorpair curves, faces;
    gmsh::model::getEntities(curves, 1);
    gmsh::model::getEntities(faces, 2);
    std::vector<Point> mid;
    for (size_t e = 0; e < p.sides().size(); ++e)
        mid.push_back(p.at(int(e), 0.5 * (p.sides()[e].t0 + p.sides()[e].t1)));
    for (const auto& [dim, tag] : curves) {
        std::vector<double> low, high, xyz;
        gmsh::model::getParametrizationBounds(1, tag, low, high);
        gmsh::model::getValue(1, tag, {0.5 * (low[0] + high[0])}, xyz);
        for (size_t e = 0; e < mid.size(); ++e)
            if (std::abs(mid[e].x - xyz[0] * unit) < near &&
                std::abs(mid[e].y - xyz[1] * unit) < near)
                m.curve[tag] = int(e);
        if (!m.curve.count(tag))
            throw Error(4001, "the mesher lost an edge near x = " +
                                  base::format(xyz[0] * unit, base::dim::length) +
                                  ", y = " + base::format(xyz[1] * unit, base::dim::length));
    }
    // Faces come back in the order in which they went in.
    YH_ASSERT(faces.size() == o.pieces.size(), "the mesher keeps every face");
    for (size_t i = 0; i < faces.size() && i < o.pieces.size(); ++i)
        m.face[faces[i].second] = o.pieces[i];
    return m;
}

[[noreturn]] void noCells(const shape::Partition& p, int face)
{
    const Point q = p.pieces()[size_t(face)].inside;
    throw Error(
        4002,
        "no mesh was found for the region around x = " + base::format(q.x, base::dim::length) +
            ", y = " + base::format(q.y, base::dim::length),
        {p.regions()[size_t(p.pieces()[size_t(face)].region)].line, {}, -1});
}

/** The edges of the mesh that lie on curves of the partition. */
std::vector<Mesh::CurveEdge> edgesOnCurves(const shape::Partition& p, const Matching& m,
                                           const std::unordered_map<std::size_t, int>& index)
{
    std::vector<Mesh::CurveEdge> onCurves;
    for (const auto& [tag, curve] : m.curve) {
        const shape::Side& s = p.sides()[size_t(curve)];
        constexpr double together = 1e-9;
        const bool closed = norm(p.at(curve, s.t0) - p.at(curve, s.t1)) < together * p.size();
        collectCurve(tag, curve, closed ? s.t1 - s.t0 : 0.0, index, onCurves);
    }
    return onCurves;
}

/** Adds a triangle, counted counterclockwise. */
void addTriangle(Mesh& mesh, int a, int b, int c, int face)
{
    const Point &A = mesh.vertices[size_t(a)], &B = mesh.vertices[size_t(b)],
                &C = mesh.vertices[size_t(c)];
    if ((B.x - A.x) * (C.y - A.y) - (B.y - A.y) * (C.x - A.x) < 0)
        std::swap(b, c);
    mesh.cells.push_back({a, b, c, -1});
    mesh.piece.push_back(face);
}

Mesh collect(const shape::Partition& p, const Matching& m)
{
    Mesh mesh;
    const double unit = p.nativeUnit();
    std::unordered_map<std::size_t, int> index;
    std::vector<std::size_t> tags;
    std::vector<double> xyz, par;
    gmsh::model::mesh::getNodes(tags, xyz, par, -1, -1, false, false);
    std::vector<Point> all;
    std::unordered_map<std::size_t, size_t> where;
    for (size_t i = 0; i < tags.size(); ++i)
        where[tags[i]] = i;
    auto vertex = [&](std::size_t tag) {
        const auto [it, fresh] = index.emplace(tag, int(mesh.vertices.size()));
        if (fresh) {
            const size_t i = where.at(tag);
            mesh.vertices.push_back({xyz[3 * i] * unit, xyz[3 * i + 1] * unit});
        }
        return it->second;
    };
    constexpr int threeNodeTriangle = 2;
    std::vector<std::pair<int, int>> faces(m.face.begin(), m.face.end());
    std::sort(faces.begin(), faces.end());
    for (const auto& [tag, face] : faces) {
        std::vector<std::size_t> elements, nodes;
        gmsh::model::mesh::getElementsByType(threeNodeTriangle, elements, nodes, tag);
        for (size_t i = 0; i + 2 < nodes.size(); i += 3) {
            const int a = vertex(nodes[i]), b = vertex(nodes[i + 1]), c = vertex(nodes[i + 2]);
            addTriangle(mesh, a, b, c, face);
        }
        if (nodes.empty())
            noCells(p, face);
    }
    mesh.connect(p, edgesOnCurves(p, m, index));
    return mesh;
}

/** Only the wanted faces, in their order. */
TopoDS_Compound wantedFaces(const shape::Partition& partition, const Options& options)
{
    TopoDS_Compound wanted;
    BRep_Builder builder;
    builder.MakeCompound(wanted);
    std::vector<TopoDS_Shape> native;
    for (TopExp_Explorer e(*static_cast<const TopoDS_Compound*>(partition.nativeShape()),
                           TopAbs_FACE);
         e.More(); e.Next())
        native.push_back(e.Current());
    for (const int f : options.pieces)
        builder.Add(wanted, native[size_t(f)]);
    return wanted;
}

}  // namespace

void setPeriodic(const shape::Partition& partition, const Options& options,
                 const std::map<int, int>& tagOf)
{
    const double unit = partition.nativeUnit();
    for (const PeriodicPair& pair : options.periodic) {
        const Point s = (1 / unit) * pair.shift;
        const std::vector<double> map{1, 0, 0, s.x, 0, 1, 0, s.y, 0, 0, 1, s.z, 0, 0, 0, 1};
        for (const auto& [from, to] : pair.sides)
            gmsh::model::mesh::setPeriodic(partition.dimension() - 1, {tagOf.at(to)},
                                           {tagOf.at(from)}, map);
    }
}

Mesh generate(const shape::Partition& partition, const Options& options, base::Progress& progress)
{
    progress.check();
    if (options.pieces.empty())
        throw Error(4004, "no region is left to be meshed: all of them are conductors");
    if (partition.dimension() == 3)
        return generateSolid(partition, options, progress);
    const SizeField sizes(partition, options);
    TopoDS_Compound wanted = wantedFaces(partition, options);
    const double unit = partition.nativeUnit();
    Mesh mesh;
    try {
        const Session session;
        gmsh::vectorpair out;
        gmsh::model::occ::importShapesNativePointer(&wanted, out);
        gmsh::model::occ::synchronize();
        const Matching m = match(partition, options);
        std::map<int, int> tagOf;
        for (const auto& [tag, side] : m.curve)
            tagOf[side] = tag;
        setPeriodic(partition, options, tagOf);
        gmsh::model::mesh::setSizeCallback([&](int dim, int tag, double x, double y, double) {
            if (dim == 1)
                if (auto it = m.curve.find(tag); it != m.curve.end())
                    return sizes.onEdge(it->second, {x * unit, y * unit}) / unit;
            if (dim == 2)
                if (auto it = m.face.find(tag); it != m.face.end())
                    return sizes.inFace(it->second) / unit;
            return 1e22;
        });
        gmsh::model::mesh::generate(2);
        progress.check();
        mesh = collect(partition, m);
        gmsh::model::mesh::removeSizeCallback();
    } catch (...) {
        mesherFailed();
    }
    return untangle(std::move(mesh), partition, progress);
}

}  // namespace yh::mesh
