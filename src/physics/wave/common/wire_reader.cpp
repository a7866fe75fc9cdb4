// Reading the thin wires of a sheet and the ports in them.
#include "base/quantity.h"
#include "physics/common/constants.h"
#include "physics/wave/common/reader.h"
#include "shape/wires.h"
#include "sheet/materials.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>

namespace yh::physics {

using sheet::Line;

namespace {

/// How finely waves are looked at: parts of the shortest wavelength and of a wire's length that b
/// may be, and how much of what is free about the wire.
constexpr double ofWave = 1.0 / 16, ofLength = 1.0 / 5, ofRoom = 0.9;
/// Segments over b; the first one at a sharp end over the radius, and each next one over the last.
constexpr double segmentShare = 0.7, finest = 1, growth = 2;
/// Radii that have to fit into b, and into a wire's length.
constexpr double leastRoom = 2, leastLength = 4;

/// A straight piece of a wire between two of its points, not cut up yet.
struct Span
{
    Point from, to;
    const Line* line = nullptr;
    double radius = 0, sigma = 0;
    int piece = -1;
    [[nodiscard]] double length() const { return norm(to - from); }
};

double along(const Point& p, int axis)
{
    return axis == 0 ? p.x : axis == 1 ? p.y : p.z;
}

double fromSpan(const Point& p, const Span& s)
{
    const Point l = s.to - s.from;
    const double t = std::clamp(dot(p - s.from, l) / dot(l, l), 0.0, 1.0);
    return norm(p - s.from - t * l);
}

/// Least distance of two spans, by going to and fro between nearest points.
double between(const Span& a, const Span& b)
{
    auto nearest = [](const Point& p, const Span& s) {
        const Point l = s.to - s.from;
        return s.from + std::clamp(dot(p - s.from, l) / dot(l, l), 0.0, 1.0) * l;
    };
    double least = std::numeric_limits<double>::max();
    for (const double start : {0.0, 0.5, 1.0}) {
        Point p = a.from + start * (a.to - a.from);
        constexpr int steps = 50;
        for (int i = 0; i < steps; ++i)
            p = nearest(nearest(p, b), a);
        least = std::min(least, norm(p - nearest(p, b)));
    }
    return least;
}

/// A wall beside wires that counts by images.
struct Plane
{
    Point at, normal;
    bool electric = true;
    bool local = false;  ///< of a conductor on which a wire ends, not of the whole device
    [[nodiscard]] double distance(const Point& p) const { return dot(p - at, normal); }
    [[nodiscard]] ThinWires::Image image(const ThinWires::Image& s) const
    {
        auto mirror = [this](const Point& p) { return p - 2 * distance(p) * normal; };
        return {mirror(s.from), mirror(s.to), electric ? -s.sign : s.sign};
    }
};

}  // namespace

/// Puts the wires of a sheet together.
class WireReader
{
public:
    WireReader(WaveReader& reader, double high)
        : m_r(reader), m_o(*reader.m_out), m_p(reader.m_p), m_high(high)
    {
    }

    void run()
    {
        for (const shape::ThinWire& w : shape::thinWires(m_r.m_model))
            spans(w);
        if (m_spans.empty())
            return;
        for (const Line* l : m_r.m_model.document().ofKind("gap feed"))
            splitAt(m_r.m_model.point(*l, "at"), l->get("in"));
        for (const Span& s : std::vector<Span>(m_spans))
            for (const Point& end : {s.from, s.to})
                splitAt(end, "");
        touching();
        media();
        if (!m_r.m_faults.empty())
            return;
        for (const Span& s : m_spans)
            for (const Point& p : {s.from, s.to})
                nodeOf(p);
        grounds();
        room();
        segments();
        ports();
    }

private:
    [[nodiscard]] double near() const { return 1e-6 * m_p.size(); }

