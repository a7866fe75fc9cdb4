// Actuators against columns whose equilibria are known, and against published pull-in voltages.
#include "exact_figures.h"
#include "program.h"
#include "sheet/model.h"
#include "wrong_sheets.h"

#include <omp.h>
#include <cmath>
#include <functional>

namespace tst_actuator {

using namespace yh;
using sheet::Document;
using test::errorOf;
using test::isRefused;
using test::isUnsolvable;
using test::solved;
using test::valueOf;

namespace {

constexpr double eps0 = 8.8541878128e-12;

/// A column 2 um wide and 10 um high that a voltage pulls up across a gap of 1 um.
struct Column
{
    const char *E = "10 MPa", *nu = "0.3", *load = nullptr;
    bool isThin = false, isHalf = false, hasFilm = false, isSolid = false;
    double youngs = 10e6, poisson = 0.3, pressure = 0;
    const char *stop = nullptr, *most = "400 V";

    [[nodiscard]] double stiffness() const
    {
        return isThin ? youngs / (1 - poisson * poisson)
                      : youngs * (1 - poisson) / ((1 + poisson) * (1 - 2 * poisson));
    }
    /// Pa that the field must pull with at a displacement of the top: F S with S = M (F^2 - 1) / 2.
    [[nodiscard]] double pull(double u) const
    {
        const double F = 1 + u / 10e-6;
        return stiffness() * (F * F - 1) / 2 * F - pressure;
    }
    /// Of the gap and a fixed film of 0.2 um with eps 3.9 in its upper part.
    [[nodiscard]] double gap(double u) const
    {
        return hasFilm ? 0.8e-6 - u + 0.2e-6 / 3.9 : 1e-6 - u;
    }
    [[nodiscard]] double voltage(double u) const { return std::sqrt(2 * pull(u) / eps0) * gap(u); }
    /// Displacement without a voltage.
    [[nodiscard]] double rest() const
    {
        double low = -2e-6, high = 1e-6;
        for (int i = 0; i < 100; ++i)
            (pull((low + high) / 2) < 0 ? low : high) = (low + high) / 2;
        return low;
    }
    [[nodiscard]] double foldTravel() const
    {
        double low = rest(), high = hasFilm ? 0.8e-6 : 1e-6;
        for (int i = 0; i < 200; ++i) {
            const double a = low + (high - low) / 3, b = high - (high - low) / 3;
            (voltage(a) < voltage(b) ? low : high) = voltage(a) < voltage(b) ? a : b;
        }
        return low;
    }
    [[nodiscard]] double at(double V) const
    {
        double low = rest(), high = foldTravel();
        for (int i = 0; i < 100; ++i)
            (voltage((low + high) / 2) < V ? low : high) = (low + high) / 2;
        return low;
    }
    [[nodiscard]] Document sheet() const
    {
        Document d;
        if (isSolid)
            d.add("space", {{"type", "solid"}});
        else
            d.add("space", {{"type", "plane"}, {"depth", "10 um"}});
        // From a height on, as boxes have it.
        auto block = [&](const char* name, const char* height, const char* from) {
            std::map<std::string, std::string> v = {
                {"name", name}, {"width", "2 um"}, {"height", height}};
            if (isSolid) {
                v["length"] = "3 um";
                v["at"] = std::string("0, 0, ") + from;
            } else {
                v["at"] = std::string("0, ") + from + " + " + height + " / 2";
            }
            d.add(isSolid ? "box" : "rectangle", v);
        };
        block("col", "10 um", "-10 um");
        block("gap", "1 um", "0 um");
        if (hasFilm)
            block("film", "0.2 um", "0.8 um");
        d.add("material", {{"material", "my gel"}, {"in", "col"}, {"E", E}, {"nu", nu}});
        d.add("material", {{"material", "vacuum"}, {"in", "gap"}});
        if (hasFilm)
            d.add("material", {{"material", "my film"}, {"in", "film"}, {"eps", "3.9"}});
        if (isThin)
            d.add("across the drawing", {{"is", "free (plane stress)"}});
        if (isHalf)
            d.add("mirror plane", {{"at", "x = 0"}, {"kind", "even"}});
        else
            d.add("roller", {{"on", "col.left"}});
        d.add("roller", {{"on", "col.right"}});
        if (isSolid)
            for (const char* side : {"col.front", "col.back"})
                d.add("roller", {{"on", side}});
        d.add("fixed", {{"on", "col.bottom"}});
        d.add("electrode", {{"name", "A"}, {"voltage", "1 V"}, {"on", "col.top"}});
        d.add("electrode",
              {{"name", "B"}, {"voltage", "0 V"}, {"on", hasFilm ? "film.top" : "gap.top"}});
        if (load)
            d.add("pressure load", {{"pressure", load}, {"on", "col.top"}});
        if (stop)
            d.add("stop", {{"distance", stop}, {"before", "gap.top"}});
        d.add("raised voltage", {{"of", "A"}, {"to", most}});
        return d;
    }
};

using Exact = test::ExactFigure;

std::vector<Exact> exactProblems()
{
    std::vector<Exact> list;
    auto fold = [&list](const char* name, const Column& c) {
        Document d = c.sheet();
        d.add("pull-in voltage", {});
        list.push_back({name, d, "pull-in", c.voltage(c.foldTravel())});
    };
    fold("pull-in of a column", {});
    {
        Column c;
        c.E = "1 MPa";
        c.youngs = 1e6;
        fold("pull-in of a soft one", c);
    }
    {
        Column c;
        c.isThin = true;
        fold("pull-in, free across the drawing", c);
    }
    {
        Column c;
        c.isHalf = true;
        fold("pull-in of half of it", c);
    }
    {
        Column c;
        c.hasFilm = true;
        fold("pull-in against a film", c);
    }
    {
        Column c;
        c.load = "100 kPa";
        c.pressure = -1e5;
        fold("pull-in under a pressure", c);
    }
    {
        Column c;
        c.nu = "0";
        c.poisson = 0;
        fold("pull-in without Poisson's ratio", c);
    }
    auto under = [&list](const char* name, const Column& c, const char* text, double V) {
        Document d = c.sheet();
        d.add("deflection", {{"along", c.isSolid ? "z" : "y"},
                             {"at", c.isSolid ? "0.3 um, 0, -1 nm" : "0.3 um, 0"},
                             {"voltage", text}});
        d.add("capacitance under", {{"voltage", text}});
        const double share = c.isSolid ? 0.9999 : 1;
        list.push_back({name, d, "deflection", share * c.at(V)});
        list.push_back(
            {name, d, "capacitance", eps0 * 2e-6 * (c.isSolid ? 3e-6 : 10e-6) / c.gap(c.at(V))});
    };
    under("deflection and capacitance under 120 V", {}, "120 V", 120);
    under("deflection and capacitance under 210 V", {}, "210 V", 210);
    Column solid;
    solid.isSolid = true;
    solid.most = "130 V";
    under("deflection and capacitance of a solid under 120 V", solid, "120 V", 120);
    solid.most = "400 V";
    solid.isHalf = true;
    fold("pull-in of half a solid", solid);
    return list;
}

}  // namespace

class TstActuator : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void withinStatedError();
    void thirdOfTheGap();
    void letsGo_data();
    void letsGo();
    void solidBridge();
    void threadsDoNotMatter();
    void cantilever();
    void smallVoltages();
    void sameTwice();
    void badInput_data();
    void badInput();
};

