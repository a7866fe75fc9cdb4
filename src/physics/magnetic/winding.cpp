#include "physics/magnetic/winding.h"

#include "fem/circulation.h"
#include "fem/dense.h"

#include <Eigen/IterativeLinearSolvers>
#include <Eigen/SparseCore>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yh::physics {

namespace {

using base::Error;

/// A cell with straight edges: slopes of its barycentric coordinates, 1/m, and its volume.
struct Straight
{
    Point slope[4];
    double volume = 0;
    Straight(const mesh::Mesh& mesh, int cell)
    {
        const auto c = mesh.corners(cell);
        const Point& o = mesh.vertices[size_t(c[0])];
        const Point a = mesh.vertices[size_t(c[1])] - o, b = mesh.vertices[size_t(c[2])] - o,
                    d = mesh.vertices[size_t(c[3])] - o;
        const double six = dot(a, cross(b, d));
        slope[1] = (1 / six) * cross(b, d);
        slope[2] = (1 / six) * cross(d, a);
        slope[3] = (1 / six) * cross(a, b);
        slope[0] = -1.0 * (slope[1] + slope[2] + slope[3]);
        volume = std::abs(six) / 6;
    }
};

/// Numbers that grow on first use.
class Numbers
{
public:
    explicit Numbers(int size) : m_number(size_t(size), -1) {}
    int of(int i)
    {
        int& n = m_number[size_t(i)];
        if (n < 0) {
            n = int(m_list.size());
            m_list.push_back(i);
        }
        return n;
    }
    [[nodiscard]] int known(int i) const { return m_number[size_t(i)]; }
    [[nodiscard]] const std::vector<int>& list() const { return m_list; }
    [[nodiscard]] int size() const { return int(m_list.size()); }

private:
    std::vector<int> m_number, m_list;
};

/// The current of one part of a winding that hangs together, for one ampere.
class BarCurrent
{
public:
    BarCurrent(const MagneticProblem& problem, const mesh::Mesh& mesh,
               const shape::Partition& partition, const Coil& coil, std::vector<int> cells)
        : m_problem(problem),
          m_mesh(mesh),
          m_partition(partition),
          m_coil(coil),
          m_cells(std::move(cells)),
          m_faces(mesh.sideCount()),
          m_corners(mesh.vertexCount())
    {
        m_isOwn.assign(size_t(mesh.cellCount()), 0);
        for (const int t : m_cells) {
            m_isOwn[size_t(t)] = 1;
            m_straight.emplace_back(mesh, t);
            for (const int f : mesh.sidesOf(t))
                m_faces.of(f);
            for (const int v : mesh.corners(t))
                m_corners.of(v);
        }
    }

    void run()
    {
        findEnds();
        m_given.assign(m_cells.size(), Point{});
        if (m_ends[0].empty())
            goRound();
        spreadEvenly();
        solveFluxes();
        turnAsSaid();
    }

    /// Share of its turns that is modelled: half of those that an even plane cuts lie behind it.
    [[nodiscard]] double share() const
    {
        std::array<bool, 3> cut{};
        for (const int f : m_faces.list()) {
            const int tag = m_mesh.sideTag[size_t(f)];
            const int plane = tag < 0 ? -1 : m_partition.sides()[size_t(tag)].cut;
            if (plane >= 0 && plane < 3 && m_problem.mirror[size_t(plane)] &&
                !m_problem.odd[size_t(plane)])
                cut[size_t(plane)] = true;
        }
        double part = 1;
        for (const bool plane : cut)
            part *= plane ? 0.5 : 1.0;
        return part;
    }

