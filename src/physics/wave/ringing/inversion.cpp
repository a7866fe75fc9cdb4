// Damped oscillations in samples over time.
#include "fem/dense.h"
#include "physics/common/constants.h"
#include "physics/wave/ringing/ringing.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

namespace {

using Complex = std::complex<double>;

/// The band about its middle, filtered, with fewer samples.
struct Narrow
{
    double rate = 0;  ///< Hz
    std::vector<Eigen::VectorXcd> trace;
};

/** A trace moved down by the middle of the band and thinned out. */
Eigen::VectorXcd thinned(const std::vector<float>& trace, const std::vector<double>& weight,
                         size_t first, size_t stride, double turnBy)
{
    const size_t n = (trace.size() - first - weight.size()) / stride;
    Eigen::VectorXcd samples(static_cast<Eigen::Index>(n));
    for (size_t s = 0; s < n; ++s) {
        Complex sum = 0;
        const size_t begin = first + s * stride;
        const Complex turn = std::polar(1.0, turnBy);
        Complex at = std::polar(1.0, turnBy * double(begin));
        for (size_t i = 0; i < weight.size(); ++i) {
            sum += weight[i] * double(trace[begin + i]) * at;
            at *= turn;
        }
        samples[Eigen::Index(s)] = sum;
    }
    return samples;
}

/** What is left of the pulse by rounding is none that rings, and what is faint beside the rest
 is mostly that. */
void keepLoud(const std::vector<std::vector<float>>& traces, Narrow& out)
{
    float loudest = 0;
    double most = 0;
    for (const auto& trace : traces)
        for (const float x : trace)
            loudest = std::max(loudest, std::abs(x));
    for (const auto& t : out.trace)
        most = std::max(most, t.norm());
    constexpr double silent = 1e-6, faint = 1e-3;
    std::erase_if(out.trace, [&](const Eigen::VectorXcd& t) {
        return !(t.norm() > silent * double(loudest) * std::sqrt(double(t.size())) &&
                 t.norm() > faint * most);
    });
    for (auto& t : out.trace)
        t /= most;
}

Narrow narrowed(const std::vector<std::vector<float>>& traces, double dt, size_t first, double low,
                double high)
{
    const double band = high - low, middle = (low + high) / 2;
    // Passed to 0.6 of the band on either side, stopped from 1.25, half of the new rate.
    constexpr double cut = 0.9, newRate = 2.5, length = 12;
    Narrow out;
    const auto stride = size_t(std::max(1.0, std::floor(1 / (newRate * band * dt))));
    out.rate = 1 / (double(stride) * dt);
    const auto taps = size_t(length / (band * dt));
    std::vector<double> weight(taps);
    for (size_t i = 0; i < taps; ++i) {
        const double x = (double(i) + 0.5) / double(taps), t = (x - 0.5) * double(taps) * dt,
                     arg = 2 * pi * cut * band * t;
        // Blackman and Harris's window of four terms.
        const double window = 0.35875 - 0.48829 * std::cos(2 * pi * x) +
                              0.14128 * std::cos(4 * pi * x) - 0.01168 * std::cos(6 * pi * x);
        weight[i] = window * (std::abs(arg) < 1e-9 ? 1 : std::sin(arg) / arg) * dt * band;
    }
    for (const auto& trace : traces) {
        if (trace.size() < first + taps + stride)
            return out;
        out.trace.push_back(thinned(trace, weight, first, stride, -2 * pi * middle * dt));
    }
    keepLoud(traces, out);
    return out;
}

}  // namespace

std::vector<Ring> ringsOf(const std::vector<std::vector<float>>& traces, double dt, size_t first,
                          double low, double high)
{
    const Narrow narrow = narrowed(traces, dt, first, low, high);
    if (narrow.trace.empty())
        return {};
    const Eigen::Index n = narrow.trace.front().size();
    constexpr Eigen::Index widest = 120;
    const Eigen::Index width = std::min(widest, n / 2);
    if (width < 3)
        return {};
    Eigen::MatrixXcd moments = Eigen::MatrixXcd::Zero(width, width);
    for (const auto& t : narrow.trace)
        for (Eigen::Index s = 0; s + width <= n; ++s)
            moments.noalias() += t.segment(s, width) * t.segment(s, width).adjoint();
    const fem::ComplexEigen eigen = fem::complexEigen(moments);
    std::vector<Eigen::Index> order(static_cast<size_t>(width));
    for (size_t i = 0; i < order.size(); ++i)
        order[i] = Eigen::Index(i);
    std::sort(order.begin(), order.end(), [&](Eigen::Index a, Eigen::Index b) {
        return eigen.value[a].real() > eigen.value[b].real();
    });
    // Fewer oscillations than half of the numbers: the lower half is what rounding leaves, and what
    // does not stand well above it would be many that are none.
    constexpr double noise = 1e-12, above = 300;
    auto power = [&](Eigen::Index k) { return eigen.value[order[size_t(k)]].real(); };
    const double floor = std::max(noise * power(0), above * std::abs(power(width / 2)));
    Eigen::Index count = 0;
    while (count < width - 1 && power(count) > floor)
        ++count;
    if (count == 0)
        return {};
    Eigen::MatrixXcd span(width, count);
    for (Eigen::Index c = 0; c < count; ++c)
        span.col(c) = eigen.vector.col(order[size_t(c)]);
    const Eigen::MatrixXcd upper = span.topRows(width - 1), lower = span.bottomRows(width - 1);
    const Eigen::MatrixXcd shift = fem::solved(upper.adjoint() * upper, upper.adjoint() * lower);
    const Eigen::VectorXcd z = fem::complexEigen(shift).value;
    // How strong each is in all traces together.
    Eigen::MatrixXcd powers(n, count);
    for (Eigen::Index c = 0; c < count; ++c) {
        // What grows fast is none that rings, and would overflow.
        const Complex step = z[c] / std::max(1.0, std::abs(z[c]));
        Complex p = 1;
        for (Eigen::Index s = 0; s < n; ++s, p *= step)
            powers(s, c) = p;
    }
    const Eigen::MatrixXcd normal = powers.adjoint() * powers;
    std::vector<double> strength(static_cast<size_t>(count), 0.0);
    for (const auto& t : narrow.trace) {
        const Eigen::MatrixXcd a = fem::solved(normal, powers.adjoint() * t);
        for (Eigen::Index c = 0; c < count; ++c)
            strength[size_t(c)] += std::norm(a(c, 0)) * normal(c, c).real();
    }
    const double most = *std::max_element(strength.begin(), strength.end());
    std::vector<Ring> list;
    for (Eigen::Index c = 0; c < count; ++c) {
        const Complex s = std::log(z[c]) * narrow.rate;
        Ring r{(low + high) / 2 + s.imag() / (2 * pi), -s.real(), strength[size_t(c)] / most};
        constexpr double faintest = 1e-6, lowestQ = 0.6, growth = 1e-3;
        if (r.frequency < low || r.frequency > high || r.strength < faintest ||
            r.decay > pi * r.frequency / lowestQ || r.decay < -growth * pi * r.frequency)
            continue;
        list.push_back(r);
    }
    std::sort(list.begin(), list.end(),
              [](const Ring& a, const Ring& b) { return a.frequency < b.frequency; });
    return list;
}

}  // namespace yh::physics
