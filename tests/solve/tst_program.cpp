// The headless program as others see it: exit status, report, faults, serving, cancelling.
#include "program.h"

#include <QtTest/QtTest>

#include <sys/resource.h>
#include <sys/stat.h>
#include <QDir>
#include <QDirIterator>
#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>
#include <cmath>
#include <csignal>

namespace tst_program {

namespace {

const QByteArray coax = R"({"yellowhorn sheet": 1, "lines": [
{"line": "parameter", "name": "b", "value": "2 mm"},
{"line": "space", "type": "plane", "depth": "1 m"},
{"line": "disc", "name": "gap", "radius": "b"},
{"line": "disc", "name": "core", "radius": "1 mm"},
{"line": "material", "material": "vacuum", "in": "gap"},
{"line": "electrode", "name": "A", "voltage": "1 V", "on": "core"},
{"line": "electrode", "name": "B", "voltage": "0 V", "on": "gap.outer"},
{"line": "outer edge", "is": "insulated"},
{"line": "capacitance", "from": "A", "to": "B", "within": "0.1 %"}
]})";

// Jackson, Classical Electrodynamics, 3rd ed., problem 1.6 (from memory).
double coaxial(double ratio)
{
    return 2 * 3.14159265358979323846 * 8.8541878128e-12 / std::log(ratio);
}

struct Run
{
    int status = -1;
    QByteArray out, err;
};

Run run(const QStringList& arguments)
{
    QProcess p;
    p.start(QString::fromLatin1(YH_SOLVER), arguments);
    p.waitForFinished(60000);
    return {p.exitStatus() == QProcess::NormalExit ? p.exitCode() : -2, p.readAllStandardOutput(),
            p.readAllStandardError()};
}

}  // namespace

class TstProgram : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void init();
    void solvesAndReports();
    void setsParameters();
    void strictlyReadsWords();
    void storesAFolder();
    void missedAsk();
    void noErrorFromOneOrderAndPass();
    void proposesKindsOfPlanes_data();
    void proposesKindsOfPlanes();
    void metIsSaidOnlyWhereSomethingIsAsked();
    void threadsWaitPassively_data();
    void threadsWaitPassively();
    void wrongSheets_data();
    void wrongSheets();
    void wrongCalls();
    void singularProblem();
    void folderThatCannotBeWritten();
    void sweepTable();
    void serveAnswers();
    void serveCancels();
    void serveCancelsWhatWaits();
    void serveOutlivesWrongRequests();
    void bytesThatAreNoTextStayInTheirReport();
    void fullOutputIsSaid();
    void linksBesideResultsAreNotFollowed();
    void resultsChangePlacesWhole();
    void killedRunsLeaveTheOldResults();

private:
    QString write(const QByteArray& text, const QString& name = QStringLiteral("a.yhn"));
    static QByteArray with(const QByteArray& line)
    {
        return QByteArray(coax).replace("\n]}", ",\n" + line + "\n]}");
    }
    std::unique_ptr<QTemporaryDir> m_dir;
};

void TstProgram::init()
{
    m_dir = std::make_unique<QTemporaryDir>();
}

QString TstProgram::write(const QByteArray& text, const QString& name)
{
    QFile f(m_dir->filePath(name));
    f.open(QIODevice::WriteOnly);
    f.write(text);
    return f.fileName();
}

void TstProgram::solvesAndReports()
{
    const Run r = run({write(coax), "--json"});
    QCOMPARE(r.status, 0);
    const QJsonObject j = QJsonDocument::fromJson(r.out).object();
    const QJsonObject f = j["findings"][0].toObject();
    QCOMPARE(f["name"].toString(), QString("capacitance A to B"));
    QCOMPARE(f["unit"].toString(), QString("F"));
    QVERIFY(std::abs(f["value"].toDouble() / coaxial(2) - 1) < 1e-3);
    QVERIFY(f["error"].toDouble() > 0 && f["error"].toDouble() < 1e-3 * f["value"].toDouble());
    QCOMPARE(f["ask"]["within"].toDouble(), 0.001);
    QVERIFY(f["met"].toBool());
    for (const char* key :
         {"checks", "passes", "mesh", "seconds", "peak_bytes", "version", "sheet_hash"})
        QVERIFY2(j.contains(key), key);
    QVERIFY(j["passes"].toArray().size() >= 2);
    QCOMPARE(j["checks"][0]["state"].toString(), QString("good"));
}

