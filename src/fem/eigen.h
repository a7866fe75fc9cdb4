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

/// Some vectors of one length, one after the other.
using Columns = std::vector<std::vector<double>>;

/// K x = lambda M x for the eigenvalues just above a shift, K and M symmetric, M positive definite.
struct EigenProblem
{
    using Vector = std::vector<double>;
    int size = 0;
    double shift = 0;
    double tolerance = 1e-10;  ///< relative change of the values in the last step
    std::function<void(const Vector& x, Vector& y)> multiplyM;
    std::function<void(const Vector& x, Vector& yK, Vector& yM)> multiplyBoth;
    /// Columns x := (K - shift M)^-1 x, one after the other; shape (count, size)
    std::function<void(Vector& columns, int count)> solveShifted;
    std::function<void(Vector& x)> project;  ///< takes the null space out of x, M-orthogonally
};
/// @throws Error 5025 where no convergence is reached
[[nodiscard]] EigenPairs lowestEigenpairs(const EigenProblem& problem, int count,
                                          base::Progress& progress);

/// The same from good guesses of all of them, by Rayleigh and Ritz over the block Krylov space of
/// the shifted inverse: few solutions with many columns each.
/// Source: Parlett, The Symmetric Eigenvalue Problem, 1980, chapter 13 (from memory).
/// @param guess  some more than are wanted, so that none is passed over
/// @param count  how many must be exact; as many as there are guesses come back
/// @returns no values where it did not converge
[[nodiscard]] EigenPairs improvedEigenpairs(const EigenProblem& problem, const Columns& guess,
                                            int count, base::Progress& progress);

}  // namespace yh::fem
