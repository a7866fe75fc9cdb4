// Parity of a drawing about a mirror plane, before anything is solved.
#pragma once

#include "sheet/model.h"

#include <string>

namespace yh::run {

enum class Parity { none, even, odd };

/// Compares materials and conductors at mirrored places of the whole drawing.
/// @param plane  "x = 0" or "y = 0"
/// @returns even: same potentials on both sides; odd: opposite ones; none: no mirror, or one
///          that given charges or floating conductors leave open
[[nodiscard]] Parity parityOf(const sheet::Model& model, const std::string& plane,
                              const std::string& folder);

}  // namespace yh::run