void TstActuator::withinStatedError()
{
    test::checkExact(exactProblems(), 1e-4, "### Exact problems (`tests/physics/tst_actuator`)");
}

void TstActuator::thirdOfTheGap()
{
    // Nathanson et al., IEEE Trans. Electron Devices 14 (1967) 117: a plate on a spring snaps after
    // a third of the gap, at V^2 = 8 k g^3 / (27 eps A). The column is a spring to a tenth of g/H.
    const Column c;
    Document d = c.sheet();
    d.add("pull-in voltage", {});
    const double k = c.stiffness() / 10e-6, V = std::sqrt(8 * k * 1e-18 / (27 * eps0)),
                 found = valueOf(solved(d), "pull-in");
    QVERIFY2(std::abs(found / V - 1) < 0.03, qPrintable(QString("%1, %2").arg(found).arg(V)));
    QVERIFY(std::abs(c.foldTravel() / (1e-6 / 3) - 1) < 0.04);
}

void TstActuator::letsGo_data()
{
    QTest::addColumn<QString>("stop");
    QTest::addColumn<QString>("most");
    QTest::addColumn<bool>("isSolid");
    QTest::newRow("half of the gap") << "0.5 um"
                                     << "260 V" << false;
    QTest::newRow("lower, pulled hard") << "0.4 um"
                                        << "400 V" << false;
    QTest::newRow("a solid") << "0.4 um"
                             << "300 V" << true;
}