    [[nodiscard]] const std::vector<int>& cells() const { return m_cells; }
    /// By cell of cells(): 1/m^2.
    [[nodiscard]] const std::vector<Point>& density() const { return m_J; }
    [[nodiscard]] double volume(size_t cell) const { return m_straight[cell].volume; }
    void scaleBy(double factor)
    {
        for (Point& j : m_J)
            j = factor * j;
    }
    /// Flux through a face of the mesh, by the right-hand rule of its corners as they rise.
    template <class Add>
    void overFluxes(Add add) const
    {
        for (size_t i = 0; i < m_cells.size(); ++i)
            for (int k = 0; k < 4; ++k) {
                const int f = m_mesh.cellFaces[size_t(m_cells[i])][size_t(k)];
                // A face between two cells is counted with the first.
                const auto& both = m_mesh.sideCells[size_t(f)];
                if (both[0] != m_cells[i] && both[0] >= 0 && m_isOwn[size_t(both[0])])
                    continue;
                if (!isOpen(f))
                    continue;
                add(f, dot(m_J[i], area(f)));
            }
    }

private:
    [[noreturn]] void fail(int number, const std::string& key, const std::string& text) const
    {
        throw Error(number, text, {m_coil.line, key, -1});
    }
    [[nodiscard]] Point area(int face) const
    {
        const auto& c = m_mesh.faces[size_t(face)];
        const Point& o = m_mesh.vertices[size_t(c[0])];
        return 0.5 * cross(m_mesh.vertices[size_t(c[1])] - o, m_mesh.vertices[size_t(c[2])] - o);
    }
    /// Whether current may cross a face: between two cells of the bar, or at one of its ends.
    [[nodiscard]] bool isOpen(int face) const
    {
        const auto& both = m_mesh.sideCells[size_t(face)];
        if (both[0] >= 0 && both[1] >= 0)
            return m_isOwn[size_t(both[0])] && m_isOwn[size_t(both[1])];
        return planeOf(face) >= 0;
    }
    /// The odd plane that a face lies on; -1: none.
    [[nodiscard]] int planeOf(int face) const
    {
        const int tag = m_mesh.sideTag[size_t(face)];
        const int cut = tag < 0 ? -1 : m_partition.sides()[size_t(tag)].cut;
        return cut >= 0 && cut < 3 && m_problem.odd[size_t(cut)] ? cut : -1;
    }

    /// Faces on odd planes that hang together: where the bar goes on into its image.
    void findEnds()
    {
        std::vector<int> open;
        for (const int f : m_faces.list())
            if (planeOf(f) >= 0)
                open.push_back(f);
        std::sort(open.begin(), open.end());
        std::vector<std::vector<int>> ends;
        while (!open.empty()) {
            std::vector<int> part{open.back()};
            open.pop_back();
            for (size_t i = 0; i < part.size(); ++i)
                for (size_t k = open.size(); k-- > 0;)
                    if (planeOf(open[k]) == planeOf(part[i]) && touch(open[k], part[i])) {
                        part.push_back(open[k]);
                        open.erase(open.begin() + std::ptrdiff_t(k));
                    }
            ends.push_back(std::move(part));
        }
        if (ends.empty())
            return;
        if (ends.size() != 2)
            fail(6730, "in",
                 "the current of coil " + m_coil.name +
                     " cannot close: its winding ends on odd mirror planes in " +
                     std::to_string(ends.size()) + (ends.size() == 1 ? " place" : " places") +
                     ", and needs two, one to enter and one to leave");
        std::sort(ends.begin(), ends.end());
        m_ends[0] = ends[0];
        m_ends[1] = ends[1];
    }
    [[nodiscard]] bool touch(int a, int b) const
    {
        int same = 0;
        for (const int v : m_mesh.faces[size_t(a)])
            for (const int w : m_mesh.faces[size_t(b)])
                same += v == w;
        return same >= 2;
    }

