#include "physics/elastic/asks.h"

#include "physics/common/ask_maker.h"
#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace yh::physics {

using sheet::Line;
using Complex = std::complex<double>;
using Task = ElasticProblem::Task;
namespace dim = base::dim;

namespace {

ElasticSolver& solverOf(Solution& field)
{
    return as<ElasticSolver>(field);
}

double degrees(const Complex& z)
{
    return std::arg(z) * 180 / pi;
}

/// Impedance over the band as a table: size and phase first, that the curve shows.
std::string impedanceTable(ElasticSolver& s, int electrode)
{
    std::string csv = "f (Hz),abs(Z) (ohm),phase (deg),Z_re (ohm),Z_im (ohm),Y_re (S),Y_im (S)\n";
    const ElasticProblem& p = s.problem();
    char row[200];
    for (int i = 0; i < p.steps; ++i) {
        const double f = p.low + (p.high - p.low) * i / (p.steps - 1);
        const Complex Y = s.admittance(s.order(), f, electrode), Z = 1.0 / Y;
        std::snprintf(row, sizeof row, "%.12g,%.9g,%.9g,%.9g,%.9g,%.9g,%.9g\n", f, std::abs(Z),
                      degrees(Z), Z.real(), Z.imag(), Y.real(), Y.imag());
        csv += row;
    }
    return csv;
}

class ElasticAsks : public AskMaker<ElasticProblem>
{
public:
    using AskMaker::AskMaker;

    std::vector<Ask> run()
    {
        using A = ElasticAsks;
        static const Table<A> table = {{"impedance curve", &A::curve},
                                       {"impedance at", &A::impedanceAt},
                                       {"electrical resonance", &A::resonance},
                                       {"equivalent circuit", &A::circuit},
                                       {"natural frequency", &A::mode},
                                       {"displacement", &A::displacement},
                                       {"largest stress", &A::stress},
                                       {"charge", &A::charge},
                                       {"profile", &A::profile}};
        return make(table, 7550,
                    "elastic bodies; ask for impedances, resonances, displacements or stresses");
    }

private:
    bool isFor(const Line& l, Task task)
    {
        if (m_problem.task == task)
            return true;
        fault(7551, l, {},
              task == Task::band    ? "over which band? add a line such as `vibration from 0.5 MHz "
                                      "to 2 MHz`"
              : task == Task::modes ? "how many? add a line such as `natural vibrations 6`"
              : m_problem.task == Task::modes
                  ? "natural vibrations have no size: ask for their frequencies, or take the line "
                    "`natural vibrations` away"
                  : "over a band this depends on the frequency: state one with `at`");
        return false;
    }
    /// An electrode that a voltage can be given to; -1 with a fault.
    int drivenElectrode(const Line& l)
    {
        const int e = m_problem.electrodeOf(l.get("of"));
        if (e >= 0 && m_problem.electrodes[size_t(e)].floats) {
            fault(7552, l, "of",
                  "'" + l.get("of") +
                      "' floats; an impedance is that of an electrode with a "
                      "voltage");
            return -1;
        }
        return e;
    }

    void curve(const Line& l)
    {
        const int e = drivenElectrode(l);
        if (!isFor(l, Task::band) || e < 0)
            return;
        Ask a = beginAsk(m_model, l, dim::none, "impedance of " + l.get("of"));
        a.finding.table = "curves";
        // Judged against the line of a resistor as large as the static reactance in the middle of
        // the band, so that no resonance is without limit.
        a.evaluate = [e](Solution& field, int order) {
            auto& s = solverOf(field);
            const auto& p = s.problem();
            const double middle = 0.5 * (p.low + p.high);
            const double own = std::abs(s.admittance(order, middle, e).imag());
            std::vector<double> list;
            constexpr int places = 21;
            for (int i = 0; i < places; ++i) {
                const double f = p.low + (p.high - p.low) * i / (places - 1);
                const Complex Y = s.admittance(order, f, e) / own, r = (1.0 - Y) / (1.0 + Y);
                list.push_back(r.real());
                list.push_back(r.imag());
            }
            return list;
        };
        a.scale = [](Solution&, int) { return 1.0; };
        a.curves = [e](Solution& field) { return impedanceTable(solverOf(field), e); };
        m_asks.push_back(std::move(a));
    }

