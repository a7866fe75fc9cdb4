// The small model of driven waves: what ports, dipoles and plane waves drive in it, and the powers.
#include "fem/dense.h"
#include "physics/common/constants.h"
#include "physics/wave/driven/driven.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace yh::physics {

using Complex = std::complex<double>;

Eigen::MatrixXcd WaveDrivenSolver::small(const Model& m, double f) const
{
    Eigen::MatrixXcd A = Eigen::MatrixXcd::Zero(m.reduced[0].rows(), m.reduced[0].cols());
    for (size_t part = 0; part < m.reduced.size(); ++part)
        A += factor(part, f) * m.reduced[part];
    if (!m_lossWalls.empty())
        A -= wallShare(f) * wallForm(m, f);
    if (m.next)
        A -= m.next->at(m.next->matrix, f);
    return A;
}

Eigen::MatrixXcd WaveDrivenSolver::assembledOnly(const Model& m, double f) const
{
    const auto n = m.drive.rows();
    Eigen::MatrixXcd A = Eigen::MatrixXcd::Zero(n, n);
    for (const Part part : m_parts)
        if (n > 0)
            A += factor(part, f) * m.reduced[part];
    return A;
}

Eigen::MatrixXd WaveDrivenSolver::driveShares(const Model& m, double f) const
{
    std::vector<Eigen::VectorXd> columns;
    for (const PortMode& mode : m.modes)
        columns.push_back(mode.shares(f));
    for (size_t d = 0; d < m_problem.dipoles.size(); ++d)
        columns.push_back(Eigen::VectorXd::Ones(1));
    if (m.periodic->copies() == 2) {
        const auto again = columns;
        columns.insert(columns.end(), again.begin(), again.end());
    }
    Eigen::Index loads = 0;
    for (const auto& c : columns)
        loads += c.size();
    Eigen::MatrixXd shares = Eigen::MatrixXd::Zero(loads, Eigen::Index(columns.size()));
    loads = 0;
    for (size_t c = 0; c < columns.size(); ++c) {
        shares.block(loads, Eigen::Index(c), columns[c].size(), 1) = columns[c];
        loads += columns[c].size();
    }
    return shares;
}

WaveDrivenSolver::NextDrive WaveDrivenSolver::nextDrive(const Model& m, double f) const
{
    const Eigen::MatrixXcd drive = m.next->at(m.next->drive, f), self = m.next->at(m.next->self, f);
    const Eigen::MatrixXd shares = driveShares(m, f);
    const auto loads = shares.rows(), own = shares.cols(), waves = drive.cols() - loads;
    Eigen::MatrixXcd all = Eigen::MatrixXcd::Zero(drive.cols(), own + waves);
    all.topLeftCorner(loads, own) = shares.cast<Complex>();
    all.bottomRightCorner(waves, waves).setIdentity();
    return {fem::times(drive, all), fem::transposedTimes(all, fem::times(self, all))};
}

Eigen::VectorXcd WaveDrivenSolver::impedances(const Model& m, double f) const
{
    Eigen::VectorXcd z(Eigen::Index(m.modes.size()));
    for (size_t k = 0; k < m.modes.size(); ++k) {
        const WavePort& port = m_problem.ports[size_t(m_channels[k].port)];
        z(Eigen::Index(k)) = m.modes[k].waveImpedance(f, m_problem.portEps(port, f), port.mu);
    }
    return z;
}

