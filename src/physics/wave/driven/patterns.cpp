#include "physics/wave/driven/patterns.h"

#include "physics/common/constants.h"

#include <cmath>

namespace yh::physics {

std::string patternCuts(const std::string& unit,
                        const std::function<std::string(double, double)>& level)
{
    std::string csv = "angle (deg)";
    for (const char* plane : {"plane xz from z", "plane yz from z", "plane xy from x"})
        csv += std::string(",") + plane + " (" + unit + ")";
    csv += "\n";
    for (int degrees = -180; degrees <= 180; degrees += 2) {
        const double a = degrees * pi / 180, theta = std::abs(a), turn = a < 0 ? pi : 0;
        csv += std::to_string(degrees) + "," + level(theta, turn) + "," +
               level(theta, pi / 2 + turn) + "," + level(pi / 2, a) + "\n";
    }
    return csv;
}

std::string patternTable(const std::string& quantity, int rows,
                         const std::function<std::string(double, double)>& level)
{
    std::string csv = "theta (deg),phi (deg)," + quantity + "\n";
    for (int i = 0; i <= rows; ++i)
        for (int k = 0; k < 2 * rows; ++k)
            csv += std::to_string(180 * i / rows) + "," + std::to_string(180 * k / rows) + "," +
                   level(pi * i / rows, pi * k / rows) + "\n";
    return csv;
}

}  // namespace yh::physics
