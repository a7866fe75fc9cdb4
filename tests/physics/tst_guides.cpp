// Modes of endless guides of several media against their exact equations.
#include "program.h"
#include "solved.h"
#include "waves.h"

#include <QtTest/QtTest>

#include <functional>

namespace tst_guides {

using namespace yh;
using test::c0;
using test::mu0;
using test::pi;
using namespace yh::test;
using sheet::Document;

namespace {

/// Root of a function that changes its sign between a and b.
double rootOf(const std::function<double(double)>& f, double a, double b)
{
    const double fa = f(a);
    for (int i = 0; i < 200; ++i) {
        const double m = 0.5 * (a + b);
        ((f(m) < 0) == (fa < 0) ? a : b) = m;
    }
    return 0.5 * (a + b);
}

/// Effective index of the lowest mode of a slab of index n1 and thickness d in index n2:
///   tan(kappa d / 2) = (n1^2 / n2^2 for TM) gamma / kappa
/// (Marcuse, Theory of Dielectric Optical Waveguides, 1974, section 1.3, from memory).
double slabIndex(double n1, double n2, double d, double k, bool tm)
{
    auto f = [&](double n) {
        const double kappa = k * std::sqrt(n1 * n1 - n * n), gamma = k * std::sqrt(n * n - n2 * n2),
                     r = tm ? n1 * n1 / (n2 * n2) : 1.0;
        return kappa * std::sin(kappa * d / 2) - r * gamma * std::cos(kappa * d / 2);
    };
    // The lowest mode has kappa d < pi.
    const double slow = std::sqrt(std::max(n2 * n2, n1 * n1 - std::pow(pi / (k * d), 2)));
    return rootOf(f, slow * (1 + 1e-12), n1 * (1 - 1e-12));
}

/// A slab of 0.4 um of index 2 in 1.45, as a strip of its section between walls: E across the
/// strip's walls stands on electric ones (TE), along them between magnetic ones (TM).
Document slab(bool tm, const std::string& wavelength)
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("rectangle", {{"name", "clad"}, {"width", "14 um"}, {"height", "0.3 um"}});
    d.add("rectangle", {{"name", "core"}, {"width", "0.4 um"}, {"height", "0.3 um"}});
    d.add("material", {{"material", "cladding"}, {"in", "clad"}, {"eps", "1.45^2"}});
    d.add("material", {{"material", "nitride"}, {"in", "core"}, {"eps", "4"}});
    if (tm)
        for (const char* side : {"clad.top", "clad.bottom", "core.top", "core.bottom"})
            d.add("magnetic wall", {{"on", side}});
    d.add("guide modes", {{"count", "1"}, {"wavelength", wavelength}});
    return d;
}

Document withAsk(Document d, const std::string& kind, std::map<std::string, std::string> values)
{
    if (!values.count("mode"))
        values["mode"] = "1";
    d.add(kind, std::move(values));
    return d;
}

/// A round core of radius 2 um in a cladding of radius 12 um.
Document fibre(bool quarter)
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("disc", {{"name", "clad"}, {"radius", "10 um"}});
    d.add("disc", {{"name", "core"}, {"radius", "2 um"}});
    d.add("material", {{"material", "glass"}, {"in", "clad"}, {"eps", "1.45^2"}});
    d.add("material", {{"material", "glass with germania"}, {"in", "core"}, {"eps", "1.55^2"}});
    d.add("guide modes", {{"count", quarter ? "1" : "2"}, {"wavelength", "1.55 um"}});
    if (quarter) {
        d.add("mirror plane", {{"at", "x = 0"}, {"kind", "odd"}});
        d.add("mirror plane", {{"at", "y = 0"}, {"kind", "even"}});
    }
    return d;
}

