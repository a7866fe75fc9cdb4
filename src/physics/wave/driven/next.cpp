// What the functions of the next order would change in a small model of driven waves.
//
// With the functions of the next order below those of the small model, the system over the band is
//
//   | A  B^T | |x|   |d|
//   | B  D   | |y| = |g|
//
// of which D is taken for its diagonal alone: each new function answers to the fields by itself.
// Eliminating y leaves a system of the small model's size, A - B^T D^-1 B, in which resonances have
// moved and not only grown. What is taken off varies slowly over the band and is interpolated.
// Source: Bank and Smith, SIAM J. Numer. Anal. 30 (1993) 921 (from memory), with a resonant system
// in place of an elliptic one.
#include "base/clock.h"
#include "fem/dense.h"
#include "physics/common/constants.h"
#include "physics/wave/driven/driven.h"

#include <omp.h>
#include <algorithm>
#include <cmath>

namespace yh::physics {

using Complex = std::complex<double>;

Eigen::MatrixXcd WaveDrivenSolver::Next::at(const std::vector<Eigen::MatrixXcd>& values,
                                            double f) const
{
    // Lagrange's polynomials over k^2 times the values: gradients answer with 1 / k^2.
    Eigen::MatrixXcd sum = Eigen::MatrixXcd::Zero(values[0].rows(), values[0].cols());
    for (size_t i = 0; i < places.size(); ++i) {
        double share = places[i] * places[i] / (f * f);
        for (size_t j = 0; j < places.size(); ++j)
            if (j != i)
                share *= (f - places[j]) / (places[i] - places[j]);
        sum += share * values[i];
    }
    return sum;
}

void WaveDrivenSolver::alignWith(const std::vector<PortMode>& known,
                                 std::vector<PortMode>& modes) const
{
    // By what they have in common on the functions that they share.
    auto common = [](const PortMode& a, const PortMode& b) {
        std::map<int, double> weight;
        for (size_t i = 0; i < a.number.size(); ++i)
            weight[a.number[i]] = a.weight[i];
        double same = 0;
        for (size_t i = 0; i < b.number.size(); ++i)
            if (const auto it = weight.find(b.number[i]); it != weight.end())
                same += it->second * b.weight[i];
        return same;
    };
    for (size_t k = 0; k < modes.size(); ++k) {
        if (!modes[k].harmonics.empty())
            continue;  // known by formula
        // Modes of one cut-off may come in another order.
        size_t best = k;
        double most = 0;
        for (size_t i = k; i < modes.size() && m_channels[i].port == m_channels[k].port; ++i)
            if (const double c = common(known[k], modes[i]); std::abs(c) > std::abs(most)) {
                most = c;
                best = i;
            }
        std::swap(modes[k], modes[best]);
        if (most < 0) {
            for (double& w : modes[k].weight)
                w = -w;
            for (auto& list : modes[k].weights)
                for (double& w : list)
                    w = -w;
        }
    }
}

std::unique_ptr<WaveDrivenSolver::Model> WaveDrivenSolver::nextModel(const fem::EdgeSpace& space,
                                                                     const std::vector<int>& walls,
                                                                     base::Progress& progress) const
{
    const Model& model = m_models.back();
    const int p = order();
    auto next = std::make_unique<Model>();
    next->order = p;
    next->periodic = model.periodic;
    next->reduced = model.reduced;
    next->wallSelf = model.wallSelf;
    next->wallDrive = model.wallDrive;
    next->wallPair = model.wallPair;
    next->solutions = model.solutions;
    next->verified = model.verified;
    for (const WavePort& port : m_problem.ports)
        if (port.wireNode >= 0)
            next->modes.push_back(model.modes[next->modes.size()]);
        else
            for (auto& mode : portModes(m_problem, port, space, p + 1, walls, progress))
                next->modes.push_back(std::move(mode));
    alignWith(model.modes, next->modes);
    return next;
}

fem::NextOrder WaveDrivenSolver::nextRows(const fem::EdgeSpace& space,
                                          const PeriodicFunctions& periodic,
                                          std::vector<Part>& parts) const
{
    const Model& model = m_models.back();
    const int p = order();
    std::vector<double> whole(m_problem.eps.size(), 0.0);
    for (const int f : m_problem.activePieces)
        whole[size_t(f)] = 1;
    std::vector<fem::NextTerm> terms, absorbing;
    std::vector<Part> absorbingParts;
    for (const Part part : m_parts)
        if (part == absorbCurl || part == absorbMass) {
            std::vector<double> only(whole.size(), 0.0);
            only[size_t(m_problem.shell.piece)] = 1;
            absorbing.push_back({part == absorbCurl, only});
            absorbingParts.push_back(part);
        } else if (!hasShare(part) && !isOfWires(part)) {
            const auto factors = byPiece(part);
            terms.push_back({part == curl, factors.empty() ? whole : factors});
            parts.push_back(part);
        }
    parts.insert(parts.end(), absorbingParts.begin(), absorbingParts.end());
    std::vector<std::vector<double>> turned;
    for (size_t k = 0; k < model.basis.size() && !periodic.none(); ++k) {
        auto copies = model.periodic->unfolded(model.basis[k]);
        for (int part = 0; part < periodic.copies(); ++part)
            turned.push_back(std::move(copies[size_t(part)]));
    }
    const auto& fields = periodic.none() ? model.basis : turned;
    auto rows = fem::nextOrder(space, p, fields, m_problem.inverseMu, m_problem.eps,
                               m_problem.measure, terms);
    if (!absorbing.empty()) {
        const auto media = m_problem.absorbingMedia();
        auto more = fem::nextOrder(space, p, fields, media.inverseMu, media.eps, m_problem.measure,
                                   absorbing);
        for (auto& part : more.parts)
            rows.parts.push_back(std::move(part));
    }
    for (const Part part : m_parts)
        if (hasShare(part)) {
            const std::vector<fem::NextTerm> term{{false, byPiece(part)}};
            auto more =
                fem::nextOrder(space, p, fields, m_problem.inverseMu,
                               m_running[size_t(part - partCount)].share, m_problem.measure, term);
            rows.parts.push_back(std::move(more.parts[0]));
            parts.push_back(part);
        }
    if (!m_problem.wires.empty()) {
        rows.parts.push_back(wireRows(space, model, rows.parts[0].own.size(), rows.first));
        parts.push_back(wireLinear);
    }
    return rows;
}

void WaveDrivenSolver::driveNext(const std::vector<fem::SideLoad>& loads,
                                 const fem::NextOrder& rows, const PeriodicFunctions& periodic,
                                 Model& next, Eigen::MatrixXcd& g) const
{
    const Model& model = m_models.back();
    const size_t width = rows.fields, copies = periodic.none() ? 1 : size_t(periodic.copies()),
                 plain = rows.parts[0].own.size() / copies;
    next.drive.setZero(Eigen::Index(width), Eigen::Index(loads.size()));
    for (size_t d = 0; d < loads.size(); ++d)
        for (size_t i = 0; i < loads[d].number.size(); ++i) {
            const double v = loads[d].value[i];
            if (loads[d].number[i] < 0) {
                const size_t at = withWires(loads[d].number[i], rows.first);
                for (size_t k = 0; k < width; ++k)
                    next.drive(Eigen::Index(k), Eigen::Index(d)) += v * model.basis[k][at];
                continue;
            }
            const bool imaginary = size_t(loads[d].number[i]) >= periodic.count();
            const int n = loads[d].number[i] - (imaginary ? int(periodic.count()) : 0);
            if (n >= rows.first)
                g(n - rows.first + (imaginary ? Eigen::Index(plain) : 0), Eigen::Index(d)) += v;
            else
                for (size_t k = 0; k < width; ++k)
                    next.drive(Eigen::Index(k), Eigen::Index(d)) +=
                        v * model.basis[k][size_t(n + (imaginary ? rows.first : 0))];
        }
}

void WaveDrivenSolver::lookAhead(base::Progress& progress)
{
    m_next.reset();
    m_nextEta.clear();
    const int p = order();
    // Too many of the new functions answer to a point at once to be taken alone; and their rows do
    // not hold films or waves at an angle.
    if (m_onlyShown || m_mesh.dimension != 3 || p >= fem::highestEdgeOrder ||
        !m_problem.dipoles.empty() || m_problem.isSlanted() || !m_problem.sheets.empty())
        return;
    const double start = base::seconds();
    const Model& model = m_models.back();
    const fem::EdgeSpace space(m_mesh, p + 1);
    const PeriodicFunctions periodic(space, p + 1, m_problem.phases, m_problem.turning);
    const auto walls = wallSides(m_problem, m_mesh);
    auto next = nextModel(space, walls, progress);
    auto corrections = std::make_shared<Next>();
    auto rows = nextRows(space, periodic, corrections->parts);
    const size_t plain = rows.parts[0].own.size();
    reduceRows(periodic, model.basis.size(), rows);
    const size_t functions = rows.parts[0].own.size();
    const auto isFreeOfAll = freeFunctions(space, p + 1, walls, periodic);
    std::vector<char> isFree(isFreeOfAll.begin() + rows.first, isFreeOfAll.end());
    if (functions > plain)
        isFree.insert(isFree.end(), isFreeOfAll.begin() + rows.first, isFreeOfAll.end());
    // Drives: what they mean to the basis, and to the new functions.
    const auto loads = this->drives(next->modes, space, p + 1, periodic);
    const auto drives = Eigen::Index(loads.size()),
               waves = Eigen::Index(m_problem.planeWaves.size());
    Eigen::MatrixXcd g = Eigen::MatrixXcd::Zero(Eigen::Index(functions), drives + 2 * waves);
    driveNext(loads, rows, periodic, *next, g);
    if (waves > 0) {
        // The jump across the sphere stays that of this order: what is left of it weighs as the
        // product of two such rests.
        for (const IncidentLoad& lit : model.incident)
            next->incident.push_back({{}, {}, lit.load, lit.returned, lit.self});
        corrections->space = std::make_unique<fem::EdgeSpace>(m_mesh, p + 1);
        corrections->sphere = std::make_unique<Illumination>(m_problem, *corrections->space, p + 1,
                                                             isFreeOfAll, fem::cornerRanks(m_mesh));
        keepRows(rows, isFree, *corrections);
    }
    const Illumination* above = corrections->sphere.get();
    auto onNew = [&](const Illumination::Values& load, Eigen::Index column) {
        for (size_t i = 0; i < load.size(); ++i)
            if (const int n = above->functions()[i]; n >= rows.first)
                g(n - rows.first, column) = load[i];
    };
    // Loads of plane waves turn over the band, and enter twice.
    const int many = 5 + (waves > 0 ? int(std::ceil(4 * incidentTurn())) : 0),
              places = m_problem.high > m_problem.low ? many : 1;
    corrections->places = m_onlyMiddle ? std::vector{(m_problem.low + m_problem.high) / 2}
                                       : chebyshevPoints(m_problem.low, m_problem.high, places);
    m_nextEta.assign(size_t(m_mesh.cellCount()), 0.0);
    std::vector<double> eta(functions, 0.0);
    for (const double f : corrections->places) {
        progress.check();
        for (Eigen::Index w = 0; w < waves; ++w) {
            const auto now = incidentLoads(*above, *model.sphereOf, int(w), f);
            onNew(now.forth, drives + w);
            onNew(now.back, drives + waves + w);
        }
        const Response r = response(model, f);
        addNextOrder(rows, isFree, g, f, *corrections, r, driveShares(model, f), eta);
    }
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        int number[fem::mostEdgeLocal];
        space.local(t, p + 1, number);
        for (int i = space.localCount(p); i < space.localCount(p + 1); ++i)
            for (size_t at = size_t(periodic.same(number[i]) - rows.first); at < functions;
                 at += plain)
                m_nextEta[size_t(t)] += eta[at];
    }
    next->next = std::move(corrections);
    m_next = std::move(next);
    m_counters.solveSeconds += base::seconds() - start;
}

