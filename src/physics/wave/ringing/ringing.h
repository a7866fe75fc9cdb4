// Ring-downs: waves in time after a pulse, on three grids of which the coarser ones tell the error
// of the finest.
#pragma once

#include "grid/yee_grid.h"
#include "physics/wave/common/wave.h"

#include <array>
#include <complex>
#include <memory>
#include <string>
#include <vector>

namespace yh::physics {

struct RingDown
{
    std::unique_ptr<WaveProblem> wave;
    double low = 0, high = 0;  ///< Hz
    double time = 0;           ///< s
    double cell = 0;           ///< m, of the finest grid
    Point from, to;            ///< frame of the device, m
    std::array<grid::Wall, 6> walls{};
    std::array<bool, 6> isMirror{};  ///< planes of symmetry
    bool isSolid = true;
    std::vector<Point> places;  ///< at which the ringing is heard, and those asked for
    /// Of the pulse, s: the standard deviation of its envelope.
    [[nodiscard]] double width() const;
    [[nodiscard]] double middle() const { return 4.5 * width(); }
    [[nodiscard]] double silence() const { return 9 * width(); }
    /// Current of a dipole of moment 1.
    [[nodiscard]] double pulse(double time) const;
};

/// What of a grid's edges and faces lies outside of metal, and what is along the edges.
class Voxels
{
public:
    Voxels(const RingDown& problem, const mesh::Mesh& mesh, std::array<int, 3> cells,
           double lossFrequency);
    [[nodiscard]] const std::array<int, 3>& cells() const { return m_n; }
    [[nodiscard]] const std::array<double, 3>& size() const { return m_d; }
    [[nodiscard]] bool isCut() const { return m_isCut; }
    /// Metal lies between nodes of which none is in it: waves would slip through.
    [[nodiscard]] bool hidesMetal() const;
    [[nodiscard]] grid::YeeEdge edge(int axis, int i, int j, int k) const;
    [[nodiscard]] float face(int axis, int i, int j, int k) const
    {
        return m_face[size_t(axis)][at(i, j, k)];
    }
    /// What joins the directions at a node (grid::YeeGrid::Joints).
    [[nodiscard]] bool hasJoints() const { return !m_joints.empty(); }
    [[nodiscard]] std::array<float, 3> joint(int i, int j, int k) const
    {
        return m_joints[at(i, j, k)];
    }
    [[nodiscard]] size_t at(int i, int j, int k) const
    {
        return (size_t(k) * size_t(m_n[1] + 1) + size_t(j)) * size_t(m_n[0] + 1) + size_t(i);
    }
    [[nodiscard]] size_t count() const { return m_node.size(); }

private:
    struct Simplex
    {
        std::array<Point, 4> corner;
        int piece;
    };
    [[nodiscard]] std::vector<Simplex> simplices(const mesh::Mesh& mesh) const;
    /// Visits all intervals of lines along an axis inside a simplex:
    /// visit(line's numbers, from, to in m from the frame).
    template <class Visit>
    void cast(const Simplex& s, int axis, const std::array<double, 3>& step,
              const std::array<double, 3>& first, const std::array<int, 3>& count,
              Visit visit) const;
    void cover(const std::vector<Simplex>& all);
    void faces();
    void media(const std::vector<Simplex>& all, double lossFrequency);
    [[nodiscard]] std::array<float, 2> span(int axis, std::array<int, 3> p) const;

    const RingDown& m_problem;
    std::array<int, 3> m_n{};
    std::array<double, 3> m_d{};
    bool m_isCut = false;
    std::vector<float> m_open[3], m_face[3];
    std::vector<char> m_node;
    struct Medium
    {
        float eps = 1, sigma = 0;
    };
    Medium m_only;  ///< where there is one medium only
    std::vector<Medium> m_media[3];
    std::vector<std::array<float, 3>> m_joints;  ///< by node; empty: one medium
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

class RingDownSolver : public Solution
{
public:
    RingDownSolver(const RingDown& problem, const mesh::Mesh& mesh, base::Progress& progress);
    void solve(int lowestOrder, base::Progress& progress) override;
    const mesh::Mesh& mesh() const override { return m_mesh; }
    int order() const override { return 1; }
    /// The coarsest grid, the finest, and what all three say of smaller cells.
    std::vector<int> estimates() const override { return {0, 1, 2}; }
    template <class Figure>
    [[nodiscard]] double estimate(int level, const Figure& figure) const
    {
        const double coarse = figure(0), fine = figure(2);
        if (level < 2)
            return level == 0 ? coarse : fine;
        return extrapolated(coarse, figure(1), fine);
    }
    Counters counters() const override { return m_counters; }
    const std::vector<Quantity>& quantities() const override { return m_quantities; }
    void sample(int cell, const Point& xi, double* values) const override;
    std::vector<double> indicator(bool) const override { return {}; }
    std::vector<double> dualIndicator(const PointFunctional&) override { return {}; }
    double geometryError() const override { return 0; }
    std::vector<SingularCorner> singularCorners() const override { return {}; }
    std::vector<double> showTimes() const override { return m_times; }
    void showAt(double time) override;

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
    [[nodiscard]] static double extrapolated(double coarse, double middle, double fine);
    [[nodiscard]] std::array<int, 3> cells(double coarser) const;
    /// The ring of a grid next to that of the finest.
    [[nodiscard]] const Ring& ring(int grid, int mode) const;
    void run(Level& level, double coarser, const std::vector<double>& follow, bool isShown,
             base::Progress& progress, double from, double to);
    [[nodiscard]] double wallLoss(const Pattern& pattern, const Voxels& voxels,
                                  double frequency) const;
    [[nodiscard]] std::vector<double> predicted(const Level& coarse, const Level* fine) const;

    const RingDown& m_problem;
    const mesh::Mesh& m_mesh;
    Level m_levels[3];
    int m_followed = 1;
    double m_lossFrequency;
    /// Fields at places of a lattice: three numbers each.
    struct Picture
    {
        std::vector<float> value;
    };
    std::array<int, 3> m_lattice{};  ///< places
    std::array<double, 3> m_apart{};
    std::vector<double> m_times;
    std::vector<Picture> m_pictures, m_patterns;
    size_t m_shown = 0;
    std::vector<Quantity> m_quantities;
    Counters m_counters;
};

}  // namespace yh::physics
