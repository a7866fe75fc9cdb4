#include "fem/edge.h"

#include "fem/quadrature.h"

#include <algorithm>
#include <numeric>

namespace yh::fem {

namespace {

constexpr int edgePair[6][2] = {{0, 1}, {0, 2}, {1, 2}, {0, 3}, {1, 3}, {2, 3}};
constexpr int facePart[4][3] = {{0, 1, 2}, {0, 1, 3}, {0, 2, 3}, {1, 2, 3}};

constexpr int edgesOf(int dimension)
{
    return dimension == 2 ? 3 : 6;
}
constexpr int facesOf(int dimension)
{
    return dimension == 2 ? 1 : 4;
}

/// Gradients of the barycentric coordinates on the reference simplex.
Point slope(int dimension, int i)
{
    if (i == 0)
        return dimension == 2 ? Point{-1, -1, 0} : Point{-1, -1, -1};
    return {i == 1 ? 1.0 : 0.0, i == 2 ? 1.0 : 0.0, i == 3 ? 1.0 : 0.0};
}

int edgeOf(const mesh::Mesh& m, int cell, int a, int b)
{
    for (int k = 0; k < m.edgesOfCell(); ++k) {
        const int p = mesh::edgeCorner[k][0], q = mesh::edgeCorner[k][1];
        if ((p == a && q == b) || (p == b && q == a))
            return k;
    }
    YH_ASSERT(false, "an edge of the cell");
    return m.cellEdges[size_t(cell)][0];
}

std::array<int, 4> sortedCorners(const mesh::Mesh& m, int cell)
{
    std::array<int, 4> order{0, 1, 2, 3};
    const auto& c = m.cells[size_t(cell)];
    // On twin sides cells see their corners in the same order.
    auto before = [&](int a, int b) {
        return m.twins.empty() ? a < b : m.twins.rank[size_t(a)] < m.twins.rank[size_t(b)];
    };
    for (size_t i = 1; i < size_t(m.cornerCount()); ++i)
        for (size_t j = i; j > 0 && before(c[size_t(order[j])], c[size_t(order[j - 1])]); --j)
            std::swap(order[j], order[j - 1]);
    return order;
}

}  // namespace

SortedCell::SortedCell(const mesh::Mesh& m, int cell)
    : geometry(m, cell), corner(sortedCorners(m, cell))
{
    const auto node = geometry.node;
    const int corners = m.cornerCount();
    for (int i = 0; i < corners; ++i)
        geometry.node[size_t(i)] = node[size_t(corner[size_t(i)])];
    for (int k = 0; k < m.edgesOfCell(); ++k)
        geometry.node[size_t(corners + k)] =
            node[size_t(corners + edgeOf(m, cell, corner[size_t(mesh::edgeCorner[k][0])],
                                         corner[size_t(mesh::edgeCorner[k][1])]))];
}

Point SortedCell::sorted(const Point& xi) const
{
    const double l[4] = {1 - xi.x - xi.y - xi.z, xi.x, xi.y, xi.z};
    return {l[corner[1]], l[corner[2]], geometry.dimension == 2 ? 0.0 : l[corner[3]]};
}

namespace {

using Ends = std::array<double, 4>;

/// The edge elements of exactly one order.
template <class Add>
void edgeForms(int dimension, int order, const Ends& l, const Point* d, Add add)
{
    struct Form
    {
        Point value, curl;
    };
    auto whitney = [&](int a, int b) {
        return Form{l[size_t(a)] * d[b] - l[size_t(b)] * d[a], 2 * cross(d[a], d[b])};
    };
    auto times = [](double s, const Point& gradient, const Form& f) {
        return Form{s * f.value, cross(gradient, f.value) + s * f.curl};
    };
    auto addForm = [&](const Form& f) { add(f.value, f.curl); };
    auto addGradient = [&](const Point& g) { add(g, Point{}); };
    const int edges = edgesOf(dimension), faces = facesOf(dimension);
    for (int k = 0; k < edges; ++k) {
        const int a = edgePair[k][0], b = edgePair[k][1];
        const double la = l[size_t(a)], lb = l[size_t(b)];
        if (order == 1)
            addForm(whitney(a, b));
        else if (order == 2)
            addGradient(la * d[b] + lb * d[a]);
        else
            addGradient((la - lb) * (la * d[b] + lb * d[a]) + la * lb * (d[a] - d[b]));
    }
    for (int k = 0; k < faces && order > 1; ++k) {
        const int a = facePart[k][0], b = facePart[k][1], c = facePart[k][2];
        const double la = l[size_t(a)], lb = l[size_t(b)], lc = l[size_t(c)];
        if (order == 2) {
            addForm(times(lc, d[c], whitney(a, b)));
            addForm(times(la, d[a], whitney(b, c)));
            continue;
        }
        addForm(times(lc * (la - lb), (la - lb) * d[c] + lc * (d[a] - d[b]), whitney(a, b)));
        addForm(times(la * (lb - lc), (lb - lc) * d[a] + la * (d[b] - d[c]), whitney(b, c)));
        addForm(times(lc * (2 * lc - 1), (4 * lc - 1) * d[c], whitney(a, b)));
        addGradient(lb * lc * d[a] + la * lc * d[b] + la * lb * d[c]);
    }
    if (order == 3 && dimension == 3)
        for (int k = 1; k < 4; ++k) {
            const int a = k == 1 ? 2 : 1, b = k == 3 ? 2 : 3;
            addForm(times(l[size_t(a)] * l[size_t(b)], l[size_t(a)] * d[b] + l[size_t(b)] * d[a],
                          whitney(0, k)));
        }
}

/// The scalar functions of exactly one order, as fields along z.
template <class Add>
void scalarForms(int order, const Ends& l, const Point* d, Add add)
{
    // curl (0, 0, N) = (dN/dy, -dN/dx, 0)
    auto addScalar = [&](double value, const Point& g) {
        add(Point{0, 0, value}, Point{g.y, -g.x, 0});
    };
    for (int k = 0; k < 3; ++k) {
        const int a = edgePair[k][0], b = edgePair[k][1];
        const double la = l[size_t(a)], lb = l[size_t(b)];
        const Point slope = la * d[b] + lb * d[a];
        if (order == 1)
            addScalar(l[size_t(k)], d[k]);
        else if (order == 2)
            addScalar(la * lb, slope);
        else
            addScalar(la * lb * (la - lb), (la - lb) * slope + la * lb * (d[a] - d[b]));
    }
    if (order == 3)
        addScalar(l[0] * l[1] * l[2], l[1] * l[2] * d[0] + l[0] * l[2] * d[1] + l[0] * l[1] * d[2]);
}

}  // namespace

void edgeBasis(int dimension, EdgeKind kind, int order, const Point& xi, EdgeBasis& out)
{
    const Ends l{1 - xi.x - xi.y - (dimension == 2 ? 0.0 : xi.z), xi.x, xi.y, xi.z};
    Point d[4];
    for (int i = 0; i <= dimension; ++i)
        d[i] = slope(dimension, i);
    int n = 0;
    auto add = [&](const Point& value, const Point& curl) {
        out.value[n] = value;
        out.curl[n++] = curl;
    };
    for (int p = 1; p <= order; ++p) {
        if (kind.hasEdges())
            edgeForms(dimension, p, l, d, add);
        if (kind.hasScalars())
            scalarForms(p, l, d, add);
    }
}

EdgeSpace::EdgeSpace(const mesh::Mesh& mesh, int order, EdgeKind kind)
    : m_mesh(&mesh), m_order(order), m_kind(kind)
{
    YH_ASSERT(order >= 1 && order <= highestEdgeOrder, "order 1 to 3");
    YH_ASSERT(mesh.dimension == 2 || kind.parts == EdgeKind::inside, "solids have one kind");
    YH_ASSERT(kind.parts != EdgeKind::turning || kind.turns > 0, "at least one turn");
}

EdgeSpace::Value EdgeSpace::bent(const Value& plain, const Point& at) const
{
    const Point &v = plain.value, &c = plain.curl;
    if (m_kind.parts == EdgeKind::round)
        return {{0, 0, at.x * v.z}, {at.x * c.x, at.x * c.y - 2 * v.z, 0}};
    if (m_kind.parts == EdgeKind::turning) {
        const double m = m_kind.turns;
        return {{(at.x * v.x + v.z) / m, at.x * v.y / m, v.z},
                {c.x - v.y, c.y + v.x, (at.x * c.z + v.y - c.x) / m}};
    }
    return plain;
}

int EdgeSpace::edgesOfOrder(int order) const
{
    if (!m_kind.hasEdges())
        return 0;
    const int ne = m_mesh->edgeCount(), nf = m_mesh->faceCount();
    const int inside = order == 3 && m_mesh->dimension == 3 ? 3 * m_mesh->cellCount() : 0;
    return ne + 2 * (order - 1) * nf + inside;
}

int EdgeSpace::count(int order) const
{
    const int ne = m_mesh->edgeCount(), nf = m_mesh->faceCount(),
              nc = m_mesh->dimension == 3 ? m_mesh->cellCount() : 0;
    const int edges = order * ne + order * (order - 1) * nf +
                      order * (order - 1) * (order - 2) / 2 * nc,
              scalars = m_mesh->vertexCount() + (order - 1) * ne + (order == 3 ? nf : 0);
    return (m_kind.hasEdges() ? edges : 0) + (m_kind.hasScalars() ? scalars : 0);
}

void EdgeSpace::local(int t, int order, int* number) const
{
    const mesh::Mesh& m = *m_mesh;
    const int ne = m.edgeCount(), nf = m.faceCount(), edges = edgesOf(m.dimension),
              faces = facesOf(m.dimension);
    const auto corner = sortedCorners(m, t);
    int edge[6], face[4], n = 0;
    for (int k = 0; k < edges; ++k)
        edge[k] = m.cellEdges[size_t(t)][size_t(
            edgeOf(m, t, corner[size_t(edgePair[k][0])], corner[size_t(edgePair[k][1])]))];
    if (m.dimension == 2)
        face[0] = t;
    else
        for (int k = 0; k < 4; ++k)  // the face without sorted corner 3 - k
            face[k] = m.cellFaces[size_t(t)][size_t(corner[size_t(3 - k)])];
    for (int p = 1; p <= order; ++p) {
        const int first = start(p), copies = p == 1 ? 0 : p == 2 ? 2 : 4;
        if (m_kind.hasEdges()) {
            for (int k = 0; k < edges; ++k)
                number[n++] = first + edge[k];
            for (int k = 0; k < faces; ++k)
                for (int i = 0; i < copies; ++i)
                    number[n++] = first + ne + copies * face[k] + i;
            if (p == 3 && m.dimension == 3)
                for (int i = 0; i < 3; ++i)
                    number[n++] = first + ne + copies * nf + 3 * t + i;
        }
        if (m_kind.hasScalars()) {
            const int scalars = first + edgesOfOrder(p);
            for (int k = 0; k < 3; ++k)
                number[n++] =
                    scalars + (p == 1 ? m.cells[size_t(t)][size_t(corner[size_t(k)])] : edge[k]);
            if (p == 3)
                number[n++] = scalars + ne + t;
        }
    }
}

std::vector<int> EdgeSpace::onSide(int side, int order) const
{
    const int ne = m_mesh->edgeCount();
    int edges = 0;
    const auto edge = m_mesh->sideEdges(side, edges);
    std::vector<int> list;
    for (int p = 1; p <= order; ++p) {
        const int first = start(p),
                  copies = p == 1   ? 0
                           : p == 2 ? 2
                                    : 4,
                  scalars = first + edgesOfOrder(p);
        for (int k = 0; k < edges && m_kind.hasEdges(); ++k)
            list.push_back(first + edge[size_t(k)]);
        if (m_kind.hasScalars() && p == 1)
            for (const int v : m_mesh->sideCorners(side))
                list.push_back(scalars + v);
        if (m_kind.hasScalars() && p > 1)
            list.push_back(scalars + edge[0]);
        if (m_mesh->dimension == 3)
            for (int i = 0; i < copies; ++i)
                list.push_back(first + ne + copies * side + i);
    }
    return list;
}

void EdgeSpace::stars(int order, std::vector<int>& first, std::vector<int>& list) const
{
    const mesh::Mesh& m = *m_mesh;
    const int ne = m.edgeCount(), nf = m.faceCount();
    std::vector<std::vector<int>> star(static_cast<size_t>(ne));
    auto add = [&](int edge, int number, int copies) {
        for (int i = 0; i < copies; ++i)
            star[size_t(edge)].push_back(number + i);
    };
    for (int p = 2; p <= order; ++p) {
        const int from = start(p), copies = p == 2 ? 2 : 4;
        for (int e = 0; e < ne; ++e)
            add(e, from + e, 1);
        for (int f = 0; f < nf; ++f) {
            int edges = 0;
            const auto of = m.dimension == 2 ? std::array<int, 3>{m.cellEdges[size_t(f)][0],
                                                                  m.cellEdges[size_t(f)][1],
                                                                  m.cellEdges[size_t(f)][2]}
                                             : m.sideEdges(f, edges);
            for (const int e : of)
                add(e, from + ne + copies * f, copies);
        }
        for (int t = 0; t < m.cellCount() && p == 3 && m.dimension == 3; ++t)
            for (const int e : m.edgesOf(t))
                add(e, from + ne + copies * nf + 3 * t, 3);
    }
    first.assign(1, 0);
    list.clear();
    for (const auto& s : star) {
        list.insert(list.end(), s.begin(), s.end());
        first.push_back(int(list.size()));
    }
}

void EdgeSpace::twins(int order, std::vector<int>& same,
                      std::vector<mesh::Mesh::Twins::Turns>& turns) const
{
    const mesh::Mesh::Twins& t = m_mesh->twins;
    same.resize(size_t(count(order)));
    std::iota(same.begin(), same.end(), 0);
    turns.assign(same.size(), {});
    if (t.empty())
        return;
    auto put = [&](int first, int copies, const std::vector<int>& which,
                   const std::vector<mesh::Mesh::Twins::Turns>& between) {
        for (size_t k = 0; k < which.size(); ++k)
            for (int i = 0; i < copies; ++i) {
                same[size_t(first) + k * size_t(copies) + size_t(i)] =
                    first + copies * which[k] + i;
                turns[size_t(first) + k * size_t(copies) + size_t(i)] = between[k];
            }
    };
    for (int p = 1; p <= order; ++p) {
        const int copies = p == 1 ? 0 : p == 2 ? 2 : 4, scalars = start(p) + edgesOfOrder(p);
        if (m_kind.hasEdges()) {
            put(start(p), 1, t.edge, t.edgeTurns);
            // In drawings the faces are the cells themselves.
            if (m_mesh->dimension == 3 && copies > 0)
                put(start(p) + m_mesh->edgeCount(), copies, t.side, t.sideTurns);
        }
        if (m_kind.hasScalars() && p == 1)
            put(scalars, 1, t.vertex, t.vertexTurns);
        if (m_kind.hasScalars() && p > 1)
            put(scalars, 1, t.edge, t.edgeTurns);
    }
}

std::vector<int> EdgeSpace::cellTable() const
{
    const auto n = size_t(localCount(m_order));
    std::vector<int> table(n * size_t(m_mesh->cellCount()));
#pragma omp parallel for schedule(static)
    for (int t = 0; t < m_mesh->cellCount(); ++t)
        local(t, m_order, &table[size_t(t) * n]);
    return table;
}

std::vector<int> EdgeSpace::functionRanks(int order, std::span<const int> rank) const
{
    const mesh::Mesh& m = *m_mesh;
    std::vector<int> with(static_cast<size_t>(count(order)));
    auto least = [&](std::span<const int> corners) {
        int r = m.vertexCount();
        for (const int v : corners)
            r = std::min(r, rank[size_t(v)]);
        return r;
    };
    for (int p = 1; p <= order; ++p) {
        const int copies = p == 1 ? 0 : p == 2 ? 2 : 4;
        size_t n = size_t(start(p));
        if (m_kind.hasEdges()) {
            for (const auto& e : m.edges)
                with[n++] = least(e);
            for (int f = 0; f < m.faceCount() && copies > 0; ++f) {
                const int r = m.dimension == 2 ? least(m.corners(f)) : least(m.faces[size_t(f)]);
                for (int i = 0; i < copies; ++i)
                    with[n++] = r;
            }
            for (int t = 0; t < m.cellCount() && p == 3 && m.dimension == 3; ++t)
                for (int i = 0; i < 3; ++i)
                    with[n++] = least(m.corners(t));
        }
        if (!m_kind.hasScalars())
            continue;
        for (int v = 0; v < m.vertexCount() && p == 1; ++v)
            with[n++] = rank[size_t(v)];
        for (size_t e = 0; e < m.edges.size() && p > 1; ++e)
            with[n++] = least(m.edges[e]);
        for (int t = 0; t < m.cellCount() && p == 3; ++t)
            with[n++] = least(m.corners(t));
    }
    return with;
}

EdgePoint::EdgePoint(const EdgeSpace& space, int order, int cell, const Point& xi)
    : m_space(space), m_count(space.localCount(order))
{
    const SortedCell s(space.mesh(), cell);
    const Point at = s.sorted(xi);
    edgeBasis(space.mesh().dimension, space.kind(), order, at, m_basis);
    space.local(cell, order, m_number);
    m_determinant = s.geometry.inverse(at, m_row);
    s.geometry.jacobian(at, m_column);
    if (space.mesh().dimension == 2) {
        m_row[2] = {0, 0, 1};
        m_column[2] = {0, 0, 1};
        m_place = s.geometry.at(at);
    }
}

EdgeSpace::Value EdgePoint::placed(const Point& v, const Point& k) const
{
    return m_space.bent(
        {v.x * m_row[0] + v.y * m_row[1] + v.z * m_row[2],
         (1 / m_determinant) * (k.x * m_column[0] + k.y * m_column[1] + k.z * m_column[2])},
        m_place);
}

EdgeSpace::Value EdgePoint::of(std::span<const double> c) const
{
    Point v, k;
    for (int i = 0; i < m_count; ++i) {
        const double x = c[size_t(m_number[i])];
        v = v + x * m_basis.value[i];
        k = k + x * m_basis.curl[i];
    }
    return placed(v, k);
}

EdgeSpace::Value EdgeSpace::at(std::span<const double> c, int order, int cell,
                               const Point& xi) const
{
    return EdgePoint(*this, order, cell, xi).of(c);
}

/// Calls visit(edge function, scalar function, factor) for every entry of the gradient.
template <class Visit>
void EdgeSpace::overGradient([[maybe_unused]] const H1Space& scalar, int order, Visit visit) const
{
    const mesh::Mesh& m = *m_mesh;
    const int nv = m.vertexCount(), ne = m.edgeCount(), nf = m.faceCount();
    YH_ASSERT(&scalar.mesh() == m_mesh && scalar.order() >= order, "a scalar space of the mesh");
    YH_ASSERT(m_kind.hasEdges(), "fields across a drawing are no gradients");
    for (int e = 0; e < ne; ++e) {
        visit(e, m.edges[size_t(e)][0], -1.0);
        visit(e, m.edges[size_t(e)][1], 1.0);
    }
    for (int p = 2; p <= order; ++p)
        for (int e = 0; e < ne; ++e)
            visit(start(p) + e, nv + (p - 2) * ne + e, 1.0);
    for (int f = 0; f < nf && order >= 3; ++f)
        visit(start(3) + ne + 4 * f + 3, nv + 2 * ne + f, 1.0);
    if (!m_kind.hasScalars())
        return;
    for (int p = 1, n = 0; p <= order; ++p) {
        const int scalars = start(p) + edgesOfOrder(p), many = p == 1 ? nv : p == 2 ? ne : ne + nf;
        for (int i = 0; i < many; ++i)
            visit(scalars + i, n++, 1.0);
    }
}

std::vector<double> EdgeSpace::gradient(const H1Space& scalar, int order,
                                        std::span<const double> potential) const
{
    std::vector<double> out(size_t(count(order)), 0.0);
    overGradient(scalar, order,
                 [&](int e, int v, double s) { out[size_t(e)] += s * potential[size_t(v)]; });
    return out;
}

std::vector<double> EdgeSpace::gradientTransposed(const H1Space& scalar, int order,
                                                  std::span<const double> x) const
{
    std::vector<double> out(size_t(scalar.count(order)), 0.0);
    overGradient(scalar, order,
                 [&](int e, int v, double s) { out[size_t(v)] += s * x[size_t(e)]; });
    return out;
}

ElementMatrices gradientElements(const EdgeSpace& space, const H1Space& scalar,
                                 const ElementMatrices& mass)
{
    const mesh::Mesh& m = space.mesh();
    const int order = scalar.order(), wide = space.localCount(order),
              local = scalar.localCount(order);
    // The functions that the gradient of each scalar one is made of.
    std::vector<std::vector<std::pair<int, double>>> made(size_t(scalar.count(order)));
    space.overGradient(scalar, order, [&](int e, int v, double s) {
        made[size_t(v)].push_back({e, s});
    });
    ElementMatrices out;
    out.local = local;
    out.stride = size_t(local * (local + 1) / 2);
    out.entries.resize(out.stride * size_t(m.cellCount()));
#pragma omp parallel for schedule(static)
    for (int t = 0; t < m.cellCount(); ++t) {
        int number[mostEdgeLocal], scalars[mostLocal];
        double sign[mostLocal], x[mostLocal][mostEdgeLocal], y[mostEdgeLocal];
        space.local(t, order, number);
        scalar.local(t, scalars, sign);
        double* entry = &out.entries[size_t(t) * out.stride];
        for (int i = 0; i < local; ++i) {
            std::fill_n(x[i], wide, 0.0);
            for (const auto& [e, s] : made[size_t(scalars[i])])
                for (int k = 0; k < wide; ++k)
                    if (number[k] == e)
                        x[i][k] = s;
        }
        for (int i = 0; i < local; ++i) {
            mass.multiply(t, wide, x[i], y);
            for (int j = i; j < local; ++j)
                *entry++ = std::inner_product(y, y + wide, x[j], 0.0);
        }
    }
    return out;
}

namespace {

/// Visits the points of quadrature of a side: place, unit normal, weight with the measure, and the
/// functions' parts along the side and of their curls across it in the order of EdgeSpace::onSide.
template <class Visit>
void overSideFunctions(const EdgeSpace& space, int order, int side, Measure measure, Visit visit)
{
    const mesh::Mesh& mesh = space.mesh();
    const auto& rule = cellRule(mesh.dimension - 1, 2 * order + 3);
    const auto wanted = space.onSide(side, order);
    const size_t n = wanted.size();
    const int t = mesh.sideCells[size_t(side)][0], local = mesh.localSide(t, side);
    const mesh::Geometry own(mesh, t);
    const SortedCell s(mesh, t);
    int number[mostEdgeLocal];
    space.local(t, order, number);
    std::vector<size_t> place(n);
    for (size_t i = 0; i < n; ++i)
        place[i] = size_t(std::find(number, number + space.localCount(order), wanted[i]) - number);
    EdgeBasis b;
    std::vector<Point> along(n);
    std::vector<double> curl(n);
    for (const CellPoint& q : rule) {
        const Point xi = own.onSide(local, q.xi), normal = own.outward(local, xi),
                    at = s.sorted(xi), p = own.at(xi);
        const double size = norm(normal);
        const Point unit = (1 / size) * normal;
        edgeBasis(mesh.dimension, space.kind(), order, at, b);
        Point row[3], column[3];
        const double det = s.geometry.inverse(at, row);
        s.geometry.jacobian(at, column);
        if (mesh.dimension == 2)
            row[2] = column[2] = {0, 0, 1};
        for (size_t i = 0; i < n; ++i) {
            const Point &v = b.value[place[i]], &k = b.curl[place[i]];
            const auto whole =
                space.bent({v.x * row[0] + v.y * row[1] + v.z * row[2],
                            (1 / det) * (k.x * column[0] + k.y * column[1] + k.z * column[2])},
                           p);
            along[i] = whole.value - dot(whole.value, unit) * unit;
            curl[i] = dot(whole.curl, unit);
        }
        visit(p, unit, q.w * size * measureAt(measure, p), along, curl);
    }
}

}  // namespace

std::vector<SideMatrix> sideMass(const EdgeSpace& space, int order, std::span<const int> sides,
                                 Measure measure)
{
    std::vector<SideMatrix> list(sides.size());
#pragma omp parallel for schedule(dynamic, 64)
    for (size_t k = 0; k < sides.size(); ++k) {
        SideMatrix& out = list[k];
        out.side = sides[k];
        out.number = space.onSide(sides[k], order);
        const size_t n = out.number.size();
        out.value.assign(n * n, 0.0);
        overSideFunctions(
            space, order, sides[k], measure,
            [&](const Point&, const Point&, double w, const auto& along, const auto&) {
                for (size_t i = 0; i < n; ++i)
                    for (size_t j = 0; j < n; ++j)
                        out.value[i * n + j] += w * dot(along[i], along[j]);
            });
    }
    return list;
}

std::vector<SideSamples> sideSamples(const EdgeSpace& space, int order, std::span<const int> sides,
                                     Measure measure)
{
    std::vector<SideSamples> list(sides.size());
    for (size_t k = 0; k < sides.size(); ++k) {
        list[k].side = sides[k];
        list[k].number = space.onSide(sides[k], order);
        overSideFunctions(space, order, sides[k], measure,
                          [&](const Point& p, const Point& normal, double w, const auto& along,
                              const auto& curl) {
                              list[k].points.push_back({p, normal, w, along, curl});
                          });
    }
    return list;
}

SideLoad sideLoad(const EdgeSpace& space, int order, std::span<const int> sides, Measure measure,
                  const std::function<Point(int, Point)>& g)
{
    SideLoad load;
    for (const int side : sides) {
        const size_t first = load.number.size();
        const auto numbers = space.onSide(side, order);
        load.number.insert(load.number.end(), numbers.begin(), numbers.end());
        load.value.resize(load.number.size(), 0.0);
        overSideFunctions(
            space, order, side, measure,
            [&](const Point& p, const Point&, double w, const auto& along, const auto&) {
                const Point v = g(side, p);
                for (size_t i = 0; i < along.size(); ++i)
                    load.value[first + i] += w * dot(v, along[i]);
            });
    }
    return load;
}

SparseSymmetric sumOf(std::span<const SideMatrix> sides, const Numbering& numbering)
{
    struct Entry
    {
        int column, row;
        double value;
    };
    std::vector<Entry> list;
    for (const SideMatrix& s : sides)
        for (size_t i = 0; i < s.number.size(); ++i)
            for (size_t j = 0; j < s.number.size(); ++j) {
                const int c = numbering.place[size_t(s.number[i])],
                          r = numbering.place[size_t(s.number[j])];
                if (c >= 0 && r >= c)
                    list.push_back({c, r, s.value[i * s.number.size() + j]});
            }
    std::stable_sort(list.begin(), list.end(), [](const Entry& a, const Entry& b) {
        return a.column != b.column ? a.column < b.column : a.row < b.row;
    });
    SparseSymmetric K;
    K.size = numbering.size();
    K.start.assign(size_t(K.size) + 1, 0);
    for (size_t k = 0; k < list.size(); ++k) {
        if (k > 0 && list[k].column == list[k - 1].column && list[k].row == list[k - 1].row) {
            K.value.back() += list[k].value;
            continue;
        }
        K.row.push_back(list[k].row);
        K.value.push_back(list[k].value);
        ++K.start[size_t(list[k].column) + 1];
    }
    std::partial_sum(K.start.begin(), K.start.end(), K.start.begin());
    return K;
}

}  // namespace yh::fem
