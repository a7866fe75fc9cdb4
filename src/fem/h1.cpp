#include "fem/h1.h"

#include "fem/quadrature.h"

namespace yh::fem {

using mesh::edgeCorner;
using mesh::faceCorner;

namespace {

/// Barycentric coordinates and their constant derivatives.
struct Barycentric
{
    double l[4], d[3][4];
    Barycentric(int dimension, const Point& xi) : l{1 - xi.x - xi.y - xi.z, xi.x, xi.y, xi.z}, d{}
    {
        for (int j = 0; j < dimension; ++j) {
            d[j][0] = -1;
            d[j][j + 1] = 1;
        }
    }
};

void edgeFunctions(int dimension, int order, const Barycentric& b, int k, int at2, int at3, int at4,
                   Basis& out)
{
    const int i = edgeCorner[k][0], j = edgeCorner[k][1];
    const double p = b.l[i] * b.l[j], m = b.l[i] - b.l[j], q = m * m - 0.2;
    out.value[at2] = p;
    if (order >= 3)
        out.value[at3] = p * m;
    if (order >= 4)
        out.value[at4] = p * q;
    for (int c = 0; c < dimension; ++c) {
        const double dp = b.d[c][i] * b.l[j] + b.l[i] * b.d[c][j], dm = b.d[c][i] - b.d[c][j];
        out.d[c][at2] = dp;
        if (order >= 3)
            out.d[c][at3] = dp * m + p * dm;
        if (order >= 4)
            out.d[c][at4] = dp * q + p * 2 * m * dm;
    }
}

}  // namespace

void basis(int dimension, int order, const Point& xi, Basis& out)
{
    const Barycentric b(dimension, xi);
    const int corners = dimension + 1, edges = dimension == 2 ? 3 : 6,
              faces = dimension == 2 ? 1 : 4;
    for (int i = 0; i < corners; ++i) {
        out.value[i] = b.l[i];
        for (int c = 0; c < dimension; ++c)
            out.d[c][i] = b.d[c][i];
    }
    if (order < 2)
        return;
    const int cubic = corners + edges, face = cubic + edges, quartic = face + faces;
    for (int k = 0; k < edges; ++k)
        edgeFunctions(dimension, order, b, k, corners + k, cubic + k, quartic + k, out);
    if (order < 3)
        return;
    for (int f = 0; f < faces; ++f) {
        constexpr int whole[3] = {0, 1, 2};
        const int* v = dimension == 2 ? whole : faceCorner[f];
        const double p = b.l[v[0]], q = b.l[v[1]], r = b.l[v[2]];
        out.value[face + f] = p * q * r;
        for (int c = 0; c < dimension; ++c)
            out.d[c][face + f] = b.d[c][v[0]] * q * r + p * b.d[c][v[1]] * r + p * q * b.d[c][v[2]];
    }
    if (order < 4)
        return;
    const double B = out.value[face], f = b.l[1] - b.l[0], g = 2 * b.l[2] - 1;
    const int inner = quartic + edges;
    out.value[inner] = B * f;
    out.value[inner + 1] = B * g;
    for (int c = 0; c < dimension; ++c) {
        const double dB = out.d[c][face];
        out.d[c][inner] = dB * f + B * (b.d[c][1] - b.d[c][0]);
        out.d[c][inner + 1] = dB * g + B * 2 * b.d[c][2];
    }
}

BasisTable::BasisTable(int cellDimension, int elementOrder, int degree)
    : dimension(cellDimension), order(elementOrder), count(localCount(cellDimension, elementOrder))
{
    for (const CellPoint& p : cellRule(dimension, degree)) {
        xi.push_back(p.xi);
        w.push_back(p.w);
        Basis b;
        basis(dimension, order, p.xi, b);
        value.insert(value.end(), b.value, b.value + count);
        for (int c = 0; c < dimension; ++c)
            d[c].insert(d[c].end(), b.d[c], b.d[c] + count);
    }
}

H1Space::H1Space(const mesh::Mesh& mesh, int order) : m_mesh(&mesh), m_order(order)
{
    YH_ASSERT(order >= 1 && order <= (mesh.dimension == 2 ? highestOrder : highestSolidOrder),
              "order 1 to 4, 1 to 3 for solids");
}

int H1Space::count(int order) const
{
    const int nv = m_mesh->vertexCount(), ne = m_mesh->edgeCount(), nf = m_mesh->faceCount();
    return nv + (order - 1) * ne + (order - 1) * (order - 2) / 2 * nf;
}

void H1Space::local(int t, int* number, double* sign) const
{
    const auto v = m_mesh->corners(t);
    const auto e = m_mesh->edgesOf(t);
    const int nv = m_mesh->vertexCount(), ne = m_mesh->edgeCount(), nf = m_mesh->faceCount();
    int n = 0;
    auto add = [&](int global, double s = 1) {
        number[n] = global;
        sign[n++] = s;
    };
    for (const int i : v)
        add(i);
    if (m_order >= 2)
        for (const int k : e)
            add(nv + k);
    if (m_order >= 3) {
        for (size_t k = 0; k < e.size(); ++k)
            add(nv + ne + e[k], v[size_t(edgeCorner[k][0])] < v[size_t(edgeCorner[k][1])] ? 1 : -1);
        if (m_mesh->dimension == 2)
            add(nv + 2 * ne + t);
        else
            for (const int f : m_mesh->cellFaces[size_t(t)])
                add(nv + 2 * ne + f);
    }
    if (m_order >= 4) {
        for (const int k : e)
            add(nv + 2 * ne + nf + k);
        for (int k = 0; k < 2; ++k)
            add(nv + 3 * ne + nf + 2 * t + k);
    }
}

std::vector<int> H1Space::insideEdge(int e, int order) const
{
    const int nv = m_mesh->vertexCount(), ne = m_mesh->edgeCount(), nf = m_mesh->faceCount();
    std::vector<int> list;
    if (order >= 2)
        list.push_back(nv + e);
    if (order >= 3)
        list.push_back(nv + ne + e);
    if (order >= 4)
        list.push_back(nv + 2 * ne + nf + e);
    return list;
}

std::vector<int> H1Space::onSide(int side, int order) const
{
    const auto corners = m_mesh->sideCorners(side);
    std::vector<int> list(corners.begin(), corners.end());
    int count = 0;
    const auto edges = m_mesh->sideEdges(side, count);
    for (int k = 0; k < count; ++k) {
        const auto inside = insideEdge(edges[size_t(k)], order);
        list.insert(list.end(), inside.begin(), inside.end());
    }
    if (m_mesh->dimension == 3 && order >= 3)
        list.push_back(m_mesh->vertexCount() + 2 * m_mesh->edgeCount() + side);
    return list;
}

double H1Space::value(std::span<const double> c, int order, int t, const Point& xi) const
{
    Basis b;
    double sign[mostLocal], sum = 0;
    int number[mostLocal];
    basis(m_mesh->dimension, order, xi, b);
    local(t, number, sign);
    for (int i = 0; i < localCount(order); ++i)
        sum += sign[i] * c[size_t(number[i])] * b.value[i];
    return sum;
}

H1Space::At H1Space::at(std::span<const double> c, int order, int t, const Point& xi) const
{
    Basis b;
    double sign[mostLocal], value = 0, sum[3] = {0, 0, 0};
    int number[mostLocal];
    basis(m_mesh->dimension, order, xi, b);
    local(t, number, sign);
    for (int i = 0; i < localCount(order); ++i) {
        const double x = sign[i] * c[size_t(number[i])];
        value += x * b.value[i];
        for (int k = 0; k < m_mesh->dimension; ++k)
            sum[k] += x * b.d[k][i];
    }
    Point row[3];
    const mesh::Geometry g(*m_mesh, t);
    g.inverse(xi, row);
    return {value, sum[0] * row[0] + sum[1] * row[1] + sum[2] * row[2], g.at(xi)};
}

}  // namespace yh::fem
