// Expressions: values, dimensions, faults with their place, parameters in any order.
#include "program.h"

#include "base/expression.h"

#include <QtTest/QtTest>

#include <algorithm>
#include <cmath>
#include <random>

namespace tst_expression {

using namespace yh::base;

class TstExpression : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void values_data();
    void values();
    void faults_data();
    void faults();
    void constants_data();
    void constants();
    void wantedDimension();
    void parametersInAnyOrder();
    void cyclesAreReported();
    void longChainsAndDeepBracketsAreRefused();
    void faultsQuoteWholeCharacters();
    void randomTextNeverCrashes();
    void splitting();
    void complexValues();
};

void TstExpression::values_data()
{
    QTest::addColumn<QString>("text");
    QTest::addColumn<double>("value");
    QTest::newRow("sum of lengths") << "2*120 um + 10 um" << 250e-6;
    QTest::newRow("unit binds to its number") << "1/2 mm" << 500.0;
    QTest::newRow("quotient of units") << "3 kV/mm" << 3e6;
    QTest::newRow("power of a unit") << "4 mm^2" << 4e-6;
    QTest::newRow("power right to left") << "2^3^2" << 512.0;
    QTest::newRow("minus before a power") << "-2^2" << -4.0;
    QTest::newRow("exponent") << "1.5e-3 m" << 1.5e-3;
    QTest::newRow("e is no exponent") << "2 eV/qe" << 2.0;
    QTest::newRow("brackets") << "(1 + 2)*(3 - 4)" << -3.0;
    QTest::newRow("percent") << "0.5 %" << 0.005;
    QTest::newRow("angle") << "sin(30 deg)" << 0.5;
    QTest::newRow("root of an area") << "sqrt(9 mm^2)" << 3e-3;
    QTest::newRow("cube root") << "cbrt(27 mm^3)" << 3e-3;
    QTest::newRow("least") << "min(3 mm, 1 cm, 200 um)" << 200e-6;
    QTest::newRow("atan2") << "atan2(1 mm, 1 mm)" << std::atan(1.0);
    QTest::newRow("ten decibel") << "20*log10(10)" << 20.0;
    QTest::newRow("constants") << "1/sqrt(mu0*eps0)/c0" << 1.0;
    QTest::newRow("middle dot and cross") << "2·3×4" << 24.0;
    QTest::newRow("round") << "round(2.6) + floor(2.6) + ceil(2.1)" << 8.0;
    QTest::newRow("celsius") << "25 degC" << 298.15;
}

void TstExpression::values()
{
    QFETCH(QString, text);
    QFETCH(double, value);
    const Evaluation e = Expression(text.toStdString()).evaluate();
    QVERIFY2(e.ok(), e.fault.text.c_str());
    QVERIFY2(std::abs(e.value->value.real() - value) <= 1e-9 * std::abs(value),
             qPrintable(QString::number(e.value->value.real(), 'g', 17)));
}

void TstExpression::faults_data()
{
    QTest::addColumn<QString>("text");
    QTest::addColumn<int>("offset");
    QTest::addColumn<QString>("message");
    QTest::newRow("length plus voltage")
        << "1 mm + 2 V" << 5 << "a length and a voltage cannot be added";
    QTest::newRow("open bracket") << "(1 + 2" << 0 << "this bracket is not closed";
    QTest::newRow("unknown name") << "2*gapp" << 2
                                  << "'gapp' is not known; it is no parameter, constant or unit";
    QTest::newRow("unknown unit")
        << "3 gap" << 2
        << "'gap' is no unit; write an operator in front of it if it is a parameter";
    QTest::newRow("sine of a length")
        << "sin(1 mm)" << 4 << "sin takes a plain number, but 1 mm is a length";
    QTest::newRow("ends early") << "2 +" << 3
                                << "the formula ends where a number or a name is expected";
    QTest::newRow("division by zero") << "1/0" << 1 << "division by zero";
    QTest::newRow("empty")
        << "" << 0 << "nothing is written here; a number with its unit, or a formula, is expected";
    QTest::newRow("no such function") << "sinus(1)" << 0 << "there is no function 'sinus'";
    QTest::newRow("count of values")
        << "hypot(1)" << 0 << "hypot takes 2 values, but 1 stand in the brackets";
    QTest::newRow("dimension to a fraction")
        << "(2 mm)^0.3" << 6 << "a length to the power 0.3 has no dimension";
    QTest::newRow("overflow") << "exp(1000)" << 0 << "the result is not a finite number";
    QTest::newRow("two dots") << "1.2.3" << 0 << "'1.2.3' is not a number";
}

