#include "app/scene_canvas.h"

#include "app/overlay.h"
#include "app/theme.h"

#include <vtkActor.h>
#include <vtkContourFilter.h>
#include <vtkFeatureEdges.h>
#include <vtkLookupTable.h>
#include <vtkNew.h>
#include <vtkPointData.h>
#include <vtkPolyDataMapper.h>
#include <vtkProperty.h>
#include <vtkRenderer.h>

#include <QJsonArray>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>
#include <functional>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

struct SceneCanvas::Vtk
{
    vtkNew<vtkPolyDataMapper> fieldMapper, meshMapper, contourMapper;
    vtkNew<vtkActor> field, mesh, contour;
    vtkNew<vtkFeatureEdges> edges;
    vtkNew<vtkContourFilter> contours;
};

SceneShape SceneShape::fromJson(const QJsonObject& event)
{
    SceneShape s;
    auto polygon = [](const QJsonValue& v) {
        QPolygonF p;
        for (const QJsonValue& q : v.toArray())
            p << QPointF(q[0].toDouble(), q[1].toDouble());
        return p;
    };
    for (const QJsonValue& v : event["faces"_L1].toArray()) {
        Face f;
        f.name = v["name"_L1].toString();
        f.line = v["line"_L1].toInt();
        f.hidden = v["hidden"_L1].toBool();
        f.shell = v["shell"_L1].toBool();
        f.conductor = v["conductor"_L1].toBool();
        f.path.setFillRule(Qt::OddEvenFill);
        for (const QJsonValue& o : v["outlines"_L1].toArray()) {
            f.path.addPolygon(polygon(o));
            f.path.closeSubpath();
        }
        if (!f.shell)
            s.box |= f.path.boundingRect();
        s.faces.push_back(std::move(f));
    }
    for (const QJsonValue& v : event["edges"_L1].toArray()) {
        Edge e;
        e.points = polygon(v["points"_L1]);
        e.rule = v["rule"_L1].toString();
        e.thin = v["thin"_L1].toBool();
        e.hidden = v["hidden"_L1].toBool();
        for (const QJsonValue& f : v["faces"_L1].toArray())
            e.faces.push_back(f.toInt());
        s.edges.push_back(std::move(e));
    }
    return s;
}

SceneCanvas::SceneCanvas(QWidget* parent)
    : FieldCanvas(parent, u"scene"_s, tr("Scene")), m_vtk(std::make_unique<Vtk>())
{
    auto& v = *m_vtk;
    v.fieldMapper->SetLookupTable(colours());
    v.fieldMapper->SetScalarModeToUsePointFieldData();
    v.fieldMapper->UseLookupTableScalarRangeOn();
    v.fieldMapper->InterpolateScalarsBeforeMappingOn();
    v.field->SetMapper(v.fieldMapper);
    v.field->GetProperty()->LightingOff();
    // Corners of neighbouring triangles are points of their own, so that free edges are just the
    // edges of the true (curved) triangles.
    v.edges->BoundaryEdgesOn();
    v.edges->FeatureEdgesOff();
    v.edges->NonManifoldEdgesOff();
    v.edges->ManifoldEdgesOff();
    v.edges->ColoringOff();
    v.meshMapper->SetInputConnection(v.edges->GetOutputPort());
    v.meshMapper->ScalarVisibilityOff();
    v.mesh->SetMapper(v.meshMapper);
    v.mesh->GetProperty()->LightingOff();
    v.contourMapper->SetInputConnection(v.contours->GetOutputPort());
    v.contourMapper->ScalarVisibilityOff();
    v.contour->SetMapper(v.contourMapper);
    v.contour->GetProperty()->LightingOff();
    v.contours->ComputeScalarsOff();
    for (vtkActor* a : {v.field.Get(), v.mesh.Get(), v.contour.Get()}) {
        a->VisibilityOff();
        renderer()->AddActor(a);
    }
}

SceneCanvas::~SceneCanvas()
{
    release(m_vtk);
}

vtkPolyDataMapper& SceneCanvas::surface() const
{
    return *m_vtk->fieldMapper;
}

