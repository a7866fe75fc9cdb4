// Meshes: areas, curved sides, refinement, location, quality, faults.
#include "mesh/mesh.h"

#include "cube_mesh.h"
#include "program.h"

#include <QtTest/QtTest>

#include <cmath>
#include <random>
#include <set>

namespace tst_mesh {

using namespace yh;
using mesh::Mesh;
using sheet::Document;

namespace {

constexpr double pi = 3.14159265358979323846;

struct Case
{
    shape::Partition partition;
    Mesh mesh;
};

Case caseOf(Document d, double cells = 3, double largest = 0)
{
    Case c{shape::Partition::build(sheet::Model(std::move(d))), {}};
    mesh::Options o;
    for (size_t f = 0; f < c.partition.pieces().size(); ++f)
        o.pieces.push_back(int(f));
    o.cellsAcrossGap = cells;
    o.largest = largest;
    base::Progress progress;
    c.mesh = mesh::generate(c.partition, o, progress);
    return c;
}

Document discs()
{
    Document d;
    d.add("disc", {{"name", "gap"}, {"radius", "2 mm"}});
    d.add("disc", {{"name", "core"}, {"radius", "1 mm"}, {"at", "0.3 mm, 0"}});
    return d;
}

double area(const Mesh& m, int face = -1)
{
    double sum = 0;
    for (int t = 0; t < m.cellCount(); ++t)
        if (face < 0 || m.piece[size_t(t)] == face) {
            const mesh::Geometry g(m, t);
            // The determinant is a quadratic: edge middles integrate it exactly.
            sum +=
                (g.determinant({0.5, 0}) + g.determinant({0.5, 0.5}) + g.determinant({0, 0.5})) / 6;
        }
    return sum;
}

void checkConforming(const Mesh& m)
{
    for (int t = 0; t < m.cellCount(); ++t) {
        const mesh::Geometry g(m, t);
        QVERIFY(g.leastDeterminant() > 0);
        for (size_t k = 0; k < 3; ++k) {
            const auto& e = m.edges[size_t(m.cellEdges[size_t(t)][k])];
            const int a = m.cells[size_t(t)][k], b = m.cells[size_t(t)][(k + 1) % 3];
            QVERIFY(e[0] == std::min(a, b) && e[1] == std::max(a, b));
        }
    }
    // Vertices minus edges plus triangles: 1 for a piece without holes (Euler).
    QCOMPARE(m.vertexCount() - m.edgeCount() + m.cellCount(), 1);
}

}  // namespace

class TstMesh : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void curvedAreas();
    void gapsGetTheirCells();
    void sizesAreKept();
    void refinementConverges();
    void localRefinementStaysGood();
    void geometryMapInverts();
    void locatorFindsEveryCell();
    void tetrahedraRefineConformingly();
    void cellsAlongLines();
    void tetrahedraMapAndLocate();
    void thinGapsAndCurvesDoNotFold();
    void twinSidesAreRefinedAlike_data();
    void twinSidesAreRefinedAlike();
    void nothingToMesh();
    void cancelled();
};

void TstMesh::curvedAreas()
{
    const Case c = caseOf(discs());
    checkConforming(c.mesh);
    // Quadratic sides of 0.45 rad miss a circle's area by some 1e-5.
    QVERIFY(std::abs(area(c.mesh) / (4 * pi * 1e-6) - 1) < 5e-5);
    for (size_t f = 0; f < c.partition.pieces().size(); ++f)
        QVERIFY(std::abs(area(c.mesh, int(f)) / c.partition.pieces()[f].content - 1) < 2e-4);
    QVERIFY(mesh::quality(c.mesh).worst > 0.4);
    QVERIFY(mesh::quality(c.mesh).curvedCount > 20);
}

void TstMesh::gapsGetTheirCells()
{
    Document d;
    d.add("rectangle",
          {{"name", "a"}, {"width", "4 mm"}, {"height", "1 mm"}, {"at", "0, 0.55 mm"}});
    d.add("rectangle", {{"name", "slit"}, {"width", "4 mm"}, {"height", "0.1 mm"}});
    d.add("rectangle",
          {{"name", "b"}, {"width", "4 mm"}, {"height", "1 mm"}, {"at", "0, -0.55 mm"}});
    const Case c = caseOf(d, 5);
    int slit = -1;
    for (size_t f = 0; f < c.partition.pieces().size(); ++f)
        if (c.partition.regions()[size_t(c.partition.pieces()[f].region)].name == "slit")
            slit = int(f);
    // Walking across the slit at some places, at least about five cells are crossed.
    const mesh::Locator locator(c.mesh);
    for (const double x : {-1.3e-3, 0.1e-3, 1.1e-3}) {
        std::set<int> crossed;
        for (double y = -0.0499e-3; y < 0.05e-3; y += 0.5e-6)
            if (const auto hit = locator.find({x, y});
                hit.cell >= 0 && c.mesh.piece[size_t(hit.cell)] == slit)
                crossed.insert(hit.cell);
        QVERIFY2(crossed.size() >= 5, qPrintable(QString::number(crossed.size())));
    }
}

