#include "fem/kept_lu.h"

#include "base/fault.h"

#include <cmath>
#include <numeric>

namespace yh::fem {

void KeptLu::solve(const SparseRows& A, std::vector<double>& x, const std::vector<double>& scale,
                   double tolerance)
{
    const std::vector<double> b = x;
    if (!m_isStale && iterate(A, x, scale, tolerance))
        return;
    if (!m_fronts || m_pattern != A.column) {
        m_fronts = std::make_unique<Fronts>(A);
        m_pattern = A.column;
    }
    m_fronts->factorise(A);
    m_isStale = false;
    x = b;
    m_fronts->solve(x);
}

bool KeptLu::iterate(const SparseRows& A, std::vector<double>& x, const std::vector<double>& scale,
                     double tolerance)
{
    // From the left, in scaled unknowns, so that the error itself is measured.
    const size_t n = x.size();
    auto dot = [](const std::vector<double>& a, const std::vector<double>& b) {
        return std::inner_product(a.begin(), a.end(), b.begin(), 0.0);
    };
    auto precondition = [&](std::vector<double>& v) {
        m_fronts->solve(v);
        for (size_t k = 0; k < n; ++k)
            v[k] /= scale[k];
    };
    precondition(x);
    const double size = std::sqrt(dot(x, x));
    if (!(size > 0))
        return std::isfinite(size);
    // A factorisation costs as much as some twenty solutions.
    constexpr int most = 20, many = 9;
    std::vector<std::vector<double>> basis{x};
    for (double& v : basis[0])
        v /= size;
    std::vector<std::vector<double>> H;
    std::vector<double> c, s, g{size}, work(n);
    int used = 0;
    while (used < most && std::abs(g[size_t(used)]) > tolerance * size) {
        for (size_t k = 0; k < n; ++k)
            work[k] = basis[size_t(used)][k] * scale[k];
        std::vector<double> next;
        A.multiply(work, next);
        precondition(next);
        std::vector<double> h;
        for (const auto& v : basis) {
            h.push_back(dot(v, next));
            for (size_t k = 0; k < n; ++k)
                next[k] -= h.back() * v[k];
        }
        const double rest = std::sqrt(dot(next, next));
        for (size_t k = 0; k < size_t(used); ++k) {
            const double a = h[k];
            h[k] = c[k] * a + s[k] * h[k + 1];
            h[k + 1] = -s[k] * a + c[k] * h[k + 1];
        }
        const double r = std::hypot(h[size_t(used)], rest);
        if (!std::isfinite(r) || !(r > 0))
            return false;
        c.push_back(h[size_t(used)] / r);
        s.push_back(rest / r);
        h[size_t(used)] = r;
        g.push_back(-s.back() * g[size_t(used)]);
        g[size_t(used)] *= c.back();
        H.push_back(std::move(h));
        for (double& v : next)
            v /= rest;
        basis.push_back(std::move(next));
        ++used;
    }
    if (std::abs(g[size_t(used)]) > tolerance * size)
        return false;
    std::vector<double> y(static_cast<size_t>(used));
    for (size_t i = size_t(used); i-- > 0;) {
        y[i] = g[i];
        for (size_t j = i + 1; j < size_t(used); ++j)
            y[i] -= H[j][i] * y[j];
        y[i] /= H[i][i];
    }
    m_isStale = used > many;
    std::fill(x.begin(), x.end(), 0.0);
    for (size_t i = 0; i < size_t(used); ++i)
        for (size_t k = 0; k < n; ++k)
            x[k] += y[i] * basis[i][k];
    for (size_t k = 0; k < n; ++k)
        x[k] *= scale[k];
    return true;
}

}  // namespace yh::fem
