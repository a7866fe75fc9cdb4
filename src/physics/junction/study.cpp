// Junctions on a given sheet: reading, figures and checks.
#include "physics/common/study.h"
#include "physics/common/meshless.h"
#include "physics/junction/asks.h"
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
        readSemiconductor(m_model, m_faults, *m_problem);
        for (const Line* l : d.ofKind("semiconductor layer"))
            layer(*l);
        if (const Line* l = d.first("device area"))
            m_problem->area = m_model.number(*l, "value");
        if (const Line* l = d.first("bias")) {
            m_problem->biasLeft = l->get("end") == "left";
            readBias(m_model, *l, m_faults, *m_problem);
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
        j.life.electrons = maybe("electron life");
        j.life.holes = l.has("hole life") ? maybe("hole life") : j.life.electrons;
        const double all = j.donors + j.acceptors;
        j.electronMobility = l.has("electron mobility") ? maybe("electron mobility")
                                                        : m_problem->material.electrons.at(all);
        j.holeMobility =
            l.has("hole mobility") ? maybe("hole mobility") : m_problem->material.holes.at(all);
        j.generation = m_model.number(l, "generation");
        m_problem->isLit = m_problem->isLit || j.generation > 0;
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

class JunctionSolver : public MeshlessSolution, public JunctionCurves
{
public:
    JunctionSolver(const JunctionProblem& problem, base::Progress& progress)
        : m_problem(problem), m_progress(progress)
    {
    }
    void solve(int, base::Progress&) override
    {
        for (int k = 0; k < levels; ++k)
            m_grids.push_back(std::make_unique<LineGrid>(m_problem, k));
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

    const JunctionConditions& conditions() const override { return m_problem; }
    const LineGrid& grid(int level) const override { return *m_grids[size_t(level)]; }
    base::Progress& progress() const override { return m_progress; }
    int finest() const override { return levels - 1; }
    double estimate(int level, const Figure& figure) const override { return figure(level); }

private:
    const JunctionProblem& m_problem;
    base::Progress& m_progress;
    std::vector<std::unique_ptr<LineGrid>> m_grids;
};

class LineAsks : public JunctionAsks
{
public:
    using JunctionAsks::JunctionAsks;

    std::vector<Ask> run()
    {
        static const Rows<LineAsks> table = [] {
            Rows<LineAsks> rows = commonRows<LineAsks>();
            rows["band diagram"] = &LineAsks::bands;
            return rows;
        }();
        return make(table, 7720,
                    "a junction; ask for a current curve, an ideality factor, a capacitance or "
                    "bands");
    }

private:
    void bands(const Line& l)
    {
        const double v = m_model.number(l, "at");
        Ask a = beginAsk(m_model, l, dim::none, "bands at " + (l.has("at") ? l.get("at") : "0 V"));
        a.finding.table = "curves";
        a.curves = [v](Solution& field) {
            auto& s = as<JunctionSolver>(field);
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

class JunctionStudy : public MeshlessStudy
{
public:
    explicit JunctionStudy(std::unique_ptr<JunctionProblem> problem) : m_problem(std::move(problem))
    {
    }
    std::string name() const override { return "junction"; }
    std::unique_ptr<Solution> on(const mesh::Mesh&, const shape::Partition&, int,
                                 base::Progress& progress) const override
    {
        return std::make_unique<JunctionSolver>(*m_problem, progress);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        return LineAsks(model, partition, *m_problem, faults).run();
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
            if (std::abs(m_problem->biasOf(i)) > m_problem->thermal())
                worst = std::max(worst,
                                 s.grid(levels - 1).unevenness(m_problem->biasOf(i), s.progress()));
        if (worst > 0)
            std::snprintf(text, sizeof text,
                          "the current is the same from contact to contact to %.0e", worst);
        else
            std::snprintf(text, sizeof text,
                          "the current is the same from contact to contact to rounding");
        add("current continuity", worst < 1e-6 ? Check::State::good : Check::State::warning, text);
        add("semiconductor", Check::State::note, semiconductorText(*m_problem));
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
};

}  // namespace

std::unique_ptr<Study> junctionStudy(const sheet::Model& model, const shape::Partition&,
                                     base::Faults& faults)
{
    return std::make_unique<JunctionStudy>(JunctionReader(model, faults).run());
}

}  // namespace yh::physics
