// Jobs from the opening page to a figure, by mouse and keyboard in the real window.
#include "window_test.h"

class TstJobs : public WindowTest
{
    Q_OBJECT
private Q_SLOTS:
    void initTestCase() { begin(); }
    void init() { openWindow(); }
    void cleanup() { closeWindow(); }
    void coaxialLineFromAnEmptySheet();
    void heaterFromAnEmptySheet();
    void magnetFromItsCard();
    void pickUpFromItsCard();
    void actuatorFromItsCard();
    void brakeFromItsCard();
    void piezoElementFromItsCard();
    void beamFromItsCard();
    void circuitFromItsCard();
    void diodeFromItsCard();
    void drawnJunctionFromItsCard();
    void pulseFromItsCard();
    void courseOverTime();

private:
    /// The current that a finding tells, A; not a number where it tells none.
    double amperes(int row)
    {
        const QStringList words = finding(row).split(' ');
        const auto unit = std::find_if(words.begin(), words.end(), [](const QString& w) {
            return w.endsWith('A') && w.size() == 2;
        });
        if (unit == words.end())
            return std::nan("");
        const double scale = *unit == "nA"   ? 1e-9
                             : *unit == "mA" ? 1e-3
                             : *unit == "pA" ? 1e-12
                                             : 1e-6;
        return (unit - 1)->toDouble() * scale;
    }
    /// Checks the slope of an ideal diode, 59.5 mV a decade at 300 K (Sze and Ng, section 2.3),
    /// from two findings 0.1 V apart.
    void checkIdealSlope(int first)
    {
        const double decade = 100 / std::log10(amperes(first + 1) / amperes(first));
        QVERIFY2(std::abs(decade - 59.5) < 1.2, qPrintable(finding(first)));
    }
};

void TstJobs::coaxialLineFromAnEmptySheet()
{
    // Opening page: the card "capacitance".
    auto* card = m_window->findChild<QPushButton*>("card-capacitance");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    SceneCanvas* canvas = m_window->scenePanel()->canvas();
    // Two discs by clicks, snapped to the grid.
    for (const double radius : {2e-3, 1e-3}) {
        QAction* draw = nullptr;
        for (QAction* a : m_window->findChild<QMenu*>("drawMenu")->actions())
            if (a->text() == "disc")
                draw = a;
        QVERIFY(draw);
        draw->trigger();
        QCOMPARE(int(canvas->tool()), int(Tool::disc));
        clickScene({0, 0});
        QSignalSpy spy(m_window.get(), &MainWindow::shapeShown);
        clickScene({radius, 0});
        QVERIFY(spy.wait(patience));
    }
    QCOMPARE(doc().ofKind("disc").size(), size_t(2));
    QCOMPARE(doc().findNamed("disc")->get("radius"), std::string("2 mm"));
    QCOMPARE(doc().findNamed("disc2")->get("radius"), std::string("1 mm"));
    QCOMPARE(doc().findNamed("disc2")->get("at"), std::string("0 m, 0 m"));
    // Places by typing into the marked gaps of the sheet.
    clickPiece(doc().findNamed("A")->id, "on");
    typeInEditor("disc2");
    clickPiece(doc().findNamed("B")->id, "on");
    typeInEditor("disc.outer");
    // The outer edge by the list that opens under it.
    clickPiece(doc().first("outer edge")->id, "is");
    QWidget* choices = QApplication::activePopupWidget();
    QVERIFY(choices && choices->objectName() == "completions");
    QTest::keyClick(choices, Qt::Key_Down);
    QTest::keyClick(choices, Qt::Key_Return);
    QCOMPARE(doc().first("outer edge")->get("is"), std::string("insulated"));
    // A material by the compose line.
    QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
    typeInEditor("vacuum in disc");
    QCOMPARE(doc().ofKind("material").size(), size_t(1));
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    QVERIFY2(finding().startsWith("capacitance A to B"), qPrintable(finding()));
    QVERIFY2(std::abs(pico() * 1e-12 / coaxial(2) - 1) < 1e-3, qPrintable(finding()));
    QVERIFY(finding().contains(QString::fromUtf8("±")));
    // The scene shows colours now: not one flat tone.
    const QImage image = canvas->grab().toImage();
    std::set<QRgb> tones;
    for (int x = 0; x < image.width(); x += 5)
        for (int y = 0; y < image.height(); y += 5)
            tones.insert(image.pixel(x, y));
    QVERIFY(tones.size() > 50);
}

