#include "physics/electrostatic/asks.h"

#include "fem/dense.h"
#include "physics/common/ask_maker.h"
#include "physics/common/constants.h"
#include "physics/electrostatic/discharge.h"
#include "sheet/schema.h"
#include "sheet/sentence.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

using sheet::Line;
namespace dim = base::dim;

namespace {

/// A conductor of the whole device: one of the model, or its image behind an odd plane.
struct Terminal
{
    int conductor = 0;
    double sign = 1.0;  ///< -1: the image
    std::string name;
};

std::vector<Terminal> terminalsOf(const ElectrostaticProblem& problem,
                                  const std::map<std::string, std::string>& image)
{
    std::vector<Terminal> list;
    for (size_t k = 0; k < problem.conductors.size(); ++k) {
        const Conductor& c = problem.conductors[k];
        if (!c.image && (!c.hidden || c.kind == Conductor::Kind::floating))
            list.push_back({int(k), 1.0, c.name});
    }
    if (problem.even)
        for (size_t i = 0, n = list.size(); i < n; ++i)
            if (const Conductor& c = problem.conductors[size_t(list[i].conductor)]; !c.onPlane) {
                const auto named = image.find(c.name);
                list.push_back({list[i].conductor, -1.0,
                                named == image.end() ? c.name + " (image)" : named->second});
            }
    return list;
}

/// Figures of all pairs of conductors of a model and, behind an odd mirror plane, of the model with
/// the even potentials.
struct PairFigures
{
    std::vector<double> odd, even;
    bool signless = false;  ///< sizes, of which none are taken away from each other
};

/// Capacitance between two conductors of the whole device. The potentials that are even and odd
/// about the plane are solved apart: with C_e and C_o the matrices of the model with either kind,
/// charges of both halves counted, C = (C_e + C_o) / 4 on one side and (C_e - C_o) / 4 across. What
/// the plane cuts carries no odd potential.
double wholeEntry(const ElectrostaticSolver& solver, const PairFigures& figures, const Terminal& a,
                  const Terminal& b)
{
    const ElectrostaticProblem& problem = solver.problem();
    const size_t n = problem.conductors.size();
    const double odd = figures.odd[size_t(a.conductor) * n + size_t(b.conductor)];
    if (!problem.even)
        return odd;
    const ElectrostaticSolver& other = solver.even();
    auto place = [&](const Terminal& t) {
        return size_t(other.problem().conductorOf(problem.conductors[size_t(t.conductor)].name));
    };
    const double even = figures.even[place(a) * other.problem().conductors.size() + place(b)];
    const bool cutA = problem.conductors[size_t(a.conductor)].onPlane,
               cutB = problem.conductors[size_t(b.conductor)].onPlane;
    if (cutA || cutB)
        return cutA && cutB ? even : even / 2;
    return (even + (figures.signless ? 1 : a.sign * b.sign) * odd) / 4;
}

PairFigures capacitancesOf(const ElectrostaticSolver& solver, int order)
{
    return {solver.at(order).C,
            solver.problem().even ? solver.even().at(order).C : std::vector<double>(), false};
}

}  // namespace

double ReducedMatrix::entry(const std::string& a, const std::string& b) const
{
    const auto place = [&](const std::string& name) {
        return size_t(std::find(names.begin(), names.end(), name) - names.begin());
    };
    YH_ASSERT(place(a) < names.size() && place(b) < names.size(), "conductors of the matrix");
    return C[place(a) * names.size() + place(b)];
}

ReducedMatrix reducedMatrix(const ElectrostaticSolver& solver, int order,
                            const std::map<std::string, std::string>& image, bool keepFloating)
{
    const ElectrostaticProblem& problem = solver.problem();
    std::vector<Terminal> kept, gone;
    for (const Terminal& t : terminalsOf(problem, image)) {
        const Conductor& c = problem.conductors[size_t(t.conductor)];
        if (c.kind == Conductor::Kind::floating && !(keepFloating && c.isListed()))
            gone.push_back(t);
        else if (!c.hidden)
            kept.push_back(t);
    }
    const PairFigures C = capacitancesOf(solver, order);
    auto block = [&](const std::vector<Terminal>& rows, const std::vector<Terminal>& columns) {
        Eigen::MatrixXd m(Eigen::Index(rows.size()), Eigen::Index(columns.size()));
        for (size_t i = 0; i < rows.size(); ++i)
            for (size_t j = 0; j < columns.size(); ++j)
                m(Eigen::Index(i), Eigen::Index(j)) = wholeEntry(solver, C, rows[i], columns[j]);
        return m;
    };
    Eigen::MatrixXd A = block(kept, kept);
    if (!gone.empty()) {
        const Eigen::MatrixXd B = block(kept, gone);
        A -= fem::times(B, fem::solvedSymmetric(block(gone, gone), B.transpose()));
    }
    ReducedMatrix r;
    for (const Terminal& t : kept)
        r.names.push_back(t.name);
    for (Eigen::Index i = 0; i < A.rows(); ++i)
        for (Eigen::Index j = 0; j < A.cols(); ++j)
            r.C.push_back(A(i, j));
    return r;
}

