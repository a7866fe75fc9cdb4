// Waves through ports: S-parameters, guides and lines against closed forms, symmetry, messages.
#include "network/touchstone.h"
#include "program.h"
#include "solved.h"
#include "waves.h"

#include <QFile>
#include <QTemporaryDir>

#include <Eigen/LU>
#include <algorithm>
#include <complex>
#include <functional>
#include <sstream>

namespace tst_ports {

using namespace yh;
using sheet::Document;
using test::c0;
using test::errorOf;
using test::eta;
using test::isRefused;
using test::mu0;
using test::pi;
using test::solved;
using test::valueOf;

namespace {

using Complex = std::complex<double>;

/// A rectangular guide of 22.86 mm by 10.16 mm, 40 mm long, with air in it.
Document guide(double low, double high)
{
    Document d;
    d.add("space", {{"type", "solid"}});
    d.add("box",
          {{"name", "pipe"}, {"width", "22.86 mm"}, {"length", "10.16 mm"}, {"height", "40 mm"}});
    d.add("material", {{"material", "vacuum"}, {"in", "pipe"}});
    d.add("band", {{"from", std::to_string(low) + " GHz"}, {"to", std::to_string(high) + " GHz"}});
    d.add("port", {{"name", "A"}, {"on", "pipe.bottom"}});
    d.add("port", {{"name", "B"}, {"on", "pipe.top"}});
    // What is met must not depend on how busy the machine is.
    d.add("limits", {{"seconds", "600 s"}});
    return d;
}
void ask(Document& d, const std::string& from, const std::string& to, const std::string& at,
         const std::string& within = "0.5 %")
{
    d.add("scattering", {{"from", from}, {"to", to}, {"at", at}, {"within", within}});
}
/// A slab of dielectric across the guide.
void addSlab(Document& d, const std::string& eps, const std::string& loss)
{
    d.add("box", {{"name", "slab"},
                  {"width", "22.86 mm"},
                  {"length", "10.16 mm"},
                  {"height", "6 mm"},
                  {"at", "0, 0, 17 mm"}});
    d.add("material", {{"material", "plastic"}, {"in", "slab"}, {"eps", eps}, {"loss", loss}});
}
/// Reflection and transmission of that slab between the ports, exactly: a section of guide of
/// another impedance. Collin, Field Theory of Guided Waves, section 6.1 (from memory).
struct TwoPort
{
    Complex reflected, passed;
};
TwoPort slab(double f, Complex eps)
{
    const double a = 0.02286, thick = 0.006, lead = 0.017, k = 2 * pi * f / c0,
                 b0 = std::sqrt(k * k - pi * pi / (a * a));
    const Complex b1 = std::sqrt(k * k * eps - pi * pi / (a * a)), z = b0 / b1,
                  g = (z - 1.0) / (z + 1.0), p = std::exp(Complex(0, -1) * b1 * thick),
                  way = std::exp(Complex(0, -2 * b0 * lead)), below = 1.0 - g * g * p * p;
    return {way * g * (1.0 - p * p) / below, way * p * (1.0 - g * g) / below};
}
bool closes(const run::Result& r)
{
    return std::any_of(r.report.checks.begin(), r.report.checks.end(), [](const auto& c) {
        return c.id == "power balance" && c.state == run::Check::State::good;
    });
}
/// A coaxial line of 7 mm and 3.04 mm radius, 30 mm long, in copper.
Document coaxial()
{
    Document d;
    d.add("space", {{"type", "solid"}});
    d.add("cylinder", {{"name", "tube"}, {"radius", "7 mm"}, {"height", "30 mm"}});
    d.add("cylinder", {{"name", "pin"}, {"radius", "3.04 mm"}, {"height", "30 mm"}});
    d.add("material", {{"material", "vacuum"}, {"in", "tube"}});
    d.add("material", {{"material", "copper"}, {"in", "pin"}});
    d.add("metal wall", {{"material", "copper"}, {"on", "tube.outer"}});
    d.add("band", {{"from", "2 GHz"}, {"to", "4 GHz"}, {"points", "21"}});
    d.add("port", {{"name", "A"}, {"on", "tube.bottom but not pin.bottom"}});
    d.add("port", {{"name", "B"}, {"on", "tube.top but not pin.top"}});
    ask(d, "A", "B", "3 GHz");
    ask(d, "A", "A", "3 GHz");
    d.add("port impedance", {{"of", "A"}, {"at", "3 GHz"}, {"within", "0.1 %"}});
    return d;
}

/// A line between plates, in a drawing.
Document plates()
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "20 mm"}});
    d.add("rectangle",
          {{"name", "line"}, {"width", "4 mm"}, {"height", "40 mm"}, {"at", "2 mm, 20 mm"}});
    d.add("material", {{"material", "vacuum"}, {"in", "line"}});
    d.add("band", {{"from", "1 GHz"}, {"to", "8 GHz"}, {"points", "15"}});
    d.add("port", {{"name", "A"}, {"on", "line.bottom"}});
    d.add("port", {{"name", "B"}, {"on", "line.top"}});
    ask(d, "A", "B", "5 GHz");
    return d;
}

}  // namespace

class TstPorts : public QObject
{
    Q_OBJECT

private Q_SLOTS:
    void beadInALine_data();
    void beadInALine();
    void slabInAGuide();
    void wallBetweenTwoGuides_data();
    void wallBetweenTwoGuides();
    void dispersiveSlab();
    void halfFilledGuide();
    void microstripLine();
    void referencePlanes();
    void guideModes();
    void copperGuideLoses();
    void coaxialLine();
    void wedgeAndHalfEqualTheWhole();
    void touchstoneReadsBack();
    void touchstoneFormats();
    void otherResistances();
    void delayOfALine();
    void belowCutOff();
    void loadedAndExternalQ_data();
    void loadedAndExternalQ();
    void wrongSheets_data();
    void wrongSheets();
};

