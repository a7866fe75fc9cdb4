#include "base/constants.h"
#include "shape/native.h"

#include "sheet/schema.h"

#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepFilletAPI_MakeFillet2d.hxx>
#include <GC_MakeArcOfCircle.hxx>
#include <GC_MakeArcOfEllipse.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <gp_Circ.hxx>
#include <gp_Elips.hxx>
#include <gp_Pln.hxx>
#include <gp_Trsf.hxx>

#include <cmath>

namespace yh::shape {

namespace {

using base::pi;
/// Corners of full circles, which are four arcs: off the axes, where cuts by mirror planes would
/// meet them, and each other's mirror images, so that a mesh of two sides can be mirrored.
constexpr double cornerAt = 0.7321;
constexpr double cornersOfTurn[5] = {cornerAt, pi - cornerAt, pi + cornerAt, 2 * pi - cornerAt,
                                     2 * pi + cornerAt};

struct Outline
{
    std::vector<TopoDS_Edge> edges;
    std::vector<std::string> sides;
    void add(const TopoDS_Edge& e, const std::string& side)
    {
        edges.push_back(e);
        sides.push_back(side);
    }
};

gp_Pnt pnt(double x, double y)
{
    return {x, y, 0.0};
}

/// Builds in kernel units about the line's own centre.
class Maker
{
public:
    Maker(const sheet::Model& model, const sheet::Line& line, double unit)
        : m_model(model), m_line(line), m_unit(unit)
    {
    }

    double length(const std::string& key) const { return m_model.number(m_line, key) / m_unit; }
    double angle(const std::string& key) const { return m_model.number(m_line, key); }

    [[noreturn]] void impossible(const std::string& key, const std::string& text) const
    {
        throw base::Error(3001, text, {m_line.id, key, 0});
    }

    void straight(Outline& o, gp_Pnt a, gp_Pnt b, const std::string& side) const
    {
        if (a.Distance(b) < shortestSide)
            refuseTinySide(m_line, a.Distance(b), m_unit);
        o.add(BRepBuilderAPI_MakeEdge(a, b).Edge(), side);
    }

    static void arc(Outline& o, double radius, double from, double to, const std::string& side)
    {
        const gp_Circ c(gp_Ax2(gp::Origin(), gp::DZ()), radius);
        o.add(BRepBuilderAPI_MakeEdge(c, from, to).Edge(), side);
    }
    static void circle(Outline& o, double radius, const std::string& side)
    {
        for (int i = 0; i < 4; ++i)
            arc(o, radius, cornersOfTurn[i], cornersOfTurn[i + 1], side);
    }

