// Pulses through ports on a grid against guides and junctions whose answers are known.
#include "exact_figures.h"
#include "gds.h"
#include "physics/wave/pulsed/pulsed.h"
#include "program.h"
#include "sheet/model.h"
#include "wrong_sheets.h"

#include <omp.h>
#include <QTemporaryDir>

#include <cmath>
#include <complex>

namespace tst_pulsed {

using namespace yh;
using sheet::Document;
using test::errorOf;
using test::isGood;
using test::isRefused;
using test::solved;
using test::valueOf;

namespace {

using Complex = std::complex<double>;
using Exact = test::ExactFigure;
constexpr double c0 = 299792458.0, pi = 3.14159265358979323846, eta0 = 376.730313668;

void fill(Document& d, const char* in, const char* eps, const char* loss = "0")
{
    d.add("material", {{"material", "my medium"}, {"in", in}, {"eps", eps}, {"loss", loss}});
}
void askWave(Document& d, const char* from, const char* to, const char* at,
             const char* within = "5 %")
{
    d.add("scattering", {{"from", from}, {"to", to}, {"at", at}, {"within", within}});
}

/// A drawing of 20 mm between walls, 50 mm long, with a block of 8 mm in its middle where it has
/// one; with E across it a guide seen on its wide side, else two plates.
Document strip(bool across, const char* blockEps = nullptr, const char* loss = "0")
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("rectangle",
          {{"name", "guide"}, {"width", "50 mm"}, {"height", "20 mm"}, {"at", "0, 0"}});
    fill(d, "guide", "1");
    if (blockEps) {
        d.add("rectangle",
              {{"name", "block"}, {"width", "8 mm"}, {"height", "20 mm"}, {"at", "3 mm, 0"}});
        fill(d, "block", blockEps, loss);
    }
    if (across)
        d.add("field across", {});
    d.add("band", {{"from", "9 GHz"}, {"to", "13 GHz"}, {"points", "21"}});
    d.add("time grid", {{"cell", "0.5 mm"}});
    d.add("port", {{"name", "A"}, {"on", "guide.left"}});
    d.add("port", {{"name", "B"}, {"on", "guide.right"}});
    return d;
}

/// S of a block between guides of a phase constant, seen from both ends; `r` is the step's own.
struct Block
{
    Complex back, through;
};
Block block(double beta1, double beta2, double r, double length, double before, double behind)
{
    const Complex j(0, 1), once = std::exp(-j * beta2 * length);
    const Complex below = 1.0 - r * r * once * once;
    return {r * (1.0 - once * once) / below * std::exp(-2.0 * j * beta1 * before),
            (1 - r * r) * once / below * std::exp(-j * beta1 * (before + behind))};
}
double guideBeta(double f, double eps, double a)
{
    return std::sqrt(std::pow(2 * pi * f / c0, 2) * eps - std::pow(pi / a, 2));
}

/// Effective index of the lowest mode of a slab, E along it or across.
/// Source: Snyder and Love, Optical Waveguide Theory, section 12-1 (from memory).
double slabIndex(bool alongIt, double width, double n1, double n0, double f, bool odd = false,
                 double gap = 0)
{
    // Two slabs side by side: tanh or coth of the half gap between them.
    const double k = 2 * pi * f / c0, weight = alongIt ? 1 : std::pow(n1 / n0, 2);
    double low = n0 * (1 + 1e-12), high = n1 * (1 - 1e-12);
    for (int i = 0; i < 200; ++i) {
        const double n = (low + high) / 2, kx = k * std::sqrt(n1 * n1 - n * n),
                     a = k * std::sqrt(n * n - n0 * n0) * weight;
        double phase = std::atan(a / kx);
        if (gap > 0) {
            const double t = std::tanh(k * std::sqrt(n * n - n0 * n0) * gap / 2);
            phase += std::atan(a / kx * (odd ? 1 / t : t));
        } else
            phase *= 2;
        (kx * width > phase ? low : high) = n;
    }
    return low;
}

/// One or two slabs of 0.4 um and index 2 in a cladding of 1.444, 5 um long.
Document slab(bool across, bool two = false)
{
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("rectangle", {{"name", "clad"}, {"width", "5 um"}, {"height", "5.6 um"}, {"at", "0, 0"}});
    fill(d, "clad", "1.444^2");
    if (two) {
        d.add("rectangle",
              {{"name", "one"}, {"width", "5 um"}, {"height", "0.4 um"}, {"at", "0, 0.4 um"}});
        d.add("rectangle",
              {{"name", "two"}, {"width", "5 um"}, {"height", "0.4 um"}, {"at", "0, -0.4 um"}});
        fill(d, "one and two", "4");
    } else {
        d.add("rectangle",
              {{"name", "core"}, {"width", "5 um"}, {"height", "0.4 um"}, {"at", "0, 0"}});
        fill(d, "core", "4");
    }
    if (across)
        d.add("field across", {});
    d.add("band", {{"from", "190 THz"}, {"to", "197 THz"}, {"points", "21"}});
    d.add("time grid", {{"cell", "40 nm"}});
    d.add("absorbing wall", {{"on", "clad.top and clad.bottom"}});
    const std::string modes = two ? "2" : "1";
    d.add("port", {{"name", "A"},
                   {"on", two ? "clad.left and one.left and two.left" : "core.left"},
                   {"modes", modes}});
    d.add("port", {{"name", "B"},
                   {"on", two ? "clad.right and one.right and two.right" : "core.right"},
                   {"modes", modes}});
    return d;
}
double turned(double phase)
{
    return std::remainder(phase, 2 * pi);
}

/// Phase constant of the lowest mode with E across of a guide of width a, the part w of it filled:
/// transverse resonance. Source: Harrington, Time-Harmonic Electromagnetic Fields, section 4-6
/// (from memory).
double partlyFilled(double f, double a, double w, double eps)
{
    const double k = 2 * pi * f / c0;
    double low = 0, high = k * std::sqrt(eps);
    for (int i = 0; i < 200; ++i) {
        const double beta = (low + high) / 2, x = eps * k * k - beta * beta,
                     y = k * k - beta * beta;
        // E falls in the empty part where beta exceeds k.
        const double kx = std::sqrt(x), ky = std::sqrt(std::abs(y)), rest = a - w;
        const double left = kx / std::tan(kx * w),
                     right = y > 0 ? ky / std::tan(ky * rest) : ky / std::tanh(ky * rest);
        (kx * w < pi && left + right > 0 ? high : low) = beta;
    }
    return low;
}

std::vector<Exact> exactProblems()
{
    std::vector<Exact> list;
    const double f = 11e9;
    {
        // Pozar, Microwave Engineering, section 3.3: TE10.
        Document d = strip(true);
        askWave(d, "A", "B", "11 GHz");
        d.add("port impedance", {{"of", "A"}, {"at", "11 GHz"}});
        const double beta = guideBeta(f, 1, 20e-3);
        list.push_back({"guide: through", d, "|S| A to B", 1});
        list.push_back({"guide: phase", d, "phase of S A to B", turned(-beta * 50e-3)});
        list.push_back({"guide: E over H", d, "E over H", eta0 * 2 * pi * f / c0 / beta});
    }
    {
        // A dielectric block: Collin, Foundations for Microwave Engineering, section 3.? of plane
        // layers, with the guide's phase constants.
        Document d = strip(true, "2.5");
        askWave(d, "A", "A", "11 GHz");
        askWave(d, "B", "A", "11 GHz");
        const double one = guideBeta(f, 1, 20e-3), two = guideBeta(f, 2.5, 20e-3);
        const Block b = block(one, two, (one - two) / (one + two), 8e-3, 24e-3, 18e-3);
        list.push_back({"block in a guide: back", d, "|S| A to A", std::abs(b.back)});
        list.push_back({"block in a guide: phase back", d, "phase of S A to A", std::arg(b.back)});
        list.push_back({"block in a guide: through", d, "|S| B to A", std::abs(b.through)});
        list.push_back(
            {"block in a guide: phase through", d, "phase of S B to A", std::arg(b.through)});
    }
    {
        // Fresnel at normal incidence; the block begins and ends within cells.
        Document d = strip(false, "6");
        askWave(d, "A", "A", "11 GHz");
        askWave(d, "A", "B", "11 GHz");
        const double k = 2 * pi * f / c0, n = std::sqrt(6.0);
        const Block b = block(k, n * k, (1 - n) / (1 + n), 8e-3, 24e-3, 18e-3);
        list.push_back({"block between plates: back", d, "|S| A to A", std::abs(b.back)});
        list.push_back({"block between plates: through", d, "|S| A to B", std::abs(b.through)});
    }
    {
        // A closed far end sends all back.
        Document d = test::changed(strip(true), "port", "name", "A");
        std::erase_if(d.lines,
                      [](const auto& l) { return l.kind == "port" && l.get("name") == "B"; });
        askWave(d, "A", "A", "11 GHz");
        list.push_back({"closed end: back", d, "|S| A to A", 1});
        list.push_back({"closed end: phase", d, "phase of S A to A",
                        turned(pi - 2 * guideBeta(f, 1, 20e-3) * 50e-3)});
    }
    for (const bool across : {true, false}) {
        Document d = slab(across);
        askWave(d, "A", "B", "193.5 THz");
        const double light = 193.5e12, n = slabIndex(across, 0.4e-6, 2, 1.444, light);
        list.push_back({across ? "slab, E along it: phase" : "slab, E across it: phase", d,
                        "phase of S A to B", turned(-n * 2 * pi * light / c0 * 5e-6)});
        list.push_back({across ? "slab, E along it: through" : "slab, E across it: through", d,
                        "|S| A to B", 1});
    }
    {
        Document d = slab(true, true);
        d.add("scattering", {{"from", "A"}, {"to", "B"}, {"at", "193.5 THz"}, {"within", "5 %"}});
        d.add("scattering", {{"from", "A"},
                             {"to", "B"},
                             {"at", "193.5 THz"},
                             {"fromMode", "2"},
                             {"toMode", "2"},
                             {"within", "5 %"}});
        const double light = 193.5e12, k = 2 * pi * light / c0;
        list.push_back(
            {"two slabs, even: phase", d, "phase of S A to B",
             turned(-slabIndex(true, 0.4e-6, 2, 1.444, light, false, 0.4e-6) * k * 5e-6)});
        list.push_back(
            {"two slabs, odd: phase", d, "phase of S A2 to B2",
             turned(-slabIndex(true, 0.4e-6, 2, 1.444, light, true, 0.4e-6) * k * 5e-6)});
    }
    {
        Document d = strip(true);
        d.add("rectangle",
              {{"name", "half"}, {"width", "50 mm"}, {"height", "7 mm"}, {"at", "0, -6.5 mm"}});
        fill(d, "half", "2.25");
        for (auto& l : d.lines)
            if (l.kind == "port")
                l.values["on"] = l.get("name") == "A" ? "guide.left and half.left"
                                                      : "guide.right and half.right";
        askWave(d, "A", "B", "11 GHz");
        list.push_back({"guide partly filled: phase", d, "phase of S A to B",
                        turned(-partlyFilled(f, 20e-3, 7e-3, 2.25) * 50e-3)});
    }
    {
        // A round line: its walls cut cells. Pozar, section 3.5.
        Document d;
        d.add("space", {{"type", "solid"}});
        d.add("cylinder", {{"name", "room"}, {"radius", "5 mm"}, {"height", "20 mm"}});
        d.add("cylinder", {{"name", "wire"}, {"radius", "2 mm"}, {"height", "20 mm"}});
        fill(d, "room", "1");
        d.add("material", {{"material", "copper"}, {"in", "wire"}});
        d.add("band", {{"from", "4 GHz"}, {"to", "6 GHz"}, {"points", "11"}});
        d.add("time grid", {{"cell", "0.5 mm"}});
        d.add("port", {{"name", "A"}, {"on", "room.bottom"}});
        d.add("port", {{"name", "B"}, {"on", "room.top"}});
        askWave(d, "A", "B", "5 GHz");
        list.push_back(
            {"round line: phase", d, "phase of S A to B", turned(-2 * pi * 5e9 / c0 * 20e-3)});
        list.push_back({"round line: through", d, "|S| A to B", 1});
    }
    {
        // The block as a solid, half of it by an electric wall.
        Document d;
        d.add("space", {{"type", "solid"}});
        d.add("box",
              {{"name", "guide"}, {"width", "40 mm"}, {"length", "22.86 mm"}, {"height", "10 mm"}});
        d.add("box",
              {{"name", "block"}, {"width", "6 mm"}, {"length", "22.86 mm"}, {"height", "10 mm"}});
        fill(d, "guide", "1");
        fill(d, "block", "2.5");
        d.add("mirror plane", {{"at", "y = 0"}, {"kind", "even"}});
        d.add("band", {{"from", "9 GHz"}, {"to", "11 GHz"}, {"points", "11"}});
        d.add("time grid", {{"cell", "1 mm"}});
        d.add("port", {{"name", "A"}, {"on", "guide.left"}});
        d.add("port", {{"name", "B"}, {"on", "guide.right"}});
        askWave(d, "A", "A", "10 GHz");
        askWave(d, "A", "B", "10 GHz");
        const double one = guideBeta(10e9, 1, 22.86e-3), two = guideBeta(10e9, 2.5, 22.86e-3);
        const Block b = block(one, two, (one - two) / (one + two), 6e-3, 17e-3, 17e-3);
        list.push_back({"half of a solid: back", d, "|S| A to A", std::abs(b.back)});
        list.push_back({"half of a solid: phase", d, "phase of S A to B", std::arg(b.through)});
    }
    return list;
}

/// A splitter in a drawing of 6 by 4.6 um, from a layout beside the sheet.
struct Layout
{
    QTemporaryDir folder;
    Document sheet;
    Layout()
    {
        test::Gds g;
        g.begin("PART")
            // A wide piece, a guide from the left and two to the right that run beyond the part.
            .polygon(1, {-1500, -1400, 1500, -1400, 1500, 1400, -1500, 1400, -1500, -1400})
            .polygon(1, {-5000, -300, -1500, -300, -1500, 300, -5000, 300, -5000, -300})
            .polygon(1, {1500, 700, 5000, 700, 5000, 1300, 1500, 1300, 1500, 700})
            .polygon(1, {1500, -1300, 5000, -1300, 5000, -700, 1500, -700, 1500, -1300})
            .polygon(2, {-3000, -2300, 3000, -2300, 3000, 2300, -3000, 2300, -3000, -2300})
            .path(7, 600, {-2900, 0, -3100, 0})
            .path(7, 600, {2900, 1000, 3100, 1000})
            .path(7, 600, {2900, -1000, 3100, -1000})
            .label(7, "in", -3000, 0)
            .label(7, "upper", 3000, 1000)
            .label(7, "lower", 3000, -1000)
            .end()
            .write(folder.filePath("part.gds"));
        sheet.add("space", {{"type", "plane"}, {"depth", "1 m"}});
        sheet.add("layout", {{"name", "clad"}, {"layer", "2"}, {"file", "part.gds"}});
        sheet.add("layout",
                  {{"name", "core"}, {"layer", "1"}, {"file", "part.gds"}, {"outline", "2"}});
        fill(sheet, "clad", "1.444^2");
        fill(sheet, "core", "2.2^2");
        sheet.add("field across", {});
        sheet.add("band", {{"from", "188 THz"}, {"to", "199 THz"}, {"points", "12"}});
        sheet.add("time grid", {{"cell", "45 nm"}});
        sheet.add("absorbing wall", {{"on", "outer of clad and outer of core"}});
        sheet.add("layout port", {{"name", "A"}, {"label", "in"}, {"of", "core"}});
        sheet.add("layout port", {{"name", "B"}, {"label", "upper"}, {"of", "core"}});
        sheet.add("layout port", {{"name", "C"}, {"label", "lower"}, {"of", "core"}});
        askWave(sheet, "A", "B", "193 THz", "20 %");
    }
    run::Result solve(const Document& d, run::Outcome& outcome)
    {
        base::Progress progress;
        run::Settings settings;
        settings.folder = folder.path().toStdString();
        settings.out = folder.filePath("results").toStdString();
        return run::solve(d, settings, progress, outcome);
    }
};

}  // namespace