    void spans(const shape::ThinWire& w)
    {
        const Line* l = m_r.m_model.document().find(w.line);
        double sigma = 0, length = 0;
        if (l->has("material")) {
            const sheet::Material* known = sheet::findMaterial(l->get("material"));
            if (!known || !(known->resistivity > 0))
                m_r.fault(6258, *l, "material",
                          "'" + l->get("material") +
                              "' is no metal of the library; leave it out for a wire without loss");
            else
                sigma = 1 / known->resistivity;
        }
        for (const auto& run : w.runs)
            for (size_t i = 1; i < run.size(); ++i) {
                const Span s{run[i - 1], run[i], l, w.radius, sigma, -1};
                length += s.length();
                if (s.length() > near())
                    m_spans.push_back(s);
            }
        constexpr double thick = 0.3;  // of wave number times radius
        const double k = 2 * pi * m_high / c0;
        if (length < leastLength * w.radius || k * w.radius > thick)
            m_r.fault(6259, *l, "radius",
                      w.runs.empty() ? "the planes of symmetry leave nothing of this wire"
                      : length < leastLength * w.radius
                          ? "this wire is as thick as it is long, and not thin; draw it as a "
                            "cylinder of metal"
                          : "this wire is not thin against the wavelength of " +
                                base::format(c0 / m_high, base::dim::length, 3) +
                                "; draw it as a cylinder of metal");
    }

    /// Makes a place of the wires (of one of them, if a name is given) an end of two spans.
    void splitAt(const Point& p, const std::string& name)
    {
        for (size_t i = 0; i < m_spans.size(); ++i) {
            const Span s = m_spans[i];
            if ((!name.empty() && s.line->name() != name) || fromSpan(p, s) > near() ||
                norm(p - s.from) < near() || norm(p - s.to) < near())
                continue;
            m_spans[i].to = p;
            m_spans.insert(m_spans.begin() + std::ptrdiff_t(i) + 1, s);
            m_spans[i + 1].from = p;
        }
    }

    void touching()
    {
        auto meet = [this](const Span& a, const Span& b) {
            for (const Point& p : {a.from, a.to})
                for (const Point& q : {b.from, b.to})
                    if (norm(p - q) < near())
                        return true;
            return false;
        };
        for (size_t i = 0; i < m_spans.size(); ++i)
            for (size_t j = 0; j < i; ++j) {
                const Span &a = m_spans[i], &b = m_spans[j];
                if (meet(a, b) || between(a, b) > a.radius + b.radius)
                    continue;
                m_r.fault(6260, *a.line, "points",
                          a.line == b.line
                              ? "this wire runs into itself; where it should join, give it a point"
                              : "this wire runs into the wire '" + b.line->name() +
                                    "'; where they should join, let one of them end on the other");
                return;
            }
    }

    void media()
    {
        for (Span& s : m_spans) {
            std::set<int> pieces;
            for (const double t : {0.02, 0.5, 0.98})
                pieces.insert(m_p.pieceAt(s.from + t * (s.to - s.from)));
            auto bad = [&](const std::string& text) { m_r.fault(6261, *s.line, "points", text); };
            const int f = *pieces.rbegin();
            s.piece = f;
            if (*pieces.begin() < 0)
                return bad("part of this wire lies outside the device");
            for (const int piece : pieces)
                if (m_r.m_isMetal[size_t(piece)])
                    return bad("part of this wire lies inside metal");
            if (f == m_o.shell.piece && m_o.shell.present)
                return bad("this wire reaches into the absorbing shell");
            for (const int piece : pieces)
                if (!same(piece, f))
                    return bad(
                        "this wire passes through several media, which its near field does "
                        "not know; end it at their border, or draw it as a cylinder");
            const auto k = size_t(f);
            if (m_o.eps[k].at || m_o.inverseMu[k].at || m_o.sigma[k] > 0 || m_o.dispersiveOf(f))
                return bad(
                    "the medium about a thin wire has one permittivity and loss factor; "
                    "in this one draw the wire as a cylinder");
        }
    }

    [[nodiscard]] bool same(int a, int b) const
    {
        const auto i = size_t(a), j = size_t(b);
        return a == b || (!m_o.eps[i].at && !m_o.eps[j].at && !m_r.m_isMetal[i] &&
                          !m_r.m_isMetal[j] && m_o.eps[i].constant == m_o.eps[j].constant &&
                          m_o.inverseMu[i].constant == m_o.inverseMu[j].constant &&
                          m_o.loss[i] == m_o.loss[j] && m_o.sigma[i] == m_o.sigma[j]);
    }

