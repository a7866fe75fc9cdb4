#include "physics/wave/common/wires.h"

#include "fem/edge.h"
#include "fem/quadrature.h"
#include "physics/common/constants.h"
#include "physics/wave/common/wire_shapes.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

using namespace thin;

namespace {

/// G * G * R^n for n = -1, 1, 3 and b = 1, by Chebyshev's polynomials on [0, 2].
class SmoothKernel
{
public:
    static const SmoothKernel& instance()
    {
        static const SmoothKernel one;
        return one;
    }
    /// Beyond 2: what the means of G make of R^n.
    [[nodiscard]] std::array<double, 3> at(double R) const
    {
        if (R >= 2) {
            // Of a pair of densities: <x^2> = 2 mean2, <x^4> = 2 mean4 + 10/3 mean2^2.
            const double second = 2 * mean2, fourth = 2 * mean4 + 10 * mean2 * mean2 / 3;
            return {1 / R, R + second / (3 * R), R * R * R + 2 * R * second + fourth / (5 * R)};
        }
        const double x = R - 1;
        std::array<double, 3> out{};
        for (size_t n = 0; n < 3; ++n) {
            double b1 = 0, b2 = 0;
            for (int k = terms - 1; k > 0; --k) {
                const double b = 2 * x * b1 - b2 + m_terms[n][k];
                b2 = b1;
                b1 = b;
            }
            out[n] = x * b1 - b2 + m_terms[n][0];
        }
        return out;
    }

private:
    static constexpr int terms = 40;
    SmoothKernel()
    {
        double value[3][terms];
        for (int i = 0; i < terms; ++i) {
            const double R = 1 + std::cos(pi * (i + 0.5) / terms);
            const auto v = integrals(R);
            for (size_t n = 0; n < 3; ++n)
                value[n][i] = v[n];
        }
        for (size_t n = 0; n < 3; ++n)
            for (int k = 0; k < terms; ++k) {
                double sum = 0;
                for (int i = 0; i < terms; ++i)
                    sum += value[n][i] * std::cos(pi * k * (i + 0.5) / terms);
                m_terms[n][k] = (k == 0 ? 1.0 : 2.0) / terms * sum;
            }
    }
    /// (G * G)(d): the inner integral of s G(s) is known.
    static double pair(double d)
    {
        const double from = std::max(0.0, d - 1);
        double sum = 0;
        for (const auto& q : fem::gaussLegendre(24)) {
            const double r = from + (1 - from) * q.x, low = 1 - (d - r) * (d - r),
                         high = std::max(0.0, 1 - (d + r) * (d + r));
            sum += (1 - from) * q.w * r * std::pow(1 - r * r, 3) *
                   (std::pow(low, 4) - std::pow(high, 4));
        }
        return 2 * pi / d * peak * peak / 8 * sum;
    }
    static std::array<double, 3> integrals(double R)
    {
        std::array<double, 3> sum{};
        // Means of |R - x|^n over spheres of radius d; their first one has a kink at R.
        const double ends[4] = {0, std::min(R, 1.0), std::max(R, 1.0), 2};
        for (int part = 0; part < 3; ++part)
            for (const auto& q : fem::gaussLegendre(24)) {
                const double d = ends[part] + (ends[part + 1] - ends[part]) * q.x,
                             w = (ends[part + 1] - ends[part]) * q.w;
                if (w <= 0)
                    continue;
                const double H = 4 * pi * d * d * pair(d) * w, far = R + d, near = std::abs(R - d);
                for (size_t n = 0; n < 3; ++n) {
                    const int m = 2 * int(n) + 1;
                    sum[n] += H * (std::pow(far, m) - std::pow(near, m)) / (2 * m * R * d);
                }
            }
        return sum;
    }
    double m_terms[3][terms];
};

/// Products of shapes on two segments with the parts of D: value by value, slope by slope (by the
/// parameters).
struct PairMatrices
{
    double value[3][mostShapes][mostShapes] = {}, slope[3][mostShapes][mostShapes] = {};
};

/// Between a segment and another one, or an image.
PairMatrices between(const Point& a0, const Point& a1, const Point& b0, const Point& b1, int degree,
                     double radius, double smooth)
{
    PairMatrices out;
    const Point a = a1 - a0, b = b1 - b0;
    const double la = norm(a), lb = norm(b);
    double va[mostShapes], ga[mostShapes], vb[mostShapes], gb[mostShapes];
    auto add = [&](double w, const std::array<double, 3>& D) {
        for (size_t n = 0; n < 3; ++n)
            for (int i = 0; i <= degree; ++i)
                for (int j = 0; j <= degree; ++j) {
                    out.value[n][i][j] += w * la * lb * D[n] * va[i] * vb[j];
                    out.slope[n][i][j] += w * D[n] * ga[i] * gb[j];
                }
    };
    // What the field has of it is smooth.
    constexpr int even = 10;
    static const auto evenRule = fem::gaussLegendre(even);
    for (const auto& p : evenRule)
        for (const auto& q : evenRule) {
            shapes(degree, p.x, va, ga);
            shapes(degree, q.x, vb, gb);
            auto S = smoothKernel(norm(a0 + p.x * a - b0 - q.x * b), smooth);
            for (double& v : S)
                v = -v;
            add(p.w * q.w, S);
        }
    constexpr int outer = 16, inner = 10, around = 8;
    static const auto outerRule = fem::gaussLegendre(outer), innerRule = fem::gaussLegendre(inner),
                      aroundRule = fem::gaussLegendre(around);
    for (const auto& turn : aroundRule) {
        // Over the angle between two places of the surface; towards 0, where a logarithm lies,
        // points gather.
        const double angle = pi * turn.x * turn.x, share = 2 * turn.x * turn.w,
                     chord = 2 * radius * std::sin(angle / 2);
        for (const auto& p : outerRule) {
            // The same towards the ends.
            const double s = p.x * p.x * (3 - 2 * p.x), ds = 6 * p.x * (1 - p.x) * p.w;
            const Point x = a0 + s * a;
            shapes(degree, s, va, ga);
            // Along the other one by t = t0 + (d / lb) sinh u, which makes 1 / R_a constant.
            const double t0 = dot(x - b0, b) / (lb * lb);
            const double off = norm(x - b0 - t0 * b), d = std::hypot(off, chord),
                         u0 = std::asinh(-t0 * lb / d), u1 = std::asinh((1 - t0) * lb / d);
            const double ends[3] = {u0, std::clamp(0.0, u0, u1), u1};
            for (int part = 0; part < 2; ++part) {
                const double width = ends[part + 1] - ends[part];
                if (width <= 0)
                    continue;
                for (const auto& q : innerRule) {
                    const double u = ends[part] + width * q.x, along = d * std::sinh(u),
                                 Ra = d * std::cosh(u), dt = Ra / lb * width * q.w;
                    shapes(degree, t0 + along / lb, vb, gb);
                    add(share * ds * dt, surfaceKernel(Ra, smooth));
                }
            }
        }
    }
    return out;
}

/// Least distance of two segments, or a lower bound of it.
double apart(const Point& a0, const Point& a1, const Point& b0, const Point& b1)
{
    return norm(0.5 * (a0 + a1 - b0 - b1)) - 0.5 * (norm(a1 - a0) + norm(b1 - b0));
}

}  // namespace

