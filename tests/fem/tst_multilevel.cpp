// The two-level iterative solver against direct solution.
#include "cube_mesh.h"
#include "fem/assembly.h"
#include "fem/cholesky.h"
#include "fem/multilevel.h"
#include "fem/potential_system.h"
#include "program.h"

#include <QtTest/QtTest>

#include <cmath>
#include <random>

namespace tst_multilevel {

using namespace yh;

namespace {

/// Stiffness of order 2 or 3 on a cube, its border held, for a coefficient.
struct Cube
{
    shape::Partition partition;
    mesh::Mesh mesh;
    std::unique_ptr<fem::H1Space> space;
    fem::Numbering numbering;
    std::vector<char> coarse;

    Cube(int n, int order)
    {
        sheet::Document d;
        d.add("space", {{"type", "solid"}});
        d.add("box", {{"name", "s"}, {"width", "1 m"}, {"length", "1 m"}, {"height", "1 m"}});
        partition = shape::Partition::build(sheet::Model(d));
        mesh = test::cubeMesh(partition, n);
        space = std::make_unique<fem::H1Space>(mesh, order);
        std::vector<char> isFree(size_t(space->count()), 1);
        for (int s = 0; s < mesh.sideCount(); ++s)
            if (mesh.sideCells[size_t(s)][1] < 0)
                for (const int i : space->onSide(s, order))
                    isFree[size_t(i)] = 0;
        numbering = fem::nestedDissection(*space, order, isFree);
        for (const int f : numbering.function)
            coarse.push_back(f < mesh.vertexCount());
    }
    [[nodiscard]] std::vector<int> levels() const
    {
        std::vector<int> level;
        for (const char c : coarse)
            level.push_back(c ? 0 : -1);
        return level;
    }
    [[nodiscard]] fem::SparseSymmetric stiffness(
        const std::function<fem::Tensor(mesh::Point)>& k) const
    {
        fem::Coefficient c;
        c.at = k;
        return fem::assemble(*space, space->order(),
                             fem::stiffness(*space, std::vector{c}, fem::Measure::plane),
                             numbering);
    }
};

std::vector<double> noise(size_t n)
{
    std::mt19937 random(7);
    std::uniform_real_distribution<double> any(-1, 1);
    std::vector<double> v(n);
    for (double& x : v)
        x = any(random);
    return v;
}

double largestOff(const std::vector<double>& a, const std::vector<double>& b)
{
    double off = 0, size = 0;
    for (size_t i = 0; i < a.size(); ++i) {
        off = std::max(off, std::abs(a[i] - b[i]));
        size = std::max(size, std::abs(b[i]));
    }
    return off / size;
}

}  // namespace

class TstMultilevel : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void sameAsDirect_data();
    void sameAsDirect();
    void goodAlongOneDirection();
    void columnsSideBySide();
    void complexFields_data();
    void complexFields();
    void weightsLevelTheEquations();
    void systemsChooseTheirWay();
};

void TstMultilevel::sameAsDirect_data()
{
    QTest::addColumn<int>("order");
    QTest::addColumn<double>("contrast");
    for (const int order : {2, 3})
        for (const double contrast : {1.0, 1e3})
            QTest::newRow(qPrintable(QString("order %1, contrast %2").arg(order).arg(contrast)))
                << order << contrast;
}

void TstMultilevel::sameAsDirect()
{
    QFETCH(int, order);
    QFETCH(double, contrast);
    const Cube cube(5, order);
    const auto K = cube.stiffness([contrast](const mesh::Point& p) {
        return fem::Tensor::isotropic(p.x < 0.4 ? 1.0 : contrast);
    });
    const fem::SparseRows A = fem::fullRows(K);
    const std::vector<int> level = cube.levels();
    fem::Multilevel iterative;
    iterative.setUp(A, level, 1);
    const std::vector<double> b = noise(size_t(K.size));
    std::vector<double> exact = b, cg = b, gmres = b;
    fem::Cholesky direct;
    direct.analyse(K);
    direct.factorise(K);
    direct.solve(exact, 1);
    const int steps = iterative.conjugateGradients(cg, 1e-12, base::Progress());
    iterative.gmres(gmres, 1e-12, base::Progress());
    QVERIFY(largestOff(cg, exact) < 1e-9);
    QVERIFY(largestOff(gmres, exact) < 1e-9);
    // A coarse level is what keeps this independent of the contrast and of the mesh.
    QVERIFY2(steps < 80, qPrintable(QString::number(steps)));
    QVERIFY_EXCEPTION_THROWN(iterative.conjugateGradients(cg, -1, base::Progress()), base::Error);
}

