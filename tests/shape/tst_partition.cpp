// Shapes, painting, rules for places, imports.
#include "program.h"

#include "shape/partition.h"
#include "sheet/sentence.h"

#include <QtTest/QtTest>

#include <QTemporaryDir>
#include <cmath>
#include <fstream>

namespace tst_partition {

using namespace yh;
using shape::Partition;
using sheet::Document;

namespace {

constexpr double pi = 3.14159265358979323846;

Document plane()
{
    Document d;
    d.add("space", {{"type", "plane"}});
    return d;
}

double areaOf(const Partition& p, const std::string& name, int copy = 0)
{
    double sum = 0;
    for (const auto& f : p.pieces()) {
        const auto& r = p.regions()[size_t(f.region)];
        if (r.name == name && (copy == 0 || r.copy == copy))
            sum += f.content;
    }
    return sum;
}

shape::Selection pick(const Partition& p, const Document& d, const std::string& rule)
{
    const auto r = sheet::parsePlace(rule);
    if (!r.rule)
        throw base::Error(0, r.fault);
    const sheet::Model m(d);
    return p.resolve(*r.rule, m, {});
}

double lengthOf(const Partition& p, const shape::Selection& s)
{
    double sum = 0;
    for (const int e : s.sides)
        sum += p.sides()[size_t(e)].content;
    return sum;
}

bool near(double a, double b, double tolerance = 1e-9)
{
    return std::abs(a - b) <= tolerance * std::max(std::abs(a), std::abs(b));
}

std::string faultOf(const Document& d, const std::string& folder = ".")
{
    try {
        static_cast<void>(Partition::build(sheet::Model(d), folder));
    } catch (const base::Error& e) {
        return e.what();
    }
    return {};
}

}  // namespace

class TstPartition : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void areas_data();
    void areas();
    void laterLinesPaintOver();
    void copies();
    void booleans();
    void thinLines();
    void rules_data();
    void rules();
    void rulesFollowParameters();
    void wrongRules();
    void everyProposalPicksItsEdge();
    void axisAndMirrorsCut();
    void openSpaceIsMade();
    void microscopicAndHuge();
    void impossibleShapes_data();
    void impossibleShapes();
    void dxf();
    void step();
    void brokenImports();
};

void TstPartition::areas_data()
{
    QTest::addColumn<QString>("line");
    QTest::addColumn<double>("area");  // mm^2
    QTest::newRow("rectangle") << "s rectangle 3 mm x 2 mm" << 6.0;
    QTest::newRow("turned rectangle")
        << "s rectangle 3 mm x 2 mm at 1 mm, 2 mm turned by 30 deg" << 6.0;
    QTest::newRow("rounded rectangle")
        << "s rectangle 3 mm x 2 mm at 0, 0 corners rounded by 0.5 mm" << 6.0 - (4 - pi) * 0.25;
    QTest::newRow("disc") << "s disc radius 2 mm" << 4 * pi;
    QTest::newRow("sector") << "s disc radius 2 mm at 0, 0 from 0 deg to 90 deg" << pi;
    QTest::newRow("wide sector") << "s disc radius 2 mm at 0, 0 from 10 deg to 280 deg" << 3 * pi;
    QTest::newRow("ellipse") << "s ellipse 2 mm x 1 mm" << 2 * pi;
    QTest::newRow("tall ellipse") << "s ellipse 1 mm x 2 mm" << 2 * pi;
    QTest::newRow("ring") << "s ring from radius 1 mm to radius 2 mm" << 3 * pi;
    QTest::newRow("triangle") << "s polygon through 0, 0; 2 mm, 0; 0, 1 mm" << 1.0;
    QTest::newRow("half disc by an arc")
        << "s path along -1 mm, 0; 1 mm, 0; arc via 0, 1 mm to -1 mm, 0" << pi / 2;
}

void TstPartition::areas()
{
    QFETCH(QString, line);
    QFETCH(double, area);
    Document d = plane();
    const auto c = sheet::compose(line.toStdString(), d);
    QVERIFY2(c.ok, c.fault.c_str());
    d.add(c.kind, c.values);
    const Partition p = Partition::build(sheet::Model(d));
    QVERIFY2(near(areaOf(p, "s"), area * 1e-6),
             qPrintable(QString::number(areaOf(p, "s") * 1e6, 'g', 12)));
}