class TstPulsed : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void withinStatedError();
    void straightGuidesSendNothingBack();
    void likeTheElements();
    void fromALayout();
    void selfImaging();
    void threadsDoNotMatter();
    void badLayouts_data();
    void badLayouts();
    void badInput_data();
    void badInput();
};

void TstPulsed::withinStatedError()
{
    test::checkExact(exactProblems(), 0.05, "### Exact problems (`tests/physics/tst_pulsed`)");
}

void TstPulsed::straightGuidesSendNothingBack()
{
    // Sources send one mode of the grid and no other, and layers that give something back are
    // taken out: what is left is rounding.
    for (const Document& d : {strip(true), slab(true)}) {
        Document e = d;
        const bool isLight = d.first("absorbing wall") != nullptr;
        askWave(e, "A", "A", isLight ? "191 THz" : "9.5 GHz");
        const auto r = solved(e);
        const double back = valueOf(r, "|S| A to A");
        QVERIFY2(back < 1e-4, qPrintable(QString::number(back)));
        for (const auto& c : r.report.checks)
            QVERIFY2(c.state == run::Check::State::good || c.state == run::Check::State::note,
                     c.text.c_str());
    }
}

void TstPulsed::likeTheElements()
{
    // A post of metal beside the middle of a guide and a bend into a second one.
    Document d = strip(true);
    d.add("rectangle",
          {{"name", "post"}, {"width", "4 mm"}, {"height", "5 mm"}, {"at", "-5 mm, -2 mm"}});
    d.add("material", {{"material", "copper"}, {"in", "post"}});
    askWave(d, "A", "A", "11 GHz");
    askWave(d, "A", "B", "11 GHz");
    Document elements = test::changed(d, "time grid", "", "");
    const auto grid = solved(d), fem = solved(elements);
    for (const char* name : {"|S| A to A", "|S| A to B", "phase of S A to B"}) {
        const double off = std::abs(valueOf(grid, name) - valueOf(fem, name)),
                     both = errorOf(grid, name) + errorOf(fem, name);
        QVERIFY2(off < both && off < 0.03, qPrintable(QString("%1: %2 ± %3, elements %4")
                                                          .arg(name)
                                                          .arg(valueOf(grid, name))
                                                          .arg(errorOf(grid, name))
                                                          .arg(valueOf(fem, name))));
    }
}