    /// Whether the field ends at a side, or in it.
    [[nodiscard]] bool isWall(size_t side) const
    {
        const int kind = m_o.sides[side];
        return kind >= 0 || kind == WaveProblem::electric ||
               (kind == WaveProblem::open && m_r.fieldsAt(int(side)) == 1);
    }

    int nodeOf(const Point& p)
    {
        auto& nodes = m_o.wires.nodes;
        for (size_t n = 0; n < nodes.size(); ++n)
            if (norm(nodes[n] - p) < near())
                return int(n);
        nodes.push_back(p);
        m_o.wires.grounded.push_back(0);
        return int(nodes.size()) - 1;
    }

    void grounds()
    {
        for (const auto& mirror : m_o.mirrors) {
            const Point normal = mirror.axis == 0   ? Point{1, 0, 0}
                                 : mirror.axis == 1 ? Point{0, 1, 0}
                                                    : Point{0, 0, 1};
            m_planes.push_back({{}, normal, mirror.odd, false});
        }
        for (size_t n = 0; n < m_o.wires.nodes.size(); ++n) {
            const Point p = m_o.wires.nodes[n];
            for (const auto& mirror : m_o.mirrors)
                if (mirror.odd && std::abs(along(p, mirror.axis)) < near())
                    m_o.wires.grounded[n] = 1;
            for (size_t side = 0; side < m_p.sides().size(); ++side) {
                if (m_p.sides()[side].cut >= 0 || !isWall(side) ||
                    m_p.distanceTo(int(side), p) > near())
                    continue;
                m_o.wires.grounded[n] = 1;
                Point normal = m_p.sides()[side].normal;
                if (!m_p.sides()[side].flat) {
                    // Of a round one as seen from a little along the wire.
                    const Span& s = spanAt(p);
                    const Point off =
                        p + 1e-3 * (norm(p - s.from) < near() ? s.to - p : s.from - p);
                    normal = off - m_p.nearestOn(int(side), off);
                    normal = (1 / norm(normal)) * normal;
                }
                m_planes.push_back({p, normal, true, true});
            }
        }
    }

    [[nodiscard]] const Span& spanAt(const Point& p) const
    {
        return *std::find_if(m_spans.begin(), m_spans.end(), [&](const Span& s) {
            return norm(s.from - p) < near() || norm(s.to - p) < near();
        });
    }

    /// How wide the density about the wires may be.
    void room()
    {
        double total = 0, index = 1;
        for (const Span& s : m_spans) {
            total += s.length();
            const auto k = size_t(s.piece);
            index =
                std::max(index, std::sqrt(m_o.eps[k].constant.xx / m_o.inverseMu[k].constant.xx));
        }
        double b = std::min(c0 / m_high / index * ofWave, total * ofLength);
        if (total <= 0)
            return;
        for (const Span& s : m_spans)
            for (size_t side = 0; side < m_p.sides().size(); ++side) {
                const shape::Side& where = m_p.sides()[side];
                const bool parts =
                               where.pieces.size() == 2 && !same(where.pieces[0], where.pieces[1]),
                           matters = isWall(side) || parts || isFilm(int(side)) ||
                                     m_o.sides[side] != WaveProblem::open;
                if (where.cut >= 0 || !matters || isImaged(s, side))
                    continue;
                const double free = m_p.distanceTo(int(side), s.from, s.to);
                if (free < leastRoom * s.radius) {
                    m_r.fault(6262, *s.line, "points",
                              "this wire runs closer than twice its radius to a wall, film or "
                              "border of media; draw it as a cylinder of metal");
                    return;
                }
                b = std::min(b, ofRoom * free);
            }
        m_o.wires.smooth = b;
    }

    [[nodiscard]] bool isFilm(int side) const
    {
        for (const auto& sheet : m_o.sheets)
            if (std::find(sheet.sides.begin(), sheet.sides.end(), side) != sheet.sides.end())
                return true;
        for (const auto& port : m_o.ports)
            if (std::find(port.sides.begin(), port.sides.end(), side) != port.sides.end())
                return true;
        return false;
    }

