// Current, heat and thermoelectric effects against closed forms and published examples.
#include "physics/transport/transport.h"
#include "program.h"
#include "solved.h"

#include <QtTest/QtTest>

#include <cmath>
#include <complex>
#include <random>

namespace tst_transport {

using namespace yh;
using physics::Point;
using sheet::Document;
using test::balanced;
using test::errorOf;
using test::solved;
using test::valueOf;

namespace {

constexpr double pi = 3.14159265358979323846;
constexpr double stefan = 5.670374419e-8;

Document rod(const std::string& material, const std::string& radius, const std::string& height)
{
    Document d;
    d.add("space", {{"type", "axisymmetric"}});
    d.add("rectangle",
          {{"name", "rod"}, {"width", radius}, {"height", height}, {"at", radius + "/2, 0"}});
    d.add("material", {{"material", material}, {"in", "rod"}});
    return d;
}

Document bar()
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 mm"}});
    d.add("rectangle", {{"name", "bar"}, {"width", "10 mm"}, {"height", "2 mm"}});
    d.add("material", {{"material", "copper"}, {"in", "bar"}});
    return d;
}

}  // namespace

class TstTransport : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void tangentsMatchDifferences();
    void ringSector();
    void vanDerPauw();
    void contactFilm_data();
    void contactFilm();
    void conductingSheet();
    void wallWithConvection();
    void cylinderShell();
    void sphereShellInSpace();
    void fin();
    void hotSpot();
    void radiatingWire();
    void nearRunaway();
    void noSteadyState();
    void largestCooling();
    void openCircuitVoltage();
    void performanceOfALeg();
    void resistanceMatrix();
    void resistanceMatrixAtAState();
    void meltedShare_data();
    void meltedShare();
    void mirrorPlaneGivesTheWhole();
    void oddPlaneGivesTheWhole();
    void wedgeGivesTheWhole();
    void outerFacesEndAtTheCut();
    void axisymmetricAndSolidAgree();
    void errorsCoverTheTruth();
    void wrongSheets_data();
    void wrongSheets();
    void limitIsTold();
    void slabAfterAStep();
    void transientsHoldTheirErrors();
    void lumpedBodyReachesAValue();
    void pulseEnds();
    void perfusedSlab();
    void freezingFront();
    void transientWithRadiationAndCurrent();
    void contactBetweenRegions_data();
    void contactBetweenRegions();
    void contactInSpaceAndTime();
    void wrongTransients_data();
    void wrongTransients();
};

void TstTransport::tangentsMatchDifferences()
{
    physics::TransportProblem p;
    p.current = p.heat = true;
    p.V = 0;
    p.T = 1;
    physics::Conduction c;
    c.sigma =
        physics::Property::ofTemperature([](double T) { return 1e5 / (1 + 0.004 * (T - 293)); });
    c.k = physics::Property::ofTemperature([](double T) { return 2 + 1e-3 * T; });
    c.seebeck = physics::Property::ofTemperature([](double T) { return 1e-4 + 2e-7 * T; });
    c.heats = c.follows = c.thermoelectric = true;
    p.pieces = {c};
    p.conducts = p.warms = {1};
    p.sides[0].exchange.push_back({0, 12.0, 0.8, 293.15});
    std::mt19937 random(17);
    std::uniform_real_distribution<double> uniform(-1, 1);
    auto state = [](const double* x) {
        fem::PointState s;
        s.piece = 0;
        for (int f = 0; f < 2; ++f) {
            s.u[f] = fem::Local::variable(x[f], f);
            for (int k = 0; k < 3; ++k)
                s.grad[f][k] = fem::Local::variable(x[2 + 3 * f + k], 2 + 3 * f + k);
        }
        return s;
    };
    for (int round = 0; round < 20; ++round) {
        double x[8] = {uniform(random), 400 + 100 * uniform(random)};
        for (int i = 2; i < 8; ++i)
            x[i] = (i < 5 ? 100 : 5e3) * uniform(random);
        for (const bool side : {false, true}) {
            auto terms = [&](const double* at) {
                fem::PointTerms t;
                if (side)
                    p.sideTerms(0, state(at), t);
                else
                    p.terms(state(at), t);
                return t;
            };
            const fem::PointTerms t = terms(x);
            for (int i = 0; i < 8; ++i) {
                double a[8], b[8];
                std::copy(x, x + 8, a);
                std::copy(x, x + 8, b);
                const double h = 1e-4 * std::max(1.0, std::abs(x[i]));
                a[i] += h;
                b[i] -= h;
                const fem::PointTerms u = terms(a), v = terms(b);
                auto same = [&](const fem::Local& of, const fem::Local& up,
                                const fem::Local& down) {
                    const double slope = (up.v - down.v) / (2 * h);
                    return std::abs(slope - of.d[i]) <
                           1e-4 * std::abs(slope) + 1e-9 * (std::abs(of.v) + 1) / h;
                };
                for (int f = 0; f < 2; ++f) {
                    QVERIFY(same(t.source[f], u.source[f], v.source[f]));
                    for (int k = 0; k < 3; ++k)
                        QVERIFY(same(t.flux[f][k], u.flux[f][k], v.flux[f][k]));
                }
            }
        }
    }
}

// Current round a bend: equipotentials are radii, R = rho angle / (t ln(b/a)), by the conformal
// map ln z (Smythe, Static and Dynamic Electricity, section 6.13, from memory).
void TstTransport::ringSector()
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "0.1 mm"}});
    d.add("disc", {{"name", "whole"}, {"radius", "3 mm"}, {"from", "0"}, {"to", "90 deg"}});
    d.add("disc", {{"name", "hole"}, {"radius", "1 mm"}});
    d.add("subtract", {{"name", "bend"}, {"of", "whole"}, {"by", "hole"}});
    d.add("material", {{"material", "foil"}, {"in", "bend"}, {"sigma", "1 MS/m"}});
    d.add("contact", {{"name", "A"}, {"current", "2 A"}, {"on", "on line y = 0"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "on line x = 0"}});
    d.add("resistance", {{"from", "A"}, {"to", "B"}, {"within", "0.01 %"}});
    d.add("current", {{"of", "A"}});
    const auto r = solved(d);
    const double exact = (pi / 2) / (1e6 * 1e-4 * std::log(3.0));
    QVERIFY(std::abs(valueOf(r, "resistance") / exact - 1) < 1e-4);
    QVERIFY(std::abs(valueOf(r, "current") - 2) < 1e-9);
    QVERIFY(balanced(r));
}

// van der Pauw, Philips Res. Rep. 13 (1958) 1 (from memory): for a disc with four small contacts a
// quarter apart, R = ln 2 / (pi sigma t). Contacts of finite width change it in second order.
void TstTransport::vanDerPauw()
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 mm"}});
    d.add("disc", {{"name", "sample"}, {"radius", "10 mm"}});
    d.add("disc", {{"name", "pad"},
                   {"radius", "0.1 mm"},
                   {"at", "10 mm, 0"},
                   {"copies", "4"},
                   {"turning", "90 deg"}});
    d.add("material", {{"material", "film"}, {"in", "sample and pad"}, {"sigma", "1 kS/m"}});
    d.add("contact", {{"name", "A"}, {"current", "1 A"}, {"on", "pad 1"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "pad 2"}});
    d.add("contact", {{"name", "C"}, {"current", "0 A"}, {"on", "pad 3"}});
    d.add("contact", {{"name", "D"}, {"current", "0 A"}, {"on", "pad 4"}});
    d.add("voltage", {{"of", "C"}, {"within", "0.1 %"}});
    d.add("voltage", {{"of", "D"}, {"within", "0.1 %"}});
    const auto r = solved(d);
    const double u = valueOf(r, "potential of D") - valueOf(r, "potential of C");
    QVERIFY2(std::abs(u / (std::log(2.0) / (pi * 1e3 * 1e-3)) - 1) < 2e-3,
             qPrintable(QString::number(u)));
}

void TstTransport::contactFilm_data()
{
    QTest::addColumn<bool>("byCurrent");
    QTest::newRow("voltage") << false;
    QTest::newRow("current") << true;
}

void TstTransport::contactFilm()
{
    // Resistances in series: bar and film.
    QFETCH(bool, byCurrent);
    Document d = bar();
    d.add("contact", {{"name", "A"},
                      byCurrent ? sheet::Values::Entry{"current", "2 A"}
                                : sheet::Values::Entry{"voltage", "1 V"},
                      {"on", "bar.left"},
                      {"film", "1e-9 ohm*m^2"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "bar.right"}});
    d.add("resistance", {{"from", "A"}, {"to", "B"}});
    const double area = 2e-6, exact = 1.678e-8 * 10e-3 / area + 1e-9 / area;
    const auto r = solved(d);
    QVERIFY(std::abs(valueOf(r, "resistance") / exact - 1) < 1e-7);
    QVERIFY(balanced(r));
}

