// Charts on a round grid: the polar diagram of levels over angles, and the reflection chart with
// its circles of constant resistance and reactance (P. H. Smith, Electronics, January 1939).
#pragma once

class QCustomPlot;

namespace yh::app {

struct CurveView;

/// Angles in degrees in x, from the top clockwise; levels in dB in y and the further series.
void drawPolar(QCustomPlot& plot, const CurveView& view);
/// Real part of the reflection in x, imaginary part in y.
void drawReflectionChart(QCustomPlot& plot, const CurveView& view);

}  // namespace yh::app
