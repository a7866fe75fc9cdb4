// Steady current and heat, alone or acting on each other, with thermoelectric effects.
//
//   div J = 0,         J = -sigma (grad V + alpha grad T)
//   div q = Q - d(rho c T)/dt,   q = alpha T J - k grad T,   Q = -J . grad V + given sources
//
// Heat leaves by convection h (T - T0) and radiation eps sigma_SB (T^4 - T0^4). A contact has one
// potential, given or set free by a given current; a film of specific resistance may lie before it.
// Thin sheets carry both along a side. The currents of all contacts and the heat of all ways out
// balance to rounding, since every flow is the sum of the residuals of its place.
// Sources: Carslaw and Jaeger, Conduction of Heat in Solids, 2nd ed., chapter 1; Landau, Lifshitz,
// Electrodynamics of Continuous Media, section 26 (both from memory).
// Not covered: radiation between faces that see each other, molten material that flows.
#pragma once

#include "physics/common/functional.h"
#include "sheet/model.h"

#include <map>
#include <memory>
#include <optional>

namespace yh::physics {

/// A property of a material as a function of place and temperature.
class Property
{
public:
    Property() = default;
    explicit Property(double constant) : m_constant(constant) {}
    /// Sampled over temperature with cubic pieces in between.
    static Property ofTemperature(const std::function<double(double)>& f);
    /// The integral of a function over temperature.
    static Property integral(const std::function<double(double)>& f);
    static Property ofPlace(std::function<double(Point)> f);
    [[nodiscard]] fem::Local at(const Point& p, const fem::Local& T) const;
    [[nodiscard]] double value(const Point& p, double T) const { return at(p, fem::Local(T)).v; }
    [[nodiscard]] bool isConstant() const { return !m_table && !m_place; }
    [[nodiscard]] bool isSet() const { return m_constant != 0 || m_table || m_place; }

private:
    double m_constant = 0;
    std::shared_ptr<const std::vector<double>> m_table;
    std::function<double(Point)> m_place;
};

/// Drives that last as long as the device is looked at.
inline constexpr double unending = 1e300;

/// Whether a drive that lasts until a time is on.
[[nodiscard]] inline bool isOn(double until, double time)
{
    return time <= until * (1 + 1e-12);
}
/// Stefan and Boltzmann's constant, W/(m^2 K^4), CODATA 2018.
inline constexpr double stefan = 5.670374419e-8;

struct Conduction
{
    Property sigma, k, seebeck;                        ///< S/m, W/(m K), V/K
    Property enthalpy;                                 ///< J/m^3 over the temperature
    double latent = 0, melting = 0, meltingRange = 0;  ///< J/m^3, K, K
    double limit = 0;                                  ///< K; 0: none known
    std::string material;
    bool heats = false, follows = false, thermoelectric = false;
    struct Source
    {
        std::function<double(const fem::Spot&)> density;  ///< W/m^3
        double until = unending;                          ///< s
    };
    std::vector<Source> sources;
    /// Exchange with what flows through, such as blood: W/(m^3 K), and its temperature in K.
    double perfusion = 0, perfusedBy = 0;
    [[nodiscard]] double sourceAt(const fem::Spot& spot, double time) const;
    [[nodiscard]] fem::Local stored(const Point& p, const fem::Local& T) const;
    /// Share of the latent heat that is taken up at a temperature.
    [[nodiscard]] fem::Local molten(const fem::Local& T) const;
};

/// What happens on one side of the partition.
struct SideCondition
{
    struct Exchange
    {
        int line = -1;
        double h = 0, emissivity = 0, surroundings = 0;  ///< W/(m^2 K), 1, K
    };
    std::vector<Exchange> exchange;
    struct Flux
    {
        int line = -1;
        std::function<double(const fem::Spot&)> into;  ///< W/m^2
        double until = unending;                       ///< s
    };
    std::vector<Flux> flux;
    struct Sheet
    {
        double thickness = 0;  ///< m
        Conduction what;
        int line = -1;
    };
    std::vector<Sheet> sheets;
    [[nodiscard]] bool empty() const { return exchange.empty() && flux.empty() && sheets.empty(); }
};

struct Contact
{
    std::string name;
    int line = -1;
    bool byCurrent = false;
    double value = 0;     ///< V or A (whole device)
    int group = -1;       ///< of the coupled problem; -1 behind an odd plane
    bool behind = false;  ///< lies behind an odd plane
    int mate = -1;        ///< the contact before the plane that it mirrors
};

struct HeldTemperature
{
    std::string name;
    int line = -1, group = -1;
    double value = 0;  ///< K
};

/// What happens over time, from one temperature everywhere.
struct Transient
{
    double duration = 0, start = 293.15;  ///< s, K
    std::vector<double> marks;  ///< times that steps must end at: ends of pulses, asked times
};

/// Everything that current and heat need, worked out from a sheet.
class TransportProblem : public fem::CoupledModel
{
public:
    fem::Measure area = fem::Measure::plane;
    double scale = 1.0;  ///< depth times the number of mirror images
    bool current = false, heat = false;
    int V = -1, T = -1;  ///< numbers of the unknowns; -1: not in this problem
    std::vector<Conduction> pieces;
    std::vector<char> conducts, warms;  ///< by piece: whether it takes part
    std::vector<int> activePieces;
    std::map<int, SideCondition> sides;
    /// Resistance between touching regions, by side of the partition.
    struct Joint
    {
        double conductance[2] = {0, 0};  ///< by field: S/m^2, W/(m^2 K)
        bool heats = false;
    };
    std::map<int, Joint> joints;
    std::vector<Contact> contacts;
    std::vector<HeldTemperature> held;
    std::vector<fem::Group> groupList;
    std::vector<double> groupUntil;  ///< s, by group
    std::optional<Transient> transient;
    /// Error of one step in time, relative to the largest change of temperature so far.
    double stepTolerance = 3e-4;
    int oddPlane = -1;          ///< group of the odd planes
    double coldest = 293.15;    ///< K, of all given temperatures: rises are counted from it
    double reference = 293.15;  ///< K, at which properties are taken where no T is solved for
    int mirrors = 0;
    std::array<bool, 3> odd{};    ///< planes about which the potential is odd
    double oddShare = 1.0;        ///< of the scale, for what lies on one side of an odd plane
    bool sourcesByOrder = false;  ///< sources are those of a field of the same element order
    bool sourcesDrift = false;    ///< sources change with the time between its marks

