// The finite-element core: quadrature, basis, assembly, factorisation, orders of convergence.
#include "cube_mesh.h"
#include "fem/assembly.h"
#include "fem/block_krylov.h"
#include "fem/cholesky.h"
#include "fem/dense.h"
#include "fem/lu.h"
#include "fem/quadrature.h"
#include "fem/rational.h"
#include "program.h"

#include <QtTest/QtTest>

#include <omp.h>
#include <cmath>
#include <random>
#include <utility>

namespace tst_fem {

using namespace yh;
using fem::Measure;
using mesh::Mesh;
using mesh::Point;
using sheet::Document;

namespace {

constexpr double pi = 3.14159265358979323846;

struct Domain
{
    shape::Partition partition;
    Mesh mesh;
};

Domain domainOf(Document d)
{
    Domain r{shape::Partition::build(sheet::Model(std::move(d))), {}};
    base::Progress progress;
    r.mesh = mesh::generate(r.partition, {{0}, 1, {}, 0.5}, progress);
    return r;
}

Document square()
{
    Document d;
    d.add("rectangle",
          {{"name", "s"}, {"width", "1 m"}, {"height", "1 m"}, {"at", "0.5 m, 0.5 m"}});
    return d;
}

Document disc(bool half)
{
    Document d;
    d.add("space", {{"type", half ? "axisymmetric" : "plane"}});
    d.add("disc", {{"name", "s"}, {"radius", "1 m"}});
    return d;
}

/// Solves -div(k grad u) = f with u = 0 on every border off the axis; L2 error against `exact`.
double l2Error(const Domain& domain, int order, Measure measure, const fem::Coefficient& k,
               const std::function<double(Point)>& f, const std::function<double(Point)>& exact)
{
    const Mesh& m = domain.mesh;
    const fem::H1Space space(m, order);
    std::vector<char> isFree(size_t(space.count()), 1);
    for (int e = 0; e < m.sideCount(); ++e) {
        const bool axis =
            measure == Measure::axisymmetric && std::abs(m.middles[size_t(e)].x) < 1e-9;
        if (m.sideCells[size_t(e)][1] < 0 && !axis)
            for (const int i : space.onSide(e, order))
                isFree[size_t(i)] = 0;
    }
    const auto elements = fem::stiffness(space, std::vector{k}, measure);
    const auto numbering = fem::nestedDissection(space, order, isFree);
    const auto K = fem::assemble(space, order, elements, numbering);
    const auto rhs = fem::load(space, std::vector{f}, measure);
    std::vector<double> x;
    for (const int i : numbering.function)
        x.push_back(rhs[size_t(i)]);
    fem::Cholesky factor;
    factor.analyse(K);
    factor.factorise(K);
    factor.solve(x, 1);
    std::vector<double> u(size_t(space.count()), 0.0);
    for (int i = 0; i < numbering.size(); ++i)
        u[size_t(numbering.function[size_t(i)])] = x[size_t(i)];
    double sum = 0;
    for (int t = 0; t < m.cellCount(); ++t) {
        const mesh::Geometry g(m, t);
        for (const auto& q : fem::cellRule(m.dimension, m.dimension == 2 ? 12 : 8)) {
            const Point p = g.at(q.xi);
            const double d = space.value(u, order, t, q.xi) - exact(p);
            sum += q.w * g.determinant(q.xi) * d * d * measureAt(measure, p);
        }
    }
    return std::sqrt(sum);
}

}  // namespace

class TstFem : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void unknownsBehindAFamily();
    void polesOfSampledFunctions();
    void quadratureIsExact();
    void basisIsNestedAndDifferentiated();
    void edgesAgreeAcrossTriangles();
    void tetrahedraConverge_data();
    void tetrahedraConverge();
    void facesAgreeAcrossTetrahedra();
    void convergence_data();
    void convergence();
    void sameForAnyNumberOfThreads();
    void multiplyBack();
    void straightAndCurvedKernelsAgree();
    void sideLoadSumsToTheCharge();
    void singularSystemIsSaid();
    void sparseFactorsOfEitherOrder();
    void denseProductsAndSizes();
    void largestPairsOfAnOperatorThatIsNotSymmetric();
};

