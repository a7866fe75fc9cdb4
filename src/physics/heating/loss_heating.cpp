#include "physics/heating/loss_heating.h"

#include "physics/common/constants.h"

#include <algorithm>
#include <map>
#include <numeric>

namespace yh::physics {

namespace {

class LossyWave : public LossyField
{
public:
    LossyWave(const WaveProblem& wave, double power, const mesh::Mesh& mesh,
              const shape::Partition& partition, int order, base::Progress& progress)
        // Fields are those of half a watt into each port; those of dipoles and plane waves have the
        // strength that their lines state.
        : m_share(wave.ports.empty() ? 1.0 : power / (0.5 * wave.scale * wave.ports.front().share)),
          m_partition(partition),
          m_wave(wave, mesh, partition, order, progress)
    {
        for (int s = 0; s < mesh.sideCount(); ++s) {
            const auto& cells = mesh.sideCells[size_t(s)];
            if (cells[1] >= 0)
                for (const int k : {0, 1})
                    if (!wave.carries(mesh.piece[size_t(cells[size_t(k)])]))
                        m_beside.emplace(cells[size_t(k)], cells[size_t(1 - k)]);
        }
    }
    Solution& field() override { return m_wave; }
    double share() const override { return m_share; }
    void heat(TransportProblem& p) const override
    {
        const WaveProblem& w = m_wave.problem();
        for (const int f : p.activePieces)
            if (w.carries(f) && w.takesPower(size_t(f)))
                p.pieces[size_t(f)].sources.push_back(
                    {[this](const fem::Spot& s) {
                         return m_share *
                                between(s.time, [&](const auto& kept) { return known(kept, s); });
                     },
                     unending});
        // What the walls take warms the metal behind them, or what they stand on.
        for (size_t side = 0; side < w.sides.size(); ++side) {
            const int wall = w.sides[side];
            const auto& pieces = m_partition.sides()[side].pieces;
            if (wall >= 0 && std::any_of(pieces.begin(), pieces.end(),
                                         [&](int f) { return p.warms[size_t(f)] != 0; }))
                p.sides[int(side)].flux.push_back(
                    {-1, [this, wall](const fem::Spot& s) { return intoWall(wall, s); }, unending});
        }
    }
    bool follows() const override
    {
        const auto& media = m_wave.problem().dispersive;
        return std::any_of(media.begin(), media.end(), [](const auto& d) { return d.warms; });
    }
    void warm(const std::vector<double>& times, const std::vector<Temperature>& T,
              base::Progress& progress) override
    {
        m_times = times;
        m_kept.resize(T.size());
        for (size_t k = 0; k < T.size(); ++k)
            if (T[k]) {
                m_wave.warm(T[k]);
                m_wave.solveShown(progress);
                keep(k);
            }
    }
    void solve(int lowestOrder, base::Progress& progress) override
    {
        m_wave.solve(lowestOrder, progress);
        if (m_kept.empty())
            m_kept.resize(1);
        keep(m_kept.size() - 1);
    }
    double density(int order, int cell, const Point& xi) const override
    {
        return m_share * m_wave.lossOf(m_kept.back().fields, order, cell, xi);
    }
    double power(int order, const std::vector<int>& pieces, const std::vector<int>&) const override
    {
        const WaveProblem& w = m_wave.problem();
        return m_share * w.scale *
               (m_wave.absorbed(order, w.shown, 0, pieces) +
                m_wave.wallLoss(m_kept.back().fields, order, pieces));
    }

private:
    /// Fields, and what is known already of the heat that they set free: by order, cell and place.
    struct Kept
    {
        WaveDrivenSolver::Snapshot fields;
        using Places = std::vector<std::pair<Point, double>>;
        mutable std::array<std::vector<Places>, fem::highestEdgeOrder + 2> heat;
    };
    void keep(size_t k)
    {
        m_kept[k].fields = m_wave.snapshot();
        for (auto& list : m_kept[k].heat)
            list.assign(size_t(m_wave.mesh().cellCount()), {});
    }
    /// Steps in time ask for the same places again and again; each cell is one thread's at a time.
    double known(const Kept& kept, const fem::Spot& s) const
    {
        auto& places = kept.heat[size_t(s.order)][size_t(s.cell)];
        for (const auto& [xi, value] : places)
            if (xi.x == s.xi.x && xi.y == s.xi.y && xi.z == s.xi.z)
                return value;
        const double value = m_wave.lossOf(kept.fields, s.order, s.cell, s.xi);
        places.emplace_back(s.xi, value);
        return value;
    }
    /// What holds at a time, from the times at which the field is known.
    template <class Of>
    double between(double time, Of of) const
    {
        if (m_kept.size() == 1)
            return of(m_kept[0]);
        double sum = 0;
        for (size_t k = 0; k < m_kept.size(); ++k) {
            double share = 1;
            for (size_t j = 0; j < m_kept.size(); ++j)
                if (j != k)
                    share *= (time - m_times[j]) / (m_times[k] - m_times[j]);
            if (share != 0)
                sum += share * of(m_kept[k]);
        }
        return sum;
    }
    double wallLoss(int wall, const fem::Spot& s, int cell, const Point& xi) const
    {
        return m_share * between(s.time, [&](const auto& kept) {
                   return m_wave.wallLossOf(kept.fields, s.order, wall, cell, xi);
               });
    }
    /// W/m^2 at a place of a wall, seen from either of its sides.
    double intoWall(int wall, const fem::Spot& s) const
    {
        const mesh::Mesh& mesh = m_wave.mesh();
        if (m_wave.problem().carries(mesh.piece[size_t(s.cell)]))
            return wallLoss(wall, s, s.cell, s.xi);
        const auto [first, last] = m_beside.equal_range(s.cell);
        for (auto it = first; it != last; ++it) {
            const mesh::Geometry g(mesh, it->second);
            Point xi;
            constexpr double inside = -1e-6;
            if (g.invert(s.at, xi) && std::min({xi.x, xi.y, xi.z}) >= inside &&
                1 - xi.x - xi.y - xi.z >= inside)
                return wallLoss(wall, s, it->second, xi);
        }
        return 0;
    }

