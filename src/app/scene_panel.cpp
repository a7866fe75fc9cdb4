#include "app/scene_panel.h"

#include "app/flow_layout.h"
#include "app/text.h"
#include "app/theme.h"
#include "app/units.h"
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
    buildPills();
    buildColourMenu();
    column->addWidget(bar);
    column->addLayout(scenes(), 1);
    buildPlayer();
    column->addWidget(m_player);
    column->addWidget(m_reading);
    connectLayers();
    connectScenes();
    buildSolidPills();
    rebuildMenus();
    setField(nullptr, {});
}

QLayout* ScenePanel::scenes()
{
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
    return middle;
}

void ScenePanel::connectScenes()
{
    connect(m_canvas, &SceneCanvas::hovered, this, [this](QPointF p, const QString& region) {
        m_reading->setText(reading(p) + (region.isEmpty() ? QString() : u"   "_s + region));
    });
    connect(m_canvas, &SceneCanvas::left, this, &ScenePanel::showRest);
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
}

void ScenePanel::setSymmetry(std::array<bool, 3> planes, int wedges)
{
    m_wholePill->setEnabled(planes[0] || planes[1] || planes[2] || wedges > 1);
    m_solid->setSymmetry(planes, wedges);
    m_canvas->setCentreLines(planes[0] || m_axisymmetric,
                             planes[1] || (m_axisymmetric && planes[2]));
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
    // What figures were asked of comes before what the field itself would open with.
    for (const QString& unit : m_asked)
        for (const Quantity& q : list)
            if (!unit.isEmpty() && q.unit == unit.toStdString())
                return q;
    for (const Quantity& q : list)
        if (const auto* a = m_field ? m_field->array(q.lens.array) : nullptr; a && a->first)
            return q;
    return list.front();
}

void ScenePanel::setNamed(const std::vector<NamedPlace>& places)
{
    m_canvas->setNamed(places);
    m_solid->setNamed(places);
    showPills();
}

void ScenePanel::setAsked(const QStringList& units)
{
    m_asked = units;
}

void ScenePanel::showRest()
{
    const QString drive = m_field && !m_field->isEmpty() ? m_field->shownFor() : QString();
    m_reading->setText(drive.isEmpty()
                           ? QString()
                           : tr("%1 for %2").arg(m_quantity, translated(drive.toStdString())));
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
    m_names->setChecked(layers.names);
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

void ScenePanel::nameLayers()
{
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
}

void ScenePanel::resetPlayer()
{
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
}

void ScenePanel::setField(std::shared_ptr<FieldData> field, std::vector<QPolygonF> lines)
{
    m_field = std::move(field);
    // Another sheet opens with its own quantity.
    if (!m_field)
        m_quantity.clear();
    const bool any = m_field && !m_field->isEmpty();
    m_hasLines = !lines.empty();
    m_canvas->setField(m_field, std::move(lines));
    m_solid->setField(m_field);
    showPills();
    if (any) {
        m_quantity = current().name;
        rebuildMenus();
        nameLayers();
        resetPlayer();
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
    showRest();
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
    // A ruler's numbers are of the size of its middle; temperatures go by the coldest.
    if (!m_units.count(m_quantity))
        m_units[m_quantity] = readingUnit(q.dimension == dim::temperature
                                              ? m_low
                                              : 0.3 * std::max(std::abs(m_low), std::abs(m_high)),
                                          q.dimension);
    rebuildMenus();
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
    const QString symbol = unitText(base::symbolIn(u.symbol, q.unit));
    m_quantityPill->setText(symbol.isEmpty() ? m_quantity : tr("%1 in %2").arg(m_quantity, symbol));
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
             u' ' + (unit == m_units.end() ? QString() : unitText(unit->second.symbol));
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
           unitText(unit->second.symbol);
}

}  // namespace yh::app
