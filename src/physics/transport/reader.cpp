// Reading the sections on current, heat and couplings of a sheet.
#include "physics/common/sheet_reader.h"
#include "physics/transport/transport.h"

#include "physics/common/odd_plane.h"
#include "sheet/materials.h"
#include "sheet/nearest.h"
#include "sheet/schema.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <set>

namespace yh::physics {

using sheet::Line;

namespace {

class TransportReader : SheetReader
{
public:
    using SheetReader::SheetReader;

    /// How much of the whole the planes and the wedge leave.
    void symmetry()
    {
        auto& o = *m_out;
        for (const Line* l : m_model.document().ofKind("mirror plane")) {
            o.scale *= 2;
            ++o.mirrors;
            if (l->get("kind") != "odd")
                continue;
            o.odd[size_t(m_model.axisOf(l->get("at")))] = true;
            o.oddShare *= 0.5;
            if (const Line* t = m_model.document().first("thermoelectric"))
                fault(6130, *t, {},
                      "heat pumped by a current is not mirrored where the potential is odd; "
                      "model both sides");
        }
        if (const Line* l = m_model.document().first("wedge symmetry"))
            o.scale *= m_model.wedges(*l);
    }

    /// Which fields the sheet has.
    void chooseFields()
    {
        auto& o = *m_out;
        // An alternating current is another field's.
        const bool alternates = m_model.document().first("frequency") != nullptr;
        for (const Line& l : m_model.document().lines) {
            o.current =
                o.current || (!alternates && (l.kind == "contact" || l.kind == "conducting sheet"));
            const sheet::Kind* k = sheet::findKind(l.kind);
            o.heat = o.heat || (k && k->section == "heat");
        }
        o.V = o.current ? 0 : -1;
        o.T = o.heat ? (o.current ? 1 : 0) : -1;
    }

    std::unique_ptr<TransportProblem> run()
    {
        auto& o = *m_out;
        const size_t n = m_p.pieces().size();
        o.area = m_model.space() == sheet::Space::axisymmetric ? fem::Measure::axisymmetric
                                                               : fem::Measure::plane;
        o.scale = m_model.depth();
        symmetry();
        chooseFields();
        o.pieces.resize(n);
        o.conducts.assign(n, 0);
        o.warms.assign(n, 0);
        materials();
        couplings();
        sheets();
        heatConditions();
        if (o.current)
            contacts();
        sources();
        transient();
        joints();
        pathsForCurrent();
        pathsForHeat();
        for (size_t f = 0; f < n; ++f)
            if (o.conducts[f] || o.warms[f] || touchesSheet(int(f)))
                o.activePieces.push_back(int(f));
        if (o.activePieces.empty() && m_faults.empty())
            m_faults.push_back({6131,
                                {-1, "materials", -1},
                                "no region carries current or heat: give one a material with a "
                                "conductivity",
                                false});
        return std::move(m_out);
    }

private:
    /// What a place picks; sheets by their names.
    struct Picked
    {
        shape::Selection place;
        std::vector<int> sheetLines;
    };
    Picked resolve(const Line& l, const std::string& key)
    {
        Picked r;
        try {
            sheet::PlaceRule rule = m_model.place(l, key), shapes;
            for (const auto& a : rule.atoms) {
                const Line* named = m_model.document().findNamed(a.name);
                if (a.kind == sheet::PlaceAtom::Kind::name && named &&
                    named->kind == "conducting sheet")
                    r.sheetLines.push_back(named->id);
                else
                    shapes.atoms.push_back(a);
            }
            if (!shapes.atoms.empty())
                r.place = m_p.resolve(shapes, m_model, {l.id, key, 0});
            for (const int line : r.sheetLines) {
                const Line* s = m_model.document().find(line);
                const auto on = m_p.resolve(m_model.place(*s, "on"), m_model, {line, "on", 0});
                if (l.kind == "contact" || l.kind == "convection" || l.kind == "radiation")
                    r.place.sides.insert(r.place.sides.end(), on.sides.begin(), on.sides.end());
            }
        } catch (const base::Error& e) {
            m_faults.push_back(e.fault());
            return r;
        }
        const bool mayLieBehind = l.kind == "contact" && m_out->oddShare < 1;
        if (r.place.empty() && r.sheetLines.empty() && !mayLieBehind)
            fault(6001, l, key,
                  "'" + l.get(key) + "' picks nothing: it is painted over, cut away or used up");
        return r;
    }
    /// Sides that a condition sits on: those picked, or those around a picked region.
    std::vector<int> sidesOf(const Line& l, const std::string& key)
    {
        const Picked p = resolve(l, key);
        std::vector<int> list = p.place.sides;
        for (const int f : p.place.pieces)
            for (const int s : m_p.pieces()[size_t(f)].sides)
                if (m_p.sides()[size_t(s)].pieces.size() == 1 &&
                    m_p.sides()[size_t(s)].cut == shape::Side::none)
                    list.push_back(s);
        return list;
    }

