#include "run/run.h"

#include "run/asks.h"
#include "run/checks.h"
#include "run/parity.h"
#include "run/store.h"
#include "run/worker.h"
#include "sheet/schema.h"
#include "sheet/sentence.h"

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
using physics::ElectrostaticProblem;
using physics::ElectrostaticSolver;
using physics::Point;
using sheet::Line;
using sheet::Model;

namespace {

double now()
{
    using namespace std::chrono;
    return duration<double>(steady_clock::now().time_since_epoch()).count();
}

/// What a sweep may reuse: geometry and mesh of a state with the same shape.
struct Reuse
{
    std::string shapeKey;
    std::shared_ptr<const shape::Partition> partition;
    mesh::Mesh mesh;
    bool hasMesh = false;
};

/// Everything that geometry and mesh depend on, as one text.
std::string shapeKey(const Model& model)
{
    std::string key;
    char buffer[64];
    for (const Line& l : model.document().lines) {
        const sheet::Kind* k = sheet::findKind(l.kind);
        if (!k || (k->section != "shape" && k->section != "mesh" && k->section != "symmetry" &&
                   l.kind != "outer edge"))
            continue;
        key += l.kind + ":" + l.name();
        for (const sheet::Field& f : k->fields) {
            key += "|" + f.key + "=";
            if (f.type == sheet::FieldType::quantity && (l.has(f.key) || !f.fallback.empty())) {
                std::snprintf(buffer, sizeof buffer, "%.17g", model.number(l, f.key));
                key += buffer;
            } else if (f.type == sheet::FieldType::point && (l.has(f.key) || !f.fallback.empty())) {
                const Point p = model.point(l, f.key);
                std::snprintf(buffer, sizeof buffer, "%.17g,%.17g", p.x, p.y);
                key += buffer;
            } else if (f.type == sheet::FieldType::points && l.has(f.key)) {
                for (const auto& s : model.path(l, f.key)) {
                    std::snprintf(buffer, sizeof buffer, "%.17g,%.17g;", s.to.x, s.to.y);
                    key += buffer;
                    if (s.via) {
                        std::snprintf(buffer, sizeof buffer, "via %.17g,%.17g;", s.via->x,
                                      s.via->y);
                        key += buffer;
                    }
                }
            } else if (f.type == sheet::FieldType::count && (l.has(f.key) || !f.fallback.empty())) {
                key += std::to_string(model.count(l, f.key));
            } else {
                key += l.get(f.key);
            }
        }
        key += "\n";
    }
    return key;
}

/// Solves one state of the sheet with refinement.
class State
{
public:
    State(const Model& model, const Settings& settings, base::Progress& progress, double from,
          double to)
        : m_model(model),
          m_settings(settings),
          m_progress(progress),
          m_from(from),
          m_to(to),
          m_start(now())
    {
    }

    Report run(Reuse& reuse)
    {
        m_report.sheetHash = sheet::hash(m_model.document());
        prepare(reuse);
        limits();
        double estimateOfPass = 0;
        for (int pass = 1;; ++pass) {
            const double start = now();
            m_progress.report(m_from + (m_to - m_from) * progressOf(pass),
                              "pass " + std::to_string(pass) + ": " +
                                  std::to_string(m_mesh.cellCount()) + " triangles");
            m_solver = std::make_unique<ElectrostaticSolver>(*m_problem, m_mesh, *m_partition,
                                                             m_order, m_progress);
            m_solver->solve(std::max(1, m_order - 2), m_progress);
            evaluate();
            record(pass, now() - start);
            estimateOfPass = now() - start;
            // The second pass is what makes the errors trustworthy; a point of a sweep may lean on
            // that of the sheet's own state, whose mesh follows the same rules.
            const bool enough = (pass >= 2 || calibrated()) && m_done;
            if (enough)
                break;
            if (pass >= m_passes || m_solver->counters().unknowns * 1.5 > m_unknowns ||
                now() - m_start + 2 * estimateOfPass > m_seconds) {
                m_stopped = pass >= m_passes
                                ? "the limit of " + std::to_string(m_passes) + " passes"
                            : m_solver->counters().unknowns * 1.5 > m_unknowns
                                ? "the limit of " + std::to_string(m_unknowns) + " unknowns"
                                : "the limit of " + base::format(m_seconds, base::dim::time);
                break;
            }
            refine();
        }
        if (m_settings.checks)
            m_report.checks = makeChecks(m_model, *m_partition, *m_solver, m_asks);
        if (!m_stopped.empty() && !m_report.allMet())
            m_report.checks.push_back(
                {"accuracy",
                 Check::State::warning,
                 "the refinement stopped at " + m_stopped + " before every ask was met",
                 -1,
                 {}});
        const mesh::Quality q = mesh::quality(m_mesh);
        m_report.mesh = {
            m_mesh.cellCount(), m_mesh.vertexCount(), q.curvedCount, m_order, q.worst, q.mean};
        m_report.seconds = now() - m_start;
        m_report.peakBytes = peakBytes();
        reuse.mesh = m_mesh;
        reuse.hasMesh = true;
        return m_report;
    }

