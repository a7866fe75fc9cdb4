#include "app/field_data.h"

#include "app/field_store.h"
#include "app/field_surface.h"

#include <vtkCellArray.h>
#include <vtkCellData.h>
#include <vtkFieldData.h>
#include <vtkFloatArray.h>
#include <vtkNew.h>
#include <vtkPointData.h>
#include <vtkStringArray.h>
#include <vtkXMLUnstructuredGridReader.h>

#include <QFileInfo>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonValue>
#include <QObject>
#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numbers>
#include <numeric>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace {

/// Takes what the file says of an array.
void describe(vtkUnstructuredGrid* grid, FieldData::Array& array)
{
    auto* words =
        vtkStringArray::SafeDownCast(grid->GetFieldData()->GetAbstractArray("quantities"));
    constexpr vtkIdType each = 5;
    for (vtkIdType i = 0; words && i + each <= words->GetNumberOfValues(); i += each)
        if (QString::fromStdString(words->GetValue(i)) == array.name) {
            array.label = QString::fromStdString(words->GetValue(i + 1));
            array.unit = QString::fromStdString(words->GetValue(i + 2));
            array.levels = QString::fromStdString(words->GetValue(i + 3));
            const QString marks = QString::fromStdString(words->GetValue(i + 4));
            array.first = marks.contains("first"_L1);
            array.moves = marks.contains("moves"_L1);
        }
}

/** Means of what meets at the shared points. */
void addMeans(vtkPointData* from, const std::vector<int>& number, const std::vector<int>& uses,
              vtkUnstructuredGrid* grid)
{
    for (int k = 0; k < from->GetNumberOfArrays(); ++k) {
        vtkDataArray* a = from->GetArray(k);
        if (QString::fromUtf8(a->GetName()).contains(u'@'))
            continue;
        const int width = a->GetNumberOfComponents();
        vtkNew<vtkFloatArray> mean;
        mean->SetName(a->GetName());
        mean->SetNumberOfComponents(width);
        mean->SetNumberOfTuples(vtkIdType(uses.size()));
        mean->Fill(0);
        for (size_t i = 0; i < number.size(); ++i)
            for (int c = 0; c < width; ++c)
                mean->SetComponent(number[i], c,
                                   mean->GetComponent(number[i], c) +
                                       a->GetComponent(vtkIdType(i), c) / uses[size_t(number[i])]);
        grid->GetPointData()->AddArray(mean);
    }
}

/** The piece of every point, and the sum of places and their number by piece. */
std::map<int, std::array<double, 4>> centresOf(vtkUnstructuredGrid* from, vtkDataArray* piece,
                                               std::vector<int>& pieceOf)
{
    std::map<int, std::array<double, 4>> centre;
    for (vtkIdType c = 0; c < from->GetNumberOfCells(); ++c) {
        vtkIdType n = 0;
        const vtkIdType* ids = nullptr;
        from->GetCells()->GetCellAtId(c, n, ids);
        const int p = int(piece->GetComponent(c, 0));
        for (vtkIdType k = 0; k < n; ++k) {
            pieceOf[size_t(ids[k])] = p;
            const double* x = from->GetPoint(ids[k]);
            auto& sum = centre[p];
            for (size_t i = 0; i < 3; ++i)
                sum[i] += x[i];
            sum[3] += 1;
        }
    }
    return centre;
}

}  // namespace

FieldData::FieldData() : m_data(std::make_unique<Data>()) {}
FieldData::~FieldData() = default;

void FieldData::clear()
{
    *m_data = Data{};
}

void FieldData::takeArrays(vtkUnstructuredGrid* grid)
{
    std::vector<vtkSmartPointer<vtkFloatArray>> magnitudes;
    for (int k = 0; k < grid->GetPointData()->GetNumberOfArrays(); ++k) {
        vtkDataArray* v = grid->GetPointData()->GetArray(k);
        if (QString::fromUtf8(v->GetName()).contains(u'@'))
            continue;
        Array array{QString::fromUtf8(v->GetName()), v->GetNumberOfComponents() > 1, {}, {}, {}};
        describe(grid, array);
        m_data->arrays.push_back(array);
        if (v->GetNumberOfComponents() < 2)
            continue;
        vtkNew<vtkFloatArray> magnitude;
        magnitude->SetName((std::string("|") + v->GetName() + "|").c_str());
        magnitude->SetNumberOfTuples(v->GetNumberOfTuples());
        for (vtkIdType i = 0; i < v->GetNumberOfTuples(); ++i)
            magnitude->SetValue(i, float(lensValue(v, i, -1)));
        magnitudes.push_back(magnitude);
    }
    for (vtkFloatArray* a : magnitudes)
        grid->GetPointData()->AddArray(a);
}

