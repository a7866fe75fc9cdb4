#include "app/scene_panel.h"

#include "app/flow_layout.h"
#include "app/text.h"
#include "app/theme.h"
#include "base/constants.h"
#include "base/expression.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QSignalBlocker>
#include <QSlider>
#include <QStackedWidget>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace dim = base::dim;

ScenePanel::ScenePanel(QWidget* parent) : QWidget(parent)
{
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    auto* bar = new QWidget(this);
    bar->setObjectName(u"lensBar"_s);
    m_pills = new FlowLayout(bar);
    m_pills->setContentsMargins(12, 8, 12, 6);
    m_pills->setSpacing(6);
    m_drawPill = pill(u"draw"_s, tr("draw"),
                      tr("Draw a shape by clicks; it becomes a line of the sheet"), false);
    m_drawPill->setPopupMode(QToolButton::InstantPopup);
    auto* draw = new QMenu(m_drawPill);
    draw->setObjectName(u"drawMenu"_s);
    const struct
    {
        QString text;
        Tool tool;
        Qt::Key key;
    } tools[] = {{tr("select and move"), Tool::select, Qt::Key_Escape},
                 {tr("rectangle"), Tool::rectangle, Qt::Key_R},
                 {tr("disc"), Tool::disc, Qt::Key_D},
                 {tr("path of lines and arcs"), Tool::path, Qt::Key_P},
                 {tr("thin line"), Tool::thinLine, Qt::Key_L},
                 {tr("profile line"), Tool::profile, Qt::Key_F}};
    for (const auto& t : tools) {
        QAction* a = draw->addAction(t.text, this, [this, tool = t.tool] { setTool(tool); });
        if (t.tool != Tool::select) {
            a->setShortcut(QKeySequence(Qt::CTRL | Qt::SHIFT | t.key));
            addAction(a);
        }
    }
    m_drawPill->setMenu(draw);
    m_quantityPill = pill(u"quantity"_s, m_quantity, tr("Which quantity the colours show"), false);
    m_quantityPill->setPopupMode(QToolButton::InstantPopup);
    m_unitPill = pill(u"unit"_s, u"kV/m"_s, tr("Unit of the colours"), false);
    m_unitPill->setPopupMode(QToolButton::InstantPopup);
    m_potential = pill(u"potentialLines"_s, tr("potential"), tr("Lines of equal potential"), true);
    m_lines = pill(u"fieldLines"_s, tr("field lines"),
                   tr("Field lines, each with the same charge at its foot"), true);
    m_meshPill = pill(u"mesh"_s, tr("mesh"), tr("Triangles of the last pass"), true);
    m_arrows = pill(u"arrows"_s, tr("arrows"), tr("Direction of E"), true);
    m_patternPill = pill(u"pattern"_s, tr("pattern"), QString(), true);
    m_movedPill =
        pill(u"moved"_s, tr("moved"), tr("Draws the shape moved, many times further"), true);
    m_movedPill->setChecked(true);
    m_mapPill = pill(u"map"_s, tr("colours"), tr("Colour map"), false);
    m_mapPill->setPopupMode(QToolButton::InstantPopup);
    m_pin = pill(u"pin"_s, tr("pin"), tr("Click in the scene to keep a reading"), true);
    m_viewPill = pill(u"view"_s, tr("view"), tr("Standard views (keys 0 to 6)"), false);
    m_throughPill =
        pill(u"through"_s, tr("see through"), tr("Faces let what is behind shine"), true);
    m_wholePill = pill(u"whole"_s, tr("whole"),
                       tr("Shows the mirror images too; figures are for the whole anyway"), true);
    m_toolPill = pill(u"tool"_s, tr("drag"),
                      tr("What dragging does: turn, choose by a box, or draw a profile"), false);
    m_sectionPill = pill(u"section"_s, tr("section"), tr("Cut the picture open"), false);
    m_sectionAt = new QSlider(Qt::Horizontal, this);
    m_sectionAt->setObjectName(u"sectionAt"_s);
    m_sectionAt->setAccessibleName(tr("Place of the section"));
    m_sectionAt->setRange(1, 999);
    m_sectionAt->setValue(500);
    m_sectionAt->setFixedWidth(110);
    m_pills->addWidget(m_sectionAt);
    m_potential->setChecked(true);
    auto* maps = new QMenu(m_mapPill);
    for (const QString& m : {u"blossom"_s, u"tide"_s, u"grey"_s, u"cividis"_s})
        maps->addAction(m, this, [this, m] {
            m_map = m;
            applyLens(true);
        });
    maps->addSeparator();
    QAction* decades = maps->addAction(tr("by decades"));
    decades->setObjectName(u"byDecades"_s);
    decades->setCheckable(true);
    decades->setToolTip(tr("Logarithmic: what is a thousandth of the largest still shows"));
    connect(decades, &QAction::toggled, this, [this](bool on) {
        m_byDecades = on;
        applyLens(true);
    });
    QAction* off = maps->addAction(tr("no colours"));
    off->setCheckable(true);
    connect(off, &QAction::toggled, this, [this](bool on) {
        m_layers.colours = !on;
        m_canvas->setLayers(m_layers);
        m_solid->setLayers(m_layers);
    });
    m_mapPill->setMenu(maps);
    auto* middle = new QHBoxLayout;
    middle->setContentsMargins(0, 0, 0, 0);
    middle->setSpacing(0);
    m_canvas = new SceneCanvas(this);
    m_solid = new SolidCanvas(this);
    m_stack = new QStackedWidget(this);
    m_stack->addWidget(m_canvas);
    m_stack->addWidget(m_solid);
    m_diagram = new DiagramCanvas(this);
    m_stack->addWidget(m_diagram);
    m_ruler = new ColourRuler(this);
    middle->addWidget(m_stack, 1);
    middle->addWidget(m_ruler);
    m_reading = new QLabel(this);
    m_reading->setObjectName(u"reading"_s);
    m_reading->setFont(numberFont(8.75));
    m_reading->setContentsMargins(12, 3, 12, 5);
    m_reading->setTextFormat(Qt::PlainText);
    m_reading->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    column->addWidget(bar);
    column->addLayout(middle, 1);
    buildPlayer();
    column->addWidget(m_player);
    column->addWidget(m_reading);
    const auto layers = [this] {
        m_layers.potentialLines = m_potential->isChecked();
        m_layers.fieldLines = m_lines->isChecked();
        m_layers.mesh = m_meshPill->isChecked();
        m_layers.arrows = m_arrows->isChecked();
        m_layers.pattern = m_patternPill->isChecked();
        m_canvas->setLayers(m_layers);
        m_solid->setLayers(m_layers);
    };
    for (QToolButton* b : {m_potential, m_lines, m_meshPill, m_arrows, m_patternPill})
        connect(b, &QToolButton::toggled, this, layers);
    connect(m_movedPill, &QToolButton::toggled, this, [this] {
        applyMoved();
        showPills();
        m_canvas->update();
    });
    connect(m_pin, &QToolButton::toggled, this,
            [this](bool on) { setTool(on ? Tool::pin : Tool::select); });
    connect(m_canvas, &SceneCanvas::hovered, this, [this](QPointF p, const QString& region) {
        m_reading->setText(reading(p) + (region.isEmpty() ? QString() : u"   "_s + region));
    });
    connect(m_canvas, &SceneCanvas::left, this, [this] { m_reading->clear(); });
    connect(m_canvas, &SceneCanvas::pinned, this,
            [this](QPointF p) { Q_EMIT pinned(p, reading(p)); });
    connect(m_canvas, &SceneCanvas::drawn, this, [this] { setTool(Tool::select); });
    connect(m_ruler, &ColourRuler::rangeChanged, this, [this](double low, double high) {
        const base::DisplayUnit& u = m_units[m_quantity];
        m_low = u.si(low);
        m_high = u.si(high);
        const Quantity q = current();
        applyLensTo(q,
                    m_map.isEmpty() ? (q.lens.component >= 0 ? u"tide"_s : u"blossom"_s) : m_map);
    });
    connect(m_ruler, &ColourRuler::reset, this, [this] { applyLens(); });
    buildSolidPills();
    rebuildMenus();
    setField(nullptr, {});
}