    Property property(const Line& l, const std::string& key, double fallback)
    {
        if (!l.has(key))
            return Property(fallback);
        const base::Expression e(l.get(key));
        const auto constant = e.evaluate(m_model.parameters().scope());
        if (constant.ok())
            return Property(constant.value->value.real());
        const bool ofT = e.evaluate(m_model.scopeAt({1e-3, 1e-3, 1e-3})).ok() == false;
        if (ofT) {
            const auto f = [model = m_model, e](double T) {
                const auto v = e.evaluate(model.scopeAt({}, T));
                return v.ok() ? v.value->value.real() : NAN;
            };
            if (key == "seebeck")
                return Property::ofTemperature(f);
            // A formula used beyond its range may turn negative, and a search that strays there
            // would find a steady state that does not exist.
            const double least = 1e-6 * std::abs(f(m_out->reference));
            return Property::ofTemperature(
                [f, least](double T) { return std::isnan(f(T)) ? NAN : std::max(f(T), least); });
        }
        return Property::ofPlace([model = m_model, e](Point p) {
            const auto v = e.evaluate(model.scopeAt(p));
            return v.ok() ? v.value->value.real() : NAN;
        });
    }

    /// Data of a material by its name and by what a line states itself.
    Conduction conduction(const Line& l)
    {
        const sheet::Material* known = sheet::findMaterial(l.get("material"));
        Conduction c;
        c.material = l.get("material");
        if (l.has("sigma") || !known || known->resistivity <= 0) {
            c.sigma = property(l, "sigma", 0.0);
        } else {
            const double rho = known->resistivity, alpha = known->alpha;
            constexpr double at = 293.15, leastShare = 0.05;
            c.sigma = alpha == 0 ? Property(1 / rho) : Property::ofTemperature([=](double T) {
                return 1 / (rho * std::max(leastShare, 1 + alpha * (T - at)));
            });
        }
        c.k = property(l, "k", known && !known->gas ? known->k : 0.0);
        c.seebeck = property(l, "seebeck", known ? known->seebeck : 0.0);
        const Property density = property(l, "density", known ? known->density : 0.0),
                       heat = property(l, "heatCapacity", known ? known->c : 0.0);
        if (density.isSet() && heat.isSet())
            c.enthalpy = density.isConstant() && heat.isConstant()
                             ? Property(density.value({}, 0) * heat.value({}, 0))
                             : Property::integral([density, heat](double T) {
                                   return density.value({}, T) * heat.value({}, T);
                               });
        if (l.has("latent") && l.has("melting")) {
            c.melting = m_model.number(l, "melting");
            c.meltingRange = m_model.number(l, "meltingRange");
            c.latent = density.value({}, c.melting) * m_model.number(l, "latent");
        }
        c.limit = l.has("limit") ? m_model.number(l, "limit") : known ? known->limit : 0.0;
        return c;
    }

