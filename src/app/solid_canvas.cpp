#include "app/solid_canvas.h"
#include "app/field_surface.h"

#include "app/overlay.h"
#include "app/solid_layers.h"
#include "app/solid_vectors.h"
#include "app/theme.h"
#include "base/constants.h"

#include <vtkActor.h>
#include <vtkCellArray.h>
#include <vtkCellData.h>
#include <vtkClipPolyData.h>
#include <vtkCutter.h>
#include <vtkDataSetSurfaceFilter.h>
#include <vtkDoubleArray.h>
#include <vtkFloatArray.h>
#include <vtkLight.h>
#include <vtkLookupTable.h>
#include <vtkMatrix4x4.h>
#include <vtkNew.h>
#include <vtkPlane.h>
#include <vtkPointData.h>
#include <vtkPoints.h>
#include <vtkPolyData.h>
#include <vtkPolyDataMapper.h>
#include <vtkProperty.h>
#include <vtkRenderer.h>
#include <vtkTubeFilter.h>
#include <vtkUnsignedCharArray.h>
#include <vtkUnstructuredGrid.h>

#include <QJsonArray>
#include <QPainter>
#include <algorithm>
#include <cmath>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace {

V3 pointOf(const QJsonValue& v)
{
    return {v[0].toDouble(), v[1].toDouble(), v[2].toDouble()};
}

/** A wire; it widens the box about the shape. */
SolidShape::Wire wireFrom(const QJsonValue& v, SolidShape& s)
{
    SolidShape::Wire w{v["line"_L1].toInt(), v["radius"_L1].toDouble(), {}, {}};
    for (const QJsonValue& run : v["runs"_L1].toArray()) {
        w.runs.emplace_back();
        for (const QJsonValue& p : run.toArray()) {
            w.runs.back().push_back(pointOf(p));
            for (size_t k = 0; k < 3; ++k) {
                s.low[k] = std::min(s.low[k], w.runs.back().back()[k] - w.radius);
                s.high[k] = std::max(s.high[k], w.runs.back().back()[k] + w.radius);
            }
        }
    }
    for (const QJsonValue& p : v["ports"_L1].toArray())
        w.ports.push_back(pointOf(p));
    return w;
}

/** Every image of the modelled part: mirrored at each plane; a wedge mirrored at y = 0 and turned
 on by twice its angle. */
std::vector<std::array<double, 16>> imagesOf(const std::array<bool, 3>& mirrors, int wedges)
{
    std::vector<std::array<double, 16>> images;
    const int pairs = wedges > 1 ? wedges : 2;
    for (int w = 0; w < pairs; ++w)
        for (int mask = 0; mask < 8; ++mask) {
            const bool x = mask & 1, y = mask & 2, z = mask & 4;
            const bool byPlanes = wedges <= 1;
            if ((z && !mirrors[2]) ||
                (byPlanes && (w > 0 || (x && !mirrors[0]) || (y && !mirrors[1]))) ||
                (!byPlanes && x))
                continue;
            if (!byPlanes && w >= (wedges + 1) / 2)
                continue;
            if (mask == 0 && w == 0)
                continue;
            const double angle = byPlanes ? 0 : 4 * base::pi / wedges * w, c = std::cos(angle),
                         s = std::sin(angle), sx = x ? -1 : 1, sy = y ? -1 : 1;
            images.push_back(
                {c * sx, -s * sy, 0, 0, s * sx, c * sy, 0, 0, 0, 0, z ? -1.0 : 1.0, 0, 0, 0, 0, 1});
        }
    return images;
}

}  // namespace

struct SolidCanvas::Vtk
{
    vtkNew<vtkPolyData> faces, curves, wires;
    vtkNew<vtkTubeFilter> tubes;
    vtkNew<vtkPolyDataMapper> faceMapper, curveMapper, surfaceMapper, cutMapper, wireMapper;
    vtkNew<vtkActor> face, curve, surface, cut, wire;
    vtkNew<vtkPlane> plane;
    vtkNew<vtkClipPolyData> faceClip, surfaceClip;
    vtkNew<vtkCutter> cutter;
    std::unique_ptr<SolidLayers> layers;
    std::vector<vtkSmartPointer<vtkActor>> copies;  ///< mirror images of the picture
};

