// Electrostatic field of conductors, dielectrics and fixed charge.
//
//   div(eps grad V) = -rho,   E = -grad V,   D = eps E
//
// Plane problems are per depth and scaled by it; axisymmetric ones carry 2 pi r. A conductor is an
// equipotential with a given potential, a given charge, or floating (charge zero). What the field
// of a conductor set can do follows from one factorisation: with phi_k the potential for conductor
// k at 1 V and all others at 0, and u_rho that of the fixed charge with all at 0,
//
//   V = sum_k v_k phi_k + u_rho,   C_kl = a(phi_k, phi_l),   q_k = sum_l C_kl v_l - rho(phi_k),
//   a(u, w) = integral of eps grad u . grad w
//
// (Jackson, Classical Electrodynamics, 3rd ed., section 1.11, from memory). Open space is a shell
// in which the distance from the centre is mapped so that 1/r becomes linear: each multipole up to
// the element order is then met exactly. Not covered: moving charge, hysteresis, discharge.
#pragma once

#include "fem/potential_system.h"
#include "physics/common/body_force.h"
#include "physics/common/solution.h"
#include "sheet/model.h"

#include <array>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace yh::physics {

struct Conductor
{
    enum class Kind { voltage, charge, floating };
    std::string name;
    int line = -1;  ///< identity of its line, -1 for what was made by itself
    Kind kind = Kind::voltage;
    double value = 0.0;       ///< V or C (whole device)
    std::vector<int> pieces;  ///< regions it fills, left out of the field
    std::vector<int> sides;   ///< sides of the partition at its potential
    bool hidden = false;      ///< infinity round an axis, an odd mirror plane, the grounded edge
    bool image = false;       ///< lies wholly behind an odd mirror plane
    bool onPlane = false;     ///< an odd mirror plane cuts it
    /// Whether matrices name it: what floats does where it has a line of its own.
    [[nodiscard]] bool isListed() const { return !hidden && (kind != Kind::floating || line >= 0); }
};

/// Everything that the field needs, worked out from a sheet.
struct ElectrostaticProblem
{
    fem::Measure measure = fem::Measure::plane;
    double scale = 1.0;  ///< depth times the number of mirror images: figures are for the whole
    std::array<bool, 3> mirror{}, odd{};  ///< by axis: a plane x, y, z = 0, and its kind
    int wedges = 1;                       ///< equal wedges that make up the whole
    [[nodiscard]] bool isOdd() const { return odd[0] || odd[1] || odd[2]; }
    std::vector<int> activePieces;                          ///< pieces that carry field
    std::vector<fem::Coefficient> eps;                      ///< F/m, by piece of the partition
    std::vector<std::string> material;                      ///< by piece
    std::vector<std::function<double(Point)>> spaceCharge;  ///< C/m^3, by piece; empty: none
    struct SurfaceCharge
    {
        std::vector<int> sides;
        std::function<double(Point)> density;  ///< C/m^2
    };
    std::vector<SurfaceCharge> surfaceCharge;
    std::vector<Conductor> conductors;
    /// Rim of a plane open space: one free potential, since no net charge reaches infinity there.
    std::vector<int> tiedSides;
    /// The same with its odd planes taken as even; empty without odd planes. Both together give the
    /// capacitances of the whole device.
    std::shared_ptr<const ElectrostaticProblem> even;
    [[nodiscard]] bool hasFixedCharge() const;
    [[nodiscard]] int conductorOf(const std::string& name) const;  ///< -1: none
};

/// Reads materials, conductors and charges from the sheet.
/// @param[out] faults  everything that is missing or wrong, each at its line
[[nodiscard]] ElectrostaticProblem defineElectrostatic(const sheet::Model& model,
                                                       const shape::Partition& partition,
                                                       base::Faults& faults);

/// Potentials of one element order on one mesh.
struct Potentials
{
    int order = 0;
    std::vector<std::vector<double>> unit;  ///< phi_k; shape (conductors, functions)
    std::vector<double> fixedCharge;        ///< u_rho; empty without fixed charge
    std::vector<double> C;                  ///< F, whole device; shape (conductors, conductors)
    std::vector<double> charge0;            ///< C, charge with all potentials zero
    std::vector<double> voltage, charge;    ///< V, C; shape (conductors)
    std::vector<double> driven;             ///< V; shape (functions)
    double energy = 0.0;                    ///< J
    int unknowns = 0;
};

