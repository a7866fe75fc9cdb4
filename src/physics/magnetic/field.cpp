// What all magnetic fields share: passes over orders, indicators, and figures that follow from B
// and H.
#include "physics/magnetic/magnetic.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yh::physics {

MagneticField::MagneticField(const MagneticProblem& problem, const mesh::Mesh& mesh,
                             const shape::Partition& partition, int order, base::Progress& progress,
                             std::unique_ptr<fem::CoupledModel> model)
    : m_problem(problem),
      m_mesh(mesh),
      m_partition(partition),
      m_model(std::move(model)),
      m_space(mesh, order),
      m_coupled(m_model ? *m_model : m_problem, m_space, progress)
{
}

void MagneticField::solve(int lowestOrder, base::Progress& progress)
{
    m_solved.clear();
    m_weighted.clear();
    m_forces.forgetForces();
    m_counters = {};
    Values u = m_coupled.start(lowestOrder);
    for (int order = lowestOrder; order <= m_space.order(); ++order) {
        progress.check();
        fem::NewtonReport report;
        m_solved.push_back(solvedAt(order, m_coupled.raised(u, order), report));
        u = m_solved.back().u;
        m_counters.unknowns = report.unknowns;
        m_counters.iterations += report.iterations;
        m_counters.assembleSeconds += report.assembleSeconds;
        m_counters.solveSeconds += report.solveSeconds;
    }
}

MagneticField::Solved MagneticField::solvedAt(int order, Values guess, fem::NewtonReport& report)
{
    Solved s{order, std::move(guess), {}, {}};
    report = m_coupled.solve(order, s.u);
    return s;
}

const MagneticField::Solved& MagneticField::solved(int order) const
{
    for (const Solved& s : m_solved)
        if (s.order == order)
            return s;
    YH_ASSERT(false, "order was solved");
    return m_solved.back();
}

const std::vector<MagneticField::Values>& MagneticField::unitFields(int order) const
{
    const auto s = std::find_if(m_solved.begin(), m_solved.end(),
                                [order](const Solved& x) { return x.order == order; });
    YH_ASSERT(s != m_solved.end(), "order was solved");
    if (s->unit.empty()) {
        for (size_t k = 0; k < m_problem.coils.size(); ++k)
            s->unit.push_back(m_coupled.answer(order, s->u, sourceOf(order, int(k))));
        for (Values& own : s->unit)
            complete(order, own);
    }
    return s->unit;
}

std::vector<double> MagneticField::indicator(bool allDrives) const
{
    std::vector<double> eta(size_t(m_mesh.cellCount()), 0.0);
    auto addShares = [&](const std::vector<double>& share) {
        const double sum = std::accumulate(share.begin(), share.end(), 0.0);
        for (size_t t = 0; t < eta.size() && sum > 0; ++t)
            eta[t] += share[t] / sum;
    };
    for (int f = 0; f < parts(); ++f) {
        const auto state = m_coupled.shares(order(), at(order()), f);
        if (!allDrives || !m_problem.isSolid)
            addShares(state);
        if (!allDrives)
            continue;
        for (const Values& own : unitFields(order())) {
            auto share = m_coupled.shares(order(), own, f);
            if (!m_problem.isSolid)
                addShares(share);
            // What a coil links errs by the product of both fields' errors.
            for (size_t t = 0; t < share.size(); ++t)
                share[t] = std::sqrt(share[t] * state[t]);
            if (m_problem.isSolid)
                addShares(share);
        }
    }
    return eta;
}

MagneticField::Values MagneticField::derivativeBy(const LocalFunctional& functional,
                                                  int order) const
{
    return derivativeOf(functional, m_mesh, parts(), order);
}

const fem::CoupledSolver::Surplus& MagneticField::weighted(const LocalFunctional& functional)
{
    for (const Weighted& w : m_weighted)
        if (w.functional == functional)
            return w.surplus;
    const int p = order();
    const Values &u = at(p), z = m_coupled.dual(p, u, derivativeBy(functional, p));
    m_weighted.push_back({functional, m_coupled.surplus(p, u, z, derivativeBy(functional, p + 1))});
    return m_weighted.back().surplus;
}

std::vector<double> MagneticField::dualIndicator(const LocalFunctional& functional)
{
    return hasNext() ? weighted(functional).byCell : indicator(false);
}

std::optional<Solution::Change> MagneticField::changeOf(const LocalFunctional& functional)
{
    // Drawings compare three orders of their own.
    if (!m_problem.isSolid || !hasNext())
        return std::nullopt;
    const auto& w = weighted(functional);
    if (!functional.motion)
        return Change{w.change, w.unsure};
    // Work has parts of either sign, which cancel but for those at edges, where the next order
    // finds some of what is missing only. Of all sizes added up bodies with edges were off by up to
    // a quarter, round ones by a sixteenth.
    constexpr double uncancelled = 0.25;
    const double size = std::accumulate(w.byCell.begin(), w.byCell.end(), 0.0);
    return Change{w.change, w.unsure + uncancelled * size};
}

