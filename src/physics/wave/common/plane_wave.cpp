#include "physics/wave/common/plane_wave.h"

#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

namespace {

using Complex = std::complex<double>;
using Vector = ScatteredField::Vector;

Complex dotted(const Vector& a, const Point& b)
{
    return a[0] * b.x + a[1] * b.y + a[2] * b.z;
}
void add(Vector& sum, Complex factor, const Point& p)
{
    sum[0] += factor * p.x;
    sum[1] += factor * p.y;
    sum[2] += factor * p.z;
}

}  // namespace

Complex IncidentField::at(const Point& p) const
{
    return field * std::exp(Complex(0, (conjugate ? k : -k) * dot(towards, p)));
}

Complex IncidentField::curlAt(const Point& p) const
{
    return Complex(0, conjugate ? k : -k) * at(p);
}

Illumination::Illumination(const WaveProblem& problem, const fem::EdgeSpace& space, int order,
                           const std::vector<char>& isFree, std::span<const int> ranks)
    : m_problem(problem), m_space(space), m_order(order)
{
    const mesh::Mesh& mesh = space.mesh();
    std::vector<char> isSphere(problem.sides.size(), 0);
    for (const int s : problem.shell.sphere)
        isSphere[size_t(s)] = 1;
    std::vector<int> sides;
    for (int s = 0; s < mesh.sideCount(); ++s)
        if (const int tag = mesh.sideTag[size_t(s)]; tag >= 0 && isSphere[size_t(tag)])
            sides.push_back(s);
    m_samples = fem::sideSamples(space, order, sides, problem.measure);
    auto inShell = [&](int t) { return t >= 0 && mesh.piece[size_t(t)] == problem.shell.piece; };
    std::vector<char> onSphere(size_t(space.count(order)), 0);
    for (auto& s : m_samples) {
        if (inShell(mesh.sideCells[size_t(s.side)][0]))
            for (auto& p : s.points)
                p.normal = -1.0 * p.normal;
        for (const int i : s.number)
            onSphere[size_t(i)] = 1;
    }
    m_place.assign(onSphere.size(), -1);
    int number[fem::mostEdgeLocal];
    const int local = space.localCount(order);
    for (int t = 0; t < mesh.cellCount(); ++t) {
        if (!inShell(t))
            continue;
        space.local(t, order, number);
        if (std::none_of(number, number + local, [&](int i) { return onSphere[size_t(i)]; }))
            continue;
        m_cells.push_back(t);
        for (int i = 0; i < local; ++i)
            if (int& at = m_place[size_t(number[i])]; at < 0) {
                at = int(m_functions.size());
                m_functions.push_back(number[i]);
            }
    }
    std::vector<char> touches(size_t(mesh.cellCount()), 0);
    for (const int t : m_cells)
        touches[size_t(t)] = 1;
    m_real = fem::edgeElements(space, problem.inverseMu, problem.eps, problem.measure, touches);
    const auto media = problem.absorbingMedia();
    m_imaginary = fem::edgeElements(space, media.inverseMu, media.eps, problem.measure, touches);
    std::vector<char> solved(m_functions.size(), 0);
    for (size_t i = 0; i < m_functions.size(); ++i)
        solved[i] = onSphere[size_t(m_functions[i])] && isFree[size_t(m_functions[i])];
    const auto all = space.functionRanks(order, ranks);
    std::vector<int> own;
    for (const int i : m_functions)
        own.push_back(all[size_t(i)]);
    m_numbering = fem::byRank(own, solved);
    m_onSphere = m_numbering.function;
    auto products = fem::sideMass(space, order, sides, problem.measure);
    for (auto& s : products)
        for (int& i : s.number)
            i = m_place[size_t(i)];
    const auto M = fem::sumOf(products, m_numbering);
    m_products.analyse(M);
    m_products.factorise(M);
}

Illumination::Values Illumination::projected(Values r) const
{
    const size_t n = m_onSphere.size();
    std::vector<double> columns(2 * n);
    for (size_t i = 0; i < n; ++i) {
        const Complex v = r[size_t(m_onSphere[i])];
        columns[i] = v.real();
        columns[n + i] = v.imag();
    }
    m_products.solve(columns, 2);
    Values w(r.size());
    for (size_t i = 0; i < n; ++i)
        w[size_t(m_onSphere[i])] = {columns[i], columns[n + i]};
    return w;
}

Illumination::Values Illumination::lift(const IncidentField& wave) const
{
    Values r(m_functions.size());
    for (const auto& s : m_samples)
        for (const auto& p : s.points) {
            const Complex E = p.weight * wave.at(p.place);
            for (size_t i = 0; i < s.number.size(); ++i)
                r[size_t(m_place[size_t(s.number[i])])] += E * dot(wave.polarisation, p.along[i]);
        }
    return projected(std::move(r));
}

Illumination::Values Illumination::shellTimes(const Values& x, double k) const
{
    Values y(x.size());
    const int n = m_space.localCount(m_order);
    int number[fem::mostEdgeLocal];
    double in[fem::mostEdgeLocal], out[fem::mostEdgeLocal];
    struct Term
    {
        const fem::ElementMatrices& elements;
        Complex factor;
    };
    const Term terms[] = {{m_real.curl, 1},
                          {m_real.mass, -k * k},
                          {m_imaginary.curl, {0, 1}},
                          {m_imaginary.mass, {0, -k * k}}};
    for (const int t : m_cells) {
        m_space.local(t, m_order, number);
        for (const bool real : {true, false}) {
            for (int i = 0; i < n; ++i) {
                const Complex v = x[size_t(m_place[size_t(number[i])])];
                in[i] = real ? v.real() : v.imag();
            }
            for (const Term& term : terms) {
                term.elements.multiply(t, n, in, out);
                const Complex factor = real ? term.factor : term.factor * Complex(0, 1);
                for (int i = 0; i < n; ++i)
                    y[size_t(m_place[size_t(number[i])])] += factor * out[i];
            }
        }
    }
    return y;
}

