#include "app/field_data.h"

#include "app/field_surface.h"

#include <vtkCellArray.h>
#include <vtkCellData.h>
#include <vtkCellTreeLocator.h>
#include <vtkDataArray.h>
#include <vtkFieldData.h>
#include <vtkFloatArray.h>
#include <vtkGenericCell.h>
#include <vtkNew.h>
#include <vtkPointData.h>
#include <vtkPolyData.h>
#include <vtkSmartPointer.h>
#include <vtkStringArray.h>
#include <vtkUnstructuredGrid.h>
#include <vtkXMLUnstructuredGridReader.h>

#include <QFileInfo>
#include <QObject>
#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numbers>
#include <numeric>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

struct CellGrid;

struct FieldData::Data
{
    vtkSmartPointer<vtkPolyData> poly;
    vtkSmartPointer<vtkUnstructuredGrid> solid;
    vtkSmartPointer<vtkUnstructuredGrid> joined;
    vtkSmartPointer<vtkPolyData> exploded, byPiece, coarse;
    std::vector<int> shared;  ///< numbers of coincident points
    std::vector<Array> arrays;
    std::vector<double> times;
    QString overTime;
    std::vector<QString> alternating;           ///< quantities that have a part a quarter ahead
    std::unique_ptr<CellGrid> grid;             ///< made when first asked
    vtkSmartPointer<vtkPoints> rest;            ///< places of the shape at rest
    QString moved;                              ///< the displacement that it is drawn with
    double movedBy = 0;                         ///< how many times larger
    double swing = 1;                           ///< of a natural vibration at a moment
    vtkSmartPointer<vtkCellTreeLocator> cells;  ///< of the solid, made when first asked
};

namespace {

constexpr QLatin1StringView aheadOf(" ahead"), storedInPhase("@phase"), storedAhead("@ahead");

double lensValue(vtkDataArray* a, vtkIdType i, int component)
{
    if (a->GetNumberOfComponents() == 1)
        return a->GetComponent(i, 0);
    if (component >= 0)
        return a->GetComponent(i, component);
    return std::hypot(a->GetComponent(i, 0), a->GetComponent(i, 1), a->GetComponent(i, 2));
}

}  // namespace

namespace {

double triangleArea(const double p[3][3])
{
    const double a[3] = {p[1][0] - p[0][0], p[1][1] - p[0][1], p[1][2] - p[0][2]},
                 b[3] = {p[2][0] - p[0][0], p[2][1] - p[0][1], p[2][2] - p[0][2]};
    return 0.5 * std::hypot(a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2],
                            a[0] * b[1] - a[1] * b[0]);
}

}  // namespace

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
            array.swings = marks.contains("swings"_L1);
        }
}

}  // namespace

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
    if (vtkDataArray* times = grid->GetFieldData()->GetArray("times")) {
        for (vtkIdType i = 0; i < times->GetNumberOfTuples(); ++i)
            m_data->times.push_back(times->GetComponent(i, 0));
        for (int k = 0; k < grid->GetPointData()->GetNumberOfArrays(); ++k)
            if (const QString name = QString::fromUtf8(grid->GetPointData()->GetArrayName(k));
                name.endsWith("@0"_L1))
                m_data->overTime = name.chopped(2);
    }
    // Alternating fields keep what was stored, beside what is shown.
    auto* points = grid->GetPointData();
    for (int k = points->GetNumberOfArrays(); k-- > 0;) {
        const QString name = QString::fromUtf8(points->GetArrayName(k));
        auto* now = vtkFloatArray::SafeDownCast(points->GetArray(k));
        auto* ahead =
            vtkFloatArray::SafeDownCast(points->GetArray((name + aheadOf).toUtf8().constData()));
        if (!now || !ahead)
            continue;
        m_data->alternating.push_back(name);
        for (const auto& [from, ending] : {std::pair{now, storedInPhase}, {ahead, storedAhead}}) {
            vtkNew<vtkFloatArray> copy;
            copy->DeepCopy(from);
            copy->SetName((name + ending).toUtf8().constData());
            points->AddArray(copy);
        }
    }
    // Magnitudes once, so that recolouring only looks numbers up.
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

const FieldData::Array* FieldData::array(const QString& name) const
{
    const auto found = std::find_if(m_data->arrays.begin(), m_data->arrays.end(),
                                    [&](const Array& a) { return a.name == name; });
    return found == m_data->arrays.end() ? nullptr : &*found;
}

const std::vector<double>& FieldData::times() const
{
    return m_data->times;
}

const QString& FieldData::overTime() const
{
    return m_data->overTime;
}

