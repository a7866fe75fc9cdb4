// The asks of a sheet as functionals of the solved field.
#pragma once

#include "physics/electrostatic.h"
#include "run/estimate.h"
#include "run/report.h"
#include "sheet/model.h"

#include <functional>
#include <memory>
#include <vector>

namespace yh::run {

/// One ask: how its numbers follow from the field, and what they were so far.
struct Ask
{
    Finding finding;
    base::Dimension dimension;
    int degree = 2;  ///< 2: like an energy, 1: a local value
    bool capacitance = false;
    std::function<std::vector<double>(physics::ElectrostaticSolver&, int order)> evaluate;
    /// Places whose own (dual) error matters.
    std::function<std::vector<physics::ElectrostaticSolver::PointFunctional>(
        physics::ElectrostaticSolver&, const mesh::Locator&)>
        local;
    std::vector<int> pieces;         ///< largest field: where
    std::vector<History> histories;  ///< one a number
    /// Size that the accuracy refers to where the number itself may vanish (a force component).
    std::function<double(physics::ElectrostaticSolver&, int order)> scale;
    /// For checks: the same figure by another route; empty where there is none.
    std::function<std::vector<double>(physics::ElectrostaticSolver&)> secondRoute;
    std::string secondRouteName;
};

/// @param[out] faults  asks that make no sense with this shape and these conductors
[[nodiscard]] std::vector<Ask> makeAsks(const sheet::Model& model,
                                        const shape::Partition& partition,
                                        const physics::ElectrostaticProblem& problem,
                                        base::Faults& faults);

/// Conductors that a capacitance matrix is about: those with a given potential or charge and
/// named floating ones; the rest is eliminated as floating or held at zero.
struct ReducedMatrix
{
    std::vector<std::string> names;
    std::vector<int> index;
    std::vector<double> C;  ///< Maxwell form, F
};
[[nodiscard]] ReducedMatrix reducedMatrix(const physics::ElectrostaticProblem& problem,
                                          const physics::Potentials& potentials, bool keepFloating);

}  // namespace yh::run
