// Sheets about alternating fields whose losses heat, as `run` sees them.
#pragma once

#include "physics/quasistatic.h"
#include "physics/wave.h"
#include "run/problem.h"

namespace yh::run {

/// @param wave  what the sheet says about the wave
[[nodiscard]] std::unique_ptr<Problem> defineHeatingRun(const sheet::Model& model,
                                                        const shape::Partition& partition,
                                                        std::unique_ptr<physics::WaveProblem> wave,
                                                        base::Faults& faults);
/// @param current  what the sheet says about the alternating current
[[nodiscard]] std::unique_ptr<Problem> defineHeatingRun(
    const sheet::Model& model, const shape::Partition& partition,
    std::unique_ptr<physics::QuasistaticProblem> current, base::Faults& faults);

}  // namespace yh::run
