#include "physics/wave/ringing/ring_run.h"

#include "base/fault.h"
#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

RingDownSolver::Run::Run(RingDownSolver& solver, Level& level, double coarser,
                         const std::vector<double>& follow)
    : m_solver(solver),
      m_problem(solver.m_problem),
      m_wave(*solver.m_problem.wave),
      m_level(level),
      m_follow(follow),
      m_voxels(m_problem, solver.m_mesh, m_problem.cells(coarser), solver.m_lossFrequency),
      m_grid(yeeGrid(m_problem, m_voxels)),
      m_patterns(follow.size())
{
    const double dt = m_grid->dt();
    m_steps = std::max(64, int(std::ceil((m_problem.time + m_problem.pulse.silence()) / dt)));
    m_silent = int(std::ceil(m_problem.pulse.silence() / dt));
    sources();
    listeners();
    level.facts = {m_voxels.cells(), m_steps, 0};
    for (auto& p : m_patterns)
        for (auto* list : {&p.E, &p.H})
            for (auto& part : *list)
                part.assign(m_voxels.count(), 0.0F);
}

grid::YeeGrid::Edge RingDownSolver::Run::edgeAt(const Point& p, int axis) const
{
    const auto n = m_voxels.cells();
    const auto d = m_voxels.size();
    const Point from = p - m_problem.from;
    const double x[3] = {from.x, from.y, from.z};
    int at[3] = {0, 0, 0};
    for (int b = 0; b < 3; ++b) {
        const auto B = size_t(b);
        if (n[B] == 0)
            continue;
        const double u = x[b] / d[B];
        at[b] = b == axis ? std::clamp(int(std::floor(u)), 0, n[B] - 1)
                          : std::clamp(int(std::lround(u)), 0, n[B]);
    }
    return m_grid->edge(axis, at[0], at[1], at[2]);
}

void RingDownSolver::Run::sources()
{
    for (const PointDipole& dipole : m_wave.dipoles) {
        const int axis = dipole.direction.x != 0 ? 0 : dipole.direction.y != 0 ? 1 : 2;
        const auto e = edgeAt(dipole.at, axis);
        if (!(e.perMoment > 0))
            throw base::Error(7854,
                              "the dipole stands in metal or on a wall that it lies along: what it "
                              "sends is short-circuited",
                              {dipole.line, "at", 0});
        m_drives.push_back(e);
        m_moments.push_back(float(dipole.moment));
    }
}

void RingDownSolver::Run::listeners()
{
    m_level.traces.assign(m_problem.places.size(), {});
    for (const Point& p : m_problem.places)
        for (int a = 0; a < 3; ++a)
            m_heard.push_back(edgeAt(p, a));
    for (auto& t : m_level.traces) {
        t.dt = m_grid->dt();
        for (auto& E : t.E)
            E.reserve(size_t(m_steps));
    }
}

void RingDownSolver::Run::drive()
{
    // The current of the middle of the step that ends here.
    const double now = m_problem.pulse(m_grid->time() - m_grid->dt() / 2);
    for (size_t k = 0; k < m_drives.size(); ++k)
        m_grid->drive(m_drives[k], m_moments[k] * float(now));
}

void RingDownSolver::Run::gather(Pattern& pattern, double frequency, double window)
{
    const grid::YeeGrid& g = *m_grid;
    const auto n = m_voxels.cells();
    const std::complex<double> turn = window * std::polar(1.0, -2 * pi * frequency * g.time()),
                               half = turn * std::polar(1.0, pi * frequency * g.dt());
    pattern.weight += window;
    const std::complex<float> e(turn), h(half);
#pragma omp parallel for schedule(static)
    for (int k = 0; k <= n[2]; ++k)
        for (int j = 0; j <= n[1]; ++j) {
            const size_t row = m_voxels.at(0, j, k);
            for (int a = 0; a < 3; ++a) {
                const float *E = g.line(a, j, k), *H = g.line(3 + a, j, k);
                auto *toE = &pattern.E[a][row], *toH = &pattern.H[a][row];
                for (int i = 0; i <= n[0]; ++i) {
                    toE[i] += E[i] * e;
                    toH[i] += H[i] * h;
                }
            }
        }
}

