// Pulses of sound on a given sheet: reading, figures, checks.
#include "physics/common/ask_maker.h"
#include "physics/common/mesh_rung.h"
#include "physics/common/sheet_reader.h"
#include "physics/sound/sound.h"
#include "sheet/materials.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <map>

namespace yh::physics {

using sheet::Line;
namespace dim = base::dim;

namespace {

/// Speeds of sound of fluids at 20 degC, m/s.
/// Source: Kaye and Laby, 16th ed.; sea water of salinity 35 after Mackenzie, J. Acoust. Soc. Am.
/// 70 (1981) 807 (both from memory).
double knownSpeed(const std::string& fluid)
{
    static const std::map<std::string, double> list = {
        {"water", 1482},    {"sea water", 1521.5}, {"air", 343.2},    {"ethanol", 1162},
        {"glycerol", 1904}, {"mineral oil", 1440}, {"mercury", 1450}, {"helium", 1007},
        {"nitrogen", 349},  {"argon", 319}};
    const auto it = list.find(fluid);
    return it == list.end() ? 0 : it->second;
}

class SoundReader : SheetReader
{
public:
    using SheetReader::SheetReader;

    std::unique_ptr<SoundProblem> run()
    {
        auto& p = *m_problem;
        p.media.resize(m_p.pieces().size());
        p.known.assign(m_p.pieces().size(), 0);
        p.aboutAxis = m_model.space() == sheet::Space::axisymmetric;
        materials();
        sayWithoutMaterial([&](size_t f) { return p.known[f] != 0; }, "material water");
        for (size_t f = 0; f < p.known.size(); ++f)
            if (p.known[f]) {
                p.activePieces.push_back(int(f));
                const auto& m = p.media[f];
                const double fast = std::sqrt((m.lambda + 2 * m.mu) / m.rho),
                             slow = m.mu > 0 ? std::sqrt(m.mu / m.rho) : fast;
                p.fastest = std::max(p.fastest, fast);
                p.slowest = p.slowest > 0 ? std::min(p.slowest, slow) : slow;
            }
        walls();
        sources();
        receivers();
        if (!p.activePieces.empty())
            frame();
        if (p.slowest > 0 && p.highest > 0)
            length();
        return std::move(m_problem);
    }

private:
    /// The constants of an elastic medium; none, and said, where they are not those of one.
    std::optional<grid::Elastic> elasticOf(const Line* l, const sheet::Material* known, double rho)
    {
        auto of = [&](const char* key, double otherwise) {
            return l->has(key) ? m_model.number(*l, key) : otherwise;
        };
        grid::Elastic e;
        e.rho = rho;
        const sheet::Elasticity library = known ? sheet::elasticityOf(*known) : sheet::Elasticity{};
        const double E = of("E", library.young), nu = of("nu", library.poisson),
                     speed = of("sound speed", knownSpeed(l->get("material")));
        if (l->has("sound speed") || !(E > 0)) {
            const double shear = of("shear speed", 0);
            if (!(speed > 0)) {
                fault(7801, *l, "sound speed", "its speed of sound is missing", true);
                return {};
            }
            e.mu = rho * shear * shear;
            e.lambda = rho * speed * speed - 2 * e.mu;
            if (!(e.lambda > 0)) {
                fault(7802, *l, "shear speed",
                      "waves of shear are slower than 0.7 of those of pressure");
                return {};
            }
        } else {
            if (!(nu > 0 && nu < 0.5)) {
                fault(7803, *l, "nu", "Poisson's ratio lies between 0 and 0.5 here");
                return {};
            }
            e.mu = E / (2 * (1 + nu));
            e.lambda = E * nu / ((1 + nu) * (1 - 2 * nu));
        }
        return e;
    }