/// Index of the mode HE11 of a fibre by its exact equation
///   (J' / (u J) + K' / (w K)) (n1^2 J' / (u J) + n2^2 K' / (w K)) = (beta / k)^2 (1/u^2 + 1/w^2)^2
/// with J = J_1(u), K = K_1(w) (Snyder and Love, Optical Waveguide Theory, table 12-4, from
/// memory).
double fibreIndex(double n1, double n2, double a, double k)
{
    auto f = [&](double n) {
        const double u = k * a * std::sqrt(n1 * n1 - n * n), w = k * a * std::sqrt(n * n - n2 * n2);
        const double J = std::cyl_bessel_j(1, u), dJ = std::cyl_bessel_j(0, u) - J / u,
                     K = std::cyl_bessel_k(1, w), dK = -std::cyl_bessel_k(0, w) - K / w;
        const double p = dJ / (u * J), q = dK / (w * K), s = 1 / (u * u) + 1 / (w * w);
        return (p + q) * (n1 * n1 * p + n2 * n2 * q) - n * n * s * s;
    };
    // The fundamental mode has u below 2.405.
    const double most = std::min(2.404, k * a * std::sqrt(n1 * n1 - n2 * n2) * (1 - 1e-9));
    return rootOf(f, std::sqrt(n1 * n1 - std::pow(most / (k * a), 2)), n1 * (1 - 1e-6));
}

}  // namespace

class TstGuides : public QObject
{
    Q_OBJECT

private Q_SLOTS:
    void slabModes_data();
    void slabModes();
    void groupIndexIsThatOfTheCurve();
    void groupIndexOfAGlass();
    void fibreMode();
    void areaOfAWeakFibre();
    void partlyFilledGuide();
    void coaxialLine();
    void losslessAndLossyMedium();
    void microstrip();
    void bentGuide();
    void openGuideLosesNothing();
    void errorsCoverTheTruth();
    void wrongSheets_data();
    void wrongSheets();
};

void TstGuides::slabModes_data()
{
    QTest::addColumn<bool>("tm");
    QTest::newRow("TE") << false;
    QTest::newRow("TM") << true;
}

void TstGuides::slabModes()
{
    QFETCH(bool, tm);
    const double k = 2 * pi / 1.55e-6, exact = slabIndex(2, 1.45, 0.4e-6, k, tm);
    Document d = withAsk(slab(tm, "1.55 um"), "effective index", {{"within", "0.001 %"}});
    d.add("mode polarisation", {{"mode", "1"}});
    d.add("mode confinement", {{"mode", "1"}, {"in", "core"}});
    const auto r = solved(d);
    const double n = valueOf(r, "effective");
    QVERIFY2(std::abs(n / exact - 1) < 1e-6,
             qPrintable(QString("%1 %2").arg(n, 0, 'g', 10).arg(exact, 0, 'g', 10)));
    QVERIFY(std::abs(n - exact) <= errorOf(r, "effective") + 1e-12);
    // Across the slab E is along x for TM, along y for TE.
    QVERIFY(std::abs(valueOf(r, "polarisation") - (tm ? 1 : 0)) < 1e-6);
    // Share of the power in the core, from cos in the core and the exponential beside it; the
    // power goes with E^2, in TM with H^2 over the permittivity.
    const double kappa = k * std::sqrt(4 - exact * exact),
                 gamma = k * std::sqrt(exact * exact - 1.45 * 1.45), half = 0.2e-6;
    const double inside = half + std::sin(2 * kappa * half) / (2 * kappa),
                 beside = std::pow(std::cos(kappa * half), 2) / gamma,
                 share = tm ? (inside / 4) / (inside / 4 + beside / (1.45 * 1.45))
                            : inside / (inside + beside);
    QVERIFY2(std::abs(valueOf(r, "power share") - share) < 1e-4,
             qPrintable(QString("%1 %2").arg(valueOf(r, "power share")).arg(share)));
}

void TstGuides::groupIndexIsThatOfTheCurve()
{
    auto index = [](double wavelength) {
        return slabIndex(2, 1.45, 0.4e-6, 2 * pi / wavelength, true);
    };
    const double at = 1.55e-6, h = 1e-9,
                 exact = index(at) - at * (index(at + h) - index(at - h)) / (2 * h);
    const auto r = solved(withAsk(slab(true, "1.55 um"), "group index", {{"within", "0.01 %"}}));
    QVERIFY2(
        std::abs(valueOf(r, "group") / exact - 1) < 2e-5,
        qPrintable(QString("%1 %2").arg(valueOf(r, "group"), 0, 'g', 9).arg(exact, 0, 'g', 9)));
}