void TstPartition::laterLinesPaintOver()
{
    Document d = plane();
    d.add("rectangle", {{"name", "under"}, {"width", "4 mm"}, {"height", "4 mm"}});
    d.add("disc", {{"name", "over"}, {"radius", "1 mm"}, {"at", "2 mm, 0"}});
    const Partition p = Partition::build(sheet::Model(d));
    QVERIFY(near(areaOf(p, "over"), pi * 1e-6));
    QVERIFY(near(areaOf(p, "under"), (16 - pi / 2) * 1e-6));
    // The other way round the rectangle wins.
    Document e = plane();
    e.add("disc", {{"name", "over"}, {"radius", "1 mm"}, {"at", "2 mm, 0"}});
    e.add("rectangle", {{"name", "under"}, {"width", "4 mm"}, {"height", "4 mm"}});
    const Partition q = Partition::build(sheet::Model(e));
    QVERIFY(near(areaOf(q, "over"), pi / 2 * 1e-6));
}

void TstPartition::copies()
{
    Document d = plane();
    d.add("rectangle", {{"name", "comb"},
                        {"width", "1 mm"},
                        {"height", "1 mm"},
                        {"copies", "5"},
                        {"every", "2 mm"}});
    d.add("disc", {{"name", "wheel"},
                   {"radius", "0.5 mm"},
                   {"at", "20 mm, 0"},
                   {"copies", "6"},
                   {"turning", "60 deg"}});
    d.add("rectangle", {{"name", "pair"},
                        {"width", "1 mm"},
                        {"height", "1 mm"},
                        {"at", "9 mm, 9 mm"},
                        {"mirrored", "x = 0"}});
    const Partition p = Partition::build(sheet::Model(d));
    QVERIFY(near(areaOf(p, "comb"), 5e-6));
    QVERIFY(near(areaOf(p, "wheel"), 6 * pi * 0.25e-6));
    QVERIFY(near(areaOf(p, "pair"), 2e-6));
    QCOMPARE(pick(p, d, "comb odd").pieces.size(), size_t(3));
    QCOMPARE(pick(p, d, "comb even").pieces.size(), size_t(2));
    QCOMPARE(pick(p, d, "wheel 3").pieces.size(), size_t(1));
    // Centred copies: the middle one lies at the place itself.
    const auto middle = pick(p, d, "comb 3");
    QVERIFY(std::abs(p.pieces()[size_t(middle.pieces[0])].inside.x) < 0.5e-3);
    const auto third = p.pieces()[size_t(pick(p, d, "wheel 3").pieces[0])].inside;
    QVERIFY(std::hypot(third.x + 10e-3, third.y - 20e-3 * std::sin(2 * pi / 3)) < 0.5e-3);
}

void TstPartition::booleans()
{
    Document d = plane();
    d.add("rectangle", {{"name", "block"}, {"width", "4 mm"}, {"height", "4 mm"}});
    d.add("disc", {{"name", "hole"}, {"radius", "1 mm"}});
    d.add("subtract", {{"name", "wall"}, {"of", "block"}, {"by", "hole"}});
    d.add("rectangle", {{"name", "a"}, {"width", "2 mm"}, {"height", "2 mm"}, {"at", "10 mm, 0"}});
    d.add("rectangle", {{"name", "b"}, {"width", "2 mm"}, {"height", "2 mm"}, {"at", "11 mm, 0"}});
    d.add("union", {{"name", "ab"}, {"of", "a and b"}});
    d.add("disc", {{"name", "l"}, {"radius", "1 mm"}, {"at", "20 mm, 0"}});
    d.add("disc", {{"name", "r"}, {"radius", "1 mm"}, {"at", "21 mm, 0"}});
    d.add("intersect", {{"name", "lens"}, {"of", "l"}, {"by", "r"}});
    const Partition p = Partition::build(sheet::Model(d));
    QVERIFY(near(areaOf(p, "wall"), (16 - pi) * 1e-6));
    QVERIFY(near(areaOf(p, "ab"), 6e-6));
    QCOMPARE(pick(p, d, "ab").pieces.size(), size_t(1));
    // Two unit circles a radius apart: 2 pi / 3 - sqrt(3) / 2.
    QVERIFY(near(areaOf(p, "lens"), (2 * pi / 3 - std::sqrt(3.0) / 2) * 1e-6));
    QVERIFY(near(areaOf(p, "hole") + 1, 1));  // used up
}

void TstPartition::thinLines()
{
    Document d = plane();
    d.add("rectangle", {{"name", "air"}, {"width", "8 mm"}, {"height", "8 mm"}});
    d.add("thin line", {{"name", "strip"}, {"points", "-1 mm, 0; 1 mm, 0; 1 mm, 1 mm"}});
    const Partition p = Partition::build(sheet::Model(d));
    const auto s = pick(p, d, "strip");
    QVERIFY(s.pieces.empty());
    QVERIFY(near(lengthOf(p, s), 3e-3));
    QVERIFY(near(areaOf(p, "air"), 64e-6));
}

