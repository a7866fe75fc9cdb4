// Drawn junctions against closed forms, and against junctions along a line.
#include "exact_figures.h"
#include "fem/fronts.h"
#include "junctions.h"
#include "program.h"
#include "sheet/model.h"
#include "wrong_sheets.h"

#include <omp.h>
#include <QFile>
#include <QTemporaryDir>
#include <cmath>

namespace tst_carriers {

using namespace yh;
using sheet::Document;
using test::errorOf;
using test::isGood;
using test::isRefused;
using test::solved;
using test::valueOf;

namespace {

constexpr double q = test::charge, ni = test::intrinsic, permittivity = test::siliconEps;
constexpr double Na = test::acceptors, Nd = test::donors, area = 6e-9;
const auto thermal = [](double T = 300) { return test::thermalVoltage(T); };
using Values = std::map<std::string, std::string>;

/// Silicon with 1e10 /cm^3 intrinsic carriers; a drawing in the plane is 1 mm deep.
Document device(const char* space, const char* from, const char* to, const char* steps = "2",
                const char* temperature = "300 K")
{
    Document d;
    Values s = {{"type", space}};
    if (std::string(space) == "plane")
        s["depth"] = "1 mm";
    d.add("space", s);
    d.add("semiconductor",
          {{"material", "silicon"}, {"temperature", temperature}, {"ni", "1e10 /cm^3"}});
    d.add("recombination", {{"of", "traps only"}});
    d.add("contact sweep", {{"on", "A"}, {"from", from}, {"to", to}, {"steps", steps}});
    return d;
}
void addBlock(Document& d, const char* name, const char* width, const char* height, const char* at)
{
    d.add("rectangle", {{"name", name}, {"width", width}, {"height", height}, {"at", at}});
}
void addDoping(Document& d, const char* in, const char* type, const char* density, Values more = {})
{
    more.insert({{"in", in},
                 {type, density},
                 {"electron mobility", "1000 cm^2/V/s"},
                 {"hole mobility", "400 cm^2/V/s"}});
    d.add("doping", more);
}
void addContact(Document& d, const char* name, const char* on, const char* voltage = "0 V")
{
    d.add("ohmic contact", {{"name", name}, {"on", on}, {"voltage", voltage}});
}
void askCurrent(Document& d, const char* at)
{
    d.add("junction current", {{"at", at}});
}
/// A block whose left and right sides are contacts.
Document bar(const char* type, const char* density, const char* width, const char* height,
             const char* at)
{
    Document d = device("plane", "-1 V", "1 V");
    d.add("parameter", {{"name", "w"}, {"value", width}});
    addBlock(d, "bar", "w", height, "w / 2, 0");
    addDoping(d, "bar", type, density);
    addContact(d, "A", "bar.left");
    addContact(d, "B", "bar.right");
    askCurrent(d, at);
    return d;
}
/// 1e17 /cm^3 acceptors in the left 4 um, 1e16 /cm^3 donors in 20 um beside them, 6 um high.
Document diode(const char* from, const char* to, const char* steps = "2", const char* life = "",
               const char* left = "4 um", const char* right = "20 um")
{
    Document d = device("plane", from, to, steps);
    d.add("parameter", {{"name", "lp"}, {"value", left}});
    d.add("parameter", {{"name", "ln"}, {"value", right}});
    addBlock(d, "p", "lp", "6 um", "lp / 2, 0");
    addBlock(d, "n", "ln", "6 um", "lp + ln / 2, 0");
    Values more;
    if (*life)
        more["electron life"] = life;
    addDoping(d, "p", "acceptors", "1e17 /cm^3", more);
    addDoping(d, "n", "donors", "1e16 /cm^3", more);
    addContact(d, "A", "p.left");
    addContact(d, "B", "n.right");
    return d;
}
/// The same device along a line.
Document layers(const char* from, const char* to, const char* life)
{
    Document d;
    d.add("semiconductor",
          {{"material", "silicon"}, {"temperature", "300 K"}, {"ni", "1e10 /cm^3"}});
    d.add("recombination", {{"of", "traps only"}});
    for (const bool isLeft : {true, false})
        d.add("semiconductor layer",
              {{"name", isLeft ? "p" : "n"},
               {"thickness", isLeft ? "4 um" : "20 um"},
               {isLeft ? "acceptors" : "donors", isLeft ? "1e17 /cm^3" : "1e16 /cm^3"},
               {"electron mobility", "1000 cm^2/V/s"},
               {"hole mobility", "400 cm^2/V/s"},
               {"electron life", life}});
    d.add("device area", {{"value", "6 um * 1 mm"}});
    d.add("bias", {{"end", "left"}, {"from", from}, {"to", to}, {"steps", "2"}});
    return d;
}
using Exact = test::ExactFigure;

std::vector<Exact> exactProblems()
{
    std::vector<Exact> list;
    const double sigma = q * (1e21 * 0.1 + 1e11 * 0.04);
    list.push_back({"bar of n", bar("donors", "1e15 /cm^3", "30 um", "5 um", "0.4 V"), "current",
                    sigma * 5e-9 * 0.4 / 30e-6});
    list.push_back({"bar of p, backwards", bar("acceptors", "3e16 /cm^3", "12 um", "8 um", "-1 V"),
                    "current", -q * 3e22 * 0.04 * 8e-9 / 12e-6});
    list.push_back({"nearly intrinsic bar", bar("donors", "1e10 /cm^3", "10 um", "5 um", "1 mV"),
                    "current",
                    q * ((0.5 + std::sqrt(1.25)) * 0.1 + 0.04 / (0.5 + std::sqrt(1.25))) * ni *
                        5e-9 * 1e-3 / 10e-6});
    auto builtIn = [&](const char* name, const char* acceptors, double a, const char* donors,
                       double b, const char* T, double kelvin) {
        Document d = device("plane", "0 V", "0.1 V", "2", T);
        addBlock(d, "p", "2 um", "1 um", "1 um, 0");
        addBlock(d, "n", "2 um", "1 um", "3 um, 0");
        addDoping(d, "p", "acceptors", acceptors);
        addDoping(d, "n", "donors", donors);
        addContact(d, "A", "p.left");
        addContact(d, "B", "n.right");
        d.add("built-in voltage", {});
        list.push_back({name, d, "built-in voltage",
                        thermal(kelvin) * (std::asinh(a / (2 * ni)) + std::asinh(b / (2 * ni)))});
    };
    builtIn("built-in voltage, steep", "1e18 /cm^3", 1e24, "2e16 /cm^3", 2e22, "300 K", 300);
    builtIn("built-in voltage, light", "1e11 /cm^3", 1e17, "1e12 /cm^3", 1e18, "320 K", 320);
    {
        // A ring of 2 um inner and 9 um outer radius, 3 um high: a logarithm of the radii.
        Document d = device("axisymmetric", "0 V", "0.1 V");
        addBlock(d, "ring", "7 um", "3 um", "5.5 um, 0");
        addDoping(d, "ring", "donors", "1e15 /cm^3");
        addContact(d, "A", "ring.left");
        addContact(d, "B", "ring.right");
        askCurrent(d, "0.1 V");
        list.push_back(
            {"ring, outwards", d, "current", 2 * M_PI * sigma * 3e-6 * 0.1 / std::log(9.0 / 2)});
    }
    {
        // A full cylinder, along its axis.
        Document d = device("axisymmetric", "0 V", "0.1 V");
        addBlock(d, "rod", "4 um", "20 um", "2 um, 0");
        addDoping(d, "rod", "donors", "1e15 /cm^3");
        addContact(d, "A", "rod.top");
        addContact(d, "B", "rod.bottom");
        askCurrent(d, "0.1 V");
        list.push_back({"rod, along its axis", d, "current", sigma * M_PI * 16e-12 * 0.1 / 20e-6});
    }
    {
        // Corners opposite each other: the square is its own dual, its resistance that of a square.
        Document d = device("plane", "0 V", "0.1 V");
        for (const auto& [name, at] : {std::pair{"sw", "-1 um, -1 um"},
                                       {"se", "1 um, -1 um"},
                                       {"nw", "-1 um, 1 um"},
                                       {"ne", "1 um, 1 um"}})
            addBlock(d, name, "2 um", "2 um", at);
        for (const char* name : {"sw", "se", "nw", "ne"})
            addDoping(d, name, "donors", "1e15 /cm^3");
        addContact(d, "A", "sw.left, sw.bottom");
        addContact(d, "B", "ne.right, ne.top");
        askCurrent(d, "0.1 V");
        list.push_back({"square between corners", d, "current", sigma * 1e-3 * 0.1});
    }
    {
        // A bend counts 0.5594 squares: Hall, Thin Solid Films 1 (1968) 277.
        Document d = device("plane", "0 V", "0.1 V");
        addBlock(d, "arm", "6 um", "2 um", "-3 um, 0");
        addBlock(d, "corner", "2 um", "2 um", "1 um, 0");
        addBlock(d, "leg", "2 um", "8 um", "1 um, 5 um");
        for (const char* name : {"arm", "corner", "leg"})
            addDoping(d, name, "donors", "1e15 /cm^3");
        addContact(d, "A", "arm.left");
        addContact(d, "B", "leg.top");
        askCurrent(d, "0.1 V");
        list.push_back({"a bend", d, "current", sigma * 1e-3 * 0.1 / (3 + 4 + 0.55940)});
    }
    return list;
}

}  // namespace

class TstCarriers : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void frontsSolve();
    void withinStatedError();
    void asAlongALine();
    void shortDiode();
    void roundShortDiode();
    void trapsMakeTwo();
    void dopingByCapacitance();
    void litCell();
    void transistor();
    void farBackwards();
    void bandsAndDensities();
    void threadsDoNotMatter();
    void badInput_data();
    void badInput();
};