void TstGuides::groupIndexOfAGlass()
{
    // Fused silica by its three resonances, alone between walls that let a plane wave pass: index
    // and group index are those of the glass. Malitson, J. Opt. Soc. Am. 55 (1965) 1205 (from
    // memory); at 1.55 um 1.44402 and 1.4626.
    auto square = [](double um) {
        const double l = um * um;
        return 1 + 0.6961663 * l / (l - 0.0684043 * 0.0684043) +
               0.4079426 * l / (l - 0.1162414 * 0.1162414) +
               0.8974794 * l / (l - 9.896161 * 9.896161);
    };
    auto index = [&](double um) { return std::sqrt(square(um)); };
    const double h = 1e-4,
                 group = index(1.55) - 1.55 * (index(1.55 + h) - index(1.55 - h)) / (2 * h);
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("rectangle", {{"name", "glass"}, {"width", "3 um"}, {"height", "2 um"}});
    std::string eps = "1";
    for (const auto& [a, b] : {std::pair{"0.6961663", "0.0684043"},
                               {"0.4079426", "0.1162414"},
                               {"0.8974794", "9.896161"}})
        eps += std::string(" + ") + a + "/(1 - (" + b + " um*f/c0)^2)";
    d.add("material", {{"material", "silica"}, {"in", "glass"}, {"eps", eps}});
    d.add("magnetic wall", {{"on", "glass.left and glass.right"}});
    d.add("guide modes", {{"count", "1"}, {"wavelength", "1.55 um"}});
    const auto r = solved(withAsk(withAsk(d, "effective index", {}), "group index", {}));
    QVERIFY(std::abs(valueOf(r, "effective") - 1.44402) < 2e-5);
    QVERIFY(std::abs(valueOf(r, "effective") / index(1.55) - 1) < 1e-6);
    QVERIFY2(
        std::abs(valueOf(r, "group") / group - 1) < 1e-6,
        qPrintable(QString("%1 %2").arg(valueOf(r, "group"), 0, 'g', 9).arg(group, 0, 'g', 9)));
    QVERIFY(std::abs(group - 1.4626) < 5e-5);
}

void TstGuides::fibreMode()
{
    const double exact = fibreIndex(1.55, 1.45, 2e-6, 2 * pi / 1.55e-6);
    const auto r = solved(withAsk(fibre(false), "effective index", {{"within", "0.001 %"}}));
    const double n = valueOf(r, "effective");
    QVERIFY2(std::abs(n / exact - 1) < 1e-5,
             qPrintable(QString("%1 %2").arg(n, 0, 'g', 10).arg(exact, 0, 'g', 10)));
    // Both polarisations have it; the program says so.
    QVERIFY(std::any_of(r.report.checks.begin(), r.report.checks.end(),
                        [](const auto& c) { return c.id == "equal modes"; }));
    // A quarter gives one of them, and the area of the whole.
    Document quarter = withAsk(fibre(true), "effective index", {{"within", "0.001 %"}});
    const auto q = solved(quarter);
    QVERIFY(std::abs(valueOf(q, "effective") / exact - 1) < 1e-5);
}

// With little contrast the field is J_0(u r / a) in the core and K_0(w r / a) beside it, in one
// direction (Snyder and Love, chapter 14, from memory).
void TstGuides::areaOfAWeakFibre()
{
    Document d = fibre(true);
    d.set(d.findNamed("clad")->id, "radius", "24 um");
    d.set(d.findNamed("core")->id, "radius", "3 um");
    d.set(d.ofKind("material")[1]->id, "eps", "1.46^2");
    d.add("mode area", {{"mode", "1"}, {"within", "0.2 %"}});
    d.add("mode polarisation", {{"mode", "1"}});
    const double k = 2 * pi / 1.55e-6, a = 3e-6, n = fibreIndex(1.46, 1.45, a, k);
    const double u = k * a * std::sqrt(1.46 * 1.46 - n * n),
                 w = k * a * std::sqrt(n * n - 1.45 * 1.45);
    double second = 0, fourth = 0;
    constexpr int steps = 20000;
    for (int i = 0; i < steps; ++i) {
        const double r = 8.0 * (i + 0.5) / steps;
        const double e = r < 1 ? std::cyl_bessel_j(0, u * r) / std::cyl_bessel_j(0, u)
                               : std::cyl_bessel_k(0, w * r) / std::cyl_bessel_k(0, w);
        second += e * e * r;
        fourth += e * e * e * e * r;
    }
    const double exact = 2 * pi * a * a * (8.0 / steps) * second * second / fourth;
    const auto r = solved(d);
    QVERIFY2(std::abs(valueOf(r, "area") / exact - 1) < 0.01,
             qPrintable(QString("%1 %2").arg(valueOf(r, "area")).arg(exact)));
    // Odd about x = 0: E stands on that plane, along x.
    QVERIFY(valueOf(r, "polarisation") > 0.999);
}

