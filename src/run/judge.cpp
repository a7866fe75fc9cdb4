#include "run/judge.h"

#include <algorithm>
#include <cmath>

namespace yh::run {

using physics::Finding;

bool lacksError(const Finding& f)
{
    return std::any_of(f.error.begin(), f.error.end(), [](double e) { return std::isnan(e); });
}

void judge(Finding& f, double largest, double scale, double offset)
{
    f.met = !f.noLimit;
    if (f.isAsked() && lacksError(f)) {
        f.met = false;
        return;
    }
    // Small entries of a matrix are judged by its scale.
    constexpr double shareOfScale = 0.02;
    for (size_t k = 0; k < f.value.size() && f.within > 0; ++k)
        f.met =
            f.met && f.error[k] <=
                         f.within * std::max({std::abs(f.value[k] - offset), scale,
                                              f.conductors.empty() ? 0.0 : shareOfScale * largest});
    if (!f.conductors.empty() || f.value.empty())
        return;
    // A forbidden side counts with its error; a singular field is beyond any limit.
    if (std::isfinite(f.below) && !(std::abs(f.value[0]) + f.error[0] <= f.below))
        f.met = false;
    if (std::isfinite(f.above) && !(std::abs(f.value[0]) - f.error[0] >= f.above))
        f.met = false;
    if (f.value[0] == 0 && !f.noLimit)
        f.met = true;
}

bool settled(const Finding& f, double offset)
{
    if (f.met || f.noLimit)
        return true;
    const bool accurate = f.value.size() == 1 &&
                          (f.within <= 0 || f.error[0] <= f.within * std::abs(f.value[0] - offset));
    const bool above = std::isfinite(f.below) && std::abs(f.value[0]) - f.error[0] > f.below;
    const bool under = std::isfinite(f.above) && std::abs(f.value[0]) + f.error[0] < f.above;
    return accurate && (above || under);
}

}  // namespace yh::run
