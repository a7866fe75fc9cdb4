#include "fem/assembly.h"

#include "fem/quadrature.h"

#include <metis.h>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yh::fem {

namespace {

constexpr double pi = 3.14159265358979323846;

/// Reference integrals for straight triangles: with c[m] one of uu, uv + vu, vv and a weight of 1
/// or a barycentric coordinate.
struct ReferenceTensors
{
    int packed;
    std::vector<double> plain;     ///< shape (3, packed)
    std::vector<double> weighted;  ///< shape (3 weights, 3, packed)

    explicit ReferenceTensors(int order)
    {
        const BasisTable b(order, 2 * order);
        const int n = b.count;
        packed = n * (n + 1) / 2;
        plain.assign(size_t(3 * packed), 0);
        weighted.assign(size_t(9 * packed), 0);
        for (int q = 0; q < b.points(); ++q) {
            const double* du = &b.du[size_t(q * n)];
            const double* dv = &b.dv[size_t(q * n)];
            const double l[3] = {1 - b.u[size_t(q)] - b.v[size_t(q)], b.u[size_t(q)],
                                 b.v[size_t(q)]};
            int k = 0;
            for (int i = 0; i < n; ++i)
                for (int j = i; j < n; ++j, ++k) {
                    const double c[3] = {du[i] * du[j], du[i] * dv[j] + dv[i] * du[j],
                                         dv[i] * dv[j]};
                    for (int m = 0; m < 3; ++m) {
                        const double x = b.w[size_t(q)] * c[m];
                        plain[size_t(m * packed + k)] += x;
                        for (int w = 0; w < 3; ++w)
                            weighted[size_t((w * 3 + m) * packed + k)] += l[w] * x;
                    }
                }
        }
    }
};

/// |J| J^-1 k J^-T, as uu, uv, vv.
void pullBack(Point du, Point dv, const Tensor& k, double G[3])
{
    const double det = du.x * dv.y - du.y * dv.x, s = 1 / det;
    // Rows of the inverse Jacobian are grad u and grad v.
    const double ux = dv.y, uy = -dv.x, vx = -du.y, vy = du.x;
    G[0] = s * (ux * (k.xx * ux + k.xy * uy) + uy * (k.xy * ux + k.yy * uy));
    G[1] = s * (ux * (k.xx * vx + k.xy * vy) + uy * (k.xy * vx + k.yy * vy));
    G[2] = s * (vx * (k.xx * vx + k.xy * vy) + vy * (k.xy * vx + k.yy * vy));
}

void straightElement(const mesh::Geometry& g, const Tensor& k, Measure measure,
                     const ReferenceTensors& ref, double* out)
{
    Point du, dv;
    g.jacobian(1.0 / 3, 1.0 / 3, du, dv);
    double G[3];
    pullBack(du, dv, k, G);
    const int n = ref.packed;
    if (measure == Measure::plane) {
        const double *a = ref.plain.data(), *b = a + n, *c = b + n;
        for (int i = 0; i < n; ++i)
            out[i] = G[0] * a[i] + G[1] * b[i] + G[2] * c[i];
        return;
    }
    std::fill(out, out + n, 0.0);
    for (int w = 0; w < 3; ++w) {
        const double r = 2 * pi * g.node[size_t(w)].x;
        const double *a = ref.weighted.data() + 3 * w * n, *b = a + n, *c = b + n;
        for (int i = 0; i < n; ++i)
            out[i] += r * (G[0] * a[i] + G[1] * b[i] + G[2] * c[i]);
    }
}

void generalElement(const mesh::Geometry& g, const Coefficient& k, Measure measure,
                    const BasisTable& b, double* out)
{
    const int n = b.count;
    std::fill(out, out + n * (n + 1) / 2, 0.0);
    double wu[mostLocal], wv[mostLocal];
    for (int q = 0; q < b.points(); ++q) {
        const double u = b.u[size_t(q)], v = b.v[size_t(q)];
        Point du, dv;
        g.jacobian(u, v, du, dv);
        const Point p = g.at(u, v);
        double G[3];
        pullBack(du, dv, k.at ? k.at(p) : k.constant, G);
        const double w = b.w[size_t(q)] * (measure == Measure::axisymmetric ? 2 * pi * p.x : 1.0);
        const double* fu = &b.du[size_t(q * n)];
        const double* fv = &b.dv[size_t(q * n)];
        for (int i = 0; i < n; ++i) {
            wu[i] = w * (G[0] * fu[i] + G[1] * fv[i]);
            wv[i] = w * (G[1] * fu[i] + G[2] * fv[i]);
        }
        double* o = out;
        for (int i = 0; i < n; ++i)
            for (int j = i; j < n; ++j)
                *o++ += wu[i] * fu[j] + wv[i] * fv[j];
    }
}

/// Degree that integrates the matrices of smooth coefficients on curved triangles well below the
/// element's own error.
int generalDegree(int order)
{
    return 2 * order + 3;
}

}  // namespace

