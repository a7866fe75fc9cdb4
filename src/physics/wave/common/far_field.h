// Far fields of what a device sends into open space.
//
// On the sphere of radius R where the absorbing shell begins, the tangential part of E is written
// in vector spherical harmonics,
//   Psi_lm = r grad Y_lm / sqrt(l (l + 1)),   Phi_lm = rhat x Psi_lm,
// and each runs outwards as a spherical wave of its own: with x = k R and the Hankel function h of
// the second kind, Phi falls as h_l(x), Psi as (x h_l(x))' / x. Far away E becomes F exp(-j k r) /
// r with F = sum of Phi_lm b_lm j^(l+1) / (k h_l(x)) + Psi_lm a_lm j^l / (k (x h_l(x))' / x). The
// angles theta (from the z axis) and phi are those of the sheet's own axes. Source: Jackson,
// Classical Electrodynamics, 3rd ed., sections 9.6 to 9.9 (from memory).
#pragma once

#include "fem/edge.h"
#include "physics/wave/common/wave.h"

#include <Eigen/Core>

#include <array>
#include <complex>
#include <vector>

namespace yh::physics {

/// An image of a point and of a field there under the symmetry of the device:
/// E(of(p)) = sign of(E(p)).
struct Image
{
    double m[3][3] = {{1, 0, 0}, {0, 1, 0}, {0, 0, 1}};  ///< orthogonal
    double sign = 1;
    [[nodiscard]] Point of(const Point& p) const;
};
/// The first is the device's own part.
[[nodiscard]] std::vector<Image> imagesOf(const WaveProblem& problem);

/// Vector spherical harmonics of degrees 1 to a largest one; orders m >= 0, by place().
class VectorHarmonics
{
public:
    explicit VectorHarmonics(int degree);
    [[nodiscard]] int degree() const { return m_degree; }
    [[nodiscard]] static size_t place(int l, int m) { return size_t(l * (l + 1) / 2 + m - 1); }
    [[nodiscard]] size_t size() const { return place(m_degree, m_degree) + 1; }
    /// dY/dtheta and m Y / sin(theta), both over sqrt(l (l + 1)), without exp(j m phi).
    void at(double theta, std::vector<double>& slope, std::vector<double>& turn) const;

private:
    int m_degree;
};

class FarField
{
public:
    FarField(int degree, double k) : m_harmonics(degree), m_k(k) {}
    /// F in V along theta and phi, peak value.
    [[nodiscard]] std::array<std::complex<double>, 2> at(double theta, double phi) const;
    /// Power into open space, W.
    [[nodiscard]] double radiated() const;
    /// Power by solid angle, W/sr.
    [[nodiscard]] double intensity(double theta, double phi) const;
    struct Peak
    {
        double theta = 0, phi = 0, intensity = 0;  ///< rad, rad, W/sr
    };
    [[nodiscard]] Peak strongest() const;
    /// Long over short axis of the ellipse of F; infinite where it is a line.
    [[nodiscard]] double axialRatio(double theta, double phi) const;

private:
    friend class SphereExpansion;
    VectorHarmonics m_harmonics;
    double m_k;
    /// Far amplitudes of Psi and Phi, V; [0]: orders m, [1]: orders -m.
    std::array<std::vector<std::complex<double>>, 2> m_psi, m_phi;
};

/// The harmonics of a set of real fields, by which those of all their mixtures are known.
class SphereExpansion
{
public:
    /// @param basis  fields, by function of the order
    /// @param k      the largest wave number that is asked for, 1/m
    SphereExpansion(const WaveProblem& problem, const fem::EdgeSpace& space, int order,
                    const std::vector<std::vector<double>>& basis, double k);
    /// @param mixture  of the basis
    [[nodiscard]] FarField farField(const Eigen::VectorXcd& mixture, double frequency) const;

private:
    struct Sample
    {
        double theta = 0, phi = 0, solidAngle = 0;
        std::vector<std::array<double, 2>> field;  ///< along theta and phi, by basis
    };
    /// What a place of the sphere gives to the harmonics of all fields.
    void addSample(const Sample& s, int orders, std::vector<std::vector<std::complex<double>>>& psi,
                   std::vector<std::vector<std::complex<double>>>& swirl) const;
    [[nodiscard]] std::vector<Sample> samples(const WaveProblem& problem,
                                              const fem::EdgeSpace& space, int order,
                                              const std::vector<std::vector<double>>& basis) const;
    VectorHarmonics m_harmonics;
    double m_radius;
    std::vector<std::vector<std::complex<double>>> m_psi, m_phi;  ///< by basis and place
};

}  // namespace yh::physics
