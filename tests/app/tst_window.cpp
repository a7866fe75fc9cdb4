// The real window, driven by mouse and keyboard under a display.
#include "app/colour_ruler.h"
#include "app/drawer.h"
#include "app/findings_view.h"
#include "app/main_window.h"
#include "app/opening_page.h"
#include "app/scene_panel.h"
#include "app/theme.h"
#include "base/expression.h"
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

namespace {

constexpr int patience = 60000;

/// Jackson, Classical Electrodynamics, 3rd ed., problem 1.6 (from memory): 2 pi eps / ln(b/a).
double coaxial(double ratio)
{
    return 2 * 3.14159265358979323846 * 8.8541878128e-12 / std::log(ratio);
}

QByteArray coaxSheet(const QByteArray& extra = {})
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

}  // namespace

class TstWindow : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void initTestCase();
    void init();
    void cleanup();
    void coaxialLineFromAnEmptySheet();
    void heaterFromAnEmptySheet();
    void magnetFromItsCard();
    void brakeFromItsCard();
    void cavityFromAnEmptySheet();
    void guideModesFromTheirCard();
    void galleryOfModes();
    void antennaFromItsCard();
    void scatteringFromItsCard();
    void typedWire();
    void typedLattice();
    void layersOfASolid();
    void patternOfAnAntenna();
    void dragsInASolid();
    void courseOverTime();
    void phaseOfAWave();
    void materialsAreFoundAndKept();
    void demoSolvesAndShows();
    void undoRedoAndStaleMarks();
    void faultsAreSaidAtTheirPlace();
    void choosesAndTabs();
    void killedSolverKeepsTheResult();
    void cancelIsQuick();
    void killedWindowOffersItsWork();
    void handlesMoveAndResize();
    void pathWithAnArc();
    void clickConditionsARegion();
    void pinsProfileAndLenses();
    void exports();
    void brokenFilesAndDrops();
    void savesAndReopensWithoutSolving();
    void closingAsks();
    void keyboardAlone();
    void darkAndSmall();

private:
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

void TstWindow::initTestCase()
{
    QStandardPaths::setTestModeEnabled(true);
}

void TstWindow::init()
{
    m_dir = std::make_unique<QTemporaryDir>();
    for (const QString& f : Session::recoverable())
        Session::discardRecovery(f);
    m_window = std::make_unique<MainWindow>();
    m_window->show();
    QVERIFY(QTest::qWaitForWindowExposed(m_window.get()));
    m_window->activateWindow();
}

void TstWindow::cleanup()
{
    m_window.reset();
}

QString TstWindow::write(const QByteArray& text, const QString& name)
{
    QFile f(m_dir->filePath(name));
    if (f.open(QIODevice::WriteOnly))
        f.write(text);
    return f.fileName();
}

void TstWindow::waitShape()
{
    QSignalSpy spy(m_window.get(), &MainWindow::shapeShown);
    QVERIFY(spy.wait(patience));
}

void TstWindow::open(const QByteArray& text)
{
    QSignalSpy spy(m_window.get(), &MainWindow::shapeShown);
    m_window->openFile(write(text));
    QVERIFY(spy.count() > 0 || spy.wait(patience));
}

bool TstWindow::solveAndWait()
{
    QSignalSpy spy(m_window.get(), &MainWindow::solveEnded);
    QTest::mouseClick(m_window->findChild<QPushButton*>("solve"), Qt::LeftButton);
    return (spy.count() > 0 || spy.wait(patience)) && spy.first().first().toBool();
}

void TstWindow::typeInEditor(const QString& text, Qt::Key end)
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

void TstWindow::clickPiece(int line, const std::string& field)
{
    SheetView* view = m_window->sheetView();
    view->select(line);
    const QRect r = view->pieceRect(line, field);
    QVERIFY2(!r.isNull(), field.c_str());
    QTest::mouseClick(view->viewport(), Qt::LeftButton, {}, r.center());
}

void TstWindow::clickScene(QPointF world)
{
    SceneCanvas* c = m_window->scenePanel()->canvas();
    const QPoint at = c->toWidget(world).toPoint();
    QTest::mouseMove(c, at);
    QTest::mouseClick(c, Qt::LeftButton, {}, at);
}

QString TstWindow::finding(int index) const
{
    // Cards that were replaced live on until the event loop deletes them.
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    const auto labels = m_window->findChildren<QLabel*>("findingValue");
    return index < labels.size() ? labels[index]->accessibleName() : QString();
}

/// The number in a finding's text "capacitance A to B 80.26 pF ± 0.01", in its unit.
double TstWindow::pico(int index) const
{
    const QStringList words = finding(index).split(' ');
    const auto unit = words.indexOf("pF");
    return unit > 0 ? words[unit - 1].toDouble() : std::nan("");
}

void TstWindow::coaxialLineFromAnEmptySheet()
{
    // Opening page: the card "capacitance".
    auto* card = m_window->findChild<QPushButton*>("card-capacitance");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    SceneCanvas* canvas = m_window->scenePanel()->canvas();
    // Two discs by clicks, snapped to the grid.
    for (const double radius : {2e-3, 1e-3}) {
        QAction* draw = nullptr;
        for (QAction* a : m_window->findChild<QMenu*>("drawMenu")->actions())
            if (a->text() == "disc")
                draw = a;
        QVERIFY(draw);
        draw->trigger();
        QCOMPARE(int(canvas->tool()), int(Tool::disc));
        clickScene({0, 0});
        QSignalSpy spy(m_window.get(), &MainWindow::shapeShown);
        clickScene({radius, 0});
        QVERIFY(spy.wait(patience));
    }
    QCOMPARE(doc().ofKind("disc").size(), size_t(2));
    QCOMPARE(doc().findNamed("disc")->get("radius"), std::string("2 mm"));
    QCOMPARE(doc().findNamed("disc2")->get("radius"), std::string("1 mm"));
    QCOMPARE(doc().findNamed("disc2")->get("at"), std::string("0 m, 0 m"));
    // Places by typing into the marked gaps of the sheet.
    clickPiece(doc().findNamed("A")->id, "on");
    typeInEditor("disc2");
    clickPiece(doc().findNamed("B")->id, "on");
    typeInEditor("disc.outer");
    // The outer edge by its menu.
    clickPiece(doc().first("outer edge")->id, "is");
    QMenu* choices = m_window->findChild<QMenu*>("choices");
    QVERIFY(choices && choices->isVisible());
    QTest::keyClick(choices, Qt::Key_Down);
    QTest::keyClick(choices, Qt::Key_Return);
    QCOMPARE(doc().first("outer edge")->get("is"), std::string("insulated"));
    // A material by the compose line.
    QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
    typeInEditor("vacuum in disc");
    QCOMPARE(doc().ofKind("material").size(), size_t(1));
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    QVERIFY2(finding().startsWith("capacitance A to B"), qPrintable(finding()));
    QVERIFY2(std::abs(pico() * 1e-12 / coaxial(2) - 1) < 1e-3, qPrintable(finding()));
    QVERIFY(finding().contains(QString::fromUtf8("±")));
    // The scene shows colours now: not one flat tone.
    const QImage image = canvas->grab().toImage();
    std::set<QRgb> tones;
    for (int x = 0; x < image.width(); x += 5)
        for (int y = 0; y < image.height(); y += 5)
            tones.insert(image.pixel(x, y));
    QVERIFY(tones.size() > 50);
}

void TstWindow::chooseSpace(const QString& name)
{
    clickPiece(doc().first("space")->id, "type");
    QMenu* choices = m_window->findChild<QMenu*>("choices");
    QVERIFY(choices && choices->isVisible());
    for (QAction* a : choices->actions())
        if (a->text() == name)
            a->trigger();
    choices->close();
}

