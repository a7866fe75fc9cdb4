// Results in a folder beside the sheet: run.json, fields/*.vtu, fields/lines.json, tables/*.csv.
#pragma once

#include "physics/electrostatic.h"
#include "run/report.h"
#include "sheet/model.h"

#include <string>
#include <vector>

namespace yh::run {

/// Makes the folder and its parts. @throws Error when it cannot
void makeFolders(const std::string& folder);
/// Writes a text file through a part file and a rename. @throws Error (disk full, not writable)
void writeText(const std::string& path, const std::string& text);

/// The driven field as linear cells for drawing and for other programs: V, E, D, energy density,
/// and the face of each cell. Second-order triangles are cut finer where there is room.
/// @throws Error when the file cannot be written
void writeField(const physics::ElectrostaticSolver& solver, const shape::Partition& partition,
                const std::string& path);

/// Field lines seeded so that each carries the same charge, from conductors where the field
/// leaves them; as JSON lists of points, m.
[[nodiscard]] std::string fieldLines(const physics::ElectrostaticSolver& solver,
                                     const shape::Partition& partition, int count);

/// V and E along a straight line as CSV text with units in its first row.
[[nodiscard]] std::string profileCsv(const physics::ElectrostaticSolver& solver,
                                     const sheet::Model& model, const sheet::Line& line);

/// A sweep as CSV text: parameters, then each single-number finding with its error.
[[nodiscard]] std::string sweepCsv(const Result& result);
/// Findings as CSV text.
[[nodiscard]] std::string findingsCsv(const Report& report);

}  // namespace yh::run
