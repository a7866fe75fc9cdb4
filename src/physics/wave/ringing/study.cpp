// Ring-downs on a given sheet: reading, figures, checks.
#include "physics/common/ask_maker.h"
#include "physics/common/constants.h"
#include "physics/common/mesh_rung.h"
#include "physics/common/sheet_reader.h"
#include "physics/wave/common/parity.h"
#include "physics/wave/ringing/ringing.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace yh::physics {

using sheet::Line;
namespace dim = base::dim;

namespace {

class RingDownReader : GridFrameReader
{
public:
    RingDownReader(const sheet::Model& model, const shape::Partition& partition,
                   base::Faults& faults)
        : GridFrameReader(model, partition, faults, "a ring-down")
    {
    }

    std::unique_ptr<RingDown> run()
    {
        auto& p = *m_problem;
        p.wave = defineWave(m_model, m_p, m_faults);
        p.isSolid = m_model.space() == sheet::Space::solid;
        const Line* l = m_model.document().first("ring-down");
        if (!l || !m_faults.empty())
            return std::move(m_problem);
        p.low = m_model.number(*l, "from");
        p.high = m_model.number(*l, "to");
        p.pulse = {p.low, p.high};
        if (!(p.high > p.low)) {
            fault(7860, *l, "to", "the band ends below its beginning");
            return std::move(m_problem);
        }
        refuse();
        readBox(p);
        if (m_faults.empty())
            readWalls(p, {});
        if (m_faults.empty())
            grid(*l);
        if (m_faults.empty())
            places();
        return std::move(m_problem);
    }

private:
    void refuse()
    {
        if (m_model.space() == sheet::Space::axisymmetric)
            m_faults.push_back({7861,
                                {m_model.document().first("space")->id, "type", 0},
                                "ring-downs run in the plane and in solids; round an axis "
                                "`lowest modes` finds resonances",
                                false});
        for (const char* kind :
             {"open space", "wedge symmetry", "periodic pair", "port", "lumped port", "gap feed",
              "plane wave", "wire", "resistive sheet"})
            if (const Line* other = m_model.document().first(kind))
                fault(7862, *other, {},
                      std::string(kind) == "open space"
                          ? "a ring-down ends at its frame: draw a box of air round the device, "
                            "and let its sides absorb, as in `absorbing wall on box.left`"
                          : "a ring-down does not know this line; it has walls, media and point "
                            "dipoles");
        if (m_problem->wave->dipoles.empty())
            m_faults.push_back({7865,
                                {-1, "waves", -1},
                                "nothing rings yet: add a line such as `point dipole D at 1 mm, 2 "
                                "mm, 3 mm along z`",
                                true});
        refuseMedia(*m_problem);
    }
    void grid(const Line& l)
    {
        auto& p = *m_problem;
        constexpr double perWave = 30;
        readCells(p, l, perWave);
        if (!m_faults.empty())
            return;
        constexpr double waits = 50;
        p.time = l.has("time") ? m_model.number(l, "time") : waits / (p.high - p.low);
        constexpr double shortest = 25;
        if (p.time * (p.high - p.low) < shortest)
            fault(7871, l, "time",
                  "too short to tell resonances of this band apart: it takes " +
                      base::format(shortest / (p.high - p.low), dim::time, 3) + " at least");
        else
            limit(p, l, p.time, 1);
    }
    void places()
    {
        auto& p = *m_problem;
        // The places asked for, those of the dipoles, and some more where no symmetry lies.
        for (const Line& l : m_model.document().lines) {
            if (l.kind != "field trace" && l.kind != "point dipole")
                continue;
            const Point at = m_model.point(l, "at");
            const Point low = at - p.from, high = p.to - at;
            if (std::min({low.x, low.y, high.x, high.y}) < 0 ||
                (p.isSolid && std::min(low.z, high.z) < 0))
                fault(7873, l, "at", "this lies outside of the device");
            if (l.kind == "field trace")
                p.places.push_back(at);
        }
        for (const auto& d : p.wave->dipoles)
            p.places.push_back(d.at);
        constexpr double share[][3] = {{0.317, 0.431, 0.377},
                                       {0.713, 0.269, 0.611},
                                       {0.441, 0.787, 0.233},
                                       {0.229, 0.173, 0.821},
                                       {0.557, 0.619, 0.519}};
        const Point extent = p.to - p.from;
        for (const auto& s : share)
            p.places.push_back({p.from.x + s[0] * extent.x, p.from.y + s[1] * extent.y,
                                p.isSolid ? p.from.z + s[2] * extent.z : 0});
    }

    std::unique_ptr<RingDown> m_problem = std::make_unique<RingDown>();
};

class RingDownAsks : public AskMaker<RingDown>
{
public:
    using AskMaker::AskMaker;

