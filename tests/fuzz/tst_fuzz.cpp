// Sheets, requests and foreign files changed at random, with a fixed seed: whatever comes in, the
// solver answers with a result or a message, soon, and stays alive. scripts/test takes three
// hundred of them, scripts/validate ten thousand; YH_FUZZ_FROM and YH_FUZZ_COUNT choose others.
#include "program.h"
#include "sheet/document.h"
#include "sheet/schema.h"

#include <QtTest/QtTest>

#include <QDir>
#include <QElapsedTimer>
#include <QFile>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>
#include <random>

namespace tst_fuzz {

using namespace yh;
using sheet::Document;
using sheet::Line;

namespace {

/// What the same seed draws: nothing of it depends on the standard library's distributions.
class Chance
{
public:
    explicit Chance(int seed) : m_engine(std::uint64_t(seed) * 7919 + 2026) {}
    size_t below(size_t n) { return n == 0 ? 0 : size_t(m_engine() % n); }
    bool oneIn(size_t n) { return below(n) == 0; }
    template <typename List>
    const auto& of(const List& list)
    {
        return list[below(std::size(list))];
    }

private:
    std::mt19937_64 m_engine;
};

/// Texts that a slot may get instead of its own.
const std::vector<std::string> texts = {"",
                                        "0",
                                        "-1",
                                        "nan",
                                        "inf",
                                        "1e308",
                                        "1e-308",
                                        "1e400",
                                        "-0",
                                        "1 V",
                                        "1 mm",
                                        "-3 mm",
                                        "1 pm",
                                        "1e6 km",
                                        "1 Hz",
                                        "1 K",
                                        "65536",
                                        "1e9",
                                        "0 mm",
                                        "a",
                                        "1/0",
                                        "sqrt(-1)",
                                        "2*",
                                        "((((1))))",
                                        "1 mm, 2 mm",
                                        "1 mm, 2 mm, 3 mm",
                                        ",",
                                        "1 2",
                                        "\xC2\xB5",
                                        "\xC2",
                                        "1 \xCE\xA9",
                                        "all",
                                        "x = 0",
                                        "outer of outer of A",
                                        "inside",
                                        "A.left",
                                        "edges of A and B",
                                        "no",
                                        "yes",
                                        "plane",
                                        "axisymmetric",
                                        "solid",
                                        "1 mm to 2 mm in 3 steps",
                                        "1 to 1e9 in 1e9 steps",
                                        "0 in 0 steps",
                                        "\n",
                                        "'",
                                        "\"",
                                        "100 %",
                                        "1e-30 %"};

std::string changedNumber(std::string text, Chance& chance)
{
    const std::vector<std::string> factors = {"0", "-1", "1e-3", "1e3", "1e-9", "1e9", "1.0000001"};
    const size_t at = text.find_first_of("0123456789");
    if (at == std::string::npos)
        return chance.of(texts);
    return text.insert(at, "(" + chance.of(factors) + ")*");
}

void changeOnce(Document& d, const std::vector<Document>& others, Chance& chance)
{
    if (d.lines.empty())
        return;
    Line& line = d.lines[chance.below(d.lines.size())];
    switch (chance.below(10)) {
        case 0:
            d.remove(line.id);
            return;
        case 1:
            d.addAfter(line.id, line.kind, line.values);
            return;
        case 2: {
            const auto& kinds = sheet::kinds();
            line.kind = kinds[chance.below(kinds.size())].key;
            return;
        }
        case 3: {
            const Document& other = chance.of(others);
            if (!other.lines.empty()) {
                const Line& foreign = chance.of(other.lines);
                d.addAfter(line.id, foreign.kind, foreign.values);
            }
            return;
        }
        default:
            break;
    }
    if (line.values.empty())
        return;
    auto slot = std::next(line.values.begin(), std::ptrdiff_t(chance.below(line.values.size())));
    switch (chance.below(5)) {
        case 0:
        case 1:
            slot->second = chance.of(texts);
            return;
        case 2:
            slot->second = changedNumber(slot->second, chance);
            return;
        case 3: {
            const Line& other = d.lines[chance.below(d.lines.size())];
            if (!other.values.empty())
                slot->second = std::next(other.values.begin(),
                                         std::ptrdiff_t(chance.below(other.values.size())))
                                   ->second;
            return;
        }
        default:
            line.values.erase(slot);
    }
}

QByteArray withChangedBytes(QByteArray text, Chance& chance)
{
    for (size_t k = 1 + chance.below(3); k-- > 0 && !text.isEmpty();) {
        const auto at = qsizetype(chance.below(size_t(text.size())));
        switch (chance.below(5)) {
            case 0:
                text[at] = char(chance.below(256));
                break;
            case 1:
                text.remove(at, qsizetype(1 + chance.below(40)));
                break;
            case 2:
                text.insert(at, text.mid(qsizetype(chance.below(size_t(text.size()))), 30));
                break;
            case 3:
                text.truncate(at);
                break;
            default:
                text[at] = char(text[at] ^ (1 << chance.below(8)));
        }
    }
    return text;
}

/// A sheet that ends soon: what bounds its passes, unknowns and time is put in place.
void bound(Document& d)
{
    std::erase_if(d.lines, [](const Line& l) { return l.kind == "limits"; });
    d.add("limits", {{"passes", "2"}, {"unknowns", "6000"}, {"seconds", "2 s"}});
}

QByteArray contents(const QString& path)
{
    QFile file(path);
    return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
}

/// The solver as the window uses it. It is started anew where it ended.
class Server
{
public:
    explicit Server(const QString& folder) : m_folder(folder) {}
    ~Server() { end(); }

