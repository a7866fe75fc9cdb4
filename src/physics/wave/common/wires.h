// Thin wires among waves.
//
// A round wire of radius a is not meshed. Its current I(s) enters the field as a smooth density,
//   J(x) = integral of I(s) t(s) G(|x - r(s)|) ds,   G of content 1 within a radius b,
// and the field answers with the mean of E weighed by the same G. Outside 2 b both are those of
// the wire itself but for a factor M(k), by the mean value properties of 1/R and exp(-j k R)/R.
// What is missing near by is known: with u, v on the wire,
//   integral of E . J_v = M V_v + j omega mu0 integral over both of (mu t_u . t_v u v
//                          - u' v' / (k^2 eps)) D(R) / 4 pi,
//   D(R) = M^2 cos(k R_a) / R_a - (G * G * cos(k R) / R)(R),
// with R_a the distance of two places of the surface, R_a^2 = R^2 + (2 a sin(angle / 2))^2, over
// whose angle the mean is taken,
// so that the mesh has to resolve b and not a, and b may be chosen as it suits: it only has to stay
// within the wire's medium. Walls within 2 b count by the images of the wire.
// Source: thin-wire kernel: Harrington, Field Computation by Moment Methods, chapter 4 (from
// memory); a density of finite width with the rest by formula is our own derivation, akin to that
// of Holland and Simpson, IEEE Trans. EMC 23 (1981) 88 (from memory).
#pragma once

#include "base/point.h"

#include <Eigen/Core>

#include <array>
#include <complex>
#include <map>
#include <memory>
#include <string>
#include <vector>

namespace yh::fem {
class EdgeSpace;
}

namespace yh::physics {

using base::Point;

/// Parts of the matrix of the currents, in the unknowns z = j eta0 I / M, with which the whole
/// stays symmetric.
struct WireMatrices
{
    Eigen::MatrixXd constant, square, fourth;  ///< times 1, -k^2 and k^4, k in vacuum
    Eigen::MatrixXd medium;                    ///< times j: loss of the media near by
    Eigen::MatrixXd metal;  ///< times j k Z M^2 / eta0 with Z of the first segment of metal
};

/// The wires of a device in straight segments, and what is near them.
struct ThinWires
{
    struct Image
    {
        Point from, to;
        double sign = 1;  ///< of the current along it
    };
    struct Segment
    {
        int from = 0, to = 0;  ///< nodes
        int line = -1;         ///< of the sheet
        double radius = 0;     ///< m
        double eps = 1, mu = 1, loss = 0;
        double sigma = 0;  ///< S/m; 0: no loss in the wire
        double share = 1;  ///< of it that is modelled: planes of symmetry may cut it lengthwise
        std::vector<Image> images;
        /// Planes of conductors on which the wire ends near by: a place, and the normal that points
        /// to its side. The density is nothing behind them.
        std::vector<std::array<Point, 2>> walls;
    };
    std::vector<Point> nodes;
    std::vector<char> grounded;  ///< by node: whether it lies on a conductor, where current goes on
    std::vector<Segment> segments;
    double smooth = 0;  ///< b, m
    /// Matrices of the currents by degree, once they have been worked out.
    mutable std::map<int, std::shared_ptr<const WireMatrices>> known;
    [[nodiscard]] bool empty() const { return segments.empty(); }
    /// Product of relative permittivity and permeability of the wires' medium. That of the first
    /// segment stands for all: it only serves M, which is near 1.
    [[nodiscard]] double medium() const
    {
        return segments.empty() ? 1.0 : segments[0].eps * segments[0].mu;
    }
    [[nodiscard]] bool isLossy() const;    ///< in the wires' media
    [[nodiscard]] bool isOfMetal() const;  ///< in the wires themselves
    /// The segments that end at a node.
    [[nodiscard]] std::vector<int> at(int node) const;
};

/// M by the wave number in the medium times b.
[[nodiscard]] double smoothing(double kb);

/// Impedance of a round wire by its inside, ohm/m, at a frequency in Hz.
/// Source: Ramo, Whinnery and Van Duzer, Fields and Waves in Communication Electronics,
/// section 4.5 (from memory).
[[nodiscard]] std::complex<double> insideImpedance(double radius, double sigma, double frequency);

/// The two parts of D by powers of k^2 in the wires' medium: constant, times k^2, times k^4; 1/m,
/// m, m^3.
/// @param smooth  b, m
[[nodiscard]] std::array<double, 3> surfaceKernel(double Ra, double smooth);
[[nodiscard]] std::array<double, 3> smoothKernel(double R, double smooth);

/// Currents along the wires as polynomials of one degree on every segment, those of lower degrees
/// first; continuous, by Kirchhoff's law at nodes, and zero at free ends.
class WireCurrents
{
public:
    WireCurrents(const ThinWires& wires, int degree);
    [[nodiscard]] int count() const { return m_count; }
    /// @param frequency  Hz, at which wires of several metals are compared
    [[nodiscard]] const WireMatrices& matrices(double frequency) const;
    struct Product
    {
        int function = 0, current = 0, cell = 0;
        double value = 0;
    };
    /// Integrals of edge functions times the smooth densities of the currents over the cells where
    /// there are both.
    /// @param first  functions of lower numbers are left out
    [[nodiscard]] std::vector<Product> products(const fem::EdgeSpace& space, int order,
                                                int first = 0) const;
    /// Mean of every current over a gap about a node, of which only half is there at a ground.
    [[nodiscard]] std::vector<double> gap(int node, double width) const;

private:
    class CellProducts;
    /// Adds what segment `i` and one that leads from b0 to b1 have in common.
    void addPair(size_t i, size_t j, const Point& b0, const Point& b1, double sign,
                 WireMatrices& m) const;
    /// Adds what a wire's metal loses, over that of a wire of impedance 1.
    void addMetal(size_t i, double by, WireMatrices& m) const;
    [[nodiscard]] WireMatrices computed(double frequency) const;
    struct Local
    {
        int current = 0, shape = 0;
        double sign = 1;
    };
    const ThinWires& m_wires;
    int m_degree, m_count = 0;
    std::vector<std::vector<Local>> m_locals;  ///< by segment
};

}  // namespace yh::physics
