// Magnetic field of currents and magnets, with steel that saturates and with conductors that move
// past them or see them alternate; plane and round an axis, and, at rest, in solids (solid.h).
//
//   curl H = J,   B = curl A,   H = H(B)
//
// Plane problems have A along the depth: B = (dA/dy, -dA/dx). Round an axis A goes round it, and
// the unknown is w = A / r, which is smooth at the axis: B_r = -r dw/dz, B_z = 2 w + r dw/dr. For
// every test function v, with B(v) the flux density that v would have,
//
//   integral of H . B(v) = integral of J v   (round an axis J r v)
//
// H(B) is the slope of the energy by volume: linear media, steel along a curve by the size of B,
// magnets along their direction by remanence and recoil permeability or by a curve, across it by
// the recoil permeability. Open space is a shell in which the distance from the centre is mapped so
// that 1/r becomes linear; round an axis the unknown there is A over the shell's own radius.
// An odd plane of symmetry (an electric wall) has opposite A on both sides: no flux crosses it.
// Behind an even one (a magnetic wall) A is the same, and flux crosses at right angles.
//
// Conductors that move evenly at v past the sources, endless along their way, and fields that
// alternate with peak values A exp(j omega t) carry
//
//   J = sigma (v x B - dA/dt)
//
// along the depth or round the axis. In the plane a voltage by length belongs to each conductor, so
// that its currents come back in itself. What alternates has a real and an imaginary part, two
// fields that act on each other in linear media.
// Source: Jackson, Classical Electrodynamics, 3rd ed., sections 5.8 to 5.12 and 5.16 (from memory).
// Not covered: hysteresis, massive conductors with a given current.
#pragma once

#include "physics/common/body_force.h"
#include "physics/common/functional.h"
#include "physics/common/study.h"
#include "physics/magnetic/curve.h"

#include <array>
#include <complex>
#include <memory>
#include <optional>

namespace yh::physics {

struct MagneticMedium
{
    double mu = 0;  ///< H/m; of a magnet: recoil, and across its direction; 0: not known
    std::shared_ptr<const MagneticCurve> curve;  ///< of steel, or of a magnet along its direction
    Point along;                ///< direction of a magnet, length 1; zero: no magnet
    double remanence = 0;       ///< T
    double currentDensity = 0;  ///< A/m^2, along the depth or round the axis
    double sigma = 0;           ///< S/m, where currents are induced; else 0
    bool moves = false;
    double driven = 0;  ///< V/m along the depth that keep a conductor's net current zero
    std::string material;
    bool isFarShell = false;
    [[nodiscard]] bool isMagnet() const { return dot(along, along) > 0; }
};

/// A coil of turns in series.
struct Coil
{
    std::string name;
    int line = -1;
    double turns = 1, current = 0;  ///< A, in each turn
    std::vector<int> pieces, back;  ///< where its current comes towards the viewer, and goes back
    double area = 0, areaBack = 0;  ///< m^2, whole, also of what a plane cuts away
    Point about;                    ///< solids: it turns right-handed about this, length 1
    double share = 1;               ///< of the scale of figures: what is not an image's
    [[nodiscard]] bool isImage() const { return pieces.empty() && back.empty(); }
};

class MagneticProblem : public fem::CoupledModel
{
public:
    fem::Measure area = fem::Measure::plane;
    bool isSolid = false;
    double scale = 1.0;  ///< depth times the number of mirror images
    std::array<bool, 3> mirror{}, odd{};
    std::vector<MagneticMedium> media;  ///< by piece
    std::vector<int> activePieces;
    std::vector<Coil> coils;
    bool hasImageCoils = false;
    std::vector<fem::Group> groupList;  ///< where A is zero
    /// By side of the partition: A is zero on it; in solids H has no part along it.
    std::vector<char> held;
    double omega = 0;  ///< 1/s; 0: nothing alternates
    Point way;         ///< direction in which conductors move; zero: none does
    double speed = 0;  ///< m/s
    /// Pieces of each conductor of the plane that carries no net current, as one that ends in the
    /// open; round an axis each turn closes in itself.
    std::vector<std::vector<int>> isolated;
    shape::OpenShell shell;

