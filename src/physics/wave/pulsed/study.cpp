// Pulses through ports on a given sheet: reading, figures, checks.
#include "base/quantity.h"
#include "physics/common/constants.h"
#include "physics/common/mesh_rung.h"
#include "physics/wave/common/scattering_asks.h"
#include "physics/wave/pulsed/pulsed.h"
#include "shape/layout.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace yh::physics {

using sheet::Line;
namespace dim = base::dim;

namespace {

double& part(Point& p, int axis)
{
    return axis == 0 ? p.x : axis == 1 ? p.y : p.z;
}
double part(const Point& p, int axis)
{
    return axis == 0 ? p.x : axis == 1 ? p.y : p.z;
}

/// A box that contains places.
struct Extent
{
    Point low{1e300, 1e300, 1e300}, high{-1e300, -1e300, -1e300};
    void add(const Point& p)
    {
        for (int a = 0; a < 3; ++a) {
            part(low, a) = std::min(part(low, a), part(p, a));
            part(high, a) = std::max(part(high, a), part(p, a));
        }
    }
    [[nodiscard]] bool touches(const Extent& o, double near) const
    {
        bool all = true;
        for (int a = 0; a < 3; ++a)
            all = all && part(low, a) <= part(o.high, a) + near &&
                  part(o.low, a) <= part(high, a) + near;
        return all;
    }
};

class PulsedReader : GridFrameReader
{
public:
    PulsedReader(const sheet::Model& model, const shape::Partition& partition, base::Faults& faults)
        : GridFrameReader(model, partition, faults, "a time grid")
    {
    }

    std::unique_ptr<PulsedWaves> run()
    {
        auto& p = *m_problem;
        refuse();
        p.wave = defineWave(m_model, m_p, m_faults);
        p.isSolid = m_model.space() == sheet::Space::solid;
        const Line *l = m_model.document().first("time grid"),
                   *band = m_model.document().first("band");
        if (!l || !band || !m_faults.empty())
            return std::move(m_problem);
        p.low = p.wave->low;
        p.high = p.wave->high;
        refuseMedia(p);
        readBox(p);
        if (m_faults.empty())
            ports();
        if (m_faults.empty()) {
            std::array<bool, 6> hasPort{};
            for (const PortWindow& w : p.windows)
                hasPort[size_t(2 * w.axis + int(w.isHigh))] = true;
            readWalls(p, hasPort);
        }
        if (m_faults.empty())
            grid(*l);
        return std::move(m_problem);
    }

private:
    void refuse()
    {
        if (m_model.space() == sheet::Space::axisymmetric)
            m_faults.push_back({7961,
                                {m_model.document().first("space")->id, "type", 0},
                                "time grids run in the plane and in solids; take the line "
                                "`time grid` out to solve round an axis",
                                false});
        for (const char* kind :
             {"open space", "wedge symmetry", "periodic pair", "incidence", "lumped port",
              "gap feed", "point dipole", "plane wave", "wire", "resistive sheet"})
            if (const Line* other = m_model.document().first(kind))
                fault(7962, *other, {},
                      std::string(kind) == "open space"
                          ? "a time grid ends at its frame: draw a box of air round the device, "
                            "and let its sides absorb, as in `absorbing wall on outer of box`"
                          : "a time grid does not know this line; it has walls, media and ports "
                            "of guides");
    }
    /// Names of ports are their own.
    void sameNames()
    {
        const auto& p = *m_problem;
        for (size_t k = 0; k < p.windows.size(); ++k)
            for (size_t j = 0; j < k; ++j)
                if (p.wave->ports[j].name == p.wave->ports[k].name)
                    m_faults.push_back({7965,
                                        {p.wave->ports[k].line, "name", 0},
                                        "another port has this name",
                                        false});
    }