void TstCarriers::frontsSolve()
{
    // A chain of blocks with couplings to and fro that are not equal, and values that differ by
    // fifteen decades from row to row.
    fem::SparseRows A;
    A.size = 60;
    A.start = {0};
    auto value = [](int r, int c) {
        return std::pow(10.0, (r * 7) % 16 - 8) * (r == c ? 0.3 : 1.0 / (2 + r % 5 + c % 3));
    };
    for (int r = 0; r < A.size; ++r) {
        for (int c = 0; c < A.size; ++c)
            if (std::abs(r - c) <= 3 || (r % 20 == 19 && c / 20 == r / 20) ||
                (c % 20 == 19 && c / 20 == r / 20)) {
                A.column.push_back(c);
                A.value.push_back(value(r, c));
            }
        A.start.push_back(int(A.column.size()));
    }
    fem::Fronts fronts(A, {0, 9, 20, 33, 47});
    fronts.factorise(A);
    std::vector<double> wanted, x;
    for (int k = 0; k < A.size; ++k)
        wanted.push_back(std::sin(1.0 + k));
    A.multiply(wanted, x);
    fronts.solve(x);
    for (int k = 0; k < A.size; ++k)
        QVERIFY2(std::abs(x[size_t(k)] - wanted[size_t(k)]) < 1e-9,
                 qPrintable(QString("%1: %2").arg(k).arg(x[size_t(k)])));
    // A row of nothing is told.
    for (int k = A.start[30]; k < A.start[31]; ++k)
        A.value[size_t(k)] = 0;
    QVERIFY_EXCEPTION_THROWN(fronts.factorise(A), base::Error);
}

