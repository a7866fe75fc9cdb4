// Microwave heating: power against S-parameters, temperatures against closed forms.
#include "program.h"
#include "solved.h"
#include "waves.h"

#include <cmath>

namespace tst_heating {

using namespace yh;
using sheet::Document;
using test::eps0;
using test::eta;
using test::isGood;
using test::isRefused;
using test::isUnsolvable;
using test::pi;
using test::solved;
using test::valueOf;

namespace {

/// A plate line of 4 mm by 20 mm, 40 mm long, driven with 50 W, with a bead of 9 mm in it.
Document plateLine(const std::string& eps, const std::string& loss)
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "20 mm"}});
    d.add("rectangle",
          {{"name", "line"}, {"width", "4 mm"}, {"height", "40 mm"}, {"at", "5 mm, 0"}});
    d.add("rectangle",
          {{"name", "bead"}, {"width", "4 mm"}, {"height", "9 mm"}, {"at", "5 mm, 0"}});
    d.add("material", {{"material", "vacuum"}, {"in", "line"}});
    d.add("material", {{"material", "plastic"},
                       {"in", "bead"},
                       {"eps", eps},
                       {"loss", loss},
                       {"k", "0.4 W/m/K"},
                       {"density", "1200 kg/m^3"},
                       {"heatCapacity", "1500 J/kg/K"}});
    d.add("band", {{"from", "2 GHz"},
                   {"to", "4 GHz"},
                   {"points", "11"},
                   {"shown", "3 GHz"},
                   {"power", "50 W"}});
    d.add("port", {{"name", "A"}, {"on", "line.bottom"}});
    d.add("port", {{"name", "B"}, {"on", "line.top"}});
    d.add("mesh", {{"order", "3"}});
    return d;
}

/// The same line filled with one medium.
Document filled(const std::string& loss, const std::string& power)
{
    Document d = plateLine("2.25", loss);
    for (auto& l : d.lines)
        if (l.kind == "material" && l.get("in") == "bead")
            l.values["in"] = "line and bead";
    std::erase_if(d.lines, [](const auto& l) {
        return l.kind == "material" && l.get("material") == "vacuum";
    });
    d.set(d.first("band")->id, "power", power);
    return d;
}
/// Heat by volume in it for tan delta = 1e-4, W/m^3: |E|^2 = 2 eta P / (w d).
double heatOf(double power)
{
    const double E2 = 2 * eta / 1.5 * power / (0.004 * 0.02);
    return 0.5 * 2 * pi * 3e9 * eps0 * 2.25 * 1e-4 * E2;
}

}  // namespace