void TstTransport::conductingSheet()
{
    // A copper skin on an insulator: R = L / (sigma t w).
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "5 mm"}});
    d.add("rectangle", {{"name", "board"}, {"width", "20 mm"}, {"height", "1 mm"}});
    d.add("material", {{"material", "epoxy glass laminate"}, {"in", "board"}});
    d.add("conducting sheet",
          {{"name", "F"}, {"thickness", "35 um"}, {"material", "copper"}, {"on", "board.top"}});
    d.add("contact", {{"name", "A"}, {"voltage", "1 mV"}, {"on", "board.left"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "board.right"}});
    d.add("held temperature", {{"name", "cold"}, {"value", "293.15 K"}, {"on", "board.bottom"}});
    d.add("current heats", {{"in", "F"}});
    d.add("resistance", {{"from", "A"}, {"to", "B"}});
    d.add("heating power", {{"in", "F"}});
    d.add("heat flow", {{"of", "cold"}});
    const auto r = solved(d);
    const double exact = 1.678e-8 * 20e-3 / (35e-6 * 5e-3);
    QVERIFY(std::abs(valueOf(r, "resistance") / exact - 1) < 1e-6);
    QVERIFY(std::abs(valueOf(r, "heating power") / (1e-6 / exact) - 1) < 1e-6);
    QVERIFY(std::abs(valueOf(r, "heat flow") / (1e-6 / exact) - 1) < 1e-6);
    QVERIFY(balanced(r));
}

// Incropera and DeWitt, Fundamentals of Heat and Mass Transfer, section 3.1 (from memory):
// resistances in series, 1/h1 + L/k + 1/h2.
void TstTransport::wallWithConvection()
{
    Document d = bar();
    d.add("convection",
          {{"name", "in"}, {"h", "800 W/m^2/K"}, {"to", "350 K"}, {"on", "bar.left"}});
    d.add("convection",
          {{"name", "out"}, {"h", "25 W/m^2/K"}, {"to", "290 K"}, {"on", "bar.right"}});
    d.add("heat flow", {{"of", "out"}});
    d.add("highest temperature", {{"in", "bar"}});
    const auto r = solved(d);
    const double flux = 60 / (1 / 800.0 + 0.01 / 401 + 1 / 25.0);
    QVERIFY(std::abs(valueOf(r, "heat flow") / (flux * 2e-6) - 1) < 1e-9);
    QVERIFY(std::abs(valueOf(r, "highest") - (350 - flux / 800)) < 1e-6);
    QVERIFY(balanced(r));
}

// Carslaw and Jaeger, section 7.2 (from memory): Q = 2 pi k L (T1 - T2) / ln(b/a).
void TstTransport::cylinderShell()
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("ring", {{"name", "pipe"}, {"inner", "10 mm"}, {"outer", "25 mm"}});
    d.add("material", {{"material", "steel"}, {"in", "pipe"}});
    d.add("held temperature", {{"name", "hot"}, {"value", "400 K"}, {"on", "pipe.inner"}});
    d.add("held temperature", {{"name", "cold"}, {"value", "300 K"}, {"on", "pipe.outer"}});
    d.add("heat flow", {{"of", "cold"}, {"within", "0.01 %"}});
    const auto r = solved(d);
    QVERIFY(std::abs(valueOf(r, "heat flow") / (2 * pi * 50 * 100 / std::log(2.5)) - 1) < 1e-5);
}

// Carslaw and Jaeger, section 9.2 (from memory): Q = 4 pi k a b (T1 - T2) / (b - a), in a solid.
void TstTransport::sphereShellInSpace()
{
    Document d;
    d.add("space", {{"type", "solid"}});
    d.add("sphere", {{"name", "shell"}, {"radius", "20 mm"}});
    d.add("sphere", {{"name", "core"}, {"radius", "10 mm"}});
    d.add("material", {{"material", "alumina 96 %"}, {"in", "shell and core"}});
    d.add("held temperature", {{"name", "hot"}, {"value", "400 K"}, {"on", "core"}});
    d.add("held temperature", {{"name", "cold"}, {"value", "300 K"}, {"on", "shell.outer"}});
    d.add("heat flow", {{"of", "cold"}, {"within", "1 %"}});
    const auto r = solved(d);
    const double exact = 4 * pi * 24 * 0.02 * 100;
    QVERIFY2(std::abs(valueOf(r, "heat flow") / exact - 1) < 2e-3,
             qPrintable(QString::number(valueOf(r, "heat flow") / exact - 1)));
    QVERIFY(std::abs(valueOf(r, "heat flow") - exact) < errorOf(r, "heat flow"));
    QVERIFY(balanced(r));
}

// Incropera and DeWitt, section 3.6, table 3.4 (from memory): a pin fin with an adiabatic tip gives
// off sqrt(h P k A) theta tanh(mL), m^2 = h P / (k A). Across the pin the temperature is even to
// the Biot number h r / k = 1e-4, which bounds the difference.
void TstTransport::fin()
{
    Document d = rod("aluminium", "2 mm", "80 mm");
    d.add("held temperature", {{"name", "root"}, {"value", "373.15 K"}, {"on", "rod.bottom"}});
    d.add("convection",
          {{"name", "air"}, {"h", "20 W/m^2/K"}, {"to", "293.15 K"}, {"on", "rod.right"}});
    d.add("heat flow", {{"of", "air"}, {"within", "0.01 %"}});
    d.add("lowest temperature", {{"in", "rod"}, {"within", "0.1 %"}});
    const auto r = solved(d);
    const double radius = 2e-3, area = pi * radius * radius, rim = 2 * pi * radius,
                 m = std::sqrt(20 * rim / (237 * area)), theta = 80;
    const double exact = std::sqrt(20 * rim * 237 * area) * theta * std::tanh(m * 0.08);
    QVERIFY2(std::abs(valueOf(r, "heat flow") / exact - 1) < 3e-4,
             qPrintable(QString::number(valueOf(r, "heat flow") / exact - 1)));
    QVERIFY(std::abs(valueOf(r, "lowest") - (293.15 + theta / std::cosh(m * 0.08))) < 0.02);
}

// Kohlrausch's theorem (Holm, Electric Contacts, 4th ed., section 13, from memory): whatever the
// shape, V^2 / 8 = integral of k rho dT from the ends to the hottest spot.
void TstTransport::hotSpot()
{
    Document d = rod("nickel chromium 80/20", "1 mm", "20 mm");
    d.add("contact", {{"name", "A"}, {"voltage", "0.4 V"}, {"on", "rod.top"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "rod.bottom"}});
    d.add("held temperature",
          {{"name", "ends"}, {"value", "293.15 K"}, {"on", "rod.top and rod.bottom"}});
    d.add("current heats", {{"in", "rod"}});
    d.add("resistivity follows temperature", {{"in", "rod"}});
    d.add("highest temperature", {{"in", "rod"}, {"within", "0.01 %"}});
    d.add("heat flow", {{"of", "ends"}});
    d.add("heating power", {{"in", "rod"}});
    const auto r = solved(d);
    // k rho0 (x + alpha x^2 / 2) = V^2 / 8 with x the rise.
    const double a = 1e-4, L = 0.4 * 0.4 / 8 / (11.3 * 1.09e-6);
    const double rise = (std::sqrt(1 + 2 * a * L) - 1) / a;
    QVERIFY(std::abs(valueOf(r, "highest") - 293.15 - rise) < 1e-5 * rise);
    QVERIFY(std::abs(valueOf(r, "heat flow") / valueOf(r, "heating power") - 1) < 1e-9);
    QVERIFY(balanced(r));
}

void TstTransport::radiatingWire()
{
    // Power by length equals what the surface radiates; the drop across the thin wire is
    // P' / (4 pi k), a thousandth of the rise, from the axis to the surface.
    Document d = rod("tungsten", "1 mm", "5 mm");
    d.add("contact", {{"name", "A"}, {"current", "60 A"}, {"on", "rod.top"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "rod.bottom"}});
    d.add("radiation", {{"name", "glow"}, {"emissivity", "0.3"}, {"on", "rod.right"}});
    d.add("current heats", {{"in", "rod"}});
    d.add("resistivity follows temperature", {{"in", "rod"}});
    d.add("mean temperature", {{"in", "rod"}});
    d.add("heat flow", {{"of", "glow"}});
    const auto r = solved(d);
    double T = 1000;
    for (int i = 0; i < 200; ++i) {
        const double rho = 5.28e-8 * (1 + 0.0045 * (T - 293.15)),
                     power = 60 * 60 * rho / (pi * 1e-6);
        T = std::pow(power / (0.3 * stefan * 2 * pi * 1e-3) + std::pow(293.15, 4), 0.25);
    }
    QVERIFY2(std::abs(valueOf(r, "mean") - T) < 1e-3 * T, qPrintable(QString::number(T)));
    QVERIFY(balanced(r));
}

