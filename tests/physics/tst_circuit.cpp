// Circuits of parts against closed forms.
#include "changed.h"
#include "network/circuit.h"
#include "program.h"
#include "sheet/model.h"
#include "sheet/topic.h"
#include "solved.h"
#include "validation_table.h"

#include <QDirIterator>
#include <QTemporaryDir>
#include <cmath>
#include <complex>
#include <functional>

namespace tst_circuit {

using namespace yh;
using sheet::Document;
using test::errorOf;
using test::isGood;
using test::isRefused;
using test::solved;
using test::valueOf;
using Complex = std::complex<double>;

namespace {

constexpr double pi = 3.14159265358979323846, c0 = 299792458.0;
const Complex j(0, 1);

Document overBand(const char* steps = "2001")
{
    Document d;
    d.add("wavelengths", {{"from", "1.53 um"}, {"to", "1.57 um"}, {"steps", steps}});
    return d;
}
void addGuide(Document& d, const char* name, const char* length, const char* loss = "0 dB")
{
    d.add("guide part", {{"name", name},
                         {"length", length},
                         {"index", "2.4"},
                         {"group", "4.2"},
                         {"at", "1.55 um"},
                         {"loss", loss}});
}
void addCoupler(Document& d, const char* name, const char* share)
{
    d.add("coupler part", {{"name", name}, {"share", share}});
}
void join(Document& d, const char* a, const char* b)
{
    d.add("joint", {{"from", a}, {"to", b}});
}
void addTerminal(Document& d, const char* name, const char* at)
{
    d.add("terminal", {{"name", name}, {"at", at}});
}
void terminate(Document& d, const char* at, const char* reflection = "0")
{
    d.add("termination", {{"at", at}, {"reflection", reflection}});
}
void askLoss(Document& d, const char* to, const char* at = "1.5517 um")
{
    d.add("insertion loss", {{"from", "in"}, {"to", to}, {"wavelength", at}});
}

/// Phase along such a guide at a wavelength.
double phase(double length, double wavelength)
{
    const double f0 = c0 / 1.55e-6, f = c0 / wavelength;
    return 2 * pi / c0 * (2.4 * f0 + 4.2 * (f - f0)) * length;
}
double level(double power)
{
    return -10 * std::log10(power);
}

/// Two arms between two couplers.
Document arms(const char* share1, const char* share2)
{
    Document d = overBand();
    addCoupler(d, "A", share1);
    addCoupler(d, "B", share2);
    addGuide(d, "short", "100 um");
    addGuide(d, "long", "160 um");
    join(d, "A.3", "short.1");
    join(d, "A.4", "long.1");
    join(d, "short.2", "B.1");
    join(d, "long.2", "B.2");
    addTerminal(d, "in", "A.1");
    terminate(d, "A.2");
    addTerminal(d, "bar", "B.3");
    addTerminal(d, "cross", "B.4");
    return d;
}
/// Amplitudes of both outputs.
std::pair<Complex, Complex> armsOut(double s1, double s2, double wavelength)
{
    const Complex a = std::polar(1.0, -phase(100e-6, wavelength)),
                  b = std::polar(1.0, -phase(160e-6, wavelength)), up = std::sqrt(1 - s1) * a,
                  down = -j * std::sqrt(s1) * b;
    return {std::sqrt(1 - s2) * up - j * std::sqrt(s2) * down,
            -j * std::sqrt(s2) * up + std::sqrt(1 - s2) * down};
}
/// A ring of 200 um that loses 30 dB in a cm, beside one guide or between two.
Document ring(bool two)
{
    Document d = overBand();
    addCoupler(d, "A", "12 %");
    addTerminal(d, "in", "A.1");
    addTerminal(d, "through", "A.3");
    if (!two) {
        addGuide(d, "round", "200 um", "30 dB");
        join(d, "A.4", "round.1");
        join(d, "round.2", "A.2");
        return d;
    }
    addCoupler(d, "B", "8 %");
    addGuide(d, "up", "100 um", "30 dB");
    addGuide(d, "down", "100 um", "30 dB");
    join(d, "A.4", "up.1");
    join(d, "up.2", "B.1");
    join(d, "B.3", "down.1");
    join(d, "down.2", "A.2");
    terminate(d, "B.2");
    addTerminal(d, "drop", "B.4");
    return d;
}
double kept(double length)
{
    return std::pow(10.0, -30.0 / 20 * length / 1e-2);
}
/// Two mirrors with a guide between.
Document etalon(const char* share)
{
    Document d = overBand();
    d.add("reflector part", {{"name", "M"}, {"share", share}});
    d.add("reflector part", {{"name", "N"}, {"share", share}});
    addGuide(d, "between", "150 um");
    join(d, "M.2", "between.1");
    join(d, "between.2", "N.1");
    addTerminal(d, "in", "M.1");
    addTerminal(d, "out", "N.2");
    return d;
}

struct Exact
{
    const char* name;
    const char* source;
    Document sheet;
    const char* finding;
    double truth;
};

std::vector<Exact> exactProblems()
{
    const double w = 1.5517e-6;
    const char *yariv = "Yariv, Electron. Lett. 36 (2000) 321",
               *saleh = "Saleh and Teich, Fundamentals of Photonics, section 10.1",
               *pozar = "Pozar, Microwave Engineering, chapter 7";
    std::vector<Exact> list;
    auto add = [&](const char* name, const char* source, Document d, const char* finding,
                   double truth, const std::function<void(Document&)>& ask) {
        ask(d);
        list.push_back({name, source, std::move(d), finding, truth});
    };
    auto to = [](const char* terminal) {
        return [terminal](Document& d) { askLoss(d, terminal); };
    };
    add("two arms, straight", saleh, arms("50 %", "50 %"), "insertion loss",
        level(std::norm(armsOut(0.5, 0.5, w).first)), to("bar"));
    add("two arms, across", saleh, arms("30 %", "60 %"), "insertion loss",
        level(std::norm(armsOut(0.3, 0.6, w).second)), to("cross"));
    {
        // The largest and least of both ways together.
        const double s = std::sqrt(0.7 * 0.4), t = std::sqrt(0.3 * 0.6);
        add("two arms, extinction", saleh, arms("30 %", "60 %"), "extinction",
            20 * std::log10((s + t) / std::abs(s - t)), [](Document& d) {
                d.add("extinction ratio", {{"from", "in"}, {"to", "bar"}});
            });
    }
    {
        // Dark places where the difference of phases is an odd multiple of pi.
        auto order = [](double f) {
            const double f0 = c0 / 1.55e-6;
            return (2.4 * f0 + 4.2 * (f - f0)) * 60e-6 / c0;
        };
        auto wave = [&](double m) {
            const double f0 = c0 / 1.55e-6;
            return c0 / (f0 + (m * c0 / 60e-6 - 2.4 * f0) / 4.2);
        };
        // Bar: 1 - cos, dark at whole orders; the two about the middle.
        const double m = std::floor(order(c0 / 1.55e-6));
        add("two arms, free spectral range", saleh, arms("50 %", "50 %"), "free spectral range",
            wave(m) - wave(m + 1), [](Document& d) {
                d.add("free spectral range", {{"from", "in"}, {"to", "bar"}});
            });
    }
    {
        const double a = kept(200e-6), t = std::sqrt(0.88);
        const Complex e = a * std::polar(1.0, -phase(200e-6, w));
        add("ring beside a guide", yariv, ring(false), "insertion loss",
            level(std::norm((t - e) / (1.0 - t * e))), to("through"));
        const double t2 = std::sqrt(0.92);
        add("ring between two guides, through", yariv, ring(true), "insertion loss",
            level(std::norm((t - t2 * e) / (1.0 - t * t2 * e))), to("through"));
        const Complex half = kept(100e-6) * std::polar(1.0, -phase(100e-6, w));
        add("ring between two guides, dropped", yariv, ring(true), "insertion loss",
            level(std::norm(std::sqrt(0.12 * 0.08) * half / (1.0 - t * t2 * e))), to("drop"));
        add("ring, darkest to brightest", yariv, ring(false), "extinction",
            20 * std::log10((t + a) / (1 + t * a) * (1 - t * a) / std::abs(t - a)),
            [](Document& d) {
                d.add("extinction ratio", {{"from", "in"}, {"to", "through"}});
            });
    }
    {
        const Complex e = std::polar(1.0, -2 * phase(150e-6, w));
        add("two mirrors", saleh, etalon("40 %"), "insertion loss",
            level(0.36 / std::norm(1.0 - 0.4 * e)), to("out"));
        add("two mirrors, extinction", saleh, etalon("40 %"), "extinction",
            20 * std::log10(1.4 / 0.6), [](Document& d) {
                d.add("extinction ratio", {{"from", "in"}, {"to", "out"}});
            });
        add("two mirrors, back", saleh, etalon("40 %"), "return loss",
            level(1 - 0.36 / std::norm(1.0 - 0.4 * e)), [](Document& d) {
                d.add("return loss", {{"of", "in"}, {"wavelength", "1.5517 um"}});
            });
    }
    {
        // Two couplers of half the power one after the other: all of it crosses.
        Document d = overBand();
        addCoupler(d, "A", "50 %");
        addCoupler(d, "B", "50 %");
        join(d, "A.3", "B.1");
        join(d, "A.4", "B.2");
        addTerminal(d, "in", "A.1");
        terminate(d, "A.2");
        terminate(d, "B.3");
        addTerminal(d, "out", "B.4");
        add("two couplers", pozar, d, "insertion loss", 0.0, to("out"));
    }
    {
        // A shorted line, there and back.
        Document d = overBand();
        addGuide(d, "line", "5 mm", "2 dB");
        addTerminal(d, "in", "line.1");
        terminate(d, "line.2", "-1");
        add("a line with a short", pozar, d, "return loss", 2.0, [](Document& s) {
            s.add("return loss", {{"of", "in"}, {"wavelength", "1.55 um"}});
        });
    }
    {
        // A splitter and its mirror image.
        Document d = overBand();
        d.add("splitter part", {{"name", "Y"}, {"share", "70 %"}});
        d.add("splitter part", {{"name", "Z"}, {"share", "30 %"}});
        join(d, "Y.2", "Z.2");
        join(d, "Y.3", "Z.3");
        addTerminal(d, "in", "Y.1");
        addTerminal(d, "out", "Z.1");
        const double through = 2 * std::sqrt(0.21);
        add("two splitters", saleh, d, "insertion loss", level(through * through), to("out"));
    }
    return list;
}

}  // namespace

class TstCircuit : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void withinStatedError();
    void losslessIsUnitary();
    void filesAsParts();
    void ownFileAsPart();
    void smoothBetweenPoints();
    void badInput_data();
    void badInput();
    void missingFile();
    void drawnAsJoined();
};

