#include "app/solver_client.h"

#include <QCoreApplication>
#include <QDir>
#include <QFileInfo>
#include <QJsonDocument>
#include <QStandardPaths>
#include <QTimer>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

QString solverProgram()
{
    const QString set = qEnvironmentVariable("YELLOWHORN_SOLVE");
    if (!set.isEmpty())
        return set;
    const QString beside = QCoreApplication::applicationDirPath();
    for (const QString& p : {beside + "/yellowhorn-solve"_L1, beside + "/../yellowhorn-solve"_L1,
                             beside + "/../../yellowhorn-solve"_L1})
        if (QFileInfo(p).isExecutable())
            return QDir::cleanPath(p);
    return QStandardPaths::findExecutable(u"yellowhorn-solve"_s);
}

SolverClient::SolverClient(QObject* parent) : QObject(parent) {}

SolverClient::~SolverClient()
{
    if (!m_process)
        return;
    m_process->disconnect(this);
    m_process->closeWriteChannel();
    constexpr int patience = 300;
    if (!m_process->waitForFinished(patience))
        m_process->kill();
    m_process->waitForFinished(patience);
}

void SolverClient::warmUp()
{
    if (!m_process)
        start();
}

void SolverClient::start()
{
    m_process = new QProcess(this);
    m_pending.clear();
    connect(m_process, &QProcess::readyReadStandardOutput, this, &SolverClient::read);
    connect(m_process, &QProcess::finished, this, &SolverClient::ended);
    connect(m_process, &QProcess::errorOccurred, this, [this](QProcess::ProcessError e) {
        if (e == QProcess::FailedToStart) {
            m_busy = false;
            m_process->deleteLater();
            m_process = nullptr;
            Q_EMIT died(
                tr("The solver program yellowhorn-solve cannot be started; it should lie beside "
                   "this program."));
        }
    });
    // The scene is drawn by the same cores: threads that spin while they wait for one that has lost
    // its core hold up the whole solution, ten times over.
    QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
    if (!environment.contains(u"OMP_WAIT_POLICY"_s) && !environment.contains(u"GOMP_SPINCOUNT"_s))
        environment.insert(u"GOMP_SPINCOUNT"_s, u"10000"_s);
    m_process->setProcessEnvironment(environment);
    m_process->start(solverProgram(), {u"--serve"_s});
}

int SolverClient::send(QJsonObject request)
{
    warmUp();
    request["id"_L1] = ++m_next;
    m_busy = true;
    m_cancelling = false;
    if (m_process)
        m_process->write(QJsonDocument(request).toJson(QJsonDocument::Compact) + '\n');
    return m_next;
}

void SolverClient::cancel()
{
    if (!m_process || !m_busy)
        return;
    m_cancelling = true;
    m_process->write("{\"do\":\"cancel\"}\n");
    // A library call in progress cannot be asked; then the process is ended and started anew.
    constexpr int patience = 350;
    QTimer::singleShot(patience, this, [this, process = m_process] {
        if (m_cancelling && m_busy && process == m_process)
            m_process->kill();
    });
}

void SolverClient::read()
{
    m_pending += m_process->readAllStandardOutput();
    for (qsizetype end = m_pending.indexOf('\n'); end >= 0; end = m_pending.indexOf('\n')) {
        const QJsonObject e = QJsonDocument::fromJson(m_pending.left(end)).object();
        m_pending.remove(0, end + 1);
        const QString what = e["event"_L1].toString();
        if ((what == "shape"_L1 || what == "done"_L1 || what == "failed"_L1 ||
             what == "cancelled"_L1) &&
            e["id"_L1].toInt() == m_next) {
            m_busy = false;
            m_cancelling = false;
        }
        if (!e.isEmpty())
            Q_EMIT event(e);
    }
}

void SolverClient::ended()
{
    const bool wasBusy = m_busy, asked = m_cancelling;
    const bool crashed = m_process->exitStatus() == QProcess::CrashExit;
    m_busy = m_cancelling = false;
    m_process->deleteLater();
    m_process = nullptr;
    if (wasBusy && asked)
        Q_EMIT event({{u"event"_s, u"cancelled"_s}, {u"id"_s, m_next}});
    else if (wasBusy)
        Q_EMIT died(
            crashed ? tr("The solver ended unexpectedly. The last result is kept; press Solve to "
                         "try again.")
                    : tr("The solver closed. The last result is kept; press Solve to try again."));
}

}  // namespace yh::app
