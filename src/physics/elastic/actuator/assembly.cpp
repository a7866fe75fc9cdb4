// Residual and tangent of actuators: cells, loads and the stop.
#include "physics/common/constants.h"
#include "physics/elastic/actuator/actuator.h"
#include "physics/elastic/actuator/energies.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

namespace {

double along(const Point& p, int axis)
{
    return axis == 0 ? p.x : axis == 1 ? p.y : p.z;
}

/// Stiffness over the strains of the dimension.
Eigen::MatrixXd stiffnessOf(const ElasticMedium& m, int dimension)
{
    if (dimension == 3)
        return m.whole.real();
    constexpr int rows[] = {0, 1, 3};
    Eigen::MatrixXd C(3, 3);
    for (int i = 0; i < 3; ++i)
        for (int j = 0; j < 3; ++j)
            C(i, j) = m.c(rows[i], rows[j]).real();
    return C;
}

/** Force of a stop on a place at some gap, and its slope: rounded off next to the stop, so that
 Newton's method does not run to and fro. */
std::pair<double, double> pressAt(double gap, double stiffness, double rounded)
{
    const double in = rounded - gap;
    const bool isNear = gap > -rounded;
    const double force = -stiffness * (isNear ? in * in / (4 * rounded) : -gap),
                 slope = stiffness * (isNear ? in / (2 * rounded) : 1.0);
    return {force, slope};
}

}  // namespace

int ActuatorSolver::placeOf(const fem::BlockSpace::Layout& layout, int cell, int function)
{
    const int p = layout.numbering.place[size_t(
        layout.functions.number[size_t(cell) * size_t(layout.functions.width) + size_t(function)])];
    return p < layout.free ? p : -1;
}

template <int D>
bool ActuatorSolver::cellTerms(const Solved& s, const State& at, int t, CellTerms& out) const
{
    using namespace actuator;
    const ElasticProblem& e = *m_problem.elastic;
    const auto& layout = m_block.layout(s.order);
    constexpr int count = D + 1, mostRows = count * fem::mostLocal;
    const int n = layout.free, local = layout.functions.local, functions = local / count;
    const auto piece = size_t(m_mesh.piece[size_t(t)]);
    const ElasticMedium& medium = e.media[piece];
    std::vector<double> x(static_cast<size_t>(local));
    out.place.resize(size_t(local));
    for (int i = 0; i < local; ++i) {
        const int p = layout.numbering.place[size_t(
            layout.functions.number[size_t(t) * size_t(layout.functions.width) + size_t(i)])];
        x[size_t(i)] = p >= 0 ? at.x[size_t(p)] : 0.0;
        out.place[size_t(i)] = p < n ? p : -1;
    }
    out.matrix.assign(size_t(local) * size_t(local), 0.0);
    out.residual.assign(size_t(local), 0.0);
    out.bySquare.assign(size_t(local), 0.0);
    int number[fem::mostLocal];
    double sign[fem::mostLocal];
    m_space.local(t, number, sign);
    const mesh::Geometry g(m_mesh, t);
    const Eigen::MatrixXd C = stiffnessOf(medium, D);
    bool hasField = medium.polarises;
    for (const auto& el : e.electrodes)
        hasField = hasField && !el.pieces[piece];
    // The gap follows the bodies as a soft solid would whose small cells are stiffer; bodies do not
    // feel it.
    const double extent = std::pow(std::abs(g.determinant(g.centre())), 1.0 / D),
                 eps = medium.eps(0, 0).real();
    // Gradients are polynomials of one order less: in solids their squares are integrated exactly,
    // as is usual for elements of second order.
    for (const auto& point : fem::cellRule(D, D == 2 ? 2 * s.order + 2 : 2 * s.order - 2)) {
        Point row[3];
        const double w = point.w * g.inverse(point.xi, row);
        fem::Basis basis;
        fem::basis(D, s.order, point.xi, basis);
        Gradients<D> F{};
        double d[D][fem::mostLocal];
        for (int k = 0; k < D; ++k)
            F[size_t(k * D + k)] = 1;
        for (int i = 0; i < functions; ++i)
            for (int k = 0; k < D; ++k) {
                d[k][i] = 0;
                for (int l = 0; l < D; ++l)
                    d[k][i] += sign[i] * basis.d[l][i] * along(row[l], k);
                for (int c = 0; c < count; ++c)
                    F[size_t(c * D + k)] += x[size_t(count * i + c)] * d[k][i];
            }
        enum class Rows { bodies, gap, charges };
        auto add = [&](const Forces<D>& P, double share, Rows rows, std::vector<double>* linear) {
            // By all coefficients of the cell, for each component of each gradient.
            double by[variables<D>][mostRows];
            for (int r = 0; r < variables<D>; ++r)
                for (int j = 0; j < functions; ++j)
                    for (int b = 0; b < count; ++b) {
                        double sum = 0;
                        for (int k = 0; k < D; ++k)
                            sum += P[size_t(r)].d[b * D + k] * d[k][j];
                        by[r][count * j + b] = sum;
                    }
            for (int i = 0; i < functions; ++i)
                for (int c = 0; c < count; ++c) {
                    const int I = count * i + c, to = out.place[size_t(I)];
                    const bool isPotential = c == D;
                    if (to < 0 || (isPotential ? rows != Rows::charges
                                               : s.isBody[size_t(to)] == (rows == Rows::gap)))
                        continue;
                    const double factor = isPotential ? 1.0 : share;
                    double force = 0;
                    double* into = &out.matrix[size_t(I) * size_t(local)];
                    double f[D];
                    for (int k = 0; k < D; ++k) {
                        force += w * P[size_t(c * D + k)].v * d[k][i];
                        f[k] = factor * w * d[k][i];
                    }
                    const auto* from = &by[c * D];
#pragma omp simd
                    for (int j = 0; j < local; ++j) {
                        double sum = 0;
                        for (int k = 0; k < D; ++k)
                            sum += f[k] * from[k][j];
                        into[j] += sum;
                    }
                    out.residual[size_t(I)] += factor * force;
                    if (linear && !isPotential)
                        (*linear)[size_t(I)] += force;
                }
        };
        const Deformation<D> shape(F);
        if (!(shape.J.v > 0))
            return false;
        if (medium.moves)
            add(stresses<D>(C, shape), 1, Rows::bodies, nullptr);
        else
            add(meshStresses<D>(shape), 1 / extent, Rows::gap, nullptr);
        if (hasField)
            add(fieldForces<D>(eps, shape), at.square, Rows::charges, &out.bySquare);
    }
    return true;
}

