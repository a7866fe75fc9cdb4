// GCC 12 takes its own AVX-512 headers for uninitialised once Eigen's complex products are unrolled
// (its bug 105593).
#pragma GCC diagnostic ignored "-Wuninitialized"
#include "fem/edge_multilevel.h"

#include <omp.h>

#include "fem/conjugate_gradients.h"
#include "fem/dense.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yh::fem {

namespace {

template <class Scalar>
double sizeOf(const std::vector<Scalar>& a)
{
    return std::sqrt(std::abs(dotOf(a, a)));
}

}  // namespace

template <class Scalar>
void EdgeMultilevel<Scalar>::findRows(int size, const std::vector<int>& start,
                                      const std::vector<int>& row)
{
    m_size = size;
    const auto n = size_t(size);
    m_start.assign(n + 1, 0);
    for (size_t c = 0; c < n; ++c)
        for (auto k = size_t(start[c]); k < size_t(start[c + 1]); ++k) {
            ++m_start[c + 1];
            if (size_t(row[k]) != c)
                ++m_start[size_t(row[k]) + 1];
        }
    std::partial_sum(m_start.begin(), m_start.end(), m_start.begin());
    m_column.resize(size_t(m_start.back()));
    m_from.resize(m_column.size());
    std::vector<std::int64_t> at(m_start.begin(), m_start.end() - 1);
    auto put = [&](size_t r, size_t c, size_t k) {
        const auto p = size_t(at[r]++);
        m_column[p] = int(c);
        m_from[p] = std::int64_t(k);
    };
    // Columns in rising order put the lower part of every row in order, then its upper part.
    for (size_t c = 0; c < n; ++c)
        for (auto k = size_t(start[c]); k < size_t(start[c + 1]); ++k)
            put(size_t(row[k]), c, k);
    for (size_t c = 0; c < n; ++c)
        for (auto k = size_t(start[c]); k < size_t(start[c + 1]); ++k)
            if (size_t(row[k]) != c)
                put(c, size_t(row[k]), k);
}

template <class Scalar>
void EdgeMultilevel<Scalar>::setUp(int size, const std::vector<int>& start,
                                   const std::vector<int>& row, const std::vector<Scalar>& value,
                                   std::span<const char> coarse, const EdgeBlocks& blocks)
{
    const bool same = size == m_size && m_from.size() == 2 * row.size() - size_t(size);
    if (!same)
        findRows(size, start, row);
    // Functions are scaled to a diagonal of 1: in a graded mesh those of small cells would else
    // outweigh the rest in the residual's norm.
    m_scale.resize(size_t(size));
    for (int c = 0; c < size; ++c)
        for (int k = start[size_t(c)]; k < start[size_t(c) + 1]; ++k)
            if (row[size_t(k)] == c) {
                const double d = std::abs(value[size_t(k)]);
                m_scale[size_t(c)] = d > 0 ? 1 / std::sqrt(d) : 1.0;
            }
    m_value.resize(m_from.size());
#pragma omp parallel for schedule(static)
    for (size_t r = 0; r < size_t(size); ++r)
        for (auto k = size_t(m_start[r]); k < size_t(m_start[r + 1]); ++k)
            m_value[k] = m_scale[r] * m_scale[size_t(m_column[k])] * value[size_t(m_from[k])];
    m_coarse.clear();
    std::vector<int> place(size_t(size), -1);
    for (int i = 0; i < size; ++i)
        if (coarse[size_t(i)]) {
            place[size_t(i)] = int(m_coarse.size());
            m_coarse.push_back(i);
        }
    m_blocks = blocks;
    invertBlocks();
    factoriseCoarse(start, row, value, place);
}

template <class Scalar>
void EdgeMultilevel<Scalar>::factoriseCoarse(const std::vector<int>& start,
                                             const std::vector<int>& row,
                                             const std::vector<Scalar>& value,
                                             const std::vector<int>& place)
{
    std::vector<int> coarseStart{0}, coarseRow;
    std::vector<Scalar> coarseValue;
    for (const int c : m_coarse) {
        for (auto k = size_t(start[size_t(c)]); k < size_t(start[size_t(c) + 1]); ++k)
            if (const int r = place[size_t(row[k])]; r >= 0) {
                coarseRow.push_back(r);
                coarseValue.push_back(m_scale[size_t(c)] * m_scale[size_t(row[k])] * value[k]);
            }
        coarseStart.push_back(int(coarseRow.size()));
    }
    m_factor.factorise(int(m_coarse.size()), coarseStart, coarseRow, coarseValue);
}

