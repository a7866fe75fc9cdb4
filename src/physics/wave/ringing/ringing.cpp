#include "physics/wave/ringing/ringing.h"

#include "base/clock.h"
#include "base/fault.h"
#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

/// A field as it turns at one frequency: by node, real and imaginary parts.
struct RingDownSolver::Pattern
{
    std::vector<std::complex<float>> E[3], H[3];
    double weight = 0;
};

RingDownSolver::RingDownSolver(const RingDown& problem, const mesh::Mesh& mesh, base::Progress&)
    : GridSolution(mesh, {{"E", "electric field", "V/m", 3, {}, true}}),
      m_problem(problem),
      m_lossFrequency((problem.low + problem.high) / 2)
{
    constexpr int mostShown = 3;
    m_followed = std::clamp(problem.wave->asked, 1, mostShown);
}

std::vector<double> RingDownSolver::predicted(const Level& coarse, const Level* fine) const
{
    std::vector<double> list;
    for (int k = 0; k < std::min(m_followed, int(coarse.rings.size())); ++k) {
        const double f = coarse.rings[size_t(k)].frequency;
        double next = f;
        if (fine) {
            double nearest = 1e300;
            for (const Ring& r : fine->rings)
                if (std::abs(r.frequency - f) < nearest) {
                    nearest = std::abs(r.frequency - f);
                    // An error by the square.
                    next = r.frequency +
                           (r.frequency - f) * (gridSizes[1] * gridSizes[1] - 1) /
                               (gridSizes[0] * gridSizes[0] - gridSizes[1] * gridSizes[1]);
                }
        }
        list.push_back(next);
    }
    return list;
}

void RingDownSolver::solve(int, base::Progress& progress)
{
    // A first look on the coarsest grid, for the frequencies at which fields are followed.
    Level first;
    run(first, gridSizes[0], {}, false, progress, 0.0, 0.04);
    if (first.rings.empty())
        throw base::Error(7850,
                          "nothing rings in this band: no resonance of the device lies in it, or "
                          "the dipoles stand where its fields are zero");
    const int asked = std::min(m_problem.wave->asked, int(first.rings.size())) - 1;
    m_lossFrequency = first.rings[size_t(asked)].frequency;
    run(m_levels[0], gridSizes[0], predicted(first, nullptr), false, progress, 0.04, 0.1);
    run(m_levels[1], gridSizes[1], predicted(m_levels[0], nullptr), false, progress, 0.1, 0.27);
    run(m_levels[2], gridSizes[2], predicted(m_levels[0], &m_levels[1]), true, progress, 0.27, 1.0);
    if (m_levels[2].rings.empty())
        throw base::Error(7850, "nothing rings in this band on the finest grid");
    for (size_t k = 0; k < m_patterns.size(); ++k)
        m_quantities.push_back({m_patterns.size() == 1 ? "E1" : "E" + std::to_string(k + 1),
                                "electric field of mode " + std::to_string(k + 1),
                                "V/m",
                                3,
                                {}});
}

const Ring& RingDownSolver::ring(int grid, int mode) const
{
    if (mode >= modeCount())
        throw base::Error(7851, "only " + std::to_string(modeCount()) +
                                    " resonances ring in this band: widen it, or move the dipole "
                                    "to where the fields of the others are");
    const double f = m_levels[2].rings[size_t(mode)].frequency;
    const Ring* best = nullptr;
    for (const Ring& r : m_levels[grid].rings)
        if (!best || std::abs(r.frequency - f) < std::abs(best->frequency - f))
            best = &r;
    constexpr double same = 0.05;
    if (!best || std::abs(best->frequency / f - 1) > same)
        throw base::Error(
            7852, "mode " + std::to_string(mode + 1) + " at " +
                      base::format(f, base::dim::frequency, 4) + " is lost on a coarser grid" +
                      (best ? ", the next one there is at " +
                                  base::format(best->frequency, base::dim::frequency, 4)
                            : std::string()) +
                      ": choose smaller cells or a wider band");
    return *best;
}

double RingDownSolver::frequency(int grid, int mode) const
{
    return ring(grid, mode).frequency;
}

double RingDownSolver::lossInside(int grid, int mode) const
{
    const Ring& r = ring(grid, mode);
    return r.decay / (pi * r.frequency);
}

