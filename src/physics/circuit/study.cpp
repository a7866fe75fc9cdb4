// Circuits of parts: their S-parameters and what follows from them.
#include "physics/common/study.h"
#include "base/golden.h"
#include "network/circuit.h"
#include "physics/circuit/face_ends.h"
#include "physics/common/ask_maker.h"
#include "physics/common/constants.h"
#include "physics/common/meshless.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <fstream>

namespace yh::physics {

using network::Circuit;
using sheet::Line;
namespace dim = base::dim;

namespace {

/// What a sheet says about a circuit.
struct CircuitProblem
{
    /// By estimate: files read by straight lines (0) and by cubics (1). All else is exact.
    Circuit circuit[2];
    std::vector<std::string> terminals;
    std::vector<int> partLines;
    bool byWavelength = true;
    double low = 0, high = 0;  ///< Hz
    double from = 0, to = 0;   ///< as stated, m or Hz
    int steps = 2;

    /// Frequency of a place on the axis of the curves, from 0 to 1.
    [[nodiscard]] double frequencyAt(double share) const
    {
        const double x = from + share * (to - from);
        return byWavelength ? base::c0 / x : x;
    }
    /// What stands on that axis at a frequency.
    [[nodiscard]] double axisAt(double frequency) const
    {
        return byWavelength ? base::c0 / frequency : frequency;
    }
    [[nodiscard]] int terminalOf(const std::string& name) const
    {
        const auto it = std::find(terminals.begin(), terminals.end(), name);
        return it == terminals.end() ? -1 : int(it - terminals.begin());
    }
};

class CircuitReader
{
public:
    CircuitReader(const sheet::Model& model, const shape::Partition& partition,
                  base::Faults& faults)
        : m_model(model), m_p(partition), m_faults(faults)
    {
    }
    std::unique_ptr<CircuitProblem> run()
    {
        band();
        for (const Line& l : m_model.document().lines)
            if (isPart(l.kind))
                part(l);
        if (m_faults.empty())
            joints();
        return std::move(m_problem);
    }

private:
    void fault(int number, const Line& l, const std::string& key, const std::string& text)
    {
        m_faults.push_back({number, {l.id, key, key.empty() ? -1 : 0}, text, false});
    }
    void band()
    {
        auto& p = *m_problem;
        const Line* l = m_model.document().first("wavelengths");
        p.byWavelength = l != nullptr;
        if (!l)
            l = m_model.document().first("frequencies");
        if (!l)
            return;  // said by the face
        p.from = m_model.number(*l, "from");
        p.to = m_model.number(*l, "to");
        p.steps = m_model.count(*l, "steps");
        const double a = p.frequencyAt(0), b = p.frequencyAt(1);
        p.low = std::min(a, b);
        p.high = std::max(a, b);
        if (!(p.to > p.from))
            fault(7600, *l, "to", "the band ends before it begins");
        constexpr int most = 1000000;
        if (p.steps < 3 || p.steps > most)
            fault(7601, *l, "steps", "from 3 to a million points make a curve");
    }
    void add(const Line& l, int ports, const network::Scattering& S)
    {
        for (Circuit& c : m_problem->circuit)
            m_number[l.name()] = c.add({l.name(), ports, S});
        m_problem->partLines.push_back(l.id);
    }
    void part(const Line& l)
    {
        const int ports = portsOfPart(l.kind);
        // A level is that of an amplitude.
        const double loss = l.kind == "reflector part" || l.kind == "file part"
                                ? 1.0
                                : 1 / m_model.number(l, "loss");
        if (l.kind == "guide part") {
            const double length = m_model.number(l, "length"), index = m_model.number(l, "index"),
                         group = l.has("group") ? m_model.number(l, "group") : index,
                         f0 = l.has("at") ? base::c0 / m_model.number(l, "at")
                                          : 0.5 * (m_problem->low + m_problem->high);
            add(l, ports,
                network::guideOf(length, index, group, f0,
                                 std::pow(loss, length / m_model.number(l, "per"))));
        } else if (l.kind == "coupler part") {
            add(l, ports, network::couplerOf(m_model.number(l, "share"), loss));
        } else if (l.kind == "splitter part") {
            add(l, ports, network::splitterOf(m_model.number(l, "share"), loss));
        } else if (l.kind == "reflector part") {
            add(l, ports, network::reflectorOf(m_model.number(l, "share")));
        } else {
            file(l);
        }
    }
    /// A file reaches over the band.
    void mustCover(const Line& l, const std::string& name, const network::Network& n)
    {
        constexpr double slack = 1e-6;
        if (n.frequency.front() > m_problem->low * (1 + slack) ||
            n.frequency.back() < m_problem->high * (1 - slack))
            fault(7604, l, "file",
                  name + " goes from " + base::format(n.frequency.front(), dim::frequency, 5) +
                      " to " + base::format(n.frequency.back(), dim::frequency, 5) +
                      ", and the band from " + base::format(m_problem->low, dim::frequency, 5) +
                      " to " + base::format(m_problem->high, dim::frequency, 5));
    }

