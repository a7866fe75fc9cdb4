// Passes, errors, sweeps, storing: the layer between sheet and field.
#include "exact_problems.h"
#include "physics/electrostatic/asks.h"
#include "program.h"
#include "run/estimate.h"
#include "run/store.h"
#include "run/worker.h"

#include <QtTest/QtTest>

#include <QDir>
#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QTemporaryDir>
#include <cmath>

namespace tst_run {

using namespace yh;
using namespace yh::test;

namespace {

run::Result solved(const Document& d, run::Outcome& outcome, const run::Settings& settings = {})
{
    base::Progress progress;
    return run::solve(d, settings, progress, outcome);
}

Document coaxWithParameter()
{
    Document d = coaxial("plane", "1 mm", "b");
    d.add("parameter", {{"name", "b"}, {"value", "2 mm"}});
    d.add("parameter", {{"name", "k"}, {"value", "1"}});
    for (auto& l : d.lines)
        if (l.kind == "material")
            l.values = {{"material", "filling"}, {"in", "gap"}, {"eps", "k"}};
    return with(d, "capacitance", {{"from", "A"}, {"to", "B"}, {"within", "0.1 %"}});
}

}  // namespace

class TstRun : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void demoSheetsAreComplete();
    void estimateOfGeometricSeries();
    void passesTellWhatIsMissing();
    void estimateIsCautiousAtFirst();
    void reportReadsBack();
    void brokenReports();
    void sweepOverTwoParameters();
    void sharedSweepIsTheSame();
    void materialSweepKeepsTheMesh();
    void limitsAreKept();
    void wordsWithoutMeaningAreSaid();
    void missedLimitEndsEarly();
    void ordersAgree();
    void cancelling();
    void reducedMatrixDropsFloating();
    void fieldLinesRunFromPlusToMinus();
    void faultsOfGeometry();
    void everyFaultyLineIsTold();
    void parityIsProposed();
    void mirroredMeshes_data();
    void mirroredMeshes();
    void whatIsNotSymmetricIsNotMirrored();
    void planesOfMirroredMeshes();
    void singularEdgesOfSolids_data();
    void singularEdgesOfSolids();
    void sameTwice();
};

void TstRun::demoSheetsAreComplete()
{
    // Every demo device opens without a fault, and asks for something.
    const QString folder = QStringLiteral(YH_SOURCE_DIR "/demo");
    const QStringList sheets = QDir(folder).entryList({QStringLiteral("*.yhn")}, QDir::Files);
    QVERIFY(sheets.size() >= 15);
    for (const QString& name : sheets) {
        const auto read = sheet::readFile(QDir(folder).filePath(name).toStdString());
        QVERIFY2(read.document && read.faults.empty(), qPrintable(name));
        const auto faults = run::faultsOf(sheet::Model(*read.document), folder.toStdString());
        QVERIFY2(
            faults.empty(),
            faults.empty() ? "" : qPrintable(name + ": " + QString::fromStdString(faults[0].text)));
        QVERIFY2(sheet::unknownWords(*read.document).empty(), qPrintable(name));
    }
}

void TstRun::estimateOfGeometricSeries()
{
    // 1 + r + r^2 + …: the rest behind the third term is known.
    for (const double r : {0.1, 0.3, 0.5}) {
        run::History h;
        h.byOrder = {{1, 1 + r, 1 + r + r * r}};
        const double rest = 1 / (1 - r) - (1 + r + r * r), e = run::estimateError(h, 0, 2);
        QVERIFY2(e >= rest && e < 2.5 * rest, qPrintable(QString::number(e / rest)));
    }
    run::History h;
    h.byOrder = {{5, 5, 5}, {5, 5, 5}};
    QVERIFY(run::estimateError(h, 0, 2) < 1e-11);
    QVERIFY(run::estimateError(h, 1e-3, 2) >= 5e-3);  // what curved borders may cost
    QVERIFY(std::isinf(run::estimateError({}, 0, 2)));
}

