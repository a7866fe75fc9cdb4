#include "physics/elastic/actuator/actuator.h"

#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yh::physics {

namespace {

/// Of a stop: the part of its distance over which it begins.
constexpr double softness = 0.01;

std::vector<std::vector<char>> liveOf(const ActuatorProblem& problem, int dimension)
{
    std::vector<std::vector<char>> live(size_t(dimension) + 1);
    for (size_t f = 0; f < problem.gap.size(); ++f) {
        const ElasticMedium& m = problem.elastic->media[f];
        bool conducts = false;
        for (const auto& e : problem.elastic->electrodes)
            conducts = conducts || e.pieces[f];
        const bool moves = m.moves || problem.gap[f];
        for (int c = 0; c < dimension; ++c)
            live[size_t(c)].push_back(moves);
        live[size_t(dimension)].push_back(m.polarises && !conducts);
    }
    return live;
}

std::vector<fem::BlockSpace::Held> heldOf(const ActuatorProblem& problem, int dimension)
{
    std::vector<fem::BlockSpace::Held> list;
    for (int c = 0; c < dimension; ++c)
        list.push_back({c, problem.held[c]});
    return list;
}

std::vector<fem::BlockSpace::Body> bodiesOf(const ActuatorProblem& problem, int dimension)
{
    std::vector<fem::BlockSpace::Body> list;
    for (const auto& e : problem.elastic->electrodes)
        list.push_back({dimension, e.sides, e.pieces, true});
    return list;
}

/** Takes half of the last step back. */
void halve(int n, std::vector<double>& step, std::vector<double>& x, double& square)
{
    for (int i = 0; i <= n; ++i) {
        step[size_t(i)] /= 2;
        (i < n ? x[size_t(i)] : square) += step[size_t(i)];
    }
}

}  // namespace

ActuatorSolver::ActuatorSolver(const ActuatorProblem& problem, const mesh::Mesh& mesh,
                               const shape::Partition& partition, int order, base::Progress&)
    : m_problem(problem),
      m_mesh(mesh),
      m_partition(partition),
      m_space(mesh, std::min(order, 2)),
      m_block(m_space, liveOf(problem, mesh.dimension), heldOf(problem, mesh.dimension),
              bodiesOf(problem, mesh.dimension)),
      m_quantities{{"u", "displacement", "m", 3, {}, false, true},
                   {"V", "potential", "V", 1, {}, true},
                   {"E", "electric field", "V/m", 3, {}}}
{
}

ActuatorSolver::Solved& ActuatorSolver::solved(int order) const
{
    for (const auto& s : m_solved)
        if (s->order == order)
            return *s;
    throw base::Error(7016, "a figure was asked of an order that was not solved for");
}

void ActuatorSolver::prepare(Solved& s) const
{
    const auto& layout = m_block.layout(s.order);
    const int n = layout.free, local = layout.functions.local;
    std::vector<std::vector<int>> columns(size_t(n) + 1);
    std::vector<int> place(static_cast<size_t>(local));
    s.isBody.assign(size_t(n), 0);
    auto places = [&](int t) {
        for (int i = 0; i < local; ++i) {
            const int p = layout.numbering.place[size_t(
                layout.functions.number[size_t(t) * size_t(layout.functions.width) + size_t(i)])];
            place[size_t(i)] = p < n ? p : -1;
        }
    };
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        places(t);
        const bool body = m_problem.elastic->media[size_t(m_mesh.piece[size_t(t)])].moves;
        for (int i = 0; i < local; ++i) {
            if (place[size_t(i)] < 0)
                continue;
            auto& list = columns[size_t(place[size_t(i)])];
            for (int j = 0; j < local; ++j)
                if (place[size_t(j)] >= 0)
                    list.push_back(place[size_t(j)]);
            if (body && i % components() != potential())
                s.isBody[size_t(place[size_t(i)])] = 1;
        }
    }
    // The square of the voltage stands in the last column; the last row says where on the path.
    s.matrix.size = n + 1;
    s.matrix.column.clear();
    s.matrix.start.assign(1, 0);
    for (int r = 0; r <= n; ++r) {
        auto& list = columns[size_t(r)];
        if (r == n && s.control >= 0)
            list.push_back(s.control);
        list.push_back(n);
        std::sort(list.begin(), list.end());
        list.erase(std::unique(list.begin(), list.end()), list.end());
        s.matrix.column.insert(s.matrix.column.end(), list.begin(), list.end());
        s.matrix.start.push_back(int(s.matrix.column.size()));
    }
    s.matrix.value.assign(s.matrix.column.size(), 0.0);
    s.slot.assign(size_t(m_mesh.cellCount()) * size_t(local) * size_t(local), -1);
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        places(t);
        for (int i = 0; i < local; ++i) {
            if (place[size_t(i)] < 0)
                continue;
            const auto row = size_t(place[size_t(i)]);
            const auto first = s.matrix.column.begin() + s.matrix.start[row],
                       last = s.matrix.column.begin() + s.matrix.start[row + 1];
            for (int j = 0; j < local; ++j)
                if (place[size_t(j)] >= 0)
                    s.slot[(size_t(t) * size_t(local) + size_t(i)) * size_t(local) + size_t(j)] =
                        int(std::lower_bound(first, last, place[size_t(j)]) -
                            s.matrix.column.begin());
        }
    }
    s.kept = std::make_unique<fem::KeptLu>();
}