double RingDownSolver::lossByWalls(int grid, int mode) const
{
    const auto& list = m_levels[grid].walls;
    if (mode >= int(list.size()))
        throw base::Error(7853, "losses of walls are followed for the first " +
                                    std::to_string(m_followed) + " modes");
    return list[size_t(mode)];
}

void RingDownSolver::run(Level& level, double coarser, const std::vector<double>& follow,
                         bool isShown, base::Progress& progress, double from, double to)
{
    const double start = base::seconds();
    const WaveProblem& w = *m_problem.wave;
    const Voxels voxels(m_problem, m_mesh, m_problem.cells(coarser), m_lossFrequency);
    const auto n = voxels.cells();
    const auto d = voxels.size();
    const auto made = yeeGrid(m_problem, voxels);
    grid::YeeGrid& g = *made;
    auto cellOf = [&](const Point& p, int axis, int* at) {
        const double x[3] = {p.x - m_problem.from.x, p.y - m_problem.from.y,
                             p.z - m_problem.from.z};
        for (int b = 0; b < 3; ++b) {
            const auto B = size_t(b);
            if (n[B] == 0) {
                at[b] = 0;
                continue;
            }
            const double u = x[b] / d[B];
            at[b] = b == axis ? std::clamp(int(std::floor(u)), 0, n[B] - 1)
                              : std::clamp(int(std::lround(u)), 0, n[B]);
        }
    };
    auto edgeAt = [&](const Point& p, int axis) {
        int at[3];
        cellOf(p, axis, at);
        return g.edge(axis, at[0], at[1], at[2]);
    };
    std::vector<grid::YeeGrid::Edge> drives;
    std::vector<float> moments;
    for (const PointDipole& dipole : w.dipoles) {
        const int axis = dipole.direction.x != 0 ? 0 : dipole.direction.y != 0 ? 1 : 2;
        const auto e = edgeAt(dipole.at, axis);
        if (!(e.perMoment > 0))
            throw base::Error(7854,
                              "the dipole stands in metal or on a wall that it lies along: what it "
                              "sends is short-circuited",
                              {dipole.line, "at", 0});
        drives.push_back(e);
        moments.push_back(float(dipole.moment));
    }
    std::vector<grid::YeeGrid::Edge> heard;
    level.traces.assign(m_problem.places.size(), {});
    for (const Point& p : m_problem.places)
        for (int a = 0; a < 3; ++a)
            heard.push_back(edgeAt(p, a));
    const int steps =
        std::max(64, int(std::ceil((m_problem.time + m_problem.pulse.silence()) / g.dt())));
    level.facts = {n, steps, 0};
    for (auto& t : level.traces) {
        t.dt = g.dt();
        for (auto& E : t.E)
            E.reserve(size_t(steps));
    }
    std::vector<Pattern> patterns(follow.size());
    for (auto& p : patterns)
        for (auto* list : {&p.E, &p.H})
            for (auto& part : *list)
                part.assign(voxels.count(), 0.0F);
    const int silent = int(std::ceil(m_problem.pulse.silence() / g.dt()));
    const int often = std::max(1, int(1 / (8 * m_problem.high * g.dt())));
    // Pictures of the pulse and of what follows, on a lattice that a screen can show.
    constexpr int pictures = 24;
    const int every = std::max(1, std::min(steps, 2 * silent) / pictures);
    if (isShown)
        m_lattice = GridPictures(m_problem, voxels);
    auto atNodes = [&](auto valueOf) { return m_lattice.take(g, voxels, valueOf); };
    for (int step = 1; step <= steps; ++step) {
        g.step();
        if (step <= silent) {
            // The current of the middle of the step that ends here.
            const double now = m_problem.pulse(g.time() - g.dt() / 2);
            for (size_t k = 0; k < drives.size(); ++k)
                g.drive(drives[k], moments[k] * float(now));
        }
        for (size_t k = 0; k < heard.size(); ++k)
            level.traces[k / 3].E[k % 3].push_back(g.electric(heard[k]));
        if (step > silent && step % often == 0) {
            const double share = double(step - silent) / (steps - silent),
                         window = 0.5 - 0.5 * std::cos(2 * pi * share);
            for (size_t m = 0; m < follow.size(); ++m) {
                const std::complex<double> turn = window *
                                                  std::polar(1.0, -2 * pi * follow[m] * g.time()),
                                           half = turn * std::polar(1.0, pi * follow[m] * g.dt());
                patterns[m].weight += window;
                const std::complex<float> e(turn), h(half);
#pragma omp parallel for schedule(static)
                for (int k = 0; k <= n[2]; ++k)
                    for (int j = 0; j <= n[1]; ++j) {
                        const size_t row = voxels.at(0, j, k);
                        for (int a = 0; a < 3; ++a) {
                            const float *E = g.line(a, j, k), *H = g.line(3 + a, j, k);
                            auto *toE = &patterns[m].E[a][row], *toH = &patterns[m].H[a][row];
                            for (int i = 0; i <= n[0]; ++i) {
                                toE[i] += E[i] * e;
                                toH[i] += H[i] * h;
                            }
                        }
                    }
            }
        }
        if (isShown && step % every == 0 && int(m_pictures.size()) < pictures) {
            m_times.push_back(g.time());
            m_pictures.push_back(
                atNodes([&](int, const std::array<int, 3>&, const grid::YeeGrid::Edge& e) {
                    return g.electric(e);
                }));
        }
        constexpr int look = 32;
        if (step % look == 0) {
            progress.check();
            progress.report(from + (to - from) * step / steps,
                            "waves at " + base::format(g.time(), base::dim::time, 3));
        }
    }
    std::vector<std::vector<float>> all;
    for (size_t k = 0; k < level.traces.size(); ++k)
        for (const auto& E : level.traces[k].E)
            all.push_back(E);
    level.rings = ringsOf(all, g.dt(), size_t(silent), m_problem.low, m_problem.high);
    for (size_t m = 0; m < patterns.size(); ++m) {
        level.walls.push_back(wallLoss(patterns[m], voxels, follow[m]));
        if (!isShown)
            continue;
        // Turned so that the field is real where it is largest, for 1 J of stored energy.
        std::complex<float> largest = 0;
        double energy = 0;
        for (int a = 0; a < 3; ++a)
            for (size_t i = 0; i < voxels.count(); ++i) {
                const auto v = patterns[m].E[a][i];
                if (std::norm(v) > std::norm(largest))
                    largest = v;
            }
        for (int a = 0; a < 3; ++a) {
            const auto A = size_t(a);
            for (int k = 0; k <= n[2]; ++k)
                for (int j = 0; j <= n[1]; ++j)
                    for (int i = 0; i <= n[0]; ++i) {
                        const auto e = voxels.edge(a, i, j, k);
                        if (!(e.open > 0))
                            continue;
                        const double x = double(std::abs(patterns[m].E[a][voxels.at(i, j, k)])) *
                                         d[0] / (d[A] * double(e.open));
                        double share = 1;
                        const int p[3] = {i, j, k};
                        for (int b = 0; b < 3; ++b)
                            if (b != a && n[size_t(b)] > 0 && (p[b] == 0 || p[b] == n[size_t(b)]))
                                share /= 2;
                        energy += share * 0.5 * eps0 * double(e.eps) * double(e.open) * x * x;
                    }
        }
        double volume = d[0] * d[1] * (m_problem.isSolid ? d[2] : 1.0) * w.scale;
        const std::complex<float> turn =
            std::conj(largest) / std::abs(largest) / float(std::sqrt(energy * volume));
        m_patterns.push_back(
            atNodes([&](int a, const std::array<int, 3>& q, const grid::YeeGrid::Edge& e) {
                return (patterns[m].E[a][voxels.at(q[0], q[1], q[2])] * turn).real() * e.perField;
            }));
    }
    level.facts.seconds = base::seconds() - start;
    m_now = m_pictures.empty() ? 0 : m_pictures.size() - 1;
    m_counters.unknowns = int(voxels.count());
}

