#include "physics/transport.h"

#include "fem/quadrature.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

using fem::Local;
using fem::mostLocal;

namespace {

/// Stefan and Boltzmann's constant, W/(m^2 K^4), CODATA 2018.
constexpr double stefan = 5.670374419e-8;

// Range and number of samples of a property over temperature.
constexpr double tableLow = 20, tableHigh = 4020;
constexpr int tableSteps = 2000;

/// Whether a drive that lasts until a time is on.
bool isOn(double until, double time)
{
    return time <= until * (1 + 1e-12);
}

std::vector<char> flags(const std::vector<int>& list, size_t size)
{
    std::vector<char> f(size, 0);
    for (const int i : list)
        f[size_t(i)] = 1;
    return f;
}

}  // namespace

Property Property::ofTemperature(const std::function<double(double)>& f)
{
    auto table = std::make_shared<std::vector<double>>();
    for (int i = -1; i <= tableSteps + 1; ++i)
        table->push_back(f(tableLow + (tableHigh - tableLow) * i / tableSteps));
    Property p;
    p.m_table = std::move(table);
    return p;
}

Property Property::integral(const std::function<double(double)>& f)
{
    auto table = std::make_shared<std::vector<double>>();
    constexpr double step = (tableHigh - tableLow) / tableSteps;
    double sum = -f(tableLow) * step;
    for (int i = -1; i <= tableSteps + 1; ++i) {
        table->push_back(sum);
        const double T = tableLow + step * i;
        sum += step / 6 * (f(T) + 4 * f(T + step / 2) + f(T + step));
    }
    Property p;
    p.m_table = std::move(table);
    return p;
}

Property Property::ofPlace(std::function<double(Point)> f)
{
    Property p;
    p.m_place = std::move(f);
    return p;
}

Local Property::at(const Point& p, const Local& T) const
{
    if (m_place)
        return m_place(p);
    if (!m_table)
        return m_constant;
    // Catmull and Rom's cubic through four samples: value and slope are continuous.
    const double step = (tableHigh - tableLow) / tableSteps,
                 x = std::clamp((T.v - tableLow) / step, 0.0, double(tableSteps) - 1e-9);
    const auto i = size_t(x);
    const double s = x - double(i), *y = m_table->data() + i;
    const double a = y[1], b = 0.5 * (y[2] - y[0]), c = y[0] - 2.5 * y[1] + 2 * y[2] - 0.5 * y[3],
                 d = 0.5 * (y[3] - y[0]) + 1.5 * (y[1] - y[2]);
    return T.map(a + s * (b + s * (c + s * d)), (b + s * (2 * c + 3 * s * d)) / step);
}

double Conduction::sourceAt(const Point& p, double time) const
{
    double sum = 0;
    for (const Source& s : sources)
        if (isOn(s.until, time))
            sum += s.density(p);
    return sum;
}

Local Conduction::stored(const Point& p, const Local& T) const
{
    Local h = enthalpy.isConstant() ? enthalpy.at(p, T) * T : enthalpy.at(p, T);
    if (latent > 0) {
        // The heat of melting is taken up over a range of temperature, smoothly.
        const double s = std::clamp((T.v - melting) / meltingRange + 0.5, 0.0, 1.0);
        h += T.map(latent * s * s * (3 - 2 * s), latent * 6 * s * (1 - s) / meltingRange);
    }
    return h;
}

int TransportProblem::contactOf(const std::string& name) const
{
    for (size_t k = 0; k < contacts.size(); ++k)
        if (contacts[k].name == name)
            return int(k);
    return -1;
}

bool TransportProblem::carries(int field, int side) const
{
    const auto it = sides.find(side);
    if (it == sides.end())
        return false;
    for (const auto& s : it->second.sheets)
        if (field == V ? s.what.sigma.isSet() : s.what.k.isSet())
            return true;
    return false;
}