void TstMesh::sizesAreKept()
{
    Document d;
    d.add("rectangle", {{"name", "a"}, {"width", "4 mm"}, {"height", "4 mm"}});
    shape::Partition p = shape::Partition::build(sheet::Model(d));
    base::Progress progress;
    const Mesh coarse = mesh::generate(p, {{0}, 1, {}, 1e-3}, progress),
               fine = mesh::generate(p, {{0}, 1, {{0, -1, 0.1e-3}}, 1e-3}, progress);
    QVERIFY(coarse.cellCount() < 120);
    QVERIFY(fine.cellCount() > 2500);
    for (const auto& e : fine.edges) {
        const auto a = fine.vertices[size_t(e[0])], b = fine.vertices[size_t(e[1])];
        QVERIFY(std::hypot(a.x - b.x, a.y - b.y) < 0.2e-3);
    }
}

void TstMesh::refinementConverges()
{
    Case c = caseOf(discs(), 1);
    double before = std::abs(area(c.mesh) - 4 * pi * 1e-6);
    for (int i = 0; i < 3; ++i) {
        std::vector<int> parent;
        const int count = c.mesh.cellCount();
        c.mesh = mesh::refine(c.mesh, c.partition, std::vector<char>(size_t(count), 1), &parent);
        QCOMPARE(c.mesh.cellCount(), 4 * count);
        QCOMPARE(int(parent.size()), 4 * count);
        checkConforming(c.mesh);
        // New nodes lie on the exact circle: the area error falls by 2^4 a step.
        const double now = std::abs(area(c.mesh) - 4 * pi * 1e-6);
        QVERIFY2(now < before / 12, qPrintable(QString::number(before / now)));
        before = now;
    }
}

void TstMesh::localRefinementStaysGood()
{
    Case c = caseOf(discs());
    const double first = mesh::quality(c.mesh).worst;
    const mesh::Point at{0.7e-3, 0.7e-3};
    for (int i = 0; i < 25; ++i) {
        std::vector<char> marked(size_t(c.mesh.cellCount()), 0);
        marked[size_t(mesh::Locator(c.mesh).find(at).cell)] = 1;
        c.mesh = mesh::refine(c.mesh, c.partition, marked);
    }
    checkConforming(c.mesh);
    QVERIFY(c.mesh.cellCount() < 3000);
    // Longest-edge bisection at worst halves the smallest angle.
    QVERIFY(mesh::quality(c.mesh).worst > 0.4 * first);
    const mesh::Geometry g(c.mesh, mesh::Locator(c.mesh).find(at).cell);
    QVERIFY(std::sqrt(g.determinant({0.3, 0.3})) < 1e-8);
}

void TstMesh::geometryMapInverts()
{
    const Case c = caseOf(discs(), 1);
    std::mt19937 random(3);
    std::uniform_real_distribution<double> uniform(0, 1);
    for (int t = 0; t < c.mesh.cellCount(); ++t) {
        const mesh::Geometry g(c.mesh, t);
        double u = uniform(random), v = uniform(random);
        if (u + v > 1) {
            u = 1 - u;
            v = 1 - v;
        }
        mesh::Point back;
        QVERIFY(g.invert(g.at({u, v}), back));
        QVERIFY(norm(back - mesh::Point{u, v}) < 1e-9);
        // The Jacobian is the derivative of the map.
        mesh::Point column[3];
        g.jacobian({u, v}, column);
        const double h = 1e-5;
        const auto slope = (0.5 / h) * (g.at({u + h, v}) - g.at({u - h, v}));
        QVERIFY(norm(slope - column[0]) < 1e-6 * norm(column[0]));
    }
}

void TstMesh::locatorFindsEveryCell()
{
    const Case c = caseOf(discs());
    const mesh::Locator locator(c.mesh);
    for (int t = 0; t < c.mesh.cellCount(); ++t)
        QCOMPARE(locator.find(mesh::Geometry(c.mesh, t).at({0.31, 0.27})).cell, t);
    QCOMPARE(locator.find({5e-3, 0}).cell, -1);
    QCOMPARE(locator.find({std::nan(""), 0}).cell, -1);
    // Corners belong to some triangle.
    for (const auto& p : c.mesh.vertices)
        QVERIFY(locator.find(p).cell >= 0);
}

