// Magnets, coils and steel in solids against closed forms and other published results, and the
// course of a figure along a sweep.
#include "exact_figures.h"
#include "magnets.h"
#include "physics/magnetic/curve.h"
#include "program.h"
#include "run/course.h"

#include <array>
#include <cmath>
#include <functional>
#include <vector>

namespace tst_magnet_solids {

using namespace yh;
using sheet::Document;
using test::errorOf;
using test::isRefused;
using test::mu0;
using test::mutualInductance;
using test::solved;
using test::valueOf;
using test::windingField;

namespace {

constexpr double pi = 3.14159265358979323846;

Document solidOf(const char* edge = "goes on into open space")
{
    Document d;
    d.add("space", {{"type", "solid"}});
    d.add("flux at the edge", {{"way", edge}});
    return d;
}
Document with(Document d, const std::string& kind, std::map<std::string, std::string> values)
{
    d.add(kind, std::move(values));
    return d;
}
/// An eighth of what is magnetised along z about its middle.
void addPlanes(Document& d)
{
    d.add("mirror plane", {{"at", "x = 0"}, {"kind", "odd"}});
    d.add("mirror plane", {{"at", "y = 0"}, {"kind", "odd"}});
    d.add("mirror plane", {{"at", "z = 0"}, {"kind", "even"}});
}
void addMagnet(Document& d, const char* name, const char* in, const char* along = "z")
{
    d.add("magnet",
          {{"name", name}, {"in", in}, {"remanence", "1.2 T"}, {"recoil", "1"}, {"along", along}});
}
void addCoil(Document& d, const char* name, const char* in, const char* turns, const char* current)
{
    d.add("coil",
          {{"name", name}, {"turns", turns}, {"current", current}, {"in", in}, {"about", "z"}});
}
void addBox(Document& d, const char* name, const char* width, const char* length,
            const char* height, const char* at)
{
    d.add("box",
          {{"name", name}, {"width", width}, {"length", length}, {"height", height}, {"at", at}});
}
void addRing(Document& d, const char* name, const char* inner, const char* outer, const char* high,
             const char* at)
{
    d.add("ring", {{"name", name}, {"inner", inner}, {"outer", outer}, {"high", high}, {"at", at}});
}
Document askB(Document d, const char* at, const char* within = "1 %")
{
    return with(std::move(d), "flux density along",
                {{"along", "z"}, {"at", at}, {"within", within}});
}

/// A ball of radius 5 mm, magnetised along z; an eighth.
Document ball()
{
    Document d = solidOf();
    d.add("sphere", {{"name", "ball"}, {"radius", "5 mm"}, {"at", "0, 0, 0"}});
    addPlanes(d);
    addMagnet(d, "M", "ball");
    return d;
}
/// The same in a shell from 8 to 10 mm of permeability 20.
Document shielded()
{
    Document d = solidOf();
    d.add("sphere", {{"name", "shield"}, {"radius", "10 mm"}, {"at", "0, 0, 0"}});
    d.add("sphere", {{"name", "space"}, {"radius", "8 mm"}, {"at", "0, 0, 0"}});
    d.add("sphere", {{"name", "ball"}, {"radius", "5 mm"}, {"at", "0, 0, 0"}});
    addPlanes(d);
    addMagnet(d, "M", "ball");
    d.add("material", {{"material", "ferrite"}, {"in", "shield"}, {"mu", "20"}});
    d.add("material", {{"material", "air"}, {"in", "space"}});
    return d;
}
/// B along z on the axis of what is magnetised like the ball in the shell: in the middle, and as
/// the share of its own dipole that comes out. The potential is c r + d / r^2 in each region.
/// Source: Jackson, Classical Electrodynamics, 3rd ed., sections 5.10 and 5.12 (from memory).
std::array<double, 2> shieldedBall()
{
    const double a = 5, b = 8, c = 10, mu = 20, M = 1.2 / mu0;
    // Unknowns: c1; c2, d2; c3, d3; d4. H = -grad phi.
    double A[6][7] = {};
    auto jump = [&](int row, double r, int in, int out, double muIn, double muOut) {
        // phi alike, and mu dphi/dr alike but for what the magnet sets up.
        const int cIn = in == 0 ? 0 : 2 * in - 1, dIn = 2 * in, cOut = 2 * out - 1,
                  dOut = out == 3 ? 5 : 2 * out;
        A[row][cIn] += r;
        A[row + 1][cIn] += muIn;
        if (in > 0) {
            A[row][dIn] += 1 / (r * r);
            A[row + 1][dIn] += -2 * muIn / (r * r * r);
        }
        if (out < 3) {
            A[row][cOut] -= r;
            A[row + 1][cOut] -= muOut;
        }
        A[row][dOut] -= 1 / (r * r);
        A[row + 1][dOut] -= -2 * muOut / (r * r * r);
    };
    jump(0, a, 0, 1, 1, 1);
    A[1][6] = M;
    jump(2, b, 1, 2, 1, mu);
    jump(4, c, 2, 3, mu, 1);
    for (int i = 0; i < 6; ++i) {
        int best = i;
        for (int r = i; r < 6; ++r)
            if (std::abs(A[r][i]) > std::abs(A[best][i]))
                best = r;
        std::swap(A[i], A[best]);
        for (int r = 0; r < 6; ++r)
            if (r != i)
                for (int k = 6; k >= i; --k)
                    A[r][k] -= A[r][i] / A[i][i] * A[i][k];
    }
    const double inside = mu0 * (M - A[0][6] / A[0][0]), d4 = A[5][6] / A[5][5];
    return {inside, mu0 * 2 * d4};
}
/// A bar magnet of 8 by 6 by 10 mm.
Document bar()
{
    Document d = solidOf();
    addBox(d, "bar", "8 mm", "6 mm", "10 mm", "0, 0, -5 mm");
    addPlanes(d);
    addMagnet(d, "M", "bar");
    return d;
}
/// B on the axis of a bar of length D magnetised along it, at z above its pole.
/// Source: Furlani, Permanent Magnet and Electromechanical Devices, 2001, section 4.3 (from
/// memory).
double barField(double z)
{
    const double L = 8e-3, W = 6e-3, D = 10e-3;
    auto part = [&](double x) {
        return std::atan(L * W / (2 * x * std::sqrt(4 * x * x + L * L + W * W)));
    };
    return 1.2 / pi * (part(z) - part(D + z));
}
/// A winding from r = 10 to 15 mm, 20 mm long, of 400 turns at 2 A; an eighth.
Document winding()
{
    Document d = solidOf();
    addRing(d, "w", "10 mm", "15 mm", "20 mm", "0, 0, -10 mm");
    addPlanes(d);
    addCoil(d, "C", "w", "400", "2 A");
    return d;
}
/// Two rings of 0.6 mm by 0.6 mm: 10 mm wide at z = 0, and 8 mm wide 5 mm above; a quarter.
Document rings()
{
    Document d = solidOf();
    addRing(d, "p", "9.7 mm", "10.3 mm", "0.6 mm", "0, 0, -0.3 mm");
    addRing(d, "q", "7.7 mm", "8.3 mm", "0.6 mm", "0, 0, 4.7 mm");
    d.add("mirror plane", {{"at", "x = 0"}, {"kind", "odd"}});
    d.add("mirror plane", {{"at", "y = 0"}, {"kind", "odd"}});
    addCoil(d, "P", "p", "1", "30 A");
    addCoil(d, "Q", "q", "1", "20 A");
    return d;
}
/// A racetrack: straights of 16 mm, bends of 4 mm inside and 8 mm outside, 5 mm high, 200 turns at
/// 1 A; whole, or a quarter.
Document wholeRacetrack()
{
    Document d = solidOf();
    d.add("swept", {{"name", "w"},
                    {"width", "4 mm"},
                    {"thickness", "5 mm"},
                    {"points",
                     "-8 mm, -6 mm, 0; 8 mm, -6 mm, 0; arc via 14 mm, 0, 0 to 8 mm, 6 mm, "
                     "0; -8 mm, 6 mm, 0; arc via -14 mm, 0, 0 to -8 mm, -6 mm, 0"},
                    {"ends", "closed"}});
    addCoil(d, "C", "w", "200", "1 A");
    return d;
}
Document racetrack()
{
    Document d = wholeRacetrack();
    d.add("mirror plane", {{"at", "x = 0"}, {"kind", "odd"}});
    d.add("mirror plane", {{"at", "z = 0"}, {"kind", "even"}});
    return d;
}
/// B in the middle of it, from turns spread evenly (Biot and Savart, summed by Gauss's rule).
double racetrackField()
{
    constexpr int n = 24;
    double sum = 0;
    for (int i = 0; i < n; ++i)
        for (int k = 0; k < n; ++k) {
            const double r = 4e-3 + 4e-3 * (i + 0.5) / n, z = 5e-3 * ((k + 0.5) / n - 0.5),
                         h = 8e-3;
            // Straights at y = r, from -h to h; bends round x = h.
            const double d2 = r * r + z * z;
            double B = 2 * r / d2 * 2 * h / std::sqrt(d2 + h * h);
            constexpr int steps = 64;
            for (int s = 0; s < steps; ++s) {
                const double t = -pi / 2 + pi * (s + 0.5) / steps, x = h + r * std::cos(t),
                             y = r * std::sin(t), R = std::sqrt(x * x + y * y + z * z);
                // (dl x (-place))_z with dl = r dt (-sin t, cos t)
                B += 2 * r * (pi / steps) * (std::sin(t) * y + std::cos(t) * x) / (R * R * R);
            }
            sum += B / (n * n);
        }
    return mu0 * 200 / (4 * pi) * sum;
}

const char* steel =
    "H (A/m), B (T): 0, 0; 90, 0.25; 180, 0.62; 320, 0.95; 600, 1.22; 1200, 1.41; "
    "3000, 1.57; 8000, 1.72; 20000, 1.90; 60000, 2.09";

/// A coil as high as the iron walls above and below it: H is even inside, along z.
/// @param core  fills the inside: with steel
Document betweenWalls(bool core)
{
    Document d = solidOf("leaves at right angles");
    addBox(d, "air", "26 mm", "26 mm", "6 mm", "0, 0, 0");
    addRing(d, "w", "6 mm", "9 mm", "6 mm", "0, 0, 0");
    d.add("cylinder",
          {{"name", "core"}, {"radius", "6 mm"}, {"height", "6 mm"}, {"at", "0, 0, 0"}});
    d.add("mirror plane", {{"at", "x = 0"}, {"kind", "odd"}});
    d.add("mirror plane", {{"at", "y = 0"}, {"kind", "odd"}});
    addCoil(d, "C", "w", "150", "0.08 A");
    d.add("material", {{"material", "air"}, {"in", "air"}});
    if (core) {
        d.add("magnetisation curve", {{"name", "S"}, {"table", steel}});
        d.add("material", {{"material", "steel"}, {"in", "core"}, {"curve", "S"}});
    } else {
        d.add("material", {{"material", "air"}, {"in", "core"}});
    }
    return d;
}
/// Integral of the square of the share of turns that a place is inside of, over the cross-section:
/// 1 inside, falling evenly to 0 across the winding, from a to b.
double turnsSquared(double a, double b)
{
    const double w = b - a;
    return pi * a * a + 2 * pi * (w * w * b / 3 - w * w * w / 4) / w / w * w;
}

/// Two bar magnets along z, 6 by 4 by 5 mm, 3 mm apart, the upper one 2 mm to the side.
Document twoBars()
{
    Document d = solidOf();
    addBox(d, "low", "6 mm", "4 mm", "5 mm", "0, 0, -5 mm");
    addBox(d, "high", "6 mm", "4 mm", "5 mm", "2 mm, 0, 3 mm");
    d.add("mirror plane", {{"at", "y = 0"}, {"kind", "odd"}});
    addMagnet(d, "L", "low");
    addMagnet(d, "H", "high");
    return d;
}
/// Two ball magnets of 1.1 T, which pull and turn each other as two dipoles do.
Document twoBalls(const char* apart, const char* lower, const char* upper)
{
    Document d = solidOf();
    d.add("sphere", {{"name", "low"}, {"radius", "4 mm"}, {"at", "0, 0, 0"}});
    d.add("sphere", {{"name", "high"}, {"radius", "4 mm"}, {"at", std::string("0, 0, ") + apart}});
    for (const auto& [name, in, way] : {std::array{"L", "low", lower}, {"H", "high", upper}})
        d.add(
            "magnet",
            {{"name", name}, {"in", in}, {"remanence", "1.1 T"}, {"recoil", "1"}, {"along", way}});
    return d;
}
/// Energy of two dipoles of 4 mm balls of 1.1 T that stand in line, J; Jackson, section 5.7.
double ofDipoles(double apart)
{
    const double moment = 1.1 / mu0 * 4 * pi / 3 * std::pow(4e-3, 3);
    return mu0 * moment * moment / (2 * pi * std::pow(apart, 3));
}
/// Force along z on the upper one: the charges of their poles, in pairs.
/// Source: Akoun and Yonnet, IEEE Trans. Magn. 20 (1984) 1962 (from memory).
double barForce()
{
    double sum = 0;
    for (int n = 0; n < 64; ++n) {
        const double i = n & 1, j = n >> 1 & 1, k = n >> 2 & 1, l = n >> 3 & 1, p = n >> 4 & 1,
                     q = n >> 5 & 1;
        const double u = 2e-3 + (j - i) * 6e-3, v = (l - k) * 4e-3, w = 8e-3 + (q - p) * 5e-3,
                     r = std::sqrt(u * u + v * v + w * w);
        const double phi = -u * w * std::log(r - u) - v * w * std::log(r - v) +
                           u * v * std::atan2(u * v, r * w) - r * w;
        sum += (__builtin_popcount(unsigned(n)) % 2 ? -1 : 1) * phi;
    }
    return 1.2 * 1.2 / (4 * pi * mu0) * sum;
}

const char* knee = "H (kA/m), B (T): 0, 1.2; -200, 0.93; -400, 0.64; -500, 0.4; -550, 0.05";

/// A magnet with a knee below an iron bar and a gap, between walls that flux enters at right angles
/// and sides that it does not cross: all is along z.
Document column()
{
    Document d = solidOf("leaves at right angles");
    addBox(d, "magnet", "4 mm", "5 mm", "3 mm", "0, 0, 0");
    addBox(d, "gap", "4 mm", "5 mm", "1 mm", "0, 0, 3 mm");
    addBox(d, "iron", "4 mm", "5 mm", "2 mm", "0, 0, 4 mm");
    addBox(d, "rest", "4 mm", "5 mm", "0.5 mm", "0, 0, 6 mm");
    d.add("flux wall", {{"on",
                         "faces facing x of magnet and faces facing -x of magnet and faces "
                         "facing y of magnet and faces facing -y of magnet"}});
    for (const char* piece : {"gap", "iron", "rest"})
        for (const char* way : {"x", "-x", "y", "-y"})
            d.add("flux wall", {{"on", std::string("faces facing ") + way + " of " + piece}});
    d.add("magnetisation curve", {{"name", "N"}, {"table", knee}});
    d.add("magnet", {{"name", "M"}, {"in", "magnet"}, {"curve", "N"}, {"along", "z"}});
    d.add("material", {{"material", "soft"}, {"in", "iron"}, {"mu", "500"}});
    d.add("material", {{"material", "air"}, {"in", "gap and rest"}});
    return d;
}
/// The flux density in it: H adds up to nothing from wall to wall.
double columnField()
{
    const physics::MagneticCurve curve(physics::readMagneticTable(knee));
    double low = 0, high = 1.2;
    for (int i = 0; i < 60; ++i) {
        const double B = (low + high) / 2,
                     H = -B / mu0 * (1.5 + 2.0 / 500) / 3;  // in the magnet, from what is around it
        (curve.field(B) < H ? low : high) = B;
    }
    return low;
}
}  // namespace

class TstMagnetSolids : public QObject
{
    Q_OBJECT
private slots:
    void exact();
    void exactLong();
    void sameAsRoundTheAxis();
    void pullOnAKeeper();
    void partsOfACoil();
    void alongASweep();
    void harmonics();
    void inverseCurve();
    void proposesKindsOfPlanes();
    void wrongLines_data();
    void wrongLines();
    void currentsThatCannotClose_data();
    void currentsThatCannotClose();
};

namespace {

using Exact = test::ExactFigure;

Document askInductance(Document d, const char* of, const char* to = "", const char* within = "1 %")
{
    std::map<std::string, std::string> values{{"of", of}, {"within", within}};
    if (*to)
        values["to"] = to;
    return with(std::move(d), "inductance", values);
}
Document askForce(Document d, const char* on)
{
    return with(std::move(d), "force", {{"on", on}, {"within", "2 %"}});
}

std::vector<Exact> quickProblems()
{
    const auto shell = shieldedBall();
    const physics::MagneticCurve S(physics::readMagneticTable(steel));
    const double inside = pi * 36e-6, all = turnsSquared(6e-3, 9e-3), H = 2000;
    const Document steelCore =
        with(with(betweenWalls(true), "flux linkage", {{"of", "C"}, {"within", "1 %"}}),
             "mean flux density", {{"in", "core"}, {"within", "1 %"}});
    return {
        {"ball magnet, B inside", askB(ball(), "0, 0, 0"), "B along z", 0.8},
        {"ball magnet in a shield, B inside", askB(shielded(), "0, 0, 0"), "B along z", shell[0]},
        {"bar magnet, B on its axis", askB(bar(), "0, 0, 9 mm"), "B along z", barField(4e-3)},
        {"thick winding, B in its middle", askB(winding(), "0, 0, 0"), "B along z",
         windingField(0)},
        {"the same, 10 mm above its end", askB(winding(), "0, 0, 20 mm"), "B along z",
         windingField(20e-3)},
        {"racetrack coil, B in its middle", askB(racetrack(), "0, 0, 0"), "B along z",
         racetrackField()},
        {"coil between iron walls", askInductance(betweenWalls(false), "C"), "inductance of C",
         mu0 * 150 * 150 / 6e-3 * all},
        {"the same with a core of steel", steelCore, "flux linkage of C",
         150 * (inside * S.density(H) + mu0 * H * (all - inside))},
        {"B in that core", steelCore, "mean |B| in core", S.density(H)},
        {"magnet beyond its knee", with(column(), "mean flux density", {{"in", "gap"}}),
         "mean |B| in gap", columnField()},
        {"circular rings, mutual inductance", askInductance(rings(), "P", "Q"), "inductance P to Q",
         mutualInductance(10e-3, 8e-3, 5e-3)},
    };
}

std::vector<Exact> longProblems()
{
    const auto shell = shieldedBall();
    constexpr double step = 1e-6;
    const double pull =
        30 * 20 *
        (mutualInductance(10e-3, 8e-3, 5e-3 + step) - mutualInductance(10e-3, 8e-3, 5e-3 - step)) /
        (2 * step);
    return {
        {"ball magnet, B on its axis", askB(ball(), "0, 0, 10 mm"), "B along z", 0.1},
        {"ball magnet, B beside it", askB(ball(), "8 mm, 0, 0"), "B along z",
         -0.4 * std::pow(5.0 / 8, 3)},
        {"ball magnet in a shield, B outside", askB(shielded(), "0, 0, 20 mm"), "B along z",
         shell[1] / 8e3},
        {"bar magnets, force", askForce(twoBars(), "high"), "force along z on high", barForce()},
        {"two balls in line, force", askForce(twoBalls("9 mm", "z", "z"), "high"),
         "force along z on high", -3 * ofDipoles(9e-3) / 9e-3},
        {"two balls side by side, force", askForce(twoBalls("12 mm", "x", "x"), "high"),
         "force along z on high", 1.5 * ofDipoles(12e-3) / 12e-3},
        {"two balls askew, torque",
         with(twoBalls("12 mm", "z", "x"), "torque",
              {{"on", "high"}, {"about", "0, 0, 12 mm"}, {"within", "1 %"}}),
         "torque about y on high", -ofDipoles(12e-3)},
        {"circular rings, force", askForce(rings(), "q"), "force along z on q", pull},
        {"bar magnet, B near its pole", askB(bar(), "0, 0, 6 mm"), "B along z", barField(1e-3)},
        {"racetrack coil, whole", askB(wholeRacetrack(), "0, 0, 0"), "B along z", racetrackField()},
    };
}

/// A solenoid with a steel core that saturates, round the axis or as a quarter of a solid.
Document solenoid(bool solid)
{
    Document d;
    d.add("space", {{"type", solid ? "solid" : "axisymmetric"}});
    d.add("flux at the edge", {{"way", "goes on into open space"}});
    d.add("magnetisation curve", {{"name", "S"}, {"table", steel}});
    if (solid) {
        addRing(d, "w", "5 mm", "8 mm", "12 mm", "0, 0, -6 mm");
        d.add("cylinder",
              {{"name", "core"}, {"radius", "4 mm"}, {"height", "16 mm"}, {"at", "0, 0, -8 mm"}});
        addPlanes(d);
        addCoil(d, "C", "w", "600", "1.5 A");
    } else {
        d.add("rectangle",
              {{"name", "w"}, {"width", "3 mm"}, {"height", "12 mm"}, {"at", "6.5 mm, 0"}});
        d.add("rectangle",
              {{"name", "core"}, {"width", "4 mm"}, {"height", "16 mm"}, {"at", "2 mm, 0"}});
        d.add("coil", {{"name", "C"}, {"turns", "600"}, {"current", "1.5 A"}, {"in", "w"}});
    }
    d.add("material", {{"material", "soft steel"}, {"in", "core"}, {"curve", "S"}});
    d.add("flux linkage", {{"of", "C"}, {"within", "1 %"}});
    d.add("inductance", {{"of", "C"}, {"within", "1 %"}});
    d.add("co-energy", {{"within", "1 %"}});
    return d;
}

}  // namespace

void TstMagnetSolids::exact()
{
    test::checkExact(quickProblems(), 0.01,
                     "### Exact problems (`tests/physics/tst_magnet_solids`)");
}

void TstMagnetSolids::exactLong()
{
    YH_LONG();
    test::checkExact(longProblems(), 0.02,
                     "### Longer exact problems (`tests/physics/tst_magnet_solids`)");
}

void TstMagnetSolids::sameAsRoundTheAxis()
{
    // Another formulation (A round the axis) of the same device, with steel at its knee.
    const auto round = solved(solenoid(false)), solid = solved(solenoid(true));
    for (const char* figure : {"flux linkage of C", "inductance of C", "co-energy"}) {
        const double a = valueOf(round, figure), b = valueOf(solid, figure),
                     both = errorOf(round, figure) + errorOf(solid, figure);
        QVERIFY2(std::abs(a - b) < both,
                 qPrintable(QString("%1: %2 and %3 ± %4").arg(figure).arg(a).arg(b).arg(both)));
    }
}

void TstMagnetSolids::pullOnAKeeper()
{
    // Iron with edges before a magnet with edges: what they hide from the next order is in the ±.
    Document round, solid;
    round.add("space", {{"type", "axisymmetric"}});
    round.add("rectangle",
              {{"name", "m"}, {"width", "4 mm"}, {"height", "6 mm"}, {"at", "2 mm, 3 mm"}});
    round.add("rectangle",
              {{"name", "k"}, {"width", "5 mm"}, {"height", "2 mm"}, {"at", "2.5 mm, -2 mm"}});
    solid.add("space", {{"type", "solid"}});
    solid.add("cylinder",
              {{"name", "m"}, {"radius", "4 mm"}, {"height", "6 mm"}, {"at", "0, 0, 0"}});
    solid.add("cylinder",
              {{"name", "k"}, {"radius", "5 mm"}, {"height", "2 mm"}, {"at", "0, 0, -3 mm"}});
    for (const char* plane : {"x = 0", "y = 0"})
        solid.add("mirror plane", {{"at", plane}, {"kind", "odd"}});
    for (Document* d : {&round, &solid}) {
        addMagnet(*d, "M", "m");
        d->add("material", {{"material", "iron"}, {"in", "k"}, {"mu", "1000"}});
        d->add("flux at the edge", {{"way", "goes on into open space"}});
        d->add("force", {{"on", "k"}, {"within", d == &round ? "0.1 %" : "1 %"}});
    }
    const auto known = solved(round), found = solved(solid);
    const char* figure = "force along z on k";
    const double truth = valueOf(known, figure), value = valueOf(found, figure),
                 error = errorOf(found, figure);
    QVERIFY2(std::abs(value - truth) < error && error < 0.01 * truth,
             qPrintable(QString("%1 ± %2, not %3").arg(value).arg(error).arg(truth)));
}

void TstMagnetSolids::partsOfACoil()
{
    // Half of it, or all: figures are of the whole.
    auto ask = [](Document d) {
        return with(askInductance(std::move(d), "C", "", "2 %"), "energy", {{"within", "2 %"}});
    };
    const auto half = solved(ask(racetrack())), whole = solved(ask(wholeRacetrack()));
    const double L = valueOf(half, "inductance of C");
    QVERIFY(std::abs(L - valueOf(whole, "inductance of C")) <
            errorOf(half, "inductance of C") + errorOf(whole, "inductance of C"));
    // Linear media: half of L I^2 at 1 A.
    QVERIFY(std::abs(valueOf(half, "stored energy") - L / 2) < 1e-6 * L);
    QVERIFY(test::isGood(half, "ampere's law"));
    QVERIFY(std::any_of(half.report.checks.begin(), half.report.checks.end(), [](const auto& c) {
        return c.id == "winding" && c.text.find("20 mm") != std::string::npos;
    }));
}

void TstMagnetSolids::alongASweep()
{
    // A current that is a sine of the parameter: flux linkage and voltage are waves of known size.
    Document d;
    d.add("parameter", {{"name", "drive"}, {"value", "2 A"}});
    d.add("space", {{"type", "axisymmetric"}});
    d.add("flux at the edge", {{"way", "does not leave"}});
    d.add("rectangle",
          {{"name", "box"}, {"width", "9 mm"}, {"height", "12 mm"}, {"at", "4.5 mm, 0"}});
    d.add("rectangle", {{"name", "w"}, {"width", "2 mm"}, {"height", "4 mm"}, {"at", "5 mm, 0"}});
    d.add("material", {{"material", "air"}, {"in", "box"}});
    d.add("coil",
          {{"name", "C"}, {"turns", "50"}, {"current", "sin(pi*drive/(6 A)) * 1 A"}, {"in", "w"}});
    d.add("flux linkage", {{"of", "C"}, {"within", "0.1 %"}});
    d.add("inductance", {{"of", "C"}, {"within", "0.1 %"}});
    d.add("sweep", {{"parameter", "drive"},
                    {"from", "0 A"},
                    {"to", "12 A"},
                    {"steps", "13"},
                    {"course", "as one period"},
                    {"time", "20 ms"}});
    const auto r = solved(d);
    const double L = valueOf(r, "inductance of C"), peak = L * 2 * pi / 20e-3;
    const double U = valueOf(r, "largest rate of change of flux linkage of C");
    QVERIFY2(std::abs(U - peak) < 1e-6 * peak + errorOf(r, "largest rate of change of flux"),
             qPrintable(QString("%1 V, not %2").arg(U).arg(peak)));
    const double first = valueOf(r, "first harmonic of the rate of change of flux linkage of C");
    QVERIFY(std::abs(first - peak) < 1e-6 * peak);
    for (const auto& f : r.report.findings)
        if (f.name.rfind("largest rate of change of flux", 0) == 0) {
            QCOMPARE(f.unit, std::string("V"));
            QVERIFY(!f.note.empty());
        }
    QVERIFY(!r.sweptDegrees[0]);
    // Degrees of a temperature are no angle.
    for (const auto& [from, to, isAngle] :
         {std::tuple{"20 degC", "30 degC", false}, {"0 deg", "90 deg", true}}) {
        Document other = d;
        for (auto& l : other.lines)
            if (l.kind == "parameter")
                l.values["value"] = from;
            else if (l.kind == "coil")
                l.values["current"] = "1 A";
            else if (l.kind == "sweep")
                l.values = {{"parameter", "drive"}, {"from", from}, {"to", to}, {"steps", "2"}};
        const auto swept = solved(other);
        QCOMPARE(swept.sweptDegrees.size(), size_t(1));
        QCOMPARE(bool(swept.sweptDegrees[0]), isAngle);
    }
    // The last state is the first again, and is not solved twice.
    QCOMPARE(r.points.back().report.seconds, r.points.front().report.seconds);
    for (const auto& [key, text, fault] : {std::tuple{"course", "", 2062},
                                           {"to", "0 A", 2066},
                                           {"steps", "4", 2064},
                                           {"spacing", "by equal ratios", 2065}}) {
        Document wrong = d;
        for (auto& l : wrong.lines)
            if (l.kind == "sweep") {
                l.values[key] = text;
                if (!*text)
                    l.values.erase(key);
            }
        QVERIFY(isRefused(wrong, fault));
    }
    d.add("parameter", {{"name", "other"}, {"value", "1 A"}});
    d.add("sweep", {{"parameter", "other"}, {"from", "1 A"}, {"to", "2 A"}, {"steps", "2"}});
    QVERIFY(isRefused(d, 2063));
}

void TstMagnetSolids::harmonics()
{
    using run::Course;
    auto sampled = [](int n, double end, const std::function<double(double)>& f,
                      const std::function<double(double)>& error) {
        run::Samples s;
        for (int i = 0; i < n; ++i) {
            const double x = end * i / (n - 1);
            s.x.push_back(x);
            s.y.push_back(f(x));
            s.error.push_back(error(x));
        }
        return s;
    };
    auto none = [](double) { return 0.0; };
    auto wave = [](double x) { return 5 + 2 * std::cos(x) + 0.5 * std::cos(3 * x); };
    for (const auto kind : {Course::Kind::period, Course::Kind::halfPeriod}) {
        const bool half = kind == Course::Kind::halfPeriod;
        const Course c(kind, sampled(half ? 9 : 17, half ? pi : 2 * pi, wave, none));
        QVERIFY(std::abs(c.period() - 2 * pi) < 1e-12);
        const auto list = c.harmonics();
        QVERIFY(std::abs(list[0].amplitude - 2) < 1e-12);
        QVERIFY(std::abs(list[1].amplitude) < 1e-12);
        QVERIFY(std::abs(list[2].amplitude - 0.5) < 1e-12);
        for (const double x : {0.1, 1.3, 3.0}) {
            QVERIFY(std::abs(c.at(x).value - wave(x)) < 1e-12);
            QVERIFY(std::abs(c.at(x).slope + 2 * std::sin(x) + 1.5 * std::sin(3 * x)) < 1e-12);
            QVERIFY(c.at(x).error < 1e-12);
        }
    }
    // What all points err by alike is no error of a slope; what changes along the sweep is.
    const Course same(Course::Kind::period, sampled(17, 2 * pi, wave, [](double) { return 1.0; }));
    QVERIFY(same.at(1).error < 1e-12);
    const Course changes(Course::Kind::period,
                         sampled(17, 2 * pi, wave, [](double x) { return 0.1 * std::sin(x); }));
    QVERIFY(changes.at(1).error > 0.05 && changes.at(1).error < 0.15);
    QVERIFY(std::abs(changes.harmonics()[0].error - 0.1) < 1e-12);
    // Slopes of a cubic are exact; a curve that is not resolved has an error that covers it.
    const Course cubic(Course::Kind::open, sampled(
                                               7, 3, [](double x) { return x * x * x; }, none));
    for (const double x : {0.0, 0.7, 2.9})
        QVERIFY(std::abs(cubic.at(x).slope - 3 * x * x) < 1e-10);
    const Course coarse(Course::Kind::open, sampled(
                                                7, 6, [](double x) { return std::sin(x); }, none));
    for (const double x : {0.5, 2.5, 4.5})
        QVERIFY(std::abs(coarse.at(x).slope - std::cos(x)) < coarse.at(x).error);
}

void TstMagnetSolids::inverseCurve()
{
    const physics::MagneticCurve S(physics::readMagneticTable(steel)),
        N(physics::readMagneticTable(knee));
    for (const auto* curve : {&S, &N})
        for (double B = -0.4; B < 2.6; B += 0.037)
            QVERIFY(std::abs(curve->density(curve->field(B)) - B) < 1e-12);
}

void TstMagnetSolids::proposesKindsOfPlanes()
{
    // Across an even plane what turns or is magnetised about its normal, along an odd one.
    Document magnet = solidOf(), turned = solidOf();
    magnet.add("sphere", {{"name", "ball"}, {"radius", "5 mm"}, {"at", "0, 0, 0"}});
    addMagnet(magnet, "M", "ball");
    addRing(turned, "w", "10 mm", "15 mm", "20 mm", "0, 0, -10 mm");
    addCoil(turned, "C", "w", "400", "2 A");
    for (const Document& whole : {magnet, turned})
        for (const auto& [plane, kind] : {std::pair{"z = 0", "even"}, {"x = 0", "odd"}}) {
            const Document d = with(with(whole, "energy", {}), "mirror plane", {{"at", plane}});
            bool proposed = false;
            for (const auto& f : run::faultsOf(sheet::Model(d), "."))
                proposed =
                    proposed || f.text.find(std::string("choose ") + kind) != std::string::npos;
            QVERIFY2(proposed, plane);
        }
}

void TstMagnetSolids::wrongLines_data()
{
    QTest::addColumn<int>("fault");
    QTest::addColumn<QString>("change");
    QTest::newRow("a coil that turns about nothing") << 2082 << "about";
    QTest::newRow("a way back") << 2074 << "back";
    QTest::newRow("a direction in a drawing") << 2083 << "drawing";
    QTest::newRow("motion") << 6734 << "motion";
    QTest::newRow("alternation") << 6735 << "alternation";
    QTest::newRow("a wall inside") << 6736 << "wall";
    QTest::newRow("a magnet at an angle to a plane") << 6722 << "magnet";
    QTest::newRow("a wedge") << 2078 << "wedge";
    QTest::newRow("nothing between") << 6737 << "island";
}

void TstMagnetSolids::wrongLines()
{
    QFETCH(int, fault);
    QFETCH(QString, change);
    Document d = with(racetrack(), "energy", {});
    addBox(d, "core", "8 mm", "4 mm", "10 mm", "0, 0, -5 mm");
    if (change == "magnet")
        d.add("magnet",
              {{"name", "M"}, {"in", "core"}, {"remanence", "1 T"}, {"along", "1, 0, 1"}});
    else
        d.add("material", {{"material", "iron"}, {"in", "core"}});
    for (auto& l : d.lines) {
        if (l.kind == "coil" && change == "about")
            l.values.erase("about");
        if (l.kind == "coil" && change == "back")
            l.values["back"] = "core";
        if (l.kind == "flux at the edge" && change == "island")
            l.values["way"] = "does not leave";
        if (l.kind == "space" && change == "drawing")
            l.values["type"] = "axisymmetric";
    }
    if (change == "motion")
        d.add("motion", {{"in", "core"}, {"speed", "1 m/s"}, {"along", "z"}});
    if (change == "alternation")
        d.add("alternation", {{"frequency", "50 Hz"}});
    if (change == "wall")
        d.add("flux wall", {{"on", "faces of core"}});
    if (change == "wedge")
        d.add("wedge symmetry", {{"angle", "30 deg"}});
    QVERIFY(isRefused(d, fault));
}

void TstMagnetSolids::currentsThatCannotClose_data()
{
    QTest::addColumn<int>("fault");
    QTest::addColumn<QString>("change");
    QTest::newRow("a bar without an end") << 6731 << "bar";
    QTest::newRow("one end only") << 6730 << "end";
    QTest::newRow("several ways") << 6732 << "eight";
    QTest::newRow("about another direction") << 6733 << "about";
}

void TstMagnetSolids::currentsThatCannotClose()
{
    QFETCH(int, fault);
    QFETCH(QString, change);
    Document d = solidOf();
    addBox(d, "w", "20 mm", "12 mm", "4 mm", "0, 0, 0");
    if (change == "end")
        d.add("mirror plane", {{"at", "x = 0"}, {"kind", "odd"}});
    if (change == "eight" || change == "about") {
        addBox(d, "hole", "4 mm", "4 mm", "4 mm", "-5 mm, 0, 0");
        d.add("material", {{"material", "air"}, {"in", "hole"}});
    }
    if (change == "eight") {
        addBox(d, "other", "4 mm", "4 mm", "4 mm", "5 mm, 0, 0");
        d.add("material", {{"material", "air"}, {"in", "other"}});
    }
    d.add("coil", {{"name", "C"},
                   {"turns", "10"},
                   {"current", "1 A"},
                   {"in", "w"},
                   {"about", change == "about" ? "x" : "z"}});
    d.add("energy", {});
    QVERIFY(test::isUnsolvable(d, fault));
}

YH_TEST(TstMagnetSolids)

}  // namespace tst_magnet_solids

#include "tst_magnet_solids.moc"