WaveDrivenSolver::Response WaveDrivenSolver::response(const Model& m, double f) const
{
    const Complex jw(0, 2 * pi * f * mu0), share = wallShare(f);
    const Eigen::MatrixXd shares = driveShares(m, f);
    Eigen::MatrixXcd drive = m.drive.cast<Complex>();
    drive -= share * wallDrive(m, f).cast<Complex>();
    drive = fem::times(drive, shares);
    const auto waves = Eigen::Index(m.incident.size()), before = drive.cols();
    Eigen::MatrixXcd added, nextSelf;
    if (m.next) {
        NextDrive next = nextDrive(m, f);
        added = std::move(next.drive);
        nextSelf = std::move(next.self);
        drive -= added.leftCols(before);
    }
    Eigen::MatrixXcd sides(drive.rows(), before + waves);
    sides.leftCols(before) = drive;
    for (Eigen::Index w = 0; w < waves; ++w)
        sides.col(before + w) = m.incident[size_t(w)].load * litWeights(f);
    if (m.next)
        sides.rightCols(waves) -= added.middleCols(before, waves);
    const Eigen::MatrixXcd X = fem::solved(small(m, f), sides), lit = X.rightCols(waves);
    Eigen::MatrixXcd x = X.leftCols(before);
    const Eigen::VectorXcd z0 = impedances(m, f);
    const Eigen::MatrixXd self = fem::transposedTimes(shares, fem::times(m.wallSelf, shares));
    Eigen::MatrixXcd Z = jw * fem::transposedTimes(drive, x) + jw * share * self.cast<Complex>();
    if (m.next)
        Z += jw * nextSelf.topLeftCorner(before, before);
    if (m.periodic->copies() == 2) {
        const auto own = before / 2;
        Z = Eigen::MatrixXcd(Z.topLeftCorner(own, own) +
                             Complex(0, 1) * Z.bottomLeftCorner(own, own));
        x = Eigen::MatrixXcd((x.leftCols(own) - Complex(0, 1) * x.rightCols(own)) / std::sqrt(2));
    }
    const auto n = z0.size(), dipoles = Z.cols() - n;
    Response r;
    Eigen::MatrixXcd induced = fem::transposedTimes(drive, lit).topRows(Z.rows());
    if (m.next)
        induced += nextSelf.block(0, before, Z.rows(), waves);
    r.current.setZero(Z.rows(), Z.cols() + waves);
    for (Eigen::Index d = 0; d < dipoles; ++d)
        r.current(n + d, n + d) = -m_problem.dipoles[size_t(d)].moment;
    if (n > 0) {
        Eigen::MatrixXcd ended = Z.topLeftCorner(n, n);
        ended.diagonal() += z0;
        const fem::DenseLu lu(ended);
        r.current.topLeftCorner(n, n) =
            lu.solve(Eigen::MatrixXcd(Eigen::VectorXcd(2 * z0.cwiseSqrt()).asDiagonal()));
        // The ports answer to what a dipole induces in them.
        if (dipoles > 0)
            r.current.block(0, n, n, dipoles) = -lu.solve(
                fem::times(Z.topRightCorner(n, dipoles), r.current.block(n, n, dipoles, dipoles)));
        if (waves > 0)
            r.current.topRightCorner(n, waves) = -lu.solve(Eigen::MatrixXcd(induced.topRows(n)));
    }
    r.field = jw * fem::times(x, r.current);
    r.field.rightCols(waves) += lit;
    r.voltage = fem::times(Z, r.current);
    r.voltage.rightCols(waves) += induced;
    return r;
}

Eigen::MatrixXcd WaveDrivenSolver::scattering(const Model& m, double f) const
{
    // V = sqrt(z0) (a + b): with the response to a wave into each channel, b follows from V.
    const Eigen::VectorXcd root = impedances(m, f).cwiseSqrt();
    const auto n = root.size();
    Eigen::MatrixXcd S =
        root.cwiseInverse().asDiagonal() * response(m, f).voltage.topLeftCorner(n, n);
    S.diagonal().array() -= 1;
    const double none = std::numeric_limits<double>::quiet_NaN();
    for (size_t k = 0; k < m.modes.size(); ++k) {
        const WavePort& port = m_problem.ports[size_t(m_channels[k].port)];
        const auto i = Eigen::Index(k);
        const Complex beta = m.modes[k].beta(f, m_problem.portEps(port, f), port.mu);
        if (m.modes[k].kind != PortMode::Kind::lumped && !(beta.real() > 0)) {
            S.row(i).setConstant(none);
            S.col(i).setConstant(none);
            continue;
        }
        // A reference inside the device takes the way there and back off.
        const Complex turn =
            m.modes[k].isInWire() ? Complex(0, 1) : std::exp(Complex(0, beta.real() * port.shift));
        S.row(i) *= turn;
        S.col(i) *= turn;
    }
    return S;
}

Eigen::MatrixXcd WaveDrivenSolver::scattering(int order, double f) const
{
    return scattering(at(order), f);
}

WaveDrivenSolver::Balance WaveDrivenSolver::balance(int order, double f, int channel) const
{
    const Model& m = at(order);
    const Response r = response(m, f);
    const Eigen::VectorXcd y = r.field.col(channel), I = r.current.col(channel);
    const double omega = 2 * pi * f, k = omega / c0;
    const auto ports = Eigen::Index(m_channels.size());
    // A dipole gives what its current meets; a wave of amplitude 1 comes in with half a watt.
    const double incident =
        channel < ports ? 0.5 : 0.5 * (std::conj(I(channel)) * r.voltage(channel, channel)).real();
    auto form = [&](const Eigen::MatrixXd& A) { return fem::powerOf(A, y); };
    Balance b;
    if (channel < ports) {
        const Eigen::MatrixXcd S = scattering(m, f);
        for (Eigen::Index i = 0; i < S.rows(); ++i)
            if (std::isfinite(std::abs(S(i, channel))))
                (i == channel ? b.reflected : b.passed) += std::norm(S(i, channel));
    } else {
        const Eigen::VectorXcd z0 = impedances(m, f);
        for (Eigen::Index i = 0; i < ports; ++i)
            b.passed += 0.5 * z0(i).real() * std::norm(I(i)) / incident;
    }
    b.radiated = 0.5 * (form(m.reduced[absorbCurl]) - k * k * form(m.reduced[absorbMass])) /
                 (omega * mu0) / incident;
    const Taken inside = taken(m, f, y, I);
    b.media = inside.media / incident;
    b.walls = inside.walls / incident;
    // The shell's part of what the next order adds is not known by itself: it is the rest.
    if (m.next && m_problem.shell.present)
        b.radiated = 1 - b.reflected - b.passed - b.media - b.walls;
    return b;
}

