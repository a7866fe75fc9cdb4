// One or two scalar fields that act on each other, on region sets of their own, by Newton's method
// with exact tangents.
//
// For every test function w of field f, over cells and sides:
//
//   integral of (flux_f . grad w + source_f w + (storage_f - storage_f(before)) / dt w)
//     + integral over sides of (flux_f . grad w + source_f w) = 0
//
// with flux, source and storage any functions of the fields, their gradients and the place. A
// group of sides or pieces has one value of a field in common: given, or set free by a given flow
// out of it into the device. What flows out of a group is the sum of the residuals of its
// functions, which balances with the rest to rounding. Where a film lies before a group, its sides
// keep values of their own, and what flows is the difference over the film's resistance.
#pragma once

#include "base/progress.h"
#include "fem/assembly.h"
#include "fem/dual.h"
#include "fem/lu.h"

#include <memory>
#include <string>
#include <vector>

namespace yh::fem {

inline constexpr int mostFields = 2;
/// Degree of quadrature for smooth nonlinear terms in cells.
[[nodiscard]] constexpr int termDegree(int dimension, int order)
{
    return dimension == 2 ? 2 * order + 2 : 2 * order - 1;
}
/// Variables: the values, then the gradients.
using Local = Dual<mostFields * 4>;

/// A place in the mesh.
struct Spot
{
    Point at;
    int order = 0, cell = -1;  ///< the order that is being solved
    Point xi;                  ///< reference coordinates in the cell
    Point normal;              ///< on sides, of length 1
    double time = 0.0;         ///< s
};

struct PointState : Spot
{
    Local u[mostFields];
    Local grad[mostFields][3];  ///< 1/m
    int piece = -1;
    double drive = 1.0;  ///< share of the drives, for continuation
};

struct PointTerms
{
    Local flux[mostFields][3];
    Local source[mostFields];
    Local storage[mostFields];
};

struct Group
{
    int field = 0;
    std::vector<int> sides, pieces;  ///< of the partition
    bool given = true;
    double value = 0.0;  ///< of the field, or the flow into the device where that is given
    double film = 0.0;   ///< resistance times area between it and its sides; 0: none
    /// Its value is an unknown of its own, that of no function.
    [[nodiscard]] bool hasOwnValue() const { return film > 0 && !given; }
};

/// What physics gives: the terms at a point.
class CoupledModel
{
public:
    virtual ~CoupledModel() = default;
    [[nodiscard]] virtual int fieldCount() const = 0;
    [[nodiscard]] virtual Measure measure() const = 0;
    [[nodiscard]] virtual bool active(int field, int piece) const = 0;
    [[nodiscard]] virtual const std::vector<Group>& groups() const = 0;
    virtual void terms(const PointState& state, PointTerms& terms) const = 0;
    /// What is stored at a point; only transients ask for it.
    virtual void storage(const PointState& state, PointTerms& terms) const
    {
        static_cast<void>(state);
        static_cast<void>(terms);
    }
    /// Whether a side of the partition carries terms of its own.
    [[nodiscard]] virtual bool hasTerms(int side) const = 0;
    /// Sides that carry a field even where no active piece touches them (thin sheets).
    [[nodiscard]] virtual bool carries(int field, int side) const = 0;
    virtual void sideStorage(int side, const PointState& state, PointTerms& terms) const
    {
        static_cast<void>(side);
        static_cast<void>(state);
        static_cast<void>(terms);
    }
    /// Gradients are those along the side.
    virtual void sideTerms(int side, const PointState& state, PointTerms& terms) const = 0;
    /// Flow by area and difference of a field across a side at which the mesh is cut.
    [[nodiscard]] virtual double jump(int field, int side) const
    {
        static_cast<void>(field);
        static_cast<void>(side);
        return 0;
    }
    /// Whether the flow of field 0 across a cut, times its jump, is a source of field 1.
    [[nodiscard]] virtual bool jumpHeats(int side) const
    {
        static_cast<void>(side);
        return false;
    }
    /// Value to start from, where nothing is known.
    [[nodiscard]] virtual double start(int field) const = 0;
    /// Continuation scales the flows and values of groups of this field.
    [[nodiscard]] virtual bool scalesWithDrive(int field) const = 0;
    /// Whether the two fields are the parts of a complex one, of which neither is the greater.
    [[nodiscard]] virtual bool isOneComplexField() const { return false; }
    /// Whether residuals are linear in the fields: one correction then solves a stage.
    [[nodiscard]] virtual bool isLinear() const { return false; }
    /// Whether they are in a piece, steady and with sources that scale with the drive: its cells
    /// are then worked out once.
    [[nodiscard]] virtual bool isLinearIn(int piece) const
    {
        static_cast<void>(piece);
        return false;
    }
    /// Whether tangents of steady states are symmetric and positive, those of an energy.
    [[nodiscard]] virtual bool isSymmetric() const { return false; }
    /// Drives are constant within a segment of time.
    [[nodiscard]] virtual int segmentAt(double time) const
    {
        static_cast<void>(time);
        return 0;
    }
    /// Whether sources change within such a segment all the same.
    [[nodiscard]] virtual bool drifts() const { return false; }
    /// Share of a group's value or flow at a time (pulses).
    [[nodiscard]] virtual double shareAt(int group, double time) const
    {
        static_cast<void>(group);
        static_cast<void>(time);
        return 1.0;
    }
};

struct NewtonReport
{
    int iterations = 0, unknowns = 0;
    double residual = 0;  ///< of the flows, relative
    double assembleSeconds = 0, solveSeconds = 0;
    bool iterative = false;
};

class CoupledSolver
{
public:
    /// All must outlive the solver.
    CoupledSolver(const CoupledModel& model, const H1Space& space, base::Progress& progress);