    void impedanceAt(const Line& l)
    {
        const int e = drivenElectrode(l);
        if (!isFor(l, Task::band) || e < 0)
            return;
        const double f = m_model.number(l, "frequency");
        const std::string of = " of " + l.get("of") + " at " + l.get("frequency");
        auto at = [e, f](Solution& field, int order) {
            return 1.0 / solverOf(field).admittance(order, f, e);
        };
        Ask& size = add(l, dim::resistance, "|Z|" + of);
        size.evaluate = [at](Solution& field, int order) {
            return std::vector{std::abs(at(field, order))};
        };
        Ask& phase = add(l, dim::none, "phase of Z" + of);
        phase.finding.below = phase.finding.above = std::numeric_limits<double>::quiet_NaN();
        phase.evaluate = [at](Solution& field, int order) {
            return std::vector{std::arg(at(field, order))};
        };
        // As accurate as the size: in radians.
        phase.scale = [](Solution&, int) { return 1.0; };
    }

    /// A resonance of an electrode: the strongest, or by its number in the band.
    using Number = double (*)(const ElectricalResonance&);
    std::function<double(Solution&, int)> ofResonance(const Line& l, int electrode, Number number)
    {
        const int which = l.has("number") ? m_model.count(l, "number") : 0;
        return [electrode, which, number, line = l.id](Solution& field, int order) {
            const auto& list = solverOf(field).resonances(order, electrode);
            if (list.empty() || which > int(list.size()))
                throw base::Error(7553,
                                  list.empty()
                                      ? std::string("in this band no resonance takes a current")
                                      : "in this band there are " + std::to_string(list.size()) +
                                            " resonances that take a current",
                                  {line, which ? "number" : "of", which ? 0 : -1});
            const auto strongest = std::max_element(
                list.begin(), list.end(),
                [](const auto& a, const auto& b) { return a.strength() < b.strength(); });
            return number(which ? list[size_t(which - 1)] : *strongest);
        };
    }
    void addOf(const Line& l, int e, const std::string& name, const base::Dimension& d,
               Number number, bool judged)
    {
        Ask& a = add(l, d,
                     name + " of " + l.get("of") +
                         (l.has("number") ? ", number " + l.get("number") : std::string()));
        if (!judged)
            a.finding.within = 0;
        // Frequencies err by the square of the field, what they are made of does not quite.
        if (d != dim::frequency)
            a.degree = 1;
        a.evaluate = [of = ofResonance(l, e, number)](Solution& field, int order) {
            return std::vector{of(field, order)};
        };
    }
    void resonance(const Line& l)
    {
        const int e = drivenElectrode(l);
        if (!isFor(l, Task::band) || e < 0)
            return;
        using R = ElectricalResonance;
        addOf(
            l, e, "resonance", dim::frequency, [](const R& r) { return r.series; }, true);
        addOf(
            l, e, "antiresonance", dim::frequency, [](const R& r) { return r.parallel; }, true);
        addOf(
            l, e, "effective coupling", dim::none, [](const R& r) { return r.coupling(); }, false);
        if (m_problem.isLossy())
            addOf(
                l, e, "mechanical Q", dim::none, [](const R& r) { return r.quality; }, false);
    }
    void circuit(const Line& l)
    {
        const int e = drivenElectrode(l);
        if (!isFor(l, Task::band) || e < 0)
            return;
        using R = ElectricalResonance;
        addOf(
            l, e, "C0", dim::capacitance, [](const R& r) { return r.C0; }, true);
        addOf(
            l, e, "C1", dim::capacitance, [](const R& r) { return r.C1; }, true);
        addOf(
            l, e, "L1", dim::inductance, [](const R& r) { return r.L1; }, true);
        if (m_problem.isLossy())
            addOf(
                l, e, "R1", dim::resistance, [](const R& r) { return r.R1; }, true);
    }

    void mode(const Line& l)
    {
        if (!isFor(l, Task::modes))
            return;
        const int k = m_model.count(l, "mode") - 1;
        if (k >= m_problem.modes) {
            fault(7554, l, "mode",
                  "only " + std::to_string(m_problem.modes) + " natural vibrations are looked for");
            return;
        }
        const std::string number = std::to_string(k + 1);
        add(l, dim::frequency, "natural frequency " + number).evaluate = [k](Solution& field,
                                                                             int order) {
            return std::vector{solverOf(field).modeFrequency(order, k)};
        };
        if (!m_problem.isLossy())
            return;
        Ask& q = add(l, dim::none, "Q of natural vibration " + number);
        q.finding.within = 0;
        q.evaluate = [k](Solution& field, int order) {
            return std::vector{solverOf(field).modeQuality(order, k)};
        };
    }