void TstExpression::faults()
{
    QFETCH(QString, text);
    QFETCH(int, offset);
    QFETCH(QString, message);
    const Evaluation e = Expression(text.toStdString()).evaluate();
    QVERIFY(!e.ok());
    QCOMPARE(QString::fromStdString(e.fault.text), message);
    QCOMPARE(e.fault.offset, offset);
}

void TstExpression::constants_data()
{
    QTest::addColumn<QString>("name");
    QTest::addColumn<double>("value");
    // CODATA 2018: Tiesinga et al., Rev. Mod. Phys. 93 (2021) 025010, table XXXI (from memory).
    QTest::newRow("speed of light") << "c0" << 299792458.0;
    QTest::newRow("electric constant") << "eps0" << 8.8541878128e-12;
    QTest::newRow("magnetic constant") << "mu0" << 1.25663706212e-6;
    QTest::newRow("elementary charge") << "qe" << 1.602176634e-19;
    QTest::newRow("Boltzmann") << "kB" << 1.380649e-23;
    QTest::newRow("Planck") << "hP" << 6.62607015e-34;
    QTest::newRow("Avogadro") << "NA" << 6.02214076e23;
}

void TstExpression::constants()
{
    QFETCH(QString, name);
    QFETCH(double, value);
    QVERIFY(std::abs(constant(name.toStdString())->value - value) <= 1e-15 * value);
}

void TstExpression::wantedDimension()
{
    QVERIFY(evaluateAs(Expression("0"), dim::length).ok());  // zero has every dimension
    const auto bare = evaluateAs(Expression("5"), dim::length);
    QVERIFY(!bare.ok());
    QCOMPARE(bare.fault.text, std::string("5 has no unit; a length is expected, for example 5 mm"));
    const auto wrong = evaluateAs(Expression("5 V"), dim::length);
    QCOMPARE(wrong.fault.text, std::string("5 V is a voltage; a length is expected"));
    const auto number = evaluateAs(Expression("5 mm"), dim::none);
    QCOMPARE(number.fault.text, std::string("5 mm is a length; a plain number is expected"));
}

void TstExpression::parametersInAnyOrder()
{
    const auto p = resolveParameters({{"c", "a + b"}, {"a", "2 mm"}, {"b", "3*a"}});
    QVERIFY(p.faults.empty());
    QVERIFY(std::abs(p.values.at("c").value - 8e-3) < 1e-15);
    // A parameter may hide a unit's symbol where it stands alone, never behind a number.
    const auto m = resolveParameters({{"m", "5"}, {"x", "2*m"}, {"y", "2 m"}});
    QCOMPARE(m.values.at("x").value.real(), 10.0);
    QVERIFY(m.values.at("y").dimension == dim::length);
}

void TstExpression::cyclesAreReported()
{
    const auto p = resolveParameters(
        {{"a", "b + 1"}, {"b", "c"}, {"c", "2*a"}, {"d", "4"}, {"e", "a"}, {"d", "5"}});
    QCOMPARE(p.faults.at(0).text,
             std::string("the parameters refer to each other in a circle: a → b → c → a"));
    QVERIFY(p.faults.count(1) && p.faults.count(2));
    QCOMPARE(p.faults.at(4).text, std::string("the parameter 'a' has no value yet"));
    QCOMPARE(p.faults.at(5).text, std::string("the name 'd' is given twice; rename one of them"));
    QCOMPARE(p.values.at("d").value.real(), 4.0);
}

