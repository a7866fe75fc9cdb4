#include "physics/elastic/actuator/actuator.h"

#include "fem/dual.h"
#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yh::physics {

namespace {

using Component = ElasticProblem::Component;

/// Of a stop: the part of its distance over which it begins.
constexpr double softness = 0.01;

/// grad u by rows (a = du_x/dx, b = du_x/dy, c, d) and the derivatives of psi.
constexpr int variables = 6;
using Number = fem::Dual<variables>;

/// Derivatives of -1/2 eps |cof F grad psi|^2 / J by F and grad psi, with theirs.
/// @param F  1 + grad u, by rows; the rest grad psi
std::array<Number, variables> fieldForces(double eps, const std::array<double, variables>& F)
{
    auto variable = [&F](int i) { return Number::variable(F[size_t(i)], i); };
    const Number a = variable(0), b = variable(1), c = variable(2), d = variable(3),
                 g1 = variable(4), g2 = variable(5), J = a * d - b * c, v1 = d * g1 - c * g2,
                 v2 = a * g2 - b * g1, half = (v1 * v1 + v2 * v2) / (J * J) * 0.5;
    const Number over = Number(1.0) / J, p1 = v1 * over, p2 = v2 * over, e(-eps);
    return {e * (p2 * g2 - half * d), e * (half * c - p2 * g1), e * (half * b - p1 * g2),
            e * (p1 * g1 - half * a), e * (p1 * d - p2 * b),    e * (p2 * a - p1 * c)};
}

/// First Piola and Kirchhoff stress F S, S = C (F^T F - 1) / 2.
std::array<Number, variables> stresses(const Eigen::Matrix3d& C,
                                       const std::array<double, variables>& F)
{
    auto variable = [&F](int i) { return Number::variable(F[size_t(i)], i); };
    const Number a = variable(0), b = variable(1), c = variable(2), d = variable(3), one(1.0),
                 exx = (a * a + c * c - one) * 0.5, eyy = (b * b + d * d - one) * 0.5,
                 exy = a * b + c * d;
    auto row = [&](int i) { return exx * C(i, 0) + eyy * C(i, 1) + exy * C(i, 2); };
    const Number sxx = row(0), syy = row(1), sxy = row(2);
    return {a * sxx + b * sxy, a * sxy + b * syy, c * sxx + d * sxy,
            c * sxy + d * syy, Number(0.0),       Number(0.0)};
}

/// Stress of the stuff that carries the gap's mesh along: it resists the more the flatter a cell
/// becomes, so that none turns over (a compressible solid after Bonet and Wood, section 6.4).
std::array<Number, variables> meshStresses(const std::array<double, variables>& F)
{
    auto variable = [&F](int i) { return Number::variable(F[size_t(i)], i); };
    const Number a = variable(0), b = variable(1), c = variable(2), d = variable(3),
                 J = a * d - b * c, over = J.map(1 / J.v, -1 / (J.v * J.v)),
                 k = J.map(std::log(J.v) - 1, 1 / J.v) * over;
    return {a + k * d, b - k * c, c - k * b, d + k * a, Number(0.0), Number(0.0)};
}

Eigen::Matrix3d inDrawing(const ElasticMedium& m)
{
    constexpr int rows[] = {0, 1, 3};
    Eigen::Matrix3d C;
    for (int i = 0; i < 3; ++i)
        for (int j = 0; j < 3; ++j)
            C(i, j) = m.c(rows[i], rows[j]).real();
    return C;
}

std::vector<std::vector<char>> liveOf(const ActuatorProblem& problem)
{
    std::vector<std::vector<char>> live(ElasticProblem::count);
    for (size_t f = 0; f < problem.gap.size(); ++f) {
        const ElasticMedium& m = problem.elastic->media[f];
        bool conducts = false;
        for (const auto& e : problem.elastic->electrodes)
            conducts = conducts || e.pieces[f];
        const bool moves = m.moves || problem.gap[f];
        live[Component::x].push_back(moves);
        live[Component::y].push_back(moves);
        live[Component::potential].push_back(m.polarises && !conducts);
    }
    return live;
}

std::vector<fem::BlockSpace::Body> bodiesOf(const ActuatorProblem& problem)
{
    std::vector<fem::BlockSpace::Body> list;
    for (const auto& e : problem.elastic->electrodes)
        list.push_back({Component::potential, e.sides, e.pieces, true});
    return list;
}

}  // namespace