bool MagneticField::hasNext() const
{
    return order() < (m_mesh.dimension == 2 ? fem::highestOrder : fem::highestSolidOrder);
}

namespace {

bool sameMedium(const MagneticMedium& a, const MagneticMedium& b)
{
    return a.mu == b.mu && a.curve == b.curve && norm(a.along - b.along) == 0 &&
           a.remanence == b.remanence && a.currentDensity == b.currentDensity;
}

}  // namespace

double MagneticField::geometryError() const
{
    // The first-order change of the energy when a border moves, over the whole.
    double whole = 0, moved = 0;
    auto density = [&](int t, const Point& xi) {
        const auto [B, H] = state(order(), t, xi);
        const MagneticMedium& m = m_problem.media[size_t(m_mesh.piece[size_t(t)])];
        return m.isMagnet() ? 0.5 * (dot(B, B) + m.remanence * m.remanence) / m.mu
                            : std::abs(dot(B, H)) / 2;
    };
    overCells(order(),
              [&](int t, const Point& xi, const Point&, double w) { whole += w * density(t, xi); });
    auto counts = [&](int tag) {
        const auto& pieces = m_partition.sides()[size_t(tag)].pieces;
        return pieces.size() == 2 ? !sameMedium(m_problem.media[size_t(pieces[0])],
                                                m_problem.media[size_t(pieces[1])])
                                  : !m_problem.media[size_t(pieces[0])].isFarShell;
    };
    overCurvedSides(m_mesh, m_partition, counts, [&](const CurvedSide& c, const mesh::Geometry& g) {
        double most = density(c.cell, c.middle);
        // In solids the richer side counts: whose cell comes first is chance.
        if (Point there; m_problem.isSolid && c.other >= 0 &&
                         mesh::Geometry(m_mesh, c.other).invert(g.at(c.middle), there))
            most = std::max(most, density(c.other, there));
        moved += most * c.offset * measureAt(m_problem.area, g.at(c.middle)) * m_problem.scale;
    });
    return whole > 0 ? moved / whole : 0.0;
}

double MagneticField::size(int order, int cell, const Point& xi, bool isH) const
{
    double sum = 0;
    for (int part = 0; part < parts(); ++part) {
        const Point v = isH ? state(order, cell, xi, part).H : fluxDensity(order, cell, xi, part);
        sum += dot(v, v);
    }
    return std::sqrt(sum);
}

void MagneticField::overCells(int order, const Visit& visit, const std::vector<char>& pieces) const
{
    const auto& rule = fem::cellRule(m_mesh.dimension, fem::termDegree(m_mesh.dimension, order));
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const int piece = m_mesh.piece[size_t(t)];
        if (!m_problem.active(0, piece) || (!pieces.empty() && !pieces[size_t(piece)]))
            continue;
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            const Point p = g.at(q.xi);
            visit(t, q.xi, p,
                  m_problem.scale * q.w * g.determinant(q.xi) * measureAt(m_problem.area, p) *
                      m_problem.contentOf(m_problem.stretchAt(piece, p)));
        }
    }
}

double MagneticField::energy(int order) const
{
    double sum = 0;
    overCells(order, [&](int t, const Point& xi, const Point&, double w) {
        // The mean over a period is half of what the peaks of both parts have.
        for (int part = 0; part < parts(); ++part)
            sum += w * m_problem.energy(m_mesh.piece[size_t(t)], fluxDensity(order, t, xi, part)) /
                   parts();
    });
    return sum;
}

double MagneticField::coenergy(int order) const
{
    return balance(order).field - energy(order);
}

double MagneticField::mean(int order, const std::vector<int>& pieces) const
{
    double sum = 0, volume = 0;
    overCells(
        order,
        [&](int t, const Point& xi, const Point&, double w) {
            sum += w * size(order, t, xi);
            volume += w;
        },
        flags(pieces, m_partition.pieces().size()));
    return volume > 0 ? sum / volume : 0.0;
}

Extreme MagneticField::largest(int order, const std::vector<int>& pieces) const
{
    return largestOf(m_mesh, flags(pieces, m_partition.pieces().size()),
                     [&](int t, const Point& xi) { return size(order, t, xi); });
}

Point MagneticField::stress(int order, int cell, const Point& xi, const Point& n) const
{
    const int piece = m_mesh.piece[size_t(cell)];
    Point sum;
    for (int part = 0; part < parts(); ++part) {
        const auto [B, H] = state(order, cell, xi, part);
        const double coenergy = dot(B, H) - m_problem.energy(piece, B);
        sum = sum + (1.0 / parts()) * (dot(B, n) * H - coenergy * n);
    }
    return sum;
}