    void ports()
    {
        auto& p = *m_problem;
        for (const WavePort& port : p.wave->ports) {
            PortWindow w;
            Extent e;
            int where = -1;
            for (const int side : port.sides) {
                where = frameSide(p, side);
                if (where < 0 || m_p.sides()[size_t(side)].cut >= 0) {
                    m_faults.push_back({7963,
                                        {port.line, "on", 0},
                                        "a port of a time grid lies in a side of the box that the "
                                        "device just fits into",
                                        false});
                    return;
                }
                for (const Point& q : places(p, side))
                    e.add(q);
            }
            w.axis = where / 2;
            w.isHigh = where % 2 != 0;
            w.from = e.low;
            w.to = e.high;
            p.windows.push_back(w);
        }
        for (const Line* l : m_model.document().ofKind("layout port"))
            labelled(*l);
        if (p.wave->ports.empty() && m_faults.empty())
            m_faults.push_back({7964,
                                {-1, "waves", -1},
                                "no port yet: add a line such as `port A on guide.left` or "
                                "`layout port A at label in of guide`",
                                true});
        sameNames();
        if (m_faults.empty())
            widen();
    }
    /// A port where a layout has a label.
    void labelled(const Line& l)
    {
        auto& p = *m_problem;
        const Line* of = nullptr;
        for (const Line* other : m_model.document().ofKind("layout"))
            if (other->name() == l.get("of"))
                of = other;
        if (!of)
            return;
        if (of->has("copies") || (p.isSolid && !of->has("high"))) {
            fault(7966, l, "of",
                  of->has("copies") ? "a layout with copies has no labels of its own"
                                    : "this layer has no height: its guide is no solid");
            return;
        }
        shape::LayoutMarks marks;
        try {
            marks = shape::layoutMarks(m_p.pathOf(of->get("file")), of->get("cell"),
                                       {of->id, "file", -1});
        } catch (const base::Error& e) {
            m_faults.push_back(e.fault());
            return;
        }
        const int layer = l.has("layer") ? int(std::lround(m_model.number(l, "layer"))) : -1;
        const std::complex<double> turn =
            std::polar(1.0, of->has("turned") ? m_model.number(*of, "turned") : 0.0);
        const Point shift = m_model.point(*of, "at");
        auto placed = [&](std::complex<double> z) {
            z *= turn;
            return Point{z.real() + shift.x, z.imag() + shift.y, shift.z};
        };
        const shape::LayoutMarks::Label* label = nullptr;
        std::string others;
        int count = 0;
        for (const auto& x : marks.labels) {
            if (layer >= 0 && x.layer != layer)
                continue;
            others += (others.empty() ? "" : ", ") + x.text;
            if (x.text == l.get("label")) {
                label = &x;
                ++count;
            }
        }
        if (count != 1) {
            fault(7967, l, "label",
                  count > 1 ? "this label stands in the layout several times: state its layer"
                  : others.empty()
                      ? "the layout has no labels" + std::string(layer >= 0 ? " on this layer" : "")
                      : "the layout has no label '" + l.get("label") + "'; it has " + others);
            return;
        }
        // The nearest side of the frame.
        const Point at = placed(label->at);
        PortWindow w;
        double nearest = 1e300;
        for (int a = 0; a < 2; ++a)
            for (const bool high : {false, true}) {
                const double away = std::abs(part(at, a) - part(high ? p.to : p.from, a));
                if (away < nearest) {
                    nearest = away;
                    w.axis = a;
                    w.isHigh = high;
                }
            }
        // The short path that the label stands at says how wide the guide is.
        const shape::LayoutMarks::Path* path = nullptr;
        for (const auto& x : marks.paths) {
            if (layer >= 0 && x.layer != layer)
                continue;
            const double reach = std::abs(x.to - x.from) / 2 + x.width;
            if (std::abs(label->at - (x.from + x.to) / 2.0) < reach &&
                (!path || x.width < path->width))
                path = &x;
        }
        if (!path) {
            fault(7968, l, "label",
                  "no short path lies at this label; its width says how wide the guide is");
            return;
        }
        const Point one = placed(path->from), two = placed(path->to);
        const int across = 1 - w.axis;
        if (std::abs(part(two, w.axis) - part(one, w.axis)) <
            10 * std::abs(part(two, across) - part(one, across))) {
            fault(7969, l, "label",
                  "the short path here does not run across the nearest side of the part: a guide "
                  "enters at a right angle");
            return;
        }
        const double middle = (part(one, across) + part(two, across)) / 2;
        if (nearest > 2 * path->width + std::abs(part(two, w.axis) - part(one, w.axis))) {
            fault(7970, l, "label",
                  "this label stands " + base::format(nearest, dim::length, 3) +
                      " from the nearest side of the part, in which a guide enters: let the "
                      "outline end there");
            return;
        }
        const double side = part(w.isHigh ? p.to : p.from, w.axis);
        part(w.from, w.axis) = part(w.to, w.axis) = side;
        part(w.from, across) = middle - path->width / 2;
        part(w.to, across) = middle + path->width / 2;
        w.from.z = shift.z;
        w.to.z = shift.z + (of->has("high") ? m_model.number(*of, "high") : 0.0);
        WavePort port;
        port.name = l.name();
        port.line = l.id;
        port.modes = m_model.count(l, "modes");
        port.shift = m_model.optionalNumber(l, "shift").value_or(0);
        port.severalMedia = true;
        port.drive = m_model.number(l, "power");
        port.share = port.whole = p.isSolid ? 1 : 1 / m_model.depth();
        p.wave->ports.push_back(std::move(port));
        p.windows.push_back(w);
    }
    /// Lets windows reach into the cladding, as far as the modes do, but not into the next port.
    void widen()
    {
        auto& p = *m_problem;
        const double near = 1e-6 * norm(p.to - p.from), reach = 1.2 * c0 / p.low;
        std::vector<PortWindow> wide = p.windows;
        for (size_t k = 0; k < wide.size(); ++k) {
            PortWindow& w = wide[k];
            // What the field fills without a wall between.
            Extent all{p.windows[k].from, p.windows[k].to};
            std::vector<Extent> rest;
            for (size_t s = 0; s < m_p.sides().size(); ++s) {
                const shape::Side& side = m_p.sides()[s];
                bool carries = false;
                for (const int f : side.pieces)
                    carries = carries || p.wave->carries(f);
                if (!carries || side.pieces.size() > 1 ||
                    frameSide(p, int(s)) != 2 * w.axis + int(w.isHigh))
                    continue;
                Extent e;
                for (const Point& q : places(p, int(s)))
                    e.add(q);
                rest.push_back(e);
            }
            for (bool grows = true; grows;) {
                grows = false;
                for (size_t i = 0; i < rest.size(); ++i)
                    if (rest[i].touches(all, near)) {
                        all.add(rest[i].low);
                        all.add(rest[i].high);
                        rest.erase(rest.begin() + std::ptrdiff_t(i));
                        grows = true;
                        break;
                    }
            }
            for (int a = 0; a < (p.isSolid ? 3 : 2); ++a) {
                if (a == w.axis)
                    continue;
                double low = std::max({part(all.low, a), part(p.from, a), part(w.from, a) - reach}),
                       high = std::min({part(all.high, a), part(p.to, a), part(w.to, a) + reach});
                for (size_t j = 0; j < wide.size(); ++j) {
                    const PortWindow& o = p.windows[j];
                    if (j == k || o.axis != w.axis || o.isHigh != w.isHigh)
                        continue;
                    if (part(o.from, a) > part(p.windows[k].to, a) - near)
                        high = std::min(high, (part(o.from, a) + part(p.windows[k].to, a)) / 2);
                    if (part(o.to, a) < part(p.windows[k].from, a) + near)
                        low = std::max(low, (part(o.to, a) + part(p.windows[k].from, a)) / 2);
                }
                part(w.from, a) = low;
                part(w.to, a) = high;
            }
        }
        p.windows = std::move(wide);
        // Of the power of a port that a plane of symmetry cuts, half is in the modelled part.
        for (const Line* l : m_model.document().ofKind("layout port")) {
            const auto k = size_t(p.wave->portOf(l->name()));
            for (const Line* plane : m_model.document().ofKind("mirror plane"))
                if (const int a = m_model.axisOf(plane->get("at"));
                    part(p.windows[k].from, a) < near && part(p.windows[k].to, a) > -near)
                    p.wave->ports[k].share *= 0.5;
        }
    }
    void grid(const Line& l)
    {
        auto& p = *m_problem;
        constexpr double perWave = 20;
        readCells(p, l, perWave);
        if (!m_faults.empty())
            return;
        double slow = 1, channels = 0;
        for (const int f : p.wave->activePieces)
            slow = std::max(slow, std::sqrt(p.wave->eps[size_t(f)].constant.xx));
        for (const WavePort& port : p.wave->ports)
            channels += port.modes;
        const Point extent = p.to - p.from;
        p.crossing = slow * std::hypot(extent.x, extent.y, p.isSolid ? extent.z : 0.0) / c0;
        constexpr double waits = 60;
        p.time = l.has("time") ? m_model.number(l, "time") : waits * p.crossing;
        if (p.time < p.crossing) {
            fault(7971, l, "time",
                  "a wave takes " + base::format(p.crossing, dim::time, 2) +
                      " through the device: let it be followed for some times that");
            return;
        }
        // Where nothing rings on, pulses take this share of what is allowed.
        constexpr double usual = 0.15;
        limit(p, l, l.has("time") ? p.time : usual * p.time, channels);
    }