namespace {

/// A copper rod with cold ends whose resistivity rises with temperature. At constant current the
/// rise is (1 / cos(b L / 2) - 1) / alpha with b^2 = J^2 rho alpha / k: it ends where b L = pi.
Document runaway(const std::string& current)
{
    Document d = rod("copper", "1 mm", "20 mm");
    d.add("contact", {{"name", "A"}, {"current", current}, {"on", "rod.top"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "rod.bottom"}});
    d.add("held temperature",
          {{"name", "ends"}, {"value", "293.15 K"}, {"on", "rod.top and rod.bottom"}});
    d.add("current heats", {{"in", "rod"}});
    d.add("resistivity follows temperature", {{"in", "rod"}});
    d.add("highest temperature", {{"in", "rod"}, {"within", "0.1 %"}});
    return d;
}

}  // namespace

void TstTransport::nearRunaway()
{
    for (const double current : {500.0, 1000.0, 1100.0}) {
        const auto r = solved(runaway(std::to_string(current) + " A"));
        const double J = current / (pi * 1e-6), b = J * std::sqrt(1.678e-8 * 0.0039 / 401);
        const double rise = (1 / std::cos(b * 0.01) - 1) / 0.0039;
        QVERIFY2(std::abs(valueOf(r, "highest") - 293.15 - rise) < 1e-3 * rise,
                 qPrintable(QString::number(current)));
    }
}

void TstTransport::noSteadyState()
{
    const auto r = solved(runaway("2500 A"));
    QCOMPARE(r.report.faults.size(), size_t(1));
    QCOMPARE(r.report.faults[0].number, 5011);
    QVERIFY(r.report.faults[0].text.find("no steady state at the given drives") !=
            std::string::npos);
}

namespace {

/// One leg of 2 mm x 2 mm x 5 mm with its cold end free and its hot end held at 300 K.
Document leg(const std::string& current)
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "2 mm"}});
    d.add("rectangle", {{"name", "leg"}, {"width", "2 mm"}, {"height", "5 mm"}});
    d.add("material", {{"material", "alloy"},
                       {"in", "leg"},
                       {"sigma", "1e5 S/m"},
                       {"k", "1.5 W/m/K"},
                       {"seebeck", "200 uV/K"}});
    d.add("contact", {{"name", "A"}, {"current", current}, {"on", "leg.top"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "leg.bottom"}});
    d.add("held temperature", {{"name", "base"}, {"value", "300 K"}, {"on", "leg.bottom"}});
    d.add("thermoelectric", {{"in", "leg"}});
    d.add("lowest temperature", {{"in", "leg"}, {"within", "0.01 %"}});
    d.add("voltage", {{"of", "A"}});
    return d;
}

}  // namespace

// Goldsmid, Introduction to Thermoelectricity, section 1.3 (from memory): the largest difference is
// Z Tc^2 / 2, at I = alpha Tc / R.
void TstTransport::largestCooling()
{
    const double Z = 200e-6 * 200e-6 * 1e5 / 1.5, Tc = (std::sqrt(1 + 2 * Z * 300) - 1) / Z;
    const double R = 5e-3 / (1e5 * 4e-6), current = 200e-6 * Tc / R;
    // A current that leaves at the cold end carries its heat to the base.
    const auto r = solved(leg(std::to_string(-current) + " A"));
    const auto other = solved(leg(std::to_string(current) + " A"));
    const double coldest = std::min(valueOf(r, "lowest"), valueOf(other, "lowest"));
    QVERIFY2(std::abs((300 - coldest) / (Z * Tc * Tc / 2) - 1) < 2e-3,
             qPrintable(QString::number(coldest)));
    // Beside the optimum less is reached.
    const double less =
        std::min(valueOf(solved(leg(std::to_string(0.7 * current) + " A")), "lowest"),
                 valueOf(solved(leg(std::to_string(-0.7 * current) + " A")), "lowest"));
    QVERIFY(less > coldest + 1);
}

void TstTransport::openCircuitVoltage()
{
    Document d = leg("0 A");
    d.add("held temperature", {{"name", "warm"}, {"value", "340 K"}, {"on", "leg.top"}});
    const auto r = solved(d);
    QVERIFY(std::abs(std::abs(valueOf(r, "potential")) / (200e-6 * 40) - 1) < 1e-9);
}

// Goldsmid, section 1.3 (from memory): with R and K of the leg,
//   Qc = alpha I Tc - I^2 R / 2 - K (Th - Tc),   W = alpha I (Th - Tc) + I^2 R,
// and as a generator Qh = alpha I Th - I^2 R / 2 + K (Th - Tc), W = alpha I (Th - Tc) - I^2 R.
void TstTransport::performanceOfALeg()
{
    constexpr double alpha = 200e-6, R = 5e-3 / (1e5 * 4e-6), K = 1.5 * 4e-6 / 5e-3;
    auto asked = [&](double current, double top, const char* kind) {
        Document d = leg(std::to_string(current) + " A");
        d.add("held temperature",
              {{"name", "load"}, {"value", std::to_string(top) + " K"}, {"on", "leg.top"}});
        d.add(kind, {{"of", "load"}, {"within", "0.01 %"}});
        return valueOf(solved(d), kind[0] == 'p' ? "coefficient" : "generator");
    };
    const double I = 3, Tc = 280, Th = 300,
                 cop = (alpha * I * Tc - I * I * R / 2 - K * (Th - Tc)) /
                       (alpha * I * (Th - Tc) + I * I * R);
    const double here = std::max(asked(-I, Tc, "performance"), asked(I, Tc, "performance"));
    QVERIFY2(std::abs(here / cop - 1) < 1e-4, qPrintable(QString("%1 %2").arg(here).arg(cop)));
    const double i = 0.3, hot = 340,
                 efficiency = (alpha * i * (hot - Th) - i * i * R) /
                              (alpha * i * hot - i * i * R / 2 + K * (hot - Th));
    const double given =
        std::max(asked(-i, hot, "generator efficiency"), asked(i, hot, "generator efficiency"));
    QVERIFY2(std::abs(given / efficiency - 1) < 1e-4,
             qPrintable(QString("%1 %2").arg(given).arg(efficiency)));
}

void TstTransport::resistanceMatrix()
{
    // Two strips end to end with a contact where they meet: two resistors in series.
    auto strips = [](const std::map<std::string, std::string>& middle) {
        Document d;
        d.add("space", {{"type", "plane"}, {"depth", "1 mm"}});
        d.add("rectangle",
              {{"name", "a"}, {"width", "2 mm"}, {"height", "1 mm"}, {"at", "1 mm, 0"}});
        d.add("rectangle",
              {{"name", "b"}, {"width", "6 mm"}, {"height", "1 mm"}, {"at", "5 mm, 0"}});
        d.add("material", {{"material", "film"}, {"in", "a and b"}, {"sigma", "1000 S/m"}});
        d.add("contact", {{"name", "G"}, {"voltage", "0 V"}, {"on", "a.left"}});
        std::map<std::string, std::string> m = middle;
        m["name"] = "M";
        m["on"] = "a.right";
        d.add("contact", m);
        d.add("contact", {{"name", "E"}, {"voltage", "1 V"}, {"on", "b.right"}});
        d.add("resistance matrix", {{"reference", "G"}});
        return d;
    };
    for (const auto& middle : {std::map<std::string, std::string>{{"voltage", "2 V"}},
                               {{"current", "1 A"}},
                               {{"current", "0 A"}}}) {
        const auto r = solved(strips(middle));
        QCOMPARE(r.report.findings.size(), size_t(1));
        const auto& f = r.report.findings[0];
        QCOMPARE(f.conductors, (std::vector<std::string>{"M", "E"}));
        const double exact[4] = {2, 2, 2, 8};
        for (size_t k = 0; k < 4; ++k)
            QVERIFY2(std::abs(f.value[k] / exact[k] - 1) < 1e-9,
                     qPrintable(QString::number(f.value[k], 'g', 12)));
        QVERIFY(f.met && f.note.empty());
    }
    // A quarter of a plate stands for the whole: four contacts on its rim, two before each plane,
    // give the same resistances as two resistances asked one by one.
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 mm"}});
    d.add("rectangle", {{"name", "plate"}, {"width", "8 mm"}, {"height", "6 mm"}});
    d.add("material", {{"material", "film"}, {"in", "plate"}, {"sigma", "1000 S/m"}});
    d.add("contact", {{"name", "A"}, {"current", "1 A"}, {"on", "plate.top"}});
    d.add("contact",
          {{"name", "B"}, {"voltage", "0 V"}, {"on", "plate.right"}, {"film", "1 ohm*mm^2"}});
    d.add("mirror plane", {{"at", "x = 0"}, {"kind", "even"}});
    d.add("mirror plane", {{"at", "y = 0"}, {"kind", "even"}});
    d.add("resistance", {{"from", "A"}, {"to", "B"}, {"within", "0.1 %"}});
    d.add("resistance matrix", {{"within", "0.1 %"}});
    const auto r = solved(d);
    QVERIFY(std::abs(valueOf(r, "resistance matrix") / valueOf(r, "resistance A") - 1) < 1e-3);
    // Currents that have no way to be counted.
    QVERIFY(test::isRefused(
        [] {
            Document one;
            one.add("rectangle", {{"name", "a"}, {"width", "2 mm"}, {"height", "1 mm"}});
            one.add("material", {{"material", "film"}, {"in", "a"}, {"sigma", "1000 S/m"}});
            one.add("contact", {{"name", "G"}, {"voltage", "0 V"}, {"on", "a.left"}});
            one.add("resistance matrix", {});
            return one;
        }(),
        7051));
}