template <class Scalar>
void EdgeMultilevel<Scalar>::invertBlocks()
{
    const auto blocks = size_t(m_blocks.count());
    m_inverseStart.assign(blocks + 1, 0);
    for (size_t b = 0; b < blocks; ++b) {
        const auto n = size_t(m_blocks.start[b + 1] - m_blocks.start[b]);
        m_inverseStart[b + 1] = m_inverseStart[b] + n * n;
    }
    m_inverse.assign(m_inverseStart.back(), Scalar(0));
    using Matrix = Eigen::Matrix<Scalar, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;
#pragma omp parallel for schedule(static)
    for (size_t b = 0; b < blocks; ++b) {
        const int* list = &m_blocks.list[size_t(m_blocks.start[b])];
        const int n = m_blocks.start[b + 1] - m_blocks.start[b];
        Matrix A = Matrix::Zero(n, n);
        for (int i = 0; i < n; ++i) {
            const auto r = size_t(list[i]);
            for (auto k = size_t(m_start[r]); k < size_t(m_start[r + 1]); ++k)
                if (const int* found = std::find(list, list + n, m_column[k]); found != list + n)
                    A(i, found - list) = m_value[k];
        }
        Eigen::Map<Matrix>(&m_inverse[m_inverseStart[b]], n, n) = inverse(A);
    }
}

template <class Scalar>
void EdgeMultilevel<Scalar>::product(const std::vector<Scalar>& x, std::vector<Scalar>& y) const
{
    std::vector<Scalar> scaled = x;
    for (size_t i = 0; i < x.size(); ++i)
        scaled[i] /= m_scale[i];
    multiply(scaled, y);
    for (size_t i = 0; i < x.size(); ++i)
        y[i] /= m_scale[i];
}

template <class Scalar>
void EdgeMultilevel<Scalar>::multiply(const std::vector<Scalar>& x, std::vector<Scalar>& y) const
{
    y.resize(x.size());
#pragma omp parallel for schedule(static, 1024)
    for (size_t r = 0; r < x.size(); ++r) {
        Scalar sum(0);
        for (auto k = size_t(m_start[r]); k < size_t(m_start[r + 1]); ++k)
            sum += m_value[k] * x[size_t(m_column[k])];
        y[r] = sum;
    }
}

template <class Scalar>
Scalar EdgeMultilevel<Scalar>::rest(int i, const std::vector<Scalar>& r,
                                    const std::vector<Scalar>& z) const
{
    Scalar sum = r[size_t(i)];
    for (auto k = size_t(m_start[size_t(i)]); k < size_t(m_start[size_t(i) + 1]); ++k)
        sum -= m_value[k] * z[size_t(m_column[k])];
    return sum;
}

template <class Scalar>
void EdgeMultilevel<Scalar>::sweep(Way way, const std::vector<Scalar>& r,
                                   std::vector<Scalar>& z) const
{
    // Parts of the blocks are swept side by side; each takes what the others had before. Their
    // number is fixed, and with it the answer.
    constexpr int parts = 2;
    const int blocks = m_blocks.count();
    const std::vector<Scalar> before = z;
#pragma omp parallel for schedule(static, 1)
    for (int part = 0; part < parts; ++part) {
        const int from = int(std::int64_t(blocks) * part / parts),
                  to = int(std::int64_t(blocks) * (part + 1) / parts);
        std::vector<Scalar> mine = before;
        std::vector<Scalar> step;
        for (int k = from; k < to; ++k) {
            const int b = way == Way::forwards ? k : to - 1 - (k - from);
            const int* list = &m_blocks.list[size_t(m_blocks.start[size_t(b)])];
            const int n = m_blocks.start[size_t(b) + 1] - m_blocks.start[size_t(b)];
            step.resize(size_t(n));
            for (int i = 0; i < n; ++i)
                step[size_t(i)] = rest(list[i], r, mine);
            const Scalar* inverse = &m_inverse[m_inverseStart[size_t(b)]];
            for (int i = 0; i < n; ++i) {
                Scalar sum(0);
                for (int j = 0; j < n; ++j)
                    sum += inverse[i * n + j] * step[size_t(j)];
                mine[size_t(list[i])] += sum;
            }
        }
        for (int k = m_blocks.start[size_t(from)]; k < m_blocks.start[size_t(to)]; ++k) {
            const auto i = size_t(m_blocks.list[size_t(k)]);
            z[i] = mine[i];
        }
    }
}

