// Elastic and piezoelectric bodies: small displacements u and, where there is a permittivity, an
// electric potential V.
//
//   div T + omega^2 rho u + f = 0,   div D = 0,
//   T = c S(u) + e^T grad V,   D = e S(u) - eps grad V
//
// In the plane nothing moves across the drawing (plane strain) or nothing pulls there (plane
// stress); round an axis the hoop strain is u_r / r. Steady, as natural vibrations with electrodes
// joined, or over a band of frequencies, with exp(j omega t) and peak values.
// Source: IEEE Std 176-1987, sections 2 and 3 (from memory). Not covered: large displacements,
// initial stress, fluids about the body, fields outside of dielectrics.
#pragma once

#include "fem/band_response.h"
#include "fem/block.h"
#include "fem/eigen.h"
#include "physics/common/functional.h"
#include "physics/common/solution.h"
#include "physics/elastic/medium.h"
#include "shape/partition.h"
#include "sheet/model.h"

#include <array>
#include <complex>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace yh::physics {

[[nodiscard]] constexpr double squared(double x)
{
    return x * x;
}

struct ElasticProblem
{
    enum class Task { steady, modes, band };
    enum Component { x, y, potential, count };

    Task task = Task::steady;
    fem::Measure area = fem::Measure::plane;
    double scale = 1.0;                ///< depth times the number of images
    bool isFree = false;               ///< plane stress
    bool isSolid = false;              ///< three displacements; actuators alone so far
    std::vector<ElasticMedium> media;  ///< by piece
    std::vector<int> activePieces;
    std::vector<char> held[3];  ///< by side: no displacement along x, y, z
    struct Electrode
    {
        std::string name;
        int line = -1;
        double voltage = 0;   ///< V, peak where it alternates
        bool floats = false;  ///< no charge and no connection
        std::vector<char> sides, pieces;
    };
    std::vector<Electrode> electrodes;
    struct Load
    {
        std::vector<int> sides;  ///< empty: by volume, times the density
        double pressure = 0;     ///< Pa, towards the body
        Point traction;          ///< Pa, or m/s^2 by volume
    };
    std::vector<Load> loads;
    double low = 0, high = 0;  ///< Hz, of the band
    int steps = 0;
    int modes = 0;               ///< how many are asked for
    std::vector<double> marked;  ///< Hz, at which figures are asked

    [[nodiscard]] bool isAxisymmetric() const { return area == fem::Measure::axisymmetric; }
    [[nodiscard]] bool isPiezo() const;
    [[nodiscard]] bool isLossy() const;
    [[nodiscard]] int electrodeOf(const std::string& name) const;
    /// What drives at all: a voltage or a load.
    [[nodiscard]] bool isDriven() const;
};

/// Whether a side lies across x, y, z: all of it at one place there.
[[nodiscard]] std::array<bool, 3> sidesAcross(const shape::Partition& partition, int side);

/// Reads materials, supports, loads and electrodes from the sheet.
/// @param[out] faults  everything that is missing or wrong, each at its line
[[nodiscard]] std::unique_ptr<ElasticProblem> defineElastic(const sheet::Model& model,
                                                            const shape::Partition& partition,
                                                            base::Faults& faults);

/// The weak form: what stands before the products of values and derivatives of (u_x, u_y, V).
namespace elastic_form {
enum class Part { stiffness, loss, mass, energy };
[[nodiscard]] fem::BlockForm of(const ElasticProblem& problem, Part part);
}  // namespace elastic_form

/// A motional branch of an electrode and what lies beside it.
/// Source: IEEE Std 176-1987, section 6 (from memory).
struct ElectricalResonance
{
    double series = 0, parallel = 0;  ///< Hz: electrodes joined, and this one left open
    double quality = 0;               ///< of the first; without end where nothing is lost
    double C0 = 0, C1 = 0, L1 = 0, R1 = 0;
    /// What the strongest has most of: its coupling, or what it would be alone.
    [[nodiscard]] double strength() const
    {
        return std::isfinite(parallel) ? coupling() : std::sqrt(C1 / (C0 + C1));
    }
    /// k^2 = (parallel^2 - series^2) / parallel^2
    [[nodiscard]] double coupling() const
    {
        return std::sqrt(std::max(0.0, 1 - (series / parallel) * (series / parallel)));
    }
};

class ElasticSolver : public Solution
{
public:
    ElasticSolver(const ElasticProblem& problem, const mesh::Mesh& mesh,
                  const shape::Partition& partition, int order, base::Progress& progress);
    void solve(int lowestOrder, base::Progress& progress) override;
    const mesh::Mesh& mesh() const override { return m_mesh; }
    int order() const override { return m_space.order(); }
    /// Where corners are singular, what the lowest order errs by elsewhere says nothing about them.
    std::vector<int> estimates() const override
    {
        auto orders = Solution::estimates();
        if (orders.size() > 2 && m_hasCorners)
            orders.erase(orders.begin());
        return orders;
    }
    Counters counters() const override { return m_counters; }
    const std::vector<Quantity>& quantities() const override { return m_quantities; }
    std::vector<Axis> axes() const override;
    void sample(int cell, const Point& xi, double* values) const override;
    std::vector<double> indicator(bool allDrives) const override;
    std::vector<double> dualIndicator(const LocalFunctional&) override { return indicator(false); }
    double geometryError() const override;
    std::vector<SingularCorner> singularCorners() const override
    {
        return corners(m_problem, m_mesh, m_partition);
    }
    [[nodiscard]] const ElasticProblem& problem() const { return m_problem; }

