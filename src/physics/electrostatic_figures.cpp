// Figures of the electrostatic field: extremes, means, fluxes and forces.
#include "physics/electrostatic.h"

#include "fem/quadrature.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace yh::physics {

namespace {

constexpr double pi = 3.14159265358979323846;

std::vector<char> flags(const std::vector<int>& list, size_t size)
{
    std::vector<char> f(size, 0);
    for (const int i : list)
        f[size_t(i)] = 1;
    return f;
}

}  // namespace

ElectrostaticSolver::Extreme ElectrostaticSolver::largestField(int order,
                                                               const std::vector<int>& faces) const
{
    const auto wanted = flags(faces, m_partition.faces().size());
    struct Sample
    {
        double value;
        int triangle;
    };
    std::vector<Sample> strongest;
    auto scan = [&](int t, int steps, Extreme& best) {
        const mesh::Geometry g(m_mesh, t);
        for (int i = 0; i <= steps; ++i)
            for (int j = 0; i + j <= steps; ++j) {
                const double u = double(i) / steps, v = double(j) / steps;
                const Point E = field(order, t, u, v);
                const double e = std::hypot(E.x, E.y);
                if (e > best.value || best.triangle < 0)
                    best = {e, g.at(u, v), t, u, v};
            }
    };
    for (int t = 0; t < m_mesh.triangleCount(); ++t)
        if (wanted[size_t(m_mesh.face[size_t(t)])]) {
            Extreme e;
            scan(t, 3, e);
            strongest.push_back({e.value, t});
        }
    // Finer samples where the coarse ones are strongest.
    constexpr size_t most = 24;
    const size_t n = std::min(most, strongest.size());
    std::partial_sort(strongest.begin(), strongest.begin() + std::ptrdiff_t(n), strongest.end(),
                      [](const Sample& a, const Sample& b) { return a.value > b.value; });
    Extreme best;
    for (size_t i = 0; i < n; ++i)
        scan(strongest[i].triangle, 12, best);
    return best;
}

double ElectrostaticSolver::meanField(int order, const std::vector<int>& faces) const
{
    const auto wanted = flags(faces, m_partition.faces().size());
    double sum = 0, volume = 0;
    const auto& rule = fem::triangleRule(2 * order + 2);
    for (int t = 0; t < m_mesh.triangleCount(); ++t) {
        if (!wanted[size_t(m_mesh.face[size_t(t)])])
            continue;
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            const Point E = field(order, t, q.u, q.v);
            const double w =
                q.w * g.determinant(q.u, q.v) *
                (m_problem.measure == fem::Measure::axisymmetric ? 2 * pi * g.at(q.u, q.v).x : 1.0);
            sum += w * std::hypot(E.x, E.y);
            volume += w;
        }
    }
    return volume > 0 ? sum / volume : 0.0;
}

double ElectrostaticSolver::fieldEnergy(int order) const
{
    double sum = 0;
    const auto& rule = fem::triangleRule(2 * order + 4);
    for (int t = 0; t < m_mesh.triangleCount(); ++t) {
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            const Point E = field(order, t, q.u, q.v), p = g.at(q.u, q.v);
            const fem::Tensor k = permittivity(t, p);
            const double w = q.w * g.determinant(q.u, q.v) *
                             (m_problem.measure == fem::Measure::axisymmetric ? 2 * pi * p.x : 1.0);
            sum += 0.5 * w * (k.xx * E.x * E.x + 2 * k.xy * E.x * E.y + k.yy * E.y * E.y);
        }
    }
    return sum * m_problem.scale;
}

namespace {

/// Visits quadrature points on the sides of triangles that lie on some curves.
/// visit(triangle, u, v, point, outward normal times line element and 2 pi r)
template <class Wanted, class Visit>
void alongCurves(const mesh::Mesh& mesh, fem::Measure measure, int points, Wanted wanted,
                 Visit visit)
{
    const auto rule = fem::gaussLegendre(points);
    for (int e = 0; e < mesh.edgeCount(); ++e) {
        if (mesh.curve[size_t(e)] < 0)
            continue;
        for (const int t : mesh.edgeTriangles[size_t(e)]) {
            if (t < 0 || !wanted(e, t))
                continue;
            const auto& te = mesh.triangleEdges[size_t(t)];
            const int k = int(std::find(te.begin(), te.end(), e) - te.begin());
            const mesh::Geometry g(mesh, t);
            for (const auto& q : rule) {
                double u, v;
                mesh::Geometry::onSide(k, q.x, u, v);
                const Point p = g.at(u, v), tangent = g.alongSide(k, u, v);
                const double w = q.w * (measure == fem::Measure::axisymmetric ? 2 * pi * p.x : 1.0);
                // Anticlockwise corners: outward is to the right of the side's direction.
                visit(t, u, v, p, Point{w * tangent.y, -w * tangent.x});
            }
        }
    }
}

}  // namespace

