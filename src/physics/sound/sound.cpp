#include "physics/sound/sound.h"

#include "base/clock.h"
#include "base/fault.h"
#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>
#include <complex>

namespace yh::physics {

using grid::Elastic;

double SoundProblem::Source::width() const
{
    // A Gaussian is 2.3548 of its standard deviations wide at half of its height.
    return cycles / (2.3548200450309493 * frequency);
}

double SoundProblem::Source::swell(double along) const
{
    // Of the whole line, a half is the later part.
    const double u = isHalf ? 0.5 + 0.5 * along : along, edge = std::min(u, 1 - u);
    return taper > 0 && edge < taper ? 0.5 - 0.5 * std::cos(pi * edge / taper) : 1.0;
}

double SoundProblem::Source::at(double time) const
{
    const double s = (time - middle()) / width();
    return std::exp(-0.5 * s * s) * std::sin(2 * pi * frequency * (time - middle()));
}

int SoundProblem::receiverOf(const std::string& name) const
{
    for (size_t k = 0; k < receivers.size(); ++k)
        if (receivers[k].name == name)
            return int(k);
    return -1;
}

SoundSolver::SoundSolver(const SoundProblem& problem, const mesh::Mesh& mesh, base::Progress&)
    : GridSolution(mesh, {{"p", "sound pressure", "Pa", 1, {}, true}}), m_problem(problem)
{
    m_low = m_high = mesh.vertices.front();
    for (const auto* list : {&mesh.vertices, &mesh.middles})
        for (const Point& p : *list) {
            m_low = {std::min(m_low.x, p.x), std::min(m_low.y, p.y)};
            m_high = {std::max(m_high.x, p.x), std::max(m_high.y, p.y)};
        }
    if (problem.aboutAxis)
        m_low.x = 0;
}

std::vector<Elastic> SoundSolver::media(double h, int nx, int ny, size_t& uncovered) const
{
    // Each cell is looked at in some places; triangles of the mesh, curved ones in parts, say what
    // is there.
    constexpr int each = 3;
    const int across = nx * each, up = ny * each;
    std::vector<int> piece(size_t(across) * size_t(up), -1);
    const double step = h / each;
    auto fill = [&](const Point& a, const Point& b, const Point& c, int what) {
        const double lowY = std::min({a.y, b.y, c.y}), highY = std::max({a.y, b.y, c.y});
        const int from = std::max(0, int(std::floor((lowY - m_low.y) / step - 0.5))),
                  to = std::min(up - 1, int(std::ceil((highY - m_low.y) / step - 0.5)));
        for (int j = from; j <= to; ++j) {
            const double y = m_low.y + (j + 0.5) * step;
            double left = 1e300, right = -1e300;
            for (const auto& [p, q] : {std::pair{a, b}, {b, c}, {c, a}}) {
                if ((p.y > y) == (q.y > y))
                    continue;
                const double x = p.x + (q.x - p.x) * (y - p.y) / (q.y - p.y);
                left = std::min(left, x);
                right = std::max(right, x);
            }
            const int first = std::max(0, int(std::ceil((left - m_low.x) / step - 0.5))),
                      last = std::min(across - 1, int(std::floor((right - m_low.x) / step - 0.5)));
            for (int i = first; i <= last; ++i)
                piece[size_t(j) * size_t(across) + size_t(i)] = what;
        }
    };
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const mesh::Geometry g(m_mesh, t);
        const int parts = g.curved ? 6 : 1, what = m_mesh.piece[size_t(t)];
        auto corner = [&](int i, int j) { return g.at({double(i) / parts, double(j) / parts}); };
        for (int i = 0; i < parts; ++i)
            for (int j = 0; i + j < parts; ++j) {
                fill(corner(i, j), corner(i + 1, j), corner(i, j + 1), what);
                if (i + j + 2 <= parts)
                    fill(corner(i + 1, j), corner(i + 1, j + 1), corner(i, j + 1), what);
            }
    }
    const Elastic background = m_problem.media[size_t(m_problem.activePieces.front())];
    std::vector<Elastic> cells;
    cells.reserve(size_t(nx) * size_t(ny));
    uncovered = 0;
    for (int j = 0; j < ny; ++j)
        for (int i = 0; i < nx; ++i) {
            // Densities add up; what is soft decides about moduli.
            double rho = 0, softness = 0, compliance = 0;
            bool fluid = false, open = false;
            for (int v = 0; v < each; ++v)
                for (int u = 0; u < each; ++u) {
                    const int what =
                        piece[size_t(j * each + v) * size_t(across) + size_t(i * each + u)];
                    const Elastic& e = what >= 0 ? m_problem.media[size_t(what)] : background;
                    open = open || what < 0;
                    rho += e.rho;
                    softness += 1 / e.lambda;
                    fluid = fluid || e.mu == 0;
                    compliance += e.mu > 0 ? 1 / e.mu : 0;
                }
            constexpr double count = each * each;
            uncovered += open;
            cells.push_back({rho / count, count / softness, fluid ? 0.0 : count / compliance});
        }
    return cells;
}

