// Figures of the magnetic field of drawings: linkages, induced currents, drag.
#include "physics/common/constants.h"
#include "physics/magnetic/magnetic.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

void MagneticSolver::nameQuantities()
{
    auto& list = m_quantities;
    const bool two = m_problem.alternates();
    if (m_problem.isAxisymmetric())
        list.push_back({"flux", "flux inside", "Wb", 1, "lines of equal flux"});
    else
        list.push_back({"A", "vector potential", "Wb/m", 1, "lines of equal flux"});
    list.push_back({"B", two ? "flux density in phase" : "flux density", "T", 3, {}, true});
    if (two)
        list.push_back({"B2", "flux density a quarter later", "T", 3});
    list.push_back({"H", two ? "field strength in phase" : "field strength", "A/m", 3});
    list.push_back({"energy density", "energy density", "J/m^3", 1});
    if (two || m_problem.moves()) {
        list.push_back({"J", "induced current density", "A/m^2", 1});
        list.push_back({"loss", "heating by induced currents", "W/m^3", 1});
    }
}

void MagneticSolver::sample(int cell, const Point& xi, double* values) const
{
    const int piece = m_mesh.piece[size_t(cell)];
    auto put = [&values](const Point& v) {
        for (const double x : {v.x, v.y, v.z})
            *values++ = x;
    };
    const Point B = fluxDensity(order(), cell, xi), p = mesh::Geometry(m_mesh, cell).at(xi);
    const double A = potential(order(), cell, xi);
    *values++ =
        m_problem.isAxisymmetric() ? 2 * pi * p.x * m_problem.stretchAt(piece, p).across * A : A;
    put(B);
    double energy = m_problem.energy(piece, B);
    if (m_problem.alternates()) {
        // At cos(omega t + 90 deg), a quarter of a period later, minus the imaginary part.
        const Point later = fluxDensity(order(), cell, xi, 1);
        put(-1.0 * later);
        energy = (energy + m_problem.energy(piece, later)) / 2;
    }
    put(m_problem.field(piece, B));
    *values++ = energy;
    if (!m_problem.alternates() && !m_problem.moves())
        return;
    *values++ = inducedCurrent(order(), cell, xi);
    *values = lossDensity(order(), cell, xi);
}

MagneticSolver::Values MagneticSolver::linkageOf(int order, int coil) const
{
    const Coil& c = m_problem.coils[size_t(coil)];
    Values f(size_t(parts()), std::vector<double>(size_t(m_space.count(order)), 0.0));
    std::vector<double> density(m_problem.media.size(), 0.0);
    for (const int p : c.pieces)
        density[size_t(p)] += c.turns / c.area;
    for (const int p : c.back)
        density[size_t(p)] -= c.turns / c.areaBack;
    const auto& rule = fem::cellRule(m_mesh.dimension, fem::termDegree(m_mesh.dimension, order));
    int number[fem::mostLocal];
    double sign[fem::mostLocal];
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const double d = density[size_t(m_mesh.piece[size_t(t)])];
        if (d == 0)
            continue;
        const mesh::Geometry g(m_mesh, t);
        m_space.local(t, number, sign);
        for (const auto& q : rule) {
            const Point p = g.at(q.xi);
            fem::Basis b;
            fem::basis(m_mesh.dimension, order, q.xi, b);
            const double w = d * q.w * g.determinant(q.xi) * measureAt(m_problem.area, p) *
                             (m_problem.isAxisymmetric() ? p.x : 1.0);
            for (int i = 0; i < m_space.localCount(order); ++i)
                f[0][size_t(number[i])] += w * sign[i] * b.value[i];
        }
    }
    return f;
}

namespace {

double product(const std::vector<double>& a, const std::vector<double>& b)
{
    double sum = 0;
    for (size_t i = 0; i < a.size(); ++i)
        sum += a[i] * b[i];
    return sum;
}

}  // namespace

double MagneticSolver::linkage(int order, int coil) const
{
    return m_problem.scale * m_problem.coils[size_t(coil)].share *
           product(linkageOf(order, coil)[0], at(order)[0]);
}

std::vector<double> MagneticSolver::inductances(int order) const
{
    return linked(order, 0);
}

std::vector<double> MagneticSolver::resistances(int order) const
{
    // The voltage is j omega times the linkage.
    std::vector<double> R = linked(order, 1);
    for (double& x : R)
        x *= -m_problem.omega;
    return R;
}

std::vector<double> MagneticSolver::linked(int order, int part) const
{
    const size_t n = m_problem.coils.size();
    std::vector<double> L(n * n);
    const auto& unit = unitFields(order);
    for (size_t i = 0; i < n; ++i) {
        const Values own = linkageOf(order, int(i));
        for (size_t k = 0; k < n; ++k)
            L[i * n + k] =
                m_problem.scale * m_problem.coils[i].share * product(own[0], unit[k][size_t(part)]);
    }
    return L;
}

