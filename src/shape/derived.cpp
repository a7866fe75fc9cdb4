// Shapes made of earlier ones: booleans, revolutions, lofts, rounded and chamfered edges, splits.
#include "base/constants.h"
#include "shape/native.h"

#include <BRepAdaptor_Curve.hxx>
#include <BRepAlgoAPI_Common.hxx>
#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepAlgoAPI_Splitter.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepFilletAPI_MakeChamfer.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepGProp.hxx>
#include <BRepOffsetAPI_ThruSections.hxx>
#include <BRepPrimAPI_MakeRevol.hxx>
#include <BRepTools.hxx>
#include <BRep_Builder.hxx>
#include <Bnd_Box.hxx>
#include <GProp_GProps.hxx>
#include <ShapeUpgrade_UnifySameDomain.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <gp_Pln.hxx>
#include <gp_Trsf.hxx>

#include <algorithm>
#include <cmath>
#include <set>

namespace yh::shape {

using base::Error;
using sheet::Line;
using sheet::PlaceAtom;

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

namespace {

using base::pi;

class Deriver
{
public:
    Deriver(std::vector<Body>& bodies, const sheet::Model& model, const Line& line, double unit)
        : m_bodies(bodies),
          m_model(model),
          m_line(line),
          m_unit(unit),
          m_solid(model.space() == sheet::Space::solid),
          m_kind(m_solid ? TopAbs_SOLID : TopAbs_FACE)
    {
    }

    std::vector<Body> run()
    {
        const std::string& kind = m_line.kind;
        if (kind == "revolve")
            return named({revolved()});
        if (kind == "loft")
            return named({loft()});
        if (kind == "rounded edges" || kind == "chamfered edges")
            return named({trimmed(kind == "rounded edges")});
        if (kind == "split")
            return named(split());
        return named({boolean()});
    }

private:
    [[noreturn]] void fail(int number, const std::string& key, const std::string& text) const
    {
        throw Error(number, text, {m_line.id, key, key.empty() ? -1 : 0});
    }
    std::vector<Body> named(std::vector<Body> list) const
    {
        for (size_t i = 0; i < list.size(); ++i) {
            list[i].line = m_line.id;
            list[i].name = m_line.name();
            list[i].copy = int(i) + 1;
            list[i].copyCount = int(list.size());
        }
        return list;
    }
    void needsSolids(const std::string& what) const
    {
        if (!m_solid)
            fail(3004, {}, what + " is a solid; the space of this sheet is not");
    }

    /// The bodies that a place names; marks them as used up.
    /// @param thin  plane sheets are wanted, not regions
    std::vector<Body*> take(const std::string& key, bool thin = false)
    {
        std::vector<Body*> list;
        for (const PlaceAtom& a : m_model.place(m_line, key).atoms) {
            if (a.kind != PlaceAtom::Kind::name || a.subtract)
                fail(3020, key,
                     "only whole shapes can be used here; name them, with `and` between");
            bool found = false, solid = false;
            for (Body& b : m_bodies) {
                const bool member = a.members == PlaceAtom::Members::all ||
                                    (a.members == PlaceAtom::Members::one && b.copy == a.member) ||
                                    (a.members == PlaceAtom::Members::odd && b.copy % 2 == 1) ||
                                    (a.members == PlaceAtom::Members::even && b.copy % 2 == 0);
                if (b.name != a.name || !member)
                    continue;
                if (b.thin != thin) {
                    solid = true;
                    continue;
                }
                found = true;
                b.used = true;
                list.push_back(&b);
            }
            if (!found && solid)
                fail(3041, key,
                     thin ? "'" + a.name + "' is a solid; a plane shape without `high` is wanted"
                          : "'" + a.name + "' is without thickness; a region is wanted");
            if (!found)
                fail(3021, key,
                     "there is no shape '" + a.name + "' above this line that could be used");
        }
        return list;
    }
    std::vector<TopoDS_Shape> pieces(const std::vector<Body*>& bodies) const
    {
        std::vector<TopoDS_Shape> list;
        for (const Body* b : bodies)
            for (TopExp_Explorer e(b->shape, m_kind); e.More(); e.Next())
                list.push_back(e.Current());
        return list;
    }

