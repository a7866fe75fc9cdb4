// Resonances between periodic sides (periodic.h): every one comes twice.
#include "base/clock.h"
#include "fem/eigen.h"
#include "fem/ldlt.h"
#include "physics/common/constants.h"
#include "physics/wave/common/periodic.h"
#include "physics/wave/common/wave.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yh::physics {

namespace {

using Complex = std::complex<double>;

}  // namespace

WaveModesSolver::Solved WaveModesSolver::periodicResonances(int order, const Solved* known,
                                                            base::Progress& progress)
{
    double start = base::seconds();
    const PeriodicFunctions periodic(m_space, order, m_problem.phases, true);
    const size_t count = periodic.count();
    auto isFree = freeFunctions(order);
    periodic.bind(isFree);
    const auto both = periodic.numbering(m_space.functionRanks(order, m_ranks), isFree);
    /// Place of the real part, before that of the imaginary one; -1: held.
    auto placeOf = [&](size_t i) { return both.place[i]; };
    const auto curl = periodic.turned(m_elements.curl), mass = periodic.turned(m_elements.mass);
    const auto functions = periodic.functions(m_space.cellTable());
    const auto family =
        fem::assemble(functions, std::vector<fem::Term>{{&curl, {}}, {&mass, {}}}, both);
    const fem::SymmetricProduct products(family, 0, 1);
    m_counters.assembleSeconds += base::seconds() - start;
    m_counters.unknowns = family.size;

    start = base::seconds();
    const double kFrom = 2 * pi * m_problem.from / c0;
    fem::EigenProblem e;
    e.size = family.size;
    // Close to the first one is faster; nothing lies between.
    constexpr double before = 0.97;
    e.shift = std::max(kFrom * kFrom, known ? before * known->k2.front() : 0.0);
    const auto A = family.sum(std::vector<double>{1.0, -e.shift});
    fem::Ldlt<double> factor;
    factor.factorise(A.size, A.start, A.row, A.value);
    m_counters.factorSeconds += base::seconds() - start;
    start = base::seconds();
    e.multiplyM = [&](const std::vector<double>& x, std::vector<double>& y) {
        products.multiply(1, x, y);
    };
    e.multiplyBoth = [&](const std::vector<double>& x, std::vector<double>& k,
                         std::vector<double>& m) { products.multiply(x, k, m); };
    e.solveShifted = [&](std::vector<double>& x, int columns) { factor.solve(x, columns); };
    e.project = [](std::vector<double>&) {};  // gradients lie below the shift
    constexpr int spare = 2;
    fem::EigenPairs pairs;
    if (known && int(known->field.size()) >= m_problem.modes + spare) {
        fem::Columns guess;
        for (size_t k = 0; k < known->field.size(); ++k) {
            std::vector<double> x(size_t(e.size), 0.0), ahead = x;
            for (size_t i = 0; i < known->field[k].size(); ++i)
                if (periodic.same(int(i)) == int(i) && placeOf(i) >= 0) {
                    const auto at = size_t(placeOf(i));
                    x[at] = known->field[k][i];
                    x[at + 1] = known->imaginary[k][i];
                    ahead[at] = -x[at + 1];
                    ahead[at + 1] = x[at];
                }
            guess.push_back(std::move(x));
            guess.push_back(std::move(ahead));
        }
        pairs = fem::improvedEigenpairs(e, guess, 2 * m_problem.modes, progress);
    }
    if (pairs.value.empty())
        pairs = fem::lowestEigenpairs(e, 2 * (m_problem.modes + spare), progress);
    m_counters.iterations += pairs.solutions;

    Solved out;
    out.order = order;
    std::vector<std::vector<Complex>> kept;
    std::vector<double> work;
    for (size_t k = 0; k < pairs.value.size(); ++k) {
        // A field and the same a quarter ahead are one resonance.
        const auto& v = pairs.vector[k];
        std::vector<Complex> x(v.size() / 2);
        for (size_t i = 0; i < x.size(); ++i)
            x[i] = {v[2 * i], v[2 * i + 1]};
        for (const auto& other : kept) {
            std::vector<double> a(v.size());
            for (size_t i = 0; i < other.size(); ++i) {
                a[2 * i] = other[i].real();
                a[2 * i + 1] = other[i].imag();
            }
            products.multiply(1, a, work);
            Complex share;
            for (size_t i = 0; i < x.size(); ++i)
                share += std::conj(Complex(work[2 * i], work[2 * i + 1])) * x[i];
            for (size_t i = 0; i < x.size(); ++i)
                x[i] -= share * other[i];
        }
        std::vector<double> rest(v.size());
        for (size_t i = 0; i < x.size(); ++i) {
            rest[2 * i] = x[i].real();
            rest[2 * i + 1] = x[i].imag();
        }
        products.multiply(1, rest, work);
        const double square = std::inner_product(rest.begin(), rest.end(), work.begin(), 0.0);
        constexpr double nothing = 1e-6;
        if (square < nothing)
            continue;
        for (Complex& c : x)
            c /= std::sqrt(square);
        kept.push_back(x);
        out.k2.push_back(pairs.value[k]);
        out.field.emplace_back(count, 0.0);
        out.imaginary.emplace_back(count, 0.0);
        for (size_t i = 0; i < count; ++i)
            if (const int p = placeOf(i); p >= 0) {
                const Complex c = std::polar(1.0, -periodic.phase(int(i))) * x[size_t(p / 2)];
                out.field.back()[i] = c.real();
                out.imaginary.back()[i] = c.imag();
            }
    }
    m_counters.solveSeconds += base::seconds() - start;
    return out;
}

