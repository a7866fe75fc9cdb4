#include "app/main_window.h"

#include "app/drawer.h"
#include "app/findings_view.h"
#include "app/opening_page.h"
#include "app/scene_panel.h"
#include "app/theme.h"
#include "sheet/schema.h"
#include "sheet/sentence.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDateTime>
#include <QDir>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QJsonArray>
#include <QLabel>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QProgressBar>
#include <QPushButton>
#include <QSettings>
#include <QSplitter>
#include <QStackedWidget>
#include <QSvgRenderer>
#include <QPainter>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace {

QString qs(const std::string& s) { return QString::fromStdString(s); }

std::string lengthText(double v)
{
    // What is drawn on a grid is a round number again.
    return base::format(v, base::dim::length, 6);
}

QPixmap logo(int size, double ratio)
{
    QPixmap p(int(size * ratio), int(size * ratio));
    p.setDevicePixelRatio(ratio);
    p.fill(Qt::transparent);
    QPainter painter(&p);
    QSvgRenderer(u":/logo.svg"_s).render(&painter, QRectF(0, 0, size, size));
    return p;
}

base::Faults faultsFrom(const QJsonArray& list)
{
    base::Faults faults;
    for (const QJsonValue& f : list)
        faults.push_back({f["number"_L1].toInt(), {f["line"_L1].toInt(-1), f["field"_L1].toString().toStdString(), f["offset"_L1].toInt(-1)}, f["text"_L1].toString().toStdString(), f["incomplete"_L1].toBool()});
    return faults;
}

QJsonArray idsOf(const sheet::Document& d)
{
    QJsonArray ids;
    for (const sheet::Line& l : d.lines)
        ids << l.id;
    return ids;
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
    m_columns->setSizes({384, 632, 264});
    m_middle->setSizes({532, 222});
    m_columns->setStretchFactor(1, 1);
    m_middle->setStretchFactor(0, 1);
    m_stack->addWidget(m_opening);
    m_stack->addWidget(m_columns);

    m_shapeTimer.setSingleShot(true);
    constexpr int shapeDelay = 40;
    m_shapeTimer.setInterval(shapeDelay);
    connect(&m_shapeTimer, &QTimer::timeout, this, &MainWindow::requestShape);
    connect(m_session, &Session::replaced, this, &MainWindow::onReplaced);
    connect(m_session, &Session::changed, this, &MainWindow::onChanged);
    connect(m_session, &Session::notice, this, [this](const QString& t) { say(t); });
    connect(m_shapeClient, &SolverClient::event, this, &MainWindow::onShapeEvent);
    connect(m_shapeClient, &SolverClient::died, this, [this](const QString&) { say(tr("The shape could not be drawn: the solver ended. It starts anew with the next change."), true); });
    connect(m_solver, &SolverClient::event, this, &MainWindow::onSolveEvent);
    connect(m_solver, &SolverClient::died, this, [this](const QString& why) {
        m_solveRequest = -1;
        m_drawer->appendLog(why);
        showStatus();
        say(why, true);
        Q_EMIT solveEnded(false);
    });
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
    connect(m_sheet, &SheetView::removeRequested, this, [this](int line) { m_session->change([line](sheet::Document& d) { d.remove(line); }); });
    connect(m_sheet, &SheetView::moveRequested, this, [this](int line, int steps) { m_session->change([line, steps](sheet::Document& d) { d.move(line, steps); }); });
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
        m_pinRows.emplace_back(p, text);
        m_pins.push_back({p, text.section(u"   "_s, 1).isEmpty() ? text : text.section(u"   "_s, 1)});
        m_scene->canvas()->setPins(m_pins);
        showResults();
        m_drawer->showTable(tr("pins"));
    });
    connect(m_findings, &FindingsView::findingClicked, this, [this](int line) { m_sheet->select(line); });
    connect(m_findings, &FindingsView::checkClicked, this, [this](int index) {
        m_scene->canvas()->setMarks(m_results.marksOfCheck(index));
        if (const int line = m_results.lineOfCheck(index); line >= 0)
            m_sheet->select(line);
    });
    connect(m_findings, &FindingsView::unitRequested, this, &MainWindow::chooseUnit);
    connect(m_opening, &OpeningPage::cardChosen, this, &MainWindow::newSheet);
    connect(m_opening, &OpeningPage::fileChosen, this, &MainWindow::openFile);
    connect(m_opening, &OpeningPage::openRequested, this, &MainWindow::openDialog);
    connect(m_opening, &OpeningPage::recoverRequested, this, [this](const QString& f) {
        if (const QString failed = m_session->recover(f); !failed.isEmpty())
            say(failed, true);
    });
    connect(m_opening, &OpeningPage::discardRequested, this, [this](const QString& f) {
        Session::discardRecovery(f);
        showOpeningPage();
    });
    buildActions();
    showOpeningPage();
    m_shapeClient->warmUp();
    m_solver->warmUp();
}

