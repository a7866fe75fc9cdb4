// Plane waves that meet a device in open space, and what it scatters.
//
// Inside the sphere where the absorbing shell begins the unknown is the whole field E, in the shell
// the scattered one E_s alone: the incident field never has to pass through the shell. Across the
// sphere E jumps by the incident field E_i. With w the function that has E_i along the sphere and
// lives in the shell's cells there, E_s = u - w, and u, which is continuous, follows from
//   a(u, v) = b(v),   b(v) = a_shell(w, v) - integral over the sphere of (n x curl E_i) . v.
//
// The amplitude far away in direction d with polarisation p is, by reciprocity, the reaction with
// a wave E_2 = p exp(j k d . r) that comes from there,
//   4 pi F . p = a_shell(E_s, w_2) - integral of (n x curl E_2) . E_s = b_2(u) - b_2(w),
// which errs by the product of two errors of fields, as S-parameters do. In the plane, with
// E_s = F exp(-j k r) / sqrt(r), |F . p|^2 is the square of the same expression over 8 pi k.
// Extinction follows from the wave that goes on: C = -Im(4 pi F . p) / (k E_0), p that of the wave.
// Source: Jackson, Classical Electrodynamics, 3rd ed., sections 10.6 and 10.11; Monk, Finite
// Element Methods for Maxwell's Equations, 2003, chapter 13, for jumps of the unknown (both from
// memory).
#pragma once

#include "fem/cholesky.h"
#include "physics/wave/common/far_field.h"

#include <memory>

namespace yh::physics {

/// A plane wave at one frequency.
struct IncidentField
{
    Point towards, polarisation;
    double field = 1, k = 0;  ///< V/m, 1/m
    bool conjugate = false;   ///< the same wave running back in time

    /// E = polarisation times this.
    [[nodiscard]] std::complex<double> at(const Point& p) const;
    /// curl E = (towards x polarisation) times this.
    [[nodiscard]] std::complex<double> curlAt(const Point& p) const;
};

/// What a device in open space sends out, by the field along a sphere around it.
class ScatteredField
{
public:
    using Vector = std::array<std::complex<double>, 3>;
    /// F in V of the whole device (solids), or in V/sqrt(m) by depth (drawings).
    [[nodiscard]] Vector at(const Point& direction) const;
    /// Power by solid angle (solids) or by angle and depth (drawings): W/sr, W/(rad m).
    [[nodiscard]] double intensity(const Point& direction) const;
    /// Their integral over all directions: W, W/m.
    [[nodiscard]] double power() const;

private:
    friend class Illumination;
    struct Source
    {
        Point place;
        Vector electric, turned;  ///< h and E_s x n, times the surface element
    };
    std::vector<Source> m_sources;
    std::vector<Image> m_images;
    double m_k = 0, m_radius = 0;
    bool m_plane = false;
};

/// The sphere as one order of a mesh sees it.
class Illumination
{
public:
    /// @param isFree     by function of the order; 0: the field vanishes there
    /// @param ranks      of the corners, in the order of elimination
    Illumination(const WaveProblem& problem, const fem::EdgeSpace& space, int order,
                 const std::vector<char>& isFree, std::span<const int> ranks);

    using Values = std::vector<std::complex<double>>;
    /// Functions that loads speak of.
    [[nodiscard]] const std::vector<int>& functions() const { return m_functions; }
    /// w, by place in functions().
    [[nodiscard]] Values lift(const IncidentField& wave) const;
    /// Values of another order's sphere of the same mesh, by place in functions() of this one.
    [[nodiscard]] Values embedded(const Illumination& other, const Values& values) const;
    /// b of a wave with lift w, by place in functions().
    [[nodiscard]] Values load(const IncidentField& wave, const Values& w) const;
    /// @param u     real and imaginary part, by function of the order
    /// @param w     lift of the wave that u comes from
    [[nodiscard]] ScatteredField scattered(const std::array<std::vector<double>, 2>& u,
                                           const Values& w, double k) const;

private:
    /// (A_shell x) by place in functions().
    [[nodiscard]] Values shellTimes(const Values& x, double k) const;
    /// The part along the sphere of what has these products with its functions.
    [[nodiscard]] Values projected(Values r) const;

    const WaveProblem& m_problem;
    const fem::EdgeSpace& m_space;
    int m_order;
    fem::EdgeElements m_real, m_imaginary;    ///< of the shell's cells that touch the sphere
    std::vector<fem::SideSamples> m_samples;  ///< normals point into the shell
    std::vector<int> m_functions;
    std::vector<int> m_place;          ///< by function of the order; -1: not among those
    std::vector<int> m_cells;          ///< of the shell, that touch the sphere
    std::vector<int> m_onSphere;       ///< places of the functions along the sphere that are free
    fem::Numbering m_numbering;        ///< of these
    mutable fem::Cholesky m_products;  ///< of these; solving needs work space of its own
};

}  // namespace yh::physics