    Outline rectangle() const
    {
        const double w = length("width") / 2, h = length("height") / 2;
        Outline o;
        straight(o, pnt(-w, -h), pnt(w, -h), "bottom");
        straight(o, pnt(w, -h), pnt(w, h), "right");
        straight(o, pnt(w, h), pnt(-w, h), "top");
        straight(o, pnt(-w, h), pnt(-w, -h), "left");
        return o;
    }
    Outline disc() const
    {
        Outline o;
        const double r = length("radius"), from = angle("from"), to = angle("to");
        if (!(to > from))
            impossible("to", "the sector ends at " + base::formatNumber(to * 180 / pi, 5) +
                                 " deg, not behind its start at " +
                                 base::formatNumber(from * 180 / pi, 5) + " deg");
        if (to - from > 2 * pi * (1 - 1e-9)) {
            circle(o, r, "outer");
            return o;
        }
        straight(o, pnt(0, 0), pnt(r * std::cos(from), r * std::sin(from)), "start");
        const int pieces = int(std::ceil((to - from) / (0.7 * pi)));
        for (int i = 0; i < pieces; ++i)
            arc(o, r, from + (to - from) * i / pieces, from + (to - from) * (i + 1) / pieces,
                "outer");
        straight(o, pnt(r * std::cos(to), r * std::sin(to)), pnt(0, 0), "end");
        return o;
    }
    Outline ellipse() const
    {
        const double a = length("a"), b = length("b");
        if (std::abs(a - b) < 1e-9 * a) {
            Outline o;
            circle(o, a, "outer");
            return o;
        }
        Outline o;
        const bool wide = a > b;
        const gp_Elips e(gp_Ax2(gp::Origin(), gp::DZ(), wide ? gp::DX() : gp::DY()), std::max(a, b),
                         std::min(a, b));
        for (int i = 0; i < 4; ++i)
            o.add(BRepBuilderAPI_MakeEdge(e, cornersOfTurn[i], cornersOfTurn[i + 1]).Edge(),
                  "outer");
        return o;
    }
    Outline path(bool closed) const
    {
        const auto steps = m_model.path(m_line, "points");
        Outline o;
        gp_Pnt at = pnt(steps[0].to.x / m_unit, steps[0].to.y / m_unit);
        const gp_Pnt start = at;
        constexpr double same = shortestSide;
        for (size_t i = 1; i < steps.size(); ++i) {
            const gp_Pnt to = pnt(steps[i].to.x / m_unit, steps[i].to.y / m_unit);
            if (at.Distance(to) < same)
                impossible("points", "points " + std::to_string(i) + " and " +
                                         std::to_string(i + 1) + " of the outline coincide");
            if (steps[i].via) {
                GC_MakeArcOfCircle made(at, pnt(steps[i].via->x / m_unit, steps[i].via->y / m_unit),
                                        to);
                if (!made.IsDone())
                    impossible("points", "the arc to point " + std::to_string(i + 1) +
                                             " goes through points on one straight line");
                o.add(BRepBuilderAPI_MakeEdge(made.Value()).Edge(), std::to_string(i));
            } else {
                straight(o, at, to, std::to_string(i));
            }
            at = to;
        }
        if (closed && at.Distance(start) > same)
            straight(o, at, start, std::to_string(steps.size()));
        return o;
    }

private:
    const sheet::Model& m_model;
    const sheet::Line& m_line;
    double m_unit;
};

TopoDS_Wire wireOf(const Outline& o)
{
    BRepBuilderAPI_MakeWire w;
    for (const TopoDS_Edge& e : o.edges)
        w.Add(e);
    return w.Wire();
}

/// Edges of the wire in the order they were given (a wire may hold its own copies of edges).
void nameSides(Body& body, const TopoDS_Wire& wire, const Outline& o)
{
    TopTools_IndexedMapOfShape edges;
    TopExp::MapShapes(wire, TopAbs_EDGE, edges);
    for (int i = 1; i <= edges.Extent() && size_t(i) <= o.sides.size(); ++i)
        body.sides.push_back({edges(i), o.sides[size_t(i - 1)]});
}

Body primitive(const sheet::Model& model, const sheet::Line& line, double unit)
{
    const Maker m(model, line, unit);
    Body body;
    Outline o;
    if (line.kind == "ring") {
        const double a = m.length("inner"), b = m.length("outer");
        if (!(b > a))
            m.impossible("outer", "the outer radius " + base::format(b * unit, base::dim::length) +
                                      " is not larger than the inner one, " +
                                      base::format(a * unit, base::dim::length));
        Outline inner;
        Maker::circle(o, b, "outer");
        Maker::circle(inner, a, "inner");
        const TopoDS_Wire wo = wireOf(o), wi = wireOf(inner);
        BRepBuilderAPI_MakeFace f(gp_Pln(gp::Origin(), gp::DZ()), wo, true);
        f.Add(TopoDS::Wire(wi.Reversed()));
        body.shape = f.Face();
        nameSides(body, wo, o);
        nameSides(body, wi, inner);
        return body;
    }
    if (line.kind == "rectangle")
        o = m.rectangle();
    else if (line.kind == "disc")
        o = m.disc();
    else if (line.kind == "ellipse")
        o = m.ellipse();
    else if (line.kind == "thin line")
        o = m.path(false);
    else
        o = m.path(true);
    const TopoDS_Wire w = wireOf(o);
    nameSides(body, w, o);
    if (line.kind == "thin line") {
        body.shape = w;
        body.thin = true;
        return body;
    }
    BRepBuilderAPI_MakeFace made(gp_Pln(gp::Origin(), gp::DZ()), w, true);
    if (!made.IsDone())
        m.impossible("points", "this outline does not enclose a region; its sides may cross");
    TopoDS_Face face = made.Face();
    const double round = line.has("round") ? m.length("round") : 0.0;
    if (round > 0) {
        BRepFilletAPI_MakeFillet2d fillet(face);
        TopTools_IndexedMapOfShape corners;
        TopExp::MapShapes(face, TopAbs_VERTEX, corners);
        for (int i = 1; i <= corners.Extent(); ++i)
            fillet.AddFillet(TopoDS::Vertex(corners(i)), round);
        fillet.Build();
        if (!fillet.IsDone() || fillet.Shape().IsNull() || fillet.NbFillet() != corners.Extent())
            m.impossible("round", "corners of " + base::format(round * unit, base::dim::length) +
                                      " do not fit on the sides of this shape");
        for (NamedSide& s : body.sides) {
            const TopoDS_Edge& e = TopoDS::Edge(s.native);
            if (fillet.IsModified(e))
                s.native = fillet.DescendantEdge(e);
        }
        face = TopoDS::Face(fillet.Shape());
    }
    body.shape = face;
    return body;
}

Body moved(const Body& b, const gp_Trsf& t)
{
    Body r = b;
    BRepBuilderAPI_Transform tr(b.shape, t, true);
    r.shape = tr.Shape();
    for (auto* list : {&r.sides, &r.outline})
        for (NamedSide& s : *list)
            s.native = tr.ModifiedShape(s.native);
    return r;
}

}  // namespace

void refuseTinySide(const sheet::Line& line, double length, double unit)
{
    throw base::Error(3034,
                      "a side of '" + line.name() + "' is only " +
                          base::format(length * unit, base::dim::length, 3) +
                          " long: beside lengths of up to " +
                          base::format(100 * unit, base::dim::length, 3) +
                          " the shape kernel cannot tell its ends apart",
                      {line.id, {}, -1});
}

std::vector<Body> makeBodies(const sheet::Model& model, const sheet::Line& line, double unit,
                             const std::string& folder)
{
    Body base;
    const bool solid = model.space() == sheet::Space::solid;
    const bool primitiveSolid = line.kind == "box" || line.kind == "cylinder" ||
                                line.kind == "cone" || line.kind == "sphere" ||
                                line.kind == "torus";
    if (primitiveSolid && !solid)
        throw base::Error(3004,
                          "a " + line.kind + " is a solid; the space of this sheet is " +
                              (model.space() == sheet::Space::plane ? "plane" : "axisymmetric"),
                          {line.id, {}, -1});
    std::string path = line.get("file");
    if (!path.empty() && path[0] != '/')
        path = folder + "/" + path;
    const bool isLayout = line.kind == "layout";
    if (line.kind == "swept") {
        if (!solid)
            throw base::Error(3004, "a bar along a path is a solid; the space of this sheet is not",
                              {line.id, {}, -1});
        base = sweptBody(model, line, unit);
        base.line = line.id;
        base.name = line.name();
        return {base};
    }
    if (line.kind == "import") {
        base.shape = (solid ? importSolid : importOutline)(path, model.number(line, "unit"), unit,
                                                           {line.id, "file", -1});
    } else if (primitiveSolid) {
        base = solidPrimitive(model, line, unit);
    } else {
        auto level = [&](const char* key) {
            constexpr double most = 65535;
            return int(std::lround(std::clamp(model.number(line, key), -1.0, most)));
        };
        if (line.kind == "picture")
            base.shape = importPicture(path, level("from"), level("to"),
                                       model.number(line, "width"), unit, {line.id, "file", -1});
        else if (isLayout)
            base.shape = importLayer(
                path, int(std::lround(model.number(line, "layer"))), line.get("cell"),
                line.has("outline") ? int(std::lround(model.number(line, "outline"))) : -1, unit,
                {line.id, "file", -1});
        else
            base = primitive(model, line, unit);
        if (solid && line.has("high")) {
            base = extruded(base, model.number(line, "high") / unit);
        } else if (solid) {
            // Without a height a plane shape is a sheet.
            base.thin = true;
            base.outline.swap(base.sides);
            base.sides.push_back({base.shape, "sheet"});
        }
    }
    base.line = line.id;
    base.name = line.name();
    if (line.kind == "import") {
        base.copyCount = 1;
        return {base};
    }
    gp_Trsf turn, place;
    if (line.has("turned"))
        turn.SetRotation(gp::OZ(), model.number(line, "turned"));
    const Point at = model.point(line, "at");
    place.SetTranslation(gp_Vec(at.x / unit, at.y / unit, at.z / unit));
    const int n = line.has("copies") ? model.count(line, "copies") : 1;
    constexpr int mostCopies = 20000;
    if (n > mostCopies)
        throw base::Error(3002,
                          std::to_string(n) +
                              " copies are more than this program can part; at most " +
                              std::to_string(mostCopies) + " are",
                          {line.id, "copies", 0});
    const Point step = line.has("every") ? model.point(line, "every") : Point{};
    const double turning = line.has("turning") ? model.number(line, "turning") : 0.0;
    const Point about = model.point(line, "about");
    if (n > 1 && step.x == 0 && step.y == 0 && step.z == 0 && turning == 0)
        throw base::Error(
            3003,
            "all copies lie on each other; state a step with `every` or an angle with `turning by`",
            {line.id, "copies", 0});
    const bool centred = model.choice(line, "spread") == "centred" && turning == 0;
    std::vector<Body> list;
    for (int i = 0; i < n; ++i) {
        const double k = centred ? i - 0.5 * (n - 1) : i;
        gp_Trsf shift, rotate;
        shift.SetTranslation(gp_Vec(k * step.x / unit, k * step.y / unit, k * step.z / unit));
        if (turning != 0)
            rotate.SetRotation(gp_Ax1(pnt(about.x / unit, about.y / unit), gp::DZ()), i * turning);
        Body b = moved(base, rotate * shift * place * turn);
        b.copy = i + 1;
        list.push_back(b);
    }
    if (line.has("mirrored")) {
        gp_Trsf mirror;
        const std::string plane = line.get("mirrored");
        mirror.SetMirror(gp_Ax2(gp::Origin(), plane == "x = 0"   ? gp::DX()
                                              : plane == "y = 0" ? gp::DY()
                                                                 : gp::DZ()));
        for (int i = 0; i < n; ++i) {
            Body b = moved(list[size_t(i)], mirror);
            b.copy = n + i + 1;
            list.push_back(b);
        }
    }
    for (Body& b : list)
        b.copyCount = int(list.size());
    return list;
}

}  // namespace yh::shape