void ActuatorSolver::solveChanged(Solved& s, std::vector<double>& r, double tolerance) const
{
    const size_t n = r.size() - 1;
    std::vector<double> scale(r.size(), 1.0);
    for (size_t k = 0; k < n; ++k)
        if (s.isBody[k])
            scale[k] = s.length;
    scale[n] = s.square;
    s.kept->solve(s.matrix, r, scale, tolerance);
}

int ActuatorSolver::newton(Solved& s, State& at, const Cut& cut) const
{
    const int n = m_block.layout(s.order).free;
    constexpr int most = 16, mostHalvings = 6;
    constexpr double settled = 1e-9;
    double before = 1e300;
    std::vector<double> r, next;
    int halvings = 0;
    for (int step = 1; step <= most; ++step) {
        try {
            assemble(s, at, cut, r);
        } catch (const base::Error& e) {
            // Too long a step turns cells over.
            if (e.fault().number != 7600)
                throw;
            if (next.empty() || ++halvings > mostHalvings)
                return 0;
            halve(n, next, at.x, at.square);
            continue;
        }
        constexpr double rough = 1e-5;
        solveChanged(s, r, rough);
        ++m_work.iterations;
        double largest = 0;
        for (int i = 0; i < n; ++i) {
            at.x[size_t(i)] -= r[size_t(i)];
            if (s.isBody[size_t(i)])
                largest = std::max(largest, std::abs(r[size_t(i)]));
        }
        at.square -= r[size_t(n)];
        next = r;
        const double change = std::max(largest / s.length, std::abs(r[size_t(n)]) / s.square);
        if (!std::isfinite(change) || (step > 6 && halvings == 0 && change > 2 * before))
            return 0;
        if (change < settled)
            return step;
        before = change;
    }
    return 0;
}

void ActuatorSolver::direction(Solved& s, const State& at, std::vector<double>& along) const
{
    const int n = m_block.layout(s.order).free;
    std::vector<double> r;
    // With the row of a cut along the last direction, or along the displacement.
    const bool first = along.empty();
    const Cut cut{first ? 1 / s.length : along[size_t(s.control)] / squared(s.length),
                  first ? 0.0 : along[size_t(n)] / squared(s.square), 0};
    assemble(s, at, cut, r);
    std::fill(r.begin(), r.end(), 0.0);
    r[size_t(n)] = 1;
    constexpr double fine = 1e-9;
    solveChanged(s, r, fine);
    const double size = std::hypot(r[size_t(s.control)] / s.length, r[size_t(n)] / s.square);
    for (double& x : r)
        x /= size;
    along = std::move(r);
}

