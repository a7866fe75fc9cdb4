// Tables of sheets with one thing wrong, and the fault that each must meet.
#pragma once

#include "changed.h"

#include <QtTest/QtTest>

namespace yh::test {

/// A row: what is changed in a sheet, as changed() does it, and the fault's number.
struct Wrong
{
    int fault = 0;
    QString kind, slot, value;
};

/// The rows of a test's data function.
inline void addWrongs(std::initializer_list<std::pair<const char*, Wrong>> rows)
{
    QTest::addColumn<int>("fault");
    QTest::addColumn<QString>("kind");
    QTest::addColumn<QString>("slot");
    QTest::addColumn<QString>("value");
    for (const auto& [name, w] : rows)
        QTest::newRow(name) << w.fault << w.kind << w.slot << w.value;
}

/// The row that a test function is called for.
inline Wrong fetchWrong()
{
    QFETCH(int, fault);
    QFETCH(QString, kind);
    QFETCH(QString, slot);
    QFETCH(QString, value);
    return {fault, kind, slot, value};
}

}  // namespace yh::test
