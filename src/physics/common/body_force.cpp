#include "physics/common/body_force.h"

#include <Eigen/IterativeLinearSolvers>
#include <Eigen/SparseCore>

#include <limits>
#include <set>

namespace yh::physics {

namespace {

/// What bounds the modelled part where the body is cut by it as well: it goes on beyond.
std::array<bool, 4> cutsOf(const shape::Partition& partition, const std::vector<int>& pieces)
{
    std::array<bool, 4> cut{};
    for (const int f : pieces)
        for (const int e : partition.pieces()[size_t(f)].sides)
            if (const int by = partition.sides()[size_t(e)].cut; by >= 0)
                cut[size_t(by)] = true;
    return cut;
}

constexpr double isFree = std::numeric_limits<double>::infinity();

/// By vertex: 1 on the body, 0 where it must not go along, isFree in between.
std::vector<double> heldShift(const mesh::Mesh& mesh, const shape::Partition& partition,
                              fem::Measure measure, const std::vector<int>& pieces,
                              const std::vector<char>& plain)
{
    const auto body = flags(pieces, partition.pieces().size());
    std::array<bool, 4> goesOn = cutsOf(partition, pieces);
    goesOn[0] = goesOn[0] || measure != fem::Measure::plane;  // the axis holds nothing
    std::vector<double> held(size_t(mesh.vertexCount()), 0.0);
    for (int t = 0; t < mesh.cellCount(); ++t)
        if (const auto f = size_t(mesh.piece[size_t(t)]); plain[f] && !body[f])
            for (const int v : mesh.corners(t))
                held[size_t(v)] = isFree;
    auto hold = [&](double value, auto which) {
        for (int e = 0; e < mesh.sideCount(); ++e)
            if (const int c = mesh.sideTag[size_t(e)];
                c >= 0 && which(partition.sides()[size_t(c)]))
                for (const int v : mesh.sideCorners(e))
                    held[size_t(v)] = value;
    };
    hold(0, [&](const shape::Side& s) { return s.cut < 0 || !goesOn[size_t(s.cut)]; });
    hold(1, [&](const shape::Side& s) {
        return std::any_of(s.pieces.begin(), s.pieces.end(),
                           [&](int f) { return bool(body[size_t(f)]); });
    });
    return held;
}

/// Fills what is free with a potential between what is held, by linear elements.
void fillByPotential(const mesh::Mesh& mesh, const std::vector<char>& plain,
                     std::vector<double>& value)
{
    std::vector<int> row(value.size(), -1);
    int rows = 0;
    for (size_t v = 0; v < value.size(); ++v)
        if (value[v] == isFree)
            row[v] = rows++;
    std::vector<Eigen::Triplet<double>> entries;
    Eigen::VectorXd rhs = Eigen::VectorXd::Zero(rows);
    for (int t = 0; t < mesh.cellCount(); ++t) {
        if (!plain[size_t(mesh.piece[size_t(t)])])
            continue;
        const mesh::Geometry g(mesh, t);
        Point slope[4];
        const double det = g.inverse(g.centre(), slope + 1);
        for (int i = 1; i <= mesh.dimension; ++i)
            slope[0] = slope[0] - slope[i];
        const auto corner = mesh.corners(t);
        for (size_t i = 0; i < corner.size(); ++i)
            for (size_t j = 0; j < corner.size(); ++j) {
                const int r = row[size_t(corner[i])], c = row[size_t(corner[j])];
                const double k = det * dot(slope[i], slope[j]);
                if (r >= 0 && c >= 0)
                    entries.emplace_back(r, c, k);
                else if (r >= 0)
                    rhs[r] -= k * value[size_t(corner[j])];
            }
    }
    Eigen::SparseMatrix<double, Eigen::RowMajor> K(rows, rows);
    K.setFromTriplets(entries.begin(), entries.end());
    Eigen::ConjugateGradient<decltype(K), Eigen::Lower | Eigen::Upper> solver(K);
    // Any fall will do, a smooth one better: no need to be exact.
    constexpr int steps = 100;
    constexpr double rough = 1e-4;
    solver.setMaxIterations(steps);
    solver.setTolerance(rough);
    const Eigen::VectorXd u = solver.solve(rhs);
    for (size_t v = 0; v < value.size(); ++v)
        if (row[v] >= 0)
            value[v] = std::clamp(u[row[v]], 0.0, 1.0);
}

}  // namespace

std::vector<double> bodyShift(const mesh::Mesh& mesh, const shape::Partition& partition,
                              fem::Measure measure, const std::vector<int>& pieces,
                              const std::vector<char>& plain)
{
    std::vector<double> shift = heldShift(mesh, partition, measure, pieces, plain);
    fillByPotential(mesh, plain, shift);
    for (double& w : shift)
        w *= w * (3 - 2 * w);
    return shift;
}

std::vector<FallingCell> fallingCells(const mesh::Mesh& mesh, const std::vector<char>& body,
                                      const std::vector<double>& shift)
{
    std::vector<FallingCell> cells;
    for (int t = 0; t < mesh.cellCount(); ++t) {
        if (body[size_t(mesh.piece[size_t(t)])])
            continue;
        FallingCell c{t, {}};
        const auto corner = mesh.corners(t);
        bool falls = false;
        for (size_t i = 0; i < corner.size(); ++i) {
            c.shift[i] = shift[size_t(corner[i])];
            falls = falls || c.shift[i] != c.shift[0];
        }
        if (falls)
            cells.push_back(c);
    }
    return cells;
}

Motion motionOf(const std::vector<int>& pieces,
                const std::function<double(const BodyForce&)>& figure)
{
    auto by = [&figure](Point BodyForce::*part) {
        Point v;
        for (double Point::*axis : {&Point::x, &Point::y, &Point::z}) {
            BodyForce one;
            one.*part.*axis = 1;
            v.*axis = figure(one);
        }
        return v;
    };
    return {pieces, by(&BodyForce::force), by(&BodyForce::torque)};
}

std::vector<LocalFunctional> movedBy(const Motion& motion)
{
    if (norm(motion.shift) + norm(motion.turn) == 0)
        return {};
    LocalFunctional work;
    work.motion = motion;
    return {work};
}

bool isInOneMedium(const shape::Partition& partition, const std::vector<int>& pieces,
                   const std::vector<std::string>& material, std::string& trouble)
{
    const auto body = flags(pieces, partition.pieces().size());
    std::set<std::string> around;
    for (const int f : pieces)
        for (const int e : partition.pieces()[size_t(f)].sides)
            for (const int other : partition.sides()[size_t(e)].pieces)
                if (!body[size_t(other)])
                    around.insert(material[size_t(other)]);
    if (around.size() > 1) {
        trouble = "the body touches";
        for (const std::string& m : around)
            trouble += (m == *around.begin() ? " " : ", ") + (m.empty() ? "a conductor" : m);
        trouble += ": how its force divides over these is not defined by the field alone";
    }
    return around.size() <= 1;
}

WholeBody::WholeBody(const shape::Partition& partition, const std::vector<int>& pieces,
                     const std::array<bool, 3>& mirror, int wedges)
{
    for (const int f : pieces)
        for (const int e : partition.pieces()[size_t(f)].sides) {
            const int cut = partition.sides()[size_t(e)].cut;
            if (cut == shape::Side::wedge)
                m_wedge = true;
            else if (cut >= 0 && mirror[size_t(cut)])
                m_cut[size_t(cut)] = true;
        }
    for (size_t k = 0; k < 3; ++k)
        if (mirror[k] && !m_cut[k])
            m_share *= 0.5;
    if (!m_wedge)
        m_share /= wedges;
}

BodyForce WholeBody::of(BodyForce f) const
{
    Point &F = f.force, &T = f.torque;
    F = m_share * F;
    T = m_share * T;
    if (m_cut[0])
        F.x = T.y = T.z = 0;
    if (m_cut[1])
        F.y = T.x = T.z = 0;
    if (m_cut[2])
        F.z = T.x = T.y = 0;
    if (m_wedge) {
        F.x = F.y = 0;
        T = {};
    }
    return f;
}

std::vector<ForcePart> forceParts(bool torque, bool solid, bool axisymmetric)
{
    std::vector<ForcePart> parts;
    if (torque && solid)
        parts = {{"torque about x on ", &Point::x}, {"torque about y on ", &Point::y}};
    if (torque)
        parts.push_back({solid ? "torque about z on " : "torque on ", &Point::z});
    else if (axisymmetric)
        parts = {{"force along z on ", &Point::y}};
    else
        parts = {{"force along x on ", &Point::x}, {"force along y on ", &Point::y}};
    if (!torque && solid)
        parts.push_back({"force along z on ", &Point::z});
    for (ForcePart& part : parts)
        part.isTorque = torque;
    return parts;
}

}  // namespace yh::physics
