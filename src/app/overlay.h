// What the scenes of drawings and of solids share: the layer over the picture, colours, the scale.
#pragma once

#include "app/field_data.h"

#include <QPainter>
#include <QWidget>
#include <functional>

class vtkLookupTable;

namespace yh::app {

/// What lies over the picture, painted by Qt's own rasteriser: sharp text and thin lines at any
/// scale, and nothing to do with the state that VTK leaves in the graphics context.
class SceneOverlay : public QWidget
{
public:
    SceneOverlay(QWidget* parent, std::function<void(QPainter&)> paint)
        : QWidget(parent), m_paint(std::move(paint))
    {
        setAttribute(Qt::WA_TransparentForMouseEvents);
        setAttribute(Qt::WA_NoSystemBackground);
        setFocusPolicy(Qt::NoFocus);
    }

protected:
    void paintEvent(QPaintEvent*) override
    {
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        m_paint(painter);
    }

private:
    std::function<void(QPainter&)> m_paint;
};

/// Fills a colour table from a named map for a range of values.
void fillColours(vtkLookupTable* table, const Lens& lens, double low, double high,
                 const QString& map);
/// Name of the array that a lens colours by: magnitudes have arrays of their own.
[[nodiscard]] QString colourArray(const FieldData* field, const Lens& lens);
/// A bar with its length at the lower left. @param scale  m in one pixel
void paintScaleBar(QPainter& painter, double scale, int height);
/// A kept reading: a dot and its text beside it.
void paintPin(QPainter& painter, QPointF at, const QString& text);

}  // namespace yh::app
