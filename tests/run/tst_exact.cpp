// Figures and error bars against exact answers.
#include "exact_problems.h"
#include "program.h"
#include "validation_table.h"

#include <QtTest/QtTest>

#include <QFile>
#include <algorithm>
#include <map>

namespace tst_exact {

using namespace yh;
using namespace yh::test;

class TstExact : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void figuresAndErrorBars_data();
    void figuresAndErrorBars();
    void finest();
    void temperaturesAtPlaces_data();
    void temperaturesAtPlaces();
    void cleanupTestCase();

private:
    /// Rows of docs/validation.md, by name: the default accuracy, and the finest.
    struct Row
    {
        QString value, finest;
    };
    std::map<std::string, Row> m_rows;
};

/// scripts/validate writes the table of exact problems anew.
void TstExact::cleanupTestCase()
{
    if (m_rows.empty())
        return;
    QString rows;
    for (const Exact& e : exactProblems())
        rows +=
            QString("| %1 | %2 | %3 | %4 | %5 |\n")
                .arg(QString::fromStdString(e.name))
                .arg(e.value, 0, 'e', 7)
                .arg(m_rows[e.name].value, m_rows[e.name].finest, QString::fromStdString(e.source));
    QVERIFY(rewriteTable("### Exact problems (`tests/run/tst_exact`)", rows));
}

void TstExact::figuresAndErrorBars_data()
{
    QTest::addColumn<QString>("within");
    QTest::addColumn<double>("bound");
    QTest::newRow("default accuracy") << "0.1 %" << 1e-3;
    QTest::newRow("one in ten thousand") << "0.01 %" << 1e-4;
}

void TstExact::figuresAndErrorBars()
{
    QFETCH(QString, within);
    QFETCH(double, bound);
    int covered = 0, count = 0;
    std::vector<double> ratios;
    std::printf("%-42s %14s %10s %10s %7s %6s %8s\n", "problem", "value", "deviation", "stated",
                "ratio", "passes", "unknowns");
    for (const Exact& e : exactProblems()) {
        run::Report report;
        const run::Finding f = solveOne(e.sheet, within.toStdString(), &report);
        QVERIFY2(!f.value.empty(), (e.name + ": " + f.note).c_str());
        const double off = std::abs(f.value[0] - e.value) / std::abs(e.value),
                     stated = f.error[0] / std::abs(e.value);
        std::printf("%-42s %14.7e %10.1e %10.1e %7.1f %6zu %8d\n", e.name.c_str(), f.value[0], off,
                    stated, stated / off, report.passes.size(), report.passes.back().unknowns);
        std::fflush(stdout);
        if (within == "0.1 %")
            m_rows[e.name].value = QString("%1 | %2 | %3")
                                       .arg(f.value[0], 0, 'e', 7)
                                       .arg(off, 0, 'e', 1)
                                       .arg(stated, 0, 'e', 1);
        ++count;
        covered += off <= stated;
        ratios.push_back(stated / off);
        QVERIFY2(off < bound, (e.name + " is off by " + std::to_string(off)).c_str());
        QVERIFY2(f.met, (e.name + " does not reach the accuracy asked for").c_str());
    }
    std::sort(ratios.begin(), ratios.end());
    const double median = ratios[ratios.size() / 2];
    std::printf("truth within the stated error: %d of %d; median of stated over true: %.1f\n",
                covered, count, median);
    QVERIFY(count >= 20);
    QVERIFY2(10 * covered >= 9 * count, "the truth lies outside the stated error too often");
    QVERIFY2(median <= 20, "the stated errors are too cautious");
}

void TstExact::finest()
{
    for (const Exact& e : exactProblems()) {
        if (e.name.find("capacit") == std::string::npos && e.sheet.first("capacitance") == nullptr)
            continue;
        const run::Finding f = solveOne(e.sheet, "0.00005 %");
        QVERIFY2(!f.value.empty(), (e.name + ": " + f.note).c_str());
        const double off = std::abs(f.value[0] - e.value) / std::abs(e.value);
        m_rows[e.name].finest = QString::number(off, 'e', 1);
        std::printf("%-42s %10.1e %10.1e\n", e.name.c_str(), off, f.error[0] / std::abs(e.value));
        std::fflush(stdout);
        QVERIFY2(off < 1e-6, (e.name + " is off by " + std::to_string(off)).c_str());
    }
}

