#include "physics/wave/driven/model.h"

#include "base/clock.h"
#include "fem/dense.h"
#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <list>
#include <map>
#include <numeric>
#include <tuple>

namespace yh::physics {

namespace {

using Complex = std::complex<double>;

}  // namespace

WaveDrivenSolver::WaveDrivenSolver(const WaveProblem& problem, const mesh::Mesh& mesh,
                                   const shape::Partition& partition, int order, base::Progress&)
    : m_problem(problem), m_mesh(mesh), m_partition(partition), m_space(mesh, order, problem.kind)
{
    const double start = base::seconds();
    if (!std::all_of(mesh.piece.begin(), mesh.piece.end(),
                     [&](int p) { return problem.carries(p); }))
        for (const int p : mesh.piece)
            m_carrying.push_back(problem.carries(p));
    m_elements =
        fem::edgeElements(m_space, problem.inverseMu, problem.eps, problem.measure, m_carrying);
    if (problem.shell.present) {
        std::vector<char> only(size_t(mesh.cellCount()), 0);
        for (int t = 0; t < mesh.cellCount(); ++t)
            only[size_t(t)] = mesh.piece[size_t(t)] == problem.shell.piece;
        const auto media = problem.absorbingMedia();
        m_absorbing = fem::edgeElements(m_space, media.inverseMu, media.eps, problem.measure, only);
    }
    if (problem.isSlanted())
        m_slant = fem::slantElements(m_space, problem.slant, problem.inverseMu);
    if (!problem.sheets.empty())
        findSheets();
    m_counters.assembleSeconds = base::seconds() - start;
    for (size_t p = 0; p < problem.ports.size(); ++p)
        for (int k = 0; k < problem.ports[p].modes; ++k)
            m_channels.push_back({int(p), k});
    std::vector<char> used(problem.walls.size(), 0);
    for (int s = 0; s < mesh.sideCount(); ++s)
        if (const int tag = mesh.sideTag[size_t(s)]; tag >= 0 && problem.sides[size_t(tag)] >= 0)
            used[size_t(problem.sides[size_t(tag)])] = 1;
    for (size_t w = 0; w < used.size(); ++w)
        if (used[w])
            m_lossWalls.push_back(int(w));
    for (const int f : problem.activePieces)
        m_isLossy = m_isLossy || problem.loss[size_t(f)] > 0 || problem.sigma[size_t(f)] > 0;
    m_isComplex = m_isLossy || problem.shell.present || !problem.dispersive.empty() ||
                  !problem.sheets.empty();
    findLitPlaces();
    m_parts = {curl, mass};
    if (m_isLossy)
        m_parts.insert(m_parts.end(), {lossy, conducting});
    if (problem.shell.present)
        m_parts.insert(m_parts.end(), {absorbCurl, absorbMass});
    m_wallParts = {curl, mass};
    if (problem.isSlanted()) {
        for (auto* list : {&m_parts, &m_wallParts})
            list->insert(list->end(), {slantLinear, slantSquare});
    }
    if (!problem.sheets.empty())
        m_parts.push_back(resistive);
    if (const auto& wires = problem.wires; !wires.empty()) {
        m_parts.insert(m_parts.end(), {wireConstant, wireLinear, wireSquare, wireFourth});
        if (wires.isLossy())
            m_parts.push_back(wireMedium);
        if (wires.isOfMetal())
            m_parts.push_back(wireMetal);
        m_wallParts.push_back(wireLinear);
        m_isComplex = m_isComplex || wires.isLossy() || wires.isOfMetal();
    }
    m_fixedParts = m_parts.size();
    findRunning();
    m_quantities = {{"E", "electric field, in phase", "V/m", 3},
                    {"E ahead", "electric field, a quarter ahead", "V/m", 3},
                    {"H", "magnetic field, in phase", "A/m", 3},
                    {"H ahead", "magnetic field, a quarter ahead", "A/m", 3}};
}

std::vector<double> WaveDrivenSolver::band() const
{
    std::vector<double> list;
    const int n = m_problem.points;
    for (int i = 0; i < n; ++i)
        list.push_back(n == 1 ? m_problem.low
                              : m_problem.low + (m_problem.high - m_problem.low) * i / (n - 1));
    return list;
}

Complex WaveDrivenSolver::wallShare(double f) const
{
    if (m_lossWalls.empty())
        return 0;
    const double R = m_problem.walls[size_t(m_lossWalls[0])].resistance(f);
    return Complex(1, -1) * R / (2 * pi * f * mu0);
}

Complex WaveDrivenSolver::factor(size_t part, double f) const
{
    const double omega = 2 * pi * f, k = omega / c0;
    if (part >= partCount)
        return -k * k * excess(m_running[part - partCount], f);
    switch (part) {
        case curl:
            return 1;
        case mass:
            return -k * k;
        case lossy:
            return {0, k * k};
        case conducting:
            return {0, k * mu0 * c0};
        case absorbCurl:
            return {0, 1};
        case absorbMass:
            return {0, -k * k};
        case slantLinear:
            return k;
        case resistive:
            return {0, k};
        case wireConstant:
            return 1;
        case wireLinear:
            return k;
        case wireSquare:
            return -k * k;
        case wireFourth:
            return k * k * k * k;
        case wireMedium:
            return {0, 1};
        case wireMetal:
            return Complex(0, k) * wireImpedance(f) / (mu0 * c0);
        default:
            return k * k;
    }
}

Eigen::MatrixXd WaveDrivenSolver::wallForm(const Model& m, double f) const
{
    // -(K_w - k^2 M_w)^T S^-1 (K_w - k^2 M_w) / Y, and the like of what else there is.
    const size_t n = m_wallParts.size();
    Eigen::MatrixXd sum = Eigen::MatrixXd::Zero(m.reduced[0].rows(), m.reduced[0].cols());
    for (size_t p = 0; p < n && !m.wallPair.empty(); ++p)
        for (size_t q = 0; q <= p; ++q)
            sum += factor(m_wallParts[p], f).real() * factor(m_wallParts[q], f).real() *
                   m.wallPair[p * n + q];
    return sum;
}

Eigen::MatrixXd WaveDrivenSolver::wallDrive(const Model& m, double f) const
{
    Eigen::MatrixXd sum = Eigen::MatrixXd::Zero(m.drive.rows(), m.drive.cols());
    for (size_t p = 0; p < m.wallDrive.size(); ++p)
        sum += factor(m_wallParts[p], f).real() * m.wallDrive[p];
    return sum;
}

const fem::ElementMatrices& WaveDrivenSolver::elementsOf(Part part) const
{
    switch (part) {
        case curl:
            return m_elements.curl;
        case absorbCurl:
            return m_absorbing.curl;
        case absorbMass:
            return m_absorbing.mass;
        case slantLinear:
            return m_slant.linear;
        case slantSquare:
            return m_slant.square;
        case resistive:
            return m_sheets;
        default:
            return hasShare(part) ? m_running[size_t(part - partCount)].elements.mass
                                  : m_elements.mass;
    }
}

void WaveDrivenSolver::solveShown(base::Progress& progress)
{
    m_onlyShown = true;
    solve(order(), progress);
    m_onlyShown = false;
}

void WaveDrivenSolver::solve(int lowestOrder, base::Progress& progress)
{
    m_models.clear();
    m_next.reset();
    m_scattered.clear();
    double start = base::seconds();
    const auto ranks = fem::cornerRanks(m_mesh);
    m_counters.orderSeconds = base::seconds() - start;
    const auto walls = wallSides(m_problem, m_mesh);
    std::vector<std::vector<int>> metal(m_lossWalls.size());
    for (const int s : walls)
        if (const int tag = m_mesh.sideTag[size_t(s)]; tag >= 0)
            for (size_t w = 0; w < metal.size(); ++w)
                if (m_problem.sides[size_t(tag)] == m_lossWalls[w])
                    metal[w].push_back(s);
    const auto table = m_space.cellTable();
    for (int p = lowestOrder; p <= order(); ++p) {
        progress.check();
        start = base::seconds();
        const auto periodic = std::make_shared<const PeriodicFunctions>(
            m_space, p, m_problem.phases, m_problem.turning);
        const auto isFree = freeFunctions(m_space, p, walls, *periodic);
        auto numbering = periodic->numbering(m_space.functionRanks(p, ranks), isFree);
        const auto functions = periodic->functions(table);
        std::list<fem::ElementMatrices> turned;
        std::map<const fem::ElementMatrices*, const fem::ElementMatrices*> used;
        std::vector<fem::Term> terms;
        std::vector<Part> ofField;
        for (const Part part : m_parts) {
            if (isOfWires(part))
                continue;
            ofField.push_back(part);
            const auto* plain = &elementsOf(part);
            const auto [it, isNew] = used.try_emplace(plain, plain);
            if (isNew && !periodic->none())
                it->second = &turned.emplace_back(periodic->turned(*plain));
            terms.push_back({it->second, byPiece(part)});
        }
        auto family = fem::assemble(functions, terms, numbering);
        std::vector<WireCurrents::Product> products;
        turned.clear();
        if (!m_problem.wires.empty()) {
            // By their places among all parts.
            std::vector<std::vector<double>> value(m_parts.size(),
                                                   std::vector<double>(family.row.size(), 0.0));
            for (size_t i = 0; i < ofField.size(); ++i)
                value[size_t(std::find(m_parts.begin(), m_parts.end(), ofField[i]) -
                             m_parts.begin())] = std::move(family.value[i]);
            family.value = std::move(value);
            products = joinWires(p, numbering, family);
        }
        Walls metals = wallsOf(p, metal, ranks, *periodic);
        findWires(products, p, metals);
        m_counters.assembleSeconds += base::seconds() - start;
        start = base::seconds();
        Model model;
        model.order = p;
        model.periodic = periodic;
        for (const WavePort& port : m_problem.ports)
            for (auto& mode : portModes(m_problem, port, m_space, p, walls, progress))
                model.modes.push_back(std::move(mode));
        if (!m_problem.planeWaves.empty())
            model.sphereOf = std::make_unique<Illumination>(m_problem, m_space, p, isFree, ranks);
        Builder(*this, model, family, numbering, metals).run(p < order(), progress);
        m_models.push_back(std::move(model));
        m_counters.unknowns = family.size;
        m_counters.solveSeconds += base::seconds() - start;
    }
    m_shown = shownOf(m_models.back());
    m_shownBelow.clear();
    for (size_t i = 0; i + 1 < m_models.size(); ++i)
        m_shownBelow.push_back(shownOf(m_models[i]));
    lookAhead(progress);
}

WaveDrivenSolver::Shown WaveDrivenSolver::shownOf(const Model& m) const
{
    const double amplitude = std::sqrt(shareOf(0));
    Shown field = fieldOf(m, response(m, m_problem.shown).field.col(0));
    for (double& v : field[0])
        v *= amplitude;
    for (double& v : field[1])
        v *= -amplitude;  // a quarter ahead
    return field;
}

WaveDrivenSolver::Shown WaveDrivenSolver::fieldOf(const Model& m, const Eigen::VectorXcd& y) const
{
    auto re = combine(m, y.real()), im = combine(m, y.imag());
    const PeriodicFunctions& periodic = *basisOf(m).periodic;
    if (periodic.none())
        return {std::move(re), std::move(im)};
    if (periodic.copies() == 1)
        return {periodic.unfolded(re)[0], periodic.unfolded(im)[0]};
    // The parts hold (c + j s, s - j c) / sqrt(2): the first half is the field meant.
    const size_t count = periodic.count();
    for (size_t i = 0; i < count; ++i) {
        re[count + i] = std::sqrt(2) * im[i];
        re[i] *= std::sqrt(2);
    }
    return periodic.unfolded(re);
}

Eigen::MatrixXcd WaveDrivenSolver::ofAll(const Model& m, const Eigen::MatrixXcd& amplitudes)
{
    if (m.periodic->copies() == 1)
        return amplitudes;
    Eigen::MatrixXcd both(2 * amplitudes.rows(), amplitudes.cols());
    both << amplitudes, Complex(0, -1) * amplitudes;
    return both / std::sqrt(2);
}

Eigen::MatrixXcd WaveDrivenSolver::judged(const Model& m, double f) const
{
    const Eigen::MatrixXcd S = scattering(m, f);
    const auto n = S.rows(), dipoles = Eigen::Index(m_problem.dipoles.size()),
               waves = Eigen::Index(m_problem.planeWaves.size());
    if (dipoles + waves == 0)
        return S;
    Eigen::MatrixXcd all = Eigen::MatrixXcd::Zero(n + dipoles + waves, n + dipoles + waves);
    all.topLeftCorner(n, n) = S;
    const Response r = response(m, f);
    const double radius = m_problem.shell.inner,
                 section = m_problem.shell.cylinder ? 2 * radius : pi * radius * radius;
    for (Eigen::Index w = 0; w < waves; ++w) {
        const double E = m_problem.planeWaves[size_t(w)].field;
        const auto at = n + dipoles + w;
        all(at, at) = onwards(m, f, int(w), r) * (c0 / (2 * pi * f * E * E * section));
    }
    const double k = 2 * pi * f / c0, alone = mu0 * c0 * k * k / (6 * pi);
    for (Eigen::Index d = n; d < n + dipoles; ++d)
        all(d, d) = (r.voltage(d, d) / r.current(d, d)).real() / alone;
    return all;
}

const WaveDrivenSolver::Model& WaveDrivenSolver::at(int order) const
{
    if (m_next && order == nextOrder())
        return *m_next;
    for (const Model& m : m_models)
        if (m.order == order)
            return m;
    YH_ASSERT(false, "order was solved");
    return m_models.back();
}

const PortMode& WaveDrivenSolver::mode(int order, int channel) const
{
    return at(order).modes[size_t(channel)];
}

int WaveDrivenSolver::channelOf(int port, int mode) const
{
    for (size_t k = 0; k < m_channels.size(); ++k)
        if (m_channels[k].port == port && m_channels[k].mode == mode)
            return int(k);
    return -1;
}

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

Eigen::MatrixXd WaveDrivenSolver::spread(const Model& m, double f) const
{
    std::vector<Eigen::VectorXd> columns;
    for (const PortMode& mode : m.modes)
        columns.push_back(mode.spread(f));
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
    const Eigen::MatrixXd shares = spread(m, f);
    const auto loads = shares.rows(), own = shares.cols(), waves = drive.cols() - loads;
    Eigen::MatrixXcd all = Eigen::MatrixXcd::Zero(drive.cols(), own + waves);
    all.topLeftCorner(loads, own) = shares.cast<Complex>();
    all.bottomRightCorner(waves, waves).setIdentity();
    return {drive * all, all.transpose() * self * all};
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
    const Eigen::MatrixXd shares = spread(m, f);
    Eigen::MatrixXcd drive =
        (m.drive.cast<Complex>() - share * wallDrive(m, f).cast<Complex>()) * shares;
    const auto waves = Eigen::Index(m.lit.size()), before = drive.cols();
    Eigen::MatrixXcd added, self;
    if (m.next) {
        NextDrive next = nextDrive(m, f);
        added = std::move(next.drive);
        self = std::move(next.self);
        drive -= added.leftCols(before);
    }
    Eigen::MatrixXcd sides(drive.rows(), before + waves);
    sides.leftCols(before) = drive;
    for (Eigen::Index w = 0; w < waves; ++w)
        sides.col(before + w) = m.lit[size_t(w)].load * litWeights(f);
    if (m.next)
        sides.rightCols(waves) -= added.middleCols(before, waves);
    const Eigen::MatrixXcd X = fem::solved(small(m, f), sides), lit = X.rightCols(waves);
    Eigen::MatrixXcd x = X.leftCols(before);
    const Eigen::VectorXcd z0 = impedances(m, f);
    Eigen::MatrixXcd Z = jw * (drive.transpose() * x) +
                         jw * share * (shares.transpose() * m.wallSelf * shares).cast<Complex>();
    if (m.next)
        Z += jw * self.topLeftCorner(before, before);
    if (m.periodic->copies() == 2) {
        const auto own = before / 2;
        Z = Eigen::MatrixXcd(Z.topLeftCorner(own, own) +
                             Complex(0, 1) * Z.bottomLeftCorner(own, own));
        x = Eigen::MatrixXcd((x.leftCols(own) - Complex(0, 1) * x.rightCols(own)) / std::sqrt(2));
    }
    const auto n = z0.size(), dipoles = Z.cols() - n;
    Response r;
    Eigen::MatrixXcd induced = (drive.transpose() * lit).topRows(Z.rows());
    if (m.next)
        induced += self.block(0, before, Z.rows(), waves);
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
            r.current.block(0, n, n, dipoles) = -lu.solve(Eigen::MatrixXcd(
                Z.topRightCorner(n, dipoles) * r.current.block(n, n, dipoles, dipoles)));
        if (waves > 0)
            r.current.topRightCorner(n, waves) = -lu.solve(Eigen::MatrixXcd(induced.topRows(n)));
    }
    r.field = jw * (x * r.current);
    r.field.rightCols(waves) += lit;
    r.voltage = Z * r.current;
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
    // A dipole gives what its current meets; a wave comes in with half a watt.
    const double incident =
        channel < ports ? 0.5 : 0.5 * (std::conj(I(channel)) * r.voltage(channel, channel)).real();
    auto form = [&](const Eigen::MatrixXd& A) {
        return (y.adjoint() * (A.cast<Complex>() * y))(0).real();
    };
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
    auto form = [&](const Eigen::MatrixXd& A) {
        return (y.adjoint() * (A.cast<Complex>() * y))(0).real();
    };
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
    const Eigen::MatrixXd shares = spread(m, f), crossed = wallDrive(m, f) * shares,
                          self = shares.transpose() * m.wallSelf * shares;
    const double square =
        form(wallForm(m, f)) -
        2 * ((jw * J).adjoint() * (crossed.transpose().cast<Complex>() * y))(0).real() +
        std::norm(jw) * (J.adjoint() * (self.cast<Complex>() * J))(0).real();
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

std::vector<double> WaveDrivenSolver::combine(const Model& m, const Eigen::VectorXd& y) const
{
    // What the wires carry comes behind the field's functions.
    const auto& basis = basisOf(m).basis;
    std::vector<double> out(
        m_problem.wires.empty() ? basis.front().size() : size_t(m_space.count(m.order)), 0.0);
    for (size_t k = 0; k < basis.size(); ++k)
        for (size_t i = 0; i < out.size(); ++i)
            out[i] += y(Eigen::Index(k)) * basis[k][i];
    return out;
}

void WaveDrivenSolver::sample(int cell, const Point& xi, double* values) const
{
    const fem::EdgePoint point(m_space, order(), cell, xi);
    const auto piece = size_t(m_mesh.piece[size_t(cell)]);
    const double toH = m_problem.inverseMu[piece].constant.xx / (2 * pi * m_problem.shown * mu0);
    auto a = point.of(m_shown[0]), b = point.of(m_shown[1]);
    if (m_problem.isSlanted()) {
        // E = exp(-j q . r) u, of which b is minus the imaginary part; curl E follows from u's.
        const Point q = (2 * pi * m_problem.shown / c0) * m_problem.slant,
                    place = mesh::Geometry(m_mesh, cell).at(xi);
        const double c = std::cos(dot(q, place)), s = std::sin(dot(q, place));
        auto turned = [&](const Point& re, const Point& ahead) {
            return std::pair{c * re - s * ahead, c * ahead + s * re};
        };
        const Point re = a.curl - cross(q, b.value), ahead = b.curl + cross(q, a.value);
        std::tie(a.curl, b.curl) = turned(re, ahead);
        std::tie(a.value, b.value) = turned(a.value, b.value);
    }
    // A quarter ahead is -Im. H = j curl E / (omega mu): its real part is -Im(curl E).
    const Point list[4] = {a.value, b.value, toH * b.curl, (-toH) * a.curl};
    for (const Point& p : list) {
        *values++ = p.x;
        *values++ = p.y;
        *values++ = p.z;
    }
}

std::vector<double> WaveDrivenSolver::indicator(bool) const
{
    // What the highest order adds to the fields of the order below, in energy, for every channel at
    // three frequencies of the band.
    std::vector<double> eta(size_t(m_mesh.cellCount()), 0.0);
    if (m_models.size() < 2 && !m_next)
        return std::vector<double>(eta.size(), 1.0);
    if (m_next)
        return withoutDipoles(m_nextEta);
    const Model &high = m_models.back(), &low = m_models[m_models.size() - 2];
    for (const double share : {0.1, 0.5, 0.9}) {
        const double f = m_problem.low + share * (m_problem.high - m_problem.low),
                     k = 2 * pi * f / c0;
        const Eigen::MatrixXcd y = response(high, f).field, x = response(low, f).field;
        for (Eigen::Index c = 0; c < y.cols(); ++c) {
            Shown rests = fieldOf(high, y.col(c));
            const Shown lowers = fieldOf(low, x.col(c));
            for (const size_t part : {0U, 1U}) {
                auto& rest = rests[part];
                const auto& lower = lowers[part];
                const auto whole = fem::energyByCell(m_space, order(), m_elements.mass, rest);
                for (size_t i = 0; i < lower.size(); ++i)
                    rest[i] -= lower[i];
                const auto curls = fem::energyByCell(m_space, order(), m_elements.curl, rest),
                           masses = fem::energyByCell(m_space, order(), m_elements.mass, rest);
                const double scale =
                    1 / (k * k * std::accumulate(whole.begin(), whole.end(), 1e-300));
                for (size_t t = 0; t < eta.size(); ++t)
                    eta[t] += scale * (curls[t] + k * k * masses[t]);
            }
        }
    }
    return withoutDipoles(std::move(eta));
}

std::vector<double> WaveDrivenSolver::withoutDipoles(std::vector<double> eta) const
{
    // Close to a dipole its own static field has no limit, and no figure depends on it.
    constexpr double nearShare = 0.1;
    for (const PointDipole& d : m_problem.dipoles)
        for (int t = 0; t < m_mesh.cellCount(); ++t) {
            const mesh::Geometry g(m_mesh, t);
            if (norm(g.at(g.centre()) - d.at) < nearShare * c0 / m_problem.high)
                eta[size_t(t)] = 0;
        }
    return eta;
}

bool WaveDrivenSolver::bounds(int side) const
{
    // Where a medium goes on, and in the absorbing shell, it does not matter where the side lies.
    const auto& pieces = m_partition.sides()[size_t(side)].pieces;
    const auto isShell = [this](int p) {
        return m_problem.shell.present && p == m_problem.shell.piece;
    };
    if (std::any_of(pieces.begin(), pieces.end(), isShell))
        return false;
    if (pieces.size() != 2 || m_problem.sides[size_t(side)] >= 0)
        return true;
    const auto a = size_t(pieces[0]), b = size_t(pieces[1]);
    return m_problem.eps[a].constant.xx != m_problem.eps[b].constant.xx ||
           m_problem.inverseMu[a].constant.xx != m_problem.inverseMu[b].constant.xx ||
           m_problem.loss[a] != m_problem.loss[b] || m_problem.sigma[a] != m_problem.sigma[b];
}

double WaveDrivenSolver::geometryError() const
{
    // Share of the energy between quadratic and exact borders, as for resonances.
    double moved = 0, whole = 0;
    const double k = 2 * pi * m_problem.shown / c0;
    for (const auto& field : m_shown)
        for (const double e : fem::energyByCell(m_space, order(), m_elements.mass, field))
            whole += e;
    for (int s = 0; s < m_mesh.sideCount(); ++s) {
        const int tag = m_mesh.sideTag[size_t(s)], t = cellBeside(s);
        if (tag < 0 || m_partition.sides()[size_t(tag)].flat || !bounds(tag))
            continue;
        const mesh::Geometry g(m_mesh, t);
        if (!g.curved)
            continue;
        const int side = m_mesh.localSide(t, s);
        const double offset = borderOffset(m_mesh, m_partition, g, side, s, t);
        const Point xi = g.onSide(side, {1.0 / 3, 1.0 / 3});
        const auto piece = size_t(m_mesh.piece[size_t(t)]);
        for (const auto& field : m_shown) {
            const auto v = m_space.at(field, order(), t, xi);
            moved +=
                0.5 * offset *
                std::abs(dot(v.value, v.value) * m_problem.eps[piece].constant.xx -
                         dot(v.curl, v.curl) * m_problem.inverseMu[piece].constant.xx / (k * k));
        }
    }
    return whole > 0 ? moved / whole : 0;
}

}  // namespace yh::physics
