#include "run/asks.h"

#include "sheet/schema.h"
#include "sheet/sentence.h"

#include <Eigen/Dense>

#include <algorithm>
#include <cmath>

namespace yh::run {

using physics::Conductor;
using physics::ElectrostaticProblem;
using physics::ElectrostaticSolver;
using physics::Field;
using physics::Point;
using physics::PointFunctional;
using physics::Potentials;
using sheet::Line;
namespace dim = base::dim;

ReducedMatrix reducedMatrix(const ElectrostaticProblem& problem, const Potentials& p,
                            bool keepFloating)
{
    const int n = int(problem.conductors.size());
    ReducedMatrix r;
    std::vector<int> gone;
    for (int k = 0; k < n; ++k) {
        const Conductor& c = problem.conductors[size_t(k)];
        if (c.image)
            continue;
        if (c.kind == Conductor::Kind::floating && (!keepFloating || c.line < 0 || c.hidden)) {
            gone.push_back(k);
        } else if (!c.hidden) {
            r.index.push_back(k);
            r.names.push_back(c.name);
        }
    }
    const auto m = Eigen::Index(r.index.size()), g = Eigen::Index(gone.size());
    auto entry = [&](int a, int b) { return p.C[size_t(a * n + b)]; };
    Eigen::MatrixXd A(m, m), B(m, g), D(g, g);
    for (Eigen::Index i = 0; i < m; ++i)
        for (Eigen::Index j = 0; j < m; ++j)
            A(i, j) = entry(r.index[size_t(i)], r.index[size_t(j)]);
    for (Eigen::Index i = 0; i < m; ++i)
        for (Eigen::Index j = 0; j < g; ++j)
            B(i, j) = entry(r.index[size_t(i)], gone[size_t(j)]);
    for (Eigen::Index i = 0; i < g; ++i)
        for (Eigen::Index j = 0; j < g; ++j)
            D(i, j) = entry(gone[size_t(i)], gone[size_t(j)]);
    if (g > 0)
        A -= B * D.ldlt().solve(B.transpose());
    for (Eigen::Index i = 0; i < m; ++i)
        for (Eigen::Index j = 0; j < m; ++j)
            r.C.push_back(A(i, j));
    return r;
}

Ask beginAsk(const sheet::Model& model, const Line& l, const base::Dimension& d,
             const std::string& name)
{
    Ask a;
    a.finding.line = l.id;
    a.finding.name = a.finding.label = name;
    a.finding.unit = base::siUnit(d);
    a.dimension = d;
    const sheet::Kind* kind = sheet::findKind(l.kind);
    if (kind->field("within"))
        a.finding.within = model.number(l, "within");
    for (const auto& [key, limit] :
         {std::pair{"below", &Finding::below}, {"above", &Finding::above}})
        if (kind->field(key))
            if (const auto v = model.optionalNumber(l, key))
                a.finding.*limit = *v;
    return a;
}

namespace {

/// Asks of this file only ever meet the solver that they were made for.
ElectrostaticSolver& solverOf(Field& field)
{
    return static_cast<ElectrostaticSolver&>(field);
}

class AskMaker
{
public:
    AskMaker(const sheet::Model& model, const shape::Partition& partition,
             const ElectrostaticProblem& problem, base::Faults& faults)
        : m_model(model), m_p(partition), m_problem(problem), m_faults(faults)
    {
    }

    std::vector<Ask> run()
    {
        for (const Line& l : m_model.document().lines) {
            const sheet::Kind* kind = sheet::findKind(l.kind);
            if (!kind || kind->section != "ask")
                continue;
            if (l.kind == "capacitance matrix") {
                matrix(l, false);
                matrix(l, true);
            } else {
                one(l);
            }
        }
        return std::move(m_asks);
    }

private:
    Ask begin(const Line& l, const base::Dimension& d, const std::string& name) const
    {
        return beginAsk(m_model, l, d, name);
    }
    void fault(int number, const Line& l, const std::string& key, const std::string& text)
    {
        m_faults.push_back({number, {l.id, key, -1}, text, false});
    }

    void matrix(const Line& l, bool mutual)
    {
        if (m_problem.isOdd()) {
            if (!mutual)
                fault(7010, l, {},
                      "a capacitance matrix needs both parities; remove the odd mirror plane or "
                      "ask for single capacitances");
            return;
        }
        Ask a =
            begin(l, dim::capacitance, mutual ? "mutual capacitance matrix" : "capacitance matrix");
        a.finding.label = mutual ? "mutual capacitances" : "Maxwell capacitances";
        a.allDrives = true;
        Potentials empty;
        empty.C.assign(m_problem.conductors.size() * m_problem.conductors.size(), 0.0);
        for (size_t k = 0; k < m_problem.conductors.size(); ++k)
            empty.C[k * m_problem.conductors.size() + k] = 1.0;
        a.finding.conductors = reducedMatrix(m_problem, empty, true).names;
        a.evaluate = [mutual](Field& field, int order) {
            auto& s = solverOf(field);
            const ReducedMatrix r = reducedMatrix(s.problem(), s.at(order), true);
            const size_t n = r.index.size();
            std::vector<double> v = r.C;
            if (mutual)
                for (size_t i = 0; i < n; ++i) {
                    // The rest of a row is the capacitance to ground (walls, infinity).
                    double sum = 0;
                    for (size_t j = 0; j < n; ++j)
                        sum += r.C[i * n + j];
                    for (size_t j = 0; j < n; ++j)
                        v[i * n + j] = i == j ? sum : -r.C[i * n + j];
                }
            return v;
        };
        if (mutual)
            a.finding.note = "diagonal: to ground";
        m_asks.push_back(std::move(a));
    }