ActuatorSolver::ActuatorSolver(const ActuatorProblem& problem, const mesh::Mesh& mesh,
                               const shape::Partition& partition, int order, base::Progress&)
    : m_problem(problem),
      m_mesh(mesh),
      m_partition(partition),
      m_space(mesh, std::min(order, 2)),
      m_block(m_space, liveOf(problem),
              {{Component::x, problem.held[0]}, {Component::y, problem.held[1]}},
              bodiesOf(problem)),
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
            if (body && i % ElasticProblem::count != Component::potential)
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
    s.factors = std::make_unique<fem::Lu>();
}

void ActuatorSolver::assemble(Solved& s, const State& at, const Cut& cut,
                              std::vector<double>& residual) const
{
    const ElasticProblem& e = *m_problem.elastic;
    const auto& layout = m_block.layout(s.order);
    const int n = layout.free, local = layout.functions.local, functions = local / 3;
    residual.assign(size_t(n) + 1, 0.0);
    auto& value = s.matrix.value;
    std::fill(value.begin(), value.end(), 0.0);
    std::vector<double> bySquare(size_t(n), 0.0);
    int number[fem::mostLocal];
    double sign[fem::mostLocal];
    const auto& rule = fem::cellRule(2, 2 * s.order + 2);
    std::vector<double> A(size_t(local) * size_t(local));
    std::vector<double> r(static_cast<size_t>(local)), q(r.size()), x(r.size());
    std::vector<int> place(static_cast<size_t>(local));
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const auto piece = size_t(m_mesh.piece[size_t(t)]);
        const ElasticMedium& medium = e.media[piece];
        const bool body = medium.moves;
        for (int i = 0; i < local; ++i) {
            const int p = layout.numbering.place[size_t(
                layout.functions.number[size_t(t) * size_t(layout.functions.width) + size_t(i)])];
            x[size_t(i)] = p >= 0 ? at.x[size_t(p)] : 0.0;
            place[size_t(i)] = p < n ? p : -1;
        }
        m_space.local(t, number, sign);
        std::fill(A.begin(), A.end(), 0.0);
        std::fill(r.begin(), r.end(), 0.0);
        std::fill(q.begin(), q.end(), 0.0);
        const mesh::Geometry g(m_mesh, t);
        const Eigen::Matrix3d C = inDrawing(medium);
        bool field = medium.polarises;
        for (const auto& el : e.electrodes)
            field = field && !el.pieces[piece];
        // The gap follows the bodies as a soft solid would whose small cells are stiffer; bodies do
        // not feel it.
        const double extent = std::sqrt(std::abs(g.determinant(g.centre())));
        const double eps = medium.eps(0, 0).real();
        for (const auto& point : rule) {
            Point row[3];
            const double w = point.w * g.inverse(point.xi, row);
            fem::Basis basis;
            fem::basis(2, s.order, point.xi, basis);
            std::array<double, variables> F{1, 0, 0, 1, 0, 0};
            double dx[fem::mostLocal], dy[fem::mostLocal];
            for (int i = 0; i < functions; ++i) {
                const auto I = size_t(i) * 3;
                dx[i] = sign[i] * (basis.d[0][i] * row[0].x + basis.d[1][i] * row[1].x);
                dy[i] = sign[i] * (basis.d[0][i] * row[0].y + basis.d[1][i] * row[1].y);
                F[0] += x[I] * dx[i];
                F[1] += x[I] * dy[i];
                F[2] += x[I + 1] * dx[i];
                F[3] += x[I + 1] * dy[i];
                F[4] += x[I + 2] * dx[i];
                F[5] += x[I + 2] * dy[i];
            }
            enum class Rows { bodies, gap, charges };
            auto add = [&](const std::array<Number, variables>& P, double share, Rows rows,
                           std::vector<double>* linear) {
                for (int i = 0; i < functions; ++i)
                    for (int c = 0; c < 3; ++c) {
                        const int I = 3 * i + c, to = place[size_t(I)];
                        const bool isPotential = c == Component::potential;
                        if (to < 0 || (isPotential ? rows != Rows::charges
                                                   : s.isBody[size_t(to)] == (rows == Rows::gap)))
                            continue;
                        const Number &px = P[size_t(2 * c)], &py = P[size_t(2 * c + 1)];
                        const double value0 = w * (px.v * dx[i] + py.v * dy[i]),
                                     factor = isPotential ? 1.0 : share;
                        r[size_t(I)] += factor * value0;
                        if (linear && !isPotential)
                            (*linear)[size_t(I)] += value0;
                        double d[variables];
                        for (int v = 0; v < variables; ++v)
                            d[v] = factor * w * (px.d[v] * dx[i] + py.d[v] * dy[i]);
                        double* into = &A[size_t(I) * size_t(local)];
                        for (int j = 0; j < functions; ++j)
                            for (int k = 0; k < 3; ++k)
                                into[3 * j + k] += d[2 * k] * dx[j] + d[2 * k + 1] * dy[j];
                    }
            };
            const double J = F[0] * F[3] - F[1] * F[2];
            if (!(J > 0))
                throw base::Error(7600, "a cell has turned over");
            if (body)
                add(stresses(C, F), 1, Rows::bodies, nullptr);
            else
                add(meshStresses(F), 1 / extent, Rows::gap, nullptr);
            if (field)
                add(fieldForces(eps, F), at.square, Rows::charges, &q);
        }
        for (int i = 0; i < local; ++i) {
            if (place[size_t(i)] < 0)
                continue;
            residual[size_t(place[size_t(i)])] += r[size_t(i)];
            bySquare[size_t(place[size_t(i)])] += q[size_t(i)];
            const int* slot = &s.slot[(size_t(t) * size_t(local) + size_t(i)) * size_t(local)];
            for (int j = 0; j < local; ++j)
                if (slot[j] >= 0)
                    value[size_t(slot[j])] += A[size_t(i) * size_t(local) + size_t(j)];
        }
    }
    // Loads that keep their size and direction.
    const int degree = 2 * s.order + 2;
    auto load = [&](int cell, const Point& xi, const Point& force) {
        m_space.local(cell, number, sign);
        fem::Basis basis;
        fem::basis(2, s.order, xi, basis);
        for (int i = 0; i < functions; ++i)
            for (int c = 0; c < 2; ++c) {
                const int p = layout.numbering.place[size_t(
                    layout.functions.number[size_t(cell) * size_t(layout.functions.width) +
                                            size_t(3 * i + c)])];
                if (p >= 0 && p < n)
                    residual[size_t(p)] -= sign[i] * basis.value[i] * (c == 0 ? force.x : force.y);
            }
    };
    for (const auto& l : e.loads) {
        if (l.sides.empty()) {
            for (int t = 0; t < m_mesh.cellCount(); ++t) {
                const ElasticMedium& m = e.media[size_t(m_mesh.piece[size_t(t)])];
                if (!m.moves)
                    continue;
                const mesh::Geometry g(m_mesh, t);
                for (const auto& point : fem::cellRule(2, degree))
                    load(t, point.xi, point.w * g.determinant(point.xi) * m.density * l.traction);
            }
            continue;
        }
        const auto on = flags(l.sides, m_partition.sides().size());
        fem::onSides(
            m_mesh, fem::Measure::plane, degree,
            [&](int side, int cell) {
                const int tag = m_mesh.sideTag[size_t(side)];
                return tag >= 0 && on[size_t(tag)] &&
                       e.media[size_t(m_mesh.piece[size_t(cell)])].moves;
            },
            [&](int, int cell, const Point& xi, const Point&, const Point& normal) {
                load(cell, xi, -l.pressure * normal + norm(normal) * l.traction);
            });
    }
    if (m_problem.stop)
        contact(s, at, residual, value);
    for (int i = 0; i < n; ++i)
        value[size_t(s.matrix.start[size_t(i) + 1]) - 1] = bySquare[size_t(i)];
    value.back() = cut.b;
    residual[size_t(n)] = cut.b * at.square - cut.r;
    if (s.control >= 0) {
        value[value.size() - 2] = cut.a;
        residual[size_t(n)] += cut.a * at.x[size_t(s.control)];
    }
}

