// Rules for places: which regions or edges a line of the sheet speaks of. Rules are words, so
// they survive a change of parameters; what they pick is found in `shape` each time anew.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace yh::sheet {

/// One picking step.
///
///   comb            the regions (or thin line) made by the line `comb`, all copies
///   comb odd        copies 1, 3, 5, …        comb even: copies 2, 4, …
///   comb 3          copy 3
///   base.top        named side of a shape: top, bottom, left, right, inner, outer, start, end,
///                   or side 1, 2, … in the order of its outline
///   A & B, A ∩ B    edges between two places
///   outer of A      sides of A that border on nothing; also `outer faces of A`
///   edges of A      all sides of A; also `faces of A`
///   faces facing z of A   flat sides of A whose outward normal points along z; also -z, x, …
///   on line x = 0   sides on a straight line x = … or y = … (r = …, z = …); `on plane` in solids
///   nearest to x, y the edge nearest to a point
///   all             every region
struct PlaceAtom
{
    enum class Kind { name, side, interface, outerOf, edgesOf, facing, onLine, nearest, all };
    enum class Members { all, odd, even, one };
    Kind kind = Kind::name;
    std::string name;
    Members members = Members::all;
    int member = 0;
    std::string side;
    std::vector<PlaceAtom> parts;  ///< the two sides of an interface, or what outerOf, edgesOf take
    char axis = 'x';               ///< onLine, facing: x, y or z (round an axis x is r)
    bool against = false;          ///< facing: along the negative axis
    std::string expression;        ///< onLine: the coordinate; nearest: "x, y"
    bool subtract = false;         ///< joined by "but not"
    bool operator==(const PlaceAtom&) const = default;
};

/// Atoms joined by `and`, or taken away by `but not`, from left to right.
struct PlaceRule
{
    std::vector<PlaceAtom> atoms;
    /// True where the rule can only give edges.
    [[nodiscard]] bool edgesOnly() const;
    /// Every name that it mentions.
    [[nodiscard]] std::vector<std::string> names() const;
};

struct PlaceParse
{
    std::optional<PlaceRule> rule;
    int offset = 0;
    std::string fault;
};
[[nodiscard]] PlaceParse parsePlace(std::string_view text);

/// True for a text that can be the name of a line: a letter, then letters, digits, underscores.
[[nodiscard]] bool isIdentifier(std::string_view text);

}  // namespace yh::sheet
