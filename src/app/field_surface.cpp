#include "app/field_surface.h"

#include <vtkCellArray.h>
#include <vtkCellData.h>
#include <vtkDataArray.h>
#include <vtkFloatArray.h>
#include <vtkNew.h>
#include <vtkPointData.h>
#include <vtkPoints.h>
#include <vtkPolyData.h>
#include <vtkUnstructuredGrid.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>
#include <utility>

namespace yh::app {

std::vector<int> sharedNumbers(vtkPoints* points, double steps)
{
    const vtkIdType n = points->GetNumberOfPoints();
    std::vector<std::array<double, 3>> at(static_cast<size_t>(n));
    for (vtkIdType i = 0; i < n; ++i)
        points->GetPoint(i, at[size_t(i)].data());
    double b[6];
    points->GetBounds(b);
    // Places are rounded to a grid, so that rounding in the file does not part them.
    const double cell = std::max({b[1] - b[0], b[3] - b[2], b[5] - b[4], 1e-300}) / steps;
    for (auto& p : at)
        for (size_t k = 0; k < 3; ++k)
            p[k] = std::round((p[k] - b[2 * k]) / cell);
    std::vector<int> order(at.size()), number(at.size());
    std::iota(order.begin(), order.end(), 0);
    std::sort(order.begin(), order.end(),
              [&](int x, int y) { return at[size_t(x)] < at[size_t(y)]; });
    int next = -1;
    for (size_t i = 0; i < order.size(); ++i) {
        next += i == 0 || at[size_t(order[i])] != at[size_t(order[i - 1])];
        number[size_t(order[i])] = next;
    }
    return number;
}

namespace {

/** A side of a cell, with the numbers by which equal ones are found. */
struct Face
{
    std::array<int, 4> key;
    std::array<vtkIdType, 3> ids;
    bool isAround = false;
};

/** The faces of all cells, equal ones side by side. */
std::vector<Face> facesOf(vtkUnstructuredGrid* grid, const std::vector<int>& number,
                          vtkDataArray* pieces, const Surroundings* around)
{
    vtkDataArray* own = around ? grid->GetCellData()->GetArray("face") : nullptr;
    std::vector<Face> faces;
    constexpr int corners[4][3] = {{1, 2, 3}, {0, 3, 2}, {0, 1, 3}, {0, 2, 1}};
    vtkCellArray* cells = grid->GetCells();
    for (vtkIdType c = 0; c < cells->GetNumberOfCells(); ++c) {
        vtkIdType count = 0;
        const vtkIdType* ids = nullptr;
        cells->GetCellAtId(c, count, ids);
        for (const auto& f : corners) {
            Face face{{}, {ids[f[0]], ids[f[1]], ids[f[2]]}};
            for (size_t k = 0; k < 3; ++k)
                face.key[k] = number[size_t(face.ids[k])];
            std::sort(face.key.begin(), face.key.begin() + 3);
            face.key[3] = pieces ? int(pieces->GetComponent(c, 0)) : 0;
            face.isAround = own && around->pieces.count(int(own->GetComponent(c, 0)));
            faces.push_back(face);
        }
    }
    std::sort(faces.begin(), faces.end(),
              [](const Face& a, const Face& b) { return a.key < b.key; });
    return faces;
}

}  // namespace

void surfaceOf(vtkUnstructuredGrid* grid, const std::vector<int>& number, vtkDataArray* pieces,
               vtkPolyData* surface, const Surroundings* around)
{
    auto isNear = [&](const Face& f) {
        for (int k = 0; k < 3; ++k) {
            double middle = 0;
            for (const vtkIdType i : f.ids)
                middle += grid->GetPoint(i)[k] / 3;
            constexpr double margin = 0.02;
            const double more = margin * (around->high[size_t(k)] - around->low[size_t(k)]);
            if (middle < around->low[size_t(k)] - more || middle > around->high[size_t(k)] + more)
                return false;
        }
        return true;
    };
    const std::vector<Face> faces = facesOf(grid, number, pieces, around);
    vtkNew<vtkCellArray> polys;
    // A device that carries no field itself is seen by the field before its surface.
    const bool onlyAround =
        std::all_of(faces.begin(), faces.end(), [](const Face& f) { return f.isAround; });
    for (size_t i = 0; i < faces.size(); ++i) {
        const bool alone = i + 1 == faces.size() || faces[i].key != faces[i + 1].key;
        if (alone && (!faces[i].isAround || (onlyAround && isNear(faces[i]))))
            polys->InsertNextCell(3, faces[i].ids.data());
        if (alone)
            continue;
        // Where the device borders on what is around it, it has its surface.
        if (faces[i].isAround != faces[i + 1].isAround)
            polys->InsertNextCell(3, faces[faces[i].isAround ? i + 1 : i].ids.data());
        ++i;
    }
    surface->SetPoints(grid->GetPoints());
    surface->SetPolys(polys);
    surface->GetPointData()->ShallowCopy(grid->GetPointData());
}

vtkSmartPointer<vtkPolyData> withSharedPoints(vtkPolyData* from, const std::vector<int>& number,
                                              const std::vector<int>& pieceOfPoint)
{
    std::vector<int> used, own(number.size(), -1);
    vtkCellArray* cells = from->GetPolys();
    for (vtkIdType c = 0; c < cells->GetNumberOfCells(); ++c) {
        vtkIdType n = 0;
        const vtkIdType* ids = nullptr;
        cells->GetCellAtId(c, n, ids);
        for (vtkIdType k = 0; k < n; ++k)
            if (own[size_t(ids[k])] < 0) {
                own[size_t(ids[k])] = 0;
                used.push_back(int(ids[k]));
            }
    }
    auto key = [&](int i) { return std::pair(number[size_t(i)], pieceOfPoint[size_t(i)]); };
    std::sort(used.begin(), used.end(), [&](int a, int b) { return key(a) < key(b); });
    std::vector<int> count;
    for (size_t i = 0; i < used.size(); ++i) {
        if (i == 0 || key(used[i]) != key(used[i - 1]))
            count.push_back(0);
        ++count.back();
        own[size_t(used[i])] = int(count.size()) - 1;
    }
    auto poly = vtkSmartPointer<vtkPolyData>::New();
    vtkNew<vtkPoints> points;
    points->SetNumberOfPoints(vtkIdType(count.size()));
    for (const int i : used)
        points->SetPoint(own[size_t(i)], from->GetPoint(i));
    poly->SetPoints(points);
    vtkNew<vtkCellArray> triangles;
    for (vtkIdType c = 0; c < cells->GetNumberOfCells(); ++c) {
        vtkIdType n = 0;
        const vtkIdType* ids = nullptr;
        cells->GetCellAtId(c, n, ids);
        const vtkIdType t[3] = {own[size_t(ids[0])], own[size_t(ids[1])], own[size_t(ids[2])]};
        // Triangles within one point are of no use; cell data goes with them then.
        if (t[0] != t[1] && t[1] != t[2] && t[2] != t[0])
            triangles->InsertNextCell(3, t);
    }
    poly->SetPolys(triangles);
    for (int k = 0; k < from->GetPointData()->GetNumberOfArrays(); ++k) {
        auto* a = vtkFloatArray::SafeDownCast(from->GetPointData()->GetArray(k));
        if (!a)
            continue;
        const int width = a->GetNumberOfComponents();
        vtkNew<vtkFloatArray> mean;
        mean->SetName(a->GetName());
        mean->SetNumberOfComponents(width);
        mean->SetNumberOfTuples(vtkIdType(count.size()));
        float* to = mean->GetPointer(0);
        std::fill_n(to, count.size() * size_t(width), 0.0F);
        const float* x = a->GetPointer(0);
        for (const int i : used)
            for (int c = 0; c < width; ++c)
                to[own[size_t(i)] * width + c] +=
                    x[i * width + c] / float(count[size_t(own[size_t(i)])]);
        poly->GetPointData()->AddArray(mean);
    }
    if (triangles->GetNumberOfCells() == cells->GetNumberOfCells())
        poly->GetCellData()->ShallowCopy(from->GetCellData());
    return poly;
}

std::vector<int> piecesOfPoints(vtkUnstructuredGrid* grid)
{
    std::vector<int> list(size_t(grid->GetNumberOfPoints()), 0);
    vtkDataArray* piece = grid->GetCellData()->GetArray("face");
    for (vtkIdType c = 0; piece && c < grid->GetNumberOfCells(); ++c) {
        vtkIdType n = 0;
        const vtkIdType* ids = nullptr;
        grid->GetCells()->GetCellAtId(c, n, ids);
        for (vtkIdType k = 0; k < n; ++k)
            list[size_t(ids[k])] = int(piece->GetComponent(c, 0));
    }
    return list;
}

}  // namespace yh::app