void TstTransport::resistanceMatrixAtAState()
{
    // A wire whose resistivity rises with its temperature: how much more voltage more current takes
    // is the slope of its own curve.
    auto at = [](double current, bool matrix) {
        Document d;
        d.add("space", {{"type", "plane"}, {"depth", "1 mm"}});
        d.add("rectangle", {{"name", "wire"}, {"width", "20 mm"}, {"height", "1 mm"}});
        d.add("material", {{"material", "metal"},
                           {"in", "wire"},
                           {"sigma", "1e6 S/m/(1 + (T - 293.15 K)/(200 K))"},
                           {"k", "50 W/m/K"}});
        d.add("contact",
              {{"name", "A"}, {"current", std::to_string(current) + " A"}, {"on", "wire.left"}});
        d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "wire.right"}});
        d.add("held temperature",
              {{"name", "ends"}, {"value", "293.15 K"}, {"on", "wire.left and wire.right"}});
        d.add("current heats", {{"in", "wire"}});
        d.add("resistivity follows temperature", {{"in", "wire"}});
        if (matrix)
            d.add("resistance matrix", {{"within", "0.01 %"}});
        else
            d.add("voltage", {{"of", "A"}, {"within", "0.001 %"}});
        return solved(d);
    };
    constexpr double I = 6, step = 0.01;
    const auto r = at(I, true);
    const double slope =
        (valueOf(at(I + step, false), "potential") - valueOf(at(I - step, false), "potential")) /
        (2 * step);
    const double whole = valueOf(at(I, false), "potential") / I;
    QVERIFY(slope > 1.05 * whole);
    QVERIFY2(std::abs(valueOf(r, "resistance") / slope - 1) < 2e-4,
             qPrintable(QString("%1 %2").arg(valueOf(r, "resistance")).arg(slope)));
    QVERIFY(!r.report.findings[0].note.empty());
}

void TstTransport::meltedShare_data()
{
    QTest::addColumn<int>("which");
    QTest::newRow("wall") << 0;
    QTest::newRow("tube") << 1;
    QTest::newRow("solid wall") << 2;
}

void TstTransport::meltedShare()
{
    // A wall is warmer than 500 K in the third next to its hot side; in a tube the logarithm of
    // the radius tells (Carslaw and Jaeger, section 7.2, from memory).
    QFETCH(int, which);
    Document d;
    double exact = 1.0 / 3;
    if (which == 0) {
        d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
        d.add("rectangle", {{"name", "wall"}, {"width", "3 mm"}, {"height", "2 mm"}});
        d.add("held temperature", {{"name", "hot"}, {"value", "600 K"}, {"on", "wall.left"}});
        d.add("held temperature", {{"name", "cold"}, {"value", "300 K"}, {"on", "wall.right"}});
    } else if (which == 1) {
        d.add("space", {{"type", "axisymmetric"}});
        d.add("rectangle",
              {{"name", "wall"}, {"width", "2 mm"}, {"height", "1 mm"}, {"at", "2 mm, 0"}});
        d.add("held temperature", {{"name", "hot"}, {"value", "600 K"}, {"on", "wall.left"}});
        d.add("held temperature", {{"name", "cold"}, {"value", "300 K"}, {"on", "wall.right"}});
        exact = (std::pow(3, 2.0 / 3) - 1) / 8;
    } else {
        d.add("space", {{"type", "solid"}});
        d.add("box", {{"name", "wall"}, {"width", "3 mm"}, {"length", "2 mm"}, {"height", "2 mm"}});
        d.add("held temperature", {{"name", "hot"}, {"value", "600 K"}, {"on", "wall.left"}});
        d.add("held temperature", {{"name", "cold"}, {"value", "300 K"}, {"on", "wall.right"}});
    }
    d.add("material", {{"material", "wax"}, {"in", "wall"}, {"k", "2 W/m/K"}});
    d.add("melted share", {{"in", "wall"}, {"melting", "500 K"}, {"within", "0.2 %"}});
    const auto r = solved(d);
    QVERIFY2(std::abs(valueOf(r, "melted") - exact) < 5e-4,
             qPrintable(QString("%1 %2").arg(valueOf(r, "melted"), 0, 'g', 8).arg(exact)));
    QVERIFY(r.report.findings[0].met);
    d.set(d.ofKind("melted share")[0]->id, "melting", "");
    QVERIFY(test::isRefused(d, 7053));
}

void TstTransport::mirrorPlaneGivesTheWhole()
{
    auto device = [](bool half) {
        Document d = bar();
        d.add("contact", {{"name", "A"}, {"current", "30 A"}, {"on", "bar.left"}});
        d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "bar.right"}});
        d.add("convection",
              {{"name", "air"}, {"h", "40 W/m^2/K"}, {"on", "bar.top and bar.bottom"}});
        d.add("held temperature", {{"name", "end"}, {"value", "293.15 K"}, {"on", "bar.right"}});
        d.add("current heats", {{"in", "bar"}});
        d.add("resistivity follows temperature", {{"in", "bar"}});
        if (half)
            d.add("mirror plane", {{"at", "y = 0"}, {"kind", "even"}});
        d.add("resistance", {{"from", "A"}, {"to", "B"}, {"within", "0.01 %"}});
        d.add("heat flow", {{"of", "air"}, {"within", "0.01 %"}});
        d.add("highest temperature", {{"in", "bar"}, {"within", "0.01 %"}});
        return d;
    };
    const auto whole = solved(device(false)), half = solved(device(true));
    for (const char* name : {"resistance", "heat flow", "highest"})
        QVERIFY2(std::abs(valueOf(half, name) / valueOf(whole, name) - 1) < 1e-5, name);
}

void TstTransport::oddPlaneGivesTheWhole()
{
    // A bar with a notch, current in on the left and out on the right: odd about x = 0.
    auto make = [](bool half, bool byCurrent) {
        Document d = bar();
        d.add("disc", {{"name", "notch"}, {"radius", "0.8 mm"}, {"at", "0, 1 mm"}});
        d.add("material", {{"material", "air"}, {"in", "notch"}});
        const char* key = byCurrent ? "current" : "voltage";
        d.add("contact", {{"name", "A"}, {key, byCurrent ? "2 A" : "1 mV"}, {"on", "bar.right"}});
        d.add("contact", {{"name", "B"}, {key, byCurrent ? "-2 A" : "-1 mV"}, {"on", "bar.left"}});
        d.add("held temperature",
              {{"name", "sink"}, {"value", "300 K"}, {"on", "bar.left and bar.right"}});
        d.add("current heats", {{"in", "bar"}});
        if (byCurrent && !half)
            for (auto& l : d.lines)
                if (l.name() == "B")
                    l.values = {{"name", "B"}, {"voltage", "0 V"}, {"on", "bar.left"}};
        if (half)
            d.add("mirror plane", {{"at", "x = 0"}, {"kind", "odd"}});
        d.add("resistance", {{"from", "A"}, {"to", "B"}, {"within", "0.05 %"}});
        d.add("heating power", {{"in", "bar"}, {"within", "0.05 %"}});
        d.add("highest temperature", {{"in", "bar"}, {"within", "0.1 %"}});
        d.add("current", {{"of", "B"}, {"within", "0.05 %"}});
        return d;
    };
    for (const bool byCurrent : {false, true}) {
        const auto whole = solved(make(false, byCurrent)), half = solved(make(true, byCurrent));
        for (const char* name : {"resistance", "heating power", "highest temperature", "current"}) {
            const double a = valueOf(whole, name), b = valueOf(half, name);
            QVERIFY2(std::abs(b / a - 1) < 1e-3,
                     qPrintable(QString("%1 %2 %3").arg(name).arg(a).arg(b)));
        }
        QVERIFY(balanced(half));
    }
}

