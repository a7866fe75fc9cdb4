// Conjugate gradients with any operator and preconditioner, and the sums of vectors that Krylov
// methods take. Source: Saad, Iterative Methods for Sparse Linear Systems, 2nd ed., algorithm 9.1
// (from memory).
#pragma once

#include "base/progress.h"
#include "fem/side_by_side.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numeric>
#include <vector>

namespace yh::fem {

inline double conjugate(double x)
{
    return x;
}
inline std::complex<double> conjugate(std::complex<double> x)
{
    return std::conj(x);
}

inline Wide conjugate(const Wide& x)
{
    return x;
}

/// Sum of conj(a) b over fixed blocks: the same for any number of threads.
template <class Scalar>
Scalar dotOf(const std::vector<Scalar>& a, const std::vector<Scalar>& b)
{
    constexpr size_t block = 8192;
    std::vector<Scalar> part((a.size() + block - 1) / block, Scalar{});
#pragma omp parallel for schedule(static)
    for (size_t k = 0; k < part.size(); ++k)
        for (size_t i = k * block; i < std::min(a.size(), (k + 1) * block); ++i)
            part[k] += conjugate(a[i]) * b[i];
    return std::accumulate(part.begin(), part.end(), Scalar{});
}

template <class Scalar>
void addTo(std::vector<Scalar>& y, Scalar s, const std::vector<Scalar>& x)
{
#pragma omp parallel for schedule(static)
    for (size_t i = 0; i < y.size(); ++i)
        y[i] += s * x[i];
}

/// How conjugate gradients ended.
struct KrylovEnd
{
    int steps = 0;
    double residual = 0;  ///< over that of the start
    bool converged = true;
};

/// Solves A x = b for a symmetric positive definite A.
/// @param[in,out] x      b, then the solution, or where `most` steps came to
/// @param multiply       called with (v, out: A v)
/// @param precondition   called with (r, out: about A^-1 r); symmetric and positive
template <class Multiply, class Precondition>
KrylovEnd conjugateGradients(std::vector<double>& x, double tolerance, int most,
                             const base::Progress& progress, Multiply multiply,
                             Precondition precondition)
{
    std::vector<double> r = x, z, Ap;
    x.assign(r.size(), 0.0);
    const double size = std::sqrt(dotOf(r, r));
    if (size == 0)
        return {};
    precondition(r, z);
    std::vector<double> p = z;
    double rz = dotOf(r, z), left = size;
    for (int i = 1; i <= most; ++i) {
        progress.check();
        multiply(p, Ap);
        const double alpha = rz / dotOf(p, Ap);
        addTo(x, alpha, p);
        addTo(r, -alpha, Ap);
        left = std::sqrt(dotOf(r, r));
        if (left < tolerance * size)
            return {i, left / size, true};
        precondition(r, z);
        const double next = dotOf(r, z), beta = next / rz;
        rz = next;
#pragma omp parallel for schedule(static)
        for (size_t k = 0; k < p.size(); ++k)
            p[k] = z[k] + beta * p[k];
    }
    return {most, left / size, false};
}

/// Conjugate gradients of eight columns, each by its own steps. A column that has come to its end
/// stays as it is while others go on, so that its neighbours do not matter to it.
class ColumnsOfGradients
{
public:
    std::vector<Wide> x, r;  ///< solutions and residuals

    /// @param multiply      called with (v, out: A v)
    /// @param precondition  called with (r, out: about A^-1 r)
    /// @param isAtEnd       called after each step with (squares of the residuals, column, step,
    ///                      energy that it gained)
    /// @param most          steps
    template <class Multiply, class Precondition, class AtEnd>
    void run(int most, const base::Progress& progress, Multiply multiply, Precondition precondition,
             AtEnd isAtEnd)
    {
        std::vector<Wide> z(r.size()), q(r.size());
        precondition(r, z);
        std::vector<Wide> p = z;
        Wide rz = dotOf(r, z);
        for (int c = 0; c < wide; ++c)
            m_done[c] = m_atEnd[c] = rz[c] == 0;
        for (int step = 1; step <= most && !isDone(); ++step) {
            progress.check();
            multiply(p, q);
            const Wide pq = dotOf(p, q);
            Wide alpha{}, gained{};
            for (int c = 0; c < wide; ++c) {
                m_done[c] = m_done[c] || !(pq[c] > 0);
                alpha[c] = m_done[c] ? 0.0 : rz[c] / pq[c];
                gained[c] = alpha[c] * rz[c];
            }
            addTo(x, alpha, p);
            addTo(r, -1.0 * alpha, q);
            const Wide left = dotOf(r, r);
            for (int c = 0; c < wide; ++c)
                if (!m_done[c]) {
                    m_steps[c] = step;
                    m_done[c] = m_atEnd[c] = isAtEnd(left, c, step, gained[c]);
                }
            if (isDone())
                return;
            precondition(r, z);
            const Wide next = dotOf(r, z);
            Wide beta{};
            for (int c = 0; c < wide; ++c)
                beta[c] = m_done[c] ? 0.0 : next[c] / rz[c];
            rz = next;
#pragma omp parallel for schedule(static)
            for (size_t k = 0; k < p.size(); ++k)
                p[k] = z[k] + beta * p[k];
        }
    }
    /// Whether each column has come to its end; else it ran out of steps, or the matrix or the
    /// preconditioner is not positive.
    [[nodiscard]] bool areAtEnd() const
    {
        return std::all_of(m_atEnd, m_atEnd + wide, [](bool end) { return end; });
    }
    [[nodiscard]] int steps() const
    {
        return *std::max_element(m_steps, m_steps + wide);
    }

private:
    [[nodiscard]] bool isDone() const
    {
        return std::all_of(m_done, m_done + wide, [](bool done) { return done; });
    }
    bool m_done[wide] = {}, m_atEnd[wide] = {};
    int m_steps[wide] = {};
};

}  // namespace yh::fem
