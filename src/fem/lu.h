// Sparse systems that need not be symmetric: direct by UMFPACK.
#pragma once

#include <memory>
#include <vector>

namespace yh::fem {

/// Rows of a square matrix, columns rising within each.
struct SparseRows
{
    int size = 0;
    std::vector<int> start, column;
    std::vector<double> value;
    /// y = A x; both of shape (size).
    /// @tparam Value  double, or Wide: several columns
    template <class Value>
    void multiply(const std::vector<Value>& x, std::vector<Value>& y) const;
};

class Lu
{
public:
    /// Rows and columns as they come, which are in elimination order; or in the library's own.
    enum class Order { given, own };
    explicit Lu(Order order = Order::given);
    ~Lu();
    Lu(const Lu&) = delete;
    Lu& operator=(const Lu&) = delete;
    /// A pattern seen before is kept.
    /// @throws Error: singular, or out of memory
    void factorise(const SparseRows& A);
    /// @param[in,out] x  right-hand side, then the solution; shape (size)
    void solve(const SparseRows& A, std::vector<double>& x) const;
    /// Solves with the transpose.
    void solveTransposed(const SparseRows& A, std::vector<double>& x) const;

private:
    struct Data;
    std::unique_ptr<Data> m_data;
};

}  // namespace yh::fem
