#include "fem/coupled_newton.h"

#include "base/clock.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace yh::fem {

namespace {

constexpr double nearly = 1e-9, smallStep = 1e-11;
/// Cells' flows cancel to rounding in the sum over their functions. In solids every further
/// correction is dear: there flows need only balance far better than figures are known, as they
/// need for orders that serve for errors only.
double convergedAt(const H1Space& space, int order)
{
    if (space.mesh().dimension == 3)
        return 1e-8;
    return order < space.order() ? nearly : 1e-13;
}

}  // namespace

CoupledSolver::Newton::Newton(CoupledSolver& solver, Layout& l, int order, Values& u, double drive,
                              NewtonReport& report)
    : m_solver(solver),
      m_l(l),
      m_order(order),
      m_u(u),
      m_drive(drive),
      m_report(report),
      m_converged(convergedAt(solver.m_space, order))
{
    solver.fixed(l, drive, 0, u);
    l.tangentDt = -1;
    l.isTangent = false;
    report.unknowns = l.size;
}

bool CoupledSolver::Newton::finished()
{
    m_l.isTangent = m_isSetUp && m_isAtU && m_drive == 1;
    return true;
}

double CoupledSolver::Newton::residual(bool withTangent)
{
    m_isAtU = withTangent;
    const double start = base::seconds();
    m_solver.assemble(m_l, m_order, m_u, m_drive, {}, withTangent);
    m_report.assembleSeconds += base::seconds() - start;
    double sum[mostFields] = {0, 0}, worst = 0;
    for (int i = 0; i < m_l.size; ++i)
        sum[m_l.fieldOf[size_t(i)]] += std::abs(m_l.R[size_t(i)]);
    // Flows far below those that were met before count as none.
    constexpr double noise = 1e-6;
    for (int f = 0; f < m_solver.m_fields; ++f) {
        if (std::isfinite(m_l.scale[f]))
            m_l.seen[f] = std::max(m_l.seen[f], m_l.scale[f]);
        if (const double scale = std::max(m_l.scale[f], noise * m_l.seen[f]); scale > 0)
            worst = std::max(worst, sum[f] / scale);
        if (!std::isfinite(sum[f]))
            worst = std::numeric_limits<double>::infinity();
    }
    return worst;
}

void CoupledSolver::Newton::firstFieldAlone()
{
    const std::vector<double> whole = m_l.J.value;
    std::vector<double> correction = m_l.R;
    for (int r = 0; r < m_l.size; ++r) {
        if (m_l.fieldOf[size_t(r)] == 0)
            continue;
        correction[size_t(r)] = 0;
        for (int k = m_l.J.start[size_t(r)]; k < m_l.J.start[size_t(r) + 1]; ++k)
            m_l.J.value[size_t(k)] = m_l.J.column[size_t(k)] == r ? 1.0 : 0.0;
    }
    constexpr double forItsSize = 1e-6;
    m_solver.linearSolve(m_l, correction, m_report, forItsSize);
    m_l.J.value = whole;
    m_solver.applyStep(m_l, correction, -1, m_u);
}

double CoupledSolver::Newton::tolerance() const
{
    // As exactly as Newton's method will turn out to converge, and no further than the end. Source:
    // Eisenstat and Walker, SIAM J. Sci. Comput. 17 (1996) 16, choice 2 (from memory).
    constexpr double loosest = 1e-3, safety = 0.1;
    const double ratio = m_before > 0 ? m_now / m_before : 1.0;
    const double fast = std::min(loosest, safety * ratio * ratio);
    return std::max({exactly, fast, std::min(loosest, safety * m_converged / m_now)});
}

double CoupledSolver::Newton::along(const std::vector<double>& correction) const
{
    double sum = 0;
    for (size_t k = 0; k < correction.size(); ++k)
        sum += correction[k] * m_l.R[k];
    return sum;
}

