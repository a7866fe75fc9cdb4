#include "base/table.h"

#include "base/fault.h"

#include <algorithm>
#include <cmath>
#include <string>

namespace yh::base {

Table::Table(std::vector<double> x, std::vector<double> y) : m_x(std::move(x)), m_y(std::move(y))
{
    if (m_x.size() != m_y.size() || m_x.empty())
        throw Error(1101, "a table needs as many values as places, and at least one; it has " +
                              std::to_string(m_x.size()) + " and " + std::to_string(m_y.size()));
    for (size_t i = 0; i < m_x.size(); ++i) {
        if (!std::isfinite(m_x[i]) || !std::isfinite(m_y[i]))
            throw Error(1102,
                        "row " + std::to_string(i + 1) + " of the table is not a finite number");
        if (i > 0 && !(m_x[i] > m_x[i - 1]))
            throw Error(1103, "the places of a table must rise; row " + std::to_string(i + 1) +
                                  " does not");
    }
    const size_t n = m_x.size();
    m_slope.assign(n, 0.0);
    if (n < 2)
        return;
    std::vector<double> h(n - 1), s(n - 1);
    for (size_t i = 0; i + 1 < n; ++i) {
        h[i] = m_x[i + 1] - m_x[i];
        s[i] = (m_y[i + 1] - m_y[i]) / h[i];
    }
    for (size_t i = 1; i + 1 < n; ++i) {
        if (s[i - 1] * s[i] <= 0)
            continue;
        const double a = (h[i - 1] + 2 * h[i]) / (3 * (h[i - 1] + h[i]));
        m_slope[i] = s[i - 1] * s[i] / (a * s[i] + (1 - a) * s[i - 1]);
    }
    m_slope.front() = n == 2 ? s[0]
                             : std::clamp(((2 * h[0] + h[1]) * s[0] - h[0] * s[1]) / (h[0] + h[1]),
                                          std::min(0.0, 3 * s[0]), std::max(0.0, 3 * s[0]));
    const size_t e = n - 2;
    m_slope.back() =
        n == 2 ? s[0]
               : std::clamp(((2 * h[e] + h[e - 1]) * s[e] - h[e] * s[e - 1]) / (h[e] + h[e - 1]),
                            std::min(0.0, 3 * s[e]), std::max(0.0, 3 * s[e]));
}

size_t Table::cell(double x) const
{
    const auto it = std::upper_bound(m_x.begin(), m_x.end(), x);
    return std::min(size_t(std::max<std::ptrdiff_t>(it - m_x.begin() - 1, 0)), m_x.size() - 2);
}

bool Table::inRange(double x) const
{
    return !m_x.empty() && x >= m_x.front() && x <= m_x.back();
}

double Table::value(double x) const
{
    if (m_x.size() == 1)
        return m_y[0];
    if (x < m_x.front())
        return m_y.front() + m_slope.front() * (x - m_x.front());
    if (x > m_x.back())
        return m_y.back() + m_slope.back() * (x - m_x.back());
    const size_t i = cell(x);
    const double h = m_x[i + 1] - m_x[i], t = (x - m_x[i]) / h;
    const double a = 1 - t;
    return a * a * (1 + 2 * t) * m_y[i] + t * t * (3 - 2 * t) * m_y[i + 1] +
           h * t * a * (a * m_slope[i] - t * m_slope[i + 1]);
}

double Table::slope(double x) const
{
    if (m_x.size() == 1)
        return 0.0;
    if (x < m_x.front())
        return m_slope.front();
    if (x > m_x.back())
        return m_slope.back();
    const size_t i = cell(x);
    const double h = m_x[i + 1] - m_x[i], t = (x - m_x[i]) / h;
    return 6 * t * (1 - t) * (m_y[i + 1] - m_y[i]) / h + (1 - t) * (1 - 3 * t) * m_slope[i] +
           t * (3 * t - 2) * m_slope[i + 1];
}

}  // namespace yh::base