class TestHeating : public QObject
{
    Q_OBJECT
private slots:
    /// What is neither reflected nor passed is heat, to 1e-4 of the wave; and all of it leaves
    /// through the held sides.
    void powerIsWhatSLacks()
    {
        Document d = plateLine("4", "0.05");
        d.add("held temperature",
              {{"name", "plates"}, {"value", "300 K"}, {"on", "bead.left and bead.right"}});
        for (const char* to : {"A", "B"})
            d.add("scattering", {{"from", "A"}, {"to", to}, {"at", "3 GHz"}, {"within", "0.01 %"}});
        d.add("heating power", {{"in", "bead"}, {"within", "0.1 %"}});
        d.add("heat flow", {{"of", "plates"}, {"within", "0.1 %"}});
        const auto r = solved(d);
        const double back = valueOf(r, "|S| A to A"), on = valueOf(r, "|S| A to B"),
                     power = valueOf(r, "heating power"), out = valueOf(r, "heat flow");
        QVERIFY(power > 1);
        QVERIFY2(std::abs(power / 50 - (1 - back * back - on * on)) < 1e-4,
                 qPrintable(QString("%1 %2").arg(power / 50).arg(1 - back * back - on * on)));
        QVERIFY2(std::abs(std::abs(out) / power - 1) < 1e-3,
                 qPrintable(QString("%1 %2").arg(out).arg(power)));
        QVERIFY(isGood(r, "heat of the losses"));
        QVERIFY(isGood(r, "heat balance"));
        QVERIFY(isGood(r, "power balance"));
    }
    /// A line filled with one medium of little loss between held plates: |E|^2 = 2 eta P / (w d),
    /// rise q w^2 / (8 k) in the middle. Carslaw and Jaeger, section 3.8 (from memory).
    void filledLine()
    {
        Document d = filled("1e-4", "50 W");
        d.add("held temperature",
              {{"name", "plates"},
               {"value", "300 K"},
               {"on", "line.left and line.right and bead.left and bead.right"}});
        d.add("temperature at", {{"at", "5 mm, 0"}, {"within", "0.1 %"}});
        const auto r = solved(d);
        const double rise = heatOf(50) * 0.004 * 0.004 / (8 * 0.4);
        const double T = valueOf(r, "temperature at");
        QVERIFY2(std::abs((T - 300) / rise - 1) < 2e-3,
                 qPrintable(QString("%1 %2").arg(T - 300).arg(rise)));
    }
    /// Without a way out, all heat is stored: mean rise = P t / (rho c V).
    void insulatedBeadWarms()
    {
        Document d = plateLine("4", "0.02");
        d.add("transient", {{"duration", "2 s"}, {"start", "293 K"}});
        d.add("heating power", {{"in", "bead"}, {"within", "0.1 %"}});
        d.add("mean temperature", {{"in", "bead"}, {"within", "0.5 %"}});
        const auto r = solved(d);
        const double power = valueOf(r, "heating power"),
                     rise = power * 2 / (1200 * 1500 * 0.004 * 0.009 * 0.02);
        const double T = valueOf(r, "mean temperature");
        QVERIFY(rise > 0.1);
        QVERIFY2(std::abs((T - 293) / rise - 1) < 5e-3,
                 qPrintable(QString("%1 %2").arg(T - 293).arg(rise)));
    }
    /// Half of a device with an even plane takes the power of the whole.
    void halfEqualsWhole()
    {
        double power[2], hot[2];
        for (const bool half : {false, true}) {
            Document d = plateLine("4", "0.05");
            for (auto& l : d.lines)
                if (l.kind == "rectangle")
                    l.values["at"] = "0, 0";
            // E stands across the line: the plane through its middle is an electric wall.
            if (half)
                d.add("mirror plane", {{"at", "x = 0"}, {"kind", "odd"}});
            d.add("convection",
                  {{"name", "air"}, {"h", "50 W/m^2/K"}, {"to", "293 K"}, {"on", "bead & line"}});
            d.add("heating power", {{"in", "bead"}, {"within", "0.1 %"}});
            d.add("highest temperature", {{"in", "bead"}, {"within", "0.5 %"}});
            const auto r = solved(d);
            power[half] = valueOf(r, "heating power");
            hot[half] = valueOf(r, "highest temperature") - 293;
        }
        QVERIFY2(std::abs(power[1] / power[0] - 1) < 1e-3,
                 qPrintable(QString("%1 %2").arg(power[0]).arg(power[1])));
        QVERIFY2(std::abs(hot[1] / hot[0] - 1) < 5e-3,
                 qPrintable(QString("%1 %2").arg(hot[0]).arg(hot[1])));
    }
    /// A plate of steel along a line takes R H^2 / 2 with H^2 = 2 P / (eta w d); the heat flows
    /// through it to its cold back. Pozar, section 2.7 (from memory).
    void metalConductsHeat()
    {
        Document d;
        d.add("space", {{"type", "plane"}, {"depth", "20 mm"}});
        d.add("rectangle", {{"name", "line"}, {"width", "4 mm"}, {"height", "40 mm"}});
        d.add("rectangle",
              {{"name", "plate"}, {"width", "3 mm"}, {"height", "40 mm"}, {"at", "3.5 mm, 0"}});
        d.add("material", {{"material", "vacuum"}, {"in", "line"}});
        d.add("material",
              {{"material", "iron"}, {"in", "plate"}, {"sigma", "1e6 S/m"}, {"k", "15 W/m/K"}});
        d.add("band", {{"from", "3 GHz"},
                       {"to", "3 GHz"},
                       {"points", "1"},
                       {"shown", "3 GHz"},
                       {"power", "5 kW"}});
        d.add("port", {{"name", "A"}, {"on", "line.bottom"}});
        d.add("port", {{"name", "B"}, {"on", "line.top"}});
        d.add("held temperature", {{"name", "back"}, {"value", "300 K"}, {"on", "plate.right"}});
        d.add("heating power", {{"in", "plate"}, {"within", "0.1 %"}});
        d.add("temperature at", {{"at", "2 mm, 0"}, {"within", "0.1 %"}});
        d.add("heat flow", {{"of", "back"}, {"within", "0.1 %"}});
        const auto r = solved(d);
        const double q = 0.5 * std::sqrt(pi * 3e9 * 4e-7 * pi / 1e6) * 2 * 5000 /
                         (eta * 0.004 * 0.02),
                     power = q * 0.04 * 0.02, rise = q * 0.003 / 15;
        QVERIFY2(std::abs(valueOf(r, "heating power") / power - 1) < 5e-3,
                 qPrintable(QString("%1 %2").arg(valueOf(r, "heating power")).arg(power)));
        QVERIFY2(std::abs((valueOf(r, "temperature at") - 300) / rise - 1) < 5e-3,
                 qPrintable(QString("%1 %2").arg(valueOf(r, "temperature at") - 300).arg(rise)));
        QVERIFY(std::abs(std::abs(valueOf(r, "heat flow")) / power - 1) < 5e-3);
        QVERIFY(isGood(r, "heat balance"));
        QVERIFY(isGood(r, "power balance"));
    }
    /// A loss that grows with the temperature, q (1 + a rise), between held plates: the rise in the
    /// middle is (1 / cos(b w / 2) - 1) / a with b^2 = q a / k, and there is none once b w passes
    /// pi. Frank-Kamenetskii's problem with a straight line; Carslaw and Jaeger, section 15.7 (from
    /// memory).
    void lossGrowsWithTemperature()
    {
        for (const double a : {0.02, 0.06}) {
            Document d = filled("1e-4*(1 + " + std::to_string(a) + "*(T - 300 K)/(1 K))", "50 kW");
            d.add("held temperature",
                  {{"name", "plates"},
                   {"value", "300 K"},
                   {"on", "line.left and line.right and bead.left and bead.right"}});
            d.add("temperature at", {{"at", "5 mm, 0"}, {"within", "0.1 %"}});
            if (a > 0.05) {
                QVERIFY(isUnsolvable(d, 5027));
                continue;
            }
            const auto r = solved(d);
            const double b = std::sqrt(heatOf(50e3) * a / 0.4),
                         rise = (1 / std::cos(b * 0.002) - 1) / a, T = valueOf(r, "temperature at");
            QVERIFY2(std::abs((T - 300) / rise - 1) < 4e-3,
                     qPrintable(QString("%1 %2").arg(T - 300).arg(rise)));
            QVERIFY(isGood(r, "heat of the losses"));
        }
    }
    /// The same without a way out, over time: rise = (exp(a q t / (rho c)) - 1) / a.
    void lossGrowsOverTime()
    {
        const double a = 0.1, t = 2;
        Document d = filled("1e-4*(1 + 0.1*(T - 293 K)/(1 K))", "50 kW");
        d.add("transient", {{"duration", "2 s"}, {"start", "293 K"}});
        d.add("mean temperature", {{"in", "bead"}, {"within", "0.5 %"}});
        d.add("heating power", {{"in", "line and bead"}, {"within", "0.5 %"}});
        const double rise = (std::exp(a * heatOf(50e3) * t / (1200 * 1500)) - 1) / a,
                     volume = 0.004 * 0.04 * 0.02;
        const auto r = solved(d);
        const double T = valueOf(r, "mean temperature");
        QVERIFY(rise > 5);
        // The power is that of the end.
        QVERIFY(std::abs(valueOf(r, "heating power") / (heatOf(50e3) * volume * (1 + a * rise)) -
                         1) < 4e-3);
        QVERIFY2(std::abs((T - 293) / rise - 1) < 4e-3,
                 qPrintable(QString("%1 %2").arg(T - 293).arg(rise)));
    }
    void withoutPower()
    {
        Document d = plateLine("4", "0.05");
        for (auto& l : d.lines)
            l.values.erase("power");
        d.add("held temperature", {{"name", "plates"}, {"value", "300 K"}, {"on", "bead.left"}});
        d.add("highest temperature", {{"in", "bead"}});
        QVERIFY(isRefused(d, 6225));
    }
};

YH_TEST(TestHeating)

}  // namespace tst_heating

#include "tst_heating.moc"