    std::vector<Ask> run()
    {
        using A = RingDownAsks;
        static const Table<A> table = {{"resonance", &A::resonance},
                                       {"quality factor", &A::quality},
                                       {"field trace", &A::trace}};
        return make(table, 7880, "a ring-down; ask for resonances, Q or a field over time");
    }

private:
    static RingDownSolver& solverOf(Solution& s) { return as<RingDownSolver>(s); }
    void resonance(const Line& l)
    {
        const int mode = m_model.count(l, "mode") - 1;
        Ask& a = add(l, dim::frequency, "frequency of mode " + std::to_string(mode + 1));
        a.evaluate = [mode](Solution& field, int level) {
            auto& s = solverOf(field);
            return std::vector{
                s.estimate(level, [&](int grid) { return s.frequency(grid, mode); })};
        };
    }
    /// Whether nothing but tan δ loses inside.
    [[nodiscard]] bool losesByTangent() const
    {
        const WaveProblem& w = *m_problem.wave;
        bool isTangent = true;
        for (const int f : w.activePieces)
            isTangent = isTangent && !(w.sigma[size_t(f)] > 0);
        for (const auto wall : m_problem.walls)
            isTangent = isTangent && wall != grid::Wall::absorbing;
        return isTangent;
    }

    /// A Q by walls, media or both.
    void addQuality(const Line& l, const std::string& what, int mode, bool isWalls, bool isInside,
                    bool judged)
    {
        // A grid knows conductivities, set for one frequency: where nothing but tan δ loses, the
        // loss of other modes follows.
        const bool isTangent = losesByTangent();
        auto share = [isTangent, mode](RingDownSolver& s, int grid) {
            return isTangent ? s.frequency(grid, mode) / s.lossFrequency() : 1.0;
        };
        Ask& a = add(l, dim::none, what);
        if (!judged) {
            a.finding.within = 0;
            a.finding.above = std::numeric_limits<double>::quiet_NaN();
        }
        a.degree = 1;
        a.evaluate = [=](Solution& field, int level) {
            auto& s = solverOf(field);
            return std::vector{1 / s.estimate(level, [&](int grid) {
                return (isWalls ? s.lossByWalls(grid, mode) : 0.0) +
                       (isInside ? share(s, grid) * s.lossInside(grid, mode) : 0.0);
            })};
        };
    }

    void quality(const Line& l)
    {
        const WaveProblem& w = *m_problem.wave;
        bool walls = false, inside = false;
        for (const int side : w.sides)
            walls = walls || side >= 0;
        for (const int f : w.activePieces)
            inside = inside || w.takesPower(size_t(f));
        for (const auto wall : m_problem.walls)
            inside = inside || wall == grid::Wall::absorbing;
        if (!walls && !inside) {
            fault(7881, l, {},
                  "without losses Q has no limit: add a line such as `metal wall copper on …`, "
                  "tan δ to a material, or sides that absorb");
            return;
        }
        const int mode = m_model.count(l, "mode") - 1;
        const std::string number = std::to_string(mode + 1);
        auto of = [&](const std::string& what, bool isWalls, bool isInside, bool judged) {
            addQuality(l, what + " of mode " + number, mode, isWalls, isInside, judged);
        };
        of("Q", walls, inside, true);
        if (walls && inside) {
            of("Q by walls", true, false, false);
            of("Q by media and radiation", false, true, false);
        }
    }
    /// The field at a place as a table.
    static std::string traceTable(const RingDownSolver& s, int place)
    {
        const auto& t = s.trace(2, place);
        std::string csv = "t (s),E z (V/m),E x (V/m),E y (V/m)\n";
        char row[120];
        const size_t stride = std::max<size_t>(1, t.E[0].size() / 6000);
        for (size_t i = 0; i < t.E[0].size(); i += stride) {
            std::snprintf(row, sizeof row, "%.9g,%.6g,%.6g,%.6g\n", double(i + 1) * t.dt,
                          double(t.E[2][i]), double(t.E[0][i]), double(t.E[1][i]));
            csv += row;
        }
        return csv;
    }

    /// Which of the traces a line asks for.
    [[nodiscard]] int traceOf(const Line& l) const
    {
        int place = 0;
        for (const Line* other : m_model.document().ofKind("field trace")) {
            if (other->id == l.id)
                break;
            ++place;
        }
        return place;
    }