void TstPorts::slabInAGuide()
{
    YH_LONG();
    // Of order 3, and of order 2, which looks ahead; clear, with a little loss, with much.
    int covered = 0, count = 0;
    for (const int order : {3, 2})
        for (const auto& [eps, loss] : {std::pair{2.6, 0.0}, {2.1, 0.01}, {6.0, 0.3}}) {
            if (loss == 0.01 && !qEnvironmentVariableIsSet("YH_VALIDATE"))
                continue;
            Document d = guide(8, 12);
            addSlab(d, std::to_string(eps), std::to_string(loss));
            std::erase_if(d.lines, [](const auto& l) { return l.kind == "mesh"; });
            d.add("mesh", {{"order", std::to_string(order)}});
            for (const char* f : {"8.3 GHz", "10 GHz", "11.7 GHz"})
                for (const char* to : {"A", "B"})
                    ask(d, "A", to, f);
            const auto r = solved(d);
            QVERIFY(r.report.allMet());
            QVERIFY(closes(r));
            for (const double f : {8.3e9, 10e9, 11.7e9})
                for (const bool back : {true, false}) {
                    const TwoPort exact = slab(f, {eps, -eps * loss});
                    const Complex S = back ? exact.reflected : exact.passed;
                    const std::string name = std::string("A to ") + (back ? "A" : "B") + " at " +
                                             base::format(f, base::dim::frequency, 6);
                    const double off = std::abs(valueOf(r, "|S| " + name) - std::abs(S)),
                                 turned = std::abs(valueOf(r, "phase of S " + name) - std::arg(S));
                    const double bound = order == 3 ? 1e-3 : 5e-3;
                    QVERIFY2(off < bound, name.c_str());
                    QVERIFY2(std::min(turned, 2 * pi - turned) < 2 * bound, name.c_str());
                    const double stated = errorOf(r, "|S| " + name);
                    std::printf("eps %g, %-22s off %8.1e  stated %8.1e\n", eps, name.c_str(), off,
                                stated);
                    covered += off <= stated;
                    ++count;
                }
        }
    std::printf("truth within the stated error: %d of %d\n", covered, count);
    QVERIFY(count >= 24);
    QVERIFY(10 * covered >= 9 * count);
}

void TstPorts::wallBetweenTwoGuides_data()
{
    QTest::addColumn<bool>("solid");
    QTest::newRow("in a drawing") << false;
    QTest::newRow("in a solid") << true;
}

void TstPorts::wallBetweenTwoGuides()
{
    // Two plate lines with one sheet of metal between them: each loses R / (2 eta d) by length to
    // its side of it, and nothing passes from one to the other. Pozar, section 3.2, for one plate
    // (from memory).
    QFETCH(bool, solid);
    const double wide[] = {0.002, 0.003}, f = 5e9, R = std::sqrt(pi * f * mu0 / 1e4);
    Document d;
    d.add("space", {{"type", solid ? "solid" : "plane"}, {"depth", solid ? "" : "20 mm"}});
    for (const auto& [name, width, at] :
         {std::array{"thin", "2 mm", "-1 mm"}, {"thick", "3 mm", "1.5 mm"}}) {
        if (solid)
            d.add("box", {{"name", name},
                          {"width", width},
                          {"length", "4 mm"},
                          {"height", "20 mm"},
                          {"at", std::string(at) + ", 0, 0"}});
        else
            d.add("rectangle", {{"name", name},
                                {"width", width},
                                {"height", "20 mm"},
                                {"at", std::string(at) + ", 10 mm"}});
        d.add("material", {{"material", "vacuum"}, {"in", name}});
        if (solid)
            d.add("magnetic wall", {{"on", std::string(name) + ".front and " + name + ".back"}});
        for (const char* end : {"bottom", "top"})
            d.add("port",
                  {{"name", std::string(name) + "_" + end}, {"on", std::string(name) + "." + end}});
    }
    d.add("metal wall", {{"material", "carbon"}, {"sigma", "1e4 S/m"}, {"on", "thin & thick"}});
    d.add("band", {{"from", "4 GHz"}, {"to", "6 GHz"}, {"points", "11"}});
    for (const char* name : {"thin", "thick"})
        ask(d, std::string(name) + "_bottom", std::string(name) + "_top", "5 GHz", "0.02 %");
    ask(d, "thin_bottom", "thick_top", "5 GHz", "0.02 %");
    const auto r = solved(d);
    for (const int k : {0, 1}) {
        const std::string name = k ? "thick" : "thin";
        const double found = -std::log(valueOf(r, "|S| " + name + "_bottom to " + name + "_top")) /
                             0.02 * 2 * eta * wide[k] / R;
        QVERIFY2(std::abs(found - 1) < 0.03, qPrintable(QString("%1").arg(found)));
    }
    QVERIFY(valueOf(r, "|S| thin_bottom to thick_top") < 1e-5);
    QVERIFY(closes(r));
}

