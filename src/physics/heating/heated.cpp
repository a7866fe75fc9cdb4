#include "physics/heating/heated.h"

#include "physics/common/constants.h"

#include <algorithm>
#include <numeric>

namespace yh::physics {

namespace {

/// Times at which a field that follows the temperature is known.
std::vector<double> fieldTimes(const TransportProblem& p)
{
    constexpr int places = 5;
    std::vector<double> times{0};
    for (int k = 1; k < places && p.transient; ++k)
        times.push_back(p.transient->duration * (1 - std::cos(k * pi / (places - 1))) / 2);
    return times;
}

/** What the field loses on sides and in layers. */
void heatSides(const HeatSource* source, const shape::Partition& partition, TransportProblem& p)
{
    const auto& sides = partition.sides();
    for (size_t side = 0; side < sides.size(); ++side)
        if (source->losesOn(int(side)) &&
            std::any_of(sides[side].pieces.begin(), sides[side].pieces.end(),
                        [&p](int f) { return p.warms[size_t(f)] != 0; }))
            p.sides[int(side)].flux.push_back(
                {-1, [source, side](const fem::Spot& s) { return source->on(int(side), s); },
                 unending});
    for (auto& [side, condition] : p.sides)
        for (const SideCondition::Sheet& sheet : condition.sheets)
            if (sheet.what.heats && source->losesAlong(side, sheet.line))
                condition.flux.push_back(
                    {sheet.line,
                     [source, side = side, line = sheet.line](const fem::Spot& s) {
                         return source->along(side, line, s);
                     },
                     unending});
}

TransportProblem heatedBy(const HeatSource& lossy, const TransportProblem& heat,
                          const shape::Partition& partition)
{
    TransportProblem p = heat;
    // Steps end where the temperature has to be known.
    if (lossy.follows() && p.transient) {
        auto& marks = p.transient->marks;
        for (const double t : fieldTimes(p))
            if (t > 0)
                marks.push_back(t);
        std::sort(marks.begin(), marks.end());
    }
    p.sourcesByOrder = true;
    p.sourcesDrift = lossy.follows();
    // Sources may not outlive the field, which holds both.
    const HeatSource* const source = &lossy;
    for (const int f : p.activePieces)
        if (source->losesIn(f) && (source->heatsEverywhere() || p.pieces[size_t(f)].heats))
            p.pieces[size_t(f)].sources.push_back(
                {[source](const fem::Spot& s) { return source->inside(s); }, unending});
    heatSides(source, partition, p);
    // Half of what a resistance between regions loses goes to either side.
    for (const auto& [side, joint] : p.joints)
        if (joint.heats && source->losesBetween(side))
            p.sides[side].flux.push_back(
                {-1, [source](const fem::Spot& s) { return source->between(s); }, unending});
    return p;
}

}  // namespace

HeatingField::HeatingField(std::unique_ptr<HeatSource> lossy, const TransportProblem& heat,
                           const mesh::Mesh& mesh, const shape::Partition& partition, int order,
                           base::Progress& progress)
    : m_lossy(std::move(lossy)),
      m_problem(heatedBy(*m_lossy, heat, partition)),
      m_heat(m_problem, mesh, partition, order, progress)
{
    m_quantities = m_heat.quantities();
    for (const Quantity& q : m_lossy->field().quantities())
        m_quantities.push_back(q);
    m_quantities.push_back({"loss", "power by volume", "W/m^3", 1});
}

void HeatingField::solve(int lowestOrder, base::Progress& progress)
{
    if (m_lossy->follows()) {
        solveInTurns(lowestOrder, progress);
        return;
    }
    m_lossy->solve(lowestOrder, progress);
    m_heat.solve(lowestOrder, progress);
}

std::vector<double> HeatingField::sampled(const HeatSource::Temperature& T) const
{
    const mesh::Mesh& m = m_heat.mesh();
    std::vector<double> list;
    for (int t = 0; t < m.cellCount(); ++t)
        if (m_problem.warms[size_t(m.piece[size_t(t)])])
            for (const Point& xi : {mesh::Geometry(m, t).centre(), Point{0, 0, 0}, Point{1, 0, 0},
                                    Point{0, 1, 0}, Point{0, 0, m.dimension == 3 ? 1.0 : 0.0}})
                list.push_back(T(t, xi));
    return list;
}

void HeatingField::solveAtEnd(int lowestOrder, const std::vector<double>& times,
                              base::Progress& progress)
{
    // All orders and the whole band, at the temperatures of the end.
    std::vector<HeatSource::Temperature> end(times.size());
    end.back() = m_heat.temperatureAt(times.back());
    m_lossy->warm(times, end, progress);
    m_lossy->solve(lowestOrder, progress);
    m_heat.solve(lowestOrder, progress);
}

void HeatingField::solveInTurns(int lowestOrder, base::Progress& progress)
{
    // Steps in time are not the same in every round, and err by their tolerance.
    constexpr int most = 25;
    const double settled = m_problem.transient ? m_problem.stepTolerance : 1e-5,
                 start = m_problem.start(m_problem.T);
    const std::vector<double> times = fieldTimes(m_problem);
    std::vector<HeatSource::Temperature> warm(times.size(),
                                              [start](int, const Point&) { return start; });
    std::vector<std::vector<double>> before;
    for (const auto& T : warm)
        before.push_back(sampled(T));
    double lastMoved = 1e300;
    int growing = 0;
    for (m_rounds = 1; m_rounds <= most; ++m_rounds) {
        progress.check();
        m_lossy->warm(times, warm, progress);
        m_heat.solve(order(), progress);
        double rise = 1e-9, largest = 0;
        std::vector<double> moved(times.size(), 0.0);
        for (size_t k = 0; k < times.size(); ++k) {
            warm[k] = m_heat.temperatureAt(times[k]);
            const auto now = sampled(warm[k]);
            for (size_t i = 0; i < now.size(); ++i) {
                moved[k] = std::max(moved[k], std::abs(now[i] - before[k][i]));
                rise = std::max(rise, std::abs(now[i] - start));
            }
            largest = std::max(largest, moved[k]);
        }
        m_unsettled = largest / rise;
        if (!std::isfinite(m_unsettled) || m_unsettled < settled)
            break;
        // What keeps growing has no end.
        constexpr int enough = 6;
        growing = largest > lastMoved ? growing + 1 : 0;
        lastMoved = largest;
        if (growing == enough)
            break;
        // What did not move need not be solved again.
        for (size_t k = 0; k < times.size(); ++k)
            if (moved[k] < settled * rise)
                warm[k] = {};
            else
                before[k] = sampled(warm[k]);
    }
    if (!(m_unsettled < settled))
        throw base::Error(
            5027,
            "temperature and field do not settle: what warms takes ever more from the "
            "wave; take less power, or look at the first seconds with a transient");
    solveAtEnd(lowestOrder, times, progress);
}

Counters HeatingField::counters() const
{
    Counters c = m_lossy->field().counters();
    const Counters h = m_heat.counters();
    c.unknowns += h.unknowns;
    c.iterations += h.iterations;
    c.assembleSeconds += h.assembleSeconds;
    c.factorSeconds += h.factorSeconds;
    c.solveSeconds += h.solveSeconds;
    return c;
}

void HeatingField::sample(int cell, const Point& xi, double* values) const
{
    m_heat.sample(cell, xi, values);
    for (const Quantity& q : m_heat.quantities())
        values += q.components;
    const Solution& field = m_lossy->field();
    field.sample(cell, xi, values);
    for (const Quantity& q : field.quantities())
        for (int k = 0; k < q.components; ++k)
            *values++ *= std::sqrt(m_lossy->share());
    *values = m_lossy->density(order(), cell, xi);
}

std::vector<double> HeatingField::indicator(bool allDrives) const
{
    std::vector<double> sum;
    for (const auto& part : {m_lossy->field().indicator(allDrives), m_heat.indicator(allDrives)}) {
        const double whole = std::accumulate(part.begin(), part.end(), 0.0);
        sum.resize(part.size(), 0.0);
        for (size_t t = 0; t < sum.size() && whole > 0; ++t)
            sum[t] += part[t] / whole;
    }
    return sum;
}

double HeatingField::geometryError() const
{
    return std::max(m_lossy->field().geometryError(), m_heat.geometryError());
}

}  // namespace yh::physics
