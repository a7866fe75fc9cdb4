// What a line means and may hold, the keys of the window, and what this program is.
#pragma once

#include "sheet/document.h"
#include "sheet/schema.h"

#include <QDialog>

class QTextBrowser;

namespace yh::app {

class HelpDialog : public QDialog
{
    Q_OBJECT
public:
    explicit HelpDialog(QWidget* parent = nullptr);
    /// Tells of a kind of line; of the lines that a sheet can take where there is none.
    void show(const sheet::Kind* kind, const sheet::Document& document);

Q_SIGNALS:
    /// A line like the example is wanted.
    void exampleTaken(const QString& example);

private:
    QTextBrowser* m_text;
};

}  // namespace yh::app
