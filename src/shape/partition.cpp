#include "shape/partition.h"

#include "base/constants.h"
#include "shape/native.h"
#include "shape/wires.h"
#include "sheet/schema.h"
#include "sheet/topic.h"

#include <BOPTools_AlgoTools3D.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepAlgoAPI_BuilderAlgo.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepClass3d_SolidClassifier.hxx>
#include <BRepGProp.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <Bnd_Box.hxx>
#include <GProp_GProps.hxx>
#include <IntTools_Context.hxx>
#include <Standard_Failure.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedDataMapOfShapeListOfShape.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_ListOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Solid.hxx>
#include <gp_Circ.hxx>
#include <gp_Pln.hxx>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace yh::shape {

using base::Error;
using sheet::Line;

namespace {

using base::pi;

/// Metres in one kernel unit, so that the drawing is some tens of units wide: the kernel's
/// tolerance of 1e-7 is then a billionth of it.
double chooseUnit(const sheet::Model& model)
{
    double largest = 0;
    for (const Line& l : model.document().lines) {
        const sheet::Kind* k = sheet::findKind(l.kind);
        if (!sheet::isShape(l.kind) && l.kind != "wire")
            continue;
        if (l.kind == "import")
            largest = std::max(largest, 10 * model.number(l, "unit"));
        for (const sheet::Slot& f : k->entries) {
            if (f.type == sheet::SlotType::quantity && f.dimension == base::dim::length &&
                (l.has(f.key)) && f.key != "unit")
                largest = std::max(largest, std::abs(model.number(l, f.key)));
            if (f.type == sheet::SlotType::points && l.has(f.key))
                for (const auto& s : model.path(l, f.key))
                    largest =
                        std::max({largest, std::abs(s.to.x), std::abs(s.to.y), std::abs(s.to.z)});
            if (f.type == sheet::SlotType::point && l.has(f.key)) {
                const Point p = model.point(l, f.key);
                largest = std::max({largest, std::abs(p.x), std::abs(p.y), std::abs(p.z)});
            }
        }
    }
    return largest > 0 ? std::pow(10.0, std::ceil(std::log10(largest)) - 2) : 1.0;
}

std::vector<Body> allBodies(const sheet::Model& model, double unit, const std::string& folder)
{
    std::vector<Body> bodies;
    for (const Line& l : model.document().lines) {
        if (!sheet::isShape(l.kind))
            continue;
        try {
            for (Body& b : isDerived(l.kind) ? derivedBodies(bodies, model, l, unit)
                                             : makeBodies(model, l, unit, folder))
                bodies.push_back(std::move(b));
        } catch (const Standard_Failure& f) {
            const char* why = f.GetMessageString();
            throw Error(3024,
                        "the shape '" + l.name() + "' cannot be made" +
                            (why && *why ? std::string(" (") + why + ")" : "") +
                            "; check its numbers",
                        {l.id, {}, -1});
        }
    }
    return bodies;
}

/// Files of others may hold such sides, and what is derived has them of its parts.
/// @throws Error where a drawn side is so short that the kernel takes its ends for one point
void refuseTiny(const sheet::Model& model, const std::vector<Body>& bodies, double unit)
{
    for (const Body& b : bodies) {
        const sheet::Line* line = model.document().find(b.line);
        if (!line || isDerived(line->kind) || line->has("file"))
            continue;
        for (TopExp_Explorer e(b.shape, TopAbs_EDGE); e.More(); e.Next()) {
            const TopoDS_Edge& edge = TopoDS::Edge(e.Current());
            if (BRep_Tool::Degenerated(edge))
                continue;
            const BRepAdaptor_Curve curve(edge);
            const double from = curve.FirstParameter(), to = curve.LastParameter();
            const gp_Pnt start = curve.Value(from);
            const double length = std::max(start.Distance(curve.Value((from + to) / 2)),
                                           start.Distance(curve.Value(to)));
            if (length < shortestSide)
                refuseTinySide(*line, length, unit);
        }
    }
}

Bnd_Box boxOf(const std::vector<Body>& bodies)
{
    Bnd_Box box;
    for (const Body& b : bodies)
        if (!b.used)
            BRepBndLib::AddOptimal(b.shape, box, false, false);
    return box;
}

TopoDS_Face discFace(gp_Pnt centre, double radius)
{
    BRepBuilderAPI_MakeWire w;
    const gp_Circ c(gp_Ax2(centre, gp::DZ()), radius);
    for (int i = 0; i < 4; ++i)
        w.Add(BRepBuilderAPI_MakeEdge(c, 0.7 + i * pi / 2, 0.7 + (i + 1) * pi / 2).Edge());
    return BRepBuilderAPI_MakeFace(gp_Pln(gp::Origin(), gp::DZ()), w.Wire(), true).Face();
}

/// How far the inner circle of the open space lies outside the drawing. The map is exact for every
/// multipole up to the element order, so that nearness costs little.
constexpr double openSpaceMargin = 1.25;
/// Outer over inner radius of the shell. With 2 the map goes over smoothly into the drawing, and
/// an inner circle that is only nearly round changes figures in second order.
constexpr double openShellThickness = 2.0;

struct Cut
{
    bool x = false, y = false, z = false;  ///< keep what is above 0
};

/// A ball with its seam and poles off the planes of symmetry.
TopoDS_Solid ball(gp_Pnt centre, double radius)
{
    return BRepPrimAPI_MakeSphere(gp_Ax2(centre, gp_Dir(0.37, 0.23, 0.9)), radius).Solid();
}

/// A point of a solid, off its faces.
bool pointInSolid(const TopoDS_Solid& solid, const Handle(IntTools_Context) & context,
                  gp_Pnt& point)
{
    Bnd_Box box;
    BRepBndLib::Add(solid, box);
    const double size = std::sqrt(box.SquareExtent());
    for (TopExp_Explorer e(solid, TopAbs_FACE); e.More(); e.Next()) {
        gp_Pnt on;
        gp_Pnt2d uv;
        const TopoDS_Face f = TopoDS::Face(e.Current());
        if (BOPTools_AlgoTools3D::PointInFace(f, on, uv, context) != 0)
            continue;
        gp_Dir normal;
        if (!BOPTools_AlgoTools3D::GetNormalToSurface(BRep_Tool::Surface(f), uv.X(), uv.Y(),
                                                      normal))
            continue;
        for (const double depth : {0.05, 0.01, 1e-3, 1e-4})
            for (const double way : {-1.0, 1.0}) {
                point = on.Translated(gp_Vec(normal) * (way * depth * size));
                BRepClass3d_SolidClassifier in(solid, point, 1e-7);
                if (in.State() == TopAbs_IN)
                    return true;
            }
    }
    return false;
}

class Builder
{
public:
    Builder(const sheet::Model& model, Partition::Data& data)
        : m_model(model),
          m_data(data),
          m_solid(model.space() == sheet::Space::solid),
          m_pieceKind(m_solid ? TopAbs_SOLID : TopAbs_FACE),
          m_sideKind(m_solid ? TopAbs_FACE : TopAbs_EDGE)
    {
    }