    void one(const Line& l)
    {
        if (l.kind == "capacitance")
            capacitance(l);
        else if (l.kind == "charge" || l.kind == "voltage")
            conductorFigure(l);
        else if (l.kind == "energy")
            energy(l);
        else if (l.kind == "largest field" || l.kind == "mean field")
            regionField(l);
        else if (l.kind == "potential at" || l.kind == "field at")
            pointValue(l);
        else if (l.kind == "force" || l.kind == "torque")
            force(l);
        else if (l.kind == "profile")
            profile(l);
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
        Ask k = begin(l, dim::capacitance,
                      to.empty() ? "capacitance of " + from : "capacitance " + from + " to " + to);
        k.allDrives = true;
        const bool odd = m_problem.isOdd();
        if (odd && b >= 0 &&
            (m_problem.conductors[size_t(a)].image || m_problem.conductors[size_t(b)].image)) {
            // The pair is odd: charge over the difference of potentials, for the whole device.
            const int here = m_problem.conductors[size_t(a)].image ? b : a;
            const double va = m_problem.conductors[size_t(a)].value,
                         vb = m_problem.conductors[size_t(b)].value;
            if (std::abs(va + vb) > 1e-9 * (std::abs(va) + std::abs(vb)) || va == vb) {
                fault(7012, l, {},
                      "an odd mirror plane needs opposite potentials on " + from + " and " + to);
                return;
            }
            k.evaluate = [here, va, vb](Field& field, int order) {
                auto& s = solverOf(field);
                return std::vector{std::abs(0.5 * s.at(order).charge[size_t(here)] / (va - vb))};
            };
            // The scale doubles every charge for the two halves; one electrode has half of that.
        } else if (odd) {
            fault(7010, l, {},
                  "with an odd mirror plane only the capacitance between an electrode and its "
                  "image is defined");
            return;
        } else {
            k.evaluate = [from, to](Field& field, int order) {
                auto& s = solverOf(field);
                const bool named = !to.empty();
                const int fa = s.problem().conductorOf(from),
                          fb = named ? s.problem().conductorOf(to) : -1;
                const bool keep =
                    s.problem().conductors[size_t(fa)].kind == Conductor::Kind::floating ||
                    (named && s.problem().conductors[size_t(fb)].kind == Conductor::Kind::floating);
                const ReducedMatrix r = reducedMatrix(s.problem(), s.at(order), keep);
                const size_t n = r.index.size();
                size_t i = 0, j = 0;
                for (size_t q = 0; q < n; ++q) {
                    i = r.index[q] == fa ? q : i;
                    j = r.index[q] == fb ? q : j;
                }
                return std::vector{named ? -r.C[i * n + j] : r.C[i * n + i]};
            };
        }
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
        a.evaluate = [k, charge, share](Field& field, int order) {
            auto& s = solverOf(field);
            return std::vector{charge ? share * s.at(order).charge[size_t(k)]
                                      : s.at(order).voltage[size_t(k)]};
        };
        if (charge) {
            a.secondRoute = [k, share](Field& field) {
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
        a.evaluate = [](Field& field, int order) {
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

    void regionField(const Line& l)
    {
        const bool largest = l.kind == "largest field";
        std::vector<int> faces = piecesOf(l, "in");
        const size_t picked = faces.size();
        std::erase_if(faces, [&](int f) {
            return std::find(m_problem.activePieces.begin(), m_problem.activePieces.end(), f) ==
                   m_problem.activePieces.end();
        });
        if (faces.empty()) {
            fault(7014, l, "in",
                  picked > 0 ? "'" + l.get("in") + "' is a conductor: its field is zero"
                             : "'" + l.get("in") + "' picks no region");
            return;
        }
        Ask a = begin(l, dim::electricField,
                      (largest ? "largest |E| in " : "mean |E| in ") + l.get("in"));
        a.degree = largest ? 1 : 2;
        if (largest)
            a.where = [faces](Field& field, int order) {
                const auto e = solverOf(field).largestField(order, faces);
                return mesh::Locator::Hit{e.cell, e.xi};
            };
        a.evaluate = [faces, largest](Field& field, int order) {
            auto& s = solverOf(field);
            return std::vector{largest ? s.largestField(order, faces).value
                                       : s.meanField(order, faces)};
        };
        if (largest)
            a.local = [faces](Field& field, const mesh::Locator&) {
                auto& s = solverOf(field);
                const auto e = s.largestField(s.order(), faces);
                const Point E = s.field(s.order(), e.cell, e.xi);
                const double n = norm(E);
                return std::vector<PointFunctional>{
                    {{e.cell, e.xi}, n > 0 ? (1 / n) * E : Point{1}}};
            };
        m_asks.push_back(std::move(a));
    }

    void pointValue(const Line& l)
    {
        const bool potential = l.kind == "potential at";
        const Point p = m_model.point(l, "at");
        Ask a = begin(l, potential ? dim::voltage : dim::electricField,
                      (potential ? "potential at " : "|E| at ") + l.get("at"));
        a.degree = 1;
        const int line = l.id;
        a.evaluate = [p, potential, line](Field& field, int order) {
            auto& s = solverOf(field);
            const auto hit = mesh::Locator(s.space().mesh()).find(p);
            if (hit.cell < 0)
                throw base::Error(7015,
                                  "the point lies in no region that carries field: in a conductor, "
                                  "or outside the drawing",
                                  {line, "at", 0});
            if (potential)
                return std::vector{s.potential(order, hit)};
            return std::vector{norm(s.field(order, hit.cell, hit.xi))};
        };
        a.local = [p, potential](Field& field, const mesh::Locator& locator) {
            auto& s = solverOf(field);
            const auto hit = locator.find(p);
            if (hit.cell < 0)
                return std::vector<PointFunctional>{};
            const Point E = potential ? Point{} : s.field(s.order(), hit.cell, hit.xi);
            const double n = norm(E);
            return std::vector<PointFunctional>{{hit, n > 0 ? (1 / n) * E : Point{}}};
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
                   axi = m_problem.measure == fem::Measure::axisymmetric;
        const Point about = torque ? m_model.point(l, "about") : Point{};
        // A body cut by an (even or odd) mirror plane feels no force across it.
        auto cutBy = [&](bool x) {
            for (const int f : faces)
                for (const int e : m_p.pieces()[size_t(f)].sides) {
                    const auto& edge = m_p.sides()[size_t(e)];
                    const Point q = m_p.at(e, 0.37 * edge.t0 + 0.63 * edge.t1),
                                r = m_p.at(e, 0.8 * edge.t0 + 0.2 * edge.t1);
                    if (edge.pieces.size() == 1 &&
                        std::abs(x ? q.x : q.y) + std::abs(x ? r.x : r.y) < 1e-6 * m_p.size())
                        return true;
                }
            return false;
        };
        const bool cutX = m_problem.mirror[0] && cutBy(true),
                   cutY = m_problem.mirror[1] && cutBy(false);
        // A body beside the plane is modelled whole: its image is another body.
        double share = 1;
        if (m_problem.mirror[0] && !cutX)
            share *= 0.5;
        if (m_problem.mirror[1] && !cutY)
            share *= 0.5;
        struct Part
        {
            const char* name;
            int which;
        };
        std::vector<Part> parts;
        if (torque)
            parts = {{"torque on ", 2}};
        else if (axi)
            parts = {{"force along z on ", 1}};
        else
            parts = {{"force along x on ", 0}, {"force along y on ", 1}};
        for (const Part& part : parts) {
            Ask a = begin(l, torque ? dim::torque : dim::force, part.name + l.get("on"));
            a.degree = 1;
            const int which = part.which;
            const bool zero = (which == 0 && cutX) || (which == 1 && cutY);
            auto pick = [=](const ElectrostaticSolver::Force& f) {
                if (which < 2)
                    return std::vector{zero ? 0.0 : share * (which == 0 ? f.force.x : f.force.y)};
                // Halves of a body that a plane cuts: what their forces have across the plane
                // cancels, with its torque about the plane; the rest acts in the plane.
                if (cutX || cutY)
                    return std::vector{(cutY ? 0.0 : -about.x * share * f.force.y) +
                                       (cutX ? 0.0 : about.y * share * f.force.x)};
                return std::vector{share * f.torque.z};
            };
            a.evaluate = [faces, about, pick](Field& field, int order) {
                auto& s = solverOf(field);
                return pick(s.forceByVirtualWork(order, faces, about));
            };
            if (!torque && !axi)
                a.scale = [faces, share](Field& field, int order) {
                    auto& s = solverOf(field);
                    return share * norm(s.forceByVirtualWork(order, faces, {}).force);
                };
            a.secondRoute = [faces, about, pick](Field& field) {
                auto& s = solverOf(field);
                return pick(s.forceBySurfaceStress(s.order(), faces, about));
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

    const sheet::Model& m_model;
    const shape::Partition& m_p;
    const ElectrostaticProblem& m_problem;
    base::Faults& m_faults;
    std::vector<Ask> m_asks;
};

}  // namespace

std::vector<Ask> makeElectrostaticAsks(const sheet::Model& model, const shape::Partition& partition,
                                       const ElectrostaticProblem& problem, base::Faults& faults)
{
    return AskMaker(model, partition, problem, faults).run();
}

}  // namespace yh::run
