#include "physics/electrostatic/electrostatic.h"

#include "base/clock.h"
#include "fem/dense.h"
#include "fem/next_order.h"
#include "fem/quadrature.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

namespace yh::physics {

using base::Error;
using fem::mostLocal;

ElectrostaticSolver::ElectrostaticSolver(const ElectrostaticProblem& problem,
                                         const mesh::Mesh& mesh, const shape::Partition& partition,
                                         int order, base::Progress& progress)
    : m_problem(problem),
      m_mesh(mesh),
      m_partition(partition),
      m_order(order),
      m_looksAhead(mesh.dimension == 3 && order < fem::highestSolidOrder),
      m_space(mesh, m_looksAhead ? order + 1 : order)
{
    progress.check();
    constrain();
    const double start = base::seconds();
    m_elements = fem::stiffness(m_space, problem.eps, problem.measure);
    if (problem.hasFixedCharge()) {
        m_load = fem::load(m_space, problem.spaceCharge, problem.measure);
        for (const auto& s : problem.surfaceCharge) {
            std::vector<int> sides;
            for (int e = 0; e < mesh.sideCount(); ++e)
                if (mesh.sideTag[size_t(e)] >= 0 &&
                    std::find(s.sides.begin(), s.sides.end(), mesh.sideTag[size_t(e)]) !=
                        s.sides.end())
                    sides.push_back(e);
            fem::addSideLoad(m_space, sides, s.density, problem.measure, m_load);
        }
        for (const double x : m_load)
            if (!std::isfinite(x))
                throw Error(
                    6010,
                    "the given charge density is not a finite number everywhere in its region");
    }
    m_counters.assembleSeconds += base::seconds() - start;
}

void ElectrostaticSolver::constrain()
{
    std::vector<int> ofSide(m_partition.sides().size(), -1);
    for (size_t k = 0; k < m_problem.conductors.size(); ++k)
        for (const int c : m_problem.conductors[k].sides)
            ofSide[size_t(c)] = int(k);
    m_conductorOfVertex.assign(size_t(m_mesh.vertexCount()), -1);
    m_fixedEdge.assign(size_t(m_mesh.edgeCount()), 0);
    m_fixedFace.assign(m_mesh.dimension == 3 ? size_t(m_mesh.sideCount()) : 0, 0);
    auto fix = [&](int side) {
        int count = 0;
        const auto edges = m_mesh.sideEdges(side, count);
        for (int i = 0; i < count; ++i)
            m_fixedEdge[size_t(edges[size_t(i)])] = 1;
        if (m_mesh.dimension == 3)
            m_fixedFace[size_t(side)] = 1;
    };
    // Hidden conductors (ground, infinity, mirror plane) give way where they meet a named one.
    for (const bool hidden : {true, false})
        for (int e = 0; e < m_mesh.sideCount(); ++e) {
            const int c = m_mesh.sideTag[size_t(e)];
            const int k = c >= 0 ? ofSide[size_t(c)] : -1;
            if (k < 0 || m_problem.conductors[size_t(k)].hidden != hidden)
                continue;
            fix(e);
            for (const int v : m_mesh.sideCorners(e)) {
                const int other = m_conductorOfVertex[size_t(v)];
                if (other >= 0 && other != k && !hidden &&
                    !m_problem.conductors[size_t(other)].hidden) {
                    const auto &a = m_problem.conductors[size_t(other)],
                               &b = m_problem.conductors[size_t(k)];
                    throw Error(6004,
                                "conductors " + a.name + " and " + b.name +
                                    " touch each other at a corner: a short circuit",
                                {std::max(a.line, b.line), "on", -1});
                }
                m_conductorOfVertex[size_t(v)] = k;
            }
        }
    m_tiedVertex.assign(size_t(m_mesh.vertexCount()), 0);
    for (int e = 0; e < m_mesh.sideCount(); ++e)
        if (const int c = m_mesh.sideTag[size_t(e)];
            c >= 0 && std::find(m_problem.tiedSides.begin(), m_problem.tiedSides.end(), c) !=
                          m_problem.tiedSides.end()) {
            fix(e);
            for (const int v : m_mesh.sideCorners(e))
                m_tiedVertex[size_t(v)] = 1;
        }
    // Every connected piece of the field needs a conductor.
    std::vector<int> piece(size_t(m_mesh.cellCount()), -1), stack;
    for (int s = 0; s < m_mesh.cellCount(); ++s) {
        if (piece[size_t(s)] >= 0)
            continue;
        bool held = false;
        piece[size_t(s)] = s;
        stack = {s};
        while (!stack.empty()) {
            const int t = stack.back();
            stack.pop_back();
            for (const int v : m_mesh.corners(t))
                held = held || m_conductorOfVertex[size_t(v)] >= 0;
            for (const int side : m_mesh.sidesOf(t))
                for (const int n : m_mesh.sideCells[size_t(side)])
                    if (n >= 0 && piece[size_t(n)] < 0) {
                        piece[size_t(n)] = s;
                        stack.push_back(n);
                    }
        }
        if (!held) {
            const auto& r = m_partition.regions()[size_t(
                m_partition.pieces()[size_t(m_mesh.piece[size_t(s)])].region)];
            throw Error(6011,
                        "no conductor touches the part of the field in '" + r.name +
                            "': its potential is undefined; put an electrode there",
                        {r.line, {}, -1});
        }
    }
    bool reference = false;
    for (const Conductor& c : m_problem.conductors)
        reference = reference || (c.kind == Conductor::Kind::voltage && !c.sides.empty());
    if (!reference)
        throw Error(6012,
                    "no conductor has a given potential: all potentials are undefined; give one "
                    "electrode a voltage");
}

std::vector<char> ElectrostaticSolver::freeFunctions(int order) const
{
    const int nv = m_mesh.vertexCount();
    std::vector<char> isFree(size_t(m_space.count(order)), 1);
    for (int v = 0; v < nv; ++v)
        isFree[size_t(v)] = m_conductorOfVertex[size_t(v)] < 0 && !m_tiedVertex[size_t(v)];
    for (int e = 0; e < m_mesh.edgeCount(); ++e)
        if (m_fixedEdge[size_t(e)])
            for (const int i : m_space.insideEdge(e, order))
                isFree[size_t(i)] = 0;
    for (size_t f = 0; f < m_fixedFace.size() && order >= 3; ++f)
        if (m_fixedFace[f])
            isFree[size_t(nv + 2 * m_mesh.edgeCount()) + f] = 0;
    return isFree;
}

fem::Numbering ElectrostaticSolver::numberingOf(int order)
{
    const double start = base::seconds();
    if (m_ranks.empty())
        m_ranks = fem::cornerRanks(m_mesh);
    fem::Numbering numbering = fem::nestedDissection(m_space, order, freeFunctions(order), m_ranks);
    // Tied corners share the last unknown: it couples to the whole rim.
    const int shared = numbering.size();
    for (int v = 0; v < m_mesh.vertexCount(); ++v)
        if (m_tiedVertex[size_t(v)]) {
            if (numbering.size() == shared)
                numbering.function.push_back(v);
            numbering.place[size_t(v)] = shared;
        }
    m_counters.orderSeconds += base::seconds() - start;
    return numbering;
}

std::vector<double> ElectrostaticSolver::rightHandSides(int order, const Potentials& p,
                                                        const fem::Numbering& numbering) const
{
    const auto size = size_t(numbering.size()), conductors = p.unit.size();
    const int local = m_space.localCount(order);
    const bool fixedCharge = m_problem.hasFixedCharge();
    std::vector<double> rhs((conductors + (fixedCharge ? 1 : 0)) * size, 0.0);
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        int number[mostLocal];
        double sign[mostLocal], x[mostLocal], y[mostLocal];
        int touched[4];
        int count = 0;
        for (const int v : m_mesh.corners(t))
            if (const int k = m_conductorOfVertex[size_t(v)];
                k >= 0 && std::find(touched, touched + count, k) == touched + count)
                touched[count++] = k;
        if (count == 0)
            continue;
        m_space.local(t, number, sign);
        for (int c = 0; c < count; ++c) {
            for (int i = 0; i < local; ++i)
                x[i] = p.unit[size_t(touched[c])][size_t(number[i])];
            m_elements.multiply(t, local, x, y);
            for (int i = 0; i < local; ++i)
                if (const int row = numbering.place[size_t(number[i])]; row >= 0)
                    rhs[size_t(touched[c]) * size + size_t(row)] -= y[i];
        }
    }
    if (fixedCharge)
        for (size_t i = 0; i < size; ++i)
            rhs[conductors * size + i] = m_load[size_t(numbering.function[i])];
    return rhs;
}