void ScenePanel::buildSolidPills()
{
    auto* views = new QMenu(m_viewPill);
    views->setObjectName(u"viewMenu"_s);
    const std::pair<QString, QString> names[] = {
        {u"corner"_s, tr("corner")}, {u"front"_s, tr("front")}, {u"back"_s, tr("back")},
        {u"left"_s, tr("left")},     {u"right"_s, tr("right")}, {u"top"_s, tr("top")},
        {u"bottom"_s, tr("bottom")}};
    for (const auto& [key, text] : names)
        views->addAction(text, this, [this, key = key] { m_solid->setView(key); });
    views->addSeparator();
    auto* apart = views->addMenu(tr("move apart"));
    const std::pair<QString, double> shares[] = {
        {tr("not"), 0.0}, {tr("a little"), 0.3}, {tr("far"), 1.0}};
    for (const auto& [text, share] : shares)
        apart->addAction(text, this, [this, share = share] { m_solid->setApart(share); });
    views->addAction(tr("show all"), this, [this] { m_solid->showAll(); });
    m_viewPill->setMenu(views);
    m_viewPill->setPopupMode(QToolButton::InstantPopup);
    connect(m_throughPill, &QToolButton::toggled, m_solid, &SolidCanvas::setSeeThrough);
    connect(m_wholePill, &QToolButton::toggled, m_solid, &SolidCanvas::showWhole);
    m_wholePill->setEnabled(false);
    auto* sections = new QMenu(m_sectionPill);
    sections->setObjectName(u"sectionMenu"_s);
    const std::pair<QString, int> axes[] = {
        {tr("none"), -1}, {tr("across x"), 0}, {tr("across y"), 1}, {tr("across z"), 2}};
    for (const auto& [text, axis] : axes)
        sections->addAction(text, this, [this, axis = axis] {
            m_sectionAxis = axis;
            m_sectionAt->setVisible(axis >= 0);
            m_solid->setSection(axis, m_sectionAt->value() / 1000.0);
        });
    m_sectionPill->setMenu(sections);
    m_sectionPill->setPopupMode(QToolButton::InstantPopup);
    connect(m_sectionAt, &QSlider::valueChanged, this,
            [this](int v) { m_solid->setSection(m_sectionAxis, v / 1000.0); });
    connect(m_solid, &SolidCanvas::left, this, [this] { m_reading->clear(); });
    connect(m_solid, &SolidCanvas::hovered, this,
            [this](const QString& text, double x, double y, double z, bool inside) {
                m_reading->setText(reading({x, y, z}, inside) + u"   "_s + text);
            });
    connect(m_solid, &SolidCanvas::pinned, this, [this](const std::array<double, 3>& at, int) {
        Q_EMIT solidPinned(at, reading(at, true));
    });
    connect(m_solid, &SolidCanvas::profiled, this, [this] { setTool(Tool::select); });
    connect(m_solid, &SolidCanvas::boxChosen, this, [this] { setTool(Tool::select); });
    auto* tools = new QMenu(m_toolPill);
    tools->setObjectName(u"toolMenu"_s);
    const struct
    {
        QString text;
        Tool tool;
    } list[] = {{tr("turn and choose"), Tool::select},
                {tr("choose by a box"), Tool::box},
                {tr("profile line"), Tool::profile}};
    for (const auto& t : list)
        tools->addAction(t.text, this, [this, tool = t.tool] { setTool(tool); });
    m_toolPill->setMenu(tools);
    m_toolPill->setPopupMode(QToolButton::InstantPopup);
}

