#include "physics/electrostatic/discharge.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

double effectiveIonisation(double E, double density)
{
    const double x = E / (1e6 * density);  // kV/(mm bar)
    constexpr double linearFrom = 7.943, townsendFrom = 14.0, townsendB = 27.377;
    auto linear = [](double y) { return 16.7766 * y - 80.0006; };
    double perMillimetre;
    if (x < linearFrom)
        // Below the range of the fit the gas attaches; the fit's own branch would rise again.
        perMillimetre = 1.6053 * std::pow(std::max(x, 2.165) - 2.165, 2) - 0.2873;
    else if (x < townsendFrom)
        perMillimetre = linear(x);
    else
        perMillimetre = linear(townsendFrom) * std::exp(townsendB / townsendFrom - townsendB / x);
    return 1e3 * density * perMillimetre;
}

double FieldLine::ionisation(double factor, double density) const
{
    double sum = 0, most = 0;
    for (size_t i = 0; i < length.size(); ++i) {
        // Simpson's rule; a stretch ends where attachment outweighs.
        const double a = effectiveIonisation(factor * field[2 * i], density),
                     m = effectiveIonisation(factor * field[2 * i + 1], density),
                     b = effectiveIonisation(factor * field[2 * i + 2], density);
        if (a <= 0 && m <= 0 && b <= 0) {
            most = std::max(most, sum);
            sum = 0;
        }
        sum += length[i] / 6 * (std::max(a, 0.0) + 4 * std::max(m, 0.0) + std::max(b, 0.0));
    }
    return std::max(most, sum);
}

namespace {

/// A place on a border of the gas where a line may start.
struct Foot
{
    int side = -1, cell = -1;
    Point onSide;  ///< coordinates of the side
    double field = 0;
};

class Tracer
{
public:
    Tracer(const ElectrostaticSolver& solver, int order, const std::vector<int>& gas,
           const shape::Partition& partition)
        : m_solver(solver),
          m_mesh(solver.mesh()),
          m_order(order),
          m_gas(partition.pieces().size(), 0),
          m_locator(m_mesh),
          m_conductorOf(partition.sides().size(), -1),
          m_partition(partition)
    {
        const ElectrostaticProblem& p = solver.problem();
        for (const int f : gas)
            m_gas[size_t(f)] = 1;
        for (size_t k = 0; k < p.conductors.size(); ++k)
            for (const int s : p.conductors[k].sides)
                m_conductorOf[size_t(s)] = int(k);
        for (size_t k = 0; k < 3; ++k)
            m_keep[k] = p.mirror[k] && !p.odd[k];
        if (p.measure == fem::Measure::axisymmetric)
            m_keep[0] = true;
    }

    /// Feet on all sides of the mesh that bound the gas, some a side.
    std::vector<Foot> feet() const
    {
        std::vector<Foot> list;
        for (int s = 0; s < m_mesh.sideCount(); ++s)
            if (const int t = gasBehind(s); t >= 0)
                addFeet(s, t, 2, list);
        return list;
    }
    /// Denser feet on a side and on those that touch it.
    std::vector<Foot> feetAround(const Foot& foot, int steps) const
    {
        std::vector<Foot> list;
        const auto mine = m_mesh.sideCorners(foot.side);
        for (int s = 0; s < m_mesh.sideCount(); ++s) {
            const auto corners = m_mesh.sideCorners(s);
            const bool touches = std::any_of(corners.begin(), corners.end(), [&](int v) {
                return std::find(mine.begin(), mine.end(), v) != mine.end();
            });
            if (const int t = touches ? gasBehind(s) : -1; t >= 0)
                addFeet(s, t, steps, list);
        }
        return list;
    }

    FieldLine line(const Foot& foot, double stepShare = 0.2) const
    {
        FieldLine r;
        const mesh::Geometry g(m_mesh, foot.cell);
        const int k = m_mesh.localSide(foot.cell, foot.side);
        const Point onSide = g.onSide(k, foot.onSide);
        // A little inside, where the cell is beyond doubt.
        constexpr double inside = 1e-6;
        mesh::Locator::Hit hit{foot.cell, (1 - inside) * onSide + inside * g.centre()};
        r.start = g.at(onSide);
        r.foot = {foot.cell, onSide};
        r.ends[0] = conductorAt(foot.side);
        const Point E0 = m_solver.field(m_order, foot.cell, hit.xi);
        // Into the gas, whichever way the field points.
        const double sign = dot(E0, g.outward(k, hit.xi)) < 0 ? 1 : -1;
        const double V0 = m_solver.potential(m_order, hit);
        Point p = g.at(hit.xi);
        End end;
        r.field.push_back(norm(E0));
        // Lines of the open space may run on for ever.
        constexpr int mostSteps = 3000;
        constexpr double farthest = 10;
        for (int i = 0; i < mostSteps && r.whole < farthest * m_partition.size(); ++i) {
            const mesh::Geometry here(m_mesh, hit.cell);
            const double size =
                std::pow(std::abs(here.determinant(here.centre())), 1.0 / m_mesh.dimension);
            const double h = stepShare * size;
            Step step;
            if (!advance(p, hit, sign, h, step)) {
                end = lastPart(p, hit, sign, h, r);
                break;
            }
            add(r, step, h);
            p = step.to;
            hit = step.end;
        }
        r.ends[1] = end.conductor;
        r.voltage = std::abs(m_solver.potential(m_order, hit) - V0);
        if (end.isOddPlane)
            mirror(r);
        return r;
    }

private:
    struct Step
    {
        Point to;
        mesh::Locator::Hit end;
        double middle = 0, last = 0;  ///< |E|
    };

