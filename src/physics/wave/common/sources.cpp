// Reading the waves of a sheet: ports, dipoles, plane waves, and periodic sides.
#include "physics/common/constants.h"
#include "physics/wave/common/reader.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

using sheet::Line;

void WaveReader::periodicPairs()
{
    for (const Line* l : m_model.document().ofKind("periodic pair")) {
        const Line* modes = m_model.document().first("modes");
        if (m_model.document().first("open space"))
            fault(6244, *l, {}, "a chain of devices does not end in open space on all sides");
        else if (m_out->guideModes > 0)
            fault(6244, *l, {}, "modes of guides have no periodic sides yet");
        else if (modes && !(m_model.optionalNumber(*modes, "from").value_or(0) > 0))
            fault(6245, *modes, "from",
                  "between periodic sides resonances are looked for above a frequency: state "
                  "it, a little below the first one wanted",
                  true);
        std::vector<int> sides[2];
        for (const size_t k : {0U, 1U}) {
            const char* key = k ? "to" : "on";
            try {
                const auto s = m_p.resolve(m_model.place(*l, key), m_model, {l->id, key, 0});
                sides[k] = s.sides;
            } catch (const base::Error& e) {
                m_faults.push_back(e.fault());
            }
        }
        pairUp(*l, sides[0], sides[1]);
    }
}

int WaveReader::partnerOf(int side, const std::vector<int>& list, const Point& shift) const
{
    const double near = 1e-6 * m_p.size();
    int partner = -1;
    for (const int b : list) {
        const shape::Side &x = m_p.sides()[size_t(side)], &y = m_p.sides()[size_t(b)];
        if (norm(x.centre + shift - y.centre) < near && std::abs(x.content / y.content - 1) < 1e-6)
            partner = b;
    }
    return partner;
}

void WaveReader::pairUp(const Line& l, const std::vector<int>& from, const std::vector<int>& to)
{
    auto& o = *m_out;
    mesh::PeriodicPair pair;
    auto centre = [this](const std::vector<int>& list) {
        Point sum;
        double all = 0;
        for (const int s : list) {
            const shape::Side& side = m_p.sides()[size_t(s)];
            sum = sum + side.content * side.centre;
            all += side.content;
        }
        return (1 / all) * sum;
    };
    bool fits = !from.empty() && from.size() == to.size();
    if (fits)
        pair.shift = centre(to) - centre(from);
    const double near = 1e-6 * m_p.size();
    fits = fits && norm(pair.shift) > near &&
           (m_model.space() != sheet::Space::axisymmetric || std::abs(pair.shift.x) < near);
    for (const int a : from) {
        const int partner = fits ? partnerOf(a, to, pair.shift) : -1;
        fits = fits && partner >= 0 && fieldsAt(a) == 1 && fieldsAt(partner) == 1;
        if (!fits)
            break;
        pair.sides.push_back({a, partner});
        o.sides[size_t(a)] = o.sides[size_t(partner)] = WaveProblem::magnetic;
    }
    if (fits) {
        o.periodic.push_back(std::move(pair));
        o.phases.push_back(m_model.number(l, "phase"));
    } else
        fault(6243, l, "to",
              "these sides are not the same as the first ones but for a shift, or the field "
              "does not end at them");
}

void WaveReader::dipoles()
{
    auto& o = *m_out;
    for (const Line* l : m_model.document().ofKind("point dipole")) {
        PointDipole d;
        d.name = l->name();
        d.line = l->id;
        d.at = m_model.point(*l, "at");
        const auto parts = o.kind.parts;
        const std::string along = m_model.choice(*l, "along");
        d.direction = along == "x"   ? Point{1, 0, 0}
                      : along == "y" ? Point{0, 1, 0}
                                     : Point{0, 0, 1};
        if (m_model.space() == sheet::Space::axisymmetric) {
            // The sheet's r and z are x and y of the drawing.
            d.direction = {0, 1, 0};
            if (parts == fem::EdgeKind::round)
                fault(6220, *l, {},
                      "with E round the axis nothing on the axis drives it; take a port");
            else if (along != "z" || d.at.x != 0)
                fault(6220, *l, "along",
                      "round an axis a dipole stands on the axis and points along z");
        } else if (m_model.space() == sheet::Space::plane &&
                   (along == "z") != (parts == fem::EdgeKind::across))
            fault(6221, *l, "along",
                  along == "z" ? "E lies in the drawing: a dipole there points along x or y, "
                                 "unless a line says `E across the drawing`"
                               : "E points across the drawing: a dipole there points along z");
        d.moment = m_model.number(*l, "moment");
        o.dipoles.push_back(d);
    }
}

