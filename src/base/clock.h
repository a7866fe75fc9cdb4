// Time since some start, for counters.
#pragma once

#include <algorithm>
#include <chrono>
#include <ctime>

namespace yh::base {

/// Seconds of a steady clock.
inline double seconds()
{
    using namespace std::chrono;
    return duration<double>(steady_clock::now().time_since_epoch()).count();
}

/// What a computation took so far: seconds of the wall or of all its processors, the less. What
/// other programs do to a machine then decides little of how far a computation goes.
class Effort
{
public:
    [[nodiscard]] double spent() const
    {
        return std::min(seconds() - m_wall, processor() - m_processor);
    }

private:
    static double processor() { return double(std::clock()) / CLOCKS_PER_SEC; }
    double m_wall = seconds(), m_processor = processor();
};

}  // namespace yh::base