namespace {

/// Permittivity above which a medium is no gas.
constexpr double mostOfAGas = 1.01 * physics::eps0;

/// Asks of this file only ever meet the solver that they were made for.
ElectrostaticSolver& solverOf(Solution& field)
{
    return as<ElectrostaticSolver>(field);
}

/// What the highest order changes in each entry of a matrix, whatever the signs of cells' parts;
/// empty where conductors of unknown potential are eliminated from it.
std::vector<double> uncancelledEntries(const ElectrostaticSolver& solver,
                                       const std::map<std::string, std::string>& image)
{
    const ElectrostaticProblem& problem = solver.problem();
    const std::vector<Terminal> all = terminalsOf(problem, image);
    for (const Terminal& t : all)
        if (!problem.conductors[size_t(t.conductor)].isListed())
            return {};
    const PairFigures changes{
        solver.uncancelledChanges(),
        problem.even ? solver.even().uncancelledChanges() : std::vector<double>(), true};
    std::vector<double> list;
    for (const Terminal& a : all)
        for (const Terminal& b : all)
            list.push_back(wholeEntry(solver, changes, a, b));
    return list;
}

class ElectrostaticAsks : public AskMaker<ElectrostaticProblem>
{
public:
    using AskMaker::AskMaker;

    std::vector<Ask> run()
    {
        static const Table<ElectrostaticAsks> table = {
            {"capacitance", &ElectrostaticAsks::capacitance},
            {"capacitance matrix", &ElectrostaticAsks::matrices},
            {"charge", &ElectrostaticAsks::conductorFigure},
            {"voltage", &ElectrostaticAsks::conductorFigure},
            {"energy", &ElectrostaticAsks::energy},
            {"largest field", &ElectrostaticAsks::regionField},
            {"mean field", &ElectrostaticAsks::regionField},
            {"inception voltage", &ElectrostaticAsks::dischargeVoltage},
            {"breakdown voltage", &ElectrostaticAsks::dischargeVoltage},
            {"potential at", &ElectrostaticAsks::pointValue},
            {"field at", &ElectrostaticAsks::pointValue},
            {"force", &ElectrostaticAsks::force},
            {"torque", &ElectrostaticAsks::force},
            {"profile", &ElectrostaticAsks::profile}};
        return make(table, 7008,
                    "the electrostatic field; ask for capacitances, charges, fields, forces or "
                    "voltages of discharge");
    }

private:
    Ask begin(const Line& l, const base::Dimension& d, const std::string& name) const
    {
        return beginAsk(m_model, l, d, name);
    }