    void run(std::vector<Body> bodies)
    {
        cuts();
        std::erase_if(bodies, [](const Body& b) { return b.used; });
        Bnd_Box box = boxOf(bodies);
        for (const ThinWire& w : thinWires(m_model))
            for (const auto& run : w.runs)
                for (const Point& p : run)
                    box.Add(gp_Pnt(p.x / m_data.unit, p.y / m_data.unit, p.z / m_data.unit));
        if (box.IsVoid())
            throw Error(3030, "the drawing is empty", {-1, "shape", -1});
        box.Get(m_x0, m_y0, m_z0, m_x1, m_y1, m_z1);
        m_data.size =
            std::max({m_x1 - m_x0, m_y1 - m_y0, m_solid ? m_z1 - m_z0 : 0.0}) * m_data.unit;
        // The open space lies below all lines.
        std::vector<Body> all = openSpace();
        all.insert(all.end(), bodies.begin(), bodies.end());
        if (all.empty())
            throw Error(3030,
                        "only thin wires are drawn; add the line `open space`, or a region about "
                        "them",
                        {-1, "shape", -1});
        fuse(all);
    }

private:
    void cuts()
    {
        m_cut.x = m_model.space() == sheet::Space::axisymmetric;
        for (const Line* l : m_model.document().ofKind("mirror plane"))
            *std::array{&m_cut.x, &m_cut.y, &m_cut.z}[size_t(m_model.axisOf(l->get("at")))] = true;
        if (const Line* l = m_model.document().first("wedge symmetry")) {
            m_wedge = m_model.number(*l, "angle");
            m_cut.y = true;
        }
    }
    /// Distance of a point from the second plane of the wedge, positive inside.
    [[nodiscard]] double insideWedge(const gp_Pnt& p) const
    {
        return p.X() * std::sin(m_wedge) - p.Y() * std::cos(m_wedge);
    }
    /// The sides that the cuts have made.
    void markCuts()
    {
        const double near = 1e-6 * m_data.size / m_data.unit;
        for (size_t i = 0; i < m_data.sides.size(); ++i) {
            Side& side = m_data.sides[i];
            if (side.pieces.size() != 1 || !side.flat)
                continue;
            std::vector<gp_Pnt> points;
            for (TopExp_Explorer e(m_data.nativeSides[i], TopAbs_EDGE); e.More(); e.Next()) {
                const TopoDS_Edge edge = TopoDS::Edge(e.Current());
                if (BRep_Tool::Degenerated(edge))
                    continue;
                const BRepAdaptor_Curve c(edge);
                for (const double f : {0.0, 0.37, 1.0})
                    points.push_back(
                        c.Value(c.FirstParameter() + f * (c.LastParameter() - c.FirstParameter())));
            }
            bool on[4] = {m_cut.x, m_cut.y, m_cut.z, m_wedge > 0};
            for (const gp_Pnt& p : points) {
                on[0] = on[0] && std::abs(p.X()) < near;
                on[1] = on[1] && std::abs(p.Y()) < near;
                on[2] = on[2] && std::abs(p.Z()) < near;
                on[3] = on[3] && std::abs(insideWedge(p)) < near;
            }
            for (int k = 0; k < 4; ++k)
                if (on[k])
                    side.cut = k;
            if (m_wedge > 0 && side.cut == 1)
                side.cut = Side::wedge;
        }
    }

