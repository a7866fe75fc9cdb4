#include "sheet/line_reader.h"

#include "base/expression.h"
#include "sheet/model.h"
#include "sheet/place.h"
#include "sheet/topic.h"

#include <algorithm>
#include <cctype>
#include <optional>
#include <set>

namespace yh::sheet {

namespace {

bool isSpace(char c)
{
    return std::isspace(static_cast<unsigned char>(c)) != 0;
}

bool endsWith(const std::string& s, const std::string& tail)
{
    return s.size() >= tail.size() && s.compare(s.size() - tail.size(), tail.size(), tail) == 0;
}

/// The product sign may be typed as `x`, and between numbers as `by`.
std::string normalised(std::string text)
{
    const std::string sign = " x ", word = " by ";
    for (size_t at = text.find(sign); at != std::string::npos; at = text.find(sign, at + 1))
        if (at > 0)
            text.replace(at, sign.size(), " × ");
    for (size_t at = text.find(word); at != std::string::npos; at = text.find(word, at + 1)) {
        // Behind a unit: "turned by" is another word's.
        const size_t before = text.rfind(' ', at - 1);
        const std::string last = text.substr(before == std::string::npos ? 0 : before + 1,
                                             at - (before == std::string::npos ? 0 : before + 1));
        const size_t next = at + word.size();
        if (at > 0 && base::findUnit(last) && next < text.size() &&
            std::isdigit(static_cast<unsigned char>(text[next])))
            text.replace(at, word.size(), " × ");
    }
    return text;
}

/// Characters; what is longer is one value or none.
constexpr size_t longestPart = 200;

std::set<std::string> wordsOf(const std::string& text)
{
    std::set<std::string> list;
    for (size_t at = 0; at < text.size();) {
        const size_t end = std::min(text.find(' ', at), text.size());
        list.insert(text.substr(at, end - at));
        at = end + 1;
    }
    return list;
}

/// Whether a number would stand apart from its unit.
bool partsNumber(const std::string& left, const std::string& right)
{
    return !left.empty() && !right.empty() &&
           std::isdigit(static_cast<unsigned char>(left.back())) != 0 &&
           base::findUnit(right.substr(0, right.find_first_of(" */^"))).has_value();
}

/// Whether what commas part are numbers.
bool areNumbers(const std::string& text)
{
    size_t at = 0;
    while (at <= text.size()) {
        const size_t end = std::min(text.find(',', at), text.size());
        if (!base::Expression(text.substr(at, end - at)).parsed())
            return false;
        at = end + 1;
    }
    return true;
}

/// The corners of a path may be told as its ends.
std::string cornersOf(std::string text)
{
    // The "to" of an arc is its own.
    const std::string from = "from ";
    if (text.compare(0, from.size(), from) != 0 || text.find("arc ") != std::string::npos)
        return text;
    text = text.substr(from.size());
    for (size_t at = text.find(" to "); at != std::string::npos; at = text.find(" to ", at))
        text.replace(at, 4, "; ");
    return text;
}

base::Scope scopeOf(const Document& document)
{
    return Model(document).parameters().scope();
}

}  // namespace

std::string trimmed(const std::string& s)
{
    size_t from = 0, to = s.size();
    while (from < to && isSpace(s[from]))
        ++from;
    while (to > from && isSpace(s[to - 1]))
        --to;
    return s.substr(from, to - from);
}

const Slot* alternativeFor(const base::Scope& scope, const Kind& kind, const Slot& slot,
                           const std::string& text)
{
    const auto q = base::Expression(text).evaluate(scope);
    if (slot.type != SlotType::quantity || !q.ok() || q.value->dimension == slot.dimension)
        return nullptr;
    for (const Slot& other : kind.entries)
        if ((other.insteadOf == slot.key || slot.insteadOf == other.key) &&
            other.type == SlotType::quantity && q.value->dimension == other.dimension)
            return &other;
    return nullptr;
}

LineReader::LineReader(const Kind& kind, std::string rest, const Document& document)
    : m_kind(kind), m_rest(std::move(rest)), m_document(document), m_scope(scopeOf(document))
{
    m_line.kind = kind.key;
    const std::string across = "diameter ";
    if (const size_t at = m_rest.find(across);
        kind.slot("radius") && at != std::string::npos && (at == 0 || isSpace(m_rest[at - 1]))) {
        m_rest.replace(at, across.size(), "radius ");
        m_isDiameter = true;
    }
    // An x between other words is an axis.
    if (std::any_of(kind.entries.begin(), kind.entries.end(),
                    [](const Slot& f) { return f.marker == "×"; }))
        m_rest = normalised(m_rest);
}

Composed LineReader::read()
{
    findMarkers();
    takeValues();
    takeHead();
    placeLoose();
    chooseAlternatives();
    for (const Slot& f : m_kind.entries)
        if (f.type == SlotType::points && m_line.values.count(f.key))
            m_line.values[f.key] = cornersOf(m_line.values[f.key]);
    if (m_isDiameter && m_line.values.count("radius"))
        m_line.values["radius"] += " / 2";
    if (!m_line.fault.empty())
        return m_line;
    if (m_kind.slot("name") && !m_line.values.count("name"))
        m_line.values["name"] = m_document.freeName(m_kind.key == "thin line"  ? "line"
                                                    : m_kind.key == "floating" ? "F"
                                                                               : m_kind.key);
    m_line.ok = true;
    return m_line;
}

size_t LineReader::markerOf(const Slot& slot, size_t from) const
{
    // "," is too common in points to be a marker by itself.
    if (slot.marker == ",") {
        const size_t word = m_rest.find(slot.suffix, from);
        return word == std::string::npos ? word : m_rest.rfind(',', word);
    }
    return wordsAt(slot, slot.marker, from);
}

size_t LineReader::wordsAt(const Slot& slot, const std::string& words, size_t from) const
{
    const bool wordy = std::isalpha(static_cast<unsigned char>(words[0])) != 0;
    for (size_t at = m_rest.find(words, from); at != std::string::npos;
         at = m_rest.find(words, at + 1)) {
        const size_t end = at + words.size();
        if (wordy && ((at > 0 && !isSpace(m_rest[at - 1])) ||
                      (end < m_rest.size() && !isSpace(m_rest[end]))))
            continue;
        // The "of" of "outer of plate" is no quantity's.
        const std::string behind = trimmed(m_rest.substr(end));
        const Line* named = m_document.findNamed(behind.substr(0, behind.find(' ')));
        if (slot.type != SlotType::quantity || !named || !isShape(named->kind))
            return at;
    }
    return std::string::npos;
}

void LineReader::findMarkers()
{
    std::vector<const Slot*> missing;
    size_t from = 0;
    for (const Slot& f : m_kind.entries) {
        if (f.marker.empty() || f.type == SlotType::name)
            continue;
        const size_t at = markerOf(f, from);
        if (at == std::string::npos) {
            missing.push_back(&f);
            continue;
        }
        from = at + f.marker.size();
        m_found.push_back({at, from, &f});
    }
    auto isFree = [this](size_t at, size_t end) {
        return std::none_of(m_found.begin(), m_found.end(),
                            [&](const Found& x) { return at < x.end && x.at < end; });
    };
    // Parts that stand in another order than the sheet's own.
    for (const Slot* f : missing)
        if (const size_t at = f->marker == "," ? std::string::npos : markerOf(*f, 0);
            at != std::string::npos && isFree(at, at + f->marker.size()))
            m_found.push_back({at, at + f->marker.size(), f});
    // Properties by their names, such as sigma or voltage, where the sheet has a sign or less.
    for (const Slot& f : m_kind.entries) {
        const bool isFound = std::any_of(m_found.begin(), m_found.end(),
                                         [&f](const Found& x) { return x.slot == &f; });
        if (isFound || f.key == f.marker ||
            (f.type != SlotType::quantity && f.type != SlotType::function))
            continue;
        const size_t at = wordsAt(f, f.key, 0), end = at + f.key.size();
        if (at != std::string::npos && end < m_rest.size() && isFree(at, end) &&
            !m_document.findNamed(f.key))
            m_found.push_back({at, end, &f});
    }
    std::sort(m_found.begin(), m_found.end(),
              [](const Found& a, const Found& b) { return a.at < b.at; });
}

std::string LineReader::cut(size_t from, size_t to, const Slot* slot) const
{
    std::string s = trimmed(m_rest.substr(from, to - from));
    if (slot && !slot->suffix.empty() && endsWith(s, slot->suffix))
        s = trimmed(s.substr(0, s.size() - slot->suffix.size()));
    while (!s.empty() && s.back() == ',')
        s.pop_back();
    return trimmed(s);
}

void LineReader::takeValues()
{
    for (size_t i = 0; i < m_found.size(); ++i) {
        const size_t end = i + 1 < m_found.size() ? m_found[i + 1].at : m_rest.size();
        const Slot& slot = *m_found[i].slot;
        if (const std::string value = cut(m_found[i].end, end, &slot); !value.empty())
            m_line.values[slot.key] = fitting(slot, value);
    }
}

void LineReader::takeHead()
{
    std::string head = cut(0, m_found.empty() ? m_rest.size() : m_found[0].at, nullptr);
    for (const Slot& f : m_kind.entries) {
        if (head.empty())
            break;
        if (!isOpen(f))
            continue;
        if (f.type == SlotType::name && !m_kind.nameFirst) {
            const std::string first = head.substr(0, head.find(' ')),
                              rest = trimmed(head.substr(first.size()));
            // A unit is a name where a number follows, which does not follow a unit.
            const bool isName = !base::findUnit(first).has_value() || rest.empty() ||
                                std::isdigit(static_cast<unsigned char>(rest[0]));
            if (isIdentifier(first) && isName && first != "of") {
                m_line.values[f.key] = first;
                head = rest;
            }
        } else if (f.marker.empty() && f.type != SlotType::name) {
            // 60 s is no number of passes.
            if (!suits(f, head) && hasValue(f, head))
                continue;
            if (!f.suffix.empty() && head.size() > f.suffix.size() && endsWith(head, f.suffix))
                head = trimmed(head.substr(0, head.size() - f.suffix.size()));
            const std::string plain = reads(f, head) ? head : withoutFillers(head);
            m_line.values[f.key] = fitting(f, plain);
            head.clear();
        }
    }
    if (!head.empty())
        m_loose.insert(m_loose.begin(), head);
}

bool LineReader::placeOne(std::string& text)
{
    // "200 turns"
    for (const Slot& f : m_kind.entries) {
        const size_t at = f.suffix.empty() ? std::string::npos : text.find(' ' + f.suffix);
        if (at != std::string::npos && isOpen(f) && suits(f, text.substr(0, at))) {
            m_line.values[f.key] = text.substr(0, at);
            text = trimmed(text.substr(at + 1 + f.suffix.size()));
            return true;
        }
    }
    // As much of it as fits an open slot; the whole first.
    for (size_t end = text.size() <= longestPart ? text.size() : text.rfind(' ', longestPart);
         end != std::string::npos && end > 0; end = text.rfind(' ', end - 1)) {
        const std::string part = trimmed(text.substr(0, end));
        for (const Slot& f : m_kind.entries)
            if (isOpen(f) && suits(f, part) && !partsNumber(part, trimmed(text.substr(end)))) {
                m_line.values[f.key] = part;
                text = trimmed(text.substr(end));
                return true;
            }
    }
    // A parameter that is not there yet: only where the line cannot be without.
    for (const Slot& f : m_kind.entries)
        if (isOpen(f) && ((f.type == SlotType::quantity && f.required && reads(f, text)) ||
                          f.type == SlotType::points)) {
            m_line.values[f.key] = text;
            text.clear();
            return true;
        }
    return false;
}

void LineReader::placeLoose()
{
    for (std::string text : m_loose) {
        text = withoutFillers(text);
        while (!text.empty()) {
            if (!placeOne(text)) {
                m_line.fault = "'" + text + "' has no place in this line";
                return;
            }
            text = withoutFillers(text);
        }
    }
}

void LineReader::chooseAlternatives()
{
    for (const Slot& f : m_kind.entries) {
        const auto value = m_line.values.find(f.key);
        if (value == m_line.values.end())
            continue;
        const Slot* other = alternativeFor(m_scope, m_kind, f, value->second);
        if (!other || !isOpen(*other))
            continue;
        m_line.values[other->key] = value->second;
        m_line.values.erase(f.key);
    }
}

std::string LineReader::fitting(const Slot& slot, const std::string& value)
{
    if (suits(slot, value))
        return value;
    auto shorter = [&](auto accepts) -> std::optional<std::string> {
        for (size_t end = value.rfind(' ', longestPart); end != std::string::npos && end > 0;
             end = value.rfind(' ', end - 1))
            if (const std::string part = trimmed(value.substr(0, end)),
                rest = trimmed(value.substr(end));
                accepts(part, rest)) {
                m_loose.push_back(rest);
                return part;
            }
        return std::nullopt;
    };
    // In "core 1 V" the place is core, not its copy 1.
    if (slot.type == SlotType::place)
        if (const auto part = shorter([&](const std::string& place, const std::string& rest) {
                return reads(slot, place) && !partsNumber(place, rest) &&
                       std::any_of(m_kind.entries.begin(), m_kind.entries.end(),
                                   [&](const Slot& other) {
                                       return other.type == SlotType::quantity && isOpen(other) &&
                                              suits(other, rest);
                                   });
            }))
            return *part;
    if (reads(slot, value))
        return value;
    // Of names that are not there yet the first.
    if (slot.type == SlotType::reference)
        if (const auto part = shorter(
                [](const std::string& name, const std::string&) { return isIdentifier(name); }))
            return *part;
    return shorter([&](const std::string& part, const std::string&) { return reads(slot, part); })
        .value_or(value);
}

bool LineReader::hasValue(const Slot& slot, const std::string& text) const
{
    return (slot.type == SlotType::quantity || slot.type == SlotType::count) &&
           base::Expression(text).evaluate(m_scope).ok() &&
           !alternativeFor(m_scope, m_kind, slot, text);
}

bool LineReader::reads(const Slot& slot, const std::string& text) const
{
    switch (slot.type) {
        case SlotType::quantity:
        case SlotType::count:
        case SlotType::function:
            return base::Expression(text).parsed();
        case SlotType::place:
            return parsePlace(text).rule.has_value();
        case SlotType::point:
            return areNumbers(text);
        case SlotType::direction:
            return text.find(' ') == std::string::npos || areNumbers(text);
        case SlotType::choice:
        case SlotType::reference:
            return suits(slot, text);
        default:
            return true;
    }
}

bool LineReader::suits(const Slot& slot, const std::string& text) const
{
    switch (slot.type) {
        case SlotType::quantity: {
            // A unit by itself tells no number.
            if (base::findUnit(text) && !m_document.findNamed(text))
                return false;
            const auto q = base::Expression(text).evaluate(m_scope);
            return q.ok() && q.value->dimension == slot.dimension;
        }
        case SlotType::count: {
            const auto q = base::Expression(text).evaluate(m_scope);
            return q.ok() && q.value->dimension == base::Dimension{};
        }
        case SlotType::choice:
            return std::find(slot.choices.begin(), slot.choices.end(), text) != slot.choices.end();
        case SlotType::reference: {
            const Line* l = m_document.findNamed(text);
            return l && (l->kind == slot.refersTo ||
                         std::find(slot.alsoRefersTo.begin(), slot.alsoRefersTo.end(), l->kind) !=
                             slot.alsoRefersTo.end());
        }
        case SlotType::place: {
            const PlaceParse p = parsePlace(text);
            if (!p.rule)
                return false;
            const std::vector<std::string> names = p.rule->names();
            return !names.empty() &&
                   std::all_of(names.begin(), names.end(), [this](const std::string& n) {
                       const Line* l = m_document.findNamed(n);
                       return l && isShape(l->kind);
                   });
        }
        default:
            return false;
    }
}

std::string LineReader::withoutFillers(const std::string& text) const
{
    std::set<std::string> fillers = wordsOf(m_kind.words + " " + m_kind.key);
    fillers.insert({"of", "the", "a", "an", "with", "is", "and", "between", "at", "on", "in"});
    std::string rest = trimmed(text);
    while (!rest.empty()) {
        const std::string first = rest.substr(0, rest.find(' '));
        if (!fillers.count(first) || m_document.findNamed(first))
            break;
        rest = trimmed(rest.substr(first.size()));
    }
    return rest;
}

bool LineReader::isOpen(const Slot& slot) const
{
    if (m_line.values.count(slot.key) || (slot.type == SlotType::name && m_kind.nameFirst))
        return false;
    // Of alternatives only one is stated.
    for (const Slot& other : m_kind.entries)
        if ((other.insteadOf == slot.key || slot.insteadOf == other.key) &&
            m_line.values.count(other.key) &&
            !alternativeFor(m_scope, m_kind, other, m_line.values.at(other.key)))
            return false;
    return true;
}

}  // namespace yh::sheet