double ElectrostaticSolver::surfaceFlux(int order, int conductor) const
{
    const auto mine =
        flags(m_problem.conductors[size_t(conductor)].curves, m_partition.edges().size());
    double sum = 0;
    alongCurves(
        m_mesh, m_problem.measure, order + 2,
        [&](int e, int) { return mine[size_t(m_mesh.curve[size_t(e)])] != 0; },
        [&](int t, double u, double v, Point p, Point n) {
            const Point E = field(order, t, u, v);
            const fem::Tensor k = permittivity(t, p);
            // The triangle's outward normal points into the conductor.
            sum -= (k.xx * E.x + k.xy * E.y) * n.x + (k.xy * E.x + k.yy * E.y) * n.y;
        });
    return sum * m_problem.scale;
}

bool ElectrostaticSolver::medium(const std::vector<int>& faces, std::string& trouble) const
{
    const auto body = flags(faces, m_partition.faces().size());
    std::set<std::string> around;
    for (const int f : faces)
        for (const int e : m_partition.faces()[size_t(f)].edges)
            for (const int other : m_partition.edges()[size_t(e)].faces)
                if (!body[size_t(other)])
                    around.insert(m_problem.material[size_t(other)]);
    if (around.size() > 1) {
        trouble = "the body touches";
        for (const std::string& m : around)
            trouble += (m == *around.begin() ? " " : ", ") + (m.empty() ? "a conductor" : m);
        trouble += ": how its force divides over these is not defined by the field alone";
    }
    return around.size() <= 1;
}

ElectrostaticSolver::Force ElectrostaticSolver::forceByVirtualWork(int order,
                                                                   const std::vector<int>& faces,
                                                                   Point about) const
{
    const auto body = flags(faces, m_partition.faces().size());
    std::vector<char> weight(size_t(m_mesh.vertexCount()), 0);
    for (int e = 0; e < m_mesh.edgeCount(); ++e)
        if (const int c = m_mesh.curve[size_t(e)]; c >= 0)
            for (const int f : m_partition.edges()[size_t(c)].faces)
                if (body[size_t(f)])
                    weight[size_t(m_mesh.edges[size_t(e)][0])] =
                        weight[size_t(m_mesh.edges[size_t(e)][1])] = 1;
    Force F;
    const auto& rule = fem::triangleRule(2 * order + 2);
    for (int t = 0; t < m_mesh.triangleCount(); ++t) {
        const auto& c = m_mesh.triangles[size_t(t)];
        const double w[3] = {double(weight[size_t(c[0])]), double(weight[size_t(c[1])]),
                             double(weight[size_t(c[2])])};
        if (body[size_t(m_mesh.face[size_t(t)])] || w[0] + w[1] + w[2] == 0)
            continue;
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            Point du, dv;
            g.jacobian(q.u, q.v, du, dv);
            const double det = du.x * dv.y - du.y * dv.x, wu = w[1] - w[0], wv = w[2] - w[0];
            const Point grad{(dv.y * wu - du.y * wv) / det, (du.x * wv - dv.x * wu) / det};
            const Point E = field(order, t, q.u, q.v), p = g.at(q.u, q.v);
            const fem::Tensor k = permittivity(t, p);
            const double eps = 0.5 * (k.xx + k.yy), half = 0.5 * (E.x * E.x + E.y * E.y);
            const double s = -q.w * det * eps *
                             (m_problem.measure == fem::Measure::axisymmetric ? 2 * pi * p.x : 1.0);
            const double fx = s * ((E.x * E.x - half) * grad.x + E.x * E.y * grad.y),
                         fy = s * (E.x * E.y * grad.x + (E.y * E.y - half) * grad.y);
            F.x += fx;
            F.y += fy;
            F.torque += (p.x - about.x) * fy - (p.y - about.y) * fx;
        }
    }
    F.x *= m_problem.scale;
    F.y *= m_problem.scale;
    F.torque *= m_problem.scale;
    return F;
}

ElectrostaticSolver::Force ElectrostaticSolver::forceBySurfaceStress(int order,
                                                                     const std::vector<int>& faces,
                                                                     Point about) const
{
    const auto body = flags(faces, m_partition.faces().size());
    Force F;
    alongCurves(
        m_mesh, m_problem.measure, order + 3,
        [&](int e, int t) {
            if (body[size_t(m_mesh.face[size_t(t)])])
                return false;
            for (const int f : m_partition.edges()[size_t(m_mesh.curve[size_t(e)])].faces)
                if (body[size_t(f)])
                    return true;
            return false;
        },
        [&](int t, double u, double v, Point p, Point n) {
            const Point E = field(order, t, u, v);
            const fem::Tensor k = permittivity(t, p);
            const double eps = 0.5 * (k.xx + k.yy), half = 0.5 * (E.x * E.x + E.y * E.y);
            // Outward from the body is inward to the triangle outside it.
            const double fx = -eps * ((E.x * E.x - half) * n.x + E.x * E.y * n.y),
                         fy = -eps * (E.x * E.y * n.x + (E.y * E.y - half) * n.y);
            F.x += fx;
            F.y += fy;
            F.torque += (p.x - about.x) * fy - (p.y - about.y) * fx;
        });
    F.x *= m_problem.scale;
    F.y *= m_problem.scale;
    F.torque *= m_problem.scale;
    return F;
}

}  // namespace yh::physics