void TstPorts::dispersiveSlab()
{
    YH_LONG();
    // Debye's and Drude's media over a band, each frequency against the section of a guide with the
    // permittivity there; a plain one beside them, stated as a complex number.
    struct Medium
    {
        std::string text;
        std::function<Complex(double)> eps;
    };
    const Complex j(0, 1);
    const Medium list[] = {
        {"2 + 3/(1 + j*f/(6 GHz))", [&](double f) { return 2.0 + 3.0 / (1.0 + j * f / 6e9); }},
        {"4 - (15 GHz)^2/(f*(f - j*2 GHz))",
         [&](double f) { return 4.0 - 225e18 / (f * (f - j * 2e9)); }},
        {"3 - 0.4*j", [&](double) { return 3.0 - 0.4 * j; }}};
    for (const Medium& m : list) {
        Document d = guide(8, 12);
        addSlab(d, m.text, "0");
        for (const char* f : {"8.3 GHz", "11.7 GHz"})
            for (const char* to : {"A", "B"})
                ask(d, "A", to, f);
        d.add("absorbed power", {{"in", "slab"}, {"from", "A"}, {"at", "8.3 GHz"}});
        const auto r = solved(d);
        QVERIFY(r.report.allMet());
        QVERIFY(closes(r));
        double lost = 0.5;
        for (const double f : {8.3e9, 11.7e9}) {
            const TwoPort exact = slab(f, m.eps(f));
            const std::string at = " at " + base::format(f, base::dim::frequency, 6);
            const double back = valueOf(r, "|S| A to A" + at), on = valueOf(r, "|S| A to B" + at);
            QVERIFY2(std::abs(back - std::abs(exact.reflected)) < 2e-3, m.text.c_str());
            QVERIFY2(std::abs(on - std::abs(exact.passed)) < 2e-3, m.text.c_str());
            if (f < 9e9)
                lost *= 1 - back * back - on * on;
        }
        QVERIFY(std::abs(valueOf(r, "power absorbed") / lost - 1) < 1e-3);
    }
    // A medium that gives instead of taking, and one without a value.
    Document d = guide(8, 12);
    addSlab(d, "3 + 0.4*j", "0");
    ask(d, "A", "B", "9 GHz");
    QVERIFY(isRefused(d, 6241));
}

void TstPorts::halfFilledGuide()
{
    // A guide with a slab of dielectric along one side wall, ports on both media: the mode of the
    // guide passes without an echo, by its own beta: k1 cot(k1 t) + k2 cot(k2 (a - t)) = 0.
    // Harrington, Time-Harmonic Electromagnetic Fields, section 4.6 (from memory).
    const double a = 0.02286, t = 0.008, eps = 2.5, f = 9.1e9, k = 2 * pi * f / c0, L = 0.03;
    auto condition = [&](double beta) {
        const double in = std::sqrt(eps * k * k - beta * beta), rest = k * k - beta * beta,
                     out = std::sqrt(std::abs(rest));
        return in / std::tan(in * t) +
               (rest > 0 ? out / std::tan(out * (a - t)) : out / std::tanh(out * (a - t)));
    };
    double low = 0, high = 0;
    // The largest root: downwards from that of the dielectric.
    for (double b = k * std::sqrt(eps) * 0.9999; b > 0.1 * k; b -= 1e-3 * k)
        if (condition(b) < 0 && condition(b + 1e-3 * k) > 0 && std::abs(condition(b)) < 100 * k) {
            low = b;
            high = b + 1e-3 * k;
            break;
        }
    QVERIFY(high > 0);
    for (int i = 0; i < 60; ++i) {
        const double middle = (low + high) / 2;
        (condition(middle) < 0 ? low : high) = middle;
    }
    Document d;
    d.add("space", {{"type", "solid"}});
    d.add("box", {{"name", "pipe"},
                  {"width", "22.86 mm"},
                  {"length", "10.16 mm"},
                  {"height", "30 mm"},
                  {"at", "11.43 mm, 0, 0"}});
    d.add("box", {{"name", "slab"},
                  {"width", "8 mm"},
                  {"length", "10.16 mm"},
                  {"height", "30 mm"},
                  {"at", "4 mm, 0, 0"}});
    d.add("material", {{"material", "vacuum"}, {"in", "pipe"}});
    d.add("material", {{"material", "plastic"}, {"in", "slab"}, {"eps", "2.5"}, {"loss", "0"}});
    d.add("band", {{"from", "8 GHz"}, {"to", "10 GHz"}, {"points", "21"}});
    d.add("port", {{"name", "A"}, {"on", "pipe.bottom and slab.bottom"}});
    d.add("port", {{"name", "B"}, {"on", "pipe.top and slab.top"}});
    ask(d, "A", "A", "9.1 GHz", "0.2 %");
    ask(d, "A", "B", "9.1 GHz", "0.2 %");
    for (const char* order : {"2", "3"}) {
        Document sheet = d;
        sheet.add("mesh", {{"order", order}});
        const auto r = solved(sheet);
        const double phase = valueOf(r, "phase of S A to B"),
                     turned = std::remainder(phase + low * L, 2 * pi);
        QVERIFY2(std::abs(turned) < 2e-3, qPrintable(QString("%1").arg(turned)));
        QVERIFY2(valueOf(r, "|S| A to A") < 2e-3,
                 qPrintable(QString("%1").arg(valueOf(r, "|S| A to A"))));
        QVERIFY(closes(r));
        QVERIFY(r.report.allMet());
    }
    // Below the cut-off of a second mode there is but one.
    for (const auto* port : d.ofKind("port"))
        d.set(port->id, "modes", "3");
    QVERIFY(test::isUnsolvable(d, 6242));
}

