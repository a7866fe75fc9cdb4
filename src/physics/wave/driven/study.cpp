#include "physics/common/study.h"

#include "base/quantity.h"
#include "physics/common/constants.h"
#include "physics/wave/common/parity.h"
#include "physics/wave/common/scattering_asks.h"
#include "physics/wave/driven/asks.h"
#include "physics/wave/driven/heat.h"
#include "physics/wave/driven/plane_wave_asks.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <memory>

namespace yh::physics {

using sheet::Line;
namespace dim = base::dim;

namespace {

class DrivenStudy : public Study
{
public:
    explicit DrivenStudy(std::unique_ptr<WaveProblem> problem) : m_problem(std::move(problem)) {}

    std::string name() const override { return "wave-driven"; }
    const std::vector<int>& activePieces() const override { return m_problem->activePieces; }
    /// What radiates from ports over a band.
    bool looksFirst() const override
    {
        return m_problem->shell.present && !m_problem->ports.empty() &&
               m_problem->planeWaves.empty() && m_problem->high > m_problem->low;
    }
    /// Antennas are full of edges, at which more cells serve better than a higher order; and order
    /// 2 looks ahead at the next one. Only very accurate S of guides is nearer with order 3.
    int solidOrder() const override
    {
        constexpr double fine = 2e-5;
        return m_problem->shell.present || m_problem->settled >= fine ? 2 : 3;
    }
    double solidShare(bool met) const override
    {
        return solidOrder() == 2 ? (met ? 0.2 : 0.35) : met ? 0.15 : 0.2;
    }
    /// Two to four cells a wavelength at least, in every medium, at the highest frequency.
    std::vector<mesh::SizeRule> cellSizes() const override
    {
        std::vector<mesh::SizeRule> list;
        for (const int f : m_problem->activePieces) {
            const auto k = size_t(f);
            const double index =
                std::sqrt(m_problem->eps[k].constant.xx / m_problem->inverseMu[k].constant.xx);
            // Iterations see waves in the lowest order alone and need some more.
            const double cells = m_problem->shell.present ? 4 : solidOrder() == 2 ? 3 : 2;
            list.push_back({f, -1, c0 / m_problem->high / index / cells});
        }
        // What is absorbed falls steeply through the shell.
        if (const auto& shell = m_problem->shell; shell.present)
            list.push_back({shell.piece, -1, (shell.outer - shell.inner) / 2});
        return list;
    }
    /// The density of a wire's current has to be resolved.
    std::vector<mesh::LineRule> cellsAlong() const override
    {
        std::vector<mesh::LineRule> list;
        const auto& wires = m_problem->wires;
        for (const auto& s : wires.segments)
            list.push_back({wires.nodes[size_t(s.from)], wires.nodes[size_t(s.to)],
                            0.3 * wires.smooth, 1.4 * wires.smooth});
        return list;
    }
    std::vector<mesh::PeriodicPair> periodic() const override { return m_problem->periodic; }
    std::unique_ptr<Solution> on(const mesh::Mesh& mesh, const shape::Partition& partition,
                                 int order, base::Progress& progress) const override
    {
        return std::make_unique<WaveDrivenSolver>(*m_problem, mesh, partition, order, progress);
    }
    std::unique_ptr<HeatGiver> heat(const sheet::Model& model, base::Faults& faults) const override
    {
        return heatOfWaves(*m_problem, model, faults);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        return drivenAsks(model, partition, *m_problem, faults);
    }
    /// How far the band can be trusted.
    void bandModel(const sheet::Model& model, const WaveDrivenSolver& s,
                   std::vector<Check>& list) const
    {
        char text[160];
        std::snprintf(text, sizeof text,
                      "the band rests on %d solutions; where one was left out it differed by %.0e",
                      s.solutions(), s.verified());
        const Line* band = model.document().first("band");
        if (m_problem->high > m_problem->low)
            list.push_back({"band model",
                            s.verified() < std::max(1e-4, m_problem->settled)
                                ? Check::State::good
                                : Check::State::warning,
                            text,
                            band ? band->id : -1,
                            {}});
    }

