#include "sheet/materials.h"
#include "sheet/model.h"
#include "sheet/schema.h"

#include <algorithm>
#include <set>

namespace yh::sheet {

namespace {

using base::Fault;
using base::Faults;

class Validator
{
public:
    explicit Validator(const Model& model) : m_model(model), m_doc(model.document()) {}

    Faults run()
    {
        parameters();
        for (const Line& l : m_doc.lines) {
            if (!findKind(l.kind)) {
                add(2010, {l.id, {}, -1},
                    "a line of the kind '" + l.kind +
                        "' is not known to this version; it is kept, but not used");
                continue;
            }
            const Faults f = m_model.fieldFaults(l);
            m_faults.insert(m_faults.end(), f.begin(), f.end());
            references(l);
        }
        names();
        singles();
        electrodes();
        contacts();
        materials();
        whole();
        return m_faults;
    }

private:
    void add(int number, base::Place place, std::string text, bool incomplete = false)
    {
        m_faults.push_back({number, std::move(place), std::move(text), incomplete});
    }

    void parameters()
    {
        const auto lines = m_doc.ofKind("parameter");
        for (const auto& [i, f] : m_model.parameters().faults)
            if (lines[size_t(i)]->has("value"))
                add(2003, {lines[size_t(i)]->id, "value", f.offset}, f.text);
    }
    /// Names that places and references mention must be there.
    void references(const Line& l)
    {
        for (const Field& f : findKind(l.kind)->fields) {
            const std::string text = l.get(f.key);
            if (text.empty())
                continue;
            if (f.type == FieldType::reference) {
                const Line* target = m_doc.findNamed(text);
                const bool conductor =
                    target && (target->kind == "electrode" || target->kind == "floating");
                const bool also = target && std::find(f.alsoRefersTo.begin(), f.alsoRefersTo.end(),
                                                      target->kind) != f.alsoRefersTo.end();
                if (!target || (target->kind != f.refersTo && !also &&
                                !(f.refersTo == "electrode" && conductor)))
                    add(2004, {l.id, f.key, 0},
                        "there is no " + f.refersTo + " named '" + text + "'");
            } else if (f.type == FieldType::place) {
                const PlaceParse p = parsePlace(text);
                if (!p.rule)
                    continue;
                for (const std::string& n : p.rule->names()) {
                    const Line* target = m_doc.findNamed(n);
                    if (!target || (!isShape(target->kind) && target->kind != "conducting sheet"))
                        add(2005, {l.id, f.key, int(text.find(n))},
                            "there is no shape named '" + n + "'");
                }
            }
        }
    }
    void names()
    {
        std::set<std::string> seen;
        for (const Line& l : m_doc.lines)
            if (!l.name().empty() && !seen.insert(l.name()).second && l.kind != "parameter")
                add(2006, {l.id, "name", 0},
                    "the name '" + l.name() + "' is given twice; rename one of them");
    }
    void singles()
    {
        for (const Kind& k : kinds())
            if (const auto lines = m_doc.ofKind(k.key); k.single && lines.size() > 1)
                for (size_t i = 1; i < lines.size(); ++i)
                    add(2007, {lines[i]->id, {}, -1},
                        "there is more than one such line; one is allowed");
        if (m_doc.ofKind("sweep").size() > 2)
            add(2008, {m_doc.ofKind("sweep")[2]->id, {}, -1},
                "at most two parameters can be swept at a time");
    }
    void electrodes()
    {
        for (const Line* l : m_doc.ofKind("electrode")) {
            if (l->has("voltage") && l->has("charge"))
                add(2020, {l->id, "charge", 0},
                    "electrode " + l->name() + " is given " + l->get("voltage") + " and " +
                        l->get("charge") + "; state one of them");
            else if (!l->has("voltage") && !l->has("charge"))
                add(2021, {l->id, "voltage", -1}, "its potential or its charge is missing", true);
        }
    }
    void contacts()
    {
        for (const Line* l : m_doc.ofKind("contact")) {
            if (l->has("voltage") && l->has("current"))
                add(2022, {l->id, "current", 0},
                    "contact " + l->name() + " is given " + l->get("voltage") + " and " +
                        l->get("current") + "; state one of them");
            else if (!l->has("voltage") && !l->has("current"))
                add(2023, {l->id, "voltage", -1}, "its potential or its current is missing", true);
        }
        for (const Line* l : m_doc.ofKind("heat source")) {
            if (l->has("power") && l->has("density"))
                add(2025, {l->id, "density", 0},
                    "heat source " + l->name() +
                        " is given as a whole and by volume; state one of them");
            else if (!l->has("power") && !l->has("density"))
                add(2026, {l->id, "power", -1}, "its power is missing", true);
        }
        for (const Line* l : m_doc.ofKind("radiation"))
            if (l->has("emissivity") && m_model.fieldFaults(*l).empty() &&
                m_model.number(*l, "emissivity") > 1)
                add(2027, {l->id, "emissivity", 0}, "an emissivity is at most 1");
    }
    void materials()
    {
        for (const Line* l : m_doc.ofKind("material")) {
            const Material* m = findMaterial(l->get("material"));
            if (fieldOf(m_doc) == FieldKind::electrostatic && l->has("material") && !m &&
                !l->has("eps"))
                add(2030, {l->id, "eps", -1},
                    "'" + l->get("material") +
                        "' is not in the library: its permittivity ε is missing",
                    true);
            if (l->has("eps2") && !l->has("eps"))
                add(2031, {l->id, "eps", -1}, "ε along the first axis is missing", true);
        }
    }
    void whole()
    {
        bool shape = false;
        for (const Line& l : m_doc.lines)
            shape = shape || isShape(l.kind) || l.kind == "wire";
        if (!shape)
            add(2040, {-1, "shape", -1}, "no shape yet: draw one in the scene or add a line", true);
        if (const Line* wire = m_doc.first("wire"); wire && m_model.space() != Space::solid)
            add(2060, {wire->id, {}, -1},
                "thin wires are for solids; in a drawing take a thin line, or a circle of metal");
        const FieldKind field = fieldOf(m_doc);
        if (field == FieldKind::electrostatic && !m_doc.first("electrode"))
            add(2041, {-1, "electrostatic", -1}, "no electrode yet: nothing drives the field",
                true);
        if (field == FieldKind::transport)
            for (const char* kind : {"electrode", "floating", "space charge", "surface charge"})
                if (const Line* l = m_doc.first(kind))
                    add(2050, {l->id, {}, -1},
                        "one sheet solves either the electrostatic field or current and heat; "
                        "take these lines to a sheet of their own");
        if (field == FieldKind::wave) {
            const Line *modes = m_doc.first("modes"), *band = m_doc.first("band"),
                       *port = m_doc.first("port"), *guide = m_doc.first("guide modes");
            if (guide)
                guideModes(*guide);
            for (const char* kind : {"lumped port", "wire port", "point dipole", "plane wave"})
                if (!port)
                    port = m_doc.first(kind);
            if (!modes && !band && !guide)
                add(2051, {-1, "waves", -1},
                    "what is looked for? add `lowest modes 4` for resonances, `band from … to …` "
                    "with ports for S-parameters, or `guide modes 1 at 10 GHz` for the section of "
                    "a guide",
                    true);
            if (modes && (band || port))
                add(2054, {modes->id, {}, -1},
                    "a sheet looks either for resonances of a closed device or for waves through "
                    "ports; take one of them to a sheet of its own");
            if (band && !port)
                add(2055, {band->id, {}, -1},
                    "no port yet: nothing drives the field; add a line such as `port A on "
                    "guide.left` or `lumped port A on feed`",
                    true);
            if (band && m_model.fieldFaults(*band).empty() &&
                m_model.number(*band, "from") > m_model.number(*band, "to"))
                add(2056, {band->id, "to", 0}, "the band ends below its beginning");
            for (const Line& l : m_doc.lines)
                if (const Kind* k = findKind(l.kind);
                    k && (k->section == "electrostatic" || k->section == "current" ||
                          (k->section == "heat" && !band) || k->section == "couplings"))
                    add(2052, {l.id, {}, -1},
                        "a sheet about waves has walls, ports and heat only; take this line to a "
                        "sheet "
                        "of its own");
            for (const Line& l : m_doc.lines)
                if (const Kind* k = findKind(l.kind);
                    k && k->field("mode") && m_model.fieldFaults(l).empty())
                    if (const Line* m = guide ? guide : modes;
                        m && m_model.fieldFaults(*m).empty() &&
                        m_model.count(l, "mode") > m_model.count(*m, "count"))
                        add(2053, {l.id, "mode", 0},
                            "only " + std::to_string(m_model.count(*m, "count")) +
                                " modes are looked for");
        }
        if (field == FieldKind::electrostatic && !m_doc.first("outer edge"))
            add(2042, {-1, "electrostatic", -1},
                "the outer edge: insulated, open space or grounded? choose", true);
        bool ask = false;
        for (const Line& l : m_doc.lines)
            if (const Kind* k = findKind(l.kind); k && k->section == "ask")
                ask = true;
        if (!ask)
            add(2043, {-1, "ask", -1}, "nothing is asked yet: add a figure, such as a capacitance",
                true);
        const auto planes = m_doc.ofKind("mirror plane");
        for (const Line* p : planes)
            if (m_model.space() == Space::axisymmetric && p->get("at") == "x = 0")
                add(2044, {p->id, "at", 0},
                    "an axisymmetric device has its axis at r = 0; only the plane y = 0 (z = 0) "
                    "can be a mirror");
        for (const Line* p : planes)
            if (m_model.space() == Space::plane && p->get("at") == "z = 0")
                add(2059, {p->id, "at", 0},
                    "a drawing lies in the plane z = 0; its mirrors are x = 0 and y = 0");
        if (planes.size() == 2 &&
            m_model.axisOf(planes[0]->get("at")) == m_model.axisOf(planes[1]->get("at")))
            add(2045, {planes[1]->id, "at", 0}, "this mirror plane is given twice");
        for (const Line* w : m_doc.ofKind("wedge symmetry")) {
            if (m_model.space() == Space::axisymmetric)
                add(2047, {w->id, {}, -1}, "an axisymmetric device is a whole turn already");
            else if (m_model.fieldFaults(*w).empty() && m_model.wedges(*w) == 0)
                add(2048, {w->id, "angle", 0},
                    "the angle of a wedge is 360 deg over a whole number of at least 2");
            for (const Line* p : planes)
                if (p->get("at") != "z = 0")
                    add(2049, {p->id, "at", 0},
                        "beside a wedge only the plane z = 0 can be a mirror");
        }
        if (m_model.space() == Space::axisymmetric)
            for (const Line* l : m_doc.ofKind("torque"))
                add(2046, {l->id, {}, -1},
                    "a torque in the plane has no meaning for an axisymmetric device");
    }

    void guideModes(const Line& guide)
    {
        for (const char* kind :
             {"modes", "band", "port", "lumped port", "wire port", "point dipole", "plane wave"})
            if (const Line* other = m_doc.first(kind))
                add(2057, {other->id, {}, -1},
                    "the modes of an endless guide stand alone; take this line to a sheet of its "
                    "own");
        if (guide.has("at") == guide.has("wavelength"))
            add(2058, {guide.id, "at", 0},
                guide.has("at") ? "state either the frequency or the wavelength"
                                : "at which frequency, or with which wavelength?",
                !guide.has("at"));
    }

    const Model& m_model;
    const Document& m_doc;
    Faults m_faults;
};

}  // namespace

Faults validate(const Model& model)
{
    return Validator(model).run();
}

}  // namespace yh::sheet