double RingDownSolver::wallLoss(const Pattern& pattern, const Voxels& voxels,
                                double frequency) const
{
    const WaveProblem& w = *m_problem.wave;
    const auto n = voxels.cells();
    const auto d = voxels.size();
    // 4 times the mean stored energy over mu0, as H is here by the impedance of vacuum: the
    // integral of |H|^2.
    double stored = 0;
    for (int a = 0; a < 3; ++a) {
        const auto A = size_t(a);
        for (int k = 0; k <= n[2]; ++k)
            for (int j = 0; j <= n[1]; ++j)
                for (int i = 0; i <= n[0]; ++i) {
                    const double open = double(voxels.face(a, i, j, k));
                    if (!(open > 0))
                        continue;
                    const int p[3] = {i, j, k};
                    // Faces in a plane of symmetry have half a cell.
                    const double share = n[A] > 0 && (p[a] == 0 || p[a] == n[A]) ? 0.5 : 1.0;
                    const double h =
                        double(std::abs(pattern.H[a][voxels.at(i, j, k)])) * d[0] / d[A];
                    stored += share * open * h * h;
                }
    }
    stored *= d[0] * d[1] * (m_problem.isSolid ? d[2] : 1.0);
    if (!(stored > 0))
        return 0;
    auto magneticAt = [&](const Point& p) {
        const double x[3] = {p.x - m_problem.from.x, p.y - m_problem.from.y,
                             p.z - m_problem.from.z};
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
                if (!(voxels.face(a, at[0], at[1], at[2]) > least))
                    return;
                weights += weight;
                h[size_t(a)] +=
                    weight * std::complex<double>(pattern.H[a][voxels.at(at[0], at[1], at[2])]);
            });
            if (weights > 0)
                h[size_t(a)] *= d[0] / d[size_t(a)] / weights;
        }
        return h;
    };
    double lost = 0;
    const double apart = std::max({d[0], d[1], m_problem.isSolid ? d[2] : 0.0});
    for (int s = 0; s < m_mesh.sideCount(); ++s) {
        const int tag = m_mesh.sideTag[size_t(s)];
        if (tag < 0 || w.sides[size_t(tag)] < 0)
            continue;
        const double resistance = w.walls[size_t(w.sides[size_t(tag)])].resistance(frequency);
        for (const int c : m_mesh.sideCells[size_t(s)]) {
            if (c < 0 || !w.carries(m_mesh.piece[size_t(c)]))
                continue;
            const mesh::Geometry geometry(m_mesh, c);
            const int k = m_mesh.localSide(c, s);
            auto add = [&](const Point& t, double weight) {
                const Point xi = geometry.onSide(k, t), normal = geometry.outward(k, xi),
                            p = geometry.at(xi);
                const double area = norm(normal);
                const Point in = (-apart / area) * normal;
                const auto one = magneticAt(p + in), two = magneticAt(p + 2 * in),
                           three = magneticAt(p + 3 * in);
                const double u[3] = {normal.x / area, normal.y / area, normal.z / area};
                std::complex<double> through = 0;
                double all = 0;
                for (size_t a = 0; a < 3; ++a) {
                    // Of a field that is even about the wall this errs by the fourth power.
                    const std::complex<double> h = 3.0 * one[a] - 3.0 * two[a] + three[a];
                    through += u[a] * h;
                    all += std::norm(h);
                }
                lost += weight * area * resistance * std::max(0.0, all - std::norm(through));
            };
            // Parts of a side no longer than a cell.
            double longest = 0;
            const auto corners = m_mesh.sideCorners(s);
            for (const int a : corners)
                for (const int b : corners)
                    longest = std::max(
                        longest, norm(m_mesh.vertices[size_t(a)] - m_mesh.vertices[size_t(b)]));
            const int parts = std::clamp(int(std::ceil(longest / apart)), 1, 40);
            const double step = 1.0 / parts;
            if (!m_problem.isSolid) {
                for (int i = 0; i < parts; ++i)
                    add({(i + 0.5) * step}, step);
                continue;
            }
            for (int i = 0; i < parts; ++i)
                for (int j = 0; i + j < parts; ++j) {
                    add({(i + 1.0 / 3) * step, (j + 1.0 / 3) * step}, step * step / 2);
                    if (i + j + 2 <= parts)
                        add({(i + 2.0 / 3) * step, (j + 2.0 / 3) * step}, step * step / 2);
                }
        }
    }
    // Loss over omega times the energy mu0 |H|^2 / 2.
    return lost / (2 * pi * frequency * mu0 * stored);
}

void RingDownSolver::sample(int cell, const Point& xi, double* values) const
{
    const Point p = mesh::Geometry(m_mesh, cell).at(xi);
    m_lattice.read(m_pictures.empty() ? nullptr : &m_pictures[m_now], p, values);
    for (size_t k = 0; k < m_patterns.size(); ++k)
        m_lattice.read(&m_patterns[k], p, values + 3 * (k + 1));
}

}  // namespace yh::physics
