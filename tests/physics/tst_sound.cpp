// Pulses of sound against travel times and coefficients of reflection.
#include "exact_figures.h"
#include "grid/elastic_grid.h"
#include "program.h"
#include "sheet/model.h"

#include <omp.h>
#include <cmath>
#include <complex>

namespace tst_sound {

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

/// Round an axis: a cylinder about it, from z = 0 on.
Document cylinder(const char* radius, const char* length, const char* time, const char* cell)
{
    Document d;
    d.add("space", {{"type", "axisymmetric"}});
    d.add("parameter", {{"name", "a"}, {"value", radius}});
    d.add("parameter", {{"name", "l"}, {"value", length}});
    d.add("rectangle", {{"name", "near"}, {"width", "a"}, {"height", "l"}, {"at", "a / 2, l / 2"}});
    d.add("sound run", {{"time", time}, {"cell", cell}});
    return d;
}
void addSource(Document& d, const char* from, const char* to, const char* frequency = "1 MHz",
               const char* cycles = "3")
{
    d.add("sound source", {{"name", "S"},
                           {"frequency", frequency},
                           {"cycles", cycles},
                           {"pressure", "100 Pa"},
                           {"from", from},
                           {"to", to},
                           {"taper", "0"}});
}
/// A tube with a rigid wall, in which waves are plane, with a second fluid from 20 mm on.
Document tube()
{
    Document d = cylinder("1.5 mm", "20 mm", "22 us", "60 um");
    d.add("smooth wall", {{"at", "right"}});
    addSource(d, "0, 4 mm", "a, 4 mm");
    addFluid(d, "near", "1500 m/s", "1000 kg/m^3");
    d.add("rectangle",
          {{"name", "far"}, {"width", "a"}, {"height", "9 mm"}, {"at", "a / 2, l + 4.5 mm"}});
    addFluid(d, "far", "1900 m/s", "1260 kg/m^3");
    return d;
}
/// A disc that sends into open water on the axis of which one listens.
Document piston()
{
    Document d = cylinder("9 mm", "8 mm", "8 us", "40 um");
    addFluid(d, "near", "1500 m/s", "1000 kg/m^3");
    addSource(d, "0, 1 mm", "7 mm, 1 mm", "2 MHz", "2");
    return d;
}
/// A tube that sends inwards and outwards, as long as one likes.
Document ring()
{
    Document d = cylinder("18 mm", "1.2 mm", "17 us", "60 um");
    addFluid(d, "near", "1500 m/s", "1000 kg/m^3");
    d.add("smooth wall", {{"at", "bottom and top"}});
    addSource(d, "6 mm, 0", "6 mm, l");
    return d;
}

/// The largest value of a pulse of 3 cycles of 1 MHz and 100 Pa that spreads from a tube of 6 mm,
/// heard at a distance from the axis, behind a filter of its own shape, in a window of time (s).
/// The wave of one frequency is pi k a J0(k r<) H0(k r>): Morse and Ingard, Theoretical Acoustics,
/// section 7.3.
double cylinderWave(double r, double from, double to)
{
    const double c = 1500, a = 6e-3, f0 = 1e6, w0 = 2 * M_PI * f0,
                 width = 3 / (2.3548200450309493 * f0), low = std::min(a, r), high = std::max(a, r);
    constexpr int waves = 400;
    double most = 0;
    for (double t = from; t < to; t += 5e-9) {
        // The envelope behind the filter is what the spectrum, times the filter, says about w0.
        std::complex<double> sum = 0;
        const double reach = 7 / width, step = 2 * reach / waves;
        for (int i = 0; i <= waves; ++i) {
            const double v = -reach + i * step, k = (w0 + v) / c;
            const std::complex<double> wave =
                M_PI * k * a * std::cyl_bessel_j(0, k * low) *
                std::complex(std::cyl_bessel_j(0, k * high), -std::cyl_neumann(0, k * high));
            sum += std::exp(-v * v * width * width) * wave * std::polar(step, v * t);
        }
        most = std::max(most, 100 * std::abs(sum) * width / std::sqrt(M_PI));
    }
    return most;
}

std::vector<Exact> roundAnAxis()
{
    std::vector<Exact> list;
    Document d = tube();
    addReceiver(d, "R", "1 mm, 12 mm");
    addReceiver(d, "T", "0.4 mm, 24 mm");
    for (const char* number : {"1", "2"})
        d.add("arrival", {{"at", "R"}, {"number", number}});
    d.add("arrival", {{"at", "T"}});
    const double z1 = 1500 * 1000, z2 = 1900 * 1260;
    list.push_back({"tube: arrival after 8 mm", d, "arrival at R", 8e-3 / 1500});
    list.push_back({"tube: back from another fluid", d, "arrival at R, number 2", 24e-3 / 1500});
    list.push_back({"tube: how strong it comes back", d, "pressure of the arrival at R, number 2",
                    100 * (z2 - z1) / (z2 + z1)});
    list.push_back({"tube: through into it", d, "arrival at T", 16e-3 / 1500 + 4e-3 / 1900});
    list.push_back({"tube: how strong it goes through", d, "pressure of the arrival at T",
                    200 * z2 / (z2 + z1)});
    // On the axis of a disc comes the wave from its middle, then that of its edge, each as strong
    // as at the disc: Stepanishen, J. Acoust. Soc. Am. 49 (1971) 1629.
    d = piston();
    addReceiver(d, "R", "0, 5 mm");
    for (const char* number : {"1", "2"})
        d.add("arrival", {{"at", "R"}, {"number", number}});
    list.push_back({"disc: its middle", d, "arrival at R", 4e-3 / 1500});
    list.push_back({"disc: its edge", d, "arrival at R, number 2", std::hypot(4e-3, 7e-3) / 1500});
    list.push_back({"disc: pressure of its middle", d, "pressure of the arrival at R", 100});
    list.push_back(
        {"disc: pressure of its edge", d, "pressure of the arrival at R, number 2", 100});
    d = ring();
    addReceiver(d, "I", "0.8 mm, 0.5 mm");
    addReceiver(d, "O", "15 mm, 0.5 mm");
    for (const char* number : {"1", "2"})
        d.add("arrival", {{"at", "O"}, {"number", number}});
    d.add("arrival", {{"at", "I"}});
    list.push_back(
        {"cylinder: outwards", d, "pressure of the arrival at O", cylinderWave(15e-3, 4e-6, 8e-6)});
    list.push_back({"cylinder: through its axis", d, "pressure of the arrival at O, number 2",
                    cylinderWave(15e-3, 12e-6, 16e-6)});
    list.push_back({"cylinder: near its axis", d, "pressure of the arrival at I",
                    cylinderWave(0.8e-3, 2e-6, 6e-6)});
    {
        // Sideways held, a solid carries its fastest wave.
        Document s = cylinder("1.2 mm", "30 mm", "7 us", "0.1 mm");
        s.add("smooth wall", {{"at", "right"}});
        s.add("material", {{"material", "steel"}, {"in", "near"}});
        addSource(s, "0, 4 mm", "a, 4 mm");
        addReceiver(s, "A", "0.5 mm, 8 mm");
        addReceiver(s, "B", "0.5 mm, 26 mm");
        s.add("speed of a pulse", {{"from", "A"}, {"to", "B"}});
        list.push_back(
            {"speed in a held solid", s, "speed", std::sqrt(205e9 * 0.71 / (1.29 * 0.42 * 7850))});
    }
    return list;
}

}  // namespace

