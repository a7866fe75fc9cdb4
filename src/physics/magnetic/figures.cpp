// Figures of the steady magnetic field.
#include "physics/common/constants.h"
#include "physics/magnetic/magnetic.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

void MagneticSolver::overCells(int order, const Visit& visit) const
{
    const auto& rule = fem::cellRule(m_mesh.dimension, fem::termDegree(m_mesh.dimension, order));
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const int piece = m_mesh.piece[size_t(t)];
        if (!m_problem.active(0, piece))
            continue;
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            const Point p = g.at(q.xi);
            visit(t, q.xi, p,
                  m_problem.scale * q.w * g.determinant(q.xi) * measureAt(m_problem.area, p) *
                      m_problem.contentOf(m_problem.stretchAt(piece, p)));
        }
    }
}

const std::vector<Quantity>& MagneticSolver::quantities() const
{
    static const std::vector<Quantity> plane = {{"A", "vector potential", "Wb/m", 1,
                                                 "lines of equal flux"},
                                                {"B", "flux density", "T", 3, {}, true},
                                                {"H", "field strength", "A/m", 3},
                                                {"energy density", "energy density", "J/m^3", 1}},
                                       round = {
                                           {"flux", "flux inside", "Wb", 1, "lines of equal flux"},
                                           plane[1],
                                           plane[2],
                                           plane[3]};
    return m_problem.isAxisymmetric() ? round : plane;
}

void MagneticSolver::sample(int cell, const Point& xi, double* values) const
{
    const int piece = m_mesh.piece[size_t(cell)];
    const Point B = fluxDensity(order(), cell, xi), H = m_problem.field(piece, B);
    const double A = potential(order(), cell, xi);
    *values++ = m_problem.isAxisymmetric() ? 2 * pi * mesh::Geometry(m_mesh, cell).at(xi).x * A : A;
    for (const Point& v : {B, H})
        for (const double x : {v.x, v.y, v.z})
            *values++ = x;
    *values = m_problem.energy(piece, B);
}

MagneticSolver::Values MagneticSolver::linkageOf(int order, int coil) const
{
    const Coil& c = m_problem.coils[size_t(coil)];
    Values f(1, std::vector<double>(size_t(m_space.count(order)), 0.0));
    std::vector<double> density(m_problem.media.size(), 0.0);
    for (const int p : c.pieces)
        density[size_t(p)] += c.turns / c.area;
    for (const int p : c.back)
        density[size_t(p)] -= c.turns / c.areaBack;
    const auto& rule = fem::cellRule(m_mesh.dimension, fem::termDegree(m_mesh.dimension, order));
    int number[fem::mostLocal];
    double sign[fem::mostLocal];
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const double d = density[size_t(m_mesh.piece[size_t(t)])];
        if (d == 0)
            continue;
        const mesh::Geometry g(m_mesh, t);
        m_space.local(t, number, sign);
        for (const auto& q : rule) {
            const Point p = g.at(q.xi);
            fem::Basis b;
            fem::basis(m_mesh.dimension, order, q.xi, b);
            const double w = d * q.w * g.determinant(q.xi) * measureAt(m_problem.area, p) *
                             (m_problem.isAxisymmetric() ? p.x : 1.0);
            for (int i = 0; i < m_space.localCount(order); ++i)
                f[0][size_t(number[i])] += w * sign[i] * b.value[i];
        }
    }
    return f;
}

namespace {

double product(const std::vector<double>& a, const std::vector<double>& b)
{
    double sum = 0;
    for (size_t i = 0; i < a.size(); ++i)
        sum += a[i] * b[i];
    return sum;
}

}  // namespace

double MagneticSolver::linkage(int order, int coil) const
{
    return m_problem.scale * m_problem.coils[size_t(coil)].share *
           product(linkageOf(order, coil)[0], at(order)[0]);
}

const std::vector<MagneticSolver::Values>& MagneticSolver::unitFields(int order) const
{
    const auto s = std::find_if(m_solved.begin(), m_solved.end(),
                                [order](const Solved& x) { return x.order == order; });
    YH_ASSERT(s != m_solved.end(), "order was solved");
    if (s->unit.empty())
        for (size_t k = 0; k < m_problem.coils.size(); ++k)
            s->unit.push_back(m_coupled.dual(order, s->u, linkageOf(order, int(k))));
    return s->unit;
}

std::vector<double> MagneticSolver::inductances(int order) const
{
    const size_t n = m_problem.coils.size();
    std::vector<double> L(n * n);
    const auto& unit = unitFields(order);
    for (size_t i = 0; i < n; ++i) {
        const Values linked = linkageOf(order, int(i));
        for (size_t k = 0; k < n; ++k)
            L[i * n + k] =
                m_problem.scale * m_problem.coils[i].share * product(linked[0], unit[k][0]);
    }
    return L;
}