WaveDrivenSolver::Taken WaveDrivenSolver::taken(const Model& m, double f, const Eigen::VectorXcd& y,
                                                const Eigen::VectorXcd& I) const
{
    const double omega = 2 * pi * f;
    auto form = [&](const Eigen::MatrixXd& A) { return fem::powerOf(A, y); };
    Taken t;
    t.media = 0.5 * (omega * eps0 * form(m.reduced[lossy]) + form(m.reduced[conducting]));
    for (size_t g = 0; g < m_running.size(); ++g)
        t.media -=
            0.5 * omega * eps0 * excess(m_running[g], f).imag() * form(m.reduced[partCount + g]);
    if (!m_problem.sheets.empty())
        t.walls = 0.5 * form(m.reduced[resistive]) / (mu0 * c0);
    if (!m_problem.wires.empty()) {
        t.media += 0.5 * form(m.reduced[wireMedium]) / (omega * mu0);
        t.walls +=
            0.5 * wireImpedance(f).real() * form(m.reduced[wireMetal]) / std::pow(mu0 * c0, 2);
    }
    if (m_lossWalls.empty())
        return t;
    // R |H|^2 / 2 with the current along the walls, S^-1 (j omega mu0 u_w I - A_w x).
    const Complex jw(0, omega * mu0);
    const Eigen::VectorXcd J = ofAll(m, I);
    const Eigen::MatrixXd shares = driveShares(m, f), crossed = fem::times(wallDrive(m, f), shares),
                          self = fem::transposedTimes(shares, fem::times(m.wallSelf, shares));
    const double square =
        form(wallForm(m, f)) -
        2 * (std::conj(jw) * J.dot(fem::transposedTimes(crossed, y).col(0))).real() +
        std::norm(jw) * fem::powerOf(self, J);
    t.walls += 0.5 * m_problem.walls[size_t(m_lossWalls[0])].resistance(f) * square / std::norm(jw);
    return t;
}

int WaveDrivenSolver::driveOf(const std::string& name) const
{
    if (const int port = m_problem.portOf(name); port >= 0)
        return channelOf(port, 0);
    if (const int dipole = m_problem.dipoleOf(name); dipole >= 0)
        return int(m_channels.size()) + dipole;
    const int wave = m_problem.planeWaveOf(name);
    return wave < 0 ? -1 : int(m_channels.size() + m_problem.dipoles.size()) + wave;
}

WaveDrivenSolver::Powers WaveDrivenSolver::powers(int order, double f, int drive) const
{
    const Response r = response(at(order), f);
    const auto b = balance(order, f, drive);
    Powers p;
    p.offered = drive < int(m_channels.size())
                    ? 0.5
                    : 0.5 * (std::conj(r.current(drive, drive)) * r.voltage(drive, drive)).real();
    p.accepted = p.offered * (1 - b.reflected);
    p.radiated = p.offered * b.radiated;
    for (double* value : {&p.offered, &p.accepted, &p.radiated})
        *value *= m_problem.scale * shareOf(drive);
    return p;
}

Complex WaveDrivenSolver::inputImpedance(int order, double f, int port) const
{
    const Model& m = at(order);
    const int channel = channelOf(port, 0);
    const WavePort& p = m_problem.ports[size_t(port)];
    const Complex S = scattering(m, f)(channel, channel);
    return p.whole * m.modes[size_t(channel)].impedance(f, p.eps, p.mu) * (1.0 + S) / (1.0 - S);
}

FarField WaveDrivenSolver::farField(int order, double f, int drive) const
{
    const Model &m = at(order), &own = basisOf(m);
    if (!own.sphere) {
        const double k = 2 * pi * m_problem.high / c0;
        own.sphere = std::make_unique<SphereExpansion>(m_problem, m_space, own.order, own.basis, k);
    }
    return own.sphere->farField(std::sqrt(shareOf(drive)) * response(m, f).field.col(drive), f);
}

}  // namespace yh::physics
