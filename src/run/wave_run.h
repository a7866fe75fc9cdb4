// Asks and checks of sheets about waves.
#pragma once

#include "run/problem.h"

namespace yh::run {

/// @param[out] faults  everything that is missing or wrong, each at its line
[[nodiscard]] std::unique_ptr<Problem> defineWaveRun(const sheet::Model& model,
                                                     const shape::Partition& partition,
                                                     base::Faults& faults);

}  // namespace yh::run
