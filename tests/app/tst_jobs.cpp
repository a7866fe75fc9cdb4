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
    void ringDownFromItsCard();
    void brakeFromItsCard();
    void piezoElementFromItsCard();
    void beamFromItsCard();
    void circuitFromItsCard();
    void diodeFromItsCard();
    void pulseFromItsCard();
    void cavityFromAnEmptySheet();
    void guideModesFromTheirCard();
    void galleryOfModes();
    void antennaFromItsCard();
    void scatteringFromItsCard();
    void typedWire();
    void typedLattice();
    void patternOfAnAntenna();
    void courseOverTime();
    void phaseOfAWave();
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
    // The outer edge by its menu.
    clickPiece(doc().first("outer edge")->id, "is");
    QMenu* choices = m_window->findChild<QMenu*>("choices");
    QVERIFY(choices && choices->isVisible());
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
    QVERIFY2(std::abs(r[r.indexOf("mohm") - 1].toDouble() / (1e3 * R) - 1) < 0.01,
             qPrintable(finding(0)));
    const double hot = t[t.indexOf("K") - 1].toDouble() - 293.15;
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
    // A short diode: 59.5 mV a decade at 300 K (Sze and Ng, section 2.3).
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
    double current[2], scale[2];
    for (const int i : {0, 1}) {
        const QString text = finding(1 + i);
        const QStringList words = text.split(' ');
        const auto unit = std::find_if(words.begin(), words.end(), [](const QString& w) {
            return w.endsWith('A') && w.size() == 2;
        });
        QVERIFY2(unit != words.end(), qPrintable(text));
        scale[i] = *unit == "nA" ? 1e-9 : *unit == "mA" ? 1e-3 : *unit == "pA" ? 1e-12 : 1e-6;
        current[i] = (unit - 1)->toDouble() * scale[i];
    }
    const double decade = 100 / std::log10(current[1] / current[0]);
    QVERIFY2(std::abs(decade - 59.5) < 1.2, qPrintable(QString::number(decade)));
    // Linear, by ratios, and the bands in one plot.
    auto* choice = m_window->findChild<QComboBox*>("curveChoice");
    QStringList plots;
    for (int i = 0; i < choice->count(); ++i)
        plots << choice->itemText(i);
    QVERIFY2(plots.join('\n').contains("abs(I)") && plots.join('\n').contains("bands"),
             qPrintable(plots.join('\n')));
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