void TstProgram::setsParameters()
{
    const QString sheet = write(coax);
    const Run r = run({sheet, "--json", "--set", "b=3mm"});
    QCOMPARE(r.status, 0);
    QVERIFY(
        std::abs(QJsonDocument::fromJson(r.out)["findings"][0]["value"].toDouble() / coaxial(3) -
                 1) < 1e-3);
    const Run unknown = run({sheet, "--set", "c=3mm"});
    QCOMPARE(unknown.status, 2);
    QVERIFY(unknown.err.contains("fault 7310: the sheet has no parameter 'c' that could be set"));
    const Run slip = run({sheet, "--set", "b=3 V"});
    QCOMPARE(slip.status, 2);
    QVERIFY(slip.err.contains("3 V is a voltage; a length is expected"));
}

void TstProgram::strictlyReadsWords()
{
    const QString sheet = write(with(R"({"line": "limits", "pases": "3"})"));
    const Run loose = run({sheet, "--quiet"});
    QCOMPARE(loose.status, 0);
    QVERIFY(loose.out.contains("did you mean 'passes'?"));
    const Run strict = run({sheet, "--quiet", "--json", "--strict"});
    QCOMPARE(strict.status, 2);
    QVERIFY(strict.err.contains("did you mean 'passes'?"));
    QCOMPARE(QJsonDocument::fromJson(strict.out)["faults"][0]["number"].toInt(), 2013);
    QCOMPARE(run({write(coax), "--quiet", "--strict"}).status, 0);
    // What is no sheet is a report too.
    const Run broken = run({write("{\"lines\": ["), "--json"});
    QCOMPARE(broken.status, 2);
    QCOMPARE(QJsonDocument::fromJson(broken.out)["faults"][0]["number"].toInt(), 1201);
}

void TstProgram::storesAFolder()
{
    const QString sheet = write(with(R"({"line": "profile", "from": "1 mm, 0", "to": "2 mm, 0"})"));
    QCOMPARE(run({sheet, "--quiet"}).status, 0);
    const QDir out(m_dir->filePath("a.results"));
    for (const char* f : {"run.json", "fields/electrostatic.vtu", "fields/lines.json",
                          "tables/findings.csv", "tables/profile-1.csv"})
        QVERIFY2(out.exists(f), f);
    QFile csv(out.filePath("tables/profile-1.csv"));
    QVERIFY(csv.open(QIODevice::ReadOnly));
    const QList<QByteArray> rows = csv.readAll().split('\n');
    QCOMPARE(rows[0],
             QByteArray("distance (m),x (m),y (m),V (V),E_x (V/m),E_y (V/m),|E| (V/m),D_x (C/m^2),"
                        "D_y (C/m^2),|D| (C/m^2),energy density (J/m^3)"));
    const QList<QByteArray> middle = rows[100].split(',');
    const double x = middle[1].toDouble();
    QVERIFY(std::abs(middle[3].toDouble() - std::log(2e-3 / x) / std::log(2.0)) < 1e-4);
    QVERIFY(std::abs(middle[6].toDouble() * x * std::log(2.0) - 1) < 2e-3);
}

void TstProgram::missedAsk()
{
    const Run r = run(
        {write(with(R"({"line": "largest field", "in": "gap", "below": "1 V/mm"})")), "--json"});
    QCOMPARE(r.status, 1);
    const QJsonObject f = QJsonDocument::fromJson(r.out)["findings"][1].toObject();
    QVERIFY(!f["met"].toBool());
    QVERIFY(std::abs(f["value"].toDouble() * 1e-3 * std::log(2.0) - 1) < 0.02);  // V / (a ln 2)
}

