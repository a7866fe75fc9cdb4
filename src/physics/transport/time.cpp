// Current and heat over time.
#include "fem/quadrature.h"
#include "physics/transport/transport.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

using fem::Local;

TransportSolver::Solved TransportSolver::transient(int order, double tolerance,
                                                   base::Progress& progress)
{
    // The singly diagonally implicit method of second order with two stages, stiffly accurate.
    // Source: Alexander, SIAM J. Numer. Anal. 14 (1977) 1006 (from memory).
    using Values = fem::CoupledSolver::Values;
    static const double gamma = 1 - std::sqrt(0.5), weight = (1 - gamma) / gamma;
    const Transient& plan = *m_problem.transient;
    const auto T = size_t(m_problem.T);
    const int nv = m_mesh.vertexCount();
    Solved s;
    s.order = order;
    Values u = m_coupled.start(order), before;
    s.frames.push_back({0.0, 0.0, u, {}});
    std::vector<double> marks = plan.marks;
    marks.push_back(plan.duration);
    std::sort(marks.begin(), marks.end());
    // Temperatures are compared at the corners of cells, root mean square.
    std::vector<char> warm(size_t(nv), 0);
    for (int t = 0; t < m_mesh.cellCount(); ++t)
        if (m_problem.warms[size_t(m_mesh.piece[size_t(t)])])
            for (const int v : m_mesh.corners(t))
                warm[size_t(v)] = 1;
    // What changes by a small part of all that will change needs no accuracy of its own.
    constexpr double part = 0.03;
    double scale = part * m_coarse.change;
    for (const auto& h : m_problem.held)
        scale = std::max(scale, 0.1 * std::abs(h.value - plan.start));
    constexpr double shortest = 1e-12, firstStep = 1e-5, growth = 2.5, worth = 1.25;
    double t = 0, step = firstStep * plan.duration, last = 0;
    fem::NewtonReport report;
    std::vector<double> slope(static_cast<size_t>(nv), 0.0);
    size_t next = 0;
    while (t < plan.duration * (1 - shortest)) {
        progress.check();
        while (next + 1 < marks.size() &&
               marks[next] <= t * (1 + shortest) + shortest * plan.duration)
            ++next;
        const double left = marks[next] - t;
        const bool atMark = step > left * (1 - 1e-6);
        const double dt = atMark ? left : step > 0.5 * left ? 0.5 * left : step;
        // Stages start from the way that the last step went.
        auto onwards = [](const Values& from, const Values& to, double by) {
            Values guess = to;
            for (size_t f = 0; f < guess.size(); ++f)
                for (size_t i = 0; i < guess[f].size(); ++i)
                    guess[f][i] += by * (to[f][i] - from[f][i]);
            return guess;
        };
        Values first = last > 0 ? onwards(before, u, gamma * dt / last) : u, second;
        bool found =
            m_coupled.stage(order, first, {&u, nullptr, 0, gamma * dt, t + gamma * dt}, report);
        const fem::CoupledSolver::Stage stage{&u, &first, weight, gamma * dt, t + dt};
        if (found) {
            second = onwards(u, first, (1 - gamma) / gamma);
            found = m_coupled.stage(order, second, stage, report);
        }
        double error = 0, most = scale;
        std::vector<double> slopeAfter(slope.size());
        if (found) {
            double sum = 0;
            int count = 0;
            for (size_t v = 0; v < size_t(nv); ++v) {
                if (!warm[v])
                    continue;
                const double a = u[T][v], b = first[T][v], c = second[T][v];
                const double k1 = (b - a) / (gamma * dt),
                             k2 = (c - a - (1 - gamma) * dt * k1) / (gamma * dt);
                slopeAfter[v] = k2;
                double e;
                if (last > 0) {
                    // The third derivative from the parabola through the last step.
                    constexpr double constant = 0.0404;
                    const double bend = (before[T][v] - a + slope[v] * last) / (last * last);
                    const double predicted = a + slope[v] * dt + bend * dt * dt;
                    e = 6 * constant * (c - predicted) * dt / (dt + last);
                } else {
                    constexpr double share = 0.2;
                    e = share * gamma * dt * (k2 - k1);
                }
                sum += e * e;
                ++count;
                most = std::max(most, std::abs(c - plan.start));
            }
            error = count > 0 ? std::sqrt(sum / count) : 0.0;
        }
        const double allowed = tolerance * most;
        if (!found || !(error <= allowed || error == 0)) {
            step = dt * (found ? std::clamp(0.9 * std::cbrt(allowed / error), 0.2, 0.7) : 0.25);
            if (step < shortest * plan.duration)
                throw base::Error(5012, "the transient cannot be followed beyond " +
                                            base::format(t, base::dim::time) +
                                            ": temperatures change without bound there");
            continue;
        }
        scale = most;
        before = std::move(u);
        u = std::move(second);
        // Behind a mark drives may jump: what came before says nothing about what follows.
        last = atMark ? 0 : dt;
        slope = std::move(slopeAfter);
        t = atMark ? marks[next] : t + dt;
        s.frames.push_back({t, dt, u, std::move(first)});
        const double factor =
            error > 0 ? std::clamp(0.9 * std::cbrt(allowed / error), 0.2, growth) : growth;
        if (atMark && next + 1 < marks.size())
            step = firstStep * plan.duration;
        else if (factor > worth || factor < 1)
            step = (atMark ? std::max(dt, step) : dt) * factor;
    }
    s.change = scale;
    m_counters.unknowns = report.unknowns;
    m_counters.iterations += report.iterations;
    m_counters.assembleSeconds += report.assembleSeconds;
    m_counters.solveSeconds += report.solveSeconds;
    return s;
}