void ScenePanel::buildPlayer()
{
    m_player = new QWidget(this);
    m_player->setObjectName(u"player"_s);
    auto* row = new QHBoxLayout(m_player);
    row->setContentsMargins(12, 2, 12, 2);
    m_play = new QToolButton(m_player);
    m_play->setObjectName(u"play"_s);
    m_play->setProperty("lens", true);
    m_play->setCheckable(true);
    m_play->setText(tr("play"));
    m_play->setAccessibleName(tr("Play the course over time"));
    m_timeAt = new QSlider(Qt::Horizontal, m_player);
    m_timeAt->setObjectName(u"timeAt"_s);
    m_timeAt->setAccessibleName(tr("Time"));
    m_timeAt->setRange(0, 1000);
    m_timeText = new QLabel(m_player);
    m_timeText->setObjectName(u"timeText"_s);
    m_timeText->setFont(numberFont(8.75));
    m_timeText->setMinimumWidth(90);
    row->addWidget(m_play);
    row->addWidget(m_timeAt, 1);
    row->addWidget(m_timeText);
    m_player->hide();
    m_ticks = new QTimer(this);
    m_ticks->setInterval(60);
    connect(m_play, &QToolButton::toggled, this, [this](bool on) {
        m_play->setText(on ? tr("pause") : tr("play"));
        if (on && playsPhase()) {
            showPhase();
        } else if (on && m_timeAt->value() == m_timeAt->maximum()) {
            m_timeAt->setValue(0);
        }
        on ? m_ticks->start() : m_ticks->stop();
    });
    connect(m_ticks, &QTimer::timeout, this, [this] {
        constexpr int tick = 12;
        const int next = m_timeAt->value() + tick;
        // A period goes round, a course ends.
        m_timeAt->setValue(playsPhase() ? next % m_timeAt->maximum() : next);
        if (!playsPhase() && m_timeAt->value() == m_timeAt->maximum())
            m_play->setChecked(false);
    });
    connect(m_timeAt, &QSlider::valueChanged, this, &ScenePanel::showTime);
}

