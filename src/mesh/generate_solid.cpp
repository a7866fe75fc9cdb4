// First meshes of solids, by the gmsh library on the kernel's exact shapes.
#include "mesh/mesher.h"
#include "mesh/ordered_memory.h"
#include "shape/native.h"

#include <gmsh.h>
#include <BRepGProp.hxx>
#include <BRep_Builder.hxx>
#include <GProp_GProps.hxx>
#include <TopoDS_Compound.hxx>

#include <algorithm>
#include <cmath>
#include <map>
#include <unordered_map>

namespace yh::mesh {

using base::Error;

namespace {

/// Cells round a full turn of a curved surface.
constexpr double cellsPerTurn = 12;
/// Cells of a slab may be this much wider than high, by cells across it.
constexpr double flat = 5;
/// A thin region asks for cells no smaller than this share of the largest ones.
constexpr double leastShare = 1.0 / 30;

/// Wanted size of cells by piece and by side, m.
class SolidSizes
{
public:
    void takeRules(const std::vector<SizeRule>& rules)
    {
        for (const SizeRule& r : rules) {
            if (r.side >= 0)
                m_side[size_t(r.side)] = std::min(m_side[size_t(r.side)], r.size);
            if (r.piece >= 0) {
                limit(r.piece, r.size);
                m_volume[size_t(r.piece)] = r.size;
            }
        }
    }

