// What the media, walls and the absorbing shell of a wave problem are at a place or frequency.
#include "physics/common/constants.h"
#include "physics/wave/common/wave.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

AbsorbingShell::Medium AbsorbingShell::stretched(const Point& p) const
{
    using Complex = std::complex<double>;
    const Point from = p - centre;
    const double r = norm(from), share = std::clamp((r - inner) / (outer - inner), 0.0, 1.0);
    const Complex bent(r, -depth * share * share * share),
        s(1, -3 * depth * share * share / (outer - inner));
    const Point u = (1 / r) * from;
    // Along the radius, across it, and out of a drawing's plane.
    const Complex along = cylinder ? bent / (r * s) : bent * bent / (r * r * s),
                  across = cylinder ? s * r / bent : s, out = cylinder ? s * bent / r : s;
    auto tensor = [&](Complex a, Complex b, Complex c, bool real) {
        auto part = [real](Complex z) { return real ? z.real() : z.imag(); };
        const double t = part(b), d = part(a) - t;
        fem::Tensor m{t + d * u.x * u.x, d * u.x * u.y, t + d * u.y * u.y,
                      d * u.x * u.z,     d * u.y * u.z, t + d * u.z * u.z};
        if (cylinder)
            m.zz = part(c);
        return m;
    };
    Medium m;
    for (const bool real : {true, false}) {
        m.eps[real ? 0 : 1] = tensor(along, across, out, real);
        m.inverseMu[real ? 0 : 1] = tensor(1.0 / along, 1.0 / across, 1.0 / out, real);
    }
    return m;
}

WaveProblem::Media WaveProblem::absorbingMedia() const
{
    Media media;
    media.eps.resize(eps.size());
    media.inverseMu.resize(eps.size());
    const auto piece = size_t(shell.piece);
    media.eps[piece].at = [this](Point at) { return shell.stretched(at).eps[1]; };
    media.inverseMu[piece].at = [this](Point at) { return shell.stretched(at).inverseMu[1]; };
    return media;
}

bool WaveProblem::carries(int piece) const
{
    return std::binary_search(activePieces.begin(), activePieces.end(), piece);
}

const WaveProblem::Dispersive* WaveProblem::dispersiveOf(int piece) const
{
    for (const Dispersive& d : dispersive)
        if (std::find(d.pieces.begin(), d.pieces.end(), piece) != d.pieces.end())
            return &d;
    return nullptr;
}

double WaveProblem::conductivity(size_t piece, double frequency, double temperature) const
{
    const double omega = 2 * pi * frequency;
    if (const Dispersive* d = dispersiveOf(int(piece)))
        return -omega * eps0 * d->eps(frequency, temperature).imag();
    return omega * eps0 * eps[piece].constant.xx * loss[piece] + sigma[piece];
}

double WaveProblem::portEps(const WavePort& guide, double frequency) const
{
    const Dispersive* d = dispersiveOf(guide.piece);
    return d ? d->eps(frequency, roomTemperature).real() : guide.eps;
}

bool WaveProblem::takesPower(size_t piece) const
{
    if (loss[piece] > 0 || sigma[piece] > 0)
        return true;
    const Dispersive* d = dispersiveOf(int(piece));
    const double f = high > 0 ? (low + high) / 2 : from;
    return d && (d->warms || d->eps(f, roomTemperature).imag() != 0);
}

int WaveProblem::dipoleOf(const std::string& name) const
{
    for (size_t k = 0; k < dipoles.size(); ++k)
        if (dipoles[k].name == name)
            return int(k);
    return -1;
}

int WaveProblem::planeWaveOf(const std::string& name) const
{
    for (size_t k = 0; k < planeWaves.size(); ++k)
        if (planeWaves[k].name == name)
            return int(k);
    return -1;
}

int WaveProblem::portOf(const std::string& name) const
{
    for (size_t k = 0; k < ports.size(); ++k)
        if (ports[k].name == name)
            return int(k);
    return -1;
}

double MetalWall::resistance(double frequency) const
{
    const double omega = 2 * pi * frequency, smooth = std::sqrt(omega * mu0 / (2 * sigma));
    if (roughness <= 0)
        return smooth;
    const double ratio = roughness / std::sqrt(2 / (omega * mu0 * sigma));
    return smooth * (1 + 2 / pi * std::atan(1.4 * ratio * ratio));
}

}  // namespace yh::physics