SolidShape SolidShape::fromJson(const QJsonObject& event)
{
    SolidShape s;
    s.endless = event["endless"_L1].toBool();
    s.low = {1e300, 1e300, 1e300};
    s.high = {-1e300, -1e300, -1e300};
    for (const QJsonValue& v : event["faces"_L1].toArray())
        s.solids.push_back({v["name"_L1].toString(), v["line"_L1].toInt(), v["hidden"_L1].toBool(),
                            v["conductor"_L1].toBool()});
    for (const QJsonValue& v : event["edges"_L1].toArray()) {
        Side side;
        side.rule = v["rule"_L1].toString();
        side.hidden = v["hidden"_L1].toBool();
        side.thin = v["thin"_L1].toBool();
        for (const QJsonValue& f : v["faces"_L1].toArray())
            side.solids.push_back(f.toInt());
        for (const QJsonValue& p : v["triangles"_L1].toArray())
            side.corners.push_back(pointOf(p));
        if (!side.hidden)
            for (const V3& p : side.corners)
                for (size_t k = 0; k < 3; ++k) {
                    s.low[k] = std::min(s.low[k], p[k]);
                    s.high[k] = std::max(s.high[k], p[k]);
                }
        s.sides.push_back(std::move(side));
    }
    for (const QJsonValue& v : event["curves"_L1].toArray()) {
        std::vector<V3> line;
        for (const QJsonValue& p : v.toArray())
            line.push_back(pointOf(p));
        s.curves.push_back(std::move(line));
    }
    for (const QJsonValue& v : event["wires"_L1].toArray())
        s.wires.push_back(wireFrom(v, s));
    return s;
}

void SolidCanvas::connectField()
{
    auto& v = *m_vtk;
    for (vtkPolyDataMapper* m : {v.surfaceMapper.Get(), v.cutMapper.Get()}) {
        m->SetLookupTable(colours());
        m->SetScalarModeToUsePointFieldData();
        m->UseLookupTableScalarRangeOn();
        m->InterpolateScalarsBeforeMappingOn();
    }
    v.surfaceClip->SetClipFunction(v.plane);
    v.cutter->SetCutFunction(v.plane);
    v.cutMapper->SetInputConnection(v.cutter->GetOutputPort());
    v.surface->SetMapper(v.surfaceMapper);
    v.surface->GetProperty()->SetAmbient(0.6);
    v.surface->GetProperty()->SetDiffuse(0.4);
    v.cut->SetMapper(v.cutMapper);
    v.cut->GetProperty()->LightingOff();
}

SolidCanvas::SolidCanvas(QWidget* parent)
    : FieldCanvas(parent, u"solidScene"_s, tr("Scene of the solid")), m_vtk(std::make_unique<Vtk>())
{
    auto& v = *m_vtk;
    v.faceClip->SetInputData(v.faces);
    v.faceClip->SetClipFunction(v.plane);
    v.faceMapper->SetInputData(v.faces);
    v.faceMapper->SetScalarModeToUseCellData();
    v.face->SetMapper(v.faceMapper);
    v.face->GetProperty()->SetAmbient(0.35);
    v.face->GetProperty()->SetDiffuse(0.65);
    v.curveMapper->SetInputData(v.curves);
    v.curveMapper->ScalarVisibilityOff();
    v.curve->SetMapper(v.curveMapper);
    v.curve->GetProperty()->LightingOff();
    v.tubes->SetInputData(v.wires);
    v.tubes->SetNumberOfSides(16);
    v.tubes->CappingOn();
    v.tubes->SetVaryRadiusToVaryRadiusByAbsoluteScalar();
    v.wireMapper->SetInputConnection(v.tubes->GetOutputPort());
    v.wireMapper->SetScalarModeToUsePointFieldData();
    v.wireMapper->SelectColorArray("colour");
    v.wire->SetMapper(v.wireMapper);
    v.wire->GetProperty()->SetAmbient(0.5);
    v.wire->GetProperty()->SetDiffuse(0.5);
    connectField();
    // Lines lie on the faces: drawn a little nearer to the eye.
    vtkMapper::SetResolveCoincidentTopologyToPolygonOffset();
    for (vtkActor* a : {v.face.Get(), v.curve.Get(), v.surface.Get(), v.cut.Get(), v.wire.Get()}) {
        a->VisibilityOff();
        renderer()->AddActor(a);
    }
    v.layers = std::make_unique<SolidLayers>(renderer(), colours());
}

SolidCanvas::~SolidCanvas()
{
    release(m_vtk);
}

vtkPolyDataMapper& SolidCanvas::surface() const
{
    return *m_vtk->surfaceMapper;
}

