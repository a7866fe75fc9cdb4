// The scene of solids: what is written over it, and mouse and keys.
#include "app/overlay.h"
#include "app/solid_canvas.h"
#include "app/solid_vectors.h"
#include "app/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

void SolidCanvas::paintOverlay(QPainter& p)
{
    const Theme& t = theme();
    const auto f = frame();
    // The axes, at the lower right.
    const QPointF at(width() - 46, height() - 44);
    const struct
    {
        const char* name;
        V3 along;
    } axes[] = {{"x", {1, 0, 0}}, {"y", {0, 1, 0}}, {"z", {0, 0, 1}}};
    p.setFont(numberFont(8.5));
    // Dark fields lie behind them.
    QColor back = t.sheet;
    back.setAlphaF(0.8f);
    p.setPen(Qt::NoPen);
    p.setBrush(back);
    constexpr double reach = 43;
    p.drawEllipse(at, reach, reach);
    for (const auto& a : axes) {
        const QPointF d(26 * dot(a.along, f[0]), -26 * dot(a.along, f[1]));
        p.setPen(QPen(t.ink, 1.4));
        p.drawLine(at, at + d);
        p.drawText(QRectF(at + 1.35 * d - QPointF(8, 8), QSizeF(16, 16)), Qt::AlignCenter,
                   QString::fromLatin1(a.name));
    }
    paintScaleBar(p, m_scale, height());
    paintNames(p);
    paintPins(p);
    paintTool(p);
    if (m_shape.sides.empty()) {
        p.setPen(t.muted);
        p.setFont(textFont(10.5));
        p.drawText(
            rect(), Qt::AlignCenter,
            tr("Type a solid in the sheet (Ctrl+K),\nsuch as  plate box 20 mm × 10 mm × 2 mm"));
    }
}

std::optional<QPointF> SolidCanvas::middleOf(const NamedPlace& place) const
{
    // The triangle nearest to the middle of all of them: a round side's own middle lies inside.
    std::vector<V3> middles;
    V3 mean{};
    for (size_t i = 0; i < m_shape.sides.size(); ++i) {
        const auto& side = m_shape.sides[i];
        const bool isOf = place.edges.count(int(i)) ||
                          std::any_of(side.solids.begin(), side.solids.end(),
                                      [&](int s) { return place.faces.count(s) != 0; });
        if (side.hidden || !isOf)
            continue;
        for (size_t k = 0; k + 2 < side.corners.size(); k += 3) {
            V3 middle{};
            for (size_t c = 0; c < 3; ++c)
                for (size_t a = 0; a < 3; ++a)
                    middle[a] += side.corners[k + c][a] / 3;
            middles.push_back(middle);
            for (size_t a = 0; a < 3; ++a)
                mean[a] += middle[a];
        }
    }
    if (middles.empty())
        return std::nullopt;
    for (double& x : mean)
        x /= double(middles.size());
    auto away = [&](const V3& p) { return dot(minus(p, mean), minus(p, mean)); };
    return toWidget(*std::min_element(middles.begin(), middles.end(),
                                      [&](const V3& a, const V3& b) { return away(a) < away(b); }));
}

void SolidCanvas::paintPins(QPainter& p)
{
    p.setPen(QPen(theme().warning, 1.6));
    p.setBrush(Qt::NoBrush);
    for (const auto& m : m_marks)
        p.drawEllipse(toWidget(m), 7, 7);
    p.setFont(numberFont(8.25));
    for (const Pin& pin : m_pins)
        paintPin(p, toWidget(pin.at), pin.text);
}

void SolidCanvas::paintTool(QPainter& p)
{
    if (m_button != Qt::LeftButton || (m_tool != Tool::profile && m_tool != Tool::box))
        return;
    const Theme& t = theme();
    p.setPen(QPen(t.ink, 1.2, Qt::DashLine));
    p.setBrush(Qt::NoBrush);
    if (m_tool == Tool::profile)
        p.drawLine(m_press, m_last);
    else
        p.drawRect(QRectF(m_press, m_last).normalized());
}

void SolidCanvas::setTool(Tool tool)
{
    const bool known = tool == Tool::pin || tool == Tool::profile || tool == Tool::box;
    FieldCanvas::setTool(known ? tool : Tool::select);
}

void SolidCanvas::setMarks(std::vector<std::array<double, 3>> marks)
{
    m_marks = std::move(marks);
    m_overlay->update();
}

void SolidCanvas::setPins(std::vector<Pin> pins)
{
    m_pins = std::move(pins);
    m_overlay->update();
}

