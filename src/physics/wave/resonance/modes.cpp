// Resonances: eigenvalues k^2 of the fields between walls.
#include "base/clock.h"
#include "fem/quadrature.h"
#include "physics/common/constants.h"
#include "physics/wave/common/wave.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yh::physics {

WaveModesSolver::WaveModesSolver(const WaveProblem& problem, const mesh::Mesh& mesh,
                                 const shape::Partition& partition, int order, base::Progress&)
    : m_problem(problem),
      m_mesh(mesh),
      m_partition(partition),
      m_space(mesh, order, problem.kind),
      m_scalar(mesh, order),
      m_locator(mesh)
{
    const double start = base::seconds();
    m_elements = fem::edgeElements(m_space, problem.inverseMu, problem.eps, problem.measure);
    if (problem.shell.present) {
        std::vector<char> only;
        for (const int piece : mesh.piece)
            only.push_back(piece == problem.shell.piece);
        const auto media = problem.absorbingMedia();
        m_absorbing = fem::edgeElements(m_space, media.inverseMu, media.eps, problem.measure, only);
    } else if (problem.kind.parts == fem::EdgeKind::turning)
        m_gradients = fem::gradientElements(m_space, m_scalar, m_elements.mass);
    else if (problem.kind.hasEdges())
        m_gradients = fem::stiffness(m_scalar, problem.eps, problem.measure);
    m_counters.assembleSeconds = base::seconds() - start;
    for (int k = 1; k <= problem.modes; ++k) {
        const std::string mode = problem.modes == 1 ? "" : " " + std::to_string(k);
        m_quantities.push_back({"E" + mode, "electric field of mode" + mode, "V/m", 3});
        m_quantities.push_back({"H" + mode, "magnetic field of mode" + mode, "A/m", 3});
    }
}

WaveModesSolver::Solved WaveModesSolver::closedResonances(int p, base::Progress& progress)
{
    const double kFrom = 2 * pi * m_problem.from / c0;
    ResonanceSearch search{m_space, m_scalar, m_elements, m_gradients, m_walls, m_ranks};
    search.order = p;
    search.count = m_problem.modes;
    search.from = kFrom * kFrom;
    search.size = m_partition.size();
    search.rough = p < order();
    if (!m_solved.empty()) {
        search.knownValues = &m_solved.back().k2;
        search.knownFields = &m_solved.back().field;
    }
    auto found = findResonances(search, m_counters, progress);
    return {p, std::move(found.k2), std::move(found.field), {}};
}

void WaveModesSolver::solveLossy()
{
    constexpr double small = 0.01;
    bool lossy = !m_problem.dispersive.empty();
    for (int k = 0; k < m_problem.modes; ++k)
        lossy = lossy || losses(order(), k).media > small;
    for (Solved& s : m_solved)
        if (lossy)
            s.lossy = lossyValues(s);
}

void WaveModesSolver::solve(int lowestOrder, base::Progress& progress)
{
    m_solved.clear();
    const double start = base::seconds();
    m_ranks = fem::cornerRanks(m_mesh);
    m_counters.orderSeconds = base::seconds() - start;
    m_walls = wallSides(m_problem, m_mesh);
    for (int p = lowestOrder; p <= order(); ++p) {
        progress.check();
        if (m_problem.shell.present) {
            m_solved.push_back(
                openResonances(p, m_solved.empty() ? nullptr : &m_solved.back(), progress));
            continue;
        }
        if (!m_problem.periodic.empty()) {
            m_solved.push_back(
                periodicResonances(p, m_solved.empty() ? nullptr : &m_solved.back(), progress));
            continue;
        }
        m_solved.push_back(closedResonances(p, progress));
    }
    if (int(m_solved.back().k2.size()) < m_problem.modes)
        throw base::Error(5025, m_problem.shell.present
                                    ? "fewer resonances were found near that frequency; look for "
                                      "fewer, or at a higher frequency"
                                    : "the mesh is too coarse for that many resonances");
    if (!m_solved.back().imaginary.empty()) {
        followComplex();
        return;
    }
    follow();
    solveLossy();
}