void SceneCanvas::fit()
{
    if (m_shape.box.isEmpty() || width() < 10)
        return;
    m_centre = m_shape.box.center();
    constexpr double margin = 1.12;
    m_scale = margin * std::max(m_shape.box.width() / width(),
                                m_shape.box.height() / std::max(1, height() - 30));
    m_moved = false;
    update();
}

QTransform SceneCanvas::transform() const
{
    QTransform t;
    t.translate(width() / 2.0, height() / 2.0);
    t.scale(1 / m_scale, -1 / m_scale);
    t.translate(-m_centre.x(), -m_centre.y());
    return t;
}

QPointF SceneCanvas::toWidget(QPointF world) const
{
    return transform().map(world);
}
QPointF SceneCanvas::toWorld(QPointF w) const
{
    return {m_centre.x() + (w.x() - width() / 2.0) * m_scale,
            m_centre.y() - (w.y() - height() / 2.0) * m_scale};
}

double SceneCanvas::snapStep() const
{
    // The finest of 1, 2, 5 times a power of ten that is at least some pixels wide.
    constexpr double pixels = 7;
    const double least = pixels * m_scale, ten = std::pow(10.0, std::floor(std::log10(least)));
    for (const double f : {1.0, 2.0, 5.0, 10.0})
        if (f * ten >= least)
            return f * ten;
    return 10 * ten;
}

QPointF SceneCanvas::snapped(QPointF world) const
{
    constexpr double reach = 8;  // pixels to a corner
    QPointF best = world;
    double near = reach * m_scale;
    for (const auto& e : m_shape.edges)
        if (!e.hidden && !e.points.isEmpty())
            for (const QPointF& p : {e.points.first(), e.points.last()})
                if (const double d = std::hypot(p.x() - world.x(), p.y() - world.y()); d < near) {
                    near = d;
                    best = p;
                }
    if (best != world)
        return best;
    const double step = snapStep();
    return {std::round(world.x() / step) * step, std::round(world.y() / step) * step};
}

void SceneCanvas::setShape(SceneShape shape)
{
    // Its numbers of faces and sides are those of the shape before.
    m_named.clear();
    const bool first = m_shape.faces.empty();
    const QRectF before = m_shape.box;
    m_shape = std::move(shape);
    m_hoverFace = m_hoverEdge = -1;
    // The view stays where it is while one edits, unless the drawing outgrows it by far.
    const double growth = before.isEmpty() ? 10
                                           : std::max(m_shape.box.width() / before.width(),
                                                      m_shape.box.height() / before.height());
    if (first || growth > 3 || growth < 0.2)
        fit();
    update();
}

void SceneCanvas::setField(std::shared_ptr<FieldData> field, std::vector<QPolygonF> lines)
{
    m_field = std::move(field);
    m_lines = std::move(lines);
    auto& v = *m_vtk;
    if (hasField()) {
        v.fieldMapper->SetInputData(m_field->polyData());
        v.edges->SetInputData(m_field->polyData());
        v.contours->SetInputData(m_field->polyData());
        contourBy(m_field->firstOf(false));
    }
    setLayers(m_layers);
}

void SceneCanvas::contourBy(const QString& array)
{
    auto& v = *m_vtk;
    const QByteArray name = array.toUtf8();
    vtkDataArray* values = m_field->polyData()->GetPointData()->GetArray(name.constData());
    if (!values)
        return;
    v.contours->SetInputArrayToProcess(0, 0, 0, vtkDataObject::FIELD_ASSOCIATION_POINTS,
                                       name.constData());
    double range[2] = {0, 1};
    values->GetRange(range);
    // What alternates keeps its levels over a period.
    if (const auto over = m_field->rangeOverPeriod(array)) {
        range[0] = over->first;
        range[1] = over->second;
    }
    constexpr int levels = 15;
    v.contours->SetNumberOfContours(levels);
    for (int i = 0; i < levels; ++i)
        v.contours->SetValue(i, range[0] + (range[1] - range[0]) * (i + 1) / (levels + 1));
}

