#include "physics/junction/drawn/carriers.h"

#include "base/fault.h"
#include "base/quantity.h"
#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

void CarrierGrid::add(int row, int column, double value) const
{
    const auto first = m_matrix.column.begin() + m_matrix.start[size_t(row)],
               last = m_matrix.column.begin() + m_matrix.start[size_t(row) + 1];
    m_matrix.value[size_t(std::lower_bound(first, last, column) - m_matrix.column.begin())] +=
        value;
}

double CarrierGrid::voltage(const State& s, int contact) const
{
    if (contact < 0)
        return 0;
    const double v = contact == m_problem.swept
                         ? s.bias
                         : s.strength * m_problem.contacts[size_t(contact)].voltage;
    return v / m_problem.thermal();
}

double CarrierGrid::density(const State& s, int node, int carrier) const
{
    const size_t k = size_t(node);
    const double level =
        reference(s, node, carrier) + (carrier == electrons ? s.electrons[k] : s.holes[k]);
    return m_ni * std::exp(carrier == electrons ? s.psi[k] - level : level - s.psi[k]);
}

CarrierGrid::Flux CarrierGrid::flux(const State& s, const Edge& e, int carrier) const
{
    // Holes are electrons in the opposite potential.
    const double sign = carrier == electrons ? 1 : -1;
    const auto& levels = carrier == electrons ? s.electrons : s.holes;
    const double d = sign * (s.psi[size_t(e.to)] - s.psi[size_t(e.from)]),
                 k = carrier == electrons ? e.electrons : e.holes,
                 rise = sign * ((reference(s, e.to, carrier) - reference(s, e.from, carrier)) +
                                (levels[size_t(e.to)] - levels[size_t(e.from)]));
    const Bernoulli<double> b(d), back(-d);
    const double in = k * b.value * density(s, e.to, carrier),
                 out = k * back.value * density(s, e.from, carrier);
    // Both flows differ by the factor exp(-rise): what is left of them has no cancelling.
    const double value = rise > 0 ? out * std::expm1(-rise) : -in * std::expm1(rise);
    return {value, -out, in,
            sign * k *
                (density(s, e.to, carrier) * b.slope + density(s, e.from, carrier) * back.slope)};
}

void CarrierGrid::setContacts(State& s) const
{
    for (size_t k = 0; k < m_nodes.size(); ++k) {
        const Node& n = m_nodes[k];
        if (n.contact < 0)
            continue;
        const double v = voltage(s, n.contact);
        s.psi[k] = v + std::asinh(n.net / (2 * m_ni));
        s.electrons[k] = v - reference(s, int(k), electrons);
        s.holes[k] = v - reference(s, int(k), holes);
    }
}