void TstCircuit::withinStatedError()
{
    QString rows;
    for (const Exact& e : exactProblems()) {
        const run::Result r = solved(e.sheet);
        const double value = valueOf(r, e.finding), error = errorOf(r, e.finding);
        // Rounding of what nearly cancels.
        QVERIFY2(std::abs(value - e.truth) <= error + 1e-9 * std::max(1e-3, std::abs(e.truth)),
                 qPrintable(QString("%1: %2, not %3")
                                .arg(e.name)
                                .arg(value, 0, 'g', 12)
                                .arg(e.truth, 0, 'g', 12)));
        QVERIFY2(isGood(r, "passive parts") && isGood(r, "power"), e.name);
        rows += QString("| %1 | %2 | %3 | %4 |\n")
                    .arg(e.name)
                    .arg(e.truth, 0, 'g', 8)
                    .arg(value, 0, 'g', 8)
                    .arg(e.source);
    }
    QVERIFY(test::rewriteTable("### Exact problems (`tests/physics/tst_circuit`)", rows));
}

void TstCircuit::losslessIsUnitary()
{
    network::Circuit c;
    const int a = c.add({"A", 4, network::couplerOf(0.37, 1)}),
              m = c.add({"M", 2, network::reflectorOf(0.2)}),
              g = c.add({"G", 2, network::guideOf(1e-3, 2, 3, 2e14, 1)});
    c.join(c.port(a, 2), c.port(m, 0));
    c.join(c.port(m, 1), c.port(g, 0));
    c.join(c.port(g, 1), c.port(a, 1));
    c.terminal(c.port(a, 0));
    c.terminal(c.port(a, 3));
    QVERIFY(c.openPorts().empty());
    for (const double f : {1.9e14, 2.0003e14, 2.1e14}) {
        const Eigen::MatrixXcd S = c.S(f);
        QVERIFY((S.adjoint() * S - Eigen::MatrixXcd::Identity(2, 2)).cwiseAbs().maxCoeff() < 1e-12);
        QVERIFY(std::abs(S(0, 1) - S(1, 0)) < 1e-12);
        QVERIFY(std::abs(network::gainOf(S) - 1) < 1e-12);
    }
}

