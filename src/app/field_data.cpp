#include "app/field_data.h"

#include <vtkCellArray.h>
#include <vtkCellData.h>
#include <vtkDataArray.h>
#include <vtkFloatArray.h>
#include <vtkGenericCell.h>
#include <vtkNew.h>
#include <vtkPointData.h>
#include <vtkPolyData.h>
#include <vtkSmartPointer.h>
#include <vtkStaticCellLocator.h>
#include <vtkUnstructuredGrid.h>
#include <vtkXMLUnstructuredGridReader.h>

#include <QFileInfo>
#include <QObject>
#include <algorithm>
#include <cmath>

namespace yh::app {

struct FieldData::Data
{
    vtkSmartPointer<vtkPolyData> poly;
    vtkSmartPointer<vtkStaticCellLocator> locator;
};

FieldData::FieldData() : m_data(std::make_unique<Data>()) {}
FieldData::~FieldData() = default;

QString FieldData::load(const QString& path)
{
    clear();
    if (!QFileInfo::exists(path))
        return QObject::tr("The stored field %1 is missing; solve again.").arg(path);
    vtkNew<vtkXMLUnstructuredGridReader> reader;
    reader->SetFileName(path.toLocal8Bit().constData());
    reader->Update();
    vtkUnstructuredGrid* grid = reader->GetOutput();
    if (!grid || grid->GetNumberOfCells() == 0 || !grid->GetPointData()->GetArray("V"))
        return QObject::tr("The stored field %1 is broken; solve again.").arg(path);
    m_data->poly = vtkSmartPointer<vtkPolyData>::New();
    m_data->poly->SetPoints(grid->GetPoints());
    m_data->poly->SetPolys(grid->GetCells());
    m_data->poly->GetPointData()->ShallowCopy(grid->GetPointData());
    m_data->poly->GetCellData()->ShallowCopy(grid->GetCellData());
    // Magnitudes once, so that recolouring only looks numbers up.
    for (const char* name : {"E", "D"}) {
        vtkDataArray* v = grid->GetPointData()->GetArray(name);
        if (!v || v->GetNumberOfComponents() < 2)
            continue;
        vtkNew<vtkFloatArray> magnitude;
        magnitude->SetName((std::string("|") + name + "|").c_str());
        magnitude->SetNumberOfTuples(v->GetNumberOfTuples());
        for (vtkIdType i = 0; i < v->GetNumberOfTuples(); ++i)
            magnitude->SetValue(i, float(std::hypot(v->GetComponent(i, 0), v->GetComponent(i, 1))));
        m_data->poly->GetPointData()->AddArray(magnitude);
    }
    return {};
}

void FieldData::clear()
{
    m_data->poly = nullptr;
    m_data->locator = nullptr;
}

bool FieldData::isEmpty() const
{
    return !m_data->poly;
}
vtkPolyData* FieldData::polyData() const
{
    return m_data->poly;
}

namespace {

double lensValue(vtkDataArray* a, vtkIdType i, int component)
{
    if (a->GetNumberOfComponents() == 1)
        return a->GetComponent(i, 0);
    if (component >= 0)
        return a->GetComponent(i, component);
    return std::hypot(a->GetComponent(i, 0), a->GetComponent(i, 1));
}

}  // namespace

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
        const double area = 0.5 * std::abs((p[1][0] - p[0][0]) * (p[2][1] - p[0][1]) -
                                           (p[1][1] - p[0][1]) * (p[2][0] - p[0][0]));
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
    if (a->GetNumberOfComponents() == 1 && lens.array == QStringLiteral("V")) {
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

std::optional<Found> findIn(vtkPolyData* poly, vtkSmartPointer<vtkStaticCellLocator>& locator,
                            QPointF p)
{
    if (!poly)
        return std::nullopt;
    if (!locator) {
        locator = vtkSmartPointer<vtkStaticCellLocator>::New();
        locator->SetDataSet(poly);
        locator->BuildLocator();
    }
    double x[3] = {p.x(), p.y(), 0}, pcoords[3], weights[8];
    vtkNew<vtkGenericCell> cell;
    const double size = poly->GetLength();
    const vtkIdType id = locator->FindCell(x, 1e-18 * size * size, cell, pcoords, weights);
    if (id < 0)
        return std::nullopt;
    Found f{};
    for (int k = 0; k < 3; ++k) {
        f.points[k] = cell->GetPointId(k);
        f.weight[k] = weights[k];
    }
    return f;
}

}  // namespace

std::optional<double> FieldData::valueAt(QPointF p, const Lens& lens) const
{
    const auto f = findIn(m_data->poly, m_data->locator, p);
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
    const auto f = findIn(m_data->poly, m_data->locator, p);
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