    /// Writes fields and profiles of the last pass; names them in the report.
    void store(Report& report, Result& result) const
    {
        const std::string& out = m_settings.out;
        writeField(*m_solver, *m_partition, out + "/fields/electrostatic.vtu");
        writeText(out + "/fields/lines.json", fieldLines(*m_solver, *m_partition, 48));
        result.fieldFile = "fields/electrostatic.vtu";
        result.linesFile = "fields/lines.json";
        int n = 0;
        for (Finding& f : report.findings)
            if (f.table == "profile") {
                f.table = "tables/profile-" + std::to_string(++n) + ".csv";
                writeText(out + "/" + f.table,
                          profileCsv(*m_solver, m_model, *m_model.document().find(f.line)));
            }
    }

private:
    void log(const std::string& text) const
    {
        if (m_settings.onLog)
            m_settings.onLog(text);
    }
    [[nodiscard]] double progressOf(int pass) const { return 1 - std::pow(0.7, pass); }

    void prepare(Reuse& reuse)
    {
        const std::string key = shapeKey(m_model);
        const bool same = reuse.partition && reuse.shapeKey == key;
        m_progress.report(m_from, "shape");
        double start = now();
        m_partition = same ? reuse.partition
                           : std::make_shared<const shape::Partition>(
                                 shape::Partition::build(m_model, m_settings.folder));
        log("shape: " + std::to_string(m_partition->pieces().size()) + " regions, " +
            std::to_string(m_partition->sides().size()) + " edges, " +
            base::format(now() - start, base::dim::time, 3));
        Faults faults;
        m_problem = std::make_unique<ElectrostaticProblem>(
            physics::defineElectrostatic(m_model, *m_partition, faults));
        m_asks = makeAsks(m_model, *m_partition, *m_problem, faults);
        if (!faults.empty())
            throw faults;
        for (Ask& a : m_asks)
            m_report.findings.push_back(a.finding);
        if (same && reuse.hasMesh) {
            m_mesh = reuse.mesh;
        } else {
            m_progress.report(m_from, "mesh");
            start = now();
            m_mesh = firstMesh();
            log("mesh: " + std::to_string(m_mesh.cellCount()) + " triangles, " +
                base::format(now() - start, base::dim::time, 3));
        }
        if (const Line* l = m_model.document().first("mesh"))
            m_order = std::stoi(m_model.choice(*l, "order"));
        reuse.shapeKey = key;
        reuse.partition = m_partition;
        reuse.hasMesh = false;
    }

    mesh::Mesh firstMesh()
    {
        mesh::Options o;
        o.pieces = m_problem->activePieces;
        if (const Line* l = m_model.document().first("mesh"))
            o.cellsAcrossGap = m_model.count(*l, "cells");
        for (const Line* l : m_model.document().ofKind("mesh size")) {
            const auto s = m_partition->resolve(m_model.place(*l, "in"), m_model, {l->id, "in", 0});
            const double size = m_model.number(*l, "size");
            double area = 0;
            for (const int f : s.pieces) {
                o.sizes.push_back({f, -1, size});
                area += m_partition->pieces()[size_t(f)].content;
            }
            for (const int e : s.sides)
                o.sizes.push_back({-1, e, size});
            constexpr double mostTriangles = 5e6;
            if (area / (0.4 * size * size) > mostTriangles)
                throw Error(7020,
                            "cells of " + base::format(size, base::dim::length) + " in '" +
                                l->get("in") +
                                "' would be more than 5 million triangles; ask for larger ones",
                            {l->id, "size", 0});
        }
        mesh::Mesh m = mesh::generate(*m_partition, o, m_progress);
        // Cells shrink towards corners where the field is singular before anything is solved.
        constexpr int cornerLevels = 3;
        for (int i = 0; i < cornerLevels; ++i) {
            std::set<int> corners;
            for (const auto& c : physics::findSingularCorners(*m_problem, m, *m_partition))
                corners.insert(c.vertex);
            if (corners.empty())
                break;
            m = mesh::refine(m, *m_partition, touching(m, corners));
        }
        return m;
    }
    static std::vector<char> touching(const mesh::Mesh& m, const std::set<int>& vertices)
    {
        std::vector<char> marked(size_t(m.cellCount()), 0);
        for (int t = 0; t < m.cellCount(); ++t)
            for (const int v : m.corners(t))
                marked[size_t(t)] |= char(vertices.count(v));
        return marked;
    }

