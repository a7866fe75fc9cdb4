// Pulses of sound against travel times and coefficients of reflection.
#include "exact_figures.h"
#include "grid/elastic_grid.h"
#include "sheet/model.h"

#include <omp.h>
#include <cmath>

using namespace yh;
using sheet::Document;
using test::errorOf;
using test::isGood;
using test::isRefused;
using test::solved;
using test::valueOf;

namespace {

/// A channel with smooth walls: waves in it are plane. Its first part is 30 mm long.
Document channel(const char* time, const char* cell = "45 um")
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("rectangle",
          {{"name", "near"}, {"width", "30 mm"}, {"height", "1.2 mm"}, {"at", "15 mm, 0"}});
    d.add("sound run", {{"time", time}, {"cell", cell}});
    d.add("smooth wall", {{"at", "bottom and top"}});
    d.add("sound source", {{"name", "S"},
                           {"frequency", "1 MHz"},
                           {"pressure", "100 Pa"},
                           {"from", "4 mm, -0.6 mm"},
                           {"to", "4 mm, 0.6 mm"},
                           {"taper", "0"}});
    return d;
}
void addFluid(Document& d, const char* in, const char* speed, const char* density)
{
    d.add("material",
          {{"material", "my fluid"}, {"in", in}, {"sound speed", speed}, {"density", density}});
}
Document water(const char* time, const char* cell = "45 um")
{
    Document d = channel(time, cell);
    addFluid(d, "near", "1500 m/s", "1000 kg/m^3");
    return d;
}
Document withFar(const char* time)
{
    Document d = water(time);
    d.add("rectangle",
          {{"name", "far"}, {"width", "12 mm"}, {"height", "1.2 mm"}, {"at", "36 mm, 0"}});
    return d;
}
void addReceiver(Document& d, const char* name, const char* at)
{
    d.add("receiver", {{"name", name}, {"at", at}});
}
Document heard(Document d, const char* at, const char* number = "1")
{
    addReceiver(d, "R", at);
    d.add("arrival", {{"at", "R"}, {"number", number}});
    return d;
}

using Exact = test::ExactFigure;

std::vector<Exact> exactProblems()
{
    std::vector<Exact> list;
    list.push_back({"arrival after 6 mm", heard(water("8 us"), "10 mm, 0"), "arrival", 4e-6});
    list.push_back(
        {"arrival after 15 mm", heard(water("14 us"), "19 mm, 0.2 mm"), "arrival", 15e-3 / 1500});
    list.push_back(
        {"arrival after 24 mm", heard(water("20 us"), "28 mm, -0.4 mm"), "arrival", 24e-3 / 1500});
    list.push_back(
        {"pressure of a plane wave", heard(water("14 us"), "19 mm, 0"), "pressure", 100});
    list.push_back({"backwards", heard(water("6 us"), "1 mm, 0"), "arrival", 3e-3 / 1500});
    {
        Document d = water("20 us");
        addReceiver(d, "A", "8 mm, 0");
        addReceiver(d, "B", "26 mm, 0");
        d.add("speed of a pulse", {{"from", "A"}, {"to", "B"}});
        list.push_back({"speed in a fluid", d, "speed", 1500});
    }
    {
        // Sideways held, a solid carries its fastest wave.
        Document d = channel("7 us", "0.1 mm");
        d.add("material", {{"material", "steel"}, {"in", "near"}});
        addReceiver(d, "A", "8 mm, 0");
        addReceiver(d, "B", "26 mm, 0");
        d.add("speed of a pulse", {{"from", "A"}, {"to", "B"}});
        const double E = 205e9, nu = 0.29;
        list.push_back({"speed in a solid", d, "speed",
                        std::sqrt(E * (1 - nu) / ((1 + nu) * (1 - 2 * nu) * 7850))});
    }
    {
        Document d = withFar("30 us");
        addFluid(d, "far", "1900 m/s", "1260 kg/m^3");
        const double z1 = 1500 * 1000, z2 = 1900 * 1260;
        list.push_back({"back from another fluid", heard(d, "14 mm, 0", "2"), "arrival",
                        (26 + 16) * 1e-3 / 1500});
        list.push_back({"how strong it comes back", heard(d, "14 mm, 0", "2"), "pressure",
                        100 * (z2 - z1) / (z2 + z1)});
        list.push_back(
            {"through into it", heard(d, "38 mm, 0"), "arrival", 26e-3 / 1500 + 8e-3 / 1900});
        list.push_back(
            {"how strong it goes through", heard(d, "38 mm, 0"), "pressure", 200 * z2 / (z2 + z1)});
    }
    {
        Document d = withFar("30 us");
        d.add("material", {{"material", "steel"}, {"in", "far"}});
        const double c = std::sqrt(205e9 * 0.71 / (1.29 * 0.42 * 7850)), z1 = 1.5e6, z2 = 7850 * c;
        list.push_back({"back from steel", heard(d, "14 mm, 0", "2"), "pressure",
                        100 * (z2 - z1) / (z2 + z1)});
    }
    return list;
}

}  // namespace

