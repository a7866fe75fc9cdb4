// Functionals of fields of continuous elements: values and slopes at points, extremes over regions.
#pragma once

#include "fem/coupled.h"
#include "physics/common/solution.h"

#include <algorithm>
#include <vector>

namespace yh::physics {

/// Derivative of a functional by each coefficient of an order; shape (fields, functions).
[[nodiscard]] fem::CoupledSolver::Values derivativeOf(const LocalFunctional& functional,
                                                      const mesh::Mesh& mesh, int fields,
                                                      int order);

/// 1 for the numbers of a list; shape (size).
[[nodiscard]] std::vector<char> flags(const std::vector<int>& list, size_t size);

struct Extreme
{
    double value = 0;
    mesh::Locator::Hit hit;
};

/// Largest of a function over cells, by samples refined where it is strongest.
/// @param wanted  by piece of the partition
/// @param value   of (cell, reference point)
template <class Value>
[[nodiscard]] Extreme largestOf(const mesh::Mesh& mesh, const std::vector<char>& wanted,
                                const Value& value)
{
    const bool solid = mesh.dimension == 3;
    auto scan = [&](int t, int steps, Extreme& best) {
        for (int i = 0; i <= steps; ++i)
            for (int j = 0; i + j <= steps; ++j)
                for (int k = 0; i + j + k <= (solid ? steps : i + j); ++k) {
                    const Point xi{double(i) / steps, double(j) / steps, double(k) / steps};
                    const double v = value(t, xi);
                    if (best.hit.cell < 0 || v > best.value)
                        best = {v, {t, xi}};
                }
    };
    std::vector<std::pair<double, int>> strongest;
    for (int t = 0; t < mesh.cellCount(); ++t)
        if (wanted[size_t(mesh.piece[size_t(t)])]) {
            Extreme e;
            scan(t, 2, e);
            strongest.push_back({-e.value, t});
        }
    constexpr size_t most = 16;
    const size_t n = std::min(most, strongest.size());
    std::partial_sort(strongest.begin(), strongest.begin() + std::ptrdiff_t(n), strongest.end());
    Extreme best;
    // From the highest place of each on along its edges' directions, for as long as that rises.
    const int corners = solid ? 4 : 3;
    auto climb = [&](Extreme e, double step) {
        constexpr double least = 2e-4;
        double part[4] = {0, e.hit.xi.x, e.hit.xi.y, e.hit.xi.z};
        part[0] = 1 - part[1] - part[2] - part[3];
        while (step > least) {
            Extreme next = e;
            double to[4] = {};
            for (int i = 0; i < corners; ++i)
                for (int j = 0; j < corners; ++j) {
                    const double by = std::min(step, part[i]);
                    if (i == j || by <= 0)
                        continue;
                    double p[4];
                    std::copy_n(part, 4, p);
                    p[i] -= by;
                    p[j] += by;
                    const Point xi{p[1], p[2], p[3]};
                    if (const double v = value(e.hit.cell, xi); v > next.value) {
                        next = {v, {e.hit.cell, xi}};
                        std::copy_n(p, 4, to);
                    }
                }
            if (next.value > e.value) {
                e = next;
                std::copy_n(to, 4, part);
            } else {
                step /= 2;
            }
        }
        return e;
    };
    for (size_t i = 0; i < n; ++i) {
        const int steps = solid ? 6 : 12;
        Extreme own;
        scan(strongest[i].second, steps, own);
        own = climb(own, 0.5 / steps);
        if (best.hit.cell < 0 || own.value > best.value)
            best = own;
    }
    return best;
}

}  // namespace yh::physics
