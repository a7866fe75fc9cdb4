#include "base/constants.h"
#include "shape/native.h"

#include <BOPAlgo_Tools.hxx>
#include <BOPTools_AlgoTools3D.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepTools.hxx>
#include <BRep_Builder.hxx>
#include <Bnd_Box.hxx>
#include <GC_MakeArcOfCircle.hxx>
#include <IntTools_Context.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Message_PrinterOStream.hxx>
#include <STEPControl_Reader.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Face.hxx>
#include <gp_Circ.hxx>
#include <gp_Elips.hxx>
#include <gp_Pln.hxx>
#include <gp_Trsf.hxx>

#include <dxflib/dl_creationadapter.h>
#include <dxflib/dl_dxf.h>

#include <cmath>
#include <filesystem>
#include <fstream>

namespace yh::shape {

namespace {

using base::pi;
constexpr double samePoint = 1e-9;  // relative to kernel units of about 100; closer points are one

/// Collects the curves of a DXF file as kernel edges.
class DxfCurves : public DL_CreationAdapter
{
public:
    explicit DxfCurves(double scale) : m_scale(scale) { BRep_Builder().MakeCompound(m_edges); }

    void addLine(const DL_LineData& d) override { segment(d.x1, d.y1, d.x2, d.y2, 0); }
    void addArc(const DL_ArcData& d) override
    {
        double a = d.angle1 * pi / 180, b = d.angle2 * pi / 180;
        if (b <= a)
            b += 2 * pi;
        const gp_Circ c(gp_Ax2(point(d.cx, d.cy), gp::DZ()), d.radius * m_scale);
        add(BRepBuilderAPI_MakeEdge(c, a, b).Edge());
    }
    void addCircle(const DL_CircleData& d) override
    {
        const gp_Circ c(gp_Ax2(point(d.cx, d.cy), gp::DZ()), d.radius * m_scale);
        for (int i = 0; i < 3; ++i)
            add(BRepBuilderAPI_MakeEdge(c, 0.4 + i * 2 * pi / 3, 0.4 + (i + 1) * 2 * pi / 3)
                    .Edge());
    }
    void addEllipse(const DL_EllipseData& d) override
    {
        const double major = std::hypot(d.mx, d.my) * m_scale;
        const gp_Elips e(gp_Ax2(point(d.cx, d.cy), gp::DZ(), gp_Dir(d.mx, d.my, 0)), major,
                         major * d.ratio);
        double a = d.angle1, b = d.angle2;
        if (b <= a)
            b += 2 * pi;
        add(BRepBuilderAPI_MakeEdge(e, a, (a + b) / 2).Edge());
        add(BRepBuilderAPI_MakeEdge(e, (a + b) / 2, b).Edge());
    }
    void addPolyline(const DL_PolylineData& d) override
    {
        endEntity();
        m_closed = (d.flags & 1) != 0;
    }
    void addVertex(const DL_VertexData& d) override { m_vertices.push_back(d); }
    void endSequence() override { finish(); }
    void endEntity() override { finish(); }

    void finish()
    {
        for (size_t i = 0; i + 1 < m_vertices.size() + (m_closed ? 1 : 0); ++i) {
            const DL_VertexData &a = m_vertices[i], &b = m_vertices[(i + 1) % m_vertices.size()];
            segment(a.x, a.y, b.x, b.y, a.bulge);
        }
        m_vertices.clear();
        m_closed = false;
    }
    [[nodiscard]] const TopoDS_Compound& edges() const { return m_edges; }
    [[nodiscard]] int count() const { return m_count; }

private:
    [[nodiscard]] gp_Pnt point(double x, double y) const { return {x * m_scale, y * m_scale, 0}; }
    void add(const TopoDS_Edge& e)
    {
        BRep_Builder().Add(m_edges, e);
        ++m_count;
    }
    /// A straight side, or an arc by its bulge: the tangent of a quarter of its angle.
    void segment(double x1, double y1, double x2, double y2, double bulge)
    {
        const gp_Pnt a = point(x1, y1), b = point(x2, y2);
        if (a.Distance(b) < samePoint)
            return;
        if (bulge == 0) {
            add(BRepBuilderAPI_MakeEdge(a, b).Edge());
            return;
        }
        // The arc's middle lies bulge times half the chord off the chord, to its right.
        const gp_Pnt mid((a.X() + b.X()) / 2 + bulge * (b.Y() - a.Y()) / 2,
                         (a.Y() + b.Y()) / 2 - bulge * (b.X() - a.X()) / 2, 0);
        add(BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(a, mid, b).Value()).Edge());
    }