    std::unique_ptr<PulsedWaves> m_problem = std::make_unique<PulsedWaves>();
};

class PulsedAsks : public ScatteringAsks
{
public:
    using ScatteringAsks::ScatteringAsks;

    std::vector<Ask> run()
    {
        using A = PulsedAsks;
        static const Table<A> table = {
            {"scattering", &A::scattering}, {"imbalance", &A::imbalance},
            {"S-parameters", &A::table},    {"standing wave ratio", &A::standing},
            {"bandwidth", &A::bandwidth},   {"port impedance", &A::impedance}};
        return make(table, 7980,
                    "a time grid; ask for a wave from port to port, S-parameters, an imbalance or "
                    "an impedance");
    }

private:
    void impedance(const Line& l)
    {
        const int port = m_problem.portOf(l.get("of"));
        const double f = frequencyOf(l);
        if (port < 0)
            return;
        Ask& a =
            add(l, dim::resistance, "E over H at port " + l.get("of") + " at " + frequencyText(f));
        a.evaluate = [port, f, line = l.id](Solution& field, int level) {
            auto& s = as<PulsedSolver>(field);
            const double z = s.waveImpedance(level, size_t(s.channelOf(port, 0)), f);
            if (!std::isfinite(z))
                throw base::Error(7981,
                                  "E over H is not the same all over this port: its mode has no "
                                  "single impedance",
                                  {line, "of", 0});
            return std::vector{z};
        };
    }
};

class PulsedStudy : public Study
{
public:
    explicit PulsedStudy(std::unique_ptr<PulsedWaves> problem) : m_problem(std::move(problem)) {}
    std::string name() const override { return "pulsed"; }
    std::unique_ptr<Rung> first(const Ground& ground) const override
    {
        return std::make_unique<DrawnRung>(*this, ground);
    }
    const std::vector<int>& activePieces() const override { return m_problem->wave->activePieces; }
    std::unique_ptr<Solution> on(const mesh::Mesh& mesh, const shape::Partition&, int,
                                 base::Progress&) const override
    {
        return std::make_unique<PulsedSolver>(*m_problem, mesh);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        return PulsedAsks(model, partition, *m_problem->wave, faults).run();
    }
    std::vector<mesh::SizeRule> cellSizes() const override
    {
        // The mesh tells the grid what is where, and shows the fields.
        std::vector<mesh::SizeRule> rules;
        const Point extent = m_problem->to - m_problem->from;
        const double size = std::max({extent.x, extent.y, extent.z});
        constexpr double solid = 20, plane = 90;
        for (const int f : m_problem->wave->activePieces)
            rules.push_back({f, -1, size / (m_problem->isSolid ? solid : plane)});
        return rules;
    }
    std::vector<Check> checks(const sheet::Model& model, const shape::Partition&, Solution& field,
                              const std::vector<Ask>&) const override
    {
        auto& s = as<PulsedSolver>(field);
        std::vector<Check> list;
        const Line* line = model.document().first("time grid");
        const int id = line ? line->id : -1;
        grids(s, id, list);
        settled(s, id, list);
        balance(s, list);
        for (size_t k = 0; k < s.channels().size(); ++k)
            guide(s, k, list);
        list.push_back({"scale of waves",
                        Check::State::note,
                        "fields at " + frequencyText(m_problem->wave->shown) +
                            " are shown for waves of " + drives() +
                            "; the pulse over time for a "
                            "current of no particular size",
                        -1,
                        {}});
        return list;
    }

private:
    /// Powers of the ports' waves, each once.
    std::string drives() const
    {
        std::string text;
        for (const WavePort& port : m_problem->wave->ports)
            if (const std::string power = base::format(port.drive, dim::power, 4);
                text.find(power) == std::string::npos)
                text += (text.empty() ? "" : ", ") + power;
        return text;
    }
    void grids(const PulsedSolver& s, int id, std::vector<Check>& list) const
    {
        const auto &f = s.facts(2), &coarse = s.facts(0);
        auto shape = [](const PulsedSolver::Facts& x) {
            std::string t = std::to_string(x.cells[0]) + " × " + std::to_string(x.cells[1]);
            return x.cells[2] ? t + " × " + std::to_string(x.cells[2]) : t;
        };
        const double cells = double(f.cells[0]) * f.cells[1] * std::max(1, f.cells[2]);
        char text[240];
        std::snprintf(text, sizeof text,
                      "grids from %s to %s cells, %d steps for %d pulses on the finest: %.3g "
                      "million cells a second",
                      shape(coarse).c_str(), shape(f).c_str(), f.steps, int(s.channels().size()),
                      1e-6 * cells * f.steps / std::max(1e-9, f.seconds));
        list.push_back({"grids", Check::State::note, text, id, {}});
        double slow = 1;
        for (const int piece : m_problem->wave->activePieces)
            slow = std::max(slow, std::sqrt(m_problem->wave->eps[size_t(piece)].constant.xx));
        const double perWave = c0 / (slow * m_problem->high * m_problem->cell);
        constexpr double enough = 8;
        std::snprintf(text, sizeof text, "%.0f cells in the shortest wave%s", perWave,
                      perWave > enough ? "" : ": choose smaller ones");
        list.push_back({"cells per wave",
                        perWave > enough ? Check::State::good : Check::State::warning,
                        text,
                        id,
                        {}});
    }
    static void settled(const PulsedSolver& s, int id, std::vector<Check>& list)
    {
        char text[200];
        constexpr double enough = 1e-3;
        const bool isGood = s.unsettled() < enough;
        std::snprintf(text, sizeof text,
                      "without the last seventh of what was heard, S would change by %.1g%s",
                      s.unsettled(), isGood ? "" : ": follow the pulses for longer");
        list.push_back(
            {"rung out", isGood ? Check::State::good : Check::State::warning, text, id, {}});
    }
    /// What is neither sent back nor passed on, and whether both ways are alike.
    void balance(const PulsedSolver& s, std::vector<Check>& list) const
    {
        double most = 0, least = 1, uneven = 0;
        for (const double share : {0.0, 0.5, 1.0}) {
            const double f = m_problem->low + share * (m_problem->high - m_problem->low);
            // On the grid it is so but for what ports leave out.
            const Eigen::MatrixXcd S = s.scattering(2, f), fine = s.scattering(1, f);
            uneven = std::max(uneven, (fine - fine.transpose()).cwiseAbs().maxCoeff());
            for (Eigen::Index k = 0; k < S.cols(); ++k) {
                most = std::max(most, S.col(k).squaredNorm());
                least = std::min(least, S.col(k).squaredNorm());
            }
        }
        char text[200];
        constexpr double even = 0.01;
        std::snprintf(text, sizeof text, "S both ways between two ports agrees to %.1g", uneven);
        list.push_back({"reciprocity",
                        uneven < even ? Check::State::good : Check::State::warning,
                        text,
                        -1,
                        {}});
        if (most > 1 + even)
            std::snprintf(text, sizeof text,
                          "%.3g %% more comes out than goes in: choose smaller cells",
                          100 * (most - 1));
        else
            std::snprintf(text, sizeof text,
                          "at most %.2g %% of a wave is radiated, lost, or in modes that do not "
                          "count",
                          100 * std::max(0.0, 1 - least));
        list.push_back(
            {"power", most > 1 + even ? Check::State::bad : Check::State::note, text, -1, {}});
    }
    void guide(const PulsedSolver& s, size_t channel, std::vector<Check>& list) const
    {
        const auto& c = s.channels()[channel];
        const auto& wave = m_problem->wave->ports[size_t(c.port)];
        const GridPort& port = s.port(c.port);
        const double f = m_problem->wave->shown, n = s.index(channel),
                     z = s.waveImpedance(2, channel, f), level = port.level(c.mode);
        char text[240];
        if (std::isfinite(z))
            std::snprintf(text, sizeof text,
                          ": phase constant %.5g times that of vacuum, E over H "
                          "%.5g Ω",
                          n, z);
        else
            std::snprintf(text, sizeof text, ": effective index %.5g, %s (%.0f %% of E across z)",
                          n, level > 0.5 ? "TE-like" : "TM-like", 100 * level);
        list.push_back({"guide",
                        Check::State::note,
                        "port " + wave.name + ", mode " + std::to_string(c.mode + 1) + text,
                        wave.line,
                        {}});
        constexpr double far = 0.05;
        const double border = port.atBorder(c.mode);
        if (!std::isfinite(z) && n < port.indexAtBorder())
            list.push_back({"guide",
                            Check::State::warning,
                            "mode " + std::to_string(c.mode + 1) + " of port " + wave.name +
                                " is not guided: the cladding is as fast; let fewer modes count",
                            wave.line,
                            {}});
        else if (!std::isfinite(z) && border > far) {
            std::snprintf(text, sizeof text,
                          "the field of mode %d of port %s is %.1f %% of its largest at the "
                          "border of its window: more cladding, or more room to the next port",
                          c.mode + 1, wave.name.substr(0, 40).c_str(), 100 * border);
            list.push_back({"guide", Check::State::warning, text, wave.line, {}});
        }
    }

    std::unique_ptr<PulsedWaves> m_problem;
};

}  // namespace

std::unique_ptr<Study> wavePulsedStudy(const sheet::Model& model, const shape::Partition& partition,
                                       base::Faults& faults)
{
    return std::make_unique<PulsedStudy>(PulsedReader(model, partition, faults).run());
}

}  // namespace yh::physics
