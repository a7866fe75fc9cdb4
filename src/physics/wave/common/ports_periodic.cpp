// Ports between periodic sides: plane waves of the space behind them, one for each direction into
// which a chain or lattice of devices can scatter.
//
//   e = (direction) exp(-j k_t . r) / sqrt(face),   k_t . shift = phase + 2 pi m   for every pair,
//
// along k_t where H lies in the face (TM) and across it where E does (TE). Without k_t they point
// where they would for a small phase of the first pair.
// Source: Amitay, Galindo and Wu, Theory and Analysis of Phased Array Antennas, 1972, chapter 2
// (from memory).
#include "physics/common/constants.h"
#include "physics/wave/common/port_face.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace yh::physics {

namespace {

using Complex = std::complex<double>;

/// The lattice of the periodic pairs in the plane of a port.
class Lattice
{
public:
    Lattice(const WaveProblem& problem, const WavePort& port, const mesh::Mesh& mesh,
            const Point& normal)
        : m_phases(problem.phases),
          m_slant(problem.slant),
          m_middle(pi * (problem.low + problem.high) / c0)
    {
        std::vector<Point> shifts;
        for (const auto& pair : problem.periodic)
            shifts.push_back(pair.shift);
        const size_t wanted = mesh.dimension == 3 ? 2 : 1;
        bool fits = shifts.size() == wanted;
        for (const Point& s : shifts)
            fits = fits && std::abs(dot(s, normal)) < 1e-6 * norm(s);
        if (!fits)
            throw base::Error(6247,
                              mesh.dimension == 3
                                  ? "a port between periodic sides lies in the plane of two pairs"
                                  : "a port between periodic sides lies along their shift",
                              {port.line, "on", -1});
        if (wanted == 1) {
            m_reciprocal = {(1 / dot(shifts[0], shifts[0])) * shifts[0]};
            return;
        }
        const Point across = cross(shifts[0], shifts[1]);
        const double area2 = dot(across, across);
        m_reciprocal = {(1 / area2) * cross(shifts[1], across),
                        (1 / area2) * cross(across, shifts[0])};
    }
    /// k_t for a wave number of vacuum; 0: what does not grow with it.
    [[nodiscard]] Point wave(const std::array<int, 2>& m, double vacuum) const
    {
        Point k = vacuum * m_slant;
        for (size_t q = 0; q < m_reciprocal.size(); ++q)
            k = k + (m_phases[q] + 2 * pi * m[q]) * m_reciprocal[q];
        return k;
    }
    /// That of order 0, then by rising k_t.
    [[nodiscard]] std::vector<std::array<int, 2>> lowest(int count) const
    {
        std::vector<int> row{0};
        for (int i = 1; i <= count + 2; ++i)
            row.insert(row.end(), {i, -i});
        std::vector<std::array<int, 2>> list;
        for (const int a : row)
            for (const int b : m_reciprocal.size() == 2 ? row : std::vector<int>{0})
                list.push_back({a, b});
        // Waves of one k_t keep their order.
        const double unit = 1e-9 * dot(m_reciprocal[0], m_reciprocal[0]);
        auto rank = [&](const std::array<int, 2>& m) {
            const Point k = wave(m, m_middle);
            return std::llround(dot(k, k) / unit);
        };
        std::stable_sort(list.begin() + 1, list.end(),
                         [&](const auto& a, const auto& b) { return rank(a) < rank(b); });
        list.resize(std::min(list.size(), size_t(count)));
        return list;
    }
    /// The least that k_t of order 1 of the first pair can be.
    [[nodiscard]] Point first() const { return 2 * pi * m_reciprocal[0]; }
    /// Where k_t points for a small phase of the first pair.
    [[nodiscard]] Point straight() const { return (1 / norm(m_reciprocal[0])) * m_reciprocal[0]; }

private:
    const std::vector<double>& m_phases;
    Point m_slant;
    double m_middle;                  ///< wave number of vacuum in the middle of the band
    std::vector<Point> m_reciprocal;  ///< over 2 pi
};

/// How much of the rim of a port lies on periodic sides, from 0 to 1.
double sharedRim(const std::vector<int>& sides, const mesh::Mesh& mesh)
{
    const auto& same = mesh.dimension == 3 ? mesh.twins.edge : mesh.twins.vertex;
    std::map<int, int> count, twins;
    for (size_t i = 0; i < same.size(); ++i)
        ++twins[same[i]];
    for (const int s : sides)
        if (mesh.dimension == 3) {
            int n = 0;
            const auto edges = mesh.sideEdges(s, n);
            for (int k = 0; k < n; ++k)
                ++count[edges[size_t(k)]];
        } else
            for (const int v : mesh.sideCorners(s))
                ++count[v];
    int rim = 0, shared = 0;
    for (const auto& [i, times] : count)
        if (times == 1) {
            ++rim;
            shared += twins[same[size_t(i)]] > 1;
        }
    return double(shared) / rim;
}

}  // namespace