void TstPartition::rules_data()
{
    QTest::addColumn<QString>("rule");
    QTest::addColumn<double>("length");  // mm
    // A base of 10 x 2 below y = 0 with a disc of radius 0.8 inside, and a lid of 4 x 1 upon it.
    QTest::newRow("side in pieces") << "base.top" << 10.0;
    QTest::newRow("free part of a side") << "base.top but not lid.bottom" << 6.0;
    QTest::newRow("interface") << "base & lid" << 4.0;
    QTest::newRow("interface of a disc") << "base ∩ core" << 1.6 * pi;
    QTest::newRow("outer") << "outer of lid" << 6.0;
    QTest::newRow("all edges") << "edges of base" << 24.0 + 1.6 * pi;
    QTest::newRow("on a line") << "on line y = -2 mm" << 10.0;
    QTest::newRow("on a line by a parameter") << "on line x = half" << 2.0;
    QTest::newRow("nearest") << "nearest to 0, 3 mm" << 4.0;
    QTest::newRow("union of edges") << "lid.left and lid.right" << 2.0;
    QTest::newRow("outline of a disc") << "core.outer" << 1.6 * pi;
}

void TstPartition::rules()
{
    QFETCH(QString, rule);
    QFETCH(double, length);
    Document d = plane();
    d.add("parameter", {{"name", "half"}, {"value", "5 mm"}});
    d.add("rectangle",
          {{"name", "base"}, {"width", "2*half"}, {"height", "2 mm"}, {"at", "0, -1 mm"}});
    d.add("rectangle",
          {{"name", "lid"}, {"width", "4 mm"}, {"height", "1 mm"}, {"at", "0, 0.5 mm"}});
    d.add("disc", {{"name", "core"}, {"radius", "0.8 mm"}, {"at", "3.5 mm, -1 mm"}});
    const Partition p = Partition::build(sheet::Model(d));
    QVERIFY2(
        near(lengthOf(p, pick(p, d, rule.toStdString())), length * 1e-3, 1e-7),
        qPrintable(QString::number(1e3 * lengthOf(p, pick(p, d, rule.toStdString())), 'g', 12)));
}

void TstPartition::rulesFollowParameters()
{
    Document d = plane();
    d.add("parameter", {{"name", "gap"}, {"value", "1 mm"}});
    d.add("rectangle",
          {{"name", "base"}, {"width", "20 mm"}, {"height", "2 mm"}, {"at", "0, -1 mm"}});
    d.add("rectangle", {{"name", "comb"},
                        {"width", "gap"},
                        {"height", "gap"},
                        {"at", "0, gap/2"},
                        {"copies", "4"},
                        {"every", "2*gap"}});
    for (const char* gap : {"1 mm", "0.3 mm", "2.4 mm"}) {
        const sheet::Model m(d, {{"gap", gap}});
        const Partition p = Partition::build(m);
        const double g = m.parameters().values.at("gap").value.real();
        QVERIFY(near(lengthOf(p, p.resolve(*sheet::parsePlace("base & comb odd").rule, m, {})),
                     2 * g, 1e-6));
        QVERIFY(near(
            lengthOf(p,
                     p.resolve(*sheet::parsePlace("base.top but not edges of comb").rule, m, {})),
            20e-3 - 4 * g, 1e-6));
    }
}

void TstPartition::wrongRules()
{
    Document d = plane();
    d.add("rectangle", {{"name", "base"},
                        {"width", "2 mm"},
                        {"height", "2 mm"},
                        {"copies", "2"},
                        {"every", "3 mm"}});
    const Partition p = Partition::build(sheet::Model(d));
    auto text = [&](const std::string& rule) {
        try {
            static_cast<void>(pick(p, d, rule));
        } catch (const base::Error& e) {
            return std::string(e.what());
        }
        return std::string();
    };
    QCOMPARE(text("base 3"), std::string("'base' has 2 copies; there is no copy 3"));
    QCOMPARE(text("base.rim"),
             std::string("'base' has no side 'rim'; it has bottom, left, right, top"));
    QCOMPARE(text("bass"), std::string("there is no shape named 'bass'"));
    QCOMPARE(text("on line x = 3 V"), std::string("3 V is a voltage; a length is expected"));
    QVERIFY(pick(p, d, "on line x = 77 mm").empty());
}

