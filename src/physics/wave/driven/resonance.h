// Resonances of driven devices, by the poles of their S-parameters.
#pragma once

#include "physics/wave/driven/driven.h"

#include <optional>

namespace yh::physics {

/// f0 = |p| and Q = |p| / (2 Im p) for the pole p of S. The residues at the ports tell how the
/// external losses divide; how far a port's plane lies from the resonator changes them all, so that
/// their sum y / Q is taken from the power A that the waves into all ports together lose at f0,
/// A = 4 y (1 - y).
/// Source: Haus, Waves and Fields in Optoelectronics, 1984, chapter 7 (from memory).
struct DrivenResonance
{
    double frequency = 0;  ///< Hz
    double loaded = 0, unloaded = 0;
    std::vector<double> external;  ///< Q by channel
};
/// The one next to a frequency in Hz; none where S over the band shows none.
[[nodiscard]] std::optional<DrivenResonance> resonanceNear(const WaveDrivenSolver& solver,
                                                           int order, double frequency);

}  // namespace yh::physics
