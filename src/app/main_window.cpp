#include "app/main_window.h"

#include "app/import_dialog.h"
#include "app/materials_dialog.h"

#include "app/drawer.h"
#include "app/findings_view.h"
#include "app/opening_page.h"
#include "app/scene_panel.h"
#include "app/text.h"
#include "app/theme.h"
#include "sheet/schema.h"
#include "sheet/sentence.h"
#include "sheet/topic.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDateTime>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QPainter>
#include <QProgressBar>
#include <QPushButton>
#include <QSettings>
#include <QSplitter>
#include <QStackedWidget>
#include <QSvgRenderer>
#include <QToolButton>
#include <QVBoxLayout>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace {

QPixmap logo(int size, double ratio)
{
    QPixmap p(int(size * ratio), int(size * ratio));
    p.setDevicePixelRatio(ratio);
    p.fill(Qt::transparent);
    QPainter painter(&p);
    QSvgRenderer(u":/logo.svg"_s).render(&painter, QRectF(0, 0, size, size));
    return p;
}

}  // namespace

MainWindow::MainWindow(QWidget* parent) : QMainWindow(parent)
{
    setObjectName(u"mainWindow"_s);
    setWindowTitle(u"Yellowhorn"_s);
    setAcceptDrops(true);
    resize(1280, 800);
    m_session = new Session(this);
    m_shapeClient = new SolverClient(this);
    m_solver = new SolverClient(this);
    auto* page = new QWidget(this);
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    setCentralWidget(page);
    buildHeader();
    m_stack = new QStackedWidget(page);
    column->addWidget(m_stack, 1);
    buildColumns();
    connectSolver();
    connectSheet();
    connectScene();
    connectFindings();
    connectOpening();
    buildActions();
    showOpeningPage();
    m_shapeClient->warmUp();
    m_solver->warmUp();
}

void MainWindow::buildColumns()
{
    m_opening = new OpeningPage(m_stack);
    m_columns = new QSplitter(Qt::Horizontal, m_stack);
    m_columns->setHandleWidth(1);
    m_sheet = new SheetView(m_columns);
    m_middle = new QSplitter(Qt::Vertical, m_columns);
    m_middle->setHandleWidth(1);
    m_scene = new ScenePanel(m_middle);
    m_drawer = new Drawer(m_middle);
    m_middle->addWidget(m_scene);
    m_middle->addWidget(m_drawer);
    m_findings = new FindingsView(m_columns);
    m_columns->addWidget(m_sheet);
    m_columns->addWidget(m_middle);
    m_columns->addWidget(m_findings);
    m_columns->setSizes({374, 646, 260});
    m_middle->setSizes({532, 222});
    m_columns->setStretchFactor(1, 1);
    m_middle->setStretchFactor(0, 1);
    m_stack->addWidget(m_opening);
    m_stack->addWidget(m_columns);
}

void MainWindow::connectSolver()
{
    m_shapeTimer.setSingleShot(true);
    constexpr int shapeDelay = 40;
    m_shapeTimer.setInterval(shapeDelay);
    connect(&m_shapeTimer, &QTimer::timeout, this, &MainWindow::requestShape);
    connect(m_session, &Session::replaced, this, &MainWindow::onReplaced);
    connect(m_session, &Session::changed, this, &MainWindow::onChanged);
    connect(m_session, &Session::notice, this, [this](const QString& t) { say(t); });
    connect(m_shapeClient, &SolverClient::event, this, &MainWindow::onShapeEvent);
    connect(m_shapeClient, &SolverClient::died, this, [this](const QString&) {
        say(tr("The shape could not be drawn: the solver ended. It starts anew with the next "
               "change."),
            true);
    });
    connect(m_solver, &SolverClient::event, this, &MainWindow::onSolveEvent);
    connect(m_solver, &SolverClient::died, this, [this](const QString& why) {
        m_solveRequest = -1;
        m_drawer->appendLog(why);
        showStatus();
        say(why, true);
        Q_EMIT solveEnded(false);
    });
}