void SolidCanvas::chooseBox(QPoint global)
{
    const QRectF box = QRectF(m_press, m_last).normalized();
    std::set<int> sides, solids;
    std::vector<char> partly(m_shape.solids.size(), 0);
    for (size_t i = 0; i < m_shape.sides.size(); ++i) {
        const auto& side = m_shape.sides[i];
        if (!isShown(side))
            continue;
        const bool inside = std::all_of(side.corners.begin(), side.corners.end(),
                                        [&](const V3& c) { return box.contains(toWidget(c)); });
        if (inside)
            sides.insert(int(i));
        for (const int s : side.solids)
            (inside ? static_cast<void>(solids.insert(s))
                    : static_cast<void>(partly[size_t(s)] = 1));
    }
    for (size_t s = 0; s < partly.size(); ++s)
        if (partly[s] || m_gone.count(int(s)) || m_shape.solids[s].hidden)
            solids.erase(int(s));
    Q_EMIT boxChosen(sides, solids, global);
}

SolidCanvas::Hit SolidCanvas::hitAt(QPointF w) const
{
    // A ray from the eye against the triangles of what is shown.
    // Source: Moeller and Trumbore, J. Graphics Tools 2 (1997) 21 (from memory).
    const auto f = frame();
    const double dx = (w.x() - width() / 2.0) * m_scale, dy = (height() / 2.0 - w.y()) * m_scale;
    const double far = 1e3 * m_scale * std::max(width(), height());
    V3 origin = m_centre;
    const V3 along{-f[2][0], -f[2][1], -f[2][2]};
    for (size_t k = 0; k < 3; ++k)
        origin[k] += dx * f[0][k] + dy * f[1][k] + far * f[2][k];
    Hit hit;
    double best = 1e300;
    const auto axis = size_t(std::max(0, m_sectionAxis));
    const double plane =
        m_shape.low[axis] + m_sectionShare * (m_shape.high[axis] - m_shape.low[axis]);
    // Where the ray meets the section, and how often it passes through each solid's surface behind
    // it: an odd number of times where it is inside.
    double onPlane = 1e300;
    if (m_sectionAxis >= 0 && along[axis] != 0)
        onPlane = (plane - origin[axis]) / along[axis];
    std::vector<int> passed(m_shape.solids.size(), 0);
    for (size_t i = 0; i < m_shape.sides.size(); ++i) {
        const auto& side = m_shape.sides[i];
        const bool shown = isShown(side);
        if (!shown && m_sectionAxis < 0)
            continue;
        for (size_t k = 0; k + 2 < side.corners.size(); k += 3) {
            const V3 e1 = minus(side.corners[k + 1], side.corners[k]),
                     e2 = minus(side.corners[k + 2], side.corners[k]), h = cross(along, e2);
            const double det = dot(e1, h);
            if (det == 0)
                continue;
            const V3 s = minus(origin, side.corners[k]), q = cross(s, e1);
            const double u = dot(s, h) / det, v = dot(along, q) / det, d = dot(e2, q) / det;
            if (u < 0 || v < 0 || u + v > 1)
                continue;
            if (d > onPlane)
                for (const int solid : side.solids)
                    ++passed[size_t(solid)];
            if (!shown || d >= best)
                continue;
            const V3 at{origin[0] + d * along[0], origin[1] + d * along[1],
                        origin[2] + d * along[2]};
            if (m_sectionAxis >= 0 && (m_sectionAxis == 1 ? at[axis] < plane : at[axis] > plane))
                continue;
            best = d;
            hit.side = int(i);
            hit.at = at;
        }
    }
    if (onPlane < best)
        for (size_t s = 0; s < passed.size(); ++s)
            if (passed[s] % 2 == 1 && !m_gone.count(int(s)) && !m_shape.solids[s].hidden) {
                hit.side = -1;
                hit.solid = int(s);
                for (size_t k = 0; k < 3; ++k)
                    hit.at[k] = origin[k] + onPlane * along[k];
                return hit;
            }
    if (hit.side < 0)
        return hit;
    for (const int s : m_shape.sides[size_t(hit.side)].solids)
        if (!m_gone.count(s) && !m_shape.solids[size_t(s)].hidden)
            hit.solid = s;
    return hit;
}

void SolidCanvas::mousePressEvent(QMouseEvent* e)
{
    setFocus();
    m_press = m_last = e->position();
    m_button = e->button();
    m_panning = e->button() == Qt::MiddleButton || (e->modifiers() & Qt::ShiftModifier);
}

