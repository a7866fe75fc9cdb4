#include "physics/magnetic/asks.h"

#include "physics/common/ask_maker.h"
#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace yh::physics {

using sheet::Line;
namespace dim = base::dim;

namespace {

MagneticField& solverOf(Solution& field)
{
    return as<MagneticField>(field);
}
MagneticSolver& drawingOf(Solution& field)
{
    return as<MagneticSolver>(field);
}

/// Table for a picture of the B-H plane: the curve of a magnet, and its working points.
std::string workingPlane(const MagneticMedium& m, std::vector<MagneticField::WorkingPoint> points)
{
    std::sort(points.begin(), points.end(), [](const auto& a, const auto& b) { return a.H < b.H; });
    auto along = [&m](double B) { return m.curve ? m.curve->field(B) : (B - m.remanence) / m.mu; };
    const double low = std::min(0.0, points.empty() ? 0.0 : points.front().B);
    std::string csv = "H (A/m),B (T),• working points (T)\n";
    char row[96];
    constexpr int steps = 120;
    for (int i = 0; i <= steps; ++i) {
        const double B = low + (m.remanence - low) * i / steps;
        std::snprintf(row, sizeof row, "%.9g,%.9g,\n", along(B), B);
        csv += row;
    }
    constexpr size_t most = 160;
    const size_t stride = std::max<size_t>(1, points.size() / most);
    for (size_t i = 0; i < points.size(); i += stride) {
        std::snprintf(row, sizeof row, "%.9g,,%.9g\n", points[i].H, points[i].B);
        csv += row;
    }
    return csv;
}

class MagneticAsks : public AskMaker<MagneticProblem>
{
public:
    using AskMaker::AskMaker;

    std::vector<Ask> run()
    {
        using A = MagneticAsks;
        static const Table<A> table = {{"flux density at", &A::atPoint},
                                       {"flux density along", &A::atPoint},
                                       {"field strength at", &A::atPoint},
                                       {"largest flux density", &A::region},
                                       {"mean flux density", &A::region},
                                       {"flux linkage", &A::linkage},
                                       {"inductance", &A::inductance},
                                       {"inductance matrix", &A::matrix},
                                       {"energy", &A::energy},
                                       {"co-energy", &A::energy},
                                       {"working points", &A::workingPoints},
                                       {"coil impedance", &A::impedance},
                                       {"heating power", &A::power},
                                       {"drag", &A::drag},
                                       {"terminal speed", &A::terminalSpeed},
                                       {"force", &A::force},
                                       {"torque", &A::force},
                                       {"profile", &A::profile}};
        return make(table, 7401,
                    "magnets and coils; ask for flux densities, linkages, inductances, forces or "
                    "energies");
    }

private:
    std::vector<int> piecesOf(const Line& l, const std::string& key)
    {
        try {
            const auto s = m_p.resolve(m_model.place(l, key), m_model, {l.id, key, 0});
            if (s.pieces.empty())
                fault(7402, l, key, "'" + l.get(key) + "' picks no region");
            return s.pieces;
        } catch (const base::Error& e) {
            m_faults.push_back(e.fault());
            return {};
        }
    }
    /// A direction of the sheet in the coordinates of the drawing.
    Point directionOf(const Line& l)
    {
        const Point d = m_model.direction(l, "along");
        return m_problem.isAxisymmetric() ? Point{d.x, d.y + d.z} : d;
    }

    void atPoint(const Line& l)
    {
        const Point p = m_model.point(l, "at");
        const bool strength = l.kind == "field strength at", along = l.kind == "flux density along";
        const Point way = along ? directionOf(l) : Point{};
        Ask& a = add(l, strength ? dim::magneticField : dim::fluxDensity,
                     along ? "B along " + l.get("along") + " at " + l.get("at")
                           : (strength ? "|H| at " : "|B| at ") + l.get("at"));
        a.degree = 1;
        auto find = [p, line = l.id](const MagneticField& s) {
            const auto hit = mesh::Locator(s.mesh()).find(s.problem().shell.drawn(p));
            if (hit.cell < 0)
                throw base::Error(7403, "the point lies outside the drawing", {line, "at", 0});
            return hit;
        };
        a.evaluate = [find, strength, along, way](Solution& field, int order) {
            auto& s = solverOf(field);
            const auto hit = find(s);
            const Point B = s.fluxDensity(order, hit.cell, hit.xi);
            return std::vector{along ? dot(B, way) : s.size(order, hit.cell, hit.xi, strength)};
        };
        if (along)
            a.scale = [find](Solution& field, int order) {
                auto& s = solverOf(field);
                const auto hit = find(s);
                return norm(s.fluxDensity(order, hit.cell, hit.xi));
            };
        if (!strength)
            a.local = [find, along, way](Solution& field, const mesh::Locator&, const std::any&) {
                auto& s = solverOf(field);
                const auto hit = find(s);
                const Point B = s.fluxDensity(s.order(), hit.cell, hit.xi);
                const double size = norm(B);
                return std::vector{s.fluxAlong(hit, along      ? way
                                                    : size > 0 ? (1 / size) * B
                                                               : Point{0, 1})};
            };
    }

