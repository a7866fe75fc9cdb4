// Elastic and piezoelectric media: constants of a crystal or ceramic, and what they are in the
// axes of a drawing.
//
//   T = c S - e^T E,   D = e S + eps E
//
// with strains and stresses in the order xx, yy, zz, yz, xz, xy, shear strains twice the tensor's.
// Losses make the constants complex for exp(j omega t): c (1 + j / Q), eps (1 - j tan delta).
// Source: IEEE Std 176-1987, section 2 (from memory).
#pragma once

#include "base/point.h"

#include <Eigen/Core>
#include <complex>
#include <string>

namespace yh::physics {

using base::Point;

/// In the axes of the crystal; the third is that of poling.
struct Crystal
{
    Eigen::Matrix<std::complex<double>, 6, 6> c =
        Eigen::Matrix<std::complex<double>, 6, 6>::Zero();  ///< Pa, at constant field
    Eigen::Matrix<std::complex<double>, 3, 6> e =
        Eigen::Matrix<std::complex<double>, 3, 6>::Zero();  ///< C/m^2
    Eigen::Matrix3cd eps = Eigen::Matrix3cd::Zero();        ///< F/m, at constant strain
};

/// The same crystal in other axes.
/// @param axes  its axes in those of the drawing, by column, orthonormal
[[nodiscard]] Crystal turned(const Crystal& crystal, const Eigen::Matrix3d& axes);
/// Axes of a crystal whose third lies along a direction: the first lies across the drawing, or,
/// where the third does, along x.
[[nodiscard]] Eigen::Matrix3d axesAlong(const Point& third);
/// Whether what happens in the drawing moves it across it.
[[nodiscard]] bool leavesDrawing(const Crystal& inDrawing);

/// What is left of a crystal in a drawing: strains xx, yy, zz, xy and fields x, y.
struct ElasticMedium
{
    bool moves = false;      ///< has elastic constants
    bool polarises = false;  ///< has a permittivity
    bool isPiezo = false;
    Eigen::Matrix4cd c = Eigen::Matrix4cd::Zero();
    Eigen::Matrix<std::complex<double>, 2, 4> e = Eigen::Matrix<std::complex<double>, 2, 4>::Zero();
    Eigen::Matrix2cd eps = Eigen::Matrix2cd::Zero();
    Eigen::Matrix<std::complex<double>, 6, 6> whole =
        Eigen::Matrix<std::complex<double>, 6, 6>::Zero();  ///< stiffness of solids, Pa
    double density = 0;                                     ///< kg/m^3
    double kappa = 2;  ///< 3 - 4 nu or what comes nearest to it, for corners
    std::string material;
    Point poled;  ///< in the drawing; zero: not at all

    /// Takes the crystal in the axes of the drawing.
    /// @param isFree  no stress across the drawing (plane stress), else no strain
    void take(const Crystal& inDrawing, bool isFree);
    [[nodiscard]] bool isLossy() const
    {
        return c.imag().cwiseAbs().maxCoeff() > 0 || eps.imag().cwiseAbs().maxCoeff() > 0;
    }
};

/// Stiffness of what is alike in all directions; Pa.
[[nodiscard]] Crystal isotropic(double young, double poisson);
/// Whether a symmetric matrix is positive definite.
[[nodiscard]] bool isPositive(const Eigen::MatrixXd& A);
/// The inverse of a small matrix.
[[nodiscard]] Eigen::MatrixXcd inverted(const Eigen::MatrixXcd& A);

}  // namespace yh::physics