    std::vector<Check> checks(const sheet::Model& model, const shape::Partition&, Solution& field,
                              const std::vector<Ask>&) const override
    {
        auto& s = solverOf(field);
        std::vector<Check> list;
        powerBalance(s, list);
        list.push_back(
            {"scale of waves", Check::State::note, "fields are shown for " + s.shownFor(), -1, {}});
        bandModel(model, s, list);
        for (size_t k = 0; k < s.channels().size(); ++k)
            guide(s, k, list);
        if (m_problem->shell.present && !m_problem->shell.cylinder &&
            !(m_problem->ports.empty() && m_problem->dipoles.empty()))
            farField(s, list);
        if (!m_problem->wires.empty())
            wires(list);
        for (Check& c : extinctionChecks(s))
            list.push_back(std::move(c));
        if (m_problem->periodic.empty())
            proposeWalls(model, *m_problem, s, {"E"}, list);
        return list;
    }
    std::string lineQuantity() const override { return "E"; }
    fem::Measure measure() const override { return m_problem->measure; }

private:
    void powerBalance(const WaveDrivenSolver& s, std::vector<Check>& list) const
    {
        if (m_problem->ports.empty() && m_problem->dipoles.empty())
            return;
        double worst = 0, lost = 0;
        for (const double share : {0.0, 0.5, 1.0}) {
            const double f = m_problem->low + share * (m_problem->high - m_problem->low);
            const auto S = s.scattering(s.order(), f);
            const size_t drives = s.channels().size() + m_problem->dipoles.size();
            for (size_t k = 0; k < drives; ++k) {
                if (const auto i = Eigen::Index(k);
                    i < S.rows() && !std::isfinite(std::abs(S(i, i))))
                    continue;
                const auto b = s.balance(s.order(), f, int(k));
                worst = std::max(worst, std::abs(b.gap()));
                lost = std::max(lost, b.media + b.walls);
            }
        }
        char text[160];
        std::snprintf(text, sizeof text,
                      "power in and out agree to %.0e of the wave; at most %.2g %% is lost inside",
                      worst, 100 * lost);
        constexpr double closes = 1e-6;
        list.push_back({"power balance",
                        worst < closes ? Check::State::good : Check::State::bad,
                        text,
                        -1,
                        {}});
    }
    /// Two ways to the same power: through the sphere, and taken by the shell.
    void farField(const WaveDrivenSolver& s, std::vector<Check>& list) const
    {
        const double f = m_problem->shown, taken = s.powers(s.order(), f, 0).radiated,
                     sent = s.farField(s.order(), f, 0).radiated(),
                     off = std::abs(sent / taken - 1);
        char text[160];
        std::snprintf(text, sizeof text,
                      "the far field carries the power that the absorbing shell takes, to %.1g",
                      off);
        constexpr double near = 0.02;
        list.push_back(
            {"far field", off < near ? Check::State::good : Check::State::warning, text, -1, {}});
    }
    /// What is not resolved about thin wires.
    void wires(std::vector<Check>& list) const
    {
        // By comparison with rods drawn round an axis.
        constexpr double endShare = 0.2, gapShare = 0.75;
        const auto& wires = m_problem->wires;
        const auto thickest =
            std::max_element(wires.segments.begin(), wires.segments.end(),
                             [](const auto& a, const auto& b) { return a.radius < b.radius; });
        list.push_back(
            {"thin wires",
             Check::State::note,
             "fields shown within " + base::format(wires.smooth, dim::length, 2) +
                 " of a wire are those of its current spread out over that width; "
                 "figures do not depend on it. Ends and gaps are those of open tubes: "
                 "a blunt end reaches farther by some " +
                 base::format(endShare * thickest->radius, dim::length, 1) +
                 ", and a gap in a solid rod has some " +
                 base::format(gapShare * 2 * pi * eps0 * thickest->eps * thickest->radius,
                              dim::capacitance, 1) +
                 " less across it",
             thickest->line,
             {}});
    }
    [[nodiscard]] std::string orderOf(const PortMode& m) const
    {
        return std::to_string(m.space[0]) +
               (m_problem->periodic.size() > 1 ? ", " + std::to_string(m.space[1]) : "");
    }
    /// A plane wave of the space behind a port between periodic sides.
    void harmonic(const PortMode& m, const WavePort& port, int mode, double cutoff,
                  std::vector<Check>& list) const
    {
        std::string text = "port " + port.name + ", mode " + std::to_string(mode + 1) + ": " +
                           (m.kind == PortMode::Kind::te ? "TE" : "TM") + " plane wave of order " +
                           orderOf(m);
        const double shown = m_problem->shown, eps = m_problem->portEps(port, shown),
                     cosine = m.beta(shown, eps, port.mu).real() * c0 /
                              (2 * pi * shown * std::sqrt(eps * port.mu));
        if (cosine > 0) {
            char angle[64];
            std::snprintf(angle, sizeof angle, ", %.1f deg from the normal at ",
                          std::acos(std::min(cosine, 1.0)) * 180 / pi);
            text += angle + frequencyText(shown);
        }
        const bool below = cutoff > m_problem->low;
        if (below)
            text += ", travels above " + frequencyText(cutoff);
        list.push_back({"guide", Check::State::note, text, port.line, {}});
    }
    /// What a port between periodic sides does not take: it should have fallen before it gets
    /// there.
    void leftOut(const WaveDrivenSolver& s, const WavePort& port, std::vector<Check>& list) const
    {
        const double high = m_problem->high;
        const PortMode m = slowestLeftOut(*m_problem, port, s.mesh(), high);
        const auto beta = m.beta(high, m_problem->portEps(port, high), port.mu);
        const std::string order = orderOf(m);
        const bool travels = beta.real() > 0;
        list.push_back({"orders",
                        travels ? Check::State::warning : Check::State::note,
                        travels ? "port " + port.name + " leaves out the plane wave of order " +
                                      order + ", which travels at " + frequencyText(high) +
                                      " and is sent back there; let more modes count"
                                : "port " + port.name + " leaves out order " + order +
                                      " and those above, which fall by e within " +
                                      base::format(-1 / beta.imag(), dim::length, 3),
                        port.line,
                        {}});
    }
    /// A mode of several media has no cut-off in closed form.
    void hybrid(const PortMode& m, const WavePort& port, int mode, std::vector<Check>& list) const
    {
        char text[48];
        std::snprintf(text, sizeof text, "effective index %.4f",
                      m.beta(m_problem->shown, 1, 1).real() * c0 / (2 * pi * m_problem->shown));
        list.push_back(
            {"guide",
             Check::State::note,
             "port " + port.name + ", mode " + std::to_string(mode + 1) +
                 (m.isLine() ? ": of a line in several media, " : ": of several media, ") + text,
             port.line,
             {}});
    }