    Body boolean()
    {
        const auto of = pieces(take("of"));
        const bool isUnion = m_line.kind == "union";
        const std::vector<TopoDS_Shape> by = isUnion ? std::vector<TopoDS_Shape>(of.begin() + 1,
                                                                                 of.end())
                                                     : pieces(take("by")),
                                        first = isUnion ? std::vector<TopoDS_Shape>{of[0]} : of;
        auto perform = [&](BRepAlgoAPI_BooleanOperation&& op) {
            op.SetArguments(listOf(first));
            op.SetTools(listOf(by));
            op.Build();
            if (op.HasErrors())
                fail(3022, {},
                     "the shape kernel could not work this out; shift one of the shapes a little");
            return op.Shape();
        };
        const TopoDS_Shape result = by.empty()                  ? TopoDS_Shape(compoundOf(of))
                                    : isUnion                   ? perform(BRepAlgoAPI_Fuse())
                                    : m_line.kind == "subtract" ? perform(BRepAlgoAPI_Cut())
                                                                : perform(BRepAlgoAPI_Common());
        ShapeUpgrade_UnifySameDomain unify(result, true, true, false);
        unify.Build();
        Body b;
        b.shape = unify.Shape();
        if (!TopExp_Explorer(b.shape, m_kind).More())
            fail(3023, {},
                 "nothing is left of '" + m_line.name() + "'; do the shapes overlap as meant?");
        return b;
    }

    /// A plane shape turned about the z axis: its x is the distance from the axis, its y the
    /// height.
    Body revolved()
    {
        needsSolids("a body of revolution");
        const double angle = m_model.number(m_line, "angle");
        const bool full = angle > 2 * pi * (1 - 1e-9);
        if (!(angle > 0) || angle > 2 * pi * (1 + 1e-9))
            fail(3040, "angle", "the angle of a revolution is above 0 and at most 360 deg");
        gp_Trsf upright, start;
        upright.SetRotation(gp::OX(), pi / 2);
        start.SetRotation(gp::OZ(), full ? seamAngle : 0.0);
        Body body;
        std::vector<TopoDS_Shape> solids;
        for (const Body* plane : take("of", true)) {
            Bnd_Box box;
            BRepBndLib::AddOptimal(plane->shape, box, false, false);
            double x0, y0, z0, x1, y1, z1;
            box.Get(x0, y0, z0, x1, y1, z1);
            if (x0 < -1e-6 * (x1 - x0))
                fail(3042, "of",
                     "'" + plane->name +
                         "' reaches over the axis: what is turned about it lies at x > 0");
            BRepBuilderAPI_Transform move(plane->shape, start * upright, true);
            for (TopExp_Explorer e(move.Shape(), TopAbs_FACE); e.More(); e.Next()) {
                BRepPrimAPI_MakeRevol turn(e.Current(), gp::OZ(), full ? 2 * pi : angle);
                for (TopExp_Explorer s(turn.Shape(), TopAbs_SOLID); s.More(); s.Next())
                    solids.push_back(s.Current());
                if (!full) {
                    body.sides.push_back({turn.FirstShape(), "start"});
                    body.sides.push_back({turn.LastShape(), "end"});
                }
                for (const NamedSide& side : plane->outline)
                    for (const TopoDS_Shape& f : turn.Generated(move.ModifiedShape(side.native)))
                        body.sides.push_back({f, side.side});
            }
        }
        body.shape = compoundOf(solids);
        return body;
    }

