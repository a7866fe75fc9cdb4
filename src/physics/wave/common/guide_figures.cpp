// Figures of the modes of endless guides.
#include "fem/quadrature.h"
#include "physics/common/constants.h"
#include "physics/wave/common/guide_modes.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yh::physics {

double GuideModesSolver::groupIndex(int order, int mode) const
{
    return at(order).modes[size_t(mode)].groupIndex;
}

template <class Visit>
void GuideModesSolver::overCells(int order, Visit visit) const
{
    const auto& rule = fem::cellRule(2, 2 * order + 4);
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        if (m_problem.shell.present && m_mesh.piece[size_t(t)] == m_problem.shell.piece)
            continue;
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule)
            visit(t, q.xi, q.w * g.determinant(q.xi));
    }
}

double GuideModesSolver::area(int order, int mode) const
{
    const Mode& m = at(order).modes[size_t(mode)];
    double second = 0, fourth = 0;
    overCells(order, [&](int t, const Point& xi, double w) {
        const FieldAt f = fieldAt(m, order, t, xi);
        const double square = std::norm(f.E[0]) + std::norm(f.E[1]) + std::norm(f.E[2]);
        second += w * square;
        fourth += w * square * square;
    });
    return images() * second * second / fourth;
}

double GuideModesSolver::polarisation(int order, int mode) const
{
    const Mode& m = at(order).modes[size_t(mode)];
    double x = 0, y = 0;
    overCells(order, [&](int t, const Point& xi, double w) {
        const FieldAt f = fieldAt(m, order, t, xi);
        x += w * std::norm(f.E[0]);
        y += w * std::norm(f.E[1]);
    });
    return x / (x + y);
}

double GuideModesSolver::confinement(int order, int mode, const std::vector<int>& pieces) const
{
    const Mode& m = at(order).modes[size_t(mode)];
    double inside = 0, all = 0;
    overCells(order, [&](int t, const Point& xi, double w) {
        const double power = w * fieldAt(m, order, t, xi).power();
        all += power;
        if (std::find(pieces.begin(), pieces.end(), m_mesh.piece[size_t(t)]) != pieces.end())
            inside += power;
    });
    return inside / all;
}

double GuideModesSolver::lineImpedance(int order, int mode, const Point& a, const Point& b) const
{
    const Mode& m = at(order).modes[size_t(mode)];
    // A fixed rule of many short intervals: cells end anywhere along the line.
    constexpr int intervals = 400;
    static const auto rule = fem::gaussLegendre(2);
    Complex voltage;
    for (int i = 0; i < intervals; ++i)
        for (const auto& q : rule) {
            const auto hit = m_locator.find(a + ((i + q.x) / intervals) * (b - a));
            if (hit.cell < 0)
                continue;
            const FieldAt f = fieldAt(m, order, hit.cell, hit.xi);
            voltage += q.w / intervals * (f.E[0] * (b.x - a.x) + f.E[1] * (b.y - a.y));
        }
    return std::norm(voltage) / 2;  // the guide carries 1 W
}

std::vector<double> GuideModesSolver::geometryShares(int mode) const
{
    // A moved border changes beta^2 by what it changes in the products of the field with itself,
    // over that of the right-hand side.
    const Mode& m = m_solved.back().modes[size_t(mode)];
    std::vector<double> share(size_t(m_mesh.cellCount()), 0.0);
    double whole = 0;
    overCells(order(), [&](int t, const Point& xi, double w) {
        const FieldAt f = fieldAt(m, order(), t, xi);
        whole += w * (std::norm(f.H[0]) + std::norm(f.H[1])) * mu0;
    });
    auto all = [](int) { return true; };
    overCurvedSides(m_mesh, m_partition, all, [&](const CurvedSide& c, const mesh::Geometry& g) {
        const FieldAt f = fieldAt(m, order(), c.cell, c.middle);
        const double E = eps0 * (std::norm(f.E[0]) + std::norm(f.E[1]) + std::norm(f.E[2])),
                     H = mu0 * (std::norm(f.H[0]) + std::norm(f.H[1]) + std::norm(f.H[2]));
        auto eps = [&](int cell) {
            const fem::Coefficient& k = m_eps[0][size_t(m_mesh.piece[size_t(cell)])];
            return (k.at ? k.at(g.at(c.middle)) : k.constant).xx;
        };
        // Between media the difference of their permittivities counts.
        const double change =
            c.other >= 0 ? std::abs(eps(c.cell) - eps(c.other)) * E : std::abs(eps(c.cell) * E - H);
        share[size_t(c.cell)] += 0.5 * change * c.offset / whole;
    });
    return share;
}