    /** Where open space is centred: on planes of symmetry. */
    [[nodiscard]] gp_Pnt middle() const
    {
        double cx = (m_x0 + m_x1) / 2, cy = (m_y0 + m_y1) / 2,
               cz = m_solid ? (m_z0 + m_z1) / 2 : 0.0;
        if (m_cut.x)
            cx = 0;
        if (m_cut.y)
            cy = 0;
        if (m_cut.z)
            cz = 0;
        if (m_wedge > 0)
            cx = 0;
        return {cx, cy, cz};
    }

    std::vector<Body> openSpace()
    {
        const auto waves = m_model.openSpace();
        const Line* outer = waves ? m_model.document().first("open space") : m_model.mappedSpace();
        if (!outer)
            return {};
        const gp_Pnt centre = middle();
        const double cx = centre.X(), cy = centre.Y(), cz = centre.Z();
        const double dx = std::max(m_x1 - cx, cx - m_x0), dy = std::max(m_y1 - cy, cy - m_y0),
                     dz = m_solid ? std::max(m_z1 - cz, cz - m_z0) : 0.0;
        const double extent = std::hypot(dx, dy, dz),
                     inner =
                         waves ? extent + waves->distance / m_data.unit : openSpaceMargin * extent,
                     far = waves ? inner + waves->thickness / m_data.unit
                                 : openShellThickness * inner;
        m_data.shell = {true,
                        {cx * m_data.unit, cy * m_data.unit, cz * m_data.unit},
                        inner * m_data.unit,
                        far * m_data.unit,
                        !waves};
        Body shell, near;
        shell.line = near.line = outer->id;
        shell.name = "far shell";
        near.name = "open space";
        shell.shape = m_solid ? TopoDS_Shape(ball(centre, far)) : discFace(centre, far);
        near.shape = m_solid ? TopoDS_Shape(ball(centre, inner)) : discFace(centre, inner);
        m_x0 = cx - far;
        m_x1 = cx + far;
        m_y0 = cy - far;
        m_y1 = cy + far;
        m_z0 = cz - far;
        m_z1 = cz + far;
        return {shell, near};
    }