CarrierGrid::State CarrierGrid::equilibrium() const
{
    // Poisson's equation alone, with all levels at zero.
    State s;
    s.strength = 0;
    const size_t n = m_nodes.size();
    s.psi.resize(n);
    s.electrons.assign(n, 0.0);
    s.holes.assign(n, 0.0);
    for (size_t k = 0; k < n; ++k)
        s.psi[k] = std::asinh(m_nodes[k].net / (2 * m_ni));
    fem::SparseRows A;
    A.size = m_matrix.size / 3;
    A.start.assign(1, 0);
    for (int row = 0; row < A.size; ++row) {
        for (int k = m_matrix.start[size_t(3 * row)]; k < m_matrix.start[size_t(3 * row) + 1]; ++k)
            if (m_matrix.column[size_t(k)] % 3 == 0)
                A.column.push_back(m_matrix.column[size_t(k)] / 3);
        A.start.push_back(int(A.column.size()));
    }
    auto put = [&A](int row, int column, double value) {
        const auto first = A.column.begin() + A.start[size_t(row)],
                   last = A.column.begin() + A.start[size_t(row) + 1];
        A.value[size_t(std::lower_bound(first, last, column) - A.column.begin())] += value;
    };
    fem::Fronts fronts(A, m_blocks);
    std::vector<double> r;
    constexpr int most = 200;
    for (int step = 0; step < most; ++step) {
        A.value.assign(A.column.size(), 0.0);
        r.assign(size_t(A.size), 0.0);
        for (size_t k = 0; k < n; ++k) {
            if (m_place[k] < 0)
                continue;
            const double e = m_ni * std::exp(s.psi[k]), p = m_ni * std::exp(-s.psi[k]);
            r[size_t(m_place[k])] -= (p - e + m_nodes[k].net) * m_nodes[k].volume;
            put(m_place[k], m_place[k], -(p + e) * m_nodes[k].volume);
        }
        for (const Edge& e : m_edges) {
            const double g = m_poisson * e.field,
                         flow = g * (s.psi[size_t(e.to)] - s.psi[size_t(e.from)]);
            const int a = m_place[size_t(e.from)], b = m_place[size_t(e.to)];
            if (a >= 0) {
                r[size_t(a)] -= flow;
                put(a, a, -g);
            }
            if (b >= 0) {
                r[size_t(b)] += flow;
                put(b, b, -g);
            }
            if (a >= 0 && b >= 0) {
                put(a, b, g);
                put(b, a, g);
            }
        }
        fronts.factorise(A);
        fronts.solve(r);
        double largest = 0;
        for (const double x : r)
            largest = std::max(largest, std::abs(x));
        const double damp = largest > 2 ? 2 / largest : 1;
        for (size_t k = 0; k < n; ++k)
            if (m_place[k] >= 0)
                s.psi[k] += damp * r[size_t(m_place[k])];
        if (largest < 1e-12)
            break;
    }
    return s;
}

/// Charge and recombination of the nodes.
void CarrierGrid::addNodes(const State& s) const
{
    for (size_t k = 0; k < m_nodes.size(); ++k) {
        const int row = 3 * m_place[k];
        if (row < 0)
            continue;
        const Node& node = m_nodes[k];
        const double n = density(s, int(k), electrons), p = density(s, int(k), holes);
        m_right[size_t(row)] -= (p - n + node.net) * node.volume;
        add(row, row + 1, -n * node.volume);
        add(row, row + 2, p * node.volume);
        double R = -s.strength * node.generation, byN = 0, byP = 0;
        for (const auto& part : node.parts) {
            const Recombination<double> r(m_problem, part.life, m_scale, m_ni, n, p);
            R += part.volume * r.value;
            byN += part.volume * r.byN;
            byP += part.volume * r.byP;
        }
        for (const int carrier : {1, 2}) {
            m_right[size_t(row + carrier)] += R;
            add(row + carrier, row + 1, -byN * n);
            add(row + carrier, row + 2, -byP * p);
        }
    }
}

void CarrierGrid::assemble(const State& s) const
{
    std::fill(m_matrix.value.begin(), m_matrix.value.end(), 0.0);
    std::fill(m_right.begin(), m_right.end(), 0.0);
    addNodes(s);
    for (const Edge& e : m_edges) {
        const int a = 3 * m_place[size_t(e.from)], b = 3 * m_place[size_t(e.to)];
        const double g = m_poisson * e.field,
                     flow = g * (s.psi[size_t(e.to)] - s.psi[size_t(e.from)]);
        // What flows into one end leaves the other one.
        for (const int sign : {1, -1}) {
            const int row = sign > 0 ? a : b;
            if (row < 0)
                continue;
            m_right[size_t(row)] -= sign * flow;
            if (a >= 0)
                add(row, a, -sign * g);
            if (b >= 0)
                add(row, b, sign * g);
        }
        for (const int carrier : {electrons, holes}) {
            const Flux f = flux(s, e, carrier);
            for (const int sign : {1, -1}) {
                const int row = (sign > 0 ? a : b) + 1 + carrier;
                if (row <= carrier)
                    continue;
                m_right[size_t(row)] -= sign * f.value;
                if (a >= 0) {
                    add(row, a, -sign * f.byPsi);
                    add(row, a + 1 + carrier, sign * f.byFrom);
                }
                if (b >= 0) {
                    add(row, b, sign * f.byPsi);
                    add(row, b + 1 + carrier, sign * f.byTo);
                }
            }
        }
    }
}

