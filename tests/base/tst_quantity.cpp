// Units, dimensions and how quantities are written.
#include "program.h"

#include "base/expression.h"
#include "base/fault.h"
#include "base/quantity.h"
#include "base/table.h"

#include <QtTest/QtTest>

#include <cmath>

namespace tst_quantity {

using namespace yh::base;

class TstQuantity : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void units_data();
    void units();
    void levelsAndTemperatures();
    void unknownUnits();
    void powers();
    void formats_data();
    void formats();
    void errorsGetTwoDigits();
    void tableStaysBetweenItsPoints();
    void tableMeetsSmoothFunction();
    void brokenTables();
    void unitsToReadIn();
};

void TstQuantity::units_data()
{
    QTest::addColumn<QString>("symbol");
    QTest::addColumn<double>("factor");
    // Factors: The International System of Units (SI brochure), 9th ed., tables 4, 7 and 8.
    QTest::newRow("micrometre") << "um" << 1e-6;
    QTest::newRow("micro sign") << "µm" << 1e-6;
    QTest::newRow("greek mu") << "μm" << 1e-6;
    QTest::newRow("milli, not minute") << "mm" << 1e-3;
    QTest::newRow("minute, not milli-inch") << "min" << 60.0;
    QTest::newRow("pascal, not peta-ampere") << "Pa" << 1.0;
    QTest::newRow("kilovolt") << "kV" << 1e3;
    QTest::newRow("gram") << "g" << 1e-3;
    QTest::newRow("percent") << "%" << 1e-2;
    QTest::newRow("inch") << "in" << 0.0254;
    QTest::newRow("electronvolt") << "eV" << 1.602176634e-19;
    QTest::newRow("degree of angle") << "deg" << 3.14159265358979323846 / 180;
}

void TstQuantity::units()
{
    QFETCH(QString, symbol);
    QFETCH(double, factor);
    const auto u = findUnit(symbol.toStdString());
    QVERIFY(u.has_value());
    QVERIFY(std::abs(u->factor / factor - 1) < 1e-14);
}

void TstQuantity::levelsAndTemperatures()
{
    QVERIFY(std::abs(findUnit("dB")->apply(20).value - 10.0) < 1e-12);  // ratio of amplitudes
    QVERIFY(std::abs(findUnit("dBm")->apply(30).value - 1.0) < 1e-12);  // 1 W
    QVERIFY(std::abs(findUnit("degC")->apply(25).value - 298.15) < 1e-10);
    QVERIFY(std::abs(findUnit("degF")->apply(212).value - 373.15) < 1e-10);
}

void TstQuantity::unknownUnits()
{
    for (const char* s : {"", "mmm", "kin", "kmin", "Vm", "u", "xyz"})
        QVERIFY2(!findUnit(s).has_value(), s);
}

void TstQuantity::powers()
{
    QVERIFY(*power(dim::area, 0.5) == dim::length);
    // Areas have units of their own size.
    QCOMPARE(format(9.18e-13, dim::area), std::string("0.918 µm^2"));
    QCOMPARE(format(2.5e-6, dim::area), std::string("2.5 mm^2"));
    QCOMPARE(format(1.2, dim::area), std::string("1.2 m^2"));
    QVERIFY(dimensionOf("1/m") == dim::none / dim::length);
    QVERIFY(dimensionOf("m^2") == dim::area && dimensionOf("") == dim::none);
    QVERIFY(*power(dim::length, 3) == dim::length * dim::area);
    QVERIFY(*power(dim::area, 1.0 / 3.0) == Dimension{{8}});
    QVERIFY(!power(dim::length, 0.1).has_value());
    QVERIFY(dim::voltage / dim::length == dim::electricField);
    QVERIFY(dim::capacitance * dim::voltage == dim::charge);
}

void TstQuantity::formats_data()
{
    QTest::addColumn<double>("value");
    QTest::addColumn<int>("kind");  // 0 length, 1 capacitance, 2 voltage, 3 none
    QTest::addColumn<QString>("text");
    QTest::newRow("micro") << 120e-6 << 0 << "120 µm";
    QTest::newRow("rounds up a prefix") << 999.99e-6 << 0 << "1 mm";
    QTest::newRow("pico") << 4.173e-11 << 1 << "41.73 pF";
    QTest::newRow("kilo") << 12000.0 << 2 << "12 kV";
    QTest::newRow("no kilometres") << 2500.0 << 0 << "2500 m";
    QTest::newRow("zero") << 0.0 << 0 << "0 m";
    QTest::newRow("negative") << -0.25e-3 << 0 << "-250 µm";
    QTest::newRow("plain") << 74.0 << 3 << "74";
    QTest::newRow("large plain") << 1.5e9 << 3 << "1.500e+09";
}