    void materials()
    {
        auto& o = *m_out;
        for (const Line* l : m_model.document().ofKind("material")) {
            const Conduction c = conduction(*l);
            const sheet::Material* known = sheet::findMaterial(l->get("material"));
            if (!known && !l->has("sigma") && !l->has("k") && !l->has("eps"))
                fault(6132, *l, o.heat ? "k" : "sigma",
                      sheet::notInLibrary(l->get("material")) + ": its " +
                          (o.heat ? "thermal conductivity k" : "conductivity σ") + " is missing",
                      true);
            for (const int f : resolve(*l, "in").place.pieces) {
                o.pieces[size_t(f)] = c;
                o.conducts[size_t(f)] = o.current && c.sigma.isSet();
                o.warms[size_t(f)] = o.heat && c.k.isSet();
            }
        }
        sayWithoutMaterial([&o](size_t f) { return !o.pieces[f].material.empty(); }, "copper");
    }

    void couplings()
    {
        for (const auto& [kind, flag] : {std::pair{"current heats", &Conduction::heats},
                                         {"resistivity follows temperature", &Conduction::follows},
                                         {"thermoelectric", &Conduction::thermoelectric}})
            for (const Line* l : m_model.document().ofKind(kind)) {
                const Picked p = resolve(*l, "in");
                for (const int f : p.place.pieces)
                    m_out->pieces[size_t(f)].*flag = true;
                for (const int line : p.sheetLines)
                    m_sheetFlags[line].push_back(flag);
                if (!m_out->heat)
                    fault(6133, *l, {},
                          "there is no heat section yet: say where heat leaves, such as "
                          "`held temperature sink at 293 K on …`",
                          true);
            }
    }

    void sheets()
    {
        auto& o = *m_out;
        for (const Line* l : m_model.document().ofKind("conducting sheet")) {
            SideCondition::Sheet s;
            s.line = l->id;
            s.thickness = m_model.number(*l, "thickness");
            s.what = conduction(*l);
            if (!s.what.sigma.isSet())
                fault(6134, *l, "material", "'" + l->get("material") + "' does not conduct", false);
            for (bool Conduction::*flag : m_sheetFlags[l->id])
                s.what.*flag = true;
            const Picked p = resolve(*l, "on");
            if (!p.place.pieces.empty())
                fault(6135, *l, "on",
                      "'" + l->get("on") + "' picks regions; a sheet lies on sides, such as " +
                          l->get("on") + ".top");
            for (const int side : p.place.sides)
                o.sides[side].sheets.push_back(s);
        }
    }
    [[nodiscard]] bool touchesSheet(int piece) const
    {
        for (const auto& [side, c] : m_out->sides)
            if (!c.sheets.empty()) {
                const auto& pieces = m_p.sides()[size_t(side)].pieces;
                if (std::find(pieces.begin(), pieces.end(), piece) != pieces.end())
                    return true;
            }
        return false;
    }

    /// Convection or radiation.
    void exchange(const Line& l, double& coldest)
    {
        auto& o = *m_out;
        SideCondition::Exchange e;
        e.line = l.id;
        e.surroundings = m_model.number(l, "to");
        (l.kind == "convection" ? e.h : e.emissivity) =
            m_model.number(l, l.kind == "convection" ? "h" : "emissivity");
        coldest = std::min(coldest, e.surroundings);
        for (const int side : sidesOf(l, "on")) {
            const auto& pieces = m_p.sides()[size_t(side)].pieces;
            int solid = 0;
            for (const int f : pieces)
                solid += o.warms[size_t(f)];
            if (solid > 1 && l.kind == "radiation") {
                fault(6136, l, "on",
                      "'" + l.get("on") +
                          "' has solid on both sides: no heat can be radiated there; take "
                          "the outer sides");
                break;
            }
            if (solid == 0) {
                fault(6137, l, "on",
                      "'" + l.get("on") + "' does not touch a region that conducts heat");
                break;
            }
            o.sides[side].exchange.push_back(e);
        }
    }

