#include "physics/magnetic/curve.h"

#include "base/constants.h"
#include "base/expression.h"
#include "base/fault.h"
#include "base/quantity.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <limits>

namespace yh::physics {

using base::Error;
using base::mu0;

namespace {

/** Slopes at the points of a curve that rises: the harmonic mean keeps each piece monotone. */
std::vector<double> slopesOf(const std::vector<double>& x, const std::vector<double>& y)
{
    const size_t n = x.size();
    std::vector<double> d(n - 1);
    for (size_t i = 0; i + 1 < n; ++i)
        d[i] = (y[i + 1] - y[i]) / (x[i + 1] - x[i]);
    std::vector<double> slope(n, d[0]);
    for (size_t i = 1; i + 1 < n; ++i) {
        const double a = x[i] - x[i - 1], b = x[i + 1] - x[i], w1 = 2 * b + a, w2 = b + 2 * a;
        slope[i] = (w1 + w2) / (w1 / d[i - 1] + w2 / d[i]);
    }
    slope[n - 1] = std::min(3 * d[n - 2], std::max(d[n - 2], 1 / mu0));
    return slope;
}

}  // namespace

MagneticCurve::MagneticCurve(std::vector<Pair> pairs)
{
    std::sort(pairs.begin(), pairs.end(), [](const Pair& a, const Pair& b) { return a.B < b.B; });
    if (pairs.size() < 2)
        throw Error(2071, "a curve needs at least two points");
    m_odd = std::abs(pairs.front().B) < 1e-9 && std::abs(pairs.front().H) < 1e-6;
    for (size_t i = 0; i < pairs.size(); ++i) {
        m_B.push_back(pairs[i].B);
        m_H.push_back(pairs[i].H);
        if (i == 0)
            continue;
        const double step = m_B[i] - m_B[i - 1], rise = m_H[i] - m_H[i - 1];
        if (!(step > 0) || !(rise > 0))
            throw Error(2071, "B and H must rise together from point to point; at B = " +
                                  base::format(m_B[i], base::dim::fluxDensity) + " they do not");
        constexpr double least = 0.97;  // as far as a data sheet rounds
        if (step < least * mu0 * rise)
            throw Error(2071,
                        "near B = " + base::format(m_B[i], base::dim::fluxDensity) +
                            " the flux density rises slower than in vacuum: is the unit of one "
                            "column another, or is it J where B is said?");
    }
    m_slope = slopesOf(m_B, m_H);
    const size_t n = m_B.size();
    // A magnet goes on along its recoil line.
    m_beyond = m_odd ? 1 / mu0 : std::min(m_slope[n - 1], 1 / mu0);
    m_sum.assign(n, 0.0);
    for (size_t i = 1; i < n; ++i) {
        const double h = m_B[i] - m_B[i - 1];
        m_sum[i] = m_sum[i - 1] + h * (m_H[i - 1] + m_H[i]) / 2 +
                   h * h * (m_slope[i - 1] - m_slope[i]) / 12;
    }
    // Where H vanishes.
    double low = m_B.front() - 1, high = m_B.back() + 1;
    for (int i = 0; i < 200 && high - low > 0; ++i) {
        const double mid = 0.5 * (low + high);
        (field(mid) < 0 ? low : high) = mid;
    }
    m_remanence = m_odd ? 0 : 0.5 * (low + high);
    m_zero = integral(m_remanence);
    m_knee = {std::numeric_limits<double>::quiet_NaN(), std::numeric_limits<double>::quiet_NaN()};
    constexpr double share = 0.9;
    if (m_remanence > 0)
        for (double B = m_remanence; B >= m_B.front(); B -= 1e-4 * m_remanence)
            if (B - mu0 * field(B) < share * m_remanence) {
                m_knee = {field(B), B};
                break;
            }
}

MagneticCurve::At MagneticCurve::at(double B) const
{
    const auto next = std::upper_bound(m_B.begin() + 1, m_B.end() - 1, B);
    const auto i = size_t(next - m_B.begin()) - 1;
    const double h = m_B[i + 1] - m_B[i];
    return {i, (B - m_B[i]) / h, h};
}

double MagneticCurve::field(double B) const
{
    if (m_odd && B < 0)
        return -field(-B);
    if (B <= m_B.front())
        return m_H.front() + m_slope.front() * (B - m_B.front());
    if (B >= m_B.back())
        return m_H.back() + m_beyond * (B - m_B.back());
    const auto [i, s, h] = at(B);
    const double t = 1 - s;
    return t * t * (1 + 2 * s) * m_H[i] + s * s * (1 + 2 * t) * m_H[i + 1] +
           s * t * h * (t * m_slope[i] - s * m_slope[i + 1]);
}

double MagneticCurve::slope(double B) const
{
    if (m_odd)
        B = std::abs(B);
    if (B <= m_B.front())
        return m_slope.front();
    if (B >= m_B.back())
        return m_beyond;
    const auto [i, s, h] = at(B);
    return 6 * s * (1 - s) * (m_H[i + 1] - m_H[i]) / h + (1 - s) * (1 - 3 * s) * m_slope[i] +
           s * (3 * s - 2) * m_slope[i + 1];
}

double MagneticCurve::density(double H) const
{
    if (m_odd && H < 0)
        return -density(-H);
    if (H <= m_H.front())
        return m_B.front() + (H - m_H.front()) / m_slope.front();
    if (H >= m_H.back())
        return m_B.back() + (H - m_H.back()) / m_beyond;
    const auto next = std::upper_bound(m_H.begin() + 1, m_H.end() - 1, H);
    const auto i = size_t(next - m_H.begin()) - 1;
    const double h = m_B[i + 1] - m_B[i], rise = m_H[i + 1] - m_H[i], a = m_slope[i] * h,
                 b = m_slope[i + 1] * h;
    // Newton's method for the place in the piece, kept between points that lie to either side.
    double low = 0, high = 1, s = (H - m_H[i]) / rise;
    constexpr int most = 60;
    constexpr double rounding = 1e-14;
    for (int k = 0; k < most; ++k) {
        const double t = 1 - s,
                     off = m_H[i] + s * s * (1 + 2 * t) * rise + s * t * (t * a - s * b) - H,
                     slope = 6 * s * t * rise + t * (1 - 3 * s) * a + s * (3 * s - 2) * b;
        (off < 0 ? low : high) = s;
        double step = s - off / slope;
        if (!(step >= low && step <= high))
            step = 0.5 * (low + high);
        const double moved = std::abs(step - s);
        s = step;
        if (moved <= rounding)
            break;
    }
    return m_B[i] + h * s;
}

double MagneticCurve::integral(double B) const
{
    auto straight = [](double H, double slope, double by) { return by * (H + slope * by / 2); };
    if (B <= m_B.front())
        return straight(m_H.front(), m_slope.front(), B - m_B.front());
    if (B >= m_B.back())
        return m_sum.back() + straight(m_H.back(), m_beyond, B - m_B.back());
    const auto [i, s, h] = at(B);
    const double s2 = s * s, s3 = s2 * s, s4 = s3 * s;
    return m_sum[i] + h * ((s - s3 + s4 / 2) * m_H[i] + (s3 - s4 / 2) * m_H[i + 1]) +
           h * h *
               ((s2 / 2 - 2 * s3 / 3 + s4 / 4) * m_slope[i] + (s4 / 4 - s3 / 3) * m_slope[i + 1]);
}

double MagneticCurve::energy(double B) const
{
    return m_odd ? integral(std::abs(B)) : integral(B) - m_zero;
}

namespace {

enum class Printed { B, J, M, H, mu0H };

/// A quantity with its unit at the head of a table.
struct Head
{
    Printed column = Printed::B;
    double unit = 1;  ///< to SI
};

/// Units of the older system that data sheets still print: G with 1e-4 T, Oe with 1000 / 4 pi A/m.
bool olderUnit(const std::string& text, const std::string& symbol, double& factor)
{
    if (text == symbol)
        factor = 1;
    else if (text == "k" + symbol)
        factor = 1e3;
    else if (text == "M" + symbol)
        factor = 1e6;
    else
        return false;
    return true;
}

double unitOf(const std::string& text, Printed column)
{
    const bool isField = column == Printed::H || column == Printed::M;
    double factor = 1;
    if (olderUnit(text, "Oe", factor) && column == Printed::H)
        return factor * 1e3 / (4 * base::pi);
    if (olderUnit(text, "G", factor) && !isField)
        return factor * 1e-4;
    const auto wanted = isField ? base::dim::magneticField : base::dim::fluxDensity;
    const auto unit = base::Expression("1 " + text).evaluate({});
    if (!unit.ok() || !(unit.value->dimension == wanted))
        throw Error(2070,
                    "'" + text + "' is no unit of " +
                        (isField ? "H or M: A/m, kA/m, Oe, kOe" : "B, J or μ0 H: T, mT, G, kG"));
    return unit.value->value.real();
}

/// The next quantity of the head, such as "μ0 H (T)"; moves on.
Head nextHead(const std::string& text, size_t& at)
{
    static const std::pair<const char*, Printed> names[] = {
        {"μ0 H", Printed::mu0H}, {"μ0H", Printed::mu0H},   {"µ0 H", Printed::mu0H},
        {"µ0H", Printed::mu0H},  {"mu0 H", Printed::mu0H}, {"mu0*H", Printed::mu0H},
        {"mu0H", Printed::mu0H}, {"B", Printed::B},        {"J", Printed::J},
        {"M", Printed::M},       {"H", Printed::H}};
    while (at < text.size() && (text[at] == ' ' || text[at] == ',' || text[at] == ';'))
        ++at;
    for (const auto& [name, column] : names) {
        const std::string word = name;
        if (text.compare(at, word.size(), word) != 0)
            continue;
        at += word.size();
        while (at < text.size() &&
               (text[at] == ' ' || text[at] == '(' || text[at] == '/' || text[at] == '['))
            ++at;
        size_t end = text.find_first_of(" ,;:)]", at);
        // "A / m" and "kA/m" are one unit each.
        if (end == std::string::npos)
            end = text.size();
        Head h{column, unitOf(text.substr(at, end - at), column)};
        at = std::min(text.size(), text.find_first_not_of(")] ", end));
        return h;
    }
    throw Error(2070,
                "a table begins with its two quantities and their units, such as "
                "`H (kA/m), B (T): 0, 0; 0.1, 0.8; …`; B, J or M over H or μ0 H");
}

/** The numbers of a table, whatever stands between them. */
std::vector<double> numbersIn(const char* p)
{
    std::vector<double> numbers;
    while (*p != 0) {
        char* end = nullptr;
        const double v = std::strtod(p, &end);
        if (end != p) {
            numbers.push_back(v);
            p = end;
            continue;
        }
        if (*p != ' ' && *p != ',' && *p != ';' && *p != ':' && *p != '\t' && *p != '\n' &&
            *p != '|')
            throw Error(2070, std::string("'") + p + "' is not a number of the table");
        ++p;
    }
    return numbers;
}

}  // namespace

std::vector<MagneticCurve::Pair> readMagneticTable(const std::string& text)
{
    size_t at = 0;
    const Head head[2] = {nextHead(text, at), nextHead(text, at)};
    auto isField = [](const Head& h) {
        return h.column == Printed::H || h.column == Printed::mu0H;
    };
    if (isField(head[0]) == isField(head[1]))
        throw Error(2070, "one column is H or μ0 H, the other B, J or M");
    const std::vector<double> numbers = numbersIn(text.c_str() + at);
    if (numbers.size() % 2 != 0)
        throw Error(2070, "the table has " + std::to_string(numbers.size()) +
                              " numbers, which do not make pairs");
    std::vector<MagneticCurve::Pair> pairs;
    for (size_t i = 0; i < numbers.size(); i += 2) {
        const size_t h = isField(head[0]) ? 0 : 1;
        double H = numbers[i + h] * head[h].unit;
        if (head[h].column == Printed::mu0H)
            H /= mu0;
        double B = numbers[i + 1 - h] * head[1 - h].unit;
        if (head[1 - h].column == Printed::J)
            B += mu0 * H;
        else if (head[1 - h].column == Printed::M)
            B = mu0 * (B + H);
        if (!std::isfinite(H) || !std::isfinite(B))
            throw Error(2070, "a number of the table is not finite");
        pairs.push_back({H, B});
    }
    return pairs;
}

}  // namespace yh::physics
