#include "shape/partition.h"

#include "shape/native.h"
#include "sheet/schema.h"

#include <BOPTools_AlgoTools3D.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAlgoAPI_BuilderAlgo.hxx>
#include <BRepAlgoAPI_Common.hxx>
#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepGProp.hxx>
#include <BRepTools.hxx>
#include <BRepTools_WireExplorer.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <Bnd_Box.hxx>
#include <GCPnts_TangentialDeflection.hxx>
#include <GProp_GProps.hxx>
#include <IntTools_Context.hxx>
#include <ShapeUpgrade_UnifySameDomain.hxx>
#include <Standard_Failure.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedDataMapOfShapeListOfShape.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_ListOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <gp_Circ.hxx>
#include <gp_Pln.hxx>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace yh::shape {

using base::Error;
using sheet::Line;
using sheet::PlaceAtom;

namespace {

constexpr double pi = 3.14159265358979323846;

/// Metres in one kernel unit, so that the drawing is some tens of units wide: the kernel's
/// tolerance of 1e-7 is then a billionth of it.
double chooseUnit(const sheet::Model& model)
{
    double largest = 0;
    for (const Line& l : model.document().lines) {
        const sheet::Kind* k = sheet::findKind(l.kind);
        if (!sheet::isShape(l.kind))
            continue;
        if (l.kind == "import")
            largest = std::max(largest, 10 * model.number(l, "unit"));
        for (const sheet::Field& f : k->fields) {
            if (f.type == sheet::FieldType::quantity && f.dimension == base::dim::length &&
                (l.has(f.key)) && f.key != "unit")
                largest = std::max(largest, std::abs(model.number(l, f.key)));
            if (f.type == sheet::FieldType::points && l.has(f.key))
                for (const auto& s : model.path(l, f.key))
                    largest = std::max({largest, std::abs(s.to.x), std::abs(s.to.y)});
            if (f.type == sheet::FieldType::point && l.has(f.key)) {
                const Point p = model.point(l, f.key);
                largest = std::max({largest, std::abs(p.x), std::abs(p.y)});
            }
        }
    }
    return largest > 0 ? std::pow(10.0, std::ceil(std::log10(largest)) - 2) : 1.0;
}

TopoDS_Compound compoundOf(const std::vector<TopoDS_Shape>& shapes)
{
    TopoDS_Compound c;
    BRep_Builder b;
    b.MakeCompound(c);
    for (const TopoDS_Shape& s : shapes)
        b.Add(c, s);
    return c;
}

TopTools_ListOfShape listOf(const std::vector<TopoDS_Shape>& shapes)
{
    TopTools_ListOfShape l;
    for (const TopoDS_Shape& s : shapes)
        l.Append(s);
    return l;
}

/// The bodies that a place of a boolean names; marks them as used up.
std::vector<TopoDS_Shape> take(std::vector<Body>& bodies, const sheet::Model& model,
                               const Line& line, const std::string& key)
{
    std::vector<TopoDS_Shape> shapes;
    const sheet::PlaceRule rule = model.place(line, key);
    for (const PlaceAtom& a : rule.atoms) {
        if (a.kind != PlaceAtom::Kind::name || a.subtract)
            throw Error(3020,
                        "only whole shapes can be joined or cut; name them, with `and` between",
                        {line.id, key, 0});
        bool found = false;
        for (Body& b : bodies) {
            if (b.name != a.name)
                continue;
            const bool member = a.members == PlaceAtom::Members::all ||
                                (a.members == PlaceAtom::Members::one && b.copy == a.member) ||
                                (a.members == PlaceAtom::Members::odd && b.copy % 2 == 1) ||
                                (a.members == PlaceAtom::Members::even && b.copy % 2 == 0);
            if (!member || b.thin)
                continue;
            found = true;
            b.used = true;
            for (TopExp_Explorer e(b.shape, TopAbs_FACE); e.More(); e.Next())
                shapes.push_back(e.Current());
        }
        if (!found)
            throw Error(3021,
                        "there is no shape '" + a.name + "' above this line that could be used",
                        {line.id, key, 0});
    }
    return shapes;
}

Body booleanBody(std::vector<Body>& bodies, const sheet::Model& model, const Line& line)
{
    const auto of = take(bodies, model, line, "of");
    Body b;
    b.line = line.id;
    b.name = line.name();
    TopoDS_Shape result;
    std::vector<TopoDS_Shape> by = line.kind == "union"
                                       ? std::vector<TopoDS_Shape>(of.begin() + 1, of.end())
                                       : take(bodies, model, line, "by");
    const std::vector<TopoDS_Shape> first =
        line.kind == "union" ? std::vector<TopoDS_Shape>{of[0]} : of;
    auto perform = [&](BRepAlgoAPI_BooleanOperation&& op) {
        op.SetArguments(listOf(first));
        op.SetTools(listOf(by));
        op.Build();
        if (op.HasErrors())
            throw Error(
                3022, "the shape kernel could not work this out; shift one of the shapes a little",
                {line.id, {}, -1});
        return op.Shape();
    };
    if (by.empty())
        result = compoundOf(of);
    else if (line.kind == "union")
        result = perform(BRepAlgoAPI_Fuse());
    else if (line.kind == "subtract")
        result = perform(BRepAlgoAPI_Cut());
    else
        result = perform(BRepAlgoAPI_Common());
    ShapeUpgrade_UnifySameDomain unify(result, true, true, false);
    unify.Build();
    b.shape = unify.Shape();
    if (!TopExp_Explorer(b.shape, TopAbs_FACE).More())
        throw Error(3023, "nothing is left of '" + b.name + "'; do the shapes overlap as meant?",
                    {line.id, {}, -1});
    return b;
}

std::vector<Body> allBodies(const sheet::Model& model, double unit, const std::string& folder)
{
    std::vector<Body> bodies;
    for (const Line& l : model.document().lines) {
        if (!sheet::isShape(l.kind))
            continue;
        try {
            if (l.kind == "union" || l.kind == "subtract" || l.kind == "intersect") {
                Body b = booleanBody(bodies, model, l);
                bodies.push_back(std::move(b));
            } else {
                for (Body& b : makeBodies(model, l, unit, folder))
                    bodies.push_back(std::move(b));
            }
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
    bool x = false, y = false;  ///< keep x > 0, keep y > 0
};

class Builder
{
public:
    Builder(const sheet::Model& model, Partition::Data& data) : m_model(model), m_data(data) {}

    void run(std::vector<Body> bodies)
    {
        cuts();
        std::erase_if(bodies, [](const Body& b) { return b.used; });
        const Bnd_Box box = boxOf(bodies);
        if (box.IsVoid())
            throw Error(3030, "the drawing is empty", {-1, "shape", -1});
        double z;
        box.Get(m_x0, m_y0, z, m_x1, m_y1, z);
        m_data.size = std::max(m_x1 - m_x0, m_y1 - m_y0) * m_data.unit;
        // The open space lies below all lines.
        std::vector<Body> all = openSpace();
        all.insert(all.end(), bodies.begin(), bodies.end());
        fuse(all);
    }

private:
    void cuts()
    {
        m_cut.x = m_model.space() == sheet::Space::axisymmetric;
        for (const Line* l : m_model.document().ofKind("mirror plane"))
            (l->get("at") == "x = 0" ? m_cut.x : m_cut.y) = true;
    }

    std::vector<Body> openSpace()
    {
        const Line* outer = m_model.document().first("outer edge");
        if (!outer || outer->get("is") != "open space")
            return {};
        double cx = (m_x0 + m_x1) / 2, cy = (m_y0 + m_y1) / 2;
        if (m_cut.x)
            cx = 0;
        if (m_cut.y)
            cy = 0;
        const double dx = std::max(m_x1 - cx, cx - m_x0), dy = std::max(m_y1 - cy, cy - m_y0);
        const double inner = openSpaceMargin * std::hypot(dx, dy), far = openShellThickness * inner;
        m_data.shell = {
            true, {cx * m_data.unit, cy * m_data.unit}, inner * m_data.unit, far * m_data.unit};
        Body shell, near;
        shell.line = near.line = outer->id;
        shell.name = "far shell";
        near.name = "open space";
        shell.shape = discFace(gp_Pnt(cx, cy, 0), far);
        near.shape = discFace(gp_Pnt(cx, cy, 0), inner);
        m_x0 = cx - far;
        m_x1 = cx + far;
        m_y0 = cy - far;
        m_y1 = cy + far;
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
            for (TopExp_Explorer e(bodies[i].shape, bodies[i].thin ? TopAbs_EDGE : TopAbs_FACE);
                 e.More(); e.Next())
                arguments.push_back({e.Current(), int(i)});
        std::vector<TopoDS_Shape> shapes;
        for (const Argument& a : arguments)
            shapes.push_back(a.shape);
        // A long line along each plane parts what crosses it; the far side is dropped below.
        const double reach = 1.5 * std::max({std::abs(m_x0), std::abs(m_x1), std::abs(m_y0),
                                             std::abs(m_y1), m_x1 - m_x0});
        if (m_cut.x && m_x0 < 0)
            shapes.push_back(
                BRepBuilderAPI_MakeEdge(gp_Pnt(0, -1.1 * reach, 0), gp_Pnt(0, reach, 0)).Edge());
        if (m_cut.y && m_y0 < 0)
            shapes.push_back(
                BRepBuilderAPI_MakeEdge(gp_Pnt(-1.1 * reach, 0, 0), gp_Pnt(reach, 0, 0)).Edge());
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
        TopExp::MapShapes(whole, TopAbs_FACE, faceMap);
        std::vector<int> owner(size_t(faceMap.Extent()) + 1, -1);
        for (const Argument& a : arguments)
            if (!bodies[size_t(a.body)].thin)
                for (const TopoDS_Shape& f : images(a.shape))
                    if (const int i = faceMap.FindIndex(f); i > 0)
                        owner[size_t(i)] = a.body;
        regions(bodies);
        keepFaces(faceMap, owner);
        edges();
        for (const Argument& a : arguments) {
            const Body& b = bodies[size_t(a.body)];
            if (b.thin)
                for (const TopoDS_Shape& e : images(a.shape))
                    if (const int i = m_edgeMap.FindIndex(e); i > 0)
                        m_data.sides[size_t(i - 1)].thin = true;
        }
        for (const Body& b : bodies)
            for (const NamedEdge& s : b.sides)
                for (const TopoDS_Shape& e : images(s.edge))
                    if (const int i = m_edgeMap.FindIndex(e); i > 0)
                        m_data.sides[size_t(i - 1)].sources.push_back({b.line, b.copy, s.side});
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

    void keepFaces(const TopTools_IndexedMapOfShape& faceMap, const std::vector<int>& owner)
    {
        BRep_Builder builder;
        builder.MakeCompound(m_data.compound);
        Handle(IntTools_Context) context = new IntTools_Context;
        for (int i = 1; i <= faceMap.Extent(); ++i) {
            if (owner[size_t(i)] < 0)
                continue;
            TopoDS_Face f = TopoDS::Face(faceMap(i));
            gp_Pnt p;
            gp_Pnt2d p2;
            if (BOPTools_AlgoTools3D::PointInFace(f, p, p2, context) != 0)
                throw Error(3032,
                            "a region of '" + m_data.regions[size_t(owner[size_t(i)])].name +
                                "' is too thin for the shape kernel",
                            {m_data.regions[size_t(owner[size_t(i)])].line, {}, -1});
            if ((m_cut.x && p.X() < 0) || (m_cut.y && p.Y() < 0))
                continue;
            GProp_GProps props;
            BRepGProp::SurfaceProperties(f, props);
            Piece face;
            face.region = owner[size_t(i)];
            face.content = std::abs(props.Mass()) * m_data.unit * m_data.unit;
            face.inside = {p.X() * m_data.unit, p.Y() * m_data.unit};
            builder.Add(m_data.compound, f);
            m_data.pieces.push_back(face);
            m_data.nativePieces.push_back(f);
        }
        if (m_data.pieces.empty())
            throw Error(3030,
                        m_cut.x ? "nothing of the drawing lies at positive x (r)"
                                : "the drawing has no region; thin lines alone cannot be solved",
                        {-1, "shape", -1});
    }

    void edges()
    {
        TopExp::MapShapes(m_data.compound, TopAbs_EDGE, m_edgeMap);
        for (int i = 1; i <= m_edgeMap.Extent(); ++i) {
            const TopoDS_Edge e = TopoDS::Edge(m_edgeMap(i).Oriented(TopAbs_FORWARD));
            m_data.nativeSides.push_back(e);
            m_data.curves.emplace_back(e);
            Side edge;
            edge.t0 = m_data.curves.back().FirstParameter();
            edge.t1 = m_data.curves.back().LastParameter();
            GProp_GProps props;
            BRepGProp::LinearProperties(e, props);
            edge.content = props.Mass() * m_data.unit;
            edge.flat = m_data.curves.back().GetType() == GeomAbs_Line;
            m_data.sides.push_back(edge);
        }
        for (size_t f = 0; f < m_data.nativePieces.size(); ++f)
            for (TopExp_Explorer e(m_data.nativePieces[f], TopAbs_EDGE); e.More(); e.Next()) {
                const int i = m_edgeMap.FindIndex(e.Current()) - 1;
                auto& list = m_data.sides[size_t(i)].pieces;
                if (std::find(list.begin(), list.end(), int(f)) == list.end())
                    list.push_back(int(f));
                auto& mine = m_data.pieces[f].sides;
                if (std::find(mine.begin(), mine.end(), i) == mine.end())
                    mine.push_back(i);
            }
    }

    const sheet::Model& m_model;
    Partition::Data& m_data;
    TopTools_IndexedMapOfShape m_edgeMap;
    Cut m_cut;
    double m_x0 = 0, m_y0 = 0, m_x1 = 0, m_y1 = 0;
};

}  // namespace

Partition Partition::build(const sheet::Model& model, const std::string& folder)
{
    auto data = std::make_shared<Data>();
    data->unit = chooseUnit(model);
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
int Partition::curveCount() const
{
    return int(m_data->curves.size());
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

Point Partition::onCurve(int edge, double t) const
{
    const gp_Pnt p = m_data->curves[size_t(edge)].Value(t);
    return {p.X() * m_data->unit, p.Y() * m_data->unit};
}

Point Partition::tangent(int edge, double t) const
{
    gp_Pnt p;
    gp_Vec v;
    m_data->curves[size_t(edge)].D1(t, p, v);
    return {v.X() * m_data->unit, v.Y() * m_data->unit};
}

Point Partition::nearestOn(int, const Point& p) const
{
    return p;
}

std::vector<Point> Partition::polyline(int edge) const
{
    const BRepAdaptor_Curve& c = m_data->curves[size_t(edge)];
    if (c.GetType() == GeomAbs_Line)
        return {at(edge, c.FirstParameter()), at(edge, c.LastParameter())};
    const GCPnts_TangentialDeflection points(c, 0.06, 0.02);
    std::vector<Point> list;
    for (int i = 1; i <= points.NbPoints(); ++i)
        list.push_back({points.Value(i).X() * m_data->unit, points.Value(i).Y() * m_data->unit});
    return list;
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
