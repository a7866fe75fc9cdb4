// What junctions along a line and drawn ones share: the semiconductor and its state, the voltages
// of the curves, the terms of the equations, and what figures ask of a solution.
#pragma once

#include "base/progress.h"
#include "physics/junction/semiconductor.h"
#include "sheet/model.h"

#include <cmath>
#include <functional>
#include <string>

namespace yh::physics {

inline constexpr double elementary = 1.602176634e-19, boltzmann = 1.380649e-23;

struct JunctionConditions
{
    Semiconductor material;
    double temperature = 300;  ///< K
    double ni = 0;             ///< 1/m^3
    bool auger = true, radiative = true;
    double from = 0, to = 0;  ///< V, of the curves
    int steps = 0;
    bool isLit = false;  ///< pairs are generated somewhere
    [[nodiscard]] double thermal() const { return boltzmann * temperature / elementary; }
    [[nodiscard]] double biasOf(int step) const
    {
        return step == steps - 1 ? to : from + (to - from) * step / (steps - 1);
    }
    /// Length over which charge is screened, m.
    /// @param doping  1/m^3
    [[nodiscard]] double screening(double doping) const;
};

/// Reads the lines of the semiconductor and of its recombination.
void readSemiconductor(const sheet::Model& model, base::Faults& faults, JunctionConditions& c);
/// Reads the voltages of the curves from a line that states them.
void readBias(const sheet::Model& model, const sheet::Line& line, base::Faults& faults,
              JunctionConditions& c);

/// What is known of it, for a check.
[[nodiscard]] std::string semiconductorText(const JunctionConditions& c);

/// x / (exp(x) - 1) and its derivative.
template <class Real>
struct Bernoulli
{
    Real value, slope;
    explicit Bernoulli(Real x)
    {
        const Real small = Real(1e-3L);
        if (std::abs(x) < small) {
            // The series, whose next term is below the last digit.
            const Real y = x * x;
            value = 1 - x / 2 + y / 12 * (1 - y / 60 * (1 - y / 42));
            slope = Real(-0.5L) + x / 6 * (1 - y / 30 * (1 - y / 28));
            return;
        }
        const Real e = std::expm1(x);
        value = x / e;
        slope = std::isfinite(e) ? (1 - value * (e + 1)) / e : Real(0);
    }
};

/// Lifetimes of electrons and holes by traps, s; 0: there are none.
struct Lifetimes
{
    double electrons = 0, holes = 0;
    bool operator==(const Lifetimes& o) const
    {
        return electrons == o.electrons && holes == o.holes;
    }
};

/// Recombination by volume and time, over the scale of densities, and its slopes.
template <class Real>
struct Recombination
{
    Real value = 0, byN = 0, byP = 0;
    /// @param scale  1/m^3, of the densities n, p and ni
    Recombination(const JunctionConditions& c, const Lifetimes& life, Real scale, Real ni, Real n,
                  Real p)
    {
        const Real product = n * p - ni * ni;
        auto add = [&](Real factor, Real factorByN, Real factorByP) {
            value += factor * product;
            byN += factor * p + factorByN * product;
            byP += factor * n + factorByP * product;
        };
        if (life.electrons > 0 && life.holes > 0) {
            // Shockley, Read, Hall; traps in the middle of the gap.
            const Real below = Real(life.holes) * (n + ni) + Real(life.electrons) * (p + ni);
            add(1 / below, -Real(life.holes) / (below * below),
                -Real(life.electrons) / (below * below));
        }
        if (c.radiative)
            add(Real(c.material.radiative) * scale, 0, 0);
        if (c.auger) {
            const Real a = Real(c.material.augerN) * scale * scale,
                       b = Real(c.material.augerP) * scale * scale;
            add(a * n + b * p, a, b);
        }
    }
};

/// One grid, which is solved for whichever bias is asked for.
class JunctionGrid
{
public:
    virtual ~JunctionGrid() = default;
    /// Current into the contact with the bias, A.
    /// @throws Error 7710: the bias was not reached, with the one that was
    [[nodiscard]] virtual double current(double bias, base::Progress& progress) const = 0;
    /// By how much the current fails to be the same everywhere, relative.
    [[nodiscard]] virtual double unevenness(double bias, base::Progress& progress) const = 0;
    /// Charge of all holes, C.
    [[nodiscard]] virtual double holeCharge(double bias, base::Progress& progress) const = 0;
    /// Difference of potential between the contact with the bias and another one, without it, V.
    [[nodiscard]] virtual double builtIn(base::Progress& progress) const = 0;
    [[nodiscard]] virtual int size() const = 0;
};

/// What figures over the voltage need of a solution; its levels are grids, from coarse to fine.
class JunctionCurves
{
public:
    virtual ~JunctionCurves() = default;
    [[nodiscard]] virtual const JunctionConditions& conditions() const = 0;
    [[nodiscard]] virtual const JunctionGrid& grid(int level) const = 0;
    [[nodiscard]] virtual base::Progress& progress() const = 0;
    [[nodiscard]] virtual int finest() const = 0;
    /// What the grids say of a figure at one of the solution's estimates.
    using Figure = std::function<double(int level)>;
    [[nodiscard]] virtual double estimate(int level, const Figure& figure) const = 0;

    [[nodiscard]] double current(int level, double bias) const
    {
        return grid(level).current(bias, progress());
    }
    /// Slope of a function of the bias, by a difference of fourth order.
    [[nodiscard]] double slope(double bias, const std::function<double(double)>& f) const;
    [[nodiscard]] double capacitance(int level, double bias) const;
    /// Voltage without current. @throws Error 7711: nothing is generated
    [[nodiscard]] double openVoltage(int level) const;
    struct Power
    {
        double power = 0, voltage = 0, fill = 0;
    };
    [[nodiscard]] Power largestPower(int level) const;
};

}  // namespace yh::physics
