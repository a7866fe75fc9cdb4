// Asks and checks of sheets about current and heat.
#include "physics/transport/study.h"

#include "physics/common/ask_maker.h"
#include "physics/transport/transport.h"
#include "sheet/schema.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace yh::physics {

using sheet::Line;
namespace dim = base::dim;

namespace {

TransportSolver& solverOf(Solution& field)
{
    return as<TransportSolver>(field);
}

/// Size that the accuracy of a coefficient of performance or an efficiency refers to at least.
constexpr double smallConversion = 0.01;

/// When a cubic through the samples around an interval passes a value within it.
double crossing(const std::vector<double>& x, const std::vector<double>& y, size_t interval,
                double value)
{
    const size_t n = x.size(), first = interval >= 2 ? interval - 2 : 0,
                 last = std::min(n - 1, interval + 1);
    auto at = [&](double p) {
        double sum = 0;
        for (size_t i = first; i <= last; ++i) {
            double w = y[i];
            for (size_t k = first; k <= last; ++k)
                if (k != i)
                    w *= (p - x[k]) / (x[i] - x[k]);
            sum += w;
        }
        return sum;
    };
    double a = x[interval - 1], b = x[interval];
    const bool rising = y[interval] > y[interval - 1];
    constexpr int halvings = 60;
    for (int i = 0; i < halvings; ++i) {
        const double m = 0.5 * (a + b);
        ((at(m) < value) == rising ? a : b) = m;
    }
    return 0.5 * (a + b);
}

class TransportAsks : public AskMaker<TransportProblem>
{
public:
    using AskMaker::AskMaker;

    std::vector<Ask> run()
    {
        static const Table<TransportAsks> table = {
            {"resistance", &TransportAsks::resistance},
            {"resistance matrix", &TransportAsks::resistanceMatrix},
            {"performance", &TransportAsks::conversion},
            {"generator efficiency", &TransportAsks::conversion},
            {"melted share", &TransportAsks::melted},
            {"current", &TransportAsks::contactFigure},
            {"voltage", &TransportAsks::contactFigure},
            {"heating power", &TransportAsks::power},
            {"heat flow", &TransportAsks::heatFlow},
            {"largest current density", &TransportAsks::crowding},
            {"time to reach", &TransportAsks::timeToReach},
            {"highest temperature", &TransportAsks::temperature},
            {"lowest temperature", &TransportAsks::temperature},
            {"mean temperature", &TransportAsks::temperature},
            {"temperature at", &TransportAsks::temperature},
            {"potential at", &TransportAsks::potentialAt},
            {"profile", &TransportAsks::profile}};
        m_asks = make(table, 7040,
                      "current and heat; ask for resistances, currents, power, heat flows or "
                      "temperatures");
        if (m_problem.transient)
            for (Ask& a : m_asks)
                overTime(a);
        return std::move(m_asks);
    }

private:
    void profile(const Line& l) { profileOf(l, dim::temperature); }
    void potentialAt(const Line& l) { pointValue(l, dim::voltage, m_problem.V, "potential at "); }
    /// The values of a figure over time.
    template <class Evaluate>
    static std::vector<std::array<double, 2>> courseOf(TransportSolver& s, Solution& field,
                                                       const Evaluate& evaluate)
    {
        std::vector<std::array<double, 2>> course;
        for (const double t : s.times(s.order())) {
            if (t <= 0)
                continue;  // flows jump there
            s.select(t);
            course.push_back({t, evaluate(field, s.order())[0]});
        }
        s.select();
        return course;
    }

