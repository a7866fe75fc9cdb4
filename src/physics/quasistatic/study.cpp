#include "physics/common/study.h"
#include "physics/common/ask_maker.h"
#include "physics/common/constants.h"
#include "physics/quasistatic/heat.h"
#include "physics/quasistatic/quasistatic.h"
#include "sheet/schema.h"

#include <algorithm>
#include <cmath>
#include <complex>

namespace yh::physics {

using sheet::Line;
namespace dim = base::dim;

namespace {

QuasistaticSolver& solverOf(Solution& field)
{
    return as<QuasistaticSolver>(field);
}

class QuasistaticAsks : public AskMaker<QuasistaticProblem>
{
public:
    using AskMaker::AskMaker;

    std::vector<Ask> run()
    {
        static const Table<QuasistaticAsks> table = {{"admittance", &QuasistaticAsks::between},
                                                     {"impedance", &QuasistaticAsks::between},
                                                     {"loss factor", &QuasistaticAsks::between},
                                                     {"heating power", &QuasistaticAsks::power},
                                                     {"profile", &QuasistaticAsks::profile}};
        return make(
            table, 7060,
            "an alternating field; ask for an admittance, impedance, loss factor or heating power");
    }

private:
    void profile(const Line& l) { profileOf(l, dim::voltage); }
    using Part = double (*)(std::complex<double> admittance, double omega);
    /// A figure of the admittance between two contacts.
    void addBetween(const Line& l, const std::string& name, const base::Dimension& d, Part part,
                    int a, int b)
    {
        Ask k = beginAsk(m_model, l, d, name);
        k.evaluate = [a, b, part](Solution& field, int order) {
            auto& s = solverOf(field);
            const auto x = s.contact(order, a), y = s.contact(order, b);
            return std::vector{
                part(x.current / (x.voltage - y.voltage), 2 * pi * s.problem().frequency)};
        };
        // A part that vanishes is judged by the size of the whole.
        if (d == dim::conductance || d == dim::resistance)
            k.scale = [a, b, isY = d == dim::conductance](Solution& field, int order) {
                auto& s = solverOf(field);
                const auto x = s.contact(order, a), y = s.contact(order, b);
                const double Y = std::abs(x.current / (x.voltage - y.voltage));
                return isY ? Y : 1 / Y;
            };
        m_asks.push_back(std::move(k));
    }

    void between(const Line& l)
    {
        const int a = m_problem.contactOf(l.get("from")), b = m_problem.contactOf(l.get("to"));
        if (a < 0 || b < 0 || a == b) {
            m_faults.push_back(
                {7061, {l.id, "to", 0}, "an admittance is between two different contacts", false});
            return;
        }
        const std::string ends = " " + l.get("from") + " to " + l.get("to");
        auto add = [&](const std::string& name, const base::Dimension& d, Part part) {
            addBetween(l, name + ends, d, part, a, b);
        };
        if (l.kind == "admittance") {
            add("conductance", dim::conductance,
                [](std::complex<double> y, double) { return y.real(); });
            add("susceptance", dim::conductance,
                [](std::complex<double> y, double) { return y.imag(); });
            add("parallel capacitance", dim::capacitance,
                [](std::complex<double> y, double w) { return y.imag() / w; });
        } else if (l.kind == "impedance") {
            add("resistance", dim::resistance,
                [](std::complex<double> y, double) { return (1.0 / y).real(); });
            add("reactance", dim::resistance,
                [](std::complex<double> y, double) { return (1.0 / y).imag(); });
            add("magnitude of impedance", dim::resistance,
                [](std::complex<double> y, double) { return 1 / std::abs(y); });
        } else {
            add("loss factor", dim::none,
                [](std::complex<double> y, double) { return y.real() / y.imag(); });
        }
    }
    void power(const Line& l)
    {
        std::vector<int> pieces;
        try {
            pieces = m_p.resolve(m_model.place(l, "in"), m_model, {l.id, "in", 0}).pieces;
        } catch (const base::Error& e) {
            m_faults.push_back(e.fault());
        }
        Ask a = beginAsk(m_model, l, dim::power, "heating power in " + l.get("in"));
        a.evaluate = [pieces](Solution& field, int order) {
            return std::vector{solverOf(field).power(order, pieces)};
        };
        m_asks.push_back(std::move(a));
    }
};

class QuasistaticStudy : public Study
{
public:
    explicit QuasistaticStudy(std::unique_ptr<QuasistaticProblem> problem)
        : m_problem(std::move(problem))
    {
    }
    std::string name() const override { return "electroquasistatic"; }
    const std::vector<int>& activePieces() const override { return m_problem->activePieces; }
    std::unique_ptr<Solution> on(const mesh::Mesh& mesh, const shape::Partition& partition,
                                 int order, base::Progress& progress) const override
    {
        return std::make_unique<QuasistaticSolver>(*m_problem, mesh, partition, order, progress);
    }
    std::unique_ptr<HeatGiver> heat(const sheet::Model&, base::Faults&) const override
    {
        return heatOfCurrents(*m_problem);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        return QuasistaticAsks(model, partition, *m_problem, faults).run();
    }
    static Check::State state(bool good) { return good ? Check::State::good : Check::State::bad; }

