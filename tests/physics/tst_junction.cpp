// Junctions of semiconductors against closed forms.
#include "exact_figures.h"
#include "junctions.h"
#include "physics/junction/junction.h"
#include "program.h"
#include "sheet/model.h"

#include <QFile>
#include <QTemporaryDir>
#include <cmath>

namespace tst_junction {

using namespace yh;
using sheet::Document;
using test::errorOf;
using test::isGood;
using test::isRefused;
using test::solved;
using test::valueOf;

namespace {

constexpr double q = test::charge, eps = test::siliconEps, ni = test::intrinsic;
constexpr double Na = test::acceptors, Nd = test::donors, area = 1e-6;
const auto thermal = [](double T = 300) { return test::thermalVoltage(T); };
const auto builtIn = test::builtInVoltage;
const auto widths = test::depletionWidths;

/// An area of 1 mm^2, the bias on the left, an intrinsic density of 1e10 /cm^3.
Document device(const char* from = "0 V", const char* to = "0.6 V", const char* steps = "4",
                const char* temperature = "300 K", const char* material = "silicon",
                const char* own = "1e10 /cm^3")
{
    Document d;
    std::map<std::string, std::string> s = {{"material", material}, {"temperature", temperature}};
    if (*own)
        s["ni"] = own;
    d.add("semiconductor", s);
    d.add("device area", {{"value", "1 mm^2"}});
    d.add("bias", {{"end", "left"}, {"from", from}, {"to", to}, {"steps", steps}});
    d.add("recombination", {{"of", "traps only"}});
    return d;
}
void addLayer(Document& d, const char* name, const char* thickness, const char* type,
              const char* doping, std::map<std::string, std::string> more = {})
{
    more.insert({{"name", name},
                 {"thickness", thickness},
                 {type, doping},
                 {"electron mobility", "1000 cm^2/V/s"},
                 {"hole mobility", "400 cm^2/V/s"}});
    d.add("semiconductor layer", more);
}
/// 1e17 /cm^3 acceptors at the left, 1e16 /cm^3 donors at the right.
Document diode(const char* left = "4 um", const char* right = "20 um", const char* life = "")
{
    Document d = device();
    std::map<std::string, std::string> more;
    if (*life)
        more["electron life"] = life;
    addLayer(d, "p", left, "acceptors", "1e17 /cm^3", more);
    addLayer(d, "n", right, "donors", "1e16 /cm^3", more);
    return d;
}
void askCurrent(Document& d, const char* at)
{
    d.add("junction current", {{"at", at}, {"within", "0.1 %"}});
}
using Exact = test::ExactFigure;

std::vector<Exact> exactProblems()
{
    std::vector<Exact> list;
    auto builtInOf = [&](const char* name, const char* acceptors, double a, const char* donors,
                         double d, const char* T, double kelvin, const char* n, double intrinsic) {
        Document s = device("0 V", "0.1 V", "2", T, "silicon", n);
        addLayer(s, "p", "3 um", "acceptors", acceptors);
        addLayer(s, "n", "3 um", "donors", donors);
        s.add("built-in voltage", {});
        list.push_back({name, s, "built-in voltage",
                        thermal(kelvin) *
                            (std::asinh(a / (2 * intrinsic)) + std::asinh(d / (2 * intrinsic)))});
    };
    builtInOf("built-in voltage, steep", "1e17 /cm^3", 1e23, "1e16 /cm^3", 1e22, "300 K", 300,
              "1e10 /cm^3", 1e16);
    builtInOf("built-in voltage, light", "1e13 /cm^3", 1e19, "1e14 /cm^3", 1e20, "300 K", 300,
              "1e10 /cm^3", 1e16);
    builtInOf("built-in voltage, heavy", "1e19 /cm^3", 1e25, "1e18 /cm^3", 1e24, "300 K", 300,
              "1e10 /cm^3", 1e16);
    builtInOf("built-in voltage, hot", "1e15 /cm^3", 1e21, "1e15 /cm^3", 1e21, "450 K", 450,
              "5e13 /cm^3", 5e19);
    builtInOf("built-in voltage, nearly intrinsic", "1e11 /cm^3", 1e17, "1e11 /cm^3", 1e17, "300 K",
              300, "1e10 /cm^3", 1e16);
    builtInOf("built-in voltage, cold", "1e16 /cm^3", 1e22, "1e16 /cm^3", 1e22, "200 K", 200,
              "6e4 /cm^3", 6e10);
    auto bar = [&](const char* name, const char* type, const char* doping, double n, double p,
                   const char* length, double metres, const char* at, double volts) {
        Document s = device("-1 V", "1 V", "3");
        addLayer(s, "bar", length, type, doping);
        askCurrent(s, at);
        list.push_back({name, s, "current", q * (n * 0.1 + p * 0.04) * area * volts / metres});
    };
    bar("bar of n", "donors", "1e15 /cm^3", 1e21 + 1e11, 1e11, "100 um", 100e-6, "0.4 V", 0.4);
    bar("bar of p, backwards", "acceptors", "3e16 /cm^3", 1e32 / 3e22, 3e22, "40 um", 40e-6, "-1 V",
        -1);
    bar("long bar", "donors", "2e14 /cm^3", 2e20 + 5e11, 5e11, "1 mm", 1e-3, "5 mV", 5e-3);
    {
        const double n = 0.5e16 + std::sqrt(0.25e32 + 1e32);
        bar("nearly intrinsic bar", "donors", "1e10 /cm^3", n, 1e32 / n, "10 um", 10e-6, "1 mV",
            1e-3);
    }
    return list;
}

}  // namespace

class TstJunction : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void withinStatedError();
    void shortDiode();
    void longDiode();
    void slopeOfAnIdealDiode();
    void trapsMakeTwo();
    void leakage();
    void dopingByCapacitance();
    void strongInjection();
    void litCell();
    void gridsConverge();
    void turnedRound();
    void radiativeAndAuger();
    void sameTwice();
    void badInput_data();
    void badInput();
};