void TstJobs::ringDownFromItsCard()
{
    // A box of 30 x 20 x 10 mm rings at c/2 sqrt(1/a^2 + 1/b^2).
    auto* card = m_window->findChild<QPushButton*>("card-ringing");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    compose({"chamber box 30 mm x 20 mm x 10 mm at 0, 0, 0"});
    clickPiece(doc().first("material")->id, "in");
    typeInEditor("chamber");
    clickPiece(doc().first("ring-down")->id, "from");
    typeInEditor("7 GHz");
    clickPiece(doc().first("ring-down")->id, "to");
    typeInEditor("12 GHz");
    clickPiece(doc().findNamed("D")->id, "at");
    typeInEditor("4 mm, 3 mm, 5 mm");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    const QStringList words = finding(0).split(' ');
    const double f = words[words.indexOf("GHz") - 1].toDouble();
    QVERIFY2(std::abs(f / (0.149896229 * std::hypot(1 / 30e-3, 1 / 20e-3)) - 1) < 2e-3,
             qPrintable(finding(0)));
    // The pulse can be played, and the mode looked at.
    QVERIFY(m_window->findChild<QWidget*>("player")->isVisible());
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

void TstJobs::cavityFromAnEmptySheet()
{
    // A box of 30 x 20 x 10 mm in copper: f = c/2 sqrt(1/a^2 + 1/b^2), Q by Pozar, section 6.3.
    auto* card = m_window->findChild<QPushButton*>("card-resonance");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
    typeInEditor("chamber box 30 mm x 20 mm x 10 mm at 0, 0, 0");
    clickPiece(doc().first("material")->id, "in");
    typeInEditor("chamber");
    clickPiece(doc().first("metal wall")->id, "on");
    typeInEditor("outer of chamber");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    const double pi = 3.14159265358979323846, c0 = 299792458.0, a = 0.03, d = 0.02, b = 0.01,
                 f = c0 / 2 * std::hypot(1 / a, 1 / d), k = 2 * pi * f / c0,
                 R = std::sqrt(pi * f * 4e-7 * pi * 1.678e-8),
                 Q = std::pow(k * a * d, 3) * b * 376.730313668 / (2 * pi * pi * R) /
                     (2 * a * a * a * b + 2 * b * d * d * d + a * a * a * d + a * d * d * d);
    const QStringList found = finding(0).split(' '), q = finding(1).split(' ');
    const qsizetype unit = found.indexOf("GHz");
    QVERIFY2(unit > 0, qPrintable(finding(0)));
    QVERIFY2(std::abs(found[unit - 1].toDouble() * 1e9 / f - 1) < 1e-4, qPrintable(finding(0)));
    bool isQ = false;
    for (const QString& word : q)
        isQ = isQ || std::abs(word.toDouble() / Q - 1) < 5e-3;
    QVERIFY2(isQ, qPrintable(finding(1) + QString(", not %1").arg(Q)));
    // Faces of the cavity offer walls.
    QVERIFY(m_window->scenePanel()->isSolid());
}

void TstJobs::guideModesFromTheirCard()
{
    // The lowest mode of a hollow guide: n = sqrt(1 - (fc / f)^2), and its group index is 1 / n
    // (Pozar, section 3.3, from memory).
    auto* card = m_window->findChild<QPushButton*>("card-guide modes");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
    typeInEditor("guide rectangle 20 mm x 9 mm at 0, 0");
    clickPiece(doc().first("material")->id, "in");
    typeInEditor("guide");
    waitShape();
    clickPiece(doc().first("guide modes")->id, "at");
    typeInEditor("12 GHz");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    const double n = std::sqrt(1 - std::pow(299792458.0 / 40e-3 / 12e9, 2));
    auto numberOf = [&](int index) {
        for (const QString& word : finding(index).split(' ')) {
            bool ok = false;
            const double x = word.toDouble(&ok);
            if (ok && x > 0.1 && x < 10 && word.contains('.'))
                return x;
        }
        return 0.0;
    };
    QVERIFY2(std::abs(numberOf(0) / n - 1) < 1e-4, qPrintable(finding(0)));
    QVERIFY2(std::abs(numberOf(1) * n - 1) < 1e-3, qPrintable(finding(1)));
}

void TstJobs::galleryOfModes()
{
    open(R"({"yellowhorn sheet": 1, "lines": [
{"line": "space", "type": "plane", "depth": "1 m"},
{"line": "rectangle", "name": "guide", "width": "20 mm", "height": "9 mm", "at": "0, 0"},
{"line": "material", "material": "vacuum", "in": "guide"},
{"line": "guide modes", "count": "3", "at": "20 GHz"},
{"line": "effective index", "mode": "3"}
]})");
    auto* tabs = m_window->findChild<QTabWidget*>("drawerTabs");
    auto* gallery = m_window->findChild<QListWidget*>("modes");
    QVERIFY(tabs && gallery);
    const int page = tabs->indexOf(gallery);
    QVERIFY(!tabs->isTabVisible(page));
    QVERIFY(solveAndWait());
    QVERIFY(tabs->isTabVisible(page));
    QCOMPARE(gallery->count(), 3);
    QVERIFY(gallery->item(0)->text().startsWith("mode 1"));
    // Pictures are made when the page is opened; those of different modes differ.
    tabs->setCurrentIndex(page);
    QTest::qWait(200);
    auto picture = [&](int mode) {
        return gallery->item(mode)->icon().pixmap(Drawer::modePicture).toImage();
    };
    QVERIFY(!picture(0).isNull() && picture(0) != picture(1) && picture(1) != picture(2));
    // A click shows the mode in the scene.
    SceneCanvas* scene = m_window->scenePanel()->canvas();
    QTest::qWait(100);
    const QImage first = scene->grab().toImage();
    QTest::mouseClick(gallery->viewport(), Qt::LeftButton, {},
                      gallery->visualItemRect(gallery->item(2)).center());
    QTest::qWait(100);
    QVERIFY(scene->grab().toImage() != first);
    QCOMPARE(m_window->findChild<QToolButton*>("lens-quantity")->text(), QString("|E 3|"));
    // Another sheet has none.
    QSignalSpy shown(m_window.get(), &MainWindow::shapeShown);
    m_window->openFile(write(R"({"yellowhorn sheet": 1, "lines": [
{"line": "space", "type": "plane", "depth": "1 m"},
{"line": "rectangle", "name": "gap", "width": "4 mm", "height": "2 mm", "at": "0, 0"}
]})",
                             "other.yhn"));
    QVERIFY(shown.count() > 0 || shown.wait(patience));
    QVERIFY(!tabs->isTabVisible(page));
}