double MagneticSolver::energy(int order) const
{
    double sum = 0;
    overCells(order, [&](int t, const Point& xi, const Point&, double w) {
        sum += w * m_problem.energy(m_mesh.piece[size_t(t)], fluxDensity(order, t, xi));
    });
    return sum;
}

double MagneticSolver::coenergy(int order) const
{
    return balance(order).field - energy(order);
}

MagneticSolver::Balance MagneticSolver::balance(int order) const
{
    Balance b;
    overCells(order, [&](int t, const Point& xi, const Point&, double w) {
        const Point B = fluxDensity(order, t, xi);
        b.field += w * dot(B, m_problem.field(m_mesh.piece[size_t(t)], B));
    });
    for (size_t k = 0; k < m_problem.coils.size(); ++k)
        b.coils += linkage(order, int(k)) / m_problem.coils[k].share * m_problem.coils[k].current;
    return b;
}

double MagneticSolver::mean(int order, const std::vector<int>& pieces) const
{
    const auto wanted = flags(pieces, m_partition.pieces().size());
    double sum = 0, volume = 0;
    overCells(order, [&](int t, const Point& xi, const Point&, double w) {
        if (!wanted[size_t(m_mesh.piece[size_t(t)])])
            return;
        sum += w * norm(fluxDensity(order, t, xi));
        volume += w;
    });
    return volume > 0 ? sum / volume : 0.0;
}

Extreme MagneticSolver::largest(int order, const std::vector<int>& pieces) const
{
    return largestOf(m_mesh, flags(pieces, m_partition.pieces().size()),
                     [&](int t, const Point& xi) { return norm(fluxDensity(order, t, xi)); });
}

Point MagneticSolver::stress(int order, int cell, const Point& xi, const Point& n) const
{
    const int piece = m_mesh.piece[size_t(cell)];
    const Point B = fluxDensity(order, cell, xi), H = m_problem.field(piece, B);
    const double coenergy = dot(B, H) - m_problem.energy(piece, B);
    return dot(B, n) * H - coenergy * n;
}

BodyForce MagneticSolver::forceByVirtualWork(int order, const std::vector<int>& pieces,
                                             Point about) const
{
    const auto f = physics::forceByVirtualWork(
        m_mesh, m_partition, m_problem.area, 2 * order + 2, pieces, about,
        [&](int t, const Point& xi, const Point&, const Point& n) {
            return stress(order, t, xi, n);
        });
    return {m_problem.scale * f.force, m_problem.scale * f.torque};
}

BodyForce MagneticSolver::forceBySurfaceStress(int order, const std::vector<int>& pieces,
                                               Point about) const
{
    const auto f = physics::forceBySurfaceStress(
        m_mesh, m_partition, m_problem.area, 2 * order + 5, pieces, about,
        [&](int t, const Point& xi, const Point&, const Point& n) {
            return stress(order, t, xi, n);
        });
    return {m_problem.scale * f.force, m_problem.scale * f.torque};
}

double MagneticSolver::pull(int order, const std::vector<int>& pieces) const
{
    double sum = 0;
    static_cast<void>(physics::forceBySurfaceStress(
        m_mesh, m_partition, m_problem.area, 2 * order + 5, pieces, {},
        [&](int t, const Point& xi, const Point&, const Point& n) {
            const Point f = stress(order, t, xi, n);
            sum += norm(f);
            return f;
        }));
    return m_problem.scale * sum;
}

std::vector<MagneticSolver::WorkingPoint> MagneticSolver::workingPoints(
    int order, const std::vector<int>& pieces) const
{
    const auto wanted = flags(pieces, m_partition.pieces().size());
    std::vector<WorkingPoint> list;
    overCells(order, [&](int t, const Point& xi, const Point& p, double w) {
        const int piece = m_mesh.piece[size_t(t)];
        if (!wanted[size_t(piece)])
            return;
        const Point B = fluxDensity(order, t, xi);
        const Point& along = m_problem.media[size_t(piece)].along;
        list.push_back({dot(along, m_problem.field(piece, B)), dot(along, B), w, p});
    });
    return list;
}

MagneticSolver::Beyond MagneticSolver::beyondCurves() const
{
    Beyond worst;
    std::vector<double> whole(m_problem.media.size(), 0.0), beyond = whole;
    overCells(order(), [&](int t, const Point& xi, const Point&, double w) {
        const int piece = m_mesh.piece[size_t(t)];
        const MagneticMedium& m = m_problem.media[size_t(piece)];
        if (!m.curve)
            return;
        const Point B = fluxDensity(order(), t, xi);
        const double by =
            m.isMagnet() ? m.curve->lowest() - dot(m.along, B) : norm(B) - m.curve->highest();
        whole[size_t(piece)] += w;
        if (by <= 0)
            return;
        beyond[size_t(piece)] += w;
        if (by > worst.by)
            worst = {by, piece, 0};
    });
    if (worst.piece >= 0)
        worst.share = beyond[size_t(worst.piece)] / whole[size_t(worst.piece)];
    return worst;
}

}  // namespace yh::physics
