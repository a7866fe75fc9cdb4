// The study of current and heat, for fields that hold it as a part.
#pragma once

#include "physics/common/study.h"
#include "physics/transport/transport.h"

namespace yh::physics {

[[nodiscard]] std::unique_ptr<Study> transportStudyOf(std::unique_ptr<TransportProblem> problem);

}  // namespace yh::physics