void TstExpression::longChainsAndDeepBracketsAreRefused()
{
    auto refused = [](const std::string& text) { return !Expression(text).evaluate().ok(); };
    QVERIFY(refused(std::string(4000, '(') + "1" + std::string(4000, ')')));
    QVERIFY(refused(std::string(9000, '-') + "1"));
    QVERIFY(refused(std::string(200000, '(')));
    std::string sum = "1", powers = "2";
    for (int i = 0; i < 100000; ++i)
        sum += "+1";
    for (int i = 0; i < 2000; ++i)
        powers += "^1";
    QVERIFY(refused(sum));
    QVERIFY(refused(powers));
    QVERIFY(!refused(std::string(100, '(') + "1" + std::string(100, ')')));

    std::vector<Parameter> chain;
    for (int i = 0; i < 50000; ++i)
        chain.push_back({"p" + std::to_string(i), "p" + std::to_string(i + 1)});
    chain.push_back({"p50000", "1"});
    ParameterValues v = resolveParameters(chain);
    QVERIFY(v.faults.size() > 1000);
    QVERIFY(v.values.count("p50000"));
    chain.back().text = "p0";
    v = resolveParameters(chain);
    QCOMPARE(v.faults.size(), chain.size());
    // In the order of their use as many as one likes.
    std::reverse(chain.begin(), chain.end());
    chain.front().text = "1";
    QVERIFY(resolveParameters(chain).faults.empty());
}

void TstExpression::faultsQuoteWholeCharacters()
{
    for (const char* text : {"(1)µ", "2 + €", "1 ×× 2"}) {
        const Evaluation e = Expression(text).evaluate();
        QVERIFY(!e.ok());
        QVERIFY2(QString::fromStdString(e.fault.text).toStdString() == e.fault.text,
                 e.fault.text.c_str());
    }
}

void TstExpression::randomTextNeverCrashes()
{
    constexpr unsigned seed = 20261123;
    std::mt19937 random(seed);
    const std::string letters = "0123456789.+-*/^()eE mMkVusin,%°µ_xyj";
    for (int i = 0; i < 20000; ++i) {
        std::string text;
        for (auto n = random() % 24; n > 0; --n)
            text += letters[random() % letters.size()];
        const Expression expression(text);
        const Evaluation e = expression.evaluate();
        if (e.ok())
            QVERIFY2(std::isfinite(e.value->value.real()), text.c_str());
        else
            QVERIFY2(
                !e.fault.text.empty() && e.fault.offset >= 0 && e.fault.offset <= int(text.size()),
                text.c_str());
    }
}

void TstExpression::splitting()
{
    const auto parts = splitOutsideBrackets("min(1, 2) , 3 mm", ',');
    QCOMPARE(parts.size(), size_t(2));
    QCOMPARE(parts[0].text, std::string("min(1, 2)"));
    QCOMPARE(parts[1].text, std::string("3 mm"));
    QCOMPARE(parts[1].offset, 12);
}

void TstExpression::complexValues()
{
    const auto z = Expression("sqrt(-1) + exp(j*pi)").evaluate();
    QVERIFY(std::abs(z.value->value - std::complex<double>(-1, 1)) < 1e-14);
    QVERIFY(std::abs(Expression("abs(3 + 4*j)").evaluate().value->value - 5.0) < 1e-14);
    QVERIFY(std::abs(Expression("re(2*j) + im(2*j) + arg(j)").evaluate().value->value -
                     (2 + std::asin(1.0))) < 1e-14);
}

YH_TEST(TstExpression)

}  // namespace tst_expression

#include "tst_expression.moc"
