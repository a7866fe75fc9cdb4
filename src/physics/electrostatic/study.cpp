#include "physics/common/study.h"

#include "physics/electrostatic/checks.h"

namespace yh::physics {

namespace {

class ElectrostaticStudy : public Study
{
public:
    explicit ElectrostaticStudy(ElectrostaticProblem problem) : m_problem(std::move(problem)) {}

    std::string name() const override { return "electrostatic"; }
    const std::vector<int>& activePieces() const override { return m_problem.activePieces; }
    std::unique_ptr<Solution> on(const mesh::Mesh& mesh, const shape::Partition& partition,
                                 int order, base::Progress& progress) const override
    {
        return std::make_unique<ElectrostaticSolver>(m_problem, mesh, partition, order, progress);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        return makeElectrostaticAsks(model, partition, m_problem, faults);
    }
    std::vector<Check> checks(const sheet::Model& model, const shape::Partition& partition,
                              Solution& field, const std::vector<Ask>& asks) const override
    {
        return makeElectrostaticChecks(model, partition, as<ElectrostaticSolver>(field), asks);
    }
    std::vector<SingularCorner> corners(const mesh::Mesh& mesh,
                                        const shape::Partition& partition) const override
    {
        return findSingularCorners(m_problem, mesh, partition);
    }
    std::vector<char> lineSeeds(const shape::Partition& partition) const override
    {
        std::vector<char> metal(partition.sides().size(), 0);
        for (const auto& c : m_problem.conductors)
            for (const int e : c.sides)
                metal[size_t(e)] = c.name != "infinity";
        return metal;
    }
    std::string lineQuantity() const override { return "D"; }
    fem::Measure measure() const override { return m_problem.measure; }

private:
    ElectrostaticProblem m_problem;
};

}  // namespace

std::unique_ptr<Study> electrostaticStudy(const sheet::Model& model,
                                          const shape::Partition& partition, base::Faults& faults)
{
    return std::make_unique<ElectrostaticStudy>(defineElectrostatic(model, partition, faults));
}

}  // namespace yh::physics
