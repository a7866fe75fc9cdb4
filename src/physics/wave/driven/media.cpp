// Media of driven waves that run with the frequency or follow the temperature.
#include "physics/common/constants.h"
#include "physics/wave/driven/driven.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

void WaveDrivenSolver::warm(std::function<double(int, const Point&)> temperature)
{
    m_temperature = std::move(temperature);
    findRunning();
}

std::array<double, 2> WaveDrivenSolver::temperaturesIn(const WaveProblem::Dispersive& d,
                                                       std::vector<char>& only) const
{
    std::vector<char> isMedium(m_problem.eps.size(), 0);
    for (const int f : d.pieces)
        isMedium[size_t(f)] = 1;
    double low = 1e300, high = -1e300;
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const int p = m_mesh.piece[size_t(t)];
        only.push_back(isMedium[size_t(p)]);
        if (!only.back() || !d.warms)
            continue;
        const mesh::Geometry cell(m_mesh, t);
        for (const Point& xi : {cell.centre(), Point{0, 0, 0}, Point{1, 0, 0}, Point{0, 1, 0},
                                Point{0, 0, m_mesh.dimension == 3 ? 1.0 : 0.0}}) {
            low = std::min(low, temperatureAt(t, xi));
            high = std::max(high, temperatureAt(t, xi));
        }
    }
    return {low, high};
}

fem::Coefficient WaveDrivenSolver::shareOf(const std::vector<double>& at, size_t k,
                                           double reference) const
{
    fem::Coefficient share;
    share.inCell = [this, at, k, reference](int t, const Point& p) {
        const mesh::Geometry cell(m_mesh, t);
        Point xi;
        cell.invert(p, xi);
        const double T = temperatureAt(t, xi);
        double value = reference;
        for (size_t j = 0; j < at.size(); ++j)
            if (j != k)
                value *= (T - at[j]) / (at[k] - at[j]);
        return fem::Tensor::isotropic(value);
    };
    return share;
}

void WaveDrivenSolver::findRunning()
{
    m_running.clear();
    m_parts.resize(m_fixedParts);
    for (size_t g = 0; g < m_problem.dispersive.size(); ++g) {
        const auto& d = m_problem.dispersive[g];
        std::vector<char> only;
        const auto [low, high] = temperaturesIn(d, only);
        constexpr double even = 1e-3;  // K
        const bool isEven = !(high - low > even);
        constexpr int levels = 5;
        auto at = isEven ? std::vector<double>() : chebyshevPoints(low, high, levels);
        if (isEven)
            at.push_back(high > 0 ? high : roomTemperature);
        for (size_t k = 0; k < at.size(); ++k) {
            Running r;
            r.medium = g;
            r.temperature = at[k];
            if (!isEven) {
                const fem::Coefficient share = shareOf(at, k, d.reference);
                r.share.assign(m_problem.eps.size(), share);
                r.elements = fem::edgeElements(m_space, m_problem.inverseMu, r.share,
                                               m_problem.measure, only);
            }
            m_parts.push_back(Part(partCount + int(m_running.size())));
            m_running.push_back(std::move(r));
        }
    }
}

std::vector<double> WaveDrivenSolver::byPiece(Part part) const
{
    if (part == lossy)
        return m_problem.loss;
    std::vector<double> list;
    if (part == conducting) {
        list = m_problem.sigma;
        for (size_t f = 0; f < list.size(); ++f)
            list[f] /= m_problem.eps[f].constant.xx;
    } else if (part >= partCount) {
        list.assign(m_problem.eps.size(), 0.0);
        const Running& r = m_running[size_t(part - partCount)];
        for (const int f : m_problem.dispersive[r.medium].pieces)
            list[size_t(f)] = 1;
    }
    return list;
}

}  // namespace yh::physics