std::array<V3, 3> SolidCanvas::frame() const
{
    const double c = std::cos(m_tilt), s = std::sin(m_tilt);
    const V3 eye{std::sin(m_turn) * c, -std::cos(m_turn) * c, s},
        right{std::cos(m_turn), std::sin(m_turn), 0};
    return {right, cross(eye, right), eye};
}

QPointF SolidCanvas::toWidget(const V3& p) const
{
    const auto f = frame();
    const V3 d = minus(p, m_centre);
    return {width() / 2.0 + dot(d, f[0]) / m_scale, height() / 2.0 - dot(d, f[1]) / m_scale};
}

void SolidCanvas::fit()
{
    if (!(m_shape.high[0] >= m_shape.low[0]) || width() < 10)
        return;
    double size = 0;
    for (size_t k = 0; k < 3; ++k) {
        m_centre[k] = 0.5 * (m_shape.low[k] + m_shape.high[k]);
        size += std::pow(m_shape.high[k] - m_shape.low[k], 2);
    }
    constexpr double margin = 1.05;
    m_scale = margin * std::sqrt(size) / std::max(10, std::min(width(), height() - 20));
    m_moved = false;
    update();
}

void SolidCanvas::setShape(SolidShape shape)
{
    // Its numbers of faces and sides are those of the shape before.
    m_named.clear();
    const bool first = m_shape.sides.empty();
    m_shape = std::move(shape);
    m_hoverSide = -1;
    std::erase_if(m_gone, [this](int s) { return s >= int(m_shape.solids.size()); });
    // The field of a sheet that was opened with its results is there before its shape.
    const bool isLess = leaveOutSurroundings();
    rebuildFaces();
    if (isLess)
        Q_EMIT surroundingsLeftOut();
    if (first || !m_moved)
        fit();
    update();
}

bool SolidCanvas::isShown(const SolidShape::Side& side) const
{
    if (side.hidden)
        return false;
    if (side.solids.empty())
        return true;
    for (const int s : side.solids)
        if (!m_gone.count(s) && !m_shape.solids[size_t(s)].hidden)
            return true;
    return false;
}

void SolidCanvas::rebuildFaces()
{
    auto& v = *m_vtk;
    const Theme& t = theme();
    static const QColor fills[] = {QColor(0xD9C79C), QColor(0xA9C4C0), QColor(0xD3A9A4),
                                   QColor(0xBDBD93), QColor(0xA9A9C9), QColor(0xE0C27A)};
    vtkNew<vtkPoints> points;
    points->SetDataTypeToDouble();
    vtkNew<vtkCellArray> cells, lines;
    vtkNew<vtkUnsignedCharArray> colour;
    colour->SetNumberOfComponents(3);
    std::vector<int> order;
    // Middles of the solids, from the corners of their faces.
    V3 whole{};
    std::vector<V3> middles(m_shape.solids.size());
    if (m_apart > 0) {
        std::vector<double> count(middles.size(), 0);
        for (const auto& side : m_shape.sides)
            for (const int s : side.solids)
                for (const V3& p : side.corners) {
                    for (size_t k = 0; k < 3; ++k)
                        middles[size_t(s)][k] += p[k];
                    count[size_t(s)] += 1;
                }
        for (size_t s = 0; s < middles.size(); ++s)
            for (size_t k = 0; k < 3; ++k)
                middles[s][k] /= std::max(1.0, count[s]);
        for (size_t k = 0; k < 3; ++k)
            whole[k] = 0.5 * (m_shape.low[k] + m_shape.high[k]);
    }
    for (size_t i = 0; i < m_shape.sides.size(); ++i) {
        const auto& side = m_shape.sides[i];
        if (!isShown(side))
            continue;
        // A face between two solids takes the colour of the one that was drawn last.
        int line = -1;
        bool lit = m_litSides.count(int(i)) != 0;
        for (const int s : side.solids) {
            const auto& solid = m_shape.solids[size_t(s)];
            if (!solid.hidden && !m_gone.count(s))
                line = std::max(line, solid.line);
            lit = lit || m_litSolids.count(s) || (m_litLine >= 0 && solid.line == m_litLine);
        }
        auto at = std::find(order.begin(), order.end(), line);
        if (at == order.end())
            at = order.insert(order.end(), line);
        QColor c = fills[size_t(at - order.begin()) % std::size(fills)];
        if (t.dark)
            c = c.darker(150);
        if (lit)
            c = t.yellow;
        else if (int(i) == m_hoverSide)
            c = c.lighter(112);
        for (size_t k = 0; k + 2 < side.corners.size(); k += 3) {
            vtkIdType ids[3];
            for (size_t j = 0; j < 3; ++j) {
                V3 p = side.corners[k + j];
                if (m_apart > 0 && !side.solids.empty())
                    for (size_t n = 0; n < 3; ++n)
                        p[n] += m_apart * (middles[size_t(side.solids.front())][n] - whole[n]);
                ids[j] = points->InsertNextPoint(p.data());
            }
            cells->InsertNextCell(3, ids);
            const unsigned char rgb[3] = {static_cast<unsigned char>(c.red()),
                                          static_cast<unsigned char>(c.green()),
                                          static_cast<unsigned char>(c.blue())};
            colour->InsertNextTypedTuple(rgb);
        }
    }
    v.faces->Initialize();
    v.faces->SetPoints(points);
    v.faces->SetPolys(cells);
    v.faces->GetCellData()->SetScalars(colour);
    vtkNew<vtkPoints> linePoints;
    linePoints->SetDataTypeToDouble();
    for (const auto& curve : m_shape.curves) {
        std::vector<vtkIdType> ids;
        for (const V3& p : curve)
            ids.push_back(linePoints->InsertNextPoint(p.data()));
        lines->InsertNextCell(vtkIdType(ids.size()), ids.data());
    }
    v.curves->Initialize();
    v.curves->SetPoints(linePoints);
    v.curves->SetLines(lines);
    rebuildWires();
    rebuildField();
}