// A coaxial disc had claimed 61.4295 pF to 0.0039 pF and "met", where 60.7149 pF is exact.
void TstProgram::noErrorFromOneOrderAndPass()
{
    const QByteArray coarse =
        R"({"line": "mesh", "order": "1"}, {"line": "limits", "passes": "1"})";
    const Run r = run({write(with(coarse)), "--json"});
    QCOMPARE(r.status, 1);
    const QJsonObject f = QJsonDocument::fromJson(r.out)["findings"][0].toObject();
    QVERIFY(f["value"].toDouble() > 0);
    QVERIFY(f["error"].isNull());
    QVERIFY(f.contains("met") && !f["met"].toBool());
    QCOMPARE(f["note"].toString(),
             QString("no ±: one pass of one order; allow a second pass or a higher order"));
    // A second pass is a second estimate.
    const Run two = run({write(with(R"({"line": "mesh", "order": "1"},
        {"line": "limits", "passes": "2"})")),
                         "--json"});
    const QJsonObject g = QJsonDocument::fromJson(two.out)["findings"][0].toObject();
    QVERIFY(std::abs(g["value"].toDouble() - coaxial(2)) < g["error"].toDouble());
    QVERIFY(!g.contains("note"));
}

void TstProgram::proposesKindsOfPlanes_data()
{
    QTest::addColumn<QByteArray>("lines");
    QTest::addColumn<QString>("said");
    const QByteArray
        block = R"({"line": "space", "type": "solid"},
        {"line": "box", "name": "block", "width": "4 mm", "length": "2 mm", "height": "1 mm"},
        {"line": "material", "material": "copper", "in": "block"},)",
        plate = R"({"line": "rectangle", "name": "block", "width": "4 mm", "height": "2 mm"},
        {"line": "material", "material": "copper", "in": "block"},)",
        heat = R"({"line": "held temperature", "name": "a", "value": "300 K", "on": "block.left"},
        {"line": "held temperature", "name": "b", "value": "%1", "on": "block.right"},
        {"line": "heat source", "name": "s", "power": "1 W", "in": "block"},
        {"line": "highest temperature", "in": "block"},)",
        current = R"({"line": "contact", "name": "a", "voltage": "1 V", "on": "block.left"},
        {"line": "contact", "name": "b", "voltage": "%1", "on": "block.right"},
        {"line": "current", "of": "a"},)";
    const QString even = "the device is even about this plane: choose even",
                  odd = "the device is odd about this plane: choose odd",
                  none = "the device is not its own mirror image about this plane";
    auto with = [](QByteArray lines, const char* value) { return lines.replace("%1", value); };
    // These had ended the solver: a solid was taken for a face.
    QTest::newRow("solid, heat") << block + with(heat, "300 K") << even;
    QTest::newRow("solid, current, odd") << block + with(current, "-1 V") << odd;
    QTest::newRow("solid, current, even") << block + with(current, "1 V") << even;
    QTest::newRow("solid, neither") << block + with(current, "0 V") << none;
    // These had been judged as if they were about an electrostatic field.
    QTest::newRow("plane, heat") << plate + with(heat, "300 K") << even;
    QTest::newRow("plane, heat, neither") << plate + with(heat, "301 K") << none;
    QTest::newRow("plane, current, odd") << plate + with(current, "-1 V") << odd;
}

void TstProgram::proposesKindsOfPlanes()
{
    QFETCH(QByteArray, lines);
    QFETCH(QString, said);
    const QString sheet = write("{\"yellowhorn sheet\": 1, \"lines\": [" + lines +
                                R"({"line": "mirror plane", "at": "x = 0"}]})");
    // The window asks for the shape of a sheet that is not complete.
    QProcess p;
    p.start(QString::fromLatin1(YH_SOLVER), {"--serve"});
    QFile file(sheet);
    QVERIFY(file.open(QIODevice::ReadOnly));
    p.write(
        QJsonDocument(
            QJsonObject{{"do", "shape"}, {"id", 1}, {"sheet", QString::fromUtf8(file.readAll())}})
            .toJson(QJsonDocument::Compact) +
        '\n');
    p.closeWriteChannel();
    QVERIFY(p.waitForFinished(30000));
    QCOMPARE(p.exitStatus(), QProcess::NormalExit);
    const QByteArray told = p.readAllStandardOutput();
    QVERIFY2(told.contains(said.toUtf8()), told.constData());
}

void TstProgram::metIsSaidOnlyWhereSomethingIsAsked()
{
    const Run r =
        run({write(with(R"({"line": "profile", "from": "1 mm, 0", "to": "2 mm, 0"})")), "--json"});
    const QJsonArray list = QJsonDocument::fromJson(r.out)["findings"].toArray();
    QVERIFY(list[0].toObject().contains("met"));
    QVERIFY(!list[1].toObject().contains("met"));
}

void TstProgram::threadsWaitPassively_data()
{
    QTest::addColumn<QStringList>("environment");
    QTest::addColumn<QByteArray>("policy");
    QTest::newRow("from a shell") << QStringList{"_=/bin/x", "PATH=/usr/bin"}
                                  << QByteArray("PASSIVE");
    QTest::newRow("nothing to lend") << QStringList{"ANY=1"} << QByteArray("PASSIVE");
    QTest::newRow("stated otherwise")
        << QStringList{"PATH=/usr/bin", "OMP_WAIT_POLICY=active"} << QByteArray("ACTIVE");
}

