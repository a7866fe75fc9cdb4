// A second process that solves part of a sweep: the mesher's library works in one thread only.
#pragma once

#include "base/progress.h"
#include "run/run.h"

#include <optional>
#include <string>
#include <vector>

namespace yh::run {

/// One point of a sweep: parameter texts that take the place of those in the sheet.
using Overrides = std::map<std::string, std::string>;

/// Solves one state of the sheet without storing fields; faults are in the report.
[[nodiscard]] Report solveState(const sheet::Document& document, const Overrides& overrides,
                                const Settings& settings, base::Progress& progress);

/// Runs `program --points` on some points. Its end ends the process.
class Worker
{
public:
    /// Starts it, so that it has loaded its libraries by the time it is asked.
    /// @param program  path of yellowhorn-solve
    explicit Worker(const std::string& program);
    ~Worker();
    /// Hands over its points; once.
    void ask(const sheet::Document& document, const std::vector<Overrides>& points,
             const std::vector<double>& calibration, const std::string& folder);
    Worker(const Worker&) = delete;
    Worker& operator=(const Worker&) = delete;
    /// The next finished report, waiting for it; nullopt when the process ended early.
    [[nodiscard]] std::optional<Report> next(base::Progress& progress);

private:
    int m_pid = -1, m_in = -1, m_out = -1;
    std::string m_pending;
};

/// What the process does: reads a request on standard input, writes a report a line.
int workerMain();

}  // namespace yh::run