const std::vector<double>& ScenePanel::times() const
{
    static const std::vector<double> none;
    return m_field && !m_field->isEmpty() ? m_field->times() : none;
}

std::optional<double> ScenePanel::shownTime() const
{
    if (times().size() < 2)
        return std::nullopt;
    return times().back() * m_timeAt->value() / m_timeAt->maximum();
}

void ScenePanel::setTime(double seconds)
{
    if (!times().empty())
        m_timeAt->setValue(int(std::lround(1000 * seconds / times().back())));
}

bool ScenePanel::playsPhase() const
{
    return times().size() < 2 && m_field && !m_field->isEmpty() && m_field->hasPhase();
}

void ScenePanel::spanPeriod()
{
    // Two moments a quarter apart hold the strongest values, within a factor of 1.4.
    const Lens lens = current().lens;
    double low = 0, high = 0;
    for (const double angle : {0.0, 0.5 * base::pi}) {
        m_field->setPhase(angle);
        const auto d = m_field->distribution(lens);
        low = std::min(low, d.low);
        high = std::max(high, d.high);
    }
    // What takes both signs does so alike.
    m_high = std::max(high, -low);
    m_low = low < 0 ? -m_high : 0.0;
    m_spanned = m_quantity;
}

void ScenePanel::showPhase()
{
    if (m_spanned != m_quantity)
        spanPeriod();
    constexpr double turn = 2 * base::pi;
    const double share = double(m_timeAt->value()) / m_timeAt->maximum();
    m_timeText->setText(tr("phase %1°").arg(std::lround(360 * share)));
    m_field->setPhase(turn * share);
    m_distribution = m_field->distribution(current().lens);
    m_distribution.least = std::min(m_distribution.least, m_low);
    m_distribution.largest = std::max(m_distribution.largest, m_high);
    applyRuler();
    m_solid->fieldChanged();
    m_canvas->update();
}

void ScenePanel::spanBothSigns(double low, double high)
{
    // What takes both signs does so alike; a quarter of the strongest, so that echoes are seen.
    constexpr double share = 0.25;
    m_high = share * std::max(-low, high);
    m_low = -m_high;
}

