#include "run/state.h"

#include "base/clock.h"
#include "run/judge.h"
#include "run/shape_key.h"
#include "run/store.h"
#include "sheet/topic.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

namespace yh::run {

using base::Error;
using base::Faults;
using physics::Ask;
using physics::Point;
using sheet::Line;
using sheet::Model;

namespace {

[[nodiscard]] double progressOf(int pass)
{
    return 1 - std::pow(0.7, pass);
}

}  // namespace

State::State(const Model& model, const Settings& settings, base::Progress& progress, double from,
             double to)
    : m_model(model),
      m_settings(settings),
      m_progress(progress),
      m_from(from),
      m_to(to),
      m_start(base::seconds())
{
}

/** What the field's own checks, the words and the size of the sheet give. */
void State::check()
{
    if (m_settings.checks) {
        m_report.checks = m_study->checks(m_model, *m_partition, *m_field, m_asks);
        for (const base::Fault& f : sheet::unknownWords(m_model.document()))
            m_report.checks.push_back({"words", Check::State::warning, f.text, f.place.line, {}});
    }
    constexpr double huge = 100, tiny = 5e-9;
    const double size = m_rung->isSampled() ? m_partition->size() : 1;
    if (m_settings.checks && (size > huge || size < tiny))
        m_report.checks.push_back({"size",
                                   Check::State::warning,
                                   "the device is " + base::format(size, base::dim::length) +
                                       (size > huge ? " wide: were millimetres meant?"
                                                    : " wide: was a larger unit meant?"),
                                   -1,
                                   {}});
}

Report State::run(Reuse& reuse)
{
    m_report.sheetHash = sheet::hash(m_model.document());
    prepare(reuse);
    limits();
    scout();
    std::string stopped;
    for (int pass = 1;; ++pass) {
        const double start = base::seconds();
        const base::Effort effort;
        m_progress.report(
            m_from + (m_to - m_from) * progressOf(pass),
            "pass " + std::to_string(pass) + ": " + std::to_string(mesh().cellCount()) + " cells");
        m_field = m_study->on(mesh(), *m_partition, m_order, m_progress);
        m_field->solve(std::max(1, m_order - 2), m_progress);
        evaluate();
        const double took = base::seconds() - start;
        record(pass, took);
        // The second pass is what makes the errors trustworthy; a point of a sweep may lean on
        // that of the sheet's own state, whose mesh follows the same rules.
        if ((pass >= 2 || calibrated()) && m_done)
            break;
        if (m_rung->isTop())
            break;
        stopped = limitReached(pass, effort.spent());
        if (!stopped.empty())
            break;
        climb();
    }
    check();
    if (!stopped.empty() && !m_report.allMet())
        m_report.checks.push_back(
            {"accuracy", Check::State::warning, "the refinement stopped " + stopped, -1, {}});
    meshFacts();
    reuse.mesh = mesh();
    reuse.hasMesh = true;
    return m_report;
}

void State::scout()
{
    // A mesh far from what the field needs is not worth a pass of all that is asked for.
    if (mesh().dimension != 3 || !m_study->looksFirst())
        return;
    constexpr int most = 8;
    constexpr double settled = 0.03, share = 0.3;
    const base::Effort effort;
    physics::Goals g;
    g.wholly = true;
    for (const Ask& a : m_asks)
        g.allDrives = g.allDrives || a.allDrives;
    for (int look = 1; look <= most; ++look) {
        m_progress.report(m_from,
                          "a first look at " + std::to_string(mesh().cellCount()) + " cells");
        const base::Effort own;
        m_field = m_study->on(mesh(), *m_partition, m_order, m_progress);
        const auto change = m_field->scout(m_progress);
        if (!change)
            return;
        log("look " + std::to_string(look) + ": " + std::to_string(mesh().cellCount()) +
            " cells, " + std::to_string(*change) + " from settled");
        if (*change < settled || m_field->counters().unknowns > m_unknowns / 2 ||
            effort.spent() > share * m_seconds)
            return;
        m_rung->climb(*m_field, g);
    }
}

Report State::meshOnly(Reuse& reuse)
{
    m_report.sheetHash = sheet::hash(m_model.document());
    prepare(reuse);
    m_report.findings.clear();
    meshFacts();
    return m_report;
}

void State::meshFacts()
{
    if (m_rung->isSampled()) {
        const mesh::Quality q = mesh::quality(mesh());
        m_report.mesh = {
            mesh().cellCount(), mesh().vertexCount(), q.curvedCount, m_order, q.worst, q.mean};
    }
    m_report.seconds = base::seconds() - m_start;
    m_report.peakBytes = peakBytes();
}

void State::store(Report& report, Result& result) const
{
    const std::string& out = m_settings.out;
    if (m_rung->isSampled())
        storeFields(result);
    int n = 0;
    for (Finding& f : report.findings)
        if (f.table == "history") {
            f.table = "tables/history-" + std::to_string(++n) + ".csv";
            std::string csv = "t (s),value (" + f.unit + ")\n";
            char row[64];
            for (const Ask& a : m_asks)
                if (a.history && a.finding.name == f.name)
                    for (const auto& [t, v] : a.history(*m_field)) {
                        std::snprintf(row, sizeof row, "%.9g,%.9g\n", t, v);
                        csv += row;
                    }
            writeText(out + "/" + f.table, csv);
        } else if (f.table == "curves") {
            f.table = "tables/curves-" + std::to_string(++n) + ".csv";
            for (const Ask& a : m_asks)
                if (a.curves && a.finding.name == f.name) {
                    writeText(out + "/" + f.table, a.curves(*m_field));
                    if (a.files)
                        for (const auto& [name, text] : a.files(*m_field))
                            writeText(out + "/" + name, text);
                }
        } else if (f.table == "profile") {
            f.table = "tables/profile-" + std::to_string(++n) + ".csv";
            writeText(out + "/" + f.table, profileCsv(*m_field, *m_partition, m_model,
                                                      *m_model.document().find(f.line)));
        }
}

void State::storeFields(Result& result) const
{
    const std::string& out = m_settings.out;
    constexpr int lines = 48;
    result.fieldFile = "fields/" + m_study->name() + ".vtu";
    result.linesFile = "fields/lines.json";
    result.axes = writeField(*m_field, *m_partition, out + "/" + result.fieldFile);
    writeText(out + "/" + result.linesFile, fieldLines(*m_field, *m_study, *m_partition, lines));
}

void State::storeMesh(const std::string& path) const
{
    writeMesh(mesh(), path);
}

void State::log(const std::string& text) const
{
    if (m_settings.onLog)
        m_settings.onLog(text);
}

std::string State::limitReached(int pass, double effort) const
{
    const std::string early = " before every ask was met";
    if (pass >= m_passes)
        return "at the limit of " + std::to_string(m_passes) +
               (m_passes == 1 ? " pass" : " passes") + early;
    // A pass has some 1.5 times the unknowns of the one before, and takes about twice its time.
    if (m_field->counters().unknowns * 1.5 > m_unknowns)
        return "at the limit of " + std::to_string(m_unknowns) + " unknowns" + early;
    // One pass alone says little: the second may take as long as all were meant to, once more.
    const double spent = m_effort.spent(), allowed = pass == 1 ? 2 * m_seconds : m_seconds;
    if (spent < m_seconds && spent + 2 * effort < allowed)
        return {};
    return "after " + base::format(spent, base::dim::time, 2) + early +
           ": another pass would go beyond the limit of " +
           base::format(m_seconds, base::dim::time) + ", which the line of limits can raise";
}

void State::chooseOrder()
{
    const int solidOrder = m_study->solidOrder();
    if (mesh().dimension == 3)
        m_order = solidOrder;
    if (const Line* l = m_model.document().first("mesh"))
        m_order = mesh().dimension == 3 && !l->has("order")
                      ? solidOrder
                      : std::stoi(m_model.choice(*l, "order"));
}

void State::prepare(Reuse& reuse)
{
    const std::string key = shapeKey(m_model);
    const bool same = reuse.partition && reuse.shapeKey == key;
    m_progress.report(m_from, "shape");
    double start = base::seconds();
    m_partition = same ? reuse.partition
                       : std::make_shared<const shape::Partition>(
                             shape::Partition::build(m_model, m_settings.folder));
    if (sheet::topicOf(m_model.document()).hasShape)
        log("shape: " + std::to_string(m_partition->pieces().size()) + " regions, " +
            std::to_string(m_partition->sides().size()) + " sides, " +
            base::format(base::seconds() - start, base::dim::time, 3));
    Faults faults;
    m_study = physics::studyOf(m_model, *m_partition, faults);
    m_asks = m_study->asks(m_model, *m_partition, faults);
    if (!faults.empty())
        throw faults;
    for (Ask& a : m_asks)
        m_report.findings.push_back(a.finding);
    m_progress.report(m_from, "mesh");
    start = base::seconds();
    m_rung = m_study->first(
        {m_model, *m_partition, same && reuse.hasMesh ? &reuse.mesh : nullptr, m_progress});
    if (!m_rung->isSampled())
        return;
    if (!m_rung->wasKnown())
        log("mesh: " + std::to_string(mesh().cellCount()) + " cells, " +
            base::format(base::seconds() - start, base::dim::time, 3));
    chooseOrder();
    reuse.shapeKey = key;
    reuse.partition = m_partition;
    reuse.hasMesh = false;
}

void State::limits()
{
    Line defaults;
    defaults.kind = "limits";
    const Line* l = m_model.document().first("limits");
    const Line& use = l ? *l : defaults;
    m_passes = m_model.count(use, "passes");
    m_unknowns = m_model.count(use, "unknowns");
    m_seconds = m_model.number(use, "seconds");
}

State::Evaluation State::evaluationOf(const Ask& a)
{
    Evaluation e;
    const std::vector<int> estimates = m_field->estimates();
    for (const int q : estimates)
        e.orders.push_back(a.evaluate(*m_field, q));
    physics::Evaluated& best = e.orders.back();
    // What the steps in time add: the lowest order again with steps that err four times as much.
    e.timeError.assign(best.size(), 0.0);
    if (m_field->setCoarse(true)) {
        const auto coarse = a.evaluate(*m_field, estimates.front());
        m_field->setCoarse(false);
        // 3 in the limit; steps that adapt err less than twice as much in many cases.
        constexpr double rest = 0.8;
        for (size_t k = 0; k < coarse.size(); ++k)
            e.timeError[k] = std::abs(coarse[k] - e.orders.front()[k]) / rest;
    }
    // What the next order would change, where the figure's own field tells.
    if (a.local && a.degree == 1 && best.size() == 1)
        if (const auto places = a.local(*m_field, mesh::Locator(m_field->mesh()), best.with);
            places.size() == 1)
            if (const auto c = m_field->changeOf(places[0]); c && std::isfinite(c->by)) {
                e.changes = {c->by};
                e.unsure = c->unsure;
            }
    e.with = best.with;
    if (const int next = m_field->nextOrder(); e.changes.empty() && next > 0) {
        const physics::Evaluated ahead = a.evaluate(*m_field, next);
        e.changes = ahead;
        e.with = ahead.with;
        for (size_t k = 0; k < e.changes.size(); ++k)
            e.changes[k] -= best[k];
    }
    for (size_t k = 0; k < e.changes.size(); ++k)
        best[k] += e.changes[k];
    return e;
}

void State::estimate(size_t i, const Evaluation& e, double geometry)
{
    const Ask& a = m_asks[i];
    Finding& f = m_report.findings[i];
    const size_t n = e.orders.back().size();
    auto& histories = m_histories[i];
    histories.resize(n);
    f.value = e.orders.back();
    f.error.assign(n, 0.0);
    for (size_t k = 0; k < n; ++k) {
        History& history = histories[k];
        std::vector<double> series;
        for (const auto& o : e.orders)
            series.push_back(o[k]);
        history.byOrder.push_back(series);
        history.isDefinite = m_field->isDefinite();
        if (!e.changes.empty())
            history.change.push_back(e.changes[k]);
        f.value[k] += missing(history, a.degree);
        f.error[k] = estimateError(history, geometry, a.degree, a.offset);
        if (calibrated() && m_report.passes.empty())
            f.error[k] *= m_settings.calibration[i];
        f.error[k] += e.timeError[k] + e.unsure;
        // What iterations leave, to which solids are solved.
        constexpr double iterations = 1e-8;
        if (m_field->mesh().dimension == 3)
            f.error[k] += iterations * std::abs(f.value[k]);
        if (!std::isfinite(f.value[k]))
            throw Error(7021,
                        f.label + " is not a finite number; a material or charge is out of range",
                        {f.line, {}, -1});
    }
    if (a.uncancelled)
        errBetweenDrives(a.uncancelled(*m_field), f.error);
}

void State::evaluate()
{
    const bool leansOnDrives =
        std::any_of(m_asks.begin(), m_asks.end(), [](const Ask& a) { return a.allDrives; });
    const double ofField = m_field->geometryError(),
                 ofDrives = leansOnDrives ? m_field->geometryErrorOfDrives(ofField) : ofField;
    const auto corners = m_field->singularCorners();
    m_stepsTooLong = m_meshTooCoarse = false;
    m_histories.resize(m_asks.size());
    m_with.resize(m_asks.size());
    for (size_t i = 0; i < m_asks.size(); ++i) {
        Ask& a = m_asks[i];
        Finding& f = m_report.findings[i];
        if (!a.evaluate) {
            f.met = true;
            continue;
        }
        m_progress.check();
        const Evaluation e = evaluationOf(a);
        m_with[i] = e.with;
        estimate(i, e, a.allDrives ? ofDrives : ofField);
        double largest = 0;
        for (const double v : f.value)
            largest = std::max(largest, std::abs(v));
        if (a.reduce)
            a.reduce(f, m_with[i]);
        conclude(a, f, largest, corners);
        for (size_t k = 0; k < f.error.size() && !f.met; ++k)
            (2 * e.timeErrorAt(k) > f.error[k] ? m_stepsTooLong : m_meshTooCoarse) = true;
        a.finding = f;
    }
}

void State::conclude(const Ask& a, Finding& f, double largest,
                     const std::vector<physics::SingularCorner>& corners)
{
    f.noLimit = false;
    if (a.where)
        noLimit(a, f, corners);
    if (lacksError(f))
        f.note = noError;
    else if (f.note == noError)
        f.note.clear();
    const double scale = a.scale ? a.scale(*m_field, m_field->estimates().back()) : 0.0;
    // The band that was asked for is this far from it.
    f.reference = a.offset;
    if (a.scale && !f.value.empty())
        f.reference = f.value[0] - std::max(std::abs(f.value[0] - a.offset), scale);
    judge(f, largest, scale, a.offset);
}

void State::errBetweenDrives(const std::vector<double>& changes, std::vector<double>& error)
{
    if (changes.size() != error.size() || changes.empty())
        return;
    // Diagonals are energies, whose parts do not cancel: how far they may be off for what the
    // highest order changes tells how far the other entries may be.
    const auto n = size_t(std::lround(std::sqrt(double(changes.size()))));
    std::vector<double> ratios;
    for (size_t i = 0; i < n; ++i)
        if (const double change = changes[i * n + i]; change > 0)
            ratios.push_back(error[i * n + i] / change);
    // As of most solids, where no diagonal tells.
    double usual = 0.3;
    if (!ratios.empty()) {
        const auto middle = ratios.begin() + std::ptrdiff_t(ratios.size() / 2);
        std::nth_element(ratios.begin(), middle, ratios.end());
        usual = *middle;
    }
    for (size_t k = 0; k < error.size(); ++k)
        error[k] = std::max(error[k], usual * changes[k]);
}

void State::noLimit(const Ask& a, Finding& f, const std::vector<physics::SingularCorner>& corners)
{
    // A largest field that sits in the cells of a singular corner has no limit.
    const mesh::Locator::Hit hit = a.where(*m_field, m_order);
    if (hit.cell < 0)
        return;
    // The field's own mesh may be cut where regions meet through a resistance.
    const mesh::Mesh& own = m_field->mesh();
    const Point at = mesh::Geometry(own, hit.cell).at(hit.xi);
    f.at = {at.x, at.y};
    if (mesh().dimension == 3)
        f.at.push_back(at.z);
    f.noLimit = false;
    for (const auto& c : corners)
        for (const int v : own.corners(hit.cell))
            f.noLimit = f.noLimit || v == c.vertex;
    if (f.noLimit) {
        f.error = {std::numeric_limits<double>::infinity()};
        f.note = "no limit: it grows with every refinement towards a sharp corner";
    } else {
        f.note.clear();
    }
}

void State::record(int number, double took)
{
    Pass p;
    p.number = number;
    p.triangles = mesh().cellCount();
    p.unknowns = m_field->counters().unknowns;
    p.seconds = took;
    for (const Finding& f : m_report.findings) {
        const bool one = f.value.size() == 1;
        p.value.push_back(one ? f.value[0] : NAN);
        p.error.push_back(one && !f.noLimit ? f.error[0] : NAN);
    }
    m_report.passes.push_back(p);
    const auto& c = m_field->counters();
    log("pass " + std::to_string(number) + ": " + std::to_string(p.triangles) + " cells, " +
        std::to_string(p.unknowns) + " unknowns, assembly " +
        base::format(c.assembleSeconds, base::dim::time, 3) + ", ordering " +
        base::format(c.orderSeconds, base::dim::time, 3) + ", factor " +
        base::format(c.factorSeconds, base::dim::time, 3) + ", solution " +
        base::format(c.solveSeconds, base::dim::time, 3) +
        (c.iterations > 0 ? " (" + std::to_string(c.iterations) + " solves)" : ""));
    if (m_settings.onPass)
        m_settings.onPass(p);
    m_done = true;
    for (size_t i = 0; i < m_asks.size(); ++i)
        m_done = m_done && settled(m_report.findings[i], m_asks[i].offset);
}

physics::Goals State::goals()
{
    const mesh::Locator locator(mesh());
    physics::Goals g;
    g.passes = int(m_report.passes.size());
    g.onlyCheck = m_done;
    g.wholly = g.passes < 2;
    for (size_t i = 0; i < m_asks.size(); ++i) {
        const Ask& a = m_asks[i];
        g.allDrives = g.allDrives || a.allDrives;
        if (settled(m_report.findings[i], a.offset))
            continue;
        if (!a.local)
            g.wholly = true;
        else
            for (const auto& functional : a.local(*m_field, locator, m_with[i])) {
                // A strongest field may turn up elsewhere once it is better known.
                g.wholly = g.wholly || norm(functional.direction) > 0;
                g.places.push_back(functional);
            }
    }
    return g;
}

void State::climb()
{
    if (m_stepsTooLong)
        m_study->shortenSteps();
    if (m_stepsTooLong && !m_meshTooCoarse)
        return;
    m_rung->climb(*m_field, goals());
}

}  // namespace yh::run