void ActuatorSolver::contact(Solved& s, const State& at, std::vector<double>& residual,
                             std::vector<double>& value) const
{
    const auto& stop = *m_problem.stop;
    const ElasticProblem& e = *m_problem.elastic;
    const auto& layout = m_block.layout(s.order);
    const int n = layout.free, local = layout.functions.local, functions = local / 3;
    // So stiff that the pull at the highest voltage presses a small part of the distance into it.
    constexpr double depth = softness;
    const double pull = 0.5 * eps0 * squared(m_problem.most / stop.distance),
                 stiffness = pull / (depth * stop.distance);
    for (const int side : stop.sides) {
        const shape::Side& wall = m_partition.sides()[size_t(side)];
        const Point a = m_partition.at(side, wall.t0), b = m_partition.at(side, wall.t1);
        const double length = norm(b - a);
        const Point along = (1 / length) * (b - a);
        Point across{-along.y, along.x};
        // Towards the gap.
        for (const int f : wall.pieces)
            if (m_problem.gap[size_t(f)] &&
                dot(m_partition.pieces()[size_t(f)].inside - a, across) < 0)
                across = -1.0 * across;
        fem::onSides(
            m_mesh, fem::Measure::plane, 2 * s.order + 2,
            [&](int edge, int cell) {
                if (!e.media[size_t(m_mesh.piece[size_t(cell)])].moves)
                    return false;
                for (const int c : m_mesh.sideCells[size_t(edge)])
                    if (c >= 0 && m_problem.gap[size_t(m_mesh.piece[size_t(c)])])
                        return true;
                return false;
            },
            [&](int, int cell, const Point& xi, const Point& p, const Point& normal) {
                const double u = dot(p - a, along);
                if (u < 0 || u > length || dot(normal, across) > -0.5 * norm(normal))
                    return;
                int number[fem::mostLocal];
                double sign[fem::mostLocal];
                m_space.local(cell, number, sign);
                fem::Basis basis;
                fem::basis(2, s.order, xi, basis);
                double gap = dot(p - a, across) - stop.distance;
                int place[3 * fem::mostLocal];
                for (int i = 0; i < functions; ++i)
                    for (int c = 0; c < 2; ++c) {
                        const int q = layout.numbering.place[size_t(
                            layout.functions.number[size_t(cell) * size_t(layout.functions.width) +
                                                    size_t(3 * i + c)])];
                        place[2 * i + c] = q < n ? q : -1;
                        if (q >= 0 && q < n)
                            gap += at.x[size_t(q)] * sign[i] * basis.value[i] *
                                   (c == 0 ? across.x : across.y);
                    }
                // Rounded off next to the stop, so that Newton's method does not run to and fro.
                const double rounded = depth * stop.distance;
                if (gap >= rounded)
                    return;
                const double in = rounded - gap;
                const bool isNear = gap > -rounded;
                const double force = -stiffness * (isNear ? in * in / (4 * rounded) : -gap),
                             slope = stiffness * (isNear ? in / (2 * rounded) : 1.0);
                const double w = norm(normal);
                for (int i = 0; i < 2 * functions; ++i) {
                    if (place[i] < 0)
                        continue;
                    const double f =
                        sign[i / 2] * basis.value[i / 2] * (i % 2 == 0 ? across.x : across.y);
                    residual[size_t(place[i])] += w * force * f;
                    const auto first = s.matrix.column.begin() + s.matrix.start[size_t(place[i])],
                               last =
                                   s.matrix.column.begin() + s.matrix.start[size_t(place[i]) + 1];
                    for (int j = 0; j < 2 * functions; ++j)
                        if (place[j] >= 0)
                            value[size_t(std::lower_bound(first, last, place[j]) -
                                         s.matrix.column.begin())] +=
                                w * slope * f * sign[j / 2] * basis.value[j / 2] *
                                (j % 2 == 0 ? across.x : across.y);
                }
            });
    }
}

