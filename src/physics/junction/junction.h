// Electrons and holes along a line: Poisson's and both continuity equations between two ohmic
// contacts.
//
//   d/dx(eps dV/dx) = -q (p - n + N),   dJn/dx = q (R - G),   dJp/dx = -q (R - G),
//   Jn = q mu_n (n E + Vt dn/dx),       Jp = q mu_p (p E - Vt dp/dx)
//
// on boxes with fluxes that are exact for a constant field and flux (Scharfetter and Gummel, IEEE
// Trans. Electron Devices 16 (1969) 64, from memory). Boltzmann statistics, dopants fully ionised,
// one semiconductor. Numbers have 64 bits of mantissa, so that leakage does not drown in the
// cancelling of drift and diffusion. Not covered: heterojunctions, degenerate statistics,
// tunnelling, barriers at contacts, light as such (its generation is stated).
#pragma once

#include "physics/junction/conditions.h"

#include <array>
#include <map>
#include <memory>
#include <string>
#include <vector>

namespace yh::physics {

struct JunctionLayer
{
    std::string name;
    int line = -1;
    double thickness = 0;              ///< m
    double donors = 0, acceptors = 0;  ///< 1/m^3
    Lifetimes life;
    double electronMobility = 0, holeMobility = 0;  ///< m^2/(V s)
    double generation = 0;                          ///< 1/(m^3 s)
    [[nodiscard]] double net() const { return donors - acceptors; }
};

struct JunctionProblem : JunctionConditions
{
    double area = 1;       ///< m^2
    bool biasLeft = true;  ///< which end the voltage is applied to; the other one is at 0 V
    std::vector<JunctionLayer> layers;  ///< from left to right
    [[nodiscard]] double length() const;
};

/// A solved state.
struct JunctionState
{
    using Real = long double;
    double bias = 0;              ///< V
    std::vector<Real> psi, n, p;  ///< potential over the thermal voltage; densities over the scale
};

/// A grid along the line.
class LineGrid : public JunctionGrid
{
public:
    using Real = long double;
    /// @param level  cells are halved so often
    LineGrid(const JunctionProblem& problem, int level);

    /// The state at a bias, from the nearest one known.
    /// @throws Error 7710: it was not reached, with the bias that was
    [[nodiscard]] const JunctionState& at(double bias, base::Progress& progress) const;
    [[nodiscard]] double current(double bias, base::Progress& progress) const override;
    [[nodiscard]] double unevenness(double bias, base::Progress& progress) const override;
    [[nodiscard]] double holeCharge(double bias, base::Progress& progress) const override;
    [[nodiscard]] double builtIn(base::Progress& progress) const override;
    [[nodiscard]] const std::vector<Real>& places() const { return m_x; }
    /// Conduction and valence band, and both quasi-Fermi levels, eV; n and p, 1/m^3.
    [[nodiscard]] std::vector<std::array<double, 7>> bands(double bias,
                                                           base::Progress& progress) const;
    [[nodiscard]] int size() const override { return int(m_x.size()); }

private:
    [[nodiscard]] JunctionState equilibrium() const;
    /// Newton's method from a guess. @returns whether it converged
    bool solve(JunctionState& state) const;
    struct Flux
    {
        Real value = 0, byLeft = 0, byRight = 0, byPsi = 0;  ///< by the density at the ends, by psi
    };
    [[nodiscard]] Flux electronFlux(const JunctionState& s, size_t cell) const;
    [[nodiscard]] Flux holeFlux(const JunctionState& s, size_t cell) const;
    using Rate = Recombination<Real>;
    /// Ohmic contacts: neutral, at equilibrium.
    void setEnds();
    /// Recombination less generation by volume in a layer.
    [[nodiscard]] Rate recombination(int layer, Real n, Real p) const;
    [[nodiscard]] std::vector<Real> currents(const JunctionState& s) const;
    /// Size of the flows that make the flux in a cell.
    [[nodiscard]] Real sizeAt(const JunctionState& s, size_t cell) const;

    const JunctionProblem& m_problem;
    std::vector<Real> m_x;                      ///< m; nodes
    std::vector<int> m_layer;                   ///< by cell
    Real m_scale = 1;                           ///< of densities, 1/m^3
    Real m_ni = 0;                              ///< over it
    std::array<std::array<Real, 3>, 2> m_ends;  ///< psi, n, p of the contacts without bias
    mutable std::map<double, JunctionState> m_states;
};

}  // namespace yh::physics
