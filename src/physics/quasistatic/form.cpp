#include "physics/common/constants.h"
#include "physics/quasistatic/quasistatic.h"

#include "fem/quadrature.h"
#include "physics/common/joints.h"
#include "physics/common/odd_plane.h"
#include "physics/common/sheet_reader.h"
#include "sheet/materials.h"
#include "sheet/nearest.h"
#include "sheet/schema.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <set>

namespace yh::physics {

using fem::Local;
using sheet::Line;

namespace {

bool isIn(int x, const std::vector<int>& list)
{
    return std::find(list.begin(), list.end(), x) != list.end();
}

class Reader : SheetReader
{
public:
    using SheetReader::SheetReader;

    std::unique_ptr<QuasistaticProblem> run()
    {
        auto& o = *m_out;
        o.area = m_model.space() == sheet::Space::axisymmetric ? fem::Measure::axisymmetric
                                                               : fem::Measure::plane;
        o.scale = m_model.depth();
        for (const Line* l : m_model.document().ofKind("mirror plane")) {
            o.scale *= 2;
            if (l->get("kind") == "odd") {
                o.oddShare *= 0.5;
                m_odd[size_t(m_model.axisOf(l->get("at")))] = true;
            }
        }
        if (const Line* l = m_model.document().first("wedge symmetry"))
            o.scale *= m_model.wedges(*l);
        o.frequency = m_model.number(*m_model.document().first("frequency"), "value");
        o.pieces.resize(m_p.pieces().size());
        o.conducts.assign(m_p.pieces().size(), 0);
        materials();
        contacts();
        sheets();
        joints();
        for (const char* kind : {"resistivity follows temperature", "thermoelectric"})
            if (const Line* l = m_model.document().first(kind))
                fault(6151, *l, {},
                      "beside a frequency properties do not follow the temperature and heat is not "
                      "pumped; leave the frequency out for a direct current");
        paths();
        for (size_t f = 0; f < o.conducts.size(); ++f)
            if (o.conducts[f])
                o.activePieces.push_back(int(f));
        return std::move(m_out);
    }

private:
    shape::Selection resolve(const Line& l, const std::string& key)
    {
        return SheetReader::resolve(l, key, 6001, l.kind == "contact" && m_out->oddShare < 1);
    }
    /// A property stated in the line, as a function of place; the fallback where it is not.
    std::function<double(Point)> property(const Line& l, const std::string& key, double fallback,
                                          bool& isConstant)
    {
        if (!l.has(key))
            return [fallback](Point) { return fallback; };
        const base::Expression e(l.get(key));
        const auto constant = e.evaluate(m_model.parameters().scope());
        if (constant.ok())
            return [v = constant.value->value.real()](Point) { return v; };
        isConstant = false;
        constexpr double room = 293.15;
        return [model = m_model, e](Point p) {
            auto v = e.evaluate(model.scopeAt(p));
            if (!v.ok())
                v = e.evaluate(model.scopeAt(p, room));
            return v.ok() ? v.value->value.real() : NAN;
        };
    }
    /// What a line's material does at the frequency.
    Admittivity admittivity(const Line& l)
    {
        const double omega = 2 * pi * m_out->frequency;
        const sheet::Material* known = sheet::findMaterial(l.get("material"));
        if (!known && !l.has("eps") && !l.has("sigma"))
            fault(6152, l, l.kind == "material" ? "eps" : "material",
                  sheet::notInLibrary(l.get("material")) +
                      ": its permittivity ε or conductivity σ is missing",
                  true);
        bool constant = true;
        const auto eps =
                       property(l, "eps", known && !known->conductor ? known->eps : 1.0, constant),
                   sigma = property(l, "sigma",
                                    known && known->resistivity > 0 ? 1 / known->resistivity : 0.0,
                                    constant),
                   loss = property(l, "loss", 0.0, constant);
        const auto value = [=](Point p) {
            const double e = omega * eps0 * eps(p);
            return std::complex(sigma(p) + e * loss(p), e);
        };
        Admittivity a;
        a.real = value({}).real();
        a.imaginary = value({}).imag();
        if (!constant)
            a.at = value;
        return a;
    }
    void materials()
    {
        auto& o = *m_out;
        for (const Line* l : m_model.document().ofKind("material")) {
            const Admittivity a = admittivity(*l);
            for (const int f : resolve(*l, "in").pieces) {
                o.pieces[size_t(f)] = a;
                o.conducts[size_t(f)] = 1;
            }
        }
        sayWithoutMaterial([&o](size_t f) { return o.conducts[f] != 0; }, "sea water");
    }
    void contacts()
    {
        auto& o = *m_out;
        for (const Line* l : m_model.document().ofKind("contact")) {
            const shape::Selection s = resolve(*l, "on");
            QuasistaticProblem::Contact c;
            c.name = l->name();
            c.line = l->id;
            c.byCurrent = l->has("current");
            c.value = m_model.number(*l, c.byCurrent ? "current" : "voltage");
            c.behind = s.empty();
            if (l->has("film") && !s.pieces.empty())
                fault(6153, *l, "on", "a film lies on sides; '" + l->get("on") + "' picks regions");
            if (!c.behind) {
                c.group = int(o.groupList.size());
                hold(s.sides, s.pieces, !c.byCurrent,
                     c.byCurrent ? c.value / (o.scale * o.oddShare) : c.value,
                     l->has("film") ? m_model.number(*l, "film") : 0.0);
            }
            o.contacts.push_back(c);
        }
        oddPlanes();
    }
    /// One value in common for each part of the potential; its imaginary part is zero.
    void hold(const std::vector<int>& sides, const std::vector<int>& pieces, bool given,
              double value, double film = 0)
    {
        for (int part = 0; part < 2; ++part) {
            fem::Group g;
            g.field = part;
            g.sides = sides;
            g.pieces = pieces;
            g.given = given;
            g.value = part == 0 ? value : 0.0;
            g.film = film;
            m_out->groupList.push_back(std::move(g));
        }
    }
    /// The potential vanishes on an odd plane; contacts behind it mirror those before it.
    void oddPlanes()
    {
        auto& o = *m_out;
        if (o.oddShare == 1)
            return;
        std::vector<int> plane;
        for (size_t s = 0; s < m_p.sides().size(); ++s) {
            const shape::Side& side = m_p.sides()[s];
            if (side.cut >= 0 && side.cut < 3 && m_odd[size_t(side.cut)] &&
                o.conducts[size_t(side.pieces[0])])
                plane.push_back(int(s));
        }
        o.oddPlane = int(o.groupList.size());
        hold(plane, {}, true, 0.0);
        pairAcrossPlane(o.contacts, [this](const auto& c, const std::string& text) {
            fault(6150, *m_model.document().find(c.line), "on", text);
        });
    }
    void sheets()
    {
        auto& o = *m_out;
        for (const Line* l : m_model.document().ofKind("conducting sheet")) {
            const shape::Selection s = resolve(*l, "on");
            if (!s.pieces.empty())
                fault(6155, *l, "on",
                      "'" + l->get("on") + "' picks regions; a sheet lies on sides, such as " +
                          l->get("on") + ".top");
            for (const int side : s.sides)
                o.sides[side].push_back({m_model.number(*l, "thickness"), admittivity(*l), l->id});
        }
    }
    void joints()
    {
        for (const Line* l : m_model.document().ofKind("joint resistance"))
            for (const int side : resolve(*l, "on").sides) {
                const auto& pieces = m_p.sides()[size_t(side)].pieces;
                if (pieces.size() == 2 && m_out->conducts[size_t(pieces[0])] &&
                    m_out->conducts[size_t(pieces[1])]) {
                    m_out->joints[side] = 1 / m_model.number(*l, "value");
                    continue;
                }
                fault(6156, *l, "on",
                      "'" + l->get("on") +
                          "' does not lie between two regions of the field; name where they touch, "
                          "such as a & b");
                break;
            }
    }
    /// Every connected part of the field needs a contact with a given voltage.
    void paths()
    {
        auto& o = *m_out;
        std::vector<int> part(o.conducts.size(), -1), stack;
        for (size_t s = 0; s < part.size(); ++s) {
            if (!o.conducts[s] || part[s] >= 0)
                continue;
            bool held = false;
            part[s] = int(s);
            stack = {int(s)};
            while (!stack.empty()) {
                const int f = stack.back();
                stack.pop_back();
                for (const auto& g : o.groupList)
                    held = held ||
                           (g.given && (isIn(f, g.pieces) ||
                                        std::any_of(g.sides.begin(), g.sides.end(), [&](int side) {
                                            return isIn(f, m_p.sides()[size_t(side)].pieces);
                                        })));
                for (const int side : m_p.pieces()[size_t(f)].sides)
                    for (const int n : m_p.sides()[size_t(side)].pieces)
                        if (o.conducts[size_t(n)] && part[size_t(n)] < 0) {
                            part[size_t(n)] = int(s);
                            stack.push_back(n);
                        }
            }
            if (!held) {
                const shape::Region& r = m_p.regions()[size_t(m_p.pieces()[s].region)];
                m_faults.push_back({6154,
                                    {r.line, {}, -1},
                                    "no contact with a given voltage touches the part of the field "
                                    "in '" +
                                        r.name + "': its potential is undefined",
                                    false});
            }
        }
    }
    std::array<bool, 3> m_odd{};
    std::unique_ptr<QuasistaticProblem> m_out = std::make_unique<QuasistaticProblem>();
};

}  // namespace

std::unique_ptr<QuasistaticProblem> defineQuasistatic(const sheet::Model& model,
                                                      const shape::Partition& partition,
                                                      base::Faults& faults)
{
    return Reader(model, partition, faults).run();
}

int QuasistaticProblem::contactOf(const std::string& name) const
{
    for (size_t k = 0; k < contacts.size(); ++k)
        if (contacts[k].name == name)
            return int(k);
    return -1;
}

void QuasistaticProblem::terms(const fem::PointState& s, fem::PointTerms& out) const
{
    const std::complex<double> y = pieces[size_t(s.piece)].value(s.at);
    const Local a = y.real(), b = y.imag();
    for (int k = 0; k < 3; ++k) {
        out.flux[0][k] = a * s.grad[0][k] - b * s.grad[1][k];
        out.flux[1][k] = b * s.grad[0][k] + a * s.grad[1][k];
    }
}

void QuasistaticProblem::sideTerms(int side, const fem::PointState& s, fem::PointTerms& out) const
{
    for (const Sheet& sheet : sides.at(side)) {
        const std::complex<double> y = sheet.thickness * sheet.what.value(s.at);
        const Local a = y.real(), b = y.imag();
        for (int k = 0; k < 3; ++k) {
            out.flux[0][k] += a * s.grad[0][k] - b * s.grad[1][k];
            out.flux[1][k] += b * s.grad[0][k] + a * s.grad[1][k];
        }
    }
}

QuasistaticSolver::QuasistaticSolver(const QuasistaticProblem& problem, const mesh::Mesh& mesh,
                                     const shape::Partition& partition, int order,
                                     base::Progress& progress)
    : m_problem(problem),
      m_cut(cutAt(problem.joints, mesh, partition)),
      m_mesh(m_cut ? *m_cut : mesh),
      m_partition(partition),
      m_space(m_mesh, order),
      m_coupled(problem, m_space, progress),
      m_quantities{{"E", "electric field, in phase", "V/m", 3},
                   {"V", "potential, in phase", "V", 1},
                   {"V ahead", "potential, a quarter ahead", "V", 1},
                   {"E ahead", "electric field, a quarter ahead", "V/m", 3},
                   {"J", "current density, in phase", "A/m^2", 3},
                   {"J ahead", "current density, a quarter ahead", "A/m^2", 3},
                   {"heating", "mean heating", "W/m^3", 1}}
{
    for (const auto& [a, b] : m_mesh.facing) {
        const int ta = m_mesh.sideCells[size_t(a)][0], tb = m_mesh.sideCells[size_t(b)][0];
        m_across.insert({ta, tb});
        m_across.insert({tb, ta});
    }
}

void QuasistaticSolver::solve(int lowestOrder, base::Progress& progress)
{
    m_solved.clear();
    m_counters = {};
    auto u = m_coupled.start(lowestOrder);
    for (int order = lowestOrder; order <= m_space.order(); ++order) {
        progress.check();
        u = m_coupled.raised(u, order);
        const auto report = m_coupled.solve(order, u);
        m_counters.unknowns = report.unknowns;
        m_counters.assembleSeconds += report.assembleSeconds;
        m_counters.solveSeconds += report.solveSeconds;
        m_solved.push_back({order, u, m_coupled.groupResults(order, u)});
    }
}

const QuasistaticSolver::Solved& QuasistaticSolver::at(int order) const
{
    for (const Solved& s : m_solved)
        if (s.order == order)
            return s;
    YH_ASSERT(false, "order was solved");
    return m_solved.back();
}

QuasistaticSolver::Gradient QuasistaticSolver::gradient(const Solved& s, int cell,
                                                        const Point& xi) const
{
    return {m_space.gradient(s.u[0], s.order, cell, xi),
            m_space.gradient(s.u[1], s.order, cell, xi)};
}

template <class Visit>
void QuasistaticSolver::overSide(int order, int side, Visit visit) const
{
    fem::onSides(
        m_mesh, m_problem.area, 2 * order + 2,
        [&](int s, int t) {
            return m_mesh.sideTag[size_t(s)] == side && m_mesh.sideCells[size_t(s)][0] == t;
        },
        [&](int, int t, const Point& xi, const Point& p, const Point& n) {
            visit(t, xi, p, (1 / norm(n)) * n, norm(n));
        });
}

QuasistaticSolver::ContactResult QuasistaticSolver::contact(int order, int index) const
{
    const Solved& s = at(order);
    const auto& c = m_problem.contacts[size_t(index)];
    if (c.behind) {
        const ContactResult mate = contact(order, c.mate);
        return {-mate.voltage, -mate.current};
    }
    const double scale = m_problem.scale * m_problem.oddShare;
    const auto g = size_t(c.group);
    return {{s.groups[g].value, s.groups[g + 1].value},
            scale * std::complex(s.groups[g].flow, s.groups[g + 1].flow)};
}

std::complex<double> QuasistaticSolver::planeCurrent(int order) const
{
    if (m_problem.oddPlane < 0)
        return 0;
    const Solved& s = at(order);
    const auto g = size_t(m_problem.oddPlane);
    return m_problem.scale * m_problem.oddShare *
           std::complex(s.groups[g].flow, s.groups[g + 1].flow);
}

double QuasistaticSolver::contactPower(int order) const
{
    const Solved& s = at(order);
    double sum = 0;
    for (size_t g = 0; g + 1 < m_problem.groupList.size(); g += 2)
        if (const fem::Group& group = m_problem.groupList[g]; group.film > 0)
            for (const int side : group.sides)
                overSide(order, side,
                         [&](int cell, const Point& xi, const Point&, const Point&, double w) {
                             const std::complex V(m_space.value(s.u[0], order, cell, xi),
                                                  m_space.value(s.u[1], order, cell, xi));
                             const std::complex<double> before(s.groups[g].value,
                                                               s.groups[g + 1].value);
                             sum += 0.5 * w * std::norm(before - V) / group.film;
                         });
    for (const auto& u : s.u)
        sum += 0.5 * jumpPower(m_space, m_problem.area, order, u,
                               [this](int side) { return m_problem.jump(0, side); });
    return m_problem.scale * sum;
}

double QuasistaticSolver::sheetPower(int order, const std::vector<int>& lines) const
{
    double sum = 0;
    for (const auto& [side, sheets] : m_problem.sides)
        for (const auto& sheet : sheets)
            if (std::find(lines.begin(), lines.end(), sheet.line) != lines.end())
                overSide(order, side,
                         [&, &what = sheet](int cell, const Point& xi, const Point& p,
                                            const Point& n, double w) {
                             sum += w * sheetLoss(what, {p, order, cell, xi, n});
                         });
    return m_problem.scale * sum;
}

double QuasistaticSolver::sheetLoss(const QuasistaticProblem::Sheet& sheet,
                                    const fem::Spot& spot) const
{
    Gradient g = gradient(at(spot.order), spot.cell, spot.xi);
    g.real = g.real - dot(g.real, spot.normal) * spot.normal;
    g.imaginary = g.imaginary - dot(g.imaginary, spot.normal) * spot.normal;
    return 0.5 * sheet.thickness * sheet.what.value(spot.at).real() * g.square();
}

double QuasistaticSolver::jointLoss(const fem::Spot& spot) const
{
    const Solved& s = at(spot.order);
    const auto [first, last] = m_across.equal_range(spot.cell);
    for (auto it = first; it != last; ++it) {
        const mesh::Geometry g(m_mesh, it->second);
        Point xi;
        // A cell may meet several: it is the one that holds the place.
        constexpr double inside = -1e-6;
        if (!g.invert(spot.at, xi) || std::min({xi.x, xi.y, xi.z}) < inside ||
            1 - xi.x - xi.y - xi.z < inside)
            continue;
        double square = 0;
        for (const auto& u : s.u) {
            const double step = m_space.value(u, spot.order, spot.cell, spot.xi) -
                                m_space.value(u, spot.order, it->second, xi);
            square += step * step;
        }
        const int a = m_mesh.piece[size_t(spot.cell)], b = m_mesh.piece[size_t(it->second)];
        for (const auto& [side, conductance] : m_problem.joints) {
            const auto& pieces = m_partition.sides()[size_t(side)].pieces;
            if (isIn(a, pieces) && isIn(b, pieces))
                return 0.25 * conductance * square;
        }
    }
    return 0;
}

double QuasistaticSolver::lossDensity(int order, int cell, const Point& xi) const
{
    const Point p = mesh::Geometry(m_mesh, cell).at(xi);
    // Peak values: half of the product in the mean.
    return 0.5 * m_problem.pieces[size_t(m_mesh.piece[size_t(cell)])].value(p).real() *
           gradient(at(order), cell, xi).square();
}

double QuasistaticSolver::power(int order, const std::vector<int>& pieces) const
{
    std::vector<char> wanted(m_partition.pieces().size(), 0);
    for (const int f : pieces)
        wanted[size_t(f)] = 1;
    double sum = 0;
    const auto& rule = fem::cellRule(m_mesh.dimension, 2 * order + 2);
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const auto piece = size_t(m_mesh.piece[size_t(t)]);
        if (!wanted[piece] || !m_problem.conducts[piece])
            continue;
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            const double w = q.w * g.determinant(q.xi) * measureAt(m_problem.area, g.at(q.xi));
            sum += w * lossDensity(order, t, q.xi);
        }
    }
    return m_problem.scale * sum;
}