void TransportProblem::terms(const fem::PointState& s, fem::PointTerms& out) const
{
    const Conduction& m = pieces[size_t(s.piece)];
    const bool electric = V >= 0 && conducts[size_t(s.piece)],
               thermal = T >= 0 && warms[size_t(s.piece)];
    const Local warm = thermal ? s.u[T] : Local(reference);
    if (electric) {
        const Local sigma = m.sigma.at(s.at, m.follows ? warm : Local(reference));
        const bool peltier = m.thermoelectric && thermal;
        const Local alpha = peltier ? m.seebeck.at(s.at, warm) : Local(0.0);
        Local joule = 0;
        for (int k = 0; k < 3; ++k) {
            Local g = s.grad[V][k];
            if (peltier)
                g += alpha * s.grad[T][k];
            // Minus J.
            const Local flow = sigma * g;
            out.flux[V][k] = flow;
            if (thermal && (m.heats || peltier))
                joule += flow * s.grad[V][k];
            if (peltier)
                out.flux[T][k] += alpha * warm * flow;
        }
        if (thermal)
            out.source[T] = -joule;
    }
    if (thermal) {
        const Local k = m.k.at(s.at, warm);
        for (int c = 0; c < 3; ++c)
            out.flux[T][c] += k * s.grad[T][c];
        if (!m.sources.empty())
            out.source[T] += -m.sourceAt(s.at, s.time);
        if (m.perfusion > 0)
            out.source[T] += Local(m.perfusion) * (warm - Local(m.perfusedBy));
    }
}

bool TransportProblem::isLinear() const
{
    for (const auto& [side, joint] : joints)
        if (T > 0 && joint.heats)
            return false;
    auto simple = [this](const Conduction& c) {
        return c.k.isConstant() && c.enthalpy.isConstant() && c.latent <= 0 &&
               (V < 0 || (!c.heats && !c.follows && !c.thermoelectric));
    };
    for (size_t f = 0; f < pieces.size(); ++f)
        if ((warms[f] || conducts[f]) && !simple(pieces[f]))
            return false;
    for (const auto& [side, c] : sides) {
        for (const auto& s : c.sheets)
            if (!simple(s.what))
                return false;
        for (const auto& e : c.exchange)
            if (e.emissivity > 0)
                return false;
    }
    return true;
}

int TransportProblem::segmentAt(double time) const
{
    int n = 0;
    if (transient)
        for (const double mark : transient->marks)
            n += time > mark * (1 + 1e-12);
    return n;
}

void TransportProblem::storage(const fem::PointState& s, fem::PointTerms& out) const
{
    if (T >= 0 && warms[size_t(s.piece)])
        out.storage[T] = pieces[size_t(s.piece)].stored(s.at, s.u[T]);
}

void TransportProblem::sideStorage(int side, const fem::PointState& s, fem::PointTerms& out) const
{
    if (T < 0)
        return;
    out.storage[T] = 0.0;
    for (const auto& sheet : sides.at(side).sheets)
        out.storage[T] += Local(sheet.thickness) * sheet.what.stored(s.at, s.u[T]);
}

void TransportProblem::sideTerms(int side, const fem::PointState& s, fem::PointTerms& out) const
{
    const SideCondition& c = sides.at(side);
    if (V >= 0)
        for (const auto& f : c.films)
            out.source[V] += (s.u[V] - Local(isOn(f.until, s.time) ? s.drive * f.voltage : 0.0)) *
                             Local(1 / f.resistance);
    if (T >= 0) {
        for (const auto& e : c.exchange) {
            const Local& warm = s.u[T];
            out.source[T] += Local(e.h) * (warm - Local(e.surroundings));
            // |T|^3 T goes on smoothly to the temperatures that a bad guess may have.
            const double a = std::abs(warm.v), cold = e.surroundings;
            out.source[T] +=
                warm.map(e.emissivity * stefan * (a * a * a * warm.v - cold * cold * cold * cold),
                         e.emissivity * stefan * 4 * a * a * a);
        }
        for (const auto& f : c.flux)
            if (isOn(f.until, s.time))
                out.source[T] += -f.into(s.at);
    }
    for (const auto& sheet : c.sheets) {
        const Conduction& m = sheet.what;
        const Local warm = T >= 0 ? s.u[T] : Local(reference);
        if (V >= 0 && m.sigma.isSet()) {
            const Local sigma =
                m.sigma.at(s.at, m.follows ? warm : Local(reference)) * Local(sheet.thickness);
            Local joule = 0;
            for (int k = 0; k < 3; ++k) {
                const Local flow = sigma * s.grad[V][k];
                out.flux[V][k] += flow;
                joule += flow * s.grad[V][k];
            }
            if (T >= 0 && m.heats)
                out.source[T] += -joule;
        }
        if (T >= 0 && m.k.isSet()) {
            const Local k = m.k.at(s.at, warm) * Local(sheet.thickness);
            for (int i = 0; i < 3; ++i)
                out.flux[T][i] += k * s.grad[T][i];
        }
    }
}

