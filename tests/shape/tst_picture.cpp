// Regions from grey-level pictures.
#include "changed.h"
#include "program.h"
#include "run/run.h"
#include "shape/partition.h"
#include "sheet/model.h"
#include "solved.h"

#include <png.h>
#include <QTemporaryDir>
#include <QtTest/QtTest>

#include <cmath>
#include <functional>
#include <vector>

namespace tst_picture {

using namespace yh;
using sheet::Document;

namespace {

constexpr double pi = 3.14159265358979323846;

/// Writes a picture of a level by place, y downwards.
QString draw(const QTemporaryDir& folder, int width, int height,
             const std::function<int(int, int)>& level)
{
    std::vector<unsigned char> pixels;
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x)
            pixels.push_back(static_cast<unsigned char>(level(x, y)));
    png_image image{};
    image.version = PNG_IMAGE_VERSION;
    image.width = png_uint_32(width);
    image.height = png_uint_32(height);
    image.format = PNG_FORMAT_GRAY;
    const QString file = folder.filePath("map.png");
    if (!png_image_write_to_file(&image, qPrintable(file), 0, pixels.data(), 0, nullptr))
        qWarning("no picture");
    return file;
}

Document pictured(const char* from, const char* to, const char* width = "10 mm")
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("picture", {{"name", "part"},
                      {"file", "map.png"},
                      {"from", from},
                      {"to", to},
                      {"width", width},
                      {"at", "2 mm, 1 mm"}});
    return d;
}
/// m^2, over all regions; NaN where it cannot be built.
double area(const Document& d, const QTemporaryDir& folder, std::string* fault = nullptr)
{
    try {
        const auto p = shape::Partition::build(sheet::Model(d), folder.path().toStdString());
        double sum = 0;
        for (const auto& piece : p.pieces())
            sum += piece.content;
        return sum;
    } catch (const base::Error& e) {
        if (fault)
            *fault = e.what();
        return NAN;
    }
}

}  // namespace

class TstPicture : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void areas_data();
    void areas();
    void cornersOfBoxesStay();
    void echoOfAPicture();
    void badPictures();
};

void TstPicture::areas_data()
{
    QTest::addColumn<int>("shape");
    QTest::addColumn<double>("pixels");
    QTest::newRow("disc") << 0 << pi * 60 * 60;
    QTest::newRow("ring") << 1 << pi * (60 * 60 - 30 * 30);
    // So many pixels have their middles inside.
    QTest::newRow("turned square") << 2 << 4900.0;
    QTest::newRow("two boxes") << 3 << 2.0 * 40 * 30;
    QTest::newRow("to the edge of the picture") << 4 << 200.0 * 75;
    QTest::newRow("an island in a ring") << 5 << pi * (60 * 60 - 40 * 40 + 15 * 15);
}

void TstPicture::areas()
{
    QFETCH(int, shape);
    QFETCH(double, pixels);
    QTemporaryDir folder;
    draw(folder, 200, 150, [shape](int x, int y) {
        const double u = x + 0.5 - 100, v = y + 0.5 - 75, r = std::hypot(u, v);
        const bool in[] = {r < 60,
                           r < 60 && r > 30,
                           std::abs(u) + std::abs(v) < 50,
                           std::abs(v) < 15 && std::abs(std::abs(u) - 50) < 20,
                           v > 0,
                           (r < 60 && r > 40) || r < 15};
        return in[shape] ? 128 : 0;
    });
    // 10 mm over 200 pixels.
    const double found = area(pictured("100", "160"), folder) / std::pow(10e-3 / 200, 2);
    QVERIFY2(std::abs(found / pixels - 1) < 0.01,
             qPrintable(QString("%1, not %2").arg(found).arg(pixels)));
}

void TstPicture::cornersOfBoxesStay()
{
    QTemporaryDir folder;
    draw(folder, 100, 80, [](int x, int y) { return x >= 20 && x < 70 && y >= 10 && y < 50; });
    const auto p =
        shape::Partition::build(sheet::Model(pictured("1", "1")), folder.path().toStdString());
    QCOMPARE(p.pieces().size(), size_t(1));
    QVERIFY(std::abs(p.pieces()[0].content / (50 * 40 * 1e-8) - 1) < 1e-9);
    // The picture's middle is at 2 mm, 1 mm; rows count from the top.
    const auto inside = p.pieces()[0].inside;
    QVERIFY(inside.x > -1e-3 && inside.x < 4e-3);
    QVERIFY(inside.y > 0 && inside.y < 4e-3);
}