namespace {

/// S-parameters of a guide of 100 um over the band, at some points.
void writeGuide(const QString& path, int points, double ohm)
{
    network::Network n;
    n.ports = {"1", "2"};
    n.reference = {ohm, ohm};
    const auto S = network::guideOf(100e-6, 2.4, 4.2, c0 / 1.55e-6, 0.9);
    for (int i = 0; i < points; ++i) {
        const double f = c0 / 1.58e-6 + (c0 / 1.52e-6 - c0 / 1.58e-6) * i / (points - 1);
        n.frequency.push_back(f);
        const Eigen::VectorXd fifty = Eigen::VectorXd::Constant(2, 50.0),
                              own = Eigen::VectorXd::Constant(2, ohm);
        n.S.push_back(network::renormalised(S(f), fifty, own));
    }
    QFile file(path);
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write(network::writeTouchstone(n, network::Touchstone::version2, {}).c_str());
}

Document filePart(const std::string& path)
{
    Document d = overBand("201");
    d.add("file part", {{"name", "F"}, {"file", path}});
    addTerminal(d, "in", "F.1");
    addTerminal(d, "out", "F.2");
    askLoss(d, "out", "1.5537 um");
    d.add("return loss", {{"of", "in"}, {"wavelength", "1.5537 um"}});
    return d;
}

}  // namespace

