#include "app/theme.h"

#include <QApplication>
#include <QDir>
#include <QFontDatabase>
#include <QPalette>
#include <QStyleFactory>
#include <algorithm>
#include <cmath>

using namespace Qt::Literals::StringLiterals;

/// Resources of a static library are registered by hand, from outside any namespace.
static void registerAssets()
{
    Q_INIT_RESOURCE(assets);
}

namespace yh::app {

namespace {

Theme light()
{
    Theme t;
    t.paper = QColor(0xF6F2E8);
    t.sheet = QColor(0xFFFDF8);
    t.line = QColor(0xE4DCCB);
    t.ink = QColor(0x2A211F);
    t.muted = QColor(0x7B6F66);
    t.plum = QColor(0x7A1B3B);
    t.onPlum = QColor(0xFFFFFF);
    t.yellow = QColor(0xE9B41C);
    t.selection = QColor(0xFBF1D3);
    t.good = QColor(0x3C7A50);
    t.warning = QColor(0xB86E00);
    t.bad = QColor(0xB3261E);
    t.chip = QColor(0xF3ECDD);
    t.pill = QColor(0xF7E6EA);
    t.scene = QColor(0xFCFAF5);
    return t;
}

Theme darkTheme()
{
    Theme t;
    t.paper = QColor(0x1C1817);
    t.sheet = QColor(0x241F1D);
    t.line = QColor(0x40362F);
    t.ink = QColor(0xF1E9DE);
    t.muted = QColor(0xA89A8E);
    t.plum = QColor(0xE58FA9);
    t.onPlum = QColor(0x2A0F18);
    t.yellow = QColor(0xE9B41C);
    t.selection = QColor(0x3B311A);
    t.good = QColor(0x7CC294);
    t.warning = QColor(0xE6A04A);
    t.bad = QColor(0xF0857B);
    t.chip = QColor(0x352D28);
    t.pill = QColor(0x44262F);
    t.scene = QColor(0x1F1A19);
    t.dark = true;
    return t;
}

Theme current = light();

QString styleSheet(const Theme& t)
{
    const QString plum = t.plum.name(), ink = t.ink.name(), sheet = t.sheet.name(),
                  line = t.line.name(), muted = t.muted.name(), chip = t.chip.name(),
                  paper = t.paper.name(), hover = t.selection.name();
    return u"QWidget { color: %1; } "
           // The desktop's own fonts for buttons and menus would win over the application's.
           "QPushButton, QToolButton, QMenu, QTabBar, QHeaderView, QToolTip { font-family: Inter; "
           "} "
           "QMainWindow, QDialog, QMessageBox { background: %2; } "
           "QToolTip { background: %2; color: %1; border: 1px solid %3; } "
           "QPushButton, QToolButton { border: 1px solid %3; background: %2; border-radius: 6px; "
           "padding: 5px 12px; font-weight: 500; } "
           "QPushButton:hover, QToolButton:hover { background: %7; } "
           "QPushButton:focus, QToolButton:focus { border-color: %4; } "
           "QPushButton:disabled, QToolButton:disabled { color: %5; } "
           "QToolButton::menu-indicator { image: none; } "
           "QPushButton#solve { background: %4; color: %8; border-color: %4; font-weight: 600; } "
           "QToolButton[lens=\"true\"] { border-radius: 11px; padding: 3px 9px; background: %2; "
           "font-weight: 400; font-size: 9pt; } "
           "QToolButton[lens=\"true\"]:checked { background: %1; color: %2; border-color: %1; } "
           "QLineEdit, QPlainTextEdit, QComboBox, QTableWidget { background: %2; border: 1px solid "
           "%3; border-radius: 4px; padding: 2px 4px; selection-background-color: %4; "
           "selection-color: %8; } "
           "QLineEdit:focus { border-color: %4; } "
           "QTableWidget, QPlainTextEdit { border: none; border-radius: 0; gridline-color: %3; } "
           "QHeaderView { background: %2; border: none; } QTableWidget::item { padding: 0 8px; } "
           "QHeaderView::section { background: %2; color: %5; border: none; border-bottom: 1px "
           "solid %3; padding: 3px 8px; } "
           "QMenu { background: %2; border: 1px solid %3; padding: 4px; } QMenu::item { padding: "
           "5px 18px; border-radius: 4px; } QMenu::item:selected { background: %7; } "
           "QMenu::item:disabled { color: %5; } "
           "QComboBox { padding-right: 18px; } "
           "QComboBox::drop-down { border: none; width: 18px; } "
           "QComboBox::down-arrow { image: url(:/open-down.svg); width: 12px; height: 12px; } "
           "QListView { background: %2; border: 1px solid %3; } QListView::item { padding: 3px "
           "6px; } QListView::item:selected { background: %7; color: %1; } "
           "QScrollBar:vertical { background: transparent; width: 9px; } "
           "QScrollBar::handle:vertical { background: %3; border-radius: 4px; min-height: 24px; } "
           "QScrollBar:horizontal { background: transparent; height: 9px; } "
           "QScrollBar::handle:horizontal { background: %3; border-radius: 4px; min-width: 24px; } "
           "QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; } "
           "QSplitter::handle { background: %3; } "
           "QTabBar::tab { background: transparent; color: %5; padding: 6px 2px; margin: 0 8px; "
           "border-bottom: 2px solid transparent; } "
           "QTabBar::tab:selected { color: %1; font-weight: 600; border-bottom: 2px solid %6; } "
           "QTabWidget::pane { border: none; } "
           "QProgressBar { background: %9; border: none; border-radius: 3px; max-height: 6px; "
           "min-height: 6px; } QProgressBar::chunk { background: %10; border-radius: 3px; } "
           "QScrollArea { border: none; background: %2; } "_s
               .arg(ink, sheet, line, plum, muted, t.yellow.name(), hover, t.onPlum.name(), chip)
               .arg(t.good.name());
}

}  // namespace

const Theme& theme()
{
    return current;
}

void applyTheme(QApplication& application, bool dark)
{
    static const bool loaded = [] {
        registerAssets();
        const QDir fonts(u":/fonts"_s);
        for (const QString& f : fonts.entryList())
            QFontDatabase::addApplicationFont(fonts.filePath(f));
        return true;
    }();
    Q_UNUSED(loaded);
    current = dark ? darkTheme() : light();
    application.setStyle(QStyleFactory::create(u"Fusion"_s));
    QPalette p;
    p.setColor(QPalette::Window, current.paper);
    p.setColor(QPalette::Base, current.sheet);
    p.setColor(QPalette::AlternateBase, current.paper);
    p.setColor(QPalette::Button, current.sheet);
    for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText})
        p.setColor(role, current.ink);
    p.setColor(QPalette::Highlight, current.plum);
    p.setColor(QPalette::HighlightedText, current.onPlum);
    p.setColor(QPalette::PlaceholderText, current.muted);
    application.setPalette(p);
    application.setFont(textFont());
    application.setStyleSheet(styleSheet(current));
}

