// Parity of a device about a plane, before anything is solved.
#pragma once

#include "sheet/model.h"

#include <string>

namespace yh::run {

enum class Parity {
    none,  ///< no mirror image of itself
    even,  ///< the same drives on both sides
    odd,   ///< opposite drives
    open   ///< its own mirror image, but what drives it leaves the kind open
};

/// Compares the whole device with its mirror image: every side must have a partner of the same
/// content at the mirrored centre, every region one with partners for all its sides, and each the
/// same lines of the sheet, with drives that are equal or opposite (slots that are `turned over` by
/// an odd plane).
/// @param plane   "x = 0", "y = 0" or "z = 0"
/// @param folder  of the sheet
/// @throws Error of the shape
[[nodiscard]] Parity parityOf(const sheet::Model& model, const std::string& plane,
                              const std::string& folder);

}  // namespace yh::run