void TstPulsed::fromALayout()
{
    Layout layout;
    Document d = layout.sheet;
    askWave(d, "A", "C", "193 THz");
    d.add("imbalance", {{"of", "B"}, {"and", "C"}, {"from", "A"}, {"at", "193 THz"}});
    d.add("S-parameters", {});
    run::Outcome outcome{};
    const auto r = layout.solve(d, outcome);
    QVERIFY(outcome != run::Outcome::sheetWrong);
    const double b = valueOf(r, "|S| A to B"), c = valueOf(r, "|S| A to C");
    QVERIFY2(std::abs(b - c) < 1e-4, qPrintable(QString("%1 %2").arg(b).arg(c)));
    QVERIFY(b > 0.3 && b < std::sqrt(0.5));
    QVERIFY(std::abs(valueOf(r, "imbalance")) < 1e-3);
    for (const auto& check : r.report.checks)
        QVERIFY2(check.state != run::Check::State::bad, check.text.c_str());
    QVERIFY(isGood(r, "rung out"));
    // All three ports, over the band.
    QVERIFY(QFile::exists(layout.folder.filePath("results/S-parameters.s3p")));
}

void TstPulsed::selfImaging()
{
    // A wide guide driven in its middle has two images at three eighths of the beat length of its
    // first two modes. Source: Soldano and Pennings, J. Lightwave Technol. 13 (1995) 615 (from
    // memory). Drawn with E along the walls' normal would be the same but for its index.
    const double f = 193e12, k = 2 * pi * f / c0, n1 = 1.7, n0 = 1.444, w = 3e-6;
    auto mode = [&](int number) {
        double low = n0, high = n1;
        for (int i = 0; i < 200; ++i) {
            const double n = (low + high) / 2, kx = k * std::sqrt(n1 * n1 - n * n),
                         a = k * std::sqrt(n * n - n0 * n0);
            (kx * w > number * pi + 2 * std::atan(a / kx) ? low : high) = n;
        }
        return k * low;
    };
    const double nm = 1e-9, length = 2 * nm * std::round(3.0 / 16 * pi / (mode(0) - mode(1)) / nm);
    auto um = [](double x) { return std::to_string(x * 1e6) + " um"; };
    Document d;
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("rectangle",
          {{"name", "clad"}, {"width", um(length + 2e-6)}, {"height", "6 um"}, {"at", "0, 0"}});
    d.add("rectangle",
          {{"name", "core"}, {"width", um(length)}, {"height", "3 um"}, {"at", "0, 0"}});
    auto stub = [&](const char* name, double x, double y) {
        d.add("rectangle", {{"name", name},
                            {"width", "1 um"},
                            {"height", "0.9 um"},
                            {"at", um(x) + ", " + um(y)}});
    };
    // Where the images of a guide of effective width w_e stand.
    const double effective = w + 2 / (k * std::sqrt(std::pow(mode(0) / k, 2) - n0 * n0)),
                 end = length / 2 + 0.5e-6;
    stub("in", -end, 0);
    stub("up", end, effective / 4);
    stub("down", end, -effective / 4);
    fill(d, "clad", "1.444^2");
    fill(d, "core and in and up and down", "1.7^2");
    d.add("field across", {});
    d.add("band", {{"from", "191 THz"}, {"to", "195 THz"}, {"points", "5"}});
    d.add("time grid", {{"cell", "50 nm"}});
    d.add("absorbing wall", {{"on", "outer of clad and in.left and up.right and down.right"}});
    d.add("port", {{"name", "A"}, {"on", "in.left"}});
    d.add("port", {{"name", "B"}, {"on", "up.right"}});
    d.add("port", {{"name", "C"}, {"on", "down.right"}});
    askWave(d, "A", "B", "193 THz");
    askWave(d, "A", "A", "193 THz");
    const auto r = solved(d);
    // Less than a decibel beyond the three of an even parting.
    const double through = valueOf(r, "|S| A to B");
    QVERIFY2(2 * through * through > 0.8, qPrintable(QString::number(through)));
    QVERIFY(valueOf(r, "|S| A to A") < 0.1);
}

