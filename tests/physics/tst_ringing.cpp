// Ring-downs on a grid against resonators whose answers are known.
#include "exact_figures.h"
#include "grid/yee_grid.h"
#include "physics/wave/ringing/ringing.h"
#include "program.h"
#include "sheet/model.h"
#include "wrong_sheets.h"

#include <omp.h>
#include <cmath>

namespace tst_ringing {

using namespace yh;
using sheet::Document;
using test::errorOf;
using test::isRefused;
using test::solved;
using test::valueOf;

namespace {

constexpr double c0 = 299792458.0, pi = 3.14159265358979323846;

using Exact = test::ExactFigure;

Document rung(const char* space, const char* from, const char* to, const char* cell, const char* at,
              const char* along)
{
    Document d;
    d.add("space", {{"type", space}});
    d.add("ring-down", {{"from", from}, {"to", to}, {"cell", cell}});
    d.add("point dipole", {{"name", "D"}, {"at", at}, {"along", along}});
    return d;
}
void fill(Document& d, const char* in, const char* eps, const char* loss = "0")
{
    d.add("material", {{"material", "my medium"}, {"in", in}, {"eps", eps}, {"loss", loss}});
}
void askFor(Document& d, const char* mode, bool alsoQ = false)
{
    d.add("resonance", {{"mode", mode}});
    if (alsoQ)
        d.add("quality factor", {{"mode", mode}});
}
void addBox(Document& d, const char* name, const char* w, const char* l, const char* h,
            const char* at = "0, 0, 0")
{
    d.add("box", {{"name", name}, {"width", w}, {"length", l}, {"height", h}, {"at", at}});
}

/// A box of 50 by 40 by 30 mm.
Document box(const char* to = "7 GHz", const char* eps = "1", const char* loss = "0")
{
    Document d = rung("solid", "4 GHz", to, "2.5 mm", "5 mm, 4 mm, 10 mm", "z");
    addBox(d, "can", "50 mm", "40 mm", "30 mm");
    fill(d, "can", eps, loss);
    return d;
}
double boxMode(int m, int n, int p)
{
    return c0 / 2 * std::hypot(m / 50e-3, n / 40e-3, p / 30e-3);
}

/// sum of admittances of a guide of length a with a slab of eps over its share: zero of
/// tan(k1 l1) / k1 + tan(k2 l2) / k2, lowest.
double slabMode(double l1, double l2, double eps)
{
    double low = 1e8, high = c0 / (2 * (l1 + l2));
    auto f = [&](double hz) {
        const double k = 2 * pi * hz / c0, n = std::sqrt(eps);
        return std::sin(k * l1) * std::cos(n * k * l2) * n +
               std::cos(k * l1) * std::sin(n * k * l2);
    };
    for (int i = 0; i < 80; ++i) {
        const double middle = (low + high) / 2;
        (f(low) * f(middle) <= 0 ? high : low) = middle;
    }
    return low;
}

std::vector<Exact> exactProblems()
{
    std::vector<Exact> list;
    {
        Document d = box();
        askFor(d, "1");
        askFor(d, "2");
        list.push_back({"box, its lowest mode", d, "frequency of mode 1", boxMode(1, 1, 0)});
        list.push_back({"box, the second mode", d, "frequency of mode 2", boxMode(1, 1, 1)});
    }
    {
        Document d = box();
        d.add("metal wall",
              {{"material", "my metal"}, {"on", "outer of can"}, {"sigma", "1e7 S/m"}});
        askFor(d, "1", true);
        // Pozar, section 6.3, of a TE101 mode of a box a x b x d: here a, d = 50, 40 and b = 30 mm.
        const double f = boxMode(1, 1, 0), k = 2 * pi * f / c0,
                     Rs = std::sqrt(pi * f * 4e-7 * pi / 1e7), a = 50e-3, b = 30e-3, e = 40e-3;
        list.push_back(
            {"Q of a box by its walls", d, "Q of",
             std::pow(k * a * e, 3) * b * 376.730313668 / (2 * pi * pi * Rs) /
                 (2 * a * a * a * b + 2 * b * e * e * e + a * a * a * e + a * e * e * e)});
    }
    {
        Document d = box("6 GHz", "1.21", "0.004");
        askFor(d, "1", true);
        list.push_back(
            {"box filled with a medium", d, "frequency of mode 1", boxMode(1, 1, 0) / 1.1});
        list.push_back({"Q of a medium", d, "Q of", 1 / 0.004});
    }
    {
        Document d = rung("solid", "4 GHz", "6 GHz", "2 mm", "5 mm, 4 mm, 10 mm", "z");
        addBox(d, "can", "50 mm", "40 mm", "30 mm");
        fill(d, "can", "1");
        d.add("mirror plane", {{"at", "x = 0"}, {"kind", "even"}});
        d.add("mirror plane", {{"at", "y = 0"}, {"kind", "even"}});
        askFor(d, "1");
        list.push_back({"quarter of a box", d, "frequency of mode 1", boxMode(1, 1, 0)});
    }
    {
        Document d = rung("solid", "3.6 GHz", "6 GHz", "2 mm", "3 mm, 4 mm, 7 mm", "z");
        d.add("cylinder", {{"name", "can"}, {"radius", "25 mm"}, {"height", "30 mm"}});
        fill(d, "can", "1");
        d.add("metal wall",
              {{"material", "my metal"}, {"on", "outer of can"}, {"sigma", "1e7 S/m"}});
        askFor(d, "1", true);
        const double f = 2.404825557695773 * c0 / (2 * pi * 25e-3);
        list.push_back({"can, TM010", d, "frequency of mode 1", f});
        list.push_back({"Q of TM010 by walls", d, "Q of",
                        25e-3 * std::sqrt(pi * f * 4e-7 * pi * 1e7) / (1 + 25.0 / 30)});
    }
    {
        Document d = rung("solid", "4.4 GHz", "6.2 GHz", "2 mm", "3 mm, 4 mm, 7 mm", "z");
        d.add("sphere", {{"name", "can"}, {"radius", "25 mm"}});
        fill(d, "can", "1");
        askFor(d, "1");
        list.push_back(
            {"ball, TM101", d, "frequency of mode 1", 2.7437072699922694 * c0 / (2 * pi * 25e-3)});
    }
    {
        Document d = rung("plane", "2.5 GHz", "6 GHz", "1 mm", "7 mm, 4 mm", "z");
        d.add("field across", {});
        d.add("rectangle",
              {{"name", "can"}, {"width", "60 mm"}, {"height", "50 mm"}, {"at", "0, 0"}});
        fill(d, "can", "1");
        askFor(d, "1");
        list.push_back({"rectangle, E across", d, "frequency of mode 1",
                        c0 / 2 * std::hypot(1 / 60e-3, 1 / 50e-3)});
    }
    {
        Document d = rung("plane", "2.5 GHz", "8 GHz", "0.8 mm", "9 mm, 4 mm", "x");
        d.add("disc", {{"name", "can"}, {"radius", "25 mm"}});
        fill(d, "can", "1");
        askFor(d, "1");
        // Grids part the two modes of the pair.
        askFor(d, "3");
        const double k = c0 / (2 * pi * 25e-3);
        list.push_back(
            {"circle, E in the plane", d, "frequency of mode 1", 1.8411837813406593 * k});
        list.push_back({"the same, next mode", d, "frequency of mode 3", 3.054236928227140 * k});
    }
    {
        // Half of a guide's length is filled: the lowest mode between plates, E along them.
        Document d = rung("plane", "1.2 GHz", "4 GHz", "1 mm", "7 mm, 1 mm", "y");
        d.add("rectangle",
              {{"name", "can"}, {"width", "60 mm"}, {"height", "8 mm"}, {"at", "30 mm, 0"}});
        d.add("rectangle",
              {{"name", "slab"}, {"width", "23.3 mm"}, {"height", "8 mm"}, {"at", "48.35 mm, 0"}});
        fill(d, "can", "1");
        fill(d, "slab", "4");
        askFor(d, "1");
        list.push_back({"slab between plates, off the grid", d, "frequency of mode 1",
                        slabMode(36.7e-3, 23.3e-3, 4)});
    }
    {
        Document d = rung("plane", "2.5 GHz", "6 GHz", "1 mm", "-3 mm, 2 mm", "z");
        d.add("field across", {});
        d.add("rectangle",
              {{"name", "air"}, {"width", "80 mm"}, {"height", "80 mm"}, {"at", "0, 0"}});
        d.add("disc", {{"name", "rod"}, {"radius", "9 mm"}});
        fill(d, "air", "1");
        fill(d, "rod", "12");
        d.add("absorbing wall", {{"on", "outer of air"}});
        askFor(d, "1", true);
        // Poles of a rod's series (Bohren and Huffman, section 8.4), order 1, found by `lowest
        // modes` with 2e-5.
        list.push_back({"rod that radiates", d, "frequency of mode 1", 3.50143e9});
        list.push_back({"Q of a rod that radiates", d, "Q of", 5.5827});
    }
    return list;
}

}  // namespace

class TstRinging : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void withinStatedError();
    void oscillationsAreFound();
    void energyStays();
    void layersAbsorb();
    void bentBorders();
    void likeTheElements();
    void threadsDoNotMatter();
    void badInput_data();
    void badInput();
};

