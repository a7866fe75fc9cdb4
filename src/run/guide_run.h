// Asks and checks of sheets about the modes of an endless guide.
#pragma once

#include "physics/wave.h"
#include "run/problem.h"

namespace yh::run {

[[nodiscard]] std::unique_ptr<Problem> guideRun(std::unique_ptr<physics::WaveProblem> problem);

}  // namespace yh::run
