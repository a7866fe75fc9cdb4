#include "physics/wave/common/ports.h"

#include "base/quantity.h"
#include "fem/dense.h"
#include "fem/eigen.h"
#include "physics/common/constants.h"
#include "physics/wave/common/port_face.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <set>

namespace yh::physics {

namespace {

void scale(std::vector<double>& x, double s)
{
    for (double& v : x)
        v *= s;
}

/// Modes with E along the guide: gradients of scalars that vanish on the rim.
struct Scalars
{
    std::vector<double> k2;
    std::vector<std::vector<double>> field;  ///< by edge function, integral of e^2 = 1
};
/** Fields of the scalar modes, of energy 1. */
void addGradients(const fem::EdgeSpace& space, const fem::H1Space& scalar, int order,
                  const fem::Numbering& numbering, const fem::EigenPairs& pairs, Scalars& out)
{
    for (size_t k = 0; k < pairs.value.size(); ++k) {
        std::vector<double> phi(size_t(scalar.count(order)), 0.0);
        for (size_t i = 0; i < pairs.vector[k].size(); ++i)
            phi[size_t(numbering.function[i])] = pairs.vector[k][i];
        out.k2.push_back(pairs.value[k]);
        out.field.push_back(space.gradient(scalar, order, phi));
        scale(out.field.back(), 1 / std::sqrt(pairs.value[k]));
    }
}

Scalars scalarModes(const fem::EdgeSpace& space, const fem::H1Space& scalar, int order,
                    const fem::ElementMatrices& stiffness, std::span<const int> walls,
                    std::span<const int> ranks, int count, double size, base::Progress& progress)
{
    const mesh::Mesh& m = space.mesh();
    const auto mass = fem::scalarMass(scalar, fem::Measure::plane);
    std::vector<char> isFree(size_t(scalar.count(order)), 1);
    for (const int s : walls)
        for (const int i : scalar.onSide(s, order))
            isFree[size_t(i)] = 0;
    const auto numbering = fem::nestedDissection(scalar, order, isFree, ranks);
    Scalars out;
    if (numbering.size() < 4)
        return out;
    fem::CellFunctions functions{
        &m, scalar.localCount(scalar.order()), scalar.localCount(order), {}};
    functions.number.resize(size_t(m.cellCount()) * size_t(functions.width));
    double sign[fem::mostLocal];
    for (int t = 0; t < m.cellCount(); ++t)
        scalar.local(t, &functions.number[size_t(t) * size_t(functions.width)], sign);
    const std::vector<fem::Term> terms{{&stiffness, {}}, {&mass, {}}};
    const auto family = fem::assemble(functions, terms, numbering);
    const fem::SymmetricProduct products(family, 0, 1);
    fem::EigenProblem e;
    e.size = family.size;
    e.shift = -1 / (size * size);
    const std::vector<double> shifted{1.0, -e.shift};
    const auto A = family.sum(shifted);
    fem::Cholesky factor;
    factor.analyse(A);
    factor.factorise(A);
    e.multiplyM = [&](const std::vector<double>& x, std::vector<double>& y) {
        products.multiply(1, x, y);
    };
    e.solveShifted = [&](std::vector<double>& x, int n) { factor.solve(x, n); };
    const auto pairs = fem::lowestEigenpairs(e, std::min(count, e.size / 3 + 1), progress);
    addGradients(space, scalar, order, numbering, pairs, out);
    return out;
}

}  // namespace

std::vector<double> chebyshevPoints(double low, double high, int count)
{
    std::vector<double> list;
    for (int i = 0; i < count; ++i)
        list.push_back(0.5 * (low + high) -
                       0.5 * (high - low) * std::cos((2 * i + 1) * pi / (2 * count)));
    return list;
}

Eigen::VectorXd chebyshevWeights(const std::vector<double>& points, double at)
{
    const auto n = Eigen::Index(points.size());
    Eigen::VectorXd w(n);
    for (Eigen::Index i = 0; i < n; ++i) {
        const double away = at - points[size_t(i)];
        if (away == 0 || n == 1)
            return Eigen::VectorXd::Unit(n, i);
        w(i) = (i % 2 == 0 ? 1 : -1) * std::sin(double(2 * i + 1) * pi / double(2 * n)) / away;
    }
    return w / w.sum();
}

Eigen::VectorXd PortMode::shares(double frequency) const
{
    return places.empty() ? Eigen::VectorXd::Ones(1) : chebyshevWeights(places, frequency);
}

std::complex<double> PortMode::beta(double frequency, double eps, double mu) const
{
    if (kind == Kind::hybrid)
        return 2 * pi * frequency / c0 * between(index, frequency);
    const double k = 2 * pi * frequency / c0,
                 square = k * k * (eps * mu - slant2) - slant * k - cutoff;
    return square >= 0 ? std::complex<double>(std::sqrt(square))
                       : std::complex<double>(0, -std::sqrt(-square));
}

std::complex<double> PortMode::waveImpedance(double frequency, double eps, double mu) const
{
    const double omega = 2 * pi * frequency;
    if (kind == Kind::hybrid)
        return 1;  // its fields already carry the power of their product
    if (isInWire()) {
        const double eta = mu0 * c0 / smoothing(omega / c0 * smooth);
        return eta * eta / resistance;
    }
    if (kind == Kind::lumped)
        return resistance * line;
    if (kind == Kind::tem)
        return mu0 * c0 * std::sqrt(mu / eps);
    if (kind == Kind::te)
        return omega * mu0 * mu / beta(frequency, eps, mu);
    return beta(frequency, eps, mu) * mu0 * c0 * c0 / (omega * eps);
}

double PortMode::impedance(double frequency, double eps, double mu) const
{
    if (kind == Kind::hybrid)
        return isLine() ? between(lineImpedance, frequency) : mu0 * c0 / between(index, frequency);
    if (isInWire())
        return resistance;
    const double z = waveImpedance(frequency, eps, mu).real();
    return kind == Kind::tem || kind == Kind::lumped ? z / line : z;
}

double PortMode::cutoffFrequency(double eps, double mu) const
{
    const double square = eps * mu - slant2;
    return c0 / (4 * pi * square) *
           (slant + std::sqrt(slant * slant + 4 * square * std::max(cutoff, 0.0)));
}

namespace {

/// The mode of a gap, or of lines in a row, of a drawing between two conductors: its field falls as
/// 1 over the measure, as that of a plate line, or round an axis that of a coaxial line or of a gap
/// in a rod.
PortMode lineMode(const WavePort& port, const fem::EdgeSpace& space, int order,
                  fem::Measure measure)
{
    const mesh::Mesh& mesh = space.mesh();
    const auto sides = sidesOf(port, mesh);
    const auto ends = mesh.sideCorners(sides[0]);
    Point direction = mesh.vertices[size_t(ends[1])] - mesh.vertices[size_t(ends[0])];
    direction = (1 / norm(direction)) * direction;
    if (direction.x + 0.618 * direction.y < 0)
        direction = -1.0 * direction;
    // V = integral of C / m along the line.
    double across = 0;
    fem::onSides(
        mesh, fem::Measure::plane, 8,
        [&](int s, int t) {
            return mesh.sideCells[size_t(s)][0] == t &&
                   std::find(sides.begin(), sides.end(), s) != sides.end();
        },
        [&](int, int, const Point&, const Point& p, const Point& n) {
            across += norm(n) / fem::measureAt(measure, p);
        });
    PortMode mode;
    mode.kind = port.resistance > 0 ? PortMode::Kind::lumped : PortMode::Kind::tem;
    mode.line = 1 / across;
    mode.resistance = port.resistance / port.whole;
    auto load = fem::sideLoad(space, order, sides, measure, [&](int, Point p) {
        return std::sqrt(mode.line) / fem::measureAt(measure, p) * direction;
    });
    mode.number = std::move(load.number);
    mode.weight = std::move(load.value);
    return mode;
}

/// The modes of a line of a drawing with E across it: TE modes, whose curl across the line has the
/// cut-off for its size.
std::vector<PortMode> modesAcross(const WavePort& port, int count, const fem::EdgeSpace& space,
                                  int order, std::span<const int> walls, fem::Measure measure)
{
    const mesh::Mesh& mesh = space.mesh();
    const auto sides = sidesOf(port, mesh);
    std::map<int, int> place;  // of the functions that are free
    std::set<int> held;
    for (const int s : walls)
        for (const int i : space.onSide(s, order))
            held.insert(i);
    const auto samples = fem::sideSamples(space, order, sides, measure);
    for (const auto& s : samples)
        for (const int i : s.number)
            if (!held.count(i))
                place.try_emplace(i, int(place.size()));
    const auto n = Eigen::Index(place.size());
    if (n < count)
        throw base::Error(6212, "the mesh of this port is too coarse for that many modes",
                          {port.line, "modes", -1});
    Eigen::MatrixXd K = Eigen::MatrixXd::Zero(n, n), M = K;
    // A weight that no symmetry makes vanish: like ports get like signs.
    Eigen::VectorXd lean = Eigen::VectorXd::Zero(n);
    const Point origin = samples[0].points[0].place;
    double length = 0;
    for (const auto& s : samples)
        for (const auto& p : s.points)
            length = std::max(length, norm(p.place - origin));
    for (const auto& s : samples)
        for (const auto& p : s.points)
            for (size_t i = 0; i < s.number.size(); ++i) {
                if (held.count(s.number[i]))
                    continue;
                const Eigen::Index a = place.at(s.number[i]);
                const double away = dot(p.place - origin, {1.0, 0.618, 0}) / length;
                lean(a) += p.weight * std::exp(3 * away) * p.along[i].z;
                for (size_t j = 0; j < s.number.size(); ++j) {
                    if (held.count(s.number[j]))
                        continue;
                    const Eigen::Index b = place.at(s.number[j]);
                    K(a, b) += p.weight * p.curl[i] * p.curl[j];
                    M(a, b) += p.weight * dot(p.along[i], p.along[j]);
                }
            }
    const auto found = fem::symmetricEigen(K, M);
    std::vector<PortMode> list;
    for (Eigen::Index k = 0; k < count; ++k) {
        Eigen::VectorXd x = found.vector.col(k);
        if (lean.dot(x) < 0)
            x = -x;
        PortMode mode;
        mode.kind = PortMode::Kind::te;
        mode.cutoff = std::max(found.value(k), 0.0);
        const Eigen::VectorXd weight = M * x;
        for (const auto& [function, at] : place) {
            mode.number.push_back(function);
            mode.weight.push_back(weight(at));
        }
        list.push_back(std::move(mode));
    }
    return list;
}

}  // namespace

PortMode wireMode(const WaveProblem& problem, const WavePort& port, int order)
{
    const ThinWires& wires = problem.wires;
    PortMode mode;
    mode.kind = PortMode::Kind::lumped;
    mode.resistance = port.resistance / port.whole;
    mode.smooth = wires.smooth * std::sqrt(wires.medium());
    const auto mean = WireCurrents(wires, order + 1).gap(port.wireNode, port.gap);
    for (size_t i = 0; i < mean.size(); ++i)
        if (mean[i] != 0) {
            mode.number.push_back(-1 - int(i));
            mode.weight.push_back(mean[i]);
        }
    return mode;
}

std::vector<PortMode> portModes(const WaveProblem& problem, const WavePort& port,
                                const fem::EdgeSpace& space, int order, std::span<const int> walls,
                                base::Progress& progress)
{
    const int count = port.modes;
    const fem::Measure measure = problem.measure;
    if (port.wireNode >= 0)
        return {wireMode(problem, port, order)};
    if (port.resistance == 0 && isBetweenPeriodicSides(port, space.mesh()))
        return spaceHarmonics(problem, port, space, order);
    const bool lumped = port.resistance > 0, drawing = space.mesh().dimension == 2;
    if (drawing && !lumped && space.kind().parts != fem::EdgeKind::round)
        if (auto modes = lineModes(problem, port, space, order, walls); !modes.empty())
            return modes;
    if (port.severalMedia)
        return modesOfMedia(problem, port, count, space, order, walls, progress);
    if (!space.kind().hasEdges())
        return modesAcross(port, count, space, order, walls, measure);
    if (drawing)
        return {lineMode(port, space, order, measure)};
    const Face face(port, space.mesh(), walls);
    const fem::EdgeSpace plane(face.mesh, order);
    const fem::H1Space scalar(face.mesh, order);
    // Modes of one medium are those of vacuum, but for their frequencies.
    const std::vector<fem::Coefficient> one(problem.eps.size());
    const auto elements = fem::edgeElements(plane, one, one, fem::Measure::plane);
    const auto gradients = fem::stiffness(scalar, one, fem::Measure::plane);
    const auto ranks = fem::cornerRanks(face.mesh);
    double size = 0;
    for (const Point& p : face.mesh.vertices)
        size = std::max(size, norm(p - face.mesh.vertices[0]));

    struct Found
    {
        PortMode mode;
        std::vector<double> field;
    };
    std::vector<Found> found;
    Gradients potentials(plane, scalar, order, gradients, face.rim, ranks);
    for (auto& field : potentials.betweenWalls()) {
        Found f;
        f.mode.kind = lumped ? PortMode::Kind::lumped : PortMode::Kind::tem;
        // Several conductors: each next field without what it shares with those before.
        for (const Found& other : found) {
            const auto weighted = fem::product(plane, order, elements.mass, field);
            const double share =
                std::inner_product(weighted.begin(), weighted.end(), other.field.begin(), 0.0);
            for (size_t i = 0; i < field.size(); ++i)
                field[i] -= share * other.field[i];
        }
        const auto weighted = fem::product(plane, order, elements.mass, field);
        f.mode.line = std::inner_product(weighted.begin(), weighted.end(), field.begin(), 0.0);
        scale(field, 1 / std::sqrt(f.mode.line));
        f.field = std::move(field);
        found.push_back(std::move(f));
    }
    if (lumped && found.size() != 1)
        throw base::Error(6222,
                          "a lumped port joins two conductors; the edge of this one touches " +
                              std::string(found.empty() ? "fewer" : "more"),
                          {port.line, "on", -1});
    if (lumped)
        found[0].mode.resistance = port.resistance / port.whole;
    if (int(found.size()) < count) {
        ResonanceSearch search{plane, scalar, elements, gradients, face.rim, ranks};
        search.order = order;
        search.count = count;
        search.size = size;
        Counters counters;
        Resonances te;
        try {
            te = findResonances(search, counters, progress);
        } catch (const base::Error& e) {
            constexpr int tooCoarse = 5025;
            if (e.fault().number != tooCoarse)
                throw;
            throw base::Error(6212,
                              "the mesh of this port is too coarse for its modes; add a line such "
                              "as `cells up to " +
                                  base::format(size / 6, base::dim::length, 2) + " in …`",
                              {port.line, "on", -1});
        }
        for (size_t k = 0; k < te.k2.size(); ++k)
            found.push_back({{PortMode::Kind::te, te.k2[k], 0, {}, {}}, te.field[k]});
        const auto tm =
            scalarModes(plane, scalar, order, gradients, face.rim, ranks, count, size, progress);
        for (size_t k = 0; k < tm.k2.size(); ++k)
            found.push_back({{PortMode::Kind::tm, tm.k2[k], 0, {}, {}}, tm.field[k]});
    }
    std::stable_sort(found.begin(), found.end(),
                     [](const Found& a, const Found& b) { return a.mode.cutoff < b.mode.cutoff; });
    // TE and TM of one cut-off differ by what the mesh makes of them: they keep one order on all
    // meshes, so that channels do not change places from pass to pass.
    constexpr double near = 3e-3;
    for (size_t k = 0; k + 1 < found.size(); ++k)
        if (found[k].mode.kind == PortMode::Kind::tm &&
            found[k + 1].mode.kind == PortMode::Kind::te &&
            found[k + 1].mode.cutoff < found[k].mode.cutoff * (1 + near))
            std::swap(found[k], found[k + 1]);
    if (int(found.size()) < count)
        throw base::Error(6212, "the mesh of this port is too coarse for that many modes",
                          {port.line, "on", -1});
    // Of two modes with one cut-off the first leans all the way, so that like ports agree.
    constexpr double same = 1e-5;
    for (size_t k = 0; k + 1 < found.size(); ++k) {
        auto &a = found[k], &b = found[k + 1];
        if (a.mode.kind != b.mode.kind || a.mode.cutoff == 0 ||
            b.mode.cutoff > a.mode.cutoff * (1 + same))
            continue;
        const double x = face.lean(plane, order, a.field), y = face.lean(plane, order, b.field),
                     r = std::hypot(x, y);
        for (size_t i = 0; i < a.field.size() && r > 0; ++i) {
            const double p = a.field[i], q = b.field[i];
            a.field[i] = (x * p + y * q) / r;
            b.field[i] = (-y * p + x * q) / r;
        }
        ++k;
    }
    found.resize(size_t(count));
    const auto number = face.numbers(plane, space, order);
    std::vector<PortMode> list;
    for (Found& f : found) {
        if (face.lean(plane, order, f.field) < 0)
            scale(f.field, -1);
        f.mode.number = number;
        f.mode.weight = fem::product(plane, order, elements.mass, f.field);
        list.push_back(std::move(f.mode));
    }
    return list;
}

}  // namespace yh::physics