void TstFem::polesOfSampledFunctions()
{
    // Two functions with three poles in common, sharp and blunt, and a smooth rest.
    using Complex = std::complex<double>;
    const Complex pole[3] = {{10.1, 1e-4}, {10.4, 0.02}, {9.0, 0.8}};
    const Complex residue[2][3] = {{{1e-4, 2e-5}, {0.0, 0.03}, {0.5, 0.1}},
                                   {{-5e-5, 0.0}, {0.02, 0.0}, {0.0, -0.3}}};
    std::vector<double> x;
    std::vector<std::vector<Complex>> value(2);
    for (int i = 0; i <= 160; ++i) {
        x.push_back(9.5 + 1.5 * i / 160);
        for (size_t k = 0; k < 2; ++k) {
            Complex v(0.3, -0.1 * x.back());
            for (int j = 0; j < 3; ++j)
                v += residue[k][j] / (x.back() - pole[j]);
            value[k].push_back(v);
        }
    }
    const auto found = fem::polesOf(x, value, 1e-11);
    for (int j = 0; j < 3; ++j) {
        const auto nearest =
            std::min_element(found.begin(), found.end(), [&](const auto& a, const auto& b) {
                return std::abs(a.at - pole[j]) < std::abs(b.at - pole[j]);
            });
        QVERIFY(nearest != found.end());
        QVERIFY2(std::abs(nearest->at - pole[j]) < 1e-5 * pole[j].imag(),
                 qPrintable(QString::number(std::abs(nearest->at - pole[j]))));
        for (size_t k = 0; k < 2; ++k)
            QVERIFY(std::abs(nearest->residue[k] / residue[k][j] - 1.0) < 1e-4);
    }
    // Too few samples say nothing.
    QVERIFY(fem::polesOf({1, 2}, {{1.0, 2.0}}, 1e-9).empty());
}

void TstFem::quadratureIsExact()
{
    // integral of u^a v^b over the triangle = a! b! / (a + b + 2)!  (Stroud, from memory).
    auto factorial = [](int n) { return std::tgamma(n + 1.0); };
    for (int degree = 0; degree <= 16; ++degree)
        for (int a = 0; a <= degree; ++a) {
            const int b = degree - a;
            double sum = 0;
            for (const auto& q : fem::cellRule(2, degree))
                sum += q.w * std::pow(q.xi.x, a) * std::pow(q.xi.y, b);
            QVERIFY(std::abs(sum * factorial(a + b + 2) / (factorial(a) * factorial(b)) - 1) <
                    1e-12);
            // and over the tetrahedron a! b! c! / (a + b + c + 3)!
            for (int c = 0; c <= b; ++c) {
                double volume = 0;
                for (const auto& q : fem::cellRule(3, degree))
                    volume +=
                        q.w * std::pow(q.xi.x, a) * std::pow(q.xi.y, b - c) * std::pow(q.xi.z, c);
                QVERIFY(std::abs(volume * factorial(a + b + 3) /
                                     (factorial(a) * factorial(b - c) * factorial(c)) -
                                 1) < 1e-11);
            }
        }
    for (int n = 1; n < 10; ++n) {
        double sum = 0;
        for (const auto& q : fem::gaussLegendre(n))
            sum += q.w * std::pow(q.x, 2 * n - 1);
        QVERIFY(std::abs(sum * 2 * n - 1) < 1e-13);
    }
}

