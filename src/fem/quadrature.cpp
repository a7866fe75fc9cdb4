#include "fem/quadrature.h"

#include "base/constants.h"

#include <array>
#include <cmath>
#include <mutex>

namespace yh::fem {

std::vector<LinePoint> gaussLegendre(int n)
{
    using base::pi;
    std::vector<LinePoint> rule;
    for (int i = 0; i < n; ++i) {
        double x = std::cos(pi * (i + 0.75) / (n + 0.5)), slope = 1;
        for (int it = 0; it < 100; ++it) {
            double p0 = 1, p1 = x;
            for (int k = 2; k <= n; ++k) {
                const double p2 = ((2 * k - 1) * x * p1 - (k - 1) * p0) / k;
                p0 = p1;
                p1 = p2;
            }
            slope = n * (x * p1 - p0) / (x * x - 1);
            const double dx = p1 / slope;
            x -= dx;
            if (std::abs(dx) < 1e-15)
                break;
        }
        rule.push_back({0.5 * (1 - x), 1 / ((1 - x * x) * slope * slope)});
    }
    return rule;
}

const std::vector<CellPoint>& cellRule(int dimension, int degree)
{
    static std::array<std::array<std::vector<CellPoint>, 32>, 4> rules;
    static std::mutex mutex;
    const std::lock_guard lock(mutex);
    auto& rule = rules.at(size_t(dimension)).at(size_t(degree));
    if (!rule.empty())
        return rule;
    // Each collapse costs one degree along its ray.
    const auto along = gaussLegendre(degree / 2 + 1), ray = gaussLegendre((degree + 1) / 2 + 1),
               far = gaussLegendre((degree + 2) / 2 + 1);
    if (dimension == 1) {
        for (const LinePoint& a : along)
            rule.push_back({{a.x}, a.w});
    } else if (dimension == 2) {
        for (const LinePoint& a : ray)
            for (const LinePoint& b : along)
                rule.push_back({{a.x, (1 - a.x) * b.x}, a.w * b.w * (1 - a.x)});
    } else {
        for (const LinePoint& a : far)
            for (const LinePoint& b : ray)
                for (const LinePoint& c : along) {
                    const double left = 1 - a.x, rest = left * (1 - b.x);
                    rule.push_back({{a.x, left * b.x, rest * c.x}, a.w * b.w * c.w * left * rest});
                }
    }
    return rule;
}

}  // namespace yh::fem
