// What the functions of the next order would change in a functional.
#include "fem/coupled_points.h"

namespace yh::fem {

namespace {

/// On one cell, for its functions of the next order: residuals of the fields, what the tangent
/// makes of the dual fields, and its own entries.
struct Weigher
{
    int fields, local, from;
    const double* dual;  ///< coefficients of the dual fields, as of the cell's own functions
    double *residual, *byDual, *own;

    void add(const PointTerms& terms, const PointBasis& b, double w, double, const double*) const
    {
        const int n = local;
        double z[mostFields][4] = {};  // gradients and values of the dual fields
        for (int g = 0; g < fields; ++g)
            for (int i = 0; i < n; ++i) {
                for (int k = 0; k < 3; ++k)
                    z[g][k] += dual[g * n + i] * b.grad[k][i];
                z[g][3] += dual[g * n + i] * b.value[i];
            }
        for (int f = 0; f < fields; ++f) {
            // Derivatives by the gradient and the value of this field, weighted by the dual ones.
            double c[4] = {}, A[4][4];
            for (int g = 0; g < fields; ++g)
                for (int r = 0; r < 4; ++r) {
                    const Local& x = r < 3 ? terms.flux[g][r] : terms.source[g];
                    const double* by = x.d + mostFields + 3 * f;
                    const double d[4] = {by[0], by[1], by[2], x.d[f]};
                    for (int k = 0; k < 4; ++k) {
                        c[k] += d[k] * z[g][r];
                        if (g == f)
                            A[r][k] = d[k];
                    }
                }
            for (int i = from; i < n; ++i) {
                const double e[4] = {b.grad[0][i], b.grad[1][i], b.grad[2][i], b.value[i]};
                double r = terms.source[f].v * e[3], d = 0, o = 0;
                for (int k = 0; k < 3; ++k)
                    r += terms.flux[f][k].v * e[k];
                for (int k = 0; k < 4; ++k) {
                    d += c[k] * e[k];
                    for (int m = 0; m < 4; ++m)
                        o += e[k] * A[k][m] * e[m];
                }
                residual[f * n + i] += w * r;
                byDual[f * n + i] += w * d;
                own[f * n + i] += w * o;
            }
        }
    }
};

}  // namespace

CoupledSolver::Surplus CoupledSolver::surplus(int order, const Values& low, const Values& lowDual,
                                              const Values& functional)
{
    const mesh::Mesh& m = m_space.mesh();
    const int next = order + 1;
    const H1Space space(m, next);
    Layout l;
    l.solved = order;
    const auto held = sortOut(l, space, next);
    const int n = l.local, from = space.localCount(order), width = m_fields * n;
    // The groups' own values stay behind the functions of the next order.
    std::vector<int> end(size_t(m_fields), space.count(next));
    for (size_t g = 0; g < l.ownValue.size(); ++g)
        if (m_model.groups()[g].hasOwnValue())
            l.ownValue[g] = end[size_t(m_model.groups()[g].field)]++;
    const Values u = raised(low, next), z = raised(lowDual, next);
    const auto F = size_t(m_fields);
    const auto functions = size_t(space.count(next));
    const std::vector<std::vector<double>> nothing(F, std::vector<double>(functions, 0.0));
    auto field = nothing, dual = nothing, own = nothing;
    std::vector<char> jumps(size_t(m.cellCount()), 0);
    if (!l.jumps.empty()) {
        std::vector<char> corner(size_t(m.vertexCount()), 0);
        for (const auto& jump : l.jumps)
            corner[size_t(jump.vertex)] = 1;
        for (int t = 0; t < m.cellCount(); ++t)
            for (const int v : m.corners(t))
                jumps[size_t(t)] |= corner[size_t(v)];
    }
    // Cells first, then sides: a batch is worked out by all threads and added up by one,
    // in its order.
    struct Item
    {
        int cell = -1, side = -1;
    };
    std::vector<Item> items;
    for (int t = 0; t < m.cellCount(); ++t) {
        bool any = false;
        for (int f = 0; f < m_fields; ++f)
            any = any || m_model.active(f, m.piece[size_t(t)]);
        if (any)
            items.push_back({t, -1});
    }
    for (const int s : l.sides)
        items.push_back({m.sideCells[size_t(s)][0], s});
    const auto size = static_cast<size_t>(width);
    constexpr size_t batch = 2048;
    std::vector<double> work(3 * size * std::min(batch, items.size()));
    for (size_t begin = 0; begin < items.size(); begin += batch) {
        const size_t finish = std::min(items.size(), begin + batch);
#pragma omp parallel
        {
            std::vector<double> zs(size);
#pragma omp for schedule(dynamic, 64)
            for (size_t i = begin; i < finish; ++i) {
                const auto [t, side] = items[i];
                double* const r = &work[3 * size * (i - begin)];
                std::fill(r, r + 3 * size, 0.0);
                const Signs signs(l, t);
                gather(z, n, signs.number, signs.sign, zs.data());
                const Weigher weigher{
                    m_fields, n, jumps[size_t(t)] ? 0 : from, zs.data(), r, r + size, r + 2 * size};
                auto add = [&weigher](const auto&... point) { weigher.add(point...); };
                if (side < 0)
                    visitCell(l, next, t, u, 1.0, {}, add);
                else
                    visitSide(l, next, side, u, 1.0, {}, add);
            }
        }
        for (size_t i = begin; i < finish; ++i) {
            const int t = items[i].cell;
            const Signs signs(l, t);
            const double* const r = &work[3 * size * (i - begin)];
            for (int f = 0; f < m_fields; ++f)
                for (int k = jumps[size_t(t)] ? 0 : from; k < n; ++k) {
                    const auto at = size_t(signs.number[k]), j = size_t(f * n + k);
                    field[size_t(f)][at] += signs.sign[k] * r[j];
                    dual[size_t(f)][at] -= signs.sign[k] * r[size + j];
                    own[size_t(f)][at] += r[2 * size + j];
                }
        }
    }
    addJoins(l, u, z, from, field, dual, own);
    Surplus result;
    result.byCell.assign(size_t(m.cellCount()), 0.0);
    std::vector<std::vector<double>> part = nothing;
    for (size_t f = 0; f < F; ++f)
        for (auto i = size_t(space.count(order)); i < functions; ++i) {
            if (!l.live[f][i] || held[f][i] || own[f][i] <= 0)
                continue;
            part[f][i] = -field[f][i] * (dual[f][i] + functional[f][i]) / own[f][i];
            result.change += part[f][i];
        }
    // Ramps to either side make up for each other but for what the two edges differ in length.
    constexpr double uneven = 0.3;
    for (const auto& jump : l.jumps) {
        const auto f = size_t(jump.field), v = size_t(jump.vertex);
        const double half =
            0.5 * std::abs(givenTo(jump.groups[0], 1, 0) - givenTo(jump.groups[1], 1, 0));
        part[f][v] = uneven * half * (dual[f][v] + functional[f][v]);
        result.unsure += std::abs(part[f][v]);
    }
    for (int t = 0; t < m.cellCount(); ++t) {
        const int first = jumps[size_t(t)] ? 0 : from;
        int number[mostLocal];
        double sign[mostLocal];
        space.local(t, number, sign);
        for (size_t f = 0; f < F; ++f)
            for (int i = first; i < n; ++i)
                result.byCell[size_t(t)] += std::abs(part[f][size_t(number[i])]);
    }
    return result;
}

void CoupledSolver::addJoins(const Layout& l, const Values& u, const Values& z, int from,
                             std::vector<std::vector<double>>& field,
                             std::vector<std::vector<double>>& dual,
                             std::vector<std::vector<double>>& own) const
{
    const mesh::Mesh& m = m_space.mesh();
    const int n = l.local, width = m_fields * n, both = 2 * width;
    int number[2][mostLocal];
    double sign[mostLocal];
    std::vector<double> r(static_cast<size_t>(both)), k(size_t(both * both));
    for (const auto& pair : m.facing) {
        std::fill(r.begin(), r.end(), 0.0);
        std::fill(k.begin(), k.end(), 0.0);
        double scale[mostFields] = {0, 0};
        across(l, l.order, pair, u, r.data(), k.data(), scale);
        for (size_t a = 0; a < 2; ++a)
            l.space->local(m.sideCells[size_t(pair[a])][0], number[a], sign);
        for (int i = 0; i < both; ++i) {
            const int a = i / width, f = (i % width) / n, inCell = i % n;
            if (inCell < from)
                continue;
            const auto at = size_t(number[a][inCell]);
            field[size_t(f)][at] += r[size_t(i)];
            own[size_t(f)][at] += k[size_t(i * both + i)];
            for (int j = 0; j < both; ++j)
                if (j % n < from)
                    dual[size_t(f)][at] -=
                        k[size_t(j * both + i)] *
                        z[size_t((j % width) / n)][size_t(number[j / width][j % n])];
        }
    }
    std::vector<double> rf(static_cast<size_t>(n) + 1), kf(rf.size() * rf.size());
    for (size_t s = 0; s < l.films.size(); ++s) {
        std::fill(rf.begin(), rf.end(), 0.0);
        std::fill(kf.begin(), kf.end(), 0.0);
        const int group = l.films[s].group;
        const auto f = size_t(m_model.groups()[size_t(group)].field);
        const int t = film(l, l.order, int(s), u, 1.0, 0.0, rf.data(), kf.data());
        l.space->local(t, number[0], sign);
        const int apart = l.ownValue[size_t(group)];
        for (int i = from; i < n; ++i) {
            const auto at = size_t(number[0][i]);
            field[f][at] += rf[size_t(i)];
            own[f][at] += kf[size_t(i * (n + 1) + i)];
            for (int j = 0; j < from; ++j)
                dual[f][at] -= kf[size_t(j * (n + 1) + i)] * z[f][size_t(number[0][j])];
            if (apart >= 0)
                dual[f][at] -= kf[size_t(n * (n + 1) + i)] * z[f][size_t(apart)];
        }
    }
}

}  // namespace yh::fem