void TstCarriers::withinStatedError()
{
    test::checkExact(exactProblems(), 5e-3, "### Exact problems (`tests/physics/tst_carriers`)");
}

void TstCarriers::asAlongALine()
{
    // Currents over six decades and more, forwards and backwards, and the capacitance.
    Document drawn = diode("-2 V", "0.6 V", "2", "1 us"), line = layers("-2 V", "0.6 V", "1 us");
    for (Document* d : {&drawn, &line}) {
        for (const char* v : {"-2 V", "0.3 V", "0.6 V"})
            askCurrent(*d, v);
        d->add("ideality factor", {{"at", "0.5 V"}});
        d->add("junction capacitance", {{"at", "-1 V"}});
    }
    const run::Result a = solved(drawn), b = solved(line);
    for (const char* what : {"current at -2 V", "current at 0.3 V", "current at 0.6 V",
                             "ideality factor", "junction capacitance"})
        QVERIFY2(
            std::abs(valueOf(a, what) / valueOf(b, what) - 1) < 5e-3,
            qPrintable(
                QString("%1: %2, not %3").arg(what).arg(valueOf(a, what)).arg(valueOf(b, what))));
    QVERIFY(isGood(a, "current continuity"));
}

void TstCarriers::shortDiode()
{
    // Shockley's law between near contacts: Sze and Ng, section 2.3; 59.5 mV a decade at 300 K.
    Document d = diode("0 V", "0.5 V", "2", "", "2 um", "5 um");
    for (const char* v : {"0.35 V", "0.45 V"})
        askCurrent(d, v);
    const double J = test::shortDiodeDensity(0.45, 2e-6, 5e-6);
    const run::Result r = solved(d);
    const double I = valueOf(r, "current at 0.45 V");
    QVERIFY2(std::abs(I / (J * area) - 1) < 0.01,
             qPrintable(QString("%1, not %2").arg(I).arg(J * area)));
    const double slope = 100 / std::log10(I / valueOf(r, "current at 0.35 V"));
    QVERIFY2(std::abs(slope - 59.5) < 0.6, qPrintable(QString::number(slope)));
}