void TstJobs::heaterFromAnEmptySheet()
{
    // The window heater, built by hand: a strip of nickel chromium on a polyimide carrier.
    auto* card = m_window->findChild<QPushButton*>("card-heating");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    chooseSpace("solid");
    QCOMPARE(doc().first("space")->get("type"), std::string("solid"));
    for (const char* line : {"carrier box 40 mm x 24 mm x 1 mm at 0, 0, -1 mm",
                             "foil box 34 mm x 2 mm x 0.2 mm at 0, 0, 0", "polyimide in carrier",
                             "nickel chromium 80/20 in foil"}) {
        QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
        typeInEditor(line);
    }
    clickPiece(doc().findNamed("A")->id, "voltage");
    typeInEditor("0.11 V");
    clickPiece(doc().findNamed("A")->id, "on");
    typeInEditor("foil.left");
    clickPiece(doc().findNamed("B")->id, "on");
    typeInEditor("foil.right");
    clickPiece(doc().findNamed("air")->id, "h");
    typeInEditor("12 W/m^2/K");
    clickPiece(doc().findNamed("air")->id, "on");
    typeInEditor("foil.top and carrier.top and carrier.bottom");
    clickPiece(doc().first("current heats")->id, "in");
    typeInEditor("foil");
    clickPiece(doc().first("highest temperature")->id, "in");
    typeInEditor("carrier");
    clickPiece(doc().first("highest temperature")->id, "within");
    typeInEditor("3 %");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(m_window->scenePanel()->isSolid());
    QVERIFY(solveAndWait());
    // Estimate of our own: the strip across its width as a fin. Within half a width a it takes up
    // q = V^2 / (R L w); both faces lose H = 2 h to the air; heat spreads sideways with K, the
    // conductivity times thickness, inside and outside the strip:
    //   rise = q / H (1 - Ko mo / (Ko mo cosh(mi a) + Ki mi sinh(mi a))),  m^2 = H / K.
    const double length = 34e-3, width = 2e-3, thick = 0.2e-3, rho = 1.09e-6,
                 R = rho * length / (width * thick), q = 0.11 * 0.11 / (R * length * width), H = 24,
                 out = 0.12e-3, in = out + 11.3 * thick, mo = std::sqrt(H / out),
                 mi = std::sqrt(H / in), a = width / 2,
                 rise =
                     q / H *
                     (1 - out * mo / (out * mo * std::cosh(mi * a) + in * mi * std::sinh(mi * a)));
    const QStringList r = finding(0).split(' '), t = finding(1).split(' ');
    QVERIFY2(std::abs(r[r.indexOf("mΩ") - 1].toDouble() / (1e3 * R) - 1) < 0.01,
             qPrintable(finding(0)));
    const double hot = t[t.indexOf("°C") - 1].toDouble() - 20;
    QVERIFY2(std::abs(hot / rise - 1) < 0.1, qPrintable(QString("%1 %2").arg(hot).arg(rise)));
}

