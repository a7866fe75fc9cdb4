#include "physics/common/study.h"
#include "physics/common/ask_maker.h"
#include "physics/wave/common/wave.h"

#include "physics/wave/common/guide_modes.h"
#include "physics/wave/common/parity.h"
#include "sheet/schema.h"

#include <cmath>
#include <cstdio>

namespace yh::physics {

using sheet::Line;
namespace dim = base::dim;

namespace {

GuideModesSolver& guideOf(Solution& field)
{
    return as<GuideModesSolver>(field);
}

class GuideAsks : public AskMaker<WaveProblem>
{
public:
    using AskMaker::AskMaker;

    std::vector<Ask> run()
    {
        static const Table<GuideAsks> table = {
            {"effective index", &GuideAsks::one},   {"group index", &GuideAsks::one},
            {"attenuation", &GuideAsks::one},       {"mode area", &GuideAsks::one},
            {"mode polarisation", &GuideAsks::one}, {"mode confinement", &GuideAsks::one},
            {"line impedance", &GuideAsks::one},    {"profile", &GuideAsks::profile}};
        return make(table, 7072,
                    "the modes of a guide; ask for an effective or group index, attenuation, area, "
                    "polarisation, power share or line impedance");
    }

private:
    void profile(const Line& l) { profileOf(l, dim::electricField); }
    void one(const Line& l)
    {
        const int mode = m_model.count(l, "mode") - 1;
        const std::string number = std::to_string(mode + 1);
        auto figure = [&](const base::Dimension& d, const std::string& name, auto value) -> Ask& {
            Ask& a = add(l, d, name + number);
            a.evaluate = [mode, value](Solution& field, int order) {
                return std::vector{value(guideOf(field), order, mode)};
            };
            return a;
        };
        if (l.kind == "effective index") {
            figure(dim::none, "effective index of mode ",
                   [](GuideModesSolver& s, int p, int k) { return s.effectiveIndex(p, k).real(); });
        } else if (l.kind == "group index") {
            figure(dim::none, "group index of mode ",
                   [](GuideModesSolver& s, int p, int k) { return s.groupIndex(p, k); });
        } else if (l.kind == "attenuation") {
            attenuation(
                figure(dim::none / dim::length, "attenuation of mode ",
                       [](GuideModesSolver& s, int p, int k) { return -s.beta(p, k).imag(); }));
        } else if (l.kind == "mode area") {
            figure(dim::area, "area of mode ",
                   [](GuideModesSolver& s, int p, int k) { return s.area(p, k); });
        } else if (l.kind == "mode polarisation") {
            Ask& a = figure(dim::none, "polarisation along x of mode ",
                            [](GuideModesSolver& s, int p, int k) { return s.polarisation(p, k); });
            a.scale = [](Solution&, int) { return 1.0; };
        } else if (l.kind == "mode confinement") {
            confinement(l, mode, number);
        } else if (l.kind == "line impedance") {
            const auto from = m_model.point(l, "from"), to = m_model.point(l, "to");
            Ask& a = figure(dim::resistance, "line impedance of mode ",
                            [from, to](GuideModesSolver& s, int p, int k) {
                                return s.lineImpedance(p, k, from, to);
                            });
            a.degree = 1;
        }
    }
    void attenuation(Ask& a)
    {
        const bool shell = m_problem.shell.present;
        bool lossy = shell;
        for (const int side : m_problem.sides)
            lossy = lossy || side >= 0;
        for (const int f : m_problem.activePieces)
            lossy = lossy || m_problem.takesPower(size_t(f));
        if (!lossy) {
            m_faults.push_back({7078,
                                {a.finding.line, {}, -1},
                                "nothing takes power from this guide: add a line such as `metal "
                                "wall copper on …`, `open space`, or tan δ to a material",
                                false});
            m_asks.pop_back();
            return;
        }
        // What does not leave at all leaves no number either: then a small share of k counts.
        if (shell)
            a.scale = [](Solution& field, int) {
                constexpr double small = 1e-6;
                return small * guideOf(field).wavenumber();
            };
        a.reduce = [](Finding& f, const std::any&) {
            // Of the field by length, as a level.
            const double decibels = 20 / std::log(10.0) * f.value[0];
            char text[48];
            std::snprintf(text, sizeof text, "%.4g dB/m", decibels);
            f.note = text;
        };
    }
    void confinement(const Line& l, int mode, const std::string& number)
    {
        std::vector<int> pieces;
        try {
            pieces = m_p.resolve(m_model.place(l, "in"), m_model, {l.id, "in", 0}).pieces;
        } catch (const base::Error& e) {
            m_faults.push_back(e.fault());
            return;
        }
        if (pieces.empty()) {
            fault(7014, l, "in", "'" + l.get("in") + "' picks no region");
            return;
        }
        Ask& a = add(l, dim::none, "power share of mode " + number + " in " + l.get("in"));
        a.evaluate = [mode, pieces](Solution& field, int order) {
            return std::vector{guideOf(field).confinement(order, mode, pieces)};
        };
        a.scale = [](Solution&, int) { return 1.0; };
    }
};

class GuideStudy : public Study
{
public:
    explicit GuideStudy(std::unique_ptr<WaveProblem> problem) : m_problem(std::move(problem)) {}

