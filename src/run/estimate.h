// Numerical error of a figure from its values for several element orders and passes.
#pragma once

#include <vector>

namespace yh::run {

/// Values of one figure on the meshes of all passes so far.
struct History
{
    /// By pass: value for the lowest, …, highest order that was solved.
    std::vector<std::vector<double>> byOrder;
    /// By pass: what the next order would change in the newest of these, as weighed by the figure's
    /// own field; empty where that is not known. The value already holds it.
    std::vector<double> change;
    /// Whether energies come near from one side, as those of potentials do and those of waves do
    /// not.
    bool isDefinite = true;
};

/// What passes say is still missing in the newest value beyond the next order, to be added to it:
/// at edges and corners that order finds a part only, on every mesh about the same one. 0 where
/// they say nothing, and of local values.
[[nodiscard]] double missing(const History& history, int degree);

/// Error of the newest value of the highest order; not a number where there is nothing to compare
/// it with: one pass, and one order without a look at the next.
///
/// Two views, the larger counts. On the newest mesh the differences between orders form a
/// decreasing series, whose rest is summed as geometric. From pass to pass the same is done with
/// the differences between meshes. Where the change by the next order is known, it counts in place
/// of both, times how much more than it the figure moved from the pass before; where missing()
/// tells of more, that is taken to be in the figure. What a figure owes to quadratic borders is
/// added.
/// @param geometry  share of the figure that curved borders may be wrong by
/// @param degree    2 for figures that are energies (their error is the square of the field's),
///                  1 for local values
/// @param offset    from which the figure counts, as a temperature does from the coldest one given
[[nodiscard]] double estimateError(const History& history, double geometry, int degree,
                                   double offset = 0);

}  // namespace yh::run