std::vector<char> WaveModesSolver::freeFunctions(int order) const
{
    std::vector<char> isFree(size_t(m_space.count(order)), 1);
    for (const int side : m_walls)
        for (const int i : m_space.onSide(side, order))
            isFree[size_t(i)] = 0;
    return isFree;
}

/// Brings the modes of lower orders into the order of those of the highest by their likeness.
void WaveModesSolver::follow()
{
    const Solved& best = m_solved.back();
    std::vector<std::vector<double>> weighted;  // M times the best fields
    for (const auto& f : best.field)
        weighted.push_back(fem::product(m_space, order(), m_elements.mass, f));
    for (Solved& s : m_solved) {
        if (&s == &best)
            continue;
        Solved sorted{s.order, {}, {}};
        std::vector<char> used(s.k2.size(), 0);
        for (size_t k = 0; k < best.k2.size(); ++k) {
            double most = -1, sign = 1;
            size_t which = std::min(k, s.k2.size() - 1);
            for (size_t j = 0; j < s.k2.size(); ++j) {
                const double like = std::inner_product(s.field[j].begin(), s.field[j].end(),
                                                       weighted[k].begin(), 0.0);
                if (!used[j] && std::abs(like) > most) {
                    most = std::abs(like);
                    sign = like < 0 ? -1 : 1;
                    which = j;
                }
            }
            used[which] = 1;
            sorted.k2.push_back(s.k2[which]);
            sorted.field.push_back(s.field[which]);
            for (double& v : sorted.field.back())
                v *= sign;
        }
        s = std::move(sorted);
    }
}

const WaveModesSolver::Solved& WaveModesSolver::at(int order) const
{
    for (const Solved& s : m_solved)
        if (s.order == order)
            return s;
    YH_ASSERT(false, "order was solved");
    return m_solved.back();
}

double WaveModesSolver::frequency(int order, int mode) const
{
    const Solved& s = at(order);
    return c0 / (2 * pi) *
           (s.lossy.empty() ? std::sqrt(s.k2[size_t(mode)])
                            : std::sqrt(s.lossy[size_t(mode)]).real());
}

const std::vector<double>& WaveModesSolver::wallCurrents(const Solved& s, int mode) const
{
    s.currents.resize(s.field.size());
    auto& mine = s.currents[size_t(mode)];
    if (mine.empty()) {
        // With field on both sides of a sheet the residual holds the sum of both currents only.
        const bool sheets =
            !s.imaginary.empty() || std::any_of(m_walls.begin(), m_walls.end(), [this](int side) {
                return m_mesh.sideCells[size_t(side)][1] >= 0;
            });
        mine = sheets ? currentsByField(s, mode) : currentsByResidual(s, mode);
    }
    return mine;
}