void ElectrostaticSolver::chargesOf(Potentials& p) const
{
    const int conductors = int(p.unit.size());
    const size_t n = p.driven.size();
    std::vector<const std::vector<double>*> units;
    for (const auto& unit : p.unit)
        units.push_back(&unit);
    p.C = energyProducts(p.order, units);
    for (double& C : p.C)
        C *= m_problem.scale;
    p.charge0.assign(size_t(conductors), 0.0);
    if (m_problem.hasFixedCharge())
        for (int k = 0; k < conductors; ++k)
            for (size_t i = 0; i < n; ++i)
                p.charge0[size_t(k)] -= m_problem.scale * m_load[i] * p.unit[size_t(k)][i];
    voltagesOf(p);
    p.charge = p.charge0;
    for (int k = 0; k < conductors; ++k)
        for (int l = 0; l < conductors; ++l)
            p.charge[size_t(k)] += p.C[size_t(k * conductors + l)] * p.voltage[size_t(l)];
}

void ElectrostaticSolver::voltagesOf(Potentials& p) const
{
    const int conductors = int(p.unit.size());
    std::vector<int> open;
    p.voltage.assign(size_t(conductors), 0.0);
    for (int k = 0; k < conductors; ++k) {
        const Conductor& c = m_problem.conductors[size_t(k)];
        if (c.kind == Conductor::Kind::voltage || c.sides.empty())
            p.voltage[size_t(k)] = c.value;
        else
            open.push_back(k);
    }
    if (open.empty())
        return;
    const auto m = Eigen::Index(open.size());
    Eigen::MatrixXd A(m, m);
    Eigen::VectorXd b(m);
    for (Eigen::Index i = 0; i < m; ++i) {
        const int k = open[size_t(i)];
        const Conductor& c = m_problem.conductors[size_t(k)];
        b(i) = (c.kind == Conductor::Kind::charge ? c.value : 0.0) - p.charge0[size_t(k)];
        for (int l = 0; l < conductors; ++l)
            b(i) -= p.C[size_t(k * conductors + l)] * p.voltage[size_t(l)];
        for (Eigen::Index j = 0; j < m; ++j)
            A(i, j) = p.C[size_t(k * conductors + open[size_t(j)])];
    }
    const Eigen::VectorXd v = fem::solvedSymmetric(A, b);
    if (!v.allFinite())
        throw Error(6014,
                    "the potential of a floating conductor is undefined: nothing couples it to "
                    "a fixed potential");
    for (Eigen::Index i = 0; i < m; ++i)
        p.voltage[size_t(open[size_t(i)])] = v(i);
}