void TstRinging::withinStatedError()
{
    test::checkExact(exactProblems(), 0.02, "### Exact problems (`tests/physics/tst_ringing`)");
}

void TstRinging::oscillationsAreFound()
{
    // Three damped oscillations, two of them close, and one beyond the band.
    const double dt = 5e-12, f[] = {1.2e9, 1.23e9, 1.9e9, 3.5e9}, Q[] = {900, 40, 1e5, 300};
    std::vector<std::vector<float>> traces(2, std::vector<float>(8000));
    for (size_t t = 0; t < traces[0].size(); ++t)
        for (size_t k = 0; k < 4; ++k) {
            const double x = double(t) * dt, wave = std::exp(-pi * f[k] / Q[k] * x);
            traces[0][t] += float(wave * std::cos(2 * pi * f[k] * x + double(k)));
            traces[1][t] += float((k == 1 ? -0.5 : 0.3) * wave * std::sin(2 * pi * f[k] * x));
        }
    const auto list = physics::ringsOf(traces, dt, 100, 1e9, 2e9);
    QCOMPARE(int(list.size()), 3);
    for (size_t k = 0; k < 3; ++k) {
        QVERIFY2(std::abs(list[k].frequency / f[k] - 1) < 1e-6,
                 qPrintable(QString::number(list[k].frequency, 'g', 12)));
        QVERIFY2(std::abs(list[k].decay / (pi * f[k] / Q[k]) - 1) < (k == 2 ? 0.05 : 1e-3),
                 qPrintable(QString::number(list[k].decay)));
    }
}