    /// @param finer  how many times smaller cells of open space are than usual
    SolidSizes(const shape::Partition& p, const Options& o, double finer) : m_p(p)
    {
        m_largest = o.largest > 0 ? o.largest : p.size() / 8;
        // Wide thin regions take flatter cells, where there would be too many of them.
        double least = leastShare;
        constexpr double mostOnSides = 20000, coarser = 1.2;
        while (least < 1 && cellsOnSides(o, least) > mostOnSides)
            least *= coarser;
        m_piece.assign(p.pieces().size(), 1e22);
        m_side.assign(p.sides().size(), 1e22);
        m_volume.assign(p.pieces().size(), 1e22);
        for (const int f : o.pieces) {
            const shape::Piece& piece = p.pieces()[size_t(f)];
            const shape::Region& region = p.regions()[size_t(piece.region)];
            const double size = region.hidden
                                    ? p.openShell().inner / finer * (isFar(region) ? 0.6 : 0.4)
                                    : sizeOf(piece, o, least);
            limit(f, size);
            // As flat as that by their region's shape: nothing makes such cells better.
            constexpr double hopeless = 8;
            const double surface = surfaceOf(piece);
            m_isFlat = m_isFlat || (!region.hidden && surface > 0 &&
                                    size > hopeless * 2 * piece.content / surface);
            if (!isFar(region) || !p.openShell().mapped)
                continue;
            // Infinity lies where a field must not change along it: sides that follow the sphere
            // only roughly make it do so, by the third power of their size.
            for (const int s : piece.sides)
                if (p.sides()[size_t(s)].pieces.size() == 1 && !p.sides()[size_t(s)].flat)
                    m_side[size_t(s)] =
                        std::min(m_side[size_t(s)], rimShare * p.openShell().inner / finer);
        }
        takeRules(o.sizes);
    }
    [[nodiscard]] double side(int s) const { return m_side[size_t(s)]; }
    [[nodiscard]] double inside(int f) const { return m_volume[size_t(f)]; }
    /// Whether some cells are so flat that there is no sense in making them better.
    [[nodiscard]] bool isFlat() const { return m_isFlat; }

private:
    static constexpr double rimShare = 0.22;
    [[nodiscard]] double surfaceOf(const shape::Piece& piece) const
    {
        double surface = 0;
        for (const int s : piece.sides)
            surface += m_p.sides()[size_t(s)].content;
        return surface;
    }
    [[nodiscard]] double sizeOf(const shape::Piece& piece, const Options& o, double least) const
    {
        // Twice the volume over the surface is the thickness of a slab.
        const double surface = surfaceOf(piece),
                     thickness = surface > 0 ? 2 * piece.content / surface : m_largest;
        return std::min(m_largest,
                        std::max(flat * thickness / o.cellsAcrossGap, least * m_largest));
    }
    [[nodiscard]] double cellsOnSides(const Options& o, double least) const
    {
        constexpr double ofEquilateral = 0.433;
        double sum = 0;
        for (const int f : o.pieces) {
            const shape::Piece& piece = m_p.pieces()[size_t(f)];
            const double size = sizeOf(piece, o, least);
            if (!m_p.regions()[size_t(piece.region)].hidden)
                sum += surfaceOf(piece) / (ofEquilateral * size * size);
        }
        return sum;
    }
    [[nodiscard]] static bool isFar(const shape::Region& region)
    {
        return region.name == "far shell";
    }
    void limit(int piece, double size)
    {
        m_piece[size_t(piece)] = std::min(m_piece[size_t(piece)], size);
        for (const int s : m_p.pieces()[size_t(piece)].sides)
            m_side[size_t(s)] = std::min(m_side[size_t(s)], size);
    }
    const shape::Partition& m_p;
    double m_largest = 0;
    bool m_isFlat = false;
    std::vector<double> m_piece, m_side, m_volume;
};

struct Centre
{
    Point at;
    double content = 0;
};
Centre centreOf(const TopoDS_Shape& s, bool surface)
{
    GProp_GProps g;
    if (surface)
        BRepGProp::SurfaceProperties(s, g);
    else
        BRepGProp::LinearProperties(s, g);
    const gp_Pnt c = g.CentreOfMass();
    return {{c.X(), c.Y(), c.Z()}, std::abs(g.Mass())};
}

/// Entities of the library by those of the partition: same centre, same content, kernel units.
std::map<int, int> matchEntities(int dimension, const std::vector<Centre>& mine, double size)
{
    std::map<int, int> found;
    std::vector<char> taken(mine.size(), 0);
    gmsh::vectorpair entities;
    gmsh::model::getEntities(entities, dimension);
    for (const auto& [dim, tag] : entities) {
        double x, y, z, mass;
        gmsh::model::occ::getCenterOfMass(dim, tag, x, y, z);
        gmsh::model::occ::getMass(dim, tag, mass);
        double best = 1e300;
        int pick = -1;
        for (size_t i = 0; i < mine.size(); ++i) {
            if (taken[i])
                continue;
            const double off = norm(mine[i].at - Point{x, y, z}) +
                               std::abs(mine[i].content - mass) / std::pow(size, dimension - 1);
            if (off < best) {
                best = off;
                pick = int(i);
            }
        }
        constexpr double near = 1e-5;
        if (pick < 0 || best > near * size)
            throw Error(4001, "the mesher lost a side of the shape");
        taken[size_t(pick)] = 1;
        found[tag] = pick;
    }
    return found;
}

struct Tags
{
    std::vector<int> volumes;  ///< tags, in the order of the wanted pieces
    std::map<int, int> surface, curve;
};

Mesh collect(const shape::Partition& p, const Options& o, const Tags& tags)
{
    Mesh mesh;
    mesh.dimension = 3;
    const double unit = p.nativeUnit();
    std::vector<std::size_t> nodeTags;
    std::vector<double> xyz, par;
    gmsh::model::mesh::getNodes(nodeTags, xyz, par, -1, -1, false, false);
    std::unordered_map<std::size_t, size_t> where;
    for (size_t i = 0; i < nodeTags.size(); ++i)
        where[nodeTags[i]] = i;
    std::unordered_map<std::size_t, int> index;
    // The parallel algorithm now and then makes an inner node twice, with the very same place: the
    // mesh would have a crack there.
    std::map<std::array<double, 3>, int> byPlace;
    auto vertex = [&](std::size_t tag) {
        const auto [it, fresh] = index.emplace(tag, int(mesh.vertices.size()));
        if (fresh) {
            const size_t i = where.at(tag);
            const auto [same, first] = byPlace.emplace(
                std::array{xyz[3 * i], xyz[3 * i + 1], xyz[3 * i + 2]}, int(mesh.vertices.size()));
            if (first)
                mesh.vertices.push_back(
                    {xyz[3 * i] * unit, xyz[3 * i + 1] * unit, xyz[3 * i + 2] * unit});
            else
                it->second = same->second;
        }
        return it->second;
    };
    constexpr int fourNodeTetrahedron = 4, threeNodeTriangle = 2;
    for (size_t v = 0; v < tags.volumes.size(); ++v) {
        std::vector<std::size_t> elements, nodes;
        gmsh::model::mesh::getElementsByType(fourNodeTetrahedron, elements, nodes, tags.volumes[v]);
        const shape::Piece& piece = p.pieces()[size_t(o.pieces[v])];
        if (nodes.empty())
            throw Error(4002,
                        "no mesh was found for the region around " +
                            base::format(piece.inside.x, base::dim::length) + ", " +
                            base::format(piece.inside.y, base::dim::length) + ", " +
                            base::format(piece.inside.z, base::dim::length),
                        {p.regions()[size_t(piece.region)].line, {}, -1});
        for (size_t i = 0; i + 3 < nodes.size(); i += 4) {
            std::array<int, 4> c{};
            for (size_t k = 0; k < 4; ++k)
                c[k] = vertex(nodes[i + k]);
            const Point &a = mesh.vertices[size_t(c[0])], &b = mesh.vertices[size_t(c[1])],
                        &d = mesh.vertices[size_t(c[2])], &e = mesh.vertices[size_t(c[3])];
            if (dot(b - a, cross(d - a, e - a)) < 0)
                std::swap(c[2], c[3]);
            mesh.cells.push_back(c);
            mesh.piece.push_back(o.pieces[v]);
        }
    }
    std::vector<Mesh::SurfaceFace> onSurfaces;
    for (const auto& [tag, side] : tags.surface) {
        std::vector<std::size_t> elements, nodes;
        gmsh::model::mesh::getElementsByType(threeNodeTriangle, elements, nodes, tag);
        for (size_t i = 0; i + 2 < nodes.size(); i += 3)
            if (index.count(nodes[i]) && index.count(nodes[i + 1]) && index.count(nodes[i + 2]))
                onSurfaces.push_back(
                    {index[nodes[i]], index[nodes[i + 1]], index[nodes[i + 2]], side});
    }
    std::vector<Mesh::CurveEdge> onCurves;
    for (const auto& [tag, curve] : tags.curve) {
        const BRepAdaptor_Curve& c = p.data().curves[size_t(curve)];
        const bool closed = c.Value(c.FirstParameter()).Distance(c.Value(c.LastParameter())) < 1e-7;
        collectCurve(tag, curve, closed ? c.LastParameter() - c.FirstParameter() : 0.0, index,
                     onCurves);
    }
    mesh.connect(p, onCurves, onSurfaces);
    for (int f = 0; f < mesh.sideCount(); ++f)
        if (mesh.sideCells[size_t(f)][1] < 0 && mesh.sideTag[size_t(f)] < 0) {
            const Point at = mesh.vertices[size_t(mesh.sideCorners(f)[0])];
            throw Error(
                4006, "the mesher left a crack near x = " + base::format(at.x, base::dim::length) +
                          ", y = " + base::format(at.y, base::dim::length) +
                          ", z = " + base::format(at.z, base::dim::length) +
                          "; change the sizes of the cells a little");
        }
    return mesh;
}

/// @param turn  cells round a full turn of a curved surface
Mesh meshSolid(const shape::Partition& partition, const Options& options, double turn,
               base::Progress& progress)
{
    const SolidSizes sizes(partition, options, turn / cellsPerTurn);
    const auto& data = partition.data();
    TopoDS_Compound wanted;
    BRep_Builder builder;
    builder.MakeCompound(wanted);
    for (const int f : options.pieces)
        builder.Add(wanted, data.nativePieces[size_t(f)]);
    const double unit = partition.nativeUnit(), size = partition.size() / unit;
    std::vector<Centre> surfaces, curves;
    for (const auto& s : data.nativeSides)
        surfaces.push_back(centreOf(s, true));
    for (const auto& c : data.curves)
        curves.push_back(centreOf(c.Edge(), false));
    Mesh mesh;
    try {
        const Session session;
        gmsh::option::setNumber("Mesh.MeshSizeFromCurvature", turn);
        // The library's parallel volume algorithm, five times as fast as its default one already on
        // a single thread. Several gain little, and then no two meshes are the same.
        constexpr int parallelDelaunay = 10;
        gmsh::option::setNumber("Mesh.Algorithm3D", parallelDelaunay);
        if (sizes.isFlat())
            gmsh::option::setNumber("Mesh.Optimize", 0);
        gmsh::vectorpair out;
        gmsh::model::occ::importShapesNativePointer(&wanted, out);
        gmsh::model::occ::synchronize();
        Tags tags;
        gmsh::vectorpair volumes;
        gmsh::model::getEntities(volumes, 3);
        YH_ASSERT(volumes.size() == options.pieces.size(), "the mesher keeps every solid");
        for (const auto& v : volumes)
            tags.volumes.push_back(v.second);
        tags.surface = matchEntities(2, surfaces, size);
        tags.curve = matchEntities(1, curves, size);
        std::map<int, int> tagOf;
        for (const auto& [tag, side] : tags.surface)
            tagOf[side] = tag;
        setPeriodic(partition, options, tagOf);
        std::map<int, double> onCurve;
        for (const auto& [tag, side] : tags.surface) {
            gmsh::vectorpair border;
            gmsh::model::getBoundary({{2, tag}}, border, false, false, false);
            for (const auto& [dim, curve] : border) {
                auto [it, fresh] = onCurve.emplace(curve, sizes.side(side));
                it->second = std::min(it->second, sizes.side(side));
            }
        }
        std::map<int, double> inVolume;
        for (size_t v = 0; v < tags.volumes.size(); ++v)
            inVolume[tags.volumes[v]] = sizes.inside(options.pieces[v]);
        gmsh::model::mesh::setSizeCallback([&](int dim, int tag, double, double, double) {
            if (dim == 1)
                if (const auto it = onCurve.find(tag); it != onCurve.end())
                    return it->second / unit;
            if (dim == 2)
                if (const auto it = tags.surface.find(tag); it != tags.surface.end())
                    return sizes.side(it->second) / unit;
            if (dim == 3)
                if (const auto it = inVolume.find(tag); it != inVolume.end())
                    return it->second / unit;
            return 1e22;
        });
        {
            const OrderedMemory ordered;
            gmsh::model::mesh::generate(2);
        }
        progress.check();
        gmsh::model::mesh::generate(3);
        // The parallel algorithm leaves flat cells where features are small against their
        // surroundings; in meshes of many cells they hardly matter, and time does.
        constexpr size_t few = 40000;
        std::vector<std::size_t> nodes;
        std::vector<double> places, parameters;
        gmsh::model::mesh::getNodes(nodes, places, parameters);
        if (nodes.size() < few && !sizes.isFlat())
            gmsh::model::mesh::optimize("", true, 2);
        progress.check();
        mesh = collect(partition, options, tags);
        gmsh::model::mesh::removeSizeCallback();
    } catch (...) {
        mesherFailed();
    }
    return mesh;
}

}  // namespace

Mesh generateSolid(const shape::Partition& partition, const Options& options,
                   base::Progress& progress)
{
    // Now and then a flat cell beside a round surface folds, whatever is done to it afterwards:
    // another mesh, a little finer, mostly has none.
    constexpr int attempts = 4, folds = 4003;
    constexpr double finer = 1.2;
    double turn = cellsPerTurn;
    for (int attempt = 1;; ++attempt)
        try {
            return untangle(meshSolid(partition, options, turn, progress), partition, progress);
        } catch (const Error& e) {
            if (e.fault().number != folds || attempt == attempts)
                throw;
            turn *= finer;
        }
}

}  // namespace yh::mesh