namespace {

std::unique_ptr<const mesh::Mesh> cutAtJoints(const TransportProblem& problem,
                                              const mesh::Mesh& mesh,
                                              const shape::Partition& partition)
{
    if (problem.joints.empty())
        return nullptr;
    std::vector<char> sides(partition.sides().size(), 0);
    for (const auto& [side, joint] : problem.joints)
        sides[size_t(side)] = 1;
    return std::make_unique<mesh::Mesh>(mesh::cut(mesh, partition, sides));
}

}  // namespace

TransportSolver::TransportSolver(const TransportProblem& problem, const mesh::Mesh& mesh,
                                 const shape::Partition& partition, int order,
                                 base::Progress& progress)
    : m_problem(problem),
      m_cut(cutAtJoints(problem, mesh, partition)),
      m_mesh(m_cut ? *m_cut : mesh),
      m_partition(partition),
      m_space(m_mesh, order),
      m_coupled(problem, m_space, progress)
{
    if (problem.heat) {
        m_quantities.push_back({"T", "temperature", "K", 1});
        m_quantities.push_back({"q", "heat flux", "W/m^2", 3});
    }
    if (problem.current) {
        m_quantities.push_back({"V", "potential", "V", 1});
        m_quantities.push_back({"J", "current density", "A/m^2", 3});
        m_quantities.push_back({"heating", "heating by the current", "W/m^3", 1});
    }
}