void TstRun::passesTellWhatIsMissing()
{
    // Of the error e the next order finds two thirds; each pass halves it. The figure holds that.
    const double truth = 7;
    auto history = [truth](int passes) {
        run::History h;
        double e = 0.6;
        for (int i = 0; i < passes; ++i, e /= 2) {
            h.byOrder.push_back({truth + e / 3});
            h.change.push_back(-e * 2 / 3);
        }
        return h;
    };
    QCOMPARE(run::missing(history(1), 2), 0.0);
    for (const int passes : {2, 3, 5}) {
        const run::History h = history(passes);
        const double value = h.byOrder.back().back(), more = run::missing(h, 2);
        QVERIFY(std::abs(value + more - truth) < 1e-12);
        const double e = run::estimateError(h, 0, 2);
        QVERIFY(e > 0.2 * std::abs(more) && e < 1.5 * std::abs(more));
        // Local values are not that steady.
        QCOMPARE(run::missing(h, 1), 0.0);
    }
    // Waves, changes of either sign, or that do not fall, tell nothing.
    run::History h = history(3);
    h.isDefinite = false;
    QCOMPARE(run::missing(h, 2), 0.0);
    h = history(3);
    h.change.back() *= -1;
    QCOMPARE(run::missing(h, 2), 0.0);
    h = history(3);
    h.change.back() = h.change.front();
    QCOMPARE(run::missing(h, 2), 0.0);
}

void TstRun::estimateIsCautiousAtFirst()
{
    // A jump between passes is not explained away by a calm series of orders.
    run::History h;
    h.byOrder = {{1.0, 1.0001, 1.00011}, {1.2, 1.2001, 1.20011}};
    QVERIFY(run::estimateError(h, 0, 2) > 0.05);
    QVERIFY(run::estimateError(h, 0, 1) > run::estimateError(h, 0, 2));
}

void TstRun::reportReadsBack()
{
    run::Outcome outcome{};
    const run::Result r =
        solved(with(coaxWithParameter(), "capacitance matrix", {{"within", "1 %"}}), outcome);
    QVERIFY(outcome == run::Outcome::met);
    base::Faults faults;
    const run::Result again = run::resultFromJson(run::toJson(r), faults);
    QVERIFY(faults.empty());
    QCOMPARE(again.report.findings.size(), r.report.findings.size());
    for (size_t i = 0; i < r.report.findings.size(); ++i) {
        QVERIFY(again.report.findings[i].value == r.report.findings[i].value);
        QVERIFY(again.report.findings[i].error == r.report.findings[i].error);
        QCOMPARE(again.report.findings[i].conductors, r.report.findings[i].conductors);
        QCOMPARE(again.report.findings[i].met, r.report.findings[i].met);
    }
    QCOMPARE(again.report.checks.size(), r.report.checks.size());
    QCOMPARE(again.report.passes.size(), r.report.passes.size());
}

void TstRun::brokenReports()
{
    for (const char* text :
         {"", "{", "[]", "{\"findings\": 3}",
          "{\"findings\": [], \"checks\": [], \"passes\": [{}], \"mesh\": {}}"}) {
        base::Faults faults;
        static_cast<void>(run::resultFromJson(text, faults));
        QCOMPARE(faults.size(), size_t(1));
        QCOMPARE(faults[0].text, std::string("the stored results are broken; solve again"));
    }
}

void TstRun::sweepOverTwoParameters()
{
    Document d = coaxWithParameter();
    d.add("sweep", {{"parameter", "b"}, {"from", "2 mm"}, {"to", "4 mm"}, {"steps", "2"}});
    d.add("sweep", {{"parameter", "k"}, {"from", "1"}, {"to", "3"}, {"steps", "3"}});
    run::Outcome outcome{};
    const run::Result r = solved(d, outcome);
    QVERIFY(outcome == run::Outcome::met);
    QCOMPARE(r.points.size(), size_t(6));
    for (const auto& p : r.points) {
        const double exact = p.parameters[1] * 2 * pi * eps0 / std::log(p.parameters[0] / 1e-3);
        QVERIFY(std::abs(p.report.findings[0].value[0] / exact - 1) < 1e-3);
    }
    const std::string csv = run::sweepCsv(r);
    QVERIFY(csv.rfind("b (m),k,capacitance A to B (F),± capacitance A to B (F)\n", 0) == 0);
    QCOMPARE(std::count(csv.begin(), csv.end(), '\n'), 7);
}