void TstTransport::wedgeGivesTheWhole()
{
    // A disc heated in six pins and cooled at its rim: a wedge of 30 degrees is enough.
    auto make = [](bool wedge) {
        Document d;
        d.add("space", {{"type", "plane"}, {"depth", "2 mm"}});
        d.add("disc", {{"name", "plate"}, {"radius", "10 mm"}});
        d.add("disc", {{"name", "pin"},
                       {"radius", "1.5 mm"},
                       {"at", "5 mm, 0"},
                       {"copies", "6"},
                       {"turning", "60 deg"}});
        d.add("material", {{"material", "aluminium"}, {"in", "plate"}});
        d.add("material", {{"material", "copper"}, {"in", "pin"}});
        d.add("heat source", {{"name", "load"}, {"density", "1e7 W/m^3"}, {"in", "pin"}});
        d.add("convection",
              {{"name", "air"}, {"h", "500 W/m^2/K"}, {"to", "293 K"}, {"on", "outer of plate"}});
        if (wedge)
            d.add("wedge symmetry", {{"angle", "30 deg"}});
        d.add("highest temperature", {{"in", "plate"}, {"within", "0.05 %"}});
        d.add("mean temperature", {{"in", "pin"}, {"within", "0.05 %"}});
        d.add("heat flow", {{"of", "air"}, {"within", "0.05 %"}});
        return d;
    };
    const auto whole = solved(make(false)), wedge = solved(make(true));
    for (const char* name : {"highest temperature", "mean temperature"})
        QVERIFY2(
            std::abs((valueOf(wedge, name) - 293) / (valueOf(whole, name) - 293) - 1) < 1e-3,
            qPrintable(
                QString("%1 %2 %3").arg(name).arg(valueOf(wedge, name)).arg(valueOf(whole, name))));
    // All six pins: 6 pi r^2 depth times the density.
    const double exact = 6 * pi * 1.5e-3 * 1.5e-3 * 2e-3 * 1e7;
    QVERIFY(std::abs(valueOf(wedge, "heat flow") / exact - 1) < 1e-3);
    QVERIFY(balanced(wedge));
    // An angle that does not divide the turn is refused at its place.
    Document d = make(true);
    for (auto& l : d.lines)
        if (l.kind == "wedge symmetry")
            l.values["angle"] = "50 deg";
    base::Progress progress;
    run::Outcome outcome{};
    QVERIFY(run::solve(d, {}, progress, outcome).report.faults.front().text.find("360 deg") !=
            std::string::npos);
}

void TstTransport::outerFacesEndAtTheCut()
{
    // Convection on all outer sides of a half: none where the mirror plane cuts.
    auto make = [](bool half) {
        Document d = bar();
        d.add("heat source", {{"name", "load"}, {"power", "1 W"}, {"in", "bar"}});
        d.add("convection",
              {{"name", "air"}, {"h", "50 W/m^2/K"}, {"to", "293 K"}, {"on", "outer of bar"}});
        if (half)
            d.add("mirror plane", {{"at", "y = 0"}, {"kind", "even"}});
        d.add("mean temperature", {{"in", "bar"}, {"within", "0.05 %"}});
        return d;
    };
    const double whole = valueOf(solved(make(false)), "mean"),
                 half = valueOf(solved(make(true)), "mean");
    QVERIFY2(std::abs((half - 293) / (whole - 293) - 1) < 1e-3,
             qPrintable(QString("%1 %2").arg(whole).arg(half)));
}

void TstTransport::axisymmetricAndSolidAgree()
{
    auto device = [](bool solid, bool quarter) {
        Document d;
        d.add("space", {{"type", solid ? "solid" : "axisymmetric"}});
        if (solid) {
            d.add("cylinder", {{"name", "body"}, {"radius", "5 mm"}, {"height", "4 mm"}});
            d.add("cylinder",
                  {{"name", "die"}, {"radius", "2 mm"}, {"height", "1 mm"}, {"at", "0, 0, 4 mm"}});
        } else {
            d.add(
                "rectangle",
                {{"name", "body"}, {"width", "5 mm"}, {"height", "4 mm"}, {"at", "2.5 mm, 2 mm"}});
            d.add("rectangle",
                  {{"name", "die"}, {"width", "2 mm"}, {"height", "1 mm"}, {"at", "1 mm, 4.5 mm"}});
        }
        d.add("material", {{"material", "alumina 96 %"}, {"in", "body"}});
        d.add("material", {{"material", "silicon"}, {"in", "die"}});
        d.add("heat source", {{"name", "chip"}, {"power", "5 W"}, {"in", "die"}});
        d.add("held temperature", {{"name", "sink"}, {"value", "300 K"}, {"on", "body.bottom"}});
        if (quarter) {
            d.add("mirror plane", {{"at", "x = 0"}, {"kind", "even"}});
            d.add("mirror plane", {{"at", "y = 0"}, {"kind", "even"}});
        }
        d.add("mean temperature", {{"in", "die"}, {"within", solid ? "2 %" : "0.1 %"}});
        d.add("heat flow", {{"of", "sink"}});
        return d;
    };
    const auto axi = solved(device(false, false)), solid = solved(device(true, false)),
               quarter = solved(device(true, true));
    for (const auto* r : {&solid, &quarter}) {
        QVERIFY2(std::abs(valueOf(*r, "mean") - valueOf(axi, "mean")) <
                     errorOf(*r, "mean") + errorOf(axi, "mean"),
                 qPrintable(QString::number(valueOf(*r, "mean") - valueOf(axi, "mean"))));
        // The power is spread over the exact volume, which quadratic sides miss by some 1e-4.
        QVERIFY(std::abs(valueOf(*r, "heat flow") / 5 - 1) < 1e-3);
        QVERIFY(balanced(*r));
    }
}

void TstTransport::errorsCoverTheTruth()
{
    // Bends of several widths, asked to 0.1 %: the truth lies within the stated error.
    int covered = 0, all = 0;
    for (const double ratio : {1.5, 2.0, 4.0, 8.0, 15.0})
        for (const double angle : {30.0, 90.0, 200.0}) {
            Document d;
            d.add("space", {{"type", "plane"}, {"depth", "1 mm"}});
            d.add("disc", {{"name", "whole"},
                           {"radius", std::to_string(ratio) + " mm"},
                           {"from", "0"},
                           {"to", std::to_string(angle) + " deg"}});
            d.add("disc", {{"name", "hole"}, {"radius", "1 mm"}});
            d.add("subtract", {{"name", "bend"}, {"of", "whole"}, {"by", "hole"}});
            d.add("material", {{"material", "foil"}, {"in", "bend"}, {"sigma", "1 MS/m"}});
            d.add("contact", {{"name", "A"}, {"voltage", "1 V"}, {"on", "nearest to 1.2 mm, 0"}});
            char place[80];
            std::snprintf(place, sizeof place, "nearest to %.6f mm, %.6f mm",
                          1.2 * std::cos(angle * pi / 180), 1.2 * std::sin(angle * pi / 180));
            d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", place}});
            d.add("resistance", {{"from", "A"}, {"to", "B"}, {"within", "0.1 %"}});
            const auto r = solved(d);
            const double exact = angle * pi / 180 / (1e6 * 1e-3 * std::log(ratio));
            ++all;
            const double off = std::abs(valueOf(r, "resistance") - exact);
            covered += off < errorOf(r, "resistance");
            if (!(off < errorOf(r, "resistance")))
                qWarning("ratio %g angle %g: off %.1e, stated %.1e", ratio, angle, off / exact,
                         errorOf(r, "resistance") / exact);
        }
    QVERIFY2(10 * covered >= 9 * all, qPrintable(QString::number(covered)));
}

void TstTransport::wrongSheets_data()
{
    QTest::addColumn<QString>("what");
    QTest::addColumn<int>("number");
    QTest::newRow("no way out for the current") << "current" << 6140;
    QTest::newRow("no way out for heat") << "heat" << 6141;
    QTest::newRow("radiating between solids") << "radiating" << 6136;
    QTest::newRow("contact on an insulator") << "insulator" << 6138;
    QTest::newRow("voltage and current") << "both" << 2022;
    QTest::newRow("unknown material") << "unknown" << 6132;
    QTest::newRow("two fields in one sheet") << "mixed" << 2050;
}

