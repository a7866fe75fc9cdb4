// The open sheet: its document with undo and redo, its file, autosave and recovery.
#pragma once

#include "sheet/document.h"
#include "sheet/model.h"

#include <QObject>
#include <QString>
#include <QStringList>
#include <QTimer>
#include <functional>

namespace yh::app {

class Session : public QObject
{
    Q_OBJECT
public:
    explicit Session(QObject* parent = nullptr);
    ~Session() override;

    [[nodiscard]] const sheet::Document& document() const { return m_history.current(); }
    [[nodiscard]] QString path() const { return m_path; }
    [[nodiscard]] QString title() const;
    [[nodiscard]] QString folder() const;
    [[nodiscard]] QString resultFolder() const;
    [[nodiscard]] bool isModified() const { return !(document() == m_saved); }
    [[nodiscard]] bool canUndo() const { return m_history.canUndo(); }
    [[nodiscard]] bool canRedo() const { return m_history.canRedo(); }

    void start(sheet::Document document, const QString& path = {});
    /// @returns a sentence when it failed
    QString open(const QString& path);
    /// Results go with the sheet to its new place.
    QString save(const QString& path);
    /// Copies results that stand elsewhere to where those of this sheet are; nothing where a folder
    /// of that name holds something else.
    void takeResults(const QString& from) const;
    void change(const std::function<void(sheet::Document&)>& edit);
    void undo();
    void redo();

    /// Sheets that an ended program left behind: recovery files, newest first.
    static QStringList recoverable();
    QString recover(const QString& file);
    static void discardRecovery(const QString& file);
    static QStringList recentFiles();
    static QString recoveryFolder();

Q_SIGNALS:
    void changed();
    /// Another document, not an edit of this one.
    void replaced();
    void notice(const QString& text);

private:
    void autosave();
    void removeRecovery();
    /// Results of a sheet that has no name end with it.
    void removeUnnamedResults() const;
    static void remember(const QString& path);
    sheet::History m_history;
    sheet::Document m_saved;
    QString m_path, m_recovery;
    QStringList m_left;  ///< results of sheets that had no name when they were solved
    int m_number = 0;    ///< of sheets so far: those without a name have results of their own
    QTimer m_timer;
};

}  // namespace yh::app