void MainWindow::connectSheet()
{
    connect(m_sheet, &SheetView::fieldEdited, this, &MainWindow::editField);
    connect(m_sheet, &SheetView::composed, this, &MainWindow::composeLine);
    connect(m_sheet, &SheetView::lineSelected, this, [this](int line) {
        highlight(line, {});
        updateHandles();
    });
    connect(m_sheet, &SheetView::pieceHovered, this, [this](int line, const QString& field) {
        if (line >= 0 && !field.isEmpty())
            highlight(line, field.toStdString());
        else
            highlight(m_sheet->selectedLine(), {});
    });
    connect(m_sheet, &SheetView::keepRequested, this, [this](int line) {
        const sheet::Line* l = m_session->document().find(line);
        if (l)
            say(PersonalMaterials::keep(*l)
                    ? tr("%1 is kept among your materials").arg(qs(l->get("material")))
                    : tr("%1 cannot be written").arg(PersonalMaterials::path()),
                false);
    });
    connect(m_sheet, &SheetView::removeRequested, this, [this](int line) {
        m_session->change([line](sheet::Document& d) { d.remove(line); });
    });
    connect(m_sheet, &SheetView::moveRequested, this, [this](int line, int steps) {
        m_session->change([line, steps](sheet::Document& d) { d.move(line, steps); });
    });
}

void MainWindow::connectScene()
{
    SolidCanvas* solid = m_scene->solid();
    connect(solid, &SolidCanvas::sideClicked, this, &MainWindow::offerSide);
    connect(solid, &SolidCanvas::emptyClicked, this, [this] { m_sheet->select(-1); });
    connect(m_scene->diagram(), &DiagramCanvas::chosen, m_sheet, &SheetView::select);
    SceneCanvas* canvas = m_scene->canvas();
    connect(canvas, &SceneCanvas::drawn, this, &MainWindow::addDrawn);
    connect(canvas, &SceneCanvas::regionClicked, this, [this](int face, QPoint at) {
        const auto& f = m_scene->canvas()->shape().faces[size_t(face)];
        m_sheet->select(f.line);
        offerPlace(f.name, false, f.line, at);
    });
    connect(canvas, &SceneCanvas::edgeClicked, this, [this](int edge, QPoint at) {
        m_scene->canvas()->setHighlight({}, {edge}, -1);
        offerPlace(m_scene->canvas()->shape().edges[size_t(edge)].rule, true, -1, at);
    });
    connect(canvas, &SceneCanvas::emptyClicked, this, [this] { m_sheet->select(-1); });
    connect(canvas, &SceneCanvas::handleDragged, this, &MainWindow::dragHandle);
    connect(m_scene, &ScenePanel::pinned, this, [this](QPointF p, const QString& text) {
        m_pins.push_back({p, keepReading(text, {p.x(), p.y(), 0})});
        m_scene->canvas()->setPins(m_pins);
    });
    connect(m_scene, &ScenePanel::solidPinned, this,
            [this](const std::array<double, 3>& p, const QString& text) {
                m_solidPins.push_back({p, keepReading(text, p)});
                m_scene->solid()->setPins(m_solidPins);
            });
    connect(solid, &SolidCanvas::boxChosen, this, &MainWindow::offerBox);
    connect(solid, &SolidCanvas::profiled, this, &MainWindow::addProfile);
}

void MainWindow::connectFindings()
{
    connect(m_drawer, &Drawer::modePicturesWanted, this, &MainWindow::showModePictures);
    connect(m_drawer, &Drawer::modeChosen, this,
            [this](int mode) { m_scene->setLens(lensOfMode(mode)); });
    connect(m_findings, &FindingsView::findingClicked, this, [this](int line) {
        m_sheet->select(line);
        showPlace(line);
    });
    connect(m_findings, &FindingsView::proposalTaken, this,
            [this](const QString& line) { composeLine({}, line); });
    connect(m_findings, &FindingsView::checkClicked, this, [this](int index) {
        m_scene->canvas()->setMarks(m_results.marksOfCheck(index));
        if (const int line = m_results.lineOfCheck(index); line >= 0)
            m_sheet->select(line);
    });
    connect(m_findings, &FindingsView::unitRequested, this, &MainWindow::chooseUnit);
}

void MainWindow::showPlace(int line)
{
    const std::vector<double> at = m_results.placeOfLine(line);
    std::vector<QPointF> marks;
    std::vector<std::array<double, 3>> solidMarks;
    if (at.size() == 2)
        marks.emplace_back(at[0], at[1]);
    if (at.size() == 3)
        solidMarks.push_back({at[0], at[1], at[2]});
    m_scene->canvas()->setMarks(marks);
    m_scene->solid()->setMarks(solidMarks);
    if (at.empty())
        return;
    QStringList words;
    for (const double x : at)
        words << QString::fromStdString(base::format(x, base::dim::length, 4));
    say(tr("It is at %1").arg(words.join(u", "_s)));
}