    void fuse(const std::vector<Body>& bodies)
    {
        struct Argument
        {
            TopoDS_Shape shape;
            int body;
        };
        std::vector<Argument> arguments;
        for (size_t i = 0; i < bodies.size(); ++i)
            for (TopExp_Explorer e(bodies[i].shape, bodies[i].thin ? m_sideKind : m_pieceKind);
                 e.More(); e.Next())
                arguments.push_back({e.Current(), int(i)});
        std::vector<TopoDS_Shape> shapes;
        for (const Argument& a : arguments)
            shapes.push_back(a.shape);
        addCuts(shapes);
        BRepAlgoAPI_BuilderAlgo fuse;
        fuse.SetArguments(listOf(shapes));
        fuse.SetRunParallel(true);
        // The kernel refuses to fuse a single shape, which is in pieces already.
        const bool alone = shapes.size() == 1;
        if (!alone)
            fuse.Build();
        const TopoDS_Shape whole = alone              ? TopoDS_Shape(compoundOf(shapes))
                                   : fuse.HasErrors() ? TopoDS_Shape()
                                                      : fuse.Shape();
        if (!alone && fuse.HasErrors())
            throw Error(3031,
                        "the shape kernel could not part the overlapping shapes; shift one of them "
                        "a little",
                        {-1, "shape", -1});
        auto images = [&](const TopoDS_Shape& s) {
            std::vector<TopoDS_Shape> list;
            if (alone)
                return std::vector{s};
            if (fuse.IsDeleted(s))
                return list;
            const TopTools_ListOfShape& l = fuse.Modified(s);
            for (const TopoDS_Shape& m : l)
                list.push_back(m);
            if (list.empty())
                list.push_back(s);
            return list;
        };
        // Painting: a later argument takes the faces of an earlier one.
        TopTools_IndexedMapOfShape faceMap;
        TopExp::MapShapes(whole, m_pieceKind, faceMap);
        std::vector<int> owner(size_t(faceMap.Extent()) + 1, -1);
        for (const Argument& a : arguments)
            if (!bodies[size_t(a.body)].thin)
                for (const TopoDS_Shape& f : images(a.shape))
                    if (const int i = faceMap.FindIndex(f); i > 0)
                        owner[size_t(i)] = a.body;
        regions(bodies);
        keepPieces(faceMap, owner);
        sides();
        markCuts();
        for (const Argument& a : arguments) {
            const Body& b = bodies[size_t(a.body)];
            if (b.thin)
                for (const TopoDS_Shape& e : images(a.shape))
                    if (const int i = m_sideMap.FindIndex(e); i > 0)
                        m_data.sides[size_t(i - 1)].thin = true;
        }
        for (const Body& b : bodies)
            for (const NamedSide& s : b.sides)
                m_data.sideNames[b.line].insert(s.side);
        for (const Body& b : bodies)
            for (const NamedSide& s : b.sides)
                for (const TopoDS_Shape& e : images(s.native))
                    if (const int i = m_sideMap.FindIndex(e); i > 0)
                        m_data.sides[size_t(i - 1)].sources.push_back({b.line, b.copy, s.side});
    }

    /// A long line or wide face along each plane parts what crosses it; the far side is dropped
    /// later.
    void addCuts(std::vector<TopoDS_Shape>& shapes) const
    {
        const double reach =
            1.5 *
            std::max({std::abs(m_x0), std::abs(m_x1), std::abs(m_y0), std::abs(m_y1), m_x1 - m_x0,
                      m_solid ? std::abs(m_z0) : 0.0, m_solid ? std::abs(m_z1) : 0.0});
        auto face = [&](const gp_Dir& normal) {
            // Uneven reaches keep its corners away from those of other cuts.
            return BRepBuilderAPI_MakeFace(gp_Pln(gp::Origin(), normal), -1.1 * reach, reach,
                                           -1.05 * reach, 1.15 * reach)
                .Face();
        };
        auto line = [&](double x, double y) {
            return BRepBuilderAPI_MakeEdge(gp_Pnt(-1.1 * reach * x, -1.1 * reach * y, 0),
                                           gp_Pnt(reach * x, reach * y, 0))
                .Edge();
        };
        if (m_wedge > 0) {
            const gp_Dir normal(std::sin(m_wedge), -std::cos(m_wedge), 0);
            shapes.push_back(m_solid ? TopoDS_Shape(face(normal))
                                     : line(std::cos(m_wedge), std::sin(m_wedge)));
        }
        if (m_cut.x && m_x0 < 0)
            shapes.push_back(m_solid ? TopoDS_Shape(face(gp::DX())) : line(0, 1));
        if (m_cut.y && m_y0 < 0)
            shapes.push_back(m_solid ? TopoDS_Shape(face(gp::DY())) : line(1, 0));
        if (m_cut.z && m_z0 < 0)
            shapes.push_back(face(gp::DZ()));
        // A mesh that is mirrored needs its plane in the shape; nothing is dropped there.
        const int mirror = m_model.meshMirror();
        if (mirror == 0 && !m_cut.x)
            shapes.push_back(m_solid ? TopoDS_Shape(face(gp::DX())) : line(0, 1));
        else if (mirror == 1 && !m_cut.y)
            shapes.push_back(m_solid ? TopoDS_Shape(face(gp::DY())) : line(1, 0));
        else if (mirror == 2 && !m_cut.z)
            shapes.push_back(face(gp::DZ()));
    }

