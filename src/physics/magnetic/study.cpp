#include "physics/common/constants.h"
#include "physics/magnetic/asks.h"
#include "physics/magnetic/heat.h"
#include "physics/magnetic/solid.h"

#include <algorithm>

namespace yh::physics {

namespace {

class MagneticStudy : public Study
{
public:
    explicit MagneticStudy(std::unique_ptr<MagneticProblem> problem) : m_problem(std::move(problem))
    {
    }
    std::string name() const override { return "magnetic"; }
    const std::vector<int>& activePieces() const override { return m_problem->activePieces; }
    std::unique_ptr<Solution> on(const mesh::Mesh& mesh, const shape::Partition& partition,
                                 int order, base::Progress& progress) const override
    {
        if (m_problem->isSolid)
            return std::make_unique<SolidMagneticSolver>(*m_problem, mesh, partition, order,
                                                         progress);
        return std::make_unique<MagneticSolver>(*m_problem, mesh, partition, order, progress);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        return makeMagneticAsks(model, partition, *m_problem, faults);
    }
    std::vector<Check> checks(const sheet::Model& model, const shape::Partition& partition,
                              Solution& field, const std::vector<Ask>& asks) const override
    {
        return makeMagneticChecks(model, partition, as<MagneticField>(field), asks);
    }
    fem::Measure measure() const override { return m_problem->area; }
    /// What coils link is spread over more cells than an energy is.
    double solidShare(bool met) const override { return met ? 0.25 : 0.4; }
    /// In solids, lines of flux leave magnets, or else what coils magnetise.
    std::vector<char> lineSeeds(const shape::Partition& partition) const override
    {
        std::vector<char> seeds(partition.sides().size(), 0);
        const bool magnets = std::any_of(m_problem->media.begin(), m_problem->media.end(),
                                         [](const MagneticMedium& m) { return m.isMagnet(); });
        for (const int f : m_problem->activePieces) {
            const MagneticMedium& m = m_problem->media[size_t(f)];
            if (m_problem->isSolid && (magnets ? m.isMagnet() : m.mu > 2 * mu0))
                for (const int e : partition.pieces()[size_t(f)].sides)
                    seeds[size_t(e)] = 1;
        }
        return seeds;
    }
    std::string lineQuantity() const override { return m_problem->isSolid ? "B" : ""; }
    std::unique_ptr<HeatGiver> heat(const sheet::Model& model, base::Faults& faults) const override
    {
        if (!m_problem->alternates() && !m_problem->moves())
            faults.push_back(
                {7408,
                 {model.document().first("magnet") ? model.document().first("magnet")->id : -1,
                  {},
                  -1},
                 "a steady field heats nothing: let currents alternate or a conductor "
                 "move, or take the heat to a sheet of its own",
                 false});
        return heatOfInducedCurrents(*m_problem);
    }

private:
    std::unique_ptr<MagneticProblem> m_problem;
};

}  // namespace

std::unique_ptr<Study> magneticStudy(const sheet::Model& model, const shape::Partition& partition,
                                     base::Faults& faults)
{
    return std::make_unique<MagneticStudy>(defineMagnetic(model, partition, faults));
}

}  // namespace yh::physics
