// The energies of actuators by the gradients of displacements and potential, in the plane and in
// solids: first derivatives, with theirs by forward differentiation.
#pragma once

#include "fem/dual.h"
#include "physics/elastic/medium.h"

#include <array>
#include <cmath>

namespace yh::physics::actuator {

/// F = 1 + grad u by rows, then grad psi.
template <int D>
inline constexpr int variables = D* D + D;
template <int D>
using Number = fem::Dual<variables<D>>;
template <int D>
using Gradients = std::array<double, variables<D>>;
template <int D>
using Forces = std::array<Number<D>, variables<D>>;

/// F as numbers, its determinant J and its cofactors K = J F^-T.
template <int D>
struct Deformation
{
    Number<D> F[D][D], g[D], J, K[D][D];
    explicit Deformation(const Gradients<D>& at)
    {
        for (int i = 0; i < D; ++i) {
            for (int j = 0; j < D; ++j)
                F[i][j] = Number<D>::variable(at[size_t(i * D + j)], i * D + j);
            g[i] = Number<D>::variable(at[size_t(D * D + i)], D * D + i);
        }
        if constexpr (D == 2) {
            K[0][0] = F[1][1];
            K[0][1] = -F[1][0];
            K[1][0] = -F[0][1];
            K[1][1] = F[0][0];
        } else {
            for (int i = 0; i < 3; ++i)
                for (int j = 0; j < 3; ++j) {
                    const int a = (i + 1) % 3, b = (i + 2) % 3, c = (j + 1) % 3, d = (j + 2) % 3;
                    K[i][j] = F[a][c] * F[b][d] - F[a][d] * F[b][c];
                }
        }
        for (int j = 0; j < D; ++j)
            J += F[0][j] * K[0][j];
    }
};

/// Of -1/2 eps J |F^-T grad psi|^2.
template <int D>
[[nodiscard]] Forces<D> fieldForces(double eps, const Deformation<D>& d)
{
    // e = F^-T grad psi; h = J F^-1 e.
    const Number<D> over = d.J.map(1 / d.J.v, -1 / (d.J.v * d.J.v));
    Number<D> e[D], h[D], square;
    for (int i = 0; i < D; ++i) {
        for (int j = 0; j < D; ++j)
            e[i] += d.K[i][j] * d.g[j];
        e[i] = e[i] * over;
        square += e[i] * e[i];
    }
    for (int j = 0; j < D; ++j)
        for (int i = 0; i < D; ++i)
            h[j] += d.K[i][j] * e[i];
    Forces<D> P;
    for (int i = 0; i < D; ++i) {
        for (int j = 0; j < D; ++j)
            P[size_t(i * D + j)] = (e[i] * h[j] - square * d.K[i][j] * 0.5) * eps;
        P[size_t(D * D + i)] = h[i] * -eps;
    }
    return P;
}

/// First Piola and Kirchhoff stress F S, S = C (F^T F - 1) / 2.
/// @param C  over xx, yy, xy in the plane, over xx, yy, zz, yz, xz, xy in solids; Pa
template <int D>
[[nodiscard]] Forces<D> stresses(const Eigen::MatrixXd& C, const Deformation<D>& d)
{
    constexpr int count = D == 2 ? 3 : 6;
    constexpr int pairs[6][2] = {{0, 0}, {1, 1}, {D == 2 ? 0 : 2, D == 2 ? 1 : 2},
                                 {1, 2}, {0, 2}, {0, 1}};
    // Green's strains, those of shear twice.
    Number<D> strain[count], stress[D][D];
    for (int k = 0; k < count; ++k) {
        const auto [i, j] = pairs[k];
        for (int l = 0; l < D; ++l)
            strain[k] += d.F[l][i] * d.F[l][j];
        if (i == j)
            strain[k] = (strain[k] - Number<D>(1.0)) * 0.5;
    }
    for (int k = 0; k < count; ++k) {
        Number<D> sum;
        for (int l = 0; l < count; ++l)
            if (C(k, l) != 0)
                sum += strain[l] * C(k, l);
        const auto [i, j] = pairs[k];
        stress[i][j] = stress[j][i] = sum;
    }
    Forces<D> P;
    for (int i = 0; i < D; ++i)
        for (int j = 0; j < D; ++j)
            for (int l = 0; l < D; ++l)
                P[size_t(i * D + j)] += d.F[i][l] * stress[l][j];
    return P;
}

/// Stress of the stuff that carries the gap's mesh along: it resists the more the flatter a cell
/// becomes, so that none turns over (a compressible solid after Bonet and Wood, section 6.4).
template <int D>
[[nodiscard]] Forces<D> meshStresses(const Deformation<D>& d)
{
    const double J = d.J.v;
    const Number<D> k = d.J.map((std::log(J) - 1) / J, (2 - std::log(J)) / (J * J));
    Forces<D> P;
    for (int i = 0; i < D; ++i)
        for (int j = 0; j < D; ++j)
            P[size_t(i * D + j)] = d.F[i][j] + k * d.K[i][j];
    return P;
}

}  // namespace yh::physics::actuator
