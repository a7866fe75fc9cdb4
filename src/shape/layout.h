// What a layout says beside its polygons: texts and short paths, which mark where guides enter.
#pragma once

#include "base/fault.h"

#include <complex>
#include <string>
#include <vector>

namespace yh::shape {

struct LayoutMarks
{
    struct Label
    {
        std::string text;
        int layer = 0;
        std::complex<double> at;  ///< m
    };
    /// A path of two places.
    struct Path
    {
        int layer = 0;
        std::complex<double> from, to;  ///< m
        double width = 0;               ///< m
    };
    std::vector<Label> labels;
    std::vector<Path> paths;
};

/// @param cell  empty: the only top cell
/// @throws Error where the file is missing or broken, or the cell is not in it
[[nodiscard]] LayoutMarks layoutMarks(const std::string& path, const std::string& cell,
                                      base::Place place);

}  // namespace yh::shape