void TstRinging::energyStays()
{
    // In a box without losses, with a block at its middle, nothing grows or dies in 20 000 steps.
    grid::YeeGrid::Options o;
    o.cells = {12, 10, 9};
    o.size = {1e-3, 1.2e-3, 0.9e-3};
    grid::YeeGrid g(
        o,
        [](int, int i, int j, int k) {
            return grid::YeeEdge{
                1, i > 4 && i < 8 && j > 3 && j < 7 && k > 3 && k < 6 ? 5.0F : 1.0F, 0};
        },
        [](int, int, int, int) { return grid::YeeFace{}; },
        [](int i, int j, int k) {
            return std::array<float, 3>{0, i == 4 && k == 4 ? 0.1F : 0.0F, j == 3 ? -0.1F : 0.0F};
        });
    const auto e = g.edge(2, 5, 5, 4);
    float early = 0, late = 0;
    for (int n = 0; n < 20000; ++n) {
        g.step();
        if (n < 40)
            g.drive(e, float(std::sin(0.2 * n)));
        const float now = std::abs(g.electric(e));
        if (n > 40 && n < 4040)
            early = std::max(early, now);
        if (n > 16000)
            late = std::max(late, now);
    }
    QVERIFY2(late > 0.9F * early && late < 1.1F * early,
             qPrintable(QString("%1, %2").arg(early).arg(late)));
}

