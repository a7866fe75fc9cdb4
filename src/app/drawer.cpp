#include "app/drawer.h"

#include "app/charts.h"
#include "app/theme.h"

#include <QComboBox>
#include <QFileInfo>
#include <QHeaderView>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QSplitter>
#include <QSvgGenerator>
#include <QTabBar>
#include <QTabWidget>
#include <QTableWidget>
#include <QVBoxLayout>
#include <cmath>
#include <limits>
#include "app/plot.h"

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

Drawer::Drawer(QWidget* parent) : QWidget(parent)
{
    setObjectName(u"drawer"_s);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    m_tabs = new QTabWidget(this);
    m_tabs->setObjectName(u"drawerTabs"_s);
    m_tabs->setDocumentMode(true);
    m_tabs->tabBar()->setDrawBase(false);
    auto page = [this](QComboBox*& choice, QWidget* content) {
        auto* w = new QWidget;
        auto* l = new QVBoxLayout(w);
        l->setContentsMargins(8, 4, 8, 4);
        l->setSpacing(2);
        choice = new QComboBox(w);
        choice->setSizeAdjustPolicy(QComboBox::AdjustToContents);
        choice->hide();
        l->addWidget(choice, 0, Qt::AlignRight);
        l->addWidget(content, 1);
        return w;
    };
    m_plot = new QCustomPlot;
    m_plot->setObjectName(u"curve"_s);
    m_plot->setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
    m_plot->setMinimumHeight(60);
    m_table = new QTableWidget;
    m_table->setObjectName(u"table"_s);
    m_passes = new QTableWidget;
    m_passes->setObjectName(u"passes"_s);
    for (QTableWidget* t : {m_table, m_passes}) {
        t->setEditTriggers(QAbstractItemView::NoEditTriggers);
        t->verticalHeader()->hide();
        t->setShowGrid(false);
        t->setFont(numberFont(8.75));
        t->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    }
    m_log = new QPlainTextEdit;
    m_log->setObjectName(u"log"_s);
    m_log->setReadOnly(true);
    m_log->setFont(numberFont(8.5));
    m_log->setMaximumBlockCount(5000);
    m_tabs->addTab(page(m_curveChoice, m_plot), tr("Curve"));
    m_tabs->addTab(page(m_tableChoice, m_table), tr("Table"));
    m_tabs->addTab(m_passes, tr("Refinement"));
    m_tabs->addTab(m_log, tr("Log"));
    m_modes = new QListWidget;
    m_modes->setObjectName(u"modes"_s);
    m_modes->setAccessibleName(tr("Modes"));
    m_modes->setViewMode(QListView::IconMode);
    m_modes->setIconSize(modePicture);
    m_modes->setMovement(QListView::Static);
    m_modes->setResizeMode(QListView::Adjust);
    m_modes->setSpacing(8);
    m_modes->setFrameShape(QFrame::NoFrame);
    m_tabs->setTabVisible(m_tabs->addTab(m_modes, tr("Modes")), false);
    connect(m_tabs, &QTabWidget::currentChanged, this, [this] {
        m_isInPlaceOfCurve = false;
        wantPictures();
    });
    connect(m_modes, &QListWidget::currentRowChanged, this, [this](int row) {
        if (row >= 0)
            Q_EMIT modeChosen(row);
    });
    m_curveChoice->setObjectName(u"curveChoice"_s);
    m_tableChoice->setObjectName(u"tableChoice"_s);
    column->addWidget(m_tabs);
    connect(m_curveChoice, &QComboBox::activated, this, &Drawer::showCurve);
    connect(m_tableChoice, &QComboBox::activated, this, qOverload<int>(&Drawer::showTable));
    connect(m_plot, &QCustomPlot::mouseDoubleClick, this,
            [this] { showCurve(m_curveChoice->currentIndex()); });
    // Where a legend covers least is known once the plot has its size.
    connect(m_plot, &QCustomPlot::afterLayout, this, [this] {
        const auto at = size_t(std::max(0, m_curveChoice->currentIndex()));
        if (m_plot->size() == m_legendPlacedFor || at >= m_curves.size() ||
            m_curves[at].chart != CurveView::Chart::lines || !m_plot->legend->visible())
            return;
        m_legendPlacedFor = m_plot->size();
        placeLegend(m_curves[at]);
        m_plot->replot(QCustomPlot::rpQueuedReplot);
    });
    // A click without a drag marks a place.
    connect(m_plot, &QCustomPlot::mousePress, this,
            [this](QMouseEvent* e) { m_pressed = e->position(); });
    connect(m_plot, &QCustomPlot::mouseRelease, this, [this](QMouseEvent* e) {
        constexpr double still = 3;
        if (QLineF(m_pressed, e->position()).length() < still)
            mark(m_plot->xAxis->pixelToCoord(e->position().x()));
    });
    retheme();
    showCurve(0);
}

