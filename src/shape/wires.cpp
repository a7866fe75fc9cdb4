#include "shape/wires.h"

#include "base/constants.h"

#include <cmath>

namespace yh::shape {

using base::Point;

namespace {

/// Chords of an arc span at most this angle, rad.
constexpr double chordAngle = 0.2;

double part(const Point& p, int axis)
{
    return axis == 0 ? p.x : axis == 1 ? p.y : p.z;
}

/// Points of the arc from a through b to c, without the first one.
std::vector<Point> arc(const Point& a, const Point& b, const Point& c)
{
    const Point u = b - a, v = c - a, n = cross(u, v);
    const double n2 = dot(n, n);
    if (n2 < 1e-20 * dot(u, u) * dot(v, v))
        return {b, c};  // on a straight line
    // Centre of the circle through three points.
    const Point centre = a + (0.5 / n2) * (dot(u, u) * cross(v, n) + dot(v, v) * cross(n, u));
    const Point e1 = a - centre, e2 = cross((1 / std::sqrt(n2)) * n, e1);
    auto angleOf = [&](const Point& p) {
        const double angle = std::atan2(dot(p - centre, e2), dot(p - centre, e1));
        return angle < 0 ? angle + 2 * base::pi : angle;
    };
    // The point that it leads through is a place of the wire, at which a port may be.
    std::vector<Point> list;
    double from = 0;
    for (const Point& to : {b, c}) {
        const double span = angleOf(to) - from;
        const int count = std::max(1, int(std::ceil(span / chordAngle)));
        for (int i = 1; i < count; ++i) {
            const double angle = from + span * i / count;
            list.push_back(centre + std::cos(angle) * e1 + std::sin(angle) * e2);
        }
        list.push_back(to);
        from += span;
    }
    return list;
}

/// What of a run lies on the positive side of a plane through the origin, or in it.
std::vector<std::vector<Point>> cutOff(const std::vector<Point>& run, int axis, double near)
{
    std::vector<std::vector<Point>> list;
    std::vector<Point> now;
    auto finish = [&] {
        if (now.size() > 1)
            list.push_back(now);
        now.clear();
    };
    for (size_t i = 0; i < run.size(); ++i) {
        const double here = part(run[i], axis);
        if (i > 0) {
            const double before = part(run[i - 1], axis);
            if ((before > near && here < -near) || (before < -near && here > near)) {
                const double t = before / (before - here);
                now.push_back(run[i - 1] + t * (run[i] - run[i - 1]));
                if (before > near)
                    finish();
            }
        }
        if (here >= -near)
            now.push_back(run[i]);
        else
            finish();
    }
    finish();
    return list;
}

}  // namespace

std::vector<ThinWire> thinWires(const sheet::Model& model)
{
    std::vector<ThinWire> list;
    const auto& document = model.document();
    for (const sheet::Line* l : document.ofKind("wire")) {
        ThinWire w;
        w.name = l->name();
        w.line = l->id;
        w.radius = model.number(*l, "radius");
        std::vector<Point> run;
        for (const auto& step : model.path(*l, "points")) {
            if (step.via && !run.empty())
                for (const Point& p : arc(run.back(), *step.via, step.to))
                    run.push_back(p);
            else
                run.push_back(step.to);
        }
        double size = 0;
        for (const Point& p : run)
            size = std::max(size, norm(p - run.front()));
        if (model.choice(*l, "ends") == "closed" && norm(run.back() - run.front()) > 1e-9 * size)
            run.push_back(run.front());
        w.runs = {run};
        for (const sheet::Line* plane : document.ofKind("mirror plane")) {
            std::vector<std::vector<Point>> cut;
            for (const auto& r : w.runs)
                for (auto& c : cutOff(r, model.axisOf(plane->get("at")), 1e-9 * size))
                    cut.push_back(std::move(c));
            w.runs = std::move(cut);
        }
        list.push_back(std::move(w));
    }
    return list;
}

}  // namespace yh::shape