void FieldData::setTime(double time)
{
    const auto& t = m_data->times;
    if (t.size() < 2)
        return;
    const auto after = std::upper_bound(t.begin(), t.end(), time);
    const size_t i = std::clamp<size_t>(size_t(after - t.begin()), 1, t.size() - 1) - 1;
    const double s = std::clamp((time - t[i]) / (t[i + 1] - t[i]), 0.0, 1.0);
    const auto name = [&](size_t k) {
        return (m_data->overTime + u'@' + QString::number(k)).toUtf8();
    };
    auto move = [&](vtkPointData* data) {
        auto* into =
            vtkFloatArray::SafeDownCast(data->GetArray(m_data->overTime.toUtf8().constData()));
        auto* a = vtkFloatArray::SafeDownCast(data->GetArray(name(i).constData()));
        auto* b = vtkFloatArray::SafeDownCast(data->GetArray(name(i + 1).constData()));
        if (!into || !a || !b)
            return;
        for (vtkIdType k = 0; k < into->GetNumberOfTuples(); ++k)
            into->SetValue(k, float((1 - s) * a->GetValue(k) + s * b->GetValue(k)));
        into->Modified();
    };
    move(m_data->poly->GetPointData());
    if (m_data->solid)
        move(m_data->solid->GetPointData());
    valuesChanged();
}

std::optional<std::pair<double, double>> FieldData::rangeOverPeriod(const QString& name) const
{
    auto part = [&](const QString& ending) {
        return m_data->poly->GetPointData()->GetArray((name + ending).toUtf8().constData());
    };
    vtkDataArray *a = part(storedInPhase), *b = part(storedAhead);
    if (!a || !b || a->GetNumberOfComponents() != 1)
        return std::nullopt;
    double most = 0;
    for (vtkIdType i = 0; i < a->GetNumberOfTuples(); ++i)
        most = std::max(most, std::hypot(a->GetComponent(i, 0), b->GetComponent(i, 0)));
    return std::pair(-most, most);
}

bool FieldData::hasMoves() const
{
    return std::any_of(m_data->arrays.begin(), m_data->arrays.end(),
                       [](const Array& a) { return a.moves; });
}

FieldData::Moved FieldData::setMoved(const QString& name)
{
    Data& d = *m_data;
    if (!d.rest)
        d.rest = d.poly->GetPoints();
    d.moved = name;
    d.grid.reset();
    if (name.isEmpty()) {
        d.poly->SetPoints(d.rest);
        valuesChanged();
        return {};
    }
    auto part = [&](const QString& ending) {
        return d.poly->GetPointData()->GetArray((name + ending).toUtf8().constData());
    };
    vtkDataArray *a = part(storedInPhase), *b = part(storedAhead);
    if (!a || !b)
        a = b = part({});
    // The largest of both parts, so that the size stays the same over a period, and the moment at
    // which the squares of all add up to most.
    double most = 0, squares = 0, product = 0;
    for (vtkIdType i = 0; a && i < a->GetNumberOfTuples(); ++i) {
        const double x = lensValue(a, i, -1), y = lensValue(b, i, -1);
        most = std::max({most, x, y});
        squares += x * x - y * y;
        for (int k = 0; k < a->GetNumberOfComponents(); ++k)
            product += a->GetComponent(i, k) * b->GetComponent(i, k);
    }
    double box[6];
    d.rest->GetBounds(box);
    constexpr double share = 0.06;  // of the extent
    const double extent = std::hypot(box[1] - box[0], box[3] - box[2], box[5] - box[4]);
    // What is seen as it is stays as it is: more would turn gaps that close inside out.
    constexpr double seen = 0.008;
    d.movedBy = most > seen * extent ? 1 : most > 0 ? share * extent / most : 0;
    valuesChanged();
    double phase = a == b ? 0 : 0.5 * std::atan2(2 * product, squares);
    if (phase < 0)
        phase += std::numbers::pi;
    return {d.movedBy, phase};
}

void FieldData::placeMoved()
{
    Data& d = *m_data;
    if (d.moved.isEmpty())
        return;
    const Array* a = array(d.moved);
    vtkDataArray* u = d.poly->GetPointData()->GetArray(d.moved.toUtf8().constData());
    if (!a || !u)
        return;
    const double by = d.movedBy * (a->swings ? d.swing : 1.0);
    vtkNew<vtkPoints> points;
    points->SetDataTypeToDouble();
    points->SetNumberOfPoints(d.rest->GetNumberOfPoints());
    for (vtkIdType i = 0; i < d.rest->GetNumberOfPoints(); ++i) {
        double p[3];
        d.rest->GetPoint(i, p);
        for (int k = 0; k < 3; ++k)
            p[k] += by * u->GetComponent(i, k);
        points->SetPoint(i, p);
    }
    d.poly->SetPoints(points);
}

void FieldData::valuesChanged()
{
    placeMoved();
    m_data->poly->Modified();
    if (m_data->solid)
        m_data->solid->Modified();
    m_data->joined = nullptr;
    m_data->exploded = nullptr;
    m_data->coarse = nullptr;
}