/// Solves on one mesh for all orders up to the wanted one.
class ElectrostaticSolver : public Solution
{
public:
    /// The problem, mesh and partition must outlive the solver.
    ElectrostaticSolver(const ElectrostaticProblem& problem, const mesh::Mesh& mesh,
                        const shape::Partition& partition, int order, base::Progress& progress);
    /// @throws Error: part of the device without fixed potential, singular system, no memory
    void solve(int lowestOrder, base::Progress& progress) override;

    [[nodiscard]] const fem::H1Space& space() const { return m_space; }
    [[nodiscard]] const mesh::Mesh& mesh() const override { return m_mesh; }
    [[nodiscard]] const ElectrostaticProblem& problem() const { return m_problem; }
    [[nodiscard]] int order() const override { return m_order; }
    /// Where the next order is looked at, no lower one is needed to tell the error.
    [[nodiscard]] std::vector<int> estimates() const override;
    [[nodiscard]] int nextOrder() const override { return m_looksAhead ? m_order + 1 : 0; }
    /// Potentials of an order between the lowest solved and order().
    [[nodiscard]] const Potentials& at(int order) const;
    [[nodiscard]] const Potentials& best() const { return at(order()); }
    /// The same mesh with the odd planes taken as even, solved on first use.
    [[nodiscard]] const ElectrostaticSolver& even() const;

    [[nodiscard]] double potential(int order, const mesh::Locator::Hit& hit) const;
    /// E in V/m; in the mapped shell minus the gradient in the drawing.
    [[nodiscard]] Point field(int order, int cell, const Point& xi) const;
    /// E in real space, everywhere.
    [[nodiscard]] Point realField(int order, int cell, const Point& xi) const;
    [[nodiscard]] bool isFarShell(int cell) const;
    [[nodiscard]] fem::Tensor permittivity(int cell, const Point& p) const;
    [[nodiscard]] const shape::Partition& partition() const { return m_partition; }

    struct Extreme
    {
        double value = 0.0;
        Point at;
        int cell = -1;
        Point xi;
    };
    /// Largest |E| over pieces, by samples refined around the strongest cells.
    [[nodiscard]] Extreme largestField(int order, const std::vector<int>& pieces) const;
    [[nodiscard]] double meanField(int order, const std::vector<int>& pieces) const;
    /// Energy of the driven field by quadrature of D . E / 2, J, whole device.
    [[nodiscard]] double fieldEnergy(int order) const;
    /// Charge of a conductor by the flux of D through its surface, C, whole device.
    [[nodiscard]] double surfaceFlux(int order, int conductor) const;

    /// Force on a body by virtual work and by the Maxwell stress on its surface.
    [[nodiscard]] BodyForce forceByVirtualWork(int order, const std::vector<int>& pieces) const;
    [[nodiscard]] BodyForce forceBySurfaceStress(int order, const std::vector<int>& pieces) const;
    [[nodiscard]] bool medium(const std::vector<int>& pieces, std::string& trouble) const;

    /// Energy of the highest-order part of the driven field and of every conductor's unit field,
    /// normalised by its whole energy, plus the energy between quadratic and exact borders.
    /// @param withUnits  the unit fields count too (capacitances are asked for)
    [[nodiscard]] std::vector<double> indicator(bool withUnits) const override;
    /// By pair of conductors, what the highest order of both unit fields adds to their capacitance,
    /// each cell's part without its sign, F; shape (conductors, conductors).
    [[nodiscard]] std::vector<double> uncancelledChanges() const;
    /// Share of the energy that lies between the quadratic and the exact borders.
    [[nodiscard]] double geometryError() const override;
    [[nodiscard]] double geometryErrorOfDrives(double ofField) const override;
    /// Share of a field's energy by cell.
    /// @param energy  of the device
    [[nodiscard]] std::vector<double> geometryShares(const std::vector<double>& field,
                                                     double energy) const;
    /// Indicator of a functional of V: the product of the highest-order parts of V and of the
    /// functional's own (dual) potential.
    [[nodiscard]] std::vector<double> dualIndicator(const LocalFunctional& functional) override;
    /// V, E, D, energy density.
    [[nodiscard]] const std::vector<Quantity>& quantities() const override;
    void sample(int cell, const Point& xi, double* values) const override;

    [[nodiscard]] std::vector<SingularCorner> singularCorners() const override;