void TstWindow::cavityFromAnEmptySheet()
{
    // A box of 30 x 20 x 10 mm in copper: f = c/2 sqrt(1/a^2 + 1/b^2), Q by Pozar, section 6.3.
    auto* card = m_window->findChild<QPushButton*>("card-resonance");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
    typeInEditor("chamber box 30 mm x 20 mm x 10 mm at 0, 0, 0");
    clickPiece(doc().first("material")->id, "in");
    typeInEditor("chamber");
    clickPiece(doc().first("metal wall")->id, "on");
    typeInEditor("outer of chamber");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    const double pi = 3.14159265358979323846, c0 = 299792458.0, a = 0.03, d = 0.02, b = 0.01,
                 f = c0 / 2 * std::hypot(1 / a, 1 / d), k = 2 * pi * f / c0,
                 R = std::sqrt(pi * f * 4e-7 * pi * 1.678e-8),
                 Q = std::pow(k * a * d, 3) * b * 376.730313668 / (2 * pi * pi * R) /
                     (2 * a * a * a * b + 2 * b * d * d * d + a * a * a * d + a * d * d * d);
    const QStringList found = finding(0).split(' '), q = finding(1).split(' ');
    const qsizetype unit = found.indexOf("GHz");
    QVERIFY2(unit > 0, qPrintable(finding(0)));
    QVERIFY2(std::abs(found[unit - 1].toDouble() * 1e9 / f - 1) < 1e-4, qPrintable(finding(0)));
    bool isQ = false;
    for (const QString& word : q)
        isQ = isQ || std::abs(word.toDouble() / Q - 1) < 5e-3;
    QVERIFY2(isQ, qPrintable(finding(1) + QString(", not %1").arg(Q)));
    // Faces of the cavity offer walls.
    QVERIFY(m_window->scenePanel()->isSolid());
}

void TstWindow::guideModesFromTheirCard()
{
    // The lowest mode of a hollow guide: n = sqrt(1 - (fc / f)^2), and its group index is 1 / n
    // (Pozar, section 3.3, from memory).
    auto* card = m_window->findChild<QPushButton*>("card-guide modes");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
    typeInEditor("guide rectangle 20 mm x 9 mm at 0, 0");
    clickPiece(doc().first("material")->id, "in");
    typeInEditor("guide");
    waitShape();
    clickPiece(doc().first("guide modes")->id, "at");
    typeInEditor("12 GHz");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    const double n = std::sqrt(1 - std::pow(299792458.0 / 40e-3 / 12e9, 2));
    auto numberOf = [&](int index) {
        for (const QString& word : finding(index).split(' ')) {
            bool ok = false;
            const double x = word.toDouble(&ok);
            if (ok && x > 0.1 && x < 10 && word.contains('.'))
                return x;
        }
        return 0.0;
    };
    QVERIFY2(std::abs(numberOf(0) / n - 1) < 1e-4, qPrintable(finding(0)));
    QVERIFY2(std::abs(numberOf(1) * n - 1) < 1e-3, qPrintable(finding(1)));
}

void TstWindow::galleryOfModes()
{
    open(R"({"yellowhorn sheet": 1, "lines": [
{"line": "space", "type": "plane", "depth": "1 m"},
{"line": "rectangle", "name": "guide", "width": "20 mm", "height": "9 mm", "at": "0, 0"},
{"line": "material", "material": "vacuum", "in": "guide"},
{"line": "guide modes", "count": "3", "at": "20 GHz"},
{"line": "effective index", "mode": "3"}
]})");
    auto* tabs = m_window->findChild<QTabWidget*>("drawerTabs");
    auto* gallery = m_window->findChild<QListWidget*>("modes");
    QVERIFY(tabs && gallery);
    const int page = tabs->indexOf(gallery);
    QVERIFY(!tabs->isTabVisible(page));
    QVERIFY(solveAndWait());
    QVERIFY(tabs->isTabVisible(page));
    QCOMPARE(gallery->count(), 3);
    QVERIFY(gallery->item(0)->text().startsWith("mode 1"));
    // Pictures are made when the page is opened; those of different modes differ.
    tabs->setCurrentIndex(page);
    QTest::qWait(200);
    auto picture = [&](int mode) {
        return gallery->item(mode)->icon().pixmap(Drawer::modePicture).toImage();
    };
    QVERIFY(!picture(0).isNull() && picture(0) != picture(1) && picture(1) != picture(2));
    // A click shows the mode in the scene.
    SceneCanvas* scene = m_window->scenePanel()->canvas();
    QTest::qWait(100);
    const QImage first = scene->grab().toImage();
    QTest::mouseClick(gallery->viewport(), Qt::LeftButton, {},
                      gallery->visualItemRect(gallery->item(2)).center());
    QTest::qWait(100);
    QVERIFY(scene->grab().toImage() != first);
    QCOMPARE(m_window->findChild<QToolButton*>("lens-quantity")->text(), QString("|E 3|"));
    // Another sheet has none.
    QSignalSpy shown(m_window.get(), &MainWindow::shapeShown);
    m_window->openFile(write(R"({"yellowhorn sheet": 1, "lines": [
{"line": "space", "type": "plane", "depth": "1 m"},
{"line": "rectangle", "name": "gap", "width": "4 mm", "height": "2 mm", "at": "0, 0"}
]})",
                             "other.yhn"));
    QVERIFY(shown.count() > 0 || shown.wait(patience));
    QVERIFY(!tabs->isTabVisible(page));
}

void TstWindow::magnetFromItsCard()
{
    // A rod magnet round the axis, its curve typed as the data sheet prints it: on the axis a sheet
    // of current round its side (Jackson, problem 5.19), with a recoil permeability of 1.
    auto* card = m_window->findChild<QPushButton*>("card-magnet");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    chooseSpace("axisymmetric");
    compose({"rod rectangle 4 mm x 10 mm at 2 mm, 0",
             "curve N of H (kOe), B (kG): -10.053096, 1.9469; 0, 12",
             "magnet P in rod by curve N along x"});
    m_window->sheetView()->select(doc().first("magnet")->id);
    QTest::keyClick(m_window->sheetView(), Qt::Key_Delete);
    const int magnet = doc().first("magnet")->id;
    QCOMPARE(doc().first("magnet")->name(), std::string("P"));
    clickPiece(magnet, "along");
    typeInEditor("x, z");
    // No direction, and said at its chip.
    waitShape();
    QVERIFY(!m_window->faults().empty());
    QCOMPARE(m_window->faults()[0].place.field, std::string("along"));
    clickPiece(magnet, "along");
    typeInEditor("z");
    const int ask = doc().first("flux density at")->id;
    clickPiece(ask, "at");
    typeInEditor("0, 8 mm");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    compose({"working points of P"});
    QVERIFY(solveAndWait());
    const double B = 600 * (13 / std::hypot(13, 4) - 3 / std::hypot(3, 4));  // mT
    const QStringList words = finding(0).split(' ');
    QVERIFY2(std::abs(words[words.indexOf("mT") - 1].toDouble() / B - 1) < 0.005,
             qPrintable(finding(0)));
    // The plane of B over H, with the curve and the points on it.
    auto* choice = m_window->findChild<QComboBox*>("curveChoice");
    QVERIFY(choice && choice->currentText().startsWith("B, working points"));
}

void TstWindow::brakeFromItsCard()
{
    // A ball of a magnet sinks in a tube of copper: the drag of a dipole in a tube, by the wall's
    // layers (Saslow, Am. J. Phys. 60 (1992) 693), carries its weight.
    auto* card = m_window->findChild<QPushButton*>("card-brake");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    compose({"ball disc radius 5 mm at 0, 0", "tube rectangle 2 mm x 120 mm at 9 mm, 0",
             "copper in tube"});
    clickPiece(doc().first("magnet")->id, "in");
    typeInEditor("ball");
    clickPiece(doc().first("motion")->id, "in");
    typeInEditor("tube");
    clickPiece(doc().first("terminal speed")->id, "mass");
    typeInEditor("2 g");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    // With a recoil permeability of 1.05 the moment is 3 / (2 + 1.05) of a remanence's.
    const double mu0 = 4e-7 * M_PI, m = 1.2 / mu0 * 3 / 3.05 * 4.0 / 3 * M_PI * std::pow(5e-3, 3),
                 by = 15.0 / 1024 * mu0 * mu0 * m * m / 1.678e-8 *
                      (std::pow(8e-3, -3) - std::pow(10e-3, -3)),
                 v = 2e-3 * 9.80665 / by;
    const QStringList words = finding(1).split(' ');
    QVERIFY2(std::abs(words[words.indexOf("m/s") - 1].toDouble() / v - 1) < 0.02,
             qPrintable(finding(1) + QString::number(v)));
    auto* choice = m_window->findChild<QComboBox*>("curveChoice");
    QVERIFY(choice && choice->count() == 2);
    QVERIFY(choice->itemText(0) == "drag over speed");
    QVERIFY(choice->itemText(1).contains("over time"));
}

