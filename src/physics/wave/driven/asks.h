// Figures of driven waves: S-parameters, impedances, gains, losses, and those of plane waves.
#pragma once

#include "base/quantity.h"
#include "physics/common/ask.h"
#include "physics/wave/driven/driven.h"

namespace yh::physics {

/// @param[out] faults  asks that make no sense here, each at its line
[[nodiscard]] std::vector<Ask> drivenAsks(const sheet::Model& model,
                                          const shape::Partition& partition,
                                          const physics::WaveProblem& problem,
                                          base::Faults& faults);

/// The field of a driven problem is always of this kind.
[[nodiscard]] inline physics::WaveDrivenSolver& solverOf(physics::Solution& field)
{
    return as<WaveDrivenSolver>(field);
}

}  // namespace yh::physics
