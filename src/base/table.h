// Tables of a property against one variable, with monotone interpolation.
#pragma once

#include <cstddef>
#include <vector>

namespace yh::base {

/// Piecewise cubic curve through points that never overshoots them.
///
/// Slopes by Fritsch and Butland, SIAM J. Sci. Stat. Comput. 5 (1984) 300 (from memory): the
/// weighted harmonic mean of neighbouring secants, zero where these change sign.
/// Outside the range the end slopes go on in straight lines; `inRange` tells.
class Table
{
public:
    Table() = default;
    /// @param x  strictly rising, at least one
    /// @param y  as many as x
    /// @throws Error where sizes differ, x does not rise or a number is not finite
    Table(std::vector<double> x, std::vector<double> y);

    [[nodiscard]] double value(double x) const;
    [[nodiscard]] double slope(double x) const;
    [[nodiscard]] bool inRange(double x) const;

private:
    [[nodiscard]] std::size_t cell(double x) const;
    std::vector<double> m_x, m_y, m_slope;
};

}  // namespace yh::base