void TransportSolver::solve(int lowestOrder, base::Progress& progress)
{
    m_solved.clear();
    m_counters = {};
    if (m_problem.transient) {
        // Eight times the error of a step is about four times that of the whole: second order.
        constexpr double looser = 8;
        m_coarse = {};
        m_coarse = transient(lowestOrder, looser * m_problem.stepTolerance, progress);
        for (int order = lowestOrder; order <= m_space.order(); ++order)
            m_solved.push_back(transient(order, m_problem.stepTolerance, progress));
        select();
        return;
    }
    fem::CoupledSolver::Values u = m_coupled.start(lowestOrder);
    for (int order = lowestOrder; order <= m_space.order(); ++order) {
        progress.check();
        u = m_coupled.raised(u, order);
        const auto report = m_coupled.solve(order, u);
        m_counters.unknowns = report.unknowns;
        m_counters.iterations += report.iterations;
        m_counters.assembleSeconds += report.assembleSeconds;
        m_counters.solveSeconds += report.solveSeconds;
        Solved solved;
        solved.order = order;
        solved.u = u;
        solved.groups = m_coupled.groupResults(order, u);
        m_solved.push_back(std::move(solved));
    }
}

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
        Values first = u, second;
        bool found =
            m_coupled.stage(order, first, {&u, nullptr, 0, gamma * dt, t + gamma * dt}, report);
        const fem::CoupledSolver::Stage stage{&u, &first, weight, gamma * dt, t + dt};
        if (found) {
            second = first;
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

const TransportSolver::Solved& TransportSolver::at(int order) const
{
    if (m_useCoarse)
        return m_coarse;
    for (const Solved& s : m_solved)
        if (s.order == order)
            return s;
    YH_ASSERT(false, "order was solved");
    return m_solved.back();
}

double TransportSolver::localT(const Solved& s, int cell, const Point& xi) const
{
    return m_problem.T >= 0 && m_problem.warms[size_t(m_mesh.piece[size_t(cell)])]
               ? m_space.value(s.u[size_t(m_problem.T)], s.order, cell, xi)
               : m_problem.reference;
}

double TransportSolver::valueAt(int order, int field, const mesh::Locator::Hit& hit) const
{
    return m_space.value(at(order).u[size_t(field)], order, hit.cell, hit.xi);
}

Point TransportSolver::currentDensity(int order, int cell, const Point& xi) const
{
    const Solved& s = at(order);
    const auto piece = size_t(m_mesh.piece[size_t(cell)]);
    if (!m_problem.conducts[piece])
        return {};
    const Conduction& m = m_problem.pieces[piece];
    const Point p = mesh::Geometry(m_mesh, cell).at(xi);
    const double T = localT(s, cell, xi);
    Point g = m_space.gradient(s.u[size_t(m_problem.V)], order, cell, xi);
    if (m.thermoelectric && m_problem.T >= 0 && m_problem.warms[piece])
        g = g + m.seebeck.value(p, T) * m_space.gradient(s.u[size_t(m_problem.T)], order, cell, xi);
    return -m.sigma.value(p, m.follows ? T : m_problem.reference) * g;
}

Point TransportSolver::heatFlux(int order, int cell, const Point& xi) const
{
    const Solved& s = at(order);
    const auto piece = size_t(m_mesh.piece[size_t(cell)]);
    if (m_problem.T < 0 || !m_problem.warms[piece])
        return {};
    const Conduction& m = m_problem.pieces[piece];
    const Point p = mesh::Geometry(m_mesh, cell).at(xi);
    const double T = localT(s, cell, xi);
    Point q = -m.k.value(p, T) * m_space.gradient(s.u[size_t(m_problem.T)], order, cell, xi);
    if (m.thermoelectric && m_problem.conducts[piece])
        q = q + m.seebeck.value(p, T) * T * currentDensity(order, cell, xi);
    return q;
}

void TransportSolver::sample(int cell, const Point& xi, double* values) const
{
    const int p = order();
    const auto piece = size_t(m_mesh.piece[size_t(cell)]);
    int n = 0;
    auto put = [&](const Point& v) {
        values[n++] = v.x;
        values[n++] = v.y;
        values[n++] = v.z;
    };
    if (m_problem.heat) {
        values[n++] = valueAt(p, m_problem.T, {cell, xi});
        put(heatFlux(p, cell, xi));
    }
    if (m_problem.current) {
        const Point J = currentDensity(p, cell, xi);
        values[n++] = m_problem.conducts[piece] ? valueAt(p, m_problem.V, {cell, xi}) : 0.0;
        put(J);
        values[n] = -dot(J, m_space.gradient(at(p).u[size_t(m_problem.V)], p, cell, xi));
        if (!m_problem.conducts[piece])
            values[n] = 0;
    }
}

std::vector<double> TransportSolver::indicator(bool) const
{
    std::vector<double> eta(size_t(m_mesh.cellCount()), 0.0);
    const Solved& s = m_solved.back();
    auto add = [&](const fem::CoupledSolver::Values& u) {
        for (int f = 0; f < m_problem.fieldCount(); ++f) {
            const auto share = m_coupled.shares(s.order, u, f);
            double sum = 0;
            for (const double x : share)
                sum += x;
            for (size_t t = 0; t < eta.size() && sum > 0; ++t)
                eta[t] += share[t] / sum;
        }
    };
    if (s.frames.empty())
        add(s.u);
    // Steps are denser where more happens.
    constexpr size_t looks = 6;
    for (size_t k = 1; k <= looks && s.frames.size() > 1; ++k)
        add(s.frames[k * (s.frames.size() - 1) / looks].u);
    return eta;
}

std::vector<double> TransportSolver::dualIndicator(const PointFunctional& functional)
{
    if (m_problem.transient)
        return indicator(false);
    const Solved& s = m_solved.back();
    const int order = s.order, local = m_space.localCount(order);
    fem::CoupledSolver::Values f(size_t(m_problem.fieldCount()),
                                 std::vector<double>(size_t(m_space.count(order)), 0.0));
    int number[mostLocal];
    double sign[mostLocal];
    fem::Basis b;
    m_space.local(functional.hit.cell, number, sign);
    fem::basis(m_mesh.dimension, order, functional.hit.xi, b);
    Point row[3];
    mesh::Geometry(m_mesh, functional.hit.cell).inverse(functional.hit.xi, row);
    const bool gradient = dot(functional.direction, functional.direction) > 0;
    for (int i = 0; i < local; ++i) {
        double w = b.value[i];
        if (gradient) {
            w = 0;
            for (int c = 0; c < m_mesh.dimension; ++c)
                w -= b.d[c][i] * dot(row[c], functional.direction);
        }
        f[size_t(functional.component)][size_t(number[i])] += sign[i] * w;
    }
    const auto z = m_coupled.dual(order, s.u, f);
    std::vector<double> eta(size_t(m_mesh.cellCount()), 0.0);
    for (int k = 0; k < m_problem.fieldCount(); ++k) {
        const auto a = m_coupled.shares(order, s.u, k);
        // The tangent is taken at the solution for both.
        auto mixed = s.u;
        mixed[size_t(k)] = z[size_t(k)];
        const auto c = m_coupled.shares(order, mixed, k);
        for (size_t t = 0; t < eta.size(); ++t)
            eta[t] += std::sqrt(a[t] * c[t]);
    }
    return eta;
}

double TransportSolver::geometryError() const
{
    // The first-order change of flux . grad u when a border moves, over its whole, by field.
    const Solved& s = m_solved.back();
    double worst = 0;
    for (int field = 0; field < m_problem.fieldCount(); ++field) {
        double whole = 0, moved = 0;
        auto density = [&](int t, const Point& xi) {
            if (!m_problem.active(field, m_mesh.piece[size_t(t)]))
                return 0.0;
            const Point flux =
                field == m_problem.V ? currentDensity(s.order, t, xi) : heatFlux(s.order, t, xi);
            return std::abs(dot(flux, m_space.gradient(s.u[size_t(field)], s.order, t, xi)));
        };
        for (int t = 0; t < m_mesh.cellCount(); ++t) {
            const mesh::Geometry g(m_mesh, t);
            whole += density(t, g.centre()) * g.determinant(g.centre()) *
                     measureAt(m_problem.area, g.at(g.centre())) / (m_mesh.dimension == 2 ? 2 : 6);
        }
        for (int e = 0; e < m_mesh.sideCount(); ++e) {
            const int c = m_mesh.sideTag[size_t(e)], t = m_mesh.sideCells[size_t(e)][0];
            if (c < 0 || m_partition.sides()[size_t(c)].flat)
                continue;
            const mesh::Geometry g(m_mesh, t);
            if (!g.curved)
                continue;
            const int k = m_mesh.localSide(t, e);
            const Point xi =
                g.onSide(k, m_mesh.dimension == 2 ? Point{0.5} : Point{1.0 / 3, 1.0 / 3});
            moved += density(t, xi) * borderOffset(m_mesh, m_partition, g, k, e, t) *
                     measureAt(m_problem.area, g.at(xi));
        }
        if (whole > 0)
            worst = std::max(worst, moved / whole);
    }
    return worst;
}

std::vector<SingularCorner> TransportSolver::singularCorners() const
{
    return m_problem.corners(m_mesh, m_partition);
}

std::vector<SingularCorner> TransportProblem::corners(const mesh::Mesh& mesh,
                                                      const shape::Partition& partition) const
{
    std::vector<SingularCorner> all;
    for (int field = 0; field < fieldCount(); ++field) {
        CornerProblem corner;
        corner.measure = area;
        corner.coefficient = [this, field](int piece, const Point& p) {
            if (!active(field, piece))
                return 0.0;
            const Conduction& c = pieces[size_t(piece)];
            return (field == V ? c.sigma : c.k).value(p, reference);
        };
        corner.held.assign(partition.sides().size(), 0);
        for (const fem::Group& g : groupList)
            if (g.field == field)
                for (const int s : g.sides)
                    corner.held[size_t(s)] = 1;
        for (const SingularCorner& c : findSingularCorners(corner, mesh, partition)) {
            const auto same = std::find_if(all.begin(), all.end(), [&](const SingularCorner& k) {
                return k.vertex == c.vertex;
            });
            if (same == all.end())
                all.push_back(c);
            else
                same->exponent = std::min(same->exponent, c.exponent);
        }
    }
    return all;
}

TransportSolver::ContactResult TransportSolver::contact(int order, int index) const
{
    const Contact& c = m_problem.contacts[size_t(index)];
    const Solved& s = at(order);
    if (c.behind) {
        const ContactResult mate = contact(order, c.mate);
        return {-mate.voltage, -mate.current};
    }
    // What lies before an odd plane counts once, not with its image of opposite current.
    const double scale = m_problem.scale * m_problem.oddShare;
    if (c.group >= 0)
        return {groupsOf(s)[size_t(c.group)].value, scale * groupsOf(s)[size_t(c.group)].flow};
    ContactResult r{c.value, 0};
    for (const auto& [side, condition] : m_problem.sides)
        for (const auto& film : condition.films)
            if (film.contact == index)
                overSide(order, side, [&](int cell, const Point& xi, const Point&, double w) {
                    r.current += scale * w *
                                 ((isOn(film.until, s.time) ? film.voltage : 0.0) -
                                  valueAt(order, m_problem.V, {cell, xi})) /
                                 film.resistance;
                });
    return r;
}

double TransportSolver::planeFlow(int order) const
{
    return m_problem.scale * m_problem.oddShare *
           groupsOf(at(order))[size_t(m_problem.oddPlane)].flow;
}

template <class Visit>
void TransportSolver::overSide(int order, int side, Visit visit) const
{
    // The same points as in the coupled solver, so that flows balance exactly.
    fem::onSides(
        m_mesh, m_problem.area, 2 * order + 2,
        [&](int s, int t) {
            return m_mesh.sideTag[size_t(s)] == side && m_mesh.sideCells[size_t(s)][0] == t;
        },
        [&](int, int t, const Point& xi, const Point& p, const Point& n) {
            visit(t, xi, p, norm(n));
        });
}

double TransportSolver::heatOut(int order, int line) const
{
    const Solved& s = at(order);
    double sum = 0;
    for (const HeldTemperature& h : m_problem.held)
        if (h.line == line)
            sum -= groupsOf(s)[size_t(h.group)].flow;
    for (const auto& [side, condition] : m_problem.sides) {
        for (const auto& e : condition.exchange)
            if (e.line == line)
                overSide(order, side, [&](int cell, const Point& xi, const Point&, double w) {
                    const double T = valueAt(order, m_problem.T, {cell, xi});
                    sum += w * (e.h * (T - e.surroundings) +
                                e.emissivity * stefan *
                                    (std::abs(T * T * T) * T - std::pow(e.surroundings, 4)));
                });
        for (const auto& f : condition.flux)
            if (f.line == line && isOn(f.until, s.time))
                overSide(order, side, [&](int, const Point&, const Point& p, double w) {
                    sum -= w * f.into(p);
                });
    }
    return m_problem.scale * sum;
}

double TransportSolver::heating(int order, const std::vector<int>& pieces,
                                const std::vector<int>& sheetLines) const
{
    if (m_problem.V < 0)
        return 0;
    const Solved& s = at(order);
    const auto wanted = flags(pieces, m_partition.pieces().size());
    const auto& V = s.u[size_t(m_problem.V)];
    double sum = 0;
    const auto& rule = fem::cellRule(m_mesh.dimension, fem::termDegree(m_mesh.dimension, order));
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const auto piece = size_t(m_mesh.piece[size_t(t)]);
        if (!wanted[piece] || !m_problem.conducts[piece])
            continue;
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule)
            sum -= q.w * g.determinant(q.xi) * measureAt(m_problem.area, g.at(q.xi)) *
                   dot(currentDensity(order, t, q.xi), m_space.gradient(V, order, t, q.xi));
    }
    for (const auto& [side, condition] : m_problem.sides)
        for (const auto& sheet : condition.sheets) {
            if (std::find(sheetLines.begin(), sheetLines.end(), sheet.line) == sheetLines.end())
                continue;
            fem::onSides(
                m_mesh, m_problem.area, 2 * order + 2,
                [&, side = side](int e, int t) {
                    return m_mesh.sideTag[size_t(e)] == side && m_mesh.sideCells[size_t(e)][0] == t;
                },
                [&](int, int t, const Point& xi, const Point& p, const Point& n) {
                    const double size = norm(n);
                    Point grad = m_space.gradient(V, order, t, xi);
                    grad = grad - (dot(grad, n) / (size * size)) * n;
                    const double T = m_problem.T >= 0 && sheet.what.follows
                                         ? valueAt(order, m_problem.T, {t, xi})
                                         : m_problem.reference;
                    sum += size * sheet.thickness * sheet.what.sigma.value(p, T) * dot(grad, grad);
                });
        }
    return m_problem.scale * sum;
}

