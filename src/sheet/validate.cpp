#include "sheet/model.h"
#include "sheet/nearest.h"
#include "sheet/topic.h"

#include <algorithm>
#include <cmath>
#include <map>
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
            const Faults f = m_model.slotFaults(l);
            m_faults.insert(m_faults.end(), f.begin(), f.end());
            references(l);
        }
        names();
        singles();
        for (const Topic& t : topics())
            if (t.checkLines)
                t.checkLines(m_model, m_faults);
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
    template <class Fits>
    [[nodiscard]] std::vector<std::string> namesOf(const Fits& fits) const
    {
        std::vector<std::string> names;
        for (const Line& l : m_doc.lines)
            if (!l.name().empty() && fits(l))
                names.push_back(l.name());
        return names;
    }
    /// Names that places and references mention must be there.
    void references(const Line& l)
    {
        for (const Slot& f : findKind(l.kind)->entries) {
            const std::string text = l.get(f.key);
            if (text.empty())
                continue;
            if (f.type == SlotType::reference) {
                const Line* target = m_doc.findNamed(text);
                const bool also = target && std::find(f.alsoRefersTo.begin(), f.alsoRefersTo.end(),
                                                      target->kind) != f.alsoRefersTo.end();
                if (!target || (target->kind != f.refersTo && !also))
                    add(2004, {l.id, f.key, 0},
                        "there is no " + f.refersTo + " named '" + text + "'" +
                            meant(text, namesOf([&](const Line& o) {
                                      return o.kind == f.refersTo ||
                                             std::find(f.alsoRefersTo.begin(), f.alsoRefersTo.end(),
                                                       o.kind) != f.alsoRefersTo.end();
                                  })));
            } else if (f.type == SlotType::place) {
                const PlaceParse p = parsePlace(text);
                if (!p.rule)
                    continue;
                for (const std::string& n : p.rule->names()) {
                    const Line* target = m_doc.findNamed(n);
                    if (!target || (!isShape(target->kind) && target->kind != "conducting sheet"))
                        add(2005, {l.id, f.key, int(text.find(n))},
                            "there is no shape named '" + n + "'" +
                                meant(n, namesOf([](const Line& o) { return isShape(o.kind); })));
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
        courses();
        if (m_doc.ofKind("sweep").size() > 2)
            add(2008, {m_doc.ofKind("sweep")[2]->id, {}, -1},
                "at most two parameters can be swept at a time");
    }
    /** A course is a curve with enough points between two ends. */
    void slopes(const Line* l, const std::string& course)
    {
        constexpr int least = 5;
        int steps = least;
        try {
            steps = m_model.count(*l, "steps");
        } catch (const base::Error&) {
            return;  // said at the number
        }
        if (steps < least)
            add(2064, {l->id, "steps", 0},
                "slopes take at least " + std::to_string(least) + " steps");
        try {
            if (m_model.number(*l, "from") == m_model.number(*l, "to"))
                add(2066, {l->id, "to", 0}, "slopes need two different ends");
        } catch (const base::Error&) {
            // said at the number
        }
        if (course != "with slopes" && l->get("spacing") == "by equal ratios")
            add(2065, {l->id, "spacing", 0}, "a period is stepped through evenly");
    }

    /// Sweeps that are looked at as a whole.
    void courses()
    {
        const auto sweeps = m_doc.ofKind("sweep");
        double points = 1;
        for (const Line* l : sweeps)
            try {
                points *= m_model.count(*l, "steps");
            } catch (const base::Error&) {
                // said at the number
            }
        if (sweeps.size() > 1 && points > mostSteps)
            add(2010, {sweeps.back()->id, "steps", 0},
                "these sweeps have " + std::to_string(std::llround(points)) +
                    " points together; no more than " + std::to_string(std::llround(mostSteps)) +
                    " are taken");
        for (const Line* l : sweeps) {
            const std::string course = l->get("course");
            if (course.empty()) {
                if (l->has("time"))
                    add(2062, {l->id, "course", -1},
                        "what is the time for? say `with slopes`, `as one period` or `as half a "
                        "period`",
                        true);
                continue;
            }
            if (sweeps.size() > 1)
                add(2063, {l->id, "course", 0},
                    "slopes and periods belong to one sweep alone; take the other away");
            slopes(l, course);
        }
    }
    /// Lines of other fields, where nothing was said of them yet.
    void strangers()
    {
        // Each answer looks at the whole sheet: a section is asked for once.
        std::map<std::string, bool> offered;
        auto isAtHome = [&](const std::string& section) {
            const auto [it, fresh] = offered.emplace(section, false);
            if (fresh)
                it->second = isOffered(section, m_doc);
            return it->second;
        };
        std::set<int> spokenOf;
        for (const base::Fault& f : m_faults)
            spokenOf.insert(f.place.line);
        for (const Line& l : m_doc.lines) {
            const Kind* k = findKind(l.kind);
            if (!k || isAtHome(k->section) || spokenOf.count(l.id) ||
                std::any_of(k->entries.begin(), k->entries.end(),
                            [](const Slot& s) { return !s.goesOn.empty(); }))
                continue;
            add(2079, {l.id, {}, -1},
                "'" + k->words +
                    "' belongs to another field than the one this sheet is about; "
                    "take it to a sheet of its own");
        }
    }
    void planesOf(const std::vector<const Line*>& planes)
    {
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
    }

    void whole()
    {
        bool shape = false;
        for (const Line& l : m_doc.lines)
            shape = shape || isShape(l.kind) || l.kind == "wire";
        if (!shape && topicOf(m_doc).hasShape)
            add(2040, {-1, "shape", -1}, "no shape yet: draw one in the scene or add a line", true);
        if (const Line* wire = m_doc.first("wire"); wire && m_model.space() != Space::solid)
            add(2060, {wire->id, {}, -1},
                "thin wires are for solids; in a drawing take a thin line, or a circle of metal");
        const Topic& topic = topicOf(m_doc);
        if (topic.checkSheet)
            topic.checkSheet(m_model, m_faults);
        strangers();
        bool ask = false;
        for (const Line& l : m_doc.lines)
            if (const Kind* k = findKind(l.kind); k && k->section == "ask")
                ask = true;
        if (!ask)
            add(2043, {-1, "ask", -1}, "nothing is asked yet: add a figure, such as a capacitance",
                true);
        const auto planes = m_doc.ofKind("mirror plane");
        planesOf(planes);
        for (const Line* w : m_doc.ofKind("wedge symmetry")) {
            if (m_model.space() == Space::axisymmetric)
                add(2047, {w->id, {}, -1}, "an axisymmetric device is a whole turn already");
            else if (m_model.slotFaults(*w).empty() && m_model.wedges(*w) == 0)
                add(2048, {w->id, "angle", 0},
                    "the angle of a wedge is 360 deg over a whole number of at least 2");
            for (const Line* p : planes)
                if (p->get("at") != "z = 0")
                    add(2049, {p->id, "at", 0},
                        "beside a wedge only the plane z = 0 can be a mirror");
        }
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
