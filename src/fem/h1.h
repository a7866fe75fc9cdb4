// Scalar continuous elements on curved triangles (order 1 to 4) and tetrahedra (order 1 to 3),
// hierarchical: the functions of order p come first among those of order p + 1, on the cell and in
// the global numbering.
//
// With barycentric coordinates l_i, edge k from corner a to corner b and face f with corners
// a, b, c as in mesh.h:
//   corners           l_i
//   edges,  order 2   l_a l_b
//           order 3   l_a l_b (l_a - l_b)
//           order 4   l_a l_b ((l_a - l_b)^2 - 1/5)
//   faces,  order 3   l_a l_b l_c
//           order 4   l0 l1 l2 (l1 - l0),  l0 l1 l2 (2 l2 - 1)      (triangles)
// A face is the triangle itself or a face of the tetrahedron.
// Source: Szabo and Babuska, Finite Element Analysis, 1991, section 6.2 (from memory), with plain
// products in place of the integrated Legendre polynomials.
#pragma once

#include "mesh/mesh.h"

#include <array>
#include <span>
#include <vector>

namespace yh::fem {

using base::Point;

inline constexpr int highestOrder = 4;
inline constexpr int highestSolidOrder = 3;
inline constexpr int mostLocal = 20;

/// Functions on a cell: triangles 3, 6, 10, 15 for order 1 to 4, tetrahedra 4, 10, 20.
constexpr int localCount(int dimension, int order)
{
    return dimension == 2 ? (order + 1) * (order + 2) / 2
                          : (order + 1) * (order + 2) * (order + 3) / 6;
}

/// Values and derivatives by the reference coordinates of all functions at one point.
struct Basis
{
    double value[mostLocal];
    double d[3][mostLocal];
};
void basis(int dimension, int order, const Point& xi, Basis& out);

/// Basis at all points of a quadrature rule, point after point.
struct BasisTable
{
    int dimension = 2, order = 1, count = 3;
    std::vector<Point> xi;
    std::vector<double> w;      ///< shape (points)
    std::vector<double> value;  ///< shape (points, count)
    std::vector<double> d[3];   ///< shape (points, count) each
    BasisTable(int cellDimension, int elementOrder, int degree);
    [[nodiscard]] int points() const { return int(w.size()); }
};

/// Global numbers of the functions: corners, then those of edges and faces of order 2, 3, 4, so
/// that order p takes the first `count(p)` of them.
class H1Space
{
public:
    H1Space(const mesh::Mesh& mesh, int order);
    [[nodiscard]] const mesh::Mesh& mesh() const { return *m_mesh; }
    [[nodiscard]] int order() const { return m_order; }
    [[nodiscard]] int count(int order) const;
    [[nodiscard]] int count() const { return count(m_order); }
    [[nodiscard]] int localCount(int order) const
    {
        return fem::localCount(m_mesh->dimension, order);
    }
    /// Numbers of the functions of a cell; odd edge functions change sign with the edge's
    /// direction, which `sign` tells. Both of shape (localCount(order())).
    void local(int cell, int* number, double* sign) const;
    /// Numbers of the functions of an edge beyond its corners, of order up to `order`.
    [[nodiscard]] std::vector<int> insideEdge(int edge, int order) const;
    /// Numbers of all functions that do not vanish on a side.
    [[nodiscard]] std::vector<int> onSide(int side, int order) const;

    /// Value and gradient (1/m) of the function with these coefficients.
    /// @param coefficients  shape (count(order))
    [[nodiscard]] double value(std::span<const double> coefficients, int order, int cell,
                               const Point& xi) const;
    [[nodiscard]] Point gradient(std::span<const double> coefficients, int order, int cell,
                                 const Point& xi) const
    {
        return at(coefficients, order, cell, xi).gradient;
    }
    struct At
    {
        double value;
        Point gradient;  ///< 1/m
        Point place;     ///< m
    };
    /// Both at once, and where that is.
    [[nodiscard]] At at(std::span<const double> coefficients, int order, int cell,
                        const Point& xi) const;

private:
    const mesh::Mesh* m_mesh;
    int m_order;
};

}  // namespace yh::fem
