#include "fem/block.h"

#include "base/fault.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yh::fem {

ElementMatrices blockElements(const H1Space& space, int components, const BlockForm& form,
                              Measure measure, int more)
{
    const mesh::Mesh& m = space.mesh();
    const int d = m.dimension, F = components, V = F * (1 + d), n = space.localCount(space.order()),
              N = n * F;
    YH_ASSERT(F <= mostComponents, "few components");
    const BasisTable table(d, space.order(), 2 * space.order() + 2 + more);
    ElementMatrices out;
    out.local = N;
    out.stride = size_t(N) * size_t(N + 1) / 2;
    out.entries.assign(size_t(m.cellCount()) * out.stride, 0.0);
#pragma omp parallel
    {
        std::vector<double> C(size_t(V) * size_t(V)), D(size_t(V) * size_t(n)), S(D.size());
        std::vector<int> number(static_cast<size_t>(n));
        std::vector<double> sign(static_cast<size_t>(n));
#pragma omp for schedule(static)
        for (int t = 0; t < m.cellCount(); ++t) {
            const mesh::Geometry g(m, t);
            space.local(t, number.data(), sign.data());
            double* block = &out.entries[size_t(t) * out.stride];
            for (int q = 0; q < table.points(); ++q) {
                const Point &xi = table.xi[size_t(q)], p = g.at(xi);
                std::fill(C.begin(), C.end(), 0.0);
                if (!form(m.piece[size_t(t)], p, C.data()))
                    break;
                Point row[3];
                const double w = table.w[size_t(q)] * g.inverse(xi, row) * measureAt(measure, p);
                // Value and derivatives of all functions; shape (1 + d, n).
                double B[4][mostLocal];
                const size_t at = size_t(q) * size_t(n);
                for (int i = 0; i < n; ++i) {
                    const auto k = at + size_t(i);
                    Point grad;
                    for (int c = 0; c < d; ++c)
                        grad = grad + table.d[c][k] * row[c];
                    const double s = sign[size_t(i)];
                    B[0][i] = s * table.value[k];
                    B[1][i] = s * grad.x;
                    B[2][i] = s * grad.y;
                    B[3][i] = s * grad.z;
                }
                for (int f = 0; f < F; ++f)
                    for (int h = 0; h < F; ++h) {
                        // S[a][j] = sum over b of C[fa, hb] B[b][j]
                        double X[4][mostLocal];
                        bool any = false;
                        for (int a = 0; a <= d; ++a) {
                            const double* c =
                                &C[size_t(f * (1 + d) + a) * size_t(V) + size_t(h * (1 + d))];
                            for (int b = 0; b <= d; ++b)
                                any = any || c[b] != 0;
                            for (int j = 0; j < n; ++j) {
                                double x = 0;
                                for (int b = 0; b <= d; ++b)
                                    x += c[b] * B[b][j];
                                X[a][j] = w * x;
                            }
                        }
                        if (!any)
                            continue;
                        for (int i = 0; i < n; ++i)
                            for (int j = 0; j < n; ++j) {
                                const int I = i * F + f, J = j * F + h;
                                if (I > J)
                                    continue;
                                double x = 0;
                                for (int a = 0; a <= d; ++a)
                                    x += B[a][i] * X[a][j];
                                block[out.at(I, J)] += x;
                            }
                    }
            }
        }
    }
    return out;
}

BlockSpace::BlockSpace(const H1Space& space, std::vector<std::vector<char>> live,
                       std::vector<Held> held, std::vector<Body> bodies)
    : m_space(space), m_live(std::move(live)), m_held(std::move(held)), m_bodies(std::move(bodies))
{
}