void TstJunction::withinStatedError()
{
    test::checkExact(exactProblems(), 1e-6, "### Exact problems (`tests/physics/tst_junction`)");
}

void TstJunction::shortDiode()
{
    // Shockley's law between near contacts: Sze and Ng, section 2.3.
    Document d = diode("2 um", "5 um");
    askCurrent(d, "0.45 V");
    const double J = test::shortDiodeDensity(0.45, 2e-6, 5e-6);
    const run::Result r = solved(d);
    QVERIFY2(std::abs(valueOf(r, "current") / (J * area) - 1) < 0.01,
             qPrintable(QString("%1, not %2").arg(valueOf(r, "current")).arg(J * area)));
    QVERIFY(isGood(r, "current continuity"));
}

void TstJunction::longDiode()
{
    // Minorities that live a while: coth of the neutral width over the diffusion length.
    Document d = diode("150 um", "300 um", "5 us");
    askCurrent(d, "0.5 V");
    const auto [wp, wn] = widths(0.5);
    const double Dn = 0.1 * thermal(), Dp = 0.04 * thermal(), Ln = std::sqrt(Dn * 5e-6),
                 Lp = std::sqrt(Dp * 5e-6);
    const double J = q * ni * ni *
                     (Dn / (Na * Ln * std::tanh((150e-6 - wp) / Ln)) +
                      Dp / (Nd * Lp * std::tanh((300e-6 - wn) / Lp))) *
                     std::expm1(0.5 / thermal());
    // Traps in the junction add some q ni W / (2 tau) exp(V / 2 Vt) Vt / (Vbi - V).
    const double more = q * ni * (wp + wn) / (2 * 5e-6) * std::exp(0.25 / thermal()) * thermal() /
                        (builtIn() - 0.5);
    const double I = valueOf(solved(d), "current");
    QVERIFY2(I > 0.99 * J * area && I < 1.01 * (J + 4 * more) * area,
             qPrintable(QString("%1, not %2 and %3").arg(I).arg(J * area).arg(more * area)));
}

