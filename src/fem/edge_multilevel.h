// Iterative solution of large systems of hierarchical edge elements, real or complex symmetric.
//
// GMRES with two levels: the functions of the lowest order are solved for directly (L D L^T), those
// of higher orders are smoothed by sweeps over overlapping blocks, one for all that meets at an
// edge, forwards before and backwards after the coarse solution.
// Source: Lee and Lee, Multilevel hierarchical p-type preconditioning, Commun. Numer. Meth. Engng
// 23 (2007), and Ingelstroem, IEEE Trans. Microw. Theory Tech. 54 (2006) 106; Saad, Iterative
// Methods for Sparse Linear Systems, 2nd ed., algorithm 6.9 (all from memory).
#pragma once

#include "base/progress.h"
#include "fem/ldlt.h"

#include <span>

namespace yh::fem {

/// Lists of numbers, one behind the other.
struct EdgeBlocks
{
    std::vector<int> start{0}, list;
    [[nodiscard]] int count() const { return int(start.size()) - 1; }
};

template <class Scalar>
class EdgeMultilevel
{
public:
    /// Pattern: lower triangle by columns, as of SymmetricFamily.
    /// @param value  shape (entries)
    /// @param coarse  by unknown: whether it is of the lowest order; shape (size)
    /// @param blocks  lists of unknowns of higher order that are smoothed together
    /// @throws Error where the lowest order is singular or does not fit the memory
    void setUp(int size, const std::vector<int>& start, const std::vector<int>& row,
               const std::vector<Scalar>& value, std::span<const char> coarse,
               const EdgeBlocks& blocks);
    /// @param[in,out] x  right-hand side, then the solution
    /// @param tolerance  of the residual over the right-hand side, functions scaled by the diagonal
    /// @returns steps; -1: it does not converge, and x is of no use
    [[nodiscard]] int solve(std::vector<Scalar>& x, double tolerance,
                            const base::Progress& progress);

    /// y = A x
    void product(const std::vector<Scalar>& x, std::vector<Scalar>& y) const;

private:
    void findRows(int size, const std::vector<int>& start, const std::vector<int>& row);
    /// Factorises the lowest order by itself. @param place  by unknown, its place in it or -1
    void factoriseCoarse(const std::vector<int>& start, const std::vector<int>& row,
                         const std::vector<Scalar>& value, const std::vector<int>& place);
    void invertBlocks();
    void multiply(const std::vector<Scalar>& x, std::vector<Scalar>& y) const;  ///< scaled
    void precondition(const std::vector<Scalar>& r, std::vector<Scalar>& z);
    enum class Way { forwards, backwards };
    void sweep(Way way, const std::vector<Scalar>& r, std::vector<Scalar>& z) const;
    [[nodiscard]] Scalar rest(int i, const std::vector<Scalar>& r,
                              const std::vector<Scalar>& z) const;

    int m_size = 0;
    std::vector<std::int64_t> m_start;  ///< full rows
    std::vector<int> m_column;
    std::vector<std::int64_t> m_from;  ///< entry of the lower triangle
    std::vector<Scalar> m_value;
    std::vector<double> m_scale;
    std::vector<int> m_coarse;  ///< unknowns of the lowest order
    EdgeBlocks m_blocks;
    std::vector<size_t> m_inverseStart;
    std::vector<Scalar> m_inverse;  ///< of the diagonal blocks
    Ldlt<Scalar> m_factor;
};

extern template class EdgeMultilevel<double>;
extern template class EdgeMultilevel<std::complex<double>>;

}  // namespace yh::fem
