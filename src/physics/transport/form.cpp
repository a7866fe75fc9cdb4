#include "physics/transport/transport.h"

#include "base/clock.h"
#include "physics/common/functional.h"
#include "physics/common/joints.h"

#include <algorithm>
#include <cmath>
#include <new>

namespace yh::physics {

using fem::Local;

namespace {

// Range and number of samples of a property over temperature.
constexpr double tableLow = 20, tableHigh = 4020;
constexpr int tableSteps = 2000;

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

double Conduction::sourceAt(const fem::Spot& spot, double time) const
{
    double sum = 0;
    for (const Source& s : sources)
        if (isOn(s.until, time))
            sum += s.density(spot);
    return sum;
}

Local Conduction::stored(const Point& p, const Local& T) const
{
    Local h = enthalpy.isConstant() ? enthalpy.at(p, T) * T : enthalpy.at(p, T);
    if (latent > 0)
        h += Local(latent) * molten(T);
    return h;
}

Local Conduction::molten(const Local& T) const
{
    // The heat of melting is taken up over a range of temperature, smoothly.
    const double s = std::clamp((T.v - melting) / meltingRange + 0.5, 0.0, 1.0);
    return T.map(s * s * (3 - 2 * s), 6 * s * (1 - s) / meltingRange);
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
            out.source[T] += -m.sourceAt(s, s.time);
        if (m.perfusion > 0)
            out.source[T] += Local(m.perfusion) * (warm - Local(m.perfusedBy));
    }
}

bool TransportProblem::isOhmic() const
{
    auto simple = [](const Conduction& c) { return !c.follows && !c.thermoelectric; };
    for (size_t f = 0; f < pieces.size(); ++f)
        if (conducts[f] && !simple(pieces[f]))
            return false;
    for (const auto& [side, c] : sides)
        for (const auto& s : c.sheets)
            if (!simple(s.what))
                return false;
    return true;
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
                out.source[T] += -f.into(s);
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

TransportSolver::TransportSolver(const TransportProblem& problem, const mesh::Mesh& mesh,
                                 const shape::Partition& partition, int order,
                                 base::Progress& progress)
    : m_problem(problem),
      m_cut(cutAt(problem.joints, mesh, partition)),
      m_mesh(m_cut ? *m_cut : mesh),
      m_partition(partition),
      m_order(order),
      m_looksAhead(canLookAhead()),
      m_space(m_mesh, m_looksAhead ? order + 1 : order),
      m_coupled(problem, m_space, progress),
      m_progress(progress)
{
    if (problem.heat) {
        m_quantities.push_back({"T", "temperature", "K", 1, "isotherms"});
        m_quantities.push_back({"q", "heat flux", "W/m^2", 3});
    }
    if (problem.current) {
        m_quantities.push_back({"V", "potential", "V", 1, "potential"});
        m_quantities.push_back({"J", "current density", "A/m^2", 3});
        m_quantities.push_back({"heating", "heating by the current", "W/m^3", 1});
    }
}

void TransportSolver::lookAhead(const fem::CoupledSolver::Values& u, base::Progress& progress)
{
    progress.check();
    const double start = base::seconds();
    try {
        m_ahead.u = m_coupled.ahead(m_order, u);
        m_ahead.groups = m_coupled.groupResults(m_order + 1, m_ahead.u);
        m_ahead.order = m_order + 1;
    } catch (const base::Error&) {
        // It is not solved or there is no room for it: the differences between orders tell as well.
        m_ahead = {};
    } catch (const std::bad_alloc&) {
        m_ahead = {};
    }
    m_counters.solveSeconds += base::seconds() - start;
}

void TransportSolver::solve(int lowestOrder, base::Progress& progress)
{
    m_solved.clear();
    m_ahead = {};
    m_weighted.clear();
    m_driven.reset();
    m_counters = {};
    if (m_problem.transient) {
        // Eight times the error of a step is about four times that of the whole: second order.
        constexpr double looser = 8;
        m_coarse = {};
        m_coarse = transient(lowestOrder, looser * m_problem.stepTolerance, progress);
        for (int order = lowestOrder; order <= m_order; ++order)
            m_solved.push_back(transient(order, m_problem.stepTolerance, progress));
        select();
        return;
    }
    fem::CoupledSolver::Values u = m_coupled.start(lowestOrder);
    for (int order = lowestOrder; order <= m_order; ++order) {
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
    if (!m_looksAhead)
        return;
    lookAhead(u, progress);
}

bool TransportSolver::canLookAhead() const
{
    // Sources that are fields of this order are not known of the next. Of two fields together, and
    // of very many cells, its matrix costs more than it saves.
    constexpr int mostCells = 300000;
    return m_mesh.dimension == 3 && m_order < fem::highestSolidOrder && !m_problem.transient &&
           !m_problem.sourcesByOrder && m_problem.fieldCount() == 1 &&
           m_mesh.cellCount() < mostCells;
}

std::vector<int> TransportSolver::estimates() const
{
    return m_ahead.order > 0 ? std::vector{m_order} : Solution::estimates();
}

const TransportSolver::Solved& TransportSolver::at(int order) const
{
    if (m_useCoarse)
        return m_coarse;
    for (const Solved& s : m_solved)
        if (s.order == order)
            return s;
    if (order == m_ahead.order)
        return m_ahead;
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
        // Beside what warms the functions of its border go on into the next cell; heat does not.
        values[n++] = m_problem.warms[piece] ? valueAt(p, m_problem.T, {cell, xi})
                                             : m_problem.start(m_problem.T);
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

std::vector<double> TransportSolver::indicator(bool allDrives) const
{
    std::vector<double> eta(size_t(m_mesh.cellCount()), 0.0);
    const Solved& s = m_solved.back();
    auto add = [&](const fem::CoupledSolver::Values& u,
                   const fem::CoupledSolver::Values* ahead = nullptr) {
        for (int f = 0; f < m_problem.fieldCount(); ++f) {
            std::vector<double> share;
            if (ahead) {
                // What the next order changed is the error of this one.
                std::vector<double> changed = (*ahead)[size_t(f)];
                for (size_t i = 0; i < size_t(m_space.count(s.order)); ++i)
                    changed[i] -= u[size_t(f)][i];
                share = m_coupled.shares(m_ahead.order, *ahead, changed, f);
            } else {
                share = m_coupled.shares(s.order, u, f);
            }
            double sum = 0;
            for (const double x : share)
                sum += x;
            for (size_t t = 0; t < eta.size() && sum > 0; ++t)
                eta[t] += share[t] / sum;
        }
    };
    if (s.frames.empty())
        add(s.u, m_ahead.order > 0 ? &m_ahead.u : nullptr);
    for (const auto& own : allDrives ? drivenFields() : std::vector<fem::CoupledSolver::Values>())
        add(own);
    // Steps are denser where more happens.
    constexpr size_t looks = 6;
    for (size_t k = 1; k <= looks && s.frames.size() > 1; ++k)
        add(s.frames[k * (s.frames.size() - 1) / looks].u);
    return eta;
}

fem::CoupledSolver::Values TransportSolver::derivative(const LocalFunctional& functional,
                                                       int order) const
{
    return derivativeOf(functional, m_mesh, m_problem.fieldCount(), order);
}

const TransportSolver::Weighted& TransportSolver::weighted(const LocalFunctional& functional)
{
    for (const Weighted& w : m_weighted)
        if (w.functional == functional)
            return w;
    const Solved& s = m_solved.back();
    const auto z = m_coupled.dual(s.order, s.u, derivative(functional, s.order));
    m_weighted.push_back({functional,
                          m_coupled.surplus(s.order, s.u, z, derivative(functional, s.order + 1)),
                          m_problem.sourcesByOrder && s.order > 1 ? bySources(s.order, z) : 0.0});
    return m_weighted.back();
}

std::vector<double> TransportSolver::dualIndicator(const LocalFunctional& functional)
{
    return hasNext() ? weighted(functional).surplus.byCell : indicator(false);
}

std::optional<Solution::Change> TransportSolver::changeOf(const LocalFunctional& functional)
{
    if (!hasNext())
        return std::nullopt;
    const Weighted& w = weighted(functional);
    // Sources of the next order would change some third of what those of this order did.
    constexpr double next = 0.35;
    return Change{w.surplus.change + next * w.bySources, w.surplus.unsure};
}

double TransportSolver::bySources(int order, const fem::CoupledSolver::Values& dual) const
{
    const auto& z = dual[size_t(m_problem.T)];
    double sum = 0;
    const auto& rule = fem::cellRule(m_mesh.dimension, fem::termDegree(m_mesh.dimension, order));
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const Conduction& what = m_problem.pieces[size_t(m_mesh.piece[size_t(t)])];
        if (what.sources.empty())
            continue;
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            const Point p = g.at(q.xi);
            sum += q.w * g.determinant(q.xi) * measureAt(m_problem.area, p) *
                   m_space.value(z, order, t, q.xi) *
                   (what.sourceAt({p, order, t, q.xi, {}}, 0) -
                    what.sourceAt({p, order - 1, t, q.xi, {}}, 0));
        }
    }
    return sum;
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
        auto all = [](int) { return true; };
        overCurvedSides(m_mesh, m_partition, all,
                        [&](const CurvedSide& c, const mesh::Geometry& g) {
                            moved += density(c.cell, c.middle) * c.offset *
                                     measureAt(m_problem.area, g.at(c.middle));
                        });
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
                    corner.held[size_t(s)] = g.film == 0;
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

}  // namespace yh::physics
