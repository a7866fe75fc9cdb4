// What is kept, asked and shown: a sheet shows only its own, and nothing typed is lost.
#include "window_test.h"

#include <QAbstractItemView>
#include <QTextBrowser>

class TstKeeping : public WindowTest
{
    Q_OBJECT
private Q_SLOTS:
    void initTestCase() { begin(); }
    void init() { openWindow(); }
    void cleanup() { closeWindow(); }
    void newSheetShowsOnlyItsOwn();
    void changesAreAskedForOnEveryWayOut();
    void backToTheSheet();
    void resultsGoWithTheirSheet();
    void pinsAreReadAnew();
    void soundShapesAreDrawn();
    void pillsAreThoseOfTheSheet();
    void choicesByTyping();
    void unitChoosesTheAlternative();
    void proposedPlaneByOneClick();
    void largestFieldShowsItsPlace();
    void helpTellsOfTheChosenLine();
    void begunLineWaits();
    void clickElsewhereTakesWhatWasTyped();
    void openingPageSearches();
    void placesBearTheirNames();
    void sceneOpensWithWhatWasAsked();

private:
    [[nodiscard]] QMessageBox* question() const
    {
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        return m_window->findChild<QMessageBox*>("closeQuestion");
    }
    void answer(QMessageBox::StandardButton button)
    {
        QMessageBox* box = question();
        QVERIFY(box);
        QTest::mouseClick(box->button(button), Qt::LeftButton);
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    }
    /// The coaxial line as a sheet that has no file yet.
    void startUnnamed()
    {
        QSignalSpy spy(m_window.get(), &MainWindow::shapeShown);
        m_window->session()->start(*sheet::read(coaxSheet().toStdString()).document);
        QVERIFY(spy.wait(patience));
    }
};

void TstKeeping::newSheetShowsOnlyItsOwn()
{
    startUnnamed();
    QVERIFY(solveAndWait());
    QVERIFY(!finding().isEmpty());
    m_window->newSheet("capacitance");
    waitShape();
    QCOMPARE(finding(), QString());
    QVERIFY(m_window->results().isEmpty());
    QVERIFY(m_window->scenePanel()->canvas()->shape().faces.empty());
    m_window->newSheet("heating");
    waitShape();
    QCOMPARE(finding(), QString());
    QVERIFY(!m_window->session()->isModified());  // a card alone is no work that could be lost
}

void TstKeeping::changesAreAskedForOnEveryWayOut()
{
    const auto change = [this] {
        m_window->session()->change([](sheet::Document& d) { d.add("energy", {}); });
    };
    open(coaxSheet());
    change();
    const QString other = write(coaxSheet(R"({"line": "aim", "text": "another"},)"), "b.yhn");
    m_window->newSheet("capacitance");
    answer(QMessageBox::Cancel);
    QVERIFY(doc().first("energy"));
    m_window->openFile(other);
    answer(QMessageBox::Cancel);
    QVERIFY(doc().first("energy"));
    // Closing from the opening page asks as well.
    m_window->showOpeningPage();
    m_window->close();
    QVERIFY(m_window->isVisible());
    answer(QMessageBox::Cancel);
    // Saving goes on with what was wanted.
    m_window->openFile(other);
    answer(QMessageBox::Save);
    QVERIFY(doc().first("aim"));
    const auto saved = sheet::readFile(m_dir->filePath("a.yhn").toStdString());
    QVERIFY(saved.document && saved.document->first("energy"));
    change();
    m_window->newSheet("capacitance");
    answer(QMessageBox::Discard);
    QVERIFY(!doc().first("energy") && m_window->session()->path().isEmpty());
}

void TstKeeping::backToTheSheet()
{
    open(coaxSheet());
    m_window->session()->change([](sheet::Document& d) { d.add("energy", {}); });
    m_window->showOpeningPage();
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    auto* back = m_window->findChild<QPushButton*>("backToSheet");
    QVERIFY(back && back->text().contains("a.yhn"));
    QTest::mouseClick(back, Qt::LeftButton);
    QVERIFY(m_window->sheetView()->isVisible());
    QVERIFY(doc().first("energy"));
    m_window->showOpeningPage();
    QTest::keyClick(m_window->findChild<OpeningPage*>("opening"), Qt::Key_Escape);
    QVERIFY(m_window->sheetView()->isVisible());
}

