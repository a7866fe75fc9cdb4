// One grid of a ring-down: the pulse, what is heard of it, and the fields followed at frequencies.
#pragma once

#include "grid/yee_grid.h"
#include "physics/wave/ringing/ringing.h"

namespace yh::physics {

/// A field as it turns at one frequency: by node, real and imaginary parts.
struct RingDownSolver::Pattern
{
    std::vector<std::complex<float>> E[3], H[3];
    double weight = 0;
};

class RingDownSolver::Run
{
public:
    /// @param coarser  how many times larger its cells are than those of the finest grid
    /// @param follow   frequencies at which fields are followed, Hz
    /// @throws Error where a dipole stands in metal
    Run(RingDownSolver& solver, Level& level, double coarser, const std::vector<double>& follow);
    void steps(bool isShown, base::Progress& progress, double from, double to);
    /// Takes what was heard and followed to pieces.
    void finish(bool isShown);

private:
    [[nodiscard]] grid::YeeGrid::Edge edgeAt(const Point& p, int axis) const;
    void sources();
    void listeners();
    void drive();
    void gather(Pattern& pattern, double frequency, double window);
    [[nodiscard]] double energyOf(const Pattern& pattern) const;
    [[nodiscard]] GridPictures::Picture pictureOf(const Pattern& pattern) const;
    /// The integral of |H|^2 over the content, in the unit of the grid.
    [[nodiscard]] double squareOf(const Pattern& pattern) const;
    /// H of the nearest open faces, the same unit.
    [[nodiscard]] std::array<std::complex<double>, 3> magneticAt(const Pattern& pattern,
                                                                 const Point& p) const;
    /// Square of what runs along a wall, from the fields in front of it.
    /// @param normal  of length 1, out of the cavity
    [[nodiscard]] double alongWall(const Pattern& pattern, const Point& p,
                                   const Point& normal) const;
    /// Visits places of a side of the mesh, its parts no longer than a cell: add(place of the side,
    /// weight).
    template <class Add>
    void overParts(int side, Add add) const;
    /// 1/Q by the walls.
    [[nodiscard]] double wallLoss(const Pattern& pattern, double frequency) const;

    RingDownSolver& m_solver;
    const RingDown& m_problem;
    const WaveProblem& m_wave;
    Level& m_level;
    const std::vector<double>& m_follow;
    Voxels m_voxels;
    std::unique_ptr<grid::YeeGrid> m_grid;
    std::vector<grid::YeeGrid::Edge> m_drives, m_heard;
    std::vector<float> m_moments;
    std::vector<Pattern> m_patterns;
    int m_steps = 0, m_silent = 0;  ///< all, and those until the pulse has passed
};

}  // namespace yh::physics