void TstPartition::everyProposalPicksItsEdge()
{
    Document d = plane();
    d.add("rectangle",
          {{"name", "base"}, {"width", "9 mm"}, {"height", "2 mm"}, {"at", "0, -1 mm"}});
    d.add("disc", {{"name", "drop"},
                   {"radius", "2 mm"},
                   {"at", "1 mm, 0.4 mm"},
                   {"copies", "2"},
                   {"every", "3.3 mm"}});
    d.add("polygon", {{"name", "roof"}, {"points", "-4 mm, 1 mm; 4 mm, 1 mm; 0, 4 mm"}});
    const Partition p = Partition::build(sheet::Model(d));
    for (size_t e = 0; e < p.sides().size(); ++e) {
        const auto s = pick(p, d, p.propose(int(e)));
        QVERIFY2(std::find(s.sides.begin(), s.sides.end(), int(e)) != s.sides.end(),
                 p.propose(int(e)).c_str());
    }
}

void TstPartition::axisAndMirrorsCut()
{
    Document d;
    d.add("space", {{"type", "axisymmetric"}});
    d.add("disc", {{"name", "ball"}, {"radius", "1 mm"}});
    QVERIFY(near(areaOf(Partition::build(sheet::Model(d)), "ball"), pi / 2 * 1e-6));
    d.add("mirror plane", {{"at", "y = 0"}, {"kind", "even"}});
    QVERIFY(near(areaOf(Partition::build(sheet::Model(d)), "ball"), pi / 4 * 1e-6));
}

void TstPartition::openSpaceIsMade()
{
    Document d = plane();
    d.add("disc", {{"name", "wire"}, {"radius", "1 mm"}, {"at", "3 mm, 1 mm"}});
    d.add("outer edge", {{"is", "open space"}});
    const Partition p = Partition::build(sheet::Model(d));
    QVERIFY(p.openShell().present);
    QVERIFY(near(areaOf(p, "wire"), pi * 1e-6));
    const double R1 = p.openShell().inner, R2 = p.openShell().outer;
    QVERIFY(near(areaOf(p, "far shell"), pi * (R2 * R2 - R1 * R1)));
    QVERIFY(near(areaOf(p, "open space"), pi * R1 * R1 - pi * 1e-6));
    QVERIFY(near(p.size(), 2e-3, 1e-6));
    // Its regions are hidden from `all`.
    QCOMPARE(pick(p, d, "all").pieces.size(), size_t(1));
}

void TstPartition::microscopicAndHuge()
{
    for (const char* unit : {"nm", "um", "m", "km"}) {
        Document d = plane();
        const std::string u = unit;
        d.add("rectangle", {{"name", "a"}, {"width", "3 " + u}, {"height", "2 " + u}});
        d.add("disc", {{"name", "b"}, {"radius", "0.1 " + u}, {"at", "1 " + u + ", 0"}});
        const double s = base::findUnit(u)->factor;
        const Partition p = Partition::build(sheet::Model(d));
        QVERIFY2(near(areaOf(p, "b"), 0.01 * pi * s * s), unit);
        QVERIFY2(near(areaOf(p, "a"), (6 - 0.01 * pi) * s * s), unit);
    }
}

void TstPartition::impossibleShapes_data()
{
    QTest::addColumn<QString>("line");
    QTest::addColumn<QString>("message");
    QTest::newRow("ring inside out")
        << "s ring from radius 2 mm to radius 1 mm"
        << "the outer radius 1 mm is not larger than the inner one, 2 mm";
    QTest::newRow("corners too round")
        << "s rectangle 3 mm x 2 mm at 0, 0 corners rounded by 1.5 mm"
        << "corners of 1.5 mm do not fit on the sides of this shape";
    QTest::newRow("sector backwards")
        << "s disc radius 2 mm at 0, 0 from 90 deg to 10 deg"
        << "the sector ends at 10 deg, not behind its start at 90 deg";
    QTest::newRow("straight arc") << "s path along 0, 0; 1 mm, 0; arc via 2 mm, 0 to 3 mm, 0"
                                  << "the arc to point 3 goes through points on one straight line";
    QTest::newRow("points coincide") << "s polygon through 0, 0; 1 mm, 0; 1 mm, 0; 0, 1 mm"
                                     << "points 2 and 3 of the outline coincide";
    // The kernel lost such sides, and died parting what was left.
    QTest::newRow("side far below the drawing's size")
        << "s rectangle 3 mm x 1e9 m at 0, 0"
        << "a side of 's' is only 3 mm long: beside lengths of up to 1.00e+09 m the shape kernel "
           "cannot tell its ends apart";
    QTest::newRow("copies on each other")
        << "s disc radius 2 mm at 0, 0, 3 copies"
        << "all copies lie on each other; state a step with `every` or an angle with `turning by`";
}