void TstPorts::microstripLine()
{
    YH_LONG();
    // A strip of 1.2 mm on 0.635 mm of eps 9.8 in a box: impedance and effective permittivity
    // beside the formulas of Hammerstad and Jensen, IEEE MTT-S 1980 (from memory), which are good
    // to 1 % and hold without a box.
    const double w = 1.2, h = 0.635, u = w / h, er = 9.8;
    auto z01 = [](double x) {
        const double fu = 6 + (2 * pi - 6) * std::exp(-std::pow(30.666 / x, 0.7528));
        return eta / (2 * pi) * std::log(fu / x + std::sqrt(1 + 4 / (x * x)));
    };
    const double a = 1 +
                     std::log((std::pow(u, 4) + std::pow(u / 52, 2)) / (std::pow(u, 4) + 0.432)) /
                         49 +
                     std::log(1 + std::pow(u / 18.1, 3)) / 18.7,
                 b = 0.564 * std::pow((er - 0.9) / (er + 3), 0.053),
                 ee = (er + 1) / 2 + (er - 1) / 2 * std::pow(1 + 10 / u, -a * b),
                 Z = z01(u) / std::sqrt(ee);
    Document d;
    d.add("space", {{"type", "solid"}});
    d.add("box", {{"name", "room"},
                  {"width", "8 mm"},
                  {"length", "4 mm"},
                  {"height", "6 mm"},
                  {"at", "4 mm, 0, 0.635 mm"}});
    d.add("box", {{"name", "board"},
                  {"width", "8 mm"},
                  {"length", "4 mm"},
                  {"height", "0.635 mm"},
                  {"at", "4 mm, 0, 0"}});
    d.add("rectangle", {{"name", "strip"},
                        {"width", "0.6 mm"},
                        {"height", "4 mm"},
                        {"at", "0.3 mm, 0, 0.635 mm"}});
    d.add("material", {{"material", "vacuum"}, {"in", "room"}});
    d.add("material", {{"material", "alumina"}, {"in", "board"}, {"eps", "9.8"}, {"loss", "0"}});
    d.add("electric wall", {{"on", "strip"}});
    d.add("mirror plane", {{"at", "x = 0"}, {"kind", "even"}});
    d.add("band", {{"from", "1 GHz"}, {"to", "2 GHz"}, {"points", "11"}});
    d.add("port", {{"name", "A"}, {"on", "room.front and board.front"}});
    d.add("port", {{"name", "B"}, {"on", "room.back and board.back"}});
    ask(d, "A", "B", "1.5 GHz");
    ask(d, "A", "A", "1.5 GHz");
    d.add("port impedance", {{"of", "A"}, {"at", "1.5 GHz"}, {"within", "3 %"}});
    const auto r = solved(d);
    const double beta = -valueOf(r, "phase of S A to B") / 0.004,
                 found = std::pow(beta * c0 / (2 * pi * 1.5e9), 2);
    std::printf("microstrip: eps %g (%g), Z %g (%g)\n", found, ee,
                valueOf(r, "impedance of port A"), Z);
    QVERIFY(std::abs(found / ee - 1) < 0.02);
    QVERIFY(std::abs(valueOf(r, "impedance of port A") / Z - 1) < 0.02);
    QVERIFY(valueOf(r, "|S| A to A") < 5e-3);
    QVERIFY(closes(r));
}

void TstPorts::referencePlanes()
{
    // Referred to the slab's faces only its own phase is left.
    Document d = guide(9.9, 10.1);
    addSlab(d, "2.6", "0");
    for (const auto* port : d.ofKind("port"))
        d.set(port->id, "shift", "17 mm");
    ask(d, "A", "B", "10 GHz");
    const double b0 = std::sqrt(std::pow(2 * pi * 10e9 / c0, 2) - std::pow(pi / 0.02286, 2));
    const double phase = std::arg(slab(10e9, 2.6).passed * std::exp(Complex(0, 2 * b0 * 0.017)));
    QVERIFY(std::abs(valueOf(solved(d), "phase of S A to B") - phase) < 2e-3);
}

void TstPorts::guideModes()
{
    YH_LONG();
    // Cut-offs of the lowest five modes: TE10, TE20, TE01, TE11, TM11. Wave impedance of TE10:
    // omega mu / beta. Pozar, section 3.3 (from memory).
    Document d = guide(20, 20);
    for (const auto* port : d.ofKind("port"))
        d.set(port->id, "modes", "5");
    d.add("port impedance", {{"of", "B"}, {"at", "20 GHz"}});
    d.add("S-parameters", {{"within", "1 %"}});
    const auto r = solved(d);
    const double a = 0.02286, b = 0.01016;
    const double exact[] = {1 / a, 2 / a, 1 / b, std::hypot(1 / a, 1 / b),
                            std::hypot(1 / a, 1 / b)};
    const char* kinds[] = {"TE", "TE", "TE", "T", "T"};
    for (int k = 0; k < 5; ++k) {
        const std::string begin = "port A, mode " + std::to_string(k + 1) + ": " + kinds[k];
        const auto c =
            std::find_if(r.report.checks.begin(), r.report.checks.end(),
                         [&](const auto& check) { return check.text.rfind(begin, 0) == 0; });
        QVERIFY2(c != r.report.checks.end(), begin.c_str());
        const size_t at = c->text.find("cut-off ") + 8;
        QVERIFY(std::abs(std::stod(c->text.substr(at)) * 1e9 / (c0 / 2 * exact[k]) - 1) < 1e-3);
    }
    const double beta = std::sqrt(std::pow(2 * pi * 20e9 / c0, 2) - std::pow(pi / a, 2));
    QVERIFY(std::abs(valueOf(r, "impedance of port B") * beta / (2 * pi * 20e9 * mu0) - 1) < 1e-4);
    QVERIFY(r.report.allMet());
    QVERIFY(closes(r));
}

void TstPorts::copperGuideLoses()
{
    // Attenuation of TE10: R (2 b pi^2 + a^3 k^2) / (a^3 b beta k eta). Pozar, section 3.3 (from
    // memory).
    Document d = guide(9, 11);
    d.add("metal wall", {{"material", "brass"},
                         {"sigma", "1e5 S/m"},
                         {"on", "pipe.left and pipe.right and pipe.front and pipe.back"}});
    ask(d, "A", "B", "10 GHz", "0.1 %");
    const auto r = solved(d);
    const double a = 0.02286, b = 0.01016, f = 10e9, k = 2 * pi * f / c0,
                 R = std::sqrt(pi * f * mu0 / 1e5), beta = std::sqrt(k * k - pi * pi / (a * a)),
                 alpha =
                     R * (2 * b * pi * pi + a * a * a * k * k) / (a * a * a * b * beta * k * eta);
    const double found = -std::log(valueOf(r, "|S| A to B")) / 0.04;
    QVERIFY2(std::abs(found / alpha - 1) < 0.01,
             qPrintable(QString("%1 instead of %2").arg(found).arg(alpha)));
    QVERIFY(closes(r));
}

