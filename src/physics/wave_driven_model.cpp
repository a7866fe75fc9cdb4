// The small model of driven waves: the solutions at a few frequencies, and what projecting the
// matrices on them gives.
//
// GCC 12 takes its own AVX-512 headers for uninitialised once Eigen's complex products are unrolled
// (its bug 105593).
#pragma GCC diagnostic ignored "-Wuninitialized"
#include "physics/wave_driven.h"

#include "base/clock.h"
#include "fem/ldlt.h"
#include "physics/constants.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yh::physics {

namespace {

using Complex = std::complex<double>;

/// y = A x with one matrix of a family.
void multiply(const fem::SymmetricFamily& f, size_t part, const std::vector<double>& x,
              std::vector<double>& y)
{
    y.assign(x.size(), 0.0);
    const auto& a = f.value[part];
    for (size_t c = 0; c < x.size(); ++c)
        for (auto k = size_t(f.start[c]); k < size_t(f.start[c + 1]); ++k) {
            const auto r = size_t(f.row[k]);
            y[r] += a[k] * x[c];
            if (r != c)
                y[c] += a[k] * x[r];
        }
}

double product(const std::vector<double>& a, const std::vector<double>& b)
{
    return std::inner_product(a.begin(), a.end(), b.begin(), 0.0);
}

}  // namespace

