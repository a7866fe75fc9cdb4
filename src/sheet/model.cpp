#include "sheet/model.h"

#include "base/constants.h"
#include "sheet/schema.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <set>

namespace yh::sheet {

namespace {

using base::c0;

}  // namespace

using base::Evaluation;
using base::Expression;
using base::Fault;
using base::Faults;
namespace dim = base::dim;

namespace {

/// A text that failed, with the character.
struct TextFault
{
    int offset;
    std::string text;
};

double numberOf(const std::string& text, const base::Dimension& d, const base::Scope& scope,
                int offset = 0)
{
    const Evaluation e = base::evaluateAs(Expression(text), d, scope);
    if (!e.ok())
        throw TextFault{offset + e.fault.offset, e.fault.text};
    if (e.value->value.imag() != 0)
        throw TextFault{offset, "a real value is expected here, not a complex one"};
    return e.value->value.real();
}

Point pointOf(const std::string& text, const base::Scope& scope, int offset, bool solid,
              bool lengthAlone = false)
{
    const auto parts = base::splitOutsideBrackets(text, ',');
    if (parts.size() == 1 && lengthAlone)
        return {numberOf(text, dim::length, scope, offset), 0.0};
    if (parts.size() != 2 && !(solid && parts.size() == 3))
        throw TextFault{offset,
                        solid ? "a point is three lengths with commas between them, such as 1 mm, "
                                "2 mm, 0"
                              : "a point is two lengths with a comma between them, such as 1 mm, "
                                "2 mm"};
    Point p;
    for (size_t i = 0; i < parts.size(); ++i)
        (i == 0   ? p.x
         : i == 1 ? p.y
                  : p.z) = numberOf(parts[i].text, dim::length, scope, offset + parts[i].offset);
    return p;
}

Point directionOf(const std::string& text, const base::Scope& scope)
{
    const bool back = text.size() == 2 && text[0] == '-';
    if (const std::string axis = back ? text.substr(1) : text; axis.size() == 1)
        if (const size_t k = std::string("xyz").find(axis == "r" ? "x" : axis);
            k != std::string::npos) {
            const double way = back ? -1 : 1;
            return {k == 0 ? way : 0, k == 1 ? way : 0, k == 2 ? way : 0};
        }
    const auto parts = base::splitOutsideBrackets(text, ',');
    if (parts.size() != 2 && parts.size() != 3)
        throw TextFault{0,
                        "a direction is an axis, such as x or -z, or its components, such as "
                        "1, 0, -2"};
    Point d;
    for (size_t i = 0; i < parts.size(); ++i)
        (i == 0   ? d.x
         : i == 1 ? d.y
                  : d.z) = numberOf(parts[i].text, dim::none, scope, parts[i].offset);
    const double length = norm(d);
    if (!(length > 0) || !std::isfinite(length))
        throw TextFault{0, "these components point nowhere"};
    return (1 / length) * d;
}

std::vector<PathStep> pathOf(const std::string& text, const base::Scope& scope, bool arcs,
                             bool solid)
{
    std::vector<PathStep> steps;
    for (const auto& part : base::splitOutsideBrackets(text, ';')) {
        if (part.text.empty())
            throw TextFault{part.offset, "a point is missing here"};
        if (part.text.rfind("arc ", 0) != 0) {
            steps.push_back({pointOf(part.text, scope, part.offset, solid), std::nullopt});
            continue;
        }
        const size_t via = part.text.find("via "), to = part.text.find(" to ");
        if (!arcs)
            throw TextFault{part.offset, "a polygon has straight sides; use a path for arcs"};
        if (via == std::string::npos || to == std::string::npos || to < via || steps.empty())
            throw TextFault{
                part.offset,
                "an arc is written `arc via x, y to x, y`, behind the point where it starts"};
        PathStep s;
        s.via = pointOf(part.text.substr(via + 4, to - via - 4), scope, part.offset + int(via) + 4,
                        solid);
        s.to = pointOf(part.text.substr(to + 4), scope, part.offset + int(to) + 4, solid);
        steps.push_back(s);
    }
    if (steps.size() < 2 || (!arcs && steps.size() < 3))
        throw TextFault{0, arcs ? "at least two points are expected, with ; between them"
                                : "at least three corners are expected, with ; between them"};
    return steps;
}

/// Whether the points of a line have three coordinates.
bool isSpatial(const Line& line)
{
    return line.kind == "swept" || line.kind == "wire";
}

int countOf(const std::string& text, const base::Scope& scope)
{
    const double v = numberOf(text, dim::none, scope);
    constexpr double most = 1e9;  // what an int holds
    if (v < 1 || v > most || std::abs(v - std::round(v)) > 1e-9 * v)
        throw TextFault{0, base::formatNumber(v, 6) + " is no whole number of at least 1"};
    return int(std::lround(v));
}

}  // namespace

Model::Model(Document document, const std::map<std::string, std::string>& overrides)
    : m_document(std::move(document))
{
    std::vector<base::Parameter> list;
    for (const Line* l : m_document.ofKind("parameter")) {
        auto it = overrides.find(l->name());
        list.push_back({l->name(), it != overrides.end() ? it->second : l->get("value")});
    }
    m_parameters = base::resolveParameters(list);
    m_scope = m_parameters.scope();
}

Space Model::space() const
{
    const Line* l = m_document.first("space");
    const std::string type = l ? l->get("type") : std::string();
    return type == "axisymmetric" ? Space::axisymmetric
           : type == "solid"      ? Space::solid
                                  : Space::plane;
}

int Model::wedges(const Line& line) const
{
    constexpr double turn = 2 * base::pi;
    const double n = turn / number(line, "angle");
    return n >= 2 - 1e-9 && std::abs(n - std::round(n)) < 1e-6 * n ? int(std::lround(n)) : 0;
}

double Model::depth() const
{
    const Line* l = m_document.first("space");
    return !l || space() != Space::plane ? 1.0 : number(*l, "depth");
}

Model Model::without(const std::function<bool(const Line&)>& drop) const
{
    Model rest = *this;
    std::erase_if(rest.m_document.lines, drop);
    return rest;
}

std::optional<double> Model::lowestFrequency() const
{
    const Line *band = m_document.first("band"), *guide = m_document.first("guide modes");
    if (!band)
        band = m_document.first("ring-down");
    if (band && slotFaults(*band).empty())
        return number(*band, "from");
    if (const Line* modes = m_document.first("modes");
        modes && !guide && slotFaults(*modes).empty())
        return optionalNumber(*modes, "from");
    if (!guide || !slotFaults(*guide).empty())
        return std::nullopt;
    if (const auto wavelength = optionalNumber(*guide, "wavelength"))
        return c0 / *wavelength;
    return optionalNumber(*guide, "at");
}

std::optional<Model::OpenSpace> Model::openSpace() const
{
    const Line* open = m_document.first("open space");
    const auto lowest = lowestFrequency();
    if (!open || !lowest || !slotFaults(*open).empty())
        return std::nullopt;
    const double longest = c0 / *lowest;
    // The near field may reach into the shell, where it decays as it does outside. What a guide
    // holds falls off slowly beside it, and the shell only absorbs what leaves.
    const bool isGuide = m_document.first("guide modes") != nullptr;
    const double shareAway = isGuide ? 1.5 : 0.2, shareThick = isGuide ? 0.8 : 0.3;
    return OpenSpace{optionalNumber(*open, "distance").value_or(shareAway * longest),
                     shareThick * longest};
}

const Line* Model::mappedSpace() const
{
    for (const Line& l : m_document.lines)
        if (const Kind* kind = findKind(l.kind))
            for (const Slot& slot : kind->entries)
                if (!slot.goesOn.empty() && l.get(slot.key) == slot.goesOn)
                    return &l;
    return nullptr;
}

std::string Model::text(const Line& line, const std::string& key) const
{
    const std::string own = line.get(key);
    if (!own.empty())
        return own;
    const Kind* kind = findKind(line.kind);
    const Slot* field = kind ? kind->slot(key) : nullptr;
    return field ? field->fallback : std::string();
}

double Model::number(const Line& line, const std::string& key) const
{
    const Kind* kind = findKind(line.kind);
    const Slot* field = kind ? kind->slot(key) : nullptr;
    base::Dimension d = field ? field->dimension : base::Dimension{};
    if (line.kind == "sweep" && field && field->dimension == base::Dimension{})
        if (auto it = m_parameters.values.find(line.get("parameter"));
            it != m_parameters.values.end())
            d = it->second.dimension;
    try {
        return numberOf(text(line, key), d, m_scope);
    } catch (const TextFault& f) {
        throw base::Error(2001, f.text, {line.id, key, f.offset});
    }
}

std::optional<double> Model::optionalNumber(const Line& line, const std::string& key) const
{
    if (text(line, key).empty())
        return std::nullopt;
    return number(line, key);
}

int Model::count(const Line& line, const std::string& key) const
{
    try {
        return countOf(text(line, key), m_scope);
    } catch (const TextFault& f) {
        throw base::Error(2001, f.text, {line.id, key, f.offset});
    }
}

Point Model::point(const Line& line, const std::string& key) const
{
    try {
        return pointOf(text(line, key), m_scope, 0, space() == Space::solid, key == "every");
    } catch (const TextFault& f) {
        throw base::Error(2001, f.text, {line.id, key, f.offset});
    }
}

Point Model::direction(const Line& line, const std::string& key) const
{
    try {
        return directionOf(text(line, key), m_scope);
    } catch (const TextFault& f) {
        throw base::Error(2001, f.text, {line.id, key, f.offset});
    }
}

std::vector<PathStep> Model::path(const Line& line, const std::string& key) const
{
    try {
        return pathOf(text(line, key), m_scope, line.kind != "polygon", isSpatial(line));
    } catch (const TextFault& f) {
        throw base::Error(2001, f.text, {line.id, key, f.offset});
    }
}

std::string Model::choice(const Line& line, const std::string& key) const
{
    return text(line, key);
}

PlaceRule Model::place(const Line& line, const std::string& key) const
{
    PlaceParse p = parsePlace(text(line, key));
    if (!p.rule)
        throw base::Error(2001, p.fault, {line.id, key, p.offset});
    return *p.rule;
}

std::optional<base::Quantity> Model::shown(const Line& line, const std::string& key) const
{
    const Evaluation e = Expression(text(line, key)).evaluate(m_scope);
    return e.value;
}

bool Model::isInDegrees(const Line& line, const std::string& key) const
{
    auto isLetter = [](char c) { return std::isalnum(static_cast<unsigned char>(c)) || c == '_'; };
    auto saysDegrees = [&isLetter](const std::string& s) {
        if (s.find("°") != std::string::npos)
            return true;
        for (size_t i = s.find("deg"); i != std::string::npos; i = s.find("deg", i + 1))
            if ((i == 0 || !std::isalpha(static_cast<unsigned char>(s[i - 1]))) &&
                (i + 3 >= s.size() || !isLetter(s[i + 3])))
                return true;
        return false;
    };
    std::vector<std::string> open{text(line, key)};
    std::set<std::string> seen;
    while (!open.empty()) {
        const std::string here = std::move(open.back());
        open.pop_back();
        if (saysDegrees(here))
            return true;
        for (const std::string& name : Expression(here).names())
            if (const Line* l = m_document.findNamed(name);
                l && l->kind == "parameter" && seen.insert(name).second)
                open.push_back(l->get("value"));
    }
    return false;
}

base::Scope Model::scopeAt(Point p) const
{
    return [this, p](const std::string& name) -> std::optional<base::Quantity> {
        if (auto v = m_scope(name))
            return v;
        const bool axi = space() == Space::axisymmetric;
        if (name == "z" && space() == Space::solid)
            return base::Quantity{p.z, dim::length};
        if (name == (axi ? "r" : "x"))
            return base::Quantity{p.x, dim::length};
        if (name == (axi ? "z" : "y"))
            return base::Quantity{p.y, dim::length};
        return std::nullopt;
    };
}

base::Scope Model::scopeAt(Point p, double temperature) const
{
    return [place = scopeAt(p),
            temperature](const std::string& name) -> std::optional<base::Quantity> {
        if (name == "T")
            return base::Quantity{temperature, dim::temperature};
        return place(name);
    };
}

base::Scope Model::scopeOf(double frequency, double temperature) const
{
    return
        [this, frequency, temperature](const std::string& name) -> std::optional<base::Quantity> {
            if (auto v = m_scope(name))
                return v;
            if (name == "f")
                return base::Quantity{frequency, dim::frequency};
            if (name == "T")
                return base::Quantity{temperature, dim::temperature};
            return std::nullopt;
        };
}

Faults Model::slotFaults(const Line& line) const
{
    Faults faults;
    const Kind* kind = findKind(line.kind);
    if (!kind)
        return faults;
    auto wrong = [&](const Slot& f, int offset, const std::string& text) {
        faults.push_back({2001, {line.id, f.key, offset}, text, false});
    };
    for (const Slot& f : kind->entries) {
        const std::string t = text(line, f.key);
        if (t.empty()) {
            if (f.required) {
                const std::string what = f.help.empty() ? f.key : f.help;
                faults.push_back({2002,
                                  {line.id, f.key, -1},
                                  what + (f.type == SlotType::choice ? ": choose" : " is missing"),
                                  true});
            }
            continue;
        }
        try {
            switch (f.type) {
                case SlotType::name:
                    if (!isIdentifier(t))
                        wrong(f, 0,
                              "'" + t +
                                  "' cannot be a name; use letters, digits and _ and start with a "
                                  "letter");
                    break;
                case SlotType::quantity: {
                    double v = 0;
                    const bool asParameter =
                        line.kind == "sweep" && f.dimension == base::Dimension{};
                    if (line.kind == "parameter" || asParameter) {
                        if (asParameter)
                            v = number(line, f.key);
                        break;
                    }
                    v = numberOf(t, f.dimension, m_scope);
                    if (f.range == Range::positive && !(v > 0))
                        wrong(f, 0,
                              base::format(v, f.dimension, 6) +
                                  " is not possible here; a value above zero is expected");
                    else if (f.range == Range::notNegative && v < 0)
                        wrong(f, 0,
                              base::format(v, f.dimension, 6) +
                                  " is not possible here; zero or more is expected");
                    break;
                }
                case SlotType::count:
                    if (const int n = countOf(t, m_scope); n > f.most)
                        wrong(f, 0,
                              std::to_string(n) + " is more than the " +
                                  std::to_string(std::llround(f.most)) + " that are taken here");
                    break;
                case SlotType::point:
                    static_cast<void>(
                        pointOf(t, m_scope, 0, space() == Space::solid, f.key == "every"));
                    break;
                case SlotType::direction:
                    static_cast<void>(directionOf(t, m_scope));
                    break;
                case SlotType::points:
                    static_cast<void>(pathOf(t, m_scope, line.kind != "polygon", isSpatial(line)));
                    break;
                case SlotType::place:
                    if (const PlaceParse p = parsePlace(t); !p.rule)
                        wrong(f, p.offset, p.fault);
                    break;
                case SlotType::choice:
                    if (std::find(f.choices.begin(), f.choices.end(), t) == f.choices.end())
                        wrong(f, 0, "'" + t + "' is not one of the choices here");
                    break;
                case SlotType::function: {
                    // What runs with the frequency may have any sign and losses of its own.
                    constexpr double anyFrequency = 1e9;
                    if (const auto lowest = lowestFrequency();
                        f.ofFrequency && (lowest || m_document.first("modes")) &&
                        base::evaluateAs(Expression(t), f.dimension,
                                         scopeOf(lowest.value_or(anyFrequency), 300.0))
                            .ok())
                        break;
                    // Positions are sampled off the axes, where 1/r and the like are finite.
                    const Evaluation e = base::evaluateAs(
                        Expression(t), f.dimension,
                        f.ofTemperature ? scopeAt({1.234e-3, 0.876e-3, 0.4e-3}, 300.0)
                                        : scopeAt({1.234e-3, 0.876e-3, 0.4e-3}));
                    if (!e.ok())
                        wrong(f, e.fault.offset, e.fault.text);
                    else if (f.range == Range::positive && !(e.value->value.real() > 0))
                        wrong(f, 0,
                              base::formatNumber(e.value->value.real(), 6) +
                                  " is not possible here; a value above zero is expected");
                    break;
                }
                case SlotType::text:
                case SlotType::reference:
                case SlotType::file:
                    break;
            }
        } catch (const TextFault& e) {
            wrong(f, e.offset, e.text);
        } catch (const base::Error& e) {
            faults.push_back(e.fault());
        }
    }
    return faults;
}

int Model::axisOf(const std::string& plane) const
{
    return plane == "x = 0" ? 0 : plane == "y = 0" || space() == Space::axisymmetric ? 1 : 2;
}

int Model::meshMirror() const
{
    const Line* l = m_document.first("mesh");
    if (!l || !l->has("mirrored"))
        return -1;
    const int axis = axisOf(l->get("mirrored"));
    const Space s = space();
    if ((s == Space::axisymmetric && axis == 0) || (s == Space::plane && axis == 2))
        throw base::Error(7071,
                          s == Space::plane
                              ? "a plane drawing can be mirrored about x = 0 or y = 0"
                              : "a drawing round an axis can be mirrored about z = 0 only",
                          {l->id, "mirrored", -1});
    return axis;
}

}  // namespace yh::sheet