bool isBetweenPeriodicSides(const WavePort& port, const mesh::Mesh& mesh)
{
    if (mesh.twins.empty())
        return false;
    const double share = sharedRim(sidesOf(port, mesh), mesh);
    if (share > 0 && share < 1)
        throw base::Error(6246,
                          "this port ends at periodic sides and at others too; it must reach from "
                          "one periodic side to the next, or touch none",
                          {port.line, "on", -1});
    return share > 0;
}

std::vector<PortMode> spaceHarmonics(const WaveProblem& problem, const WavePort& port,
                                     const fem::EdgeSpace& space, int order)
{
    const mesh::Mesh& mesh = space.mesh();
    if (port.severalMedia)
        throw base::Error(6248, "behind a port between periodic sides there is one medium",
                          {port.line, "on", -1});
    const auto sides = sidesOf(port, mesh);
    double face = 0;
    Point normal;
    fem::onSides(
        mesh, problem.measure, 2,
        [&](int s, int t) {
            return mesh.sideCells[size_t(s)][0] == t &&
                   std::find(sides.begin(), sides.end(), s) != sides.end();
        },
        [&](int, int, const Point&, const Point&, const Point& n) {
            face += norm(n);
            normal = n;
        });
    normal = (1 / norm(normal)) * normal;
    // The same across direction on both faces of a layer.
    if (normal.x + 0.618 * normal.y + 0.382 * normal.z < 0)
        normal = -1.0 * normal;
    const Lattice lattice(problem, port, mesh, normal);
    const bool solid = mesh.dimension == 3, across = !space.kind().hasEdges();
    constexpr int many = 6;
    std::vector<PortMode> list;
    for (const auto& m : lattice.lowest(port.modes)) {
        const Point fixed = lattice.wave(m, 0);
        // A wave that comes at a slant is the field's own factor; what is left does not turn.
        auto load = [&](const Point& e) {
            auto part = [&](bool real) {
                return fem::sideLoad(space, order, sides, problem.measure, [&](int, Point p) {
                    const double turn = dot(fixed, p);
                    return (real ? std::cos(turn) : -std::sin(turn)) / std::sqrt(face) * e;
                });
            };
            auto re = part(true);
            const auto im = part(false);
            std::vector<Complex> value;
            for (size_t i = 0; i < re.value.size(); ++i)
                value.emplace_back(re.value[i], im.value[i]);
            return std::pair{std::move(re.number), std::move(value)};
        };
        auto add = [&](PortMode::Kind kind, const std::function<Point(double)>& direction,
                       bool runs) {
            PortMode mode;
            mode.kind = kind;
            mode.cutoff = dot(fixed, fixed);
            mode.slant = 2 * dot(fixed, problem.slant);
            mode.slant2 = dot(problem.slant, problem.slant);
            mode.space = m;
            if (runs)
                mode.places = chebyshevPoints(problem.low, problem.high, many);
            for (const double f : runs ? mode.places : std::vector<double>{problem.shown}) {
                auto [numbers, value] = load(direction(2 * pi * f / c0));
                mode.number = std::move(numbers);
                mode.harmonics.push_back(std::move(value));
            }
            list.push_back(std::move(mode));
        };
        auto along = [&](double vacuum) {
            const Point k = lattice.wave(m, vacuum);
            const double size = norm(k);
            return size > 1e-9 * norm(lattice.first()) ? (1 / size) * k : lattice.straight();
        };
        // Only what runs askew to the slant turns with the frequency.
        const bool runs =
            problem.high > problem.low && norm(problem.slant) > 0 && (m[0] != 0 || m[1] != 0);
        if (across)
            add(
                PortMode::Kind::te,
                [](double) {
                    return Point{0, 0, 1};
                },
                false);
        else if (!solid)
            add(
                PortMode::Kind::tm, [&](double) { return lattice.straight(); }, false);
        else {
            add(
                PortMode::Kind::te, [&](double k) { return cross(normal, along(k)); }, runs);
            add(PortMode::Kind::tm, along, runs);
        }
    }
    list.resize(size_t(port.modes));
    return list;
}

PortMode slowestLeftOut(const WaveProblem& problem, const WavePort& port, const mesh::Mesh& mesh,
                        double frequency)
{
    WavePort more = port;
    constexpr int next = 6;
    more.modes += next;
    const auto list = spaceHarmonics(problem, more, fem::EdgeSpace(mesh, 1, problem.kind), 1);
    const double eps = problem.portEps(port, frequency);
    auto speed = [&](const PortMode& m) {
        const Complex beta = m.beta(frequency, eps, port.mu);
        return beta.real() + beta.imag();
    };
    return *std::max_element(list.begin() + port.modes, list.end(),
                             [&](const auto& a, const auto& b) { return speed(a) < speed(b); });
}

}  // namespace yh::physics
