#include "run/run.h"
#include "run/sound_part.h"

#include "base/clock.h"
#include "physics/common/study.h"
#include "run/caught.h"
#include "run/course.h"
#include "run/parity.h"
#include "run/result_folder.h"
#include "run/shape_key.h"
#include "run/state.h"
#include "run/store.h"
#include "run/worker.h"
#include "sheet/sentence.h"
#include "sheet/topic.h"

#include <omp.h>
#include <algorithm>
#include <chrono>
#include <cmath>
#include <new>
#include <numeric>
#include <set>

namespace yh::run {

using base::Error;
using base::Faults;
using physics::Point;
using sheet::Line;
using sheet::Model;

namespace {

std::vector<double> sweepValues(const Model& model, const Line& l)
{
    const double a = model.number(l, "from"), b = model.number(l, "to");
    const int n = model.count(l, "steps");
    const bool ratio = model.choice(l, "spacing") == "by equal ratios";
    if (ratio && !(a * b > 0))
        throw Error(7030, "equal ratios need two values of the same sign, neither zero",
                    {l.id, "from", 0});
    std::vector<double> v;
    for (int i = 0; i < n; ++i) {
        const double f = n > 1 ? double(i) / (n - 1) : 0.0;
        v.push_back(ratio ? a * std::pow(b / a, f) : a + f * (b - a));
    }
    return v;
}

/// A value in SI units as text with its unit, for a parameter override.
std::string overrideText(double v, const base::Dimension& d)
{
    char number[40];
    std::snprintf(number, sizeof number, "%.17g", v);
    static const char* symbol[7] = {"m", "kg", "s", "A", "K", "mol", "cd"};
    std::string text = std::string("(") + number + ")";
    for (size_t i = 0; i < 7; ++i)
        if (d.twelfths[i] != 0)
            text += std::string("*") + symbol[i] + "^(" + std::to_string(d.twelfths[i]) + "/12)";
    return text;
}

/// By how much the first pass understated each error, with room for the difference between
/// states. Empty where a finding is a matrix or has no limit.
std::vector<double> calibrationOf(const Report& r)
{
    std::vector<double> factors;
    for (size_t i = 0; i < r.findings.size(); ++i) {
        const Finding& f = r.findings[i];
        if (!f.table.empty()) {
            factors.push_back(1.0);
            continue;
        }
        const double v = r.passes[0].value[i], e = r.passes[0].error[i];
        if (f.value.size() != 1 || f.noLimit || !std::isfinite(v) || !(e > 0))
            return {};
        constexpr double room = 1.5;
        factors.push_back(room * std::max(1.0, (std::abs(f.value[0] - v) + f.error[0]) / e));
    }
    return factors;
}

/// Keeps a solved state with all that it leans on, for readings.
class SolvedState : public Probe
{
public:
    SolvedState(const sheet::Document& document, const Settings& settings, base::Progress& progress,
                double share)
        : m_settings(settings),
          m_model(document, settings.overrides),
          state(m_model, m_settings, progress, 0.0, share)
    {
    }
    void ready()
    {
        if (state.isSampled())
            m_locator = std::make_unique<mesh::Locator>(state.field().mesh());
    }
    std::vector<Reading> at(double x, double y, double z) const override
    {
        std::vector<Reading> list;
        const auto hit = m_locator ? m_locator->find({x, y, z}) : mesh::Locator::Hit{};
        if (hit.cell < 0)
            return list;
        size_t width = 0;
        for (const auto& q : state.field().quantities())
            width += size_t(q.components);
        std::vector<double> values(width);
        state.field().sample(hit.cell, hit.xi, values.data());
        auto from = values.begin();
        for (const auto& q : state.field().quantities()) {
            list.push_back({q.name, q.unit, {from, from + q.components}});
            from += q.components;
        }
        return list;
    }

private:
    Settings m_settings;
    Model m_model;
    std::unique_ptr<mesh::Locator> m_locator;

public:
    State state;
};

class Runner
{
public:
    Runner(const sheet::Document& document, const Settings& settings, base::Progress& progress)
        : m_document(document), m_settings(settings), m_progress(progress)
    {
    }

