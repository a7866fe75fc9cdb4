// Sheets typed line by line, by keyboard alone, as the sheet itself words them and as a newcomer
// would; each against a closed form.
#include "window_test.h"

class TstTyped : public WindowTest
{
    Q_OBJECT
private Q_SLOTS:
    void initTestCase() { begin(); }
    void init() { openWindow(); }
    void cleanup() { closeWindow(); }
    void figure_data();
    void figure();

private:
    static void row(const char* name, const QStringList& exact, const QStringList& newcomer,
                    const QString& unit, double value, double share);
};

void TstTyped::row(const char* name, const QStringList& exact, const QStringList& newcomer,
                   const QString& unit, double value, double share)
{
    QTest::addRow("%s, as worded", name) << exact << unit << value << share;
    QTest::addRow("%s, newcomer", name) << newcomer << unit << value << share;
}

void TstTyped::figure_data()
{
    QTest::addColumn<QStringList>("lines");
    QTest::addColumn<QString>("unit");
    QTest::addColumn<double>("value");
    QTest::addColumn<double>("share");
    row("capacitance",
        {"space plane depth 1 m", "gap disc radius 2 mm at 0, 0", "core disc radius 1 mm at 0, 0",
         "vacuum in gap", "electrode A at 1 V on core", "electrode B at 0 V on gap.outer",
         "outer edge is insulated", "capacitance A to B within 0.5 %"},
        {"plane", "disc gap radius 2 mm", "disc core 1 mm", "material vacuum in gap",
         "electrode A on core 1 V", "electrode B on gap.outer 0 V", "outer edge insulated",
         "capacitance between A and B"},
        "pF", 1e12 * coaxial(2), 5e-3);
    // A bar: length over conductivity and section.
    row("resistance",
        {"space plane depth 0.1 mm", "strip rectangle 10 mm × 2 mm at 0, 0",
         "copper in strip σ 58 MS/m", "contact A at 1 V on strip.left",
         "contact B at 0 V on strip.right", "resistance A to B within 0.5 %"},
        {"space plane 0.1 mm", "rectangle strip 10 mm x 2 mm", "copper in strip sigma 5.8e7 S/m",
         "contact A on strip.left 1 A", "contact B on strip.right 0 V",
         "resistance between A and B"},
        "µΩ", 1e6 * 10e-3 / (5.8e7 * 2e-3 * 0.1e-3), 1e-4);
    // Seebeck: minus the coefficient times the rise, here of a material with one of 200 µV/K.
    row("thermoelectric",
        {"space plane depth 1 mm", "leg rectangle 1 mm × 3 mm at 0, 0",
         "bismuth telluride n in leg σ 1e5 S/m k 1.5 W/m/K Seebeck -200 uV/K",
         "contact A at 0 A on leg.top", "contact B at 0 V on leg.bottom",
         "held temperature hot at 320 K on leg.top", "held temperature cold at 300 K on leg.bottom",
         "thermoelectric effects in leg", "potential of A within 0.5 %"},
        {"plane", "rectangle leg 1 mm by 3 mm",
         "bismuth telluride n in leg sigma 1e5 S/m k 1.5 W/m/K seebeck -200 uV/K",
         "contact A 0 A on leg.top", "contact B on leg.bottom 0 V",
         "held temperature hot on leg.top 320 K", "held temperature cold on leg.bottom 300 K",
         "thermoelectric in leg", "potential of A"},
        "mV", 4, 1e-3);
    // Inside a long rod magnetised across, half the remanence.
    row("magnet",
        {"space plane depth 1 m", "air disc radius 20 mm at 0, 0", "rod disc radius 5 mm at 0, 0",
         "air in air", "magnet M in rod with remanence 1.2 T recoil 1 along y",
         "flux at the outer edge goes on into open space", "B along y at 0, 0 within 0.5 %"},
        {"plane", "disc air 20 mm", "disc rod 5 mm", "air in air",
         "magnet M in rod 1.2 T along y recoil 1", "flux at the edge goes on into open space",
         "B along y at 0, 0"},
        "mT", 600, 1e-3);
    // In the middle of a ball two thirds of the remanence; half of it by symmetry.
    row("magnet in space",
        {"space solid", "air sphere radius 15 mm at 0, 0, 0", "ball sphere radius 5 mm at 0, 0, 0",
         "air in air", "magnet M in ball with remanence 1.2 T recoil 1 along z",
         "mirror plane x = 0 kind odd", "mirror plane y = 0 kind odd",
         "flux at the outer edge goes on into open space", "B along z at 0, 0, 1 mm within 1 %"},
        {"solid", "sphere air diameter 30 mm", "sphere ball 5 mm", "air in air",
         "magnet M in ball 1.2 T along z recoil 1", "mirror x = 0 odd", "symmetry y = 0 odd",
         "flux at the edge goes on into open space", "B along z at 0, 0, 1 mm within 1 %"},
        "mT", 800, 5e-3);
    // A magnet that sinks in a tube: its dipole's drag carries its weight (Saslow, Am. J. Phys. 60
    // (1992) 693).
    const double mu0 = 4e-7 * M_PI, m = 1.2 / mu0 * 4 / 3 * M_PI * std::pow(5e-3, 3),
                 perSpeed = 15.0 / 1024 * mu0 * mu0 * m * m / 1.678e-8 *
                            (std::pow(8e-3, -3) - std::pow(10e-3, -3));
    row("brake",
        {"space axisymmetric", "ball disc radius 5 mm at 0, 0",
         "tube rectangle 2 mm × 120 mm at 9 mm, 0", "copper in tube",
         "magnet M in ball with remanence 1.2 T recoil 1 along z",
         "motion of tube at 1 m/s along z", "flux at the outer edge goes on into open space",
         "terminal speed of 2 g within 1 %"},
        {"axisymmetric", "disc ball 5 mm", "rectangle tube 2 mm by 120 mm at 9 mm, 0",
         "copper in tube", "magnet M in ball 1.2 T along z recoil 1", "motion tube 1 m/s along z",
         "flux at the edge goes on into open space", "terminal speed 2 g"},
        "m/s", 2e-3 * 9.80665 / perSpeed, 0.03);
}

