// Driven waves between periodic sides: layers at a slant, gratings, meshes of strips, metal.
#include "fem/dense.h"
#include "program.h"
#include "solved.h"
#include "waves.h"

#include <cmath>
#include <complex>
#include <vector>

namespace tst_lattice {

using namespace yh;
using sheet::Document;
using test::c0;
using test::errorOf;
using test::eta;
using test::isGood;
using test::isRefused;
using test::isUnsolvable;
using test::mu0;
using test::number;
using test::pi;
using test::solved;
using test::valueOf;

namespace {

using Complex = std::complex<double>;
constexpr Complex j(0, 1);

std::string rad(double v)
{
    return number(v) + " rad";
}
void scattering(Document& d, const char* from, int fromMode, const char* to, int toMode,
                const char* within = "0.1 %", const char* at = "10 GHz")
{
    d.add("scattering", {{"from", from},
                         {"fromMode", std::to_string(fromMode)},
                         {"to", to},
                         {"toMode", std::to_string(toMode)},
                         {"at", at},
                         {"within", within}});
}
constexpr double f = 10e9, k = 2 * pi * f / c0;

/// Waves through a slab in vacuum, between planes `before` in front of it and behind it.
/// Source: Born and Wolf, Principles of Optics, section 1.6 (from memory).
struct Slab
{
    Complex back, on;
    Slab(double sine, Complex eps, double thick, double before, bool te, double wave = k)
    {
        const double b0 = wave * std::sqrt(1 - sine * sine);
        const Complex b1 = wave * std::sqrt(eps - sine * sine), z = te ? b0 / b1 : b1 / (eps * b0),
                      g = (z - 1.0) / (z + 1.0), p = std::exp(-j * b1 * thick),
                      below = 1.0 - g * g * p * p, way = std::exp(-2.0 * j * b0 * before);
        back = g * (1.0 - p * p) / below * way;
        on = p * (1.0 - g * g) / below * way;
    }
};
void compare(const run::Result& r, const std::string& name, Complex value, double near = 1e-3)
{
    const double size = valueOf(r, "|S| " + name),
                 turned = std::abs(valueOf(r, "phase of S " + name) - std::arg(value));
    QVERIFY2(std::abs(size - std::abs(value)) < near,
             qPrintable(QString("|S| %1 instead of %2").arg(size).arg(std::abs(value))));
    QVERIFY2(std::abs(value) * std::min(turned, 2 * pi - turned) < 2 * near,
             qPrintable(QString("turned by %1").arg(turned)));
}

/// A slab of 8 mm in 40 mm of vacuum; the drawing is 10 mm wide, the solid 10 mm by 8 mm.
Document layers(bool solid, double phaseX, double phaseY, int modes, double loss)
{
    Document d;
    d.add("space", {{"type", solid ? "solid" : "plane"}});
    if (solid) {
        d.add("box", {{"name", "cell"},
                      {"width", "10 mm"},
                      {"length", "8 mm"},
                      {"height", "40 mm"},
                      {"at", "0, 0, -20 mm"}});
        d.add("box", {{"name", "slab"},
                      {"width", "10 mm"},
                      {"length", "8 mm"},
                      {"height", "8 mm"},
                      {"at", "0, 0, -4 mm"}});
    } else {
        d.add("rectangle", {{"name", "cell"}, {"width", "10 mm"}, {"height", "40 mm"}});
        d.add("rectangle", {{"name", "slab"}, {"width", "10 mm"}, {"height", "8 mm"}});
    }
    d.add("material", {{"material", "vacuum"}, {"in", "cell"}});
    d.add("material",
          {{"material", "plastic"}, {"in", "slab"}, {"eps", "4"}, {"loss", number(loss)}});
    d.add("periodic pair", {{"on", "cell.left and slab.left"},
                            {"to", "cell.right and slab.right"},
                            {"phase", rad(phaseX)}});
    if (solid)
        d.add("periodic pair", {{"on", "cell.front and slab.front"},
                                {"to", "cell.back and slab.back"},
                                {"phase", rad(phaseY)}});
    d.add("band", {{"from", "10 GHz"}, {"to", "10 GHz"}, {"points", "1"}});
    for (const auto& [name, on] : {std::pair{"A", "cell.top"}, {"B", "cell.bottom"}})
        d.add("port", {{"name", name}, {"on", on}, {"modes", std::to_string(modes)}});
    return d;
}

/// A row of bars, 6 mm by 5 mm, eps 6, 24 mm apart, in 25 mm of vacuum.
Document bars(int rows, double phase, int modes)
{
    Document d;
    d.add("space", {{"type", "plane"}});
    d.add("field across", {});
    const double pitch = 24 * rows;
    d.add("rectangle", {{"name", "cell"}, {"width", number(pitch) + " mm"}, {"height", "25 mm"}});
    d.add("material", {{"material", "vacuum"}, {"in", "cell"}});
    for (int i = 0; i < rows; ++i) {
        const std::string name = "bar" + std::to_string(i);
        d.add("rectangle", {{"name", name},
                            {"width", "6 mm"},
                            {"height", "5 mm"},
                            {"at", number(24 * (i - 0.5 * (rows - 1)) + 1) + " mm, 0"}});
        d.add("material", {{"material", "ceramic"}, {"in", name}, {"eps", "6"}, {"loss", "0"}});
    }
    d.add("periodic pair", {{"on", "cell.left"}, {"to", "cell.right"}, {"phase", rad(phase)}});
    d.add("band", {{"from", "10 GHz"}, {"to", "10 GHz"}, {"points", "1"}});
    for (const auto& [name, on] : {std::pair{"A", "cell.top"}, {"B", "cell.bottom"}})
        d.add("port", {{"name", name}, {"on", on}, {"modes", std::to_string(modes)}});
    return d;
}

/// Waves of all orders from -n to n behind and before those bars, as amplitudes of E at their
/// faces, for one of order 0: modes of the layer by Fourier's series of its permittivity.
/// Source: Moharam and others, J. Opt. Soc. Am. A 12 (1995) 1068 (from memory).
struct Orders
{
    Eigen::VectorXcd back, on;
    std::vector<Complex> beta;
    Orders(double kx, int n, double wave = k)
    {
        constexpr double pitch = 0.024, width = 0.006, thick = 0.005, eps = 6, middle = 1e-3;
        const Eigen::Index N = 2 * n + 1;
        Eigen::MatrixXcd A = Eigen::MatrixXcd::Zero(N, N);
        Eigen::VectorXcd B(N);
        for (Eigen::Index a = 0; a < N; ++a) {
            const double kxa = kx + 2 * pi * double(a - n) / pitch;
            A(a, a) += kxa * kxa - wave * wave;
            // Real where it travels, else falling.
            Complex b = std::sqrt(Complex(wave * wave - kxa * kxa));
            B(a) = b.imag() > 0 ? -b : b;
            beta.push_back(B(a));
            for (Eigen::Index c = 0; c < N; ++c) {
                // exp(-j kx x): the series runs the same way.
                const double q = 2 * pi * double(a - c) / pitch;
                const Complex part = (eps - 1) / pitch * std::exp(j * q * middle) *
                                     (a == c ? width : 2 * std::sin(q * width / 2) / q);
                A(a, c) -= wave * wave * part;
            }
        }
        const fem::ComplexEigen modes = fem::complexEigen(A);
        const Eigen::MatrixXcd W = modes.vector;
        Eigen::VectorXcd Q(N), X(N);
        for (Eigen::Index a = 0; a < N; ++a) {
            Q(a) = std::sqrt(modes.value(a));
            if (Q(a).real() < 0)
                Q(a) = -Q(a);
            X(a) = std::exp(-Q(a) * thick);
        }
        // Unknowns: back, on, and both ways in the layer.
        Eigen::MatrixXcd M = Eigen::MatrixXcd::Zero(4 * N, 4 * N);
        Eigen::VectorXcd r = Eigen::VectorXcd::Zero(4 * N);
        const Eigen::MatrixXcd I = Eigen::MatrixXcd::Identity(N, N), jB = j * B.asDiagonal() * I,
                               WX = W * X.asDiagonal(), WQ = W * Q.asDiagonal(),
                               WQX = WQ * X.asDiagonal();
        M << I, 0 * I, -W, -WX, jB, 0 * I, WQ, -WQX, 0 * I, I, -WX, -W, 0 * I, -jB, WQX, -WQ;
        r(n) = -1;
        r(N + n) = j * B(n);
        const Eigen::VectorXcd x = fem::solved(M, r);
        back = x.head(N);
        on = x.segment(N, N);
    }
};

}  // namespace

class TestLattice : public QObject
{
    Q_OBJECT
private slots:
    void slab_data()
    {
        QTest::addColumn<bool>("solid");
        QTest::addColumn<bool>("te");
        QTest::addColumn<double>("degrees");
        QTest::addColumn<double>("loss");
        QTest::newRow("drawing, straight") << false << false << 0.0 << 0.0;
        QTest::newRow("drawing, TM") << false << false << 40.0 << 0.0;
        QTest::newRow("drawing, TM, lossy") << false << false << 25.0 << 0.2;
        QTest::newRow("drawing, TE") << false << true << 40.0 << 0.0;
        QTest::newRow("drawing, TE, lossy") << false << true << -60.0 << 0.2;
        QTest::newRow("solid, straight") << true << true << 0.0 << 0.0;
        QTest::newRow("solid, TE and TM") << true << true << 35.0 << 0.0;
        QTest::newRow("solid, lossy") << true << true << 50.0 << 0.2;
    }
    void slab()
    {
        QFETCH(bool, solid);
        QFETCH(bool, te);
        QFETCH(double, degrees);
        QFETCH(double, loss);
        const double sine = std::sin(degrees * pi / 180);
        if (!solid) {
            Document d = layers(false, k * 0.010 * sine, 0, 1, loss);
            if (te)
                d.add("field across", {});
            scattering(d, "A", 1, "A", 1);
            scattering(d, "A", 1, "B", 1);
            const auto r = solved(d);
            const Slab s(sine, Complex(4, -4 * loss), 0.008, 0.016, te);
            compare(r, "A1 to A1", s.back);
            compare(r, "A1 to B1", s.on);
            QVERIFY(isGood(r, "power balance"));
            QVERIFY(r.report.allMet());
            return;
        }
        // Askew to both pairs.
        const double turn = 0.6;
        Document d = layers(true, k * 0.010 * sine * std::cos(turn),
                            k * 0.008 * sine * std::sin(turn), 2, loss);
        for (const int mode : {1, 2})
            for (const char* to : {"A", "B"})
                scattering(d, "A", mode, to, mode, "0.5 %");
        scattering(d, "A", 1, "B", 2, "0.5 %");
        const auto r = solved(d);
        for (const int mode : {1, 2}) {
            const Slab s(sine, Complex(4, -4 * loss), 0.008, 0.016, mode == 1);
            const std::string from = "A" + std::to_string(mode) + " to ";
            compare(r, from + "A" + std::to_string(mode), s.back, 3e-3);
            compare(r, from + "B" + std::to_string(mode), s.on, 3e-3);
        }
        QVERIFY(valueOf(r, "|S| A1 to B2") < 3e-3);
        QVERIFY(isGood(r, "power balance"));
        QVERIFY(r.report.allMet());
    }
    /// A grating in three orders. Amplitudes of waves of power are those of E times sqrt(beta).
    void grating()
    {
        const double kx = k * std::sin(20 * pi / 180);
        constexpr int many = 30;
        const Orders known(kx, many);
        Document d = bars(1, kx * 0.024, 3);
        for (const int mode : {1, 2})
            for (const char* to : {"A", "B"})
                scattering(d, "A", 1, to, mode, "0.2 %");
        const auto r = solved(d);
        // Orders 0, -1, and one that does not travel.
        const double gap = 0.010;
        double power = 0;
        for (const int mode : {1, 2}) {
            const int m = mode == 1 ? 0 : -1;
            const Complex b = known.beta[size_t(many + m)], b0 = known.beta[many],
                          way = std::sqrt(b / b0) * std::exp(-j * (b0 + b) * gap);
            compare(r, "A1 to A" + std::to_string(mode), way * known.back(many + m), 2e-3);
            compare(r, "A1 to B" + std::to_string(mode), way * known.on(many + m), 2e-3);
            for (const char* to : {"A", "B"})
                power +=
                    std::pow(valueOf(r, "|S| A1 to " + std::string(to) + std::to_string(mode)), 2);
        }
        QVERIFY2(std::abs(power - 1) < 1e-6, qPrintable(QString::number(power - 1)));
        QVERIFY(r.report.allMet());
        // Two bars in a cell of twice the width and phase are the same; orders between are not
        // excited.
        Document twice = bars(2, 2 * kx * 0.024, 3);
        for (const char* to : {"A", "B"})
            scattering(twice, "A", 1, to, 1, "0.2 %");
        const auto t = solved(twice);
        compare(t, "A1 to A1", std::exp(-2.0 * j * known.beta[many] * gap) * known.back(many),
                2e-3);
        compare(t, "A1 to B1", std::exp(-2.0 * j * known.beta[many] * gap) * known.on(many), 2e-3);
    }
    /// The same slab, and a floor of metal, at one angle over a band.
    void oneAngle_data()
    {
        QTest::addColumn<bool>("solid");
        QTest::addColumn<bool>("te");
        QTest::newRow("drawing, TM") << false << false;
        QTest::newRow("drawing, TE") << false << true;
        QTest::newRow("solid, TE and TM") << true << true;
    }
    void oneAngle()
    {
        QFETCH(bool, solid);
        QFETCH(bool, te);
        const double sine = std::sin(40 * pi / 180);
        Document d = layers(solid, 0, 0, solid ? 2 : 1, 0.1);
        if (te && !solid)
            d.add("field across", {});
        d.add("incidence", {{"angle", "40 deg"}, {"azimuth", solid ? "25 deg" : "0 deg"}});
        const int band = d.first("band")->id;
        for (const auto& [key, value] :
             {std::pair{"from", "7 GHz"}, {"to", "12 GHz"}, {"points", "21"}})
            d.set(band, key, value);
        const char* within = solid ? "1 %" : "0.1 %";
        const std::vector<double> places{7.5e9, 11.3e9};
        for (const double at : places)
            for (const int mode : {1, 2})
                for (const char* to : {"A", "B"})
                    if (solid || mode == 1)
                        scattering(d, "A", mode, to, mode, within,
                                   (number(at / 1e9) + " GHz").c_str());
        const auto r = solved(d);
        for (const double at : places)
            for (const int mode : {1, 2}) {
                if (mode == 2 && !solid)
                    break;
                const Slab s(sine, Complex(4, -0.4), 0.008, 0.016, solid ? mode == 1 : te,
                             2 * pi * at / c0);
                const std::string from = "A" + std::to_string(mode) + " to ",
                                  where = std::to_string(mode) + " at " + number(at / 1e9) + " GHz";
                compare(r, from + "A" + where, s.back, solid ? 5e-3 : 1e-3);
                compare(r, from + "B" + where, s.on, solid ? 5e-3 : 1e-3);
            }
        QVERIFY(isGood(r, "power balance"));
        QVERIFY(isGood(r, "band model"));
        QVERIFY(r.report.allMet());
    }
    /// The bars at one angle: the order that begins to travel within the band counts from there on.
    void gratingOverBand()
    {
        Document d = bars(1, 0, 3);
        d.add("incidence", {{"angle", "20 deg"}});
        const int band = d.first("band")->id;
        for (const auto& [key, value] :
             {std::pair{"from", "8 GHz"}, {"to", "11 GHz"}, {"points", "31"}})
            d.set(band, key, value);
        scattering(d, "A", 1, "B", 1, "0.2 %", "8.3 GHz");
        scattering(d, "A", 1, "B", 1, "0.2 %", "10.4 GHz");
        scattering(d, "A", 1, "B", 2, "0.2 %", "10.4 GHz");
        const auto r = solved(d);
        const double gap = 0.010;
        constexpr int many = 30;
        for (const auto& [at, name, m] : {std::tuple{8.3e9, "A1 to B1 at 8.3 GHz", 0},
                                          {10.4e9, "A1 to B1 at 10.4 GHz", 0},
                                          {10.4e9, "A1 to B2 at 10.4 GHz", -1}}) {
            const double wave = 2 * pi * at / c0;
            const Orders known(wave * std::sin(20 * pi / 180), many, wave);
            const Complex b = known.beta[size_t(many + m)], b0 = known.beta[many];
            compare(r, name, std::sqrt(b / b0) * std::exp(-j * (b0 + b) * gap) * known.on(many + m),
                    2e-3);
        }
        QVERIFY(r.report.allMet());
    }
    /// Metal takes 4 R cos / eta of TE waves and 4 R / (eta cos) of TM waves, a little less than
    /// that where it is much. Landau and Lifshitz, Electrodynamics of Continuous Media, section 87
    /// (from memory).
    void metalLoses_data()
    {
        QTest::addColumn<bool>("solid");
        QTest::addColumn<bool>("te");
        QTest::addColumn<bool>("angle");
        QTest::newRow("drawing, TM") << false << false << false;
        QTest::newRow("drawing, TE") << false << true << false;
        QTest::newRow("drawing, TM, by its angle") << false << false << true;
        QTest::newRow("solid, TE and TM") << true << true << false;
    }
    void metalLoses()
    {
        QFETCH(bool, solid);
        QFETCH(bool, te);
        QFETCH(bool, angle);
        const double slope = 50 * pi / 180, R = std::sqrt(pi * f * mu0 / 1e4),
                     sine = std::sin(slope);
        Document d;
        d.add("space", {{"type", solid ? "solid" : "plane"}});
        if (solid)
            d.add("box",
                  {{"name", "cell"}, {"width", "10 mm"}, {"length", "8 mm"}, {"height", "12 mm"}});
        else
            d.add("rectangle", {{"name", "cell"}, {"width", "10 mm"}, {"height", "12 mm"}});
        if (te && !solid)
            d.add("field across", {});
        d.add("material", {{"material", "vacuum"}, {"in", "cell"}});
        d.add("periodic pair", {{"on", "cell.left"},
                                {"to", "cell.right"},
                                {"phase", rad(angle ? 0 : k * 0.010 * sine)}});
        if (angle)
            d.add("incidence", {{"angle", "50 deg"}});
        if (solid) {
            d.add("periodic pair", {{"on", "cell.front"}, {"to", "cell.back"}, {"phase", "0 rad"}});
            d.add("mesh", {{"order", "2"}});
        }
        d.add("metal wall", {{"material", "brass"}, {"sigma", "1e4 S/m"}, {"on", "cell.bottom"}});
        d.add("band", {{"from", "10 GHz"}, {"to", "10 GHz"}, {"points", "1"}});
        d.add("port", {{"name", "A"}, {"on", "cell.top"}, {"modes", solid ? "2" : "1"}});
        for (const int mode : {1, 2})
            if (mode == 1 || solid)
                scattering(d, "A", mode, "A", mode, "0.03 %");
        const auto r = solved(d);
        for (const int mode : {1, 2}) {
            if (mode == 2 && !solid)
                break;
            const bool isTE = solid ? mode == 1 : te;
            const Complex z = Complex(1, 1) * R / eta,
                          slant = isTE ? z * std::cos(slope) : z / std::cos(slope);
            const double kept = std::norm((slant - 1.0) / (slant + 1.0)),
                         found = std::pow(valueOf(r, "|S| A" + std::to_string(mode) + " to A" +
                                                         std::to_string(mode)),
                                          2);
            QVERIFY2(std::abs((1 - found) / (1 - kept) - 1) < 0.01,
                     qPrintable(QString("%1 instead of %2").arg(1 - found).arg(1 - kept)));
        }
        QVERIFY(isGood(r, "power balance"));
    }
    /// What does not go together is said at its line.
    void wrongSheets_data()
    {
        QTest::addColumn<int>("fault");
        for (const int fault : {6243, 6244, 6245, 6249, 6250, 6251, 6252, 6253, 7083})
            QTest::addRow("%d", fault) << fault;
    }
    void wrongSheets()
    {
        QFETCH(int, fault);
        Document d = layers(false, fault == 6251 ? 0.3 : 0, 0, 1, 0);
        scattering(d, "A", 1, "B", fault == 7083 ? 2 : 1);
        switch (fault) {
            case 6243:
                d.set(d.first("periodic pair")->id, "to", "cell.top");
                break;
            case 6244:
                d.add("open space", {});
                break;
            case 6245:
                for (const char* kind : {"scattering", "port", "port", "band"})
                    d.remove(d.first(kind)->id);
                d.add("modes", {{"count", "2"}});
                d.add("resonance", {{"mode", "1"}});
                break;
            case 6249:
                d.add("incidence", {{"angle", "95 deg"}});
                break;
            case 6250:
                d.add("incidence", {{"angle", "20 deg"}});
                d.remove(d.first("periodic pair")->id);
                break;
            case 6252:
                d.add("incidence", {{"angle", "20 deg"}});
                d.add("point dipole", {{"name", "D"}, {"at", "0, 1 mm"}, {"along", "x"}});
                break;
            case 6253:
                d.add("incidence", {{"angle", "20 deg"}});
                d.set(d.first("material")->id, "eps", "1 + f/1 THz");
                break;
            default:
                d.add("incidence", {{"angle", "20 deg"}});
        }
        QVERIFY(isRefused(d, fault));
    }
    /// What only shows on the mesh.
    void wrongPorts()
    {
        // One side of the port ends at a wall.
        Document d = layers(true, 0.3, 0, 1, 0);
        scattering(d, "A", 1, "A", 1);
        d.remove(d.ofKind("periodic pair")[1]->id);
        QVERIFY(isUnsolvable(d, 6246));
        // Its plane is not that of the pairs.
        Document across = layers(false, 0.3, 0, 1, 0);
        across.set(across.first("periodic pair")->id, "on", "cell.top");
        across.set(across.first("periodic pair")->id, "to", "cell.bottom");
        across.set(across.ofKind("port")[0]->id, "on", "cell.left and slab.left");
        across.set(across.ofKind("port")[1]->id, "on", "cell.right and slab.right");
        scattering(across, "A", 1, "A", 1);
        QVERIFY(isUnsolvable(across, 6248));
    }
    /// Orders that travel and are left out would come back from the port: that is said.
    void leftOut()
    {
        Document d = bars(1, k * 0.024 * std::sin(20 * pi / 180), 1);
        scattering(d, "A", 1, "A", 1, "2 %");
        const auto r = solved(d);
        bool said = false;
        for (const auto& c : r.report.checks)
            said = said || (c.id == "orders" && c.state == run::Check::State::warning &&
                            c.text.find("order -1") != std::string::npos);
        QVERIFY(said);
    }
};

YH_TEST(TestLattice)

}  // namespace tst_lattice

#include "tst_lattice.moc"
