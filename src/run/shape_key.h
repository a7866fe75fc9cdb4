// Which states of a sheet share geometry and mesh.
#pragma once

#include "sheet/model.h"

#include <string>

namespace yh::run {

/// Everything that geometry and mesh depend on, as one text.
[[nodiscard]] std::string shapeKey(const sheet::Model& model);

}  // namespace yh::run