QString FieldData::load(const QString& path)
{
    clear();
    if (!QFileInfo::exists(path))
        return QObject::tr("The stored field %1 is missing; solve again.").arg(path);
    vtkNew<vtkXMLUnstructuredGridReader> reader;
    reader->SetFileName(path.toLocal8Bit().constData());
    reader->Update();
    vtkUnstructuredGrid* grid = reader->GetOutput();
    if (!grid || grid->GetNumberOfCells() == 0 || grid->GetPointData()->GetNumberOfArrays() == 0)
        return QObject::tr("The stored field %1 is broken; solve again.").arg(path);
    if (auto* text =
            vtkStringArray::SafeDownCast(grid->GetFieldData()->GetAbstractArray("shown for"));
        text && text->GetNumberOfValues() > 0)
        m_data->shownFor = QString::fromStdString(text->GetValue(0));
    readAxes(grid);
    keepAlternating(grid->GetPointData());
    takeArrays(grid);
    m_data->poly = vtkSmartPointer<vtkPolyData>::New();
    if (grid->GetCellType(0) == VTK_TETRA) {
        m_data->solid = grid;
        m_data->shared = sharedNumbers(grid->GetPoints());
        surfaceOf(grid, m_data->shared, nullptr, m_data->poly);
        m_data->poly = withSharedPoints(m_data->poly, m_data->shared, piecesOfPoints(grid));
        return {};
    }
    m_data->poly->SetPoints(grid->GetPoints());
    m_data->poly->SetPolys(grid->GetCells());
    m_data->poly->GetPointData()->ShallowCopy(grid->GetPointData());
    m_data->poly->GetCellData()->ShallowCopy(grid->GetCellData());
    constexpr vtkIdType large = 100000;
    if (grid->GetNumberOfCells() > large)
        m_data->poly =
            withSharedPoints(m_data->poly, sharedNumbers(grid->GetPoints()), piecesOfPoints(grid));
    return {};
}

const QString& FieldData::shownFor() const
{
    return m_data->shownFor;
}

void FieldData::readAxes(vtkUnstructuredGrid* grid)
{
    auto* text = vtkStringArray::SafeDownCast(grid->GetFieldData()->GetAbstractArray("axes"));
    if (!text || text->GetNumberOfValues() == 0)
        return;
    const auto axes = QJsonDocument::fromJson(QByteArray::fromStdString(text->GetValue(0))).array();
    for (const QJsonValue& axis : axes) {
        const QString kind = axis["kind"_L1].toString();
        const QJsonArray places = axis["places"_L1].toArray();
        std::vector<std::vector<QString>> arrays;
        for (const QJsonValue& place : places) {
            auto& own = arrays.emplace_back();
            for (const QJsonValue& name : place["arrays"_L1].toArray())
                own.push_back(name.toString());
        }
        if (kind == "mode"_L1) {
            m_data->modes = arrays;
        } else if (kind == "phase"_L1 && arrays.size() == 2) {
            for (size_t k = 0; k < std::min(arrays[0].size(), arrays[1].size()); ++k)
                m_data->alternating.push_back({arrays[0][k], arrays[1][k]});
        } else if (kind == "time"_L1) {
            for (qsizetype k = 0; k < places.size(); ++k) {
                if (arrays[size_t(k)].empty())
                    continue;
                m_data->times.push_back(places[k]["at"_L1].toDouble());
                m_data->byTime.push_back(arrays[size_t(k)].front());
                m_data->overTime = places[k]["shown"_L1].toString();
            }
        }
    }
}

void FieldData::keepAlternating(vtkPointData* points)
{
    for (const auto& [now, ahead] : m_data->alternating)
        for (const auto& [name, ending] :
             {std::pair{now, storedInPhase}, std::pair{ahead, storedAhead}}) {
            auto* from = vtkFloatArray::SafeDownCast(points->GetArray(name.toUtf8().constData()));
            if (!from)
                continue;
            vtkNew<vtkFloatArray> copy;
            copy->DeepCopy(from);
            copy->SetName((now + ending).toUtf8().constData());
            points->AddArray(copy);
        }
}

void FieldData::leaveOut(const Surroundings& around)
{
    Data& d = *m_data;
    if (!d.solid || around.pieces.empty())
        return;
    vtkNew<vtkPolyData> surface;
    surfaceOf(d.solid, d.shared, nullptr, surface, &around);
    if (surface->GetNumberOfPolys() > 0)
        d.poly = withSharedPoints(surface, d.shared, piecesOfPoints(d.solid));
}

