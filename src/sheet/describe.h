// The lines that a sheet can hold, described from what their topics say.
#pragma once

#include <string>

namespace yh::sheet {

/// A table a section, in Markdown: each line with an example and the keys that it has in the file;
/// those that must be there are bold. docs/sheet-format.md holds it.
[[nodiscard]] std::string describeLines();

}  // namespace yh::sheet