void ElementMatrices::multiply(int triangle, int n, const double* x, double* y) const
{
    const double* k = of(triangle);
    std::fill(y, y + n, 0.0);
    for (int i = 0; i < n; ++i) {
        const double* row = k + at(i, i);
        y[i] += row[0] * x[i];
        for (int j = i + 1; j < n; ++j) {
            y[i] += row[j - i] * x[j];
            y[j] += row[j - i] * x[i];
        }
    }
}

ElementMatrices stiffness(const H1Space& space, std::span<const Coefficient> coefficient,
                          Measure measure)
{
    ElementMatrices m;
    const mesh::Mesh& mesh = space.mesh();
    m.local = localCount(space.order());
    m.stride = size_t(m.local * (m.local + 1) / 2);
    m.entries.resize(m.stride * size_t(mesh.triangleCount()));
    const ReferenceTensors ref(space.order());
    const BasisTable table(space.order(), generalDegree(space.order()));
#pragma omp parallel for schedule(dynamic, 512)
    for (int t = 0; t < mesh.triangleCount(); ++t) {
        const mesh::Geometry g(mesh, t);
        const Coefficient& k = coefficient[size_t(mesh.face[size_t(t)])];
        double* out = &m.entries[size_t(t) * m.stride];
        if (g.curved || k.at)
            generalElement(g, k, measure, table, out);
        else
            straightElement(g, k.constant, measure, ref, out);
        // Signs of the odd edge functions are folded in once, here.
        int number[mostLocal];
        double sign[mostLocal];
        space.local(t, number, sign);
        for (int i = 0; i < m.local; ++i)
            for (int j = i; j < m.local; ++j)
                out[m.at(i, j)] *= sign[i] * sign[j];
    }
    return m;
}

std::vector<double> load(const H1Space& space,
                         std::span<const std::function<double(Point)>> density, Measure measure)
{
    std::vector<double> rhs(size_t(space.count()), 0.0);
    const mesh::Mesh& mesh = space.mesh();
    const BasisTable b(space.order(), generalDegree(space.order()));
    for (int t = 0; t < mesh.triangleCount(); ++t) {
        const auto& f = density[size_t(mesh.face[size_t(t)])];
        if (!f)
            continue;
        const mesh::Geometry g(mesh, t);
        int number[mostLocal];
        double sign[mostLocal];
        space.local(t, number, sign);
        for (int q = 0; q < b.points(); ++q) {
            const double u = b.u[size_t(q)], v = b.v[size_t(q)];
            const Point p = g.at(u, v);
            const double w = b.w[size_t(q)] * g.determinant(u, v) * f(p) *
                             (measure == Measure::axisymmetric ? 2 * pi * p.x : 1.0);
            for (int i = 0; i < b.count; ++i)
                rhs[size_t(number[i])] += sign[i] * w * b.value[size_t(q * b.count + i)];
        }
    }
    return rhs;
}

void addEdgeLoad(const H1Space& space, std::span<const int> edges,
                 const std::function<double(Point)>& density, Measure measure,
                 std::vector<double>& rhs)
{
    const mesh::Mesh& mesh = space.mesh();
    const auto rule = gaussLegendre(space.order() + 2);
    for (const int e : edges) {
        const int t = mesh.edgeTriangles[size_t(e)][0];
        const auto& te = mesh.triangleEdges[size_t(t)];
        const int k = int(std::find(te.begin(), te.end(), e) - te.begin());
        const mesh::Geometry g(mesh, t);
        int number[mostLocal];
        double sign[mostLocal], f[mostLocal], fu[mostLocal], fv[mostLocal];
        space.local(t, number, sign);
        for (const LinePoint& q : rule) {
            double u, v;
            mesh::Geometry::onSide(k, q.x, u, v);
            const Point along = g.alongSide(k, u, v);
            const Point p = g.at(u, v);
            const double w = q.w * std::hypot(along.x, along.y) * density(p) *
                             (measure == Measure::axisymmetric ? 2 * pi * p.x : 1.0);
            basis(space.order(), u, v, f, fu, fv);
            for (int i = 0; i < localCount(space.order()); ++i)
                rhs[size_t(number[i])] += sign[i] * w * f[i];
        }
    }
}