Potentials ElectrostaticSolver::lifted(int order) const
{
    Potentials p;
    p.order = order;
    p.unit.assign(m_problem.conductors.size(),
                  std::vector<double>(size_t(m_space.count(order)), 0.0));
    for (int v = 0; v < m_mesh.vertexCount(); ++v)
        if (const int k = m_conductorOfVertex[size_t(v)]; k >= 0)
            p.unit[size_t(k)][size_t(v)] = 1.0;
    return p;
}

void ElectrostaticSolver::complete(Potentials& p) const
{
    const auto n = size_t(m_space.count(p.order));
    p.driven.assign(n, 0.0);
    if (!p.fixedCharge.empty())
        p.driven = p.fixedCharge;
    chargesOf(p);
    for (size_t k = 0; k < p.unit.size(); ++k)
        for (size_t i = 0; i < n; ++i)
            p.driven[i] += p.voltage[k] * p.unit[k][i];
    p.energy = 0.5 * m_problem.scale * energyProducts(p.order, {&p.driven})[0];
}

Potentials ElectrostaticSolver::lookAhead(const base::Progress& progress)
{
    const double start = base::seconds();
    const int next = m_order + 1;
    const auto n = size_t(m_space.count(next));
    const fem::HigherPart higher(m_space, m_order, m_elements, freeFunctions(next), m_numbering,
                                 *m_factor);
    Potentials p = best();
    p.order = next;
    std::vector<std::vector<double>*> units;
    for (auto& unit : p.unit) {
        unit.resize(n, 0.0);
        units.push_back(&unit);
    }
    m_counters.iterations += higher.add(units, {}, progress);
    if (!p.fixedCharge.empty()) {
        p.fixedCharge.resize(n, 0.0);
        m_counters.iterations += higher.add({&p.fixedCharge}, m_load, progress);
    }
    complete(p);
    m_counters.solveSeconds += base::seconds() - start;
    return p;
}

