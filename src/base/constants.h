// Constants of mathematics and nature, once for all.
#pragma once

namespace yh::base {

inline constexpr double pi = 3.14159265358979323846;
inline constexpr double c0 = 299792458.0;         ///< m/s, by definition
inline constexpr double eps0 = 8.8541878128e-12;  ///< F/m, CODATA 2018
inline constexpr double mu0 = 1.25663706212e-6;   ///< H/m, CODATA 2018

}  // namespace yh::base