    /// A bar that closes in itself: one volt once round it, as field strengths by cell.
    void goRound()
    {
        const auto round = fem::circulation(m_mesh, m_faces.list(), {}, {});
        if (round.loops.empty())
            fail(6731, "in",
                 "the current of coil " + m_coil.name +
                     " cannot close: its winding is no ring, and does not end on odd mirror "
                     "planes. Draw the ring, or the half of it up to a plane of kind odd");
        if (round.loops.size() > 1)
            fail(6732, "in",
                 "the winding of coil " + m_coil.name +
                     " has holes that leave its current several ways: part it into rings, each a "
                     "region of its own");
        const auto& along = round.loops[0];
        for (size_t i = 0; i < m_cells.size(); ++i) {
            const auto c = m_mesh.corners(m_cells[i]);
            for (int k = 0; k < 6; ++k) {
                const int a = mesh::edgeCorner[k][0], b = mesh::edgeCorner[k][1];
                if (a != 0 && b != 0)
                    continue;
                const int other = a == 0 ? b : a;
                const double rise = along[size_t(m_mesh.cellEdges[size_t(m_cells[i])][size_t(k)])];
                m_given[i] = m_given[i] +
                             (c[0] < c[size_t(other)] ? rise : -rise) * m_straight[i].slope[other];
            }
        }
    }

    /// The field of given values and of those solved for.
    template <class Place>
    std::vector<Point> fieldOf(const Eigen::VectorXd& u, const std::vector<int>& row,
                               const std::vector<double>& fixed, double perSlope, Place place) const
    {
        std::vector<Point> E(m_cells.size());
        for (size_t c = 0; c < m_cells.size(); ++c) {
            E[c] = m_given[c];
            for (int i = 0; i < 4; ++i) {
                const int p = place(c, i);
                const double value = row[size_t(p)] >= 0 ? u[row[size_t(p)]] : fixed[size_t(p)];
                E[c] = E[c] + perSlope * value * m_straight[c].slope[i];
            }
        }
        return E;
    }

    /// Solves div sigma (grad u + given) = 0 with functions that the corners or the faces of cells
    /// carry. @returns field strengths by cell
    template <class Place>
    std::vector<Point> conduct(int size, const std::vector<double>& fixed,
                               const std::vector<double>& sigma, double perSlope, Place place)
    {
        using Matrix = Eigen::SparseMatrix<double>;
        std::vector<int> row(size_t(size), -1);
        int rows = 0;
        for (int i = 0; i < size; ++i)
            if (std::isnan(fixed[size_t(i)]))
                row[size_t(i)] = rows++;
        std::vector<Eigen::Triplet<double>> entries;
        Eigen::VectorXd rhs = Eigen::VectorXd::Zero(rows);
        for (size_t c = 0; c < m_cells.size(); ++c) {
            const Straight& s = m_straight[c];
            const double w = sigma[c] * s.volume;
            for (int i = 0; i < 4; ++i) {
                const int r = row[size_t(place(c, i))];
                if (r < 0)
                    continue;
                const Point g = perSlope * s.slope[i];
                rhs[r] -= w * dot(g, m_given[c]);
                for (int j = 0; j < 4; ++j) {
                    const double k = w * perSlope * dot(g, s.slope[j]);
                    const int other = place(c, j);
                    if (row[size_t(other)] >= 0)
                        entries.emplace_back(r, row[size_t(other)], k);
                    else
                        rhs[r] -= k * fixed[size_t(other)];
                }
            }
        }
        Matrix K(rows, rows);
        K.setFromTriplets(entries.begin(), entries.end());
        Eigen::ConjugateGradient<Matrix, Eigen::Lower | Eigen::Upper> solver(K);
        constexpr double exactly = 1e-13;
        solver.setTolerance(exactly);
        const Eigen::VectorXd u = solver.solve(rhs);
        return fieldOf(u, row, fixed, perSlope, place);
    }

