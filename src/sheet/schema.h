// What lines a sheet can hold: the one description from which the file, the sentences on the
// screen, the compose line and the checks of completeness are all made. A field of physics adds its
// own kinds by its topic (topic.h).
#pragma once

#include "base/quantity.h"

#include <string>
#include <vector>

namespace yh::sheet {

enum class SlotType {
    name,       ///< an identifier, unique in the sheet
    text,       ///< free text
    quantity,   ///< an expression with a dimension
    count,      ///< an expression that gives a whole number >= 1
    point,      ///< two lengths "x, y" (axisymmetric: "r, z")
    direction,  ///< an axis such as "-z", or components "1, 0, 2" of any length
    points,     ///< corners "x, y; x, y; …", also "arc via x, y to x, y"
    place,      ///< a rule for regions or edges, see place.h
    choice,     ///< one of `choices`
    reference,  ///< name of another line of kind `refersTo`
    function,   ///< an expression of position x, y (axisymmetric: r, z)
    file,       ///< path of a file, relative to the sheet
};

enum class Range { any, positive, notNegative };

struct Slot
{
    std::string key;
    SlotType type = SlotType::text;
    std::string marker;  ///< words in front of the chip in the sentence, also when typed
    base::Dimension dimension;
    bool required = false;
    std::string fallback;  ///< text taken when nothing is written
    Range range = Range::any;
    std::vector<std::string> choices;
    std::string refersTo;
    std::string suffix;  ///< words behind the chip
    std::string help;
    bool always = false;    ///< shown in the sentence even when nothing is written
    std::string insteadOf;  ///< key of a slot of which only one may be stated
    /// Changes its sign behind an odd mirror plane. A direction is that of an axial vector: behind
    /// an even plane its part along the plane changes its sign, behind an odd one that across.
    bool turnedOver = false;
    bool opposite = false;       ///< a place where what is turned over has the other sign
    std::string goesOn;          ///< choice by which the field goes on into open space
    bool ofTemperature = false;  ///< a function that may also depend on T
    bool ofFrequency = false;    ///< and, where there is one, on the frequency f
    std::vector<std::string> alsoRefersTo;  ///< further kinds that a reference may name
    double most = 1e6;                      ///< of a count
};

/// Points of a sweep, or of two together.
inline constexpr double mostSteps = 1e4;

struct Document;

struct Section
{
    std::string key, title, add;  ///< `add`: word on the + line
};

struct Kind
{
    std::string key;
    std::string section;
    std::string words;  ///< how the line is called in its sentence and in the compose line
    std::vector<Slot> entries;
    std::string example;
    std::string help;
    bool nameFirst = false;  ///< "comb rectangle …" instead of "electrode A …"
    bool single = false;     ///< at most one such line in a sheet
    [[nodiscard]] const Slot* slot(const std::string& slotKey) const;
};

[[nodiscard]] const std::vector<Section>& sections();
/// Whether a section belongs on the page of a sheet: those of other topics do not.
[[nodiscard]] bool isOffered(const std::string& section, const Document& document);
[[nodiscard]] const std::vector<Kind>& kinds();
[[nodiscard]] const Kind* findKind(const std::string& key);
/// Place of a kind's section in the order of work; unknown kinds come last.
[[nodiscard]] int sectionOrder(const std::string& kind);
/// True for the kinds of the shape section that make a region.
[[nodiscard]] bool isShape(const std::string& kind);

}  // namespace yh::sheet
