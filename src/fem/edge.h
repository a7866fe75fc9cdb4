// Edge elements of the first kind on curved triangles and tetrahedra, order 1 to 3, hierarchical:
// the functions of order p come first among those of order p + 1, on the cell and in the global
// numbering.
//
// Cells are looked at with their corners in the rising order of the mesh (SortedCell), so that an
// edge or face has the same direction from all of its cells and no signs are needed. With
// barycentric coordinates l_i and Whitney's w_ab = l_a grad l_b - l_b grad l_a, for edges a < b,
// faces a < b < c and the tetrahedron 0 to 3:
//   order 1   edges  w_ab
//   order 2   edges  grad(l_a l_b)
//             faces  l_c w_ab,  l_a w_bc
//   order 3   edges  grad(l_a l_b (l_a - l_b))
//             faces  l_c (l_a - l_b) w_ab,  l_a (l_b - l_c) w_bc,  l_c (2 l_c - 1) w_ab,
//                    grad(l_a l_b l_c)
//             cells  l_2 l_3 w_01,  l_1 l_3 w_02,  l_1 l_2 w_03            (tetrahedra)
// The face of a triangle is the triangle itself. Fields of drawings may also point across them, see
// EdgeKind: there the scalar functions N of h1.h, corners taken in rising order, follow those
// above of each order. Gradients of the scalar functions of h1.h are sums of single functions, see
// EdgeSpace::gradient(). Source: Nedelec, Numer. Math. 35 (1980) 315; the split into gradients and
// rest after Webb, IEEE Trans. Antennas Propag. 47 (1999) 1244 (both from memory).
#pragma once

#include "fem/assembly.h"
#include "fem/h1.h"

#include <span>
#include <vector>

namespace yh::fem {

/// Which parts a field has, x, y, z being those of the drawing (round an axis r, z and against the
/// angle):
///   inside   in the plane alone; of solids all
///   across   z alone, E_z = N
///   round    z alone, round an axis: E_z = x N
///   turning  round an axis with cos(turns phi) in the plane and sin(turns phi) across it:
///            turns (E_x, E_y) = x w + (N, 0),  E_z = N
/// with w in edge elements. So values and curls stay finite on the axis, and the gradients of
/// x N / turns are those with w = grad N.
/// Source: Lacoste, Numer. Math. 84 (2000) 577; Oh, Math. Comput. 84 (2015) 1763 (both from
/// memory).
struct EdgeKind
{
    enum Parts { inside, across, round, turning } parts = inside;
    int turns = 0;
    [[nodiscard]] bool hasEdges() const { return parts == inside || parts == turning; }
    [[nodiscard]] bool hasScalars() const { return parts != inside; }
};

inline constexpr int highestEdgeOrder = 3;
inline constexpr int mostEdgeLocal = 45;

/// Functions on a cell: triangles 3, 8, 15 for order 1 to 3, tetrahedra 6, 20, 45.
constexpr int edgeLocalCount(int dimension, int order)
{
    return dimension == 2 ? order * (order + 2) : order * (order + 2) * (order + 3) / 2;
}

/// A cell with its corners in rising order. Its geometry may have a negative determinant.
struct SortedCell
{
    mesh::Geometry geometry;
    std::array<int, 4> corner{};  ///< sorted corner -> corner of the mesh's cell
    SortedCell(const mesh::Mesh& mesh, int cell);
    /// Reference coordinates of the mesh's cell -> those of the sorted one.
    [[nodiscard]] Point sorted(const Point& xi) const;
};

/// Functions by their components along the reference coordinates, and curls in the same frame:
/// physical function = J^-T value, physical curl = J curl / det J. In drawings the third reference
/// coordinate is z itself.
struct EdgeBasis
{
    Point value[mostEdgeLocal];
    Point curl[mostEdgeLocal];
};
void edgeBasis(int dimension, EdgeKind kind, int order, const Point& xi, EdgeBasis& out);

/// Global numbers: edges; then edges, two a face; then edges, four a face, three a tetrahedron. In
/// drawings with parts across them, behind those of each order: corners; edges; edges and faces.
class EdgeSpace
{
public:
    EdgeSpace(const mesh::Mesh& mesh, int order, EdgeKind kind = {});
    [[nodiscard]] const mesh::Mesh& mesh() const { return *m_mesh; }
    [[nodiscard]] EdgeKind kind() const { return m_kind; }
    [[nodiscard]] int order() const { return m_order; }
    [[nodiscard]] int count(int order) const;
    [[nodiscard]] int count() const { return count(m_order); }
    [[nodiscard]] int localCount(int order) const
    {
        return (m_kind.hasEdges() ? edgeLocalCount(m_mesh->dimension, order) : 0) +
               (m_kind.hasScalars() ? fem::localCount(2, order) : 0);
    }
    /// Numbers of the functions of a cell; shape (localCount(order)).
    void local(int cell, int order, int* number) const;
    /// Numbers of all functions whose part along a side does not vanish there.
    [[nodiscard]] std::vector<int> onSide(int side, int order) const;
    /// On periodic sides: which function stands for each, and how often every pair lies between the
    /// two. Both of shape (count(order)).
    void twins(int order, std::vector<int>& same,
               std::vector<mesh::Mesh::Twins::Turns>& turns) const;
    /// Numbers by cell for the highest order; shape (cells, localCount(order())).
    [[nodiscard]] std::vector<int> cellTable() const;
    /// Rank of the corner that each function goes with, for the order of elimination.
    [[nodiscard]] std::vector<int> functionRanks(int order, std::span<const int> ranks) const;

