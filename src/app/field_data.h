// A stored field, read for drawing: VTK data behind a plain face.
#pragma once

#include <QPointF>
#include <QString>
#include <memory>
#include <optional>
#include <vector>

class vtkPointData;
class vtkPolyData;
class vtkUnstructuredGrid;

namespace yh::app {

struct Surroundings;

/// What the lens looks at.
struct Lens
{
    QString array = QStringLiteral("E");  ///< V, E, T, J, …
    int component = -1;                   ///< -1: magnitude, 0: x (r), 1: y (z)
    bool logarithmic = false;             ///< colours by decades
    bool operator==(const Lens&) const = default;
};

class FieldData
{
public:
    FieldData();
    ~FieldData();
    /// @returns a sentence when the file cannot be read
    QString load(const QString& path);
    void clear();
    [[nodiscard]] bool isEmpty() const;
    /// Quantities that the file holds, in its order.
    struct Array
    {
        QString name;
        bool vector = false;
        QString label, unit;  ///< in words; SI
        QString levels;       ///< what its lines of equal value are called; empty: it has none
        bool first = false;   ///< looked at where nothing else was chosen
        bool moves = false;   ///< a displacement of the shape
    };
    [[nodiscard]] const std::vector<Array>& arrays() const;
    /// The one of a name; null: there is none.
    [[nodiscard]] const Array* array(const QString& name) const;
    /// The first scalar or vector quantity; empty: there is none.
    [[nodiscard]] QString firstOf(bool vector) const;
    /// Arrays of each mode; empty: there are none.
    [[nodiscard]] const std::vector<std::vector<QString>>& modes() const;
    /// Times of a transient, s; empty: steady.
    [[nodiscard]] const std::vector<double>& times() const;
    /// Lets the quantity that is stored over time be that of a time, between the stored ones by
    /// straight lines.
    void setTime(double time);
    /// Range of that quantity over all times.
    [[nodiscard]] std::pair<double, double> rangeOverTime() const;
    /// Whether fields alternate: they are stored in phase and a quarter ahead.
    [[nodiscard]] bool hasPhase() const;
    /// Lets alternating fields be those of a moment of the period, an angle in radians; what is a
    /// quarter ahead stays so.
    void setPhase(double angle);
    /// Range of a scalar over a period, of which one moment is shown; nothing where it does not
    /// alternate.
    [[nodiscard]] std::optional<std::pair<double, double>> rangeOverPeriod(
        const QString& array) const;
    /// Whether there is a displacement that the shape can be moved by.
    [[nodiscard]] bool hasMoves() const;
    /// Draws the shape moved by a displacement, many times larger than it is; empty: at rest.
    struct Moved
    {
        double times = 0;  ///< how many times larger
        double phase = 0;  ///< of a period, radians, at which it moves most
    };
    Moved setMoved(const QString& array);
    /// What the quantities are for, such as a wave of 1 W into a port; empty: they are as they are.
    [[nodiscard]] const QString& shownFor() const;
    /// Name of that quantity; empty: steady.
    [[nodiscard]] const QString& overTime() const;
    /// A solid's cells with shared points and mean values there, for what runs from cell to cell:
    /// lines, surfaces of equal value, arrows. Null for a drawing.
    [[nodiscard]] vtkUnstructuredGrid* joined() const;
    /// Surface of a solid with its pieces moved apart from the middle; share of their distance.
    [[nodiscard]] vtkPolyData* exploded(double share) const;
    /// Triangles of a drawing, or the surface of a solid's cells.
    [[nodiscard]] vtkPolyData* polyData() const;
    /// Solids: shows the surface of the device in place of that of what is around it.
    void leaveOut(const Surroundings& around);
    /// The same, of large fields with fewer triangles: for pictures in motion.
    [[nodiscard]] vtkPolyData* coarse() const;
    /// Cells of a solid; null for a drawing.
    [[nodiscard]] vtkUnstructuredGrid* grid() const;
    /// Value inside a solid, by interpolation; nothing outside.
    [[nodiscard]] std::optional<double> valueInside(double x, double y, double z,
                                                    const Lens& lens) const;
    /// Value at a place of a solid by the nearest point of its surface.
    [[nodiscard]] std::optional<double> nearestValue(double x, double y, double z,
                                                     const Lens& lens) const;

    struct Distribution
    {
        double least = 0, largest = 1;  ///< of all values
        double low = 0, high = 1;       ///< range that leaves out the strongest half percent
        std::vector<double> share;      ///< area by value, from least to largest; largest is 1
    };
    [[nodiscard]] Distribution distribution(const Lens& lens) const;
    /// Value under a point; nullopt outside the field.
    [[nodiscard]] std::optional<double> valueAt(QPointF p, const Lens& lens) const;
    [[nodiscard]] std::optional<QPointF> vectorAt(QPointF p, const QString& array) const;

private:
    struct Data;
    /// Names all arrays; magnitudes once, so that recolouring only looks numbers up.
    void takeArrays(vtkUnstructuredGrid* grid);
    /// What the arrays run over.
    void readAxes(vtkUnstructuredGrid* grid);
    /// Alternating fields keep what was stored, beside what is shown.
    void keepAlternating(vtkPointData* points);
    [[nodiscard]] bool swings(const Array& a) const;
    void placeMoved();
    /// Surfaces and points made from the values are made anew.
    void valuesChanged();
    std::unique_ptr<Data> m_data;
};

}  // namespace yh::app
