// Colours, fonts and the style sheet of the window, light and dark.
#pragma once

#include <QColor>
#include <QFont>
#include <QString>
#include <array>
#include <vector>

class QApplication;

namespace yh::app {

struct Theme
{
    QColor paper, sheet, line, ink, muted, plum, onPlum, yellow, selection, good, warning, bad,
        chip, pill, scene;
    bool dark = false;
};

/// The theme in force.
const Theme& theme();
/// Loads the shipped fonts, sets palette and style sheet.
void applyTheme(QApplication& application, bool dark);

QFont textFont(double points = 9.75, int weight = QFont::Normal);
QFont numberFont(double points = 9.0, int weight = QFont::Normal);

/// Colour maps for fields: "blossom", "tide" (signed), "grey", "cividis" (safe for colour-blind).
/// @returns stops from low to high, evenly spaced
std::vector<QColor> colourMap(const QString& name);
QColor colourAt(const std::vector<QColor>& stops, double fraction);
/// Where a value stands between the ends of a range of colours, 0 to 1; logarithmic: three decades
/// down from the end that is larger in size, to both signs where the range has both.
double colourShare(double value, double low, double high, bool logarithmic);
/// The value that stands there.
double colourValue(double share, double low, double high, bool logarithmic);

}  // namespace yh::app