void WaveDrivenSolver::reduceRows(const PeriodicFunctions& periodic, size_t basis,
                                  fem::NextOrder& rows)
{
    if (periodic.none())
        return;
    const auto copies = size_t(periodic.copies());
    for (auto& part : rows.parts) {
        const size_t functions = part.own.size();
        fem::NextOrder::Part out;
        out.own.resize(copies * functions);
        out.rows.resize(copies * functions * basis);
        for (size_t i = 0; i < functions; ++i) {
            const int function = rows.first + int(i);
            const size_t at = size_t(periodic.same(function) - rows.first);
            for (size_t c = 0; c < copies; ++c)
                out.own[c * functions + at] += part.own[i];
            const std::complex<float> turn(std::polar(1.0, periodic.phase(function)));
            for (size_t k = 0; k < basis; ++k) {
                const float* from = &part.rows[i * rows.fields + copies * k];
                const auto v = turn * std::complex<float>(from[0], copies == 2 ? from[1] : 0.0F);
                out.rows[at * basis + k] += v.real();
                if (copies == 2)
                    out.rows[(functions + at) * basis + k] += v.imag();
            }
        }
        part = std::move(out);
    }
    rows.fields = basis;
}

void WaveDrivenSolver::keepRows(const fem::NextOrder& rows, const std::vector<char>& isFree,
                                Next& next)
{
    for (const int i : next.sphere->functions())
        if (i >= rows.first && isFree[size_t(i - rows.first)])
            next.functions.push_back(i);
    for (const auto& part : rows.parts) {
        fem::NextOrder::Part kept;
        for (const int i : next.functions) {
            const auto k = size_t(i - rows.first);
            kept.own.push_back(part.own[k]);
            kept.rows.insert(kept.rows.end(), part.rows.begin() + std::ptrdiff_t(k * rows.fields),
                             part.rows.begin() + std::ptrdiff_t((k + 1) * rows.fields));
        }
        next.rows.push_back(std::move(kept));
    }
}

