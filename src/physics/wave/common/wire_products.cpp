// Products of wires' currents, spread about them, with the functions of cells.
#include "fem/edge.h"
#include "fem/quadrature.h"
#include "physics/wave/common/wire_shapes.h"
#include "physics/wave/common/wires.h"

#include <algorithm>
#include <array>
#include <tuple>

namespace yh::physics {

using namespace thin;

/// One thread's work on them, cell by cell.
class WireCurrents::CellProducts
{
public:
    /// A segment, or an image of one.
    struct Source
    {
        Point from, to;
        double sign;
        size_t segment;
    };
    CellProducts(const WireCurrents& wires, const std::vector<Source>& sources,
                 const fem::EdgeSpace& space, int order)
        : m_wires(wires),
          m_sources(sources),
          m_space(space),
          m_order(order),
          m_local(space.localCount(order)),
          m_b(wires.m_wires.smooth),
          m_rule(fem::cellRule(3, order + 6)),
          m_line(fem::gaussLegendre((6 + wires.m_degree) / 2 + 1))
    {
    }

    /// Appends those of a cell.
    /// @param first  number of the first function that is wanted
    void add(int cell, int first, std::vector<Product>& all)
    {
        const mesh::Geometry g(m_space.mesh(), cell);
        if (!findNear(g))
            return;
        m_sum.assign(size_t(m_local) * m_currents.size(), 0.0);
        m_touched = false;
        integrate(g, cell);
        if (!m_touched)
            return;
        int number[fem::mostEdgeLocal];
        m_space.local(cell, m_order, number);
        for (int i = 0; i < m_local; ++i)
            for (size_t c = 0; c < m_currents.size(); ++c)
                if (const double v = m_sum[size_t(i) * m_currents.size() + c];
                    v != 0 && number[i] >= first)
                    all.push_back({number[i], m_currents[c], cell, v});
    }

private:
    /// Sources whose current reaches the cell, and the currents on them.
    bool findNear(const mesh::Geometry& g)
    {
        const Point centre = g.at(g.centre());
        double reach = 0;
        for (const Point& n : g.node)
            reach = std::max(reach, norm(n - centre));
        m_near.clear();
        m_currents.clear();
        for (size_t i = 0; i < m_sources.size(); ++i)
            if (fromSegment(centre, m_sources[i].from, m_sources[i].to) < reach + m_b)
                m_near.push_back(i);
        for (const size_t i : m_near)
            for (const Local& u : m_wires.m_locals[m_sources[i].segment])
                m_currents.push_back(u.current);
        std::sort(m_currents.begin(), m_currents.end());
        m_currents.erase(std::unique(m_currents.begin(), m_currents.end()), m_currents.end());
        return !m_near.empty();
    }

    /// Over parts of the cell that are not large against the spread.
    void integrate(const mesh::Geometry& g, int cell)
    {
        using Corners = std::array<Point, 4>;
        std::vector<Corners> parts{{Point{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}}};
        while (!parts.empty()) {
            const Corners c = parts.back();
            parts.pop_back();
            int from = 0, to = 0;
            double longest = 0;
            for (int i = 0; i < 4; ++i)
                for (int j = i + 1; j < 4; ++j)
                    if (const double l = norm(g.at(c[size_t(i)]) - g.at(c[size_t(j)]));
                        l > longest) {
                        longest = l;
                        from = i;
                        to = j;
                    }
            const Point middle = g.at(0.25 * (c[0] + c[1] + c[2] + c[3]));
            const bool far = std::none_of(m_near.begin(), m_near.end(), [&](size_t i) {
                return fromSegment(middle, m_sources[i].from, m_sources[i].to) < longest + m_b;
            });
            if (far)
                continue;
            if (longest > m_b) {
                Corners one = c, other = c;
                one[size_t(to)] = other[size_t(from)] = 0.5 * (c[size_t(from)] + c[size_t(to)]);
                parts.push_back(one);
                parts.push_back(other);
                continue;
            }
            const Point e1 = c[1] - c[0], e2 = c[2] - c[0], e3 = c[3] - c[0];
            const double share = std::abs(dot(e1, cross(e2, e3)));
            for (const auto& q : m_rule) {
                const Point xi = c[0] + q.xi.x * e1 + q.xi.y * e2 + q.xi.z * e3;
                atPoint(g, cell, xi, q.w * share * g.determinant(xi));
            }
        }
    }