void TstPartition::impossibleShapes()
{
    QFETCH(QString, line);
    QFETCH(QString, message);
    Document d = plane();
    const auto c = sheet::compose(line.toStdString(), d);
    QVERIFY2(c.ok, c.fault.c_str());
    d.add(c.kind, c.values);
    QCOMPARE(QString::fromStdString(faultOf(d)), message);
    // Booleans that leave nothing, and names that are not there.
    Document e = plane();
    e.add("disc", {{"name", "a"}, {"radius", "1 mm"}});
    e.add("disc", {{"name", "b"}, {"radius", "2 mm"}});
    e.add("subtract", {{"name", "none"}, {"of", "a"}, {"by", "b"}});
    QCOMPARE(faultOf(e), std::string("nothing is left of 'none'; do the shapes overlap as meant?"));
}

void TstPartition::dxf()
{
    QTemporaryDir dir;
    std::ofstream f(dir.filePath("pad.dxf").toStdString());
    // A 4 x 2 rectangle by a closed polyline with one bulged side, and a circle as its hole.
    f << "0\nSECTION\n2\nENTITIES\n0\nLWPOLYLINE\n8\n0\n90\n4\n70\n1\n10\n0\n20\n0\n10\n4\n20\n0\n4"
         "2\n1\n10\n4\n20\n2\n10\n0\n20\n2\n0\nCIRCLE\n8\n0\n10\n2\n20\n1\n40\n0."
         "5\n0\nENDSEC\n0\nEOF\n";
    f.close();
    Document d = plane();
    d.add("import", {{"name", "pad"}, {"file", "pad.dxf"}, {"unit", "1 mm"}});
    const Partition p = Partition::build(sheet::Model(d), dir.path().toStdString());
    // The bulge of 1 is a half disc of radius 1.
    QVERIFY2(near(areaOf(p, "pad"), (8 + pi / 2 - pi * 0.25) * 1e-6, 1e-6),
             qPrintable(QString::number(areaOf(p, "pad") * 1e6, 'g', 9)));
}

void TstPartition::step()
{
    Document d = plane();
    d.add("import", {{"name", "plate"}, {"file", YH_SOURCE_DIR "/tests/data/plate.step"}});
    const Partition p = Partition::build(sheet::Model(d));
    // 30 mm x 20 mm with a hole of radius 5 mm.
    QVERIFY2(near(areaOf(p, "plate"), (600 - 25 * pi) * 1e-6, 1e-6),
             qPrintable(QString::number(areaOf(p, "plate") * 1e6)));
}

void TstPartition::brokenImports()
{
    QTemporaryDir dir;
    auto fault = [&](const std::string& name, const std::string& content) {
        if (!content.empty())
            std::ofstream(dir.filePath(QString::fromStdString(name)).toStdString()) << content;
        Document d = plane();
        d.add("import", {{"name", "pad"}, {"file", name}});
        std::string text = faultOf(d, dir.path().toStdString());
        const std::string folder = dir.path().toStdString() + "/";
        for (size_t at = text.find(folder); at != std::string::npos; at = text.find(folder))
            text.erase(at, folder.size());
        return text;
    };
    QCOMPARE(fault("none.dxf", ""),
             std::string("the file none.dxf is not there or cannot be opened"));
    QCOMPARE(fault("a.txt", "x"),
             std::string("'txt' files are not read as outlines; DXF and STEP are"));
    QCOMPARE(fault("empty.dxf", "0\nEOF\n"),
             std::string("there are no lines, arcs or polylines in empty.dxf"));
    QCOMPARE(
        fault("open.dxf",
              "0\nSECTION\n2\nENTITIES\n0\nLINE\n8\n0\n10\n0\n20\n0\n11\n1\n21\n0\n0\nENDSEC\n0\nEO"
              "F\n"),
        std::string(
            "the curves in open.dxf do not close to an outline; join their ends and import again"));
    QCOMPARE(
        fault("bad.step", "ISO-10303-21;\nHEADER;\nrubbish"),
        std::string("the file bad.step cannot be read as STEP; it is broken or holds no shape"));
}

YH_TEST(TstPartition)

}  // namespace tst_partition

#include "tst_partition.moc"
