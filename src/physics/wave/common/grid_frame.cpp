#include "physics/wave/common/grid_frame.h"

#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace yh::physics {

using sheet::Line;
namespace dim = base::dim;

std::array<double, 3> gridWeights(double seen)
{
    // The three errors tell the order, which corners and edges lower. Where it is none that could
    // be, they have not settled.
    constexpr double least = 1.2, most = 1.9, lowest = 1, highest = 4;
    auto ratio = [](double p) {
        return (std::pow(gridSizes[0], p) - std::pow(gridSizes[1], p)) /
               (std::pow(gridSizes[1], p) - 1);
    };
    if (seen > ratio(most) && seen < ratio(highest)) {
        // By the square, with what the fourth power adds on coarse grids: a parabola.
        constexpr double x0 = gridSizes[0] * gridSizes[0], x1 = gridSizes[1] * gridSizes[1];
        return {x1 / ((x0 - x1) * (x0 - 1)), -x0 / ((x0 - x1) * (x1 - 1)),
                x0 * x1 / ((x0 - 1) * (x1 - 1))};
    }
    double order = least;
    if (seen > ratio(lowest) && seen < ratio(highest)) {
        double from = least, to = most;
        for (int i = 0; i < 40; ++i) {
            const double half = (from + to) / 2;
            (ratio(half) < seen ? from : to) = half;
        }
        order = from;
    }
    const double further = 1 / (std::pow(gridSizes[0], order) - 1);
    return {-further, 0, 1 + further};
}

double extrapolatedOverGrids(double coarse, double middle, double fine)
{
    const auto w = gridWeights((middle - coarse) / (fine - middle));
    return w[0] * coarse + w[1] * middle + w[2] * fine;
}

double Pulse::width() const
{
    return std::sqrt(2 * std::log(10.0)) / (pi * (high - low));
}

double Pulse::operator()(double t) const
{
    const double s = (t - middle()) / width();
    return t < silence() ? std::exp(-0.5 * s * s) * std::sin(pi * (low + high) * (t - middle()))
                         : 0.0;
}

std::array<int, 3> GridFrame::cells(double coarser) const
{
    const Point extent = to - from;
    auto number = [&](double length) {
        const double n = length / cell;
        // A multiple of four on the finest grid: the others fit.
        return int(std::lround(4 * std::max(2.0, std::round(n / 4)) / coarser));
    };
    return {number(extent.x), number(extent.y), isSolid ? number(extent.z) : 0};
}

void GridFrameReader::refuseMedia(const GridFrame& frame)
{
    const WaveProblem& w = *frame.wave;
    for (const Line* m : m_model.document().ofKind("material"))
        if (m->has("mu"))
            fault(7863, *m, "mu", m_what + " knows μ = 1 only");
    if (!w.dispersive.empty())
        for (const Line* m : m_model.document().ofKind("material"))
            if (m->has("eps") || m->has("loss"))
                fault(7864, *m, m->has("eps") ? "eps" : "loss",
                      "a medium that runs with the frequency has no place on the grid yet: "
                      "state ε and tan δ as numbers at the middle of the band");
    for (size_t s = 0; s < m_p.sides().size(); ++s)
        if (m_p.sides()[s].thin && w.sides[s] != WaveProblem::open) {
            m_faults.push_back(
                {7866,
                 {m_p.sides()[s].sources.empty() ? -1 : m_p.sides()[s].sources[0].line, {}, -1},
                 "a sheet without thickness slips through the grid: draw it as "
                 "a region of metal, a cell thick at least",
                 false});
            break;
        }
}

void GridFrameReader::readBox(GridFrame& p) const
{
    p.from = {1e300, 1e300, 1e300};
    p.to = {-1e300, -1e300, -1e300};
    for (const int f : p.wave->activePieces)
        for (const int s : m_p.pieces()[size_t(f)].sides) {
            for (const Point& q : places(p, s)) {
                p.from = {std::min(p.from.x, q.x), std::min(p.from.y, q.y),
                          std::min(p.from.z, q.z)};
                p.to = {std::max(p.to.x, q.x), std::max(p.to.y, q.y), std::max(p.to.z, q.z)};
            }
        }
}

std::vector<Point> GridFrameReader::places(const GridFrame& frame, int side) const
{
    if (!frame.isSolid)
        return m_p.polyline(side);
    std::vector<Point> list;
    for (const auto& t : m_p.triangles(side))
        list.insert(list.end(), t.begin(), t.end());
    return list;
}

int GridFrameReader::frameSide(const GridFrame& p, int side) const
{
    const double near = 1e-6 * norm(p.to - p.from);
    const auto points = places(p, side);
    for (int a = 0; a < (p.isSolid ? 3 : 2); ++a)
        for (const int high : {0, 1}) {
            auto of = [a](const Point& q) { return a == 0 ? q.x : a == 1 ? q.y : q.z; };
            const double at = of(high ? p.to : p.from);
            if (std::all_of(points.begin(), points.end(),
                            [&](const Point& q) { return std::abs(of(q) - at) < near; }))
                return 2 * a + high;
        }
    return -1;
}

