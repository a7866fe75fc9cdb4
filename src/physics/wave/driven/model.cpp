// The small model of driven waves: the solutions at a few frequencies, and what projecting the
// matrices on them gives.
#include "physics/wave/driven/model.h"

#include "base/clock.h"
#include "fem/dense.h"
#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

namespace yh::physics {

namespace {

using Complex = std::complex<double>;

double product(const std::vector<double>& a, const std::vector<double>& b)
{
    return std::inner_product(a.begin(), a.end(), b.begin(), 0.0);
}

/** How far two matrices differ in their largest entry. */
double distance(const Eigen::MatrixXcd& a, const Eigen::MatrixXcd& b)
{
    double most = 0;
    for (Eigen::Index i = 0; i < a.size(); ++i)
        if (std::isfinite(std::abs(a(i) - b(i))))
            most = std::max(most, std::abs(a(i) - b(i)));
    return most;
}

}  // namespace

void WaveDrivenSolver::markDirect(int order, std::vector<char>& direct) const
{
    constexpr double large = 1.6;  // of wave number times length
    const double wave = 2 * pi * m_problem.high / c0;
    const int local = m_space.localCount(order);
    int number[fem::mostEdgeLocal];
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const auto piece = size_t(m_mesh.piece[size_t(t)]);
        double longest = 0;
        for (const int e : m_mesh.edgesOf(t)) {
            const auto& ends = m_mesh.edges[size_t(e)];
            longest = std::max(
                longest, norm(m_mesh.vertices[size_t(ends[0])] - m_mesh.vertices[size_t(ends[1])]));
        }
        const double index =
            std::sqrt(m_problem.eps[piece].constant.xx / m_problem.inverseMu[piece].constant.xx);
        if (int(piece) != m_problem.shell.piece && wave * index * longest < large)
            continue;
        m_space.local(t, order, number);
        for (int i = 0; i < local; ++i)
            direct[size_t(number[i])] = 1;
    }
}

void WaveDrivenSolver::findBlocks(int order, const fem::Numbering& numbering,
                                  std::vector<char>& lowest, fem::EdgeBlocks& blocks) const
{
    // The lowest order sees neither the steep fields of the absorbing shell nor waves in cells that
    // are large against the wavelength: those are few, and all their functions are solved directly.
    // So are currents of wires.
    std::vector<char> direct(numbering.place.size(), 1);
    std::fill_n(direct.begin(), m_space.count(order), 0);
    std::fill_n(direct.begin(), m_space.count(1), 1);
    markDirect(order, direct);
    for (const int i : numbering.function)
        lowest.push_back(direct[size_t(i)]);
    std::vector<int> first, list;
    m_space.stars(order, first, list);
    for (size_t e = 0; e + 1 < first.size(); ++e) {
        for (int k = first[e]; k < first[e + 1]; ++k)
            if (const int place = numbering.place[size_t(list[size_t(k)])];
                place >= 0 && !lowest[size_t(place)])
                blocks.list.push_back(place);
        if (int(blocks.list.size()) > blocks.start.back())
            blocks.start.push_back(int(blocks.list.size()));
    }
}

double WaveDrivenSolver::shareOf(const PointDipole& d) const
{
    double share = 1;
    for (const auto& mirror : m_problem.mirrors) {
        const double x = mirror.axis == 0 ? d.at.x : mirror.axis == 1 ? d.at.y : d.at.z;
        if (std::abs(x) < 1e-9 * m_partition.size())
            share /= 2;
    }
    if (std::hypot(d.at.x, d.at.y) < 1e-9 * m_partition.size())
        share /= m_problem.wedges;
    return share;
}