    /// Waves of all parts are those of one resistance.
    static void renormalise(network::Network& n)
    {
        const auto ports = Eigen::Index(n.ports.size());
        const Eigen::VectorXd own = Eigen::Map<const Eigen::VectorXd>(n.reference.data(), ports),
                              fifty = Eigen::VectorXd::Constant(ports, 50.0);
        if (own != fifty)
            for (auto& S : n.S)
                S = network::renormalised(S, own, fifty);
    }

    void file(const Line& l)
    {
        const std::string name = l.get("file");
        std::ifstream in(m_p.pathOf(name));
        if (!in) {
            fault(7602, l, "file", "the file " + name + " cannot be read");
            return;
        }
        const std::string text{std::istreambuf_iterator<char>(in), {}};
        try {
            network::Network n = network::readTouchstone(text, portsOfFile(name));
            if (n.frequency.empty()) {
                fault(7603, l, "file", name + " holds no frequencies");
                return;
            }
            mustCover(l, name, n);
            renormalise(n);
            const int count = int(n.ports.size());
            for (int k = 0; k < 2; ++k)
                m_number[l.name()] =
                    m_problem->circuit[k].add({l.name(), count, network::tabulated(n, k == 1)});
            m_problem->partLines.push_back(l.id);
        } catch (const base::Error& e) {
            m_faults.push_back({e.fault().number, {l.id, "file", 0}, e.fault().text, false});
        }
    }
    /// Number of a port among all; -1 with a fault.
    int portOf(const Line& l, const char* key)
    {
        const auto end = circuitEnd(m_model.document(), l.get(key));
        if (!end)
            return -1;  // said by the face
        const int part = m_number[end->part->name()];
        const auto& known = m_problem->circuit[0].parts()[size_t(part)];
        if (end->port >= known.ports) {
            fault(7605, l, key, known.name + " has " + std::to_string(known.ports) + " ports only");
            return -1;
        }
        return m_problem->circuit[0].port(part, end->port);
    }
    void joints()
    {
        for (const Line& l : m_model.document().lines) {
            if (l.kind == "joint") {
                const int a = portOf(l, "from"), b = portOf(l, "to");
                if (a >= 0 && a == b)
                    fault(7606, l, "to", "a port cannot be joined to itself");
                for (Circuit& c : m_problem->circuit)
                    if (a >= 0 && b >= 0 && a != b)
                        c.join(a, b);
            } else if (l.kind == "termination" || l.kind == "terminal") {
                const int a = portOf(l, "at");
                if (a < 0)
                    continue;
                for (Circuit& c : m_problem->circuit)
                    if (l.kind == "terminal")
                        c.terminal(a);
                    else
                        c.terminate(a, m_model.number(l, "reflection"));
                if (l.kind == "terminal")
                    m_problem->terminals.push_back(l.name());
                else if (std::abs(m_model.number(l, "reflection")) > 1)
                    fault(7607, l, "reflection", "no termination gives back more than all");
            }
        }
        for (const int p : m_problem->circuit[0].openPorts()) {
            // Of files whose ending does not tell how many ports they have.
            int part = 0;
            const auto& parts = m_problem->circuit[0].parts();
            while (part + 1 < int(parts.size()) && m_problem->circuit[0].port(part + 1, 0) <= p)
                ++part;
            m_faults.push_back({2307,
                                {m_problem->partLines[size_t(part)], {}, -1},
                                "port " + parts[size_t(part)].name + "." +
                                    std::to_string(p - m_problem->circuit[0].port(part, 0) + 1) +
                                    " is open: join it, or add a termination",
                                true});
        }
    }

    const sheet::Model& m_model;
    const shape::Partition& m_p;
    base::Faults& m_faults;
    std::map<std::string, int> m_number;
    std::unique_ptr<CircuitProblem> m_problem = std::make_unique<CircuitProblem>();
};

class CircuitSolver : public MeshlessSolution
{
public:
    explicit CircuitSolver(const CircuitProblem& problem) : m_problem(problem) {}
    int order() const override { return 1; }
    std::vector<int> estimates() const override { return {0, 1}; }

