#include "fem/eigen.h"

#include "base/fault.h"

// The C header of the library uses C99 complex numbers.
extern "C" {
void dsaupd_c(int* ido, char const* bmat, int n, char const* which, int nev, double tol,
              double* resid, int ncv, double* v, int ldv, int* iparam, int* ipntr, double* workd,
              double* workl, int lworkl, int* info);
void dseupd_c(int rvec, char const* howmny, int const* select, double* d, double* z, int ldz,
              double sigma, char const* bmat, int n, char const* which, int nev, double tol,
              double* resid, int ncv, double* v, int ldv, int* iparam, int* ipntr, double* workd,
              double* workl, int lworkl, int* info);
}

#include "fem/dense.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yh::fem {

EigenPairs lowestEigenpairs(const EigenProblem& p, int count, base::Progress& progress)
{
    EigenPairs out;
    const int n = p.size, wanted = std::min(count, n - 2);
    if (wanted < 1)
        throw base::Error(5025, "the mesh is too coarse for that many resonances");
    const int basis = std::min(n, std::max(2 * wanted + 6, 16));
    std::vector<double> resid(static_cast<size_t>(n));
    for (int i = 0; i < n; ++i)  // no symmetry of the device may hide a mode from it
        resid[size_t(i)] = 1 + 0.5 * std::sin(1.7 * i * i + 0.3 * i);
    if (p.project)
        p.project(resid);
    std::vector<double> v(size_t(n) * size_t(basis)), workd(3 * size_t(n)),
        workl(size_t(basis) * size_t(basis + 8));
    int iparam[11] = {1, 0, 300, 1, 0, 0, 3, 0, 0, 0, 0}, ipntr[11] = {}, ido = 0, info = 1;
    constexpr double tolerance = 1e-12;
    std::vector<double> x(static_cast<size_t>(n)), y(static_cast<size_t>(n));
    const int lworkl = int(workl.size());
    for (;;) {
        dsaupd_c(&ido, "G", n, "LA", wanted, tolerance, resid.data(), basis, v.data(), n, iparam,
                 ipntr, workd.data(), workl.data(), lworkl, &info);
        if (ido == 99)
            break;
        progress.check();
        const double* from = &workd[size_t(ipntr[0] - 1)];
        double* to = &workd[size_t(ipntr[1] - 1)];
        x.assign(from, from + n);
        if (ido == 2) {
            p.multiplyM(x, y);
        } else {
            if (ido == -1) {
                p.multiplyM(x, y);
            } else {
                const double* ready = &workd[size_t(ipntr[2] - 1)];
                y.assign(ready, ready + n);
            }
            p.solveShifted(y, 1);
            if (p.project)
                p.project(y);
            ++out.solutions;
        }
        std::copy(y.begin(), y.end(), to);
    }
    if (info != 0 || iparam[4] < wanted)
        throw base::Error(
            5025, "the search for resonances did not converge: " + std::to_string(iparam[4]) +
                      " of " + std::to_string(wanted) + " found");
    std::vector<double> d(static_cast<size_t>(wanted));
    std::vector<int> select(static_cast<size_t>(basis));
    dseupd_c(1, "A", select.data(), d.data(), v.data(), n, p.shift, "G", n, "LA", wanted, tolerance,
             resid.data(), basis, v.data(), n, iparam, ipntr, workd.data(), workl.data(), lworkl,
             &info);
    if (info != 0)
        throw base::Error(5025, "the eigenvectors of the resonances could not be formed");
    std::vector<int> order(d.size());
    std::iota(order.begin(), order.end(), 0);
    std::sort(order.begin(), order.end(),
              [&](int a, int b) { return d[size_t(a)] < d[size_t(b)]; });
    for (const int k : order) {
        out.value.push_back(d[size_t(k)]);
        const double* from = &v[size_t(k) * size_t(n)];
        out.vector.emplace_back(from, from + n);
    }
    return out;
}

namespace {

double product(const std::vector<double>& a, const std::vector<double>& b)
{
    double sum = 0;
#pragma omp simd reduction(+ : sum)
    for (size_t i = 0; i < a.size(); ++i)
        sum += a[i] * b[i];
    return sum;
}

void add(std::vector<double>& x, double s, const std::vector<double>& y)
{
    for (size_t i = 0; i < x.size(); ++i)
        x[i] += s * y[i];
}

/// A growing M-orthonormal basis with its products.
struct RitzBasis
{
    const EigenProblem& problem;
    Columns v, Mv, Kv;