void GridFrameReader::readWalls(GridFrame& p, const std::array<bool, 6>& hasPort)
{
    const WaveProblem& w = *p.wave;
    // What each side of the frame says, where it is reached.
    std::array<int, 6> said;
    constexpr int nothing = -100, absorbs = -101;
    said.fill(nothing);
    for (size_t s = 0; s < m_p.sides().size(); ++s) {
        const shape::Side& side = m_p.sides()[s];
        int kind = w.sides[s];
        int line = -1;
        for (const auto& sheet : w.sheets)
            if (std::find(sheet.sides.begin(), sheet.sides.end(), int(s)) != sheet.sides.end()) {
                kind = absorbs;
                line = sheet.line;
            }
        bool carries = false;
        for (const int f : side.pieces)
            carries = carries || w.carries(f);
        if (!carries || side.pieces.size() > 1)
            continue;
        const int where = frameSide(p, int(s));
        const bool isElectric =
            kind >= 0 || kind == WaveProblem::open || kind == WaveProblem::electric;
        if (where < 0) {
            if (!isElectric && kind != WaveProblem::port)
                m_faults.push_back(
                    {7867,
                     {line, {}, -1},
                     "magnetic and absorbing walls of " + m_what +
                         " are whole sides of the "
                         "box that the device just fits into; this one lies inside of it",
                     false});
            continue;
        }
        const int next = hasPort[size_t(where)] && (isElectric || kind == WaveProblem::port)
                             ? absorbs
                         : isElectric ? int(WaveProblem::electric)
                                      : kind;
        if (side.cut >= 0)
            p.isMirror[size_t(where)] = true;
        if (said[size_t(where)] != nothing && said[size_t(where)] != next)
            m_faults.push_back({7868,
                                {line, {}, -1},
                                "one side of the frame of " + m_what +
                                    " has one kind of wall: "
                                    "electric, magnetic or absorbing",
                                false});
        said[size_t(where)] = next;
    }
    // Where nothing lies in a side of the frame a bent wall comes near it: what is drawn of it
    // may not be its outermost place.
    const Point extent = p.to - p.from;
    constexpr double room = 0.01;
    for (size_t k = 0; k < 6; ++k)
        if (said[k] == nothing) {
            Point& end = k % 2 ? p.to : p.from;
            const double by = k % 2 ? room : -room;
            (k / 2 == 0   ? end.x
             : k / 2 == 1 ? end.y
                          : end.z) += by * (k / 2 == 0   ? extent.x
                                            : k / 2 == 1 ? extent.y
                                                         : extent.z);
        }
    for (size_t k = 0; k < 6; ++k)
        p.walls[k] = said[k] == absorbs                 ? grid::Wall::absorbing
                     : said[k] == WaveProblem::magnetic ? grid::Wall::magnetic
                                                        : grid::Wall::electric;
}

void GridFrameReader::checkCells(const GridFrame& p, const Line& l, double wave, double least)
{
    constexpr double fewest = 8;
    char text[240];
    if (p.cell > wave / fewest) {
        std::snprintf(text, sizeof text,
                      "too few cells: the shortest wave is %s long, which takes cells of %s at "
                      "most",
                      base::format(wave, dim::length, 3).c_str(),
                      base::format(wave / fewest, dim::length, 3).c_str());
        fault(7870, l, "cell", text);
        return;
    }
    if (p.cell > least / 4) {
        std::snprintf(text, sizeof text, "too few cells: the device is %s across",
                      base::format(least, dim::length, 3).c_str());
        fault(7870, l, "cell", text);
        return;
    }
}

void GridFrameReader::readCells(GridFrame& p, const Line& l, double perWave)
{
    const WaveProblem& w = *p.wave;
    double slow = 1;
    for (const int f : w.activePieces) {
        const auto& k = w.eps[size_t(f)];
        const double eps = k.at ? k.at(m_p.pieces()[size_t(f)].inside).xx : k.constant.xx;
        if (!(eps >= 1)) {
            m_faults.push_back(
                {7869,
                 {m_p.regions()[size_t(m_p.pieces()[size_t(f)].region)].line, {}, -1},
                 m_what + " takes media with ε of 1 and more",
                 false});
            return;
        }
        slow = std::max(slow, std::sqrt(eps));
    }
    const Point extent = p.to - p.from;
    const double wave = c0 / (slow * p.high);
    double least = std::min(extent.x, extent.y);
    if (p.isSolid)
        least = std::min(least, extent.z);
    constexpr double share = 40;
    p.cell = l.has("cell") ? m_model.number(l, "cell")
                           : std::min(wave / perWave, std::max(extent.x, extent.y) / share);
    checkCells(p, l, wave, least);
}

void GridFrameReader::limit(const GridFrame& p, const Line& l, double time, double runs)
{
    const Point extent = p.to - p.from;
    const double cells =
                     extent.x / p.cell * extent.y / p.cell * (p.isSolid ? extent.z / p.cell : 1.0),
                 steps = time * c0 * 2.5 / p.cell;
    constexpr double mostCells = 3e7, mostUpdates = 2e11;
    if (cells > mostCells || cells * steps * runs > mostUpdates)
        fault(7872, l, l.has("cell") ? "cell" : "to",
              "that many cells over that long a time would take hours: choose larger cells, a "
              "wider band or a shorter time");
}

}  // namespace yh::physics
