#include "base/expression.h"

#include "base/constants.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <cstdlib>
#include <set>

namespace yh::base {

namespace {
using Complex = std::complex<double>;
}  // namespace

struct Expression::Node
{
    enum class Kind { number, name, unit, negate, add, subtract, multiply, divide, power, call };
    Kind kind = Kind::number;
    int offset = 0;
    Quantity number;
    std::string name;
    Unit unit;
    std::vector<std::shared_ptr<const Node>> args;
};

namespace {

using Node = Expression::Node;
using NodePtr = std::shared_ptr<const Node>;

struct Failure
{
    ExpressionFault fault;
};

/// Formulas are trees that are walked by recursion: what stack allows, by far more than anyone
/// writes.
constexpr size_t longestFormula = 10000;
constexpr int deepestNesting = 200;
constexpr size_t longestChain = 1000;  ///< of parameters that refer to one another

[[noreturn]] void fail(int offset, std::string text)
{
    throw Failure{{offset, std::move(text)}};
}

std::string show(const Quantity& q)
{
    return q.dimension.isNone() ? formatNumber(q.value.real(), 6)
                                : format(q.value.real(), q.dimension, 6);
}

/// Bytes of UTF-8 letters (µ, Ω, °) count as letters of a name.
bool isNameStart(char c)
{
    return std::isalpha(static_cast<unsigned char>(c)) || c == '_' ||
           static_cast<unsigned char>(c) >= 0x80;
}
bool isNamePart(char c)
{
    return isNameStart(c) || std::isdigit(static_cast<unsigned char>(c));
}

class Parser
{
public:
    explicit Parser(std::string_view text) : m_text(text) {}

    NodePtr parse()
    {
        if (m_text.size() > longestFormula)
            fail(0, "this formula has more than " + std::to_string(longestFormula) +
                        " characters; give parts of it names as parameters");
        skip();
        if (atEnd())
            fail(0, "nothing is written here; a number with its unit, or a formula, is expected");
        NodePtr n = sum();
        skip();
        if (!atEnd())
            fail(m_at, "'" + character() +
                           "' is not expected here; an operator such as + - * / is missing or a "
                           "bracket is not open");
        return n;
    }

private:
    [[nodiscard]] bool atEnd() const { return m_at >= int(m_text.size()); }
    [[nodiscard]] char current() const { return atEnd() ? '\0' : m_text[size_t(m_at)]; }
    /// The whole character here, all its bytes.
    [[nodiscard]] std::string character() const
    {
        size_t n = 1;
        while (size_t(m_at) + n < m_text.size() &&
               (static_cast<unsigned char>(m_text[size_t(m_at) + n]) & 0xC0) == 0x80)
            ++n;
        return std::string(m_text.substr(size_t(m_at), n));
    }
    void skip()
    {
        while (!atEnd() && std::isspace(static_cast<unsigned char>(current())))
            ++m_at;
    }
    static NodePtr make(Node::Kind kind, int offset, std::vector<NodePtr> args)
    {
        auto n = std::make_shared<Node>();
        n->kind = kind;
        n->offset = offset;
        n->args = std::move(args);
        return n;
    }

