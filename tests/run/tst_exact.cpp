// Figures and error bars against exact answers.
#include "exact_problems.h"

#include <QtTest/QtTest>

#include <algorithm>

using namespace yh;
using namespace yh::test;

class TstExact : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void figuresAndErrorBars_data();
    void figuresAndErrorBars();
    void finest();
};

void TstExact::figuresAndErrorBars_data()
{
    QTest::addColumn<QString>("within");
    QTest::addColumn<double>("bound");
    QTest::newRow("default accuracy") << "0.1 %" << 1e-3;
    QTest::newRow("one in ten thousand") << "0.01 %" << 1e-4;
}

void TstExact::figuresAndErrorBars()
{
    QFETCH(QString, within);
    QFETCH(double, bound);
    int covered = 0, count = 0;
    std::vector<double> ratios;
    std::printf("%-42s %14s %10s %10s %7s %6s %8s\n", "problem", "value", "deviation", "stated",
                "ratio", "passes", "unknowns");
    for (const Exact& e : exactProblems()) {
        run::Report report;
        const run::Finding f = solveOne(e.sheet, within.toStdString(), &report);
        QVERIFY2(!f.value.empty(), (e.name + ": " + f.note).c_str());
        const double off = std::abs(f.value[0] - e.value) / std::abs(e.value),
                     stated = f.error[0] / std::abs(e.value);
        std::printf("%-42s %14.7e %10.1e %10.1e %7.1f %6zu %8d\n", e.name.c_str(), f.value[0], off,
                    stated, stated / off, report.passes.size(), report.passes.back().unknowns);
        std::fflush(stdout);
        ++count;
        covered += off <= stated;
        ratios.push_back(stated / off);
        QVERIFY2(off < bound, (e.name + " is off by " + std::to_string(off)).c_str());
        QVERIFY2(f.met, (e.name + " does not reach the accuracy asked for").c_str());
    }
    std::sort(ratios.begin(), ratios.end());
    const double median = ratios[ratios.size() / 2];
    std::printf("truth within the stated error: %d of %d; median of stated over true: %.1f\n",
                covered, count, median);
    QVERIFY(count >= 20);
    QVERIFY2(10 * covered >= 9 * count, "the truth lies outside the stated error too often");
    QVERIFY2(median <= 20, "the stated errors are too cautious");
}

void TstExact::finest()
{
    for (const Exact& e : exactProblems()) {
        if (e.name.find("capacit") == std::string::npos && e.sheet.first("capacitance") == nullptr)
            continue;
        const run::Finding f = solveOne(e.sheet, "0.00005 %");
        QVERIFY2(!f.value.empty(), (e.name + ": " + f.note).c_str());
        const double off = std::abs(f.value[0] - e.value) / std::abs(e.value);
        std::printf("%-42s %10.1e %10.1e\n", e.name.c_str(), off, f.error[0] / std::abs(e.value));
        std::fflush(stdout);
        QVERIFY2(off < 1e-6, (e.name + " is off by " + std::to_string(off)).c_str());
    }
}

QTEST_GUILESS_MAIN(TstExact)
#include "tst_exact.moc"