    [[nodiscard]] int contactOf(const std::string& name) const;
    /// Corners where J or q has no limit.
    [[nodiscard]] std::vector<SingularCorner> corners(const mesh::Mesh& mesh,
                                                      const shape::Partition& partition) const;

    int fieldCount() const override { return (current ? 1 : 0) + (heat ? 1 : 0); }
    fem::Measure measure() const override { return area; }
    bool active(int field, int piece) const override
    {
        return (field == V ? conducts : warms)[size_t(piece)] != 0;
    }
    const std::vector<fem::Group>& groups() const override { return groupList; }
    void terms(const fem::PointState& state, fem::PointTerms& terms) const override;
    void storage(const fem::PointState& state, fem::PointTerms& terms) const override;
    void sideStorage(int side, const fem::PointState& state, fem::PointTerms& terms) const override;
    bool isLinear() const override;
    /// Whether currents and voltages are proportional: no temperature acts on them.
    [[nodiscard]] bool isOhmic() const;
    int segmentAt(double time) const override;
    bool drifts() const override { return sourcesDrift; }
    double shareAt(int group, double time) const override
    {
        return transient && time > groupUntil[size_t(group)] * (1 + 1e-12) ? 0.0 : 1.0;
    }
    bool hasTerms(int side) const override { return sides.count(side) != 0; }
    bool carries(int field, int side) const override;
    void sideTerms(int side, const fem::PointState& state, fem::PointTerms& terms) const override;
    double jump(int field, int side) const override
    {
        const auto it = joints.find(side);
        return it == joints.end() || !bothActive(field, side) ? 0.0 : it->second.conductance[field];
    }
    bool jumpHeats(int side) const override
    {
        const auto it = joints.find(side);
        return T > 0 && it != joints.end() && it->second.heats;
    }
    std::vector<char> joinsBoth;  ///< by field and side: both neighbours take part
    [[nodiscard]] bool bothActive(int field, int side) const
    {
        return joinsBoth[size_t(field) * (joinsBoth.size() / 2) + size_t(side)] != 0;
    }
    double start(int field) const override
    {
        return field == V ? 0.0 : transient ? transient->start : coldest;
    }
    bool scalesWithDrive(int field) const override { return field == V; }
};

/// Reads materials, contacts and heat conditions from the sheet.
/// @param[out] faults  everything that is missing or wrong, each at its line
[[nodiscard]] std::unique_ptr<TransportProblem> defineTransport(const sheet::Model& model,
                                                                const shape::Partition& partition,
                                                                base::Faults& faults);

class TransportSolver : public Solution
{
public:
    TransportSolver(const TransportProblem& problem, const mesh::Mesh& mesh,
                    const shape::Partition& partition, int order, base::Progress& progress);
    void solve(int lowestOrder, base::Progress& progress) override;
    const mesh::Mesh& mesh() const override { return m_mesh; }
    int order() const override { return m_order; }
    int nextOrder() const override { return m_ahead.order; }
    std::vector<int> estimates() const override;
    Counters counters() const override { return m_counters; }
    const std::vector<Quantity>& quantities() const override { return m_quantities; }
    void sample(int cell, const Point& xi, double* values) const override;
    std::vector<double> indicator(bool allDrives) const override;
    std::vector<double> dualIndicator(const LocalFunctional& functional) override;
    std::optional<Change> changeOf(const LocalFunctional& functional) override;
    double geometryError() const override;
    std::vector<SingularCorner> singularCorners() const override;

