// The real window under a display, with what tests of it do by mouse and keyboard.
#pragma once

#include "app/colour_ruler.h"
#include "app/drawer.h"
#include "app/findings_view.h"
#include "app/main_window.h"
#include "app/opening_page.h"
#include "app/scene_panel.h"
#include "app/theme.h"
#include "base/expression.h"
#include "program.h"
#include "sheet/sentence.h"

#include <QtTest/QtTest>

#include <QApplication>
#include <QComboBox>
#include <QCompleter>
#include <QFileDialog>
#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QPushButton>
#include <QRegularExpression>
#include <QSlider>
#include <QSurfaceFormat>
#include <QTabWidget>
#include <QTableWidget>
#include <QToolButton>
#include <cmath>
#include <complex>
#include <csignal>
#include <memory>

using namespace yh;
using namespace yh::app;

namespace yh::test {

inline constexpr int patience = 60000;

/// Jackson, Classical Electrodynamics, 3rd ed., problem 1.6 (from memory): 2 pi eps / ln(b/a).
inline double coaxial(double ratio)
{
    return 2 * 3.14159265358979323846 * 8.8541878128e-12 / std::log(ratio);
}

inline QByteArray coaxSheet(const QByteArray& extra = {})
{
    return R"({"yellowhorn sheet": 1, "lines": [
{"line": "parameter", "name": "b", "value": "2 mm"},
{"line": "space", "type": "plane", "depth": "1 m"},
{"line": "disc", "name": "gap", "radius": "b"},
{"line": "disc", "name": "core", "radius": "1 mm"},
{"line": "material", "material": "vacuum", "in": "gap"},
{"line": "electrode", "name": "A", "voltage": "1 V", "on": "core"},
{"line": "electrode", "name": "B", "voltage": "0 V", "on": "gap.outer"},
{"line": "outer edge", "is": "insulated"},
)" + extra +
           R"({"line": "capacitance", "from": "A", "to": "B", "within": "0.1 %"}
]})";
}

}  // namespace yh::test

using namespace yh::test;

class WindowTest : public QObject
{
protected:
    void begin();
    void openWindow();
    void closeWindow();
    QString write(const QByteArray& text, const QString& name = QStringLiteral("a.yhn"));
    void open(const QByteArray& text);
    void waitShape();
    bool solveAndWait();
    void typeInEditor(const QString& text, Qt::Key end = Qt::Key_Return);
    void clickPiece(int line, const std::string& field);
    void chooseSpace(const QString& name);
    void clickScene(QPointF world);
    /// Types lines, from the keyboard alone.
    void compose(std::initializer_list<const char*> lines);
    [[nodiscard]] QString finding(int index = 0) const;
    [[nodiscard]] double pico(int index = 0) const;
    [[nodiscard]] const sheet::Document& doc() const { return m_window->session()->document(); }
    std::unique_ptr<QTemporaryDir> m_dir;
    std::unique_ptr<MainWindow> m_window;
};

inline void WindowTest::begin()
{
    QStandardPaths::setTestModeEnabled(true);
}

inline void WindowTest::openWindow()
{
    m_dir = std::make_unique<QTemporaryDir>();
    for (const QString& f : Session::recoverable())
        Session::discardRecovery(f);
    m_window = std::make_unique<MainWindow>();
    m_window->show();
    QVERIFY(QTest::qWaitForWindowExposed(m_window.get()));
    m_window->activateWindow();
}

inline void WindowTest::closeWindow()
{
    m_window.reset();
}

inline QString WindowTest::write(const QByteArray& text, const QString& name)
{
    QFile f(m_dir->filePath(name));
    if (f.open(QIODevice::WriteOnly))
        f.write(text);
    return f.fileName();
}

inline void WindowTest::waitShape()
{
    QSignalSpy spy(m_window.get(), &MainWindow::shapeShown);
    QVERIFY(spy.wait(patience));
}

inline void WindowTest::open(const QByteArray& text)
{
    QSignalSpy spy(m_window.get(), &MainWindow::shapeShown);
    m_window->openFile(write(text));
    QVERIFY(spy.count() > 0 || spy.wait(patience));
}

inline bool WindowTest::solveAndWait()
{
    QSignalSpy spy(m_window.get(), &MainWindow::solveEnded);
    QTest::mouseClick(m_window->findChild<QPushButton*>("solve"), Qt::LeftButton);
    return (spy.count() > 0 || spy.wait(patience)) && spy.first().first().toBool();
}

inline void WindowTest::typeInEditor(const QString& text, Qt::Key end)
{
    QLineEdit* editor = m_window->sheetView()->editor();
    QVERIFY(editor->isVisible());
    editor->selectAll();
    QTest::keyClicks(editor, text);
    // The list of completions must not swallow what was typed in full.
    if (QWidget* popup = QApplication::activePopupWidget())
        QTest::keyClick(popup, Qt::Key_Escape);
    QTest::keyClick(editor, end);
}

inline void WindowTest::clickPiece(int line, const std::string& field)
{
    SheetView* view = m_window->sheetView();
    view->select(line);
    const QRect r = view->pieceRect(line, field);
    QVERIFY2(!r.isNull(), field.c_str());
    QTest::mouseClick(view->viewport(), Qt::LeftButton, {}, r.center());
}

inline void WindowTest::clickScene(QPointF world)
{
    SceneCanvas* c = m_window->scenePanel()->canvas();
    const QPoint at = c->toWidget(world).toPoint();
    QTest::mouseMove(c, at);
    QTest::mouseClick(c, Qt::LeftButton, {}, at);
}

inline QString WindowTest::finding(int index) const
{
    // Cards that were replaced live on until the event loop deletes them.
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    const auto labels = m_window->findChildren<QLabel*>("findingValue");
    return index < labels.size() ? labels[index]->accessibleName() : QString();
}

/// The number in a finding's text "capacitance A to B 80.26 pF ± 0.01", in its unit.
inline double WindowTest::pico(int index) const
{
    const QStringList words = finding(index).split(' ');
    const auto unit = words.indexOf("pF");
    return unit > 0 ? words[unit - 1].toDouble() : std::nan("");
}

inline void WindowTest::chooseSpace(const QString& name)
{
    clickPiece(doc().first("space")->id, "type");
    typeInEditor(name);
}

inline void WindowTest::compose(std::initializer_list<const char*> lines)
{
    for (const char* line : lines) {
        QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
        typeInEditor(line);
    }
    waitShape();
}

/// What must be set before the application is made.
inline void prepareApplication()
{
    QSurfaceFormat format;
    format.setVersion(3, 2);
    format.setProfile(QSurfaceFormat::CoreProfile);
    QSurfaceFormat::setDefaultFormat(format);
    qputenv("YELLOWHORN_SOLVE", YH_SOLVER);
    QCoreApplication::setApplicationName("yellowhorn-test");
    QCoreApplication::setOrganizationName("yellowhorn-test");
}
