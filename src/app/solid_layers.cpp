#include "app/solid_layers.h"

#include "app/overlay.h"
#include "app/theme.h"

#include <vtkActor.h>
#include <vtkArrowSource.h>
#include <vtkCellArray.h>
#include <vtkContourFilter.h>
#include <vtkDataArray.h>
#include <vtkFloatArray.h>
#include <vtkGlyph3D.h>
#include <vtkLookupTable.h>
#include <vtkNew.h>
#include <vtkPointData.h>
#include <vtkPoints.h>
#include <vtkPolyData.h>
#include <vtkPolyDataMapper.h>
#include <vtkProperty.h>
#include <vtkRenderer.h>
#include <vtkStreamTracer.h>
#include <vtkUnstructuredGrid.h>

#include <algorithm>
#include <cmath>

namespace yh::app {

struct SolidLayers::Vtk
{
    vtkNew<vtkContourFilter> contour;
    vtkNew<vtkPolyDataMapper> contourMapper, arrowMapper, lineMapper, patternMapper;
    vtkNew<vtkActor> contourActor, arrowActor, lineActor, patternActor;
    vtkNew<vtkLookupTable> patternColours;
    bool hasPattern = false;
    vtkNew<vtkArrowSource> arrow;
    vtkNew<vtkGlyph3D> glyphs;
    vtkNew<vtkStreamTracer> tracer;
};

SolidLayers::SolidLayers(vtkRenderer* renderer, vtkLookupTable* colours)
    : m_vtk(std::make_unique<Vtk>())
{
    auto& v = *m_vtk;
    v.contourMapper->SetInputConnection(v.contour->GetOutputPort());
    v.contourMapper->SetLookupTable(colours);
    v.contourMapper->SetScalarModeToUsePointData();
    v.contourMapper->UseLookupTableScalarRangeOn();
    v.contourActor->SetMapper(v.contourMapper);
    v.contourActor->GetProperty()->SetOpacity(0.75);
    v.contourActor->GetProperty()->SetAmbient(0.5);
    v.glyphs->SetSourceConnection(v.arrow->GetOutputPort());
    v.glyphs->SetVectorModeToUseVector();
    v.glyphs->SetScaleModeToDataScalingOff();
    v.glyphs->OrientOn();
    v.arrowMapper->SetInputConnection(v.glyphs->GetOutputPort());
    v.arrowMapper->ScalarVisibilityOff();
    v.arrowActor->SetMapper(v.arrowMapper);
    v.tracer->SetIntegratorTypeToRungeKutta4();
    v.tracer->SetIntegrationDirectionToBoth();
    v.tracer->SetMaximumNumberOfSteps(2000);
    v.lineMapper->SetInputConnection(v.tracer->GetOutputPort());
    v.lineMapper->ScalarVisibilityOff();
    v.lineActor->SetMapper(v.lineMapper);
    v.lineActor->GetProperty()->LightingOff();
    // By its radius, from where there is nothing to the largest gain.
    fillColours(v.patternColours, {}, 0, 1, QStringLiteral("blossom"));
    v.patternMapper->SetLookupTable(v.patternColours);
    v.patternMapper->UseLookupTableScalarRangeOn();
    v.patternActor->SetMapper(v.patternMapper);
    v.patternActor->GetProperty()->SetOpacity(0.6);
    v.patternActor->GetProperty()->SetAmbient(0.45);
    v.patternActor->GetProperty()->SetDiffuse(0.6);
    for (vtkActor* a :
         {v.contourActor.Get(), v.arrowActor.Get(), v.lineActor.Get(), v.patternActor.Get()}) {
        a->VisibilityOff();
        renderer->AddActor(a);
    }
}

SolidLayers::~SolidLayers() = default;

void SolidLayers::setSeeds(std::vector<std::array<double, 3>> seeds)
{
    m_seeds = std::move(seeds);
}

void SolidLayers::update(const FieldData* field, const Lens& lens, double low, double high,
                         const Layers& layers)
{
    auto& v = *m_vtk;
    const bool any = field && !field->isEmpty() && field->grid();
    const bool contours = any && layers.potentialLines, arrowsOn = any && layers.arrows,
               linesOn = any && layers.fieldLines;
    m_inside = contours || arrowsOn || linesOn;
    if (contours)
        surfaces(*field, lens, low, high);
    if (arrowsOn)
        arrows(*field);
    if (linesOn)
        lines(*field);
    v.patternActor->SetVisibility(layers.pattern && v.hasPattern);
    v.contourActor->SetVisibility(contours);
    v.arrowActor->SetVisibility(arrowsOn);
    v.lineActor->SetVisibility(linesOn);
    const QColor ink = theme().ink, plum = theme().plum;
    v.arrowActor->GetProperty()->SetColor(ink.redF(), ink.greenF(), ink.blueF());
    v.lineActor->GetProperty()->SetColor(plum.redF(), plum.greenF(), plum.blueF());
    v.lineActor->GetProperty()->SetLineWidth(1.4F);
}

void SolidLayers::setPattern(const FarPattern& pattern, const std::array<double, 3>& centre,
                             double size)
{
    auto& v = *m_vtk;
    v.hasPattern = !pattern.isEmpty();
    if (!v.hasPattern)
        return;
    vtkNew<vtkPoints> points;
    vtkNew<vtkFloatArray> radius;
    vtkNew<vtkCellArray> cells;
    const int n = pattern.rows, around = 2 * n;
    for (int i = 0; i <= n; ++i)
        for (int k = 0; k < around; ++k) {
            const auto at = size_t(i * around + k);
            const auto u = pattern.direction(i, k);
            const double r = pattern.radius(at);
            points->InsertNextPoint(centre[0] + size * r * u[0], centre[1] + size * r * u[1],
                                    centre[2] + size * r * u[2]);
            radius->InsertNextValue(float(r));
        }
    for (int i = 0; i < n; ++i)
        for (int k = 0; k < around; ++k) {
            const int next = (k + 1) % around;
            const vtkIdType square[4] = {i * around + k, (i + 1) * around + k,
                                         (i + 1) * around + next, i * around + next};
            cells->InsertNextCell(4, square);
        }
    vtkNew<vtkPolyData> surface;
    surface->SetPoints(points);
    surface->SetPolys(cells);
    surface->GetPointData()->SetScalars(radius);
    v.patternMapper->SetInputData(surface);
}

void SolidLayers::surfaces(const FieldData& field, const Lens& lens, double low, double high)
{
    auto& v = *m_vtk;
    vtkUnstructuredGrid* grid = field.joined();
    const QByteArray name = colourArray(&field, lens).toUtf8();
    vtkDataArray* values = grid->GetPointData()->GetArray(name.constData());
    if (!values)
        return;
    // A component of a vector gets an array of its own.
    if (values->GetNumberOfComponents() > 1) {
        vtkNew<vtkFloatArray> one;
        one->SetName("component");
        one->SetNumberOfTuples(values->GetNumberOfTuples());
        for (vtkIdType i = 0; i < values->GetNumberOfTuples(); ++i)
            one->SetValue(i, float(values->GetComponent(i, std::max(0, lens.component))));
        grid->GetPointData()->AddArray(one);
        grid->GetPointData()->SetActiveScalars("component");
    } else {
        grid->GetPointData()->SetActiveScalars(name.constData());
    }
    v.contour->SetInputData(grid);
    constexpr int levels = 6;
    v.contour->SetNumberOfContours(levels);
    for (int i = 0; i < levels; ++i)
        v.contour->SetValue(i, low + (high - low) * (i + 0.5) / levels);
}

void SolidLayers::arrows(const FieldData& field)
{
    auto& v = *m_vtk;
    vtkUnstructuredGrid* grid = field.joined();
    vtkDataArray* vectors =
        grid->GetPointData()->GetArray(field.firstOf(true).toUtf8().constData());
    if (!vectors)
        return;
    // One point in each box of a coarse grid, the one nearest to its middle.
    constexpr double across = 14;
    double b[6];
    grid->GetBounds(b);
    const double cell = std::max({b[1] - b[0], b[3] - b[2], b[5] - b[4]}) / across;
    struct Best
    {
        double distance = 1e300;
        vtkIdType point = -1;
    };
    std::map<std::array<int, 3>, Best> boxes;
    double strongest = 0;
    for (vtkIdType i = 0; i < grid->GetNumberOfPoints(); ++i) {
        const double* p = grid->GetPoint(i);
        std::array<int, 3> key;
        double d = 0;
        for (size_t k = 0; k < 3; ++k) {
            const double x = (p[k] - b[2 * k]) / cell;
            key[k] = int(x);
            d += std::pow(x - key[k] - 0.5, 2);
        }
        double* u = vectors->GetTuple(i);
        strongest = std::max(strongest, std::hypot(u[0], u[1], u[2]));
        Best& best = boxes[key];
        if (d < best.distance)
            best = {d, i};
    }
    vtkNew<vtkPoints> points;
    vtkNew<vtkFloatArray> directions;
    directions->SetNumberOfComponents(3);
    directions->SetName("direction");
    constexpr double least = 1e-6;  // weaker than this share of the strongest: no direction
    for (const auto& [key, best] : boxes) {
        const double* u = vectors->GetTuple(best.point);
        if (std::hypot(u[0], u[1], u[2]) <= least * strongest)
            continue;
        points->InsertNextPoint(grid->GetPoint(best.point));
        directions->InsertNextTuple(u);
    }
    vtkNew<vtkPolyData> places;
    places->SetPoints(points);
    places->GetPointData()->SetVectors(directions);
    v.glyphs->SetInputData(places);
    v.glyphs->SetScaleFactor(0.8 * cell);
}

void SolidLayers::lines(const FieldData& field)
{
    auto& v = *m_vtk;
    vtkUnstructuredGrid* grid = field.joined();
    const QByteArray name = field.firstOf(true).toUtf8();
    vtkDataArray* vectors = grid->GetPointData()->GetArray(name.constData());
    if (!vectors)
        return;
    double b[6];
    grid->GetBounds(b);
    const double size = std::max({b[1] - b[0], b[3] - b[2], b[5] - b[4]});
    vtkNew<vtkPoints> seeds;
    for (const auto& s : m_seeds)
        seeds->InsertNextPoint(s.data());
    if (m_seeds.empty()) {
        // Evenly by the flux that enters through the surface.
        vtkPolyData* surface = field.polyData();
        vtkDataArray* on = surface->GetPointData()->GetArray(name.constData());
        struct Foot
        {
            std::array<double, 3> at;
            double flux;
        };
        std::vector<Foot> feet;
        double total = 0;
        vtkCellArray* cells = surface->GetPolys();
        for (vtkIdType c = 0; c < cells->GetNumberOfCells(); ++c) {
            vtkIdType n = 0;
            const vtkIdType* ids = nullptr;
            cells->GetCellAtId(c, n, ids);
            double p[3][3], u[3] = {0, 0, 0};
            for (int k = 0; k < 3; ++k) {
                surface->GetPoint(ids[k], p[k]);
                for (int i = 0; i < 3; ++i)
                    u[i] += on->GetComponent(ids[k], i) / 3;
            }
            std::array<double, 3> e{}, f{}, at{};
            for (size_t i = 0; i < 3; ++i) {
                e[i] = p[1][i] - p[0][i];
                f[i] = p[2][i] - p[0][i];
                at[i] = (p[0][i] + p[1][i] + p[2][i]) / 3;
            }
            // Triangles of the surface look outward.
            const double flux =
                -0.5 * ((e[1] * f[2] - e[2] * f[1]) * u[0] + (e[2] * f[0] - e[0] * f[2]) * u[1] +
                        (e[0] * f[1] - e[1] * f[0]) * u[2]);
            if (flux > 0) {
                total += flux;
                feet.push_back({at, flux});
            }
        }
        constexpr int wanted = 70;
        double sum = 0;
        int drawn = 0;
        for (const Foot& foot : feet) {
            sum += foot.flux;
            if (drawn < wanted && (drawn + 0.5) * total / wanted < sum) {
                seeds->InsertNextPoint(foot.at.data());
                drawn = int(sum * wanted / total + 0.5);
            }
        }
    }
    vtkNew<vtkPolyData> places;
    places->SetPoints(seeds);
    grid->GetPointData()->SetActiveVectors(name.constData());
    v.tracer->SetInputData(grid);
    v.tracer->SetSourceData(places);
    v.tracer->SetMaximumPropagation(4 * size);
    v.tracer->SetIntegrationStepUnit(vtkStreamTracer::CELL_LENGTH_UNIT);
    v.tracer->SetInitialIntegrationStep(0.3);
}

}  // namespace yh::app
