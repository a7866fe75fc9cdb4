// Residuals and tangents of the coupled solver, cell by cell and side by side.
#include "fem/coupled_points.h"

#include <omp.h>
#include <algorithm>
#include <cmath>

namespace yh::fem {

using base::Error;

namespace {

/// block(i, j) += sum over the rows r of by_r(i) along_r(j).
/// @tparam M  how many rows, 0: as many as given
template <int N, int M>
void addProducts(const double (&along)[4][N], const double* const (&by)[4], int rows, int width,
                 double* block)
{
    for (int i = 0; i < N; ++i) {
        double* to = block + i * width;
        double sum[N];
        for (int j = 0; j < N; ++j)
            sum[j] = to[j];
        for (int r = 0; r < (M > 0 ? M : rows); ++r) {
            const double factor = by[r][i];
            for (int j = 0; j < N; ++j)
                sum[j] += factor * along[r][j];
        }
        for (int j = 0; j < N; ++j)
            to[j] = sum[j];
    }
}

/// Adds the weighted residual and tangent of one point to those of a cell.
struct Accumulator
{
    int fields, local;
    double *residual, *tangent;

    /// Adds up the flows and folds in the signs of the odd edge functions.
    void finish(const double* sign, double* scale) const
    {
        const int n = local, width = fields * n;
        for (int f = 0; f < fields; ++f)
            for (int i = 0; i < n; ++i) {
                double& r = residual[f * n + i];
                scale[f] += std::abs(r);
                r *= sign[i];
                for (int g = 0; g < fields && tangent; ++g) {
                    double* row = tangent + (f * n + i) * width + g * n;
                    for (int j = 0; j < n; ++j)
                        row[j] *= sign[i] * sign[j];
                }
            }
    }

    void add(const PointTerms& terms, const PointBasis& b, double w, double storageFactor,
             const double* oldStorage) const
    {
        const int n = local;
        double source[mostFields];
        for (int f = 0; f < fields; ++f)
            source[f] = terms.source[f].v +
                        storageFactor * (terms.storage[f].v - (oldStorage ? oldStorage[f] : 0.0));
        for (int f = 0; f < fields; ++f)
            for (int i = 0; i < n; ++i)
                residual[f * n + i] +=
                    w * (terms.flux[f][0].v * b.grad[0][i] + terms.flux[f][1].v * b.grad[1][i] +
                         terms.flux[f][2].v * b.grad[2][i] + source[f] * b.value[i]);
        if (!tangent)
            return;
        switch (n) {
            case 3:
                return slopes<3>(terms, b, w, storageFactor);
            case 4:
                return slopes<4>(terms, b, w, storageFactor);
            case 6:
                return slopes<6>(terms, b, w, storageFactor);
            case 10:
                return slopes<10>(terms, b, w, storageFactor);
            case 15:
                return slopes<15>(terms, b, w, storageFactor);
            case 20:
                return slopes<20>(terms, b, w, storageFactor);
            default:
                YH_ASSERT(false, "an order has 3, 6, 10, 15 or 4, 10, 20 functions");
        }
    }