void ScenePanel::showTime()
{
    if (playsPhase())
        showPhase();
    if (times().size() < 2)
        return;
    const double t = shownTime().value_or(0);
    m_field->setTime(t);
    m_timeText->setText(QString::fromStdString(base::format(t, dim::time, 4)));
    // The colours keep to the range of all times, so that the course can be seen.
    if (current().lens.array != m_field->overTime()) {
        m_quantity = m_field->overTime();
        applyLens(true);
    }
    const auto [low, high] = m_field->rangeOverTime();
    if (low < 0 && high > 0) {
        spanBothSigns(low, high);
    } else {
        m_low = low;
        m_high = high;
    }
    m_distribution = m_field->distribution(current().lens);
    m_distribution.least = low;
    m_distribution.largest = high;
    applyRuler();
    m_solid->fieldChanged();
    m_canvas->update();
}

void ScenePanel::setSymmetry(std::array<bool, 3> planes, int wedges)
{
    m_wholePill->setEnabled(planes[0] || planes[1] || planes[2] || wedges > 1);
    m_solid->setSymmetry(planes, wedges);
}

void ScenePanel::setSolid(bool solid)
{
    if (solid != m_isSolid) {
        // Lines of equal potential belong to a drawing; surfaces of equal value hide a solid.
        (m_isSolid ? m_solidLayers : m_flatLayers) = m_layers;
        Layers next = solid ? m_solidLayers : m_flatLayers;
        if (solid && !m_wasSolid)
            next.potentialLines = false;
        m_wasSolid = m_wasSolid || solid;
        setLayers(next);
    }
    m_isSolid = solid;
    m_stack->setCurrentWidget(solid ? static_cast<QWidget*>(m_solid) : m_canvas);
    showPills();
}

void ScenePanel::setDiagram(const sheet::Diagram& diagram)
{
    m_diagram->setDiagram(diagram);
    if (m_diagram->isEmpty())
        m_stack->setCurrentWidget(m_isSolid ? static_cast<QWidget*>(m_solid) : m_canvas);
    else
        m_stack->setCurrentWidget(m_diagram);
    showPills();
}

void ScenePanel::showPills()
{
    const bool any = m_field && !m_field->isEmpty();
    for (QToolButton* b : {m_quantityPill, m_unitPill, m_meshPill, m_mapPill})
        b->setVisible(any);
    m_arrows->setVisible(any);
    // In drawings lines of equal potential and field lines come with the field, or do not.
    m_potential->setVisible(any && (m_isSolid || !m_field->firstOf(false).isEmpty()));
    m_lines->setVisible(any && (m_isSolid || m_hasLines));
    m_pin->setVisible(any);
    m_patternPill->setVisible(any && m_isSolid && m_hasPattern);
    m_movedPill->setVisible(any && !m_isSolid && m_field->hasMoves());
    m_player->setVisible(times().size() > 1 || playsPhase());
    m_play->setAccessibleName(playsPhase() ? tr("Play a period of the field")
                                           : tr("Play the course over time"));
    m_timeAt->setAccessibleName(playsPhase() ? tr("Phase") : tr("Time"));
    if (m_isSolid) {
        m_potential->setText(tr("equal values"));
        m_potential->setToolTip(tr("Surfaces of equal value"));
        m_lines->setToolTip(tr("Field lines, from the lit faces or from where the flux enters"));
    }
    m_wholePill->setVisible(m_isSolid && m_wholePill->isEnabled());
    m_drawPill->setVisible(!m_isSolid && m_diagram->isEmpty());
    for (QToolButton* b : {m_viewPill, m_throughPill, m_sectionPill, m_toolPill})
        b->setVisible(m_isSolid && m_diagram->isEmpty());
    m_sectionAt->setVisible(m_isSolid && m_sectionAxis >= 0);
    m_ruler->setVisible(any);
}

QToolButton* ScenePanel::pill(const QString& name, const QString& text, const QString& tip,
                              bool checkable)
{
    auto* b = new QToolButton(this);
    b->setObjectName(u"lens-"_s + name);
    b->setProperty("lens", true);
    b->setText(text);
    b->setToolTip(tip);
    b->setAccessibleName(tip);
    b->setCheckable(checkable);
    b->setFocusPolicy(Qt::TabFocus);
    m_pills->addWidget(b);
    return b;
}

