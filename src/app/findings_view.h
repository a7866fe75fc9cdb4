// Findings with their whisker gauges, and the checks below them.
#pragma once

#include <QString>
#include <QWidget>
#include <vector>

class QVBoxLayout;

namespace yh::app {

/// One gauge: everything in display units.
struct GaugeView
{
    double value = 0, error = 0;
    double bandLow = 0, bandHigh = 0;  ///< band asked for; equal: none
    bool good = true, noLimit = false;
};

/// Draws one finding: value, error whisker, band asked for.
class WhiskerGauge : public QWidget
{
    Q_OBJECT
public:
    explicit WhiskerGauge(QWidget* parent = nullptr);
    void setView(const GaugeView& view);
    [[nodiscard]] QSize sizeHint() const override { return {200, 16}; }

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    GaugeView m_view;
};

struct FindingView
{
    int line = -1;
    QString label, value, error, unit, note, status;  ///< status: "met", "missed", "no limit set"
    bool met = true, noLimit = false;
    QStringList rows;  ///< a matrix: one text a row, monospaced
    GaugeView gauge;
    bool hasGauge = true;
};

struct CheckView
{
    int state = 0;  ///< 0 good, 1 note, 2 warning, 3 bad
    QString text;
    int index = -1;
    QString proposal;  ///< a line that does it
};

class FindingsView : public QWidget
{
    Q_OBJECT
public:
    explicit FindingsView(QWidget* parent = nullptr);
    /// @param stale  a sentence when the findings are not those of the sheet as it stands
    void setView(const std::vector<FindingView>& findings, const std::vector<CheckView>& checks,
                 const QString& stale);

Q_SIGNALS:
    void findingClicked(int line);
    void proposalTaken(const QString& line);
    void checkClicked(int index);
    void unitRequested(int line, const QPoint& global);

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    void add(QWidget* widget);
    QVBoxLayout* m_layout;
    QWidget* m_page;
};

}  // namespace yh::app
