// Asks and checks of elastic and piezoelectric bodies.
#pragma once

#include "physics/common/study.h"
#include "physics/elastic/elastic.h"

namespace yh::physics {

[[nodiscard]] std::vector<Ask> makeElasticAsks(const sheet::Model& model,
                                               const shape::Partition& partition,
                                               const ElasticProblem& problem, base::Faults& faults);
[[nodiscard]] std::vector<Check> makeElasticChecks(const sheet::Model& model,
                                                   const ElasticSolver& field);

}  // namespace yh::physics
