// Fields that point across a drawing, round its axis, or turn with the angle: resonances, guides,
// currents and scattering against closed forms.
#include "program.h"
#include "solved.h"
#include "waves.h"

#include <cmath>
#include <complex>
#include <vector>

namespace tst_across {

using namespace yh;
using sheet::Document;
using test::c0;
using test::eps0;
using test::errorOf;
using test::eta;
using test::isGood;
using test::isRefused;
using test::mm;
using test::mu0;
using test::pi;
using test::solved;
using test::valueOf;

namespace {

using Complex = std::complex<double>;
constexpr double sigma = 5.8e7;

double surfaceResistance(double f)
{
    return std::sqrt(pi * f * mu0 / sigma);
}

/// A cavity in copper. @param turns  azimuthal order; 0: E across the drawing; -1: in it
Document cavity(const std::string& space, const std::string& kind,
                std::map<std::string, std::string> shape, int turns, int mode)
{
    Document d;
    d.add("space", {{"type", space}});
    shape["name"] = "room";
    d.add(kind, shape);
    d.add("material", {{"material", "vacuum"}, {"in", "room"}});
    d.add("metal wall", {{"material", "copper"}, {"sigma", "5.8e7 S/m"}, {"on", "outer of room"}});
    if (turns == 0)
        d.add("field across", {});
    d.add("modes",
          {{"count", std::to_string(mode)}, {"turns", turns > 0 ? std::to_string(turns) : ""}});
    d.add("resonance", {{"mode", std::to_string(mode)}});
    d.add("quality factor", {{"mode", std::to_string(mode)}});
    return d;
}
Document can(double a, double d, int turns, int mode)
{
    return cavity("axisymmetric", "rectangle",
                  {{"width", mm(a)}, {"height", mm(d)}, {"at", mm(a / 2) + ", " + mm(d / 2)}},
                  turns, mode);
}
Document ball(double a, int turns, int mode)
{
    return cavity("axisymmetric", "disc",
                  {{"radius", mm(a)}, {"from", "-90 deg"}, {"to", "90 deg"}}, turns, mode);
}

struct Resonance
{
    std::string name;
    Document sheet;
    int mode;
    double f, Q;
};
/// TE modes of a can, x a zero of J_n'. Pozar, Microwave Engineering, equations 6.53 and 6.57 (from
/// memory).
Resonance canTE(const char* name, double a, double d, int n, int mode, double x)
{
    const double k = std::hypot(x / a, pi / d), f = c0 * k / (2 * pi), beta = pi / d,
                 R = surfaceResistance(f), bend = 1 - std::pow(n / x, 2);
    const double Q = std::pow(k * a, 3) * eta * a * d / (4 * x * x * R) * bend /
                     (a * d / 2 * (1 + std::pow(beta * a * n / (x * x), 2)) +
                      std::pow(beta * a * a / x, 2) * bend);
    return {name, can(a, d, n, mode), mode, f, Q};
}
/// TM modes of a can without change along it, x a zero of J_n: Q = eta x / (2 R (1 + a / d)), the
/// same for every n. Pozar, section 6.4 (from memory).
Resonance canTM(const char* name, double a, double d, int n, int mode, double x)
{
    const double f = c0 * x / (2 * pi * a);
    return {name, can(a, d, n, mode), mode, f, eta * x / (2 * surfaceResistance(f) * (1 + a / d))};
}
/// Modes of a ball: TM of degree 1, x = 2.743707, which do not know the axis, and TE, x = 4.493409.
/// Q = a / depth times 1 - 2 / x^2 or 1. Jackson, section 8.9; Harrington, Time-Harmonic
/// Electromagnetic Fields, section 6.2 (both from memory).
Resonance sphere(const char* name, double a, int turns, int mode, double x, bool tm)
{
    const double f = c0 * x / (2 * pi * a), depth = 1 / (sigma * surfaceResistance(f));
    return {name, ball(a, turns, mode), mode, f, a / depth * (tm ? 1 - 2 / (x * x) : 1)};
}
/// A guide-like room with E along z: stored energy and currents of one sine product.
Resonance room(double a, double b)
{
    const double kx = pi / a, ky = pi / b, k = std::hypot(kx, ky), f = c0 * k / (2 * pi),
                 omega = 2 * pi * f, W = eps0 / 2 * a * b / 4,
                 P = surfaceResistance(f) / 2 * (kx * kx * b + ky * ky * a) /
                     std::pow(omega * mu0, 2);
    return {"rectangle, E across",
            cavity("plane", "rectangle", {{"width", mm(a)}, {"height", mm(b)}}, 0, 1), 1, f,
            omega * W / P};
}

/// A rod between two plates in a can, E round the axis: TE011. Hakki and Coleman, IRE Trans.
/// Microw. Theory Tech. 8 (1960) 402 (from memory), with the can at r = b.
Resonance rod(double a, double b, double d, double eps, double loss)
{
    const double across = pi / d;
    auto gap = [&](double k, double e) {
        const double in = std::sqrt(e * k * k - across * across),
                     out = std::sqrt(across * across - k * k), x = out * a, y = out * b;
        auto I = [](int n, double z) { return std::cyl_bessel_i(double(n), z); };
        auto K = [](int n, double z) { return std::cyl_bessel_k(double(n), z); };
        return in * std::cyl_bessel_j(0.0, in * a) * (I(1, x) * K(1, y) - K(1, x) * I(1, y)) -
               out * std::cyl_bessel_j(1.0, in * a) * (I(0, x) * K(1, y) + K(0, x) * I(1, y));
    };
    // The first root above where the wave enters the rod.
    auto root = [&](double e) {
        double low = across / std::sqrt(e) * 1.0001, high = low;
        const double step = across * 1e-3;
        while (gap(low, e) * gap(high, e) > 0)
            high += step;
        for (int i = 0; i < 100; ++i) {
            const double middle = (low + high) / 2;
            (gap(low, e) * gap(middle, e) > 0 ? low : high) = middle;
        }
        return low;
    };
    const double k = root(eps), h = 1e-4 * eps,
                 share = -2 * eps * (root(eps + h) - root(eps - h)) / (2 * h) / k;
    Document s;
    s.add("space", {{"type", "axisymmetric"}});
    for (const auto& [name, radius] : {std::pair{"can", b}, {"rod", a}})
        s.add("rectangle", {{"name", name},
                            {"width", mm(radius)},
                            {"height", mm(d)},
                            {"at", mm(radius / 2) + ", " + mm(d / 2)}});
    s.add("material", {{"material", "vacuum"}, {"in", "can"}});
    s.add("material", {{"material", "ceramic"},
                       {"in", "rod"},
                       {"eps", std::to_string(eps)},
                       {"loss", std::to_string(loss)}});
    s.add("field across", {});
    s.add("modes", {{"count", "1"}});
    s.add("resonance", {{"mode", "1"}});
    s.add("quality factor", {{"mode", "1"}});
    return {"rod between plates", s, 1, c0 * k / (2 * pi), 1 / (share * loss)};
}

/// A guide of 22.86 mm between its side walls, 40 mm long, with E across the drawing.
Document guide()
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "10.16 mm"}});
    d.add("rectangle", {{"name", "pipe"}, {"width", "40 mm"}, {"height", "22.86 mm"}});
    d.add("material", {{"material", "vacuum"}, {"in", "pipe"}});
    d.add("field across", {});
    d.add("band", {{"from", "8 GHz"}, {"to", "12 GHz"}});
    d.add("port", {{"name", "A"}, {"on", "pipe.left"}});
    d.add("port", {{"name", "B"}, {"on", "pipe.right"}});
    return d;
}