    void limits()
    {
        Line defaults;
        defaults.kind = "limits";
        const Line* l = m_model.document().first("limits");
        const Line& use = l ? *l : defaults;
        m_passes = m_model.count(use, "passes");
        m_unknowns = m_model.count(use, "unknowns");
        m_seconds = m_model.number(use, "seconds");
    }

    [[nodiscard]] bool calibrated() const { return m_settings.calibration.size() == m_asks.size(); }

    void evaluate()
    {
        const double geometry = m_solver->geometryError();
        const auto corners = m_solver->singularCorners();
        for (size_t i = 0; i < m_asks.size(); ++i) {
            Ask& a = m_asks[i];
            Finding& f = m_report.findings[i];
            if (!a.evaluate) {
                f.met = true;
                continue;
            }
            m_progress.check();
            std::vector<std::vector<double>> orders;
            for (int q = std::max(1, m_order - 2); q <= m_order; ++q)
                orders.push_back(a.evaluate(*m_solver, q));
            const size_t n = orders.back().size();
            a.histories.resize(n);
            f.value = orders.back();
            f.error.assign(n, 0.0);
            double largest = 0;
            for (size_t k = 0; k < n; ++k) {
                std::vector<double> series;
                for (const auto& o : orders)
                    series.push_back(o[k]);
                a.histories[k].byOrder.push_back(series);
                f.error[k] = estimateError(a.histories[k], geometry, a.degree);
                if (calibrated() && m_report.passes.empty())
                    f.error[k] *= m_settings.calibration[i];
                largest = std::max(largest, std::abs(f.value[k]));
                if (!std::isfinite(f.value[k]))
                    throw Error(
                        7021,
                        f.label + " is not a finite number; a material or charge is out of range",
                        {f.line, {}, -1});
            }
            f.noLimit = false;
            if (!a.pieces.empty())
                singular(a, f, corners);
            judge(f, largest, a.scale ? a.scale(*m_solver, m_order) : 0.0);
            a.finding = f;
        }
    }
    /// A largest field that sits in the cells of a singular corner has no limit.
    void singular(const Ask& a, Finding& f, const std::vector<physics::SingularCorner>& corners)
    {
        const auto e = m_solver->largestField(m_order, a.pieces);
        f.at = {e.at.x, e.at.y};
        if (e.cell < 0)
            return;
        for (const auto& c : corners)
            for (const int v : m_mesh.corners(e.cell))
                f.noLimit = f.noLimit || v == c.vertex;
        if (f.noLimit) {
            f.error = {std::numeric_limits<double>::infinity()};
            f.note = "no limit: it grows with every refinement towards a sharp corner";
        } else {
            f.note.clear();
        }
    }
    static void judge(Finding& f, double largest, double scale)
    {
        f.met = !f.noLimit;
        // Small entries of a matrix are judged by its scale.
        constexpr double shareOfScale = 0.02;
        for (size_t k = 0; k < f.value.size() && f.within > 0; ++k)
            f.met = f.met &&
                    f.error[k] <=
                        f.within * std::max({std::abs(f.value[k]), scale,
                                             f.conductors.empty() ? 0.0 : shareOfScale * largest});
        if (!f.conductors.empty() || f.value.empty())
            return;
        // A forbidden side counts with its error; a singular field is beyond any limit.
        if (std::isfinite(f.below) && !(std::abs(f.value[0]) + f.error[0] <= f.below))
            f.met = false;
        if (std::isfinite(f.above) && !(std::abs(f.value[0]) - f.error[0] >= f.above))
            f.met = false;
        if (f.value[0] == 0 && !f.noLimit)
            f.met = true;
    }
    /// Met as far as refinement can help: a missed limit with a settled value is final.
    [[nodiscard]] static bool settled(const Finding& f)
    {
        if (f.met || f.noLimit)
            return true;
        const bool accurate =
            f.value.size() == 1 && (f.within <= 0 || f.error[0] <= f.within * std::abs(f.value[0]));
        const bool above = std::isfinite(f.below) && std::abs(f.value[0]) - f.error[0] > f.below;
        const bool under = std::isfinite(f.above) && std::abs(f.value[0]) + f.error[0] < f.above;
        return accurate && (above || under);
    }

