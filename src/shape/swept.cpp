// Bars of constant cross-section along a path: leads, busbars, round and racetrack coils.
#include "shape/native.h"

#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepGProp.hxx>
#include <BRepOffsetAPI_MakePipeShell.hxx>
#include <GC_MakeArcOfCircle.hxx>
#include <GProp_GProps.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Wire.hxx>
#include <gp_Ax2.hxx>
#include <gp_Circ.hxx>

#include <cmath>

namespace yh::shape {

namespace {

struct Span
{
    gp_Pnt from, to;
    std::optional<gp_Pnt> via;  ///< an arc
};

class Sweeper
{
public:
    Sweeper(const sheet::Model& model, const sheet::Line& line, double unit)
        : m_model(model), m_line(line), m_unit(unit)
    {
    }

    /** The solid that a profile makes along the path. */
    Body solidOf(const TopoDS_Shape& swept)
    {
        Body body;
        for (TopExp_Explorer e(swept, TopAbs_SOLID); e.More(); e.Next()) {
            GProp_GProps props;
            BRepGProp::VolumeProperties(e.Current(), props);
            body.shape = props.Mass() < 0 ? e.Current().Reversed() : e.Current();
        }
        if (body.shape.IsNull())
            fail("points", "the shape kernel makes no solid along this path");
        return body;
    }

    Body run()
    {
        readPath();
        roundCorners();
        const TopoDS_Wire spine = spineWire();
        const bool closed = m_closed;
        gp_Vec along(m_spans.front().from,
                     m_spans.front().via ? *m_spans.front().via : m_spans.front().to);
        if (m_spans.front().via)
            along = tangentAtStart(m_spans.front());
        along.Normalize();
        BRepOffsetAPI_MakePipeShell pipe(spine);
        gp_Vec flat;
        if (isPlanar(flat))
            pipe.SetMode(gp_Dir(flat));
        else
            pipe.SetMode(false);
        pipe.SetTransitionMode(BRepBuilderAPI_RightCorner);
        pipe.Add(profile(m_spans.front().from, along, flat));
        if (!pipe.IsReady())
            fail("points", "the shape kernel cannot follow this path");
        pipe.Build();
        if (!pipe.IsDone() || !pipe.MakeSolid())
            fail("points",
                 "the shape kernel cannot follow this path: a bend may be narrower than the "
                 "cross-section");
        Body body = solidOf(pipe.Shape());
        const TopoDS_Shape first = closed ? TopoDS_Shape() : pipe.FirstShape(),
                           last = closed ? TopoDS_Shape() : pipe.LastShape();
        for (TopExp_Explorer e(body.shape, TopAbs_FACE); e.More(); e.Next())
            body.sides.push_back(
                {e.Current(), !first.IsNull() && e.Current().IsSame(first) ? "start"
                              : !last.IsNull() && e.Current().IsSame(last) ? "end"
                                                                           : "outer"});
        return body;
    }

private:
    [[noreturn]] void fail(const std::string& key, const std::string& text) const
    {
        throw base::Error(3050, text, {m_line.id, key, 0});
    }
    [[nodiscard]] gp_Pnt point(const sheet::Point& p) const
    {
        return {p.x / m_unit, p.y / m_unit, p.z / m_unit};
    }

    void readPath()
    {
        const auto steps = m_model.path(m_line, "points");
        m_closed = m_model.choice(m_line, "ends") == "closed";
        constexpr double same = 1e-6;  // points closer than the kernel can tell apart
        for (size_t i = 1; i < steps.size(); ++i) {
            Span s{point(steps[i - 1].to), point(steps[i].to), {}};
            if (s.from.Distance(s.to) < same)
                fail("points", "points " + std::to_string(i) + " and " + std::to_string(i + 1) +
                                   " of the path coincide");
            if (steps[i].via)
                s.via = point(*steps[i].via);
            m_spans.push_back(s);
        }
        if (m_closed && m_spans.back().to.Distance(m_spans.front().from) > same)
            m_spans.push_back({m_spans.back().to, m_spans.front().from, {}});
    }

    /// A closed path starts in the middle of a straight span, so that its ends meet smoothly.
    void startInTheMiddle()
    {
        if (m_closed && !m_spans.front().via) {
            const Span s = m_spans.front();
            const gp_Pnt middle(0.5 * (s.from.XYZ() + s.to.XYZ()));
            m_spans.front().from = middle;
            m_spans.push_back({s.from, middle, {}});
        }
    }