ActuatorSolver::State ActuatorSolver::turning(Solved& s, const State& before,
                                              const State& after) const
{
    // Between two equilibria of which one rises and the other falls: by the slope along the chord,
    // each guess on the parabola through those known.
    const int n = m_block.layout(s.order).free;
    const double du = (after.x[size_t(s.control)] - before.x[size_t(s.control)]) / s.length,
                 dq = (after.square - before.square) / s.square, size = std::hypot(du, dq);
    const Cut chord{du / size / s.length, dq / size / s.square, 0};
    struct Known
    {
        double share, slope;
        State state;
    };
    Known low{0, before.slope, before}, high{1, after.slope, after};
    std::optional<Known> middle;
    double slopeLow = low.slope, slopeHigh = high.slope;
    constexpr int most = 8;
    constexpr double flat = 3e-5;  // the square then errs by its square
    int side = 0;
    for (int i = 0; i < most; ++i) {
        const double width = high.share - low.share,
                     share = std::clamp(
                         (low.share * slopeHigh - high.share * slopeLow) / (slopeHigh - slopeLow),
                         low.share + 0.02 * width, high.share - 0.02 * width);
        Known next{share, 0, low.state};
        const double a = low.share, c = high.share;
        for (int k = 0; k <= n; ++k) {
            auto of = [&](const State& x) { return k < n ? x.x[size_t(k)] : x.square; };
            double value = ((c - share) * of(low.state) + (share - a) * of(high.state)) / (c - a);
            if (middle && middle->share > a && middle->share < c) {
                const double b = middle->share;
                value = of(low.state) * (share - b) * (share - c) / ((a - b) * (a - c)) +
                        of(middle->state) * (share - a) * (share - c) / ((b - a) * (b - c)) +
                        of(high.state) * (share - a) * (share - b) / ((c - a) * (c - b));
            }
            (k < n ? next.state.x[size_t(k)] : next.state.square) = value;
        }
        Cut cut = chord;
        cut.r = cut.a * next.state.x[size_t(s.control)] + cut.b * next.state.square;
        if (newton(s, next.state, cut) == 0)
            break;
        std::vector<double> along(size_t(n) + 1, 0.0);
        along[size_t(s.control)] = du * s.length;
        along[size_t(n)] = dq * s.square;
        direction(s, next.state, along);
        next.slope = next.state.slope = along[size_t(n)] / s.square;
        const bool isLow = (next.slope > 0) == (low.slope > 0);
        if (isLow) {
            if (!middle || middle->share < share)
                middle = low;
            low = next;
            slopeLow = next.slope;
            if (side == -1)
                slopeHigh /= 2;
        } else {
            if (!middle || middle->share > share)
                middle = high;
            high = next;
            slopeHigh = next.slope;
            if (side == 1)
                slopeLow /= 2;
        }
        side = isLow ? -1 : 1;
        if (std::abs(next.slope) < flat)
            break;
    }
    return std::abs(low.slope) < std::abs(high.slope) ? low.state : high.state;
}

double ActuatorSolver::nearestToStop(Solved& s, const State& at) const
{
    if (s.touches.empty())
        s.touches = touches(s.order);
    double nearest = 1e300;
    for (const Touch& touch : s.touches)
        nearest = std::min(nearest, gapAt(s, at, touch));
    return nearest;
}

bool ActuatorSolver::land(Solved& s, const State& last, double step,
                          const std::vector<double>& along, State& next,
                          std::vector<double>& on) const
{
    // Where what falls meets the stop the path turns back so sharply that no plane across its old
    // direction cuts it behind the corner. At the voltage of the last equilibrium there is another
    // one, pressed onto the stop: Newton's method is begun a little behind it.
    const int n = m_block.layout(s.order).free;
    const double distance = m_problem.stop->distance, before = nearestToStop(s, last);
    auto moved = [&](double by) {
        State to = last;
        for (int i = 0; i < n; ++i)
            to.x[size_t(i)] += by * along[size_t(i)];
        return to;
    };
    constexpr double near = 0.3;
    const double rate = (before - nearestToStop(s, moved(step))) / step;
    if (before > near * distance || !(rate > 0))
        return false;
    next = moved((before + 0.5 * softness * distance) / rate);
    if (newton(s, next, {0, 1, last.square}) == 0 || nearestToStop(s, next) > softness * distance)
        return false;
    on.clear();
    direction(s, next, on);
    if (on[size_t(n)] < 0)
        for (double& x : on)
            x = -x;
    next.slope = on[size_t(n)] / s.square;
    const double towards =
        (next.x[size_t(s.control)] - last.x[size_t(s.control)]) * along[size_t(s.control)];
    return next.slope > 0 && towards > 0;
}

