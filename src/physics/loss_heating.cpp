#include "physics/loss_heating.h"

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
        // Fields are those of half a watt into the modelled part; those of dipoles and plane waves
        // have the strength that their lines state.
        : m_share(wave.ports.empty() ? 1.0 : power / (0.5 * wave.scale)),
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
    Field& field() override { return m_wave; }
    double share() const override { return m_share; }
    void heat(TransportProblem& p) const override
    {
        const WaveProblem& w = m_wave.problem();
        for (const int f : p.activePieces)
            if (w.carries(f) && w.takesPower(size_t(f)))
                p.pieces[size_t(f)].sources.push_back(
                    {[this](const fem::Spot& s) { return density(s.order, s.cell, s.xi); },
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
    double density(int order, int cell, const Point& xi) const override
    {
        return m_share * m_wave.lossDensity(order, cell, xi);
    }
    double power(int order, const std::vector<int>& pieces, const std::vector<int>&) const override
    {
        const WaveProblem& w = m_wave.problem();
        return m_share * w.scale *
               (m_wave.absorbed(order, w.shown, 0, pieces) + m_wave.wallLoss(order, pieces));
    }

private:
    /// W/m^2 at a place of a wall, seen from either of its sides.
    double intoWall(int wall, const fem::Spot& s) const
    {
        const mesh::Mesh& mesh = m_wave.mesh();
        if (m_wave.problem().carries(mesh.piece[size_t(s.cell)]))
            return m_share * m_wave.wallLossDensity(s.order, wall, s.cell, s.xi);
        const auto [first, last] = m_beside.equal_range(s.cell);
        for (auto it = first; it != last; ++it) {
            const mesh::Geometry g(mesh, it->second);
            Point xi;
            constexpr double inside = -1e-6;
            if (g.invert(s.at, xi) && std::min({xi.x, xi.y, xi.z}) >= inside &&
                1 - xi.x - xi.y - xi.z >= inside)
                return m_share * m_wave.wallLossDensity(s.order, wall, it->second, xi);
        }
        return 0;
    }

    double m_share;  ///< power over that of the fields shown
    const shape::Partition& m_partition;
    std::multimap<int, int> m_beside;  ///< cells of metal -> those that touch them
    WaveDrivenSolver m_wave;
};

class LossyCurrent : public LossyField
{
public:
    LossyCurrent(const QuasistaticProblem& current, const mesh::Mesh& mesh,
                 const shape::Partition& partition, int order, base::Progress& progress)
        : m_current(current, mesh, partition, order, progress)
    {
    }
    Field& field() override { return m_current; }
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

TransportProblem heatedBy(const LossyField& lossy, const TransportProblem& heat)
{
    TransportProblem p = heat;
    p.sourcesByOrder = true;
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
    m_lossy->field().solve(lowestOrder, progress);
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
    const Field& field = m_lossy->field();
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