Illumination::Values Illumination::load(const IncidentField& wave, const Values& w) const
{
    Values b = shellTimes(w, wave.k);
    const Point curl = cross(wave.towards, wave.polarisation);
    for (const auto& s : m_samples)
        for (const auto& p : s.points) {
            const Complex factor = p.weight * wave.curlAt(p.place);
            const Point turned = cross(p.normal, curl);
            for (size_t i = 0; i < s.number.size(); ++i)
                b[size_t(m_place[size_t(s.number[i])])] -= factor * dot(turned, p.along[i]);
        }
    return b;
}

Illumination::Values Illumination::embedded(const Illumination& other, const Values& values) const
{
    Values out(m_functions.size());
    for (size_t i = 0; i < values.size(); ++i)
        if (values[i] != 0.0)
            out[size_t(m_place[size_t(other.m_functions[i])])] = values[i];
    return out;
}

ScatteredField Illumination::scattered(const std::array<std::vector<double>, 2>& u, const Values& w,
                                       double k) const
{
    ScatteredField out;
    out.m_k = k;
    out.m_radius = m_problem.shell.inner;
    out.m_plane = m_problem.shell.cylinder;
    out.m_images = imagesOf(m_problem);
    Values rest(w.size());
    for (size_t i = 0; i < rest.size(); ++i) {
        const auto f = size_t(m_functions[i]);
        rest[i] = Complex(u[0][f], u[1][f]) - w[i];
    }
    const Values h = projected(shellTimes(rest, k));
    for (const auto& s : m_samples)
        for (const auto& p : s.points) {
            ScatteredField::Source source;
            source.place = p.place;
            for (size_t i = 0; i < s.number.size(); ++i) {
                const auto at = size_t(m_place[size_t(s.number[i])]);
                add(source.electric, p.weight * h[at], p.along[i]);
                add(source.turned, p.weight * rest[at], cross(p.along[i], p.normal));
            }
            out.m_sources.push_back(source);
        }
    return out;
}

Vector ScatteredField::at(const Point& direction) const
{
    Vector F{};
    const Complex jk(0, m_k);
    for (const Image& image : m_images) {
        // The image of a direction under the reverse of an image: its matrix is orthogonal.
        const auto& m = image.m;
        const Point d{m[0][0] * direction.x + m[1][0] * direction.y + m[2][0] * direction.z,
                      m[0][1] * direction.x + m[1][1] * direction.y + m[2][1] * direction.z,
                      m[0][2] * direction.x + m[1][2] * direction.y + m[2][2] * direction.z};
        Vector sum{};
        for (const Source& s : m_sources) {
            const Complex phase = std::exp(jk * dot(d, s.place));
            const Vector& e = s.turned;
            // e x d
            const Vector crossed{e[1] * d.z - e[2] * d.y, e[2] * d.x - e[0] * d.z,
                                 e[0] * d.y - e[1] * d.x};
            for (size_t i = 0; i < 3; ++i)
                sum[i] += phase * (s.electric[i] - jk * crossed[i]);
        }
        const Complex along = dotted(sum, d);
        add(sum, -along, d);
        for (size_t i = 0; i < 3; ++i)
            F[i] += image.sign * (m[i][0] * sum[0] + m[i][1] * sum[1] + m[i][2] * sum[2]);
    }
    const double scale = m_plane ? 1 / std::sqrt(8 * pi * m_k) : 1 / (4 * pi);
    for (Complex& v : F)
        v *= scale;
    return F;
}

double ScatteredField::intensity(const Point& direction) const
{
    const Vector F = at(direction);
    return (std::norm(F[0]) + std::norm(F[1]) + std::norm(F[2])) / (2 * mu0 * c0);
}

double ScatteredField::power() const
{
    // The field holds harmonics to a degree of some k R + 5, its square twice that.
    const int degree = int(std::ceil(m_k * m_radius + 5 + 3 * std::cbrt(m_k * m_radius)));
    const int turns = 2 * degree + 2;
    double sum = 0;
    if (m_plane) {
        for (int i = 0; i < turns; ++i) {
            const double a = 2 * pi * i / turns;
            sum += intensity({std::cos(a), std::sin(a), 0}) * 2 * pi / turns;
        }
        return sum;
    }
    // Gauss's rule over cos(theta).
    const int n = degree + 1;
    for (int i = 0; i < n; ++i) {
        double x = std::cos(pi * (i + 0.75) / (n + 0.5)), slope = 1;
        for (int step = 0; step < 50; ++step) {
            const double value = std::legendre(unsigned(n), x);
            slope = n * (std::legendre(unsigned(n) - 1, x) - x * value) / (1 - x * x);
            x -= value / slope;
            if (std::abs(value / slope) < 1e-15)
                break;
        }
        const double weight = 2 / ((1 - x * x) * slope * slope), rho = std::sqrt(1 - x * x);
        for (int k = 0; k < turns; ++k) {
            const double a = 2 * pi * k / turns;
            sum += weight * 2 * pi / turns * intensity({rho * std::cos(a), rho * std::sin(a), x});
        }
    }
    return sum;
}

}  // namespace yh::physics