void TstRun::sharedSweepIsTheSame()
{
    Document d = coaxWithParameter();
    d.add("sweep", {{"parameter", "b"}, {"from", "1.5 mm"}, {"to", "4 mm"}, {"steps", "5"}});
    run::Outcome a{}, b{}, c{};
    run::Settings shared, broken;
    shared.program = YH_SOLVER;
    broken.program = "/bin/false";  // a helper that dies at once costs time, not points
    const run::Result alone = solved(d, a), two = solved(d, b, shared), left = solved(d, c, broken);
    QVERIFY(a == run::Outcome::met && b == a && c == a);
    for (size_t i = 0; i < alone.points.size(); ++i) {
        const double v = alone.points[i].report.findings[0].value[0];
        QVERIFY(std::abs(two.points[i].report.findings[0].value[0] / v - 1) < 1e-10);
        QVERIFY(std::abs(left.points[i].report.findings[0].value[0] / v - 1) < 1e-10);
    }
}

void TstRun::materialSweepKeepsTheMesh()
{
    Document d = coaxWithParameter();
    d.add("sweep", {{"parameter", "k"},
                    {"from", "1"},
                    {"to", "9"},
                    {"steps", "4"},
                    {"spacing", "by equal ratios"}});
    run::Outcome outcome{};
    std::vector<std::string> log;
    run::Settings s;
    s.onLog = [&](const std::string& t) { log.push_back(t); };
    const run::Result r = solved(d, outcome, s);
    int meshes = 0;
    for (const std::string& t : log)
        meshes += t.rfind("mesh: ", 0) == 0;
    QCOMPARE(meshes, 1);
    const double base = r.points[0].report.findings[0].value[0];
    for (const auto& p : r.points)
        QVERIFY(std::abs(p.report.findings[0].value[0] / (base * p.parameters[0]) - 1) < 1e-5);
}

void TstRun::wordsWithoutMeaningAreSaid()
{
    Document d = coaxWithParameter();
    for (auto& l : d.lines)
        if (l.kind == "material")
            l.values["epz"] = "3";
    d.add("mesh", {{"size", "20 um"}});
    run::Outcome outcome;
    const run::Result r = solved(d, outcome);
    std::string said;
    for (const auto& c : r.report.checks)
        if (c.id == "words") {
            QVERIFY(c.state == physics::Check::State::warning);
            said += c.text + "\n";
        }
    QVERIFY2(said.find("'epz' means nothing in a line of the kind 'material' and is not used; did "
                       "you mean 'eps'?") != std::string::npos,
             said.c_str());
    QVERIFY2(said.find("'size' means nothing in a line of the kind 'mesh' and is not used; it has "
                       "cells, order") != std::string::npos,
             said.c_str());
}

void TstRun::limitsAreKept()
{
    Document d = coaxWithParameter();
    d.set(d.first("capacitance")->id, "within", "0.0000000001 %");
    d.add("limits", {{"passes", "3"}});
    run::Outcome outcome{};
    run::Result r = solved(d, outcome);
    QVERIFY(outcome == run::Outcome::missed);
    QCOMPARE(r.report.passes.size(), size_t(3));
    QCOMPARE(
        r.report.checks.back().text,
        std::string("the refinement stopped at the limit of 3 passes before every ask was met"));
    d.set(d.first("limits")->id, "passes", "30");
    d.set(d.first("limits")->id, "unknowns", "20000");
    r = solved(d, outcome);
    QVERIFY(r.report.passes.back().unknowns <= 20000);
    QCOMPARE(r.report.checks.back().text,
             std::string(
                 "the refinement stopped at the limit of 20000 unknowns before every ask was met"));
    d.set(d.first("limits")->id, "unknowns", "");
    d.set(d.first("limits")->id, "seconds", "1 ms");
    r = solved(d, outcome);
    QCOMPARE(r.report.passes.size(), size_t(1));
    const std::string& said = r.report.checks.back().text;
    QVERIFY2(said.rfind("the refinement stopped after ", 0) == 0 &&
                 said.find("the limit of 1 ms") != std::string::npos,
             said.c_str());
}

