// Figures of plane waves that meet a device: cross-sections, what a port receives, and patterns of
// what is scattered.
#pragma once

#include "physics/common/ask.h"
#include "physics/wave/driven/driven.h"

namespace yh::physics {

/// @param line  of kind "cross-section"
[[nodiscard]] Ask crossSectionAsk(const sheet::Model& model, const physics::WaveProblem& problem,
                                  const sheet::Line& line);
/// Over the band; of kind "cross-sections".
[[nodiscard]] Ask crossSectionsAsk(const sheet::Model& model, const physics::WaveProblem& problem,
                                   const sheet::Line& line);
[[nodiscard]] Ask radarAsk(const sheet::Model& model, const physics::WaveProblem& problem,
                           const sheet::Line& line);
[[nodiscard]] Ask receivedAsk(const sheet::Model& model, const physics::WaveProblem& problem,
                              const sheet::Line& line);
/// Of kind "pattern", of a plane wave.
[[nodiscard]] Ask scatteredPatternAsk(const sheet::Model& model,
                                      const physics::WaveProblem& problem, const sheet::Line& line);
/// Whether the power that is scattered and taken is what the wave loses on its way on.
[[nodiscard]] std::vector<Check> extinctionChecks(const physics::WaveDrivenSolver& solver);

}  // namespace yh::physics
