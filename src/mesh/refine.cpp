// Refinement by bisection, and the quality of what comes of it.
#include "mesh/mesh.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace yh::mesh {

namespace {

/// Splits marked edges. In triangles and tetrahedra alike the longest marked edge goes first; a
/// face then falls into the same pieces seen from both sides, since what happens to it depends on
/// its own marked edges alone.
class Refiner
{
public:
    Refiner(const Mesh& mesh, const std::vector<char>& marked) : m_mesh(mesh)
    {
        measure();
        mark(marked);
    }

    Mesh run(const shape::Partition& partition, std::vector<int>* parent)
    {
        m_fine.dimension = m_mesh.dimension;
        m_fine.vertices = m_mesh.vertices;
        newNodes();
        m_parent = parent;
        if (parent)
            parent->clear();
        for (int t = 0; t < m_mesh.cellCount(); ++t)
            if (m_mesh.dimension == 2)
                triangle(t);
            else
                tetrahedron(t);
        if (m_mesh.dimension == 3)
            for (int f = 0; f < m_mesh.sideCount(); ++f)
                if (m_mesh.sideTag[size_t(f)] >= 0)
                    face(f);
        m_fine.connect(partition, m_onCurves, m_onSurfaces);
        return std::move(m_fine);
    }

private:
    void measure()
    {
        m_rank.resize(size_t(m_mesh.edgeCount()));
        for (int e = 0; e < m_mesh.edgeCount(); ++e) {
            const auto& v = m_mesh.edges[size_t(e)];
            const Point d = m_mesh.vertices[size_t(v[0])] - m_mesh.vertices[size_t(v[1])];
            m_rank[size_t(e)] = dot(d, d);
        }
        // Twin edges are one in all that is decided.
        for (int e = 0; e < int(m_mesh.twins.edge.size()); ++e) {
            const int one = m_mesh.twins.edge[size_t(e)];
            m_rank[size_t(e)] = m_rank[size_t(one)];
            m_twins[one].push_back(e);
        }
    }
    [[nodiscard]] int twinOf(int e) const
    {
        return m_mesh.twins.empty() ? e : m_mesh.twins.edge[size_t(e)];
    }
    /// Whether edge a is longer than b; equal lengths are told apart by number, so that
    /// neighbours agree.
    [[nodiscard]] bool longer(int a, int b) const
    {
        const double x = m_rank[size_t(a)], y = m_rank[size_t(b)];
        constexpr double same = 1e-12;
        if (std::abs(x - y) > same * (x + y))
            return x > y;
        return twinOf(a) != twinOf(b) ? twinOf(a) < twinOf(b) : a < b;
    }
    [[nodiscard]] int longestOf(std::span<const int> list) const
    {
        int best = list[0];
        for (const int e : list)
            if (longer(e, best))
                best = e;
        return best;
    }
    /// The edges of the two faces of a tetrahedron that share an edge.
    [[nodiscard]] std::array<std::array<int, 3>, 2> facesWith(int t, int e) const
    {
        std::array<std::array<int, 3>, 2> list{};
        size_t n = 0;
        const auto& ce = m_mesh.cellEdges[size_t(t)];
        for (int k = 0; k < 4; ++k) {
            std::array<int, 3> face{};
            size_t m = 0;
            bool has = false;
            for (int j = 0; j < 6; ++j)
                if (edgeCorner[j][0] != k && edgeCorner[j][1] != k) {
                    face[m++] = ce[size_t(j)];
                    has = has || ce[size_t(j)] == e;
                }
            if (has && n < 2)
                list[n++] = face;
        }
        return list;
    }
    /** The cells of every edge, with where each edge's list starts. */
    std::pair<std::vector<int>, std::vector<int>> cellsOfEdges() const
    {
        const int nt = m_mesh.cellCount();
        std::vector<int> start(size_t(m_mesh.edgeCount()) + 1, 0);
        for (int t = 0; t < nt; ++t)
            for (const int e : m_mesh.edgesOf(t))
                ++start[size_t(e) + 1];
        for (size_t e = 1; e < start.size(); ++e)
            start[e] += start[e - 1];
        std::vector<int> list(size_t(start.back())), at(start.begin(), start.end() - 1);
        for (int t = 0; t < nt; ++t)
            for (const int e : m_mesh.edgesOf(t))
                list[size_t(at[size_t(e)]++)] = t;
        return {std::move(start), std::move(list)};
    }