// A rectangular guide of width a filled to x = t with permittivity eps: the LSE mode without
// change along y has E along y, with k1 cot(k1 t) = -k2 cot(k2 (a - t)) (Collin, Field Theory of
// Guided Waves, section 6.2, from memory).
void TstGuides::partlyFilledGuide()
{
    constexpr double a = 22.86e-3, t = 8e-3, eps = 4, f = 9e9;
    const double k = 2 * pi * f / c0;
    auto equation = [&](double beta) {
        const double k1 = std::sqrt(eps * k * k - beta * beta), square = k * k - beta * beta;
        const double left = k1 / std::tan(k1 * t);
        const double right = square >= 0
                                 ? std::sqrt(square) / std::tan(std::sqrt(square) * (a - t))
                                 : std::sqrt(-square) / std::tanh(std::sqrt(-square) * (a - t));
        return left + right;
    };
    // The lowest mode has k1 t between pi/2 and pi, where the left side falls from 0.
    const double exact = rootOf(equation,
                                std::sqrt(eps * k * k - std::pow(0.9999 * pi / t, 2) > 0
                                              ? eps * k * k - std::pow(0.9999 * pi / t, 2)
                                              : 1.0),
                                std::sqrt(eps * k * k - std::pow(pi / 2 / t, 2)));
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("rectangle", {{"name", "guide"},
                        {"width", "22.86 mm"},
                        {"height", "10.16 mm"},
                        {"at", "11.43 mm, 5.08 mm"}});
    d.add("rectangle",
          {{"name", "slab"}, {"width", "8 mm"}, {"height", "10.16 mm"}, {"at", "4 mm, 5.08 mm"}});
    d.add("material", {{"material", "vacuum"}, {"in", "guide"}});
    d.add("material", {{"material", "ceramic"}, {"in", "slab"}, {"eps", "4"}});
    d.add("guide modes", {{"count", "1"}, {"at", "9 GHz"}});
    const auto r = solved(withAsk(d, "effective index", {{"within", "0.001 %"}}));
    QVERIFY2(
        std::abs(valueOf(r, "effective") * k / exact - 1) < 1e-6,
        qPrintable(
            QString("%1 %2").arg(valueOf(r, "effective") * k, 0, 'g', 10).arg(exact, 0, 'g', 10)));
}

// Pozar, Microwave Engineering, table 2.1 and section 2.7 (from memory): Z0 = eta ln(b/a) / 2 pi,
//   alpha_c = R_s / (2 eta ln(b/a)) (1/a + 1/b),  alpha_d = k sqrt(eps) tan(delta) / 2.
void TstGuides::coaxialLine()
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("disc", {{"name", "dielectric"}, {"radius", "3 mm"}});
    d.add("disc", {{"name", "inner"}, {"radius", "1 mm"}});
    d.add("material",
          {{"material", "foam"}, {"in", "dielectric"}, {"eps", "2.25"}, {"loss", "0.001"}});
    d.add("material", {{"material", "copper"}, {"in", "inner"}});
    d.add("metal wall", {{"material", "copper"}, {"on", "outer of dielectric"}});
    d.add("guide modes", {{"count", "1"}, {"at", "1 GHz"}});
    d.add("line impedance",
          {{"mode", "1"}, {"from", "1 mm, 0"}, {"to", "3 mm, 0"}, {"within", "0.05 %"}});
    d.add("attenuation", {{"mode", "1"}, {"within", "0.2 %"}});
    d.add("effective index", {{"mode", "1"}});
    const auto r = solved(d);
    const double eta = 376.730313668 / 1.5, Z0 = eta * std::log(3) / (2 * pi), omega = 2 * pi * 1e9;
    const double Rs = std::sqrt(omega * mu0 * 1.68e-8 / 2),
                 byMetal = Rs / (2 * eta * std::log(3)) * (1e3 + 1e3 / 3),
                 byMedium = omega / c0 * 1.5 * 0.001 / 2;
    QVERIFY2(std::abs(valueOf(r, "line impedance") / Z0 - 1) < 1e-3,
             qPrintable(QString("%1 %2").arg(valueOf(r, "line impedance")).arg(Z0)));
    QVERIFY2(std::abs(valueOf(r, "attenuation") / (byMetal + byMedium) - 1) < 5e-3,
             qPrintable(QString("%1 %2").arg(valueOf(r, "attenuation")).arg(byMetal + byMedium)));
    // The field inside the metal slows the wave by as much as it attenuates it.
    QVERIFY(std::abs((valueOf(r, "effective") - 1.5) * omega / c0 / byMetal - 1) < 0.02);
    for (const auto& f : r.report.findings)
        if (f.name.rfind("attenuation", 0) == 0)
            QVERIFY(f.note.find("dB/m") != std::string::npos);
}

