#include "physics/wave/driven/resonance.h"

#include "fem/rational.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

using Complex = std::complex<double>;

namespace {

/** The pole nearest a frequency that shows in a reflection. */
const fem::Pole* nearestOf(const std::vector<fem::Pole>& poles, const WaveProblem& p,
                           size_t channels, double f)
{
    const fem::Pole* best = nullptr;
    for (const fem::Pole& pole : poles) {
        double most = 0;
        for (size_t c = 0; c < channels; ++c)
            most = std::max(most, std::abs(pole.residue[c * channels + c]));
        // What hardly shows in any reflection is none of the device.
        constexpr double least = 1e-4;
        if (pole.at.imag() <= 0 || pole.at.real() < p.low || pole.at.real() > p.high ||
            most < least * pole.at.imag())
            continue;
        if (!best || std::abs(pole.at - f) < std::abs(best->at - f))
            best = &pole;
    }
    return best;
}

}  // namespace

std::optional<DrivenResonance> resonanceNear(const WaveDrivenSolver& s, int order, double f)
{
    constexpr int samples = 161;
    const auto channels = s.channels().size();
    std::vector<double> x;
    std::vector<std::vector<Complex>> value(channels * channels);
    const auto& p = s.problem();
    for (int i = 0; i < samples; ++i) {
        const double at = p.low + (p.high - p.low) * i / (samples - 1);
        const Eigen::MatrixXcd S = s.scattering(order, at);
        if (!S.allFinite())
            continue;
        x.push_back(at);
        for (size_t k = 0; k < value.size(); ++k)
            value[k].push_back(S.reshaped()[Eigen::Index(k)]);
    }
    // The model over the band is as near as this to its own solutions.
    const double close = std::max(3 * p.settled, 1e-9);
    const auto poles = fem::polesOf(x, value, close);
    const fem::Pole* const best = nearestOf(poles, p, channels, f);
    if (!best)
        return std::nullopt;
    DrivenResonance r;
    r.frequency = std::abs(best->at);
    r.loaded = r.frequency / (2 * best->at.imag());
    double residues = 0;
    for (size_t c = 0; c < channels; ++c)
        residues += std::abs(best->residue[c * channels + c]);
    const Eigen::MatrixXcd S = s.scattering(order, best->at.real());
    const double lost = std::clamp(double(channels) - S.squaredNorm(), 0.0, 1.0),
                 guess = residues / r.frequency * r.loaded, root = std::sqrt(1 - lost),
                 y = guess > 0.5 ? 0.5 * (1 + root) : 0.5 * (1 - root);
    r.unloaded = r.loaded / (1 - y);
    for (size_t c = 0; c < channels; ++c)
        r.external.push_back(r.loaded * residues / (y * std::abs(best->residue[c * channels + c])));
    return r;
}

}  // namespace yh::physics
