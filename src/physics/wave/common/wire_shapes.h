// Currents along a segment of a thin wire, and how they are spread about it.
#pragma once

#include "base/point.h"
#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>

namespace yh::physics::thin {

using base::Point;

inline constexpr int mostShapes = 6;

/// Powers of the density G(r) = C (1 - r^2)^3 on the unit ball: means of r^2 and r^4.
inline constexpr double peak = 315 / (64 * pi), mean2 = 3.0 / 11, mean4 = 15.0 / 143;

/// Shapes on t in [0, 1] and their derivatives: both ends' hats, then integrated Legendre
/// polynomials, which vanish at both ends.
inline void shapes(int degree, double t, double* value, double* slope)
{
    const double x = 2 * t - 1;
    double P[mostShapes + 1] = {1, x};
    for (int n = 2; n <= degree; ++n)
        P[n] = ((2 * n - 1) * x * P[n - 1] - (n - 1) * P[n - 2]) / n;
    value[0] = 1 - t;
    value[1] = t;
    slope[0] = -1;
    slope[1] = 1;
    for (int n = 2; n <= degree; ++n) {
        const double scale = 1 / std::sqrt(4.0 * n - 2);
        value[n] = scale * (P[n] - P[n - 2]);
        slope[n] = 2 * scale * (2 * n - 1) * P[n - 1];
    }
}

/// Distance of a place from a segment.
[[nodiscard]] inline double fromSegment(const Point& p, const Point& a, const Point& b)
{
    const Point l = b - a;
    const double t = std::clamp(dot(p - a, l) / dot(l, l), 0.0, 1.0);
    return norm(p - a - t * l);
}

}  // namespace yh::physics::thin
