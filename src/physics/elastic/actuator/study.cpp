// Actuators on a given sheet: reading, figures, checks.
#include "physics/common/study.h"
#include "physics/common/ask_maker.h"
#include "physics/common/constants.h"
#include "physics/common/sheet_reader.h"
#include "physics/elastic/actuator/actuator.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace yh::physics {

using sheet::Line;
namespace dim = base::dim;

namespace {

class ActuatorReader : SheetReader
{
public:
    using SheetReader::SheetReader;

    std::unique_ptr<ActuatorProblem> run()
    {
        auto& p = *m_problem;
        p.elastic = defineElastic(m_model, m_p, m_faults);
        const ElasticProblem& e = *p.elastic;
        p.gap.assign(m_p.pieces().size(), 0);
        for (const int axis : {0, 1, 2})
            p.held[axis] = e.held[axis];
        const Line* l = m_model.document().first("raised voltage");
        if (!l || !m_faults.empty())
            return std::move(m_problem);
        raised(*l);
        bool any = false;
        for (size_t f = 0; f < p.gap.size(); ++f) {
            p.gap[f] = e.media[f].polarises && !e.media[f].moves && !isElectrode(int(f));
            any = any || p.gap[f];
        }
        if (!any)
            m_faults.push_back({7612,
                                {-1, "materials", -1},
                                "no gap: fill the space between the bodies, as in `air in gap`",
                                true});
        gaps();
        stop();
        for (const Line& ask : m_model.document().lines) {
            const sheet::Kind* k = sheet::findKind(ask.kind);
            if (k && k->section == "ask" && k->slot("voltage") && ask.has("voltage"))
                p.highest = std::max(p.highest, m_model.number(ask, "voltage"));
        }
        p.most = std::max(p.most, p.highest);
        return std::move(m_problem);
    }

private:
    bool isElectrode(int f) const
    {
        const auto& list = m_problem->elastic->electrodes;
        return std::any_of(list.begin(), list.end(),
                           [f](const auto& e) { return e.pieces[size_t(f)] != 0; });
    }
    void raised(const Line& l)
    {
        auto& p = *m_problem;
        p.driven = p.elastic->electrodeOf(l.get("of"));
        p.most = m_model.number(l, "to");
        if (p.driven >= 0 && p.elastic->electrodes[size_t(p.driven)].voltage == 0)
            fault(
                7610, l, "of",
                "its electrode is at 0 V: give it a voltage, which tells the ratio to the others, "
                "as in `electrode " +
                    l.get("of") + " at 1 V on …`");
    }
    /// Dielectrics without elastic constants stay where they are; false where one cannot.
    bool keep(size_t f)
    {
        auto& p = *m_problem;
        const ElasticProblem& e = *p.elastic;
        constexpr double gas = 1.01;
        if (e.media[f].eps(0, 0).real() < gas * eps0)
            return true;
        for (const int s : m_p.pieces()[f].sides) {
            for (auto& held : p.held)
                held[size_t(s)] = 1;
            for (const int other : m_p.sides()[size_t(s)].pieces)
                if (e.media[size_t(other)].moves) {
                    m_faults.push_back(
                        {7616,
                         {m_p.regions()[size_t(m_p.pieces()[f].region)].line, {}, -1},
                         "it lies on a body that moves: its material needs E and ν",
                         true});
                    return false;
                }
        }
        return true;
    }

    /// Where the gaps' mesh can move.
    void gaps()
    {
        auto& p = *m_problem;
        const ElasticProblem& e = *p.elastic;
        for (size_t f = 0; f < p.gap.size(); ++f) {
            if (p.gap[f] && !keep(f))
                return;
        }
        for (size_t s = 0; s < m_p.sides().size(); ++s) {
            const shape::Side& side = m_p.sides()[s];
            bool gap = false, moves = false, rigid = false;
            for (const int f : side.pieces) {
                gap = gap || p.gap[size_t(f)];
                moves = moves || e.media[size_t(f)].moves;
                rigid = rigid || (!e.media[size_t(f)].moves && !p.gap[size_t(f)]);
            }
            if (!gap || moves || (side.pieces.size() > 1 && !rigid) || side.cut >= 0)
                continue;
            for (const auto& el : e.electrodes)
                rigid = rigid || el.sides[s];
            // At the border of what is drawn it slides.
            const auto across = sidesAcross(m_p, int(s));
            const bool isAlong = across[0] || across[1] || (e.isSolid && across[2]);
            for (const int axis : {0, 1, 2})
                if (rigid || across[size_t(axis)] || !isAlong)
                    p.held[axis][s] = 1;
        }
    }
    void stop()
    {
        const Line* l = m_model.document().first("stop");
        if (!l)
            return;
        ActuatorProblem::Stop stop;
        stop.distance = m_model.number(*l, "distance");
        stop.sides = resolve(*l, "before", 7613).sides;
        double nearest = 1e300;
        for (const int s : stop.sides) {
            const shape::Side& side = m_p.sides()[size_t(s)];
            if (!side.flat) {
                fault(7614, *l, "before", "a stop lies before straight sides or plane faces");
                return;
            }
            for (size_t f = 0; f < m_p.pieces().size(); ++f)
                if (m_problem->elastic->media[f].moves)
                    for (const int other : m_p.pieces()[f].sides)
                        for (const Point& q : m_p.samples(other))
                            nearest = std::min(nearest, distanceTo(s, q));
        }
        if (stop.sides.empty())
            fault(7614, *l, "before", "a stop lies before sides, such as base.top");
        else if (stop.distance >= nearest)
            fault(7615, *l, "distance",
                  "the gap is " + base::format(nearest, dim::length, 3) +
                      ": what moves would begin behind its stop");
        m_problem->stop = std::move(stop);
    }

