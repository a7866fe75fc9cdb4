// The real window, driven by mouse and keyboard under a display.
#include "app/colour_ruler.h"
#include "app/pin_trail.h"
#include "app/theme.h"
#include "window_test.h"

class TstWindow : public WindowTest
{
    Q_OBJECT
private Q_SLOTS:
    void initTestCase() { begin(); }
    void init() { openWindow(); }
    void cleanup() { closeWindow(); }
    void layersOfASolid();
    void dragsInASolid();
    void storedFieldLooksAsSolved();
    void materialsAreFoundAndKept();
    void demoSolvesAndShows();
    void slipsAreSaidAtTheirLine();
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
    void coloursByDecades();
    void pinsTellDistanceTimeAndSpeed();
    void savesAndReopensWithoutSolving();
    void closingAsks();
    void keyboardAlone();
    void darkAndSmall();
};

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
    QTest::keyClick(scene, Qt::Key_Y);
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
    QTest::keyClick(scene, Qt::Key_Space);
    before = picture();
    for (const char* pill : {"lens-potentialLines", "lens-fieldLines", "lens-arrows", "lens-mesh",
                             "lens-through", "lens-whole"})
        QVERIFY2(changes(pill), pill);
    scene->setApart(1.0);
    QVERIFY(picture() != before);
    scene->setApart(0.0);
    QVERIFY(picture() == before);
    // The quantity says its unit, and its menu offers others.
    auto* quantity = m_window->findChild<QToolButton*>("lens-quantity");
    QVERIFY2(quantity->text().endsWith(" in µV"), qPrintable(quantity->text()));
    for (QAction* a : quantity->menu()->actions())
        if (a->text() == "in mV")
            a->trigger();
    QVERIFY2(quantity->text().endsWith(" in mV"), qPrintable(quantity->text()));
    // The shape goes out as STEP and comes in again as one.
    auto* exports = m_window->findChild<QMenu*>("exports");
    Q_EMIT exports->aboutToShow();
    for (QAction* a : exports->actions())
        if (a->text().startsWith("Shape (STEP)"))
            a->trigger();
    auto* dialog = m_window->findChild<QFileDialog*>("exportDialog");
    QVERIFY(dialog);
    const QString file = m_dir->filePath("block.step");
    Q_EMIT dialog->fileSelected(file);
    dialog->close();
    QTRY_VERIFY_WITH_TIMEOUT(QFileInfo::exists(file) && QFileInfo(file).size() > 1000, 10000);
}

// What is around the device stood in front of it where the field came before the shape.
void TstWindow::storedFieldLooksAsSolved()
{
    const QByteArray sheet(R"({"yellowhorn sheet": 1, "lines": [
{"line": "space", "type": "solid"},
{"line": "box", "name": "block", "width": "20 mm", "length": "10 mm", "height": "5 mm"},
{"line": "box", "name": "cap", "width": "20 mm", "length": "10 mm", "height": "2 mm", "at": "0, 0, 5 mm"},
{"line": "material", "material": "mica", "in": "block", "eps": "5"},
{"line": "electrode", "name": "A", "voltage": "1 V", "on": "cap"},
{"line": "outer edge", "is": "open space"},
{"line": "capacitance", "from": "A", "within": "10 %"}
]})");
    const QString file = write(sheet);
    auto openIt = [&] {
        QSignalSpy shown(m_window.get(), &MainWindow::shapeShown);
        m_window->openFile(file);
        return shown.count() > 0 || shown.wait(patience);
    };
    QVERIFY(openIt());
    QVERIFY(solveAndWait());
    SolidCanvas* scene = m_window->scenePanel()->solid();
    auto picture = [&] {
        QTest::keyClick(scene, Qt::Key_Space);
        QTest::qWait(50);
        return scene->grab().toImage();
    };
    const QImage solved = picture();
    QVERIFY(openIt());
    QVERIFY(!m_window->results().isEmpty());
    QVERIFY(picture() == solved);
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
    // Its entries all have as many decimals as their error asks for.
    const QStringList rows = m_window->results().findings()[0].rows;
    QCOMPARE(rows[1].simplified(), QString("W1 98.602 -15.796 -4.374 -15.796"));
    // Without a curve the passes show, until the next result has one; a chosen tab stays.
    auto* tabs = m_window->findChild<QTabWidget*>("drawerTabs");
    QCOMPARE(tabs->tabText(tabs->currentIndex()), QString("Refinement"));
    open(coaxSheet(R"({"line": "profile", "from": "1 mm, 0", "to": "2 mm, 0"},)"));
    QVERIFY(solveAndWait());
    QCOMPARE(tabs->tabText(tabs->currentIndex()), QString("Curve"));
    tabs->setCurrentIndex(3);
    QVERIFY(solveAndWait());
    QCOMPARE(tabs->currentIndex(), 3);
}