void TstCarriers::roundShortDiode()
{
    // The same law about an axis: the carriers spread between two radii. A core of n and a thin
    // shell of p, whose own part of the current is that of holes in the core.
    Document d = device("axisymmetric", "0 V", "0.45 V");
    addBlock(d, "n", "4 um", "2 um", "3 um, 0");
    addBlock(d, "p", "1 um", "2 um", "5.5 um, 0");
    addDoping(d, "n", "donors", "1e16 /cm^3");
    addDoping(d, "p", "acceptors", "1e18 /cm^3");
    addContact(d, "A", "p.right");
    addContact(d, "B", "n.left");
    askCurrent(d, "0.45 V");
    const double inside = thermal() * std::log(1e24 * Nd / (ni * ni)),
                 w = std::sqrt(2 * permittivity * (inside - 0.45 - 2 * thermal()) / (q * Nd)),
                 law = std::expm1(0.45 / thermal()) * q * ni * ni * thermal() * 2 * M_PI * 2e-6,
                 I = law * (0.04 / (Nd * std::log((5e-6 - w) / 1e-6)) +
                            0.1 / (1e24 * std::log(6e-6 / 5e-6)));
    const double found = valueOf(solved(d), "current");
    QVERIFY2(std::abs(found / I - 1) < 0.01, qPrintable(QString("%1, not %2").arg(found).arg(I)));
}

void TstCarriers::trapsMakeTwo()
{
    // Sah, Noyce and Shockley, Proc. IRE 45 (1957) 1228: in the junction recombination goes with
    // half of the voltage.
    Document d = diode("0 V", "0.3 V", "2", "0.1 ns", "2 um", "5 um");
    d.add("ideality factor", {{"at", "0.3 V"}});
    const double n = valueOf(solved(d), "ideality factor");
    QVERIFY2(n > 1.7 && n < 2.02, qPrintable(QString::number(n)));
}

void TstCarriers::dopingByCapacitance()
{
    // The slope of 1/C^2 over the voltage tells the light side's doping: Sze and Ng, section 2.2.
    Document d = device("plane", "-3 V", "0 V");
    addBlock(d, "p", "0.5 um", "2 um", "0.25 um, 0");
    addBlock(d, "n", "4 um", "2 um", "2.5 um, 0");
    addDoping(d, "p", "acceptors", "1e19 /cm^3");
    addDoping(d, "n", "donors", "1e16 /cm^3");
    addContact(d, "A", "p.left");
    addContact(d, "B", "n.right");
    for (const char* v : {"-3 V", "-1 V"})
        d.add("junction capacitance", {{"at", v}});
    const run::Result r = solved(d);
    auto inverse = [&](const char* what) {
        const double C = valueOf(r, what) / 2e-9;
        return 1 / (C * C);
    };
    const double slope = (inverse("junction capacitance at -3 V") -
                          inverse("junction capacitance at -1 V")) /
                         2,
                 N = 2 / (q * permittivity * slope);
    QVERIFY2(std::abs(N / 1e22 - 1) < 0.015, qPrintable(QString::number(N)));
}