void MainWindow::connectOpening()
{
    connect(m_opening, &OpeningPage::cardChosen, this, &MainWindow::newSheet);
    connect(m_opening, &OpeningPage::fileChosen, this, &MainWindow::openFile);
    connect(m_opening, &OpeningPage::openRequested, this, &MainWindow::openDialog);
    connect(m_opening, &OpeningPage::recoverRequested, this, [this](const QString& f) {
        settle([this, f] {
            if (const QString failed = m_session->recover(f); !failed.isEmpty())
                say(failed, true);
        });
    });
    connect(m_opening, &OpeningPage::backRequested, this, &MainWindow::showSheet);
    connect(m_opening, &OpeningPage::discardRequested, this, [this](const QString& f) {
        Session::discardRecovery(f);
        showOpeningPage();
    });
}

MainWindow::~MainWindow()
{
    m_shapeClient->disconnect(this);
    m_solver->disconnect(this);
}

void MainWindow::buildStatus(QWidget* header)
{
    m_title = new QLabel(header);
    m_title->setObjectName(u"title"_s);
    m_progress = new QProgressBar(header);
    m_progress->setFixedWidth(120);
    m_progress->setTextVisible(false);
    m_progress->setRange(0, 1000);
    m_status = new QLabel(header);
    m_status->setObjectName(u"status"_s);
    m_status->setTextFormat(Qt::PlainText);
    m_status->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Preferred);
    m_status->setMinimumWidth(40);
    m_status->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
}

void MainWindow::buildButtons(QWidget* header)
{
    m_undo = new QPushButton(tr("Undo"), header);
    m_redo = new QPushButton(tr("Redo"), header);
    m_solve = new QPushButton(tr("Solve"), header);
    m_undo->setObjectName(u"undo"_s);
    m_redo->setObjectName(u"redo"_s);
    m_solve->setObjectName(u"solve"_s);
    m_undo->setToolTip(tr("Take back the last change (Ctrl+Z)"));
    m_redo->setToolTip(tr("Do it again (Ctrl+Shift+Z)"));
    m_solve->setToolTip(tr("Solve the sheet (F5); while it runs: cancel (Esc)"));
}

void MainWindow::buildHeader()
{
    auto* header = new QWidget(centralWidget());
    header->setObjectName(u"header"_s);
    header->setFixedHeight(46);
    auto* row = new QHBoxLayout(header);
    row->setContentsMargins(14, 0, 14, 0);
    row->setSpacing(12);
    auto* mark = new QLabel(header);
    auto* name = new QLabel(u"Yellowhorn"_s, header);
    name->setFont(textFont(10.2, QFont::DemiBold));
    m_menu = new QToolButton(header);
    m_menu->setObjectName(u"menu"_s);
    m_menu->setText(tr("Sheet"));
    m_menu->setAccessibleName(tr("Menu of the sheet"));
    m_menu->setPopupMode(QToolButton::InstantPopup);
    buildStatus(header);
    buildButtons(header);
    row->addWidget(mark);
    row->addWidget(name);
    row->addWidget(m_menu);
    row->addWidget(m_title);
    row->addWidget(m_status, 1);
    row->addWidget(m_progress);
    row->addWidget(m_undo);
    row->addWidget(m_redo);
    row->addWidget(m_solve);
    m_progress->hide();
    static_cast<QVBoxLayout*>(centralWidget()->layout())->addWidget(header);
    auto* rule = new QWidget(centralWidget());
    rule->setObjectName(u"headerRule"_s);
    rule->setFixedHeight(1);
    static_cast<QVBoxLayout*>(centralWidget()->layout())->addWidget(rule);
    setDark(QSettings().value(u"dark"_s, false).toBool());
    mark->setPixmap(logo(22, devicePixelRatioF()));
    setWindowIcon(QIcon(u":/logo.svg"_s));
}