    /// Resistivities by which the current density is the same all over the cross-section.
    void spreadEvenly()
    {
        m_sigma.assign(m_cells.size(), 1.0);
        std::vector<double> fixed(size_t(m_corners.size()), std::nan(""));
        for (int end = 0; end < 2; ++end)
            for (const int f : m_ends[end])
                for (const int v : m_mesh.faces[size_t(f)])
                    fixed[size_t(m_corners.known(v))] = end;
        // A ring needs one potential to begin with.
        if (m_ends[0].empty())
            fixed[0] = 0;
        auto corner = [this](size_t c, int i) {
            return m_corners.known(m_mesh.cells[size_t(m_cells[c])][size_t(i)]);
        };
        constexpr int most = 12;
        constexpr double close = 3e-3, least = 0.05;
        for (int step = 0; step < most; ++step) {
            const auto E = conduct(m_corners.size(), fixed, m_sigma, 1, corner);
            double mean = 0, volume = 0, off = 0;
            for (size_t c = 0; c < E.size(); ++c) {
                mean += m_straight[c].volume * norm(E[c]);
                volume += m_straight[c].volume;
            }
            mean /= volume;
            for (size_t c = 0; c < E.size(); ++c) {
                const double sigma = mean / std::max(norm(E[c]), least * mean);
                off += m_straight[c].volume * std::abs(sigma / m_sigma[c] - 1);
                m_sigma[c] = sigma;
            }
            if (step > 0 && off < close * volume)
                break;
        }
    }

    /// Fluxes that are the same from both sides of every face, for one ampere.
    void solveFluxes()
    {
        std::vector<double> fixed(size_t(m_faces.size()), std::nan(""));
        for (int end = 0; end < 2; ++end)
            for (const int f : m_ends[end])
                fixed[size_t(m_faces.known(f))] = end;
        if (m_ends[0].empty())
            fixed[0] = 0;
        // The function of a face is 1 in its middle: 1 - 3 times the coordinate of the corner
        // opposite.
        m_J = conduct(m_faces.size(), fixed, m_sigma, -3, [this](size_t c, int i) {
            return m_faces.known(m_mesh.cellFaces[size_t(m_cells[c])][size_t(i)]);
        });
        double current = 0;  // power over voltage, which is one
        for (size_t c = 0; c < m_J.size(); ++c)
            current += m_sigma[c] * m_straight[c].volume * dot(m_J[c], m_J[c]);
        for (size_t c = 0; c < m_J.size(); ++c)
            m_J[c] = (m_sigma[c] / current) * m_J[c];
    }

    /// Of the two ways round, the one whose magnetic moment points as the sheet says.
    void turnAsSaid()
    {
        Point moment;
        double size = 0;
        for (size_t c = 0; c < m_J.size(); ++c) {
            Point middle;
            for (const int v : m_mesh.corners(m_cells[c]))
                middle = middle + 0.25 * m_mesh.vertices[size_t(v)];
            const Point m = 0.5 * m_straight[c].volume * cross(middle, m_J[c]);
            moment = moment + m;
            size += 0.5 * m_straight[c].volume * norm(middle) * norm(m_J[c]);
        }
        // The image behind an odd plane that cuts the bar cancels the part across the plane.
        for (const auto& end : m_ends)
            if (!end.empty()) {
                const int plane = planeOf(end[0]);
                (plane == 0 ? moment.x : plane == 1 ? moment.y : moment.z) = 0;
            }
        const double along = dot(moment, m_coil.about);
        constexpr double none = 1e-3;
        if (std::abs(along) < none * size)
            fail(6733, "about",
                 "the current of coil " + m_coil.name +
                     " does not turn about this direction: state the one that its field has in "
                     "its middle");
        if (along < 0)
            for (Point& j : m_J)
                j = -1.0 * j;
    }