std::vector<ScenePanel::Quantity> ScenePanel::quantities() const
{
    const QString axes[3] = {m_axisymmetric ? u"r"_s : u"x"_s, m_axisymmetric ? u"z"_s : u"y"_s,
                             u"z"_s};
    std::vector<Quantity> list;
    if (!m_field || m_field->isEmpty())
        return {{u"|E|"_s, {u"E"_s, -1}, dim::electricField, "V/m"}};
    for (const auto& a : m_field->arrays()) {
        const base::Dimension d = base::dimensionOf(a.unit.toStdString());
        if (!a.vector) {
            list.push_back({a.name, {a.name, -1}, d, a.unit.toStdString()});
            continue;
        }
        list.push_back({u'|' + a.name + u'|', {a.name, -1}, d, a.unit.toStdString()});
        for (int k = 0; k < (m_isSolid ? 3 : 2); ++k)
            list.push_back({a.name + u'.' + axes[k], {a.name, k}, d, a.unit.toStdString()});
    }
    return list;
}

ScenePanel::Quantity ScenePanel::current() const
{
    const auto list = quantities();
    for (const Quantity& q : list)
        if (q.name == m_quantity)
            return q;
    for (const Quantity& q : list)
        if (const auto* a = m_field ? m_field->array(q.lens.array) : nullptr; a && a->first)
            return q;
    return list.front();
}

void ScenePanel::rebuildMenus()
{
    auto* menu = new QMenu(m_quantityPill);
    // The fields of several modes each have a menu of their own.
    std::map<QString, QMenu*> menuOf;
    if (m_field && m_field->modes().size() > 1)
        for (size_t k = 0; k < m_field->modes().size(); ++k) {
            QMenu* own = menu->addMenu(tr("mode %1").arg(k + 1));
            for (const QString& array : m_field->modes()[k])
                menuOf[array] = own;
        }
    for (const Quantity& q : quantities()) {
        const auto own = menuOf.find(q.lens.array);
        (own == menuOf.end() ? menu : own->second)->addAction(q.name, this, [this, name = q.name] {
            setLens(name);
        });
    }
    m_quantityPill->setMenu(menu);
}

void ScenePanel::setAxisymmetric(bool axisymmetric)
{
    if (axisymmetric == m_axisymmetric)
        return;
    m_axisymmetric = axisymmetric;
    m_quantity.clear();
    if (m_field && !m_field->isEmpty())
        m_quantity = current().name;
    m_canvas->setAxisNames(axisymmetric ? u"r"_s : u"x"_s, axisymmetric ? u"z"_s : u"y"_s);
    rebuildMenus();
    applyLens();
}

QPixmap ScenePanel::pictureOf(const QString& quantity, const QSize& size)
{
    const QString shown = m_quantity;
    const double low = m_low, high = m_high;
    setLens(quantity);
    QWidget* scene = m_stack->currentWidget();
    QPixmap picture = scene->grab();
    setLens(shown);
    m_low = low;
    m_high = high;
    applyLens(true);
    // The middle, in the shape that is asked for.
    const double shape = double(size.width()) / size.height();
    QRect middle = picture.rect();
    if (middle.width() > shape * middle.height())
        middle.setWidth(int(shape * middle.height()));
    else
        middle.setHeight(int(middle.width() / shape));
    middle.moveCenter(picture.rect().center());
    return picture.copy(middle).scaled(size, Qt::KeepAspectRatio, Qt::SmoothTransformation);
}

void ScenePanel::setLens(const QString& quantity)
{
    m_quantity = quantity;
    applyLens();
}

void ScenePanel::setLayers(const Layers& layers)
{
    m_potential->setChecked(layers.potentialLines);
    m_lines->setChecked(layers.fieldLines);
    m_patternPill->setChecked(layers.pattern);
    m_meshPill->setChecked(layers.mesh);
    m_arrows->setChecked(layers.arrows);
}

void ScenePanel::setTool(Tool tool)
{
    {
        const QSignalBlocker quiet(m_pin);
        m_pin->setChecked(tool == Tool::pin);
    }
    m_canvas->setTool(tool);
    m_solid->setTool(tool);
    m_toolPill->setText(tool == Tool::box       ? tr("choose by a box")
                        : tool == Tool::profile ? tr("profile line")
                                                : tr("drag"));
    m_stack->currentWidget()->setFocus();
}

