// What tests of waves share: constants of physics, and numbers as a sheet takes them.
#pragma once

#include <cstdio>
#include <string>

namespace yh::test {

/// CODATA 2018: m/s, H/m, F/m, ohm.
inline constexpr double pi = 3.14159265358979323846, c0 = 299792458.0, mu0 = 1.25663706212e-6,
                        eps0 = 8.8541878128e-12, eta = 376.730313668;

inline std::string number(double v)
{
    char text[32];
    std::snprintf(text, sizeof text, "%.15g", v);
    return text;
}
inline std::string mm(double m)
{
    return number(m * 1e3) + " mm";
}

}  // namespace yh::test