// The OpenMP library tells its settings where it is asked to.
void TstProgram::threadsWaitPassively()
{
    QFETCH(QStringList, environment);
    QFETCH(QByteArray, policy);
    QProcess p;
    p.setEnvironment(environment + QStringList{"OMP_DISPLAY_ENV=TRUE"});
    p.start(QString::fromLatin1(YH_SOLVER), {"--help"});
    QVERIFY(p.waitForFinished(20000));
    const QByteArray told = p.readAllStandardError();
    // Started anew, it tells them twice; the last one counts.
    const auto at = told.lastIndexOf("OMP_WAIT_POLICY = '");
    QVERIFY2(at >= 0 && told.mid(at).startsWith("OMP_WAIT_POLICY = '" + policy), told.constData());
}

void TstProgram::wrongSheets_data()
{
    QTest::addColumn<QByteArray>("sheet");
    QTest::addColumn<QByteArray>("message");
    auto row = [](const char* name, const QByteArray& from, const QByteArray& to,
                  const QByteArray& message) {
        QTest::newRow(name) << QByteArray(coax).replace(from, to) << message;
    };
    QTest::newRow("broken JSON")
        << coax.left(200)
        << QByteArray("this is not a sheet: the JSON breaks off or goes wrong at line ");
    row("NaN", "\"2 mm\"", "\"nan\"", "'nan' is not known");
    row("unit slip", "\"radius\": \"1 mm\"", "\"radius\": \"1 V\"",
        "fault 2001: line 4 (core disc radius 1 V at 0, 0), radius: 1 V is a voltage; a length is "
        "expected");
    row("no material", "{\"line\": \"material\", \"material\": \"vacuum\", \"in\": \"gap\"},\n", "",
        "region 'gap' has no material: add a line such as `air in gap`");
    row("material without permittivity", "\"vacuum\"", "\"unobtainium\"",
        "'unobtainium' is not in the library: its permittivity ε is missing");
    row("place picks nothing", "\"gap.outer\"", "\"on line x = 1 m\"",
        "'on line x = 1 m' picks nothing: it is painted over, cut away or used up");
    row("short circuit", "\"gap.outer\"", "\"edges of core\"",
        "conductors A and B touch each other: a short circuit");
    row("voltage and charge", "\"voltage\": \"1 V\"", "\"voltage\": \"3 V\", \"charge\": \"5 C\"",
        "electrode A is given 3 V and 5 C; state one of them");
    row("impossible shape", "\"disc\", \"name\": \"gap\", \"radius\": \"b\"",
        "\"ring\", \"name\": \"gap\", \"inner\": \"b\", \"outer\": \"1 mm\"",
        "the outer radius 1 mm is not larger than the inner one, 2 mm");
    row("missing file", "{\"line\": \"disc\", \"name\": \"gap\", \"radius\": \"b\"}",
        "{\"line\": \"import\", \"name\": \"gap\", \"file\": \"no.dxf\"}",
        "no.dxf is not there or cannot be opened");
    row("largest field in a conductor", "\"capacitance\", \"from\": \"A\", \"to\": \"B\"",
        "\"largest field\", \"in\": \"core\"", "'core' is a conductor: its field is zero");
}

void TstProgram::wrongSheets()
{
    QFETCH(QByteArray, sheet);
    QFETCH(QByteArray, message);
    const Run r = run({write(sheet), "--quiet"});
    QCOMPARE(r.status, 2);
    QVERIFY2(r.err.contains(message), r.err.constData());
}

void TstProgram::wrongCalls()
{
    QCOMPARE(run({}).status, 2);
    QCOMPARE(run({"a.yhn", "--frob"}).status, 2);
    QCOMPARE(run({"a.yhn", "b.yhn"}).status, 2);
    QCOMPARE(run({"--help"}).status, 0);
    const Run none = run({m_dir->filePath("none.yhn")});
    QCOMPARE(none.status, 2);
    QVERIFY(none.err.contains("none.yhn cannot be opened: No such file or directory"));
}

