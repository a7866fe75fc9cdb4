#include "fem/circulation.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numeric>

namespace yh::fem {

namespace {

/// A number for each set of fluxes, and shares of what is not known yet.
struct Affine
{
    std::vector<double> known;
    std::map<int, double> open;  ///< by number of the unknown

    void add(double by, const Affine& other)
    {
        for (size_t k = 0; k < known.size(); ++k)
            known[k] += by * other.known[k];
        for (const auto& [unknown, share] : other.open) {
            double& own = open[unknown];
            own += by * share;
            constexpr double none = 1e-9;  // shares are whole numbers, or close to it
            if (std::abs(own) < none)
                open.erase(unknown);
        }
    }
};

class Finder
{
public:
    Finder(const mesh::Mesh& mesh, std::span<const int> faces, size_t sets)
        : m_mesh(mesh), m_faces(faces), m_zero{std::vector<double>(sets, 0.0), {}}
    {
        m_isOwn.assign(size_t(mesh.edgeCount()), 0);
        std::vector<int> count(size_t(mesh.edgeCount()) + 1, 0);
        for (const int f : faces) {
            m_edges.push_back(edgesOf(f));
            for (const int e : m_edges.back()) {
                m_isOwn[size_t(e)] = 1;
                ++count[size_t(e) + 1];
            }
        }
        std::partial_sum(count.begin(), count.end(), count.begin());
        m_first = count;
        m_around.resize(size_t(count.back()));
        for (size_t i = 0; i < faces.size(); ++i)
            for (const int e : m_edges[i])
                m_around[size_t(count[size_t(e)]++)] = int(i);
    }

    Circulation run(std::span<const char> fixed, std::span<const std::vector<double>> flux)
    {
        m_value.assign(m_isOwn.size(), m_zero);
        m_isKnown.assign(m_isOwn.size(), 0);
        m_missing.assign(m_faces.size(), 3);
        for (size_t e = 0; e < fixed.size(); ++e)
            if (fixed[e] && m_isOwn[e])
                set(int(e), m_zero);
        plantTree(fixed);
        follow(flux);
        for (int e = 0; e < int(m_isOwn.size()); ++e) {
            if (!m_isOwn[size_t(e)] || m_isKnown[size_t(e)])
                continue;
            // Nothing says what it is yet.
            Affine unknown = m_zero;
            unknown.open[m_unknowns++] = 1;
            set(e, unknown);
            follow(flux);
        }
        return resolved();
    }

private:
    /// Edges of a face in the order ab, bc, ac of its corners a < b < c.
    [[nodiscard]] std::array<int, 3> edgesOf(int face) const
    {
        int count = 0;
        const auto list = m_mesh.sideEdges(face, count);
        const auto& c = m_mesh.faces[size_t(face)];
        std::array<int, 3> sorted{};
        for (const int e : list) {
            const auto& ends = m_mesh.edges[size_t(e)];
            sorted[ends[0] == c[0] ? (ends[1] == c[1] ? 0 : 2) : 1] = e;
        }
        return sorted;
    }

    void set(int edge, const Affine& value)
    {
        m_value[size_t(edge)] = value;
        m_isKnown[size_t(edge)] = 1;
        for (int i = m_first[size_t(edge)]; i < m_first[size_t(edge) + 1]; ++i)
            if (const int f = m_around[size_t(i)]; --m_missing[size_t(f)] <= 1)
                m_ready.push_back(f);
    }

    /** The own edges of every corner, with where each corner's list starts. */
    [[nodiscard]] std::pair<std::vector<int>, std::vector<int>> edgesOfCorners() const
    {
        std::vector<int> first(size_t(m_mesh.vertexCount()) + 1, 0), list;
        for (int e = 0; e < m_mesh.edgeCount(); ++e)
            if (m_isOwn[size_t(e)])
                for (const int v : m_mesh.edges[size_t(e)])
                    ++first[size_t(v) + 1];
        std::partial_sum(first.begin(), first.end(), first.begin());
        list.resize(size_t(first.back()));
        auto next = first;
        for (int e = 0; e < m_mesh.edgeCount(); ++e)
            if (m_isOwn[size_t(e)])
                for (const int v : m_mesh.edges[size_t(e)])
                    list[size_t(next[size_t(v)]++)] = e;
        return {std::move(first), std::move(list)};
    }

