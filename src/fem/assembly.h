// Element matrices of div(k grad u) and the sparse symmetric system made of them.
#pragma once

#include "fem/h1.h"

#include <functional>
#include <span>
#include <vector>

namespace yh::fem {

using mesh::Point;

/// Symmetric 2 x 2 tensor.
struct Tensor
{
    double xx = 1, xy = 0, yy = 1;
    bool operator==(const Tensor&) const = default;
};

/// Coefficient of one region.
struct Coefficient
{
    Tensor constant;
    std::function<Tensor(Point)> at;  ///< position-dependent, takes the place of `constant`
};

enum class Measure {
    plane,         ///< dx dy
    axisymmetric,  ///< 2 pi r dr dz, r = x
};

/// Element matrices k(i, j) = integral of grad f_i . k grad f_j, upper triangles row by row, for
/// the space's order; those of lower orders are parts of them.
struct ElementMatrices
{
    int local = 0;
    size_t stride = 0;
    std::vector<double> entries;  ///< shape (triangles, local (local + 1) / 2)
    [[nodiscard]] const double* of(int triangle) const
    {
        return &entries[size_t(triangle) * stride];
    }
    /// Entry (i, j), i <= j, in the packed upper triangle.
    [[nodiscard]] size_t at(int i, int j) const
    {
        return size_t(i * local - i * (i - 1) / 2 + j - i);
    }
    /// y = K x on one triangle with the first n functions; x, y of shape (n).
    void multiply(int triangle, int n, const double* x, double* y) const;
};

/// @param coefficient  one for each face of the partition, by Mesh::face
[[nodiscard]] ElementMatrices stiffness(const H1Space& space,
                                        std::span<const Coefficient> coefficient, Measure measure);

/// integral of f_i times a function over the triangles of some faces; shape (space.count())
/// @param density  for each face: the function, or empty for none
[[nodiscard]] std::vector<double> load(const H1Space& space,
                                       std::span<const std::function<double(Point)>> density,
                                       Measure measure);

/// integral of f_i times a function over edges of the mesh; added to `rhs`.
void addEdgeLoad(const H1Space& space, std::span<const int> edges,
                 const std::function<double(Point)>& density, Measure measure,
                 std::vector<double>& rhs);

/// Lower triangle by columns, rows rising.
struct SparseSymmetric
{
    int size = 0;
    std::vector<int> start, row;
    std::vector<double> value;
};

/// Which functions are solved for, and in what order: number[i] is the place of function i in
/// the system, or -1.
struct Numbering
{
    std::vector<int> place;     ///< shape (space.count(order))
    std::vector<int> function;  ///< the reverse
    [[nodiscard]] int size() const { return int(function.size()); }
};

/// Elimination rank of every corner of the mesh by nested dissection (METIS); shape (vertices).
/// @throws Error when memory runs out
[[nodiscard]] std::vector<int> cornerRanks(const mesh::Mesh& mesh);

/// Order of elimination from the ranks of corners: edge functions go with the end that is
/// eliminated first, inner ones with the corner eliminated first. This keeps separators while the
/// graph that METIS sees is small, and one dissection serves all orders.
/// @param isFree  shape (space.count(order)); 0: not solved for
[[nodiscard]] Numbering nestedDissection(const H1Space& space, int order,
                                         const std::vector<char>& isFree,
                                         std::span<const int> ranks);
/// The same with a dissection of its own.
[[nodiscard]] Numbering nestedDissection(const H1Space& space, int order,
                                         const std::vector<char>& isFree);

/// The system of the functions of an order that have a place.
[[nodiscard]] SparseSymmetric assemble(const H1Space& space, int order,
                                       const ElementMatrices& elements, const Numbering& numbering);

}  // namespace yh::fem
