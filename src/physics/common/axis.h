// What the fields of a solution run over beside space: modes, times, the phase of a period.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace yh::physics {

struct Quantity;

struct Axis
{
    struct Place
    {
        std::string label;                ///< for the screen
        std::string shown;                ///< the quantity to be looked at
        std::vector<std::string> arrays;  ///< what the fields are called here, in files
        double at = 0;                    ///< time, s; phase, radians
    };
    std::string kind;  ///< mode, time or phase
    std::vector<Place> places;
};

/// Of modes. Their numbers, from 1 on, stand behind the names of their quantities where there are
/// several.
/// @param shown   name of the quantity to be looked at, without number
/// @param labels  by mode
[[nodiscard]] Axis modeAxis(const std::vector<Quantity>& quantities, const std::string& shown,
                            const std::vector<std::string>& labels);

/// What stands behind the name of a quantity for its part a quarter of a period ahead.
inline constexpr const char* quarterAhead = " ahead";
/// Of quantities that are there in phase and a quarter ahead: both places, with the arrays in the
/// same order. Nothing where none alternates.
[[nodiscard]] std::optional<Axis> phaseAxis(const std::vector<Quantity>& quantities);

}  // namespace yh::physics
