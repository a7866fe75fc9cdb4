// Thin wires among waves: antennas, posts and loops against closed forms and moments.
#include "fem/dense.h"
#include "physics/wave/common/wires.h"
#include "program.h"
#include "solved.h"
#include "waves.h"

#include <cmath>
#include <complex>

namespace tst_wires {

using namespace yh;
using sheet::Document;
using test::c0;
using test::errorOf;
using test::eta;
using test::isGood;
using test::isRefused;
using test::mu0;
using test::number;
using test::pi;
using test::solved;
using test::valueOf;
using Complex = std::complex<double>;

namespace {

/// A rod of half a metre fed in its middle; an eighth of it is modelled.
Document rod(const std::string& radius)
{
    Document d;
    d.add("space", {{"type", "solid"}});
    d.add("wire", {{"name", "rod"}, {"radius", radius}, {"points", "0, 0, -250 mm; 0, 0, 250 mm"}});
    d.add("band", {{"from", "280 MHz"}, {"to", "300 MHz"}, {"points", "21"}});
    d.add("gap feed", {{"name", "A"},
                       {"in", "rod"},
                       {"at", "0, 0, 0"},
                       {"gap", "4 mm"},
                       {"resistance", "73 ohm"}});
    d.add("open space", {});
    for (const char* plane : {"x = 0", "y = 0"})
        d.add("mirror plane", {{"at", plane}, {"kind", "even"}});
    d.add("mirror plane", {{"at", "z = 0"}, {"kind", "odd"}});
    return d;
}

struct Moments
{
    Complex impedance;  ///< ohm
    double square = 0;  ///< integral of |I|^2 over that of the input, m
};
/// A rod by moments: linear currents on even segments, Galerkin's products
/// with the kernel of a filament on the axis seen from the surface.
/// Source: Harrington, Field Computation by Moment Methods, chapter 4 (from memory).
Moments byMoments(double length, double radius, double gap, double f, int count)
{
    const double k = 2 * pi * f / c0, h = length / count;
    constexpr int points = 4000;
    // Products of two linear shapes at a distance of m segments, by the tails of the kernel.
    auto product = [&](int m, bool rise, bool rise2) {
        Complex sum = 0;
        // Over the difference of places u: the product of the shapes shifted by it.
        for (int i = 0; i < points; ++i) {
            // Towards the middle points gather.
            const double x = -1 + 2 * (i + 0.5) / points, u = h * x * x * x,
                         w = h * 3 * x * x * 2 / points, R = std::hypot(m * h + u, radius);
            const double from = std::max(0.0, -u / h), to = std::min(1.0, 1 - u / h);
            double overlap = 0;
            for (const double g : {-0.7745966692414834, 0.0, 0.7745966692414834}) {
                const double t = 0.5 * (from + to) + 0.5 * (to - from) * g,
                             weight = (g == 0 ? 8.0 : 5.0) / 18 * (to - from), t2 = t + u / h;
                overlap += weight * (rise ? t : 1 - t) * (rise2 ? t2 : 1 - t2);
            }
            sum += w * overlap * h * std::exp(Complex(0, -k * R)) / R;
        }
        return sum;
    };
    std::vector<std::array<Complex, 4>> table;
    for (int m = -(count - 1); m < count; ++m)
        table.push_back({product(m, false, false), product(m, false, true), product(m, true, false),
                         product(m, true, true)});
    const int n = count - 1;
    Eigen::MatrixXcd Z = Eigen::MatrixXcd::Zero(n, n);
    for (int i = 0; i < n; ++i)
        for (int j = 0; j < n; ++j)
            for (const int a : {0, 1})
                for (const int b : {0, 1}) {
                    // Rising on the segment before its node, falling behind.
                    const auto& p = table[size_t(j + b - i - a + count - 1)];
                    const Complex all = p[0] + p[1] + p[2] + p[3],
                                  own = p[size_t((a == 0 ? 2 : 0) + (b == 0 ? 1 : 0))];
                    const double slopes = (a == b ? 1 : -1) / (h * h);
                    Z(i, j) += Complex(0, k * eta / (4 * pi)) * (own - slopes * all / (k * k));
                }
    Eigen::VectorXcd V = Eigen::VectorXcd::Zero(n);
    const int middle = count / 2 - 1;
    V(middle) = 1 - gap / (4 * h);
    V(middle - 1) = V(middle + 1) = gap / (8 * h);
    const Eigen::VectorXcd I = fem::solved(Z, V);
    const Complex fed = (V.transpose() * I)(0);
    double square = 0;
    for (int i = -1; i < n; ++i) {
        const Complex a = i < 0 ? 0 : I(i), b = i + 1 < n ? I(i + 1) : 0;
        square += h / 3 * (std::norm(a) + std::norm(b) + (a * std::conj(b)).real());
    }
    return {1.0 / fed, square / std::norm(fed)};
}
/// To second order in the length of the segments, of which errors are the first.
Moments byMoments(double radius, double f)
{
    const Moments coarse = byMoments(0.5, radius, 4e-3, f, 20),
                  fine = byMoments(0.5, radius, 4e-3, f, 40);
    return {2.0 * fine.impedance - coarse.impedance, 2 * fine.square - coarse.square};
}

}  // namespace

class TestWires : public QObject
{
    Q_OBJECT
private slots:
    /// Outside its width the smooth density acts as the wire does, but for the factor M^2.
    void farKernelsAgree()
    {
        const double b = 0.03;
        for (const double R : {2.0 * b, 2.7 * b, 9 * b}) {
            const auto wire = physics::surfaceKernel(R, b), smooth = physics::smoothKernel(R, b);
            for (size_t n = 0; n < 3; ++n)
                QVERIFY2(std::abs(wire[n] / smooth[n] - 1) < 1e-9,
                         qPrintable(QString("%1 %2").arg(R / b).arg(wire[n] / smooth[n] - 1)));
        }
        // Just inside it they part smoothly, and at the middle the smooth one has a limit.
        QVERIFY(std::abs(physics::smoothKernel(1.99 * b, b)[0] * 1.99 * b - 1) < 1e-6);
        const double middle = physics::smoothKernel(0, b)[0] * b;
        QVERIFY2(middle > 1 && middle < 2.5, qPrintable(QString::number(middle)));
        // M is the mean of sin(x) / x over the density; by hand to x^4 at x = 0.5.
        QVERIFY(std::abs(physics::smoothing(0.5) - (1 - 0.25 / 22 + 0.0625 * 15 / 143 / 120)) <
                1e-12);
    }
    /// From the resistance of the section to that of the skin (Ramo, Whinnery and Van Duzer,
    /// section 4.5, from memory).
    void insideOfRoundWires()
    {
        const double a = 1e-3, sigma = 5.8e7;
        const Complex slow = physics::insideImpedance(a, sigma, 1),
                      fast = physics::insideImpedance(a, sigma, 10e9);
        QVERIFY(std::abs(slow.real() * pi * a * a * sigma - 1) < 1e-6);
        // Inside, mu0 / 8 pi for each metre.
        QVERIFY(std::abs(slow.imag() / (2 * pi * mu0 / (8 * pi)) - 1) < 1e-4);
        const double skin = std::sqrt(pi * 10e9 * mu0 / sigma) / (2 * pi * a);
        QVERIFY(std::abs(fast / (skin * Complex(1, 1)) - 1.0) < 1e-3);
    }
    /// A dipole antenna by moments, and against what is known of half a wavelength.
    void dipoleByMoments()
    {
        Document d = rod("1 mm");
        for (const char* f : {"280 MHz", "300 MHz"})
            d.add("input impedance", {{"of", "A"}, {"at", f}, {"within", "1 %"}});
        d.add("gain",
              {{"of", "A"}, {"at", "290 MHz"}, {"kind", "directivity"}, {"within", "0.5 %"}});
        const auto r = solved(d);
        QVERIFY(isGood(r, "power balance"));
        QVERIFY(isGood(r, "far field"));
        for (const char* f : {"280 MHz", "300 MHz"}) {
            const std::string at = std::string(" at A at ") + f;
            const Complex Z(valueOf(r, "input resistance" + at),
                            valueOf(r, "input reactance" + at)),
                should = byMoments(1e-3, std::stod(f) * 1e6).impedance;
            // The moments themselves are known to some 1 %.
            QVERIFY2(
                std::abs(Z - should) < 0.015 * std::abs(should) + errorOf(r, "input resistance"),
                qPrintable(QString("%1 %2 j: %3 %4 j")
                               .arg(Z.real())
                               .arg(Z.imag())
                               .arg(should.real())
                               .arg(should.imag())));
        }
        // 1.643 for a thin one of half a wavelength (Balanis, Antenna Theory, section 4.6, from
        // memory); a little less for a shorter one.
        const double D = valueOf(r, "largest directivity");
        QVERIFY2(D > 1.63 && D < 1.65, qPrintable(QString::number(D)));
    }
    /// Loss in the wire: R_s (1 + skin / 2 a) / (2 pi a) for each metre (Ramo, Whinnery and Van
    /// Duzer, section 4.5, from memory), with the current by moments.
    void lossInTheWire()
    {
        Document d = rod("0.2 mm");
        for (auto& l : d.lines)
            if (l.kind == "wire")
                l.values["material"] = "stainless steel";
        d.add("radiation efficiency", {{"of", "A"}, {"at", "290 MHz"}, {"within", "1 %"}});
        d.add("input impedance", {{"of", "A"}, {"at", "290 MHz"}, {"within", "3 %"}});
        const auto r = solved(d);
        const double rho = 7.2e-7, f = 290e6, a = 2e-4, skin = std::sqrt(rho / (pi * f * mu0)),
                     metre = rho / (2 * pi * a * skin) * (1 + skin / (2 * a)),
                     lost = 1 - valueOf(r, "radiation efficiency of A"),
                     should = metre * byMoments(a, f).square / valueOf(r, "input resistance");
        QVERIFY2(std::abs(lost / should - 1) < 0.03,
                 qPrintable(QString("%1 %2").arg(lost).arg(should)));
        QVERIFY(isGood(r, "power balance"));
    }
    /// A post across a rectangular guide: the sum over its modes with the wire's radius (Marcuvitz,
    /// Waveguide Handbook, section 5.11; the series by ourselves).
    void postInAGuide()
    {
        const double a = 22.86e-3, radius = 0.2e-3, f = 10e9, k = 2 * pi * f / c0;
        Document d;
        d.add("space", {{"type", "solid"}});
        d.add("box", {{"name", "guide"},
                      {"width", "22.86 mm"},
                      {"length", "10.16 mm"},
                      {"height", "24 mm"},
                      {"at", "0, 0, -12 mm"}});
        d.add("material", {{"material", "air"}, {"in", "guide"}});
        d.add("wire", {{"name", "post"},
                       {"radius", number(radius * 1e3) + " mm"},
                       {"points", "0, -5.08 mm, 0; 0, 5.08 mm, 0"}});
        d.add("port", {{"name", "A"}, {"on", "guide.bottom"}});
        d.add("port", {{"name", "B"}, {"on", "guide.top"}});
        d.add("band", {{"from", "10 GHz"}, {"to", "10 GHz"}, {"points", "1"}});
        for (const char* plane : {"x = 0", "y = 0"})
            d.add("mirror plane", {{"at", plane}, {"kind", plane[0] == 'x' ? "even" : "odd"}});
        d.add("scattering", {{"from", "A"}, {"to", "A"}, {"at", "10 GHz"}, {"within", "0.3 %"}});
        const auto r = solved(d);
        const double beta = std::sqrt(k * k - std::pow(pi / a, 2));
        double rest = a / pi * (0.5 * std::log(2 * a / (pi * radius)) - 1);
        for (int n = 3; n < 4000; n += 2)
            rest += 1 / std::sqrt(std::pow(n * pi / a, 2) - k * k) - a / (n * pi);
        const double should = 1 / std::abs(Complex(1, beta * rest)), S = valueOf(r, "|S");
        QVERIFY2(std::abs(S - should) < 0.003 + errorOf(r, "|S"),
                 qPrintable(QString("%1 %2").arg(S).arg(should)));
        QVERIFY(errorOf(r, "|S") < 0.005);
        QVERIFY(isGood(r, "power balance"));
    }
    /// A whip over a lid of metal, by its formula and as metal drawn round the axis.
    void whipOnALid()
    {
        auto ask = [](Document& d) {
            d.add("band", {{"from", "434 MHz"}, {"to", "434 MHz"}, {"points", "1"}});
            d.add("open space", {});
            d.add("input impedance", {{"of", "A"}, {"at", "434 MHz"}, {"within", "4 %"}});
        };
        Document thin;
        thin.add("space", {{"type", "solid"}});
        thin.add(
            "cylinder",
            {{"name", "lid"}, {"radius", "110 mm"}, {"height", "4 mm"}, {"at", "0, 0, -4 mm"}});
        thin.add("material", {{"material", "copper"}, {"in", "lid"}});
        thin.add("wire",
                 {{"name", "whip"}, {"radius", "1 mm"}, {"points", "0, 0, 0; 0, 0, 160 mm"}});
        thin.add("gap feed", {{"name", "A"}, {"in", "whip"}, {"at", "0, 0, 0"}});
        for (const char* plane : {"x = 0", "y = 0"})
            thin.add("mirror plane", {{"at", plane}, {"kind", "even"}});
        ask(thin);
        Document drawn;
        drawn.add("space", {{"type", "axisymmetric"}});
        drawn.add(
            "rectangle",
            {{"name", "lid"}, {"width", "110 mm"}, {"height", "4 mm"}, {"at", "55 mm, -2 mm"}});
        drawn.add(
            "rectangle",
            {{"name", "whip"}, {"width", "1 mm"}, {"height", "159 mm"}, {"at", "0.5 mm, 80.5 mm"}});
        drawn.add(
            "rectangle",
            {{"name", "gap"}, {"width", "1 mm"}, {"height", "1 mm"}, {"at", "0.5 mm, 0.5 mm"}});
        drawn.add("material", {{"material", "vacuum"}, {"in", "gap"}});
        drawn.add("material", {{"material", "copper"}, {"in", "lid and whip"}});
        drawn.add("lumped port", {{"name", "A"}, {"on", "gap.right"}});
        drawn.add("mesh", {{"order", "3"}});
        ask(drawn);
        const auto a = solved(thin), b = solved(drawn);
        QVERIFY(isGood(a, "power balance"));
        for (const char* part : {"input resistance", "input reactance"})
            QVERIFY2(std::abs(valueOf(a, part) - valueOf(b, part)) <
                         0.5 + errorOf(a, part) + errorOf(b, part),
                     qPrintable(QString("%1 %2").arg(valueOf(a, part)).arg(valueOf(b, part))));
        QVERIFY(errorOf(a, "input resistance") < 1.3);
    }
    /// Kirchhoff's law at nodes: as many currents as branches less one, one for each branch on a
    /// conductor, and none at free ends.
    void currentsAtNodes()
    {
        physics::ThinWires star;
        star.nodes = {{0, 0, 0}, {0.1, 0, 0}, {0, 0.1, 0}, {0, 0, 0.1}};
        star.grounded = {0, 0, 0, 0};
        star.smooth = 0.02;
        for (const int end : {1, 2, 3}) {
            physics::ThinWires::Segment s;
            s.to = end;
            s.radius = 1e-3;
            star.segments.push_back(s);
        }
        QCOMPARE(physics::WireCurrents(star, 1).count(), 2);
        QCOMPARE(physics::WireCurrents(star, 3).count(), 2 + 2 * 3);
        star.grounded[3] = 1;
        QCOMPARE(physics::WireCurrents(star, 1).count(), 3);
        // Charges repel and currents of the same way attract: both parts of the matrix are
        // positive.
        const auto& m = physics::WireCurrents(star, 2).matrices(1e9);
        const auto charges = fem::symmetricEigen(m.constant),
                   currents = fem::symmetricEigen(m.square);
        QVERIFY(charges.value(0) > 0);
        QVERIFY(currents.value(0) > 0);
    }
    /// A folded dipole: the line between its wires beside a dipole of radius sqrt(a s) at four
    /// times its impedance (Balanis, Antenna Theory, section 9.5, from memory).
    void foldedDipole()
    {
        YH_LONG();
        const double f = 290e6, s = 10e-3, a = 1e-3, k = 2 * pi * f / c0;
        Document d = rod("1 mm");
        std::erase_if(d.lines, [](const sheet::Line& l) {
            return l.kind == "wire" || l.get("at") == "x = 0";
        });
        d.add("wire", {{"name", "rod"},
                       {"radius", "1 mm"},
                       {"ends", "closed"},
                       {"points",
                        "0, 0, -250 mm; 0, 0, 250 mm; 10 mm, 0, 250 mm; 10 mm, 0, "
                        "-250 mm"}});
        d.add("input impedance", {{"of", "A"}, {"at", "290 MHz"}, {"within", "2 %"}});
        const auto r = solved(d);
        const Complex dipole = byMoments(std::sqrt(a * s), f).impedance,
                      line =
                          Complex(0, 1) * eta / pi * std::acosh(s / (2 * a)) * std::tan(k * 0.25),
                      should = 4.0 * line * dipole / (2.0 * dipole + line),
                      Z(valueOf(r, "input resistance"), valueOf(r, "input reactance"));
        // The rule itself takes the currents of line and dipole for sines.
        QVERIFY2(std::abs(Z - should) < 0.08 * std::abs(should),
                 qPrintable(QString("%1 %2 j: %3 %4 j")
                                .arg(Z.real())
                                .arg(Z.imag())
                                .arg(should.real())
                                .arg(should.imag())));
    }
    /// A disc over another one, with a probe between them, and the same round its axis. Both of the
    /// probe's ends stand on thin metal. What the gap of a solid rod and that of a tube differ by
    /// lies across the port: a capacitance of less than 2 pi eps0 a.
    void discByItsProbe()
    {
        YH_LONG();
        auto ask = [](Document& d) {
            d.add("electric wall", {{"on", "ground and patch"}});
            d.add("band", {{"from", "7 GHz"}, {"to", "7 GHz"}, {"points", "1"}});
            d.add("open space", {});
            d.add("input impedance", {{"of", "A"}, {"at", "7 GHz"}, {"within", "2 %"}});
        };
        Document thin;
        thin.add("space", {{"type", "solid"}});
        thin.add("disc", {{"name", "ground"}, {"radius", "25 mm"}, {"at", "0, 0, 0"}});
        thin.add("disc", {{"name", "patch"}, {"radius", "14 mm"}, {"at", "0, 0, 3 mm"}});
        thin.add("wire",
                 {{"name", "probe"}, {"radius", "0.3 mm"}, {"points", "0, 0, 0; 0, 0, 3 mm"}});
        thin.add("gap feed", {{"name", "A"}, {"in", "probe"}, {"at", "0, 0, 0"}, {"gap", "1 mm"}});
        for (const char* plane : {"x = 0", "y = 0"})
            thin.add("mirror plane", {{"at", plane}, {"kind", "even"}});
        ask(thin);
        Document drawn;
        drawn.add("space", {{"type", "axisymmetric"}});
        drawn.add("rectangle", {{"name", "probe"},
                                {"width", "0.3 mm"},
                                {"height", "2.5 mm"},
                                {"at", "0.15 mm, 1.75 mm"}});
        drawn.add("rectangle", {{"name", "gap"},
                                {"width", "0.3 mm"},
                                {"height", "0.5 mm"},
                                {"at", "0.15 mm, 0.25 mm"}});
        drawn.add("thin line", {{"name", "ground"}, {"points", "0, 0; 25 mm, 0"}});
        drawn.add("thin line", {{"name", "patch"}, {"points", "0, 3 mm; 14 mm, 3 mm"}});
        drawn.add("material", {{"material", "vacuum"}, {"in", "gap"}});
        drawn.add("material", {{"material", "copper"}, {"in", "probe"}});
        drawn.add("lumped port", {{"name", "A"}, {"on", "gap.right"}});
        drawn.add("mesh", {{"order", "3"}});
        ask(drawn);
        const auto a = solved(thin), b = solved(drawn);
        auto admittance = [](const run::Result& r) {
            return 1.0 / Complex(valueOf(r, "input resistance"), valueOf(r, "input reactance"));
        };
        const Complex tube = admittance(a), rod = admittance(b);
        const double share = errorOf(a, "input resistance") * std::abs(tube);
        QVERIFY2(std::abs(tube.real() / rod.real() - 1) < 0.02 + 3 * share,
                 qPrintable(QString("%1 %2").arg(tube.real()).arg(rod.real())));
        const double more = (tube - rod).imag() / (2 * pi * 7e9 * 2 * pi * test::eps0 * 3e-4);
        QVERIFY2(more > 0 && more < 1, qPrintable(QString::number(more)));
    }
    /// A small loop: mu0 R (ln(8 R / a) - 2), and 20 pi^2 (C / lambda)^4 (Balanis, sections 5.2 and
    /// 5.4, from memory). Its plane is one of symmetry, in which the wire lies.
    void smallLoop()
    {
        YH_LONG();
        Document d;
        d.add("space", {{"type", "solid"}});
        d.add("wire", {{"name", "loop"},
                       {"radius", "0.5 mm"},
                       {"ends", "closed"},
                       {"points",
                        "50 mm, 0, 0; arc via 0, 50 mm, 0 to -50 mm, 0, 0; arc via 0, "
                        "-50 mm, 0 to 50 mm, 0, 0"}});
        d.add("band", {{"from", "60 MHz"}, {"to", "60 MHz"}, {"points", "1"}});
        d.add("gap feed", {{"name", "A"}, {"in", "loop"}, {"at", "0, 50 mm, 0"}});
        d.add("open space", {});
        d.add("mirror plane", {{"at", "z = 0"}, {"kind", "even"}});
        d.add("input impedance", {{"of", "A"}, {"at", "60 MHz"}, {"within", "2 %"}});
        const auto r = solved(d);
        const double k = 2 * pi * 60e6 / c0, R = 0.05, L = mu0 * R * (std::log(8 * R / 5e-4) - 2),
                     X = 2 * pi * 60e6 * L;
        // At k R = 0.06 the current is even to (k R)^2 or so, and the loop's own capacitance
        // raises its reactance by about as much.
        const double reactance = valueOf(r, "input reactance"),
                     resistance = valueOf(r, "input resistance");
        QVERIFY2(std::abs(reactance / X - 1) < 0.03,
                 qPrintable(QString("%1 %2").arg(reactance).arg(X)));
        const double should = 20 * pi * pi * std::pow(k * R, 4);
        QVERIFY2(std::abs(resistance / should - 1) < 0.1,
                 qPrintable(QString("%1 %2").arg(resistance).arg(should)));
    }
    /// What a plane wave brings into the port: S lambda^2 D (1 - |Gamma|^2) / 4 pi, by reciprocity
    /// (Balanis, section 2.15, from memory).
    void receives()
    {
        YH_LONG();
        Document d = rod("2 mm");
        std::erase_if(d.lines, [](const sheet::Line& l) {
            return l.kind == "mirror plane" && l.get("at") == "x = 0";
        });
        d.add("plane wave", {{"name", "W"}, {"towards", "x"}, {"E", "z"}, {"field", "2 V/m"}});
        d.add("gain", {{"of", "A"},
                       {"at", "290 MHz"},
                       {"kind", "realised gain"},
                       {"theta", "90 deg"},
                       {"phi", "180 deg"},
                       {"within", "2 %"}});
        d.add("received power", {{"of", "A"}, {"from", "W"}, {"at", "290 MHz"}, {"within", "3 %"}});
        const auto r = solved(d);
        const double wave = c0 / 290e6, flux = 4 / (2 * eta), takes = valueOf(r, "power received"),
                     should = valueOf(r, "realised gain") * wave * wave / (4 * pi) * flux;
        QVERIFY2(std::abs(takes / should - 1) < 0.02,
                 qPrintable(QString("%1 %2").arg(takes).arg(should)));
    }
    /// What cannot be is said at its place.
    void refused()
    {
        auto with = [](auto change) {
            Document d = rod("1 mm");
            d.add("S-parameters", {});
            change(d);
            return d;
        };
        auto set = [](Document& d, const std::string& kind, const std::string& key,
                      const std::string& value) {
            for (auto& l : d.lines)
                if (l.kind == kind)
                    l.values[key] = value;
        };
        QVERIFY(isRefused(with([&](Document& d) { set(d, "wire", "radius", "80 mm"); }), 6259));
        QVERIFY(isRefused(with([&](Document& d) { set(d, "wire", "material", "PTFE"); }), 6258));
        QVERIFY(isRefused(with([&](Document& d) { set(d, "gap feed", "at", "0, 0, 1 m"); }), 6264));
        QVERIFY(
            isRefused(with([&](Document& d) { set(d, "gap feed", "at", "0, 0, 250 mm"); }), 6264));
        QVERIFY(isRefused(with([&](Document& d) { set(d, "mirror plane", "kind", "odd"); }), 6263));
        QVERIFY(isRefused(with([&](Document& d) { set(d, "space", "type", "plane"); }), 2060));
        QVERIFY(isRefused(with([&](Document& d) {
                              d.add("box", {{"name", "near"},
                                            {"width", "4 mm"},
                                            {"length", "4 mm"},
                                            {"height", "4 mm"},
                                            {"at", "3.5 mm, 3.5 mm, 100 mm"}});
                              d.add("material", {{"material", "copper"}, {"in", "near"}});
                              d.add("wire", {{"name", "other"},
                                             {"radius", "1 mm"},
                                             {"points", "3 mm, 0, 100 mm; 30 mm, 0, 100 mm"}});
                          }),
                          6262));
        QVERIFY(isRefused(with([&](Document& d) {
                              d.add("box", {{"name", "near"},
                                            {"width", "40 mm"},
                                            {"length", "40 mm"},
                                            {"height", "40 mm"},
                                            {"at", "0, 0, 100 mm"}});
                              d.add("material", {{"material", "PTFE"}, {"in", "near"}});
                          }),
                          6261));
        QVERIFY(isRefused(with([&](Document& d) {
                              d.add("wire", {{"name", "other"},
                                             {"radius", "1 mm"},
                                             {"points", "1 mm, 0, 50 mm; 1 mm, 0, 80 mm"}});
                          }),
                          6260));
        QVERIFY(isRefused(with([&](Document& d) {
                              std::erase_if(d.lines, [](const sheet::Line& l) {
                                  return l.kind == "open space" || l.kind == "mirror plane";
                              });
                          }),
                          3030));
        Document modes = rod("1 mm");
        std::erase_if(modes.lines, [](const sheet::Line& l) {
            return l.kind == "band" || l.kind == "gap feed" || l.kind == "open space";
        });
        modes.add("box",
                  {{"name", "room"}, {"width", "1 m"}, {"length", "1 m"}, {"height", "1 m"}});
        modes.add("material", {{"material", "air"}, {"in", "room"}});
        modes.add("modes", {{"count", "1"}});
        modes.add("resonance", {{"mode", "1"}});
        QVERIFY(isRefused(modes, 6265));
    }
};

YH_TEST(TestWires)

}  // namespace tst_wires

#include "tst_wires.moc"