void TstJobs::magnetFromItsCard()
{
    // A rod magnet round the axis, its curve typed as the data sheet prints it: on the axis a sheet
    // of current round its side (Jackson, problem 5.19), with a recoil permeability of 1.
    auto* card = m_window->findChild<QPushButton*>("card-magnet");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    chooseSpace("axisymmetric");
    compose({"rod rectangle 4 mm x 10 mm at 2 mm, 0",
             "curve N of H (kOe), B (kG): -10.053096, 1.9469; 0, 12",
             "magnet P in rod by curve N along x"});
    m_window->sheetView()->select(doc().first("magnet")->id);
    QTest::keyClick(m_window->sheetView(), Qt::Key_Delete);
    const int magnet = doc().first("magnet")->id;
    QCOMPARE(doc().first("magnet")->name(), std::string("P"));
    clickPiece(magnet, "along");
    typeInEditor("x, z");
    // No direction, and said at its chip.
    waitShape();
    QVERIFY(!m_window->faults().empty());
    QCOMPARE(m_window->faults()[0].place.field, std::string("along"));
    clickPiece(magnet, "along");
    typeInEditor("z");
    const int ask = doc().first("flux density at")->id;
    clickPiece(ask, "at");
    typeInEditor("0, 8 mm");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    compose({"working points of P"});
    QVERIFY(solveAndWait());
    const double B = 600 * (13 / std::hypot(13, 4) - 3 / std::hypot(3, 4));  // mT
    const QStringList words = finding(0).split(' ');
    QVERIFY2(std::abs(words[words.indexOf("mT") - 1].toDouble() / B - 1) < 0.005,
             qPrintable(finding(0)));
    // The plane of B over H, with the curve and the points on it.
    auto* choice = m_window->findChild<QComboBox*>("curveChoice");
    QVERIFY(choice && choice->currentText().startsWith("B, working points"));
}

void TstJobs::pickUpFromItsCard()
{
    // A ball magnet that rises above a ring of turns: outside it is a dipole (Jackson,
    // section 5.10), whose flux through a circle is mu0 m R^2 / 2 / (R^2 + z^2)^(3/2).
    auto* card = m_window->findChild<QPushButton*>("card-pick-up");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    compose({"ball sphere radius 2 mm at 0, 0, 6 mm + 2 mm*sin(turn)",
             "w ring from radius 4.5 mm to radius 5.5 mm high 1 mm at 0, 0, -0.5 mm",
             "mirror plane x = 0 kind odd", "mirror plane y = 0 kind odd"});
    clickPiece(doc().first("magnet")->id, "in");
    typeInEditor("ball");
    clickPiece(doc().first("magnet")->id, "along");
    typeInEditor("z");
    const int coil = doc().first("coil")->id;
    clickPiece(coil, "in");
    typeInEditor("w");
    clickPiece(coil, "about");
    typeInEditor("0, 0, 0");
    waitShape();
    // About nothing, and said at its chip.
    QVERIFY(!m_window->faults().empty());
    QCOMPARE(m_window->faults()[0].place.field, std::string("about"));
    clickPiece(coil, "about");
    typeInEditor("z");
    clickPiece(doc().first("sweep")->id, "steps");
    typeInEditor("5");
    clickPiece(doc().first("flux linkage")->id, "within");
    typeInEditor("5 %");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    const double m = 4 * 3.14159265 / 3 * 8e-9 * 1.1 * 3 / (1.05 + 2);  // times mu0
    const double flux = 500 * m / 2 * 25e-6 / std::pow(61e-6, 1.5);
    const QStringList words = finding(0).split(' ');
    QVERIFY2(std::abs(words[words.indexOf(QString::fromUtf8("µWb")) - 1].toDouble() / (1e6 * flux) -
                      1) < 0.03,
             qPrintable(finding(0)));
    // The voltage, largest where it starts: 30 degrees in 5 ms.
    const double volt = flux * 3 * 6e-3 / 61e-6 * 2e-3 * (3.14159265 / 6) / 5e-3;
    const QStringList rate = finding(1).split(' ');
    QVERIFY2(rate.contains("mV") &&
                 std::abs(rate[rate.indexOf("mV") - 1].toDouble() / (1e3 * volt) - 1) < 0.1,
             qPrintable(finding(1)));
    auto* choice = m_window->findChild<QComboBox*>("curveChoice");
    QVERIFY(choice);
    bool found = false;
    for (int i = 0; i < choice->count(); ++i)
        found = found || choice->itemText(i).contains("rate of change");
    QVERIFY(found);
}

