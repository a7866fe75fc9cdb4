// Where a discharge in air begins, from a solved electrostatic field: the streamer criterion along
// field lines.
//
// An avalanche becomes a streamer where the integral of the effective ionisation over the part of
// a field line on which it is positive reaches K. Fields are proportional to the drives, so that
// each line has one factor of the drives at which that happens; the least of all lines counts. A
// gap breaks down where a streamer also crosses it: its mean field then is at least that in which
// positive streamers grow.
// Sources: K. Petcharaks, Applicability of the streamer breakdown criterion to inhomogeneous gas
// gaps, thesis, ETH Zurich 1995 (ionisation, K = 9.15); I. Gallimberti, J. Physique Colloques 40,
// C7 (1979) 193 (0.5 kV/mm for growth); both from memory.
// Not covered: very short gaps (below 0.1 mm at 1 bar electrons from the electrode decide), leaders
// in gaps of metres, charge that stays on insulation, humidity.
#pragma once

#include "physics/electrostatic/electrostatic.h"

namespace yh::physics {

/// Effective ionisation coefficient of dry air, 1/m; negative where attachment outweighs it.
/// Above 14 kV/mm at 1 bar it goes on in Townsend's form, with B = 365 V/(cm Torr).
/// @param E        V/m
/// @param density  pressure in bar that the air would have at 20 degC
[[nodiscard]] double effectiveIonisation(double E, double density);
/// Field in which it vanishes, V/m at 1 bar and 20 degC.
inline constexpr double criticalField = 2.588e6;
/// Logarithm of the number of electrons in an avalanche that becomes a streamer.
inline constexpr double streamerConstant = 9.15;
/// Mean field in which positive streamers grow, V/m at 1 bar and 20 degC.
inline constexpr double streamerField = 5e5;

/// A field line from one border of the gas to another.
struct FieldLine
{
    std::vector<double> field;   ///< V/m, at starts, middles and ends of its steps
    std::vector<double> length;  ///< m, of its steps
    double whole = 0;            ///< m
    double voltage = 0;          ///< V, between its ends, not negative
    int ends[2] = {-1, -1};      ///< conductors that it joins; -1: insulation or none
    Point start;
    mesh::Locator::Hit foot;  ///< the cell where it starts
    /// Largest integral of the ionisation over a stretch where it is positive, with the field
    /// multiplied by a factor.
    [[nodiscard]] double ionisation(double factor, double density) const;
};

struct Discharge
{
    double factor = 0;  ///< of the drives; 0: none was found
    double unsure = 0;  ///< relative, by steps along the line and the choice of where it starts
    FieldLine line;
};

/// Least factor of the drives at which a streamer starts, or crosses the gap, in pieces of gas.
/// @param crosses  only lines between two conductors count, and the mean field must let it cross
[[nodiscard]] Discharge discharge(const ElectrostaticSolver& solver, int order,
                                  const std::vector<int>& gas, double density, bool crosses,
                                  const shape::Partition& partition);

}  // namespace yh::physics