    void materials()
    {
        for (const Line* l : m_model.document().ofKind("material")) {
            const std::string name = l->get("material");
            const sheet::Material* known = sheet::findMaterial(name);
            auto of = [&](const char* key, double otherwise) {
                return l->has(key) ? m_model.number(*l, key) : otherwise;
            };
            const double rho = of("density", known ? known->density : 0);
            if (!(rho > 0)) {
                fault(7800, *l, "density", "its density is missing", true);
                continue;
            }
            const auto e = elasticOf(l, known, rho);
            if (!e)
                continue;
            for (const int f : resolve(*l, "in", 7804).pieces) {
                m_problem->media[size_t(f)] = *e;
                m_problem->known[size_t(f)] = 1;
            }
        }
    }
    void walls()
    {
        for (const Line* l : m_model.document().ofKind("smooth wall")) {
            constexpr const char* names[] = {"left", "right", "bottom", "top"};
            for (size_t k = 0; k < 4; ++k)
                if (l->get("at").find(names[k]) != std::string::npos) {
                    if (k == 0 && m_problem->aboutAxis)
                        fault(7823, *l, "at", "the axis is on the left: it needs no wall");
                    m_problem->edge[k] = grid::Edge::mirror;
                }
        }
    }
    void frame()
    {
        auto& p = *m_problem;
        for (const int f : p.activePieces)
            for (const int s : m_p.pieces()[size_t(f)].sides)
                for (const Point& q : m_p.polyline(s)) {
                    m_low = {std::min(m_low.x, q.x), std::min(m_low.y, q.y)};
                    m_high = {std::max(m_high.x, q.x), std::max(m_high.y, q.y)};
                }
        const double tiny = 1e-6 * norm(m_high - m_low);
        if (p.aboutAxis && m_low.x > tiny)
            m_faults.push_back({7824,
                                {-1, "shape", -1},
                                "the drawing begins at " + base::format(m_low.x, dim::length, 3) +
                                    " from the axis: draw what is between it and the axis"});
        // Halves of sources begin at a plane of symmetry.
        auto isAtMirror = [&](const Point& q) {
            const double off[] = {q.x - m_low.x, m_high.x - q.x, q.y - m_low.y, m_high.y - q.y};
            for (size_t k = 0; k < 4; ++k)
                if ((p.edge[k] == grid::Edge::mirror || (k == 0 && p.aboutAxis)) &&
                    std::abs(off[k]) < tiny)
                    return true;
            return false;
        };
        for (auto& s : p.sources) {
            const bool first = isAtMirror(s.from), last = isAtMirror(s.to);
            if (last && !first)
                std::swap(s.from, s.to);
            s.isHalf = first != last;
        }
        const auto lines = m_model.document().ofKind("sound source");
        for (size_t k = 0; p.aboutAxis && k < p.sources.size(); ++k)
            if (std::max(p.sources[k].from.x, p.sources[k].to.x) < tiny)
                fault(7825, *lines[k], "to",
                      "a line on the axis has no surface that sends: let it run outwards");
    }
    void sources()
    {
        for (const Line* l : m_model.document().ofKind("sound source")) {
            SoundProblem::Source s;
            s.frequency = m_model.number(*l, "frequency");
            s.cycles = m_model.number(*l, "cycles");
            s.pressure = m_model.number(*l, "pressure");
            s.taper = m_model.number(*l, "taper");
            s.from = m_model.point(*l, "from");
            s.to = m_model.point(*l, "to");
            if (!(norm(s.to - s.from) > 0))
                fault(7805, *l, "to", "a source is a line: its ends are one place");
            if (s.taper > 0.5)
                fault(7806, *l, "taper", "at most half of the line at either end");
            constexpr double fewest = 1;
            if (s.cycles < fewest)
                fault(7807, *l, "cycles", "a pulse has a cycle at least");
            m_problem->highest =
                std::max(m_problem->highest, s.frequency * (1 + 0.5 / std::max(1.0, s.cycles)));
            m_problem->sources.push_back(s);
        }
    }
    void receivers()
    {
        for (const Line* l : m_model.document().ofKind("receiver"))
            m_problem->receivers.push_back({l->name(), m_model.point(*l, "at")});
    }
    void length()
    {
        const Line* l = m_model.document().first("sound run");
        if (!l)
            return;  // said by the face
        auto& p = *m_problem;
        p.time = m_model.number(*l, "time");
        const double wave = p.slowest / p.highest;
        constexpr double usual = 16, fewest = 10;
        p.cell = l->has("cell") ? m_model.number(*l, "cell") : wave / usual;
        if (p.cell > wave / fewest) {
            char text[200];
            std::snprintf(text, sizeof text,
                          "too few cells: the slowest wave is %s long, which takes cells of %s at "
                          "most",
                          base::format(wave, dim::length, 3).c_str(),
                          base::format(wave / fewest, dim::length, 3).c_str());
            fault(7808, *l, "cell", text);
            return;
        }
        const double cells = (m_high.x - m_low.x) * (m_high.y - m_low.y) / (p.cell * p.cell),
                     steps = p.time * p.fastest / (0.57 * p.cell);
        constexpr double mostCells = 16e6, mostUpdates = 5e11;
        if (cells > mostCells || cells * steps > mostUpdates)
            fault(7809, *l, "cell",
                  "that many cells over that long a time would take hours: choose larger cells, a "
                  "lower frequency or a smaller frame");
        auto inside = [&](const Point& q) {
            return q.x >= m_low.x && q.x <= m_high.x && q.y >= m_low.y && q.y <= m_high.y;
        };
        for (const Line* r : m_model.document().ofKind("receiver"))
            if (!inside(m_model.point(*r, "at")))
                fault(7810, *r, "at", "this lies outside of the drawing");
        for (const Line* s : m_model.document().ofKind("sound source"))
            for (const char* key : {"from", "to"})
                if (!inside(m_model.point(*s, key)))
                    fault(7810, *s, key, "this lies outside of the drawing");
    }