std::vector<fem::SideLoad> WaveDrivenSolver::drives(const std::vector<PortMode>& modes,
                                                    const fem::EdgeSpace& space, int order,
                                                    const PeriodicFunctions& periodic) const
{
    std::vector<fem::SideLoad> list;
    for (const PortMode& m : modes) {
        for (const auto& harmonic : m.harmonics)
            list.push_back(periodic.folded(m.number, harmonic));
        if (m.harmonics.empty() && m.kind != PortMode::Kind::hybrid)
            list.push_back(periodic.folded({m.number, m.weight}));
        for (const auto& weight : m.weights)
            list.push_back(periodic.folded({m.number, weight}));
    }
    const mesh::Locator locator(m_mesh);
    for (const PointDipole& d : m_problem.dipoles) {
        const auto hit = locator.find(d.at);
        if (hit.cell < 0)
            throw base::Error(6223, "there is no field at the place of this dipole",
                              {d.line, "at", 0});
        const double share = shareOf(d);
        const fem::EdgePoint at(space, order, hit.cell, hit.xi);
        fem::SideLoad load;
        for (int i = 0; i < at.count(); ++i) {
            load.number.push_back(at.number(i));
            load.value.push_back(share * dot(at.value(i), d.direction));
        }
        list.push_back(periodic.folded(load));
    }
    for (size_t own = list.size(), d = 0; d < own && periodic.copies() == 2; ++d)
        list.push_back(periodic.timesJ(list[d]));
    return list;
}

WaveDrivenSolver::Builder::Builder(WaveDrivenSolver& solver, Model& model,
                                   const fem::SymmetricFamily& family,
                                   const fem::Numbering& numbering, Walls& walls)
    : m_solver(solver),
      m_problem(solver.m_problem),
      m_model(model),
      m_family(family),
      m_numbering(numbering),
      m_walls(walls),
      m_unknowns(size_t(family.size)),
      m_loads(solver.drives(model.modes, solver.m_space, model.order, *model.periodic))
{
    for (const auto& m : m_loads) {
        m_drive.emplace_back(m_unknowns, 0.0);
        for (size_t i = 0; i < m.number.size(); ++i)
            if (const int at =
                    numbering.place[withWires(m.number[i], solver.m_space.count(model.order))];
                at >= 0)
                m_drive.back()[size_t(at)] += m.value[i];
    }
    model.reduced.assign(partCount + solver.m_running.size(), {});
    wallDrives();
    incidentLoads();
    constexpr size_t manyUnknowns = 400000;
    if (solver.m_isComplex && solver.m_mesh.dimension == 3 && m_unknowns >= manyUnknowns &&
        model.order > 1 && model.periodic->none())
        solver.findBlocks(model.order, numbering, m_lowest, m_blocks);
}

std::vector<int> WaveDrivenSolver::Builder::portsOfDrives() const
{
    std::vector<int> portOf;
    for (size_t k = 0; k < m_model.modes.size(); ++k)
        portOf.insert(portOf.end(), std::max<size_t>(1, m_model.modes[k].places.size()),
                      m_solver.m_channels[k].port);
    const PeriodicFunctions& periodic = *m_model.periodic;
    portOf.resize(m_loads.size() / size_t(periodic.copies()), -1);
    if (periodic.copies() == 2)
        portOf.insert(portOf.end(), portOf.begin(), portOf.end());
    return portOf;
}

void WaveDrivenSolver::Builder::wallDrives()
{
    const auto wallSize = size_t(m_walls.products.size), drives = m_loads.size();
    const std::vector<int> portOf = portsOfDrives();
    const PeriodicFunctions& periodic = *m_model.periodic;
    for (size_t d = 0; d < drives; ++d) {
        const auto& m = m_loads[d];
        std::vector<double> u(m_walls.rows(), 0.0);
        for (size_t i = 0; i < m.number.size(); ++i) {
            const int at = m.number[i] < 0 ? -1 : m_walls.numbering.place[size_t(m.number[i])];
            if (at < 0)
                continue;
            double first = 1;
            if (m_walls.isTwoSided[size_t(at)]) {
                constexpr double neither = 0.5;
                const int real = at - (size_t(m.number[i]) >= periodic.count() ? 1 : 0);
                const bool known =
                    portOf[d] >= 0 && m_walls.portShare[size_t(portOf[d])].count(real);
                first = known ? m_walls.portShare[size_t(portOf[d])].at(real) : neither;
                u[wallSize + size_t(at)] += (1 - first) * m.value[i];
            }
            u[size_t(at)] += first * m.value[i];
        }
        m_wallDrive.push_back(u);
        if (wallSize > 0)
            m_walls.factor.solve(u, m_walls.twoSided ? 2 : 1);
        m_wallSolved.push_back(std::move(u));
    }
    m_model.wallSelf.resize(Eigen::Index(drives), Eigen::Index(drives));
    for (size_t a = 0; a < drives; ++a)
        for (size_t b = 0; b < drives; ++b)
            m_model.wallSelf(Eigen::Index(a), Eigen::Index(b)) =
                product(m_wallDrive[a], m_wallSolved[b]);
}

