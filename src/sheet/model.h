// The sheet with its formulas worked out, in SI units: what `shape`, `physics` and `run` read.
#pragma once

#include "base/expression.h"
#include "base/point.h"
#include "sheet/document.h"
#include "sheet/place.h"

#include <array>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace yh::sheet {

using base::Point;

/// One step of an outline: on to `to`, straight, or as the arc through `via`.
struct PathStep
{
    Point to;
    std::optional<Point> via;
};

enum class Space { plane, axisymmetric, solid };

/// Works the formulas of a document out. Cheap to make; keeps a copy of the document.
class Model
{
public:
    /// @param overrides  parameter texts that take the place of those in the sheet (sweeps, --set)
    explicit Model(Document document, const std::map<std::string, std::string>& overrides = {});

    [[nodiscard]] const Document& document() const { return m_document; }
    /// The same sheet without some of its lines.
    [[nodiscard]] Model without(const std::function<bool(const Line&)>& drop) const;
    [[nodiscard]] const base::ParameterValues& parameters() const { return m_parameters; }
    [[nodiscard]] Space space() const;
    /// Axis (0, 1, 2 in the coordinates of the shape) of the plane that the mesh is mirrored about;
    /// -1: it is not.
    /// @throws Error where the space has no such plane
    [[nodiscard]] int meshMirror() const;
    /// Coordinate of a plane such as "z = 0" in the drawing: 0, 1 or 2. Round an axis z is the
    /// second one.
    [[nodiscard]] int axisOf(const std::string& plane) const;
    /// How many wedges of a line `wedge` make up the whole; 0 where its angle does not divide it.
    [[nodiscard]] int wedges(const Line& line) const;
    /// The open space that waves go out into: how far from the device its absorbing shell begins,
    /// and how thick that is, m.
    /// Of the band of a wave problem or of the guide whose modes are looked for, Hz.
    [[nodiscard]] std::optional<double> lowestFrequency() const;
    struct OpenSpace
    {
        double distance = 0, thickness = 0;
    };
    /// nullopt: the device is closed, or the sheet does not say yet at what frequencies it works.
    [[nodiscard]] std::optional<OpenSpace> openSpace() const;
    /// The line that lets a static field go on into open space, mapped into a shell; null: none.
    [[nodiscard]] const Line* mappedSpace() const;
    /// Depth of a plane device, m; 1 for an axisymmetric one.
    [[nodiscard]] double depth() const;

    /// A quantity of a line in SI units, by its text or the schema's fallback.
    /// @throws Error with the place where it cannot be worked out; validate() finds these first
    [[nodiscard]] double number(const Line& line, const std::string& key) const;
    [[nodiscard]] std::optional<double> optionalNumber(const Line& line,
                                                       const std::string& key) const;
    [[nodiscard]] int count(const Line& line, const std::string& key) const;
    [[nodiscard]] Point point(const Line& line, const std::string& key) const;
    /// A direction, of length 1.
    [[nodiscard]] Point direction(const Line& line, const std::string& key) const;
    [[nodiscard]] std::vector<PathStep> path(const Line& line, const std::string& key) const;
    [[nodiscard]] std::string choice(const Line& line, const std::string& key) const;
    [[nodiscard]] PlaceRule place(const Line& line, const std::string& key) const;

    /// The value of a field for show ("→ 180 µm"); nullopt where there is none.
    [[nodiscard]] std::optional<base::Quantity> shown(const Line& line,
                                                      const std::string& key) const;
    /// Whether a field is written in degrees, by itself or by the parameters that it names.
    [[nodiscard]] bool isInDegrees(const Line& line, const std::string& key) const;
    /// Scope of parameters with the position set, for functions of x, y (r, z).
    [[nodiscard]] base::Scope scopeAt(Point p) const;
    /// The same with the temperature T in K.
    [[nodiscard]] base::Scope scopeAt(Point p, double temperature) const;
    /// The same for what is alike everywhere, with the frequency f, Hz.
    [[nodiscard]] base::Scope scopeOf(double frequency, double temperature) const;

    /// Every fault of the field's own text, in the order of the schema.
    [[nodiscard]] base::Faults slotFaults(const Line& line) const;

private:
    [[nodiscard]] std::string text(const Line& line, const std::string& key) const;
    Document m_document;
    base::ParameterValues m_parameters;
    base::Scope m_scope;
};

/// All that is missing or wrong in a sheet, each at its place.
[[nodiscard]] base::Faults validate(const Model& model);
/// Fields of lines that their kind does not have: kept, but not used. Each is worth a warning.
[[nodiscard]] base::Faults unknownWords(const Document& document);

}  // namespace yh::sheet