double smoothing(double x)
{
    return 1 - mean2 / 6 * x * x + mean4 / 120 * x * x * x * x;
}

bool ThinWires::isLossy() const
{
    return std::any_of(segments.begin(), segments.end(),
                       [](const Segment& s) { return s.loss > 0; });
}

bool ThinWires::isOfMetal() const
{
    return std::any_of(segments.begin(), segments.end(),
                       [](const Segment& s) { return s.sigma > 0; });
}

std::vector<int> ThinWires::at(int node) const
{
    std::vector<int> list;
    for (size_t s = 0; s < segments.size(); ++s)
        if (segments[s].from == node || segments[s].to == node)
            list.push_back(int(s));
    return list;
}

std::complex<double> insideImpedance(double radius, double sigma, double frequency)
{
    // gamma I0(x) / (2 pi a sigma I1(x)), x = gamma a, with I1 / I0 as a continued fraction.
    const double skin = 1 / std::sqrt(pi * frequency * mu0 * sigma);
    const std::complex<double> gamma = std::complex<double>(1, 1) / skin, x = gamma * radius;
    const int terms = 30 + int(2 * std::abs(x));
    std::complex<double> tail = 2.0 * terms;
    for (int n = terms - 1; n > 0; --n)
        tail = 2.0 * n + x * x / tail;
    return gamma / (2 * pi * radius * sigma) * tail / x;
}

std::array<double, 3> smoothKernel(double R, double smooth)
{
    const auto s = SmoothKernel::instance().at(R / smooth);
    const double b2 = smooth * smooth;
    return {s[0] / smooth, -s[1] * smooth / 2, s[2] * smooth * b2 / 24};
}

std::array<double, 3> surfaceKernel(double Ra, double smooth)
{
    const double b2 = smooth * smooth, m1 = mean2 / 6 * b2, m2 = mean4 / 120 * b2 * b2;
    return {1 / Ra, -Ra / 2 - 2 * m1 / Ra, Ra * Ra * Ra / 24 + m1 * Ra + (m1 * m1 + 2 * m2) / Ra};
}

WireCurrents::WireCurrents(const ThinWires& wires, int degree)
    : m_wires(wires), m_degree(degree), m_locals(wires.segments.size())
{
    for (size_t n = 0; n < wires.nodes.size(); ++n) {
        const auto list = wires.at(int(n));
        // Into the node along one segment, out of it along another; at a ground out of the ground.
        auto hat = [&](int segment, bool out) {
            const bool begins = wires.segments[size_t(segment)].from == int(n);
            m_locals[size_t(segment)].push_back(
                {m_count, begins ? 0 : 1, begins == out ? 1.0 : -1.0});
        };
        const bool grounded = wires.grounded[n];
        for (size_t k = grounded ? 0 : 1; k < list.size(); ++k) {
            if (!grounded)
                hat(list[0], false);
            hat(list[k], true);
            ++m_count;
        }
    }
    for (int shape = 2; shape <= degree; ++shape)
        for (auto& locals : m_locals)
            locals.push_back({m_count++, shape, 1.0});
}