    NodePtr sum()
    {
        NodePtr left = product();
        for (;;) {
            skip();
            const char c = current();
            if (c != '+' && c != '-')
                return left;
            const int at = m_at++;
            left = make(c == '+' ? Node::Kind::add : Node::Kind::subtract, at, {left, product()});
        }
    }
    NodePtr product()
    {
        NodePtr left = signedPower();
        for (;;) {
            skip();
            const char c = current();
            const bool dot = atProductSign();
            if (c != '*' && c != '/' && !dot)
                return left;
            const int at = m_at;
            m_at += dot ? 2 : 1;
            left = make(c == '/' ? Node::Kind::divide : Node::Kind::multiply, at,
                        {left, signedPower()});
        }
    }
    NodePtr signedPower()
    {
        // Every bracket, sign and exponent inside another comes through here, and each takes stack.
        if (++m_depth > deepestNesting)
            fail(m_at, "brackets and signs stand in each other more than " +
                           std::to_string(deepestNesting) + " deep");
        NodePtr n = signedPowerInside();
        --m_depth;
        return n;
    }
    NodePtr signedPowerInside()
    {
        skip();
        if (current() == '-' || current() == '+') {
            const bool minus = current() == '-';
            const int at = m_at++;
            NodePtr n = signedPower();
            return minus ? make(Node::Kind::negate, at, {n}) : n;
        }
        return powerOf(primary());
    }
    NodePtr powerOf(NodePtr base)
    {
        skip();
        if (current() != '^')
            return base;
        const int at = m_at++;
        return make(Node::Kind::power, at, {std::move(base), signedPower()});
    }
    NodePtr primary()
    {
        skip();
        const char c = current();
        if (std::isdigit(static_cast<unsigned char>(c)) || c == '.')
            return number();
        if (c == '(') {
            const int at = m_at++;
            NodePtr n = sum();
            skip();
            if (current() != ')')
                fail(at, "this bracket is not closed");
            ++m_at;
            return n;
        }
        if (c == '%' || isNameStart(c))
            return name();
        if (atEnd())
            fail(int(m_text.size()), "the formula ends where a number or a name is expected");
        fail(m_at, "'" + character() + "' is not expected here; a number or a name is");
    }
    NodePtr number()
    {
        const std::string rest(m_text.substr(size_t(m_at)));
        // A hexadecimal prefix, "inf" and "nan" are not numbers in a sheet: only digits get here.
        size_t n = 0;
        while (n < rest.size() &&
               (std::isdigit(static_cast<unsigned char>(rest[n])) || rest[n] == '.'))
            ++n;
        if (n < rest.size() && (rest[n] == 'e' || rest[n] == 'E')) {
            size_t k = n + 1;
            if (k < rest.size() && (rest[k] == '+' || rest[k] == '-'))
                ++k;
            if (k < rest.size() && std::isdigit(static_cast<unsigned char>(rest[k]))) {
                while (k < rest.size() && std::isdigit(static_cast<unsigned char>(rest[k])))
                    ++k;
                n = k;
            }
        }
        const std::string digits = rest.substr(0, n);
        char* end = nullptr;
        const double v = std::strtod(digits.c_str(), &end);
        if (end != digits.c_str() + digits.size() || !std::isfinite(v))
            fail(m_at, "'" + digits + "' is not a number");
        auto node = std::make_shared<Node>();
        node->offset = m_at;
        node->number = Quantity{v, {}};
        m_at += int(n);
        return unitBehind(node);
    }
    /// `120 um`: the unit behind the number is bound to it, with its power (`3 mm^2`).
    NodePtr unitBehind(NodePtr number)
    {
        const int before = m_at;
        skip();
        if (atProductSign() || !(current() == '%' || isNameStart(current()))) {
            m_at = before;
            return number;
        }
        const int at = m_at;
        const std::string symbol = readName();
        skip();
        const std::optional<Unit> u = findUnit(symbol);
        if (!u)
            fail(at, "'" + symbol +
                         "' is no unit; write an operator in front of it if it is a parameter");
        auto unit = std::make_shared<Node>();
        unit->kind = Node::Kind::unit;
        unit->offset = at;
        unit->unit = *u;
        if (u->kind != Unit::Kind::linear || u->offset != 0) {
            unit->args = {std::move(number)};
            return unit;
        }
        unit->number = Quantity{u->factor, u->dimension};
        const int start = number->offset;
        return make(Node::Kind::multiply, start, {std::move(number), powerOf(unit)});
    }
    [[nodiscard]] bool atProductSign() const
    {
        const std::string_view two = m_text.substr(size_t(m_at), 2);
        return two == "·" || two == "×";
    }
    std::string readName()
    {
        const int start = m_at;
        if (current() == '%') {
            ++m_at;
            return "%";
        }
        while (!atEnd() && isNamePart(current())) {
            // A product sign written as a letter of UTF-8 ends the name.
            if (atProductSign())
                break;
            ++m_at;
        }
        return std::string(m_text.substr(size_t(start), size_t(m_at - start)));
    }
    NodePtr name()
    {
        auto n = std::make_shared<Node>();
        n->offset = m_at;
        n->name = readName();
        n->kind = Node::Kind::name;
        skip();
        if (current() == '(') {
            n->kind = Node::Kind::call;
            const int at = m_at++;
            skip();
            while (current() != ')') {
                n->args.push_back(sum());
                skip();
                if (current() == ',')
                    ++m_at;
                else if (current() != ')')
                    fail(at, "this bracket is not closed");
            }
            ++m_at;
        }
        return n;
    }