void MainWindow::buildActions()
{
    connect(m_undo, &QPushButton::clicked, m_session, &Session::undo);
    connect(m_redo, &QPushButton::clicked, m_session, &Session::redo);
    connect(m_solve, &QPushButton::clicked, this,
            [this] { isSolving() ? cancelSolve() : solve(); });
    auto action = [this](const QString& text, const QKeySequence& key, auto slot) {
        auto* a = new QAction(text, this);
        a->setShortcut(key);
        connect(a, &QAction::triggered, this, slot);
        addAction(a);
        return a;
    };
    action(tr("Undo"), QKeySequence::Undo, [this] { m_session->undo(); });
    action(tr("Redo"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Z),
           [this] { m_session->redo(); });
    action(tr("Solve"), QKeySequence(Qt::Key_F5), [this] { solve(); });
    action(tr("Add a line"), QKeySequence(Qt::CTRL | Qt::Key_K), [this] {
        // On the opening page it begins an empty sheet, or goes back to the one behind.
        if (m_stack->currentWidget() != m_columns && m_session->document().lines.empty())
            newSheet({});
        else if (m_stack->currentWidget() != m_columns)
            showSheet();
        m_sheet->openCompose({});
    });
    action(tr("Fit the scene"), QKeySequence(Qt::CTRL | Qt::Key_0),
           [this] { m_scene->canvas()->fit(); });
    action(tr("Help"), QKeySequence(Qt::Key_F1), [this] { help(); });
    rebuildMenu();
}

void MainWindow::help()
{
    if (!m_help) {
        m_help = new HelpDialog(this);
        connect(m_help, &HelpDialog::exampleTaken, this, [this](const QString& example) {
            if (m_stack->currentWidget() != m_columns)
                return;
            activateWindow();
            m_sheet->openCompose({}, example);
        });
    }
    const sheet::Line* l = m_session->document().find(m_sheet->selectedLine());
    m_help->show(l && m_stack->currentWidget() == m_columns ? sheet::findKind(l->kind) : nullptr,
                 m_session->document());
}

void MainWindow::rebuildMenu()
{
    auto* menu = new QMenu(m_menu);
    menu->setObjectName(u"sheetMenu"_s);
    auto add = [this](QMenu* m, const QString& text, const QKeySequence& key, auto slot) {
        QAction* a = m->addAction(text, this, slot);
        a->setShortcut(key);
        return a;
    };
    add(menu, tr("New"), QKeySequence::New, [this] { showOpeningPage(); });
    add(menu, tr("Open …"), QKeySequence::Open, [this] { openDialog(); });
    QMenu* recent = menu->addMenu(tr("Recent"));
    connect(recent, &QMenu::aboutToShow, this, [this, recent] {
        recent->clear();
        for (const QString& f : Session::recentFiles())
            recent->addAction(QFileInfo(f).fileName(), this, [this, f] { openFile(f); });
    });
    add(menu, tr("Save"), QKeySequence::Save, [this] { save(false); });
    add(menu, tr("Save as …"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S),
        [this] { save(true); });
    menu->addSeparator();
    menu->addAction(tr("Import a shape …"), this, [this] {
        if (m_stack->currentWidget() != m_columns) {
            say(tr("Open or begin a sheet first."), true);
            return;
        }
        auto* dialog = new QFileDialog(this, tr("Import a shape"), m_session->folder(),
                                       ImportDialog::filter());
        dialog->setObjectName(u"importFile"_s);
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->setFileMode(QFileDialog::ExistingFile);
        connect(dialog, &QFileDialog::fileSelected, this, &MainWindow::importShape);
        dialog->open();
    });
    menu->addAction(tr("Materials …"), this, [this] { showMaterials(); });
    QMenu* exports = menu->addMenu(tr("Export"));
    exports->setObjectName(u"exports"_s);
    connect(exports, &QMenu::aboutToShow, this, [this, exports] {
        exports->clear();
        for (const Export& e : exportsNow())
            exports->addAction(e.text, this, [this, e] { ask(e); });
    });
    menu->addSeparator();
    QAction* dark = menu->addAction(tr("Dark theme"));
    dark->setCheckable(true);
    dark->setChecked(m_dark);
    connect(dark, &QAction::toggled, this, [this](bool on) {
        setDark(on);
        QSettings().setValue(u"dark"_s, on);
    });
    menu->addAction(tr("Forget pins"), this, [this] {
        forgetPins();
        showResults();
    });
    menu->addAction(tr("Help (F1) …"), this, [this] { help(); });
    menu->addSeparator();
    add(menu, tr("Quit"), QKeySequence::Quit, [this] { close(); });
    m_menu->setMenu(menu);
    for (QAction* a : menu->actions())
        if (!a->shortcut().isEmpty())
            addAction(a);
}

