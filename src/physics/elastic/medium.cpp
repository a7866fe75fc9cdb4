#include "physics/elastic/medium.h"

#include "fem/dense.h"

#include <cmath>

namespace yh::physics {

using Complex = std::complex<double>;

Crystal turned(const Crystal& k, const Eigen::Matrix3d& a)
{
    // Stresses turn by the matrix of Bond, Bell Syst. Tech. J. 22 (1943) 1 (from memory).
    constexpr int pair[6][2] = {{0, 0}, {1, 1}, {2, 2}, {1, 2}, {0, 2}, {0, 1}};
    Eigen::Matrix<double, 6, 6> M;
    for (int i = 0; i < 6; ++i)
        for (int j = 0; j < 6; ++j) {
            const auto [p, q] = pair[i];
            const auto [m, n] = pair[j];
            M(i, j) = m == n ? a(p, m) * a(q, m) : a(p, m) * a(q, n) + a(p, n) * a(q, m);
        }
    Crystal out;
    out.c = M.cast<Complex>() * k.c * M.transpose().cast<Complex>();
    out.e = a.cast<Complex>() * k.e * M.transpose().cast<Complex>();
    out.eps = a.cast<Complex>() * k.eps * a.transpose().cast<Complex>();
    return out;
}

Eigen::Matrix3d axesAlong(const Point& third)
{
    Eigen::Matrix3d a = Eigen::Matrix3d::Identity();
    if (std::abs(third.z) > 0.5)
        return a;
    a.col(0) << 0, 0, 1;
    a.col(1) << third.y, -third.x, 0;
    a.col(2) << third.x, third.y, 0;
    return a;
}

bool leavesDrawing(const Crystal& k)
{
    constexpr double small = 1e-9;
    const double c = k.c.cwiseAbs().maxCoeff(), e = k.e.cwiseAbs().maxCoeff(),
                 eps = k.eps.cwiseAbs().maxCoeff();
    for (const int out : {3, 4}) {
        for (const int in : {0, 1, 2, 5})
            if (std::abs(k.c(in, out)) > small * c)
                return true;
        for (const int x : {0, 1})
            if (std::abs(k.e(x, out)) > small * e)
                return true;
    }
    return std::abs(k.eps(0, 2)) > small * eps || std::abs(k.eps(1, 2)) > small * eps;
}

void ElasticMedium::take(const Crystal& k, bool isFree)
{
    constexpr int of[4] = {0, 1, 2, 5};
    for (int i = 0; i < 4; ++i) {
        for (int j = 0; j < 4; ++j)
            c(i, j) = k.c(of[i], of[j]);
        for (int x = 0; x < 2; ++x)
            e(x, i) = k.e(x, of[i]);
    }
    whole = k.c;
    eps = k.eps.topLeftCorner<2, 2>();
    moves = c(0, 0) != 0.0;
    polarises = eps(0, 0) != 0.0;
    isPiezo = e.cwiseAbs().maxCoeff() > 0;
    // Lame's constants by the shear modulus and what stands beside it.
    if (moves) {
        const double mu = c(3, 3).real(), lambda = c(0, 1).real();
        kappa = mu + lambda > 0 ? (lambda + 3 * mu) / (lambda + mu) : 2;
    }
    if (!isFree || !moves)
        return;
    const Complex z = c(2, 2);
    const Eigen::Vector4cd cz = c.col(2);
    const Eigen::Vector2cd ez = e.col(2);
    c -= cz * cz.transpose() / z;
    e -= ez * cz.transpose() / z;
    eps += ez * ez.transpose() / z;
}

Crystal isotropic(double E, double nu)
{
    Crystal k;
    const double mu = E / (2 * (1 + nu)), lambda = E * nu / ((1 + nu) * (1 - 2 * nu));
    for (int i = 0; i < 3; ++i) {
        for (int j = 0; j < 3; ++j)
            k.c(i, j) = lambda;
        k.c(i, i) += 2 * mu;
        k.c(i + 3, i + 3) = mu;
    }
    return k;
}

bool isPositive(const Eigen::MatrixXd& A)
{
    const double size = A.cwiseAbs().maxCoeff();
    return size > 0 && fem::symmetricEigen(A / size).value(0) > 1e-9;
}

Eigen::MatrixXcd inverted(const Eigen::MatrixXcd& A)
{
    return fem::inverse(fem::RowMajorComplex(A));
}

}  // namespace yh::physics
