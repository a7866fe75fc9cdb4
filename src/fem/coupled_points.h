// Inside the coupled solver only: what the model says at the points of cells and sides.
#pragma once

#include "fem/coupled_layout.h"
#include "fem/quadrature.h"

namespace yh::fem {

/// Physical values and gradients of all functions at one point of a cell.
struct PointBasis
{
    double value[mostLocal];
    double grad[3][mostLocal];
};

/// Functions at a point of a table.
/// @param n    how many there are
/// @param row  rows of the inverse Jacobian, 1/m
inline void fill(PointBasis& b, const BasisTable& table, int point, int n, int dimension,
                 const Point (&row)[3])
{
    const auto at = size_t(point * n);
    const double *d0 = &table.d[0][at], *d1 = &table.d[1][at];
    std::copy_n(&table.value[at], n, b.value);
    if (dimension == 2) {
        for (int i = 0; i < n; ++i) {
            b.grad[0][i] = d0[i] * row[0].x + d1[i] * row[1].x;
            b.grad[1][i] = d0[i] * row[0].y + d1[i] * row[1].y;
        }
        return;
    }
    const double* d2 = &table.d[2][at];
    for (int i = 0; i < n; ++i) {
        b.grad[0][i] = d0[i] * row[0].x + d1[i] * row[1].x + d2[i] * row[2].x;
        b.grad[1][i] = d0[i] * row[0].y + d1[i] * row[1].y + d2[i] * row[2].y;
        b.grad[2][i] = d0[i] * row[0].z + d1[i] * row[1].z + d2[i] * row[2].z;
    }
}

/// Makes values and gradients of the fields the variables, once for all points.
inline void makeVariables(PointState& s, int fields)
{
    for (int f = 0; f < fields; ++f) {
        s.u[f].d[f] = 1;
        for (int k = 0; k < 3; ++k)
            s.grad[f][k].d[mostFields + 3 * f + k] = 1;
    }
}

/// Values and gradients of the fields from their coefficients on a cell.
inline void setState(PointState& s, int fields, int n, const double* c, const PointBasis& b)
{
    for (int f = 0; f < fields; ++f) {
        double u = 0, g[3] = {0, 0, 0};
        for (int i = 0; i < n; ++i) {
            const double x = c[f * n + i];
            u += x * b.value[i];
            for (int k = 0; k < 3; ++k)
                g[k] += x * b.grad[k][i];
        }
        s.u[f].v = u;
        for (int k = 0; k < 3; ++k)
            s.grad[f][k].v = g[k];
    }
}

/// Coefficients of a cell with the signs of its functions.
inline void gather(const CoupledSolver::Values& u, int n, const int* number, const double* sign,
                   double* c)
{
    for (size_t f = 0; f < u.size(); ++f)
        for (int i = 0; i < n; ++i)
            c[f * size_t(n) + size_t(i)] = sign[i] * u[f][size_t(number[i])];
}

/// Numbers and signs of a cell's functions.
struct Signs
{
    int number[mostLocal];
    double sign[mostLocal];
    template <class Layout>
    Signs(const Layout& l, int t)
    {
        l.space->local(t, number, sign);
    }
};

/// What was stored on a cell or side before a stage of a step in time.
class StoredBefore
{
public:
    StoredBefore(const CoupledSolver::Stage& stage, int n, const int* number, const double* sign)
        : m_state{stage.first, stage.weight != 0 ? stage.second : nullptr},
          m_weight{1 - stage.weight, stage.weight}
    {
        for (int k = 0; k < 2; ++k)
            if (m_state[k])
                gather(*m_state[k], n, number, sign, m_coefficients[k]);
    }
    /// Adds to `stored` by field at a point.
    /// @param storage  fills the storage terms of a state
    template <class Storage>
    void at(PointState& state, int fields, int n, const PointBasis& b, const Storage& storage,
            double* stored) const
    {
        for (int k = 0; k < 2; ++k) {
            if (!m_state[k])
                continue;
            PointTerms terms;
            setState(state, fields, n, m_coefficients[k], b);
            storage(state, terms);
            for (int f = 0; f < fields; ++f)
                stored[f] += m_weight[k] * terms.storage[f].v;
        }
    }

private:
    const CoupledSolver::Values* m_state[2];
    double m_weight[2], m_coefficients[2][mostFields * mostLocal];
};

/// What a cell brings along for all its points.
struct OnCell
{
    Signs signs;
    double coefficients[mostFields * mostLocal];
    StoredBefore before;
    PointState state;

