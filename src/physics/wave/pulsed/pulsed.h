// Pulses through ports, followed in time on three grids of which the coarser ones tell the error of
// the finest: one pulse into each mode of each port gives all S-parameters of a band.
#pragma once

#include "physics/common/grid_solution.h"
#include "physics/wave/common/grid_frame.h"
#include "physics/wave/common/grid_pictures.h"
#include "physics/wave/common/scattering.h"
#include "physics/wave/pulsed/grid_port.h"

#include <functional>
#include <map>
#include <memory>
#include <string>
#include <vector>

namespace yh::physics {

struct PulsedWaves : GridFrame
{
    double time = 0;                  ///< s, that the fields are followed for at most
    double crossing = 0;              ///< s, in which a wave passes the device
    std::vector<PortWindow> windows;  ///< by port of the wave
};

class PulsedSolver : public GridSolution, public Scattering
{
public:
    PulsedSolver(const PulsedWaves& problem, const mesh::Mesh& mesh);
    void solve(int lowestOrder, base::Progress& progress) override;
    void sample(int cell, const Point& xi, double* values) const override;

    const WaveProblem& problem() const override { return *m_problem.wave; }
    const std::vector<Channel>& channels() const override { return m_channels; }
    int best() const override { return 2; }
    Eigen::MatrixXcd scattering(int level, double frequency) const override;
    double impedance(int level, size_t channel, double frequency) const override;
    double cutoff(size_t, double) const override { return 0; }
    bool errsInPhase() const override { return true; }

    /// How much S changes where the last seventh of what was heard is left out, at most.
    [[nodiscard]] double unsettled() const { return m_unsettled; }
    /// E over H of a channel at an estimate, ohm.
    [[nodiscard]] double waveImpedance(int level, size_t channel, double frequency) const;
    /// Phase constant of a channel over that of vacuum where fields are shown.
    [[nodiscard]] double index(size_t channel) const { return m_index[channel]; }
    /// A port on the finest grid.
    [[nodiscard]] const GridPort& port(int number) const
    {
        return *m_levels[2].ports[size_t(number)];
    }
    struct Facts
    {
        std::array<int, 3> cells{};
        int steps = 0;  ///< of all runs
        double seconds = 0;
    };
    [[nodiscard]] const Facts& facts(int grid) const { return m_levels[grid].facts; }

private:
    struct Level
    {
        Facts facts;
        std::unique_ptr<Voxels> voxels;       ///< until it was run
        std::unique_ptr<grid::YeeGrid> grid;  ///< the same
        /// Frequencies on the grid over true ones, at both ends of the band.
        std::array<double, 2> stretch{1, 1}, otherStretch{1, 1};
        std::vector<std::unique_ptr<GridPort>> ports;
        /// By channel that was driven, by port.
        std::vector<std::vector<GridPort::Heard>> heard;
        mutable std::map<double, Eigen::MatrixXcd> known;  ///< S by frequency
    };
    [[nodiscard]] Eigen::MatrixXcd onGrid(const Level& level, double frequency, double share) const;
    [[nodiscard]] const Eigen::MatrixXcd& onGrid(const Level& level, double frequency) const;
    /// Frequencies at which the coarse grids' waves are as long as they ought to be.
    void stretchBand(double fine, double best, size_t end);
    /// Makes a grid and finds the modes of its ports.
    void makeGrid(int grid, base::Progress& progress);
    /// Makes the grids and finds the modes of their ports.
    void prepare(base::Progress& progress);
    /// The frequency on a grid that stands for a true one.
    [[nodiscard]] double stretched(const std::array<double, 2>& stretch, double frequency) const;
    void run(int grid, base::Progress& progress, double from, double to);
    void follow(grid::YeeGrid& g, const Voxels& voxels, Level& level, size_t channel, bool isShown,
                const std::function<void(double)>& report);
    [[nodiscard]] std::vector<double> frequencies(const Voxels& voxels, const grid::YeeGrid& g);
    /// Phase constants over that of vacuum of a port's modes, at both ends of the band and where
    /// fields are shown, from a slice of the device at the port whose cells are finer across it.
    using Indices = std::vector<std::array<double, 3>>;
    [[nodiscard]] Indices fineIndices(size_t port, double finer) const;
    /// Finds how much each grid counts in each number of S.
    void weigh();
    template <class Figure>
    [[nodiscard]] double estimate(int level, const Figure& figure) const;

    const PulsedWaves& m_problem;
    std::vector<Channel> m_channels;
    Level m_levels[3];
    Pulse m_pulse;
    std::vector<double> m_frequencies;         ///< Hz, at which modes are found
    std::array<Eigen::MatrixXd, 3> m_weights;  ///< by grid
    std::vector<double> m_index;               ///< by channel
    double m_unsettled = 0;
    GridPictures m_lattice;
    std::vector<GridPictures::Picture> m_pictures, m_shown;  ///< over time; by channel
};

}  // namespace yh::physics