    void heatConditions()
    {
        auto& o = *m_out;
        double coldest = 1e300;
        for (const Line* l : m_model.document().ofKind("held temperature")) {
            const Picked p = resolve(*l, "on");
            fem::Group g;
            g.field = o.T;
            g.sides = p.place.sides;
            g.pieces = p.place.pieces;
            g.value = m_model.number(*l, "value");
            coldest = std::min(coldest, g.value);
            o.held.push_back({l->name(), l->id, int(o.groupList.size()), g.value});
            o.groupList.push_back(std::move(g));
        }
        for (const char* kind : {"convection", "radiation"})
            for (const Line* l : m_model.document().ofKind(kind))
                exchange(*l, coldest);
        for (const Line* l : m_model.document().ofKind("heat flux")) {
            const auto f = function(*l, "flux");
            for (const int side : sidesOf(*l, "on"))
                o.sides[side].flux.push_back({l->id, f, untilOf(*l)});
        }
        if (coldest < 1e299)
            o.coldest = coldest;
    }

    std::function<double(const fem::Spot&)> function(const Line& l, const std::string& key)
    {
        const base::Expression e(l.get(key));
        const auto constant = e.evaluate(m_model.parameters().scope());
        if (constant.ok())
            return [v = constant.value->value.real()](const fem::Spot&) { return v; };
        return [model = m_model, e](const fem::Spot& spot) {
            const auto r = e.evaluate(model.scopeAt(spot.at));
            return r.ok() ? r.value->value.real() : NAN;
        };
    }

    /// The unknowns of a contact, and the film on it.
    fem::Group groupOf(const Line& l, const Contact& c, const Picked& p)
    {
        const auto& o = *m_out;
        fem::Group g;
        g.field = o.V;
        g.sides = p.place.sides;
        g.pieces = p.place.pieces;
        g.given = !c.byCurrent;
        g.value = c.byCurrent ? c.value / (o.scale * o.oddShare) : c.value;
        if (l.has("film")) {
            g.film = m_model.number(l, "film");
            if (!g.pieces.empty())
                fault(6148, l, "on", "a film lies on sides; '" + l.get("on") + "' picks regions");
        }
        return g;
    }

    void contacts()
    {
        auto& o = *m_out;
        for (const Line* l : m_model.document().ofKind("contact")) {
            const Picked p = resolve(*l, "on");
            Contact c;
            c.name = l->name();
            c.line = l->id;
            c.byCurrent = l->has("current");
            c.value = m_model.number(*l, c.byCurrent ? "current" : "voltage");
            bool reaches = false;
            for (const int s : p.place.sides) {
                for (const int f : m_p.sides()[size_t(s)].pieces)
                    reaches = reaches || o.conducts[size_t(f)];
                // The rim of a sheet bounds it in the plane; its neighbours decide in solids.
                reaches = reaches || nearSheet(s);
            }
            for (const int f : p.place.pieces)
                reaches = reaches || o.conducts[size_t(f)];
            c.behind = p.place.empty();
            if (c.behind) {
                o.contacts.push_back(c);
                continue;
            }
            if (!reaches && !p.place.empty())
                fault(6138, *l, "on",
                      "contact " + c.name + " does not touch a region that conducts");
            fem::Group g = groupOf(*l, c, p);
            c.group = int(o.groupList.size());
            o.groupList.push_back(std::move(g));
            o.groupUntil.resize(o.groupList.size(), unending);
            o.groupUntil.back() = untilOf(*l);
            o.contacts.push_back(c);
        }
        oddPlanes();
    }
    /// The potential vanishes on an odd plane; contacts behind it mirror those before it.
    void oddPlanes()
    {
        auto& o = *m_out;
        if (o.oddShare == 1 || !o.current)
            return;
        fem::Group plane;
        plane.field = o.V;
        for (size_t s = 0; s < m_p.sides().size(); ++s) {
            const shape::Side& side = m_p.sides()[s];
            if (side.cut >= 0 && side.cut < 3 && o.odd[size_t(side.cut)] &&
                o.conducts[size_t(side.pieces[0])])
                plane.sides.push_back(int(s));
        }
        o.oddPlane = int(o.groupList.size());
        o.groupList.push_back(std::move(plane));
        pairAcrossPlane(o.contacts, [this](const auto& c, const std::string& text) {
            fault(6142, *m_model.document().find(c.line), "on", text);
        });
    }
    [[nodiscard]] bool nearSheet(int side) const
    {
        for (const int f : m_p.sides()[size_t(side)].pieces)
            if (touchesSheet(f))
                return true;
        return false;
    }

