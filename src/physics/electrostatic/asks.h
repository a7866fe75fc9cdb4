// Figures of the electrostatic field.
#pragma once

#include "physics/common/ask.h"
#include "physics/electrostatic/electrostatic.h"

#include <map>
#include <string>
#include <vector>

namespace yh::physics {

/// @param[out] faults  asks that make no sense with this shape and these conductors
[[nodiscard]] std::vector<Ask> makeElectrostaticAsks(const sheet::Model& model,
                                                     const shape::Partition& partition,
                                                     const ElectrostaticProblem& problem,
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
[[nodiscard]] ReducedMatrix reducedMatrix(const ElectrostaticSolver& solver, int order,
                                          const std::map<std::string, std::string>& image,
                                          bool keepFloating);

}  // namespace yh::physics