void TstJunction::slopeOfAnIdealDiode()
{
    // 59.5 mV a decade at 300 K.
    Document d = diode("2 um", "5 um");
    for (const char* v : {"0.3 V", "0.4 V"}) {
        askCurrent(d, v);
        d.add("ideality factor", {{"at", v}});
    }
    const run::Result r = solved(d);
    const double decades =
        std::log10(valueOf(r, "current at 0.4 V") / valueOf(r, "current at 0.3 V"));
    QVERIFY2(std::abs(100 / decades - 59.5) < 0.6, qPrintable(QString::number(100 / decades)));
    // The neutral parts grow a little as the junction narrows.
    QVERIFY(std::abs(valueOf(r, "ideality factor at 0.4 V") - 1) < 0.015);
}

void TstJunction::trapsMakeTwo()
{
    // Sah, Noyce and Shockley, Proc. IRE 45 (1957) 1228: in the junction recombination goes with
    // half of the voltage.
    Document d = diode("2 um", "5 um", "0.1 ns");
    d.add("ideality factor", {{"at", "0.3 V"}});
    const double n = valueOf(solved(d), "ideality factor");
    QVERIFY2(n > 1.7 && n < 2.02, qPrintable(QString::number(n)));
}

void TstJunction::leakage()
{
    // Pairs made where neither density is above the intrinsic one, q ni Wi / (tau_n + tau_p): Sah,
    // Noyce and Shockley, Proc. IRE 45 (1957) 1228.
    Document d = diode("2 um", "10 um", "100 ns");
    askCurrent(d, "-5 V");
    auto edge = [](double doping) {
        return std::sqrt(2 * eps * thermal() * std::log(doping / ni) / (q * doping));
    };
    const double w = std::sqrt(2 * eps * (builtIn() + 5) / q * (1 / Na + 1 / Nd)) - edge(Na) -
                     edge(Nd),
                 I = -q * ni * w / 200e-9 * area, found = valueOf(solved(d), "current");
    QVERIFY2(std::abs(found / I - 1) < 0.06, qPrintable(QString("%1, not %2").arg(found).arg(I)));
}

void TstJunction::dopingByCapacitance()
{
    // d(1/C^2)/dV = -2 / (q eps A^2) (1/Na + 1/Nd): Sze and Ng, section 2.2.
    Document d = device("-6 V", "-2 V", "3");
    addLayer(d, "p", "2 um", "acceptors", "1e17 /cm^3");
    addLayer(d, "n", "10 um", "donors", "1e16 /cm^3");
    for (const char* v : {"-2 V", "-6 V"})
        d.add("junction capacitance", {{"at", v}, {"within", "0.1 %"}});
    const run::Result r = solved(d);
    const double a = valueOf(r, "junction capacitance at -2 V"),
                 b = valueOf(r, "junction capacitance at -6 V"),
                 slope = (1 / (a * a) - 1 / (b * b)) / 4,
                 doping = 1 / (-slope * q * eps * area * area / 2 - 1 / Na);
    QVERIFY2(std::abs(doping / Nd - 1) < 5e-3, qPrintable(QString::number(doping)));
    const double w = std::sqrt(2 * eps * (builtIn() + 2 - 2 * thermal()) / q * (1 / Na + 1 / Nd));
    QVERIFY(std::abs(a / (eps * area / w) - 1) < 5e-3);
}