/// Moves a state by the solution of a step.
void CarrierGrid::apply(State& s, double damp) const
{
    for (size_t k = 0; k < m_nodes.size(); ++k) {
        const int row = 3 * m_place[k];
        if (row < 0)
            continue;
        const double psi = damp * m_right[size_t(row)];
        s.psi[k] += psi;
        // Densities stay positive; levels follow from their relative change.
        constexpr double least = -0.95;
        s.electrons[k] += psi - std::log1p(std::max(least, damp * m_right[size_t(row + 1)]));
        s.holes[k] += psi + std::log1p(std::max(least, damp * m_right[size_t(row + 2)]));
    }
}

bool CarrierGrid::solve(State& s) const
{
    setContacts(s);
    constexpr int most = 25;
    for (int step = 0; step < most; ++step) {
        assemble(s);
        m_fronts->factorise(m_matrix);
        m_fronts->solve(m_right);
        double moved = 0, changed = 0;
        for (size_t k = 0; k < m_nodes.size(); ++k) {
            const int row = 3 * m_place[k];
            if (row < 0)
                continue;
            moved = std::max(moved, std::abs(m_right[size_t(row)]));
            for (const int carrier : {electrons, holes}) {
                const double share = m_right[size_t(row + 1 + carrier)],
                             n = density(s, int(k), carrier);
                changed = std::max(changed, std::abs(share) * n / (n + 1e-6 * m_ni));
            }
        }
        if (!std::isfinite(moved) || !std::isfinite(changed))
            return false;
        const double longest = 10 + 0.03 * std::abs(s.bias) / m_problem.thermal(),
                     damp = moved > longest ? longest / moved : 1;
        apply(s, damp);
        // The next step would change the square of it.
        if (moved < 1e-5 && changed < 1e-5)
            return true;
    }
    return false;
}

void CarrierGrid::predict(State& next, const State& s, const State* before) const
{
    const double ratio =
        before && s.bias != before->bias ? (next.bias - s.bias) / (s.bias - before->bias) : 0;
    constexpr double farthest = 3;
    if (ratio > 0 && ratio <= farthest) {
        // On as it went.
        auto go = [ratio](std::vector<double>& to, const std::vector<double>& from) {
            for (size_t k = 0; k < to.size(); ++k)
                to[k] += ratio * (to[k] - from[k]);
        };
        go(next.psi, before->psi);
        go(next.electrons, before->electrons);
        go(next.holes, before->holes);
        return;
    }
    // Where majority carriers come from a contact, the potential goes with it.
    for (size_t k = 0; k < m_nodes.size(); ++k) {
        const int carrier = m_nodes[k].net >= 0 ? electrons : holes;
        next.psi[k] += reference(next, int(k), carrier) - reference(s, int(k), carrier);
    }
}

CarrierGrid::State CarrierGrid::follow(State s, const State* before, const Path& path,
                                       base::Progress& progress) const
{
    // Steps that grow while they succeed.
    State last;
    double done = 0, step = path.first;
    while (done < path.length) {
        progress.check();
        const double to = std::min(path.length, done + step);
        State next = s;
        path.set(next, to);
        predict(next, s, before);
        bool isSolved = false;
        try {
            isSolved = solve(next);
        } catch (const base::Error&) {
            // A singular step is one that was too long.
        }
        if (isSolved) {
            last = std::move(s);
            before = &last;
            s = std::move(next);
            done = to;
            step = std::min(1.7 * step, path.largest);
        } else {
            before = nullptr;
            step *= 0.3;
            if (step < path.least)
                throw base::Error(7710, "no steady state was found beyond " +
                                            base::format(s.bias, base::dim::voltage, 4));
        }
    }
    return s;
}

