// Modes of ports of drawings: a line across the guide, of length w, with places s along it.
//
// With E in the drawing, g = m h holds H across it (m the measure, 2 pi r round an axis):
//   (g' / (eps m))' + (k^2 mu - beta^2 / eps) g / m = 0,   E along the line = beta h / (omega eps),
// with g' = 0 at conductors and g = 0 at magnetic walls. With E across it, u = E:
//   (u' / mu)' + (k^2 eps - beta^2 / mu) u = 0,   H along the line = beta u / (omega mu),
// with u = 0 at conductors. Both by polynomials of a high degree on every stretch of one medium.
// Source: Collin, Field Theory of Guided Waves, sections 4.1 and 6.1 (from memory).
#include "base/quantity.h"
#include "fem/dense.h"
#include "fem/quadrature.h"
#include "physics/common/constants.h"
#include "physics/wave/common/port_face.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace yh::physics {

namespace {

/// The line, and functions on it.
class LineModes
{
public:
    struct Piece
    {
        double from, to;
        int cell;
    };

    /// Neighbouring pieces of one medium are one stretch.
    void join(const std::vector<Piece>& list, const mesh::Mesh& mesh)
    {
        for (const Piece& p : list) {
            isWhole = isWhole && (m_stretches.empty() ||
                                  std::abs(m_stretches.back().to - p.from) < 1e-9 * width);
            if (!m_stretches.empty() &&
                mesh.piece[size_t(m_stretches.back().cell)] == mesh.piece[size_t(p.cell)])
                m_stretches.back().to = p.to;
            else
                m_stretches.push_back({p.from, p.to, p.cell, mesh.piece[size_t(p.cell)]});
        }
    }

    LineModes(const WaveProblem& problem, const WavePort& port, const mesh::Mesh& mesh,
              std::span<const int> walls, bool across)
        : m_problem(problem), m_measure(across ? fem::Measure::plane : problem.measure)
    {
        sides = sidesOf(port, mesh);
        const auto first = mesh.sideCorners(sides[0]);
        auto at = [&](int v) { return mesh.vertices[size_t(v)]; };
        direction = at(first[1]) - at(first[0]);
        direction = (1 / norm(direction)) * direction;
        // One way on like ports.
        if (direction.x + 0.618 * direction.y < 0)
            direction = -1.0 * direction;
        std::map<int, int> count;
        std::set<int> held;
        for (const int s : walls)
            for (const int v : mesh.sideCorners(s))
                held.insert(v);
        std::vector<Piece> list;
        for (const int s : sides) {
            const auto c = mesh.sideCorners(s);
            const double a = dot(at(c[0]), direction), b = dot(at(c[1]), direction);
            const auto& cells = mesh.sideCells[size_t(s)];
            const bool second = cells[1] >= 0 && !problem.carries(mesh.piece[size_t(cells[0])]);
            list.push_back({std::min(a, b), std::max(a, b), second ? cells[1] : cells[0]});
            for (const int v : c)
                ++count[v];
        }
        std::sort(list.begin(), list.end(),
                  [](const Piece& a, const Piece& b) { return a.from < b.from; });
        m_origin = at(first[0]) - dot(at(first[0]), direction) * direction;
        start = list.front().from;
        width = list.back().to - start;
        join(list, mesh);
        for (const auto& [v, times] : count)
            if (times == 1)
                isHeld[dot(at(v), direction) > start + width / 2 ? 1 : 0] = held.count(v) > 0;
    }
    /// Number of functions, and which of them vanish at the ends.
    void build(int degree, bool zeroAtStart, bool zeroAtEnd)
    {
        m_degree = degree;
        const auto pieces = Eigen::Index(m_stretches.size());
        // Corners between the stretches, then those that vanish at both ends of one.
        m_corner.assign(size_t(pieces) + 1, -1);
        size = 0;
        for (Eigen::Index i = 0; i <= pieces; ++i)
            if (!(i == 0 && zeroAtStart) && !(i == pieces && zeroAtEnd))
                m_corner[size_t(i)] = size++;
        m_inner = size;
        size += pieces * (degree - 1);
    }
    /// Products of the functions: of their slopes over `stiff`, and of themselves.
    struct Matrices
    {
        Eigen::MatrixXd slopes, k2, beta2;
    };
    /// @param across  of E across the drawing
    [[nodiscard]] Matrices matrices(double frequency, bool across) const
    {
        Matrices out;
        for (auto* m : {&out.slopes, &out.k2, &out.beta2})
            m->setZero(size, size);
        const auto rule = fem::gaussLegendre(m_degree + 6);
        for (size_t p = 0; p < m_stretches.size(); ++p) {
            const Stretch& s = m_stretches[p];
            const double length = s.to - s.from;
            for (const auto& q : rule) {
                const double t = s.from + q.x * length, w = q.w * length;
                const Point place = m_origin + t * direction;
                const double m = fem::measureAt(m_measure, place), e = epsAt(s, place, frequency),
                             u = 1 / m_problem.inverseMu[size_t(s.piece)].value(s.cell, place).xx;
                const auto [value, slope] = functions(p, q.x);
                const double a = across ? 1 / u : 1 / (e * m), b = across ? e : u / m;
                out.slopes += (w * a / (length * length)) * slope * slope.transpose();
                out.k2 += (w * b) * value * value.transpose();
                out.beta2 += (w * a) * value * value.transpose();
            }
        }
        return out;
    }
    [[nodiscard]] double at(const Eigen::VectorXd& x, const Point& place) const
    {
        const double t = dot(place, direction);
        size_t p = 0;
        while (p + 1 < m_stretches.size() && t > m_stretches[p].to)
            ++p;
        const Stretch& s = m_stretches[p];
        return functions(p, (t - s.from) / (s.to - s.from)).first.dot(x);
    }
    /// Integral of a function with a weight that no symmetry makes vanish: fixes the sign.
    [[nodiscard]] double lean(const Eigen::VectorXd& x) const
    {
        constexpr double steep = 3;
        double sum = 0;
        for (const auto& q : fem::gaussLegendre(m_degree + 6))
            for (size_t p = 0; p < m_stretches.size(); ++p) {
                const Stretch& s = m_stretches[p];
                const double t = (s.from - start + q.x * (s.to - s.from)) / width;
                sum += q.w * (s.to - s.from) * std::exp(steep * t) * functions(p, q.x).first.dot(x);
            }
        return sum;
    }
    /// Integral of 1 / m along the line.
    [[nodiscard]] double voltage() const
    {
        double sum = 0;
        for (const auto& q : fem::gaussLegendre(m_degree + 6))
            for (const Stretch& s : m_stretches)
                sum += q.w * (s.to - s.from) /
                       fem::measureAt(m_measure,
                                      m_origin + (s.from + q.x * (s.to - s.from)) * direction);
        return sum;
    }
    /// Integral of h along the line for g = m h.
    [[nodiscard]] double current(const Eigen::VectorXd& x) const
    {
        double sum = 0;
        for (const auto& q : fem::gaussLegendre(m_degree + 6))
            for (size_t p = 0; p < m_stretches.size(); ++p) {
                const Stretch& s = m_stretches[p];
                const Point place = m_origin + (s.from + q.x * (s.to - s.from)) * direction;
                sum += q.w * (s.to - s.from) / fem::measureAt(m_measure, place) *
                       functions(p, q.x).first.dot(x);
            }
        return sum;
    }

