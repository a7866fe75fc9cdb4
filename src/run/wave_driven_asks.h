// Figures of driven waves: S-parameters, impedances, gains, losses, and those of plane waves.
#pragma once

#include "base/quantity.h"
#include "physics/wave_driven.h"
#include "run/asks.h"

namespace yh::run {

/// @param[out] faults  asks that make no sense here, each at its line
[[nodiscard]] std::vector<Ask> drivenAsks(const sheet::Model& model,
                                          const shape::Partition& partition,
                                          const physics::WaveProblem& problem,
                                          base::Faults& faults);

/// The field of a driven problem is always of this kind.
[[nodiscard]] inline physics::WaveDrivenSolver& solverOf(physics::Field& field)
{
    return static_cast<physics::WaveDrivenSolver&>(field);
}
[[nodiscard]] inline std::string frequencyText(double f)
{
    return base::format(f, base::dim::frequency, 6);
}

}  // namespace yh::run