void TstFem::basisIsNestedAndDifferentiated()
{
    std::mt19937 random(11);
    std::uniform_real_distribution<double> uniform(0, 0.3);
    constexpr double h = 1e-6;
    for (const int dimension : {2, 3})
        for (int i = 0; i < 50; ++i) {
            const Point at{uniform(random), uniform(random), dimension == 3 ? uniform(random) : 0};
            const int highest = dimension == 2 ? 4 : 3;
            fem::Basis all;
            fem::basis(dimension, highest, at, all);
            for (int order = 1; order <= highest; ++order) {
                const int n = fem::localCount(dimension, order);
                fem::Basis f, a, b;
                fem::basis(dimension, order, at, f);
                double sum = 0;
                for (int k = 0; k <= dimension; ++k)
                    sum += f.value[k];
                QVERIFY(std::abs(sum - 1) < 1e-15);
                for (int c = 0; c < dimension; ++c) {
                    const Point step{c == 0 ? h : 0, c == 1 ? h : 0, c == 2 ? h : 0};
                    fem::basis(dimension, order, at + step, a);
                    fem::basis(dimension, order, at - step, b);
                    for (int k = 0; k < n; ++k) {
                        QCOMPARE(f.value[k], all.value[k]);
                        QVERIFY(std::abs((a.value[k] - b.value[k]) / (2 * h) - f.d[c][k]) < 1e-8);
                    }
                }
            }
        }
}

void TstFem::edgesAgreeAcrossTriangles()
{
    // Any function of the space is continuous over every inner edge.
    const Domain d = domainOf(disc(false));
    const Mesh& m = d.mesh;
    std::mt19937 random(5);
    std::normal_distribution<double> normal;
    for (int order = 1; order <= 4; ++order) {
        const fem::H1Space space(m, order);
        std::vector<double> c(size_t(space.count()));
        for (double& x : c)
            x = normal(random);
        const mesh::Locator locator(m);
        for (int e = 0; e < m.edgeCount(); ++e) {
            if (m.sideCells[size_t(e)][1] < 0)
                continue;
            double value[2] = {0, 0};
            for (size_t side = 0; side < 2; ++side) {
                const int t = m.sideCells[size_t(e)][side];
                const int k = m.localSide(t, e);
                const bool forward = m.cells[size_t(t)][size_t(k)] == m.edges[size_t(e)][0];
                const mesh::Geometry g(m, t);
                value[side] = space.value(c, order, t, g.onSide(k, {forward ? 0.3 : 0.7}));
            }
            QVERIFY(std::abs(value[0] - value[1]) < 1e-12);
        }
    }
}

void TstFem::facesAgreeAcrossTetrahedra()
{
    // Any function of the space is continuous over every inner face, and its gradient there is
    // that of the coefficients: an edge function that took the wrong sign would jump.
    const Domain d = domainOf(square());
    const Mesh m = test::cubeMesh(d.partition, 2);
    std::mt19937 random(9);
    std::normal_distribution<double> normal;
    for (int order = 1; order <= 3; ++order) {
        const fem::H1Space space(m, order);
        std::vector<double> c(size_t(space.count()));
        for (double& x : c)
            x = normal(random);
        for (int f = 0; f < m.sideCount(); ++f) {
            if (m.sideCells[size_t(f)][1] < 0)
                continue;
            const int t = m.sideCells[size_t(f)][0], u = m.sideCells[size_t(f)][1];
            const mesh::Geometry g(m, t), h(m, u);
            const Point xi = g.onSide(m.localSide(t, f), {0.2, 0.5});
            Point there;
            QVERIFY(h.invert(g.at(xi), there));
            QVERIFY(std::abs(space.value(c, order, t, xi) - space.value(c, order, u, there)) <
                    1e-11);
        }
    }
}

void TstFem::tetrahedraConverge_data()
{
    QTest::addColumn<int>("order");
    for (int order = 1; order <= 3; ++order)
        QTest::addRow("order %d", order) << order;
}

