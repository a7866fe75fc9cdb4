// The demos' findings, errors, passes and checks as they were when they were last looked at: work
// on the structure of the program must not change them. After a wanted change, YH_PIN=1 in the
// environment writes them anew; read the difference before it is committed.
//
// Rounding differs from processor to processor, and with it the last digits; on one machine figures
// are the same to the last bit (sameTwice).
#include "program.h"
#include "solved.h"

#include "sheet/document.h"

#include <QDir>
#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>

namespace tst_pins {

using namespace yh;

namespace {

const QString pinFolder = QStringLiteral(YH_SOURCE_DIR "/tests/data/pins");

/// Longer than this belongs to scripts/validate (YH_VALIDATE=1).
const QStringList slow{"beacon-whip",        "latch-solenoid", "deck-antenna", "echo-lens",
                       "echo-corner",        "light-guide",    "link-filter",  "log-wheel",
                       "relay-ring-down",    "tilt-beam",      "tilt-cup",     "turbidity-eye",
                       "turbidity-splitter", "window-heater"};

QString withoutDigits(QString s)
{
    static const QRegularExpression number(R"([0-9]+([.,][0-9]+)*(e[-+]?[0-9]+)?)");
    return s.replace(number, "#");
}

/// What is kept of a report: all but times and memory.
QJsonObject kept(const QJsonObject& report)
{
    QJsonObject o;
    QJsonArray findings, checks, passes;
    for (const QJsonValue& v : report["findings"].toArray()) {
        QJsonObject f = v.toObject();
        f.remove("line");
        findings.append(f);
    }
    for (const QJsonValue& v : report["checks"].toArray())
        checks.append(QJsonArray{v["id"], v["state"], withoutDigits(v["text"].toString())});
    for (const QJsonValue& v : report["passes"].toArray())
        passes.append(QJsonArray{v["triangles"], v["unknowns"]});
    o["findings"] = findings;
    o["checks"] = checks;
    o["passes"] = passes;
    if (report.contains("points")) {
        QJsonArray points;
        for (const QJsonValue& p : report["points"].toArray())
            points.append(kept(p.toObject()));
        o["points"] = points;
    }
    return o;
}

/// Whether two values are the same but for rounding; `error` is what the figure itself may be off.
bool same(const QJsonValue& a, const QJsonValue& b, double error, QString& where)
{
    // A thousandth of the stated error is nothing that anyone sees.
    constexpr double share = 1e-3, rounding = 1e-9;
    if (a.type() != b.type()) {
        where += " differs in kind";
        return false;
    }
    if (a.isDouble()) {
        const double off = std::abs(a.toDouble() - b.toDouble());
        if (off <= share * error + rounding * std::abs(a.toDouble()))
            return true;
        where +=
            QString(" is %1, was %2").arg(b.toDouble(), 0, 'g', 12).arg(a.toDouble(), 0, 'g', 12);
        return false;
    }
    if (a.isArray()) {
        const QJsonArray x = a.toArray(), y = b.toArray();
        if (x.size() != y.size()) {
            where += QString(" has %1 entries, had %2").arg(y.size()).arg(x.size());
            return false;
        }
        for (qsizetype i = 0; i < x.size(); ++i)
            if (QString at = where + '/' + QString::number(i); !same(x[i], y[i], error, at)) {
                where = at;
                return false;
            }
        return true;
    }
    if (a.isObject()) {
        const QJsonObject x = a.toObject(), y = b.toObject();
        if (x.keys() != y.keys()) {
            where += " has " + y.keys().join(", ") + ", had " + x.keys().join(", ");
            return false;
        }
        double own = error;
        if (x["error"].isDouble())
            own = x["error"].toDouble();
        else if (x["error"].isArray())
            for (const QJsonValue& v : x["error"].toArray())
                own = std::max(own, v.toDouble());
        for (const QString& key : x.keys())
            // The error itself may wander by a little more.
            if (QString at = where + '/' + key;
                !same(x[key], y[key], key == "error" ? 50 * own : own, at)) {
                where = at;
                return false;
            }
        return true;
    }
    if (a == b)
        return true;
    where += ": " + b.toVariant().toString() + ", was " + a.toVariant().toString();
    return false;
}

QJsonObject solvedDemo(const QString& name)
{
    const auto read = sheet::readFile(YH_SOURCE_DIR "/demo/" + name.toStdString() + ".yhn");
    base::Progress progress;
    run::Outcome outcome{};
    run::Settings settings;
    settings.folder = YH_SOURCE_DIR "/demo";
    settings.program = YH_SOLVER;
    const auto r = run::solve(*read.document, settings, progress, outcome);
    for (const auto& f : r.report.faults)
        qWarning("%s", f.text.c_str());
    return kept(QJsonDocument::fromJson(QByteArray::fromStdString(run::toJson(r))).object());
}

}  // namespace

class TstPins : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void demos_data()
    {
        QTest::addColumn<QString>("name");
        const bool all = qEnvironmentVariableIsSet("YH_VALIDATE");
        for (const QFileInfo& f : QDir(YH_SOURCE_DIR "/demo").entryInfoList({"*.yhn"}))
            if (all || !slow.contains(f.completeBaseName()))
                QTest::newRow(qPrintable(f.completeBaseName())) << f.completeBaseName();
    }
    void demos()
    {
        QFETCH(QString, name);
        const QJsonObject now = solvedDemo(name);
        QFile file(pinFolder + '/' + name + ".json");
        if (qEnvironmentVariableIsSet("YH_PIN")) {
            QDir().mkpath(pinFolder);
            QVERIFY(file.open(QIODevice::WriteOnly));
            file.write(QJsonDocument(now).toJson(QJsonDocument::Compact) + '\n');
            return;
        }
        QVERIFY2(file.open(QIODevice::ReadOnly), "a demo without pins: run with YH_PIN=1");
        QString where = name;
        QVERIFY2(same(QJsonDocument::fromJson(file.readAll()).object(), now, 0, where),
                 qPrintable(where));
    }
    void sameTwice_data()
    {
        QTest::addColumn<QString>("name");
        // A solid with the mesher's parallel algorithm, a drawing with threads that share rows, one
        // with lines traced by threads, and waves.
        for (const char* name : {"relay-cavity", "felt-dryer", "surge-gap", "half-guide"})
            QTest::newRow(name) << QString(name);
    }
    /// The same sheet, the same figures, to the last bit, also behind other sheets.
    void sameTwice()
    {
        QFETCH(QString, name);
        const QJsonObject first = solvedDemo(name);
        QVERIFY(!first["findings"].toArray().isEmpty());
        QCOMPARE(solvedDemo(name), first);
    }
};

YH_TEST(TstPins)

}  // namespace tst_pins

#include "tst_pins.moc"
