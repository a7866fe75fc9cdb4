#include "physics/elastic/asks.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

namespace {

using Task = ElasticProblem::Task;

class ElasticStudy : public Study
{
public:
    explicit ElasticStudy(std::unique_ptr<ElasticProblem> problem) : m_problem(std::move(problem))
    {
    }
    std::string name() const override { return "elastic"; }
    const std::vector<int>& activePieces() const override { return m_problem->activePieces; }
    std::unique_ptr<Solution> on(const mesh::Mesh& mesh, const shape::Partition& partition,
                                 int order, base::Progress& progress) const override
    {
        return std::make_unique<ElasticSolver>(*m_problem, mesh, partition, order, progress);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        return makeElasticAsks(model, partition, *m_problem, faults);
    }
    std::vector<Check> checks(const sheet::Model& model, const shape::Partition&, Solution& field,
                              const std::vector<Ask>&) const override
    {
        return makeElasticChecks(model, as<ElasticSolver>(field));
    }
    std::vector<SingularCorner> corners(const mesh::Mesh& mesh,
                                        const shape::Partition& partition) const override
    {
        return ElasticSolver::corners(*m_problem, mesh, partition);
    }
    /// One shear wave at the end of the band is as long as a cell of the first mesh, at most.
    std::vector<mesh::SizeRule> cellSizes() const override
    {
        std::vector<mesh::SizeRule> rules;
        for (const int f : m_problem->activePieces)
            if (const ElasticMedium& m = m_problem->media[size_t(f)];
                m.moves && m_problem->task == Task::band)
                rules.push_back({f, -1, std::sqrt(m.c(3, 3).real() / m.density) / m_problem->high});
        return rules;
    }
    fem::Measure measure() const override { return m_problem->area; }

private:
    std::unique_ptr<ElasticProblem> m_problem;
};

}  // namespace

std::unique_ptr<Study> elasticStudy(const sheet::Model& model, const shape::Partition& partition,
                                    base::Faults& faults)
{
    return std::make_unique<ElasticStudy>(defineElastic(model, partition, faults));
}

}  // namespace yh::physics
