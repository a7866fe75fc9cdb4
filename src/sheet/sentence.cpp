#include "sheet/sentence.h"

#include "base/expression.h"
#include "sheet/line_reader.h"
#include "sheet/materials.h"
#include "sheet/model.h"
#include "sheet/nearest.h"
#include "sheet/place.h"
#include "sheet/topic.h"

#include <algorithm>
#include <cctype>
#include <optional>

namespace yh::sheet {

namespace {

Piece::Kind pieceKind(const Slot& f)
{
    switch (f.type) {
        case SlotType::name:
            return Piece::Kind::name;
        case SlotType::place:
            return Piece::Kind::pill;
        case SlotType::reference:
            return Piece::Kind::name;
        default:
            return Piece::Kind::chip;
    }
}

/// The depth of a plane device is said even when it is the default: figures are for it.
bool isDepth(const Line& line, const Slot& f)
{
    return line.kind == "space" && f.key == "depth" && line.get("type") != "axisymmetric" &&
           line.get("type") != "solid";
}

/// What stands in a sentence where something is missing; the help is told by the pointer.
std::string missingText(const Slot& f)
{
    if (f.type == SlotType::choice)
        return "choose";
    return f.help.empty() ? f.key : f.help;
}

std::string lower(std::string s)
{
    for (char& c : s)
        c = char(std::tolower(static_cast<unsigned char>(c)));
    return s;
}

bool startsWith(const std::string& s, const std::string& head)
{
    return s.compare(0, head.size(), head) == 0;
}

/// Where `marker` stands as words of their own at or behind `from`; npos: nowhere.
size_t findMarker(const std::string& text, const std::string& marker, size_t from)
{
    const bool wordy = std::isalpha(static_cast<unsigned char>(marker[0])) != 0;
    for (size_t at = text.find(marker, from); at != std::string::npos;
         at = text.find(marker, at + 1)) {
        const size_t end = at + marker.size();
        const bool before =
            at == 0 || std::isspace(static_cast<unsigned char>(text[at - 1])) || !wordy;
        const bool after =
            end >= text.size() || std::isspace(static_cast<unsigned char>(text[end])) || !wordy;
        if (before && after)
            return at;
    }
    return std::string::npos;
}

Composed readFields(const Kind& kind, const std::string& rest, const Document& document)
{
    return LineReader(kind, rest, document).read();
}

}  // namespace

std::vector<Piece> sentence(const Line& line)
{
    std::vector<Piece> list;
    const Kind* kind = findKind(line.kind);
    if (!kind) {
        list.push_back({Piece::Kind::word, "unknown line: " + line.kind, {}});
        return list;
    }
    auto words = [&](const std::string& text) {
        if (!text.empty())
            list.push_back({Piece::Kind::word, text, {}});
    };
    auto put = [&](const Slot& f) {
        const std::string text = line.has(f.key)                              ? line.get(f.key)
                                 : f.always || f.required || isDepth(line, f) ? f.fallback
                                                                              : std::string();
        if (text.empty() && !f.required)
            return;
        words(f.marker);
        list.push_back({text.empty() ? Piece::Kind::missing : pieceKind(f),
                        text.empty() ? missingText(f) : text, f.key});
        words(f.suffix);
    };
    if (kind->nameFirst)
        put(*kind->slot("name"));
    words(kind->words);
    for (const Slot& f : kind->entries)
        if (!(kind->nameFirst && f.type == SlotType::name))
            put(f);
    if (line.kind == "electrode" && !line.has("voltage") && !line.has("charge"))
        list.insert(list.begin() + 2, {Piece::Kind::missing, "potential", "voltage"});
    return list;
}

std::string plainText(const Line& line)
{
    std::string s;
    for (const Piece& p : sentence(line)) {
        if (p.kind == Piece::Kind::missing)
            continue;
        if (!s.empty() && p.text != ",")
            s += " ";
        s += p.text;
    }
    return s;
}

namespace {

bool hasReadableNumbers(const Kind& kind, const Composed& c)
{
    return std::all_of(c.values.begin(), c.values.end(), [&kind](const auto& value) {
        const Slot* slot = kind.slot(value.first);
        return !slot || slot->type != SlotType::quantity || base::Expression(value.second).parsed();
    });
}

/// Lines begun in other words than the sheet's.
std::string inSheetWords(const std::string& text)
{
    static const std::pair<const char*, const char*> begins[] = {
        {"plane", "space plane"},
        {"solid", "space solid"},
        {"axisymmetric", "space axisymmetric"},
        {"symmetry plane", "mirror plane"},
        {"symmetry", "mirror plane"},
        {"mirror", "mirror plane"},
        {"max temperature", "highest temperature"},
        {"maximum temperature", "highest temperature"},
        {"fixed temperature", "held temperature"},
        {"|S|", "wave"},
        {"sweep", ""},
        {"material", ""}};
    const std::string low = lower(text);
    for (const Kind& k : kinds())
        for (const std::string& words : {k.words, k.key})
            if (!words.empty() && words.find(' ') != std::string::npos &&
                startsWith(low, lower(words)))
                return text;
    for (const auto& [theirs, ours] : begins)
        if (const std::string words = lower(theirs);
            startsWith(low, words) && (low.size() == words.size() || low[words.size()] == ' ') &&
            (*ours || low.size() > words.size())) {
            // It may be the name of a parameter or of a shape as well.
            const std::string rest = trimmed(low.substr(words.size()));
            const bool isName = startsWith(rest, "=") || startsWith(rest, ":") ||
                                std::any_of(kinds().begin(), kinds().end(), [&rest](const Kind& k) {
                                    return k.nameFirst && !k.words.empty() &&
                                           startsWith(rest, lower(k.words) + ' ');
                                });
            return isName ? text : trimmed(ours + text.substr(words.size()));
        }
    return text;
}

/// Whether a word behind a kind's own can only be the name of what is made.
bool isNewName(const std::string& word, const std::string& words, const Kind& kind,
               const Document& document)
{
    const Line* named = document.findNamed(word);
    if (!isIdentifier(word) || word == "of" || (named && named->kind == "parameter"))
        return false;
    // The port of "layout port" is none.
    for (const Kind& other : kinds())
        if (startsWith(lower(other.words) + ' ', words + ' ' + lower(word) + ' '))
            return false;
    return std::none_of(kind.entries.begin(), kind.entries.end(), [&](const Slot& s) {
        const bool mayBeIt =
            named && s.marker.empty() && s.type != SlotType::name && s.type != SlotType::quantity;
        return mayBeIt || s.key == word || startsWith(s.marker + ' ', word + ' ');
    });
}

bool isKnownMaterial(const std::string& name)
{
    const auto& others = topicMaterials();
    return findMaterial(name) ||
           std::any_of(others.begin(), others.end(), [&](const auto& m) { return m.name == name; });
}

/// Words of at least four letters, which tell more than "on" and "at".
std::vector<std::string> tellingWords(const std::string& text)
{
    std::vector<std::string> list;
    std::string word;
    for (const char c : text + ' ')
        if (std::isalpha(static_cast<unsigned char>(c))) {
            word += c;
        } else {
            if (word.size() >= 4)
                list.push_back(word);
            word.clear();
        }
    return list;
}

/// The example of the line that most words of a text lead to: by its own words, also misspelt, and
/// by what its help says; empty: none.
std::string likelyExample(const std::string& low)
{
    const std::vector<std::string> typed = tellingWords(low);
    const Kind* best = nullptr;
    size_t most = 0;
    for (const Kind& k : kinds()) {
        const std::vector<std::string> own = tellingWords(lower(k.words + ' ' + k.key)),
                                       help = tellingWords(lower(k.help));
        size_t score = 0;
        for (const std::string& word : typed) {
            const bool isHelp = std::find(help.begin(), help.end(), word) != help.end();
            // Slips of the pen are told from other words by what is long.
            constexpr size_t clear = 7;
            const bool isOwn = std::find(own.begin(), own.end(), word) != own.end() ||
                               (word.size() >= clear && !nearestTo(word, own).empty());
            score += isOwn ? 3 : isHelp ? 1 : 0;
        }
        if (score > most) {
            most = score;
            best = &k;
        }
    }
    return best ? best->example : "";
}

/// Whether a number stands with its unit in a text.
bool holdsQuantity(const std::string& text)
{
    for (size_t at = 0, end; at < text.size(); at = end + 1) {
        end = std::min(text.find(' ', at), text.size());
        const std::string next = text.substr(std::min(end + 1, text.size()));
        if (std::isdigit(static_cast<unsigned char>(text[at])) && !next.empty() &&
            (next[0] == '/' || base::findUnit(next.substr(0, next.find(' ')))))
            return true;
    }
    return false;
}

/// A material in a place; without a kind where it is none.
Composed materialLine(const std::string& text, const Document& document)
{
    const size_t in = findMarker(text, "in", 0);
    if (in == std::string::npos)
        return {};
    const std::string name = trimmed(text.substr(0, in)), behind = trimmed(text.substr(in + 2));
    const Line* shape = document.findNamed(name);
    if (shape && isShape(shape->kind) && !isKnownMaterial(name) && isKnownMaterial(behind))
        return {false, "material", {}, "write " + behind + " in " + name};
    // Quantities and joining words are in no material's name but a library's.
    if (!isKnownMaterial(name) &&
        (name.empty() || holdsQuantity(name) || findMarker(name, "from", 0) != std::string::npos ||
         std::isdigit(static_cast<unsigned char>(behind.empty() ? '0' : behind[0]))))
        return {};
    return readFields(*findKind("material"), text, document);
}

/** Each but once, no more than fit. */
std::vector<Completion> shortened(std::vector<Completion> list)
{
    std::vector<Completion> unique;
    for (Completion& c : list)
        if (std::none_of(unique.begin(), unique.end(),
                         [&](const Completion& u) { return u.text == c.text; }))
            unique.push_back(std::move(c));
    constexpr size_t most = 12;
    if (unique.size() > most)
        unique.resize(most);
    return unique;
}

}  // namespace

Composed compose(const std::string& typed, const Document& document)
{
    const std::string text = inSheetWords(trimmed(typed));
    if (text.empty())
        return {false, {}, {}, "type a line, such as gap = 120 um"};
    // name = value
    size_t equals = text.find('=');
    // "gap: 2 mm"; a colon in other texts is none of ours.
    if (const size_t colon = text.find(':'); equals == std::string::npos &&
                                             colon != std::string::npos &&
                                             base::Expression(text.substr(colon + 1))
                                                 .evaluate(Model(document).parameters().scope())
                                                 .ok())
        equals = colon;
    if (equals != std::string::npos && isIdentifier(trimmed(text.substr(0, equals))))
        return {true,
                "parameter",
                {{"name", trimmed(text.substr(0, equals))},
                 {"value", trimmed(text.substr(equals + 1))}},
                {}};
    const std::string low = lower(text);
    // "coil bar …" may be a coil called bar, or a bar called coil: the kind with the longest words
    // counts of those that the whole line can be read as.
    struct Candidate
    {
        const Kind* kind;
        std::string rest, name;
    };
    std::vector<Candidate> candidates;
    auto add = [&](const Kind& k, const std::string& words, std::string rest, std::string name) {
        // "disc core radius …" for "core disc radius …"
        if (const std::string next = rest.substr(0, rest.find(' '));
            k.nameFirst && name.empty() && next.size() < rest.size() &&
            isNewName(next, words, k, document)) {
            name = next;
            rest = trimmed(rest.substr(next.size()));
        }
        candidates.push_back({&k, std::move(rest), std::move(name)});
    };
    for (const Kind& k : kinds()) {
        if (k.words.empty())
            continue;
        for (const std::string& words : {k.words, k.key}) {
            const std::string w = lower(words);
            if (startsWith(low, w) && (low.size() == w.size() ||
                                       std::isspace(static_cast<unsigned char>(low[w.size()])))) {
                add(k, w, trimmed(text.substr(w.size())), {});
                break;
            }
            // "comb rectangle …"
            const size_t space = low.find(' ');
            if (k.nameFirst && space != std::string::npos && startsWith(low.substr(space + 1), w) &&
                isIdentifier(text.substr(0, space))) {
                add(k, w, trimmed(text.substr(space + 1 + w.size())), text.substr(0, space));
                break;
            }
        }
    }
    std::stable_sort(candidates.begin(), candidates.end(),
                     [](const Candidate& a, const Candidate& b) {
                         return a.kind->words.size() > b.kind->words.size();
                     });
    std::optional<Composed> first;
    for (const Candidate& candidate : candidates) {
        Composed c = readFields(*candidate.kind, candidate.rest, document);
        if (!candidate.name.empty())
            c.values["name"] = candidate.name;
        if (c.ok && hasReadableNumbers(*candidate.kind, c))
            return c;
        if (!first || (c.ok && !first->ok))
            first = std::move(c);
    }
    if (first)
        return *first;
    if (const size_t in = findMarker(text, "from", 0);
        in != std::string::npos && document.findNamed(trimmed(text.substr(0, in))) &&
        document.findNamed(trimmed(text.substr(0, in)))->kind == "parameter")
        return readFields(*findKind("sweep"), text, document);
    if (const Composed c = materialLine(text, document); !c.kind.empty())
        return c;
    const std::string example = likelyExample(low);
    return {false,
            {},
            {},
            example.empty()
                ? "this is not understood; begin with a word such as rectangle, electrode, "
                  "capacitance, or write name = value"
                : "this is not understood; did you mean a line such as `" + example + "`?"};
}

std::vector<Completion> completions(const std::string& typed, const Document& document)
{
    std::vector<Completion> list;
    const std::string low = lower(typed);
    auto offer = [&](const std::string& text, const std::string& help) {
        if (startsWith(lower(text), low) && lower(text) != low)
            list.push_back({text, help});
    };
    for (const Kind& k : kinds()) {
        if (k.key == "aim" || k.key == "space")
            continue;
        if (!k.words.empty() &&
            (typed.empty() || startsWith(lower(k.words), low) || startsWith(low, lower(k.words))))
            offer(k.nameFirst ? k.words : k.example, k.help);
        if (typed.empty() || startsWith(lower(k.example), low))
            offer(k.example, k.help);
    }
    // Names behind the last word: places, electrodes, materials, parameters.
    const size_t space = typed.rfind(' ');
    if (space != std::string::npos) {
        const std::string head = typed.substr(0, space + 1);
        for (const Line& l : document.lines)
            if (!l.name().empty())
                offer(head + l.name(), l.kind);
    }
    for (const Material& m : materials())
        offer(m.name + " in ",
              m.conductor ? "conductor" : "ε " + base::formatNumber(m.eps, 5) + ", " + m.source);
    for (const TopicMaterial& m : topicMaterials())
        offer(m.name + " in ", m.help);
    return shortened(std::move(list));
}

void rename(Document& document, const std::string& from, const std::string& to)
{
    auto isWord = [](char c) {
        return std::isalnum(static_cast<unsigned char>(c)) || c == '_' ||
               static_cast<unsigned char>(c) >= 0x80;
    };
    for (Line& l : document.lines) {
        const Kind* kind = findKind(l.kind);
        for (auto& [key, text] : l.values) {
            const Slot* f = kind ? kind->slot(key) : nullptr;
            if (!f || f->type == SlotType::text || f->type == SlotType::name ||
                f->type == SlotType::choice || f->type == SlotType::file)
                continue;
            for (size_t at = text.find(from); at != std::string::npos; at = text.find(from, at)) {
                const size_t end = at + from.size();
                // Behind a dot stands a side, behind a number a unit: neither is a name.
                const bool whole = (at == 0 || (!isWord(text[at - 1]) && text[at - 1] != '.')) &&
                                   (end >= text.size() || !isWord(text[end]));
                if (whole)
                    text.replace(at, from.size(), to);
                at += whole ? to.size() : 1;
            }
        }
    }
}

}  // namespace yh::sheet