    void regions(const std::vector<Body>& bodies)
    {
        for (const Body& b : bodies) {
            Region r;
            r.name = b.name;
            r.line = b.line;
            r.copy = b.copy;
            r.copyCount = b.copyCount;
            r.hidden = m_data.shell.present && (b.name == "open space" || b.name == "far shell");
            m_data.regions.push_back(r);
        }
    }

    /** A piece of a region, and how much there is of it. */
    Piece pieceOf(const TopoDS_Shape& shape, int region, const gp_Pnt& p) const
    {
        GProp_GProps props;
        if (m_solid)
            BRepGProp::VolumeProperties(shape, props);
        else
            BRepGProp::SurfaceProperties(shape, props);
        Piece piece;
        piece.region = region;
        piece.content = std::abs(props.Mass()) * std::pow(m_data.unit, m_data.dimension);
        piece.inside = place(p);
        return piece;
    }

    void keepPieces(const TopTools_IndexedMapOfShape& map, const std::vector<int>& owner)
    {
        BRep_Builder builder;
        builder.MakeCompound(m_data.compound);
        Handle(IntTools_Context) context = new IntTools_Context;
        for (int i = 1; i <= map.Extent(); ++i) {
            if (owner[size_t(i)] < 0)
                continue;
            gp_Pnt p;
            gp_Pnt2d p2;
            const bool found = m_solid ? pointInSolid(TopoDS::Solid(map(i)), context, p)
                                       : BOPTools_AlgoTools3D::PointInFace(TopoDS::Face(map(i)), p,
                                                                           p2, context) == 0;
            const Region& region = m_data.regions[size_t(owner[size_t(i)])];
            if (!found)
                throw Error(3032,
                            "a region of '" + region.name + "' is too thin for the shape kernel",
                            {region.line, {}, -1});
            if ((m_cut.x && p.X() < 0) || (m_cut.y && p.Y() < 0) || (m_cut.z && p.Z() < 0) ||
                (m_wedge > 0 && insideWedge(p) < 0))
                continue;
            builder.Add(m_data.compound, map(i));
            m_data.pieces.push_back(pieceOf(map(i), owner[size_t(i)], p));
            m_data.nativePieces.push_back(map(i));
        }
        if (m_data.pieces.empty())
            throw Error(3030,
                        m_cut.x || m_cut.y || m_cut.z
                            ? "nothing of the drawing lies on the positive side of its planes"
                        : m_solid ? "the drawing has no solid; sheets alone cannot be solved"
                                  : "the drawing has no region; thin lines alone cannot be solved",
                        {-1, "shape", -1});
    }
    [[nodiscard]] Point place(const gp_Pnt& p) const
    {
        return {p.X() * m_data.unit, p.Y() * m_data.unit, p.Z() * m_data.unit};
    }