/// A cylinder with E along it, by depth; real m, 0: a perfect conductor. Widths over 2 a, and the
/// width back over 2 a. Bohren and Huffman, Absorption and Scattering of Light by Small Particles,
/// section 8.4 (from memory).
struct Widths
{
    double scattering = 0, back = 0;
};
Widths cylinder(double x, double m)
{
    const int most = int(x + 4 * std::cbrt(x) + 12);
    auto J = [](int n, double z) { return std::cyl_bessel_j(double(n), z); };
    auto Y = [](int n, double z) { return std::cyl_neumann(double(n), z); };
    auto slope = [](auto& f, int n, double z) {
        return n == 0 ? -f(1, z) : f(n - 1, z) - n / z * f(n, z);
    };
    Widths w;
    Complex back = 0;
    for (int n = 0; n <= most; ++n) {
        const Complex H(J(n, x), Y(n, x)), dH(slope(J, n, x), slope(Y, n, x));
        const double inside = J(n, m * x), turn = m * slope(J, n, m * x);
        const Complex b =
            m == 0 ? J(n, x) / H
                   : (inside * slope(J, n, x) - turn * J(n, x)) / (inside * dH - turn * H);
        const double twice = n == 0 ? 1 : 2;
        w.scattering += 2 / x * twice * std::norm(b);
        back += twice * (n % 2 == 0 ? 1.0 : -1.0) * b;
    }
    w.back = 4 * std::norm(back) / (2 * x);
    return w;
}

}  // namespace

