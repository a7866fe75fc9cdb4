// The search for resonances, which cavities and the sections of guides share.
#include "base/clock.h"
#include "fem/eigen.h"
#include "fem/ldlt.h"
#include "physics/wave/common/wave.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

namespace yh::physics {

std::vector<int> wallSides(const WaveProblem& problem, const mesh::Mesh& mesh)
{
    std::vector<int> list;
    for (int s = 0; s < mesh.sideCount(); ++s) {
        const int tag = mesh.sideTag[size_t(s)];
        const bool ends = mesh.sideCells[size_t(s)][1] < 0;
        const int kind = tag < 0 ? int(WaveProblem::open) : problem.sides[size_t(tag)];
        if (kind >= WaveProblem::electric || (ends && kind == WaveProblem::open))
            list.push_back(s);
    }
    return list;
}

Gradients::Gradients(const fem::EdgeSpace& space, const fem::H1Space& scalar, int order,
                     const fem::ElementMatrices& elements, std::span<const int> walls,
                     std::span<const int> ranks)
    : m_space(space),
      m_scalar(scalar),
      m_order(order),
      m_elements(elements),
      m_ranks(ranks.begin(), ranks.end())
{
    const mesh::Mesh& m = space.mesh();
    const auto n = size_t(scalar.count(order)), nv = size_t(m.vertexCount());
    std::vector<int> parent(nv);
    std::iota(parent.begin(), parent.end(), 0);
    auto root = [&](int v) {
        while (parent[size_t(v)] != v)
            v = parent[size_t(v)] = parent[size_t(parent[size_t(v)])];
        return v;
    };
    m_onWall.assign(n, 0);
    for (const int s : walls) {
        const auto corners = m.sideCorners(s);
        for (const int v : corners)
            parent[size_t(root(v))] = root(corners[0]);
        for (const int f : scalar.onSide(s, order))
            m_onWall[size_t(f)] = 1;
    }
    // One corner of every set but the first stands for its set.
    std::vector<char> isFree(n);
    for (size_t i = 0; i < n; ++i)
        isFree[i] = !m_onWall[i];
    const bool turning = space.kind().parts == fem::EdgeKind::turning;
    int grounded = -1;
    std::map<int, std::vector<int>> sets;
    for (int v = 0; v < int(nv) && !turning; ++v) {
        if (!m_onWall[size_t(v)])
            continue;
        const int r = root(v);
        if (grounded < 0)
            grounded = r;
        if (r != grounded) {
            sets[r].push_back(v);
            isFree[size_t(v)] = r == v;
        }
    }
    if (grounded < 0 && !turning)
        isFree[0] = 0;
    m_numbering = fem::nestedDissection(scalar, order, isFree, ranks);
    for (auto& [r, corners] : sets) {
        for (const int v : corners)
            m_numbering.place[size_t(v)] = m_numbering.place[size_t(r)];
        m_sets.push_back(std::move(corners));
    }
    m_system = fem::assemble(scalar, order, elements, m_numbering);
    if (m_system.size == 0)
        return;
    m_factor.analyse(m_system);
    m_factor.factorise(m_system);
}

void Gradients::remove(std::vector<double>& x, const std::vector<double>& y)
{
    if (m_system.size == 0)
        return;
    const auto g = m_space.gradientTransposed(m_scalar, m_order, y);
    std::vector<double> phi(size_t(m_system.size), 0.0);
    for (size_t i = 0; i < g.size(); ++i)
        if (const int p = m_numbering.place[i]; p >= 0)
            phi[size_t(p)] += g[i];
    m_factor.solve(phi, 1);
    std::vector<double> nodal(g.size(), 0.0);
    for (size_t i = 0; i < g.size(); ++i)
        if (const int p = m_numbering.place[i]; p >= 0)
            nodal[i] = phi[size_t(p)];
    const auto back = m_space.gradient(m_scalar, m_order, nodal);
    for (size_t i = 0; i < x.size(); ++i)
        x[i] -= back[i];
}

std::vector<double> Gradients::potentialOf(const std::vector<int>& corners,
                                           const fem::Numbering& inner, fem::Cholesky& factor) const
{
    const int local = m_scalar.localCount(m_order);
    std::vector<double> phi(m_onWall.size(), 0.0), flux = phi;
    for (const int v : corners)
        phi[size_t(v)] = 1;
    int number[fem::mostLocal];
    double sign[fem::mostLocal], x[fem::mostLocal], y[fem::mostLocal];
    for (int t = 0; t < m_scalar.mesh().cellCount(); ++t) {
        m_scalar.local(t, number, sign);
        for (int i = 0; i < local; ++i)
            x[i] = phi[size_t(number[i])];
        m_elements.multiply(t, local, x, y);
        for (int i = 0; i < local; ++i)
            flux[size_t(number[i])] += y[i];
    }
    std::vector<double> rest(size_t(inner.size()));
    for (size_t i = 0; i < rest.size(); ++i)
        rest[i] = -flux[size_t(inner.function[i])];
    if (inner.size() > 0)
        factor.solve(rest, 1);
    for (size_t i = 0; i < rest.size(); ++i)
        phi[size_t(inner.function[i])] = rest[i];
    return phi;
}

std::vector<std::vector<double>> Gradients::betweenWalls()
{
    std::vector<std::vector<double>> list;
    if (m_sets.empty())
        return list;
    // With all walls held, what is left of the potentials is zero where they have no charge.
    std::vector<char> isFree(m_onWall.size());
    for (size_t i = 0; i < isFree.size(); ++i)
        isFree[i] = !m_onWall[i];
    const auto inner = fem::nestedDissection(m_scalar, m_order, isFree, m_ranks);
    const auto system = fem::assemble(m_scalar, m_order, m_elements, inner);
    fem::Cholesky factor;
    if (system.size > 0) {
        factor.analyse(system);
        factor.factorise(system);
    }
    for (const auto& corners : m_sets) {
        const std::vector<double> phi = potentialOf(corners, inner, factor);
        list.push_back(m_space.gradient(m_scalar, m_order, phi));
    }
    return list;
}

Resonances findResonances(const ResonanceSearch& search, Counters& counters,
                          base::Progress& progress)
{
    const fem::EdgeSpace& space = search.space;
    const int p = search.order;
    double start = base::seconds();
    std::vector<char> isFree(size_t(space.count(p)), 1);
    for (const int s : search.walls)
        for (const int i : space.onSide(s, p))
            isFree[size_t(i)] = 0;
    const auto numbering = fem::byRank(space.functionRanks(p, search.ranks), isFree);
    const fem::CellFunctions functions{&space.mesh(), space.localCount(space.order()),
                                       space.localCount(p), space.cellTable()};
    const std::vector<fem::Term> terms{{&search.elements.curl, {}}, {&search.elements.mass, {}}};
    const auto family = fem::assemble(functions, terms, numbering);
    std::unique_ptr<Gradients> gradients;
    if (space.kind().hasEdges())
        gradients = std::make_unique<Gradients>(space, search.scalar, p, search.gradients,
                                                search.walls, search.ranks);
    counters.assembleSeconds += base::seconds() - start;

    fem::EigenProblem e;
    e.size = family.size;
    // Below all resonances the shifted matrix is positive definite. Closer is faster.
    e.shift = search.from > 0      ? search.from
              : search.knownValues ? -0.1 * search.knownValues->front()
                                   : -1 / (search.size * search.size);
    if (search.rough)
        e.tolerance = 1e-7;
    const std::vector<double> shifted{1.0, -e.shift};
    const auto A = family.sum(shifted);
    const fem::SymmetricProduct products(family, 0, 1);
    start = base::seconds();
    fem::Cholesky cholesky;
    fem::Ldlt<double> ldlt;
    if (search.from > 0) {
        ldlt.factorise(A.size, A.start, A.row, A.value);
        e.solveShifted = [&](std::vector<double>& x, int count) { ldlt.solve(x, count); };
    } else {
        cholesky.analyse(A);
        cholesky.factorise(A);
        e.solveShifted = [&](std::vector<double>& x, int count) { cholesky.solve(x, count); };
    }
    counters.factorSeconds += base::seconds() - start;
    start = base::seconds();
    e.multiplyM = [&](const std::vector<double>& x, std::vector<double>& out) {
        products.multiply(1, x, out);
    };
    e.multiplyBoth = [&](const std::vector<double>& x, std::vector<double>& curls,
                         std::vector<double>& masses) { products.multiply(x, curls, masses); };
    std::vector<double> y, all(size_t(space.count(p)), 0.0), allY = all;
    auto spread = [&numbering](const std::vector<double>& x, std::vector<double>& out) {
        for (size_t i = 0; i < x.size(); ++i)
            out[size_t(numbering.function[i])] = x[i];
    };
    // Between magnetic walls a field across the plane that is the same everywhere has no curl.
    std::vector<double> even, evenM;
    if (space.kind().parts == fem::EdgeKind::across && numbering.size() == space.count(p)) {
        even.assign(size_t(e.size), 0.0);
        for (int v = 0; v < space.mesh().vertexCount(); ++v)
            even[size_t(numbering.place[size_t(v)])] = 1;
        products.multiply(1, even, evenM);
        const double size = std::inner_product(even.begin(), even.end(), evenM.begin(), 0.0);
        for (double& v : evenM)
            v /= size;
    }
    e.project = [&](std::vector<double>& x) {
        if (!gradients) {
            const double share = std::inner_product(evenM.begin(), evenM.end(), x.begin(), 0.0);
            for (size_t i = 0; i < even.size(); ++i)
                x[i] -= share * even[i];
            return;
        }
        products.multiply(1, x, y);
        spread(x, all);
        spread(y, allY);
        gradients->remove(all, allY);
        for (size_t i = 0; i < x.size(); ++i)
            x[i] = all[size_t(numbering.function[i])];
    };
    constexpr int spare = 2;  // modes that may change places with those wanted between orders
    // The lowest order needs no more than there is; coarse meshes may have few modes there.
    const int wanted = std::min(search.count + spare, std::max(1, e.size / 3));
    fem::EigenPairs pairs;
    if (search.knownFields && int(search.knownFields->size()) >= wanted) {
        fem::Columns guess;
        for (const auto& field : *search.knownFields) {
            guess.emplace_back(size_t(e.size), 0.0);
            for (size_t i = 0; i < field.size(); ++i)
                if (const int at = numbering.place[i]; at >= 0)
                    guess.back()[size_t(at)] = field[i];
        }
        pairs = fem::improvedEigenpairs(e, guess, search.count, progress);
    }
    if (pairs.value.empty())
        pairs = fem::lowestEigenpairs(e, wanted, progress);
    Resonances out;
    out.k2 = pairs.value;
    for (const auto& x : pairs.vector) {
        out.field.emplace_back(size_t(space.count(p)), 0.0);
        spread(x, out.field.back());
    }
    counters.unknowns = e.size;
    counters.iterations += pairs.solutions;
    counters.solveSeconds += base::seconds() - start;
    return out;
}

}  // namespace yh::physics
