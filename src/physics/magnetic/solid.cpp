#include "physics/magnetic/solid.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace yh::physics {

using fem::Local;

namespace {

using Vector = std::array<Local, 3>;

/// B of a medium at H.
/// @param drive  share of what magnets set up
Vector densityOf(const MagneticMedium& m, const Vector& H, double drive)
{
    Local mu = m.mu;
    if (m.curve && !m.isMagnet()) {
        const Local squared = H[0] * H[0] + H[1] * H[1] + H[2] * H[2];
        const double h = std::sqrt(squared.v);
        constexpr double none = 1e-6;  // A/m
        if (h < none) {
            mu = 1 / m.curve->slope(0);
        } else {
            const double B = m.curve->density(h), secant = B / h;
            mu = squared.map(secant, (1 / m.curve->slope(B) - secant) / (2 * squared.v));
        }
    }
    Vector B{mu * H[0], mu * H[1], mu * H[2]};
    if (!m.isMagnet())
        return B;
    Local more = drive * m.remanence;
    if (m.curve) {
        const Local along =
            Local(m.along.x) * H[0] + Local(m.along.y) * H[1] + Local(m.along.z) * H[2];
        const double b = m.curve->density(along.v + (1 - drive) * m.curve->field(0));
        more = along.map(b, 1 / m.curve->slope(b)) - Local(m.mu) * along;
    }
    B[0] += more * Local(m.along.x);
    B[1] += more * Local(m.along.y);
    B[2] += more * Local(m.along.z);
    return B;
}

/// A vector of the mapped shell in real space, or a test function's back; see OpenShell::Stretch.
Vector shrunk(const shape::OpenShell::Stretch& s, const Vector& v)
{
    if (s.along == 1 && s.across == 1)
        return v;
    const Local more = 1 / s.along - 1 / s.across;
    const Local inward =
        more * (Local(s.radial.x) * v[0] + Local(s.radial.y) * v[1] + Local(s.radial.z) * v[2]);
    const Local across = 1 / s.across;
    return {v[0] * across + Local(s.radial.x) * inward, v[1] * across + Local(s.radial.y) * inward,
            v[2] * across + Local(s.radial.z) * inward};
}

Vector variables(const Point& H)
{
    return {Local::variable(H.x, 0), Local::variable(H.y, 1), Local::variable(H.z, 2)};
}

/// B by H at a state, times a vector.
Point slopeTimes(const Vector& B, const Point& v)
{
    auto row = [&v](const Local& b) { return b.d[0] * v.x + b.d[1] * v.y + b.d[2] * v.z; };
    return {row(B[0]), row(B[1]), row(B[2])};
}

}  // namespace

/// What the coupled solver solves: phi alone.
class SolidModel : public fem::CoupledModel
{
public:
    SolidModel(const MagneticProblem& problem, const mesh::Mesh& mesh,
               const shape::Partition& partition, int order, base::Progress& progress)
        : m_problem(problem), m_windings(problem, mesh, partition, order, progress)
    {
        fem::Group rest;
        for (size_t e = 0; e < problem.held.size(); ++e)
            if (problem.held[e])
                rest.sides.push_back(int(e));
        if (!rest.sides.empty()) {
            m_groups.push_back(rest);
            return;
        }
        // Where flux leaves nowhere, any constant may be added: this much of phi keeps it near
        // zero without being felt.
        constexpr double unfelt = 1e-11;
        m_pull = unfelt * base::mu0 / (partition.size() * partition.size());
    }
    [[nodiscard]] const Windings& windings() const { return m_windings; }

    int fieldCount() const override { return 1; }
    fem::Measure measure() const override { return fem::Measure::plane; }
    bool active(int, int piece) const override { return m_problem.media[size_t(piece)].mu > 0; }
    const std::vector<fem::Group>& groups() const override { return m_groups; }
    bool hasTerms(int) const override { return false; }
    bool carries(int, int) const override { return false; }
    void sideTerms(int, const fem::PointState&, fem::PointTerms&) const override {}
    double start(int) const override { return 0; }
    bool scalesWithDrive(int) const override { return true; }
    bool isLinear() const override { return m_problem.isLinear(); }
    bool isLinearIn(int piece) const override { return !m_problem.media[size_t(piece)].curve; }
    bool isSymmetric() const override { return true; }

