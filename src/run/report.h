// What a run gives back: figures with errors, checks, passes. Plain values, and their JSON form
// (docs/report-format.md).
#pragma once

#include "base/fault.h"
#include "base/quantity.h"
#include "physics/common/finding.h"
#include "physics/common/solution.h"

#include <memory>
#include <string>
#include <vector>

namespace yh::run {

using physics::Check;
using physics::Finding;

struct Pass
{
    int number = 0, triangles = 0, unknowns = 0;
    double seconds = 0;
    std::vector<double> value,
        error;  ///< one a finding that is a single number, in order; NaN else
};

struct MeshFacts
{
    int triangles = 0, vertices = 0, curved = 0, order = 0;
    double worstQuality = 0, meanQuality = 0;
};

/// One solved state of the sheet.
struct Report
{
    std::vector<Finding> findings;
    std::vector<Check> checks;
    std::vector<Pass> passes;
    MeshFacts mesh;
    double seconds = 0;
    double peakBytes = 0;
    std::string sheetHash;
    std::vector<std::pair<std::string, std::string>>
        parameters;                       ///< of a sweep's point: name, text
    std::vector<double> parameterValues;  ///< SI
    base::Faults faults;                  ///< why it failed, if it did
    std::string log;
    [[nodiscard]] bool allMet() const;
};

struct SweepPoint
{
    std::vector<double> parameters;  ///< SI, one a sweep line
    Report report;
};

/// Reads values of a solved field at places.
class Probe
{
public:
    virtual ~Probe() = default;
    struct Reading
    {
        std::string name, unit;
        std::vector<double> value;  ///< one or three components
    };
    /// Empty where the place carries no field.
    [[nodiscard]] virtual std::vector<Reading> at(double x, double y, double z) const = 0;
};

struct Result
{
    Report report;                   ///< the sheet as it stands
    std::vector<std::string> swept;  ///< names of swept parameters
    std::vector<std::string> sweptUnits;
    std::vector<bool> sweptDegrees;  ///< whether the sheet states them in degrees
    std::vector<SweepPoint> points;
    std::string fieldFile, linesFile;
    std::vector<std::string> files;      ///< all that the run wrote, relative to its folder
    std::vector<physics::Axis> axes;     ///< of the fields in the file
    std::vector<int> lineIds;            ///< identities of the sheet's lines, in their order
    std::vector<double> sweptHere;       ///< values of the swept parameters in the sheet itself
    std::shared_ptr<const Probe> probe;  ///< of the sheet's own state; keeps its field alive
};

/// Exit status of yellowhorn-solve: 0 all asks met, 1 an ask is missed, 2 the sheet is wrong,
/// 3 the computation failed.
enum class Outcome { met = 0, missed = 1, sheetWrong = 2, failed = 3 };

[[nodiscard]] std::string toJson(const Result& result);
[[nodiscard]] std::string toJson(const base::Faults& faults);
[[nodiscard]] std::string toJson(const Pass& pass);
[[nodiscard]] std::string toJson(const std::vector<physics::Axis>& axes);
/// Reads what toJson wrote; nullopt-like empty findings and a fault where it is broken.
[[nodiscard]] Result resultFromJson(const std::string& text, base::Faults& faults);

/// Largest resident memory of this process so far, bytes.
[[nodiscard]] double peakBytes();

}  // namespace yh::run
