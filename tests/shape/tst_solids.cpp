// Solids: primitives, what is derived from shapes, bars along paths, layouts, files.
#include "gds.h"
#include "program.h"
#include "shape/layout.h"
#include "shape/partition.h"
#include "shape/wires.h"
#include "sheet/sentence.h"

#include <QtTest/QtTest>

#include <QElapsedTimer>
#include <QTemporaryDir>
#include <cmath>
#include <fstream>

namespace tst_solids {

using namespace yh;
using shape::Partition;
using sheet::Document;

namespace {

constexpr double pi = 3.14159265358979323846;
constexpr double mm3 = 1e-9;

/// A sheet of solids from typed lines.
Document solids(const QStringList& lines)
{
    Document d;
    d.add("space", {{"type", "solid"}});
    for (const QString& l : lines) {
        const auto c = sheet::compose(l.toStdString(), d);
        if (!c.ok)
            throw base::Error(0, c.fault + " in: " + l.toStdString());
        d.add(c.kind, c.values);
    }
    return d;
}

double volumeOf(const Partition& p, const std::string& name, int copy = 0)
{
    double sum = 0;
    for (const auto& piece : p.pieces()) {
        const auto& r = p.regions()[size_t(piece.region)];
        if (r.name == name && (copy == 0 || r.copy == copy))
            sum += piece.content;
    }
    return sum;
}

double areaOf(const Partition& p, const Document& d, const std::string& rule)
{
    const auto parsed = sheet::parsePlace(rule);
    if (!parsed.rule)
        throw base::Error(0, parsed.fault);
    const sheet::Model m(d);
    double sum = 0;
    for (const int s : p.resolve(*parsed.rule, m, {}).sides)
        sum += p.sides()[size_t(s)].content;
    return sum;
}

std::string faultOf(const QStringList& lines, const std::string& folder = ".")
{
    try {
        static_cast<void>(Partition::build(sheet::Model(solids(lines)), folder));
    } catch (const base::Error& e) {
        return e.what();
    }
    return {};
}

}  // namespace

class TstSolids : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void thinWires();
    void volumes_data();
    void volumes();
    void sidesKeepTheirNames();
    void splitMakesTwoCopies();
    void facesByNormal();
    void roundFacesGoOnBeyondSeams();
    void layout();
    void brokenLayouts();
    void whatIsNoFile();
    void referencesThatUnfold();
    void stepThereAndBack();
    void openAndSelfCrossingFiles();
    void impossible_data();
    void impossible();
    void rebuildIsQuick();
};

