// Figures of the electrostatic field: extremes, means, fluxes and forces.
#include "physics/common/constants.h"
#include "physics/electrostatic/electrostatic.h"

#include "fem/quadrature.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

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
    const Point E = realField(order(), cell, xi),
                D = isFarShell(cell)
                        ? eps0 * E
                        : permittivity(cell, mesh::Geometry(m_mesh, cell).at(xi)).times(E);
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
    return isInOneMedium(m_partition, pieces, m_problem.material, trouble);
}

namespace {

/// Traction of the Maxwell stress, eps (E (E . n) - n E^2 / 2).
Point traction(const fem::Tensor& k, int dimension, const Point& E, const Point& n)
{
    const double eps = dimension == 2 ? (k.xx + k.yy) / 2 : (k.xx + k.yy + k.zz) / 3;
    return eps * (dot(E, n) * E - (0.5 * dot(E, E)) * n);
}

/// Whether it is the same in all directions of the drawing or solid.
bool isEven(fem::Tensor k, int dimension)
{
    if (dimension == 2)
        k.zz = k.xx;
    return k == fem::Tensor::isotropic(k.xx);
}

}  // namespace

BodyForce ElectrostaticSolver::scaled(const BodyForce& f) const
{
    return {m_problem.scale * f.force, m_problem.scale * f.torque};
}

const std::vector<double>& ElectrostaticSolver::shiftOf(const std::vector<int>& pieces) const
{
    return m_forces.shiftOf(pieces, [&] {
        std::vector<char> plain(m_partition.pieces().size(), 0);
        for (const int f : m_problem.activePieces) {
            const fem::Coefficient& eps = m_problem.eps[size_t(f)];
            plain[size_t(f)] = !eps.at && isEven(eps.constant, m_mesh.dimension) &&
                               (m_problem.spaceCharge.empty() || !m_problem.spaceCharge[size_t(f)]);
        }
        return bodyShift(m_mesh, m_partition, m_problem.measure, pieces, plain);
    });
}

BodyForce ElectrostaticSolver::forceByVirtualWork(int order, const std::vector<int>& pieces) const
{
    return m_forces.forceOf(order, pieces, [&] {
        return scaled(physics::forceByVirtualWork(
            m_mesh, m_partition, m_problem.measure, order, pieces, shiftOf(pieces),
            [&](int t, const Point& xi, const Point& p, const Point& n) {
                return traction(permittivity(t, p), m_mesh.dimension, field(order, t, xi), n);
            }));
    });
}

BodyForce ElectrostaticSolver::forceBySurfaceStress(int order, const std::vector<int>& pieces) const
{
    return scaled(physics::forceBySurfaceStress(
        m_mesh, m_partition, m_problem.measure, 2 * order + 5, pieces,
        [&](int t, const Point& xi, const Point& p, const Point& n) {
            return traction(permittivity(t, p), m_mesh.dimension, field(order, t, xi), n);
        }));
}

}  // namespace yh::physics