void TstProgram::singularProblem()
{
    // No conductor has a potential: nothing fixes the level.
    const Run r = run({write(QByteArray(coax)
                                 .replace("\"voltage\": \"1 V\"", "\"charge\": \"1 nC\"")
                                 .replace("\"voltage\": \"0 V\"", "\"charge\": \"-1 nC\"")),
                       "--quiet"});
    QCOMPARE(r.status, 3);
    QVERIFY(
        r.err.contains("no conductor has a given potential: all potentials are undefined; give one "
                       "electrode a voltage"));
    // A region that no conductor reaches.
    const Run island = run({write(QByteArray(coax).replace(
                                "{\"line\": \"material\"",
                                "{\"line\": \"disc\", \"name\": \"island\", \"radius\": \"1 mm\", "
                                "\"at\": \"9 mm, 0\"},\n{\"line\": \"material\", \"material\": "
                                "\"air\", \"in\": \"island\"},\n{\"line\": \"material\"")),
                            "--quiet"});
    QCOMPARE(island.status, 3);
    QVERIFY2(island.err.contains("no conductor touches the part of the field in 'island'"),
             island.err.constData());
}

void TstProgram::folderThatCannotBeWritten()
{
    const Run r = run({write(coax), "--quiet", "--out", "/proc/nowhere"});
    QCOMPARE(r.status, 3);
    QVERIFY2(r.err.contains("fault 7201: the result folder /proc/nowhere cannot be made"),
             r.err.constData());
    // A limit on the size of files stands for a disk that takes nothing more.
    QProcess p;
    p.setChildProcessModifier([] {
        const rlimit least{500, 500};
        setrlimit(RLIMIT_FSIZE, &least);
    });
    p.start(QString::fromLatin1(YH_SOLVER),
            {write(coax), "--quiet", "--out", m_dir->filePath("full")});
    QVERIFY(p.waitForFinished(60000));
    QCOMPARE(p.exitStatus(), QProcess::NormalExit);
    QCOMPARE(p.exitCode(), 3);
    const QByteArray said = p.readAllStandardError();
    QVERIFY2(said.contains("fault 7202") && said.contains("cannot be written"), said.constData());
    QDirIterator left(m_dir->filePath("full"), {"*.part"}, QDir::Files,
                      QDirIterator::Subdirectories);
    QVERIFY2(!left.hasNext(), "a part of a file stays");
}

void TstProgram::sweepTable()
{
    const QString sheet = write(with(
        R"({"line": "sweep", "parameter": "b", "from": "1.5 mm", "to": "6 mm", "steps": "3", "spacing": "by equal ratios"})"));
    const Run r = run({sheet, "--json"});
    QCOMPARE(r.status, 0);
    const QJsonArray points = QJsonDocument::fromJson(r.out)["points"].toArray();
    QCOMPARE(points.size(), 3);
    const double b[] = {1.5e-3, 3e-3, 6e-3};
    for (int i = 0; i < 3; ++i) {
        QVERIFY(std::abs(points[i]["parameters"][0].toDouble() / b[i] - 1) < 1e-12);
        QVERIFY(std::abs(points[i]["findings"][0]["value"].toDouble() / coaxial(b[i] / 1e-3) - 1) <
                1e-3);
    }
    QFile csv(m_dir->filePath("a.results/tables/sweep.csv"));
    QVERIFY(csv.open(QIODevice::ReadOnly));
    QCOMPARE(csv.readAll().count('\n'), 4);
    // A point that cannot be (b below the core) does not cost the others.
    const Run some = run(
        {write(QByteArray(with(
             R"({"line": "sweep", "parameter": "b", "from": "-1 mm", "to": "3 mm", "steps": "2"})"))),
         "--json"});
    QCOMPARE(some.status, 1);
    const QJsonArray two = QJsonDocument::fromJson(some.out)["points"].toArray();
    QVERIFY(two[0]["findings"][0]["value"].isNull());
    QVERIFY(std::abs(two[1]["findings"][0]["value"].toDouble() / coaxial(3) - 1) < 1e-3);
}

