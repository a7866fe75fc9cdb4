// What a damped vibrating system answers over a band of frequencies, from a few of them.
//
//   (K' + j K'' - lambda M) x = b,   lambda = omega^2
//
// with real symmetric K', K'' and M; M may be singular (potentials have no mass). Some unknowns,
// the last of the system, are given; the others are looked for among combinations of real vectors:
// real and imaginary parts of solutions at some lambda and of those that (K - lambda M)^-1 M makes
// of them. Where the residual over the band is largest another lambda is taken, until it is small
// everywhere. Since vectors are real and matrices symmetric, what flows into the given unknowns
// errs by the square of the residual.
// Source: Grimme, Krylov Projection Methods for Model Reduction, 1997, chapter 3 (from memory).
#pragma once

#include "base/progress.h"
#include "fem/block.h"
#include "fem/dense.h"

#include <complex>
#include <vector>

namespace yh::fem {

class BandResponse
{
public:
    using Complex = std::complex<double>;
    struct Band
    {
        double low = 0, high = 0;  ///< of lambda
        double tolerance = 1e-8;   ///< of the residual, relative to the right-hand side
    };
    /// @param family  K', K'' and M
    /// @param free    how many unknowns are not given
    /// @param loads   right-hand sides, real; shape (loads, size)
    BandResponse(const SymmetricFamily& family, int free,
                 const std::vector<std::vector<double>>& loads, const Band& band,
                 base::Progress& progress);

    [[nodiscard]] int given() const { return m_size - m_free; }
    /// Values of the given unknowns, then shares of the loads.
    [[nodiscard]] int inputs() const { return given() + int(m_loads.cols()); }
    /// All unknowns for one of each input; shape (size).
    [[nodiscard]] std::vector<Complex> at(double lambda, const Eigen::VectorXcd& input) const;
    /// Residual at the given unknowns by input; shape (given, inputs).
    [[nodiscard]] Eigen::MatrixXcd flows(double lambda) const;

    /// A resonance with all given unknowns held at zero: flows are sums of r / (at - lambda).
    struct Pole
    {
        Complex at;
        Eigen::MatrixXcd residue;  ///< shape (given, inputs)
    };
    [[nodiscard]] const std::vector<Pole>& poles() const
    {
        if (m_poles.empty())
            diagonalise();
        return m_poles;
    }
    /// Resonances with one of the given unknowns let free.
    [[nodiscard]] std::vector<Complex> polesWithFree(int given) const;
    [[nodiscard]] int vectors() const { return int(m_count); }
    [[nodiscard]] double residual() const { return m_residual; }

private:
    void gather(const SymmetricFamily& family, const std::vector<std::vector<double>>& loads);
    void extend(double lambda, base::Progress& progress);
    void take(Eigen::VectorXd v);
    void project();
    void diagonalise() const;
    [[nodiscard]] Eigen::MatrixXcd solveReduced(double lambda) const;
    [[nodiscard]] std::vector<double> residuals(const std::vector<double>& lambda) const;
    [[nodiscard]] auto basis() const { return m_basis.leftCols(m_count); }

    int m_size = 0, m_free = 0;
    FreePart m_part;
    Eigen::MatrixXcd m_toGiven;    ///< scaled; shape (free, given)
    Eigen::MatrixXcd m_among;      ///< shape (given, given)
    Eigen::MatrixXd m_loads;       ///< scaled; shape (free, loads)
    Eigen::MatrixXd m_basis;       ///< orthonormal columns, of which m_count are in use
    Eigen::MatrixXd m_product[3];  ///< of each matrix with them
    Eigen::Index m_count = 0;
    bool m_isLossy = false;
    Eigen::MatrixXcd m_K, m_P;  ///< reduced
    Eigen::MatrixXd m_M, m_L;
    mutable std::vector<Pole> m_poles;  ///< made when first asked for
    double m_about = 0;
    double m_residual = 0;
};

}  // namespace yh::fem
