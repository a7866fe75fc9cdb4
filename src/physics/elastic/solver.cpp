// Solving for displacements and potential: steady, as natural vibrations, over a band.
#include "fem/ldlt.h"
#include "physics/common/constants.h"
#include "physics/elastic/elastic.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yh::physics {

using Complex = std::complex<double>;
using fem::FreePart;
using Task = ElasticProblem::Task;

namespace {

std::vector<std::vector<char>> liveOf(const ElasticProblem& problem)
{
    std::vector<std::vector<char>> live(ElasticProblem::count);
    for (const ElasticMedium& m : problem.media) {
        live[ElasticProblem::x].push_back(m.moves);
        live[ElasticProblem::y].push_back(m.moves);
        live[ElasticProblem::potential].push_back(m.polarises);
    }
    return live;
}

std::vector<fem::BlockSpace::Held> heldOf(const ElasticProblem& problem)
{
    return {{ElasticProblem::x, problem.held[0]}, {ElasticProblem::y, problem.held[1]}};
}

std::vector<fem::BlockSpace::Body> bodiesOf(const ElasticProblem& problem)
{
    std::vector<fem::BlockSpace::Body> list;
    for (const auto& e : problem.electrodes)
        list.push_back({ElasticProblem::potential, e.sides, e.pieces, !e.floats});
    return list;
}

/// Quadrature beyond polynomials for what holds 1 / r.
int moreFor(const ElasticProblem& problem)
{
    return problem.isAxisymmetric() ? 3 : 0;
}

fem::ElementMatrices elementsOf(const ElasticProblem& problem, const fem::H1Space& space,
                                elastic_form::Part part)
{
    return fem::blockElements(space, ElasticProblem::count, elastic_form::of(problem, part),
                              problem.area, moreFor(problem));
}

/** How many motions no support holds, of bodies with what is held of each. */
int freeOf(const std::map<int, Eigen::Matrix3d>& held, bool isAxisymmetric)
{
    int free = 0;
    for (const auto& [v, N] : held) {
        if (isAxisymmetric) {
            free += N(1, 1) == 0;
            continue;
        }
        const auto e = fem::symmetricEigen(N);
        for (int k = 0; k < 3; ++k)
            free += !(e.value(k) > 1e-12 * std::max(1.0, e.value(2)));
    }
    return free;
}

}  // namespace

bool ElasticProblem::isPiezo() const
{
    return std::any_of(activePieces.begin(), activePieces.end(),
                       [this](int f) { return media[size_t(f)].isPiezo; });
}

bool ElasticProblem::isLossy() const
{
    return std::any_of(activePieces.begin(), activePieces.end(),
                       [this](int f) { return media[size_t(f)].isLossy(); });
}

int ElasticProblem::electrodeOf(const std::string& name) const
{
    for (size_t k = 0; k < electrodes.size(); ++k)
        if (electrodes[k].name == name)
            return int(k);
    return -1;
}

bool ElasticProblem::isDriven() const
{
    return !loads.empty() || std::any_of(electrodes.begin(), electrodes.end(),
                                         [](const auto& e) { return !e.floats && e.voltage != 0; });
}

ElasticSolver::ElasticSolver(const ElasticProblem& problem, const mesh::Mesh& mesh,
                             const shape::Partition& partition, int order, base::Progress&)
    : m_problem(problem),
      m_mesh(mesh),
      m_partition(partition),
      m_space(mesh, order),
      m_block(m_space, liveOf(problem), heldOf(problem), bodiesOf(problem)),
      m_stiffness(elementsOf(problem, m_space, elastic_form::Part::stiffness)),
      m_mass(elementsOf(problem, m_space, elastic_form::Part::mass))
{
    if (problem.isLossy())
        m_loss = elementsOf(problem, m_space, elastic_form::Part::loss);
    nameQuantities();
    m_hasCorners = !corners(problem, mesh, partition).empty();
}

