// Figures by a second route, as checks.
#pragma once

#include "physics/common/ask.h"

namespace yh::physics {

/// A share in words: 0.3 %.
[[nodiscard]] std::string percent(double share);

/// Compares each figure with what its second route gives.
void checkSecondRoutes(Solution& solution, const std::vector<Ask>& asks,
                       std::vector<Check>& checks);

}  // namespace yh::physics
