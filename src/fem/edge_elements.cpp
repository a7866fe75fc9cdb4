// Element matrices of edge elements, and what functions of the next order meet.
#include "fem/edge.h"
#include "fem/quadrature.h"

#include <algorithm>
#include <numeric>

namespace yh::fem {

namespace {

/// Values of a rule of quadrature: all components of all functions at all points.
struct EdgeTable
{
    int count;
    const std::vector<CellPoint>& rule;
    std::vector<double> value, curl;  ///< shape (points, 3, functions)

    EdgeTable(const EdgeSpace& space, int order, int degree)
        : count(space.localCount(order)), rule(cellRule(space.mesh().dimension, degree))
    {
        const auto n = size_t(count);
        value.resize(rule.size() * 3 * n);
        curl.resize(value.size());
        EdgeBasis b;
        for (size_t q = 0; q < rule.size(); ++q) {
            edgeBasis(space.mesh().dimension, space.kind(), order, rule[q].xi, b);
            for (size_t i = 0; i < n; ++i) {
                const double v[3] = {b.value[i].x, b.value[i].y, b.value[i].z},
                             c[3] = {b.curl[i].x, b.curl[i].y, b.curl[i].z};
                for (size_t k = 0; k < 3; ++k) {
                    value[(q * 3 + k) * n + i] = v[k];
                    curl[(q * 3 + k) * n + i] = c[k];
                }
            }
        }
    }
};

constexpr int tensorPair[6][2] = {{0, 0}, {0, 1}, {1, 1}, {0, 2}, {1, 2}, {2, 2}};

/// Products of two components over the reference simplex, for straight cells of one material.
std::vector<double> referenceProducts(const EdgeTable& t, const std::vector<double>& component)
{
    const auto n = size_t(t.count), packed = n * (n + 1) / 2;
    std::vector<double> sum(6 * packed, 0.0);
    for (size_t q = 0; q < t.rule.size(); ++q)
        for (size_t m = 0; m < 6; ++m) {
            const double *A = &component[(q * 3 + size_t(tensorPair[m][0])) * n],
                         *B = &component[(q * 3 + size_t(tensorPair[m][1])) * n];
            double* out = &sum[m * packed];
            for (size_t i = 0; i < n; ++i)
                for (size_t j = i; j < n; ++j)
                    *out++ += t.rule[q].w * (tensorPair[m][0] == tensorPair[m][1]
                                                 ? A[i] * A[j]
                                                 : A[i] * B[j] + B[i] * A[j]);
        }
    return sum;
}

/// Metrics of a place: value_i . massMetric value_j and curl_i . curlMetric curl_j are the
/// integrands over the reference simplex.
struct Metrics
{
    double mass[6], curl[6];
};
Metrics metricsAt(int t, const mesh::Geometry& g, const Point& xi, const Coefficient& inverseMu,
                  const Coefficient& eps, Measure measure)
{
    Point row[3], column[3];
    const double det = g.inverse(xi, row), size = std::abs(det);
    g.jacobian(xi, column);
    if (g.dimension == 2)
        row[2] = column[2] = {0, 0, 1};
    const Point p = g.at(xi);
    const Tensor a = inverseMu.value(t, p), b = eps.value(t, p);
    const double w = measureAt(measure, p);
    Metrics m{};
    for (int k = 0; k < 6; ++k) {
        const int i = tensorPair[k][0], j = tensorPair[k][1];
        m.mass[k] = w * size * dot(row[i], b.times(row[j]));
        m.curl[k] = w / size * dot(column[i], a.times(column[j]));
    }
    return m;
}

void straight(const double* metric, const std::vector<double>& products, double* out, size_t packed)
{
    std::fill(out, out + packed, 0.0);
    for (size_t m = 0; m < 6; ++m) {
        const double s = metric[m];
        if (s == 0)
            continue;
        const double* a = &products[m * packed];
        for (size_t i = 0; i < packed; ++i)
            out[i] += s * a[i];
    }
}

void addPoint(const double* metric, double w, const double* component, size_t n, double* out)
{
    const double M[3][3] = {{metric[0], metric[1], metric[3]},
                            {metric[1], metric[2], metric[4]},
                            {metric[3], metric[4], metric[5]}};
    double flux[3][mostEdgeLocal];
    for (size_t c = 0; c < 3; ++c)
        for (size_t i = 0; i < n; ++i)
            flux[c][i] = w * (M[c][0] * component[i] + M[c][1] * component[n + i] +
                              M[c][2] * component[2 * n + i]);
    for (size_t i = 0; i < n; ++i) {
        const double f0 = flux[0][i], f1 = flux[1][i], f2 = flux[2][i];
        for (size_t j = i; j < n; ++j)
            *out++ += f0 * component[j] + f1 * component[n + j] + f2 * component[2 * n + j];
    }
}

/// Adds a point where the functions are not those of a plane field.
void addBent(int t, const EdgeSpace& space, const EdgeTable& table, size_t q, const SortedCell& s,
             const Coefficient& inverseMu, const Coefficient& eps, Measure measure, double* K,
             double* M)
{
    const auto n = size_t(table.count);
    const CellPoint& at = table.rule[q];
    Point row[3], column[3];
    const double det = s.geometry.inverse(at.xi, row);
    s.geometry.jacobian(at.xi, column);
    row[2] = column[2] = {0, 0, 1};
    const Point p = s.geometry.at(at.xi);
    double value[3 * mostEdgeLocal], curl[3 * mostEdgeLocal];
    for (size_t i = 0; i < n; ++i) {
        const double *v = &table.value[q * 3 * n + i], *c = &table.curl[q * 3 * n + i];
        const auto f =
            space.bent({v[0] * row[0] + v[n] * row[1] + v[2 * n] * row[2],
                        (1 / det) * (c[0] * column[0] + c[n] * column[1] + c[2 * n] * column[2])},
                       p);
        value[i] = f.value.x;
        value[n + i] = f.value.y;
        value[2 * n + i] = f.value.z;
        curl[i] = f.curl.x;
        curl[n + i] = f.curl.y;
        curl[2 * n + i] = f.curl.z;
    }
    auto metric = [&](const Coefficient& k, double(&out)[6]) {
        const Tensor T = k.value(t, p);
        const double w = measureAt(measure, p) * std::abs(det),
                     entries[6] = {T.xx, T.xy, T.yy, T.xz, T.yz, T.zz};
        for (int i = 0; i < 6; ++i)
            out[i] = w * entries[i];
    };
    double a[6], b[6];
    metric(inverseMu, a);
    metric(eps, b);
    addPoint(a, at.w, curl, n, K);
    addPoint(b, at.w, value, n, M);
}

/// The matrices of single cells.
class CellMatrices
{
public:
    CellMatrices(const EdgeSpace& space, int order, Measure measure)
        : m_space(space),
          m_measure(measure),
          m_exact(space, order, 2 * order),
          m_general(space, order, 2 * order + 3),
          m_masses(referenceProducts(m_exact, m_exact.value)),
          m_curls(referenceProducts(m_exact, m_exact.curl))
    {
    }
    /// @param[out] K, M  upper triangles row by row
    void of(int t, const Coefficient& a, const Coefficient& b, double* K, double* M) const
    {
        const auto n = size_t(m_exact.count), packed = n * (n + 1) / 2;
        const SortedCell s(m_space.mesh(), t);
        const auto parts = m_space.kind().parts;
        const bool bent = parts == EdgeKind::round || parts == EdgeKind::turning;
        if (!s.geometry.curved && a.isConstant() && b.isConstant() && m_measure == Measure::plane) {
            const Metrics m = metricsAt(t, s.geometry, s.geometry.centre(), a, b, m_measure);
            straight(m.curl, m_curls, K, packed);
            straight(m.mass, m_masses, M, packed);
            return;
        }
        std::fill(K, K + packed, 0.0);
        std::fill(M, M + packed, 0.0);
        for (size_t q = 0; q < m_general.rule.size(); ++q) {
            if (bent) {
                addBent(t, m_space, m_general, q, s, a, b, m_measure, K, M);
                continue;
            }
            const CellPoint& at = m_general.rule[q];
            const Metrics m = metricsAt(t, s.geometry, at.xi, a, b, m_measure);
            addPoint(m.curl, at.w, &m_general.curl[q * 3 * n], n, K);
            addPoint(m.mass, at.w, &m_general.value[q * 3 * n], n, M);
        }
    }

private:
    const EdgeSpace& m_space;
    Measure m_measure;
    EdgeTable m_exact, m_general;
    std::vector<double> m_masses, m_curls;
};

}  // namespace

SlantElements slantElements(const EdgeSpace& space, const Point& direction,
                            std::span<const Coefficient> inverseMu)
{
    const mesh::Mesh& mesh = space.mesh();
    const int order = space.order(), n = space.localCount(order);
    SlantElements e;
    for (ElementMatrices* m : {&e.linear, &e.square}) {
        m->local = n;
        m->stride = size_t(n * (n + 1) / 2);
        m->entries.resize(m->stride * size_t(mesh.cellCount()));
    }
    e.linear.antisymmetric = true;
    const auto& rule = cellRule(mesh.dimension, 2 * order + 2);
#pragma omp parallel for schedule(dynamic, 64)
    for (int t = 0; t < mesh.cellCount(); ++t) {
        const mesh::Geometry g(mesh, t);
        double *linear = &e.linear.entries[size_t(t) * e.linear.stride],
               *square = &e.square.entries[size_t(t) * e.square.stride];
        for (const CellPoint& q : rule) {
            const EdgePoint at(space, order, t, q.xi);
            Point crossed[mostEdgeLocal], curl[mostEdgeLocal];
            for (int i = 0; i < n; ++i) {
                const auto f = at.function(i);
                crossed[i] = cross(direction, f.value);
                curl[i] = f.curl;
            }
            const Tensor a = inverseMu[size_t(mesh.piece[size_t(t)])].value(t, g.at(q.xi));
            const double w = q.w * std::abs(g.determinant(q.xi));
            for (int i = 0; i < n; ++i) {
                const Point c = w * a.times(crossed[i]), k = w * a.times(curl[i]);
                for (int j = i; j < n; ++j) {
                    const size_t k0 = e.linear.at(i, j);
                    linear[k0] += dot(c, curl[j]) - dot(k, crossed[j]);
                    square[k0] += dot(c, crossed[j]);
                }
            }
        }
    }
    return e;
}

EdgeElements edgeElements(const EdgeSpace& space, std::span<const Coefficient> inverseMu,
                          std::span<const Coefficient> eps, Measure measure,
                          std::span<const char> only)
{
    const mesh::Mesh& mesh = space.mesh();
    const int order = space.order();
    EdgeElements e;
    std::vector<int> block;
    int blocks = mesh.cellCount();
    if (!only.empty()) {
        block.assign(size_t(mesh.cellCount()), 0);
        blocks = 1;
        for (int t = 0; t < mesh.cellCount(); ++t)
            if (only[size_t(t)])
                block[size_t(t)] = blocks++;
    }
    for (ElementMatrices* m : {&e.curl, &e.mass}) {
        m->local = space.localCount(order);
        m->stride = size_t(m->local * (m->local + 1) / 2);
        m->block = block;
        m->entries.resize(m->stride * size_t(blocks));
    }
    const size_t packed = e.curl.stride;
    const CellMatrices matrices(space, order, measure);
#pragma omp parallel for schedule(dynamic, 256)
    for (int t = 0; t < mesh.cellCount(); ++t) {
        const auto piece = size_t(mesh.piece[size_t(t)]);
        if (!only.empty() && !only[size_t(t)])
            continue;
        const size_t place = e.curl.blockOf(t) * packed;
        matrices.of(t, inverseMu[piece], eps[piece], &e.curl.entries[place],
                    &e.mass.entries[place]);
    }
    return e;
}

namespace {

/// Calls visit(cell, numbers, x, A x) for every cell.
template <class Visit>
void overProducts(const EdgeSpace& space, int order, const ElementMatrices& elements,
                  std::span<const double> x, Visit visit)
{
    const int local = space.localCount(order);
    int number[mostEdgeLocal];
    double in[mostEdgeLocal], out[mostEdgeLocal];
    for (int t = 0; t < space.mesh().cellCount(); ++t) {
        space.local(t, order, number);
        for (int i = 0; i < local; ++i)
            in[i] = x[size_t(number[i])];
        elements.multiply(t, local, in, out);
        visit(t, number, in, out);
    }
}

}  // namespace

std::vector<double> product(const EdgeSpace& space, int order, const ElementMatrices& elements,
                            std::span<const double> x)
{
    std::vector<double> sum(x.size(), 0.0);
    overProducts(space, order, elements, x,
                 [&](int, const int* number, const double*, const double* out) {
                     for (int i = 0; i < space.localCount(order); ++i)
                         sum[size_t(number[i])] += out[i];
                 });
    return sum;
}

std::vector<double> energyByCell(const EdgeSpace& space, int order, const ElementMatrices& elements,
                                 std::span<const double> x)
{
    std::vector<double> energy(size_t(space.mesh().cellCount()));
    overProducts(
        space, order, elements, x, [&](int t, const int*, const double* in, const double* out) {
            energy[size_t(t)] = std::inner_product(in, in + space.localCount(order), out, 0.0);
        });
    return energy;
}

NextOrder nextOrder(const EdgeSpace& space, int order, std::span<const std::vector<double>> fields,
                    std::span<const Coefficient> inverseMu, std::span<const Coefficient> eps,
                    Measure measure, std::span<const NextTerm> terms)
{
    const mesh::Mesh& mesh = space.mesh();
    const int next = order + 1, all = space.localCount(next), low = space.localCount(order);
    const size_t width = fields.size(), top = size_t(all - low);
    NextOrder out;
    out.first = space.count(order);
    out.fields = width;
    const auto functions = size_t(space.count(next) - out.first);
    out.parts.resize(terms.size());
    for (auto& p : out.parts) {
        p.rows.assign(functions * width, 0.0F);
        p.own.assign(functions, 0.0);
    }
    const CellMatrices matrices(space, next, measure);
    const size_t packed = size_t(all) * (size_t(all) + 1) / 2;
    std::vector<int> cells;
    for (int t = 0; t < mesh.cellCount(); ++t)
        if (std::any_of(terms.begin(), terms.end(), [&](const NextTerm& term) {
                return term.factor[size_t(mesh.piece[size_t(t)])] != 0;
            }))
            cells.push_back(t);
    // A batch of cells is worked out by all threads and added up by one.
    constexpr size_t batch = 1024;
    const size_t perCell = 2 * top * (width + 1);
    std::vector<double> work(std::min(batch, cells.size()) * perCell);
    for (size_t from = 0; from < cells.size(); from += batch) {
        const size_t to = std::min(cells.size(), from + batch);
#pragma omp parallel
        {
            std::vector<double> K(packed), M(packed), x(size_t(low) * width);
#pragma omp for schedule(dynamic, 16)
            for (size_t c = from; c < to; ++c) {
                const int t = cells[c];
                const auto piece = size_t(mesh.piece[size_t(t)]);
                int number[mostEdgeLocal];
                space.local(t, next, number);
                for (int i = 0; i < low; ++i)
                    for (size_t k = 0; k < width; ++k)
                        x[size_t(i) * width + k] = fields[k][size_t(number[i])];
                matrices.of(t, inverseMu[piece], eps[piece], K.data(), M.data());
                double* cell = &work[(c - from) * perCell];
                std::fill(cell, cell + perCell, 0.0);
                for (const auto* A : {&K, &M}) {
                    // Entry (i, j) of the upper triangle, with i of the order and j of the next.
                    for (int i = 0; i < low; ++i) {
                        const double* row =
                            A->data() + size_t(i) * size_t(all) - size_t(i) * size_t(i + 1) / 2;
                        for (size_t j = 0; j < top; ++j) {
                            const double a = row[size_t(low) + j];
                            double* to2 = cell + j * (width + 1);
                            const double* from2 = &x[size_t(i) * width];
                            for (size_t k = 0; k < width; ++k)
                                to2[k] += a * from2[k];
                        }
                    }
                    for (size_t j = 0; j < top; ++j) {
                        const size_t i = size_t(low) + j;
                        cell[j * (width + 1) + width] = (*A)[i * size_t(all) - i * (i + 1) / 2 + i];
                    }
                    cell += top * (width + 1);
                }
            }
        }
        for (size_t c = from; c < to; ++c) {
            const auto piece = size_t(mesh.piece[size_t(cells[c])]);
            int number[mostEdgeLocal];
            space.local(cells[c], next, number);
            for (size_t p = 0; p < terms.size(); ++p) {
                const double factor = terms[p].factor[piece];
                if (factor == 0)
                    continue;
                const double* cell =
                    &work[(c - from) * perCell + (terms[p].curl ? 0 : top * (width + 1))];
                for (size_t j = 0; j < top; ++j, cell += width + 1) {
                    const auto at = size_t(number[size_t(low) + j] - out.first);
                    float* row = &out.parts[p].rows[at * width];
                    for (size_t k = 0; k < width; ++k)
                        row[k] += float(factor * cell[k]);
                    out.parts[p].own[at] += factor * cell[width];
                }
            }
        }
    }
    return out;
}

}  // namespace yh::fem