void Drawer::retheme()
{
    const Theme& t = theme();
    m_plot->setBackground(QBrush(t.sheet));
    for (QCPAxis* a : {m_plot->xAxis, m_plot->yAxis}) {
        a->setBasePen(QPen(t.line));
        a->setTickPen(QPen(t.line));
        a->setSubTickPen(Qt::NoPen);
        a->setTickLabelColor(t.muted);
        a->setLabelColor(t.muted);
        a->setTickLabelFont(numberFont(8));
        a->setLabelFont(textFont(8.75));
        a->grid()->setPen(QPen(t.line));
        a->grid()->setZeroLinePen(QPen(t.line));
    }
    m_plot->xAxis->grid()->setVisible(false);
    showCurve(m_curveChoice->currentIndex());
}

void Drawer::setCurves(std::vector<CurveView> curves)
{
    const QString before = m_curveChoice->currentText();
    m_curves = std::move(curves);
    m_curveChoice->clear();
    for (const CurveView& c : m_curves)
        m_curveChoice->addItem(c.name);
    m_curveChoice->setVisible(!m_curves.empty());
    const int at = std::max(0, m_curveChoice->findText(before));
    m_curveChoice->setCurrentIndex(m_curves.empty() ? -1 : at);
    showCurve(at);
}

void Drawer::showCurve(int index)
{
    m_plot->clearPlottables();
    m_plot->clearItems();
    m_plot->yAxis2->setVisible(false);
    const Theme& t = theme();
    if (index < 0 || index >= int(m_curves.size())) {
        auto* text = new QCPItemText(m_plot);
        text->setText(tr("A sweep or a profile shows its curve here."));
        text->position->setType(QCPItemPosition::ptAxisRectRatio);
        text->position->setCoords(0.5, 0.5);
        text->setColor(t.muted);
        text->setFont(textFont());
        m_plot->xAxis->setVisible(false);
        m_plot->yAxis->setVisible(false);
        m_plot->replot(QCustomPlot::rpQueuedReplot);
        return;
    }
    const CurveView& c = m_curves[size_t(index)];
    if (c.chart != CurveView::Chart::lines) {
        showRound(c);
        return;
    }
    m_plot->setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
    m_plot->axisRect()->setAutoMargins(QCP::msAll);
    m_plot->xAxis->setVisible(true);
    m_plot->yAxis->setVisible(true);
    auto vec = [](const std::vector<double>& v) { return QVector<double>(v.begin(), v.end()); };
    QCPGraph* g = m_plot->addGraph();
    g->setPen(QPen(t.plum, 2));
    if (c.points)
        g->setScatterStyle(
            QCPScatterStyle(QCPScatterStyle::ssCircle, QPen(t.plum, 1.8), QBrush(t.sheet), 8));
    g->setData(vec(c.x), vec(c.y), true);
    m_plot->legend->setVisible(!c.more.empty() || !c.right.y.empty());
    if (!c.right.y.empty())
        showRight(c);
    if (!c.more.empty() || !c.right.y.empty()) {
        g->setName(c.more.empty() ? c.yLabel.section(u" / "_s, 0, 0) : c.first);
        styleLegend();
        const QColor colours[] = {t.yellow, t.good, t.warning, t.muted, t.ink};
        for (size_t i = 0; i < c.more.size(); ++i) {
            QCPGraph* other = m_plot->addGraph();
            const QColor& colour = colours[i % std::size(colours)];
            const auto& series = c.more[i];
            // Colours that come again are told apart by dashes.
            constexpr Qt::PenStyle styles[] = {Qt::SolidLine, Qt::DashLine, Qt::DotLine};
            other->setPen(
                QPen(colour, 2, styles[std::min(i / std::size(colours), std::size(styles) - 1)]));
            other->setName(series.name);
            other->setData(vec(series.x.empty() ? c.x : series.x), vec(series.y), true);
            if (!series.x.empty()) {
                other->setLineStyle(QCPGraph::lsNone);
                other->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCircle, QPen(t.plum, 0.8),
                                                       QBrush(colour), 6));
            }
        }
    }
    if (c.error.size() == c.y.size()) {
        auto* bars = new QCPErrorBars(m_plot->xAxis, m_plot->yAxis);
        bars->setDataPlottable(g);
        bars->setData(vec(c.error));
        bars->setPen(QPen(t.ink, 1.2));
    }
    for (size_t i = 0; i < c.x.size(); ++i)
        if (std::abs(c.x[i] - c.marked) <= 1e-9 * std::abs(c.marked)) {
            QCPGraph* m = m_plot->addGraph();
            m->setLineStyle(QCPGraph::lsNone);
            m->setScatterStyle(
                QCPScatterStyle(QCPScatterStyle::ssCircle, QPen(t.plum, 1.8), QBrush(t.yellow), 9));
            m->setData({c.x[i]}, {c.y[i]});
        }
    m_plot->xAxis->setLabel(c.xLabel);
    // A label longer than the axis would be cut; the name stands above the plot then.
    const bool fits =
        QFontMetrics(textFont(8.75)).horizontalAdvance(c.yLabel) < m_plot->height() - 70;
    m_plot->yAxis->setLabel(fits ? c.yLabel : c.yLabel.section(u" / "_s, -1));
    scaleUpwards(c);
    m_plot->rescaleAxes();
    for (QCPAxis* a : {m_plot->xAxis, m_plot->yAxis})
        a->scaleRange(1.12, a->scaleType() == QCPAxis::stLinear
                                ? a->range().center()
                                : std::sqrt(a->range().lower * a->range().upper));
    if (!c.right.y.empty())
        m_plot->yAxis2->setRange(-100, 100);
    placeLegend(c);
    m_plot->replot(QCustomPlot::rpQueuedReplot);
}