    /// Through the outlines of plane shapes, in the order given.
    Body loft()
    {
        needsSolids("a loft");
        const auto list = take("of", true);
        if (list.size() < 2)
            fail(3043, "of", "a loft goes through at least two plane shapes; name them in order");
        BRepOffsetAPI_ThruSections through(true, m_model.choice(m_line, "sides") == "straight");
        for (const Body* b : list)
            through.AddWire(BRepTools::OuterWire(
                TopoDS::Face(TopExp_Explorer(b->shape, TopAbs_FACE).Current())));
        through.CheckCompatibility(true);
        through.Build();
        if (!through.IsDone())
            fail(3044, "of",
                 "the shape kernel cannot go through these outlines; do they lie in planes apart?");
        Body body;
        body.shape = through.Shape();
        body.sides.push_back({through.FirstShape(), "start"});
        body.sides.push_back({through.LastShape(), "end"});
        for (TopExp_Explorer e(body.shape, TopAbs_FACE); e.More(); e.Next())
            if (!e.Current().IsSame(through.FirstShape()) &&
                !e.Current().IsSame(through.LastShape()))
                body.sides.push_back({e.Current(), "outer"});
        return body;
    }

    /// Edges of a solid that a word picks: all, upright ones, or those of its top or bottom.
    std::vector<TopoDS_Edge> edgesOf(const TopoDS_Shape& shape, const std::string& which) const
    {
        Bnd_Box box;
        BRepBndLib::AddOptimal(shape, box, false, false);
        double x0, y0, z0, x1, y1, z1;
        box.Get(x0, y0, z0, x1, y1, z1);
        const double near = 1e-6 * (x1 - x0 + y1 - y0 + z1 - z0);
        TopTools_IndexedMapOfShape map;
        TopExp::MapShapes(shape, TopAbs_EDGE, map);
        std::vector<TopoDS_Edge> list;
        for (int i = 1; i <= map.Extent(); ++i) {
            const TopoDS_Edge e = TopoDS::Edge(map(i));
            if (BRep_Tool::Degenerated(e))
                continue;
            const BRepAdaptor_Curve c(e);
            double low = 1e300, high = -1e300, across = 0;
            const gp_Pnt first = c.Value(c.FirstParameter());
            for (const double f : {0.0, 0.3, 0.6, 1.0}) {
                const gp_Pnt p =
                    c.Value(c.FirstParameter() + f * (c.LastParameter() - c.FirstParameter()));
                low = std::min(low, p.Z());
                high = std::max(high, p.Z());
                across = std::max(across, std::hypot(p.X() - first.X(), p.Y() - first.Y()));
            }
            if (which == "all" || (which == "upright" && across < near && high - low > near) ||
                (which == "top" && low > z1 - near) || (which == "bottom" && high < z0 + near))
                list.push_back(e);
        }
        return list;
    }

    /// Trims a body by a maker of fillets or chamfers; its sides keep their names.
    template <class Maker>
    void trim(Maker& maker, const Body& b, double by, std::vector<TopoDS_Shape>& solids,
              Body& body) const
    {
        maker.Build();
        if (!maker.IsDone())
            fail(3045, "by",
                 base::format(by * m_unit, base::dim::length) + " does not fit on the edges of '" +
                     b.name + "'");
        for (TopExp_Explorer s(maker.Shape(), TopAbs_SOLID); s.More(); s.Next())
            solids.push_back(s.Current());
        for (const NamedSide& side : b.sides) {
            const TopTools_ListOfShape images = maker.Modified(side.native);
            for (const TopoDS_Shape& f : images)
                body.sides.push_back({f, side.side});
            if (images.IsEmpty() && !maker.IsDeleted(side.native))
                body.sides.push_back(side);
        }
    }

    Body trimmed(bool isRound)
    {
        needsSolids("a body with trimmed edges");
        const double by = m_model.number(m_line, "by") / m_unit;
        const std::string which = m_model.choice(m_line, "edges");
        Body body;
        std::vector<TopoDS_Shape> solids;

        for (const Body* b : take("of")) {
            for (TopExp_Explorer s(b->shape, TopAbs_SOLID); s.More(); s.Next()) {
                const auto edges = edgesOf(s.Current(), which);
                if (edges.empty())
                    fail(3046, "edges", "'" + b->name + "' has no such edges");
                if (isRound) {
                    BRepFilletAPI_MakeFillet maker(s.Current());
                    for (const TopoDS_Edge& e : edges)
                        maker.Add(by, e);
                    trim(maker, *b, by, solids, body);
                } else {
                    BRepFilletAPI_MakeChamfer maker(s.Current());
                    for (const TopoDS_Edge& e : edges)
                        maker.Add(by, e);
                    trim(maker, *b, by, solids, body);
                }
            }
        }
        body.shape = compoundOf(solids);
        return body;
    }

