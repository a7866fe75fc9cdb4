// Tables of far fields over all directions.
#pragma once

#include <functional>
#include <string>

namespace yh::physics {

/// Levels of a pattern in the three planes of the axes, by the angle in degrees.
/// @param level  its text in decibels, by theta and phi
/// @param unit   of the level
[[nodiscard]] std::string patternCuts(
    const std::string& unit, const std::function<std::string(double theta, double phi)>& level);
/// The same by theta and phi, from pole to pole in `rows` steps.
[[nodiscard]] std::string patternTable(
    const std::string& quantity, int rows,
    const std::function<std::string(double theta, double phi)>& level);

}  // namespace yh::physics
