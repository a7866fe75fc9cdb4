// Modes of a guide on the face of a port.
#pragma once

#include "physics/wave/common/wave.h"

#include <Eigen/Core>

#include <complex>

namespace yh::physics {

/// A mode of an endless guide. Of one medium: with the integral of its transverse e^2 over the face
/// (the modelled part of it) equal to 1. Of several: with that of e x h equal to 1, where weights
/// are integrals of (h x z) . f_i, z the way that it goes.
struct PortMode
{
    enum class Kind { tem, te, tm, lumped, hybrid };
    Kind kind = Kind::te;
    double cutoff = 0;  ///< k_c^2, 1/m^2
    /// TEM and lumped: integral of |grad phi|^2 for 1 V between the conductors
    double line = 0;
    double resistance = 0;  ///< lumped: of the modelled part, ohm
    /// Lumped, in a thin wire: b sqrt(eps mu) of its wires, m. Its functions are the currents of
    /// the wires, counted -1, -2, ...; voltage and current change places, so that its part of S
    /// turns by j.
    double smooth = 0;
    [[nodiscard]] bool isInWire() const { return smooth > 0; }
    std::vector<int> number;     ///< edge functions of the device
    std::vector<double> weight;  ///< integral of e . f_i over the face; hybrid: in mid-band
    /// Between periodic sides, in place of `weight`: the same of a wave that runs along the face,
    /// by place, or one. conj(e) of it is what the field is weighed with.
    std::vector<std::vector<std::complex<double>>> harmonics;
    double slant = 0, slant2 = 0;  ///< k_c^2 is cutoff + slant k + slant2 k^2, k in vacuum
    std::array<int, 2> space{};    ///< the periods that it turns in one of the device, by pair
    /// Modes that change with the frequency (hybrid ones, of several media): what follows is by
    /// place.
    std::vector<double> places;  ///< Hz
    std::vector<std::vector<double>> weights;
    std::vector<double> index;          ///< beta over that of vacuum
    std::vector<double> lineImpedance;  ///< ohm, by power and current; empty: no two conductors

    /// Shares of the places at a frequency.
    [[nodiscard]] Eigen::VectorXd shares(double frequency) const;
    /// Whether V over I of two conductors has a meaning.
    [[nodiscard]] bool isLine() const
    {
        return kind == Kind::tem || kind == Kind::lumped || !lineImpedance.empty();
    }
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

private:
    [[nodiscard]] double between(const std::vector<double>& values, double frequency) const
    {
        return shares(frequency).dot(
            Eigen::Map<const Eigen::VectorXd>(values.data(), Eigen::Index(values.size())));
    }
};

/// Of the plane waves that a port between periodic sides leaves out, the one that travels first or
/// falls slowest at a frequency.
[[nodiscard]] PortMode slowestLeftOut(const WaveProblem& problem, const WavePort& port,
                                      const mesh::Mesh& mesh, double frequency);

/// Shares of Chebyshev's points of an interval in the polynomial through them, at a place.
/// Source: Berrut and Trefethen, SIAM Rev. 46 (2004) 501 (from memory).
[[nodiscard]] Eigen::VectorXd chebyshevWeights(const std::vector<double>& points, double at);
/// These points, rising.
[[nodiscard]] std::vector<double> chebyshevPoints(double low, double high, int count);

/// The lowest modes of a port, by rising cut-off.
/// In drawings a port is a line: with E in the drawing its mode is that without cut-off.
/// @param walls  sides of the mesh along which the field vanishes
/// @throws Error with the port's line where the mesh has no such modes
[[nodiscard]] std::vector<PortMode> portModes(const WaveProblem& problem, const WavePort& port,
                                              const fem::EdgeSpace& space, int order,
                                              std::span<const int> walls, base::Progress& progress);

}  // namespace yh::physics