/// What the functions of the walls, which the field was not solved for, miss of the equation is the
/// current along the walls tested with them. This converges like the frequency; the curl of the
/// field itself loses an order.
/// Source: Carey, Chow and Seager, Comput. Methods Appl. Mech. Eng. 50 (1985) 107, for fluxes of
/// scalar fields (from memory).
std::vector<double> WaveModesSolver::currentsByResidual(const Solved& s, int mode) const
{
    const auto& field = s.field[size_t(mode)];
    auto residual = fem::product(m_space, s.order, m_elements.curl, field);
    const auto mass = fem::product(m_space, s.order, m_elements.mass, field);
    std::vector<char> onWall(field.size(), 0);
    for (const int side : m_walls)
        for (const int i : m_space.onSide(side, s.order))
            onWall[size_t(i)] = 1;
    const auto numbering = fem::byRank(m_space.functionRanks(s.order, m_ranks), onWall);
    const auto sides = fem::sideMass(m_space, s.order, m_walls, m_problem.measure);
    const auto S = fem::sumOf(sides, numbering);
    std::vector<double> current(size_t(S.size)), all(field.size(), 0.0);
    for (size_t i = 0; i < current.size(); ++i) {
        const auto f = size_t(numbering.function[i]);
        current[i] = residual[f] - s.k2[size_t(mode)] * mass[f];
    }
    fem::Cholesky factor;
    factor.analyse(S);
    factor.factorise(S);
    factor.solve(current, 1);
    for (size_t i = 0; i < current.size(); ++i)
        all[size_t(numbering.function[i])] = current[i];
    std::vector<double> sum(m_problem.walls.size(), 0.0);
    for (const fem::SideMatrix& m : sides) {
        const int wall = wallOf(m.side);
        const size_t n = m.number.size();
        for (size_t i = 0; i < n && wall >= 0; ++i)
            for (size_t j = 0; j < n; ++j)
                sum[size_t(wall)] +=
                    all[size_t(m.number[i])] * m.value[i * n + j] * all[size_t(m.number[j])];
    }
    return sum;
}

std::vector<double> WaveModesSolver::currentsByField(const Solved& s, int mode) const
{
    std::vector<double> sum(m_problem.walls.size(), 0.0);
    fem::onSides(
        m_mesh, m_problem.measure, 2 * s.order + 2,
        [&](int side, int) { return wallOf(side) >= 0; },
        [&](int side, int t, const Point& xi, const Point&, const Point& n) {
            const auto piece = size_t(m_mesh.piece[size_t(t)]);
            const double area = norm(n), a = m_problem.inverseMu[piece].constant.xx;
            for (const auto* part : {&s.field, &s.imaginary}) {
                if (part->empty())
                    continue;
                const Point along = cross(
                    (1 / area) * n, a * m_space.at((*part)[size_t(mode)], s.order, t, xi).curl);
                sum[size_t(wallOf(side))] += area * dot(along, along);
            }
        });
    return sum;
}

WaveModesSolver::Losses WaveModesSolver::losses(int order, int mode) const
{
    // With integral of eps E^2 = 1 the stored energy is eps0 / 2, and H = curl E / (omega mu0 mu).
    // The media turn omega eps'' E^2 / 2 into heat, the walls R H^2 / 2.
    const Solved& s = at(order);
    const double f = frequency(order, mode), omega = 2 * pi * f;
    double stored = eps0 / 2;
    Losses out;
    double heat = 0;
    const auto& currents = wallCurrents(s, mode);
    for (size_t w = 0; w < currents.size(); ++w)
        heat += 0.5 * m_problem.walls[w].resistance(f) * currents[w] / std::pow(omega * mu0, 2);
    if (!m_problem.dispersive.empty()) {
        // Half of the electric energy of a medium is eps + (omega / 2) d eps / d omega, half of all
        // of it; Landau and Lifshitz, Electrodynamics of Continuous Media, section 80 (from
        // memory).
        const auto energy = energies(s, mode);
        double kept = 0;
        for (size_t t = 0; t < energy.size(); ++t) {
            const auto* d = m_problem.dispersiveOf(m_mesh.piece[t]);
            const double step = 1e-5 * f;
            auto eps = [&](double at) { return d->eps(at, roomTemperature).real(); };
            kept += energy[t] *
                    (d ? (eps(f) + f * (eps(f + step) - eps(f - step)) / (4 * step)) / d->reference
                       : 1.0);
        }
        stored *= kept;
    }
    out.walls = heat / (omega * stored);
    if (!s.lossy.empty()) {
        const std::complex<double> k = std::sqrt(s.lossy[size_t(mode)]);
        const double all = 2 * k.imag() / k.real();
        out.media = s.imaginary.empty() ? all : mediaLoss(s, mode, f);
        out.radiation = all - out.media;
        return out;
    }
    out.media = mediaLoss(s, mode, f);
    return out;
}