void ActuatorSolver::follow(Solved& s, base::Progress& progress, double from, double to)
{
    const auto& layout = m_block.layout(s.order);
    const int n = layout.free;
    const auto& electrodes = m_problem.elastic->electrodes;
    State now;
    now.x.assign(size_t(layout.numbering.size()), 0.0);
    const double unit = electrodes[size_t(m_problem.driven)].voltage;
    for (size_t e = 0; e < electrodes.size(); ++e)
        if (const int p = layout.bodyPlace[e]; p >= 0)
            now.x[size_t(p)] = electrodes[e].voltage / unit;
    // At rest, without a voltage; the row holds its square at zero.
    s.length = m_partition.size();
    s.square = squared(m_problem.most);
    if (newton(s, now, {0, 1, 0}) == 0)
        throw base::Error(7601,
                          "the loads alone find no equilibrium: too large for this body, or it is "
                          "not held");
    s.start = now.x;
    // What moves most at first leads the path, and says how long it is.
    std::vector<double> r;
    assemble(s, now, {0, 1, 0}, r);
    std::fill(r.begin(), r.end(), 0.0);
    r[size_t(n)] = 1;
    solveChanged(s, r, 1e-9);
    double most = 0;
    for (int v = 0; v < m_mesh.vertexCount(); ++v)
        for (size_t c = 0; c < size_t(potential()); ++c) {
            const int p = layout.numbering.place[size_t(v) * size_t(components()) + c];
            if (p >= 0 && p < n && s.isBody[size_t(p)] && std::abs(r[size_t(p)]) > most) {
                most = std::abs(r[size_t(p)]);
                s.control = p;
            }
        }
    if (!(most > 0))
        throw base::Error(7602, "the voltage pulls at nothing that moves");
    prepare(s);
    // The smallest gap by the strongest field of 1 V.
    double strongest = 0;
    const auto psi = component(s, potential(), now);
    for (int t = 0; t < m_mesh.cellCount(); ++t)
        if (m_problem.gap[size_t(m_mesh.piece[size_t(t)])])
            strongest = std::max(
                strongest,
                norm(m_space.gradient(psi, s.order, t, mesh::Geometry(m_mesh, t).centre())));
    s.length = 1 / strongest;
    s.square = s.length / 3 / most;
    // What rounding alone holds is softer than the most slender beam.
    double stiffest = 0;
    for (const ElasticMedium& m : m_problem.elastic->media)
        if (m.moves)
            stiffest = std::max(stiffest, m.c(0, 0).real());
    constexpr double least = 1e-12;
    if (s.square < least * stiffest * squared(s.length) / eps0)
        throw base::Error(7601,
                          "nothing holds what moves: a voltage near zero pulls it across the gap; "
                          "add lines such as `fixed on beam.left`");
    const double highest = squared(m_problem.most);
    std::vector<double> along;
    direction(s, now, along);
    if (along[size_t(n)] < 0)
        for (double& x : along)
            x = -x;
    now.slope = along[size_t(n)] / s.square;
    auto& points = s.path.points;
    points.push_back(now);
    constexpr int mostPoints = 160;
    constexpr double longest = 0.2, shortest = 3e-5;
    double step = 0.1;
    bool touches = false;
    while (int(points.size()) < mostPoints) {
        progress.check();
        const State& last = points.back();
        State next = last;
        for (int i = 0; i < n; ++i)
            next.x[size_t(i)] += step * along[size_t(i)];
        next.square += step * along[size_t(n)];
        Cut cut{along[size_t(s.control)] / squared(s.length), along[size_t(n)] / squared(s.square),
                0};
        cut.r = cut.a * next.x[size_t(s.control)] + cut.b * next.square;
        const int steps = newton(s, next, cut);
        std::vector<double> on = along;
        const bool mayLand =
            m_problem.stop && s.path.fold >= 0 && s.path.release < 0 && last.slope < 0;
        bool good = steps > 0 && next.square > -0.05 * s.square;
        if (good) {
            direction(s, next, on);
            // Not back along the path, and no sharp turn unseen.
            const double turn =
                on[size_t(s.control)] * along[size_t(s.control)] / squared(s.length) +
                on[size_t(n)] * along[size_t(n)] / squared(s.square);
            constexpr double sharp = 0.7;
            good = turn > sharp || (step < 10 * shortest && turn > -0.5);
        }
        if (!good && mayLand && land(s, last, step, along, next, on)) {
            points.push_back(turning(s, last, next));
            s.path.release = int(points.size()) - 1;
            points.push_back(next);
            along = on;
            continue;
        }
        if (!good) {
            step /= 2;
            if (step < shortest)
                break;
            continue;
        }
        next.slope = on[size_t(n)] / s.square;
        const bool wasRising = last.slope > 0, rises = next.slope > 0;
        if (wasRising && !rises && s.path.fold < 0) {
            points.push_back(turning(s, last, next));
            s.path.fold = int(points.size()) - 1;
        } else if (!wasRising && rises && s.path.fold >= 0 && s.path.release < 0) {
            points.push_back(turning(s, last, next));
            s.path.release = int(points.size()) - 1;
        }
        points.push_back(next);
        along = on;
        if (steps <= 6)
            step = std::min(longest, 1.4 * step);
        touches = touches || s.path.release >= 0;
        progress.report(from + (to - from) * std::min(0.99, double(points.size()) / 70),
                        "equilibrium at " + base::format(std::sqrt(std::max(0.0, next.square)),
                                                         base::dim::voltage, 4));
        if (s.path.fold < 0 && next.square > highest)
            break;
        if (s.path.fold >= 0) {
            const double top = points[size_t(s.path.fold)].square;
            // On past the fold: to the stop and up again, or some way down.
            constexpr double enough = 0.4;
            if (m_problem.stop ? s.path.release >= 0 && next.square > std::max(highest, 1.1 * top)
                               : next.square < enough * top)
                break;
        }
    }
}

