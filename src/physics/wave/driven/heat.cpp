// The heat that a wave leaves in media and walls.
//
//   q = (omega eps0 eps tan(delta) + sigma) |E|^2 / 2
//
// with E of the frequency that is shown, scaled to the power that comes in through a port. What a
// wave loses in walls of metal warms them; heat flows in the metal, which the wave does not enter.
// Over time the field is known at a few times, with the temperatures of the round before, and the
// heat that it sets free between them by their polynomial.
// Source: Pozar, Microwave Engineering, section 1.6 (from memory).
#include "physics/wave/driven/heat.h"

#include "physics/common/constants.h"
#include "physics/wave/driven/driven.h"

#include <algorithm>
#include <array>
#include <map>

namespace yh::physics {

namespace {

class WaveHeat : public HeatSource
{
public:
    WaveHeat(const WaveProblem& wave, double power, const mesh::Mesh& mesh,
             const shape::Partition& partition, int order, base::Progress& progress)
        // Fields are those of what each port is driven with; those of dipoles and plane waves have
        // the strength that their lines state.
        : m_share(wave.ports.empty()
                      ? 1.0
                      : power / (wave.scale * wave.ports.front().drive * wave.ports.front().share)),
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
    bool losesIn(int piece) const override
    {
        const WaveProblem& w = m_wave.problem();
        return w.carries(piece) && w.takesPower(size_t(piece));
    }
    /// What the walls take warms the metal behind them, or what they stand on.
    bool losesOn(int side) const override { return m_wave.problem().sides[size_t(side)] >= 0; }
    double inside(const fem::Spot& s) const override
    {
        return m_share * between(s.time, [&](const auto& kept) { return known(kept, s); });
    }
    double on(int side, const fem::Spot& s) const override
    {
        return intoWall(m_wave.problem().sides[size_t(side)], s);
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

    double m_share;                    ///< power over that of the fields shown
    std::multimap<int, int> m_beside;  ///< cells of metal -> those that touch them
    WaveDrivenSolver m_wave;
    std::vector<double> m_times;  ///< s, of what is kept, where that is more than one
    std::vector<Kept> m_kept;
};

}  // namespace

std::unique_ptr<HeatGiver> heatOfWaves(const WaveProblem& wave, const sheet::Model& model,
                                       base::Faults& faults)
{
    const sheet::Document& document = model.document();
    for (const auto& [kind, what] :
         {std::pair{"periodic pair", "between periodic sides heat is not followed yet"},
          {"resistive sheet", "what a film takes does not heat yet; draw it as a region"},
          {"wire", "what a thin wire takes does not heat yet; draw it as a cylinder of metal"}})
        if (const sheet::Line* l = document.first(kind))
            faults.push_back({7084, {l->id, {}, -1}, what, false});
    const sheet::Line* band = document.first("band");
    const auto power = model.optionalNumber(*band, "power");
    if (!power && !wave.ports.empty())
        faults.push_back({6225,
                          {band->id, "power", -1},
                          "how much power comes in? without it nothing is heated",
                          true});
    if (power && wave.ports.empty())
        faults.push_back({6235,
                          {band->id, "power", 0},
                          "this is the power into a port; how strong a dipole or a plane wave is, "
                          "its own line says",
                          false});
    return std::make_unique<HeatGiver>(HeatGiver{
        "microwave-heating",
        "no medium here takes anything from the wave: nothing is heated",
        {"scale of waves"},
        [&wave, watts = power.value_or(1)](const auto& mesh, const auto& partition, int order,
                                           auto& progress) {
            return std::make_unique<WaveHeat>(wave, watts, mesh, partition, order, progress);
        }});
}

}  // namespace yh::physics