void Drawer::showRight(const CurveView& c)
{
    const Theme& t = theme();
    QCPAxis* axis = m_plot->yAxis2;
    QCPGraph* right = m_plot->addGraph(m_plot->xAxis, axis);
    right->setName(c.right.name);
    right->setPen(QPen(t.good, 1.5, Qt::DashLine));
    right->setData(QVector<double>(c.x.begin(), c.x.end()),
                   QVector<double>(c.right.y.begin(), c.right.y.end()), true);
    axis->setVisible(true);
    axis->setLabel(c.rightLabel);
    axis->setLabelFont(m_plot->yAxis->labelFont());
    axis->setLabelColor(t.good);
    axis->setTickLabelFont(m_plot->yAxis->tickLabelFont());
    axis->setTickLabelColor(t.good);
    axis->setBasePen(QPen(t.line));
    axis->setTickPen(QPen(t.line));
    axis->setSubTickPen(QPen(t.line));
    // Quarters of a turn.
    const QSharedPointer<QCPAxisTickerFixed> ticker(new QCPAxisTickerFixed);
    ticker->setTickStep(45);
    axis->setTicker(ticker);
}

void Drawer::scaleUpwards(const CurveView& c)
{
    const bool positive = std::all_of(c.y.begin(), c.y.end(), [](double y) { return y > 0; });
    const bool byRatios = c.byRatios && positive;
    m_plot->yAxis->setScaleType(byRatios ? QCPAxis::stLogarithmic : QCPAxis::stLinear);
    m_plot->yAxis->setTicker(byRatios ? QSharedPointer<QCPAxisTicker>(new QCPAxisTickerLog)
                                      : QSharedPointer<QCPAxisTicker>(new QCPAxisTicker));
    m_plot->yAxis->setNumberFormat(u"g"_s);
}