void ActuatorSolver::solve(int, base::Progress& progress)
{
    m_solved.push_back(std::make_unique<Solved>());
    Solved& s = *m_solved.back();
    s.order = order();
    prepare(s);
    follow(s, progress, 0, 1);
    m_counters.unknowns = m_block.layout(order()).free;
    m_counters.iterations = m_work.iterations;
}

std::optional<double> ActuatorSolver::pullIn(int order) const
{
    const Path& p = path(order);
    if (p.fold < 0)
        return std::nullopt;
    return std::sqrt(p.points[size_t(p.fold)].square);
}

double ActuatorSolver::releaseSlope(int order) const
{
    // On the branch on which the voltage falls towards the stop, over more than its softness.
    const Solved& s = solved(order);
    const auto& points = s.path.points;
    const State& end = points[size_t(s.path.release)];
    for (int k = s.path.release - 1; k >= 0; --k) {
        const double du = end.x[size_t(s.control)] - points[size_t(k)].x[size_t(s.control)];
        if (std::abs(du) > softness * m_problem.stop->distance)
            return std::abs(
                (std::sqrt(std::max(0.0, end.square)) - std::sqrt(points[size_t(k)].square)) / du);
    }
    return 0;
}

std::optional<double> ActuatorSolver::release(int order) const
{
    const Path& p = path(order);
    if (p.release < 0)
        return std::nullopt;
    // The stop begins a little before its place.
    return std::sqrt(std::max(0.0, p.points[size_t(p.release)].square)) -
           releaseSlope(order) * softness * m_problem.stop->distance;
}

double ActuatorSolver::releaseBlur(int order) const
{
    return path(order).release < 0
               ? 0
               : 0.5 * releaseSlope(order) * softness * m_problem.stop->distance;
}