    /// Whether a wall near a span is that on which the span ends, or goes on in its plane, or lies
    /// behind it.
    [[nodiscard]] bool isImaged(const Span& s, size_t side) const
    {
        const shape::Side& where = m_p.sides()[side];
        for (const Plane& plane : m_planes) {
            const bool begins = norm(plane.at - s.from) < near();
            if (!plane.local || (!begins && norm(plane.at - s.to) > near()))
                continue;
            // What lies behind the conductor's surface.
            const double way = plane.distance(begins ? s.to : s.from) > 0 ? 1 : -1;
            const auto samples = m_p.samples(int(side));
            if (std::all_of(samples.begin(), samples.end(),
                            [&](const Point& p) { return way * plane.distance(p) < -near(); }))
                return true;
            if (!isWall(side))
                continue;
            if (m_p.distanceTo(int(side), plane.at) < near() ||
                (where.flat && std::abs(dot(where.normal, plane.normal)) > 1 - 1e-9 &&
                 std::abs(plane.distance(where.centre)) < near()))
                return true;
        }
        return false;
    }

    void segments()
    {
        auto& wires = m_o.wires;
        for (const Span& s : m_spans) {
            int before = nodeOf(s.from);
            for (const double t : breaks(s)) {
                const int next = nodeOf(s.from + t * (s.to - s.from));
                const auto k = size_t(s.piece);
                ThinWires::Segment one;
                one.from = before;
                one.to = next;
                one.line = s.line->id;
                one.radius = s.radius;
                one.eps = m_o.eps[k].constant.xx;
                one.mu = 1 / m_o.inverseMu[k].constant.xx;
                one.loss = m_o.loss[k];
                one.sigma = s.sigma;
                images(s, one);
                wires.segments.push_back(std::move(one));
                before = next;
            }
        }
    }

    /// Where a span is cut up, with its end: finer towards free ends and ports.
    [[nodiscard]] std::vector<double> breaks(const Span& s) const
    {
        const double largest = segmentShare * m_o.wires.smooth, length = s.length();
        double from[2] = {0, 0};  // how far the graded parts reach from both ends
        std::vector<double> graded[2];
        for (const int end : {0, 1}) {
            if (!isSharp(end == 0 ? s.from : s.to))
                continue;
            for (double h = finest * s.radius; h < largest && from[end] + h < length / 2;
                 h *= growth)
                graded[end].push_back(from[end] += h);
        }
        const double rest = length - from[0] - from[1];
        const int count = std::max(1, int(std::ceil(rest / largest)));
        std::vector<double> list = graded[0];
        for (int i = 1; i <= count; ++i)
            list.push_back(from[0] + rest * i / count);
        for (auto it = graded[1].rbegin(); it != graded[1].rend(); ++it)
            if (it != graded[1].rbegin())
                list.push_back(length - *it);
        if (!graded[1].empty())
            list.push_back(length);
        for (double& t : list)
            t /= length;
        return list;
    }

    [[nodiscard]] bool isSharp(const Point& p) const
    {
        int ends = 0;
        for (const Span& s : m_spans)
            ends += (norm(s.from - p) < near()) + (norm(s.to - p) < near());
        for (const Line* l : m_r.m_model.document().ofKind("gap feed"))
            if (norm(m_r.m_model.point(*l, "at") - p) < near())
                return true;
        const auto& nodes = m_o.wires.nodes;
        for (size_t n = 0; n < nodes.size(); ++n)
            if (norm(nodes[n] - p) < near())
                return ends == 1 && !m_o.wires.grounded[n];
        return false;
    }

    /// Adds the images in a plane of all that are known so far.
    void mirror(const Plane& plane, std::vector<ThinWires::Image>& all) const
    {
        const size_t known = all.size();
        for (size_t i = 0; i < known; ++i) {
            const auto image = plane.image(all[i]);
            // Planes that are the same one, found from two wires.
            const bool isNew = std::none_of(all.begin(), all.end(), [&](const auto& other) {
                return norm(other.from - image.from) < near() && norm(other.to - image.to) < near();
            });
            if (isNew)
                all.push_back(image);
        }
    }

