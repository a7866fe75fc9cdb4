// Figures of elastic and piezoelectric bodies.
#include "physics/common/constants.h"
#include "physics/elastic/elastic.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace yh::physics {

using Complex = std::complex<double>;
using Task = ElasticProblem::Task;

namespace {

/// Equivalent stress of one real state: xx, yy, zz, xy.
double vonMises(const Eigen::Vector4d& T)
{
    return std::sqrt(0.5 * (squared(T(0) - T(1)) + squared(T(1) - T(2)) + squared(T(2) - T(0))) +
                     3 * squared(T(3)));
}

/// x^T A x for a symmetric matrix of a family and complex x: x^H A x, which is real.
double energyOf(const fem::SymmetricFamily& f, size_t term, const std::vector<Complex>& x)
{
    std::vector<double> re, im, y;
    for (const Complex& v : x) {
        re.push_back(v.real());
        im.push_back(v.imag());
    }
    double sum = 0;
    for (const auto& part : {re, im}) {
        fem::multiplySymmetric<double>(f.start, f.row, f.value[term], part, y);
        for (size_t i = 0; i < y.size(); ++i)
            sum += part[i] * y[i];
    }
    return sum;
}

/** What is left of the charge over the voltage far from all resonances. */
Complex chargeAside(const fem::BandResponse& r, int p, double aside)
{
    Complex rest = -r.flows(aside)(p, p);
    for (const auto& pole : r.poles())
        rest += pole.residue(p, p) / (pole.at - aside);
    return rest;
}

/** Antiresonances: poles with the electrode left free, each the next above its resonance. */
void addParallel(std::vector<Complex> open, const std::vector<Complex>& alone,
                 const std::vector<Complex>& at, double high,
                 std::vector<ElectricalResonance>& list)
{
    for (const Complex& a : alone)
        if (!open.empty())
            open.erase(std::min_element(
                open.begin(), open.end(),
                [&a](const auto& b, const auto& c) { return std::abs(b - a) < std::abs(c - a); }));
    for (size_t k = 0; k < list.size(); ++k) {
        list[k].parallel = std::numeric_limits<double>::quiet_NaN();
        for (const Complex& o : open)
            if (o.real() > at[k].real() && o.real() < high) {
                list[k].parallel = std::sqrt(o.real()) / (2 * pi);
                break;
            }
    }
}

/** A resonance as L1, C1, R1 in series beside C0. */
ElectricalResonance circuitOf(const Complex& at, double C0, double C1, double scale)
{
    const double lambda = at.real();
    ElectricalResonance e;
    e.series = std::sqrt(lambda) / (2 * pi);
    e.quality = at.imag() > 0 ? lambda / at.imag() : std::numeric_limits<double>::infinity();
    e.C0 = scale * C0;
    e.C1 = scale * C1;
    e.L1 = 1 / (scale * C1 * lambda);
    e.R1 = std::max(0.0, at.imag()) / std::sqrt(lambda) * e.L1;
    return e;
}

}  // namespace

void ElasticSolver::nameQuantities()
{
    const bool hasPotential = m_problem.isPiezo() || !m_problem.electrodes.empty();
    auto displacement = [this](const std::string& name, const std::string& label) {
        m_quantities.push_back({name, label, "m", 3, {}, m_quantities.empty(), true});
    };
    if (m_problem.task == Task::modes) {
        const int shown = m_problem.modes;
        for (int k = 0; k < shown; ++k)
            displacement(shown == 1 ? "u" : "u " + std::to_string(k + 1),
                         "displacement of mode " + std::to_string(k + 1));
        return;
    }
    const bool band = m_problem.task == Task::band;
    displacement("u", band ? "displacement in phase" : "displacement");
    if (band)
        displacement("u ahead", "displacement, a quarter ahead");
    if (hasPotential)
        m_quantities.push_back(
            {"V", band ? "potential in phase" : "potential", "V", 1, "equipotentials"});
    if (hasPotential && band)
        m_quantities.push_back({"V ahead", "potential, a quarter ahead", "V", 1, {}});
    m_quantities.push_back(
        {"σ", band ? "equivalent stress (peak)" : "equivalent stress", "Pa", 1, {}});
}

std::vector<Axis> ElasticSolver::axes() const
{
    if (m_problem.task != Task::modes)
        return {};
    std::vector<std::string> labels;
    for (int k = 0; k < std::min(m_problem.modes, modeCount()); ++k)
        labels.push_back(base::format(modeFrequency(order(), k), base::dim::frequency, 5));
    return {modeAxis(quantities(), "u", labels)};
}

