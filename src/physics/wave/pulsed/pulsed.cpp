#include "physics/wave/pulsed/pulsed.h"

#include "base/clock.h"
#include "base/fault.h"
#include "fem/dense.h"
#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

namespace {

using Complex = std::complex<double>;

/// Of the samples, those that the look at what the rest changes leaves.
constexpr double earlier = 6.0 / 7;

/** A frame of the same device, to be cut down. */
GridFrame frameLike(const GridFrame& p)
{
    GridFrame slice;
    slice.wave = p.wave;
    slice.low = p.low;
    slice.high = p.high;
    slice.from = p.from;
    slice.to = p.to;
    slice.walls = p.walls;
    slice.isSolid = p.isSolid;
    return slice;
}

}  // namespace

PulsedSolver::PulsedSolver(const PulsedWaves& problem, const mesh::Mesh& mesh)
    : GridSolution(mesh, {{"E", "electric field", "V/m", 3}}), m_problem(problem)
{
    for (size_t p = 0; p < problem.wave->ports.size(); ++p)
        for (int m = 0; m < problem.wave->ports[p].modes; ++m)
            m_channels.push_back({int(p), m});
}

template <class Figure>
double PulsedSolver::estimate(int level, const Figure& figure) const
{
    if (level < 2)
        return figure(m_levels[level == 0 ? 0 : 2]);
    return extrapolatedOverGrids(figure(m_levels[0]), figure(m_levels[1]), figure(m_levels[2]));
}

void PulsedSolver::solve(int, base::Progress& progress)
{
    prepare(progress);
    run(0, progress, 0.0, 0.06);
    run(1, progress, 0.06, 0.32);
    run(2, progress, 0.32, 1.0);
    weigh();
    for (const double share : {0.0, 0.5, 1.0}) {
        const double f = m_problem.low + share * (m_problem.high - m_problem.low);
        const Eigen::MatrixXcd change =
            onGrid(m_levels[2], f, earlier) - onGrid(m_levels[2], f, 1.0);
        m_unsettled = std::max(m_unsettled, change.cwiseAbs().maxCoeff());
    }
    for (size_t k = 0; k < m_shown.size(); ++k) {
        const std::string name = channelName(k);
        m_quantities.push_back({"E_" + name,
                                "electric field in phase, wave into " + name + " at " +
                                    base::format(m_problem.wave->shown, base::dim::frequency, 4),
                                "V/m",
                                3,
                                {},
                                k == 0});
    }
}

std::vector<double> PulsedSolver::frequencies(const Voxels& voxels, const grid::YeeGrid& g)
{
    const double low = m_problem.low, high = m_problem.high, middle = (low + high) / 2;
    const auto& ports = m_problem.wave->ports;
    // A short pulse saves steps, but what travels near its cut-off is slow.
    for (const double half : {0.2, 0.12, 0.06, 0.03}) {
        const double reach = std::max((high - low) / 2, half * middle);
        m_pulse = {middle - reach, middle + reach};
        if (reach == (high - low) / 2)
            break;
        bool travels = true;
        for (size_t p = 0; p < ports.size() && travels; ++p)
            try {
                GridPort port(m_problem, voxels, g, m_problem.windows[p], ports[p].name,
                              ports[p].line);
                port.findModes({m_pulse.low, middle}, ports[p].modes);
                constexpr double slow = 0.5;
                for (int m = 0; m < ports[p].modes; ++m)
                    travels = travels && port.index(m, m_pulse.low) > slow * port.index(m, middle);
            } catch (const base::Error&) {
                travels = false;
            }
        if (travels)
            break;
    }
    // Chebyshev's places.
    const double width = (high - low) / middle;
    constexpr double narrow = 0.02, wide = 0.3;
    const int n = width < 1e-9 ? 1 : width < narrow ? 3 : width < wide ? 5 : 9;
    std::vector<double> list;
    for (int k = 0; k < n; ++k)
        list.push_back(middle - (high - low) / 2 * std::cos(pi * (k + 0.5) / n));
    return list;
}

void PulsedSolver::stretchBand(double fine, double best, size_t end)
{
    for (Level& level : m_levels) {
        auto stretched = [&](double index) {
            const double f = end ? m_problem.high : m_problem.low;
            double g = f;
            for (int step = 0; step < 4; ++step)
                g = f * index / level.ports[0]->index(0, g);
            return g / f;
        };
        level.stretch[end] = stretched(best);
        // A third of what the extrapolation added is taken for its error.
        constexpr double unsure = 0.3;
        level.otherStretch[end] =
            stretched(&level == m_levels ? fine : best + unsure * (fine - best));
    }
}