    /// In a transient a figure is that at a time; its course goes to a table.
    void overTime(Ask& a)
    {
        const Line& l = *m_model.document().find(a.finding.line);
        if (l.kind == "time to reach" || !a.evaluate)
            return;
        double time = unending;
        if (l.has("after")) {
            time = m_model.number(l, "after");
            a.finding.label += " after " + l.get("after");
            a.finding.name = a.finding.label;
            if (time > m_problem.transient->duration * (1 + 1e-9))
                fault(7046, l, "after",
                      "the transient ends at " +
                          base::format(m_problem.transient->duration, dim::time));
        } else {
            a.finding.table = "history";  // the store gives it its file
            a.history = [evaluate = a.evaluate](Solution& field) {
                return courseOf(solverOf(field), field, evaluate);
            };
        }
        auto standing = [time](auto function) {
            return [time, function](Solution& field, auto... rest) {
                auto& s = solverOf(field);
                s.select(time);
                const auto result = function(field, rest...);
                s.select();
                return result;
            };
        };
        a.evaluate = standing(a.evaluate);
        if (a.where)
            a.where = standing(a.where);
        if (a.scale)
            a.scale = standing(a.scale);
    }

    int contactOf(const Line& l, const std::string& key)
    {
        const int k = m_problem.contactOf(l.get(key));
        if (k < 0)
            fault(7041, l, key, "there is no contact named '" + l.get(key) + "'");
        return k;
    }
    bool needs(const Line& l, int field, const char* what)
    {
        if (field < 0)
            fault(7042, l, {}, std::string("this sheet has no ") + what + " to be asked for");
        return field >= 0;
    }

    void resistance(const Line& l)
    {
        const int a = contactOf(l, "from"), b = contactOf(l, "to");
        if (a < 0 || b < 0)
            return;
        if (a == b) {
            fault(7043, l, "to", "a resistance is between two different contacts");
            return;
        }
        Ask& k = add(l, dim::resistance, "resistance " + l.get("from") + " to " + l.get("to"));
        k.evaluate = [a, b](Solution& field, int order) {
            const auto x = solverOf(field).contact(order, a), y = solverOf(field).contact(order, b);
            return std::vector{(x.voltage - y.voltage) / x.current};
        };
    }
    /// What a matrix is called; one contact leaves one number, which is no matrix.
    void nameMatrix(Ask& a, int reference) const
    {
        a.finding.label = "resistances against " + m_problem.contacts[size_t(reference)].name;
        for (size_t k = 0; k < m_problem.contacts.size(); ++k)
            if (int(k) != reference)
                a.finding.conductors.push_back(m_problem.contacts[k].name);
        // One contact leaves one number, which is no matrix.
        if (a.finding.conductors.size() == 1) {
            a.finding.label = "resistance " + a.finding.conductors[0] + " to " +
                              m_problem.contacts[size_t(reference)].name;
            a.finding.conductors.clear();
        }
    }

