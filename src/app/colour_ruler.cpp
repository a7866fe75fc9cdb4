#include "app/colour_ruler.h"

#include "app/theme.h"
#include "base/quantity.h"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

ColourRuler::ColourRuler(QWidget* parent) : QWidget(parent)
{
    setObjectName(u"colourRuler"_s);
    setAccessibleName(tr("Colour ruler"));
    setToolTip(tr("Drag the handles to clip the colours; double-click to reset"));
    setFixedWidth(96);
    setMouseTracking(true);
}

void ColourRuler::setView(const RulerView& view)
{
    m_view = view;
    update();
}

QRectF ColourRuler::bar() const
{
    return {36, 30, 14, std::max(60.0, height() - 60.0)};
}

double ColourRuler::toY(double v) const
{
    const QRectF b = bar();
    return b.bottom() -
           colourShare(v, m_view.least, m_view.largest, m_view.logarithmic) * b.height();
}

double ColourRuler::toValue(double y) const
{
    const QRectF b = bar();
    return colourValue(std::clamp((b.bottom() - y) / b.height(), 0.0, 1.0), m_view.least,
                       m_view.largest, m_view.logarithmic);
}

std::vector<double> ColourRuler::ticks() const
{
    std::vector<double> list;
    const double span = m_view.largest - m_view.least;
    if (!(span > 0))
        return list;
    if (m_view.logarithmic) {
        // A decade apart, to both signs.
        const double most = std::max(std::abs(m_view.least), std::abs(m_view.largest)),
                     first = std::pow(10, std::floor(std::log10(most) + 1e-9));
        for (double v = first; v > 0.9e-3 * most; v /= 10) {
            if (v <= m_view.largest)
                list.push_back(v);
            if (-v >= m_view.least)
                list.push_back(-v);
        }
        return list;
    }
    const double ten = std::pow(10.0, std::floor(std::log10(span / 5)));
    double tick = ten;
    for (const double f : {1.0, 2.0, 5.0, 10.0})
        if (f * ten <= span / 4)
            tick = f * ten;
    for (double v = std::ceil(m_view.least / tick) * tick; v <= m_view.largest + 1e-9 * span;
         v += tick)
        list.push_back(std::abs(v) < 1e-9 * span ? 0 : v);
    return list;
}

void ColourRuler::paintEvent(QPaintEvent*)
{
    const Theme& t = theme();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), t.scene);
    if (m_view.share.empty())
        return;
    const QRectF b = bar();
    const auto stops = colourMap(m_view.map);
    for (int y = int(b.top()); y < int(b.bottom()); ++y) {
        p.fillRect(
            QRectF(b.left(), y, b.width(), 1.5),
            colourAt(stops, colourShare(toValue(y), m_view.low, m_view.high, m_view.logarithmic)));
    }
    QColor grey = t.ink;
    grey.setAlphaF(0.33f);
    const double step = b.height() / double(m_view.share.size());
    // Counts of even steps have no place among decades.
    for (size_t i = 0; i < m_view.share.size() && !m_view.logarithmic; ++i) {
        const double w = 28 * std::sqrt(m_view.share[i]);
        p.fillRect(
            QRectF(b.left() - 4 - w, b.bottom() - double(i + 1) * step, w, std::max(1.0, step - 1)),
            grey);
    }
    p.setFont(numberFont(8.25));
    p.setPen(t.ink);
    p.drawText(QRectF(0, 6, width(), 16), Qt::AlignHCenter, m_view.unit);
    for (const double v : ticks())
        p.drawText(QRectF(b.right() + 11, toY(v) - 8, 44, 16), Qt::AlignVCenter | Qt::AlignLeft,
                   QString::fromStdString(base::formatNumber(v, 4)));
    p.setPen(Qt::NoPen);
    p.setBrush(t.ink);
    for (const double v : {m_view.low, m_view.high}) {
        const double y = toY(std::clamp(v, m_view.least, m_view.largest));
        p.drawPolygon(QPolygonF({QPointF(b.right() + 1, y), QPointF(b.right() + 9, y - 5),
                                 QPointF(b.right() + 9, y + 5)}));
    }
}

void ColourRuler::mousePressEvent(QMouseEvent* e)
{
    const double y = e->position().y();
    const double dl = std::abs(y - toY(m_view.low)), dh = std::abs(y - toY(m_view.high));
    m_dragging = dl < dh ? 0 : 1;
    mouseMoveEvent(e);
}

void ColourRuler::mouseMoveEvent(QMouseEvent* e)
{
    const double y = e->position().y();
    const bool near = std::min(std::abs(y - toY(m_view.low)), std::abs(y - toY(m_view.high))) < 8;
    setCursor(near || m_dragging >= 0 ? Qt::SizeVerCursor : Qt::ArrowCursor);
    if (m_dragging < 0)
        return;
    const double v = toValue(y), least = 0.01 * (m_view.largest - m_view.least);
    if (m_dragging == 0)
        m_view.low = std::min(v, m_view.high - least);
    else
        m_view.high = std::max(v, m_view.low + least);
    update();
    Q_EMIT rangeChanged(m_view.low, m_view.high);
}

void ColourRuler::mouseReleaseEvent(QMouseEvent*)
{
    m_dragging = -1;
}

void ColourRuler::mouseDoubleClickEvent(QMouseEvent*)
{
    m_dragging = -1;
    Q_EMIT reset();
}

}  // namespace yh::app
