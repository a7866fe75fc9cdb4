// Elastic bodies that electrodes pull: large displacements u, and a field in the gaps that move
// with them.
//
//   Pi(u, psi) = W(F) - load . u + V^2 Pi_e,   F = 1 + grad u,
//   Pi_e = - 1/2 eps J |F^-T grad psi|^2   (the potential is V psi)
//
// Equilibria are followed along the path on which the voltage rises and, past a fold, falls again.
// Sources: Bonet and Wood, Nonlinear Continuum Mechanics for Finite Element Analysis, 2nd ed.,
// sections 4 and 6 (St. Venant and Kirchhoff's material); Riks, Int. J. Solids Struct. 15 (1979)
// 529 (both from memory). In the plane and in solids.
#pragma once

#include "fem/kept_lu.h"
#include "physics/elastic/elastic.h"

#include <array>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <vector>

namespace yh::physics {

struct ActuatorProblem
{
    std::unique_ptr<ElasticProblem> elastic;
    int driven = -1;            ///< electrode whose voltage is raised; others go with it
    double most = 0;            ///< V, how far
    std::vector<char> gap;      ///< by piece: moves with the bodies, without stiffness of its own
    std::vector<char> held[3];  ///< by side: of bodies and of gaps
    struct Stop
    {
        double distance = 0;  ///< m, left before the sides
        std::vector<int> sides;
    };
    std::optional<Stop> stop;
    double highest = 0;  ///< V, of all at which something is asked
};

[[nodiscard]] std::unique_ptr<ActuatorProblem> defineActuator(const sheet::Model& model,
                                                              const shape::Partition& partition,
                                                              base::Faults& faults);

class ActuatorSolver : public Solution
{
public:
    ActuatorSolver(const ActuatorProblem& problem, const mesh::Mesh& mesh,
                   const shape::Partition& partition, int order, base::Progress& progress);
    void solve(int lowestOrder, base::Progress& progress) override;
    const mesh::Mesh& mesh() const override { return m_mesh; }
    int order() const override { return m_space.order(); }
    /// Of second order, on two meshes at least: elements of first order are too stiff in bending to
    /// tell what the second misses, and a path of third order costs more than a finer mesh.
    std::vector<int> estimates() const override { return {order()}; }
    Counters counters() const override { return m_counters; }
    const std::vector<Quantity>& quantities() const override { return m_quantities; }
    void sample(int cell, const Point& xi, double* values) const override;
    std::vector<double> indicator(bool) const override;
    std::vector<double> dualIndicator(const LocalFunctional&) override { return indicator(false); }
    double geometryError() const override { return 0; }
    std::vector<SingularCorner> singularCorners() const override
    {
        return ElasticSolver::corners(*m_problem.elastic, m_mesh, m_partition);
    }
    [[nodiscard]] const ActuatorProblem& problem() const { return m_problem; }