void TstTransport::wrongSheets()
{
    QFETCH(QString, what);
    QFETCH(int, number);
    Document d = bar();
    const bool current = what == "current";
    d.add("contact", {{"name", "A"},
                      {current ? "current" : "voltage", current ? "1 A" : "1 V"},
                      {"on", "bar.left"}});
    if (!current)
        d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "bar.right"}});
    d.add("heating power", {{"in", "bar"}});
    if (what == "heat")
        d.add("heat flux", {{"name", "sun"}, {"flux", "800 W/m^2"}, {"on", "bar.top"}});
    if (what == "radiating" || what == "insulator") {
        d.add("rectangle",
              {{"name", "lid"}, {"width", "10 mm"}, {"height", "1 mm"}, {"at", "0, 1.5 mm"}});
        d.add("material", {{"material", "polyimide"}, {"in", "lid"}});
        d.add("held temperature", {{"name", "cold"}, {"value", "293.15 K"}, {"on", "bar.bottom"}});
        if (what == "radiating")
            d.add("radiation", {{"name", "glow"}, {"emissivity", "0.8"}, {"on", "lid & bar"}});
        else
            d.add("contact", {{"name", "C"}, {"voltage", "0 V"}, {"on", "lid.top"}});
    }
    if (what == "both")
        for (const auto& l : std::vector(d.lines))
            if (l.name() == "A")
                d.set(l.id, "current", "2 A");
    if (what == "unknown")
        for (const auto& l : std::vector(d.lines))
            if (l.kind == "material")
                d.set(l.id, "material", "unobtainium");
    if (what == "mixed")
        d.add("electrode", {{"name", "E"}, {"voltage", "1 V"}, {"on", "bar.top"}});
    const auto faults = run::faultsOf(sheet::Model(d), ".");
    QVERIFY2(std::any_of(faults.begin(), faults.end(),
                         [&](const base::Fault& f) { return f.number == number; }),
             qPrintable(faults.empty() ? "no fault" : QString::fromStdString(faults[0].text)));
}

void TstTransport::limitIsTold()
{
    Document d = rod("tin", "1 mm", "10 mm");
    d.add("heat source", {{"name", "s"}, {"power", "40 W"}, {"in", "rod"}});
    d.add("held temperature", {{"name", "end"}, {"value", "293.15 K"}, {"on", "rod.bottom"}});
    d.add("highest temperature", {{"in", "rod"}});
    const auto r = solved(d);
    bool told = false;
    for (const auto& c : r.report.checks)
        told = told || (c.id == "temperature limit" && c.state == run::Check::State::bad &&
                        c.text.find("'rod' reaches") == 0);
    QVERIFY(told);
}

/// A slab of half thickness L with a material of round numbers: a = k / (rho c) = 1e-5 m^2/s.
Document slab(const std::string& length = "10 mm")
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("rectangle", {{"name", "slab"}, {"width", length}, {"height", "2 mm"}});
    d.add("material", {{"material", "test metal"},
                       {"in", "slab"},
                       {"k", "20 W/m/K"},
                       {"density", "4000 kg/m^3"},
                       {"heatCapacity", "500 J/kg/K"}});
    return d;
}

void TstTransport::slabAfterAStep()
{
    // Slab of thickness L, its left side insulated, its right side held from t = 0 on:
    //   (T - T1) / (T0 - T1) = sum 4 (-1)^n / ((2n+1) pi) cos((2n+1) pi x / 2L)
    //                              exp(-((2n+1) pi / 2)^2 Fo)
    // (Carslaw and Jaeger, Conduction of Heat in Solids, 2nd ed., section 3.4, from memory).
    Document d = slab();
    d.add("held temperature", {{"name", "bath"}, {"value", "400 K"}, {"on", "slab.right"}});
    d.add("transient", {{"duration", "6 s"}, {"start", "300 K"}});
    d.add("temperature at", {{"at", "-5 mm, 0"}, {"after", "2 s"}, {"within", "0.2 %"}});
    d.add("temperature at", {{"at", "-5 mm, 0"}, {"within", "0.2 %"}});
    d.add("mean temperature", {{"in", "slab"}, {"after", "2 s"}, {"within", "0.2 %"}});
    d.add("heat flow", {{"of", "bath"}, {"after", "2 s"}, {"within", "0.5 %"}});
    auto series = [](double fo, int what) {
        double sum = 0;
        for (int n = 0; n < 200; ++n) {
            const double k = (2 * n + 1) * pi / 2, sign = n % 2 ? -1 : 1;
            sum += std::exp(-k * k * fo) * (what == 0   ? 2 * sign / k
                                            : what == 1 ? 2 / (k * k)
                                                        : 2.0);
        }
        return sum;
    };
    const auto r = solved(d);
    const auto& f = r.report.findings;
    const double fo = 1e-5 * 2 / 1e-4;
    const double exact[4] = {400 - 100 * series(fo, 0), 400 - 100 * series(3 * fo, 0),
                             400 - 100 * series(fo, 1), -20 * 100 / 10e-3 * series(fo, 2) * 2e-3};
    for (size_t k = 0; k < 4; ++k) {
        const double rise = k == 3 ? std::abs(exact[3]) : exact[k] - 300;
        QVERIFY2(std::abs(f[k].value[0] - exact[k]) < 0.005 * rise,
                 qPrintable(QString("%1: %2 %3")
                                .arg(k)
                                .arg(f[k].value[0], 0, 'g', 8)
                                .arg(exact[k], 0, 'g', 8)));
        QVERIFY2(std::abs(f[k].value[0] - exact[k]) < f[k].error[0],
                 qPrintable(QString("%1: off %2, stated %3")
                                .arg(k)
                                .arg(f[k].value[0] - exact[k])
                                .arg(f[k].error[0])));
    }
    QVERIFY(balanced(r));
}

void TstTransport::transientsHoldTheirErrors()
{
    // The slab of slabAfterAStep() for three cases at its right side, and a slab that starts from
    // rest under a flow of heat; every figure at several times, at two accuracies asked for.
    //   held:       T - T1 by the series there
    //   convection: the series of Carslaw and Jaeger, section 3.11, roots of b tan b = Bi
    //   flow q:     (T - T0) k / (q L) = Fo + ((3 x^2 - 1) / 6) - 2 / pi^2 sum (-1)^n / n^2
    //               exp(-n^2 pi^2 Fo) cos(n pi x)    (section 3.8; from memory)
    constexpr double L = 10e-3, a = 1e-5, k = 20, Bi = 2;
    const double times[] = {0.3, 1, 4};
    auto held = [](double fo, bool mean) {
        double sum = 0;
        for (int n = 0; n < 200; ++n) {
            const double b = (2 * n + 1) * pi / 2, sign = n % 2 ? -1 : 1;
            sum += std::exp(-b * b * fo) * (mean ? 2 / (b * b) : 2 * sign / b);
        }
        return 400 - 100 * sum;
    };
    auto convection = [](double fo, bool mean) {
        double sum = 0;
        for (int n = 0; n < 100; ++n) {
            double low = n * pi + 1e-12, high = n * pi + pi / 2 - 1e-12;
            for (int i = 0; i < 80; ++i) {
                const double b = 0.5 * (low + high);
                (b * std::tan(b) > Bi ? high : low) = b;
            }
            const double b = low, c = 4 * std::sin(b) / (2 * b + std::sin(2 * b));
            sum += std::exp(-b * b * fo) * c * (mean ? std::sin(b) / b : 1.0);
        }
        return 400 - 100 * sum;
    };
    auto flow = [](double fo, bool mean) {
        constexpr double q = 2e5;
        double sum = fo - (mean ? 0.0 : 1.0 / 6);
        for (int n = 1; n < 200 && !mean; ++n)
            sum -=
                2 / (pi * pi) * (n % 2 ? -1 : 1) / double(n * n) * std::exp(-n * n * pi * pi * fo);
        return 300 + q * L / k * sum;
    };
    int good = 0, all = 0;
    double worst = 0;
    QString said;
    for (int kind = 0; kind < 3; ++kind)
        for (const char* within : {"1 %", "0.1 %"}) {
            Document d = slab();
            if (kind == 0)
                d.add("held temperature",
                      {{"name", "bath"}, {"value", "400 K"}, {"on", "slab.right"}});
            else if (kind == 1)
                d.add("convection", {{"name", "air"},
                                     {"h", "4000 W/m^2/K"},
                                     {"to", "400 K"},
                                     {"on", "slab.right"}});
            else
                d.add("heat flux", {{"name", "lamp"}, {"flux", "2e5 W/m^2"}, {"on", "slab.right"}});
            d.add("transient", {{"duration", "4 s"}, {"start", "300 K"}});
            for (const double t : times)
                for (const char* what : {"temperature at", "mean temperature"}) {
                    std::map<std::string, std::string> v = {{"after", std::to_string(t) + " s"},
                                                            {"within", within}};
                    if (std::string(what) == "temperature at")
                        v["at"] = "-5 mm, 0";
                    else
                        v["in"] = "slab";
                    d.add(what, v);
                }
            const auto r = solved(d);
            int at = 0;
            for (const double t : times)
                for (const bool mean : {false, true}) {
                    const double fo = a * t / (L * L);
                    const double exact = kind == 0   ? held(fo, mean)
                                         : kind == 1 ? convection(fo, mean)
                                                     : flow(fo, mean);
                    const auto& f = r.report.findings[size_t(at++)];
                    const double off = std::abs(f.value[0] - exact) / f.error[0];
                    QVERIFY2(std::isfinite(off), qPrintable(QString::fromStdString(f.label)));
                    good += off < 1;
                    ++all;
                    worst = std::max(worst, off);
                    said += QString("%1 ").arg(off, 0, 'f', 2);
                }
        }
    QVERIFY2(good >= 0.9 * all && worst < 1.5, qPrintable(said));
}

