// The weak form of the steady magnetic field, and its solution.
#include "fem/dense.h"
#include "physics/common/constants.h"
#include "physics/magnetic/magnetic.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

using fem::Local;

namespace {

/// A gradient in real space from one in the drawing; see OpenShell::Stretch.
void shrink(const shape::OpenShell::Stretch& s, double& x, double& y)
{
    if (s.along == 1 && s.across == 1)
        return;
    const double inward = (1 / s.along - 1 / s.across) * (s.radial.x * x + s.radial.y * y);
    x = x / s.across + s.radial.x * inward;
    y = y / s.across + s.radial.y * inward;
}

}  // namespace

Point MagneticProblem::fluxDensity(const shape::OpenShell::Stretch& stretch, const Point& p,
                                   double u, Point grad) const
{
    if (!isAxisymmetric()) {
        shrink(stretch, grad.x, grad.y);
        return {grad.y, -grad.x, 0};
    }
    // The gradient of A = r u.
    grad = {u + p.x * grad.x, p.x * grad.y, 0};
    shrink(stretch, grad.x, grad.y);
    return {-grad.y, grad.x + u / stretch.across, 0};
}

namespace {

/// H of a medium, and how it follows B: dHx/dBx, dHx/dBy and dHy/dBy.
struct FieldOf
{
    Point H;
    double xx = 0, xy = 0, yy = 0;

    FieldOf(const MagneticMedium& m, const Point& B, double drive)
    {
        if (m.isMagnet())
            ofMagnet(m, B, drive);
        else if (m.curve)
            ofCurve(*m.curve, B);
        else
            isotropic(1 / m.mu, B);
    }

private:
    void isotropic(double nu, const Point& B)
    {
        H = nu * B;
        xx = yy = nu;
    }
    void ofMagnet(const MagneticMedium& m, const Point& B, double drive)
    {
        const double along = dot(m.along, B), across = m.along.x * B.y - m.along.y * B.x;
        const double h = m.curve ? m.curve->field(along) - (1 - drive) * m.curve->field(0)
                                 : (along - drive * m.remanence) / m.mu,
                     nu = 1 / m.mu, slope = m.curve ? m.curve->slope(along) : nu;
        H = {m.along.x * h - m.along.y * nu * across, m.along.y * h + m.along.x * nu * across, 0};
        xx = slope * m.along.x * m.along.x + nu * m.along.y * m.along.y;
        xy = (slope - nu) * m.along.x * m.along.y;
        yy = slope * m.along.y * m.along.y + nu * m.along.x * m.along.x;
    }
    void ofCurve(const MagneticCurve& curve, const Point& B)
    {
        const double b = std::sqrt(B.x * B.x + B.y * B.y);
        constexpr double none = 1e-9;  // T
        if (b < none)
            return isotropic(curve.slope(0), B);
        const double nu = curve.field(b) / b, more = (curve.slope(b) - nu) / (b * b);
        H = nu * B;
        H.z = 0;
        xx = nu + more * B.x * B.x;
        xy = more * B.x * B.y;
        yy = nu + more * B.y * B.y;
    }
};

}  // namespace

void MagneticProblem::terms(const fem::PointState& s, fem::PointTerms& out) const
{
    const MagneticMedium& m = media[size_t(s.piece)];
    const auto stretch = stretchAt(s.piece, s.at);
    const double content = contentOf(stretch);
    const double A = isAxisymmetric() ? s.at.x : 1.0;
    // B is linear in u and its gradient; by column, what each of the three brings.
    const Point by[3] = {fluxDensity(stretch, s.at, 1, {0, 0, 0}),
                         fluxDensity(stretch, s.at, 0, {1, 0, 0}),
                         fluxDensity(stretch, s.at, 0, {0, 1, 0})};
    for (int f = 0; f < fieldCount(); ++f) {
        const Local* const of[3] = {&s.u[f], &s.grad[f][0], &s.grad[f][1]};
        const int place[3] = {f, fem::mostFields + 3 * f, fem::mostFields + 3 * f + 1};
        Point B;
        for (int k = 0; k < 3; ++k)
            B = B + of[k]->v * by[k];
        const FieldOf at(m, B, s.drive);
        // H . B(v) is what each part of a test function v meets.
        Local* const to[3] = {&out.source[f], &out.flux[f][0], &out.flux[f][1]};
        for (int i = 0; i < 3; ++i) {
            const Point along{at.xx * by[i].x + at.xy * by[i].y, at.xy * by[i].x + at.yy * by[i].y,
                              0};
            to[i]->v = content * dot(by[i], at.H);
            for (int k = 0; k < 3; ++k)
                to[i]->d[place[k]] = content * dot(along, by[k]);
        }
        if (f == 0)
            out.source[f].v -= s.drive * m.currentDensity * A;
        // Minus the induced current density; A is A u. Far away nothing is induced.
        if (m.moves)
            out.source[f] += Local(A * A * m.sigma * speed) *
                                 (Local(way.x) * s.grad[f][0] + Local(way.y) * s.grad[f][1]) -
                             Local(m.sigma * m.driven);
    }
    if (alternates() && m.sigma > 0) {
        const double turned = A * A * content * m.sigma * omega;
        out.source[0] += Local(-turned) * s.u[1];
        out.source[1] += Local(turned) * s.u[0];
    }
}

