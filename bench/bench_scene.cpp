// How fast the scene turns and recolours a large field, and how fast the window opens and reacts.
#include "app/main_window.h"
#include "app/scene_canvas.h"
#include "app/solid_canvas.h"
#include "app/theme.h"

#include <vtkCellArray.h>
#include <vtkCellData.h>
#include <vtkFloatArray.h>
#include <vtkIntArray.h>
#include <vtkNew.h>
#include <vtkPointData.h>
#include <vtkPoints.h>
#include <vtkPolyData.h>
#include <vtkUnstructuredGrid.h>
#include <vtkXMLUnstructuredGridWriter.h>

#include <QApplication>
#include <QElapsedTimer>
#include <QKeyEvent>
#include <QSurfaceFormat>
#include <QTemporaryDir>
#include <QThread>
#include <QWindow>
#include <cmath>
#include <cstdio>

using namespace yh::app;

namespace {

/// A square of n x n x 2 triangles with a smooth field, as a result file.
QString largeField(const QTemporaryDir& dir, int n)
{
    vtkNew<vtkPoints> points;
    vtkNew<vtkFloatArray> V, E, D, w;
    vtkNew<vtkCellArray> cells;
    vtkNew<vtkIntArray> face;
    V->SetName("V");
    E->SetName("E");
    D->SetName("D");
    w->SetName("energy density");
    face->SetName("face");
    E->SetNumberOfComponents(3);
    D->SetNumberOfComponents(3);
    for (int j = 0; j <= n; ++j)
        for (int i = 0; i <= n; ++i) {
            const double x = 1e-3 * i / n, y = 1e-3 * j / n;
            points->InsertNextPoint(x, y, 0);
            V->InsertNextValue(float(std::sin(9e3 * x) * std::cos(7e3 * y)));
            E->InsertNextTuple3(9e3 * std::cos(9e3 * x) * std::cos(7e3 * y),
                                -7e3 * std::sin(9e3 * x) * std::sin(7e3 * y), 0);
            D->InsertNextTuple3(0, 0, 0);
            w->InsertNextValue(0);
        }
    for (int j = 0; j < n; ++j)
        for (int i = 0; i < n; ++i) {
            const vtkIdType a = j * (n + 1) + i;
            const vtkIdType t1[3] = {a, a + 1, a + n + 2}, t2[3] = {a, a + n + 2, a + n + 1};
            cells->InsertNextCell(3, t1);
            cells->InsertNextCell(3, t2);
            face->InsertNextValue(0);
            face->InsertNextValue(0);
        }
    vtkNew<vtkUnstructuredGrid> grid;
    grid->SetPoints(points);
    grid->SetCells(VTK_TRIANGLE, cells);
    for (vtkFloatArray* a : {V.Get(), E.Get(), D.Get(), w.Get()})
        grid->GetPointData()->AddArray(a);
    grid->GetCellData()->AddArray(face);
    const QString path = dir.filePath(QStringLiteral("large.vtu"));
    vtkNew<vtkXMLUnstructuredGridWriter> writer;
    writer->SetFileName(path.toLocal8Bit().constData());
    writer->SetInputData(grid);
    writer->SetCompressorTypeToNone();
    writer->Write();
    return path;
}

/// A slab of n x n cubes in six tetrahedra each, coloured by T: 4 n (n + 2) triangles of surface.
QString largeSolid(const QTemporaryDir& dir, int n)
{
    vtkNew<vtkPoints> points;
    vtkNew<vtkFloatArray> T;
    vtkNew<vtkCellArray> cells;
    vtkNew<vtkIntArray> face;
    T->SetName("T");
    face->SetName("face");
    for (int k = 0; k < 2; ++k)
        for (int j = 0; j <= n; ++j)
            for (int i = 0; i <= n; ++i) {
                const double x = 1e-3 * i / n, y = 1e-3 * j / n;
                points->InsertNextPoint(x, y, 1e-4 * k);
                T->InsertNextValue(float(300 + 10 * std::sin(9e3 * x) * std::cos(7e3 * y)));
            }
    constexpr int orders[6][3] = {{0, 1, 2}, {1, 2, 0}, {2, 0, 1}, {0, 2, 1}, {1, 0, 2}, {2, 1, 0}};
    const vtkIdType step[3] = {1, n + 1, vtkIdType(n + 1) * (n + 1)};
    for (int j = 0; j < n; ++j)
        for (int i = 0; i < n; ++i)
            for (int w = 0; w < 6; ++w) {
                vtkIdType c[4] = {vtkIdType(j) * (n + 1) + i};
                for (int a = 0; a < 3; ++a)
                    c[a + 1] = c[a] + step[orders[w][a]];
                if (w > 2)
                    std::swap(c[2], c[3]);
                cells->InsertNextCell(4, c);
                face->InsertNextValue(0);
            }
    vtkNew<vtkUnstructuredGrid> grid;
    grid->SetPoints(points);
    grid->SetCells(VTK_TETRA, cells);
    grid->GetPointData()->AddArray(T);
    grid->GetCellData()->AddArray(face);
    const QString path = dir.filePath(QStringLiteral("solid.vtu"));
    vtkNew<vtkXMLUnstructuredGridWriter> writer;
    writer->SetFileName(path.toLocal8Bit().constData());
    writer->SetInputData(grid);
    writer->SetCompressorTypeToNone();
    writer->Write();
    return path;
}

/// Turning and recolouring a solid.
void solidScene(const QTemporaryDir& dir, int n)
{
    auto field = std::make_shared<FieldData>();
    if (const QString failed = field->load(largeSolid(dir, n)); !failed.isEmpty()) {
        std::fprintf(stderr, "%s\n", qPrintable(failed));
        return;
    }
    SolidCanvas canvas;
    canvas.resize(632, 500);
    canvas.show();
    SolidShape shape;
    shape.solids.push_back({QStringLiteral("slab")});
    shape.high = {1e-3, 1e-3, 1e-4};
    canvas.setShape(shape);
    Layers layers;
    layers.potentialLines = false;
    canvas.setLayers(layers);
    canvas.setField(field);
    canvas.setLens({QStringLiteral("T"), -1}, 290, 310, QStringLiteral("blossom"));
    canvas.setView(QStringLiteral("corner"));
    static_cast<void>(canvas.grabFramebuffer());
    const int frames = 20;
    QElapsedTimer clock;
    clock.start();
    for (int i = 0; i < frames; ++i) {
        QKeyEvent key(QEvent::KeyPress, Qt::Key_Left, {});
        QCoreApplication::sendEvent(&canvas, &key);
        static_cast<void>(canvas.grabFramebuffer());
    }
    const double turning = 1e3 * frames / double(clock.elapsed());
    clock.restart();
    for (int i = 0; i < frames; ++i) {
        canvas.setLens({QStringLiteral("T"), -1}, 290 - i, 310, QStringLiteral("blossom"));
        static_cast<void>(canvas.grabFramebuffer());
    }
    std::printf("solid of %d triangles: turning %.1f, recolouring %.1f frames a second\n",
                int(field->polyData()->GetNumberOfPolys()), turning,
                1e3 * frames / double(clock.elapsed()));
}

}  // namespace