std::vector<int> ElectrostaticSolver::estimates() const
{
    return m_looksAhead ? std::vector{m_order} : Solution::estimates();
}

fem::SparseSymmetric ElectrostaticSolver::matrixOf(int order, const fem::Numbering& numbering)
{
    const double start = base::seconds();
    const fem::SparseSymmetric K = fem::assemble(m_space, order, m_elements, numbering);
    m_counters.assembleSeconds += base::seconds() - start;
    for (const double x : K.value)
        if (!std::isfinite(x))
            throw Error(6013, "a permittivity is not a finite number somewhere in its region");
    return K;
}

void ElectrostaticSolver::scatter(const fem::Numbering& numbering, const double* own,
                                  std::vector<double>& full) const
{
    for (int i = 0; i < numbering.size(); ++i)
        full[size_t(numbering.function[size_t(i)])] = own[i];
    // The last unknown is that of all tied corners.
    for (int v = 0; v < m_mesh.vertexCount(); ++v)
        if (m_tiedVertex[size_t(v)])
            full[size_t(v)] = own[numbering.size() - 1];
}

std::unique_ptr<fem::PotentialSystem> ElectrostaticSolver::factorised(
    int order, const fem::SparseSymmetric& K, const fem::Numbering& numbering,
    base::Progress& progress)
{
    auto factor = std::make_unique<fem::PotentialSystem>(m_mesh.dimension, order);
    const double start = base::seconds();
    if (K.size > 0) {
        std::vector<char> coarse(size_t(K.size), 0);
        for (int i = 0; i < K.size; ++i)
            coarse[size_t(i)] = numbering.function[size_t(i)] < m_mesh.vertexCount();
        factor->factorise(K, coarse, progress);
    }
    m_counters.factorSeconds += base::seconds() - start;
    m_counters.factorEntries = factor->factorEntries();
    return factor;
}

Potentials ElectrostaticSolver::solveOrder(int order, base::Progress& progress)
{
    const int n = m_space.count(order);
    const auto conductors = m_problem.conductors.size();
    const fem::Numbering numbering = numberingOf(order);
    progress.check();
    const fem::SparseSymmetric K = matrixOf(order, numbering);
    progress.check();
    auto factor = factorised(order, K, numbering, progress);
    progress.check();

    Potentials p = lifted(order);
    p.unknowns = K.size;
    const bool fixedCharge = m_problem.hasFixedCharge();
    std::vector<double> rhs = rightHandSides(order, p, numbering);
    const double start = base::seconds();
    if (K.size > 0)
        factor->solve(rhs, int(conductors) + (fixedCharge ? 1 : 0), progress);
    m_counters.solveSeconds += base::seconds() - start;
    auto scattered = [&](size_t column, std::vector<double>& full) {
        scatter(numbering, rhs.data() + column * size_t(K.size), full);
    };
    for (size_t k = 0; k < conductors; ++k)
        scattered(k, p.unit[k]);
    if (fixedCharge) {
        p.fixedCharge.assign(size_t(n), 0.0);
        scattered(conductors, p.fixedCharge);
    }
    complete(p);
    if (order == m_order) {
        m_numbering = numbering;
        m_factor = std::move(factor);
        m_counters.unknowns = K.size;
    }
    return p;
}