void ScenePanel::setPattern(const FarPattern& pattern)
{
    m_hasPattern = !pattern.isEmpty();
    m_patternPill->setToolTip(tr("%1 of %2 over all directions: %3 %4 where the surface is "
                                 "farthest out, %5 dB less where it comes to nothing")
                                  .arg(pattern.quantity, pattern.name)
                                  .arg(pattern.largest, 0, 'f', 2)
                                  .arg(pattern.unit)
                                  .arg(FarPattern::span));
    m_solid->setPattern(pattern);
    showPills();
}

void ScenePanel::setField(std::shared_ptr<FieldData> field, std::vector<QPolygonF> lines)
{
    m_field = std::move(field);
    const bool any = m_field && !m_field->isEmpty();
    m_hasLines = !lines.empty();
    m_canvas->setField(m_field, std::move(lines));
    m_solid->setField(m_field);
    showPills();
    if (any) {
        m_quantity = current().name;
        rebuildMenus();
        const QString scalar = m_field->firstOf(false), vector = m_field->firstOf(true);
        const auto* levels = m_field->array(scalar);
        m_potential->setText(levels && !levels->levels.isEmpty()
                                 ? translated(levels->levels.toStdString())
                                 : tr("equal values"));
        // Lines are drawn by themselves only where they have a name of their own.
        if (m_lined != scalar && !m_isSolid)
            m_potential->setChecked(levels && !levels->levels.isEmpty());
        m_lined = scalar;
        m_potential->setToolTip(tr("Lines of equal %1").arg(scalar));
        m_arrows->setToolTip(tr("Direction of %1").arg(vector));
        if (times().size() > 1) {
            const QSignalBlocker quiet(m_timeAt);
            m_timeAt->setValue(m_timeAt->maximum());
            m_timeText->setText(QString::fromStdString(base::format(times().back(), dim::time, 4)));
        } else if (playsPhase()) {
            const QSignalBlocker quiet(m_timeAt);
            m_play->setChecked(false);
            m_spanned.clear();
            m_timeAt->setValue(0);
            m_timeText->setText(tr("phase %1°").arg(0));
        }
        applyLens();
        // A natural vibration can be played once its shape is moved; what alternates is shown at
        // the moment at which it moves most.
        if (m_isSolid || m_field->hasMoves())
            showPills();
        if (m_mostMoved > 0 && playsPhase()) {
            m_timeAt->setValue(
                int(std::lround(m_timeAt->maximum() * m_mostMoved / (2 * base::pi))));
            m_units.erase(m_quantity);
            applyLens(true);
        }
    }
}

void ScenePanel::applyLens(bool keepRange)
{
    m_quantityPill->setText(m_quantity);
    if (!m_field || m_field->isEmpty())
        return;
    applyMoved();
    const Quantity q = current();
    m_distribution = m_field->distribution(q.lens);
    if (!keepRange) {
        m_low = m_distribution.low;
        m_high = m_distribution.high;
        if (times().size() > 1 && q.lens.array == m_field->overTime())
            if (const auto [low, high] = m_field->rangeOverTime(); low < 0 && high > 0)
                spanBothSigns(low, high);
    }
    if (!m_units.count(m_quantity))
        m_units[m_quantity] =
            base::displayUnit(0.3 * std::max(std::abs(m_low), std::abs(m_high)), q.dimension);
    auto* menu = new QMenu(m_unitPill);
    for (const base::DisplayUnit& u : base::unitChoices(q.dimension))
        menu->addAction(QString::fromStdString(base::symbolIn(u.symbol, q.unit)), this, [this, u] {
            m_units[m_quantity] = u;
            applyRuler();
        });
    m_unitPill->setMenu(menu);
    applyRuler();
}

