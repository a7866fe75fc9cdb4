// What lies over the picture: outlines, highlights, pins, handles, the draft and the scale.
#include "app/scene_canvas.h"

#include "app/overlay.h"
#include "app/theme.h"
#include "base/quantity.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

std::optional<QPointF> SceneCanvas::middleOf(const NamedPlace& place) const
{
    const auto length = [](const QPolygonF& line) {
        double sum = 0;
        for (qsizetype k = 1; k < line.size(); ++k)
            sum += QLineF(line[k - 1], line[k]).length();
        return sum;
    };
    const SceneShape::Edge* longest = nullptr;
    for (const int i : place.edges)
        if (const auto& e = m_shape.edges[size_t(i)];
            !e.hidden && (!longest || length(e.points) > length(longest->points)))
            longest = &e;
    if (longest) {
        double left = 0.5 * length(longest->points);
        for (qsizetype k = 1; k < longest->points.size(); ++k) {
            const QLineF part(longest->points[k - 1], longest->points[k]);
            if (left <= part.length() && part.length() > 0)
                return toWidget(part.pointAt(left / part.length()));
            left -= part.length();
        }
    }
    for (const int i : place.faces) {
        const auto& f = m_shape.faces[size_t(i)];
        const QPointF centre = f.path.boundingRect().center();
        if (!f.hidden)
            return toWidget(f.path.contains(centre) ? centre : f.path.pointAtPercent(0));
    }
    return std::nullopt;
}

void SceneCanvas::setCentreLines(bool upright, bool across)
{
    m_isUpright = upright;
    m_isAcross = across;
    update();
}

void SceneCanvas::paintCentreLines(QPainter& painter) const
{
    if (m_shape.faces.empty())
        return;
    // Long and short dashes, as in technical drawings (ISO 128, line type 04).
    QPen pen(theme().muted, 1.1);
    pen.setDashPattern({12, 3, 2, 3});
    painter.setPen(pen);
    const QPointF at = toWidget({0, 0});
    if (m_isUpright)
        painter.drawLine(QPointF(at.x(), 0), QPointF(at.x(), height()));
    if (m_isAcross)
        painter.drawLine(QPointF(0, at.y()), QPointF(width(), at.y()));
}

void SceneCanvas::paintOverlay(QPainter& p)
{
    const Theme& t = theme();
    const QTransform map = transform();
    const bool field = m_field && !m_field->isEmpty() && m_layers.colours;
    auto pen = [](const QColor& c, double w) {
        QPen q(c, w);
        q.setJoinStyle(Qt::RoundJoin);
        return q;
    };
    // Without a field the regions are filled by their order, so that they can be told apart.
    static const QColor fills[] = {QColor(0xE9DFC9), QColor(0xDCE6E4), QColor(0xEBD9D6),
                                   QColor(0xE3E3D0), QColor(0xD9D9E6), QColor(0xF0E3C4)};
    std::vector<int> lines;
    for (size_t i = 0; i < m_shape.faces.size(); ++i) {
        const auto& f = m_shape.faces[i];
        if (f.hidden)
            continue;
        auto at = std::find(lines.begin(), lines.end(), f.line);
        if (at == lines.end())
            at = lines.insert(lines.end(), f.line);
        QColor c = fills[size_t(at - lines.begin()) % std::size(fills)];
        if (t.dark)
            c = c.darker(280);
        const QPainterPath path = map.map(f.path);
        // Under a field only the conductors are free of colour: they get a metal tone.
        if (!field)
            p.fillPath(path, c);
        else if (f.conductor)
            p.fillPath(path, t.dark ? QColor(0x6B5A2E) : QColor(0xD9B65A));
        QColor lit = t.yellow;
        if (m_litFaces.count(int(i)) || (m_litLine >= 0 && f.line == m_litLine)) {
            lit.setAlphaF(0.38f);
            p.fillPath(path, lit);
        } else if (int(i) == m_hoverFace && m_tool == Tool::select) {
            lit.setAlphaF(0.14f);
            p.fillPath(path, lit);
        }
    }
    if (field && m_layers.fieldLines) {
        QColor c(255, 255, 255);
        c.setAlphaF(0.75f);
        p.setPen(pen(c, 1.1));
        for (const QPolygonF& l : m_lines)
            p.drawPolyline(map.map(l));
    }
    for (size_t i = 0; i < m_shape.edges.size(); ++i) {
        const auto& e = m_shape.edges[i];
        if (e.hidden)
            continue;
        const bool lit = m_litEdges.count(int(i)) != 0,
                   hover = int(i) == m_hoverEdge && m_tool == Tool::select;
        bool ofLine = false;
        for (const int f : e.faces)
            ofLine = ofLine || (m_litLine >= 0 && m_shape.faces[size_t(f)].line == m_litLine) ||
                     m_litFaces.count(f) != 0;
        p.setPen(pen(lit || ofLine ? t.yellow
                     : hover       ? t.plum
                     : e.thin      ? t.plum
                     : field       ? QColor(255, 250, 240, 200)
                                   : t.muted,
                     lit               ? 3.2
                     : ofLine || hover ? 2.0
                     : e.thin          ? 2.4
                                       : 1.0));
        p.drawPolyline(map.map(e.points));
    }
    if (m_layers.arrows && m_field && !m_field->isEmpty())
        paintArrows(p);
    p.setPen(QPen(t.warning, 1.6));
    p.setBrush(Qt::NoBrush);
    for (const QPointF& m : m_marks)
        p.drawEllipse(map.map(m), 7, 7);
    p.setFont(numberFont(8.25));
    for (const Pin& pin : m_pins)
        paintPin(p, map.map(pin.at), pin.text);
    paintHandles(p);
    paintDraft(p);
    paintCentreLines(p);
    paintNames(p);
    paintScaleBar(p, m_scale, height());
    if (m_shape.faces.empty() && m_draft.isEmpty() && !(m_field && !m_field->isEmpty())) {
        p.setPen(t.muted);
        p.setFont(textFont(10.5));
        p.drawText(rect(), Qt::AlignCenter,
                   tr("Draw a shape with the tools above,\nor type one in the sheet (Ctrl+K)."));
    }
}

