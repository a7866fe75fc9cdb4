// Dopants by place, and the lines of grids: fine where the doping changes and where contacts end.
#include "physics/junction/drawn/carriers.h"

#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

namespace {

/// A place along an axis at which cells are of a size; they grow with the distance from it, beyond
/// its reach.
struct Feature
{
    double at = 0, size = 0, reach = 0;
};

/// What is wanted of the lines across one axis.
struct Wanted
{
    std::vector<Feature> features;
    std::vector<double> fixed;  ///< places that lines go through
    double low = 0, high = 0;
};

constexpr double growth = 0.2;

/// Size of cells at a place, before they are made finer.
double sizeAt(const Wanted& w, double x, double coarser)
{
    constexpr double fewest = 10;
    double size = (w.high - w.low) / fewest;
    for (const Feature& f : w.features)
        size =
            std::min(size, coarser * f.size + growth * std::max(0.0, std::abs(x - f.at) - f.reach));
    return size;
}

std::vector<double> linesOf(const Wanted& w, double fineness, double coarser)
{
    std::vector<double> all{w.low};
    for (size_t k = 0; k + 1 < w.fixed.size(); ++k) {
        const double a = w.fixed[k], b = w.fixed[k + 1];
        // The count of cells up to each of some places; lines lie at its even shares.
        std::vector<double> at{a}, count{0};
        while (at.back() < b) {
            constexpr double share = 0.1;
            const double x = at.back(), h = sizeAt(w, x, coarser),
                         step = std::min(share * h, b - x),
                         middle = sizeAt(w, x + 0.5 * step, coarser);
            at.push_back(b - x - step < 1e-6 * step ? b : x + step);
            count.push_back(count.back() + step / middle);
        }
        constexpr double fewest = 2;
        const int n = int(std::lround(std::ceil(std::max(fewest, count.back())) * fineness));
        size_t i = 0;
        for (int c = 1; c < n; ++c) {
            const double wanted = count.back() * c / n;
            while (count[i + 1] < wanted)
                ++i;
            all.push_back(at[i] +
                          (at[i + 1] - at[i]) * (wanted - count[i]) / (count[i + 1] - count[i]));
        }
        all.push_back(b);
    }
    return all;
}

/// Gathers what the drawing and its doping want of the lines.
class Wishes
{
public:
    explicit Wishes(const CarrierProblem& problem) : m_problem(problem)
    {
        const Point extent = problem.high - problem.low;
        m_tiny = 1e-9 * norm(extent);
        for (const int axis : {0, 1}) {
            Wanted& w = m_wanted[axis];
            w.low = of(problem.low, axis);
            w.high = of(problem.high, axis);
            w.fixed = {w.low, w.high};
        }
        for (const auto& r : problem.regions)
            for (const auto& outline : r.outlines)
                for (size_t k = 0; k < outline.size(); ++k)
                    border(outline[k], outline[(k + 1) % outline.size()]);
        contacts();
        profiles();
        signChanges();
        for (Wanted& w : m_wanted)
            tidy(w.fixed);
    }
    [[nodiscard]] const Wanted& of(int axis) const { return m_wanted[axis]; }

private:
    static double of(const Point& p, int axis) { return axis == 0 ? p.x : p.y; }
    void tidy(std::vector<double>& places) const
    {
        std::sort(places.begin(), places.end());
        places.erase(std::unique(places.begin(), places.end(),
                                 [this](double a, double b) { return b - a < 1e3 * m_tiny; }),
                     places.end());
    }
    /// Size of cells at an abrupt change of doping.
    [[nodiscard]] double abrupt(double a, double b) const
    {
        constexpr double share = 0.7;
        return share * m_problem.screening(std::max(std::abs(a), std::abs(b)));
    }
    /// A straight piece of a border: along an axis, a line goes through it, and what changes across
    /// it counts.
    void border(const Point& a, const Point& b)
    {
        for (const int axis : {0, 1}) {
            if (std::abs(of(a, axis) - of(b, axis)) > m_tiny || norm(b - a) < 1e3 * m_tiny)
                continue;
            Wanted& w = m_wanted[axis];
            w.fixed.push_back(of(a, axis));
            const Point across = axis == 0 ? Point{100 * m_tiny, 0} : Point{0, 100 * m_tiny};
            for (const double share : {0.02, 0.5, 0.98}) {
                const Point p = a + share * (b - a);
                const int one = m_problem.regionAt(p - across),
                          other = m_problem.regionAt(p + across);
                if (one < 0 || other < 0)
                    continue;
                const double first = m_problem.regions[size_t(one)].net(p),
                             second = m_problem.regions[size_t(other)].net(p);
                if (std::abs(first - second) > 1e-3 * (std::abs(first) + std::abs(second)))
                    w.features.push_back({of(a, axis), abrupt(first, second)});
                constexpr double cells = 20;
                if (first * second < 0) {
                    const double width = m_problem.depleted(first, second);
                    w.features.push_back({of(a, axis), width / cells, width});
                }
            }
        }
    }
    /// Where a contact ends, currents crowd.
    void contacts()
    {
        const Point extent = m_problem.high - m_problem.low;
        for (const auto& c : m_problem.contacts)
            for (const auto& part : c.parts)
                for (const Point& end : part) {
                    const bool isJoined =
                        std::count_if(c.parts.begin(), c.parts.end(), [&](const auto& o) {
                            return norm(o[0] - end) < m_tiny || norm(o[1] - end) < m_tiny;
                        }) > 1;
                    if (isJoined)
                        continue;
                    // At the frame the contact goes on in the image of the device.
                    const int along =
                        std::abs(part[1].x - part[0].x) > std::abs(part[1].y - part[0].y) ? 0 : 1;
                    const double u = of(end, along);
                    const bool isAtFrame = std::abs(u - m_wanted[along].low) < m_tiny ||
                                           std::abs(u - m_wanted[along].high) < m_tiny;
                    for (const int axis : {0, 1}) {
                        Wanted& w = m_wanted[axis];
                        w.fixed.push_back(of(end, axis));
                        constexpr double share = 1.0 / 60, least = 1.0 / 400;
                        if (!isAtFrame)
                            w.features.push_back(
                                {of(end, axis), std::min(share * norm(part[1] - part[0]),
                                                         least * of(extent, axis))});
                    }
                }
    }
    void profiles()
    {
        for (const auto& r : m_problem.regions)
            for (const auto& d : r.doping)
                for (const int axis : {0, 1})
                    if (d.fall > 0)
                        for (const Point& end : {d.from, d.to}) {
                            constexpr double share = 0.4;
                            Wanted& w = m_wanted[axis];
                            w.features.push_back(
                                {std::clamp(of(end, axis), w.low, w.high), share * d.fall});
                        }
    }
    /// Where n turns into p within regions, or at borders along no axis.
    void signChanges()
    {
        constexpr int places = 240;
        const Point extent = m_problem.high - m_problem.low;
        for (const int axis : {0, 1}) {
            const double step = of(extent, axis) / places;
            std::vector<double> size(places, INFINITY);
            for (int j = 0; j < places; ++j) {
                int lastRegion = -1;
                double last = 0;
                for (int i = 0; i < places; ++i) {
                    const double u = (i + 0.5) / places, v = (j + 0.5) / places;
                    const Point p = m_problem.low + (axis == 0 ? Point{u * extent.x, v * extent.y}
                                                               : Point{v * extent.x, u * extent.y});
                    const int region = m_problem.regionAt(p);
                    const double net = region < 0 ? 0 : m_problem.regions[size_t(region)].net(p);
                    if (region >= 0 && lastRegion >= 0 && net * last < 0) {
                        double& s = size[size_t(i)];
                        if (region == lastRegion)
                            s = std::min(s, graded(std::abs(net - last) / step));
                        else if (!isNearLine(axis, of(p, axis), step))
                            s = std::min(s, std::max(abrupt(net, last), step / 4));
                    }
                    lastRegion = region;
                    last = net;
                }
            }
            Wanted& w = m_wanted[axis];
            for (int i = 0; i < places; ++i)
                if (std::isfinite(size[size_t(i)]))
                    w.features.push_back({w.low + i * step, size[size_t(i)]});
        }
    }
    [[nodiscard]] bool isNearLine(int axis, double at, double step) const
    {
        const auto& f = m_wanted[axis].fixed;
        return std::any_of(f.begin(), f.end(),
                           [&](double x) { return std::abs(x - at) < 1.5 * step; });
    }
    /// Size of cells where the doping changes evenly, by its screening length.
    [[nodiscard]] double graded(double slope) const
    {
        constexpr double share = 0.7;
        return share * std::cbrt(m_problem.material.eps * eps0 * m_problem.thermal() /
                                 (elementary * slope));
    }