void TstPicture::echoOfAPicture()
{
    // A steel disc in water, drawn and from a picture of 20 pixels a millimetre.
    QTemporaryDir folder;
    draw(folder, 480, 320,
         [](int x, int y) { return std::hypot(x + 0.5 - 320, y + 0.5 - 160) < 80 ? 128 : 0; });
    double first[2] = {}, error[2] = {};
    for (const bool drawn : {true, false}) {
        Document d;
        d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
        d.add("rectangle",
              {{"name", "basin"}, {"width", "24 mm"}, {"height", "16 mm"}, {"at", "12 mm, 8 mm"}});
        if (drawn)
            d.add("disc", {{"name", "post"}, {"radius", "4 mm"}, {"at", "16 mm, 8 mm"}});
        else
            d.add("picture", {{"name", "post"},
                              {"file", "map.png"},
                              {"from", "100"},
                              {"to", "160"},
                              {"width", "24 mm"},
                              {"at", "12 mm, 8 mm"}});
        d.add("material", {{"material", "water"}, {"in", "basin"}});
        d.add("material", {{"material", "steel"}, {"in", "post"}});
        d.add("sound run", {{"time", "16 us"}, {"cell", "80 um"}});
        d.add(
            "sound source",
            {{"name", "S"}, {"frequency", "1 MHz"}, {"from", "2 mm, 4 mm"}, {"to", "2 mm, 12 mm"}});
        d.add("receiver", {{"name", "R"}, {"at", "5 mm, 8 mm"}});
        d.add("arrival", {{"at", "R"}, {"number", "2"}, {"within", "2 %"}});
        run::Settings settings;
        settings.folder = folder.path().toStdString();
        base::Progress progress;
        run::Outcome outcome{};
        const auto r = run::solve(d, settings, progress, outcome);
        first[drawn] = test::valueOf(r, "arrival");
        error[drawn] = test::errorOf(r, "arrival");
    }
    QVERIFY2(std::abs(first[0] - first[1]) < error[0] + error[1] &&
                 std::abs(first[0] / first[1] - 1) < 2e-3,
             qPrintable(QString("%1 and %2").arg(first[0]).arg(first[1])));
}

void TstPicture::badPictures()
{
    QTemporaryDir folder;
    std::string fault;
    auto says = [&](const Document& d, const char* text) {
        fault.clear();
        area(d, folder, &fault);
        return fault.find(text) != std::string::npos;
    };
    QVERIFY2(says(pictured("0", "9"), "is not there"), fault.c_str());
    QFile file(folder.filePath("map.png"));
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write("no picture");
    file.close();
    QVERIFY2(says(pictured("0", "9"), "cannot be read as a PNG"), fault.c_str());
    draw(folder, 60, 60, [](int x, int) { return x < 20 ? 0 : 128; });
    QVERIFY2(says(pictured("200", "255"), "it has 128 (67 %), 0 (33 %)"), fault.c_str());
    QVERIFY2(says(pictured("160", "100"), "is lighter than"), fault.c_str());
    // Cut short.
    QVERIFY(file.open(QIODevice::ReadWrite));
    file.resize(file.size() - 30);
    file.close();
    QVERIFY2(says(pictured("100", "160"), "broken"), fault.c_str());
    // Noise has too many corners to be a shape.
    std::uint32_t seed = 7;
    draw(folder, 700, 700, [&seed](int x, int y) {
        if (x % 2 == 0 && y % 2 == 0)
            seed = seed * 1664525U + 1013904223U;
        return ((seed >> (8 + x % 2 + 2 * (y % 2))) & 3) ? 200 : 10;
    });
    QVERIFY2(says(pictured("100", "255"), "corners, more than"), fault.c_str());
}

YH_TEST(TstPicture)

}  // namespace tst_picture

#include "tst_picture.moc"
