// Expressions as in a textbook: `2*gap + 10 um`, `20*log10(abs(S21))`, with units on numbers,
// parameters that refer to each other in any order, and a full check of dimensions.
#pragma once

#include "base/fault.h"
#include "base/quantity.h"

#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace yh::base {

/// Looks a name up; nullopt: not known here.
using Scope = std::function<std::optional<Quantity>(const std::string& name)>;

/// What went wrong in an expression, and at which character.
struct ExpressionFault
{
    int offset = 0;
    std::string text;
};

/// A value, or the reason why there is none.
struct Evaluation
{
    std::optional<Quantity> value;
    ExpressionFault fault;
    [[nodiscard]] bool ok() const { return value.has_value(); }
};

/// A parsed expression; cheap to copy, evaluated any number of times.
///
/// Grammar: sums, products, powers (`^`, right to left), unary minus, calls, brackets. A unit
/// directly behind a number belongs to that number (`1/2 mm` is 1/(2 mm)); units join by `/` and
/// `*` as usual (`3 kV/mm`). A bare name is a parameter, else a constant, else a unit.
class Expression
{
public:
    struct Node;

    Expression() = default;
    /// Parses; a fault is kept and handed out by every evaluation.
    explicit Expression(std::string_view text);

    [[nodiscard]] bool parsed() const { return m_root != nullptr; }
    [[nodiscard]] const ExpressionFault& fault() const { return m_fault; }
    [[nodiscard]] const std::string& text() const { return m_text; }
    /// Names that are neither functions nor directly a number's unit, each once.
    [[nodiscard]] std::vector<std::string> names() const;
    /// Evaluates with parameters from `scope`; constants and units are known.
    [[nodiscard]] Evaluation evaluate(const Scope& scope = {}) const;

private:
    std::string m_text;
    std::shared_ptr<const Node> m_root;
    ExpressionFault m_fault;
};

/// Physical constants (CODATA 2018) and pi, j; nullopt for other names.
/// Source: Tiesinga, Mohr, Newell, Taylor, Rev. Mod. Phys. 93 (2021) 025010 (from memory).
[[nodiscard]] std::optional<Quantity> constant(const std::string& name);

/// Evaluates and demands a dimension. A plain zero has every dimension.
[[nodiscard]] Evaluation evaluateAs(const Expression& e, const Dimension& wanted,
                                    const Scope& scope = {});

/// Dimension of a unit as siUnit() writes it; none where it is not understood.
[[nodiscard]] Dimension dimensionOf(const std::string& unit);

/// Parameters that refer to each other in any order.
struct Parameter
{
    std::string name;
    std::string text;
};

/// Values of all parameters. A parameter that fails has no entry but a fault in `faults` under
/// its index; those in a cycle name the cycle.
struct ParameterValues
{
    std::map<std::string, Quantity> values;
    std::map<int, ExpressionFault> faults;
    [[nodiscard]] Scope scope() const;
};
[[nodiscard]] ParameterValues resolveParameters(const std::vector<Parameter>& parameters);

/// Cuts at a separator that stands outside brackets; parts are trimmed.
struct TextPart
{
    std::string text;
    int offset = 0;  ///< where the part starts in the whole text
};
[[nodiscard]] std::vector<TextPart> splitOutsideBrackets(std::string_view text, char separator);

}  // namespace yh::base
