// Resonances in open space: complex eigenvalues of the matrices with the absorbing shell.
#include "base/clock.h"
#include "fem/arnoldi.h"
#include "fem/ldlt.h"
#include "physics/common/constants.h"
#include "physics/wave/common/wave.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

namespace {

using Complex = std::complex<double>;
using Vector = std::vector<Complex>;

/// Two complex symmetric matrices on one pattern, A - k^2 B, with products.
struct Pencil
{
    fem::SymmetricFamily family;
    Vector A, B;

    void multiply(const Vector& a, const Vector& x, Vector& y) const
    {
        fem::multiplySymmetric<Complex>(family.start, family.row, a, x, y);
    }
    /// x . a x without conjugation.
    Complex form(const Vector& a, const Vector& x, Vector& work) const
    {
        multiply(a, x, work);
        Complex sum;
        for (size_t i = 0; i < x.size(); ++i)
            sum += x[i] * work[i];
        return sum;
    }
};

/// Real and imaginary parts of known modes, by unknown.
std::vector<Vector> foldedIn(const std::vector<std::vector<double>>& real,
                             const std::vector<std::vector<double>>& imaginary,
                             const fem::Numbering& numbering)
{
    std::vector<Vector> list;
    for (size_t k = 0; k < real.size(); ++k) {
        list.emplace_back(size_t(numbering.size()));
        for (size_t i = 0; i < real[k].size(); ++i)
            if (const int at = numbering.place[i]; at >= 0)
                list.back()[size_t(at)] = {real[k][i], imaginary[k][i]};
    }
    return list;
}

/// Adds vectors to begin a search with: no symmetry of the device may hide a mode from all.
void addStarts(std::vector<Vector>& guess, size_t n)
{
    for (size_t k = 0; guess.size() < 2 || k < 1; ++k) {
        guess.emplace_back(n);
        for (size_t i = 0; i < n; ++i)
            guess.back()[i] =
                std::sin((1.7 + 0.4 * double(k)) * double(i) * double(i) + 0.3 * double(i));
    }
}

}  // namespace

