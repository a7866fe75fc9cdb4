#include "fem/assembly.h"

#include "fem/side_by_side.h"

#include "fem/quadrature.h"

#include <metis.h>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <tuple>

namespace yh::fem {

namespace {

/// Entries of a symmetric tensor of derivatives: uu, uv, vv, and in solids uw, vw, ww.
constexpr int pairOf[6][2] = {{0, 0}, {0, 1}, {1, 1}, {0, 2}, {1, 2}, {2, 2}};

/// Reference integrals for straight cells: with c[m] one of uu, uv + vu, vv, … and a weight of 1
/// or a barycentric coordinate (round an axis).
struct ReferenceTensors
{
    int packed, pairs;
    std::vector<double> plain;     ///< shape (pairs, packed)
    std::vector<double> weighted;  ///< shape (3 weights, pairs, packed); triangles only

    ReferenceTensors(int dimension, int order)
    {
        const BasisTable b(dimension, order, 2 * order);
        const int n = b.count;
        packed = n * (n + 1) / 2;
        pairs = dimension == 2 ? 3 : 6;
        plain.assign(size_t(pairs * packed), 0);
        weighted.assign(dimension == 2 ? size_t(9 * packed) : 0, 0);
        for (int q = 0; q < b.points(); ++q) {
            const Point& x = b.xi[size_t(q)];
            const double l[3] = {1 - x.x - x.y, x.x, x.y};
            int k = 0;
            for (int i = 0; i < n; ++i)
                for (int j = i; j < n; ++j, ++k)
                    for (int m = 0; m < pairs; ++m) {
                        const auto &A = b.d[pairOf[m][0]], &B = b.d[pairOf[m][1]];
                        const auto at = size_t(q * n);
                        const double c =
                            A[at + size_t(i)] * B[at + size_t(j)] +
                            (pairOf[m][0] != pairOf[m][1] ? B[at + size_t(i)] * A[at + size_t(j)]
                                                          : 0.0);
                        const double v = b.w[size_t(q)] * c;
                        plain[size_t(m * packed + k)] += v;
                        for (int w = 0; w < 3 && dimension == 2; ++w)
                            weighted[size_t((w * 3 + m) * packed + k)] += l[w] * v;
                    }
        }
    }
};

/// |J| J^-1 k J^-T at a reference point, as uu, uv, vv, uw, vw, ww.
void pullBack(const mesh::Geometry& g, const Point& xi, const Tensor& k, double G[6])
{
    Point row[3];
    const double det = g.inverse(xi, row);
    for (int m = 0; m < (g.dimension == 2 ? 3 : 6); ++m)
        G[m] = det * dot(row[pairOf[m][0]], k.times(row[pairOf[m][1]]));
}

void straightElement(const mesh::Geometry& g, const Tensor& k, Measure measure,
                     const ReferenceTensors& ref, double* out)
{
    double G[6];
    pullBack(g, g.centre(), k, G);
    const int n = ref.packed;
    std::fill(out, out + n, 0.0);
    auto add = [&](const double* tensors, double factor) {
        for (int m = 0; m < ref.pairs; ++m) {
            const double s = factor * G[m];
            const double* a = tensors + m * n;
            for (int i = 0; i < n; ++i)
                out[i] += s * a[i];
        }
    };
    if (measure == Measure::plane) {
        add(ref.plain.data(), 1.0);
        return;
    }
    for (int w = 0; w < 3; ++w)
        add(ref.weighted.data() + 3 * w * n, measureAt(measure, g.node[size_t(w)]));
}

void generalElement(const mesh::Geometry& g, const Coefficient& k, Measure measure,
                    const BasisTable& b, double* out)
{
    const int n = b.count, dims = g.dimension;
    std::fill(out, out + n * (n + 1) / 2, 0.0);
    double flux[3][mostLocal];
    for (int q = 0; q < b.points(); ++q) {
        const Point &xi = b.xi[size_t(q)], p = g.at(xi);
        double G[6];
        pullBack(g, xi, k.at ? k.at(p) : k.constant, G);
        const double w = b.w[size_t(q)] * measureAt(measure, p);
        const double M[3][3] = {{G[0], G[1], G[3]}, {G[1], G[2], G[4]}, {G[3], G[4], G[5]}};
        const auto at = size_t(q * n);
        for (int c = 0; c < dims; ++c)
            for (int i = 0; i < n; ++i) {
                double s = 0;
                for (int e = 0; e < dims; ++e)
                    s += M[c][e] * b.d[e][at + size_t(i)];
                flux[c][i] = w * s;
            }
        double* o = out;
        for (int i = 0; i < n; ++i)
            for (int j = i; j < n; ++j, ++o)
                for (int c = 0; c < dims; ++c)
                    *o += flux[c][i] * b.d[c][at + size_t(j)];
    }
}

/// Degree that integrates the matrices of smooth coefficients on curved cells well below the
/// element's own error.
int generalDegree(int dimension, int order)
{
    return dimension == 2 ? 2 * order + 3 : 2 * order + 1;
}

/** Pairs of corners that are coupled. */
std::vector<std::array<int, 2>> coupledCorners(const mesh::Mesh& mesh)
{
    std::vector<std::array<int, 2>> links = mesh.edges;
    // Sides that face each other across a cut are coupled like parts of one cell.
    for (const auto& [a, b] : mesh.facing)
        for (const int v : mesh.sideCorners(a))
            for (const int w : mesh.sideCorners(b))
                if (v != w)
                    links.push_back({std::min(v, w), std::max(v, w)});
    // Corners that are the same on periodic sides are one.
    auto one = [&](int v) { return mesh.twins.empty() ? v : mesh.twins.vertex[size_t(v)]; };
    if (!mesh.twins.empty()) {
        for (auto& e : links) {
            e = {one(e[0]), one(e[1])};
            std::sort(e.begin(), e.end());
        }
        std::erase_if(links, [](const auto& e) { return e[0] == e[1]; });
    }
    if (!mesh.facing.empty() || !mesh.twins.empty()) {
        std::sort(links.begin(), links.end());
        links.erase(std::unique(links.begin(), links.end()), links.end());
    }
    return links;
}

}  // namespace

template <class Value>
void ElementMatrices::multiply(int cell, int n, const Value* x, Value* y) const
{
    const double* k = of(cell);
    std::fill(y, y + n, Value{});
    const double sign = antisymmetric ? -1 : 1;
    for (int i = 0; i < n; ++i) {
        const double* row = k + at(i, i);
        y[i] += row[0] * x[i];
        for (int j = i + 1; j < n; ++j) {
            y[i] += row[j - i] * x[j];
            y[j] += sign * row[j - i] * x[i];
        }
    }
}

template void ElementMatrices::multiply(int, int, const double*, double*) const;
template void ElementMatrices::multiply(int, int, const Wide*, Wide*) const;

ElementMatrices stiffness(const H1Space& space, std::span<const Coefficient> coefficient,
                          Measure measure)
{
    ElementMatrices m;
    const mesh::Mesh& mesh = space.mesh();
    m.local = space.localCount(space.order());
    m.stride = size_t(m.local * (m.local + 1) / 2);
    m.entries.resize(m.stride * size_t(mesh.cellCount()));
    const ReferenceTensors ref(mesh.dimension, space.order());
    const BasisTable table(mesh.dimension, space.order(),
                           generalDegree(mesh.dimension, space.order()));
#pragma omp parallel for schedule(dynamic, 512)
    for (int t = 0; t < mesh.cellCount(); ++t) {
        const mesh::Geometry g(mesh, t);
        const Coefficient& k = coefficient[size_t(mesh.piece[size_t(t)])];
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

ElementMatrices scalarMass(const H1Space& space, Measure measure)
{
    ElementMatrices m;
    const mesh::Mesh& mesh = space.mesh();
    m.local = space.localCount(space.order());
    m.stride = size_t(m.local * (m.local + 1) / 2);
    m.entries.assign(m.stride * size_t(mesh.cellCount()), 0.0);
    const BasisTable b(mesh.dimension, space.order(), 2 * space.order() + 3);
#pragma omp parallel for schedule(dynamic, 256)
    for (int t = 0; t < mesh.cellCount(); ++t) {
        const mesh::Geometry g(mesh, t);
        int number[mostLocal];
        double sign[mostLocal];
        space.local(t, number, sign);
        for (int q = 0; q < b.points(); ++q) {
            const Point& xi = b.xi[size_t(q)];
            const double w = b.w[size_t(q)] * g.determinant(xi) * measureAt(measure, g.at(xi));
            const double* f = &b.value[size_t(q * b.count)];
            double* out = &m.entries[size_t(t) * m.stride];
            for (int i = 0; i < m.local; ++i)
                for (int j = i; j < m.local; ++j)
                    *out++ += w * sign[i] * sign[j] * f[i] * f[j];
        }
    }
    return m;
}

std::vector<double> load(const H1Space& space,
                         std::span<const std::function<double(Point)>> density, Measure measure)
{
    std::vector<double> rhs(size_t(space.count()), 0.0);
    const mesh::Mesh& mesh = space.mesh();
    const BasisTable b(mesh.dimension, space.order(), generalDegree(mesh.dimension, space.order()));
    for (int t = 0; t < mesh.cellCount(); ++t) {
        const auto& f = density[size_t(mesh.piece[size_t(t)])];
        if (!f)
            continue;
        const mesh::Geometry g(mesh, t);
        int number[mostLocal];
        double sign[mostLocal];
        space.local(t, number, sign);
        for (int q = 0; q < b.points(); ++q) {
            const Point &xi = b.xi[size_t(q)], p = g.at(xi);
            const double w = b.w[size_t(q)] * g.determinant(xi) * f(p) * measureAt(measure, p);
            for (int i = 0; i < b.count; ++i)
                rhs[size_t(number[i])] += sign[i] * w * b.value[size_t(q * b.count + i)];
        }
    }
    return rhs;
}

void addSideLoad(const H1Space& space, std::span<const int> sides,
                 const std::function<double(Point)>& density, Measure measure,
                 std::vector<double>& rhs)
{
    const mesh::Mesh& mesh = space.mesh();
    std::vector<char> wanted(size_t(mesh.sideCount()), 0);
    for (const int s : sides)
        wanted[size_t(s)] = 1;
    onSides(
        mesh, measure, 2 * space.order() + 3,
        [&](int s, int t) { return wanted[size_t(s)] && mesh.sideCells[size_t(s)][0] == t; },
        [&](int, int t, const Point& xi, const Point& p, const Point& normal) {
            int number[mostLocal];
            double sign[mostLocal];
            Basis f;
            space.local(t, number, sign);
            basis(mesh.dimension, space.order(), xi, f);
            const double w = norm(normal) * density(p);
            for (int i = 0; i < space.localCount(space.order()); ++i)
                rhs[size_t(number[i])] += sign[i] * w * f.value[i];
        });
}

std::vector<int> cornerRanks(const mesh::Mesh& mesh)
{
    const int nv = mesh.vertexCount();
    const std::vector<std::array<int, 2>> links = coupledCorners(mesh);
    auto one = [&](int v) { return mesh.twins.empty() ? v : mesh.twins.vertex[size_t(v)]; };
    std::vector<idx_t> start(size_t(nv) + 1, 0), neighbours(2 * links.size());
    for (const auto& e : links) {
        ++start[size_t(e[0]) + 1];
        ++start[size_t(e[1]) + 1];
    }
    std::partial_sum(start.begin(), start.end(), start.begin());
    std::vector<idx_t> at(start.begin(), start.end() - 1);
    for (const auto& e : links) {
        neighbours[size_t(at[size_t(e[0])]++)] = e[1];
        neighbours[size_t(at[size_t(e[1])]++)] = e[0];
    }
    std::vector<idx_t> perm(static_cast<size_t>(nv)), rank(static_cast<size_t>(nv));
    idx_t n = nv;
    idx_t options[METIS_NOPTIONS];
    METIS_SetDefaultOptions(options);
    options[METIS_OPTION_SEED] = 1;
    options[METIS_OPTION_NUMBERING] = 0;
    if (mesh.dimension == 3) {
        // Factors of solids cost so much more than their order that trying several cuts pays.
        options[METIS_OPTION_NSEPS] = 5;
        options[METIS_OPTION_NITER] = 25;
    }
    if (METIS_NodeND(&n, start.data(), neighbours.data(), nullptr, options, perm.data(),
                     rank.data()) != METIS_OK)
        throw base::Error(5001,
                          "the ordering of the unknowns failed: not enough memory for a mesh of " +
                              std::to_string(nv) + " corners");
    std::vector<int> list;
    for (int v = 0; v < nv; ++v)
        list.push_back(int(rank[size_t(one(v))]));
    return list;
}

Numbering nestedDissection(const H1Space& space, int order, const std::vector<char>& isFree)
{
    return nestedDissection(space, order, isFree, cornerRanks(space.mesh()));
}

std::vector<int> functionRanks(const H1Space& space, int order, std::span<const int> rank)
{
    const mesh::Mesh& mesh = space.mesh();
    const int nv = mesh.vertexCount(), ne = mesh.edgeCount(), nf = mesh.faceCount();
    // Key of a function: rank of the corner it goes with. A counting sort keeps it linear.
    std::vector<int> with;
    with.reserve(size_t(space.count(order)));
    auto least = [&](std::span<const int> corners) {
        int r = nv;
        for (const int v : corners)
            r = std::min(r, rank[size_t(v)]);
        return r;
    };
    auto perEdge = [&] {
        for (int e = 0; e < ne; ++e)
            with.push_back(least(mesh.edges[size_t(e)]));
    };
    auto perFace = [&](int copies) {
        for (int f = 0; f < nf; ++f)
            for (int k = 0; k < copies; ++k)
                with.push_back(mesh.dimension == 2 ? least(mesh.corners(f))
                                                   : least(mesh.faces[size_t(f)]));
    };
    for (int v = 0; v < nv; ++v)
        with.push_back(rank[size_t(v)]);
    if (order >= 2)
        perEdge();
    if (order >= 3) {
        perEdge();
        perFace(1);
    }
    if (order >= 4) {
        perEdge();
        perFace(2);
    }
    return with;
}

Numbering nestedDissection(const H1Space& space, int order, const std::vector<char>& isFree,
                           std::span<const int> rank)
{
    return byRank(functionRanks(space, order, rank), isFree);
}

Numbering byRank(std::span<const int> with, const std::vector<char>& isFree)
{
    const int most = with.empty() ? 0 : *std::max_element(with.begin(), with.end()) + 1;
    std::vector<int> offset(size_t(most) + 1, 0);
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

void append(SymmetricFamily& family, int unknowns, size_t terms, std::vector<FamilyEntry> entries)
{
    std::sort(entries.begin(), entries.end(), [](const FamilyEntry& a, const FamilyEntry& b) {
        return std::tie(a.column, a.row, a.term) < std::tie(b.column, b.row, b.term);
    });
    SymmetricFamily out;
    out.size = family.size + unknowns;
    out.start = {0};
    out.value.resize(std::max(terms, family.value.size()));
    size_t next = 0;
    for (int c = 0; c < out.size; ++c) {
        const bool old = c < family.size;
        const auto from = old ? size_t(family.start[size_t(c)]) : 0,
                   to = old ? size_t(family.start[size_t(c) + 1]) : 0;
        out.row.insert(out.row.end(), family.row.begin() + std::ptrdiff_t(from),
                       family.row.begin() + std::ptrdiff_t(to));
        for (size_t t = 0; t < family.value.size(); ++t)
            out.value[t].insert(out.value[t].end(), family.value[t].begin() + std::ptrdiff_t(from),
                                family.value[t].begin() + std::ptrdiff_t(to));
        // Every unknown has its diagonal, even an empty one.
        if (!old && (next == entries.size() || entries[next].column != c || entries[next].row != c))
            out.row.push_back(c);
        for (; next < entries.size() && entries[next].column == c; ++next) {
            const FamilyEntry& e = entries[next];
            if (out.row.size() == size_t(out.start.back()) + (to - from) || out.row.back() != e.row)
                out.row.push_back(e.row);
            out.value[e.term].resize(out.row.size(), 0.0);
            out.value[e.term].back() += e.value;
        }
        for (auto& v : out.value)
            v.resize(out.row.size(), 0.0);
        out.start.push_back(int(out.row.size()));
    }
    family = std::move(out);
}

SparseSymmetric SymmetricFamily::sum(std::span<const double> factors) const
{
    SparseSymmetric K;
    K.size = size;
    K.start = start;
    K.row = row;
    K.value.assign(row.size(), 0.0);
    for (size_t k = 0; k < factors.size(); ++k)
        for (size_t i = 0; i < row.size() && factors[k] != 0; ++i)
            K.value[i] += factors[k] * value[k][i];
    return K;
}

size_t SymmetricFamily::slot(int i, int j) const
{
    const int c = std::min(i, j), r = std::max(i, j);
    const auto from = row.begin() + start[size_t(c)], to = row.begin() + start[size_t(c) + 1];
    const auto it = std::lower_bound(from, to, r);
    YH_ASSERT(it != to && *it == r, "an entry of the pattern");
    return size_t(it - row.begin());
}

SymmetricProduct::SymmetricProduct(const SymmetricFamily& f, size_t first, size_t second)
{
    const auto n = size_t(f.size);
    m_start.assign(n + 1, 0);
    for (size_t c = 0; c < n; ++c)
        for (int k = f.start[c]; k < f.start[c + 1]; ++k) {
            ++m_start[c + 1];
            if (const auto r = size_t(f.row[size_t(k)]); r != c)
                ++m_start[r + 1];
        }
    std::partial_sum(m_start.begin(), m_start.end(), m_start.begin());
    m_column.resize(m_start.back());
    for (auto& v : m_value)
        v.resize(m_start.back());
    std::vector<size_t> at(m_start.begin(), m_start.end() - 1);
    auto put = [&](size_t r, size_t c, size_t k) {
        m_column[at[r]] = int(c);
        m_value[0][at[r]] = f.value[first][k];
        m_value[1][at[r]++] = f.value[second][k];
    };
    for (size_t c = 0; c < n; ++c)
        for (auto k = size_t(f.start[c]); k < size_t(f.start[c + 1]); ++k) {
            const auto r = size_t(f.row[k]);
            put(r, c, k);
            if (r != c)
                put(c, r, k);
        }
}

void SymmetricProduct::multiply(int which, const std::vector<double>& x,
                                std::vector<double>& y) const
{
    y.resize(x.size());
    const auto& a = m_value[which];
#pragma omp parallel for schedule(static)
    for (size_t r = 0; r < x.size(); ++r) {
        double sum = 0;
        for (size_t k = m_start[r]; k < m_start[r + 1]; ++k)
            sum += a[k] * x[size_t(m_column[k])];
        y[r] = sum;
    }
}

void SymmetricProduct::multiply(const std::vector<double>& x, std::vector<double>& y0,
                                std::vector<double>& y1) const
{
    y0.resize(x.size());
    y1.resize(x.size());
#pragma omp parallel for schedule(static)
    for (size_t r = 0; r < x.size(); ++r) {
        double s0 = 0, s1 = 0;
        for (size_t k = m_start[r]; k < m_start[r + 1]; ++k) {
            const double v = x[size_t(m_column[k])];
            s0 += m_value[0][k] * v;
            s1 += m_value[1][k] * v;
        }
        y0[r] = s0;
        y1[r] = s1;
    }
}

SymmetricFamily assemble(const CellFunctions& functions, std::span<const Term> terms,
                         const Numbering& numbering)
{
    const int nt = functions.mesh->cellCount(), n = numbering.size(), local = functions.local;
    const ElementMatrices& shape = *terms[0].elements;
    // Place of every local function, and the cells of every place.
    std::vector<int> place(size_t(nt) * size_t(local));
#pragma omp parallel for schedule(static)
    for (int t = 0; t < nt; ++t)
        for (int i = 0; i < local; ++i)
            place[size_t(t) * size_t(local) + size_t(i)] = numbering.place[size_t(
                functions.number[size_t(t) * size_t(functions.width) + size_t(i)])];
    std::vector<int> first(size_t(n) + 1, 0);
    for (const int p : place)
        if (p >= 0)
            ++first[size_t(p) + 1];
    std::partial_sum(first.begin(), first.end(), first.begin());
    std::vector<int> incidence(size_t(first.back()));  // cell * local + local function
    {
        std::vector<int> at(first.begin(), first.end() - 1);
        for (size_t k = 0; k < place.size(); ++k)
            if (place[k] >= 0)
                incidence[size_t(at[size_t(place[k])]++)] = int(k);
    }
    SymmetricFamily K;
    K.size = n;
    K.start.assign(size_t(n) + 1, 0);
    K.value.resize(terms.size());
    // Columns are cut into blocks, each put together by one thread and then copied into place. A
    // column gathers from its cells in their order: no races, one fixed sum.
    constexpr int blockSize = 2048;
    const int blocks = (n + blockSize - 1) / blockSize;
    struct Block
    {
        std::vector<int> row;
        std::vector<std::vector<double>> value;
    };
    std::vector<Block> made(static_cast<size_t>(blocks));
    const auto packed = size_t(local);
    std::vector<size_t> entry(packed * packed);  // (i, j) in the packed upper triangle
    for (int i = 0; i < local; ++i)
        for (int j = 0; j < local; ++j)
            entry[size_t(i) * packed + size_t(j)] = shape.at(std::min(i, j), std::max(i, j));
#pragma omp parallel
    {
        std::vector<int> rows, seenBy(size_t(n), -1), slot(size_t(n), 0);
#pragma omp for schedule(dynamic, 1)
        for (int b = 0; b < blocks; ++b) {
            Block& block = made[size_t(b)];
            block.value.resize(terms.size());
            for (int c = b * blockSize; c < std::min(n, (b + 1) * blockSize); ++c) {
                rows.clear();
                const int from = first[size_t(c)], to = first[size_t(c) + 1];
                for (int i = from; i < to; ++i) {
                    const int* p = &place[size_t(incidence[size_t(i)] / local) * packed];
                    for (int j = 0; j < local; ++j)
                        if (p[j] >= c && seenBy[size_t(p[j])] != c) {
                            seenBy[size_t(p[j])] = c;
                            rows.push_back(p[j]);
                        }
                }
                std::sort(rows.begin(), rows.end());
                const size_t base = block.row.size();
                for (size_t k = 0; k < rows.size(); ++k)
                    slot[size_t(rows[k])] = int(k);
                block.row.insert(block.row.end(), rows.begin(), rows.end());
                for (size_t m = 0; m < terms.size(); ++m) {
                    const Term& term = terms[m];
                    block.value[m].resize(block.row.size(), 0.0);
                    double* value = block.value[m].data() + base;
                    for (int i = from; i < to; ++i) {
                        const int t = incidence[size_t(i)] / local,
                                  lc = incidence[size_t(i)] % local;
                        const double factor =
                            term.byPiece.empty()
                                ? 1.0
                                : term.byPiece[size_t(functions.mesh->piece[size_t(t)])];
                        if (factor == 0)
                            continue;
                        const int* p = &place[size_t(t) * packed];
                        const double* k = term.elements->of(t);
                        const size_t* e = &entry[size_t(lc) * packed];
                        for (int j = 0; j < local; ++j)
                            if (p[j] >= c)
                                value[slot[size_t(p[j])]] += factor * k[e[j]];
                    }
                }
                K.start[size_t(c) + 1] = int(rows.size());
            }
        }
    }
    std::partial_sum(K.start.begin(), K.start.end(), K.start.begin());
    K.row.resize(size_t(K.start.back()));
    for (auto& v : K.value)
        v.resize(K.row.size());
#pragma omp parallel for schedule(dynamic, 1)
    for (int b = 0; b < blocks; ++b) {
        Block& block = made[size_t(b)];
        const auto at = std::ptrdiff_t(K.start[size_t(b) * blockSize]);
        std::copy(block.row.begin(), block.row.end(), K.row.begin() + at);
        for (size_t m = 0; m < terms.size(); ++m)
            std::copy(block.value[m].begin(), block.value[m].end(), K.value[m].begin() + at);
        block = {};
    }
    return K;
}

SparseSymmetric assemble(const H1Space& space, int order, const ElementMatrices& elements,
                         const Numbering& numbering)
{
    const mesh::Mesh& mesh = space.mesh();
    CellFunctions functions{&mesh, space.localCount(space.order()), space.localCount(order), {}};
    functions.number.resize(size_t(mesh.cellCount()) * size_t(functions.width));
#pragma omp parallel for schedule(static)
    for (int t = 0; t < mesh.cellCount(); ++t) {
        double sign[mostLocal];
        space.local(t, &functions.number[size_t(t) * size_t(functions.width)], sign);
    }
    const Term one{&elements, {}};
    SymmetricFamily f = assemble(functions, {&one, 1}, numbering);
    return {f.size, std::move(f.start), std::move(f.row), std::move(f.value[0])};
}

}  // namespace yh::fem
