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
#include <BRepBuilderAPI_MakeVertex.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepClass3d_SolidClassifier.hxx>
#include <BRepExtrema_DistShapeShape.hxx>
#include <BRepGProp.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepTools.hxx>
#include <BRepTools_WireExplorer.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <Bnd_Box.hxx>
#include <GCPnts_TangentialDeflection.hxx>
#include <GProp_GProps.hxx>
#include <IntTools_Context.hxx>
#include <Interface_Static.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Message_PrinterOStream.hxx>
#include <Poly_Triangulation.hxx>
#include <STEPControl_Writer.hxx>
#include <ShapeAnalysis_Surface.hxx>
#include <Standard_Failure.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedDataMapOfShapeListOfShape.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_ListOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Solid.hxx>
#include <gp_Circ.hxx>
#include <gp_Pln.hxx>
#include <gp_Trsf.hxx>

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

    std::vector<Body> openSpace()
    {
        const auto waves = m_model.openSpace();
        const Line* outer = waves ? m_model.document().first("open space") : m_model.mappedSpace();
        if (!outer)
            return {};
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
        const gp_Pnt centre(cx, cy, cz);
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
            GProp_GProps props;
            if (m_solid)
                BRepGProp::VolumeProperties(map(i), props);
            else
                BRepGProp::SurfaceProperties(map(i), props);
            Piece piece;
            piece.region = owner[size_t(i)];
            piece.content = std::abs(props.Mass()) * std::pow(m_data.unit, m_data.dimension);
            piece.inside = place(p);
            builder.Add(m_data.compound, map(i));
            m_data.pieces.push_back(piece);
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

const std::string& Partition::folder() const
{
    return m_data->folder;
}

const std::vector<Region>& Partition::regions() const
{
    return m_data->regions;
}
const std::vector<Piece>& Partition::pieces() const
{
    return m_data->pieces;
}
const std::vector<Side>& Partition::sides() const
{
    return m_data->sides;
}
int Partition::dimension() const
{
    return m_data->dimension;
}
double Partition::revolvedContent(int piece) const
{
    GProp_GProps props;
    BRepGProp::SurfaceProperties(m_data->nativePieces[size_t(piece)], props);
    return 2 * pi * props.CentreOfMass().X() * m_data->unit * m_data->pieces[size_t(piece)].content;
}
const std::set<std::string>& Partition::sideNames(int line) const
{
    static const std::set<std::string> none;
    const auto it = m_data->sideNames.find(line);
    return it == m_data->sideNames.end() ? none : it->second;
}
bool Partition::isHiddenCurve(int curve) const
{
    return m_data->hiddenCurves[size_t(curve)] != 0;
}
int Partition::curveCount() const
{
    return int(m_data->curves.size());
}
Point OpenShell::drawn(const Point& p) const
{
    const Point off = p - centre;
    const double r = norm(off);
    if (!mapped || r <= inner)
        return p;
    return centre + ((outer - inner * (outer - inner) / r) / r) * off;
}

OpenShell::Stretch OpenShell::stretchAt(const Point& p) const
{
    // Quadratic sides bulge over the circle by some 1e-6 of it.
    const Point off = p - centre;
    const double s = norm(off), left = std::max(outer - s, 1e-9 * outer),
                 r = inner * (outer - inner) / left;
    return {(1 / s) * off, r / left, r / s};
}

const OpenShell& Partition::openShell() const
{
    return m_data->shell;
}
double Partition::size() const
{
    return m_data->size;
}
const void* Partition::nativeShape() const
{
    return &m_data->compound;
}
double Partition::nativeUnit() const
{
    return m_data->unit;
}

Point Partition::onCurve(int curve, double t) const
{
    const gp_Pnt p = m_data->curves[size_t(curve)].Value(t);
    const double u = m_data->unit;
    return {p.X() * u, p.Y() * u, p.Z() * u};
}

Point Partition::tangent(int side, double t) const
{
    gp_Pnt p;
    gp_Vec v;
    m_data->curves[size_t(side)].D1(t, p, v);
    return {v.X() * m_data->unit, v.Y() * m_data->unit};
}

std::string Partition::pathOf(const std::string& file) const
{
    return file.empty() || file[0] == '/' ? file : m_data->folder + "/" + file;
}

Point Partition::nearestOn(int side, const Point& p) const
{
    const double u = m_data->unit;
    ShapeAnalysis_Surface surface(
        BRep_Tool::Surface(TopoDS::Face(m_data->nativeSides[size_t(side)])));
    const gp_Pnt from(p.x / u, p.y / u, p.z / u);
    const gp_Pnt2d uv = surface.ValueOfUV(from, 1e-9);
    const gp_Pnt q = surface.Value(uv);
    return {q.X() * u, q.Y() * u, q.Z() * u};
}

std::vector<Point> Partition::curvePolyline(int curve) const
{
    const BRepAdaptor_Curve& c = m_data->curves[size_t(curve)];
    if (c.GetType() == GeomAbs_Line)
        return {onCurve(curve, c.FirstParameter()), onCurve(curve, c.LastParameter())};
    const GCPnts_TangentialDeflection points(c, 0.06, 0.02);
    std::vector<Point> list;
    const double u = m_data->unit;
    for (int i = 1; i <= points.NbPoints(); ++i)
        list.push_back({points.Value(i).X() * u, points.Value(i).Y() * u, points.Value(i).Z() * u});
    return list;
}

std::vector<Point> Partition::polyline(int side) const
{
    return curvePolyline(side);
}

std::vector<Point> Partition::samples(int side) const
{
    const Side& s = m_data->sides[size_t(side)];
    std::vector<Point> list;
    if (m_data->dimension == 2) {
        for (const double f : {0.0, 0.31, 0.5, 0.77, 1.0})
            list.push_back(at(side, s.t0 + f * (s.t1 - s.t0)));
        return list;
    }
    for (const auto& t : triangles(side))
        list.insert(list.end(), t.begin(), t.end());
    list.push_back(s.inside);
    return list;
}

std::vector<std::array<Point, 3>> Partition::triangles(int side) const
{
    const TopoDS_Face& f = TopoDS::Face(m_data->nativeSides[size_t(side)]);
    TopLoc_Location where;
    // Fine enough that a circle looks round: 0.2 rad a piece.
    constexpr double angle = 0.2, share = 2e-3;
    if (BRep_Tool::Triangulation(f, where).IsNull())
        BRepMesh_IncrementalMesh(f, share * m_data->size / m_data->unit, false, angle, false);
    const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(f, where);
    std::vector<std::array<Point, 3>> list;
    if (mesh.IsNull())
        return list;
    const double u = m_data->unit;
    for (int i = 1; i <= mesh->NbTriangles(); ++i) {
        int n[3];
        mesh->Triangle(i).Get(n[0], n[1], n[2]);
        std::array<Point, 3> t;
        for (size_t k = 0; k < 3; ++k) {
            const gp_Pnt p = mesh->Node(n[k]).Transformed(where);
            t[k] = {p.X() * u, p.Y() * u, p.Z() * u};
        }
        list.push_back(t);
    }
    return list;
}

Point Partition::outward(int side, int piece) const
{
    const Side& s = m_data->sides[size_t(side)];
    if (m_data->dimension == 3)
        return (s.pieces.front() == piece ? 1.0 : -1.0) * s.normal;
    // The region lies to the left of its edges where both run forward.
    const TopoDS_Shape& face = m_data->nativePieces[size_t(piece)];
    const Point t = tangent(side, 0.5 * (s.t0 + s.t1));
    Point n = (1 / norm(t)) * Point{t.y, -t.x};
    for (TopExp_Explorer e(face.Oriented(TopAbs_FORWARD), TopAbs_EDGE); e.More(); e.Next())
        if (e.Current().IsSame(m_data->nativeSides[size_t(side)]) &&
            e.Current().Orientation() == TopAbs_REVERSED)
            n = -1.0 * n;
    gp_Pnt p;
    gp_Vec u, v;
    const BRepAdaptor_Surface surface(TopoDS::Face(face.Oriented(TopAbs_FORWARD)));
    surface.D1(0, 0, p, u, v);
    return u.Crossed(v).Z() < 0 ? -1.0 * n : n;
}

void Partition::writeStep(const std::string& path) const
{
    Message::DefaultMessenger()->RemovePrinters(STANDARD_TYPE(Message_PrinterOStream));
    STEPControl_Writer writer;
    Interface_Static::SetCVal("write.step.unit", "MM");
    gp_Trsf toMillimetres;
    toMillimetres.SetScale(gp::Origin(), m_data->unit * 1e3);
    bool good = true;
    for (size_t i = 0; i < m_data->pieces.size(); ++i) {
        if (m_data->regions[size_t(m_data->pieces[i].region)].hidden)
            continue;
        BRepBuilderAPI_Transform scaled(m_data->nativePieces[i], toMillimetres, true);
        good = good && writer.Transfer(scaled.Shape(), STEPControl_AsIs) == IFSelect_RetDone;
    }
    if (!good || writer.Write(path.c_str()) != IFSelect_RetDone)
        throw Error(3065, "the file " + path +
                              " cannot be written: the folder is not writable or the disk is full");
}

std::vector<int> Partition::acrossSeams(int side) const
{
    std::vector<int> list{side};
    auto edgesOf = [&](int s) {
        TopTools_IndexedMapOfShape edges;
        TopExp::MapShapes(m_data->nativeSides[size_t(s)], TopAbs_EDGE, edges);
        return edges;
    };
    auto surfaceOf = [&](int s) {
        TopLoc_Location where;
        const auto surface =
            BRep_Tool::Surface(TopoDS::Face(m_data->nativeSides[size_t(s)]), where);
        return std::pair{surface, where};
    };
    if (dimension() != 3 || sides()[size_t(side)].flat)
        return list;
    const auto surface = surfaceOf(side);
    for (size_t i = 0; i < list.size(); ++i) {
        const auto mine = edgesOf(list[i]);
        for (int s = 0; s < int(sides().size()); ++s) {
            if (!std::is_permutation(
                    sides()[size_t(s)].pieces.begin(), sides()[size_t(s)].pieces.end(),
                    sides()[size_t(side)].pieces.begin(), sides()[size_t(side)].pieces.end()) ||
                std::find(list.begin(), list.end(), s) != list.end())
                continue;
            const auto other = surfaceOf(s);
            if (other.first != surface.first || !other.second.IsEqual(surface.second))
                continue;
            const auto theirs = edgesOf(s);
            for (int e = 1; e <= theirs.Extent(); ++e)
                if (mine.Contains(theirs(e))) {
                    list.push_back(s);
                    break;
                }
        }
    }
    return list;
}

double Partition::distanceTo(int side, const Point& p) const
{
    const double u = m_data->unit;
    const TopoDS_Vertex v = BRepBuilderAPI_MakeVertex(gp_Pnt(p.x / u, p.y / u, p.z / u)).Vertex();
    const BRepExtrema_DistShapeShape d(v, m_data->nativeSides[size_t(side)]);
    return d.IsDone() ? d.Value() * u : std::numeric_limits<double>::max();
}

double Partition::distanceTo(int side, const Point& a, const Point& b) const
{
    const double u = m_data->unit;
    const TopoDS_Edge e = BRepBuilderAPI_MakeEdge(gp_Pnt(a.x / u, a.y / u, a.z / u),
                                                  gp_Pnt(b.x / u, b.y / u, b.z / u))
                              .Edge();
    const BRepExtrema_DistShapeShape d(e, m_data->nativeSides[size_t(side)]);
    return d.IsDone() ? d.Value() * u : std::numeric_limits<double>::max();
}

int Partition::pieceAt(const Point& p) const
{
    const double u = m_data->unit;
    for (size_t f = 0; f < m_data->nativePieces.size(); ++f) {
        const BRepClass3d_SolidClassifier in(m_data->nativePieces[f],
                                             gp_Pnt(p.x / u, p.y / u, p.z / u), 1e-7);
        if (in.State() == TopAbs_IN || in.State() == TopAbs_ON)
            return int(f);
    }
    return -1;
}

std::vector<std::vector<Point>> Partition::outlines(int face) const
{
    const TopoDS_Face& f = TopoDS::Face(m_data->nativePieces[size_t(face)]);
    TopTools_IndexedMapOfShape edges;
    TopExp::MapShapes(m_data->compound, TopAbs_EDGE, edges);
    std::vector<std::vector<Point>> list;
    const TopoDS_Wire outer = BRepTools::OuterWire(f);
    for (TopExp_Explorer w(f, TopAbs_WIRE); w.More(); w.Next()) {
        if (w.Current().Orientation() == TopAbs_INTERNAL)
            continue;
        std::vector<Point> outline;
        for (BRepTools_WireExplorer e(TopoDS::Wire(w.Current()), f); e.More(); e.Next()) {
            std::vector<Point> p = polyline(edges.FindIndex(e.Current()) - 1);
            if (e.Current().Orientation() == TopAbs_REVERSED)
                std::reverse(p.begin(), p.end());
            outline.insert(outline.end(), p.begin(), p.end());
        }
        if (w.Current().IsSame(outer))
            list.insert(list.begin(), std::move(outline));
        else
            list.push_back(std::move(outline));
    }
    return list;
}

}  // namespace yh::shape