    void resistanceMatrix(const Line& l)
    {
        if (!needs(l, m_problem.V, "current"))
            return;
        if (m_problem.transient) {
            fault(7049, l, {}, "a resistance matrix is that of a steady state");
            return;
        }
        if (m_problem.odd[0] || m_problem.odd[1] || m_problem.odd[2]) {
            fault(7050, l, {},
                  "with an odd mirror plane the other half's contacts carry opposite currents, and "
                  "a matrix has no meaning; make the plane even or model the whole");
            return;
        }
        int reference = -1;
        if (l.has("reference")) {
            reference = contactOf(l, "reference");
            if (reference < 0)
                return;
        }
        for (size_t k = 0; k < m_problem.contacts.size() && reference < 0; ++k)
            if (!m_problem.contacts[k].byCurrent)
                reference = int(k);
        if (m_problem.contacts.size() < 2 || reference < 0) {
            fault(7051, l, {}, "a resistance matrix needs two contacts, one of them at a voltage");
            return;
        }
        Ask& a = add(l, dim::resistance, "resistance matrix");
        nameMatrix(a, reference);
        if (!m_problem.isOhmic())
            a.finding.note = "changes of voltage by changes of current, at this state";
        a.allDrives = true;
        a.evaluate = [reference](Solution& field, int order) {
            return solverOf(field).resistances(order, reference);
        };
    }
    void conversion(const Line& l)
    {
        if (!needs(l, m_problem.V, "current") || !needs(l, m_problem.T, "heat"))
            return;
        const Line* target = m_model.document().findNamed(l.get("of"));
        if (!target)
            return;
        const bool generates = l.kind == "generator efficiency";
        Ask& a = add(l, dim::none,
                     (generates ? "generator efficiency at " : "coefficient of performance at ") +
                         l.get("of"));
        a.evaluate = [line = target->id, ask = l.id, generates](Solution& field, int order) {
            auto& s = solverOf(field);
            const double heat = -s.heatOut(order, line), power = s.contactPower(order);
            if ((generates ? heat : power) == 0)
                throw base::Error(
                    7052,
                    generates ? "no heat comes in there" : "the device takes in no electric power",
                    {ask, "of", 0});
            return std::vector{generates ? -power / heat : heat / power};
        };
        // Near the borders of cooling and of generating the figure itself vanishes.
        a.scale = [](Solution&, int) { return smallConversion; };
    }
    void melted(const Line& l)
    {
        if (!needs(l, m_problem.T, "heat"))
            return;
        const std::vector<int> pieces = warmPieces(l);
        if (pieces.empty())
            return;
        std::vector<double> melting(m_problem.pieces.size(), 0.0);
        for (const int f : pieces) {
            const Conduction& c = m_problem.pieces[size_t(f)];
            melting[size_t(f)] = l.has("melting") ? m_model.number(l, "melting")
                                 : c.latent > 0   ? c.melting
                                                  : c.limit;
            if (melting[size_t(f)] <= 0) {
                fault(7053, l, "melting",
                      "no melting point of " + c.material + " is known; say it with `melting at`");
                return;
            }
            if (l.has("melting") && c.latent > 0) {
                fault(7054, l, "melting",
                      c.material +
                          " takes up latent heat at a temperature of its own; leave this "
                          "one out");
                return;
            }
        }
        Ask& a = add(l, dim::none, "melted share of " + l.get("in"));
        a.evaluate = [pieces, melting](Solution& field, int order) {
            return std::vector{solverOf(field).meltedShare(order, pieces, melting)};
        };
        a.scale = [](Solution&, int) { return 1.0; };
    }
    void contactFigure(const Line& l)
    {
        const int k = contactOf(l, "of");
        if (k < 0)
            return;
        const bool current = l.kind == "current";
        Ask& a = add(l, current ? dim::current : dim::voltage,
                     (current ? "current through " : "potential of ") + l.get("of"));
        a.evaluate = [k, current](Solution& field, int order) {
            const auto c = solverOf(field).contact(order, k);
            return std::vector{current ? c.current : c.voltage};
        };
    }