class TstSound : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void withinStatedError();
    void roundAnAxisWithinStatedError();
    void slenderRod();
    void layersAbsorb();
    void staysBounded();
    void sourcesOnTheAxis();
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

void TstSound::roundAnAxisWithinStatedError()
{
    test::checkExact(roundAnAxis(), 0.02,
                     "### Exact problems round an axis (`tests/physics/tst_sound`)");
}

void TstSound::slenderRod()
{
    // In a light gas a rod carries waves more slowly than a held one; a pulse of 200 kHz by Love's
    // correction for motion sideways, which is good for waves far longer than the radius: Graff,
    // Wave Motion in Elastic Solids, section 8.2. A plate in the same gas is a little faster.
    const double nu = 0.25, bar = 5000;
    for (const bool isRod : {true, false}) {
        Document d = cylinder("1 mm", "240 mm", "24 us", "0.2 mm");
        if (!isRod)
            d = test::changed(d, "space", "type", "plane");
        d.add("material", {{"material", "my metal"},
                           {"in", "near"},
                           {"density", "3000 kg/m^3"},
                           {"E", "75 GPa"},
                           {"nu", "0.25"}});
        d.add("rectangle",
              {{"name", "gas"}, {"width", "2.4 mm"}, {"height", "l"}, {"at", "a + 1.2 mm, l / 2"}});
        addFluid(d, "gas", "1500 m/s", "1 kg/m^3");
        d.add("smooth wall", {{"at", isRod ? "right" : "left and right"}});
        addSource(d, "0, 80 mm", "a, 80 mm", "200 kHz", "2");
        addReceiver(d, "A", "0, 110 mm");
        addReceiver(d, "B", "0, 170 mm");
        d.add("speed of a pulse", {{"from", "A"}, {"to", "B"}});
        const double c = isRod ? bar : bar / std::sqrt(1 - nu * nu), k = 2 * M_PI * 200e3 / c,
                     sideways = isRod ? nu * nu / 2 : nu * nu / ((1 - nu) * (1 - nu)) / 3,
                     truth = c * std::pow(1 + sideways * 1e-6 * k * k, -1.5),
                     found = valueOf(solved(d), "speed");
        QVERIFY2(std::abs(found / truth - 1) < 3e-3,
                 qPrintable(QString("%1, not %2").arg(found).arg(truth)));
    }
}

