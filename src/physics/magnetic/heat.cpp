#include "physics/magnetic/heat.h"

namespace yh::physics {

namespace {

class InducedHeat : public HeatSource
{
public:
    InducedHeat(const MagneticProblem& problem, const mesh::Mesh& mesh,
                const shape::Partition& partition, int order, base::Progress& progress)
        : m_field(problem, mesh, partition, order, progress)
    {
    }
    Solution& field() override { return m_field; }
    bool losesIn(int piece) const override
    {
        return m_field.problem().media[size_t(piece)].sigma > 0;
    }
    double inside(const fem::Spot& s) const override { return density(s.order, s.cell, s.xi); }
    double density(int order, int cell, const Point& xi) const override
    {
        return m_field.lossDensity(order, cell, xi);
    }
    double power(int order, const std::vector<int>& pieces, const std::vector<int>&) const override
    {
        return m_field.loss(order, pieces);
    }

private:
    MagneticSolver m_field;
};

}  // namespace

std::unique_ptr<HeatGiver> heatOfInducedCurrents(const MagneticProblem& problem)
{
    return std::make_unique<HeatGiver>(HeatGiver{
        "induction-heating",
        "no current is induced in anything that conducts: nothing is heated",
        {},
        [&problem](const auto& mesh, const auto& partition, int order, auto& progress) {
            return std::make_unique<InducedHeat>(problem, mesh, partition, order, progress);
        }});
}

}  // namespace yh::physics
