// Fields that kinds of lines have in common; for the files that make up the schema only.
#pragma once

#include "sheet/schema.h"

namespace yh::sheet {

using base::Dimension;
using T = FieldType;
namespace dim = base::dim;

inline Field nameField()
{
    return {.key = "name", .type = T::name, .required = true, .help = "its name"};
}

inline Field length(std::string key, std::string marker, std::string help,
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

inline Field within(const std::string& fallback = "0.5 %")
{
    return {.key = "within",
            .type = T::quantity,
            .marker = "within",
            .fallback = fallback,
            .range = Range::positive,
            .help = "accuracy asked for, relative to the value",
            .always = true};
}

inline Field limit(const std::string& key, Dimension d)
{
    return {.key = key,
            .type = T::quantity,
            .marker = key,
            .dimension = d,
            .help = key == "below" ? "largest value allowed" : "smallest value allowed"};
}

/// A property of a material that may depend on place and temperature.
inline Field ofTemperature(const std::string& key, const std::string& marker, Dimension d,
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

/// How long a drive lasts; only transients have it.
inline Field lasting()
{
    return {.key = "until",
            .type = T::quantity,
            .marker = "for",
            .dimension = dim::time,
            .range = Range::positive,
            .help = "how long it lasts from the start of a transient; without it, all the time"};
}

/// The time of a transient that an ask is about.
inline Field afterTime()
{
    return {.key = "after",
            .type = T::quantity,
            .marker = "after",
            .dimension = dim::time,
            .range = Range::positive,
            .help = "time in a transient; without it, its end"};
}

inline Field placeField(const std::string& key, const std::string& marker, const std::string& help)
{
    return {.key = key, .type = T::place, .marker = marker, .required = true, .help = help};
}

/// Adds the shapes, in the plane and solid.
void addShapes(std::vector<Kind>& kinds);
/// Adds conditions and figures of the electrostatic field.
void addElectrostatic(std::vector<Kind>& kinds);
void addElectrostaticAsks(std::vector<Kind>& kinds);
/// Adds conditions and figures of current and heat, and what couples them.
void addTransport(std::vector<Kind>& kinds);
void addTransportAsks(std::vector<Kind>& kinds);
/// Adds conditions and figures of waves.
void addWave(std::vector<Kind>& kinds);
void addWaveAsks(std::vector<Kind>& kinds);

}  // namespace yh::sheet