void TstJobs::antennaFromItsCard()
{
    // A half-wave dipole round its axis: 2.15 dBi (Balanis, Antenna Theory, section 4.6).
    auto* card = m_window->findChild<QPushButton*>("card-antenna");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    chooseSpace("axisymmetric");
    for (const char* line : {"upper rectangle 1 mm x 29 mm at 0.5 mm, 15.5 mm",
                             "lower rectangle 1 mm x 29 mm at 0.5 mm, -15.5 mm",
                             "between rectangle 1 mm x 2 mm at 0.5 mm, 0", "vacuum in between"}) {
        QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
        typeInEditor(line);
    }
    clickPiece(doc().first("material")->id, "in");
    typeInEditor("upper and lower");
    clickPiece(doc().findNamed("A")->id, "on");
    typeInEditor("between.right");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    bool hasGain = false;
    for (int i = 0; i < 4; ++i)
        if (const QStringList words = finding(i).split(QRegularExpression("\\s+"));
            words.contains("gain"))
            for (const QString& word : words)
                hasGain = hasGain || std::abs(word.toDouble() - 1.65) < 0.04;
    QVERIFY2(hasGain, qPrintable(finding(1)));
    // The pattern is a polar diagram, the reflection a chart of its own; a click into a plot reads
    // it off.
    auto* choice = m_window->findChild<QComboBox*>("curveChoice");
    auto* plot = m_window->findChild<QWidget*>("curve");
    QVERIFY(choice && plot);
    for (const char* name : {"pattern", "reflection chart"}) {
        int at = -1;
        for (int i = 0; i < choice->count(); ++i)
            if (choice->itemText(i).contains(name))
                at = i;
        QVERIFY2(at >= 0, name);
        choice->setCurrentIndex(at);
        Q_EMIT choice->activated(at);
        QTest::qWait(50);
        if (qEnvironmentVariableIsSet("YH_PICTURES"))
            m_window->grab().save(qEnvironmentVariable("YH_PICTURES") + "/" + name + ".png");
        QVERIFY(plot->grab().toImage().pixelColor(plot->rect().center()).isValid());
    }
    choice->setCurrentIndex(0);
    Q_EMIT choice->activated(0);
    const QImage before = plot->grab().toImage();
    QTest::mouseClick(plot, Qt::LeftButton, {}, plot->rect().center());
    QTest::qWait(50);
    QVERIFY(plot->grab().toImage() != before);
    if (qEnvironmentVariableIsSet("YH_PICTURES"))
        m_window->grab().save(qEnvironmentVariable("YH_PICTURES") + "/marker.png");
}

void TstJobs::scatteringFromItsCard()
{
    // A cylinder of metal, H along it: the width back is 4 |sum (-1)^n J_n' / H_n'|^2 / k (Bohren
    // and Huffman, section 8.4, from memory).
    auto* card = m_window->findChild<QPushButton*>("card-plane wave");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    chooseSpace("plane");
    QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
    typeInEditor("ball disc radius 30 mm at 0, 0");
    clickPiece(doc().first("material")->id, "in");
    typeInEditor("ball");
    const int wave = doc().first("plane wave")->id;
    clickPiece(wave, "E");
    typeInEditor("y");
    // A wave along z does not belong in a drawing, and says so at its chip.
    waitShape();
    QVERIFY(!m_window->faults().empty());
    QCOMPARE(m_window->faults()[0].place.field, std::string("towards"));
    clickPiece(wave, "towards");
    typeInEditor("-x");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    const double k = 2 * M_PI * 1.5e9 / 299792458.0, x = 0.03 * k;
    std::complex<double> sum = 0;
    for (int n = 0; n < 12; ++n) {
        auto J = [x](int l) { return std::cyl_bessel_j(double(l), x); };
        auto Y = [x](int l) { return std::cyl_neumann(double(l), x); };
        const double dJ = n == 0 ? -J(1) : J(n - 1) - n / x * J(n),
                     dY = n == 0 ? -Y(1) : Y(n - 1) - n / x * Y(n);
        sum += (n == 0 ? 1.0 : n % 2 == 0 ? 2.0 : -2.0) * dJ / std::complex<double>(dJ, dY);
    }
    const double width = 4 * std::norm(sum) / k * 1e3;
    bool isThere = false;
    QString all;
    for (int i = 0; i < 2; ++i) {
        all += finding(i) + "; ";
        for (const QString& word : finding(i).split(QRegularExpression("\\s+")))
            isThere = isThere || std::abs(word.toDouble() / width - 1) < 0.01;
    }
    QVERIFY2(isThere, qPrintable(all + QString::number(width)));
    // Scattering and absorption share a plot.
    auto* choice = m_window->findChild<QComboBox*>("curveChoice");
    QVERIFY(choice && choice->currentText().startsWith("cross-sections"));
}

