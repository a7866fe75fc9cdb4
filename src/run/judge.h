// Whether a figure is what was asked for.
#pragma once

#include "physics/common/finding.h"

namespace yh::run {

/// Said of a figure that nothing can be compared with.
inline constexpr const char* noError =
    "no ±: one pass of one order; allow a second pass or a higher order";
[[nodiscard]] bool lacksError(const physics::Finding& f);

/// Sets `met`: every number within the accuracy asked for, and on the right side of the limits.
/// @param largest  of a matrix's entries, by which small ones are judged
/// @param scale    that the accuracy refers to where the number itself may vanish; else 0
/// @param offset   from which the number counts
void judge(physics::Finding& f, double largest, double scale, double offset);
/// Met as far as refinement can help: a missed limit with a settled value is final.
[[nodiscard]] bool settled(const physics::Finding& f, double offset);

}  // namespace yh::run