    /// Replaces each corner between straight spans by an arc of the bend radius.
    void roundCorners()
    {
        const double r = m_line.has("bend") ? m_model.number(m_line, "bend") / m_unit : 0.0;
        startInTheMiddle();
        if (!(r > 0))
            return;
        std::vector<Span> list{m_spans.front()};
        for (size_t i = 1; i < m_spans.size(); ++i) {
            Span next = m_spans[i];
            Span& before = list.back();
            if (before.via || next.via) {
                list.push_back(next);
                continue;
            }
            gp_Vec u(before.from, before.to), v(next.from, next.to);
            const double lu = u.Magnitude(), lv = v.Magnitude();
            u.Normalize();
            v.Normalize();
            const double turn = u.Angle(v);
            if (turn < 1e-6) {
                list.push_back(next);
                continue;
            }
            const double back = r * std::tan(turn / 2);
            if (back > lu * (1 - 1e-6) || back > lv * (1 - 1e-6))
                fail("bend", "bends of " + base::format(r * m_unit, base::dim::length) +
                                 " do not fit at point " + std::to_string(i + 1) + " of the path");
            const gp_Pnt corner = before.to, a = corner.Translated(-back * u),
                         b = corner.Translated(back * v);
            gp_Vec inward = v - u;
            inward.Normalize();
            const gp_Pnt via = corner.Translated(inward * (r / std::cos(turn / 2) - r));
            before.to = a;
            list.push_back({a, b, via});
            next.from = b;
            list.push_back(next);
        }
        m_spans = list;
    }

    TopoDS_Wire spineWire() const
    {
        BRepBuilderAPI_MakeWire w;
        for (const Span& s : m_spans) {
            if (s.via) {
                GC_MakeArcOfCircle arc(s.from, *s.via, s.to);
                if (!arc.IsDone())
                    fail("points", "an arc goes through points on one straight line");
                w.Add(BRepBuilderAPI_MakeEdge(arc.Value()).Edge());
            } else {
                w.Add(BRepBuilderAPI_MakeEdge(s.from, s.to).Edge());
            }
        }
        if (!w.IsDone())
            fail("points", "the spans of the path do not join");
        return w.Wire();
    }
    static gp_Vec tangentAtStart(const Span& s)
    {
        gp_Pnt p;
        gp_Vec t;
        const auto arc = GC_MakeArcOfCircle(s.from, *s.via, s.to).Value();
        arc->D1(arc->FirstParameter(), p, t);
        return t;
    }
    /// Normal of the plane that holds the path; a straight path lies in an upright one if it can.
    bool isPlanar(gp_Vec& normal) const
    {
        std::vector<gp_Pnt> points;
        for (const Span& s : m_spans) {
            points.push_back(s.from);
            if (s.via)
                points.push_back(*s.via);
            points.push_back(s.to);
        }
        const gp_Vec u(points[0], points[1]);
        normal = gp_Vec(0, 0, 0);
        for (const gp_Pnt& p : points) {
            const gp_Vec n = u.Crossed(gp_Vec(points[0], p));
            if (n.Magnitude() > normal.Magnitude())
                normal = n;
        }
        if (normal.Magnitude() < 1e-6 * u.SquareMagnitude()) {
            // Straight: the thickness stands upright, or along x where the path itself does.
            const gp_Vec level = u.Crossed(gp_Vec(0, 0, 1));
            normal = level.Magnitude() > 1e-6 * u.Magnitude() ? level.Crossed(u) : gp_Vec(1, 0, 0);
            normal.Normalize();
            return true;
        }
        normal.Normalize();
        for (const gp_Pnt& p : points)
            if (std::abs(normal.Dot(gp_Vec(points[0], p))) > 1e-6 * u.Magnitude())
                return false;
        if (normal.Z() < -1e-9)
            normal.Reverse();
        return true;
    }

    /// Round, or width (in the plane of the path) by thickness (across it).
    TopoDS_Wire profile(const gp_Pnt& at, const gp_Vec& along, gp_Vec across) const
    {
        if (m_line.has("radius") == (m_line.has("width") || m_line.has("thickness")))
            fail("radius",
                 "the cross-section is either round, by its radius, or rectangular, by "
                 "its width and thickness");
        if (m_line.has("radius")) {
            const gp_Circ c(gp_Ax2(at, gp_Dir(along)), m_model.number(m_line, "radius") / m_unit);
            return BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(c).Edge()).Wire();
        }
        if (!m_line.has("width") || !m_line.has("thickness"))
            fail("width", "a rectangular cross-section needs its width and its thickness");
        if (across.Magnitude() < 0.5 || std::abs(across.Dot(along)) > 1e-6) {
            across = gp_Vec(0, 0, 1) - along * along.Z();
            if (across.Magnitude() < 1e-6)
                across = gp_Vec(1, 0, 0);
            across.Normalize();
        }
        const gp_Vec u = across.Crossed(along) * (0.5 * m_model.number(m_line, "width") / m_unit),
                     v = across * (0.5 * m_model.number(m_line, "thickness") / m_unit);
        const gp_Pnt p[4] = {at.Translated(-u - v), at.Translated(u - v), at.Translated(u + v),
                             at.Translated(v - u)};
        BRepBuilderAPI_MakeWire w;
        for (int i = 0; i < 4; ++i)
            w.Add(BRepBuilderAPI_MakeEdge(p[i], p[(i + 1) % 4]).Edge());
        return w.Wire();
    }

    const sheet::Model& m_model;
    const sheet::Line& m_line;
    double m_unit;
    std::vector<Span> m_spans;
    bool m_closed = false;
};

}  // namespace

Body sweptBody(const sheet::Model& model, const sheet::Line& line, double unit)
{
    return Sweeper(model, line, unit).run();
}

}  // namespace yh::shape
