// Slowly alternating fields against closed forms.
#include "program.h"
#include "solved.h"
#include "waves.h"

#include <complex>
#include <map>

namespace tst_quasistatic {

using namespace yh;
using sheet::Document;
using test::balanced;
using test::eps0;
using test::pi;
using test::solved;
using test::valueOf;

namespace {

/// The medium of most tests here, at 10 kHz: sigma + j omega eps, S/m.
const std::complex<double> medium(1e-5, 2 * pi * 1e4 * 10 * eps0);

/// A line of that medium in a place.
void addMedium(Document& d, const char* place)
{
    d.add("material", {{"material", "gel"}, {"in", place}, {"eps", "10"}, {"sigma", "1e-5 S/m"}});
    d.add("frequency", {{"value", "10 kHz"}});
}
/// Whether conductance and susceptance between A and B are those, each to a share of the whole.
bool isAdmittance(const run::Result& r, std::complex<double> y, double share)
{
    const std::complex<double> found(valueOf(r, "conductance"), valueOf(r, "susceptance"));
    if (std::abs(found - y) < share * std::abs(y))
        return true;
    qWarning("found %g + j %g, not %g + j %g", found.real(), found.imag(), y.real(), y.imag());
    return false;
}

}  // namespace

class TstQuasistatic : public QObject
{
    Q_OBJECT

private Q_SLOTS:
    void lossyCapacitor();
    void layeredMedia();
    void partsAQuarterApart();
    void refusals();
    void slabWarms_data();
    void slabWarms();
    void allLossesWarm();
    void filmInSeries_data();
    void filmInSeries();
    void sheetInParallel_data();
    void sheetInParallel();
    void concentricSpheres();
    void oddPlaneIsHalfOfAPair_data();
    void oddPlaneIsHalfOfAPair();
    void wrongLines_data();
    void wrongLines();
};

void TstQuasistatic::lossyCapacitor()
{
    // Coaxial line of length 1 m filled with a lossy medium: Y = 2 pi (sigma + j w eps) / ln(b/a)
    // (Jackson, problem 1.6, with a complex permittivity).
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("disc", {{"name", "gap"}, {"radius", "2 mm"}});
    d.add("disc", {{"name", "core"}, {"radius", "1 mm"}});
    d.add("material", {{"material", "brine"},
                       {"in", "gap"},
                       {"eps", "78"},
                       {"sigma", "0.01 S/m"},
                       {"loss", "0.02"}});
    d.add("material", {{"material", "copper"}, {"in", "core"}});
    d.add("contact", {{"name", "A"}, {"voltage", "1 V"}, {"on", "core"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "gap.outer"}});
    d.add("frequency", {{"value", "1 MHz"}});
    d.add("admittance", {{"from", "A"}, {"to", "B"}, {"within", "0.05 %"}});
    d.add("loss factor", {{"from", "A"}, {"to", "B"}, {"within", "0.05 %"}});
    d.add("heating power", {{"in", "gap"}, {"within", "0.05 %"}});
    const double w = 2 * pi * 1e6, eps = 78 * 8.8541878128e-12, shape = 2 * pi / std::log(2.0),
                 re = 0.01 + w * eps * 0.02, im = w * eps;
    const auto r = solved(d);
    QVERIFY(std::abs(valueOf(r, "conductance") / (shape * re) - 1) < 5e-4);
    QVERIFY(std::abs(valueOf(r, "susceptance") / (shape * im) - 1) < 5e-4);
    QVERIFY(std::abs(valueOf(r, "parallel capacitance") / (shape * eps) - 1) < 5e-4);
    QVERIFY(std::abs(valueOf(r, "loss factor") / (re / im) - 1) < 5e-4);
    QVERIFY(std::abs(valueOf(r, "heating power") / (0.5 * shape * re) - 1) < 5e-4);
    QVERIFY(balanced(r));
}

void TstQuasistatic::layeredMedia()
{
    // Two layers in series: 1/Y = d1 / (y1 A) + d2 / (y2 A), the Maxwell-Wagner case
    // (von Hippel, Dielectrics and Waves, 1954, from memory).
    for (const char* f : {"100 Hz", "10 kHz", "1 MHz"}) {
        Document d;
        d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
        d.add("rectangle",
              {{"name", "a"}, {"width", "4 mm"}, {"height", "1 mm"}, {"at", "0, 0.5 mm"}});
        d.add("rectangle",
              {{"name", "b"}, {"width", "4 mm"}, {"height", "2 mm"}, {"at", "0, -1 mm"}});
        d.add("material",
              {{"material", "first"}, {"in", "a"}, {"eps", "3"}, {"sigma", "1e-9 S/m"}});
        d.add("material",
              {{"material", "second"}, {"in", "b"}, {"eps", "10"}, {"sigma", "1e-5 S/m"}});
        d.add("contact", {{"name", "A"}, {"current", "1 uA"}, {"on", "a.top"}});
        d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "b.bottom"}});
        d.add("frequency", {{"value", f}});
        d.add("impedance", {{"from", "A"}, {"to", "B"}, {"within", "0.05 %"}});
        const double w = 2 * pi * QString(f).section(' ', 0, 0).toDouble() *
                         (QString(f).endsWith("kHz")   ? 1e3
                          : QString(f).endsWith("MHz") ? 1e6
                                                       : 1),
                     e0 = 8.8541878128e-12;
        const std::complex<double> y1(1e-9, w * 3 * e0), y2(1e-5, w * 10 * e0),
            z = 1e-3 / (y1 * 4e-3) + 2e-3 / (y2 * 4e-3);
        const auto r = solved(d);
        QVERIFY2(std::abs(valueOf(r, "resistance") - z.real()) < 1e-6 * std::abs(z), f);
        QVERIFY2(std::abs(valueOf(r, "reactance") - z.imag()) < 1e-6 * std::abs(z), f);
        QVERIFY2(std::abs(valueOf(r, "magnitude") / std::abs(z) - 1) < 1e-6, f);
        QVERIFY(balanced(r));
    }
}