MainWindow::~MainWindow()
{
    m_shapeClient->disconnect(this);
    m_solver->disconnect(this);
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
    m_undo = new QPushButton(tr("Undo"), header);
    m_redo = new QPushButton(tr("Redo"), header);
    m_solve = new QPushButton(tr("Solve"), header);
    m_undo->setObjectName(u"undo"_s);
    m_redo->setObjectName(u"redo"_s);
    m_solve->setObjectName(u"solve"_s);
    m_undo->setToolTip(tr("Take back the last change (Ctrl+Z)"));
    m_redo->setToolTip(tr("Do it again (Ctrl+Shift+Z)"));
    m_solve->setToolTip(tr("Solve the sheet (F5); while it runs: cancel (Esc)"));
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
    setDark(false);
    mark->setPixmap(logo(22, devicePixelRatioF()));
    setWindowIcon(QIcon(u":/logo.svg"_s));
}

void MainWindow::buildActions()
{
    connect(m_undo, &QPushButton::clicked, m_session, &Session::undo);
    connect(m_redo, &QPushButton::clicked, m_session, &Session::redo);
    connect(m_solve, &QPushButton::clicked, this, [this] { isSolving() ? cancelSolve() : solve(); });
    auto action = [this](const QString& text, const QKeySequence& key, auto slot) {
        auto* a = new QAction(text, this);
        a->setShortcut(key);
        connect(a, &QAction::triggered, this, slot);
        addAction(a);
        return a;
    };
    action(tr("Undo"), QKeySequence::Undo, [this] { m_session->undo(); });
    action(tr("Redo"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Z), [this] { m_session->redo(); });
    action(tr("Solve"), QKeySequence(Qt::Key_F5), [this] { solve(); });
    action(tr("Add a line"), QKeySequence(Qt::CTRL | Qt::Key_K), [this] {
        if (m_stack->currentWidget() == m_columns)
            m_sheet->openCompose({});
    });
    action(tr("Fit the scene"), QKeySequence(Qt::CTRL | Qt::Key_0), [this] { m_scene->canvas()->fit(); });
    rebuildMenu();
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
    add(menu, tr("Save as …"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S), [this] { save(true); });
    menu->addSeparator();
    QMenu* exports = menu->addMenu(tr("Export"));
    const struct
    {
        QString text, what;
    } kinds[] = {{tr("Field (VTU) …"), u"vtu"_s}, {tr("Findings (CSV) …"), u"findings"_s}, {tr("Sweep (CSV) …"), u"sweep"_s}, {tr("Curve (SVG, PDF, PNG) …"), u"plot"_s}, {tr("Scene (PNG) …"), u"scene"_s}};
    for (const auto& k : kinds)
        exports->addAction(k.text, this, [this, what = k.what] { exportTo(what); });
    menu->addSeparator();
    QAction* dark = menu->addAction(tr("Dark theme"));
    dark->setCheckable(true);
    dark->setChecked(m_dark);
    connect(dark, &QAction::toggled, this, &MainWindow::setDark);
    menu->addAction(tr("Forget pins"), this, [this] {
        m_pins.clear();
        m_pinRows.clear();
        m_scene->canvas()->setPins({});
        showResults();
    });
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
    for (const QString& d : {here + "/../share/yellowhorn/demo"_L1, here + "/../demo"_L1, here + "/../../demo"_L1, here + "/../../../demo"_L1})
        if (QDir(d).exists())
            return QDir::cleanPath(d);
    return {};
}