std::vector<double> ElectrostaticSolver::pairsOf(const std::vector<std::vector<fem::Wide>>& partial,
                                                 size_t n)
{
    std::vector<double> sum(n * n, 0.0);
    for (const auto& own : partial)
        for (size_t f = 0; f < n; ++f)
            for (size_t g = f; g < n; ++g)
                sum[f * n + g] += own[f / fem::wide * n + g][f % fem::wide];
    for (size_t f = 0; f < n; ++f)
        for (size_t g = 0; g < f; ++g)
            sum[f * n + g] = sum[g * n + f];
    return sum;
}

std::vector<double> ElectrostaticSolver::energyProducts(
    int order, const std::vector<const std::vector<double>*>& fields) const
{
    const int nt = m_mesh.cellCount(), local = m_space.localCount(order);
    const size_t n = fields.size(), groups = (n + fem::wide - 1) / fem::wide;
    // Partial sums over fixed blocks: the same for any number of threads. By group of fields and
    // the field that they are paired with.
    constexpr int block = 1024;
    std::vector<std::vector<fem::Wide>> partial(size_t((nt + block - 1) / block));
#pragma omp parallel for schedule(dynamic, 4)
    for (size_t k = 0; k < partial.size(); ++k) {
        std::vector<std::array<fem::Wide, mostLocal>> x(groups);
        fem::Wide y[mostLocal];
        partial[k].assign(groups * n, fem::Wide{});
        for (int t = int(k) * block; t < std::min(nt, (int(k) + 1) * block); ++t) {
            int number[mostLocal];
            double sign[mostLocal];
            m_space.local(t, number, sign);
            for (size_t f = 0; f < n; ++f)
                for (int i = 0; i < local; ++i)
                    x[f / fem::wide][size_t(i)][f % fem::wide] = (*fields[f])[size_t(number[i])];
            for (size_t g = 0; g < groups; ++g) {
                m_elements.multiply(t, local, x[g].data(), y);
                for (size_t d = g * fem::wide; d < n; ++d)
                    for (int i = 0; i < local; ++i)
                        partial[k][g * n + d] += y[i] * x[d / fem::wide][size_t(i)][d % fem::wide];
            }
        }
    }
    return pairsOf(partial, n);
}

void ElectrostaticSolver::solve(int lowestOrder, base::Progress& progress)
{
    m_potentials.clear();
    m_forces.forgetForces();
    for (int order = m_looksAhead ? m_order : lowestOrder; order <= m_order; ++order)
        m_potentials.push_back(solveOrder(order, progress));
    if (m_looksAhead)
        m_potentials.push_back(lookAhead(progress));
}

const Potentials& ElectrostaticSolver::at(int order) const
{
    for (const Potentials& p : m_potentials)
        if (p.order == order)
            return p;
    YH_ASSERT(false, "order was solved");
    return m_potentials.back();
}

const ElectrostaticSolver& ElectrostaticSolver::even() const
{
    YH_ASSERT(m_problem.even, "an odd mirror plane");
    if (!m_even) {
        base::Progress quiet;
        m_even = std::make_unique<ElectrostaticSolver>(*m_problem.even, m_mesh, m_partition,
                                                       m_order, quiet);
        m_even->solve(m_potentials.front().order, quiet);
    }
    return *m_even;
}

double ElectrostaticSolver::potential(int order, const mesh::Locator::Hit& hit) const
{
    return m_space.value(at(order).driven, order, hit.cell, hit.xi);
}

Point ElectrostaticSolver::field(int order, int cell, const Point& xi) const
{
    return -1.0 * m_space.gradient(at(order).driven, order, cell, xi);
}

bool ElectrostaticSolver::isFarShell(int cell) const
{
    const auto piece = size_t(m_mesh.piece[size_t(cell)]);
    return m_partition.regions()[size_t(m_partition.pieces()[piece].region)].name == "far shell";
}

Point ElectrostaticSolver::realField(int order, int cell, const Point& xi) const
{
    const Point E = field(order, cell, xi);
    return isFarShell(cell)
               ? m_partition.openShell().stretchAt(mesh::Geometry(m_mesh, cell).at(xi)).shrunk(E)
               : E;
}

