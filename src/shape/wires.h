// Thin wires of a sheet: lines in space that make no region.
#pragma once

#include "sheet/model.h"

#include <string>
#include <vector>

namespace yh::shape {

struct ThinWire
{
    std::string name;
    int line = -1;
    double radius = 0;  ///< m
    /// Straight pieces point by point, m; arcs in chords. Planes of symmetry may leave several.
    std::vector<std::vector<base::Point>> runs;
};

/// The wires of a sheet without faults in its fields, cut off at its mirror planes.
[[nodiscard]] std::vector<ThinWire> thinWires(const sheet::Model& model);

}  // namespace yh::shape