void TstSolids::volumes_data()
{
    QTest::addColumn<QStringList>("lines");
    QTest::addColumn<double>("volume");  // mm^3
    QTest::newRow("box") << QStringList{"s box 1 mm x 2 mm x 3 mm"} << 6.0;
    QTest::newRow("cylinder") << QStringList{"s cylinder radius 2 mm height 3 mm"} << 12 * pi;
    QTest::newRow("frustum") << QStringList{"s cone radius 2 mm to 1 mm height 3 mm"} << 7 * pi;
    QTest::newRow("sphere") << QStringList{"s sphere radius 3 mm"} << 36 * pi;
    QTest::newRow("torus") << QStringList{"s torus radius 5 mm tube 1 mm"} << 10 * pi * pi;
    // Pappus: area times the way of its middle.
    QTest::newRow("revolution") << QStringList{"p disc radius 1 mm at 5 mm, 2 mm",
                                               "s revolution of p by 360 deg"}
                                << 10 * pi * pi;
    QTest::newRow("revolution on the axis")
        << QStringList{"p rectangle 2 mm x 3 mm at 1 mm, 0", "s revolution of p"} << 12 * pi;
    QTest::newRow("third of a revolution")
        << QStringList{"p rectangle 2 mm x 3 mm at 4 mm, 0", "s revolution of p by 120 deg"}
        << 6 * 2 * pi * 4 / 3;
    QTest::newRow("straight round bar")
        << QStringList{"s bar radius 1 mm along 0, 0, 0; 0, 0, 7 mm"} << 7 * pi;
    QTest::newRow("bent bar")
        << QStringList{"s bar width 2 mm thickness 1 mm along 0, 0, 0; 10 mm, 0, 0; 10 mm, 8 mm, 0 "
                       "bent by 3 mm"}
        << 2.0 * (10 - 3 + 8 - 3 + 1.5 * pi);
    QTest::newRow("mitred bar")
        << QStringList{"s bar width 2 mm thickness 1 mm along 0, 0, 0; 10 mm, 0, 0; 10 mm, 8 mm, 0"}
        << 2.0 * 18;
    QTest::newRow("racetrack coil")
        << QStringList{"s bar width 2 mm thickness 3 mm along -8 mm, -5 mm, 0; 8 mm, -5 mm, 0; "
                       "8 mm, 5 mm, 0; -8 mm, 5 mm, 0 bent by 3 mm ends closed"}
        << 6.0 * (2 * (16 - 6) + 2 * (10 - 6) + 6 * pi);
    QTest::newRow("round coil by arcs")
        << QStringList{"s bar radius 0.5 mm along 5 mm, 0, 0; arc via 0, 5 mm, 0 to -5 mm, 0, 0; "
                       "arc via 0, -5 mm, 0 to 5 mm, 0, 0 ends closed"}
        << 0.25 * pi * 10 * pi;
    QTest::newRow("bar out of the plane")
        << QStringList{"s bar radius 0.5 mm along 0, 0, 0; 6 mm, 0, 0; 6 mm, 6 mm, 0; 6 mm, 6 mm, "
                       "6 mm bent by 2 mm"}
        << 0.25 * pi * (18 - 8 + 2 * pi);
    QTest::newRow("loft")  // frustum of a pyramid: h (A + B + sqrt(A B)) / 3
        << QStringList{"a rectangle 4 mm x 4 mm at 0, 0, 0",
                       "b rectangle 2 mm x 2 mm at 0, 0, 3 mm", "s loft through a and b"}
        << 3.0 * (16 + 4 + 8) / 3;
    QTest::newRow("rounded upright edges")
        << QStringList{"b box 6 mm x 4 mm x 2 mm", "s rounded b by 1 mm at edges upright"}
        << (24 - (4 - pi)) * 2;
    QTest::newRow("chamfered top")  // four prisms, less the overlap at the corners
        << QStringList{"b box 6 mm x 4 mm x 2 mm", "s chamfered b by 1 mm at edges top"}
        << 24 * 1 + (24 + 8 + std::sqrt(24.0 * 8)) / 3 - 0.0;
    QTest::newRow("cut") << QStringList{"a box 4 mm x 4 mm x 4 mm",
                                        "h cylinder radius 1 mm height "
                                        "4 mm",
                                        "s rest of a without h"}
                         << 64 - 4 * pi;
}

void TstSolids::volumes()
{
    QFETCH(QStringList, lines);
    QFETCH(double, volume);
    const Document d = solids(lines);
    const Partition p = Partition::build(sheet::Model(d));
    const double v = volumeOf(p, "s") / mm3;
    if (QString(QTest::currentDataTag()) == "chamfered top") {
        // A prismatoid between 6 x 4 and 4 x 2: by Simpson's rule with its middle of 5 x 3.
        volume = 24 + (24 + 4 * 15 + 8) / 6.0;
    }
    QVERIFY2(std::abs(v / volume - 1) < 1e-6,
             qPrintable(QString("%1 %2").arg(v, 0, 'g', 10).arg(volume)));
}

void TstSolids::sidesKeepTheirNames()
{
    const Document d = solids(
        {"p rectangle 2 mm x 3 mm at 4 mm, 0", "ring revolution of p by 90 deg",
         "lead bar radius 1 mm along 20 mm, 0, 0; 20 mm, 10 mm, 0",
         "b box 6 mm x 4 mm x 2 mm at -20 mm, 0, 0", "case rounded b by 1 mm at edges upright"});
    const Partition p = Partition::build(sheet::Model(d));
    const double mm2 = 1e-6;
    QVERIFY(std::abs(areaOf(p, d, "ring.start") / (6 * mm2) - 1) < 1e-9);
    QVERIFY(std::abs(areaOf(p, d, "ring.end") / (6 * mm2) - 1) < 1e-9);
    QVERIFY(std::abs(areaOf(p, d, "ring.right") / (3 * 2.5 * pi * mm2) - 1) < 1e-9);
    QVERIFY(std::abs(areaOf(p, d, "lead.start") / (pi * mm2) - 1) < 1e-9);
    QVERIFY(std::abs(areaOf(p, d, "lead.outer") / (20 * pi * mm2) - 1) < 1e-9);
    QVERIFY(std::abs(areaOf(p, d, "case.top") / ((24 - (4 - pi)) * mm2) - 1) < 1e-9);
    QVERIFY(std::abs(areaOf(p, d, "case.left") / (4 * mm2) - 1) < 1e-9);
}

