#include "fem/h1.h"

#include "fem/quadrature.h"

namespace yh::fem {

void basis(int order, double u, double v, double* value, double* du, double* dv)
{
    const double l[3] = {1 - u - v, u, v};
    constexpr double lu[3] = {-1, 1, 0}, lv[3] = {-1, 0, 1};
    for (int i = 0; i < 3; ++i) {
        value[i] = l[i];
        du[i] = lu[i];
        dv[i] = lv[i];
    }
    if (order < 2)
        return;
    for (int k = 0; k < 3; ++k) {
        const int a = k, b = (k + 1) % 3;
        const double p = l[a] * l[b], pu = lu[a] * l[b] + l[a] * lu[b],
                     pv = lv[a] * l[b] + l[a] * lv[b];
        const double d = l[a] - l[b], eu = lu[a] - lu[b], ev = lv[a] - lv[b];
        value[3 + k] = p;
        du[3 + k] = pu;
        dv[3 + k] = pv;
        if (order >= 3) {
            value[6 + k] = p * d;
            du[6 + k] = pu * d + p * eu;
            dv[6 + k] = pv * d + p * ev;
        }
        if (order >= 4) {
            const double q = d * d - 0.2;
            value[10 + k] = p * q;
            du[10 + k] = pu * q + p * 2 * d * eu;
            dv[10 + k] = pv * q + p * 2 * d * ev;
        }
    }
    if (order < 3)
        return;
    const double B = l[0] * l[1] * l[2];
    const double Bu = l[2] * (l[0] - l[1]), Bv = l[1] * (l[0] - l[2]);
    value[9] = B;
    du[9] = Bu;
    dv[9] = Bv;
    if (order < 4)
        return;
    const double f = l[1] - l[0], g = 2 * l[2] - 1;
    value[13] = B * f;
    du[13] = Bu * f + B * 2;
    dv[13] = Bv * f + B;
    value[14] = B * g;
    du[14] = Bu * g;
    dv[14] = Bv * g + 2 * B;
}

BasisTable::BasisTable(int elementOrder, int degree)
    : order(elementOrder), count(localCount(elementOrder))
{
    for (const TrianglePoint& p : triangleRule(degree)) {
        u.push_back(p.u);
        v.push_back(p.v);
        w.push_back(p.w);
    }
    value.resize(w.size() * size_t(count));
    du.resize(value.size());
    dv.resize(value.size());
    for (size_t q = 0; q < w.size(); ++q)
        basis(order, u[q], v[q], &value[q * size_t(count)], &du[q * size_t(count)],
              &dv[q * size_t(count)]);
}

H1Space::H1Space(const mesh::Mesh& mesh, int order) : m_mesh(&mesh), m_order(order)
{
    YH_ASSERT(order >= 1 && order <= highestOrder, "order 1 to 4");
}

int H1Space::count(int order) const
{
    const int nv = m_mesh->vertexCount(), ne = m_mesh->edgeCount(), nt = m_mesh->triangleCount();
    return nv + (order - 1) * ne + (order - 1) * (order - 2) / 2 * nt;
}

void H1Space::local(int t, int* number, double* sign) const
{
    const auto& v = m_mesh->triangles[size_t(t)];
    const auto& e = m_mesh->triangleEdges[size_t(t)];
    const int nv = m_mesh->vertexCount(), ne = m_mesh->edgeCount(), nt = m_mesh->triangleCount();
    for (int i = 0; i < 3; ++i) {
        number[i] = v[size_t(i)];
        sign[i] = 1;
    }
    if (m_order >= 2)
        for (int k = 0; k < 3; ++k) {
            number[3 + k] = nv + e[size_t(k)];
            sign[3 + k] = 1;
        }
    if (m_order >= 3) {
        for (int k = 0; k < 3; ++k) {
            number[6 + k] = nv + ne + e[size_t(k)];
            sign[6 + k] = v[size_t(k)] < v[size_t((k + 1) % 3)] ? 1 : -1;
        }
        number[9] = nv + 2 * ne + t;
        sign[9] = 1;
    }
    if (m_order >= 4) {
        for (int k = 0; k < 3; ++k) {
            number[10 + k] = nv + 2 * ne + nt + e[size_t(k)];
            sign[10 + k] = 1;
        }
        for (int k = 0; k < 2; ++k) {
            number[13 + k] = nv + 3 * ne + nt + 2 * t + k;
            sign[13 + k] = 1;
        }
    }
}

std::vector<int> H1Space::onEdge(int e) const
{
    const int nv = m_mesh->vertexCount(), ne = m_mesh->edgeCount(), nt = m_mesh->triangleCount();
    std::vector<int> list = {m_mesh->edges[size_t(e)][0], m_mesh->edges[size_t(e)][1]};
    if (m_order >= 2)
        list.push_back(nv + e);
    if (m_order >= 3)
        list.push_back(nv + ne + e);
    if (m_order >= 4)
        list.push_back(nv + 2 * ne + nt + e);
    return list;
}

double H1Space::value(std::span<const double> c, int order, int t, double u, double v) const
{
    double f[mostLocal], fu[mostLocal], fv[mostLocal], sign[mostLocal], sum = 0;
    int number[mostLocal];
    basis(order, u, v, f, fu, fv);
    local(t, number, sign);
    for (int i = 0; i < localCount(order); ++i)
        sum += sign[i] * c[size_t(number[i])] * f[i];
    return sum;
}

mesh::Point H1Space::gradient(std::span<const double> c, int order, int t, double u, double v) const
{
    double f[mostLocal], fu[mostLocal], fv[mostLocal], sign[mostLocal], su = 0, sv = 0;
    int number[mostLocal];
    basis(order, u, v, f, fu, fv);
    local(t, number, sign);
    for (int i = 0; i < localCount(order); ++i) {
        su += sign[i] * c[size_t(number[i])] * fu[i];
        sv += sign[i] * c[size_t(number[i])] * fv[i];
    }
    mesh::Point du, dv;
    mesh::Geometry(*m_mesh, t).jacobian(u, v, du, dv);
    const double det = du.x * dv.y - du.y * dv.x;
    return {(dv.y * su - du.y * sv) / det, (du.x * sv - dv.x * su) / det};
}

}  // namespace yh::fem