void ElasticSolver::solveBand(Solved& now, base::Progress& progress) const
{
    std::vector<std::vector<double>> loads;
    if (!m_problem.loads.empty())
        loads.push_back(loadVector(now.order));
    constexpr double tolerance = 1e-8;
    now.response = std::make_unique<fem::BandResponse>(
        now.family, m_block.layout(now.order).free, loads,
        fem::BandResponse::Band{squared(2 * pi * m_problem.low), squared(2 * pi * m_problem.high),
                                tolerance},
        progress);
}

void ElasticSolver::solve(int lowestOrder, base::Progress& progress)
{
    m_solved.clear();
    if (m_problem.task == Task::steady)
        refuseFreeMotion();
    for (int order = std::max(lowestOrder, estimates().front()); order <= m_space.order();
         ++order) {
        progress.check();
        const auto& layout = m_block.layout(order);
        Solved s;
        s.order = order;
        const fem::ElementMatrices* loss = m_problem.isLossy() ? &m_loss : &m_stiffness;
        const double isLossy = m_problem.isLossy() ? 1.0 : 0.0;
        const std::vector<double> share(m_partition.pieces().size(), isLossy);
        const fem::Term terms[] = {{&m_stiffness, {}}, {loss, share}, {&m_mass, {}}};
        s.family = fem::assemble(layout.functions, terms, layout.numbering);
        m_counters.unknowns = layout.free;
        m_solved.push_back(std::move(s));
        Solved& now = m_solved.back();
        if (m_problem.task == Task::steady) {
            solveSteady(now);
        } else if (m_problem.task == Task::modes) {
            solveModes(now, progress);
        } else {
            solveBand(now, progress);
        }
    }
    if (m_problem.task == Task::band)
        chooseShown();
    // Readings come from several threads.
    for (int k = 0; k < std::max(1, std::min(m_problem.modes, modeCount())); ++k)
        static_cast<void>(fields(m_space.order(), {k, shownState().frequency}));
}

void ElasticSolver::chooseShown()
{
    // What is looked at: where figures are asked, or the strongest resonance.
    m_shown = m_problem.marked.empty() ? 0.5 * (m_problem.low + m_problem.high)
                                       : m_problem.marked.front();
    double strongest = 0;
    for (size_t e = 0; e < m_problem.electrodes.size() && m_problem.marked.empty(); ++e)
        if (m_problem.electrodes[e].voltage != 0 && !m_problem.electrodes[e].floats)
            for (const ElectricalResonance& r : resonances(m_space.order(), int(e)))
                if (r.strength() > strongest) {
                    strongest = r.strength();
                    // Without losses there is no limit at a resonance itself.
                    m_shown = r.series * (m_problem.isLossy() ? 1 : 1.002);
                }
}

ElasticSolver::Solved& ElasticSolver::solved(int order) const
{
    for (Solved& s : m_solved)
        if (s.order == order)
            return s;
    throw base::Error(7501, "order " + std::to_string(order) + " was not solved for");
}

const fem::BandResponse& ElasticSolver::response(int order) const
{
    return *solved(order).response;
}

int ElasticSolver::freeMotions() const
{
    // Bodies that hang together, by their vertices.
    std::vector<int> root(size_t(m_mesh.vertexCount()));
    std::iota(root.begin(), root.end(), 0);
    auto find = [&root](int v) {
        while (root[size_t(v)] != v)
            v = root[size_t(v)] = root[size_t(root[size_t(v)])];
        return v;
    };
    std::vector<char> moves(root.size(), 0);
    for (int t = 0; t < m_mesh.cellCount(); ++t)
        if (m_problem.media[size_t(m_mesh.piece[size_t(t)])].moves)
            for (const int v : m_mesh.corners(t)) {
                moves[size_t(v)] = 1;
                root[size_t(find(v))] = find(m_mesh.corners(t)[0]);
            }
    const auto heldX = m_block.heldVertices(ElasticProblem::x),
               heldY = m_block.heldVertices(ElasticProblem::y);
    const double size = m_partition.size();
    std::map<int, Eigen::Matrix3d> normal;
    for (size_t v = 0; v < root.size(); ++v) {
        if (!moves[v])
            continue;
        auto& N = normal.try_emplace(find(int(v)), Eigen::Matrix3d::Zero()).first->second;
        const Point p = m_mesh.vertices[v];
        // A motion along x, along y and a turn: (a - t y, b + t x).
        const Eigen::Vector3d x(1, 0, -p.y / size), y(0, 1, p.x / size);
        if (heldX[v])
            N += x * x.transpose();
        if (heldY[v])
            N += y * y.transpose();
    }
    return freeOf(normal, m_problem.isAxisymmetric());
}