const WireMatrices& WireCurrents::matrices(double frequency) const
{
    auto& known = m_wires.known[m_degree];
    if (!known)
        known = std::make_shared<const WireMatrices>(computed(frequency));
    return *known;
}

void WireCurrents::addPair(size_t i, size_t j, const Point& b0, const Point& b1, double sign,
                           WireMatrices& m) const
{
    const auto& segments = m_wires.segments;
    const auto& s = segments[i];
    const Point &a0 = m_wires.nodes[size_t(s.from)], &a1 = m_wires.nodes[size_t(s.to)];
    const Point ta = (1 / norm(a1 - a0)) * (a1 - a0);
    // Two wires meet by the mean of the squares of their radii.
    const double radius =
        std::sqrt((s.radius * s.radius + segments[j].radius * segments[j].radius) / 2);
    const auto p = between(a0, a1, b0, b1, m_degree, radius, m_wires.smooth);
    const double along = dot(ta, (1 / norm(b1 - b0)) * (b1 - b0)), still = 1 + s.loss * s.loss;
    for (const Local& u : m_locals[i])
        for (const Local& v : m_locals[j]) {
            const double f = s.share * sign * u.sign * v.sign / (4 * pi);
            auto T = [&](int n) { return along * f * p.value[n][u.shape][v.shape]; };
            auto Q = [&](int n) { return f * p.slope[n][u.shape][v.shape]; };
            m.constant(u.current, v.current) += Q(0) / (s.eps * still);
            m.medium(u.current, v.current) += Q(0) * s.loss / (s.eps * still);
            m.square(u.current, v.current) += s.mu * (T(0) - Q(1));
            m.fourth(u.current, v.current) += s.eps * s.mu * s.mu * (Q(2) - T(1));
        }
}

void WireCurrents::addMetal(size_t i, double by, WireMatrices& m) const
{
    for (const auto& q : fem::gaussLegendre(m_degree + 1)) {
        double value[mostShapes], slope[mostShapes];
        shapes(m_degree, q.x, value, slope);
        for (const Local& u : m_locals[i])
            for (const Local& v : m_locals[i])
                m.metal(u.current, v.current) +=
                    by * q.w * u.sign * v.sign * value[u.shape] * value[v.shape];
    }
}

WireMatrices WireCurrents::computed(double frequency) const
{
    WireMatrices m;
    for (auto* part : {&m.constant, &m.square, &m.fourth, &m.medium, &m.metal})
        part->setZero(m_count, m_count);
    double metal = 0;
    const auto& segments = m_wires.segments;
    for (size_t i = 0; i < segments.size(); ++i) {
        const auto& s = segments[i];
        const Point &a0 = m_wires.nodes[size_t(s.from)], &a1 = m_wires.nodes[size_t(s.to)];
        auto add = [&](size_t j, const Point& b0, const Point& b1, double sign) {
            if (apart(a0, a1, b0, b1) > 2 * m_wires.smooth)
                return;
            addPair(i, j, b0, b1, sign, m);
        };
        for (size_t j = 0; j < segments.size(); ++j) {
            add(j, m_wires.nodes[size_t(segments[j].from)], m_wires.nodes[size_t(segments[j].to)],
                1);
            for (const auto& image : segments[j].images)
                add(j, image.from, image.to, image.sign);
        }
        if (s.sigma <= 0)
            continue;
        const double Z = std::abs(insideImpedance(s.radius, s.sigma, frequency));
        if (metal == 0)
            metal = Z;
        addMetal(i, s.share * Z / metal * norm(a1 - a0), m);
    }
    // Both ways of integrating differ by rounding and by what their rules leave.
    for (auto* part : {&m.constant, &m.square, &m.fourth, &m.medium})
        *part = Eigen::MatrixXd(0.5 * (*part + part->transpose()));
    return m;
}

std::vector<double> WireCurrents::gap(int node, double width) const
{
    std::vector<double> mean(size_t(m_count), 0.0);
    const bool grounded = m_wires.grounded[size_t(node)];
    bool out = grounded;
    for (const int i : m_wires.at(node)) {
        const auto& s = m_wires.segments[size_t(i)];
        const bool begins = s.from == node;
        // The voltage drives into the node along the first segment and out along the other.
        const double way = begins == out ? 1 : -1, half = grounded ? 1.0 : 0.5,
                     length = norm(m_wires.nodes[size_t(s.to)] - m_wires.nodes[size_t(s.from)]),
                     part = std::min(1.0, width / 2 / length);
        out = true;
        for (const auto& q : fem::gaussLegendre(m_degree + 1)) {
            double value[mostShapes], slope[mostShapes];
            shapes(m_degree, begins ? part * q.x : 1 - part * q.x, value, slope);
            for (const Local& u : m_locals[size_t(i)])
                mean[size_t(u.current)] += s.share * half * way * q.w * u.sign * value[u.shape];
        }
    }
    return mean;
}

}  // namespace yh::physics