ElasticSolver::State ElasticSolver::shownState() const
{
    return {0, m_problem.task == Task::band ? m_shown : 0.0};
}

std::array<Complex, 2> ElasticSolver::displacement(int order, const State& state, int cell,
                                                   const Point& xi) const
{
    const Fields& f = fields(order, state);
    auto of = [&](int c) {
        return Complex(m_space.value(f.real[c], order, cell, xi),
                       m_space.value(f.imaginary[c], order, cell, xi));
    };
    return {of(ElasticProblem::x), of(ElasticProblem::y)};
}

Complex ElasticSolver::potential(int order, const State& state, int cell, const Point& xi) const
{
    const Fields& f = fields(order, state);
    constexpr auto c = ElasticProblem::potential;
    return {m_space.value(f.real[c], order, cell, xi),
            m_space.value(f.imaginary[c], order, cell, xi)};
}

Eigen::Matrix<Complex, 6, 1> ElasticSolver::strains(const Fields& f, int order, int cell,
                                                    const Point& xi) const
{
    auto gradient = [&](int c) {
        const Point a = m_space.gradient(f.real[c], order, cell, xi),
                    b = m_space.gradient(f.imaginary[c], order, cell, xi);
        return std::array{Complex(a.x, b.x), Complex(a.y, b.y)};
    };
    const auto x = gradient(0), y = gradient(1), V = gradient(2);
    Eigen::Matrix<Complex, 6, 1> s;
    s << x[0], y[1], 0.0, x[1] + y[0], V[0], V[1];
    if (m_problem.isAxisymmetric()) {
        // On the axis u_r / r is its slope.
        const double r = mesh::Geometry(m_mesh, cell).at(xi).x;
        s(2) = r > 1e-9 * m_partition.size()
                   ? Complex(m_space.value(f.real[0], order, cell, xi),
                             m_space.value(f.imaginary[0], order, cell, xi)) /
                         r
                   : x[0];
    }
    return s;
}

Eigen::Vector4cd ElasticSolver::stress(int order, const State& state, int cell,
                                       const Point& xi) const
{
    const ElasticMedium& m = m_problem.media[size_t(m_mesh.piece[size_t(cell)])];
    const auto s = strains(fields(order, state), order, cell, xi);
    return m.c * s.head<4>() + m.e.transpose() * s.tail<2>();
}

double ElasticSolver::equivalentStress(int order, const State& state, int cell,
                                       const Point& xi) const
{
    const Eigen::Vector4cd T = stress(order, state, cell, xi);
    return std::hypot(vonMises(T.real()), vonMises(T.imag()));
}

Extreme ElasticSolver::largestStress(int order, const State& state,
                                     const std::vector<int>& pieces) const
{
    return largestOf(
        m_mesh, flags(pieces, m_partition.pieces().size()),
        [&](int cell, const Point& xi) { return equivalentStress(order, state, cell, xi); });
}

void ElasticSolver::sample(int cell, const Point& xi, double* values) const
{
    const int p = order();
    if (m_problem.task == Task::modes) {
        for (int k = 0; k < m_problem.modes; ++k, values += 3) {
            const auto u = displacement(p, {k, 0}, cell, xi);
            values[0] = u[0].real();
            values[1] = u[1].real();
            values[2] = 0;
        }
        return;
    }
    const State state = shownState();
    const auto u = displacement(p, state, cell, xi);
    const bool band = m_problem.task == Task::band,
               moves = m_problem.media[size_t(m_mesh.piece[size_t(cell)])].moves;
    auto put = [&values](double a, double b) {
        *values++ = a;
        *values++ = b;
        *values++ = 0;
    };
    put(u[0].real(), u[1].real());
    if (band)
        put(-u[0].imag(), -u[1].imag());
    if (m_problem.isPiezo() || !m_problem.electrodes.empty()) {
        const Complex V = potential(p, state, cell, xi);
        *values++ = V.real();
        if (band)
            *values++ = -V.imag();
    }
    *values = moves ? equivalentStress(p, state, cell, xi) : 0.0;
}

