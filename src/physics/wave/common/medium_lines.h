// What lies where between the edges of a grid: straight lines along each axis, finer than the grid,
// with the exact places at which they pass from one region into the next. Borders across an axis
// are then where they are, to rounding.
#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <vector>

namespace yh::physics {

using std::size_t;

class MediumLines
{
public:
    struct Medium
    {
        float eps = 1, sigma = 0;
    };
    /// A box, lengths in cells.
    struct Window
    {
        std::array<double, 3> low{}, high{};
        std::array<bool, 3> falls{};  ///< what is nearer to the ends counts less, down to nothing
    };
    struct Mean
    {
        double eps = 1, inverse = 1, sigma = 0;  ///< means of eps, 1 / eps and sigma
        std::array<double, 3> normal{};          ///< of length 1; zero where all is one medium
    };

    /// @param cells  0 along z: the plane
    /// @param each   lines in a cell, along each axis
    MediumLines(std::array<int, 3> cells, std::array<double, 3> size, int each);
    [[nodiscard]] int each() const { return m_each; }
    /// Part of a line along an axis, by its numbers across, that lies in a region; lengths in
    /// cells.
    void add(int axis, int b, int c, double from, double to, short region);
    /// To be called when all parts are there.
    void finish();

    /// By cell: the region that it lies in, or -1 where it holds several or none.
    [[nodiscard]] std::vector<short> wholeCells() const;
    /// @param medium  (region, place in cells)
    template <class At>
    [[nodiscard]] Mean mean(const Window& window, const At& medium) const;

private:
    struct Part
    {
        double from, to;
        short region;
    };
    struct Sums
    {
        double number = 0, eps = 0, inverse = 0, sigma = 0;
        std::array<double, 3> moment{}, centre{};
        float least = 1e30F, largest = 0;
    };
    [[nodiscard]] size_t line(int axis, int b, int c) const
    {
        return size_t(c) * size_t(m_lines[size_t((axis + 1) % 3)]) + size_t(b);
    }
    /// By lines along one axis.
    template <class At>
    [[nodiscard]] Sums sums(int axis, const Window& window, const At& medium) const;
    [[nodiscard]] Mean meanOf(const Sums& sums) const;
    /// Integrals of the weight from the middle of a window on, and of it times the place.
    static double weight(double u, bool falls) { return falls ? u - u * (u < 0 ? -u : u) / 2 : u; }
    static double moment(double u, bool falls)
    {
        return falls ? u * u / 2 - u * u * (u < 0 ? -u : u) / 3 : u * u / 2;
    }

    std::array<int, 3> m_n, m_lines{};
    std::array<double, 3> m_size;
    int m_each;
    bool m_isPlane;
    std::vector<std::vector<Part>> m_parts[3];
};

template <class At>
MediumLines::Sums MediumLines::sums(int axis, const Window& o, const At& medium) const
{
    Sums out;
    const auto A = size_t(axis), B = (A + 1) % 3, C = (A + 2) % 3;
    auto range = [&](size_t b, int& from, int& to) {
        if (m_n[b] == 0) {
            from = 0;
            to = 1;
            return;
        }
        from = std::max(0, int(o.low[b] * m_each + 0.5));
        to = std::min(m_lines[b], int(o.high[b] * m_each + 0.5));
    };
    int fromB, toB, fromC, toC;
    range(B, fromB, toB);
    range(C, fromC, toC);
    auto share = [&](size_t b, int at) {
        if (!o.falls[b])
            return 1.0;
        const double u = (at + 0.5) / m_each - (o.low[b] + o.high[b]) / 2;
        return 1 - (u < 0 ? -u : u);
    };
    const double middle = (o.low[A] + o.high[A]) / 2;
    for (int c = fromC; c < toC; ++c)
        for (int b = fromB; b < toB; ++b) {
            const double row = share(B, b) * share(C, c);
            for (const Part& part : m_parts[A][line(axis, b, c)]) {
                const double from = std::max(part.from, o.low[A]),
                             to = std::min(part.to, o.high[A]);
                if (!(to > from))
                    continue;
                std::array<double, 3> p{};
                p[A] = (from + to) / 2;
                p[B] = (b + 0.5) / m_each;
                p[C] = (c + 0.5) / m_each;
                const Medium m = medium(part.region, p);
                const double e = double(m.eps), u0 = from - middle, u1 = to - middle,
                             w = row * (weight(u1, o.falls[A]) - weight(u0, o.falls[A]));
                const double along =
                    row * (moment(u1, o.falls[A]) - moment(u0, o.falls[A])) + w * middle;
                out.number += w;
                out.eps += w * e;
                out.inverse += w / e;
                out.sigma += w * double(m.sigma);
                for (size_t a = 0; a < 3; ++a) {
                    const double x = m_size[a] * (a == A ? along : w * p[a]);
                    out.moment[a] += e * x;
                    out.centre[a] += x;
                }
                out.least = std::min(out.least, m.eps);
                out.largest = std::max(out.largest, m.eps);
            }
        }
    return out;
}

template <class At>
MediumLines::Mean MediumLines::mean(const Window& window, const At& medium) const
{
    // Lines that pass the border most straightly tell best where it lies.
    Mean out = meanOf(sums(0, window, medium));
    const auto& n = out.normal;
    int best = 0;
    for (int a = 1; a < (m_isPlane ? 2 : 3); ++a)
        if (n[size_t(a)] * n[size_t(a)] > n[size_t(best)] * n[size_t(best)] + 1e-9)
            best = a;
    return best == 0 ? out : meanOf(sums(best, window, medium));
}

}  // namespace yh::physics
