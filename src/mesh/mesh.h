// Curved second-order triangles over a partition of the plane.
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

/// Triangles with straight inner and curved border edges.
///
/// Edge k of a triangle joins its corners k and (k + 1) % 3; corners run anticlockwise. Every
/// edge has a middle node; on a geometric edge it lies on the exact curve, elsewhere halfway.
struct Mesh
{
    std::vector<Point> vertices;                    ///< m; shape (vertices)
    std::vector<std::array<int, 3>> triangles;      ///< corners; shape (triangles)
    std::vector<std::array<int, 3>> triangleEdges;  ///< shape (triangles)
    std::vector<int> face;                          ///< face of the partition; shape (triangles)
    std::vector<std::array<int, 2>> edges;          ///< ends, lower index first; shape (edges)
    std::vector<Point> middles;                     ///< middle nodes, m; shape (edges)
    std::vector<std::array<int, 2>> edgeTriangles;  ///< -1 where there is none; shape (edges)
    std::vector<int> curve;                         ///< edge of the partition or -1; shape (edges)
    std::vector<std::array<double, 2>> parameters;  ///< curve parameters at the ends; shape (edges)

    [[nodiscard]] int triangleCount() const { return int(triangles.size()); }
    [[nodiscard]] int vertexCount() const { return int(vertices.size()); }
    [[nodiscard]] int edgeCount() const { return int(edges.size()); }
    [[nodiscard]] Point middle(int triangle, int k) const
    {
        return middles[size_t(triangleEdges[size_t(triangle)][size_t(k)])];
    }

    /// Rebuilds edges, middles and neighbours from triangles and the curve data of old edges.
    struct CurveEdge
    {
        int a, b, curve;
        double ta, tb;
    };
    void connect(const shape::Partition& partition, std::span<const CurveEdge> onCurves);
};

/// Map from the reference triangle (0,0), (1,0), (0,1) to a curved triangle.
struct Geometry
{
    std::array<Point, 6> node;  ///< corners, then middles of edges 0-1, 1-2, 2-0
    bool curved = false;

    Geometry(const Mesh& mesh, int triangle);
    [[nodiscard]] Point at(double u, double v) const;
    /// Columns of the Jacobian: d(x, y)/du, d(x, y)/dv.
    void jacobian(double u, double v, Point& du, Point& dv) const;
    [[nodiscard]] double determinant(double u, double v) const;
    /// Reference coordinates of the point at s in [0, 1] along side k, from its first corner.
    static void onSide(int k, double s, double& u, double& v);
    /// Derivative of the map along side k by s at a reference point, m.
    [[nodiscard]] Point alongSide(int k, double u, double v) const;
    /// Reference coordinates of a point (Newton); false when it runs away.
    bool invert(Point p, double& u, double& v) const;
    /// Smallest determinant over a bound of the quadratic map (Bernstein coefficients).
    [[nodiscard]] double leastDeterminant() const;
};

struct SizeRule
{
    int face = -1, curve = -1;  ///< one of them is set
    double size = 0.0;          ///< m
};

struct Options
{
    std::vector<int> faces;  ///< faces of the partition to be meshed
    double cellsAcrossGap = 2;
    std::vector<SizeRule> sizes;
    double largest = 0.0;  ///< m; 0: a tenth of the drawing
};

/// Meshes the given faces.
/// @throws Error naming the place where no valid mesh was found; Cancelled
[[nodiscard]] Mesh generate(const shape::Partition& partition, const Options& options,
                            base::Progress& progress);

/// Splits the marked triangles, and neighbours as far as needed for a conforming mesh. New nodes
/// on geometric edges lie on the exact curve. Longest edges are split first, so that angles stay
/// bounded. Source: Rivara, Int. J. Numer. Methods Eng. 20 (1984) 745 (from memory).
/// @param marked   shape (triangles)
/// @param[out] parent  for each new triangle the old one it came from, if wanted
[[nodiscard]] Mesh refine(const Mesh& mesh, const shape::Partition& partition,
                          const std::vector<char>& marked, std::vector<int>* parent = nullptr);

struct Quality
{
    double worst = 1.0, mean = 1.0;  ///< 2 r_in / r_out of the straight triangle, 1 is best
    Point worstAt;
    int curvedCount = 0;
};
[[nodiscard]] Quality quality(const Mesh& mesh);

/// Finds the triangle that holds a point.
class Locator
{
public:
    explicit Locator(const Mesh& mesh);
    struct Hit
    {
        int triangle = -1;
        double u = 0, v = 0;
    };
    /// triangle -1: the point lies in no triangle.
    [[nodiscard]] Hit find(Point p) const;

private:
    const Mesh& m_mesh;
    Point m_low;
    double m_cell = 1.0;
    int m_nx = 1, m_ny = 1;
    std::vector<int> m_start, m_list;
};

}  // namespace yh::mesh