void TstKeeping::resultsGoWithTheirSheet()
{
    startUnnamed();
    QVERIFY(solveAndWait());
    const QString before = finding(), unnamed = m_window->session()->resultFolder();
    const QString path = m_dir->filePath("named.yhn");
    QCOMPARE(m_window->session()->save(path), QString());
    QCOMPARE(finding(), before);
    m_window->openFile(write(coaxSheet(), "b.yhn"));
    QVERIFY(!QFileInfo::exists(unnamed) || finding().isEmpty());
    m_window->openFile(path);
    QCOMPARE(finding(), before);
    // A folder of the same name that holds something else is left alone.
    startUnnamed();
    QVERIFY(solveAndWait());
    QVERIFY(QDir(m_dir->path()).mkpath("own.results"));
    QFile kept(m_dir->filePath("own.results/notes.txt"));
    QVERIFY(kept.open(QIODevice::WriteOnly));
    QCOMPARE(m_window->session()->save(m_dir->filePath("own.yhn")), QString());
    QVERIFY(kept.exists());
    QCOMPARE(finding(), before);
}

void TstKeeping::pinsAreReadAnew()
{
    open(coaxSheet());
    QVERIFY(solveAndWait());
    m_window->scenePanel()->setLens("|E|");
    QTest::mouseClick(m_window->findChild<QToolButton*>("lens-pin"), Qt::LeftButton);
    clickScene({0, 1.5e-3});
    auto* table = m_window->findChild<QTableWidget*>("table");
    // |E| as it is written, with its unit, in V/m.
    const auto read = [&table] {
        const QString text = table->item(0, 0)->text().section("|E| ", 1);
        const auto q = base::Expression(text.toStdString()).evaluate(base::Scope());
        return q.ok() ? q.value->value.real() : std::nan("");
    };
    const double first = read();
    QVERIFY2(first > 0, qPrintable(table->item(0, 0)->text()));
    m_window->session()->change(
        [](sheet::Document& d) { d.set(d.findNamed("A")->id, "voltage", "10 V"); });
    QVERIFY(table->horizontalHeaderItem(0)->text().contains("before the last edit"));
    QVERIFY(solveAndWait());
    // E = V / (r ln(b/a)): ten times the voltage, ten times the field.
    QVERIFY2(std::abs(read() / first - 10) < 0.02, qPrintable(table->item(0, 0)->text()));
    QVERIFY(!table->horizontalHeaderItem(0)->text().contains("before"));
}

void TstKeeping::soundShapesAreDrawn()
{
    open(R"({"yellowhorn sheet": 1, "lines": [
{"line": "disc", "name": "good", "radius": "2 mm"},
{"line": "disc", "name": "bad", "radius": "-1 mm"},
{"line": "cut", "name": "rest", "of": "good", "by": "bad"}]})");
    const auto& faces = m_window->scenePanel()->canvas()->shape().faces;
    QCOMPARE(faces.size(), size_t(1));
    QVERIFY(!m_window->faults().empty());
    // A sheet of which nothing can be drawn does not keep the device before it.
    m_window->session()->change(
        [](sheet::Document& d) { d.set(d.findNamed("good")->id, "radius", "2 kg"); });
    waitShape();
    QVERIFY(faces.empty());
}

void TstKeeping::pillsAreThoseOfTheSheet()
{
    open(R"({"yellowhorn sheet": 1, "lines": [
{"line": "space", "type": "solid"},
{"line": "box", "name": "block", "width": "20 mm", "length": "10 mm", "height": "5 mm"}]})");
    QVERIFY(m_window->scenePanel()->isSolid());
    open(R"({"yellowhorn sheet": 1, "lines": [
{"line": "disc", "name": "bad", "radius": "-1 mm"}]})");
    QVERIFY(!m_window->scenePanel()->isSolid());
}

void TstKeeping::choicesByTyping()
{
    open(coaxSheet());
    const int edge = doc().first("outer edge")->id;
    clickPiece(edge, "is");
    QWidget* popup = QApplication::activePopupWidget();
    QVERIFY(popup && popup->objectName() == "completions");
    QCOMPARE(static_cast<QAbstractItemView*>(popup)->model()->rowCount(), 3);
    typeInEditor("grou");
    QCOMPARE(doc().first("outer edge")->get("is"), std::string("grounded"));
    // A word that is none of them stays in the editor, and its reason with it.
    clickPiece(edge, "is");
    typeInEditor("earthed");
    QLineEdit* editor = m_window->sheetView()->editor();
    QVERIFY(editor->isVisible());
    QCOMPARE(editor->text(), QString("earthed"));
    QVERIFY(editor->toolTip().contains("open space"));
    QTest::keyClick(editor, Qt::Key_Escape);
    QCOMPARE(doc().first("outer edge")->get("is"), std::string("grounded"));
    // What is typed after a choice goes into the next chip, not past it.
    clickPiece(edge, "is");
    typeInEditor("space", Qt::Key_Tab);
    QCOMPARE(doc().first("outer edge")->get("is"), std::string("open space"));
}