double TransportSolver::jointHeat(int order) const
{
    if (m_problem.V < 0 || m_problem.T < 0)
        return 0;
    const auto& V = at(order).u[size_t(m_problem.V)];
    double sum = 0;
    for (const auto& [a, b] : m_mesh.facing) {
        const int tag = m_mesh.sideTag[size_t(a)];
        if (!m_problem.jumpHeats(tag))
            continue;
        const double conductance = m_problem.jump(m_problem.V, tag);
        const int ta = m_mesh.sideCells[size_t(a)][0], tb = m_mesh.sideCells[size_t(b)][0],
                  k = m_mesh.localSide(ta, a);
        const mesh::Geometry ga(m_mesh, ta), gb(m_mesh, tb);
        for (const auto& q : fem::cellRule(m_mesh.dimension - 1, 2 * order + 2)) {
            const Point xa = ga.onSide(k, q.xi), p = ga.at(xa);
            Point xb;
            if (!gb.invert(p, xb))
                continue;
            const double step = m_space.value(V, order, ta, xa) - m_space.value(V, order, tb, xb);
            sum += q.w * norm(ga.outward(k, xa)) * measureAt(m_problem.area, p) * conductance *
                   step * step;
        }
    }
    return m_problem.scale * sum;
}

double TransportSolver::givenHeat(int order) const
{
    double sum = 0;
    const auto& rule = fem::cellRule(m_mesh.dimension, fem::termDegree(m_mesh.dimension, order));
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const auto piece = size_t(m_mesh.piece[size_t(t)]);
        const Conduction& what = m_problem.pieces[piece];
        if ((what.sources.empty() && what.perfusion <= 0) || !m_problem.warms[piece])
            continue;
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            const Point p = g.at(q.xi);
            sum +=
                q.w * g.determinant(q.xi) * measureAt(m_problem.area, p) *
                (what.sourceAt(p, at(order).time) -
                 (what.perfusion > 0
                      ? what.perfusion * (valueAt(order, m_problem.T, {t, q.xi}) - what.perfusedBy)
                      : 0.0));
        }
    }
    return m_problem.scale * sum;
}