std::vector<int> cornerRanks(const mesh::Mesh& mesh)
{
    const int nv = mesh.vertexCount();
    std::vector<idx_t> start(size_t(nv) + 1, 0), neighbours(2 * size_t(mesh.edgeCount()));
    for (const auto& e : mesh.edges) {
        ++start[size_t(e[0]) + 1];
        ++start[size_t(e[1]) + 1];
    }
    std::partial_sum(start.begin(), start.end(), start.begin());
    std::vector<idx_t> at(start.begin(), start.end() - 1);
    for (const auto& e : mesh.edges) {
        neighbours[size_t(at[size_t(e[0])]++)] = e[1];
        neighbours[size_t(at[size_t(e[1])]++)] = e[0];
    }
    std::vector<idx_t> perm(static_cast<size_t>(nv)), rank(static_cast<size_t>(nv));
    idx_t n = nv;
    idx_t options[METIS_NOPTIONS];
    METIS_SetDefaultOptions(options);
    options[METIS_OPTION_SEED] = 1;
    options[METIS_OPTION_NUMBERING] = 0;
    if (METIS_NodeND(&n, start.data(), neighbours.data(), nullptr, options, perm.data(),
                     rank.data()) != METIS_OK)
        throw base::Error(5001,
                          "the ordering of the unknowns failed: not enough memory for a mesh of " +
                              std::to_string(nv) + " corners");
    return {rank.begin(), rank.end()};
}

Numbering nestedDissection(const H1Space& space, int order, const std::vector<char>& isFree)
{
    return nestedDissection(space, order, isFree, cornerRanks(space.mesh()));
}

Numbering nestedDissection(const H1Space& space, int order, const std::vector<char>& isFree,
                           std::span<const int> rank)
{
    const mesh::Mesh& mesh = space.mesh();
    const int nv = mesh.vertexCount();
    // Key of a function: rank of the corner it goes with. A counting sort keeps it linear.
    std::vector<int> with(size_t(space.count(order)), -1);
    const int ne = mesh.edgeCount(), nt = mesh.triangleCount();
    auto edgeCorner = [&](int e) {
        const auto& v = mesh.edges[size_t(e)];
        return std::min(rank[size_t(v[0])], rank[size_t(v[1])]);
    };
    auto inner = [&](int t) {
        const auto& v = mesh.triangles[size_t(t)];
        return std::min({rank[size_t(v[0])], rank[size_t(v[1])], rank[size_t(v[2])]});
    };
    for (int v = 0; v < nv; ++v)
        with[size_t(v)] = rank[size_t(v)];
    if (order >= 2)
        for (int e = 0; e < ne; ++e)
            with[size_t(nv + e)] = edgeCorner(e);
    if (order >= 3) {
        for (int e = 0; e < ne; ++e)
            with[size_t(nv + ne + e)] = edgeCorner(e);
        for (int t = 0; t < nt; ++t)
            with[size_t(nv + 2 * ne + t)] = inner(t);
    }
    if (order >= 4) {
        for (int e = 0; e < ne; ++e)
            with[size_t(nv + 2 * ne + nt + e)] = edgeCorner(e);
        for (int t = 0; t < 2 * nt; ++t)
            with[size_t(nv + 3 * ne + nt + t)] = inner(t / 2);
    }
    std::vector<int> offset(size_t(nv) + 1, 0);
    for (size_t i = 0; i < with.size(); ++i)
        if (isFree[i])
            ++offset[size_t(with[i]) + 1];
    std::partial_sum(offset.begin(), offset.end(), offset.begin());
    Numbering result;
    result.place.assign(with.size(), -1);
    result.function.resize(size_t(offset.back()));
    // Inner functions first, corners last within one key: they couple to fewer others.
    for (size_t k = with.size(); k-- > 0;)
        if (isFree[k]) {
            const int p = offset[size_t(with[k])]++;
            result.place[k] = p;
            result.function[size_t(p)] = int(k);
        }
    return result;
}