void TstPorts::coaxialLine()
{
    YH_LONG();
    // Z = eta / 2 pi ln(b / a), attenuation R / (4 pi Z) (1/a + 1/b), phase k l. Pozar, table 2.1
    // (from memory).
    const auto r = solved(coaxial());
    const double a = 3.04e-3, b = 7e-3, f = 3e9, Z = eta / (2 * pi) * std::log(b / a),
                 R = std::sqrt(pi * f * mu0 * 1.678e-8),
                 passed = std::exp(-R / (4 * pi * Z) * (1 / a + 1 / b) * 0.03);
    QVERIFY(std::abs(valueOf(r, "impedance of port A") / Z - 1) < 1e-3);
    QVERIFY(std::abs(valueOf(r, "|S| A to B") - passed) < 1e-4);
    QVERIFY(valueOf(r, "|S| A to A") < 1e-3);
    QVERIFY(std::abs(valueOf(r, "phase of S A to B") + 2 * pi * f / c0 * 0.03) < 2e-3);
    QVERIFY(closes(r));
}

void TstPorts::wedgeAndHalfEqualTheWhole()
{
    YH_LONG();
    // S-parameters and the impedance of the line, without a factor to type in.
    const auto whole = solved(coaxial());
    Document half = coaxial(), wedge = coaxial();
    half.add("mirror plane", {{"at", "x = 0"}, {"kind", "even"}});
    wedge.add("wedge symmetry", {{"angle", "45 deg"}});
    for (const Document& d : {half, wedge}) {
        const auto r = solved(d);
        for (const char* name : {"|S| A to B", "impedance of port A"}) {
            const double gap = std::abs(valueOf(r, name) - valueOf(whole, name));
            QVERIFY2(gap <= errorOf(r, name) + errorOf(whole, name), name);
            QVERIFY2(gap < 1e-3 * valueOf(whole, name), name);
        }
    }
    // Half of a guide with a slab is the slab again.
    Document d = guide(9, 11);
    addSlab(d, "2.6", "0");
    d.add("mirror plane", {{"at", "x = 0"}, {"kind", "even"}});
    d.add("mirror plane", {{"at", "y = 0"}, {"kind", "odd"}});
    ask(d, "A", "B", "10 GHz");
    QVERIFY(std::abs(valueOf(solved(d), "|S| A to B") - std::abs(slab(10e9, 2.6).passed)) < 1e-3);
}

void TstPorts::touchstoneReadsBack()
{
    QTemporaryDir folder;
    Document d = guide(9, 11);
    addSlab(d, "2.6", "0");
    for (const auto* band : d.ofKind("band"))
        d.set(band->id, "points", "5");
    d.add("S-parameters", {});
    run::Settings settings;
    settings.out = folder.path().toStdString();
    base::Progress progress;
    run::Outcome outcome{};
    static_cast<void>(run::solve(d, settings, progress, outcome));
    QCOMPARE(outcome, run::Outcome::met);
    QFile file(folder.filePath("S-parameters.s2p"));
    QVERIFY(file.open(QIODevice::ReadOnly));
    std::istringstream text(file.readAll().toStdString());
    const auto first = network::readTouchstone(text.str(), 2);
    QCOMPARE(first.frequency.size(), size_t(5));
    for (size_t i = 0; i < first.frequency.size(); ++i) {
        const auto& S = first.S[i];
        const TwoPort exact = slab(first.frequency[i], 2.6);
        QVERIFY(std::abs(S(0, 0) - exact.reflected) < 2e-3);
        QVERIFY(std::abs(S(1, 0) - exact.passed) < 2e-3);
        QVERIFY(std::abs(S(1, 0) - S(0, 1)) < 1e-9);  // reciprocal
    }
    // The second version says the same, with the impedances of the guides.
    QFile other(folder.filePath("S-parameters.ts"));
    QVERIFY(other.open(QIODevice::ReadOnly));
    const auto second = network::readTouchstone(other.readAll().toStdString(), 0);
    QCOMPARE(second.frequency, first.frequency);
    for (size_t i = 0; i < first.S.size(); ++i)
        QVERIFY((second.S[i] - first.S[i]).norm() < 1e-9);
    const double k = 2 * pi * 10e9 / c0;
    QVERIFY(std::abs(second.reference[1] * std::sqrt(1 - std::pow(pi / 0.02286 / k, 2)) / eta - 1) <
            1e-3);
    // Drawn beside, a file says what it said.
    for (const auto* l : d.ofKind("S-parameters"))
        d.set(l->id, "file", folder.filePath("S-parameters.s2p").toStdString());
    QTemporaryDir again;
    settings.out = again.path().toStdString();
    static_cast<void>(run::solve(d, settings, progress, outcome));
    QCOMPARE(outcome, run::Outcome::met);
    QFile table(again.filePath("tables/curves-1.csv"));
    QVERIFY(table.open(QIODevice::ReadOnly));
    const QStringList rows = QString::fromUtf8(table.readAll()).split('\n', Qt::SkipEmptyParts);
    const auto head = rows[0].split(',');
    const auto own = head.indexOf("A to B (dB)"), beside = head.indexOf("A to B in file (dB)");
    QVERIFY(own > 0 && beside > 0);
    QCOMPARE(rows.size(), 6);
    for (qsizetype i = 1; i < rows.size(); ++i)
        QVERIFY(std::abs(rows[i].split(',')[own].toDouble() -
                         rows[i].split(',')[beside].toDouble()) < 1e-2);
}