    /// Marks all edges of the marked cells, and the longest edge of every cell and every face that
    /// has one. Source: Plaza and Carey, Appl. Numer. Math. 32 (2000) 195 (from memory).
    void mark(const std::vector<char>& marked)
    {
        const int nt = m_mesh.cellCount();
        m_split.assign(size_t(m_mesh.edgeCount()), 0);
        for (int t = 0; t < nt; ++t)
            if (marked[size_t(t)])
                for (const int e : m_mesh.edgesOf(t))
                    m_split[size_t(e)] = 1;
        const auto [start, list] = cellsOfEdges();
        std::vector<int> stack;
        for (int e = 0; e < m_mesh.edgeCount(); ++e)
            if (m_split[size_t(e)])
                stack.push_back(e);
        while (!stack.empty()) {
            const int e = stack.back();
            stack.pop_back();
            auto split = [&](int l) {
                if (!m_split[size_t(l)]) {
                    m_split[size_t(l)] = 1;
                    stack.push_back(l);
                }
            };
            if (const auto it = m_twins.find(twinOf(e)); it != m_twins.end())
                for (const int other : it->second)
                    split(other);
            for (int i = start[size_t(e)]; i < start[size_t(e) + 1]; ++i) {
                const int t = list[size_t(i)];
                split(longestOf(m_mesh.edgesOf(t)));
                if (m_mesh.dimension == 3)
                    for (const auto& f : facesWith(t, e))
                        split(longestOf(f));
            }
        }
    }

    void newNodes()
    {
        m_node.assign(size_t(m_mesh.edgeCount()), -1);
        for (int e = 0; e < m_mesh.edgeCount(); ++e) {
            const auto& ends = m_mesh.edges[size_t(e)];
            const int c = m_mesh.edgeCurve[size_t(e)];
            const auto& t = m_mesh.parameters[size_t(e)];
            if (m_split[size_t(e)]) {
                const int n = m_node[size_t(e)] = int(m_fine.vertices.size());
                m_fine.vertices.push_back(m_mesh.middles[size_t(e)]);
                if (c >= 0) {
                    const double tm = 0.5 * (t[0] + t[1]);
                    m_onCurves.push_back({ends[0], n, c, t[0], tm});
                    m_onCurves.push_back({n, ends[1], c, tm, t[1]});
                }
            } else if (c >= 0) {
                m_onCurves.push_back({ends[0], ends[1], c, t[0], t[1]});
            }
        }
    }

    void push(int t, const std::array<int, 4>& corners)
    {
        m_fine.cells.push_back(corners);
        m_fine.piece.push_back(m_mesh.piece[size_t(t)]);
        if (m_parent)
            m_parent->push_back(t);
    }

    void triangle(int t)
    {
        // Turned so that the longest edge comes first: corners a, b, c with ab longest.
        const auto e = m_mesh.edgesOf(t);
        const auto v = m_mesh.corners(t);
        const int longest = longestOf(e);
        const size_t k = size_t(std::find(e.begin(), e.end(), longest) - e.begin());
        const int a = v[k], b = v[(k + 1) % 3], c = v[(k + 2) % 3];
        const int m = m_node[size_t(e[k])], n = m_node[size_t(e[(k + 1) % 3])],
                  o = m_node[size_t(e[(k + 2) % 3])];
        if (m < 0) {
            push(t, {a, b, c, -1});
        } else if (n >= 0 && o >= 0) {
            push(t, {a, m, o, -1});
            push(t, {m, b, n, -1});
            push(t, {o, n, c, -1});
            push(t, {m, n, o, -1});
        } else {
            if (n >= 0) {
                push(t, {m, b, n, -1});
                push(t, {m, n, c, -1});
            } else {
                push(t, {m, b, c, -1});
            }
            if (o >= 0) {
                push(t, {a, m, o, -1});
                push(t, {o, m, c, -1});
            } else {
                push(t, {a, m, c, -1});
            }
        }
    }