class TstSound : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void withinStatedError();
    void layersAbsorb();
    void headWave();
    void halfIsWhole();
    void threadsDoNotMatter();
    void sameTwice();
    void badInput_data();
    void badInput();
};

void TstSound::withinStatedError()
{
    test::checkExact(exactProblems(), 0.01, "### Exact problems (`tests/physics/tst_sound`)");
}

void TstSound::layersAbsorb()
{
    // A pulse from a point in a small square: what the edges give back stays below 0.2 %.
    const int n = 120;
    grid::ElasticGrid::Options o{1e-4, 1e6, 20, {}};
    grid::ElasticGrid g(n, n, std::vector<grid::Elastic>(size_t(n) * n), o);
    const auto middle = g.place(n / 2.0, n / 2.0), beside = g.place(n / 2.0 + 20, n / 2.0 + 10);
    float most = 0, late = 0;
    for (int i = 0; i < 900; ++i) {
        g.step();
        const double s = (g.time() - 1.5e-6) * 1e6;
        g.addPressure(middle, float(std::exp(-6 * s * s) * std::sin(6.283 * s)));
        const float p = std::abs(g.pressure(beside));
        most = std::max(most, p);
        if (g.time() > 8e-6)
            late = std::max(late, p);
    }
    QVERIFY2(most > 0 && late < 2e-3F * most, qPrintable(QString::number(late / most)));
}

void TstSound::headWave()
{
    // Along a flat bottom the wave through the solid comes first: Brekhovskikh, Waves in Layered
    // Media, section 28: x / c2 + h (cos of the critical angle) / c1 both ways.
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("rectangle",
          {{"name", "sea"}, {"width", "44 mm"}, {"height", "6 mm"}, {"at", "22 mm, 3 mm"}});
    d.add("rectangle",
          {{"name", "floor"}, {"width", "44 mm"}, {"height", "6 mm"}, {"at", "22 mm, -3 mm"}});
    addFluid(d, "sea", "1500 m/s", "1000 kg/m^3");
    d.add("material", {{"material", "my floor"},
                       {"in", "floor"},
                       {"density", "2000 kg/m^3"},
                       {"sound speed", "3000 m/s"},
                       {"shear speed", "1600 m/s"}});
    d.add("sound run", {{"time", "24 us"}, {"cell", "80 um"}});
    d.add("sound source", {{"name", "S"},
                           {"frequency", "1 MHz"},
                           {"cycles", "2"},
                           {"from", "4 mm, 1.4 mm"},
                           {"to", "4 mm, 1.6 mm"},
                           {"taper", "0"}});
    addReceiver(d, "R", "34 mm, 1.5 mm");
    d.add("arrival", {{"at", "R"}, {"within", "3 %"}});
    const double h = 3e-3, x = 30e-3, t = x / 3000 + h * std::sqrt(1 - 0.25) / 1500,
                 first = valueOf(solved(d), "arrival");
    QVERIFY2(std::abs(first / t - 1) < 0.03, qPrintable(QString("%1, not %2").arg(first).arg(t)));
    QVERIFY(first < 0.75 * x / 1500);
}