void TstWindow::scatteringFromItsCard()
{
    // A cylinder of metal, H along it: the width back is 4 |sum (-1)^n J_n' / H_n'|^2 / k (Bohren
    // and Huffman, section 8.4, from memory).
    auto* card = m_window->findChild<QPushButton*>("card-plane wave");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    chooseSpace("plane");
    QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
    typeInEditor("ball disc radius 30 mm at 0, 0");
    clickPiece(doc().first("material")->id, "in");
    typeInEditor("ball");
    const int wave = doc().first("plane wave")->id;
    clickPiece(wave, "E");
    typeInEditor("y");
    // A wave along z does not belong in a drawing, and says so at its chip.
    waitShape();
    QVERIFY(!m_window->faults().empty());
    QCOMPARE(m_window->faults()[0].place.field, std::string("towards"));
    clickPiece(wave, "towards");
    typeInEditor("-x");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    const double k = 2 * M_PI * 1.5e9 / 299792458.0, x = 0.03 * k;
    std::complex<double> sum = 0;
    for (int n = 0; n < 12; ++n) {
        auto J = [x](int l) { return std::cyl_bessel_j(double(l), x); };
        auto Y = [x](int l) { return std::cyl_neumann(double(l), x); };
        const double dJ = n == 0 ? -J(1) : J(n - 1) - n / x * J(n),
                     dY = n == 0 ? -Y(1) : Y(n - 1) - n / x * Y(n);
        sum += (n == 0 ? 1.0 : n % 2 == 0 ? 2.0 : -2.0) * dJ / std::complex<double>(dJ, dY);
    }
    const double width = 4 * std::norm(sum) / k * 1e3;
    bool isThere = false;
    QString all;
    for (int i = 0; i < 2; ++i) {
        all += finding(i) + "; ";
        for (const QString& word : finding(i).split(QRegularExpression("\\s+")))
            isThere = isThere || std::abs(word.toDouble() / width - 1) < 0.01;
    }
    QVERIFY2(isThere, qPrintable(all + QString::number(width)));
    // Scattering and absorption share a plot.
    auto* choice = m_window->findChild<QComboBox*>("curveChoice");
    QVERIFY(choice && choice->currentText().startsWith("cross-sections"));
}

void TstWindow::compose(std::initializer_list<const char*> lines)
{
    for (const char* line : lines) {
        QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
        typeInEditor(line);
    }
    waitShape();
}

void TstWindow::typedWire()
{
    // A dipole of 0.464 wavelengths, an eighth of it: some 60 to 70 ohm, shortly before its
    // resonance (common practice, no source).
    open(R"({"yellowhorn sheet": 1, "lines": [{"line": "space", "type": "solid"}]})");
    compose({"rod wire radius 1 mm along 0, 0, -120 mm; 0, 0, 120 mm",
             "band from 580 MHz to 580 MHz in 1 points", "wire port A in rod at 0, 0, 0",
             "open space", "mirror plane x = 0 kind even", "mirror plane y = 0 kind even",
             "mirror plane z = 0 kind odd", "input impedance at A at 580 MHz within 5 %"});
    QCOMPARE(doc().ofKind("wire").size(), size_t(1));
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    // Half of the wire is modelled and seen, with its port.
    const auto& wires = m_window->scenePanel()->solid()->shape().wires;
    QCOMPARE(wires.size(), size_t(1));
    QCOMPARE(wires[0].runs.size(), size_t(1));
    QCOMPARE(wires[0].runs[0].front()[2], 0.0);
    QCOMPARE(wires[0].ports.size(), size_t(1));
    QVERIFY(solveAndWait());
    QVERIFY2(finding().startsWith("input resistance"), qPrintable(finding()));
    const QStringList words = finding().split(' ');
    const double R = words[words.indexOf("ohm") - 1].toDouble();
    QVERIFY2(R > 55 && R < 75, qPrintable(finding()));
    // A wire too near to metal says so at its line.
    compose({"block box 2 mm x 2 mm x 2 mm at 2.5 mm, 0, 60 mm", "copper in block"});
    QVERIFY(!m_window->faults().empty());
    QCOMPARE(m_window->faults()[0].place.line, doc().first("wire")->id);
}

void TstWindow::typedLattice()
{
    // A film of the wave impedance of vacuum on an endless row of cells, straight and at an angle:
    // S11 = -1 / (1 + 2 R / Z), Z = eta cos(angle) for E in the drawing (Pozar, section 1.8).
    open(R"({"yellowhorn sheet": 1, "lines": [{"line": "space", "type": "plane"}]})");
    compose({"cell rectangle 8 mm x 40 mm at 0, 0", "film thin line along -4 mm, 0; 4 mm, 0",
             "vacuum in cell", "band from 8 GHz to 12 GHz in 5 points", "port A on cell.bottom",
             "port B on cell.top", "resistive sheet 376.73 ohm a square on film",
             "periodic cell.left to cell.right", "wave from A to A at 10 GHz within 0.5 %"});
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    auto size = [this] {
        for (const QString& word : finding().split(' '))
            if (bool ok = false; word.toDouble(&ok) > 0 && ok && word.contains('.'))
                return word.toDouble();
        return 0.0;
    };
    QVERIFY(solveAndWait());
    QVERIFY2(std::abs(size() - 1.0 / 3) < 2e-3, qPrintable(finding()));
    compose({"angle of incidence 60 deg"});
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    QVERIFY2(std::abs(size() - 0.2) < 2e-3, qPrintable(finding()));
}

void TstWindow::antennaFromItsCard()
{
    // A half-wave dipole round its axis: 2.15 dBi (Balanis, Antenna Theory, section 4.6).
    auto* card = m_window->findChild<QPushButton*>("card-antenna");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    chooseSpace("axisymmetric");
    for (const char* line : {"upper rectangle 1 mm x 29 mm at 0.5 mm, 15.5 mm",
                             "lower rectangle 1 mm x 29 mm at 0.5 mm, -15.5 mm",
                             "between rectangle 1 mm x 2 mm at 0.5 mm, 0", "vacuum in between"}) {
        QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
        typeInEditor(line);
    }
    clickPiece(doc().first("material")->id, "in");
    typeInEditor("upper and lower");
    clickPiece(doc().findNamed("A")->id, "on");
    typeInEditor("between.right");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    bool hasGain = false;
    for (int i = 0; i < 4; ++i)
        if (const QStringList words = finding(i).split(QRegularExpression("\\s+"));
            words.contains("gain"))
            for (const QString& word : words)
                hasGain = hasGain || std::abs(word.toDouble() - 1.65) < 0.04;
    QVERIFY2(hasGain, qPrintable(finding(1)));
    // The pattern is a polar diagram, the reflection a chart of its own; a click into a plot reads
    // it off.
    auto* choice = m_window->findChild<QComboBox*>("curveChoice");
    auto* plot = m_window->findChild<QWidget*>("curve");
    QVERIFY(choice && plot);
    for (const char* name : {"pattern", "reflection chart"}) {
        int at = -1;
        for (int i = 0; i < choice->count(); ++i)
            if (choice->itemText(i).contains(name))
                at = i;
        QVERIFY2(at >= 0, name);
        choice->setCurrentIndex(at);
        Q_EMIT choice->activated(at);
        QTest::qWait(50);
        if (qEnvironmentVariableIsSet("YH_PICTURES"))
            m_window->grab().save(qEnvironmentVariable("YH_PICTURES") + "/" + name + ".png");
        QVERIFY(plot->grab().toImage().pixelColor(plot->rect().center()).isValid());
    }
    choice->setCurrentIndex(0);
    Q_EMIT choice->activated(0);
    const QImage before = plot->grab().toImage();
    QTest::mouseClick(plot, Qt::LeftButton, {}, plot->rect().center());
    QTest::qWait(50);
    QVERIFY(plot->grab().toImage() != before);
    if (qEnvironmentVariableIsSet("YH_PICTURES"))
        m_window->grab().save(qEnvironmentVariable("YH_PICTURES") + "/marker.png");
}