    /// Which line stands for the image of which conductor behind the odd plane: found in the
    /// uncut device, where each image lies mirrored on its conductor.
    void findImages()
    {
        if (!m_problem.even || m_imagesKnown)
            return;
        m_imagesKnown = true;
        sheet::Document whole = m_model.document();
        std::erase_if(whole.lines, [](const Line& l) {
            return l.kind == "mirror plane" && l.get("kind") == "odd";
        });
        const sheet::Model uncut(whole);
        const auto partition = shape::Partition::build(uncut, m_p.folder());
        auto pointsOf = [&](const Conductor& c) {
            std::vector<Point> points;
            const Line& l = *whole.find(c.line);
            const auto s = partition.resolve(uncut.place(l, "on"), uncut, {l.id, "on", 0});
            std::vector<int> sides = s.sides;
            for (const int f : s.pieces)
                for (const int e : partition.pieces()[size_t(f)].sides)
                    sides.push_back(e);
            for (const int e : sides)
                for (const Point& q :
                     partition.dimension() == 2 ? partition.polyline(e) : partition.samples(e))
                    points.push_back(q);
            return points;
        };
        for (const Conductor& b : m_problem.conductors) {
            if (!b.image)
                continue;
            std::vector<Point> there = pointsOf(b);
            for (Point& q : there)
                q = {m_problem.odd[0] ? -q.x : q.x, m_problem.odd[1] ? -q.y : q.y,
                     m_problem.odd[2] ? -q.z : q.z};
            for (const Conductor& a : m_problem.conductors)
                if (!a.image && a.line >= 0 && !a.hidden && !m_images.count(a.name) &&
                    isSameOutline(there, pointsOf(a), 3e-3 * partition.size()))
                    m_images[a.name] = b.name;
        }
    }
    /// Whether two sets of points on outlines fill the same box.
    static bool isSameOutline(const std::vector<Point>& a, const std::vector<Point>& b, double near)
    {
        auto box = [](const std::vector<Point>& points) {
            std::array<double, 6> r{1e300, 1e300, 1e300, -1e300, -1e300, -1e300};
            for (const Point& p : points) {
                const double x[3] = {p.x, p.y, p.z};
                for (size_t k = 0; k < 3; ++k) {
                    r[k] = std::min(r[k], x[k]);
                    r[k + 3] = std::max(r[k + 3], x[k]);
                }
            }
            return r;
        };
        const auto u = box(a), v = box(b);
        for (size_t k = 0; k < 6; ++k)
            if (!(std::abs(u[k] - v[k]) < near))
                return false;
        return true;
    }
    /// Odd planes in two directions would need four parities.
    bool hasWhole(const Line& l)
    {
        if (int(m_problem.odd[0]) + int(m_problem.odd[1]) + int(m_problem.odd[2]) > 1) {
            fault(7010, l, {},
                  "with odd mirror planes in two directions only charges and voltages are worked "
                  "out; make one of them even or model more of the device");
            return false;
        }
        findImages();
        bool whole = true;
        for (const Conductor& c : m_problem.conductors)
            if (c.image && std::none_of(m_images.begin(), m_images.end(),
                                        [&](const auto& pair) { return pair.second == c.name; })) {
                fault(7012, l, {},
                      "'" + c.name +
                          "' lies behind the odd mirror plane, but is not the mirror image of any "
                          "electrode before it");
                whole = false;
            }
        return whole;
    }

    /// Mutual capacitances of Maxwell's; the rest of a row is the capacitance to ground (walls,
    /// infinity).
    static std::vector<double> mutualOf(const std::vector<double>& C, size_t n)
    {
        std::vector<double> v(C.size());
        for (size_t i = 0; i < n; ++i) {
            double sum = 0;
            for (size_t j = 0; j < n; ++j)
                sum += C[i * n + j];
            for (size_t j = 0; j < n; ++j)
                v[i * n + j] = i == j ? sum : -C[i * n + j];
        }
        return v;
    }

    void matrix(const Line& l, bool mutual)
    {
        if (!hasWhole(l))
            return;
        Ask a =
            begin(l, dim::capacitance, mutual ? "mutual capacitance matrix" : "capacitance matrix");
        a.finding.label = mutual ? "mutual capacitances" : "Maxwell capacitances";
        a.allDrives = true;
        for (const Terminal& t : terminalsOf(m_problem, m_images)) {
            const Conductor& c = m_problem.conductors[size_t(t.conductor)];
            if (c.isListed())
                a.finding.conductors.push_back(t.name);
        }
        a.evaluate = [mutual, images = m_images](Solution& field, int order) {
            const ReducedMatrix r = reducedMatrix(solverOf(field), order, images, true);
            return mutual ? mutualOf(r.C, r.names.size()) : r.C;
        };
        a.uncancelled = [mutual, images = m_images](Solution& field) {
            std::vector<double> changes = uncancelledEntries(solverOf(field), images);
            // What is left to ground is no energy.
            const auto n = size_t(std::lround(std::sqrt(double(changes.size()))));
            for (size_t i = 0; i < n && mutual; ++i)
                changes[i * n + i] = 0;
            return changes;
        };
        if (mutual)
            a.finding.note = "diagonal: to ground";
        m_asks.push_back(std::move(a));
    }