    double m_share;  ///< power over that of the fields shown
    const shape::Partition& m_partition;
    std::multimap<int, int> m_beside;  ///< cells of metal -> those that touch them
    WaveDrivenSolver m_wave;
    std::vector<double> m_times;  ///< s, of what is kept, where that is more than one
    std::vector<Kept> m_kept;
};

class LossyCurrent : public LossyField
{
public:
    LossyCurrent(const QuasistaticProblem& current, const mesh::Mesh& mesh,
                 const shape::Partition& partition, int order, base::Progress& progress)
        : m_current(current, mesh, partition, order, progress)
    {
    }
    Solution& field() override { return m_current; }
    void heat(TransportProblem& p) const override
    {
        for (const int f : p.activePieces)
            if (p.pieces[size_t(f)].heats)
                p.pieces[size_t(f)].sources.push_back(
                    {[this](const fem::Spot& s) { return density(s.order, s.cell, s.xi); },
                     unending});
        for (auto& [side, condition] : p.sides)
            for (const SideCondition::Sheet& sheet : condition.sheets)
                if (sheet.what.heats)
                    heatAlong(side, sheet.line, condition);
        // Half of what a resistance between regions loses goes to either side.
        for (const auto& [side, joint] : p.joints)
            if (joint.heats && m_current.problem().joints.count(side))
                p.sides[side].flux.push_back(
                    {-1, [this](const fem::Spot& s) { return m_current.jointLoss(s); }, unending});
    }
    double density(int order, int cell, const Point& xi) const override
    {
        return m_current.lossDensity(order, cell, xi);
    }
    double power(int order, const std::vector<int>& pieces,
                 const std::vector<int>& sheetLines) const override
    {
        return m_current.power(order, pieces) + m_current.sheetPower(order, sheetLines);
    }

private:
    void heatAlong(int side, int line, SideCondition& condition) const
    {
        const auto& sheets = m_current.problem().sides.at(side);
        const auto sheet = std::find_if(sheets.begin(), sheets.end(),
                                        [line](const auto& s) { return s.line == line; });
        condition.flux.push_back(
            {line,
             [this, &what = *sheet](const fem::Spot& s) { return m_current.sheetLoss(what, s); },
             unending});
    }

    QuasistaticSolver m_current;
};

/// Times at which a field that follows the temperature is known.
std::vector<double> fieldTimes(const TransportProblem& p)
{
    constexpr int places = 5;
    std::vector<double> times{0};
    for (int k = 1; k < places && p.transient; ++k)
        times.push_back(p.transient->duration * (1 - std::cos(k * pi / (places - 1))) / 2);
    return times;
}

TransportProblem heatedBy(const LossyField& lossy, const TransportProblem& heat)
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
    lossy.heat(p);
    return p;
}

}  // namespace

std::unique_ptr<LossyField> lossyWave(const WaveProblem& wave, double power, const mesh::Mesh& mesh,
                                      const shape::Partition& partition, int order,
                                      base::Progress& progress)
{
    return std::make_unique<LossyWave>(wave, power, mesh, partition, order, progress);
}

std::unique_ptr<LossyField> lossyCurrent(const QuasistaticProblem& current, const mesh::Mesh& mesh,
                                         const shape::Partition& partition, int order,
                                         base::Progress& progress)
{
    return std::make_unique<LossyCurrent>(current, mesh, partition, order, progress);
}

HeatingField::HeatingField(std::unique_ptr<LossyField> lossy, const TransportProblem& heat,
                           const mesh::Mesh& mesh, const shape::Partition& partition, int order,
                           base::Progress& progress)
    : m_lossy(std::move(lossy)),
      m_problem(heatedBy(*m_lossy, heat)),
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

std::vector<double> HeatingField::sampled(const LossyField::Temperature& T) const
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

void HeatingField::solveInTurns(int lowestOrder, base::Progress& progress)
{
    // Steps in time are not the same in every round, and err by their tolerance.
    constexpr int most = 25;
    const double settled = m_problem.transient ? m_problem.stepTolerance : 1e-5,
                 start = m_problem.start(m_problem.T);
    const std::vector<double> times = fieldTimes(m_problem);
    std::vector<LossyField::Temperature> warm(times.size(),
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
    // All orders and the whole band, at the temperatures of the end.
    std::vector<LossyField::Temperature> end(times.size());
    end.back() = m_heat.temperatureAt(times.back());
    m_lossy->warm(times, end, progress);
    m_lossy->solve(lowestOrder, progress);
    m_heat.solve(lowestOrder, progress);
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