void TstGuides::losslessAndLossyMedium()
{
    // A filled guide: beta^2 = k^2 eps (1 - j tan delta) - (pi / a)^2, exactly.
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("rectangle", {{"name", "guide"}, {"width", "20 mm"}, {"height", "9 mm"}});
    d.add("material", {{"material", "resin"},
                       {"in", "guide"},
                       {"eps", "3"},
                       {"loss", "0.2"},
                       {"sigma", "0.01 S/m"}});
    d.add("guide modes", {{"count", "1"}, {"at", "8 GHz"}});
    d.add("attenuation", {{"mode", "1"}, {"within", "0.01 %"}});
    d.add("effective index", {{"mode", "1"}, {"within", "0.01 %"}});
    const auto r = solved(d);
    const double omega = 2 * pi * 8e9, k = omega / c0;
    const std::complex<double> eps(3, -0.6 - 0.01 / (omega * 8.8541878128e-12)),
        beta = std::sqrt(k * k * eps - std::pow(pi / 20e-3, 2));
    QVERIFY(std::abs(valueOf(r, "attenuation") / -beta.imag() - 1) < 1e-6);
    QVERIFY(std::abs(valueOf(r, "effective") * k / beta.real() - 1) < 1e-6);
    // Without losses there is nothing to ask for.
    Document clean = d;
    clean.set(clean.ofKind("material")[0]->id, "loss", "");
    clean.set(clean.ofKind("material")[0]->id, "sigma", "");
    QVERIFY(isRefused(clean, 7078));
}

// Hammerstad and Jensen, IEEE MTT-S Digest 1980, 407 (from memory): effective permittivity to
// 0.2 %, impedance to 0.01 % beside it, of a strip without thickness at low frequency.
void TstGuides::microstrip()
{
    constexpr double u = 1.5, er = 4.4;  // width over height
    const double fu = 6 + (2 * pi - 6) * std::exp(-std::pow(30.666 / u, 0.7528)),
                 air = 376.730313668 / (2 * pi) * std::log(fu / u + std::sqrt(1 + 4 / (u * u)));
    const double a = 1 +
                     std::log((std::pow(u, 4) + std::pow(u / 52, 2)) / (std::pow(u, 4) + 0.432)) /
                         49 +
                     std::log(1 + std::pow(u / 18.1, 3)) / 18.7,
                 b = 0.564 * std::pow((er - 0.9) / (er + 3), 0.053),
                 ee = (er + 1) / 2 + (er - 1) / 2 * std::pow(1 + 10 / u, -a * b);
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("rectangle",
          {{"name", "air"}, {"width", "30 mm"}, {"height", "20 mm"}, {"at", "0, 10 mm"}});
    d.add("rectangle",
          {{"name", "board"}, {"width", "30 mm"}, {"height", "1 mm"}, {"at", "0, 0.5 mm"}});
    d.add("thin line", {{"name", "strip"}, {"points", "-0.75 mm, 1 mm; 0.75 mm, 1 mm"}});
    d.add("material", {{"material", "air"}, {"in", "air"}, {"eps", "1"}});
    d.add("material", {{"material", "laminate"}, {"in", "board"}, {"eps", "4.4"}});
    d.add("electric wall", {{"on", "strip"}});
    d.add("mirror plane", {{"at", "x = 0"}, {"kind", "even"}});
    d.add("guide modes", {{"count", "1"}, {"at", "0.2 GHz"}});
    d.add("effective index", {{"mode", "1"}, {"within", "0.1 %"}});
    d.add("line impedance",
          {{"mode", "1"}, {"from", "0, 0"}, {"to", "0, 1 mm"}, {"within", "0.5 %"}});
    const auto r = solved(d);
    QVERIFY2(std::abs(std::pow(valueOf(r, "effective"), 2) / ee - 1) < 6e-3,
             qPrintable(QString("%1 %2").arg(std::pow(valueOf(r, "effective"), 2)).arg(ee)));
    QVERIFY2(
        std::abs(valueOf(r, "line impedance") / (air / std::sqrt(ee)) - 1) < 1e-2,
        qPrintable(QString("%1 %2").arg(valueOf(r, "line impedance")).arg(air / std::sqrt(ee))));
}