    /// Coefficients by field; shape (space.count(order)), then the values of groups apart.
    using Values = std::vector<std::vector<double>>;
    /// A start: every field at its starting value, given values in their places.
    [[nodiscard]] Values start(int order);
    /// The same function with more coefficients.
    [[nodiscard]] Values raised(const Values& low, int order) const;

    /// Steady state of an order, from a guess. Where Newton's method fails from there, the drives
    /// are raised in steps.
    /// @throws Error: no steady state was found, with the share of the drives that was reached;
    ///         a singular system
    NewtonReport solve(int order, Values& u);

    /// What the next order makes of a steady state: one correction, solved roughly.
    /// @returns coefficients of order + 1
    [[nodiscard]] Values ahead(int order, const Values& u);

    /// A stage of a step in time: the storage before it is a mean of those of one or two states,
    ///   storage(before) = (1 - weight) storage(first) + weight storage(second).
    struct Stage
    {
        const Values* first = nullptr;
        const Values* second = nullptr;
        double weight = 0, dt = 0, time = 0;
    };
    /// Solves a stage from the guess in u. The tangent of earlier stages serves as long as it
    /// brings u near quickly.
    /// @returns false: no solution was found; the step must be shorter
    bool stage(int order, Values& u, const Stage& stage, NewtonReport& report);

    /// Value of each group, and flow out of it into the device.
    struct GroupResult
    {
        double value = 0, flow = 0;
    };
    [[nodiscard]] std::vector<GroupResult> groupResults(int order, const Values& u,
                                                        const Stage& stage);
    [[nodiscard]] std::vector<GroupResult> groupResults(int order, const Values& u)
    {
        return groupResults(order, u, Stage());
    }

    /// Right-hand side from the derivative of a functional by each coefficient (as in Values),
    /// solved with the transposed tangent at u: the functional's own (dual) fields.
    /// @param tolerance  of iterations: errors are weighed by them, not added up
    [[nodiscard]] Values dual(int order, const Values& u, const Values& functional,
                              double tolerance = 1e-3);
    /// How all fields answer to a right-hand side (as in Values): the tangent at u, solved.
    [[nodiscard]] Values answer(int order, const Values& u, const Values& rhs);
    /// How all fields answer to one more unit of flow out of each of some groups whose flow is
    /// given: the tangent at u, solved.
    [[nodiscard]] std::vector<Values> responses(int order, const Values& u,
                                                const std::vector<int>& groups);
    /// What the next order makes of such answers.
    /// @param u  of the next order
    [[nodiscard]] std::vector<Values> responsesAhead(int order, const Values& u,
                                                     const std::vector<int>& groups,
                                                     const std::vector<Values>& low);
    /// Value of a group whose flow is given, among the fields.
    [[nodiscard]] double valueOf(int order, const Values& u, int group);
    /// What the functions of the next order would change in a functional.
    struct Surplus
    {
        double change = 0;  ///< of the functional
        /// What is not known because given values jump at corners of the mesh.
        double unsure = 0;
        std::vector<double> byCell;  ///< sizes of the parts; shape (cells)
    };
    /// Where two given values meet, the elements make a ramp of one edge's length; the functional
    /// of half the jump at that corner tells what that may matter. Every function of the next order
    /// is taken alone: its residual times that of the dual
    /// fields over its own entry of the tangent. Steady states only.
    /// Source: Bank and Smith, SIAM J. Numer. Anal. 30 (1993) 921, and Becker and Rannacher, Acta
    /// Numerica 10 (2001) 1 (both from memory).
    /// @param z           dual fields of the functional, of the same order as u
    /// @param functional  its derivative by each coefficient of the next order
    [[nodiscard]] Surplus surplus(int order, const Values& u, const Values& z,
                                  const Values& functional);
    /// Squares of what a field has in the highest order, by the tangent at u; shape (cells).
    [[nodiscard]] std::vector<double> shares(int order, const Values& u, int field);
    /// The same of any part of it, such as what one order changed.
    [[nodiscard]] std::vector<double> shares(int order, const Values& u,
                                             const std::vector<double>& part, int field);