void TstJobs::piezoElementFromItsCard()
{
    // A plate that cannot move sideways: its antiresonance is that of half a wave of the stiffened
    // ceramic (IEEE Std 176-1987, section 4).
    auto* card = m_window->findChild<QPushButton*>("card-impedance");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    compose({"plate rectangle 0.5 mm x 1.2 mm at 0, 0", "roller on plate.left and plate.right"});
    clickPiece(doc().first("material")->id, "in");
    typeInEditor("plate");
    clickPiece(doc().findNamed("A")->id, "on");
    typeInEditor("plate.top");
    clickPiece(doc().findNamed("B")->id, "on");
    typeInEditor("plate.bottom");
    // Poled nowhere yet, and said at the material.
    waitShape();
    QVERIFY(!m_window->faults().empty());
    clickPiece(doc().first("poling")->id, "in");
    typeInEditor("plate");
    clickPiece(doc().first("vibration")->id, "to");
    typeInEditor("2.5 MHz");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    const std::complex<double> stiff =
        111e9 * std::complex<double>(1, 1 / 75.0) +
        15.8 * 15.8 / (830 * 8.8541878128e-12 * std::complex<double>(1, -0.02));
    const double half = std::sqrt((stiff / 7750.0).real()) / 2.4e-3 / 1e6;
    const QStringList words = finding(1).split(' ');
    QVERIFY2(words.contains("MHz") &&
                 std::abs(words[words.indexOf("MHz") - 1].toDouble() / half - 1) < 1e-3,
             qPrintable(finding(1)));
    // Size and phase in one plot, and the shape that moves.
    auto* choice = m_window->findChild<QComboBox*>("curveChoice");
    QVERIFY(choice && choice->currentText().startsWith("abs(Z)"));
    auto* moved = m_window->findChild<QToolButton*>("lens-moved");
    QVERIFY(moved && moved->isVisible() && moved->isChecked());
    QVERIFY(m_window->findChild<QWidget*>("player")->isVisible());
    SceneCanvas* canvas = m_window->scenePanel()->canvas();
    const QImage far = canvas->grab().toImage();
    QTest::mouseClick(moved, Qt::LeftButton);
    QVERIFY(canvas->grab().toImage() != far);
}

void TstJobs::beamFromItsCard()
{
    auto* card = m_window->findChild<QPushButton*>("card-vibration");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    compose({"beam rectangle 60 mm x 1 mm at 30 mm, 0", "across the drawing free (plane stress)"});
    clickPiece(doc().first("material")->id, "in");
    typeInEditor("beam");
    clickPiece(doc().first("fixed")->id, "on");
    typeInEditor("beam.left");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    // Blevins, Formulas for Natural Frequency and Mode Shape, table 8-1; the library's steel.
    const double f =
        1.875104 * 1.875104 / (2 * 3.14159265 * 3.6e-3) * std::sqrt(205e9 * 1e-6 / 12 / 7850);
    const QStringList words = finding(0).split(' ');
    QVERIFY2(
        words.contains("Hz") && std::abs(words[words.indexOf("Hz") - 1].toDouble() / f - 1) < 1e-3,
        qPrintable(finding(0)));
    // Its shapes swing.
    auto* play = m_window->findChild<QToolButton*>("play");
    QVERIFY(play && play->isVisible());
    SceneCanvas* canvas = m_window->scenePanel()->canvas();
    const QImage up = canvas->grab().toImage();
    m_window->findChild<QSlider*>("timeAt")->setValue(500);
    QVERIFY(canvas->grab().toImage() != up);
}