    /// The state that a line is about, with its frequency where there is a band.
    std::optional<ElasticSolver::State> stateOf(const Line& l)
    {
        if (m_problem.task == Task::modes) {
            static_cast<void>(isFor(l, Task::steady));
            return std::nullopt;
        }
        if (m_problem.task == Task::band && !l.has("frequency")) {
            static_cast<void>(isFor(l, Task::steady));
            return std::nullopt;
        }
        if (m_problem.task == Task::steady && l.has("frequency")) {
            fault(7555, l, "frequency",
                  "nothing vibrates in this sheet; add a line such as `vibration from 10 kHz to "
                  "50 kHz`");
            return std::nullopt;
        }
        return ElasticSolver::State{0, l.has("frequency") ? m_model.number(l, "frequency") : 0.0};
    }
    void displacement(const Line& l)
    {
        const auto state = stateOf(l);
        if (!state)
            return;
        const Point p = m_model.point(l, "at");
        Point d = m_model.direction(l, "along");
        if (m_problem.isAxisymmetric())
            d = {d.x, d.y + d.z};
        const bool band = m_problem.task == Task::band;
        Ask& a = add(l, dim::length,
                     "displacement along " + l.get("along") + " at " + l.get("at") +
                         (band ? " at " + l.get("frequency") : std::string()));
        auto hitOf = [p, line = l.id](const ElasticSolver& s) {
            const auto hit = mesh::Locator(s.mesh()).find(p);
            if (hit.cell < 0)
                throw base::Error(7556, "the point lies outside the drawing", {line, "at", 0});
            return hit;
        };
        auto of = [hitOf, d, state = *state](ElasticSolver& s, int order) {
            const auto hit = hitOf(s);
            const auto u = s.displacement(order, state, hit.cell, hit.xi);
            return d.x * u[0] + d.y * u[1];
        };
        a.evaluate = [of, band](Solution& field, int order) {
            const Complex u = of(solverOf(field), order);
            return std::vector{band ? std::abs(u) : u.real()};
        };
        // What symmetry or a support makes zero is judged by the displacement as a whole.
        a.scale = [hitOf, state = *state](Solution& field, int order) {
            auto& s = solverOf(field);
            const auto hit = hitOf(s);
            const auto u = s.displacement(order, state, hit.cell, hit.xi);
            return std::hypot(std::abs(u[0]), std::abs(u[1]));
        };
    }
    void stress(const Line& l)
    {
        const auto state = stateOf(l);
        std::vector<int> pieces;
        try {
            pieces = m_p.resolve(m_model.place(l, "in"), m_model, {l.id, "in", 0}).pieces;
        } catch (const base::Error& e) {
            m_faults.push_back(e.fault());
        }
        std::erase_if(pieces, [this](int f) { return !m_problem.media[size_t(f)].moves; });
        if (pieces.empty())
            fault(7557, l, "in", "'" + l.get("in") + "' picks no elastic region");
        if (!state || pieces.empty())
            return;
        Ask& a = add(l, dim::pressure, "largest stress in " + l.get("in"));
        a.finding.unit = "Pa";
        a.degree = 1;
        a.evaluate = [pieces, state = *state](Solution& field, int order) {
            return std::vector{solverOf(field).largestStress(order, state, pieces).value};
        };
        a.where = [pieces, state = *state](Solution& field, int order) {
            return solverOf(field).largestStress(order, state, pieces).hit;
        };
    }
    void charge(const Line& l)
    {
        const int e = m_problem.electrodeOf(l.get("of"));
        if (!isFor(l, Task::steady) || e < 0)
            return;
        if (m_problem.electrodes[size_t(e)].floats) {
            fault(7558, l, "of", "an electrode that is left open has no charge");
            return;
        }
        add(l, dim::charge, "charge of " + l.get("of")).evaluate = [e](Solution& field, int order) {
            return std::vector{solverOf(field).charge(order, {}, e).real()};
        };
    }
    void profile(const Line& l) { profileOf(l, dim::length); }
};

}  // namespace

std::vector<Ask> makeElasticAsks(const sheet::Model& model, const shape::Partition& partition,
                                 const ElasticProblem& problem, base::Faults& faults)
{
    return ElasticAsks(model, partition, problem, faults).run();
}

}  // namespace yh::physics
