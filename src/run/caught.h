// What anything that was thrown means for the user.
#pragma once

#include "base/fault.h"

namespace yh::run {

/// Called in a handler that catches everything: the faults that the exception at hand stands for,
/// whatever its type, of ours or of a library.
/// @throws Cancelled, which is no fault
[[nodiscard]] base::Faults caught();

}  // namespace yh::run
