// Symmetric indefinite systems, real and complex (A = A^T, not Hermitian): LDL^T by MUMPS.
#pragma once

#include "fem/assembly.h"

#include <complex>
#include <memory>
#include <span>
#include <vector>

namespace yh::fem {

/// The system is taken to be in elimination order already.
template <class Scalar>
class Ldlt
{
public:
    Ldlt();
    ~Ldlt();
    Ldlt(const Ldlt&) = delete;
    Ldlt& operator=(const Ldlt&) = delete;

    /// Pattern: lower triangle by columns. A pattern of the same size and entries as before keeps
    /// its analysis.
    /// @param value  shape (entries)
    /// @throws Error: singular, or out of memory (with an estimate)
    void factorise(int size, std::span<const int> start, std::span<const int> row,
                   std::vector<Scalar> value);
    /// @param[in,out] columns  right-hand sides, then solutions; shape (count, size)
    void solve(std::vector<Scalar>& columns, int count);
    /// Negative pivots: eigenvalues below zero (real matrices).
    [[nodiscard]] int negativePivots() const;
    /// Bytes of the factors.
    [[nodiscard]] double bytes() const;

private:
    struct Data;
    std::unique_ptr<Data> m_data;
};

extern template class Ldlt<double>;
extern template class Ldlt<std::complex<double>>;
extern template class Ldlt<float>;
extern template class Ldlt<std::complex<float>>;

/// The same with factors in single precision, half as large and made in half the time; solutions
/// are improved until the residual is 1e-11 of the right-hand side. Where that does not come about
/// (gradients in cells far smaller than the wavelength), it goes over to double precision by itself
/// and stays there.
/// Source: Higham, Accuracy and Stability of Numerical Algorithms, 2nd ed., chapter 12 (from
/// memory).
template <class Scalar>
class RefinedLdlt
{
public:
    RefinedLdlt();
    ~RefinedLdlt();
    RefinedLdlt(const RefinedLdlt&) = delete;
    RefinedLdlt& operator=(const RefinedLdlt&) = delete;
    /// As of Ldlt; what start and row point at must stay until after the last solution.
    void factorise(int size, std::span<const int> start, std::span<const int> row,
                   std::vector<Scalar> value);
    void solve(std::vector<Scalar>& columns, int count);

private:
    void takeFull();
    struct Data;
    std::unique_ptr<Data> m_data;
};

extern template class RefinedLdlt<double>;
extern template class RefinedLdlt<std::complex<double>>;

}  // namespace yh::fem
