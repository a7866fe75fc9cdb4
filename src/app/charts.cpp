#include "app/charts.h"

#include "app/drawer.h"
#include "app/theme.h"
#include "base/constants.h"

#include <algorithm>
#include <cmath>
#include "app/plot.h"

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace {

using base::pi;

QCPCurve* line(QCustomPlot& plot, const QPen& pen, const std::vector<QPointF>& points)
{
    auto* c = new QCPCurve(plot.xAxis, plot.yAxis);
    QVector<double> x, y;
    for (const QPointF& p : points) {
        x.push_back(p.x());
        y.push_back(p.y());
    }
    c->setData(x, y);
    c->setPen(pen);
    c->removeFromLegend();
    return c;
}

std::vector<QPointF> circle(QPointF centre, double radius, double from = 0, double to = 2 * pi)
{
    std::vector<QPointF> points;
    constexpr int steps = 90;
    for (int i = 0; i <= steps; ++i) {
        const double a = from + (to - from) * i / steps;
        points.emplace_back(centre.x() + radius * std::cos(a), centre.y() + radius * std::sin(a));
    }
    return points;
}

void label(QCustomPlot& plot, QPointF at, const QString& text, Qt::Alignment alignment)
{
    auto* item = new QCPItemText(&plot);
    item->setClipToAxisRect(false);
    item->position->setCoords(at);
    item->setText(text);
    item->setPositionAlignment(alignment);
    item->setColor(theme().muted);
    item->setFont(numberFont(8));
}

/// A square window onto the unit disc, without axes.
void disc(QCustomPlot& plot)
{
    plot.xAxis->setVisible(false);
    plot.yAxis->setVisible(false);
    plot.axisRect()->setAutoMargins(QCP::msNone);
    plot.axisRect()->setMargins(QMargins(6, 2, 6, 2));
    constexpr double reach = 1.25;
    plot.yAxis->setRange(-reach, reach);
    plot.xAxis->setRange(-reach, reach);
    plot.xAxis->setScaleRatio(plot.yAxis, 1.0);
}

/** Circles of equal level and rays, with what they say. */
void polarGrid(QCustomPlot& plot, double rim, double depth)
{
    const Theme& t = theme();
    constexpr double step = 10;
    auto radius = [&](double level) { return std::clamp((level - rim + depth) / depth, 0.0, 1.0); };
    for (double below = 0; below < depth; below += step) {
        line(plot, QPen(t.line), circle({}, radius(rim - below)));
        label(plot, {0.02, radius(rim - below)}, u"%1"_s.arg(rim - below),
              Qt::AlignLeft | Qt::AlignVCenter);
    }
    for (int a = 0; a < 360; a += 30) {
        const QPointF way(std::sin(a * pi / 180), std::cos(a * pi / 180));
        line(plot, QPen(t.line), {{}, way});
        if (a != 0)
            label(plot, 1.14 * way, u"%1°"_s.arg(a > 180 ? a - 360 : a), Qt::AlignCenter);
    }
}

}  // namespace

void drawPolar(QCustomPlot& plot, const CurveView& view)
{
    const Theme& t = theme();
    double most = -300;
    for (const double v : view.y)
        most = std::max(most, v);
    for (const auto& s : view.more)
        for (const double v : s.y)
            most = std::max(most, v);
    // Forty decibels from the rim, which is the next whole five above the strongest.
    constexpr double depth = 40, round = 5;
    const double rim = round * std::ceil(most / round + 1e-9);
    auto radius = [&](double level) { return std::clamp((level - rim + depth) / depth, 0.0, 1.0); };
    polarGrid(plot, rim, depth);
    label(plot, {0, 1.12}, u"0°, "_s + view.yLabel, Qt::AlignCenter);
    const QColor colours[] = {t.plum, t.yellow, t.good, t.warning};
    auto add = [&](const QString& name, const std::vector<double>& levels, const QColor& colour) {
        std::vector<QPointF> points;
        for (size_t i = 0; i < levels.size(); ++i) {
            const double a = view.x[i] * pi / 180, r = radius(levels[i]);
            points.emplace_back(r * std::sin(a), r * std::cos(a));
        }
        auto* c = line(plot, QPen(colour, 2), points);
        c->setName(name);
        c->addToLegend();
    };
    add(view.first, view.y, colours[0]);
    for (size_t i = 0; i < view.more.size(); ++i)
        add(view.more[i].name, view.more[i].y, colours[(i + 1) % std::size(colours)]);
    disc(plot);
}

void drawReflectionChart(QCustomPlot& plot, const CurveView& view)
{
    const Theme& t = theme();
    line(plot, QPen(t.muted), circle({}, 1));
    line(plot, QPen(t.line), {{-1, 0}, {1, 0}});
    for (const double r : {0.2, 0.5, 1.0, 2.0, 5.0}) {
        line(plot, QPen(t.line), circle({r / (1 + r), 0}, 1 / (1 + r)));
        label(plot, {(r - 1) / (r + 1) + 0.01, -0.01}, QString::number(r),
              Qt::AlignLeft | Qt::AlignTop);
    }
    for (const double x : {0.2, 0.5, 1.0, 2.0, 5.0})
        for (const double way : {1.0, -1.0}) {
            // The arc about (1, 1/x) from the right end to where it meets the rim.
            const double turn = 2 * std::atan(x);
            line(plot, QPen(t.line),
                 circle({1, way / x}, 1 / x, -way * pi / 2, way * (-pi / 2 - turn)));
            const QPointF rim((x * x - 1) / (x * x + 1), way * 2 * x / (x * x + 1));
            label(plot, 1.13 * rim, (way > 0 ? u"%1j"_s : u"−%1j"_s).arg(x), Qt::AlignCenter);
        }
    std::vector<QPointF> points;
    for (size_t i = 0; i < view.x.size(); ++i)
        points.emplace_back(view.x[i], view.y[i]);
    auto* c = line(plot, QPen(t.plum, 2), points);
    c->setName(view.first);
    c->addToLegend();
    // Where the band begins.
    if (!points.empty()) {
        auto* start = line(plot, QPen(t.plum), {points.front()});
        start->setLineStyle(QCPCurve::lsNone);
        start->setScatterStyle(
            QCPScatterStyle(QCPScatterStyle::ssCircle, QPen(t.plum, 1.8), QBrush(t.yellow), 8));
        start->setName(QObject::tr("start of the band"));
        start->addToLegend();
    }
    disc(plot);
}

}  // namespace yh::app