double MagneticSolver::induced(int order, int cell, const Point& xi, int part) const
{
    const auto piece = size_t(m_mesh.piece[size_t(cell)]);
    const MagneticMedium& m = m_problem.media[piece];
    if (m.sigma <= 0)
        return 0;
    const int conductor = m_conductorOf[piece];
    const std::complex<double> driven =
        conductor >= 0 ? solved(order).driven[size_t(conductor)] : 0.0;
    // -j omega sigma A, part by part, and what the conductor's own voltage drives.
    if (m_problem.alternates())
        return m.sigma *
               ((part == 0 ? 1 : -1) * m_problem.omega * potential(order, cell, xi, 1 - part) +
                (part == 0 ? driven.real() : driven.imag()));
    if (!m.moves)
        return 0;
    const double along = dot(m_problem.way, m_space.gradient(at(order)[0], order, cell, xi)),
                 A = m_problem.isAxisymmetric() ? mesh::Geometry(m_mesh, cell).at(xi).x : 1.0;
    return m.sigma * (driven.real() - m_problem.speed * A * along);
}

double MagneticSolver::inducedCurrent(int order, int cell, const Point& xi) const
{
    return m_problem.alternates()
               ? std::hypot(induced(order, cell, xi, 0), induced(order, cell, xi, 1))
               : induced(order, cell, xi, 0);
}

double MagneticSolver::lossDensity(int order, int cell, const Point& xi) const
{
    const double sigma = m_problem.media[size_t(m_mesh.piece[size_t(cell)])].sigma,
                 J = inducedCurrent(order, cell, xi);
    return sigma > 0 ? J * J / (sigma * parts()) : 0.0;
}

double MagneticSolver::loss(int order, const std::vector<int>& pieces) const
{
    const auto wanted = flags(pieces, m_partition.pieces().size());
    double sum = 0;
    overCells(order, [&](int t, const Point& xi, const Point&, double w) {
        if (wanted[size_t(m_mesh.piece[size_t(t)])])
            sum += w * lossDensity(order, t, xi);
    });
    return sum;
}

MagneticField::Balance MagneticSolver::balance(int order) const
{
    Balance b = MagneticField::balance(order);
    // What moves carries currents of its own. Those that alternate lag their A by a quarter, and
    // give nothing in the mean.
    if (m_problem.moves())
        overCells(order, [&](int t, const Point& xi, const Point&, double w) {
            b.coils += w * inducedCurrent(order, t, xi) * potential(order, t, xi);
        });
    return b;
}

double MagneticSolver::drag(int order, double speed)
{
    for (const auto& known : m_drags)
        if (known[0] == order && known[1] == speed)
            return known[2];
    std::vector<int> moving;
    for (const int f : m_problem.activePieces)
        if (m_problem.media[size_t(f)].moves)
            moving.push_back(f);
    const double own = m_problem.speed;
    Solved s = solved(order);
    if (speed != std::abs(own)) {
        m_problem.speed = std::copysign(speed, own);
        fem::NewtonReport report;
        s = solvedAt(order, s.u, report);
    }
    m_look = &s;
    const double force = loss(order, moving) / speed;
    m_look = nullptr;
    m_problem.speed = own;
    m_drags.push_back({double(order), speed, force});
    return force;
}

double MagneticSolver::speedOf(int order, double force)
{
    // While the drag grows nearly with the speed, v F / D(v) comes nearer and nearer; a secant
    // between the last two speeds that lie to either side of it is faster.
    double v = m_found > 0 ? m_found : std::abs(m_problem.speed), low = 0, high = 0, lowForce = 0,
           highForce = 0;
    // Beyond its largest value the drag falls: the speeds below are the stable ones.
    constexpr double less = 0.5;
    constexpr int halvings = 40;
    for (int i = 0;
         i < halvings && drag(order, v) < force && drag(order, less * v) > drag(order, v); ++i)
        v *= less;
    double largest = 0, at = v;
    constexpr int most = 60;
    constexpr double close = 1e-8, slower = 100, faster = 4;
    for (int i = 0; i < most; ++i) {
        const double D = drag(order, v);
        if (std::abs(D / force - 1) < close) {
            m_found = v;
            return v;
        }
        // A drag that falls while the speed rises has its largest value behind it.
        if (D < force && high == 0 && v > at && D < largest)
            break;
        if (D > largest) {
            largest = D;
            at = v;
        }
        (D < force ? low : high) = v;
        (D < force ? lowForce : highForce) = D;
        v = low > 0 && high > 0 ? low + (high - low) * (force - lowForce) / (highForce - lowForce)
                                : v * std::clamp(force / D, 1 / slower, faster);
    }
    if (high > 0)
        return v;
    throw base::Error(7410, "the drag never reaches " + base::format(force, base::dim::force) +
                                ": its largest is about " +
                                base::format(largest, base::dim::force) + ", at " +
                                base::formatNumber(at, 3) + " m/s");
}

}  // namespace yh::physics