    void images(const Span& span, ThinWires::Segment& segment)
    {
        const auto& wires = m_o.wires;
        const Point from = wires.nodes[size_t(segment.from)], to = wires.nodes[size_t(segment.to)];
        std::vector<ThinWires::Image> all{{from, to, 1}};
        for (const Plane& plane : m_planes) {
            const double a = plane.distance(from), b = plane.distance(to);
            if (!plane.local && std::abs(a) < near() && std::abs(b) < near()) {
                if (plane.electric) {
                    m_r.fault(6263, *span.line, "points",
                              "this wire lies in an odd mirror plane, which shorts it; is the "
                              "plane even?");
                    return;
                }
                segment.share /= 2;
                continue;
            }
            // A conductor is only known where the wire ends on it.
            const double reach = 2 * wires.smooth;
            if (std::min(std::abs(a), std::abs(b)) > reach)
                continue;
            if (plane.local) {
                const Point l = to - from;
                const double t = std::clamp(dot(plane.at - from, l) / dot(l, l), 0.0, 1.0);
                if (norm(plane.at - from - t * l) > reach)
                    continue;
                segment.walls.push_back({plane.at, a + b > 0 ? plane.normal : -1.0 * plane.normal});
            }
            mirror(plane, all);
        }
        segment.images.assign(all.begin() + 1, all.end());
    }

    /// The wire that a port lies in, of those that meet there.
    const Line* wireOf(const std::vector<int>& list, const std::string& name) const
    {
        const auto& wires = m_o.wires;
        const Line* wire = nullptr;
        for (const int i : list)
            if (const Line* other = m_r.m_model.document().find(wires.segments[size_t(i)].line);
                other->name() == name)
                wire = other;
        return wire;
    }

    void ports()
    {
        for (const Line* l : m_r.m_model.document().ofKind("gap feed")) {
            const Point at = m_r.m_model.point(*l, "at");
            WavePort port;
            port.name = l->name();
            port.line = l->id;
            port.resistance = m_r.m_model.number(*l, "resistance");
            port.drive = m_r.m_model.number(*l, "power");
            const auto& wires = m_o.wires;
            for (size_t n = 0; n < wires.nodes.size(); ++n)
                if (norm(wires.nodes[n] - at) < near())
                    port.wireNode = int(n);
            const auto list = port.wireNode < 0 ? std::vector<int>() : wires.at(port.wireNode);
            const Line* const wire = wireOf(list, l->get("in"));
            if (!wire) {
                m_r.fault(6264, *l, "at",
                          "this is no place of the wire '" + l->get("in") +
                              "', or the planes of symmetry cut it away");
                continue;
            }
            const bool grounded = wires.grounded[size_t(port.wireNode)];
            if (list.size() != (grounded ? 1 : 2)) {
                m_r.fault(6264, *l, "at",
                          list.size() == 1
                              ? "the wire ends here in the open, where no current flows; move the "
                                "port along it, or let the wire end on a conductor"
                              : "several wires meet here; move the port along one of them");
                continue;
            }
            const double radius = wires.segments[size_t(list[0])].radius;
            port.gap = m_r.m_model.optionalNumber(*l, "gap").value_or(2 * radius);
            for (const auto& mirror : m_o.mirrors)
                if (std::abs(along(at, mirror.axis)) < near()) {
                    port.whole *= mirror.odd ? 2 : 0.5;
                    port.share *= 0.5;
                }
            m_o.ports.push_back(std::move(port));
        }
    }

    WaveReader& m_r;
    WaveProblem& m_o;
    const shape::Partition& m_p;
    double m_high;
    std::vector<Span> m_spans;
    std::vector<Plane> m_planes;
};

void WaveReader::wires()
{
    const auto& document = m_model.document();
    const Line* first = document.first("wire");
    if (!first)
        return;
    const Line* band = document.first("band");
    if (!band)
        fault(6265, *first, {},
              "thin wires serve waves over a band; for resonances draw the wire as a cylinder of "
              "metal");
    else if (m_out->wedges > 1 || !m_out->periodic.empty())
        fault(6265, *first, {},
              "thin wires do not know wedges or periodic pairs yet; model the whole, or take "
              "mirror planes");
    else if (m_faults.empty())
        WireReader(*this, m_model.number(*band, "to")).run();
}

}  // namespace yh::physics