void TstFem::tetrahedraConverge()
{
    // Manufactured: u = sin(pi x) sin(pi y) sin(pi z) in the unit cube with an anisotropic tensor.
    QFETCH(int, order);
    const Domain d = domainOf(square());
    fem::Coefficient k;
    k.constant = {2, 0.5, 1, 0.2, 0.1, 3};
    auto u = [](Point p) { return std::sin(pi * p.x) * std::sin(pi * p.y) * std::sin(pi * p.z); };
    auto f = [](Point p) {
        const double s[3] = {std::sin(pi * p.x), std::sin(pi * p.y), std::sin(pi * p.z)},
                     c[3] = {std::cos(pi * p.x), std::cos(pi * p.y), std::cos(pi * p.z)};
        return pi * pi *
               ((2 + 1 + 3) * s[0] * s[1] * s[2] - 2 * 0.5 * c[0] * c[1] * s[2] -
                2 * 0.2 * c[0] * s[1] * c[2] - 2 * 0.1 * s[0] * c[1] * c[2]);
    };
    std::vector<double> errors;
    for (const int n : {2, 4, 8}) {
        const Domain solid{d.partition, test::cubeMesh(d.partition, n)};
        errors.push_back(l2Error(solid, order, Measure::plane, k, f, u));
    }
    const double rate = std::log2(errors[1] / errors[2]);
    QVERIFY2(rate > order + 1 - 0.3, qPrintable(QString::number(rate)));
    QVERIFY(rate < order + 1 + 0.8);
}

void TstFem::convergence_data()
{
    QTest::addColumn<int>("problem");
    QTest::addColumn<int>("order");
    const char* names[] = {"square", "disc", "ball", "anisotropic and position-dependent"};
    for (int p = 0; p < 4; ++p)
        for (int order = 1; order <= 3; ++order)
            QTest::addRow("%s, order %d", names[p], order) << p << order;
}

void TstFem::convergence()
{
    QFETCH(int, problem);
    QFETCH(int, order);
    std::function<double(Point)> exact, f;
    fem::Coefficient k;
    Measure measure = Measure::plane;
    Document document = square();
    if (problem == 0) {
        exact = [](Point p) { return std::sin(pi * p.x) * std::sin(pi * p.y); };
        f = [exact](Point p) { return 2 * pi * pi * exact(p); };
    } else if (problem == 1) {
        document = disc(false);
        exact = [](Point p) { return (1 - p.x * p.x - p.y * p.y) * std::exp(p.x); };
        f = [](Point p) { return -std::exp(p.x) * (1 - p.x * p.x - p.y * p.y - 4 * p.x - 4); };
    } else if (problem == 2) {
        document = disc(true);
        measure = Measure::axisymmetric;
        exact = [](Point p) { return (1 - p.x * p.x - p.y * p.y) * std::exp(p.y); };
        f = [](Point p) { return -std::exp(p.y) * (1 - p.x * p.x - p.y * p.y - 4 * p.y - 6); };
    } else {
        // k = [[2 + x, 1], [1, 3]]: f worked out by hand.
        exact = [](Point p) { return std::sin(pi * p.x) * std::sin(pi * p.y); };
        k.at = [](Point p) { return fem::Tensor{2 + p.x, 1, 3}; };
        f = [](Point p) {
            const double sx = std::sin(pi * p.x), cx = std::cos(pi * p.x), sy = std::sin(pi * p.y),
                         cy = std::cos(pi * p.y);
            return (2 + p.x) * pi * pi * sx * sy - pi * cx * sy - 2 * pi * pi * cx * cy +
                   3 * pi * pi * sx * sy;
        };
    }
    Domain d = domainOf(document);
    std::vector<double> error;
    for (int i = 0; i < 3; ++i) {
        d.mesh =
            mesh::refine(d.mesh, d.partition, std::vector<char>(size_t(d.mesh.cellCount()), 1));
        error.push_back(l2Error(d, order, measure, k, f, exact));
    }
    // Order p + 1 in L2 (Brenner and Scott, section 5.4); quadratic sides limit order 3 to 4 as
    // well.
    for (size_t i = 1; i < error.size(); ++i) {
        const double rate = std::log2(error[i - 1] / error[i]);
        QVERIFY2(rate > order + 1 - 0.35,
                 qPrintable(QString("rate %1, error %2").arg(rate).arg(error[i])));
    }
}