namespace {

/// A body of k = 2 W/(m K) that is heated by 1 MW/m^3 or from its sides.
struct Warm
{
    std::string name;
    double value;  ///< K over the coldest
    Document sheet;
};

Document warmBody(const std::string& space, const std::string& shape,
                  std::map<std::string, std::string> size, bool heated)
{
    Document d;
    d.add("space", {{"type", space}, {"depth", "1 m"}});
    size["name"] = "b";
    d.add(shape, size);
    d.add("material", {{"material", "clay"}, {"in", "b"}, {"k", "2 W/m/K"}});
    if (heated)
        d.add("heat source", {{"name", "q"}, {"density", "1e6 W/m^3"}, {"in", "b"}});
    return d;
}
Document held(Document d, const std::string& name, const std::string& value, const std::string& on)
{
    return with(std::move(d), "held temperature", {{"name", name}, {"value", value}, {"on", on}});
}
Document evenAbout(Document d, std::initializer_list<const char*> planes)
{
    for (const char* at : planes)
        d.add("mirror plane", {{"at", at}, {"kind", "even"}});
    return d;
}

/// Carslaw and Jaeger, Conduction of Heat in Solids, 2nd ed.: sections 5.6 (bar of rectangular
/// section), 7.2 and 9.4 (cylinders and spheres); all from memory. Values in the middle of cubes
/// and squares with one hot side follow from superposition.
std::vector<Warm> warmBodies()
{
    constexpr double k = 2, q = 1e6, R = 5e-3, h = 400;
    std::vector<Warm> list;
    auto add = [&](const std::string& name, double value, Document d, const std::string& at) {
        d.add("temperature at", {{"at", at}});
        list.push_back({name, value, std::move(d)});
    };
    const std::map<std::string, std::string> square{{"width", "10 mm"}, {"height", "10 mm"}},
        box{{"width", "10 mm"}, {"length", "10 mm"}, {"height", "10 mm"}},
        round{{"radius", "5 mm"}}, rod{{"radius", "5 mm"}, {"height", "4 mm"}};
    double bar = 0.125;
    for (int n = 1; n < 40; n += 2)
        bar -= 4 / std::pow(pi, 3) * (n % 4 == 1 ? 1 : -1) / (n * n * n * std::cosh(0.5 * n * pi));
    const double ofBar = bar * q * 1e-4 / k;
    const std::string rim = "b.left and b.right and b.bottom and b.top",
                      sides = "b.left and b.right and b.front and b.back";
    add("square bar", ofBar, held(warmBody("plane", "rectangle", square, true), "c", "300 K", rim),
        "0, 0");
    add("square bar, solid", ofBar, held(warmBody("solid", "box", box, true), "c", "300 K", sides),
        "0, 0, 1 mm");
    const auto airy = [](Document d, const std::string& on) {
        return with(std::move(d), "convection",
                    {{"name", "air"}, {"h", "400 W/m^2/K"}, {"to", "300 K"}, {"on", on}});
    };
    add("cylinder in air", q * R * R / (4 * k) + q * R / (2 * h),
        airy(warmBody("plane", "disc", round, true), "b.outer"), "0, 0");
    add("cylinder in air, solid", q * R * R / (4 * k) + q * R / (2 * h),
        airy(evenAbout(warmBody("solid", "cylinder", rod, true), {"x = 0", "y = 0"}), "b.outer"),
        "0, 0, 1 mm");
    add("sphere in air", q * R * R / (6 * k) + q * R / (3 * h),
        airy(warmBody("axisymmetric", "disc", round, true), "b.outer"), "0, 0");
    add("sphere in air, solid", q * R * R / (6 * k) + q * R / (3 * h),
        airy(evenAbout(warmBody("solid", "sphere", round, true), {"x = 0", "y = 0", "z = 0"}),
             "b.outer"),
        "0.1 mm, 0.1 mm, 0.1 mm");
    list.back().value -= q * 3e-8 / (6 * k);
    add("square, one hot side", 25,
        held(held(warmBody("plane", "rectangle", square, false), "c", "300 K",
                  "b.left and b.right and b.bottom"),
             "w", "400 K", "b.top"),
        "0, 0");
    add("cube, one hot side", 100.0 / 6,
        held(held(warmBody("solid", "box", box, false), "c", "300 K", sides + " and b.bottom"), "w",
             "400 K", "b.top"),
        "0, 0, 5 mm");
    add("square, two hot sides", 50,
        held(held(warmBody("plane", "rectangle", square, false), "c", "300 K",
                  "b.left and b.bottom"),
             "w", "400 K", "b.top and b.right"),
        "0, 0");
    for (const bool solid : {false, true}) {
        // Between radii of 1 and 5 mm, at 2 mm.
        Document d;
        d.add("space", {{"type", solid ? "solid" : "plane"}, {"depth", "1 m"}});
        for (const auto& [name, radius] : {std::pair{"whole", "5 mm"}, {"hole", "1 mm"}})
            if (solid)
                d.add("cylinder", {{"name", name}, {"radius", radius}, {"height", "4 mm"}});
            else
                d.add("disc", {{"name", name}, {"radius", radius}});
        d.add("subtract", {{"name", "b"}, {"of", "whole"}, {"by", "hole"}});
        if (solid)
            d = evenAbout(d, {"x = 0", "y = 0"});
        d.add("material", {{"material", "clay"}, {"in", "b"}, {"k", "2 W/m/K"}});
        // The round faces of solids may be parted by a seam.
        const std::string
            at = solid
                     ? "nearest to 0.985 mm, 0.174 mm, 1 mm and nearest to 0.174 mm, 0.985 mm, 1 mm"
                     : "nearest to 0.7071 mm, 0.7071 mm",
            far = solid ? "nearest to 4.92 mm, 0.87 mm, 1 mm and nearest to 0.87 mm, 4.92 mm, 1 mm"
                        : "nearest to 3.5355 mm, 3.5355 mm";
        add(solid ? "tube, solid" : "tube", 100 * std::log(2.5) / std::log(5.0),
            held(held(d, "w", "400 K", at), "c", "300 K", far),
            solid ? "2 mm, 0, 1 mm" : "2 mm, 0");
    }
    return list;
}

}  // namespace