template <class Scalar>
void EdgeMultilevel<Scalar>::precondition(const std::vector<Scalar>& r, std::vector<Scalar>& z)
{
    z.assign(r.size(), Scalar(0));
    sweep(Way::forwards, r, z);
    std::vector<Scalar> part(m_coarse.size());
#pragma omp parallel for schedule(static)
    for (size_t i = 0; i < part.size(); ++i)
        part[i] = rest(m_coarse[i], r, z);
    m_factor.solve(part, 1);
    for (size_t i = 0; i < part.size(); ++i)
        z[size_t(m_coarse[i])] += part[i];
    sweep(Way::backwards, r, z);
}

template <class Scalar>
int EdgeMultilevel<Scalar>::solve(std::vector<Scalar>& x, double tolerance,
                                  const base::Progress& progress)
{
    std::vector<Scalar> b = x;
    for (size_t i = 0; i < b.size(); ++i)
        b[i] *= m_scale[i];
    x.assign(b.size(), Scalar(0));
    const double size = sizeOf(b);
    if (size == 0)
        return 0;
    constexpr int restart = 60, most = 120;
    std::vector<Scalar> r = b, w, z;
    double residual = size;
    for (int done = 0; done < most;) {
        std::vector<std::vector<Scalar>> V{r}, Z, H;
        for (Scalar& v : V[0])
            v /= residual;
        std::vector<Scalar> s, g{Scalar(residual)};
        std::vector<double> c;
        for (size_t j = 0; j < restart && done < most; ++j, ++done) {
            progress.check();
            precondition(V[j], z);
            Z.push_back(z);
            multiply(z, w);
            std::vector<Scalar> h(j + 2, Scalar(0));
            for (size_t i = 0; i <= j; ++i) {
                h[i] = dotOf(V[i], w);
                addTo(w, -h[i], V[i]);
            }
            const double last = sizeOf(w);
            h[j + 1] = last;
            for (size_t i = 0; i < j; ++i) {
                const Scalar t = c[i] * h[i] + s[i] * h[i + 1];
                h[i + 1] = -conjugate(s[i]) * h[i] + c[i] * h[i + 1];
                h[i] = t;
            }
            // A rotation that takes the last entry away.
            const double a = std::abs(h[j]), d = std::hypot(a, last);
            if (!(d > 0) || !std::isfinite(d))
                return -1;
            const Scalar phase = a > 0 ? h[j] / a : Scalar(1);
            c.push_back(a / d);
            s.push_back(phase * (last / d));
            h[j] = phase * d;
            H.push_back(h);
            g.push_back(-conjugate(s[j]) * g[j]);
            g[j] *= c[j];
            // Badly shaped cells spoil the sweeps: a direct solution is then sooner done.
            constexpr int trial = 24;
            constexpr double hopeful = 0.1;
            if (done == trial && std::abs(g[j + 1]) > hopeful * size)
                return -1;
            if (std::abs(g[j + 1]) < tolerance * size || last == 0) {
                ++done;
                break;
            }
            V.push_back(w);
            for (Scalar& v : V.back())
                v /= last;
        }
        std::vector<Scalar> y(H.size());
        for (size_t i = H.size(); i-- > 0;) {
            y[i] = g[i];
            for (size_t k = i + 1; k < H.size(); ++k)
                y[i] -= H[k][i] * y[k];
            y[i] /= H[i][i];
        }
        for (size_t i = 0; i < y.size(); ++i)
            addTo(x, y[i], Z[i]);
        multiply(x, r);
        for (size_t i = 0; i < r.size(); ++i)
            r[i] = b[i] - r[i];
        residual = sizeOf(r);
        // What the recursion took for reached must hold for the residual itself, but for rounding.
        constexpr double slack = 10;
        if (residual < slack * tolerance * size) {
            for (size_t i = 0; i < x.size(); ++i)
                x[i] *= m_scale[i];
            return done;
        }
    }
    return -1;
}

template class EdgeMultilevel<double>;
template class EdgeMultilevel<std::complex<double>>;

}  // namespace yh::fem