void TstCircuit::filesAsParts()
{
    QTemporaryDir folder;
    writeGuide(folder.filePath("guide.s2p"), 401, 75);
    const run::Result r = solved(filePart(folder.filePath("guide.s2p").toStdString()));
    const double off = std::abs(valueOf(r, "insertion loss") + 20 * std::log10(0.9));
    QVERIFY2(off < 1e-3 && off <= errorOf(r, "insertion loss"), qPrintable(QString::number(off)));
}

void TstCircuit::ownFileAsPart()
{
    // What a circuit writes, another takes in.
    QTemporaryDir folder;
    Document d = etalon("40 %");
    askLoss(d, "out");
    d.add("spectrum", {{"of", "in"}});
    run::Settings settings;
    settings.out = folder.filePath("first").toStdString();
    base::Progress progress;
    run::Outcome outcome{};
    const run::Result first = run::solve(d, settings, progress, outcome);
    QCOMPARE(outcome, run::Outcome::met);
    QString path;
    QDirIterator all(folder.path(), {"*.s2p"}, QDir::Files, QDirIterator::Subdirectories);
    while (all.hasNext())
        path = all.next();
    QVERIFY(!path.isEmpty());
    Document again = overBand();
    again.add("file part", {{"name", "F"}, {"file", path.toStdString()}});
    addTerminal(again, "in", "F.1");
    addTerminal(again, "out", "F.2");
    askLoss(again, "out");
    const double was = valueOf(first, "insertion loss"),
                 is = valueOf(solved(again), "insertion loss");
    QVERIFY2(std::abs(is - was) < 1e-5, qPrintable(QString("%1, not %2").arg(is).arg(was)));
}