void SolidCanvas::rebuildWires()
{
    auto& v = *m_vtk;
    double extent = 0;
    for (size_t k = 0; k < 3; ++k)
        extent = std::max(extent, m_shape.high[k] - m_shape.low[k]);
    // As thin as they are they would hardly be seen.
    const double least = extent / 220;
    vtkNew<vtkPoints> points;
    points->SetDataTypeToDouble();
    vtkNew<vtkCellArray> lines;
    vtkNew<vtkDoubleArray> radius;
    radius->SetName("radius");
    vtkNew<vtkUnsignedCharArray> colour;
    colour->SetName("colour");
    colour->SetNumberOfComponents(3);
    auto add = [&](const std::vector<V3>& run, double r, const QColor& c) {
        std::vector<vtkIdType> ids;
        for (const V3& p : run) {
            ids.push_back(points->InsertNextPoint(p.data()));
            radius->InsertNextValue(r);
            const unsigned char rgb[3] = {static_cast<unsigned char>(c.red()),
                                          static_cast<unsigned char>(c.green()),
                                          static_cast<unsigned char>(c.blue())};
            colour->InsertNextTypedTuple(rgb);
        }
        lines->InsertNextCell(vtkIdType(ids.size()), ids.data());
    };
    const Theme& t = theme();
    for (const auto& w : m_shape.wires) {
        const double r = std::max(w.radius, least);
        const QColor metal = w.line == m_litLine ? t.yellow : QColor(0xB0703C);
        for (const auto& run : w.runs)
            add(run, r, metal);
        // A port is a short collar about the wire, where it runs to from there.
        for (const V3& p : w.ports)
            for (const auto& run : w.runs)
                for (size_t i = 0; i + 1 < run.size(); ++i) {
                    const V3 along = minus(run[i + 1], run[i]), from = minus(p, run[i]);
                    const double length = std::sqrt(dot(along, along)),
                                 at = dot(from, along) / (length * length);
                    if (at < -1e-6 || at > 1 + 1e-6)
                        continue;
                    V3 off{}, a{}, b{};
                    for (size_t k = 0; k < 3; ++k) {
                        off[k] = from[k] - at * along[k];
                        a[k] = run[i][k] + std::max(0.0, at - 1.5 * r / length) * along[k];
                        b[k] = run[i][k] + std::min(1.0, at + 1.5 * r / length) * along[k];
                    }
                    if (std::sqrt(dot(off, off)) < 1e-3 * r)
                        add({a, b}, 1.8 * r, t.plum);
                }
    }
    v.wires->Initialize();
    v.wires->SetPoints(points);
    v.wires->SetLines(lines);
    v.wires->GetPointData()->SetScalars(radius);
    v.wires->GetPointData()->AddArray(colour);
}

