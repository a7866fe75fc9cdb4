// GCC 12 takes its own AVX-512 headers for uninitialised once Eigen's complex products are unrolled
// (its bug 105593).
#pragma GCC diagnostic ignored "-Wuninitialized"
#include "fem/arnoldi.h"

#include "fem/dense.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yh::fem {

namespace {

using Complex = std::complex<double>;
using Vector = std::vector<Complex>;

Complex product(const Vector& a, const Vector& b)
{
    Complex sum;
    for (size_t i = 0; i < a.size(); ++i)
        sum += std::conj(a[i]) * b[i];
    return sum;
}

}  // namespace

std::vector<Vector> largestEigenvectors(const std::vector<Vector>& guess, int count, int sure,
                                        const std::function<void(Vector&)>& apply,
                                        base::Progress& progress)
{
    const size_t size = guess[0].size(), most = std::min(size, size_t(std::max(80, 8 * count)));
    std::vector<Vector> v;
    auto norm = [](const Vector& y) { return std::sqrt(product(y, y).real()); };
    auto share = [&v](Vector& x, Eigen::VectorXcd& h) {
        for (int pass = 0; pass < 2; ++pass)
            for (size_t i = 0; i < v.size(); ++i) {
                const Complex part = product(v[i], x);
                h(Eigen::Index(i)) += part;
                for (size_t k = 0; k < x.size(); ++k)
                    x[k] -= part * v[i][k];
            }
    };
    constexpr double nothing = 1e-13;
    auto take = [&](Vector x, double before) {
        const double rest = norm(x);
        if (!(rest > nothing * before))
            return 0.0;
        for (Complex& c : x)
            c /= rest;
        v.push_back(std::move(x));
        return rest;
    };
    const auto room = Eigen::Index(most + guess.size() + 1);
    Eigen::MatrixXcd H = Eigen::MatrixXcd::Zero(room, room);
    for (Vector x : guess) {
        apply(x);  // starts in the range of the operator
        Eigen::VectorXcd unused = Eigen::VectorXcd::Zero(room);
        const double before = norm(x);
        share(x, unused);
        take(std::move(x), before);
    }
    std::vector<Vector> out;
    for (size_t m = 0; m < most && m < v.size(); ++m) {
        progress.check();
        Vector x = v[m];
        apply(x);
        Eigen::VectorXcd h = Eigen::VectorXcd::Zero(room);
        const double before = norm(x);
        share(x, h);
        if (v.size() < size)
            if (const double rest = take(std::move(x), before); rest > 0)
                h(Eigen::Index(v.size()) - 1) = rest;
        H.col(Eigen::Index(m)) = h;
        const bool isLast = m + 1 == most || m + 1 == v.size();
        if (!isLast && (m + 1 < size_t(2 * count) || m % 3 != 2))
            continue;
        const auto n = Eigen::Index(m + 1), all = Eigen::Index(v.size());
        const ComplexEigen ritz = complexEigen(H.topLeftCorner(n, n));
        std::vector<int> order(size_t(n), 0);
        std::iota(order.begin(), order.end(), 0);
        std::sort(order.begin(), order.end(),
                  [&](int p, int q) { return std::abs(ritz.value(p)) > std::abs(ritz.value(q)); });
        order.resize(std::min(order.size(), size_t(count)));
        // Values are taken from quotients later, whose error is the square of this.
        constexpr double settled = 1e-8;
        const auto last = order.begin() + std::ptrdiff_t(std::min(order.size(), size_t(sure)));
        const bool done = std::all_of(order.begin(), last, [&](int k) {
            const Eigen::VectorXcd beyond = H.block(n, 0, all - n, n) * ritz.vector.col(k);
            return beyond.norm() < settled * std::abs(ritz.value(k));
        });
        if (!done && !isLast)
            continue;
        for (const int k : order) {
            Vector y(size);
            for (Eigen::Index i = 0; i < n; ++i)
                for (size_t j = 0; j < size; ++j)
                    y[j] += ritz.vector(i, k) * v[size_t(i)][j];
            out.push_back(std::move(y));
        }
        break;
    }
    return out;
}

}  // namespace yh::fem
