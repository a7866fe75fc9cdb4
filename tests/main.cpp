#include "program.h"

#include <QCoreApplication>

int main(int argc, char** argv)
{
    const QCoreApplication app(argc, argv);
    return yh::test::runNamed(argc, argv);
}