bool MagneticProblem::isLinear() const
{
    return std::all_of(activePieces.begin(), activePieces.end(),
                       [this](int f) { return !media[size_t(f)].curve; });
}

int MagneticProblem::coilOf(const std::string& name) const
{
    for (size_t k = 0; k < coils.size(); ++k)
        if (coils[k].name == name)
            return int(k);
    return -1;
}

Point MagneticProblem::field(int piece, const Point& B, double drive) const
{
    return FieldOf(media[size_t(piece)], {B.x, B.y, 0}, drive).H;
}

double MagneticProblem::energy(int piece, const Point& B) const
{
    const MagneticMedium& m = media[size_t(piece)];
    if (!m.isMagnet())
        return m.curve ? m.curve->energy(norm(B)) : dot(B, B) / (2 * m.mu);
    const double along = dot(m.along, B), off = along - m.remanence;
    const Point across = B - along * m.along;
    return (m.curve ? m.curve->energy(along) : off * off / (2 * m.mu)) +
           dot(across, across) / (2 * m.mu);
}

MagneticSolver::MagneticSolver(const MagneticProblem& problem, const mesh::Mesh& mesh,
                               const shape::Partition& partition, int order,
                               base::Progress& progress)
    : MagneticField(problem, mesh, partition, order, progress)
{
    nameQuantities();
    m_conductorOf.assign(partition.pieces().size(), -1);
    for (size_t c = 0; c < problem.isolated.size(); ++c)
        for (const int f : problem.isolated[c])
            m_conductorOf[size_t(f)] = int(c);
    // A winding keeps its current, though quadratic sides enclose a little less or more than round
    // ones.
    std::vector<double> meshed(partition.pieces().size(), 0.0);
    const auto& rule = fem::cellRule(2, 4);
    for (int t = 0; t < mesh.cellCount(); ++t) {
        const mesh::Geometry g(mesh, t);
        for (const auto& q : rule)
            meshed[size_t(mesh.piece[size_t(t)])] += q.w * g.determinant(q.xi);
    }
    for (Coil& c : m_problem.coils)
        for (const auto& [pieces, area] : {std::pair{&c.pieces, &c.area}, {&c.back, &c.areaBack}}) {
            double drawn = 0, own = 0;
            for (const int f : *pieces) {
                drawn += partition.pieces()[size_t(f)].content;
                own += meshed[size_t(f)];
            }
            if (!(drawn > 0))
                continue;
            *area *= own / drawn;
            for (const int f : *pieces)
                m_problem.media[size_t(f)].currentDensity *= drawn / own;
        }
}

void MagneticSolver::solve(int lowestOrder, base::Progress& progress)
{
    m_drags.clear();
    MagneticField::solve(lowestOrder, progress);
}

MagneticField::Solved MagneticSolver::solvedAt(int order, Values guess, fem::NewtonReport& report)
{
    Solved s = MagneticField::solvedAt(order, std::move(guess), report);
    if (m_problem.isolated.empty())
        return s;
    s.driven = isolate(order, s.u);
    // Where media are not linear the voltages belong into the terms, and what they leave goes to
    // zero as in Newton's method.
    constexpr int most = 12;
    constexpr double still = 1e-10;
    double rest = m_problem.isLinear() ? 0 : 1;
    for (int i = 0; i < most && rest > still; ++i) {
        for (size_t c = 0; c < s.driven.size(); ++c)
            for (const int f : m_problem.isolated[c])
                m_problem.media[size_t(f)].driven = s.driven[c].real();
        static_cast<void>(m_coupled.solve(order, s.u));
        // The voltages are in the terms now: what is still to be added to them.
        const auto more = isolate(order, s.u);
        double largest = 1e-300;
        rest = 0;
        for (size_t c = 0; c < more.size(); ++c) {
            s.driven[c] += more[c];
            rest = std::max(rest, std::abs(more[c]));
            largest = std::max(largest, std::abs(s.driven[c]));
        }
        rest /= largest;
    }
    for (MagneticMedium& m : m_problem.media)
        m.driven = 0;
    return s;
}

std::complex<double> MagneticSolver::netCurrent(int order, const Values& u, int conductor,
                                                double driven) const
{
    std::complex<double> sum = 0;
    const auto& rule = fem::cellRule(m_mesh.dimension, fem::termDegree(m_mesh.dimension, order));
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const auto piece = size_t(m_mesh.piece[size_t(t)]);
        if (m_conductorOf[piece] != conductor)
            continue;
        const MagneticMedium& m = m_problem.media[piece];
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            const double w = q.w * g.determinant(q.xi) * m.sigma;
            if (m_problem.alternates())
                sum -= w * std::complex(0.0, m_problem.omega) *
                       std::complex(m_space.value(u[0], order, t, q.xi),
                                    m_space.value(u[1], order, t, q.xi));
            else
                sum += w * (driven - m_problem.speed * dot(m_problem.way,
                                                           m_space.gradient(u[0], order, t, q.xi)));
        }
    }
    return sum;
}