namespace {

/// Largest of a function over cells, by samples refined where it is strongest.
template <class Value>
TransportSolver::Extreme largestOf(const mesh::Mesh& mesh, const std::vector<char>& wanted,
                                   const Value& value)
{
    using Extreme = TransportSolver::Extreme;
    const bool solid = mesh.dimension == 3;
    auto scan = [&](int t, int steps, Extreme& best) {
        for (int i = 0; i <= steps; ++i)
            for (int j = 0; i + j <= steps; ++j)
                for (int k = 0; i + j + k <= (solid ? steps : i + j); ++k) {
                    const Point xi{double(i) / steps, double(j) / steps, double(k) / steps};
                    const double v = value(t, xi);
                    if (best.hit.cell < 0 || v > best.value)
                        best = {v, {t, xi}};
                }
    };
    std::vector<std::pair<double, int>> strongest;
    for (int t = 0; t < mesh.cellCount(); ++t)
        if (wanted[size_t(mesh.piece[size_t(t)])]) {
            Extreme e;
            scan(t, 2, e);
            strongest.push_back({-e.value, t});
        }
    constexpr size_t most = 16;
    const size_t n = std::min(most, strongest.size());
    std::partial_sort(strongest.begin(), strongest.begin() + std::ptrdiff_t(n), strongest.end());
    Extreme best;
    for (size_t i = 0; i < n; ++i)
        scan(strongest[i].second, solid ? 6 : 12, best);
    return best;
}

}  // namespace