    void region(const Line& l)
    {
        const bool largest = l.kind == "largest flux density";
        const auto pieces = piecesOf(l, "in");
        if (pieces.empty())
            return;
        Ask& a =
            add(l, dim::fluxDensity, (largest ? "largest |B| in " : "mean |B| in ") + l.get("in"));
        a.degree = largest ? 1 : 2;
        a.evaluate = [pieces, largest](Solution& field, int order) {
            auto& s = solverOf(field);
            return std::vector{largest ? s.largest(order, pieces).value : s.mean(order, pieces)};
        };
        if (!largest)
            return;
        a.where = [pieces](Solution& field, int order) {
            return solverOf(field).largest(order, pieces).hit;
        };
        a.local = [pieces](Solution& field, const mesh::Locator&, const std::any&) {
            auto& s = solverOf(field);
            const auto hit = s.largest(s.order(), pieces).hit;
            const Point B = s.fluxDensity(s.order(), hit.cell, hit.xi);
            const double size = norm(B);
            return std::vector{s.fluxAlong(hit, size > 0 ? (1 / size) * B : Point{0, 1})};
        };
    }

    /// A coil of the modelled part; -1 with a fault.
    int coilOf(const Line& l, const std::string& key)
    {
        const int k = m_problem.coilOf(l.get(key));
        if (k < 0 || m_problem.coils[size_t(k)].isImage()) {
            fault(7404, l, key, "'" + l.get(key) + "' is not in the modelled part");
            return -1;
        }
        return k;
    }
    void linkage(const Line& l)
    {
        const int k = coilOf(l, "of");
        if (k < 0)
            return;
        Ask& a = add(l, dim::flux, "flux linkage of " + l.get("of"));
        // The coil's own field tells where the field matters for it.
        a.allDrives = m_problem.isSolid;
        a.evaluate = [k](Solution& field, int order) {
            return std::vector{solverOf(field).linkage(order, k)};
        };
    }
    bool hasWhole(const Line& l)
    {
        if (m_problem.hasImageCoils)
            fault(7405, l, {},
                  "a coil lies behind a mirror plane, and what one coil does alone is no mirror "
                  "image of itself; draw the whole device for inductances");
        return !m_problem.hasImageCoils;
    }
    void inductance(const Line& l)
    {
        const int a = coilOf(l, "of"), b = l.has("to") ? coilOf(l, "to") : a;
        if (a < 0 || b < 0 || !hasWhole(l))
            return;
        Ask& k = add(l, dim::inductance,
                     a == b ? "inductance of " + l.get("of")
                            : "inductance " + l.get("of") + " to " + l.get("to"));
        k.allDrives = true;
        k.evaluate = [a, b](Solution& field, int order) {
            auto& s = solverOf(field);
            return std::vector{
                s.inductances(order)[size_t(a) * s.problem().coils.size() + size_t(b)]};
        };
        if (!m_problem.isLinear())
            k.reduce = [](Finding& f, const std::any&) {
                f.note = "by how much the linkage rises with the current, at this state";
            };
    }
    void matrix(const Line& l)
    {
        if (!hasWhole(l))
            return;
        Ask& k = add(l, dim::inductance, "inductance matrix");
        k.allDrives = true;
        for (const Coil& c : m_problem.coils)
            k.finding.conductors.push_back(c.name);
        if (m_problem.coils.empty())
            fault(7406, l, {}, "there is no coil in this sheet");
        k.evaluate = [](Solution& field, int order) { return solverOf(field).inductances(order); };
    }
    void energy(const Line& l)
    {
        const bool co = l.kind == "co-energy";
        add(l, dim::energy, co ? "co-energy" : "stored energy").evaluate = [co](Solution& field,
                                                                                int order) {
            auto& s = solverOf(field);
            return std::vector{co ? s.coenergy(order) : s.energy(order)};
        };
    }