    void trace(const Line& l)
    {
        const int place = traceOf(l);
        Ask a = beginAsk(m_model, l, dim::none, "field at " + l.get("at"));
        a.finding.table = "curves";
        // Judged while the pulse lasts, against the largest field.
        a.evaluate = [place](Solution& field, int level) {
            auto& s = solverOf(field);
            const auto& fine = s.trace(2, place);
            float most = 0;
            for (const auto& E : fine.E)
                for (const float e : E)
                    most = std::max(most, std::abs(e));
            std::vector<double> list;
            constexpr int samples = 50;
            const double end = s.problem().pulse.silence();
            for (int i = 1; i < samples && most > 0; ++i)
                for (size_t axis = 0; axis < 3; ++axis)
                    list.push_back(s.estimate(level, [&](int grid) {
                        const auto& t = s.trace(grid, place);
                        const double at = end * i / samples / t.dt - 1;
                        const auto k = size_t(std::clamp(int(at), 0, int(t.E[axis].size()) - 2));
                        const double share = std::clamp(at - double(k), 0.0, 1.0);
                        return ((1 - share) * double(t.E[axis][k]) +
                                share * double(t.E[axis][k + 1])) /
                               double(most);
                    }));
            if (list.empty())
                list.push_back(0);
            return list;
        };
        a.scale = [](Solution&, int) { return 1.0; };
        a.curves = [place](Solution& field) { return traceTable(solverOf(field), place); };
        m_asks.push_back(std::move(a));
    }
};

class RingDownStudy : public Study
{
public:
    explicit RingDownStudy(std::unique_ptr<RingDown> problem) : m_problem(std::move(problem)) {}
    std::string name() const override { return "ring-down"; }
    std::unique_ptr<Rung> first(const Ground& ground) const override
    {
        return std::make_unique<DrawnRung>(*this, ground);
    }
    const std::vector<int>& activePieces() const override { return m_problem->wave->activePieces; }
    std::unique_ptr<Solution> on(const mesh::Mesh& mesh, const shape::Partition&, int,
                                 base::Progress& progress) const override
    {
        return std::make_unique<RingDownSolver>(*m_problem, mesh, progress);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        return RingDownAsks(model, partition, *m_problem, faults).run();
    }
    std::vector<mesh::SizeRule> cellSizes() const override
    {
        // The mesh tells the grid where metal is, and shows the fields.
        std::vector<mesh::SizeRule> rules;
        const Point extent = m_problem->to - m_problem->from;
        const double size = std::max({extent.x, extent.y, extent.z});
        constexpr double solid = 14, plane = 60;
        for (const int f : m_problem->wave->activePieces)
            rules.push_back({f, -1, size / (m_problem->isSolid ? solid : plane)});
        return rules;
    }
    /// tan δ holds at one frequency.
    void lossTangent(int id, std::vector<Check>& list) const
    {
        bool loses = false, alone = true;
        for (const int piece : m_problem->wave->activePieces) {
            loses = loses || m_problem->wave->loss[size_t(piece)] > 0;
            alone = alone && !(m_problem->wave->sigma[size_t(piece)] > 0);
        }
        for (const auto wall : m_problem->walls)
            alone = alone && wall != grid::Wall::absorbing;
        if (loses && !alone)
            list.push_back({"loss tangent",
                            Check::State::note,
                            "tan δ holds at the frequency of the highest mode asked for; at others "
                            "the loss is that of the same conductivity",
                            id,
                            {}});
    }

    std::vector<Check> checks(const sheet::Model& model, const shape::Partition&, Solution& field,
                              const std::vector<Ask>&) const override
    {
        auto& s = as<RingDownSolver>(field);
        std::vector<Check> list;
        const Line* line = model.document().first("ring-down");
        const int id = line ? line->id : -1;
        std::string found;
        constexpr int most = 12;
        for (int k = 0; k < std::min(most, s.modeCount()); ++k)
            found += (k ? ", " : "") + base::format(s.frequency(2, k), dim::frequency, 5);
        if (s.modeCount() > most)
            found += " and more";
        list.push_back({"modes", Check::State::note, "resonances that ring: " + found, id, {}});
        char text[200];
        const auto &f = s.facts(2), &coarse = s.facts(0);
        const double cells = double(f.cells[0]) * f.cells[1] * std::max(1, f.cells[2]);
        auto shape = [](const RingDownSolver::Facts& x) {
            std::string t = std::to_string(x.cells[0]) + " × " + std::to_string(x.cells[1]);
            return x.cells[2] ? t + " × " + std::to_string(x.cells[2]) : t;
        };
        std::snprintf(text, sizeof text,
                      "grids from %s to %s cells, the finest %d steps: %.3g million cells a second",
                      shape(coarse).c_str(), shape(f).c_str(), f.steps,
                      1e-6 * cells * f.steps / std::max(1e-9, f.seconds));
        list.push_back({"grids", Check::State::note, text, id, {}});
        const double perWave = c0 / m_problem->high / m_problem->cell;
        std::snprintf(text, sizeof text, "%.0f cells in the shortest wave in vacuum", perWave);
        constexpr double enough = 12;
        list.push_back({"cells per wave",
                        perWave > enough ? Check::State::good : Check::State::warning,
                        text,
                        id,
                        {}});
        lossTangent(id, list);
        return list;
    }

private:
    std::unique_ptr<RingDown> m_problem;
};

}  // namespace

std::unique_ptr<Study> waveRingingStudy(const sheet::Model& model,
                                        const shape::Partition& partition, base::Faults& faults)
{
    return std::make_unique<RingDownStudy>(RingDownReader(model, partition, faults).run());
}

}  // namespace yh::physics