void TstProgram::serveAnswers()
{
    QProcess p;
    p.start(QString::fromLatin1(YH_SOLVER), {"--serve"});
    auto ask = [&](const QByteArray& line) { p.write(line + '\n'); };
    auto until = [&](const QString& what) {
        QElapsedTimer clock;
        for (clock.start(); clock.elapsed() < 30000;) {
            while (p.canReadLine()) {
                const QJsonObject e = QJsonDocument::fromJson(p.readLine()).object();
                if (e["event"].toString() == what)
                    return e;
            }
            p.waitForReadyRead(100);
        }
        return QJsonObject();
    };
    QVERIFY(!until("ready").isEmpty());
    ask("this is not JSON");
    QVERIFY(!until("failed").isEmpty());
    ask(R"({"do": "dance", "id": 4})");
    QCOMPARE(until("failed")["id"].toInt(), 4);
    QJsonObject shape{{"do", "shape"},
                      {"id", 5},
                      {"sheet", QString::fromUtf8(coax)},
                      {"ids", QJsonArray{11, 12, 13, 14, 15, 16, 17, 18, 19}}};
    ask(QJsonDocument(shape).toJson(QJsonDocument::Compact));
    const QJsonObject e = until("shape");
    QCOMPARE(e["faces"].toArray().size(), 2);
    QCOMPARE(e["faults"].toArray().size(), 0);
    QCOMPARE(e["places"]["16"]["on"]["faces"].toArray().size(), 1);
    ask(R"({"do": "probe", "id": 7, "at": [[0, 0]]})");
    QVERIFY(until("failed")["faults"][0]["text"].toString().startsWith("nothing is solved"));
    QJsonObject mesh = shape;
    mesh["do"] = "mesh";
    mesh["out"] = m_dir->filePath("meshed");
    ask(QJsonDocument(mesh).toJson(QJsonDocument::Compact));
    const QJsonObject facts = until("mesh");
    QVERIFY(facts["triangles"].toInt() > 20);
    QVERIFY(facts["worst_quality"].toDouble() > 0.3);
    QVERIFY(QFile::exists(m_dir->filePath("meshed/fields/mesh.vtu")));
    QJsonObject solve = shape;
    solve["do"] = "solve";
    solve["id"] = 6;
    solve["out"] = m_dir->filePath("served");
    ask(QJsonDocument(solve).toJson(QJsonDocument::Compact));
    QVERIFY(until("done")["met"].toBool());
    QVERIFY(QFile::exists(m_dir->filePath("served/run.json")));
    // V = ln(b/r) / ln(b/a), E = 1 V / (r ln(b/a)); inside the core there is no field.
    ask(R"({"do": "probe", "id": 8, "at": [[0.0015, 0], [0, 0.0004]]})");
    const QJsonArray readings = until("probe")["readings"].toArray();
    QVERIFY(std::abs(readings[0]["V"]["value"].toDouble() / (std::log(2 / 1.5) / std::log(2.0)) -
                     1) < 1e-3);
    QCOMPARE(readings[0]["E"]["unit"].toString(), QString("V/m"));
    QVERIFY(std::abs(readings[0]["E"]["value"][0].toDouble() * 1.5e-3 * std::log(2.0) - 1) < 1e-2);
    QVERIFY(readings[1].toObject().isEmpty());
    p.closeWriteChannel();
    QVERIFY(p.waitForFinished(5000));
    QCOMPARE(p.exitCode(), 0);
}

void TstProgram::serveCancels()
{
    QProcess p;
    p.start(QString::fromLatin1(YH_SOLVER), {"--serve"});
    QByteArray hard = QByteArray(coax)
                          .replace("0.1 %", "0.0000000001 %")
                          .replace("\n]}",
                                   ",\n{\"line\": \"limits\", \"passes\": \"40\", \"unknowns\": "
                                   "\"50000000\", \"seconds\": \"600 s\"}\n]}");
    QJsonObject solve{{"do", "solve"}, {"id", 1}, {"sheet", QString::fromUtf8(hard)}};
    p.write(QJsonDocument(solve).toJson(QJsonDocument::Compact) + '\n');
    QTest::qWait(1200);
    QElapsedTimer clock;
    clock.start();
    p.write("{\"do\":\"cancel\"}\n");
    QByteArray out;
    while (clock.elapsed() < 20000 && !out.contains("\"cancelled\"")) {
        p.waitForReadyRead(50);
        out += p.readAllStandardOutput();
    }
    QVERIFY(out.contains("\"cancelled\""));
    p.kill();
    p.waitForFinished();
}

/// What the program in --serve answers to these lines until it ends.
QByteArray answersTo(const QByteArray& requests)
{
    QProcess p;
    p.start(QString::fromLatin1(YH_SOLVER), {"--serve"});
    p.write(requests);
    p.closeWriteChannel();
    if (!p.waitForFinished(30000) || p.exitStatus() != QProcess::NormalExit)
        return "no end: " + p.readAllStandardError();
    return p.readAllStandardOutput();
}