ActuatorSolver::State ActuatorSolver::between(const State& a, const State& b, double square)
{
    const double share = (square - a.square) / (b.square - a.square);
    State next = a;
    for (size_t i = 0; i < next.x.size(); ++i)
        next.x[i] += share * (b.x[i] - a.x[i]);
    next.square = square;
    return next;
}

const ActuatorSolver::State& ActuatorSolver::under(int order, double voltage) const
{
    Solved& s = solved(order);
    for (const auto& [v, state] : s.known)
        if (v == voltage)
            return state;
    const double square = squared(voltage);
    const Path& p = s.path;
    const auto fold = pullIn(order);
    const bool beyond = fold && voltage > *fold;
    size_t first = 0, last = p.fold >= 0 ? size_t(p.fold) : p.points.size() - 1;
    if (beyond) {
        if (p.release < 0)
            throw base::Error(7603, base::format(voltage, base::dim::voltage, 4) +
                                        " lies beyond pull-in at " +
                                        base::format(*fold, base::dim::voltage, 4) +
                                        ": no equilibrium is left but with a stop; add a line such "
                                        "as `stop 0.2 um before base.top`");
        first = size_t(p.release);
        last = p.points.size() - 1;
    }
    size_t at = first;
    while (at + 1 < last && p.points[at + 1].square < square)
        ++at;
    if (at + 1 > last)
        throw base::Error(
            7604, "the path does not reach " + base::format(voltage, base::dim::voltage, 4));
    State next = between(p.points[at], p.points[at + 1], square);
    if (newton(s, next, {0, 1, square}) == 0)
        throw base::Error(7604, "the equilibrium under " +
                                    base::format(voltage, base::dim::voltage, 4) +
                                    " is not found: it lies too near to pull-in");
    s.known.emplace_back(voltage, std::move(next));
    return s.known.back().second;
}

std::vector<double> ActuatorSolver::component(const Solved& s, int which, const State& at) const
{
    return m_block.coefficients(m_block.layout(s.order), which, at.x);
}

Point ActuatorSolver::displacement(int order, const State& s, int cell, const Point& xi) const
{
    const auto& of = solved(order);
    double u[3] = {0, 0, 0};
    for (int c = 0; c < potential(); ++c)
        u[c] = m_space.value(component(of, c, s), order, cell, xi);
    return {u[0], u[1], u[2]};
}

std::array<std::vector<double>, 4> ActuatorSolver::fieldsOf(const Solved& s, const State& at) const
{
    std::array<std::vector<double>, 4> fields;
    for (int c = 0; c < components(); ++c)
        fields[size_t(c)] = component(s, c, at);
    return fields;
}

ActuatorSolver::Seen ActuatorSolver::seen(const std::array<std::vector<double>, 4>& fields,
                                          int order, int cell, const Point& xi) const
{
    const int D = m_mesh.dimension;
    Eigen::Matrix3d F = Eigen::Matrix3d::Identity();
    for (int i = 0; i < D; ++i) {
        const Point g = m_space.gradient(fields[size_t(i)], order, cell, xi);
        F.row(i) += Eigen::RowVector3d(g.x, g.y, g.z);
    }
    const Point g = m_space.gradient(fields[size_t(D)], order, cell, xi);
    Eigen::Matrix3d K;
    for (int i = 0; i < 3; ++i)
        for (int j = 0; j < 3; ++j) {
            const int a = (i + 1) % 3, b = (i + 2) % 3, c = (j + 1) % 3, d = (j + 2) % 3;
            K(i, j) = F(a, c) * F(b, d) - F(a, d) * F(b, c);
        }
    const double J = F.row(0).dot(K.row(0));
    const Eigen::Vector3d e = K * Eigen::Vector3d(g.x, g.y, g.z) / J;
    return {J, {e(0), e(1), e(2)}};
}

