// The asks of a sheet as functionals of a solution.
#pragma once

#include "base/quantity.h"
#include "physics/common/finding.h"
#include "physics/common/solution.h"
#include "sheet/model.h"

#include <any>
#include <array>
#include <functional>
#include <string>
#include <utility>
#include <vector>

namespace yh::physics {

/// The numbers of a figure, and what is to be kept with them for its note or its refinement: a
/// direction, a field line. Each evaluation has its own, so that a later one at another order does
/// not take the place of an earlier one's.
struct Evaluated : std::vector<double>
{
    Evaluated(std::vector<double> numbers, std::any what = {})
        : std::vector<double>(std::move(numbers)), with(std::move(what))
    {
    }
    std::any with;
};

/// One ask: how its numbers follow from the field, and what they were so far.
struct Ask
{
    Finding finding;
    base::Dimension dimension;
    int degree = 2;          ///< 2: like an energy, 1: a local value
    bool allDrives = false;  ///< leans on the field of every drive (a matrix)
    std::function<Evaluated(physics::Solution&, int order)> evaluate;
    /// Of a square matrix: what the highest order changes in each entry, cell by cell without
    /// regard to sign; same shape. Entries whose parts cancel by chance are known no better.
    std::function<std::vector<double>(physics::Solution&)> uncancelled;
    /// Places whose own (dual) error matters.
    std::function<std::vector<physics::LocalFunctional>(physics::Solution&, const mesh::Locator&,
                                                        const std::any& with)>
        local;
    /// Where the largest value sits; for figures that singular corners may leave without limit.
    std::function<mesh::Locator::Hit(physics::Solution&, int order)> where;
    /// Makes one number of several that were evaluated, with its error.
    std::function<void(Finding&, const std::any& with)> reduce;
    /// Size that the accuracy refers to where the number itself may vanish (a force component).
    std::function<double(physics::Solution&, int order)> scale;
    /// For checks: the same figure by another route; empty where there is none.
    std::function<std::vector<double>(physics::Solution&)> secondRoute;
    std::string secondRouteName;
    /// Course over time in a transient: time in s and value.
    std::function<std::vector<std::array<double, 2>>(physics::Solution&)> history;
    /// Curves as the text of a CSV file, and further files by name.
    std::function<std::string(physics::Solution&)> curves;
    std::function<std::vector<std::pair<std::string, std::string>>(physics::Solution&)> files;
    double offset = 0.0;  ///< the accuracy is relative to the distance from here (temperatures)
};

/// An ask with what its line says about name, unit, accuracy and limits.
[[nodiscard]] Ask beginAsk(const sheet::Model& model, const sheet::Line& line,
                           const base::Dimension& dimension, const std::string& name);

}  // namespace yh::physics
