// Numbers that carry their derivatives: nonlinear terms are written once and get exact tangents.
// Source: forward differentiation, Griewank and Walther, Evaluating Derivatives, 2008, chapter 3
// (from memory).
#pragma once

#include <cmath>

namespace yh::fem {

/// A value and its derivatives by N variables.
template <int N>
struct Dual
{
    double v = 0;
    double d[N] = {};

    Dual() = default;
    Dual(double value) : v(value) {}  // constants mix freely with variables
    static Dual variable(double value, int index)
    {
        Dual r(value);
        r.d[index] = 1;
        return r;
    }
    /// A function of this by its value and its derivative.
    [[nodiscard]] Dual map(double value, double slope) const
    {
        Dual r(value);
        for (int i = 0; i < N; ++i)
            r.d[i] = slope * d[i];
        return r;
    }
    Dual& operator+=(const Dual& b)
    {
        v += b.v;
        for (int i = 0; i < N; ++i)
            d[i] += b.d[i];
        return *this;
    }
    friend Dual operator+(Dual a, const Dual& b)
    {
        a += b;
        return a;
    }
    friend Dual operator-(const Dual& a) { return a.map(-a.v, -1); }
    friend Dual operator-(const Dual& a, const Dual& b) { return a + (-b); }
    friend Dual operator*(const Dual& a, const Dual& b)
    {
        Dual r(a.v * b.v);
        for (int i = 0; i < N; ++i)
            r.d[i] = a.d[i] * b.v + a.v * b.d[i];
        return r;
    }
    friend Dual operator/(const Dual& a, const Dual& b)
    {
        return a * b.map(1 / b.v, -1 / (b.v * b.v));
    }
    friend Dual pow(const Dual& a, double p)
    {
        return a.map(std::pow(a.v, p), p * std::pow(a.v, p - 1));
    }
};

}  // namespace yh::fem
