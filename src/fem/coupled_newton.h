// Inside the coupled solver only: Newton's method with damping, for one order and share of the
// drives. Source: Deuflhard, Newton Methods for Nonlinear Problems, 2004, chapter 3 (from memory).
#pragma once

#include "fem/coupled_layout.h"

namespace yh::fem {

class CoupledSolver::Newton
{
public:
    /// All must outlive it.
    /// @param[in,out] u  the guess, then the state
    Newton(CoupledSolver& solver, Layout& l, int order, Values& u, double drive,
           NewtonReport& report);
    /// @returns false: no state was found from there
    bool run();

private:
    enum class Step { taken, last, failed };
    /// Assembles at u. @returns the sum of what is left of the flows, over their sizes
    double residual(bool withTangent);
    /// The first field alone, the other one held: what drives the second is then known, and its
    /// own correction judges the second.
    void firstFieldAlone();
    /// How exactly a correction is worth solving for.
    [[nodiscard]] double tolerance() const;
    Step step(int iteration);
    /// Goes along the correction as far as that is of use.
    /// @returns the share of it, 0: no share is
    double damped(const std::vector<double>& correction, double length, double wanted);
    /// The slope of the energy along a correction.
    [[nodiscard]] double along(const std::vector<double>& correction) const;
    bool finished();

    CoupledSolver& m_solver;
    Layout& m_l;
    int m_order;
    Values& m_u;
    double m_drive;
    NewtonReport& m_report;
    double m_converged;
    double m_now = 0, m_before = 0, m_next = 0;  ///< residuals
    std::vector<double> m_kept;                  ///< the tangent before
    bool m_isSetUp = false, m_isAtU = false;
};

}  // namespace yh::fem