    std::unique_ptr<SoundProblem> m_problem = std::make_unique<SoundProblem>();
    Point m_low{1e300, 1e300}, m_high{-1e300, -1e300};  ///< frame of the drawing, m
};

class SoundAsks : public AskMaker<SoundProblem>
{
public:
    using AskMaker::AskMaker;

    std::vector<Ask> run()
    {
        using A = SoundAsks;
        static const Table<A> table = {
            {"arrival", &A::arrival}, {"sound trace", &A::trace}, {"speed of a pulse", &A::speed}};
        return make(table, 7820, "pulses of sound; ask for arrivals, traces or a speed");
    }

private:
    static SoundSolver& solverOf(Solution& s) { return as<SoundSolver>(s); }
    static double pressureAt(const SoundSolver::Trace& t, double time)
    {
        const double at = time / t.dt - 1;
        const auto k = size_t(std::clamp(int(at), 0, int(t.pressure.size()) - 2));
        const double share = std::clamp(at - double(k), 0.0, 1.0);
        return (1 - share) * double(t.pressure[k]) + share * double(t.pressure[k + 1]);
    }
    static SoundSolver::Arrival arrivalOf(SoundSolver& s, int level, int receiver, int number,
                                          int line)
    {
        const auto all = s.arrivals(level, receiver);
        if (number > int(all.size()))
            throw base::Error(7821,
                              "at " + s.problem().receivers[size_t(receiver)].name + " " +
                                  std::to_string(all.size()) +
                                  " pulses arrive in this time; follow the sound for longer, or "
                                  "ask for another one",
                              {line, "number", 0});
        return all[size_t(number - 1)];
    }
    void arrival(const Line& l)
    {
        const int r = m_problem.receiverOf(l.get("at"));
        if (r < 0)
            return;
        const int number = m_model.count(l, "number");
        const std::string which =
            " at " + l.get("at") + (number > 1 ? ", number " + std::to_string(number) : "");
        Ask& t = add(l, dim::time, "arrival" + which);
        t.evaluate = [r, number, line = l.id](Solution& field, int level) {
            return std::vector{SoundSolver::estimate(level, [&](int grid) {
                return arrivalOf(solverOf(field), grid, r, number, line).time;
            })};
        };
        Ask& p = add(l, dim::pressure, "pressure of the arrival" + which);
        p.finding.unit = "Pa";
        p.finding.within = 0;
        p.finding.below = p.finding.above = std::numeric_limits<double>::quiet_NaN();
        p.evaluate = [r, number, line = l.id](Solution& field, int level) {
            auto& s = solverOf(field);
            return std::vector{SoundSolver::estimate(
                level, [&](int grid) { return arrivalOf(s, grid, r, number, line).pressure; },
                s.hidden())};
        };
    }
    /// A receiver's trace as a table.
    static std::string traceTable(const SoundSolver& s, int r)
    {
        const auto& t = s.trace(1, r);
        const double middle = s.problem().sources.front().middle();
        std::string csv = "t (s),p (Pa),v_x (m/s),v_y (m/s)\n";
        char row[120];
        const size_t stride = std::max<size_t>(1, t.pressure.size() / 4000);
        for (size_t i = 0; i < t.pressure.size(); i += stride) {
            std::snprintf(row, sizeof row, "%.9g,%.6g,%.6g,%.6g\n", double(i + 1) * t.dt - middle,
                          double(t.pressure[i]), double(t.vx[i]), double(t.vy[i]));
            csv += row;
        }
        return csv;
    }