    [[nodiscard]] const CircuitProblem& problem() const { return m_problem; }
    [[nodiscard]] Eigen::MatrixXcd S(int estimate, double frequency) const
    {
        return m_problem.circuit[estimate].S(frequency);
    }
    /// Over the points of the band, on first use.
    [[nodiscard]] const std::vector<Eigen::MatrixXcd>& band(int estimate)
    {
        auto& list = m_band[estimate];
        for (int i = int(list.size()); i < m_problem.steps; ++i)
            list.push_back(S(estimate, m_problem.frequencyAt(double(i) / (m_problem.steps - 1))));
        return list;
    }
    /// Power from one terminal to another at a place of the band.
    [[nodiscard]] double power(int estimate, int to, int from, double share) const
    {
        return std::norm(S(estimate, m_problem.frequencyAt(share))(to, from));
    }
    struct Extreme
    {
        double share = 0, power = 0;
    };
    /// All places where the power is least (or largest), each found to the last digits.
    [[nodiscard]] std::vector<Extreme> extremes(int estimate, int to, int from, bool least,
                                                bool withEnds)
    {
        const auto& all = band(estimate);
        const double sign = least ? 1 : -1;
        const int n = m_problem.steps;
        auto at = [&](int i) { return sign * std::norm(all[size_t(i)](to, from)); };
        std::vector<Extreme> list;
        for (int i = 0; i < n; ++i) {
            const bool end = i == 0 || i == n - 1;
            if (end && !withEnds)
                continue;
            if ((i > 0 && at(i - 1) < at(i)) || (i < n - 1 && at(i + 1) <= at(i)))
                continue;
            const double step = 1.0 / (n - 1);
            list.push_back(refined(estimate, to, from, sign, std::max(0.0, (i - 1) * step),
                                   std::min(1.0, (i + 1) * step)));
        }
        return list;
    }

private:
    [[nodiscard]] Extreme refined(int estimate, int to, int from, double sign, double a,
                                  double b) const
    {
        constexpr int steps = 60;
        const double best = base::leastAt(
            [&](double x) { return sign * power(estimate, to, from, x); }, a, b, steps);
        return {best, power(estimate, to, from, best)};
    }

    const CircuitProblem& m_problem;
    std::vector<Eigen::MatrixXcd> m_band[2];
};

double decibels(double power)
{
    constexpr double nothing = 1e-30;
    return 10 * std::log10(std::max(power, nothing));
}

class CircuitAsks : public AskMaker<CircuitProblem>
{
public:
    using AskMaker::AskMaker;

    std::vector<Ask> run()
    {
        using A = CircuitAsks;
        static const Table<A> table = {{"spectrum", &A::spectrum},
                                       {"insertion loss", &A::loss},
                                       {"return loss", &A::loss},
                                       {"extinction ratio", &A::extinction},
                                       {"free spectral range", &A::range}};
        return make(table, 7610,
                    "a circuit; ask for a spectrum, losses, an extinction ratio or a free "
                    "spectral range");
    }

private:
    Ask& level(const Line& l, const std::string& name)
    {
        Ask& a = add(l, dim::none, name);
        a.finding.unit = "dB";
        // 0 dB is as good a level as any.
        a.scale = [](Solution&, int) { return 1.0; };
        return a;
    }
    static CircuitSolver& solverOf(Solution& s) { return as<CircuitSolver>(s); }