    std::vector<int> sides;
    Point direction;
    double start = 0, width = 0;
    bool isWhole = true;           ///< without gaps
    std::array<bool, 2> isHeld{};  ///< whether a conductor is at its ends
    Eigen::Index size = 0;

private:
    struct Stretch
    {
        double from, to;
        int cell, piece;
    };
    [[nodiscard]] double epsAt(const Stretch& s, const Point& place, double frequency) const
    {
        const auto* d = m_problem.dispersiveOf(s.piece);
        return d ? d->eps(frequency, roomTemperature).real()
                 : m_problem.eps[size_t(s.piece)].value(s.cell, place).xx;
    }
    /// All functions and their slopes by x at a place of a stretch, from 0 to 1: ramps, and
    /// integrals of Legendre's polynomials.
    [[nodiscard]] std::pair<Eigen::VectorXd, Eigen::VectorXd> functions(size_t piece,
                                                                        double x) const
    {
        Eigen::VectorXd value = Eigen::VectorXd::Zero(size), slope = value;
        for (const size_t end : {0U, 1U})
            if (const auto n = m_corner[piece + end]; n >= 0) {
                value(n) = end ? x : 1 - x;
                slope(n) = end ? 1 : -1;
            }
        const double z = 2 * x - 1;
        double before = 1, now = z;
        for (int k = 2; k <= m_degree; ++k) {
            const double next = ((2 * k - 1) * z * now - (k - 1) * before) / k;
            const auto n = m_inner + Eigen::Index(piece) * (m_degree - 1) + k - 2;
            const double unit = std::sqrt((2 * k - 1) / 2.0);
            value(n) = unit * (next - before) / (2 * k - 1);
            slope(n) = 2 * unit * now;
            before = now;
            now = next;
        }
        return {std::move(value), std::move(slope)};
    }

    const WaveProblem& m_problem;
    fem::Measure m_measure;
    std::vector<Stretch> m_stretches;
    Point m_origin;
    int m_degree = 0;
    std::vector<Eigen::Index> m_corner;
    Eigen::Index m_inner = 0;
};

}  // namespace