void MainWindow::setDark(bool dark)
{
    m_dark = dark;
    applyTheme(*static_cast<QApplication*>(QApplication::instance()), dark);
    const Theme& t = theme();
    if (QWidget* header = findChild<QWidget*>(u"header"_s))
        header->setStyleSheet(u"#header { background: %1; }"_s.arg(t.sheet.name()));
    if (QWidget* rule = findChild<QWidget*>(u"headerRule"_s))
        rule->setStyleSheet(u"background: %1;"_s.arg(t.line.name()));
    m_title->setStyleSheet(u"color: %1;"_s.arg(t.muted.name()));
    m_status->setStyleSheet(u"color: %1;"_s.arg(t.muted.name()));
    if (centralWidget()->layout()->count() > 2) {
        m_drawer->retheme();
        showResults();
        m_sheet->viewport()->update();
        m_scene->canvas()->update();
        if (m_stack->currentWidget() == m_opening)
            showOpeningPage();
    }
}

QString MainWindow::demoFolder()
{
    const QString set = qEnvironmentVariable("YELLOWHORN_DEMO");
    if (!set.isEmpty())
        return set;
    const QString here = QCoreApplication::applicationDirPath();
    for (const QString& d : {here + "/../share/yellowhorn/demo"_L1, here + "/../demo"_L1,
                             here + "/../../demo"_L1, here + "/../../../demo"_L1})
        if (QDir(d).exists())
            return QDir::cleanPath(d);
    return {};
}

void MainWindow::showOpeningPage()
{
    QList<OpeningPage::Entry> recent, demos, recovered;
    for (const QString& f : Session::recentFiles())
        recent << OpeningPage::Entry{QFileInfo(f).completeBaseName(), {}, f};
    for (const QFileInfo& f :
         QDir(demoFolder()).entryInfoList({u"*.yhn"_s}, QDir::Files, QDir::Name)) {
        QString aim;
        if (const auto r = sheet::readFile(f.filePath().toStdString());
            r.document && r.document->first("aim"))
            aim = qs(r.document->first("aim")->get("text"));
        demos << OpeningPage::Entry{f.completeBaseName(), aim, f.absoluteFilePath()};
    }
    for (const QString& f : Session::recoverable()) {
        QString title = tr("untitled sheet");
        if (const auto r = sheet::readFile(f.toStdString()); r.document)
            if (auto it = r.document->extra.find("recovered from");
                it != r.document->extra.end() && it->second.size() > 2)
                title = QFileInfo(qs(it->second).mid(1).chopped(1)).fileName();
        recovered << OpeningPage::Entry{
            title,
            tr("as it was %1").arg(QFileInfo(f).lastModified().toString(u"yyyy-MM-dd hh:mm:ss"_s)),
            f};
    }
    m_opening->setEntries(recent, demos, recovered,
                          m_session->document().lines.empty() ? QString() : m_session->title());
    m_stack->setCurrentWidget(m_opening);
    m_title->clear();
    m_status->clear();
    for (QPushButton* b : {m_undo, m_redo, m_solve})
        b->hide();
}

void MainWindow::say(const QString& text, bool bad)
{
    m_status->setText(text);
    m_status->setToolTip(text);
    m_status->setStyleSheet(u"color: %1;"_s.arg((bad ? theme().bad : theme().muted).name()));
}

void MainWindow::openFile(const QString& path)
{
    settle([this, path] { replaceBy(path); });
}

void MainWindow::replaceBy(const QString& path)
{
    if (const QString failed = m_session->open(path); !failed.isEmpty()) {
        say(failed, true);
        auto* box =
            new QMessageBox(QMessageBox::Warning, tr("Open"), failed, QMessageBox::Ok, this);
        box->setObjectName(u"openFailed"_s);
        box->setAttribute(Qt::WA_DeleteOnClose);
        box->open();
    }
}

void MainWindow::newSheet(const QString& card)
{
    settle([this, card] { m_session->start(sheet::newSheet(card.toStdString())); });
}