    /// Distance of a place from a straight side that it lies before; without end beside it.
    double distanceTo(int s, const Point& q) const
    {
        if (m_problem->elastic->isSolid)
            return m_p.distanceTo(s, q);
        const shape::Side& side = m_p.sides()[size_t(s)];
        const Point a = m_p.at(s, side.t0), b = m_p.at(s, side.t1),
                    along = (1 / norm(b - a)) * (b - a);
        const double u = dot(q - a, along);
        return u >= 0 && u <= norm(b - a) ? std::abs(dot(q - a, Point{-along.y, along.x})) : 1e300;
    }

    std::unique_ptr<ActuatorProblem> m_problem = std::make_unique<ActuatorProblem>();
};

class ActuatorAsks : public AskMaker<ActuatorProblem>
{
public:
    using AskMaker::AskMaker;

    std::vector<Ask> run()
    {
        using A = ActuatorAsks;
        static const Table<A> table = {{"pull-in voltage", &A::pullIn},
                                       {"release voltage", &A::release},
                                       {"deflection", &A::deflection},
                                       {"capacitance under", &A::capacitance},
                                       {"actuator curve", &A::curve}};
        return make(table, 7620,
                    "actuators; ask for pull-in and release, deflections and capacitances");
    }

private:
    static ActuatorSolver& solverOf(Solution& s) { return as<ActuatorSolver>(s); }
    /// What Newton's method leaves, beside what the cells do.
    static void addRest(Finding& f, const std::any&)
    {
        constexpr double settled = 2e-8;
        for (size_t k = 0; k < f.value.size(); ++k)
            f.error[k] += settled * std::abs(f.value[k]);
    }
    void pullIn(const Line& l)
    {
        Ask& a = add(l, dim::voltage, "pull-in voltage");
        a.reduce = addRest;
        a.evaluate = [line = l.id, most = m_problem.most](Solution& field, int order) {
            const auto v = solverOf(field).pullIn(order);
            if (!v)
                throw base::Error(7621,
                                  "nothing snaps shut up to " +
                                      base::format(most, dim::voltage, 4) +
                                      ": raise the voltage further",
                                  {line, {}, -1});
            return std::vector{*v};
        };
    }
    void release(const Line& l)
    {
        Ask& a = add(l, dim::voltage, "release voltage");
        a.evaluate = [line = l.id](Solution& field, int order) {
            const auto v = solverOf(field).release(order);
            if (!v)
                throw base::Error(7622,
                                  "nothing is let go: the stop is not reached, or the way to it is "
                                  "not found",
                                  {line, {}, -1});
            return std::vector{*v, solverOf(field).releaseBlur(order)};
        };
        // The stop is soft over a small part of its distance.
        a.reduce = [](Finding& f, const std::any&) {
            f.error = {f.error[0] + f.value[1]};
            f.value.resize(1);
        };
    }
    void deflection(const Line& l)
    {
        const Point at = m_model.point(l, "at");
        const double voltage = m_model.number(l, "voltage");
        const Point direction = m_model.direction(l, "along");
        const int piece = m_p.pieceAt(at);
        if (piece < 0 || !m_problem.elastic->media[size_t(piece)].moves) {
            fault(7623, l, "at", "this is no place of a body that moves");
            return;
        }
        Ask& a = add(l, dim::length, "deflection at " + l.get("at") + " under " + l.get("voltage"));
        a.degree = 1;
        a.reduce = addRest;
        a.evaluate = [at, voltage, direction, line = l.id](Solution& field, int order) {
            auto& s = solverOf(field);
            const auto hit = mesh::Locator(s.mesh()).find(at);
            if (hit.cell < 0)
                throw base::Error(7623, "this is no place of a body that moves", {line, "at", 0});
            const Point u = s.displacement(order, s.under(order, voltage), hit.cell, hit.xi);
            return std::vector{dot(u, direction)};
        };
    }
    void capacitance(const Line& l)
    {
        const double voltage = m_model.number(l, "voltage");
        Ask& a = add(l, dim::capacitance, "capacitance under " + l.get("voltage"));
        a.reduce = addRest;
        a.evaluate = [voltage](Solution& field, int order) {
            auto& s = solverOf(field);
            return std::vector{s.capacitance(order, s.under(order, voltage))};
        };
    }
    /// All equilibria as a table.
    static std::string equilibria(ActuatorSolver& s)
    {
        const auto& path = s.path(s.order());
        const double sign = s.travel(s.order(), path.points.back()) < 0 ? -1 : 1;
        std::string csv = "travel (m),voltage (V),• pull-in (V),• release (V),capacitance (F)\n";
        char row[160];
        for (size_t i = 0; i < path.points.size(); ++i) {
            const auto& p = path.points[i];
            const double v = std::sqrt(std::max(0.0, p.square));
            auto mark = [&](int at) {
                std::snprintf(row, sizeof row, "%.9g", v);
                return int(i) == at ? std::string(row) : std::string();
            };
            const std::string fold = mark(path.fold), release = mark(path.release);
            std::snprintf(row, sizeof row, "%.9g,%.9g,", sign * s.travel(s.order(), p), v);
            csv += row + fold + "," + release;
            std::snprintf(row, sizeof row, ",%.9g\n", s.capacitance(s.order(), p));
            csv += row;
        }
        return csv;
    }

