// Powers of the whole device, whatever part of it is modelled: by port, wire, dipole, plane wave.
#include "program.h"
#include "solved.h"
#include "waves.h"

#include <QFile>
#include <QTemporaryDir>
#include <complex>

namespace tst_powers {

using namespace yh;
using sheet::Document;
using test::c0;
using test::eta;
using test::mm;
using test::number;
using test::pi;
using test::solved;
using test::valueOf;
using Complex = std::complex<double>;

namespace {

using Planes = std::vector<std::pair<const char*, const char*>>;  ///< place and kind

void addPlanes(Document& d, const Planes& planes)
{
    for (const auto& [at, kind] : planes)
        d.add("mirror plane", {{"at", at}, {"kind", kind}});
}

/// Share of a wave's power that a slab across a line takes, from the impedance and the phase of a
/// section of it. Collin, Field Theory of Guided Waves, section 6.1 (from memory).
/// @param cutOff  wave number at cut-off, 1/m; 0: TEM
double takenBySlab(double f, double cutOff, Complex eps, double thick)
{
    const double k = 2 * pi * f / c0, b0 = std::sqrt(k * k - cutOff * cutOff);
    const Complex b1 = std::sqrt(k * k * eps - cutOff * cutOff), z = b0 / b1,
                  g = (z - 1.0) / (z + 1.0), p = std::exp(Complex(0, -1) * b1 * thick),
                  below = 1.0 - g * g * p * p;
    return 1 - std::norm(g * (1.0 - p * p) / below) - std::norm(p * (1.0 - g * g) / below);
}

constexpr double density = 900, epsSlab = 3, tanDelta = 0.2;

/// What is asked of a slab that port A lets a wave into.
void addSlabAsks(Document& d, const std::string& f)
{
    d.add("material", {{"material", "plastic"},
                       {"in", "slab"},
                       {"eps", number(epsSlab)},
                       {"loss", number(tanDelta)},
                       {"density", number(density) + " kg/m^3"}});
    d.add("absorbed power", {{"in", "slab"}, {"from", "A"}, {"at", f}, {"within", "0.5 %"}});
    d.add("specific absorption rate",
          {{"in", "slab"}, {"from", "A"}, {"at", f}, {"within", "0.5 %"}});
}

}  // namespace

class TstPowers : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void guide_data()
    {
        QTest::addColumn<Planes>("planes");
        QTest::newRow("whole") << Planes{};
        QTest::newRow("half, even") << Planes{{"x = 0", "even"}};
        if (qEnvironmentVariableIsSet("YH_VALIDATE"))
            QTest::newRow("half, odd") << Planes{{"y = 0", "odd"}};
        QTest::newRow("quarter") << Planes{{"x = 0", "even"}, {"y = 0", "odd"}};
    }
    /// One watt of TE10 into a guide with a lossy slab across it.
    void guide()
    {
        QFETCH(Planes, planes);
        Document d;
        d.add("space", {{"type", "solid"}});
        const std::string wide = "22.86 mm", high = "10.16 mm";
        d.add("box", {{"name", "pipe"}, {"width", wide}, {"length", high}, {"height", "30 mm"}});
        d.add("box", {{"name", "slab"},
                      {"width", wide},
                      {"length", high},
                      {"height", "6 mm"},
                      {"at", "0, 0, 12 mm"}});
        d.add("material", {{"material", "vacuum"}, {"in", "pipe"}});
        d.add("port", {{"name", "A"}, {"on", "pipe.bottom"}});
        d.add("port", {{"name", "B"}, {"on", "pipe.top"}});
        d.add("band", {{"from", "9 GHz"}, {"to", "11 GHz"}, {"points", "11"}});
        addPlanes(d, planes);
        addSlabAsks(d, "10 GHz");
        const auto r = solved(d);
        const double lost = takenBySlab(10e9, pi / 0.02286, Complex(epsSlab, -epsSlab * tanDelta),
                                        6e-3),
                     mass = density * 0.02286 * 0.01016 * 6e-3;
        QVERIFY(std::abs(valueOf(r, "power absorbed") / lost - 1) < 5e-3);
        QVERIFY(std::abs(valueOf(r, "specific absorption") * mass / lost - 1) < 5e-3);
    }
    void coaxial_data()
    {
        QTest::addColumn<QString>("angle");
        if (qEnvironmentVariableIsSet("YH_VALIDATE"))
            QTest::newRow("half") << "180 deg";
        QTest::newRow("quarter") << "90 deg";
        QTest::newRow("twelfth") << "30 deg";
    }
    /// The same for a coaxial line, of which a wedge is modelled.
    void coaxial()
    {
        QFETCH(QString, angle);
        Document d;
        d.add("space", {{"type", "solid"}});
        d.add("cylinder", {{"name", "tube"}, {"radius", "7 mm"}, {"height", "30 mm"}});
        d.add("cylinder",
              {{"name", "slab"}, {"radius", "7 mm"}, {"height", "6 mm"}, {"at", "0, 0, 12 mm"}});
        d.add("cylinder", {{"name", "pin"}, {"radius", "3 mm"}, {"height", "30 mm"}});
        d.add("material", {{"material", "vacuum"}, {"in", "tube"}});
        d.add("material", {{"material", "copper"}, {"in", "pin"}});
        d.add("port", {{"name", "A"}, {"on", "tube.bottom but not pin.bottom"}});
        d.add("port", {{"name", "B"}, {"on", "tube.top but not pin.top"}});
        d.add("band", {{"from", "3 GHz"}, {"to", "4 GHz"}, {"points", "11"}});
        d.add("wedge symmetry", {{"angle", angle.toStdString()}});
        addSlabAsks(d, "3.5 GHz");
        const auto r = solved(d);
        const double lost = takenBySlab(3.5e9, 0, Complex(epsSlab, -epsSlab * tanDelta), 6e-3);
        QVERIFY2(std::abs(valueOf(r, "power absorbed") / lost - 1) < 5e-3,
                 qPrintable(QString::number(valueOf(r, "power absorbed") / lost)));
    }
    void plates_data()
    {
        QTest::addColumn<bool>("half");
        QTest::newRow("whole") << false;
        QTest::newRow("half") << true;
    }
    /// A line between plates, drawn 20 mm deep: what its line states goes into all of its depth.
    void plates()
    {
        QFETCH(bool, half);
        Document d;
        d.add("space", {{"type", "plane"}, {"depth", "20 mm"}});
        d.add("rectangle",
              {{"name", "line"}, {"width", "4 mm"}, {"height", "40 mm"}, {"at", "0, 20 mm"}});
        d.add("rectangle",
              {{"name", "slab"}, {"width", "4 mm"}, {"height", "6 mm"}, {"at", "0, 20 mm"}});
        d.add("material", {{"material", "vacuum"}, {"in", "line"}});
        d.add("port", {{"name", "A"}, {"on", "line.bottom"}, {"power", "3 W"}});
        d.add("port", {{"name", "B"}, {"on", "line.top"}});
        d.add("band", {{"from", "3 GHz"}, {"to", "4 GHz"}, {"points", "11"}});
        if (half)
            addPlanes(d, {{"x = 0", "odd"}});
        addSlabAsks(d, "3.5 GHz");
        const auto r = solved(d);
        const double lost = 3 * takenBySlab(3.5e9, 0, Complex(epsSlab, -epsSlab * tanDelta), 6e-3);
        QVERIFY(std::abs(valueOf(r, "power absorbed") / lost - 1) < 2e-3);
        QVERIFY(std::abs(valueOf(r, "specific absorption") * density * 0.02 * 0.004 * 0.006 / lost -
                         1) < 2e-3);
    }
    void wire_data()
    {
        QTest::addColumn<Planes>("planes");
        QTest::newRow("quarter") << Planes{{"x = 0", "even"}, {"y = 0", "even"}};
        if (qEnvironmentVariableIsSet("YH_VALIDATE"))
            QTest::newRow("quarter across") << Planes{{"x = 0", "even"}, {"z = 0", "odd"}};
        QTest::newRow("eighth") << Planes{{"x = 0", "even"}, {"y = 0", "even"}, {"z = 0", "odd"}};
    }
    /// A wire without loss radiates what its port does not send back of one watt.
    void wire()
    {
        QFETCH(Planes, planes);
        Document d;
        d.add("space", {{"type", "solid"}});
        d.add("wire",
              {{"name", "rod"}, {"radius", "2 mm"}, {"points", "0, 0, -240 mm; 0, 0, 240 mm"}});
        d.add("band", {{"from", "280 MHz"}, {"to", "300 MHz"}, {"points", "11"}});
        d.add("gap feed",
              {{"name", "A"}, {"in", "rod"}, {"at", "0, 0, 0"}, {"resistance", "73 ohm"}});
        d.add("open space", {});
        addPlanes(d, planes);
        d.add("scattering", {{"from", "A"}, {"to", "A"}, {"at", "290 MHz"}, {"within", "10 %"}});
        d.add("radiated power", {{"of", "A"}, {"at", "290 MHz"}, {"within", "2 %"}});
        d.add("limits", {{"passes", "2"}});
        const auto r = solved(d);
        const double S = valueOf(r, "|S| A to A");
        QVERIFY(S < 0.3);
        QVERIFY(std::abs(valueOf(r, "radiated power") / (1 - S * S) - 1) < 1e-3);
    }
    void dipole_data()
    {
        QTest::addColumn<Planes>("planes");
        QTest::newRow("half") << Planes{{"x = 0", "even"}};
        QTest::newRow("eighth") << Planes{{"x = 0", "even"}, {"y = 0", "even"}, {"z = 0", "odd"}};
    }
    /// A current element alone: eta (k m)^2 / (12 pi). Jackson, section 9.2 (from memory).
    void dipole()
    {
        QFETCH(Planes, planes);
        Document d;
        d.add("space", {{"type", "solid"}});
        d.add("sphere", {{"name", "room"}, {"radius", "20 mm"}});
        d.add("material", {{"material", "vacuum"}, {"in", "room"}});
        d.add("point dipole",
              {{"name", "D"}, {"at", "0, 0, 0"}, {"along", "z"}, {"moment", "1 mA*m"}});
        d.add("band", {{"from", "1 GHz"}, {"to", "1.1 GHz"}, {"points", "3"}});
        d.add("open space", {});
        addPlanes(d, planes);
        d.add("radiated power", {{"of", "D"}, {"at", "1 GHz"}, {"within", "2 %"}});
        const double k = 2 * pi * 1e9 / c0, exact = eta * k * k * 1e-6 / (12 * pi);
        QVERIFY(std::abs(valueOf(solved(d), "radiated power") / exact - 1) < 1e-2);
    }
    void planeWave_data()
    {
        QTest::addColumn<Planes>("planes");
        if (qEnvironmentVariableIsSet("YH_VALIDATE"))
            QTest::newRow("half, even") << Planes{{"y = 0", "even"}};
        QTest::newRow("quarter") << Planes{{"x = 0", "odd"}, {"y = 0", "even"}};
    }
    /// What a lossy ball takes: cross-section times the flux of the wave; by mass the same.
    void planeWave()
    {
        QFETCH(Planes, planes);
        Document d;
        d.add("space", {{"type", "solid"}});
        d.add("sphere", {{"name", "ball"}, {"radius", "20 mm"}});
        d.add("material", {{"material", "gel"},
                           {"in", "ball"},
                           {"eps", "4"},
                           {"loss", "0.3"},
                           {"density", "1000 kg/m^3"}});
        d.add("plane wave", {{"name", "W"}, {"towards", "z"}, {"E", "x"}});
        d.add("band", {{"from", "1.5 GHz"}, {"to", "1.6 GHz"}, {"points", "3"}});
        d.add("open space", {});
        addPlanes(d, planes);
        d.add("cross-section",
              {{"of", "W"}, {"at", "1.5 GHz"}, {"kind", "absorption"}, {"within", "2 %"}});
        d.add("absorbed power",
              {{"in", "ball"}, {"from", "W"}, {"at", "1.5 GHz"}, {"within", "2 %"}});
        d.add("specific absorption rate",
              {{"in", "ball"}, {"from", "W"}, {"at", "1.5 GHz"}, {"within", "2 %"}});
        const auto r = solved(d);
        const double P = valueOf(r, "absorption cross-section") / (2 * eta),
                     mass = 1000 * 4 * pi / 3 * std::pow(0.02, 3);
        QVERIFY(std::abs(valueOf(r, "power absorbed") / P - 1) < 2e-2);
        QVERIFY(std::abs(valueOf(r, "specific absorption") * mass / P - 1) < 2e-2);
    }
    /// A port and its image behind a plane each drive one watt, and each takes its own part of a
    /// wave that comes in.
    void portWithImage()
    {
        Document d;
        d.add("space", {{"type", "solid"}});
        d.add("box", {{"name", "pipe"},
                      {"width", "22.86 mm"},
                      {"length", "10.16 mm"},
                      {"height", "30 mm"},
                      {"at", "0, 0, -15 mm"}});
        d.add("box", {{"name", "slab"},
                      {"width", "22.86 mm"},
                      {"length", "10.16 mm"},
                      {"height", "6 mm"},
                      {"at", "0, 0, -3 mm"}});
        d.add("material", {{"material", "vacuum"}, {"in", "pipe"}});
        d.add("port", {{"name", "A"}, {"on", "pipe.top"}});
        d.add("band", {{"from", "9 GHz"}, {"to", "11 GHz"}, {"points", "11"}});
        addPlanes(d, {{"z = 0", "even"}, {"y = 0", "odd"}});
        addSlabAsks(d, "10 GHz");
        d.add("scattering", {{"from", "A"}, {"to", "A"}, {"at", "10 GHz"}});
        const auto r = solved(d);
        const double S = valueOf(r, "|S| A to A");
        QVERIFY(std::abs(valueOf(r, "power absorbed") / (2 * (1 - S * S)) - 1) < 2e-3);
    }
    void storedEnergy_data()
    {
        QTest::addColumn<QString>("stated");
        QTest::addColumn<double>("joule");
        QTest::newRow("by itself") << "" << 1e-3;
        QTest::newRow("stated") << "4 mJ" << 4e-3;
    }
    /// The field of the lowest mode of a box is eps0 E² V / 8 large, a quarter of it modelled.
    /// Pozar, Microwave Engineering, section 6.3 (from memory).
    void storedEnergy()
    {
        QFETCH(QString, stated);
        QFETCH(double, joule);
        Document d;
        d.add("space", {{"type", "solid"}});
        d.add("box", {{"name", "b"}, {"width", "60 mm"}, {"length", "20 mm"}, {"height", "80 mm"}});
        d.add("material", {{"material", "vacuum"}, {"in", "b"}});
        d.add("modes", {{"count", "1"}, {"stored", stated.toStdString()}});
        addPlanes(d, {{"x = 0", "even"}, {"y = 0", "odd"}});
        d.add("profile", {{"from", "0, 1 mm, 40 mm"}, {"to", "0, 2 mm, 40 mm"}, {"count", "2"}});
        run::Settings settings;
        QTemporaryDir folder;
        settings.out = folder.filePath("r").toStdString();
        base::Progress progress;
        run::Outcome outcome{};
        const run::Result r = run::solve(d, settings, progress, outcome);
        QCOMPARE(outcome, run::Outcome::met);
        QFile file(folder.filePath("r/" + QString::fromStdString(r.report.findings[0].table)));
        QVERIFY(file.open(QIODevice::ReadOnly));
        const QStringList rows = QString::fromUtf8(file.readAll()).split('\n');
        const auto column = rows[0].split(',').indexOf("|E| (V/m)");
        QVERIFY(column > 0);
        const double E = rows[1].split(',')[column].toDouble(), eps0 = 8.8541878128e-12,
                     exact = std::sqrt(8 * joule / (eps0 * 0.06 * 0.02 * 0.08));
        QVERIFY2(std::abs(E / exact - 1) < 1e-3, qPrintable(QString::number(E / exact)));
    }
};

YH_TEST(TstPowers)

}  // namespace tst_powers

#include "tst_powers.moc"