template <int D>
void ActuatorSolver::assembleCells(Solved& s, const State& at, std::vector<double>& residual,
                                   std::vector<double>& bySquare) const
{
    // Some cells at a time side by side, then added in their order: sums are the same for any
    // number of threads.
    constexpr int some = 256;
    const int cells = m_mesh.cellCount(), local = m_block.layout(s.order).functions.local;
    std::vector<CellTerms> terms(some);
    for (int first = 0; first < cells; first += some) {
        const int last = std::min(cells, first + some);
        int turned = 0;
#pragma omp parallel for schedule(dynamic, 16) reduction(+ : turned)
        for (int t = first; t < last; ++t)
            turned += cellTerms<D>(s, at, t, terms[size_t(t - first)]) ? 0 : 1;
        if (turned > 0)
            throw base::Error(7600, "a cell has turned over");
        for (int t = first; t < last; ++t) {
            const CellTerms& of = terms[size_t(t - first)];
            for (int i = 0; i < local; ++i) {
                const int p = of.place[size_t(i)];
                if (p < 0)
                    continue;
                residual[size_t(p)] += of.residual[size_t(i)];
                bySquare[size_t(p)] += of.bySquare[size_t(i)];
                const int* slot = &s.slot[(size_t(t) * size_t(local) + size_t(i)) * size_t(local)];
                for (int j = 0; j < local; ++j)
                    if (slot[j] >= 0)
                        s.matrix.value[size_t(slot[j])] +=
                            of.matrix[size_t(i) * size_t(local) + size_t(j)];
            }
        }
    }
}