void TstRinging::layersAbsorb()
{
    // A pulse from the middle of a small room: what its sides give back stays below 0.3 %, in
    // vacuum and where a medium goes on through a side.
    for (const bool withMedium : {false, true}) {
        grid::YeeGrid::Options o;
        o.cells = {40, 40, 40};
        o.size = {1e-3, 1e-3, 1e-3};
        o.walls.fill(grid::Wall::absorbing);
        o.lowest = 2e9;
        grid::YeeGrid g(
            o,
            [&](int, int, int, int k) {
                return grid::YeeEdge{1, withMedium && k > 30 ? 2.5F : 1.0F, 0};
            },
            [](int, int, int, int) { return grid::YeeFace{}; });
        const auto e = g.edge(2, 20, 20, 20), at = g.edge(2, 27, 24, 21);
        float most = 0, late = 0;
        for (int n = 0; n < 500; ++n) {
            g.step();
            const double s = (g.time() - 120e-12) / 30e-12;
            g.drive(e, float(-s * std::exp(-s * s)));
            const float now = std::abs(g.electric(at));
            most = std::max(most, now);
            if (n > 330)
                late = std::max(late, now);
        }
        QVERIFY2(most > 0 && late < 3e-3F * most, qPrintable(QString::number(late / most)));
    }
}

void TstRinging::bentBorders()
{
    // Cells of a fourth of the size on a bent border between media, E in the plane.
    double value[3];
    const char* cell[] = {"2 mm", "1 mm", "0.5 mm"};
    for (int k = 0; k < 3; ++k) {
        Document d = rung("plane", "2.2 GHz", "5 GHz", cell[k], "-3 mm, 7 mm", "x");
        d.add("disc", {{"name", "can"}, {"radius", "25 mm"}});
        d.add("disc", {{"name", "puck"}, {"radius", "9 mm"}, {"at", "4 mm, 3 mm"}});
        fill(d, "can", "1");
        fill(d, "puck", "6");
        askFor(d, "1");
        value[k] = valueOf(solved(d), "frequency of mode 1");
    }
    // By `lowest modes`, to 4e-5 GHz.
    const double truth = 2.973064e9;
    QVERIFY2(std::abs(value[2] / truth - 1) < 1e-3, qPrintable(QString::number(value[2], 'g', 8)));
    QVERIFY2(std::abs(value[0] / truth - 1) < 2e-2, qPrintable(QString::number(value[0], 'g', 8)));
}

void TstRinging::likeTheElements()
{
    // One sheet twice: as a ring-down, and by elements of third order.
    Document d = rung("solid", "2.6 GHz", "5 GHz", "1 mm", "7 mm, 5 mm, 14 mm", "z");
    addBox(d, "can", "40 mm", "36 mm", "18 mm");
    d.add("cylinder", {{"name", "post"}, {"radius", "6 mm"}, {"height", "12 mm"}});
    fill(d, "can", "1");
    d.add("material", {{"material", "copper"}, {"in", "post"}});
    d.add("mirror plane", {{"at", "x = 0"}, {"kind", "even"}});
    d.add("mirror plane", {{"at", "y = 0"}, {"kind", "even"}});
    askFor(d, "1");
    Document other = d;
    std::erase_if(other.lines,
                  [](const auto& l) { return l.kind == "ring-down" || l.kind == "point dipole"; });
    other.add("modes", {{"count", "1"}});
    other.add("limits", {{"passes", "2"}});
    const run::Result grid = solved(d), elements = solved(other);
    const double f = valueOf(grid, "frequency"), g = valueOf(elements, "frequency");
    QVERIFY2(std::abs(f - g) < errorOf(grid, "frequency") + errorOf(elements, "frequency"),
             qPrintable(QString("%1, %2").arg(f).arg(g)));
    QVERIFY2(std::abs(f / g - 1) < 0.01, qPrintable(QString("%1, %2").arg(f).arg(g)));
}

