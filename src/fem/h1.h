// Scalar continuous elements of order 1 to 4 on curved triangles, hierarchical: the functions of
// order p come first among those of order p + 1, on the triangle and in the global numbering.
//
// With barycentric coordinates l0 = 1 - u - v, l1 = u, l2 = v, and edge k from corner a = k to
// b = (k + 1) % 3:
//   corners           l_i
//   edges,  order 2   l_a l_b
//           order 3   l_a l_b (l_a - l_b)
//           order 4   l_a l_b ((l_a - l_b)^2 - 1/5)
//   inside, order 3   l0 l1 l2
//           order 4   l0 l1 l2 (l1 - l0),  l0 l1 l2 (2 l2 - 1)
// Source: Szabo and Babuska, Finite Element Analysis, 1991, section 6.2 (from memory), with plain
// products in place of the integrated Legendre polynomials.
#pragma once

#include "mesh/mesh.h"

#include <array>
#include <span>
#include <vector>

namespace yh::fem {

inline constexpr int highestOrder = 4;
inline constexpr int mostLocal = 15;

/// Functions on a triangle: 3, 6, 10, 15 for order 1 to 4.
constexpr int localCount(int order)
{
    return (order + 1) * (order + 2) / 2;
}

/// Values and gradients (by u, v) of all functions of an order at a reference point.
/// @param[out] value, du, dv  shape (localCount(order))
void basis(int order, double u, double v, double* value, double* du, double* dv);

/// Basis at all points of a quadrature rule, point after point.
struct BasisTable
{
    int order = 1, count = 3;
    std::vector<double> u, v, w;        ///< shape (points)
    std::vector<double> value, du, dv;  ///< shape (points, count)
    BasisTable(int elementOrder, int degree);
    [[nodiscard]] int points() const { return int(w.size()); }
};

/// Global numbers of the functions: corners, then the edges' and insides' of order 2, 3, 4, so
/// that order p takes the first `count(p)` of them.
class H1Space
{
public:
    H1Space(const mesh::Mesh& mesh, int order);
    [[nodiscard]] const mesh::Mesh& mesh() const { return *m_mesh; }
    [[nodiscard]] int order() const { return m_order; }
    [[nodiscard]] int count(int order) const;
    [[nodiscard]] int count() const { return count(m_order); }
    /// Numbers of the functions of a triangle; odd edge functions change sign with the edge's
    /// direction, which `sign` tells. Both of shape (localCount(order)).
    void local(int triangle, int* number, double* sign) const;
    /// Numbers of the functions along an edge: two corners, then order 2, 3, 4.
    [[nodiscard]] std::vector<int> onEdge(int edge) const;

    /// Value and gradient (1/m) of the function with these coefficients.
    /// @param coefficients  shape (count(order))
    [[nodiscard]] double value(std::span<const double> coefficients, int order, int triangle,
                               double u, double v) const;
    [[nodiscard]] mesh::Point gradient(std::span<const double> coefficients, int order,
                                       int triangle, double u, double v) const;

private:
    const mesh::Mesh* m_mesh;
    int m_order;
};

}  // namespace yh::fem