    struct End
    {
        int conductor = -1;
        bool isOddPlane = false;
    };

    static void add(FieldLine& r, const Step& step, double h)
    {
        r.field.push_back(step.middle);
        r.field.push_back(step.last);
        r.length.push_back(h);
        r.whole += h;
    }

    bool isGas(int cell) const
    {
        return cell >= 0 && m_gas[size_t(m_mesh.piece[size_t(cell)])] != 0;
    }
    /// The one cell of gas at a side that bounds it; -1 elsewhere and where the model is cut.
    int gasBehind(int side) const
    {
        const int tag = m_mesh.sideTag[size_t(side)];
        if (tag < 0 || m_partition.sides()[size_t(tag)].cut != shape::Side::none)
            return -1;
        const auto& cells = m_mesh.sideCells[size_t(side)];
        const bool a = isGas(cells[0]), b = isGas(cells[1]);
        // A sheet in the gas has it on both sides; the far side has feet of its own elsewhere.
        if (a && b)
            return m_conductorOf[size_t(tag)] >= 0 ? cells[0] : -1;
        return a ? cells[0] : b ? cells[1] : -1;
    }
    int conductorAt(int side) const
    {
        const int tag = m_mesh.sideTag[size_t(side)];
        return tag < 0 ? -1 : m_conductorOf[size_t(tag)];
    }
    void addFeet(int side, int t, int steps, std::vector<Foot>& list) const
    {
        const mesh::Geometry g(m_mesh, t);
        const int k = m_mesh.localSide(t, side);
        auto put = [&](const Point& at) {
            const Point xi = g.onSide(k, at);
            list.push_back({side, t, at, norm(m_solver.field(m_order, t, xi))});
        };
        // Off the corners: there lines may start in any of several cells.
        for (int i = 0; i < steps; ++i) {
            if (m_mesh.dimension == 2) {
                put({(i + 0.5) / steps});
                continue;
            }
            for (int j = 0; i + j < steps; ++j)
                put({(i + 1.0 / 3) / steps, (j + 1.0 / 3) / steps});
        }
    }

    /// The last part of a line, up to the border that lies within a step of `h`.
    End lastPart(const Point& p, mesh::Locator::Hit& hit, double sign, double h, FieldLine& r) const
    {
        Step step;
        double low = 0, high = h;
        constexpr int halvings = 24;
        for (int b = 0; b < halvings; ++b) {
            h = 0.5 * (low + high);
            (advance(p, hit, sign, h, step) ? low : high) = h;
        }
        h = low;
        if (h > 0 && advance(p, hit, sign, h, step)) {
            add(r, step, h);
            hit = step.end;
        }
        return endAt(hit);
    }

    /// @param stepShare  length of a step over the size of the cells
    /// A step by the midpoint rule; false where it leaves the gas.
    bool advance(const Point& p, const mesh::Locator::Hit& from, double sign, double h,
                 Step& step) const
    {
        auto direction = [&](const mesh::Locator::Hit& at, double& size) {
            const Point E = m_solver.field(m_order, at.cell, at.xi);
            size = norm(E);
            return size > 0 ? (sign / size) * E : Point{};
        };
        double size;
        Point half = kept(p + 0.5 * h * direction(from, size));
        const auto middle = m_locator.find(half);
        if (!isGas(middle.cell))
            return false;
        step.to = kept(p + h * direction(middle, step.middle));
        step.end = m_locator.find(step.to);
        if (!isGas(step.end.cell))
            return false;
        direction(step.end, step.last);
        return step.middle > 0;
    }
    /// Lines run along planes of symmetry and the axis, never through them.
    Point kept(Point p) const
    {
        double* x[3] = {&p.x, &p.y, &p.z};
        for (size_t k = 0; k < 3; ++k)
            if (m_keep[k] && *x[k] < 0)
                *x[k] = 0;
        return p;
    }
    /// What is at the side of the cell that a place lies nearest to.
    End endAt(const mesh::Locator::Hit& hit) const
    {
        const double l[4] = {1 - hit.xi.x - hit.xi.y - hit.xi.z, hit.xi.x, hit.xi.y, hit.xi.z};
        int best = 0;
        double least = 1e300;
        const auto sides = m_mesh.sidesOf(hit.cell);
        for (int k = 0; k < int(sides.size()); ++k) {
            // The corner across from the side.
            const int opposite = m_mesh.dimension == 2 ? (k + 2) % 3 : k;
            if (l[opposite] < least) {
                least = l[opposite];
                best = k;
            }
        }
        const int tag = m_mesh.sideTag[size_t(sides[size_t(best)])];
        if (tag < 0)
            return {};
        const int cut = m_partition.sides()[size_t(tag)].cut;
        if (cut >= 0 && cut < 3 && m_solver.problem().odd[size_t(cut)])
            return {-1, true};
        return {m_conductorOf[size_t(tag)], false};
    }
    /// Beyond an odd plane a line goes on as its own image.
    static void mirror(FieldLine& r)
    {
        const size_t n = r.field.size();
        for (size_t i = n - 1; i-- > 0;)
            r.field.push_back(r.field[i]);
        for (size_t i = r.length.size(); i-- > 0;)
            r.length.push_back(r.length[i]);
        r.whole *= 2;
        r.voltage *= 2;
        r.ends[1] = r.ends[0];
    }

