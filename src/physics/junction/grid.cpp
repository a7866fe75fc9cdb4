// The discrete equations along a line, and Newton's method for them.
#include "base/fault.h"
#include "base/quantity.h"
#include "physics/common/constants.h"
#include "physics/junction/junction.h"

#include <Eigen/Core>

#include <algorithm>
#include <cmath>

namespace yh::physics {

using Real = LineGrid::Real;
using Block = Eigen::Matrix<Real, 3, 3>;
using Column = Eigen::Matrix<Real, 3, 1>;

namespace {

/// A of A X = B for three rows, by elimination with pivots.
Block solved3(Block A, Block B)
{
    for (int c = 0; c < 3; ++c) {
        int best = c;
        for (int r = c + 1; r < 3; ++r)
            if (std::abs(A(r, c)) > std::abs(A(best, c)))
                best = r;
        A.row(c).swap(A.row(best));
        B.row(c).swap(B.row(best));
        for (int r = 0; r < 3; ++r) {
            if (r == c)
                continue;
            const Real f = A(r, c) / A(c, c);
            A.row(r) -= f * A.row(c);
            B.row(r) -= f * B.row(c);
        }
    }
    for (int r = 0; r < 3; ++r)
        B.row(r) /= A(r, r);
    return B;
}
Column solved3(const Block& A, const Column& b)
{
    Block B = Block::Zero();
    B.col(0) = b;
    return solved3(A, B).col(0);
}

/** Ends of cells within a layer, from 0: sizes grow by a fixed share of the distance from either
 end. */
std::vector<double> dividedLayer(double L, double left, double right)
{
    const double most = L / 30;
    constexpr double growth = 0.12;
    auto size = [&](double s) {
        return std::min({most, left + growth * s, right + growth * (L - s)});
    };
    std::vector<double> at{0};
    while (at.back() < L)
        at.push_back(at.back() + size(at.back() + 0.5 * size(at.back())));
    // Stretched so that the last one is the end.
    const double stretch = L / at.back();
    for (double& a : at)
        a *= stretch;
    return at;
}

}  // namespace

double JunctionProblem::length() const
{
    double sum = 0;
    for (const auto& l : layers)
        sum += l.thickness;
    return sum;
}

void LineGrid::setEnds()
{
    for (const size_t end : {size_t(0), size_t(1)}) {
        const Real N = Real(m_problem.layers[end == 0 ? 0 : m_problem.layers.size() - 1].net()) /
                       m_scale,
                   root = std::sqrt(N * N / 4 + m_ni * m_ni), more = std::abs(N) / 2 + root,
                   less = m_ni * m_ni / more;
        const Real n = N >= 0 ? more : less, p = N >= 0 ? less : more;
        m_ends[end] = {std::log(n / m_ni), n, p};
    }
}

LineGrid::LineGrid(const JunctionProblem& problem, int level) : m_problem(problem)
{
    double heaviest = problem.ni;
    for (const auto& l : problem.layers)
        heaviest = std::max(heaviest, std::abs(l.net()));
    m_scale = heaviest;
    m_ni = Real(problem.ni) / m_scale;
    // Fine at both ends of each layer, by the screening length of the heavier side.
    const size_t count = problem.layers.size();
    auto edge = [&](size_t k) {  // between layer k - 1 and k
        double most = 0;
        if (k > 0)
            most = std::max(most, std::abs(problem.layers[k - 1].net()));
        if (k < count)
            most = std::max(most, std::abs(problem.layers[k].net()));
        constexpr double share = 0.35;
        return share * problem.screening(most);
    };
    Real x = 0;
    m_x.push_back(0);
    for (size_t k = 0; k < count; ++k) {
        const double L = problem.layers[k].thickness;
        const double left = std::min(edge(k), L / 30), right = std::min(edge(k + 1), L / 30);
        const std::vector<double> at = dividedLayer(L, left, right);
        for (size_t i = 1; i < at.size(); ++i) {
            const Real a = x + Real(at[i - 1]), b = x + Real(at[i]);
            const int parts = 1 << level;
            for (int part = 1; part <= parts; ++part) {
                m_x.push_back(a + (b - a) * part / parts);
                m_layer.push_back(int(k));
            }
        }
        x += L;
    }
    setEnds();
}

LineGrid::Flux LineGrid::electronFlux(const JunctionState& s, size_t c) const
{
    const JunctionLayer& l = m_problem.layers[size_t(m_layer[c])];
    const Real d = s.psi[c + 1] - s.psi[c],
               k = Real(l.electronMobility * m_problem.thermal()) / (m_x[c + 1] - m_x[c]);
    const Bernoulli<Real> b(d), back(-d);
    return {k * (s.n[c + 1] * b.value - s.n[c] * back.value), -k * back.value, k * b.value,
            k * (s.n[c + 1] * b.slope + s.n[c] * back.slope)};
}

LineGrid::Flux LineGrid::holeFlux(const JunctionState& s, size_t c) const
{
    const JunctionLayer& l = m_problem.layers[size_t(m_layer[c])];
    const Real d = s.psi[c + 1] - s.psi[c],
               k = Real(l.holeMobility * m_problem.thermal()) / (m_x[c + 1] - m_x[c]);
    const Bernoulli<Real> b(d), back(-d);
    return {k * (s.p[c] * b.value - s.p[c + 1] * back.value), k * b.value, -k * back.value,
            k * (s.p[c] * b.slope + s.p[c + 1] * back.slope)};
}

LineGrid::Rate LineGrid::recombination(int layer, Real n, Real p) const
{
    const JunctionLayer& l = m_problem.layers[size_t(layer)];
    Rate r(m_problem, l.life, m_scale, m_ni, n, p);
    r.value -= Real(l.generation) / m_scale;
    return r;
}

JunctionState LineGrid::equilibrium() const
{
    // Poisson's equation with both densities by the potential, from neutrality at each place.
    JunctionState s;
    const size_t n = m_x.size();
    s.psi.resize(n);
    s.n.resize(n);
    s.p.resize(n);
    auto doping = [&](size_t i) {
        // Mean over the box of a node.
        Real sum = 0, width = 0;
        for (const size_t c : {i - 1, i})
            if (c < m_layer.size()) {
                const Real h = m_x[c + 1] - m_x[c];
                sum += h * Real(m_problem.layers[size_t(m_layer[c])].net()) / m_scale;
                width += h;
            }
        return sum / width;
    };
    for (size_t i = 0; i < n; ++i)
        s.psi[i] = std::asinh(doping(i) / (2 * m_ni));
    const Real k = Real(m_problem.material.eps * eps0 * m_problem.thermal() / elementary) / m_scale;
    std::vector<Real> below(n), diagonal(n), above(n), r(n);
    constexpr int most = 200;
    for (int step = 0; step < most; ++step) {
        for (size_t i = 0; i < n; ++i) {
            below[i] = above[i] = 0;
            diagonal[i] = 1;
            r[i] = 0;
            if (i == 0 || i == n - 1)
                continue;
            const Real l = m_x[i] - m_x[i - 1], h = m_x[i + 1] - m_x[i], w = (l + h) / 2;
            const Real e = m_ni * std::exp(s.psi[i]), q = m_ni * std::exp(-s.psi[i]);
            r[i] = -(k * ((s.psi[i + 1] - s.psi[i]) / h - (s.psi[i] - s.psi[i - 1]) / l) +
                     (q - e + doping(i)) * w);
            below[i] = k / l;
            above[i] = k / h;
            diagonal[i] = -k / l - k / h - (q + e) * w;
        }
        for (size_t i = 1; i < n; ++i) {
            const Real f = below[i] / diagonal[i - 1];
            diagonal[i] -= f * above[i - 1];
            r[i] -= f * r[i - 1];
        }
        Real largest = 0;
        for (size_t i = n; i-- > 0;) {
            r[i] = (r[i] - (i + 1 < n ? above[i] * r[i + 1] : 0)) / diagonal[i];
            largest = std::max(largest, std::abs(r[i]));
        }
        const Real damp = largest > 2 ? 2 / largest : 1;
        for (size_t i = 0; i < n; ++i)
            s.psi[i] += damp * r[i];
        if (largest < 1e-16L)
            break;
    }
    for (size_t i = 0; i < n; ++i) {
        s.n[i] = m_ni * std::exp(s.psi[i]);
        s.p[i] = m_ni * std::exp(-s.psi[i]);
    }
    return s;
}

bool LineGrid::solve(JunctionState& s) const
{
    const size_t n = m_x.size();
    const Real k = Real(m_problem.material.eps * eps0 * m_problem.thermal() / elementary) / m_scale,
               shift = Real(s.bias / m_problem.thermal());
    s.psi.front() = m_ends[0][0] + (m_problem.biasLeft ? shift : 0);
    s.psi.back() = m_ends[1][0] + (m_problem.biasLeft ? 0 : shift);
    for (const size_t end : {size_t(0), size_t(1)}) {
        s.n[end == 0 ? 0 : n - 1] = m_ends[end][1];
        s.p[end == 0 ? 0 : n - 1] = m_ends[end][2];
    }
    std::vector<Block> ratio(n);
    std::vector<Column> x(n);
    constexpr int most = 40;
    for (int step = 0; step < most; ++step) {
        // One sweep down eliminates what lies below, one up solves; the ends are given.
        ratio[0].setZero();
        x[0].setZero();
        Flux electronsLeft = electronFlux(s, 0), holesLeft = holeFlux(s, 0);
        for (size_t i = 1; i + 1 < n; ++i) {
            const Real l = m_x[i] - m_x[i - 1], h = m_x[i + 1] - m_x[i], w = (l + h) / 2;
            const Flux electrons = electronFlux(s, i), holes = holeFlux(s, i);
            Block below = Block::Zero(), middle = Block::Zero(), above = Block::Zero();
            Column r;
            Real N = 0;
            Real R = 0, byN = 0, byP = 0;
            for (const size_t c : {i - 1, i}) {
                const Real share = (m_x[c + 1] - m_x[c]) / 2;
                N += share * Real(m_problem.layers[size_t(m_layer[c])].net()) / m_scale;
                const Rate own = recombination(m_layer[c], s.n[i], s.p[i]);
                R += share * own.value;
                byN += share * own.byN;
                byP += share * own.byP;
            }
            r(0) = k * ((s.psi[i + 1] - s.psi[i]) / h - (s.psi[i] - s.psi[i - 1]) / l) +
                   (s.p[i] - s.n[i]) * w + N;
            below(0, 0) = k / l;
            above(0, 0) = k / h;
            middle(0, 0) = -k / l - k / h;
            middle(0, 1) = -w;
            middle(0, 2) = w;
            r(1) = electrons.value - electronsLeft.value - R;
            below(1, 1) = -electronsLeft.byLeft;
            middle(1, 1) = electrons.byLeft - electronsLeft.byRight - byN;
            above(1, 1) = electrons.byRight;
            middle(1, 2) = -byP;
            below(1, 0) = electronsLeft.byPsi;
            middle(1, 0) = -electrons.byPsi - electronsLeft.byPsi;
            above(1, 0) = electrons.byPsi;
            r(2) = holes.value - holesLeft.value + R;
            below(2, 2) = -holesLeft.byLeft;
            middle(2, 2) = holes.byLeft - holesLeft.byRight + byP;
            above(2, 2) = holes.byRight;
            middle(2, 1) = byN;
            below(2, 0) = holesLeft.byPsi;
            middle(2, 0) = -holes.byPsi - holesLeft.byPsi;
            above(2, 0) = holes.byPsi;
            // Rows of like size, by the diagonal.
            for (int row = 0; row < 3; ++row) {
                const Real f = 1 / std::abs(middle(row, row));
                below.row(row) *= f;
                middle.row(row) *= f;
                above.row(row) *= f;
                r(row) *= f;
            }
            const Block pivot = middle - below * ratio[i - 1];
            x[i] = solved3(pivot, Column(-r - below * x[i - 1]));
            ratio[i] = solved3(pivot, above);
            electronsLeft = electrons;
            holesLeft = holes;
        }
        x[n - 1].setZero();
        Real moved = 0, changed = 0;
        for (size_t i = n - 1; i-- > 1;) {
            x[i] -= ratio[i] * x[i + 1];
            moved = std::max(moved, std::abs(x[i](0)));
            changed = std::max({changed, std::abs(x[i](1)) / (std::abs(s.n[i]) + m_ni * 1e-6L),
                                std::abs(x[i](2)) / (std::abs(s.p[i]) + m_ni * 1e-6L)});
        }
        if (!std::isfinite(moved) || !std::isfinite(changed))
            return false;
        const Real damp = moved > 4 ? 4 / moved : 1;
        for (size_t i = 1; i + 1 < n; ++i) {
            s.psi[i] += damp * x[i](0);
            // Densities stay positive.
            constexpr Real least = 0.05L;
            s.n[i] = std::max(s.n[i] + damp * x[i](1), least * s.n[i]);
            s.p[i] = std::max(s.p[i] + damp * x[i](2), least * s.p[i]);
        }
        if (moved < 1e-13L && changed < 1e-10L)
            return true;
    }
    return false;
}

const JunctionState& LineGrid::at(double bias, base::Progress& progress) const
{
    if (const auto known = m_states.find(bias); known != m_states.end())
        return known->second;
    if (m_states.empty()) {
        JunctionState dark = equilibrium();
        // Where something is generated, even no bias is no equilibrium.
        if (!solve(dark))
            throw base::Error(7710, "no steady state was found without a bias");
        m_states.emplace(0.0, std::move(dark));
        return at(bias, progress);
    }
    // From the nearest state in steps that grow while they succeed.
    const auto nearest =
        std::min_element(m_states.begin(), m_states.end(), [bias](const auto& a, const auto& b) {
            return std::abs(a.first - bias) < std::abs(b.first - bias);
        });
    JunctionState s = nearest->second;
    double step = 2 * m_problem.thermal();
    while (s.bias != bias) {
        progress.check();
        JunctionState next = s;
        const double left = bias - s.bias;
        next.bias = std::abs(left) <= step ? bias : s.bias + std::copysign(step, left);
        if (solve(next)) {
            s = std::move(next);
            constexpr double largest = 1;  // V
            step = std::min(1.5 * step, largest);
        } else if (step *= 0.3; step < 1e-5) {
            throw base::Error(7710, "no steady state was found beyond " +
                                        base::format(s.bias, base::dim::voltage, 4));
        }
    }
    return m_states.emplace(bias, std::move(s)).first->second;
}

std::vector<Real> LineGrid::currents(const JunctionState& s) const
{
    std::vector<Real> list;
    for (size_t c = 0; c < m_layer.size(); ++c)
        list.push_back(Real(elementary * m_problem.area) * m_scale *
                       (electronFlux(s, c).value + holeFlux(s, c).value));
    return list;
}

Real LineGrid::sizeAt(const JunctionState& s, size_t c) const
{
    const Flux e = electronFlux(s, c), h = holeFlux(s, c);
    return std::abs(e.byLeft * s.n[c]) + std::abs(e.byRight * s.n[c + 1]) +
           std::abs(h.byLeft * s.p[c]) + std::abs(h.byRight * s.p[c + 1]);
}

double LineGrid::current(double bias, base::Progress& progress) const
{
    const JunctionState& s = at(bias, progress);
    const std::vector<Real> all = currents(s);
    // Where drift and diffusion cancel least: the least conducting place.
    size_t best = 0;
    Real least = 0;
    for (size_t c = 0; c < all.size(); ++c) {
        const Real size = sizeAt(s, c);
        if (c == 0 || size < least) {
            least = size;
            best = c;
        }
    }
    // Along x; what goes in at the right flows the other way.
    return double(m_problem.biasLeft ? all[best] : -all[best]);
}

double LineGrid::unevenness(double bias, base::Progress& progress) const
{
    const JunctionState& s = at(bias, progress);
    const std::vector<Real> all = currents(s);
    const Real mean = Real(current(bias, progress)) * (m_problem.biasLeft ? 1 : -1);
    Real off = 0;
    // Beyond what rounding leaves of drift and diffusion where they cancel.
    constexpr Real rounding = 1e-16L;
    for (size_t c = 0; c < all.size(); ++c)
        off = std::max(off, std::abs(all[c] - mean) - rounding * Real(elementary * m_problem.area) *
                                                          m_scale * sizeAt(s, c));
    return mean != 0 ? double(off / std::abs(mean)) : 0;
}

double LineGrid::holeCharge(double bias, base::Progress& progress) const
{
    const JunctionState& s = at(bias, progress);
    Real sum = 0;
    for (size_t c = 0; c < m_layer.size(); ++c)
        sum += (m_x[c + 1] - m_x[c]) * (s.p[c] + s.p[c + 1]) / 2;
    return double(sum * m_scale) * elementary * m_problem.area;
}

double LineGrid::builtIn(base::Progress& progress) const
{
    const JunctionState& s = at(0, progress);
    return std::abs(double(s.psi.front() - s.psi.back())) * m_problem.thermal();
}

std::vector<std::array<double, 7>> LineGrid::bands(double bias, base::Progress& progress) const
{
    const JunctionState& s = at(bias, progress);
    const double Vt = m_problem.thermal(), gap = m_problem.material.gapAt(m_problem.temperature),
                 skew = m_problem.material.skew(Vt);
    std::vector<std::array<double, 7>> list;
    for (size_t i = 0; i < m_x.size(); ++i) {
        const double middle = -double(s.psi[i]) * Vt, n = double(s.n[i] / m_ni),
                     p = double(s.p[i] / m_ni);
        list.push_back({double(m_x[i]), middle + gap / 2 + skew, middle - gap / 2 + skew,
                        middle + Vt * std::log(n), middle - Vt * std::log(p),
                        double(s.n[i] * m_scale), double(s.p[i] * m_scale)});
    }
    return list;
}

}  // namespace yh::physics
