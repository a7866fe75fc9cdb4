// What a stored field is kept in, for the parts of FieldData.
#pragma once

#include "app/field_data.h"

#include <vtkCellTreeLocator.h>
#include <vtkDataArray.h>
#include <vtkPoints.h>
#include <vtkPolyData.h>
#include <vtkSmartPointer.h>
#include <vtkUnstructuredGrid.h>

#include <algorithm>
#include <cmath>

namespace yh::app {

/// Cells by the square of a uniform grid that their boxes touch.
struct CellGrid
{
    double x0 = 0, y0 = 0, size = 1;
    int nx = 1, ny = 1;
    std::vector<int> start, cell;

    explicit CellGrid(vtkPolyData* poly);
    [[nodiscard]] int column(double x) const { return std::clamp(int((x - x0) / size), 0, nx - 1); }
    [[nodiscard]] int row(double y) const { return std::clamp(int((y - y0) / size), 0, ny - 1); }
};

struct FieldData::Data
{
    vtkSmartPointer<vtkPolyData> poly;
    vtkSmartPointer<vtkUnstructuredGrid> solid;
    vtkSmartPointer<vtkUnstructuredGrid> joined;
    vtkSmartPointer<vtkPolyData> exploded, byPiece, coarse;
    std::vector<int> shared;  ///< numbers of coincident points
    std::vector<Array> arrays;
    QString shownFor;
    std::vector<double> times;
    QString overTime;             ///< the quantity that is stored over time
    std::vector<QString> byTime;  ///< its arrays
    struct Alternating
    {
        QString now, ahead;  ///< what is shown, and what is a quarter ahead of it
    };
    std::vector<Alternating> alternating;
    std::vector<std::vector<QString>> modes;    ///< arrays of each; empty: there are none
    std::unique_ptr<CellGrid> grid;             ///< made when first asked
    vtkSmartPointer<vtkPoints> rest;            ///< places of the shape at rest
    QString moved;                              ///< the displacement that it is drawn with
    double movedBy = 0;                         ///< how many times larger
    double swing = 1;                           ///< of a natural vibration at a moment
    vtkSmartPointer<vtkCellTreeLocator> cells;  ///< of the solid, made when first asked
};

/// Alternating arrays as they were stored, beside what is shown.
inline constexpr QLatin1StringView storedInPhase("@phase"), storedAhead("@ahead");

/// What a lens sees of a value: a component, or the magnitude.
[[nodiscard]] inline double lensValue(vtkDataArray* a, vtkIdType i, int component)
{
    if (a->GetNumberOfComponents() == 1)
        return a->GetComponent(i, 0);
    if (component >= 0)
        return a->GetComponent(i, component);
    return std::hypot(a->GetComponent(i, 0), a->GetComponent(i, 1), a->GetComponent(i, 2));
}

}  // namespace yh::app