    void curve(const Line& l)
    {
        Ask a = beginAsk(m_model, l, dim::none, "equilibria");
        a.finding.table = "curves";
        // Judged at some voltages, against the largest travel before pull-in.
        a.evaluate = [](Solution& field, int order) {
            auto& s = solverOf(field);
            double most = s.problem().most;
            for (const int q : s.estimates())
                if (const auto fold = s.pullIn(q))
                    most = std::min(most, 0.97 * *fold);
            constexpr int places = 6;
            const double whole = s.travel(s.order(), s.under(s.order(), most));
            std::vector<double> list;
            for (int i = 1; i <= places; ++i)
                list.push_back(s.travel(order, s.under(order, most * i / places)) / whole);
            return list;
        };
        a.scale = [](Solution&, int) { return 1.0; };
        a.curves = [](Solution& field) { return equilibria(solverOf(field)); };
        m_asks.push_back(std::move(a));
    }
};

class ActuatorStudy : public Study
{
public:
    explicit ActuatorStudy(std::unique_ptr<ActuatorProblem> problem) : m_problem(std::move(problem))
    {
    }
    std::string name() const override { return "actuator"; }
    const std::vector<int>& activePieces() const override
    {
        return m_problem->elastic->activePieces;
    }
    std::unique_ptr<Solution> on(const mesh::Mesh& mesh, const shape::Partition& partition,
                                 int order, base::Progress& progress) const override
    {
        return std::make_unique<ActuatorSolver>(*m_problem, mesh, partition, order, progress);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        return ActuatorAsks(model, partition, *m_problem, faults).run();
    }
    std::vector<Check> checks(const sheet::Model& model, const shape::Partition&, Solution& field,
                              const std::vector<Ask>&) const override
    {
        auto& s = as<ActuatorSolver>(field);
        std::vector<Check> list;
        const Line* line = model.document().first("raised voltage");
        const int id = line ? line->id : -1;
        const auto& path = s.path(s.order());
        const Point at = s.travelPlace();
        std::string text =
            std::to_string(path.points.size()) + " equilibria; most moves the place " +
            base::format(at.x, dim::length, 4) + ", " + base::format(at.y, dim::length, 4);
        if (s.mesh().dimension == 3)
            text += ", " + base::format(at.z, dim::length, 4);
        list.push_back({"path", Check::State::note, text, id, {at.x, at.y, at.z}});
        text = "drawn under " + base::format(s.shownVoltage(), dim::voltage, 4);
        if (const auto fold = s.pullIn(s.order()))
            text += ", pull-in at " + base::format(*fold, dim::voltage, 4);
        list.push_back({"state", Check::State::note, text, id, {}});
        if (s.problem().elastic->isFree)
            list.push_back({"across the drawing",
                            Check::State::note,
                            "free to grow across the drawing; its thickness there stays as drawn",
                            id,
                            {}});
        return list;
    }

private:
    std::unique_ptr<ActuatorProblem> m_problem;
};

}  // namespace

std::unique_ptr<Study> elasticActuatorStudy(const sheet::Model& model,
                                            const shape::Partition& partition, base::Faults& faults)
{
    return std::make_unique<ActuatorStudy>(ActuatorReader(model, partition, faults).run());
}

}  // namespace yh::physics