void TstJobs::circuitFromItsCard()
{
    // Two arms of different length between two splitters: dark where they differ by half a wave.
    auto* card = m_window->findChild<QPushButton*>("card-circuit");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    auto* diagram = m_window->findChild<QWidget*>("diagram");
    QVERIFY(diagram && diagram->isVisible());
    // What is open is said.
    QVERIFY(!m_window->faults().empty());
    compose({"splitter Z with 50 %", "guide short of length 100 um with index 2.4",
             "guide long of length 130 um with index 2.4", "joint Y.2 to short.1",
             "joint Y.3 to long.1", "joint short.2 to Z.2", "joint long.2 to Z.3",
             "terminal out at Z.1", "free spectral range from in to out"});
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    QVERIFY2(finding(0).contains("free spectral range"), qPrintable(finding(0)));
    const QStringList words = finding(0).split(' ');
    // Orders m + 1/2 of n dL / wavelength, about the middle.
    const double path = 2.4 * 30e-6, m = std::floor(path / 1.55e-6 - 0.5) + 0.5,
                 range = path / m - path / (m + 1);
    QVERIFY2(words.contains("nm") &&
                 std::abs(words[words.indexOf("nm") - 1].toDouble() / (1e9 * range) - 1) < 1e-4,
             qPrintable(finding(0)));
    // A click on a part chooses its line.
    const int line = doc().findNamed("long")->id;
    const QRectF box = m_window->scenePanel()->diagram()->boxOf(line);
    QTest::mouseClick(diagram, Qt::LeftButton, {}, box.center().toPoint());
    QCOMPARE(m_window->sheetView()->selectedLine(), line);
}

void TstJobs::diodeFromItsCard()
{
    // A short diode.
    auto* card = m_window->findChild<QPushButton*>("card-junction");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    clickPiece(doc().findNamed("p")->id, "thickness");
    typeInEditor("2 um");
    clickPiece(doc().findNamed("n")->id, "thickness");
    typeInEditor("6 um");
    clickPiece(doc().first("ideality factor")->id, "at");
    typeInEditor("0.35 V");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    compose({"current at 0.3 V", "current at 0.4 V", "bands at 0.3 V"});
    QVERIFY(solveAndWait());
    checkIdealSlope(1);
    // Linear, by ratios, and the bands in one plot.
    auto* choice = m_window->findChild<QComboBox*>("curveChoice");
    QStringList plots;
    for (int i = 0; i < choice->count(); ++i)
        plots << choice->itemText(i);
    QVERIFY2(plots.join('\n').contains("abs(I)") && plots.join('\n').contains("bands"),
             qPrintable(plots.join('\n')));
}

void TstJobs::drawnJunctionFromItsCard()
{
    // The same diode drawn, with its contacts chosen and its doping typed.
    auto* card = m_window->findChild<QPushButton*>("card-carriers");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    compose({"p rectangle 2 um x 4 um at 1 um, 0", "n rectangle 6 um x 4 um at 5 um, 0",
             "doping acceptors 1e17 /cm^3 in p"});
    clickPiece(doc().first("doping")->id, "in");
    typeInEditor("n");
    clickPiece(doc().findNamed("A")->id, "on");
    typeInEditor("p.left");
    clickPiece(doc().findNamed("B")->id, "on");
    typeInEditor("n.right");
    clickPiece(doc().first("ideality factor")->id, "at");
    typeInEditor("0.35 V");
    clickPiece(doc().first("contact sweep")->id, "steps");
    typeInEditor("5");
    waitShape();
    compose({"current at 0.3 V", "current at 0.4 V", "bands along from 0, 0 to 8 um, 0 at 0.3 V"});
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    checkIdealSlope(1);
    auto* choice = m_window->findChild<QComboBox*>("curveChoice");
    QStringList plots;
    for (int i = 0; i < choice->count(); ++i)
        plots << choice->itemText(i);
    QVERIFY2(plots.join('\n').contains("bands"), qPrintable(plots.join('\n')));
}

