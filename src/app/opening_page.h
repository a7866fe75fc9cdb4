// "What do you want to know?": a card per kind of figure, recent sheets, demo devices.
#pragma once

#include <QWidget>

class QLineEdit;
class QPushButton;
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
    /// @param open  the title of the sheet that waits behind this page, if any
    void setEntries(const QList<Entry>& recent, const QList<Entry>& demos,
                    const QList<Entry>& recovered, const QString& open);

Q_SIGNALS:
    void cardChosen(const QString& card);
    void fileChosen(const QString& path);
    void openRequested();
    void backRequested();
    void recoverRequested(const QString& path);
    void discardRequested(const QString& path);

protected:
    void keyPressEvent(QKeyEvent* e) override;

private:
    /// Cards, demo devices and recent sheets that hold every word of the search.
    [[nodiscard]] QList<QPushButton*> matching() const;
    /// Shows no others.
    void narrow();

    bool m_hasSheet = false;
    QLineEdit* m_search = nullptr;
    QVBoxLayout *m_left, *m_right;
};

}  // namespace yh::app