void WaveDrivenSolver::Builder::incidentLoads()
{
    for (size_t wave = 0; wave < m_problem.planeWaves.size(); ++wave) {
        IncidentLoad lit;
        for (const double f : m_solver.m_litPlaces) {
            auto both = m_solver.incidentLoads(*m_model.sphereOf, *m_model.sphereOf, int(wave), f);
            lit.loads.push_back(std::move(both.forth));
            lit.back.push_back(std::move(both.back));
            lit.self.push_back(both.self);
        }
        m_model.incident.push_back(std::move(lit));
    }
}

void WaveDrivenSolver::Builder::takeWalls()
{
    const auto wallSize = size_t(m_walls.products.size), drives = m_loads.size();
    std::vector<double> all(m_numbering.place.size(), 0.0);
    for (size_t i = 0; i < m_unknowns; ++i)
        all[size_t(m_numbering.function[i])] = m_basis.back()[i];
    const int local = m_solver.m_space.localCount(m_model.order);
    const PeriodicFunctions& periodic = *m_model.periodic;
    const auto fields = periodic.unfolded(all);
    const auto& parts = m_solver.m_wallParts;
    m_rows.resize(parts.size());
    m_solved.resize(parts.size());
    for (size_t which = 0; which < parts.size(); ++which) {
        std::vector<double> r(m_walls.rows(), 0.0);
        auto done = [&] {
            m_rows[which].push_back(r);
            if (wallSize > 0)
                m_walls.factor.solve(r, m_walls.twoSided ? 2 : 1);
            m_solved[which].push_back(std::move(r));
        };
        if (parts[which] == wireLinear) {
            const auto functions = size_t(m_solver.m_space.count(m_model.order));
            for (const auto& p : m_walls.wires)
                r[size_t(p.function)] += p.value * all[functions + size_t(p.current)];
            done();
            continue;
        }
        const auto& elements = m_solver.elementsOf(parts[which]);
        int number[fem::mostEdgeLocal];
        double in[fem::mostEdgeLocal], out[2][fem::mostEdgeLocal] = {};
        for (const auto& [t, touches] : m_walls.cells) {
            m_solver.m_space.local(t, m_model.order, number);
            for (int part = 0; part < periodic.copies(); ++part) {
                for (int i = 0; i < local; ++i)
                    in[i] = fields[size_t(part)][size_t(number[i])];
                elements.multiply(t, local, in, out[part]);
            }
            for (const auto& touch : touches) {
                const Complex row = std::polar(1.0, periodic.phase(number[touch.local])) *
                                    (elements.antisymmetric ? Complex(0, 1) : Complex(1)) *
                                    Complex(out[0][touch.local], out[1][touch.local]);
                for (int part = 0; part < periodic.copies(); ++part) {
                    const double v = part == 0 ? row.real() : row.imag();
                    const auto place = size_t(touch.place + part);
                    r[place] += touch.first * v;
                    if (touch.first != 1)
                        r[wallSize + place] += (1 - touch.first) * v;
                }
            }
        }
        done();
    }
    const auto size = Eigen::Index(m_basis.size()), last = size - 1;
    m_model.wallPair.resize(parts.size() * parts.size());
    for (size_t p = 0; p < parts.size(); ++p)
        for (size_t q = 0; q <= p; ++q) {
            auto& R = m_model.wallPair[p * parts.size() + q];
            R.conservativeResize(size, size);
            for (Eigen::Index i = 0; i < size; ++i) {
                const auto a = size_t(i), b = size_t(last);
                R(i, last) = R(last, i) = product(m_rows[p][a], m_solved[q][b]) +
                                          (p == q ? 0 : product(m_rows[q][a], m_solved[p][b]));
            }
        }
    m_model.wallDrive.resize(parts.size());
    for (size_t which = 0; which < parts.size(); ++which) {
        m_model.wallDrive[which].conservativeResize(size, Eigen::Index(drives));
        for (size_t d = 0; d < drives; ++d)
            m_model.wallDrive[which](last, Eigen::Index(d)) =
                product(m_rows[which].back(), m_wallSolved[d]);
    }
}