void Drawer::setLegendOutside(bool outside)
{
    QCPLegend* legend = m_plot->legend;
    QCPLayout* inset = m_plot->axisRect()->insetLayout();
    if (outside == (legend->layout() != inset))
        return;
    legend->layout()->take(legend);
    legend->setBorderPen(outside ? QPen(Qt::NoPen) : QPen(theme().line));
    if (outside) {
        // As high as its entries are, with nothing below it.
        auto* side = new QCPLayoutGrid;
        m_plot->plotLayout()->addElement(0, 1, side);
        side->addElement(0, 0, legend);
        side->addElement(1, 0, new QCPLayoutElement(m_plot));
        side->setRowStretchFactor(0, 0.001);
        m_plot->plotLayout()->setColumnStretchFactor(1, 0.001);
    } else {
        m_plot->plotLayout()->remove(m_plot->plotLayout()->element(0, 1));
        m_plot->plotLayout()->simplify();
        m_plot->axisRect()->insetLayout()->addElement(legend, Qt::AlignLeft | Qt::AlignBottom);
    }
}

void Drawer::placeLegend(const CurveView& c)
{
    // Names of many curves stand beside the plot, where they cover nothing.
    const QFontMetrics metrics(m_plot->legend->font());
    constexpr int mark = 52;
    int width = mark + metrics.horizontalAdvance(c.first);
    for (const auto& other : c.more)
        width += mark + metrics.horizontalAdvance(other.name);
    constexpr double most = 0.7;
    QCPLayoutInset* inset = m_plot->axisRect()->insetLayout();
    const int lost = m_plot->legend->layout() == inset ? 0 : m_plot->legend->outerRect().width();
    const QSize plot = m_plot->axisRect()->size() + QSize(lost, 0);
    const FreePlace inside =
        freePlace({std::min(1.0, (width + 30.0) / std::max(plot.width(), 200)),
                   std::min(1.0, (metrics.height() + 22.0) / std::max(plot.height(), 60))});
    const bool outside = (width > most * m_plot->width() && c.more.size() > 2) ||
                         (inside.covered > 0 && plot.width() > 200);
    setLegendOutside(outside);
    m_plot->legend->setFillOrder(outside ? QCPLayoutGrid::foRowsFirst
                                         : QCPLayoutGrid::foColumnsFirst);
    m_plot->legend->setWrap(outside ? 6 : 0);
    m_plot->legend->setFillOrder(m_plot->legend->fillOrder(), true);
    if (outside)
        return;
    inset->setInsetAlignment(0, inside.alignment);
}

Drawer::FreePlace Drawer::freePlace(const QSizeF& size) const
{
    // Where it covers least of the curves, in a corner if that is as good.
    const double wide = size.width(), high = size.height();
    const std::pair<Qt::AlignmentFlag, double> across[] = {{Qt::AlignLeft, 0},
                                                           {Qt::AlignRight, 1 - wide},
                                                           {Qt::AlignHCenter, (1 - wide) / 2}},
                                               up[] = {{Qt::AlignBottom, 0},
                                                       {Qt::AlignTop, 1 - high},
                                                       {Qt::AlignVCenter, (1 - high) / 2}};
    FreePlace best{Qt::AlignLeft | Qt::AlignBottom, std::numeric_limits<int>::max()};
    for (const auto& [v, low] : up)
        for (const auto& [h, left] : across)
            if (const int n = coveredBy({left, low, wide, high}); n < best.covered)
                best = {Qt::Alignment(h) | v, n};
    return best;
}

int Drawer::coveredBy(const QRectF& box) const
{
    auto shareOf = [](const QCPAxis* axis, double x) {
        const QCPRange r = axis->range();
        return axis->scaleType() == QCPAxis::stLinear
                   ? (x - r.lower) / r.size()
                   : std::log(x / r.lower) / std::log(r.upper / r.lower);
    };
    // Few places are joined by long lines.
    constexpr int between = 8, many = 200;
    int count = 0;
    for (int g = 0; g < m_plot->graphCount(); ++g) {
        const QCPGraph* graph = m_plot->graph(g);
        const bool joined = graph->lineStyle() != QCPGraph::lsNone && graph->dataCount() < many;
        QPointF before;
        for (auto d = graph->data()->constBegin(); d != graph->data()->constEnd(); ++d) {
            const QPointF at(shareOf(graph->keyAxis(), d->key),
                             shareOf(graph->valueAxis(), d->value));
            const int steps = joined && d != graph->data()->constBegin() ? between : 1;
            for (int k = 1; k <= steps; ++k)
                count += box.contains(before + (at - before) * (double(k) / steps));
            before = at;
        }
    }
    return count;
}