void PulsedSolver::makeGrid(int grid, base::Progress& progress)
{
    const auto& ports = m_problem.wave->ports;
    Level& level = m_levels[grid];
    progress.check();
    level.voxels = std::make_unique<Voxels>(m_problem, m_mesh, m_problem.cells(gridSizes[grid]),
                                            (m_problem.low + m_problem.high) / 2);
    const Voxels& voxels = *level.voxels;
    level.grid = yeeGrid(m_problem, voxels);
    if (m_frequencies.empty())
        m_frequencies = frequencies(voxels, *level.grid);
    for (size_t p = 0; p < ports.size(); ++p) {
        progress.check();
        level.ports.push_back(std::make_unique<GridPort>(
            m_problem, voxels, *level.grid, m_problem.windows[p], ports[p].name, ports[p].line));
        level.ports.back()->findModes(m_frequencies, ports[p].modes);
    }
}

void PulsedSolver::prepare(base::Progress& progress)
{
    const auto& ports = m_problem.wave->ports;
    for (int grid = 0; grid < 3; ++grid)
        makeGrid(grid, progress);
    // Waves on a coarse grid are slower: there the band is that in which they are as long as they
    // ought to be. How long that is two finer slices at the first port say, and the error one of
    // them.
    constexpr double finer[] = {1, 2, 3};
    for (size_t p = 0; p < ports.size(); ++p) {
        progress.check();
        const size_t which = p == 0 ? 1 : 0;
        Indices coarse, fine = fineIndices(p, finer[which + 1]);
        if (p == 0)
            coarse = fineIndices(p, finer[1]);
        else
            for (int m = 0; m < ports[p].modes; ++m)
                coarse.push_back({0, 0, m_levels[2].ports[p]->index(m, m_problem.wave->shown)});
        const double x0 = 1 / (finer[which] * finer[which]),
                     x1 = 1 / (finer[which + 1] * finer[which + 1]);
        auto beyond = [&](size_t mode, size_t place) {
            return fine[mode][place] + (fine[mode][place] - coarse[mode][place]) * x1 / (x0 - x1);
        };
        for (size_t m = 0; m < fine.size(); ++m)
            m_index.push_back(beyond(m, 2));
        if (p > 0 || m_frequencies.size() < 2)
            continue;
        for (const size_t end : {size_t(0), size_t(1)})
            stretchBand(fine[0][end], beyond(0, end), end);
    }
}

PulsedSolver::Indices PulsedSolver::fineIndices(size_t port, double finer) const
{
    const PortWindow& w = m_problem.windows[port];
    const WavePort& of = m_problem.wave->ports[port];
    GridFrame slice = frameLike(m_problem);
    auto part = [](Point& p, int a) -> double& { return a == 0 ? p.x : a == 1 ? p.y : p.z; };
    auto cells = m_problem.cells(1);
    Point extent = m_problem.to - m_problem.from;
    constexpr int deep = 6;
    for (int a = 0; a < (m_problem.isSolid ? 3 : 2); ++a) {
        const auto A = size_t(a);
        if (a != w.axis) {
            cells[A] = int(std::lround(finer * cells[A]));
            continue;
        }
        const double thick = deep * part(extent, a) / cells[A] / finer;
        if (w.isHigh)
            part(slice.from, a) = part(slice.to, a) - thick;
        else
            part(slice.to, a) = part(slice.from, a) + thick;
        cells[A] = deep;
    }
    const Voxels voxels(slice, m_mesh, cells, (m_problem.low + m_problem.high) / 2);
    const auto grid = yeeGrid(slice, voxels);
    GridPort fine(slice, voxels, *grid, w, of.name, of.line);
    const double low = m_problem.low, high = m_problem.high, shown = m_problem.wave->shown;
    const bool isBand = m_frequencies.size() > 1;
    fine.findModes(isBand ? std::vector{low, (low + high) / 2, high} : std::vector{low}, of.modes);
    Indices list;
    for (int m = 0; m < of.modes; ++m)
        list.push_back({fine.index(m, low), fine.index(m, high), fine.index(m, shown)});
    return list;
}

double PulsedSolver::stretched(const std::array<double, 2>& stretch, double f) const
{
    const double low = m_problem.low, high = m_problem.high,
                 share = high > low ? (f - low) / (high - low) : 0.5;
    return f * ((1 - share) * stretch[0] + share * stretch[1]);
}

