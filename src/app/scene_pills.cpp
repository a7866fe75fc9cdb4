// The pills over the scene, and their menus.
#include "app/scene_panel.h"

#include "app/flow_layout.h"

#include <QLabel>
#include <QMenu>
#include <QSlider>
#include <QToolButton>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

void ScenePanel::buildPills()
{
    m_drawPill = pill(u"draw"_s, tr("draw"),
                      tr("Draw a shape by clicks; it becomes a line of the sheet"), false);
    buildDrawMenu();
    m_quantityPill =
        pill(u"quantity"_s, m_quantity, tr("Which quantity the colours show, and in what"), false);
    m_quantityPill->setPopupMode(QToolButton::InstantPopup);
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
    m_viewPill = pill(u"view"_s, tr("view"),
                      tr("Standard views: X, Y, Z along an axis, with Shift against it; "
                         "Space from a corner"),
                      false);
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
}

void ScenePanel::buildDrawMenu()
{
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
}

void ScenePanel::buildColourMenu()
{
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
    m_names = maps->addAction(tr("names of places"));
    m_names->setObjectName(u"names"_s);
    m_names->setCheckable(true);
    m_names->setChecked(true);
    m_names->setToolTip(tr("Where electrodes, ports, coils and the like are"));
    m_mapPill->setMenu(maps);
}

void ScenePanel::connectLayers()
{
    const auto layers = [this] {
        m_layers.potentialLines = m_potential->isChecked();
        m_layers.fieldLines = m_lines->isChecked();
        m_layers.mesh = m_meshPill->isChecked();
        m_layers.arrows = m_arrows->isChecked();
        m_layers.pattern = m_patternPill->isChecked();
        m_layers.names = m_names->isChecked();
        m_canvas->setLayers(m_layers);
        m_solid->setLayers(m_layers);
    };
    for (QToolButton* b : {m_potential, m_lines, m_meshPill, m_arrows, m_patternPill})
        connect(b, &QToolButton::toggled, this, layers);
    connect(m_names, &QAction::toggled, this, layers);
    connect(m_movedPill, &QToolButton::toggled, this, [this] {
        applyMoved();
        showPills();
        m_canvas->update();
    });
    connect(m_pin, &QToolButton::toggled, this,
            [this](bool on) { setTool(on ? Tool::pin : Tool::select); });
}

void ScenePanel::buildSolidPills()
{
    auto* views = new QMenu(m_viewPill);
    views->setObjectName(u"viewMenu"_s);
    const std::pair<QString, QString> names[] = {{u"corner"_s, tr("from a corner")},
                                                 {u"left"_s, tr("along x, from the left")},
                                                 {u"right"_s, tr("against x, from the right")},
                                                 {u"front"_s, tr("along y, from the front")},
                                                 {u"back"_s, tr("against y, from behind")},
                                                 {u"bottom"_s, tr("along z, from below")},
                                                 {u"top"_s, tr("against z, from above")}};
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
    connect(m_solid, &SolidCanvas::surroundingsLeftOut, this, [this] { applyLens(); });
    connect(m_solid, &SolidCanvas::left, this, &ScenePanel::showRest);
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

void ScenePanel::showPills()
{
    const bool any = m_field && !m_field->isEmpty();
    for (QToolButton* b : {m_quantityPill, m_meshPill, m_mapPill})
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

void ScenePanel::rebuildMenus()
{
    // It may be the one that called.
    if (QMenu* before = m_quantityPill->menu())
        before->deleteLater();
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
    if (m_field && !m_field->isEmpty()) {
        menu->addSeparator();
        const Quantity q = current();
        for (const base::DisplayUnit& u : base::unitChoices(q.dimension)) {
            const QString symbol = unitText(base::symbolIn(u.symbol, q.unit));
            QAction* in = menu->addAction(tr("in %1").arg(symbol), this, [this, u] {
                m_units[m_quantity] = u;
                applyRuler();
            });
            in->setEnabled(!symbol.isEmpty());
        }
    }
    m_quantityPill->setMenu(menu);
}

}  // namespace yh::app