    const MagneticProblem& m_problem;
    const mesh::Mesh& m_mesh;
    const shape::Partition& m_partition;
    const Coil& m_coil;
    std::vector<int> m_cells;
    std::vector<Straight> m_straight;
    std::vector<char> m_isOwn;
    Numbers m_faces, m_corners;
    std::array<std::vector<int>, 2> m_ends;
    std::vector<Point> m_given;  ///< V/m, of one volt round a ring
    std::vector<double> m_sigma;
    std::vector<Point> m_J;
};

/// Parts of a winding that hang together, as cells.
std::vector<std::vector<int>> partsOf(const Coil& coil, const mesh::Mesh& mesh, size_t pieces)
{
    const auto own = flags(coil.pieces, pieces);
    std::vector<char> seen(size_t(mesh.cellCount()), 0);
    std::vector<std::vector<int>> parts;
    for (int first = 0; first < mesh.cellCount(); ++first) {
        if (seen[size_t(first)] || !own[size_t(mesh.piece[size_t(first)])])
            continue;
        std::vector<int> part{first};
        seen[size_t(first)] = 1;
        for (size_t i = 0; i < part.size(); ++i)
            for (const int f : mesh.sidesOf(part[i]))
                for (const int t : mesh.sideCells[size_t(f)])
                    if (t >= 0 && !seen[size_t(t)] && own[size_t(mesh.piece[size_t(t)])]) {
                        seen[size_t(t)] = 1;
                        part.push_back(t);
                    }
        std::sort(part.begin(), part.end());
        parts.push_back(std::move(part));
    }
    return parts;
}

/// A smooth field from its means in cells: at every corner the straight line through the cells
/// around it that fits best.
class Smoothed
{
public:
    Smoothed(const mesh::Mesh& mesh, const std::vector<int>& cells, const std::vector<Point>& means)
        : m_mesh(mesh), m_numbers(mesh.vertexCount())
    {
        std::vector<std::vector<int>> around;
        for (size_t c = 0; c < cells.size(); ++c)
            for (const int v : mesh.corners(cells[c])) {
                const int n = m_numbers.of(v);
                around.resize(std::max(around.size(), size_t(n) + 1));
                around[size_t(n)].push_back(int(c));
            }
        for (size_t n = 0; n < around.size(); ++n) {
            std::vector<int> patch = around[n];
            constexpr size_t enough = 12;
            if (patch.size() < enough) {
                for (const int c : around[n])
                    for (const int v : mesh.corners(cells[size_t(c)])) {
                        const auto& more = around[size_t(m_numbers.known(v))];
                        patch.insert(patch.end(), more.begin(), more.end());
                    }
                std::sort(patch.begin(), patch.end());
                patch.erase(std::unique(patch.begin(), patch.end()), patch.end());
            }
            m_value.push_back(fit(mesh.vertices[size_t(m_numbers.list()[n])], patch, cells, means));
        }
    }
    [[nodiscard]] Point at(int cell, const Point& xi) const
    {
        const auto c = m_mesh.corners(cell);
        const double l[4] = {1 - xi.x - xi.y - xi.z, xi.x, xi.y, xi.z};
        Point sum;
        for (size_t i = 0; i < 4; ++i)
            sum = sum + l[i] * m_value[size_t(m_numbers.known(c[i]))];
        return sum;
    }

private:
    [[nodiscard]] Point fit(const Point& at, const std::vector<int>& patch,
                            const std::vector<int>& cells, const std::vector<Point>& means) const
    {
        double size = 0;
        std::vector<Point> away;
        for (const int c : patch) {
            Point middle;
            for (const int v : m_mesh.corners(cells[size_t(c)]))
                middle = middle + 0.25 * m_mesh.vertices[size_t(v)];
            away.push_back(middle - at);
            size = std::max(size, norm(away.back()));
        }
        Eigen::MatrixXd A = Eigen::MatrixXd::Zero(4, 4), b = Eigen::MatrixXd::Zero(4, 3);
        for (size_t i = 0; i < patch.size(); ++i) {
            const Eigen::Vector4d row(1, away[i].x / size, away[i].y / size, away[i].z / size);
            const Point& J = means[size_t(patch[i])];
            A += row * row.transpose();
            b += row * Eigen::RowVector3d(J.x, J.y, J.z);
        }
        // Too few cells in one direction must not carry a slope there.
        constexpr double little = 1e-3;
        for (int k = 1; k < 4; ++k)
            A(k, k) += little * double(patch.size());
        const Eigen::MatrixXd x = fem::solvedSymmetric(A, b);
        return {x(0, 0), x(0, 1), x(0, 2)};
    }