void TstRun::missedLimitEndsEarly()
{
    // Far above the limit: more passes would not change that.
    run::Outcome outcome{};
    const run::Result r = solved(with(coaxWithParameter(), "largest field",
                                      {{"in", "gap"}, {"below", "1 V/m"}, {"within", "1 %"}}),
                                 outcome);
    QVERIFY(outcome == run::Outcome::missed);
    QVERIFY(r.report.passes.size() < 8);
    QVERIFY(!r.report.findings[1].met && r.report.findings[0].met);
    // And an `above` that holds.
    run::Outcome good{};
    solved(with(coaxial("plane", "1 mm", "2 mm"), "capacitance",
                {{"from", "A"}, {"to", "B"}, {"above", "70 pF"}, {"below", "90 pF"}}),
           good);
    QVERIFY(good == run::Outcome::met);
}

void TstRun::ordersAgree()
{
    for (const char* order : {"1", "2", "3"}) {
        Document d = coaxWithParameter();
        d.add("mesh", {{"order", order}, {"cells", "3"}});
        run::Outcome outcome{};
        const run::Result r = solved(d, outcome);
        QVERIFY2(
            std::abs(r.report.findings[0].value[0] / (2 * pi * eps0 / std::log(2.0)) - 1) < 2e-3,
            order);
        QCOMPARE(r.report.mesh.order, QString(order).toInt());
    }
}

void TstRun::cancelling()
{
    base::Progress progress(
        [&](double fraction, const std::string&) { QVERIFY(fraction >= 0 && fraction <= 1); });
    progress.cancel();
    run::Outcome outcome{};
    QVERIFY_EXCEPTION_THROWN(
        static_cast<void>(run::solve(coaxWithParameter(), {}, progress, outcome)), base::Cancelled);
}

void TstRun::reducedMatrixDropsFloating()
{
    // Two gaps in series with a floating foil between them: C1 C2 / (C1 + C2).
    Document d = sheetOf("plane", "insulated");
    d.add("rectangle", {{"name", "gap"}, {"width", "3 mm"}, {"height", "3 mm"}});
    d.add("thin line", {{"name", "foil"}, {"points", "-1.5 mm, 0.5 mm; 1.5 mm, 0.5 mm"}});
    d.add("material", {{"material", "vacuum"}, {"in", "gap"}});
    d.add("electrode", {{"name", "A"}, {"voltage", "1 V"}, {"on", "gap.top"}});
    d.add("electrode", {{"name", "B"}, {"voltage", "0 V"}, {"on", "gap.bottom"}});
    d.add("floating", {{"name", "F"}, {"on", "foil"}});
    const sheet::Model model(d);
    const auto partition = shape::Partition::build(model);
    base::Faults faults;
    const auto problem = physics::defineElectrostatic(model, partition, faults);
    QVERIFY2(faults.empty(), faults.empty() ? "" : faults.front().text.c_str());
    base::Progress progress;
    mesh::Options o;
    o.pieces = problem.activePieces;
    const mesh::Mesh mesh = mesh::generate(partition, o, progress);
    physics::ElectrostaticSolver solver(problem, mesh, partition, 2, progress);
    solver.solve(2, progress);
    const double c1 = eps0 * 3, c2 = eps0 * 1.5;  // gaps of 1 mm and 2 mm under 3 mm of width
    const auto r = physics::reducedMatrix(solver, 2, {}, false);
    QCOMPARE(r.names.size(), size_t(2));
    QVERIFY(std::abs(r.entry("A", "B") / (-c1 * c2 / (c1 + c2)) - 1) < 1e-10);
    const auto all = physics::reducedMatrix(solver, 2, {}, true);
    QCOMPARE(all.names.size(), size_t(3));
    QVERIFY(std::abs(all.entry("A", "B")) < 1e-10 * c1);
    QVERIFY(std::abs(all.entry("A", "F") / -c1 - 1) < 1e-10);
}

