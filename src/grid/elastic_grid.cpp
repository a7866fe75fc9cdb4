#include "grid/elastic_grid.h"

#include "grid/tiny_numbers.h"

#include <omp.h>
#include <algorithm>
#include <cmath>
#include <map>

namespace yh::grid {

namespace {

/// Differences: of the second order beside borders, where a wider one would mix what jumps there
/// (thin rods in a light gas were 15 % slow by it; Graves, Bull. Seism. Soc. Am. 86 (1996) 1091,
/// from memory), of the fourth order elsewhere.
class Difference
{
public:
    explicit Difference(bool isBesideBorder)
        : c1(isBesideBorder ? 1.0F : 9.0F / 8), c2(isBesideBorder ? 0.0F : -1.0F / 24)
    {
    }
    /// To the half place behind: between f[0] and f[step].
    [[nodiscard]] float ahead(const float* f, std::ptrdiff_t step) const
    {
        return c1 * (f[step] - f[0]) + c2 * (f[2 * step] - f[-step]);
    }
    /// To the place itself: between f[-step] and f[0].
    [[nodiscard]] float behind(const float* f, std::ptrdiff_t step) const
    {
        return c1 * (f[0] - f[-step]) + c2 * (f[step] - f[-2 * step]);
    }

private:
    float c1, c2;
};
/// Means at the same places.
class Mean
{
public:
    explicit Mean(bool isBesideBorder)
        : w1(isBesideBorder ? 0.5F : 9.0F / 16), w2(isBesideBorder ? 0.0F : -1.0F / 16)
    {
    }
    [[nodiscard]] float ahead(const float* f) const
    {
        return w1 * (f[1] + f[0]) + w2 * (f[2] + f[-1]);
    }
    [[nodiscard]] float behind(const float* f, std::ptrdiff_t step = 1) const
    {
        return w1 * (f[0] + f[-step]) + w2 * (f[step] + f[-2 * step]);
    }

private:
    float w1, w2;
};

/** Shares of the four cells in a row about a place, the middle two alone where straight. */
struct Along
{
    int first = 0;
    double cubic[4], straight[4];
    int at[4];
};

Along along(double u, int n, bool firstIsMirror, bool lastIsMirror)
{
    Along a;
    a.first = std::clamp(int(std::floor(u)), -1, n - 1) - 1;
    const double s = std::clamp(u - (a.first + 1), 0.0, 1.0);
    const double cubic[] = {-s * (s - 1) * (s - 2) / 6, (s + 1) * (s - 1) * (s - 2) / 2,
                            -(s + 1) * s * (s - 2) / 2, (s + 1) * s * (s - 1) / 6};
    const double straight[] = {0, 1 - s, s, 0};
    for (int k = 0; k < 4; ++k) {
        a.cubic[k] = cubic[k];
        a.straight[k] = straight[k];
        int i = a.first + k;
        if (i < 0 && firstIsMirror)
            i = -1 - i;
        if (i >= n && lastIsMirror)
            i = 2 * n - 1 - i;
        a.at[k] = std::clamp(i, 0, n - 1);
    }
    return a;
}

}  // namespace

ElasticGrid::ElasticGrid(int nx, int ny, const std::vector<Elastic>& cells, const Options& o)
    : m_h(o.h), m_frequency(o.frequency), m_layer(o.layer), m_edge(o.edge), m_aboutAxis(o.aboutAxis)
{
    if (m_aboutAxis)
        m_edge[0] = Edge::mirror;
    auto outside = [&](size_t k) { return m_edge[k] == Edge::absorbing ? m_layer : 0; };
    m_left = outside(0);
    m_right = outside(1);
    m_bottom = outside(2);
    m_top = outside(3);
    m_nx = nx + m_left + m_right;
    m_ny = ny + m_bottom + m_top;
    m_stride = m_nx + 2 * ghosts;
    const size_t all = size_t(m_stride) * size_t(m_ny + 2 * ghosts);
    for (auto* f : {&m_vx, &m_vy, &m_xx, &m_yy, &m_xy})
        f->assign(all, 0.0F);
    if (m_aboutAxis) {
        m_around.assign(all, 0.0F);
        for (int i = 0; i < m_nx; ++i) {
            m_bend.push_back(1 / (float(i) + 0.5F));
            m_halfBend.push_back(1 / float(i + 1));
        }
    }
    // What lies at an edge goes on into the layers.
    std::vector<Elastic> spread(static_cast<size_t>(m_nx) * static_cast<size_t>(m_ny));
    for (int j = 0; j < m_ny; ++j)
        for (int i = 0; i < m_nx; ++i)
            spread[size_t(j) * size_t(m_nx) + size_t(i)] =
                cells[size_t(std::clamp(j - m_bottom, 0, ny - 1)) * size_t(nx) +
                      size_t(std::clamp(i - m_left, 0, nx - 1))];
    for (const Elastic& e : spread)
        m_fastest = std::max(m_fastest, std::sqrt((e.lambda + 2 * e.mu) / e.rho));
    // Stable below h / (c sqrt(2) (9/8 + 1/24)).
    constexpr double share = 0.95, limit = 7.0 / 6;
    m_dt = share * m_h / (m_fastest * std::sqrt(2.0) * limit);
    coefficients(spread);
    layers();
}

void ElasticGrid::coefficients(const std::vector<Elastic>& cells)
{
    auto cell = [&](int i, int j) -> const Elastic& {
        return cells[size_t(std::min(j, m_ny - 1)) * size_t(m_nx) + size_t(std::min(i, m_nx - 1))];
    };
    std::map<Coefficients, int> known;
    m_runs.resize(size_t(m_ny));
    const double s = m_dt / m_h;
    // Where no corner that a difference takes carries shear, its stress is zero for ever.
    auto isQuiet = [&](int i, int j) {
        for (int b = std::max(0, j - reach); b <= std::min(m_ny - 1, j + reach); ++b)
            for (int a = std::max(0, i - reach); a <= std::min(m_nx - 1, i + reach); ++a)
                if (cell(a, b).mu > 0)
                    return false;
        return true;
    };
    auto isBesideBorder = [&](int i, int j) {
        const Elastic& here = cell(i, j);
        for (int b = std::max(0, j - reach); b <= std::min(m_ny - 1, j + reach); ++b)
            for (int a = std::max(0, i - reach); a <= std::min(m_nx - 1, i + reach); ++a)
                if (here < cell(a, b) || cell(a, b) < here)
                    return true;
        return false;
    };
    for (int j = 0; j < m_ny; ++j)
        for (int i = 0; i < m_nx; ++i) {
            const Elastic &a = cell(i, j), &b = cell(i + 1, j), &c = cell(i, j + 1),
                          &d = cell(i + 1, j + 1);
            double shear = 0;
            if (a.mu > 0 && b.mu > 0 && c.mu > 0 && d.mu > 0)
                shear = 4 / (1 / a.mu + 1 / b.mu + 1 / c.mu + 1 / d.mu);
            const Coefficients k{float(2 * s / (a.rho + b.rho)),
                                 float(2 * s / (a.rho + c.rho)),
                                 float(s * (a.lambda + 2 * a.mu)),
                                 float(s * a.lambda),
                                 float(s * shear),
                                 shear == 0 && isQuiet(i, j),
                                 isBesideBorder(i, j)};
            const auto [it, isNew] = known.emplace(k, int(m_kinds.size()));
            if (isNew)
                m_kinds.push_back(k);
            auto& runs = m_runs[size_t(j)];
            if (runs.empty() || runs.back().kind != it->second)
                runs.push_back({i, i + 1, it->second});
            else
                runs.back().to = i + 1;
        }
}

void ElasticGrid::layers()
{
    constexpr double reflected = 1e-7, power = 3;
    const double pi = 3.14159265358979323846;
    for (int axis = 0; axis < 2; ++axis) {
        const int n = axis == 0 ? m_nx : m_ny, first = axis == 0 ? m_left : m_bottom,
                  last = axis == 0 ? m_right : m_top;
        for (const bool half : {false, true}) {
            Decay& d = half ? m_half[axis] : m_whole[axis];
            d.a.assign(size_t(n), 0.0F);
            d.b.assign(size_t(n), 0.0F);
            for (int i = 0; i < n; ++i) {
                const double x = i + (half ? 1.0 : 0.5);
                const double deep = std::max(first > 0 ? (first - x) / first : 0.0,
                                             last > 0 ? (x - (n - last)) / last : 0.0);
                if (!(deep > 0))
                    continue;
                const double thick = m_layer * m_h,
                             sigma = -(power + 1) * m_fastest * std::log(reflected) / (2 * thick) *
                                     std::pow(std::min(1.0, deep), power),
                             alpha = pi * m_frequency * std::max(0.0, 1 - deep),
                             b = std::exp(-(sigma + alpha) * m_dt);
                d.b[size_t(i)] = float(b);
                d.a[size_t(i)] = float(sigma / (sigma + alpha) * (b - 1));
            }
        }
    }
    for (const size_t k : {0, 1, 4, 5})
        m_psi[k].assign(size_t(m_ny) * size_t(m_left + m_right + 1), 0.0F);
    for (const size_t k : {2, 3, 6, 7})
        m_psi[k].assign(size_t(m_nx) * size_t(m_bottom + m_top + 1), 0.0F);
}

template <class Visit>
void ElasticGrid::overRuns(int j, int from, int to, Visit visit) const
{
    for (const Run& r : m_runs[size_t(j)])
        if (const int i = std::max(from, r.from), n = std::min(to, r.to) - i; n > 0)
            visit(m_kinds[size_t(r.kind)], i, n);
}

template <bool aboutAxis>
void ElasticGrid::velocityRow(int j)
{
    const std::ptrdiff_t up = m_stride;
    overRuns(j, 0, m_nx, [&](const Coefficients& k, int first, int n) {
        const Difference d(k.isBesideBorder);
        const size_t c = at(first, j);
        float *vx = &m_vx[c], *vy = &m_vy[c];
        const float *xx = &m_xx[c], *yy = &m_yy[c], *xy = &m_xy[c];
        // Without shear the stresses are equal in all directions.
        if (k.quiet) {
#pragma omp simd
            for (int i = 0; i < n; ++i) {
                vx[i] += k.bx * d.ahead(xx + i, 1);
                vy[i] += k.by * d.ahead(yy + i, up);
            }
            return;
        }
#pragma omp simd
        for (int i = 0; i < n; ++i) {
            vx[i] += k.bx * (d.ahead(xx + i, 1) + d.behind(xy + i, up));
            vy[i] += k.by * (d.behind(xy + i, 1) + d.ahead(yy + i, up));
        }
        if constexpr (aboutAxis) {
            const Mean mean(k.isBesideBorder);
            const float *around = &m_around[c], *bend = &m_bend[size_t(first)],
                        *half = &m_halfBend[size_t(first)];
#pragma omp simd
            for (int i = 0; i < n; ++i) {
                vx[i] += k.bx * half[i] * (mean.ahead(xx + i) - mean.ahead(around + i));
                vy[i] += k.by * bend[i] * mean.behind(xy + i);
            }
        }
    });
    auto across = [&](int from, int to) {
        overRuns(j, from, to, [&](const Coefficients& k, int first, int n) {
            const Difference d(k.isBesideBorder);
            const size_t c = at(first, j), e = sideways(first, j), x = size_t(first);
            float *p = &m_psi[0][e], *q = &m_psi[1][e], *vx = &m_vx[c], *vy = &m_vy[c];
            const float *xx = &m_xx[c], *xy = &m_xy[c];
            const float *ha = &m_half[0].a[x], *hb = &m_half[0].b[x], *wa = &m_whole[0].a[x],
                        *wb = &m_whole[0].b[x];
#pragma omp simd
            for (int i = 0; i < n; ++i) {
                p[i] = hb[i] * p[i] + ha[i] * d.ahead(xx + i, 1);
                q[i] = wb[i] * q[i] + wa[i] * d.behind(xy + i, 1);
                vx[i] += k.bx * p[i];
                vy[i] += k.by * q[i];
            }
        });
    };
    overLayers(across);
    if (isInLayer(j))
        overRuns(j, 0, m_nx, [&](const Coefficients& k, int first, int n) {
            const Difference d(k.isBesideBorder);
            const size_t c = at(first, j), e = upwards(first, j), y = size_t(j);
            float *p = &m_psi[2][e], *q = &m_psi[3][e], *vx = &m_vx[c], *vy = &m_vy[c];
            const float *yy = &m_yy[c], *xy = &m_xy[c];
            const float ha = m_half[1].a[y], hb = m_half[1].b[y], wa = m_whole[1].a[y],
                        wb = m_whole[1].b[y];
#pragma omp simd
            for (int i = 0; i < n; ++i) {
                p[i] = wb * p[i] + wa * d.behind(xy + i, up);
                q[i] = hb * q[i] + ha * d.ahead(yy + i, up);
                vx[i] += k.bx * p[i];
                vy[i] += k.by * q[i];
            }
        });
    mirrorVelocitiesOf(j);
}

void ElasticGrid::mirrorVelocitiesOf(int j)
{
    // v_x is odd about a plane across x, which lies half a cell behind the last one; v_y is even.
    if (m_edge[0] == Edge::mirror) {
        m_vx[at(-1, j)] = 0;
        m_vx[at(-2, j)] = -m_vx[at(0, j)];
        m_vy[at(-1, j)] = m_vy[at(0, j)];
        m_vy[at(-2, j)] = m_vy[at(1, j)];
    }
    if (m_edge[1] == Edge::mirror) {
        m_vx[at(m_nx - 1, j)] = 0;
        m_vx[at(m_nx, j)] = -m_vx[at(m_nx - 2, j)];
        m_vy[at(m_nx, j)] = m_vy[at(m_nx - 1, j)];
        m_vy[at(m_nx + 1, j)] = m_vy[at(m_nx - 2, j)];
    }
}

template <bool aboutAxis>
void ElasticGrid::stressRow(int j)
{
    const std::ptrdiff_t up = m_stride;
    overRuns(j, 0, m_nx, [&](const Coefficients& k, int first, int n) {
        const Difference d(k.isBesideBorder);
        const size_t c = at(first, j);
        const float *vx = &m_vx[c], *vy = &m_vy[c];
        float *xx = &m_xx[c], *yy = &m_yy[c], *xy = &m_xy[c];
        if constexpr (aboutAxis) {
            const Mean mean(k.isBesideBorder);
            float* around = &m_around[c];
            const float* bend = &m_bend[size_t(first)];
#pragma omp simd
            for (int i = 0; i < n; ++i) {
                const float x = d.behind(vx + i, 1), y = d.behind(vy + i, up),
                            w = bend[i] * mean.behind(vx + i);
                around[i] += k.l * (x + y) + k.p * w;
                xx[i] += k.l * w;
                yy[i] += k.l * w;
            }
        }
        if (k.s == 0) {
#pragma omp simd
            for (int i = 0; i < n; ++i) {
                const float x = d.behind(vx + i, 1), y = d.behind(vy + i, up);
                xx[i] += k.p * x + k.l * y;
                yy[i] += k.l * x + k.p * y;
            }
            return;
        }
#pragma omp simd
        for (int i = 0; i < n; ++i) {
            const float x = d.behind(vx + i, 1), y = d.behind(vy + i, up);
            xx[i] += k.p * x + k.l * y;
            yy[i] += k.l * x + k.p * y;
            xy[i] += k.s * (d.ahead(vx + i, up) + d.ahead(vy + i, 1));
        }
    });
    auto across = [&](int from, int to) {
        overRuns(j, from, to, [&](const Coefficients& k, int first, int n) {
            const Difference d(k.isBesideBorder);
            const size_t c = at(first, j), e = sideways(first, j), x = size_t(first);
            float *p = &m_psi[4][e], *q = &m_psi[5][e], *xx = &m_xx[c], *yy = &m_yy[c],
                  *xy = &m_xy[c];
            const float *vx = &m_vx[c], *vy = &m_vy[c];
            const float *ha = &m_half[0].a[x], *hb = &m_half[0].b[x], *wa = &m_whole[0].a[x],
                        *wb = &m_whole[0].b[x];
#pragma omp simd
            for (int i = 0; i < n; ++i) {
                p[i] = wb[i] * p[i] + wa[i] * d.behind(vx + i, 1);
                q[i] = hb[i] * q[i] + ha[i] * d.ahead(vy + i, 1);
                xx[i] += k.p * p[i];
                yy[i] += k.l * p[i];
                xy[i] += k.s * q[i];
            }
            if constexpr (aboutAxis)
                for (int i = 0; i < n; ++i)
                    m_around[c + size_t(i)] += k.l * p[i];
        });
    };
    overLayers(across);
    if (isInLayer(j))
        overRuns(j, 0, m_nx, [&](const Coefficients& k, int first, int n) {
            const Difference d(k.isBesideBorder);
            const size_t c = at(first, j), e = upwards(first, j), y = size_t(j);
            float *p = &m_psi[6][e], *q = &m_psi[7][e], *xx = &m_xx[c], *yy = &m_yy[c],
                  *xy = &m_xy[c];
            const float *vx = &m_vx[c], *vy = &m_vy[c];
            const float ha = m_half[1].a[y], hb = m_half[1].b[y], wa = m_whole[1].a[y],
                        wb = m_whole[1].b[y];
#pragma omp simd
            for (int i = 0; i < n; ++i) {
                p[i] = wb * p[i] + wa * d.behind(vy + i, up);
                q[i] = hb * q[i] + ha * d.ahead(vx + i, up);
                xx[i] += k.l * p[i];
                yy[i] += k.p * p[i];
                xy[i] += k.s * q[i];
            }
            if constexpr (aboutAxis)
                for (int i = 0; i < n; ++i)
                    m_around[c + size_t(i)] += k.l * p[i];
        });
    mirrorStressesOf(j);
}

void ElasticGrid::mirrorStressesOf(int j)
{
    if (m_edge[0] == Edge::mirror) {
        m_xx[at(-1, j)] = m_xx[at(0, j)];
        m_xx[at(-2, j)] = m_xx[at(1, j)];
        m_xy[at(-1, j)] = 0;
        m_xy[at(-2, j)] = -m_xy[at(0, j)];
    }
    if (m_aboutAxis) {
        m_around[at(-1, j)] = m_around[at(0, j)];
        m_around[at(-2, j)] = m_around[at(1, j)];
    }
    if (m_edge[1] == Edge::mirror) {
        m_xx[at(m_nx, j)] = m_xx[at(m_nx - 1, j)];
        m_xx[at(m_nx + 1, j)] = m_xx[at(m_nx - 2, j)];
        m_xy[at(m_nx - 1, j)] = 0;
        m_xy[at(m_nx, j)] = -m_xy[at(m_nx - 2, j)];
        if (m_aboutAxis) {
            m_around[at(m_nx, j)] = m_around[at(m_nx - 1, j)];
            m_around[at(m_nx + 1, j)] = m_around[at(m_nx - 2, j)];
        }
    }
}

void ElasticGrid::mirrorVelocities()
{
    for (int i = 0; i < m_nx; ++i) {
        if (m_edge[2] == Edge::mirror) {
            m_vy[at(i, -1)] = 0;
            m_vy[at(i, -2)] = -m_vy[at(i, 0)];
            m_vx[at(i, -1)] = m_vx[at(i, 0)];
            m_vx[at(i, -2)] = m_vx[at(i, 1)];
        }
        if (m_edge[3] == Edge::mirror) {
            m_vy[at(i, m_ny - 1)] = 0;
            m_vy[at(i, m_ny)] = -m_vy[at(i, m_ny - 2)];
            m_vx[at(i, m_ny)] = m_vx[at(i, m_ny - 1)];
            m_vx[at(i, m_ny + 1)] = m_vx[at(i, m_ny - 2)];
        }
    }
}

void ElasticGrid::mirrorStresses()
{
    for (int i = 0; i < m_nx; ++i) {
        if (m_edge[2] == Edge::mirror) {
            m_yy[at(i, -1)] = m_yy[at(i, 0)];
            m_yy[at(i, -2)] = m_yy[at(i, 1)];
            m_xy[at(i, -1)] = 0;
            m_xy[at(i, -2)] = -m_xy[at(i, 0)];
        }
        if (m_edge[3] == Edge::mirror) {
            m_yy[at(i, m_ny)] = m_yy[at(i, m_ny - 1)];
            m_yy[at(i, m_ny + 1)] = m_yy[at(i, m_ny - 2)];
            m_xy[at(i, m_ny - 1)] = 0;
            m_xy[at(i, m_ny)] = -m_xy[at(i, m_ny - 2)];
        }
    }
}

void ElasticGrid::step()
{
    if (m_aboutAxis)
        update<true>();
    else
        update<false>();
    mirrorStresses();
    m_time += m_dt;
}

template <bool aboutAxis>
void ElasticGrid::update()
{
    // Stresses of a row follow the velocities two rows ahead, while these are still at hand: each
    // reaches two rows to either side. Every thread has a band of rows; those at its ends wait
    // until all velocities are there.
#pragma omp parallel
    {
        const WithoutTinyNumbers without;
        const int thread = omp_get_thread_num(), threads = omp_get_num_threads();
        const int from = m_ny * thread / threads, to = m_ny * (thread + 1) / threads;
        for (int r = from; r < to; ++r) {
            velocityRow<aboutAxis>(r);
            if (r - reach >= from + reach)
                stressRow<aboutAxis>(r - reach);
        }
#pragma omp barrier
#pragma omp single
        mirrorVelocities();
        for (int j = from; j < to; ++j)
            if (j < from + reach || j >= to - reach)
                stressRow<aboutAxis>(j);
    }
}

void ElasticGrid::Place::add(size_t cell, float part)
{
    const auto it = std::find(at.begin(), at.end(), cell);
    if (it != at.end()) {
        share[size_t(it - at.begin())] += part;
        return;
    }
    at.push_back(cell);
    share.push_back(part);
}

void ElasticGrid::Place::add(const Place& other, float part)
{
    for (size_t k = 0; k < other.at.size(); ++k)
        add(other.at[k], part * other.share[k]);
}

int ElasticGrid::kindOf(int i, int j) const
{
    const auto& runs = m_runs[size_t(j)];
    return std::upper_bound(runs.begin(), runs.end(), i,
                            [](int x, const Run& r) { return x < r.to; })
        ->kind;
}

ElasticGrid::Place ElasticGrid::place(double x, double y) const
{
    // Middles of cells lie  at halves.

    const Along a = along(x - 0.5 + m_left, m_nx, m_edge[0] == Edge::mirror,
                          m_edge[1] == Edge::mirror),
                b = along(y - 0.5 + m_bottom, m_ny, m_edge[2] == Edge::mirror,
                          m_edge[3] == Edge::mirror);
    bool isAlike = true;
    for (const int j : b.at)
        for (const int i : a.at)
            isAlike = isAlike && kindOf(i, j) == kindOf(a.at[1], b.at[1]);
    Place p;
    for (int j = 0; j < 4; ++j)
        for (int i = 0; i < 4; ++i) {
            const double share = isAlike ? a.cubic[i] * b.cubic[j] : a.straight[i] * b.straight[j];
            if (share != 0)
                p.add(at(a.at[i], b.at[j]), float(share));
        }
    return p;
}

void ElasticGrid::addPressure(const Place& p, float pressure)
{
    for (size_t k = 0; k < p.at.size(); ++k) {
        m_xx[p.at[k]] -= p.share[k] * pressure;
        m_yy[p.at[k]] -= p.share[k] * pressure;
        if (m_aboutAxis)
            m_around[p.at[k]] -= p.share[k] * pressure;
    }
}

float ElasticGrid::pressure(const Place& p) const
{
    float sum = 0;
    for (size_t k = 0; k < p.at.size(); ++k)
        sum += p.share[k] * pressureOf(p.at[k]);
    return sum;
}

std::array<float, 2> ElasticGrid::velocity(const Place& p) const
{
    std::array<float, 2> v{};
    const Mean mean(false);
    for (size_t k = 0; k < p.at.size(); ++k) {
        v[0] += p.share[k] * mean.behind(&m_vx[p.at[k]]);
        v[1] += p.share[k] * mean.behind(&m_vy[p.at[k]], m_stride);
    }
    return v;
}

void ElasticGrid::pressures(int stride, std::vector<float>& out) const
{
    out.clear();
    for (int j = m_bottom; j < m_ny - m_top; j += stride)
        for (int i = m_left; i < m_nx - m_right; i += stride)
            out.push_back(pressureOf(at(i, j)));
}

}  // namespace yh::grid
