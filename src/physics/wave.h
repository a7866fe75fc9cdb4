// Waves: the electric field E exp(j omega t) in media and between walls,
//
//   curl (1/mu curl E) = k^2 eps E,   k = omega / c,
//
// with E in H(curl), relative eps and mu. This file: what a sheet states, and resonances. Drawings
// hold E in their plane, with H out of it; round an axis nothing changes with the angle (TM modes
// of azimuthal order 0).
// Source: Jackson, Classical Electrodynamics, 3rd ed., chapter 8 (from memory).
#pragma once

#include "fem/edge.h"
#include "physics/field.h"
#include "shape/partition.h"
#include "sheet/model.h"

#include <memory>
#include <string>
#include <vector>

namespace yh::physics {

/// A wall of metal whose field reaches in by the skin depth only.
struct MetalWall
{
    int line = -1;  ///< -1: the surface of a region of metal
    std::string metal;
    double sigma = 0;      ///< S/m
    double roughness = 0;  ///< m, root mean square
    /// Surface resistance, ohm, at a frequency in Hz: sqrt(omega mu0 / (2 sigma)), and for rough
    /// walls 1 + (2/pi) atan(1.4 (roughness / skin depth)^2) times that.
    /// Source: Pozar, Microwave Engineering, section 1.7; Hammerstad and Bekkadal, 1975 (both from
    /// memory).
    [[nodiscard]] double resistance(double frequency) const;
};

/// Materials, walls and symmetry of a wave problem.
struct WaveProblem
{
    fem::Measure measure = fem::Measure::plane;
    double scale = 1.0;                            ///< depth times the number of images
    std::vector<fem::Coefficient> eps, inverseMu;  ///< relative, by piece
    std::vector<double> loss;                      ///< tan delta, by piece
    std::vector<double> sigma;                     ///< S/m, by piece; of what is no metal
    std::vector<int> activePieces;
    enum Boundary { open = -3, magnetic = -2, electric = -1 };
    /// By side of the partition: a kind of Boundary, or the number of its metal wall. `open` sides
    /// are electric walls where the field ends.
    std::vector<int> sides;
    std::vector<MetalWall> walls;
    int modes = 0;    ///< how many resonances are looked for
    double from = 0;  ///< Hz, above which
    int asked = 1;    ///< the highest one that is asked about

    [[nodiscard]] bool isWall(int side) const { return sides[size_t(side)] >= electric; }
};

/// Reads materials, walls and what is looked for from the sheet.
/// @param[out] faults  everything that is missing or wrong, each at its line
[[nodiscard]] std::unique_ptr<WaveProblem> defineWave(const sheet::Model& model,
                                                      const shape::Partition& partition,
                                                      base::Faults& faults);

/// Resonances of a closed device. Its losses are small: they follow from the field without them.
class WaveModesSolver : public Field
{
public:
    WaveModesSolver(const WaveProblem& problem, const mesh::Mesh& mesh,
                    const shape::Partition& partition, int order, base::Progress& progress);
    void solve(int lowestOrder, base::Progress& progress) override;
    const mesh::Mesh& mesh() const override { return m_mesh; }
    int order() const override { return m_space.order(); }
    Counters counters() const override { return m_counters; }
    const std::vector<Quantity>& quantities() const override { return m_quantities; }
    void sample(int cell, const Point& xi, double* values) const override;
    std::vector<double> indicator(bool allDrives) const override;
    std::vector<double> dualIndicator(const PointFunctional&) override { return indicator(false); }
    double geometryError() const override;
    std::vector<SingularCorner> singularCorners() const override;

    [[nodiscard]] const WaveProblem& problem() const { return m_problem; }
    [[nodiscard]] int modeCount() const { return int(m_solved.back().k2.size()); }
    /// Resonant frequency, Hz. Modes count from 0.
    [[nodiscard]] double frequency(int order, int mode) const;
    /// Parts of 1/Q by walls and by media.
    struct Losses
    {
        double walls = 0, media = 0;
        [[nodiscard]] double whole() const { return walls + media; }
    };
    [[nodiscard]] Losses losses(int order, int mode) const;
    /// V^2 / (2 omega W) along a straight line, ohm, with V the peak voltage and W the stored
    /// energy; what the field changes during a particle's flight does not count.
    [[nodiscard]] double rOverQ(int order, int mode, const Point& a, const Point& b) const;

private:
    struct Solved
    {
        int order = 0;
        std::vector<double> k2;                  ///< 1/m^2, rising in the highest order
        std::vector<std::vector<double>> field;  ///< integral of eps E^2 = 1; shape (modes, count)
        /// Integrals of |n x curl E / mu|^2 over each metal wall; shape (modes, walls) where known
        mutable std::vector<std::vector<double>> currents;
    };
    [[nodiscard]] const Solved& at(int order) const;
    void follow();
    [[nodiscard]] const std::vector<double>& wallCurrents(const Solved& s, int mode) const;
    [[nodiscard]] std::vector<double> currentsByResidual(const Solved& s, int mode) const;
    [[nodiscard]] std::vector<double> currentsByField(const Solved& s, int mode) const;
    [[nodiscard]] int wallOf(int side) const
    {
        const int tag = m_mesh.sideTag[size_t(side)];
        return tag < 0 ? -1 : m_problem.sides[size_t(tag)];
    }
    [[nodiscard]] std::vector<double> geometryShares(int mode) const;

    const WaveProblem& m_problem;
    const mesh::Mesh& m_mesh;
    const shape::Partition& m_partition;
    fem::EdgeSpace m_space;
    fem::H1Space m_scalar;
    fem::EdgeElements m_elements;
    fem::ElementMatrices m_gradients;  ///< of div eps grad
    std::vector<Solved> m_solved;
    std::vector<Quantity> m_quantities;
    mesh::Locator m_locator;
    std::vector<int> m_ranks;  ///< of the corners, in the order of elimination
    std::vector<int> m_walls;  ///< sides of the mesh along which E vanishes
    Counters m_counters;
};

}  // namespace yh::physics
