// Figures of sheets with exact answers, solved and compared with their stated errors.
#pragma once

#include "changed.h"
#include "solved.h"
#include "validation_table.h"

#include <optional>
#include <vector>

namespace yh::test {

struct ExactFigure
{
    const char* name;
    sheet::Document sheet;
    const char* finding;
    double truth;
};

/// Fails the test where a figure is off by more than a share, or where fewer than nine in ten lie
/// within their errors; writes their table. Figures of one sheet that stand one after the other are
/// of one solution.
inline void checkExact(const std::vector<ExactFigure>& list, double tolerance,
                       const QString& heading)
{
    Coverage coverage;
    std::optional<sheet::Document> last;
    run::Result r;
    for (const ExactFigure& e : list) {
        if (!last || !(*last == e.sheet))
            r = solved(e.sheet);
        last = e.sheet;
        const double value = valueOf(r, e.finding),
                     off = coverage.take(e.name, e.truth, value, errorOf(r, e.finding));
        QVERIFY2(
            off < tolerance * std::abs(e.truth),
            qPrintable(QString("%1: %2, not %3").arg(e.name).arg(value, 0, 'g', 10).arg(e.truth)));
    }
    QVERIFY2(coverage.isEnough(), qPrintable(coverage.text()));
    QVERIFY(rewriteTable(heading, coverage.rows));
}

}  // namespace yh::test
