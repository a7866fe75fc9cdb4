// Iterative solution of large systems of hierarchical elements: Krylov methods with two levels, of
// which the coarse one is the order-1 part, solved directly.
//
// One application of the preconditioner: a Gauss-Seidel sweep forwards over all unknowns, the
// order-1 part of the residual solved by Cholesky for each field in turn, a sweep backwards. For a
// symmetric matrix it is symmetric. Where sweeps over the rest alone do not bring an error down
// (long thin cells, the mapped far space, high contrasts), its unknowns are solved with the order-1
// part. Parts of a complex field are smoothed in pairs and solved
// together on the coarse level, since neither need be the greater. Source: Zienkiewicz and Craig,
// Accuracy Estimates and Adaptive Refinements in Finite Element Computations, 1986, chapter 2, and
// Saad, Iterative Methods for Sparse Linear Systems, 2nd ed., algorithms 6.18 and 9.4; for the
// choice of the coarse level by trial, Brandt, Electron. Trans. Numer. Anal. 10 (2000) 1 (all from
// memory).
#pragma once

#include "base/progress.h"
#include "fem/cholesky.h"
#include "fem/lu.h"
#include "fem/side_by_side.h"

#include <array>
#include <functional>

namespace yh::fem {

/// Full rows of a symmetric matrix given by its lower triangle.
[[nodiscard]] SparseRows fullRows(const SparseSymmetric& K);

class Multilevel
{
public:
    /// @param coarse  by unknown: which field's order-1 part it belongs to, -1: none
    /// @param pairs  by unknown: whether it and the next are parts of one complex value; or empty
    void setUp(const SparseRows& A, std::span<const int> coarse, int fields,
               std::span<const char> pairs = {});
    /// Conjugate gradients for a symmetric positive definite matrix.
    /// @param[in,out] x  right-hand side, then the solution
    /// @returns iterations  @throws Error when it does not converge; Cancelled
    int conjugateGradients(std::vector<double>& x, double tolerance,
                           const base::Progress& progress) const;
    /// The same of up to eight columns side by side.
    int conjugateGradients(std::vector<Wide>& x, double tolerance,
                           const base::Progress& progress) const;
    /// Takes another matrix of the same pattern and diagonal, such as the transposed one, with
    /// what was set up; it must outlive its use.
    void multiplyBy(const SparseRows& A) { m_A = &A; }
    /// GMRES, restarted, for any matrix.
    /// @param weight  of each equation in the residual's norm; empty: all alike
    int gmres(std::vector<double>& x, double tolerance, const base::Progress& progress,
              std::span<const double> weight = {}) const;

    /// One application: sweeps and the coarse level.
    /// @tparam Value  double, or Wide: several columns, where there are no pairs
    template <class Value>
    void precondition(const std::vector<Value>& r, std::vector<Value>& z) const;

private:
    enum class Sweep {
        first,  ///< forwards from zero, whatever z held
        last,   ///< backwards
    };
    template <Sweep kind, class Value>
    void sweep(const std::vector<Value>& r, std::vector<Value>& z) const;

    const SparseRows* m_A = nullptr;
    std::vector<double> m_inverseDiagonal;
    struct Level
    {
        std::vector<int> unknowns;  ///< of the whole system, in its order
        mutable Cholesky factor;
    };
    std::vector<Level> m_levels;
    /// Unknowns besides the order-1 part that sweeps do not bring down; shape (size).
    [[nodiscard]] std::vector<char> stubborn(std::span<const int> coarse) const;
    void setUpPairs(std::span<const int> coarse, std::span<const char> pairs);
    [[nodiscard]] bool isPair(int i) const { return !m_pairs.empty() && m_pairs[size_t(i)] != 0; }
    std::vector<char> m_pairs;  ///< shape (size), or empty
    std::vector<std::array<double, 4>> m_inverseBlock;
    std::vector<int> m_joint;  ///< unknowns of the coarse level of a complex field
    SparseRows m_coarse;
    Lu m_coarseFactor;
};

}  // namespace yh::fem