void SceneCanvas::paintArrows(QPainter& p)
{
    constexpr double spacing = 34;
    const QString array = m_field->firstOf(true);
    QColor c(255, 255, 255);
    c.setAlphaF(0.85f);
    if (!m_layers.colours)
        c = theme().ink;
    p.setPen(QPen(c, 1.2));
    for (double y = spacing / 2; y < height(); y += spacing)
        for (double x = spacing / 2; x < width(); x += spacing) {
            const auto v = m_field->vectorAt(toWorld({x, y}), array);
            if (!v)
                continue;
            const double n = std::hypot(v->x(), v->y());
            if (!(n > 0))
                continue;
            const QPointF d(v->x() / n, -v->y() / n),
                a = QPointF(x, y) - 10 * d, b = QPointF(x, y) + 10 * d, side(-d.y(), d.x());
            p.drawLine(a, b);
            p.drawLine(b, b - 5 * d + 3 * side);
            p.drawLine(b, b - 5 * d - 3 * side);
        }
}

static QString lengthShown(double v)
{
    return QString::fromStdString(base::format(v, base::dim::length, 5));
}

QString SceneCanvas::paintFigure(QPainter& p, QPointF cursor)
{
    const QPointF a = toWidget(m_draft.first()), c = toWidget(cursor);
    if (m_tool == Tool::rectangle) {
        p.drawRect(QRectF(a, c).normalized());
        return (lengthShown(std::abs(cursor.x() - m_draft[0].x())) + u" × "_s +
                lengthShown(std::abs(cursor.y() - m_draft[0].y())));
    } else if (m_tool == Tool::disc) {
        const double r = std::hypot(c.x() - a.x(), c.y() - a.y());
        p.drawEllipse(a, r, r);
        return (tr("radius %1").arg(lengthShown(r * m_scale)));
    } else {
        QPolygonF line;
        for (const QPointF& q : m_draft)
            line << toWidget(q);
        line << c;
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(line);
        return (m_tool == Tool::profile
                    ? tr("to %1, %2").arg(lengthShown(cursor.x()), lengthShown(cursor.y()))
                    : (m_arcStage > 0
                           ? tr("arc: through, then end")
                           : tr("%1, %2   A: arc, Enter: done")
                                 .arg(lengthShown(cursor.x()), lengthShown(cursor.y()))));
    }
}

void SceneCanvas::paintDraft(QPainter& p)
{
    if (m_tool == Tool::select || m_tool == Tool::pin)
        return;
    const Theme& t = theme();
    const QPointF cursor = snapped(toWorld(m_cursor));
    p.setPen(QPen(t.plum, 1.4));
    const QPointF c = toWidget(cursor);
    p.drawLine(c - QPointF(6, 0), c + QPointF(6, 0));
    p.drawLine(c - QPointF(0, 6), c + QPointF(0, 6));
    auto text = [&](const QString& s) {
        p.setFont(numberFont(8.5));
        const QFontMetrics fm(p.font());
        const QRectF box(c.x() + 12, c.y() + 10, fm.horizontalAdvance(s) + 10, fm.height() + 4);
        p.setPen(Qt::NoPen);
        p.setBrush(t.sheet);
        p.drawRoundedRect(box, 4, 4);
        p.setPen(t.ink);
        p.drawText(box, Qt::AlignCenter, s);
    };

    if (m_draft.isEmpty()) {
        text(lengthShown(cursor.x()) + u", "_s + lengthShown(cursor.y()));
        return;
    }
    QColor fill = t.yellow;
    fill.setAlphaF(0.25f);
    p.setBrush(fill);
    p.setPen(QPen(t.plum, 1.6));
    text(paintFigure(p, cursor));
}

void SceneCanvas::paintHandles(QPainter& p)
{
    if (m_handles.line < 0 || m_tool != Tool::select)
        return;
    const Theme& t = theme();
    const QPointF c = toWidget(m_handles.centre);
    auto box = [&](QPointF at, bool active) {
        p.setPen(QPen(t.ink, 1.2));
        p.setBrush(active ? t.yellow : t.line);
        p.drawRect(QRectF(at.x() - 4, at.y() - 4, 8, 8));
    };
    box(c, m_handles.canMove);
    if (m_handles.disc) {
        box(toWidget(m_handles.centre + QPointF(m_handles.halfWidth, 0)), m_handles.canSizeX);
        return;
    }
    box(toWidget(m_handles.centre + QPointF(m_handles.halfWidth, m_handles.halfHeight)),
        m_handles.canSizeX || m_handles.canSizeY);
}

}  // namespace yh::app