    void matrices(const Line& l)
    {
        matrix(l, false);
        matrix(l, true);
    }
    void capacitance(const Line& l)
    {
        const std::string from = l.get("from"), to = l.get("to");
        const int a = m_problem.conductorOf(from), b = to.empty() ? -1 : m_problem.conductorOf(to);
        if (a < 0 || (!to.empty() && b < 0) || a == b) {
            fault(7011, l, "to",
                  a == b ? "a capacitance is between two different electrodes"
                         : "this electrode is not there");
            return;
        }
        if (!hasWhole(l))
            return;
        auto isFloating = [&](int k) {
            return k >= 0 && m_problem.conductors[size_t(k)].kind == Conductor::Kind::floating;
        };
        Ask k = begin(l, dim::capacitance,
                      to.empty() ? "capacitance of " + from : "capacitance " + from + " to " + to);
        k.allDrives = true;
        k.evaluate = [from, to, keep = isFloating(a) || isFloating(b), images = m_images](
                         Solution& field, int order) {
            const ReducedMatrix r = reducedMatrix(solverOf(field), order, images, keep);
            return std::vector{to.empty() ? r.entry(from, from) : -r.entry(from, to)};
        };
        m_asks.push_back(std::move(k));
    }

    void conductorFigure(const Line& l)
    {
        const int k = m_problem.conductorOf(l.get("of"));
        if (k < 0 || m_problem.conductors[size_t(k)].image) {
            fault(7013, l, "of", "'" + l.get("of") + "' is not in the modelled part");
            return;
        }
        const bool charge = l.kind == "charge";
        Ask a = begin(l, charge ? dim::charge : dim::voltage,
                      (charge ? "charge of " : "potential of ") + l.get("of"));
        a.allDrives = true;
        // The scale counts both halves; behind an odd plane lies the image, not this conductor.
        const double share = (m_problem.odd[0] ? 0.5 : 1.0) * (m_problem.odd[1] ? 0.5 : 1.0);
        a.evaluate = [k, charge, share](Solution& field, int order) {
            auto& s = solverOf(field);
            return std::vector{charge ? share * s.at(order).charge[size_t(k)]
                                      : s.at(order).voltage[size_t(k)]};
        };
        if (charge) {
            a.secondRoute = [k, share](Solution& field) {
                auto& s = solverOf(field);
                return std::vector{share * s.surfaceFlux(s.order(), k)};
            };
            a.secondRouteName = "the flux of D through its surface";
        }
        m_asks.push_back(std::move(a));
    }

    void energy(const Line& l)
    {
        Ask a = begin(l, dim::energy, "stored energy");
        a.evaluate = [](Solution& field, int order) {
            auto& s = solverOf(field);
            return std::vector{s.at(order).energy};
        };
        m_asks.push_back(std::move(a));
    }

    std::vector<int> piecesOf(const Line& l, const std::string& key)
    {
        try {
            return m_p.resolve(m_model.place(l, key), m_model, {l.id, key, 0}).pieces;
        } catch (const base::Error& e) {
            m_faults.push_back(e.fault());
            return {};
        }
    }

    /// Pieces of an ask that carry field; none with a fault.
    std::vector<int> fieldPieces(const Line& l)
    {
        std::vector<int> faces = piecesOf(l, "in");
        const size_t picked = faces.size();
        std::erase_if(faces, [&](int f) {
            return std::find(m_problem.activePieces.begin(), m_problem.activePieces.end(), f) ==
                   m_problem.activePieces.end();
        });
        if (faces.empty())
            fault(7014, l, "in",
                  picked > 0 ? "'" + l.get("in") + "' is a conductor: its field is zero"
                             : "'" + l.get("in") + "' picks no region");
        return faces;
    }