void SceneCanvas::setStale(bool stale)
{
    m_stale = stale;
    m_vtk->field->GetProperty()->SetOpacity(stale ? 0.45 : 1.0);
    update();
}

void SceneCanvas::setLens(const Lens& lens, double low, double high, const QString& map)
{
    m_lens = lens;
    auto& v = *m_vtk;
    fillColours(colours(), lens, low, high, map);
    const QString array = colourArray(m_field.get(), lens);
    // Lines of the quantity that is looked at, where it is one that has them.
    if (const auto* own = m_field ? m_field->array(lens.array) : nullptr;
        own && !own->levels.isEmpty())
        contourBy(lens.array);
    v.fieldMapper->SelectColorArray(array.toUtf8().constData());
    hurry();
    update();
}

void SceneCanvas::setLayers(const Layers& layers)
{
    m_layers = layers;
    const bool field = hasField();
    m_vtk->field->SetVisibility(field && layers.colours);
    m_vtk->mesh->SetVisibility(field && layers.mesh);
    m_vtk->contour->SetVisibility(field && layers.potentialLines);
    update();
}

void SceneCanvas::setTool(Tool tool)
{
    FieldCanvas::setTool(tool);
    m_draft.clear();
    m_draftArcs.clear();
    m_arcStage = 0;
}

void SceneCanvas::setHighlight(std::set<int> faces, std::set<int> edges, int line)
{
    m_litFaces = std::move(faces);
    m_litEdges = std::move(edges);
    m_litLine = line;
    update();
}

void SceneCanvas::setHandles(const Handles& handles)
{
    if (m_dragging >= 0)
        return;
    m_handles = handles;
    update();
}

void SceneCanvas::setMarks(std::vector<QPointF> marks)
{
    m_marks = std::move(marks);
    update();
}

void SceneCanvas::setPins(std::vector<Pin> pins)
{
    m_pins = std::move(pins);
    update();
}

void SceneCanvas::dress(double ratio)
{
    auto& v = *m_vtk;
    const Theme& t = theme();
    const QColor mesh = m_layers.colours ? QColor(255, 255, 255) : t.muted;
    v.mesh->GetProperty()->SetColor(mesh.redF(), mesh.greenF(), mesh.blueF());
    v.mesh->GetProperty()->SetOpacity(m_layers.colours ? 0.35 : 0.8);
    const QColor contour = m_layers.colours ? QColor(255, 250, 240) : t.plum;
    v.contour->GetProperty()->SetColor(contour.redF(), contour.greenF(), contour.blueF());
    v.contour->GetProperty()->SetLineWidth(float(1.2 * ratio));
}

FieldCanvas::View SceneCanvas::view() const
{
    const double x = m_centre.x(), y = m_centre.y(),
                 distance = 10 * std::max(1e-9, m_scale * height());
    return {{x, y, distance}, {x, y, 0}, {0, 1, 0}, 0.5 * distance, 2 * distance};
}

int SceneCanvas::handleAt(QPointF w) const
{
    if (m_handles.line < 0 || m_tool != Tool::select)
        return -1;
    auto near = [&](QPointF world) {
        const QPointF d = toWidget(world) - w;
        return std::abs(d.x()) <= 7 && std::abs(d.y()) <= 7;
    };
    const bool sizable = m_handles.canSizeX || m_handles.canSizeY;
    if (sizable && near(m_handles.centre +
                        QPointF(m_handles.halfWidth, m_handles.disc ? 0 : m_handles.halfHeight)))
        return 1;
    if (m_handles.canMove && near(m_handles.centre))
        return 0;
    return -1;
}

int SceneCanvas::faceAt(QPointF world) const
{
    for (size_t i = 0; i < m_shape.faces.size(); ++i)
        if (!m_shape.faces[i].hidden && m_shape.faces[i].path.contains(world))
            return int(i);
    return -1;
}