    void record(int number, double took)
    {
        Pass p;
        p.number = number;
        p.triangles = m_mesh.cellCount();
        p.unknowns = m_solver->counters().unknowns;
        p.seconds = took;
        for (const Finding& f : m_report.findings) {
            const bool one = f.value.size() == 1;
            p.value.push_back(one ? f.value[0] : NAN);
            p.error.push_back(one && !f.noLimit ? f.error[0] : NAN);
        }
        m_report.passes.push_back(p);
        const auto& c = m_solver->counters();
        log("pass " + std::to_string(number) + ": " + std::to_string(p.triangles) + " triangles, " +
            std::to_string(p.unknowns) + " unknowns, assembly " +
            base::format(c.assembleSeconds, base::dim::time, 3) + ", ordering " +
            base::format(c.orderSeconds, base::dim::time, 3) + ", factor " +
            base::format(c.factorSeconds, base::dim::time, 3) + ", solution " +
            base::format(c.solveSeconds, base::dim::time, 3));
        if (m_settings.onPass)
            m_settings.onPass(p);
        m_done = std::all_of(m_report.findings.begin(), m_report.findings.end(), settled);
    }

    void refine()
    {
        bool units = false;
        for (const Ask& a : m_asks)
            units = units || a.capacitance;
        std::vector<double> eta = m_solver->indicator(units);
        double total = std::accumulate(eta.begin(), eta.end(), 0.0);
        if (total > 0)
            for (double& x : eta)
                x /= total;
        const mesh::Locator locator(m_mesh);
        for (size_t i = 0; i < m_asks.size(); ++i)
            if (m_asks[i].local && !settled(m_report.findings[i]))
                for (const auto& functional : m_asks[i].local(*m_solver, locator)) {
                    const auto dual = m_solver->dualIndicator(functional);
                    const double sum = std::accumulate(dual.begin(), dual.end(), 0.0);
                    for (size_t t = 0; t < eta.size() && sum > 0; ++t)
                        eta[t] += dual[t] / sum;
                }
        // The cells that hold this share of the indicator are refined (Doerfler's rule).
        // Where every ask is met already, the pass only checks what the errors say.
        const double share = m_done ? 0.75 : 0.85;
        total = std::accumulate(eta.begin(), eta.end(), 0.0);
        std::vector<int> order(eta.size());
        std::iota(order.begin(), order.end(), 0);
        std::sort(order.begin(), order.end(), [&](int a, int b) {
            return eta[size_t(a)] != eta[size_t(b)] ? eta[size_t(a)] > eta[size_t(b)] : a < b;
        });
        std::vector<char> marked(eta.size(), 0);
        double sum = 0;
        for (const int t : order) {
            if (sum > share * total && total > 0)
                break;
            sum += eta[size_t(t)];
            marked[size_t(t)] = 1;
        }
        std::set<int> corners;
        // The first refinement goes to every singular corner: else one that the indicator passes
        // over would keep its error in both passes, unseen.
        const bool all = m_report.passes.size() == 1;
        for (const auto& c : m_solver->singularCorners())
            if (all)
                corners.insert(c.vertex);
        for (const auto& c :
             all ? std::vector<physics::SingularCorner>() : m_solver->singularCorners())
            for (int t = 0; t < m_mesh.cellCount(); ++t)
                if (marked[size_t(t)])
                    for (const int v : m_mesh.corners(t))
                        if (v == c.vertex)
                            corners.insert(v);
        m_mesh = mesh::refine(m_mesh, *m_partition, marked);
        // Towards a singular corner the error falls slowly: go two levels further at once.
        constexpr int extraLevels = 2;
        for (int i = 0; i < extraLevels && !corners.empty(); ++i)
            m_mesh = mesh::refine(m_mesh, *m_partition, touching(m_mesh, corners));
    }