    void terms(const fem::PointState& s, fem::PointTerms& out) const override
    {
        const auto stretch = m_problem.stretchAt(s.piece, s.at);
        Point T;
        if (m_windings.touches(s.cell))
            T = s.drive * m_windings.ofCurrents(s.order, s.cell, s.xi);
        const Vector H = shrunk(stretch, {Local(T.x) - s.grad[0][0], Local(T.y) - s.grad[0][1],
                                          Local(T.z) - s.grad[0][2]}),
                     B = shrunk(stretch, densityOf(m_problem.media[size_t(s.piece)], H, s.drive));
        const Local by = -m_problem.contentOf(stretch);
        for (int k = 0; k < 3; ++k)
            out.flux[0][k] = by * B[size_t(k)];
        if (m_pull > 0)
            out.source[0] = Local(m_pull) * s.u[0];
    }

private:
    const MagneticProblem& m_problem;
    Windings m_windings;
    std::vector<fem::Group> m_groups;
    double m_pull = 0;  ///< H/m^3
};

SolidMagneticSolver::SolidMagneticSolver(const MagneticProblem& problem, const mesh::Mesh& mesh,
                                         const shape::Partition& partition, int order,
                                         base::Progress& progress)
    : MagneticField(problem, mesh, partition, order, progress,
                    std::make_unique<SolidModel>(problem, mesh, partition, order, progress)),
      m_solid(static_cast<const SolidModel*>(m_model.get()))
{
    m_quantities = {{"B", "flux density", "T", 3, {}, true},
                    {"H", "field strength", "A/m", 3},
                    {"energy density", "energy density", "J/m^3", 1}};
}

const Windings& SolidMagneticSolver::windings() const
{
    return m_solid->windings();
}

Point SolidMagneticSolver::strength(int order, int cell, const Point& xi) const
{
    Point h = -1.0 * m_space.gradient(at(order)[0], order, cell, xi);
    if (windings().touches(cell))
        h = h + windings().ofCurrents(order, cell, xi);
    const int piece = m_mesh.piece[size_t(cell)];
    if (!m_problem.media[size_t(piece)].isFarShell)
        return h;
    return m_problem.stretchAt(piece, mesh::Geometry(m_mesh, cell).at(xi)).shrunk(h);
}

Point SolidMagneticSolver::fluxDensity(int order, int cell, const Point& xi, int part) const
{
    return state(order, cell, xi, part).B;
}

MagneticField::State SolidMagneticSolver::state(int order, int cell, const Point& xi, int) const
{
    const MagneticMedium& m = m_problem.media[size_t(m_mesh.piece[size_t(cell)])];
    const Point H = strength(order, cell, xi);
    if (!m.curve)
        return {m.mu * H + m.remanence * m.along, H};
    const Vector B = densityOf(m, {Local(H.x), Local(H.y), Local(H.z)}, 1);
    return {{B[0].v, B[1].v, B[2].v}, H};
}

LocalFunctional SolidMagneticSolver::fluxAlong(const mesh::Locator::Hit& hit, const Point& d) const
{
    const int piece = m_mesh.piece[size_t(hit.cell)];
    const auto stretch = m_problem.stretchAt(piece, mesh::Geometry(m_mesh, hit.cell).at(hit.xi));
    const Vector B = densityOf(m_problem.media[size_t(piece)],
                               variables(strength(order(), hit.cell, hit.xi)), 1);
    return {hit, stretch.shrunk(slopeTimes(B, d))};
}

MagneticField::Values SolidMagneticSolver::derivativeBy(const LocalFunctional& functional,
                                                        int order) const
{
    if (!functional.motion)
        return MagneticField::derivativeBy(functional, order);
    const Motion& motion = *functional.motion;
    auto by = workDerivative(m_mesh, m_partition, order, motion, shiftOf(motion.pieces),
                             [this](int t, const Point& xi, const Point& slope, const Point& v) {
                                 const Point H = strength(this->order(), t, xi);
                                 const MagneticMedium& m =
                                     m_problem.media[size_t(m_mesh.piece[size_t(t)])];
                                 const Vector B = densityOf(m, variables(H), 1);
                                 const Point b{B[0].v, B[1].v, B[2].v};
                                 return m_problem.scale * (dot(H, v) * slopeTimes(B, slope) +
                                                           dot(b, slope) * v - dot(slope, v) * b);
                             });
    return {std::move(by)};
}