void TstJobs::typedWire()
{
    // A dipole of 0.464 wavelengths, an eighth of it: some 60 to 70 ohm, shortly before its
    // resonance (common practice, no source).
    open(R"({"yellowhorn sheet": 1, "lines": [{"line": "space", "type": "solid"}]})");
    compose({"rod wire radius 1 mm along 0, 0, -120 mm; 0, 0, 120 mm",
             "band from 580 MHz to 580 MHz in 1 points", "wire port A in rod at 0, 0, 0",
             "open space", "mirror plane x = 0 kind even", "mirror plane y = 0 kind even",
             "mirror plane z = 0 kind odd", "input impedance at A at 580 MHz within 5 %"});
    QCOMPARE(doc().ofKind("wire").size(), size_t(1));
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    // Half of the wire is modelled and seen, with its port.
    const auto& wires = m_window->scenePanel()->solid()->shape().wires;
    QCOMPARE(wires.size(), size_t(1));
    QCOMPARE(wires[0].runs.size(), size_t(1));
    QCOMPARE(wires[0].runs[0].front()[2], 0.0);
    QCOMPARE(wires[0].ports.size(), size_t(1));
    QVERIFY(solveAndWait());
    QVERIFY2(finding().startsWith("input resistance"), qPrintable(finding()));
    const QStringList words = finding().split(' ');
    const double R = words[words.indexOf("ohm") - 1].toDouble();
    QVERIFY2(R > 55 && R < 75, qPrintable(finding()));
    // A wire too near to metal says so at its line.
    compose({"block box 2 mm x 2 mm x 2 mm at 2.5 mm, 0, 60 mm", "copper in block"});
    QVERIFY(!m_window->faults().empty());
    QCOMPARE(m_window->faults()[0].place.line, doc().first("wire")->id);
}

void TstJobs::typedLattice()
{
    // A film of the wave impedance of vacuum on an endless row of cells, straight and at an angle:
    // S11 = -1 / (1 + 2 R / Z), Z = eta cos(angle) for E in the drawing (Pozar, section 1.8).
    open(R"({"yellowhorn sheet": 1, "lines": [{"line": "space", "type": "plane"}]})");
    compose({"cell rectangle 8 mm x 40 mm at 0, 0", "film thin line along -4 mm, 0; 4 mm, 0",
             "vacuum in cell", "band from 8 GHz to 12 GHz in 5 points", "port A on cell.bottom",
             "port B on cell.top", "resistive sheet 376.73 ohm a square on film",
             "periodic cell.left to cell.right", "wave from A to A at 10 GHz within 0.5 %"});
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    auto size = [this] {
        for (const QString& word : finding().split(' '))
            if (bool ok = false; word.toDouble(&ok) > 0 && ok && word.contains('.'))
                return word.toDouble();
        return 0.0;
    };
    QVERIFY(solveAndWait());
    QVERIFY2(std::abs(size() - 1.0 / 3) < 2e-3, qPrintable(finding()));
    compose({"angle of incidence 60 deg"});
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    QVERIFY2(std::abs(size() - 0.2) < 2e-3, qPrintable(finding()));
}

