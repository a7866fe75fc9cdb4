// Junctions on a given sheet: reading, figures and checks.
#include "physics/common/study.h"
#include "base/golden.h"
#include "physics/common/ask_maker.h"
#include "physics/common/constants.h"
#include "physics/common/meshless.h"
#include "physics/junction/junction.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace yh::physics {

using sheet::Line;
namespace dim = base::dim;

namespace {

constexpr int levels = 3;

class JunctionReader
{
public:
    JunctionReader(const sheet::Model& model, base::Faults& faults)
        : m_model(model), m_faults(faults)
    {
    }
    std::unique_ptr<JunctionProblem> run()
    {
        const sheet::Document& d = m_model.document();
        if (const Line* l = d.first("semiconductor")) {
            const Semiconductor* known = findSemiconductor(l->get("material"));
            m_problem->material = known ? *known : semiconductors()[0];
            m_problem->temperature = m_model.number(*l, "temperature");
            m_problem->ni = l->has("ni") ? m_model.number(*l, "ni")
                                         : m_problem->material.intrinsic(m_problem->temperature);
            constexpr double low = 150, high = 600;
            if (m_problem->temperature < low || m_problem->temperature > high)
                fault(7700, *l, "temperature",
                      "from 150 K to 600 K all dopants are ionised and these data hold");
        }
        for (const Line* l : d.ofKind("semiconductor layer"))
            layer(*l);
        if (const Line* l = d.first("device area"))
            m_problem->area = m_model.number(*l, "value");
        if (const Line* l = d.first("recombination"))
            m_problem->auger = m_problem->radiative = !l->get("of").ends_with("only");
        if (const Line* l = d.first("bias")) {
            m_problem->biasLeft = l->get("end") == "left";
            m_problem->from = m_model.number(*l, "from");
            m_problem->to = m_model.number(*l, "to");
            m_problem->steps = m_model.count(*l, "steps");
            constexpr double most = 1000;
            constexpr int points = 2000;
            if (m_problem->steps < 2 || m_problem->steps > points)
                fault(7701, *l, "steps", "from 2 to 2000 points make a curve");
            if (m_problem->from == m_problem->to)
                fault(7702, *l, "to", "the curve ends where it begins");
            if (std::abs(m_problem->from) > most || std::abs(m_problem->to) > most)
                fault(7703, *l, "to", "at most 1000 V: breakdown is not part of this");
        }
        return std::move(m_problem);
    }

private:
    void fault(int number, const Line& l, const char* key, const std::string& text)
    {
        m_faults.push_back({number, {l.id, key, 0}, text, false});
    }
    void layer(const Line& l)
    {
        JunctionLayer j;
        j.name = l.name();
        j.line = l.id;
        j.thickness = m_model.number(l, "thickness");
        j.donors = m_model.number(l, "donors");
        j.acceptors = m_model.number(l, "acceptors");
        auto maybe = [&](const char* key) { return l.has(key) ? m_model.number(l, key) : 0.0; };
        j.electronLife = maybe("electron life");
        j.holeLife = l.has("hole life") ? maybe("hole life") : j.electronLife;
        const double all = j.donors + j.acceptors;
        j.electronMobility = l.has("electron mobility") ? maybe("electron mobility")
                                                        : m_problem->material.electrons.at(all);
        j.holeMobility =
            l.has("hole mobility") ? maybe("hole mobility") : m_problem->material.holes.at(all);
        j.generation = m_model.number(l, "generation");
        constexpr double thinnest = 5e-9, thickest = 0.1, heaviest = 1e27;
        if (j.thickness < thinnest || j.thickness > thickest)
            fault(7704, l, "thickness", "a layer is from 5 nm to 10 cm thick");
        if (std::max(j.donors, j.acceptors) > heaviest)
            fault(7705, l, j.donors > j.acceptors ? "donors" : "acceptors",
                  "more dopants than a hundredth of all atoms: is the unit right?");
        m_problem->layers.push_back(std::move(j));
    }

    const sheet::Model& m_model;
    base::Faults& m_faults;
    std::unique_ptr<JunctionProblem> m_problem = std::make_unique<JunctionProblem>();
};

class JunctionSolver : public MeshlessSolution
{
public:
    JunctionSolver(const JunctionProblem& problem, base::Progress& progress)
        : m_problem(problem), m_progress(progress)
    {
    }
    void solve(int, base::Progress&) override
    {
        for (int k = 0; k < levels; ++k)
            m_grids.push_back(std::make_unique<JunctionGrid>(m_problem, k));
    }
    int order() const override { return levels - 1; }
    /// Grids, each twice as fine as the one before.
    std::vector<int> estimates() const override { return {0, 1, 2}; }
    Counters counters() const override
    {
        Counters c;
        c.unknowns = m_grids.empty() ? 0 : 3 * m_grids.back()->size();
        return c;
    }

