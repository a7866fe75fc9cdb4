// Slots that kinds of lines have in common; for the files in which topics say what they are.
#pragma once

#include "sheet/topic.h"

namespace yh::sheet {

using base::Dimension;
using T = SlotType;
namespace dim = base::dim;

inline Slot nameSlot()
{
    return {.key = "name", .type = T::name, .required = true, .help = "its name"};
}

inline Slot length(std::string key, std::string marker, std::string help,
                   Range range = Range::positive)
{
    return {.key = std::move(key),
            .type = T::quantity,
            .marker = std::move(marker),
            .dimension = dim::length,
            .required = true,
            .range = range,
            .help = std::move(help)};
}

inline Slot within(const std::string& fallback = "0.5 %")
{
    return {.key = "within",
            .type = T::quantity,
            .marker = "within",
            .fallback = fallback,
            .range = Range::positive,
            .help = "accuracy asked for, relative to the value",
            .always = true};
}

inline Slot limit(const std::string& key, Dimension d)
{
    return {.key = key,
            .type = T::quantity,
            .marker = key,
            .dimension = d,
            .help = key == "below" ? "largest value allowed" : "smallest value allowed"};
}

/// A property of a material that may depend on place and temperature.
inline Slot ofTemperature(const std::string& key, const std::string& marker, Dimension d,
                          const std::string& what, Range range = Range::positive)
{
    return {.key = key,
            .type = T::function,
            .marker = marker,
            .dimension = d,
            .range = range,
            .help = what + "; may depend on the temperature T",
            .ofTemperature = true};
}

/// Properties of materials that several fields know, with their place among all.
inline Property permittivity()
{
    return {10,
            {.key = "eps",
             .type = T::function,
             .marker = "ε",
             .range = Range::positive,
             .help = "relative permittivity; may depend on x and y (r and z), and for waves on the "
                     "frequency f, then also with an imaginary part such as - 0.3*j",
             .ofFrequency = true}};
}
inline Property secondPermittivity()
{
    return {20,
            {.key = "eps2",
             .type = T::function,
             .marker = "across",
             .range = Range::positive,
             .help = "relative permittivity along the second axis, if it differs"}};
}
inline Property permeability()
{
    return {30,
            {.key = "mu",
             .type = T::function,
             .marker = "μ",
             .range = Range::positive,
             .help = "relative permeability (waves)"}};
}
inline Property lossTangent()
{
    return {
        40,
        {.key = "loss",
         .type = T::function,
         .marker = "tan δ",
         .range = Range::notNegative,
         .help = "dielectric loss factor (alternating fields, waves); for waves it may depend on "
                 "the frequency f",
         .ofFrequency = true}};
}
inline Property turnedAxes()
{
    return {50,
            {.key = "turned",
             .type = T::quantity,
             .marker = "axes turned by",
             .help = "angle of the first axis"}};
}
inline Property conductivity()
{
    return {60, ofTemperature("sigma", "σ", dim::conductivity, "electric conductivity")};
}
inline Property massDensity()
{
    return {90, ofTemperature("density", "density", dim::density, "mass by volume")};
}

/// How long a drive lasts; only transients have it.
inline Slot lasting()
{
    return {.key = "until",
            .type = T::quantity,
            .marker = "for",
            .dimension = dim::time,
            .range = Range::positive,
            .help = "how long it lasts from the start of a transient; without it, all the time"};
}

/// The time of a transient that an ask is about.
inline Slot afterTime()
{
    return {.key = "after",
            .type = T::quantity,
            .marker = "after",
            .dimension = dim::time,
            .range = Range::positive,
            .help = "time in a transient; without it, its end"};
}

inline Slot placeSlot(const std::string& key, const std::string& marker, const std::string& help)
{
    return {.key = key, .type = T::place, .marker = marker, .required = true, .help = help};
}

/// Adds the shapes, in the plane and solid.
void addShapes(std::vector<Kind>& kinds);
}  // namespace yh::sheet
