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
    if (int(p.guess.size()) == n)
        resid = p.guess;
    else
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
            p.solveShifted(y);
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

}  // namespace yh::fem
