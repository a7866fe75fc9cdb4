#include "window_test.h"

int main(int argc, char** argv)
{
    prepareApplication();
    const QApplication app(argc, argv);
    if (argc > 1 && QByteArray(argv[1]) == "--victim") {
        QStandardPaths::setTestModeEnabled(true);
        MainWindow w;
        w.show();
        w.newSheet("capacitance");
        w.session()->change([](sheet::Document& d) {
            d.add("parameter", {{"name", "saved_from_death"}, {"value", "1 mm"}});
        });
        return QApplication::exec();
    }
    return yh::test::runNamed(argc, argv);
}