void TstWindow::heaterFromAnEmptySheet()
{
    // The window heater, built by hand: a strip of nickel chromium on a polyimide carrier.
    auto* card = m_window->findChild<QPushButton*>("card-heating");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    chooseSpace("solid");
    QCOMPARE(doc().first("space")->get("type"), std::string("solid"));
    for (const char* line : {"carrier box 40 mm x 24 mm x 1 mm at 0, 0, -1 mm",
                             "foil box 34 mm x 2 mm x 0.2 mm at 0, 0, 0", "polyimide in carrier",
                             "nickel chromium 80/20 in foil"}) {
        QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
        typeInEditor(line);
    }
    clickPiece(doc().findNamed("A")->id, "voltage");
    typeInEditor("0.11 V");
    clickPiece(doc().findNamed("A")->id, "on");
    typeInEditor("foil.left");
    clickPiece(doc().findNamed("B")->id, "on");
    typeInEditor("foil.right");
    clickPiece(doc().findNamed("air")->id, "h");
    typeInEditor("12 W/m^2/K");
    clickPiece(doc().findNamed("air")->id, "on");
    typeInEditor("foil.top and carrier.top and carrier.bottom");
    clickPiece(doc().first("current heats")->id, "in");
    typeInEditor("foil");
    clickPiece(doc().first("highest temperature")->id, "in");
    typeInEditor("carrier");
    clickPiece(doc().first("highest temperature")->id, "within");
    typeInEditor("3 %");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(m_window->scenePanel()->isSolid());
    QVERIFY(solveAndWait());
    // Estimate of our own: the strip across its width as a fin. Within half a width a it takes up
    // q = V^2 / (R L w); both faces lose H = 2 h to the air; heat spreads sideways with K, the
    // conductivity times thickness, inside and outside the strip:
    //   rise = q / H (1 - Ko mo / (Ko mo cosh(mi a) + Ki mi sinh(mi a))),  m^2 = H / K.
    const double length = 34e-3, width = 2e-3, thick = 0.2e-3, rho = 1.09e-6,
                 R = rho * length / (width * thick), q = 0.11 * 0.11 / (R * length * width), H = 24,
                 out = 0.12e-3, in = out + 11.3 * thick, mo = std::sqrt(H / out),
                 mi = std::sqrt(H / in), a = width / 2,
                 rise =
                     q / H *
                     (1 - out * mo / (out * mo * std::cosh(mi * a) + in * mi * std::sinh(mi * a)));
    const QStringList r = finding(0).split(' '), t = finding(1).split(' ');
    QVERIFY2(std::abs(r[r.indexOf("mohm") - 1].toDouble() / (1e3 * R) - 1) < 0.01,
             qPrintable(finding(0)));
    const double hot = t[t.indexOf("K") - 1].toDouble() - 293.15;
    QVERIFY2(std::abs(hot / rise - 1) < 0.1, qPrintable(QString("%1 %2").arg(hot).arg(rise)));
}

void TstWindow::dragsInASolid()
{
    open(R"({"yellowhorn sheet": 1, "lines": [
{"line": "space", "type": "solid"},
{"line": "box", "name": "block", "width": "20 mm", "length": "10 mm", "height": "5 mm"},
{"line": "box", "name": "cap", "width": "20 mm", "length": "10 mm", "height": "2 mm", "at": "0, 0, 5 mm"},
{"line": "material", "material": "copper", "in": "block and cap"},
{"line": "contact", "name": "A", "voltage": "1 mV", "on": "block.right and cap.right"},
{"line": "contact", "name": "B", "voltage": "0 V", "on": "block.left and cap.left"},
{"line": "resistance", "from": "A", "to": "B", "within": "5 %"}
]})");
    QVERIFY(solveAndWait());
    ScenePanel* panel = m_window->scenePanel();
    SolidCanvas* scene = panel->solid();
    QTest::keyClick(scene, Qt::Key_1);
    panel->setLens("V");
    auto menuAction = [&](const char* menu, const QString& text) {
        for (QAction* a : m_window->findChild<QMenu*>(menu)->actions())
            if (a->text().contains(text)) {
                a->trigger();
                return true;
            }
        return false;
    };
    auto drag = [&](QPoint from, QPoint to) {
        QTest::mousePress(scene, Qt::LeftButton, {}, from);
        QTest::mouseMove(scene, (from + to) / 2);
        QTest::mouseMove(scene, to);
        QTest::mouseRelease(scene, Qt::LeftButton, {}, to);
    };
    // A box round everything chooses everything.
    QVERIFY(menuAction("toolMenu", "box"));
    drag({3, 3}, {scene->width() - 3, scene->height() - 3});
    auto* card = m_window->findChild<QMenu*>("boxCard");
    QVERIFY(card && card->isVisible());
    QVERIFY2(card->actions().first()->text().startsWith("11"),
             qPrintable(card->actions().first()->text()));
    QVERIFY(menuAction("boxCard", "hide block, cap"));
    card->close();
    const QPoint middle(scene->width() / 2, scene->height() / 2);
    QCOMPARE(scene->hitAt(middle).side, -1);
    scene->showAll();
    QVERIFY(scene->hitAt(middle).side >= 0);
    // A pin on a section, inside the block: half way between the contacts.
    QVERIFY(menuAction("sectionMenu", "across y"));
    const auto hit = scene->hitAt(middle);
    QVERIFY(hit.side < 0 && hit.solid >= 0);
    QVERIFY(std::abs(hit.at[1]) < 1e-4);
    QTest::mouseClick(m_window->findChild<QToolButton*>("lens-pin"), Qt::LeftButton);
    QTest::mouseClick(scene, Qt::LeftButton, {}, middle);
    auto* table = m_window->findChild<QTableWidget*>("table");
    QVERIFY(table && table->rowCount() == 1);
    const QString reading = table->item(0, 0)->text();
    const auto value =
        base::Expression(reading.section("   V ", 1).toStdString()).evaluate(base::Scope());
    QVERIFY2(value.ok() && std::abs(value.value->value.real() - 0.5e-3) < 0.02e-3,
             qPrintable(reading));
    // A profile drawn from one side to the other becomes a line of the sheet.
    QVERIFY(menuAction("toolMenu", "profile"));
    drag(middle - QPoint(60, 0), middle + QPoint(60, 0));
    const sheet::Line* profile = doc().first("profile");
    QVERIFY(profile);
    QCOMPARE(QString::fromStdString(profile->get("to")).count(','), 2);
    QVERIFY(panel->solid()->tool() == Tool::select);
}

void TstWindow::patternOfAnAntenna()
{
    // The table of a short dipole along z: 1.76 dBi across it, nothing along it (Balanis, Antenna
    // Theory, section 4.2, from memory).
    QDir(m_dir->path()).mkdir("fields");
    QFile file(m_dir->filePath("fields/pattern-D.csv"));
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write("theta (deg),phi (deg),gain (dBi)\n");
    constexpr int rows = 12;
    for (int i = 0; i <= rows; ++i)
        for (int k = 0; k < 2 * rows; ++k) {
            const double s = std::sin(3.14159265358979 * i / rows);
            file.write(QString("%1,%2,%3\n")
                           .arg(180 * i / rows)
                           .arg(180 * k / rows)
                           .arg(10 * std::log10(std::max(1e-6, 1.5 * s * s)))
                           .toLatin1());
        }
    file.close();
    const FarPattern p = FarPattern::fromFile(file.fileName(), "D");
    QCOMPARE(p.name, QString("D"));
    QCOMPARE(p.rows, rows);
    QVERIFY(std::abs(p.largest - 1.76) < 0.01);
    QCOMPARE(p.radius(0), 0.0);
    QVERIFY(std::abs(p.radius(rows / 2 * 2 * rows) - 1) < 1e-9);
    QVERIFY(std::abs(p.direction(rows / 2, rows / 2)[1] - 1) < 1e-9);
    // Beside a solid field it is a layer of the scene, seen and unseen.
    open(R"({"yellowhorn sheet": 1, "lines": [
{"line": "space", "type": "solid"},
{"line": "box", "name": "gap", "width": "4 mm", "length": "4 mm", "height": "2 mm", "at": "0, 0, 0"},
{"line": "material", "material": "vacuum", "in": "gap"},
{"line": "electrode", "name": "A", "voltage": "1 V", "on": "gap.top"},
{"line": "electrode", "name": "B", "voltage": "0 V", "on": "gap.bottom"},
{"line": "outer edge", "is": "insulated"},
{"line": "capacitance", "from": "A", "to": "B"}
]})");
    QVERIFY(solveAndWait());
    auto* pill = m_window->findChild<QToolButton*>("lens-pattern");
    QVERIFY(pill && !pill->isVisible());
    m_window->scenePanel()->setPattern(p);
    QVERIFY(pill->isVisible());
    SolidCanvas* scene = m_window->scenePanel()->solid();
    QTest::qWait(300);
    const QImage without = scene->grab().toImage();
    QTest::mouseClick(pill, Qt::LeftButton);
    QTest::qWait(300);
    QVERIFY(scene->grab().toImage() != without);
    // A broken table is no pattern.
    QVERIFY(file.open(QIODevice::Append));
    file.write("1,2,oops\n");
    file.close();
    QVERIFY(FarPattern::fromFile(file.fileName(), "D").isEmpty());
}