void PulsedSolver::run(int grid, base::Progress& progress, double from, double to)
{
    const double start = base::seconds();
    Level& level = m_levels[grid];
    const Voxels& voxels = *level.voxels;
    grid::YeeGrid& g = *level.grid;
    level.facts = {voxels.cells(), 0, 0};
    const bool isShown = grid == 2;
    if (isShown)
        m_lattice = GridPictures(m_problem, voxels);
    for (size_t k = 0; k < m_channels.size(); ++k)
        follow(g, voxels, level, k, isShown, [&](double share) {
            progress.check();
            progress.report(from + (to - from) * (double(k) + share) / double(m_channels.size()),
                            "a pulse into " + channelName(k) + ", " +
                                base::format(g.time(), base::dim::time, 3));
        });
    level.facts.seconds = base::seconds() - start;
    m_counters.unknowns = int(voxels.count());
    level.grid.reset();
    level.voxels.reset();
}

void PulsedSolver::follow(grid::YeeGrid& g, const Voxels& voxels, Level& level, size_t channel,
                          bool isShown, const std::function<void(double)>& report)
{
    const Channel& driven = m_channels[channel];
    const GridPort& source = *level.ports[size_t(driven.port)];
    const auto n = voxels.cells();
    g.clear();
    const int often = std::max(1, int(1 / (4 * m_pulse.high * g.dt())));
    std::vector<GridPort::Heard> heard;
    for (const auto& port : level.ports)
        heard.push_back(port->begin(often * g.dt(), often * g.dt()));
    const int steps = int(std::ceil((m_problem.time + m_pulse.silence()) / g.dt()));
    // Pictures while the pulse crosses the device.
    constexpr int pictures = 24;
    const double crossing = m_problem.crossing;
    // The pulse has passed when what is heard begins to be turned down.
    const double shortest = 1.3 * (m_pulse.silence() + crossing);
    const int every = std::max(
        1, int(std::min(m_pulse.silence() + crossing, m_problem.time) / g.dt() / pictures));
    std::vector<std::complex<float>> pattern[3];
    if (isShown)
        for (auto& part : pattern)
            part.assign(voxels.count(), 0.0F);
    const double shown = m_problem.wave->shown;
    double largest = 0;
    int step = 1;
    for (; step <= steps; ++step) {
        g.step();
        if (const double now = g.time() - g.dt() / 2; now < m_pulse.silence())
            source.drive(g, driven.mode, m_pulse(now));
        if (step % often == 0) {
            for (size_t p = 0; p < heard.size(); ++p)
                level.ports[p]->listen(heard[p]);
            if (isShown) {
                const std::complex<float> turn(std::polar(1.0, -2 * pi * shown * g.time()));
#pragma omp parallel for schedule(static)
                for (int k = 0; k <= n[2]; ++k)
                    for (int j = 0; j <= n[1]; ++j)
                        for (int a = 0; a < 3; ++a) {
                            const float* E = g.line(a, j, k);
                            auto* to = &pattern[a][voxels.at(0, j, k)];
                            for (int i = 0; i <= n[0]; ++i)
                                to[i] += E[i] * turn;
                        }
            }
        }
        if (isShown && channel == 0 && step % every == 0 && int(m_pictures.size()) < pictures) {
            m_times.push_back(g.time());
            m_pictures.push_back(m_lattice.take(
                g, voxels, [&](int, const std::array<int, 3>&, const grid::YeeGrid::Edge& e) {
                    return g.electric(e);
                }));
        }
        constexpr int look = 64;
        if (step % look != 0)
            continue;
        report(std::min(1.0, g.time() / shortest));
        // Until nothing is left of it.
        double energy = 0;
        for (int k = 0; k <= n[2]; ++k)
            for (int j = 0; j <= n[1]; ++j)
                for (int a = 0; a < 3; ++a) {
                    const float* E = g.line(a, j, k);
                    float sum = 0;
                    for (int i = 0; i <= n[0]; ++i)
                        sum += E[i] * E[i];
                    energy += double(sum);
                }
        largest = std::max(largest, energy);
        constexpr double nothing = 1e-10;
        if (g.time() > shortest && energy < nothing * largest)
            break;
    }
    level.facts.steps += std::min(step, steps);
    level.heard.push_back(std::move(heard));
    if (!isShown)
        return;
    const auto& port = m_problem.wave->ports[size_t(driven.port)];
    const Complex in =
        source.wave(level.heard.back()[size_t(driven.port)], driven.mode, shown, port.shift, 1.0)
            .in;
    // For the power that the whole port is driven with.
    const auto d = voxels.size();
    const double power =
        2 * port.drive * port.share * mu0 * c0 / (m_problem.isSolid ? d[0] * d[0] : d[0]);
    const std::complex<float> factor(std::sqrt(power) / in);
    m_shown.push_back(m_lattice.take(
        g, voxels, [&](int a, const std::array<int, 3>& q, const grid::YeeGrid::Edge& e) {
            return (pattern[a][voxels.at(q[0], q[1], q[2])] * factor).real() * e.perField;
        }));
}