int main(int argc, char** argv)
{
    QSurfaceFormat format;
    format.setVersion(3, 2);
    format.setProfile(QSurfaceFormat::CoreProfile);
    QSurfaceFormat::setDefaultFormat(format);
    QElapsedTimer clock;
    clock.start();
    QApplication app(argc, argv);
    QApplication::setApplicationName(QStringLiteral("yellowhorn-bench"));
    MainWindow window;
    window.show();
    while (!window.windowHandle() || !window.windowHandle()->isExposed())
        QCoreApplication::processEvents();
    QCoreApplication::processEvents();
    std::printf("window opens: %lld ms\n", static_cast<long long>(clock.elapsed()));

    const int n = argc > 1 ? std::atoi(argv[1]) : 708;
    const QTemporaryDir dir;
    auto field = std::make_shared<FieldData>();
    if (const QString failed = field->load(largeField(dir, n)); !failed.isEmpty()) {
        std::fprintf(stderr, "%s\n", qPrintable(failed));
        return 1;
    }
    SceneCanvas canvas;
    canvas.resize(632, 500);
    canvas.show();
    SceneShape shape;
    SceneShape::Face face;
    face.path.addRect(0, 0, 1e-3, 1e-3);
    shape.box = face.path.boundingRect();
    shape.faces.push_back(face);
    canvas.setShape(shape);
    canvas.setField(field, {});
    Layers layers;
    layers.potentialLines = false;
    canvas.setLayers(layers);
    canvas.setLens({QStringLiteral("E"), -1}, 0, 9e3, QStringLiteral("blossom"));
    static_cast<void>(canvas.grabFramebuffer());
    const int frames = 20;
    clock.restart();
    for (int i = 0; i < frames; ++i) {
        canvas.zoomBy(i % 2 ? 1.1 : 1 / 1.1, QPointF(300 + i, 200));
        static_cast<void>(canvas.grabFramebuffer());
    }
    std::printf("%d triangles, moving: %.1f frames a second\n", 2 * n * n,
                1e3 * frames / double(clock.elapsed()));
    clock.restart();
    for (int i = 0; i < frames; ++i) {
        canvas.setLens({QStringLiteral("E"), -1}, 100 * i, 9e3, QStringLiteral("blossom"));
        static_cast<void>(canvas.grabFramebuffer());
    }
    std::printf("%d triangles, recolouring: %.1f frames a second\n", 2 * n * n,
                1e3 * frames / double(clock.elapsed()));

    solidScene(dir, n / 2);

    if (argc > 2) {
        // Longest pause of the event loop while a sheet is solved in the other process.
        window.openFile(QString::fromLocal8Bit(argv[2]));
        bool ended = false;
        QObject::connect(&window, &MainWindow::solveEnded, &window, [&] { ended = true; });
        QObject::connect(
            &window, &MainWindow::shapeShown, &window, [&] { window.solve(); },
            Qt::SingleShotConnection);
        qint64 longest = 0;
        QElapsedTimer step;
        while (!ended) {
            step.start();
            QCoreApplication::processEvents();
            longest = window.isSolving() ? std::max(longest, step.elapsed()) : longest;
            QThread::usleep(500);
        }
        std::printf("longest pause while solving: %lld ms\n", static_cast<long long>(longest));
    }
    return 0;
}