void Drawer::styleLegend()
{
    const Theme& t = theme();
    // One row covers least.
    m_plot->legend->setFillOrder(QCPLayoutGrid::foColumnsFirst);
    m_plot->legend->setFont(textFont(8.75));
    m_plot->legend->setTextColor(t.ink);
    m_plot->legend->setBrush(t.sheet);
    m_plot->legend->setBorderPen(QPen(t.line));
}

void Drawer::showRound(const CurveView& view)
{
    setLegendOutside(false);
    m_plot->setInteractions({});
    // Their labels need some room, which the scene above gives.
    const int wanted = 17 * QFontMetrics(numberFont(8)).height();
    if (auto* splitter = qobject_cast<QSplitter*>(parentWidget());
        splitter && isVisible() && m_plot->height() > 0 && m_plot->height() < wanted) {
        const int more = wanted - m_plot->height(), place = splitter->indexOf(this);
        QList<int> sizes = splitter->sizes();
        for (qsizetype i = 0; i < sizes.size(); ++i)
            if (i + 1 == place)
                sizes[i] -= more;
            else if (i == place)
                sizes[i] += more;
        splitter->setSizes(sizes);
    }
    if (view.chart == CurveView::Chart::polar)
        drawPolar(*m_plot, view);
    else
        drawReflectionChart(*m_plot, view);
    styleLegend();
    // Beside the disc there is room.
    m_plot->legend->setFillOrder(QCPLayoutGrid::foRowsFirst);
    m_plot->axisRect()->insetLayout()->setInsetAlignment(0, Qt::AlignLeft | Qt::AlignTop);
    m_plot->legend->setVisible(true);
    m_plot->replot(QCustomPlot::rpQueuedReplot);
}

void Drawer::resizeEvent(QResizeEvent* event)
{
    QWidget::resizeEvent(event);
    // Round charts keep their shape.
    if (const int k = m_curveChoice->currentIndex();
        k >= 0 && k < int(m_curves.size()) && m_curves[size_t(k)].chart != CurveView::Chart::lines)
        showCurve(k);
}