const std::vector<std::vector<QString>>& FieldData::modes() const
{
    return m_data->modes;
}

const FieldData::Array* FieldData::array(const QString& name) const
{
    const auto found = std::find_if(m_data->arrays.begin(), m_data->arrays.end(),
                                    [&](const Array& a) { return a.name == name; });
    return found == m_data->arrays.end() ? nullptr : &*found;
}

vtkUnstructuredGrid* FieldData::joined() const
{
    if (!m_data->solid || m_data->joined)
        return m_data->joined;
    vtkUnstructuredGrid* from = m_data->solid;
    const auto& number = m_data->shared;
    const int count = number.empty() ? 0 : *std::max_element(number.begin(), number.end()) + 1;
    vtkNew<vtkPoints> points;
    points->SetDataTypeToDouble();
    points->SetNumberOfPoints(count);
    std::vector<int> uses(size_t(count), 0);
    for (size_t i = 0; i < number.size(); ++i) {
        points->SetPoint(number[i], from->GetPoint(vtkIdType(i)));
        ++uses[size_t(number[i])];
    }
    vtkNew<vtkUnstructuredGrid> grid;
    grid->SetPoints(points);
    vtkNew<vtkCellArray> cells;
    for (vtkIdType c = 0; c < from->GetNumberOfCells(); ++c) {
        vtkIdType n = 0;
        const vtkIdType* ids = nullptr;
        from->GetCells()->GetCellAtId(c, n, ids);
        vtkIdType own[4];
        for (vtkIdType k = 0; k < 4; ++k)
            own[k] = number[size_t(ids[k])];
        cells->InsertNextCell(4, own);
    }
    grid->SetCells(VTK_TETRA, cells);
    addMeans(from->GetPointData(), number, uses, grid);
    m_data->joined = grid;
    return grid;
}

vtkPolyData* FieldData::exploded(double share) const
{
    vtkUnstructuredGrid* from = m_data->solid;
    if (!from)
        return nullptr;
    vtkDataArray* piece = from->GetCellData()->GetArray("face");
    if (!m_data->byPiece) {
        m_data->byPiece = vtkSmartPointer<vtkPolyData>::New();
        surfaceOf(from, m_data->shared, piece, m_data->byPiece);
    }
    double b[6];
    from->GetBounds(b);
    const std::array<double, 3> middle{0.5 * (b[0] + b[1]), 0.5 * (b[2] + b[3]),
                                       0.5 * (b[4] + b[5])};
    std::vector<int> pieceOf(m_data->shared.size(), 0);
    auto centre = centresOf(from, piece, pieceOf);
    vtkNew<vtkPoints> points;
    points->SetDataTypeToDouble();
    points->SetNumberOfPoints(from->GetNumberOfPoints());
    for (vtkIdType i = 0; i < from->GetNumberOfPoints(); ++i) {
        double x[3];
        from->GetPoint(i, x);
        const auto& sum = centre[pieceOf[size_t(i)]];
        for (size_t k = 0; k < 3; ++k)
            x[k] += share * (sum[k] / sum[3] - middle[k]);
        points->SetPoint(i, x);
    }
    m_data->exploded = vtkSmartPointer<vtkPolyData>::New();
    m_data->exploded->ShallowCopy(m_data->byPiece);
    m_data->exploded->SetPoints(points);
    m_data->exploded->GetPointData()->ShallowCopy(from->GetPointData());
    return m_data->exploded;
}

const std::vector<FieldData::Array>& FieldData::arrays() const
{
    return m_data->arrays;
}

QString FieldData::firstOf(bool vector) const
{
    for (const Array& a : m_data->arrays)
        if (a.vector == vector)
            return a.name;
    return {};
}

bool FieldData::isEmpty() const
{
    return !m_data->poly;
}
vtkPolyData* FieldData::coarse() const
{
    constexpr vtkIdType large = 200000;
    // Across: some two pixels of a drawing, four of a solid, which shows its far side too.
    const double boxes = m_data->solid ? 150 : 300;
    if (!m_data->poly || m_data->poly->GetNumberOfPolys() < large)
        return m_data->poly;
    if (!m_data->coarse) {
        const std::vector<int> piece(size_t(m_data->poly->GetNumberOfPoints()), 0);
        m_data->coarse =
            withSharedPoints(m_data->poly, sharedNumbers(m_data->poly->GetPoints(), boxes), piece);
    }
    return m_data->coarse;
}

vtkUnstructuredGrid* FieldData::grid() const
{
    return m_data->solid;
}

vtkPolyData* FieldData::polyData() const
{
    return m_data->poly;
}

}  // namespace yh::app
