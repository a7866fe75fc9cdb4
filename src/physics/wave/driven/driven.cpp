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

double WaveDrivenSolver::impedance(int order, size_t channel, double f) const
{
    const auto& port = m_problem.ports[size_t(m_channels[channel].port)];
    const PortMode& m = mode(order, int(channel));
    const bool isLine = m.isLine();
    return (isLine ? port.whole : 1.0) * m.impedance(f, m_problem.portEps(port, f), port.mu);
}

double WaveDrivenSolver::cutoff(size_t channel, double f) const
{
    const auto& port = m_problem.ports[size_t(m_channels[channel].port)];
    return mode(order(), int(channel)).cutoffFrequency(m_problem.portEps(port, f), port.mu);
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

std::optional<double> WaveDrivenSolver::scout(base::Progress& progress)
{
    m_onlyMiddle = true;
    solve(order(), progress);
    m_onlyMiddle = false;
    if (!m_next)
        return std::nullopt;
    const double f = (m_problem.low + m_problem.high) / 2;
    return (judged(*m_next, f) - judged(m_models.back(), f)).cwiseAbs().maxCoeff();
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

std::string WaveDrivenSolver::shownFor() const
{
    const WaveProblem& w = m_problem;
    std::string drive;
    if (!w.ports.empty())
        drive = "a wave of " + base::format(w.ports.front().drive, base::dim::power, 4) +
                " into port " + w.ports.front().name;
    else if (!w.dipoles.empty())
        drive = "dipole " + w.dipoles.front().name;
    else
        drive = "plane wave " + w.planeWaves.front().name;
    return drive + " at " + base::format(w.shown, base::dim::frequency, 6);
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