    void spectrum(const Line& l)
    {
        const int from = m_problem.terminalOf(l.get("of"));
        if (from < 0)
            return;
        Ask a = beginAsk(m_model, l, dim::none, "spectrum of " + l.get("of"));
        a.finding.table = "curves";
        a.evaluate = [from](Solution& field, int estimate) {
            auto& s = solverOf(field);
            std::vector<double> list;
            constexpr int places = 41;
            for (int i = 0; i < places; ++i) {
                const Eigen::MatrixXcd S =
                    s.S(estimate, s.problem().frequencyAt(double(i) / (places - 1)));
                for (Eigen::Index k = 0; k < S.rows(); ++k) {
                    list.push_back(S(k, from).real());
                    list.push_back(S(k, from).imag());
                }
            }
            return list;
        };
        a.scale = [](Solution&, int) { return 1.0; };
        a.curves = [from](Solution& field) { return curves(solverOf(field), from); };
        a.files = [](Solution& field) { return files(solverOf(field)); };
        m_asks.push_back(std::move(a));
    }
    static std::string curves(CircuitSolver& s, int from)
    {
        const CircuitProblem& p = s.problem();
        std::string csv = p.byWavelength ? "wavelength (m)" : "f (Hz)";
        const std::string& in = p.terminals[size_t(from)];
        for (const auto& out : p.terminals)
            csv += "," + in + " to " + out + " (dB)," + in + " to " + out + "_re (1)," + in +
                   " to " + out + "_im (1)";
        csv += "\n";
        char text[120];
        const auto& all = s.band(1);
        for (int i = 0; i < p.steps; ++i) {
            std::snprintf(text, sizeof text, "%.12g", p.from + (p.to - p.from) * i / (p.steps - 1));
            csv += text;
            for (Eigen::Index k = 0; k < Eigen::Index(p.terminals.size()); ++k) {
                const auto z = all[size_t(i)](k, from);
                // No wave at all has no level.
                constexpr double nothing = 1e-25;
                const double power = std::norm(z);
                if (power > nothing)
                    std::snprintf(text, sizeof text, ",%.9g,%.9g,%.9g", decibels(power), z.real(),
                                  z.imag());
                else
                    std::snprintf(text, sizeof text, ",,0,0");
                csv += text;
            }
            csv += "\n";
        }
        return csv;
    }
    static std::vector<std::pair<std::string, std::string>> files(CircuitSolver& s)
    {
        const CircuitProblem& p = s.problem();
        network::Network n;
        n.ports = p.terminals;
        n.reference.assign(p.terminals.size(), 50.0);
        for (int i = 0; i < p.steps; ++i) {
            // Files go up in frequency.
            const int at = p.byWavelength ? p.steps - 1 - i : i;
            n.frequency.push_back(p.frequencyAt(double(at) / (p.steps - 1)));
            n.S.push_back(s.band(1)[size_t(at)]);
        }
        return {{"circuit.s" + std::to_string(p.terminals.size()) + "p",
                 network::writeTouchstone(n, network::Touchstone::version1,
                                          {"Yellowhorn " YH_VERSION ": circuit"})}};
    }

    void loss(const Line& l)
    {
        const bool back = l.kind == "return loss";
        const int from = m_problem.terminalOf(l.get(back ? "of" : "from")),
                  to = back ? from : m_problem.terminalOf(l.get("to"));
        if (from < 0 || to < 0)
            return;
        const char* key = l.has("wavelength") ? "wavelength" : "frequency";
        if (!l.has(key)) {
            m_faults.push_back({7611,
                                {l.id, m_problem.byWavelength ? "wavelength" : "frequency", -1},
                                "at which wavelength?",
                                true});
            return;
        }
        const double x = m_model.number(l, key),
                     f = std::string(key) == "wavelength" ? base::c0 / x : x;
        if (f < m_problem.low * (1 - 1e-9) || f > m_problem.high * (1 + 1e-9)) {
            fault(7612, l, key, "this lies outside of the band");
            return;
        }
        const std::string ends =
            back ? " of " + l.get("of") : " from " + l.get("from") + " to " + l.get("to");
        level(l, l.kind + ends + " at " + l.get(key)).evaluate = [from, to, f](Solution& field,
                                                                               int estimate) {
            return std::vector{-decibels(std::norm(solverOf(field).S(estimate, f)(to, from)))};
        };
    }
    bool ends(const Line& l, int& from, int& to)
    {
        from = m_problem.terminalOf(l.get("from"));
        to = m_problem.terminalOf(l.get("to"));
        return from >= 0 && to >= 0;
    }
    void extinction(const Line& l)
    {
        int from = -1, to = -1;
        if (!ends(l, from, to))
            return;
        level(l, "extinction ratio from " + l.get("from") + " to " + l.get("to")).evaluate =
            [from, to](Solution& field, int estimate) {
                auto& s = solverOf(field);
                double least = 1e300, most = 0;
                for (const auto& e : s.extremes(estimate, to, from, true, true))
                    least = std::min(least, e.power);
                for (const auto& e : s.extremes(estimate, to, from, false, true))
                    most = std::max(most, e.power);
                return std::vector{decibels(most) - decibels(least)};
            };
    }
    void range(const Line& l)
    {
        int from = -1, to = -1;
        if (!ends(l, from, to))
            return;
        Ask& a = add(l, m_problem.byWavelength ? dim::length : dim::frequency,
                     "free spectral range from " + l.get("from") + " to " + l.get("to"));
        a.evaluate = [from, to, line = l.id](Solution& field, int estimate) {
            auto& s = solverOf(field);
            auto dark = s.extremes(estimate, to, from, true, false);
            if (dark.size() < 2)
                dark = s.extremes(estimate, to, from, false, false);
            if (dark.size() < 2)
                throw base::Error(7613, "the band holds less than one free spectral range",
                                  {line, {}, -1});
            // The two about the middle.
            size_t k = 1;
            while (k + 1 < dark.size() && dark[k].share < 0.5)
                ++k;
            const auto& p = s.problem();
            return std::vector{std::abs(p.axisAt(p.frequencyAt(dark[k].share)) -
                                        p.axisAt(p.frequencyAt(dark[k - 1].share)))};
        };
    }
};

class CircuitStudy : public MeshlessStudy
{
public:
    explicit CircuitStudy(std::unique_ptr<CircuitProblem> problem) : m_problem(std::move(problem))
    {
    }
    std::string name() const override { return "circuit"; }
    std::unique_ptr<Solution> on(const mesh::Mesh&, const shape::Partition&, int,
                                 base::Progress&) const override
    {
        return std::make_unique<CircuitSolver>(*m_problem);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        return CircuitAsks(model, partition, *m_problem, faults).run();
    }
    /** No part gives out more than goes in. */
    void passiveParts(std::vector<Check>& list) const
    {
        constexpr int places = 41;
        constexpr double rounding = 1e-6;
        const auto& parts = m_problem->circuit[1].parts();
        for (size_t k = 0; k < parts.size(); ++k) {
            double most = 0;
            for (int i = 0; i < places; ++i)
                most = std::max(
                    most,
                    network::gainOf(parts[k].S(m_problem->frequencyAt(double(i) / (places - 1)))));
            if (most > 1 + rounding) {
                char text[160];
                std::snprintf(text, sizeof text,
                              "part %s gives out up to %.3g times the power that goes in",
                              parts[k].name.c_str(), most * most);
                list.push_back(
                    {"passive parts", Check::State::warning, text, m_problem->partLines[k], {}});
            }
        }
        if (list.empty())
            list.push_back({"passive parts",
                            Check::State::good,
                            "no part gives out more power than goes in",
                            -1,
                            {}});
    }