void TstPulsed::threadsDoNotMatter()
{
    YH_LONG();
    Layout layout;
    run::Outcome outcome{};
    const Document d = test::changed(layout.sheet, "time grid", "cell", "70 nm");
    const auto many = layout.solve(d, outcome);
    const int threads = omp_get_max_threads();
    omp_set_num_threads(1);
    const auto one = layout.solve(d, outcome);
    omp_set_num_threads(threads);
    QVERIFY(std::isfinite(valueOf(one, "|S| A to B")));
    QCOMPARE(valueOf(many, "|S| A to B"), valueOf(one, "|S| A to B"));
}

void TstPulsed::badLayouts_data()
{
    test::addWrongs({{"no such label", {7967, "layout port", "label", "out"}},
                     {"no label on that layer", {7967, "layout port", "layer", "3"}},
                     {"no such cell", {3063, "layout", "cell", "OTHER"}},
                     {"no such layer", {3061, "layout", "layer", "9"}},
                     {"no such file", {3016, "layout", "file", "missing.gds"}},
                     {"no time grid", {2069, "time grid", "", ""}},
                     {"no port", {2055, "layout port", "", ""}},
                     {"copies", {7966, "layout", "copies", "2"}}});
}

void TstPulsed::badLayouts()
{
    const auto [fault, kind, slot, value] = test::fetchWrong();
    Layout layout;
    Document d = layout.sheet;
    if (fault == 7966)
        for (auto& l : d.lines)
            if (l.name() == "core") {
                l.values["copies"] = "2";
                l.values["every"] = "0, 10 um";
            }
    Document wrong = fault == 7966 ? d : test::changed(d, kind, slot, value);
    if (fault == 2055)
        std::erase_if(wrong.lines, [](const auto& l) { return l.kind == "scattering"; });
    run::Outcome outcome{};
    const auto r = layout.solve(wrong, outcome);
    QVERIFY2(std::any_of(r.report.faults.begin(), r.report.faults.end(),
                         [&](const auto& f) { return f.number == fault; }),
             r.report.faults.empty()
                 ? "no fault"
                 : (std::to_string(r.report.faults[0].number) + r.report.faults[0].text).c_str());
}