namespace {

/// Products of complex fields of two orders with the mass matrix: conj(a) . M b.
Complex common(const std::vector<double>& ma, const std::vector<double>& mb,
               const std::vector<double>& re, const std::vector<double>& im)
{
    Complex sum;
    for (size_t i = 0; i < re.size(); ++i)
        sum += Complex(ma[i], -mb[i]) * Complex(re[i], im[i]);
    return sum;
}

/** Appends a mode to a list, turned in phase as another one. */
template <class Solved>
void appendTurned(const Solved& s, size_t which, const Complex& most, Solved& sorted)
{
    const Complex turn = std::abs(most) > 0 ? std::conj(most) / std::abs(most) : Complex(1);
    sorted.k2.push_back(s.k2[which]);
    if (!s.lossy.empty())
        sorted.lossy.push_back(s.lossy[which]);
    sorted.field.push_back(s.field[which]);
    sorted.imaginary.push_back(s.imaginary[which]);
    for (size_t i = 0; i < s.field[which].size(); ++i) {
        const Complex c = turn * Complex(s.field[which][i], s.imaginary[which][i]);
        sorted.field.back()[i] = c.real();
        sorted.imaginary.back()[i] = c.imag();
    }
}

}  // namespace

void WaveModesSolver::followComplex()
{
    const Solved& best = m_solved.back();
    std::vector<std::array<std::vector<double>, 2>> weighted;
    for (size_t k = 0; k < best.field.size(); ++k)
        weighted.push_back({fem::product(m_space, order(), m_elements.mass, best.field[k]),
                            fem::product(m_space, order(), m_elements.mass, best.imaginary[k])});
    for (Solved& s : m_solved) {
        if (&s == &best)
            continue;
        Solved sorted;
        sorted.order = s.order;
        std::vector<char> used(s.k2.size(), 0);
        for (size_t k = 0; k < best.k2.size(); ++k) {
            Complex most;
            size_t which = std::min(k, s.k2.size() - 1);
            for (size_t j = 0; j < s.k2.size(); ++j) {
                const Complex like =
                    common(weighted[k][0], weighted[k][1], s.field[j], s.imaginary[j]);
                if (!used[j] && std::abs(like) > std::abs(most)) {
                    most = like;
                    which = j;
                }
            }
            used[which] = 1;
            appendTurned(s, which, most, sorted);
        }
        s = std::move(sorted);
    }
}

WaveModesSolver::Solved WaveModesSolver::restOf(int mode) const
{
    const Solved& high = m_solved.back();
    const auto k = size_t(mode);
    Solved rest;
    rest.order = high.order;
    rest.field = {high.field[k]};
    rest.imaginary = {high.imaginary[k]};
    if (m_solved.size() < 2)
        return rest;
    const Solved& low = m_solved[m_solved.size() - 2];
    // Fields in open space are no longer orthogonal: each is compared with its own.
    const bool own = !low.lossy.empty();
    for (size_t j = own ? k : 0; j < (own ? k + 1 : low.field.size()); ++j) {
        Complex share = 1;
        if (!own) {
            // The product of fields of different orders needs the whole matrix.
            std::vector<double> wide[2] = {low.field[j], low.imaginary[j]};
            for (auto& w : wide)
                w.resize(high.field[k].size(), 0.0);
            share = common(fem::product(m_space, high.order, m_elements.mass, wide[0]),
                           fem::product(m_space, high.order, m_elements.mass, wide[1]),
                           high.field[k], high.imaginary[k]);
        }
        for (size_t i = 0; i < low.field[j].size(); ++i) {
            const Complex c = share * Complex(low.field[j][i], low.imaginary[j][i]);
            rest.field[0][i] -= c.real();
            rest.imaginary[0][i] -= c.imag();
        }
    }
    return rest;
}

}  // namespace yh::physics
