// Curved second-order triangles and tetrahedra over a partition of the plane or of a solid.
#pragma once

#include "base/progress.h"
#include "shape/partition.h"

#include <array>
#include <cstdint>
#include <limits>
#include <span>
#include <vector>

namespace yh::mesh {

using sheet::Point;

/// Curved second-order simplices: triangles of a drawing or tetrahedra of a solid.
///
/// Both kinds share one layout, so that what stands above does not ask for the dimension. A side
/// of a cell is an edge of a triangle or a face of a tetrahedron.
///   edges of a cell   0-1, 1-2, 2-0, and of tetrahedra 0-3, 1-3, 2-3
///   sides             triangle: its edges; tetrahedron: side k lies opposite corner k
/// Corners of triangles run anticlockwise; tetrahedra have a positive determinant. Every edge has
/// a middle node; on a geometric curve or surface it lies on it exactly, elsewhere halfway.
struct Mesh
{
    int dimension = 2;
    std::vector<Point> vertices;                    ///< m; shape (vertices)
    std::vector<std::array<int, 4>> cells;          ///< corners; triangles: -1 last; shape (cells)
    std::vector<std::array<int, 6>> cellEdges;      ///< triangles: three of them; shape (cells)
    std::vector<std::array<int, 4>> cellFaces;      ///< tetrahedra only; shape (cells)
    std::vector<int> piece;                         ///< piece of the partition; shape (cells)
    std::vector<std::array<int, 2>> edges;          ///< ends, lower index first; shape (edges)
    std::vector<Point> middles;                     ///< middle nodes, m; shape (edges)
    std::vector<int> edgeCurve;                     ///< curve of the partition or -1; shape (edges)
    std::vector<std::array<double, 2>> parameters;  ///< curve parameters at the ends; (edges)
    std::vector<std::array<int, 3>> faces;          ///< corners, rising; tetrahedra; shape (faces)
    std::vector<std::array<int, 2>> sideCells;      ///< -1 where there is none; shape (sides)
    std::vector<int> sideTag;                       ///< side of the partition or -1; shape (sides)
    std::vector<std::array<int, 2>> facing;         ///< pairs of sides that a cut has parted
    /// Where sides are periodic: which vertex, edge or side of the mesh stands for each, and how
    /// often every pair lies between the two. Empty elsewhere.
    struct Twins
    {
        using Turns = std::array<int, 3>;  ///< by pair, in what follows its shift
        std::vector<int> vertex, edge, side;
        std::vector<Turns> vertexTurns, edgeTurns, sideTurns;
        /// An order of the vertices that is the same on twin sides.
        std::vector<int> rank;
        [[nodiscard]] bool empty() const { return vertex.empty(); }
    };
    Twins twins;

    [[nodiscard]] int cellCount() const { return int(cells.size()); }
    [[nodiscard]] int vertexCount() const { return int(vertices.size()); }
    [[nodiscard]] int edgeCount() const { return int(edges.size()); }
    [[nodiscard]] int sideCount() const { return int(sideCells.size()); }
    /// Triangles that can carry functions of their own: cells of a drawing, faces of a solid.
    [[nodiscard]] int faceCount() const { return dimension == 2 ? cellCount() : int(faces.size()); }
    [[nodiscard]] int cornerCount() const { return dimension + 1; }
    [[nodiscard]] int edgesOfCell() const { return dimension == 2 ? 3 : 6; }
    [[nodiscard]] std::span<const int> corners(int cell) const
    {
        return {cells[size_t(cell)].data(), size_t(dimension + 1)};
    }
    [[nodiscard]] std::span<const int> edgesOf(int cell) const
    {
        return {cellEdges[size_t(cell)].data(), dimension == 2 ? size_t(3) : size_t(6)};
    }
    [[nodiscard]] std::span<const int> sidesOf(int cell) const
    {
        return dimension == 2 ? std::span<const int>{cellEdges[size_t(cell)].data(), 3}
                              : std::span<const int>{cellFaces[size_t(cell)].data(), 4};
    }
    /// Corners of a side: two or three.
    [[nodiscard]] std::span<const int> sideCorners(int side) const
    {
        return dimension == 2 ? std::span<const int>{edges[size_t(side)].data(), 2}
                              : std::span<const int>{faces[size_t(side)].data(), 3};
    }
    /// Edges of a side: itself, or the three of a face.
    [[nodiscard]] std::array<int, 3> sideEdges(int side, int& count) const;
    [[nodiscard]] Point middle(int cell, int k) const
    {
        return middles[size_t(cellEdges[size_t(cell)][size_t(k)])];
    }
    /// Place of a side in the list of a cell's sides.
    [[nodiscard]] int localSide(int cell, int side) const;

    /// An edge of the mesh on a curve of the partition.
    struct CurveEdge
    {
        int a, b, curve;
        double ta, tb;
    };
    /// A face of the mesh on a face of the partition (solids).
    struct SurfaceFace
    {
        int a, b, c, surface;
    };
    /// Rebuilds edges, sides, middles and neighbours from cells and what lies on the geometry.
    /// @param onSurfaces  solids only
    void connect(const shape::Partition& partition, std::span<const CurveEdge> onCurves,
                 std::span<const SurfaceFace> onSurfaces = {});

private:
    void connectEdges(std::span<const CurveEdge> onCurves);
    void connectFaces(std::span<const SurfaceFace> onSurfaces);
    void placeMiddles(const shape::Partition& partition);
};

/// Local corners of edge k of a cell.
inline constexpr int edgeCorner[6][2] = {{0, 1}, {1, 2}, {2, 0}, {0, 3}, {1, 3}, {2, 3}};
/// Local corners of face k of a tetrahedron, seen anticlockwise from outside.
inline constexpr int faceCorner[4][3] = {{1, 2, 3}, {0, 3, 2}, {0, 1, 3}, {0, 2, 1}};

/// Map from the reference simplex, with corners at 0 and the unit vectors, to a curved cell.
/// Reference coordinates u, v, w are x, y, z of a Point.
struct Geometry
{
    int dimension = 2;
    std::array<Point, 10> node;  ///< corners, then middles of edges
    bool curved = false;