void ElasticSolver::refuseFreeMotion() const
{
    const int free = freeMotions();
    if (free > 0)
        throw base::Error(
            7502, "nothing holds the body: " + std::to_string(free) +
                      (free == 1 ? " way to move as a whole is" : " ways to move as a whole are") +
                      " left; add lines such as `fixed on beam.left` or `roller on beam.bottom`");
}

void ElasticSolver::onCells(const ElasticProblem::Load& load, int degree, const AddForce& add) const
{
    const auto& rule = fem::cellRule(m_mesh.dimension, degree);
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const ElasticMedium& m = m_problem.media[size_t(m_mesh.piece[size_t(t)])];
        if (!m.moves)
            continue;
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            const Point p = g.at(q.xi);
            add(t, q.xi,
                q.w * g.determinant(q.xi) * fem::measureAt(m_problem.area, p) * m.density *
                    load.traction);
        }
    }
}

std::vector<double> ElasticSolver::loadVector(int order) const
{
    const auto& layout = m_block.layout(order);
    std::vector<double> b(size_t(layout.numbering.size()), 0.0);
    const int n = m_space.localCount(order);
    int number[fem::mostLocal];
    double sign[fem::mostLocal];
    constexpr auto F = size_t(ElasticProblem::count);
    auto add = [&](int cell, const Point& xi, const Point& force) {
        m_space.local(cell, number, sign);
        fem::Basis basis;
        fem::basis(m_mesh.dimension, m_space.order(), xi, basis);
        for (int i = 0; i < n; ++i)
            for (size_t f = 0; f < 2; ++f)
                if (const int p = layout.numbering.place[size_t(number[i]) * F + f]; p >= 0)
                    b[size_t(p)] += sign[i] * basis.value[i] * (f == 0 ? force.x : force.y);
    };
    const int degree = 2 * m_space.order() + 2;
    for (const ElasticProblem::Load& load : m_problem.loads) {
        if (load.sides.empty()) {
            onCells(load, degree, add);
            continue;
        }
        const auto on = flags(load.sides, m_partition.sides().size());
        fem::onSides(
            m_mesh, m_problem.area, degree,
            [&](int side, int cell) {
                const int tag = m_mesh.sideTag[size_t(side)];
                return tag >= 0 && on[size_t(tag)] &&
                       m_problem.media[size_t(m_mesh.piece[size_t(cell)])].moves;
            },
            [&](int, int cell, const Point& xi, const Point&, const Point& normal) {
                add(cell, xi, -load.pressure * normal + norm(normal) * load.traction);
            });
    }
    return b;
}

Eigen::VectorXcd ElasticSolver::inputs(int order) const
{
    const auto& layout = m_block.layout(order);
    const int given = layout.numbering.size() - layout.free;
    Eigen::VectorXcd in = Eigen::VectorXcd::Zero(given + (m_problem.loads.empty() ? 0 : 1));
    for (size_t e = 0; e < m_problem.electrodes.size(); ++e)
        if (const int p = layout.bodyPlace[e]; p >= layout.free)
            in(p - layout.free) = m_problem.electrodes[e].voltage;
    if (!m_problem.loads.empty())
        in(given) = 1;
    return in;
}

void ElasticSolver::solveSteady(Solved& s) const
{
    const auto& layout = m_block.layout(s.order);
    const FreePart part(s.family, layout.free);
    std::vector<double> x(size_t(layout.numbering.size()), 0.0), b = loadVector(s.order), y;
    for (size_t e = 0; e < m_problem.electrodes.size(); ++e)
        if (const int p = layout.bodyPlace[e]; p >= layout.free)
            x[size_t(p)] = m_problem.electrodes[e].voltage;
    fem::multiplySymmetric<double>(s.family.start, s.family.row, s.family.value[0], x, y);
    std::vector<double> r(static_cast<size_t>(layout.free));
    for (size_t i = 0; i < r.size(); ++i)
        r[i] = part.scale[i] * (b[i] - y[i]);
    fem::Ldlt<double> factors;
    factors.factorise(layout.free, part.start, part.row, part.value[0]);
    factors.solve(r, 1);
    for (size_t i = 0; i < r.size(); ++i)
        x[i] = part.scale[i] * r[i];
    s.steady = std::move(x);
}