int SceneCanvas::edgeAt(QPointF w) const
{
    constexpr double reach = 5;  // pixels
    int best = -1;
    double near = reach;
    for (size_t i = 0; i < m_shape.edges.size(); ++i) {
        const auto& e = m_shape.edges[i];
        if (e.hidden)
            continue;
        for (qsizetype k = 0; k + 1 < e.points.size(); ++k) {
            const QPointF a = toWidget(e.points[k]), d = toWidget(e.points[k + 1]) - a, q = w - a;
            const double l = QPointF::dotProduct(d, d),
                         s = l > 0 ? std::clamp(QPointF::dotProduct(q, d) / l, 0.0, 1.0) : 0.0;
            const QPointF off = q - s * d;
            if (const double dist = std::hypot(off.x(), off.y()); dist < near) {
                near = dist;
                best = int(i);
            }
        }
    }
    return best;
}

void SceneCanvas::mousePressEvent(QMouseEvent* e)
{
    setFocus();
    m_press = m_last = e->position();
    if (e->button() == Qt::MiddleButton ||
        (e->button() == Qt::LeftButton && (e->modifiers() & Qt::ShiftModifier))) {
        m_panning = true;
        return;
    }
    if (e->button() == Qt::RightButton) {
        if (!m_draft.isEmpty())
            finishPath();
        return;
    }
    if (e->button() != Qt::LeftButton)
        return;
    const QPointF world = snapped(toWorld(e->position()));
    switch (m_tool) {
        case Tool::select:
            m_dragging = handleAt(e->position());
            m_panning = m_dragging < 0;
            break;
        case Tool::box:  // for solids only
            return;
        case Tool::pin:
            Q_EMIT pinned(toWorld(e->position()));
            break;
        case Tool::rectangle:
        case Tool::disc:
        case Tool::profile:
            if (m_draft.isEmpty()) {
                m_draft << world;
            } else if (world != m_draft.first()) {
                const QVector<QPointF> points{m_draft.first(), world};
                m_draft.clear();
                Q_EMIT drawn(m_tool, points, {});
            }
            break;
        case Tool::path:
        case Tool::thinLine:
            if (m_draft.size() > 2 && m_tool == Tool::path && world == m_draft.first()) {
                if (m_arcStage == 2) {
                    m_draft << world;
                    m_draftArcs << int(m_draft.size()) - 1;
                    m_arcStage = 0;
                }
                finishPath();
            } else if (m_draft.isEmpty() || world != m_draft.last()) {
                m_draft << world;
                // An arc takes two clicks: the point it goes through, then its end.
                if (m_arcStage == 1) {
                    m_arcStage = 2;
                } else if (m_arcStage == 2) {
                    m_draftArcs << int(m_draft.size()) - 1;
                    m_arcStage = 0;
                }
            }
            break;
    }
    update();
}

void SceneCanvas::finishPath()
{
    if (m_draft.size() >= (m_tool == Tool::path ? 3 : 2) && m_arcStage != 2) {
        const QVector<QPointF> points = m_draft;
        const QVector<int> arcs = m_draftArcs;
        m_draft.clear();
        m_draftArcs.clear();
        Q_EMIT drawn(m_tool, points, arcs);
    }
    m_draft.clear();
    m_draftArcs.clear();
    m_arcStage = 0;
    update();
}

void SceneCanvas::dragHandle()
{
    const QPointF world = snapped(toWorld(m_cursor));
    if (m_dragging == 0) {
        m_handles.centre = world;
    } else {
        const double w = std::abs(world.x() - m_handles.centre.x()),
                     h = std::abs(world.y() - m_handles.centre.y());
        if (m_handles.canSizeX && w > 0)
            m_handles.halfWidth = w;
        if (m_handles.canSizeY && h > 0)
            m_handles.halfHeight = h;
    }
    Q_EMIT handleDragged(m_handles.line, m_handles.centre, m_handles.halfWidth,
                         m_handles.halfHeight);
    update();
}