void TstMultilevel::goodAlongOneDirection()
{
    // Cells that conduct across themselves thousands of times better than along, as those of the
    // mapped far space: sweeps alone leave what is even across them.
    const Cube cube(6, 2);
    const auto K = cube.stiffness([](const mesh::Point& p) {
        const double across = p.z < 0.5 ? 1.0 : 3e3;
        return fem::Tensor{across, 0, across, 0, 0, 1.0};
    });
    const fem::SparseRows A = fem::fullRows(K);
    const std::vector<int> level = cube.levels();
    fem::Multilevel iterative;
    iterative.setUp(A, level, 1);
    const base::Progress progress;
    std::vector<double> x = noise(size_t(A.size)), y = x;
    constexpr int few = 60;
    const int steps = iterative.conjugateGradients(x, 1e-10, progress);
    QVERIFY2(steps < few, qPrintable(QString::number(steps)));
    fem::Cholesky direct;
    direct.analyse(K);
    direct.factorise(K);
    direct.solve(y, 1);
    QVERIFY(largestOff(x, y) < 1e-8);
}

void TstMultilevel::columnsSideBySide()
{
    // Each is what it is by itself, whatever stands beside it; one of zeros stays so, and one that
    // ends early does not change while others go on.
    const Cube cube(5, 2);
    const auto K = cube.stiffness(
        [](const mesh::Point& p) { return fem::Tensor::isotropic(p.x < 0.4 ? 1.0 : 100.0); });
    const fem::SparseRows A = fem::fullRows(K);
    fem::Multilevel iterative;
    iterative.setUp(A, cube.levels(), 1);
    const auto n = size_t(K.size);
    const base::Progress progress;
    constexpr int count = 5;
    std::vector<double> columns(count * n, 0.0);
    for (size_t c = 0; c < count; ++c) {
        const auto b = noise(n);
        for (size_t i = 0; i < n && c != 2; ++i)
            columns[c * n + i] = (c == 3 ? 1e-9 : 1.0) * b[(i * (c + 1)) % n];
    }
    auto solvedTogether = [&] {
        std::vector<fem::Wide> x = fem::sideBySide(columns.data(), count, n);
        iterative.conjugateGradients(x, 1e-10, progress);
        std::vector<double> all(columns.size());
        fem::oneAfterTheOther(x, count, all.data());
        return all;
    };
    const std::vector<double> together = solvedTogether();
    QVERIFY(together == solvedTogether());
    for (size_t c = 0; c < count; ++c) {
        std::vector<double> alone(&columns[c * n], &columns[c * n] + n);
        iterative.conjugateGradients(alone, 1e-10, progress);
        const std::vector<double> here(&together[c * n], &together[c * n] + n);
        if (c == 2)
            QVERIFY(std::all_of(here.begin(), here.end(), [](double v) { return v == 0; }));
        else
            QVERIFY2(largestOff(here, alone) < 1e-9,
                     qPrintable(QString("%1: %2").arg(c).arg(largestOff(here, alone))));
    }
    std::vector<fem::Wide> x = fem::sideBySide(columns.data(), count, n);
    QVERIFY_EXCEPTION_THROWN(iterative.conjugateGradients(x, -1, progress), base::Error);
    for (const auto& [columnsThere, atATime] :
         {std::pair{1, 1}, {2, 1}, {3, 3}, {8, 8}, {9, 5}, {17, 6}, {64, 8}})
        QCOMPARE(fem::columnsAtATime(columnsThere), atATime);
}

void TstMultilevel::complexFields_data()
{
    QTest::addColumn<double>("ratio");
    for (const double ratio : {0.01, 1.0, 100.0})
        QTest::newRow(qPrintable(QString("imaginary over real %1").arg(ratio))) << ratio;
}