void TstActuator::letsGo()
{
    // Senturia, Microsystem Design, section 6.4: what rests on a stop is let go where the field at
    // the stop carries the spring no longer.
    QFETCH(QString, stop);
    QFETCH(QString, most);
    QFETCH(bool, isSolid);
    const QByteArray distance = stop.toUtf8(), highest = most.toUtf8();
    Column c;
    c.stop = distance.constData();
    c.isSolid = isSolid;
    c.most = highest.constData();
    c.isHalf = isSolid;
    Document d = c.sheet();
    d.add("pull-in voltage", {});
    d.add("release voltage", {});
    d.add("deflection", {{"along", isSolid ? "z" : "y"},
                         {"at", isSolid ? "0.3 um, 0, -1 nm" : "0.3 um, 0"},
                         {"voltage", "240 V"}});
    const run::Result r = solved(d);
    const double gap = stop.section(' ', 0, 0).toDouble() * 1e-6, V = c.voltage(1e-6 - gap),
                 found = valueOf(r, "release");
    QVERIFY2(std::abs(found / V - 1) < 0.003, qPrintable(QString("%1, %2").arg(found).arg(V)));
    QVERIFY2(std::abs(found - V) < errorOf(r, "release"), qPrintable(QString::number(V)));
    QVERIFY(found < 0.99 * valueOf(r, "pull-in"));
    // Beyond pull-in it lies on the stop.
    QVERIFY2(std::abs(valueOf(r, "deflection") / (1e-6 - gap) - 1) < 0.02,
             qPrintable(QString::number(valueOf(r, "deflection"))));
}

void TstActuator::solidBridge()
{
    YH_LONG();
    // Osterberg and Senturia, J. Microelectromech. Syst. 6 (1997) 107: V^2 = 11.9 E' h^3 g^3 /
    // (eps L^4 (1 + 0.42 g / w)) of a bridge, with the field beside it; a quarter is modelled.
    // The law is one for plates, good to a few per cent.
    Document d;
    d.add("space", {{"type", "solid"}});
    d.add("parameter", {{"name", "L"}, {"value", "60 um"}});
    d.add("box", {{"name", "air"},
                  {"width", "L"},
                  {"length", "16 um"},
                  {"height", "4 um"},
                  {"at", "0, 0, -1 um"}});
    d.add("box", {{"name", "beam"},
                  {"width", "L"},
                  {"length", "10 um"},
                  {"height", "1 um"},
                  {"at", "0, 0, 0"}});
    for (const char* at : {"x = 0", "y = 0"})
        d.add("mirror plane", {{"at", at}, {"kind", "even"}});
    d.add("material",
          {{"material", "my silicon"}, {"in", "beam"}, {"E", "160 GPa"}, {"nu", "0.22"}});
    d.add("material", {{"material", "air"}, {"in", "air"}});
    d.add("fixed", {{"on", "beam.right"}});
    d.add("electrode", {{"name", "A"}, {"voltage", "1 V"}, {"on", "beam"}});
    d.add("electrode", {{"name", "B"}, {"voltage", "0 V"}, {"on", "air.bottom"}});
    d.add("raised voltage", {{"of", "A"}, {"to", "400 V"}});
    d.add("pull-in voltage", {{"within", "2 %"}});
    const double h = 1e-6, L = 60e-6, E = 160e9 / (1 - 0.22 * 0.22),
                 V = std::sqrt(11.9 * E * std::pow(h, 6) /
                               (eps0 * std::pow(L, 4) * (1 + 0.42 * 0.1))),
                 found = valueOf(solved(d), "pull-in");
    QVERIFY2(std::abs(found / V - 1) < 0.03, qPrintable(QString("%1, %2").arg(found).arg(V)));
}

void TstActuator::threadsDoNotMatter()
{
    Column c;
    c.isSolid = c.isHalf = true;
    c.most = "100 V";
    Document d = c.sheet();
    d.add("capacitance under", {{"voltage", "100 V"}});
    double C[2];
    for (const int k : {0, 1}) {
        omp_set_num_threads(k + 1);
        C[k] = valueOf(solved(d), "capacitance");
    }
    QCOMPARE(C[0], C[1]);
}

void TstActuator::cantilever()
{
    // Osterberg and Senturia, J. Microelectromech. Syst. 6 (1997) 107: V^2 = 0.28 E' h^3 g^3 /
    // (eps L^4) of a wide cantilever, without the field at its end.
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "50 um"}});
    d.add("rectangle",
          {{"name", "air"}, {"width", "42 um"}, {"height", "4 um"}, {"at", "21 um, 1 um"}});
    d.add("rectangle",
          {{"name", "beam"}, {"width", "40 um"}, {"height", "1 um"}, {"at", "20 um, 0.5 um"}});
    d.add("material",
          {{"material", "my silicon"}, {"in", "beam"}, {"E", "160 GPa"}, {"nu", "0.2"}});
    d.add("material", {{"material", "air"}, {"in", "air"}});
    d.add("fixed", {{"on", "beam.left"}});
    d.add("electrode", {{"name", "A"}, {"voltage", "1 V"}, {"on", "beam"}});
    d.add("electrode", {{"name", "B"}, {"voltage", "0 V"}, {"on", "air.bottom"}});
    d.add("raised voltage", {{"of", "A"}, {"to", "200 V"}});
    d.add("pull-in voltage", {{"within", "2 %"}});
    const double g = 1e-6, h = 1e-6, L = 40e-6, E = 160e9 / (1 - 0.04),
                 V = std::sqrt(0.28 * E * h * h * h * g * g * g / (eps0 * L * L * L * L)),
                 found = valueOf(solved(d), "pull-in");
    QVERIFY2(std::abs(found / V - 1) < 0.04, qPrintable(QString("%1, %2").arg(found).arg(V)));
}