void TstRun::fieldLinesRunFromPlusToMinus()
{
    QTemporaryDir dir;
    run::Settings s;
    s.out = dir.path().toStdString();
    run::Outcome outcome{};
    const run::Result r = solved(coaxWithParameter(), outcome, s);
    QFile f(dir.filePath(QString::fromStdString(r.linesFile)));
    QVERIFY(f.open(QIODevice::ReadOnly));
    const auto lines = QJsonDocument::fromJson(f.readAll()).array();
    QCOMPARE(lines.size(), 48);
    for (const auto& l : lines) {
        const auto first = l[0], last = l.toArray().last();
        // Radial lines from the core to the rim.
        QVERIFY(std::abs(std::hypot(first[0].toDouble(), first[1].toDouble()) - 1e-3) < 0.1e-3);
        QVERIFY(std::abs(std::hypot(last[0].toDouble(), last[1].toDouble()) - 2e-3) < 0.15e-3);
        const double turn = std::atan2(last[1].toDouble(), last[0].toDouble()) -
                            std::atan2(first[1].toDouble(), first[0].toDouble());
        QVERIFY(std::abs(std::remainder(turn, 2 * pi)) < 0.02);
    }
}

void TstRun::faultsOfGeometry()
{
    Document d = coaxWithParameter();
    QVERIFY(run::faultsOf(sheet::Model(d), ".").empty());
    d.add("force", {{"on", "gap.outer"}});
    const auto f = run::faultsOf(sheet::Model(d), ".");
    QCOMPARE(f.size(), size_t(1));
    QCOMPARE(f[0].text, std::string("'gap.outer' picks no region to act on"));
    QCOMPARE(f[0].place.line, d.first("force")->id);
    Document e = coaxWithParameter();
    e.add("potential at", {{"at", "0, 0"}});
    run::Outcome outcome{};
    const run::Result r = solved(e, outcome);
    QCOMPARE(r.report.faults[0].text, std::string("the point lies in no region that carries field: "
                                                  "in a conductor, or outside the drawing"));
}

void TstRun::everyFaultyLineIsTold()
{
    // One faulty line does not hide the others: each says what is wrong with it, and no more.
    const auto read = sheet::read(R"({"yellowhorn sheet": 1, "lines": [
{"line": "rectangle", "name": "bar", "width": "20 mm", "height": "1 mm"},
{"line": "disc", "name": "hole", "radius": "-1 mm"},
{"line": "cut", "name": "rest", "of": "bar", "by": "hole"},
{"line": "material", "material": "coper", "in": "bar"},
{"line": "contact", "name": "A", "voltage": "1 kg", "on": "bar.left"},
{"line": "contact", "name": "B", "voltage": "0 V", "on": "bar.rigth"},
{"line": "resistance", "from": "A", "to": "C", "within": "0.5 %"}]})");
    QVERIFY(read.document);
    const Document& d = *read.document;
    std::map<int, std::string> said;
    for (const auto& f : run::faultsOf(sheet::Model(d), ".")) {
        QVERIFY2(!said.count(f.place.line), f.text.c_str());
        said[f.place.line] = f.text;
    }
    const auto says = [&](int line, const char* text) {
        return said.count(line) && said[line].find(text) != std::string::npos;
    };
    QVERIFY(says(d.findNamed("hole")->id, "above zero"));
    QVERIFY(says(d.first("material")->id, "did you mean 'copper'?"));
    QVERIFY(says(d.findNamed("A")->id, "a mass"));
    QVERIFY(says(d.findNamed("B")->id, "did you mean 'right'?"));
    QVERIFY(says(d.first("resistance")->id, "no contact named 'C'"));
    // What has its cause in another line is not said of this one, nor of the whole.
    QVERIFY(!said.count(d.findNamed("bar")->id) && !said.count(-1));
}

void TstRun::parityIsProposed()
{
    auto proposal = [](Document d, const std::string& at) {
        const int line = d.add("mirror plane", {{"at", at}});
        for (const auto& f : run::faultsOf(sheet::Model(d), "."))
            if (f.place.line == line)
                return f.text;
        return std::string();
    };
    const std::string even = "the device is even about this plane: choose even";
    const std::string odd = "the device is odd about this plane: choose odd";
    const std::string none = "the device is not its own mirror image about this plane";
    const Document pair = capacitanceAB(wires("1 mm", "2 mm"));
    QCOMPARE(proposal(pair, "x = 0"), odd);
    QCOMPARE(proposal(pair, "y = 0"), even);
    Document same = pair;
    same.set(same.findNamed("B")->id, "voltage", "0.5 V");
    QCOMPARE(proposal(same, "x = 0"), even);
    Document shifted = pair;
    shifted.set(shifted.findNamed("right")->id, "radius", "1.2 mm");
    QCOMPARE(proposal(shifted, "x = 0"), none);
}