void TstWindow::layersOfASolid()
{
    open(R"({"yellowhorn sheet": 1, "lines": [
{"line": "space", "type": "solid"},
{"line": "box", "name": "block", "width": "20 mm", "length": "10 mm", "height": "5 mm"},
{"line": "box", "name": "cap", "width": "20 mm", "length": "10 mm", "height": "2 mm", "at": "0, 0, 5 mm"},
{"line": "material", "material": "copper", "in": "block and cap"},
{"line": "contact", "name": "A", "voltage": "1 mV", "on": "cap.right"},
{"line": "contact", "name": "B", "voltage": "0 V", "on": "block.left"},
{"line": "mirror plane", "at": "y = 0", "kind": "even"},
{"line": "resistance", "from": "A", "to": "B", "within": "5 %"}
]})");
    QVERIFY(solveAndWait());
    SolidCanvas* scene = m_window->scenePanel()->solid();
    auto picture = [&] {
        QTest::qWait(50);
        return scene->grab().toImage();
    };
    QImage before = picture();
    auto changes = [&](const char* pill) {
        auto* b = m_window->findChild<QToolButton*>(pill);
        if (!b || !b->isVisible())
            return false;
        QTest::mouseClick(b, Qt::LeftButton);
        const QImage after = picture();
        const bool other = after != before;
        QTest::mouseClick(b, Qt::LeftButton);
        return other && picture() == before;
    };
    QTest::keyClick(scene, Qt::Key_0);
    before = picture();
    for (const char* pill : {"lens-potentialLines", "lens-fieldLines", "lens-arrows", "lens-mesh",
                             "lens-through", "lens-whole"})
        QVERIFY2(changes(pill), pill);
    scene->setApart(1.0);
    QVERIFY(picture() != before);
    scene->setApart(0.0);
    QVERIFY(picture() == before);
    // The shape goes out as STEP and comes in again as one.
    for (QAction* a : m_window->findChildren<QAction*>())
        if (a->text().startsWith("Shape (STEP)"))
            a->trigger();
    auto* dialog = m_window->findChild<QFileDialog*>("exportDialog");
    QVERIFY(dialog);
    const QString file = m_dir->filePath("block.step");
    Q_EMIT dialog->fileSelected(file);
    dialog->close();
    QTRY_VERIFY_WITH_TIMEOUT(QFileInfo::exists(file) && QFileInfo(file).size() > 1000, 10000);
}

void TstWindow::phaseOfAWave()
{
    open(R"({"yellowhorn sheet": 1, "lines": [
{"line": "space", "type": "plane", "depth": "20 mm"},
{"line": "rectangle", "name": "line", "width": "4 mm", "height": "40 mm", "at": "0, 0"},
{"line": "material", "material": "vacuum", "in": "line"},
{"line": "band", "from": "5 GHz", "to": "6 GHz", "points": "3", "shown": "5.5 GHz"},
{"line": "port", "name": "A", "on": "line.bottom"},
{"line": "port", "name": "B", "on": "line.top"},
{"line": "S-parameters"}
]})");
    QVERIFY(solveAndWait());
    auto* player = m_window->findChild<QWidget*>("player");
    auto* at = m_window->findChild<QSlider*>("timeAt");
    auto* text = m_window->findChild<QLabel*>("timeText");
    QVERIFY(player->isVisible() && at && text);
    QCOMPARE(text->text(), QString("phase 0°"));
    m_window->scenePanel()->setLens("E.x");
    SceneCanvas* scene = m_window->scenePanel()->canvas();
    QTest::qWait(50);
    const QImage first = scene->grab().toImage();
    at->setValue(250);
    QCOMPARE(text->text(), QString("phase 90°"));
    QTest::qWait(50);
    QVERIFY(scene->grab().toImage() != first);
    // Playing goes round and does not end.
    at->setValue(980);
    QTest::mouseClick(m_window->findChild<QToolButton*>("play"), Qt::LeftButton);
    QTRY_VERIFY_WITH_TIMEOUT(at->value() < 900, 5000);
    QVERIFY(m_window->findChild<QToolButton*>("play")->isChecked());
    QTest::mouseClick(m_window->findChild<QToolButton*>("play"), Qt::LeftButton);
    if (qEnvironmentVariableIsSet("YH_PICTURES"))
        m_window->grab().save(qEnvironmentVariable("YH_PICTURES") + "/phase.png");
}

void TstWindow::courseOverTime()
{
    open(R"({"yellowhorn sheet": 1, "lines": [
{"line": "space", "type": "plane", "depth": "1 mm"},
{"line": "rectangle", "name": "bar", "width": "10 mm", "height": "2 mm"},
{"line": "material", "material": "alumina 96 %", "in": "bar"},
{"line": "held temperature", "name": "hot", "value": "350 K", "on": "bar.left"},
{"line": "transient", "duration": "4 s", "start": "300 K"},
{"line": "mean temperature", "in": "bar", "within": "1 %"}
]})");
    QVERIFY(solveAndWait());
    auto* player = m_window->findChild<QWidget*>("player");
    auto* at = m_window->findChild<QSlider*>("timeAt");
    QVERIFY(player->isVisible() && at);
    SceneCanvas* scene = m_window->scenePanel()->canvas();
    const double late = m_window->scenePanel()->times().back();
    QVERIFY(std::abs(late - 4) < 1e-6);
    const QImage end = scene->grab().toImage();
    at->setValue(50);
    QTest::qWait(50);
    QVERIFY(scene->grab().toImage() != end);
    QCOMPARE(m_window->findChild<QLabel*>("timeText")->text(), QString("200 ms"));
    QTest::mouseClick(m_window->findChild<QToolButton*>("play"), Qt::LeftButton);
    QTRY_VERIFY_WITH_TIMEOUT(at->value() > 200, 5000);
    QTest::mouseClick(m_window->findChild<QToolButton*>("play"), Qt::LeftButton);
    // The course of the mean is a curve.
    auto* tabs = m_window->findChild<QTabWidget*>("drawerTabs");
    tabs->setCurrentIndex(0);
    QVERIFY(m_window->findChild<QComboBox*>("curveChoice")->currentText().contains("over time"));
    // The mean reads 350 K or a little less; in degrees it is 273.15 less, and its error the same.
    const auto before = m_window->results().findings()[0];
    QMetaObject::invokeMethod(m_window->findChild<FindingsView*>(), "unitRequested",
                              Q_ARG(int, doc().first("mean temperature")->id), Q_ARG(QPoint, {}));
    auto* units = m_window->findChild<QMenu*>("unitMenu");
    QVERIFY(units);
    for (QAction* a : units->actions())
        if (a->text() == QString::fromUtf8("°C"))
            a->trigger();
    units->close();
    const auto after = m_window->results().findings()[0];
    QCOMPARE(after.unit, QString::fromUtf8("°C"));
    QVERIFY(std::abs(before.value.toDouble() - after.value.toDouble() - 273.15) < 0.1);
    QCOMPARE(after.error, before.error);
    // The band of the gauge is what was asked for: a hundredth of the rise, not of 340 K.
    QVERIFY(after.gauge.bandHigh - after.gauge.bandLow < 1.1);
}

void TstWindow::materialsAreFoundAndKept()
{
    open(coaxSheet());
    auto openDialog = [&] {
        for (QAction* a : m_window->findChildren<QAction*>())
            if (a->text().startsWith("Materials"))
                a->trigger();
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        return m_window->findChild<QDialog*>("materialsDialog");
    };
    QDialog* dialog = openDialog();
    QVERIFY(dialog);
    auto* table = dialog->findChild<QTableWidget*>("materialTable");
    const int all = table->rowCount();
    QVERIFY(all >= 60);
    QTest::keyClicks(dialog->findChild<QLineEdit*>("materialSearch"), "copper");
    QVERIFY(table->rowCount() > 0 && table->rowCount() < all);
    QCOMPARE(table->item(0, 0)->text(), QString("copper"));
    auto* values = dialog->findChild<QTableWidget*>("materialValues");
    QVERIFY(values && values->rowCount() >= 8);
    for (int row = 0; row < values->rowCount(); ++row)
        for (int column = 0; column < 4; ++column)
            QVERIFY(!values->item(row, column)->text().isEmpty());
    QTest::mouseClick(dialog->findChild<QPushButton*>("materialUse"), Qt::LeftButton);
    QCOMPARE(doc().ofKind("material").back()->get("material"), std::string("copper"));
    // A material of the sheet is kept, found again, and brings its values.
    int line = -1;
    m_window->session()->change([&](sheet::Document& d) {
        line = d.add("material", {{"material", "sea ice"}, {"eps", "3.2"}, {"in", "gap"}});
    });
    Q_EMIT m_window->sheetView()->keepRequested(line);
    dialog = openDialog();
    QTest::keyClicks(dialog->findChild<QLineEdit*>("materialSearch"), "sea ice");
    table = dialog->findChild<QTableWidget*>("materialTable");
    QCOMPARE(table->rowCount(), 1);
    QTest::mouseClick(dialog->findChild<QPushButton*>("materialUse"), Qt::LeftButton);
    QCOMPARE(doc().ofKind("material").back()->get("eps"), std::string("3.2"));
    QVERIFY(!doc().ofKind("material").back()->has("in"));
    dialog = openDialog();
    QTest::keyClicks(dialog->findChild<QLineEdit*>("materialSearch"), "sea ice");
    QTest::mouseClick(dialog->findChild<QPushButton*>("materialDrop"), Qt::LeftButton);
    QCOMPARE(dialog->findChild<QTableWidget*>("materialTable")->rowCount(), 0);
    dialog->close();
}

