#pragma once

#include "physics/common/heat_source.h"
#include "physics/magnetic/magnetic.h"

namespace yh::physics {

/// The heat of induced currents; the problem must outlive it.
[[nodiscard]] std::unique_ptr<HeatGiver> heatOfInducedCurrents(const MagneticProblem& problem);

}  // namespace yh::physics