    [[nodiscard]] bool isAxisymmetric() const { return area == fem::Measure::axisymmetric; }
    [[nodiscard]] int coilOf(const std::string& name) const;  ///< -1: none

    [[nodiscard]] bool alternates() const { return omega > 0; }
    [[nodiscard]] bool moves() const { return dot(way, way) > 0; }

    int fieldCount() const override { return alternates() ? 2 : 1; }
    bool isOneComplexField() const override { return alternates(); }
    fem::Measure measure() const override { return area; }
    bool active(int, int piece) const override { return media[size_t(piece)].mu > 0; }
    const std::vector<fem::Group>& groups() const override { return groupList; }
    void terms(const fem::PointState& state, fem::PointTerms& terms) const override;
    bool hasTerms(int) const override { return false; }
    bool carries(int, int) const override { return false; }
    void sideTerms(int, const fem::PointState&, fem::PointTerms&) const override {}
    double start(int) const override { return 0; }
    bool scalesWithDrive(int) const override { return true; }
    bool isLinear() const override;
    bool isSymmetric() const override { return !alternates() && !moves(); }

    /// How the mapped shell is drawn; of length 1 everywhere else.
    [[nodiscard]] shape::OpenShell::Stretch stretchAt(int piece, const Point& p) const
    {
        return media[size_t(piece)].isFarShell ? shell.stretchAt(p) : shape::OpenShell::Stretch{};
    }
    /// Volume of real space over that drawn.
    [[nodiscard]] double contentOf(const shape::OpenShell::Stretch& s) const
    {
        return s.along * s.across * (isAxisymmetric() || isSolid ? s.across : 1.0);
    }
    /// Flux density at a place from the unknown and its gradient.
    [[nodiscard]] Point fluxDensity(const shape::OpenShell::Stretch& stretch, const Point& p,
                                    double u, Point grad) const;
    /// H at a flux density.
    /// @param drive  share of what magnets set up
    [[nodiscard]] Point field(int piece, const Point& B, double drive = 1) const;
    /// Energy by volume, J/m^3, from the state without field.
    [[nodiscard]] double energy(int piece, const Point& B) const;
};

/// Reads media, magnets and coils from the sheet.
/// @param[out] faults  everything that is missing or wrong, each at its line
[[nodiscard]] std::unique_ptr<MagneticProblem> defineMagnetic(const sheet::Model& model,
                                                              const shape::Partition& partition,
                                                              base::Faults& faults);

/// A magnetic field on one mesh, whatever its unknowns are: figures that follow from B and H.
class MagneticField : public Solution
{
public:
    /// Problem, mesh and partition must outlive it.
    /// @param model  what is solved, where that is not the problem itself
    MagneticField(const MagneticProblem& problem, const mesh::Mesh& mesh,
                  const shape::Partition& partition, int order, base::Progress& progress,
                  std::unique_ptr<fem::CoupledModel> model = nullptr);
    void solve(int lowestOrder, base::Progress& progress) override;
    const mesh::Mesh& mesh() const override { return m_mesh; }
    int order() const override { return m_space.order(); }
    Counters counters() const override { return m_counters; }
    const std::vector<Quantity>& quantities() const override { return m_quantities; }
    std::vector<double> indicator(bool allDrives) const override;
    std::vector<double> dualIndicator(const LocalFunctional& functional) override;
    std::optional<Change> changeOf(const LocalFunctional& functional) override;
    double geometryError() const override;

