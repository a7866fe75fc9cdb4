// Eigenvectors of complex operators.
#pragma once

#include "base/progress.h"

#include <complex>
#include <functional>
#include <vector>

namespace yh::fem {

/// Those to the largest eigenvalues, by Arnoldi's method with several starts, so that equal
/// eigenvalues are all found. Of A x = lambda B x the operator (A - sigma B)^-1 B gives those next
/// to sigma.
/// Source: Saad, Numerical Methods for Large Eigenvalue Problems, chapter 6 (from memory).
/// @param guess  where to start from
/// @param sure   how many of them must have converged
/// @param apply  x := operator times x
[[nodiscard]] std::vector<std::vector<std::complex<double>>> largestEigenvectors(
    const std::vector<std::vector<std::complex<double>>>& guess, int count, int sure,
    const std::function<void(std::vector<std::complex<double>>&)>& apply, base::Progress& progress);

}  // namespace yh::fem