    void sources()
    {
        auto& o = *m_out;
        for (const Line* l : m_model.document().ofKind("heat source")) {
            const Picked p = resolve(*l, "in");
            std::function<double(const fem::Spot&)> f;
            if (l->has("density")) {
                f = function(*l, "density");
            } else {
                // A total is spread evenly over the volume of the place.
                double volume = 0;
                for (const int piece : p.place.pieces)
                    volume += contentOf(piece);
                const double density =
                    volume > 0 ? m_model.number(*l, "power") / (o.scale * volume) : 0.0;
                f = [density](const fem::Spot&) { return density; };
            }
            for (const int piece : p.place.pieces) {
                o.pieces[size_t(piece)].sources.push_back({f, untilOf(*l)});
                if (!o.warms[size_t(piece)])
                    fault(6139, *l, "in",
                          "'" + l->get("in") +
                              "' has no thermal conductivity: its heat could not "
                              "leave it");
            }
        }
    }
    /// How long a drive lasts.
    double untilOf(const Line& l)
    {
        if (!l.has("until"))
            return unending;
        if (!m_model.document().first("transient"))
            fault(6143, l, "until",
                  "only a transient has time; add a line such as `transient over 60 s from 293 K`");
        m_marks.push_back(m_model.number(l, "until"));
        return m_marks.back();
    }
    /// Fields without a resistance of their own pass a joint as if it were none.
    void tightenJoints()
    {
        auto& o = *m_out;
        constexpr double tight = 1e6;
        for (auto& [side, joint] : o.joints) {
            const auto& p = m_p.sides()[size_t(side)].pieces;
            for (int f = 0; f < o.fieldCount(); ++f) {
                if (joint.conductance[f] > 0 || !o.bothActive(f, side))
                    continue;
                double most = 0;
                for (const int piece : p) {
                    const Conduction& c = o.pieces[size_t(piece)];
                    most =
                        std::max(most, (f == o.V ? c.sigma : c.k)
                                           .value(m_p.pieces()[size_t(piece)].inside, o.reference));
                }
                joint.conductance[f] = tight * most / m_p.size();
            }
            joint.heats = o.pieces[size_t(p[0])].heats || o.pieces[size_t(p[1])].heats;
        }
    }

    /// Which sides have both fields' regions on either side.
    void markJoins()
    {
        auto& o = *m_out;
        const size_t n = m_p.sides().size();
        o.joinsBoth.assign(2 * n, 0);
        for (int f = 0; f < o.fieldCount(); ++f)
            for (size_t s = 0; s < n; ++s) {
                const auto& p = m_p.sides()[s].pieces;
                o.joinsBoth[size_t(f) * n + s] =
                    p.size() == 2 && o.active(f, p[0]) && o.active(f, p[1]);
            }
    }

