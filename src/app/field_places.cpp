// Values of a stored field at places, and how they are distributed.
#include "app/field_store.h"

#include <vtkCellArray.h>
#include <vtkGenericCell.h>
#include <vtkIdList.h>
#include <vtkNew.h>
#include <vtkPointData.h>

#include <numeric>

namespace yh::app {

namespace {

double triangleArea(const double p[3][3])
{
    const double a[3] = {p[1][0] - p[0][0], p[1][1] - p[0][1], p[1][2] - p[0][2]},
                 b[3] = {p[2][0] - p[0][0], p[2][1] - p[0][1], p[2][2] - p[0][2]};
    return 0.5 * std::hypot(a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2],
                            a[0] * b[1] - a[1] * b[0]);
}

}  // namespace

std::optional<double> FieldData::valueInside(double x, double y, double z, const Lens& lens) const
{
    if (!m_data->solid)
        return std::nullopt;
    if (!m_data->cells) {
        m_data->cells = vtkSmartPointer<vtkCellTreeLocator>::New();
        m_data->cells->SetDataSet(m_data->solid);
        m_data->cells->BuildLocator();
    }
    vtkDataArray* a = m_data->solid->GetPointData()->GetArray(lens.array.toUtf8().constData());
    double at[3] = {x, y, z}, local[3];
    constexpr size_t mostNodes = 32;
    double weight[mostNodes];
    vtkNew<vtkGenericCell> cell;
    constexpr double anyDistance = 0;
    const vtkIdType found = m_data->cells->FindCell(at, anyDistance, cell, local, weight);
    if (!a || found < 0)
        return std::nullopt;
    double v = 0;
    for (vtkIdType k = 0; k < cell->GetNumberOfPoints(); ++k)
        v += weight[k] * lensValue(a, cell->GetPointId(int(k)), lens.component);
    return v;
}

std::optional<double> FieldData::nearestValue(double x, double y, double z, const Lens& lens) const
{
    if (!m_data->poly)
        return std::nullopt;
    vtkDataArray* a = m_data->poly->GetPointData()->GetArray(lens.array.toUtf8().constData());
    const vtkIdType i = m_data->poly->FindPoint(x, y, z);
    if (!a || i < 0)
        return std::nullopt;
    return lensValue(a, i, lens.component);
}

FieldData::Distribution FieldData::distribution(const Lens& lens) const
{
    Distribution d;
    if (isEmpty())
        return d;
    vtkDataArray* a = m_data->poly->GetPointData()->GetArray(lens.array.toUtf8().constData());
    vtkCellArray* cells = m_data->poly->GetPolys();
    vtkPoints* points = m_data->poly->GetPoints();
    if (!a)
        return d;
    struct Sample
    {
        double value, area;
    };
    std::vector<Sample> samples;
    samples.reserve(size_t(cells->GetNumberOfCells()));
    vtkNew<vtkIdList> ids;
    double total = 0;
    for (vtkIdType c = 0; c < cells->GetNumberOfCells(); ++c) {
        cells->GetCellAtId(c, ids);
        double p[3][3], v = 0;
        for (int k = 0; k < 3; ++k) {
            points->GetPoint(ids->GetId(k), p[k]);
            v += lensValue(a, ids->GetId(k), lens.component) / 3;
        }
        const double area = triangleArea(p);
        samples.push_back({v, area});
        total += area;
    }
    std::sort(samples.begin(), samples.end(),
              [](const Sample& x, const Sample& y) { return x.value < y.value; });
    d.least = samples.front().value;
    d.largest = samples.back().value;
    // Singular corners hold the strongest values on next to no area.
    constexpr double leftOut = 0.003;
    double sum = 0;
    d.low = d.least;
    d.high = d.largest;
    bool lowSet = false, highSet = false;
    for (const Sample& s : samples) {
        sum += s.area;
        if (!lowSet && sum > leftOut * total) {
            d.low = s.value;
            lowSet = true;
        }
        if (!highSet && sum > (1 - leftOut) * total) {
            d.high = s.value;
            highSet = true;
        }
    }
    if (const Array* own = array(lens.array); own && !own->levels.isEmpty()) {
        d.low = d.least;
        d.high = d.largest;
    } else if (lens.component < 0) {
        d.low = 0;
        d.least = std::min(0.0, d.least);
    } else {
        d.high = std::max(std::abs(d.low), std::abs(d.high));
        d.low = -d.high;
    }
    // The ruler reaches a little beyond the shown range, not to a singular value far away.
    constexpr double reach = 1.15;
    const double from = std::max(d.least, d.low - (reach - 1) * (d.high - d.low)),
                 to = std::min(d.largest, d.low + reach * (d.high - d.low));
    d.least = from;
    d.largest = std::max(to, d.high);
    constexpr int bins = 56;
    d.share.assign(bins, 0.0);
    for (const Sample& s : samples)
        if (d.largest > d.least)
            d.share[size_t(std::clamp(int((s.value - d.least) / (d.largest - d.least) * bins), 0,
                                      bins - 1))] += s.area;
    const double most = *std::max_element(d.share.begin(), d.share.end());
    for (double& s : d.share)
        s = most > 0 ? s / most : 0;
    return d;
}

