// Quadrature on the interval, the triangle and the tetrahedron.
#pragma once

#include "base/point.h"

#include <vector>

namespace yh::fem {

struct LinePoint
{
    double x, w;  ///< on [0, 1], weights sum to 1
};
/// Gauss and Legendre's rule with n points, exact to degree 2n - 1. Newton on the Legendre
/// polynomial (Abramowitz and Stegun 25.4.29, from memory).
[[nodiscard]] std::vector<LinePoint> gaussLegendre(int n);

struct CellPoint
{
    base::Point xi;  ///< on the reference simplex
    double w;        ///< weights sum to its content: 1, 1/2, 1/6
};
/// Conical product rule on the reference interval, triangle or tetrahedron, exact to the given
/// degree: Gauss points along rays from one corner.
/// Source: Stroud, Approximate Calculation of Multiple Integrals, 1971, section 2.4 (from memory).
/// @param dimension  1, 2 or 3
[[nodiscard]] const std::vector<CellPoint>& cellRule(int dimension, int degree);

}  // namespace yh::fem