    /// Resistances between touching regions. A field that has none at such a side goes through a
    /// conductance so high that its jump is some millionth of its change across a cell's width.
    void joints()
    {
        auto& o = *m_out;
        markJoins();
        for (const char* kind : {"joint resistance", "joint conductance"})
            for (const Line* l : m_model.document().ofKind(kind)) {
                const bool electric = l->kind == "joint resistance";
                const int field = electric ? o.V : o.T;
                if (electric && m_model.document().first("frequency")) {
                    // The heat of the alternating current there goes to either side by halves.
                    for (const int side : sidesOf(*l, "on"))
                        if (o.T >= 0 && o.bothActive(o.T, side))
                            o.joints[side];
                    continue;
                }
                if (field < 0) {
                    fault(6145, *l, {},
                          electric ? "this sheet has no current yet: add contacts"
                                   : "this sheet has no heat section yet: say where heat leaves",
                          true);
                    continue;
                }
                const double value = m_model.number(*l, "value");
                for (const int side : sidesOf(*l, "on")) {
                    if (!o.bothActive(field, side)) {
                        fault(6146, *l, "on",
                              "'" + l->get("on") + "' does not lie between two regions that " +
                                  (electric ? "conduct" : "take heat") +
                                  "; name where they touch, such as a & b");
                        break;
                    }
                    o.joints[side].conductance[field] = electric ? 1 / value : value;
                }
            }
        tightenJoints();
    }
    void needHeatCapacities()
    {
        auto& o = *m_out;
        std::set<std::string> said;
        for (size_t f = 0; f < o.pieces.size(); ++f)
            if (o.warms[f] && !o.pieces[f].enthalpy.isSet() &&
                said.insert(o.pieces[f].material).second) {
                const shape::Region& r = m_p.regions()[size_t(m_p.pieces()[f].region)];
                m_faults.push_back({6144,
                                    {r.line, {}, -1},
                                    "a transient needs the density and the heat capacity of '" +
                                        o.pieces[f].material + "'",
                                    true});
            }
    }

    void transient()
    {
        auto& o = *m_out;
        for (const Line* l : m_model.document().ofKind("perfusion"))
            for (const int f : resolve(*l, "in").place.pieces) {
                o.pieces[size_t(f)].perfusion +=
                    m_model.number(*l, "rate") * m_model.number(*l, "capacity");
                o.pieces[size_t(f)].perfusedBy = m_model.number(*l, "by");
            }
        o.groupUntil.resize(o.groupList.size(), unending);
        const Line* l = m_model.document().first("transient");
        if (!l)
            return;
        Transient t;
        t.duration = m_model.number(*l, "duration");
        t.start = m_model.number(*l, "start");
        for (const Line& a : m_model.document().lines)
            if (a.has("after"))
                m_marks.push_back(m_model.number(a, "after"));
        for (const double m : m_marks)
            if (m < t.duration)
                t.marks.push_back(m);
        o.coldest = std::min(o.coldest, t.start);
        // Steps for the tightest accuracy asked for; passes shorten them where that is not enough.
        constexpr double share = 0.1, least = 1e-6, most = 2e-3;
        double within = 1;
        for (const Line& a : m_model.document().lines)
            if (const sheet::Kind* k = sheet::findKind(a.kind);
                k && k->section == "ask" && k->slot("within"))
                within = std::min(within, m_model.number(a, "within"));
        o.stepTolerance = std::clamp(share * within, least, most);
        o.transient = t;
        needHeatCapacities();
    }

    /// Area or volume; round an axis by Pappus, with the centre of area.
    [[nodiscard]] double contentOf(int piece) const
    {
        return m_out->area == fem::Measure::axisymmetric ? m_p.revolvedContent(piece)
                                                         : m_p.pieces()[size_t(piece)].content;
    }

    /// Number of the connected part of each piece, by a flag; -1 where the flag is off.
    std::vector<int> parts(const std::vector<char>& flag) const
    {
        std::vector<int> part(flag.size(), -1), stack;
        for (size_t s = 0; s < flag.size(); ++s) {
            if (!flag[s] || part[s] >= 0)
                continue;
            part[s] = int(s);
            stack = {int(s)};
            while (!stack.empty()) {
                const int f = stack.back();
                stack.pop_back();
                for (const int side : m_p.pieces()[size_t(f)].sides)
                    for (const int n : m_p.sides()[size_t(side)].pieces)
                        if (flag[size_t(n)] && part[size_t(n)] < 0) {
                            part[size_t(n)] = int(s);
                            stack.push_back(n);
                        }
            }
        }
        return part;
    }