    /// Takes a vector in; false where it adds nothing.
    bool take(std::vector<double> x)
    {
        double taken = 0;
        // Twice is enough (Kahan and Parlett).
        for (int pass = 0; pass < 2; ++pass)
            for (size_t k = 0; k < v.size(); ++k) {
                const double share = product(x, Mv[k]);
                taken += share * share;
                add(x, -share, v[k]);
            }
        std::vector<double> y, z;
        problem.multiplyBoth(x, z, y);
        const double square = product(x, y);
        // Less would let rounding in, and with it the null space.
        constexpr double nothing = 1e-6;
        if (!(square > nothing * nothing * (square + taken)))
            return false;
        const double scale = 1 / std::sqrt(square);
        for (size_t i = 0; i < x.size(); ++i) {
            x[i] *= scale;
            y[i] *= scale;
            z[i] *= scale;
        }
        Kv.push_back(std::move(z));
        v.push_back(std::move(x));
        Mv.push_back(std::move(y));
        return true;
    }
};

/** The lowest vectors above the shift, put together from the basis. */
void putTogether(const SymmetricEigen& ritz, Eigen::Index first, int count, const RitzBasis& basis,
                 EigenPairs& out)
{
    const Eigen::Index size = ritz.value.size();
    for (int k = 0; k < count && first + k < size; ++k) {
        out.value.push_back(ritz.value(first + k));
        out.vector.emplace_back(basis.v[0].size(), 0.0);
        for (Eigen::Index i = 0; i < size; ++i)
            add(out.vector.back(), ritz.vector(i, first + k), basis.v[size_t(i)]);
    }
}

/** Takes what inverse iteration makes of the vectors from `from` on. */
void extend(const EigenProblem& p, RitzBasis& basis, size_t from)
{
    const size_t newest = basis.v.size(), n = size_t(p.size);
    std::vector<double> columns;
    columns.reserve((newest - from) * n);
    for (size_t k = from; k < newest; ++k)
        columns.insert(columns.end(), basis.Mv[k].begin(), basis.Mv[k].end());
    p.solveShifted(columns, int(newest - from));
    for (size_t k = 0; k < newest - from; ++k) {
        const auto at = columns.begin() + std::ptrdiff_t(k * n);
        std::vector<double> x(at, at + std::ptrdiff_t(n));
        p.project(x);
        basis.take(std::move(x));
    }
}

/** Adds the rows of the newest functions to the small matrix of stiffness. */
void extendProducts(const RitzBasis& basis, size_t newest, Eigen::MatrixXd& H)
{
    const auto size = Eigen::Index(basis.v.size());
    H.conservativeResize(size, size);
    for (Eigen::Index i = 0; i < size; ++i)
        for (Eigen::Index j = std::max(i, Eigen::Index(newest)); j < size; ++j)
            H(i, j) = H(j, i) = product(basis.v[size_t(i)], basis.Kv[size_t(j)]);
}

/** How far values have moved; 1 where there were none before. */
double changeOf(const std::vector<double>& now, const std::vector<double>& last, int count)
{
    double change = now.size() == last.size() && int(now.size()) == count ? 0 : 1;
    for (size_t k = 0; k < now.size() && change < 1; ++k)
        change = std::max(change, std::abs(now[k] / last[k] - 1));
    return change;
}

}  // namespace

EigenPairs improvedEigenpairs(const EigenProblem& p, const Columns& guess, int count,
                              base::Progress& progress)
{
    EigenPairs out;
    RitzBasis basis{p, {}, {}, {}};
    for (auto x : guess) {
        p.project(x);
        basis.take(std::move(x));
    }
    Eigen::MatrixXd H;
    std::vector<double> last;
    size_t newest = 0;
    constexpr int mostBlocks = 12;
    for (int block = 0; block < mostBlocks; ++block) {
        progress.check();
        extendProducts(basis, newest, H);
        const auto size = Eigen::Index(basis.v.size());
        const SymmetricEigen ritz = symmetricEigen(H);
        // Values rise; those below the shift are not wanted.
        Eigen::Index first = 0;
        while (first < size && ritz.value(first) <= p.shift)
            ++first;
        std::vector<double> now;
        for (int k = 0; k < count && first + k < size; ++k)
            now.push_back(ritz.value(first + k));
        const double change = changeOf(now, last, count);
        if (change < p.tolerance) {
            putTogether(ritz, first, int(guess.size()), basis, out);
            return out;
        }
        last = now;
        const size_t from = newest;
        newest = basis.v.size();
        extend(p, basis, from);
        out.solutions += int(newest - from);
        if (basis.v.size() == newest)
            break;
    }
    return {};
}

}  // namespace yh::fem