    const CarrierProblem& m_problem;
    Wanted m_wanted[2];
    double m_tiny = 0;
};

}  // namespace

double CarrierProblem::Doping::at(const Point& p) const
{
    if (fall <= 0)
        return 1;
    const Point along = to - from;
    const double length = dot(along, along),
                 s = length > 0 ? std::clamp(dot(p - from, along) / length, 0.0, 1.0) : 0.0;
    const double away = norm(p - (from + s * along)) / fall;
    return std::exp(-away * away);
}

bool CarrierProblem::Region::contains(const Point& p) const
{
    bool isInside = false;
    for (const auto& outline : outlines)
        for (size_t k = 0; k < outline.size(); ++k) {
            const Point &a = outline[k], &b = outline[(k + 1) % outline.size()];
            if ((a.y > p.y) != (b.y > p.y) && p.x < a.x + (b.x - a.x) * (p.y - a.y) / (b.y - a.y))
                isInside = !isInside;
        }
    return isInside;
}

std::array<double, 2> CarrierProblem::Region::dopants(const Point& p) const
{
    std::array<double, 2> sum{};
    for (const Doping& d : doping) {
        const double share = d.at(p);
        sum[0] += share * d.donors;
        sum[1] += share * d.acceptors;
    }
    return sum;
}