void TstRinging::threadsDoNotMatter()
{
    double value[2], error[2];
    const int before = omp_get_max_threads();
    for (const int k : {0, 1}) {
        omp_set_num_threads(k == 0 ? 1 : 2);
        Document d = rung("plane", "2.5 GHz", "6 GHz", "1.5 mm", "9 mm, 4 mm", "x");
        d.add("disc", {{"name", "can"}, {"radius", "25 mm"}});
        d.add("disc", {{"name", "puck"}, {"radius", "8 mm"}, {"at", "3 mm, 2 mm"}});
        fill(d, "can", "1");
        fill(d, "puck", "5", "0.01");
        askFor(d, "1", true);
        const run::Result r = solved(d);
        value[k] = valueOf(r, "Q of");
        error[k] = errorOf(r, "Q of");
    }
    omp_set_num_threads(before);
    QCOMPARE(value[0], value[1]);
    QCOMPARE(error[0], error[1]);
}

void TstRinging::badInput_data()
{
    test::addWrongs({{"too few cells", {7870, "ring-down", "cell", "8 mm"}},
                     {"hours", {7872, "ring-down", "cell", "20 um"}},
                     {"no band", {7860, "ring-down", "to", "3 GHz"}},
                     {"too short", {7871, "ring-down", "time", "2 ns"}},
                     {"no dipole", {7865, "point dipole", "", ""}},
                     {"dipole outside", {7873, "point dipole", "at", "0, 0, 90 mm"}},
                     {"dipole along a wall", {7854, "point dipole", "at", "25 mm, 0, 15 mm"}},
                     {"modes beside", {2059, "modes", "count", "2"}},
                     {"open space", {7862, "open space", "distance", "10 mm"}},
                     {"no losses", {7881, "quality factor", "mode", "1"}},
                     {"too many modes", {7851, "resonance", "mode", "40"}},
                     {"below vacuum", {7869, "material", "eps", "0.5"}},
                     {"magnetic", {7863, "material", "mu", "2"}},
                     {"runs with the frequency", {7864, "material", "eps", "2 + f/(10 GHz)"}},
                     {"no axis", {7861, "space", "type", "axisymmetric"}},
                     {"thin metal", {7855, "box", "", ""}},
                     {"nothing rings", {7850, "ring-down", "to", "4.4 GHz"}}});
}

void TstRinging::badInput()
{
    const auto [fault, kind, slot, value] = test::fetchWrong();
    Document d = box();
    if (fault == 7861) {
        std::erase_if(d.lines, [](const auto& l) { return l.kind == "box"; });
        d.add("rectangle",
              {{"name", "can"}, {"width", "20 mm"}, {"height", "20 mm"}, {"at", "10 mm, 0"}});
        d = test::changed(d, "point dipole", "at", "0, 0");
    }
    askFor(d, "1");
    if (fault == 7855) {
        addBox(d, "fin", "0.3 mm", "30 mm", "20 mm");
        d.add("material", {{"material", "copper"}, {"in", "fin"}});
    }
    const Document wrong = fault == 7855 ? d : test::changed(d, kind, slot, value);
    const bool showsLate = fault >= 7850 && fault < 7860;
    QVERIFY(showsLate ? test::isUnsolvable(wrong, fault) : isRefused(wrong, fault));
}

YH_TEST(TstRinging)

}  // namespace tst_ringing

#include "tst_ringing.moc"