namespace {

/// A round pad over two plates, of which the second lies where the first has its image.
Document differential(bool solid, bool mirrored)
{
    Document d;
    d.add("space", {{"type", solid ? "solid" : "plane"}});
    if (solid) {
        d.add("box", {{"name", "gap"}, {"width", "20 mm"}, {"length", "6 mm"}, {"height", "6 mm"}});
        d.add(
            "cylinder",
            {{"name", "left"}, {"radius", "1 mm"}, {"height", "2 mm"}, {"at", "-4 mm, 0.5 mm, 0"}});
        d.add(
            "cylinder",
            {{"name", "right"}, {"radius", "1 mm"}, {"height", "2 mm"}, {"at", "4 mm, 0.5 mm, 0"}});
    } else {
        d.add("rectangle", {{"name", "gap"}, {"width", "20 mm"}, {"height", "6 mm"}});
        d.add("disc", {{"name", "left"}, {"radius", "1 mm"}, {"at", "-4 mm, 0.5 mm"}});
        d.add("disc", {{"name", "right"}, {"radius", "1 mm"}, {"at", "4 mm, 0.5 mm"}});
    }
    d.add("material", {{"material", "air"}, {"in", "gap"}});
    for (const char* name : {"left", "right"})
        d.add(
            "electrode",
            {{"name", name == std::string("left") ? "L" : "R"}, {"voltage", "0 V"}, {"on", name}});
    d.add("electrode", {{"name", "P"}, {"voltage", "1 V"}, {"on", "gap.top"}});
    d.add("outer edge", {{"is", "insulated"}});
    d.add("mesh", mirrored ? std::map<std::string, std::string>{{"mirrored", "x = 0"}}
                           : std::map<std::string, std::string>{});
    d.add("limits", {{"passes", "3"}});
    for (const char* name : {"L", "R"})
        d.add("capacitance", {{"from", "P"}, {"to", name}, {"within", "0.01 %"}});
    return d;
}

}  // namespace

void TstRun::mirroredMeshes_data()
{
    QTest::addColumn<bool>("solid");
    QTest::newRow("plane") << false;
    QTest::newRow("solid") << true;
}

void TstRun::mirroredMeshes()
{
    // Two sides that are each other's image come out equal to what iterations leave, after every
    // refinement; with a mesh of its own each side has its own error.
    QFETCH(bool, solid);
    double off[2];
    for (const bool mirrored : {false, true}) {
        run::Outcome outcome{};
        const auto r = solved(differential(solid, mirrored), outcome);
        QVERIFY2(r.report.faults.empty(),
                 r.report.faults.empty() ? "" : r.report.faults[0].text.c_str());
        const auto& f = r.report.findings;
        off[mirrored] = std::abs(f[0].value[0] / f[1].value[0] - 1);
        QVERIFY(off[mirrored] < 0.02);
        if (mirrored)
            QCOMPARE(r.report.mesh.triangles % 2, 0);
    }
    QVERIFY2(off[1] < 1e-7, qPrintable(QString::number(off[1])));
    QVERIFY2(off[1] < 0.1 * off[0], qPrintable(QString::number(off[0])));
}

void TstRun::whatIsNotSymmetricIsNotMirrored()
{
    for (const bool solid : {false, true}) {
        Document d = differential(solid, true);
        for (auto& l : d.lines)
            if (l.name() == "left")
                l.values["radius"] = "1.1 mm";
        run::Outcome outcome{};
        const auto r = solved(d, outcome);
        QCOMPARE(r.report.faults.size(), size_t(1));
        QCOMPARE(r.report.faults[0].number, 4007);
        QVERIFY(QString::fromStdString(r.report.faults[0].text).contains("not the same"));
    }
}

