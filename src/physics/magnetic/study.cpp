#include "physics/magnetic/asks.h"
#include "physics/magnetic/heat.h"

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
        return makeMagneticChecks(model, partition, as<MagneticSolver>(field), asks);
    }
    fem::Measure measure() const override { return m_problem->area; }
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