    struct Place
    {
        std::vector<int> pieces, sheets;
    };
    Place placeOf(const Line& l, bool sheets)
    {
        Place p;
        try {
            sheet::PlaceRule shapes;
            for (const auto& a : m_model.place(l, "in").atoms) {
                const Line* named = m_model.document().findNamed(a.name);
                if (sheets && named && named->kind == "conducting sheet")
                    p.sheets.push_back(named->id);
                else
                    shapes.atoms.push_back(a);
            }
            if (!shapes.atoms.empty())
                p.pieces = m_p.resolve(shapes, m_model, {l.id, "in", 0}).pieces;
        } catch (const base::Error& e) {
            m_faults.push_back(e.fault());
        }
        return p;
    }
    /// Pieces of an ask that take part in the heat problem; none with a fault.
    std::vector<int> warmPieces(const Line& l)
    {
        std::vector<int> pieces = placeOf(l, false).pieces;
        std::erase_if(pieces, [&](int f) { return !m_problem.warms[size_t(f)]; });
        if (pieces.empty())
            fault(7045, l, "in", "'" + l.get("in") + "' takes no part in the heat problem");
        return pieces;
    }
    void power(const Line& l)
    {
        if (!needs(l, m_problem.V, "current"))
            return;
        const Place p = placeOf(l, true);
        Ask& a = add(l, dim::power, "heating power in " + l.get("in"));
        a.evaluate = [p](Solution& field, int order) {
            return std::vector{solverOf(field).heating(order, p.pieces, p.sheets)};
        };
    }
    void heatFlow(const Line& l)
    {
        if (!needs(l, m_problem.T, "heat"))
            return;
        const Line* target = m_model.document().findNamed(l.get("of"));
        if (!target)
            return;
        Ask& a = add(l, dim::power, "heat flow through " + l.get("of"));
        a.evaluate = [line = target->id](Solution& field, int order) {
            return std::vector{solverOf(field).heatOut(order, line)};
        };
    }
    void crowding(const Line& l)
    {
        if (!needs(l, m_problem.V, "current"))
            return;
        std::vector<int> pieces = placeOf(l, false).pieces;
        std::erase_if(pieces, [&](int f) { return !m_problem.conducts[size_t(f)]; });
        if (pieces.empty()) {
            fault(7044, l, "in", "'" + l.get("in") + "' carries no current");
            return;
        }
        Ask& a = add(l, dim::currentDensity, "largest |J| in " + l.get("in"));
        a.degree = 1;
        a.evaluate = [pieces](Solution& field, int order) {
            return std::vector{solverOf(field).largestCurrentDensity(order, pieces).value};
        };
        a.where = [pieces](Solution& field, int order) {
            return solverOf(field).largestCurrentDensity(order, pieces).hit;
        };
        a.local = [pieces, V = m_problem.V](Solution& field, const mesh::Locator&,
                                            const std::any&) {
            auto& s = solverOf(field);
            const auto hit = s.largestCurrentDensity(s.order(), pieces).hit;
            const Point J = s.currentDensity(s.order(), hit.cell, hit.xi);
            return std::vector<LocalFunctional>{{hit, (1 / std::max(1e-300, norm(J))) * J, V}};
        };
    }
    void temperature(const Line& l)
    {
        if (!needs(l, m_problem.T, "heat"))
            return;
        if (l.kind == "temperature at") {
            pointValue(l, dim::temperature, m_problem.T, "temperature at ");
            return;
        }
        const std::vector<int> pieces = warmPieces(l);
        if (pieces.empty())
            return;
        Ask& a = add(l, dim::temperature, l.kind + " in " + l.get("in"));
        rises(a);
        if (l.kind == "mean temperature") {
            a.evaluate = [pieces](Solution& field, int order) {
                return std::vector{solverOf(field).meanTemperature(order, pieces)};
            };
            return;
        }
        const auto wanted = l.kind == "highest temperature" ? TransportSolver::Wanted::highest
                                                            : TransportSolver::Wanted::lowest;
        a.degree = 1;
        a.evaluate = [pieces, wanted](Solution& field, int order) {
            return std::vector{solverOf(field).temperature(order, pieces, wanted).value};
        };
        a.where = [pieces, wanted](Solution& field, int order) {
            return solverOf(field).temperature(order, pieces, wanted).hit;
        };
        a.local = [pieces, wanted, T = m_problem.T](Solution& field, const mesh::Locator&,
                                                    const std::any&) {
            auto& s = solverOf(field);
            return std::vector<LocalFunctional>{
                {s.temperature(s.order(), pieces, wanted).hit, {}, T}};
        };
    }
    /// A temperature of pieces at all times of an order.
    static std::vector<double> temperaturesOver(TransportSolver& s, int order,
                                                const std::string& which,
                                                const std::vector<int>& pieces)
    {
        std::vector<double> T;
        for (const double t : s.times(order)) {
            s.select(t);
            T.push_back(which == "mean"
                            ? s.meanTemperature(order, pieces)
                            : s.temperature(order, pieces,
                                            which == "highest" ? TransportSolver::Wanted::highest
                                                               : TransportSolver::Wanted::lowest)
                                  .value);
        }
        s.select();
        return T;
    }