    const Model& m_model;
    const Settings& m_settings;
    base::Progress& m_progress;
    double m_from, m_to, m_start;
    std::shared_ptr<const shape::Partition> m_partition;
    std::unique_ptr<ElectrostaticProblem> m_problem;
    std::vector<Ask> m_asks;
    mesh::Mesh m_mesh;
    std::unique_ptr<ElectrostaticSolver> m_solver;
    Report m_report;
    int m_order = 3, m_passes = 14, m_unknowns = 600000;
    double m_seconds = 120;
    bool m_done = false;
    std::string m_stopped;
};

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

class Runner
{
public:
    Runner(const sheet::Document& document, const Settings& settings, base::Progress& progress)
        : m_document(document), m_settings(settings), m_progress(progress)
    {
    }

    Outcome run(Result& result)
    {
        const double start = now();
        const Model model(m_document, m_settings.overrides);
        for (const Line& l : m_document.lines)
            result.lineIds.push_back(l.id);
        Faults faults = sheet::validate(model);
        if (!faults.empty()) {
            result.report.faults = faults;
            return Outcome::sheetWrong;
        }
        if (!m_settings.out.empty())
            makeFolders(m_settings.out);
        const auto sweeps = m_document.ofKind("sweep");
        std::vector<std::vector<double>> values;
        int points = 1;
        for (const Line* l : sweeps) {
            values.push_back(sweepValues(model, *l));
            points *= int(values.back().size());
        }
        const double share = 1.0 / (1 + (sweeps.empty() ? 0 : points));
        Reuse reuse;
        {
            State state(model, m_settings, m_progress, 0.0, share);
            result.report = state.run(reuse);
            if (!m_settings.out.empty())
                state.store(result.report, result);
        }
        if (!sweeps.empty())
            sweep(model, sweeps, values, points, share, reuse, result);
        result.report.seconds = now() - start;
        result.report.peakBytes = peakBytes();
        if (!m_settings.out.empty()) {
            writeText(m_settings.out + "/tables/findings.csv", findingsCsv(result.report));
            if (!sweeps.empty())
                writeText(m_settings.out + "/tables/sweep.csv", sweepCsv(result));
            writeText(m_settings.out + "/run.json", toJson(result));
        }
        bool met = result.report.allMet();
        for (const SweepPoint& p : result.points)
            met = met && p.report.allMet();
        return met ? Outcome::met : Outcome::missed;
    }

private:
    void sweep(const Model& model, const std::vector<const Line*>& lines,
               const std::vector<std::vector<double>>& values, int points, double share,
               Reuse& reuse, Result& result)
    {
        std::vector<base::Dimension> dims;
        for (const Line* l : lines) {
            dims.push_back(model.parameters().values.at(l->get("parameter")).dimension);
            result.swept.push_back(l->get("parameter"));
            result.sweptUnits.push_back(base::siUnit(dims.back()));
            result.sweptHere.push_back(
                model.parameters().values.at(l->get("parameter")).value.real());
        }
        Settings quiet = m_settings;
        quiet.calibration = calibrationOf(result.report);
        quiet.onPass = nullptr;
        quiet.checks = false;
        std::vector<Overrides> all;
        for (int i = 0; i < points; ++i) {
            SweepPoint point;
            Overrides overrides = m_settings.overrides;
            int rest = i;
            for (size_t k = lines.size(); k-- > 0;) {
                const auto n = int(values[k].size());
                const double v = values[k][size_t(rest % n)];
                rest /= n;
                point.parameters.insert(point.parameters.begin(), v);
                overrides[lines[k]->get("parameter")] = overrideText(v, dims[k]);
            }
            all.push_back(overrides);
            result.points.push_back(std::move(point));
        }
        // Every second point goes to a second process; with the same mesh for all there is nothing
        // to be gained from one.
        const Model first(m_document, all[0]), last(m_document, all.back());
        const bool shared = !m_settings.program.empty() && points > 2 &&
                            sheet::validate(first).empty() && sheet::validate(last).empty() &&
                            shapeKey(first) != shapeKey(last);
        std::unique_ptr<Worker> worker;
        const int threads = omp_get_max_threads();
        if (shared && threads > 1) {
            std::vector<Overrides> theirs;
            for (size_t i = 1; i < all.size(); i += 2)
                theirs.push_back(all[i]);
            worker = std::make_unique<Worker>(m_settings.program, m_document, theirs,
                                              quiet.calibration, m_settings.folder);
            omp_set_num_threads(1);
        }
        for (size_t i = 0; i < all.size(); i += worker ? 2 : 1) {
            m_progress.report(share * double(1 + i), "sweep point " + std::to_string(i + 1) +
                                                         " of " + std::to_string(points));
            result.points[i].report =
                statePoint(all[i], quiet, share * double(1 + i), share * double(2 + i), reuse);
        }
        for (size_t i = 1; worker && i < all.size(); i += 2) {
            std::optional<Report> r = worker->next(m_progress);
            // A process that died leaves its points to this one.
            result.points[i].report =
                r ? std::move(*r) : statePoint(all[i], quiet, share * double(1 + i), 1.0, reuse);
        }
        omp_set_num_threads(threads);
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
        } catch (const Faults& f) {
            report.faults = f;
        } catch (const Error& e) {
            report.faults = {e.fault()};
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
    const Settings& m_settings;
    base::Progress& m_progress;
};

}  // namespace

Report solveState(const sheet::Document& document, const Overrides& overrides,
                  const Settings& settings, base::Progress& progress)
{
    Reuse reuse;
    return Runner(document, settings, progress).statePoint(overrides, settings, 0, 1, reuse);
}

namespace {

/// Says with an open mirror plane which kind its drawing has.
void proposeParity(const Model& model, const std::string& folder, Faults& faults)
{
    for (base::Fault& f : faults) {
        const Line* l = model.document().find(f.place.line);
        if (!l || l->kind != "mirror plane" || f.place.field != "kind" || !f.incomplete ||
            !l->has("at"))
            continue;
        try {
            switch (parityOf(model, l->get("at"), folder)) {
                case Parity::even:
                    f.text = "the drawing is even about this plane: choose even";
                    break;
                case Parity::odd:
                    f.text = "the drawing is odd about this plane: choose odd";
                    break;
                case Parity::none:
                    f.text = "the drawing is not its own mirror image about this plane";
                    break;
            }
        } catch (const Error&) {
            // The shape's own fault is in the list.
        }
    }
}

}  // namespace

base::Faults faultsOf(const Model& model, const std::string& folder)
{
    Faults faults = sheet::validate(model);
    proposeParity(model, folder, faults);
    // Geometry only makes sense when every number of the shapes is there.
    for (const base::Fault& f : faults)
        if (const Line* l = model.document().find(f.place.line);
            l && (sheet::isShape(l->kind) || l->kind == "parameter" || l->kind == "space" ||
                  l->kind == "mirror plane"))
            return faults;
    if (std::none_of(model.document().lines.begin(), model.document().lines.end(),
                     [](const Line& l) { return sheet::isShape(l.kind); }))
        return faults;
    try {
        const auto partition = shape::Partition::build(model, folder);
        const bool whole = faults.empty();
        Faults more;
        const ElectrostaticProblem problem = physics::defineElectrostatic(model, partition, more);
        if (whole)
            static_cast<void>(makeAsks(model, partition, problem, more));
        // Lines that are already faulty say so once.
        std::set<int> said;
        for (const base::Fault& f : faults)
            said.insert(f.place.line);
        for (const base::Fault& f : more)
            if (!said.count(f.place.line) || f.place.line < 0)
                faults.push_back(f);
    } catch (const Error& e) {
        faults.push_back(e.fault());
    }
    return faults;
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
    } catch (const Error& e) {
        result.report.faults = {e.fault()};
        outcome = e.fault().number / 1000 == 3 || e.fault().number / 1000 == 2 ? Outcome::sheetWrong
                                                                               : Outcome::failed;
    } catch (const std::bad_alloc&) {
        result.report.faults = {
            {7001,
             {},
             "there is not enough memory for this sheet; ask for less accuracy or larger cells",
             false}};
        outcome = Outcome::failed;
    }
    return result;
}

}  // namespace yh::run
