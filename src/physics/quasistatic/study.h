// The study of slowly alternating fields, for fields that hold it as a part.
#pragma once

#include "physics/common/study.h"
#include "physics/quasistatic/quasistatic.h"

namespace yh::physics {

[[nodiscard]] std::unique_ptr<Study> quasistaticStudyOf(
    std::unique_ptr<QuasistaticProblem> problem);

}  // namespace yh::physics
