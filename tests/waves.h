// What tests of waves share: constants of physics, and numbers as a sheet takes them.
#pragma once

#include "constants.h"

#include <cstdio>
#include <string>

namespace yh::test {

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
