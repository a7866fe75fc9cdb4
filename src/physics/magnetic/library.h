// Magnetisation of materials that the program knows.
#pragma once

#include "physics/magnetic/curve.h"

#include <optional>
#include <string>

namespace yh::physics {

/// The curve of a known material that magnetises; nullopt for all others.
/// J = Js H / (H + a), whose slope at the start is that of the initial permeability: O. Froelich's
/// formula of 1881 (from memory). Saturations: CRC Handbook of Chemistry and Physics (from memory);
/// permeabilities scatter much more than that and are common practice, no source.
[[nodiscard]] std::optional<MagneticCurve> knownCurve(const std::string& material);

}  // namespace yh::physics