    Geometry(const Mesh& mesh, int cell);
    [[nodiscard]] Point at(const Point& xi) const;
    /// Columns of the Jacobian: derivatives of the place by u, v (and w).
    void jacobian(const Point& xi, Point column[3]) const;
    [[nodiscard]] double determinant(const Point& xi) const;
    /// Rows of the inverse Jacobian, grad u, grad v, grad w in 1/m; returns the determinant.
    double inverse(const Point& xi, Point row[3]) const;
    /// Middle of the reference simplex.
    [[nodiscard]] Point centre() const;
    /// Reference coordinates of a point of side k. Triangles: s = t.x in [0, 1] from its first
    /// corner; tetrahedra: t = (u, v) on the triangle of faceCorner[k].
    [[nodiscard]] Point onSide(int k, const Point& t) const;
    /// Outward normal of side k at reference coordinates of the cell; its length is the line or
    /// surface element by the coordinates of the side, m or m^2.
    [[nodiscard]] Point outward(int k, const Point& xi) const;
    /// Derivative of the map along side k of a triangle by s, m.
    [[nodiscard]] Point alongSide(int k, const Point& xi) const;
    /// Reference coordinates of a point (Newton); false when it runs away.
    bool invert(const Point& p, Point& xi) const;
    /// Lower bound of the determinant over the cell: for triangles by Bernstein coefficients, for
    /// tetrahedra the least over corners, middles and centre.
    [[nodiscard]] double leastDeterminant() const;
};

struct SizeRule
{
    int piece = -1, side = -1;  ///< one of them is set
    double size = 0.0;          ///< m
};

/// Two sets of sides of the partition that are the same but for a shift.
struct PeriodicPair
{
    std::vector<std::array<int, 2>> sides;  ///< from, to
    Point shift;                            ///< m, from the first to the second
};
/// Fills `twins`.
/// @param pairs  at most three
/// @returns false where the sides are not meshed alike
[[nodiscard]] bool findTwins(Mesh& mesh, std::span<const PeriodicPair> pairs);

struct Options
{
    std::vector<int> pieces;  ///< pieces of the partition to be meshed
    double cellsAcrossGap = 2;
    std::vector<SizeRule> sizes;
    double largest = 0.0;  ///< m; 0: a tenth of the drawing
    std::vector<PeriodicPair> periodic;
};

/// Meshes the given pieces.
/// @throws Error naming the place where no valid mesh was found; Cancelled
[[nodiscard]] Mesh generate(const shape::Partition& partition, const Options& options,
                            base::Progress& progress);

/// Splits the marked cells, and neighbours as far as needed for a conforming mesh, on twin sides
/// alike. New nodes on
/// the geometry lie on it exactly. Longest edges are split first, so that angles stay
/// bounded. Source: Rivara, Int. J. Numer. Methods Eng. 20 (1984) 745 (from memory).
/// @param marked   shape (cells)
/// @param[out] parent  for each new cell the old one it came from, if wanted
[[nodiscard]] Mesh refine(const Mesh& mesh, const shape::Partition& partition,
                          const std::vector<char>& marked, std::vector<int>* parent = nullptr);

/// Cells near a straight line in space.
struct LineRule
{
    Point from, to;
    double near = 0, size = 0;  ///< m: cells nearer than that have no longer edges
};
/// Cells whose determinant falls below a share of that in their middle, as where a curved side
/// turns them inside out; shape (cells), empty where there is none.
[[nodiscard]] std::vector<char> folded(const Mesh& mesh, double leastShare);

/// Splits cells near lines until their edges are short enough.
[[nodiscard]] Mesh refineAlong(Mesh mesh, const shape::Partition& partition,
                               std::span<const LineRule> lines, base::Progress& progress);

/// A mesh of the positive side of a plane x, y or z = 0 (axis 0, 1, 2), and its mirror image: cell
/// i + n is the image of cell i of n.
/// @throws Error where the partition is not its own mirror image
[[nodiscard]] Mesh mirrored(const Mesh& half, const shape::Partition& partition, int axis);

/// The same cells with nothing in common across some sides of the partition, so that a field may
/// jump there; `facing` lists what lay together.
/// @param sides  by side of the partition: whether it is cut
[[nodiscard]] Mesh cut(const Mesh& mesh, const shape::Partition& partition,
                       const std::vector<char>& sides);

struct Quality
{
    double worst = 1.0, mean = 1.0;  ///< d r_in / r_out of the straight cell, 1 is best
    Point worstAt;
    int curvedCount = 0;
};
[[nodiscard]] Quality quality(const Mesh& mesh);

/// Finds the cell that holds a point.
class Locator
{
public:
    explicit Locator(const Mesh& mesh);
    struct Hit
    {
        int cell = -1;
        Point xi;  ///< reference coordinates
    };
    /// cell -1: the point lies in no cell.
    [[nodiscard]] Hit find(Point p) const;

private:
    const Mesh& m_mesh;
    Point m_low;
    double m_cell = 1.0;
    int m_nx = 1, m_ny = 1, m_nz = 1;
    std::vector<int> m_start, m_list;
};

}  // namespace yh::mesh
