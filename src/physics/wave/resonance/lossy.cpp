// Resonances with much loss in their media, or with media that run with the frequency: complex
// frequencies near those of the reference without loss, where x . A(omega) x vanishes, by inverse
// iteration. Source: Lancaster, Numer. Math. 8 (1966) 68 (from memory).
#include "base/clock.h"
#include "fem/ldlt.h"
#include "physics/common/constants.h"
#include "physics/wave/common/wave.h"

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

/// Relative permittivity at a complex frequency and its slope by omega, from the value and slope at
/// the real one.
std::pair<Complex, Complex> permittivity(const WaveProblem::Dispersive& d, Complex omega)
{
    const double f = omega.real() / (2 * pi), step = 1e-5 * f;
    auto at = [&d](double where) { return d.eps(where, roomTemperature); };
    const Complex slope = (at(f + step) - at(f - step)) / (2 * step) / (2 * pi);
    return {at(f) + Complex(0, omega.imag()) * slope, slope};
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
    std::vector<fem::Term> terms{{&m_elements.curl, {}},
                                 {&m_elements.mass, {}},
                                 {&m_elements.mass, m_problem.loss},
                                 {&m_elements.mass, conducting}};
    for (const auto& d : m_problem.dispersive) {
        terms.push_back({&m_elements.mass, std::vector<double>(m_problem.eps.size(), 0.0)});
        for (const int f : d.pieces)
            terms.back().byPiece[size_t(f)] = 1;
    }
    const auto family = fem::assemble(functions, terms, numbering);
    const auto n = size_t(family.size);
    // What belongs to the matrix of each term at a frequency: of the curls 1; the rest make up M.
    auto weights = [&](Complex omega) {
        std::vector<Complex> w{1, 1, Complex(0, -1), Complex(0, -1) / omega.real()};
        for (const auto& d : m_problem.dispersive)
            w.push_back(permittivity(d, omega).first / d.reference - 1.0);
        return w;
    };
    std::vector<Vector> matrices;
    for (const auto& values : family.value)
        matrices.emplace_back(values.begin(), values.end());
    auto multiply = [&](size_t term, const Vector& x) {
        Vector y;
        fem::multiplySymmetric<Complex>(family.start, family.row, matrices[term], x, y);
        return y;
    };
    // omega with x . K x = (omega / c)^2 x . M(omega) x, by Newton's steps from a value near it.
    auto quotient = [&](const Vector& x, Complex omega) {
        std::vector<Complex> own;
        for (size_t term = 0; term < terms.size(); ++term)
            own.push_back(product(x, multiply(term, x)));
        constexpr int most = 40;
        for (int step = 0; step < most; ++step) {
            const auto w = weights(omega);
            Complex M, slope;
            for (size_t term = 1; term < own.size(); ++term)
                M += w[term] * own[term];
            for (size_t d = 0; d < m_problem.dispersive.size(); ++d)
                slope += permittivity(m_problem.dispersive[d], omega).second /
                         m_problem.dispersive[d].reference * own[d + 4];
            const Complex value = omega * omega * M - c0 * c0 * own[0],
                          change = value / (2.0 * omega * M + omega * omega * slope);
            omega -= change;
            if (std::abs(change) < 1e-14 * std::abs(omega))
                break;
        }
        return omega;
    };
    std::vector<Complex> values;
    Vector x(n);
    for (size_t k = 0; k < std::min(s.k2.size(), size_t(m_problem.modes)); ++k) {
        for (size_t i = 0; i < n; ++i)
            x[i] = s.field[k][size_t(numbering.function[i])];
        Complex omega = quotient(x, c0 * std::sqrt(s.k2[k]));
        fem::Ldlt<Complex> factor;
        constexpr int most = 28, renewed = 7;
        constexpr double settled = 1e-11;
        for (int round = 0; round < most; ++round) {
            // With the shift brought up once the rest converges to rounding in a few steps.
            if (round % renewed == 0) {
                constexpr double beside = 1e-4;
                const auto w = weights(omega);
                const Complex shift = omega * omega / (c0 * c0) * (1 - beside);
                Vector entries(family.row.size());
                for (size_t term = 0; term < terms.size(); ++term)
                    for (size_t i = 0; i < entries.size(); ++i)
                        entries[i] +=
                            (term == 0 ? Complex(1) : -shift * w[term]) * matrices[term][i];
                factor.factorise(family.size, family.start, family.row, entries);
            }
            const auto w = weights(omega);
            Vector M(n);
            for (size_t term = 1; term < terms.size(); ++term) {
                const auto part = multiply(term, x);
                for (size_t i = 0; i < n; ++i)
                    M[i] += w[term] * part[i];
            }
            x = std::move(M);
            factor.solve(x, 1);
            double size = 0;
            for (const Complex& v : x)
                size = std::max(size, std::abs(v));
            for (Complex& v : x)
                v /= size;
            const Complex before = omega;
            omega = quotient(x, omega);
            if (std::abs(omega / before - 1.0) < settled)
                break;
        }
        const Complex value = omega * omega / (c0 * c0);
        values.push_back(value);
    }
    m_counters.solveSeconds += base::seconds() - start;
    return values;
}

}  // namespace yh::physics