void TstTyped::figure()
{
    QFETCH(QStringList, lines);
    QFETCH(QString, unit);
    QFETCH(double, value);
    QFETCH(double, share);
    m_window->activateWindow();
    QVERIFY(QTest::qWaitForWindowActive(m_window.get()));
    QTest::keyClick(m_window.get(), Qt::Key_N, Qt::ControlModifier);
    for (const QString& line : lines) {
        QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
        QLineEdit* at = m_window->sheetView()->editor();
        QVERIFY(at->isVisible());
        for (const QChar c : line)
            if (c.unicode() < 128) {
                QTest::keyClick(at, c.toLatin1());
            } else {
                QKeyEvent press(QEvent::KeyPress, Qt::Key_unknown, Qt::NoModifier, QString(c));
                QApplication::sendEvent(at, &press);
            }
        QWidget* popup = QApplication::activePopupWidget();
        QTest::keyClick(popup ? popup : at, Qt::Key_Return);
        QVERIFY2(!at->isVisible(), qPrintable(line + " stays: " + at->text()));
    }
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QSignalSpy ended(m_window.get(), &MainWindow::solveEnded);
    QTest::keyClick(m_window.get(), Qt::Key_F5);
    QVERIFY(ended.count() > 0 || ended.wait(patience));
    const QStringList words = finding().split(' ');
    const auto at = words.indexOf(unit);
    QVERIFY2(at > 0 && std::abs(std::abs(words[at - 1].toDouble()) / value - 1) < share,
             qPrintable(finding()));
}

YH_TEST(TstTyped)

#include "tst_typed.moc"