void TstProgram::serveCancelsWhatWaits()
{
    // The second waits behind the first when both are cancelled at once.
    const QByteArray hard = QByteArray(coax).replace("0.1 %", "0.0000000001 %");
    QByteArray lines;
    for (const int id : {1, 2})
        lines += QJsonDocument(
                     QJsonObject{{"do", "solve"}, {"id", id}, {"sheet", QString::fromUtf8(hard)}})
                     .toJson(QJsonDocument::Compact) +
                 '\n';
    for (int i = 0; i < 5; ++i) {
        const QByteArray out = answersTo(lines + "{\"do\": \"cancel\"}\n");
        QCOMPARE(out.count("\"cancelled\""), 2);
        QVERIFY(!out.contains("\"done\""));
    }
}

void TstProgram::serveOutlivesWrongRequests()
{
    const QList<QByteArray> wrong{"[]",
                                  "5",
                                  "null",
                                  "\"x\"",
                                  "{}",
                                  "{\"do\": 5}",
                                  "{\"do\": \"solve\", \"id\": \"x\"}",
                                  "{\"do\": \"solve\", \"id\": {\"a\": 1}}",
                                  "{\"do\": \"mesh\", \"folder\": []}",
                                  "{\"do\": \"step\", \"sheet\": 7}",
                                  "{\"do\": \"solve\", \"sheet\": \"\", \"ids\": 5}",
                                  "{\"do\": \"probe\", \"at\": 5}",
                                  "{\"do\": \"dance\"}",
                                  QByteArray(200000, '[')};
    const QByteArray out = answersTo(wrong.join('\n') + '\n');
    QCOMPARE(out.count("\"failed\""), wrong.size());
}

void TstProgram::bytesThatAreNoTextStayInTheirReport()
{
    const QString sheet = m_dir->filePath("bytes.yhn");
    QFile file(sheet);
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write(QByteArray(coax).replace("\"2 mm\"", "\"(1)\xc2\xb5\""));
    file.close();
    const Run r = run({sheet, "--json"});
    QCOMPARE(r.status, 2);
    QJsonParseError error;
    QJsonDocument::fromJson(r.out, &error);
    QCOMPARE(error.error, QJsonParseError::NoError);
    QVERIFY(r.out.contains("'\xc2\xb5' is not expected here"));
}

void TstProgram::fullOutputIsSaid()
{
    const QString sheet = m_dir->filePath("full.yhn");
    QFile file(sheet);
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write(coax);
    file.close();
    QProcess p;
    p.setStandardOutputFile("/dev/full");
    p.start(QString::fromLatin1(YH_SOLVER), {sheet, "--quiet"});
    QVERIFY(p.waitForFinished(60000));
    QCOMPARE(p.exitCode(), 3);
    QVERIFY(p.readAllStandardError().contains("the findings cannot be written"));
}

void TstProgram::linksBesideResultsAreNotFollowed()
{
    const QString sheet = m_dir->filePath("link.yhn"), other = m_dir->filePath("other");
    for (const auto& [path, text] :
         {std::pair(sheet, coax), std::pair(other, QByteArray("mine"))}) {
        QFile file(path);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(text);
    }
    QVERIFY(QDir(m_dir->path()).mkpath("link.results/fields"));
    const QStringList planted{"link.results/run.json.part",
                              "link.results/fields/electrostatic.vtu.part"};
    for (const QString& path : planted)
        QVERIFY(QFile::link(other, m_dir->filePath(path)));
    QCOMPARE(run({sheet, "--quiet"}).status, 0);
    QFile file(other);
    QVERIFY(file.open(QIODevice::ReadOnly));
    QCOMPARE(file.readAll(), QByteArray("mine"));
    for (const QString& path : planted) {
        QVERIFY(!QFileInfo(m_dir->filePath(path)).isSymLink());
        QVERIFY2(QFile::exists(m_dir->filePath(path).chopped(5)), qPrintable(path));
    }
}

namespace {

QByteArray contentsOf(const QString& path)
{
    QFile file(path);
    return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
}

/// Folders that runs which have not ended, or were killed, keep beside their results.
QStringList underWay(const QDir& folder)
{
    return folder.entryList({"*.under-way-*"}, QDir::Dirs);
}

}  // namespace

