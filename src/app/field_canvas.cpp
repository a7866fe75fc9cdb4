#include "app/field_canvas.h"

#include "app/overlay.h"
#include "app/theme.h"

#include <vtkCamera.h>
#include <vtkGenericOpenGLRenderWindow.h>
#include <vtkLookupTable.h>
#include <vtkNew.h>
#include <vtkPolyDataMapper.h>
#include <vtkRenderer.h>

#include <QFontMetrics>
#include <QPainter>
#include <QTimer>
#include <algorithm>

namespace yh::app {

struct FieldCanvas::Picture
{
    vtkNew<vtkGenericOpenGLRenderWindow> window;
    vtkNew<vtkRenderer> renderer;
    vtkNew<vtkLookupTable> colours;
};

FieldCanvas::FieldCanvas(QWidget* parent, const QString& name, const QString& title)
    : QOpenGLWidget(parent), m_picture(std::make_unique<Picture>())
{
    setObjectName(name);
    setAccessibleName(title);
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setMinimumSize(200, 160);
    m_overlay = new SceneOverlay(this, [this](QPainter& p) { paintOverlay(p); });
    Picture& v = *m_picture;
    v.window->SetOwnContext(false);
    v.window->SetMultiSamples(0);
    // Qt makes its context current before every call that paints.
    v.window->SetIsCurrent(true);
    v.window->AddRenderer(v.renderer);
    // A background that lets the window below shine through would change its colour.
    v.renderer->SetBackgroundAlpha(1.0);
    v.renderer->GetActiveCamera()->ParallelProjectionOn();
}

FieldCanvas::~FieldCanvas() = default;

void FieldCanvas::finalise()
{
    m_picture->window->Finalize();
}

vtkRenderer* FieldCanvas::renderer() const
{
    return m_picture->renderer;
}

vtkLookupTable* FieldCanvas::colours() const
{
    return m_picture->colours;
}

void FieldCanvas::setTool(Tool tool)
{
    m_tool = tool;
    setCursor(tool == Tool::select ? Qt::ArrowCursor : Qt::CrossCursor);
    update();
}

void FieldCanvas::setNamed(std::vector<NamedPlace> places)
{
    m_named = std::move(places);
    update();
}

void FieldCanvas::paintNames(QPainter& painter) const
{
    if (!m_layers.names)
        return;
    const Theme& t = theme();
    painter.setFont(textFont(8.5, QFont::DemiBold));
    const QFontMetrics fm(painter.font());
    std::vector<QRectF> taken;
    for (const NamedPlace& place : m_named) {
        const auto at = middleOf(place);
        if (!at || !QRectF(rect()).contains(*at))
            continue;
        QRectF box(at->x() + 7, at->y() - fm.height() - 5, fm.horizontalAdvance(place.name) + 10,
                   fm.height() + 2);
        box.moveRight(std::min(box.right(), width() - 4.0));
        box.moveTop(std::max(box.top(), 4.0));
        for (const QRectF& other : taken)
            if (box.intersects(other))
                box.moveTop(other.bottom() + 2);
        taken.push_back(box);
        painter.setPen(QPen(t.sheet, 1.4));
        painter.setBrush(t.plum);
        painter.drawEllipse(*at, 3, 3);
        QColor back = t.sheet;
        back.setAlphaF(0.88f);
        painter.setPen(Qt::NoPen);
        painter.setBrush(back);
        painter.drawRoundedRect(box, 4, 4);
        painter.setPen(t.plum);
        painter.drawText(box, Qt::AlignCenter, place.name);
    }
}

void FieldCanvas::hurry()
{
    if (!hasField() || m_field->coarse() == m_field->polyData() || !isPlain())
        return;
    if (!m_rest) {
        m_rest = new QTimer(this);
        m_rest->setSingleShot(true);
        connect(m_rest, &QTimer::timeout, this, &FieldCanvas::rest);
    }
    constexpr int moment = 250;  // ms
    m_rest->start(moment);
    surface().SetInputData(m_field->coarse());
}

void FieldCanvas::rest()
{
    if (hasField())
        surface().SetInputData(m_field->polyData());
    update();
}

void FieldCanvas::initializeGL()
{
    m_picture->window->SetReadyForRendering(true);
    m_picture->window->SetForceMaximumHardwareLineWidth(1);
    m_picture->window->OpenGLInitContext();
}

void FieldCanvas::paintGL()
{
    Picture& v = *m_picture;
    const QColor& paper = theme().scene;
    const double ratio = devicePixelRatioF();
    v.window->SetSize(int(width() * ratio), int(height() * ratio));
    v.window->OpenGLInitState();
    v.window->MakeCurrent();
    v.window->SetFrameBlitModeToBlitToCurrent();
    v.renderer->SetBackground(paper.redF(), paper.greenF(), paper.blueF());
    dress(ratio);
    const View from = view();
    vtkCamera* c = v.renderer->GetActiveCamera();
    c->SetFocalPoint(from.at.data());
    c->SetPosition(from.eye.data());
    c->SetViewUp(from.up.data());
    c->SetParallelScale(0.5 * height() * m_scale);
    c->SetClippingRange(from.nearest, from.farthest);
    v.window->Render();
    m_overlay->update();
}

void FieldCanvas::resizeEvent(QResizeEvent* e)
{
    QOpenGLWidget::resizeEvent(e);
    m_overlay->resize(size());
    // Until somebody moves the view it shows the whole, whatever the panels do to its size.
    if (!m_moved)
        fit();
}

void FieldCanvas::leaveEvent(QEvent* event)
{
    QOpenGLWidget::leaveEvent(event);
    Q_EMIT left();
}

}  // namespace yh::app