void TstWindow::demoSolvesAndShows()
{
    for (const char* demo : {"salinity-comb", "hull-gland", "sensor-tether"}) {
        const QString copy = m_dir->filePath(QString("%1.yhn").arg(demo));
        QVERIFY(QFile::copy(QString(YH_SOURCE_DIR "/demo/%1.yhn").arg(demo), copy));
        QSignalSpy spy(m_window.get(), &MainWindow::shapeShown);
        m_window->openFile(copy);
        QVERIFY(spy.count() > 0 || spy.wait(patience));
        QVERIFY2(m_window->faults().empty(), demo);
        QVERIFY2(solveAndWait(), demo);
        for (const FindingView& f : m_window->results().findings())
            QVERIFY2(f.met || f.status == "see Curve", qPrintable(f.label));
        QCOMPARE(m_window->results().checks()[0].state, 0);
    }
    // Sweep and profile are curves; the matrix is a table.
    QVERIFY(m_window->results().tables().back().rows.size() >= 32);
}

void TstWindow::undoRedoAndStaleMarks()
{
    open(coaxSheet());
    QVERIFY(solveAndWait());
    QVERIFY(!m_window->findChild<QLabel*>("stale"));
    const double before = pico();
    clickPiece(doc().findNamed("b")->id, "value");
    typeInEditor("3 mm");
    QCOMPARE(doc().findNamed("b")->get("value"), std::string("3 mm"));
    QVERIFY(m_window->findChild<QLabel*>("stale"));
    QCOMPARE(pico(), before);  // the last result stays in view
    QTest::keyClick(m_window.get(), Qt::Key_Z, Qt::ControlModifier);
    QCOMPARE(doc().findNamed("b")->get("value"), std::string("2 mm"));
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    QVERIFY(!m_window->findChild<QLabel*>("stale"));
    QTest::mouseClick(m_window->findChild<QPushButton*>("redo"), Qt::LeftButton);
    QCOMPARE(doc().findNamed("b")->get("value"), std::string("3 mm"));
    waitShape();
    QVERIFY(solveAndWait());
    QVERIFY(std::abs(pico() * 1e-12 / coaxial(3) - 1) < 1e-3);
    // A renamed shape is renamed wherever it is spoken of.
    clickPiece(doc().findNamed("core")->id, "name");
    typeInEditor("wire");
    QCOMPARE(doc().findNamed("A")->get("on"), std::string("wire"));
}

void TstWindow::faultsAreSaidAtTheirPlace()
{
    open(coaxSheet());
    const int core = doc().findNamed("core")->id;
    clickPiece(core, "radius");
    typeInEditor("1 V");
    bool said = false;
    for (const auto& f : m_window->faults())
        said = said || (f.place.line == core && f.place.field == "radius" &&
                        f.text == "1 V is a voltage; a length is expected");
    QVERIFY(said);
    QVERIFY(!solveAndWait());
    QCOMPARE(m_window->sheetView()->selectedLine(), core);  // Solve leads to the faulty line
    QVERIFY(m_window->findChild<QLabel*>("status")->text().contains("1 V is a voltage"));
    clickPiece(core, "radius");
    typeInEditor("1 mm");
    waitShape();
    QVERIFY(m_window->faults().empty());
    // A broken condition does not cost the drawing.
    clickPiece(doc().findNamed("A")->id, "voltage");
    typeInEditor("1 mm");
    waitShape();
    QCOMPARE(m_window->scenePanel()->canvas()->shape().faces.size(), size_t(2));
    clickPiece(doc().findNamed("A")->id, "voltage");
    typeInEditor("1 V");
    // What only the geometry can tell arrives from the solver.
    clickPiece(doc().findNamed("B")->id, "on");
    typeInEditor("edges of core");
    waitShape();
    QCOMPARE(m_window->faults()[0].text,
             std::string("conductors A and B touch each other: a short circuit"));
    // A typed line that makes no sense stays for mending and says why.
    QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
    typeInEditor("flibber flobber");
    QVERIFY(m_window->sheetView()->editor()->isVisible());
    QVERIFY(m_window->sheetView()->editor()->toolTip().startsWith("this is not understood"));
    QTest::keyClick(m_window->sheetView()->editor(), Qt::Key_Escape);
    QVERIFY(!m_window->sheetView()->editor()->isVisible());
}

void TstWindow::choosesAndTabs()
{
    open(coaxSheet());
    const int a = doc().findNamed("A")->id;
    // Tab goes from chip to chip.
    clickPiece(a, "voltage");
    typeInEditor("5 V", Qt::Key_Tab);
    QCOMPARE(doc().findNamed("A")->get("voltage"), std::string("5 V"));
    QVERIFY(m_window->sheetView()->editor()->isVisible());
    QCOMPARE(m_window->sheetView()->editor()->text(), QString("core"));
    QTest::keyClick(m_window->sheetView()->editor(), Qt::Key_Escape);
    // The compose line completes with Tab.
    QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
    QLineEdit* editor = m_window->sheetView()->editor();
    QTest::keyClicks(editor, "stored");
    QTest::keyClick(QApplication::activePopupWidget() ? QApplication::activePopupWidget() : editor,
                    Qt::Key_Tab);
    QCOMPARE(editor->text(), QString("stored energy within 0.5 %"));
    if (QWidget* popup = QApplication::activePopupWidget())
        QTest::keyClick(popup, Qt::Key_Escape);
    QTest::keyClick(editor, Qt::Key_Return);
    QCOMPARE(doc().ofKind("energy").size(), size_t(1));
    // A removed line comes back by undo.
    m_window->sheetView()->select(doc().first("energy")->id);
    QTest::keyClick(m_window->sheetView(), Qt::Key_Delete);
    QCOMPARE(doc().ofKind("energy").size(), size_t(0));
    m_window->session()->undo();
    QCOMPARE(doc().ofKind("energy").size(), size_t(1));
}

void TstWindow::killedSolverKeepsTheResult()
{
    open(
        coaxSheet("{\"line\": \"limits\", \"passes\": \"40\", \"unknowns\": \"50000000\", "
                  "\"seconds\": \"600 s\"},\n"));
    QVERIFY(solveAndWait());
    const double before = pico();
    clickPiece(doc().first("capacitance")->id, "within");
    typeInEditor("0.0000000001 %");
    waitShape();
    QSignalSpy spy(m_window.get(), &MainWindow::solveEnded);
    QTest::keyClick(m_window.get(), Qt::Key_F5);
    QVERIFY(m_window->isSolving());
    QTest::qWait(400);
    ::kill(pid_t(m_window->solver()->processId()), SIGKILL);
    QVERIFY(spy.wait(5000));
    QVERIFY(
        m_window->findChild<QLabel*>("status")->text().startsWith("The solver ended unexpectedly"));
    QCOMPARE(pico(), before);
    QCOMPARE(m_window->findChild<QPushButton*>("solve")->text(), QString("Solve"));
    clickPiece(doc().first("capacitance")->id, "within");
    typeInEditor("0.1 %");
    waitShape();
    QVERIFY(solveAndWait());
    QVERIFY(std::abs(pico() * 1e-12 / coaxial(2) - 1) < 1e-3);
}