Complex WaveDrivenSolver::Builder::onLoad(const std::vector<double>& x,
                                          const Illumination::Values& load) const
{
    Complex sum = 0;
    const auto& functions = m_model.sphereOf->functions();
    for (size_t i = 0; i < load.size(); ++i)
        if (const int at = m_numbering.place[size_t(functions[i])]; at >= 0)
            sum += load[i] * x[size_t(at)];
    return sum;
}

void WaveDrivenSolver::Builder::extendMatrices()
{
    const auto& newest = m_basis.back();
    const auto size = Eigen::Index(m_basis.size());
    const auto& parts = m_solver.m_parts;
    std::vector<double> y;
    for (size_t part = 0; part < m_model.reduced.size(); ++part) {
        auto& R = m_model.reduced[part];
        const auto at = std::find(parts.begin(), parts.end(), Part(part));
        if (at == parts.end()) {
            R.setZero(size, size);
            continue;
        }
        R.conservativeResize(size, size);
        fem::multiplySymmetric<double>(m_family.start, m_family.row,
                                       m_family.value[size_t(at - parts.begin())], newest, y);
        for (Eigen::Index i = 0; i < size; ++i)
            R(i, size - 1) = R(size - 1, i) = product(m_basis[size_t(i)], y);
    }
}

void WaveDrivenSolver::Builder::take(std::vector<double> x)
{
    const size_t n = m_unknowns, drives = m_loads.size();
    const double before = std::sqrt(product(x, x));
    for (int pass = 0; pass < 2; ++pass)
        for (const auto& v : m_basis) {
            const double share = product(x, v);
            for (size_t i = 0; i < n; ++i)
                x[i] -= share * v[i];
        }
    const double left = std::sqrt(product(x, x));
    constexpr double nothing = 1e-9;
    if (!(left > nothing * before))
        return;
    for (double& v : x)
        v /= left;
    m_basis.push_back(std::move(x));
    const auto& newest = m_basis.back();
    extendMatrices();
    const auto size = Eigen::Index(m_basis.size());
    m_model.drive.conservativeResize(size, Eigen::Index(drives));
    for (size_t d = 0; d < drives; ++d)
        m_model.drive(size - 1, Eigen::Index(d)) = product(newest, m_drive[d]);
    for (IncidentLoad& lit : m_model.incident) {
        lit.load.conservativeResize(size, Eigen::Index(lit.loads.size()));
        lit.returned.conservativeResize(size, Eigen::Index(lit.loads.size()));
        for (size_t i = 0; i < lit.loads.size(); ++i) {
            lit.load(size - 1, Eigen::Index(i)) = onLoad(newest, lit.loads[i]);
            lit.returned(size - 1, Eigen::Index(i)) = onLoad(newest, lit.back[i]);
        }
    }
    takeWalls();
}

void WaveDrivenSolver::Builder::takeBoth(const Complex* column)
{
    std::vector<double> re(m_unknowns), im(m_unknowns);
    for (size_t i = 0; i < m_unknowns; ++i) {
        re[i] = column[i].real();
        im[i] = column[i].imag();
    }
    take(std::move(re));
    take(std::move(im));
}

std::vector<std::vector<double>> WaveDrivenSolver::Builder::driven(double f) const
{
    const Eigen::MatrixXd shares = m_solver.driveShares(m_model, f);
    std::vector<std::vector<double>> list;
    for (Eigen::Index c = 0; c < shares.cols(); ++c) {
        list.emplace_back(m_unknowns, 0.0);
        for (Eigen::Index l = 0; l < shares.rows(); ++l)
            if (const double share = shares(l, c); share != 0)
                for (size_t i = 0; i < m_unknowns; ++i)
                    list.back()[i] += share * m_drive[size_t(l)][i];
    }
    return list;
}