void TstJobs::pulseFromItsCard()
{
    // A pulse runs 6 mm through water between smooth walls.
    auto* card = m_window->findChild<QPushButton*>("card-sound");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    compose({"tank rectangle 12 mm x 2 mm at 6 mm, 0", "smooth wall bottom and top",
             "pulse P of 1 MHz over 3 cycles from 3 mm, -1 mm to 3 mm, 1 mm tapered by 0 %"});
    m_window->sheetView()->select(doc().findNamed("S")->id);
    QTest::keyClick(m_window->sheetView(), Qt::Key_Delete);
    clickPiece(doc().first("material")->id, "in");
    typeInEditor("tank");
    clickPiece(doc().first("sound run")->id, "time");
    typeInEditor("6 us");
    clickPiece(doc().findNamed("R")->id, "at");
    typeInEditor("9 mm, 0");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    const QStringList words = finding(0).split(' ');
    const auto unit = std::find_if(words.begin(), words.end(), [](const QString& w) {
        return w.endsWith("s") && w.size() == 2;
    });
    QVERIFY2(unit != words.end() && std::abs((unit - 1)->toDouble() / (6e3 / 1482) - 1) < 0.02,
             qPrintable(finding(0)));
    // Moving pictures, and the trace over time.
    QVERIFY(m_window->findChild<QWidget*>("player")->isVisible());
    SceneCanvas* canvas = m_window->scenePanel()->canvas();
    const QImage late = canvas->grab().toImage();
    m_window->findChild<QSlider*>("timeAt")->setValue(300);
    QVERIFY(canvas->grab().toImage() != late);
}

void TstJobs::actuatorFromItsCard()
{
    // A stiff column of gel between rollers snaps up after a third of the gap: Nathanson et al.,
    // IEEE Trans. Electron Devices 14 (1967) 117.
    auto* card = m_window->findChild<QPushButton*>("card-actuator");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    compose({"col rectangle 2 um x 20 um at 0, -10 um", "gap rectangle 2 um x 1 um at 0, 0.5 um",
             "roller on col.left", "roller on col.right"});
    const auto materials = doc().ofKind("material");
    const int body = materials[0]->id, air = materials[1]->id;
    clickPiece(body, "in");
    typeInEditor("col");
    clickPiece(body, "E");
    typeInEditor("10 MPa");
    clickPiece(air, "in");
    typeInEditor("gap");
    clickPiece(doc().first("fixed")->id, "on");
    typeInEditor("col.bottom");
    clickPiece(doc().findNamed("A")->id, "on");
    typeInEditor("col.top");
    clickPiece(doc().findNamed("B")->id, "on");
    typeInEditor("gap.top");
    clickPiece(doc().first("raised voltage")->id, "to");
    typeInEditor("300 V");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    const QStringList words = finding(0).split(' ');
    const double V = words[words.indexOf("V") - 1].toDouble(), nu = 0.22,
                 k = 10e6 * (1 - nu) / ((1 + nu) * (1 - 2 * nu)) / 20e-6;
    QVERIFY2(std::abs(V / std::sqrt(8 * k * 1e-18 / (27 * 8.8541878128e-12)) - 1) < 0.02,
             qPrintable(finding(0)));
    auto* choice = m_window->findChild<QComboBox*>("curveChoice");
    QVERIFY(choice && choice->itemText(0).contains("voltage"));
}