    [[nodiscard]] const MagneticProblem& problem() const { return m_problem; }
    /// Real and imaginary part of what alternates, else one.
    [[nodiscard]] int parts() const { return m_problem.fieldCount(); }
    /// In T; of what alternates its real (0) or imaginary part (1).
    [[nodiscard]] virtual Point fluxDensity(int order, int cell, const Point& xi,
                                            int part = 0) const = 0;
    /// B in T and H in A/m at once.
    struct State
    {
        Point B, H;
    };
    [[nodiscard]] virtual State state(int order, int cell, const Point& xi, int part = 0) const = 0;
    /// The size of B or of H, that of both parts together.
    [[nodiscard]] double size(int order, int cell, const Point& xi, bool isH = false) const;
    /// What a part of B along a direction is as a functional of the unknown.
    [[nodiscard]] virtual LocalFunctional fluxAlong(const mesh::Locator::Hit& hit,
                                                    const Point& direction) const = 0;
    /// Flux linked with all turns of a coil, Wb, whole device.
    [[nodiscard]] virtual double linkage(int order, int coil) const = 0;
    /// By how much the flux linkage of each coil rises with the current in each, at this state, H;
    /// shape (coils, coils), whole device.
    [[nodiscard]] virtual std::vector<double> inductances(int order) const = 0;
    /// Energy from the state without field, and the integral of B over H, J, whole device.
    [[nodiscard]] double energy(int order) const;
    [[nodiscard]] double coenergy(int order) const;
    /// Integral of H . B, and what the currents put in: the sum of linkage times current, J.
    struct Balance
    {
        double field = 0, coils = 0;
    };
    [[nodiscard]] virtual Balance balance(int order) const;
    [[nodiscard]] double mean(int order, const std::vector<int>& pieces) const;
    [[nodiscard]] Extreme largest(int order, const std::vector<int>& pieces) const;
    [[nodiscard]] BodyForce forceByVirtualWork(int order, const std::vector<int>& pieces) const;
    [[nodiscard]] BodyForce forceBySurfaceStress(int order, const std::vector<int>& pieces) const;
    /// Size of the stress on the surface of a body, added up without regard to its direction, N.
    [[nodiscard]] double pull(int order, const std::vector<int>& pieces) const;
    /// Working points of a magnet along its direction, with the volume that has each.
    struct WorkingPoint
    {
        double H = 0, B = 0, volume = 0;
        Point at;
    };
    [[nodiscard]] std::vector<WorkingPoint> workingPoints(int order,
                                                          const std::vector<int>& pieces) const;
    /// By how much B goes beyond the end of a curve at most, T, and in which share of which piece.
    struct Beyond
    {
        double by = 0;
        int piece = -1;
        double share = 0;
    };
    [[nodiscard]] Beyond beyondCurves() const;

protected:
    [[nodiscard]] Point stress(int order, int cell, const Point& xi, const Point& n) const;
    /// Whether nothing in a piece bears force.
    [[nodiscard]] bool isPlain(int piece) const;
    [[nodiscard]] const std::vector<double>& shiftOf(const std::vector<int>& pieces) const;
    /// Visits all quadrature points of active cells, with the volume of real space, whole device.
    using Visit = std::function<void(int cell, const Point& xi, const Point& at, double volume)>;
    /// @param pieces  by piece of the partition: whether it counts; empty: all do
    void overCells(int order, const Visit& visit, const std::vector<char>& pieces = {}) const;

    using Values = fem::CoupledSolver::Values;
    struct Solved
    {
        int order = 0;
        Values u;
        std::vector<std::complex<double>> driven;  ///< V/m, by isolated conductor
        std::vector<Values> unit;  ///< what one ampere more in each coil adds; on first use
    };
    /// The state of an order from a guess.
    virtual Solved solvedAt(int order, Values guess, fem::NewtonReport& report);
    /// Derivative of a functional at the state by each coefficient of an order.
    [[nodiscard]] virtual Values derivativeBy(const LocalFunctional& functional, int order) const;
    [[nodiscard]] virtual const Solved& solved(int order) const;
    [[nodiscard]] const Values& at(int order) const { return solved(order).u; }
    /// Right-hand side of one ampere more in a coil, at this state.
    [[nodiscard]] virtual Values sourceOf(int order, int coil) const = 0;
    [[nodiscard]] const std::vector<Values>& unitFields(int order) const;
    /// Lets what one ampere adds hold what else must hold.
    virtual void complete(int order, Values& unit) const
    {
        static_cast<void>(order);
        static_cast<void>(unit);
    }