void TstKeeping::unitChoosesTheAlternative()
{
    open(R"({"yellowhorn sheet": 1, "lines": [
{"line": "rectangle", "name": "bar", "width": "20 mm", "height": "1 mm"},
{"line": "material", "material": "copper", "in": "bar"},
{"line": "contact", "name": "A", "voltage": "1 V", "on": "bar.left"},
{"line": "contact", "name": "B", "voltage": "0 V", "on": "bar.right"}]})");
    const int a = doc().findNamed("A")->id;
    clickPiece(a, "voltage");
    typeInEditor("8 A");
    QCOMPARE(doc().findNamed("A")->get("current"), std::string("8 A"));
    QVERIFY(!doc().findNamed("A")->has("voltage"));
    clickPiece(a, "current");
    typeInEditor("20 mV");
    QCOMPARE(doc().findNamed("A")->get("voltage"), std::string("20 mV"));
    QVERIFY(!doc().findNamed("A")->has("current"));
}

void TstKeeping::proposedPlaneByOneClick()
{
    open(coaxSheet());
    QVERIFY(solveAndWait());
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    auto* add = m_window->findChild<QPushButton*>("proposal");
    QVERIFY(add);
    QVERIFY2(add->toolTip().contains("mirror plane x = 0"), qPrintable(add->toolTip()));
    QTest::mouseClick(add, Qt::LeftButton);
    const sheet::Line* plane = doc().first("mirror plane");
    QVERIFY(plane);
    QCOMPARE(plane->get("at"), std::string("x = 0"));
    QCOMPARE(plane->get("kind"), std::string("even"));
    QVERIFY(solveAndWait());
    QVERIFY2(std::abs(pico() * 1e-12 / coaxial(2) - 1) < 1e-3, qPrintable(finding()));
    m_window->session()->undo();
    QVERIFY(!doc().first("mirror plane"));
}

void TstKeeping::largestFieldShowsItsPlace()
{
    open(coaxSheet(R"({"line": "largest field", "in": "gap", "below": "10 kV/m"},)"));
    QVERIFY(solveAndWait());
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    Q_EMIT m_window->findChild<FindingsView*>()->findingClicked(doc().first("largest field")->id);
    const auto& marks = m_window->scenePanel()->canvas()->marks();
    QCOMPARE(marks.size(), size_t(1));
    // On the inner conductor, where E = V / (r ln(b/a)) is largest.
    QVERIFY(std::abs(std::hypot(marks[0].x(), marks[0].y()) - 1e-3) < 1e-5);
    QVERIFY(m_window->findChild<QLabel*>("status")->text().startsWith("It is at"));
    // Another result has its own.
    QVERIFY(solveAndWait());
    QVERIFY(m_window->scenePanel()->canvas()->marks().empty());
}

void TstKeeping::helpTellsOfTheChosenLine()
{
    open(coaxSheet());
    m_window->sheetView()->select(doc().first("outer edge")->id);
    QTest::keyClick(m_window.get(), Qt::Key_F1);
    auto* dialog = m_window->findChild<QDialog*>("helpDialog");
    QVERIFY(dialog && dialog->isVisible());
    auto* text = dialog->findChild<QTextBrowser*>("helpText");
    QVERIFY(text->toPlainText().contains("insulated, open space, grounded"));
    QVERIFY(text->toPlainText().contains("Ctrl+K"));
    QVERIFY(text->toPlainText().contains("General Public License"));
    // Of no line: what this sheet can take, each taken by a click.
    m_window->sheetView()->select(-1);
    QTest::keyClick(m_window.get(), Qt::Key_F1);
    QVERIFY(text->toPlainText().contains("capacitance A to B"));
    Q_EMIT text->anchorClicked(QUrl("example:disc%20radius%201%20mm"));
    QLineEdit* editor = m_window->sheetView()->editor();
    QVERIFY(editor->isVisible());
    QCOMPARE(editor->text(), QString("disc radius 1 mm"));
    dialog->close();
}

void TstKeeping::clickElsewhereTakesWhatWasTyped()
{
    open(coaxSheet());
    SheetView* view = m_window->sheetView();
    clickPiece(doc().findNamed("core")->id, "radius");
    view->editor()->selectAll();
    QTest::keyClicks(view->editor(), "0.5 mm");
    if (QWidget* popup = QApplication::activePopupWidget())
        QTest::keyClick(popup, Qt::Key_Escape);
    QTest::mouseClick(view->viewport(), Qt::LeftButton, {},
                      QPoint(view->viewport()->width() - 8, view->viewport()->height() - 8));
    QVERIFY(!view->editor()->isVisible());
    QCOMPARE(doc().findNamed("core")->get("radius"), std::string("0.5 mm"));
    // The text of a fault selects its line and opens nothing.
    m_window->session()->change(
        [](sheet::Document& d) { d.set(d.findNamed("core")->id, "radius", "-1 mm"); });
    const QRect chip = view->pieceRect(doc().findNamed("core")->id, "radius");
    view->select(-1);
    QTest::mouseClick(view->viewport(), Qt::LeftButton, {},
                      QPoint(view->viewport()->width() - 60, chip.center().y() + chip.height()));
    QCOMPARE(view->selectedLine(), doc().findNamed("core")->id);
    QVERIFY(!view->editor()->isVisible());
}