void TstExact::temperaturesAtPlaces_data()
{
    QTest::addColumn<QString>("within");
    QTest::newRow("one in a hundred") << "1 %";
    QTest::newRow("one in a thousand") << "0.1 %";
}

void TstExact::temperaturesAtPlaces()
{
    QFETCH(QString, within);
    int covered = 0, count = 0;
    std::vector<double> ratios;
    for (const Warm& w : warmBodies()) {
        run::Report report;
        const run::Finding f = solveOne(w.sheet, within.toStdString(), &report);
        QVERIFY2(!f.value.empty(), (w.name + ": " + f.note).c_str());
        const double off = std::abs(f.value[0] - 300 - w.value) / w.value,
                     stated = f.error[0] / w.value;
        std::printf("%-42s %14.7e %10.1e %10.1e %7.1f %6zu %8d\n", w.name.c_str(), f.value[0], off,
                    stated, stated / off, report.passes.size(), report.passes.back().unknowns);
        std::fflush(stdout);
        ++count;
        covered += off <= stated;
        ratios.push_back(stated / off);
        QVERIFY2(f.met, (w.name + " does not reach the accuracy asked for").c_str());
    }
    std::sort(ratios.begin(), ratios.end());
    std::printf("truth within the stated error: %d of %d; median of stated over true: %.1f\n",
                covered, count, ratios[ratios.size() / 2]);
    QVERIFY(count >= 10);
    QVERIFY2(10 * covered >= 9 * count, "the truth lies outside the stated error too often");
    QVERIFY2(ratios[ratios.size() / 2] <= 20, "the stated errors are too cautious");
}

YH_TEST(TstExact)

}  // namespace tst_exact

#include "tst_exact.moc"