    [[nodiscard]] Counters counters() const override { return m_counters; }

private:
    /// The driven field, and where they are wanted every conductor's unit field that figures use.
    struct OfDrive
    {
        const std::vector<double>*field, *below;  ///< by function; without what the next order adds
        double energy;                            ///< J, device
    };
    [[nodiscard]] static OfDrive unitOf(const Potentials& p, const Potentials* below, size_t k);
    [[nodiscard]] std::vector<OfDrive> fieldsOf(bool withUnits) const;
    /// What up to eight fields have in the highest order, by function of a cell, and its products
    /// with the cell's functions.
    struct HighestParts
    {
        fem::Wide x[fem::mostLocal], y[fem::mostLocal];
    };
    void highestParts(std::span<const OfDrive> fields, int cell, const int* number,
                      HighestParts& parts) const;
    /// Curved sides that matter, found once: every field of the mesh has its share there.
    [[nodiscard]] const std::vector<CurvedSide>& borders() const;
    mutable std::optional<std::vector<CurvedSide>> m_borders;
    mutable KnownForces m_forces;
    [[nodiscard]] const std::vector<double>& shiftOf(const std::vector<int>& pieces) const;
    [[nodiscard]] BodyForce scaled(const BodyForce& f) const;
    void constrain();
    [[nodiscard]] bool isMaterialBorder(int side) const;
    Potentials solveOrder(int order, base::Progress& progress);
    /// Conductors at 1 V, the rest zero.
    [[nodiscard]] Potentials lifted(int order) const;
    /// Charges, potentials and energy that follow from the fields of each drive.
    void complete(Potentials& p) const;
    /// The factor of a matrix, or what stands for it.
    std::unique_ptr<fem::PotentialSystem> factorised(int order, const fem::SparseSymmetric& K,
                                                     const fem::Numbering& numbering,
                                                     base::Progress& progress);
    /// The best fields with what the next order adds to them.
    [[nodiscard]] Potentials lookAhead(const base::Progress& progress);
    /// By function: whether it is solved for.
    [[nodiscard]] std::vector<char> freeFunctions(int order) const;
    [[nodiscard]] fem::SparseSymmetric matrixOf(int order, const fem::Numbering& numbering);
    /// A column of the unknowns' values, as coefficients of all functions.
    void scatter(const fem::Numbering& numbering, const double* own,
                 std::vector<double>& full) const;
    /// By each coefficient, of the driven field; shape (functions).
    [[nodiscard]] std::vector<double> derivativeBy(const LocalFunctional& functional) const;
    /// Coefficients of the dual solution of a functional, by unknown.
    [[nodiscard]] std::vector<double> dualOf(const LocalFunctional& functional) const;
    [[nodiscard]] fem::Numbering numberingOf(int order);
    /// Minus K times the lift of each conductor, and the load of fixed charge; shape (columns,
    /// unknowns).
    [[nodiscard]] std::vector<double> rightHandSides(int order, const Potentials& p,
                                                     const fem::Numbering& numbering) const;
    /// Capacitances, potentials and charges from the unit fields.
    void chargesOf(Potentials& p) const;
    /// Potentials, of conductors with given charge from C v = q - q0.
    void voltagesOf(Potentials& p) const;
    /// Sums of what pairs of fields have, for groups of eight and each behind them, as a symmetric
    /// matrix; shape (n, n).
    [[nodiscard]] static std::vector<double> pairsOf(
        const std::vector<std::vector<fem::Wide>>& partial, size_t n);
    /// Integrals of epsilon times both gradients of each pair of fields; shape (fields, fields).
    [[nodiscard]] std::vector<double> energyProducts(
        int order, const std::vector<const std::vector<double>*>& fields) const;

    const ElectrostaticProblem& m_problem;
    const mesh::Mesh& m_mesh;
    const shape::Partition& m_partition;
    int m_order;
    bool m_looksAhead;  ///< solids: what the next order changes is found beside the solution
    fem::H1Space m_space;
    fem::ElementMatrices m_elements;
    std::vector<int> m_conductorOfVertex;  ///< -1: free; shape (vertices)
    std::vector<char> m_fixedEdge;         ///< shape (edges)
    std::vector<char> m_fixedFace;         ///< shape (faces), solids
    std::vector<char> m_tiedVertex;        ///< shape (vertices)
    std::vector<double> m_load;            ///< rho(f_i); shape (functions of the highest order)
    std::vector<Potentials> m_potentials;
    std::vector<int> m_ranks;    ///< elimination ranks of the corners
    fem::Numbering m_numbering;  ///< of the highest order
    std::unique_ptr<fem::PotentialSystem> m_factor;
    mutable std::unique_ptr<ElectrostaticSolver> m_even;
    Counters m_counters;
};

/// Corners with an exponent below 1, for marking and for honest messages.
[[nodiscard]] std::vector<SingularCorner> findSingularCorners(const ElectrostaticProblem& problem,
                                                              const mesh::Mesh& mesh,
                                                              const shape::Partition& partition);

}  // namespace yh::physics