void TstQuasistatic::partsAQuarterApart()
{
    // Two layers divide the voltage; exp(j omega t) has become j a quarter later, so that what is
    // seen then is minus the imaginary part, for the potential and for the current.
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 mm"}});
    for (const auto& [name, at, sigma] :
         {std::tuple{"a", "0, 2.5 mm", "1e-9 S/m"}, {"b", "0, 1 mm", "1e-5 S/m"}}) {
        const bool upper = name[0] == 'a';
        d.add("rectangle",
              {{"name", name}, {"width", "4 mm"}, {"height", upper ? "1 mm" : "2 mm"}, {"at", at}});
        d.add("material", {{"material", std::string("layer ") + name},
                           {"in", name},
                           {"eps", upper ? "3" : "10"},
                           {"sigma", sigma}});
    }
    d.add("frequency", {{"value", "10 kHz"}});
    d.add("contact", {{"name", "A"}, {"voltage", "1 V"}, {"on", "a.top"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "b.bottom"}});
    d.add("impedance", {{"from", "A"}, {"to", "B"}});
    const auto r = solved(d);
    const std::complex<double> above(1e-9, 2 * pi * 1e4 * 3 * eps0),
        za = 1e-3 / above, zb = 2e-3 / medium, J = -1.0 / (za + zb), V = 0.5 * zb / (za + zb);
    QVERIFY2(r.probe, r.report.faults.empty() ? "" : r.report.faults[0].text.c_str());
    // In the middle of the lower layer.
    std::map<std::string, std::vector<double>> read;
    for (const auto& q : r.probe->at(0, 1e-3, 0))
        read[q.name] = q.value;
    QVERIFY(std::abs(read.at("V")[0] - V.real()) < 1e-6);
    QVERIFY(std::abs(read.at("V ahead")[0] + V.imag()) < 1e-6);
    QVERIFY(std::abs(V.imag()) > 0.05);
    QVERIFY(std::abs(read.at("J")[1] - J.real()) < 1e-6 * std::abs(J));
    QVERIFY(std::abs(read.at("J ahead")[1] + J.imag()) < 1e-6 * std::abs(J));
    QVERIFY(std::abs(read.at("E ahead")[1] + (J / medium).imag()) < 1e-5 * std::abs(J / medium));
}

