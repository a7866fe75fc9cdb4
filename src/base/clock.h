// Time since some start, for counters.
#pragma once

#include <chrono>

namespace yh::base {

/// Seconds of a steady clock.
inline double seconds()
{
    using namespace std::chrono;
    return duration<double>(steady_clock::now().time_since_epoch()).count();
}

}  // namespace yh::base
