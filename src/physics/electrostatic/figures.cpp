// Figures of the electrostatic field: extremes, means, fluxes and forces.
#include "physics/electrostatic/electrostatic.h"

#include "fem/quadrature.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace yh::physics {

namespace {

std::vector<char> flags(const std::vector<int>& list, size_t size)
{
    std::vector<char> f(size, 0);
    for (const int i : list)
        f[size_t(i)] = 1;
    return f;
}

}  // namespace

const std::vector<Quantity>& ElectrostaticSolver::quantities() const
{
    static const std::vector<Quantity> list = {{"V", "potential", "V", 1, "potential"},
                                               {"E", "electric field", "V/m", 3, {}, true},
                                               {"D", "displacement", "C/m^2", 3},
                                               {"energy density", "energy density", "J/m^3", 1}};
    return list;
}

void ElectrostaticSolver::sample(int cell, const Point& xi, double* values) const
{
    const Point E = field(order(), cell, xi),
                D = permittivity(cell, mesh::Geometry(m_mesh, cell).at(xi)).times(E);
    const double list[8] = {
        potential(order(), {cell, xi}), E.x, E.y, E.z, D.x, D.y, D.z, 0.5 * dot(E, D)};
    std::copy(list, list + 8, values);
}

ElectrostaticSolver::Extreme ElectrostaticSolver::largestField(int order,
                                                               const std::vector<int>& pieces) const
{
    const auto wanted = flags(pieces, m_partition.pieces().size());
    struct Sample
    {
        double value;
        int cell;
    };
    std::vector<Sample> strongest;
    const bool solid = m_mesh.dimension == 3;
    auto scan = [&](int t, int steps, Extreme& best) {
        const mesh::Geometry g(m_mesh, t);
        for (int i = 0; i <= steps; ++i)
            for (int j = 0; i + j <= steps; ++j)
                for (int k = 0; i + j + k <= (solid ? steps : i + j); ++k) {
                    const Point xi{double(i) / steps, double(j) / steps, double(k) / steps};
                    const double e = norm(field(order, t, xi));
                    if (e > best.value || best.cell < 0)
                        best = {e, g.at(xi), t, xi};
                }
    };
    for (int t = 0; t < m_mesh.cellCount(); ++t)
        if (wanted[size_t(m_mesh.piece[size_t(t)])]) {
            Extreme e;
            scan(t, solid ? 2 : 3, e);
            strongest.push_back({e.value, t});
        }
    // Finer samples where the coarse ones are strongest.
    constexpr size_t most = 24;
    const size_t n = std::min(most, strongest.size());
    std::partial_sort(strongest.begin(), strongest.begin() + std::ptrdiff_t(n), strongest.end(),
                      [](const Sample& a, const Sample& b) { return a.value > b.value; });
    Extreme best;
    for (size_t i = 0; i < n; ++i)
        scan(strongest[i].cell, solid ? 6 : 12, best);
    return best;
}

double ElectrostaticSolver::meanField(int order, const std::vector<int>& pieces) const
{
    const auto wanted = flags(pieces, m_partition.pieces().size());
    double sum = 0, volume = 0;
    const auto& rule = fem::cellRule(m_mesh.dimension, 2 * order + 2);
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        if (!wanted[size_t(m_mesh.piece[size_t(t)])])
            continue;
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            const double w = q.w * g.determinant(q.xi) * measureAt(m_problem.measure, g.at(q.xi));
            sum += w * norm(field(order, t, q.xi));
            volume += w;
        }
    }
    return volume > 0 ? sum / volume : 0.0;
}

double ElectrostaticSolver::fieldEnergy(int order) const
{
    double sum = 0;
    const auto& rule = fem::cellRule(m_mesh.dimension, 2 * order + 4);
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            const Point E = field(order, t, q.xi), p = g.at(q.xi);
            sum += 0.5 * q.w * g.determinant(q.xi) * measureAt(m_problem.measure, p) *
                   dot(E, permittivity(t, p).times(E));
        }
    }
    return sum * m_problem.scale;
}