namespace {

/** Text beside a curve's marker, on the side that has room. */
void addNote(QCustomPlot* plot, double x, const QString& text)
{
    const Theme& t = theme();
    auto* note = new QCPItemText(plot);
    note->setObjectName(u"marker"_s);
    const bool left = x > plot->xAxis->range().center();
    note->position->setTypeX(QCPItemPosition::ptPlotCoords);
    note->position->setTypeY(QCPItemPosition::ptAxisRectRatio);
    note->position->setCoords(x, 0.04);
    note->setPositionAlignment((left ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignTop);
    note->setTextAlignment(Qt::AlignLeft);
    note->setPadding(QMargins(6, 3, 6, 3));
    note->setText(text);
    note->setFont(numberFont(8));
    note->setColor(t.ink);
    note->setBrush(t.sheet);
    note->setPen(QPen(t.line));
}

}  // namespace

void Drawer::mark(double x)
{
    const int k = m_curveChoice->currentIndex();
    if (k < 0 || k >= int(m_curves.size()) || m_curves[size_t(k)].x.empty() ||
        m_curves[size_t(k)].chart != CurveView::Chart::lines)
        return;
    const CurveView& c = m_curves[size_t(k)];
    const auto near = std::min_element(c.x.begin(), c.x.end(), [x](double a, double b) {
        return std::abs(a - x) < std::abs(b - x);
    });
    const auto i = size_t(near - c.x.begin());
    m_plot->clearItems();
    const Theme& t = theme();
    auto* line = new QCPItemStraightLine(m_plot);
    line->point1->setCoords(c.x[i], 0);
    line->point2->setCoords(c.x[i], 1);
    line->setPen(QPen(t.ink, 1, Qt::DashLine));
    QString text = u"%1   "_s.arg(c.x[i], 0, 'g', 6) + c.xLabel.section(u" / "_s, -1);
    auto add = [&](const QString& name, double y) {
        text += u"\n%1 %2"_s.arg(y, 0, 'g', 5).arg(name);
    };
    const QString unit = c.yLabel.section(u" / "_s, -1);
    add(c.more.empty() ? unit : unit + u"  "_s + c.first, c.y[i]);
    for (const auto& s : c.more)
        add(unit + u"  "_s + s.name, s.y[i]);
    if (i < c.right.y.size())
        add(c.rightLabel.section(u" / "_s, -1) + u"  "_s + c.right.name, c.right.y[i]);
    addNote(m_plot, c.x[i], text);
    m_plot->replot(QCustomPlot::rpQueuedReplot);
}

void Drawer::fill(QTableWidget* w, const TableView& v)
{
    w->clear();
    w->setColumnCount(int(v.header.size()));
    w->setRowCount(int(v.rows.size()));
    w->setHorizontalHeaderLabels(v.header);
    for (int r = 0; r < int(v.rows.size()); ++r)
        for (int c = 0; c < int(v.rows[size_t(r)].size()); ++c)
            w->setItem(r, c, new QTableWidgetItem(v.rows[size_t(r)][c]));
    w->resizeColumnsToContents();
    w->resizeRowsToContents();
}

void Drawer::setTables(std::vector<TableView> tables)
{
    const QString before = m_tableChoice->currentText();
    m_tables = std::move(tables);
    m_tableChoice->clear();
    for (const TableView& t : m_tables)
        m_tableChoice->addItem(t.name);
    m_tableChoice->setVisible(m_tables.size() > 1);
    const int at = std::max(0, m_tableChoice->findText(before));
    m_tableChoice->setCurrentIndex(m_tables.empty() ? -1 : at);
    showTable(at);
}

void Drawer::showTable(int index)
{
    if (index >= 0 && index < int(m_tables.size()))
        fill(m_table, m_tables[size_t(index)]);
    else
        fill(m_table, {});
}

void Drawer::showTable(const QString& name)
{
    if (const int at = m_tableChoice->findText(name); at >= 0) {
        m_tableChoice->setCurrentIndex(at);
        showTable(at);
        m_tabs->setCurrentIndex(1);
    }
}

void Drawer::setPasses(const TableView& passes)
{
    fill(m_passes, passes);
    // A result without a curve shows how it came about; the curve comes back with the next one.
    const int curve = 0, of = m_tabs->indexOf(m_passes), now = m_tabs->currentIndex();
    if (m_curves.empty() && now == curve && m_passes->rowCount() > 0) {
        m_tabs->setCurrentIndex(of);
        m_isInPlaceOfCurve = true;
    } else if (m_isInPlaceOfCurve && now == of && !m_curves.empty()) {
        m_tabs->setCurrentIndex(curve);
    }
}
void Drawer::appendLog(const QString& text)
{
    m_log->appendPlainText(text);
}
void Drawer::clearLog()
{
    m_log->clear();
}
void Drawer::setModes(const QStringList& names)
{
    const QSignalBlocker quiet(m_modes);
    m_modes->clear();
    QPixmap empty(modePicture);
    empty.fill(theme().line);
    for (const QString& name : names)
        m_modes->addItem(new QListWidgetItem(QIcon(empty), name));
    m_modesAreFresh = false;
    m_tabs->setTabVisible(m_tabs->indexOf(m_modes), !names.isEmpty());
    wantPictures();
}

void Drawer::setModePicture(int mode, const QPixmap& picture)
{
    if (QListWidgetItem* item = m_modes->item(mode))
        item->setIcon(QIcon(picture));
}

void Drawer::wantPictures()
{
    if (m_modesAreFresh || m_modes->count() == 0 || m_tabs->currentWidget() != m_modes)
        return;
    m_modesAreFresh = true;
    Q_EMIT modePicturesWanted();
}

void Drawer::showTab(int index)
{
    m_tabs->setCurrentIndex(index);
}

bool Drawer::savePlot(const QString& path)
{
    const QString ending = QFileInfo(path).suffix().toLower();
    if (ending == "pdf"_L1)
        return m_plot->savePdf(path);
    if (ending == "svg"_L1) {
        QSvgGenerator svg;
        svg.setFileName(path);
        svg.setSize(m_plot->size());
        svg.setViewBox(m_plot->rect());
        QCPPainter painter;
        if (!painter.begin(&svg))
            return false;
        m_plot->toPainter(&painter, m_plot->width(), m_plot->height());
        return painter.end();
    }
    return m_plot->savePng(path, 0, 0, 2.0);
}

}  // namespace yh::app
