// yellowhorn-solve: solves a sheet without a window.
#include "run/run.h"
#include "run/worker.h"
#include "sheet/describe.h"
#include "sheet/sentence.h"
#include "solve/serve.h"

#include <algorithm>
#include <cerrno>
#include <cmath>
#include <csignal>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <iostream>
#include <string>

using namespace yh;

namespace {

constexpr const char* usage =
    "yellowhorn-solve SHEET [--set NAME=VALUE ...] [--out DIR] [--json] [--quiet]\n"
    "yellowhorn-solve --lines\n"
    "yellowhorn-solve --serve\n"
    "\n"
    "Solves a sheet and prints its findings, each with its numerical error.\n"
    "  --set gap=100um   takes the place of a parameter of the sheet\n"
    "  --out DIR         result folder; without it: the sheet's name with .results\n"
    "  --json            prints the report as JSON\n"
    "  --strict          refuses words in lines that mean nothing there\n"
    "  --quiet           no progress on standard error\n"
    "  --log             what each step cost, on standard error\n"
    "  --lines           prints which lines a sheet can hold, as Markdown\n"
    "  --serve           answers JSON lines on standard input (for the application)\n"
    "Exit status: 0 all asks met, 1 an ask is missed, 2 the sheet is wrong, 3 the computation "
    "failed.\n";

struct Arguments
{
    std::string sheet, out;
    std::map<std::string, std::string> overrides;
    bool json = false, quiet = false, log = false, serve = false, help = false, lines = false,
         strict = false;
    std::string fault;
};

/** Takes NAME=VALUE. */
void take(const std::string& set, Arguments& a)
{
    const auto equals = set.find('=');
    if (equals == std::string::npos || equals == 0)
        a.fault = "--set takes NAME=VALUE, not '" + set + "'";
    else
        a.overrides[set.substr(0, equals)] = set.substr(equals + 1);
}

Arguments parse(int argc, char** argv)
{
    Arguments a;
    for (int i = 1; i < argc; ++i) {
        const std::string s = argv[i];
        const bool last = i + 1 >= argc;
        if (s == "--json") {
            a.json = true;
        } else if (s == "--strict") {
            a.strict = true;
        } else if (s == "--quiet") {
            a.quiet = true;
        } else if (s == "--log") {
            a.log = true;
        } else if (s == "--lines") {
            a.lines = true;
        } else if (s == "--serve") {
            a.serve = true;
        } else if (s == "--help" || s == "-h") {
            a.help = true;
        } else if (s == "--out" && !last) {
            a.out = argv[++i];
        } else if (s == "--set" && !last) {
            take(argv[++i], a);
        } else if (!s.empty() && s[0] == '-') {
            a.fault = "the option '" + s + "' is not known or lacks its value";
        } else if (a.sheet.empty()) {
            a.sheet = s;
        } else {
            a.fault = "only one sheet at a time: '" + s + "' is one too many";
        }
    }
    if (a.sheet.empty() && !a.serve && !a.help && !a.lines && a.fault.empty())
        a.fault = "a sheet is expected";
    return a;
}

void printFaults(const base::Faults& faults, const sheet::Document& document)
{
    for (const base::Fault& f : faults) {
        std::string where;
        if (const sheet::Line* l = document.find(f.place.line))
            where = "line " + std::to_string(l->id) + " (" + sheet::plainText(*l) + ")" +
                    (f.place.field.empty() ? "" : ", " + f.place.field) + ": ";
        std::fprintf(stderr, "fault %d: %s%s\n", f.number, where.c_str(), f.text.c_str());
    }
}

/// Says what is wrong with a sheet that is not solved, as a report too where one is wanted.
int refuse(const Arguments& a, const base::Faults& faults, const sheet::Document& document)
{
    printFaults(faults, document);
    if (a.json) {
        run::Result result;
        result.report.faults = faults;
        std::printf("%s\n", run::toJson(result).c_str());
    }
    return int(run::Outcome::sheetWrong);
}

const char* verdict(const run::Finding& f)
{
    return !f.isAsked() ? "" : f.met ? "  met" : "  missed";
}

std::string stated(double v, double e, const std::string& unit, bool noLimit)
{
    const auto t = base::formatWithError(v, e, base::dimensionOf(unit));
    return t.value + (noLimit || t.error.empty() ? "" : " ± " + t.error) + " " +
           base::symbolIn(t.unit, unit);
}

void printMatrix(const run::Finding& f)
{
    const size_t n = f.conductors.size();
    double largest = 0;
    for (const double v : f.value)
        largest = std::max(largest, std::abs(v));
    for (size_t i = 0; i < f.value.size(); ++i) {
        // Rounding is no capacitance.
        constexpr double nothing = 1e-9;
        const bool zero = std::abs(f.value[i]) < nothing * largest;
        std::printf("  %s / %s = %s\n", f.conductors[i / n].c_str(), f.conductors[i % n].c_str(),
                    zero ? "0" : stated(f.value[i], f.error[i], f.unit, false).c_str());
    }
}

void printChecks(const run::Report& r)
{
    for (const run::Check& c : r.checks)
        std::printf("%s %s\n",
                    c.state == run::Check::State::good   ? "✓"
                    : c.state == run::Check::State::note ? "·"
                                                         : "!",
                    c.text.c_str());
}

void printFindings(const run::Report& r)
{
    for (const run::Finding& f : r.findings) {
        if (!f.table.empty() && f.value.size() != 1) {
            const double worst =
                f.error.empty() ? 0.0 : *std::max_element(f.error.begin(), f.error.end());
            std::printf("%s: %s", f.label.c_str(), f.table.c_str());
            std::printf(worst > 0 ? " (± %.2g at most)%s\n" : "\n", worst, verdict(f));
            continue;
        }
        if (f.conductors.empty()) {
            std::printf(
                "%s = %s%s%s\n", f.label.c_str(),
                f.value.empty() ? "-" : stated(f.value[0], f.error[0], f.unit, f.noLimit).c_str(),
                verdict(f), f.note.empty() ? "" : ("  (" + f.note + ")").c_str());
            continue;
        }
        std::printf("%s%s\n", f.label.c_str(), verdict(f));
        printMatrix(f);
    }
    printChecks(r);
}

base::Progress* interrupted = nullptr;

}  // namespace