std::vector<double> TransportSolver::showTimes() const
{
    // Steps are denser where more happens; even ones among them show it all.
    constexpr size_t most = 40;
    const auto& frames = m_solved.back().frames;
    std::vector<double> list;
    const size_t n = std::min(most, frames.size());
    for (size_t k = 0; k < n; ++k)
        list.push_back(frames[n > 1 ? k * (frames.size() - 1) / (n - 1) : 0].time);
    return list;
}

bool TransportSolver::setCoarse(bool coarse)
{
    m_useCoarse = coarse && m_problem.transient;
    return m_problem.transient.has_value();
}

std::vector<double> TransportSolver::times(int order) const
{
    std::vector<double> list;
    for (const auto& f : at(order).frames)
        list.push_back(f.time);
    return list;
}

std::function<double(int, const Point&)> TransportSolver::temperatureAt(double time) const
{
    const Solved& s = m_solved.back();
    const auto T = size_t(m_problem.T);
    auto values = s.u[T];
    // Between two steps in a straight line.
    for (size_t k = 1; k < s.frames.size(); ++k) {
        const auto &a = s.frames[k - 1], &b = s.frames[k];
        if (time > b.time && k + 1 < s.frames.size())
            continue;
        const double share = std::clamp((time - a.time) / (b.time - a.time), 0.0, 1.0);
        for (size_t i = 0; i < values.size(); ++i)
            values[i] = (1 - share) * a.u[T][i] + share * b.u[T][i];
        break;
    }
    return [this, order = s.order, kept = std::move(values)](int cell, const Point& xi) {
        return m_space.value(kept, order, cell, xi);
    };
}

void TransportSolver::select(double time)
{
    auto choose = [time](Solved& s) {
        if (s.frames.empty())
            return;
        size_t best = s.frames.size() - 1;
        for (size_t k = 0; k < s.frames.size() && time < s.frames.back().time; ++k)
            if (std::abs(s.frames[k].time - time) < std::abs(s.frames[best].time - time))
                best = k;
        s.u = s.frames[best].u;
        s.groups.clear();
        s.time = s.frames[best].time;
        s.frame = best;
    };
    for (Solved& s : m_solved)
        choose(s);
    choose(m_coarse);
}

const std::vector<fem::CoupledSolver::GroupResult>& TransportSolver::groupsOf(const Solved& s) const
{
    // Flows of a transient are worked out when they are asked for.
    if (s.groups.empty() && !s.frames.empty() && !m_problem.groupList.empty()) {
        const auto& f = s.frames[s.frame];
        static const double gamma = 1 - std::sqrt(0.5), weight = (1 - gamma) / gamma;
        s.groups = s.frame == 0
                       ? std::vector<fem::CoupledSolver::GroupResult>(m_problem.groupList.size())
                       : m_coupled.groupResults(
                             s.order, f.u,
                             {&s.frames[s.frame - 1].u, &f.middle, weight, gamma * f.step, f.time});
    }
    return s.groups;
}

double TransportSolver::enthalpyOf(int order, const fem::CoupledSolver::Values& u) const
{
    double sum = 0;
    const auto& T = u[size_t(m_problem.T)];
    const auto& rule = fem::cellRule(m_mesh.dimension, fem::termDegree(m_mesh.dimension, order));
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const auto piece = size_t(m_mesh.piece[size_t(t)]);
        if (!m_problem.warms[piece])
            continue;
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            const Point p = g.at(q.xi);
            sum += q.w * g.determinant(q.xi) * measureAt(m_problem.area, p) *
                   m_problem.pieces[piece].stored(p, Local(m_space.value(T, order, t, q.xi))).v;
        }
    }
    for (const auto& [side, c] : m_problem.sides)
        for (const auto& sheet : c.sheets)
            overSide(order, side, [&](int cell, const Point& xi, const Point& p, double w) {
                sum += w * sheet.thickness *
                       sheet.what.stored(p, Local(m_space.value(T, order, cell, xi))).v;
            });
    return m_problem.scale * sum;
}

double TransportSolver::meanStoring(int order) const
{
    const Solved& s = at(order);
    double sum = 0;
    for (size_t i = 1; i < s.frames.size(); i += std::max<size_t>(1, s.frames.size() / 8))
        sum = std::max(sum, std::abs(enthalpyOf(order, s.frames[i].u) -
                                     enthalpyOf(order, s.frames.front().u)));
    return sum / m_problem.transient->duration;
}

double TransportSolver::storedRate(int order) const
{
    const Solved& s = at(order);
    if (s.frames.size() < 2)
        return 0;
    static const double gamma = 1 - std::sqrt(0.5), weight = (1 - gamma) / gamma;
    const double before = (1 - weight) * enthalpyOf(order, s.frames[s.frames.size() - 2].u) +
                          weight * enthalpyOf(order, s.frames.back().middle);
    return (enthalpyOf(order, s.frames.back().u) - before) / (gamma * s.frames.back().step);
}

}  // namespace yh::physics