bool MagneticField::isPlain(int piece) const
{
    const MagneticMedium& m = m_problem.media[size_t(piece)];
    const bool carriesCurrent =
        m.currentDensity != 0 || m.sigma > 0 ||
        std::any_of(m_problem.coils.begin(), m_problem.coils.end(), [&](const Coil& c) {
            return std::count(c.pieces.begin(), c.pieces.end(), piece) > 0 ||
                   std::count(c.back.begin(), c.back.end(), piece) > 0;
        });
    return m.mu > 0 && !m.curve && !m.isMagnet() && !m.isFarShell && !carriesCurrent;
}

const std::vector<double>& MagneticField::shiftOf(const std::vector<int>& pieces) const
{
    return m_forces.shiftOf(pieces, [&] {
        std::vector<char> plain(m_partition.pieces().size(), 0);
        for (const int f : m_problem.activePieces)
            plain[size_t(f)] = isPlain(f);
        return bodyShift(m_mesh, m_partition, m_problem.area, pieces, plain);
    });
}

BodyForce MagneticField::forceByVirtualWork(int order, const std::vector<int>& pieces) const
{
    return m_forces.forceOf(order, pieces, [&] {
        const BodyForce f = physics::forceByVirtualWork(
            m_mesh, m_partition, m_problem.area, order, pieces, shiftOf(pieces),
            [&](int t, const Point& xi, const Point&, const Point& n) {
                return stress(order, t, xi, n);
            });
        return BodyForce{m_problem.scale * f.force, m_problem.scale * f.torque};
    });
}

BodyForce MagneticField::forceBySurfaceStress(int order, const std::vector<int>& pieces) const
{
    const BodyForce f =
        physics::forceBySurfaceStress(m_mesh, m_partition, m_problem.area, 2 * order + 5, pieces,
                                      [&](int t, const Point& xi, const Point&, const Point& n) {
                                          return stress(order, t, xi, n);
                                      });
    return {m_problem.scale * f.force, m_problem.scale * f.torque};
}

double MagneticField::pull(int order, const std::vector<int>& pieces) const
{
    double sum = 0;
    static_cast<void>(
        physics::forceBySurfaceStress(m_mesh, m_partition, m_problem.area, 2 * order + 5, pieces,
                                      [&](int t, const Point& xi, const Point&, const Point& n) {
                                          const Point f = stress(order, t, xi, n);
                                          sum += norm(f);
                                          return f;
                                      }));
    return m_problem.scale * sum;
}

std::vector<MagneticField::WorkingPoint> MagneticField::workingPoints(
    int order, const std::vector<int>& pieces) const
{
    std::vector<WorkingPoint> list;
    overCells(
        order,
        [&](int t, const Point& xi, const Point& p, double w) {
            const auto [B, H] = state(order, t, xi);
            const Point& along = m_problem.media[size_t(m_mesh.piece[size_t(t)])].along;
            list.push_back({dot(along, H), dot(along, B), w, p});
        },
        flags(pieces, m_partition.pieces().size()));
    return list;
}

MagneticField::Beyond MagneticField::beyondCurves() const
{
    Beyond worst;
    std::vector<double> whole(m_problem.media.size(), 0.0), beyond = whole;
    overCells(order(), [&](int t, const Point& xi, const Point&, double w) {
        const int piece = m_mesh.piece[size_t(t)];
        const MagneticMedium& m = m_problem.media[size_t(piece)];
        if (!m.curve)
            return;
        const Point B = fluxDensity(order(), t, xi);
        const double by =
            m.isMagnet() ? m.curve->lowest() - dot(m.along, B) : norm(B) - m.curve->highest();
        whole[size_t(piece)] += w;
        if (by <= 0)
            return;
        beyond[size_t(piece)] += w;
        if (by > worst.by)
            worst = {by, piece, 0};
    });
    if (worst.piece >= 0)
        worst.share = beyond[size_t(worst.piece)] / whole[size_t(worst.piece)];
    return worst;
}

MagneticField::Balance MagneticField::balance(int order) const
{
    Balance b;
    overCells(order, [&](int t, const Point& xi, const Point&, double w) {
        for (int part = 0; part < parts(); ++part) {
            const auto [B, H] = state(order, t, xi, part);
            b.field += w * dot(B, H) / parts();
        }
    });
    for (size_t k = 0; k < m_problem.coils.size(); ++k)
        b.coils += linkage(order, int(k)) / m_problem.coils[k].share * m_problem.coils[k].current /
                   parts();
    return b;
}

}  // namespace yh::physics
