// Sheets about current and heat as `run` sees them.
#pragma once

#include "run/problem.h"

namespace yh::run {

[[nodiscard]] std::unique_ptr<Problem> defineTransportRun(const sheet::Model& model,
                                                          const shape::Partition& partition,
                                                          base::Faults& faults);

}  // namespace yh::run
