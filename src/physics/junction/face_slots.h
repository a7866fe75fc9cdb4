// Slots that lines of junctions share, along a line and drawn.
#pragma once

#include "sheet/schema_slots.h"

#include <vector>

namespace yh::physics::junction_slots {

using namespace sheet;

inline constexpr base::Dimension density = dim::of(-3, 0, 0);

inline Slot dopants(const char* key, const char* help)
{
    return {.key = key,
            .type = T::quantity,
            .marker = key,
            .dimension = density,
            .fallback = "0 /cm^3",
            .range = Range::notNegative,
            .help = help};
}
inline Slot positive(const char* key, const char* marker, base::Dimension d, const char* help)
{
    return {.key = key,
            .type = T::quantity,
            .marker = marker,
            .dimension = d,
            .range = Range::positive,
            .help = help};
}
/// How long carriers live, how they move, and how many pairs are made.
inline std::vector<Slot> carriers()
{
    constexpr base::Dimension mobility = dim::of(0, -1, 2, 1), rate = dim::of(-3, 0, -1);
    return {positive("electron life", "electrons live", dim::time,
                     "by traps in the middle of the gap, where they are the minority"),
            positive("hole life", "holes live", dim::time,
                     "the same of holes; without it, that of electrons"),
            positive("electron mobility", "electron mobility", mobility,
                     "instead of that of the doping"),
            positive("hole mobility", "hole mobility", mobility, "instead of that of the doping"),
            {.key = "generation",
             .type = T::quantity,
             .marker = "generating",
             .dimension = rate,
             .fallback = "0 /cm^3/s",
             .range = Range::notNegative,
             .help = "pairs by volume and time, as light makes them"}};
}
/// The voltages of curves.
inline std::vector<Slot> voltages()
{
    auto volts = [](const char* key) {
        return Slot{.key = key,
                    .type = T::quantity,
                    .marker = key,
                    .dimension = dim::voltage,
                    .required = true,
                    .help = "of the curves"};
    };
    return {volts("from"),
            volts("to"),
            {.key = "steps",
             .type = T::count,
             .marker = "in",
             .fallback = "17",
             .suffix = "points",
             .always = true,
             .most = 1e4}};
}
/// Some slots, then others.
inline std::vector<Slot> joined(std::vector<Slot> first, const std::vector<Slot>& more)
{
    first.insert(first.end(), more.begin(), more.end());
    return first;
}

}  // namespace yh::physics::junction_slots