    /// Sends a line and waits for the answer to `id`. @returns what is wrong with it, or nothing
    QString ask(const QByteArray& line, int id, int patience)
    {
        if (m_process.state() != QProcess::Running) {
            m_process.setWorkingDirectory(m_folder);
            m_process.setStandardErrorFile(QProcess::nullDevice());
            m_process.start(QString::fromLatin1(YH_SOLVER), {"--serve"});
            m_process.waitForStarted();
        }
        m_process.write(line + '\n');
        QElapsedTimer clock;
        clock.start();
        while (clock.elapsed() < patience) {
            if (!m_process.canReadLine() && !m_process.waitForReadyRead(200)) {
                if (m_process.state() != QProcess::Running)
                    return QString("the solver ended: %1").arg(m_process.exitCode());
                continue;
            }
            while (m_process.canReadLine()) {
                const QByteArray answer = m_process.readLine();
                QJsonParseError wrong;
                const QJsonObject o = QJsonDocument::fromJson(answer, &wrong).object();
                if (wrong.error != QJsonParseError::NoError)
                    return "no JSON: " + QString::fromUtf8(answer);
                const QString event = o["event"].toString();
                if (o["id"].toInt(-2) != id || event == "progress" || event == "pass" ||
                    event == "log")
                    continue;
                if (event == "failed" && o["faults"].toArray().isEmpty())
                    return "failed without a word";
                return {};
            }
        }
        m_process.kill();
        m_process.waitForFinished();
        return QString("no answer in %1 s").arg(patience / 1000);
    }
    void end()
    {
        m_process.closeWriteChannel();
        if (m_process.state() == QProcess::Running && !m_process.waitForFinished(10000))
            m_process.kill();
        m_process.waitForFinished();
    }

private:
    QString m_folder;
    QProcess m_process;
};

}  // namespace

class TstFuzz : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void initTestCase();
    void sheets();
    void requests();
    void files();

private:
    /// Cases of one kind: the first, and one behind the last.
    static std::pair<int, int> range(int few, int many)
    {
        const int from = qEnvironmentVariableIntValue("YH_FUZZ_FROM");
        const int stated = qEnvironmentVariableIntValue("YH_FUZZ_COUNT");
        const int count = stated > 0                                 ? stated
                          : qEnvironmentVariableIsSet("YH_VALIDATE") ? many
                                                                     : few;
        return {from, from + count};
    }
    /// Notes what went wrong in a case, with what was sent kept beside.
    void note(const char* kind, int seed, const QString& wrong, const QByteArray& sent)
    {
        if (wrong.isEmpty())
            return;
        const QString kept = QDir::temp().filePath(QString("fuzz-%1-%2").arg(kind).arg(seed));
        QFile file(kept);
        if (file.open(QIODevice::WriteOnly))
            file.write(sent);
        m_wrong << QString("%1 %2: %3 (%4)").arg(kind).arg(seed).arg(wrong, kept);
        qWarning("%s", qPrintable(m_wrong.last()));
    }
    QByteArray request(const char* verb, int id, const QByteArray& sheet) const
    {
        return QJsonDocument(QJsonObject{{"do", verb},
                                         {"id", id},
                                         {"sheet", QString::fromUtf8(sheet)},
                                         {"folder", m_dir.path()},
                                         {"out", m_dir.filePath("out")}})
            .toJson(QJsonDocument::Compact);
    }