// A hollow guide bent about an axis along E: E = J_nu(k r) Y_nu(k b) - Y_nu(k r) J_nu(k b) vanishes
// at r = a and b, with nu = beta R (Lewin, Chang and Kuester, Electromagnetic Waves and Curved
// Structures, chapter 2, from memory).
void TstGuides::bentGuide()
{
    constexpr double inner = 20e-3, outer = 42.86e-3, f = 10e9, R = 31.43e-3;
    const double k = 2 * pi * f / c0;
    auto equation = [&](double nu) {
        return std::cyl_bessel_j(nu, k * inner) * std::cyl_neumann(nu, k * outer) -
               std::cyl_bessel_j(nu, k * outer) * std::cyl_neumann(nu, k * inner);
    };
    // From the straight guide's beta both ways.
    const double straight = std::sqrt(k * k - std::pow(pi / (outer - inner), 2)) * R;
    const double exact = rootOf(equation, 0.8 * straight, 1.15 * straight) / R;
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("rectangle", {{"name", "guide"}, {"width", "22.86 mm"}, {"height", "6 mm"}});
    d.add("material", {{"material", "vacuum"}, {"in", "guide"}});
    d.add("guide modes", {{"count", "1"}, {"at", "10 GHz"}, {"bend", "31.43 mm"}});
    const auto r = solved(withAsk(d, "effective index", {{"within", "0.001 %"}}));
    QVERIFY2(std::abs(valueOf(r, "effective") * k / exact - 1) < 1e-6,
             qPrintable(QString("%1 %2 %3")
                            .arg(valueOf(r, "effective") * k, 0, 'g', 10)
                            .arg(exact, 0, 'g', 10)
                            .arg(straight / R)));
}

void TstGuides::openGuideLosesNothing()
{
    YH_LONG();
    // A rod in open space guides without loss, and as well as in a wide box; a bend makes it lose.
    auto rod = [](bool open, const std::string& bend) {
        Document d;
        d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
        if (!open)
            d.add("disc", {{"name", "air"}, {"radius", "60 mm"}});
        d.add("disc", {{"name", "rod"}, {"radius", "5 mm"}});
        if (!open)
            d.add("material", {{"material", "vacuum"}, {"in", "air"}});
        d.add("material", {{"material", "PTFE"}, {"in", "rod"}, {"eps", "2.1"}, {"loss", "0"}});
        if (open)
            d.add("open space", {});
        d.add("guide modes", {{"count", "1"}, {"at", "20 GHz"}, {"bend", bend}});
        d.add("effective index", {{"mode", "1"}, {"within", "0.005 %"}});
        if (open)
            d.add("attenuation", {{"mode", "1"}});
        d.add("limits", {{"passes", "4"}});
        return d;
    };
    const auto open = solved(rod(true, "")), box = solved(rod(false, ""));
    const double exact = fibreIndex(std::sqrt(2.1), 1, 5e-3, 2 * pi * 20e9 / c0);
    QVERIFY2(
        std::abs(valueOf(open, "effective") / exact - 1) < 2e-5,
        qPrintable(
            QString("%1 %2").arg(valueOf(open, "effective"), 0, 'g', 9).arg(exact, 0, 'g', 9)));
    QVERIFY(std::abs(valueOf(box, "effective") / exact - 1) < 2e-5);
    const double k = 2 * pi * 20e9 / c0;
    QVERIFY2(std::abs(valueOf(open, "attenuation")) < 1e-4 * k,
             qPrintable(QString::number(valueOf(open, "attenuation"))));
    const auto bent = solved(rod(true, "100 mm"));
    QVERIFY2(valueOf(bent, "attenuation") > 20 * std::abs(valueOf(open, "attenuation")),
             qPrintable(QString::number(valueOf(bent, "attenuation"))));
}

