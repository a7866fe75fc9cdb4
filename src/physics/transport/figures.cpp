// Figures of current and heat.
#include "fem/quadrature.h"
#include "physics/common/joints.h"
#include "physics/transport/transport.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

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
    const auto& group = groupsOf(s)[size_t(c.group)];
    return {group.value, scale * group.flow};
}

double TransportSolver::planeFlow(int order) const
{
    return m_problem.scale * m_problem.oddShare *
           groupsOf(at(order))[size_t(m_problem.oddPlane)].flow;
}

/// The device with every contact but one driven by its current, in the state that was solved.
struct TransportSolver::Driven
{
    Driven(const TransportSolver& of, int ground)
        : problem(of.m_problem), solver(problem, of.m_space, of.m_progress), reference(ground)
    {
        const Solved& s = of.m_solved.back();
        for (size_t k = 0; k < problem.contacts.size(); ++k) {
            const auto group = size_t(problem.contacts[k].group);
            const auto& state = of.groupsOf(s)[group];
            problem.groupList[group].given = int(k) == ground;
            problem.groupList[group].value = int(k) == ground ? state.value : state.flow;
            if (int(k) != ground)
                driven.push_back(int(group));
        }
    }
    TransportProblem problem;
    fem::CoupledSolver solver;
    int reference;
    std::vector<int> driven;  ///< groups of the contacts but the reference
    std::vector<fem::CoupledSolver::Values> fields;
};

std::vector<double> TransportSolver::resistances(int order, int reference)
{
    if (!m_driven || m_driven->reference != reference)
        m_driven = std::make_shared<Driven>(*this, reference);
    Driven& d = *m_driven;
    // The fields are those of the state itself; only which contacts have values of their own
    // differs.
    const Solved& s = at(order);
    auto u = d.solver.raised(d.solver.start(1), order);
    for (size_t f = 0; f < u.size(); ++f)
        std::copy_n(s.u[f].begin(), m_space.count(order), u[f].begin());
    if (order == m_ahead.order && d.fields.empty())
        static_cast<void>(resistances(m_order, reference));
    auto fields = order == m_ahead.order ? d.solver.responsesAhead(m_order, u, d.driven, d.fields)
                                         : d.solver.responses(order, u, d.driven);
    std::vector<double> R;
    // What lies before an odd plane counts once, and every mirror image carries its share.
    for (const int to : d.driven)
        for (const auto& field : fields)
            R.push_back(d.solver.valueOf(order, field, to) /
                        (m_problem.scale * m_problem.oddShare));
    if (order == this->order())
        d.fields = std::move(fields);
    return R;
}

std::vector<fem::CoupledSolver::Values> TransportSolver::drivenFields() const
{
    return m_driven ? m_driven->fields : std::vector<fem::CoupledSolver::Values>();
}

double TransportSolver::contactPower(int order) const
{
    double sum = 0;
    for (size_t k = 0; k < m_problem.contacts.size(); ++k) {
        const ContactResult c = contact(order, int(k));
        sum += c.voltage * c.current;
    }
    return sum;
}

namespace {

/// Share of a simplex in which a linear function with given corner values is above zero.
/// Source: divided differences of the truncated power (de Boor, A Practical Guide to Splines,
/// from memory).
double shareAbove(const double* value, int corners)
{
    double v[4], most = 0;
    for (int i = 0; i < corners; ++i)
        most = std::max(most, std::abs(value[i]));
    bool all = true, none = true;
    for (int i = 0; i < corners; ++i) {
        // Equal values are set apart a little, for the quotients.
        constexpr double apart = 1e-5;
        v[i] = value[i] + apart * i * most;
        all = all && value[i] >= 0;
        none = none && value[i] <= 0;
    }
    if (all || none)
        return all ? 1 : 0;
    double sum = 0;
    for (int i = 0; i < corners; ++i) {
        if (v[i] <= 0)
            continue;
        double term = 1;
        for (int j = 0; j < corners; ++j)
            if (j != i)
                term *= v[i] / (v[i] - v[j]);
        sum += term;
    }
    return std::clamp(sum, 0.0, 1.0);
}

/// The reference simplex in equal parts: corners of each.
std::vector<std::array<Point, 4>> parts(int dimension, int n)
{
    std::vector<std::array<Point, 4>> list;
    const double h = 1.0 / n;
    auto p = [h](int i, int j, int k) { return Point{i * h, j * h, k * h}; };
    if (dimension == 2) {
        for (int i = 0; i < n; ++i)
            for (int j = 0; i + j < n; ++j) {
                list.push_back({p(i, j, 0), p(i + 1, j, 0), p(i, j + 1, 0), {}});
                if (i + j + 1 < n)
                    list.push_back({p(i + 1, j, 0), p(i + 1, j + 1, 0), p(i, j + 1, 0), {}});
            }
        return list;
    }
    for (int i = 0; i < n; ++i)
        for (int j = 0; i + j < n; ++j)
            for (int k = 0; i + j + k < n; ++k) {
                // A cube of the lattice about its diagonal, as far as it is inside.
                const Point a = p(i, j, k), x = p(i + 1, j, k), y = p(i, j + 1, k),
                            z = p(i, j, k + 1), xy = p(i + 1, j + 1, k), xz = p(i + 1, j, k + 1),
                            yz = p(i, j + 1, k + 1), end = p(i + 1, j + 1, k + 1);
                list.push_back({a, x, y, z});
                if (i + j + k + 1 < n)
                    for (const auto& t :
                         {std::array{x, y, z, xz}, {x, y, xy, xz}, {y, z, xz, yz}, {y, xy, xz, yz}})
                        list.push_back(t);
                if (i + j + k + 2 < n)
                    list.push_back({xy, xz, yz, end});
            }
    return list;
}

/** What of the currents does not balance. */
double currentBalance(const TransportSolver& solver, const TransportProblem& p, int order)
{
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
    return most > 0 ? std::abs(sum) / most : 0.0;
}

/** The lines of layers that warm, and of sides that heat crosses. */
void linesOf(const TransportProblem& p, std::vector<int>& sheets, std::vector<int>& lines)
{
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
}

}  // namespace

