#include "sheet/place.h"

#include "base/expression.h"

#include <cctype>

namespace yh::sheet {

namespace {

struct Failure
{
    int offset;
    std::string text;
};

bool letter(char c)
{
    return std::isalpha(static_cast<unsigned char>(c)) || c == '_' ||
           static_cast<unsigned char>(c) >= 0x80;
}

class Parser
{
public:
    explicit Parser(std::string_view text) : m_text(text) {}

    PlaceRule parse()
    {
        PlaceRule rule;
        rule.atoms.push_back(pair());
        for (skip(); !atEnd(); skip()) {
            bool subtract = false;
            if (word("but"))
                subtract = expectWord("not");
            else if (!word("and") && !symbol(","))
                throw Failure{m_at,
                              "'" + std::string(m_text.substr(size_t(m_at))) +
                                  "' is not understood here; join places by `and` or `but not`"};
            PlaceAtom a = pair();
            a.subtract = subtract;
            rule.atoms.push_back(std::move(a));
        }
        return rule;
    }

private:
    [[nodiscard]] bool atEnd() const { return size_t(m_at) >= m_text.size(); }
    void skip()
    {
        while (!atEnd() && std::isspace(static_cast<unsigned char>(m_text[size_t(m_at)])))
            ++m_at;
    }
    bool symbol(std::string_view s)
    {
        skip();
        if (m_text.substr(size_t(m_at), s.size()) != s)
            return false;
        m_at += int(s.size());
        return true;
    }
    std::string peekWord()
    {
        skip();
        size_t e = size_t(m_at);
        while (e < m_text.size() &&
               (letter(m_text[e]) || std::isdigit(static_cast<unsigned char>(m_text[e])))) {
            if (m_text.substr(e, 3) == "∩")
                break;
            ++e;
        }
        return std::string(m_text.substr(size_t(m_at), e - size_t(m_at)));
    }
    bool word(const std::string& w)
    {
        if (peekWord() != w)
            return false;
        m_at += int(w.size());
        return true;
    }
    bool expectWord(const std::string& w)
    {
        if (!word(w))
            throw Failure{m_at, "the word '" + w + "' is expected here"};
        return true;
    }
    /// The text up to the next `and` or `but not`.
    std::string restOfAtom()
    {
        skip();
        size_t e = m_text.size();
        for (const char* stop : {" and ", " but not "})
            e = std::min(e, m_text.find(stop, size_t(m_at)));
        std::string s(m_text.substr(size_t(m_at), e - size_t(m_at)));
        m_at = int(e);
        if (s.empty())
            throw Failure{m_at, "a coordinate is expected here"};
        return s;
    }
    PlaceAtom pair()
    {
        PlaceAtom a = single();
        if (!symbol("&") && !symbol("∩"))
            return a;
        PlaceAtom both;
        both.kind = PlaceAtom::Kind::interface;
        both.parts = {std::move(a), single()};
        return both;
    }
    PlaceAtom onLine()
    {
        PlaceAtom a;
        if (!word("plane"))
            expectWord("line");
        a.kind = PlaceAtom::Kind::onLine;
        const std::string axis = peekWord();
        if (axis != "x" && axis != "y" && axis != "r" && axis != "z")
            throw Failure{m_at, "`on line` is followed by x = … or y = … (axisymmetric: r, z)"};
        word(axis);
        a.axis = axis == "r" ? 'x' : axis[0];
        if (!symbol("="))
            throw Failure{m_at, "an = is expected here"};
        a.expression = restOfAtom();
        return a;
    }

    void side(PlaceAtom& a)
    {
        a.kind = PlaceAtom::Kind::side;
        a.side = peekWord();
        if (a.side.empty())
            throw Failure{m_at,
                          "the name of a side is expected behind the dot, such as top or left"};
        word(a.side);
    }

    /// `outer of`, `edges of` and `faces facing`; nothing where it was the name of a shape.
    std::optional<PlaceAtom> sidesOf(const std::string& first)
    {
        PlaceAtom a;
        const int at = m_at;
        word(first);
        if (first == "outer")
            static_cast<void>(word("faces"));
        else if (word("facing"))
            return facing();
        if (!word("of")) {
            m_at = at;
            return {};
        }
        a.kind = first == "outer" ? PlaceAtom::Kind::outerOf : PlaceAtom::Kind::edgesOf;
        a.parts = {single()};
        return a;
    }

    PlaceAtom single()
    {
        PlaceAtom a;
        const std::string first = peekWord();
        if (first == "outer" || first == "edges" || first == "faces")
            if (auto sides = sidesOf(first))
                return *sides;
        if (word("on"))
            return onLine();
        if (word("nearest")) {
            expectWord("to");
            a.kind = PlaceAtom::Kind::nearest;
            a.expression = restOfAtom();
            return a;
        }
        if (word("all")) {
            a.kind = PlaceAtom::Kind::all;
            return a;
        }
        if (first.empty() || !letter(first[0]))
            throw Failure{m_at, "the name of a shape is expected here"};
        word(first);
        a.name = first;
        members(a);
        if (symbol("."))
            side(a);
        return a;
    }
    PlaceAtom facing()
    {
        PlaceAtom a;
        a.kind = PlaceAtom::Kind::facing;
        a.against = symbol("-");
        if (!a.against)
            static_cast<void>(symbol("+"));
        const std::string axis = peekWord();
        if (axis != "x" && axis != "y" && axis != "z" && axis != "r")
            throw Failure{m_at, "`facing` is followed by x, y or z, or -x, -y, -z"};
        word(axis);
        a.axis = axis == "r" ? 'x' : axis[0];
        expectWord("of");
        a.parts = {single()};
        return a;
    }
    void members(PlaceAtom& a)
    {
        const std::string next = peekWord();
        if (next == "odd" || next == "even") {
            word(next);
            a.members = next == "odd" ? PlaceAtom::Members::odd : PlaceAtom::Members::even;
        } else if (!next.empty() && std::isdigit(static_cast<unsigned char>(next[0]))) {
            for (const char c : next)
                if (!std::isdigit(static_cast<unsigned char>(c)) || next.size() > 6)
                    throw Failure{m_at, "'" + next + "' is no number of a copy"};
            a.members = PlaceAtom::Members::one;
            a.member = std::stoi(next);
            word(next);
        }
    }

    std::string_view m_text;
    int m_at = 0;
};

void collect(const PlaceAtom& a, std::vector<std::string>& names)
{
    if (!a.name.empty())
        names.push_back(a.name);
    for (const PlaceAtom& p : a.parts)
        collect(p, names);
}

}  // namespace

bool PlaceRule::edgesOnly() const
{
    for (const PlaceAtom& a : atoms)
        if (a.kind == PlaceAtom::Kind::name || a.kind == PlaceAtom::Kind::all)
            return false;
    return true;
}

std::vector<std::string> PlaceRule::names() const
{
    std::vector<std::string> list;
    for (const PlaceAtom& a : atoms)
        collect(a, list);
    return list;
}

PlaceParse parsePlace(std::string_view text)
{
    try {
        return {Parser(text).parse(), 0, {}};
    } catch (const Failure& f) {
        return {std::nullopt, f.offset, f.text};
    }
}

bool isIdentifier(std::string_view text)
{
    if (text.empty() || !letter(text[0]))
        return false;
    for (const char c : text)
        if (!letter(c) && !std::isdigit(static_cast<unsigned char>(c)))
            return false;
    return text != "all" && text != "on" && text != "nearest" && text != "and" && text != "but";
}

}  // namespace yh::sheet
