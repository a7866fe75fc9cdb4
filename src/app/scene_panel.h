// The scene with its lens pills, colour ruler and reading line.
#pragma once

#include "app/colour_ruler.h"
#include "app/diagram_canvas.h"
#include "app/scene_canvas.h"
#include "app/solid_canvas.h"
#include "base/quantity.h"

#include <QWidget>

class QLabel;
class QToolButton;
class QActionGroup;
class QSlider;
class QStackedWidget;
class QTimer;
#include <optional>

namespace yh::app {

class FlowLayout;

class ScenePanel : public QWidget
{
    Q_OBJECT
public:
    explicit ScenePanel(QWidget* parent = nullptr);
    [[nodiscard]] SceneCanvas* canvas() const { return m_canvas; }
    [[nodiscard]] SolidCanvas* solid() const { return m_solid; }
    /// Shows the scene of solids, or that of drawings.
    void setSolid(bool solid);
    /// Shows parts and joints in place of a shape; one without boxes: the shape again.
    void setDiagram(const sheet::Diagram& diagram);
    [[nodiscard]] DiagramCanvas* diagram() const { return m_diagram; }
    [[nodiscard]] bool isSolid() const { return m_isSolid; }
    void setPattern(const FarPattern& pattern);
    /// The scene as it looks with another quantity in its colours.
    [[nodiscard]] QPixmap pictureOf(const QString& quantity, const QSize& size);
    void setField(std::shared_ptr<FieldData> field, std::vector<QPolygonF> lines);
    void setAxisymmetric(bool axisymmetric);
    void setTool(Tool tool);
    void setLens(const QString& quantity);
    void setLayers(const Layers& layers);
    /// Symmetry that a solid's picture can be completed by.
    void setSymmetry(std::array<bool, 3> planes, int wedges);
    void setNamed(const std::vector<NamedPlace>& places);
    /// Units, SI, of the figures asked for: what opens shows one of them.
    void setAsked(const QStringList& units);
    /// Lets a transient stand at a time.
    void setTime(double seconds);
    [[nodiscard]] const std::vector<double>& times() const;
    /// s, of the picture that is looked at; none: the field does not run in time.
    [[nodiscard]] std::optional<double> shownTime() const;
    [[nodiscard]] QString reading(QPointF world) const;
    /// The same at a place of a solid, on a face or inside.
    [[nodiscard]] QString reading(const std::array<double, 3>& at, bool inside) const;

Q_SIGNALS:
    void pinned(QPointF world, const QString& text);
    void solidPinned(std::array<double, 3> at, const QString& text);

private:
    struct Quantity
    {
        QString name;
        Lens lens;
        base::Dimension dimension;
        std::string unit;  ///< SI
    };
    [[nodiscard]] std::vector<Quantity> quantities() const;
    [[nodiscard]] Quantity current() const;
    QToolButton* pill(const QString& name, const QString& text, const QString& tip, bool checkable);
    /// What stands below the scene while nothing is pointed at.
    void showRest();
    void applyLens(bool keepRange = false);
    void applyRuler();
    /// Draws the shape moved by the displacement that is looked at, or the first there is.
    void applyMoved();
    double m_mostMoved = 0;  ///< phase of the period at which the shape moves most
    void showPills();
    void buildPills();
    void buildDrawMenu();
    void buildColourMenu();
    void buildSolidPills();
    [[nodiscard]] QLayout* scenes();
    void connectLayers();
    void connectScenes();
    /// The player stands at the end of a course, at the beginning of a period.
    void resetPlayer();
    /// What lines and arrows are called.
    void nameLayers();
    void connectPlayer();
    void buildPlayer();
    void showTime();
    void spanBothSigns(double low, double high);
    /// Shows a moment of the period of alternating fields.
    void showPhase();
    /// Whether the player runs through a period, in place of a course over time.
    [[nodiscard]] bool playsPhase() const;
    /// The range of colours that suits all moments of a period.
    void spanPeriod();
    QString m_spanned;  ///< the quantity whose colours span the period
    void applyLensTo(const Quantity& q, const QString& map);
    void rebuildMenus();

    SceneCanvas* m_canvas;
    SolidCanvas* m_solid;
    DiagramCanvas* m_diagram;
    QStackedWidget* m_stack;
    QSlider* m_sectionAt;
    QToolButton *m_sectionPill, *m_throughPill, *m_viewPill, *m_wholePill, *m_toolPill;
    QWidget* m_player;
    QToolButton* m_play;
    QSlider* m_timeAt;
    QLabel* m_timeText;
    QTimer* m_ticks;
    Layers m_flatLayers, m_solidLayers;
    bool m_wasSolid = false;
    bool m_isSolid = false;
    int m_sectionAxis = -1;
    ColourRuler* m_ruler;
    QLabel* m_reading;
    FlowLayout* m_pills;
    QToolButton *m_quantityPill, *m_mapPill, *m_drawPill;
    QAction* m_names = nullptr;
    QToolButton *m_potential, *m_lines, *m_meshPill, *m_arrows, *m_pin, *m_patternPill,
        *m_movedPill;
    bool m_hasPattern = false;
    std::shared_ptr<FieldData> m_field;
    bool m_byDecades = false;  ///< of colours
    QStringList m_asked;
    QString m_quantity, m_map;
    std::map<QString, base::DisplayUnit> m_units;
    FieldData::Distribution m_distribution;
    double m_low = 0, m_high = 1;
    bool m_hasLines = false;
    QString m_lined;  ///< the scalar whose lines were last chosen for
    bool m_axisymmetric = false;
    Layers m_layers;
};

}  // namespace yh::app