    static std::string rounded(double x)
    {
        char b[32];
        std::snprintf(b, sizeof b, "%.0e", x);
        return b;
    }

    /// Power at the contacts against the heat inside.
    static Check powerBalance(const QuasistaticSolver& s, const shape::Partition& partition,
                              std::complex<double> apparent)
    {
        const auto& p = s.problem();
        constexpr double closes = 1e-6;
        std::vector<int> all(partition.pieces().size());
        for (size_t f = 0; f < all.size(); ++f)
            all[f] = int(f);
        std::vector<int> sheets;
        for (const auto& [side, layers] : p.sides)
            for (const auto& sheet : layers)
                sheets.push_back(sheet.line);
        const double heat =
                         p.oddShare * (s.power(s.order(), all) + s.sheetPower(s.order(), sheets) +
                                       s.contactPower(s.order())),
                     size = std::abs(apparent);
        const double gap = size > 0 ? std::abs(apparent.real() - heat) / size : 0;
        return {"power balance",
                state(gap < closes),
                "power at the contacts and heat inside agree to " + rounded(gap) +
                    " of the apparent power",
                -1,
                {}};
    }

    std::vector<Check> checks(const sheet::Model&, const shape::Partition& partition,
                              Solution& field, const std::vector<Ask>&) const override
    {
        auto& s = solverOf(field);
        const auto& p = s.problem();
        // Of what lies before the odd planes.
        std::complex<double> sum = s.planeCurrent(s.order()), apparent;
        double most = 0;
        for (size_t k = 0; k < p.contacts.size(); ++k) {
            if (p.contacts[k].behind)
                continue;
            const auto c = s.contact(s.order(), int(k));
            sum += c.current;
            most = std::max(most, std::abs(c.current));
            apparent += 0.5 * c.voltage * std::conj(c.current);
        }
        constexpr double closes = 1e-6;
        std::vector<Check> list;
        const double off = most > 0 ? std::abs(sum) / most : 0;
        list.push_back({"current balance",
                        state(off < closes),
                        "current balances to " + rounded(off),
                        -1,
                        {}});
        list.push_back(powerBalance(s, partition, apparent));
        return list;
    }
    std::vector<SingularCorner> corners(const mesh::Mesh& mesh,
                                        const shape::Partition& partition) const override
    {
        return QuasistaticSolver::corners(*m_problem, mesh, partition);
    }
    std::vector<char> lineSeeds(const shape::Partition& partition) const override
    {
        std::vector<char> seeds(partition.sides().size(), 0);
        for (const auto& g : m_problem->groupList)
            for (const int s : g.sides)
                seeds[size_t(s)] = 1;
        return seeds;
    }
    std::string lineQuantity() const override { return "J"; }
    fem::Measure measure() const override { return m_problem->area; }

private:
    std::unique_ptr<QuasistaticProblem> m_problem;
};

}  // namespace

std::unique_ptr<Study> quasistaticStudy(const sheet::Model& model,
                                        const shape::Partition& partition, base::Faults& faults)
{
    return std::make_unique<QuasistaticStudy>(defineQuasistatic(model, partition, faults));
}

}  // namespace yh::physics
