#include "network/circuit.h"

#include "base/constants.h"
#include "base/fault.h"
#include "base/quantity.h"
#include "fem/dense.h"

#include <algorithm>
#include <cmath>
#include <memory>

namespace yh::network {

using Complex = std::complex<double>;
using Eigen::MatrixXcd;

int Circuit::add(Part part)
{
    m_first.push_back(m_ports);
    m_ports += part.ports;
    m_ends.resize(size_t(m_ports));
    m_parts.push_back(std::move(part));
    return int(m_parts.size()) - 1;
}

void Circuit::join(int a, int b)
{
    m_ends[size_t(a)] = {End::Kind::joined, b, {}};
    m_ends[size_t(b)] = {End::Kind::joined, a, {}};
}

void Circuit::terminate(int port, Complex reflection)
{
    m_ends[size_t(port)] = {End::Kind::terminated, -1, reflection};
}

void Circuit::terminal(int port)
{
    m_ends[size_t(port)] = {End::Kind::terminal, -1, {}};
    m_terminals.push_back(port);
}

std::vector<int> Circuit::openPorts() const
{
    std::vector<int> list;
    for (int p = 0; p < m_ports; ++p)
        if (m_ends[size_t(p)].kind == End::Kind::open)
            list.push_back(p);
    return list;
}

MatrixXcd Circuit::S(double f) const
{
    MatrixXcd S = MatrixXcd::Zero(m_ports, m_ports);
    for (size_t k = 0; k < m_parts.size(); ++k)
        S.block(m_first[k], m_first[k], m_parts[k].ports, m_parts[k].ports) = m_parts[k].S(f);
    MatrixXcd A = MatrixXcd::Identity(m_ports, m_ports);
    for (int p = 0; p < m_ports; ++p) {
        const End& e = m_ends[size_t(p)];
        // The wave into port p is that out of its partner.
        if (e.kind == End::Kind::joined)
            A.col(e.partner) -= S.col(p);
        else if (e.kind == End::Kind::terminated)
            A.col(p) -= e.reflection * S.col(p);
    }
    const auto n = Eigen::Index(m_terminals.size());
    MatrixXcd e(m_ports, n), out(n, n);
    for (Eigen::Index k = 0; k < n; ++k)
        e.col(k) = S.col(m_terminals[size_t(k)]);
    const MatrixXcd b = fem::solved(A, e);
    for (Eigen::Index k = 0; k < n; ++k)
        out.row(k) = b.row(m_terminals[size_t(k)]);
    constexpr double absurd = 1e8;
    if (!out.allFinite() || (n > 0 && out.cwiseAbs().maxCoeff() > absurd))
        throw base::Error(5030, "a loop without loss resonates at " +
                                    base::format(f, base::dim::frequency, 6) +
                                    ": nothing limits what runs round in it");
    return out;
}

Scattering guideOf(double length, double index, double group, double f0, double loss)
{
    return [=](double f) {
        const double phase = 2 * base::pi / base::c0 * (index * f0 + group * (f - f0)) * length;
        MatrixXcd S = MatrixXcd::Zero(2, 2);
        S(0, 1) = S(1, 0) = loss * std::polar(1.0, -phase);
        return S;
    };
}

Scattering couplerOf(double share, double loss)
{
    return [=](double) {
        MatrixXcd S = MatrixXcd::Zero(4, 4);
        const double straight = loss * std::sqrt(1 - share);
        const Complex across(0, -loss * std::sqrt(share));
        S(2, 0) = S(0, 2) = S(3, 1) = S(1, 3) = straight;
        S(3, 0) = S(0, 3) = S(2, 1) = S(1, 2) = across;
        return S;
    };
}

Scattering splitterOf(double share, double loss)
{
    return [=](double) {
        MatrixXcd S = MatrixXcd::Zero(3, 3);
        S(1, 0) = S(0, 1) = loss * std::sqrt(share);
        S(2, 0) = S(0, 2) = loss * std::sqrt(1 - share);
        return S;
    };
}

Scattering reflectorOf(double share)
{
    return [=](double) {
        MatrixXcd S = MatrixXcd::Zero(2, 2);
        S(0, 0) = S(1, 1) = std::sqrt(share);
        S(0, 1) = S(1, 0) = Complex(0, -std::sqrt(1 - share));
        return S;
    };
}

Scattering tabulated(Network network, bool smooth)
{
    const auto known = std::make_shared<const Network>(std::move(network));
    return [known, smooth](double f) {
        const auto& x = known->frequency;
        if (!smooth || x.size() < 4)
            return known->at(f);
        // Through the two points on each side, or the four at an end.
        const auto next = std::lower_bound(x.begin(), x.end(), f) - x.begin();
        const auto from =
            size_t(std::clamp<std::ptrdiff_t>(next - 2, 0, std::ptrdiff_t(x.size()) - 4));
        const MatrixXcd straight = known->at(f);
        if (!straight.allFinite())
            return straight;
        MatrixXcd S = MatrixXcd::Zero(straight.rows(), straight.cols());
        for (size_t i = from; i < from + 4; ++i) {
            double weight = 1;
            for (size_t k = from; k < from + 4; ++k)
                if (k != i)
                    weight *= (f - x[k]) / (x[i] - x[k]);
            S += weight * known->S[i];
        }
        return S;
    };
}

double gainOf(const MatrixXcd& S)
{
    return fem::largestSingularValue(S);
}

}  // namespace yh::network