void ActuatorSolver::assemble(Solved& s, const State& at, const Cut& cut,
                              std::vector<double>& residual) const
{
    const ElasticProblem& e = *m_problem.elastic;
    const auto& layout = m_block.layout(s.order);
    const int n = layout.free, functions = layout.functions.local / components();
    residual.assign(size_t(n) + 1, 0.0);
    auto& value = s.matrix.value;
    std::fill(value.begin(), value.end(), 0.0);
    std::vector<double> bySquare(size_t(n), 0.0);
    int number[fem::mostLocal];
    double sign[fem::mostLocal];
    const int D = m_mesh.dimension;
    if (D == 2)
        assembleCells<2>(s, at, residual, bySquare);
    else
        assembleCells<3>(s, at, residual, bySquare);
    // Loads that keep their size and direction.
    const int degree = 2 * s.order + 2;
    auto load = [&](int cell, const Point& xi, const Point& force) {
        m_space.local(cell, number, sign);
        fem::Basis basis;
        fem::basis(m_mesh.dimension, s.order, xi, basis);
        for (int i = 0; i < functions; ++i)
            for (int c = 0; c < D; ++c)
                if (const int p = placeOf(layout, cell, components() * i + c); p >= 0)
                    residual[size_t(p)] -= sign[i] * basis.value[i] * along(force, c);
    };
    for (const auto& l : e.loads) {
        if (l.sides.empty()) {
            for (int t = 0; t < m_mesh.cellCount(); ++t) {
                const ElasticMedium& m = e.media[size_t(m_mesh.piece[size_t(t)])];
                if (!m.moves)
                    continue;
                const mesh::Geometry g(m_mesh, t);
                for (const auto& point : fem::cellRule(D, degree))
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

Point ActuatorSolver::towardsGap(const shape::Side& wall, const Point& a, Point across) const
{
    for (const int f : wall.pieces)
        if (m_problem.gap[size_t(f)] && dot(m_partition.pieces()[size_t(f)].inside - a, across) < 0)
            across = -1.0 * across;
    return across;
}

std::vector<ActuatorSolver::Touch> ActuatorSolver::touches(int order) const
{
    const auto& stop = *m_problem.stop;
    const ElasticProblem& e = *m_problem.elastic;
    std::vector<Touch> list;
    for (const int side : stop.sides) {
        const shape::Side& wall = m_partition.sides()[size_t(side)];
        const bool isSolid = m_mesh.dimension == 3;
        const Point a = isSolid ? wall.inside : m_partition.at(side, wall.t0),
                    b = isSolid ? a : m_partition.at(side, wall.t1);
        const double length = norm(b - a);
        const Point along = isSolid ? Point{} : (1 / length) * (b - a);
        Point across = isSolid ? wall.normal : Point{-along.y, along.x};
        across = towardsGap(wall, a, across);
        const double near = 1e-6 * m_partition.size();
        auto isBefore = [&](const Point& p) {
            if (!isSolid)
                return dot(p - a, along) >= 0 && dot(p - a, along) <= length;
            const double away = std::abs(dot(p - a, across));
            return std::abs(m_partition.distanceTo(side, p) - away) < near;
        };
        fem::onSides(
            m_mesh, fem::Measure::plane, 2 * order + 2,
            [&](int edge, int cell) {
                if (!e.media[size_t(m_mesh.piece[size_t(cell)])].moves)
                    return false;
                for (const int c : m_mesh.sideCells[size_t(edge)])
                    if (c >= 0 && m_problem.gap[size_t(m_mesh.piece[size_t(c)])])
                        return true;
                return false;
            },
            [&](int, int cell, const Point& xi, const Point& p, const Point& normal) {
                if (dot(normal, across) <= -0.5 * norm(normal) && isBefore(p))
                    list.push_back(
                        {cell, xi, across, norm(normal), dot(p - a, across) - stop.distance});
            });
    }
    return list;
}

double ActuatorSolver::gapAt(const Solved& s, const State& at, const Touch& touch) const
{
    const auto& layout = m_block.layout(s.order);
    int number[fem::mostLocal];
    double sign[fem::mostLocal];
    m_space.local(touch.cell, number, sign);
    fem::Basis basis;
    fem::basis(m_mesh.dimension, s.order, touch.xi, basis);
    double gap = touch.gap;
    for (int i = 0; i < layout.functions.local / components(); ++i)
        for (int c = 0; c < m_mesh.dimension; ++c)
            if (const int q = placeOf(layout, touch.cell, components() * i + c); q >= 0)
                gap += at.x[size_t(q)] * sign[i] * basis.value[i] * along(touch.across, c);
    return gap;
}

void ActuatorSolver::contact(Solved& s, const State& at, std::vector<double>& residual,
                             std::vector<double>& value) const
{
    const auto& stop = *m_problem.stop;
    const auto& layout = m_block.layout(s.order);
    const int D = m_mesh.dimension, functions = layout.functions.local / components();
    // So stiff that the pull at the highest voltage presses a small part of the distance into it.
    const double pull = 0.5 * eps0 * squared(m_problem.most / stop.distance),
                 stiffness = pull / (softness * stop.distance);
    if (s.touches.empty())
        s.touches = touches(s.order);
    for (const Touch& touch : s.touches) {
        int number[fem::mostLocal];
        double sign[fem::mostLocal];
        m_space.local(touch.cell, number, sign);
        fem::Basis basis;
        fem::basis(D, s.order, touch.xi, basis);
        int place[3 * fem::mostLocal];
        for (int i = 0; i < functions; ++i)
            for (int c = 0; c < D; ++c)
                place[D * i + c] = placeOf(layout, touch.cell, components() * i + c);
        const double gap = gapAt(s, at, touch), rounded = softness * stop.distance;
        if (gap >= rounded)
            continue;
        const auto [force, slope] = pressAt(gap, stiffness, rounded);
        auto share = [&](int i) {
            return sign[i / D] * basis.value[i / D] * along(touch.across, i % D);
        };
        for (int i = 0; i < D * functions; ++i) {
            if (place[i] < 0)
                continue;
            const double f = touch.weight * share(i);
            residual[size_t(place[i])] += force * f;
            const auto first = s.matrix.column.begin() + s.matrix.start[size_t(place[i])],
                       last = s.matrix.column.begin() + s.matrix.start[size_t(place[i]) + 1];
            for (int j = 0; j < D * functions; ++j)
                if (place[j] >= 0)
                    value[size_t(std::lower_bound(first, last, place[j]) -
                                 s.matrix.column.begin())] += slope * f * share(j);
        }
    }
}

}  // namespace yh::physics
