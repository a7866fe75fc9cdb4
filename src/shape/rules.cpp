// Rules for places, resolved against a partition.
#include "shape/partition.h"

#include "sheet/nearest.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>

namespace yh::shape {

using base::Error;
using sheet::PlaceAtom;

namespace {

struct Picked
{
    std::set<int> pieces, sides;
};

class Resolver
{
public:
    Resolver(const Partition& partition, const sheet::Model& model, const base::Place& place)
        : m_p(partition), m_model(model), m_place(place)
    {
    }

    Picked atom(const PlaceAtom& a) const
    {
        switch (a.kind) {
            case PlaceAtom::Kind::name:
                return named(a);
            case PlaceAtom::Kind::side:
                return side(a);
            case PlaceAtom::Kind::interface: {
                const std::set<int> u = borders(a.parts[0]), v = borders(a.parts[1]);
                Picked r;
                std::set_intersection(u.begin(), u.end(), v.begin(), v.end(),
                                      std::inserter(r.sides, r.sides.end()));
                return r;
            }
            case PlaceAtom::Kind::outerOf: {
                Picked r;
                for (const int e : borders(a.parts[0]))
                    if (isOuter(e))
                        r.sides.insert(e);
                return r;
            }
            case PlaceAtom::Kind::edgesOf:
                return {{}, borders(a.parts[0])};
            case PlaceAtom::Kind::facing:
                return facing(a);
            case PlaceAtom::Kind::onLine:
                return onLine(a);
            case PlaceAtom::Kind::nearest:
                return nearest(a);
            case PlaceAtom::Kind::all: {
                Picked r;
                for (size_t f = 0; f < m_p.pieces().size(); ++f)
                    if (!m_p.regions()[size_t(m_p.pieces()[f].region)].hidden)
                        r.pieces.insert(int(f));
                return r;
            }
        }
        return {};
    }

private:
    [[noreturn]] void fail(int number, const std::string& text) const
    {
        throw Error(number, text, m_place);
    }