double ActuatorSolver::capacitance(int order, const State& state) const
{
    const auto fields = fieldsOf(solved(order), state);
    double twice = 0;
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const auto piece = size_t(m_mesh.piece[size_t(t)]);
        const ElasticMedium& m = m_problem.elastic->media[piece];
        bool field = m.polarises;
        for (const auto& e : m_problem.elastic->electrodes)
            field = field && !e.pieces[piece];
        if (!field)
            continue;
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : fem::cellRule(m_mesh.dimension, 2 * order + 2)) {
            const Seen at = seen(fields, order, t, q.xi);
            twice += q.w * g.determinant(q.xi) * m.eps(0, 0).real() * at.J * dot(at.e, at.e);
        }
    }
    return twice * m_problem.elastic->scale;
}

double ActuatorSolver::travel(int order, const State& state) const
{
    const auto& s = solved(order);
    return state.x[size_t(s.control)] - s.start[size_t(s.control)];
}

Point ActuatorSolver::travelPlace() const
{
    const auto& s = solved(order());
    const auto& layout = m_block.layout(s.order);
    const int function = layout.numbering.function[size_t(s.control)] / components();
    return m_mesh.vertices[size_t(function)];
}

double ActuatorSolver::shownVoltage() const
{
    // At pull-in, the last that a rising voltage comes to.
    const double most = m_problem.highest > 0 ? m_problem.highest : m_problem.most;
    return pullIn(order()).value_or(most);
}

void ActuatorSolver::sample(int cell, const Point& xi, double* values) const
{
    const int p = order();
    std::call_once(m_once, [&] {
        const auto& s = solved(p);
        m_shown = shownVoltage();
        const State& state =
            s.path.fold >= 0 ? s.path.points[size_t(s.path.fold)] : under(p, m_shown);
        m_fields = fieldsOf(s, state);
    });
    const int D = m_mesh.dimension;
    for (int c = 0; c < 3; ++c)
        values[c] = c < D ? m_space.value(m_fields[size_t(c)], p, cell, xi) : 0;
    values[3] = m_shown * m_space.value(m_fields[size_t(D)], p, cell, xi);
    const auto piece = size_t(m_mesh.piece[size_t(cell)]);
    const bool hasField = m_problem.elastic->media[piece].polarises;
    const Point E = hasField ? -m_shown * seen(m_fields, p, cell, xi).e : Point{};
    values[4] = E.x;
    values[5] = E.y;
    values[6] = E.z;
}

std::vector<double> ActuatorSolver::indicator(bool) const
{
    // What the last order adds to strains and to the field, each over all of it.
    const int p = order();
    const auto& s = solved(p);
    const State& state =
        s.path.points[s.path.fold > 0 ? size_t(s.path.fold) : s.path.points.size() - 1];
    std::vector<double> sum(size_t(m_mesh.cellCount()), 0.0);
    if (p < 2)
        return std::vector<double>(sum.size(), 1.0);
    for (const int group : {0, 1}) {
        std::vector<double> own(sum.size(), 0.0);
        double whole = 0;
        const int D = potential();
        for (int which = group == 0 ? 0 : D; which < (group == 0 ? D : D + 1); ++which) {
            const auto x = component(s, which, state);
            auto high = x;
            std::fill_n(high.begin(), m_space.count(p - 1), 0.0);
            for (int t = 0; t < m_mesh.cellCount(); ++t) {
                const auto piece = size_t(m_mesh.piece[size_t(t)]);
                const ElasticMedium& m = m_problem.elastic->media[piece];
                if (group == 0 ? !m.moves : !m.polarises)
                    continue;
                const double k = group == 0 ? m.c(0, 0).real() : m.eps(0, 0).real();
                const mesh::Geometry g(m_mesh, t);
                for (const auto& q : fem::cellRule(D, 2 * p)) {
                    const double w = q.w * g.determinant(q.xi) * k;
                    const Point all = m_space.gradient(x, p, t, q.xi),
                                top = m_space.gradient(high, p, t, q.xi);
                    whole += w * dot(all, all);
                    own[size_t(t)] += w * dot(top, top);
                }
            }
        }
        for (size_t t = 0; t < sum.size() && whole > 0; ++t)
            sum[t] += own[t] / whole;
    }
    return sum;
}

}  // namespace yh::physics