    void impedance(const Line& l)
    {
        const int k = coilOf(l, "of");
        if (k < 0 || !hasWhole(l))
            return;
        const size_t n = m_problem.coils.size(), at = size_t(k) * n + size_t(k);
        add(l, dim::inductance, "inductance of " + l.get("of")).evaluate = [at](Solution& field,
                                                                                int order) {
            return std::vector{solverOf(field).inductances(order)[at]};
        };
        m_asks.back().allDrives = true;
        Ask& R = add(l, dim::resistance, "resistance of " + l.get("of"));
        R.allDrives = true;
        R.evaluate = [at](Solution& field, int order) {
            return std::vector{drawingOf(field).resistances(order)[at]};
        };
        R.reduce = [](Finding& f, const std::any&) {
            f.note = "what induced currents bring in; that of its own wire comes on top";
        };
    }
    void power(const Line& l)
    {
        const auto pieces = piecesOf(l, "in");
        if (pieces.empty())
            return;
        if (!m_problem.moves() && !m_problem.alternates())
            fault(7407, l, {}, "nothing moves and nothing alternates: no current is induced");
        add(l, dim::power, "heating power in " + l.get("in")).evaluate = [pieces](Solution& field,
                                                                                  int order) {
            return std::vector{drawingOf(field).loss(order, pieces)};
        };
    }
    void drag(const Line& l)
    {
        const double speed = std::abs(m_problem.speed),
                     last = m_model.optionalNumber(l, "up").value_or(2 * speed);
        Ask& a = add(l, dim::force, "drag");
        a.evaluate = [speed](Solution& field, int order) {
            return std::vector{drawingOf(field).drag(order, speed)};
        };
        a.finding.table = "curves";
        a.curves = [last](Solution& field) {
            std::string csv = "speed (m/s),drag (N)\n0,0\n";
            char row[64];
            constexpr int steps = 10;
            for (int i = 1; i <= steps; ++i) {
                const double v = last * i / steps;
                std::snprintf(row, sizeof row, "%.9g,%.9g\n", v,
                              drawingOf(field).drag(pictureOrder(field), v));
                csv += row;
            }
            return csv;
        };
    }
    void terminalSpeed(const Line& l)
    {
        constexpr double gravity = 9.80665;  // m/s^2, by definition
        const double mass = m_model.number(l, "mass"),
                     force = m_model.optionalNumber(l, "force").value_or(mass * gravity);
        Ask& a = add(l, base::dim::of(1, 0, -1), "terminal speed");
        a.evaluate = [force, line = l.id](Solution& field, int order) {
            try {
                return std::vector{drawingOf(field).speedOf(order, force)};
            } catch (const base::Error& e) {
                throw base::Error(e.fault().number, e.what(), {line, "mass", 0});
            }
        };
        a.finding.table = "curves";
        a.curves = [force, mass](Solution& field) { return courseFromRest(field, force, mass); };
    }
    /// Curves need not be as exact as figures are.
    static int pictureOrder(const Solution& field) { return std::max(1, field.order() - 1); }
    /// Speed over time from rest, m dv/dt = F - D(v), by the classical Runge-Kutta method over a
    /// drag that is known at some speeds.
    static std::string courseFromRest(Solution& field, double force, double mass)
    {
        auto& s = drawingOf(field);
        const double end = s.speedOf(s.order(), force);
        constexpr int known = 6, steps = 400;
        std::vector<double> D{0};
        for (int i = 1; i <= known; ++i)
            D.push_back(s.drag(pictureOrder(field), end * i / known));
        // Over the speed it is smooth: the cubic through the four nearest.
        auto at = [&](double v) {
            const double x = std::clamp(v / end * known, 0.0, double(known));
            const int first = std::clamp(int(x) - 1, 0, known - 3);
            double sum = 0;
            for (int i = first; i < first + 4; ++i) {
                double share = 1;
                for (int j = first; j < first + 4; ++j)
                    if (j != i)
                        share *= (x - j) / (i - j);
                sum += share * D[size_t(i)];
            }
            return sum;
        };
        auto rate = [&](double v) { return (force - at(v)) / mass; };
        const double h = 6 * mass * end / force / steps;
        std::string csv = "t (s),speed (m/s)\n";
        char row[64];
        double v = 0;
        for (int i = 0; i <= steps; ++i) {
            if (i % 4 == 0) {
                std::snprintf(row, sizeof row, "%.9g,%.9g\n", i * h, v);
                csv += row;
            }
            const double a = rate(v), b = rate(v + h / 2 * a), c = rate(v + h / 2 * b),
                         d = rate(v + h * c);
            v += h / 6 * (a + 2 * b + 2 * c + d);
        }
        return csv;
    }