void TstJunction::strongInjection()
{
    // Above the doping both densities rise with half of the voltage (Hall, Proc. IRE 40 (1952)
    // 1512).
    Document d = device("0 V", "0.9 V", "4");
    addLayer(d, "p", "1 um", "acceptors", "1e18 /cm^3");
    addLayer(d, "i", "5 um", "donors", "1e13 /cm^3", {{"electron life", "10 ns"}});
    addLayer(d, "n", "1 um", "donors", "1e18 /cm^3");
    d.add("ideality factor", {{"at", "0.6 V"}});
    const double n = valueOf(solved(d), "ideality factor");
    QVERIFY2(n > 1.8 && n < 2.05, qPrintable(QString::number(n)));
}

void TstJunction::litCell()
{
    // Superposition: the dark current at Voc is the short-circuit current, but for the parts that
    // the narrower junction no longer collects.
    Document d = device("-0.2 V", "0.5 V", "8");
    addLayer(d, "p", "2 um", "acceptors", "1e17 /cm^3");
    addLayer(d, "n", "5 um", "donors", "1e16 /cm^3", {{"generation", "1e18 /cm^3/s"}});
    d.add("open-circuit voltage", {});
    d.add("largest power", {});
    askCurrent(d, "0 V");
    const run::Result r = solved(d);
    const double shorted = valueOf(r, "current at 0 V"), open = valueOf(r, "open-circuit voltage");
    QVERIFY(shorted < 0);
    Document dark = diode("2 um", "5 um");
    const QByteArray at = QByteArray::number(open, 'g', 15) + " V";
    askCurrent(dark, at.constData());
    QVERIFY2(std::abs(valueOf(solved(dark), "current") / -shorted - 1) < 0.03,
             qPrintable(QString::number(valueOf(solved(dark), "current") / -shorted)));
    // Green's formula of an ideal cell, Solar Cells, section 5.4: good to 0.1 %.
    const double v = open / thermal(), fill = (v - std::log(v + 0.72)) / (v + 1);
    QVERIFY2(std::abs(valueOf(r, "fill factor") / fill - 1) < 0.02,
             qPrintable(QString("%1, not %2").arg(valueOf(r, "fill factor")).arg(fill)));
    QVERIFY(std::abs(valueOf(r, "largest power") / (-fill * open * shorted) - 1) < 0.02);
}

void TstJunction::gridsConverge()
{
    // Halved cells err a quarter as much.
    physics::JunctionProblem p;
    p.material = physics::semiconductors()[0];
    p.ni = ni;
    p.area = area;
    p.auger = p.radiative = false;
    p.layers = {{"p", -1, 2e-6, 0, Na, 1e-8, 1e-8, 0.1, 0.04, 0},
                {"n", -1, 5e-6, Nd, 0, 1e-8, 1e-8, 0.1, 0.04, 0}};
    base::Progress progress;
    std::vector<double> I;
    for (int level = 0; level < 4; ++level)
        I.push_back(physics::LineGrid(p, level).current(0.5, progress));
    const double ratio = (I[2] - I[1]) / (I[3] - I[2]);
    QVERIFY2(ratio > 3.5 && ratio < 4.5, qPrintable(QString::number(ratio)));
}

void TstJunction::turnedRound()
{
    Document a = diode(), b = device();
    addLayer(b, "n", "20 um", "donors", "1e16 /cm^3");
    addLayer(b, "p", "4 um", "acceptors", "1e17 /cm^3");
    for (auto& l : b.lines)
        if (l.kind == "bias")
            l.values["end"] = "right";
    askCurrent(a, "0.55 V");
    askCurrent(b, "0.55 V");
    QVERIFY(std::abs(valueOf(solved(a), "current") / valueOf(solved(b), "current") - 1) < 1e-5);
}