    std::vector<Check> checks(const sheet::Model&, const shape::Partition&, Solution& field,
                              const std::vector<Ask>&) const override
    {
        std::vector<Check> list;
        auto& s = as<CircuitSolver>(field);
        constexpr double rounding = 1e-6;
        passiveParts(list);
        double most = 0, reciprocal = 0;
        for (const auto& S : s.band(1)) {
            most = std::max(most, network::gainOf(S));
            reciprocal = std::max(reciprocal, (S - S.transpose()).cwiseAbs().maxCoeff());
        }
        char text[120];
        std::snprintf(text, sizeof text, "at most %.4g of the power comes out again", most * most);
        list.push_back({"power",
                        most < 1 + rounding ? Check::State::good : Check::State::warning,
                        text,
                        -1,
                        {}});
        if (reciprocal > rounding)
            list.push_back({"reciprocity",
                            Check::State::note,
                            "there and back differ: a part of it is not reciprocal",
                            -1,
                            {}});
        resolution(s, list);
        return list;
    }
    std::string lineQuantity() const override { return {}; }

private:
    /// Whether the points follow the curve: half of them must say what the others do.
    static void resolution(CircuitSolver& s, std::vector<Check>& list)
    {
        const auto& all = s.band(1);
        double worst = 0;
        for (size_t i = 1; i + 1 < all.size(); i += 2)
            worst = std::max(
                worst, (all[i].cwiseAbs() - 0.5 * (all[i - 1].cwiseAbs() + all[i + 1].cwiseAbs()))
                           .cwiseAbs()
                           .maxCoeff());
        constexpr double visible = 0.1;
        char text[120];
        std::snprintf(text, sizeof text,
                      worst < visible
                          ? "points of the curve lie close enough: %.1g of an amplitude between"
                          : "the curve has too few points: amplitudes differ by %.1g from what "
                            "lies beside them",
                      worst);
        list.push_back(
            {"points", worst < visible ? Check::State::good : Check::State::warning, text, -1, {}});
    }

    std::unique_ptr<CircuitProblem> m_problem;
};

}  // namespace

std::unique_ptr<Study> circuitStudy(const sheet::Model& model, const shape::Partition& partition,
                                    base::Faults& faults)
{
    return std::make_unique<CircuitStudy>(CircuitReader(model, partition, faults).run());
}

}  // namespace yh::physics