TransportSolver::Extreme TransportSolver::temperature(int order, const std::vector<int>& pieces,
                                                      Wanted wanted) const
{
    const double s = wanted == Wanted::highest ? 1 : -1;
    Extreme e =
        largestOf(m_mesh, flags(pieces, m_partition.pieces().size()), [&](int t, const Point& xi) {
            return s * valueAt(order, m_problem.T, {t, xi});
        });
    e.value *= s;
    return e;
}

TransportSolver::Extreme TransportSolver::largestCurrentDensity(
    int order, const std::vector<int>& pieces) const
{
    return largestOf(m_mesh, flags(pieces, m_partition.pieces().size()),
                     [&](int t, const Point& xi) { return norm(currentDensity(order, t, xi)); });
}

double TransportSolver::meanTemperature(int order, const std::vector<int>& pieces) const
{
    const auto wanted = flags(pieces, m_partition.pieces().size());
    double sum = 0, volume = 0;
    const auto& rule = fem::cellRule(m_mesh.dimension, order + 2);
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        if (!wanted[size_t(m_mesh.piece[size_t(t)])])
            continue;
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            const double w = q.w * g.determinant(q.xi) * measureAt(m_problem.area, g.at(q.xi));
            sum += w * valueAt(order, m_problem.T, {t, q.xi});
            volume += w;
        }
    }
    return volume > 0 ? sum / volume : 0.0;
}