void MainWindow::showOpeningPage()
{
    QList<OpeningPage::Entry> recent, demos, recovered;
    for (const QString& f : Session::recentFiles())
        recent << OpeningPage::Entry{QFileInfo(f).completeBaseName(), {}, f};
    for (const QFileInfo& f : QDir(demoFolder()).entryInfoList({u"*.yhn"_s}, QDir::Files, QDir::Name)) {
        QString aim;
        if (const auto r = sheet::readFile(f.filePath().toStdString()); r.document && r.document->first("aim"))
            aim = qs(r.document->first("aim")->get("text"));
        demos << OpeningPage::Entry{f.completeBaseName(), aim, f.absoluteFilePath()};
    }
    for (const QString& f : Session::recoverable()) {
        QString title = tr("untitled sheet");
        if (const auto r = sheet::readFile(f.toStdString()); r.document)
            if (auto it = r.document->extra.find("recovered from"); it != r.document->extra.end() && it->second.size() > 2)
                title = QFileInfo(qs(it->second).mid(1).chopped(1)).fileName();
        recovered << OpeningPage::Entry{title, tr("as it was %1").arg(QFileInfo(f).lastModified().toString(u"yyyy-MM-dd hh:mm:ss"_s)), f};
    }
    m_opening->setEntries(recent, demos, recovered);
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
    if (const QString failed = m_session->open(path); !failed.isEmpty()) {
        say(failed, true);
        auto* box = new QMessageBox(QMessageBox::Warning, tr("Open"), failed, QMessageBox::Ok, this);
        box->setObjectName(u"openFailed"_s);
        box->setAttribute(Qt::WA_DeleteOnClose);
        box->open();
    }
}

void MainWindow::newSheet(const QString& card) { m_session->start(sheet::newSheet(card.toStdString())); }

void MainWindow::openDialog()
{
    auto* dialog = new QFileDialog(this, tr("Open a sheet"), m_session->folder(), tr("Sheets (*.yhn)"));
    dialog->setObjectName(u"openDialog"_s);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QFileDialog::fileSelected, this, &MainWindow::openFile);
    dialog->open();
}

void MainWindow::save(bool as)
{
    if (!as && !m_session->path().isEmpty()) {
        const QString failed = m_session->save(m_session->path());
        say(failed.isEmpty() ? tr("saved") : failed, !failed.isEmpty());
        return;
    }
    auto* dialog = new QFileDialog(this, tr("Save the sheet"), m_session->folder(), tr("Sheets (*.yhn)"));
    dialog->setObjectName(u"saveDialog"_s);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setAcceptMode(QFileDialog::AcceptSave);
    dialog->setDefaultSuffix(u"yhn"_s);
    connect(dialog, &QFileDialog::fileSelected, this, [this](const QString& f) {
        const QString failed = m_session->save(f);
        say(failed.isEmpty() ? tr("saved") : failed, !failed.isEmpty());
    });
    dialog->open();
}

void MainWindow::onReplaced()
{
    if (isSolving())
        cancelSolve();
    m_results.clear();
    m_solved = {};
    m_pins.clear();
    m_pinRows.clear();
    m_scene->canvas()->setPins({});
    m_scene->canvas()->setMarks({});
    m_scene->setField(nullptr, {});
    m_scene->canvas()->setShape({});
    m_drawer->clearLog();
    m_faults.clear();
    m_stack->setCurrentWidget(m_columns);
    for (QPushButton* b : {m_undo, m_redo, m_solve})
        b->show();
    loadResults(true);
    m_sheet->setFocus();
}