fem::Tensor ElectrostaticSolver::permittivity(int cell, const Point& p) const
{
    const fem::Coefficient& k = m_problem.eps[size_t(m_mesh.piece[size_t(cell)])];
    return k.at ? k.at(p) : k.constant;
}

ElectrostaticSolver::OfDrive ElectrostaticSolver::unitOf(const Potentials& p,
                                                         const Potentials* below, size_t k)
{
    return {&p.unit[k], below ? &below->unit[k] : nullptr, 0.5 * p.C[k * p.unit.size() + k]};
}

std::vector<ElectrostaticSolver::OfDrive> ElectrostaticSolver::fieldsOf(bool withUnits) const
{
    // The error of the order that was solved, as the next one sees it; in drawings that of the
    // order below, which goes with it.
    const Potentials& p = m_looksAhead ? at(m_order + 1) : best();
    const Potentials* below = m_looksAhead ? &best() : nullptr;
    std::vector<OfDrive> fields = {{&p.driven, below ? &below->driven : nullptr, p.energy}};
    for (size_t k = 0; withUnits && k < p.unit.size(); ++k)
        if (!m_problem.conductors[k].hidden && !m_problem.conductors[k].image)
            fields.push_back(unitOf(p, below, k));
    std::erase_if(fields, [](const OfDrive& f) { return !(f.energy > 0); });
    return fields;
}

void ElectrostaticSolver::highestParts(std::span<const OfDrive> fields, int cell, const int* number,
                                       HighestParts& parts) const
{
    const int order = m_looksAhead ? m_order + 1 : m_order,
              from = order == 1 || m_looksAhead ? 0 : m_space.localCount(order - 1),
              local = m_space.localCount(order);
    std::fill_n(parts.x, local, fem::Wide{});
    for (size_t c = 0; c < fields.size(); ++c)
        for (int i = from; i < local; ++i) {
            const auto at = size_t(number[i]);
            parts.x[i][c] = (*fields[c].field)[at];
            if (fields[c].below && at < fields[c].below->size())
                parts.x[i][c] -= (*fields[c].below)[at];
        }
    m_elements.multiply(cell, local, parts.x, parts.y);
}

std::vector<double> ElectrostaticSolver::indicator(bool withUnits) const
{
    const int nt = m_mesh.cellCount(),
              local = m_space.localCount(m_looksAhead ? m_order + 1 : m_order);
    const std::vector<OfDrive> fields = fieldsOf(withUnits);
    std::vector<double> eta(size_t(nt), 0.0);
    for (const OfDrive& f : fields) {
        // In drawings borders err by far less than fields do: those of the driven one will do.
        if (m_mesh.dimension == 2 && &f != &fields.front())
            continue;
        const auto shares = geometryShares(*f.field, f.energy);
        for (size_t t = 0; t < eta.size(); ++t)
            eta[t] += shares[t];
    }
#pragma omp parallel for schedule(dynamic, 512)
    for (int t = 0; t < nt; ++t) {
        int number[mostLocal];
        double sign[mostLocal];
        m_space.local(t, number, sign);
        HighestParts parts;
        for (size_t k = 0; k < fields.size(); k += fem::wide) {
            const auto some =
                std::span(fields).subspan(k, std::min<size_t>(fem::wide, fields.size() - k));
            highestParts(some, t, number, parts);
            fem::Wide energy{};
            for (int i = 0; i < local; ++i)
                energy += parts.x[i] * parts.y[i];
            for (size_t c = 0; c < some.size(); ++c)
                eta[size_t(t)] += energy[c] * m_problem.scale / (2 * some[c].energy);
        }
    }
    if (m_even && withUnits) {
        const auto other = m_even->indicator(true);
        for (size_t t = 0; t < eta.size(); ++t)
            eta[t] += other[t];
    }
    return eta;
}

