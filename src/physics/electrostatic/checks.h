// What the program verifies by itself after a solve.
#pragma once

#include "physics/electrostatic/asks.h"

namespace yh::physics {

[[nodiscard]] std::vector<Check> makeElectrostaticChecks(const sheet::Model& model,
                                                         const shape::Partition& partition,
                                                         physics::ElectrostaticSolver& solver,
                                                         const std::vector<Ask>& asks);

}  // namespace yh::physics