    /// The contacts of every part that conducts.
    std::map<int, std::vector<const Contact*>> contactsOf(const std::vector<int>& part) const
    {
        const auto& o = *m_out;
        std::map<int, std::vector<const Contact*>> of;
        for (const Contact& c : o.contacts) {
            const auto note = [&](int piece) {
                if (part[size_t(piece)] >= 0)
                    of[part[size_t(piece)]].push_back(&c);
            };
            if (c.group >= 0) {
                for (const int s : o.groupList[size_t(c.group)].sides)
                    for (const int f : m_p.sides()[size_t(s)].pieces)
                        note(f);
                for (const int f : o.groupList[size_t(c.group)].pieces)
                    note(f);
            }
        }
        return of;
    }

    /// A connected conductor needs a given potential; without any contact it carries no current.
    void pathsForCurrent()
    {
        auto& o = *m_out;
        bool sheets = false;
        for (const auto& [side, c] : o.sides)
            sheets = sheets || !c.sheets.empty();
        if (!o.current || sheets)
            return;
        const std::vector<int> part = parts(o.conducts);
        std::set<int> onPlane;  // parts that an odd plane holds
        if (o.oddPlane >= 0)
            for (const int s : o.groupList[size_t(o.oddPlane)].sides)
                onPlane.insert(part[size_t(m_p.sides()[size_t(s)].pieces[0])]);
        const auto of = contactsOf(part);
        for (size_t f = 0; f < part.size(); ++f)
            if (part[f] >= 0 && !of.count(part[f]))
                o.conducts[f] = 0;
        for (const auto& [p, list] : of) {
            const bool held = std::any_of(list.begin(), list.end(),
                                          [](const Contact* c) { return !c->byCurrent; });
            if (!held && !onPlane.count(p)) {
                const Line& l = *m_model.document().find(list[0]->line);
                fault(6140, l, "on",
                      "the current of contact " + list[0]->name +
                          " has no way out: give another contact of the same body a voltage");
            }
        }
    }

    void pathsForHeat()
    {
        auto& o = *m_out;
        if (!o.heat || o.transient)
            return;
        std::vector<char> flag = o.warms;
        const std::vector<int> part = parts(flag);
        std::set<int> open;
        auto note = [&](int side) {
            for (const int f : m_p.sides()[size_t(side)].pieces)
                if (part[size_t(f)] >= 0)
                    open.insert(part[size_t(f)]);
        };
        for (const auto& h : o.held) {
            for (const int s : o.groupList[size_t(h.group)].sides)
                note(s);
            for (const int f : o.groupList[size_t(h.group)].pieces)
                if (part[size_t(f)] >= 0)
                    open.insert(part[size_t(f)]);
        }
        for (const auto& [side, c] : o.sides)
            if (!c.exchange.empty())
                note(side);
        std::set<int> said;
        for (size_t f = 0; f < part.size(); ++f)
            if (part[f] >= 0 && !open.count(part[f]) && said.insert(part[f]).second) {
                const shape::Region& r = m_p.regions()[size_t(m_p.pieces()[f].region)];
                m_faults.push_back({6141,
                                    {r.line, {}, -1},
                                    "heat has no way out of '" + r.name +
                                        "': hold a temperature, or add convection or radiation",
                                    true});
            }
    }

    std::unique_ptr<TransportProblem> m_out = std::make_unique<TransportProblem>();
    std::map<int, std::vector<bool Conduction::*>> m_sheetFlags;
    std::vector<double> m_marks;  ///< times at which drives end or asks look
};

}  // namespace

std::unique_ptr<TransportProblem> defineTransport(const sheet::Model& model,
                                                  const shape::Partition& partition,
                                                  base::Faults& faults)
{
    return TransportReader(model, partition, faults).run();
}

}  // namespace yh::physics
