// What the scenes of drawings and of solids share: a picture by VTK in a widget of Qt, a layer of
// text and thin lines over it, and fewer triangles while it moves.
#pragma once

#include "app/field_data.h"

#include <QOpenGLWidget>
#include <QPointF>
#include <array>
#include <memory>
#include <optional>
#include <set>
#include <vector>

class QPainter;
class QTimer;
class vtkLookupTable;
class vtkPolyDataMapper;
class vtkRenderer;

namespace yh::app {

enum class Tool { select, rectangle, disc, path, thinLine, pin, profile, box };

struct Layers
{
    bool colours = true, mesh = false, potentialLines = true, fieldLines = false, arrows = false;
    bool pattern = false;  ///< of the far field, about the device
    bool names = true;     ///< of electrodes, ports and the like
};

/// Where a line with a name acts: an electrode, a port, a coil.
struct NamedPlace
{
    QString name;
    std::set<int> faces, edges;  ///< of the shape; in solids its pieces and sides
};

class FieldCanvas : public QOpenGLWidget
{
    Q_OBJECT
public:
    ~FieldCanvas() override;
    /// Shows the whole.
    virtual void fit() = 0;
    virtual void setTool(Tool tool);
    void setNamed(std::vector<NamedPlace> places);
    [[nodiscard]] const std::vector<NamedPlace>& named() const { return m_named; }
    [[nodiscard]] Tool tool() const { return m_tool; }

Q_SIGNALS:
    void left();
    void emptyClicked();

protected:
    /// Paints names beside their places; of names that would lie over one another the later move.
    void paintNames(QPainter& painter) const;
    /// The middle of a place on the screen; none: it is hidden.
    [[nodiscard]] virtual std::optional<QPointF> middleOf(const NamedPlace& place) const = 0;
    /// @param name   for tests and styles
    /// @param title  for who cannot see it
    FieldCanvas(QWidget* parent, const QString& name, const QString& title);
    /// Gives back what the picture holds of the graphics card; at the end of a scene.
    template <class Parts>
    void release(std::unique_ptr<Parts>& parts)
    {
        makeCurrent();
        finalise();
        parts.reset();
        doneCurrent();
    }
    /// Draws with fewer triangles until nothing has moved for a moment.
    void hurry();

    /// From where the picture is seen, along parallel lines.
    struct View
    {
        std::array<double, 3> eye{}, at{}, up{};
        double nearest = 0, farthest = 1;  ///< distances from the eye
    };
    [[nodiscard]] virtual View view() const = 0;
    /// Colours and widths of what is drawn. @param ratio  pixels of the screen by one of the widget
    virtual void dress(double ratio) = 0;
    virtual void paintOverlay(QPainter& painter) = 0;
    /// What draws the surface of the field.
    [[nodiscard]] virtual vtkPolyDataMapper& surface() const = 0;
    /// Whether that is all that is drawn of it, so that one with fewer triangles can stand for it.
    [[nodiscard]] virtual bool isPlain() const { return true; }
    [[nodiscard]] bool hasField() const { return m_field && !m_field->isEmpty(); }
    [[nodiscard]] vtkRenderer* renderer() const;
    [[nodiscard]] vtkLookupTable* colours() const;

    void initializeGL() override;
    void paintGL() override;
    void resizeEvent(QResizeEvent* event) override;
    void leaveEvent(QEvent* event) override;

    QWidget* m_overlay = nullptr;
    std::shared_ptr<FieldData> m_field;
    Lens m_lens;
    Layers m_layers;
    std::vector<NamedPlace> m_named;
    Tool m_tool = Tool::select;
    bool m_stale = false;
    bool m_moved = false;  ///< by hand, so that the view stays when the size changes
    bool m_panning = false;
    double m_scale = 1e-5;  ///< m in one pixel
    QPointF m_press, m_last;

private:
    struct Picture;
    void finalise();
    void rest();
    std::unique_ptr<Picture> m_picture;
    QTimer* m_rest = nullptr;
};

}  // namespace yh::app
