// Asks and checks of sheets about slowly alternating fields.
#pragma once

#include "physics/quasistatic.h"
#include "run/problem.h"

namespace yh::run {

/// @param[out] faults  everything that is missing or wrong, each at its line
[[nodiscard]] std::unique_ptr<Problem> defineQuasistaticRun(const sheet::Model& model,
                                                            const shape::Partition& partition,
                                                            base::Faults& faults);

[[nodiscard]] std::unique_ptr<Problem> quasistaticRun(
    std::unique_ptr<physics::QuasistaticProblem> problem);

}  // namespace yh::run