    /// Edge of the old mesh between two of a cell's corners; -1 where one of them is new.
    struct OldEdges
    {
        std::array<int, 6> ends[2];
        std::array<int, 6> edge;
        int count = 0;
        [[nodiscard]] int between(int a, int b) const
        {
            for (size_t k = 0; k < size_t(count); ++k)
                if ((ends[0][k] == a && ends[1][k] == b) || (ends[0][k] == b && ends[1][k] == a))
                    return edge[k];
            return -1;
        }
    };

    /// Longest marked old edge among the corners of a piece; -1: none. Its ends in i and j.
    template <size_t n>
    int next(const std::array<int, n>& corners, const OldEdges& old, size_t& i, size_t& j) const
    {
        int best = -1;
        for (size_t a = 0; a < n; ++a)
            for (size_t b = a + 1; b < n; ++b) {
                const int e = old.between(corners[a], corners[b]);
                if (e >= 0 && m_split[size_t(e)] && (best < 0 || longer(e, best))) {
                    best = e;
                    i = a;
                    j = b;
                }
            }
        return best;
    }
    template <size_t n, class Emit>
    void bisect(const std::array<int, n>& corners, const OldEdges& old, const Emit& emit) const
    {
        size_t i = 0, j = 0;
        const int e = next(corners, old, i, j);
        if (e < 0) {
            emit(corners);
            return;
        }
        // Replacing a corner by the middle keeps the orientation.
        std::array<int, n> left = corners, right = corners;
        left[j] = right[i] = m_node[size_t(e)];
        bisect(left, old, emit);
        bisect(right, old, emit);
    }
    [[nodiscard]] OldEdges oldEdges(std::span<const int> list) const
    {
        OldEdges old;
        for (const int e : list) {
            const auto k = size_t(old.count++);
            old.ends[0][k] = m_mesh.edges[size_t(e)][0];
            old.ends[1][k] = m_mesh.edges[size_t(e)][1];
            old.edge[k] = e;
        }
        return old;
    }
    void tetrahedron(int t)
    {
        const OldEdges old = oldEdges(m_mesh.edgesOf(t));
        bisect<4>(m_mesh.cells[size_t(t)], old, [&](const std::array<int, 4>& c) { push(t, c); });
    }
    void face(int f)
    {
        int count = 0;
        const auto list = m_mesh.sideEdges(f, count);
        bisect<3>(m_mesh.faces[size_t(f)], oldEdges(list), [&](const std::array<int, 3>& c) {
            m_onSurfaces.push_back({c[0], c[1], c[2], m_mesh.sideTag[size_t(f)]});
        });
    }

    const Mesh& m_mesh;
    Mesh m_fine;
    std::vector<double> m_rank;               ///< squared lengths
    std::map<int, std::vector<int>> m_twins;  ///< edges by the one that stands for them
    std::vector<char> m_split;
    std::vector<int> m_node;
    std::vector<Mesh::CurveEdge> m_onCurves;
    std::vector<Mesh::SurfaceFace> m_onSurfaces;
    std::vector<int>* m_parent = nullptr;
};

/// d r_in / r_out of a straight simplex.
double shapeQuality(const Geometry& g)
{
    if (g.dimension == 2) {
        double p = 0, product = 1;
        for (size_t k = 0; k < 3; ++k) {
            const double l = norm(g.node[(k + 1) % 3] - g.node[k]);
            p += l;
            product *= l;
        }
        const double area = 0.5 * norm(cross(g.node[1] - g.node[0], g.node[2] - g.node[0]));
        return 16 * area * area / (p * product);
    }
    const Point a = g.node[1] - g.node[0], b = g.node[2] - g.node[0], c = g.node[3] - g.node[0];
    const double six = std::abs(dot(a, cross(b, c)));
    const double surface = 0.5 * (norm(cross(a, b)) + norm(cross(b, c)) + norm(cross(c, a)) +
                                  norm(cross(b - a, c - a)));
    const Point o = dot(a, a) * cross(b, c) + dot(b, b) * cross(c, a) + dot(c, c) * cross(a, b);
    // r_in = 3 V / S and r_out = |o| / (12 V).
    return 3 * (0.5 * six / surface) / (0.5 * norm(o) / six);
}

/// Where new corners on a curved side leave thin cells inside out, their edges become straighter: a
/// border a little off is better than a cell that counts as less than nothing.
void straightenFolds(Mesh& mesh)
{
    // Twin edges would have to stay alike.
    if (mesh.dimension == 2 || !mesh.twins.empty())
        return;
    constexpr double least = 0.02;
    constexpr int mostRounds = 8, straight = 4;
    for (int round = 0; round < mostRounds; ++round) {
        const auto bad = folded(mesh, least);
        if (bad.empty())
            return;
        // Half as bent as before at first: what is left of the border's form is worth having.
        const double kept = round < straight ? 0.5 : 0.0;
        std::vector<char> done(mesh.edges.size(), 0);
        for (size_t t = 0; t < bad.size(); ++t)
            for (const int e : mesh.edgesOf(int(t)))
                if (bad[t] && !done[size_t(e)]) {
                    done[size_t(e)] = 1;
                    const auto& ends = mesh.edges[size_t(e)];
                    const Point middle =
                        0.5 * (mesh.vertices[size_t(ends[0])] + mesh.vertices[size_t(ends[1])]);
                    mesh.middles[size_t(e)] = middle + kept * (mesh.middles[size_t(e)] - middle);
                }
    }
}

}  // namespace