    void regionField(const Line& l)
    {
        const bool largest = l.kind == "largest field";
        const std::vector<int> faces = fieldPieces(l);
        if (faces.empty())
            return;
        Ask a = begin(l, dim::electricField,
                      (largest ? "largest |E| in " : "mean |E| in ") + l.get("in"));
        a.degree = largest ? 1 : 2;
        if (largest)
            a.where = [faces](Solution& field, int order) {
                const auto e = solverOf(field).largestField(order, faces);
                return mesh::Locator::Hit{e.cell, e.xi};
            };
        a.evaluate = [faces, largest](Solution& field, int order) {
            auto& s = solverOf(field);
            return std::vector{largest ? s.largestField(order, faces).value
                                       : s.meanField(order, faces)};
        };
        if (largest)
            a.local = [faces](Solution& field, const mesh::Locator&, const std::any&) {
                auto& s = solverOf(field);
                const auto e = s.largestField(s.order(), faces);
                const Point E = s.field(s.order(), e.cell, e.xi);
                const double n = norm(E);
                return std::vector<LocalFunctional>{
                    {{e.cell, e.xi}, n > 0 ? (1 / n) * E : Point{1}}};
            };
        m_asks.push_back(std::move(a));
    }

    void dischargeVoltage(const Line& l)
    {
        const int a = m_problem.conductorOf(l.get("from")),
                  b = l.has("to") ? m_problem.conductorOf(l.get("to")) : -1;
        if (a < 0 || (l.has("to") && b < 0) || a == b) {
            fault(7011, l, "to",
                  a == b ? "a voltage is between two different electrodes"
                         : "this electrode is not there");
            return;
        }
        if (m_problem.hasFixedCharge()) {
            fault(7017, l, {},
                  "with fixed charge the field is not proportional to the voltages, and no voltage "
                  "stands for the start of a discharge; leave the charge out");
            return;
        }
        const std::vector<int> gas = fieldPieces(l);
        if (gas.empty())
            return;
        for (const int f : gas)
            if (const fem::Coefficient& eps = m_problem.eps[size_t(f)];
                eps.at || eps.constant.xx > mostOfAGas) {
                fault(7009, l, "in",
                      "the laws of discharge here are those of air; '" + l.get("in") + "' holds " +
                          m_problem.material[size_t(f)]);
                return;
            }
        const bool crosses = l.kind == "breakdown voltage";
        constexpr double bar = 1e5, room = 293.15;
        const double density =
            m_model.number(l, "pressure") / bar * room / m_model.number(l, "temperature");
        Ask k = begin(l, dim::voltage,
                      l.kind + " of " + l.get("from") + (b >= 0 ? " to " + l.get("to") : ""));
        k.degree = 1;
        k.evaluate = [=, partition = m_p, line = l.id](Solution& field, int order) {
            auto& s = solverOf(field);
            const auto d = physics::discharge(s, order, gas, density, crosses, partition);
            const auto& v = s.at(order).voltage;
            const double driven = v[size_t(a)] - (b >= 0 ? v[size_t(b)] : 0.0);
            if (driven == 0)
                throw base::Error(7018, "there is no voltage between these electrodes",
                                  {line, "to", 0});
            if (d.factor <= 0)
                throw base::Error(7019,
                                  crosses ? "no field line in this air joins two conductors, so "
                                            "that it cannot break down alone"
                                          : "there is no field in this air",
                                  {line, "in", 0});
            return Evaluated({std::abs(d.factor * driven)}, d);
        };
        // Where it begins the field matters most.
        k.local = [](Solution& field, const mesh::Locator&, const std::any& with) {
            auto& s = solverOf(field);
            const auto& foot = std::any_cast<const Discharge&>(with).line.foot;
            const Point E = s.field(s.order(), foot.cell, foot.xi);
            return std::vector<LocalFunctional>{{foot, (1 / std::max(1e-300, norm(E))) * E}};
        };
        k.reduce = [density, solid = m_p.dimension() == 3](Finding& f, const std::any& with) {
            const auto& found = std::any_cast<const Discharge&>(with);
            const auto& line = found.line;
            f.error[0] += found.unsure * f.value[0];
            f.at = {line.start.x, line.start.y};
            if (solid)
                f.at.push_back(line.start.z);
            f.note = "along a field line of " + base::format(line.whole, dim::length, 3) +
                     " from " + base::format(line.start.x, dim::length, 3) + ", " +
                     base::format(line.start.y, dim::length, 3) +
                     (solid ? ", " + base::format(line.start.z, dim::length, 3) : "");
            // Shorter gaps fail by electrons from the electrode (Paschen's minimum).
            constexpr double shortest = 1e-4;
            if (line.whole * density < shortest)
                f.note += "; so short a gap fails earlier, by electrons from its surfaces";
            f.note += "; air itself scatters by some 4 %";
        };
        m_asks.push_back(std::move(k));
    }

