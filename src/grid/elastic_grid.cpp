#include "grid/elastic_grid.h"

#include "grid/tiny_numbers.h"

#include <omp.h>
#include <algorithm>
#include <cmath>
#include <map>

namespace yh::grid {

namespace {

constexpr float c1 = 9.0F / 8, c2 = -1.0F / 24;

/// Difference to the half place behind: between f[0] and f[step].
inline float ahead(const float* f, std::ptrdiff_t step)
{
    return c1 * (f[step] - f[0]) + c2 * (f[2 * step] - f[-step]);
}
/// To the place itself: between f[-step] and f[0].
inline float behind(const float* f, std::ptrdiff_t step)
{
    return c1 * (f[0] - f[-step]) + c2 * (f[step] - f[-2 * step]);
}

}  // namespace

ElasticGrid::ElasticGrid(int nx, int ny, const std::vector<Elastic>& cells, const Options& o)
    : m_h(o.h), m_frequency(o.frequency), m_layer(o.layer), m_edge(o.edge)
{
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
                                 shear == 0 && isQuiet(i, j)};
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

void ElasticGrid::velocityRow(int j)
{
    const std::ptrdiff_t up = m_stride;
    overRuns(j, 0, m_nx, [&](const Coefficients& k, int first, int n) {
        const size_t c = at(first, j);
        float *vx = &m_vx[c], *vy = &m_vy[c];
        const float *xx = &m_xx[c], *yy = &m_yy[c], *xy = &m_xy[c];
        if (k.quiet) {
#pragma omp simd
            for (int i = 0; i < n; ++i) {
                vx[i] += k.bx * ahead(xx + i, 1);
                vy[i] += k.by * ahead(yy + i, up);
            }
            return;
        }
#pragma omp simd
        for (int i = 0; i < n; ++i) {
            vx[i] += k.bx * (ahead(xx + i, 1) + behind(xy + i, up));
            vy[i] += k.by * (behind(xy + i, 1) + ahead(yy + i, up));
        }
    });
    auto across = [&](int from, int to) {
        overRuns(j, from, to, [&](const Coefficients& k, int first, int n) {
            const size_t c = at(first, j), d = sideways(first, j), x = size_t(first);
            float *p = &m_psi[0][d], *q = &m_psi[1][d], *vx = &m_vx[c], *vy = &m_vy[c];
            const float *xx = &m_xx[c], *xy = &m_xy[c];
            const float *ha = &m_half[0].a[x], *hb = &m_half[0].b[x], *wa = &m_whole[0].a[x],
                        *wb = &m_whole[0].b[x];
#pragma omp simd
            for (int i = 0; i < n; ++i) {
                p[i] = hb[i] * p[i] + ha[i] * ahead(xx + i, 1);
                q[i] = wb[i] * q[i] + wa[i] * behind(xy + i, 1);
                vx[i] += k.bx * p[i];
                vy[i] += k.by * q[i];
            }
        });
    };
    overLayers(across);
    if (isInLayer(j))
        overRuns(j, 0, m_nx, [&](const Coefficients& k, int first, int n) {
            const size_t c = at(first, j), d = upwards(first, j), y = size_t(j);
            float *p = &m_psi[2][d], *q = &m_psi[3][d], *vx = &m_vx[c], *vy = &m_vy[c];
            const float *yy = &m_yy[c], *xy = &m_xy[c];
            const float ha = m_half[1].a[y], hb = m_half[1].b[y], wa = m_whole[1].a[y],
                        wb = m_whole[1].b[y];
#pragma omp simd
            for (int i = 0; i < n; ++i) {
                p[i] = wb * p[i] + wa * behind(xy + i, up);
                q[i] = hb * q[i] + ha * ahead(yy + i, up);
                vx[i] += k.bx * p[i];
                vy[i] += k.by * q[i];
            }
        });
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

void ElasticGrid::stressRow(int j)
{
    const std::ptrdiff_t up = m_stride;
    overRuns(j, 0, m_nx, [&](const Coefficients& k, int first, int n) {
        const size_t c = at(first, j);
        const float *vx = &m_vx[c], *vy = &m_vy[c];
        float *xx = &m_xx[c], *yy = &m_yy[c], *xy = &m_xy[c];
        if (k.s == 0) {
#pragma omp simd
            for (int i = 0; i < n; ++i) {
                const float x = behind(vx + i, 1), y = behind(vy + i, up);
                xx[i] += k.p * x + k.l * y;
                yy[i] += k.l * x + k.p * y;
            }
            return;
        }
#pragma omp simd
        for (int i = 0; i < n; ++i) {
            const float x = behind(vx + i, 1), y = behind(vy + i, up);
            xx[i] += k.p * x + k.l * y;
            yy[i] += k.l * x + k.p * y;
            xy[i] += k.s * (ahead(vx + i, up) + ahead(vy + i, 1));
        }
    });
    auto across = [&](int from, int to) {
        overRuns(j, from, to, [&](const Coefficients& k, int first, int n) {
            const size_t c = at(first, j), d = sideways(first, j), x = size_t(first);
            float *p = &m_psi[4][d], *q = &m_psi[5][d], *xx = &m_xx[c], *yy = &m_yy[c],
                  *xy = &m_xy[c];
            const float *vx = &m_vx[c], *vy = &m_vy[c];
            const float *ha = &m_half[0].a[x], *hb = &m_half[0].b[x], *wa = &m_whole[0].a[x],
                        *wb = &m_whole[0].b[x];
#pragma omp simd
            for (int i = 0; i < n; ++i) {
                p[i] = wb[i] * p[i] + wa[i] * behind(vx + i, 1);
                q[i] = hb[i] * q[i] + ha[i] * ahead(vy + i, 1);
                xx[i] += k.p * p[i];
                yy[i] += k.l * p[i];
                xy[i] += k.s * q[i];
            }
        });
    };
    overLayers(across);
    if (isInLayer(j))
        overRuns(j, 0, m_nx, [&](const Coefficients& k, int first, int n) {
            const size_t c = at(first, j), d = upwards(first, j), y = size_t(j);
            float *p = &m_psi[6][d], *q = &m_psi[7][d], *xx = &m_xx[c], *yy = &m_yy[c],
                  *xy = &m_xy[c];
            const float *vx = &m_vx[c], *vy = &m_vy[c];
            const float ha = m_half[1].a[y], hb = m_half[1].b[y], wa = m_whole[1].a[y],
                        wb = m_whole[1].b[y];
#pragma omp simd
            for (int i = 0; i < n; ++i) {
                p[i] = wb * p[i] + wa * behind(vy + i, up);
                q[i] = hb * q[i] + ha * ahead(vx + i, up);
                xx[i] += k.l * p[i];
                yy[i] += k.p * p[i];
                xy[i] += k.s * q[i];
            }
        });
    if (m_edge[0] == Edge::mirror) {
        m_xx[at(-1, j)] = m_xx[at(0, j)];
        m_xx[at(-2, j)] = m_xx[at(1, j)];
        m_xy[at(-1, j)] = 0;
        m_xy[at(-2, j)] = -m_xy[at(0, j)];
    }
    if (m_edge[1] == Edge::mirror) {
        m_xx[at(m_nx, j)] = m_xx[at(m_nx - 1, j)];
        m_xx[at(m_nx + 1, j)] = m_xx[at(m_nx - 2, j)];
        m_xy[at(m_nx - 1, j)] = 0;
        m_xy[at(m_nx, j)] = -m_xy[at(m_nx - 2, j)];
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
    // Stresses of a row follow the velocities two rows ahead, while these are still at hand: each
    // reaches two rows to either side. Every thread has a band of rows; those at its ends wait
    // until all velocities are there.
#pragma omp parallel
    {
        const WithoutTinyNumbers without;
        const int thread = omp_get_thread_num(), threads = omp_get_num_threads();
        const int from = m_ny * thread / threads, to = m_ny * (thread + 1) / threads;
        for (int r = from; r < to; ++r) {
            velocityRow(r);
            if (r - reach >= from + reach)
                stressRow(r - reach);
        }
#pragma omp barrier
#pragma omp single
        mirrorVelocities();
        for (int j = from; j < to; ++j)
            if (j < from + reach || j >= to - reach)
                stressRow(j);
    }
    mirrorStresses();
    m_time += m_dt;
}

ElasticGrid::Place ElasticGrid::place(double x, double y) const
{
    // Middles of cells lie at halves.
    const double u = x - 0.5 + m_left, v = y - 0.5 + m_bottom;
    const int i = std::clamp(int(std::floor(u)), 0, m_nx - 2),
              j = std::clamp(int(std::floor(v)), 0, m_ny - 2);
    const double s = std::clamp(u - i, 0.0, 1.0), t = std::clamp(v - j, 0.0, 1.0);
    return {{at(i, j), at(i + 1, j), at(i, j + 1), at(i + 1, j + 1)},
            {float((1 - s) * (1 - t)), float(s * (1 - t)), float((1 - s) * t), float(s * t)}};
}

void ElasticGrid::addPressure(const Place& p, float pressure)
{
    for (size_t k = 0; k < 4; ++k) {
        m_xx[p.at[k]] -= p.share[k] * pressure;
        m_yy[p.at[k]] -= p.share[k] * pressure;
    }
}

float ElasticGrid::pressure(const Place& p) const
{
    float sum = 0;
    for (size_t k = 0; k < 4; ++k)
        sum -= p.share[k] * 0.5F * (m_xx[p.at[k]] + m_yy[p.at[k]]);
    return sum;
}

std::array<float, 2> ElasticGrid::velocity(const Place& p) const
{
    std::array<float, 2> v{};
    for (size_t k = 0; k < 4; ++k) {
        const size_t c = p.at[k];
        v[0] += p.share[k] * 0.5F * (m_vx[c] + m_vx[c - 1]);
        v[1] += p.share[k] * 0.5F * (m_vy[c] + m_vy[c - size_t(m_stride)]);
    }
    return v;
}

void ElasticGrid::pressures(int stride, std::vector<float>& out) const
{
    out.clear();
    for (int j = m_bottom; j < m_ny - m_top; j += stride)
        for (int i = m_left; i < m_nx - m_right; i += stride) {
            const size_t c = at(i, j);
            out.push_back(-0.5F * (m_xx[c] + m_yy[c]));
        }
}

}  // namespace yh::grid