std::vector<double> ElectrostaticSolver::uncancelledChanges() const
{
    const Potentials& p = m_looksAhead ? at(m_order + 1) : best();
    const Potentials* below = m_looksAhead ? &best() : nullptr;
    const size_t n = p.unit.size(), groups = (n + fem::wide - 1) / fem::wide;
    std::vector<OfDrive> fields;
    for (size_t k = 0; k < n; ++k)
        fields.push_back(unitOf(p, below, k));
    const int nt = m_mesh.cellCount(), local = m_space.localCount(p.order);
    // Partial sums over fixed blocks: the same for any number of threads. By group of fields and
    // the field that they are paired with.
    constexpr int block = 4096;
    std::vector<std::vector<fem::Wide>> partial(size_t((nt + block - 1) / block));
#pragma omp parallel for schedule(dynamic, 1)
    for (size_t k = 0; k < partial.size(); ++k) {
        std::vector<HighestParts> parts(groups);
        partial[k].assign(groups * n, fem::Wide{});
        for (int t = int(k) * block; t < std::min(nt, (int(k) + 1) * block); ++t) {
            int number[mostLocal];
            double sign[mostLocal];
            m_space.local(t, number, sign);
            for (size_t g = 0; g < groups; ++g)
                highestParts(std::span(fields).subspan(
                                 g * fem::wide, std::min<size_t>(fem::wide, n - g * fem::wide)),
                             t, number, parts[g]);
            for (size_t g = 0; g < groups; ++g)
                for (size_t d = g * fem::wide; d < n; ++d) {
                    fem::Wide sum{};
                    for (int i = 0; i < local; ++i)
                        sum += parts[g].x[i] * parts[d / fem::wide].y[i][d % fem::wide];
                    partial[k][g * n + d] += sum < 0 ? -sum : sum;
                }
        }
    }
    std::vector<double> changes = pairsOf(partial, n);
    for (double& change : changes)
        change *= m_problem.scale;
    return changes;
}

double ElectrostaticSolver::geometryError() const
{
    if (!(best().energy > 0))
        return 0;
    const auto shares = geometryShares(best().driven, best().energy);
    return std::accumulate(shares.begin(), shares.end(), 0.0);
}

double ElectrostaticSolver::geometryErrorOfDrives(double ofField) const
{
    double most = ofField;
    for (const OfDrive& f : fieldsOf(true)) {
        const auto shares = geometryShares(*f.field, f.energy);
        most = std::max(most, std::accumulate(shares.begin(), shares.end(), 0.0));
    }
    return most;
}

const std::vector<CurvedSide>& ElectrostaticSolver::borders() const
{
    if (!m_borders) {
        m_borders.emplace();
        // Where the medium is the same on both sides a moved border changes nothing.
        overCurvedSides(
            m_mesh, m_partition, [this](int tag) { return isMaterialBorder(tag); },
            [this](const CurvedSide& c, const mesh::Geometry&) { m_borders->push_back(c); });
    }
    return *m_borders;
}

std::vector<double> ElectrostaticSolver::geometryShares(const std::vector<double>& field,
                                                        double energy) const
{
    // Energy density of the border cell times the content between the quadratic and the exact
    // side: the first-order change of energy when a border moves (Jackson, problem 1.19, from
    // memory).
    const int order = field.size() > size_t(m_space.count(m_order)) ? m_order + 1 : m_order;
    std::vector<double> share(size_t(m_mesh.cellCount()), 0.0);
    for (const CurvedSide& c : borders()) {
        const mesh::Geometry g(m_mesh, c.cell);
        // On the rim itself the mapped permittivity has no limit; the cell's middle stands for it.
        const Point xi = isFarShell(c.cell) ? g.centre() : c.middle,
                    E = m_space.gradient(field, order, c.cell, xi), at = g.at(xi);
        const double density = 0.5 * dot(E, permittivity(c.cell, at).times(E));
        share[size_t(c.cell)] +=
            density * c.offset * measureAt(m_problem.measure, at) * m_problem.scale / energy;
    }
    return share;
}

bool ElectrostaticSolver::isMaterialBorder(int curve) const
{
    const auto& faces = m_partition.sides()[size_t(curve)].pieces;
    if (faces.size() < 2) {
        // The rim of the far shell stands for infinity: a rim within it is a large grounded sphere.
        // In the plane its potential is free and its place does not matter.
        return m_mesh.dimension == 3 || m_problem.measure == fem::Measure::axisymmetric ||
               m_partition.regions()[size_t(m_partition.pieces()[size_t(faces[0])].region)].name !=
                   "far shell";
    }
    const fem::Coefficient &a = m_problem.eps[size_t(faces[0])],
                           &b = m_problem.eps[size_t(faces[1])];
    const bool shell =
        m_partition.regions()[size_t(m_partition.pieces()[size_t(faces[0])].region)].hidden &&
        m_partition.regions()[size_t(m_partition.pieces()[size_t(faces[1])].region)].hidden;
    return !shell && (a.at || b.at || !(a.constant == b.constant));
}