class TestAcross : public QObject
{
    Q_OBJECT

private slots:
    void irises_data()
    {
        QTest::addColumn<double>("open");
        QTest::newRow("half") << 0.5;
        QTest::newRow("seventy") << 0.7;
    }
    /// A thin window between two walls across a rectangular guide, as wide as a share of it: a
    /// shunt of B = (2 pi / beta a) cot^2(pi d / 2 a) (1 + (a g - 3 pi) / (4 pi) sin^2(pi d / a)),
    /// g = sqrt((3 pi / a)^2 - k^2) (Collin, Foundations for Microwave Engineering, chapter 5,
    /// after Marcuvitz, section 5.2; from memory, good to a per cent).
    void irises()
    {
        QFETCH(double, open);
        const double a = 22.86e-3, f = 10e9, k = 2 * pi * f / c0,
                     beta = std::sqrt(k * k - std::pow(pi / a, 2)),
                     g = std::sqrt(std::pow(3 * pi / a, 2) - k * k),
                     B = 2 * pi / (beta * a) / std::pow(std::tan(pi * open / 2), 2) *
                         (1 + (a * g - 3 * pi) / (4 * pi) * std::pow(std::sin(pi * open), 2)),
                     should = B / std::hypot(2, B);
        Document d;
        d.add("space", {{"type", "plane"}});
        d.add("field across", {});
        d.add("rectangle",
              {{"name", "guide"}, {"width", "50 mm"}, {"height", mm(a)}, {"at", "0, 0"}});
        d.add("material", {{"material", "vacuum"}, {"in", "guide"}});
        d.add("thin line",
              {{"name", "upper"}, {"points", "0, " + mm(open * a / 2) + "; 0, " + mm(a / 2)}});
        d.add("thin line",
              {{"name", "lower"}, {"points", "0, " + mm(-a / 2) + "; 0, " + mm(-open * a / 2)}});
        d.add("electric wall", {{"on", "upper and lower"}});
        d.add("port", {{"name", "A"}, {"on", "guide.left"}});
        d.add("port", {{"name", "B"}, {"on", "guide.right"}});
        d.add("band", {{"from", "10 GHz"}, {"to", "10 GHz"}, {"points", "1"}});
        d.add("scattering", {{"from", "A"}, {"to", "A"}, {"at", "10 GHz"}, {"within", "0.1 %"}});
        d.add("standing wave ratio", {{"of", "A"}, {"at", "10 GHz"}, {"within", "1 %"}});
        const auto r = solved(d);
        const double S = valueOf(r, "|S");
        QVERIFY2(std::abs(S - should) < 0.005, qPrintable(QString("%1 %2").arg(S).arg(should)));
        QVERIFY(std::abs(valueOf(r, "standing wave ratio") / ((1 + S) / (1 - S)) - 1) < 1e-3);
    }
    /// Frequencies and Q, and whether the truth lies within what is stated.
    void resonances()
    {
        const Resonance list[] = {room(0.03, 0.02),
                                  canTE("can, TE011", 0.02, 0.03, 0, 1, 3.831705970207512),
                                  canTE("can, TE111", 0.02, 0.05, 1, 1, 1.841183781340659),
                                  canTE("can, TE211", 0.02, 0.05, 2, 1, 3.054236928227140),
                                  canTM("can, TM110", 0.03, 0.01, 1, 1, 3.831705970207512),
                                  canTM("can, TM310", 0.03, 0.01, 3, 1, 6.380161895923984),
                                  sphere("ball, TM1, order 1", 0.02, 1, 1, 2.743707269992265, true),
                                  sphere("ball, TE1, round", 0.02, 0, 1, 4.493409457909064, false),
                                  rod(0.008, 0.03, 0.01, 38, 1e-4)};
        int covered = 0, count = 0;
        for (const Resonance& k : list) {
            const auto r = solved(k.sheet);
            const std::string mode = " of mode " + std::to_string(k.mode);
            for (const bool isQ : {false, true}) {
                const std::string name = (isQ ? "Q" : "frequency") + mode;
                const double exact = isQ ? k.Q : k.f, off = std::abs(valueOf(r, name) / exact - 1),
                             stated = errorOf(r, name) / exact;
                std::printf("%-20s %-20s %14.8e  off %8.1e  stated %8.1e\n", k.name.c_str(),
                            name.c_str(), valueOf(r, name), off, stated);
                QVERIFY2(off < (isQ ? 5e-3 : 1e-4), (k.name + ", " + name).c_str());
                covered += off <= stated;
                ++count;
            }
            QVERIFY2(r.report.allMet(), k.name.c_str());
        }
        std::printf("truth within the stated error: %d of %d\n", covered, count);
        QVERIFY(10 * covered >= 9 * count);
    }
    /// The modes of a can of every order, none too many and none left out; a ball has its modes of
    /// degree 1 and 2 at one place.
    void noneTooMany()
    {
        // TE111, TM110, TM111, TE112, TM112: a = 20 mm, d = 30 mm.
        const double a = 0.02, d = 0.03;
        std::vector<double> exact;
        for (const auto& [x, first] : {std::pair{1.841183781340659, 1},
                                       {3.831705970207512, 0},
                                       {5.331442773525033, 1},
                                       {7.015586669815619, 0}})
            for (int p = first; p < 6; ++p)
                exact.push_back(c0 / (2 * pi) * std::hypot(x / a, p * pi / d));
        std::sort(exact.begin(), exact.end());
        Document sheet = can(a, d, 1, 8);
        for (int k = 1; k < 8; ++k)
            sheet.add("resonance", {{"mode", std::to_string(k)}});
        const auto r = solved(sheet);
        for (size_t k = 0; k < 8; ++k) {
            const double f = valueOf(r, "frequency of mode " + std::to_string(k + 1));
            QVERIFY2(std::abs(f / exact[k] - 1) < 1e-4,
                     qPrintable(QString("%1: %2, not %3").arg(k + 1).arg(f).arg(exact[k])));
        }
    }
    /// Half a can behind a mirror plane has the modes of the whole.
    void halves()
    {
        Document half = cavity("axisymmetric", "rectangle",
                               {{"width", "20 mm"}, {"height", "30 mm"}, {"at", "10 mm, 0"}}, 1, 1);
        half.add("mirror plane", {{"at", "y = 0"}, {"kind", "even"}});
        const auto r = solved(half), whole = solved(can(0.02, 0.03, 1, 1));
        for (const char* name : {"frequency of mode 1", "Q of mode 1"})
            QVERIFY(std::abs(valueOf(r, name) / valueOf(whole, name) - 1) < 2e-3);
    }
    /// A slab across the guide, clear and lossy: the section of a guide of another impedance.
    /// Collin, Field Theory of Guided Waves, section 6.1 (from memory).
    void slab_data()
    {
        QTest::addColumn<double>("loss");
        QTest::newRow("clear") << 0.0;
        QTest::newRow("lossy") << 0.3;
    }
    void slab()
    {
        QFETCH(double, loss);
        const double f = 9.3e9, a = 0.02286, thick = 0.006, k = 2 * pi * f / c0,
                     b0 = std::sqrt(k * k - pi * pi / (a * a));
        const Complex b1 = std::sqrt(k * k * Complex(4, -4 * loss) - pi * pi / (a * a)),
                      z = b0 / b1, g = (z - 1.0) / (z + 1.0),
                      p = std::exp(Complex(0, -1) * b1 * thick), below = 1.0 - g * g * p * p,
                      back = g * (1.0 - p * p) / below,
                      on = p * (1.0 - g * g) / below * std::exp(Complex(0, -b0 * 0.034));
        Document d = guide();
        d.add("rectangle", {{"name", "slab"}, {"width", "6 mm"}, {"height", "22.86 mm"}});
        d.add("material", {{"material", "plastic"},
                           {"in", "slab"},
                           {"eps", "4"},
                           {"loss", std::to_string(loss)}});
        for (const char* to : {"A", "B"})
            d.add("scattering", {{"from", "A"}, {"to", to}, {"at", "9.3 GHz"}});
        d.add("port impedance", {{"of", "A"}, {"at", "9.3 GHz"}});
        // Half of it behind a magnetic wall is the same device.
        Document half = d;
        half.add("mirror plane", {{"at", "y = 0"}, {"kind", "even"}});
        for (const Document& sheet : {d, half}) {
            const auto r = solved(sheet);
            QVERIFY(std::abs(valueOf(r, "|S| A to A") - std::abs(back)) < 1e-3);
            QVERIFY(std::abs(valueOf(r, "|S| A to B") - std::abs(on)) < 1e-3);
            const double turned = std::abs(valueOf(r, "phase of S A to B") - std::arg(on));
            QVERIFY(std::min(turned, 2 * pi - turned) < 2e-3);
            QVERIFY(std::abs(valueOf(r, "impedance of port A") / (2 * pi * f * mu0 / b0) - 1) <
                    1e-5);
            QVERIFY(isGood(r, "power balance"));
            QVERIFY(r.report.allMet());
        }
    }
    /// Side walls of brass take 2 pi^2 R / (a^3 beta k eta) by length. Pozar, section 3.3 without
    /// the broad walls (from memory).
    void sideWallsLose()
    {
        Document d = guide();
        d.add("metal wall",
              {{"material", "brass"}, {"sigma", "1e5 S/m"}, {"on", "pipe.top and pipe.bottom"}});
        d.add("scattering", {{"from", "A"}, {"to", "B"}, {"at", "10 GHz"}, {"within", "0.002 %"}});
        const double f = 10e9, a = 0.02286, k = 2 * pi * f / c0, R = std::sqrt(pi * f * mu0 / 1e5),
                     alpha = 2 * pi * pi * R /
                             (a * a * a * std::sqrt(k * k - pi * pi / (a * a)) * k * eta);
        const double found = -std::log(valueOf(solved(d), "|S| A to B")) / 0.04;
        QVERIFY2(std::abs(found / alpha - 1) < 0.01,
                 qPrintable(QString("%1 instead of %2").arg(found).arg(alpha)));
    }
    /// Several modes of a port, by their cut-offs; a step in width turns one into the other.
    void severalModes()
    {
        Document d = guide();
        d.add("rectangle",
              {{"name", "pocket"}, {"width", "10 mm"}, {"height", "5 mm"}, {"at", "0, 13.93 mm"}});
        d.add("material", {{"material", "vacuum"}, {"in", "pocket"}});
        d.set(d.first("band")->id, "from", "15 GHz");
        d.set(d.first("band")->id, "to", "18 GHz");
        for (const auto* port : d.ofKind("port"))
            d.set(port->id, "modes", "2");
        d.add("S-parameters", {});
        const auto r = solved(d);
        QVERIFY(r.report.allMet());
        QVERIFY(isGood(r, "power balance"));
        int seen = 0;
        for (const auto& c : r.report.checks)
            for (int m = 1; m <= 2; ++m)
                if (c.text.rfind("port A, mode " + std::to_string(m) + ": TE", 0) == 0) {
                    const double found = std::stod(c.text.substr(c.text.find("cut-off ") + 8));
                    QVERIFY(std::abs(found * 1e9 / (m * c0 / (2 * 0.02286)) - 1) < 1e-4);
                    ++seen;
                }
        QCOMPARE(seen, 2);
    }
    /// A line current in free space sends out omega mu0 I^2 / 8 by length. Harrington, section 5.6
    /// (from memory).
    void lineCurrent()
    {
        Document d;
        d.add("space", {{"type", "plane"}, {"depth", "2 m"}});
        d.add("disc", {{"name", "air"}, {"radius", "20 mm"}});
        d.add("material", {{"material", "vacuum"}, {"in", "air"}});
        d.add("field across", {});
        d.add("band", {{"from", "3 GHz"}, {"to", "3 GHz"}, {"points", "1"}});
        d.add("point dipole",
              {{"name", "I"}, {"at", "3 mm, 2 mm"}, {"along", "z"}, {"moment", "3 A*m"}});
        d.add("open space", {});
        d.add("radiated power", {{"of", "I"}, {"at", "3 GHz"}});
        const double exact = 2 * 2 * pi * 3e9 * mu0 * 9 / 8;
        const auto r = solved(d);
        QVERIFY2(std::abs(valueOf(r, "radiated power") / exact - 1) < 1e-3,
                 qPrintable(QString("%1 %2").arg(valueOf(r, "radiated power")).arg(exact)));
    }
    void cylinders_data()
    {
        QTest::addColumn<double>("m");
        QTest::newRow("glass") << 2.0;
        QTest::newRow("metal") << 0.0;
    }
    void cylinders()
    {
        QFETCH(double, m);
        Document d;
        d.add("space", {{"type", "plane"}, {"depth", "2 m"}});
        d.add("disc", {{"name", "rod"}, {"radius", "50 mm"}});
        d.add("material", m > 0
                              ? std::map<std::string, std::string>{{"material", "glassy"},
                                                                   {"in", "rod"},
                                                                   {"eps", "4"},
                                                                   {"loss", "0"}}
                              : std::map<std::string, std::string>{
                                    {"material", "copper"}, {"in", "rod"}, {"sigma", "1e14 S/m"}});
        d.add("field across", {});
        d.add("band", {{"from", "1 GHz"}, {"to", "2 GHz"}, {"points", "11"}});
        d.add("plane wave", {{"name", "W"}, {"towards", "x"}});
        d.add("open space", {});
        for (const char* at : {"1 GHz", "1.7 GHz"}) {
            for (const char* kind : {"scattering", "extinction"})
                d.add("cross-section",
                      {{"of", "W"}, {"at", at}, {"kind", kind}, {"within", "0.5 %"}});
            d.add("radar cross-section", {{"of", "W"}, {"at", at}, {"within", "0.5 %"}});
        }
        const auto r = solved(d);
        for (const auto& [at, f] : {std::pair{"1 GHz", 1e9}, {"1.7 GHz", 1.7e9}}) {
            const Widths exact = cylinder(2 * pi * f / c0 * 0.05, m);
            const std::string name = std::string(" cross-section for W at ") + at;
            for (const char* kind : {"scattering", "extinction"})
                QVERIFY2(std::abs(valueOf(r, kind + name) / (0.2 * exact.scattering) - 1) < 2e-3,
                         kind);
            // In a drawing it is a width.
            QVERIFY(std::abs(valueOf(r, "radar" + name) / (0.1 * exact.back) - 1) < 4e-3);
        }
        QVERIFY(isGood(r, "extinction"));
        QVERIFY(isGood(r, "band model"));
    }
    /// A ball of ceramic in open space: complex frequencies of its lowest TE mode (a magnetic
    /// dipole), by E round the axis and by fields of azimuthal order 1, and of its lowest TM mode.
    /// n psi'(n x) / psi(n x) = zeta'(x) / zeta(x) for TE, psi'(n x) / (n psi(n x)) for TM, of
    /// degree 1. Bohren and Huffman, section 4.8: where the denominators of their coefficients
    /// vanish (from memory).
    void openResonances_data()
    {
        QTest::addColumn<int>("turns");
        QTest::addColumn<bool>("tm");
        QTest::addColumn<double>("loss");
        QTest::newRow("TE, E round") << 0 << false << 0.0;
        QTest::newRow("TE, azimuthal order 1") << 1 << false << 0.0;
        QTest::newRow("TM, E in the drawing") << -1 << true << 0.0;
        QTest::newRow("TE, lossy") << 0 << false << 0.01;
    }
    void openResonances()
    {
        QFETCH(int, turns);
        QFETCH(bool, tm);
        QFETCH(double, loss);
        const double a = 0.005;
        const Complex n = std::sqrt(Complex(36, -36 * loss)), j(0, 1);
        auto gap = [&](Complex x) {
            const Complex z = n * x, psi = std::sin(z) / z - std::cos(z),
                          dpsi = std::cos(z) / z - std::sin(z) / (z * z) + std::sin(z),
                          zeta = 1.0 - j / x, dzeta = -j - 1.0 / x + j / (x * x);
            return (tm ? 1.0 / n : n) * dpsi * zeta - psi * dzeta;
        };
        Complex x = tm ? Complex(0.74, 0.03) : Complex(0.51, 0.01);
        for (int i = 0; i < 60; ++i) {
            const Complex h = 1e-6, slope = (gap(x + h) - gap(x - h)) / (2.0 * h);
            x -= gap(x) / slope;
        }
        QVERIFY(std::abs(gap(x)) < 1e-9);
        QVERIFY(x.imag() > 0);
        const double f = c0 * x.real() / (2 * pi * a), Q = x.real() / (2 * x.imag());
        Document d;
        d.add("space", {{"type", "axisymmetric"}});
        d.add("disc",
              {{"name", "ball"}, {"radius", "5 mm"}, {"from", "-90 deg"}, {"to", "90 deg"}});
        d.add("material", {{"material", "ceramic"},
                           {"in", "ball"},
                           {"eps", "36"},
                           {"loss", std::to_string(loss)}});
        if (turns == 0)
            d.add("field across", {});
        d.add("open space", {});
        d.add("modes", {{"count", "1"},
                        {"from", std::to_string(0.95 * f / 1e9) + " GHz"},
                        {"turns", turns > 0 ? "1" : ""}});
        d.add("resonance", {{"mode", "1"}});
        d.add("quality factor", {{"mode", "1"}});
        const auto r = solved(d);
        const double found = valueOf(r, "frequency of mode 1"), q = valueOf(r, "Q of mode 1");
        std::printf("f %.8e (%.8e), off %.1e, stated %.1e; Q %.6g (%.6g), off %.1e, stated %.1e\n",
                    found, f, std::abs(found / f - 1), errorOf(r, "frequency") / f, q, Q,
                    std::abs(q / Q - 1), errorOf(r, "Q of mode") / Q);
        QVERIFY(std::abs(found / f - 1) < 1e-4);
        QVERIFY(std::abs(q / Q - 1) < 5e-3);
        QVERIFY(r.report.allMet());
        if (loss > 0) {
            const double media = valueOf(r, "Q by media"), away = valueOf(r, "Q by radiation");
            QVERIFY(std::abs(1 / media + 1 / away - 1 / q) < 1e-6 / q);
            // Nearly all of the field's energy is in the ball.
            QVERIFY(media * loss > 1 && media * loss < 1.2);
        }
        d.set(d.first("modes")->id, "from", "");
        QVERIFY(isRefused(d, 6219));
    }
    /// An empty guide cut into periodic pieces: k^2 = ((phase + 2 pi m) / a)^2 + those of its
    /// section. Jackson, section 8.3 (from memory).
    void periodicGuide_data()
    {
        QTest::addColumn<bool>("solid");
        QTest::addColumn<double>("phase");
        QTest::newRow("drawing, 70 degrees") << false << 70.0;
        QTest::newRow("drawing, in step") << false << 0.0;
        QTest::newRow("solid, 110 degrees") << true << 110.0;
    }
    void periodicGuide()
    {
        YH_LONG();
        QFETCH(bool, solid);
        QFETCH(double, phase);
        const double a = 0.02, b = 0.015, h = 0.01;
        Document d;
        d.add("space", {{"type", solid ? "solid" : "plane"}});
        if (solid)
            d.add("box",
                  {{"name", "cell"}, {"width", mm(a)}, {"length", mm(b)}, {"height", mm(h)}});
        else
            d.add("rectangle", {{"name", "cell"}, {"width", mm(a)}, {"height", mm(b)}});
        d.add("material", {{"material", "vacuum"}, {"in", "cell"}});
        if (!solid)
            d.add("field across", {});
        d.add(
            "periodic pair",
            {{"on", "cell.left"}, {"to", "cell.right"}, {"phase", std::to_string(phase) + " deg"}});
        d.add("modes", {{"count", "4"}, {"from", "5 GHz"}});
        for (int k = 1; k <= 4; ++k)
            d.add("resonance", {{"mode", std::to_string(k)}, {"within", solid ? "1 %" : "0.01 %"}});
        std::vector<double> exact;
        for (int m = -3; m <= 3; ++m)
            for (int p = 0; p < 4; ++p)
                for (int q = 0; q < (solid ? 4 : 1); ++q) {
                    const double along = phase * pi / 180 + 2 * pi * m;
                    // In the section E stands across at least one pair of walls.
                    const int zeros = solid ? (p == 0) + (q == 0) : p == 0 ? 2 : 1;
                    if (zeros == 2)
                        continue;
                    const double f =
                        c0 / (2 * pi) * std::hypot(along / a, p * pi / b, solid ? q * pi / h : 0.0);
                    exact.insert(exact.end(), solid && zeros == 0 ? 2 : 1, f);
                }
        std::sort(exact.begin(), exact.end());
        std::erase_if(exact, [](double f) { return f < 5e9; });
        const auto r = solved(d);
        for (size_t k = 0; k < 4; ++k) {
            const double f = valueOf(r, "frequency of mode " + std::to_string(k + 1));
            QVERIFY2(std::abs(f / exact[k] - 1) < (solid ? 1e-3 : 1e-4),
                     qPrintable(QString("%1: %2, not %3").arg(k + 1).arg(f).arg(exact[k])));
        }
        QVERIFY(r.report.allMet());
    }
    /// Layers of two media in turn: cos(phase) = cos(p) cos(q) - (n + 1 / n) / 2 sin(p) sin(q),
    /// with p and q the ways through either. Yeh, Optical Waves in Layered Media, section 6.2 (from
    /// memory). Once more from a chain of two cells at twice the phase, and with Q by its loss.
    void layersInTurn()
    {
        const double a = 0.006, b = 0.004, n = 2, phase = pi / 3;
        auto condition = [&](double k) {
            const double p = k * a, q = n * k * b;
            return std::cos(p) * std::cos(q) - 0.5 * (n + 1 / n) * std::sin(p) * std::sin(q) -
                   std::cos(phase);
        };
        std::vector<double> exact;
        for (double k = 1; exact.size() < 3; k += 1)
            if (condition(k) * condition(k + 1) < 0) {
                double low = k, high = k + 1;
                for (int i = 0; i < 60; ++i) {
                    const double middle = (low + high) / 2;
                    (condition(low) * condition(middle) > 0 ? low : high) = middle;
                }
                exact.push_back(c0 * low / (2 * pi));
            }
        Document d;
        d.add("space", {{"type", "plane"}});
        d.add("rectangle",
              {{"name", "gap"}, {"width", mm(a)}, {"height", "3 mm"}, {"at", mm(a / 2) + ", 0"}});
        d.add("rectangle", {{"name", "layer"},
                            {"width", mm(b)},
                            {"height", "3 mm"},
                            {"at", mm(a + b / 2) + ", 0"}});
        d.add("material", {{"material", "vacuum"}, {"in", "gap"}});
        d.add("material",
              {{"material", "glassy"}, {"in", "layer"}, {"eps", "4"}, {"loss", "1e-3"}});
        d.add("field across", {});
        d.add("magnetic wall", {{"on", "gap.top and gap.bottom and layer.top and layer.bottom"}});
        d.add("periodic pair", {{"on", "gap.left"}, {"to", "layer.right"}, {"phase", "60 deg"}});
        d.add("modes", {{"count", "3"}, {"from", "1 GHz"}});
        for (int k = 1; k <= 3; ++k)
            d.add("resonance", {{"mode", std::to_string(k)}});
        d.add("quality factor", {{"mode", "1"}});
        const auto r = solved(d);
        for (size_t k = 0; k < 3; ++k) {
            const double f = valueOf(r, "frequency of mode " + std::to_string(k + 1));
            QVERIFY2(std::abs(f / exact[k] - 1) < 1e-4,
                     qPrintable(QString("%1: %2, not %3").arg(k + 1).arg(f).arg(exact[k])));
        }
        // Between all in the layer and its share of the length.
        QVERIFY(valueOf(r, "Q of mode 1") > 1000 && valueOf(r, "Q of mode 1") < 2500);
        QVERIFY(r.report.allMet());
        // Over a sweep of the phase the mesh stays, and the frequency rises with the phase.
        Document swept = d;
        swept.add("parameter", {{"name", "turn"}, {"value", "60 deg"}});
        swept.set(swept.first("periodic pair")->id, "phase", "turn");
        swept.add("sweep",
                  {{"parameter", "turn"}, {"from", "30 deg"}, {"to", "60 deg"}, {"steps", "2"}});
        const auto list = solved(swept).points;
        QCOMPARE(list.size(), size_t(2));
        QVERIFY(std::abs(list[1].report.findings[0].value[0] / exact[0] - 1) < 1e-4);
        QVERIFY(std::abs(list[0].report.findings[0].value[0] / exact[0] - 0.5) < 0.05);
        // E in the drawing, across the layers' own plane, has the same bands.
        for (auto& l : d.lines)
            if (l.kind == "magnetic wall")
                l.kind = "electric wall";
        std::erase_if(d.lines, [](const auto& l) { return l.kind == "field across"; });
        const auto inside = solved(d);
        for (size_t k = 0; k < 3; ++k)
            QVERIFY(
                std::abs(valueOf(inside, "frequency of mode " + std::to_string(k + 1)) / exact[k] -
                         1) < 1e-4);
    }
    void wrongSheets()
    {
        Document pair =
            cavity("plane", "rectangle", {{"width", "20 mm"}, {"height", "30 mm"}}, 0, 1);
        pair.add("periodic pair", {{"on", "room.left"}, {"to", "room.right"}});
        QVERIFY(isRefused(pair, 6245));
        pair.set(pair.first("modes")->id, "from", "1 GHz");
        pair.set(pair.first("periodic pair")->id, "to", "room.top");
        QVERIFY(isRefused(pair, 6243));
        Document d = can(0.02, 0.03, 1, 1);
        d.add("field across", {});
        QVERIFY(isRefused(d, 6238));
        d = cavity("plane", "rectangle", {{"width", "20 mm"}, {"height", "30 mm"}}, 1, 1);
        QVERIFY(isRefused(d, 6237));
        d = cavity("solid", "box", {{"width", "20 mm"}, {"length", "9 mm"}, {"height", "30 mm"}}, 0,
                   1);
        QVERIFY(isRefused(d, 6236));
        d = can(0.02, 0.03, 0, 1);
        d.add("shunt impedance", {{"mode", "1"}, {"from", "0, 0"}, {"to", "0, 30 mm"}});
        QVERIFY(isRefused(d, 7082));
        d = guide();
        d.add("S-parameters", {});
        const Document good = d;
        d.add("lumped port", {{"name", "C"}, {"on", "pipe.top"}});
        QVERIFY(isRefused(d, 6239));
        d = good;
        d.add("point dipole", {{"name", "D"}, {"at", "0, 0"}, {"along", "x"}});
        QVERIFY(isRefused(d, 6221));
        d = good;
        d.add("open space", {});
        d.add("plane wave", {{"name", "W"}, {"towards", "x"}, {"E", "y"}});
        QVERIFY(isRefused(d, 6231));
    }
};

YH_TEST(TestAcross)

}  // namespace tst_across

#include "tst_across.moc"
