// Linear fields of several components on one scalar space, assembled in blocks.
//
//   a(v, u) = integral of the sum over f, a, g, b of  C[fa, gb]  (D_a v_f) (D_b u_g)
//
// with D_0 the value and D_1, D_2 (D_3) the derivatives by x, y (z). What C holds is up to the
// physics: stiffness, mass, and what couples a displacement to a potential.
#pragma once

#include "fem/assembly.h"

#include <functional>
#include <vector>

namespace yh::fem {

inline constexpr int mostComponents = 4;

/// C at a place of a piece, row by row and symmetric, over (component, value or derivative):
/// shape (components (1 + dimension))^2, zero beforehand.
/// @returns false: there is nothing at all in this piece
using BlockForm = std::function<bool(int piece, const Point& at, double* C)>;

/// Element matrices of some forms, the components of a function side by side: function i of
/// component f is local number i * components + f, so that lower orders are parts of higher ones.
/// Signs are folded in as in stiffness().
/// @param more  degrees of quadrature beyond those of polynomial coefficients (1/r round an axis)
[[nodiscard]] ElementMatrices blockElements(const H1Space& space, int components,
                                            const BlockForm& form, Measure measure, int more = 0);

/// Which coefficients are solved for: some components are live in some pieces only, are zero on
/// some sides, or have one value in common on a body.
class BlockSpace
{
public:
    struct Held
    {
        int component = 0;
        std::vector<char> sides;  ///< by side of the partition
    };
    struct Body
    {
        int component = 0;
        std::vector<char> sides, pieces;  ///< of the partition
        bool given = false;               ///< numbered behind all others
    };
    /// @param live  by component and piece of the partition
    BlockSpace(const H1Space& space, std::vector<std::vector<char>> live, std::vector<Held> held,
               std::vector<Body> bodies);

    [[nodiscard]] int components() const { return int(m_live.size()); }
    [[nodiscard]] const H1Space& space() const { return m_space; }
    /// Unknowns in elimination order, bodies last and given ones last of all.
    struct Layout
    {
        int order = 1;
        Numbering numbering;         ///< by function * components + component, then bodies
        int free = 0;                ///< those that are not given
        std::vector<int> bodyPlace;  ///< -1: a body that touches no cell
        CellFunctions functions;
    };
    [[nodiscard]] const Layout& layout(int order) const;
    /// Coefficients of a component; zero where there is none. Shape (space.count(order)).
    [[nodiscard]] std::vector<double> coefficients(const Layout& layout, int component,
                                                   const std::vector<double>& x) const;
    /// Vertices at which a component is zero.
    [[nodiscard]] std::vector<char> heldVertices(int component) const;

private:
    const H1Space& m_space;
    std::vector<std::vector<char>> m_live;
    std::vector<Held> m_held;
    std::vector<Body> m_bodies;
    mutable std::vector<Layout> m_layouts;
    mutable std::vector<int> m_ranks;
};

/// The part of a family that belongs to the first unknowns, scaled so that the diagonal of the
/// first matrix is one: displacements and potentials then count alike.
struct FreePart
{
    int size = 0;
    std::vector<double> scale;  ///< of all unknowns of the family; x = scale times what is solved
    std::vector<int> start, row;
    std::vector<std::vector<double>> value;  ///< shape (terms, entries)
    FreePart() = default;
    FreePart(const SymmetricFamily& family, int free);
    /// y = A x of one of the matrices; shape (size).
    void times(size_t term, const std::vector<double>& x, std::vector<double>& y) const
    {
        multiplySymmetric<double>(start, row, value[term], x, y);
    }
};

}  // namespace yh::fem
