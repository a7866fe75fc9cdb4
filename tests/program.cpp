#include "program.h"

#include <QtTest/QTest>

#include <QFileInfo>
#include <map>
#include <memory>

namespace yh::test {

namespace {

std::map<QString, std::function<QObject*()>>& classes()
{
    static std::map<QString, std::function<QObject*()>> list;
    return list;
}

}  // namespace

Listed::Listed(const char* file, std::function<QObject*()> make)
{
    classes()[QFileInfo(QString::fromUtf8(file)).completeBaseName()] = std::move(make);
}

int runNamed(int argc, char** argv)
{
    const QString name = QFileInfo(QString::fromLocal8Bit(argv[0])).fileName();
    const auto found = classes().find(name);
    if (found == classes().end()) {
        qCritical("no class of tests is called %s", qPrintable(name));
        return 127;
    }
    const std::unique_ptr<QObject> test(found->second());
    return QTest::qExec(test.get(), argc, argv);
}

}  // namespace yh::test
