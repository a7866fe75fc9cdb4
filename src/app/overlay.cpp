#include "app/overlay.h"

#include "app/theme.h"
#include "base/quantity.h"

#include <vtkLookupTable.h>

#include <cmath>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

void fillColours(vtkLookupTable* table, const Lens& lens, double low, double high,
                 const QString& map)
{
    const auto stops = colourMap(map);
    // Decades take finer steps near zero.
    const int entries = lens.logarithmic ? 16384 : 512;
    table->SetNumberOfTableValues(entries);
    for (int i = 0; i < entries; ++i) {
        const double share = double(i) / (entries - 1);
        const QColor c = colourAt(
            stops,
            lens.logarithmic ? colourShare(low + share * (high - low), low, high, true) : share);
        table->SetTableValue(i, c.redF(), c.greenF(), c.blueF());
    }
    table->SetTableRange(low, high > low ? high : low + 1);
    if (lens.component < 0) {
        table->SetVectorModeToMagnitude();
    } else {
        table->SetVectorModeToComponent();
        table->SetVectorComponent(lens.component);
    }
    table->Modified();
}

QString colourArray(const FieldData* field, const Lens& lens)
{
    bool vector = false;
    if (field)
        for (const auto& a : field->arrays())
            vector = vector || (a.name == lens.array && a.vector);
    return vector && lens.component < 0 ? u'|' + lens.array + u'|' : lens.array;
}

void paintScaleBar(QPainter& p, double scale, int height)
{
    const Theme& t = theme();
    constexpr double wanted = 90;  // pixels
    const double ten = std::pow(10.0, std::floor(std::log10(wanted * scale)));
    double length = ten;
    for (const double f : {1.0, 2.0, 5.0})
        if (f * ten <= wanted * scale)
            length = f * ten;
    const double w = length / scale;
    const QPointF at(16, height - 14);
    const QString text = QString::fromStdString(base::format(length, base::dim::length, 3));
    p.setFont(numberFont(8.25));
    const QFontMetrics fm(p.font());
    QColor back = t.sheet;
    back.setAlphaF(0.8f);
    p.setPen(Qt::NoPen);
    p.setBrush(back);
    p.drawRoundedRect(QRectF(at.x() - 6, at.y() - 8, w + fm.horizontalAdvance(text) + 20, 16), 4,
                      4);
    p.setPen(QPen(t.ink, 1.4));
    p.drawLine(at, at + QPointF(w, 0));
    p.drawLine(at + QPointF(0, -3), at + QPointF(0, 3));
    p.drawLine(at + QPointF(w, -3), at + QPointF(w, 3));
    p.drawText(at + QPointF(w + 7, 4), text);
}

void paintPin(QPainter& p, QPointF at, const QString& text)
{
    const Theme& t = theme();
    p.setPen(QPen(t.ink, 1.2));
    p.setBrush(t.yellow);
    p.drawEllipse(at, 4, 4);
    const QFontMetrics fm(p.font());
    const QRectF box(at.x() + 8, at.y() - fm.height() - 4, fm.horizontalAdvance(text) + 10,
                     fm.height() + 4);
    p.setPen(Qt::NoPen);
    p.setBrush(t.sheet);
    p.drawRoundedRect(box, 4, 4);
    p.setPen(t.ink);
    p.drawText(box, Qt::AlignCenter, text);
}

}  // namespace yh::app