Mesh refine(const Mesh& mesh, const shape::Partition& partition, const std::vector<char>& marked,
            std::vector<int>* parent)
{
    Mesh fine = Refiner(mesh, marked).run(partition, parent);
    straightenFolds(fine);
    return fine;
}

std::vector<char> folded(const Mesh& mesh, double leastShare)
{
    std::vector<char> bad(size_t(mesh.cellCount()), 0);
    bool any = false;
    for (int t = 0; t < mesh.cellCount(); ++t) {
        const Geometry g(mesh, t);
        bad[size_t(t)] = g.curved && g.leastDeterminant() < leastShare * g.determinant(g.centre());
        any = any || bad[size_t(t)];
    }
    return any ? bad : std::vector<char>{};
}

Quality quality(const Mesh& mesh)
{
    Quality q;
    double sum = 0;
    q.worst = 2;
    for (int t = 0; t < mesh.cellCount(); ++t) {
        const Geometry g(mesh, t);
        const double value = shapeQuality(g);
        sum += value;
        q.curvedCount += g.curved;
        if (value < q.worst) {
            q.worst = value;
            q.worstAt = g.at(g.centre());
        }
    }
    q.mean = mesh.cellCount() ? sum / mesh.cellCount() : 1.0;
    return q;
}

Mesh refineAlong(Mesh mesh, const shape::Partition& partition, std::span<const LineRule> lines,
                 base::Progress& progress)
{
    constexpr int most = 40;
    for (int round = 0; round < most && !lines.empty(); ++round) {
        progress.check();
        std::vector<char> marked(size_t(mesh.cellCount()), 0);
        bool any = false;
        for (int t = 0; t < mesh.cellCount(); ++t) {
            const auto corners = mesh.corners(t);
            Point centre;
            for (const int c : corners)
                centre = centre + (1.0 / double(corners.size())) * mesh.vertices[size_t(c)];
            double longest = 0, reach = 0;
            for (const int c : corners)
                reach = std::max(reach, norm(mesh.vertices[size_t(c)] - centre));
            for (const int e : mesh.edgesOf(t)) {
                const auto& ends = mesh.edges[size_t(e)];
                longest = std::max(
                    longest, norm(mesh.vertices[size_t(ends[0])] - mesh.vertices[size_t(ends[1])]));
            }
            for (const LineRule& l : lines) {
                if (longest <= l.size)
                    continue;
                const Point along = l.to - l.from;
                const double at =
                    std::clamp(dot(centre - l.from, along) / dot(along, along), 0.0, 1.0);
                if (norm(centre - l.from - at * along) < l.near + 0.5 * reach)
                    marked[size_t(t)] = 1;
            }
            any = any || marked[size_t(t)];
        }
        if (!any)
            break;
        mesh = refine(mesh, partition, marked);
    }
    return mesh;
}

}  // namespace yh::mesh