void SceneCanvas::mouseMoveEvent(QMouseEvent* e)
{
    m_cursor = e->position();
    if (m_dragging >= 0) {
        dragHandle();
        return;
    }
    if (m_panning) {
        const QPointF d = m_cursor - m_last;
        m_moved = m_moved || !d.isNull();
        m_centre += QPointF(-d.x() * m_scale, d.y() * m_scale);
        hurry();
        m_last = m_cursor;
        update();
        return;
    }
    const QPointF world = toWorld(m_cursor);
    const int face = faceAt(world), edge = edgeAt(m_cursor);
    if (m_tool == Tool::select)
        setCursor(handleAt(m_cursor) >= 0  ? Qt::SizeAllCursor
                  : edge >= 0 || face >= 0 ? Qt::PointingHandCursor
                                           : Qt::ArrowCursor);
    if (face != m_hoverFace || edge != m_hoverEdge || m_tool != Tool::select) {
        m_hoverFace = edge >= 0 ? -1 : face;
        m_hoverEdge = edge;
        update();
    }
    Q_EMIT hovered(world, edge >= 0   ? m_shape.edges[size_t(edge)].rule
                          : face >= 0 ? m_shape.faces[size_t(face)].name
                                      : QString());
}

void SceneCanvas::mouseReleaseEvent(QMouseEvent* e)
{
    const bool click = (e->position() - m_press).manhattanLength() < 4;
    const bool wasDragging = m_dragging >= 0;
    m_panning = false;
    m_dragging = -1;
    if (e->button() != Qt::LeftButton || !click || wasDragging || m_tool != Tool::select ||
        (e->modifiers() & Qt::ShiftModifier))
        return;
    const int edge = edgeAt(e->position()), face = faceAt(toWorld(e->position()));
    if (edge >= 0)
        Q_EMIT edgeClicked(edge, e->globalPosition().toPoint());
    else if (face >= 0)
        Q_EMIT regionClicked(face, e->globalPosition().toPoint());
    else
        Q_EMIT emptyClicked();
}

void SceneCanvas::mouseDoubleClickEvent(QMouseEvent* e)
{
    if (m_tool == Tool::path || m_tool == Tool::thinLine)
        finishPath();
    else if (m_tool == Tool::select && faceAt(toWorld(e->position())) < 0)
        fit();
}

void SceneCanvas::zoomBy(double factor, QPointF at)
{
    m_moved = true;
    const QPointF before = toWorld(at);
    const double size = std::max(m_shape.box.width(), m_shape.box.height());
    const double least = size > 0 ? 1e-8 * size : 1e-12, most = size > 0 ? size : 10;
    m_scale = std::clamp(m_scale / factor, least, most);
    m_centre += before - toWorld(at);
    hurry();
    update();
}

void SceneCanvas::wheelEvent(QWheelEvent* e)
{
    zoomBy(std::pow(1.0015, e->angleDelta().y()), e->position());
}

void SceneCanvas::keyPressEvent(QKeyEvent* e)
{
    constexpr double step = 40;  // pixels
    if (e->key() == Qt::Key_Escape) {
        if (m_draft.isEmpty())
            Q_EMIT emptyClicked();
        setTool(m_draft.isEmpty() ? Tool::select : m_tool);
    } else if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) {
        finishPath();
    } else if (e->key() == Qt::Key_A && !m_draft.isEmpty()) {
        m_arcStage = 1;
        update();
    } else if (e->key() == Qt::Key_Plus || e->key() == Qt::Key_Minus) {
        zoomBy(e->key() == Qt::Key_Plus ? 1.25 : 0.8, QPointF(width() / 2.0, height() / 2.0));
    } else if (e->key() == Qt::Key_Left || e->key() == Qt::Key_Right) {
        m_centre.rx() += (e->key() == Qt::Key_Left ? -step : step) * m_scale;
        update();
    } else if (e->key() == Qt::Key_Up || e->key() == Qt::Key_Down) {
        m_centre.ry() += (e->key() == Qt::Key_Up ? step : -step) * m_scale;
        update();
    } else if (e->key() == Qt::Key_Home) {
        fit();
    } else {
        QOpenGLWidget::keyPressEvent(e);
    }
}

void SceneCanvas::leaveEvent(QEvent* e)
{
    m_hoverFace = m_hoverEdge = -1;
    update();
    FieldCanvas::leaveEvent(e);
}

}  // namespace yh::app