void TstJunction::radiativeAndAuger()
{
    // In a thick, evenly lit layer without field G = B n p + (Cn n + Cp p) n p, far from contacts:
    // the band diagram's densities in the middle.
    Document d = device("0 V", "0.01 V", "2", "300 K", "silicon", "");
    for (auto& l : d.lines)
        if (l.kind == "recombination")
            l.values["of"] = "traps, light and Auger";
    addLayer(d, "n", "40 mm", "donors", "1e17 /cm^3", {{"generation", "1e20 /cm^3/s"}});
    d.add("band diagram", {});
    run::Settings settings;
    QTemporaryDir folder;
    settings.out = folder.filePath("r").toStdString();
    base::Progress progress;
    run::Outcome outcome{};
    const run::Result r = run::solve(d, settings, progress, outcome);
    QCOMPARE(outcome, run::Outcome::met);
    QFile file(folder.filePath("r/" + QString::fromStdString(r.report.findings[0].table)));
    QVERIFY(file.open(QIODevice::ReadOnly));
    const QStringList rows = QString::fromUtf8(file.readAll()).split('\n', Qt::SkipEmptyParts);
    const QStringList middle = rows[rows.size() / 2].split(',');
    const double n = middle[5].toDouble(), p = middle[6].toDouble();
    const double gone = (4.73e-21 + 2.8e-43 * n + 0.99e-43 * p) * n * p;
    QVERIFY2(std::abs(gone / 1e26 - 1) < 1e-3, qPrintable(QString::number(gone / 1e26)));
}

void TstJunction::sameTwice()
{
    Document d = diode();
    askCurrent(d, "0.5 V");
    const run::Result a = solved(d), b = solved(d);
    QCOMPARE(a.report.findings[0].value, b.report.findings[0].value);
    QCOMPARE(a.report.findings[0].error, b.report.findings[0].error);
}

void TstJunction::badInput_data()
{
    QTest::addColumn<int>("fault");
    QTest::addColumn<QString>("kind");
    QTest::addColumn<QString>("slot");
    QTest::addColumn<QString>("value");
    QTest::newRow("no layer") << 2321 << "semiconductor layer"
                              << ""
                              << "";
    QTest::newRow("no area") << 2322 << "device area"
                             << ""
                             << "";
    QTest::newRow("no bias") << 2323 << "bias"
                             << ""
                             << "";
    QTest::newRow("no semiconductor") << 2320 << "semiconductor"
                                      << ""
                                      << "";
    QTest::newRow("doping without unit") << 2005 << "semiconductor layer"
                                         << "acceptors"
                                         << "1e17";
    QTest::newRow("unit slip") << 7705 << "semiconductor layer"
                               << "acceptors"
                               << "1e23 /cm^3";
    QTest::newRow("too thin") << 7704 << "semiconductor layer"
                              << "thickness"
                              << "1 pm";
    QTest::newRow("too cold") << 7700 << "semiconductor"
                              << "temperature"
                              << "20 K";
    QTest::newRow("one point") << 7701 << "bias"
                               << "steps"
                               << "1";
    QTest::newRow("nothing swept") << 7702 << "bias"
                                   << "to"
                                   << "0 V";
    QTest::newRow("lightning") << 7703 << "bias"
                               << "to"
                               << "5 kV";
    QTest::newRow("no exponential") << 7714 << "ideality factor"
                                    << "at"
                                    << "10 mV";
    QTest::newRow("dark cell") << 7711 << "open-circuit voltage"
                               << "within"
                               << "1 %";
}

void TstJunction::badInput()
{
    QFETCH(int, fault);
    QFETCH(QString, kind);
    QFETCH(QString, slot);
    QFETCH(QString, value);
    Document d = diode();
    askCurrent(d, "0.5 V");
    d = test::changed(d, kind, slot, value);
    if (fault == 2005) {
        base::Progress progress;
        run::Outcome outcome{};
        const run::Result r = run::solve(d, {}, progress, outcome);
        QCOMPARE(outcome, run::Outcome::sheetWrong);
        QCOMPARE(r.report.faults[0].place.field, std::string("acceptors"));
        return;
    }
    QVERIFY(isRefused(d, fault));
}

YH_TEST(TstJunction)

}  // namespace tst_junction

#include "tst_junction.moc"