void TstQuasistatic::refusals()
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 mm"}});
    d.add("rectangle", {{"name", "bar"}, {"width", "10 mm"}, {"height", "2 mm"}});
    d.add("material", {{"material", "copper"}, {"in", "bar"}});
    d.add("contact", {{"name", "A"}, {"voltage", "1 V"}, {"on", "bar.left"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "bar.right"}});
    d.add("frequency", {{"value", "50 Hz"}});
    d.add("held temperature", {{"name", "t"}, {"value", "300 K"}, {"on", "bar.top"}});
    d.add("resistivity follows temperature", {{"in", "bar"}});
    d.add("resistance", {{"from", "A"}, {"to", "B"}});
    base::Progress progress;
    run::Outcome outcome{};
    const auto r = run::solve(d, {}, progress, outcome);
    // Properties that follow the temperature, and an ask of direct current.
    QCOMPARE(r.report.faults.size(), size_t(2));
}

/// The heat of an alternating field in a slab held at both faces rises by q L^2 / (8 k) in its
/// middle (Carslaw and Jaeger, section 3.8, from memory), and all of it leaves.
void TstQuasistatic::slabWarms_data()
{
    QTest::addColumn<QString>("space");
    for (const char* s : {"plane", "solid"})
        QTest::newRow(s) << s;
}

void TstQuasistatic::slabWarms()
{
    QFETCH(QString, space);
    constexpr double L = 2e-3, k = 0.5, volts = 100;
    Document d;
    if (space == "plane") {
        d.add("space", {{"type", "plane"}, {"depth", "3 mm"}});
        d.add("rectangle", {{"name", "s"}, {"width", "4 mm"}, {"height", "2 mm"}});
    } else {
        d.add("space", {{"type", "solid"}});
        d.add("box", {{"name", "s"}, {"width", "4 mm"}, {"length", "3 mm"}, {"height", "2 mm"}});
    }
    addMedium(d, "s");
    for (auto& l : d.lines)
        if (l.kind == "material") {
            l.values["k"] = "0.5 W/m/K";
            l.values["loss"] = "0.2";
        }
    d.add("contact", {{"name", "A"}, {"voltage", "100 V"}, {"on", "s.top"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "s.bottom"}});
    d.add("held temperature",
          {{"name", "faces"}, {"value", "300 K"}, {"on", "s.top and s.bottom"}});
    d.add("current heats", {{"in", "s"}});
    d.add("admittance", {{"from", "A"}, {"to", "B"}, {"within", "0.1 %"}});
    d.add("highest temperature", {{"in", "s"}, {"within", "0.1 %"}});
    d.add("heating power", {{"in", "s"}, {"within", "0.1 %"}});
    d.add("heat flow", {{"of", "faces"}, {"within", "0.1 %"}});
    const double sigma = medium.real() + 0.2 * medium.imag(),
                 q = 0.5 * sigma * (volts / L) * (volts / L), volume = 4e-3 * 3e-3 * L;
    const auto r = solved(d);
    QVERIFY(std::abs((valueOf(r, "highest temperature") - 300) / (q * L * L / (8 * k)) - 1) < 1e-4);
    QVERIFY(std::abs(valueOf(r, "heating power") / (q * volume) - 1) < 1e-6);
    QVERIFY(std::abs(valueOf(r, "heat flow") / (q * volume) - 1) < 1e-6);
    QVERIFY(balanced(r));
}

