#include "physics/quasistatic/heat.h"

#include <algorithm>

namespace yh::physics {

namespace {

class CurrentHeat : public HeatSource
{
public:
    CurrentHeat(const QuasistaticProblem& current, const mesh::Mesh& mesh,
                const shape::Partition& partition, int order, base::Progress& progress)
        : m_current(current, mesh, partition, order, progress)
    {
    }
    Solution& field() override { return m_current; }
    bool heatsEverywhere() const override { return false; }
    bool losesIn(int piece) const override
    {
        return m_current.problem().conducts[size_t(piece)] != 0;
    }
    bool losesBetween(int side) const override
    {
        return m_current.problem().joints.count(side) > 0;
    }
    bool losesAlong(int side, int line) const override { return sheetOf(side, line) != nullptr; }
    double inside(const fem::Spot& s) const override { return density(s.order, s.cell, s.xi); }
    double between(const fem::Spot& s) const override { return m_current.jointLoss(s); }
    double along(int side, int line, const fem::Spot& s) const override
    {
        return m_current.sheetLoss(*sheetOf(side, line), s);
    }
    double density(int order, int cell, const Point& xi) const override
    {
        return m_current.lossDensity(order, cell, xi);
    }
    double power(int order, const std::vector<int>& pieces,
                 const std::vector<int>& lines) const override
    {
        return m_current.power(order, pieces) + m_current.sheetPower(order, lines);
    }

private:
    [[nodiscard]] const QuasistaticProblem::Sheet* sheetOf(int side, int line) const
    {
        const auto it = m_current.problem().sides.find(side);
        if (it == m_current.problem().sides.end())
            return nullptr;
        const auto sheet = std::find_if(it->second.begin(), it->second.end(),
                                        [line](const auto& s) { return s.line == line; });
        return sheet == it->second.end() ? nullptr : &*sheet;
    }

    QuasistaticSolver m_current;
};

}  // namespace

std::unique_ptr<HeatGiver> heatOfCurrents(const QuasistaticProblem& problem)
{
    return std::make_unique<HeatGiver>(HeatGiver{
        "alternating-heating",
        "nothing that the current loses heats: add a line such as `current heats in …`",
        {},
        [&problem](const auto& mesh, const auto& partition, int order, auto& progress) {
            return std::make_unique<CurrentHeat>(problem, mesh, partition, order, progress);
        }});
}

}  // namespace yh::physics
