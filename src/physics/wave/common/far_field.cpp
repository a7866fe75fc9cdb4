#include "physics/wave/common/far_field.h"

#include "physics/common/constants.h"

#include <omp.h>
#include <algorithm>
#include <cmath>
#include <limits>

namespace yh::physics {

namespace {

using Complex = std::complex<double>;
constexpr double eta0 = mu0 * c0;  // ohm, wave impedance of vacuum

/// Degrees that a sphere of this size can send out: those beyond fall off faster than they radiate.
int degreeFor(double kR)
{
    return std::min(40, int(std::ceil(kR + 5 + 3 * std::cbrt(kR))));
}

/// h_l(x) of the second kind, and (x h_l(x))' / x.
struct Outgoing
{
    Complex value, slope;
};
Outgoing outgoing(int l, double x)
{
    auto h = [x](int n) {
        return Complex(std::sph_bessel(unsigned(n), x), -std::sph_neumann(unsigned(n), x));
    };
    const Complex now = h(l);
    // (x h_l)' = x h_(l-1) - l h_l
    return {now, h(l - 1) - double(l) * now / x};
}

/** One place of the sphere, seen from its middle, with the part of all fields along it. */
template <class Sample>
Sample sampleAt(const Image& image, const Point& from, const Point& out,
                const std::vector<Point>& E)
{
    const double r = norm(from);
    const Point u = (1 / r) * image.of(from);
    Sample sample;
    sample.theta = std::acos(std::clamp(u.z, -1.0, 1.0));
    sample.phi = std::atan2(u.y, u.x);
    sample.solidAngle = std::abs(dot(from, out)) / (r * r * r);
    const double c = std::cos(sample.phi), s = std::sin(sample.phi), rho = std::hypot(u.x, u.y);
    const Point theta{u.z * c, u.z * s, -rho}, phi{-s, c, 0};
    for (const Point& e : E) {
        const Point there = image.sign * image.of(e);
        sample.field.push_back({dot(there, theta), dot(there, phi)});
    }
    return sample;
}

}  // namespace

Point Image::of(const Point& p) const
{
    return {m[0][0] * p.x + m[0][1] * p.y + m[0][2] * p.z,
            m[1][0] * p.x + m[1][1] * p.y + m[1][2] * p.z,
            m[2][0] * p.x + m[2][1] * p.y + m[2][2] * p.z};
}

std::vector<Image> imagesOf(const WaveProblem& problem)
{
    std::vector<Image> list;
    for (int k = 0; k < problem.wedges; ++k) {
        // Neighbours mirror each other at the plane between them.
        const bool mirrored = k % 2 == 1;
        const double a = 2 * pi / problem.wedges * (mirrored ? k + 1 : k), c = std::cos(a),
                     s = std::sin(a), flip = mirrored ? -1 : 1;
        Image i;
        i.m[0][0] = c;
        i.m[0][1] = -s * flip;
        i.m[1][0] = s;
        i.m[1][1] = c * flip;
        list.push_back(i);
    }
    for (const auto& mirror : problem.mirrors) {
        const size_t n = list.size();
        // Round an axis the sheet's z is y of the drawing.
        const int axis = problem.measure == fem::Measure::axisymmetric ? 2 : mirror.axis;
        for (size_t k = 0; k < n; ++k) {
            Image i = list[k];
            for (double& x : i.m[axis])
                x = -x;
            i.sign *= mirror.odd ? -1 : 1;
            list.push_back(i);
        }
    }
    return list;
}

VectorHarmonics::VectorHarmonics(int degree) : m_degree(degree) {}

void VectorHarmonics::at(double theta, std::vector<double>& slope, std::vector<double>& turn) const
{
    // q = P_lm / sin(theta) of the normalised functions keeps poles harmless for m >= 1.
    const double c = std::cos(theta), s = std::sin(theta);
    slope.assign(size(), 0.0);
    turn.assign(size(), 0.0);
    double diagonal = std::sqrt(3 / (8 * pi));  // q_11
    for (int m = 1; m <= m_degree; ++m) {
        if (m > 1)
            diagonal *= std::sqrt((2 * m + 1) / (2.0 * m)) * s;
        double before = 0, now = diagonal;
        for (int l = m; l <= m_degree; ++l) {
            if (l > m) {
                const double a = std::sqrt((4.0 * l * l - 1) / (l * l - m * m)),
                             b = std::sqrt(((l - 1.0) * (l - 1) - m * m) /
                                           (4.0 * (l - 1) * (l - 1) - 1));
                const double next = a * (c * now - b * before);
                before = now;
                now = next;
            }
            const double scale = 1 / std::sqrt(l * (l + 1.0));
            turn[place(l, m)] = scale * m * now;
            slope[place(l, m)] =
                scale *
                (l * c * now - std::sqrt((l * l - m * m) * (2 * l + 1.0) / (2 * l - 1.0)) * before);
            if (m == 1)
                slope[place(l, 0)] = -s * now;
        }
    }
}

std::array<Complex, 2> FarField::at(double theta, double phi) const
{
    std::vector<double> slope, turn;
    m_harmonics.at(theta, slope, turn);
    std::array<Complex, 2> F{};
    const Complex j(0, 1);
    for (int m = 0; m <= m_harmonics.degree(); ++m)
        for (const int way : {0, 1}) {
            if (m == 0 && way == 1)
                continue;
            const auto k = size_t(way);
            const Complex wave = std::exp(Complex(0, (way == 0 ? m : -m) * phi));
            const double sign = way == 0 ? 1 : -1;
            Complex a, b;
            for (int l = std::max(1, m); l <= m_harmonics.degree(); ++l) {
                const size_t at = VectorHarmonics::place(l, m);
                const Complex psi = m_psi[k][at], swirl = m_phi[k][at], x = j * sign * turn[at];
                a += psi * slope[at] - swirl * x;
                b += psi * x + swirl * slope[at];
            }
            F[0] += wave * a;
            F[1] += wave * b;
        }
    return F;
}

double FarField::radiated() const
{
    double sum = 0;
    for (const auto* list : {&m_psi, &m_phi})
        for (const auto& half : *list)
            for (const Complex& v : half)
                sum += std::norm(v);
    return sum / (2 * eta0);
}

double FarField::intensity(double theta, double phi) const
{
    const auto F = at(theta, phi);
    return (std::norm(F[0]) + std::norm(F[1])) / (2 * eta0);
}

FarField::Peak FarField::strongest() const
{
    Peak best;
    constexpr int rows = 60, columns = 72;
    for (int i = 0; i <= rows; ++i)
        for (int k = 0; k < columns; ++k) {
            const double theta = pi * i / rows, phi = 2 * pi * k / columns,
                         u = intensity(theta, phi);
            // Rounding does not choose among equal directions.
            if (u > best.intensity * (1 + 1e-9))
                best = {theta, phi, u};
        }
    for (double step = pi / rows; step > 1e-5; step /= 2)
        for (bool moved = true; moved;) {
            moved = false;
            for (const auto& [dt, dp] :
                 {std::array{step, 0.0}, {-step, 0.0}, {0.0, step}, {0.0, -step}}) {
                const double theta = std::clamp(best.theta + dt, 0.0, pi), phi = best.phi + dp,
                             u = intensity(theta, phi);
                if (u > best.intensity * (1 + 1e-9)) {
                    best = {theta, phi, u};
                    moved = true;
                }
            }
        }
    best.phi = std::remainder(best.phi, 2 * pi);
    return best;
}

double FarField::axialRatio(double theta, double phi) const
{
    const auto F = at(theta, phi);
    // By the two circular parts: (|R| + |L|) / ||R| - |L||.
    const Complex j(0, 1);
    const double right = std::abs(F[0] + j * F[1]), left = std::abs(F[0] - j * F[1]),
                 gap = std::abs(right - left);
    constexpr double line = 1e-9;
    return gap > line * (right + left) ? (right + left) / gap
                                       : std::numeric_limits<double>::infinity();
}

std::vector<SphereExpansion::Sample> SphereExpansion::samples(
    const WaveProblem& problem, const fem::EdgeSpace& space, int order,
    const std::vector<std::vector<double>>& basis) const
{
    const mesh::Mesh& mesh = space.mesh();
    const bool axial = problem.measure == fem::Measure::axisymmetric;
    std::vector<char> isSphere(problem.sides.size(), 0);
    for (const int s : problem.shell.sphere)
        isSphere[size_t(s)] = 1;
    const auto images = imagesOf(problem);
    // Across the drawing of a body round an axis means against the angle.
    auto lifted = [axial](const Point& p) { return axial ? Point{p.x, -p.z, p.y} : p; };
    std::vector<Sample> list;
    fem::onSides(
        mesh, problem.measure, 2 * order + 4,
        [&](int s, int t) {
            const int tag = mesh.sideTag[size_t(s)];
            return tag >= 0 && isSphere[size_t(tag)] &&
                   mesh.piece[size_t(t)] != problem.shell.piece;
        },
        [&](int, int t, const Point& xi, const Point& p, const Point& n) {
            const fem::EdgePoint at(space, order, t, xi);
            const Point from = lifted(p - problem.shell.centre), out = lifted(n);
            std::vector<Point> E;
            for (const auto& field : basis)
                E.push_back(lifted(at.of(field).value));
            for (const Image& image : images)
                list.push_back(sampleAt<Sample>(image, from, out, E));
        });
    return list;
}

void SphereExpansion::addSample(const Sample& s, int orders, std::vector<std::vector<Complex>>& psi,
                                std::vector<std::vector<Complex>>& swirl) const
{
    std::vector<double> slope, turn;
    m_harmonics.at(s.theta, slope, turn);
    for (int m = 0; m <= orders; ++m) {
        const Complex wave = s.solidAngle * std::exp(Complex(0, -m * s.phi));
        for (size_t b = 0; b < s.field.size(); ++b) {
            const Complex along = wave * s.field[b][0], across = wave * s.field[b][1], j(0, 1);
            for (int l = std::max(1, m); l <= m_harmonics.degree(); ++l) {
                const size_t at = VectorHarmonics::place(l, m);
                // Products with the conjugate harmonics.
                psi[b][at] += along * slope[at] - j * across * turn[at];
                swirl[b][at] += j * along * turn[at] + across * slope[at];
            }
        }
    }
}

SphereExpansion::SphereExpansion(const WaveProblem& problem, const fem::EdgeSpace& space, int order,
                                 const std::vector<std::vector<double>>& basis, double k)
    : m_harmonics(degreeFor(k * problem.shell.inner)), m_radius(problem.shell.inner)
{
    const auto list = samples(problem, space, order, basis);
    const size_t n = m_harmonics.size();
    m_psi.assign(basis.size(), std::vector<Complex>(n));
    m_phi = m_psi;
    // Round an axis only m = 0 takes part.
    const int orders = problem.measure == fem::Measure::axisymmetric ? 0 : m_harmonics.degree();
    // Each thread sums its own part of the list; the threads' sums are added in their order.
    using Sums = std::vector<std::vector<Complex>>;
    std::vector<std::pair<Sums, Sums>> sums(size_t(omp_get_max_threads()), {m_psi, m_phi});
#pragma omp parallel
    {
        auto& [psi, swirl] = sums[size_t(omp_get_thread_num())];
#pragma omp for schedule(static)
        for (size_t i = 0; i < list.size(); ++i)
            addSample(list[i], orders, psi, swirl);
    }
    for (const auto& [psi, swirl] : sums)
        for (size_t b = 0; b < psi.size(); ++b)
            for (size_t i = 0; i < n; ++i) {
                m_psi[b][i] += psi[b][i];
                m_phi[b][i] += swirl[b][i];
            }
}

FarField SphereExpansion::farField(const Eigen::VectorXcd& mixture, double frequency) const
{
    const double k = 2 * pi * frequency / c0, x = k * m_radius;
    const int degree = std::min(m_harmonics.degree(), degreeFor(x));
    FarField far(degree, k);
    const size_t n = far.m_harmonics.size();
    for (size_t way = 0; way < 2; ++way) {
        far.m_psi[way].assign(n, 0.0);
        far.m_phi[way].assign(n, 0.0);
    }
    Complex power(0, 1);  // j^l
    for (int l = 1; l <= degree; ++l) {
        const Outgoing h = outgoing(l, x);
        const Complex psi = power / (k * h.slope), swirl = power * Complex(0, 1) / (k * h.value);
        for (int m = 0; m <= l; ++m) {
            const size_t at = VectorHarmonics::place(l, m);
            // Harmonics of order -m are the conjugate ones, and the fields of the basis are real.
            for (size_t way = 0; way < (m > 0 ? 2u : 1u); ++way)
                for (size_t b = 0; b < m_psi.size(); ++b) {
                    const Complex y = mixture(Eigen::Index(b)), a = m_psi[b][at], c = m_phi[b][at];
                    far.m_psi[way][at] += psi * y * (way == 0 ? a : std::conj(a));
                    far.m_phi[way][at] += swirl * y * (way == 0 ? c : std::conj(c));
                }
        }
        power *= Complex(0, 1);
    }
    return far;
}

}  // namespace yh::physics
