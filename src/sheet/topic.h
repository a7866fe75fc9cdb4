// What a field says of itself to the sheet and to the window: its sections and lines, the
// properties of materials that it needs, cards of the opening page, what can be offered at a place,
// and which sheets it solves. A field's folder holds this in a file face.cpp; the build makes the
// list of all from the folders.
#pragma once

#include "base/fault.h"
#include "sheet/diagram.h"
#include "sheet/document.h"
#include "sheet/materials.h"
#include "sheet/schema.h"

#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace yh::sheet {

class Model;

/// A card of the opening page: a kind of figure, and the sheet to begin with.
struct Card
{
    std::string key, title, text;
    Document (*begin)() = nullptr;
};

/// A line that a click on a place offers.
struct Offer
{
    enum class At { sides, regions, both };
    std::string text;
    std::string kind;
    std::string slot;  ///< of the line, that takes the place
    At at = At::both;
    Values values;     ///< of its other slots
    std::string edit;  ///< slot to be typed at once; empty: none
    std::string name;  ///< to begin its name with; empty: its kind
};

/// A property of materials, with its place among all of them.
struct Property
{
    int order = 0;
    Slot slot;
};

/// A material that only one topic knows values of.
struct TopicMaterial
{
    std::string name, help;
    std::vector<Statement> statements;
};

struct Topic
{
    std::string key;
    int order = 0;  ///< among topics, as practitioners work; sections and lines follow it
    std::vector<Section> sections;
    /// Sections that a sheet shows while this topic solves it, its own and those of others.
    std::vector<std::string> shown;
    /// The same where it depends on the sheet; null: `shown` holds for all.
    std::vector<std::string> (*shownOn)(const Document& document) = nullptr;
    void (*addLines)(std::vector<Kind>& kinds) = nullptr;
    void (*addAsks)(std::vector<Kind>& kinds) = nullptr;
    std::vector<Property> properties;
    std::vector<TopicMaterial> materials;
    std::vector<Card> cards;
    std::vector<Offer> offers;
    /// Whether this topic solves a sheet; null: it only lends lines to others. Of those that do,
    /// the last in order counts.
    bool (*claims)(const Document& document) = nullptr;
    /// Faults of its own lines, on any sheet.
    void (*checkLines)(const Model& model, base::Faults& faults) = nullptr;
    /// What a sheet that it solves lacks, or must not hold.
    void (*checkSheet)(const Model& model, base::Faults& faults) = nullptr;
    /// How the parts of a sheet without a shape are joined; null: it has none.
    Diagram (*diagram)(const Document& document) = nullptr;
    bool hasShape = true;    ///< its sheets are about a shape; false: circuits and closed forms
    bool givesHeat = false;  ///< its losses may warm the device: a sheet may hold heat beside it
    /// What the planes of symmetry may be follows from the values of what drives.
    bool isParityOfDrives = true;
};

/// All topics in their order; made by the build (cmake/rooms.cmake).
[[nodiscard]] const std::vector<Topic>& topics();
/// The topic that solves a sheet.
[[nodiscard]] const Topic& topicOf(const Document& document);
/// Whether a sheet has a line of a section.
[[nodiscard]] bool usesSection(const Document& document, std::string_view section);
/// Materials with values that only topics know.
[[nodiscard]] std::vector<TopicMaterial> topicMaterials();
/// Names of all that can be filled in without stating a value.
[[nodiscard]] std::vector<std::string> materialNames();
/// A new sheet with just the lines that a card needs; empty for a key that is not known.
[[nodiscard]] Document newSheet(const std::string& card);

}  // namespace yh::sheet