bool FieldData::hasPhase() const
{
    const Array* a = m_data->moved.isEmpty() ? nullptr : array(m_data->moved);
    return !m_data->alternating.empty() || (a && a->swings);
}

void FieldData::setPhase(double angle)
{
    const double c = std::cos(angle), s = std::sin(angle);
    m_data->swing = c;
    auto turn = [&](vtkPointData* data) {
        auto array = [data](const QString& name) {
            return vtkFloatArray::SafeDownCast(data->GetArray(name.toUtf8().constData()));
        };
        for (const QString& name : m_data->alternating) {
            const auto *a = array(name + storedInPhase), *b = array(name + storedAhead);
            vtkFloatArray *now = array(name), *ahead = array(name + aheadOf);
            if (!a || !b || !now || !ahead)
                continue;
            const vtkIdType n = now->GetNumberOfTuples() * now->GetNumberOfComponents();
            for (vtkIdType i = 0; i < n; ++i) {
                const double x = a->GetValue(i), y = b->GetValue(i);
                now->SetValue(i, float(c * x + s * y));
                ahead->SetValue(i, float(c * y - s * x));
            }
            for (vtkFloatArray* v : {now, ahead}) {
                v->Modified();
                auto* magnitude = array(u'|' + QString::fromUtf8(v->GetName()) + u'|');
                for (vtkIdType i = 0; magnitude && i < v->GetNumberOfTuples(); ++i)
                    magnitude->SetValue(i, float(lensValue(v, i, -1)));
                if (magnitude)
                    magnitude->Modified();
            }
        }
    };
    turn(m_data->poly->GetPointData());
    if (m_data->solid)
        turn(m_data->solid->GetPointData());
    valuesChanged();
}

std::pair<double, double> FieldData::rangeOverTime() const
{
    double low = 1e300, high = -1e300;
    for (size_t k = 0; k < m_data->times.size(); ++k)
        if (vtkDataArray* a = m_data->poly->GetPointData()->GetArray(
                (m_data->overTime + u'@' + QString::number(k)).toUtf8().constData())) {
            double r[2];
            a->GetRange(r);
            low = std::min(low, r[0]);
            high = std::max(high, r[1]);
        }
    return {low, high};
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
    for (int k = 0; k < from->GetPointData()->GetNumberOfArrays(); ++k) {
        vtkDataArray* a = from->GetPointData()->GetArray(k);
        if (QString::fromUtf8(a->GetName()).contains(u'@'))
            continue;
        const int width = a->GetNumberOfComponents();
        vtkNew<vtkFloatArray> mean;
        mean->SetName(a->GetName());
        mean->SetNumberOfComponents(width);
        mean->SetNumberOfTuples(count);
        mean->Fill(0);
        for (size_t i = 0; i < number.size(); ++i)
            for (int c = 0; c < width; ++c)
                mean->SetComponent(number[i], c,
                                   mean->GetComponent(number[i], c) +
                                       a->GetComponent(vtkIdType(i), c) / uses[size_t(number[i])]);
        grid->GetPointData()->AddArray(mean);
    }
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
    std::map<int, std::array<double, 4>> centre;
    std::vector<int> pieceOf(m_data->shared.size(), 0);
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

vtkPolyData* FieldData::polyData() const
{
    return m_data->poly;
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

}  // namespace

/// Cells by the square of a uniform grid that their boxes touch.
struct CellGrid
{
    double x0 = 0, y0 = 0, size = 1;
    int nx = 1, ny = 1;
    std::vector<int> start, cell;

    explicit CellGrid(vtkPolyData* poly)
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
                double low[2] = {1e300, 1e300}, high[2] = {-1e300, -1e300}, q[3];
                for (vtkIdType k = 0; k < count; ++k) {
                    poly->GetPoints()->GetPoint(ids[k], q);
                    for (int d = 0; d < 2; ++d) {
                        low[d] = std::min(low[d], q[d]);
                        high[d] = std::max(high[d], q[d]);
                    }
                }
                for (int j = row(low[1]); j <= row(high[1]); ++j)
                    for (int i = column(low[0]); i <= column(high[0]); ++i) {
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
    [[nodiscard]] int column(double x) const { return std::clamp(int((x - x0) / size), 0, nx - 1); }
    [[nodiscard]] int row(double y) const { return std::clamp(int((y - y0) / size), 0, ny - 1); }
};

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

FieldData::FieldData() : m_data(std::make_unique<Data>()) {}
FieldData::~FieldData() = default;

void FieldData::clear()
{
    m_data->poly = nullptr;
    m_data->solid = nullptr;
    m_data->arrays.clear();
    m_data->grid.reset();
}

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