void ElasticSolver::solveModes(Solved& s, base::Progress& progress) const
{
    const auto& layout = m_block.layout(s.order);
    const FreePart part(s.family, layout.free);
    // A little below zero: the stiffness of a body that nothing holds is singular.
    double fastest = 0;
    for (const int f : m_problem.activePieces)
        if (const ElasticMedium& m = m_problem.media[size_t(f)]; m.moves)
            fastest = std::max(fastest, std::sqrt(m.c(3, 3).real() / m.density));
    constexpr double share = 0.02;
    fem::EigenProblem p;
    p.size = layout.free;
    p.shift = -squared(share * 2 * pi * fastest / m_partition.size());
    fem::Ldlt<double> factors;
    std::vector<double> shifted = part.value[0];
    for (size_t k = 0; k < shifted.size(); ++k)
        shifted[k] -= p.shift * part.value[2][k];
    factors.factorise(layout.free, part.start, part.row, std::move(shifted));
    p.multiplyM = [&part](const auto& x, auto& y) { part.times(2, x, y); };
    p.multiplyBoth = [&part](const auto& x, auto& yK, auto& yM) {
        part.times(0, x, yK);
        part.times(2, x, yM);
    };
    p.solveShifted = [&factors](auto& columns, int count) { factors.solve(columns, count); };
    const int rigid = freeMotions();
    s.modes = fem::lowestEigenpairs(p, m_problem.modes + rigid + 1, progress);
    s.rigid = rigid;
    s.modes.value.erase(s.modes.value.begin(), s.modes.value.begin() + rigid);
    s.modes.vector.erase(s.modes.vector.begin(), s.modes.vector.begin() + rigid);
    for (auto& v : s.modes.vector) {
        v.resize(size_t(layout.numbering.size()), 0.0);
        for (int i = 0; i < layout.free; ++i)
            v[size_t(i)] *= part.scale[size_t(i)];
    }
}

void ElasticSolver::split(int order, Fields& f) const
{
    std::vector<double> re, im;
    for (const Complex& v : f.x) {
        re.push_back(v.real());
        im.push_back(v.imag());
    }
    const auto& layout = m_block.layout(order);
    for (int c = 0; c < ElasticProblem::count; ++c) {
        f.real[c] = m_block.coefficients(layout, c, re);
        f.imaginary[c] = m_block.coefficients(layout, c, im);
    }
}

const ElasticSolver::Fields& ElasticSolver::fields(int order, const State& state) const
{
    Solved& s = solved(order);
    for (const auto& f : s.fields)
        if (f->state.mode == state.mode && f->state.frequency == state.frequency)
            return *f;
    auto f = std::make_unique<Fields>();
    f->state = state;
    if (m_problem.task == Task::steady)
        f->x.assign(s.steady.begin(), s.steady.end());
    else if (m_problem.task == Task::modes)
        f->x.assign(s.modes.vector[size_t(state.mode)].begin(),
                    s.modes.vector[size_t(state.mode)].end());
    else
        f->x = s.response->at(squared(2 * pi * state.frequency), inputs(order));

    split(order, *f);
    if (m_problem.task == Task::modes) {
        double most = 0;
        for (int v = 0; v < m_mesh.vertexCount(); ++v)
            most = std::max(most, std::hypot(f->real[0][size_t(v)], f->real[1][size_t(v)]));
        constexpr double shown = 1e-6;  // m
        for (Complex& v : f->x)
            v *= most > 0 ? shown / most : 0.0;
        split(order, *f);
    }
    s.fields.push_back(std::move(f));
    return *s.fields.back();
}

}  // namespace yh::physics
