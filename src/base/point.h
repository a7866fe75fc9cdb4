// Places and vectors in space.
#pragma once

#include <cmath>

namespace yh::base {

/// A place in m, or another vector. Drawings leave z at 0; axisymmetric ones take x as r, y as z.
struct Point
{
    double x = 0.0, y = 0.0, z = 0.0;
};

constexpr Point operator+(const Point& a, const Point& b)
{
    return {a.x + b.x, a.y + b.y, a.z + b.z};
}
constexpr Point operator-(const Point& a, const Point& b)
{
    return {a.x - b.x, a.y - b.y, a.z - b.z};
}
constexpr Point operator*(double s, const Point& a)
{
    return {s * a.x, s * a.y, s * a.z};
}
constexpr double dot(const Point& a, const Point& b)
{
    return a.x * b.x + a.y * b.y + a.z * b.z;
}
constexpr Point cross(const Point& a, const Point& b)
{
    return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}
inline double norm(const Point& a)
{
    return std::sqrt(dot(a, a));
}

}  // namespace yh::base
