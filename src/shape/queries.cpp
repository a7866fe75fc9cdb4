// What can be asked of a partition: its curves, faces and pieces, distances, the file that others
// read.
#include "shape/partition.h"

#include "base/constants.h"
#include "shape/native.h"

#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeVertex.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepClass3d_SolidClassifier.hxx>
#include <BRepExtrema_DistShapeShape.hxx>
#include <BRepGProp.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <BRepTools.hxx>
#include <BRepTools_WireExplorer.hxx>
#include <BRep_Tool.hxx>
#include <GCPnts_TangentialDeflection.hxx>
#include <GProp_GProps.hxx>
#include <Interface_Static.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Message_PrinterOStream.hxx>
#include <Poly_Triangulation.hxx>
#include <STEPControl_Writer.hxx>
#include <ShapeAnalysis_Surface.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Wire.hxx>
#include <gp_Trsf.hxx>

#include <algorithm>
#include <cmath>
#include <set>

namespace yh::shape {

using base::Error;
using base::pi;

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
