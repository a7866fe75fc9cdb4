// Solid primitives, extrusion, and solids from files.
#include "shape/native.h"

#include <BOPAlgo_ArgumentAnalyzer.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_MakeSolid.hxx>
#include <BRepBuilderAPI_Sewing.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepClass3d_SolidClassifier.hxx>
#include <BRepGProp.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCone.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>
#include <BRepTools.hxx>
#include <BRep_Builder.hxx>
#include <Bnd_Box.hxx>
#include <GProp_GProps.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Message_PrinterOStream.hxx>
#include <STEPControl_Reader.hxx>
#include <ShapeFix_Shape.hxx>
#include <StlAPI_Reader.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Shell.hxx>
#include <TopoDS_Solid.hxx>
#include <gp_Ax2.hxx>
#include <gp_Trsf.hxx>

#include <cmath>
#include <fstream>

namespace yh::shape {

namespace {

gp_Ax2 axisOf(const std::string& name)
{
    const gp_Dir along = name == "x" ? gp::DX() : name == "y" ? gp::DY() : gp::DZ();
    gp_Ax2 a(gp::Origin(), along);
    a.Rotate(gp_Ax1(gp::Origin(), along), seamAngle);
    return a;
}

/// Names faces of revolution by where they look: bottom and top along the axis, outer else.
void nameRound(Body& body, const gp_Dir& along)
{
    for (TopExp_Explorer e(body.shape, TopAbs_FACE); e.More(); e.Next()) {
        const TopoDS_Face f = TopoDS::Face(e.Current());
        const BRepAdaptor_Surface s(f);
        std::string name = "outer";
        if (s.GetType() == GeomAbs_Plane) {
            GProp_GProps props;
            BRepGProp::SurfaceProperties(f, props);
            const gp_Vec at(gp::Origin(), props.CentreOfMass());
            name = at.Dot(gp_Vec(along)) > 1e-9 ? "top" : "bottom";
        }
        body.sides.push_back({f, name});
    }
}

Body boxOf(double w, double l, double h)
{
    Body body;
    BRepPrimAPI_MakeBox box(gp_Pnt(-w / 2, -l / 2, 0), gp_Pnt(w / 2, l / 2, h));
    body.shape = box.Solid();
    body.sides = {{box.BottomFace(), "bottom"}, {box.TopFace(), "top"},
                  {box.BackFace(), "left"},     {box.FrontFace(), "right"},
                  {box.LeftFace(), "front"},    {box.RightFace(), "back"}};
    return body;
}

}  // namespace

Body solidPrimitive(const sheet::Model& model, const sheet::Line& line, double unit)
{
    Body body;
    auto length = [&](const char* key) { return model.number(line, key) / unit; };
    if (line.kind == "box")
        return boxOf(length("width"), length("length"), length("height"));
    if (line.kind == "sphere") {
        // Tilted too: no plane of symmetry then meets its poles.
        gp_Ax2 a(gp::Origin(), gp_Dir(0.31, 0.17, 0.93));
        body.shape = BRepPrimAPI_MakeSphere(a, length("radius")).Solid();
        nameRound(body, gp::DZ());
        return body;
    }
    const std::string axis = model.choice(line, "axis");
    const gp_Ax2 a = axisOf(axis);
    if (line.kind == "torus") {
        const double radius = length("radius"), tube = length("tube");
        if (!(tube < radius))
            throw base::Error(3005,
                              "the tube of " + base::format(tube * unit, base::dim::length) +
                                  " does not leave a hole in a torus of " +
                                  base::format(radius * unit, base::dim::length),
                              {line.id, "tube", 0});
        body.shape = BRepPrimAPI_MakeTorus(a, radius, tube).Solid();
    } else if (line.kind == "cylinder") {
        body.shape = BRepPrimAPI_MakeCylinder(a, length("radius"), length("height")).Solid();
    } else {
        const double bottom = length("radius"), top = length("top");
        if (std::abs(bottom - top) < 1e-9 * bottom)
            body.shape = BRepPrimAPI_MakeCylinder(a, bottom, length("height")).Solid();
        else
            body.shape = BRepPrimAPI_MakeCone(a, bottom, top, length("height")).Solid();
    }
    nameRound(body, a.Direction());
    return body;
}

Body extruded(const Body& plane, double height)
{
    Body body = plane;
    body.sides.clear();
    TopoDS_Compound all;
    BRep_Builder builder;
    builder.MakeCompound(all);
    for (TopExp_Explorer e(plane.shape, TopAbs_FACE); e.More(); e.Next()) {
        BRepPrimAPI_MakePrism prism(e.Current(), gp_Vec(0, 0, height));
        for (TopExp_Explorer s(prism.Shape(), TopAbs_SOLID); s.More(); s.Next())
            builder.Add(all, s.Current());
        body.sides.push_back({prism.FirstShape(), "bottom"});
        body.sides.push_back({prism.LastShape(), "top"});
        for (const NamedSide& side : plane.sides)
            for (const TopoDS_Shape& f : prism.Generated(side.native))
                // The bottom and top of a drawing are the front and back of what rises from it.
                body.sides.push_back({f, side.side == "bottom" ? "front"
                                         : side.side == "top"  ? "back"
                                                               : side.side});
    }
    body.shape = all;
    body.thin = false;
    return body;
}

namespace {

std::string endingOf(const std::string& path)
{
    std::string e = path.rfind('.') == std::string::npos ? "" : path.substr(path.rfind('.') + 1);
    for (char& c : e)
        c = char(std::tolower(static_cast<unsigned char>(c)));
    return e;
}

TopoDS_Shape readSolid(const std::string& path, const base::Place& place)
{
    // The reader talks on standard output, which is ours.
    Message::DefaultMessenger()->RemovePrinters(STANDARD_TYPE(Message_PrinterOStream));
    const std::string ending = endingOf(path);
    TopoDS_Shape shape;
    if (ending == "step" || ending == "stp") {
        STEPControl_Reader reader;
        if (reader.ReadFile(path.c_str()) == IFSelect_RetDone && reader.TransferRoots() > 0)
            shape = reader.OneShape();
    } else if (ending == "brep") {
        BRepTools::Read(shape, path.c_str(), BRep_Builder());
    } else if (ending == "stl") {
        StlAPI_Reader().Read(shape, path.c_str());
    } else {
        throw base::Error(
            3018, "'" + ending + "' files are not read as solids; STEP, BREP and STL are", place);
    }
    if (shape.IsNull())
        throw base::Error(
            3013, "the file " + path + " cannot be read; it is broken or holds no shape", place);
    return shape;
}

/** Faces that close are sewn to solids. */
std::vector<TopoDS_Solid> sewn(const TopoDS_Shape& shape)
{
    std::vector<TopoDS_Solid> list;
    constexpr double sewingTolerance = 1e-4;  // of the file's unit
    BRepBuilderAPI_Sewing sewing(sewingTolerance);
    sewing.Add(shape);
    sewing.Perform();
    for (TopExp_Explorer e(sewing.SewedShape(), TopAbs_SHELL); e.More(); e.Next()) {
        const TopoDS_Shell shell = TopoDS::Shell(e.Current());
        if (!shell.Closed())
            continue;
        TopoDS_Solid solid = BRepBuilderAPI_MakeSolid(shell).Solid();
        GProp_GProps props;
        BRepGProp::VolumeProperties(solid, props);
        if (props.Mass() < 0)
            solid.Reverse();
        list.push_back(solid);
    }
    return list;
}

/// Solids of a shape; loose faces are sewn together first.
TopoDS_Compound solidsOf(const TopoDS_Shape& shape, const std::string& path,
                         const base::Place& place)
{
    TopoDS_Compound all;
    BRep_Builder builder;
    builder.MakeCompound(all);
    int count = 0;
    auto add = [&](const TopoDS_Shape& s) {
        for (TopExp_Explorer e(s, TopAbs_SOLID); e.More(); e.Next()) {
            builder.Add(all, e.Current());
            ++count;
        }
    };
    ShapeFix_Shape fix(shape);
    fix.Perform();
    add(fix.Shape());
    if (count > 0)
        return all;
    for (const TopoDS_Solid& solid : sewn(shape))
        add(solid);
    if (count == 0)
        throw base::Error(3019,
                          "the surface in " + path +
                              " is open: no solid can be made of it; close the gaps between its "
                              "faces and import again",
                          place);
    return all;
}

/// @throws Error where a solid's surface passes through itself, with the place
void refuseCrossings(const TopoDS_Compound& solids, double metres, const std::string& path,
                     const base::Place& place)
{
    for (TopExp_Explorer e(solids, TopAbs_SOLID); e.More(); e.Next()) {
        TopTools_IndexedMapOfShape faces;
        TopExp::MapShapes(e.Current(), TopAbs_FACE, faces);
        // The search takes time with the number of faces; beyond this the mesher has to notice.
        constexpr int most = 3000;
        if (faces.Extent() > most)
            continue;
        BOPAlgo_ArgumentAnalyzer analyzer;
        analyzer.SetShape1(e.Current());
        analyzer.SelfInterMode() = true;
        analyzer.StopOnFirstFaulty() = true;
        analyzer.Perform();
        for (const BOPAlgo_CheckResult& found : analyzer.GetCheckResult()) {
            if (found.GetCheckStatus() != BOPAlgo_SelfIntersect)
                continue;
            Bnd_Box box;
            for (const TopoDS_Shape& s : found.GetFaultyShapes1())
                BRepBndLib::Add(s, box);
            const gp_XYZ at =
                box.IsVoid() ? gp_XYZ() : 0.5 * (box.CornerMin().XYZ() + box.CornerMax().XYZ());
            auto length = [&](double x) { return base::format(x * metres, base::dim::length, 4); };
            throw base::Error(3066,
                              "the surface in " + path + " passes through itself near " +
                                  length(at.X()) + ", " + length(at.Y()) + ", " + length(at.Z()) +
                                  "; mend it there and import again",
                              place);
        }
    }
}

}  // namespace

TopoDS_Shape importSolid(const std::string& path, double unitOfFile, double unit, base::Place place)
{
    checkFile(path, place);
    const TopoDS_Compound solids = solidsOf(readSolid(path, place), path, place);
    // STEP is handed out in millimetres, so that "1 mm" leaves it as it is; another unit mends a
    // file that was written in the wrong one. The other formats have no unit of their own.
    const double metres = unitOfFile;
    refuseCrossings(solids, metres, path, place);
    gp_Trsf t;
    t.SetScale(gp::Origin(), metres / unit);
    return BRepBuilderAPI_Transform(solids, t, true).Shape();
}

}  // namespace yh::shape
