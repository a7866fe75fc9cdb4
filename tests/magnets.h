// Closed forms of magnets and coils that several tests compare with.
#pragma once

#include "constants.h"

#include <cmath>

namespace yh::test {

/// B in T on the axis of a winding of 400 turns at 2 A from r = 10 to 15 mm, 20 mm long, at z in m
/// from its middle.
/// Source: Montgomery, Solenoid Magnet Design, 1969, chapter 1 (from memory).
inline double windingField(double z)
{
    const double J = 800 / (5e-3 * 20e-3), a = 10e-3, b = 15e-3;
    auto part = [&](double x) {
        return x * std::log((b + std::hypot(b, x)) / (a + std::hypot(a, x)));
    };
    return mu0 * J / 2 * (part(z + 10e-3) - part(z - 10e-3));
}

/// Mutual inductance in H of two coaxial circles of radius a and b, z apart, m.
/// Source: Maxwell, Treatise on Electricity and Magnetism, 1873, art. 701 (from memory).
inline double mutualInductance(double a, double b, double z)
{
    const double k = std::sqrt(4 * a * b / ((a + b) * (a + b) + z * z));
    return mu0 * std::sqrt(a * b) *
           ((2 / k - k) * std::comp_ellint_1(k) - 2 / k * std::comp_ellint_2(k));
}

}  // namespace yh::test
