// Ports of the parts of a circuit as its sheet names them, for the window and for the solver.
#pragma once

#include "sheet/document.h"

#include <optional>
#include <string>
#include <vector>

namespace yh::physics {

/// Kinds of lines that are parts, and how many ports each has; 0: the file tells.
[[nodiscard]] int portsOfPart(const std::string& kind);
[[nodiscard]] bool isPart(const std::string& kind);
/// The number of ports that the ending of a file tells (.s2p); 0: it does not.
[[nodiscard]] int portsOfFile(const std::string& file);

struct CircuitEnd
{
    const sheet::Line* part = nullptr;
    int port = 0;  ///< from 0
};
/// "A.2" as the second port of the part A; nothing where there is none of that name, or no such
/// port.
[[nodiscard]] std::optional<CircuitEnd> circuitEnd(const sheet::Document& document,
                                                   const std::string& text);

}  // namespace yh::physics