    const ElectrostaticSolver& m_solver;
    const mesh::Mesh& m_mesh;
    int m_order;
    std::vector<char> m_gas;
    mesh::Locator m_locator;
    std::vector<int> m_conductorOf;
    const shape::Partition& m_partition;
    bool m_keep[3] = {false, false, false};
};

/// Least factor at which a line's ionisation reaches the streamer's; `most` where it takes more.
double factorOf(const FieldLine& line, double density, double most)
{
    if (line.length.empty() || line.ionisation(most, density) < streamerConstant)
        return most;
    const double peak = *std::max_element(line.field.begin(), line.field.end());
    double low = std::min(most, criticalField * density / peak), high = most;
    constexpr int halvings = 50;
    for (int i = 0; i < halvings && high > low * (1 + 1e-12); ++i) {
        const double middle = std::sqrt(low * high);
        (line.ionisation(middle, density) < streamerConstant ? low : high) = middle;
    }
    return high;
}

/// The same, or more where a streamer needs more to cross.
double factorOf(const FieldLine& line, double density, bool crosses, double most)
{
    const double starts = factorOf(line, density, most);
    return crosses ? std::max(starts, streamerField * density * line.whole / line.voltage) : starts;
}

/// The lowest of many lines; of equal ones the first, whichever thread meets it.
Discharge lowest(const Tracer& tracer, const std::vector<Foot>& feet, double density, bool crosses,
                 double most, Foot& best)
{
    Discharge found;
    found.factor = most;
    size_t place = feet.size();
#pragma omp parallel for schedule(dynamic, 1)
    for (size_t i = 0; i < feet.size(); ++i) {
        const FieldLine line = tracer.line(feet[i]);
        if (crosses && (line.ends[0] < 0 || line.ends[1] < 0 || !(line.voltage > 0)))
            continue;
        double before;
#pragma omp critical(lowestDischarge)
        before = found.factor;
        // Most lines are not worth the search; its bounds are the same whatever is found so far.
        if (line.length.empty() || line.ionisation(before, density) < streamerConstant)
            continue;
        const double factor = factorOf(line, density, crosses, most);
        if (factor >= most)
            continue;
#pragma omp critical(lowestDischarge)
        if (factor < found.factor || (factor == found.factor && i < place)) {
            found = {factor, 0, line};
            place = i;
            best = feet[i];
        }
    }
    return found;
}

}  // namespace

Discharge discharge(const ElectrostaticSolver& solver, int order, const std::vector<int>& gas,
                    double density, bool crosses, const shape::Partition& partition)
{
    const Tracer tracer(solver, order, gas, partition);
    std::vector<Foot> feet = tracer.feet();
    if (feet.empty())
        return {};
    std::sort(feet.begin(), feet.end(),
              [](const Foot& a, const Foot& b) { return a.field > b.field; });
    // The strongest feet, where discharges begin as a rule, and some of all others.
    constexpr size_t strong = 160, others = 80;
    std::vector<Foot> tried(feet.begin(),
                            feet.begin() + std::ptrdiff_t(std::min(strong, feet.size())));
    const size_t rest = feet.size() - tried.size();
    for (size_t i = 0; i < std::min(others, rest); ++i)
        tried.push_back(feet[strong + i * rest / std::min(others, rest)]);
    constexpr double unreachable = 1e12;
    Foot best;
    Discharge found = lowest(tracer, tried, density, crosses, unreachable, best);
    if (found.factor >= unreachable)
        return {};
    // Denser around the best; near it the factor hardly changes with the foot.
    const int steps = solver.mesh().dimension == 2 ? 12 : 5;
    const Foot around = best;
    const double coarse = found.factor;
    const Discharge finer =
        lowest(tracer, tracer.feetAround(around, steps), density, crosses, found.factor, best);
    if (!finer.line.length.empty())
        found = finer;
    // Steps of the second order, twice as long, err four times as much; what the denser feet
    // changed bounds what still denser ones would.
    const FieldLine rough = tracer.line(best, 0.4);
    const double factor = factorOf(rough, density, crosses, 2 * found.factor);
    found.unsure = std::abs(factor / found.factor - 1) / 3 + (1 - found.factor / coarse) / 4;
    return found;
}
}  // namespace yh::physics
