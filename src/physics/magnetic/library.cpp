#include "physics/magnetic/library.h"

#include "base/constants.h"

#include <map>

namespace yh::physics {

std::optional<MagneticCurve> knownCurve(const std::string& material)
{
    struct Known
    {
        double saturation, permeability;  ///< T, initial and relative
    };
    static const std::map<std::string, Known> list = {
        {"iron", {2.15, 3000}}, {"steel", {2.0, 1000}}, {"nickel", {0.61, 300}}};
    const auto it = list.find(material);
    if (it == list.end())
        return std::nullopt;
    const auto [saturation, permeability] = it->second;
    const double a = saturation / (base::mu0 * (permeability - 1));
    std::vector<MagneticCurve::Pair> pairs = {{0, 0}};
    // Up to 500 times the field that brings half of the saturation.
    constexpr double first = 0.02, ratio = 1.25, last = 500;
    for (double x = first; x < last; x *= ratio) {
        const double H = x * a;
        pairs.push_back({H, base::mu0 * H + saturation * x / (1 + x)});
    }
    return MagneticCurve(pairs);
}

}  // namespace yh::physics
