// The diode that tests of junctions share, along a line and drawn: 1e17 /cm^3 acceptors beside
// 1e16 /cm^3 donors in silicon at 300 K with 1e10 /cm^3 intrinsic carriers, and its laws.
#pragma once

#include "physics/junction/conditions.h"

#include <cmath>
#include <utility>

namespace yh::test {

inline constexpr double charge = physics::elementary, siliconEps = 11.9 * 8.8541878128e-12,
                        intrinsic = 1e16, acceptors = 1e23, donors = 1e22;

inline double thermalVoltage(double T = 300)
{
    return physics::boltzmann * T / charge;
}
inline double builtInVoltage()
{
    return thermalVoltage() * std::log(acceptors * donors / (intrinsic * intrinsic));
}
/// Depletion widths of both sides, less the tails that the carriers reach into (2 Vt in all), m.
/// Source: Sze and Ng, Physics of Semiconductor Devices, 3rd ed., section 2.2 (from memory).
inline std::pair<double, double> depletionWidths(double v)
{
    const double w = std::sqrt(2 * siliconEps * (builtInVoltage() - v - 2 * thermalVoltage()) /
                               charge * (1 / acceptors + 1 / donors));
    return {w * donors / (acceptors + donors), w * acceptors / (acceptors + donors)};
}
/// Shockley's law between near contacts for mobilities of 1000 and 400 cm^2/(V s), A/m^2.
/// Source: the same, section 2.3.
inline double shortDiodeDensity(double v, double pLength, double nLength)
{
    const auto [wp, wn] = depletionWidths(v);
    return charge * intrinsic * intrinsic * thermalVoltage() *
           (0.1 / (acceptors * (pLength - wp)) + 0.04 / (donors * (nLength - wn))) *
           std::expm1(v / thermalVoltage());
}

}  // namespace yh::test