std::vector<double> ElectrostaticSolver::derivativeBy(const LocalFunctional& functional) const
{
    if (!functional.motion)
        return std::move(derivativeOf(functional, m_mesh, 1, m_order)[0]);
    const Motion& motion = *functional.motion;
    return workDerivative(
        m_mesh, m_partition, m_order, motion, shiftOf(motion.pieces),
        [this](int t, const Point& xi, const Point& slope, const Point& v) {
            const fem::Tensor eps = permittivity(t, mesh::Geometry(m_mesh, t).at(xi));
            const Point E = field(m_order, t, xi), D = eps.times(E);
            return dot(E, v) * eps.times(slope) + dot(D, slope) * v - dot(slope, v) * D;
        });
}

std::vector<double> ElectrostaticSolver::dualOf(const LocalFunctional& functional) const
{
    const std::vector<double> by = derivativeBy(functional);
    std::vector<double> rhs(size_t(m_numbering.size()), 0.0);
    for (size_t i = 0; i < by.size(); ++i)
        if (const int place = m_numbering.place[i]; place >= 0)
            rhs[size_t(place)] += by[i];
    if (!rhs.empty())
        m_factor->solve(rhs, 1, base::Progress());
    return rhs;
}

std::vector<double> ElectrostaticSolver::dualIndicator(const LocalFunctional& functional)
{
    const int nt = m_mesh.cellCount(), order = m_order, local = m_space.localCount(order);
    const std::vector<double> rhs = dualOf(functional);
    int number[mostLocal];
    double sign[mostLocal];
    std::vector<double> dual(size_t(m_space.count(order)), 0.0);
    for (size_t i = 0; i < dual.size(); ++i)
        if (m_numbering.place[i] >= 0)
            dual[i] = rhs[size_t(m_numbering.place[i])];
    const int from = order == 1 ? 0 : m_space.localCount(order - 1);
    std::vector<double> eta(size_t(nt), 0.0);
    const std::vector<double>& u = best().driven;
    for (int t = 0; t < nt; ++t) {
        double x[mostLocal], y[mostLocal], z[mostLocal];
        m_space.local(t, number, sign);
        for (int i = 0; i < local; ++i) {
            x[i] = i < from ? 0.0 : u[size_t(number[i])];
            z[i] = i < from ? 0.0 : dual[size_t(number[i])];
        }
        double uu = 0, zz = 0;
        m_elements.multiply(t, local, x, y);
        for (int i = from; i < local; ++i)
            uu += x[i] * y[i];
        m_elements.multiply(t, local, z, y);
        for (int i = from; i < local; ++i)
            zz += z[i] * y[i];
        eta[size_t(t)] = std::sqrt(std::max(0.0, uu) * std::max(0.0, zz));
    }
    return eta;
}

std::vector<SingularCorner> ElectrostaticSolver::singularCorners() const
{
    return findSingularCorners(m_problem, m_mesh, m_partition);
}

std::vector<SingularCorner> findSingularCorners(const ElectrostaticProblem& problem,
                                                const mesh::Mesh& mesh,
                                                const shape::Partition& partition)
{
    CornerProblem corners;
    corners.measure = problem.measure;
    corners.coefficient = [&problem](int piece, const Point& p) {
        const fem::Coefficient& eps = problem.eps[size_t(piece)];
        const fem::Tensor tensor = eps.at ? eps.at(p) : eps.constant;
        return 0.5 * (tensor.xx + tensor.yy);
    };
    corners.held.assign(partition.sides().size(), 0);
    for (const Conductor& c : problem.conductors)
        for (const int e : c.sides)
            corners.held[size_t(e)] = c.name != "infinity";
    return findSingularCorners(corners, mesh, partition);
}

}  // namespace yh::physics