/// A slab, a resistance to the current, a slab, and a skin beside them: heat is made in all of
/// them, and what leaves is the power at the contacts.
void TstQuasistatic::allLossesWarm()
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "3 mm"}});
    for (const auto& [name, at] : {std::pair{"a", "0, 1 mm"}, {"b", "0, 3 mm"}}) {
        d.add("rectangle", {{"name", name}, {"width", "4 mm"}, {"height", "2 mm"}, {"at", at}});
        d.add("material", {{"material", std::string("gel ") + name},
                           {"in", name},
                           {"eps", "10"},
                           {"sigma", "1e-5 S/m"},
                           {"k", "0.5 W/m/K"}});
    }
    d.add("frequency", {{"value", "10 kHz"}});
    d.add("joint resistance", {{"value", "40 ohm*m^2"}, {"on", "a & b"}});
    d.add("contact", {{"name", "A"}, {"current", "3 mA"}, {"on", "b.top"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "a.bottom"}});
    d.add("held temperature",
          {{"name", "faces"}, {"value", "300 K"}, {"on", "b.top and a.bottom"}});
    d.add("current heats", {{"in", "a and b"}});
    d.add("impedance", {{"from", "A"}, {"to", "B"}, {"within", "0.1 %"}});
    d.add("heat flow", {{"of", "faces"}, {"within", "0.1 %"}});
    d.add("highest temperature", {{"in", "a"}, {"within", "0.1 %"}});
    const double area = 4e-3 * 3e-3;
    const std::complex<double> z = (4e-3 / medium + 40.0) / area;
    {
        const auto r = solved(d);
        const double power = 0.5 * 9e-6 * z.real(), joint = 0.5 * 9e-6 * 40 / area,
                     slabs = power - joint;
        QVERIFY(std::abs(valueOf(r, "resistance") / z.real() - 1) < 1e-6);
        QVERIFY(std::abs(valueOf(r, "reactance") / z.imag() - 1) < 1e-6);
        QVERIFY(std::abs(valueOf(r, "heat flow") / power - 1) < 1e-5);
        // Heat of the slabs as above over the whole length, that of the joint from the middle.
        const double rise = (slabs / 8 + joint / 4) * 4e-3 / (0.5 * area);
        QVERIFY2(std::abs((valueOf(r, "highest temperature") - 300) / rise - 1) < 1e-4,
                 qPrintable(QString::number(valueOf(r, "highest temperature") - 300)));
        QVERIFY(balanced(r));
    }
    d.add("conducting sheet",
          {{"name", "F"}, {"thickness", "2 um"}, {"material", "graphite"}, {"on", "b.top"}});
    d.add("current heats", {{"in", "F"}});
    for (auto& l : d.lines)
        if (l.kind == "contact" && l.get("name") == "A")
            l.values["on"] = "b.left";
    d.add("heating power", {{"in", "F and a and b"}, {"within", "0.1 %"}});
    const auto r = solved(d);
    const double at = 0.5 * 9e-6 * valueOf(r, "resistance");
    QVERIFY2(std::abs(valueOf(r, "heat flow") / at - 1) < 1e-3,
             qPrintable(QString("%1 %2").arg(valueOf(r, "heat flow")).arg(at)));
    QVERIFY(balanced(r));
}

void TstQuasistatic::filmInSeries_data()
{
    QTest::addColumn<QString>("space");
    QTest::addColumn<bool>("byCurrent");
    for (const char* s : {"plane", "axisymmetric", "solid"})
        for (const bool byCurrent : {false, true})
            QTest::addRow("%s, %s", s, byCurrent ? "current" : "voltage") << s << byCurrent;
}

void TstQuasistatic::filmInSeries()
{
    // A slab with a film of specific resistance before one contact: 1 / Y = f / A + L / (y A).
    QFETCH(QString, space);
    QFETCH(bool, byCurrent);
    constexpr double L = 1e-3, f = 40;
    double area = 0;
    Document d;
    if (space == "plane") {
        d.add("space", {{"type", "plane"}, {"depth", "10 mm"}});
        d.add("rectangle", {{"name", "s"}, {"width", "4 mm"}, {"height", "1 mm"}});
        area = 4e-3 * 10e-3;
    } else if (space == "axisymmetric") {
        d.add("space", {{"type", "axisymmetric"}});
        d.add("rectangle",
              {{"name", "s"}, {"width", "2 mm"}, {"height", "1 mm"}, {"at", "1 mm, 0"}});
        area = pi * 4e-6;
    } else {
        d.add("space", {{"type", "solid"}});
        d.add("box", {{"name", "s"}, {"width", "4 mm"}, {"length", "3 mm"}, {"height", "1 mm"}});
        area = 12e-6;
    }
    addMedium(d, "s");
    d.add("contact", {{"name", "A"},
                      byCurrent ? sheet::Values::Entry{"current", "3 mA"}
                                : sheet::Values::Entry{"voltage", "2 V"},
                      {"on", "s.top"},
                      {"film", "40 ohm*m^2"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "s.bottom"}});
    d.add("admittance", {{"from", "A"}, {"to", "B"}, {"within", "0.1 %"}});
    const auto r = solved(d);
    QVERIFY(isAdmittance(r, 1.0 / (f / area + L / (medium * area)), 1e-6));
    QVERIFY(balanced(r));
}