void WaveReader::mustFitPlanes(const Line& l, const PlaneWave& w)
{
    const auto& o = *m_out;
    constexpr double right = 1e-6;
    for (const auto& mirror : o.mirrors) {
        auto part = [&mirror](const Point& p) {
            return std::abs(mirror.axis == 0 ? p.x : mirror.axis == 1 ? p.y : p.z);
        };
        const bool fits =
            part(w.towards) < right && (mirror.odd ? std::abs(part(w.polarisation) - 1) < right
                                                   : part(w.polarisation) < right);
        if (!fits)
            fault(6234, l, {},
                  std::string("this wave does not have the symmetry of the mirror plane ") +
                      "xyz"[mirror.axis] + " = 0: it must travel along the plane, with E " +
                      (mirror.odd ? "across it" : "along it"));
    }
}

void WaveReader::mustFitDrawing(const Line& l, const PlaneWave& w, bool across)
{
    constexpr double right = 1e-6;
    const double out = std::abs(w.polarisation.z);
    if (std::abs(w.towards.z) > right)
        fault(6231, l, "towards", "a wave in a drawing travels in its plane");
    else if (std::abs(out - (across ? 1 : 0)) > right)
        fault(6231, l, "E",
              across ? "E points across the drawing, along z"
                     : "E lies in the plane of the drawing, unless a line says `E across "
                       "the drawing`");
}

void WaveReader::planeWaves()
{
    auto& o = *m_out;
    const bool drawing = m_model.space() == sheet::Space::plane;
    for (const Line* l : m_model.document().ofKind("plane wave")) {
        PlaneWave w;
        w.name = l->name();
        w.line = l->id;
        w.towards = m_model.direction(*l, "towards");
        w.field = m_model.number(*l, "field");
        if (m_model.space() == sheet::Space::axisymmetric) {
            fault(6228, *l, {},
                  "round an axis the field is the same at every angle, which a plane wave is "
                  "not; draw the device as a solid");
            continue;
        }
        if (!m_model.document().first("open space"))
            fault(6229, *l, {}, "a plane wave comes from far away: add the line `open space`",
                  true);
        if (!l->has("E") && !drawing) {
            fault(6230, *l, "E", "along which direction is its electric field?", true);
            continue;
        }
        const bool across = o.kind.parts == fem::EdgeKind::across;
        w.polarisation = l->has("E") ? m_model.direction(*l, "E")
                         : across    ? Point{0, 0, 1}
                                     : Point{-w.towards.y, w.towards.x, 0};
        constexpr double right = 1e-6;
        if (drawing)
            mustFitDrawing(*l, w, across);
        const double along = dot(w.polarisation, w.towards);
        if (std::abs(along) > right)
            fault(6232, *l, "E", "the electric field lies across the way that the wave travels");
        if (o.wedges > 1)
            fault(6233, *l, {},
                  "a plane wave does not look the same from every wedge; model the whole or a "
                  "half by a mirror plane");
        mustFitPlanes(*l, w);
        o.planeWaves.push_back(w);
    }
}

void WaveReader::lumpedPorts()
{
    auto& o = *m_out;
    for (const Line* l : m_model.document().ofKind("lumped port")) {
        if (o.kind.parts != fem::EdgeKind::inside)
            fault(6239, *l, {},
                  "with E across the drawing no two conductors of it have a voltage between "
                  "them; take a port or a dipole");
        WavePort port;
        port.name = l->name();
        port.line = l->id;
        port.resistance = m_model.number(*l, "resistance");
        port.drive = m_model.number(*l, "power");
        const shape::Selection s = resolve(*l);
        if (!s.pieces.empty())
            fault(6202, *l, "on",
                  "'" + l->get("on") + "' picks regions; a port lies on a face or sheet");
        for (const int side : s.sides) {
            const shape::Side& where = m_p.sides()[size_t(side)];
            const int count = fieldsAt(side);
            if (count == 0)
                fault(6209, *l, "on",
                      where.pieces.empty() ? "no region touches this port"
                                           : "this port lies inside metal: no field reaches it");
            if (!where.flat ||
                (m_p.dimension() == 3 && !port.sides.empty() &&
                 norm(cross(where.normal, m_p.sides()[size_t(port.sides[0])].normal)) > 1e-9))
                fault(6211, *l, "on", "a port must be plane");
            port.sides.push_back(side);
            // A gap inside the device is no wall; at its end the field stops at the source.
            o.sides[size_t(side)] = count > 1 ? WaveProblem::open : WaveProblem::magnetic;
        }
        setWhole(port);
        o.ports.push_back(std::move(port));
    }
}

