// Pulses of sound in fluids and solids, in the plane and round an axis, on two grids of which the
// coarser one tells the error of the finer.
#pragma once

#include "grid/elastic_grid.h"
#include "physics/common/grid_solution.h"
#include "shape/partition.h"
#include "sheet/model.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <string>
#include <vector>

namespace yh::physics {

struct SoundProblem
{
    std::vector<grid::Elastic> media;  ///< by piece
    std::vector<char> known;           ///< by piece
    std::vector<int> activePieces;
    bool aboutAxis = false;
    double time = 0, cell = 0;  ///< s, m
    struct Source
    {
        double frequency = 0, cycles = 3, pressure = 1, taper = 0.2;
        Point from, to;
        bool isHalf = false;  ///< begins on the axis or a smooth wall, which hold its other half
        /// Of the full pressure, at a share of the way from its beginning to its end.
        [[nodiscard]] double swell(double along) const;
        /// Standard deviation of the envelope, and its middle after the start, s.
        [[nodiscard]] double width() const;
        [[nodiscard]] double middle() const { return 4 * width(); }
        [[nodiscard]] double at(double time) const;
    };
    std::vector<Source> sources;
    struct Receiver
    {
        std::string name;
        Point at;
    };
    std::vector<Receiver> receivers;
    std::array<grid::Edge, 4> edge{};
    double slowest = 0, fastest = 0;  ///< m/s
    double highest = 0;               ///< Hz, of the sources
    [[nodiscard]] int receiverOf(const std::string& name) const;
};

[[nodiscard]] std::unique_ptr<SoundProblem> defineSound(const sheet::Model& model,
                                                        const shape::Partition& partition,
                                                        base::Faults& faults);

class SoundSolver : public GridSolution
{
public:
    SoundSolver(const SoundProblem& problem, const mesh::Mesh& mesh, base::Progress& progress);
    void solve(int lowestOrder, base::Progress& progress) override;
    /// Two grids, and what both say of smaller cells: steps in time err by the square.
    /// @param least  share of the figure by which both may err alike
    template <class Figure>
    [[nodiscard]] static double estimate(int level, const Figure& figure, double least = 0)
    {
        if (level == 0)
            return figure(0);
        const double fine = figure(1), change = (fine - figure(0)) / 3;
        if (level >= 2)
            return fine + change;
        const double apart = std::max(std::abs(change), least * std::abs(fine));
        return fine + change - std::copysign(apart, change);
    }
    /// Share of a pressure that may hide where the errors of both grids cancel: half of that of the
    /// speed of waves, by steps in time and cells.
    [[nodiscard]] double hidden() const;
    void sample(int cell, const Point& xi, double* values) const override;

    [[nodiscard]] const SoundProblem& problem() const { return m_problem; }
    struct Trace
    {
        double dt = 0;
        std::vector<float> pressure, vx, vy;  ///< at dt, 2 dt, …
    };
    [[nodiscard]] const Trace& trace(int level, int receiver) const
    {
        return m_traces[level][size_t(receiver)];
    }
    struct Arrival
    {
        double time = 0, pressure = 0;  ///< s after the middle of the source's pulse, Pa
    };
    /// Pulses like that of the first source, in the order of their arrival: maxima of the envelope
    /// behind a filter of the pulse's own shape, above 3 % of the largest.
    [[nodiscard]] std::vector<Arrival> arrivals(int level, int receiver) const;
    struct Facts
    {
        int nx = 0, ny = 0, steps = 0;
        double seconds = 0;
        size_t uncovered = 0;
    };
    [[nodiscard]] const Facts& facts(int level) const { return m_facts[level]; }

private:
    [[nodiscard]] std::vector<grid::Elastic> media(double h, int nx, int ny,
                                                   size_t& uncovered) const;
    /// Of waves of pressure.
    [[nodiscard]] double speedAt(const Point& p) const;
    void run(int level, double h, base::Progress& progress, double from, double to);

    const SoundProblem& m_problem;
    Point m_low, m_high;  ///< frame of the drawing, m
    double m_cell = 0;    ///< m, of the fine grid
    std::vector<Trace> m_traces[2];
    Facts m_facts[2];
    std::vector<std::vector<float>> m_pictures;  ///< by time
    int m_across = 0, m_up = 0;
    double m_step = 0;  ///< m, of the pictures
};

}  // namespace yh::physics