void TstQuasistatic::sheetInParallel_data()
{
    QTest::addColumn<bool>("solid");
    QTest::newRow("plane") << false;
    QTest::newRow("solid") << true;
}

void TstQuasistatic::sheetInParallel()
{
    // A bar with a thin layer along it: Y = (y A + ys t w) / L.
    QFETCH(bool, solid);
    constexpr double L = 10e-3, t = 2e-6, depth = 3e-3;
    Document d;
    if (solid) {
        d.add("space", {{"type", "solid"}});
        d.add("box", {{"name", "s"}, {"width", "10 mm"}, {"length", "3 mm"}, {"height", "2 mm"}});
    } else {
        d.add("space", {{"type", "plane"}, {"depth", "3 mm"}});
        d.add("rectangle", {{"name", "s"}, {"width", "10 mm"}, {"height", "2 mm"}});
    }
    addMedium(d, "s");
    d.add("conducting sheet",
          {{"name", "F"}, {"thickness", "2 um"}, {"material", "graphite"}, {"on", "s.top"}});
    d.add("contact", {{"name", "A"}, {"current", "1 mA"}, {"on", "s.left"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "s.right"}});
    d.add("admittance", {{"from", "A"}, {"to", "B"}, {"within", "0.1 %"}});
    const std::complex<double> sheet(1e5, 2 * pi * 1e4 * eps0);
    const auto r = solved(d);
    QVERIFY(isAdmittance(r, (medium * depth * 2e-3 + sheet * t * depth) / L, 1e-6));
    QVERIFY(balanced(r));
}

void TstQuasistatic::concentricSpheres()
{
    // Y = 4 pi y a b / (b - a) between spheres (Jackson, section 1.11, with a complex
    // permittivity), from an axisymmetric drawing and from an eighth of a solid.
    constexpr double a = 1e-3, b = 2e-3;
    const std::complex<double> exact = 4 * pi * medium * a * b / (b - a);
    Document flat;
    flat.add("space", {{"type", "axisymmetric"}});
    flat.add("disc", {{"name", "shell"}, {"radius", "2 mm"}});
    flat.add("disc", {{"name", "ball"}, {"radius", "1 mm"}});
    Document solid;
    solid.add("space", {{"type", "solid"}});
    solid.add("sphere", {{"name", "shell"}, {"radius", "2 mm"}});
    solid.add("sphere", {{"name", "ball"}, {"radius", "1 mm"}});
    for (const char* at : {"x = 0", "y = 0", "z = 0"})
        solid.add("mirror plane", {{"at", at}, {"kind", "even"}});
    for (Document* d : {&flat, &solid}) {
        addMedium(*d, "shell");
        d->add("material", {{"material", "copper"}, {"in", "ball"}});
        d->add("contact", {{"name", "A"}, {"voltage", "1 V"}, {"on", "ball"}});
        d->add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "shell.outer"}});
        d->add("admittance", {{"from", "A"}, {"to", "B"}, {"within", "0.3 %"}});
        const auto r = solved(*d);
        QVERIFY(isAdmittance(r, exact, d == &flat ? 1e-4 : 3e-3));
        QVERIFY(balanced(r));
    }
}

void TstQuasistatic::oddPlaneIsHalfOfAPair_data()
{
    QTest::addColumn<QString>("space");
    QTest::newRow("plane") << "plane";
    QTest::newRow("solid") << "solid";
}