void TstSolids::splitMakesTwoCopies()
{
    const Document d = solids({"b box 6 mm x 4 mm x 2 mm", "h split of b at z = 0.5 mm"});
    const Partition p = Partition::build(sheet::Model(d));
    QVERIFY(std::abs(volumeOf(p, "h", 1) / (12 * mm3) - 1) < 1e-9);
    QVERIFY(std::abs(volumeOf(p, "h", 2) / (36 * mm3) - 1) < 1e-9);
    QVERIFY(std::abs(areaOf(p, d, "h 1 & h 2") / 24e-6 - 1) < 1e-9);
    QVERIFY(std::abs(areaOf(p, d, "h 2.top") / 24e-6 - 1) < 1e-9);
    QCOMPARE(areaOf(p, d, "h 1.top"), 0.0);
}

void TstSolids::facesByNormal()
{
    const Document d =
        solids({"b box 6 mm x 4 mm x 2 mm", "c box 2 mm x 2 mm x 1 mm at 0, 0, 2 mm"});
    const Partition p = Partition::build(sheet::Model(d));
    QVERIFY(std::abs(areaOf(p, d, "faces facing z of b") / 24e-6 - 1) < 1e-9);
    QVERIFY(std::abs(areaOf(p, d, "faces facing z of b but not b & c") / 20e-6 - 1) < 1e-9);
    QVERIFY(std::abs(areaOf(p, d, "faces facing -z of c") / 4e-6 - 1) < 1e-9);
    QVERIFY(std::abs(areaOf(p, d, "faces facing x of c") / 2e-6 - 1) < 1e-9);
    // In the plane: edges.
    Document flat;
    flat.add("space", {{"type", "plane"}});
    flat.add("rectangle", {{"name", "r"}, {"width", "3 mm"}, {"height", "2 mm"}});
    flat.add("disc", {{"name", "hole"}, {"radius", "0.5 mm"}});
    const Partition q = Partition::build(sheet::Model(flat));
    QVERIFY(std::abs(areaOf(q, flat, "edges facing y of r") / 3e-3 - 1) < 1e-9);
    QVERIFY(std::abs(areaOf(q, flat, "edges facing -x of r") / 2e-3 - 1) < 1e-9);
}

void TstSolids::roundFacesGoOnBeyondSeams()
{
    // Slots beside the seam and far from it leave the shell of a rod in one piece each time, but
    // for what is cut away; a slot on either side leaves two shells.
    for (const char* slot : {"slot box 4 mm × 2 mm × 10 mm at 5 mm, 0, 0",
                             "slot box 4 mm × 2 mm × 10 mm at -5 mm, 0, 0",
                             "slot box 2 mm × 4 mm × 10 mm at 0, 5 mm, 0"}) {
        const Document d = solids({"rod cylinder radius 5 mm height 10 mm at 0, 0, 0", slot,
                                   "body rest of rod without slot"});
        const auto p = Partition::build(sheet::Model(d));
        const double left = (2 * pi - 2 * std::asin(0.2)) * 5 * 10 * 1e-6;
        for (const char* rule :
             {"nearest to 3.5 mm, 3.5 mm, 5 mm", "nearest to -3.5 mm, 3.5 mm, 5 mm",
              "nearest to 3.5 mm, -3.5 mm, 5 mm"})
            QVERIFY2(std::abs(areaOf(p, d, rule) / left - 1) < 1e-6, slot);
        // Flat faces stay what they are.
        QVERIFY(areaOf(p, d, "nearest to 0.1 mm, 0.1 mm, 10 mm") < 78.6e-6);
    }
    const Document d =
        solids({"rod cylinder radius 5 mm height 10 mm at 0, 0, 0",
                "slots box 20 mm × 2 mm × 10 mm at 0, 0, 0", "body rest of rod without slots"});
    const auto p = Partition::build(sheet::Model(d));
    QVERIFY(
        std::abs(areaOf(p, d, "nearest to 0, 5 mm, 5 mm") / ((pi - 2 * std::asin(0.2)) * 50e-6) -
                 1) < 1e-6);
}

