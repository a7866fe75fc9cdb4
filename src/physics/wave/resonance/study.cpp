
#include "physics/common/study.h"
#include "physics/common/ask_maker.h"
#include "physics/common/constants.h"
#include "physics/wave/common/parity.h"
#include "physics/wave/common/wave.h"
#include "sheet/schema.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

using sheet::Line;
namespace dim = base::dim;

namespace {

WaveModesSolver& resonancesOf(Solution& field)
{
    return as<WaveModesSolver>(field);
}

class WaveAsks : public AskMaker<WaveProblem>
{
public:
    using AskMaker::AskMaker;

    std::vector<Ask> run()
    {
        static const Table<WaveAsks> table = {{"resonance", &WaveAsks::ofMode},
                                              {"quality factor", &WaveAsks::ofMode},
                                              {"shunt impedance", &WaveAsks::ofMode},
                                              {"profile", &WaveAsks::profile}};
        return make(table, 7070, "resonances; ask for the frequency, Q or R/Q of a mode");
    }

private:
    void profile(const Line& l) { profileOf(l, dim::electricField); }
    void ofMode(const Line& l)
    {
        const int mode = m_model.count(l, "mode") - 1;
        const std::string number = std::to_string(mode + 1);
        if (l.kind == "resonance") {
            Ask a = beginAsk(m_model, l, dim::frequency, "frequency of mode " + number);
            a.evaluate = [mode](Solution& field, int order) {
                return std::vector{resonancesOf(field).frequency(order, mode)};
            };
            m_asks.push_back(std::move(a));
        } else if (l.kind == "quality factor") {
            quality(l, mode, number);
        } else {
            const auto from = m_model.point(l, "from"), to = m_model.point(l, "to");
            if (!m_problem.kind.hasEdges()) {
                m_faults.push_back({7082,
                                    {l.id, {}, -1},
                                    "E points across the drawing: no line in it holds a voltage",
                                    false});
                return;
            }
            if (!m_problem.dispersive.empty()) {
                m_faults.push_back({7085,
                                    {l.id, {}, -1},
                                    "R/Q knows the energy of constant media only; state ε as a "
                                    "number at the frequency of the mode",
                                    false});
                return;
            }
            Ask a = beginAsk(m_model, l, dim::resistance, "R/Q of mode " + number);
            a.degree = 1;
            a.evaluate = [mode, from, to](Solution& field, int order) {
                return std::vector{resonancesOf(field).rOverQ(order, mode, from, to)};
            };
            m_asks.push_back(std::move(a));
        }
    }
    /// A Q by some of the losses.
    void addQuality(const Line& l, const std::string& what,
                    double (*part)(const WaveModesSolver::Losses&), bool judged, int mode)
    {
        Ask a = beginAsk(m_model, l, dim::none, what);
        if (!judged) {
            a.finding.within = 0;
            a.finding.above = NAN;
        }
        a.degree = 1;
        a.evaluate = [mode, part](Solution& field, int order) {
            return std::vector{1 / part(resonancesOf(field).losses(order, mode))};
        };
        m_asks.push_back(std::move(a));
    }

    void quality(const Line& l, int mode, const std::string& number)
    {
        bool walls = false, media = false;
        for (const int side : m_problem.sides)
            walls = walls || side >= 0;
        for (const int f : m_problem.activePieces)
            media = media || m_problem.takesPower(size_t(f));
        const bool open = m_problem.shell.present;
        if (!walls && !media && !open) {
            m_faults.push_back({7071,
                                {l.id, {}, -1},
                                "without losses Q has no limit: add a line such as `metal wall "
                                "copper on …`, or tan δ to a material",
                                false});
            return;
        }
        using Losses = WaveModesSolver::Losses;
        auto add = [&](const std::string& what, double (*part)(const Losses&), bool judged) {
            addQuality(l, what + " of mode " + number, part, judged, mode);
        };
        add(
            "Q", [](const Losses& x) { return x.whole(); }, true);
        if (int(walls) + int(media) + int(open) > 1) {
            if (walls)
                add(
                    "Q by walls", [](const Losses& x) { return x.walls; }, false);
            if (media)
                add(
                    "Q by media", [](const Losses& x) { return x.media; }, false);
            if (open)
                add(
                    "Q by radiation", [](const Losses& x) { return x.radiation; }, false);
        }
    }
};

class ResonanceStudy : public Study
{
public:
    explicit ResonanceStudy(std::unique_ptr<WaveProblem> problem) : m_problem(std::move(problem)) {}