    const mesh::Mesh& m_mesh;
    Numbers m_numbers;
    std::vector<Point> m_value;
};

/// Adds the functions of higher order inside a bar by which curl T comes closest to a smooth
/// current density: conjugate gradients over faces and cells, whose edges stay as they are.
void refineInside(const fem::EdgeSpace& space, const BarCurrent& bar,
                  const shape::Partition& partition, const std::vector<char>& isOpen,
                  std::vector<double>& T)
{
    const mesh::Mesh& mesh = space.mesh();
    const int order = space.order(), n = space.localCount(order);
    if (order < 2)
        return;
    const Smoothed wanted(mesh, bar.cells(), bar.density());
    const std::vector<fem::Coefficient> one(partition.pieces().size());
    std::vector<char> only(size_t(mesh.cellCount()), 0);
    for (const int t : bar.cells())
        only[size_t(t)] = 1;
    // Functions that reach out of the bar, or turn round its surface, stay out.
    std::vector<char> isFree(size_t(space.count(order)), 0);
    for (const int t : bar.cells()) {
        std::vector<int> number(size_t(n), 0);
        space.local(t, order, number.data());
        for (const int i : number)
            isFree[size_t(i)] = i >= space.count(1);
    }
    for (const int t : bar.cells())
        for (const int f : mesh.sidesOf(t))
            if (!isOpen[size_t(f)])
                for (const int i : space.onSide(f, order))
                    isFree[size_t(i)] = 0;
    const auto elements = fem::edgeElements(space, one, one, fem::Measure::plane, only);
    auto times = [&](const std::vector<double>& x) {
        std::vector<double> y(x.size(), 0.0);
        std::vector<int> number(size_t(n), 0);
        std::vector<double> in(size_t(n), 0.0), out(size_t(n), 0.0);
        for (const int t : bar.cells()) {
            space.local(t, order, number.data());
            for (size_t i = 0; i < size_t(n); ++i)
                in[i] = x[size_t(number[i])];
            elements.curl.multiply(t, n, in.data(), out.data());
            for (size_t i = 0; i < size_t(n); ++i)
                y[size_t(number[i])] += out[i];
        }
        return y;
    };
    std::vector<double> r(T.size(), 0.0), diagonal = r;
    const auto& rule = fem::cellRule(3, 2 * order);
    for (const int t : bar.cells()) {
        const mesh::Geometry g(mesh, t);
        std::vector<int> number(size_t(n), 0);
        space.local(t, order, number.data());
        for (int i = 0; i < n; ++i)
            diagonal[size_t(number[size_t(i)])] += elements.curl.of(t)[elements.curl.at(i, i)];
        for (const auto& q : rule) {
            const fem::EdgePoint at(space, order, t, q.xi);
            const double w = q.w * std::abs(g.determinant(q.xi));
            const Point J = wanted.at(t, q.xi);
            for (int i = 0; i < n; ++i)
                r[size_t(at.number(i))] += w * dot(at.function(i).curl, J);
        }
    }
    double largest = 0;
    for (size_t i = 0; i < isFree.size(); ++i)
        largest = std::max(largest, isFree[i] ? diagonal[i] : 0.0);
    constexpr double nothing = 1e-12;  // gradients, which have no curl
    for (size_t i = 0; i < isFree.size(); ++i)
        isFree[i] = isFree[i] && diagonal[i] > nothing * largest;
    const auto before = times(T);
    for (size_t i = 0; i < r.size(); ++i)
        r[i] = isFree[i] ? r[i] - before[i] : 0.0;
    std::vector<double> z(r.size(), 0.0), p = z;
    constexpr int most = 200;
    constexpr double enough = 1e-5;
    double rz = 0, first = 0;
    for (int step = 0; step < most; ++step) {
        double next = 0;
        for (size_t i = 0; i < r.size(); ++i) {
            z[i] = isFree[i] ? r[i] / diagonal[i] : 0.0;
            next += r[i] * z[i];
        }
        if (step == 0)
            first = next;
        if (!(next > enough * enough * first))
            return;
        for (size_t i = 0; i < p.size(); ++i)
            p[i] = z[i] + (step > 0 ? next / rz : 0.0) * p[i];
        rz = next;
        const auto q = times(p);
        double pq = 0;
        for (size_t i = 0; i < p.size(); ++i)
            pq += isFree[i] ? p[i] * q[i] : 0.0;
        for (size_t i = 0; i < p.size(); ++i)
            if (isFree[i]) {
                T[i] += rz / pq * p[i];
                r[i] -= rz / pq * q[i];
            }
    }
}

}  // namespace