    template <class Layout>
    OnCell(const Layout& l, const mesh::Mesh& m, int order, int t, const CoupledSolver::Values& u,
           double drive, const CoupledSolver::Stage& time)
        : signs(l, t), before(time, l.local, signs.number, signs.sign)
    {
        gather(u, l.local, signs.number, signs.sign, coefficients);
        state.piece = m.piece[size_t(t)];
        state.order = l.solved > 0 ? l.solved : order;
        state.cell = t;
        state.drive = drive;
        state.time = time.time;
        makeVariables(state, int(u.size()));
    }
};

/// @param add  called with (terms, basis, weight, what storage counts by, what was stored before)
template <class Add>
void CoupledSolver::visitCell(const Layout& l, int order, int t, const Values& u, double drive,
                              const Stage& time, Add add) const
{
    const mesh::Mesh& m = m_space.mesh();
    const mesh::Geometry g(m, t);
    const BasisTable& table = *l.table;
    const int n = l.local;
    const OnCell on(l, m, order, t, u, drive, time);
    PointState state = on.state;
    Point row[3];
    PointBasis b{};
    double det = 0;
    for (int q = 0; q < table.points(); ++q) {
        const Point& xi = table.xi[size_t(q)];
        if (q == 0 || g.curved)
            det = g.inverse(xi, row);
        fill(b, table, q, n, m.dimension, row);
        state.at = g.at(xi);
        state.xi = xi;
        const double w = table.w[size_t(q)] * det * measureAt(m_model.measure(), state.at);
        PointTerms terms;
        double stored[mostFields] = {0, 0};
        on.before.at(
            state, m_fields, n, b,
            [this](const PointState& p, PointTerms& out) { m_model.storage(p, out); }, stored);
        setState(state, m_fields, n, on.coefficients, b);
        m_model.terms(state, terms);
        if (time.dt > 0)
            m_model.storage(state, terms);
        add(terms, b, w, time.dt > 0 ? 1 / time.dt : 0.0, stored);
    }
}

namespace {

/** Basis functions at a point of a side, with their slopes along it. */
inline PointBasis alongSide(const mesh::Geometry& g, int dimension, int order, int n,
                            const Point& xi, const Point& unit)
{
    Point row[3];
    g.inverse(xi, row);
    Basis at;
    basis(dimension, order, xi, at);
    PointBasis b;
    for (int i = 0; i < n; ++i) {
        Point d = at.d[0][i] * row[0] + at.d[1][i] * row[1];
        if (dimension == 3)
            d = d + at.d[2][i] * row[2];
        d = d - dot(d, unit) * unit;  // along the side
        b.value[i] = at.value[i];
        b.grad[0][i] = d.x;
        b.grad[1][i] = d.y;
        b.grad[2][i] = d.z;
    }
    return b;
}

}  // namespace

template <class Add>
void CoupledSolver::visitSide(const Layout& l, int order, int s, const Values& u, double drive,
                              const Stage& time, Add add) const
{
    const mesh::Mesh& m = m_space.mesh();
    const int t = m.sideCells[size_t(s)][0], k = m.localSide(t, s), n = l.local;
    const mesh::Geometry g(m, t);
    const OnCell on(l, m, order, t, u, drive, time);
    PointState state = on.state;
    for (const CellPoint& q : cellRule(m.dimension - 1, 2 * order + 2)) {
        const Point xi = g.onSide(k, q.xi), normal = g.outward(k, xi);
        const double size = norm(normal);
        const Point unit = (1 / size) * normal;
        const PointBasis b = alongSide(g, m.dimension, order, n, xi, unit);
        state.at = g.at(xi);
        state.xi = xi;
        state.normal = unit;
        PointTerms terms;
        const int tag = m.sideTag[size_t(s)];
        double stored[mostFields] = {0, 0};
        on.before.at(
            state, m_fields, n, b,
            [&](const PointState& p, PointTerms& out) { m_model.sideStorage(tag, p, out); },
            stored);
        setState(state, m_fields, n, on.coefficients, b);
        m_model.sideTerms(tag, state, terms);
        if (time.dt > 0)
            m_model.sideStorage(tag, state, terms);
        add(terms, b, q.w * size * measureAt(m_model.measure(), state.at),
            time.dt > 0 ? 1 / time.dt : 0.0, stored);
    }
}

}  // namespace yh::fem
