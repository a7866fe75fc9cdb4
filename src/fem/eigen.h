// Lowest eigenvalues of symmetric pencils by shift and invert (ARPACK).
#pragma once

#include "base/progress.h"

#include <functional>
#include <vector>

namespace yh::fem {

struct EigenPairs
{
    std::vector<double> value;                ///< rising
    std::vector<std::vector<double>> vector;  ///< x^T M x = 1; shape (values, size)
    int solutions = 0;                        ///< with the shifted matrix
};

/// K x = lambda M x for the eigenvalues just above a shift, K and M symmetric, M positive definite.
struct EigenProblem
{
    using Vector = std::vector<double>;
    int size = 0;
    double shift = 0;
    std::function<void(const Vector& x, Vector& y)> multiplyM;
    std::function<void(Vector& x)> solveShifted;  ///< x := (K - shift M)^-1 x
    std::function<void(Vector& x)> project;       ///< takes the null space out of x, M-orthogonally
    Vector guess;                                 ///< start; empty: a fixed mixture
};
/// @throws Error 5025 where no convergence is reached
[[nodiscard]] EigenPairs lowestEigenpairs(const EigenProblem& problem, int count,
                                          base::Progress& progress);

}  // namespace yh::fem