std::vector<PortMode> lineModes(const WaveProblem& problem, const WavePort& port,
                                const fem::EdgeSpace& space, int order, std::span<const int> walls)
{
    const bool across = !space.kind().hasEdges();
    LineModes line(problem, port, space.mesh(), walls, across);
    const int count = port.modes;
    if (!line.isWhole && (count > 1 || port.severalMedia))
        throw base::Error(6254,
                          "this port has a gap; several modes or media need a line from end to end",
                          {port.line, "on", -1});
    if (!line.isWhole)
        return {};
    line.build(12 + 2 * count, line.isHeld[0] == across, line.isHeld[1] == across);
    /// What drives for a function on the line, over the measure or as it is.
    auto load = [&](const Eigen::VectorXd& x) {
        return fem::sideLoad(space, order, line.sides, problem.measure, [&](int, Point p) {
            const double v = line.at(x, p);
            return across ? Point{0, 0, v}
                          : v / fem::measureAt(problem.measure, p) * line.direction;
        });
    };
    auto turned = [&](Eigen::VectorXd x) { return line.lean(x) < 0 ? Eigen::VectorXd(-x) : x; };
    std::vector<PortMode> list;
    if (!port.severalMedia) {
        // Modes of one medium are those of vacuum, but for their frequencies.
        const auto m = line.matrices(problem.low, across);
        const auto found = fem::symmetricEigen(m.slopes, m.beta2);
        const double unit = 1 / (line.width * line.width);
        for (Eigen::Index k = 0; k < count; ++k) {
            PortMode mode;
            const double k2 = found.value(k);
            const bool tem = !across && k2 < 1e-6 * unit;
            mode.kind = across ? PortMode::Kind::te
                        : tem  ? PortMode::Kind::tem
                               : PortMode::Kind::tm;
            mode.cutoff = k2 < 1e-6 * unit ? 0 : k2;
            mode.line = tem ? 1 / line.voltage() : 0;
            // The products hold 1 / eps or 1 / mu of the medium.
            const double filling = across ? port.mu : problem.portEps(port, problem.low);
            auto found2 = load(turned(found.vector.col(k)) / std::sqrt(filling));
            mode.number = std::move(found2.number);
            mode.weight = std::move(found2.value);
            list.push_back(std::move(mode));
        }
        return list;
    }
    constexpr int many = 6;
    const auto places =
        chebyshevPoints(problem.low, problem.high, problem.high > problem.low ? many : 1);
    list.resize(size_t(count));
    for (const double f : places) {
        const double k = 2 * pi * f / c0;
        const auto m = line.matrices(f, across);
        const auto found = fem::symmetricEigen(m.slopes - k * k * m.k2, m.beta2);
        for (Eigen::Index i = 0; i < count; ++i) {
            const double beta2 = -found.value(i);
            if (!(beta2 > 0))
                throw base::Error(6242,
                                  "at " + base::format(f, base::dim::frequency, 4) +
                                      " fewer than " + std::to_string(count) +
                                      " mode(s) travel in the guide behind this port; with several "
                                      "media the band must begin above their cut-off",
                                  {port.line, "modes", -1});
            // The integral of e x h is beta / (omega eps0) g^2 / (eps m), or beta / (omega mu0)
            // u^2 / mu; the driving function is h across the line.
            const double beta = std::sqrt(beta2), omega = 2 * pi * f,
                         size = std::sqrt(across ? beta / (omega * mu0) : omega * eps0 / beta);
            PortMode& mode = list[size_t(i)];
            mode.kind = PortMode::Kind::hybrid;
            mode.places = places;
            Eigen::VectorXd x = size * turned(found.vector.col(i));
            mode.index.push_back(beta / k);
            if (!across && line.isHeld[0] && line.isHeld[1]) {
                const double current = line.current(x) / line.voltage();
                mode.lineImpedance.push_back(1 / (current * current));
            }
            fem::SideLoad now;
            if (across)
                // h = beta u / (omega mu0 mu); of one medium by place, as it stands at each side.
                now = fem::sideLoad(space, order, line.sides, problem.measure, [&](int s, Point p) {
                    const int cell = space.mesh().sideCells[size_t(s)][0];
                    const auto& a = problem.inverseMu[size_t(space.mesh().piece[size_t(cell)])];
                    return Point{0, 0, line.at(x, p) * a.value(cell, p).xx};
                });
            else
                now = load(x);
            mode.number = std::move(now.number);
            mode.weights.push_back(std::move(now.value));
        }
    }
    for (PortMode& mode : list)
        mode.weight = mode.weights[mode.weights.size() / 2];
    return list;
}

}  // namespace yh::physics