std::vector<std::vector<Complex>> WaveDrivenSolver::Builder::rightSides(double f) const
{
    std::vector<std::vector<Complex>> list;
    for (const auto& d : driven(f))
        list.emplace_back(d.begin(), d.end());
    const Eigen::VectorXd weights = m_solver.litWeights(f);
    for (const IncidentLoad& lit : m_model.incident) {
        list.emplace_back(m_unknowns);
        const auto& functions = m_model.sphereOf->functions();
        for (size_t i = 0; i < functions.size(); ++i)
            if (const int at = m_numbering.place[size_t(functions[i])]; at >= 0)
                for (size_t k = 0; k < lit.loads.size(); ++k)
                    list.back()[size_t(at)] += weights(Eigen::Index(k)) * lit.loads[k][i];
    }
    return list;
}

void WaveDrivenSolver::Builder::solveReal(double f, const std::vector<Complex>& weights)
{
    const auto& parts = m_solver.m_parts;
    const size_t n = m_unknowns;
    const auto sides = driven(f);
    std::vector<double> A(m_family.row.size(), 0.0), x;
    for (size_t part = 0; part < parts.size(); ++part)
        for (size_t k = 0; k < A.size(); ++k)
            A[k] += weights[part].real() * m_family.value[part][k];
    m_real.factorise(m_family.size, m_family.start, m_family.row, std::move(A));
    for (const auto& d : sides)
        x.insert(x.end(), d.begin(), d.end());
    m_real.solve(x, int(sides.size()));
    for (size_t d = 0; d < sides.size(); ++d)
        take({x.begin() + std::ptrdiff_t(d * n), x.begin() + std::ptrdiff_t((d + 1) * n)});
}

void WaveDrivenSolver::Builder::solveAt(double f, base::Progress& progress)
{
    progress.check();
    const double start = base::seconds();
    ++m_model.solutions;
    m_places.push_back(f);
    const auto& parts = m_solver.m_parts;
    std::vector<Complex> weights;
    for (const Part part : parts)
        weights.push_back(m_solver.factor(part, f));
    const size_t n = m_unknowns;
    if (!m_solver.m_isComplex) {
        solveReal(f, weights);
    } else {
        std::vector<Complex> A(m_family.row.size());
        for (size_t part = 0; part < parts.size(); ++part)
            for (size_t k = 0; k < A.size(); ++k)
                A[k] += weights[part] * m_family.value[part][k];
        const auto sides = rightSides(f);
        if (!iterate(A, f, sides, progress)) {
            std::vector<Complex> x;
            m_complex.factorise(m_family.size, m_family.start, m_family.row, std::move(A));
            for (const auto& side : sides)
                x.insert(x.end(), side.begin(), side.end());
            m_complex.solve(x, int(sides.size()));
            for (size_t d = 0; d < sides.size(); ++d)
                takeBoth(&x[d * n]);
        }
    }
    m_solver.m_counters.factorSeconds += base::seconds() - start;
}

std::vector<std::complex<double>> WaveDrivenSolver::Builder::restOf(
    const std::vector<Complex>& side, const fem::DenseLu& before) const
{
    const size_t n = m_unknowns, knowns = m_basis.size();
    std::vector<Complex> rest = side, known(n), product;
    if (knowns > 0) {
        Eigen::VectorXcd reduced(static_cast<Eigen::Index>(knowns));
        for (size_t k = 0; k < knowns; ++k)
            reduced(Eigen::Index(k)) =
                std::inner_product(side.begin(), side.end(), m_basis[k].begin(), Complex(0));
        const Eigen::VectorXcd y = before.solve(reduced);
        for (size_t k = 0; k < knowns; ++k)
            for (size_t i = 0; i < n; ++i)
                known[i] += y(Eigen::Index(k)) * m_basis[k][i];
        m_levels.product(known, product);
        for (size_t i = 0; i < n; ++i)
            rest[i] -= product[i];
    }
    return rest;
}