double ElasticSolver::energyDensity(const Fields& f, int order, int cell, const Point& xi) const
{
    const ElasticMedium& m = m_problem.media[size_t(m_mesh.piece[size_t(cell)])];
    const auto s = strains(f, order, cell, xi);
    double sum = 0;
    for (int part = 0; part < 2; ++part) {
        const Eigen::Matrix<double, 6, 1> x = part ? s.imag().eval() : s.real().eval();
        sum += 0.5 * x.head<4>().dot(m.c.real() * x.head<4>()) +
               0.5 * x.tail<2>().dot(m.eps.real() * x.tail<2>());
    }
    return sum;
}

std::vector<ElasticSolver::State> ElasticSolver::judgedStates() const
{
    std::vector<State> states;
    if (m_problem.task == Task::modes)
        for (int k = 0; k < std::min(m_problem.modes, modeCount()); ++k)
            states.push_back({k, 0});
    else if (m_problem.task == Task::band)
        for (const double f : m_problem.marked)
            states.push_back({0, f});
    if (states.empty() || m_problem.task == Task::band)
        states.push_back(shownState());
    return states;
}

double ElasticSolver::addedEnergy(int p, const Fields& f, std::vector<double>& own) const
{
    const int n = m_space.localCount(p), low = p > 1 ? m_space.localCount(p - 1) : 0;
    constexpr int F = ElasticProblem::count;
    std::vector<int> number(static_cast<size_t>(n));
    std::vector<double> sign(static_cast<size_t>(n)), x(size_t(n) * F), high(x.size()), y(x.size());
    double whole = 0;
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        m_space.local(t, number.data(), sign.data());
        for (const auto* of : {f.real, f.imaginary}) {
            for (int i = 0; i < n; ++i)
                for (int c = 0; c < F; ++c) {
                    const auto k = size_t(i * F + c);
                    x[k] = of[c][size_t(number[size_t(i)])];
                    high[k] = i < low ? 0.0 : x[k];
                }
            m_energy.multiply(t, n * F, x.data(), y.data());
            for (size_t k = 0; k < x.size(); ++k)
                whole += x[k] * y[k];
            m_energy.multiply(t, n * F, high.data(), y.data());
            for (size_t k = 0; k < x.size(); ++k)
                own[size_t(t)] += high[k] * y[k];
        }
    }
    return whole;
}

std::vector<double> ElasticSolver::indicator(bool) const
{
    if (m_energy.entries.empty())
        m_energy = fem::blockElements(m_space, ElasticProblem::count,
                                      elastic_form::of(m_problem, elastic_form::Part::energy),
                                      m_problem.area, m_problem.isAxisymmetric() ? 3 : 0);
    const std::vector<State> states = judgedStates();
    const int p = order();
    std::vector<double> sum(size_t(m_mesh.cellCount()), 0.0);
    for (const State& state : states) {
        const Fields& f = fields(p, state);
        std::vector<double> own(sum.size(), 0.0);
        const double whole = addedEnergy(p, f, own);
        for (size_t t = 0; t < sum.size() && whole > 0; ++t)
            sum[t] += own[t] / whole;
    }
    return sum;
}

double ElasticSolver::geometryError() const
{
    const Fields& f = fields(order(), shownState());
    double whole = 0, off = 0;
    const auto& rule = fem::cellRule(2, 4);
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule)
            whole += q.w * g.determinant(q.xi) * fem::measureAt(m_problem.area, g.at(q.xi)) *
                     energyDensity(f, order(), t, q.xi);
    }
    overCurvedSides(
        m_mesh, m_partition, [](int) { return true; },
        [&](const CurvedSide& c, const mesh::Geometry& g) {
            off += c.offset * fem::measureAt(m_problem.area, g.at(c.middle)) *
                   energyDensity(f, order(), c.cell, c.middle);
        });
    return whole > 0 ? off / whole : 0;
}

Complex ElasticSolver::charge(int order, const State& state, int electrode) const
{
    const auto& layout = m_block.layout(order);
    const int p = layout.bodyPlace[size_t(electrode)];
    if (p < 0)
        return 0;
    const Solved& s = solved(order);
    const std::vector<Complex>& x = fields(order, state).x;
    // The row of its own potential; what the equations leave there is minus its charge.
    Complex sum = 0;
    const auto& f = s.family;
    auto K = [&f](size_t k) { return Complex(f.value[0][k], f.value[1][k]); };
    for (int c = 0; c < p; ++c) {
        const auto from = f.row.begin() + f.start[size_t(c)],
                   to = f.row.begin() + f.start[size_t(c) + 1];
        if (const auto it = std::lower_bound(from, to, p); it != to && *it == p)
            sum += K(size_t(it - f.row.begin())) * x[size_t(c)];
    }
    for (auto k = size_t(f.start[size_t(p)]); k < size_t(f.start[size_t(p) + 1]); ++k)
        sum += K(k) * x[size_t(f.row[k])];
    // Media without losses while the state is steady.
    return -m_problem.scale * (m_problem.task == Task::band ? sum : Complex(sum.real()));
}