std::vector<double> WaveModesSolver::energies(const Solved& s, int mode) const
{
    auto sum = fem::energyByCell(m_space, s.order, m_elements.mass, s.field[size_t(mode)]);
    if (s.imaginary.empty())
        return sum;
    const auto more =
        fem::energyByCell(m_space, s.order, m_elements.mass, s.imaginary[size_t(mode)]);
    for (size_t t = 0; t < sum.size(); ++t)
        sum[t] = m_mesh.piece[t] == m_problem.shell.piece ? 0 : sum[t] + more[t];
    return sum;
}

double WaveModesSolver::mediaLoss(const Solved& s, int mode, double frequency) const
{
    if (std::none_of(m_problem.activePieces.begin(), m_problem.activePieces.end(),
                     [this](int f) { return m_problem.takesPower(size_t(f)); }))
        return 0;
    const auto energy = energies(s, mode);
    double sum = 0;
    for (size_t t = 0; t < energy.size(); ++t) {
        const auto piece = size_t(m_mesh.piece[t]);
        const double conduction =
            m_problem.sigma[piece] / (2 * pi * frequency * eps0 * m_problem.eps[piece].constant.xx);
        sum += energy[t] * (m_problem.loss[piece] + conduction);
    }
    return sum;
}

double WaveModesSolver::rOverQ(int order, int mode, const Point& a, const Point& b) const
{
    const Solved& s = at(order);
    const auto& field = s.field[size_t(mode)];
    // A fixed rule of many short intervals: cells end anywhere along the line.
    constexpr int intervals = 400;
    static const auto rule = fem::gaussLegendre(2);
    double voltage = 0, ahead = 0;
    for (int i = 0; i < intervals; ++i)
        for (const auto& q : rule) {
            const auto hit = m_locator.find(a + ((i + q.x) / intervals) * (b - a));
            if (hit.cell < 0)
                continue;
            const fem::EdgePoint point(m_space, order, hit.cell, hit.xi);
            voltage += q.w / intervals * dot(point.of(field).value, b - a);
            if (!s.imaginary.empty())
                ahead += q.w / intervals * dot(point.of(s.imaginary[size_t(mode)]).value, b - a);
        }
    const double omega = 2 * pi * frequency(order, mode), stored = m_problem.scale * eps0 / 2;
    return (voltage * voltage + ahead * ahead) / (2 * omega * stored);
}

std::string WaveModesSolver::shownFor() const
{
    return base::format(m_problem.stored, base::dim::energy, 4) + " of stored energy " +
           (m_problem.shell.present ? "inside the absorbing shell" : "in the whole device");
}

void WaveModesSolver::sample(int cell, const Point& xi, double* values) const
{
    const Solved& s = m_solved.back();
    const fem::EdgePoint point(m_space, s.order, cell, xi);
    const auto piece = size_t(m_mesh.piece[size_t(cell)]);
    const double mu = 1 / m_problem.inverseMu[piece].constant.xx,
                 amplitude = std::sqrt(2 * m_problem.stored / (eps0 * m_problem.scale));
    for (int k = 0; k < m_problem.modes; ++k) {
        const auto v = point.of(s.field[size_t(k)]);
        const double toH = amplitude / (c0 * std::sqrt(s.k2[size_t(k)]) * mu0 * mu);
        for (const auto& [x, scale] : {std::pair{v.value, amplitude}, {v.curl, toH}}) {
            *values++ = scale * x.x;
            *values++ = scale * x.y;
            *values++ = scale * x.z;
        }
    }
}

