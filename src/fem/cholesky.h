// Sparse Cholesky factorisation by CHOLMOD, for systems already in elimination order.
#pragma once

#include "fem/assembly.h"

#include <memory>

namespace yh::fem {

/// Analyse, factorise, solve: each step can be repeated while the earlier ones stay.
class Cholesky
{
public:
    Cholesky();
    ~Cholesky();
    Cholesky(Cholesky&&) noexcept;
    Cholesky& operator=(Cholesky&&) noexcept;

    void analyse(const SparseSymmetric& K);
    /// @throws Error when K is not positive definite (with the unknown), or memory runs out
    void factorise(const SparseSymmetric& K);
    /// Solves for several right-hand sides, column after column; shape (columns, size).
    void solve(std::vector<double>& columns, int count);

    [[nodiscard]] double factorEntries() const;
    [[nodiscard]] double factorFlops() const;
    /// Inverse condition estimate from the factor's diagonal.
    [[nodiscard]] double reciprocalCondition() const;

private:
    struct Data;
    std::unique_ptr<Data> m_data;
};

}  // namespace yh::fem
