// Fields between periodic sides.
//
// With x_i = exp(-j p_i) X, where X stands for function i and its twins and p_i is the phase by
// which i is behind, a matrix K becomes Hermitian, H = K_ij exp(j (p_i - p_j)). In the real and
// imaginary parts of X it is real and symmetric, of twice the size; where all phases are nothing or
// half a turn the real part alone will do.
// Source: Bloch's theorem; Jin, The Finite Element Method in Electromagnetics, 2nd ed.,
// section 12.3 (from memory).
#pragma once

#include "fem/edge.h"

#include <array>
#include <complex>
#include <vector>

namespace yh::physics {

/// How the functions of one order hang together. Numbers of parts: those of the functions, and
/// behind them those of their imaginary parts, where there are any.
class PeriodicFunctions
{
public:
    /// @param phases     by pair, rad; empty: nothing is periodic, and all calls give back what
    /// they
    ///                   are given
    /// @param bothParts  imaginary parts even where the real ones would do
    PeriodicFunctions(const fem::EdgeSpace& space, int order, const std::vector<double>& phases,
                      bool bothParts = false);
    [[nodiscard]] bool none() const { return m_same.empty(); }
    /// 2 where there are imaginary parts, else 1.
    [[nodiscard]] int copies() const { return m_copies; }
    [[nodiscard]] size_t count() const { return m_count; }  ///< functions of the order
    [[nodiscard]] int same(int function) const
    {
        return none() ? function : m_same[size_t(function)];
    }
    [[nodiscard]] double phase(int function) const
    {
        return none() ? 0.0 : m_phase[size_t(function)];
    }
    /// A function can be free only if all its twins are, and stands for them then; by function.
    void bind(std::vector<char>& isFree) const;
    /// Places of the parts, by the rank of their functions.
    /// @param isFree  as bind() leaves it
    [[nodiscard]] fem::Numbering numbering(std::span<const int> functionRanks,
                                           const std::vector<char>& isFree) const;
    /// Numbers of the parts of all cells.
    /// @param table  numbers of their functions; shape (cells, localCount(space.order()))
    [[nodiscard]] fem::CellFunctions functions(const std::vector<int>& table) const;
    /// Element matrices in those parts; of antisymmetric ones j times them, without phases.
    [[nodiscard]] fem::ElementMatrices turned(const fem::ElementMatrices& plain) const;
    /// The same for matrices of sides.
    void turn(fem::SideMatrix& matrix) const;
    /// Products with a field, given for each function, in the parts.
    [[nodiscard]] fem::SideLoad folded(const std::vector<int>& number,
                                       const std::vector<std::complex<double>>& value) const;
    [[nodiscard]] fem::SideLoad folded(const fem::SideLoad& load) const;
    /// j times what is given in parts.
    [[nodiscard]] fem::SideLoad timesJ(const fem::SideLoad& load) const;
    /// Real and imaginary part, by function, of a field given in parts.
    [[nodiscard]] std::array<std::vector<double>, 2> unfolded(const std::vector<double>& x) const;

private:
    const fem::EdgeSpace& m_space;
    int m_order, m_copies = 1;
    size_t m_count;
    std::vector<int> m_same;
    std::vector<double> m_phase;
};

}  // namespace yh::physics
