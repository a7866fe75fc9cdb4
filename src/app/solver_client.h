// Talks to yellowhorn-solve --serve in another process; starts it anew when it dies.
#pragma once

#include <QJsonArray>
#include <QJsonObject>
#include <QObject>
#include <QProcess>

namespace yh::app {

class SolverClient : public QObject
{
    Q_OBJECT
public:
    explicit SolverClient(QObject* parent = nullptr);
    ~SolverClient() override;

    /// Starts the process ahead of the first request.
    void warmUp();
    /// Sends a request; returns its number.
    int send(QJsonObject request);
    /// Asks to cancel; after a moment without an answer the process is ended.
    void cancel();
    [[nodiscard]] bool isBusy() const { return m_busy; }
    [[nodiscard]] qint64 processId() const { return m_process ? m_process->processId() : 0; }

Q_SIGNALS:
    void event(const QJsonObject& event);
    /// The process ended in the middle of a request.
    void died(const QString& why);

private:
    void start();
    void read();
    void ended();
    QProcess* m_process = nullptr;
    QByteArray m_pending;
    int m_next = 0;
    bool m_busy = false, m_cancelling = false;
};

/// Where yellowhorn-solve is: beside this program, or on the path.
QString solverProgram();

}  // namespace yh::app
