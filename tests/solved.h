// Solving a sheet in a test, and reading what came out.
#pragma once

#include "run/run.h"

#include <QtTest/QtTest>

#include <cmath>
#include <string>

/// Begins a test function that takes longer than scripts/test may: scripts/validate runs it.
#define YH_LONG()                                  \
    if (!qEnvironmentVariableIsSet("YH_VALIDATE")) \
    QSKIP("long: scripts/validate runs it")

namespace yh::test {

/// Solves a sheet; its faults are printed.
inline run::Result solved(const sheet::Document& d)
{
    base::Progress progress;
    run::Outcome outcome{};
    run::Result r = run::solve(d, {}, progress, outcome);
    for (const auto& f : r.report.faults)
        qWarning("%s", f.text.c_str());
    return r;
}

/// Value of a finding by the start of its name; NaN when it is not there.
inline double valueOf(const run::Result& r, const std::string& name)
{
    for (const auto& f : r.report.findings)
        if (f.name.rfind(name, 0) == 0 && !f.value.empty())
            return f.value[0];
    return NAN;
}
/// Its stated error.
inline double errorOf(const run::Result& r, const std::string& name)
{
    for (const auto& f : r.report.findings)
        if (f.name.rfind(name, 0) == 0 && !f.error.empty())
            return f.error[0];
    return NAN;
}
/// Whether a sheet is refused, with this fault among those that are said.
inline bool isRefused(const sheet::Document& d, int fault)
{
    base::Progress progress;
    run::Outcome outcome{};
    const run::Result r = run::solve(d, {}, progress, outcome);
    for (const auto& f : r.report.faults)
        if (f.number == fault)
            return outcome == run::Outcome::sheetWrong;
    for (const auto& f : r.report.faults)
        qWarning("%d: %s", f.number, f.text.c_str());
    return false;
}
/// Whether a sheet that is right cannot be solved, with this fault said.
inline bool isUnsolvable(const sheet::Document& d, int fault)
{
    base::Progress progress;
    run::Outcome outcome{};
    const run::Result r = run::solve(d, {}, progress, outcome);
    for (const auto& f : r.report.faults)
        if (f.number == fault)
            return outcome != run::Outcome::sheetWrong;
    for (const auto& f : r.report.faults)
        qWarning("%d: %s", f.number, f.text.c_str());
    return false;
}
/// Whether a check was made and is good.
inline bool isGood(const run::Result& r, const std::string& check)
{
    for (const auto& c : r.report.checks)
        if (c.id == check)
            return c.state == run::Check::State::good;
    return false;
}
/// Whether every balance that a check states closes, and there is one.
inline bool balanced(const run::Result& r)
{
    int seen = 0;
    for (const auto& c : r.report.checks)
        if (c.id == "current balance" || c.id == "heat balance" || c.id == "power balance") {
            ++seen;
            if (c.state != run::Check::State::good)
                return false;
        }
    return seen > 0;
}

}  // namespace yh::test