void WaveReader::findTurning()
{
    auto& o = *m_out;
    const int straight = m_p.dimension() == 3 ? 2 : 1;
    for (const WavePort& port : o.ports)
        o.turning = o.turning || (port.resistance == 0 && port.modes > straight);
    for (const double phase : o.phases)
        o.turning = o.turning || std::abs(std::sin(phase / 2)) > 1e-12;
    o.turning = (o.turning || o.isSlanted()) && !o.phases.empty();
}

Point WaveReader::slantOf(double angle, double azimuth) const
{
    const auto& o = *m_out;
    const WavePort& port = o.ports[0];
    const Point a = o.periodic[0].shift, u = (1 / norm(a)) * a;
    Point v;
    if (o.periodic.size() > 1) {
        const Point b = o.periodic[1].shift;
        v = b - dot(b, u) * u;
        v = (1 / norm(v)) * v;
    }
    return std::sqrt(port.eps * port.mu) * std::sin(angle) *
           (std::cos(azimuth) * u + std::sin(azimuth) * v);
}

void WaveReader::incidence()
{
    auto& o = *m_out;
    const Line* l = m_model.document().first("incidence");
    if (!l)
        return;
    const double angle = m_model.number(*l, "angle"), azimuth = m_model.number(*l, "azimuth");
    const bool solid = m_p.dimension() == 3;
    if (!(std::abs(angle) < pi / 2))
        fault(6249, *l, "angle",
              "an angle of incidence lies between -90 deg and 90 deg; a number without a unit "
              "is in radians");
    else if (azimuth != 0 && !solid)
        fault(6249, *l, "azimuth", "in a drawing waves travel in its plane, without an azimuth");
    else if (o.periodic.size() != (solid ? 2 : 1))
        fault(6250, *l, {},
              solid ? "at an angle waves come to a device that goes on without end; state two "
                      "periodic pairs"
                    : "at an angle waves come to a device that goes on without end; state a "
                      "periodic pair");
    else if (std::any_of(o.phases.begin(), o.phases.end(), [](double p) { return p != 0; }))
        fault(6251, *l, {}, "the angle says what the phases of the pairs are; leave those out");
    else if (o.ports.empty() || o.ports[0].resistance > 0 || !o.dipoles.empty() ||
             !m_model.document().ofKind("lumped port").empty())
        fault(6252, *l, {},
              "an angle of incidence is that of a wave through ports; for other sources state "
              "the phases of the pairs");
    else if (o.dispersiveOf(o.ports[0].piece))
        fault(6253, *l, {},
              "the medium behind the first port runs with the frequency, so that the angle "
              "would not fix the phases; end it before the port");
    else {
        o.slant = slantOf(angle, azimuth);
    }
}

void WaveReader::ports()
{
    auto& o = *m_out;
    lumpedPorts();
    for (const Line* l : m_model.document().ofKind("port")) {
        WavePort port;
        port.name = l->name();
        port.line = l->id;
        port.modes = m_model.count(*l, "modes");
        port.drive = m_model.number(*l, "power");
        if (const auto shift = m_model.optionalNumber(*l, "shift"))
            port.shift = *shift;
        const shape::Selection s = resolve(*l);
        if (!s.pieces.empty())
            fault(6202, *l, "on",
                  "'" + l->get("on") + "' picks regions; a port lies on a face, such as " +
                      l->get("on") + ".left");
        // Conductors may end on the same face: only what lies between them carries a wave.
        const bool reached = std::any_of(s.sides.begin(), s.sides.end(),
                                         [this](int side) { return fieldsAt(side) > 0; });
        for (const int side : s.sides)
            if (!reached || fieldsAt(side) > 0)
                portSide(*l, port, side);
        setWhole(port);
        o.ports.push_back(std::move(port));
    }
    if (m_model.space() == sheet::Space::axisymmetric)
        for (const WavePort& port : o.ports)
            roundAxis(port);
}