void ScenePanel::applyMoved()
{
    if (!m_field || m_field->isEmpty() || !m_field->hasMoves())
        return;
    QString array;
    for (const auto& a : m_field->arrays())
        if (a.moves && (array.isEmpty() || a.name == current().lens.array))
            array = a.name;
    const auto moved = m_field->setMoved(m_movedPill->isChecked() ? array : QString());
    m_mostMoved = moved.phase;
    // Two digits say how far it is from the truth.
    const double digit =
        moved.times > 0 ? std::pow(10, std::floor(std::log10(moved.times)) - 1) : 1;
    m_movedPill->setText(moved.times > 0 ? tr("moved × %L1")
                                               .arg(digit * std::round(moved.times / digit), 0,
                                                    digit < 1 ? 'g' : 'f', digit < 1 ? 2 : 0)
                                         : tr("moved"));
}

void ScenePanel::applyRuler()
{
    const Quantity q = current();
    const bool isSigned = q.lens.component >= 0 || (!times().empty() && m_low < 0 && m_high > 0);
    const QString map = m_map.isEmpty() ? (isSigned ? u"tide"_s : u"blossom"_s) : m_map;
    const base::DisplayUnit u = m_units[m_quantity];
    const QString symbol = QString::fromStdString(base::symbolIn(u.symbol, q.unit));
    m_unitPill->setText(symbol);
    RulerView v;
    v.least = u.shown(m_distribution.least);
    v.largest = u.shown(m_distribution.largest);
    v.low = u.shown(m_low);
    v.high = u.shown(m_high);
    v.share = m_distribution.share;
    v.unit = symbol;
    v.map = map;
    v.logarithmic = m_byDecades;
    m_ruler->setView(v);
    applyLensTo(q, map);
}

void ScenePanel::applyLensTo(const Quantity& q, const QString& map)
{
    Lens lens = q.lens;
    lens.logarithmic = m_byDecades;
    m_canvas->setLens(lens, m_low, m_high, map);
    m_solid->setLens(lens, m_low, m_high, map);
}

QString ScenePanel::reading(QPointF p) const
{
    const QString x = m_axisymmetric ? u"r"_s : u"x"_s, y = m_axisymmetric ? u"z"_s : u"y"_s;
    auto length = [](double v) { return QString::fromStdString(base::format(v, dim::length, 4)); };
    QString s = x + u' ' + length(p.x()) + u"  "_s + y + u' ' + length(p.y());
    if (!m_field || m_field->isEmpty())
        return s;
    const Quantity q = current();
    for (const Quantity& other : quantities())
        if (const auto* own = m_field->array(other.lens.array);
            own && !own->levels.isEmpty() && other.name != q.name)
            if (const auto v = m_field->valueAt(p, other.lens))
                s += u"   "_s + other.name + u' ' +
                     QString::fromStdString(base::format(*v, other.dimension, 4));
    if (const auto v = m_field->valueAt(p, q.lens)) {
        const auto unit = m_units.find(m_quantity);
        const double shown = unit == m_units.end() ? *v : unit->second.shown(*v);
        s += u"   "_s + q.name + u' ' + QString::fromStdString(base::formatNumber(shown, 4)) +
             u' ' +
             (unit == m_units.end() ? QString() : QString::fromStdString(unit->second.symbol));
    }
    return s;
}

QString ScenePanel::reading(const std::array<double, 3>& at, bool inside) const
{
    auto length = [](double v) { return QString::fromStdString(base::format(v, dim::length, 4)); };
    QString s = u"x "_s + length(at[0]) + u"  y "_s + length(at[1]) + u"  z "_s + length(at[2]);
    if (!m_field || m_field->isEmpty())
        return s;
    const Quantity q = current();
    auto v = inside ? m_field->valueInside(at[0], at[1], at[2], q.lens) : std::nullopt;
    // On a face the picture's own triangles may lie a little beside the cells.
    if (!v)
        v = m_field->nearestValue(at[0], at[1], at[2], q.lens);
    const auto unit = m_units.find(m_quantity);
    if (!v || unit == m_units.end())
        return s;
    return s + u"   "_s + q.name + u' ' +
           QString::fromStdString(base::formatNumber(unit->second.shown(*v), 4)) + u' ' +
           QString::fromStdString(unit->second.symbol);
}

}  // namespace yh::app