void SolidCanvas::rebuildField()
{
    auto& v = *m_vtk;
    const bool field = hasField() && m_field->grid(), cut = m_sectionAxis >= 0;
    if (cut) {
        V3 origin = m_shape.low, normal{0, 0, 0};
        const auto k = size_t(m_sectionAxis);
        origin[k] += m_sectionShare * (m_shape.high[k] - m_shape.low[k]);
        // What lies on the side of the eye's half-space is cut away.
        normal[k] = m_sectionAxis == 1 ? 1 : -1;
        v.plane->SetOrigin(origin.data());
        v.plane->SetNormal(normal.data());
    }
    if (field) {
        vtkPolyData* surface =
            m_apart > 0 && !cut ? m_field->exploded(m_apart) : m_field->polyData();
        v.surfaceClip->SetInputData(m_field->polyData());
        v.cutter->SetInputData(m_field->grid());
        if (cut)
            v.surfaceMapper->SetInputConnection(v.surfaceClip->GetOutputPort());
        else
            v.surfaceMapper->SetInputData(surface);
    }
    if (!m_litSides.empty()) {
        std::vector<V3> seeds;
        for (const int i : m_litSides) {
            // The lit places of a drawing, shown by the other canvas, mean nothing here.
            if (size_t(i) >= m_shape.sides.size())
                continue;
            const auto& corners = m_shape.sides[size_t(i)].corners;
            const size_t step = std::max<size_t>(3, corners.size() / 90 * 3);
            for (size_t k = 0; k + 2 < corners.size(); k += step) {
                V3 p{};
                for (size_t j = 0; j < 3; ++j)
                    for (size_t c = 0; c < 3; ++c)
                        p[c] += corners[k + j][c] / 3;
                seeds.push_back(p);
            }
        }
        v.layers->setSeeds(std::move(seeds));
    } else {
        v.layers->setSeeds({});
    }
    double extent = 0;
    std::array<double, 3> middle{};
    for (size_t k = 0; k < 3; ++k) {
        extent = std::max(extent, m_shape.high[k] - m_shape.low[k]);
        middle[k] = 0.5 * (m_shape.low[k] + m_shape.high[k]);
    }
    constexpr double share = 0.75;
    v.layers->setPattern(m_pattern, middle, share * extent);
    v.layers->update(m_field.get(), m_lens, m_low, m_high, m_layers);
    if (cut)
        v.faceMapper->SetInputConnection(v.faceClip->GetOutputPort());
    else
        v.faceMapper->SetInputData(v.faces);
    const bool colours = field && m_layers.colours;
    // Conductors carry no field: their faces are seen beside the coloured ones.
    v.surface->SetVisibility(colours && !m_seeThrough);
    v.cut->SetVisibility(colours && cut);
    v.face->SetVisibility(!colours || m_seeThrough);
    v.face->GetProperty()->SetOpacity(m_seeThrough ? 0.22 : 1.0);
    v.curve->SetVisibility(!m_shape.curves.empty());
    v.wire->SetVisibility(!m_shape.wires.empty());
    v.surface->GetProperty()->SetEdgeVisibility(m_layers.mesh);
    // What lies inside is seen through the surface.
    v.surface->GetProperty()->SetOpacity(v.layers->areInside() ? 0.2 : m_stale ? 0.5 : 1.0);
    v.cut->GetProperty()->SetEdgeVisibility(m_layers.mesh);
    rebuildCopies();
    update();
}

void SolidCanvas::rebuildCopies()
{
    auto& v = *m_vtk;
    for (const auto& a : v.copies)
        renderer()->RemoveActor(a);
    v.copies.clear();
    if (!m_whole)
        return;
    const auto images = imagesOf(m_mirrors, m_wedges);
    for (const auto& image : images)
        for (vtkActor* from :
             {v.face.Get(), v.curve.Get(), v.surface.Get(), v.cut.Get(), v.wire.Get()}) {
            if (!from->GetVisibility())
                continue;
            auto a = vtkSmartPointer<vtkActor>::New();
            a->SetMapper(from->GetMapper());
            a->SetProperty(from->GetProperty());
            vtkNew<vtkMatrix4x4> m;
            m->DeepCopy(image.data());
            a->SetUserMatrix(m);
            renderer()->AddActor(a);
            v.copies.push_back(a);
        }
}

void SolidCanvas::setSymmetry(std::array<bool, 3> planes, int wedges)
{
    // What is cut at z = 0 is looked at from below, where its field shows.
    constexpr double fromBelow = -0.62, fromAbove = 0.45;
    if (planes[2] != m_mirrors[2])
        m_tilt = planes[2] ? fromBelow : fromAbove;
    m_mirrors = planes;
    m_wedges = wedges;
    rebuildField();
}

void SolidCanvas::showWhole(bool on)
{
    m_whole = on;
    rebuildField();
}