    std::string name() const override { return "wave-modes"; }
    const std::vector<int>& activePieces() const override { return m_problem->activePieces; }
    // Waves need the third order: what it adds in unknowns it takes off many times in cells.
    int solidOrder() const override { return 3; }
    double solidShare(bool met) const override { return met ? 0.15 : 0.35; }
    std::vector<mesh::PeriodicPair> periodic() const override { return m_problem->periodic; }
    std::unique_ptr<Solution> on(const mesh::Mesh& mesh, const shape::Partition& partition,
                                 int order, base::Progress& progress) const override
    {
        return std::make_unique<WaveModesSolver>(*m_problem, mesh, partition, order, progress);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        return WaveAsks(model, partition, *m_problem, faults).run();
    }
    std::vector<Check> checks(const sheet::Model& model, const shape::Partition&, Solution& field,
                              const std::vector<Ask>&) const override
    {
        auto& s = resonancesOf(field);
        std::vector<Check> list;
        const Line* line = model.document().first("modes");
        std::string found;
        for (int k = 0; k < m_problem->modes; ++k)
            found += (k ? ", " : "") + base::format(s.frequency(s.order(), k), dim::frequency, 5);
        list.push_back(
            {"modes", Check::State::note, "modes found: " + found, line ? line->id : -1, {}});
        list.push_back(
            {"scale of modes", Check::State::note, "fields are shown for " + s.shownFor(), -1, {}});
        cells(s, list);
        if (model.space() != sheet::Space::solid)
            list.push_back(
                {"kind of modes", Check::State::note, kindOfModes(), line ? line->id : -1, {}});
        closeModes(s, list, line);
        std::vector<std::string> fields;
        const int asked = std::min(m_problem->asked, m_problem->modes);
        for (int k = 1; k <= asked; ++k)
            fields.push_back(m_problem->modes == 1 ? "E" : "E " + std::to_string(k));
        proposeWalls(model, *m_problem, s, fields, list);
        return list;
    }
    std::string lineQuantity() const override { return m_problem->modes == 1 ? "E" : "E 1"; }
    fem::Measure measure() const override { return m_problem->measure; }

private:
    [[nodiscard]] std::string kindOfModes() const
    {
        switch (m_problem->kind.parts) {
            case fem::EdgeKind::across:
                return "only modes with E across the drawing and no change along it";
            case fem::EdgeKind::round:
                return "only modes that do not change round the axis, with E round it (TE0); state "
                       "an azimuthal order for those that do";
            case fem::EdgeKind::turning:
                return "only modes of azimuthal order " + std::to_string(m_problem->kind.turns) +
                       "; each stands for two, of which the other is turned by a quarter of its "
                       "period";
            default:
                return m_problem->measure == fem::Measure::axisymmetric
                           ? "only modes that do not change round the axis, with E in the "
                             "drawing's plane (TM0); `E across the drawing` gives those with E "
                             "round it, an azimuthal order in the line of the modes the others"
                           : "only modes with E in the drawing's plane and no change across it; `E "
                             "across the drawing` gives the others";
        }
    }
    /// Cells per wavelength of the highest mode that is asked about, at the coarsest place.
    void cells(const WaveModesSolver& s, std::vector<Check>& list) const
    {
        const int mode = std::min(m_problem->asked, m_problem->modes) - 1;
        const double vacuum = c0 / s.frequency(s.order(), mode);
        double least = 1e300;
        base::Point where;
        const mesh::Mesh& m = s.mesh();
        for (int t = 0; t < m.cellCount(); ++t) {
            const mesh::Geometry g(m, t);
            const base::Point p = g.at(g.centre());
            const auto piece = size_t(m.piece[size_t(t)]);
            auto at = [&](const fem::Coefficient& k) { return (k.at ? k.at(p) : k.constant).xx; };
            const double n = std::sqrt(at(m_problem->eps[piece]) / at(m_problem->inverseMu[piece]));
            for (const int e : m.edgesOf(t)) {
                const auto& ends = m.edges[size_t(e)];
                const double h = norm(m.vertices[size_t(ends[0])] - m.vertices[size_t(ends[1])]);
                if (vacuum / n / h < least) {
                    least = vacuum / n / h;
                    where = p;
                }
            }
        }
        char text[96];
        std::snprintf(text, sizeof text, "%.1f cells of order %d per wavelength at the coarsest",
                      least, s.order());
        constexpr double enough = 1.5;
        Check c{"cells per wavelength",
                least > enough ? Check::State::good : Check::State::warning,
                text,
                -1,
                {where.x, where.y}};
        if (m.dimension == 3)
            c.at.push_back(where.z);
        list.push_back(c);
    }
    /// Modes of one frequency: any mixture of them is a mode as well.
    void closeModes(const WaveModesSolver& s, std::vector<Check>& list, const Line* line) const
    {
        for (int k = 0; k + 1 < s.modeCount() && k < m_problem->asked; ++k) {
            const double f = s.frequency(s.order(), k), g = s.frequency(s.order(), k + 1);
            constexpr double same = 1e-4;
            if (g / f - 1 < same)
                list.push_back({"equal modes",
                                Check::State::note,
                                "modes " + std::to_string(k + 1) + " and " + std::to_string(k + 2) +
                                    " have the same frequency: their patterns, Q and R/Q are those "
                                    "of one of many mixtures",
                                line ? line->id : -1,
                                {}});
        }
    }

    std::unique_ptr<WaveProblem> m_problem;
};

}  // namespace

std::unique_ptr<Study> waveResonanceStudy(const sheet::Model& model,
                                          const shape::Partition& partition, base::Faults& faults)
{
    return std::make_unique<ResonanceStudy>(defineWave(model, partition, faults));
}

}  // namespace yh::physics