void TstQuasistatic::oddPlaneIsHalfOfAPair()
{
    // Two pads on a slab, driven against each other: the half with an odd plane is the whole.
    QFETCH(QString, space);
    auto device = [&](bool half) {
        Document d;
        if (space == "plane") {
            d.add("space", {{"type", "plane"}, {"depth", "1 mm"}});
            d.add("rectangle", {{"name", "s"}, {"width", "8 mm"}, {"height", "2 mm"}});
        } else {
            d.add("space", {{"type", "solid"}});
            d.add("box",
                  {{"name", "s"}, {"width", "8 mm"}, {"length", "1 mm"}, {"height", "2 mm"}});
        }
        addMedium(d, "s");
        if (half)
            d.add("mirror plane", {{"at", "x = 0"}, {"kind", "odd"}});
        d.add("contact", {{"name", "A"}, {"voltage", "1 V"}, {"on", "s.right"}});
        d.add("contact", {{"name", "B"}, {"voltage", "-1 V"}, {"on", "s.left"}});
        d.add("admittance", {{"from", "A"}, {"to", "B"}, {"within", "0.1 %"}});
        d.add("heating power", {{"in", "s"}, {"within", "0.1 %"}});
        return solved(d);
    };
    const std::complex<double> exact = medium * 2e-3 * 1e-3 / 8e-3;
    for (const bool half : {false, true}) {
        const auto r = device(half);
        QVERIFY(isAdmittance(r, exact, 1e-6));
        QVERIFY(std::abs(valueOf(r, "heating power") / (0.5 * 4 * exact.real()) - 1) < 1e-6);
        QVERIFY(balanced(r));
    }
}

void TstQuasistatic::wrongLines_data()
{
    QTest::addColumn<QString>("what");
    QTest::addColumn<QString>("says");
    QTest::newRow("film round a region") << "film"
                                         << "lies on sides";
    QTest::newRow("sheet in a region") << "sheet"
                                       << "lies on sides";
    QTest::newRow("no mate") << "mate"
                             << "behind the odd plane";
    QTest::newRow("floating part") << "floating"
                                   << "undefined";
    QTest::newRow("unknown paint") << "paint"
                                   << "not in the library";
    QTest::newRow("one contact twice") << "twice"
                                       << "two different contacts";
}

void TstQuasistatic::wrongLines()
{
    QFETCH(QString, what);
    QFETCH(QString, says);
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 mm"}});
    d.add("rectangle", {{"name", "s"}, {"width", "8 mm"}, {"height", "2 mm"}});
    addMedium(d, "s");
    if (what == "film")
        d.add("contact", {{"name", "A"}, {"voltage", "1 V"}, {"on", "s"}, {"film", "1 ohm*m^2"}});
    else if (what == "floating")
        d.add("contact", {{"name", "A"}, {"current", "1 A"}, {"on", "s.right"}});
    else
        d.add("contact", {{"name", "A"}, {"voltage", "1 V"}, {"on", "s.right"}});
    if (what == "mate")
        d.add("mirror plane", {{"at", "x = 0"}, {"kind", "odd"}});
    if (what == "floating")
        d.add("contact", {{"name", "B"}, {"current", "-1 A"}, {"on", "s.left"}});
    else
        d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "s.left"}});
    if (what == "sheet" || what == "paint")
        d.add("conducting sheet", {{"name", "F"},
                                   {"thickness", "1 um"},
                                   {"material", what == "paint" ? "my paint" : "graphite"},
                                   {"on", what == "sheet" ? "s" : "s.top"}});
    d.add("admittance", {{"from", "A"}, {"to", what == "twice" ? "A" : "B"}});
    base::Progress progress;
    run::Outcome outcome{};
    const auto r = run::solve(d, {}, progress, outcome);
    bool said = false;
    for (const auto& f : r.report.faults)
        said = said || QString::fromStdString(f.text).contains(says);
    QVERIFY2(said, r.report.faults.empty() ? "nothing was said" : r.report.faults[0].text.c_str());
}

YH_TEST(TstQuasistatic)

}  // namespace tst_quasistatic

#include "tst_quasistatic.moc"
