// The place of a least value by the golden section.
#pragma once

namespace yh::base {

/// Where f is least between a and b, if it has one valley there.
/// @param steps  each leaves 0.618 of the range
/// Source: Kiefer, Proc. Amer. Math. Soc. 4 (1953) 502 (from memory).
template <class Function>
[[nodiscard]] double leastAt(const Function& f, double a, double b, int steps)
{
    constexpr double golden = 0.6180339887498949;
    double x = b - golden * (b - a), y = a + golden * (b - a), fx = f(x), fy = f(y);
    for (int i = 0; i < steps; ++i) {
        if (fx < fy) {
            b = y;
            y = x;
            fy = fx;
            x = b - golden * (b - a);
            fx = f(x);
        } else {
            a = x;
            x = y;
            fx = fy;
            y = a + golden * (b - a);
            fy = f(y);
        }
    }
    return 0.5 * (a + b);
}

}  // namespace yh::base