CarrierGrid::State CarrierGrid::unbiased(base::Progress& progress) const
{
    State s = equilibrium();
    const bool isDriven =
        m_problem.isLit || std::any_of(m_problem.contacts.begin(), m_problem.contacts.end(),
                                       [](const auto& c) { return c.voltage != 0; });
    // What is held and generated grows by factors of ten.
    constexpr double decades = 9, step = 3, least = 1e-3;
    if (isDriven)
        s = follow(std::move(s), nullptr,
                   {decades, step, step, least,
                    [](State& next, double to) { next.strength = std::pow(10.0, to - decades); }},
                   progress);
    s.strength = 1;
    if (!solve(s))
        throw base::Error(7710, "no steady state was found without a bias");
    return s;
}

const CarrierGrid::State& CarrierGrid::at(double bias, base::Progress& progress) const
{
    if (const auto known = m_states.find(bias); known != m_states.end())
        return known->second;
    if (m_states.empty())
        m_states.emplace(0.0, unbiased(progress));
    if (bias == 0)
        return m_states.begin()->second;
    const auto nearest =
        std::min_element(m_states.begin(), m_states.end(), [bias](const auto& a, const auto& b) {
            return std::abs(a.first - bias) < std::abs(b.first - bias);
        });
    const double from = nearest->first, sign = bias > from ? 1 : -1, length = std::abs(bias - from);
    // The state behind it, as one comes from there.
    const State* before = nullptr;
    if (sign > 0 && nearest != m_states.begin())
        before = &std::prev(nearest)->second;
    if (sign < 0 && std::next(nearest) != m_states.end())
        before = &std::next(nearest)->second;
    constexpr double largest = 30, least = 1e-5;  // V
    const double first =
        before ? std::abs(nearest->first - before->bias) : 16 * m_problem.thermal();
    State s = follow(
        nearest->second, before,
        {length, std::clamp(first, 4 * m_problem.thermal(), largest), largest, least,
         [&](State& next, double to) { next.bias = to == length ? bias : from + sign * to; }},
        progress);
    return m_states.emplace(bias, std::move(s)).first->second;
}

double CarrierGrid::currentOf(size_t contact, double bias, base::Progress& progress) const
{
    const State& s = at(bias, progress);
    double sum = 0;
    for (const Edge& e : m_edges) {
        const bool begins = m_nodes[size_t(e.from)].contact == int(contact),
                   ends = m_nodes[size_t(e.to)].contact == int(contact);
        if (begins == ends)
            continue;
        const double into = flux(s, e, electrons).value - flux(s, e, holes).value;
        sum += begins ? into : -into;
    }
    return elementary * m_scale * sum;
}

double CarrierGrid::current(double bias, base::Progress& progress) const
{
    return currentOf(size_t(m_problem.swept), bias, progress);
}

double CarrierGrid::unevenness(double bias, base::Progress& progress) const
{
    double sum = 0, size = 0;
    for (size_t c = 0; c < m_problem.contacts.size(); ++c) {
        const double I = currentOf(c, bias, progress);
        sum += I;
        size = std::max(size, std::abs(I));
    }
    return size > 0 ? std::abs(sum) / size : 0;
}

double CarrierGrid::holeCharge(double bias, base::Progress& progress) const
{
    const State& s = at(bias, progress);
    double sum = 0;
    for (size_t k = 0; k < m_nodes.size(); ++k)
        sum += m_nodes[k].volume * density(s, int(k), holes);
    return sum * m_scale * elementary;
}

