// The asks of a sheet as functionals of the solved field.
#pragma once

#include "physics/electrostatic.h"
#include "physics/field.h"
#include "run/estimate.h"
#include "run/report.h"
#include "sheet/model.h"

#include <array>
#include <functional>
#include <map>
#include <memory>
#include <vector>

namespace yh::run {

/// One ask: how its numbers follow from the field, and what they were so far.
struct Ask
{
    Finding finding;
    base::Dimension dimension;
    int degree = 2;          ///< 2: like an energy, 1: a local value
    bool allDrives = false;  ///< leans on the field of every drive (a matrix)
    std::function<std::vector<double>(physics::Field&, int order)> evaluate;
    /// Places whose own (dual) error matters.
    std::function<std::vector<physics::PointFunctional>(physics::Field&, const mesh::Locator&)>
        local;
    /// Where the largest value sits; for figures that singular corners may leave without limit.
    std::function<mesh::Locator::Hit(physics::Field&, int order)> where;
    std::vector<History> histories;  ///< one a number
    /// Makes one number of several that were evaluated, with its error.
    std::function<void(Finding&)> reduce;
    /// Size that the accuracy refers to where the number itself may vanish (a force component).
    std::function<double(physics::Field&, int order)> scale;
    /// For checks: the same figure by another route; empty where there is none.
    std::function<std::vector<double>(physics::Field&)> secondRoute;
    std::string secondRouteName;
    /// Course over time in a transient: time in s and value.
    std::function<std::vector<std::array<double, 2>>(physics::Field&)> history;
    /// Curves as the text of a CSV file, and further files by name.
    std::function<std::string(physics::Field&)> curves;
    std::function<std::vector<std::pair<std::string, std::string>>(physics::Field&)> files;
    double offset = 0.0;  ///< the accuracy is relative to the distance from here (temperatures)
};

/// An ask with what its line says about name, unit, accuracy and limits.
[[nodiscard]] Ask beginAsk(const sheet::Model& model, const sheet::Line& line,
                           const base::Dimension& dimension, const std::string& name);

/// @param[out] faults  asks that make no sense with this shape and these conductors
[[nodiscard]] std::vector<Ask> makeElectrostaticAsks(const sheet::Model& model,
                                                     const shape::Partition& partition,
                                                     const physics::ElectrostaticProblem& problem,
                                                     base::Faults& faults);

/// Capacitances between the conductors that a matrix is about: those with a given potential or
/// charge and named floating ones; the rest is eliminated as floating or held at zero.
struct ReducedMatrix
{
    std::vector<std::string> names;
    std::vector<double> C;  ///< Maxwell form, whole device, F; shape (names, names)
    [[nodiscard]] double entry(const std::string& a, const std::string& b) const;
};
/// @param image  name of the line that stands for the mirror image of a conductor behind an odd
///               plane; conductors without one get a name made of their own
[[nodiscard]] ReducedMatrix reducedMatrix(const physics::ElectrostaticSolver& solver, int order,
                                          const std::map<std::string, std::string>& image,
                                          bool keepFloating);

}  // namespace yh::run
