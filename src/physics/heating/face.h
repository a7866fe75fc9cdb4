#pragma once

#include "sheet/document.h"

namespace yh::physics {

/// A sheet without its lines of heat: what is left tells which field heats.
[[nodiscard]] sheet::Document withoutHeat(const sheet::Document& document);

}  // namespace yh::physics