Balance balance(const TransportSolver& solver)
{
    const TransportProblem& p = solver.problem();
    const int order = solver.order();
    Balance b;
    double sum = 0, most = 0;
    for (size_t k = 0; k < p.contacts.size(); ++k) {
        if (p.contacts[k].behind)
            continue;
        const double i = solver.contact(order, int(k)).current;
        sum += i;
        most = std::max(most, std::abs(i));
    }
    if (p.oddPlane >= 0)
        sum += solver.planeFlow(order);
    b.current = most > 0 ? std::abs(sum) / most : 0.0;
    if (!p.heat)
        return b;
    // Heat that goes in by current and sources against all that goes out.
    double in = solver.givenHeat(order);
    double most0 = 0;
    if (p.transient) {
        in -= solver.storedRate(order);
        most0 = solver.meanStoring(order);
    }
    std::vector<int> pieces, sheets, lines;
    for (size_t f = 0; f < p.pieces.size(); ++f)
        if (p.conducts[f] && p.warms[f] && (p.pieces[f].heats || p.pieces[f].thermoelectric))
            pieces.push_back(int(f));
    auto once = [](std::vector<int>& list, int line) {
        if (std::find(list.begin(), list.end(), line) == list.end())
            list.push_back(line);
    };
    for (const auto& [side, c] : p.sides) {
        for (const auto& s : c.sheets)
            if (s.what.heats)
                once(sheets, s.line);
        for (const auto& e : c.exchange)
            once(lines, e.line);
        for (const auto& f : c.flux)
            once(lines, f.line);
    }
    for (const auto& h : p.held)
        once(lines, h.line);
    in += solver.heating(order, pieces, sheets) + solver.jointHeat(order);
    double out = 0;
    most = std::max(std::abs(in), most0);
    for (const int line : lines) {
        const double q = solver.heatOut(order, line);
        out += q;
        most = std::max(most, std::abs(q));
    }
    b.heat = most > 0 ? std::abs(out - in) / most : 0.0;
    return b;
}

}  // namespace yh::physics