void MainWindow::onChanged()
{
    m_title->setText(m_session->title() + (m_session->isModified() ? u" •"_s : QString()));
    m_undo->setEnabled(m_session->canUndo());
    m_redo->setEnabled(m_session->canRedo());
    // What the sheet alone can tell is shown at once; the solver adds what needs the geometry.
    m_faults = sheet::validate(sheet::Model(m_session->document()));
    refreshSheet();
    m_scene->setAxisymmetric(m_session->document().first("space") && m_session->document().first("space")->get("type") == "axisymmetric");
    m_shapeTimer.start();
    showResults();
    updateHandles();
}

void MainWindow::refreshSheet()
{
    SheetState s;
    s.document = m_session->document();
    s.faults = m_faults;
    const sheet::Model model(s.document);
    for (const sheet::Line& l : s.document.lines) {
        const sheet::Kind* kind = sheet::findKind(l.kind);
        for (const sheet::Field& f : kind ? kind->fields : std::vector<sheet::Field>()) {
            if (f.type != sheet::FieldType::quantity || !l.has(f.key))
                continue;
            const base::Expression e(l.get(f.key));
            if (e.parsed() && !e.names().empty())
                if (const auto q = model.shown(l, f.key); q && (l.kind == "parameter" || q->dimension == f.dimension))
                    s.evaluated[{l.id, f.key}] = base::format(q->value.real(), q->dimension, 4);
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

void MainWindow::requestShape()
{
    m_shapeRequest = m_shapeClient->send({{u"do"_s, u"shape"_s}, {u"sheet"_s, qs(sheet::write(m_session->document()))}, {u"ids"_s, idsOf(m_session->document())}, {u"folder"_s, m_session->folder()}});
}

void MainWindow::onShapeEvent(const QJsonObject& e)
{
    if (e["event"_L1] != "shape"_L1 || e["id"_L1].toInt() != m_shapeRequest)
        return;
    m_faults = faultsFrom(e["faults"_L1].toArray());
    m_places = e["places"_L1].toObject();
    if (!e.contains("failed"_L1))
        m_scene->canvas()->setShape(SceneShape::fromJson(e));
    else if (m_session->document().lines.empty())
        m_scene->canvas()->setShape({});
    refreshSheet();
    highlight(m_sheet->selectedLine(), {});
    Q_EMIT shapeShown();
}

void MainWindow::highlight(int line, const std::string& field)
{
    std::set<int> faces, edges;
    const QJsonObject fields = m_places[QString::number(line)].toObject();
    for (auto it = fields.begin(); it != fields.end(); ++it) {
        if (!field.empty() && it.key() != qs(field) && fields.contains(qs(field)))
            continue;
        for (const QJsonValue& f : it.value()["faces"_L1].toArray())
            faces.insert(f.toInt());
        for (const QJsonValue& x : it.value()["edges"_L1].toArray())
            edges.insert(x.toInt());
    }
    m_scene->canvas()->setHighlight(faces, edges, line);
}

void MainWindow::editField(int line, const QString& field, const QString& text)
{
    m_session->change([&](sheet::Document& d) {
        const sheet::Line* l = d.find(line);
        // A new name goes along wherever the old one is spoken of.
        const std::string old = field == "name"_L1 && l ? l->name() : std::string();
        d.set(line, field.toStdString(), text.toStdString());
        if (l && l->kind == "electrode" && field == "voltage"_L1 && !text.isEmpty())
            d.set(line, "charge", {});
        if (l && l->kind == "electrode" && field == "charge"_L1 && !text.isEmpty())
            d.set(line, "voltage", {});
        if (!old.empty() && !text.isEmpty())
            sheet::rename(d, old, text.toStdString());
    });
}

void MainWindow::composeLine(const QString& section, const QString& text)
{
    const sheet::Composed c = sheet::compose(text.toStdString(), m_session->document());
    if (section == "aim"_L1 && !c.ok) {
        m_session->change([&](sheet::Document& d) { d.add("aim", {{"text", text.toStdString()}}); });
        return;
    }
    if (!c.ok) {
        say(qs(c.fault), true);
        return;
    }
    int added = -1;
    m_session->change([&](sheet::Document& d) {
        // A line of which there is only one takes the place of the old one.
        const sheet::Kind* kind = sheet::findKind(c.kind);
        if (const sheet::Line* old = kind->single ? d.first(c.kind) : nullptr) {
            added = old->id;
            for (const auto& [key, value] : c.values)
                d.set(added, key, value);
        } else {
            added = d.add(c.kind, c.values);
        }
    });
    m_sheet->select(added);
}

void MainWindow::addDrawn(Tool tool, const QVector<QPointF>& points, const QVector<int>& arcs)
{
    auto pair = [](QPointF p) { return lengthText(p.x()) + ", " + lengthText(p.y()); };
    std::string kind;
    std::map<std::string, std::string> values;
    if (tool == Tool::rectangle) {
        kind = "rectangle";
        const QRectF r = QRectF(points[0], points[1]).normalized();
        if (r.width() <= 0 || r.height() <= 0)
            return;
        values = {{"width", lengthText(r.width())}, {"height", lengthText(r.height())}, {"at", pair(r.center())}};
    } else if (tool == Tool::disc) {
        kind = "disc";
        values = {{"radius", lengthText(std::hypot(points[1].x() - points[0].x(), points[1].y() - points[0].y()))}, {"at", pair(points[0])}};
    } else if (tool == Tool::profile) {
        kind = "profile";
        values = {{"from", pair(points[0])}, {"to", pair(points[1])}};
    } else {
        kind = tool == Tool::path ? "path" : "thin line";
        std::string text;
        for (int i = 0; i < int(points.size()); ++i) {
            if (arcs.contains(i + 1))
                continue;  // it is the point an arc goes through
            if (!text.empty())
                text += "; ";
            text += arcs.contains(i) ? "arc via " + pair(points[i - 1]) + " to " + pair(points[i]) : pair(points[i]);
        }
        values = {{"points", text}};
    }
    int added = -1;
    m_session->change([&](sheet::Document& d) {
        if (sheet::isShape(kind))
            values["name"] = d.freeName(kind == "thin line" ? "line" : kind);
        added = d.add(kind, values);
    });
    m_sheet->select(added);
}

void MainWindow::offerPlace(const QString& rule, bool edge, int line, QPoint global)
{
    if (rule.isEmpty())
        return;
    auto* menu = new QMenu(this);
    menu->setObjectName(u"placeCard"_s);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    QAction* head = menu->addAction((edge ? tr("edge  ") : tr("region  ")) + rule);
    head->setEnabled(false);
    menu->addSeparator();
    const std::string place = rule.toStdString();
    auto addLine = [this](const std::string& kind, std::map<std::string, std::string> values, const std::string& editField) {
        int added = -1;
        m_session->change([&](sheet::Document& d) {
            const sheet::Kind* k = sheet::findKind(kind);
            if (k->field("name"))
                values["name"] = d.freeName(kind == "electrode" ? "electrode" : kind == "floating" ? "F" : kind);
            added = d.add(kind, values);
        });
        m_sheet->select(added);
        if (!editField.empty())
            m_sheet->edit(added, editField);
    };
    // Lines that still lack a place come first.
    for (const sheet::Line& l : m_session->document().lines) {
        const sheet::Kind* k = sheet::findKind(l.kind);
        if (!k || k->section == "shape")
            continue;
        for (const sheet::Field& f : k->fields)
            if (f.type == sheet::FieldType::place && !l.has(f.key)) {
                if (edge && l.kind == "material")
                    continue;
                menu->addAction(tr("%1 %2").arg(qs(sheet::plainText(l)), qs(f.marker)), this, [this, id = l.id, key = f.key, place] { m_session->change([&](sheet::Document& d) { d.set(id, key, place); }); });
            }
    }
    menu->addAction(tr("electrode here …"), this, [addLine, place] { addLine("electrode", {{"voltage", "1 V"}, {"on", place}}, "voltage"); });
    menu->addAction(tr("floating conductor here"), this, [addLine, place] { addLine("floating", {{"on", place}}, {}); });
    if (!edge) {
        menu->addAction(tr("material here …"), this, [addLine, place] { addLine("material", {{"in", place}}, "material"); });
        menu->addAction(tr("largest |E| here"), this, [addLine, place] { addLine("largest field", {{"in", place}}, {}); });
        menu->addAction(tr("force on it"), this, [addLine, place] { addLine("force", {{"on", place}}, {}); });
        if (line >= 0)
            menu->addAction(tr("show its line"), this, [this, line] { m_sheet->select(line); });
    } else {
        menu->addAction(tr("surface charge here …"), this, [addLine, place] { addLine("surface charge", {{"on", place}}, "density"); });
        menu->addAction(tr("finer cells here …"), this, [addLine, place] { addLine("mesh size", {{"in", place}}, "size"); });
    }
    menu->popup(global);
}

void MainWindow::updateHandles()
{
    Handles h;
    const sheet::Line* l = m_session->document().find(m_sheet->selectedLine());
    auto literal = [&](const char* key) {
        for (const auto& part : base::splitOutsideBrackets(l->get(key), ','))
            if (!base::Expression(part.text).names().empty())
                return false;
        return true;
    };
    if (l && (l->kind == "rectangle" || l->kind == "disc") && !l->has("copies")) {
        const sheet::Model model(m_session->document());
        if (model.fieldFaults(*l).empty()) {
            const sheet::Point c = model.point(*l, "at");
            h.line = l->id;
            h.disc = l->kind == "disc";
            h.centre = {c.x, c.y};
            h.halfWidth = h.disc ? model.number(*l, "radius") : model.number(*l, "width") / 2;
            h.halfHeight = h.disc ? h.halfWidth : model.number(*l, "height") / 2;
            h.canMove = literal("at");
            h.canSizeX = literal(h.disc ? "radius" : "width");
            h.canSizeY = !h.disc && literal("height");
        }
    }
    m_scene->canvas()->setHandles(h);
}

void MainWindow::dragHandle(int line, QPointF c, double halfWidth, double halfHeight)
{
    m_session->change([&](sheet::Document& d) {
        const sheet::Line* l = d.find(line);
        if (!l)
            return;
        const sheet::Model model(d);
        const sheet::Point old = model.point(*l, "at");
        if (old.x != c.x() || old.y != c.y())
            d.set(line, "at", lengthText(c.x()) + ", " + lengthText(c.y()));
        if (l->kind == "disc") {
            if (model.number(*l, "radius") != halfWidth)
                d.set(line, "radius", lengthText(halfWidth));
            return;
        }
        if (model.number(*l, "width") != 2 * halfWidth)
            d.set(line, "width", lengthText(2 * halfWidth));
        if (model.number(*l, "height") != 2 * halfHeight)
            d.set(line, "height", lengthText(2 * halfHeight));
    });
}

void MainWindow::solve()
{
    if (m_stack->currentWidget() != m_columns || isSolving())
        return;
    for (const base::Fault& f : m_faults) {
        // A line that only a newer version knows does not stop this one, but must be named.
        say((f.incomplete ? tr("Something is missing: %1") : tr("Something is wrong: %1")).arg(qs(f.text)), true);
        if (f.place.line >= 0)
            m_sheet->select(f.place.line);
        Q_EMIT solveEnded(false);
        return;
    }
    m_drawer->clearLog();
    m_solving = m_session->document();
    m_clock.start();
    m_solveRequest = m_solver->send({{u"do"_s, u"solve"_s}, {u"sheet"_s, qs(sheet::write(m_solving))}, {u"ids"_s, idsOf(m_solving)}, {u"folder"_s, m_session->folder()}, {u"out"_s, m_session->resultFolder()}});
    m_progress->setValue(0);
    showStatus();
}

void MainWindow::cancelSolve()
{
    m_solver->cancel();
    say(tr("cancelling …"));
}

void MainWindow::showStatus()
{
    const bool busy = m_solveRequest >= 0;
    m_progress->setVisible(busy);
    m_solve->setText(busy ? tr("Cancel") : tr("Solve"));
    if (!busy && !m_results.isEmpty())
        say(m_results.summary());
}

void MainWindow::onSolveEvent(const QJsonObject& e)
{
    const QString what = e["event"_L1].toString();
    if (what == "ready"_L1 || e["id"_L1].toInt() != m_solveRequest)
        return;
    if (what == "progress"_L1) {
        m_progress->setValue(int(1000 * e["fraction"_L1].toDouble()));
        say(e["doing"_L1].toString());
    } else if (what == "log"_L1) {
        m_drawer->appendLog(e["text"_L1].toString());
    } else if (what == "done"_L1) {
        m_solveRequest = -1;
        m_solved = m_solving;
        loadResults(false);
        showStatus();
        Q_EMIT solveEnded(true);
    } else if (what == "cancelled"_L1) {
        m_solveRequest = -1;
        showStatus();
        say(m_results.isEmpty() ? tr("cancelled") : tr("cancelled; the last result is kept"));
        Q_EMIT solveEnded(false);
    } else if (what == "failed"_L1) {
        m_solveRequest = -1;
        m_faults = faultsFrom(e["faults"_L1].toArray());
        refreshSheet();
        showStatus();
        if (!m_faults.empty()) {
            say(qs(m_faults[0].text), true);
            m_drawer->appendLog(qs(m_faults[0].text));
            if (m_faults[0].place.line >= 0)
                m_sheet->select(m_faults[0].place.line);
        }
        Q_EMIT solveEnded(false);
    }
}

void MainWindow::loadResults(bool fromDisk)
{
    Results fresh;
    fresh.units = m_results.units;
    std::vector<int> ids;
    if (fromDisk)
        for (const sheet::Line& l : m_session->document().lines)
            ids.push_back(l.id);
    if (const QString failed = fresh.load(m_session->resultFolder(), ids); !failed.isEmpty()) {
        if (!fromDisk)
            say(failed, true);
        return;
    }
    m_results = std::move(fresh);
    if (fromDisk && !isStale())
        m_solved = m_session->document();
    auto field = std::make_shared<FieldData>();
    if (const QString failed = field->load(m_results.fieldPath()); !failed.isEmpty())
        m_drawer->appendLog(failed);
    m_scene->setField(field, m_results.fieldLines());
    m_scene->canvas()->setMarks({});
    refreshSheet();
    showResults();
    if (fromDisk)
        showStatus();
}

bool MainWindow::isStale() const { return !m_results.isEmpty() && qs(sheet::hash(m_session->document())) != m_results.sheetHash(); }

void MainWindow::showResults()
{
    const bool stale = isStale();
    m_scene->canvas()->setStale(stale);
    m_findings->setView(m_results.isEmpty() ? std::vector<FindingView>() : m_results.findings(), m_results.isEmpty() ? std::vector<CheckView>() : m_results.checks(),
                        stale ? tr("The sheet was edited since: these figures are of its state before. Press Solve (F5).") : QString());
    std::vector<TableView> tables;
    if (!m_results.isEmpty())
        tables = m_results.tables();
    if (!m_pinRows.empty()) {
        TableView pins;
        pins.name = tr("pins");
        pins.header << tr("reading");
        for (const auto& [at, text] : m_pinRows)
            pins.rows.push_back({text});
        tables.insert(tables.begin(), pins);
    }
    m_drawer->setTables(tables);
    m_drawer->setCurves(m_results.isEmpty() ? std::vector<CurveView>() : m_results.curves());
    m_drawer->setPasses(m_results.isEmpty() ? TableView() : m_results.passes());
}

void MainWindow::chooseUnit(int line, const QPoint& at)
{
    const auto numbers = m_results.numbersOfLine(line);
    if (numbers.empty())
        return;
    auto* menu = new QMenu(this);
    menu->setObjectName(u"unitMenu"_s);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    for (const base::DisplayUnit& u : base::unitChoices(numbers[0].dimension))
        menu->addAction(qs(u.symbol), this, [this, numbers, u] {
            for (const auto& n : numbers)
                m_results.units[n.name] = u;
            showResults();
        });
    menu->popup(at);
}

void MainWindow::exportTo(const QString& what)
{
    const struct
    {
        QString what, filter, suffix, source;
    } kinds[] = {{u"vtu"_s, tr("Fields (*.vtu)"), u"vtu"_s, m_results.fieldPath()},
                 {u"findings"_s, tr("Tables (*.csv)"), u"csv"_s, m_results.folder() + "/tables/findings.csv"_L1},
                 {u"sweep"_s, tr("Tables (*.csv)"), u"csv"_s, m_results.folder() + "/tables/sweep.csv"_L1},
                 {u"plot"_s, tr("Plots (*.svg *.pdf *.png)"), u"svg"_s, {}},
                 {u"scene"_s, tr("Pictures (*.png)"), u"png"_s, {}}};
    for (const auto& k : kinds) {
        if (k.what != what)
            continue;
        if (!k.source.isEmpty() && !QFileInfo::exists(k.source)) {
            say(what == "sweep"_L1 ? tr("There is no sweep to export.") : tr("There is nothing to export yet: solve first."), true);
            return;
        }
        auto* dialog = new QFileDialog(this, tr("Export"), m_session->folder(), k.filter);
        dialog->setObjectName(u"exportDialog"_s);
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->setAcceptMode(QFileDialog::AcceptSave);
        dialog->setDefaultSuffix(k.suffix);
        connect(dialog, &QFileDialog::fileSelected, this, [this, what, source = k.source](const QString& f) {
            bool good = false;
            if (what == "plot"_L1) {
                good = m_drawer->savePlot(f);
            } else if (what == "scene"_L1) {
                good = m_scene->canvas()->grab().save(f);
            } else {
                QFile::remove(f);
                good = QFile::copy(source, f);
            }
            say(good ? tr("exported to %1").arg(QFileInfo(f).fileName()) : tr("%1 cannot be written").arg(f), !good);
        });
        dialog->open();
    }
}

void MainWindow::closeEvent(QCloseEvent* e)
{
    if (m_closing || !m_session->isModified() || m_stack->currentWidget() == m_opening || m_session->document().lines.empty()) {
        e->accept();
        return;
    }
    e->ignore();
    auto* box = new QMessageBox(QMessageBox::Question, tr("Yellowhorn"), tr("The sheet %1 has changes that are not saved.").arg(m_session->title()), QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
    box->setObjectName(u"closeQuestion"_s);
    box->setAttribute(Qt::WA_DeleteOnClose);
    connect(box, &QMessageBox::buttonClicked, this, [this, box](QAbstractButton* b) {
        const auto role = box->standardButton(b);
        if (role == QMessageBox::Save) {
            save(false);
            m_closing = !m_session->isModified();
        }
        if (role == QMessageBox::Discard)
            m_closing = true;
        if (m_closing)
            QTimer::singleShot(0, this, &QWidget::close);
    });
    box->open();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e)
{
    if (e->mimeData()->hasUrls())
        e->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* e)
{
    for (const QUrl& url : e->mimeData()->urls()) {
        const QString f = url.toLocalFile(), ending = QFileInfo(f).suffix().toLower();
        if (ending == "yhn"_L1) {
            openFile(f);
        } else if ((ending == "dxf"_L1 || ending == "step"_L1 || ending == "stp"_L1) && m_stack->currentWidget() == m_columns) {
            m_session->change([&](sheet::Document& d) { d.add("import", {{"name", d.freeName("outline")}, {"file", f.toStdString()}}); });
        } else {
            say(tr("%1 is no sheet and no outline (DXF, STEP)").arg(QFileInfo(f).fileName()), true);
        }
    }
}

}  // namespace yh::app
