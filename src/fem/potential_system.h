// Symmetric positive definite systems, direct or iterative as their size and dimension advise.
#pragma once

#include "base/progress.h"
#include "fem/cholesky.h"
#include "fem/multilevel.h"

#include <memory>

namespace yh::fem {

class PotentialSystem
{
public:
    PotentialSystem(int dimension, int order) : m_dimension(dimension), m_order(order) {}
    /// @param coarse  by unknown: whether it is of order 1
    /// @throws Error: singular, out of memory; Cancelled
    void factorise(const SparseSymmetric& K, const std::vector<char>& coarse,
                   const base::Progress& progress);
    /// Several right-hand sides, column after column.
    /// @param tolerance  of iterations, relative. Figures are energies: their error is its square.
    void solve(std::vector<double>& columns, int count, const base::Progress& progress,
               double tolerance = 1e-8);
    /// A rough solution of one right-hand side, or of columns side by side, by a symmetric positive
    /// definite operator.
    void precondition(std::vector<double>& x) const;
    void precondition(std::vector<Wide>& x) const;
    [[nodiscard]] double factorEntries() const;
    [[nodiscard]] bool isIterative() const { return m_iterative; }

private:
    int m_dimension, m_order;
    bool m_iterative = false;
    mutable Cholesky m_direct;
    SparseRows m_rows;
    Multilevel m_levels;
};

}  // namespace yh::fem