int main(int argc, char** argv)
{
    // A limit on the size of files is an error of the write, with its message.
    std::signal(SIGXFSZ, SIG_IGN);
    // Between two processes of this program only; not part of what a user calls.
    if (argc == 2 && std::string(argv[1]) == "--points")
        return run::workerMain();
    const Arguments a = parse(argc, argv);
    if (a.help) {
        std::fputs(usage, stdout);
        return 0;
    }
    if (!a.fault.empty()) {
        std::fprintf(stderr, "%s\n\n%s", a.fault.c_str(), usage);
        return int(run::Outcome::sheetWrong);
    }
    if (a.lines) {
        std::fputs(sheet::describeLines().c_str(), stdout);
        return 0;
    }
    if (a.serve)
        return solve::serve();
    const sheet::ReadResult read = sheet::readFile(a.sheet);
    if (!read.document)
        return refuse(a, read.faults, {});
    for (const auto& [name, value] : a.overrides)
        if (const sheet::Line* l = read.document->findNamed(name); !l || l->kind != "parameter")
            return refuse(
                a, {{7310, {}, "the sheet has no parameter '" + name + "' that could be set"}},
                *read.document);
    if (a.strict)
        if (const base::Faults words = sheet::unknownWords(*read.document); !words.empty())
            return refuse(a, words, *read.document);
    run::Settings settings;
    settings.program = "/proc/self/exe";
    const std::filesystem::path path(a.sheet);
    settings.folder = path.has_parent_path() ? path.parent_path().string() : ".";
    settings.out = !a.out.empty()
                       ? a.out
                       : (path.parent_path() / (path.stem().string() + ".results")).string();
    settings.overrides = a.overrides;
    base::Progress progress([&](double fraction, const std::string& doing) {
        if (!a.quiet && !a.json)
            std::fprintf(stderr, "%3.0f %%  %s\n", 100 * fraction, doing.c_str());
    });
    if (a.log)
        settings.onLog = [](const std::string& text) {
            std::fprintf(stderr, "%s\n", text.c_str());
        };
    interrupted = &progress;
    std::signal(SIGINT, [](int) { interrupted->cancel(); });
    run::Outcome outcome{};
    run::Result result;
    try {
        result = run::solve(*read.document, settings, progress, outcome);
    } catch (const base::Cancelled&) {
        std::fprintf(stderr, "cancelled\n");
        return int(run::Outcome::failed);
    }
    printFaults(result.report.faults, *read.document);
    if (a.json)
        std::printf("%s\n", run::toJson(result).c_str());
    else if (outcome == run::Outcome::met || outcome == run::Outcome::missed)
        printFindings(result.report);
    if (std::fflush(stdout) != 0 || std::ferror(stdout)) {
        std::fprintf(stderr, "fault 7311: the findings cannot be written: %s\n",
                     std::strerror(errno));
        return int(run::Outcome::failed);
    }
    return int(outcome);
}