void TstSound::staysBounded()
{
    // A closed box of water, gel and metal about an axis, kicked once, for a long time: energy
    // neither grows nor is lost by much.
    const int n = 40;
    std::vector<grid::Elastic> cells(size_t(n) * n);
    for (int j = 0; j < n; ++j)
        for (int i = 0; i < n; ++i)
            if (j > 25)
                cells[size_t(j) * n + size_t(i)] = {2700, 5e10, 2.6e10};
            else if (i < 12 && j > 8)
                cells[size_t(j) * n + size_t(i)] = {1100, 2.3e9, 2e8};
    grid::ElasticGrid::Options o{1e-4, 1e6, 0, {}, true};
    o.edge.fill(grid::Edge::mirror);
    grid::ElasticGrid g(n, n, cells, o);
    g.addPressure(g.place(3, 12), 1);
    auto loudness = [&](int steps) {
        std::vector<float> p;
        double sum = 0;
        for (int i = 0; i < steps; ++i) {
            g.step();
            if (i % 40 != 0)
                continue;
            g.pressures(1, p);
            for (const float v : p)
                sum += double(v) * double(v);
        }
        return sum;
    };
    const double early = loudness(4000);
    loudness(32000);
    const double late = loudness(4000);
    QVERIFY2(late > 0.3 * early && late < 3 * early,
             qPrintable(QString("%1, then %2").arg(early).arg(late)));
}

void TstSound::sourcesOnTheAxis()
{
    // A disc swells at its edge alone; a line on the axis sends nothing.
    Document d = heard(piston(), "0, 5 mm");
    const Document tapered = test::changed(d, "sound source", "taper", "30 %");
    QVERIFY(std::abs(valueOf(solved(tapered), "pressure") - 100) < 2);
    QVERIFY(isRefused(test::changed(d, "sound source", "to", "0, 6 mm"), 7825));
    QVERIFY(isRefused(test::changed(d, "rectangle", "at", "a, l / 2"), 7824));
    d.add("smooth wall", {{"at", "left"}});
    QVERIFY(isRefused(d, 7823));
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
    QTest::newRow("no solids") << 2340 << "space"
                               << "type"
                               << "solid";
}

void TstSound::badInput()
{
    QFETCH(int, fault);
    QFETCH(QString, kind);
    QFETCH(QString, slot);
    QFETCH(QString, value);
    QVERIFY(isRefused(test::changed(heard(water("8 us"), "10 mm, 0"), kind, slot, value), fault));
}

YH_TEST(TstSound)

}  // namespace tst_sound

#include "tst_sound.moc"
