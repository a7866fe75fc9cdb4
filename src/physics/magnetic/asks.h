#pragma once

#include "physics/common/ask.h"
#include "physics/magnetic/magnetic.h"

namespace yh::physics {

/// The asks of a sheet about magnets and coils.
[[nodiscard]] std::vector<Ask> makeMagneticAsks(const sheet::Model& model,
                                                const shape::Partition& partition,
                                                const MagneticProblem& problem,
                                                base::Faults& faults);
/// What is checked by itself.
[[nodiscard]] std::vector<Check> makeMagneticChecks(const sheet::Model& model,
                                                    const shape::Partition& partition,
                                                    MagneticField& solver,
                                                    const std::vector<Ask>& asks);

}  // namespace yh::physics