void TstTransport::lumpedBodyReachesAValue()
{
    // A small body of copper in moving air, Bi << 1: T = Ta + (T0 - Ta) exp(-h A t / (rho c V)).
    // The temperature inside lags by about Bi / 6.
    Document d;
    d.add("space", {{"type", "axisymmetric"}});
    d.add("disc", {{"name", "ball"}, {"radius", "5 mm"}});
    d.add("material", {{"material", "test metal"},
                       {"in", "ball"},
                       {"k", "400 W/m/K"},
                       {"density", "8900 kg/m^3"},
                       {"heatCapacity", "385 J/kg/K"}});
    d.add("convection",
          {{"name", "air"}, {"h", "20 W/m^2/K"}, {"to", "300 K"}, {"on", "outer of ball"}});
    d.add("transient", {{"duration", "600 s"}, {"start", "400 K"}});
    d.add("time to reach",
          {{"which", "mean"}, {"in", "ball"}, {"value", "350 K"}, {"within", "0.5 %"}});
    const double tau = 8900 * 385 * 5e-3 / (3 * 20), biot = 20 * 5e-3 / 400;
    const auto r = solved(d);
    const double t = valueOf(r, "time until");
    QVERIFY2(std::abs(t / (tau * std::log(2.0) * (1 + biot / 5)) - 1) < 1e-3,
             qPrintable(QString("%1 %2").arg(t).arg(tau * std::log(2.0))));
    QVERIFY(balanced(r));
}

void TstTransport::pulseEnds()
{
    // An insulated slab heated by 10 W for 2 s keeps 20 J.
    Document d = slab();
    d.add("heat source", {{"name", "pulse"}, {"power", "10 kW"}, {"in", "slab"}, {"until", "2 s"}});
    d.add("transient", {{"duration", "5 s"}, {"start", "300 K"}});
    d.add("mean temperature", {{"in", "slab"}, {"within", "0.1 %"}});
    d.add("mean temperature", {{"in", "slab"}, {"after", "1 s"}, {"within", "0.1 %"}});
    const auto r = solved(d);
    const double whole = 10e3 * 2 / (4000 * 500 * 20e-6);
    QVERIFY(std::abs((r.report.findings[0].value[0] - 300) / whole - 1) < 1e-6);
    QVERIFY(std::abs((r.report.findings[1].value[0] - 300) / (whole / 2) - 1) < 1e-6);
    QVERIFY(balanced(r));
}

void TstTransport::perfusedSlab()
{
    // Steady: T - Tb = (Ts - Tb) cosh(m x) / cosh(m L), m^2 = w c / k
    // (Pennes, J. Appl. Physiol. 1 (1948) 93, in a slab).
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("rectangle", {{"name", "tissue"}, {"width", "40 mm"}, {"height", "4 mm"}});
    d.add("material", {{"material", "muscle"}, {"in", "tissue"}, {"k", "0.5 W/m/K"}});
    d.add("perfusion", {{"name", "blood"}, {"rate", "0.004/(1 s)"}, {"in", "tissue"}});
    d.add("held temperature",
          {{"name", "skin"}, {"value", "303.15 K"}, {"on", "tissue.left and tissue.right"}});
    d.add("temperature at", {{"at", "10 mm, 0"}, {"within", "0.1 %"}});
    const double m = std::sqrt(0.004 * 3.8e6 / 0.5),
                 exact = 310.15 - 7 * std::cosh(m * 0.01) / std::cosh(m * 0.02);
    const auto r = solved(d);
    QVERIFY2(std::abs(valueOf(r, "temperature at") - exact) < 0.002 * 7,
             qPrintable(QString("%1 %2").arg(valueOf(r, "temperature at")).arg(exact)));
    QVERIFY(balanced(r));
}

void TstTransport::freezingFront()
{
    YH_LONG();
    // Melting from a held side of a solid that starts below its melting point, with the same
    // properties in both phases: the front is at 2 q sqrt(a t), where
    //   exp(-q^2) / erf(q) - (Tm - T0) / (T1 - Tm) exp(-q^2) / erfc(q) = q sqrt(pi) / Ste,
    // and behind it (T - Tm) / (T1 - Tm) = 1 - erf(x / 2 sqrt(a t)) / erf(q)
    // (Neumann; Carslaw and Jaeger, Conduction of Heat in Solids, section 11.2, from memory).
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("rectangle",
          {{"name", "slab"}, {"width", "10 mm"}, {"height", "0.5 mm"}, {"at", "5 mm, 0"}});
    d.add("material", {{"material", "wax"},
                       {"in", "slab"},
                       {"k", "20 W/m/K"},
                       {"density", "4000 kg/m^3"},
                       {"heatCapacity", "500 J/kg/K"},
                       {"latent", "100 kJ/kg"},
                       {"melting", "300 K"},
                       {"meltingRange", "4 K"}});
    d.add("held temperature", {{"name", "hot"}, {"value", "400 K"}, {"on", "slab.left"}});
    d.add("transient", {{"duration", "1.25 s"}, {"start", "298 K"}});
    d.add("mesh size", {{"size", "0.5 mm"}, {"in", "slab"}});
    d.add("mesh", {{"order", "2"}});
    d.add("limits", {{"passes", "1"}});
    d.add("temperature at", {{"at", "2 mm, 0"}, {"within", "0.5 %"}});
    d.add("melted share", {{"in", "slab"}});
    const double ste = 500.0 * 100 / 100e3;
    double least = 0.1, most = 2;
    for (int i = 0; i < 60; ++i) {
        const double q = 0.5 * (least + most), front = std::exp(-q * q) / std::erf(q),
                     ahead = 0.02 * std::exp(-q * q) / std::erfc(q);
        (front - ahead > q * std::sqrt(pi) / ste ? least : most) = q;
    }
    const double q = least;
    const double reach = 2 * std::sqrt(1e-5 * 1.25),
                 exact = 300 + 100 * (1 - std::erf(2e-3 / reach) / std::erf(q));
    QVERIFY(q * reach > 2e-3);
    const auto r = solved(d);
    const double T = valueOf(r, "temperature at");
    // The front halves the range of melting.
    QVERIFY2(std::abs(valueOf(r, "melted") * 10e-3 / (q * reach) - 1) < 0.02,
             qPrintable(QString("%1 %2").arg(valueOf(r, "melted")).arg(q * reach)));
    QVERIFY2(std::abs(T - exact) < 0.005 * (exact - 298),
             qPrintable(QString("%1 %2").arg(T).arg(exact)));
    // With the range of melting itself there is still a solution in e = x / sqrt(t),
    //   k T'' = -e / 2 h'(T) T',  T(0) = 400 K, T(infinity) = 298 K
    // (Boltzmann's transformation: Crank, The Mathematics of Diffusion, 2nd ed., section 7.2, from
    // memory), found here by shooting with the slope at the side.
    auto heat = [](double t) {
        const double s = std::clamp((t - 300) / 4 + 0.5, 0.0, 1.0);
        return 4000.0 * (500 + 100e3 * 6 * s * (1 - s) / 4);
    };
    auto shoot = [&](double slope, double until) {
        double t = 400, g = slope;
        constexpr int steps = 40000;
        const double h = until / steps;
        for (int i = 0; i < steps; ++i) {
            const double e = i * h;
            auto bend = [&](double at, double temperature, double rise) {
                return -at / 2 * heat(temperature) * rise / 20;
            };
            const double k1 = bend(e, t, g), tm = t + h / 2 * g, gm = g + h / 2 * k1,
                         k2 = bend(e + h / 2, tm, gm);
            t += h * gm;
            g += h * k2;
        }
        return t;
    };
    constexpr double far = 9e-3;
    double steep = -1e6, gentle = 0;
    for (int i = 0; i < 60; ++i) {
        const double middle = 0.5 * (steep + gentle);
        (shoot(middle, far) < 298 ? steep : gentle) = middle;
    }
    const double ranged = shoot(0.5 * (steep + gentle), 2e-3 / std::sqrt(1.25));
    QVERIFY(std::abs(ranged - exact) < 0.01 * (exact - 298));
    QVERIFY2(std::abs(T - ranged) < 0.005 * (ranged - 298),
             qPrintable(QString("%1 %2 %3").arg(T, 0, 'g', 8).arg(ranged, 0, 'g', 8).arg(exact)));
}