void TstProgram::resultsChangePlacesWhole()
{
    const QString out = m_dir->filePath("c.results");
    const QByteArray profile =
        R"({"line": "profile", "from": "-1.9 mm, 0", "to": "-1.1 mm, 0", "count": "5"})";
    QCOMPARE(run({write(with(profile), "c.yhn"), "--quiet"}).status, 0);
    QVERIFY(QFile::exists(out + "/tables/profile-1.csv"));
    // What a run wrote goes with it; what is somebody's own stays.
    write("mine", "c.results/notes.txt");
    write("mine", "c.results/tables/measured.csv");
    QVERIFY(QFile::link(m_dir->filePath("c.yhn"), out + "/a link"));
    const QFile::Permissions mine = QFile::ReadOwner | QFile::WriteOwner | QFile::ExeOwner;
    QVERIFY(QFile::setPermissions(out, mine));
    QCOMPARE(run({write(coax, "c.yhn"), "--quiet"}).status, 0);
    QVERIFY(!QFile::exists(out + "/tables/profile-1.csv"));
    QVERIFY(!(QFile::permissions(out) & (QFile::ReadGroup | QFile::ReadOther)));
    for (const char* own : {"/notes.txt", "/tables/measured.csv"})
        QCOMPARE(contentsOf(out + own), QByteArray("mine"));
    QVERIFY(QFileInfo(out + "/a link").isSymLink());
    for (const QJsonValue& name :
         QJsonDocument::fromJson(contentsOf(out + "/run.json"))["files"].toArray())
        QVERIFY2(QFile::exists(out + '/' + name.toString()), qPrintable(name.toString()));
    // A sheet that is wrong leaves them too, and so does one that cannot be solved.
    const QByteArray before = contentsOf(out + "/run.json");
    QCOMPARE(run({write(QByteArray(coax).replace("vacuum", "vacum"), "c.yhn"), "--quiet"}).status,
             2);
    QCOMPARE(contentsOf(out + "/run.json"), before);
    QVERIFY(underWay(QDir(m_dir->path())).isEmpty());
    // A folder with folders of its own is no folder of results: it keeps its place.
    QVERIFY(QDir(m_dir->path()).mkpath("own/empty"));
    struct stat was
    {
    }, is{};
    const QByteArray own = m_dir->filePath("own").toLocal8Bit();
    QCOMPARE(stat(own.constData(), &was), 0);
    QCOMPARE(run({write(coax, "c.yhn"), "--quiet", "--out", m_dir->filePath("own")}).status, 0);
    QCOMPARE(stat(own.constData(), &is), 0);
    QCOMPARE(is.st_ino, was.st_ino);
    QVERIFY(QFile::exists(m_dir->filePath("own/empty")) &&
            QFile::exists(m_dir->filePath("own/run.json")));
    // Through a link: what it leads to is changed, and the link stays.
    QVERIFY(QDir(m_dir->path()).mkdir("elsewhere"));
    QVERIFY(QFile::link(m_dir->filePath("elsewhere"), m_dir->filePath("l.results")));
    QCOMPARE(run({write(coax, "l.yhn"), "--quiet"}).status, 0);
    QVERIFY(QFileInfo(m_dir->filePath("l.results")).isSymLink());
    QVERIFY(QFile::exists(m_dir->filePath("elsewhere/run.json")));
}

void TstProgram::killedRunsLeaveTheOldResults()
{
    const QString out = m_dir->filePath("k.results"), sheet = write(coax, "k.yhn");
    QCOMPARE(run({sheet, "--quiet"}).status, 0);
    auto hashed = [&] {
        QByteArray all;
        for (const char* name : {"/run.json", "/fields/electrostatic.vtu", "/fields/lines.json"})
            all += contentsOf(out + name);
        return all;
    };
    const QByteArray before = hashed();
    write(
        with(
            R"({"line": "sweep", "parameter": "b", "from": "1.5 mm", "to": "6 mm", "steps": "400"})"),
        "k.yhn");
    for (const int moment : {60, 120, 240, 400}) {
        QProcess p;
        p.start(QString::fromLatin1(YH_SOLVER), {sheet, "--quiet"});
        QVERIFY(p.waitForStarted());
        QTest::qWait(moment);
        p.kill();
        QVERIFY(p.waitForFinished());
        QCOMPARE(hashed(), before);
    }
    QVERIFY(!underWay(QDir(m_dir->path())).isEmpty());
    // The next run clears away what they had begun.
    QCOMPARE(run({write(coax, "k.yhn"), "--quiet"}).status, 0);
    QVERIFY(underWay(QDir(m_dir->path())).isEmpty());
}

YH_TEST(TstProgram)

}  // namespace tst_program

#include "tst_program.moc"
