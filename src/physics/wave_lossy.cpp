// Resonances with much loss in their media: complex eigenvalues near those without loss.
#include "base/clock.h"
#include "fem/ldlt.h"
#include "physics/constants.h"
#include "physics/wave.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

namespace {

using Complex = std::complex<double>;
using Vector = std::vector<Complex>;

/// x . y without conjugation.
Complex product(const Vector& x, const Vector& y)
{
    Complex sum;
    for (size_t i = 0; i < x.size(); ++i)
        sum += x[i] * y[i];
    return sum;
}

}  // namespace

std::vector<Complex> WaveModesSolver::lossyValues(const Solved& s)
{
    const int order = s.order;
    const double start = base::seconds();
    const auto numbering = fem::byRank(m_space.functionRanks(order, m_ranks), freeFunctions(order));
    const fem::CellFunctions functions{&m_mesh, m_space.localCount(m_space.order()),
                                       m_space.localCount(order), m_space.cellTable()};
    std::vector<double> conducting(m_problem.sigma.size());
    for (size_t f = 0; f < conducting.size(); ++f)
        conducting[f] = m_problem.sigma[f] / (eps0 * m_problem.eps[f].constant.xx);
    const std::vector<fem::Term> terms{{&m_elements.curl, {}},
                                       {&m_elements.mass, {}},
                                       {&m_elements.mass, m_problem.loss},
                                       {&m_elements.mass, conducting}};
    const auto family = fem::assemble(functions, terms, numbering);
    const fem::SymmetricProduct plain(family, 0, 1), lossy(family, 2, 3);
    std::vector<double> part(size_t(family.size)), a(part), b(part), c(part), d(part);
    const auto n = part.size();
    // K x and (M - j L(omega)) x, real and imaginary parts one after the other.
    auto multiply = [&](const Vector& x, double omega, Vector& K, Vector& M) {
        std::fill(K.begin(), K.end(), Complex());
        std::fill(M.begin(), M.end(), Complex());
        for (const bool real : {true, false}) {
            const Complex unit = real ? Complex(1) : Complex(0, 1);
            for (size_t i = 0; i < n; ++i)
                part[i] = real ? x[i].real() : x[i].imag();
            plain.multiply(part, a, b);
            lossy.multiply(part, c, d);
            for (size_t i = 0; i < n; ++i) {
                K[i] += unit * a[i];
                M[i] += unit * Complex(b[i], -(c[i] + d[i] / omega));
            }
        }
    };
    std::vector<Complex> values;
    Vector x(n), K(n), M(n);
    for (size_t k = 0; k < std::min(s.k2.size(), size_t(m_problem.modes)); ++k) {
        for (size_t i = 0; i < n; ++i)
            x[i] = s.field[k][size_t(numbering.function[i])];
        double omega = c0 * std::sqrt(s.k2[k]);
        multiply(x, omega, K, M);
        Complex value = product(x, K) / product(x, M);
        fem::Ldlt<Complex> factor;
        Complex shift;
        constexpr int most = 12;
        constexpr double settled = 1e-11;
        for (int round = 0; round < most; ++round) {
            // What conducts loses by the frequency, which moves.
            omega = c0 * std::sqrt(value).real();
            // With the shift brought up once the rest converges to rounding in a few steps.
            if (round % 7 == 0) {
                constexpr double beside = 1e-4;
                shift = value * (1 - beside);
                Vector entries(family.row.size());
                for (size_t i = 0; i < entries.size(); ++i)
                    entries[i] = family.value[0][i] -
                                 shift * Complex(family.value[1][i], -(family.value[2][i] +
                                                                       family.value[3][i] / omega));
                factor.factorise(family.size, family.start, family.row, entries);
            }
            multiply(x, omega, K, M);
            x = M;
            factor.solve(x, 1);
            double size = 0;
            for (const Complex& v : x)
                size = std::max(size, std::abs(v));
            for (Complex& v : x)
                v /= size;
            multiply(x, omega, K, M);
            const Complex before = value;
            value = product(x, K) / product(x, M);
            if (std::abs(value / before - 1.0) < settled)
                break;
        }
        values.push_back(value);
    }
    m_counters.solveSeconds += base::seconds() - start;
    return values;
}

}  // namespace yh::physics