void TstCarriers::litCell()
{
    // Half of a cell with a finger on top: what light makes leaves, and a load takes power.
    Document d = device("plane", "0 V", "0.6 V");
    addBlock(d, "body", "20 um", "10 um", "10 um, -5 um");
    addBlock(d, "finger", "2 um", "0.5 um", "1 um, 0.25 um");
    addDoping(d, "body", "acceptors", "1e16 /cm^3",
              {{"electron life", "5 us"}, {"generation", "1e19 /cm^3/s"}});
    d.add("doping", {{"in", "body"},
                     {"donors", "5e18 /cm^3"},
                     {"from", "0, 0"},
                     {"to", "20 um, 0"},
                     {"fall", "0.3 um"}});
    addContact(d, "A", "body.bottom");
    addContact(d, "B", "finger");
    askCurrent(d, "0 V");
    d.add("open-circuit voltage", {});
    const run::Result r = solved(d);
    // No more than all pairs, and most of those that the rear contact does not take.
    const double all = q * 1e25 * 20e-6 * 10e-6 * 1e-3, I = -valueOf(r, "current at 0 V");
    QVERIFY2(I > 0.45 * all && I < all, qPrintable(QString("%1 of %2").arg(I).arg(all)));
    const double V = valueOf(r, "open-circuit voltage");
    QVERIFY2(V > 0.4 && V < 0.6, qPrintable(QString::number(V)));
    QVERIFY(isGood(r, "current continuity"));
}

void TstCarriers::transistor()
{
    // Gummel's charge of the base: Ic = q A ni^2 Dn / (N w) exp(Vbe / Vt), Sze and Ng, section
    // 5.2; a thick emitter of the same mobility makes the gain.
    Document d = device("plane", "0 V", "0.6 V");
    addBlock(d, "e", "3 um", "1 um", "1.5 um, 3.5 um");
    addBlock(d, "b", "6 um", "1 um", "0, 2.5 um");
    addBlock(d, "c", "3 um", "2 um", "1.5 um, 1 um");
    addDoping(d, "e", "donors", "1e19 /cm^3");
    addDoping(d, "b", "acceptors", "1e18 /cm^3");
    addDoping(d, "c", "donors", "1e16 /cm^3");
    addContact(d, "E", "e.top");
    addContact(d, "A", "b.left");
    addContact(d, "C", "c.bottom", "1 V");
    for (const char* of : {"C", "A", "E"})
        d.add("contact current", {{"of", of}, {"at", "0.6 V"}});
    const run::Result r = solved(d);
    auto depth = [&](double a, double b, double v) {
        // Into the side of a.
        const double inside = thermal() * std::log(a * b / (ni * ni)) - v - 2 * thermal();
        return std::sqrt(2 * permittivity * inside / q * b / (a * (a + b)));
    };
    const double w = 1e-6 - depth(1e24, 1e25, 0.6) - depth(1e24, 1e22, -0.4),
                 // Beside the emitter the flow bulges into the base, as the field at the end of a
                 // strip line does: 2 ln 2 / pi of half the distance.
        wide = 3e-6 + std::log(2.0) / M_PI * w,
                 collector = q * 1e-3 * wide * ni * ni * thermal() * std::exp(0.6 / thermal()) *
                             0.1 / (1e24 * w),
                 I = valueOf(r, "current into C");
    QVERIFY2(std::abs(I / collector - 1) < 0.02,
             qPrintable(QString("%1, not %2").arg(I).arg(collector)));
    const double sum = I + valueOf(r, "current into A") + valueOf(r, "current into E");
    QVERIFY2(std::abs(sum) < 1e-4 * I, qPrintable(QString::number(sum)));
}

void TstCarriers::farBackwards()
{
    // Pairs made where neither density is above the intrinsic one, at 200 V: q ni W / (2 tau) is
    // the whole of the depleted zone.
    Document d = device("plane", "-200 V", "0 V");
    addBlock(d, "p", "1 um", "2 um", "0.5 um, 0");
    addBlock(d, "n", "40 um", "2 um", "21 um, 0");
    addDoping(d, "p", "acceptors", "1e19 /cm^3");
    addDoping(d, "n", "donors", "1e15 /cm^3", {{"electron life", "1 us"}});
    addContact(d, "A", "p.left");
    addContact(d, "B", "n.right");
    askCurrent(d, "-200 V");
    const double w = std::sqrt(2 * permittivity * 200.7 / (q * 1e21)),
                 I = -q * ni * w / 2e-6 * 2e-9, found = valueOf(solved(d), "current");
    QVERIFY2(std::abs(found / I - 1) < 0.05, qPrintable(QString("%1, not %2").arg(found).arg(I)));
}

