// Sparse systems with a symmetric pattern, not of symmetric values, that are factorised again and
// again: direct, by dense fronts over blocks of unknowns whose order is given.
//
// A block holds unknowns that follow each other in the order of elimination, such as a separator of
// nested dissection. Its front is the dense matrix of the block and of what it touches later;
// pivots are taken within a block, fronts of equal height in the tree run side by side. Source:
// Duff and Reid, ACM Trans. Math. Softw. 9 (1983) 302 (from memory).
#pragma once

#include "fem/lu.h"

#include <memory>
#include <vector>

namespace yh::fem {

class Fronts
{
public:
    /// @param A       its pattern; values do not matter yet
    /// @param starts  first unknown of each block, rising from 0
    Fronts(const SparseRows& A, std::vector<int> starts);
    /// Finds the blocks by itself: unknowns that follow each other in the tree of elimination and
    /// touch nearly the same later ones. What a row sees earlier must see it too.
    explicit Fronts(const SparseRows& A);
    ~Fronts();
    Fronts(const Fronts&) = delete;
    Fronts& operator=(const Fronts&) = delete;

    /// @param A  of the same pattern
    /// @throws Error 5003: singular
    void factorise(const SparseRows& A);
    /// @param[in,out] x  right-hand side, then the solution; shape (size)
    void solve(std::vector<double>& x) const;

private:
    void setUp(const SparseRows& A, std::vector<int> starts);
    void factoriseInOrder(const SparseRows& A);
    void solveInOrder(std::vector<double>& x) const;
    struct Data;
    std::unique_ptr<Data> m_data;
};

}  // namespace yh::fem
