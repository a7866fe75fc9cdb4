// What the application talks to: JSON lines on standard input and output (docs/report-format.md).
#pragma once

namespace yh::solve {

/// Answers requests until standard input ends. @returns the exit status
int serve();

}  // namespace yh::solve