namespace {

struct Found
{
    vtkIdType points[3];
    double weight[3];
};

/// Barycentric weights of a point in a triangle; false outside it.
bool weightsIn(vtkPoints* points, const vtkIdType ids[3], QPointF p, double weight[3])
{
    double a[3], b[3], c[3];
    points->GetPoint(ids[0], a);
    points->GetPoint(ids[1], b);
    points->GetPoint(ids[2], c);
    const double det = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
    if (det == 0)
        return false;
    weight[1] = ((p.x() - a[0]) * (c[1] - a[1]) - (p.y() - a[1]) * (c[0] - a[0])) / det;
    weight[2] = ((b[0] - a[0]) * (p.y() - a[1]) - (b[1] - a[1]) * (p.x() - a[0])) / det;
    weight[0] = 1 - weight[1] - weight[2];
    constexpr double rounding = -1e-9;  // a point on a side belongs to either triangle
    return weight[0] >= rounding && weight[1] >= rounding && weight[2] >= rounding;
}

/** The square about a cell: least x and y, largest x and y. */
std::array<double, 4> squareAbout(vtkPolyData* poly, const vtkIdType* ids, vtkIdType count)
{
    double low[2] = {1e300, 1e300}, high[2] = {-1e300, -1e300}, q[3];
    for (vtkIdType k = 0; k < count; ++k) {
        poly->GetPoints()->GetPoint(ids[k], q);
        for (int d = 0; d < 2; ++d) {
            low[d] = std::min(low[d], q[d]);
            high[d] = std::max(high[d], q[d]);
        }
    }
    return {low[0], low[1], high[0], high[1]};
}

}  // namespace

CellGrid::CellGrid(vtkPolyData* poly)
{
    double b[6];
    poly->GetBounds(b);
    vtkCellArray* cells = poly->GetPolys();
    const auto n = cells->GetNumberOfCells();
    x0 = b[0];
    y0 = b[2];
    size = std::sqrt(std::max((b[1] - b[0]) * (b[3] - b[2]), 1e-300) /
                     double(std::max<vtkIdType>(1, n / 2)));
    nx = int((b[1] - b[0]) / size) + 1;
    ny = int((b[3] - b[2]) / size) + 1;
    start.assign(size_t(nx) * size_t(ny) + 1, 0);
    // Twice over the cells: first to count, then to fill.
    std::vector<int> at;
    for (const bool fill : {false, true}) {
        for (vtkIdType c = 0; c < n; ++c) {
            vtkIdType count = 0;
            const vtkIdType* ids = nullptr;
            cells->GetCellAtId(c, count, ids);
            const auto [lowX, lowY, highX, highY] = squareAbout(poly, ids, count);
            for (int j = row(lowY); j <= row(highY); ++j)
                for (int i = column(lowX); i <= column(highX); ++i) {
                    const auto square = size_t(j) * size_t(nx) + size_t(i);
                    if (fill)
                        cell[size_t(at[square]++)] = int(c);
                    else
                        ++start[square + 1];
                }
        }
        if (!fill) {
            std::partial_sum(start.begin(), start.end(), start.begin());
            cell.resize(size_t(start.back()));
            at.assign(start.begin(), start.end() - 1);
        }
    }
}

namespace {

std::optional<Found> findIn(vtkPolyData* poly, std::unique_ptr<CellGrid>& grid, QPointF p)
{
    if (!poly)
        return std::nullopt;
    double b[6];
    poly->GetBounds(b);
    if (!(p.x() >= b[0] && p.x() <= b[1] && p.y() >= b[2] && p.y() <= b[3]))
        return std::nullopt;
    if (!grid)
        grid = std::make_unique<CellGrid>(poly);
    const auto square = size_t(grid->row(p.y())) * size_t(grid->nx) + size_t(grid->column(p.x()));
    for (int i = grid->start[square]; i < grid->start[square + 1]; ++i) {
        vtkIdType count = 0;
        const vtkIdType* ids = nullptr;
        poly->GetPolys()->GetCellAtId(grid->cell[size_t(i)], count, ids);
        Found f{{ids[0], ids[1], ids[2]}, {}};
        if (weightsIn(poly->GetPoints(), ids, p, f.weight))
            return f;
    }
    return std::nullopt;
}

}  // namespace

std::optional<double> FieldData::valueAt(QPointF p, const Lens& lens) const
{
    const auto f = findIn(m_data->poly, m_data->grid, p);
    if (!f)
        return std::nullopt;
    vtkDataArray* a = m_data->poly->GetPointData()->GetArray(lens.array.toUtf8().constData());
    double v = 0;
    for (int k = 0; a && k < 3; ++k)
        v += f->weight[k] * lensValue(a, f->points[k], lens.component);
    return a ? std::optional(v) : std::nullopt;
}

std::optional<QPointF> FieldData::vectorAt(QPointF p, const QString& array) const
{
    const auto f = findIn(m_data->poly, m_data->grid, p);
    vtkDataArray* a =
        f ? m_data->poly->GetPointData()->GetArray(array.toUtf8().constData()) : nullptr;
    if (!a)
        return std::nullopt;
    QPointF v;
    for (int k = 0; k < 3; ++k)
        v += f->weight[k] *
             QPointF(a->GetComponent(f->points[k], 0), a->GetComponent(f->points[k], 1));
    return v;
}

}  // namespace yh::app