void RingDownSolver::Run::steps(bool isShown, base::Progress& progress, double from, double to)
{
    grid::YeeGrid& g = *m_grid;
    const int often = std::max(1, int(1 / (8 * m_problem.high * g.dt())));
    // Pictures of the pulse and of what follows, on a lattice that a screen can show.
    constexpr int pictures = 24;
    const int every = std::max(1, std::min(m_steps, 2 * m_silent) / pictures);
    GridPictures& lattice = m_solver.m_lattice;
    if (isShown)
        lattice = GridPictures(m_problem, m_voxels);
    auto shown = [&g](int, const std::array<int, 3>&, const grid::YeeGrid::Edge& e) {
        return g.electric(e);
    };
    for (int step = 1; step <= m_steps; ++step) {
        g.step();
        if (step <= m_silent)
            drive();
        for (size_t k = 0; k < m_heard.size(); ++k)
            m_level.traces[k / 3].E[k % 3].push_back(g.electric(m_heard[k]));
        if (step > m_silent && step % often == 0) {
            const double share = double(step - m_silent) / (m_steps - m_silent),
                         window = 0.5 - 0.5 * std::cos(2 * pi * share);
            for (size_t m = 0; m < m_follow.size(); ++m)
                gather(m_patterns[m], m_follow[m], window);
        }
        if (isShown && step % every == 0 && int(m_solver.m_pictures.size()) < pictures) {
            m_solver.m_times.push_back(g.time());
            m_solver.m_pictures.push_back(lattice.take(g, m_voxels, shown));
        }
        constexpr int look = 32;
        if (step % look == 0) {
            progress.check();
            progress.report(from + (to - from) * step / m_steps,
                            "waves at " + base::format(g.time(), base::dim::time, 3));
        }
    }
}

void RingDownSolver::Run::finish(bool isShown)
{
    std::vector<std::vector<float>> all;
    for (const Trace& trace : m_level.traces)
        for (const auto& E : trace.E)
            all.push_back(E);
    m_level.rings = ringsOf(all, m_grid->dt(), size_t(m_silent), m_problem.low, m_problem.high);
    for (size_t m = 0; m < m_patterns.size(); ++m) {
        m_level.walls.push_back(wallLoss(m_patterns[m], m_follow[m]));
        if (isShown)
            m_solver.m_patterns.push_back(pictureOf(m_patterns[m]));
    }
    m_solver.m_counters.unknowns = int(m_voxels.count());
}

double RingDownSolver::Run::energyOf(const Pattern& pattern) const
{
    const auto n = m_voxels.cells();
    const auto d = m_voxels.size();
    double energy = 0;
    for (int a = 0; a < 3; ++a) {
        const auto A = size_t(a);
        for (int k = 0; k <= n[2]; ++k)
            for (int j = 0; j <= n[1]; ++j)
                for (int i = 0; i <= n[0]; ++i) {
                    const auto e = m_voxels.edge(a, i, j, k);
                    if (!(e.open > 0))
                        continue;
                    const double x = double(std::abs(pattern.E[a][m_voxels.at(i, j, k)])) * d[0] /
                                     (d[A] * double(e.open));
                    double share = 1;
                    const int p[3] = {i, j, k};
                    for (int b = 0; b < 3; ++b)
                        if (b != a && n[size_t(b)] > 0 && (p[b] == 0 || p[b] == n[size_t(b)]))
                            share /= 2;
                    energy += share * 0.5 * eps0 * double(e.eps) * double(e.open) * x * x;
                }
    }
    return energy;
}

GridPictures::Picture RingDownSolver::Run::pictureOf(const Pattern& pattern) const
{
    // Turned so that the field is real where it is largest, for the stored energy that is shown.
    std::complex<float> largest = 0;
    for (int a = 0; a < 3; ++a)
        for (size_t i = 0; i < m_voxels.count(); ++i) {
            const auto v = pattern.E[a][i];
            if (std::norm(v) > std::norm(largest))
                largest = v;
        }
    const auto d = m_voxels.size();
    const double volume = d[0] * d[1] * (m_problem.isSolid ? d[2] : 1.0) * m_wave.scale;
    const std::complex<float> turn = std::conj(largest) / std::abs(largest) /
                                     float(std::sqrt(energyOf(pattern) * volume / m_wave.stored));
    return m_solver.m_lattice.take(
        *m_grid, m_voxels, [&](int a, const std::array<int, 3>& q, const grid::YeeGrid::Edge& e) {
            return (pattern.E[a][m_voxels.at(q[0], q[1], q[2])] * turn).real() * e.perField;
        });
}

double RingDownSolver::Run::squareOf(const Pattern& pattern) const
{
    const auto n = m_voxels.cells();
    const auto d = m_voxels.size();
    double sum = 0;
    for (int a = 0; a < 3; ++a) {
        const auto A = size_t(a);
        for (int k = 0; k <= n[2]; ++k)
            for (int j = 0; j <= n[1]; ++j)
                for (int i = 0; i <= n[0]; ++i) {
                    const double open = double(m_voxels.face(a, i, j, k));
                    if (!(open > 0))
                        continue;
                    const int p[3] = {i, j, k};
                    // Faces in a plane of symmetry have half a cell.
                    const double share = n[A] > 0 && (p[a] == 0 || p[a] == n[A]) ? 0.5 : 1.0;
                    const double h =
                        double(std::abs(pattern.H[a][m_voxels.at(i, j, k)])) * d[0] / d[A];
                    sum += share * open * h * h;
                }
    }
    return sum * (d[0] * d[1] * (m_problem.isSolid ? d[2] : 1.0));
}