void TstJobs::patternOfAnAntenna()
{
    // The table of a short dipole along z: 1.76 dBi across it, nothing along it (Balanis, Antenna
    // Theory, section 4.2, from memory).
    QDir(m_dir->path()).mkdir("fields");
    QFile file(m_dir->filePath("fields/pattern-D.csv"));
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write("theta (deg),phi (deg),gain (dBi)\n");
    constexpr int rows = 12;
    for (int i = 0; i <= rows; ++i)
        for (int k = 0; k < 2 * rows; ++k) {
            const double s = std::sin(3.14159265358979 * i / rows);
            file.write(QString("%1,%2,%3\n")
                           .arg(180 * i / rows)
                           .arg(180 * k / rows)
                           .arg(10 * std::log10(std::max(1e-6, 1.5 * s * s)))
                           .toLatin1());
        }
    file.close();
    const FarPattern p = FarPattern::fromFile(file.fileName(), "D");
    QCOMPARE(p.name, QString("D"));
    QCOMPARE(p.rows, rows);
    QVERIFY(std::abs(p.largest - 1.76) < 0.01);
    QCOMPARE(p.radius(0), 0.0);
    QVERIFY(std::abs(p.radius(rows / 2 * 2 * rows) - 1) < 1e-9);
    QVERIFY(std::abs(p.direction(rows / 2, rows / 2)[1] - 1) < 1e-9);
    // Beside a solid field it is a layer of the scene, seen and unseen.
    open(R"({"yellowhorn sheet": 1, "lines": [
{"line": "space", "type": "solid"},
{"line": "box", "name": "gap", "width": "4 mm", "length": "4 mm", "height": "2 mm", "at": "0, 0, 0"},
{"line": "material", "material": "vacuum", "in": "gap"},
{"line": "electrode", "name": "A", "voltage": "1 V", "on": "gap.top"},
{"line": "electrode", "name": "B", "voltage": "0 V", "on": "gap.bottom"},
{"line": "outer edge", "is": "insulated"},
{"line": "capacitance", "from": "A", "to": "B"}
]})");
    QVERIFY(solveAndWait());
    auto* pill = m_window->findChild<QToolButton*>("lens-pattern");
    QVERIFY(pill && !pill->isVisible());
    m_window->scenePanel()->setPattern(p);
    QVERIFY(pill->isVisible());
    SolidCanvas* scene = m_window->scenePanel()->solid();
    QTest::qWait(300);
    const QImage without = scene->grab().toImage();
    QTest::mouseClick(pill, Qt::LeftButton);
    QTest::qWait(300);
    QVERIFY(scene->grab().toImage() != without);
    // A broken table is no pattern.
    QVERIFY(file.open(QIODevice::Append));
    file.write("1,2,oops\n");
    file.close();
    QVERIFY(FarPattern::fromFile(file.fileName(), "D").isEmpty());
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
    // The mean reads 350 K or a little less; in degrees it is 273.15 less, and its error the same.
    const auto before = m_window->results().findings()[0];
    QMetaObject::invokeMethod(m_window->findChild<FindingsView*>(), "unitRequested",
                              Q_ARG(int, doc().first("mean temperature")->id), Q_ARG(QPoint, {}));
    auto* units = m_window->findChild<QMenu*>("unitMenu");
    QVERIFY(units);
    for (QAction* a : units->actions())
        if (a->text() == QString::fromUtf8("°C"))
            a->trigger();
    units->close();
    const auto after = m_window->results().findings()[0];
    QCOMPARE(after.unit, QString::fromUtf8("°C"));
    QVERIFY(std::abs(before.value.toDouble() - after.value.toDouble() - 273.15) < 0.1);
    QCOMPARE(after.error, before.error);
    // The band of the gauge is what was asked for: a hundredth of the rise, not of 340 K.
    QVERIFY(after.gauge.bandHigh - after.gauge.bandLow < 1.1);
}

void TstJobs::phaseOfAWave()
{
    open(R"({"yellowhorn sheet": 1, "lines": [
{"line": "space", "type": "plane", "depth": "20 mm"},
{"line": "rectangle", "name": "line", "width": "4 mm", "height": "40 mm", "at": "0, 0"},
{"line": "material", "material": "vacuum", "in": "line"},
{"line": "band", "from": "5 GHz", "to": "6 GHz", "points": "3", "shown": "5.5 GHz"},
{"line": "port", "name": "A", "on": "line.bottom"},
{"line": "port", "name": "B", "on": "line.top"},
{"line": "S-parameters"}
]})");
    QVERIFY(solveAndWait());
    auto* player = m_window->findChild<QWidget*>("player");
    auto* at = m_window->findChild<QSlider*>("timeAt");
    auto* text = m_window->findChild<QLabel*>("timeText");
    QVERIFY(player->isVisible() && at && text);
    QCOMPARE(text->text(), QString("phase 0°"));
    m_window->scenePanel()->setLens("E.x");
    SceneCanvas* scene = m_window->scenePanel()->canvas();
    QTest::qWait(50);
    const QImage first = scene->grab().toImage();
    at->setValue(250);
    QCOMPARE(text->text(), QString("phase 90°"));
    QTest::qWait(50);
    QVERIFY(scene->grab().toImage() != first);
    // Playing goes round and does not end.
    at->setValue(980);
    QTest::mouseClick(m_window->findChild<QToolButton*>("play"), Qt::LeftButton);
    QTRY_VERIFY_WITH_TIMEOUT(at->value() < 900, 5000);
    QVERIFY(m_window->findChild<QToolButton*>("play")->isChecked());
    QTest::mouseClick(m_window->findChild<QToolButton*>("play"), Qt::LeftButton);
    if (qEnvironmentVariableIsSet("YH_PICTURES"))
        m_window->grab().save(qEnvironmentVariable("YH_PICTURES") + "/phase.png");
}

int main(int argc, char** argv)
{
    prepareApplication();
    QApplication app(argc, argv);
    TstJobs test;
    return QTest::qExec(&test, argc, argv);
}

#include "tst_jobs.moc"
