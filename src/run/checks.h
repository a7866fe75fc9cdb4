// What the program verifies by itself after a solve.
#pragma once

#include "run/asks.h"

namespace yh::run {

[[nodiscard]] std::vector<Check> makeElectrostaticChecks(const sheet::Model& model,
                                                         const shape::Partition& partition,
                                                         physics::ElectrostaticSolver& solver,
                                                         const std::vector<Ask>& asks);

}  // namespace yh::run
