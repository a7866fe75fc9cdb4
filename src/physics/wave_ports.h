// Modes of a guide on the face of a port.
#pragma once

#include "physics/wave.h"

#include <complex>

namespace yh::physics {

/// A mode of an endless guide of one medium, with the integral of its transverse e^2 over the face
/// (the modelled part of it) equal to 1.
struct PortMode
{
    enum class Kind { tem, te, tm, lumped };
    Kind kind = Kind::te;
    double cutoff = 0;  ///< k_c^2, 1/m^2
    /// TEM and lumped: integral of |grad phi|^2 for 1 V between the conductors
    double line = 0;
    double resistance = 0;       ///< lumped: of the modelled part, ohm
    std::vector<int> number;     ///< edge functions of the device
    std::vector<double> weight;  ///< integral of e . f_i over the face

    /// Propagation constant, 1/m: real above the cut-off, -j times the decay below it.
    [[nodiscard]] std::complex<double> beta(double frequency, double eps, double mu) const;
    /// Transverse E over transverse H, ohm: omega mu / beta, beta / (omega eps), or sqrt(mu / eps).
    /// Source: Pozar, Microwave Engineering, table 3.2 (from memory).
    /// Lumped: the resistance in the same terms.
    [[nodiscard]] std::complex<double> waveImpedance(double frequency, double eps, double mu) const;
    /// Voltage over current of a line or of the source's resistance, ohm, of the modelled part; for
    /// TE and TM the ratio of the transverse fields.
    [[nodiscard]] double impedance(double frequency, double eps, double mu) const;
    /// Where it begins to propagate, Hz.
    [[nodiscard]] double cutoffFrequency(double eps, double mu) const;
};

/// The lowest modes of a port, by rising cut-off.
/// In drawings a port is a line: with E in the drawing its mode is that without cut-off.
/// @param walls  sides of the mesh along which the field vanishes
/// @throws Error with the port's line where the mesh has no such modes
[[nodiscard]] std::vector<PortMode> portModes(const WavePort& port, int count,
                                              const fem::EdgeSpace& space, int order,
                                              std::span<const int> walls, fem::Measure measure,
                                              base::Progress& progress);

}  // namespace yh::physics
