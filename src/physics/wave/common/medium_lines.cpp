#include "physics/wave/common/medium_lines.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

MediumLines::MediumLines(std::array<int, 3> cells, std::array<double, 3> size, int each)
    : m_n(cells), m_size(size), m_each(each), m_isPlane(cells[2] == 0)
{
    for (size_t a = 0; a < 3; ++a)
        m_lines[a] = m_n[a] > 0 ? m_n[a] * each : 1;
    for (size_t a = 0; a < (m_isPlane ? 2U : 3U); ++a)
        m_parts[a].resize(size_t(m_lines[(a + 1) % 3]) * size_t(m_lines[(a + 2) % 3]));
}

void MediumLines::add(int axis, int b, int c, double from, double to, short region)
{
    const double low = std::max(from, 0.0), high = std::min(to, double(m_n[size_t(axis)]));
    if (high > low)
        m_parts[axis][line(axis, b, c)].push_back({low, high, region});
}

void MediumLines::finish()
{
    constexpr double near = 1e-6;
    for (auto& lines : m_parts)
#pragma omp parallel for schedule(static)
        for (size_t i = 0; i < lines.size(); ++i) {
            auto& parts = lines[i];
            std::sort(parts.begin(), parts.end(),
                      [](const Part& x, const Part& y) { return x.from < y.from; });
            size_t kept = 0;
            for (const Part& p : parts) {
                if (kept > 0 && parts[kept - 1].region == p.region &&
                    p.from < parts[kept - 1].to + near)
                    parts[kept - 1].to = std::max(parts[kept - 1].to, p.to);
                else
                    parts[kept++] = p;
            }
            parts.resize(kept);
        }
}

std::vector<short> MediumLines::wholeCells() const
{
    constexpr short unseen = -2;
    const std::array<int, 3> n{m_n[0], m_n[1], std::max(1, m_n[2])};
    std::vector<short> whole(size_t(n[0]) * size_t(n[1]) * size_t(n[2]), unseen);
    constexpr double near = 1e-6;
    for (int axis = 0; axis < (m_isPlane ? 2 : 3); ++axis) {
        const auto A = size_t(axis), B = (A + 1) % 3, C = (A + 2) % 3;
        const int eachB = m_n[B] > 0 ? m_each : 1, eachC = m_n[C] > 0 ? m_each : 1;
#pragma omp parallel for schedule(static)
        for (int c = 0; c < n[C]; ++c)
            for (int b = 0; b < n[B]; ++b)
                for (int x = b * eachB; x < (b + 1) * eachB; ++x)
                    for (int y = c * eachC; y < (c + 1) * eachC; ++y) {
                        const auto& parts = m_parts[A][line(axis, x, y)];
                        size_t k = 0;
                        for (int a = 0; a < n[A]; ++a) {
                            while (k < parts.size() && parts[k].to < a + near)
                                ++k;
                            const short here = k < parts.size() && parts[k].from < a + near &&
                                                       parts[k].to > a + 1 - near
                                                   ? parts[k].region
                                                   : short(-1);
                            std::array<int, 3> p{};
                            p[A] = a;
                            p[B] = b;
                            p[C] = c;
                            short& cell =
                                whole[(size_t(p[2]) * size_t(n[1]) + size_t(p[1])) * size_t(n[0]) +
                                      size_t(p[0])];
                            cell = cell == unseen || cell == here ? here : short(-1);
                        }
                    }
    }
    return whole;
}

MediumLines::Mean MediumLines::meanOf(const Sums& s) const
{
    Mean out;
    if (!(s.number > 0))
        return out;
    out = {s.eps / s.number, s.inverse / s.number, s.sigma / s.number, {}};
    if (s.least == s.largest)
        return out;
    double length = 0;
    for (size_t b = 0; b < 3; ++b) {
        out.normal[b] = s.moment[b] / s.number - out.eps * s.centre[b] / s.number;
        length += out.normal[b] * out.normal[b];
    }
    for (double& x : out.normal)
        x = length > 0 ? x / std::sqrt(length) : std::sqrt(1.0 / 3);
    return out;
}

}  // namespace yh::physics