    void sides()
    {
        TopExp::MapShapes(m_data.compound, m_sideKind, m_sideMap);
        TopTools_IndexedMapOfShape edges;
        TopExp::MapShapes(m_data.compound, TopAbs_EDGE, edges);
        for (int i = 1; i <= edges.Extent(); ++i)
            m_data.curves.emplace_back(TopoDS::Edge(edges(i).Oriented(TopAbs_FORWARD)));
        m_data.hiddenCurves.assign(m_data.curves.size(), 0);
        for (int i = 1; i <= edges.Extent() && m_solid; ++i)
            m_data.hiddenCurves[size_t(i - 1)] =
                BRep_Tool::Degenerated(TopoDS::Edge(edges(i))) || isSeam(edges(i));
        for (int i = 1; i <= m_sideMap.Extent(); ++i) {
            m_data.nativeSides.push_back(m_sideMap(i).Oriented(TopAbs_FORWARD));
            m_data.sides.push_back(m_solid ? faceSide(TopoDS::Face(m_data.nativeSides.back()))
                                           : edgeSide(m_data.curves[size_t(i - 1)]));
        }
        for (size_t f = 0; f < m_data.nativePieces.size(); ++f)
            for (TopExp_Explorer e(m_data.nativePieces[f], m_sideKind); e.More(); e.Next()) {
                const int i = m_sideMap.FindIndex(e.Current()) - 1;
                auto& list = m_data.sides[size_t(i)].pieces;
                if (std::find(list.begin(), list.end(), int(f)) == list.end()) {
                    list.push_back(int(f));
                    if (m_solid && list.size() == 1 && e.Current().Orientation() == TopAbs_REVERSED)
                        m_data.sides[size_t(i)].normal = -1.0 * m_data.sides[size_t(i)].normal;
                }
                auto& mine = m_data.pieces[f].sides;
                if (std::find(mine.begin(), mine.end(), i) == mine.end())
                    mine.push_back(i);
            }
    }
    /// An edge that one face of the compound meets twice, or that bounds hidden pieces only.
    [[nodiscard]] bool isSeam(const TopoDS_Shape& edge) const
    {
        int shown = 0;
        for (size_t p = 0; p < m_data.nativePieces.size(); ++p) {
            if (m_data.regions[size_t(m_data.pieces[p].region)].hidden)
                continue;
            for (TopExp_Explorer f(m_data.nativePieces[p], TopAbs_FACE); f.More(); f.Next())
                for (TopExp_Explorer e(f.Current(), TopAbs_EDGE); e.More(); e.Next())
                    if (e.Current().IsSame(edge)) {
                        if (BRep_Tool::IsClosed(TopoDS::Edge(edge), TopoDS::Face(f.Current())))
                            return true;
                        ++shown;
                    }
        }
        return shown == 0;
    }
    [[nodiscard]] Side edgeSide(const BRepAdaptor_Curve& curve) const
    {
        Side side;
        side.t0 = curve.FirstParameter();
        side.t1 = curve.LastParameter();
        GProp_GProps props;
        BRepGProp::LinearProperties(curve.Edge(), props);
        side.content = props.Mass() * m_data.unit;
        side.centre = place(props.CentreOfMass());
        side.flat = curve.GetType() == GeomAbs_Line;
        return side;
    }
    [[nodiscard]] Side faceSide(const TopoDS_Face& face) const
    {
        Side side;
        GProp_GProps props;
        BRepGProp::SurfaceProperties(face, props);
        side.content = std::abs(props.Mass()) * m_data.unit * m_data.unit;
        side.centre = place(props.CentreOfMass());
        side.flat = BRepAdaptor_Surface(face).GetType() == GeomAbs_Plane;
        Handle(IntTools_Context) context = new IntTools_Context;
        gp_Pnt p;
        gp_Pnt2d uv;
        gp_Dir normal;
        if (BOPTools_AlgoTools3D::PointInFace(face, p, uv, context) == 0) {
            side.inside = place(p);
            if (BOPTools_AlgoTools3D::GetNormalToSurface(BRep_Tool::Surface(face), uv.X(), uv.Y(),
                                                         normal))
                side.normal = {normal.X(), normal.Y(), normal.Z()};
        }
        return side;
    }

    const sheet::Model& m_model;
    Partition::Data& m_data;
    TopTools_IndexedMapOfShape m_sideMap;
    Cut m_cut;
    double m_wedge = 0;  ///< angle of a wedge from the plane y = 0, 0: none
    bool m_solid;
    TopAbs_ShapeEnum m_pieceKind, m_sideKind;
    double m_x0 = 0, m_y0 = 0, m_z0 = 0, m_x1 = 0, m_y1 = 0, m_z1 = 0;
};

}  // namespace

Partition Partition::build(const sheet::Model& model, const std::string& folder)
{
    auto data = std::make_shared<Data>();
    data->dimension = model.space() == sheet::Space::solid ? 3 : 2;
    data->folder = folder;
    data->unit = chooseUnit(model);
    if (!sheet::topicOf(model.document()).hasShape) {
        // Circuits and closed forms; their files lie in the folder all the same.
        Partition none;
        none.m_data = std::move(data);
        return none;
    }
    std::vector<Body> bodies = allBodies(model, data->unit, folder);
    for (const Body& b : bodies)
        if (b.used)
            data->used.insert(b.line);
    refuseTiny(model, bodies, data->unit);
    try {
        Builder(model, *data).run(std::move(bodies));
    } catch (const Standard_Failure& f) {
        throw Error(3033,
                    std::string("the shape kernel gave up (") + f.GetMessageString() +
                        "); shift one of the shapes a little",
                    {-1, "shape", -1});
    }
    Partition p;
    p.m_data = std::move(data);
    return p;
}

}  // namespace yh::shape