void TstPorts::touchstoneFormats()
{
    // Magnitude and angle, decibels, other units, noise data, remarks; and what cannot be read.
    const auto a = network::readTouchstone(
        "! a filter\n# GHz S MA R 75\n1.0 0.5 90 0.1 0 0.2 180 0.3 -90 ! remark\n"
        "2.0 0.5 0 0.1 0 0.2 0 0.3 0\n1.0 1.2 0.3 40 0.5\n",
        2);
    QCOMPARE(a.frequency.size(), size_t(2));
    QCOMPARE(a.frequency[0], 1e9);
    QCOMPARE(a.reference[0], 75.0);
    QVERIFY(std::abs(a.S[0](0, 0) - Complex(0, 0.5)) < 1e-12);
    QVERIFY(std::abs(a.S[0](1, 0) - 0.1) < 1e-12);
    QVERIFY(std::abs(a.S[0](0, 1) + 0.2) < 1e-12);
    QVERIFY(std::abs(a.at(1.5e9)(1, 1) - 0.5 * (Complex(0, -0.3) + 0.3)) < 1e-12);
    QVERIFY(!a.at(3e9).allFinite());
    const auto b = network::readTouchstone("# MHz S DB R 50\n100 -20 0\n", 1);
    QVERIFY(std::abs(b.S[0](0, 0) - 0.1) < 1e-12 && b.frequency[0] == 1e8);
    for (const char* bad : {"# Hz Y RI R 50\n1 2 3\n", "# Hz S RI R 50\n1 2\n",
                            "# Hz S RI R 50\n1 two 3\n", "# Hz S RI R 50\n2 0 0\n1 0 0\n", ""})
        QVERIFY_EXCEPTION_THROWN(static_cast<void>(network::readTouchstone(bad, 1)), base::Error);
}

void TstPorts::otherResistances()
{
    // A line of 75 ohm, a sixth of a wavelength long, between ports of 50 ohm, back and forth:
    // Pozar, Microwave Engineering, table 4.1 (from memory).
    const double z = 75, z0 = 50, turn = pi / 3;
    Eigen::MatrixXcd own(2, 2);
    own << 0, std::polar(1.0, -turn), std::polar(1.0, -turn), 0;
    const auto S = network::renormalised(own, Eigen::Vector2d(z, z), Eigen::Vector2d(z0, z0));
    const Complex A = std::cos(turn), B = Complex(0, z) * std::sin(turn),
                  C = Complex(0, 1 / z) * std::sin(turn), sum = A + B / z0 + C * z0 + A;
    QVERIFY(std::abs(S(0, 0) - (B / z0 - C * z0) / sum) < 1e-12);
    QVERIFY(std::abs(S(1, 0) - 2.0 / sum) < 1e-12);
    const auto back = network::renormalised(S, Eigen::Vector2d(z0, z0), Eigen::Vector2d(z, z));
    QVERIFY((back - own).norm() < 1e-12);
}

void TstPorts::delayOfALine()
{
    YH_LONG();
    // 30 mm of an empty coaxial line of 50 ohm delay by 30 mm / c0, and match another resistance
    // as a line does.
    QTemporaryDir folder;
    Document d = coaxial();
    d.add("S-parameters", {{"reference", "75 ohm"}});
    d.add("standing wave ratio", {{"of", "A"}, {"at", "3 GHz"}, {"reference", "75 ohm"}});
    run::Settings settings;
    settings.out = folder.path().toStdString();
    base::Progress progress;
    run::Outcome outcome{};
    const auto r = run::solve(d, settings, progress, outcome);
    QVERIFY2(r.report.faults.empty(),
             r.report.faults.empty() ? "" : r.report.faults[0].text.c_str());
    const double z = valueOf(r, "impedance of port A"), k = 2 * pi * 3e9 / c0, turn = k * 0.03;
    const Complex A = std::cos(turn), B = Complex(0, z) * std::sin(turn),
                  C = Complex(0, 1 / z) * std::sin(turn), sum = A + B / 75.0 + C * 75.0 + A;
    QFile file(folder.filePath("S-parameters.s2p"));
    QVERIFY(file.open(QIODevice::ReadOnly));
    const auto S = network::readTouchstone(file.readAll().toStdString(), 2).at(3e9);
    QVERIFY2(std::abs(S(0, 0) - (B / 75.0 - C * 75.0) / sum) < 2e-3,
             qPrintable(QString("%1 %2").arg(S(0, 0).real()).arg(S(0, 0).imag())));
    QVERIFY(std::abs(S(1, 0) - 2.0 / sum) < 2e-3);
    const double back = std::abs((B / 75.0 - C * 75.0) / sum);
    QVERIFY(std::abs(valueOf(r, "standing wave ratio at A") / ((1 + back) / (1 - back)) - 1) <
            5e-3);
    QFile table(folder.filePath("tables/curves-1.csv"));
    QVERIFY(table.open(QIODevice::ReadOnly));
    const QStringList rows = QString::fromUtf8(table.readAll()).split('\n', Qt::SkipEmptyParts);
    const auto column = rows[0].split(',').indexOf("A to B delay (s)");
    QVERIFY(column > 0);
    // Referred to 75 ohm the delay swings about that of the line: by its own two-port.
    constexpr double df = 1e3;
    auto phase = [&](double f) {
        const double t = 2 * pi * f / c0 * 0.03;
        const Complex a = std::cos(t), b = Complex(0, z) * std::sin(t),
                      c = Complex(0, 1 / z) * std::sin(t);
        return std::arg(2.0 / (a + b / 75.0 + c * 75.0 + a));
    };
    const double f = 3e9, exact = -(phase(f + df) - phase(f - df)) / (2 * df) / (2 * pi);
    const double delay = rows[11].split(',')[column].toDouble();
    QVERIFY2(std::abs(delay / exact - 1) < 5e-3,
             qPrintable(QString("%1 %2").arg(delay).arg(exact)));
}

