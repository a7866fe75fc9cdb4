// S-parameters between the channels of a device, whichever way they were found: what tables and
// files say of them.
#pragma once

#include "network/touchstone.h"
#include "physics/wave/common/wave.h"

#include <Eigen/Core>

#include <memory>
#include <string>
#include <utility>
#include <vector>

namespace yh::physics {

/// A solution that holds S-parameters. Levels are its estimates().
class Scattering
{
public:
    virtual ~Scattering() = default;
    /// A channel is a mode of a port; those of the first port come first.
    struct Channel
    {
        int port = 0, mode = 0;  ///< both count from 0
    };
    [[nodiscard]] virtual const std::vector<Channel>& channels() const = 0;
    [[nodiscard]] virtual const WaveProblem& problem() const = 0;
    /// The level whose figures are best known.
    [[nodiscard]] virtual int best() const = 0;
    /// S between all channels; rows and columns of those below their cut-off hold no number.
    [[nodiscard]] virtual Eigen::MatrixXcd scattering(int level, double frequency) const = 0;
    /// V over I of a channel, ohm: that of the whole line or source; of others E over H.
    [[nodiscard]] virtual double impedance(int level, size_t channel, double frequency) const = 0;
    /// Hz, below which a channel does not travel.
    [[nodiscard]] virtual double cutoff(size_t channel, double frequency) const = 0;
    /// Whether phases err more than sizes do, as those of long ways on a grid.
    [[nodiscard]] virtual bool errsInPhase() const { return false; }

    [[nodiscard]] int channelOf(int port, int mode) const;
    /// Frequencies of the band, Hz.
    [[nodiscard]] std::vector<double> band() const;
    /// A port's name, with the mode's number where it has several.
    [[nodiscard]] std::string channelName(size_t channel) const;
    /// S as a table shows it; nothing where a channel does not propagate and its impedance would be
    /// needed.
    /// @param reference  ohm, of all ports; 0: their own impedances
    [[nodiscard]] Eigen::MatrixXcd referred(int level, double frequency, double reference) const;
};

/// What a table of S-parameters refers to and is compared with.
struct Comparison
{
    double reference = 0;                            ///< ohm, of all ports; 0: their own impedances
    std::shared_ptr<const network::Network> beside;  ///< from a file
};

/// Largest over least voltage along a line, by its reflection. Source: Pozar, Microwave
/// Engineering, section 2.3 (from memory).
[[nodiscard]] double standingWaveRatio(const std::complex<double>& S);

/// Over the band, for all pairs: |S| in dB, phase in degrees, group delay, what a file says in dB,
/// and the complex numbers.
[[nodiscard]] std::string scatteringCurves(const Scattering& s, const Comparison& with);

/// The S-parameters over the band where all ports propagate: names and contents of files.
[[nodiscard]] std::vector<std::pair<std::string, std::string>> touchstoneFiles(
    const Scattering& s, const Comparison& with);

}  // namespace yh::physics