    /// Mean state of a magnet along its direction, and a picture of all its points.
    void workingPoints(const Line& l)
    {
        const Line* magnet = m_model.document().findNamed(l.get("of"));
        const auto pieces = magnet ? piecesOf(*magnet, "in") : std::vector<int>{};
        if (pieces.empty())
            return;
        for (const bool B : {true, false}) {
            Ask& a = add(l, B ? dim::fluxDensity : dim::magneticField,
                         "working points of " + l.get("of") + (B ? ", mean B" : ", mean H"));
            a.evaluate = [pieces, B](Solution& field, int order) {
                double sum = 0, volume = 0;
                for (const auto& w : solverOf(field).workingPoints(order, pieces)) {
                    sum += w.volume * (B ? w.B : w.H);
                    volume += w.volume;
                }
                return std::vector{volume > 0 ? sum / volume : 0.0};
            };
            if (!B)
                continue;
            a.finding.table = "curves";
            a.curves = [pieces](Solution& field) {
                auto& s = solverOf(field);
                return workingPlane(s.problem().media[size_t(pieces[0])],
                                    s.workingPoints(s.order(), pieces));
            };
        }
    }

    void force(const Line& l)
    {
        const auto pieces = piecesOf(l, "on");
        if (pieces.empty())
            return;
        const bool torque = l.kind == "torque";
        const Point about = torque ? m_model.point(l, "about") : Point{};
        const WholeBody whole(m_p, pieces, m_problem.mirror, 1);
        auto figure = [whole, about, torque](const BodyForce& f) {
            const BodyForce w = whole.of(f);
            return torque ? w.torque - cross(about, w.force) : w.force;
        };
        const auto parts = forceParts(torque, m_problem.isSolid, m_problem.isAxisymmetric());
        for (const ForcePart& part : parts) {
            Ask& a = add(l, torque ? dim::torque : dim::force, part.name + l.get("on"));
            a.finding.unit = part.unit();
            a.degree = 1;
            if (m_problem.isSolid && m_problem.scale > 1)
                a.reduce = [](Finding& f, const std::any&) {
                    f.note = f.value[0] == 0 ? "nothing, by the symmetry of the device" : "";
                };
            a.evaluate = [pieces, figure, c = part.component](Solution& field, int order) {
                return std::vector{figure(solverOf(field).forceByVirtualWork(order, pieces)).*c};
            };
            if (m_problem.isSolid)
                a.local = [motion = motionOf(pieces, [&](const BodyForce& f) {
                               return figure(f).*part.component;
                           })](Solution&, const mesh::Locator&, const std::any&) {
                    return movedBy(motion);
                };
            // A force that symmetry makes vanish is judged by the pull on the surface.
            a.scale = [pieces, figure, torque](Solution& field, int order) {
                auto& s = solverOf(field);
                const double size = norm(figure(s.forceByVirtualWork(order, pieces)));
                constexpr double share = 2e-3;
                return torque ? size : std::max(size, share * s.pull(order, pieces));
            };
            a.secondRoute = [pieces, figure, c = part.component](Solution& field) {
                auto& s = solverOf(field);
                return std::vector{figure(s.forceBySurfaceStress(s.order(), pieces)).*c};
            };
            a.secondRouteName = "the stress on its surface";
        }
    }

    void profile(const Line& l) { profileOf(l, dim::fluxDensity); }
};

}  // namespace

std::vector<Ask> makeMagneticAsks(const sheet::Model& model, const shape::Partition& partition,
                                  const MagneticProblem& problem, base::Faults& faults)
{
    return MagneticAsks(model, partition, problem, faults).run();
}

}  // namespace yh::physics
