// Modes of a guide on the face of a port.
#pragma once

#include "physics/wave.h"

#include <complex>

namespace yh::physics {

/// A mode of an endless guide of one medium, with the integral of its transverse e^2 over the face
/// (the modelled part of it) equal to 1.
struct PortMode
{
    enum class Kind { tem, te, tm };
    Kind kind = Kind::te;
    double cutoff = 0;           ///< k_c^2, 1/m^2
    double line = 0;             ///< TEM: integral of |grad phi|^2 for 1 V between the conductors
    std::vector<int> number;     ///< edge functions of the device
    std::vector<double> weight;  ///< integral of e . f_i over the face

    /// Propagation constant, 1/m: real above the cut-off, -j times the decay below it.
    [[nodiscard]] std::complex<double> beta(double frequency, double eps, double mu) const;
    /// Transverse E over transverse H, ohm: omega mu / beta, beta / (omega eps), or sqrt(mu / eps).
    /// Source: Pozar, Microwave Engineering, table 3.2 (from memory).
    [[nodiscard]] std::complex<double> waveImpedance(double frequency, double eps, double mu) const;
    /// Where it begins to propagate, Hz.
    [[nodiscard]] double cutoffFrequency(double eps, double mu) const;
};

/// The lowest modes of a port, by rising cut-off.
/// @param walls  sides of the mesh along which the field vanishes
/// @throws Error with the port's line where the mesh has no such modes
[[nodiscard]] std::vector<PortMode> portModes(const WavePort& port, int count,
                                              const fem::EdgeSpace& space, int order,
                                              std::span<const int> walls, base::Progress& progress);

}  // namespace yh::physics
