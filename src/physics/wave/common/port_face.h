// The face of a port as a mesh of its own.
#pragma once

#include "physics/wave/common/ports.h"

#include <vector>

namespace yh::physics {

/// Sides of the mesh that make up a port.
/// @throws Error with the port's line where there are none
[[nodiscard]] std::vector<int> sidesOf(const WavePort& port, const mesh::Mesh& mesh);

/// Its vertices keep their order, so that its edge functions are what the device's leave on the
/// face. Its cells have the pieces of the device's cells behind them.
struct Face
{
    mesh::Mesh mesh;
    std::vector<int> vertex, edge, side;  ///< of the face -> of the device
    std::vector<int> rim;                 ///< edges of the face that lie on walls
    Point origin, u, v;                   ///< its axes

    Face(const WavePort& port, const mesh::Mesh& whole, std::span<const int> walls);
    [[nodiscard]] Point inSpace(const Point& p) const { return origin + p.x * u + p.y * v; }
    /// Number in the device of every edge function of the face.
    [[nodiscard]] std::vector<int> numbers(const fem::EdgeSpace& here, const fem::EdgeSpace& there,
                                           int order) const;
    /// Integral of a field along a fixed direction, weighted with the place on the face: fixes the
    /// sign of a mode, the same on like ports and on all meshes.
    [[nodiscard]] double lean(const fem::EdgeSpace& space, int order,
                              const std::vector<double>& field) const;
};

/// Whether the face of a port reaches from periodic side to periodic side.
/// @throws Error with the port's line where only some of its rim does
[[nodiscard]] bool isBetweenPeriodicSides(const WavePort& port, const mesh::Mesh& mesh);
/// The plane waves of the space behind such a port, that of order 0 before those by rising k_t; of
/// each TE first.
/// @throws Error with the port's line where it does not fit the pairs
[[nodiscard]] std::vector<PortMode> spaceHarmonics(const WaveProblem& problem, const WavePort& port,
                                                   const fem::EdgeSpace& space, int order);

/// Modes of a line of a drawing, by rising cut-off, of several media by falling index; none where
/// the line has a gap.
/// @throws Error with the port's line
[[nodiscard]] std::vector<PortMode> lineModes(const WaveProblem& problem, const WavePort& port,
                                              const fem::EdgeSpace& space, int order,
                                              std::span<const int> walls);

/// Modes of a face with several media, by falling index, at Chebyshev's points of the band.
/// @throws Error with the port's line where fewer travel over the whole band
[[nodiscard]] std::vector<PortMode> modesOfMedia(const WaveProblem& problem, const WavePort& port,
                                                 int count, const fem::EdgeSpace& space, int order,
                                                 std::span<const int> walls,
                                                 base::Progress& progress);

}  // namespace yh::physics
