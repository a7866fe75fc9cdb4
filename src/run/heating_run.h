// Sheets about waves that heat, as `run` sees them.
#pragma once

#include "physics/wave.h"
#include "run/problem.h"

namespace yh::run {

/// @param wave  what the sheet says about the wave
[[nodiscard]] std::unique_ptr<Problem> defineHeatingRun(const sheet::Model& model,
                                                        const shape::Partition& partition,
                                                        std::unique_ptr<physics::WaveProblem> wave,
                                                        base::Faults& faults);

}  // namespace yh::run
