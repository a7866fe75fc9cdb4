#pragma once

namespace yh::sheet::sources {

// Where values of materials are from. CRC: Handbook of Chemistry and Physics. KL: Kaye and Laby,
// Tables of Physical and Chemical Constants, 16th ed. All read from memory.
constexpr const char* crc = "CRC Handbook of Chemistry and Physics (from memory)";
constexpr const char* kl = "Kaye and Laby, 16th ed. (from memory)";
constexpr const char* practice = "common practice, no source";

}  // namespace yh::sheet::sources
