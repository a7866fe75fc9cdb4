#include "app/diagram_canvas.h"

#include "app/text.h"
#include "app/theme.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <deque>
#include <numeric>

namespace yh::app {

using namespace Qt::Literals::StringLiterals;

DiagramCanvas::DiagramCanvas(QWidget* parent) : QWidget(parent)
{
    setObjectName(u"diagram"_s);
    setAccessibleName(tr("Circuit"));
    setMinimumSize(200, 120);
}

void DiagramCanvas::setDiagram(sheet::Diagram diagram)
{
    m_diagram = std::move(diagram);
    layOut();
    update();
}

void DiagramCanvas::setHighlight(int line)
{
    m_line = line;
    update();
}

void DiagramCanvas::layOut()
{
    const auto& boxes = m_diagram.boxes;
    const size_t n = boxes.size();
    m_column.assign(n, -1);
    m_row.assign(n, 0);
    std::vector<std::vector<int>> beside(n);
    for (const auto& l : m_diagram.links) {
        beside[size_t(l.box[0])].push_back(l.box[1]);
        beside[size_t(l.box[1])].push_back(l.box[0]);
    }
    // From the first terminal outwards; what hangs together with nothing begins anew at the left.
    std::vector<int> starts(n);
    std::iota(starts.begin(), starts.end(), 0);
    std::stable_sort(starts.begin(), starts.end(), [&](int a, int b) {
        return boxes[size_t(a)].isTerminal > boxes[size_t(b)].isTerminal;
    });
    for (const int start : starts) {
        if (m_column[size_t(start)] >= 0)
            continue;
        std::deque<int> queue{start};
        m_column[size_t(start)] = 0;
        while (!queue.empty()) {
            const int b = queue.front();
            queue.pop_front();
            for (const int other : beside[size_t(b)])
                if (m_column[size_t(other)] < 0) {
                    m_column[size_t(other)] = m_column[size_t(b)] + 1;
                    queue.push_back(other);
                }
        }
    }
    const int columns = n == 0 ? 0 : *std::max_element(m_column.begin(), m_column.end()) + 1;
    m_rows.assign(size_t(columns), 0);
    for (size_t b = 0; b < n; ++b)
        m_row[b] = m_rows[size_t(m_column[b])]++;
    // Each column is ordered by the mean height of what stands before it, some times over.
    constexpr int sweeps = 4;
    for (int s = 0; s < sweeps; ++s)
        for (int k = 0; k < columns; ++k) {
            const int c = s % 2 ? columns - 1 - k : k;
            std::vector<std::pair<double, int>> order;
            for (size_t b = 0; b < n; ++b) {
                if (m_column[b] != c)
                    continue;
                double sum = 0;
                int count = 0;
                for (const auto& l : m_diagram.links)
                    for (const int end : {0, 1}) {
                        if (l.box[end] != int(b))
                            continue;
                        const auto other = size_t(l.box[1 - end]);
                        const int ports = std::max(1, boxes[other].ports);
                        sum += (m_row[other] + (l.port[1 - end] + 0.5) / ports) /
                               std::max(1, m_rows[size_t(m_column[other])]);
                        ++count;
                    }
                order.push_back({count ? sum / count : 0.5, int(b)});
            }
            std::stable_sort(order.begin(), order.end(),
                             [](const auto& a, const auto& b) { return a.first < b.first; });
            for (size_t i = 0; i < order.size(); ++i)
                m_row[size_t(order[i].second)] = int(i);
        }
}

QRectF DiagramCanvas::rectOf(int box) const
{
    const auto b = size_t(box);
    const auto columns = double(m_rows.size());
    const double wide = width() / columns, high = double(height()) / m_rows[size_t(m_column[b])];
    const bool terminal = m_diagram.boxes[b].isTerminal;
    const double w = std::min(terminal ? 76.0 : 132.0, 0.72 * wide),
                 h = std::min(
                     terminal ? 30.0 : 26.0 + 16.0 * std::max(2, m_diagram.boxes[b].ports / 2),
                     0.7 * high);
    const QPointF middle((m_column[b] + 0.5) * wide, (m_row[b] + 0.5) * high);
    return {middle.x() - w / 2, middle.y() - h / 2, w, h};
}

QRectF DiagramCanvas::boxOf(int line) const
{
    for (size_t b = 0; b < m_diagram.boxes.size(); ++b)
        if (m_diagram.boxes[b].line == line)
            return rectOf(int(b));
    return {};
}

int DiagramCanvas::sideOf(int box, int port) const
{
    for (const auto& l : m_diagram.links)
        for (const int end : {0, 1})
            if (l.box[end] == box && l.port[end] == port)
                return m_column[size_t(l.box[1 - end])] < m_column[size_t(box)] ? -1 : 1;
    return 1;
}

QPointF DiagramCanvas::portAt(int box, int port) const
{
    const QRectF r = rectOf(box);
    const int side = sideOf(box, port);
    int before = 0, count = 0;
    for (int p = 0; p < std::max(port + 1, m_diagram.boxes[size_t(box)].ports); ++p)
        if (sideOf(box, p) == side) {
            before += p < port;
            ++count;
        }
    return {side < 0 ? r.left() : r.right(), r.top() + r.height() * (before + 0.5) / count};
}

void DiagramCanvas::drawLinks(QPainter& painter) const
{
    painter.setPen(QPen(theme().plum, 1.8));
    painter.setBrush(Qt::NoBrush);
    for (const auto& l : m_diagram.links) {
        const QPointF a = portAt(l.box[0], l.port[0]), b = portAt(l.box[1], l.port[1]);
        const double reach = 0.5 * std::max(30.0, std::abs(a.x() - b.x()));
        QPainterPath path(a);
        path.cubicTo(a + QPointF(sideOf(l.box[0], l.port[0]) * reach, 0),
                     b + QPointF(sideOf(l.box[1], l.port[1]) * reach, 0), b);
        painter.drawPath(path);
    }
}

void DiagramCanvas::drawPorts(QPainter& painter, int box) const
{
    const Theme& t = theme();
    const auto& b = m_diagram.boxes[size_t(box)];
    painter.setFont(numberFont(7));
    painter.setBrush(t.plum);
    for (int p = 0; p < b.ports; ++p) {
        const QPointF at = portAt(box, p);
        painter.setPen(Qt::NoPen);
        painter.drawEllipse(at, 3, 3);
        painter.setPen(t.muted);
        const bool left = sideOf(box, p) < 0;
        painter.drawText(QRectF(at.x() + (left ? 5 : -17), at.y() - 7, 12, 14),
                         Qt::AlignVCenter | (left ? Qt::AlignLeft : Qt::AlignRight),
                         QString::number(p + 1));
    }
}

void DiagramCanvas::drawBox(QPainter& painter, int box) const
{
    const Theme& t = theme();
    const auto& b = m_diagram.boxes[size_t(box)];
    const QRectF r = rectOf(box);
    const bool lit = b.line == m_line && m_line >= 0;
    painter.setPen(QPen(lit ? t.yellow : t.line, lit ? 2.5 : 1.2));
    painter.setBrush(b.isTerminal ? t.pill : t.sheet);
    const double round = b.isTerminal ? r.height() / 2 : 7;
    painter.drawRoundedRect(r, round, round);
    const QRectF inside = r.adjusted(8, 3, -8, -3);
    painter.setPen(t.ink);
    painter.setFont(textFont(9.5));
    const QString name = qs(b.name), text = qs(b.text);
    const bool two = !name.isEmpty() && !text.isEmpty();
    const QRectF upper =
        two ? QRectF(inside.left(), inside.top(), inside.width(), 0.5 * inside.height()) : inside;
    painter.drawText(upper, Qt::AlignHCenter | (two ? Qt::AlignBottom : Qt::AlignVCenter),
                     painter.fontMetrics().elidedText(name, Qt::ElideRight, int(inside.width())));
    painter.setPen(t.muted);
    painter.setFont(textFont(8));
    const QRectF lower =
        two ? QRectF(inside.left(), inside.center().y(), inside.width(), 0.5 * inside.height())
            : inside;
    painter.drawText(lower, Qt::AlignHCenter | (two ? Qt::AlignTop : Qt::AlignVCenter),
                     painter.fontMetrics().elidedText(text, Qt::ElideRight, int(inside.width())));
    if (b.isTerminal)
        return;
    drawPorts(painter, box);
}

void DiagramCanvas::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), theme().scene);
    if (isEmpty())
        return;
    drawLinks(painter);
    for (size_t b = 0; b < m_diagram.boxes.size(); ++b)
        drawBox(painter, int(b));
}

void DiagramCanvas::mousePressEvent(QMouseEvent* event)
{
    for (size_t b = 0; b < m_diagram.boxes.size(); ++b)
        if (rectOf(int(b)).contains(event->position())) {
            Q_EMIT chosen(m_diagram.boxes[b].line);
            return;
        }
    Q_EMIT chosen(-1);
}

}  // namespace yh::app