double GuideModesSolver::geometryError() const
{
    double most = 0;
    for (int k = 0; k < std::min(m_problem.asked, modeCount()); ++k) {
        const auto shares = geometryShares(k);
        most = std::max(most, std::accumulate(shares.begin(), shares.end(), 0.0));
    }
    return most;
}

std::array<double, 2> GuideModesSolver::energies(int t, const Mode& m, const std::vector<double>& e,
                                                 const std::vector<double>& phi) const
{
    const int nEdge = m_space.localCount(order()), nScalar = m_scalar.localCount(order());
    const double k2 = m_k * m_k, beta2 = std::abs(m.beta2);
    double part = 0;
    int number[fem::mostEdgeLocal], scalar[fem::mostLocal];
    double sign[fem::mostLocal], x[fem::mostEdgeLocal + fem::mostLocal],
        y[fem::mostEdgeLocal + fem::mostLocal];
    m_space.local(t, order(), number);
    m_scalar.local(t, scalar, sign);
    for (int i = 0; i < nEdge; ++i)
        x[i] = e[size_t(number[i])];
    for (int i = 0; i < nScalar; ++i)
        x[nEdge + i] = phi[size_t(scalar[i])];
    const int n = nEdge + nScalar;
    const std::pair<const fem::ElementMatrices*, double> terms[] = {
        {&m_elements[0].curl, 1.0},
        {&m_elements[0].across, k2},
        {&m_elements[0].along, k2 * beta2},
        {&m_elements[0].grad, beta2}};
    for (const auto& [matrix, factor] : terms) {
        matrix->multiply(t, n, x, y);
        part += std::abs(factor * std::inner_product(x, x + n, y, 0.0));
    }
    for (int i = 0; i < n; ++i)
        x[i] = i < nEdge ? m.e[0][size_t(number[i])] : 0.0;
    m_elements[0].across.multiply(t, n, x, y);
    return {part, k2 * std::inner_product(x, x + n, y, 0.0)};
}

std::vector<double> GuideModesSolver::indicator(bool) const
{
    // What the highest order adds to the field of the order below, in energy.
    std::vector<double> eta(size_t(m_mesh.cellCount()), 0.0);
    const Solved& high = m_solved.back();
    for (int k = 0; k < std::min(m_problem.asked, modeCount()); ++k) {
        const Mode& m = high.modes[size_t(k)];
        std::vector<double> e = m.e[0], phi = m.phi[0];
        if (m_solved.size() > 1 && !m_solved[m_solved.size() - 2].modes.empty()) {
            const auto& low = m_solved[m_solved.size() - 2].modes[size_t(k)];
            for (size_t i = 0; i < low.e[0].size(); ++i)
                e[i] -= low.e[0][i];
            for (size_t i = 0; i < low.phi[0].size(); ++i)
                phi[i] -= low.phi[0][i];
        }
        const auto shares = geometryShares(k);
        std::vector<double> part(eta.size(), 0.0);
        std::vector<double> size(eta.size(), 0.0);  // of the field itself
#pragma omp parallel for schedule(static)
        for (int t = 0; t < m_mesh.cellCount(); ++t) {
            const auto energy = energies(t, m, e, phi);
            part[size_t(t)] = energy[0];
            size[size_t(t)] = energy[1];
        }
        const double whole = std::accumulate(size.begin(), size.end(), 0.0);
        for (size_t t = 0; t < eta.size(); ++t)
            eta[t] += part[t] / whole + shares[t];
    }
    return eta;
}

}  // namespace yh::physics
