#include "physics/microwave_heating.h"

#include <algorithm>
#include <numeric>

namespace yh::physics {

HeatingField::HeatingField(const WaveProblem& wave, const TransportProblem& heat, double power,
                           const mesh::Mesh& mesh, const shape::Partition& partition, int order,
                           base::Progress& progress)
    // Fields are those of half a watt into the modelled part.
    : m_share(power / (0.5 * wave.scale)),
      m_mesh(mesh),
      m_locator(mesh),
      m_wave(wave, mesh, partition, order, progress),
      m_problem(heated(heat)),
      m_heat(m_problem, mesh, partition, order, progress)
{
    m_quantities = m_heat.quantities();
    for (const Quantity& q : m_wave.quantities())
        m_quantities.push_back(q);
    m_quantities.push_back({"loss", "power by volume", "W/m^3", 1});
}

TransportProblem HeatingField::heated(const TransportProblem& heat)
{
    TransportProblem p = heat;
    for (const int f : p.activePieces) {
        const auto& w = m_wave.problem();
        if (w.loss[size_t(f)] <= 0 && w.sigma[size_t(f)] <= 0)
            continue;
        p.pieces[size_t(f)].sources.push_back(
            {[this](Point at) {
                 const auto hit = m_locator.find(at);
                 return hit.cell < 0 ? 0.0 : m_share * m_wave.lossDensity(hit.cell, hit.xi);
             },
             unending});
    }
    return p;
}

void HeatingField::solve(int lowestOrder, base::Progress& progress)
{
    m_wave.solve(lowestOrder, progress);
    m_heat.solve(lowestOrder, progress);
}

Counters HeatingField::counters() const
{
    Counters c = m_wave.counters();
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
    m_wave.sample(cell, xi, values);
    for (const Quantity& q : m_wave.quantities())
        for (int k = 0; k < q.components; ++k)
            *values++ *= std::sqrt(m_share);
    *values = m_share * m_wave.lossDensity(cell, xi);
}

std::vector<double> HeatingField::indicator(bool allDrives) const
{
    std::vector<double> sum(size_t(m_mesh.cellCount()), 0.0);
    for (const auto& part : {m_wave.indicator(allDrives), m_heat.indicator(allDrives)}) {
        const double whole = std::accumulate(part.begin(), part.end(), 0.0);
        for (size_t t = 0; t < sum.size() && whole > 0; ++t)
            sum[t] += part[t] / whole;
    }
    return sum;
}

double HeatingField::geometryError() const
{
    return std::max(m_wave.geometryError(), m_heat.geometryError());
}

double HeatingField::absorbed(int order, const std::vector<int>& pieces) const
{
    return m_share * m_wave.problem().scale *
           m_wave.absorbed(order, m_wave.problem().shown, 0, pieces);
}

}  // namespace yh::physics