void TstGuides::errorsCoverTheTruth()
{
    YH_LONG();
    // Exact guides at loose and at sharp accuracy: the truth lies within what is stated.
    int inside = 0, all = 0;
    std::vector<double> ratio;
    auto judge = [&](const Document& sheet, const std::string& name, double exact) {
        for (const char* within : {"0.5 %", "0.02 %"}) {
            Document d = sheet;
            for (auto& l : d.lines)
                if (l.has("mode"))
                    l.values["within"] = within;
            const auto r = solved(d);
            const double off = std::abs(valueOf(r, name) - exact), stated = errorOf(r, name);
            ++all;
            inside += off <= stated;
            ratio.push_back(stated / std::max(off, 1e-300));
            if (off > stated)
                qWarning("%s %s: off by %g, stated %g", name.c_str(), within, off, stated);
        }
    };
    for (const double wavelength : {1.0, 1.55, 2.0})
        for (const bool tm : {false, true}) {
            const double k = 2 * pi / (wavelength * 1e-6);
            judge(withAsk(slab(tm, std::to_string(wavelength) + " um"), "effective index", {}),
                  "effective", slabIndex(2, 1.45, 0.4e-6, k, tm));
        }
    judge(withAsk(fibre(true), "effective index", {}), "effective",
          fibreIndex(1.55, 1.45, 2e-6, 2 * pi / 1.55e-6));
    std::sort(ratio.begin(), ratio.end());
    qInfo("%d of %d within; stated over true: median %.3g", inside, all, ratio[ratio.size() / 2]);
    QVERIFY(inside >= 0.9 * all);
    QVERIFY(ratio[ratio.size() / 2] < 1e3);
}

void TstGuides::wrongSheets_data()
{
    QTest::addColumn<int>("what");
    QTest::addColumn<int>("fault");
    QTest::newRow("neither frequency nor wavelength") << 0 << 2058;
    QTest::newRow("frequency and wavelength") << 1 << 2058;
    QTest::newRow("round an axis") << 2 << 6226;
    QTest::newRow("bent into itself") << 3 << 6227;
    QTest::newRow("beside a band") << 4 << 2057;
    QTest::newRow("Q of a guide") << 5 << 7072;
    QTest::newRow("a mode too many") << 6 << 2053;
    QTest::newRow("below cut-off") << 7 << 5026;
    QTest::newRow("two modes of one") << 8 << 5026;
}

void TstGuides::wrongSheets()
{
    QFETCH(int, what);
    QFETCH(int, fault);
    Document d;
    d.add("space", {{"type", what == 2 ? "axisymmetric" : "plane"}});
    d.add("rectangle",
          {{"name", "guide"}, {"width", "20 mm"}, {"height", "9 mm"}, {"at", "10 mm, 0"}});
    d.add("material", {{"material", "vacuum"}, {"in", "guide"}});
    std::map<std::string, std::string> line{{"count", what == 8 ? "2" : "1"}};
    if (what != 0)
        line["at"] = what == 7 ? "7 GHz" : "9 GHz";
    if (what == 1)
        line["wavelength"] = "30 mm";
    if (what == 3)
        line["bend"] = "-5 mm";
    d.add("guide modes", line);
    if (what == 3) {
        d.set(d.ofKind("guide modes")[0]->id, "bend", "5 mm");
        d.set(d.findNamed("guide")->id, "at", "0, 0");
    }
    if (what == 4)
        d.add("band", {{"from", "8 GHz"}, {"to", "9 GHz"}});
    d.add(what == 5 ? "quality factor" : "effective index", {{"mode", what == 6 ? "3" : "1"}});
    base::Progress progress;
    run::Outcome outcome{};
    const auto r = run::solve(d, {}, progress, outcome);
    const bool said = std::any_of(r.report.faults.begin(), r.report.faults.end(),
                                  [&](const auto& f) { return f.number == fault; });
    for (const auto& f : r.report.faults)
        if (!said)
            qWarning("%d: %s", f.number, f.text.c_str());
    QVERIFY(said);
}

YH_TEST(TstGuides)

}  // namespace tst_guides

#include "tst_guides.moc"
