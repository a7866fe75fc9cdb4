// Corners where stress has no limit.
#include "physics/common/constants.h"
#include "physics/elastic/elastic.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

namespace {

/// Least exponent of the displacement at a corner of one medium, u ~ r^exponent; 1 where stress
/// keeps a limit. Real roots only: complex ones bend the field less than these.
/// Source: Williams, J. Appl. Mech. 19 (1952) 526 (from memory).
/// @param held  how many of its two sides cannot move
double exponentOf(double angle, int held, double kappa)
{
    auto f = [&](double x) {
        const double s = std::sin(x * angle), g = x * std::sin(angle);
        if (held == 0)
            return s * s - g * g;
        if (held == 2)
            return s * s - g * g / (kappa * kappa);
        return s * s - ((kappa + 1) * (kappa + 1) / (4 * kappa) - g * g / kappa);
    };
    constexpr int steps = 400;
    constexpr double first = 0.2, last = 0.999;
    for (int i = 0; i < steps; ++i) {
        const double a = first + (last - first) * i / steps,
                     b = first + (last - first) * (i + 1) / steps;
        if ((f(a) < 0) != (f(b) < 0))
            return 0.5 * (a + b);
    }
    return 1;
}

struct Corner
{
    double angle = 0;
    int sides = 0, held = 0, rolls = 0;
    double kappa = 2;
};

}  // namespace

std::vector<SingularCorner> ElasticSolver::corners(const ElasticProblem& problem,
                                                   const mesh::Mesh& mesh,
                                                   const shape::Partition& partition)
{
    std::vector<SingularCorner> list;
    if (mesh.dimension != 2)
        return list;
    std::vector<Corner> at(size_t(mesh.vertexCount()));
    for (int t = 0; t < mesh.cellCount(); ++t) {
        const ElasticMedium& m = problem.media[size_t(mesh.piece[size_t(t)])];
        if (!m.moves)
            continue;
        const auto corner = mesh.corners(t);
        const mesh::Geometry g(mesh, t);
        constexpr Point at3[3] = {{0, 0}, {1, 0}, {0, 1}};
        for (size_t k = 0; k < 3; ++k) {
            // By the tangents of curved sides.
            Point column[3];
            g.jacobian(at3[k], column);
            const Point &u = column[0], &v = column[1];
            const Point a = k == 0   ? u
                            : k == 1 ? v - u
                                     : Point{} - v,
                        b = k == 0   ? v
                            : k == 1 ? Point{} - u
                                     : u - v;
            Corner& c = at[size_t(corner[k])];
            c.angle += std::acos(std::clamp(dot(a, b) / (norm(a) * norm(b)), -1.0, 1.0));
            c.kappa = m.kappa;
        }
    }
    auto moves = [&](int cell) {
        return cell >= 0 && problem.media[size_t(mesh.piece[size_t(cell)])].moves;
    };
    for (int s = 0; s < mesh.sideCount(); ++s) {
        const auto& cells = mesh.sideCells[size_t(s)];
        if (moves(cells[0]) == moves(cells[1]))
            continue;
        const int tag = mesh.sideTag[size_t(s)];
        const bool x = tag >= 0 && problem.held[0][size_t(tag)],
                   y = tag >= 0 && problem.held[1][size_t(tag)];
        for (const int v : mesh.sideCorners(s)) {
            Corner& c = at[size_t(v)];
            ++c.sides;
            c.held += x && y;
            c.rolls += x != y;
        }
    }
    constexpr double strongest = 0.98;  // less would see corners where quadratic sides meet
    for (int v = 0; v < mesh.vertexCount(); ++v) {
        const Corner& c = at[size_t(v)];
        if (c.sides != 2)
            continue;
        // A plane on which it slides is one of symmetry.
        const double angle = c.rolls == 1 ? 2 * c.angle : c.angle;
        const int held = c.rolls == 1 ? 2 * c.held : c.held;
        if (c.rolls == 2 || angle > 2 * pi + 1e-6)
            continue;
        if (const double e = exponentOf(angle, held, c.kappa); e < strongest)
            list.push_back({v, mesh.vertices[size_t(v)], e});
    }
    if (!problem.isPiezo() && problem.electrodes.empty())
        return list;
    CornerProblem electric{problem.area,
                           [&problem](int piece, const Point&) {
                               return problem.media[size_t(piece)].eps.real()(0, 0);
                           },
                           std::vector<char>(partition.sides().size(), 0)};
    for (const auto& e : problem.electrodes)
        for (size_t s = 0; s < e.sides.size(); ++s)
            electric.held[s] |= e.sides[s];
    for (const SingularCorner& c : findSingularCorners(electric, mesh, partition))
        if (std::none_of(list.begin(), list.end(),
                         [&c](const auto& other) { return other.vertex == c.vertex; }))
            list.push_back(c);
    return list;
}

}  // namespace yh::physics
