// Several columns of numbers side by side, so that a matrix is read once for all of them: what
// takes time in sparse products and sweeps is reading it.
#pragma once

#include <algorithm>
#include <cmath>
#include <vector>

namespace yh::fem {

/// A row of eight columns; arithmetic is of each by itself.
using Wide = double __attribute__((vector_size(64)));
inline constexpr int wide = 8;

/// How many of so many columns go side by side at a time: evenly many, or one by one where the
/// empty places would take longer than that saves.
inline int columnsAtATime(int count)
{
    constexpr int worth = 3;
    const int groups = (count + wide - 1) / wide;
    return count < worth ? 1 : (count + groups - 1) / groups;
}

/// Up to eight columns, one after the other, as rows; what is beyond `count` is zero.
/// @param columns  shape (count, size)
inline std::vector<Wide> sideBySide(const double* columns, int count, size_t size)
{
    std::vector<Wide> rows(size, Wide{});
    for (int c = 0; c < count; ++c)
        for (size_t i = 0; i < size; ++i)
            rows[i][c] = columns[size_t(c) * size + i];
    return rows;
}

/// The way back.
inline void oneAfterTheOther(const std::vector<Wide>& rows, int count, double* columns)
{
    for (int c = 0; c < count; ++c)
        for (size_t i = 0; i < rows.size(); ++i)
            columns[size_t(c) * rows.size() + i] = rows[i][c];
}

}  // namespace yh::fem
