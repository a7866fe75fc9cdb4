// Asks and checks of waves through ports.
#pragma once

#include "physics/wave.h"
#include "run/problem.h"

namespace yh::run {

[[nodiscard]] std::unique_ptr<Problem> drivenRun(std::unique_ptr<physics::WaveProblem> problem);

}  // namespace yh::run