    void write(Result& result) const
    {
        result.files = m_folder->files();
        result.files.push_back("tables/findings.csv");
        if (!result.points.empty())
            result.files.push_back("tables/sweep.csv");
        result.files.push_back("run.json");
        writeText(m_settings.out + "/tables/findings.csv", findingsCsv(result.report));
        if (!result.points.empty())
            writeText(m_settings.out + "/tables/sweep.csv", sweepCsv(result));
        writeText(m_settings.out + "/run.json", toJson(result));
        m_folder->put();
    }

    Outcome run(Result& result)
    {
        const double start = base::seconds();
        const Model model(m_document, m_settings.overrides);
        for (const Line& l : m_document.lines)
            result.lineIds.push_back(l.id);
        Faults faults = sheet::validate(model);
        if (!faults.empty()) {
            result.report.faults = faults;
            return Outcome::sheetWrong;
        }
        if (!m_settings.out.empty()) {
            m_folder = std::make_unique<ResultFolder>(m_settings.out);
            m_settings.out = m_folder->path();
        }
        const auto sweeps = m_document.ofKind("sweep");
        if (!sweeps.empty())
            plan(model, sweeps);
        const double share = 1.0 / (1 + double(m_points.size()));
        Reuse reuse;
        {
            auto solved = std::make_shared<SolvedState>(m_document, m_settings, m_progress, share);
            result.report = solved->state.run(reuse);
            if (!m_settings.out.empty())
                solved->state.store(result.report, result);
            solved->ready();
            result.probe = std::move(solved);
        }
        if (!sweeps.empty())
            sweep(share, reuse, result);
        addCourses(model, result, m_settings.out);
        result.report.seconds = base::seconds() - start;
        result.report.peakBytes = peakBytes();
        if (!m_settings.out.empty())
            write(result);
        bool met = result.report.allMet();
        for (const SweepPoint& p : result.points)
            met = met && p.report.allMet();
        return met ? Outcome::met : Outcome::missed;
    }

private:
    /// Every second point goes to a second process; with the same mesh for all there is nothing to
    /// be gained from one.
    void findWorker()
    {
        const Model first(m_document, m_points[0]), last(m_document, m_points.back());
        if (!m_settings.program.empty() && m_points.size() > 2 && omp_get_max_threads() > 1 &&
            sheet::validate(first).empty() && sheet::validate(last).empty() &&
            shapeKey(first) != shapeKey(last))
            m_worker = std::make_unique<Worker>(m_settings.program);
    }

    /// Works out the points of a sweep, and starts the second process where it will be of use.
    void plan(const Model& model, const std::vector<const Line*>& lines)
    {
        std::vector<std::vector<double>> values;
        std::vector<base::Dimension> dims;
        size_t points = 1;
        for (const Line* l : lines) {
            values.push_back(sweepValues(model, *l));
            points *= values.back().size();
            dims.push_back(model.parameters().values.at(l->get("parameter")).dimension);
            m_sweep.swept.push_back(l->get("parameter"));
            m_sweep.sweptUnits.push_back(base::siUnit(dims.back()));
            // Angles only: temperatures may be in degrees too.
            m_sweep.sweptDegrees.push_back(dims.back() == base::Dimension{} &&
                                           l->get("to").find("deg") != std::string::npos);
            m_sweep.sweptHere.push_back(
                model.parameters().values.at(l->get("parameter")).value.real());
        }
        for (size_t i = 0; i < points; ++i) {
            SweepPoint point;
            Overrides overrides = m_settings.overrides;
            size_t rest = i;
            for (size_t k = lines.size(); k-- > 0;) {
                const double v = values[k][rest % values[k].size()];
                rest /= values[k].size();
                point.parameters.insert(point.parameters.begin(), v);
                overrides[lines[k]->get("parameter")] = overrideText(v, dims[k]);
            }
            m_points.push_back(overrides);
            m_sweep.points.push_back(std::move(point));
        }
        // A period ends where it began.
        m_closes = lines.size() == 1 && courseOf(*lines[0]) == Course::Kind::period;
        findWorker();
    }

    [[nodiscard]] bool isFirstAgain(size_t i) const
    {
        return m_closes && i > 0 && i + 1 == m_points.size();
    }

