// What media take from driven waves.
#include "fem/quadrature.h"
#include "physics/common/constants.h"
#include "physics/wave/driven/driven.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

double WaveDrivenSolver::absorbed(int order, double f, int drive,
                                  const std::vector<int>& pieces) const
{
    const Model& m = at(order);
    const Eigen::VectorXcd y = response(m, f).field.col(drive);
    double sum = 0;
    for (const auto& field : fieldOf(m, y)) {
        const auto e = fem::energyByCell(m_space, m.order, m_elements.mass, field);
        for (size_t t = 0; t < e.size(); ++t) {
            const int piece = m_mesh.piece[t];
            if (!m_problem.carries(piece) ||
                std::find(pieces.begin(), pieces.end(), piece) == pieces.end())
                continue;
            const auto k = size_t(piece);
            if (!m_problem.dispersiveOf(piece))
                sum += e[t] * m_problem.conductivity(k, f) / m_problem.eps[k].constant.xx;
        }
        for (const Running& r : m_running) {
            const auto own =
                r.share.empty() ? e : fem::energyByCell(m_space, m.order, r.elements.mass, field);
            const auto& d = m_problem.dispersive[r.medium];
            const double takes = -2 * pi * f * eps0 * d.eps(f, r.temperature).imag() / d.reference;
            for (size_t t = 0; t < e.size(); ++t) {
                const int piece = m_mesh.piece[t];
                if (m_problem.dispersiveOf(piece) == &d &&
                    std::find(pieces.begin(), pieces.end(), piece) != pieces.end())
                    sum += takes * own[t];
            }
        }
    }
    return 0.5 * shareOf(drive) * sum;
}

WaveDrivenSolver::Snapshot WaveDrivenSolver::snapshot() const
{
    Snapshot s;
    s.lowest = m_models.front().order;
    s.fields = m_shownBelow;
    s.fields.push_back(m_shown);
    s.temperature = m_temperature;
    return s;
}

double WaveDrivenSolver::lossOf(const Snapshot& s, int order, int cell, const Point& xi) const
{
    const auto k = size_t(m_mesh.piece[size_t(cell)]);
    if (!m_problem.takesPower(k))
        return 0;
    // Of fields between the first and last time only the highest order is known.
    const int own = std::max(order, s.lowest);
    const Shown& shown = s.fields[size_t(own - s.lowest)];
    const fem::EdgePoint point(m_space, own, cell, xi);
    const Point a = point.of(shown[0]).value, b = point.of(shown[1]).value;
    const double T = s.temperature ? s.temperature(cell, xi) : roomTemperature;
    return 0.5 * (dot(a, a) + dot(b, b)) * m_problem.conductivity(k, m_problem.shown, T);
}

double WaveDrivenSolver::wallLossOf(const Snapshot& s, int order, int wall, int cell,
                                    const Point& xi) const
{
    const int own = std::max(order, s.lowest);
    const Shown& shown = s.fields[size_t(own - s.lowest)];
    const fem::EdgePoint point(m_space, own, cell, xi);
    const auto piece = size_t(m_mesh.piece[size_t(cell)]);
    const double toH = m_problem.inverseMu[piece].constant.xx / (2 * pi * m_problem.shown * mu0);
    const Point a = point.of(shown[0]).curl, b = point.of(shown[1]).curl;
    return 0.5 * m_problem.walls[size_t(wall)].resistance(m_problem.shown) * toH * toH *
           (dot(a, a) + dot(b, b));
}

double WaveDrivenSolver::wallLoss(const Snapshot& s, int order,
                                  const std::vector<int>& pieces) const
{
    auto isWanted = [&](int side, int cell) {
        const int tag = m_mesh.sideTag[size_t(side)];
        if (tag < 0 || m_problem.sides[size_t(tag)] < 0 || cell != cellBeside(side))
            return false;
        const auto& touching = m_partition.sides()[size_t(tag)].pieces;
        return std::any_of(touching.begin(), touching.end(), [&](int f) {
            return !m_problem.carries(f) &&
                   std::find(pieces.begin(), pieces.end(), f) != pieces.end();
        });
    };
    double sum = 0;
    fem::onSides(m_mesh, m_problem.measure, 2 * order + 2, isWanted,
                 [&](int side, int cell, const Point& xi, const Point&, const Point& n) {
                     const int wall = m_problem.sides[size_t(m_mesh.sideTag[size_t(side)])];
                     sum += norm(n) * wallLossOf(s, order, wall, cell, xi);
                 });
    return sum;
}

WaveDrivenSolver::SpecificAbsorption WaveDrivenSolver::specificAbsorption(
    int order, double f, int drive, const std::vector<int>& pieces) const
{
    const Model& m = at(order);
    const Eigen::VectorXcd y = response(m, f).field.col(drive);
    const Shown field = fieldOf(m, y);
    const double share = shareOf(drive);
    const auto& rule = fem::cellRule(m_mesh.dimension, 2 * m.order + 2);
    double power = 0, kilograms = 0;
    SpecificAbsorption out;
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const int piece = m_mesh.piece[size_t(t)];
        if (std::find(pieces.begin(), pieces.end(), piece) == pieces.end())
            continue;
        const auto k = size_t(piece);
        const double density = m_problem.density[k],
                     constant = m_problem.dispersiveOf(piece) ? 0 : m_problem.conductivity(k, f);
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            const fem::EdgePoint point(m_space, m.order, t, q.xi);
            const Point a = point.of(field[0]).value, b = point.of(field[1]).value;
            const double takes = m_problem.dispersiveOf(piece)
                                     ? m_problem.conductivity(k, f, temperatureAt(t, q.xi))
                                     : constant,
                         heat = 0.5 * share * takes * (dot(a, a) + dot(b, b)),
                         w = q.w * g.determinant(q.xi) * measureAt(m_problem.measure, g.at(q.xi));
            power += w * heat;
            kilograms += w * density;
            out.largest = std::max(out.largest, heat / density);
        }
    }
    out.mean = power / kilograms;
    return out;
}

}  // namespace yh::physics