Windings::Windings(const MagneticProblem& problem, const mesh::Mesh& mesh,
                   const shape::Partition& partition, int order, base::Progress& progress)
    : m_space(mesh, order), m_touches(size_t(mesh.cellCount()), 0), m_bars(problem.coils.size())
{
    const size_t n = problem.coils.size();
    m_T.assign(n, std::vector<double>(size_t(m_space.count()), 0.0));
    m_driven.assign(size_t(m_space.count()), 0.0);
    if (n == 0)
        return;
    std::vector<std::vector<double>> flux(n, std::vector<double>(mesh.faces.size(), 0.0));
    std::vector<std::pair<size_t, BarCurrent>> bars;
    std::vector<std::vector<char>> isOpen;
    for (size_t k = 0; k < n; ++k)
        for (auto& part : partsOf(problem.coils[k], mesh, partition.pieces().size())) {
            progress.check();
            bars.emplace_back(
                k, BarCurrent(problem, mesh, partition, problem.coils[k], std::move(part)));
            BarCurrent& bar = bars.back().second;
            const double share = bar.share();
            bar.run();
            bar.scaleBy(share);
            isOpen.emplace_back(mesh.faces.size(), 0);
            bar.overFluxes([&](int f, double through) {
                flux[k][size_t(f)] = through;
                isOpen.back()[size_t(f)] = 1;
            });
            double volume = 0, current = 0;
            for (size_t c = 0; c < bar.cells().size(); ++c) {
                volume += bar.volume(c);
                current += bar.volume(c) * norm(bar.density()[c]) / share;
            }
            // One ampere along a bar: density times volume is its length.
            m_bars[k].length += current;
            m_bars[k].area = volume / current / share;
        }
    std::vector<int> faces(mesh.faces.size());
    std::iota(faces.begin(), faces.end(), 0);
    // Where H has no part along a side, T has none.
    std::vector<char> fixed(size_t(mesh.edgeCount()), 0);
    for (int f = 0; f < mesh.sideCount(); ++f)
        if (const int tag = mesh.sideTag[size_t(f)]; tag >= 0 && problem.held[size_t(tag)]) {
            int count = 0;
            for (const int e : mesh.sideEdges(f, count))
                fixed[size_t(e)] = 1;
        }
    const auto along = fem::circulation(mesh, faces, fixed, flux);
    for (size_t k = 0; k < n; ++k)
        std::copy(along.value[k].begin(), along.value[k].end(), m_T[k].begin());
    for (size_t b = 0; b < bars.size(); ++b)
        refineInside(m_space, bars[b].second, partition, isOpen[b], m_T[bars[b].first]);
    for (size_t k = 0; k < n; ++k)
        for (double& x : m_T[k])
            x *= problem.coils[k].turns;
    for (size_t k = 0; k < n; ++k)
        for (size_t i = 0; i < m_driven.size(); ++i)
            m_driven[i] += problem.coils[k].current * m_T[k][i];
    std::vector<int> number(size_t(m_space.localCount(order)), 0);
    double largest = 0;
    for (const auto& T : m_T)
        for (const double x : T)
            largest = std::max(largest, std::abs(x));
    constexpr double rounding = 1e-11;
    for (int t = 0; t < mesh.cellCount(); ++t) {
        m_space.local(t, order, number.data());
        for (const auto& T : m_T)
            for (const int i : number)
                m_touches[size_t(t)] =
                    m_touches[size_t(t)] || std::abs(T[size_t(i)]) > rounding * largest;
    }
}

}  // namespace yh::physics
