// Current and heat in solids, against closed forms: figures are met, and the truth lies within
// their ±. scripts/validate asks for 0.1 %.
#include "exact_figures.h"
#include "physics/common/constants.h"
#include "program.h"
#include "solved.h"

#include <QtTest/QtTest>

#include <cmath>

namespace tst_flow_solids {

using namespace yh;
using namespace yh::test;
using physics::pi;
using sheet::Document;

namespace {

Document solid()
{
    Document d;
    d.add("space", {{"type", "solid"}});
    return d;
}

/// A square bar of 2 mm with a corner: four squares, the corner, four squares.
Document bentBar()
{
    Document d = solid();
    d.add("box", {{"name", "along"},
                  {"width", "10 mm"},
                  {"length", "2 mm"},
                  {"height", "2 mm"},
                  {"at", "5 mm, 1 mm, 0"}});
    d.add("box", {{"name", "across"},
                  {"width", "2 mm"},
                  {"length", "8 mm"},
                  {"height", "2 mm"},
                  {"at", "1 mm, 6 mm, 0"}});
    d.add("union", {{"name", "bar"}, {"of", "along and across"}});
    d.add("material", {{"material", "copper"}, {"sigma", "1e6 S/m"}, {"in", "bar"}});
    d.add("contact", {{"name", "A"}, {"voltage", "1 V"}, {"on", "on plane x = 10 mm"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "on plane y = 10 mm"}});
    return d;
}

/// A quarter of a ring from 5 mm to 10 mm, 2 mm thick.
Document quarterRing()
{
    Document d = solid();
    d.add("ring", {{"name", "whole"}, {"inner", "5 mm"}, {"outer", "10 mm"}, {"high", "2 mm"}});
    d.add("box", {{"name", "corner"},
                  {"width", "12 mm"},
                  {"length", "12 mm"},
                  {"height", "2 mm"},
                  {"at", "6 mm, 6 mm, 0"}});
    d.add("intersect", {{"name", "bar"}, {"of", "whole"}, {"by", "corner"}});
    d.add("material",
          {{"material", "copper"}, {"sigma", "1e6 S/m"}, {"k", "20 W/m/K"}, {"in", "bar"}});
    d.add("contact", {{"name", "A"}, {"current", "60 A"}, {"on", "on plane x = 0"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "on plane y = 0"}});
    return d;
}

/// A ball of 10 mm, cold outside, whose core of 5 mm makes 100 W.
Document warmBall()
{
    Document d = solid();
    d.add("sphere", {{"name", "ball"}, {"radius", "10 mm"}, {"at", "0, 0, 0"}});
    d.add("sphere", {{"name", "core"}, {"radius", "5 mm"}, {"at", "0, 0, 0"}});
    d.add("material", {{"material", "copper"}, {"k", "10 W/m/K"}, {"in", "ball and core"}});
    d.add("heat source", {{"name", "source"}, {"power", "100 W"}, {"in", "core"}});
    d.add("held temperature", {{"name", "cold"}, {"value", "273.15 K"}, {"on", "outer of ball"}});
    return d;
}

/// The quarter ring, heated by its current and cooled at its contacts.
Document warmRing()
{
    Document d = quarterRing();
    d.add("current heats", {{"in", "bar"}});
    d.add("held temperature",
          {{"name", "sink"}, {"value", "300 K"}, {"on", "on plane x = 0 and on plane y = 0"}});
    return d;
}

}  // namespace

class TstFlowSolids : public QObject
{
    Q_OBJECT
private slots:
    void withinStatedError_data()
    {
        QTest::addColumn<Document>("sheet");
        QTest::addColumn<QString>("ask");
        QTest::addColumn<QString>("region");
        QTest::addColumn<double>("truth");
        // The corner counts 0.559 squares (Hall, Thin Solid Films 1 (1968) 277, from memory).
        QTest::newRow("bent bar") << bentBar() << "resistance"
                                  << "bar" << (8 + 0.5587) / (1e6 * 2e-3);
        // Circles as lines of current, each of its own length.
        const double ring = pi / 2 / (1e6 * 2e-3 * std::log(2));
        QTest::newRow("quarter ring") << quarterRing() << "resistance"
                                      << "bar" << ring;
        // Carslaw and Jaeger, Conduction of Heat in Solids, sections 9.2 and 9.8.
        const double shell = 100 / (4 * pi * 10) * (1 / 5e-3 - 1 / 10e-3);
        QTest::newRow("middle of a warm ball")
            << warmBall() << "highest temperature"
            << "core" << 273.15 + shell + 100 / (8 * pi * 10 * 5e-3);
        QTest::newRow("mean of its core") << warmBall() << "mean temperature"
                                          << "core" << 273.15 + shell + 100 / (20 * pi * 10 * 5e-3);
        // Where current alone heats and flows in and out where heat does, the temperature is a
        // function of the potential (Kohlrausch, Ann. Phys. 306 (1900) 132, from memory).
        const double volts = 60 * ring;
        QTest::newRow("middle of a warm ring") << warmRing() << "highest temperature"
                                               << "bar" << 300 + volts * volts * 1e6 / (8 * 20);
    }
    void withinStatedError()
    {
        QFETCH(Document, sheet);
        QFETCH(QString, ask);
        QFETCH(QString, region);
        QFETCH(double, truth);
        const char* within = qEnvironmentVariableIsSet("YH_VALIDATE") ? "0.1 %" : "0.5 %";
        if (ask == "resistance")
            sheet.add("resistance", {{"from", "A"}, {"to", "B"}, {"within", within}});
        else
            sheet.add(ask.toStdString(), {{"in", region.toStdString()}, {"within", within}});
        const run::Result r = solved(sheet);
        QVERIFY(!r.report.findings.empty());
        const auto& f = r.report.findings.back();
        QVERIFY2(f.met, qPrintable(QString("%1 ± %2").arg(f.value[0]).arg(f.error[0])));
        const double off = m_coverage.take(QTest::currentDataTag(), truth, f.value[0], f.error[0]);
        QVERIFY2(off <= f.error[0] + 1e-9 * truth, qPrintable(QString("%1 %2 %3")
                                                                  .arg(f.value[0], 0, 'g', 9)
                                                                  .arg(truth, 0, 'g', 9)
                                                                  .arg(f.error[0])));
    }
    void highestIsFoundBetweenSamples()
    {
        // A parabola whose summit lies nowhere special.
        const run::Result r = [] {
            Document d = solid();
            d.add("box", {{"name", "slab"},
                          {"width", "10 mm"},
                          {"length", "3 mm"},
                          {"height", "3 mm"},
                          {"at", "0, 0, 0"}});
            d.add("material", {{"material", "copper"}, {"k", "10 W/m/K"}, {"in", "slab"}});
            d.add("heat source", {{"name", "source"}, {"power", "1 W"}, {"in", "slab"}});
            d.add("held temperature",
                  {{"name", "a"}, {"value", "300 K"}, {"on", "on plane x = -5 mm"}});
            d.add("held temperature",
                  {{"name", "b"}, {"value", "307 K"}, {"on", "on plane x = 5 mm"}});
            d.add("highest temperature", {{"in", "slab"}, {"within", "5 %"}});
            return solved(d);
        }();
        // T = 300 + 7 x / l + q x (l - x) / (2 k), highest in the middle of the slab and off it.
        const double l = 10e-3, q = 1 / (l * 9e-6), bow = q * l * l / 20, at = 0.5 + 3.5 / bow;
        const double truth = 300 + 7 * at + bow * at * (1 - at);
        QVERIFY2(std::abs(r.report.findings[0].value[0] - truth) < 1e-5,
                 qPrintable(QString("%1 %2")
                                .arg(r.report.findings[0].value[0], 0, 'g', 9)
                                .arg(truth, 0, 'g', 9)));
    }
    /// Cells as small as these are thin would be millions.
    void longThinRegionsAreMeshed_data()
    {
        QTest::addColumn<Document>("sheet");
        QTest::addColumn<double>("truth");
        Document plane;
        plane.add("space", {{"type", "plane"}, {"depth", "1 m"}});
        plane.add("rectangle", {{"name", "film"}, {"width", "10 m"}, {"height", "10 um"}});
        QTest::newRow("a long film") << plane << 10e-6 / (1e6 * 10);
        Document shifted;
        shifted.add("space", {{"type", "plane"}, {"depth", "1 m"}});
        shifted.add(
            "rectangle",
            {{"name", "other"}, {"width", "10 mm"}, {"height", "10 mm"}, {"at", "1 um, 0"}});
        shifted.add("rectangle", {{"name", "film"}, {"width", "10 mm"}, {"height", "10 mm"}});
        QTest::newRow("squares that nearly coincide") << shifted << 1 / 1e6;
    }
    void longThinRegionsAreMeshed()
    {
        QFETCH(Document, sheet);
        QFETCH(double, truth);
        sheet.add("material", {{"material", "copper"}, {"sigma", "1e6 S/m"}, {"in", "all"}});
        sheet.add("contact", {{"name", "A"}, {"voltage", "1 V"}, {"on", "film.top"}});
        sheet.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "film.bottom"}});
        sheet.add("resistance", {{"from", "A"}, {"to", "B"}, {"within", "1 %"}});
        const run::Result r = solved(sheet);
        QVERIFY(!r.report.findings.empty());
        QVERIFY(std::abs(r.report.findings[0].value[0] / truth - 1) < 2e-4);
        QVERIFY(r.report.passes.front().triangles < 60000);
    }
    void cleanupTestCase()
    {
        QVERIFY(rewriteTable("### Current and heat in solids (`tests/physics/tst_flow_solids`)",
                             m_coverage.rows));
    }

private:
    Coverage m_coverage;
};

YH_TEST(TstFlowSolids)

}  // namespace tst_flow_solids

#include "tst_flow_solids.moc"