    QTemporaryDir m_dir;
    std::vector<Document> m_sheets;
    QStringList m_wrong;
};

void TstFuzz::initTestCase()
{
    // The demos and what they read: every kind of line in sound use.
    const QDir demos(QStringLiteral(YH_SOURCE_DIR "/demo"));
    for (const QString& name : demos.entryList(QDir::Files, QDir::Name)) {
        QFile::copy(demos.filePath(name), m_dir.filePath(name));
        if (!name.endsWith(".yhn"))
            continue;
        auto read = sheet::read(contents(demos.filePath(name)).toStdString());
        QVERIFY2(read.document, qPrintable(name));
        m_sheets.push_back(*read.document);
    }
    QVERIFY(m_sheets.size() > 20);
}

void TstFuzz::sheets()
{
    Server server(m_dir.path());
    const auto [from, to] = range(180, 7000);
    for (int seed = from; seed < to; ++seed) {
        Chance chance(seed);
        Document d = chance.of(m_sheets);
        for (size_t k = 1 + chance.below(4); k-- > 0;)
            changeOnce(d, m_sheets, chance);
        bound(d);
        QByteArray text = QByteArray::fromStdString(sheet::write(d));
        if (chance.oneIn(5))
            text = withChangedBytes(text, chance);
        const char* verb = chance.oneIn(3) ? "solve" : "shape";
        note("sheet", seed, server.ask(request(verb, seed, text), seed, 30000), text);
    }
    QVERIFY2(m_wrong.isEmpty(), qPrintable(m_wrong.join('\n')));
}

void TstFuzz::requests()
{
    Server server(m_dir.path());
    Document disc;
    disc.add("disc", {{"name", "gap"}, {"radius", "1 mm"}});
    const QByteArray sound = QByteArray::fromStdString(sheet::write(disc));
    const auto [from, to] = range(100, 2600);
    for (int seed = from; seed < to; ++seed) {
        Chance chance(seed);
        const char* const verbs[] = {"solve", "shape", "mesh", "probe", "step", "cancel"};
        QByteArray sent = withChangedBytes(request(chance.of(verbs), 1, "{}"), chance);
        sent.replace('\n', ' ');
        // Whatever came of it, the next request is answered.
        note("request", seed,
             server.ask(sent + '\n' + request("shape", 1000 + seed, sound), 1000 + seed, 30000),
             sent);
    }
    QVERIFY2(m_wrong.isEmpty(), qPrintable(m_wrong.join('\n')));
}

void TstFuzz::files()
{
    Server server(m_dir.path());
    QList<QByteArray> names;
    for (const QString& name : QDir(m_dir.path()).entryList(QDir::Files, QDir::Name))
        if (!name.endsWith(".yhn"))
            names << name.toUtf8();
    QVERIFY(!names.isEmpty());
    const auto [from, to] = range(20, 400);
    for (int seed = from; seed < to; ++seed) {
        Chance chance(seed);
        const QByteArray name = chance.of(names);
        const QByteArray was = contents(m_dir.filePath(name)), now = withChangedBytes(was, chance);
        for (const Document& sheet : m_sheets) {
            Document d = sheet;
            bound(d);
            const QByteArray text = QByteArray::fromStdString(sheet::write(d));
            if (!text.contains('"' + name + '"'))
                continue;
            for (const QByteArray& content : {now, was}) {
                QFile file(m_dir.filePath(name));
                QVERIFY(file.open(QIODevice::WriteOnly));
                file.write(content);
                file.close();
                note("file", seed, server.ask(request("shape", seed, text), seed, 30000), content);
            }
        }
    }
    QVERIFY2(m_wrong.isEmpty(), qPrintable(m_wrong.join('\n')));
}

YH_TEST(TstFuzz)

}  // namespace tst_fuzz

#include "tst_fuzz.moc"
