// Jobs of waves from the opening page to a figure, by mouse and keyboard in the real window.
#include "gds.h"
#include "window_test.h"

class TstWaveJobs : public WindowTest
{
    Q_OBJECT
private Q_SLOTS:
    void initTestCase() { begin(); }
    void init() { openWindow(); }
    void cleanup() { closeWindow(); }
    void ringDownFromItsCard();
    void photonicPartFromItsCard();
    void cavityFromAnEmptySheet();
    void guideModesFromTheirCard();
    void galleryOfModes();
    void antennaFromItsCard();
    void scatteringFromItsCard();
    void typedWire();
    void typedLattice();
    void patternOfAnAntenna();
    void phaseOfAWave();
};

void TstWaveJobs::ringDownFromItsCard()
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

void TstWaveJobs::photonicPartFromItsCard()
{
    // A straight guide of a layout passes all of a wave on.
    QTemporaryDir folder;
    const QString file = folder.filePath("line.gds");
    test::Gds g;
    g.begin("LINE")
        .polygon(1, {-4000, -500, 4000, -500, 4000, 500, -4000, 500, -4000, -500})
        .polygon(2, {-1000, -1500, 1000, -1500, 1000, 1500, -1000, 1500, -1000, -1500})
        .path(7, 1000, {-900, 0, -1100, 0})
        .path(7, 1000, {900, 0, 1100, 0})
        .label(7, "west", -1000, 0)
        .label(7, "east", 1000, 0)
        .end()
        .write(file);
    auto* card = m_window->findChild<QPushButton*>("card-photonic part");
    QVERIFY(card && card->isVisible());
    QTest::mouseClick(card, Qt::LeftButton);
    waitShape();
    for (const char* layer : {"clad", "core"}) {
        clickPiece(doc().findNamed(layer)->id, "file");
        typeInEditor(file);
    }
    waitShape();
    clickPiece(doc().findNamed("A")->id, "label");
    typeInEditor("west");
    clickPiece(doc().findNamed("B")->id, "label");
    typeInEditor("east");
    clickPiece(doc().first("time grid")->id, "cell");
    typeInEditor("80 nm");
    waitShape();
    QVERIFY2(m_window->faults().empty(),
             m_window->faults().empty() ? "" : m_window->faults()[0].text.c_str());
    QVERIFY(solveAndWait());
    double through = 0;
    for (const QString& word : finding(0).split(' '))
        if (word.toDouble() > 0.5 && word.toDouble() < 1.5)
            through = word.toDouble();
    QVERIFY2(std::abs(through - 1) < 0.06, qPrintable(finding(0)));
    // The pulse can be played.
    QVERIFY(m_window->findChild<QWidget*>("player")->isVisible());
}

void TstWaveJobs::cavityFromAnEmptySheet()
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

void TstWaveJobs::guideModesFromTheirCard()
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

void TstWaveJobs::galleryOfModes()
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
    QVERIFY(m_window->findChild<QToolButton*>("lens-quantity")->text().startsWith("|E 3| in "));
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

void TstWaveJobs::antennaFromItsCard()
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

void TstWaveJobs::scatteringFromItsCard()
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

void TstWaveJobs::typedWire()
{
    // A dipole of 0.464 wavelengths, an eighth of it: some 60 to 70 ohm, shortly before its
    // resonance (common practice, no source).
    open(R"({"yellowhorn sheet": 1, "lines": [{"line": "space", "type": "solid"}]})");
    compose({"rod wire radius 1 mm along 0, 0, -120 mm; 0, 0, 120 mm",
             "band from 580 MHz to 580 MHz in 1 points", "gap feed A in rod at 0, 0, 0",
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
    const double R = words[words.indexOf("Ω") - 1].toDouble();
    QVERIFY2(R > 55 && R < 75, qPrintable(finding()));
    // A wire too near to metal says so at its line.
    compose({"block box 2 mm x 2 mm x 2 mm at 2.5 mm, 0, 60 mm", "copper in block"});
    QVERIFY(!m_window->faults().empty());
    QCOMPARE(m_window->faults()[0].place.line, doc().first("wire")->id);
}

void TstWaveJobs::typedLattice()
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

void TstWaveJobs::patternOfAnAntenna()
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

void TstWaveJobs::phaseOfAWave()
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

YH_TEST(TstWaveJobs)

#include "tst_wave_jobs.moc"