    /** Has the second process solve every second point. */
    void shareOut(Worker& worker, const std::vector<double>& calibration)
    {
        std::vector<Overrides> theirs;
        for (size_t i = 1; i < m_points.size(); i += 2)
            if (!isFirstAgain(i))
                theirs.push_back(m_points[i]);
        worker.ask(m_document, theirs, calibration, m_settings.folder);
    }

    /// What is swept goes into the result.
    void announce(Result& result)
    {
        result.swept = std::move(m_sweep.swept);
        result.sweptUnits = std::move(m_sweep.sweptUnits);
        result.sweptDegrees = std::move(m_sweep.sweptDegrees);
        result.sweptHere = std::move(m_sweep.sweptHere);
        result.points = std::move(m_sweep.points);
    }

    void sweep(double share, Reuse& reuse, Result& result)
    {
        announce(result);
        Settings quiet = m_settings;
        quiet.calibration = calibrationOf(result.report);
        quiet.onPass = nullptr;
        quiet.checks = false;
        const std::vector<Overrides>& all = m_points;
        Worker* const worker = m_worker.get();
        const int threads = omp_get_max_threads();
        if (worker) {
            shareOut(*worker, quiet.calibration);
            omp_set_num_threads(1);
        }
        for (size_t i = 0; i < all.size(); i += worker ? 2 : 1) {
            if (isFirstAgain(i))
                continue;
            m_progress.report(share * double(1 + i), "sweep point " + std::to_string(i + 1) +
                                                         " of " + std::to_string(all.size()));
            result.points[i].report =
                statePoint(all[i], quiet, share * double(1 + i), share * double(2 + i), reuse);
        }
        for (size_t i = 1; worker && i < all.size(); i += 2) {
            if (isFirstAgain(i))
                continue;
            std::optional<Report> r = worker->next(m_progress);
            // A process that died leaves its points to this one.
            result.points[i].report =
                r ? std::move(*r) : statePoint(all[i], quiet, share * double(1 + i), 1.0, reuse);
        }
        omp_set_num_threads(threads);
        if (m_closes)
            result.points.back().report = result.points.front().report;
        for (SweepPoint& p : result.points)
            if (!p.report.faults.empty())
                failed(p, p.report.faults, result);
    }

public:
    Report statePoint(const Overrides& overrides, const Settings& settings, double from, double to,
                      Reuse& reuse)
    {
        const Model at(m_document, overrides);
        Report report;
        try {
            Faults faults = sheet::validate(at);
            if (!faults.empty())
                throw faults;
            State state(at, settings, m_progress, from, to);
            return state.run(reuse);
        } catch (...) {
            report.faults = caught();
        }
        return report;
    }

private:
    /// One point that cannot be solved does not cost the others.
    void failed(SweepPoint& point, const Faults& faults, const Result& result) const
    {
        point.report.faults = faults;
        point.report.findings = result.report.findings;
        for (Finding& f : point.report.findings) {
            f.value.assign(f.value.size(), NAN);
            f.error.assign(f.error.size(), NAN);
            f.met = false;
        }
        if (m_settings.onLog)
            m_settings.onLog("sweep point failed: " + faults[0].text);
    }

