// Which wall fits a cut through a device, read from the field of the whole.
#pragma once

#include "physics/common/finding.h"
#include "physics/wave/common/wave.h"

#include <string>
#include <vector>

namespace yh::physics {

/// Adds a note for each plane x, y, z = 0 about which the field is its own mirror image: even where
/// a magnetic wall can stand there, odd where an electric one can.
/// @param fields  names of the vector quantities to look at: E, or E 1, E 2, …; a part a quarter
///                ahead counts with its partner
void proposeWalls(const sheet::Model& model, const physics::WaveProblem& problem,
                  const physics::Solution& field, const std::vector<std::string>& fields,
                  std::vector<Check>& checks);

}  // namespace yh::physics