double CarrierGrid::builtIn(base::Progress&) const
{
    auto inside = [&](bool swept) {
        for (const Node& n : m_nodes)
            if (n.contact >= 0 && (n.contact == m_problem.swept) == swept)
                return std::asinh(n.net / (2 * m_ni));
        return 0.0;
    };
    return std::abs(inside(true) - inside(false)) * m_problem.thermal();
}

std::vector<std::array<double, 2>> CarrierGrid::densities(const State& s) const
{
    // Means of the edges on either side, by their faces.
    std::vector<std::array<double, 2>> sum(m_nodes.size()), face(m_nodes.size());
    for (const Edge& e : m_edges) {
        const size_t axis = m_nodes[size_t(e.from)].row == m_nodes[size_t(e.to)].row ? 0 : 1;
        const double current =
            elementary * m_scale * (flux(s, e, electrons).value - flux(s, e, holes).value);
        for (const int end : {e.from, e.to}) {
            sum[size_t(end)][axis] += current;
            face[size_t(end)][axis] += e.face;
        }
    }
    for (size_t k = 0; k < sum.size(); ++k)
        for (const size_t axis : {size_t(0), size_t(1)})
            sum[k][axis] = face[k][axis] > 0 ? sum[k][axis] / face[k][axis] : 0;
    return sum;
}

namespace {

/** The interval of rising lines that holds `x`. */
size_t cellOf(const std::vector<double>& lines, double x)
{
    const auto next = std::upper_bound(lines.begin(), lines.end(), x) - lines.begin();
    return size_t(std::clamp<std::ptrdiff_t>(next - 1, 0, std::ptrdiff_t(lines.size()) - 2));
}

}  // namespace

CarrierGrid::Values CarrierGrid::stated(double psi, const double* levels, const double* J) const
{
    const double vt = m_problem.thermal(), gap = m_problem.material.gapAt(m_problem.temperature),
                 skew = m_problem.material.skew(vt);
    return {psi * vt,
            -psi * vt + gap / 2 + skew,
            -psi * vt - gap / 2 + skew,
            -levels[electrons] * vt,
            -levels[holes] * vt,
            m_ni * m_scale * std::exp(psi - levels[electrons]),
            m_ni * m_scale * std::exp(levels[holes] - psi),
            J[0],
            J[1]};
}

CarrierGrid::Values CarrierGrid::at(const Point& p, double bias, base::Progress& progress) const
{
    const State& s = at(bias, progress);
    auto known = m_densities.find(bias);
    if (known == m_densities.end())
        known = m_densities.emplace(bias, densities(s)).first;

    const size_t i = cellOf(m_x, p.x), j = cellOf(m_y, p.y);
    const double u = std::clamp((p.x - m_x[i]) / (m_x[i + 1] - m_x[i]), 0.0, 1.0),
                 v = std::clamp((p.y - m_y[j]) / (m_y[j + 1] - m_y[j]), 0.0, 1.0);
    // Potential and levels between the corners of the cell that carry something.
    double all = 0, psi = 0, levels[2] = {0, 0}, J[2] = {0, 0};
    for (const size_t b : {size_t(0), size_t(1)})
        for (const size_t a : {size_t(0), size_t(1)}) {
            const int k = m_node[(j + b) * m_x.size() + i + a];
            if (k < 0)
                continue;
            const double share = std::max(1e-9, (a ? u : 1 - u) * (b ? v : 1 - v));
            all += share;
            psi += share * s.psi[size_t(k)];
            levels[electrons] += share * (reference(s, k, electrons) + s.electrons[size_t(k)]);
            levels[holes] += share * (reference(s, k, holes) + s.holes[size_t(k)]);
            for (const size_t axis : {size_t(0), size_t(1)})
                J[axis] += share * known->second[size_t(k)][axis];
        }
    if (all == 0)
        return {};
    psi /= all;
    for (const int carrier : {electrons, holes})
        levels[carrier] /= all;
    for (double& part : J)
        part /= all;
    return stated(psi, levels, J);
}

}  // namespace yh::physics