void TstMesh::cellsAlongLines()
{
    // Near a line cells have short edges, and far from it they stay as they were.
    const Case c = caseOf(discs(), 1);
    base::Progress progress;
    const std::vector<mesh::LineRule> lines{{{0.2, 0.2, 0}, {0.2, 0.2, 1}, 0.02, 0.1}};
    const Mesh before = test::cubeMesh(c.partition, 4),
               m = mesh::refineAlong(before, c.partition, lines, progress);
    QVERIFY(m.cellCount() > 2 * before.cellCount() && m.cellCount() < 40 * before.cellCount());
    QVERIFY(std::abs(test::contentOf(m) - 1) < 1e-12);
    const mesh::Locator locator(m);
    for (double z = 0.05; z < 1; z += 0.1) {
        const auto near = locator.find({0.2, 0.2, z}), far = locator.find({0.9, 0.9, z});
        auto longest = [&m](int cell) {
            double l = 0;
            for (const int e : m.edgesOf(cell))
                l = std::max(l, norm(m.vertices[size_t(m.edges[size_t(e)][0])] -
                                     m.vertices[size_t(m.edges[size_t(e)][1])]));
            return l;
        };
        QVERIFY(longest(near.cell) <= 0.1);
        QVERIFY(longest(far.cell) > 0.2);
    }
    QCOMPARE(mesh::refineAlong(before, c.partition, {}, progress).cellCount(), before.cellCount());
}

void TstMesh::tetrahedraRefineConformingly()
{
    const Case c = caseOf(discs(), 1);
    Mesh m = test::cubeMesh(c.partition, 2);
    const double first = mesh::quality(m).worst;
    std::mt19937 random(4);
    for (int round = 0; round < 4; ++round) {
        std::vector<char> marked(size_t(m.cellCount()), 0);
        for (int i = 0; i < 5; ++i)
            marked[random() % marked.size()] = 1;
        const int before = m.cellCount();
        std::vector<int> parent;
        m = mesh::refine(m, c.partition, marked, &parent);
        QVERIFY(m.cellCount() > before);
        QCOMPARE(int(parent.size()), m.cellCount());
        QVERIFY(std::abs(test::contentOf(m) - 1) < 1e-12);
        // Conforming: a face with one cell lies on the border of the cube.
        for (int f = 0; f < m.sideCount(); ++f) {
            if (m.sideCells[size_t(f)][1] >= 0)
                continue;
            bool border = false;
            for (const double at : {0.0, 1.0})
                for (double mesh::Point::*axis :
                     {&mesh::Point::x, &mesh::Point::y, &mesh::Point::z}) {
                    bool on = true;
                    for (const int v : m.sideCorners(f))
                        on = on && std::abs(m.vertices[size_t(v)].*axis - at) < 1e-12;
                    border = border || on;
                }
            QVERIFY2(border, "a hanging face");
        }
        for (int t = 0; t < m.cellCount(); ++t) {
            const mesh::Geometry g(m, t);
            QVERIFY(g.determinant(g.centre()) > 0);
        }
    }
    QVERIFY2(mesh::quality(m).worst > 0.2 * first,
             qPrintable(QString::number(mesh::quality(m).worst / first)));
}

void TstMesh::tetrahedraMapAndLocate()
{
    const Case c = caseOf(discs(), 1);
    Mesh m = test::cubeMesh(c.partition, 3);
    // Bent edges: the map inverts and its Jacobian is its derivative.
    std::mt19937 random(8);
    std::uniform_real_distribution<double> small(-0.01, 0.01);
    for (auto& p : m.middles)
        p = p + mesh::Point{small(random), small(random), small(random)};
    const mesh::Locator locator(m);
    constexpr double h = 1e-6;
    for (int t = 0; t < m.cellCount(); ++t) {
        const mesh::Geometry g(m, t);
        QVERIFY(g.curved);
        const mesh::Point xi{0.2, 0.3, 0.15};
        mesh::Point back, column[3], row[3];
        QVERIFY(g.invert(g.at(xi), back));
        QVERIFY(norm(back - xi) < 1e-9);
        QCOMPARE(locator.find(g.at(xi)).cell, t);
        g.jacobian(xi, column);
        const mesh::Point slope =
            (0.5 / h) * (g.at(xi + mesh::Point{0, 0, h}) - g.at(xi - mesh::Point{0, 0, h}));
        QVERIFY(norm(slope - column[2]) < 1e-6 * norm(column[2]));
        const double det = g.inverse(xi, row);
        QVERIFY(std::abs(det - g.determinant(xi)) < 1e-12 * std::abs(det));
        QVERIFY(std::abs(dot(row[1], column[1]) - 1) < 1e-12);
        QVERIFY(std::abs(dot(row[0], column[1])) < 1e-12);
        // Outward normals of the four sides point away from the centre.
        for (int k = 0; k < 4; ++k) {
            const mesh::Point on = g.onSide(k, {1.0 / 3, 1.0 / 3});
            QVERIFY(dot(g.outward(k, on), g.at(on) - g.at(g.centre())) > 0);
        }
    }
    QCOMPARE(locator.find({1.5, 0.5, 0.5}).cell, -1);
    QCOMPARE(locator.find({0.5, 0.5, 1.5}).cell, -1);
}

