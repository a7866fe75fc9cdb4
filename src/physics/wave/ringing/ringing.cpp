#include "physics/wave/ringing/ringing.h"

#include "base/clock.h"
#include "base/fault.h"
#include "physics/common/constants.h"
#include "physics/wave/ringing/ring_run.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

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
    Run grid(*this, level, coarser, follow);
    grid.steps(isShown, progress, from, to);
    grid.finish(isShown);
    level.facts.seconds = base::seconds() - start;
    m_now = m_pictures.empty() ? 0 : m_pictures.size() - 1;
}

void RingDownSolver::sample(int cell, const Point& xi, double* values) const
{
    const Point p = mesh::Geometry(m_mesh, cell).at(xi);
    m_lattice.read(m_pictures.empty() ? nullptr : &m_pictures[m_now], p, values);
    for (size_t k = 0; k < m_patterns.size(); ++k)
        m_lattice.read(&m_patterns[k], p, values + 3 * (k + 1));
}

}  // namespace yh::physics