void QuasistaticSolver::sample(int cell, const Point& xi, double* values) const
{
    const Solved& s = m_solved.back();
    const Gradient g = gradient(s, cell, xi);
    const Point p = mesh::Geometry(m_mesh, cell).at(xi);
    const auto y = m_problem.pieces[size_t(m_mesh.piece[size_t(cell)])].value(p);
    const Point J = -y.real() * g.real + y.imag() * g.imaginary,
                Jahead = y.real() * g.imaginary + y.imag() * g.real;
    // What is seen a quarter of the period later is minus the imaginary part.
    const double list[] = {-g.real.x,
                           -g.real.y,
                           -g.real.z,
                           m_space.value(s.u[0], s.order, cell, xi),
                           -m_space.value(s.u[1], s.order, cell, xi),
                           g.imaginary.x,
                           g.imaginary.y,
                           g.imaginary.z,
                           J.x,
                           J.y,
                           J.z,
                           Jahead.x,
                           Jahead.y,
                           Jahead.z,
                           0.5 * y.real() * g.square()};
    std::copy(std::begin(list), std::end(list), values);
}

std::vector<double> QuasistaticSolver::indicator(bool) const
{
    // Energy of the highest-order part, weighted by the size of the admittivity.
    const Solved& s = m_solved.back();
    std::vector<double> eta(size_t(m_mesh.cellCount()), 0.0);
    const int below = s.order - 1;
    const auto& rule = fem::cellRule(m_mesh.dimension, 2 * s.order);
#pragma omp parallel for schedule(dynamic, 256)
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const auto& y = m_problem.pieces[size_t(m_mesh.piece[size_t(t)])];
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            Gradient d = gradient(s, t, q.xi);
            if (below > 0) {
                d.real = d.real - m_space.gradient(s.u[0], below, t, q.xi);
                d.imaginary = d.imaginary - m_space.gradient(s.u[1], below, t, q.xi);
            }
            const Point p = g.at(q.xi);
            eta[size_t(t)] += q.w * g.determinant(q.xi) * measureAt(m_problem.area, p) *
                              std::abs(y.value(p)) * d.square();
        }
    }
    return eta;
}

