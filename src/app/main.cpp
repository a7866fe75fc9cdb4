// yellowhorn: the application.
#include "app/drawer.h"
#include "app/main_window.h"
#include "app/scene_panel.h"
#include "app/theme.h"

#include <QApplication>
#include <QCommandLineParser>
#include <QScreen>
#include <QSurfaceFormat>
#include <QTimer>
#include <csignal>
#include <cstdio>

using namespace Qt::Literals::StringLiterals;
using namespace yh::app;

int main(int argc, char** argv)
{
    // A limit on the size of files is an error of the write, with its message.
    std::signal(SIGXFSZ, SIG_IGN);
    QSurfaceFormat format;
    format.setVersion(3, 2);
    format.setProfile(QSurfaceFormat::CoreProfile);
    format.setDepthBufferSize(24);
    QSurfaceFormat::setDefaultFormat(format);
    QApplication app(argc, argv);
    QApplication::setApplicationName(u"yellowhorn"_s);
    QApplication::setOrganizationName(u"yellowhorn"_s);
    QApplication::setApplicationVersion(QStringLiteral(YH_VERSION));
    QCommandLineParser parser;
    parser.setApplicationDescription(u"Figures of devices, with their errors."_s);
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument(u"sheet"_s, u"A sheet (.yhn) to open."_s);
    const QCommandLineOption picture(
        u"picture"_s, u"Write a picture of the window, solved, to FILE and end."_s, u"FILE"_s),
        solve(u"solve"_s, u"Solve when opened."_s), dark(u"dark"_s, u"Dark theme."_s),
        lens(u"lens"_s, u"Quantity of the colours, for the picture."_s, u"NAME"_s),
        layers(u"layers"_s,
               u"Layers of the picture: equal, lines, arrows, mesh, pattern, with commas."_s,
               u"NAMES"_s);
    const QCommandLineOption page(
        u"page"_s, u"Page of the drawer in the picture: 0 curve to 4 modes."_s, u"page"_s);
    parser.addOptions({picture, solve, dark, lens, layers, page});
    parser.process(app);
    MainWindow window;
    if (parser.isSet(dark))
        window.setDark(true);
    window.show();
    if (!parser.positionalArguments().isEmpty())
        window.openFile(parser.positionalArguments().at(0));
    if (parser.isSet(solve) || (parser.isSet(picture) && window.results().isEmpty()))
        QObject::connect(
            &window, &MainWindow::shapeShown, &window, [&window] { window.solve(); },
            Qt::SingleShotConnection);
    if (parser.isSet(lens))
        window.scenePanel()->setLens(parser.value(lens));
    if (parser.isSet(picture)) {
        auto shoot = [&] {
            if (parser.isSet(layers)) {
                const QStringList names = parser.value(layers).split(u',');
                Layers shown;
                shown.potentialLines = names.contains(u"equal"_s);
                shown.fieldLines = names.contains(u"lines"_s);
                shown.arrows = names.contains(u"arrows"_s);
                shown.mesh = names.contains(u"mesh"_s);
                shown.pattern = names.contains(u"pattern"_s);
                // Once the shape is there, which decides between drawing and solid.
                QTimer::singleShot(1100, &window,
                                   [&window, shown] { window.scenePanel()->setLayers(shown); });
            }
            if (parser.isSet(page))
                window.drawer()->showTab(parser.value(page).toInt());
            QTimer::singleShot(1500, &window, [&] {
                // From the screen, so that the picture shows what a person sees.
                const bool good =
                    window.screen()->grabWindow(window.winId()).save(parser.value(picture));
                if (!good)
                    std::fprintf(stderr, "the picture cannot be written\n");
                QCoreApplication::exit(good ? 0 : 1);
            });
        };
        if (parser.positionalArguments().isEmpty() || !window.results().isEmpty())
            shoot();
        else
            QObject::connect(&window, &MainWindow::solveEnded, &window, shoot);
    }
    return QApplication::exec();
}