void TstMultilevel::complexFields()
{
    // (A, -B; B, A) of two media with different phases, the parts of each value side by side.
    QFETCH(double, ratio);
    const Cube cube(5, 2);
    const auto A = fem::fullRows(cube.stiffness(
        [](const mesh::Point& p) { return fem::Tensor::isotropic(p.z < 0.5 ? 1.0 : 0.3); }));
    const auto B = fem::fullRows(cube.stiffness([ratio](const mesh::Point& p) {
        return fem::Tensor::isotropic(ratio * (p.z < 0.5 ? 0.2 : 1.0));
    }));
    fem::SparseRows M;
    M.size = 2 * A.size;
    M.start.push_back(0);
    std::vector<int> level(size_t(M.size), -1);
    std::vector<char> pairs(size_t(M.size), 0);
    for (int i = 0; i < A.size; ++i)
        for (int part = 0; part < 2; ++part) {
            for (int k = A.start[size_t(i)]; k < A.start[size_t(i) + 1]; ++k) {
                const double a = A.value[size_t(k)], b = B.value[size_t(k)];
                const int c = A.column[size_t(k)];
                QCOMPARE(B.column[size_t(k)], c);
                M.column.insert(M.column.end(), {2 * c, 2 * c + 1});
                M.value.insert(M.value.end(), {part == 0 ? a : b, part == 0 ? -b : a});
            }
            M.start.push_back(int(M.column.size()));
            level[size_t(2 * i + part)] = cube.coarse[size_t(i)] ? part : -1;
            pairs[size_t(2 * i)] = 1;
        }
    fem::Multilevel iterative;
    iterative.setUp(M, level, 2, pairs);
    const std::vector<double> b = noise(size_t(M.size));
    std::vector<double> x = b, back;
    const int steps = iterative.gmres(x, 1e-10, base::Progress());
    M.multiply(x, back);
    QVERIFY(largestOff(back, b) < 1e-8);
    QVERIFY2(steps < 80, qPrintable(QString::number(steps)));
}

void TstMultilevel::weightsLevelTheEquations()
{
    // Two fields that do not meet, one in units a billion times smaller: without weights its part
    // of the residual is not seen, with them both are solved alike.
    const Cube cube(4, 2);
    const auto A = fem::fullRows(cube.stiffness([](const mesh::Point&) { return fem::Tensor(); }));
    constexpr double unit = 1e-9;
    fem::SparseRows M;
    M.size = 2 * A.size;
    M.start.push_back(0);
    std::vector<int> level(size_t(M.size), -1);
    std::vector<double> weight, b = noise(size_t(M.size));
    for (int part = 0; part < 2; ++part)
        for (int i = 0; i < A.size; ++i) {
            for (int k = A.start[size_t(i)]; k < A.start[size_t(i) + 1]; ++k) {
                M.column.push_back(A.column[size_t(k)] + part * A.size);
                M.value.push_back((part == 0 ? 1.0 : unit) * A.value[size_t(k)]);
            }
            M.start.push_back(int(M.column.size()));
            level[size_t(part * A.size + i)] = cube.coarse[size_t(i)] ? part : -1;
            weight.push_back(part == 0 ? 1.0 : 1 / unit);
            if (part == 1)
                b[size_t(A.size + i)] *= unit;
        }
    fem::Multilevel iterative;
    iterative.setUp(M, level, 2);
    std::vector<double> x = b, back;
    iterative.gmres(x, 1e-8, base::Progress(), weight);
    M.multiply(x, back);
    const auto half = std::ptrdiff_t(A.size);
    QVERIFY(largestOff({back.begin(), back.begin() + half}, {b.begin(), b.begin() + half}) < 1e-6);
    QVERIFY(largestOff({back.begin() + half, back.end()}, {b.begin() + half, b.end()}) < 1e-6);
}

void TstMultilevel::systemsChooseTheirWay()
{
    // Small systems are factorised, large ones of solids iterated; both solve.
    for (const int n : {6, 17}) {
        const Cube cube(n, 2);
        const auto K = cube.stiffness([](const mesh::Point&) { return fem::Tensor(); });
        fem::PotentialSystem system(3, 2);
        system.factorise(K, cube.coarse, base::Progress());
        QCOMPARE(system.isIterative(), n == 17);
        const auto b = noise(2 * size_t(K.size));
        std::vector<double> x = b, back;
        system.solve(x, 2, base::Progress(), 1e-10);
        for (int column = 0; column < 2; ++column) {
            const auto from = std::ptrdiff_t(column) * K.size;
            const std::vector<double> one(x.begin() + from, x.begin() + from + K.size);
            fem::fullRows(K).multiply(one, back);
            QVERIFY(largestOff(back, {b.begin() + from, b.begin() + from + K.size}) < 1e-7);
        }
    }
}

YH_TEST(TstMultilevel)

}  // namespace tst_multilevel

#include "tst_multilevel.moc"