WaveModesSolver::Solved WaveModesSolver::openResonances(int order, const Solved* known,
                                                        base::Progress& progress)
{
    double start = base::seconds();
    const auto numbering = fem::byRank(m_space.functionRanks(order, m_ranks), freeFunctions(order));
    const fem::CellFunctions functions{&m_mesh, m_space.localCount(m_space.order()),
                                       m_space.localCount(order), m_space.cellTable()};
    // What conducts loses by the frequency: that of the search will do, since the shift is near.
    const double kFrom = 2 * pi * m_problem.from / c0;
    std::vector<double> loss = m_problem.loss;
    for (size_t f = 0; f < loss.size(); ++f)
        loss[f] +=
            m_problem.sigma[f] / (2 * pi * m_problem.from * eps0 * m_problem.eps[f].constant.xx);
    Pencil pencil;
    pencil.family = fem::assemble(functions,
                                  std::vector<fem::Term>{{&m_elements.curl, {}},
                                                         {&m_elements.mass, {}},
                                                         {&m_absorbing.curl, {}},
                                                         {&m_absorbing.mass, {}},
                                                         {&m_elements.mass, loss}},
                                  numbering);
    const auto& f = pencil.family;
    for (size_t i = 0; i < f.row.size(); ++i) {
        pencil.A.emplace_back(f.value[0][i], f.value[2][i]);
        pencil.B.emplace_back(f.value[1][i], f.value[3][i] - f.value[4][i]);
    }
    m_counters.assembleSeconds += base::seconds() - start;
    const auto n = size_t(f.size);
    m_counters.unknowns = f.size;

    Solved out;
    out.order = order;
    struct Mode
    {
        Complex k2;
        Vector x;
    };
    std::vector<Mode> found;
    auto take = [&](Vector x) {
        Vector work(n);
        const Complex k2 = pencil.form(pencil.A, x, work) / pencil.form(pencil.B, x, work),
                      k = std::sqrt(k2);
        // Below the search, and what hardly oscillates: the shell has many of those.
        constexpr double least = 0.7;
        if (!(k.real() > kFrom) || !(k.real() > 2 * least * std::abs(k.imag())))
            return;
        for (const Mode& other : found) {
            // Equal resonances have fields of their own.
            constexpr double same = 1e-7;
            Complex common;
            double a = 0, b = 0;
            for (size_t i = 0; i < n; ++i) {
                common += std::conj(x[i]) * other.x[i];
                a += std::norm(x[i]);
                b += std::norm(other.x[i]);
            }
            if (std::abs(k2 / other.k2 - 1.0) < same && std::norm(common) > 0.9 * a * b)
                return;
        }
        found.push_back({k2, std::move(x)});
    };
    auto spread = [&](const Vector& x, bool real) {
        std::vector<double> all(size_t(m_space.count(order)), 0.0);
        for (size_t i = 0; i < n; ++i)
            all[size_t(numbering.function[i])] = real ? x[i].real() : x[i].imag();
        return all;
    };
    // Whether a mode lives in the shell, where nothing of the device is.
    auto isOfShell = [&](const Vector& x) {
        double inside = 0, all = 0;
        for (const bool real : {true, false}) {
            const auto e = fem::energyByCell(m_space, order, m_elements.mass, spread(x, real));
            for (size_t t = 0; t < e.size(); ++t) {
                all += e[t];
                inside += m_mesh.piece[t] == m_problem.shell.piece ? 0 : e[t];
            }
        }
        return inside < 0.5 * all;
    };
    // From above the frequency stated on, with shifts ever higher until enough are found.
    const int wanted = known ? int(known->k2.size()) : m_problem.modes;
    constexpr int most = 5;
    constexpr double first = 1.05, step = 1.25;
    double shift = first * kFrom;
    for (int round = 0; round < most; ++round, shift *= step) {
        progress.check();
        start = base::seconds();
        const double sigma = shift * shift;
        Vector shifted(f.row.size());
        for (size_t i = 0; i < shifted.size(); ++i)
            shifted[i] = pencil.A[i] - sigma * pencil.B[i];
        fem::RefinedLdlt<Complex> factor;
        factor.factorise(f.size, f.start, f.row, std::move(shifted));
        m_counters.factorSeconds += base::seconds() - start;
        start = base::seconds();
        std::vector<Vector> guess;
        if (known)
            guess = foldedIn(known->field, known->imaginary, numbering);
        addStarts(guess, n);
        Vector work(n);
        const int spare = 6;
        const auto vectors = fem::largestEigenvectors(
            guess, std::min(wanted + spare, std::max(1, f.size / 3)), wanted,
            [&](Vector& x) {
                pencil.multiply(pencil.B, x, work);
                factor.solve(work, 1);
                x = work;
                ++m_counters.iterations;
            },
            progress);
        for (const Vector& x : vectors)
            if (!isOfShell(x))
                take(x);
        m_counters.solveSeconds += base::seconds() - start;
        if (int(found.size()) >= wanted)
            break;
    }
    std::sort(found.begin(), found.end(), [](const Mode& a, const Mode& b) {
        return std::sqrt(a.k2).real() < std::sqrt(b.k2).real();
    });
    for (Mode& m : found) {
        Solved one;
        one.order = order;
        one.field = {spread(m.x, true)};
        one.imaginary = {spread(m.x, false)};
        double energy = 0;
        for (const double e : energies(one, 0))
            energy += e;
        // Turned so that what is in phase is as large as can be.
        double square = 0, cross = 0;
        const auto product = fem::product(m_space, order, m_elements.mass, one.field[0]),
                   turned = fem::product(m_space, order, m_elements.mass, one.imaginary[0]);
        for (size_t i = 0; i < product.size(); ++i) {
            square += product[i] * one.field[0][i] - turned[i] * one.imaginary[0][i];
            cross += 2 * product[i] * one.imaginary[0][i];
        }
        const Complex turn = std::polar(1 / std::sqrt(energy), -0.5 * std::atan2(cross, square));
        for (Complex& v : m.x)
            v *= turn;
        out.k2.push_back(m.k2.real());
        out.lossy.push_back(m.k2);
        out.field.push_back(spread(m.x, true));
        out.imaginary.push_back(spread(m.x, false));
    }
    return out;
}

}  // namespace yh::physics
