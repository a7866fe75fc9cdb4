#include "fem/coupled.h"

#include "base/clock.h"
#include "fem/conjugate_gradients.h"
#include "fem/coupled_layout.h"
#include "fem/coupled_newton.h"

#include <algorithm>
#include <cmath>
#include <span>

namespace yh::fem {

using base::Error;

namespace {

bool isIn(int x, const std::vector<int>& list)
{
    return std::find(list.begin(), list.end(), x) != list.end();
}

/// Of a matrix whose pattern is symmetric.
SparseRows transposedOf(const SparseRows& A)
{
    SparseRows T = A;
    std::vector<int> next(A.start.begin(), A.start.end() - 1);
    // Rows come in order, and so do the entries of every column.
    for (int r = 0; r < A.size; ++r)
        for (int k = A.start[size_t(r)]; k < A.start[size_t(r) + 1]; ++k)
            T.value[size_t(next[size_t(A.column[size_t(k)])]++)] = A.value[size_t(k)];
    return T;
}

}  // namespace

CoupledSolver::CoupledSolver(const CoupledModel& model, const H1Space& space,
                             base::Progress& progress)
    : m_model(model), m_space(space), m_progress(progress), m_fields(model.fieldCount())
{
    m_layouts.resize(size_t(space.order()) + 1);
}

CoupledSolver::Layout& CoupledSolver::layout(int order)
{
    auto& l = m_layouts[size_t(order)];
    if (!l) {
        l = std::make_shared<Layout>();
        number(*l, order);
        pattern(*l, order);
    }
    return *l;
}

int CoupledSolver::unknowns(int order)
{
    return layout(order).size;
}

std::vector<std::vector<char>> CoupledSolver::sortOut(Layout& l, const H1Space& space,
                                                      int order) const
{
    const mesh::Mesh& m = m_space.mesh();
    const auto functions = size_t(space.count(order));
    const auto F = size_t(m_fields);
    l.space = &space;
    l.order = order;
    l.local = space.localCount(order);
    l.table = std::make_unique<BasisTable>(m.dimension, order, termDegree(m.dimension, order));
    l.ownValue.assign(m_model.groups().size(), -1);
    l.live.assign(F, std::vector<char>(functions, 0));
    l.groupOf.assign(F, std::vector<int>(size_t(m.vertexCount()), -1));
    std::vector<std::vector<char>> held(F, std::vector<char>(functions, 0));
    int number[mostLocal];
    double sign[mostLocal];
    for (int t = 0; t < m.cellCount(); ++t) {
        space.local(t, number, sign);
        for (size_t f = 0; f < F; ++f)
            if (m_model.active(int(f), m.piece[size_t(t)]))
                for (int i = 0; i < l.local; ++i)
                    l.live[f][size_t(number[i])] = 1;
    }
    for (int s = 0; s < m.sideCount(); ++s) {
        const int tag = m.sideTag[size_t(s)];
        if (tag < 0)
            continue;
        if (m_model.hasTerms(tag))
            l.sides.push_back(s);
        for (size_t f = 0; f < F; ++f)
            if (m_model.carries(int(f), tag))
                for (const int i : space.onSide(s, order))
                    l.live[f][size_t(i)] = 1;
    }
    const auto& groups = m_model.groups();
    for (size_t g = 0; g < groups.size(); ++g) {
        const auto f = size_t(groups[g].field);
        if (groups[g].film > 0) {
            for (int s = 0; s < m.sideCount(); ++s)
                if (isIn(m.sideTag[size_t(s)], groups[g].sides))
                    l.films.push_back({s, int(g)});
            continue;
        }
        auto hold = [&](int function) {
            held[f][size_t(function)] = 1;
            if (function >= m.vertexCount())
                return;
            int& group = l.groupOf[f][size_t(function)];
            if (group >= 0 && group != int(g) && groups[size_t(group)].given && groups[g].given &&
                groups[size_t(group)].value != groups[g].value)
                l.jumps.push_back({int(f), function, {group, int(g)}});
            group = int(g);
        };
        for (int s = 0; s < m.sideCount(); ++s)
            if (isIn(m.sideTag[size_t(s)], groups[g].sides))
                for (const int i : space.onSide(s, order))
                    hold(i);
        for (int t = 0; t < m.cellCount() && !groups[g].pieces.empty(); ++t)
            if (isIn(m.piece[size_t(t)], groups[g].pieces)) {
                space.local(t, number, sign);
                for (int i = 0; i < l.local; ++i)
                    hold(number[i]);
            }
    }
    return held;
}

void CoupledSolver::number(Layout& l, int order)
{
    const mesh::Mesh& m = m_space.mesh();
    const auto F = size_t(m_fields);
    const auto held = sortOut(l, m_space, order);
    const auto functions = size_t(m_space.count(order));
    const auto& groups = m_model.groups();
    l.place.assign(F, std::vector<int>(functions, -1));
    // Unknowns in elimination order, the fields of one function side by side, free groups last.
    if (m_ranks.empty())
        m_ranks = cornerRanks(m);
    const std::vector<int> rank = functionRanks(m_space, order, m_ranks);
    struct Unknown
    {
        int rank, field, function;
    };
    std::vector<Unknown> list;
    for (size_t f = 0; f < F; ++f)
        for (size_t i = functions; i-- > 0;)
            if (l.live[f][i] && !held[f][i])
                list.push_back({rank[i], int(f), int(i)});
    // Inner functions before corners within a rank, the fields of one function side by side.
    std::sort(list.begin(), list.end(), [](const Unknown& a, const Unknown& b) {
        return a.rank != b.rank           ? a.rank < b.rank
               : a.function != b.function ? a.function > b.function
                                          : a.field < b.field;
    });
    for (const Unknown& u : list) {
        l.place[size_t(u.field)][size_t(u.function)] = l.size++;
        l.fieldOf.push_back(u.field);
    }
    // Strongly coupled fields are smoothed together, function by function.
    if (m_model.isOneComplexField()) {
        l.pairs.assign(list.size(), 0);
        for (size_t i = 0; i + 1 < list.size(); ++i)
            l.pairs[i] = list[i].function == list[i + 1].function;
    }
    l.groupPlace.assign(groups.size(), -1);
    for (size_t g = 0; g < groups.size(); ++g)
        if (!groups[g].given) {
            l.groupPlace[g] = l.size++;
            l.fieldOf.push_back(groups[g].field);
            if (groups[g].hasOwnValue()) {
                auto& places = l.place[size_t(groups[g].field)];
                l.ownValue[g] = int(places.size());
                places.push_back(l.groupPlace[g]);
            }
        }
    l.coarse.assign(size_t(l.size), -1);
    for (const Unknown& u : list)
        if (u.function < m.vertexCount())
            l.coarse[size_t(l.place[size_t(u.field)][size_t(u.function)])] = u.field;
    for (size_t g = 0; g < groups.size(); ++g)
        if (l.groupPlace[g] >= 0)
            l.coarse[size_t(l.groupPlace[g])] = groups[g].field;
    // Beyond this a direct factorisation in space costs more than some twenty steps of iteration.
    // Symmetric steps that are many, each with a tangent of its own, are iterated sooner.
    const int largestDirect = m_model.isSymmetric() && !m_model.isLinear() ? 8000 : 20000;
    l.iterative = m.dimension == 3 && order > 1 && l.size > largestDirect;
    for (size_t f = 0; f < F; ++f)
        for (int v = 0; v < m.vertexCount(); ++v)
            if (const int g = l.groupOf[f][size_t(v)]; g >= 0)
                l.place[f][size_t(v)] = l.groupPlace[size_t(g)];
}

void CoupledSolver::pattern(Layout& l, int order) const
{
    static_cast<void>(order);
    const mesh::Mesh& m = m_space.mesh();
    const int nt = m.cellCount(), width = m_fields * l.local;
    std::vector<int> places(size_t(nt) * size_t(width), -1);
#pragma omp parallel for schedule(static)
    for (int t = 0; t < nt; ++t) {
        int number[mostLocal];
        double sign[mostLocal];
        m_space.local(t, number, sign);
        for (int f = 0; f < m_fields; ++f)
            for (int i = 0; i < l.local; ++i)
                places[size_t(t) * size_t(width) + size_t(f * l.local + i)] =
                    l.place[size_t(f)][size_t(number[i])];
    }
    // Facing sides of a cut join the functions of two cells, and films those of a cell with the
    // value before them.
    std::vector<size_t> begin{places.size()};  // of the elements beyond the cells
    auto addCell = [&](int side) {
        const auto t = size_t(m.sideCells[size_t(side)][0]);
        for (size_t k = 0; k < size_t(width); ++k)
            places.push_back(places[t * size_t(width) + k]);
    };
    for (const auto& pair : m.facing) {
        for (const int side : pair)
            addCell(side);
        begin.push_back(places.size());
    }
    for (const auto& film : l.films) {
        addCell(film.side);
        places.push_back(l.groupPlace[size_t(film.group)]);
        begin.push_back(places.size());
    }
    auto elementOf = [&](size_t k) {
        return k < begin[0]
                   ? int(k / size_t(width))
                   : nt + int(std::upper_bound(begin.begin(), begin.end(), k) - begin.begin()) - 1;
    };
    auto entriesOf = [&](int element) {
        if (element < nt)
            return std::span(places.data() + size_t(element) * size_t(width), size_t(width));
        const auto e = size_t(element - nt);
        return std::span(places.data() + begin[e], begin[e + 1] - begin[e]);
    };
    std::vector<int> first(size_t(l.size) + 1, 0);
    for (const int p : places)
        if (p >= 0)
            ++first[size_t(p) + 1];
    std::partial_sum(first.begin(), first.end(), first.begin());
    std::vector<int> cells(size_t(first.back())), at(first.begin(), first.end() - 1);
    for (size_t k = 0; k < places.size(); ++k)
        if (places[k] >= 0)
            cells[size_t(at[size_t(places[k])]++)] = elementOf(k);
    l.J.size = l.size;
    l.J.start.assign(size_t(l.size) + 1, 0);
    constexpr int blockSize = 2048;
    const int blocks = (l.size + blockSize - 1) / blockSize;
    std::vector<std::vector<int>> columns(static_cast<size_t>(blocks));
#pragma omp parallel
    {
        std::vector<int> row;
#pragma omp for schedule(dynamic, 1)
        for (int b = 0; b < blocks; ++b)
            for (int r = b * blockSize; r < std::min(l.size, (b + 1) * blockSize); ++r) {
                row.clear();
                int last = -1;
                for (int i = first[size_t(r)]; i < first[size_t(r) + 1]; ++i) {
                    const int t = cells[size_t(i)];
                    if (t == last)
                        continue;
                    last = t;
                    for (const int p : entriesOf(t))
                        if (p >= 0)
                            row.push_back(p);
                }
                std::sort(row.begin(), row.end());
                row.erase(std::unique(row.begin(), row.end()), row.end());
                l.J.start[size_t(r) + 1] = int(row.size());
                columns[size_t(b)].insert(columns[size_t(b)].end(), row.begin(), row.end());
            }
    }
    std::partial_sum(l.J.start.begin(), l.J.start.end(), l.J.start.begin());
    l.J.column.reserve(size_t(l.J.start.back()));
    for (auto& c : columns) {
        l.J.column.insert(l.J.column.end(), c.begin(), c.end());
        std::vector<int>().swap(c);
    }
    l.J.value.assign(l.J.column.size(), 0.0);
}

int CoupledSolver::ownValuesOf(int field) const
{
    return int(std::count_if(m_model.groups().begin(), m_model.groups().end(),
                             [&](const Group& g) { return g.hasOwnValue() && g.field == field; }));
}

CoupledSolver::Values CoupledSolver::start(int order)
{
    const mesh::Mesh& m = m_space.mesh();
    Values u;
    for (int f = 0; f < m_fields; ++f) {
        u.emplace_back(size_t(m_space.count(order)), 0.0);
        std::fill_n(u.back().begin(), m.vertexCount(), m_model.start(f));
        u.back().insert(u.back().end(), size_t(ownValuesOf(f)), m_model.start(f));
    }
    fixed(layout(order), 1, 0, u);
    return u;
}

CoupledSolver::Values CoupledSolver::raised(const Values& low, int order) const
{
    // Hierarchical: the coefficients of lower orders come first.
    Values u = low;
    for (int f = 0; f < m_fields; ++f) {
        auto& c = u[size_t(f)];
        const auto last = c.end() - ownValuesOf(f);
        const std::vector<double> apart(last, c.end());
        c.erase(last, c.end());
        c.resize(size_t(H1Space(m_space.mesh(), order).count()), 0.0);
        c.insert(c.end(), apart.begin(), apart.end());
    }
    return u;
}

void CoupledSolver::fixed(const Layout& l, double drive, double time, Values& u) const
{
    const mesh::Mesh& m = m_space.mesh();
    for (size_t f = 0; f < size_t(m_fields); ++f) {
        for (size_t i = size_t(m.vertexCount()); i < u[f].size(); ++i)
            if (l.place[f][i] < 0)
                u[f][i] = 0;
        for (int v = 0; v < m.vertexCount(); ++v)
            if (const int g = l.groupOf[f][size_t(v)]; g >= 0) {
                if (m_model.groups()[size_t(g)].given)
                    u[f][size_t(v)] = givenTo(g, drive, time);
            }
        // Half way between, so that the ramps to either side make up for each other.
        for (const auto& jump : l.jumps)
            if (jump.field == int(f))
                u[f][size_t(jump.vertex)] = 0.5 * (givenTo(jump.groups[0], drive, time) +
                                                   givenTo(jump.groups[1], drive, time));
    }
}

void CoupledSolver::applyStep(const Layout& l, const std::vector<double>& step, double by,
                              Values& u) const
{
    for (size_t f = 0; f < u.size(); ++f)
        for (size_t i = 0; i < u[f].size(); ++i)
            if (const int p = l.place[f][i]; p >= 0)
                u[f][i] += by * step[size_t(p)];
}

void CoupledSolver::solveFactored(Layout& l, std::vector<double>& x, double tolerance) const
{
    if (l.iterative && m_model.isSymmetric())
        l.levels.conjugateGradients(x, tolerance, m_progress);
    else if (l.iterative)
        l.levels.gmres(x, tolerance, m_progress, l.weight);
    else if (m_model.isSymmetric())
        l.cholesky->solve(x, 1);
    else
        l.lu.solve(l.J, x);
}

void CoupledSolver::factorise(Layout& l) const
{
    if (!m_model.isSymmetric()) {
        l.lu.factorise(l.J);
        return;
    }
    symmetricStage(l, 0);
    l.hasFactor = false;
    if (!l.cholesky) {
        l.cholesky = std::make_unique<Cholesky>();
        l.cholesky->analyse(l.stage);
    }
    l.cholesky->factorise(l.stage);
    l.isFactored = l.hasFactor = true;
}

bool CoupledSolver::solveByEarlier(const Layout& l, std::vector<double>& x, double tolerance) const
{
    if (l.iterative || !l.hasFactor || !m_model.isSymmetric())
        return false;
    // A factorisation costs as much as this many steps, in drawings.
    constexpr int most = 8;
    std::vector<double> solution = x;
    const KrylovEnd end = conjugateGradients(
        solution, tolerance, most, m_progress,
        [&l](const std::vector<double>& v, std::vector<double>& out) { l.J.multiply(v, out); },
        [&l](const std::vector<double>& r, std::vector<double>& z) {
            z = r;
            l.cholesky->solve(z, 1);
        });
    if (end.converged)
        x.swap(solution);
    return end.converged;
}

double CoupledSolver::linearSolve(Layout& l, std::vector<double>& x, NewtonReport& report,
                                  double tolerance, bool isNear)
{
    const double start = base::seconds();
    if (!isNear || !solveByEarlier(l, x, tolerance)) {
        if (l.iterative)
            l.levels.setUp(l.J, l.coarse, m_fields, l.pairs);
        else
            factorise(l);
        solveFactored(l, x, tolerance);
    }
    report.iterative = l.iterative;
    report.solveSeconds += base::seconds() - start;
    double largest = 0;
    for (const double v : x)
        largest = std::max(largest, std::abs(v));
    return largest;
}

double CoupledSolver::sizeOf(const Layout& l, const Values& u,
                             const std::vector<double>& step) const
{
    double most[mostFields] = {0, 0}, change[mostFields] = {0, 0};
    for (int i = 0; i < l.size; ++i)
        change[l.fieldOf[size_t(i)]] =
            std::max(change[l.fieldOf[size_t(i)]], std::abs(step[size_t(i)]));
    double size = 0;
    for (int f = 0; f < m_fields; ++f) {
        for (const double x : u[size_t(f)])
            most[f] = std::max(most[f], std::abs(x));
        const double scale = std::max(most[f], l.largest[f]);
        if (change[f] > 0)
            size = std::max(size, scale > 0 ? change[f] / scale : 1.0);
        if (!std::isfinite(change[f]))
            size = std::numeric_limits<double>::infinity();
    }
    return size;
}

void CoupledSolver::weigh(Layout& l) const
{
    // Fields differ in unit: each counts by the size of its flows, as in the test of convergence.
    l.weight.resize(size_t(l.size));
    for (size_t i = 0; i < l.weight.size(); ++i) {
        const double size = l.seen[l.fieldOf[i]];
        l.weight[i] = size > 0 ? 1 / size : 1.0;
    }
}

NewtonReport CoupledSolver::solve(int order, Values& u)
{
    Layout& l = layout(order);
    NewtonReport report;
    if (l.size == 0) {
        fixed(l, 1, 0, u);
        assemble(l, order, u, 1, {}, false);
        return report;
    }
    const Values guess = u;
    if (Newton(*this, l, order, u, 1.0, report).run())
        return report;
    // From nothing to the full drives in steps that adapt.
    u = guess;
    if (!Newton(*this, l, order, u, 0.0, report).run())
        throw Error(5010, "no steady state was found even without drives");
    double done = 0, step = 0.25;
    constexpr double leastStep = 1e-3;
    while (done < 1) {
        const Values before = u;
        const double next = std::min(1.0, done + step);
        if (Newton(*this, l, order, u, next, report).run()) {
            done = next;
            step *= 1.6;
            continue;
        }
        u = before;
        step *= 0.5;
        if (step < leastStep) {
            char text[160];
            std::snprintf(text, sizeof text,
                          "there is no steady state at the given drives: it was followed up to "
                          "%.3g %% of them, where it ends",
                          100 * done);
            throw Error(5011, text);
        }
    }
    return report;
}

std::vector<CoupledSolver::GroupResult> CoupledSolver::groupResults(int order, const Values& u,
                                                                    const Stage& time)
{
    Layout& l = layout(order);
    assemble(l, order, u, 1.0, time, false);
    std::vector<GroupResult> list;
    for (size_t g = 0; g < m_model.groups().size(); ++g) {
        const Group& group = m_model.groups()[g];
        GroupResult r{group.value * m_model.shareAt(int(g), time.time), l.groupFlow[g]};
        if (l.ownValue[g] >= 0)
            r.value = u[size_t(group.field)][size_t(l.ownValue[g])];
        else if (!group.given)
            r.value = valueOf(order, u, int(g));
        list.push_back(r);
    }
    return list;
}

double CoupledSolver::valueOf(int order, const Values& u, int group)
{
    const Layout& l = layout(order);
    const auto field = size_t(m_model.groups()[size_t(group)].field);
    if (l.ownValue[size_t(group)] >= 0)
        return u[field][size_t(l.ownValue[size_t(group)])];
    for (int v = 0; v < m_space.mesh().vertexCount(); ++v)
        if (l.groupOf[field][size_t(v)] == group)
            return u[field][size_t(v)];
    return 0;
}

CoupledSolver::Values CoupledSolver::coefficientsOf(const Layout& l,
                                                    const std::vector<double>& x) const
{
    Values z;
    for (size_t f = 0; f < size_t(m_fields); ++f) {
        z.emplace_back(l.place[f].size(), 0.0);
        for (size_t i = 0; i < z[f].size(); ++i)
            if (const int p = l.place[f][i]; p >= 0)
                z[f][i] = x[size_t(p)];
    }
    return z;
}

CoupledSolver::Values CoupledSolver::answer(int order, const Values& u, const Values& rhs)
{
    if (m_model.isSymmetric())
        return dual(order, u, rhs, exactly);
    Layout& l = layout(order);
    l.tangentDt = -1;
    l.weight.clear();
    assemble(l, order, u, 1.0, {}, true);
    std::vector<double> x(size_t(l.size), 0.0);
    for (size_t f = 0; f < rhs.size(); ++f)
        for (size_t i = 0; i < rhs[f].size(); ++i)
            if (const int p = l.place[f][i]; p >= 0)
                x[size_t(p)] += rhs[f][i];
    NewtonReport report;
    linearSolve(l, x, report);
    return coefficientsOf(l, x);
}

std::vector<CoupledSolver::Values> CoupledSolver::responses(int order, const Values& u,
                                                            const std::vector<int>& groups)
{
    Layout& l = layout(order);
    l.tangentDt = -1;
    l.weight.clear();
    assemble(l, order, u, 1.0, {}, true);
    std::vector<Values> list;
    NewtonReport report;
    for (const int g : groups) {
        YH_ASSERT(!m_model.groups()[size_t(g)].given, "the flow of the group is given");
        std::vector<double> x(size_t(l.size), 0.0);
        x[size_t(l.groupPlace[size_t(g)])] = 1;
        if (list.empty())
            linearSolve(l, x, report);
        else
            solveFactored(l, x, exactly);
        list.push_back(coefficientsOf(l, x));
    }
    l.isTangent = !groups.empty();
    return list;
}

void CoupledSolver::iterateSooner(Layout& l) const
{
    // Few steps are enough: they are cheaper than a factorisation much sooner.
    constexpr int largestDirect = 2000;
    l.iterative = m_space.mesh().dimension == 3 && l.size > largestDirect;
}

CoupledSolver::Values CoupledSolver::ahead(int order, const Values& u)
{
    Layout& l = layout(order + 1);
    iterateSooner(l);
    Values v = raised(u, order + 1);
    assemble(l, order + 1, v, 1.0, {}, true);
    std::copy_n(layout(order).seen, mostFields, l.seen);
    weigh(l);
    std::vector<double> step = l.R;
    NewtonReport report;
    linearSolve(l, step, report, roughly);
    applyStep(l, step, -1, v);
    return v;
}

std::vector<CoupledSolver::Values> CoupledSolver::responsesAhead(int order, const Values& u,
                                                                 const std::vector<int>& groups,
                                                                 const std::vector<Values>& low)
{
    Layout& l = layout(order + 1);
    iterateSooner(l);
    l.weight.clear();
    assemble(l, order + 1, u, 1.0, {}, true);
    std::vector<Values> list;
    NewtonReport report;
    for (size_t k = 0; k < groups.size(); ++k) {
        Values v = raised(low[k], order + 1);
        std::vector<double> known(size_t(l.size), 0.0), rest;
        for (size_t f = 0; f < v.size(); ++f)
            for (size_t i = 0; i < v[f].size(); ++i)
                if (const int p = l.place[f][i]; p >= 0)
                    known[size_t(p)] = v[f][i];
        l.J.multiply(known, rest);
        for (double& x : rest)
            x = -x;
        rest[size_t(l.groupPlace[size_t(groups[k])])] += 1;
        if (k == 0)
            linearSolve(l, rest, report, roughly);
        else
            solveFactored(l, rest, roughly);
        applyStep(l, rest, 1, v);
        list.push_back(std::move(v));
    }
    return list;
}

CoupledSolver::Values CoupledSolver::dual(int order, const Values& u, const Values& functional,
                                          double tolerance)
{
    Layout& l = layout(order);
    l.tangentDt = -1;
    l.weight.clear();
    if (!l.isTangent)
        assemble(l, order, u, 1.0, {}, true);
    std::vector<double> x(size_t(l.size), 0.0);
    for (size_t f = 0; f < functional.size(); ++f)
        for (size_t i = 0; i < functional[f].size(); ++i)
            if (const int p = l.place[f][i]; p >= 0)
                x[size_t(p)] += functional[f][i];
    if (l.iterative) {
        // What was set up for the tangent differs from what its transpose needs by couplings and
        // slopes of properties only.
        if (!l.isTangent)
            l.levels.setUp(l.J, l.coarse, m_fields, l.pairs);
        if (m_model.isSymmetric()) {
            l.isTangent = true;
            l.levels.conjugateGradients(x, tolerance, m_progress);
            return coefficientsOf(l, x);
        }
        const SparseRows transposed = transposedOf(l.J);
        l.levels.multiplyBy(transposed);
        l.levels.gmres(x, tolerance, m_progress);
        l.levels.multiplyBy(l.J);
    } else if (m_model.isSymmetric()) {
        // One factorisation serves all functionals of a state.
        l.isTangent = true;
        if (!l.isFactored) {
            // An exact answer takes more steps than a factorisation is worth.
            if (tolerance > inTime && solveByEarlier(l, x, tolerance))
                return coefficientsOf(l, x);
            factorise(l);
        }
        l.cholesky->solve(x, 1);
    } else {
        l.lu.factorise(l.J);
        l.lu.solveTransposed(l.J, x);
    }
    return coefficientsOf(l, x);
}

std::vector<double> CoupledSolver::shares(int order, const Values& u, int field)
{
    std::vector<double> highest = u[size_t(field)];
    if (order > 1)
        std::fill_n(highest.begin(), m_space.count(order - 1), 0.0);
    return shares(order, u, highest, field);
}

std::vector<double> CoupledSolver::shares(int order, const Values& u,
                                          const std::vector<double>& part, int field)
{
    Layout& l = layout(order);
    const mesh::Mesh& m = m_space.mesh();
    const int n = l.local, width = m_fields * n;
    std::vector<double> eta(size_t(m.cellCount()), 0.0);
#pragma omp parallel
    {
        std::vector<double> r(static_cast<size_t>(width)), k(size_t(width * width));
        double scale[mostFields] = {0, 0};
#pragma omp for schedule(dynamic, 256)
        for (int t = 0; t < m.cellCount(); ++t) {
            if (!m_model.active(field, m.piece[size_t(t)]))
                continue;
            std::fill(r.begin(), r.end(), 0.0);
            std::fill(k.begin(), k.end(), 0.0);
            cell(l, order, t, u, 1.0, {}, r.data(), k.data(), scale);
            int number[mostLocal];
            double sign[mostLocal], sum = 0;
            m_space.local(t, number, sign);
            for (int i = 0; i < n; ++i)
                for (int j = 0; j < n; ++j)
                    sum += part[size_t(number[i])] *
                           k[size_t((field * n + i) * width + field * n + j)] *
                           part[size_t(number[j])];
            eta[size_t(t)] = std::abs(sum);
        }
    }
    return eta;
}

}  // namespace yh::fem