void SolidCanvas::setApart(double share)
{
    m_apart = share;
    rebuildFaces();
}

void SolidCanvas::fieldChanged()
{
    rebuildField();
}

void SolidCanvas::setPattern(FarPattern pattern)
{
    m_pattern = std::move(pattern);
    rebuildField();
    update();
}

void SolidCanvas::setField(std::shared_ptr<FieldData> field)
{
    m_field = std::move(field);
    m_hasSurroundings = true;
    leaveOutSurroundings();
    rebuildField();
}

bool SolidCanvas::leaveOutSurroundings()
{
    // Where space goes on to infinity its field fades away; waves are looked at all the way.
    if (!m_field || !m_shape.endless || !m_hasSurroundings)
        return false;
    m_hasSurroundings = false;
    Surroundings around{{}, m_shape.low, m_shape.high};
    for (size_t s = 0; s < m_shape.solids.size(); ++s)
        if (m_shape.solids[s].hidden)
            around.pieces.insert(int(s));
    m_field->leaveOut(around);
    return true;
}

void SolidCanvas::setStale(bool stale)
{
    m_stale = stale;
    rebuildField();
}

void SolidCanvas::setLens(const Lens& lens, double low, double high, const QString& map)
{
    m_lens = lens;
    m_low = low;
    m_high = high;
    auto& v = *m_vtk;
    fillColours(colours(), lens, low, high, map);
    const QByteArray array = colourArray(m_field.get(), lens).toUtf8();
    v.surfaceMapper->SelectColorArray(array.constData());
    v.cutMapper->SelectColorArray(array.constData());
    rebuildField();
    hurry();
}

void SolidCanvas::setLayers(const Layers& layers)
{
    m_layers = layers;
    rebuildField();
}

void SolidCanvas::setHighlight(std::set<int> solids, std::set<int> sides, int line)
{
    m_litSolids = std::move(solids);
    m_litSides = std::move(sides);
    m_litLine = line;
    rebuildFaces();
}

void SolidCanvas::setSeeThrough(bool on)
{
    m_seeThrough = on;
    rebuildField();
}

void SolidCanvas::setSection(int axis, double share)
{
    m_sectionAxis = axis;
    m_sectionShare = share;
    rebuildField();
}

void SolidCanvas::hideSolid(int solid, bool hidden)
{
    if (hidden)
        m_gone.insert(solid);
    else
        m_gone.erase(solid);
    rebuildFaces();
}

void SolidCanvas::isolate(int solid)
{
    m_gone.clear();
    for (int s = 0; s < int(m_shape.solids.size()); ++s)
        if (s != solid)
            m_gone.insert(s);
    rebuildFaces();
}

void SolidCanvas::showAll()
{
    m_gone.clear();
    rebuildFaces();
}

void SolidCanvas::setView(const QString& name)
{
    constexpr double quarter = 1.57079632679489662;
    static const std::map<QString, std::pair<double, double>> views = {
        {u"front"_s, {0, 0}},       {u"back"_s, {2 * quarter, 0}}, {u"right"_s, {quarter, 0}},
        {u"left"_s, {-quarter, 0}}, {u"top"_s, {0, quarter}},      {u"bottom"_s, {0, -quarter}},
        {u"corner"_s, {-0.7, 0.45}}};
    if (const auto it = views.find(name); it != views.end()) {
        m_turn = it->second.first;
        m_tilt = it->second.second;
    }
    fit();
}

void SolidCanvas::dress(double ratio)
{
    auto& v = *m_vtk;
    const Theme& t = theme();
    v.curve->GetProperty()->SetColor(t.ink.redF(), t.ink.greenF(), t.ink.blueF());
    v.curve->GetProperty()->SetLineWidth(float(1.1 * ratio));
    v.curve->GetProperty()->SetOpacity(m_sectionAxis >= 0 ? 0.25 : 0.8);
    for (vtkActor* a : {v.surface.Get(), v.cut.Get()})
        a->GetProperty()->SetEdgeColor(0.25, 0.2, 0.2);
}

FieldCanvas::View SolidCanvas::view() const
{
    const auto f = frame();
    const double distance = 4 * std::max(1e-9, m_scale * std::max(width(), height()));
    View from{{}, m_centre, f[1], 0.05 * distance, 2 * distance};
    for (size_t k = 0; k < 3; ++k)
        from.eye[k] = m_centre[k] + distance * f[2][k];
    return from;
}

}  // namespace yh::app