    using Complex = std::complex<double>;
    /// Which of the solved states: the steady one (0), a mode (its number from 0), or a frequency.
    struct State
    {
        int mode = 0;
        double frequency = 0;  ///< Hz
    };
    /// Displacement, m; of a mode for 1 um at most.
    [[nodiscard]] std::array<Complex, 2> displacement(int order, const State& state, int cell,
                                                      const Point& xi) const;
    [[nodiscard]] Complex potential(int order, const State& state, int cell, const Point& xi) const;
    /// xx, yy, zz, xy, Pa.
    [[nodiscard]] Eigen::Vector4cd stress(int order, const State& state, int cell,
                                          const Point& xi) const;
    /// Equivalent stress (von Mises) of the peak values, Pa.
    [[nodiscard]] double equivalentStress(int order, const State& state, int cell,
                                          const Point& xi) const;
    [[nodiscard]] Extreme largestStress(int order, const State& state,
                                        const std::vector<int>& pieces) const;
    /// Charge on an electrode, C, whole device.
    [[nodiscard]] Complex charge(int order, const State& state, int electrode) const;
    /// Current into an electrode over its voltage, all others that are given at zero, S, whole.
    [[nodiscard]] Complex admittance(int order, double frequency, int electrode) const;
    /// Its resonances in the band that couple at all, rising.
    [[nodiscard]] const std::vector<ElectricalResonance>& resonances(int order,
                                                                     int electrode) const;
    [[nodiscard]] double modeFrequency(int order, int mode) const;
    /// Of a mode, by the losses of media; without end where there are none.
    [[nodiscard]] double modeQuality(int order, int mode) const;
    [[nodiscard]] int modeCount() const;
    /// Rigid motions at 0 Hz, which are no vibrations.
    [[nodiscard]] int rigidMotions() const;
    /// The frequency that is looked at, Hz.
    [[nodiscard]] double shownFrequency() const { return m_shown; }
    [[nodiscard]] const fem::BandResponse& response(int order) const;

    /// Power at a frequency: put in by electrodes and loads, and lost in media, W, whole.
    struct Powers
    {
        double in = 0, lost = 0;
    };
    [[nodiscard]] Powers powers(double frequency) const;
    /// Corners where stress or field have no limit.
    [[nodiscard]] static std::vector<SingularCorner> corners(const ElasticProblem& problem,
                                                             const mesh::Mesh& mesh,
                                                             const shape::Partition& partition);

private:
    struct Fields
    {
        State state;
        std::vector<double> real[ElasticProblem::count], imaginary[ElasticProblem::count];
        std::vector<Complex> x;
    };
    struct Solved
    {
        int order = 0;
        fem::SymmetricFamily family;  ///< stiffness, loss, mass
        std::vector<double> steady;
        fem::EigenPairs modes;
        int rigid = 0;
        std::unique_ptr<fem::BandResponse> response;
        std::map<int, std::vector<ElectricalResonance>> resonances;  ///< by electrode
        std::vector<std::unique_ptr<Fields>> fields;                 ///< as they are asked for
    };
    [[nodiscard]] Solved& solved(int order) const;
    [[nodiscard]] const Fields& fields(int order, const State& state) const;
    [[nodiscard]] State shownState() const;
    void solveSteady(Solved& s) const;
    void solveModes(Solved& s, base::Progress& progress) const;
    void solveBand(Solved& s, base::Progress& progress) const;
    using AddForce = std::function<void(int cell, const Point& xi, const Point& force)>;
    /// A load by volume: at all points of cells that move.
    void onCells(const ElasticProblem::Load& load, int degree, const AddForce& add) const;
    /// Real and imaginary parts as coefficients of all functions.
    void split(int order, Fields& f) const;
    /// The states that refinement looks at.
    [[nodiscard]] std::vector<State> judgedStates() const;
    /// Adds the energy of what the highest order adds, by cell; returns that of all.
    double addedEnergy(int p, const Fields& f, std::vector<double>& own) const;
    [[nodiscard]] std::vector<double> loadVector(int order) const;
    [[nodiscard]] Eigen::VectorXcd inputs(int order) const;
    void chooseShown();
    [[nodiscard]] std::vector<ElectricalResonance> findResonances(int order, int electrode) const;
    void refuseFreeMotion() const;
    /// How many rigid motions nothing holds, over all bodies that hang together.
    [[nodiscard]] int freeMotions() const;
    [[nodiscard]] double energyDensity(const Fields& f, int order, int cell, const Point& xi) const;
    void nameQuantities();
    [[nodiscard]] Eigen::Matrix<Complex, 6, 1> strains(const Fields& f, int order, int cell,
                                                       const Point& xi) const;

    const ElasticProblem& m_problem;
    const mesh::Mesh& m_mesh;
    const shape::Partition& m_partition;
    fem::H1Space m_space;
    fem::BlockSpace m_block;
    fem::ElementMatrices m_stiffness, m_loss, m_mass;
    mutable fem::ElementMatrices m_energy;  ///< on first use
    mutable std::vector<Solved> m_solved;
    std::vector<Quantity> m_quantities;
    Counters m_counters;
    bool m_hasCorners = false;
    double m_shown = 0;
};

}  // namespace yh::physics