Eigen::MatrixXcd PulsedSolver::onGrid(const Level& level, double f, double share) const
{
    const auto n = Eigen::Index(m_channels.size());
    Eigen::MatrixXcd in(n, n), out(n, n);
    for (Eigen::Index drive = 0; drive < n; ++drive)
        for (Eigen::Index k = 0; k < n; ++k) {
            const Channel& c = m_channels[size_t(k)];
            const auto p = size_t(c.port);
            const auto w = level.ports[p]->wave(level.heard[size_t(drive)][p], c.mode, f,
                                                m_problem.wave->ports[p].shift, share);
            in(k, drive) = w.in;
            out(k, drive) = w.out;
        }
    // What layers give back comes in as well, and all drives together tell it from what the device
    // does: out = S in.
    return fem::solved(in.transpose(), out.transpose()).transpose();
}

const Eigen::MatrixXcd& PulsedSolver::onGrid(const Level& level, double f) const
{
    auto known = level.known.find(f);
    if (known == level.known.end())
        known = level.known.emplace(f, onGrid(level, stretched(level.stretch, f), 1.0)).first;
    return known->second;
}

Eigen::MatrixXcd PulsedSolver::scattering(int level, double f) const
{
    // What was heard last, and how long waves are, count as errors.
    if (level < 2) {
        const Level& l = m_levels[level == 0 ? 0 : 2];
        // Numbers of the grid are kept to seven digits, over some thousand steps.
        constexpr double rounding = 1e-5;
        return (1 + rounding) * onGrid(l, stretched(l.otherStretch, f), level == 0 ? 1.0 : earlier);
    }
    const auto &coarse = onGrid(m_levels[0], f), &middle = onGrid(m_levels[1], f),
               &fine = onGrid(m_levels[2], f);
    const auto& w = m_weights;
    return coarse.cwiseProduct(w[0]) + middle.cwiseProduct(w[1]) + fine.cwiseProduct(w[2]);
}

void PulsedSolver::weigh()
{
    // One order for each number of S, by all of the band, so that curves are smooth.
    const auto n = Eigen::Index(m_channels.size());
    Eigen::MatrixXd both = Eigen::MatrixXd::Zero(n, n), own = both;
    constexpr int places = 11;
    for (int i = 0; i < places; ++i) {
        const double f = m_problem.low + (m_problem.high - m_problem.low) * i / (places - 1);
        const Eigen::MatrixXcd first = onGrid(m_levels[1], f) - onGrid(m_levels[0], f),
                               second = onGrid(m_levels[2], f) - onGrid(m_levels[1], f);
        both += first.cwiseProduct(second.conjugate()).real();
        own += second.cwiseAbs2();
    }
    m_weights.fill(Eigen::MatrixXd::Zero(n, n));
    for (Eigen::Index i = 0; i < n; ++i)
        for (Eigen::Index j = 0; j < n; ++j) {
            const auto w = gridWeights(both(i, j) / own(i, j));
            for (size_t k = 0; k < 3; ++k)
                m_weights[k](i, j) = w[k];
        }
}

double PulsedSolver::waveImpedance(int level, size_t channel, double f) const
{
    const Channel& c = m_channels[channel];
    return estimate(
        level, [&](const Level& l) { return l.ports[size_t(c.port)]->waveImpedance(c.mode, f); });
}

double PulsedSolver::impedance(int level, size_t channel, double f) const
{
    return waveImpedance(level, channel, f);
}

void PulsedSolver::sample(int cell, const Point& xi, double* values) const
{
    const Point p = mesh::Geometry(m_mesh, cell).at(xi);
    m_lattice.read(m_pictures.empty() ? nullptr : &m_pictures[m_now], p, values);
    for (size_t k = 0; k < m_shown.size(); ++k)
        m_lattice.read(&m_shown[k], p, values + 3 * (k + 1));
}

}  // namespace yh::physics