    void guide(const WaveDrivenSolver& s, size_t channel, std::vector<Check>& list) const
    {
        const auto& c = s.channels()[channel];
        const auto& port = m_problem->ports[size_t(c.port)];
        const PortMode& m = s.mode(s.order(), int(channel));
        if (m.kind == PortMode::Kind::lumped)
            return;
        const char* kind = m.kind == PortMode::Kind::tem  ? "TEM"
                           : m.kind == PortMode::Kind::te ? "TE"
                                                          : "TM";
        if (m.kind == PortMode::Kind::hybrid) {
            hybrid(m, port, c.mode, list);
            return;
        }
        const double eps = m_problem->portEps(port, m_problem->low),
                     f = m.cutoffFrequency(eps, port.mu);
        const bool below = f > m_problem->low;
        if (!m.harmonics.empty()) {
            harmonic(m, port, c.mode, f, list);
            if (c.mode + 1 == port.modes)
                leftOut(s, port, list);
            return;
        }
        list.push_back({"guide",
                        below ? Check::State::warning : Check::State::note,
                        "port " + port.name + ", mode " + std::to_string(c.mode + 1) + ": " + kind +
                            (f > 0 ? ", cut-off " + frequencyText(f) : "") +
                            (below ? "; the band begins below it" : ""),
                        port.line,
                        {}});
    }

    std::unique_ptr<WaveProblem> m_problem;
};

}  // namespace

std::unique_ptr<Study> waveDrivenStudy(const sheet::Model& model, const shape::Partition& partition,
                                       base::Faults& faults)
{
    return std::make_unique<DrivenStudy>(defineWave(model, partition, faults));
}

}  // namespace yh::physics