void TstFem::sameForAnyNumberOfThreads()
{
    const Domain d = domainOf(disc(false));
    const fem::H1Space space(d.mesh, 3);
    const std::vector<char> isFree(size_t(space.count()), 1);
    std::vector<fem::SparseSymmetric> K;
    for (const int threads : {1, 2, 4}) {
        omp_set_num_threads(threads);
        const auto elements =
            fem::stiffness(space, std::vector<fem::Coefficient>(1), Measure::plane);
        K.push_back(fem::assemble(space, 3, elements, fem::nestedDissection(space, 3, isFree)));
    }
    for (const auto& other : K) {
        QVERIFY(other.row == K[0].row && other.start == K[0].start);
        for (size_t i = 0; i < other.value.size(); ++i)
            QVERIFY(other.value[i] == K[0].value[i]);  // one fixed order of sums: equal to the bit
    }
}

void TstFem::multiplyBack()
{
    const Domain d = domainOf(square());
    const fem::H1Space space(d.mesh, 2);
    std::vector<char> isFree(size_t(space.count()), 1);
    isFree[0] = 0;
    const auto elements = fem::stiffness(space, std::vector<fem::Coefficient>(1), Measure::plane);
    const auto numbering = fem::nestedDissection(space, 2, isFree);
    const auto K = fem::assemble(space, 2, elements, numbering);
    std::mt19937 random(9);
    std::normal_distribution<double> normal;
    std::vector<double> b(size_t(2 * K.size)), x;
    for (double& v : b)
        v = normal(random);
    x = b;
    fem::Cholesky factor;
    factor.analyse(K);
    factor.factorise(K);
    factor.solve(x, 2);
    for (int c = 0; c < 2; ++c) {
        std::vector<double> r(b.begin() + c * K.size, b.begin() + (c + 1) * K.size);
        for (int j = 0; j < K.size; ++j)
            for (int i = K.start[size_t(j)]; i < K.start[size_t(j) + 1]; ++i) {
                const int row = K.row[size_t(i)];
                r[size_t(row)] -= K.value[size_t(i)] * x[size_t(c * K.size + j)];
                if (row != j)
                    r[size_t(j)] -= K.value[size_t(i)] * x[size_t(c * K.size + row)];
            }
        for (const double v : r)
            QVERIFY(std::abs(v) < 1e-9);
    }
}

void TstFem::straightAndCurvedKernelsAgree()
{
    const Domain d = domainOf(square());
    const fem::H1Space space(d.mesh, 3);
    fem::Coefficient constant, function;
    constant.constant = {2, 0.3, 1};
    function.at = [](Point) { return fem::Tensor{2, 0.3, 1}; };
    for (const Measure m : {Measure::plane, Measure::axisymmetric}) {
        const auto a = fem::stiffness(space, std::vector{constant}, m),
                   b = fem::stiffness(space, std::vector{function}, m);
        for (size_t i = 0; i < a.entries.size(); ++i)
            QVERIFY(std::abs(a.entries[i] - b.entries[i]) < 1e-12);
    }
}

void TstFem::sideLoadSumsToTheCharge()
{
    const Domain d = domainOf(disc(false));
    const fem::H1Space space(d.mesh, 3);
    std::vector<double> rhs(size_t(space.count()), 0.0);
    std::vector<int> rim;
    for (int e = 0; e < d.mesh.edgeCount(); ++e)
        if (d.mesh.sideCells[size_t(e)][1] < 0)
            rim.push_back(e);
    fem::addSideLoad(
        space, rim, [](Point) { return 1.0; }, Measure::plane, rhs);
    double sum = 0;
    for (int v = 0; v < d.mesh.vertexCount(); ++v)
        sum += rhs[size_t(v)];  // the corner functions add up to 1
    QVERIFY(std::abs(sum / (2 * pi) - 1) < 1e-4);
}

void TstFem::singularSystemIsSaid()
{
    const Domain d = domainOf(square());
    const fem::H1Space space(d.mesh, 1);
    const auto elements = fem::stiffness(space, std::vector<fem::Coefficient>(1), Measure::plane);
    auto K =
        fem::assemble(space, 1, elements,
                      fem::nestedDissection(space, 1, std::vector<char>(size_t(space.count()), 1)));
    for (double& v : K.value)
        v = -v;
    fem::Cholesky factor;
    factor.analyse(K);
    QVERIFY_EXCEPTION_THROWN(factor.factorise(K), base::Error);
}

