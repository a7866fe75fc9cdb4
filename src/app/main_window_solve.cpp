// Solving, results and exports of the window.
#include "app/main_window.h"

#include "sheet/topic.h"

#include "app/drawer.h"
#include "app/findings_view.h"
#include "app/scene_panel.h"
#include "app/text.h"

#include <QDir>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QJsonArray>
#include <QMenu>
#include <QProgressBar>
#include <QPushButton>
#include <QSplitter>
#include <QStackedWidget>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace {

base::Faults faultsFrom(const QJsonArray& list)
{
    base::Faults faults;
    for (const QJsonValue& f : list)
        faults.push_back({f["number"_L1].toInt(),
                          {f["line"_L1].toInt(-1), f["field"_L1].toString().toStdString(),
                           f["offset"_L1].toInt(-1)},
                          f["text"_L1].toString().toStdString(),
                          f["incomplete"_L1].toBool()});
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

void MainWindow::solve()
{
    if (m_stack->currentWidget() != m_columns || isSolving())
        return;
    for (const base::Fault& f : m_faults) {
        // A line that only a newer version knows does not stop this one, but must be named.
        say((f.incomplete ? tr("Something is missing: %1") : tr("Something is wrong: %1"))
                .arg(qs(f.text)),
            true);
        if (f.place.line >= 0)
            m_sheet->select(f.place.line);
        Q_EMIT solveEnded(false);
        return;
    }
    m_drawer->clearLog();
    m_solving = m_session->document();
    m_clock.start();
    m_solveFolder = m_session->resultFolder();
    m_solveRequest = m_solver->send({{u"do"_s, u"solve"_s},
                                     {u"sheet"_s, qs(sheet::write(m_solving))},
                                     {u"ids"_s, idsOf(m_solving)},
                                     {u"folder"_s, m_session->folder()},
                                     {u"out"_s, m_solveFolder}});
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
        m_session->takeResults(m_solveFolder);  // the sheet may have got another name meanwhile
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
    m_scene->setAsked(m_results.askedUnits());
    m_scene->setField(field, m_results.fieldLines());
    m_scene->setPattern(m_results.pattern());
    m_scene->canvas()->setMarks({});
    m_scene->solid()->setMarks({});
    QStringList modes;
    for (const Results::Mode& m : m_results.modes())
        modes << m.text;
    m_drawer->setModes(modes);
    refreshSheet();
    readPinsAnew();
    showResults();
    if (fromDisk)
        showStatus();
}

/// What shows the field of a mode, counted from 0.
QString MainWindow::lensOfMode(int mode) const
{
    const auto modes = m_results.modes();
    return mode < int(modes.size()) ? u'|' + modes[size_t(mode)].quantity + u'|' : QString();
}

void MainWindow::showModePictures()
{
    for (int k = 0; k < int(m_results.modes().size()); ++k)
        m_drawer->setModePicture(k, m_scene->pictureOf(lensOfMode(k), Drawer::modePicture));
}

bool MainWindow::isStale() const
{
    return !m_results.isEmpty() && qs(sheet::hash(m_session->document())) != m_results.sheetHash();
}

void MainWindow::showResults()
{
    const bool stale = isStale();
    m_scene->canvas()->setStale(stale);
    m_scene->solid()->setStale(stale);
    m_findings->setView(m_results.isEmpty() ? std::vector<FindingView>() : m_results.findings(),
                        m_results.isEmpty() ? std::vector<CheckView>() : m_results.checks(),
                        stale ? tr("The sheet was edited since: these figures are of its state "
                                   "before. Press Solve (F5).")
                              : QString());
    std::vector<TableView> tables;
    if (!m_results.isEmpty())
        tables = m_results.tables();
    if (!m_trail.rows().empty()) {
        TableView pins;
        pins.name = tr("pins");
        pins.header << (stale ? tr("reading, before the last edit") : tr("reading"))
                    << tr("from the pin before");
        for (const PinTrail::Row& row : m_trail.rows())
            pins.rows.push_back({row.reading, row.since});
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
        menu->addAction(unitText(u.symbol), this, [this, numbers, u] {
            for (const auto& n : numbers)
                m_results.units[n.name] = u;
            showResults();
        });
    menu->popup(at);
}

std::vector<MainWindow::Export> MainWindow::exportsNow() const
{
    const QString tables = tr("Tables (*.csv)"), folder = m_results.folder();
    std::vector<Export> list;
    if (!m_results.isEmpty()) {
        list.push_back({tr("Field (VTU) …"), u"file"_s, tr("Fields (*.vtu)"), u"vtu"_s,
                        m_results.fieldPath()});
        list.push_back({tr("Findings (CSV) …"), u"file"_s, tables, u"csv"_s,
                        folder + "/tables/findings.csv"_L1});
        list.push_back(
            {tr("Sweep (CSV) …"), u"file"_s, tables, u"csv"_s, folder + "/tables/sweep.csv"_L1});
        for (const QFileInfo& f :
             QDir(folder).entryInfoList({u"*.s*p"_s, u"*.ts"_s}, QDir::Files, QDir::Name))
            list.push_back({tr("Network %1 (Touchstone) …").arg(f.fileName()), u"file"_s,
                            tr("Networks (*.%1)").arg(f.suffix()), f.suffix(), f.filePath()});
        for (const QFileInfo& f :
             QDir(folder + "/tables"_L1).entryInfoList({u"*.csv"_s}, QDir::Files, QDir::Name))
            if (f.fileName() != "findings.csv"_L1 && f.fileName() != "sweep.csv"_L1)
                list.push_back({tr("Table %1 (CSV) …").arg(f.completeBaseName()), u"file"_s, tables,
                                u"csv"_s, f.filePath()});
        if (!m_results.curves().empty())
            list.push_back({tr("Curve (SVG, PDF, PNG) …"),
                            u"plot"_s,
                            tr("Plots (*.svg *.pdf *.png)"),
                            u"svg"_s,
                            {}});
    }
    std::erase_if(
        list, [](const Export& e) { return e.what == "file"_L1 && !QFileInfo::exists(e.source); });
    list.push_back({tr("Scene (PNG) …"), u"scene"_s, tr("Pictures (*.png)"), u"png"_s, {}});
    if (m_scene->times().size() > 1)
        list.push_back({tr("Scene over time (PNG pictures) …"),
                        u"course"_s,
                        tr("Pictures (*.png)"),
                        u"png"_s,
                        {}});
    if (sheet::topicOf(m_session->document()).hasShape)
        list.push_back(
            {tr("Shape (STEP) …"), u"step"_s, tr("STEP files (*.step *.stp)"), u"step"_s, {}});
    return list;
}

void MainWindow::ask(const Export& e)
{
    auto* dialog = new QFileDialog(this, tr("Export"), m_session->folder(), e.filter);
    dialog->setObjectName(u"exportDialog"_s);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setAcceptMode(QFileDialog::AcceptSave);
    dialog->setDefaultSuffix(e.suffix);
    connect(dialog, &QFileDialog::fileSelected, this,
            [this, e](const QString& file) { exportTo(file, e); });
    dialog->open();
}

void MainWindow::exportTo(const QString& file, const Export& e)
{
    if (e.what == "step"_L1) {
        m_shapeClient->send({{u"do"_s, u"step"_s},
                             {u"sheet"_s, qs(sheet::write(m_session->document()))},
                             {u"ids"_s, idsOf(m_session->document())},
                             {u"folder"_s, m_session->folder()},
                             {u"file"_s, file}});
        return;
    }
    bool good = false;
    if (e.what == "course"_L1) {
        const int count = exportCourse(file);
        say(count > 0 ? tr("exported %1 pictures").arg(count)
                      : tr("%1 cannot be written").arg(file),
            count == 0);
        return;
    }
    if (e.what == "plot"_L1) {
        good = m_drawer->savePlot(file);
    } else if (e.what == "scene"_L1) {
        good =
            (m_scene->isSolid() ? m_scene->solid()->grab() : m_scene->canvas()->grab()).save(file);
    } else {
        QFile::remove(file);
        good = QFile::copy(e.source, file);
    }
    say(good ? tr("exported to %1").arg(QFileInfo(file).fileName())
             : tr("%1 cannot be written").arg(file),
        !good);
}

int MainWindow::exportCourse(const QString& file)
{
    // name.png becomes name-000.png, name-001.png, …, evenly spaced in time.
    constexpr int pictures = 60;
    const QFileInfo info(file);
    const double end = m_scene->times().back();
    int written = 0;
    for (int i = 0; i < pictures; ++i) {
        m_scene->setTime(end * i / (pictures - 1));
        QWidget* scene =
            m_scene->isSolid() ? static_cast<QWidget*>(m_scene->solid()) : m_scene->canvas();
        const QString name = info.path() + u'/' + info.completeBaseName() +
                             QStringLiteral("-%1.png").arg(i, 3, 10, QLatin1Char('0'));
        if (!scene->grab().save(name))
            return 0;
        ++written;
    }
    return written;
}

std::vector<NamedPlace> MainWindow::namedPlaces() const
{
    std::vector<NamedPlace> list;
    for (const sheet::Line& l : m_session->document().lines) {
        const sheet::Kind* kind = sheet::findKind(l.kind);
        const QJsonObject fields = m_places[QString::number(l.id)].toObject();
        // What is made or asked for has its own place in the window.
        if (!kind || !kind->slot("name") || l.name().empty() || sheet::isShape(l.kind) ||
            kind->section == "shape" || kind->section == "ask" || fields.isEmpty())
            continue;
        NamedPlace& place = list.emplace_back();
        place.name = qs(l.name());
        const QJsonObject where = fields.begin().value().toObject();
        for (const QJsonValue& f : where["faces"_L1].toArray())
            place.faces.insert(f.toInt());
        for (const QJsonValue& x : where["edges"_L1].toArray())
            place.edges.insert(x.toInt());
    }
    return list;
}

void MainWindow::requestShape()
{
    m_shapeRequest = m_shapeClient->send({{u"do"_s, u"shape"_s},
                                          {u"sheet"_s, qs(sheet::write(m_session->document()))},
                                          {u"ids"_s, idsOf(m_session->document())},
                                          {u"folder"_s, m_session->folder()}});
}

void MainWindow::onShapeEvent(const QJsonObject& e)
{
    if (e["event"_L1] == "step"_L1)
        say(tr("the shape is written"), false);
    if (e["event"_L1] == "failed"_L1 && !e["faults"_L1].toArray().isEmpty())
        say(e["faults"_L1][0]["text"_L1].toString(), true);
    if (e["event"_L1] != "shape"_L1 || e["id"_L1].toInt() != m_shapeRequest)
        return;
    m_faults = faultsFrom(e["faults"_L1].toArray());
    m_places = e["places"_L1].toObject();
    if (!e.contains("failed"_L1)) {
        const bool solid = e["solid"_L1].toBool();
        m_scene->setSolid(solid);
        std::array<bool, 3> planes{};
        const sheet::Model model(m_session->document());
        for (const sheet::Line* l : m_session->document().ofKind("mirror plane"))
            planes[size_t(model.axisOf(l->get("at")))] = true;
        const sheet::Line* wedge = m_session->document().first("wedge symmetry");
        m_scene->setSymmetry(planes, wedge && model.slotFaults(*wedge).empty()
                                         ? std::max(1, model.wedges(*wedge))
                                         : 1);
        if (solid)
            m_scene->solid()->setShape(SolidShape::fromJson(e));
        else
            m_scene->canvas()->setShape(SceneShape::fromJson(e));
    } else {
        // Nothing of this sheet can be drawn: what was drawn before it is not its device.
        m_scene->canvas()->setShape({});
        m_scene->solid()->setShape({});
    }
    m_scene->setNamed(e.contains("failed"_L1) ? std::vector<NamedPlace>() : namedPlaces());
    const sheet::Topic& topic = sheet::topicOf(m_session->document());
    m_scene->setDiagram(topic.diagram ? topic.diagram(m_session->document()) : sheet::Diagram());
    refreshSheet();
    highlight(m_sheet->selectedLine(), {});
    Q_EMIT shapeShown();
}

}  // namespace yh::app