Complex ElasticSolver::admittance(int order, double frequency, int electrode) const
{
    const auto& layout = m_block.layout(order);
    const int p = layout.bodyPlace[size_t(electrode)] - layout.free;
    const double omega = 2 * pi * frequency;
    const Complex flow = response(order).flows(squared(omega))(p, p);
    return Complex(0, -omega) * flow * m_problem.scale;
}

const std::vector<ElectricalResonance>& ElasticSolver::resonances(int order, int electrode) const
{
    auto& known = solved(order).resonances;
    auto it = known.find(electrode);
    if (it == known.end())
        it = known.emplace(electrode, findResonances(order, electrode)).first;
    return it->second;
}

std::vector<ElectricalResonance> ElasticSolver::findResonances(int order, int electrode) const
{
    std::vector<ElectricalResonance> list;
    const auto& layout = m_block.layout(order);
    const int p = layout.bodyPlace[size_t(electrode)] - layout.free;
    if (p < 0)
        return list;
    const fem::BandResponse& r = response(order);
    const double low = squared(2 * pi * m_problem.low), high = squared(2 * pi * m_problem.high);
    const double scale = m_problem.scale;
    // What is left of the charge over the voltage far from all resonances.
    const Complex rest = chargeAside(r, p, 0.5 * (low + high));
    constexpr double couples = 1e-6;
    std::vector<Complex> alone;  // resonances that this electrode neither drives nor feels
    std::vector<Complex> at;
    for (size_t k = 0; k < r.poles().size(); ++k) {
        const auto& pole = r.poles()[k];
        const double lambda = pole.at.real();
        if (!(lambda > low && lambda < high))
            continue;
        Complex C0 = rest;
        for (size_t j = 0; j < r.poles().size(); ++j)
            if (j != k)
                C0 -= r.poles()[j].residue(p, p) / (r.poles()[j].at - lambda);
        const double strength = -pole.residue(p, p).real(), C1 = strength / lambda;
        if (!(C1 > couples * std::abs(C0))) {
            alone.push_back(pole.at);
            continue;
        }
        const ElectricalResonance e = circuitOf(pole.at, C0.real(), C1, scale);
        list.push_back(e);
        at.push_back(pole.at);
    }
    addParallel(r.polesWithFree(p), alone, at, high, list);
    return list;
}

double ElasticSolver::modeFrequency(int order, int mode) const
{
    return std::sqrt(std::max(0.0, solved(order).modes.value[size_t(mode)])) / (2 * pi);
}

double ElasticSolver::modeQuality(int order, int mode) const
{
    const Solved& s = solved(order);
    std::vector<Complex> x(s.modes.vector[size_t(mode)].begin(),
                           s.modes.vector[size_t(mode)].end());
    const double lost = energyOf(s.family, 1, x);
    return lost > 0 ? s.modes.value[size_t(mode)] * energyOf(s.family, 2, x) / lost
                    : std::numeric_limits<double>::infinity();
}

int ElasticSolver::modeCount() const
{
    return int(solved(order()).modes.value.size());
}

int ElasticSolver::rigidMotions() const
{
    return solved(order()).rigid;
}

ElasticSolver::Powers ElasticSolver::powers(double frequency) const
{
    const int p = order();
    const auto& layout = m_block.layout(p);
    const double omega = 2 * pi * frequency, half = 0.5 * omega * m_problem.scale;
    const Eigen::VectorXcd in = inputs(p);
    const std::vector<Complex>& x = fields(p, {0, frequency}).x;
    const Eigen::VectorXcd flow = response(p).flows(squared(omega)) * in;
    Powers out;
    for (Eigen::Index g = 0; g < flow.size(); ++g)
        out.in += half * std::imag(std::conj(in(g)) * flow(g));
    if (!m_problem.loads.empty()) {
        const std::vector<double> load = loadVector(p);
        for (size_t i = 0; i < size_t(layout.free); ++i)
            out.in += half * std::imag(std::conj(x[i]) * load[i]);
    }
    out.lost = half * energyOf(solved(p).family, 1, x);
    return out;
}

}  // namespace yh::physics
