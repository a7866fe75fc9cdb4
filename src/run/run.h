// From a sheet to its figures: meshing, passes of solving and refining, sweeps, storing.
#pragma once

#include "base/progress.h"
#include "run/report.h"
#include "sheet/model.h"

#include <functional>
#include <map>
#include <memory>
#include <string>

namespace yh::run {

struct Settings
{
    std::string folder = ".";                      ///< of the sheet, for files that it names
    std::string out;                               ///< result folder; empty: nothing is stored
    std::map<std::string, std::string> overrides;  ///< parameter texts
    /// For a point of a sweep: by how much the first pass of the sheet's own state understated the
    /// error of each finding, as later passes showed; empty: not known.
    std::vector<double> calibration;
    bool checks = true;   ///< points of a sweep do without
    std::string program;  ///< yellowhorn-solve, to share a sweep with; empty: alone
    std::function<void(const Pass&)> onPass;
    std::function<void(const std::string&)> onLog;
};

/// Faults of a sheet that only its geometry can show (places that pick nothing, short circuits,
/// regions without material), together with those of validate().
[[nodiscard]] base::Faults faultsOf(const sheet::Model& model, const std::string& folder);

/// Solves a sheet and all points of its sweep.
/// @param[out] outcome  how it ended
/// @returns what was reached; with faults where it ended early. Throws Cancelled only.
[[nodiscard]] Result solve(const sheet::Document& document, const Settings& settings,
                           base::Progress& progress, Outcome& outcome);

/// The first mesh of a sheet alone, stored as fields/mesh.vtu when there is a result folder.
/// @returns its facts, or the faults that stood in the way. Throws Cancelled only.
[[nodiscard]] Report meshOf(const sheet::Document& document, const Settings& settings,
                            base::Progress& progress);

}  // namespace yh::run
