// What may have been meant by a word that means nothing.
#pragma once

#include <string>
#include <vector>

namespace yh::sheet {

/// The word of a list that a slip of the pen makes of another: two letters at most, and no more
/// than half of it, capitals counting as small ones; empty where none is near.
[[nodiscard]] std::string nearestTo(const std::string& word, const std::vector<std::string>& list);

/// " (did you mean 'copper'?)", or nothing where no word of a list is near.
[[nodiscard]] std::string meant(const std::string& word, const std::vector<std::string>& list);

/// "'coper' is not in the library (did you mean 'copper'?)": by slips of the pen, and by the
/// formulas and abbreviations of the trade.
[[nodiscard]] std::string notInLibrary(const std::string& material);

}  // namespace yh::sheet