bool WaveDrivenSolver::Builder::iterate(const std::vector<Complex>& A, double f,
                                        const std::vector<std::vector<Complex>>& sides,
                                        base::Progress& progress)
{
    // Large systems: what the small model lacks yet is found by iteration. S errs by the square of
    // what is left.
    constexpr double left = 1e-6;
    if (m_lowest.empty())
        return false;
    m_levels.setUp(m_family.size, m_family.start, m_family.row, A, m_lowest, m_blocks);
    const fem::DenseLu before(m_solver.assembledOnly(m_model, f));
    auto norm2 = [](const auto& v) {
        double sum = 0;
        for (const auto& entry : v)
            sum += std::norm(entry);
        return std::sqrt(sum);
    };
    for (const auto& side : sides) {
        std::vector<Complex> rest = restOf(side, before);
        const double share = norm2(rest) / norm2(side);
        if (share < left)
            continue;
        const int steps = m_levels.solve(rest, left / share, progress);
        m_solver.m_counters.iterations += std::max(steps, 0);
        if (steps < 0)
            return false;
        takeBoth(rest.data());
    }
    return true;
}

double WaveDrivenSolver::Builder::nextPlace(const std::vector<double>& places,
                                            const std::function<double(size_t)>& change) const
{
    // Where the response moved most, but not where it is known already: a prediction there would
    // prove nothing. Where nothing moves any more, what is farthest from all that is known.
    auto away = [this](double f) {
        double least = std::numeric_limits<double>::infinity();
        for (const double known : m_places)
            least = std::min(least, std::abs(f - known));
        return least;
    };
    constexpr double apart = 0.02;
    const double near = apart * (places.back() - places.front());
    double best = places.front(), most = 0, farthest = 0, alone = best;
    for (size_t i = 0; i < places.size(); ++i) {
        const double distance = away(places[i]), moved = change(i);
        if (distance > near && moved > most) {
            most = moved;
            best = places[i];
        }
        if (distance > farthest) {
            farthest = distance;
            alone = places[i];
        }
    }
    return most > 0 ? best : alone;
}

void WaveDrivenSolver::Builder::spreadOut()
{
    for (const auto& v : m_basis) {
        m_model.basis.emplace_back(m_numbering.place.size(), 0.0);
        for (size_t i = 0; i < m_unknowns; ++i)
            m_model.basis.back()[size_t(m_numbering.function[i])] = v[i];
    }
}

void WaveDrivenSolver::Builder::settleBand(bool rough, base::Progress& progress)
{
    const double low = m_problem.low, high = m_problem.high;
    // Differences are looked for on a grid of the band; poles are as narrow as the losses make
    // them, so that it is fine.
    constexpr int grid = 401;
    std::vector<double> places;
    for (int i = 0; i < grid; ++i)
        places.push_back(low + (high - low) * i / (grid - 1));
    auto response = [&] {
        std::vector<Eigen::MatrixXcd> list;
        for (const double f : places)
            list.push_back(m_solver.judged(m_model, f));
        return list;
    };
    solveAt(low, progress);
    solveAt(high, progress);
    auto before = response();
    double next = low + 0.25 * (high - low);
    const double settled = m_problem.settled * (rough ? 10 : 1);
    constexpr int most = 24;
    for (m_model.verified = 1; m_model.solutions < most;) {
        const auto predicted = m_solver.judged(m_model, next);
        solveAt(next, progress);
        m_model.verified = distance(predicted, m_solver.judged(m_model, next));
        const auto now = response();
        double largest = -1;
        for (size_t i = 0; i < places.size(); ++i)
            largest = std::max(largest, distance(now[i], before[i]));
        if (m_model.verified < settled && largest < settled)
            break;
        next = nextPlace(places, [&](size_t i) {
            return largest < settled ? 0.0 : distance(now[i], before[i]);
        });
        before = now;
    }
}

void WaveDrivenSolver::Builder::run(bool rough, base::Progress& progress)
{
    const double low = m_problem.low, high = m_problem.high;
    solveAt(m_solver.m_onlyShown ? m_problem.shown : (low + high) / 2, progress);
    if (high > low && !m_solver.m_onlyShown && !m_solver.m_onlyMiddle)
        settleBand(rough, progress);
    spreadOut();
    m_solver.m_counters.iterations += m_model.solutions;
}

}  // namespace yh::physics