void TstSound::halfIsWhole()
{
    double t[2], p[2];
    for (const bool half : {false, true}) {
        Document d;
        d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
        d.add("rectangle", {{"name", "sea"},
                            {"width", "16 mm"},
                            {"height", half ? "6 mm" : "12 mm"},
                            {"at", half ? "8 mm, 3 mm" : "8 mm, 0"}});
        addFluid(d, "sea", "1500 m/s", "1000 kg/m^3");
        d.add("sound run", {{"time", "9 us"}, {"cell", "60 um"}});
        d.add("sound source", {{"name", "S"},
                               {"frequency", "1 MHz"},
                               {"from", half ? "3 mm, 0" : "3 mm, -3 mm"},
                               {"to", "3 mm, 3 mm"},
                               {"taper", "0"}});
        if (half)
            d.add("smooth wall", {{"at", "bottom"}});
        d = heard(d, "12 mm, 1 mm");
        const run::Result r = solved(d);
        t[half] = valueOf(r, "arrival");
        p[half] = valueOf(r, "pressure");
    }
    QVERIFY2(std::abs(t[0] / t[1] - 1) < 1e-3, qPrintable(QString("%1, %2").arg(t[0]).arg(t[1])));
    QVERIFY2(std::abs(p[0] / p[1] - 1) < 5e-3, qPrintable(QString("%1, %2").arg(p[0]).arg(p[1])));
}

void TstSound::threadsDoNotMatter()
{
    std::vector<float> all[2];
    for (const int k : {0, 1}) {
        omp_set_num_threads(k == 0 ? 1 : 2);
        std::vector<grid::Elastic> cells(90 * 70);
        for (size_t i = 0; i < cells.size(); ++i)
            if (i % 90 > 50)
                cells[i] = {2700, 5e10, 2.6e10};
        grid::ElasticGrid g(90, 70, cells, {1e-4, 1e6, 12, {}});
        for (int i = 0; i < 200; ++i) {
            g.step();
            g.addPressure(g.place(30, 33), float(std::sin(0.1 * i)));
        }
        g.pressures(1, all[k]);
    }
    QVERIFY(all[0] == all[1]);
}

void TstSound::sameTwice()
{
    const Document d = heard(water("8 us", "80 um"), "10 mm, 0");
    const run::Result a = solved(d), b = solved(d);
    QCOMPARE(a.report.findings[0].value, b.report.findings[0].value);
    QCOMPARE(a.report.findings[0].error, b.report.findings[0].error);
}

void TstSound::badInput_data()
{
    QTest::addColumn<int>("fault");
    QTest::addColumn<QString>("kind");
    QTest::addColumn<QString>("slot");
    QTest::addColumn<QString>("value");
    QTest::newRow("too few cells") << 7808 << "sound run"
                                   << "cell"
                                   << "0.5 mm";
    QTest::newRow("hours") << 7809 << "sound run"
                           << "cell"
                           << "200 nm";
    QTest::newRow("no run") << 2341 << "sound run"
                            << ""
                            << "";
    QTest::newRow("no source") << 2342 << "sound source"
                               << ""
                               << "";
    QTest::newRow("a point") << 7805 << "sound source"
                             << "to"
                             << "4 mm, -0.6 mm";
    QTest::newRow("outside") << 7810 << "receiver"
                             << "at"
                             << "90 mm, 0";
    QTest::newRow("half a cycle") << 7807 << "sound source"
                                  << "cycles"
                                  << "0.5";
    QTest::newRow("all taper") << 7806 << "sound source"
                               << "taper"
                               << "80 %";
    QTest::newRow("no density") << 7800 << "material"
                                << "density"
                                << "";
    QTest::newRow("no speed") << 7801 << "material"
                              << "sound speed"
                              << "";
    QTest::newRow("shear too fast") << 7802 << "material"
                                    << "shear speed"
                                    << "1400 m/s";
    QTest::newRow("no axis") << 2340 << "space"
                             << "type"
                             << "axisymmetric";
}

void TstSound::badInput()
{
    QFETCH(int, fault);
    QFETCH(QString, kind);
    QFETCH(QString, slot);
    QFETCH(QString, value);
    QVERIFY(isRefused(test::changed(heard(water("8 us"), "10 mm, 0"), kind, slot, value), fault));
}

QTEST_GUILESS_MAIN(TstSound)
#include "tst_sound.moc"