    /// The tangent's part of a point, for N functions.
    template <int N>
    void slopes(const PointTerms& terms, const PointBasis& b, double w, double storageFactor) const
    {
        // Derivatives of flux and source (rows) by the gradient and value of a field (columns):
        // most are zero, and fields that do not act on each other leave whole blocks empty.
        const double* test[4] = {b.grad[0], b.grad[1], b.grad[2], b.value};
        const int width = fields * N;
        for (int f = 0; f < fields; ++f)
            for (int g = 0; g < fields; ++g) {
                double along[4][N];
                const double* by[4];
                int rows = 0;
                for (int r = 0; r < 4; ++r) {
                    const Local& x = r < 3 ? terms.flux[f][r] : terms.source[f];
                    const double* dg = x.d + mostFields + 3 * g;
                    double c[4] = {dg[0], dg[1], dg[2], x.d[g]};
                    if (r == 3 && storageFactor != 0) {
                        const double* ds = terms.storage[f].d;
                        for (int k = 0; k < 3; ++k)
                            c[k] += storageFactor * ds[mostFields + 3 * g + k];
                        c[3] += storageFactor * ds[g];
                    }
                    if (c[0] == 0 && c[1] == 0 && c[2] == 0 && c[3] == 0)
                        continue;
                    for (int j = 0; j < N; ++j)
                        along[rows][j] =
                            w * (c[0] * b.grad[0][j] + c[1] * b.grad[1][j] + c[3] * b.value[j]);
                    for (int j = 0; j < N && c[2] != 0; ++j)
                        along[rows][j] += w * c[2] * b.grad[2][j];
                    by[rows++] = test[r];
                }
                if (rows == 0)
                    continue;
                double* block = tangent + f * N * width + g * N;
                if (rows == 3)
                    addProducts<N, 3>(along, by, rows, width, block);
                else
                    addProducts<N, 0>(along, by, rows, width, block);
            }
    }
};

/** Adds what a cell gives to one field. */
void addBlock(SparseRows& J, const std::uint16_t* known, const int* places, int n, const double* k)
{
    const int* column = J.column.data();
    for (int i = 0; i < n; ++i) {
        if (places[i] < 0)
            continue;
        const int from = J.start[size_t(places[i])], to = J.start[size_t(places[i]) + 1];
        for (int j = 0; j < n; ++j) {
            if (places[j] < 0)
                continue;
            int at = from + known[i * n + j];
            // Rows of more entries than an offset can count.
            if (column[at] != places[j])
                at = int(std::lower_bound(column + from, column + to, places[j]) - column);
            J.value[size_t(at)] += k[i * n + j];
        }
    }
}

}  // namespace

void CoupledSolver::cell(Layout& l, int order, int t, const Values& u, double drive,
                         const Stage& time, double* residual, double* tangent, double* scale) const
{
    const Accumulator sum{m_fields, l.local, residual, tangent};
    const Signs signs(l, t);
    if (l.linearAt.empty() || l.linearAt[size_t(t)] < 0 || time.dt > 0) {
        visitCell(l, order, t, u, drive, time, [&sum](const auto&... point) { sum.add(point...); });
        sum.finish(signs.sign, scale);
        return;
    }
    const int n = l.local;
    double* const kept = &l.linear[size_t(l.linearAt[size_t(t)])];
    double c[mostLocal];
    gather(u, n, signs.number, signs.sign, c);
    if (!l.isWorkedOut[size_t(t)]) {
        double r[mostLocal] = {}, k[mostLocal * mostLocal] = {};
        const Accumulator first{1, n, r, k};
        visitCell(l, order, t, u, drive, time,
                  [&first](const auto&... point) { first.add(point...); });
        for (int i = 0; i < n; ++i) {
            double* const row = kept + i * (n + 1);
            row[n] = r[i];
            for (int j = 0; j < n; ++j) {
                row[j] = k[i * n + j];
                row[n] -= row[j] * c[j];
            }
            row[n] /= drive;
        }
        l.isWorkedOut[size_t(t)] = 1;
    }
    for (int i = 0; i < n; ++i) {
        const double* const row = kept + i * (n + 1);
        residual[i] = drive * row[n];
        for (int j = 0; j < n; ++j)
            residual[i] += row[j] * c[j];
        if (tangent)
            std::copy_n(row, n, tangent + i * n);
    }
    sum.finish(signs.sign, scale);
}

void CoupledSolver::findLinear(Layout& l) const
{
    const mesh::Mesh& m = m_space.mesh();
    if (m_fields != 1 || !l.linearAt.empty())
        return;
    std::ptrdiff_t end = 0;
    l.linearAt.assign(size_t(m.cellCount()), -1);
    for (int t = 0; t < m.cellCount(); ++t)
        if (m_model.isLinearIn(m.piece[size_t(t)])) {
            l.linearAt[size_t(t)] = end;
            end += l.local * (l.local + 1);
        }
    l.linear.resize(size_t(end));
    l.isWorkedOut.assign(size_t(m.cellCount()), 0);
}

void CoupledSolver::sideOf(const Layout& l, int order, int s, const Values& u, double drive,
                           const Stage& time, double* residual, double* tangent,
                           double* scale) const
{
    const Accumulator sum{m_fields, l.local, residual, tangent};
    visitSide(l, order, s, u, drive, time, [&sum](const auto&... point) { sum.add(point...); });
    sum.finish(Signs(l, m_space.mesh().sideCells[size_t(s)][0]).sign, scale);
}

void CoupledSolver::across(const Layout& l, int order, const std::array<int, 2>& pair,
                           const Values& u, double* residual, double* tangent, double* scale) const
{
    const mesh::Mesh& m = m_space.mesh();
    const int n = l.local, width = m_fields * n, both = 2 * width;
    const int tag = m.sideTag[size_t(pair[0])];
    int cell[2], number[mostLocal];
    double sign[2][mostLocal], c[2][mostFields * mostLocal];
    for (int k = 0; k < 2; ++k) {
        cell[k] = m.sideCells[size_t(pair[size_t(k)])][0];
        l.space->local(cell[k], number, sign[k]);
        gather(u, n, number, sign[k], c[k]);
    }
    const mesh::Geometry g[2] = {{m, cell[0]}, {m, cell[1]}};
    const int k0 = m.localSide(cell[0], pair[0]);
    for (const CellPoint& q : cellRule(m.dimension - 1, 2 * order + 2)) {
        Point xi[2] = {g[0].onSide(k0, q.xi), {}};
        const Point at = g[0].at(xi[0]);
        if (!g[1].invert(at, xi[1]))
            throw Error(5013, "the two sides of a contact between regions do not fit");
        const double w = q.w * norm(g[0].outward(k0, xi[0])) * measureAt(m_model.measure(), at);
        Basis b[2];
        double value[2][mostFields] = {};
        for (int k = 0; k < 2; ++k) {
            basis(m.dimension, order, xi[k], b[k]);
            for (int f = 0; f < m_fields; ++f)
                for (int i = 0; i < n; ++i)
                    value[k][f] += c[k][f * n + i] * b[k].value[i];
        }
        const bool heats = m_fields > 1 && m_model.jumpHeats(tag);
        for (int f = 0; f < m_fields; ++f) {
            const double h = w * m_model.jump(f, tag), step = value[0][f] - value[1][f];
            for (int a = 0; a < 2; ++a)
                for (int i = 0; i < n; ++i) {
                    const int row = a * width + f * n + i;
                    const double test = (a == 0 ? 1 : -1) * b[a].value[i];
                    residual[row] += h * step * test;
                    // Half of the heat goes to either side.
                    if (heats && f == 0)
                        residual[a * width + n + i] -= 0.5 * h * step * step * b[a].value[i];
                    if (!tangent)
                        continue;
                    for (int d = 0; d < 2; ++d)
                        for (int j = 0; j < n; ++j) {
                            const double by = (d == 0 ? 1 : -1) * b[d].value[j];
                            tangent[row * both + d * width + f * n + j] += h * test * by;
                            if (heats && f == 0)
                                tangent[(a * width + n + i) * both + d * width + j] -=
                                    h * step * by * b[a].value[i];
                        }
                }
        }
    }
    auto signOf = [&](int i) { return sign[i / width][(i % width) % n]; };
    for (int i = 0; i < both; ++i) {
        scale[(i % width) / n] += std::abs(residual[i]);
        residual[i] *= signOf(i);
        for (int j = 0; j < both && tangent; ++j)
            tangent[i * both + j] *= signOf(i) * signOf(j);
    }
}

int CoupledSolver::film(const Layout& l, int order, int index, const Values& u, double drive,
                        double time, double* residual, double* tangent) const
{
    const mesh::Mesh& m = m_space.mesh();
    const int n = l.local, last = n, width = n + 1;
    const auto& film = l.films[size_t(index)];
    const Group& group = m_model.groups()[size_t(film.group)];
    const auto& own = u[size_t(group.field)];
    const double outside = l.ownValue[size_t(film.group)] >= 0
                               ? own[size_t(l.ownValue[size_t(film.group)])]
                               : givenTo(film.group, drive, time);
    const int t = m.sideCells[size_t(film.side)][0], k = m.localSide(t, film.side);
    const mesh::Geometry g(m, t);
    int number[mostLocal];
    double sign[mostLocal];
    l.space->local(t, number, sign);
    for (const CellPoint& q : cellRule(m.dimension - 1, 2 * order + 2)) {
        const Point xi = g.onSide(k, q.xi);
        const double w =
            q.w * norm(g.outward(k, xi)) * measureAt(m_model.measure(), g.at(xi)) / group.film;
        Basis b;
        basis(m.dimension, order, xi, b);
        // The difference across the film, and its derivatives.
        double step = -outside, by[mostLocal + 1];
        for (int i = 0; i < n; ++i) {
            by[i] = sign[i] * b.value[i];
            step += by[i] * own[size_t(number[i])];
        }
        by[last] = -1;
        for (int i = 0; i < width; ++i) {
            residual[i] += w * step * by[i];
            for (int j = 0; j < width && tangent; ++j)
                tangent[i * width + j] += w * by[i] * by[j];
        }
    }
    return t;
}

void CoupledSolver::films(Layout& l, int order, const Values& u, double drive, double time,
                          bool tangent) const
{
    const int n = l.local, last = n, width = n + 1;
    std::vector<double> r(static_cast<size_t>(width)), K(size_t(width * width));
    for (size_t f = 0; f < l.films.size(); ++f) {
        const auto index = size_t(l.films[f].group);
        const int field = m_model.groups()[index].field;
        std::fill(r.begin(), r.end(), 0.0);
        std::fill(K.begin(), K.end(), 0.0);
        const int t =
            film(l, order, int(f), u, drive, time, r.data(), tangent ? K.data() : nullptr);
        int number[mostLocal], place[mostLocal + 1];
        double sign[mostLocal];
        m_space.local(t, number, sign);
        for (int i = 0; i < n; ++i)
            place[i] = l.place[size_t(field)][size_t(number[i])];
        place[last] = l.groupPlace[index];
        l.groupFlow[index] += r[size_t(last)];
        for (int i = 0; i < width; ++i) {
            l.scale[field] += std::abs(r[size_t(i)]);
            if (place[i] < 0)
                continue;
            l.R[size_t(place[i])] += r[size_t(i)];
            const int* begin = l.J.column.data() + l.J.start[size_t(place[i])];
            const int* end = l.J.column.data() + l.J.start[size_t(place[i]) + 1];
            for (int j = 0; j < width && tangent; ++j)
                if (const double x = K[size_t(i * width + j)]; place[j] >= 0 && x != 0)
                    l.J.value[size_t(std::lower_bound(begin, end, place[j]) - l.J.column.data())] +=
                        x;
        }
    }
}

void CoupledSolver::findOffsets(Layout& l) const
{
    const mesh::Mesh& m = m_space.mesh();
    const int n = l.local;
    l.offset.assign(size_t(m.cellCount()) * size_t(n * n), 0);
#pragma omp parallel for schedule(dynamic, 512)
    for (int t = 0; t < m.cellCount(); ++t) {
        int number[mostLocal], place[mostLocal];
        double sign[mostLocal];
        m_space.local(t, number, sign);
        for (int i = 0; i < n; ++i) {
            place[i] = -1;
            for (size_t f = size_t(m_fields); f-- > 0;)
                if (const int p = l.place[f][size_t(number[i])]; p >= 0)
                    place[i] = p;
        }
        for (int i = 0; i < n; ++i) {
            if (place[i] < 0)
                continue;
            const int* begin = l.J.column.data() + l.J.start[size_t(place[i])];
            const int* end = l.J.column.data() + l.J.start[size_t(place[i]) + 1];
            for (int j = 0; j < n; ++j)
                if (place[j] >= 0)
                    // Of very long rows only the start fits; the rest is searched for.
                    l.offset[size_t(t) * size_t(n * n) + size_t(i * n + j)] =
                        std::uint16_t(std::min<std::ptrdiff_t>(
                            std::lower_bound(begin, end, place[j]) - begin, 65535));
        }
    }
}

void CoupledSolver::share(Layout& l) const
{
    const int threads = omp_get_max_threads();
    if (int(l.own.size()) == threads)
        return;
    l.own.assign(size_t(threads), {});
    l.shared.clear();
    const mesh::Mesh& m = m_space.mesh();
    std::vector<std::vector<std::pair<int, int>>> own(static_cast<size_t>(threads));
    for (int t = 0; t < m.cellCount(); ++t) {
        bool any = false;
        for (int f = 0; f < m_fields; ++f)
            any = any || m_model.active(f, m.piece[size_t(t)]);
        if (!any)
            continue;
        int number[mostLocal], first = l.size, last = -1;
        double sign[mostLocal];
        m_space.local(t, number, sign);
        for (int f = 0; f < m_fields; ++f)
            for (int i = 0; i < l.local; ++i)
                if (const int p = l.place[size_t(f)][size_t(number[i])]; p >= 0) {
                    first = std::min(first, p);
                    last = std::max(last, p);
                }
        auto part = [&](int p) { return size_t(std::int64_t(p) * threads / (l.size + 1)); };
        if (last < 0 || part(first) == part(last))
            own[last < 0 ? 0 : part(first)].push_back({first, t});
        else
            l.shared.push_back(t);
    }
    // In the order of their rows, cells find most of what they add to still near at hand.
    for (size_t k = 0; k < own.size(); ++k) {
        std::sort(own[k].begin(), own[k].end());
        for (const auto& [place, t] : own[k])
            l.own[k].push_back(t);
    }
}

void CoupledSolver::addResidual(Layout& l, int cell, const double* r, int* places,
                                std::vector<double>& groupFlow) const
{
    const int n = l.local;
    int number[mostLocal];
    double sign[mostLocal];
    m_space.local(cell, number, sign);
    for (int f = 0; f < m_fields; ++f)
        for (int i = 0; i < n; ++i) {
            const int p = places[f * n + i] = l.place[size_t(f)][size_t(number[i])];
            const double x = r[f * n + i];
            if (p >= 0)
                l.R[size_t(p)] += x;
            if (number[i] < m_space.mesh().vertexCount())
                if (const int g = l.groupOf[size_t(f)][size_t(number[i])]; g >= 0)
                    groupFlow[size_t(g)] += x;
        }
}

void CoupledSolver::addTangent(Layout& l, int cell, const double* k, const int* places) const
{
    const int n = l.local, width = m_fields * n;
    const int* column = l.J.column.data();
    const std::uint16_t* known = l.offset.data() + size_t(cell) * size_t(n * n);
    if (m_fields == 1) {
        addBlock(l.J, known, places, n, k);
        return;
    }
    for (int i = 0; i < n; ++i)
        for (int j = 0; j < n; ++j) {
            // The fields of a function lie side by side and have the same pattern: what was
            // found for one is the place to look at for the next.
            int offset = known[i * n + j];
            for (int f = 0; f < m_fields; ++f) {
                const int row = places[f * n + i];
                if (row < 0)
                    continue;
                const int from = l.J.start[size_t(row)], to = l.J.start[size_t(row) + 1];
                for (int g = 0; g < m_fields; ++g) {
                    const int c = places[g * n + j];
                    const double x = k[(f * n + i) * width + g * n + j];
                    if (c < 0 || x == 0)
                        continue;
                    int at = from + offset;
                    if (at < to && column[at] < c)
                        ++at;
                    else if (offset > 0 && at < to && column[at] > c)
                        --at;
                    if (at >= to || column[at] != c)
                        at = int(std::lower_bound(column + from, column + to, c) - column);
                    offset = at - from;
                    l.J.value[size_t(at)] += x;
                }
            }
        }
}

void CoupledSolver::addAcross(Layout& l, int order, const Values& u, bool tangent)
{
    const mesh::Mesh& m = m_space.mesh();
    const int width = m_fields * l.local, both = 2 * width;
    std::vector<double> r(static_cast<size_t>(both)), k(tangent ? size_t(both * both) : 0);
    double scale[mostFields] = {};
    std::vector<int> places(static_cast<size_t>(both));
    for (const auto& pair : m.facing) {
        std::fill(r.begin(), r.end(), 0.0);
        std::fill(k.begin(), k.end(), 0.0);
        across(l, order, pair, u, r.data(), tangent ? k.data() : nullptr, scale);
        for (int a = 0; a < 2; ++a)
            addResidual(l, m.sideCells[size_t(pair[size_t(a)])][0], r.data() + a * width,
                        places.data() + a * width, l.groupFlow);
        for (int i = 0; i < both && tangent; ++i)
            for (int j = 0; j < both; ++j) {
                const int row = places[size_t(i)], column = places[size_t(j)];
                const double x = k[size_t(i * both + j)];
                if (row < 0 || column < 0 || x == 0)
                    continue;
                const int* begin = l.J.column.data() + l.J.start[size_t(row)];
                const int* end = l.J.column.data() + l.J.start[size_t(row) + 1];
                l.J.value[size_t(std::lower_bound(begin, end, column) - l.J.column.data())] += x;
            }
    }
    for (int f = 0; f < mostFields; ++f)
        l.scale[f] += scale[f];
}

void CoupledSolver::assemble(Layout& l, int order, const Values& u, double drive, const Stage& time,
                             bool tangent)
{
    const mesh::Mesh& m = m_space.mesh();
    const int width = m_fields * l.local;
    l.R.assign(size_t(l.size), 0.0);
    l.groupFlow.assign(m_model.groups().size(), 0.0);
    l.isFactored = l.isFactored && !tangent;
    if (tangent)
        std::fill(l.J.value.begin(), l.J.value.end(), 0.0);
    // Threads own parts of the unknowns. What a cell adds to one part alone its thread adds, in the
    // order of its list; all else is added by one thread: the sums are the same each time.
    struct Part
    {
        std::vector<double> groupFlow;
        double scale[mostFields] = {};
    };
    share(l);
    findLinear(l);
    std::vector<Part> parts(l.own.size() + 1, {std::vector<double>(l.groupFlow.size(), 0.0), {}});
    if (tangent && l.offset.empty())
        findOffsets(l);
    struct Work
    {
        std::vector<double> r, k;
    };
    auto add = [&](int t, Work& w, Part& part, bool withTangent, auto evaluate) {
        std::fill(w.r.begin(), w.r.end(), 0.0);
        double* const into = withTangent ? w.k.data() : nullptr;
        if (into)
            std::fill(w.k.begin(), w.k.end(), 0.0);
        evaluate(w.r.data(), into);
        int places[mostFields * mostLocal];
        addResidual(l, t, w.r.data(), places, part.groupFlow);
        if (into)
            addTangent(l, t, into, places);
    };
    // What linear cells have in the tangent is always the same, and kept apart.
    const bool anyLinear = !l.linear.empty() && !(time.dt > 0);
    auto isLinearCell = [&](int t) { return anyLinear && l.linearAt[size_t(t)] >= 0; };
    auto addCell = [&](int t, Work& w, Part& part, bool withTangent) {
        add(t, w, part, withTangent,
            [&](double* r, double* k) { cell(l, order, t, u, drive, time, r, k, part.scale); });
    };
    const Work none{std::vector<double>(static_cast<size_t>(width)),
                    std::vector<double>(tangent ? size_t(width * width) : 0)};
    auto overCells = [&](auto visit) {
#pragma omp parallel for schedule(static, 1)
        for (size_t p = 0; p < l.own.size(); ++p) {
            Work w = none;
            for (const int t : l.own[p])
                visit(t, w, p);
        }
        Work w = none;
        for (const int t : l.shared)
            visit(t, w, l.own.size());
    };
    if (tangent && anyLinear && l.linearTangent.empty()) {
        std::vector<Part> unused = parts;
        overCells([&](int t, Work& w, size_t p) {
            if (isLinearCell(t))
                addCell(t, w, unused[p], true);
        });
        l.linearTangent = l.J.value;
        std::fill(l.R.begin(), l.R.end(), 0.0);
    } else if (tangent && anyLinear) {
        l.J.value = l.linearTangent;
    }
    overCells(
        [&](int t, Work& w, size_t p) { addCell(t, w, parts[p], tangent && !isLinearCell(t)); });
    Work w = none;
    for (const int s : l.sides)
        add(m.sideCells[size_t(s)][0], w, parts.back(), tangent, [&](double* r, double* k) {
            sideOf(l, order, s, u, drive, time, r, k, parts.back().scale);
        });
    std::fill(std::begin(l.scale), std::end(l.scale), 0.0);
    for (const Part& part : parts) {
        for (size_t g = 0; g < part.groupFlow.size(); ++g)
            l.groupFlow[g] += part.groupFlow[g];
        for (int f = 0; f < mostFields; ++f)
            l.scale[f] += part.scale[f];
    }
    if (!m.facing.empty())
        addAcross(l, order, u, tangent);
    films(l, order, u, drive, time.time, tangent);
    for (size_t g = 0; g < l.groupPlace.size(); ++g)
        if (l.groupPlace[g] >= 0) {
            const Group& group = m_model.groups()[g];
            const double flow = givenTo(int(g), drive, time.time);
            l.R[size_t(l.groupPlace[g])] -= flow;
            l.scale[group.field] += std::abs(flow);
        }
}

}  // namespace yh::fem
