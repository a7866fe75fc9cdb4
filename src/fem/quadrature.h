// Quadrature on the interval and the triangle.
#pragma once

#include <vector>

namespace yh::fem {

struct LinePoint
{
    double x, w;  ///< on [0, 1], weights sum to 1
};
/// Gauss and Legendre's rule with n points, exact to degree 2n - 1. Newton on the Legendre
/// polynomial (Abramowitz and Stegun 25.4.29, from memory).
[[nodiscard]] std::vector<LinePoint> gaussLegendre(int n);

struct TrianglePoint
{
    double u, v, w;  ///< on (0,0), (1,0), (0,1); weights sum to 1/2
};
/// Conical product rule, exact to the given degree: Gauss points along rays from one corner.
/// Source: Stroud, Approximate Calculation of Multiple Integrals, 1971, section 2.4 (from memory).
[[nodiscard]] const std::vector<TrianglePoint>& triangleRule(int degree);

}  // namespace yh::fem