SparseSymmetric assemble(const H1Space& space, int order, const ElementMatrices& elements,
                         const Numbering& numbering)
{
    const mesh::Mesh& mesh = space.mesh();
    const int nt = mesh.triangleCount(), n = numbering.size(), local = localCount(order);
    // Place of every local function, and the triangles of every place.
    std::vector<int> place(size_t(nt) * size_t(local));
#pragma omp parallel for schedule(static)
    for (int t = 0; t < nt; ++t) {
        int number[mostLocal];
        double sign[mostLocal];
        space.local(t, number, sign);
        for (int i = 0; i < local; ++i)
            place[size_t(t) * size_t(local) + size_t(i)] = numbering.place[size_t(number[i])];
    }
    std::vector<int> first(size_t(n) + 1, 0);
    for (const int p : place)
        if (p >= 0)
            ++first[size_t(p) + 1];
    std::partial_sum(first.begin(), first.end(), first.begin());
    std::vector<int> incidence(size_t(first.back()));  // triangle * local + local function
    {
        std::vector<int> at(first.begin(), first.end() - 1);
        for (size_t k = 0; k < place.size(); ++k)
            if (place[k] >= 0)
                incidence[size_t(at[size_t(place[k])]++)] = int(k);
    }
    SparseSymmetric K;
    K.size = n;
    K.start.assign(size_t(n) + 1, 0);
    auto rowsOf = [&](int column, std::vector<int>& rows) {
        rows.clear();
        for (int i = first[size_t(column)]; i < first[size_t(column) + 1]; ++i) {
            const int* p = &place[size_t(incidence[size_t(i)] / local) * size_t(local)];
            for (int j = 0; j < local; ++j)
                if (p[j] >= column)
                    rows.push_back(p[j]);
        }
        std::sort(rows.begin(), rows.end());
        rows.erase(std::unique(rows.begin(), rows.end()), rows.end());
    };
    // Columns are cut into blocks; each block's rows are found once and copied into place.
    constexpr int blockSize = 4096;
    const int blocks = (n + blockSize - 1) / blockSize;
    std::vector<std::vector<int>> blockRows(static_cast<size_t>(blocks));
#pragma omp parallel
    {
        std::vector<int> rows;
#pragma omp for schedule(dynamic, 1)
        for (int b = 0; b < blocks; ++b)
            for (int c = b * blockSize; c < std::min(n, (b + 1) * blockSize); ++c) {
                rowsOf(c, rows);
                K.start[size_t(c) + 1] = int(rows.size());
                blockRows[size_t(b)].insert(blockRows[size_t(b)].end(), rows.begin(), rows.end());
            }
    }
    std::partial_sum(K.start.begin(), K.start.end(), K.start.begin());
    K.row.resize(size_t(K.start.back()));
    K.value.assign(K.row.size(), 0.0);
#pragma omp parallel for schedule(dynamic, 1)
    for (int b = 0; b < blocks; ++b) {
        const int c0 = b * blockSize, c1 = std::min(n, c0 + blockSize);
        std::copy(blockRows[size_t(b)].begin(), blockRows[size_t(b)].end(),
                  K.row.begin() + K.start[size_t(c0)]);
        std::vector<int>().swap(blockRows[size_t(b)]);
        // Each column gathers from its triangles, in their order: no races, one fixed sum.
        for (int c = c0; c < c1; ++c) {
            const int* rows = K.row.data();
            for (int i = first[size_t(c)]; i < first[size_t(c) + 1]; ++i) {
                const int t = incidence[size_t(i)] / local, lc = incidence[size_t(i)] % local;
                const int* p = &place[size_t(t) * size_t(local)];
                const double* k = elements.of(t);
                for (int j = 0; j < local; ++j) {
                    if (p[j] < c)
                        continue;
                    const int* found = std::lower_bound(rows + K.start[size_t(c)],
                                                        rows + K.start[size_t(c) + 1], p[j]);
                    K.value[size_t(found - rows)] +=
                        k[j < lc ? elements.at(j, lc) : elements.at(lc, j)];
                }
            }
        }
    }
    return K;
}

}  // namespace yh::fem