void TstWindow::cancelIsQuick()
{
    open(coaxSheet("{\"line\": \"limits\", \"passes\": \"40\", \"unknowns\": \"50000000\", "
                   "\"seconds\": \"600 s\"},\n")
             .replace("0.1 %", "0.0000000001 %"));
    QSignalSpy spy(m_window.get(), &MainWindow::solveEnded);
    QTest::keyClick(m_window.get(), Qt::Key_F5);
    QTest::qWait(1500);
    QCOMPARE(m_window->findChild<QPushButton*>("solve")->text(), QString("Cancel"));
    QTest::mouseClick(m_window->findChild<QPushButton*>("solve"), Qt::LeftButton);
    QVERIFY(spy.wait(5000));
    QCOMPARE(m_window->findChild<QPushButton*>("solve")->text(), QString("Solve"));
    QVERIFY(m_window->findChild<QLabel*>("status")->text().startsWith("cancelled"));
}

void TstWindow::killedWindowOffersItsWork()
{
    // A second copy of this program edits a sheet and is killed.
    QProcess victim;
    victim.start(QCoreApplication::applicationFilePath(), {"--victim"});
    QVERIFY(victim.waitForStarted());
    const QString prefix = QString::number(victim.processId()) + "-";
    QTRY_VERIFY_WITH_TIMEOUT(
        !QDir(Session::recoveryFolder()).entryList({prefix + "*.yhn"}).isEmpty(), 20000);
    QVERIFY(!Session::recoverable().join(' ').contains(prefix));  // still running: its own business
    ::kill(pid_t(victim.processId()), SIGKILL);
    QVERIFY(victim.waitForFinished());
    m_window->showOpeningPage();
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    auto* offer = m_window->findChild<QPushButton*>("recover");
    QVERIFY(offer);
    QTest::mouseClick(offer, Qt::LeftButton);
    QVERIFY(doc().findNamed("saved_from_death"));
    QVERIFY(m_window->session()->isModified());
    QVERIFY(QDir(Session::recoveryFolder()).entryList({prefix + "*.yhn"}).isEmpty());
}

void TstWindow::handlesMoveAndResize()
{
    m_window->newSheet("capacitance");
    waitShape();
    m_window->session()->change([](sheet::Document& d) {
        d.add("rectangle",
              {{"name", "plate"}, {"width", "4 mm"}, {"height", "2 mm"}, {"at", "0, 0"}});
    });
    waitShape();
    m_window->sheetView()->select(doc().findNamed("plate")->id);
    SceneCanvas* c = m_window->scenePanel()->canvas();
    auto drag = [&](QPointF from, QPointF to) {
        const QPoint a = c->toWidget(from).toPoint(), b = c->toWidget(to).toPoint();
        QTest::mousePress(c, Qt::LeftButton, {}, a);
        QTest::mouseMove(c, (a + b) / 2);
        QTest::mouseMove(c, b);
        QTest::mouseRelease(c, Qt::LeftButton, {}, b);
    };
    drag({2e-3, 1e-3}, {1.5e-3, 0.5e-3});
    QCOMPARE(doc().findNamed("plate")->get("width"), std::string("3 mm"));
    QCOMPARE(doc().findNamed("plate")->get("height"), std::string("1 mm"));
    drag({0, 0}, {0.5e-3, 0.5e-3});
    QCOMPARE(doc().findNamed("plate")->get("at"), std::string("500 µm, 500 µm"));
    // A number that is a formula is not overwritten by a drag.
    m_window->session()->change([](sheet::Document& d) {
        d.add("parameter", {{"name", "w"}, {"value", "3 mm"}});
        d.set(d.findNamed("plate")->id, "width", "w");
    });
    drag({2e-3, 1e-3}, {2.5e-3, 1.5e-3});
    QCOMPARE(doc().findNamed("plate")->get("width"), std::string("w"));
    QCOMPARE(doc().findNamed("plate")->get("height"), std::string("2 mm"));
}

void TstWindow::pathWithAnArc()
{
    m_window->newSheet("capacitance");
    waitShape();
    SceneCanvas* c = m_window->scenePanel()->canvas();
    m_window->scenePanel()->setTool(Tool::path);
    clickScene({-1e-3, 0});
    clickScene({1e-3, 0});
    QTest::keyClick(c, Qt::Key_A);
    clickScene({0, 1e-3});
    clickScene({-1e-3, 0});
    QTest::keyClick(c, Qt::Key_Return);
    const sheet::Line* path = doc().first("path");
    QVERIFY(path);
    QCOMPARE(path->get("points"),
             std::string("-1 mm, 0 m; 1 mm, 0 m; arc via 0 m, 1 mm to -1 mm, 0 m"));
    waitShape();
    const QRectF box = c->shape().box;
    QVERIFY(std::abs(box.width() - 2e-3) < 1e-5 && std::abs(box.height() - 1e-3) < 1e-5);
}

void TstWindow::clickConditionsARegion()
{
    open(coaxSheet());
    SceneCanvas* c = m_window->scenePanel()->canvas();
    clickScene({0, 0});
    QMenu* card = m_window->findChild<QMenu*>("placeCard");
    QVERIFY(card && card->isVisible());
    QVERIFY(card->actions()[0]->text().contains("core"));
    QCOMPARE(m_window->sheetView()->selectedLine(), doc().findNamed("core")->id);
    for (QAction* a : card->actions())
        if (a->text() == "largest |E| here")
            a->trigger();
    card->close();
    QCOMPARE(doc().first("largest field")->get("in"), std::string("core"));
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    // The rim of the disc is an edge with a name.
    QSignalSpy edges(c, &SceneCanvas::edgeClicked);
    const double s = 2e-3 / std::sqrt(2.0);
    clickScene({s, s});
    QCOMPARE(edges.count(), 1);
    QCOMPARE(c->shape().edges[size_t(edges[0][0].toInt())].rule, QString("gap.outer"));
    QApplication::activePopupWidget()->close();
}

void TstWindow::pinsProfileAndLenses()
{
    open(coaxSheet("{\"line\": \"profile\", \"from\": \"1 mm, 0\", \"to\": \"2 mm, 0\"},\n"));
    QVERIFY(solveAndWait());
    ScenePanel* scene = m_window->scenePanel();
    auto click = [&](const char* name) {
        QTest::mouseClick(m_window->findChild<QToolButton*>(name), Qt::LeftButton);
    };
    click("lens-pin");
    clickScene({0, 1.5e-3});
    click("lens-pin");
    auto* table = m_window->findChild<QTableWidget*>("table");
    QVERIFY(table->item(0, 0) && table->item(0, 0)->text().contains("|E|"));
    // The reading at r = 1.5 mm: E = V / (r ln 2) = 961.8 V/m.
    const QString reading = scene->reading({0, 1.5e-3});
    const auto V = base::Expression(reading.section("   V ", 1).section("   ", 0, 0).toStdString())
                       .evaluate(base::Scope());
    QVERIFY2(V.ok() && std::abs(V.value->value.real() - std::log(4.0 / 3) / std::log(2.0)) < 5e-4,
             qPrintable(reading));
    for (const char* name : {"lens-mesh", "lens-fieldLines", "lens-arrows"}) {
        const QImage before = scene->canvas()->grab().toImage();
        click(name);
        QVERIFY2(scene->canvas()->grab().toImage() != before, name);
        click(name);
    }
    for (const char* lens : {"V", "E.x", "E.y", "|D|", "energy density", "|E|"}) {
        const QImage before = scene->canvas()->grab().toImage();
        scene->setLens(lens);
        QVERIFY2(scene->canvas()->grab().toImage() != before, lens);
    }
    // Dragging the upper handle of the ruler changes the colours.
    auto* ruler = m_window->findChild<ColourRuler*>("colourRuler");
    const QImage before = scene->canvas()->grab().toImage();
    QTest::mousePress(ruler, Qt::LeftButton, {}, QPoint(55, 40));
    QTest::mouseMove(ruler, QPoint(55, ruler->height() / 2));
    QTest::mouseRelease(ruler, Qt::LeftButton, {}, QPoint(55, ruler->height() / 2));
    QVERIFY(scene->canvas()->grab().toImage() != before);
    QVERIFY(m_window->findChild<Drawer*>("drawer")->hasCurve());
    // Units of a finding can be chosen.
    auto* label = m_window->findChild<QLabel*>("findingValue");
    QTest::mouseClick(label, Qt::LeftButton);
    QMenu* units = m_window->findChild<QMenu*>("unitMenu");
    QVERIFY(units);
    for (QAction* a : units->actions())
        if (a->text() == "nF")
            a->trigger();
    units->close();
    QVERIFY2(finding().contains(" nF"), qPrintable(finding()));
}