void SoundSolver::solve(int, base::Progress& progress)
{
    // Smooth walls lie where they are drawn: both grids fit between them.
    m_cell = m_problem.cell;
    const bool acrossY = m_problem.edge[2] == grid::Edge::mirror ||
                         m_problem.edge[3] == grid::Edge::mirror,
               acrossX = m_problem.edge[0] == grid::Edge::mirror ||
                         m_problem.edge[1] == grid::Edge::mirror;
    if (acrossY || acrossX) {
        const double extent = acrossY ? m_high.y - m_low.y : m_high.x - m_low.x;
        m_cell = extent / (2 * std::max(2.0, std::round(extent / (2 * m_cell))));
    }
    // The coarse one takes an eighth of the time of the fine one.
    run(0, 2 * m_cell, progress, 0.0, 0.12);
    run(1, m_cell, progress, 0.12, 1.0);
}

double SoundSolver::hidden() const
{
    const double kh = 2 * pi * m_problem.highest * m_cell / m_problem.slowest;
    return kh * kh / 48;
}

double SoundSolver::speedAt(const Point& p) const
{
    const auto hit = mesh::Locator(m_mesh).find(p);
    const int piece =
        hit.cell >= 0 ? m_mesh.piece[size_t(hit.cell)] : m_problem.activePieces.front();
    const Elastic& e = m_problem.media[size_t(piece)];
    return std::sqrt((e.lambda + 2 * e.mu) / e.rho);
}

void SoundSolver::run(int level, double h, base::Progress& progress, double from, double to)
{
    const double start = base::seconds();
    Facts& facts = m_facts[level];
    facts.nx = std::max(4, int(std::lround((m_high.x - m_low.x) / h)));
    facts.ny = std::max(4, int(std::lround((m_high.y - m_low.y) / h)));
    grid::ElasticGrid::Options options{h, m_problem.highest, level == 0 ? 12 : 20, m_problem.edge,
                                       m_problem.aboutAxis};
    grid::ElasticGrid g(facts.nx, facts.ny, media(h, facts.nx, facts.ny, facts.uncovered), options);
    auto placeOf = [&](const Point& p) {
        return g.place((p.x - m_low.x) / h, (p.y - m_low.y) / h);
    };
    // By source, what a unit of pressure in a step puts where.
    std::vector<grid::ElasticGrid::Place> senders(m_problem.sources.size());
    for (size_t which = 0; which < m_problem.sources.size(); ++which) {
        const auto& s = m_problem.sources[which];
        const double length = norm(s.to - s.from);
        const int parts = std::max(1, int(std::ceil(4 * length / h)));
        const double c = speedAt(0.5 * (s.from + s.to));
        for (int i = 0; i < parts; ++i) {
            const double u = (i + 0.5) / parts;
            // The wave that leaves to either side of a line has half of what is put in, over the
            // time that sound takes through a cell.
            const Point p = s.from + u * (s.to - s.from);
            senders[which].add(placeOf(p),
                               float(2 * c * s.pressure * s.swell(u) * (length / parts) / (h * h)));
        }
    }
    // What arrives at the end of the time is heard out.
    constexpr double rest = 2.5;
    const auto& pulse = m_problem.sources.front();
    facts.steps = int(std::ceil((m_problem.time + pulse.middle() + rest * pulse.width()) / g.dt()));
    auto& traces = m_traces[level];
    traces.assign(m_problem.receivers.size(), {});
    std::vector<grid::ElasticGrid::Place> places;
    for (size_t k = 0; k < m_problem.receivers.size(); ++k) {
        places.push_back(placeOf(m_problem.receivers[k].at));
        traces[k].dt = g.dt();
    }
    constexpr int pictures = 48;
    const int every = std::max(1, facts.steps / pictures);
    const int stride = std::max(1, int(std::ceil(std::max(facts.nx, facts.ny) / 700.0)));
    if (level == 1) {
        m_times.clear();
        m_pictures.clear();
        m_across = (facts.nx + stride - 1) / stride;
        m_up = (facts.ny + stride - 1) / stride;
        m_step = stride * h;
    }
    for (int n = 1; n <= facts.steps; ++n) {
        g.step();
        // What is put in during the step belongs to the stresses at its end.
        for (size_t k = 0; k < senders.size(); ++k)
            g.addPressure(senders[k],
                          float(g.dt() * m_problem.sources[k].at(g.time() - 0.5 * g.dt())));
        for (size_t k = 0; k < places.size(); ++k) {
            traces[k].pressure.push_back(g.pressure(places[k]));
            const auto v = g.velocity(places[k]);
            traces[k].vx.push_back(v[0]);
            traces[k].vy.push_back(v[1]);
        }
        if (level == 1 && n % every == 0) {
            m_times.push_back(g.time());
            g.pressures(stride, m_pictures.emplace_back());
        }
        constexpr int often = 64;
        if (n % often == 0) {
            progress.check();
            progress.report(from + (to - from) * n / facts.steps,
                            "sound at " + base::format(g.time(), base::dim::time, 3));
        }
    }
    m_now = m_pictures.empty() ? 0 : m_pictures.size() - 1;
    facts.seconds = base::seconds() - start;
    m_counters.unknowns = facts.nx * facts.ny;
}

