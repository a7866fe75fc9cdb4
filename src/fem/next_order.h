// What elements of the next order add to a solution: conjugate gradients that begin at it and stop
// as soon as most of the change is there. The order that was solved is eliminated by its own
// factorisation or multigrid, the functions above it by their diagonal, which their energies are
// close to. Source: Bank and Smith, SIAM J. Numer. Anal. 30 (1993) 921, for hierarchical estimates
// (from memory).
#pragma once

#include "base/progress.h"
#include "fem/assembly.h"
#include "fem/potential_system.h"

#include <span>
#include <vector>

namespace yh::fem {

class HigherPart
{
public:
    /// @param space      of the next order; outlives it, as do the others
    /// @param order      that was solved
    /// @param elements   of the space
    /// @param isFree     by function of the space
    /// @param numbering  of the order that was solved
    /// @param system     the same
    HigherPart(const H1Space& space, int order, const ElementMatrices& elements,
               std::vector<char> isFree, const Numbering& numbering, const PotentialSystem& system);

    /// Adds the change to solutions.
    /// @param[in,out] columns  each by function of the space; those above the solved order are zero
    /// @param load             the same, of all; empty: none
    /// @returns steps
    int add(const std::vector<std::vector<double>*>& columns, std::span<const double> load,
            const base::Progress& progress) const;

private:
    int add(std::vector<double>& x, std::span<const double> load,
            const base::Progress& progress) const;
    int add(std::vector<Wide>& x, std::span<const double> load,
            const base::Progress& progress) const;
    /// y = K x.
    template <class Value>
    void multiply(const std::vector<Value>& x, std::vector<Value>& y) const;
    template <class Value>
    void precondition(const std::vector<Value>& r, std::vector<Value>& z) const;
    /// The same for any number of threads.
    [[nodiscard]] double product(const std::vector<double>& a, const std::vector<double>& b) const;

    const H1Space& m_space;
    const ElementMatrices& m_elements;
    std::vector<char> m_isFree;
    const Numbering& m_numbering;
    const PotentialSystem& m_system;
    int m_count, m_below, m_local;
    std::vector<double> m_diagonal;
    std::vector<int> m_first, m_where;  ///< by function: its places among those of all cells
    mutable std::vector<double> m_parts;
    mutable std::vector<Wide> m_wideParts;
};

}  // namespace yh::fem
