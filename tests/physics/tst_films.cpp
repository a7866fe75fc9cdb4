// Resistive films and absorbing walls in driven waves.
#include "program.h"
#include "solved.h"
#include "waves.h"

#include <cmath>
#include <complex>

namespace tst_films {

using namespace yh;
using sheet::Document;
using test::c0;
using test::eta;
using test::isGood;
using test::isRefused;
using test::pi;
using test::solved;
using test::valueOf;

namespace {

using Complex = std::complex<double>;

/// A plate line of 60 mm, or the same as a solid between electric and magnetic walls.
Document line(bool solid)
{
    Document d;
    d.add("space", {{"type", solid ? "solid" : "plane"}});
    if (solid)
        d.add("box", {{"name", "pipe"},
                      {"width", "60 mm"},
                      {"length", "8 mm"},
                      {"height", "8 mm"},
                      {"at", "30 mm, 0, 0"}});
    else
        d.add("rectangle",
              {{"name", "pipe"}, {"width", "60 mm"}, {"height", "8 mm"}, {"at", "30 mm, 0"}});
    d.add("material", {{"material", "vacuum"}, {"in", "pipe"}});
    if (solid)
        d.add("magnetic wall", {{"on", "pipe.front and pipe.back"}});
    d.add("band", {{"from", "3 GHz"}, {"to", "7 GHz"}, {"points", "21"}});
    d.add("port", {{"name", "A"}, {"on", "pipe.left"}});
    return d;
}
void ask(Document& d, const char* to, const char* at, const char* within = "0.1 %")
{
    d.add("scattering", {{"from", "A"}, {"to", to}, {"at", at}, {"within", within}});
}

}  // namespace

class TestFilms : public QObject
{
    Q_OBJECT
private slots:
    void kinds_data()
    {
        QTest::addColumn<bool>("solid");
        QTest::newRow("drawing") << false;
        QTest::newRow("solid") << true;
    }
    /// A film across a line: eta and R in parallel. Pozar, Microwave Engineering, section 4.3 (from
    /// memory).
    void kinds()
    {
        QFETCH(bool, solid);
        constexpr double R = 150;
        Document d = line(solid);
        d.add("port", {{"name", "B"}, {"on", "pipe.right"}});
        if (solid) {
            d.add("box", {{"name", "rest"},
                          {"width", "40 mm"},
                          {"length", "8 mm"},
                          {"height", "8 mm"},
                          {"at", "40 mm, 0, 0"}});
            d.add("material", {{"material", "vacuum"}, {"in", "rest"}});
            d.set(d.first("magnetic wall")->id, "on",
                  "pipe.front and pipe.back and rest.front and rest.back");
            d.set(d.ofKind("port")[1]->id, "on", "rest.right");
        } else
            d.add("thin line", {{"name", "film"}, {"points", "20 mm, -4 mm; 20 mm, 4 mm"}});
        d.add("resistive sheet", {{"resistance", "150 ohm"}, {"on", solid ? "rest.left" : "film"}});
        ask(d, "A", "5 GHz");
        ask(d, "B", "5 GHz");
        const auto r = solved(d);
        const double back = eta / (2 * R + eta), on = 2 * R / (2 * R + eta);
        QVERIFY2(std::abs(valueOf(r, "|S| A to A") - back) < 1e-3,
                 qPrintable(QString::number(valueOf(r, "|S| A to A"))));
        QVERIFY(std::abs(valueOf(r, "|S| A to B") - on) < 1e-3);
        QVERIFY(isGood(r, "power balance"));
        QVERIFY(r.report.allMet());
    }
    /// A film a quarter of a wavelength before a metal plate takes all of one frequency. Salisbury,
    /// US patent 2599944, 1952 (from memory).
    void quarterWaveAbsorber()
    {
        Document d = line(false);
        d.add("thin line", {{"name", "film"}, {"points", "45 mm, -4 mm; 45 mm, 4 mm"}});
        d.add("resistive sheet", {{"resistance", "376.730313668 ohm"}, {"on", "film"}});
        ask(d, "A", "4.99654 GHz");
        ask(d, "A", "6.5 GHz");
        const auto r = solved(d);
        QVERIFY(valueOf(r, "|S| A to A at 4.99654 GHz") < 1e-3);
        const Complex behind(0, std::tan(2 * pi * 6.5e9 / c0 * 0.015)),
            both = behind / (1.0 + behind), back = (both - 1.0) / (both + 1.0);
        QVERIFY2(std::abs(valueOf(r, "|S| A to A at 6.5 GHz") - std::abs(back)) < 1e-3,
                 qPrintable(QString::number(valueOf(r, "|S| A to A at 6.5 GHz"))));
        QVERIFY(isGood(r, "power balance"));
    }
    /// An absorbing wall at the end of a line with a filling takes all; at an angle what comes back
    /// is (1 - cos) / (1 + cos).
    void absorbingWall()
    {
        Document d = line(false);
        d.set(d.first("material")->id, "eps", "2.5");
        d.add("absorbing wall", {{"on", "pipe.right"}});
        ask(d, "A", "5 GHz");
        QVERIFY(valueOf(solved(d), "|S| A to A") < 1e-3);
        for (const bool across : {false, true}) {
            Document slant = line(false);
            if (across)
                slant.add("field across", {});
            slant.add("periodic pair", {{"on", "pipe.bottom"}, {"to", "pipe.top"}});
            slant.add("incidence", {{"angle", "60 deg"}});
            slant.add("absorbing wall", {{"on", "pipe.right"}});
            ask(slant, "A", "5 GHz");
            const auto r = solved(slant);
            QVERIFY2(std::abs(valueOf(r, "|S| A to A") - 1.0 / 3) < 1e-3,
                     qPrintable(QString::number(valueOf(r, "|S| A to A"))));
            QVERIFY(isGood(r, "power balance"));
        }
    }
    void wrongSheets()
    {
        Document d = line(false);
        d.add("absorbing wall", {{"on", "pipe.right"}});
        ask(d, "A", "5 GHz");
        Document inside = d;
        inside.add("thin line", {{"name", "film"}, {"points", "45 mm, -4 mm; 45 mm, 4 mm"}});
        inside.set(inside.first("absorbing wall")->id, "on", "film");
        QVERIFY(isRefused(inside, 6256));
        Document region = d;
        region.set(region.first("absorbing wall")->id, "on", "pipe");
        QVERIFY(isRefused(region, 6202));
        Document modes = d;
        for (const char* kind : {"scattering", "port", "band"})
            modes.remove(modes.first(kind)->id);
        modes.add("modes", {{"count", "1"}});
        modes.add("resonance", {{"mode", "1"}});
        QVERIFY(isRefused(modes, 6255));
    }
};

YH_TEST(TestFilms)

}  // namespace tst_films

#include "tst_films.moc"
