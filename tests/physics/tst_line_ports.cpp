// Ports of drawings that have several modes or lie on several media.
#include "program.h"
#include "solved.h"
#include "waves.h"

#include <cmath>
#include <complex>
#include <functional>

namespace tst_line_ports {

using namespace yh;
using sheet::Document;
using test::c0;
using test::eta;
using test::isGood;
using test::mm;
using test::pi;
using test::solved;
using test::valueOf;

namespace {

/// A root of a function between two places of which it changes sign.
double root(const std::function<double(double)>& f, double low, double high)
{
    for (int i = 0; i < 200; ++i) {
        const double middle = (low + high) / 2;
        (f(low) * f(middle) <= 0 ? high : low) = middle;
    }
    return (low + high) / 2;
}

/// A straight guide, 30 mm long, from x = in to x = out with lower layers of a second medium.
Document straight(const std::string& space, bool across, double in, double out, double layer,
                  int modes)
{
    Document d;
    d.add("space", {{"type", space}});
    auto add = [&d](const char* name, double a, double b) {
        d.add("rectangle", {{"name", name},
                            {"width", mm(b - a)},
                            {"height", "30 mm"},
                            {"at", mm((a + b) / 2) + ", 0"}});
    };
    add("pipe", in, out);
    d.add("material", {{"material", "vacuum"}, {"in", "pipe"}});
    if (layer > 0) {
        add("layer", in, in + layer);
        d.add("material", {{"material", "plastic"}, {"in", "layer"}, {"eps", "4"}, {"loss", "0"}});
    }
    if (across)
        d.add("field across", {});
    d.add("band", {{"from", "9 GHz"}, {"to", "11 GHz"}, {"points", "11"}});
    for (const auto& [name, end] : {std::pair{"A", ".bottom"}, {"B", ".top"}})
        d.add("port", {{"name", name},
                       {"on", std::string("pipe") + end +
                                  (layer > 0 ? std::string(" and layer") + end : "")},
                       {"modes", std::to_string(modes)}});
    return d;
}
/// Its modes do not mix, and each turns by its beta times the length.
void goesOn(Document d, const std::vector<double>& betas)
{
    constexpr double length = 0.030;
    for (size_t k = 0; k < betas.size(); ++k)
        for (const size_t to : {k, (k + 1) % betas.size()})
            d.add("scattering", {{"from", "A"},
                                 {"fromMode", std::to_string(k + 1)},
                                 {"to", "B"},
                                 {"toMode", std::to_string(to + 1)},
                                 {"at", "10 GHz"},
                                 {"within", "0.1 %"}});
    const auto r = solved(d);
    for (size_t k = 0; k < betas.size(); ++k) {
        const std::string from = "A" + std::to_string(k + 1) + " to B",
                          own = from + std::to_string(k + 1);
        QVERIFY2(std::abs(valueOf(r, "|S| " + own) - 1) < 1e-3,
                 qPrintable(QString::number(valueOf(r, "|S| " + own))));
        const double off =
            std::remainder(valueOf(r, "phase of S " + own) + betas[k] * length, 2 * pi);
        QVERIFY2(std::abs(off) < 2e-3, qPrintable(QString::number(off)));
        if (betas.size() > 1) {
            const std::string other = from + std::to_string((k + 1) % betas.size() + 1);
            QVERIFY(valueOf(r, "|S| " + other) < 2e-3);
        }
    }
    QVERIFY(isGood(r, "power balance"));
    QVERIFY(r.report.allMet());
}

}  // namespace

class TestLinePorts : public QObject
{
    Q_OBJECT
private slots:
    /// TEM and TM modes between plates: k_c = n pi / w. Pozar, Microwave Engineering, section 3.2
    /// (from memory).
    void betweenPlates()
    {
        const double k = 2 * pi * 10e9 / c0, w = 0.035;
        std::vector<double> betas;
        for (const int n : {0, 1, 2})
            betas.push_back(std::sqrt(k * k - std::pow(n * pi / w, 2)));
        goesOn(straight("plane", false, 0, w, 0, 3), betas);
    }
    /// TEM and TM01 of a coaxial line: k_c a root of J0(k a) Y0(k b) - J0(k b) Y0(k a). Marcuvitz,
    /// Waveguide Handbook, section 2.4 (from memory).
    void coaxial()
    {
        const double k = 2 * pi * 10e9 / c0, a = 0.005, b = 0.027;
        auto J = [](double x) { return std::cyl_bessel_j(0.0, x); };
        auto Y = [](double x) { return std::cyl_neumann(0.0, x); };
        const double cutoff =
            root([&](double q) { return J(q * a) * Y(q * b) - J(q * b) * Y(q * a); },
                 0.8 * pi / (b - a), 1.1 * pi / (b - a));
        goesOn(straight("axisymmetric", false, a, b, 0, 2),
               {k, std::sqrt(k * k - cutoff * cutoff)});
    }
    /// A layer on one plate, E in the drawing: q tan(q d) / eps over both adds up to nothing; the
    /// lowest mode has q imaginary in vacuum. Collin, Field Theory of Guided Waves, section 6.1
    /// (from memory).
    void layerBetweenPlates()
    {
        const double k = 2 * pi * 10e9 / c0, d = 0.004, h = 0.005;
        auto gap = [&](double beta) {
            const double q = std::sqrt(4 * k * k - beta * beta), p = std::sqrt(beta * beta - k * k);
            return q / 4 * std::tan(q * d) - p * std::tanh(p * h);
        };
        const double beta = root(
            gap,
            std::sqrt(4 * k * k - std::pow(1.5 / d, 2) > k * k ? 4 * k * k - std::pow(1.5 / d, 2)
                                                               : 1.0000001 * k * k),
            1.9999 * k);
        Document s = straight("plane", false, 0, d + h, d, 1);
        goesOn(s, {beta});
        // The line's impedance lies between those of either medium alone.
        s.add("port impedance", {{"of", "A"}, {"at", "10 GHz"}});
        const double Z = valueOf(solved(s), "impedance of port A"), whole = eta * (d + h);
        QVERIFY2(Z < whole && Z > whole / 2, qPrintable(QString::number(Z / whole)));
    }
    /// The same guide with E across it: q cot(q d) over both adds up to nothing.
    void layerAcross()
    {
        const double k = 2 * pi * 10e9 / c0, d = 0.008, w = 0.024, h = w - d;
        auto gap = [&](double beta) {
            const double q = std::sqrt(4 * k * k - beta * beta), p = std::sqrt(beta * beta - k * k);
            return q / std::tan(q * d) + p / std::tanh(p * h);
        };
        const double most = std::sqrt(4 * k * k - std::pow(pi / 2 / d, 2)) * 0.99999;
        const double beta = root(gap, 1.000001 * k, most);
        goesOn(straight("plane", true, 0, w, d, 1), {beta});
    }
};

YH_TEST(TestLinePorts)

}  // namespace tst_line_ports

#include "tst_line_ports.moc"
