// Parts and how they are joined, laid out by itself: the scene of sheets without a shape.
#pragma once

#include "sheet/diagram.h"

#include <QPointF>
#include <QRectF>
#include <QWidget>
#include <vector>

namespace yh::app {

class DiagramCanvas : public QWidget
{
    Q_OBJECT
public:
    explicit DiagramCanvas(QWidget* parent = nullptr);
    void setDiagram(sheet::Diagram diagram);
    [[nodiscard]] bool isEmpty() const { return m_diagram.boxes.empty(); }
    /// Lights up the box of a line; -1: none.
    void setHighlight(int line);
    /// Where the box of a line is, in the widget; empty: it has none.
    [[nodiscard]] QRectF boxOf(int line) const;

Q_SIGNALS:
    void chosen(int line);

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;

private:
    /// Columns by the number of joints from the first terminal; rows so that joints cross little.
    void layOut();
    void drawPorts(QPainter& painter, int box) const;
    /// Which side each port of a box is on: -1 left, 1 right.
    [[nodiscard]] int sideOf(int box, int port) const;
    [[nodiscard]] QPointF portAt(int box, int port) const;
    [[nodiscard]] QRectF rectOf(int box) const;
    void drawBox(QPainter& painter, int box) const;
    void drawLinks(QPainter& painter) const;

    sheet::Diagram m_diagram;
    std::vector<int> m_column, m_row;  ///< by box
    std::vector<int> m_rows;           ///< by column: how many boxes
    int m_line = -1;
};

}  // namespace yh::app
