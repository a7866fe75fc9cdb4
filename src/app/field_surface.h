// Surfaces and shared points of stored fields, of which every cell keeps points of its own.
#pragma once

#include <vtkSmartPointer.h>

#include <array>
#include <set>
#include <vector>

class vtkDataArray;
class vtkPoints;
class vtkPolyData;
class vtkUnstructuredGrid;

namespace yh::app {

/// Numbers that coincident points have in common. Cells keep points of their own, since a field
/// may jump between them.
/// @param steps  boxes along the largest extent within which points count as one
[[nodiscard]] std::vector<int> sharedNumbers(vtkPoints* points, double steps = 1e9);
/// What is not part of the device, such as open space, and the box that holds the device.
struct Surroundings
{
    std::set<int> pieces;
    std::array<double, 3> low{}, high{};
};
/// Triangles of tetrahedra that no other one shares.
/// @param pieces  by cell: triangles between different pieces count as surface of both; or null
/// @param around  or null
void surfaceOf(vtkUnstructuredGrid* grid, const std::vector<int>& number, vtkDataArray* pieces,
               vtkPolyData* surface, const Surroundings* around = nullptr);
/// The same triangles with one point for all corners that coincide within a piece, at which values
/// are means: a large picture then has a sixth of the points to draw.
[[nodiscard]] vtkSmartPointer<vtkPolyData> withSharedPoints(vtkPolyData* from,
                                                            const std::vector<int>& number,
                                                            const std::vector<int>& pieceOfPoint);
/// The piece that each point belongs to.
[[nodiscard]] std::vector<int> piecesOfPoints(vtkUnstructuredGrid* grid);

}  // namespace yh::app
