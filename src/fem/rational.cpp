#include "fem/rational.h"

#include "fem/dense.h"

#include <algorithm>
#include <cmath>

namespace yh::fem {

using Complex = std::complex<double>;

std::vector<Pole> polesOf(const std::vector<double>& x,
                          const std::vector<std::vector<Complex>>& value, double close)
{
    const size_t samples = x.size(), functions = value.size();
    if (samples < 4 || functions == 0)
        return {};
    // Abscissas from -1 to 1 keep the quotients of one size.
    const double middle = 0.5 * (x.front() + x.back()), half = 0.5 * (x.back() - x.front());
    std::vector<double> t;
    for (const double v : x)
        t.push_back((v - middle) / half);
    double largest = 0;
    std::vector<std::vector<Complex>> fit(functions);
    for (size_t k = 0; k < functions; ++k) {
        Complex mean;
        for (const Complex& v : value[k]) {
            largest = std::max(largest, std::abs(v));
            mean += v / double(samples);
        }
        fit[k].assign(samples, mean);
    }
    std::vector<char> isNode(samples, 0);
    std::vector<size_t> nodes;
    Eigen::VectorXcd weight;
    const size_t most = std::min<size_t>(24, samples / 2);
    while (nodes.size() < most) {
        double worst = -1;
        size_t where = 0;
        for (size_t i = 0; i < samples; ++i)
            for (size_t k = 0; k < functions && !isNode[i]; ++k)
                if (const double off = std::abs(fit[k][i] - value[k][i]); off > worst) {
                    worst = off;
                    where = i;
                }
        if (!nodes.empty() && worst <= close * largest)
            break;
        isNode[where] = 1;
        nodes.push_back(where);
        const auto n = Eigen::Index(nodes.size());
        Eigen::MatrixXcd loewner(Eigen::Index(functions * (samples - nodes.size())), n);
        Eigen::Index row = 0;
        for (size_t k = 0; k < functions; ++k)
            for (size_t i = 0; i < samples; ++i) {
                if (isNode[i])
                    continue;
                for (Eigen::Index j = 0; j < n; ++j) {
                    const size_t node = nodes[size_t(j)];
                    loewner(row, j) = (value[k][i] - value[k][node]) / (t[i] - t[node]);
                }
                ++row;
            }
        weight = leastSingularVector(loewner);
        for (size_t i = 0; i < samples; ++i) {
            if (isNode[i])
                continue;
            Complex below;
            std::vector<Complex> above(functions);
            for (Eigen::Index j = 0; j < n; ++j) {
                const size_t node = nodes[size_t(j)];
                const Complex c = weight(j) / (t[i] - t[node]);
                below += c;
                for (size_t k = 0; k < functions; ++k)
                    above[k] += c * value[k][node];
            }
            for (size_t k = 0; k < functions; ++k)
                fit[k][i] = above[k] / below;
        }
        for (size_t k = 0; k < functions; ++k)
            fit[k][where] = value[k][where];
    }
    // Zeros of the sum of w_j / (t - t_j): from the arrowhead pencil, taken from its inverse so
    // that the two values at infinity become zero.
    const auto n = Eigen::Index(nodes.size());
    Eigen::MatrixXcd E = Eigen::MatrixXcd::Zero(n + 1, n + 1), B = E;
    for (Eigen::Index j = 0; j < n; ++j) {
        E(0, j + 1) = weight(j);
        E(j + 1, 0) = 1;
        // Seen from a place beside the axis, where no pole is.
        E(j + 1, j + 1) = t[nodes[size_t(j)]] - Complex(0, 3);
        B(j + 1, j + 1) = 1;
    }
    const ComplexEigen inverse = complexEigen(solved(E, B));
    std::vector<Pole> poles;
    for (Eigen::Index e = 0; e <= n; ++e) {
        const Complex nu = inverse.value(e);
        constexpr double infinite = 1e-3;
        if (std::abs(nu) < infinite)
            continue;
        const Complex at = 1.0 / nu + Complex(0, 3);
        Complex slope;
        Pole pole{middle + half * at, std::vector<Complex>(functions)};
        for (Eigen::Index j = 0; j < n; ++j) {
            const size_t node = nodes[size_t(j)];
            const Complex c = weight(j) / (at - t[node]);
            slope -= c / (at - t[node]);
            for (size_t k = 0; k < functions; ++k)
                pole.residue[k] += c * value[k][node];
        }
        for (Complex& r : pole.residue)
            r *= half / slope;
        poles.push_back(std::move(pole));
    }
    return poles;
}

}  // namespace yh::fem