const BlockSpace::Layout& BlockSpace::layout(int order) const
{
    for (const Layout& l : m_layouts)
        if (l.order == order)
            return l;
    const mesh::Mesh& m = m_space.mesh();
    const auto F = size_t(components());
    const int most = m_space.localCount(m_space.order()), n = m_space.localCount(order);
    const auto first = size_t(m_space.count(order)) * F, all = first + m_bodies.size();
    std::vector<char> isFree(all, 0), held(first, 0);
    std::vector<int> body(first, -1);
    std::vector<int> number(static_cast<size_t>(most));
    std::vector<double> sign(static_cast<size_t>(most));
    auto on = [&m](const std::vector<char>& sides, int s) {
        const int tag = m.sideTag[size_t(s)];
        return tag >= 0 && sides[size_t(tag)];
    };
    for (const Held& h : m_held)
        for (int s = 0; s < m.sideCount(); ++s)
            if (on(h.sides, s))
                for (const int i : m_space.onSide(s, order))
                    held[size_t(i) * F + size_t(h.component)] = 1;
    for (size_t b = 0; b < m_bodies.size(); ++b) {
        const Body& of = m_bodies[b];
        // Functions of higher order vanish there, those of corners are one.
        auto take = [&](int i) {
            const size_t k = size_t(i) * F + size_t(of.component);
            held[k] = 1;
            if (i < m.vertexCount())
                body[k] = int(b);
        };
        for (int s = 0; s < m.sideCount(); ++s)
            if (on(of.sides, s))
                for (const int i : m_space.onSide(s, order))
                    take(i);
        for (int t = 0; t < m.cellCount(); ++t)
            if (of.pieces[size_t(m.piece[size_t(t)])]) {
                m_space.local(t, number.data(), sign.data());
                for (int i = 0; i < n; ++i)
                    take(number[size_t(i)]);
            }
    }
    Layout l;
    l.order = order;
    l.functions.mesh = &m;
    l.functions.width = l.functions.local = n * int(F);
    l.functions.number.resize(size_t(m.cellCount()) * size_t(n) * F);
    for (int t = 0; t < m.cellCount(); ++t) {
        m_space.local(t, number.data(), sign.data());
        for (int i = 0; i < n; ++i)
            for (size_t f = 0; f < F; ++f) {
                const size_t k = size_t(number[size_t(i)]) * F + f;
                const bool live = m_live[f][size_t(m.piece[size_t(t)])] != 0;
                if (live && !held[k])
                    isFree[k] = 1;
                if (live && body[k] >= 0)
                    isFree[first + size_t(body[k])] = 1;
                l.functions.number[(size_t(t) * size_t(n) + size_t(i)) * F + f] =
                    int(body[k] >= 0 ? first + size_t(body[k]) : k);
            }
    }
    if (m_ranks.empty())
        m_ranks = cornerRanks(m);
    const std::vector<int> rank = functionRanks(m_space, order, m_ranks);
    std::vector<int> ranks(all);
    for (size_t k = 0; k < first; ++k)
        ranks[k] = rank[k / F];
    const int last = rank.empty() ? 0 : *std::max_element(rank.begin(), rank.end()) + 1;
    for (size_t b = 0; b < m_bodies.size(); ++b)
        ranks[first + b] = last + int(b) + (m_bodies[b].given ? int(m_bodies.size()) : 0);
    l.numbering = byRank(ranks, isFree);
    l.free = l.numbering.size();
    for (size_t b = 0; b < m_bodies.size(); ++b) {
        l.bodyPlace.push_back(l.numbering.place[first + b]);
        l.free -= m_bodies[b].given && l.bodyPlace.back() >= 0;
    }
    m_layouts.push_back(std::move(l));
    return m_layouts.back();
}

std::vector<double> BlockSpace::coefficients(const Layout& l, int component,
                                             const std::vector<double>& x) const
{
    const mesh::Mesh& m = m_space.mesh();
    const auto F = size_t(components());
    std::vector<double> c(size_t(m_space.count(l.order)), 0.0);
    for (size_t i = 0; i < c.size(); ++i)
        if (const int p = l.numbering.place[i * F + size_t(component)]; p >= 0)
            c[i] = x[size_t(p)];
    // Corners on bodies have the body's value.
    const int local = l.functions.local;
    const auto first = int(c.size() * F);
    for (int t = 0; t < m.cellCount(); ++t) {
        const auto corners = m.corners(t);
        for (size_t k = 0; k < corners.size(); ++k) {
            const int at =
                l.functions.number[size_t(t) * size_t(local) + k * F + size_t(component)];
            if (at >= first)
                if (const int p = l.numbering.place[size_t(at)]; p >= 0)
                    c[size_t(corners[k])] = x[size_t(p)];
        }
    }
    return c;
}

std::vector<char> BlockSpace::heldVertices(int component) const
{
    const mesh::Mesh& m = m_space.mesh();
    std::vector<char> list(size_t(m.vertexCount()), 0);
    for (const Held& h : m_held)
        if (h.component == component)
            for (int s = 0; s < m.sideCount(); ++s)
                if (const int tag = m.sideTag[size_t(s)]; tag >= 0 && h.sides[size_t(tag)])
                    for (const int v : m.sideCorners(s))
                        list[size_t(v)] = 1;
    return list;
}

FreePart::FreePart(const SymmetricFamily& f, int free) : size(free), value(f.value.size())
{
    scale.assign(size_t(f.size), 1.0);
    for (int c = 0; c < free; ++c)
        if (const double d = std::abs(f.value[0][f.slot(c, c)]); d > 0)
            scale[size_t(c)] = 1 / std::sqrt(d);
    start.push_back(0);
    for (int c = 0; c < free; ++c) {
        for (auto k = size_t(f.start[size_t(c)]); k < size_t(f.start[size_t(c) + 1]); ++k) {
            const int r = f.row[k];
            if (r >= free)
                continue;
            row.push_back(r);
            for (size_t t = 0; t < value.size(); ++t)
                value[t].push_back(scale[size_t(r)] * scale[size_t(c)] * f.value[t][k]);
        }
        start.push_back(int(row.size()));
    }
}

}  // namespace yh::fem