void WaveDrivenSolver::findBlocks(int order, const fem::Numbering& numbering,
                                  std::vector<char>& lowest, fem::EdgeBlocks& blocks) const
{
    // The lowest order sees neither the steep fields of the absorbing shell nor waves in cells that
    // are large against the wavelength: those are few, and all their functions are solved directly.
    constexpr double large = 1.6;  // of wave number times length
    const double wave = 2 * pi * m_problem.high / c0;
    std::vector<char> direct(size_t(m_space.count(order)), 0);
    std::fill_n(direct.begin(), m_space.count(1), 1);
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

std::vector<fem::SideLoad> WaveDrivenSolver::drives(const std::vector<PortMode>& modes,
                                                    const fem::EdgeSpace& space, int order) const
{
    std::vector<fem::SideLoad> list;
    for (const PortMode& m : modes)
        list.push_back({m.number, m.weight});
    const mesh::Locator locator(m_mesh);
    for (const PointDipole& d : m_problem.dipoles) {
        const auto hit = locator.find(d.at);
        if (hit.cell < 0)
            throw base::Error(6223, "there is no field at the place of this dipole",
                              {d.line, "at", 0});
        // A plane of symmetry through it leaves half of it on each side.
        double share = 1;
        for (const auto& mirror : m_problem.mirrors) {
            const double x = mirror.axis == 0 ? d.at.x : mirror.axis == 1 ? d.at.y : d.at.z;
            if (std::abs(x) < 1e-9 * m_partition.size())
                share /= 2;
        }
        if (std::hypot(d.at.x, d.at.y) < 1e-9 * m_partition.size())
            share /= m_problem.wedges;
        const fem::EdgePoint at(space, order, hit.cell, hit.xi);
        fem::SideLoad load;
        for (int i = 0; i < at.count(); ++i) {
            load.number.push_back(at.number(i));
            load.value.push_back(share * dot(at.value(i), d.direction));
        }
        list.push_back(std::move(load));
    }
    return list;
}

void WaveDrivenSolver::buildModel(Model& model, const fem::SymmetricFamily& family,
                                  const fem::Numbering& numbering, Walls& walls, bool rough,
                                  base::Progress& progress)
{
    const auto loads = this->drives(model.modes, m_space, model.order);
    const auto n = size_t(family.size), parts = family.value.size(), drives = loads.size();
    std::vector<std::vector<double>> drive;
    for (const auto& m : loads) {
        drive.emplace_back(n, 0.0);
        for (size_t i = 0; i < m.number.size(); ++i)
            if (const int at = numbering.place[size_t(m.number[i])]; at >= 0)
                drive.back()[size_t(at)] += m.value[i];
    }
    std::vector<std::vector<double>> basis;
    model.reduced.assign(partCount, {});
    // The rows of the walls for each vector of the basis: K and M times it, and S^-1 times that.
    const auto wallSize = size_t(walls.products.size);
    std::vector<std::vector<double>> rows[2], solved[2], wallDrive, wallSolved;
    for (const auto& m : loads) {
        std::vector<double> u(wallSize, 0.0);
        for (size_t i = 0; i < m.number.size(); ++i)
            if (const int at = walls.numbering.place[size_t(m.number[i])]; at >= 0)
                u[size_t(at)] += m.value[i];
        wallDrive.push_back(u);
        if (wallSize > 0)
            walls.factor.solve(u, 1);
        wallSolved.push_back(std::move(u));
    }
    model.wallSelf.resize(Eigen::Index(drives), Eigen::Index(drives));
    for (size_t a = 0; a < drives; ++a)
        for (size_t b = 0; b < drives; ++b)
            model.wallSelf(Eigen::Index(a), Eigen::Index(b)) = product(wallDrive[a], wallSolved[b]);
    auto takeWalls = [&](const std::vector<double>& x) {
        std::vector<double> all(numbering.place.size(), 0.0);
        for (size_t i = 0; i < n; ++i)
            all[size_t(numbering.function[i])] = x[i];
        for (const int which : {0, 1}) {
            std::vector<double> r(wallSize);
            if (wallSize > 0) {
                const auto y = fem::product(m_space, model.order,
                                            which == 0 ? m_elements.curl : m_elements.mass, all);
                for (size_t i = 0; i < wallSize; ++i)
                    r[i] = y[size_t(walls.numbering.function[i])];
            }
            rows[which].push_back(r);
            if (wallSize > 0)
                walls.factor.solve(r, 1);
            solved[which].push_back(std::move(r));
        }
        const auto size = Eigen::Index(basis.size()), last = size - 1;
        for (const int part : {wallCurl, wallBoth, wallMass})
            model.reduced[size_t(part)].conservativeResize(size, size);
        for (Eigen::Index i = 0; i < size; ++i) {
            const auto a = size_t(i), b = size_t(last);
            auto set = [&](int part, double v) {
                auto& R = model.reduced[size_t(part)];
                R(i, last) = R(last, i) = v;
            };
            set(wallCurl, product(rows[0][a], solved[0][b]));
            set(wallMass, product(rows[1][a], solved[1][b]));
            set(wallBoth, product(rows[0][a], solved[1][b]) + product(rows[1][a], solved[0][b]));
        }
        for (const int which : {0, 1}) {
            model.wallDrive[which].conservativeResize(size, Eigen::Index(drives));
            for (size_t d = 0; d < drives; ++d)
                model.wallDrive[which](last, Eigen::Index(d)) =
                    product(rows[which].back(), wallSolved[d]);
        }
    };
    fem::Ldlt<double> real;
    fem::Ldlt<Complex> complex;
    fem::EdgeMultilevel<Complex> levels;
    constexpr size_t manyUnknowns = 400000;
    std::vector<char> lowest;
    fem::EdgeBlocks blocks;
    if (m_isComplex && n >= manyUnknowns && model.order > 1)
        findBlocks(model.order, numbering, lowest, blocks);
    auto take = [&](std::vector<double> x) {
        const double before = std::sqrt(product(x, x));
        for (int pass = 0; pass < 2; ++pass)
            for (const auto& v : basis) {
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
        basis.push_back(std::move(x));
        const auto size = Eigen::Index(basis.size());
        std::vector<double> y;
        for (size_t part = 0; part < wallCurl; ++part) {
            auto& R = model.reduced[part];
            const auto at = std::find(m_parts.begin(), m_parts.end(), Part(part));
            if (at == m_parts.end()) {
                R.setZero(size, size);
                continue;
            }
            R.conservativeResize(size, size);
            multiply(family, size_t(at - m_parts.begin()), basis.back(), y);
            for (Eigen::Index i = 0; i < size; ++i)
                R(i, size - 1) = R(size - 1, i) = product(basis[size_t(i)], y);
        }
        model.drive.conservativeResize(size, Eigen::Index(drives));
        for (size_t d = 0; d < drives; ++d)
            model.drive(size - 1, Eigen::Index(d)) = product(basis.back(), drive[d]);
        takeWalls(basis.back());
    };
    auto solveAt = [&](double f) {
        progress.check();
        const double start = base::seconds();
        ++model.solutions;
        std::vector<Complex> weights;
        for (size_t part = 0; part < parts; ++part)
            weights.push_back(factor(m_parts[part], f));
        if (!m_isComplex) {
            std::vector<double> A(family.row.size(), 0.0), x;
            for (size_t part = 0; part < 2; ++part)
                for (size_t k = 0; k < A.size(); ++k)
                    A[k] += weights[part].real() * family.value[part][k];
            real.factorise(family.size, family.start, family.row, A);
            for (const auto& d : drive)
                x.insert(x.end(), d.begin(), d.end());
            real.solve(x, int(drives));
            for (size_t d = 0; d < drives; ++d)
                take({x.begin() + std::ptrdiff_t(d * n), x.begin() + std::ptrdiff_t((d + 1) * n)});
        } else {
            std::vector<Complex> A(family.row.size()), x;
            for (size_t part = 0; part < parts; ++part)
                for (size_t k = 0; k < A.size(); ++k)
                    A[k] += weights[part] * family.value[part][k];
            auto takeBoth = [&](const Complex* column) {
                std::vector<double> re(n), im(n);
                for (size_t i = 0; i < n; ++i) {
                    re[i] = column[i].real();
                    im[i] = column[i].imag();
                }
                take(std::move(re));
                take(std::move(im));
            };
            // Large systems: what the small model lacks yet is found by iteration. S errs by the
            // square of what is left.
            constexpr double left = 1e-6;
            bool done = !lowest.empty();
            if (done)
                levels.setUp(family.size, family.start, family.row, A, lowest, blocks);
            const Eigen::PartialPivLU<Eigen::MatrixXcd> before(assembledOnly(model, f));
            for (size_t d = 0; d < drives && done; ++d) {
                std::vector<Complex> rest(drive[d].begin(), drive[d].end()), known(n), product;
                if (const size_t knowns = size_t(before.matrixLU().rows()); knowns > 0) {
                    const Eigen::VectorXcd y = before.solve(Eigen::VectorXcd(
                        model.drive.col(Eigen::Index(d)).head(Eigen::Index(knowns))));
                    for (size_t k = 0; k < knowns; ++k)
                        for (size_t i = 0; i < n; ++i)
                            known[i] += y(Eigen::Index(k)) * basis[k][i];
                    levels.product(known, product);
                    for (size_t i = 0; i < n; ++i)
                        rest[i] -= product[i];
                }
                auto norm2 = [](const auto& v) {
                    double sum = 0;
                    for (const auto& entry : v)
                        sum += std::norm(entry);
                    return std::sqrt(sum);
                };
                const double share = norm2(rest) / norm2(drive[d]);
                if (share < left)
                    continue;
                const int steps = levels.solve(rest, left / share, progress);
                done = steps >= 0;
                m_counters.iterations += std::max(steps, 0);
                if (done)
                    takeBoth(rest.data());
            }
            if (!done) {
                complex.factorise(family.size, family.start, family.row, A);
                for (const auto& d : drive)
                    x.insert(x.end(), d.begin(), d.end());
                complex.solve(x, int(drives));
                for (size_t d = 0; d < drives; ++d)
                    takeBoth(&x[d * n]);
            }
        }
        m_counters.factorSeconds += base::seconds() - start;
    };
    // Differences are looked for on a grid of the band; poles are as narrow as the losses make
    // them, so that it is fine.
    const double low = m_problem.low, high = m_problem.high;
    constexpr int grid = 401;
    std::vector<double> places;
    for (int i = 0; i < grid; ++i)
        places.push_back(low + (high - low) * i / (grid - 1));
    auto response = [&] {
        std::vector<Eigen::MatrixXcd> list;
        for (const double f : places)
            list.push_back(judged(model, f));
        return list;
    };
    auto distance = [](const Eigen::MatrixXcd& a, const Eigen::MatrixXcd& b) {
        double most = 0;
        for (Eigen::Index i = 0; i < a.size(); ++i)
            if (std::isfinite(std::abs(a(i) - b(i))))
                most = std::max(most, std::abs(a(i) - b(i)));
        return most;
    };
    solveAt((low + high) / 2);
    if (high > low) {
        solveAt(low);
        solveAt(high);
        auto before = response();
        double next = low + 0.25 * (high - low);
        const double settled = m_problem.settled * (rough ? 10 : 1);
        constexpr int most = 24;
        for (model.verified = 1; model.solutions < most;) {
            const auto predicted = judged(model, next);
            solveAt(next);
            model.verified = distance(predicted, judged(model, next));
            const auto now = response();
            double largest = -1;
            for (size_t i = 0; i < places.size(); ++i)
                if (const double d = distance(now[i], before[i]); d > largest) {
                    largest = d;
                    next = places[i];
                }
            if (model.verified < settled && largest < settled)
                break;
            // Where nothing moves any more, the middle of the largest gap is as good.
            if (largest < settled)
                next = low + 0.6180339887 * (high - low);
            before = now;
        }
    }
    // Back to the functions of the order.
    for (const auto& v : basis) {
        model.basis.emplace_back(numbering.place.size(), 0.0);
        for (size_t i = 0; i < n; ++i)
            model.basis.back()[size_t(numbering.function[i])] = v[i];
    }
    m_counters.iterations += model.solutions;
}

}  // namespace yh::physics
