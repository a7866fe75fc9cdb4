#include "physics/common/axis.h"

#include "physics/common/constants.h"
#include "physics/common/solution.h"

#include <algorithm>

namespace yh::physics {

Axis modeAxis(const std::vector<Quantity>& quantities, const std::string& shown,
              const std::vector<std::string>& labels)
{
    Axis axis{"mode", {}};
    for (size_t k = 0; k < labels.size(); ++k) {
        const std::string number = labels.size() == 1 ? "" : " " + std::to_string(k + 1);
        Axis::Place place{labels[k], shown + number, {}};
        for (const Quantity& q : quantities)
            if (q.name.ends_with(number) || q.name.ends_with(number + quarterAhead))
                place.arrays.push_back(q.name);
        axis.places.push_back(std::move(place));
    }
    return axis;
}

std::optional<Axis> phaseAxis(const std::vector<Quantity>& quantities)
{
    Axis axis{"phase", {{"in phase", {}, {}}, {"a quarter ahead", {}, {}, 0.5 * pi}}};
    for (const Quantity& q : quantities)
        if (std::any_of(quantities.begin(), quantities.end(),
                        [&](const Quantity& o) { return o.name == q.name + quarterAhead; })) {
            axis.places[0].arrays.push_back(q.name);
            axis.places[1].arrays.push_back(q.name + quarterAhead);
        }
    if (axis.places[0].arrays.empty())
        return std::nullopt;
    for (Axis::Place& place : axis.places)
        place.shown = place.arrays.front();
    return axis;
}

}  // namespace yh::physics
