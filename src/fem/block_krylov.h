// Eigenvectors of real operators that are not symmetric, whose large eigenvalues are real.
#pragma once

#include <Eigen/Core>

#include <functional>
#include <vector>

namespace yh::fem {

struct RealPair
{
    double value = 0;  ///< the eigenvalue's real part
    Eigen::VectorXd vector;
};

/// Those to the largest eigenvalues, by a block Krylov method that begins anew with the best fields
/// once it has become long. The block is as wide as `space`, so that as many equal eigenvalues are
/// all found. The same input gives the same, with any number of threads.
/// Source: Saad, Numerical Methods for Large Eigenvalue Problems, chapter 6 (from memory).
/// @param space  where to start from, shape (size, width); without columns: anywhere, with `width`.
///               What was found, to start the search at a neighbour's from
/// @param width  how many are found; only the first `sure` of them to the accuracy
/// @param apply  operator times columns
/// @param rest   how far a pair is from one of the operator; below 1e-9 it is taken
[[nodiscard]] std::vector<RealPair> largestRealPairs(
    Eigen::MatrixXd& space, Eigen::Index size, int width, int sure,
    const std::function<Eigen::MatrixXd(const Eigen::MatrixXd&)>& apply,
    const std::function<double(const RealPair&)>& rest);

}  // namespace yh::fem
