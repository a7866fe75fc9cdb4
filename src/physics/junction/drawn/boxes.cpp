// The boxes of a grid, what flows between them, and the order in which they are eliminated.
#include "physics/junction/drawn/carriers.h"

#include "base/fault.h"
#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>
#include <functional>

namespace yh::physics {

namespace {

double distance(const Point& p, const std::array<Point, 2>& part)
{
    const Point along = part[1] - part[0];
    const double length = dot(along, along),
                 s = length > 0 ? std::clamp(dot(p - part[0], along) / length, 0.0, 1.0) : 0.0;
    return norm(p - (part[0] + s * along));
}

/// Visits the quarters of cells about a crossing: visit(their middle, area times what turns it).
template <class Visit>
void overQuarters(const std::vector<double>& xs, const std::vector<double>& ys, size_t i, size_t j,
                  bool aboutAxis, double depth, Visit visit)
{
    for (const int b : {-1, 1})
        for (const int a : {-1, 1}) {
            if ((a < 0 && i == 0) || (a > 0 && i + 1 == xs.size()) || (b < 0 && j == 0) ||
                (b > 0 && j + 1 == ys.size()))
                continue;
            const double w = std::abs(xs[size_t(int(i) + a)] - xs[i]) / 2,
                         h = std::abs(ys[size_t(int(j) + b)] - ys[j]) / 2;
            const Point middle{xs[i] + a * w / 2, ys[j] + b * h / 2};
            visit(middle, w * h * (aboutAxis ? 2 * pi * middle.x : depth));
        }
}

}  // namespace

CarrierGrid::CarrierGrid(const CarrierProblem& problem, double fineness) : m_problem(problem)
{
    auto lines = carrierLines(problem, fineness);
    m_x = std::move(lines[0]);
    m_y = std::move(lines[1]);
    makeNodes();
    makeEdges();
    for (size_t c = 0; c < problem.contacts.size(); ++c)
        if (std::none_of(m_nodes.begin(), m_nodes.end(),
                         [&](const Node& n) { return n.contact == int(c); }))
            throw base::Error(7732, "no place of the grid lies on contact " +
                                        problem.contacts[c].name + ": it is too short");
    findSources();
    eliminationOrder();
    pattern();
    m_poisson = problem.material.eps * eps0 * problem.thermal() / (elementary * m_scale);
}

/// What the quarters about a node give it; returns how many hold semiconductor.
int CarrierGrid::gatherQuarters(Node& n) const
{
    const auto i = size_t(n.column), j = size_t(n.row);
    int quarters = 0;
    overQuarters(m_x, m_y, i, j, m_problem.aboutAxis, m_problem.depth,
                 [&](const Point& middle, double volume) {
                     const int r = m_problem.regionAt(middle);
                     if (r < 0)
                         return;
                     ++quarters;
                     const auto& region = m_problem.regions[size_t(r)];
                     n.net += volume * region.net(middle);
                     n.generation += volume * region.generation;
                     n.volume += volume;
                     const auto same =
                         std::find_if(n.parts.begin(), n.parts.end(),
                                      [&](const auto& p) { return p.life == region.life; });
                     if (same != n.parts.end())
                         same->volume += volume;
                     else
                         n.parts.push_back({region.life, volume});
                 });
    return quarters;
}

/// The contact that a node at the border lies on.
void CarrierGrid::findContact(Node& n, double tiny, double reach) const
{
    for (size_t c = 0; c < m_problem.contacts.size(); ++c)
        for (const auto& part : m_problem.contacts[c].parts) {
            const bool isAlong =
                std::abs(part[0].x - part[1].x) < tiny || std::abs(part[0].y - part[1].y) < tiny;
            if (distance(n.at, part) < (isAlong ? tiny : 0.6 * reach))
                n.contact = int(c);
        }
}

void CarrierGrid::makeNodes()
{
    const double tiny = 1e-7 * norm(m_problem.high - m_problem.low);
    m_node.assign(m_x.size() * m_y.size(), -1);
    double heaviest = m_problem.ni;
    for (size_t j = 0; j < m_y.size(); ++j)
        for (size_t i = 0; i < m_x.size(); ++i) {
            Node n;
            n.at = {m_x[i], m_y[j]};
            n.column = int(i);
            n.row = int(j);
            const int quarters = gatherQuarters(n);
            if (quarters == 0)
                continue;
            n.net /= n.volume;
            heaviest = std::max(heaviest, std::abs(n.net));
            const double reach = std::min(i + 1 < m_x.size() ? m_x[i + 1] - m_x[i] : INFINITY,
                                          i > 0 ? m_x[i] - m_x[i - 1] : INFINITY) +
                                 std::min(j + 1 < m_y.size() ? m_y[j + 1] - m_y[j] : INFINITY,
                                          j > 0 ? m_y[j] - m_y[j - 1] : INFINITY);
            if (quarters < 4)
                findContact(n, tiny, reach);
            m_node[j * m_x.size() + i] = int(m_nodes.size());
            m_nodes.push_back(std::move(n));
        }
    m_scale = heaviest;
    m_ni = m_problem.ni / m_scale;
    for (Node& n : m_nodes) {
        n.net /= m_scale;
        n.generation /= m_scale;
    }
}

/// Halves of the face on either side of an edge, each by both quarters that it parts.
void CarrierGrid::addFaces(const Node& n, int axis, double length, Edge& e) const
{
    const size_t i = size_t(n.column), j = size_t(n.row);
    for (const int side : {-1, 1}) {
        const auto& across = axis == 0 ? m_y : m_x;
        const size_t at = axis == 0 ? j : i;
        if ((side < 0 && at == 0) || (side > 0 && at + 1 == across.size()))
            continue;
        const double h = std::abs(across[size_t(int(at) + side)] - across[at]) / 2;
        for (const double along : {0.25, 0.75}) {
            Point p = n.at;
            (axis == 0 ? p.x : p.y) += along * length;
            (axis == 0 ? p.y : p.x) += side * h / 2;
            const int r = m_problem.regionAt(p);
            if (r < 0)
                continue;
            const auto& region = m_problem.regions[size_t(r)];
            const double radius = axis == 0 ? n.at.x + 0.5 * length : p.x,
                         face = 0.5 * h * (m_problem.aboutAxis ? 2 * pi * radius : m_problem.depth);
            const auto d = region.dopants(p);
            const double all = d[0] + d[1],
                         mobility[] = {region.electronMobility > 0
                                           ? region.electronMobility
                                           : m_problem.material.electrons.at(all),
                                       region.holeMobility > 0 ? region.holeMobility
                                                               : m_problem.material.holes.at(all)};
            e.face += face;
            e.electrons += face * mobility[electrons];
            e.holes += face * mobility[holes];
        }
    }
}

void CarrierGrid::makeEdges()
{
    for (const Node& n : m_nodes) {
        for (const int axis : {0, 1}) {
            const size_t i = size_t(n.column), j = size_t(n.row), k = axis == 0 ? i + 1 : i,
                         l = axis == 0 ? j : j + 1;
            if (k >= m_x.size() || l >= m_y.size() || m_node[l * m_x.size() + k] < 0)
                continue;
            Edge e;
            e.from = m_node[j * m_x.size() + i];
            e.to = m_node[l * m_x.size() + k];
            const double length = axis == 0 ? m_x[k] - m_x[i] : m_y[l] - m_y[j];
            addFaces(n, axis, length, e);
            if (!(e.face > 0))
                continue;
            e.field = e.face / length;
            e.electrons *= m_problem.thermal() / length;
            e.holes *= m_problem.thermal() / length;
            m_edges.push_back(e);
        }
    }
}

/// Majority carriers come from a contact through like-doped places.
void CarrierGrid::findSources()
{
    std::vector<std::vector<int>> beside(m_nodes.size());
    for (const Edge& e : m_edges) {
        beside[size_t(e.from)].push_back(e.to);
        beside[size_t(e.to)].push_back(e.from);
    }
    for (size_t c = 0; c < m_problem.contacts.size(); ++c) {
        std::vector<int> front;
        auto take = [&](int k, int carrier) {
            if (m_nodes[size_t(k)].source[carrier] < 0) {
                m_nodes[size_t(k)].source[carrier] = int(c);
                front.push_back(k);
            }
        };
        auto majority = [&](int k) { return m_nodes[size_t(k)].net >= 0 ? electrons : holes; };
        for (size_t k = 0; k < m_nodes.size(); ++k)
            if (m_nodes[k].contact == int(c)) {
                m_nodes[k].source[electrons] = m_nodes[k].source[holes] = -1;
                take(int(k), majority(int(k)));
            }
        while (!front.empty()) {
            const int k = front.back();
            front.pop_back();
            for (const int other : beside[size_t(k)])
                if (majority(other) == majority(k))
                    take(other, majority(other));
        }
    }
}

/// Halves of the grid before the line between them, again and again.
void CarrierGrid::eliminationOrder()
{
    m_place.assign(m_nodes.size(), -1);
    int next = 0;
    auto take = [&](int i, int j) {
        const int k = m_node[size_t(j) * m_x.size() + size_t(i)];
        if (k >= 0 && m_nodes[size_t(k)].contact < 0)
            m_place[size_t(k)] = next++;
    };
    auto begin = [&](int first) {
        if (next > first)
            m_blocks.push_back(first);
    };
    std::function<void(int, int, int, int)> part = [&](int left, int right, int bottom, int top) {
        constexpr int small = 4;
        const int w = right - left, h = top - bottom;
        if (w <= 0 || h <= 0)
            return;
        const int first = next;
        if (w <= small && h <= small) {
            for (int j = bottom; j < top; ++j)
                for (int i = left; i < right; ++i)
                    take(i, j);
            begin(first);
        } else if (w >= h) {
            const int middle = left + w / 2;
            part(left, middle, bottom, top);
            part(middle + 1, right, bottom, top);
            const int separator = next;
            for (int j = bottom; j < top; ++j)
                take(middle, j);
            begin(separator);
        } else {
            const int middle = bottom + h / 2;
            part(left, right, bottom, middle);
            part(left, right, middle + 1, top);
            const int separator = next;
            for (int i = left; i < right; ++i)
                take(i, middle);
            begin(separator);
        }
    };
    part(0, int(m_x.size()), 0, int(m_y.size()));
    m_matrix.size = 3 * next;
}

void CarrierGrid::pattern()
{
    // Each place sees itself and its neighbours: the potential both carriers, a carrier its own
    // kind beside and the other one at the place.
    std::vector<std::vector<int>> columns(size_t(m_matrix.size));
    auto see = [&](int place, int other) {
        for (const int k : {0, 1, 2}) {
            auto& row = columns[size_t(3 * place + k)];
            row.push_back(3 * other);
            for (const int l : {1, 2})
                if (place == other || k == l)
                    row.push_back(3 * other + l);
        }
    };
    for (const int place : m_place)
        if (place >= 0)
            see(place, place);
    for (const Edge& e : m_edges) {
        const int a = m_place[size_t(e.from)], b = m_place[size_t(e.to)];
        if (a >= 0 && b >= 0) {
            see(a, b);
            see(b, a);
        }
    }
    m_matrix.start.assign(1, 0);
    for (auto& row : columns) {
        std::sort(row.begin(), row.end());
        m_matrix.column.insert(m_matrix.column.end(), row.begin(), row.end());
        m_matrix.start.push_back(int(m_matrix.column.size()));
    }
    m_matrix.value.assign(m_matrix.column.size(), 0.0);
    m_right.assign(size_t(m_matrix.size), 0.0);
    std::vector<int> starts;
    for (const int first : m_blocks)
        starts.push_back(3 * first);
    m_fronts = std::make_unique<fem::Fronts>(m_matrix, std::move(starts));
}

}  // namespace yh::physics