void TstWindow::slipsAreSaidAtTheirLine()
{
    open(coaxSheet(R"({"line": "limits", "pases": "3"},)"));
    // Said before anything is solved, and in the way of nothing.
    QVERIFY(!m_window->sheetView()->pieceRect(doc().first("limits")->id, "pases").isNull());
    QVERIFY(m_window->faults().empty());
    QVERIFY(solveAndWait());
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
    auto* all = m_window->findChild<QMenu*>("exports");
    const struct
    {
        QString text, file;
        QByteArray begins;
    } kinds[] = {{"Field", "f.vtu", "<VTKFile"},
                 {"Findings", "f.csv", "finding,value,error,unit\ncapacitance A to B,8.02"},
                 {"Curve", "c.svg", "<?xml"},
                 {"Curve", "c.pdf", "%PDF"},
                 {"Curve", "c.png", "\x89PNG"},
                 {"Table", "t.csv", "distance (m)"},
                 {"Scene", "s.png", "\x89PNG"}};
    const auto named = [all](const QString& text) -> QAction* {
        Q_EMIT all->aboutToShow();
        for (QAction* a : all->actions())
            if (a->text().startsWith(text))
                return a;
        return nullptr;
    };
    for (const auto& k : kinds) {
        QVERIFY2(named(k.text), qPrintable(k.text));
        named(k.text)->trigger();
        auto* dialog = m_window->findChild<QFileDialog*>("exportDialog");
        QVERIFY(dialog);
        Q_EMIT dialog->fileSelected(m_dir->filePath(k.file));
        dialog->close();
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        QFile f(m_dir->filePath(k.file));
        QVERIFY2(f.open(QIODevice::ReadOnly), qPrintable(k.file));
        QVERIFY2(f.readAll().startsWith(k.begins), qPrintable(k.file));
    }
    // What there is not is not offered.
    QVERIFY(!named("Sweep") && !named("Network") && !named("Scene over time"));
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
    // A picture asks for grey levels.
    QImage map(60, 40, QImage::Format_Grayscale8);
    map.fill(255);
    for (int y = 10; y < 30; ++y)
        for (int x = 15; x < 45; ++x)
            map.setPixel(x, y, qRgb(40, 40, 40));
    const QString file = m_dir->filePath("map.png");
    QVERIFY(map.save(file));
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    drop(file);
    dialog = m_window->findChild<QDialog*>("importDialog");
    QVERIFY(dialog && dialog->isVisible());
    accept = dialog->findChild<QPushButton*>("importAccept");
    size = dialog->findChild<QLabel*>("importSize");
    auto* wide = dialog->findChild<QLineEdit*>("importWidth");
    wide->selectAll();
    QTest::keyClicks(wide, "6 mm");
    QTest::keyClick(wide, Qt::Key_Tab);
    QTRY_VERIFY_WITH_TIMEOUT(accept->isEnabled() && size->text().contains("3 mm"), 20000);
    QTest::mouseClick(accept, Qt::LeftButton);
    QVERIFY(doc().first("picture"));
    QCOMPARE(doc().first("picture")->get("to"), std::string("127"));
}

void TstWindow::coloursByDecades()
{
    // A thousandth of the largest value still has a colour of its own; both signs have theirs.
    QCOMPARE(colourShare(1, 0, 1, true), 1.0);
    QVERIFY(std::abs(colourShare(0.1, 0, 1, true) - 2.0 / 3) < 1e-12);
    QCOMPARE(colourShare(1e-4, 0, 1, true), 0.0);
    QCOMPARE(colourShare(0, -2, 2, true), 0.5);
    QVERIFY(std::abs(colourShare(-0.2, -2, 2, true) - 1.0 / 6) < 1e-12);
    QCOMPARE(colourShare(3, 1, 5, false), 0.5);
    for (const double share : {0.05, 0.3, 0.7, 0.98})
        for (const double low : {0.0, -2.0})
            QVERIFY(std::abs(colourShare(colourValue(share, low, 2, true), low, 2, true) - share) <
                    1e-12);
    open(coaxSheet());
    QVERIFY(solveAndWait());
    auto* ruler = m_window->findChild<ColourRuler*>();
    auto* action = m_window->findChild<QAction*>("byDecades");
    QVERIFY(ruler && action);
    const QImage before = ruler->grab().toImage();
    action->trigger();
    QVERIFY(action->isChecked());
    QVERIFY(ruler->grab().toImage() != before);
    action->trigger();
    QCOMPARE(ruler->grab().toImage(), before);
}

void TstWindow::pinsTellDistanceTimeAndSpeed()
{
    PinTrail trail;
    trail.add("x 0   p 3 Pa", {0, 0, 0}, 1e-6);
    trail.add("x 3 mm   p 3 Pa", {3e-3, 4e-3, 0}, 3e-6);
    QCOMPARE(trail.rows().size(), size_t(2));
    QVERIFY2(trail.rows()[0].reading.contains("at 1 µs"), qPrintable(trail.rows()[0].reading));
    QVERIFY(trail.rows()[0].since.isEmpty());
    QCOMPARE(trail.rows()[1].since, QString("5 mm in 2 µs: 2500 m/s"));
    trail.add("steady", {3e-3, 4e-3, 1e-3}, std::nullopt);
    QCOMPARE(trail.rows()[2].since, QString("1 mm"));
    // In the window, of a field that is steady.
    open(coaxSheet());
    QVERIFY(solveAndWait());
    QTest::mouseClick(m_window->findChild<QToolButton*>("lens-pin"), Qt::LeftButton);
    clickScene({0, 1.25e-3});
    clickScene({0, 1.75e-3});
    auto* table = m_window->findChild<QTableWidget*>("table");
    QVERIFY(table->item(1, 1));
    const auto way =
        base::Expression(table->item(1, 1)->text().toStdString()).evaluate(base::Scope());
    QVERIFY2(way.ok() && std::abs(way.value->value.real() / 0.5e-3 - 1) < 0.02,
             qPrintable(table->item(1, 1)->text()));
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

YH_TEST(TstWindow)

#include "tst_window.moc"