    double m_scale;
    TopoDS_Compound m_edges;
    std::vector<DL_VertexData> m_vertices;
    bool m_closed = false;
    int m_count = 0;
};

/// Of nested outlines every second one is a hole: keeps the faces that lie in an even number of
/// other outlines.
TopoDS_Shape evenOdd(const TopoDS_Shape& all)
{
    std::vector<TopoDS_Face> faces, filled;
    for (TopExp_Explorer e(all, TopAbs_FACE); e.More(); e.Next()) {
        faces.push_back(TopoDS::Face(e.Current()));
        filled.push_back(BRepBuilderAPI_MakeFace(gp_Pln(gp::Origin(), gp::DZ()),
                                                 BRepTools::OuterWire(faces.back()), true)
                             .Face());
    }
    TopoDS_Compound kept;
    BRep_Builder builder;
    builder.MakeCompound(kept);
    Handle(IntTools_Context) context = new IntTools_Context;
    for (size_t i = 0; i < faces.size(); ++i) {
        gp_Pnt p;
        gp_Pnt2d p2;
        if (BOPTools_AlgoTools3D::PointInFace(faces[i], p, p2, context) != 0)
            continue;
        int depth = 0;
        for (size_t k = 0; k < filled.size(); ++k)
            depth += k != i && context->IsPointInFace(p, filled[k], 1e-7);
        if (depth % 2 == 0)
            builder.Add(kept, faces[i]);
    }
    return kept;
}

TopoDS_Shape facesFromEdges(const TopoDS_Shape& edges, const std::string& path,
                            const base::Place& place)
{
    TopoDS_Shape wires, faces;
    if (BOPAlgo_Tools::EdgesToWires(edges, wires) != 0 ||
        !BOPAlgo_Tools::WiresToFaces(wires, faces))
        throw base::Error(3012,
                          "the curves in " + path +
                              " do not close to an outline; join their ends and import again",
                          place);
    return evenOdd(faces);
}

bool hasFaces(const TopoDS_Shape& s)
{
    return !s.IsNull() && TopExp_Explorer(s, TopAbs_FACE).More();
}

TopoDS_Shape readDxf(const std::string& path, double scale, const base::Place& place)
{
    DxfCurves curves(scale);
    DL_Dxf reader;
    if (!reader.in(path, &curves))
        throw base::Error(3010, "the file " + path + " cannot be read as DXF", place);
    curves.finish();
    if (curves.count() == 0)
        throw base::Error(3011, "there are no lines, arcs or polylines in " + path, place);
    return facesFromEdges(curves.edges(), path, place);
}

TopoDS_Shape readStep(const std::string& path, double unit, const base::Place& place)
{
    // The reader talks on standard output, which is ours.
    Message::DefaultMessenger()->RemovePrinters(STANDARD_TYPE(Message_PrinterOStream));
    STEPControl_Reader reader;
    if (reader.ReadFile(path.c_str()) != IFSelect_RetDone || reader.TransferRoots() == 0)
        throw base::Error(
            3013, "the file " + path + " cannot be read as STEP; it is broken or holds no shape",
            place);
    TopoDS_Shape shape = reader.OneShape();
    Bnd_Box box;
    BRepBndLib::Add(shape, box);
    double x0, y0, z0, x1, y1, z1;
    if (box.IsVoid())
        throw base::Error(3014, "there is no shape in " + path, place);
    box.Get(x0, y0, z0, x1, y1, z1);
    constexpr double flat = 1e-5;
    if (std::max(std::abs(z0), std::abs(z1)) > flat * std::max(x1 - x0, y1 - y0) + 1e-6)
        throw base::Error(3015, "the outline in " + path + " does not lie in the plane z = 0",
                          place);
    if (!hasFaces(shape)) {
        TopoDS_Compound edges;
        BRep_Builder builder;
        builder.MakeCompound(edges);
        for (TopExp_Explorer e(shape, TopAbs_EDGE); e.More(); e.Next())
            builder.Add(edges, e.Current());
        shape = facesFromEdges(edges, path, place);
    }
    gp_Trsf t;
    t.SetScale(gp::Origin(), 1e-3 / unit);  // the reader hands out millimetres
    return BRepBuilderAPI_Transform(shape, t, true).Shape();
}

}  // namespace

void checkFile(const std::string& path, base::Place place)
{
    namespace fs = std::filesystem;
    std::error_code none;
    if (!fs::exists(path, none))
        throw base::Error(3016, "the file " + path + " is not there or cannot be opened", place);
    if (!fs::is_regular_file(path, none))
        throw base::Error(3075, path + " is a folder or a device, not a file", place);
    constexpr std::uintmax_t largest = std::uintmax_t(1) << 30;
    if (const auto size = fs::file_size(path, none); none || size > largest)
        throw base::Error(3075, "the file " + path + " has more than a gigabyte", place);
    if (!std::ifstream(path).good())
        throw base::Error(3016, "the file " + path + " is not there or cannot be opened", place);
}

TopoDS_Shape importOutline(const std::string& path, double unitOfFile, double unit,
                           base::Place place)
{
    checkFile(path, place);
    const std::string ending = path.size() > 4 ? path.substr(path.rfind('.') + 1) : "";
    const bool step = ending == "step" || ending == "stp" || ending == "STEP" || ending == "STP";
    if (!step && ending != "dxf" && ending != "DXF")
        throw base::Error(3017, "'" + ending + "' files are not read as outlines; DXF and STEP are",
                          place);
    TopoDS_Shape s = step ? readStep(path, unit * 1e-3 / unitOfFile, place)
                          : readDxf(path, unitOfFile / unit, place);
    if (!hasFaces(s))
        throw base::Error(3012,
                          "the curves in " + path +
                              " do not close to an outline; join their ends and import again",
                          place);
    return s;
}

}  // namespace yh::shape