void TstMesh::thinGapsAndCurvesDoNotFold()
{
    for (const char* r : {"1.9 mm", "1.99 mm", "1.998 mm"}) {
        Document d;
        d.add("ring", {{"name", "gap"}, {"inner", r}, {"outer", "2 mm"}});
        const Case c = caseOf(d, 1);
        for (int t = 0; t < c.mesh.cellCount(); ++t)
            QVERIFY(mesh::Geometry(c.mesh, t).leastDeterminant() > 0);
    }
}

void TstMesh::twinSidesAreRefinedAlike_data()
{
    QTest::addColumn<bool>("solid");
    QTest::newRow("drawing") << false;
    QTest::newRow("solid, two pairs") << true;
}

void TstMesh::twinSidesAreRefinedAlike()
{
    // Cells anywhere are split, and both sides of a pair stay the same but for the shift; the
    // phases of two pairs add up where they meet.
    QFETCH(bool, solid);
    Document d;
    if (solid) {
        d.add("space", {{"type", "solid"}});
        d.add("box", {{"name", "cell"}, {"width", "3 mm"}, {"length", "2 mm"}, {"height", "1 mm"}});
    } else {
        d.add("rectangle", {{"name", "cell"}, {"width", "3 mm"}, {"height", "2 mm"}});
    }
    const auto partition = shape::Partition::build(sheet::Model(std::move(d)));
    mesh::Options o;
    o.pieces = {0};
    for (const mesh::Point shift : {mesh::Point{3e-3, 0, 0}, mesh::Point{0, 2e-3, 0}}) {
        if (!solid && shift.y > 0)
            break;
        mesh::PeriodicPair pair{{}, shift};
        for (size_t a = 0; a < partition.sides().size(); ++a)
            for (size_t b = 0; b < partition.sides().size(); ++b)
                if (norm(partition.sides()[a].centre + shift - partition.sides()[b].centre) < 1e-9)
                    pair.sides.push_back({int(a), int(b)});
        QCOMPARE(pair.sides.size(), size_t(1));
        o.periodic.push_back(pair);
    }
    base::Progress progress;
    Mesh m = mesh::generate(partition, o, progress);
    QVERIFY(mesh::findTwins(m, o.periodic));
    unsigned seed = 7;
    for (int round = 0; round < 3; ++round) {
        std::vector<char> marked;
        for (int t = 0; t < m.cellCount(); ++t) {
            seed = seed * 1664525U + 1013904223U;
            marked.push_back(seed >> 28 < 2);
        }
        m = mesh::refine(m, partition, marked);
        QVERIFY(mesh::findTwins(m, o.periodic));
    }
    int twins = 0;
    for (int e = 0; e < m.edgeCount(); ++e) {
        const int one = m.twins.edge[size_t(e)];
        if (one == e)
            continue;
        ++twins;
        const mesh::Point away = m.middles[size_t(e)] - m.middles[size_t(one)];
        const mesh::Mesh::Twins::Turns turns{int(std::round(away.x / 3e-3)),
                                             int(std::round(away.y / 2e-3)), 0};
        QCOMPARE(m.twins.edgeTurns[size_t(e)], turns);
        // Their ends come in the same order.
        auto turned = [&](int edge) {
            const auto& v = m.edges[size_t(edge)];
            const bool rises = m.twins.rank[size_t(v[0])] < m.twins.rank[size_t(v[1])];
            return (rises ? 1.0 : -1.0) * (m.vertices[size_t(v[1])] - m.vertices[size_t(v[0])]);
        };
        QVERIFY(norm(turned(e) - turned(one)) < 1e-9);
    }
    QVERIFY(twins > 10);
    // A mesh that was not made for it is told.
    o.periodic[0].shift.x *= 0.9;
    QVERIFY(!mesh::findTwins(m, o.periodic));
}

void TstMesh::nothingToMesh()
{
    const Case c = caseOf(discs());
    base::Progress progress;
    try {
        static_cast<void>(mesh::generate(c.partition, {}, progress));
        QFAIL("a mesh of nothing");
    } catch (const base::Error& e) {
        QCOMPARE(std::string(e.what()),
                 std::string("no region is left to be meshed: all of them are conductors"));
    }
}

void TstMesh::cancelled()
{
    const Case c = caseOf(discs());
    base::Progress progress;
    progress.cancel();
    QVERIFY_EXCEPTION_THROWN(
        static_cast<void>(mesh::generate(c.partition, {{0}, 3, {}, 0}, progress)), base::Cancelled);
}

YH_TEST(TstMesh)

}  // namespace tst_mesh

#include "tst_mesh.moc"