void TstJobs::brakeFromItsCard()
{
    // A ball of a magnet sinks in a tube of copper: the drag of a dipole in a tube, by the wall's
    // layers (Saslow, Am. J. Phys. 60 (1992) 693), carries its weight.
    auto* card = m_window->findChild<QPushButton*>("card-brake");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    compose({"ball disc radius 5 mm at 0, 0", "tube rectangle 2 mm x 120 mm at 9 mm, 0",
             "copper in tube"});
    clickPiece(doc().first("magnet")->id, "in");
    typeInEditor("ball");
    clickPiece(doc().first("motion")->id, "in");
    typeInEditor("tube");
    clickPiece(doc().first("terminal speed")->id, "mass");
    typeInEditor("2 g");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    // With a recoil permeability of 1.05 the moment is 3 / (2 + 1.05) of a remanence's.
    const double mu0 = 4e-7 * M_PI, m = 1.2 / mu0 * 3 / 3.05 * 4.0 / 3 * M_PI * std::pow(5e-3, 3),
                 by = 15.0 / 1024 * mu0 * mu0 * m * m / 1.678e-8 *
                      (std::pow(8e-3, -3) - std::pow(10e-3, -3)),
                 v = 2e-3 * 9.80665 / by;
    const QStringList words = finding(1).split(' ');
    QVERIFY2(std::abs(words[words.indexOf("m/s") - 1].toDouble() / v - 1) < 0.02,
             qPrintable(finding(1) + QString::number(v)));
    auto* choice = m_window->findChild<QComboBox*>("curveChoice");
    QVERIFY(choice && choice->count() == 2);
    QVERIFY(choice->itemText(0) == "drag over speed");
    QVERIFY(choice->itemText(1).contains("over time"));
}

void TstJobs::courseOverTime()
{
    open(R"({"yellowhorn sheet": 1, "lines": [
{"line": "space", "type": "plane", "depth": "1 mm"},
{"line": "rectangle", "name": "bar", "width": "10 mm", "height": "2 mm"},
{"line": "material", "material": "alumina 96 %", "in": "bar"},
{"line": "held temperature", "name": "hot", "value": "350 K", "on": "bar.left"},
{"line": "transient", "duration": "4 s", "start": "300 K"},
{"line": "mean temperature", "in": "bar", "within": "1 %"}
]})");
    QVERIFY(solveAndWait());
    auto* player = m_window->findChild<QWidget*>("player");
    auto* at = m_window->findChild<QSlider*>("timeAt");
    QVERIFY(player->isVisible() && at);
    SceneCanvas* scene = m_window->scenePanel()->canvas();
    const double late = m_window->scenePanel()->times().back();
    QVERIFY(std::abs(late - 4) < 1e-6);
    const QImage end = scene->grab().toImage();
    at->setValue(50);
    QTest::qWait(50);
    QVERIFY(scene->grab().toImage() != end);
    QCOMPARE(m_window->findChild<QLabel*>("timeText")->text(), QString("200 ms"));
    QTest::mouseClick(m_window->findChild<QToolButton*>("play"), Qt::LeftButton);
    QTRY_VERIFY_WITH_TIMEOUT(at->value() > 200, 5000);
    QTest::mouseClick(m_window->findChild<QToolButton*>("play"), Qt::LeftButton);
    // The course of the mean is a curve.
    auto* tabs = m_window->findChild<QTabWidget*>("drawerTabs");
    tabs->setCurrentIndex(0);
    QVERIFY(m_window->findChild<QComboBox*>("curveChoice")->currentText().contains("over time"));
    // The mean is read in degrees; in kelvins it is 273.15 more, and its error the same.
    const auto before = m_window->results().findings()[0];
    QMetaObject::invokeMethod(m_window->findChild<FindingsView*>(), "unitRequested",
                              Q_ARG(int, doc().first("mean temperature")->id), Q_ARG(QPoint, {}));
    auto* units = m_window->findChild<QMenu*>("unitMenu");
    QVERIFY(units);
    for (QAction* a : units->actions())
        if (a->text() == "K")
            a->trigger();
    units->close();
    const auto after = m_window->results().findings()[0];
    QCOMPARE(before.unit, QString::fromUtf8("°C"));
    QCOMPARE(after.unit, QString("K"));
    QVERIFY(std::abs(after.value.toDouble() - before.value.toDouble() - 273.15) < 0.1);
    QCOMPARE(after.error, before.error);
    // The band of the gauge is what was asked for: a hundredth of the rise, not of 340 K.
    QVERIFY(after.gauge.bandHigh - after.gauge.bandLow < 1.1);
}

YH_TEST(TstJobs)

#include "tst_jobs.moc"