    static bool isMember(const PlaceAtom& a, int copy)
    {
        switch (a.members) {
            case PlaceAtom::Members::all:
                return true;
            case PlaceAtom::Members::odd:
                return copy % 2 == 1;
            case PlaceAtom::Members::even:
                return copy % 2 == 0;
            case PlaceAtom::Members::one:
                return copy == a.member;
        }
        return false;
    }
    int lineOf(const std::string& name) const
    {
        const sheet::Line* l = m_model.document().findNamed(name);
        if (!l)
            fail(3101, "there is no shape named '" + name + "'");
        return l->id;
    }
    Picked named(const PlaceAtom& a) const
    {
        const int line = lineOf(a.name);
        Picked r;
        int copies = 0;
        for (const Region& g : m_p.regions())
            if (g.line == line)
                copies = std::max(copies, g.copyCount);
        if (a.members == PlaceAtom::Members::one && (a.member < 1 || a.member > copies))
            fail(3102, "'" + a.name + "' has " + std::to_string(copies) +
                           (copies == 1 ? " copy" : " copies") + "; there is no copy " +
                           std::to_string(a.member));
        for (size_t f = 0; f < m_p.pieces().size(); ++f) {
            const Region& g = m_p.regions()[size_t(m_p.pieces()[f].region)];
            if (g.line == line && isMember(a, g.copy))
                r.pieces.insert(int(f));
        }
        // A thin line has edges only.
        for (size_t e = 0; e < m_p.sides().size(); ++e)
            if (m_p.sides()[e].thin)
                for (const Side::Source& s : m_p.sides()[e].sources)
                    if (s.line == line && isMember(a, s.copy))
                        r.sides.insert(int(e));
        return r;
    }
    Picked side(const PlaceAtom& a) const
    {
        const int line = lineOf(a.name);
        Picked r;
        const std::set<std::string>& names = m_p.sideNames(line);
        const bool known = names.count(a.side) != 0;
        for (size_t e = 0; e < m_p.sides().size(); ++e)
            for (const Side::Source& s : m_p.sides()[e].sources)
                if (s.line == line && s.side == a.side && isMember(a, s.copy))
                    r.sides.insert(int(e));
        if (!known) {
            std::string list;
            for (const std::string& n : names)
                list += (list.empty() ? "" : ", ") + n;
            fail(3103, "'" + a.name + "' has no side '" + a.side + "'" +
                           sheet::meant(a.side, {names.begin(), names.end()}) +
                           (list.empty() ? "; a shape made by joining or cutting has no named "
                                           "sides: use edges of, & or on line"
                                         : "; it has " + list));
        }
        return r;
    }
    /// Edges that bound the picked faces from outside, or the picked edges themselves.
    std::set<int> borders(const PlaceAtom& a) const
    {
        const Picked p = atom(a);
        std::set<int> r = p.sides;
        for (const int f : p.pieces)
            for (const int e : m_p.pieces()[size_t(f)].sides) {
                // Where symmetry cuts a body it has no border.
                if (m_p.sides()[size_t(e)].cut != Side::none)
                    continue;
                const auto& faces = m_p.sides()[size_t(e)].pieces;
                const bool inner =
                    faces.size() == 2 && p.pieces.count(faces[0]) && p.pieces.count(faces[1]);
                if (!inner)
                    r.insert(e);
            }
        return r;
    }
    /// Flat sides of the place with this outward normal.
    Picked facing(const PlaceAtom& a) const
    {
        const Picked p = atom(a.parts[0]);
        const bool solid = m_p.dimension() == 3;
        const Point want{a.axis == 'x' ? 1.0 : 0.0,
                         a.axis == 'y' || (a.axis == 'z' && !solid) ? 1.0 : 0.0,
                         a.axis == 'z' && solid ? 1.0 : 0.0};
        const double sign = a.against ? -1.0 : 1.0;
        constexpr double parallel = 1e-6;
        Picked r;
        for (const int e : borders(a.parts[0]))
            for (const int f : m_p.sides()[size_t(e)].pieces)
                if (p.pieces.count(f) && m_p.sides()[size_t(e)].flat &&
                    sign * dot(m_p.outward(e, f), want) > 1 - parallel)
                    r.sides.insert(e);
        return r;
    }
    bool isOuter(int e) const
    {
        int visible = 0;
        for (const int f : m_p.sides()[size_t(e)].pieces)
            if (!m_p.regions()[size_t(m_p.pieces()[size_t(f)].region)].hidden)
                ++visible;
        return visible == 1;
    }
    Picked onLine(const PlaceAtom& a) const
    {
        const auto v = base::evaluateAs(base::Expression(a.expression), base::dim::length,
                                        m_model.parameters().scope());
        if (!v.ok())
            fail(3104, v.fault.text);
        const double c = v.value->value.real(), near = 1e-6 * m_p.size();
        Picked r;
        const bool solid = m_p.dimension() == 3;
        for (size_t e = 0; e < m_p.sides().size(); ++e) {
            bool on = true;
            for (const Point& p : m_p.samples(int(e)))
                on = on && std::abs((a.axis == 'x'            ? p.x
                                     : a.axis == 'z' && solid ? p.z
                                                              : p.y) -
                                    c) < near;
            bool hidden = true;
            for (const int f : m_p.sides()[e].pieces)
                hidden = hidden && m_p.regions()[size_t(m_p.pieces()[size_t(f)].region)].hidden;
            if (on && !hidden)
                r.sides.insert(int(e));
        }
        return r;
    }
    Picked nearest(const PlaceAtom& a) const
    {
        const auto parts = base::splitOutsideBrackets(a.expression, ',');
        const size_t wanted = m_p.dimension() == 3 ? 3 : 2;
        if (parts.size() != wanted)
            fail(3105, wanted == 3
                           ? "`nearest to` takes a point: three lengths with commas between them"
                           : "`nearest to` takes a point: two lengths with a comma between them");
        double c[3] = {0, 0, 0};
        for (size_t i = 0; i < wanted; ++i) {
            const auto v = base::evaluateAs(base::Expression(parts[i].text), base::dim::length,
                                            m_model.parameters().scope());
            if (!v.ok())
                fail(3104, v.fault.text);
            c[i] = v.value->value.real();
        }
        double best = std::numeric_limits<double>::max();
        int pick = -1;
        for (size_t e = 0; e < m_p.sides().size(); ++e) {
            const Side& edge = m_p.sides()[e];
            const double d = m_p.dimension() == 3 ? m_p.distanceTo(int(e), {c[0], c[1], c[2]})
                                                  : distance({c[0], c[1]}, int(e), edge);
            if (d < best) {
                best = d;
                pick = int(e);
            }
        }
        Picked r;
        if (pick >= 0)
            for (const int side : m_p.acrossSeams(pick))
                r.sides.insert(side);
        return r;
    }
    double distance(Point c, int e, const Side& edge) const
    {
        double best = std::numeric_limits<double>::max();
        constexpr int samples = 64;
        Point a = m_p.at(e, edge.t0);
        for (int i = 1; i <= samples; ++i) {
            const Point b = m_p.at(e, edge.t0 + (edge.t1 - edge.t0) * i / samples);
            const double dx = b.x - a.x, dy = b.y - a.y, l = dx * dx + dy * dy;
            const double s =
                l > 0 ? std::clamp(((c.x - a.x) * dx + (c.y - a.y) * dy) / l, 0.0, 1.0) : 0.0;
            best = std::min(best, std::hypot(a.x + s * dx - c.x, a.y + s * dy - c.y));
            a = b;
        }
        return best;
    }