    [[nodiscard]] const JunctionProblem& problem() const { return m_problem; }
    [[nodiscard]] const JunctionGrid& grid(int level) const { return *m_grids[size_t(level)]; }
    [[nodiscard]] base::Progress& progress() const { return m_progress; }
    [[nodiscard]] double current(int level, double bias) const
    {
        return grid(level).current(bias, m_progress);
    }
    [[nodiscard]] double biasOf(int step) const
    {
        return m_problem.from + (m_problem.to - m_problem.from) * step / (m_problem.steps - 1);
    }
    /// Slope of a function of the bias, by a difference of fourth order.
    template <class Function>
    [[nodiscard]] double slope(double bias, const Function& f) const
    {
        const double h = 0.05 * m_problem.thermal();
        return (8 * (f(bias + h) - f(bias - h)) - (f(bias + 2 * h) - f(bias - 2 * h))) / (12 * h);
    }
    [[nodiscard]] double capacitance(int level, double bias) const
    {
        return std::abs(
            slope(bias, [&](double v) { return grid(level).holeCharge(v, m_progress); }));
    }
    /// Voltage without current. @throws Error 7711: nothing is generated
    [[nodiscard]] double openVoltage(int level) const
    {
        const double lit = current(level, 0);
        if (lit == 0)
            throw base::Error(7711,
                              "nothing is generated: a dark device has no voltage of its own");
        // The current grows with the voltage: outwards until its sign turns, then between.
        const double step = lit < 0 ? 0.1 : -0.1;
        double a = 0, b = step;
        constexpr double most = 3;
        while ((current(level, b) < 0) == (lit < 0)) {
            a = b;
            b += step;
            if (std::abs(b) > most)
                throw base::Error(7712, "no voltage up to 3 V stops the current");
        }
        double fa = current(level, a), fb = current(level, b);
        for (int i = 0; i < 60 && std::abs(b - a) > 1e-13; ++i) {
            // Regula falsi, Illinois.
            const double c = (a * fb - b * fa) / (fb - fa), fc = current(level, c);
            if (fc == 0)
                return c;
            if ((fc < 0) == (fb < 0)) {
                fa *= 0.5;
            } else {
                a = b;
                fa = fb;
            }
            b = c;
            fb = fc;
        }
        return b;
    }
    struct Power
    {
        double power = 0, voltage = 0, fill = 0;
    };
    [[nodiscard]] Power largestPower(int level) const
    {
        const double open = openVoltage(level), shorted = current(level, 0);
        auto given = [&](double v) { return -v * current(level, v); };
        constexpr int steps = 45;
        const double v = base::leastAt([&](double bias) { return -given(bias); },
                                       std::min(0.0, open), std::max(0.0, open), steps),
                     p = given(v);
        return {p, v, p / std::abs(open * shorted)};
    }

private:
    const JunctionProblem& m_problem;
    base::Progress& m_progress;
    std::vector<std::unique_ptr<JunctionGrid>> m_grids;
};

class JunctionAsks : public AskMaker<JunctionProblem>
{
public:
    using AskMaker::AskMaker;

    std::vector<Ask> run()
    {
        using A = JunctionAsks;
        static const Table<A> table = {{"junction curve", &A::curve},
                                       {"junction current", &A::current},
                                       {"ideality factor", &A::ideality},
                                       {"junction capacitance", &A::capacitance},
                                       {"capacitance curve", &A::capacitanceCurve},
                                       {"built-in voltage", &A::builtIn},
                                       {"open-circuit voltage", &A::open},
                                       {"largest power", &A::power},
                                       {"band diagram", &A::bands}};
        return make(table, 7720,
                    "a junction; ask for a current curve, an ideality factor, a capacitance or "
                    "bands");
    }

private:
    static JunctionSolver& solverOf(Solution& s) { return as<JunctionSolver>(s); }