double MagneticSolver::loadAlong(int conductor, int order, std::vector<double>& load) const
{
    const auto& rule = fem::cellRule(m_mesh.dimension, fem::termDegree(m_mesh.dimension, order));
    int number[fem::mostLocal];
    double sign[fem::mostLocal];
    double conductance = 0;
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const auto piece = size_t(m_mesh.piece[size_t(t)]);
        if (m_conductorOf[piece] != conductor)
            continue;
        const mesh::Geometry g(m_mesh, t);
        m_space.local(t, number, sign);
        for (const auto& q : rule) {
            fem::Basis b;
            fem::basis(m_mesh.dimension, order, q.xi, b);
            const double w = q.w * g.determinant(q.xi) * m_problem.media[piece].sigma;
            conductance += w;
            for (int i = 0; i < m_space.localCount(order); ++i)
                load[size_t(number[i])] += w * sign[i] * b.value[i];
        }
    }
    return conductance;
}

std::vector<std::complex<double>> MagneticSolver::isolate(int order, Values& u) const
{
    using Complex = std::complex<double>;
    const auto n = Eigen::Index(m_problem.isolated.size());
    std::vector<Values> answers;
    Eigen::MatrixXcd net(n, n), rhs(n, 1);
    for (int c = 0; c < n; ++c) {
        // One volt by length along this conductor drives sigma there.
        Values load(size_t(parts()), std::vector<double>(size_t(m_space.count(order)), 0.0));
        const double conductance = loadAlong(c, order, load[0]);
        answers.push_back(m_coupled.answer(order, u, load));
        rhs(c, 0) = -netCurrent(
            order, u, c, m_problem.media[size_t(m_problem.isolated[size_t(c)].front())].driven);
        net(c, c) = conductance;
    }
    for (int c = 0; c < n; ++c)
        for (int k = 0; k < n; ++k) {
            const Complex carried = netCurrent(order, answers[size_t(k)], c, 0);
            net(c, k) = (c == k ? net(c, c) : Complex(0)) + carried;
        }
    const Eigen::MatrixXcd U = fem::solved(net, rhs);
    std::vector<Complex> driven;
    for (int k = 0; k < n; ++k) {
        const Complex by = U(k, 0);
        driven.push_back(by);
        const Values& a = answers[size_t(k)];
        for (size_t i = 0; i < u[0].size(); ++i) {
            const Complex add = by * Complex(a[0][i], parts() > 1 ? a[1][i] : 0.0);
            u[0][i] += add.real();
            if (parts() > 1)
                u[1][i] += add.imag();
        }
    }
    return driven;
}

const MagneticField::Solved& MagneticSolver::solved(int order) const
{
    return m_look ? *m_look : MagneticField::solved(order);
}

void MagneticSolver::complete(int order, Values& unit) const
{
    if (!m_problem.isolated.empty())
        static_cast<void>(isolate(order, unit));
}

Point MagneticSolver::fluxDensity(int order, int cell, const Point& xi, int part) const
{
    const auto here = m_space.at(at(order)[size_t(part)], order, cell, xi);
    return m_problem.fluxDensity(m_problem.stretchAt(m_mesh.piece[size_t(cell)], here.place),
                                 here.place, here.value, here.gradient);
}

MagneticField::State MagneticSolver::state(int order, int cell, const Point& xi, int part) const
{
    const Point B = fluxDensity(order, cell, xi, part);
    return {B, m_problem.field(m_mesh.piece[size_t(cell)], B)};
}

double MagneticSolver::potential(int order, int cell, const Point& xi, int part) const
{
    const double u = m_space.value(at(order)[size_t(part)], order, cell, xi);
    return m_problem.isAxisymmetric() ? u * mesh::Geometry(m_mesh, cell).at(xi).x : u;
}

LocalFunctional MagneticSolver::fluxAlong(const mesh::Locator::Hit& hit, const Point& d) const
{
    const Point p = mesh::Geometry(m_mesh, hit.cell).at(hit.xi);
    const auto stretch = m_problem.stretchAt(m_mesh.piece[size_t(hit.cell)], p);
    // B . d = grad A . (-d_y, d_x), and round an axis (d_z, -d_r) with d_z A / r beside it.
    if (!m_problem.isAxisymmetric())
        return {hit, stretch.shrunk({d.y, -d.x})};
    const Point way = stretch.shrunk({d.y, -d.x});
    LocalFunctional f{hit, -p.x * way};
    f.share = way.x + d.y / stretch.across;
    return f;
}

std::vector<SingularCorner> MagneticSolver::singularCorners() const
{
    CornerProblem c;
    c.measure = fem::Measure::plane;
    c.held = m_problem.held;
    c.coefficient = [this](int piece, const Point&) {
        const MagneticMedium& m = m_problem.media[size_t(piece)];
        return m.mu > 0 ? 1 / m.mu : 0.0;
    };
    return findSingularCorners(c, m_mesh, m_partition);
}

}  // namespace yh::physics