    const Partition& m_p;
    const sheet::Model& m_model;
    base::Place m_place;
};

void apply(std::set<int>& all, const std::set<int>& some, bool subtract)
{
    for (const int i : some)
        if (subtract)
            all.erase(i);
        else
            all.insert(i);
}

}  // namespace

Selection Partition::resolve(const sheet::PlaceRule& rule, const sheet::Model& model,
                             base::Place place) const
{
    const Resolver resolver(*this, model, place);
    Picked all;
    for (const PlaceAtom& a : rule.atoms) {
        const Picked p = resolver.atom(a);
        apply(all.pieces, p.pieces, a.subtract);
        apply(all.sides, p.sides, a.subtract);
    }
    return {{all.pieces.begin(), all.pieces.end()}, {all.sides.begin(), all.sides.end()}};
}

std::string Partition::proposeRegion(int region) const
{
    const Region& r = regions()[size_t(region)];
    return r.copyCount > 1 ? r.name + " " + std::to_string(r.copy) : r.name;
}

std::string Partition::propose(int edge) const
{
    const Side& e = sides()[size_t(edge)];
    for (auto s = e.sources.rbegin(); s != e.sources.rend(); ++s)
        for (const Region& r : regions())
            if (r.line == s->line && r.copy == s->copy && !s->side.empty())
                return (r.copyCount > 1 ? r.name + " " + std::to_string(r.copy) : r.name) + "." +
                       s->side;
    if (e.pieces.size() == 2 &&
        pieces()[size_t(e.pieces[0])].region != pieces()[size_t(e.pieces[1])].region)
        return proposeRegion(pieces()[size_t(e.pieces[0])].region) + " & " +
               proposeRegion(pieces()[size_t(e.pieces[1])].region);
    if (e.pieces.size() == 1)
        return "outer of " + proposeRegion(pieces()[size_t(e.pieces[0])].region);
    if (dimension() == 3)
        return "nearest to " + base::format(e.inside.x, base::dim::length, 6) + ", " +
               base::format(e.inside.y, base::dim::length, 6) + ", " +
               base::format(e.inside.z, base::dim::length, 6);
    const Point p = at(edge, 0.5 * (e.t0 + e.t1));
    return "nearest to " + base::format(p.x, base::dim::length, 6) + ", " +
           base::format(p.y, base::dim::length, 6);
}

}  // namespace yh::shape