int ActuatorSolver::newton(Solved& s, State& at, const Cut& cut) const
{
    const int n = m_block.layout(s.order).free;
    constexpr int most = 16, mostHalvings = 6;
    constexpr double settled = 1e-9;
    double before = 1e300;
    std::vector<double> r, next;
    int halvings = 0;
    bool isSlow = false;
    fem::SparseRows factored;
    for (int step = 1; step <= most; ++step) {
        try {
            assemble(s, at, cut, r);
        } catch (const base::Error& e) {
            // Too long a step turns cells over.
            if (e.fault().number != 7600)
                throw;
            if (next.empty() || ++halvings > mostHalvings)
                return 0;
            for (int i = 0; i <= n; ++i) {
                next[size_t(i)] /= 2;
                (i < n ? at.x[size_t(i)] : at.square) += next[size_t(i)];
            }
            continue;
        }
        // Factors are kept as long as they bring it on well.
        if (step == 1 || isSlow) {
            s.factors->factorise(s.matrix);
            factored = s.matrix;
        }
        s.factors->solve(factored, r);
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
        constexpr double well = 0.05;
        isSlow = change > well * before;
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
    s.factors->factorise(s.matrix);
    std::fill(r.begin(), r.end(), 0.0);
    r[size_t(n)] = 1;
    s.factors->solve(s.matrix, r);
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
    s.factors->factorise(s.matrix);
    std::fill(r.begin(), r.end(), 0.0);
    r[size_t(n)] = 1;
    s.factors->solve(s.matrix, r);
    double most = 0;
    for (int v = 0; v < m_mesh.vertexCount(); ++v)
        for (size_t c = 0; c < 2; ++c) {
            const int p = layout.numbering.place[size_t(v) * ElasticProblem::count + c];
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
    const auto psi = component(s, Component::potential, now);
    for (int t = 0; t < m_mesh.cellCount(); ++t)
        if (m_problem.gap[size_t(m_mesh.piece[size_t(t)])])
            strongest =
                std::max(strongest, norm(m_space.gradient(psi, s.order, t, {1.0 / 3, 1.0 / 3})));
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

std::optional<double> ActuatorSolver::release(int order) const
{
    const Path& p = path(order);
    if (p.release < 0)
        return std::nullopt;
    return std::sqrt(std::max(0.0, p.points[size_t(p.release)].square));
}

double ActuatorSolver::releaseBlur(int order) const
{
    // By how much the voltage falls on the way to the stop, over the distance in which it begins.
    const Solved& s = solved(order);
    const Path& p = s.path;
    if (p.release < 3)
        return 0;
    const State &a = p.points[size_t(p.release) - 3], &b = p.points[size_t(p.release) - 2];
    const double slope = (std::sqrt(a.square) - std::sqrt(b.square)) /
                         (a.x[size_t(s.control)] - b.x[size_t(s.control)]);
    return 1.5 * std::abs(slope) * softness * m_problem.stop->distance;
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
    const State &a = p.points[at], &b = p.points[at + 1];
    const double share = (square - a.square) / (b.square - a.square);
    State next = a;
    for (size_t i = 0; i < next.x.size(); ++i)
        next.x[i] += share * (b.x[i] - a.x[i]);
    next.square = square;
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
    return {m_space.value(component(of, Component::x, s), order, cell, xi),
            m_space.value(component(of, Component::y, s), order, cell, xi)};
}

double ActuatorSolver::capacitance(int order, const State& state) const
{
    const auto& s = solved(order);
    const auto ux = component(s, Component::x, state), uy = component(s, Component::y, state),
               psi = component(s, Component::potential, state);
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
        for (const auto& q : fem::cellRule(2, 2 * order + 2)) {
            const Point X = m_space.gradient(ux, order, t, q.xi),
                        Y = m_space.gradient(uy, order, t, q.xi),
                        p = m_space.gradient(psi, order, t, q.xi);
            const double a = 1 + X.x, b = X.y, c = Y.x, d = 1 + Y.y, J = a * d - b * c,
                         v1 = d * p.x - c * p.y, v2 = a * p.y - b * p.x;
            twice += q.w * g.determinant(q.xi) * m.eps(0, 0).real() * (v1 * v1 + v2 * v2) / J;
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
    const int function = layout.numbering.function[size_t(s.control)] / ElasticProblem::count;
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
        for (int c = 0; c < ElasticProblem::count; ++c)
            m_fields[c] = component(s, c, state);
    });
    const auto &ux = m_fields[0], &uy = m_fields[1], &psi = m_fields[2];
    const double voltage = m_shown;
    const auto piece = size_t(m_mesh.piece[size_t(cell)]);
    values[0] = m_space.value(ux, p, cell, xi);
    values[1] = m_space.value(uy, p, cell, xi);
    values[2] = 0;
    values[3] = voltage * m_space.value(psi, p, cell, xi);
    const Point X = m_space.gradient(ux, p, cell, xi), Y = m_space.gradient(uy, p, cell, xi),
                g = m_space.gradient(psi, p, cell, xi);
    const double a = 1 + X.x, b = X.y, c = Y.x, d = 1 + Y.y, J = a * d - b * c;
    const bool field = m_problem.elastic->media[piece].polarises;
    values[4] = field ? -voltage * (d * g.x - c * g.y) / J : 0;
    values[5] = field ? -voltage * (a * g.y - b * g.x) / J : 0;
    values[6] = 0;
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
        for (int which = group == 0 ? 0 : 2; which < (group == 0 ? 2 : 3); ++which) {
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
                for (const auto& q : fem::cellRule(2, 2 * p)) {
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
