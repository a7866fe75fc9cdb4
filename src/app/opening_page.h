// "What do you want to know?": a card per kind of figure, recent sheets, demo devices.
#pragma once

#include <QWidget>

class QVBoxLayout;

namespace yh::app {

class OpeningPage : public QWidget
{
    Q_OBJECT
public:
    explicit OpeningPage(QWidget* parent = nullptr);
    struct Entry
    {
        QString title, subtitle, path;
    };
    void setEntries(const QList<Entry>& recent, const QList<Entry>& demos,
                    const QList<Entry>& recovered);

Q_SIGNALS:
    void cardChosen(const QString& card);
    void fileChosen(const QString& path);
    void openRequested();
    void recoverRequested(const QString& path);
    void discardRequested(const QString& path);

private:
    QVBoxLayout *m_left, *m_right;
};

}  // namespace yh::app