void TstCarriers::bandsAndDensities()
{
    Document d = diode("0 V", "0.4 V");
    d.add("bands along", {{"from", "0, 0"}, {"to", "24 um, 0"}, {"at", "0.4 V"}});
    run::Settings settings;
    QTemporaryDir folder;
    settings.out = folder.filePath("r").toStdString();
    base::Progress progress;
    run::Outcome outcome{};
    const run::Result r = run::solve(d, settings, progress, outcome);
    QFile file(folder.filePath("r/tables/curves-1.csv"));
    QVERIFY(file.open(QIODevice::ReadOnly));
    const QList<QByteArray> rows = file.readAll().trimmed().split('\n');
    QVERIFY(rows.size() > 200);
    // At the contacts: the doping, and no current's levels, as far apart as the voltage is.
    const QList<QByteArray> first = rows[1].split(','), last = rows.back().split(',');
    QVERIFY(std::abs(first[6].toDouble() / Na - 1) < 1e-6);
    QVERIFY(std::abs(last[5].toDouble() / Nd - 1) < 1e-6);
    QVERIFY(std::abs(last[3].toDouble() - first[4].toDouble() - 0.4) < 1e-6);
    // The gap is the same everywhere.
    for (int k = 1; k < rows.size(); ++k) {
        const QList<QByteArray> v = rows[k].split(',');
        QVERIFY(std::abs(v[1].toDouble() - v[2].toDouble() - 1.12) < 1e-5);
    }
}

void TstCarriers::threadsDoNotMatter()
{
    Document d = diode("0 V", "0.5 V", "2", "1 us", "2 um", "5 um");
    askCurrent(d, "0.5 V");
    double I[2];
    for (const int k : {0, 1}) {
        omp_set_num_threads(k + 1);
        I[k] = valueOf(solved(d), "current");
    }
    QCOMPARE(I[0], I[1]);
}

void TstCarriers::badInput_data()
{
    test::addWrongs({{"no contact", {2353, "ohmic contact", "", ""}},
                     {"no sweep", {2354, "contact sweep", "", ""}},
                     {"no semiconductor", {2351, "semiconductor", "", ""}},
                     {"nothing doped", {2352, "doping", "", ""}},
                     {"a solid", {2350, "space", "type", "solid"}},
                     {"doping without unit", {2001, "doping", "acceptors", "1e17"}},
                     {"more dopants than atoms", {7705, "doping", "acceptors", "1e23 /cm^3"}},
                     {"a profile of no length", {7731, "doping", "from", "0, 0"}},
                     {"a profile from nowhere", {7731, "doping", "fall", "1 um"}},
                     {"holes alone live", {2357, "doping", "hole life", "1 us"}},
                     {"on no side", {3103, "ohmic contact", "on", "p.nowhere"}},
                     {"inside", {7734, "ohmic contact", "on", "p.right"}},
                     {"contacts that touch", {7737, "ohmic contact", "on", "n.top"}},
                     {"a region without doping", {6008, "doping", "in", "n"}},
                     {"too wide", {7736, "rectangle", "width", "2 m"}},
                     {"a thread", {7740, "parameter", "value", "9 mm"}},
                     {"a contact of metals", {2359, "contact", "on", "p.top"}},
                     {"an area", {2358, "device area", "value", "1 mm^2"}},
                     {"no curve", {7702, "contact sweep", "to", "0 V"}},
                     {"breakdown", {7703, "contact sweep", "to", "5 kV"}},
                     {"too hot", {7700, "semiconductor", "temperature", "900 K"}}});
}

void TstCarriers::badInput()
{
    const auto [fault, kind, slot, value] = test::fetchWrong();
    Document d = diode("0 V", "0.5 V");
    askCurrent(d, "0.5 V");
    // What belongs to other kinds of sheet is said, with what to write instead.
    if (kind == "contact")
        d.add(kind.toStdString(), {{"name", "E"}, {"voltage", "1 V"}});
    if (kind == "device area")
        d.add(kind.toStdString(), {});
    QVERIFY(isRefused(test::changed(d, kind, slot, value), fault));
}

YH_TEST(TstCarriers)

}  // namespace tst_carriers

#include "tst_carriers.moc"
