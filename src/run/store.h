// Results in a folder beside the sheet: run.json, fields/*.vtu, fields/lines.json, tables/*.csv.
#pragma once

#include "physics/common/study.h"
#include "run/report.h"
#include "sheet/model.h"

#include <string>
#include <vector>

namespace yh::run {

/// Makes the folder and its parts. @throws Error when it cannot
void makeFolders(const std::string& folder);
/// Writes a text file through a part file and a rename. @throws Error (disk full, not writable)
void writeText(const std::string& path, const std::string& text);

/// The field as linear cells for drawing and for other programs: its quantities, and the piece of
/// each cell. Curved cells and high orders are cut finer where there is room.
/// @throws Error when the file cannot be written
/// In a transient the first quantity is there for every shown time too. What the arrays run over
/// is written beside them, as JSON in the field data array `axes`.
/// @returns these axes
std::vector<physics::Axis> writeField(physics::Solution& field, const shape::Partition& partition,
                                      const std::string& path);
/// The mesh as quadratic cells with their pieces.
void writeMesh(const mesh::Mesh& mesh, const std::string& path);

/// Field lines seeded so that each carries the same flux, from sides where the field leaves them;
/// as JSON lists of points, m. Drawings only.
[[nodiscard]] std::string fieldLines(const physics::Solution& field, const physics::Study& problem,
                                     const shape::Partition& partition, int count);

/// All quantities along a straight line as CSV text with units in its first row.
[[nodiscard]] std::string profileCsv(const physics::Solution& field,
                                     const shape::Partition& partition, const sheet::Model& model,
                                     const sheet::Line& line);

/// A sweep as CSV text: parameters, then each single-number finding with its error.
[[nodiscard]] std::string sweepCsv(const Result& result);
/// Findings as CSV text.
[[nodiscard]] std::string findingsCsv(const Report& report);

}  // namespace yh::run
