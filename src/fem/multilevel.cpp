#include "fem/multilevel.h"

#include "fem/conjugate_gradients.h"

#include <omp.h>
#include <algorithm>
#include <cmath>

namespace yh::fem {

using base::Error;

namespace {

[[noreturn]] void notConverged(int iterations, double residual)
{
    char text[160];
    std::snprintf(text, sizeof text,
                  "the iterative solution stalled at a residual of %.1e after %d steps; ask for "
                  "smaller cells in thin regions or for less accuracy",
                  residual, iterations);
    throw Error(5020, text);
}

constexpr int mostSteps = 400;

void solveBy(Cholesky& factor, std::vector<double>& part)
{
    factor.solve(part, 1);
}

void solveBy(Cholesky& factor, std::vector<Wide>& part)
{
    std::vector<double> columns(wide * part.size());
    oneAfterTheOther(part, wide, columns.data());
    factor.solve(columns, wide);
    part = sideBySide(columns.data(), wide, part.size());
}

/** The part of a matrix that belongs to some unknowns; `place` tells theirs, -1 for others. */
SparseSymmetric partOf(const SparseRows& A, const std::vector<int>& unknowns,
                       const std::vector<int>& place)
{
    // The lower triangle by columns is the upper one by rows: rows rise within a column.
    SparseSymmetric K;
    K.size = int(unknowns.size());
    K.start.push_back(0);
    for (const int r : unknowns) {
        for (int k = A.start[size_t(r)]; k < A.start[size_t(r) + 1]; ++k)
            if (A.column[size_t(k)] >= r && place[size_t(A.column[size_t(k)])] >= 0) {
                K.row.push_back(place[size_t(A.column[size_t(k)])]);
                K.value.push_back(A.value[size_t(k)]);
            }
        K.start.push_back(int(K.row.size()));
    }
    return K;
}

}  // namespace

SparseRows fullRows(const SparseSymmetric& K)
{
    SparseRows A;
    A.size = K.size;
    A.start.assign(size_t(K.size) + 1, 0);
    for (int c = 0; c < K.size; ++c)
        for (int k = K.start[size_t(c)]; k < K.start[size_t(c) + 1]; ++k) {
            ++A.start[size_t(c) + 1];
            if (K.row[size_t(k)] != c)
                ++A.start[size_t(K.row[size_t(k)]) + 1];
        }
    for (size_t i = 1; i < A.start.size(); ++i)
        A.start[i] += A.start[i - 1];
    A.column.resize(size_t(A.start.back()));
    A.value.resize(A.column.size());
    std::vector<int> at(A.start.begin(), A.start.end() - 1);
    // Columns in rising order put the lower part of every row in order, then its upper part.
    for (int c = 0; c < K.size; ++c)
        for (int k = K.start[size_t(c)]; k < K.start[size_t(c) + 1]; ++k) {
            const int r = K.row[size_t(k)];
            const auto p = size_t(at[size_t(r)]++);
            A.column[p] = c;
            A.value[p] = K.value[size_t(k)];
        }
    for (int c = 0; c < K.size; ++c)
        for (int k = K.start[size_t(c)]; k < K.start[size_t(c) + 1]; ++k)
            if (K.row[size_t(k)] != c) {
                const auto p = size_t(at[size_t(c)]++);
                A.column[p] = K.row[size_t(k)];
                A.value[p] = K.value[size_t(k)];
            }
    return A;
}

void Multilevel::setUpPairs(std::span<const int> coarse, std::span<const char> pairs)
{
    const SparseRows& A = *m_A;
    m_pairs.assign(size_t(A.size), 0);
    std::copy(pairs.begin(), pairs.end(), m_pairs.begin());
    m_inverseBlock.assign(size_t(A.size), {});
    for (int i = 0; i < A.size; ++i) {
        if (!isPair(i))
            continue;
        double b[2][2] = {{0, 0}, {0, 0}};
        for (int r = 0; r < 2; ++r)
            for (int k = A.start[size_t(i + r)]; k < A.start[size_t(i + r) + 1]; ++k)
                if (const int c = A.column[size_t(k)]; c == i || c == i + 1)
                    b[r][c - i] = A.value[size_t(k)];
        const double det = b[0][0] * b[1][1] - b[0][1] * b[1][0];
        m_inverseBlock[size_t(i)] = {b[1][1] / det, -b[0][1] / det, -b[1][0] / det, b[0][0] / det};
    }
    std::vector<int> place(size_t(A.size), -1);
    m_joint.clear();
    for (int i = 0; i < A.size; ++i)
        if (coarse[size_t(i)] >= 0) {
            place[size_t(i)] = int(m_joint.size());
            m_joint.push_back(i);
        }
    m_coarse = {};
    m_coarse.size = int(m_joint.size());
    m_coarse.start.push_back(0);
    for (const int r : m_joint) {
        for (int k = A.start[size_t(r)]; k < A.start[size_t(r) + 1]; ++k)
            if (const int c = place[size_t(A.column[size_t(k)])]; c >= 0) {
                m_coarse.column.push_back(c);
                m_coarse.value.push_back(A.value[size_t(k)]);
            }
        m_coarse.start.push_back(int(m_coarse.column.size()));
    }
    if (m_coarse.size > 0)
        m_coarseFactor.factorise(m_coarse);
}

std::vector<char> Multilevel::stubborn(std::span<const int> coarse) const
{
    const SparseRows& A = *m_A;
    std::vector<double> error(size_t(A.size), 0.0);
    for (int i = 0; i < A.size; ++i)
        error[size_t(i)] = coarse[size_t(i)] < 0 ? 1.0 : 0.0;
    auto relax = [&](int i) {
        if (coarse[size_t(i)] >= 0)
            return;
        double sum = 0;
        for (int k = A.start[size_t(i)]; k < A.start[size_t(i) + 1]; ++k)
            if (A.column[size_t(k)] != i)
                sum -= A.value[size_t(k)] * error[size_t(A.column[size_t(k)])];
        error[size_t(i)] = sum * m_inverseDiagonal[size_t(i)];
    };
    constexpr int trials = 10;
    for (int trial = 0; trial < trials; ++trial) {
        for (int i = 0; i < A.size; ++i)
            relax(i);
        for (int i = A.size; i-- > 0;)
            relax(i);
    }
    constexpr double least = 0.2;
    std::vector<char> list(size_t(A.size), 0);
    for (int i = 0; i < A.size; ++i)
        list[size_t(i)] = std::abs(error[size_t(i)]) > least;
    return list;
}

void Multilevel::setUp(const SparseRows& A, std::span<const int> coarse, int fields,
                       std::span<const char> pairs)
{
    m_A = &A;
    m_inverseDiagonal.assign(size_t(A.size), 0.0);
    for (int r = 0; r < A.size; ++r)
        for (int k = A.start[size_t(r)]; k < A.start[size_t(r) + 1]; ++k)
            if (A.column[size_t(k)] == r)
                m_inverseDiagonal[size_t(r)] = 1 / A.value[size_t(k)];
    m_levels.clear();
    m_pairs.clear();
    if (!pairs.empty()) {
        setUpPairs(coarse, pairs);
        return;
    }
    m_levels.resize(size_t(fields));
    const std::vector<char> more =
        fields == 1 ? stubborn(coarse) : std::vector<char>(size_t(A.size), 0);
    for (int f = 0; f < fields; ++f) {
        Level& level = m_levels[size_t(f)];
        std::vector<int> place(size_t(A.size), -1);
        for (int i = 0; i < A.size; ++i)
            if (coarse[size_t(i)] == f || more[size_t(i)]) {
                place[size_t(i)] = int(level.unknowns.size());
                level.unknowns.push_back(i);
            }
        const SparseSymmetric K = partOf(A, level.unknowns, place);
        if (K.size > 0) {
            level.factor.analyse(K);
            level.factor.factorise(K);
        }
    }
}

template <Multilevel::Sweep kind, class Value>
void Multilevel::sweep(const std::vector<Value>& r, std::vector<Value>& z) const
{
    // Each thread sweeps its own rows and takes the others' values as they were.
    const SparseRows& A = *m_A;
#pragma omp parallel
    {
        const int threads = omp_get_num_threads(), me = omp_get_thread_num();
        auto cut = [&](int thread) {
            const int i = int(std::int64_t(A.size) * thread / threads);
            return i > 0 && i < A.size && isPair(i - 1) ? i + 1 : i;
        };
        const int from = cut(me), to = cut(me + 1);
        std::vector<Value> before;
        if (kind == Sweep::last && threads > 1)
            before = z;
        // What the others contribute to a row; within one of a pair the partner counts as itself.
        auto rest = [&](int i, int alsoNot) {
            Value sum = r[size_t(i)];
            for (int k = A.start[size_t(i)]; k < A.start[size_t(i) + 1]; ++k) {
                const int c = A.column[size_t(k)];
                if constexpr (kind == Sweep::first) {
                    // From zero: what comes behind, or is another thread's, adds nothing.
                    if (c >= i)
                        break;
                    if (c >= from && c != alsoNot)
                        sum -= A.value[size_t(k)] * z[size_t(c)];
                } else if (c != i && c != alsoNot) {
                    sum -= A.value[size_t(k)] *
                           (c >= from && c < to ? z[size_t(c)] : before[size_t(c)]);
                }
            }
            return sum;
        };
        auto pair = [&](int i) {
            const Value a = rest(i, i + 1), b = rest(i + 1, i);
            const auto& m = m_inverseBlock[size_t(i)];
            z[size_t(i)] = m[0] * a + m[1] * b;
            z[size_t(i) + 1] = m[2] * a + m[3] * b;
        };
        if constexpr (kind == Sweep::first)
            for (int i = from; i < to; ++i)
                if (isPair(i))
                    pair(i++);
                else
                    z[size_t(i)] = rest(i, -1) * m_inverseDiagonal[size_t(i)];
        else {
#pragma omp barrier
            for (int i = to; i-- > from;)
                if (i > from && isPair(i - 1))
                    pair(--i);
                else
                    z[size_t(i)] = rest(i, -1) * m_inverseDiagonal[size_t(i)];
        }
    }
}

template <class Value>
void Multilevel::precondition(const std::vector<Value>& r, std::vector<Value>& z) const
{
    z.resize(r.size());
    sweep<Sweep::first>(r, z);
    std::vector<Value> Az, part;
    if constexpr (std::is_same_v<Value, double>)
        if (!m_pairs.empty() && m_coarse.size > 0) {
            m_A->multiply(z, Az);
            part.resize(m_joint.size());
            for (size_t i = 0; i < part.size(); ++i)
                part[i] = r[size_t(m_joint[i])] - Az[size_t(m_joint[i])];
            m_coarseFactor.solve(m_coarse, part);
            for (size_t i = 0; i < part.size(); ++i)
                z[size_t(m_joint[i])] += part[i];
        }
    for (const Level& level : m_levels) {
        if (level.unknowns.empty())
            continue;
        m_A->multiply(z, Az);
        part.resize(level.unknowns.size());
        for (size_t i = 0; i < part.size(); ++i)
            part[i] = r[size_t(level.unknowns[i])] - Az[size_t(level.unknowns[i])];
        solveBy(level.factor, part);
        for (size_t i = 0; i < part.size(); ++i)
            z[size_t(level.unknowns[i])] += part[i];
    }
    sweep<Sweep::last>(r, z);
}

template void Multilevel::precondition(const std::vector<double>&, std::vector<double>&) const;
template void Multilevel::precondition(const std::vector<Wide>&, std::vector<Wide>&) const;

int Multilevel::conjugateGradients(std::vector<double>& x, double tolerance,
                                   const base::Progress& progress) const
{
    const KrylovEnd end = fem::conjugateGradients(
        x, tolerance, mostSteps, progress,
        [this](const std::vector<double>& v, std::vector<double>& out) { m_A->multiply(v, out); },
        [this](const std::vector<double>& r, std::vector<double>& z) { precondition(r, z); });
    if (!end.converged)
        notConverged(end.steps, end.residual);
    return end.steps;
}

int Multilevel::conjugateGradients(std::vector<Wide>& x, double tolerance,
                                   const base::Progress& progress) const
{
    ColumnsOfGradients columns;
    columns.r = x;
    columns.x.assign(x.size(), Wide{});
    const Wide size = dotOf(x, x);
    columns.run(
        mostSteps, progress,
        [this](const std::vector<Wide>& v, std::vector<Wide>& out) { m_A->multiply(v, out); },
        [this](const std::vector<Wide>& r, std::vector<Wide>& z) { precondition(r, z); },
        [&](const Wide& residual, int c, int, double) {
            return tolerance > 0 && residual[c] < tolerance * tolerance * size[c];
        });
    if (!columns.areAtEnd()) {
        const Wide left = dotOf(columns.r, columns.r);
        double worst = 0;
        for (int c = 0; c < wide; ++c)
            worst = std::max(worst, size[c] > 0 ? std::sqrt(left[c] / size[c]) : 0.0);
        notConverged(columns.steps(), worst);
    }
    x = std::move(columns.x);
    return columns.steps();
}

int Multilevel::gmres(std::vector<double>& x, double tolerance, const base::Progress& progress,
                      std::span<const double> weight) const
{
    // The weighted equations W A x = W b, preconditioned from the right by (W M)^-1.
    auto scale = [&](std::vector<double>& v) {
        for (size_t i = 0; i < weight.size(); ++i)
            v[i] *= weight[i];
    };
    scale(x);
    const std::vector<double> b = x;
    x.assign(b.size(), 0.0);
    const double size = std::sqrt(dotOf(b, b));
    if (size == 0)
        return 0;
    constexpr int restart = 60, most = 600;
    std::vector<double> r = b, w, z;
    int done = 0;
    double residual = size;
    while (done < most) {
        std::vector<std::vector<double>> V{r}, Z;
        for (double& v : V[0])
            v /= residual;
        std::vector<std::vector<double>> H;
        std::vector<double> c, s, g{residual};
        for (int j = 0; j < restart && done < most; ++j, ++done) {
            progress.check();
            w = V[size_t(j)];
            for (size_t i = 0; i < weight.size(); ++i)
                w[i] /= weight[i];
            precondition(w, z);
            Z.push_back(z);
            m_A->multiply(z, w);
            scale(w);
            std::vector<double> h(size_t(j) + 2, 0.0);
            for (size_t i = 0; i <= size_t(j); ++i) {
                h[i] = dotOf(w, V[i]);
                addTo(w, -h[i], V[i]);
            }
            h[size_t(j) + 1] = std::sqrt(dotOf(w, w));
            for (size_t i = 0; i < size_t(j); ++i) {
                const double t = c[i] * h[i] + s[i] * h[i + 1];
                h[i + 1] = -s[i] * h[i] + c[i] * h[i + 1];
                h[i] = t;
            }
            const auto k = size_t(j);
            const double d = std::hypot(h[k], h[k + 1]);
            c.push_back(h[k] / d);
            s.push_back(h[k + 1] / d);
            const double last = h[k + 1];
            h[k] = d;
            H.push_back(h);
            g.push_back(-s[k] * g[k]);
            g[k] *= c[k];
            if (std::abs(g[k + 1]) < tolerance * size || last == 0)
                break;
            V.push_back(w);
            for (double& v : V.back())
                v /= last;
        }
        std::vector<double> y(H.size());
        for (size_t i = H.size(); i-- > 0;) {
            y[i] = g[i];
            for (size_t k = i + 1; k < H.size(); ++k)
                y[i] -= H[k][i] * y[k];
            y[i] /= H[i][i];
        }
        for (size_t i = 0; i < y.size(); ++i)
            addTo(x, y[i], Z[i]);
        m_A->multiply(x, r);
        scale(r);
        for (size_t i = 0; i < r.size(); ++i)
            r[i] = b[i] - r[i];
        residual = std::sqrt(dotOf(r, r));
        if (residual < 10 * tolerance * size)
            return done;
    }
    notConverged(most, residual / size);
}

}  // namespace yh::fem