void TstRun::planesOfMirroredMeshes()
{
    // A ring capacitor round an axis may be mirrored about z = 0; other planes mean nothing there.
    for (const char* at : {"z = 0", "x = 0"}) {
        Document d;
        d.add("space", {{"type", "axisymmetric"}});
        d.add("rectangle",
              {{"name", "gap"}, {"width", "1 mm"}, {"height", "8 mm"}, {"at", "2.5 mm, 0"}});
        d.add("material", {{"material", "vacuum"}, {"in", "gap"}});
        d.add("electrode", {{"name", "A"}, {"voltage", "1 V"}, {"on", "gap.left"}});
        d.add("electrode", {{"name", "B"}, {"voltage", "0 V"}, {"on", "gap.right"}});
        d.add("outer edge", {{"is", "insulated"}});
        d.add("mesh", {{"mirrored", at}});
        d.add("capacitance", {{"from", "A"}, {"to", "B"}, {"within", "0.1 %"}});
        run::Outcome outcome{};
        const auto r = solved(d, outcome);
        if (at[0] == 'x') {
            QCOMPARE(r.report.faults.size(), size_t(1));
            QCOMPARE(r.report.faults[0].number, 7071);
            continue;
        }
        QVERIFY(r.report.faults.empty());
        const double exact = 2 * 3.14159265358979 * 8.8541878128e-12 * 8e-3 / std::log(1.5);
        QVERIFY(std::abs(r.report.findings[0].value[0] / exact - 1) < 1e-4);
        QCOMPARE(r.report.mesh.triangles % 2, 0);
    }
}

void TstRun::singularEdgesOfSolids_data()
{
    QTest::addColumn<QString>("what");
    QTest::addColumn<QString>("grows");
    // E grows as r^(pi / angle - 1) at a metal edge of that angle of field (Jackson, section 2.11).
    QTest::newRow("bar in a tank: 270 degrees") << "bar"
                                                << "r^-0.33";
    QTest::newRow("thin sheet: 360 degrees") << "sheet"
                                             << "r^-0.50";
    QTest::newRow("plain tank: none") << "plain"
                                      << "";
}

void TstRun::singularEdgesOfSolids()
{
    QFETCH(QString, what);
    QFETCH(QString, grows);
    Document d;
    d.add("space", {{"type", "solid"}});
    d.add("box", {{"name", "tank"}, {"width", "8 mm"}, {"length", "8 mm"}, {"height", "8 mm"}});
    if (what == "bar")
        d.add("box", {{"name", "bar"},
                      {"width", "2 mm"},
                      {"length", "2 mm"},
                      {"height", "2 mm"},
                      {"at", "0, 0, 3 mm"}});
    if (what == "sheet")
        d.add("rectangle",
              {{"name", "bar"}, {"width", "4 mm"}, {"height", "4 mm"}, {"at", "0, 0, 4 mm"}});
    d.add("material", {{"material", "air"}, {"in", "tank"}});
    d.add("electrode",
          {{"name", "A"}, {"voltage", "1 V"}, {"on", what == "plain" ? "tank.top" : "bar"}});
    d.add("electrode", {{"name", "B"}, {"voltage", "0 V"}, {"on", "tank.bottom"}});
    d.add("outer edge", {{"is", "insulated"}});
    d.add("limits", {{"passes", "1"}});
    d.add("capacitance", {{"from", "A"}, {"to", "B"}, {"within", "20 %"}});
    d.add("largest field", {{"in", "tank"}, {"within", "20 %"}});
    run::Outcome outcome{};
    const auto r = solved(d, outcome);
    QVERIFY2(r.report.faults.empty(),
             r.report.faults.empty() ? "" : r.report.faults[0].text.c_str());
    QString said;
    for (const auto& c : r.report.checks)
        if (c.id == "sharp corners")
            said = QString::fromStdString(c.text);
    QCOMPARE(said.isEmpty(), grows.isEmpty());
    QVERIFY2(said.contains(grows), qPrintable(said));
    QCOMPARE(r.report.findings[1].noLimit, !grows.isEmpty());
}

void TstRun::sameTwice()
{
    run::Outcome outcome{};
    const double a = solved(coaxWithParameter(), outcome).report.findings[0].value[0],
                 b = solved(coaxWithParameter(), outcome).report.findings[0].value[0];
    QCOMPARE(a, b);
}

YH_TEST(TstRun)

}  // namespace tst_run

#include "tst_run.moc"