double CoupledSolver::Newton::damped(const std::vector<double>& correction, double length,
                                     double wanted)
{
    const Values here = m_u;
    // Where the tangent is that of an energy, its slope along the step tells how far to go.
    const bool hasEnergy = m_solver.m_model.isSymmetric();
    const double slope = hasEnergy ? along(correction) : 0;
    constexpr int mostHalvings = 16;
    double by = 1;
    for (int h = 0; h < mostHalvings; ++h) {
        m_u = here;
        m_solver.applyStep(m_l, correction, -by, m_u);
        // Nearly every correction is accepted: its tangent is made with its residual, and the one
        // before waits for the test below.
        if (h == 0)
            m_kept.swap(m_l.J.value);
        m_next = residual(h == 0);
        // A residual that falls this far speaks for itself.
        constexpr double strongly = 0.05;
        if (m_next < nearly || m_next < strongly * m_now || length < smallStep)
            return by;
        if (hasEnergy && std::isfinite(m_next)) {
            // Too far is where the energy rises again more than a part as steeply; the secant says
            // where it did not.
            constexpr double part = 0.4, least = 0.1, most = 0.9;
            const double beyond = along(correction);
            if (beyond > -part * slope)
                return by;
            by *= std::clamp(slope / (slope - beyond), least, most);
            continue;
        }
        if (std::isfinite(m_next)) {
            // The next correction with the same tangent must be shorter, a test that does not
            // depend on how equations are weighted (Deuflhard, section 3.3).
            std::vector<double> after = m_l.R;
            m_kept.swap(m_l.J.value);
            m_solver.solveFactored(m_l, after, wanted);
            m_kept.swap(m_l.J.value);
            if (m_solver.sizeOf(m_l, m_u, after) <= (1 - 0.25 * by) * length)
                return by;
        }
        by *= 0.5;
    }
    return 0;
}

CoupledSolver::Newton::Step CoupledSolver::Newton::step(int iteration)
{
    std::vector<double> correction = m_l.R;
    // Once residuals are small tangents hardly change any more, and what one of them leaves the
    // next brings down as well.
    constexpr double near = 0.01, enough = 1e-3, nothing = 1e-14;
    const bool isNear =
        m_now < near && m_isSetUp && !m_l.iterative && m_solver.m_model.isSymmetric();
    const double wanted = std::max(tolerance(), isNear ? enough : 0.0);
    m_before = m_now;
    m_solver.weigh(m_l);
    m_solver.linearSolve(m_l, correction, m_report, wanted, isNear);
    m_isSetUp = true;
    ++m_report.iterations;
    const double length = m_solver.sizeOf(m_l, m_u, correction);
    if (!std::isfinite(length))
        return Step::failed;
    if (length < nothing)
        return Step::last;
    const double by = damped(correction, length, wanted);
    if (by == 0)
        return Step::failed;
    if (by < 1)
        m_next = residual(true);
    for (size_t f = 0; f < m_u.size(); ++f)
        for (const double x : m_u[f])
            m_l.largest[f] = std::max(m_l.largest[f], std::abs(x));
    m_report.residual = m_next;
    // Within rounding of the flows no further step can help.
    const bool isLast =
        m_next < nearly && (by * length < smallStep || (iteration > 0 && m_next > 0.5 * m_now));
    m_now = m_next;
    return isLast ? Step::last : Step::taken;
}

bool CoupledSolver::Newton::run()
{
    constexpr int mostIterations = 60;
    constexpr double farAway = 0.2;
    m_now = residual(true);
    m_kept.resize(m_l.J.value.size());
    if (m_solver.m_fields > 1 && m_now >= farAway) {
        firstFieldAlone();
        m_now = residual(true);
    }
    for (int i = 0; i < mostIterations; ++i) {
        m_solver.m_progress.check();
        if (m_now < m_converged)
            return finished();
        const Step taken = step(i);
        if (taken != Step::taken)
            return taken == Step::last && finished();
    }
    return false;
}

}  // namespace yh::fem