    /// Zero on a tree of shortest ways, begun at all fixed edges at once.
    void plantTree(std::span<const char> fixed)
    {
        const auto [first, list] = edgesOfCorners();
        std::vector<char> seen(size_t(m_mesh.vertexCount()), 0);
        std::vector<int> queue;
        for (size_t e = 0; e < fixed.size(); ++e)
            if (fixed[e] && m_isOwn[e])
                for (const int v : m_mesh.edges[e])
                    if (!seen[size_t(v)]) {
                        seen[size_t(v)] = 1;
                        queue.push_back(v);
                    }
        size_t done = 0;
        for (int root = 0; root < m_mesh.vertexCount(); ++root) {
            // Fixed edges first; then whatever hangs apart from them.
            if (done == queue.size()) {
                if (seen[size_t(root)] || first[size_t(root)] == first[size_t(root) + 1])
                    continue;
                seen[size_t(root)] = 1;
                queue.push_back(root);
            }
            for (; done < queue.size(); ++done) {
                const int v = queue[done];
                for (int i = first[size_t(v)]; i < first[size_t(v) + 1]; ++i) {
                    const int e = list[size_t(i)];
                    const auto& ends = m_mesh.edges[size_t(e)];
                    const int other = ends[0] == v ? ends[1] : ends[0];
                    if (seen[size_t(other)])
                        continue;
                    seen[size_t(other)] = 1;
                    queue.push_back(other);
                    set(e, m_zero);
                }
            }
        }
    }

    /// Takes every face of which no more than one edge is missing.
    void follow(std::span<const std::vector<double>> flux)
    {
        constexpr double turn[3] = {1, 1, -1};
        while (!m_ready.empty()) {
            const int f = m_ready.back();
            m_ready.pop_back();
            Affine rest = m_zero;
            for (size_t k = 0; k < flux.size(); ++k)
                rest.known[k] = flux[k][size_t(f)];
            int missing = -1;
            for (int i = 0; i < 3; ++i) {
                const int e = m_edges[size_t(f)][size_t(i)];
                if (m_isKnown[size_t(e)])
                    rest.add(-turn[i], m_value[size_t(e)]);
                else
                    missing = i;
            }
            if (missing < 0) {
                demand(std::move(rest));
                continue;
            }
            Affine value = m_zero;
            value.add(turn[missing], rest);
            set(m_edges[size_t(f)][size_t(missing)], value);
        }
    }

    /// What must vanish: tells one unknown by the others.
    void demand(Affine rest)
    {
        for (auto it = rest.open.begin(); it != rest.open.end();) {
            const auto row = m_rows.find(it->first);
            if (row == m_rows.end()) {
                ++it;
                continue;
            }
            const double share = it->second;
            rest.open.erase(it);
            rest.add(share, row->second);
            it = rest.open.begin();
        }
        if (rest.open.empty())
            return;
        const auto [pivot, share] = *rest.open.rbegin();
        Affine row = m_zero;
        row.add(-1 / share, rest);
        row.open.erase(pivot);
        for (auto& other : m_rows)
            if (const auto it = other.second.open.find(pivot); it != other.second.open.end()) {
                const double by = it->second;
                other.second.open.erase(it);
                other.second.add(by, row);
            }
        m_rows[pivot] = std::move(row);
    }

    Circulation resolved()
    {
        Circulation c;
        c.value.assign(m_zero.known.size(), std::vector<double>(m_isOwn.size(), 0.0));
        std::map<int, size_t> isFree;
        for (int u = 0; u < m_unknowns; ++u)
            if (!m_rows.count(u)) {
                const size_t number = isFree.size();
                isFree[u] = number;
            }
        c.loops.assign(isFree.size(), std::vector<double>(m_isOwn.size(), 0.0));
        for (size_t e = 0; e < m_isOwn.size(); ++e) {
            if (!m_isOwn[e])
                continue;
            Affine value = m_zero;
            value.known = m_value[e].known;
            for (const auto& [unknown, share] : m_value[e].open) {
                Affine one = m_zero;
                if (const auto row = m_rows.find(unknown); row != m_rows.end())
                    one = row->second;
                else
                    one.open[unknown] = 1;
                value.add(share, one);
            }
            for (size_t k = 0; k < c.value.size(); ++k)
                c.value[k][e] = value.known[k];
            for (const auto& [unknown, share] : value.open)
                c.loops[isFree[unknown]][e] = share;
        }
        return c;
    }

    const mesh::Mesh& m_mesh;
    std::span<const int> m_faces;
    Affine m_zero;
    std::vector<char> m_isOwn, m_isKnown;
    std::vector<std::array<int, 3>> m_edges;  ///< by face
    std::vector<int> m_first, m_around;       ///< faces by edge
    std::vector<Affine> m_value;
    std::vector<int> m_missing, m_ready;
    std::map<int, Affine> m_rows;
    int m_unknowns = 0;
};

}  // namespace

Circulation circulation(const mesh::Mesh& mesh, std::span<const int> faces,
                        std::span<const char> fixed, std::span<const std::vector<double>> flux)
{
    return Finder(mesh, faces, flux.size()).run(fixed, flux);
}

}  // namespace yh::fem
