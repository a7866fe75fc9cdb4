// Colour ruler with the distribution of values and two handles that clip the range.
#pragma once

#include <QString>
#include <QWidget>
#include <vector>

namespace yh::app {

struct RulerView
{
    double least = 0, largest = 1;  ///< ends of the ruler, display units
    double low = 0, high = 1;       ///< shown range, display units
    std::vector<double> share;      ///< distribution from least to largest
    QString unit, map;
    bool logarithmic = false;
};

class ColourRuler : public QWidget
{
    Q_OBJECT
public:
    explicit ColourRuler(QWidget* parent = nullptr);
    void setView(const RulerView& view);
    [[nodiscard]] QSize sizeHint() const override { return {96, 300}; }

Q_SIGNALS:
    void rangeChanged(double low, double high);
    void reset();

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;

private:
    [[nodiscard]] QRectF bar() const;
    [[nodiscard]] double toY(double value) const;
    [[nodiscard]] double toValue(double y) const;
    /// Round values, or decades.
    [[nodiscard]] std::vector<double> ticks() const;
    RulerView m_view;
    int m_dragging = -1;
};

}  // namespace yh::app
