// Includes point downwards only, and nothing but the build's own list looks into a field's folder.
#include "program.h"

#include <QtTest/QtTest>

#include <QDirIterator>
#include <QFile>
#include <QRegularExpression>

namespace tst_layers {

namespace {

const QString source = QStringLiteral(YH_SOURCE_DIR "/src/");

/// Layers from below; those of one row do not know each other.
const QStringList layers{"base",    "sheet", "shape",   "mesh", "fem",
                         "network", "grid",  "physics", "run",  "solve"};

QStringList includesOf(const QString& path)
{
    static const QRegularExpression include("#include \"([^\"]+)\"");
    QFile file(path);
    if (!file.open(QIODevice::ReadOnly))
        return {};
    QStringList list;
    auto it = include.globalMatch(QString::fromUtf8(file.readAll()));
    while (it.hasNext())
        list << it.next().captured(1);
    return list;
}

/// Folder of a field that a path under src/physics belongs to: "electrostatic", "wave/driven".
QString roomOf(const QString& path)
{
    const QStringList parts = path.split('/');
    if (parts.size() < 3 || parts[0] != "physics")
        return {};
    return parts[1] == "wave" && parts.size() > 3 ? "wave/" + parts[2] : parts[1];
}

/// Rooms that others may be made of, beside what rooms of one folder have in common.
const QMap<QString, QStringList> madeOf{{"quasistatic", {"transport"}}, {"heating", {"transport"}}};

}  // namespace

class TstLayers : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void downwards()
    {
        int files = 0;
        QDirIterator it(source, {"*.cpp", "*.h"}, QDir::Files, QDirIterator::Subdirectories);
        while (it.hasNext()) {
            const QString path = it.next().mid(source.size()), layer = path.section('/', 0, 0);
            ++files;
            for (const QString& to : includesOf(source + path)) {
                const QString other = to.section('/', 0, 0);
                if (!layers.contains(other) && other != "app")
                    continue;
                const QByteArray told = (path + " includes " + to).toUtf8();
                // What a field says of itself needs the sheet only: the window links it.
                if (path.contains(QRegularExpression("/face[^/]*$")))
                    QVERIFY2(other == "base" || other == "sheet" || to.contains("/face"),
                             told.constData());
                else if (layer == "app")
                    QVERIFY2(other == "app" || other == "base" || other == "sheet",
                             told.constData());
                else
                    QVERIFY2(other != "app" && layers.indexOf(other) <= layers.indexOf(layer),
                             told.constData());
                const QString room = roomOf(path), otherRoom = roomOf(to);
                if (!otherRoom.isEmpty() && otherRoom != "common" && otherRoom != room &&
                    otherRoom != room.section('/', 0, 0) + "/common")
                    QVERIFY2(madeOf.value(room).contains(otherRoom), told.constData());
            }
        }
        QVERIFY(files > 200);  // the sources were found at all
    }
};

YH_TEST(TstLayers)

}  // namespace tst_layers

#include "tst_layers.moc"