void TstCircuit::smoothBetweenPoints()
{
    // With too few points the stated error grows, and holds the truth.
    QTemporaryDir folder;
    writeGuide(folder.filePath("guide.s2p"), 31, 50);
    const run::Result r = solved(filePart(folder.filePath("guide.s2p").toStdString()));
    const double off = std::abs(valueOf(r, "insertion loss") + 20 * std::log10(0.9)),
                 error = errorOf(r, "insertion loss");
    QVERIFY2(off <= error && error > 1e-3, qPrintable(QString("off %1 of %2").arg(off).arg(error)));
}

void TstCircuit::badInput_data()
{
    QTest::addColumn<int>("fault");
    QTest::addColumn<QString>("kind");
    QTest::addColumn<QString>("slot");
    QTest::addColumn<QString>("value");
    QTest::newRow("an open port") << 2307 << "termination"
                                  << ""
                                  << "";
    QTest::newRow("no such part") << 2300 << "joint"
                                  << "to"
                                  << "nothing.1";
    QTest::newRow("no such port") << 2300 << "joint"
                                  << "to"
                                  << "short.3";
    QTest::newRow("no port at all") << 2300 << "joint"
                                    << "to"
                                    << "short";
    QTest::newRow("taken twice") << 2301 << "terminal"
                                 << "at"
                                 << "A.3";
    QTest::newRow("more than all") << 2302 << "coupler part"
                                   << "share"
                                   << "120 %";
    QTest::newRow("a gain") << 2303 << "guide part"
                            << "loss"
                            << "0.5";
    QTest::newRow("no band") << 2304 << "wavelengths"
                             << ""
                             << "";
    QTest::newRow("backwards") << 7600 << "wavelengths"
                               << "to"
                               << "1.5 um";
    QTest::newRow("two points") << 7601 << "wavelengths"
                                << "steps"
                                << "2";
    QTest::newRow("outside the band") << 7612 << "insertion loss"
                                      << "wavelength"
                                      << "1.6 um";
    QTest::newRow("at no wavelength") << 7611 << "insertion loss"
                                      << "wavelength"
                                      << "";
    QTest::newRow("strong termination") << 7607 << "termination"
                                        << "reflection"
                                        << "2";
}

void TstCircuit::badInput()
{
    QFETCH(int, fault);
    QFETCH(QString, kind);
    QFETCH(QString, slot);
    QFETCH(QString, value);
    Document d = arms("50 %", "50 %");
    askLoss(d, "bar");
    QVERIFY(isRefused(test::changed(d, kind, slot, value), fault));
}

void TstCircuit::missingFile()
{
    QVERIFY(isRefused(filePart("there-is-none.s2p"), 7602));
    QTemporaryDir folder;
    QFile file(folder.filePath("broken.s2p"));
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write("# GHz S MA R 50\n1 0.5 nonsense\n");
    file.close();
    base::Progress progress;
    run::Outcome outcome{};
    const run::Result r =
        run::solve(filePart(file.fileName().toStdString()), {}, progress, outcome);
    QCOMPARE(outcome, run::Outcome::sheetWrong);
    QCOMPARE(r.report.faults[0].place.field, std::string("file"));
}

void TstCircuit::drawnAsJoined()
{
    const Document d = arms("50 %", "50 %");
    const sheet::Topic& topic = sheet::topicOf(d);
    QCOMPARE(topic.key, std::string("circuit"));
    const sheet::Diagram g = topic.diagram(d);
    QCOMPARE(g.boxes.size(), size_t(8));
    QCOMPARE(g.links.size(), size_t(8));
}

YH_TEST(TstCircuit)

}  // namespace tst_circuit

#include "tst_circuit.moc"