void TstPorts::belowCutOff()
{
    Document d = guide(5, 10);
    ask(d, "A", "B", "6 GHz");
    base::Progress progress;
    run::Outcome outcome{};
    const auto r = run::solve(d, {}, progress, outcome);
    QCOMPARE(r.report.faults.size(), size_t(1));
    QCOMPARE(r.report.faults[0].number, 7075);
    QVERIFY(r.report.faults[0].text.find("6.557") != std::string::npos);
}

void TstPorts::loadedAndExternalQ_data()
{
    QTest::addColumn<double>("kiloohms");
    QTest::newRow("strongly coupled") << 5.0;
    QTest::newRow("weakly coupled") << 1000.0;
}

// A source of resistance R across the gap of a re-entrant cavity takes V^2 / (2 R), so that its
// external Q is R over R/Q, which the search for resonances gives without any port; what is left
// is the unloaded Q of the closed cavity (Pozar, section 6.6, from memory).
void TstPorts::loadedAndExternalQ()
{
    QFETCH(double, kiloohms);
    Document d;
    d.add("space", {{"type", "axisymmetric"}});
    d.add("rectangle",
          {{"name", "chamber"}, {"width", "20 mm"}, {"height", "20 mm"}, {"at", "10 mm, 10 mm"}});
    d.add("rectangle",
          {{"name", "post"}, {"width", "5 mm"}, {"height", "17 mm"}, {"at", "2.5 mm, 8.5 mm"}});
    d.add("thin line", {{"name", "gap"}, {"points", "5 mm, 17 mm; 5 mm, 20 mm"}});
    d.add("material", {{"material", "vacuum"}, {"in", "chamber"}});
    d.add("material", {{"material", "copper"}, {"in", "post"}});
    d.add("metal wall", {{"material", "copper"}, {"on", "outer of chamber"}});
    Document closed = d, driven = d;
    closed.add("modes", {{"count", "1"}});
    closed.add("resonance", {{"mode", "1"}});
    closed.add("quality factor", {{"mode", "1"}});
    closed.add("shunt impedance", {{"mode", "1"}, {"from", "5 mm, 17 mm"}, {"to", "5 mm, 20 mm"}});
    const auto modes = solved(closed);
    const double f = valueOf(modes, "frequency"), Q = valueOf(modes, "Q of"),
                 external = 1e3 * kiloohms / valueOf(modes, "R/Q");
    auto hertz = [](double x) { return std::to_string(x) + " Hz"; };
    driven.add("band", {{"from", hertz(0.97 * f)}, {"to", hertz(1.03 * f)}, {"points", "11"}});
    driven.add(
        "lumped port",
        {{"name", "A"}, {"on", "gap"}, {"resistance", std::to_string(1e3 * kiloohms) + " ohm"}});
    driven.add("loaded Q", {{"at", hertz(f)}, {"within", "0.5 %"}});
    const auto r = solved(driven);
    QVERIFY2(std::abs(valueOf(r, "external") / external - 1) < 2e-3,
             qPrintable(QString("%1 %2").arg(valueOf(r, "external")).arg(external)));
    QVERIFY2(std::abs(valueOf(r, "unloaded") / Q - 1) < 2e-3,
             qPrintable(QString("%1 %2").arg(valueOf(r, "unloaded")).arg(Q)));
    QVERIFY(std::abs(valueOf(r, "loaded") * (1 / Q + 1 / external) - 1) < 2e-3);
    // Walls that take power let the wave reach in: half a band width lower.
    QVERIFY(std::abs(valueOf(r, "frequency") / f - 1) < 1e-3);
    // A band beside the resonance has none.
    Document beside = driven;
    beside.set(beside.first("band")->id, "from", hertz(0.5 * f));
    beside.set(beside.first("band")->id, "to", hertz(0.6 * f));
    beside.set(beside.first("loaded Q")->id, "at", hertz(0.55 * f));
    QCOMPARE(solved(beside).report.faults.at(0).number, 7079);
    // Nor has a single frequency.
    beside.set(beside.first("band")->id, "to", hertz(0.5 * f));
    beside.set(beside.first("loaded Q")->id, "at", hertz(0.5 * f));
    QVERIFY(test::isRefused(beside, 7080));
}

void TstPorts::wrongSheets_data()
{
    QTest::addColumn<int>("fault");
    for (const int fault :
         {2054, 2055, 2056, 6202, 6209, 6210, 6211, 6213, 6214, 6215, 6216, 6217, 6224, 7073, 7074})
        QTest::addRow("%d", fault) << fault;
}