double ElectrostaticSolver::surfaceFlux(int order, int conductor) const
{
    const auto mine =
        flags(m_problem.conductors[size_t(conductor)].sides, m_partition.sides().size());
    double sum = 0;
    fem::onSides(
        m_mesh, m_problem.measure, 2 * order + 3,
        [&](int s, int) {
            return m_mesh.sideTag[size_t(s)] >= 0 && mine[size_t(m_mesh.sideTag[size_t(s)])] != 0;
        },
        [&](int, int t, const Point& xi, const Point& p, const Point& n) {
            // The cell's outward normal points into the conductor.
            sum -= dot(permittivity(t, p).times(field(order, t, xi)), n);
        });
    return sum * m_problem.scale;
}

bool ElectrostaticSolver::medium(const std::vector<int>& pieces, std::string& trouble) const
{
    const auto body = flags(pieces, m_partition.pieces().size());
    std::set<std::string> around;
    for (const int f : pieces)
        for (const int e : m_partition.pieces()[size_t(f)].sides)
            for (const int other : m_partition.sides()[size_t(e)].pieces)
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

namespace {

/// Traction of the Maxwell stress, eps (E (E . n) - n E^2 / 2).
Point traction(const fem::Tensor& k, int dimension, const Point& E, const Point& n)
{
    const double eps = dimension == 2 ? (k.xx + k.yy) / 2 : (k.xx + k.yy + k.zz) / 3;
    return eps * (dot(E, n) * E - (0.5 * dot(E, E)) * n);
}

}  // namespace

ElectrostaticSolver::Force ElectrostaticSolver::forceByVirtualWork(int order,
                                                                   const std::vector<int>& pieces,
                                                                   Point about) const
{
    const auto body = flags(pieces, m_partition.pieces().size());
    std::vector<char> weight(size_t(m_mesh.vertexCount()), 0);
    for (int e = 0; e < m_mesh.sideCount(); ++e)
        if (const int c = m_mesh.sideTag[size_t(e)]; c >= 0)
            for (const int f : m_partition.sides()[size_t(c)].pieces)
                if (body[size_t(f)])
                    for (const int v : m_mesh.sideCorners(e))
                        weight[size_t(v)] = 1;
    Force F;
    const auto& rule = fem::cellRule(m_mesh.dimension, 2 * order + 2);
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        double w[4] = {0, 0, 0, 0}, any = 0;
        int count = 0;
        for (const int v : m_mesh.corners(t)) {
            w[count++] = weight[size_t(v)];
            any += weight[size_t(v)];
        }
        if (body[size_t(m_mesh.piece[size_t(t)])] || any == 0)
            continue;
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            Point row[3], grad;
            const double det = g.inverse(q.xi, row);
            for (int c = 0; c < m_mesh.dimension; ++c)
                grad = grad + (w[c + 1] - w[0]) * row[c];
            const Point E = field(order, t, q.xi), p = g.at(q.xi);
            const Point f = -q.w * det * measureAt(m_problem.measure, p) *
                            traction(permittivity(t, p), m_mesh.dimension, E, grad);
            F.force = F.force + f;
            F.torque = F.torque + cross(p - about, f);
        }
    }
    return {m_problem.scale * F.force, m_problem.scale * F.torque};
}

ElectrostaticSolver::Force ElectrostaticSolver::forceBySurfaceStress(int order,
                                                                     const std::vector<int>& pieces,
                                                                     Point about) const
{
    const auto body = flags(pieces, m_partition.pieces().size());
    Force F;
    fem::onSides(
        m_mesh, m_problem.measure, 2 * order + 5,
        [&](int s, int t) {
            const int c = m_mesh.sideTag[size_t(s)];
            if (c < 0 || body[size_t(m_mesh.piece[size_t(t)])])
                return false;
            for (const int f : m_partition.sides()[size_t(c)].pieces)
                if (body[size_t(f)])
                    return true;
            return false;
        },
        [&](int, int t, const Point& xi, const Point& p, const Point& n) {
            // Outward from the body is inward to the cell outside it.
            const Point f =
                -1.0 * traction(permittivity(t, p), m_mesh.dimension, field(order, t, xi), n);
            F.force = F.force + f;
            F.torque = F.torque + cross(p - about, f);
        });
    return {m_problem.scale * F.force, m_problem.scale * F.torque};
}

}  // namespace yh::physics