void TstActuator::smallVoltages()
{
    // Under a small voltage a plate bends as under the field's pressure, which the elastic body
    // knows by itself.
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "10 um"}});
    d.add("rectangle",
          {{"name", "gap"}, {"width", "30 um"}, {"height", "1 um"}, {"at", "0, -0.5 um"}});
    d.add("rectangle",
          {{"name", "plate"}, {"width", "30 um"}, {"height", "1 um"}, {"at", "0, 0.5 um"}});
    d.add("material", {{"material", "my glass"}, {"in", "plate"}, {"E", "70 GPa"}, {"nu", "0.2"}});
    d.add("mirror plane", {{"at", "x = 0"}, {"kind", "even"}});
    d.add("fixed", {{"on", "plate.right"}});
    Document other = d;
    d.add("material", {{"material", "vacuum"}, {"in", "gap"}});
    d.add("electrode", {{"name", "A"}, {"voltage", "1 V"}, {"on", "plate.bottom"}});
    d.add("electrode", {{"name", "B"}, {"voltage", "0 V"}, {"on", "gap.bottom"}});
    d.add("raised voltage", {{"of", "A"}, {"to", "4 V"}});
    d.add("deflection", {{"along", "-y"}, {"at", "0.2 um, 0.5 um"}, {"voltage", "4 V"}});
    other.add("pressure load",
              {{"pressure", std::to_string(eps0 * 16 / 2 / 1e-12) + " Pa"}, {"on", "plate.top"}});
    other.add("displacement", {{"along", "-y"}, {"at", "0.2 um, 0.5 um"}});
    std::erase_if(other.lines,
                  [](const auto& l) { return l.kind == "rectangle" && l.name() == "gap"; });
    const double a = valueOf(solved(d), "deflection"), b = valueOf(solved(other), "displacement");
    QVERIFY2(std::abs(a / b - 1) < 5e-3, qPrintable(QString("%1, %2").arg(a).arg(b)));
}

void TstActuator::sameTwice()
{
    Document d = Column().sheet();
    d.add("pull-in voltage", {});
    const run::Result a = solved(d), b = solved(d);
    QCOMPARE(a.report.findings[0].value, b.report.findings[0].value);
    QCOMPARE(a.report.findings[0].error, b.report.findings[0].error);
}

void TstActuator::badInput_data()
{
    test::addWrongs({{"at 0 V", {7542, "electrode", "voltage", "0 V"}},
                     {"film on what moves", {7616, "material", "E", ""}},
                     {"round an axis", {2361, "space", "type", "axisymmetric"}},
                     {"a band beside", {2363, "natural vibrations", "count", "2"}},
                     {"release without a stop", {2365, "release voltage", "within", "1 %"}},
                     {"stop behind the gap", {7615, "stop", "distance", "1.5 um"}},
                     {"deflection in the gap", {7623, "deflection", "at", "0, 0.5 um"}},
                     {"beyond pull-in", {7603, "deflection", "voltage", "300 V"}},
                     {"never snaps", {7621, "raised voltage", "to", "50 V"}},
                     {"nothing holds it", {7601, "fixed", "", ""}},
                     {"indefinite", {7518, "material", "nu", "0.7"}}});
}

void TstActuator::badInput()
{
    const auto [fault, kind, slot, value] = test::fetchWrong();
    Document d = Column().sheet();
    d.add("pull-in voltage", {});
    if (kind == "deflection")
        d.add("deflection", {{"along", "y"}, {"at", "0.3 um, -1 um"}, {"voltage", "100 V"}});
    if (kind == "stop")
        d.add("stop", {{"distance", "0.2 um"}, {"before", "gap.top"}});
    if (fault == 7616) {
        d.add("rectangle",
              {{"name", "film"}, {"width", "2 um"}, {"height", "0.2 um"}, {"at", "0, 0.1 um"}});
        d.add("material", {{"material", "my film"}, {"in", "film"}, {"eps", "3"}});
    }
    const Document wrong = fault == 7616 ? d : test::changed(d, kind, slot, value);
    const bool showsLate = fault == 7603 || fault == 7621 || fault == 7601;
    QVERIFY(showsLate ? isUnsolvable(wrong, fault) : isRefused(wrong, fault));
}

YH_TEST(TstActuator)

}  // namespace tst_actuator

#include "tst_actuator.moc"