void TstSolids::layout()
{
    // A cell with a square and a bent path, used twice: turned by 90 degrees, and in a row of 3.
    QTemporaryDir dir;
    test::Gds g;
    g.record(0x00, 2, test::Gds::shorts({600}))
        .record(0x01, 2, test::Gds::shorts({0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}))
        .record(0x02, 6, "LIBRARY1")
        .record(0x03, 5, test::Gds::real(1e-3) + test::Gds::real(1e-9));
    g.structure("PART")
        .polygon(3, {0, 0, 1000, 0, 1000, 1000, 0, 1000, 0, 0})
        .record(0x09, 0)
        .record(0x0d, 2, test::Gds::shorts({4}))
        .record(0x0e, 2, test::Gds::shorts({0}))
        .record(0x0f, 3, test::Gds::longs({200}))
        .record(0x10, 3, test::Gds::longs({0, 0, 2000, 0, 2000, 3000}))
        .record(0x11, 0)
        .record(0x07, 0);
    g.structure("TOP")
        .polygon(3, {900, 0, 2000, 0, 2000, 1000, 900, 1000, 900, 0})
        .record(0x0a, 0)
        .record(0x12, 6, "PART")
        .record(0x1a, 1, test::Gds::shorts({0}))
        .record(0x1c, 5, test::Gds::real(90))
        .record(0x10, 3, test::Gds::longs({0, 5000}))
        .record(0x11, 0)
        .record(0x0b, 0)
        .record(0x12, 6, "PART")
        .record(0x13, 2, test::Gds::shorts({3, 1}))
        .record(0x10, 3, test::Gds::longs({0, 0, 30000, 0, 0, 10000}))
        .record(0x11, 0)
        .record(0x07, 0)
        .record(0x04, 0);
    g.write(dir.filePath("chip.gds"));
    const Document d = solids({"pad layer 3 from chip.gds high 2 um",
                               "wire layer 4 from chip.gds high 1 um at 0, 0, 5 um"});
    const Partition p = Partition::build(sheet::Model(d), dir.path().toStdString());
    const double um3 = 1e-18;
    // Three squares of 1 um in a row; the first overlaps the 1.1 um wide polygon by 0.1 um; one
    // more.
    QVERIFY2(std::abs(volumeOf(p, "pad") / (2 * (3 + 1.1 - 0.1 + 1) * um3) - 1) < 1e-9,
             qPrintable(QString::number(volumeOf(p, "pad") / um3)));
    // Four paths of 5 um by 0.2 um with mitred corners.
    QVERIFY2(std::abs(volumeOf(p, "wire") / (4 * 5 * 0.2 * um3) - 1) < 1e-9,
             qPrintable(QString::number(volumeOf(p, "wire") / um3)));
    QCOMPARE(faultOf({"pad layer 9 from chip.gds high 2 um"}, dir.path().toStdString())
                 .find("there is nothing on layer 9"),
             size_t(0));
    QVERIFY(!faultOf({"pad layer 3 from chip.gds cell NONE high 2 um"}, dir.path().toStdString())
                 .empty());
}

void TstSolids::brokenLayouts()
{
    QTemporaryDir dir;
    std::ofstream(dir.filePath("short.gds").toStdString()) << "\0\6\0\2\2";
    std::ofstream(dir.filePath("text.gds").toStdString()) << "this is no layout at all, but a text";
    for (const char* name : {"short", "text", "missing"})
        QVERIFY2(!faultOf({QString("pad layer 1 from %1.gds high 1 um").arg(name)},
                          dir.path().toStdString())
                      .empty(),
                 name);
}

void TstSolids::whatIsNoFile()
{
    // A folder, a device: neither stops the program or waits for ever.
    for (const char* kind : {"s layer 1 from %1 high 1 um", "s shape from %1 in 1 mm"})
        for (const char* file : {"/tmp", "/dev/zero"}) {
            const std::string fault = faultOf({QString(kind).arg(file)});
            QVERIFY2(fault.find("not a file") != std::string::npos ||
                         fault.find("files are not read") != std::string::npos,
                     fault.c_str());
        }
}

void TstSolids::referencesThatUnfold()
{
    // Thirty cells, each of which holds the one before twice.
    QTemporaryDir dir;
    test::Gds g;
    g.begin("C0").polygon(1, {0, 0, 10, 0, 10, 10, 0, 10, 0, 0}).record(0x07, 0);
    for (int k = 1; k <= 30; ++k) {
        g.structure("C" + std::to_string(k));
        const std::string below = "C" + std::to_string(k - 1);
        for (const int x : {0, 20})
            g.record(0x0a, 0)
                .record(0x12, 6, below.size() % 2 ? below + '\0' : below)
                .record(0x10, 3, test::Gds::longs({x, 0}))
                .record(0x11, 0);
        g.record(0x07, 0);
    }
    g.record(0x04, 0).write(dir.filePath("deep.gds"));
    QElapsedTimer clock;
    clock.start();
    const std::string fault =
        faultOf({"s layer 1 from deep.gds cell C30 high 1 um"}, dir.path().toStdString());
    QVERIFY2(fault.find("unfold to more than") != std::string::npos, fault.c_str());
    QVERIFY(clock.elapsed() < 20000);
}