    /// For each edge the functions of higher order of itself and of the faces and cells that meet
    /// there; several lists one behind the other.
    void stars(int order, std::vector<int>& first, std::vector<int>& list) const;

    struct Value
    {
        Point value, curl;
    };
    /// What a field and its curl are at a place of a drawing, from those of w and N taken as parts
    /// of a field in Cartesian coordinates.
    [[nodiscard]] Value bent(const Value& plain, const Point& at) const;
    /// The function with these coefficients and its curl (1/m) at a place of a cell.
    /// @param coefficients  shape (count(order))
    /// @param xi            reference coordinates of the mesh's own cell
    [[nodiscard]] Value at(std::span<const double> coefficients, int order, int cell,
                           const Point& xi) const;

    /// Coefficients of the gradient of a scalar function of the same order.
    /// @param potential  shape (scalar.count(order))
    [[nodiscard]] std::vector<double> gradient(const H1Space& scalar, int order,
                                               std::span<const double> potential) const;
    /// The transpose: out_i = sum of x over the functions that the gradient of scalar function i is
    /// made of.
    [[nodiscard]] std::vector<double> gradientTransposed(const H1Space& scalar, int order,
                                                         std::span<const double> x) const;

private:
    friend ElementMatrices gradientElements(const EdgeSpace& space, const H1Space& scalar,
                                            const ElementMatrices& mass);
    template <class Visit>
    void overGradient(const H1Space& scalar, int order, Visit visit) const;
    [[nodiscard]] int start(int order) const { return order == 1 ? 0 : count(order - 1); }
    /// Functions of exactly this order that are edge elements: those behind them are scalars.
    [[nodiscard]] int edgesOfOrder(int order) const;

    const mesh::Mesh* m_mesh;
    int m_order;
    EdgeKind m_kind;
};

/// Element matrices of the products of gradients, from those of the fields they are part of.
/// @param mass  of the space's order; the result is for the order of `scalar`, at most that
[[nodiscard]] ElementMatrices gradientElements(const EdgeSpace& space, const H1Space& scalar,
                                               const ElementMatrices& mass);

/// All functions of a cell and their curls at one place, for several fields there.
class EdgePoint
{
public:
    /// @param xi  reference coordinates of the mesh's own cell
    EdgePoint(const EdgeSpace& space, int order, int cell, const Point& xi);
    [[nodiscard]] EdgeSpace::Value of(std::span<const double> coefficients) const;
    [[nodiscard]] int count() const { return m_count; }
    /// Global number of a local function, and its value there.
    [[nodiscard]] int number(int i) const { return m_number[i]; }
    [[nodiscard]] Point value(int i) const { return function(i).value; }
    [[nodiscard]] EdgeSpace::Value function(int i) const
    {
        return placed(m_basis.value[i], m_basis.curl[i]);
    }

private:
    [[nodiscard]] EdgeSpace::Value placed(const Point& value, const Point& curl) const;