double QuasistaticSolver::geometryError() const
{
    const Solved& s = m_solved.back();
    double whole = 0, moved = 0;
    auto density = [&](int t, const Point& xi) {
        const Point p = mesh::Geometry(m_mesh, t).at(xi);
        return std::abs(m_problem.pieces[size_t(m_mesh.piece[size_t(t)])].value(p)) *
               gradient(s, t, xi).square();
    };
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const mesh::Geometry g(m_mesh, t);
        whole += density(t, g.centre()) * g.determinant(g.centre()) *
                 measureAt(m_problem.area, g.at(g.centre())) / (m_mesh.dimension == 2 ? 2 : 6);
    }
    for (int e = 0; e < m_mesh.sideCount(); ++e) {
        const int c = m_mesh.sideTag[size_t(e)], t = m_mesh.sideCells[size_t(e)][0];
        const mesh::Geometry g(m_mesh, t);
        if (c < 0 || m_partition.sides()[size_t(c)].flat || !g.curved)
            continue;
        const int k = m_mesh.localSide(t, e);
        const Point xi = g.onSide(k, m_mesh.dimension == 2 ? Point{0.5} : Point{1.0 / 3, 1.0 / 3});
        moved += density(t, xi) * borderOffset(m_mesh, m_partition, g, k, e, t) *
                 measureAt(m_problem.area, g.at(xi));
    }
    return whole > 0 ? moved / whole : 0.0;
}

std::vector<SingularCorner> QuasistaticSolver::singularCorners() const
{
    return corners(m_problem, m_mesh, m_partition);
}

std::vector<SingularCorner> QuasistaticSolver::corners(const QuasistaticProblem& problem,
                                                       const mesh::Mesh& mesh,
                                                       const shape::Partition& partition)
{
    CornerProblem corner;
    corner.measure = problem.area;
    corner.coefficient = [&problem](int piece, const Point& p) {
        return problem.conducts[size_t(piece)] ? std::abs(problem.pieces[size_t(piece)].value(p))
                                               : 0.0;
    };
    corner.held.assign(partition.sides().size(), 0);
    for (const fem::Group& g : problem.groupList)
        for (const int s : g.sides)
            corner.held[size_t(s)] = g.film == 0;
    return findSingularCorners(corner, mesh, partition);
}

}  // namespace yh::physics
