// Element matrices of div(k grad u) and the sparse symmetric system made of them.
#pragma once

#include "base/constants.h"
#include "fem/h1.h"
#include "fem/quadrature.h"

#include <functional>
#include <span>
#include <vector>

namespace yh::fem {

/// Symmetric tensor; drawings use its first three entries.
struct Tensor
{
    double xx = 1, xy = 0, yy = 1, xz = 0, yz = 0, zz = 1;
    bool operator==(const Tensor&) const = default;
    [[nodiscard]] Point times(const Point& v) const
    {
        return {xx * v.x + xy * v.y + xz * v.z, xy * v.x + yy * v.y + yz * v.z,
                xz * v.x + yz * v.y + zz * v.z};
    }
    /// The same in all directions.
    static constexpr Tensor isotropic(double k) { return {k, 0, k, 0, 0, k}; }
};

/// Coefficient of one region.
struct Coefficient
{
    Tensor constant;
    std::function<Tensor(Point)> at;  ///< position-dependent, takes the place of `constant`
    /// The same for what is known by cell; edge elements only.
    std::function<Tensor(int cell, const Point&)> inCell;
    [[nodiscard]] Tensor value(int cell, const Point& p) const
    {
        return inCell ? inCell(cell, p) : at ? at(p) : constant;
    }
    [[nodiscard]] bool isConstant() const { return !at && !inCell; }
};

enum class Measure {
    plane,         ///< dx dy, and dx dy dz in solids
    axisymmetric,  ///< 2 pi r dr dz, r = x
};
/// The factor that a measure puts before the volume element at a place.
[[nodiscard]] inline double measureAt(Measure measure, const Point& p)
{
    return measure == Measure::axisymmetric ? 2 * base::pi * p.x : 1.0;
}

/// Element matrices k(i, j) = integral of grad f_i . k grad f_j, upper triangles row by row, for
/// the space's order; those of lower orders are parts of them.
struct ElementMatrices
{
    int local = 0;
    size_t stride = 0;
    std::vector<double> entries;  ///< shape (cells, local (local + 1) / 2)
    /// Where only some cells have entries: by cell, which block is theirs; block 0 is zero.
    std::vector<int> block;
    bool antisymmetric = false;  ///< k(j, i) = -k(i, j)
    [[nodiscard]] size_t blockOf(int cell) const
    {
        return block.empty() ? size_t(cell) : size_t(block[size_t(cell)]);
    }
    [[nodiscard]] const double* of(int cell) const { return &entries[blockOf(cell) * stride]; }
    /// Entry (i, j), i <= j, in the packed upper triangle.
    [[nodiscard]] size_t at(int i, int j) const
    {
        return size_t(i * local - i * (i - 1) / 2 + j - i);
    }
    /// y = K x on one cell with the first n functions; x, y of shape (n).
    /// @tparam Value  double, or Wide: several columns
    template <class Value>
    void multiply(int cell, int n, const Value* x, Value* y) const;
};

/// @param coefficient  one for each piece of the partition, by Mesh::piece
[[nodiscard]] ElementMatrices stiffness(const H1Space& space,
                                        std::span<const Coefficient> coefficient, Measure measure);

/// Element matrices of the product of two functions, signs folded in as in stiffness().
[[nodiscard]] ElementMatrices scalarMass(const H1Space& space, Measure measure);

/// integral of f_i times a function over the cells of some pieces; shape (space.count())
/// @param density  for each piece: the function, or empty for none
[[nodiscard]] std::vector<double> load(const H1Space& space,
                                       std::span<const std::function<double(Point)>> density,
                                       Measure measure);

/// integral of f_i times a function over sides of cells; added to `rhs`.
void addSideLoad(const H1Space& space, std::span<const int> sides,
                 const std::function<double(Point)>& density, Measure measure,
                 std::vector<double>& rhs);

/// Visits quadrature points on sides of the mesh.
/// @param degree  polynomials to this degree are met exactly
/// @param wanted  called with (side, cell): whether to visit the side seen from that cell
/// @param visit   called with (side, cell, reference point, place, outward normal times surface
///                element, weight and the measure's factor)
template <class Wanted, class Visit>
void onSides(const mesh::Mesh& mesh, Measure measure, int degree, Wanted wanted, Visit visit)
{
    const auto& rule = cellRule(mesh.dimension - 1, degree);
    for (int s = 0; s < mesh.sideCount(); ++s)
        for (const int t : mesh.sideCells[size_t(s)]) {
            if (t < 0 || !wanted(s, t))
                continue;
            const int k = mesh.localSide(t, s);
            const mesh::Geometry g(mesh, t);
            for (const CellPoint& q : rule) {
                const Point xi = g.onSide(k, q.xi), p = g.at(xi);
                visit(s, t, xi, p, q.w * measureAt(measure, p) * g.outward(k, xi));
            }
        }
}

/// Lower triangle by columns, rows rising.
struct SparseSymmetric
{
    int size = 0;
    std::vector<int> start, row;
    std::vector<double> value;
};

/// y = A x with the lower triangle of a symmetric matrix by columns.
template <class Value>
void multiplySymmetric(std::span<const int> start, std::span<const int> row,
                       const std::vector<Value>& value, const std::vector<Value>& x,
                       std::vector<Value>& y)
{
    y.assign(x.size(), Value());
    for (size_t c = 0; c < x.size(); ++c)
        for (auto k = size_t(start[c]); k < size_t(start[c + 1]); ++k) {
            const auto r = size_t(row[k]);
            y[r] += value[k] * x[c];
            if (r != c)
                y[c] += value[k] * x[r];
        }
}

/// Which functions are solved for, and in what order: number[i] is the place of function i in
/// the system, or -1.
struct Numbering
{
    std::vector<int> place;     ///< shape (space.count(order))
    std::vector<int> function;  ///< the reverse
    [[nodiscard]] int size() const { return int(function.size()); }
};

/// Elimination rank of every corner of the mesh by nested dissection (METIS); shape (vertices).
/// Twins have the same.
/// @throws Error when memory runs out
[[nodiscard]] std::vector<int> cornerRanks(const mesh::Mesh& mesh);

/// Rank of the corner that each function goes with; shape (space.count(order)).
[[nodiscard]] std::vector<int> functionRanks(const H1Space& space, int order,
                                             std::span<const int> ranks);

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

/// Places by the rank of the corner that each function goes with.
/// @param ranks   shape (functions)
/// @param isFree  shape (functions); 0: not solved for
[[nodiscard]] Numbering byRank(std::span<const int> ranks, const std::vector<char>& isFree);

/// Functions of every cell, those of lower orders first.
struct CellFunctions
{
    const mesh::Mesh* mesh = nullptr;
    int width = 0;            ///< numbers stored for a cell
    int local = 0;            ///< of which this many take part
    std::vector<int> number;  ///< shape (cells, width)
};
/// Element matrices, times a factor of each piece of the partition (empty: 1).
struct Term
{
    const ElementMatrices* elements = nullptr;
    std::vector<double> byPiece;
};
/// Symmetric matrices on one pattern: lower triangles by columns, rows rising.
struct SymmetricFamily
{
    int size = 0;
    std::vector<int> start, row;
    std::vector<std::vector<double>> value;  ///< shape (terms, entries)
    /// Sum of the matrices with these factors.
    [[nodiscard]] SparseSymmetric sum(std::span<const double> factors) const;
    /// Where entry (i, j) of the pattern is stored.
    [[nodiscard]] size_t slot(int i, int j) const;
};
/// An entry of the lower triangle for one of the matrices of a family.
struct FamilyEntry
{
    int row = 0, column = 0;
    size_t term = 0;
    double value = 0;
};
/// Adds unknowns behind those of a family. Every new entry has its row there; those at the same
/// place are added up.
/// @param terms  how many matrices the family then has; new ones are zero but for the entries
void append(SymmetricFamily& family, int unknowns, size_t terms, std::vector<FamilyEntry> entries);
/// Products with one or two matrices of a pattern, both triangles kept so that threads can share
/// the rows.
class SymmetricProduct
{
public:
    /// @param first, second  terms of the family
    SymmetricProduct(const SymmetricFamily& family, size_t first, size_t second);
    /// y = A x with the first or second matrix; x and y of shape (size).
    void multiply(int which, const std::vector<double>& x, std::vector<double>& y) const;
    /// Both at once.
    void multiply(const std::vector<double>& x, std::vector<double>& y0,
                  std::vector<double>& y1) const;

private:
    std::vector<size_t> m_start;
    std::vector<int> m_column;
    std::vector<double> m_value[2];
};
[[nodiscard]] SymmetricFamily assemble(const CellFunctions& functions, std::span<const Term> terms,
                                       const Numbering& numbering);

/// The system of the functions of an order that have a place.
[[nodiscard]] SparseSymmetric assemble(const H1Space& space, int order,
                                       const ElementMatrices& elements, const Numbering& numbering);

}  // namespace yh::fem