QFont textFont(double points, int weight)
{
    QFont f(u"Inter"_s);
    f.setPointSizeF(points);
    f.setWeight(QFont::Weight(weight));
    return f;
}

QFont numberFont(double points, int weight)
{
    QFont f(u"JetBrains Mono"_s);
    f.setPointSizeF(points);
    f.setWeight(QFont::Weight(weight));
    return f;
}

std::vector<QColor> colourMap(const QString& name)
{
    auto list = [](std::initializer_list<QRgb> stops) {
        std::vector<QColor> c;
        for (const QRgb s : stops)
            c.emplace_back(s);
        return c;
    };
    if (name == "tide"_L1)
        return list({0x0B3B43, 0x1F6D75, 0x6FB0AE, 0xFFF9EC, 0xDDA0AF, 0xA8466A, 0x5C1030});
    if (name == "grey"_L1)
        return list({0x161616, 0x8A8A8A, 0xF6F6F6});
    if (name == "cividis"_L1)
        return list({0x00224E, 0x31446B, 0x666970, 0x958F78, 0xCAB969, 0xFEE838});
    return list({0x220C28, 0x621442, 0xA0264A, 0xD6563A, 0xF0962E, 0xF9D060, 0xFFF7DC});
}

namespace {

constexpr double decades = 3;

/// Of a size over the largest one: 0 at three decades below it, 1 at it.
double decadeShare(double ratio)
{
    return ratio > 0 ? std::clamp(1 + std::log10(ratio) / decades, 0.0, 1.0) : 0.0;
}

}  // namespace

double colourShare(double value, double low, double high, bool logarithmic)
{
    if (!logarithmic)
        return high > low ? (value - low) / (high - low) : 0;
    const double most = std::max(std::abs(low), std::abs(high));
    if (!(most > 0))
        return 0;
    if (low >= 0)
        return decadeShare(value / most);
    const double size = decadeShare(std::abs(value) / most);
    return value < 0 ? 0.5 - size / 2 : 0.5 + size / 2;
}

double colourValue(double share, double low, double high, bool logarithmic)
{
    if (!logarithmic)
        return low + share * (high - low);
    const double most = std::max(std::abs(low), std::abs(high));
    auto size = [most](double s) { return s > 0 ? most * std::pow(10, decades * (s - 1)) : 0.0; };
    return low >= 0 ? size(share) : share < 0.5 ? -size(1 - 2 * share) : size(2 * share - 1);
}

QColor colourAt(const std::vector<QColor>& stops, double fraction)
{
    const double x = std::clamp(fraction, 0.0, 1.0) * double(stops.size() - 1);
    const auto i = std::min(size_t(x), stops.size() - 2);
    const double f = x - double(i);
    const QColor &a = stops[i], &b = stops[i + 1];
    return QColor::fromRgbF(float(a.redF() + f * (b.redF() - a.redF())),
                            float(a.greenF() + f * (b.greenF() - a.greenF())),
                            float(a.blueF() + f * (b.blueF() - a.blueF())));
}

}  // namespace yh::app