    const EdgeSpace& m_space;
    int m_count;
    int m_number[mostEdgeLocal];
    EdgeBasis m_basis;
    double m_determinant;
    Point m_row[3], m_column[3], m_place;
};

/// Element matrices of a field in H(curl): integral of curl f_i . a curl f_j, and of f_i . b f_j.
struct EdgeElements
{
    ElementMatrices curl, mass;
};
/// @param inverseMu, eps  one for each piece of the partition, by Mesh::piece
/// @param only  by cell, those that have entries at all; empty: all
[[nodiscard]] EdgeElements edgeElements(const EdgeSpace& space,
                                        std::span<const Coefficient> inverseMu,
                                        std::span<const Coefficient> eps, Measure measure,
                                        std::span<const char> only = {});

/// What a field exp(-j kappa t . r) u with a fixed direction t adds to the curls of u: kappa j
/// times the first, integral of (t x f_i) . a curl f_j - curl f_i . a (t x f_j), and kappa^2 times
/// the second, integral of (t x f_i) . a (t x f_j).
struct SlantElements
{
    ElementMatrices linear, square;
};
[[nodiscard]] SlantElements slantElements(const EdgeSpace& space, const Point& direction,
                                          std::span<const Coefficient> inverseMu);

/// Product with the assembled matrix of an order, by function; shape (space.count(order)).
[[nodiscard]] std::vector<double> product(const EdgeSpace& space, int order,
                                          const ElementMatrices& elements,
                                          std::span<const double> x);
/// x . A x by cell; shape (cells).
[[nodiscard]] std::vector<double> energyByCell(const EdgeSpace& space, int order,
                                               const ElementMatrices& elements,
                                               std::span<const double> x);

/// What the functions of the next order meet in given fields, and their own entries.
struct NextTerm
{
    bool curl = true;            ///< the integral of the curls, else that of the values
    std::vector<double> factor;  ///< by piece; 0: nothing there
};
struct NextOrder
{
    int first = 0;  ///< number of the first of these functions
    size_t fields = 0;
    struct Part
    {
        std::vector<float> rows;  ///< f_i . A field_k; shape (functions, fields)
        std::vector<double> own;  ///< f_i . A f_i
    };
    std::vector<Part> parts;  ///< by term
};
/// @param space   of the next order, at least
/// @param fields  shape (count(order)) each
[[nodiscard]] NextOrder nextOrder(const EdgeSpace& space, int order,
                                  std::span<const std::vector<double>> fields,
                                  std::span<const Coefficient> inverseMu,
                                  std::span<const Coefficient> eps, Measure measure,
                                  std::span<const NextTerm> terms);

/// Element matrices of the parts along a side: integral of (n x f_i) . (n x f_j) over sides.
struct SideMatrix
{
    int side = -1;
    std::vector<int> number;    ///< functions
    std::vector<double> value;  ///< shape (numbers, numbers)
};
/// @param sides  sides of the mesh
[[nodiscard]] std::vector<SideMatrix> sideMass(const EdgeSpace& space, int order,
                                               std::span<const int> sides, Measure measure);
/// integral of g . f_i over sides, for every function that has a part along one of them.
/// @param g  by side of the mesh and place; what it has across the side does not count
struct SideLoad
{
    std::vector<int> number;
    std::vector<double> value;
};
[[nodiscard]] SideLoad sideLoad(const EdgeSpace& space, int order, std::span<const int> sides,
                                Measure measure, const std::function<Point(int, Point)>& g);
/// Points of quadrature on sides with what the functions are along them.
struct SideSamples
{
    int side = -1;
    std::vector<int> number;  ///< functions
    struct At
    {
        Point place, normal;       ///< out of the side's first cell, of length 1
        double weight = 0;         ///< with the measure
        std::vector<Point> along;  ///< by function
        std::vector<double> curl;  ///< the part of the curls across the side, by function
    };
    std::vector<At> points;
};
[[nodiscard]] std::vector<SideSamples> sideSamples(const EdgeSpace& space, int order,
                                                   std::span<const int> sides, Measure measure);
/// Their sum, in elimination order.
[[nodiscard]] SparseSymmetric sumOf(std::span<const SideMatrix> sides, const Numbering& numbering);

}  // namespace yh::fem
