// Drawn junctions on a given sheet: reading, figures and checks.
#include "physics/common/grid_solution.h"
#include "physics/common/mesh_rung.h"
#include "physics/common/sheet_reader.h"
#include "physics/junction/asks.h"
#include "physics/junction/drawn/carriers.h"

#include <algorithm>
#include <cstdio>

namespace yh::physics {

using sheet::Line;
namespace dim = base::dim;

namespace {

class CarrierReader : SheetReader
{
public:
    using SheetReader::SheetReader;

    struct Read
    {
        std::unique_ptr<CarrierProblem> problem;
        std::vector<int> pieces;  ///< by region of the problem
    };
    Read run()
    {
        auto& p = *m_read.problem;
        readSemiconductor(m_model, m_faults, p);
        p.aboutAxis = m_model.space() == sheet::Space::axisymmetric;
        p.depth = m_model.depth();
        contactPlaces();
        doping();
        sayWithoutMaterial([&](size_t f) { return m_regionOf[f] >= 0 || m_isMetal[f]; },
                           "doping donors 1e15 /cm^3");
        for (const auto& r : p.regions)
            p.isLit = p.isLit || r.generation > 0;
        frame();
        contacts();
        return std::move(m_read);
    }

private:
    /// Regions that contacts lie on are metal.
    void contactPlaces()
    {
        m_isMetal.assign(m_p.pieces().size(), 0);
        m_regionOf.assign(m_p.pieces().size(), -1);
        for (const Line* l : m_model.document().ofKind("ohmic contact")) {
            m_places.push_back(resolve(*l, "on", 7730));
            for (const int f : m_places.back().pieces)
                m_isMetal[size_t(f)] = 1;
        }
    }
    CarrierProblem::Doping dopingOf(const Line* l)
    {
        CarrierProblem::Doping d;
        d.donors = m_model.number(*l, "donors");
        d.acceptors = m_model.number(*l, "acceptors");
        constexpr double heaviest = 1e27;
        if (std::max(d.donors, d.acceptors) > heaviest)
            fault(7705, *l, d.donors > d.acceptors ? "donors" : "acceptors",
                  "more dopants than a hundredth of all atoms: is the unit right?");
        const bool hasFall = l->has("fall"), hasLine = l->has("from");
        if (hasFall != hasLine)
            fault(7731, *l, hasFall ? "from" : "fall",
                  hasFall
                      ? "where is it largest? state a place, as in `largest from 0, 0 to 5 um, 0`"
                      : "over which length does it fall to 1/e? state `falling over …`",
                  true);
        if (hasFall && hasLine) {
            d.fall = m_model.number(*l, "fall");
            d.from = m_model.point(*l, "from");
            d.to = l->has("to") ? m_model.point(*l, "to") : d.from;
        }
        return d;
    }

    void doping()
    {
        auto& p = *m_read.problem;
        for (const Line* l : m_model.document().ofKind("doping")) {
            const CarrierProblem::Doping d = dopingOf(l);
            auto maybe = [&](const char* key) {
                return l->has(key) ? m_model.number(*l, key) : 0.0;
            };
            for (const int f : resolve(*l, "in", 7729).pieces) {
                if (m_isMetal[size_t(f)]) {
                    fault(7733, *l, "in", "this region is metal: a contact lies on it");
                    continue;
                }
                int& region = m_regionOf[size_t(f)];
                if (region < 0) {
                    region = int(p.regions.size());
                    p.regions.emplace_back().outlines = m_p.outlines(f);
                    m_read.pieces.push_back(f);
                }
                auto& r = p.regions[size_t(region)];
                r.doping.push_back(d);
                if (l->has("electron life")) {
                    r.life.electrons = maybe("electron life");
                    r.life.holes = l->has("hole life") ? maybe("hole life") : r.life.electrons;
                }
                if (l->has("electron mobility"))
                    r.electronMobility = maybe("electron mobility");
                if (l->has("hole mobility"))
                    r.holeMobility = maybe("hole mobility");
                r.generation += m_model.number(*l, "generation");
            }
        }
    }
    void frame()
    {
        auto& p = *m_read.problem;
        p.low = {1e300, 1e300};
        p.high = {-1e300, -1e300};
        for (const auto& r : p.regions)
            for (const auto& outline : r.outlines)
                for (const Point& q : outline) {
                    p.low = {std::min(p.low.x, q.x), std::min(p.low.y, q.y)};
                    p.high = {std::max(p.high.x, q.x), std::max(p.high.y, q.y)};
                }
    }
    /// The parts of a contact's sides that bound one region; false where one lies between two.
    bool outside(size_t c, CarrierProblem::Contact& contact) const
    {
        std::vector<int> sides = m_places[c].sides;
        for (const int f : m_places[c].pieces)
            for (const int s : m_p.pieces()[size_t(f)].sides)
                sides.push_back(s);
        bool isOutside = true;
        for (const int s : sides) {
            const auto& at = m_p.sides()[size_t(s)].pieces;
            const auto count = std::count_if(at.begin(), at.end(),
                                             [&](int f) { return m_regionOf[size_t(f)] >= 0; });
            if (count == 2)
                isOutside = false;
            if (count != 1)
                continue;
            const std::vector<Point> line = m_p.polyline(s);
            for (size_t k = 0; k + 1 < line.size(); ++k)
                contact.parts.push_back({line[k], line[k + 1]});
        }
        return isOutside;
    }

