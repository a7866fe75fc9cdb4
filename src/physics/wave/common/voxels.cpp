#include "physics/wave/common/voxels.h"

#include "base/fault.h"
#include "base/quantity.h"
#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

namespace {

double part(const Point& p, int axis)
{
    return axis == 0 ? p.x : axis == 1 ? p.y : p.z;
}

/// Lines run this share of a cell beside those of the grid, so that none lies in the side of a
/// simplex or in a wall.
constexpr double beside[3] = {1.13e-5, 0.71e-5, 0.89e-5};

/** A cell of a solid in small tetrahedra: small cubes of the reference tetrahedron in six each,
 those outside left out. */
template <class Simplex>
void addTetrahedra(const mesh::Geometry& g, int n, int piece, std::vector<Simplex>& list)
{
    auto corner = [&](int i, int j, int k) {
        return g.at({double(i) / n, double(j) / n, double(k) / n});
    };
    constexpr int path[6][4][3] = {
        {{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {1, 1, 1}}, {{0, 0, 0}, {1, 0, 0}, {1, 0, 1}, {1, 1, 1}},
        {{0, 0, 0}, {0, 1, 0}, {1, 1, 0}, {1, 1, 1}}, {{0, 0, 0}, {0, 1, 0}, {0, 1, 1}, {1, 1, 1}},
        {{0, 0, 0}, {0, 0, 1}, {1, 0, 1}, {1, 1, 1}}, {{0, 0, 0}, {0, 0, 1}, {0, 1, 1}, {1, 1, 1}}};
    // Coordinates n >= a >= b >= c >= 0 make the tetrahedron that these parts fill exactly.
    for (int a = 0; a < n; ++a)
        for (int b = 0; b <= a; ++b)
            for (int d = 0; d <= b; ++d)
                for (const auto& p : path) {
                    Simplex s;
                    s.piece = piece;
                    bool isInside = true;
                    for (size_t v = 0; v < 4; ++v) {
                        const int x = a + p[v][0], y = b + p[v][1], z = d + p[v][2];
                        isInside = isInside && x <= n && y <= x && z <= y;
                        s.corner[v] = corner(x - y, y - z, z);
                    }
                    if (isInside)
                        list.push_back(s);
                }
}

}  // namespace

Voxels::Voxels(const GridFrame& problem, const mesh::Mesh& mesh, std::array<int, 3> cells,
               double lossFrequency)
    : m_problem(problem), m_n(cells)
{
    const Point extent = problem.to - problem.from;
    for (int a = 0; a < 3; ++a)
        m_d[size_t(a)] = m_n[size_t(a)] > 0 ? part(extent, a) / m_n[size_t(a)] : 1;
    const std::vector<Simplex> all = simplices(mesh);
    cover(all);
    faces();
    media(all, lossFrequency);
}

std::vector<Voxels::Simplex> Voxels::simplices(const mesh::Mesh& mesh) const
{
    std::vector<Simplex> list;
    for (int c = 0; c < mesh.cellCount(); ++c) {
        const mesh::Geometry g(mesh, c);
        const int piece = mesh.piece[size_t(c)];
        constexpr int fine = 6;
        const int n = g.curved ? fine : 1;
        auto corner = [&](int i, int j, int k) {
            return g.at({double(i) / n, double(j) / n, double(k) / n});
        };
        if (!m_problem.isSolid) {
            for (int i = 0; i < n; ++i)
                for (int j = 0; i + j < n; ++j) {
                    list.push_back(
                        {{corner(i, j, 0), corner(i + 1, j, 0), corner(i, j + 1, 0)}, piece});
                    if (i + j + 2 <= n)
                        list.push_back(
                            {{corner(i + 1, j, 0), corner(i + 1, j + 1, 0), corner(i, j + 1, 0)},
                             piece});
                }
            continue;
        }
        addTetrahedra(g, n, piece, list);
    }
    return list;
}

template <class Visit>
void Voxels::cast(const Simplex& s, int axis, const std::array<double, 3>& step,
                  const std::array<double, 3>& first, const std::array<int, 3>& count,
                  Visit visit) const
{
    const int b = (axis + 1) % 3, c = (axis + 2) % 3;
    const size_t corners = m_problem.isSolid ? 4 : 3;
    std::array<std::array<double, 3>, 4> p{};
    std::array<double, 3> low{1e300, 1e300, 1e300}, high{-1e300, -1e300, -1e300};
    for (size_t v = 0; v < corners; ++v)
        for (int a = 0; a < 3; ++a) {
            const auto x = size_t(a);
            p[v][x] = part(s.corner[v], a) - part(m_problem.from, a);
            low[x] = std::min(low[x], p[v][x]);
            high[x] = std::max(high[x], p[v][x]);
        }
    auto range = [&](int of, int& from, int& to) {
        const auto x = size_t(of);
        if (!m_problem.isSolid && of == 2) {
            from = to = 0;
            return;
        }
        from = std::max(0, int(std::ceil((low[x] - first[x]) / step[x])));
        to = std::min(count[x] - 1, int(std::floor((high[x] - first[x]) / step[x])));
    };
    int fromB, toB, fromC, toC;
    range(b, fromB, toB);
    range(c, fromC, toC);
    const auto A = size_t(axis), B = size_t(b), C = size_t(c);
    for (int j = fromB; j <= toB; ++j)
        for (int k = fromC; k <= toC; ++k) {
            const double y = first[B] + j * step[B], z = first[C] + k * step[C];
            double t0 = -1e300, t1 = 1e300;
            bool hits = true;
            if (m_problem.isSolid) {
                constexpr size_t face[4][4] = {
                    {1, 2, 3, 0}, {0, 2, 3, 1}, {0, 1, 3, 2}, {0, 1, 2, 3}};
                for (const auto& f : face) {
                    const auto &o = p[f[0]], &u = p[f[1]], &v = p[f[2]], &w = p[f[3]];
                    std::array<double, 3> e{}, g{}, n{};
                    for (size_t x = 0; x < 3; ++x) {
                        e[x] = u[x] - o[x];
                        g[x] = v[x] - o[x];
                    }
                    for (size_t x = 0; x < 3; ++x)
                        n[x] = e[(x + 1) % 3] * g[(x + 2) % 3] - e[(x + 2) % 3] * g[(x + 1) % 3];
                    double inside = 0;
                    for (size_t x = 0; x < 3; ++x)
                        inside += n[x] * (w[x] - o[x]);
                    const double sign = inside > 0 ? 1 : -1;
                    const double slope = sign * n[A],
                                 rest =
                                     sign * (n[B] * (y - o[B]) + n[C] * (z - o[C]) - n[A] * o[A]);
                    // slope t + rest >= 0
                    if (slope > 0)
                        t0 = std::max(t0, -rest / slope);
                    else if (slope < 0)
                        t1 = std::min(t1, -rest / slope);
                    else
                        hits = hits && rest >= 0;
                }
            } else {
                const size_t across = A == 0 ? 1 : 0;
                const double at = across == B ? y : z;
                double from = 1e300, to = -1e300;
                for (size_t v = 0; v < 3; ++v) {
                    const auto &o = p[v], &u = p[(v + 1) % 3];
                    if ((o[across] > at) == (u[across] > at))
                        continue;
                    const double t =
                        o[A] + (u[A] - o[A]) * (at - o[across]) / (u[across] - o[across]);
                    from = std::min(from, t);
                    to = std::max(to, t);
                }
                t0 = from;
                t1 = to;
            }
            if (hits && t1 > t0)
                visit(j, k, t0, t1);
        }
}

void Voxels::cover(const std::vector<Simplex>& all)
{
    const size_t count = size_t(m_n[0] + 1) * size_t(m_n[1] + 1) * size_t(m_n[2] + 1);
    m_node.assign(count, 0);
    for (int a = 0; a < 3; ++a) {
        m_open[a].assign(count, 0.0F);
        m_face[a].assign(count, 0.0F);
    }
    std::array<double, 3> first{};
    std::array<int, 3> lines{};
    for (size_t a = 0; a < 3; ++a) {
        first[a] = beside[a] * m_d[a];
        lines[a] = m_n[a] + 1;
    }
    const int axes = m_problem.isSolid ? 3 : 2;
#pragma omp parallel for schedule(dynamic, 1)
    for (int a = 0; a < axes; ++a) {
        const auto A = size_t(a), B = (A + 1) % 3, C = (A + 2) % 3;
        const double d = m_d[A];
        // The last lines lie within the frame.
        for (const Simplex& s : all)
            for (const int last : {0, 1, 2, 3}) {
                auto from = first;
                auto number = lines;
                auto step = m_d;
                for (const auto& [bit, x] : {std::pair{1, B}, std::pair{2, C}}) {
                    if (!(last & bit)) {
                        --number[x];
                        continue;
                    }
                    from[x] = m_n[x] * m_d[x] - first[x];
                    number[x] = 1;
                }
                if (!m_problem.isSolid) {
                    // There is one plane only.
                    const int plane = B == 2 ? 1 : C == 2 ? 2 : 0;
                    if (plane != 0 && (last & plane))
                        continue;
                    number[2] = 1;
                    step[2] = 1;
                    from[2] = 0;
                }
                cast(s, a, step, from, number, [&](int j, int k, double t0, double t1) {
                    std::array<int, 3> p{};
                    p[B] = (last & 1) && m_n[B] > 0 ? m_n[B] : j;
                    p[C] = (last & 2) && m_n[C] > 0 ? m_n[C] : k;
                    const double u0 = std::max(0.0, t0 / d), u1 = std::min(double(m_n[A]), t1 / d);
                    for (int i = int(u0); i < m_n[A] && i < u1; ++i) {
                        p[A] = i;
                        m_open[a][at(p[0], p[1], p[2])] +=
                            float(std::max(0.0, std::min(u1, i + 1.0) - std::max(u0, double(i))));
                    }
                    if (a != 0)
                        return;
                    constexpr double near = 2e-5;
                    for (int i = std::max(0, int(std::ceil(u0 - near)));
                         i <= m_n[A] && i <= u1 + near; ++i) {
                        p[A] = i;
                        m_node[at(p[0], p[1], p[2])] = 1;
                    }
                });
            }
    }
    constexpr float least = 1e-3F;
    for (int a = 0; a < axes; ++a)
        for (float& open : m_open[a]) {
            if (open < least)
                open = 0;
            else if (open > 1 - least)
                open = 1;
            else
                m_isCut = true;
        }
    if (!m_problem.isSolid)
        for (size_t i = 0; i < count; ++i)
            m_open[2][i] = float(m_node[i]);
}

std::array<float, 2> Voxels::span(int axis, std::array<int, 3> p) const
{
    const float open = m_open[axis][at(p[0], p[1], p[2])];
    if (open >= 1 || open <= 0 || (!m_problem.isSolid && axis == 2))
        return {0, open};
    const bool start = m_node[at(p[0], p[1], p[2])] != 0;
    ++p[size_t(axis)];
    const bool end = m_node[at(p[0], p[1], p[2])] != 0;
    if (start == end)
        return {(1 - open) / 2, (1 + open) / 2};
    return start ? std::array<float, 2>{0, open} : std::array<float, 2>{1 - open, 1};
}

bool Voxels::hidesMetal() const
{
    const int axes = m_problem.isSolid ? 3 : 2;
    auto isOpen = [&](const std::array<int, 3>& p) { return m_node[at(p[0], p[1], p[2])] != 0; };
    for (int a = 0; a < axes; ++a) {
        const auto A = size_t(a);
        for (int k = 0; k <= m_n[2]; ++k)
            for (int j = 0; j <= m_n[1]; ++j)
                for (int i = 0; i <= m_n[0]; ++i) {
                    std::array<int, 3> p{i, j, k};
                    const float open = m_open[a][at(i, j, k)];
                    constexpr float whole = 0.98F;
                    if (p[A] >= m_n[A] || open >= whole)
                        continue;
                    // Metal that an edge only grazes has nodes beside the edge.
                    bool alone = true;
                    for (const int end : {0, 1}) {
                        auto q = p;
                        q[A] += end;
                        alone = alone && isOpen(q);
                        for (int b = 0; b < axes && alone; ++b)
                            for (const int by : {-1, 1}) {
                                auto r = q;
                                const auto B = size_t(b);
                                r[B] += by;
                                if (b != a && r[B] >= 0 && r[B] <= m_n[B])
                                    alone = alone && isOpen(r);
                            }
                    }
                    if (alone)
                        return true;
                }
    }
    return false;
}

void Voxels::faces()
{
    for (int a = 0; a < 3; ++a) {
        const auto B = size_t((a + 1) % 3), C = size_t((a + 2) % 3);
        for (int k = 0; k <= m_n[2]; ++k)
            for (int j = 0; j <= m_n[1]; ++j)
                for (int i = 0; i <= m_n[0]; ++i) {
                    std::array<int, 3> p{i, j, k};
                    const bool flatB = !m_problem.isSolid && B == 2,
                               flatC = !m_problem.isSolid && C == 2;
                    if ((p[B] >= m_n[B] && !flatB) || (p[C] >= m_n[C] && !flatC))
                        continue;
                    float& face = m_face[a][at(i, j, k)];
                    auto next = [&](size_t axis) {
                        auto q = p;
                        if (!(axis == 2 && !m_problem.isSolid))
                            ++q[axis];
                        return q;
                    };
                    if (flatB || flatC) {
                        face = m_open[flatB ? C : B][at(i, j, k)];
                        continue;
                    }
                    // Round the part that is left, side by side.
                    const auto s0 = span(int(B), p), s1 = span(int(C), next(B)),
                               s2 = span(int(B), next(C)), s3 = span(int(C), p);
                    const std::array<std::array<float, 2>, 8> way{{{s0[0], 0},
                                                                   {s0[1], 0},
                                                                   {1, s1[0]},
                                                                   {1, s1[1]},
                                                                   {s2[1], 1},
                                                                   {s2[0], 1},
                                                                   {0, s3[1]},
                                                                   {0, s3[0]}}};
                    const std::array<bool, 4> isThere{s0[1] > s0[0], s1[1] > s1[0], s2[1] > s2[0],
                                                      s3[1] > s3[0]};
                    float area = 0;
                    std::array<float, 2> start{}, before{};
                    bool any = false;
                    for (size_t v = 0; v < 8; ++v) {
                        if (!isThere[v / 2])
                            continue;
                        if (!any)
                            start = way[v];
                        else
                            area += before[0] * way[v][1] - before[1] * way[v][0];
                        before = way[v];
                        any = true;
                    }
                    area += before[0] * start[1] - before[1] * start[0];
                    face = std::clamp(area / 2, 0.0F, 1.0F);
                    constexpr float whole = 1e-4F;
                    if (face > 1 - whole)
                        face = 1;
                }
    }
    // An edge in the surface of metal has a face without area beside it.
    constexpr float least = 1e-6F;
    for (int a = 0; a < 3; ++a)
        for (int k = 0; k <= m_n[2]; ++k)
            for (int j = 0; j <= m_n[1]; ++j)
                for (int i = 0; i <= m_n[0]; ++i) {
                    float& open = m_open[a][at(i, j, k)];
                    if (!(open > 0))
                        continue;
                    const std::array<int, 3> p{i, j, k};
                    for (int other = 1; other < 3; ++other) {
                        // Faces across `normal` hold the edge and lie to both sides along `along`.
                        const auto normal = size_t((a + other) % 3),
                                   along = size_t((a + 3 - other) % 3);
                        for (const int side : {-1, 0}) {
                            auto q = p;
                            if (along == 2 && !m_problem.isSolid)
                                continue;
                            q[along] += side;
                            if (q[along] < 0 || q[along] >= m_n[along])
                                continue;
                            if (m_face[normal][at(q[0], q[1], q[2])] < least)
                                open = 0;
                        }
                    }
                }
}

void Voxels::media(const std::vector<Simplex>& all, double lossFrequency)
{
    const WaveProblem& w = *m_problem.wave;
    auto mediumOf = [&](int piece, double eps) {
        return Medium{float(eps),
                      float(2 * pi * lossFrequency * eps0 * eps * w.loss[size_t(piece)] +
                            w.sigma[size_t(piece)])};
    };
    bool isOne = true;
    const int firstPiece = w.activePieces.front();
    m_only = mediumOf(firstPiece, w.eps[size_t(firstPiece)].constant.xx);
    for (const int f : w.activePieces) {
        const Medium m = mediumOf(f, w.eps[size_t(f)].constant.xx);
        isOne = isOne && !w.eps[size_t(f)].at && m.eps == m_only.eps && m.sigma == m_only.sigma;
    }
    if (isOne)
        return;
    // About an edge, eps is the harmonic mean along the normal of a border and the arithmetic one
    // along it. Source: Farjadpour et al., Opt. Lett. 31 (2006) 2972 (from memory).
    // Places count the less the farther they are, down to nothing at the next edges: what lies
    // between two edges is shared out to both, and the error hardly depends on where in a cell a
    // border lies.
    constexpr int finest = 4, finestPlane = 16;
    const int each = m_problem.isSolid ? finest : finestPlane;
    MediumLines lines(m_n, m_d, each);
    std::array<double, 3> step{}, first{};
    std::array<int, 3> count{};
    for (size_t a = 0; a < 3; ++a) {
        const bool isFlat = m_n[a] == 0;
        step[a] = isFlat ? 1 : m_d[a] / each;
        first[a] = isFlat ? 0 : step[a] / 2 + beside[a] * m_d[a];
        count[a] = isFlat ? 1 : m_n[a] * each;
    }
    // Lines of each axis have a store of their own.
#pragma omp parallel for schedule(dynamic)
    for (int axis = 0; axis < (m_problem.isSolid ? 3 : 2); ++axis) {
        const double d = m_d[size_t(axis)];
        for (const Simplex& s : all)
            cast(s, axis, step, first, count, [&](int b, int c, double from, double to) {
                lines.add(axis, b, c, from / d, to / d, short(s.piece));
            });
    }
    lines.finish();
    std::vector<Medium> byPiece(w.eps.size());
    bool runs = false;
    for (const int f : w.activePieces) {
        byPiece[size_t(f)] = mediumOf(f, w.eps[size_t(f)].constant.xx);
        runs = runs || w.eps[size_t(f)].at;
    }
    auto mediumAt = [&](short piece, const std::array<double, 3>& p) {
        if (!runs || !w.eps[size_t(piece)].at)
            return byPiece[size_t(piece)];
        const Point q{m_problem.from.x + p[0] * m_d[0], m_problem.from.y + p[1] * m_d[1],
                      m_problem.isSolid ? m_problem.from.z + p[2] * m_d[2] : 0};
        return mediumOf(piece, w.eps[size_t(piece)].at(q).xx);
    };
    // Most edges and nodes lie in one medium and need no mean.
    const std::vector<short> whole = lines.wholeCells();
    auto onlyAbout = [&](const std::array<int, 3>& p, int along) {
        std::array<int, 3> low{}, high{};
        for (int b = 0; b < 3; ++b) {
            const auto B = size_t(b);
            if (m_n[B] == 0)
                continue;
            low[B] = std::max(0, p[B] - 1);
            high[B] = std::min(m_n[B] - 1, b == along ? p[B] + 1 : p[B]);
        }
        short found = -1;
        for (int z = low[2]; z <= high[2]; ++z)
            for (int y = low[1]; y <= high[1]; ++y)
                for (int x = low[0]; x <= high[0]; ++x) {
                    const short here =
                        whole[(size_t(z) * size_t(m_n[1]) + size_t(y)) * size_t(m_n[0]) +
                              size_t(x)];
                    if (here < 0 || (found >= 0 && here != found))
                        return short(-1);
                    found = here;
                }
        return runs ? short(-1) : found;
    };
    for (int a = 0; a < 3; ++a)
        m_media[a].resize(this->count());
    m_joints.assign(this->count(), {});
#pragma omp parallel for schedule(dynamic)
    for (int k = 0; k <= m_n[2]; ++k)
        for (int j = 0; j <= m_n[1]; ++j)
            for (int i = 0; i <= m_n[0]; ++i) {
                const std::array<int, 3> p{i, j, k};
                // About an edge, or about the node.
                auto about = [&](int along) {
                    MediumLines::Window o;
                    for (int b = 0; b < 3; ++b) {
                        const auto B = size_t(b);
                        const bool isFlat = m_n[B] == 0;
                        o.falls[B] = !isFlat && along >= 0;
                        const double middle = b == along ? p[B] + 0.5 : p[B],
                                     half = along < 0 ? 0.5 : 1;
                        o.low[B] = isFlat ? 0 : middle - half;
                        o.high[B] = isFlat ? 1 : middle + half;
                    }
                    return o;
                };
                for (int a = 0; a < 3; ++a) {
                    if (!(m_open[a][at(i, j, k)] > 0))
                        continue;
                    if (const short only = onlyAbout(p, a); only >= 0) {
                        m_media[a][at(i, j, k)] = byPiece[size_t(only)];
                        continue;
                    }
                    const auto m = lines.mean(about(a), mediumAt);
                    const double u = m.normal[size_t(a)] * m.normal[size_t(a)];
                    m_media[a][at(i, j, k)] = {float(1 / (u * m.inverse + (1 - u) / m.eps)),
                                               float(m.sigma)};
                }
                if (onlyAbout(p, -1) >= 0)
                    continue;
                const auto m = lines.mean(about(-1), mediumAt);
                const double jump = m.inverse - 1 / m.eps;
                for (size_t c = 0; c < 3; ++c)
                    m_joints[at(i, j, k)][c] =
                        float(m.normal[(c + 1) % 3] * m.normal[(c + 2) % 3] * jump);
            }
}

grid::YeeEdge Voxels::edge(int axis, int i, int j, int k) const
{
    const size_t p = at(i, j, k);
    const Medium m = m_media[axis].empty() ? m_only : m_media[axis][p];
    return {m_open[axis][p], m.eps, m.sigma};
}

std::unique_ptr<grid::YeeGrid> yeeGrid(const GridFrame& frame, const Voxels& voxels)
{
    const auto& d = voxels.size();
    if (voxels.hidesMetal())
        throw base::Error(7855,
                          "some metal is thinner than the cells of a grid, " +
                              base::format(std::max(d[0], d[1]), base::dim::length, 3) +
                              ": waves would slip through it; choose cells of half its thickness "
                              "at most");
    grid::YeeGrid::Options options;
    options.cells = voxels.cells();
    options.size = d;
    options.walls = frame.walls;
    options.lowest = frame.low;
    options.isCut = voxels.isCut();
    grid::YeeGrid::Joints joints;
    if (voxels.hasJoints())
        joints = [&](int i, int j, int k) { return voxels.joint(i, j, k); };
    return std::make_unique<grid::YeeGrid>(
        options, [&](int a, int i, int j, int k) { return voxels.edge(a, i, j, k); },
        [&](int a, int i, int j, int k) {
            return grid::YeeFace{voxels.face(a, i, j, k), 1};
        },
        joints);
}

}  // namespace yh::physics