std::vector<double> WaveModesSolver::geometryShares(int mode) const
{
    // A moved wall changes the energies by those of the content it moves through (Slater, Microwave
    // Electronics, 1950, from memory): half of the relative change of the frequency squared.
    std::vector<double> share(size_t(m_mesh.cellCount()), 0.0);
    const Solved& s = m_solved.back();
    // Where the shell begins does not matter.
    auto all = [this](int side) {
        return !m_problem.shell.present ||
               std::find(m_problem.shell.sphere.begin(), m_problem.shell.sphere.end(), side) ==
                   m_problem.shell.sphere.end();
    };
    overCurvedSides(m_mesh, m_partition, all, [&](const CurvedSide& c, const mesh::Geometry& g) {
        if (m_problem.shell.present && m_mesh.piece[size_t(c.cell)] == m_problem.shell.piece)
            return;
        const fem::EdgePoint point(m_space, s.order, c.cell, c.middle);
        double squares[2] = {0, 0};
        for (const auto* part : {&s.field, &s.imaginary}) {
            if (part->empty())
                continue;
            const auto v = point.of((*part)[size_t(mode)]);
            squares[0] += dot(v.value, v.value);
            squares[1] += dot(v.curl, v.curl);
        }
        const auto piece = size_t(m_mesh.piece[size_t(c.cell)]);
        const double electric = squares[0] * m_problem.eps[piece].constant.xx,
                     magnetic =
                         squares[1] * m_problem.inverseMu[piece].constant.xx / s.k2[size_t(mode)];
        share[size_t(c.cell)] += 0.5 * std::abs(electric - magnetic) * c.offset *
                                 measureAt(m_problem.measure, g.at(c.middle));
    });
    return share;
}

double WaveModesSolver::geometryError() const
{
    double most = 0;
    for (int k = 0; k < std::min(m_problem.asked, modeCount()); ++k) {
        const auto shares = geometryShares(k);
        most = std::max(most, std::accumulate(shares.begin(), shares.end(), 0.0));
    }
    return most;
}

std::vector<double> WaveModesSolver::indicator(bool) const
{
    // What the highest order adds to the field of the order below, in energy. Fields of one
    // frequency may turn among each other: the best combination of the lower ones is taken off.
    std::vector<double> eta(size_t(m_mesh.cellCount()), 0.0);
    const Solved& high = m_solved.back();
    const auto asked = std::min(m_problem.asked, modeCount());
    for (int k = 0; k < asked; ++k) {
        auto rest = high.field[size_t(k)];
        if (!high.imaginary.empty()) {
            auto both = restOf(k);
            rest = std::move(both.field[0]);
            const auto curls =
                           fem::energyByCell(m_space, order(), m_elements.curl, both.imaginary[0]),
                       masses =
                           fem::energyByCell(m_space, order(), m_elements.mass, both.imaginary[0]);
            for (size_t t = 0; t < eta.size(); ++t)
                eta[t] += curls[t] / high.k2[size_t(k)] + masses[t];
        } else if (m_solved.size() > 1) {
            const auto weighted = fem::product(m_space, order(), m_elements.mass, rest);
            for (const auto& f : m_solved[m_solved.size() - 2].field) {
                const double like = std::inner_product(f.begin(), f.end(), weighted.begin(), 0.0);
                for (size_t i = 0; i < f.size(); ++i)
                    rest[i] -= like * f[i];
            }
        }
        const auto curls = fem::energyByCell(m_space, order(), m_elements.curl, rest),
                   masses = fem::energyByCell(m_space, order(), m_elements.mass, rest),
                   shares = geometryShares(k);
        for (size_t t = 0; t < eta.size(); ++t)
            eta[t] += curls[t] / high.k2[size_t(k)] + masses[t] + shares[t];
    }
    return eta;
}

std::vector<SingularCorner> WaveModesSolver::singularCorners() const
{
    return {};
}

std::vector<Axis> WaveModesSolver::axes() const
{
    std::vector<std::string> labels;
    for (int k = 0; k < m_problem.modes; ++k)
        labels.push_back(base::format(frequency(order(), k), base::dim::frequency, 5));
    return {modeAxis(quantities(), "E", labels)};
}

}  // namespace yh::physics