void MainWindow::openDialog()
{
    auto* dialog =
        new QFileDialog(this, tr("Open a sheet"), m_session->folder(), tr("Sheets (*.yhn)"));
    dialog->setObjectName(u"openDialog"_s);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QFileDialog::fileSelected, this, &MainWindow::openFile);
    dialog->open();
}

void MainWindow::save(bool as, const std::function<void()>& then)
{
    const auto write = [this, then](const QString& f) {
        const QString failed = m_session->save(f);
        say(failed.isEmpty() ? tr("saved") : failed, !failed.isEmpty());
        if (failed.isEmpty() && then)
            then();
    };
    if (!as && !m_session->path().isEmpty()) {
        write(m_session->path());
        return;
    }
    auto* dialog =
        new QFileDialog(this, tr("Save the sheet"), m_session->folder(), tr("Sheets (*.yhn)"));
    dialog->setObjectName(u"saveDialog"_s);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setAcceptMode(QFileDialog::AcceptSave);
    dialog->setDefaultSuffix(u"yhn"_s);
    connect(dialog, &QFileDialog::fileSelected, this, write);
    dialog->open();
}

void MainWindow::settle(const std::function<void()>& then)
{
    if (!m_session->isModified()) {
        then();
        return;
    }
    auto* box =
        new QMessageBox(QMessageBox::Question, tr("Yellowhorn"),
                        tr("The sheet %1 has changes that are not saved.").arg(m_session->title()),
                        QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
    box->setObjectName(u"closeQuestion"_s);
    box->setAttribute(Qt::WA_DeleteOnClose);
    connect(box, &QMessageBox::buttonClicked, this, [this, box, then](QAbstractButton* b) {
        const auto role = box->standardButton(b);
        if (role == QMessageBox::Save)
            save(false, then);
        if (role == QMessageBox::Discard)
            then();
    });
    box->open();
}

namespace {

/// What a pin says: the reading without its place, where it has one.
QString valueOf(const QString& reading)
{
    const QString value = reading.section(u"   "_s, 1);
    return value.isEmpty() ? reading : value;
}

}  // namespace

QString MainWindow::keepReading(const QString& text, const std::array<double, 3>& at)
{
    m_trail.add(text, at, m_scene->shownTime());
    showResults();
    m_drawer->showTable(tr("pins"));
    return valueOf(text);
}

void MainWindow::readPinsAnew()
{
    // What was read at a time of a course stays what it was; it is of the result before.
    const bool isCourse = m_scene->shownTime().has_value();
    const QString before = tr("   (result before)");
    auto read = [&](auto& pins, const auto& reading) {
        for (size_t k = 0; k < pins.size() && pins.size() == m_trail.rows().size(); ++k) {
            const QString old = m_trail.rows()[k].reading;
            const QString now =
                !isCourse ? reading(pins[k].at) : old + (old.endsWith(before) ? QString() : before);
            m_trail.read(k, now);
            pins[k].text = valueOf(now);
        }
    };
    read(m_pins, [this](QPointF p) { return m_scene->reading(p); });
    read(m_solidPins, [this](const std::array<double, 3>& p) { return m_scene->reading(p, true); });
    m_scene->canvas()->setPins(m_pins);
    m_scene->solid()->setPins(m_solidPins);
}

void MainWindow::forgetPins()
{
    m_pins.clear();
    m_solidPins.clear();
    m_trail.clear();
    m_scene->canvas()->setPins({});
    m_scene->solid()->setPins({});
}

void MainWindow::onReplaced()
{
    if (isSolving())
        cancelSolve();
    m_results.clear();
    m_drawer->setModes({});
    m_solved = {};
    forgetPins();
    m_scene->canvas()->setMarks({});
    m_scene->solid()->setMarks({});
    m_scene->setField(nullptr, {});
    m_scene->canvas()->setShape({});
    m_scene->solid()->setShape({});
    m_drawer->clearLog();
    m_sheet->foldAll();
    m_faults.clear();
    showSheet();
    loadResults(true);
}

void MainWindow::showSheet()
{
    m_stack->setCurrentWidget(m_columns);
    for (QPushButton* b : {m_undo, m_redo, m_solve})
        b->show();
    m_title->setText(m_session->title() + (m_session->isModified() ? u" •"_s : QString()));
    showStatus();
    m_sheet->setFocus();
}

void MainWindow::onChanged()
{
    m_title->setText(m_session->title() + (m_session->isModified() ? u" •"_s : QString()));
    if (const QString folder = m_session->resultFolder();
        !m_results.isEmpty() && folder != m_results.folder() &&
        QFileInfo::exists(folder + "/run.json"_L1))
        m_results.moveTo(folder);
    m_undo->setEnabled(m_session->canUndo());
    m_redo->setEnabled(m_session->canRedo());
    // What the sheet alone can tell is shown at once; the solver adds what needs the geometry.
    m_faults = sheet::validate(sheet::Model(m_session->document()));
    refreshSheet();
    const sheet::Space space = sheet::Model(m_session->document()).space();
    m_scene->setAxisymmetric(space == sheet::Space::axisymmetric);
    if (m_scene->isSolid() != (space == sheet::Space::solid))
        m_scene->setSolid(space == sheet::Space::solid);
    m_shapeTimer.start();
    showResults();
    updateHandles();
}

void MainWindow::refreshSheet()
{
    SheetState s;
    s.document = m_session->document();
    s.faults = m_faults;
    // A slip of the pen is said where it stands, and stops nothing.
    for (base::Fault& f : sheet::unknownWords(s.document)) {
        f.incomplete = true;
        s.faults.push_back(std::move(f));
    }
    const sheet::Model model(s.document);
    for (const sheet::Line& l : s.document.lines) {
        const sheet::Kind* kind = sheet::findKind(l.kind);
        for (const sheet::Slot& f : kind ? kind->entries : std::vector<sheet::Slot>()) {
            if (f.type != sheet::SlotType::quantity || !l.has(f.key))
                continue;
            const base::Expression e(l.get(f.key));
            if (e.parsed() && !e.names().empty())
                if (const auto q = model.shown(l, f.key);
                    q && (l.kind == "parameter" || q->dimension == f.dimension))
                    s.evaluated[{l.id, f.key}] =
                        q->dimension == base::Dimension{} && model.isInDegrees(l, f.key)
                            ? base::formatNumber(q->value.real() * 180 / base::pi, 4) + "°"
                            : base::format(q->value.real(), q->dimension, 4);
        }
        if (m_results.isEmpty() || !kind || kind->section == "aim")
            continue;
        bool same = false;
        for (const sheet::Line& o : m_solved.lines)
            same = same || (o.kind == l.kind && o.values == l.values);
        if (!same)
            s.changedSinceSolve.insert(l.id);
    }
    m_sheet->setState(std::move(s));
}

void MainWindow::closeEvent(QCloseEvent* e)
{
    if (m_closing || !m_session->isModified()) {
        e->accept();
        return;
    }
    e->ignore();
    settle([this] {
        m_closing = true;
        QTimer::singleShot(0, this, &QWidget::close);
    });
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e)
{
    if (e->mimeData()->hasUrls())
        e->acceptProposedAction();
}

void MainWindow::showMaterials()
{
    auto* dialog = new MaterialsDialog(this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &MaterialsDialog::chosen, this,
            [this](const std::map<std::string, std::string>& values) {
                if (m_stack->currentWidget() == m_columns)
                    m_session->change([&](sheet::Document& d) { d.add("material", values); });
            });
    dialog->open();
}

void MainWindow::importShape(const QString& file)
{
    const sheet::Line* space = m_session->document().first("space");
    auto* dialog = new ImportDialog(file, space ? space->get("type") : "plane", this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QDialog::accepted, this,
            [this, dialog] { m_session->change([&](sheet::Document& d) { dialog->addTo(d); }); });
    dialog->open();
}

void MainWindow::dropEvent(QDropEvent* e)
{
    for (const QUrl& url : e->mimeData()->urls()) {
        const QString f = url.toLocalFile(), ending = QFileInfo(f).suffix().toLower();
        if (ending == "yhn"_L1) {
            openFile(f);
        } else if (ImportDialog::canRead(f) && m_stack->currentWidget() == m_columns) {
            importShape(f);
        } else {
            say(tr("%1 is no sheet and no shape (STEP, BREP, STL, DXF, GDSII, PNG)")
                    .arg(QFileInfo(f).fileName()),
                true);
        }
    }
}

}  // namespace yh::app