    void contacts()
    {
        auto& p = *m_read.problem;
        const auto lines = m_model.document().ofKind("ohmic contact");
        const Line* sweep = m_model.document().first("contact sweep");
        for (size_t c = 0; c < lines.size(); ++c) {
            CarrierProblem::Contact contact{
                lines[c]->name(), m_model.number(*lines[c], "voltage"), {}};
            const bool isOutside = outside(c, contact);
            if (!isOutside)
                fault(7734, *lines[c], "on",
                      "a contact lies on the outside of the semiconductor, not between two regions "
                      "of it");
            else if (contact.parts.empty() && !m_places[c].empty())
                fault(7735, *lines[c], "on", "no semiconductor lies at this contact");
            if (sweep && sweep->get("on") == contact.name)
                p.swept = int(c);
            p.contacts.push_back(std::move(contact));
        }
        if (sweep)
            readBias(m_model, *sweep, m_faults, p);
        constexpr double finest = 1e-9, widest = 0.1;
        const double extent = norm(p.high - p.low);
        if (!p.regions.empty() && (extent < 10 * finest || extent > widest))
            m_faults.push_back(
                {7736,
                 {-1, "shape", -1},
                 "a drawn junction is from 10 nm to 10 cm wide: is the unit right?"});
        constexpr double slender = 1000;
        const Point size = p.high - p.low;
        if (!p.regions.empty() && std::max(size.x, size.y) > slender * std::min(size.x, size.y))
            m_faults.push_back({7740,
                                {-1, "shape", -1},
                                "more than a thousand times as long as high: such a junction is "
                                "solved along a line, by layers"});
        touching(lines);
    }
    /// Contacts that touch would carry a current without limit.
    void touching(const std::vector<const Line*>& lines)
    {
        const auto& all = m_read.problem->contacts;
        const double tiny = 1e-7 * norm(m_read.problem->high - m_read.problem->low);
        for (size_t a = 0; a < all.size(); ++a)
            for (size_t b = a + 1; b < all.size(); ++b)
                for (const auto& s : all[a].parts)
                    for (const auto& t : all[b].parts)
                        for (const Point& p : s)
                            for (const Point& q : t)
                                if (norm(p - q) < tiny) {
                                    fault(7737, *lines[b], "on",
                                          "it touches contact " + all[a].name +
                                              ": the current between them has no limit");
                                    return;
                                }
    }
    Read m_read{std::make_unique<CarrierProblem>(), {}};
    std::vector<shape::Selection> m_places;  ///< by contact
    std::vector<char> m_isMetal;             ///< by piece
    std::vector<int> m_regionOf;             ///< by piece; -1: none
};

class CarrierSolver : public GridSolution, public JunctionCurves
{
public:
    CarrierSolver(const CarrierProblem& problem, const mesh::Mesh& mesh, base::Progress& progress)
        : GridSolution(mesh, {{"V", "potential", "V", 1, "lines of equal potential", true},
                              {"n", "electron density", "1/m^3", 1},
                              {"p", "hole density", "1/m^3", 1},
                              {"J", "current density", "A/m^2", 3},
                              {"E_c", "conduction band", "V", 1},
                              {"E_v", "valence band", "V", 1},
                              {"phi_n", "electron quasi-Fermi level", "V", 1},
                              {"phi_p", "hole quasi-Fermi level", "V", 1}}),
          m_problem(problem),
          m_progress(progress)
    {
    }
    void solve(int, base::Progress& progress) override
    {
        m_grids.clear();
        for (const double fineness : {1.0, 2.0})
            m_grids.push_back(std::make_unique<CarrierGrid>(m_problem, fineness));
        // All points of the curve, which figures and pictures are taken from.
        for (size_t g = 0; g < m_grids.size(); ++g)
            for (int i = 0; i < m_problem.steps; ++i) {
                const double bias = m_problem.biasOf(i);
                progress.report((double(g) * 0.2 + (g == 0 ? 0.2 : 0.8) * i / m_problem.steps),
                                "carriers at " + base::format(bias, dim::voltage, 3));
                static_cast<void>(m_grids[g]->current(bias, progress));
            }
        // Pictures are read by several threads at once: what they need is made beforehand.
        static_cast<void>(m_grids.back()->at(m_problem.low, m_problem.to, progress));
        m_counters.unknowns = 3 * m_grids.back()->size();
    }
    void sample(int cell, const Point& xi, double* values) const override
    {
        const auto v =
            m_grids.back()->at(mesh::Geometry(m_mesh, cell).at(xi), m_problem.to, m_progress);
        const double all[] = {v[0], v[5], v[6], v[7], v[8], 0, v[1], v[2], v[3], v[4]};
        std::copy(std::begin(all), std::end(all), values);
    }
    const JunctionConditions& conditions() const override { return m_problem; }
    const CarrierGrid& grid(int level) const override { return *m_grids[size_t(level)]; }
    base::Progress& progress() const override { return m_progress; }
    int finest() const override { return 1; }
    double estimate(int level, const Figure& figure) const override
    {
        if (level == 0)
            return figure(0);
        // Errors fall by four from grid to grid, by less where contacts end: what would be added
        // counts for more. What Newton's method leaves does not fall.
        constexpr double left = 1e-9, more = 0.2;
        const double fine = figure(1), change = (fine - figure(0)) / 3;
        return level == 1 ? fine * (1 - left) - more * change : fine + change;
    }

private:
    const CarrierProblem& m_problem;
    base::Progress& m_progress;
    std::vector<std::unique_ptr<CarrierGrid>> m_grids;
};

class CarrierAsks : public JunctionAsks
{
public:
    using JunctionAsks::JunctionAsks;