void TstSolids::stepThereAndBack()
{
    QTemporaryDir dir;
    const Document d = solids({"a box 4 mm x 4 mm x 4 mm", "h cylinder radius 1 mm height 4 mm",
                               "s rest of a without h", "ball sphere radius 1 mm at 10 mm, 0, 0"});
    Partition::build(sheet::Model(d)).writeStep(dir.filePath("s.step").toStdString());
    const Document back = solids({"all_of_it shape from s.step"});
    const Partition p = Partition::build(sheet::Model(back), dir.path().toStdString());
    QVERIFY(std::abs(volumeOf(p, "all_of_it") / ((64 - 4 * pi + 4 * pi / 3) * mm3) - 1) < 1e-6);
    QVERIFY_EXCEPTION_THROWN(Partition::build(sheet::Model(d)).writeStep("/nowhere/s.step"),
                             base::Error);
}

void TstSolids::openAndSelfCrossingFiles()
{
    QTemporaryDir dir;
    // A tetrahedron without its last face.
    std::ofstream(dir.filePath("open.stl").toStdString())
        << "solid s\nfacet normal 0 0 -1\nouter loop\nvertex 0 0 0\nvertex 0 1 0\nvertex 1 0 0\n"
           "endloop\nendfacet\nfacet normal 0 -1 0\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex "
           "0 0 1\nendloop\nendfacet\nendsolid s\n";
    QVERIFY(faultOf({"s shape from open.stl"}, dir.path().toStdString()).find("open") !=
            std::string::npos);
    // A prism: its top is its bottom turned by half a turn, so that its sides meet in the middle.
    // Turned by nothing it is a good cube.
    for (const bool twisted : {false, true}) {
        std::ofstream f(dir.filePath("prism.stl").toStdString());
        f << "solid p\n";
        constexpr double corner[4][2] = {{0, 0}, {1, 0}, {1, 1}, {0, 1}};
        auto facet = [&](std::array<int, 3> points) {
            f << "facet normal 0 0 0\nouter loop\n";
            for (const int k : points) {
                const int at = k < 4 ? k : (k + (twisted ? 2 : 0)) % 4;
                f << "vertex " << corner[at][0] << ' ' << corner[at][1] << ' ' << (k < 4 ? 0 : 1)
                  << '\n';
            }
            f << "endloop\nendfacet\n";
        };
        facet({0, 2, 1});
        facet({0, 3, 2});
        facet({4, 5, 6});
        facet({4, 6, 7});
        for (int k = 0; k < 4; ++k) {
            const int n = (k + 1) % 4;
            facet({k, n, 4 + n});
            facet({k, 4 + n, 4 + k});
        }
        f << "endsolid p\n";
        f.close();
        const std::string said = faultOf({"s shape from prism.stl"}, dir.path().toStdString());
        if (twisted)
            QVERIFY2(said.find("passes through itself") != std::string::npos, said.c_str());
        else
            QVERIFY2(said.empty(), said.c_str());
    }
    std::ofstream(dir.filePath("bad.step").toStdString()) << "ISO-10303-21; broken";
    QVERIFY(faultOf({"s shape from bad.step"}, dir.path().toStdString()).find("broken") !=
            std::string::npos);
}

void TstSolids::impossible_data()
{
    QTest::addColumn<QStringList>("lines");
    QTest::addColumn<QString>("says");
    QTest::newRow("over the axis")
        << QStringList{"p disc radius 2 mm at 1 mm, 0", "s revolution of p"} << "over the axis";
    QTest::newRow("solid revolved")
        << QStringList{"p box 1 mm x 1 mm x 1 mm at 5 mm, 0, 0", "s revolution of p"}
        << "is a solid";
    QTest::newRow("bend too wide")
        << QStringList{"s bar radius 0.1 mm along 0, 0, 0; 2 mm, 0, 0; 2 mm, 2 mm, 0 bent by 5 mm"}
        << "do not fit";
    QTest::newRow("no cross-section") << QStringList{"s bar along 0, 0, 0; 2 mm, 0, 0"} << "round";
    QTest::newRow("half a rectangle")
        << QStringList{"s bar width 1 mm along 0, 0, 0; 2 mm, 0, 0"} << "thickness";
    QTest::newRow("one outline") << QStringList{"p disc radius 2 mm", "s loft through p"}
                                 << "at least two";
    QTest::newRow("rounded too far")
        << QStringList{"b box 1 mm x 1 mm x 1 mm", "s rounded b by 3 mm"} << "does not fit";
    QTest::newRow("split beside") << QStringList{"b box 1 mm x 1 mm x 1 mm",
                                                 "s split of b at z = 3 mm"}
                                  << "does not meet";
    QTest::newRow("missing") << QStringList{"s revolution of nothing"} << "no shape";
    QTest::newRow("torus without a hole") << QStringList{"s torus radius 1 mm tube 2 mm"} << "hole";
}

