// Ports of a grid: the modes of the guide behind a window in a side of the frame, as the grid
// itself carries them, so that sources send one mode and no other, and waves to both sides are told
// apart to rounding.
//
// Of a field exp(j omega t - j beta x) whose section does not change along x, both components
// across x obey
//
//   beta^2 E = k^2 eps E - curl curl E + grad (1/eps_x) div (eps E)
//
// with differences in place of derivatives, and k and beta as steps in time and cells along x make
// them: k = 2 sin(omega dt / 2) / (c dt), beta likewise. Source: Zhu and Brown, Opt. Express 10
// (2002) 853 (from memory).
#pragma once

#include "physics/wave/common/voxels.h"

#include <Eigen/SparseCore>

#include <array>
#include <complex>
#include <string>
#include <vector>

namespace yh::physics {

/// A window in a side of the frame.
struct PortWindow
{
    int axis = 0;         ///< across it
    bool isHigh = false;  ///< in the side where the device ends
    Point from, to;       ///< m; along the axis they do not count
};

class GridPort
{
public:
    /// @param line  of the sheet, for faults
    /// @throws Error where the guide does not go straight on
    GridPort(const GridFrame& frame, const Voxels& voxels, const grid::YeeGrid& g,
             const PortWindow& window, const std::string& name, int line);

    /// Finds modes at some frequencies, between which they are interpolated.
    /// @param frequencies  rising, Hz
    /// @param count        how many, by falling effective index at the middle one
    /// @throws Error where one does not travel
    void findModes(const std::vector<double>& frequencies, int count);

    /// Sends a mode: a current along the window.
    void drive(grid::YeeGrid& g, int mode, double current) const;
    /// What the modes of a port hear of one run.
    struct Heard
    {
        double first = 0, step = 0;  ///< s, of the samples
        /// By mode and frequency: of the field's E with the mode's H, and of its H with the mode's
        /// E; shape (samples)
        std::vector<std::vector<float>> U, I;
    };
    [[nodiscard]] Heard begin(double first, double step) const;
    /// Takes the fields at the plane where waves are told apart.
    void listen(Heard& heard) const;
    /// A wave at the side of the frame, into the device and out of it.
    struct Wave
    {
        std::complex<double> in, out;
    };
    /// @param inside  m, how far inside the device the plane of reference lies
    /// @param share   of the samples that count
    [[nodiscard]] Wave wave(const Heard& heard, int mode, double frequency, double inside,
                            double share) const;

    [[nodiscard]] int modeCount() const { return int(m_modes.size()); }
    /// Phase constant over that of vacuum.
    [[nodiscard]] double index(int mode, double frequency) const;
    /// E over H of a mode, ohm; NaN where they are not alike all over the window.
    [[nodiscard]] double waveImpedance(int mode, double frequency) const;
    /// Of the square of a mode's transverse E, the share across z.
    [[nodiscard]] double level(int mode) const { return m_modes[size_t(mode)].level; }
    /// Of the strength of a mode's field, what is left at the border of the window.
    [[nodiscard]] double atBorder(int mode) const;
    /// Largest refractive index at the border of the window.
    [[nodiscard]] double indexAtBorder() const { return m_borderIndex; }

private:
    /// At one frequency; by edge of the window, as the grid stores them. The power, the sum of
    /// e_b h_c - e_c h_b, is 1.
    struct Profile
    {
        Eigen::VectorXd e, h;  ///< h of an edge along b is that along c, and the other way round
        double beta2 = 0;      ///< square of the discrete phase constant, 1/m^2
    };
    struct Mode
    {
        std::vector<Profile> at;  ///< by frequency
        Eigen::MatrixXd power;    ///< of E of one frequency with H of another
        double level = 0;
    };
    /// An edge of the window that is free.
    struct Edge
    {
        int b = 0, c = 0;
        bool isAlongB = true, isBorder = false;
        double open = 1, eps = 1;
        double weight = 1;  ///< half in a plane of symmetry
        grid::YeeGrid::Edge source;
        const float *e = nullptr, *before = nullptr, *behind = nullptr;  ///< E, and H beside it
    };
    [[nodiscard]] std::array<int, 3> node(int along, int b, int c) const;
    [[nodiscard]] bool isFlat(int axis) const { return m_cells[size_t(axis)] == 0; }
    /// Whether the window ends in a magnetic wall.
    [[nodiscard]] bool isMirrored(int axis, bool high) const;
    void window(const GridFrame& frame, const PortWindow& w);
    /// Where an edge of the window is driven and read; false where it lies in metal.
    bool placeEdge(Edge& e, const Voxels& voxels, const grid::YeeGrid& g, int axis, int across);
    void edges(const GridFrame& frame, const Voxels& voxels, const grid::YeeGrid& g);
    void section(const Voxels& voxels);
    void checkStraight(const Voxels& voxels) const;
    /// @param space  fields to begin with, none: any; those that the modes were found among
    [[nodiscard]] std::vector<Profile> solve(double frequency, int count,
                                             Eigen::MatrixXd& space) const;
    [[nodiscard]] Profile profile(Eigen::VectorXd e, double beta2, double k) const;
    [[nodiscard]] double product(const Profile& e, const Profile& h) const;
    /// Of the frequencies, how much each counts at another.
    [[nodiscard]] std::vector<double> shares(double frequency) const;
    [[nodiscard]] double vacuum(double frequency) const;  ///< k, 1/m
    /// beta as the grid has it, rad/m.
    [[nodiscard]] double beta(const Mode& m, double frequency) const;

    int m_axis, m_b, m_c, m_line;
    bool m_isHigh;
    std::string m_name;
    std::array<int, 3> m_cells{};
    std::array<double, 3> m_size{}, m_length{};  ///< m, and as the grid stores lengths
    std::array<grid::Wall, 6> m_walls{};
    std::array<int, 2> m_first{}, m_count{};  ///< nodes of the window along b and c
    int m_source = 0, m_listen = 0;           ///< nodes along the axis
    double m_dt = 0;                          ///< s, of the grid
    std::vector<Edge> m_edges;
    double m_borderIndex = 1, m_largestEps = 1;
    Eigen::SparseMatrix<double> m_operator, m_gradient, m_divergence;
    std::vector<double> m_frequencies;
    std::vector<Mode> m_modes;
};

}  // namespace yh::physics