    /** The pieces below and above a plane across an axis. */
    std::array<std::vector<TopoDS_Shape>, 2> parted(const TopoDS_Shape& whole,
                                                    const std::string& axis, double at) const
    {
        std::vector<TopoDS_Shape> below, above;
        for (TopExp_Explorer e(whole, m_kind); e.More(); e.Next()) {
            GProp_GProps props;
            if (m_solid)
                BRepGProp::VolumeProperties(e.Current(), props);
            else
                BRepGProp::SurfaceProperties(e.Current(), props);
            const gp_Pnt c = props.CentreOfMass();
            ((axis == "x"   ? c.X()
              : axis == "y" ? c.Y()
                            : c.Z()) < at
                 ? below
                 : above)
                .push_back(e.Current());
        }
        return {below, above};
    }

    /** Sides keep their names on the half that they are part of. */
    void nameSides(Body& half, const std::vector<Body*>& list, BRepAlgoAPI_Splitter& splitter) const
    {
        TopTools_IndexedMapOfShape own;
        TopExp::MapShapes(half.shape, m_solid ? TopAbs_FACE : TopAbs_EDGE, own);
        for (const Body* b : list)
            for (const NamedSide& side : b->sides) {
                TopTools_ListOfShape images = splitter.Modified(side.native);
                if (images.IsEmpty())
                    images.Append(side.native);
                for (const TopoDS_Shape& f : images)
                    if (own.Contains(f))
                        half.sides.push_back({f, side.side});
            }
    }

    /// Copy 1 lies below the plane, copy 2 above it.
    std::vector<Body> split()
    {
        const auto list = take("of");
        const std::string axis = m_model.choice(m_line, "axis");
        const double at = m_model.number(m_line, "at") / m_unit;
        if (!m_solid && axis == "z")
            fail(3047, "axis", "a drawing is split at x or y");
        Bnd_Box box;
        for (const Body* b : list)
            BRepBndLib::Add(b->shape, box);
        const double reach = 2 * std::sqrt(box.SquareExtent()) + 1;
        double x0, y0, z0, x1, y1, z1;
        box.Get(x0, y0, z0, x1, y1, z1);
        const gp_Dir n = axis == "x" ? gp::DX() : axis == "y" ? gp::DY() : gp::DZ();
        const gp_Pnt on(axis == "x" ? at : (x0 + x1) / 2, axis == "y" ? at : (y0 + y1) / 2,
                        axis == "z" ? at : (z0 + z1) / 2);
        BRepAlgoAPI_Splitter splitter;
        splitter.SetArguments(listOf(pieces(list)));
        splitter.SetTools(
            listOf({BRepBuilderAPI_MakeFace(gp_Pln(on, n), -reach, reach, -reach, reach).Face()}));
        splitter.Build();
        if (splitter.HasErrors())
            fail(3022, {}, "the shape kernel could not work this out; shift the plane a little");
        const auto [below, above] = parted(splitter.Shape(), axis, at);
        if (below.empty() || above.empty())
            fail(3048, "at", "this plane does not meet '" + list.front()->name + "'");
        std::vector<Body> halves(2);
        halves[0].shape = compoundOf(below);
        halves[1].shape = compoundOf(above);
        for (Body& half : halves)
            nameSides(half, list, splitter);
        return halves;
    }

    std::vector<Body>& m_bodies;
    const sheet::Model& m_model;
    const Line& m_line;
    double m_unit;
    bool m_solid;
    TopAbs_ShapeEnum m_kind;
};

}  // namespace

bool isDerived(const std::string& kind)
{
    static const std::set<std::string> kinds{"union", "subtract",      "intersect",       "revolve",
                                             "loft",  "rounded edges", "chamfered edges", "split"};
    return kinds.count(kind) != 0;
}

std::vector<Body> derivedBodies(std::vector<Body>& bodies, const sheet::Model& model,
                                const sheet::Line& line, double unit)
{
    return Deriver(bodies, model, line, unit).run();
}

}  // namespace yh::shape
