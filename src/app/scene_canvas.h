// The picture of the device: colours and lines by VTK, outlines, pins and drawing on top.
#pragma once

#include "app/field_canvas.h"

#include <QJsonObject>
#include <QPainterPath>
#include <memory>
#include <set>
#include <vector>

namespace yh::app {

/// Shape of the sheet as the solver sees it, ready to draw. Coordinates in m.
struct SceneShape
{
    struct Face
    {
        QString name;
        int line = -1;
        bool hidden = false, shell = false, conductor = false;
        QPainterPath path;
    };
    struct Edge
    {
        QPolygonF points;
        QString rule;
        bool thin = false, hidden = false;
        std::vector<int> faces;
    };
    std::vector<Face> faces;
    std::vector<Edge> edges;
    QRectF box;
    static SceneShape fromJson(const QJsonObject& event);
};

/// Handles of the selected line: a box or disc that can be moved and resized.
struct Handles
{
    int line = -1;
    bool disc = false;
    QPointF centre;
    double halfWidth = 0, halfHeight = 0;                      ///< disc: both the radius
    bool canMove = false, canSizeX = false, canSizeY = false;  ///< false where a formula stands
};

class SceneCanvas : public FieldCanvas
{
    Q_OBJECT
public:
    explicit SceneCanvas(QWidget* parent = nullptr);
    ~SceneCanvas() override;

    void setShape(SceneShape shape);
    [[nodiscard]] const SceneShape& shape() const { return m_shape; }
    void setField(std::shared_ptr<FieldData> field, std::vector<QPolygonF> lines);
    void setStale(bool stale);
    void setLens(const Lens& lens, double low, double high, const QString& map);
    void setLayers(const Layers& layers);
    void setTool(Tool tool) override;
    void setHighlight(std::set<int> faces, std::set<int> edges, int line);
    void setHandles(const Handles& handles);
    /// Whether the axis of rotation or planes of symmetry are drawn, upright and across.
    void setCentreLines(bool upright, bool across);
    void setMarks(std::vector<QPointF> marks);
    [[nodiscard]] const std::vector<QPointF>& marks() const { return m_marks; }
    struct Pin
    {
        QPointF at;
        QString text;
    };
    void setPins(std::vector<Pin> pins);
    void setAxisNames(const QString& horizontal, const QString& vertical)
    {
        m_axis[0] = horizontal, m_axis[1] = vertical;
    }
    void fit() override;
    void zoomBy(double factor, QPointF at);
    [[nodiscard]] QPointF toWorld(QPointF widget) const;
    [[nodiscard]] QPointF toWidget(QPointF world) const;
    /// Grid step that drawing snaps to, m.
    [[nodiscard]] double snapStep() const;

Q_SIGNALS:
    void hovered(QPointF world, const QString& region);
    void regionClicked(int face, QPoint global);
    void edgeClicked(int edge, QPoint global);
    /// A drawn shape: rectangle (two corners), disc (centre, rim), path (points; arcs in `vias`).
    void drawn(yh::app::Tool tool, const QVector<QPointF>& points, const QVector<int>& arcEnds);
    void pinned(QPointF world);
    void handleDragged(int line, QPointF centre, double halfWidth, double halfHeight);

protected:
    [[nodiscard]] View view() const override;
    void dress(double ratio) override;
    void paintOverlay(QPainter& painter) override;
    [[nodiscard]] std::optional<QPointF> middleOf(const NamedPlace& place) const override;
    [[nodiscard]] vtkPolyDataMapper& surface() const override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void leaveEvent(QEvent* event) override;

private:
    struct Vtk;
    void contourBy(const QString& array);
    /// Moves or sizes what is held.
    void dragHandle();
    /// What is being drawn, so far. @returns what to say of it
    QString paintFigure(QPainter& p, QPointF cursor);
    void paintDraft(QPainter& painter);
    void paintCentreLines(QPainter& painter) const;
    void paintHandles(QPainter& painter);
    void paintArrows(QPainter& painter);
    [[nodiscard]] QPointF snapped(QPointF world) const;
    [[nodiscard]] int faceAt(QPointF world) const;
    [[nodiscard]] int edgeAt(QPointF widget) const;
    [[nodiscard]] int handleAt(QPointF widget) const;
    [[nodiscard]] QTransform transform() const;
    void finishPath();

    std::unique_ptr<Vtk> m_vtk;
    SceneShape m_shape;
    std::vector<QPolygonF> m_lines;
    std::vector<QPointF> m_marks;
    std::vector<Pin> m_pins;
    Handles m_handles;
    bool m_isUpright = false, m_isAcross = false;  ///< centre lines
    std::set<int> m_litFaces, m_litEdges;
    int m_litLine = -1, m_hoverFace = -1, m_hoverEdge = -1;
    int m_arcStage = 0;  ///< 1: the next click is the point an arc goes through, 2: its end
    int m_dragging = -1;
    QPointF m_centre;  ///< m, in the middle of the widget
    QPointF m_cursor;
    QVector<QPointF> m_draft;
    QVector<int> m_draftArcs;
    QString m_axis[2] = {QStringLiteral("x"), QStringLiteral("y")};
};

}  // namespace yh::app