void TstWindow::exports()
{
    open(coaxSheet("{\"line\": \"profile\", \"from\": \"1 mm, 0\", \"to\": \"2 mm, 0\"},\n"));
    QVERIFY(solveAndWait());
    QMenu* menu = m_window->findChild<QMenu*>("sheetMenu");
    QAction* all = nullptr;
    for (QAction* a : menu->actions())
        if (a->text() == "Export")
            all = a;
    const struct
    {
        int index;
        QString file;
        QByteArray begins;
    } kinds[] = {
        {0, "f.vtu", "<VTKFile"}, {1, "f.csv", "finding,value,error,unit\ncapacitance A to B,8.02"},
        {3, "c.svg", "<?xml"},    {3, "c.pdf", "%PDF"},
        {3, "c.png", "\x89PNG"},  {4, "s.png", "\x89PNG"}};
    for (const auto& k : kinds) {
        all->menu()->actions()[k.index]->trigger();
        auto* dialog = m_window->findChild<QFileDialog*>("exportDialog");
        QVERIFY(dialog);
        Q_EMIT dialog->fileSelected(m_dir->filePath(k.file));
        dialog->close();
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        QFile f(m_dir->filePath(k.file));
        QVERIFY2(f.open(QIODevice::ReadOnly), qPrintable(k.file));
        QVERIFY2(f.readAll().startsWith(k.begins), qPrintable(k.file));
    }
    // No sweep, nothing to export: said, not done.
    all->menu()->actions()[2]->trigger();
    QCOMPARE(m_window->findChild<QLabel*>("status")->text(),
             QString("There is no sweep to export."));
}

void TstWindow::brokenFilesAndDrops()
{
    m_window->openFile(write("{ \"yellowhorn sheet\": 1, \"lines\": ["));
    auto* box = m_window->findChild<QMessageBox*>("openFailed");
    QVERIFY(box && box->text().contains("the JSON breaks off"));
    box->close();
    m_window->openFile(m_dir->filePath("none.yhn"));
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    for (auto* b : m_window->findChildren<QMessageBox*>())
        b->close();
    auto drop = [&](const QString& file) {
        QMimeData data;
        data.setUrls({QUrl::fromLocalFile(file)});
        QDragEnterEvent enter(QPoint(50, 50), Qt::CopyAction, &data, Qt::LeftButton, {});
        QCoreApplication::sendEvent(m_window.get(), &enter);
        QVERIFY(enter.isAccepted());
        QDropEvent event(QPointF(50, 50), Qt::CopyAction, &data, Qt::LeftButton, {});
        QCoreApplication::sendEvent(m_window.get(), &event);
    };
    drop(write(coaxSheet()));
    QVERIFY(doc().findNamed("core"));
    drop(write("x", "a.txt"));
    QVERIFY(
        m_window->findChild<QLabel*>("status")->text().contains("a.txt is no sheet and no shape"));
    // A shape asks for its unit and shows how large it would be.
    drop(QString(YH_SOURCE_DIR "/tests/data/plate.step"));
    auto* dialog = m_window->findChild<QDialog*>("importDialog");
    QVERIFY(dialog && dialog->isVisible());
    auto* accept = dialog->findChild<QPushButton*>("importAccept");
    auto* unit = dialog->findChild<QComboBox*>("importUnit");
    auto* size = dialog->findChild<QLabel*>("importSize");
    QTRY_VERIFY_WITH_TIMEOUT(accept->isEnabled(), 20000);
    QVERIFY2(size->text().contains("mm"), qPrintable(size->text()));
    unit->setCurrentIndex(unit->findData("1 m"));
    QTRY_VERIFY_WITH_TIMEOUT(accept->isEnabled() && size->text().contains("smaller unit"), 20000);
    unit->setCurrentIndex(unit->findData("1 um"));
    QTRY_VERIFY_WITH_TIMEOUT(accept->isEnabled() && size->text().contains("µm"), 20000);
    QTest::mouseClick(accept, Qt::LeftButton);
    QVERIFY(doc().first("import"));
    QCOMPARE(doc().first("import")->get("unit"), std::string("1 um"));
}

void TstWindow::savesAndReopensWithoutSolving()
{
    open(coaxSheet());
    QVERIFY(solveAndWait());
    const QString before = finding();
    m_window->session()->change([](sheet::Document& d) {
        d.add("aim", {{"text", "a coaxial line"}});
    });
    QTest::keyClick(m_window.get(), Qt::Key_S, Qt::ControlModifier);
    QVERIFY(!m_window->session()->isModified());
    const QString path = m_window->session()->path();
    m_window = std::make_unique<MainWindow>();
    m_window->show();
    m_window->openFile(path);
    QCOMPARE(finding(), before);  // read from the folder beside the sheet
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    QVERIFY(!m_window->findChild<QLabel*>("stale"));
    QVERIFY(Session::recentFiles().contains(path));
    // A damaged result file costs the results, not the sheet.
    QFile run(m_window->session()->resultFolder() + "/run.json");
    QVERIFY(run.open(QIODevice::WriteOnly));
    run.write("{\"findings\": 3");
    run.close();
    m_window->openFile(path);
    QCOMPARE(finding(), QString());
    QVERIFY(doc().findNamed("core"));
}

void TstWindow::closingAsks()
{
    open(coaxSheet());
    m_window->session()->change([](sheet::Document& d) { d.add("energy", {}); });
    m_window->close();
    QVERIFY(m_window->isVisible());
    auto* box = m_window->findChild<QMessageBox*>("closeQuestion");
    QVERIFY(box);
    QTest::mouseClick(box->button(QMessageBox::Cancel), Qt::LeftButton);
    QVERIFY(m_window->isVisible());
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    m_window->close();
    box = m_window->findChild<QMessageBox*>("closeQuestion");
    QVERIFY(box);
    QTest::mouseClick(box->button(QMessageBox::Discard), Qt::LeftButton);
    QTRY_VERIFY(!m_window->isVisible());
}

void TstWindow::keyboardAlone()
{
    open(coaxSheet());
    SheetView* view = m_window->sheetView();
    view->setFocus();
    view->select(-1);
    QTest::keyClick(view, Qt::Key_Down);
    QCOMPARE(view->selectedLine(), doc().findNamed("b")->id);
    QTest::keyClick(view, Qt::Key_Return);
    QVERIFY(view->editor()->isVisible());
    QTest::keyClick(view->editor(), Qt::Key_Escape);
    view->select(doc().findNamed("core")->id);
    QTest::keyClick(view, Qt::Key_Up, Qt::AltModifier);
    QVERIFY(doc().ofKind("disc")[0]->name() == "core");
    QTest::keyClick(view, Qt::Key_Space);  // unfolds the finer settings
    QVERIFY(!view->pieceRect(doc().findNamed("core")->id, "radius").isNull());
    for (QWidget* w : m_window->findChildren<QPushButton*>())
        QVERIFY2(!static_cast<QPushButton*>(w)->text().isEmpty() || !w->accessibleName().isEmpty(),
                 qPrintable(w->objectName()));
}

void TstWindow::darkAndSmall()
{
    open(coaxSheet());
    const QImage light = m_window->grab().toImage();
    m_window->setDark(true);
    QCoreApplication::processEvents();
    const QImage dark = m_window->grab().toImage();
    QVERIFY(qGray(light.pixel(300, 20)) > 200);
    QVERIFY(qGray(dark.pixel(300, 20)) < 80);
    m_window->setDark(false);
    m_window->resize(900, 560);
    QCoreApplication::processEvents();
    QVERIFY(m_window->width() <= 1000);
    m_window->showOpeningPage();
    QVERIFY(m_window->findChild<OpeningPage*>("opening")->isVisible());
}

int main(int argc, char** argv)
{
    QSurfaceFormat format;
    format.setVersion(3, 2);
    format.setProfile(QSurfaceFormat::CoreProfile);
    QSurfaceFormat::setDefaultFormat(format);
    qputenv("YELLOWHORN_SOLVE", YH_SOLVER);
    QApplication app(argc, argv);
    QApplication::setApplicationName("yellowhorn-test");
    QApplication::setOrganizationName("yellowhorn-test");
    if (argc > 1 && QByteArray(argv[1]) == "--victim") {
        QStandardPaths::setTestModeEnabled(true);
        MainWindow w;
        w.show();
        w.newSheet("capacitance");
        w.session()->change([](sheet::Document& d) {
            d.add("parameter", {{"name", "saved_from_death"}, {"value", "1 mm"}});
        });
        return QApplication::exec();
    }
    TstWindow test;
    return QTest::qExec(&test, argc, argv);
}

#include "tst_window.moc"
