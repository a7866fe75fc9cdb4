// Ring-downs: waves in time after a pulse, on three grids of which the coarser ones tell the error
// of the finest.
#pragma once

#include "physics/common/grid_solution.h"
#include "physics/wave/common/grid_frame.h"
#include "physics/wave/common/grid_pictures.h"
#include "physics/wave/common/voxels.h"

#include <array>
#include <complex>
#include <memory>
#include <string>
#include <vector>

namespace yh::physics {

struct RingDown : GridFrame
{
    double time = 0;            ///< s
    std::vector<Point> places;  ///< at which the ringing is heard, and those asked for
    /// Current of a dipole of moment 1.
    Pulse pulse;
};

/// A damped oscillation.
struct Ring
{
    double frequency = 0, decay = 0;  ///< Hz, 1/s of the amplitude
    double strength = 0;              ///< relative
};
/// Damped oscillations of which traces consist, by rising frequency.
/// Source: Roy and Kailath, IEEE Trans. Acoust. Speech Signal Process. 37 (1989) 984 (ESPRIT, from
/// memory), behind a filter for the band.
/// @param traces  samples dt apart, from `first` on free of drives
[[nodiscard]] std::vector<Ring> ringsOf(const std::vector<std::vector<float>>& traces, double dt,
                                        size_t first, double low, double high);

class RingDownSolver : public GridSolution
{
public:
    RingDownSolver(const RingDown& problem, const mesh::Mesh& mesh, base::Progress& progress);
    void solve(int lowestOrder, base::Progress& progress) override;
    template <class Figure>
    [[nodiscard]] double estimate(int level, const Figure& figure) const
    {
        const double coarse = figure(0), fine = figure(2);
        if (level < 2)
            return level == 0 ? coarse : fine;
        return extrapolatedOverGrids(coarse, figure(1), fine);
    }
    void sample(int cell, const Point& xi, double* values) const override;

    /// Hz, at which tan delta makes the conductivities of the grid.
    [[nodiscard]] double lossFrequency() const { return m_lossFrequency; }
    [[nodiscard]] const RingDown& problem() const { return m_problem; }
    /// Resonances found on the finest grid.
    [[nodiscard]] int modeCount() const { return int(m_levels[2].rings.size()); }
    /// Hz, on a grid.
    [[nodiscard]] double frequency(int grid, int mode) const;
    /// 1/Q by media and radiation, and by walls.
    [[nodiscard]] double lossInside(int grid, int mode) const;
    [[nodiscard]] double lossByWalls(int grid, int mode) const;
    struct Trace
    {
        double dt = 0;
        std::vector<float> E[3];
    };
    /// At a place of the problem.
    [[nodiscard]] const Trace& trace(int grid, int place) const
    {
        return m_levels[grid].traces[size_t(place)];
    }
    struct Facts
    {
        std::array<int, 3> cells{};
        int steps = 0;
        double seconds = 0;
    };
    [[nodiscard]] const Facts& facts(int grid) const { return m_levels[grid].facts; }

private:
    struct Level
    {
        Facts facts;
        std::vector<Trace> traces;
        std::vector<Ring> rings;
        std::vector<double> walls;  ///< 1/Q of the modes followed
    };
    struct Pattern;
    class Run;
    /// The ring of a grid next to that of the finest.
    [[nodiscard]] const Ring& ring(int grid, int mode) const;
    void run(Level& level, double coarser, const std::vector<double>& follow, bool isShown,
             base::Progress& progress, double from, double to);
    [[nodiscard]] std::vector<double> predicted(const Level& coarse, const Level* fine) const;

    const RingDown& m_problem;
    Level m_levels[3];
    int m_followed = 1;
    double m_lossFrequency;
    GridPictures m_lattice;
    std::vector<GridPictures::Picture> m_pictures, m_patterns;
};

}  // namespace yh::physics