void SolidMagneticSolver::sample(int cell, const Point& xi, double* values) const
{
    const auto [B, H] = state(order(), cell, xi, 0);
    for (const Point& v : {B, H})
        for (const double x : {v.x, v.y, v.z})
            *values++ = x;
    *values = m_problem.energy(m_mesh.piece[size_t(cell)], B);
}

std::vector<SingularCorner> SolidMagneticSolver::singularCorners() const
{
    CornerProblem c;
    c.held = m_problem.held;
    c.coefficient = [this](int piece, const Point&) { return m_problem.media[size_t(piece)].mu; };
    return findSingularCorners(c, m_mesh, m_partition);
}

Point SolidMagneticSolver::unit(int order, int coil, int cell, const Point& xi,
                                const shape::OpenShell::Stretch& stretch) const
{
    return stretch.shrunk(windings().at(coil, order, cell, xi));
}

template <class Look>
void SolidMagneticSolver::overWindings(int order, Look visit) const
{
    const auto& rule = fem::cellRule(3, fem::termDegree(3, order));
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        if (!windings().touches(t))
            continue;
        const mesh::Geometry g(m_mesh, t);
        for (const auto& q : rule) {
            const auto stretch = m_problem.stretchAt(m_mesh.piece[size_t(t)], g.at(q.xi));
            visit(t, q.xi, q.w * g.determinant(q.xi) * m_problem.contentOf(stretch), stretch);
        }
    }
}

double SolidMagneticSolver::linkage(int order, int coil) const
{
    double sum = 0;
    overWindings(order, [&](int t, const Point& xi, double w, const auto& stretch) {
        sum += w * dot(state(order, t, xi, 0).B, unit(order, coil, t, xi, stretch));
    });
    return m_problem.scale * m_problem.coils[size_t(coil)].share * sum;
}

MagneticField::Values SolidMagneticSolver::sourceOf(int order, int coil) const
{
    Values f(1, std::vector<double>(size_t(m_space.count(order)), 0.0));
    int number[fem::mostLocal];
    double sign[fem::mostLocal];
    fem::Basis b;
    overWindings(order, [&](int t, const Point& xi, double w, const auto& stretch) {
        const Point T = unit(order, coil, t, xi, stretch);
        const MagneticMedium& m = m_problem.media[size_t(m_mesh.piece[size_t(t)])];
        const Point flux =
            w * stretch.shrunk(slopeTimes(densityOf(m, variables(strength(order, t, xi)), 1), T));
        m_space.local(t, number, sign);
        fem::basis(3, order, xi, b);
        Point row[3];
        mesh::Geometry(m_mesh, t).inverse(xi, row);
        for (int i = 0; i < m_space.localCount(order); ++i)
            f[0][size_t(number[i])] +=
                sign[i] * dot(flux, b.d[0][i] * row[0] + b.d[1][i] * row[1] + b.d[2][i] * row[2]);
    });
    return f;
}

std::vector<double> SolidMagneticSolver::inductances(int order) const
{
    const size_t n = m_problem.coils.size();
    std::vector<double> L(n * n, 0.0);
    // What T alone links, at this state; then what phi takes away from it.
    overWindings(order, [&](int t, const Point& xi, double w, const auto& stretch) {
        const Vector B = densityOf(m_problem.media[size_t(m_mesh.piece[size_t(t)])],
                                   variables(strength(order, t, xi)), 1);
        std::vector<Point> T;
        for (size_t k = 0; k < n; ++k)
            T.push_back(unit(order, int(k), t, xi, stretch));
        for (size_t k = 0; k < n; ++k) {
            const Point flux = slopeTimes(B, T[k]);
            for (size_t i = 0; i < n; ++i)
                L[i * n + k] += w * dot(T[i], flux);
        }
    });
    const auto& units = unitFields(order);
    for (size_t i = 0; i < n; ++i) {
        const Values source = sourceOf(order, int(i));
        for (size_t k = 0; k < n; ++k) {
            for (size_t j = 0; j < source[0].size(); ++j)
                L[i * n + k] -= source[0][j] * units[k][0][j];
            L[i * n + k] *= m_problem.scale * m_problem.coils[i].share;
        }
    }
    return L;
}

}  // namespace yh::physics