    void timeToReach(const Line& l)
    {
        if (!needs(l, m_problem.T, "heat"))
            return;
        if (!m_problem.transient) {
            fault(7047, l, {},
                  "only a transient has time; add a line such as `transient over 60 s from 293 K`");
            return;
        }
        const std::vector<int> pieces = warmPieces(l);
        if (pieces.empty())
            return;
        const std::string which = m_model.choice(l, "which");
        const double value = m_model.number(l, "value"), end = m_problem.transient->duration;
        Ask& a = add(
            l, dim::time,
            "time until " + which + " temperature in " + l.get("in") + " passes " + l.get("value"));
        a.degree = 1;
        a.evaluate = [=, line = l.id, place = l.get("in")](Solution& field, int order) {
            auto& s = solverOf(field);
            const std::vector<double> times = s.times(order),
                                      T = temperaturesOver(s, order, which, pieces);
            for (size_t i = 1; i < T.size(); ++i)
                if ((T[i - 1] < value) != (T[i] < value))
                    return std::vector{crossing(times, T, i, value)};
            throw base::Error(7048,
                              "the " + which + " temperature in " + place + " does not pass " +
                                  base::format(value, dim::temperature) + " within " +
                                  base::format(end, dim::time) + "; it ends at " +
                                  base::format(T.back(), dim::temperature),
                              {line, "value", 0});
        };
    }
    /// Accuracy of a temperature is that of its rise over the coldest given one.
    void rises(Ask& a)
    {
        a.offset = m_problem.coldest;
        // Where there is no rise, the spread of the whole counts.
        std::vector<int> all;
        for (size_t f = 0; f < m_problem.warms.size(); ++f)
            if (m_problem.warms[f])
                all.push_back(int(f));
        a.scale = [all](Solution& field, int order) {
            auto& s = solverOf(field);
            return s.temperature(order, all, TransportSolver::Wanted::highest).value -
                   s.temperature(order, all, TransportSolver::Wanted::lowest).value;
        };
    }
    void pointValue(const Line& l, const base::Dimension& d, int unknown, const std::string& words)
    {
        if (!needs(l, unknown, d == dim::temperature ? "heat" : "current"))
            return;
        const Point p = m_model.point(l, "at");
        Ask& a = add(l, d, words + l.get("at"));
        a.degree = 1;
        if (d == dim::temperature)
            rises(a);
        a.evaluate = [p, unknown, line = l.id](Solution& field, int order) {
            const auto hit = mesh::Locator(field.mesh()).find(p);
            if (hit.cell < 0)
                throw base::Error(7015, "the point lies in no region that carries field",
                                  {line, "at", 0});
            return std::vector{solverOf(field).valueAt(order, unknown, hit)};
        };
        a.local = [p, unknown](Solution&, const mesh::Locator& locator, const std::any&) {
            const auto hit = locator.find(p);
            return hit.cell < 0 ? std::vector<LocalFunctional>{}
                                : std::vector<LocalFunctional>{{hit, {}, unknown}};
        };
    }
};

std::string text(const char* format, double x)
{
    char b[64];
    std::snprintf(b, sizeof b, format, x);
    return b;
}

void balances(const TransportSolver& s, std::vector<Check>& checks)
{
    const Balance b = balance(s);
    constexpr double closes = 1e-6;
    auto say = [&](const char* id, const char* what, double off) {
        checks.push_back({id,
                          off < closes ? Check::State::good : Check::State::bad,
                          std::string(what) + (off < 1e-15 ? " balances to rounding"
                                                           : text(" balances to %.0e", off)),
                          -1,
                          {}});
    };
    if (s.problem().current)
        say("current balance", "current", b.current);
    if (s.problem().heat)
        say("heat balance", "heat", b.heat);
}

void limits(const TransportSolver& s, const shape::Partition& partition, std::vector<Check>& checks)
{
    const TransportProblem& p = s.problem();
    if (!p.heat)
        return;
    std::vector<char> seen(partition.regions().size(), 0);
    bool any = false, passed = false;
    for (size_t f = 0; f < p.pieces.size(); ++f) {
        const int r = partition.pieces()[f].region;
        if (!p.warms[f] || p.pieces[f].limit <= 0 || seen[size_t(r)])
            continue;
        seen[size_t(r)] = 1;
        any = true;
        std::vector<int> pieces;
        for (size_t g = 0; g < p.pieces.size(); ++g)
            if (partition.pieces()[g].region == r)
                pieces.push_back(int(g));
        const auto hot = s.temperature(s.order(), pieces, TransportSolver::Wanted::highest);
        if (hot.value <= p.pieces[f].limit)
            continue;
        passed = true;
        const Point at = mesh::Geometry(s.mesh(), hot.hit.cell).at(hot.hit.xi);
        checks.push_back({"temperature limit",
                          Check::State::bad,
                          "'" + partition.regions()[size_t(r)].name + "' reaches " +
                              base::format(hot.value, dim::temperature) + "; " +
                              p.pieces[f].material + " stands " +
                              base::format(p.pieces[f].limit, dim::temperature),
                          partition.regions()[size_t(r)].line,
                          {at.x, at.y}});
    }
    if (any && !passed)
        checks.push_back({"temperature limit",
                          Check::State::good,
                          "no region passes the limit of its material",
                          -1,
                          {}});
}

class TransportStudy : public Study
{
public:
    explicit TransportStudy(std::unique_ptr<TransportProblem> problem)
        : m_problem(std::move(problem))
    {
    }
    std::string name() const override { return "transport"; }
    void shortenSteps() override
    {
        // Errors of a step go with its third power, figures with its second.
        constexpr double factor = 8;
        m_problem->stepTolerance /= factor;
    }
    const std::vector<int>& activePieces() const override { return m_problem->activePieces; }
    std::unique_ptr<Solution> on(const mesh::Mesh& mesh, const shape::Partition& partition,
                                 int order, base::Progress& progress) const override
    {
        return std::make_unique<TransportSolver>(*m_problem, mesh, partition, order, progress);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        return TransportAsks(model, partition, *m_problem, faults).run();
    }
    std::vector<Check> checks(const sheet::Model&, const shape::Partition& partition,
                              Solution& field, const std::vector<Ask>&) const override
    {
        std::vector<Check> list;
        balances(solverOf(field), list);
        limits(solverOf(field), partition, list);
        return list;
    }
    std::vector<SingularCorner> corners(const mesh::Mesh& mesh,
                                        const shape::Partition& partition) const override
    {
        return m_problem->corners(mesh, partition);
    }
    std::vector<char> lineSeeds(const shape::Partition& partition) const override
    {
        std::vector<char> seeds(partition.sides().size(), 0);
        for (const auto& g : m_problem->groupList)
            if (g.field == (m_problem->V >= 0 ? m_problem->V : m_problem->T))
                for (const int s : g.sides)
                    seeds[size_t(s)] = 1;
        for (const auto& [side, c] : m_problem->sides)
            if (m_problem->V < 0)
                seeds[size_t(side)] = 1;
        return seeds;
    }
    std::string lineQuantity() const override { return m_problem->V >= 0 ? "J" : "q"; }
    fem::Measure measure() const override { return m_problem->area; }

private:
    std::unique_ptr<TransportProblem> m_problem;
};

}  // namespace

std::unique_ptr<Study> transportStudy(const sheet::Model& model, const shape::Partition& partition,
                                      base::Faults& faults)
{
    return transportStudyOf(defineTransport(model, partition, faults));
}

std::unique_ptr<Study> transportStudyOf(std::unique_ptr<TransportProblem> problem)
{
    return std::make_unique<TransportStudy>(std::move(problem));
}

}  // namespace yh::physics
