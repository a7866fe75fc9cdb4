#pragma once

#include "physics/common/heat_source.h"
#include "physics/wave/common/wave.h"

namespace yh::physics {

/// The heat of driven waves; the problem must outlive it.
/// @param[out] faults  what is missing or cannot heat, each at its line
[[nodiscard]] std::unique_ptr<HeatGiver> heatOfWaves(const WaveProblem& wave,
                                                     const sheet::Model& model,
                                                     base::Faults& faults);

}  // namespace yh::physics