void TstFem::unknownsBehindAFamily()
{
    // Two matrices of two unknowns get two more, and a third matrix.
    fem::SymmetricFamily f;
    f.size = 2;
    f.start = {0, 2, 3};
    f.row = {0, 1, 1};
    f.value = {{1, 2, 3}, {4, 5, 6}};
    fem::append(f, 2, 3, {{3, 0, 2, 7}, {2, 2, 0, 8}, {3, 0, 2, 1}, {3, 0, 1, 9}, {3, 2, 1, 10}});
    QCOMPARE(f.size, 4);
    QCOMPARE(f.start, (std::vector<int>{0, 3, 4, 6, 7}));
    QCOMPARE(f.row, (std::vector<int>{0, 1, 3, 1, 2, 3, 3}));
    QCOMPARE(f.value[0], (std::vector<double>{1, 2, 0, 3, 8, 0, 0}));
    QCOMPARE(f.value[1], (std::vector<double>{4, 5, 9, 6, 0, 10, 0}));
    // At the same place they add up.
    QCOMPARE(f.value[2], (std::vector<double>{0, 0, 8, 0, 0, 0, 0}));
}

void TstFem::sparseFactorsOfEitherOrder()
{
    // A stream that runs along a chain: not symmetric. Solutions are checked by their residuals.
    constexpr int n = 60;
    fem::SparseRows A;
    A.size = n;
    A.start = {0};
    for (int r = 0; r < n; ++r) {
        for (const int c : {(r + n - 7) % n, r, (r + 1) % n})
            A.column.push_back(c);
        std::sort(A.column.end() - 3, A.column.end());
        for (auto c = A.column.end() - 3; c != A.column.end(); ++c)
            A.value.push_back(*c == r ? 4.0 : *c == (r + 1) % n ? -1.5 : 0.7);
        A.start.push_back(int(A.column.size()));
    }
    std::vector<double> b(static_cast<size_t>(n)), back;
    for (size_t i = 0; i < b.size(); ++i)
        b[i] = std::sin(double(i) * double(i));
    for (const auto order : {fem::Lu::Order::given, fem::Lu::Order::own}) {
        fem::Lu lu(order);
        lu.factorise(A);
        std::vector<double> x = b;
        lu.solve(A, x);
        A.multiply(x, back);
        for (size_t i = 0; i < b.size(); ++i)
            QVERIFY(std::abs(back[i] - b[i]) < 1e-13);
        // The product of x with A^T y is that of A x with y.
        std::vector<double> y = b;
        lu.solveTransposed(A, y);
        double left = 0, right = 0;
        for (size_t i = 0; i < b.size(); ++i) {
            left += x[i] * b[i];
            right += b[i] * y[i];
        }
        QVERIFY(std::abs(left - right) < 1e-12);
    }
}