    void atPoint(const mesh::Geometry& g, int cell, const Point& xi, double weight)
    {
        const Point x = g.at(xi);
        m_density.clear();
        for (const size_t i : m_near)
            addDensity(m_sources[i], x);
        if (m_density.empty())
            return;
        m_touched = true;
        const fem::EdgePoint point(m_space, m_order, cell, xi);
        for (int i = 0; i < m_local; ++i) {
            const Point f = point.value(i);
            for (const auto& [current, J] : m_density)
                m_sum[size_t(i) * m_currents.size() + columnOf(current)] += weight * dot(f, J);
        }
    }

    /// The density that a source's currents have at a place.
    void addDensity(const Source& s, const Point& x)
    {
        const auto& walls = m_wires.m_wires.segments[s.segment].walls;
        if (std::any_of(walls.begin(), walls.end(),
                        [&x](const auto& wall) { return dot(x - wall[0], wall[1]) < 0; }))
            return;
        // The chord of the ball about x.
        const Point along = s.to - s.from;
        const double length = norm(along), foot = dot(x - s.from, along) / (length * length);
        const Point across = x - s.from - foot * along;
        const double room = m_b * m_b - dot(across, across);
        if (room <= 0)
            return;
        const double half = std::sqrt(room) / length, t0 = std::max(0.0, foot - half),
                     t1 = std::min(1.0, foot + half);
        if (t1 <= t0)
            return;
        double total[mostShapes] = {};
        for (const auto& q : m_line) {
            const double at = t0 + (t1 - t0) * q.x;
            const Point off = x - s.from - at * along;
            const double inside = std::max(0.0, 1 - dot(off, off) / (m_b * m_b));
            double value[mostShapes], slope[mostShapes];
            shapes(m_wires.m_degree, at, value, slope);
            for (int n = 0; n <= m_wires.m_degree; ++n)
                total[n] += (t1 - t0) * q.w * inside * inside * inside * value[n];
        }
        for (const Local& u : m_wires.m_locals[s.segment])
            m_density.push_back(
                {u.current, s.sign * u.sign * peak / (m_b * m_b * m_b) * total[u.shape] * along});
    }

    [[nodiscard]] size_t columnOf(int current) const
    {
        return size_t(std::lower_bound(m_currents.begin(), m_currents.end(), current) -
                      m_currents.begin());
    }

    const WireCurrents& m_wires;
    const std::vector<Source>& m_sources;
    const fem::EdgeSpace& m_space;
    int m_order, m_local;
    double m_b;  ///< how far a current is spread
    const std::vector<fem::CellPoint>& m_rule;
    std::vector<fem::LinePoint> m_line;
    std::vector<size_t> m_near;
    std::vector<int> m_currents;
    std::vector<double> m_sum;  ///< function by current
    std::vector<std::pair<int, Point>> m_density;
    bool m_touched = false;
};

std::vector<WireCurrents::Product> WireCurrents::products(const fem::EdgeSpace& space, int order,
                                                          int first) const
{
    std::vector<CellProducts::Source> sources;
    for (size_t i = 0; i < m_wires.segments.size(); ++i) {
        const auto& s = m_wires.segments[i];
        sources.push_back({m_wires.nodes[size_t(s.from)], m_wires.nodes[size_t(s.to)], 1, i});
        for (const auto& image : s.images)
            sources.push_back({image.from, image.to, image.sign, i});
    }
    std::vector<Product> all;
#pragma omp parallel
    {
        std::vector<Product> mine;
        CellProducts work(*this, sources, space, order);
#pragma omp for schedule(dynamic, 64)
        for (int t = 0; t < space.mesh().cellCount(); ++t)
            work.add(t, first, mine);
#pragma omp critical
        all.insert(all.end(), mine.begin(), mine.end());
    }
    // The same order whatever thread came first.
    std::sort(all.begin(), all.end(), [](const Product& a, const Product& c) {
        return std::tie(a.function, a.current, a.cell) < std::tie(c.function, c.current, c.cell);
    });
    return all;
}

}  // namespace yh::physics
