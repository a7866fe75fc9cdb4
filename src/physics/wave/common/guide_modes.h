// Modes of an endless guide with any section of several media, walls and losses:
//
//   E = (E_t + z E_z) exp(-j beta z),   E_t = e,   E_z = j beta phi,
//   integral of curl e . curl w / mu - k^2 eps e . w
//     = -beta^2 (integral of (e + grad phi) . (w + grad psi) / mu - k^2 eps phi psi)
//
// for all w, psi, with e in H(curl) and phi in H1 of one order, so that gradients of one space lie
// in the other and nothing spurious travels. A wall of metal adds j omega mu0 / Z_s times the
// products along it, to e on the left and to phi on the right. A guide that is bent about a line
// parallel to y at x = -R is a straight one of the medium eps diag(s, s, 1/s), mu the same, with
// s = 1 + x / R and beta counted along x = 0.
// Sources: Lee, Sun and Cendes, IEEE Trans. Microw. Theory Tech. 39 (1991) 1262; Ward and Pendry,
// J. Mod. Opt. 43 (1996) 773 for the bend (both from memory).
#pragma once

#include "physics/wave/common/wave.h"

#include <complex>

namespace yh::physics {

class GuideModesSolver : public Solution
{
public:
    GuideModesSolver(const WaveProblem& problem, const mesh::Mesh& mesh,
                     const shape::Partition& partition, int order, base::Progress& progress);
    /// @throws Error 5026: fewer modes travel than are looked for
    void solve(int lowestOrder, base::Progress& progress) override;
    const mesh::Mesh& mesh() const override { return m_mesh; }
    int order() const override { return m_space.order(); }
    Counters counters() const override { return m_counters; }
    const std::vector<Quantity>& quantities() const override { return m_quantities; }
    [[nodiscard]] std::vector<Axis> axes() const override;
    void sample(int cell, const Point& xi, double* values) const override;
    std::vector<double> indicator(bool allDrives) const override;
    std::vector<double> dualIndicator(const LocalFunctional&) override { return indicator(false); }
    double geometryError() const override;
    std::vector<SingularCorner> singularCorners() const override { return {}; }

    [[nodiscard]] const WaveProblem& problem() const { return m_problem; }
    /// e of a mode without loss and phi, by function.
    [[nodiscard]] const std::vector<double>& across(int order, int mode) const
    {
        return at(order).modes[size_t(mode)].e[0];
    }
    [[nodiscard]] const std::vector<double>& potential(int order, int mode) const
    {
        return at(order).modes[size_t(mode)].phi[0];
    }
    /// Modes count from 0, by falling effective index.
    [[nodiscard]] int modeCount() const { return int(m_solved.back().modes.size()); }
    /// Propagation constant, 1/m; its imaginary part is minus the attenuation.
    [[nodiscard]] std::complex<double> beta(int order, int mode) const;
    /// Of vacuum at the frequency, 1/m.
    [[nodiscard]] double wavenumber() const { return m_k; }
    /// beta over that of vacuum.
    [[nodiscard]] std::complex<double> effectiveIndex(int order, int mode) const;
    /// Speed of light over that of a pulse, by the derivative of beta^2 with the frequency, which
    /// the field itself holds; materials and walls as they are at this frequency.
    [[nodiscard]] double groupIndex(int order, int mode) const;
    /// Square of the integral of |E|^2 over that of |E|^4, m^2, whole section.
    [[nodiscard]] double area(int order, int mode) const;
    /// Share of |E_x|^2 in |E_x|^2 + |E_y|^2, integrated.
    [[nodiscard]] double polarisation(int order, int mode) const;
    /// Share of the power that runs in pieces.
    [[nodiscard]] double confinement(int order, int mode, const std::vector<int>& pieces) const;
    /// |V|^2 over twice the power of the whole guide, V along a straight line, ohm.
    [[nodiscard]] double lineImpedance(int order, int mode, const Point& a, const Point& b) const;

private:
    using Complex = std::complex<double>;
    struct Mode
    {
        Complex beta2;
        double groupIndex = 0;
        /// Coefficients, real and imaginary; the guide carries 1 W.
        std::vector<double> e[2], phi[2];
    };
    struct Solved
    {
        int order = 0;
        std::vector<Mode> modes;
    };
    struct FieldAt
    {
        Complex E[3], H[3];
        /// Power by area along the guide, W/m^2.
        [[nodiscard]] double power() const
        {
            return 0.5 * (E[0] * std::conj(H[1]) - E[1] * std::conj(H[0])).real();
        }
    };
    /// Element matrices of an order: functions of e, then of phi.
    struct Elements
    {
        fem::ElementMatrices curl, along, across, grad;
    };
    class System;

    [[nodiscard]] const Solved& at(int order) const;
    [[nodiscard]] Elements elementsOf(bool imaginary) const;
    [[nodiscard]] std::vector<Mode> modesOf(int order, base::Progress& progress);
    /// Whether a mode lives in the absorbing shell, where nothing of the device is.
    [[nodiscard]] bool isOfShell(const Mode& mode, int order) const;
    /// What can be shown of the modes asked for.
    void nameQuantities();
    /// How much alike two modes are: by e in the plane, which the coefficients of both hold in the
    /// same places.
    [[nodiscard]] double likeness(const Mode& a, const Mode& b) const;
    /// Of a cell: the energy of coefficients `e` and `phi`, and that of a mode's field.
    [[nodiscard]] std::array<double, 2> energies(int t, const Mode& m, const std::vector<double>& e,
                                                 const std::vector<double>& phi) const;
    void follow();
    [[nodiscard]] FieldAt fieldAt(const Mode& mode, int order, int cell, const Point& xi) const;
    /// Loss angle of a piece at the frequency of the problem.
    [[nodiscard]] double lossOf(size_t piece) const;
    template <class Visit>
    void overCells(int order, Visit visit) const;
    [[nodiscard]] std::vector<double> geometryShares(int mode) const;
    [[nodiscard]] double images() const;

    const WaveProblem& m_problem;
    const mesh::Mesh& m_mesh;
    const shape::Partition& m_partition;
    fem::EdgeSpace m_space;
    fem::H1Space m_scalar;
    std::vector<fem::Coefficient> m_eps[2], m_inverseMu[2];  ///< with bend and shell; re, im
    Elements m_elements[2];
    bool m_isStretched = false;  ///< there are imaginary parts beside losses
    std::vector<int> m_ranks;
    std::vector<Solved> m_solved;
    std::vector<Quantity> m_quantities;
    mesh::Locator m_locator;
    double m_k = 0;  ///< 1/m, of vacuum
    Counters m_counters;
};

}  // namespace yh::physics