void WaveDrivenSolver::addNextOrder(const fem::NextOrder& rows, const std::vector<char>& isFree,
                                    const Eigen::MatrixXcd& g, double f, Next& next,
                                    const Response& r, const Eigen::MatrixXd& shares,
                                    std::vector<double>& eta) const
{
    const auto width = Eigen::Index(rows.fields), drives = g.cols(), known = shares.rows(),
               waves = Eigen::Index(m_problem.planeWaves.size());
    const Eigen::MatrixXcd current = ofAll(m_models.back(), r.current),
                           driven = fem::times(shares.cast<Complex>(), current);
    Eigen::MatrixXcd C = Eigen::MatrixXcd::Zero(width, width),
                     G = Eigen::MatrixXcd::Zero(width, drives),
                     H = Eigen::MatrixXcd::Zero(drives, drives);
    std::vector<Complex> weight;
    for (const Part part : next.parts)
        weight.push_back(factor(part, f));
    // Of all ports and dipoles together, each for its own wave; for half a watt, which of plane
    // waves passes through the sphere's section.
    const double field = waves > 0 ? m_problem.planeWaves[0].field : 1.0,
                 lit = std::sqrt(mu0 * c0 / pi) / (field * m_problem.shell.inner);
    const Complex jw(0, 2 * pi * f * mu0);
    constexpr size_t batch = 256;
    const size_t functions = isFree.size();
    const auto batches = std::ptrdiff_t((functions + batch - 1) / batch);
    // Each thread sums its own batches; the threads' sums are added in their order.
    struct Sums
    {
        Eigen::MatrixXcd C, G, H;
    };
    std::vector<Sums> sums(size_t(omp_get_max_threads()), {C, G, H});
#pragma omp parallel
    {
        Eigen::MatrixXcd B(batch, width), own(batch, drives);
        auto& [Cs, Gs, Hs] = sums[size_t(omp_get_thread_num())];
        Eigen::VectorXcd D(batch);
#pragma omp for schedule(static)
        for (std::ptrdiff_t b = 0; b < batches; ++b) {
            const size_t from = size_t(b) * batch, to = std::min(functions, from + batch);
            Eigen::Index n = 0;
            std::vector<size_t> which;
            for (size_t i = from; i < to; ++i) {
                if (!isFree[i])
                    continue;
                Complex d = 0;
                double size = 0;
                for (size_t part = 0; part < weight.size(); ++part) {
                    d += weight[part] * rows.parts[part].own[i];
                    size += std::abs(weight[part] * rows.parts[part].own[i]);
                }
                // Next to a resonance of its own a function cannot be taken alone.
                constexpr double least = 0.05;
                if (!(std::abs(d) > least * size))
                    continue;
                D(n) = 1.0 / d;
                for (Eigen::Index c = 0; c < width; ++c) {
                    Complex sum = 0;
                    for (size_t part = 0; part < weight.size(); ++part)
                        sum += weight[part] *
                               double(rows.parts[part].rows[i * rows.fields + size_t(c)]);
                    B(n, c) = sum;
                }
                own.row(n) = g.row(Eigen::Index(i));
                which.push_back(i);
                ++n;
            }
            if (n == 0)
                continue;
            const auto Bn = B.topRows(n);
            const auto gn = own.topRows(n);
            const Eigen::MatrixXcd DB = D.head(n).asDiagonal() * Bn,
                                   Dg = D.head(n).asDiagonal() * gn;
            fem::addTransposedTimes(Bn, DB, Cs);
            fem::addTransposedTimes(Bn, Dg, Gs);
            fem::addTransposedTimes(gn, Dg, Hs);
            // What is left of every drive's field at these functions, squared over their entries.
            Eigen::MatrixXcd left =
                jw * fem::times(gn.leftCols(known), driven) - fem::times(Bn, r.field);
            left.rightCols(waves) += gn.middleCols(known, waves);
            left.rightCols(waves) *= lit;
            for (Eigen::Index i = 0; i < n; ++i)
                eta[which[size_t(i)]] += left.row(i).squaredNorm() * std::abs(D(i));
        }
    }
    for (const Sums& s : sums) {
        C += s.C;
        G += s.G;
        H += s.H;
    }
    next.matrix.push_back(std::move(C));
    next.drive.push_back(std::move(G));
    next.self.push_back(std::move(H));
}

}  // namespace yh::physics
