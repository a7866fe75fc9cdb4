// The picture of a solid device: its faces, or a field on them and on a section plane.
#pragma once

#include "app/far_pattern.h"
#include "app/field_canvas.h"

#include <QJsonObject>
#include <array>
#include <memory>
#include <set>
#include <vector>

namespace yh::app {

/// Shape of a solid sheet as the solver sees it, ready to draw. Coordinates in m.
struct SolidShape
{
    struct Solid
    {
        QString name;
        int line = -1;
        bool hidden = false, conductor = false;
    };
    struct Side
    {
        std::vector<std::array<double, 3>> corners;  ///< three a triangle
        QString rule;
        std::vector<int> solids;
        bool hidden = false, thin = false;
    };
    /// A thin wire, which bounds nothing.
    struct Wire
    {
        int line = -1;
        double radius = 0;
        std::vector<std::vector<std::array<double, 3>>> runs;
        std::vector<std::array<double, 3>> ports;
    };
    std::vector<Solid> solids;
    std::vector<Wire> wires;
    std::vector<Side> sides;
    std::vector<std::vector<std::array<double, 3>>> curves;
    std::array<double, 3> low{}, high{};
    bool endless = false;  ///< space goes on to infinity, in a mapped shell
    static SolidShape fromJson(const QJsonObject& event);
};

class SolidCanvas : public FieldCanvas
{
    Q_OBJECT
public:
    explicit SolidCanvas(QWidget* parent = nullptr);
    ~SolidCanvas() override;

    void setShape(SolidShape shape);
    [[nodiscard]] const SolidShape& shape() const { return m_shape; }
    void setField(std::shared_ptr<FieldData> field);
    void setPattern(FarPattern pattern);
    void setStale(bool stale);
    void setLens(const Lens& lens, double low, double high, const QString& map);
    void setLayers(const Layers& layers);
    void setHighlight(std::set<int> solids, std::set<int> sides, int line);
    void setSeeThrough(bool on);
    /// Planes x, y, z = 0 about which the picture is mirrored to show the whole, and the number of
    /// wedges that make up a turn (1: none).
    void setSymmetry(std::array<bool, 3> planes, int wedges);
    void showWhole(bool on);
    /// Moves the solids apart from the middle, by a share of their distance.
    void setApart(double share);
    /// The field has changed in place.
    void fieldChanged();
    /// A plane that cuts the picture open: axis 0, 1, 2, or -1 for none; share 0 to 1 of the size.
    void setSection(int axis, double share);
    /// What clicks and drags do: turn and choose (select), pin, profile or choice by a box.
    void setTool(Tool tool) override;
    struct Pin
    {
        std::array<double, 3> at{};
        QString text;
    };
    void setPins(std::vector<Pin> pins);
    /// Rings about places.
    void setMarks(std::vector<std::array<double, 3>> marks);
    void hideSolid(int solid, bool hidden);
    void isolate(int solid);
    void showAll();
    /// Looks along a direction: front, back, left, right, top, bottom, corner.
    void setView(const QString& name);
    void fit() override;
    /// Solid and side under a place of the widget; -1: none. On a section there is a solid, but
    /// no side.
    struct Hit
    {
        int side = -1, solid = -1;
        std::array<double, 3> at{};
    };
    [[nodiscard]] Hit hitAt(QPointF widget) const;

Q_SIGNALS:
    /// @param inside  on a section, not on a face
    void hovered(const QString& text, double x, double y, double z, bool inside);
    void sideClicked(int side, int solid, QPoint global);
    void pinned(std::array<double, 3> at, int solid);
    /// A line drawn from one place of the picture to another.
    void profiled(std::array<double, 3> from, std::array<double, 3> to);
    /// Sides that lie wholly in a box drawn on the picture, and solids of which all do.
    void boxChosen(std::set<int> sides, std::set<int> solids, QPoint global);
    /// A shape that came after its field took what is around the device, and its values, out of it.
    void surroundingsLeftOut();

protected:
    [[nodiscard]] View view() const override;
    void dress(double ratio) override;
    void paintOverlay(QPainter& painter) override;
    [[nodiscard]] std::optional<QPointF> middleOf(const NamedPlace& place) const override;
    [[nodiscard]] vtkPolyDataMapper& surface() const override;
    [[nodiscard]] bool isPlain() const override { return m_sectionAxis < 0 && m_apart <= 0; }
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void leaveEvent(QEvent* event) override;

private:
    struct Vtk;
    void rebuildFaces();
    /// How fields are coloured, on the surface and in a cut.
    void connectField();
    /// What is under the pointer lights up and is said.
    void hover(QPointF at);
    void rebuildWires();
    void rebuildField();
    /// Of the field, what is around the device and goes on to infinity.
    /// @returns whether it had been there
    bool leaveOutSurroundings();
    void orient();
    void rebuildCopies();
    [[nodiscard]] bool isShown(const SolidShape::Side& side) const;
    void paintTool(QPainter& painter);
    void paintPins(QPainter& painter);
    void chooseBox(QPoint global);
    /// Right, up and towards the eye, as unit vectors of the world.
    [[nodiscard]] std::array<std::array<double, 3>, 3> frame() const;
    [[nodiscard]] QPointF toWidget(const std::array<double, 3>& p) const;

    std::unique_ptr<Vtk> m_vtk;
    SolidShape m_shape;
    FarPattern m_pattern;
    std::set<int> m_litSolids, m_litSides, m_gone;
    int m_litLine = -1, m_hoverSide = -1;
    std::array<bool, 3> m_mirrors{};
    std::vector<std::array<double, 3>> m_marks;
    int m_wedges = 1;
    bool m_whole = false;
    bool m_hasSurroundings = true;  ///< the field does, still
    double m_apart = 0, m_low = 0, m_high = 1;
    bool m_seeThrough = false;
    int m_sectionAxis = -1;
    double m_sectionShare = 0.5;
    double m_turn = -0.7, m_tilt = 0.45;  ///< radians: about z, and the eye's height
    std::array<double, 3> m_centre{};
    Qt::MouseButton m_button = Qt::NoButton;
    std::vector<Pin> m_pins;
};

}  // namespace yh::app
