// How the small model of driven waves is made: solutions at some frequencies, and the products of
// the matrices with them.
#pragma once

#include "fem/dense.h"
#include "fem/ldlt.h"
#include "physics/wave/driven/driven.h"

#include <functional>

namespace yh::physics {

class WaveDrivenSolver::Builder
{
public:
    /// All that is given must outlive it.
    Builder(WaveDrivenSolver& solver, Model& model, const fem::SymmetricFamily& family,
            const fem::Numbering& numbering, Walls& walls);
    /// @param rough  of an order that only serves to judge the error
    void run(bool rough, base::Progress& progress);

private:
    using Complex = std::complex<double>;
    /// The port of every drive, -1 of a dipole.
    [[nodiscard]] std::vector<int> portsOfDrives() const;
    void wallDrives();
    void incidentLoads();
    void solveAt(double frequency, base::Progress& progress);
    /// A real system and all its drives.
    void solveReal(double frequency, const std::vector<Complex>& weights);
    /// What the functions found so far leave of a right-hand side.
    [[nodiscard]] std::vector<Complex> restOf(const std::vector<Complex>& side,
                                              const fem::DenseLu& before) const;
    /// Solves at ever more places, until what the band gives stays.
    void settleBand(bool rough, base::Progress& progress);
    /// The functions found, as coefficients of those of the order.
    void spreadOut();
    /// False where it stalls: a factorisation has to do it.
    bool iterate(const std::vector<Complex>& A, double frequency,
                 const std::vector<std::vector<Complex>>& sides, base::Progress& progress);
    /// Those of ports and dipoles at a frequency.
    [[nodiscard]] std::vector<std::vector<double>> driven(double frequency) const;
    /// Right-hand sides of all drives by place.
    [[nodiscard]] std::vector<std::vector<Complex>> rightSides(double frequency) const;
    /// Product of a vector of the basis with the load of a plane wave.
    [[nodiscard]] Complex onLoad(const std::vector<double>& x,
                                 const Illumination::Values& load) const;
    /// Where to solve next. @param change  how far the response moved last, by place
    [[nodiscard]] double nextPlace(const std::vector<double>& places,
                                   const std::function<double(size_t)>& change) const;
    /// Adds what is new in a solution to the basis.
    void take(std::vector<double> x);
    /// The row that the newest function adds to the matrices.
    void extendMatrices();
    void takeBoth(const Complex* column);
    void takeWalls();

    WaveDrivenSolver& m_solver;
    const WaveProblem& m_problem;
    Model& m_model;
    const fem::SymmetricFamily& m_family;
    const fem::Numbering& m_numbering;
    Walls& m_walls;
    size_t m_unknowns;
    std::vector<double> m_places;  ///< Hz, solved for
    std::vector<fem::SideLoad> m_loads;
    std::vector<std::vector<double>> m_drive;  ///< of their loads, by place
    std::vector<std::vector<double>> m_basis;  ///< by place
    /// Drives at the walls, and the rows of the walls for each vector of the basis; and S^-1 times
    /// those.
    std::vector<std::vector<double>> m_wallDrive, m_wallSolved;
    std::vector<std::vector<std::vector<double>>> m_rows, m_solved;  ///< by part of the walls
    fem::RefinedLdlt<double> m_real;
    fem::RefinedLdlt<Complex> m_complex;
    fem::EdgeMultilevel<Complex> m_levels;
    std::vector<char> m_lowest;
    fem::EdgeBlocks m_blocks;
};

}  // namespace yh::physics