    std::string name() const override { return "guide-modes"; }
    const std::vector<int>& activePieces() const override { return m_problem->activePieces; }
    std::unique_ptr<Solution> on(const mesh::Mesh& mesh, const shape::Partition& partition,
                                 int order, base::Progress& progress) const override
    {
        return std::make_unique<GuideModesSolver>(*m_problem, mesh, partition, order, progress);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        return GuideAsks(model, partition, *m_problem, faults).run();
    }
    /// Modes of one index: their patterns are those of one of many mixtures.
    void equalModes(const GuideModesSolver& s, int line, std::vector<Check>& list) const
    {
        for (int k = 0; k + 1 < m_problem->guideModes; ++k) {
            constexpr double same = 1e-6;
            if (std::abs(s.effectiveIndex(s.order(), k) - s.effectiveIndex(s.order(), k + 1)) <
                same)
                list.push_back({"equal modes",
                                Check::State::note,
                                "modes " + std::to_string(k + 1) + " and " + std::to_string(k + 2) +
                                    " have the same index: their patterns are those of one of "
                                    "many mixtures",
                                line,
                                {}});
        }
    }

    std::vector<Check> checks(const sheet::Model& model, const shape::Partition&, Solution& field,
                              const std::vector<Ask>&) const override
    {
        auto& s = guideOf(field);
        const Line* line = model.document().first("guide modes");
        std::vector<Check> list;
        std::string found;
        char text[96];
        for (int k = 0; k < m_problem->guideModes; ++k) {
            std::snprintf(text, sizeof text, "%s%.6g", k ? ", " : "",
                          s.effectiveIndex(s.order(), k).real());
            found += text;
        }
        list.push_back({"modes",
                        Check::State::note,
                        "effective indices at " +
                            base::format(m_problem->guideFrequency, dim::frequency, 5) + ": " +
                            found,
                        line ? line->id : -1,
                        {}});
        list.push_back({"scale of modes",
                        Check::State::note,
                        "fields are shown for 1 W along the whole guide",
                        -1,
                        {}});
        equalModes(s, line ? line->id : -1, list);
        std::vector<std::string> fields;
        for (int k = 1; k <= std::min(m_problem->asked, m_problem->guideModes); ++k)
            fields.push_back(m_problem->guideModes == 1 ? "E" : "E " + std::to_string(k));
        // A bend has no plane x = 0.
        if (m_problem->bend <= 0)
            proposeWalls(model, *m_problem, s, fields, list);
        return list;
    }
    std::string lineQuantity() const override { return m_problem->guideModes == 1 ? "E" : "E 1"; }
    fem::Measure measure() const override { return fem::Measure::plane; }

private:
    std::unique_ptr<WaveProblem> m_problem;
};

}  // namespace

std::unique_ptr<Study> waveGuideStudy(const sheet::Model& model, const shape::Partition& partition,
                                      base::Faults& faults)
{
    return std::make_unique<GuideStudy>(defineWave(model, partition, faults));
}

}  // namespace yh::physics