    /// An equilibrium.
    struct State
    {
        double square = 0;      ///< V^2
        std::vector<double> x;  ///< displacements and psi, by place
        double slope = 1;       ///< of the square along the path: its sign tells which way it runs
    };
    struct Path
    {
        std::vector<State> points;
        int fold = -1, release = -1;  ///< places among them; -1: not met
    };
    [[nodiscard]] const Path& path(int order) const { return solved(order).path; }
    /// V at which the rising voltage loses its equilibrium; nothing: none up to the highest.
    [[nodiscard]] std::optional<double> pullIn(int order) const;
    /// V at which the falling one lets go of the stop.
    [[nodiscard]] std::optional<double> release(int order) const;
    /// What the softness of the stop leaves open of it, V.
    [[nodiscard]] double releaseBlur(int order) const;
    /// The equilibrium that a voltage rising from zero comes to.
    [[nodiscard]] const State& under(int order, double voltage) const;
    [[nodiscard]] Point displacement(int order, const State& s, int cell, const Point& xi) const;
    /// F, whole device: charge of the driven electrode over its voltage.
    [[nodiscard]] double capacitance(int order, const State& s) const;
    /// The place that moves most, and how far it has moved, m.
    [[nodiscard]] double travel(int order, const State& s) const;
    [[nodiscard]] Point travelPlace() const;
    [[nodiscard]] double shownVoltage() const;

private:
    /// A place of a body that may come to lie on a stop.
    struct Touch
    {
        int cell = -1;
        Point xi, across;            ///< away from the stop
        double weight = 0, gap = 0;  ///< m or m^2; m, at rest
    };
    struct Solved
    {
        int order = 0;
        fem::SparseRows matrix;    ///< with a row and column for the square of the voltage
        std::vector<int> slot;     ///< of each cell's entries; shape (cells, local, local)
        std::vector<char> isBody;  ///< by place: a force balance, else the gap's own equation
        std::unique_ptr<fem::KeptLu> kept;
        int control = -1;               ///< place of the displacement that leads the path
        double length = 1, square = 1;  ///< scales of displacements and of V^2
        std::vector<double> start;      ///< at V = 0
        Path path;
        mutable std::vector<std::pair<double, State>> known;
        std::vector<Touch> touches;
    };
    struct Cut
    {
        double a = 0, b = 0, r = 0;  ///< a x[control] + b square = r
    };
    [[nodiscard]] Solved& solved(int order) const;
    void prepare(Solved& s) const;
    [[nodiscard]] int potential() const { return m_mesh.dimension; }  ///< which component it is
    [[nodiscard]] int components() const { return m_mesh.dimension + 1; }
    /// Place of a function of a cell among the unknowns; -1: none.
    [[nodiscard]] static int placeOf(const fem::BlockSpace::Layout& layout, int cell, int function);
    struct CellTerms
    {
        std::vector<int> place;
        std::vector<double> matrix, residual, bySquare;
    };
    /// @returns false: the cell has turned over
    template <int D>
    bool cellTerms(const Solved& s, const State& at, int cell, CellTerms& out) const;
    template <int D>
    void assembleCells(Solved& s, const State& at, std::vector<double>& residual,
                       std::vector<double>& bySquare) const;
    /// Between two equilibria of a path, by the square of the voltage.
    [[nodiscard]] static State between(const State& a, const State& b, double square);
    /// A unit vector across a stop, towards the gap.
    [[nodiscard]] Point towardsGap(const shape::Side& wall, const Point& a, Point across) const;
    [[nodiscard]] std::vector<Touch> touches(int order) const;
    /// Distance left before the stop at one of its places, m.
    [[nodiscard]] double gapAt(const Solved& s, const State& at, const Touch& touch) const;
    /// Of a stop: the part of its distance over which it begins.
    static constexpr double softness = 0.01;
    struct Seen
    {
        double J = 1;
        Point e;  ///< grad psi in the moved shape, 1/m
    };
    [[nodiscard]] std::array<std::vector<double>, 4> fieldsOf(const Solved& s,
                                                              const State& at) const;
    [[nodiscard]] Seen seen(const std::array<std::vector<double>, 4>& fields, int order, int cell,
                            const Point& xi) const;
    /// Residual and tangent; the last row holds the path at one place.
    void assemble(Solved& s, const State& at, const Cut& cut, std::vector<double>& residual) const;
    void contact(Solved& s, const State& at, std::vector<double>& residual,
                 std::vector<double>& value) const;
    /// Solves with the tangent, by factors of an earlier one as long as they serve.
    void solveChanged(Solved& s, std::vector<double>& r, double tolerance) const;
    /// Newton's method.
    /// @returns how many steps; 0: it did not converge
    int newton(Solved& s, State& at, const Cut& cut) const;
    /// Direction of the path at an equilibrium, of length 1 in scaled terms: that of x[control], of
    /// the square, and of all.
    void direction(Solved& s, const State& at, std::vector<double>& along) const;
    /// Of the voltage by the travel where the falling one meets the stop, V/m.
    [[nodiscard]] double releaseSlope(int order) const;
    /// Distance left before the stop at the place that comes nearest, m.
    [[nodiscard]] double nearestToStop(Solved& s, const State& at) const;
    /// The equilibrium on the stop at the voltage of one on the way to it.
    /// @param[out] on  the direction in which the voltage rises from there
    [[nodiscard]] bool land(Solved& s, const State& last, double step,
                            const std::vector<double>& along, State& next,
                            std::vector<double>& on) const;
    void follow(Solved& s, base::Progress& progress, double from, double to);
    [[nodiscard]] State turning(Solved& s, const State& before, const State& after) const;
    [[nodiscard]] std::vector<double> component(const Solved& s, int which, const State& at) const;

    const ActuatorProblem& m_problem;
    const mesh::Mesh& m_mesh;
    const shape::Partition& m_partition;
    fem::H1Space m_space;
    fem::BlockSpace m_block;
    mutable std::vector<std::unique_ptr<Solved>> m_solved;
    std::vector<Quantity> m_quantities;
    Counters m_counters;
    mutable Counters m_work;
    /// What is drawn, made once.
    mutable std::once_flag m_once;
    mutable std::array<std::vector<double>, 4> m_fields;
    mutable double m_shown = 0;
};

}  // namespace yh::physics
