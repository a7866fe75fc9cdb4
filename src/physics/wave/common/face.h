// What the fields of waves have in common of what they say of themselves.
#pragma once

#include "sheet/topic.h"

namespace yh::physics {

void addWaveLines(std::vector<sheet::Kind>& kinds);
void addWaveAsks(std::vector<sheet::Kind>& kinds);
/// How many modes of a port count, and how far inside the device its S-parameters refer to.
/// @param by  what the modes are sorted by
[[nodiscard]] sheet::Slot portModesSlot(const std::string& by);
[[nodiscard]] sheet::Slot portShiftSlot();
/// Power of the wave that comes in.
[[nodiscard]] sheet::Slot portDriveSlot();
/// The kinds of waves that a sheet can be about.
enum class WaveTask { none, resonance, driven, guide, ringing, pulsed };
[[nodiscard]] WaveTask waveTask(const sheet::Document& document);
/// A topic of waves but for its key, cards and claims.
[[nodiscard]] sheet::Topic waveTopic(const std::string& key, int order);

}  // namespace yh::physics
