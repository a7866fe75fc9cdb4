// Edge elements: their space, gradients, and eigenvalues of a cube known in closed form.
#include "cube_mesh.h"
#include "fem/cholesky.h"
#include "fem/circulation.h"
#include "fem/dense.h"
#include "fem/edge.h"
#include "fem/edge_multilevel.h"
#include "fem/eigen.h"
#include "fem/ldlt.h"
#include "program.h"

#include <QtTest>

#include <cmath>
#include <complex>
#include <random>

namespace tst_edge {

using namespace yh;
using base::Point;

namespace {

constexpr double pi = 3.14159265358979323846;

mesh::Mesh squareMesh(int n)
{
    mesh::Mesh m;
    m.dimension = 2;
    for (int j = 0; j <= n; ++j)
        for (int i = 0; i <= n; ++i)
            m.vertices.push_back({double(i) / n, double(j) / n});
    for (int j = 0; j < n; ++j)
        for (int i = 0; i < n; ++i) {
            const int a = j * (n + 1) + i, b = a + 1, c = a + n + 1, d = c + 1;
            m.cells.push_back({a, b, d, -1});
            m.cells.push_back({a, d, c, -1});
            m.piece.push_back(0);
            m.piece.push_back(0);
        }
    m.connect(shape::Partition(), std::vector<mesh::Mesh::CurveEdge>{});
    return m;
}

mesh::Mesh meshOf(int dimension, int n)
{
    return dimension == 2 ? squareMesh(n) : test::cubeMesh(shape::Partition(), n);
}

/// Smallest eigenvalues of curl curl E = lambda E in the unit square or cube with metal walls.
std::vector<double> cavity(const mesh::Mesh& m, int order, int count, bool indefinite)
{
    const fem::EdgeSpace space(m, order);
    const fem::H1Space scalar(m, order);
    const std::vector<fem::Coefficient> one(1);
    const auto elements = fem::edgeElements(space, one, one, fem::Measure::plane);
    std::vector<char> isFree(size_t(space.count()), 1), freeScalar(size_t(scalar.count()), 1);
    for (int s = 0; s < m.sideCount(); ++s)
        if (m.sideCells[size_t(s)][1] < 0) {
            for (const int i : space.onSide(s, order))
                isFree[size_t(i)] = 0;
            for (const int i : scalar.onSide(s, order))
                freeScalar[size_t(i)] = 0;
        }
    const auto ranks = fem::cornerRanks(m);
    const auto numbering = fem::byRank(space.functionRanks(order, ranks), isFree);
    const fem::CellFunctions functions{&m, space.localCount(order), space.localCount(order),
                                       space.cellTable()};
    const std::vector<fem::Term> terms{{&elements.curl, {}}, {&elements.mass, {}}};
    const auto family = fem::assemble(functions, terms, numbering);
    fem::EigenProblem p;
    p.size = family.size;
    p.shift = indefinite ? 1.5 : -1.0;
    const std::vector<double> shifted{1.0, -p.shift};
    const auto A = family.sum(shifted);
    const fem::SymmetricProduct products(family, 0, 1);
    p.multiplyM = [&](const std::vector<double>& x, std::vector<double>& y) {
        products.multiply(1, x, y);
    };
    fem::Cholesky cholesky;
    fem::Ldlt<double> ldlt;
    if (indefinite) {
        ldlt.factorise(A.size, A.start, A.row, A.value);
        p.solveShifted = [&](std::vector<double>& x, int n) { ldlt.solve(x, n); };
    } else {
        cholesky.analyse(A);
        cholesky.factorise(A);
        p.solveShifted = [&](std::vector<double>& x, int n) { cholesky.solve(x, n); };
    }
    // Gradients out: x - G (G^T M G)^-1 G^T M x.
    const auto stiffness = fem::stiffness(scalar, one, fem::Measure::plane);
    const auto scalarPlaces = fem::nestedDissection(scalar, order, freeScalar, ranks);
    const auto S = fem::assemble(scalar, order, stiffness, scalarPlaces);
    fem::Cholesky laplace;
    laplace.analyse(S);
    laplace.factorise(S);
    p.project = [&](std::vector<double>& x) {
        std::vector<double> y, all(size_t(space.count()), 0.0), phi(size_t(S.size)),
            nodal(size_t(scalar.count()), 0.0);
        p.multiplyM(x, y);
        for (int i = 0; i < family.size; ++i)
            all[size_t(numbering.function[size_t(i)])] = y[size_t(i)];
        const auto g = space.gradientTransposed(scalar, order, all);
        for (int i = 0; i < S.size; ++i)
            phi[size_t(i)] = g[size_t(scalarPlaces.function[size_t(i)])];
        laplace.solve(phi, 1);
        for (int i = 0; i < S.size; ++i)
            nodal[size_t(scalarPlaces.function[size_t(i)])] = phi[size_t(i)];
        const auto back = space.gradient(scalar, order, nodal);
        for (int i = 0; i < family.size; ++i)
            x[size_t(i)] -= back[size_t(numbering.function[size_t(i)])];
    };
    base::Progress progress;
    return fem::lowestEigenpairs(p, count, progress).value;
}

}  // namespace

class TestEdge : public QObject
{
    Q_OBJECT
private slots:
    void circulations()
    {
        // Edges' values from what their sums round faces are; and the way round a hole.
        const mesh::Mesh m = test::cubeMesh(shape::Partition(), 4);
        std::mt19937 random(11);
        std::uniform_real_distribution<double> any(-1, 1);
        std::vector<double> given(size_t(m.edgeCount()));
        for (double& x : given)
            x = any(random);
        auto around = [&m](const std::vector<double>& x, int face) {
            int count = 0;
            double sum = 0;
            const auto& c = m.faces[size_t(face)];
            for (const int e : m.sideEdges(face, count)) {
                const auto& ends = m.edges[size_t(e)];
                sum += (ends[0] == c[0] && ends[1] == c[2] ? -1 : 1) * x[size_t(e)];
            }
            return sum;
        };
        std::vector<int> faces;
        std::vector<std::vector<double>> flux(1);
        for (int f = 0; f < m.faceCount(); ++f) {
            faces.push_back(f);
            flux[0].push_back(around(given, f));
        }
        const auto found = fem::circulation(m, faces, {}, flux);
        QVERIFY(found.loops.empty());
        for (const int f : faces)
            QVERIFY(std::abs(around(found.value[0], f) - flux[0][size_t(f)]) < 1e-12);
        // A ring: all cells but the column in the middle.
        std::vector<int> ring;
        for (int f = 0; f < m.faceCount(); ++f)
            for (const int t : m.sideCells[size_t(f)]) {
                if (t < 0)
                    continue;
                Point p;
                for (const int v : m.corners(t))
                    p = p + 0.25 * m.vertices[size_t(v)];
                if (std::abs(p.x - 0.5) > 0.25 || std::abs(p.y - 0.5) > 0.25) {
                    ring.push_back(f);
                    break;
                }
            }
        const auto round = fem::circulation(m, ring, {}, {});
        QCOMPARE(round.loops.size(), size_t(1));
        for (const int f : ring)
            QVERIFY(std::abs(around(round.loops[0], f)) < 1e-12);
        // Along the outer border once round it, edge by edge.
        double once = 0;
        for (size_t e = 0; e < m.edges.size(); ++e) {
            const Point &a = m.vertices[size_t(m.edges[e][0])],
                        &b = m.vertices[size_t(m.edges[e][1])];
            if (a.z != 0 || b.z != 0)
                continue;
            const double by = a.y == 0 && b.y == 0   ? b.x - a.x
                              : a.y == 1 && b.y == 1 ? a.x - b.x
                              : a.x == 1 && b.x == 1 ? b.y - a.y
                              : a.x == 0 && b.x == 0 ? a.y - b.y
                                                     : 0;
            once += by > 0 ? round.loops[0][e] : by < 0 ? -round.loops[0][e] : 0;
        }
        QVERIFY(std::abs(std::abs(once) - 1) < 1e-12);
    }
    void functionsAreIndependent_data()
    {
        QTest::addColumn<int>("dimension");
        QTest::addColumn<int>("order");
        for (int d = 2; d <= 3; ++d)
            for (int p = 1; p <= 3; ++p)
                QTest::addRow("%d dimensions, order %d", d, p) << d << p;
    }
    void functionsAreIndependent()
    {
        QFETCH(int, dimension);
        QFETCH(int, order);
        const int n = fem::edgeLocalCount(dimension, order);
        Eigen::MatrixXd gram = Eigen::MatrixXd::Zero(n, n), curls = gram;
        for (const auto& q : fem::cellRule(dimension, 2 * order)) {
            fem::EdgeBasis b;
            fem::edgeBasis(dimension, {}, order, q.xi, b);
            for (int i = 0; i < n; ++i)
                for (int j = 0; j < n; ++j) {
                    gram(i, j) += q.w * dot(b.value[i], b.value[j]);
                    curls(i, j) += q.w * dot(b.curl[i], b.curl[j]);
                }
        }
        auto rank = [](Eigen::MatrixXd m) {
            const Eigen::VectorXd s =
                m.diagonal().cwiseSqrt().unaryExpr([](double x) { return x > 0 ? 1 / x : 0.0; });
            m = s.asDiagonal() * m * s.asDiagonal();
            const fem::SymmetricEigen e = fem::symmetricEigen(m);
            return int((e.value.array() > 1e-9).count());
        };
        QCOMPARE(rank(gram), n);
        // Kernel of the curl: gradients of polynomials of the same order, without constants.
        QCOMPARE(rank(curls), n - (fem::localCount(dimension, order) - 1));
    }
    /// Polynomials of degree order - 1 are in the space: their projection is exact.
    void polynomialsAreMet_data() { functionsAreIndependent_data(); }
    void polynomialsAreMet()
    {
        QFETCH(int, dimension);
        QFETCH(int, order);
        const int n = fem::edgeLocalCount(dimension, order);
        auto field = [&](const Point& x) {
            const double a = order >= 2 ? x.x - 2 * x.y + 0.5 * x.z : 0.0,
                         b = order >= 3 ? x.x * x.y - x.z * x.z + 0.3 * x.y * x.y : 0.0;
            return Point{1 + a + b, 2 - 3 * a + 0.7 * b, dimension == 3 ? a - b : 0.0};
        };
        Eigen::MatrixXd gram = Eigen::MatrixXd::Zero(n, n);
        Eigen::VectorXd rhs = Eigen::VectorXd::Zero(n);
        const auto& rule = fem::cellRule(dimension, 2 * order + 2);
        for (const auto& q : rule) {
            fem::EdgeBasis b;
            fem::edgeBasis(dimension, {}, order, q.xi, b);
            for (int i = 0; i < n; ++i) {
                rhs(i) += q.w * dot(b.value[i], field(q.xi));
                for (int j = 0; j < n; ++j)
                    gram(i, j) += q.w * dot(b.value[i], b.value[j]);
            }
        }
        const Eigen::VectorXd c = fem::solvedSymmetric(gram, rhs);
        for (const auto& q : rule) {
            fem::EdgeBasis b;
            fem::edgeBasis(dimension, {}, order, q.xi, b);
            Point v;
            for (int i = 0; i < n; ++i)
                v = v + c(i) * b.value[i];
            QVERIFY(norm(v - field(q.xi)) < 1e-10);
        }
    }
    /// Fields that turn with the angle: the gradient of r N / m cos(m phi) is in the space, has no
    /// curl, and its matrix is that of the gradients themselves.
    void turningGradients_data()
    {
        QTest::addColumn<int>("order");
        QTest::addColumn<int>("turns");
        for (int p = 1; p <= 3; ++p)
            QTest::addRow("order %d", p) << p << p;
    }
    void turningGradients()
    {
        QFETCH(int, order);
        QFETCH(int, turns);
        const mesh::Mesh m = meshOf(2, 3);
        const fem::EdgeSpace space(m, order, {fem::EdgeKind::turning, turns});
        const fem::H1Space scalar(m, order);
        std::mt19937 random(2);
        std::uniform_real_distribution<double> any(-1, 1);
        std::vector<double> N(size_t(scalar.count()));
        for (double& x : N)
            x = any(random);
        const auto field = space.gradient(scalar, order, N);
        for (int t = 0; t < m.cellCount(); ++t) {
            const Point xi{0.3, 0.2, 0};
            const auto v = space.at(field, order, t, xi);
            const Point p = mesh::Geometry(m, t).at(xi), g = scalar.gradient(N, order, t, xi);
            const double n = scalar.value(N, order, t, xi);
            // In the drawing r grad N + N rhat over m; across it, against the angle, N.
            const Point exact{(p.x * g.x + n) / turns, p.x * g.y / turns, n};
            QVERIFY(norm(v.value - exact) < 1e-12 * (1 + norm(exact)));
            QVERIFY(norm(v.curl) < 1e-10 * (1 + norm(g)));
        }
        const std::vector<fem::Coefficient> one(1);
        const auto elements = fem::edgeElements(space, one, one, fem::Measure::axisymmetric);
        const auto weighted = fem::product(space, order, elements.mass, field);
        const auto forms = fem::gradientElements(space, scalar, elements.mass);
        double direct = 0, by = 0;
        for (size_t i = 0; i < field.size(); ++i)
            direct += field[i] * weighted[i];
        int number[fem::mostLocal];
        double sign[fem::mostLocal], x[fem::mostLocal], y[fem::mostLocal];
        const int local = scalar.localCount(order);
        for (int t = 0; t < m.cellCount(); ++t) {
            scalar.local(t, number, sign);
            for (int i = 0; i < local; ++i)
                x[i] = N[size_t(number[i])];
            forms.multiply(t, local, x, y);
            for (int i = 0; i < local; ++i)
                by += x[i] * y[i];
        }
        QVERIFY(std::abs(by / direct - 1) < 1e-10);
    }
    /// The part along a side is the same from both cells, whatever the order of their corners.
    void tangentialPartsFit_data() { functionsAreIndependent_data(); }
    void tangentialPartsFit()
    {
        QFETCH(int, dimension);
        QFETCH(int, order);
        mesh::Mesh m = meshOf(dimension, 2);
        const fem::EdgeSpace space(m, order);
        std::mt19937 random(1);
        std::uniform_real_distribution<double> any(-1, 1);
        std::vector<double> c(size_t(space.count()));
        for (double& x : c)
            x = any(random);
        int compared = 0;
        for (int s = 0; s < m.sideCount(); ++s) {
            const auto [a, b] = m.sideCells[size_t(s)];
            if (b < 0)
                continue;
            const mesh::Geometry ga(m, a), gb(m, b);
            const int k = m.localSide(a, s);
            const Point xi = ga.onSide(k, dimension == 2 ? Point{0.3} : Point{0.2, 0.5}),
                        normal = ga.outward(k, xi);
            Point other;
            QVERIFY(gb.invert(ga.at(xi), other));
            const Point jump =
                cross(normal, space.at(c, order, a, xi).value - space.at(c, order, b, other).value);
            QVERIFY(norm(jump) < 1e-9);
            ++compared;
        }
        QVERIFY(compared > 4);
    }
    void gradientsHaveNoCurl()
    {
        for (int dimension = 2; dimension <= 3; ++dimension)
            for (int order = 1; order <= 3; ++order) {
                const mesh::Mesh m = meshOf(dimension, 2);
                const fem::EdgeSpace space(m, order);
                const fem::H1Space scalar(m, order);
                std::mt19937 random(2);
                std::uniform_real_distribution<double> any(-1, 1);
                std::vector<double> phi(size_t(scalar.count()));
                for (double& x : phi)
                    x = any(random);
                const auto c = space.gradient(scalar, order, phi);
                for (int t = 0; t < m.cellCount(); ++t) {
                    const Point xi = dimension == 2 ? Point{0.2, 0.3} : Point{0.2, 0.3, 0.1};
                    const auto v = space.at(c, order, t, xi);
                    QVERIFY(norm(v.curl) < 1e-9);
                    QVERIFY(norm(v.value - scalar.gradient(phi, order, t, xi)) < 1e-9);
                }
            }
    }
    /// Modes of the cube: pi^2 times 2 (three times), 3 (twice), 5 (six times). Jackson, section
    /// 8.7 (from memory). None at or near zero, none between: no spurious modes.
    void cubeHasItsModes_data()
    {
        QTest::addColumn<int>("order");
        QTest::addColumn<int>("cells");
        QTest::addColumn<double>("within");
        QTest::newRow("order 1") << 1 << 6 << 0.05;
        QTest::newRow("order 2") << 2 << 4 << 8e-3;
        QTest::newRow("order 3") << 3 << 3 << 2e-3;
    }
    void cubeHasItsModes()
    {
        QFETCH(int, order);
        QFETCH(int, cells);
        QFETCH(double, within);
        const mesh::Mesh m = meshOf(3, cells);
        const double expected[] = {2, 2, 2, 3, 3, 5, 5, 5, 5, 5, 5};
        for (const bool indefinite : {false, true}) {
            const auto found = cavity(m, order, 11, indefinite);
            QCOMPARE(found.size(), size_t(11));
            for (size_t k = 0; k < found.size(); ++k)
                QVERIFY2(std::abs(found[k] / (pi * pi * expected[k]) - 1) < within,
                         qPrintable(QString::number(found[k] / (pi * pi), 'g', 10)));
        }
    }
    /// The iteration gives what the direct solution gives, in a number of steps that hardly grows
    /// with the mesh and does not depend on the size of k^2; also below and above resonances.
    void nextOrderIsPartOfTheMatrix_data()
    {
        QTest::addColumn<int>("dimension");
        QTest::addColumn<int>("order");
        for (const int dimension : {2, 3})
            for (const int order : {1, 2})
                QTest::addRow("%d dimensions, order %d", dimension, order) << dimension << order;
    }
    /// What functions of the next order meet in a field is what the whole matrix of that order
    /// says.
    void nextOrderIsPartOfTheMatrix()
    {
        QFETCH(int, dimension);
        QFETCH(int, order);
        const auto m = meshOf(dimension, 2);
        const fem::EdgeSpace next(m, order + 1);
        std::vector<fem::Coefficient> one(1), graded(1);
        graded[0].at = [](Point p) { return fem::Tensor{1 + p.x}; };
        std::mt19937 random(7);
        std::uniform_real_distribution<double> any(-1, 1);
        std::vector<std::vector<double>> fields(3);
        for (auto& f : fields)
            for (int i = 0; i < next.count(order); ++i)
                f.push_back(any(random));
        for (const auto* eps : {&one, &graded}) {
            const std::vector<fem::NextTerm> terms{{true, {1.0}}, {false, {2.5}}};
            const auto rows =
                fem::nextOrder(next, order, fields, one, *eps, fem::Measure::plane, terms);
            const auto whole = fem::edgeElements(next, one, *eps, fem::Measure::plane);
            QCOMPARE(rows.first, next.count(order));
            for (size_t k = 0; k < fields.size(); ++k) {
                auto high = fields[k];
                high.resize(size_t(next.count()), 0.0);
                const auto curl = fem::product(next, order + 1, whole.curl, high),
                           mass = fem::product(next, order + 1, whole.mass, high);
                for (size_t i = 0; i < rows.parts[0].own.size(); ++i) {
                    const size_t at = i + size_t(rows.first);
                    QVERIFY(std::abs(double(rows.parts[0].rows[i * 3 + k]) - curl[at]) < 1e-4);
                    QVERIFY(std::abs(double(rows.parts[1].rows[i * 3 + k]) - 2.5 * mass[at]) <
                            1e-5);
                }
            }
            for (size_t i = 0; i < rows.parts[0].own.size(); i += 7) {
                std::vector<double> unit(size_t(next.count()), 0.0);
                const size_t at = i + size_t(rows.first);
                unit[at] = 1;
                QVERIFY(std::abs(fem::product(next, order + 1, whole.curl, unit)[at] -
                                 rows.parts[0].own[i]) < 1e-12);
                QVERIFY(std::abs(2.5 * fem::product(next, order + 1, whole.mass, unit)[at] -
                                 rows.parts[1].own[i]) < 1e-12);
            }
        }
    }
    void iterationEqualsDirect_data()
    {
        QTest::addColumn<int>("order");
        QTest::addColumn<double>("k2");
        QTest::newRow("order 2, static") << 2 << 1e-3;
        QTest::newRow("order 2, waves") << 2 << 60.0;
        QTest::newRow("order 3, waves") << 3 << 30.0;
    }
    void iterationEqualsDirect()
    {
        using Complex = std::complex<double>;
        QFETCH(int, order);
        QFETCH(double, k2);
        const mesh::Mesh m = meshOf(3, order == 2 ? 6 : 4);
        const fem::EdgeSpace space(m, order);
        const std::vector<fem::Coefficient> one(1);
        const auto elements = fem::edgeElements(space, one, one, fem::Measure::plane);
        std::vector<char> isFree(size_t(space.count()), 1), coarse;
        for (int s = 0; s < m.sideCount(); ++s)
            if (m.sideCells[size_t(s)][1] < 0)
                for (const int i : space.onSide(s, order))
                    isFree[size_t(i)] = 0;
        const auto numbering = fem::byRank(space.functionRanks(order, fem::cornerRanks(m)), isFree);
        const fem::CellFunctions functions{&m, space.localCount(order), space.localCount(order),
                                           space.cellTable()};
        const std::vector<fem::Term> terms{{&elements.curl, {}}, {&elements.mass, {}}};
        const auto family = fem::assemble(functions, terms, numbering);
        std::vector<Complex> A(family.row.size());
        for (size_t k = 0; k < A.size(); ++k)
            A[k] = family.value[0][k] - Complex(k2, -0.02 * k2) * family.value[1][k];
        for (const int i : numbering.function)
            coarse.push_back(i < space.count(1));
        std::vector<int> first, list;
        space.stars(order, first, list);
        fem::EdgeBlocks blocks;
        for (size_t e = 0; e + 1 < first.size(); ++e) {
            for (int k = first[e]; k < first[e + 1]; ++k)
                if (const int p = numbering.place[size_t(list[size_t(k)])]; p >= 0)
                    blocks.list.push_back(p);
            if (int(blocks.list.size()) > blocks.start.back())
                blocks.start.push_back(int(blocks.list.size()));
        }
        fem::EdgeMultilevel<Complex> levels;
        levels.setUp(family.size, family.start, family.row, A, coarse, blocks);
        std::mt19937 random(5);
        std::uniform_real_distribution<double> any(-1, 1);
        std::vector<Complex> b(size_t(family.size)), product;
        for (Complex& v : b)
            v = {any(random), any(random)};
        auto x = b, direct = b;
        const int steps = levels.solve(x, 1e-9, base::Progress());
        QVERIFY2(steps > 0 && steps < 75, qPrintable(QString::number(steps)));
        fem::Ldlt<Complex> factor;
        factor.factorise(family.size, family.start, family.row, A);
        factor.solve(direct, 1);
        levels.product(x, product);
        double off = 0, whole = 0, left = 0, given = 0;
        for (size_t i = 0; i < x.size(); ++i) {
            off += std::norm(x[i] - direct[i]);
            whole += std::norm(direct[i]);
            left += std::norm(product[i] - b[i]);
            given += std::norm(b[i]);
        }
        QVERIFY2(off < 1e-10 * whole, qPrintable(QString::number(off / whole)));
        QVERIFY(left < 1e-10 * given);
        // Single precision, refined, is as good as double; several right-hand sides at once.
        fem::RefinedLdlt<Complex> refined;
        refined.factorise(family.size, family.start, family.row, A);
        std::vector<Complex> two = b;
        two.insert(two.end(), b.begin(), b.end());
        refined.solve(two, 2);
        for (const size_t from : {size_t(0), b.size()}) {
            double apart = 0;
            for (size_t i = 0; i < b.size(); ++i)
                apart += std::norm(two[from + i] - direct[i]);
            QVERIFY2(apart < 1e-16 * whole, qPrintable(QString::number(apart / whole)));
        }
    }
    /// Gradients are nearly singular in cells far smaller than the wavelength: single precision
    /// does not see them, and the solution is found in double precision by itself.
    void tinyCellsNeedDoublePrecision()
    {
        const mesh::Mesh m = meshOf(3, 3);
        const fem::EdgeSpace space(m, 2);
        const std::vector<fem::Coefficient> one(1);
        const auto elements = fem::edgeElements(space, one, one, fem::Measure::plane);
        const std::vector<char> isFree(size_t(space.count()), 1);
        const auto numbering = fem::byRank(space.functionRanks(2, fem::cornerRanks(m)), isFree);
        const fem::CellFunctions functions{&m, space.localCount(2), space.localCount(2),
                                           space.cellTable()};
        const std::vector<fem::Term> terms{{&elements.curl, {}}, {&elements.mass, {}}};
        const auto family = fem::assemble(functions, terms, numbering);
        const auto A = family.sum(std::vector<double>{1.0, -1e-10});
        fem::RefinedLdlt<double> refined;
        fem::Ldlt<double> factor;
        std::vector<double> b(size_t(family.size));
        for (size_t i = 0; i < b.size(); ++i)
            b[i] = std::sin(double(i));
        auto x = b;
        refined.factorise(A.size, A.start, A.row, A.value);
        refined.solve(x, 1);
        factor.factorise(A.size, A.start, A.row, A.value);
        factor.solve(b, 1);
        double off = 0, whole = 0;
        for (size_t i = 0; i < b.size(); ++i) {
            off += (x[i] - b[i]) * (x[i] - b[i]);
            whole += b[i] * b[i];
        }
        QVERIFY2(off < 1e-10 * whole, qPrintable(QString::number(off / whole)));
    }
    /// Eigenvalues converge with twice the order: h^(2p).
    void eigenvaluesConverge()
    {
        for (int dimension = 2; dimension <= 3; ++dimension)
            for (int order = 1; order <= 3; ++order) {
                double error[2];
                for (int k = 0; k < 2; ++k) {
                    const auto m = meshOf(dimension, (dimension == 2 ? 4 : 2) << k);
                    error[k] = std::abs(cavity(m, order, 3, false)[2] / (2 * pi * pi) - 1);
                }
                const double rate = std::log2(error[0] / error[1]);
                QVERIFY2(rate > 2 * order - 0.5, qPrintable(QString::number(rate)));
            }
    }
};

YH_TEST(TestEdge)

}  // namespace tst_edge

#include "tst_edge.moc"