void TstTransport::transientWithRadiationAndCurrent()
{
    // A wire warmed by its current and cooled by radiation ends where the steady state is.
    auto make = [](bool transient) {
        Document d = rod("test metal", "0.5 mm", "2 mm");
        for (auto& l : d.lines)
            if (l.kind == "material")
                l.values = {{"material", "test metal"},
                            {"in", "rod"},
                            {"sigma", "1e6 S/m/(1 + 0.004*(T/(1 K) - 293))"},
                            {"k", "50 W/m/K"},
                            {"density", "8000 kg/m^3"},
                            {"heatCapacity", "500 J/kg/K"}};
        d.add("contact", {{"name", "A"}, {"current", "8 A"}, {"on", "rod.top"}});
        d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "rod.bottom"}});
        d.add("current heats", {{"in", "rod"}});
        d.add("resistivity follows temperature", {{"in", "rod"}});
        d.add("radiation",
              {{"name", "glow"}, {"emissivity", "0.9"}, {"to", "293 K"}, {"on", "rod.right"}});
        if (transient)
            d.add("transient", {{"duration", "400 s"}, {"start", "293 K"}});
        d.add("mean temperature", {{"in", "rod"}, {"within", "0.2 %"}});
        d.add("resistance", {{"from", "A"}, {"to", "B"}, {"within", "0.2 %"}});
        return d;
    };
    const auto steady = solved(make(false)), late = solved(make(true));
    QVERIFY2(valueOf(steady, "mean") > 500, qPrintable(QString::number(valueOf(steady, "mean"))));
    for (const char* name : {"mean", "resistance"})
        QVERIFY2(std::abs(valueOf(late, name) / valueOf(steady, name) - 1) < 1e-3,
                 qPrintable(QString("%1 %2").arg(valueOf(late, name)).arg(valueOf(steady, name))));
    QVERIFY(balanced(late));
}

void TstTransport::contactBetweenRegions_data()
{
    QTest::addColumn<QString>("order");
    for (const char* order : {"1", "2", "3"})
        QTest::newRow(order) << order;
}

void TstTransport::contactBetweenRegions()
{
    // Two bars in series through an electric and a thermal contact (Incropera and DeWitt,
    // Fundamentals of Heat and Mass Transfer, section 3.1, from memory):
    //   R = rho1 L1 / A + r / A + rho2 L2 / A, and the same for heat.
    QFETCH(QString, order);
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 mm"}});
    d.add("rectangle", {{"name", "a"}, {"width", "10 mm"}, {"height", "2 mm"}, {"at", "-5 mm, 0"}});
    d.add("rectangle", {{"name", "b"}, {"width", "5 mm"}, {"height", "2 mm"}, {"at", "2.5 mm, 0"}});
    d.add("material",
          {{"material", "first"}, {"in", "a"}, {"sigma", "1e6 S/m"}, {"k", "100 W/m/K"}});
    d.add("material",
          {{"material", "second"}, {"in", "b"}, {"sigma", "2e6 S/m"}, {"k", "50 W/m/K"}});
    d.add("contact", {{"name", "A"}, {"current", "4 A"}, {"on", "a.left"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}, {"on", "b.right"}});
    d.add("joint resistance", {{"value", "2e-9 ohm*m^2"}, {"on", "a & b"}});
    d.add("held temperature", {{"name", "warm"}, {"value", "400 K"}, {"on", "a.left"}});
    d.add("held temperature", {{"name", "cold"}, {"value", "300 K"}, {"on", "b.right"}});
    d.add("joint conductance", {{"value", "20 kW/m^2/K"}, {"on", "a & b"}});
    d.add("mesh", {{"order", order.toStdString()}});
    d.add("resistance", {{"from", "A"}, {"to", "B"}, {"within", "0.1 %"}});
    d.add("heat flow", {{"of", "cold"}, {"within", "0.1 %"}});
    const double area = 2e-6, R = (10e-3 / 1e6 + 2e-9 + 5e-3 / 2e6) / area,
                 heat = 100 * area / (10e-3 / 100 + 1 / 20e3 + 5e-3 / 50);
    const auto r = solved(d);
    QVERIFY2(std::abs(valueOf(r, "resistance") / R - 1) < 1e-9,
             qPrintable(QString::number(valueOf(r, "resistance") / R - 1)));
    QVERIFY2(std::abs(valueOf(r, "heat flow") / heat - 1) < 1e-9,
             qPrintable(QString::number(valueOf(r, "heat flow") / heat - 1)));
    QVERIFY(balanced(r));
    // Heat of the current in the contact goes into the heat problem, half to either side.
    d.add("current heats", {{"in", "a and b"}});
    const auto warm = solved(d);
    QVERIFY(balanced(warm));
    QVERIFY(valueOf(warm, "heat flow") > valueOf(r, "heat flow"));
}

void TstTransport::contactInSpaceAndTime()
{
    // A chip on a sink through a paste, as a solid, refined where it must be; then over time.
    Document d;
    d.add("space", {{"type", "solid"}});
    d.add("box", {{"name", "sink"}, {"width", "4 mm"}, {"length", "4 mm"}, {"height", "1 mm"}});
    d.add("box", {{"name", "chip"},
                  {"width", "4 mm"},
                  {"length", "4 mm"},
                  {"height", "0.5 mm"},
                  {"at", "0, 0, 1 mm"}});
    d.add("material", {{"material", "aluminium"}, {"in", "sink"}, {"k", "200 W/m/K"}});
    d.add("material", {{"material", "silicon"}, {"in", "chip"}, {"k", "150 W/m/K"}});
    d.add("held temperature", {{"name", "base"}, {"value", "300 K"}, {"on", "sink.bottom"}});
    d.add("heat flux", {{"name", "load"}, {"flux", "1e6 W/m^2"}, {"on", "chip.top"}});
    d.add("joint conductance", {{"value", "50 kW/m^2/K"}, {"on", "sink & chip"}});
    d.add("highest temperature", {{"in", "chip"}, {"within", "0.5 %"}});
    d.add("highest temperature", {{"in", "sink"}, {"within", "0.5 %"}});
    const double under = 300 + 1e6 * 1e-3 / 200, over = under + 1e6 / 50e3 + 1e6 * 0.5e-3 / 150;
    const auto r = solved(d);
    QVERIFY(std::abs(valueOf(r, "highest temperature in chip") - over) < 1e-6);
    QVERIFY(std::abs(valueOf(r, "highest temperature in sink") - under) < 1e-6);
    d.add("transient", {{"duration", "2 s"}, {"start", "300 K"}});
    QVERIFY(std::abs(valueOf(solved(d), "highest temperature in chip") - over) < 0.01);
    // Where nothing touches there is no contact.
    d.add("joint conductance", {{"value", "50 kW/m^2/K"}, {"on", "chip.top"}});
    base::Progress progress;
    run::Outcome outcome{};
    QVERIFY(!run::solve(d, {}, progress, outcome).report.faults.empty());
}

void TstTransport::wrongTransients_data()
{
    QTest::addColumn<QString>("what");
    QTest::addColumn<QString>("says");
    QTest::newRow("pulse without time") << "pulse"
                                        << "transient";
    QTest::newRow("time without time") << "reach"
                                       << "transient";
    QTest::newRow("never reached") << "never"
                                   << "does not pass";
    QTest::newRow("after the end") << "after"
                                   << "ends at";
    QTest::newRow("no heat capacity") << "capacity"
                                      << "heat capacity";
}

void TstTransport::wrongTransients()
{
    QFETCH(QString, what);
    QFETCH(QString, says);
    Document d = slab();
    d.add("held temperature", {{"name", "bath"}, {"value", "400 K"}, {"on", "slab.right"}});
    if (what == "pulse")
        d.add("heat flux",
              {{"name", "f"}, {"flux", "1 W/m^2"}, {"on", "slab.left"}, {"until", "1 s"}});
    if (what != "pulse" && what != "reach")
        d.add("transient", {{"duration", "1 s"}});
    if (what == "reach" || what == "never")
        d.add("time to reach", {{"in", "slab"}, {"value", "500 K"}});
    else
        d.add("mean temperature", {{"in", "slab"}, {"after", what == "after" ? "3 s" : ""}});
    if (what == "capacity")
        for (auto& l : d.lines)
            if (l.kind == "material")
                l.values.erase("heatCapacity");
    base::Progress progress;
    run::Outcome outcome{};
    const auto r = run::solve(d, {}, progress, outcome);
    bool said = false;
    for (const auto& f : r.report.faults)
        said = said || QString::fromStdString(f.text).contains(says);
    QVERIFY(said);
}

YH_TEST(TstTransport)

}  // namespace tst_transport

#include "tst_transport.moc"