void SolidCanvas::hover(QPointF at)
{
    const Hit hit = hitAt(at);
    if (hit.side != m_hoverSide) {
        m_hoverSide = hit.side;
        rebuildFaces();
    }
    if (m_tool == Tool::select)
        setCursor(hit.side >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
    const QString solid = hit.solid >= 0 ? m_shape.solids[size_t(hit.solid)].name : QString();
    if (hit.side >= 0)
        Q_EMIT hovered(
            (solid.isEmpty() ? QString() : solid + u"   "_s) + m_shape.sides[size_t(hit.side)].rule,
            hit.at[0], hit.at[1], hit.at[2], false);
    else if (hit.solid >= 0)
        Q_EMIT hovered(solid, hit.at[0], hit.at[1], hit.at[2], true);
    else
        Q_EMIT left();
}

void SolidCanvas::mouseMoveEvent(QMouseEvent* e)
{
    const QPointF d = e->position() - m_last;
    if (m_button == Qt::NoButton) {
        hover(e->position());
        return;
    }
    if (d.isNull())
        return;
    if (m_button == Qt::LeftButton && !m_panning &&
        (m_tool == Tool::profile || m_tool == Tool::box)) {
        m_last = e->position();
        m_overlay->update();
        return;
    }
    m_moved = true;
    if (m_panning) {
        const auto f = frame();
        for (size_t k = 0; k < 3; ++k)
            m_centre[k] += (-d.x() * f[0][k] + d.y() * f[1][k]) * m_scale;
    } else {
        constexpr double radiansPerPixel = 0.008, upright = 1.5707;
        m_turn -= radiansPerPixel * d.x();
        m_tilt = std::clamp(m_tilt + radiansPerPixel * d.y(), -upright, upright);
    }
    m_last = e->position();
    hurry();
    update();
}

void SolidCanvas::mouseReleaseEvent(QMouseEvent* e)
{
    const bool click = (e->position() - m_press).manhattanLength() < 4;
    const Qt::MouseButton button = m_button;
    const bool panned = m_panning;
    m_button = Qt::NoButton;
    m_panning = false;
    m_overlay->update();
    if (button == Qt::LeftButton && !click && !panned && m_tool == Tool::profile) {
        const Hit from = hitAt(m_press), to = hitAt(e->position());
        if (from.solid >= 0 && to.solid >= 0)
            Q_EMIT profiled(from.at, to.at);
        return;
    }
    if (button == Qt::LeftButton && !click && !panned && m_tool == Tool::box) {
        m_last = e->position();
        chooseBox(e->globalPosition().toPoint());
        return;
    }
    if (!click || button != Qt::LeftButton)
        return;
    const Hit hit = hitAt(e->position());
    if (m_tool == Tool::pin) {
        if (hit.solid >= 0 || hit.side >= 0)
            Q_EMIT pinned(hit.at, hit.solid);
        return;
    }
    if (hit.side >= 0)
        Q_EMIT sideClicked(hit.side, hit.solid, e->globalPosition().toPoint());
    else
        Q_EMIT emptyClicked();
}

void SolidCanvas::mouseDoubleClickEvent(QMouseEvent* e)
{
    if (hitAt(e->position()).side < 0)
        fit();
}

void SolidCanvas::wheelEvent(QWheelEvent* e)
{
    m_moved = true;
    m_scale *= std::pow(1.0015, -e->angleDelta().y());
    hurry();
    update();
}

void SolidCanvas::keyPressEvent(QKeyEvent* e)
{
    // Along an axis, and with Shift against it.
    static const std::map<int, std::pair<QString, QString>> views = {
        {Qt::Key_X, {u"left"_s, u"right"_s}},
        {Qt::Key_Y, {u"front"_s, u"back"_s}},
        {Qt::Key_Z, {u"bottom"_s, u"top"_s}},
        {Qt::Key_Space, {u"corner"_s, u"corner"_s}}};
    constexpr double step = 0.12;
    if (const auto view = views.find(e->key()); view != views.end()) {
        const auto& [along, against] = view->second;
        setView(e->modifiers() & Qt::ShiftModifier ? against : along);
    } else if (e->key() == Qt::Key_Left || e->key() == Qt::Key_Right) {
        m_turn += e->key() == Qt::Key_Left ? step : -step;
        hurry();
        update();
    } else if (e->key() == Qt::Key_Up || e->key() == Qt::Key_Down) {
        m_tilt = std::clamp(m_tilt + (e->key() == Qt::Key_Up ? step : -step), -1.57, 1.57);
        hurry();
        update();
    } else if (e->key() == Qt::Key_Plus || e->key() == Qt::Key_Minus) {
        m_scale *= e->key() == Qt::Key_Plus ? 0.8 : 1.25;
        hurry();
        update();
    } else if (e->key() == Qt::Key_Home) {
        fit();
    } else if (e->key() == Qt::Key_Escape) {
        Q_EMIT emptyClicked();
    } else {
        QOpenGLWidget::keyPressEvent(e);
    }
}

void SolidCanvas::leaveEvent(QEvent* e)
{
    m_hoverSide = -1;
    rebuildFaces();
    FieldCanvas::leaveEvent(e);
}

}  // namespace yh::app