void WaveReader::roundAxis(const WavePort& port)
{
    double low = 1e300, high = -1e300, least = 1e300;
    for (const int side : port.sides)
        for (const Point& p : m_p.samples(side)) {
            low = std::min(low, p.y);
            high = std::max(high, p.y);
            least = std::min(least, p.x);
        }
    const double near = 1e-9 * m_p.size();
    if (least < near)
        m_faults.push_back({6224,
                            {port.line, "on", 0},
                            "this port reaches the axis, where its field would have no limit; "
                            "a port lies between two conductors",
                            false});
    else if ((port.modes > 1 || port.severalMedia) && high - low > near)
        m_faults.push_back({6214,
                            {port.line, "on", 0},
                            "round an axis several modes or media need a port across the axis, "
                            "along r",
                            false});
}

void WaveReader::setWhole(WavePort& port) const
{
    const double near = 1e-6 * m_p.size();
    auto touches = [&](const Point& normal) {
        for (const int side : port.sides)
            for (const Point& p : m_p.samples(side))
                if (std::abs(dot(p, normal)) < near)
                    return true;
        return false;
    };
    // The deeper a drawing, the more current at the same voltage.
    const double depth = m_model.space() == sheet::Space::plane ? m_model.depth() : 1.0;
    port.whole = port.share = 1 / depth;
    const std::array axes{Point{1, 0, 0}, Point{0, 1, 0}, Point{0, 0, 1}};
    for (const Line* l : m_model.document().ofKind("mirror plane"))
        if (touches(axes[size_t(m_model.axisOf(l->get("at")))])) {
            port.whole *= l->get("kind") == "odd" ? 2 : 0.5;
            port.share *= 0.5;
        }
    if (const Line* l = m_model.document().first("wedge symmetry")) {
        const int wedges = m_model.wedges(*l);
        const double angle = 2 * pi / wedges;
        const bool first = touches(axes[1]),
                   second = touches({-std::sin(angle), std::cos(angle), 0});
        // A port across the wedge goes all the way round; one at a single plane is cut in half.
        const double parts = first && second ? wedges : first || second ? 2 : 1;
        port.whole /= parts;
        port.share /= parts;
    }
}

int WaveReader::fieldsAt(int side) const
{
    int count = 0;
    for (const int f : m_p.sides()[size_t(side)].pieces)
        count += !m_isMetal[size_t(f)];
    return count;
}

void WaveReader::mediaBehind(const Line& l, WavePort& port, int field)
{
    const auto& o = *m_out;
    const auto k = size_t(field);
    const double eps = o.eps[k].constant.xx, mu = 1 / o.inverseMu[k].constant.xx;
    if (o.eps[k].at || o.inverseMu[k].at ||
        (!port.sides.empty() && (eps != port.eps || mu != port.mu)) ||
        (!port.sides.empty() && field != port.piece && m_out->dispersiveOf(field))) {
        if (o.kind.parts == fem::EdgeKind::round)
            fault(6213, l, "on",
                  "with E round the axis the guide behind a port has one medium; end the "
                  "filling before it");
        port.severalMedia = true;
    }
}

void WaveReader::portSide(const Line& l, WavePort& port, int side)
{
    auto& o = *m_out;
    const shape::Side& where = m_p.sides()[size_t(side)];
    int field = -1, count = 0;
    for (const int f : where.pieces)
        if (!m_isMetal[size_t(f)]) {
            field = f;
            ++count;
        }
    if (count == 0) {
        fault(6209, l, "on",
              where.pieces.empty() ? "no region touches this port"
                                   : "this port lies inside metal: no field reaches it");
        return;
    }
    if (o.sides[size_t(side)] == WaveProblem::port)
        fault(6216, l, "on", "another port lies on this face already");
    if (count > 1)
        fault(6210, l, "on",
              "the guide goes on behind a port, so that it must be where the field ends; '" +
                  l.get("on") + "' has field on both of its sides");
    if (!where.flat ||
        (!port.sides.empty() &&
         norm(cross(where.normal, m_p.sides()[size_t(port.sides[0])].normal)) > 1e-9))
        fault(6211, l, "on", "a port must be plane");
    mediaBehind(l, port, field);
    const auto k = size_t(field);
    const double eps = o.eps[k].constant.xx, mu = 1 / o.inverseMu[k].constant.xx;
    port.eps = eps;
    port.piece = field;
    port.mu = mu;
    port.sides.push_back(side);
    o.sides[size_t(side)] = WaveProblem::port;
}

}  // namespace yh::physics
