// Constants of physics that closed forms need; the program has its own.
#pragma once

namespace yh::test {

/// CODATA 2018: m/s, H/m, F/m, ohm.
inline constexpr double pi = 3.14159265358979323846, c0 = 299792458.0, mu0 = 1.25663706212e-6,
                        eps0 = 8.8541878128e-12, eta = 376.730313668;

}  // namespace yh::test
