#pragma once

#include "physics/common/heat_source.h"
#include "physics/quasistatic/quasistatic.h"

namespace yh::physics {

/// The heat of slowly alternating currents, where the sheet says that they heat; the problem must
/// outlive it.
[[nodiscard]] std::unique_ptr<HeatGiver> heatOfCurrents(const QuasistaticProblem& problem);

}  // namespace yh::physics
