// Units in which the window shows numbers of its own accord.
#pragma once

#include "base/quantity.h"

namespace yh::app {

/// Temperatures of rooms and furnaces are read in °C, those of the cold in K; all else as the core
/// would.
inline base::DisplayUnit readingUnit(double value, const base::Dimension& dimension)
{
    constexpr double cold = 200;  // K
    if (dimension == base::dim::temperature && value >= cold)
        for (const base::DisplayUnit& u : base::unitChoices(dimension))
            if (u.symbol == "°C")
                return u;
    return base::displayUnit(value, dimension);
}

}  // namespace yh::app
