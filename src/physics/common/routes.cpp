#include "physics/common/routes.h"

#include <algorithm>
#include <cstdio>

namespace yh::physics {

std::string percent(double share)
{
    char b[32];
    const double p = 100 * share;
    std::snprintf(b, sizeof b, p < 0.001 ? "%.0e" : p < 0.1 ? "%.3f" : p < 1 ? "%.2f" : "%.1f", p);
    return std::string(b) + " %";
}

void checkSecondRoutes(Solution& s, const std::vector<Ask>& asks, std::vector<Check>& checks)
{
    for (const Ask& a : asks) {
        if (!a.secondRoute || a.finding.value.empty())
            continue;
        const double v = a.finding.value[0], other = a.secondRoute(s)[0];
        // A component that vanishes is compared by the size of the whole.
        const double scale = std::max(std::abs(v), a.scale ? a.scale(s, s.order()) : 0.0);
        if (!(scale > 0))
            continue;
        const double off = std::abs(other - v) / scale;
        constexpr double close = 0.05;
        checks.push_back({"second route",
                          off < close ? Check::State::good : Check::State::note,
                          a.finding.label + ": " + a.secondRouteName +
                              (off < close ? " gives the same to " : " differs by ") + percent(off),
                          a.finding.line,
                          {}});
    }
}

}  // namespace yh::physics