    void pointValue(const Line& l)
    {
        const bool potential = l.kind == "potential at";
        const Point p = m_model.point(l, "at");
        Ask a = begin(l, potential ? dim::voltage : dim::electricField,
                      (potential ? "potential at " : "|E| at ") + l.get("at"));
        a.degree = 1;
        const int line = l.id;
        a.evaluate = [p, potential, line](Solution& field, int order) {
            auto& s = solverOf(field);
            const auto hit =
                mesh::Locator(s.space().mesh()).find(s.partition().openShell().drawn(p));
            if (hit.cell < 0)
                throw base::Error(7015,
                                  "the point lies in no region that carries field: in a conductor, "
                                  "or outside the drawing",
                                  {line, "at", 0});
            if (potential)
                return std::vector{s.potential(order, hit)};
            return std::vector{norm(s.realField(order, hit.cell, hit.xi))};
        };
        a.local = [p, potential](Solution& field, const mesh::Locator& locator, const std::any&) {
            auto& s = solverOf(field);
            const shape::OpenShell& shell = s.partition().openShell();
            const auto hit = locator.find(shell.drawn(p));
            if (hit.cell < 0)
                return std::vector<LocalFunctional>{};
            const Point E = potential ? Point{} : s.realField(s.order(), hit.cell, hit.xi);
            const double n = norm(E);
            Point along = n > 0 ? (1 / n) * E : Point{};
            if (s.isFarShell(hit.cell))
                along =
                    shell.stretchAt(mesh::Geometry(s.mesh(), hit.cell).at(hit.xi)).shrunk(along);
            return std::vector<LocalFunctional>{{hit, along}};
        };
        m_asks.push_back(std::move(a));
    }

    void force(const Line& l)
    {
        const std::vector<int> faces = piecesOf(l, "on");
        if (faces.empty()) {
            fault(7016, l, "on", "'" + l.get("on") + "' picks no region to act on");
            return;
        }
        const bool torque = l.kind == "torque",
                   axi = m_problem.measure == fem::Measure::axisymmetric,
                   solid = m_p.dimension() == 3;
        const Point about = torque ? m_model.point(l, "about") : Point{};
        const WholeBody whole(m_p, faces, m_problem.mirror, m_problem.wedges);
        const std::string on = l.get("on");
        const std::vector<ForcePart> parts = forceParts(torque, solid, axi);
        auto figure = [whole, about, torque](const BodyForce& f) {
            const auto w = whole.of(f);
            return torque ? w.torque - cross(about, w.force) : w.force;
        };
        for (const ForcePart& part : parts) {
            Ask a = begin(l, torque ? dim::torque : dim::force, part.name + on);
            a.finding.unit = part.unit();
            a.degree = solid ? 2 : 1;
            a.evaluate = [faces, figure, c = part.component](Solution& field, int order) {
                return std::vector{figure(solverOf(field).forceByVirtualWork(order, faces)).*c};
            };
            if (parts.size() > 1)
                a.scale = [faces, figure](Solution& field, int order) {
                    return norm(figure(solverOf(field).forceByVirtualWork(order, faces)));
                };
            if (solid)
                a.local = [motion = motionOf(faces, [&](const BodyForce& f) {
                               return figure(f).*part.component;
                           })](Solution&, const mesh::Locator&, const std::any&) {
                    return movedBy(motion);
                };
            a.secondRoute = [faces, figure, c = part.component](Solution& field) {
                auto& s = solverOf(field);
                return std::vector{figure(s.forceBySurfaceStress(s.order(), faces)).*c};
            };
            a.secondRouteName = "the stress on its surface";
            m_asks.push_back(std::move(a));
        }
    }

    void profile(const Line& l)
    {
        Ask a = begin(l, dim::voltage, "profile " + l.get("from") + " to " + l.get("to"));
        a.finding.table = "profile";  // the store gives it its file
        m_asks.push_back(std::move(a));
    }

    std::map<std::string, std::string> m_images;  ///< conductor -> name of its image's line
    bool m_imagesKnown = false;
};

}  // namespace

std::vector<Ask> makeElectrostaticAsks(const sheet::Model& model, const shape::Partition& partition,
                                       const ElectrostaticProblem& problem, base::Faults& faults)
{
    return ElectrostaticAsks(model, partition, problem, faults).run();
}

}  // namespace yh::physics