void TstFem::denseProductsAndSizes()
{
    std::mt19937 random(5);
    std::uniform_real_distribution<double> any(-1, 1);
    auto complex = [&](int rows, int cols) {
        Eigen::MatrixXcd m(rows, cols);
        for (int r = 0; r < rows; ++r)
            for (int c = 0; c < cols; ++c)
                m(r, c) = {any(random), any(random)};
        return m;
    };
    const Eigen::MatrixXcd A = complex(7, 5), B = complex(5, 3), C = complex(7, 3);
    const Eigen::MatrixXd R = A.real();
    auto agrees = [](const Eigen::MatrixXcd& product, const Eigen::MatrixXcd& expected) {
        return (product - expected).cwiseAbs().maxCoeff() < 1e-13;
    };
    auto bySum = [](const Eigen::MatrixXcd& left, const Eigen::MatrixXcd& right) {
        Eigen::MatrixXcd m = Eigen::MatrixXcd::Zero(left.rows(), right.cols());
        for (Eigen::Index r = 0; r < m.rows(); ++r)
            for (Eigen::Index c = 0; c < m.cols(); ++c)
                for (Eigen::Index k = 0; k < left.cols(); ++k)
                    m(r, c) += left(r, k) * right(k, c);
        return m;
    };
    QVERIFY(agrees(fem::times(A, B), bySum(A, B)));
    QVERIFY(agrees(fem::times(A, Eigen::MatrixXd(B.imag())), bySum(A, B.imag())));
    QVERIFY(agrees(fem::transposedTimes(A, C), bySum(A.transpose(), C)));
    QVERIFY(agrees(fem::transposedTimes(R, C), bySum(R.transpose(), C)));
    Eigen::MatrixXcd sum = Eigen::MatrixXcd::Ones(5, 3);
    fem::addTransposedTimes(A, C, sum);
    QVERIFY(agrees(sum, Eigen::MatrixXcd::Ones(5, 3) + bySum(A.transpose(), C)));
    // Powers of a real form are real: the half with a current's phase turned gives the same.
    const Eigen::MatrixXd form = R.transpose() * R;
    const Eigen::VectorXcd x = B.col(0);
    const auto expected = bySum(x.adjoint(), bySum(form, x))(0);
    QVERIFY(std::abs(fem::powerOf(form, x) - expected.real()) < 1e-13);
    // A diagonal matrix between rotations keeps its largest entry.
    const double a = 0.4, b = 1.1;
    Eigen::MatrixXcd turnA(2, 2), turnB(2, 2), size = Eigen::MatrixXcd::Zero(2, 2);
    turnA << std::cos(a), std::sin(a), -std::sin(a), std::cos(a);
    turnB << std::polar(1.0, b), 0.0, 0.0, std::polar(1.0, -b);
    size(0, 0) = {0.0, 0.3};
    size(1, 1) = 0.95;
    QVERIFY(std::abs(fem::largestSingularValue(bySum(turnA, bySum(size, turnB))) - 0.95) < 1e-14);
    QCOMPARE(fem::largestSingularValue(Eigen::MatrixXcd()), 0.0);
}

void TstFem::largestPairsOfAnOperatorThatIsNotSymmetric()
{
    // Triangular: its eigenvalues stand on its diagonal, the second and third the same.
    constexpr int size = 90;
    Eigen::MatrixXd A = Eigen::MatrixXd::Zero(size, size);
    for (int i = 0; i < size; ++i) {
        A(i, i) = i == 0 ? 3 : i < 3 ? 2.5 : 2.0 / (1 + 0.3 * i);
        for (int j = i + 1; j < size && i > 2; ++j)
            A(i, j) = 0.1 * std::sin(3.0 * i + j);
    }
    int applied = 0;
    auto apply = [&](const Eigen::MatrixXd& x) {
        applied += int(x.cols());
        return Eigen::MatrixXd(A * x);
    };
    auto rest = [&](const fem::RealPair& p) {
        return (A * p.vector - p.value * p.vector).norm() / p.vector.norm();
    };
    Eigen::MatrixXd space;
    const auto found = fem::largestRealPairs(space, size, 4, 3, apply, rest);
    QCOMPARE(found.size(), size_t(4));
    const double exact[] = {3, 2.5, 2.5};
    for (size_t k = 0; k < 3; ++k) {
        QVERIFY(std::abs(found[k].value - exact[k]) < 1e-8);
        QVERIFY(rest(found[k]) < 1e-9);
    }
    // From where it ended, a search takes next to nothing.
    const int first = std::exchange(applied, 0);
    const auto again = fem::largestRealPairs(space, size, 4, 3, apply, rest);
    QVERIFY2(2 * applied < first, qPrintable(QString("%1 after %2").arg(applied).arg(first)));
    QVERIFY(std::abs(again[0].value - 3) < 1e-8);
    // A space as large as all: every eigenvalue is in it.
    Eigen::MatrixXd few;
    const auto all = fem::largestRealPairs(
        few, 3, 5, 3,
        [&](const Eigen::MatrixXd& x) { return Eigen::MatrixXd(A.topLeftCorner(3, 3) * x); },
        [&](const fem::RealPair&) { return 1.0; });
    QCOMPARE(all.size(), size_t(3));
    QVERIFY(std::abs(all[2].value - 2.5) < 1e-12);
}

YH_TEST(TstFem)

}  // namespace tst_fem

#include "tst_fem.moc"
