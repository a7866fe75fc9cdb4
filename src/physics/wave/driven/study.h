// The study of driven waves, for fields that hold it as a part.
#pragma once

#include "physics/common/study.h"
#include "physics/wave/common/wave.h"

namespace yh::physics {

[[nodiscard]] std::unique_ptr<Study> drivenStudyOf(std::unique_ptr<WaveProblem> problem);

}  // namespace yh::physics