std::array<std::complex<double>, 3> RingDownSolver::Run::magneticAt(const Pattern& pattern,
                                                                    const Point& p) const
{
    const auto n = m_voxels.cells();
    const auto d = m_voxels.size();
    const Point from = p - m_problem.from;
    const double x[3] = {from.x, from.y, from.z};
    std::array<std::complex<double>, 3> h{};
    for (int a = 0; a < 3; ++a) {
        std::array<int, 3> first{};
        std::array<double, 3> share{};
        for (size_t b = 0; b < 3; ++b) {
            if (n[b] == 0)
                continue;
            const bool isAlong = int(b) == a;
            const int most = isAlong ? n[b] : n[b] - 1;
            const double u = std::clamp(x[b] / d[b] - (isAlong ? 0.0 : 0.5), 0.0, double(most));
            first[b] = std::min(int(u), std::max(0, most - 1));
            share[b] = u - first[b];
        }
        // Without what lies in metal.
        double weights = 0;
        overCorners(first, share, [&](const std::array<int, 3>& at, double weight) {
            constexpr float least = 0.3F;
            if (!(m_voxels.face(a, at[0], at[1], at[2]) > least))
                return;
            weights += weight;
            h[size_t(a)] +=
                weight * std::complex<double>(pattern.H[a][m_voxels.at(at[0], at[1], at[2])]);
        });
        if (weights > 0)
            h[size_t(a)] *= d[0] / d[size_t(a)] / weights;
    }
    return h;
}

double RingDownSolver::Run::alongWall(const Pattern& pattern, const Point& p,
                                      const Point& normal) const
{
    const auto d = m_voxels.size();
    const double apart = std::max({d[0], d[1], m_problem.isSolid ? d[2] : 0.0});
    const Point in = -apart * normal;
    const auto one = magneticAt(pattern, p + in), two = magneticAt(pattern, p + 2 * in),
               three = magneticAt(pattern, p + 3 * in);
    const double u[3] = {normal.x, normal.y, normal.z};
    std::complex<double> through = 0;
    double all = 0;
    for (size_t a = 0; a < 3; ++a) {
        // Of a field that is even about the wall this errs by the fourth power.
        const std::complex<double> h = 3.0 * one[a] - 3.0 * two[a] + three[a];
        through += u[a] * h;
        all += std::norm(h);
    }
    return std::max(0.0, all - std::norm(through));
}

template <class Add>
void RingDownSolver::Run::overParts(int side, Add add) const
{
    const mesh::Mesh& m = m_solver.m_mesh;
    const auto d = m_voxels.size();
    const double cell = std::max({d[0], d[1], m_problem.isSolid ? d[2] : 0.0});
    double longest = 0;
    const auto corners = m.sideCorners(side);
    for (const int a : corners)
        for (const int b : corners)
            longest = std::max(longest, norm(m.vertices[size_t(a)] - m.vertices[size_t(b)]));
    const int parts = std::clamp(int(std::ceil(longest / cell)), 1, 40);
    const double step = 1.0 / parts;
    if (!m_problem.isSolid) {
        for (int i = 0; i < parts; ++i)
            add(Point{(i + 0.5) * step}, step);
        return;
    }
    for (int i = 0; i < parts; ++i)
        for (int j = 0; i + j < parts; ++j) {
            add(Point{(i + 1.0 / 3) * step, (j + 1.0 / 3) * step}, step * step / 2);
            if (i + j + 2 <= parts)
                add(Point{(i + 2.0 / 3) * step, (j + 2.0 / 3) * step}, step * step / 2);
        }
}

double RingDownSolver::Run::wallLoss(const Pattern& pattern, double frequency) const
{
    // 4 times the mean stored energy over mu0, as H is here by the impedance of vacuum.
    const double stored = squareOf(pattern);
    if (!(stored > 0))
        return 0;
    const mesh::Mesh& m = m_solver.m_mesh;
    double lost = 0;
    for (int s = 0; s < m.sideCount(); ++s) {
        const int tag = m.sideTag[size_t(s)];
        if (tag < 0 || m_wave.sides[size_t(tag)] < 0)
            continue;
        const double resistance =
            m_wave.walls[size_t(m_wave.sides[size_t(tag)])].resistance(frequency);
        for (const int c : m.sideCells[size_t(s)]) {
            if (c < 0 || !m_wave.carries(m.piece[size_t(c)]))
                continue;
            const mesh::Geometry geometry(m, c);
            const int k = m.localSide(c, s);
            overParts(s, [&](const Point& t, double weight) {
                const Point xi = geometry.onSide(k, t), normal = geometry.outward(k, xi);
                const double area = norm(normal);
                lost += weight * area * resistance *
                        alongWall(pattern, geometry.at(xi), (1 / area) * normal);
            });
        }
    }
    // Loss over omega times the energy mu0 |H|^2 / 2.
    return lost / (2 * pi * frequency * mu0 * stored);
}

}  // namespace yh::physics