double TransportSolver::volumeAbove(int order, int t, double melts) const
{
    const mesh::Geometry g(m_mesh, t);
    const int dimension = m_mesh.dimension;
    constexpr int fine = 4;
    const auto simplices = parts(dimension, fine);
    double molten = 0;
    for (const auto& s : simplices) {
        double above[4];
        Point middle;
        for (int i = 0; i <= dimension; ++i) {
            above[i] = valueAt(order, m_problem.T, {t, s[size_t(i)]}) - melts;
            middle = middle + (1.0 / (dimension + 1)) * s[size_t(i)];
        }
        const double part = 1.0 / ((dimension == 2 ? 2 : 6) * double(simplices.size()));
        molten += shareAbove(above, dimension + 1) * part * g.determinant(middle) *
                  measureAt(m_problem.area, g.at(middle));
    }
    return molten;
}

double TransportSolver::meltedShare(int order, const std::vector<int>& pieces,
                                    const std::vector<double>& melting) const
{
    const auto wanted = flags(pieces, m_partition.pieces().size());
    const int dimension = m_mesh.dimension;
    const auto& rule = fem::cellRule(dimension, order + 2);
    double molten = 0, volume = 0;
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const auto piece = size_t(m_mesh.piece[size_t(t)]);
        if (!wanted[piece])
            continue;
        const mesh::Geometry g(m_mesh, t);
        const Conduction& what = m_problem.pieces[piece];
        double low = 1e300, high = -1e300, whole = 0, ranged = 0;
        for (const auto& q : rule) {
            const double w = q.w * g.determinant(q.xi) * measureAt(m_problem.area, g.at(q.xi)),
                         T = valueAt(order, m_problem.T, {t, q.xi});
            low = std::min(low, T);
            high = std::max(high, T);
            whole += w;
            if (what.latent > 0)
                ranged += w * what.molten(fem::Local(T)).v;
        }
        volume += whole;
        if (what.latent > 0) {
            molten += ranged;
            continue;
        }
        // Between the points of the rule the temperature goes a little further.
        const double melts = melting[piece], margin = 0.5 * (high - low);
        if (low - margin > melts) {
            molten += whole;
        } else if (high + margin > melts) {
            molten += volumeAbove(order, t, melts);
        }
    }
    return volume > 0 ? molten / volume : 0.0;
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
                fem::onSides(
                    m_mesh, m_problem.area, 2 * order + 2,
                    [&, side = side](int e, int t) { return isFirstAt(e, t, side); },
                    [&](int, int t, const Point& xi, const Point& p, const Point& n) {
                        sum -= norm(n) * f.into({p, order, t, xi, (1 / norm(n)) * n, s.time});
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
                [&, side = side](int e, int t) { return isFirstAt(e, t, side); },
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
    return m_problem.scale *
           jumpPower(m_space, m_problem.area, order, at(order).u[size_t(m_problem.V)],
                     [this](int side) {
                         return m_problem.jumpHeats(side) ? m_problem.jump(m_problem.V, side) : 0.0;
                     });
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
                (what.sourceAt({p, order, t, q.xi, {}, at(order).time}, at(order).time) -
                 (what.perfusion > 0
                      ? what.perfusion * (valueAt(order, m_problem.T, {t, q.xi}) - what.perfusedBy)
                      : 0.0));
        }
    }
    return m_problem.scale * sum;
}

Extreme TransportSolver::temperature(int order, const std::vector<int>& pieces, Wanted wanted) const
{
    const double s = wanted == Wanted::highest ? 1 : -1;
    Extreme e =
        largestOf(m_mesh, flags(pieces, m_partition.pieces().size()), [&](int t, const Point& xi) {
            return s * valueAt(order, m_problem.T, {t, xi});
        });
    e.value *= s;
    return e;
}

Extreme TransportSolver::largestCurrentDensity(int order, const std::vector<int>& pieces) const
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
    b.current = currentBalance(solver, p, order);
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
    linesOf(p, sheets, lines);
    in += solver.heating(order, pieces, sheets) + solver.jointHeat(order);
    double out = 0;
    double most = std::max(std::abs(in), most0);
    for (const int line : lines) {
        const double q = solver.heatOut(order, line);
        out += q;
        most = std::max(most, std::abs(q));
    }
    b.heat = most > 0 ? std::abs(out - in) / most : 0.0;
    return b;
}

}  // namespace yh::physics