void TstSolids::impossible()
{
    QFETCH(QStringList, lines);
    QFETCH(QString, says);
    const std::string fault = faultOf(lines);
    QVERIFY2(QString::fromStdString(fault).contains(says), fault.c_str());
}

void TstSolids::rebuildIsQuick()
{
    QStringList lines{"plate box 120 mm x 120 mm x 2 mm"};
    for (int i = 0; i < 10; ++i)
        for (int j = 0; j < 10; ++j)
            lines << QString("p%1 cylinder radius 2 mm height 5 mm at %2 mm, %3 mm, 0")
                         .arg(10 * i + j)
                         .arg(11 * i - 50)
                         .arg(11 * j - 50);
    const Document d = solids(lines);
    QElapsedTimer t;
    t.start();
    const Partition p = Partition::build(sheet::Model(d));
    qInfo("100 pins in a plate: %lld ms", t.elapsed());
    QCOMPARE(p.pieces().size(), size_t(201));
}

void TstSolids::thinWires()
{
    // A ring by two arcs: all of its places lie on it, those named among them, and it closes.
    const QString ring =
        "ring wire radius 1 mm along 50 mm, 0, 0; arc via 0, 50 mm, 0 to -50 mm, 0, "
        "0; arc via 0, -50 mm, 0 to 50 mm, 0, 0";
    auto wires = shape::thinWires(sheet::Model(solids({ring})));
    QCOMPARE(wires.size(), size_t(1));
    QCOMPARE(wires[0].runs.size(), size_t(1));
    const auto& run = wires[0].runs[0];
    double length = 0;
    bool through = false;
    for (size_t i = 0; i < run.size(); ++i) {
        QVERIFY(std::abs(norm(run[i]) - 0.05) < 1e-12);
        through = through || norm(run[i] - sheet::Point{0, -0.05, 0}) < 1e-12;
        if (i > 0)
            length += norm(run[i] - run[i - 1]);
    }
    QVERIFY(through);
    QVERIFY(norm(run.front() - run.back()) < 1e-12);
    QVERIFY(std::abs(length / (2 * 3.14159265358979 * 0.05) - 1) < 2e-3);
    // Planes leave what is on their positive side: a half, and of a zigzag two pieces.
    wires = shape::thinWires(sheet::Model(solids({ring, "mirror plane y = 0 kind even"})));
    QCOMPARE(wires[0].runs.size(), size_t(1));
    for (const auto& p : wires[0].runs[0])
        QVERIFY(p.y > -1e-9);
    wires = shape::thinWires(sheet::Model(
        solids({"zag wire radius 1 mm along 0, 0, 10 mm; 20 mm, 0, -10 mm; 40 mm, 0, 10 mm",
                "mirror plane z = 0 kind odd"})));
    QCOMPARE(wires[0].runs.size(), size_t(2));
    QVERIFY(norm(wires[0].runs[0].back() - sheet::Point{0.01, 0, 0}) < 1e-12);
    QVERIFY(norm(wires[0].runs[1].front() - sheet::Point{0.03, 0, 0}) < 1e-12);
    // They count for the extent, and for the ball of the open space about it.
    const Partition p = Partition::build(
        sheet::Model(solids({"rod wire radius 1 mm along 0, 0, -0.2 m; 0, 0, 0.2 m",
                             "band from 1 GHz to 2 GHz in 3 points", "open space"})));
    QVERIFY(std::abs(p.size() - 0.4) < 1e-9);
    QVERIFY(p.openShell().present && p.openShell().inner > 0.2);
    QVERIFY(p.pieceAt({0, 0, 0.1}) >= 0);
    QVERIFY(p.pieceAt({0, 0, 100}) < 0);
}

YH_TEST(TstSolids)

}  // namespace tst_solids

#include "tst_solids.moc"