void TstPulsed::badInput_data()
{
    test::addWrongs({{"too few cells", {7870, "time grid", "cell", "4 mm"}},
                     {"hours", {7872, "time grid", "cell", "5 um"}},
                     {"too short", {7971, "time grid", "time", "50 ps"}},
                     {"no band", {2068, "band", "", ""}},
                     {"modes beside", {2067, "modes", "count", "2"}},
                     {"a ring-down beside", {2067, "ring-down", "from", "2 GHz"}},
                     {"open space", {7962, "open space", "distance", "10 mm"}},
                     {"a dipole", {7962, "point dipole", "at", "0, 0"}},
                     {"magnetic", {7863, "material", "mu", "2"}},
                     {"runs with the frequency", {7864, "material", "eps", "2 + f/(10 GHz)"}},
                     {"below vacuum", {7869, "material", "eps", "0.5"}},
                     {"below its cut-off", {7954, "band", "from", "6 GHz"}},
                     {"too many modes", {7954, "port", "modes", "3"}},
                     {"a port inside", {6210, "port", "on", "block.left"}},
                     {"outside of the band", {7074, "scattering", "at", "20 GHz"}},
                     {"gain", {7980, "gain", "of", "A"}}});
}

void TstPulsed::badInput()
{
    const auto [fault, kind, slot, value] = test::fetchWrong();
    Document d = strip(true, "2.5");
    askWave(d, "A", "A", "11 GHz");
    Document wrong = test::changed(d, kind, slot, value);
    for (auto& l : wrong.lines) {
        if (l.kind == "ring-down")
            l.values["to"] = "3 GHz";
        if (l.kind == "gain")
            l.values["at"] = "11 GHz";
        if (l.kind == "point dipole")
            l.values["name"] = "D";
    }
    QVERIFY(fault == 7954 ? test::isUnsolvable(wrong, fault) : isRefused(wrong, fault));
}

YH_TEST(TstPulsed)

}  // namespace tst_pulsed

#include "tst_pulsed.moc"
