// A direct factorisation that is kept while its matrix changes a little: what it no longer tells is
// made up for by GMRES, and it is made anew where that takes too many steps.
// Source: Saad, Iterative Methods for Sparse Linear Systems, 2nd ed., algorithm 9.4 (from memory).
#pragma once

#include "fem/fronts.h"

#include <memory>
#include <vector>

namespace yh::fem {

class KeptLu
{
public:
    /// @param[in,out] x  right-hand side, then the solution; shape (size)
    /// @param scale      what counts as large of each unknown; shape (size)
    /// @param tolerance  of the scaled error, relative
    /// @throws Error: singular, or out of memory
    void solve(const SparseRows& A, std::vector<double>& x, const std::vector<double>& scale,
               double tolerance);

private:
    /// @returns whether it came to an end
    bool iterate(const SparseRows& A, std::vector<double>& x, const std::vector<double>& scale,
                 double tolerance);

    std::unique_ptr<Fronts> m_fronts;
    std::vector<int> m_pattern;
    bool m_isStale = true;  ///< the last solution took many steps
};

}  // namespace yh::fem