void SoundSolver::sample(int cell, const Point& xi, double* values) const
{
    values[0] = 0;
    if (m_pictures.empty())
        return;
    const Point p = mesh::Geometry(m_mesh, cell).at(xi);
    const double first = 0.5 * m_cell;
    const double u = (p.x - m_low.x - first) / m_step, v = (p.y - m_low.y - first) / m_step;
    const int i = std::clamp(int(std::floor(u)), 0, m_across - 2),
              j = std::clamp(int(std::floor(v)), 0, m_up - 2);
    const double s = std::clamp(u - i, 0.0, 1.0), t = std::clamp(v - j, 0.0, 1.0);
    const auto& f = m_pictures[m_now];
    auto at = [&](int a, int b) { return double(f[size_t(b) * size_t(m_across) + size_t(a)]); };
    values[0] = (1 - t) * ((1 - s) * at(i, j) + s * at(i + 1, j)) +
                t * ((1 - s) * at(i, j + 1) + s * at(i + 1, j + 1));
}

std::vector<SoundSolver::Arrival> SoundSolver::arrivals(int level, int receiver) const
{
    const Trace& trace = m_traces[level][size_t(receiver)];
    const auto& source = m_problem.sources.front();
    const double w = 2 * pi * source.frequency, dt = trace.dt, width = source.width();
    const int n = int(trace.pressure.size()), reach = int(std::ceil(4 * width / dt));
    // At the base band, filtered by the envelope.
    std::vector<std::complex<double>> base(static_cast<size_t>(n));
    for (int i = 0; i < n; ++i)
        base[size_t(i)] = double(trace.pressure[size_t(i)]) * std::polar(1.0, -w * (i + 1) * dt);
    std::vector<double> weight(size_t(2 * reach + 1));
    double squares = 0;
    for (int k = -reach; k <= reach; ++k) {
        const double s = k * dt / width;
        weight[size_t(k + reach)] = std::exp(-0.5 * s * s);
        squares += weight[size_t(k + reach)] * weight[size_t(k + reach)];
    }
    std::vector<double> size(static_cast<size_t>(n));
    for (int i = 0; i < n; ++i) {
        std::complex<double> sum = 0;
        for (int k = std::max(-reach, -i); k <= std::min(reach, n - 1 - i); ++k)
            sum += weight[size_t(k + reach)] * base[size_t(i + k)];
        // A pulse of the same shape has its own amplitude: a sine is two turning parts.
        size[size_t(i)] = 2 * std::abs(sum) / squares;
    }
    const double most = *std::max_element(size.begin(), size.end());
    constexpr double visible = 0.03;
    std::vector<Arrival> list;
    for (int i = 1; i + 1 < n; ++i) {
        const double a = size[size_t(i - 1)], b = size[size_t(i)], c = size[size_t(i + 1)];
        if (b < visible * most || a >= b || c > b ||
            (i + 1) * dt > m_problem.time + source.middle())
            continue;
        const double off = 0.5 * (a - c) / (a - 2 * b + c);
        list.push_back({(i + 1 + off) * dt - source.middle(), b - 0.25 * (a - c) * off});
    }
    return list;
}

}  // namespace yh::physics
