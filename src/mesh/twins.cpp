// Sides of a mesh that are the same but for a shift.
#include "mesh/mesh.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

namespace yh::mesh {

namespace {

using Turns = Mesh::Twins::Turns;

/// Sets of things of which one stands for all, each some shifts of the pairs away from it.
class Classes
{
public:
    explicit Classes(int count) : m_parent(size_t(count)), m_turns(size_t(count), Turns{})
    {
        std::iota(m_parent.begin(), m_parent.end(), 0);
    }
    /// `other` is one shift of a pair away from `one`.
    void join(int one, int other, size_t pair)
    {
        const auto [a, ta] = find(one);
        const auto [b, tb] = find(other);
        if (a == b)
            return;
        m_parent[size_t(b)] = a;
        Turns& turns = m_turns[size_t(b)];
        for (size_t k = 0; k < turns.size(); ++k)
            turns[k] = ta[k] + (k == pair ? 1 : 0) - tb[k];
    }
    [[nodiscard]] std::pair<int, Turns> find(int i) const
    {
        Turns turns{};
        while (m_parent[size_t(i)] != i) {
            for (size_t k = 0; k < turns.size(); ++k)
                turns[k] += m_turns[size_t(i)][k];
            i = m_parent[size_t(i)];
        }
        return {i, turns};
    }
    void write(std::vector<int>& which, std::vector<Turns>& turns) const
    {
        which.clear();
        turns.clear();
        for (int i = 0; i < int(m_parent.size()); ++i) {
            const auto [root, t] = find(i);
            which.push_back(root);
            turns.push_back(t);
        }
    }

private:
    std::vector<int> m_parent;
    std::vector<Turns> m_turns;
};

/// A direction along which no two vertices of a regular pattern agree.
double along(const Point& p)
{
    return p.x + 0.6180339887 * p.y + 0.3819660113 * p.z * 0.7548776662;
}

/// Vertices of the second sides by those of the first, found by their places.
bool matchVertices(const Mesh& m, const std::vector<int>& from, const std::vector<int>& to,
                   const Point& shift, double near, std::map<int, int>& back)
{
    std::vector<std::pair<double, int>> sorted;
    for (const int v : from)
        sorted.emplace_back(along(m.vertices[size_t(v)] + shift), v);
    std::sort(sorted.begin(), sorted.end());
    for (const int v : to) {
        const Point& p = m.vertices[size_t(v)];
        auto it =
            std::lower_bound(sorted.begin(), sorted.end(), std::pair{along(p) - 2 * near, -1});
        for (; it != sorted.end() && it->first < along(p) + 2 * near; ++it)
            if (norm(m.vertices[size_t(it->second)] + shift - p) < near) {
                back[v] = it->second;
                break;
            }
        if (!back.count(v))
            return false;
    }
    return from.size() == to.size();
}

}  // namespace

bool findTwins(Mesh& m, std::span<const PeriodicPair> pairs)
{
    m.twins = {};
    if (pairs.empty())
        return true;
    Classes vertices(m.vertexCount()), edges(m.edgeCount()), sides(m.sideCount());
    for (size_t which = 0; which < pairs.size(); ++which) {
        const PeriodicPair& pair = pairs[which];
        std::vector<int> part[2], corners[2];
        for (int s = 0; s < m.sideCount(); ++s)
            for (const auto& two : pair.sides)
                for (const size_t k : {0U, 1U})
                    if (m.sideTag[size_t(s)] == two[k])
                        part[k].push_back(s);
        for (const size_t k : {0U, 1U}) {
            for (const int s : part[k])
                for (const int v : m.sideCorners(s))
                    corners[k].push_back(v);
            std::sort(corners[k].begin(), corners[k].end());
            corners[k].erase(std::unique(corners[k].begin(), corners[k].end()), corners[k].end());
        }
        std::map<int, int> back;
        constexpr double near = 1e-7;
        if (part[0].size() != part[1].size() ||
            !matchVertices(m, corners[0], corners[1], pair.shift, near * norm(pair.shift), back))
            return false;
        for (const auto& [v, u] : back)
            vertices.join(u, v, which);
        std::map<std::array<int, 2>, int> edgeOf;
        std::map<std::array<int, 3>, int> sideOf;
        auto key = [&](int s, bool turned) {
            std::array<int, 3> k{-1, -1, -1};
            const auto c = m.sideCorners(s);
            for (size_t i = 0; i < c.size(); ++i)
                k[i] = turned ? back.at(c[i]) : c[i];
            std::sort(k.begin(), k.end());
            return k;
        };
        for (const int s : part[0]) {
            sideOf[key(s, false)] = s;
            int count = 0;
            const auto list = m.sideEdges(s, count);
            for (int k = 0; k < count; ++k)
                edgeOf[m.edges[size_t(list[size_t(k)])]] = list[size_t(k)];
        }
        for (const int s : part[1]) {
            const auto it = sideOf.find(key(s, true));
            if (it == sideOf.end())
                return false;
            sides.join(it->second, s, which);
            int count = 0;
            const auto list = m.sideEdges(s, count);
            for (int k = 0; k < count; ++k) {
                const int e = list[size_t(k)];
                std::array<int, 2> ends{back.at(m.edges[size_t(e)][0]),
                                        back.at(m.edges[size_t(e)][1])};
                std::sort(ends.begin(), ends.end());
                edges.join(edgeOf.at(ends), e, which);
            }
        }
    }
    Mesh::Twins& t = m.twins;
    vertices.write(t.vertex, t.vertexTurns);
    edges.write(t.edge, t.edgeTurns);
    sides.write(t.side, t.sideTurns);
    std::vector<int> order(size_t(m.vertexCount()));
    std::iota(order.begin(), order.end(), 0);
    std::sort(order.begin(), order.end(), [&](int a, int b) {
        const int x = t.vertex[size_t(a)], y = t.vertex[size_t(b)];
        return x != y ? x < y : along(m.vertices[size_t(a)]) < along(m.vertices[size_t(b)]);
    });
    t.rank.resize(order.size());
    for (size_t i = 0; i < order.size(); ++i)
        t.rank[size_t(order[i])] = int(i);
    return true;
}

}  // namespace yh::mesh