    std::string_view m_text;
    int m_at = 0;
    int m_depth = 0;
};

Quantity evaluate(const Node& n, const Scope& scope);

const Quantity& plain(const Quantity& q, int offset, const std::string& what)
{
    if (!q.dimension.isNone())
        fail(offset,
             what + " takes a plain number, but " + show(q) + " is a " + describe(q.dimension));
    return q;
}

Quantity call(const Node& n, const Scope& scope)
{
    std::vector<Quantity> a;
    for (const auto& x : n.args)
        a.push_back(evaluate(*x, scope));
    auto need = [&](size_t count) {
        if (a.size() != count)
            fail(n.offset, n.name + " takes " + std::to_string(count) +
                               (count == 1 ? " value" : " values") + ", but " +
                               std::to_string(a.size()) + " stand in the brackets");
    };
    auto same = [&] {
        for (size_t i = 1; i < a.size(); ++i)
            if (a[i].dimension != a[0].dimension && a[i].value != 0.0)
                fail(n.args[i]->offset, n.name + " compares a " + describe(a[0].dimension) +
                                            " with a " + describe(a[i].dimension));
    };
    using F = Complex (*)(Complex);
    static const std::map<std::string, F> simple = {
        {"exp", [](Complex x) { return std::exp(x); }},
        {"ln", [](Complex x) { return std::log(x); }},
        {"log10", [](Complex x) { return std::log(x) / std::log(10.0); }},
        {"log2", [](Complex x) { return std::log(x) / std::log(2.0); }},
        {"sin", [](Complex x) { return std::sin(x); }},
        {"cos", [](Complex x) { return std::cos(x); }},
        {"tan", [](Complex x) { return std::tan(x); }},
        {"asin", [](Complex x) { return std::asin(x); }},
        {"acos", [](Complex x) { return std::acos(x); }},
        {"atan", [](Complex x) { return std::atan(x); }},
        {"sinh", [](Complex x) { return std::sinh(x); }},
        {"cosh", [](Complex x) { return std::cosh(x); }},
        {"tanh", [](Complex x) { return std::tanh(x); }},
        {"asinh", [](Complex x) { return std::asinh(x); }},
        {"acosh", [](Complex x) { return std::acosh(x); }},
        {"atanh", [](Complex x) { return std::atanh(x); }},
    };
    if (auto it = simple.find(n.name); it != simple.end()) {
        need(1);
        return {it->second(plain(a[0], n.args[0]->offset, n.name).value), {}};
    }
    if (n.name == "sqrt" || n.name == "cbrt") {
        need(1);
        const double e = n.name == "sqrt" ? 0.5 : 1.0 / 3.0;
        const auto d = power(a[0].dimension, e);
        if (!d)
            fail(n.offset,
                 "the " + n.name + " of a " + describe(a[0].dimension) + " has no dimension");
        return {n.name == "sqrt" ? std::sqrt(a[0].value) : std::pow(a[0].value, e), *d};
    }
    if (n.name == "abs" || n.name == "re" || n.name == "im" || n.name == "conj") {
        need(1);
        const Complex v = a[0].value;
        const Complex r = n.name == "abs"  ? Complex(std::abs(v))
                          : n.name == "re" ? Complex(v.real())
                          : n.name == "im" ? Complex(v.imag())
                                           : std::conj(v);
        return {r, a[0].dimension};
    }
    if (n.name == "arg") {
        need(1);
        return {std::arg(a[0].value), {}};
    }
    if (n.name == "sign" || n.name == "round" || n.name == "floor" || n.name == "ceil") {
        need(1);
        const double v =
            n.name == "sign" ? a[0].value.real() : plain(a[0], n.offset, n.name).value.real();
        if (n.name == "sign")
            return {v > 0 ? 1.0 : v < 0 ? -1.0 : 0.0, {}};
        return {n.name == "round"   ? std::round(v)
                : n.name == "floor" ? std::floor(v)
                                    : std::ceil(v),
                {}};
    }
    if (n.name == "atan2" || n.name == "hypot") {
        need(2);
        same();
        const double x = a[0].value.real(), y = a[1].value.real();
        return n.name == "atan2" ? Quantity{std::atan2(x, y), {}}
                                 : Quantity{std::hypot(x, y), a[0].dimension};
    }
    if (n.name == "min" || n.name == "max") {
        if (a.empty())
            fail(n.offset, n.name + " takes at least one value");
        same();
        const bool least = n.name == "min";
        return *std::min_element(a.begin(), a.end(), [least](const Quantity& p, const Quantity& q) {
            return least ? p.value.real() < q.value.real() : p.value.real() > q.value.real();
        });
    }
    fail(n.offset, "there is no function '" + n.name + "'");
}

Quantity evaluate(const Node& n, const Scope& scope)
{
    using K = Node::Kind;
    switch (n.kind) {
        case K::number:
            return n.number;
        case K::unit:
            return n.args.empty() ? n.number : n.unit.apply(evaluate(*n.args[0], scope).value);
        case K::name: {
            if (scope)
                if (auto q = scope(n.name))
                    return *q;
            if (auto q = constant(n.name))
                return *q;
            if (auto u = findUnit(n.name); u && u->kind == Unit::Kind::linear && u->offset == 0)
                return {u->factor, u->dimension};
            fail(n.offset, "'" + n.name + "' is not known; it is no parameter, constant or unit");
        }
        case K::negate: {
            Quantity q = evaluate(*n.args[0], scope);
            // From zero, so that a real number keeps +0 as its imaginary part and roots their
            // branch.
            q.value = Complex(0.0, 0.0) - q.value;
            return q;
        }
        case K::add:
        case K::subtract: {
            Quantity a = evaluate(*n.args[0], scope), b = evaluate(*n.args[1], scope);
            const bool aZero = a.value == 0.0 && a.dimension.isNone();
            const bool bZero = b.value == 0.0 && b.dimension.isNone();
            if (a.dimension != b.dimension && !aZero && !bZero)
                fail(n.offset, "a " + describe(a.dimension) + " and a " + describe(b.dimension) +
                                   " cannot be " + (n.kind == K::add ? "added" : "subtracted"));
            return {n.kind == K::add ? a.value + b.value : a.value - b.value,
                    aZero ? b.dimension : a.dimension};
        }
        case K::multiply: {
            const Quantity a = evaluate(*n.args[0], scope), b = evaluate(*n.args[1], scope);
            return {a.value * b.value, a.dimension * b.dimension};
        }
        case K::divide: {
            const Quantity a = evaluate(*n.args[0], scope), b = evaluate(*n.args[1], scope);
            if (b.value == 0.0)
                fail(n.offset, "division by zero");
            return {a.value / b.value, a.dimension / b.dimension};
        }
        case K::power: {
            const Quantity a = evaluate(*n.args[0], scope);
            const Quantity e = plain(evaluate(*n.args[1], scope), n.args[1]->offset, "an exponent");
            const double x = e.value.real();
            if (e.value.imag() == 0 && x == std::round(x) && std::abs(x) <= 16) {
                Complex r = 1.0;
                for (int i = 0; i < int(std::abs(x)); ++i)
                    r *= a.value;
                return {x < 0 ? 1.0 / r : r, *power(a.dimension, x)};
            }
            if (a.dimension.isNone())
                return {std::pow(a.value, e.value), {}};
            const auto d = power(a.dimension, x);
            if (!d || e.value.imag() != 0)
                fail(n.offset, "a " + describe(a.dimension) + " to the power " + show(e) +
                                   " has no dimension");
            return {std::pow(a.value, x), *d};
        }
        case K::call:
            return call(n, scope);
    }
    fail(n.offset, "this cannot be evaluated");
}

void collect(const Node& n, std::vector<std::string>& names)
{
    if (n.kind == Node::Kind::name && std::find(names.begin(), names.end(), n.name) == names.end())
        names.push_back(n.name);
    for (const auto& a : n.args)
        collect(*a, names);
}

}  // namespace

Expression::Expression(std::string_view text) : m_text(text)
{
    try {
        m_root = Parser(m_text).parse();
    } catch (const Failure& f) {
        m_fault = f.fault;
    }
}

std::vector<std::string> Expression::names() const
{
    std::vector<std::string> list;
    if (m_root)
        collect(*m_root, list);
    return list;
}

Evaluation Expression::evaluate(const Scope& scope) const
{
    if (!m_root)
        return {std::nullopt,
                m_fault.text.empty() ? ExpressionFault{0, "nothing is written here"} : m_fault};
    try {
        Quantity q = base::evaluate(*m_root, scope);
        if (!std::isfinite(q.value.real()) || !std::isfinite(q.value.imag()))
            return {std::nullopt, {0, "the result is not a finite number"}};
        return {q, {}};
    } catch (const Failure& f) {
        return {std::nullopt, f.fault};
    }
}

Dimension dimensionOf(const std::string& unit)
{
    if (unit.empty())
        return {};
    // Inverse units come with a one of their own.
    const auto e = Expression(unit[0] == '1' ? unit : "1 " + unit).evaluate();
    return e.ok() ? e.value->dimension : Dimension{};
}

Evaluation evaluateAs(const Expression& e, const Dimension& wanted, const Scope& scope)
{
    Evaluation r = e.evaluate(scope);
    if (!r.ok() || r.value->dimension == wanted)
        return r;
    if (r.value->value == 0.0 && r.value->dimension.isNone())
        return {Quantity{0.0, wanted}, {}};
    std::string text;
    if (r.value->dimension.isNone())
        text = show(*r.value) + " has no unit; a " + describe(wanted) +
               " is expected, for example " + show(*r.value) + " " +
               displayUnit(wanted == dim::length ? 1e-3 : 1.0, wanted).symbol;
    else if (wanted.isNone())
        text = show(*r.value) + " is a " + describe(r.value->dimension) +
               "; a plain number is expected";
    else
        text = show(*r.value) + " is a " + describe(r.value->dimension) + "; a " +
               describe(wanted) + " is expected";
    return {std::nullopt, {0, text}};
}

std::optional<Quantity> constant(const std::string& name)
{
    using dim::of;
    static const std::map<std::string, Quantity> table = [] {
        std::map<std::string, Quantity> t = {
            {"pi", {pi, {}}},
            {"j", {Complex(0, 1), {}}},
            {"c0", {c0, of(1, 0, -1)}},
            {"mu0", {mu0, of(1, 1, -2, -2)}},
            {"eps0", {eps0, of(-3, -1, 4, 2)}},
            {"Z0", {376.730313668, of(2, 1, -3, -2)}},
            {"qe", {1.602176634e-19, of(0, 0, 1, 1)}},
            {"me", {9.1093837015e-31, of(0, 1, 0)}},
            {"mp", {1.67262192369e-27, of(0, 1, 0)}},
            {"hP", {6.62607015e-34, of(2, 1, -1)}},
            {"kB", {1.380649e-23, of(2, 1, -2, 0, -1)}},
            {"sigmaSB", {5.670374419e-8, of(0, 1, -3, 0, -4)}},
            {"g0", {9.80665, of(1, 0, -2)}},
        };
        Quantity avogadro{6.02214076e23, {}};
        avogadro.dimension.twelfths[5] = -12;
        t["NA"] = avogadro;
        return t;
    }();
    auto it = table.find(name);
    return it == table.end() ? std::nullopt : std::optional(it->second);
}

Scope ParameterValues::scope() const
{
    // The scope keeps its own copy: it outlives this value in closures.
    return [map = values](const std::string& name) -> std::optional<Quantity> {
        auto it = map.find(name);
        return it == map.end() ? std::nullopt : std::optional(it->second);
    };
}

ParameterValues resolveParameters(const std::vector<Parameter>& parameters)
{
    ParameterValues result;
    std::map<std::string, int> index;
    std::vector<Expression> parsed;
    for (int i = 0; i < int(parameters.size()); ++i) {
        const auto [it, fresh] = index.emplace(parameters[size_t(i)].name, i);
        if (!fresh)
            result.faults[i] = {0, "the name '" + parameters[size_t(i)].name +
                                       "' is given twice; rename one of them"};
        parsed.emplace_back(parameters[size_t(i)].text);
    }
    enum class State { open, visiting, done };
    std::vector<State> state(parameters.size(), State::open);
    std::vector<int> path;
    std::function<void(int)> visit = [&](int i) {
        if (state[size_t(i)] == State::done)
            return;
        if (state[size_t(i)] == State::visiting) {
            std::string cycle;
            constexpr int named = 8;
            auto start = std::find(path.begin(), path.end(), i);
            for (auto it = start; it != path.end() && it - start < named; ++it)
                cycle += parameters[size_t(*it)].name + " → ";
            if (path.end() - start > named)
                cycle += "… → ";
            for (auto it = start; it != path.end(); ++it)
                result.faults[*it] = {0, "the parameters refer to each other in a circle: " +
                                             cycle + parameters[size_t(i)].name};
            return;
        }
        if (path.size() >= longestChain) {
            result.faults[i] = {0, "more than " + std::to_string(longestChain) +
                                       " parameters refer to one another in a row"};
            state[size_t(i)] = State::done;
            return;
        }
        state[size_t(i)] = State::visiting;
        path.push_back(i);
        for (const std::string& n : parsed[size_t(i)].names())
            if (auto it = index.find(n); it != index.end())
                visit(it->second);
        path.pop_back();
        state[size_t(i)] = State::done;
        if (result.faults.count(i))
            return;
        const Evaluation e =
            parsed[size_t(i)].evaluate([&](const std::string& n) -> std::optional<Quantity> {
                auto v = result.values.find(n);
                if (v != result.values.end())
                    return v->second;
                if (index.count(n))
                    fail(0, "the parameter '" + n + "' has no value yet");
                return std::nullopt;
            });
        if (e.ok())
            result.values[parameters[size_t(i)].name] = *e.value;
        else
            result.faults[i] = e.fault;
    };
    for (int i = 0; i < int(parameters.size()); ++i)
        visit(i);
    return result;
}

std::vector<TextPart> splitOutsideBrackets(std::string_view text, char separator)
{
    std::vector<TextPart> parts;
    int depth = 0;
    size_t start = 0;
    auto push = [&](size_t end) {
        size_t a = start, b = end;
        while (a < b && std::isspace(static_cast<unsigned char>(text[a])))
            ++a;
        while (b > a && std::isspace(static_cast<unsigned char>(text[b - 1])))
            --b;
        parts.push_back({std::string(text.substr(a, b - a)), int(a)});
    };
    for (size_t i = 0; i < text.size(); ++i) {
        if (text[i] == '(')
            ++depth;
        else if (text[i] == ')')
            --depth;
        else if (text[i] == separator && depth == 0) {
            push(i);
            start = i + 1;
        }
    }
    push(text.size());
    return parts;
}

}  // namespace yh::base
