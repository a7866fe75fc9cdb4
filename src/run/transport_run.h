// Sheets about current and heat as `run` sees them.
#pragma once

#include "physics/transport.h"
#include "run/problem.h"

namespace yh::run {

[[nodiscard]] std::unique_ptr<Problem> defineTransportRun(const sheet::Model& model,
                                                          const shape::Partition& partition,
                                                          base::Faults& faults);

/// The same for a problem that is known already.
[[nodiscard]] std::unique_ptr<Problem> transportRun(
    std::unique_ptr<physics::TransportProblem> problem);

}  // namespace yh::run
