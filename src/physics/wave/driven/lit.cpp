// Plane waves among the drives of a device.
#include "physics/common/constants.h"
#include "physics/wave/driven/driven.h"

#include <cmath>
#include <numeric>

namespace yh::physics {

using Complex = std::complex<double>;

void WaveDrivenSolver::findLitPlaces()
{
    m_litPlaces.clear();
    if (m_problem.planeWaves.empty())
        return;
    // Chebyshev's polynomials of a few more orders than exp(-j k r) turns hold it to rounding.
    const int n = m_problem.high > m_problem.low ? int(std::ceil(1.4 * incidentTurn())) + 12 : 1;
    m_litPlaces = chebyshevPoints(m_problem.low, m_problem.high, n);
}

double WaveDrivenSolver::incidentTurn() const
{
    const double reach = m_problem.shell.inner + norm(m_problem.shell.centre);
    return pi * (m_problem.high - m_problem.low) / c0 * reach;
}

Eigen::VectorXd WaveDrivenSolver::litWeights(double f) const
{
    return chebyshevWeights(m_litPlaces, f);
}

IncidentField WaveDrivenSolver::incident(int wave, double f) const
{
    const PlaneWave& w = m_problem.planeWaves[size_t(wave)];
    return {w.towards, w.polarisation, w.field, 2 * pi * f / c0, false};
}

WaveDrivenSolver::LitLoads WaveDrivenSolver::incidentLoads(const Illumination& sphere,
                                                           const Illumination& lifted, int wave,
                                                           double f) const
{
    IncidentField in = incident(wave, f);
    auto w = lifted.lift(in);
    if (&sphere != &lifted)
        w = sphere.embedded(lifted, w);
    LitLoads out;
    out.forth = sphere.load(in, w);
    in.conjugate = true;
    // Its lift is the conjugate one.
    auto back = w;
    for (Complex& v : back)
        v = std::conj(v);
    out.back = sphere.load(in, back);
    out.self = std::inner_product(w.begin(), w.end(), out.back.begin(), Complex(0));
    return out;
}

std::array<std::vector<double>, 2> WaveDrivenSolver::lookedAhead(const Model& m, double f, int wave,
                                                                 const Eigen::VectorXcd& y) const
{
    const Next& next = *m.next;
    std::array<std::vector<double>, 2> u{combine(m, y.real()), combine(m, y.imag())};
    for (auto& part : u)
        part.resize(size_t(next.space->count()), 0.0);
    const auto load = incidentLoads(*next.sphere, *basisOf(m).sphereOf, wave, f).forth;
    std::vector<Complex> g(u[0].size());
    for (size_t i = 0; i < load.size(); ++i)
        g[size_t(next.sphere->functions()[i])] = load[i];
    std::vector<Complex> weight;
    for (const Part part : next.parts)
        weight.push_back(factor(part, f));
    const auto width = size_t(y.size());
    for (size_t i = 0; i < next.functions.size(); ++i) {
        Complex own = 0, rest = g[size_t(next.functions[i])];
        for (size_t part = 0; part < weight.size(); ++part) {
            own += weight[part] * next.rows[part].own[i];
            for (size_t k = 0; k < width; ++k)
                rest -=
                    weight[part] * double(next.rows[part].rows[i * width + k]) * y(Eigen::Index(k));
        }
        const Complex value = rest / own;
        u[0][size_t(next.functions[i])] = value.real();
        u[1][size_t(next.functions[i])] = value.imag();
    }
    return u;
}

Complex WaveDrivenSolver::onwards(const Model& m, double f, int wave, const Response& r) const
{
    const auto drives = Eigen::Index(m_channels.size() + m_problem.dipoles.size());
    const Eigen::VectorXcd field = r.field.col(drives + wave);
    const IncidentLoad& lit = m.incident[size_t(wave)];
    const Eigen::VectorXd weights = litWeights(f);
    Complex sum = ((lit.returned * weights).transpose() * field)(0);
    for (size_t i = 0; i < lit.self.size(); ++i)
        sum -= weights(Eigen::Index(i)) * lit.self[i];
    if (m.next) {
        const auto forth = drives + wave, back = forth + Eigen::Index(m.incident.size());
        const NextDrive next = nextDrive(m, f);
        const Eigen::MatrixXcd& self = next.self;
        sum -= (next.drive.col(back).transpose() * field)(0);
        sum += self(back, forth);
        const Complex jw(0, 2 * pi * f * mu0);
        sum += jw * (self.row(back).head(drives) * r.current.col(forth))(0);
    }
    return sum;
}

WaveDrivenSolver::CrossSections WaveDrivenSolver::crossSections(int order, double f, int wave) const
{
    const Model& m = at(order);
    const auto n = Eigen::Index(m_channels.size()),
               drive = n + Eigen::Index(m_problem.dipoles.size()) + wave;
    const Response r = response(m, f);
    const double E = m_problem.planeWaves[size_t(wave)].field, k = 2 * pi * f / c0,
                 byArea = E * E / (2 * mu0 * c0);
    const Eigen::VectorXcd y = r.field.col(drive), I = r.current.col(drive);
    const Taken inside = taken(m, f, y, I);
    const Eigen::VectorXcd z0 = impedances(m, f);
    double away = inside.media + inside.walls;
    for (Eigen::Index i = 0; i < n; ++i)
        away += 0.5 * z0(i).real() * std::norm(I(i));
    const Complex on = m_problem.scale / (k * E * E) * onwards(m, f, wave, r);
    return {-on.imag(), m_problem.scale * away / byArea, on.real()};
}

double WaveDrivenSolver::received(int order, double f, int port, int wave) const
{
    const Model& m = at(order);
    const auto drive = Eigen::Index(m_channels.size() + m_problem.dipoles.size()) + wave;
    const Response r = response(m, f);
    const Eigen::VectorXcd z0 = impedances(m, f);
    double sum = 0;
    for (size_t k = 0; k < m_channels.size(); ++k)
        if (m_channels[k].port == port) {
            const auto i = Eigen::Index(k);
            sum += 0.5 * z0(i).real() * std::norm(r.current(i, drive));
        }
    return sum / m_problem.ports[size_t(port)].share;
}

const ScatteredField& WaveDrivenSolver::scattered(int order, double f, int wave) const
{
    const std::array<double, 3> key{double(order), f, double(wave)};
    if (const auto known = m_scattered.find(key); known != m_scattered.end())
        return known->second;
    const Model& m = at(order);
    const auto drive = Eigen::Index(m_channels.size() + m_problem.dipoles.size()) + wave;
    const Eigen::VectorXcd y = response(m, f).field.col(drive);
    const Illumination& own = *basisOf(m).sphereOf;
    const auto w = own.lift(incident(wave, f));
    const double k = 2 * pi * f / c0;
    ScatteredField field = m.next
                               ? m.next->sphere->scattered(lookedAhead(m, f, wave, y),
                                                           m.next->sphere->embedded(own, w), k)
                               : own.scattered({combine(m, y.real()), combine(m, y.imag())}, w, k);
    return m_scattered.emplace(key, std::move(field)).first->second;
}

}  // namespace yh::physics