    std::vector<Ask> run()
    {
        static const Rows<CarrierAsks> table = [] {
            Rows<CarrierAsks> rows = commonRows<CarrierAsks>();
            rows["contact current"] = &CarrierAsks::ofContact;
            rows["bands along"] = &CarrierAsks::bandsAlong;
            rows["profile"] = &CarrierAsks::profile;
            return rows;
        }();
        return make(table, 7720,
                    "a drawn junction; ask for a current curve, the current of a contact, an "
                    "ideality factor, a capacitance, or `bands along` a line");
    }

private:
    [[nodiscard]] const CarrierProblem& drawn() const
    {
        return static_cast<const CarrierProblem&>(m_problem);
    }
    void profile(const Line& l) { profileOf(l, dim::voltage); }
    void ofContact(const Line& l)
    {
        const auto& all = drawn().contacts;
        const auto it = std::find_if(all.begin(), all.end(),
                                     [&](const auto& c) { return c.name == l.get("of"); });
        if (it == all.end())
            return;
        const double v = m_model.number(l, "at");
        figure(add(l, dim::current, "current into " + l.get("of") + " at " + l.get("at")),
               [v, c = size_t(it - all.begin())](const JunctionCurves& s, int level) {
                   return static_cast<const CarrierSolver&>(s).grid(level).currentOf(c, v,
                                                                                     s.progress());
               });
    }
    void bandsAlong(const Line& l)
    {
        const double v = m_model.number(l, "at");
        const Point from = m_model.point(l, "from"), to = m_model.point(l, "to");
        if (!(norm(to - from) > 0)) {
            fault(7739, l, "to", "the line ends where it begins");
            return;
        }
        Ask a = beginAsk(m_model, l, dim::none, "bands at " + (l.has("at") ? l.get("at") : "0 V"));
        a.finding.table = "curves";
        a.curves = [=](Solution& field) {
            auto& s = as<CarrierSolver>(field);
            std::string csv =
                "x (m),conduction band (eV),valence band (eV),electron quasi-Fermi level (eV),"
                "hole quasi-Fermi level (eV),abs(n) (1/m^3),abs(p) (1/m^3)\n";
            char row[200];
            constexpr int places = 600;
            for (int i = 0; i <= places; ++i) {
                const double u = double(i) / places;
                const auto b = s.grid(1).at(from + u * (to - from), v, s.progress());
                std::snprintf(row, sizeof row, "%.9g,%.7g,%.7g,%.7g,%.7g,%.7g,%.7g\n",
                              u * norm(to - from), b[1], b[2], b[3], b[4], b[5], b[6]);
                csv += row;
            }
            return csv;
        };
        m_asks.push_back(std::move(a));
    }
};

class CarrierStudy : public Study
{
public:
    explicit CarrierStudy(CarrierReader::Read read)
        : m_problem(std::move(read.problem)), m_pieces(std::move(read.pieces))
    {
    }
    std::string name() const override { return "carriers"; }
    std::unique_ptr<Rung> first(const Ground& ground) const override
    {
        return std::make_unique<DrawnRung>(*this, ground);
    }
    const std::vector<int>& activePieces() const override { return m_pieces; }
    std::unique_ptr<Solution> on(const mesh::Mesh& mesh, const shape::Partition&, int,
                                 base::Progress& progress) const override
    {
        return std::make_unique<CarrierSolver>(*m_problem, mesh, progress);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        return CarrierAsks(model, partition, *m_problem, faults).run();
    }
    /// Cells that show where carriers are.
    std::vector<mesh::SizeRule> cellSizes() const override
    {
        constexpr double share = 1.0 / 40;
        std::vector<mesh::SizeRule> rules;
        for (const int f : m_pieces)
            rules.push_back({f, -1, share * norm(m_problem->high - m_problem->low)});
        return rules;
    }
    std::vector<mesh::LineRule> cellsAlong() const override
    {
        constexpr double cells = 8, finest = 1.0 / 300;
        std::vector<mesh::LineRule> rules;
        for (const auto& d : carrierDetails(*m_problem))
            rules.push_back(
                {d.from, d.to, d.reach,
                 std::max(d.reach / cells, finest * norm(m_problem->high - m_problem->low))});
        return rules;
    }
    fem::Measure measure() const override
    {
        return m_problem->aboutAxis ? fem::Measure::axisymmetric : fem::Measure::plane;
    }
    std::vector<Check> checks(const sheet::Model&, const shape::Partition&, Solution& field,
                              const std::vector<Ask>&) const override
    {
        auto& s = as<CarrierSolver>(field);
        std::vector<Check> list;
        auto add = [&list](const char* id, Check::State state, const std::string& text) {
            list.push_back({id, state, text, -1, {}});
        };
        double worst = 0;
        for (int i = 0; i < m_problem->steps; ++i)
            if (const double v = m_problem->biasOf(i); std::abs(v) > m_problem->thermal())
                worst = std::max(worst, s.grid(1).unevenness(v, s.progress()));
        char text[200];
        std::snprintf(text, sizeof text, "the currents of all contacts add up to nothing to %.0e",
                      worst);
        add("current continuity", worst < 1e-5 ? Check::State::good : Check::State::warning, text);
        add("state", Check::State::note,
            "drawn at " + base::format(m_problem->to, dim::voltage, 4) + " of contact " +
                m_problem->contacts[size_t(m_problem->swept)].name + ", where the curves end");
        add("semiconductor", Check::State::note, semiconductorText(*m_problem));
        constexpr double degenerate = 2e25;
        double heaviest = 0;
        for (const auto& r : m_problem->regions) {
            double here = 0;
            for (const auto& d : r.doping)
                here += std::max(d.donors, d.acceptors);
            heaviest = std::max(heaviest, here);
        }
        if (heaviest > degenerate)
            add("doping", Check::State::warning,
                "the heaviest doping is degenerate: Boltzmann statistics and an unchanged gap err "
                "there");
        const auto coarse = s.grid(0).lines(), fine = s.grid(1).lines();
        std::snprintf(text, sizeof text, "grids of %zu × %zu and %zu × %zu lines", coarse[0],
                      coarse[1], fine[0], fine[1]);
        add("grids", Check::State::note, text);
        return list;
    }

private:
    std::unique_ptr<CarrierProblem> m_problem;
    std::vector<int> m_pieces;
};

}  // namespace

std::unique_ptr<Study> junctionDrawnStudy(const sheet::Model& model,
                                          const shape::Partition& partition, base::Faults& faults)
{
    return std::make_unique<CarrierStudy>(CarrierReader(model, partition, faults).run());
}

}  // namespace yh::physics