    void trace(const Line& l)
    {
        const int r = m_problem.receiverOf(l.get("at"));
        if (r < 0)
            return;
        Ask a = beginAsk(m_model, l, dim::none, "trace at " + l.get("at"));
        a.finding.table = "curves";
        // Judged at some times, against the largest pressure.
        a.evaluate = [r](Solution& field, int level) {
            auto& s = solverOf(field);
            const auto& fine = s.trace(1, r).pressure;
            float most = 0;
            for (const float p : fine)
                most = std::max(most, std::abs(p));
            std::vector<double> list;
            constexpr int places = 200;
            const double end = s.trace(1, r).dt * double(fine.size());
            for (int i = 1; i < places; ++i)
                list.push_back(most > 0
                                   ? SoundSolver::estimate(level,
                                                           [&](int grid) {
                                                               return pressureAt(s.trace(grid, r),
                                                                                 end * i / places) /
                                                                      double(most);
                                                           })
                                   : 0.0);
            return list;
        };
        a.scale = [](Solution&, int) { return 1.0; };
        a.curves = [r](Solution& field) { return traceTable(solverOf(field), r); };
        m_asks.push_back(std::move(a));
    }
    void speed(const Line& l)
    {
        const int a = m_problem.receiverOf(l.get("from")), b = m_problem.receiverOf(l.get("to"));
        if (a < 0 || b < 0)
            return;
        if (a == b) {
            fault(7822, l, "to", "a speed is from one receiver to another");
            return;
        }
        const double distance =
            norm(m_problem.receivers[size_t(a)].at - m_problem.receivers[size_t(b)].at);
        add(l, dim::of(1, 0, -1), "speed of the pulse from " + l.get("from") + " to " + l.get("to"))
            .evaluate = [a, b, distance, line = l.id](Solution& field, int level) {
            auto& s = solverOf(field);
            const double t = SoundSolver::estimate(level, [&](int grid) {
                return arrivalOf(s, grid, b, 1, line).time - arrivalOf(s, grid, a, 1, line).time;
            });
            return std::vector{distance / std::abs(t)};
        };
    }
};

class SoundStudy : public Study
{
public:
    explicit SoundStudy(std::unique_ptr<SoundProblem> problem) : m_problem(std::move(problem)) {}
    std::string name() const override { return "sound"; }
    std::unique_ptr<Rung> first(const Ground& ground) const override
    {
        return std::make_unique<DrawnRung>(*this, ground);
    }
    const std::vector<int>& activePieces() const override { return m_problem->activePieces; }
    std::unique_ptr<Solution> on(const mesh::Mesh& mesh, const shape::Partition&, int,
                                 base::Progress& progress) const override
    {
        return std::make_unique<SoundSolver>(*m_problem, mesh, progress);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        return SoundAsks(model, partition, *m_problem, faults).run();
    }
    /// Cells that show waves.
    std::vector<mesh::SizeRule> cellSizes() const override
    {
        std::vector<mesh::SizeRule> rules;
        constexpr double share = 0.7;
        for (const int f : m_problem->activePieces)
            rules.push_back({f, -1, share * m_problem->slowest / m_problem->highest});
        return rules;
    }
    std::vector<Check> checks(const sheet::Model&, const shape::Partition&, Solution& field,
                              const std::vector<Ask>&) const override
    {
        auto& s = as<SoundSolver>(field);
        std::vector<Check> list;
        char text[200];
        const auto& f = s.facts(1);
        const double perWave = m_problem->slowest / m_problem->highest / m_problem->cell;
        std::snprintf(text, sizeof text, "%.1f cells in the slowest wave of the pulse", perWave);
        list.push_back({"cells per wave",
                        perWave > 12 ? Check::State::good : Check::State::warning,
                        text,
                        -1,
                        {}});
        std::snprintf(text, sizeof text,
                      "grids of %d × %d and %d × %d cells, the finer one %d steps: %.3g million "
                      "cells a second",
                      s.facts(0).nx, s.facts(0).ny, f.nx, f.ny, f.steps,
                      1e-6 * f.nx * f.ny * double(f.steps) / std::max(1e-9, f.seconds));
        list.push_back({"grids", Check::State::note, text, -1, {}});
        if (f.uncovered > 0)
            list.push_back({"frame",
                            Check::State::note,
                            "what the frame holds beside the drawing counts as its first region",
                            -1,
                            {}});
        return list;
    }

private:
    std::unique_ptr<SoundProblem> m_problem;
};

}  // namespace

std::unique_ptr<Study> soundStudy(const sheet::Model& model, const shape::Partition& partition,
                                  base::Faults& faults)
{
    return std::make_unique<SoundStudy>(SoundReader(model, partition, faults).run());
}

}  // namespace yh::physics
