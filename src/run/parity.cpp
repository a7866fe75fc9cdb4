#include "run/parity.h"

#include "physics/electrostatic.h"

#include <algorithm>
#include <cmath>

namespace yh::run {

using physics::Point;

namespace {

/// Whether a point lies in closed outlines, by counting crossings.
bool isInside(const std::vector<std::vector<Point>>& outlines, Point p)
{
    bool inside = false;
    for (const auto& o : outlines)
        for (size_t i = 0, j = o.size() - 1; i < o.size(); j = i++)
            if ((o[i].y > p.y) != (o[j].y > p.y) &&
                p.x < (o[j].x - o[i].x) * (p.y - o[i].y) / (o[j].y - o[i].y) + o[i].x)
                inside = !inside;
    return inside;
}

/// What counts at a place: its material, or the conductor's kind and potential.
struct Filling
{
    bool conductor = false;
    double voltage = 0.0;
    std::string material;
};

}  // namespace

Parity parityOf(const sheet::Model& model, const std::string& plane, const std::string& folder)
{
    sheet::Document whole = model.document();
    std::erase_if(whole.lines, [](const sheet::Line& l) {
        return l.kind == "mirror plane" || l.kind == "outer edge";
    });
    const sheet::Model uncut(whole);
    const auto partition = shape::Partition::build(uncut, folder);
    base::Faults ignored;
    const auto problem = physics::defineElectrostatic(uncut, partition, ignored);
    std::vector<Filling> filling(partition.pieces().size());
    for (size_t f = 0; f < filling.size(); ++f)
        filling[f].material = problem.material[f];
    for (const auto& c : problem.conductors)
        for (const int f : c.pieces) {
            if (c.kind != physics::Conductor::Kind::voltage)
                return Parity::none;
            filling[size_t(f)] = {true, c.value, {}};
        }
    std::vector<std::vector<std::vector<Point>>> outlines;
    Point low{1e300, 1e300}, high{-1e300, -1e300};
    for (size_t f = 0; f < partition.pieces().size(); ++f) {
        outlines.push_back(partition.outlines(int(f)));
        for (const auto& o : outlines.back())
            for (const Point& p : o) {
                low = {std::min(low.x, p.x), std::min(low.y, p.y)};
                high = {std::max(high.x, p.x), std::max(high.y, p.y)};
            }
    }
    auto at = [&](Point p) -> const Filling* {
        for (size_t f = 0; f < outlines.size(); ++f)
            if (isInside(outlines[f], p))
                return &filling[f];
        return nullptr;
    };
    const bool x = plane == "x = 0";
    bool even = true, odd = true, driven = false;
    // A grid off the likely symmetry lines, plus a point of every region.
    std::vector<Point> samples;
    constexpr int steps = 41;
    for (int i = 0; i < steps; ++i)
        for (int j = 0; j < steps; ++j)
            samples.push_back({low.x + (high.x - low.x) * (i + 0.37) / steps,
                               low.y + (high.y - low.y) * (j + 0.41) / steps});
    for (const auto& f : partition.pieces())
        samples.push_back(f.inside);
    // Curves are drawn as polylines that need not be mirror images of each other: a few samples
    // beside them may differ, the regions' own points may not.
    const size_t onGrid = samples.size() - partition.pieces().size();
    size_t evenMisses = 0, oddMisses = 0, filled = 0;
    for (size_t k = 0; k < samples.size(); ++k) {
        const Point& p = samples[k];
        const Filling *a = at(p), *b = at(x ? Point{-p.x, p.y} : Point{p.x, -p.y});
        if (!a && !b)
            continue;
        ++filled;
        bool sameEven = a && b && a->conductor == b->conductor && a->material == b->material;
        bool sameOdd = sameEven;
        if (sameEven && a->conductor) {
            const double scale = 1e-9 * (std::abs(a->voltage) + std::abs(b->voltage));
            driven = driven || a->voltage != 0;
            sameEven = std::abs(a->voltage - b->voltage) <= scale;
            sameOdd = std::abs(a->voltage + b->voltage) <= scale;
        }
        evenMisses += !sameEven;
        oddMisses += !sameOdd;
        even = even && (sameEven || k < onGrid);
        odd = odd && (sameOdd || k < onGrid);
    }
    constexpr double besideCurves = 0.02;
    even = even && double(evenMisses) <= besideCurves * double(filled);
    odd = odd && double(oddMisses) <= besideCurves * double(filled);
    if (!driven)
        return Parity::none;
    return even ? Parity::even : odd ? Parity::odd : Parity::none;
}

}  // namespace yh::run