double CarrierProblem::Region::net(const Point& p) const
{
    const auto d = dopants(p);
    return d[0] - d[1];
}

int CarrierProblem::regionAt(const Point& p) const
{
    for (size_t k = 0; k < regions.size(); ++k)
        if (regions[k].contains(p))
            return int(k);
    return -1;
}

double CarrierProblem::depleted(double a, double b) const
{
    // Sze and Ng, Physics of Semiconductor Devices, 3rd ed., section 2.2 (from memory).
    constexpr double inside = 0.8;  // V, a usual built-in voltage
    const double most = inside + std::max(std::abs(from), std::abs(to));
    return std::sqrt(2 * material.eps * eps0 * most / elementary *
                     (1 / std::abs(a) + 1 / std::abs(b)));
}

std::vector<CarrierDetail> carrierDetails(const CarrierProblem& problem)
{
    std::vector<CarrierDetail> list;
    const double tiny = 1e-7 * norm(problem.high - problem.low);
    for (size_t k = 0; k < problem.regions.size(); ++k) {
        const auto& r = problem.regions[k];
        for (const auto& d : r.doping)
            if (d.fall > 0)
                list.push_back({d.from, d.to, 3 * d.fall});
        for (const auto& outline : r.outlines)
            for (size_t i = 0; i < outline.size(); ++i) {
                const Point &a = outline[i], &b = outline[(i + 1) % outline.size()];
                const Point along = b - a, across{-along.y, along.x};
                if (norm(along) < tiny)
                    continue;
                const Point middle = 0.5 * (a + b), off = (tiny / norm(along)) * across;
                for (const double side : {-1.0, 1.0}) {
                    const int other = problem.regionAt(middle + side * off);
                    if (other <= int(k))
                        continue;
                    const double one = r.net(middle),
                                 two = problem.regions[size_t(other)].net(middle);
                    if (one * two < 0)
                        list.push_back({a, b, problem.depleted(one, two)});
                }
            }
    }
    return list;
}

std::array<std::vector<double>, 2> carrierLines(const CarrierProblem& problem, double fineness)
{
    const Wishes wishes(problem);
    // As many as are solved in seconds; the same sizes for every fineness.
    constexpr double most = 3600, step = 1.12;
    double coarser = 1;
    auto lines = [&](double fine) {
        return std::array{linesOf(wishes.of(0), fine, coarser),
                          linesOf(wishes.of(1), fine, coarser)};
    };
    for (int k = 0; k < 60; ++k, coarser *= step)
        if (const auto all = lines(1); double(all[0].size()) * double(all[1].size()) <= most)
            break;
    return lines(fineness);
}

}  // namespace yh::physics
