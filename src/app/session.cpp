#include "app/session.h"

#include <QCoreApplication>
#include <QDateTime>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QSettings>
#include <QStandardPaths>
#include <csignal>
#include <filesystem>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

Session::Session(QObject* parent) : QObject(parent)
{
    m_timer.setSingleShot(true);
    constexpr int autosaveDelay = 700;
    m_timer.setInterval(autosaveDelay);
    connect(&m_timer, &QTimer::timeout, this, &Session::autosave);
    static int number = 0;
    m_recovery =
        recoveryFolder() + u"/%1-%2.yhn"_s.arg(QCoreApplication::applicationPid()).arg(++number);
}

Session::~Session()
{
    removeRecovery();
    removeUnnamedResults();
    std::error_code ignored;
    for (const QString& folder : m_left)
        std::filesystem::remove_all(folder.toStdString(), ignored);
}

QString Session::recoveryFolder()
{
    return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/recovery"_L1;
}

QString Session::title() const
{
    return m_path.isEmpty() ? tr("untitled sheet") : QFileInfo(m_path).fileName();
}

QString Session::folder() const
{
    return m_path.isEmpty() ? QDir::currentPath() : QFileInfo(m_path).absolutePath();
}

QString Session::resultFolder() const
{
    if (m_path.isEmpty())
        return QStandardPaths::writableLocation(QStandardPaths::CacheLocation) +
               u"/results-%1-%2"_s.arg(QCoreApplication::applicationPid()).arg(m_number);
    const QFileInfo info(m_path);
    const QString beside = info.absolutePath() + u'/' + info.completeBaseName() + ".results"_L1;
    // Beside a sheet in a folder that cannot be written (an installed demo) results go to the
    // cache.
    if (QFileInfo(info.absolutePath()).isWritable())
        return beside;
    return QStandardPaths::writableLocation(QStandardPaths::CacheLocation) + u'/' +
           info.completeBaseName() + ".results"_L1;
}

void Session::start(sheet::Document document, const QString& path)
{
    removeRecovery();
    removeUnnamedResults();
    m_history = sheet::History(std::move(document));
    m_saved = m_history.current();
    m_path = path;
    ++m_number;
    Q_EMIT replaced();
    Q_EMIT changed();
}

QString Session::open(const QString& path)
{
    const QString full = QFileInfo(path).absoluteFilePath();
    sheet::ReadResult r = sheet::readFile(full.toStdString());
    if (!r.document)
        return r.faults.empty() ? tr("The file cannot be read.")
                                : QString::fromStdString(r.faults[0].text);
    start(std::move(*r.document), full);
    remember(full);
    if (!r.faults.empty())
        Q_EMIT notice(QString::fromStdString(r.faults[0].text));
    return {};
}

QString Session::save(const QString& path)
{
    const std::string failed = sheet::writeFile(document(), path.toStdString());
    if (!failed.empty())
        return QString::fromStdString(failed);
    const QString before = resultFolder();
    if (m_path.isEmpty())
        m_left << before;
    m_path = QFileInfo(path).absoluteFilePath();
    m_saved = document();
    takeResults(before);
    remember(m_path);
    removeRecovery();
    Q_EMIT changed();
    return {};
}

void Session::change(const std::function<void(sheet::Document&)>& edit)
{
    sheet::Document next = document();
    edit(next);
    if (next == document())
        return;
    m_history.push(std::move(next));
    m_timer.start();
    Q_EMIT changed();
}

void Session::undo()
{
    m_history.undo();
    m_timer.start();
    Q_EMIT changed();
}

void Session::redo()
{
    m_history.redo();
    m_timer.start();
    Q_EMIT changed();
}

void Session::autosave()
{
    if (!isModified()) {
        removeRecovery();
        return;
    }
    QDir().mkpath(recoveryFolder());
    sheet::Document copy = document();
    copy.extra["recovered from"] = '"' + m_path.toStdString() + '"';
    const std::string failed = sheet::writeFile(copy, m_recovery.toStdString());
    if (!failed.empty())
        Q_EMIT notice(tr("Autosave failed: %1").arg(QString::fromStdString(failed)));
}

void Session::takeResults(const QString& from) const
{
    const QString to = resultFolder();
    const auto holdsResults = [](const QString& folder) {
        return QFileInfo::exists(folder + "/run.json"_L1);
    };
    // A folder of that name that is none of results is somebody's own.
    if (from == to || !holdsResults(from) || (QFileInfo::exists(to) && !holdsResults(to)))
        return;
    std::error_code ignored;  // what cannot be copied is solved again
    std::filesystem::remove_all(to.toStdString(), ignored);
    std::filesystem::copy(from.toStdString(), to.toStdString(),
                          std::filesystem::copy_options::recursive, ignored);
}

void Session::removeUnnamedResults() const
{
    std::error_code ignored;
    if (m_path.isEmpty() && m_number > 0)
        std::filesystem::remove_all(resultFolder().toStdString(), ignored);
}

void Session::removeRecovery()
{
    m_timer.stop();
    QFile::remove(m_recovery);
}

QStringList Session::recoverable()
{
    QStringList list;
    for (const QFileInfo& f :
         QDir(recoveryFolder()).entryInfoList({u"*.yhn"_s}, QDir::Files, QDir::Time)) {
        const auto pid = pid_t(f.baseName().section(u'-', 0, 0).toLongLong());
        // A file of a program that still runs is that program's business.
        if (pid > 0 && pid != QCoreApplication::applicationPid() && ::kill(pid, 0) == 0)
            continue;
        if (pid != QCoreApplication::applicationPid())
            list << f.absoluteFilePath();
    }
    return list;
}

QString Session::recover(const QString& file)
{
    sheet::ReadResult r = sheet::readFile(file.toStdString());
    if (!r.document)
        return r.faults.empty() ? QString() : QString::fromStdString(r.faults[0].text);
    QString path;
    if (auto it = r.document->extra.find("recovered from"); it != r.document->extra.end()) {
        path = QString::fromStdString(it->second).mid(1).chopped(1);
        r.document->extra.erase(it);
    }
    start(std::move(*r.document), path);
    m_saved = {};
    m_timer.start();
    QFile::remove(file);
    return {};
}

void Session::discardRecovery(const QString& file)
{
    QFile::remove(file);
}

QStringList Session::recentFiles()
{
    QStringList list;
    for (const QString& f : QSettings().value(u"recent"_s).toStringList())
        if (QFileInfo::exists(f))
            list << f;
    return list;
}

void Session::remember(const QString& path)
{
    QSettings s;
    QStringList list = s.value(u"recent"_s).toStringList();
    list.removeAll(path);
    list.prepend(path);
    constexpr qsizetype most = 8;
    s.setValue(u"recent"_s, list.mid(0, most));
}

}  // namespace yh::app
