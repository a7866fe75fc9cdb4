#include "run/estimate.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>

namespace yh::run {

namespace {

/// Rest of a geometric series that begins behind `last`, whose ratio is guessed from the term
/// before it. The bounds keep a lucky or chaotic pair of terms from deciding: no method here
/// gains more than the lower bound in a step, and one that gains less than the upper converges
/// too slowly for any extrapolation.
double rest(double last, double before, double lowest, double highest)
{
    const double ratio = before > 0 ? std::clamp(last / before, lowest, highest) : highest;
    return last * ratio / (1 - ratio);
}

/// How much more than the next order finds is missing, as a share of that, and how sure it is.
struct Trend
{
    double share, unsure;
};

/// At edges the next order finds only a part of what is missing, on every mesh about the same: what
/// the figure moved by from pass to pass, over what the next order's change fell by, tells which.
std::optional<double> shareFrom(const History& h, size_t pass)
{
    constexpr double fallsBy = 0.3, least = -0.15, most = 2;
    const double before = h.change[pass - 1], fell = before - h.change[pass];
    if (!(before * h.change[pass] > 0 &&
          std::abs(h.change[pass]) < (1 - fallsBy) * std::abs(before)))
        return std::nullopt;
    const double share = (h.byOrder[pass].back() - h.byOrder[pass - 1].back()) / fell;
    return share > least && share < most ? std::optional(share) : std::nullopt;
}

std::optional<Trend> trendOf(const History& h, int degree)
{
    const size_t n = h.change.size();
    if (degree != 2 || !h.isDefinite || n < 2 || n != h.byOrder.size())
        return std::nullopt;
    const auto share = shareFrom(h, n - 1);
    if (!share)
        return std::nullopt;
    const double more = std::max(*share, 0.0);
    // Of ten solids with edges, corners and without, shares fell by up to a quarter from one pass
    // to the next, and figures without edges were off by up to a tenth of the change.
    if (const auto before = n >= 3 ? shareFrom(h, n - 2) : std::nullopt)
        return Trend{more, std::max({0.12, 0.25 * more, std::abs(*share - *before)})};
    // The second mesh is the first that suits the field.
    return Trend{more, std::max(0.3, 0.5 * more)};
}

}  // namespace

double missing(const History& history, int degree)
{
    const auto trend = trendOf(history, degree);
    return trend ? trend->share * history.change.back() : 0.0;
}

double estimateError(const History& history, double geometry, int degree, double offset)
{
    const size_t n = history.byOrder.size();
    if (n == 0)
        return std::numeric_limits<double>::infinity();
    const auto& now = history.byOrder.back();
    if (n == 1 && now.size() == 1 && history.change.size() != n)
        return std::numeric_limits<double>::quiet_NaN();
    const double value = now.back();
    double byOrder = 0;
    if (now.size() >= 3) {
        const double last = std::abs(now[now.size() - 1] - now[now.size() - 2]),
                     before = std::abs(now[now.size() - 2] - now[now.size() - 3]);
        // Energies converge twice as fast as local values, whose single differences are erratic.
        byOrder = degree == 2 ? rest(last, before, 0.02, 0.6) : rest(last, before, 0.15, 0.75);
    } else if (now.size() == 2) {
        // The difference is the error of the lower order. From its second pass on a mesh suits the
        // field, and the higher order then gains at least these factors, edges of solids included.
        double gain = n < 2 ? 1.0 : degree == 2 ? 0.2 : 0.35;
        // From the third pass on the passes before tell how much it gains here: what the higher
        // order moved by in a pass is the error it had, of which the lower one's is known.
        if (n >= 3) {
            const double least = degree == 2 ? 0.02 : 0.05, safety = 3, fades = 0.5;
            double seen = 0;
            for (size_t i = 1; i < n; ++i) {
                const auto &was = history.byOrder[i - 1], &is = history.byOrder[i];
                const double apart = std::abs(was[1] - was[0]);
                seen = std::max(fades * seen, apart > 0 ? std::abs(is[1] - was[1]) / apart : 1.0);
            }
            gain = std::clamp(safety * seen, least, gain);
        }
        double apart = std::abs(now[1] - now[0]);
        // Orders that agree by chance: a pass brings them no nearer than that.
        constexpr double nearest = 0.25;
        if (n >= 3)
            apart = std::max(
                apart, nearest * std::abs(history.byOrder[n - 2][1] - history.byOrder[n - 2][0]));
        byOrder = gain * apart;
    }
    double byPass = 0;
    if (n >= 2) {
        const double last = std::abs(value - history.byOrder[n - 2].back());
        const double before =
            n >= 3 ? std::abs(history.byOrder[n - 2].back() - history.byOrder[n - 3].back()) : 0.0;
        byPass = degree == 2 ? rest(last, before, 0.05, n >= 3 ? 0.6 : 0.25)
                             : rest(last, before, 0.15, 0.5);
    }
    if (const auto trend = trendOf(history, degree)) {
        byOrder = trend->unsure * std::abs(history.change.back());
        byPass = 0;
    } else if (history.change.size() == n) {
        // The pass before tells how much of what is missing the next order finds. Most of the first
        // change is taken to be right.
        // Of a value at a place the next order finds less surely what is missing.
        constexpr double unseen = 2.0, most = 10.0, shrinks = 0.3;
        const double least = degree == 2 ? 0.5 : 1.0;
        double share = unseen;
        // Small by chance: the order before was not much nearer than that on the first meshes.
        constexpr double nearestOrder = 0.03;
        double change = std::max(std::abs(history.change[n - 1]),
                                 history.isDefinite && n <= 2 && now.size() == 2
                                     ? nearestOrder * std::abs(value - now[0])
                                     : 0.0);
        if (n >= 2) {
            const double before = std::abs(history.change[n - 2]),
                         fell = std::max(before - change, shrinks * before),
                         moved = std::abs(value - history.byOrder[n - 2].back());
            // The second mesh is the first that suits the field: what it tells is no less. Changes
            // of either sign tell little of each other.
            const bool turns =
                history.isDefinite && history.change[n - 1] * history.change[n - 2] < 0;
            const double lowest = n == 2 ? unseen : turns ? 3 * least : least;
            share = fell > 0 ? std::clamp(moved / fell, lowest, most) : most;
            // What moves far more than that owes it to something else, such as data that jump.
            if (moved <= most * fell)
                byPass = 0;
            // A pass takes no more of it away than that either.
            constexpr double nearest = 0.15;
            if (history.isDefinite && n >= 3)
                change = std::max(change, nearest * before);
        }
        byOrder = share * change;
    }
    // What rounding in the factorisation leaves.
    constexpr double rounding = 2e-13;
    // Neither view is a bound. This factor brings the truth within the stated error in more than
    // nine of ten exact problems (tests/run/tst_exact) while it stays well below twenty times it.
    constexpr double caution = 1.7;
    return caution * (std::max(byOrder, byPass) + geometry * std::abs(value - offset)) +
           rounding * std::abs(value);
}

}  // namespace yh::run