    MagneticProblem m_problem;  ///< drawings: with the windings as the mesh has them
    const mesh::Mesh& m_mesh;
    const shape::Partition& m_partition;
    std::unique_ptr<const fem::CoupledModel> m_model;
    fem::H1Space m_space;
    mutable fem::CoupledSolver m_coupled;
    mutable std::vector<Solved> m_solved;
    mutable KnownForces m_forces;
    std::vector<Quantity> m_quantities;
    Counters m_counters;

private:
    /// Whether there are elements of the next order.
    [[nodiscard]] bool hasNext() const;
    const fem::CoupledSolver::Surplus& weighted(const LocalFunctional& functional);
    struct Weighted
    {
        LocalFunctional functional;
        fem::CoupledSolver::Surplus surplus;
    };
    std::vector<Weighted> m_weighted;
};

/// The field of drawings.
class MagneticSolver : public MagneticField
{
public:
    /// Problem, mesh and partition must outlive it.
    MagneticSolver(const MagneticProblem& problem, const mesh::Mesh& mesh,
                   const shape::Partition& partition, int order, base::Progress& progress);
    void solve(int lowestOrder, base::Progress& progress) override;
    void sample(int cell, const Point& xi, double* values) const override;
    std::vector<SingularCorner> singularCorners() const override;

    [[nodiscard]] Point fluxDensity(int order, int cell, const Point& xi,
                                    int part = 0) const override;
    State state(int order, int cell, const Point& xi, int part) const override;
    /// A in Wb/m.
    [[nodiscard]] double potential(int order, int cell, const Point& xi, int part = 0) const;
    /// Induced current density, A/m^2, with its sign where nothing alternates, else its peak.
    [[nodiscard]] double inducedCurrent(int order, int cell, const Point& xi) const;
    /// Heat of induced currents by volume, in the mean, W/m^3.
    [[nodiscard]] double lossDensity(int order, int cell, const Point& xi) const;
    /// Power that induced currents turn into heat in pieces, in the mean, W, whole device.
    [[nodiscard]] double loss(int order, const std::vector<int>& pieces) const;
    /// Force that moving conductors and sources brake each other with, N, from the power that the
    /// motion takes, at any speed, m/s.
    [[nodiscard]] double drag(int order, double speed);
    /// Speed at which the drag is a force; solved anew at each that is tried.
    /// @throws Error: it is never that large
    [[nodiscard]] double speedOf(int order, double force);
    LocalFunctional fluxAlong(const mesh::Locator::Hit& hit, const Point& direction) const override;
    double linkage(int order, int coil) const override;
    std::vector<double> inductances(int order) const override;
    /// Resistances that induced currents bring into the coils, ohm; the same shape.
    [[nodiscard]] std::vector<double> resistances(int order) const;
    Balance balance(int order) const override;

private:
    /// Derivative of the flux linkage of a coil by each coefficient, of the modelled part.
    [[nodiscard]] Values linkageOf(int order, int coil) const;
    Values sourceOf(int order, int coil) const override { return linkageOf(order, coil); }
    /// Linkages by the currents: part 0 in phase with them, part 1 a quarter behind.
    [[nodiscard]] std::vector<double> linked(int order, int part) const;
    [[nodiscard]] double induced(int order, int cell, const Point& xi, int part) const;
    /// The state at the speed of the problem, with no net current in isolated conductors.
    Solved solvedAt(int order, Values guess, fem::NewtonReport& report) override;
    void complete(int order, Values& unit) const override;
    const Solved& solved(int order) const override;
    /// The load of one volt by length along a conductor; returns its conductance.
    double loadAlong(int conductor, int order, std::vector<double>& load) const;
    /// Adds to fields the voltages that keep net currents zero. @returns these, V/m
    std::vector<std::complex<double>> isolate(int order, Values& u) const;
    /// Net current of a conductor that fields induce, A, of the modelled part.
    /// @param driven  V/m, what the terms hold as its own voltage
    [[nodiscard]] std::complex<double> netCurrent(int order, const Values& u, int conductor,
                                                  double driven) const;
    std::vector<int> m_conductorOf;              ///< by piece: isolated conductor, or -1
    const Solved* m_look = nullptr;              ///< looked at in place of what was solved
    double m_found = 0;                          ///< m/s, where a search for a speed ended last
    std::vector<std::array<double, 3>> m_drags;  ///< known already: order, speed, force
    void nameQuantities();
};

}  // namespace yh::physics