    const sheet::Document& m_document;
    Settings m_settings;
    base::Progress& m_progress;
    std::unique_ptr<ResultFolder> m_folder;
    std::vector<Overrides> m_points;  ///< of the sweep
    Result m_sweep;                   ///< what is swept, for the result once there is one
    bool m_closes = false;
    std::unique_ptr<Worker> m_worker;
};

}  // namespace

Report solveState(const sheet::Document& document, const Overrides& overrides,
                  const Settings& settings, base::Progress& progress)
{
    Reuse reuse;
    return Runner(document, settings, progress).statePoint(overrides, settings, 0, 1, reuse);
}

namespace {

/// Says with a mirror plane without a kind which one the device has.
void proposeParity(const Model& model, const std::string& folder, Faults& faults)
{
    for (base::Fault& f : faults) {
        const Line* l = model.document().find(f.place.line);
        if (!l || l->kind != "mirror plane" || f.place.field != "kind" || !f.incomplete ||
            !l->has("at"))
            continue;
        if (!sheet::topicOf(model.document()).isParityOfDrives)
            continue;
        try {
            switch (parityOf(model, l->get("at"), folder)) {
                case Parity::even:
                    f.text = "the device is even about this plane: choose even";
                    break;
                case Parity::odd:
                    f.text = "the device is odd about this plane: choose odd";
                    break;
                case Parity::none:
                    f.text = "the device is not its own mirror image about this plane";
                    break;
                case Parity::open:
                    break;
            }
        } catch (...) {
            // The shape's own fault is in the list.
            static_cast<void>(caught());
        }
    }
}

}  // namespace

namespace {
/// Whether a fault may be one only because shapes were left out: it is said of the whole, or of
/// a line that mentions one of them.
bool isOwedTo(const std::set<std::string>& leftOut, const Model& model, const base::Fault& f)
{
    const Line* l = model.document().find(f.place.line);
    if (!l)
        return true;
    for (const auto& [key, text] : l->values)
        if (const sheet::PlaceParse p = sheet::parsePlace(text); p.rule)
            for (const std::string& name : p.rule->names())
                if (leftOut.count(name))
                    return true;
    return false;
}

}  // namespace

base::Faults faultsOf(const Model& model, const std::string& folder)
{
    Faults faults = sheet::validate(model);
    proposeParity(model, folder, faults);
    // Geometry only makes sense where every number of it is there.
    for (const base::Fault& f : faults)
        if (const Line* l = model.document().find(f.place.line);
            l && (l->kind == "parameter" || l->kind == "space" || l->kind == "mirror plane"))
            return faults;
    if (sheet::topicOf(model.document()).hasShape &&
        std::none_of(model.document().lines.begin(), model.document().lines.end(),
                     [](const Line& l) { return sheet::isShape(l.kind); }))
        return faults;
    // Lines that are already faulty say so once.
    std::set<int> said;
    for (const base::Fault& f : faults)
        said.insert(f.place.line);
    Faults more;
    try {
        // Of what is sound the rest can be told.
        sheet::Document rest = model.document();
        for (const int line : said)
            if (const Line* l = rest.find(line); l && !sheet::isShape(l->kind))
                rest.remove(line);
        SoundPart sound = soundPart(std::move(rest), folder);
        more = std::move(sound.faults);
        Faults own;
        const auto problem = physics::studyOf(*sound.model, sound.partition, own);
        if (faults.empty() && sound.leftOut.empty())
            static_cast<void>(problem->asks(model, sound.partition, own));
        std::copy_if(own.begin(), own.end(), std::back_inserter(more), [&](const base::Fault& f) {
            return (faults.empty() && sound.leftOut.empty()) || !isOwedTo(sound.leftOut, model, f);
        });
    } catch (...) {
        const Faults own = caught();
        more.insert(more.end(), own.begin(), own.end());
    }
    for (const base::Fault& f : more)
        if (f.place.line < 0 || !said.count(f.place.line))
            faults.push_back(f);
    return faults;
}

Report meshOf(const sheet::Document& document, const Settings& settings, base::Progress& progress)
{
    Report report;
    try {
        const Model model(document, settings.overrides);
        report.faults = sheet::validate(model);
        if (!report.faults.empty())
            return report;
        State state(model, settings, progress, 0, 1);
        Reuse reuse;
        report = state.meshOnly(reuse);
        if (!settings.out.empty()) {
            makeFolders(settings.out);
            state.storeMesh(settings.out + "/fields/mesh.vtu");
        }
    } catch (...) {
        report.faults = caught();
    }
    return report;
}

Result solve(const sheet::Document& document, const Settings& settings, base::Progress& progress,
             Outcome& outcome)
{
    Result result;
    try {
        outcome = Runner(document, settings, progress).run(result);
    } catch (const Faults& f) {
        result.report.faults = f;
        outcome = Outcome::sheetWrong;
    } catch (...) {
        result.report.faults = caught();
        // Faults of shapes and of fields are numbered by thousands.
        const int kind = result.report.faults[0].number / 1000;
        outcome = kind == 3 || kind == 2 ? Outcome::sheetWrong : Outcome::failed;
    }
    return result;
}

}  // namespace yh::run