void TstQuantity::formats()
{
    QFETCH(double, value);
    QFETCH(int, kind);
    QFETCH(QString, text);
    const Dimension d[] = {dim::length, dim::capacitance, dim::voltage, dim::none};
    QCOMPARE(QString::fromStdString(format(value, d[kind])), text);
}

void TstQuantity::errorsGetTwoDigits()
{
    const auto a = formatWithError(41.7312e-12, 0.11e-12, dim::capacitance);
    QCOMPARE(a.value, std::string("41.73"));
    QCOMPARE(a.error, std::string("0.11"));
    QCOMPARE(a.unit, std::string("pF"));
    const auto b = formatWithError(22.6e3, 1.9e3, dim::electricField);
    QCOMPARE(b.value + " " + b.error + " " + b.unit, std::string("22.6 1.9 kV/m"));
    QVERIFY(formatWithError(1, 0, dim::voltage).error.empty());
    // Digits that nobody reads are left out.
    // What is small beside its error reads as nothing.
    for (const double value : {3.9e-7, -3.9e-7}) {
        const auto none = formatWithError(value, 2.5e-4, dim::none);
        QCOMPARE(QString::fromStdString(none.value), QString("0.00000"));
        QCOMPARE(QString::fromStdString(none.error), QString("0.00025"));
    }
    const auto c = formatWithError(295.6804442847, 2e-10, dim::temperature);
    QCOMPARE(c.value, std::string("295.68044"));
    QCOMPARE(c.error, std::string("2.0e-10"));
    QCOMPARE(formatNumber(std::nan(""), 3), std::string("not a number"));
}

void TstQuantity::tableStaysBetweenItsPoints()
{
    // The data of Fritsch and Carlson, SIAM J. Numer. Anal. 17 (1980) 238, table 1 (from memory).
    const Table t(
        {7.99, 8.09, 8.19, 8.7, 9.2, 10, 12, 15, 20},
        {0, 2.76429e-5, 4.37498e-2, 0.169183, 0.469428, 0.943740, 0.998636, 0.999919, 0.999994});
    double before = -1;
    for (double x = 7.99; x <= 20; x += 0.003) {
        const double y = t.value(x);
        QVERIFY2(y >= before - 1e-15 && y <= 1.0, qPrintable(QString::number(x)));
        before = y;
    }
    QVERIFY(t.inRange(8) && !t.inRange(20.1));
}

void TstQuantity::tableMeetsSmoothFunction()
{
    std::vector<double> x, y;
    for (int i = 0; i <= 40; ++i) {
        x.push_back(0.05 * i);
        y.push_back(std::exp(x.back()));
    }
    const Table t(x, y);
    for (double p = 0.2; p < 1.8; p += 0.037) {
        QVERIFY(std::abs(t.value(p) - std::exp(p)) < 2e-4 * std::exp(p));
        // The slope is that of the curve itself.
        const double h = 1e-6, numeric = (t.value(p + h) - t.value(p - h)) / (2 * h);
        QVERIFY(std::abs(t.slope(p) - numeric) < 1e-6 * std::exp(p));
    }
    QCOMPARE(Table({1}, {5}).value(3), 5.0);
}

void TstQuantity::brokenTables()
{
    QVERIFY_EXCEPTION_THROWN(Table({1, 2}, {1}), Error);
    QVERIFY_EXCEPTION_THROWN(Table({1, 1}, {1, 2}), Error);
    QVERIFY_EXCEPTION_THROWN(Table({1, 2}, {1, std::nan("")}), Error);
    QVERIFY_EXCEPTION_THROWN(Table({}, {}), Error);
}

void TstQuantity::unitsToReadIn()
{
    // Every unit offered for a dimension reads a value there and back; only degrees are shifted.
    for (const Dimension& d : {dim::length, dim::temperature, dim::capacitance, dim::time,
                               dim::power, dim::voltage, dim::resistance}) {
        const auto choices = unitChoices(d);
        QVERIFY(!choices.empty());
        for (const DisplayUnit& u : choices) {
            QVERIFY(u.factor > 0);
            for (const double si : {0.0, 1.0, 293.15, -4e-9})
                QVERIFY(std::abs(u.si(u.shown(si)) - si) < 1e-9 * (std::abs(si) + 300 * u.factor));
            QCOMPARE(u.offset != 0, u.symbol == "°C");
        }
    }
    const auto degrees = unitChoices(dim::temperature);
    const auto celsius = std::find_if(degrees.begin(), degrees.end(),
                                      [](const DisplayUnit& u) { return u.symbol == "°C"; });
    QVERIFY(celsius != degrees.end());
    QVERIFY(std::abs(celsius->shown(293.15) - 20) < 1e-9);
    QVERIFY(std::abs(celsius->si(-40) - 233.15) < 1e-9);
}

YH_TEST(TstQuantity)

}  // namespace tst_quantity

#include "tst_quantity.moc"