    [[nodiscard]] int unknowns(int order);
    [[nodiscard]] const H1Space& space() const { return m_space; }
    [[nodiscard]] const CoupledModel& model() const { return m_model; }

private:
    struct Layout;
    class Newton;
    /// Of linear systems by iteration; looks at the next order leave a fiftieth of what it changes.
    static constexpr double exactly = 1e-11, inTime = 1e-7, roughly = 0.02;
    Layout& layout(int order);
    /// How many groups of a field have values of their own.
    [[nodiscard]] int ownValuesOf(int field) const;
    void number(Layout& l, int order);
    /// Which functions carry values, and which are held; sides and films with terms.
    /// @returns by field and function: whether it is held
    std::vector<std::vector<char>> sortOut(Layout& l, const H1Space& space, int order) const;
    void pattern(Layout& l, int order) const;
    void fixed(const Layout& l, double drive, double time, Values& u) const;
    /// Finds where the entries of each cell are in their rows.
    void findOffsets(Layout& l) const;
    /// Shares the cells out among threads.
    void share(Layout& l) const;
    /// Residual by unknown and by group; the tangent too, if asked.
    void assemble(Layout& l, int order, const Values& u, double drive, const Stage& time,
                  bool tangent);
    void findLinear(Layout& l) const;
    void cell(Layout& l, int order, int t, const Values& u, double drive, const Stage& time,
              double* residual, double* tangent, double* scale) const;
    /// Adds what a cell's functions have to the residual and to the flows of groups.
    /// @param[out] places  of the functions, field by field; shape (fields, local)
    void addResidual(Layout& l, int cell, const double* r, int* places,
                     std::vector<double>& groupFlow) const;
    void addTangent(Layout& l, int cell, const double* k, const int* places) const;
    /// Adds the flows across all pairs of facing sides.
    void addAcross(Layout& l, int order, const Values& u, bool tangent);
    /// Adds the flows across one pair of facing sides; two cells' functions, one after the other.
    void across(const Layout& l, int order, const std::array<int, 2>& pair, const Values& u,
                double* residual, double* tangent, double* scale) const;
    template <class Add>
    void visitCell(const Layout& l, int order, int t, const Values& u, double drive,
                   const Stage& time, Add add) const;
    template <class Add>
    void visitSide(const Layout& l, int order, int s, const Values& u, double drive,
                   const Stage& time, Add add) const;
    /// Adds the flows through films before groups.
    void films(Layout& l, int order, const Values& u, double drive, double time,
               bool tangent) const;
    /// The same of one side: a cell's functions and, last, the group's own value.
    /// @returns the cell
    int film(const Layout& l, int order, int index, const Values& u, double drive, double time,
             double* residual, double* tangent) const;
    /// What a group is given, at a share of the drives.
    [[nodiscard]] double givenTo(int group, double drive, double time) const
    {
        const Group& g = m_model.groups()[size_t(group)];
        return g.value * m_model.shareAt(group, time) *
               (m_model.scalesWithDrive(g.field) ? drive : 1.0);
    }
    /// Adds what cuts and films say about functions of the next order; see surplus().
    void addJoins(const Layout& l, const Values& u, const Values& z, int from,
                  std::vector<std::vector<double>>& field, std::vector<std::vector<double>>& dual,
                  std::vector<std::vector<double>>& own) const;
    void sideOf(const Layout& l, int order, int s, const Values& u, double drive, const Stage& time,
                double* residual, double* tangent, double* scale) const;
    /// Weights of the fields' equations against each other, for iterations.
    void weigh(Layout& l) const;
    double sizeOf(const Layout& l, const Values& u, const std::vector<double>& step) const;
    /// Coefficients by field from the values of the unknowns; zero where there is none.
    [[nodiscard]] Values coefficientsOf(const Layout& l, const std::vector<double>& x) const;
    void applyStep(const Layout& l, const std::vector<double>& step, double by, Values& u) const;
    /// @param isNear  whether the tangent hardly differs from the one factorised last
    double linearSolve(Layout& l, std::vector<double>& x, NewtonReport& report,
                       double tolerance = exactly, bool isNear = false);
    /// Solves by iteration with the factor of an earlier tangent.
    /// @returns false: there is none, or it takes too many steps; x is then as it was
    bool solveByEarlier(const Layout& l, std::vector<double>& x, double tolerance) const;
    /// Solves with what linearSolve() has prepared.
    void solveFactored(Layout& l, std::vector<double>& x, double tolerance) const;
    /// The lower triangle of the matrix for a stage: of K + M / dt of a linear model of one field,
    /// or of the tangent where dt is 0.
    void symmetricStage(Layout& l, double dt) const;
    /// Where rough solutions will do, iteration pays sooner.
    void iterateSooner(Layout& l) const;
    /// Factorises the tangent, where systems are not solved by iteration.
    void factorise(Layout& l) const;
    bool linearStage(Layout& l, int order, Values& u, const Stage& stage, NewtonReport& report);

    const CoupledModel& m_model;
    const H1Space& m_space;
    base::Progress& m_progress;
    int m_fields;
    std::vector<int> m_ranks;
    std::vector<std::shared_ptr<Layout>> m_layouts;
};

}  // namespace yh::fem
