// What fields do over time and over a period, and the shape that they move.
#include "app/field_store.h"

#include <vtkFloatArray.h>
#include <vtkNew.h>
#include <vtkPointData.h>
#include <vtkPoints.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace yh::app {

/// Whether a displacement is that of a natural vibration, which has no size and no sign.
bool FieldData::swings(const Array& a) const
{
    return a.moves && !m_data->modes.empty();
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
    const auto name = [&](size_t k) { return m_data->byTime[k].toUtf8(); };
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

namespace {

/** The largest of both parts, so that the size stays the same over a period, and twice the angle at
 which the squares of all add up to most, as its sine and cosine. */
std::array<double, 3> mostOf(vtkDataArray* a, vtkDataArray* b)
{
    double most = 0, squares = 0, product = 0;
    for (vtkIdType i = 0; a && i < a->GetNumberOfTuples(); ++i) {
        const double x = lensValue(a, i, -1), y = lensValue(b, i, -1);
        most = std::max({most, x, y});
        squares += x * x - y * y;
        for (int k = 0; k < a->GetNumberOfComponents(); ++k)
            product += a->GetComponent(i, k) * b->GetComponent(i, k);
    }
    return {most, 2 * product, squares};
}

}  // namespace

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
    const auto [most, product, squares] = mostOf(a, b);
    double box[6];
    d.rest->GetBounds(box);
    constexpr double share = 0.06;  // of the extent
    const double extent = std::hypot(box[1] - box[0], box[3] - box[2], box[5] - box[4]);
    // What is seen as it is stays as it is: more would turn gaps that close inside out.
    constexpr double seen = 0.008;
    d.movedBy = most > seen * extent ? 1 : most > 0 ? share * extent / most : 0;
    valuesChanged();
    double phase = a == b ? 0 : 0.5 * std::atan2(product, squares);
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
    const double by = d.movedBy * (swings(*a) ? d.swing : 1.0);
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
    return !m_data->alternating.empty() || (a && swings(*a));
}

void FieldData::setPhase(double angle)
{
    const double c = std::cos(angle), s = std::sin(angle);
    m_data->swing = c;
    auto turn = [&](vtkPointData* data) {
        auto array = [data](const QString& name) {
            return vtkFloatArray::SafeDownCast(data->GetArray(name.toUtf8().constData()));
        };
        for (const auto& names : m_data->alternating) {
            const auto *a = array(names.now + storedInPhase), *b = array(names.now + storedAhead);
            vtkFloatArray *now = array(names.now), *ahead = array(names.ahead);
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
    for (const QString& name : m_data->byTime)
        if (vtkDataArray* a = m_data->poly->GetPointData()->GetArray(name.toUtf8().constData())) {
            double r[2];
            a->GetRange(r);
            low = std::min(low, r[0]);
            high = std::max(high, r[1]);
        }
    return {low, high};
}

}  // namespace yh::app