    bool setCoarse(bool coarse) override;
    std::vector<double> showTimes() const override;
    void showAt(double time) override { select(time); }
    [[nodiscard]] const TransportProblem& problem() const { return m_problem; }
    /// Times of a transient's steps of an order, s; empty: steady.
    [[nodiscard]] std::vector<double> times(int order) const;
    /// Lets every order stand at its step nearest to a time; the end without a time.
    void select(double time = unending);
    /// Rate at which heat is stored at the end of a transient, W, whole.
    [[nodiscard]] double storedRate(int order) const;
    /// Largest change of the heat stored so far over the duration, W: a size for that rate.
    [[nodiscard]] double meanStoring(int order) const;
    /// Voltage of a contact in V and current into the device in A, whole.
    struct ContactResult
    {
        double voltage = 0, current = 0;
    };
    [[nodiscard]] ContactResult contact(int order, int index) const;
    /// Resistances between contacts in a steady state: by how much the voltage of each against
    /// the reference rises with the current into each, the others' currents kept; V/A, shape
    /// (contacts but the reference, the same). Without effects of temperature this is the matrix
    /// of the device, else its tangent at the state.
    [[nodiscard]] std::vector<double> resistances(int order, int reference);
    /// Power that the contacts give to the device, W, whole.
    [[nodiscard]] double contactPower(int order) const;
    /// Share of the volume that is warmer than its melting point; within a melting range the share
    /// that has taken up its heat.
    /// @param melting  K, by piece of the partition
    [[nodiscard]] double meltedShare(int order, const std::vector<int>& pieces,
                                     const std::vector<double>& melting) const;
    /// Current that comes in through odd planes, A.
    [[nodiscard]] double planeFlow(int order) const;
    /// Heat that leaves at a line (held temperature, convection, radiation, flux), W, whole.
    [[nodiscard]] double heatOut(int order, int line) const;
    /// Power of the current in pieces and in sheets of lines, W, whole.
    [[nodiscard]] double heating(int order, const std::vector<int>& pieces,
                                 const std::vector<int>& sheetLines) const;
    /// Power of the current in resistances between regions, W, whole.
    [[nodiscard]] double jointHeat(int order) const;
    /// All given sources of heat, W, whole.
    [[nodiscard]] double givenHeat(int order) const;
    enum class Wanted { highest, lowest };
    [[nodiscard]] Extreme temperature(int order, const std::vector<int>& pieces,
                                      Wanted wanted) const;
    [[nodiscard]] double meanTemperature(int order, const std::vector<int>& pieces) const;
    [[nodiscard]] Extreme largestCurrentDensity(int order, const std::vector<int>& pieces) const;
    /// The temperature of the highest order at a time (of a steady state at any), K, by cell and
    /// reference coordinates. It outlives the next solution.
    [[nodiscard]] std::function<double(int, const Point&)> temperatureAt(double time) const;
    [[nodiscard]] double valueAt(int order, int field, const mesh::Locator::Hit& hit) const;
    /// Current density in A/m^2.
    [[nodiscard]] Point currentDensity(int order, int cell, const Point& xi) const;
    [[nodiscard]] Point heatFlux(int order, int cell, const Point& xi) const;

private:
    /// The part of a cell that is above a temperature, by small simplices.
    [[nodiscard]] double volumeAbove(int order, int t, double melts) const;
    /// What the next order changes.
    void lookAhead(const fem::CoupledSolver::Values& u, base::Progress& progress);
    struct Solved
    {
        int order = 0;
        fem::CoupledSolver::Values u;
        mutable std::vector<fem::CoupledSolver::GroupResult> groups;
        double time = 0;
        struct Frame
        {
            double time = 0, step = 0;             ///< s
            fem::CoupledSolver::Values u, middle;  ///< at its end and at its first stage
        };
        std::vector<Frame> frames;  ///< of a transient, the start first
        size_t frame = 0;
        double change = 0;  ///< largest change of temperature, K
    };
    /// A functional's derivative by each coefficient of an order.
    [[nodiscard]] fem::CoupledSolver::Values derivative(const LocalFunctional& functional,
                                                        int order) const;
    struct Weighted
    {
        LocalFunctional functional;
        fem::CoupledSolver::Surplus surplus;
        double bySources = 0;  ///< what sources of the order below would change
    };
    std::vector<Weighted> m_weighted;  ///< of the newest solution
    /// The same state with every contact but one driven by its current.
    struct Driven;
    std::shared_ptr<Driven> m_driven;
    /// Fields of one more unit of current into each contact, newest order; empty where no
    /// resistances were asked for.
    [[nodiscard]] std::vector<fem::CoupledSolver::Values> drivenFields() const;
    /// Whether there is a next order to look at.
    [[nodiscard]] bool hasNext() const
    {
        return !m_problem.transient &&
               order() < (m_mesh.dimension == 3 ? fem::highestSolidOrder : fem::highestOrder);
    }
    const Weighted& weighted(const LocalFunctional& functional);
    /// What sources of this order instead of that below change in a functional with these dual
    /// fields.
    [[nodiscard]] double bySources(int order, const fem::CoupledSolver::Values& dual) const;
    Solved transient(int order, double tolerance, base::Progress& progress);
    [[nodiscard]] bool canLookAhead() const;
    [[nodiscard]] const std::vector<fem::CoupledSolver::GroupResult>& groupsOf(
        const Solved& solved) const;
    [[nodiscard]] double enthalpyOf(int order, const fem::CoupledSolver::Values& u) const;
    [[nodiscard]] const Solved& at(int order) const;
    [[nodiscard]] double localT(const Solved& s, int cell, const Point& xi) const;
    /// Whether a mesh side lies in one of the partition, seen from the first of its cells.
    [[nodiscard]] bool isFirstAt(int meshSide, int cell, int side) const
    {
        return m_mesh.sideTag[size_t(meshSide)] == side &&
               m_mesh.sideCells[size_t(meshSide)][0] == cell;
    }
    /// Visits the quadrature points of a side, the same as in the coupled solver, so that flows
    /// balance exactly: cell, its reference coordinates, place, and the element of line or surface.
    template <class Visit>
    void overSide(int order, int side, Visit visit) const
    {
        fem::onSides(
            m_mesh, m_problem.area, 2 * order + 2,
            [&](int s, int t) { return isFirstAt(s, t, side); },
            [&](int, int t, const Point& xi, const Point& p, const Point& n) {
                visit(t, xi, p, norm(n));
            });
    }

    const TransportProblem& m_problem;
    std::unique_ptr<const mesh::Mesh> m_cut;  ///< where regions meet through a resistance
    const mesh::Mesh& m_mesh;
    const shape::Partition& m_partition;
    int m_order;
    bool m_looksAhead;  ///< solids: what the next order changes is found beside the solution
    fem::H1Space m_space;
    mutable fem::CoupledSolver m_coupled;
    base::Progress& m_progress;
    std::vector<Solved> m_solved;
    Solved m_ahead;   ///< of the next order; its order is 0 where there is none
    Solved m_coarse;  ///< the lowest order again, with longer steps
    bool m_useCoarse = false;
    std::vector<Quantity> m_quantities;
    Counters m_counters;
};

/// Largest imbalance of current and of heat over the flows, for the checks.
struct Balance
{
    double current = 0, heat = 0;
};
[[nodiscard]] Balance balance(const TransportSolver& solver);

}  // namespace yh::physics