void TstPorts::wrongSheets()
{
    QFETCH(int, fault);
    Document d = guide(8, 12);
    ask(d, "A", "B", "10 GHz");
    auto change = [&d](const std::string& kind, const std::string& key, const std::string& text) {
        d.set(d.ofKind(kind)[0]->id, key, text);
    };
    switch (fault) {
        case 2054:
            d.add("modes", {{"count", "2"}});
            break;
        case 2055:
            std::erase_if(d.lines, [](const auto& l) { return l.kind == "port"; });
            break;
        case 2056:
            change("band", "to", "7 GHz");
            break;
        case 6202:
            change("port", "on", "pipe");
            break;
        case 6209:
            d.add("box", {{"name", "core"},
                          {"width", "5 mm"},
                          {"length", "5 mm"},
                          {"height", "9 mm"},
                          {"at", "0, 0, 10 mm"}});
            d.add("box", {{"name", "inner"},
                          {"width", "3 mm"},
                          {"length", "3 mm"},
                          {"height", "3 mm"},
                          {"at", "0, 0, 12 mm"}});
            d.add("material", {{"material", "copper"}, {"in", "core"}});
            d.add("material", {{"material", "copper"}, {"in", "inner"}});
            change("port", "on", "inner.top");
            break;
        case 6210:
            addSlab(d, "2", "0");
            change("port", "on", "slab.bottom");
            break;
        case 6211:
            change("port", "on", "pipe.bottom and pipe.left");
            break;
        case 6213:
        case 6214:
            d = Document();
            d.add("space", {{"type", "axisymmetric"}});
            d.add("rectangle",
                  {{"name", "pipe"}, {"width", "4 mm"}, {"height", "9 mm"}, {"at", "5 mm, 0"}});
            d.add("rectangle",
                  {{"name", "lining"}, {"width", "1 mm"}, {"height", "9 mm"}, {"at", "5 mm, 0"}});
            d.add("material", {{"material", "air"}, {"in", "pipe"}});
            d.add("material", {{"material", "PTFE"}, {"in", "lining"}});
            d.add("band", {{"from", "1 GHz"}, {"to", "2 GHz"}});
            if (fault == 6213)
                d.add("field across", {});
            d.add("port", {{"name", "A"},
                           {"on", fault == 6213 ? "pipe.bottom and lining.bottom" : "pipe.left"},
                           {"modes", "2"}});
            ask(d, "A", "A", "1 GHz");
            break;
        case 6224:
            d = Document();
            d.add("space", {{"type", "axisymmetric"}});
            d.add("rectangle",
                  {{"name", "pipe"}, {"width", "4 mm"}, {"height", "9 mm"}, {"at", "2 mm, 0"}});
            d.add("material", {{"material", "air"}, {"in", "pipe"}});
            d.add("band", {{"from", "1 GHz"}, {"to", "2 GHz"}});
            d.add("port", {{"name", "A"}, {"on", "pipe.bottom"}});
            ask(d, "A", "A", "1 GHz");
            break;
        case 6215:
            d = plates();
            d.add("thin line", {{"name", "vane"},
                                {"points", "2 mm, 15 mm; arc via 3 mm, 20 mm to 2 mm, 25 mm"}});
            d.add("metal wall", {{"material", "copper"}, {"on", "vane"}});
            break;
        case 6216:
            d.add("port", {{"name", "C"}, {"on", "pipe.top"}});
            break;
        case 6217:
            change("band", "shown", "20 GHz");
            break;
        case 7073:
            d.add("largest field", {{"in", "pipe"}});
            break;
        default:
            change("scattering", "at", "13 GHz");
            break;
    }
    QVERIFY(test::isRefused(d, fault));
}

/// A lossy bead in a line: the exact answer for TEM waves. Pozar, Microwave Engineering, section
/// 2.5 (from memory). Round an axis, and between plates.
void TstPorts::beadInALine_data()
{
    QTest::addColumn<bool>("axial");
    QTest::newRow("coaxial, round an axis") << true;
    QTest::newRow("between plates") << false;
}

void TstPorts::beadInALine()
{
    QFETCH(bool, axial);
    using Values = std::map<std::string, std::string>;
    Document d;
    d.add("space",
          axial ? Values{{"type", "axisymmetric"}} : Values{{"type", "plane"}, {"depth", "20 mm"}});
    d.add("rectangle",
          {{"name", "line"}, {"width", "4 mm"}, {"height", "40 mm"}, {"at", "5 mm, 20 mm"}});
    d.add("rectangle",
          {{"name", "bead"}, {"width", "4 mm"}, {"height", "9 mm"}, {"at", "5 mm, 20 mm"}});
    d.add("material", {{"material", "vacuum"}, {"in", "line"}});
    d.add("material", {{"material", "plastic"}, {"in", "bead"}, {"eps", "4"}, {"loss", "0.02"}});
    d.add("band", {{"from", "1 GHz"}, {"to", "8 GHz"}, {"points", "15"}});
    d.add("port", {{"name", "A"}, {"on", "line.bottom"}});
    d.add("port", {{"name", "B"}, {"on", "line.top"}});
    d.add("mesh", {{"order", "3"}});
    for (const char* f : {"2 GHz", "7 GHz"}) {
        ask(d, "A", "A", f);
        ask(d, "A", "B", f);
    }
    d.add("port impedance", {{"of", "A"}, {"at", "2 GHz"}});
    const auto r = solved(d);
    for (const double f : {2e9, 7e9}) {
        const Complex n = std::sqrt(Complex(4, -0.08)), g = (1.0 / n - 1.0) / (1.0 / n + 1.0),
                      p = std::exp(Complex(0, -1) * n * (2 * pi * f / c0 * 0.009)),
                      below = 1.0 - g * g * p * p;
        const std::string at = f < 3e9 ? " at 2 GHz" : " at 7 GHz";
        const double back = valueOf(r, "|S| A to A" + at), on = valueOf(r, "|S| A to B" + at);
        QVERIFY2(std::abs(back - std::abs(g * (1.0 - p * p) / below)) < 1e-3,
                 qPrintable(QString::number(back)));
        QVERIFY2(std::abs(on - std::abs(p * (1.0 - g * g) / below)) < 1e-3,
                 qPrintable(QString::number(on)));
    }
    const double Z = axial ? eta / (2 * pi) * std::log(7.0 / 3.0) : eta * 4 / 20;
    QVERIFY2(std::abs(valueOf(r, "impedance of port A") / Z - 1) < 1e-4,
             qPrintable(QString::number(valueOf(r, "impedance of port A") / Z)));
    QVERIFY(closes(r));
}

YH_TEST(TstPorts)

}  // namespace tst_ports

#include "tst_ports.moc"