void TstKeeping::begunLineWaits()
{
    open(coaxSheet());
    QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
    QLineEdit* editor = m_window->sheetView()->editor();
    QTest::keyClicks(editor, "electrode 3 V");
    if (QWidget* popup = QApplication::activePopupWidget())
        QTest::keyClick(popup, Qt::Key_Escape);
    const QString typed = editor->text();
    // The keyboard goes to the scene by a click there.
    QTest::mouseClick(m_window->scenePanel()->canvas(), Qt::LeftButton, {}, QPoint(5, 5));
    m_window->scenePanel()->canvas()->setFocus(Qt::MouseFocusReason);
    QVERIFY(!editor->isVisible());
    QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
    QVERIFY(editor->isVisible());
    QVERIFY2(editor->text() == typed || doc().ofKind("electrode").size() == 3,
             qPrintable(editor->text()));
}

void TstKeeping::placesBearTheirNames()
{
    open(coaxSheet());
    SceneCanvas* canvas = m_window->scenePanel()->canvas();
    QCOMPARE(canvas->named().size(), size_t(2));
    QCOMPARE(canvas->named()[0].name, QString("A"));
    QVERIFY(!canvas->named()[0].faces.empty());
    QVERIFY(!canvas->named()[1].edges.empty());
    const QImage with = m_window->scenePanel()->grab().toImage();
    m_window->findChild<QAction*>("names")->trigger();
    QVERIFY(m_window->scenePanel()->grab().toImage() != with);
    m_window->findChild<QAction*>("names")->trigger();
    QVERIFY(m_window->scenePanel()->grab().toImage() == with);
    // A sheet without such lines shows none of another's.
    open(R"({"yellowhorn sheet": 1, "lines": [
{"line": "rectangle", "name": "bar", "width": "10 mm", "height": "2 mm"}]})");
    QVERIFY(canvas->named().empty());
}

void TstKeeping::openingPageSearches()
{
    m_window->showOpeningPage();
    QTest::qWait(10);
    auto* page = m_window->findChild<OpeningPage*>("opening");
    auto* search = page->findChild<QLineEdit*>("search");
    QVERIFY(search);
    const auto shown = [&] {
        int n = 0;
        for (QPushButton* b : page->findChildren<QPushButton*>())
            n += b->isVisible() &&
                 (b->objectName() == "demo" || b->objectName().startsWith("card-"));
        return n;
    };
    const int all = shown();
    QTest::keyClicks(search, "voltages discharges");
    QCOMPARE(shown(), 1);
    QVERIFY(page->findChild<QPushButton*>("card-capacitance")->isVisible());
    search->clear();
    QCOMPARE(shown(), all);
    QTest::keyClicks(search, "no such device");
    QCOMPARE(shown(), 0);
    search->clear();
    // The one that is left opens by Enter.
    QTest::keyClicks(search, "capacitances air");
    QTest::keyClick(search, Qt::Key_Return);
    QCOMPARE(doc().ofKind("capacitance").size(), size_t(1));
}

void TstKeeping::sceneOpensWithWhatWasAsked()
{
    // A heating sheet opened with its current, beside the time of a temperature.
    const QByteArray sheet = R"({"yellowhorn sheet": 1, "lines": [
{"line": "space", "type": "plane", "depth": "1 mm"},
{"line": "rectangle", "name": "bar", "width": "10 mm", "height": "2 mm"},
{"line": "material", "material": "copper", "in": "bar"},
{"line": "contact", "name": "A", "current": "1 A", "on": "bar.left"},
{"line": "contact", "name": "B", "voltage": "0 V", "on": "bar.right"},
{"line": "held temperature", "name": "sink", "value": "300 K", "on": "bar.left"},
)";
    auto* pill = m_window->findChild<QToolButton*>("lens-quantity");
    open(sheet + R"({"line": "highest temperature", "in": "bar"}]})");
    QVERIFY(solveAndWait());
    QVERIFY2(pill->text().startsWith("T "), qPrintable(pill->text()));
    m_window->openFile(
        write(sheet + R"({"line": "largest current density", "in": "bar"}]})", "b.yhn"));
    waitShape();
    QVERIFY(solveAndWait());
    QVERIFY2(pill->text().startsWith("|J| "), qPrintable(pill->text()));
}

YH_TEST(TstKeeping)

#include "tst_keeping.moc"