    /// A curve judged by the figures of some of its points, each relative to its own size.
    using Value = double (*)(const JunctionSolver&, int level, double bias);
    void table(const Line& l, const std::string& name, Value value,
               std::string (*csv)(const JunctionSolver&))
    {
        Ask a = beginAsk(m_model, l, dim::none, name);
        a.finding.table = "curves";
        a.evaluate = [value](Solution& field, int level) {
            auto& s = solverOf(field);
            std::vector<double> list;
            for (int i = 0; i < s.problem().steps; ++i) {
                // What is nothing without a bias has no relative size.
                const double v = value(s, level, s.biasOf(i)),
                             best = value(s, levels - 1, s.biasOf(i));
                list.push_back(std::abs(s.biasOf(i)) > 1e-9 && best != 0 ? v / best : 1.0);
            }
            return list;
        };
        a.scale = [](Solution&, int) { return 1.0; };
        a.curves = [csv](Solution& field) { return csv(solverOf(field)); };
        m_asks.push_back(std::move(a));
    }
    void curve(const Line& l)
    {
        table(
            l, "current over voltage",
            [](const JunctionSolver& s, int level, double v) { return s.current(level, v); },
            [](const JunctionSolver& s) {
                std::string csv = "V (V),I (A),abs(I) (A)\n";
                char row[96];
                for (int i = 0; i < s.problem().steps; ++i) {
                    const double v = s.biasOf(i), I = s.current(levels - 1, v);
                    if (I != 0 && std::abs(v) > 1e-9)
                        std::snprintf(row, sizeof row, "%.9g,%.9g,%.9g\n", v, I, std::abs(I));
                    else
                        std::snprintf(row, sizeof row, "%.9g,%.9g,\n", v, I);
                    csv += row;
                }
                return csv;
            });
    }
    void capacitanceCurve(const Line& l)
    {
        table(
            l, "capacitance over voltage",
            [](const JunctionSolver& s, int level, double v) { return s.capacitance(level, v); },
            [](const JunctionSolver& s) {
                std::string csv = "V (V),C (F),1/C^2 (1/F^2)\n";
                char row[96];
                for (int i = 0; i < s.problem().steps; ++i) {
                    const double v = s.biasOf(i), C = s.capacitance(levels - 1, v);
                    std::snprintf(row, sizeof row, "%.9g,%.9g,%.9g\n", v, C, 1 / (C * C));
                    csv += row;
                }
                return csv;
            });
    }
    void current(const Line& l)
    {
        const double v = m_model.number(l, "at");
        add(l, dim::current, "current at " + l.get("at")).evaluate = [v](Solution& field,
                                                                         int level) {
            return std::vector{solverOf(field).current(level, v)};
        };
    }
    void ideality(const Line& l)
    {
        const double v = m_model.number(l, "at");
        if (std::abs(v) < m_problem.thermal()) {
            fault(7714, l, "at",
                  "below the thermal voltage a current does not rise exponentially: state a "
                  "larger one");
            return;
        }
        add(l, dim::none, "ideality factor at " + l.get("at")).evaluate = [v](Solution& field,
                                                                              int level) {
            auto& s = solverOf(field);
            const double slope =
                s.slope(v, [&](double bias) { return std::log(std::abs(s.current(level, bias))); });
            return std::vector{1 / (s.problem().thermal() * std::abs(slope))};
        };
    }
    void capacitance(const Line& l)
    {
        const double v = m_model.number(l, "at");
        add(l, dim::capacitance, "junction capacitance at " + (l.has("at") ? l.get("at") : "0 V"))
            .evaluate = [v](Solution& field, int level) {
            return std::vector{solverOf(field).capacitance(level, v)};
        };
    }
    void builtIn(const Line& l)
    {
        add(l, dim::voltage, "built-in voltage").evaluate = [](Solution& field, int level) {
            auto& s = solverOf(field);
            return std::vector{s.grid(level).builtIn(s.progress())};
        };
    }
    bool isLit(const Line& l)
    {
        const bool lit = std::any_of(m_problem.layers.begin(), m_problem.layers.end(),
                                     [](const auto& layer) { return layer.generation > 0; });
        if (!lit)
            fault(7711, l, {},
                  "nothing is generated: a dark device has no voltage of its own; add "
                  "`generating …` to a layer");
        return lit;
    }
    void open(const Line& l)
    {
        if (isLit(l))
            add(l, dim::voltage, "open-circuit voltage").evaluate = [](Solution& field, int level) {
                return std::vector{solverOf(field).openVoltage(level)};
            };
    }
    void power(const Line& l)
    {
        if (!isLit(l))
            return;
        add(l, dim::power, "largest power").evaluate = [](Solution& field, int level) {
            return std::vector{solverOf(field).largestPower(level).power};
        };
        Ask& v = add(l, dim::voltage, "voltage of largest power");
        v.finding.within = 0;
        v.evaluate = [](Solution& field, int level) {
            return std::vector{solverOf(field).largestPower(level).voltage};
        };
        Ask& f = add(l, dim::none, "fill factor");
        f.finding.within = 0;
        f.evaluate = [](Solution& field, int level) {
            return std::vector{solverOf(field).largestPower(level).fill};
        };
    }
    void bands(const Line& l)
    {
        const double v = m_model.number(l, "at");
        Ask a = beginAsk(m_model, l, dim::none, "bands at " + (l.has("at") ? l.get("at") : "0 V"));
        a.finding.table = "curves";
        a.curves = [v](Solution& field) {
            auto& s = solverOf(field);
            std::string csv =
                "x (m),conduction band (eV),valence band (eV),electron quasi-Fermi level (eV),"
                "hole quasi-Fermi level (eV),abs(n) (1/m^3),abs(p) (1/m^3)\n";
            char row[200];
            for (const auto& b : s.grid(levels - 1).bands(v, s.progress())) {
                std::snprintf(row, sizeof row, "%.9g,%.7g,%.7g,%.7g,%.7g,%.7g,%.7g\n", b[0], b[1],
                              b[2], b[3], b[4], b[5], b[6]);
                csv += row;
            }
            return csv;
        };
        m_asks.push_back(std::move(a));
    }
};

class JunctionStudy : public Study
{
public:
    explicit JunctionStudy(std::unique_ptr<JunctionProblem> problem) : m_problem(std::move(problem))
    {
    }
    std::string name() const override { return "junction"; }
    bool isMeshed() const override { return false; }
    const std::vector<int>& activePieces() const override { return m_noPieces; }
    std::unique_ptr<Solution> on(const mesh::Mesh&, const shape::Partition&, int,
                                 base::Progress& progress) const override
    {
        return std::make_unique<JunctionSolver>(*m_problem, progress);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        return JunctionAsks(model, partition, *m_problem, faults).run();
    }
    std::vector<Check> checks(const sheet::Model&, const shape::Partition&, Solution& field,
                              const std::vector<Ask>&) const override
    {
        auto& s = as<JunctionSolver>(field);
        std::vector<Check> list;
        auto add = [&list](const char* id, Check::State state, const std::string& text) {
            list.push_back({id, state, text, -1, {}});
        };
        char text[160];
        double worst = 0;
        for (int i = 0; i < m_problem->steps; ++i)
            if (std::abs(s.biasOf(i)) > m_problem->thermal())
                worst = std::max(worst, s.grid(levels - 1).unevenness(s.biasOf(i), s.progress()));
        if (worst > 0)
            std::snprintf(text, sizeof text,
                          "the current is the same from contact to contact to %.0e", worst);
        else
            std::snprintf(text, sizeof text,
                          "the current is the same from contact to contact to rounding");
        add("current continuity", worst < 1e-6 ? Check::State::good : Check::State::warning, text);
        std::snprintf(text, sizeof text,
                      "%s at %.5g K: intrinsic density %.4g /cm³, gap %.4g eV; thermal voltage "
                      "%.4g mV",
                      m_problem->material.name.c_str(), m_problem->temperature,
                      m_problem->ni * 1e-6, m_problem->material.gapAt(m_problem->temperature),
                      1e3 * m_problem->thermal());
        add("semiconductor", Check::State::note, text);
        constexpr double degenerate = 2e25;
        for (const auto& l : m_problem->layers)
            if (std::max(l.donors, l.acceptors) > degenerate)
                add("doping", Check::State::warning,
                    "layer " + l.name +
                        " is degenerate: Boltzmann statistics and an unchanged gap err there");
        std::snprintf(text, sizeof text, "grids of %d, %d and %d places along the line",
                      s.grid(0).size(), s.grid(1).size(), s.grid(2).size());
        add("grids", Check::State::note, text);
        return list;
    }
    std::string lineQuantity() const override { return {}; }

private:
    std::unique_ptr<JunctionProblem> m_problem;
    std::vector<int> m_noPieces;
};

}  // namespace

std::unique_ptr<Study> junctionStudy(const sheet::Model& model, const shape::Partition&,
                                     base::Faults& faults)
{
    return std::make_unique<JunctionStudy>(JunctionReader(model, faults).run());
}

}  // namespace yh::physics
