#include "grid/yee_grid.h"

#include "base/constants.h"
#include "grid/tiny_numbers.h"

#include <omp.h>
#include <sys/mman.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <map>
#include <new>

namespace yh::grid {

namespace {

using base::c0;
using base::eps0;
using base::pi;
constexpr double eta0 = base::mu0 * c0;
/// Of the longest stable step.
constexpr double caution = 0.99;
/// A face that metal cuts is at least this share of the edges round it that are left: smaller ones
/// would take shorter steps of all, and what is added to them errs by the third power of it.
constexpr float leastFace = 1.0F / 12, leastFacePlane = 1.0F / 6;

}  // namespace

void YeeGrid::Free::operator()(float* p) const
{
    std::free(p);
}

YeeGrid::YeeGrid(const Options& options, const Edges& edges, const Faces& faces,
                 const Joints& joints)
    : m_options(options), m_isPlane(options.cells[2] == 0)
{
    const auto& d = m_options.size;
    double inverse = 0;
    for (size_t a = 0; a < 3; ++a) {
        m_n[a] = options.cells[a];
        for (const size_t high : {size_t(0), size_t(1)})
            if (options.walls[2 * a + high] == Wall::absorbing && m_n[a] > 0) {
                m_n[a] += options.layer;
                (high ? m_end : m_offset)[a] = options.layer;
            }
        if (m_n[a] > 0)
            inverse += 1 / (d[a] * d[a]);
    }
    if (m_isPlane)
        m_options.size[2] = d[0];
    m_dt = caution * options.leastIndex / (c0 * std::sqrt(inverse));
    for (size_t a = 0; a < 3; ++a)
        m_perField[a] = float(d[0] / d[a]);
    m_hasMirrors = std::find(options.walls.begin(), options.walls.end(), Wall::magnetic) !=
                   options.walls.end();
    allocate();
    kinds(edges, faces);
    if (options.isCut)
        shorten();
    if (joints)
        join(joints);
    layers();
    // Not before: the longest step is looked for without them.
    m_hasLayers = std::find(options.walls.begin(), options.walls.end(), Wall::absorbing) !=
                  options.walls.end();
}

void YeeGrid::join(const Joints& joints)
{
    // About each node, edges of two directions meet: what joins them is the same both ways, so that
    // energy is kept. Source: Werner and Cary, J. Comput. Phys. 226 (2007) 1085 (from memory).
    const auto n = m_options.cells;
    const auto& d = m_options.size;
    std::map<std::pair<int, size_t>, std::uint32_t> known;
    struct Pair
    {
        std::uint32_t to, from;
        float share;
    };
    std::vector<Pair> pairs;
    auto number = [&](const Edge& e) {
        const auto [place, isNew] =
            known.try_emplace({e.axis, e.at}, std::uint32_t(m_joined.at.size()));
        if (isNew) {
            m_joined.axis.push_back(std::uint8_t(e.axis));
            m_joined.at.push_back(e.at);
        }
        return place->second;
    };
    const int lastK = m_isPlane ? 1 : n[2];
    for (int k = m_isPlane ? 0 : 1; k < lastK; ++k)
        for (int j = 1; j < n[1]; ++j)
            for (int i = 1; i < n[0]; ++i) {
                const auto joint = joints(i, j, k);
                for (size_t c = 0; c < 3; ++c) {
                    if (joint[c] == 0 || (m_isPlane && c != 2))
                        continue;
                    const size_t a = (c + 1) % 3, b = (c + 2) % 3;
                    std::array<std::array<Edge, 2>, 2> e;
                    bool isFree = true;
                    for (const auto& [which, axis] : {std::pair{0, a}, std::pair{1, b}})
                        for (const int back : {0, 1}) {
                            std::array<int, 3> p{i, j, k};
                            p[axis] -= back;
                            Edge& edgeHere = e[size_t(which)][size_t(back)];
                            edgeHere = edge(int(axis), p[0], p[1], p[2]);
                            isFree = isFree && edgeHere.perMoment > 0;
                        }
                    if (!isFree)
                        continue;
                    const auto share = float(0.25 * c0 * m_dt * double(joint[c]) / d[c]);
                    for (const Edge& x : e[0])
                        for (const Edge& y : e[1]) {
                            const std::uint32_t p = number(x), q = number(y);
                            pairs.push_back({p, q, share});
                            pairs.push_back({q, p, share});
                        }
                }
            }
    std::stable_sort(pairs.begin(), pairs.end(),
                     [](const Pair& x, const Pair& y) { return x.to < y.to; });
    m_joined.curl.assign(m_joined.at.size(), 0.0F);
    m_joined.first.assign(m_joined.at.size() + 1, 0);
    for (const Pair& pair : pairs) {
        ++m_joined.first[pair.to + 1];
        m_joined.from.push_back(pair.from);
        m_joined.share.push_back(pair.share);
    }
    for (size_t i = 0; i + 1 < m_joined.first.size(); ++i)
        m_joined.first[i + 1] += m_joined.first[i];
}

void YeeGrid::takeJoined(int thread, int threads)
{
    const size_t n = m_joined.at.size(), stride[3] = {1, m_sy, m_sz};
    for (size_t e = n * size_t(thread) / size_t(threads);
         e < n * size_t(thread + 1) / size_t(threads); ++e) {
        const size_t a = m_joined.axis[e], b = (a + 1) % 3, c = (a + 2) % 3, o = m_joined.at[e];
        const float *B = m_field[3 + b] + o, *C = m_field[3 + c] + o;
        m_joined.curl[e] = (C[0] - *(C - stride[b])) - (B[0] - *(B - stride[c]));
    }
}

void YeeGrid::putJoined(int thread, int threads)
{
    const size_t n = m_joined.at.size();
    for (size_t e = n * size_t(thread) / size_t(threads);
         e < n * size_t(thread + 1) / size_t(threads); ++e) {
        float sum = 0;
        for (size_t k = m_joined.first[e]; k < m_joined.first[e + 1]; ++k)
            sum += m_joined.share[k] * m_joined.curl[m_joined.from[k]];
        m_field[m_joined.axis[e]][m_joined.at[e]] += sum;
    }
}

void YeeGrid::shorten()
{
    // A step from H = 0 takes E to (1 - A) E, and steps are stable for eigenvalues of A below 4:
    // the largest one by repetition.
    std::uint32_t seed = 12345;
    for (size_t f = 0; f < 3; ++f)
        for (int k = 0; k <= m_n[2]; ++k)
            for (int j = 0; j <= m_n[1]; ++j)
                for (int i = 0; i <= m_n[0]; ++i) {
                    seed = seed * 1664525U + 1013904223U;
                    m_field[f][at(i, j, k)] = float(seed >> 8) / float(1 << 24) - 0.5F;
                }
    auto clear = [&](size_t from, size_t to) {
        for (size_t f = from; f < to; ++f)
            std::fill_n(m_field[f], m_total, 0.0F);
    };
    constexpr int times = 80;
    double largest = 0;
    for (int n = 0; n < times; ++n) {
        // The first step takes out what lies in metal.
        const bool counts = n > 0;
        double before = 0, after = 0;
        auto squares = [&] {
            double sum = 0;
            for (size_t f = 0; f < 3; ++f)
                for (size_t i = 0; i < m_total; ++i)
                    sum += double(m_field[f][i]) * double(m_field[f][i]);
            return sum;
        };
        if (counts) {
            before = std::sqrt(squares());
            for (size_t f = 0; f < 3; ++f)
                for (size_t i = 0; i < m_total; ++i)
                    m_field[f][i] = float(double(m_field[f][i]) / before);
        } else
            for (int k = 0; k <= m_n[2]; ++k)
                for (int j = 0; j <= m_n[1]; ++j)
                    for (int i = 0; i <= m_n[0]; ++i) {
                        const KindE& kind =
                            m_kindsE[m_rowsE.kind[row(j, k) * size_t(m_n[0] + 1) + size_t(i)]];
                        for (size_t f = 0; f < 3; ++f)
                            if (!(kind.curl[f] > 0))
                                m_field[f][at(i, j, k)] = 0;
                    }
        clear(3, 6);
        step();
        after = std::sqrt(squares());
        if (n > times / 2)
            largest = std::max(largest, 1 + after);
    }
    clear(0, 6);
    m_time = 0;
    constexpr double stable = 4, unseen = 0.94;
    const double by = std::min(1.0, std::sqrt(stable * unseen / largest));
    m_dt *= by;
    for (KindH& kind : m_kindsH)
        for (float& c : kind.curl)
            c *= float(by);
    for (KindE& kind : m_kindsE)
        for (size_t a = 0; a < 3; ++a) {
            const double loss = (1 - double(kind.keep[a])) / (1 + double(kind.keep[a]));
            if (!(kind.curl[a] > 0))
                continue;
            kind.keep[a] = float((1 - loss * by) / (1 + loss * by));
            kind.curl[a] = float(double(kind.curl[a]) * (1 + loss) * by / (1 + loss * by));
        }
}

void YeeGrid::allocate()
{
    // A cell more at the low ends, for what magnetic walls mirror; rows end with a gap.
    constexpr size_t line = 16;
    m_sy = (size_t(m_n[0]) + 2 + line - 1) / line * line;
    if (m_sy % 256 == 0)
        m_sy += line;  // rows a power of two apart would share places of the cache
    const size_t plane = m_sy * size_t(m_n[1] + 3);
    m_sz = m_isPlane ? 0 : plane;
    m_origin = line + m_sy + m_sz;
    m_total = plane * (m_isPlane ? 1 : size_t(m_n[2] + 3)) + 4 * line;
    constexpr size_t huge = size_t(1) << 21, apart = 80;
    size_t shift = 0;
    for (size_t f = 0; f < 6; ++f) {
        const size_t bytes = ((m_total + 6 * apart) * sizeof(float) / huge + 1) * huge;
        m_memory[f].reset(static_cast<float*>(std::aligned_alloc(huge, bytes)));
        if (!m_memory[f])
            throw std::bad_alloc();
        madvise(m_memory[f].get(), bytes, MADV_HUGEPAGE);
        m_field[f] = m_memory[f].get() + shift;
        shift += apart;
        std::fill_n(m_field[f], m_total, 0.0F);
    }
}

void YeeGrid::kinds(const Edges& edges, const Faces& faces)
{
    const auto& d = m_options.size;
    const int planes = m_isPlane ? 1 : m_n[2] + 1;
    const size_t cells = size_t(m_n[0] + 1) * size_t(m_n[1] + 1) * size_t(planes);
    std::map<KindE, std::uint32_t> knownE;
    std::map<KindH, std::uint32_t> knownH;
    m_rowsE.kind.resize(cells);
    m_rowsH.kind.resize(cells);
    const auto inner = m_options.cells;
    // Places in the layers have what lies at the border.
    auto clamped = [&](int axis, std::array<int, 3> p, bool along) {
        for (size_t b = 0; b < 3; ++b) {
            const bool isCell = (int(b) == axis) == along;
            p[b] = std::clamp(p[b] - m_offset[b], 0, std::max(0, inner[b] - int(isCell)));
        }
        return p;
    };
    // Without the ends of rows: these are set to zero after each row, so that a row is one run.
    auto edgeAt = [&](int axis, std::array<int, 3> p, bool withEnds) -> YeeEdge {
        for (size_t b = 0; b < 3; ++b) {
            if ((b == 2 && m_isPlane) || (b == 0 && !withEnds))
                continue;
            if (int(b) == axis) {
                if (p[b] >= m_n[b])
                    return {0, 1, 0};
                continue;
            }
            const bool low = p[b] == 0, high = p[b] == m_n[b];
            if (p[b] > m_n[b] || (low && m_options.walls[2 * b] != Wall::magnetic) ||
                (high && m_options.walls[2 * b + 1] != Wall::magnetic))
                return {0, 1, 0};
        }
        const auto q = clamped(axis, p, true);
        return edges(axis, q[0], q[1], q[2]);
    };
    size_t cell = 0;
    KindE e{};
    KindH h{};
    std::uint32_t lastE = 0, lastH = 0;
    auto number = [](auto& known, const auto& kind) {
        return known.try_emplace(kind, std::uint32_t(known.size())).first->second;
    };
    lastE = number(knownE, e);
    lastH = number(knownH, h);
    for (int k = 0; k < planes; ++k)
        for (int j = 0; j <= m_n[1]; ++j)
            for (int i = 0; i <= m_n[0]; ++i, ++cell) {
                const std::array<int, 3> p{i, j, k};
                KindE nextE{};
                KindH nextH{};
                for (size_t a = 0; a < 3; ++a) {
                    const size_t b = (a + 1) % 3, c = (a + 2) % 3;
                    const YeeEdge edge = edgeAt(int(a), p, false);
                    if (edge.open > 0) {
                        const double s = edge.sigma * m_dt / (2 * eps0 * double(edge.eps));
                        nextE.keep[a] = float((1 - s) / (1 + s));
                        nextE.curl[a] = float(double(edge.open) * c0 * m_dt * d[a] /
                                              (double(edge.eps) * d[b] * d[c] * (1 + s)));
                    }
                    auto reaches = [&](size_t x) {
                        return p[x] < m_n[x] || x == 0 || (m_isPlane && x == 2);
                    };
                    const bool inside = reaches(b) && reaches(c);
                    if (!inside)
                        continue;
                    const auto q = clamped(int(a), p, false);
                    YeeFace face = faces(int(a), q[0], q[1], q[2]);
                    if (!(face.open > 0))
                        continue;
                    if (m_options.isCut && face.open < 1) {
                        auto open = [&](size_t along, size_t beyond) {
                            auto at = p;
                            const float here = edgeAt(int(along), at, true).open;
                            if (!(m_isPlane && beyond == 2))
                                ++at[beyond];
                            return here + edgeAt(int(along), at, true).open;
                        };
                        const float least = m_isPlane && a != 2
                                                ? leastFacePlane * open(2, a == 0 ? 1 : 0)
                                                : leastFace * (open(b, c) + open(c, b));
                        face.open = std::max(face.open, least);
                    }
                    nextH.curl[a] = float(c0 * m_dt * d[a] /
                                          (double(face.mu) * double(face.open) * d[b] * d[c]));
                }
                if (nextE < e || e < nextE) {
                    e = nextE;
                    lastE = number(knownE, e);
                }
                if (nextH < h || h < nextH) {
                    h = nextH;
                    lastH = number(knownH, h);
                }
                m_rowsE.kind[cell] = lastE;
                m_rowsH.kind[cell] = lastH;
            }
    m_kindsE.resize(knownE.size());
    for (const auto& [kind, at] : knownE)
        m_kindsE[at] = kind;
    m_kindsH.resize(knownH.size());
    for (const auto& [kind, at] : knownH)
        m_kindsH[at] = kind;
    runs(m_rowsE, m_kindsE, [](const KindE& k) { return k.keep != std::array<float, 3>{1, 1, 1}; });
    runs(m_rowsH, m_kindsH, [](const KindH&) { return false; });
}

template <class Kind, class IsLossy>
void YeeGrid::runs(Rows& rows, const std::vector<Kind>& kinds, IsLossy isLossy) const
{
    // Shorter ones are not worth their own loop.
    constexpr int shortest = 16;
    const size_t width = size_t(m_n[0] + 1), count = rows.kind.size() / width;
    for (size_t r = 0; r < count; ++r) {
        rows.first.push_back(rows.runs.size());
        const std::uint32_t* kind = &rows.kind[r * width];
        for (int i = 0; i < int(width);) {
            int end = i + 1;
            while (end < int(width) && kind[end] == kind[i])
                ++end;
            const Kind& k = kinds[kind[i]];
            const bool isDead = k.curl == std::array<float, 3>{};
            if (end - i >= shortest || isDead) {
                if (!isDead)
                    rows.runs.push_back({i, end, kind[i], isLossy(k) ? Run::lossy : Run::plain});
            } else if (rows.runs.size() > rows.first.back() && rows.runs.back().way == Run::mixed &&
                       rows.runs.back().to == i)
                rows.runs.back().to = end;
            else
                rows.runs.push_back({i, end, 0, Run::mixed});
            i = end;
        }
        for (size_t n = rows.first.back(); n < rows.runs.size(); ++n)
            if (Run& run = rows.runs[n]; run.way == Run::mixed) {
                run.kind = std::uint32_t(rows.mixed.size());
                rows.mixed.insert(rows.mixed.end(), kind + run.from, kind + run.to);
            }
    }
    rows.first.push_back(rows.runs.size());
}

/** Whole vectors: where no layer is, what is added is nothing. */
void YeeGrid::fringes(int low, int high, int n)
{
    constexpr int lanes = 16;
    auto whole = [](int cells) { return (cells + lanes - 1) / lanes * lanes; };
    if (low > 0)
        m_lowFringe = std::max(low + 1, std::min(whole(low + 1), n - high));
    m_highFringe =
        high > 0 ? std::min(n - high, std::max(n + 1 - whole(high + 1), m_lowFringe)) : n + 1;
}

void YeeGrid::layers()
{
    for (size_t a = 0; a < 3; ++a) {
        const int n = m_n[a];
        if (m_offset[a] + m_end[a] == 0)
            continue;
        const int low = m_offset[a], high = m_end[a];
        const double thickest = 0.8 * 4 / (eta0 * m_options.size[a]),
                     slow = 2 * pi * eps0 * 0.3 * m_options.lowest;
        auto decay = [&](double depth, Decay& out) {
            if (depth <= 0) {
                out.a.push_back(0);
                out.b.push_back(0);
                return;
            }
            const double sigma = thickest * depth * depth * depth, alpha = slow * (1 - depth);
            const double b = std::exp(-(sigma + alpha) * m_dt / eps0);
            out.b.push_back(float(b));
            out.a.push_back(float(sigma / (sigma + alpha) * (b - 1)));
        };
        auto depth = [&](double x) {
            const double below = low > 0 ? (low - x) / low : 0,
                         above = high > 0 ? (x - (n - high)) / high : 0;
            return std::clamp(std::max(below, above), 0.0, 1.0);
        };
        for (int i = 0; i <= n; ++i) {
            decay(depth(i), m_decayE[a]);
            decay(depth(i + 0.5), m_decayH[a]);
        }
        if (a == 0)
            fringes(low, high, n);
        const size_t x = size_t(m_n[0] + 1), y = size_t(m_n[1] + 1),
                     z = m_isPlane ? 1 : size_t(m_n[2] + 1),
                     slots = a == 0 ? size_t(m_lowFringe + n + 1 - m_highFringe)
                                    : size_t(low + high + 2);
        const size_t across = a == 0 ? y * z : a == 1 ? x * z : x * y;
        for (auto& psi : m_psi[a])
            psi.assign(slots * across, 0.0F);
    }
}

void YeeGrid::absorb(bool electric, int axis, int j, int k, int from, int to, size_t psi)
{
    const auto a = size_t(axis), b = (a + 1) % 3, c = (a + 2) % 3;
    const size_t stride = a == 0 ? 1 : a == 1 ? m_sy : m_sz, here = at(0, j, k);
    const Decay& decay = electric ? m_decayE[a] : m_decayH[a];
    const float* takenB = m_field[(electric ? 3 : 0) + b] + here;
    const float* takenC = m_field[(electric ? 3 : 0) + c] + here;
    float* givenB = m_field[(electric ? 0 : 3) + b] + here;
    float* givenC = m_field[(electric ? 0 : 3) + c] + here;
    float* psiB = m_psi[a][electric ? 2 : 0].data() + psi;
    float* psiC = m_psi[a][electric ? 3 : 1].data() + psi;
    const float sign = electric ? -1.0F : 1.0F;
    const Rows& rows = electric ? m_rowsE : m_rowsH;
    const size_t r = row(j, k);
    auto curlOf = [&](std::uint32_t kind) {
        return electric ? m_kindsE[kind].curl.data() : m_kindsH[kind].curl.data();
    };
    const auto place = size_t(a == 1 ? j : k);
    const auto forward = electric ? std::ptrdiff_t(0) : std::ptrdiff_t(stride),
               back = electric ? std::ptrdiff_t(stride) : std::ptrdiff_t(0);
    const float* __restrict B = takenB, * __restrict C = takenC;
    float* __restrict gB = givenB, * __restrict gC = givenC, * __restrict pB = psiB - from, * __restrict pC = psiC - from;
    const float *keeps = decay.b.data(), *adds = decay.a.data();
    for (size_t n = rows.first[r]; n < rows.first[r + 1]; ++n) {
        const Run& run = rows.runs[n];
        const long start = std::max(run.from, from), end = std::min(run.to, to);
        if (run.way == Run::mixed) {
            const std::uint32_t* kind = rows.mixed.data() + run.kind - run.from;
            for (long i = start; i < end; ++i) {
                const size_t x = a == 0 ? size_t(i) : place;
                pB[i] = keeps[x] * pB[i] + adds[x] * (C[i + forward] - C[i - back]);
                pC[i] = keeps[x] * pC[i] + adds[x] * (B[i + forward] - B[i - back]);
                const float* curl = curlOf(kind[i]);
                gB[i] += sign * curl[b] * pB[i];
                gC[i] -= sign * curl[c] * pC[i];
            }
            continue;
        }
        const float cB = sign * curlOf(run.kind)[b], cC = sign * curlOf(run.kind)[c];
        if (a == 0) {
#pragma omp simd
            for (long i = start; i < end; ++i) {
                pB[i] = keeps[i] * pB[i] + adds[i] * (C[i + forward] - C[i - back]);
                pC[i] = keeps[i] * pC[i] + adds[i] * (B[i + forward] - B[i - back]);
                gB[i] += cB * pB[i];
                gC[i] -= cC * pC[i];
            }
            continue;
        }
        const float keep = keeps[place], add = adds[place];
#pragma omp simd
        for (long i = start; i < end; ++i) {
            pB[i] = keep * pB[i] + add * (C[i + forward] - C[i - back]);
            pC[i] = keep * pC[i] + add * (B[i + forward] - B[i - back]);
            gB[i] += cB * pB[i];
            gC[i] -= cC * pC[i];
        }
    }
}

void YeeGrid::absorbRow(bool electric, int j, int k)
{
    const int nx = m_n[0];
    for (int a = 0; a < (m_isPlane ? 2 : 3); ++a) {
        const int low = m_offset[size_t(a)], high = m_end[size_t(a)], n = m_n[size_t(a)];
        if (low + high == 0)
            continue;
        if (a == 0) {
            const size_t first = row(j, k) * size_t(m_lowFringe + n + 1 - m_highFringe);
            if (low > 0)
                absorb(electric, a, j, k, 0, m_lowFringe, first);
            if (high > 0)
                absorb(electric, a, j, k, m_highFringe, n + 1, first + size_t(m_lowFringe));
            continue;
        }
        const auto slots = size_t(low + high + 2);
        const int place = a == 1 ? j : k;
        size_t slot;
        if (low > 0 && place <= low)
            slot = size_t(place);
        else if (high > 0 && place >= n - high)
            slot = size_t(low + 1 + place - (n - high));
        else
            continue;
        const size_t line =
            a == 1 ? size_t(k) * slots + slot : slot * size_t(m_n[1] + 1) + size_t(j);
        absorb(electric, a, j, k, 0, nx + 1, line * size_t(nx + 1));
    }
}

void YeeGrid::rowH(int j, int k)
{
    const auto sy = long(m_sy), sz = long(m_sz);
    const size_t o = at(0, j, k), r = row(j, k);
    const float* __restrict ex = m_field[0] + o, * __restrict ey = m_field[1] + o, * __restrict ez = m_field[2] + o;
    float* __restrict hx = m_field[3] + o, * __restrict hy = m_field[4] + o, * __restrict hz = m_field[5] + o;
    for (size_t n = m_rowsH.first[r]; n < m_rowsH.first[r + 1]; ++n) {
        const Run& run = m_rowsH.runs[n];
        if (run.way == Run::mixed) {
            const std::uint32_t* kind = m_rowsH.mixed.data() + run.kind - run.from;
            for (long x = run.from; x < run.to; ++x) {
                const auto& c = m_kindsH[kind[x]].curl;
                hx[x] += c[0] * ((ey[x + sz] - ey[x]) - (ez[x + sy] - ez[x]));
                hy[x] += c[1] * ((ez[x + 1] - ez[x]) - (ex[x + sz] - ex[x]));
                hz[x] += c[2] * ((ex[x + sy] - ex[x]) - (ey[x + 1] - ey[x]));
            }
            continue;
        }
        const auto c = m_kindsH[run.kind].curl;
        const float cx = c[0], cy = c[1], cz = c[2];
#pragma omp simd
        for (long x = run.from; x < run.to; ++x) {
            hx[x] += cx * ((ey[x + sz] - ey[x]) - (ez[x + sy] - ez[x]));
            hy[x] += cy * ((ez[x + 1] - ez[x]) - (ex[x + sz] - ex[x]));
            hz[x] += cz * ((ex[x + sy] - ex[x]) - (ey[x + 1] - ey[x]));
        }
    }
    if (m_hasLayers)
        absorbRow(false, j, k);
    hy[m_n[0]] = hz[m_n[0]] = 0;
    if (m_hasMirrors)
        mirrorRow(j, k);
}

void YeeGrid::mirrorRow(int j, int k)
{
    auto magnetic = [&](size_t side) { return m_options.walls[side] == Wall::magnetic; };
    const size_t o = at(0, j, k), width = size_t(m_n[0] + 1);
    if (magnetic(0))
        for (const size_t f : {4, 5})
            *(m_field[f] + o - 1) = -m_field[f][o];
    if (magnetic(1))
        for (const size_t f : {4, 5})
            m_field[f][o + width - 1] = -m_field[f][o + width - 2];
    auto turned = [&](size_t f, std::ptrdiff_t by) {
        float* from = m_field[f] + o - 1;
        for (size_t i = 0; i <= width; ++i)
            *(from + std::ptrdiff_t(i) + by) = -from[i];
    };
    if (const auto by = std::ptrdiff_t(m_sy); true) {
        for (const size_t f : {3, 5}) {
            if (magnetic(2) && j == 0)
                turned(f, -by);
            if (magnetic(3) && j == m_n[1] - 1)
                turned(f, by);
        }
    }
    if (m_isPlane)
        return;
    const auto by = std::ptrdiff_t(m_sz);
    for (const size_t f : {3, 4}) {
        if (magnetic(4) && k == 0)
            turned(f, -by);
        if (magnetic(5) && k == m_n[2] - 1)
            turned(f, by);
    }
}

void YeeGrid::rowE(int j, int k)
{
    const auto sy = long(m_sy), sz = long(m_sz);
    const size_t o = at(0, j, k), r = row(j, k);
    float* __restrict ex = m_field[0] + o, * __restrict ey = m_field[1] + o, * __restrict ez = m_field[2] + o;
    const float* __restrict hx = m_field[3] + o, * __restrict hy = m_field[4] + o, * __restrict hz = m_field[5] + o;
    const float* __restrict hxy = hx - sy, * __restrict hzy = hz - sy, * __restrict hxz = hx - sz, * __restrict hyz = hy - sz;
    for (size_t n = m_rowsE.first[r]; n < m_rowsE.first[r + 1]; ++n) {
        const Run& run = m_rowsE.runs[n];
        if (run.way == Run::mixed) {
            const std::uint32_t* kind = m_rowsE.mixed.data() + run.kind - run.from;
            for (long x = run.from; x < run.to; ++x) {
                const auto& q = m_kindsE[kind[x]];
                ex[x] = q.keep[0] * ex[x] + q.curl[0] * ((hz[x] - hzy[x]) - (hy[x] - hyz[x]));
                ey[x] = q.keep[1] * ey[x] + q.curl[1] * ((hx[x] - hxz[x]) - (hz[x] - hz[x - 1]));
                ez[x] = q.keep[2] * ez[x] + q.curl[2] * ((hy[x] - hy[x - 1]) - (hx[x] - hxy[x]));
            }
            continue;
        }
        const auto [keep, c] = m_kindsE[run.kind];
        const float cx = c[0], cy = c[1], cz = c[2];
        if (run.way == Run::plain) {
#pragma omp simd
            for (long x = run.from; x < run.to; ++x) {
                ex[x] += cx * ((hz[x] - hzy[x]) - (hy[x] - hyz[x]));
                ey[x] += cy * ((hx[x] - hxz[x]) - (hz[x] - hz[x - 1]));
                ez[x] += cz * ((hy[x] - hy[x - 1]) - (hx[x] - hxy[x]));
            }
            continue;
        }
        const float kx = keep[0], ky = keep[1], kz = keep[2];
#pragma omp simd
        for (long x = run.from; x < run.to; ++x) {
            ex[x] = kx * ex[x] + cx * ((hz[x] - hzy[x]) - (hy[x] - hyz[x]));
            ey[x] = ky * ey[x] + cy * ((hx[x] - hxz[x]) - (hz[x] - hz[x - 1]));
            ez[x] = kz * ez[x] + cz * ((hy[x] - hy[x - 1]) - (hx[x] - hxy[x]));
        }
    }
    if (m_hasLayers)
        absorbRow(true, j, k);
    ex[m_n[0]] = 0;
    if (m_options.walls[0] != Wall::magnetic)
        ey[0] = ez[0] = 0;
    if (m_options.walls[1] != Wall::magnetic)
        ey[m_n[0]] = ez[m_n[0]] = 0;
}

void YeeGrid::clear()
{
    for (float* field : m_field)
        std::fill_n(field, m_total, 0.0F);
    for (auto& axis : m_psi)
        for (auto& psi : axis)
            std::fill(psi.begin(), psi.end(), 0.0F);
    m_time = 0;
}

void YeeGrid::step()
{
    // Each row of E follows its row of H while both are near: one sweep through memory. What a
    // thread's first slab of E takes comes from its neighbour, which still needs it as it was.
    const int slabs = m_isPlane ? m_n[1] : m_n[2];
    // Small grids are done before a second thread has begun.
    constexpr size_t worthwhile = 12000;
    const int threads =
        std::clamp(std::min(slabs / 2, int(m_total / worthwhile)), 1, omp_get_max_threads());
#pragma omp parallel num_threads(threads)
    {
        const WithoutTinyNumbers without;
        const int p = omp_get_num_threads(), t = omp_get_thread_num();
        const int from = int(long(slabs) * t / p),
                  to = int(long(slabs) * (t + 1) / p) + (t == p - 1 ? 1 : 0);
        for (int s = from; s < to; ++s) {
            const bool waits = from > 0 && s == from;
            if (m_isPlane) {
                rowH(s, 0);
                if (!waits)
                    rowE(s, 0);
                continue;
            }
            for (int j = 0; j <= m_n[1]; ++j) {
                rowH(j, s);
                if (!waits)
                    rowE(j, s);
            }
        }
#pragma omp barrier
        if (from > 0) {
            if (m_isPlane)
                rowE(from, 0);
            else
                for (int j = 0; j <= m_n[1]; ++j)
                    rowE(j, from);
        }
        if (!m_joined.at.empty()) {
            takeJoined(t, p);
#pragma omp barrier
            putJoined(t, p);
        }
    }
    m_time += m_dt;
}

YeeGrid::Edge YeeGrid::edge(int axis, int i, int j, int k) const
{
    const auto& o = m_offset;
    Edge e;
    e.axis = axis;
    e.at = at(i, j, k, true);
    const size_t cell = row(j + o[1], k + o[2]) * size_t(m_n[0] + 1) + size_t(i + o[0]);
    const KindE& kind = m_kindsE[m_rowsE.kind[cell]];
    const auto a = size_t(axis);
    const int x = i + o[0];
    const bool ends = a == 0 ? x >= m_n[0]
                             : (x == 0 && m_options.walls[0] != Wall::magnetic) ||
                                   (x == m_n[0] && m_options.walls[1] != Wall::magnetic);
    if (ends || !(kind.curl[a] > 0))
        return e;
    const auto& d = m_options.size;
    e.perField = m_perField[a];
    e.perMoment = float(double(kind.curl[a]) * eta0 / (d[0] * d[a]) * (m_isPlane ? d[2] : 1.0));
    return e;
}

}  // namespace yh::grid
