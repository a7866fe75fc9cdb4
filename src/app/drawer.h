// Below the scene: curves, tables, passes and the log.
#pragma once

#include <QPixmap>
#include <QPointF>
#include <QSize>
#include <QString>
#include <QStringList>
#include <QWidget>
#include <vector>

class QComboBox;
class QCustomPlot;
class QListWidget;
class QPlainTextEdit;
class QTableWidget;
class QTabWidget;

namespace yh::app {

/// One curve: numbers in display units; errors may be empty.
struct CurveView
{
    enum class Chart { lines, polar, reflection };
    Chart chart = Chart::lines;
    QString name, xLabel, yLabel;
    std::vector<double> x, y, error;
    double marked =
        std::numeric_limits<double>::quiet_NaN();  ///< abscissa of the sheet as it stands
    bool points = true;
    struct Series
    {
        QString name;
        std::vector<double> y;
        std::vector<double>
            x;  ///< of its own, then it is drawn as points; empty: that of the first
    };
    bool byRatios = false;  ///< equal ratios are equal distances upwards
    Series right;           ///< with an axis of its own at the right; no values: none
    QString rightLabel;
    std::vector<Series> more;  ///< further lines; the first is then called `first`
    QString first;
};

struct TableView
{
    QString name;
    QStringList header;
    std::vector<QStringList> rows;
};

class Drawer : public QWidget
{
    Q_OBJECT
public:
    explicit Drawer(QWidget* parent = nullptr);
    void setCurves(std::vector<CurveView> curves);
    void setTables(std::vector<TableView> tables);
    void setPasses(const TableView& passes);
    /// Modes that can be looked at; their pictures are asked for when the page is opened.
    void setModes(const QStringList& names);
    void setModePicture(int mode, const QPixmap& picture);
    static constexpr QSize modePicture{132, 84};
    void appendLog(const QString& text);
    void clearLog();
    void showTab(int index);
    /// Shows the table of that name, if there is one.
    void showTable(const QString& name);
    /// Writes the shown curve; by ending: svg, pdf or png.
    [[nodiscard]] bool savePlot(const QString& path);
    [[nodiscard]] bool hasCurve() const { return !m_curves.empty(); }
    void retheme();

Q_SIGNALS:
    void modePicturesWanted();
    void modeChosen(int mode);

protected:
    void resizeEvent(QResizeEvent* event) override;

private:
    void showCurve(int index);
    void showRound(const CurveView& view);
    void styleLegend();
    /// Beside the plot, or within it.
    void setLegendOutside(bool outside);
    void placeLegend(const CurveView& view);
    struct FreePlace
    {
        Qt::Alignment alignment;
        int covered = 0;
    };
    /// Where a box of this size covers least of the curves; in shares of the axes' lengths.
    [[nodiscard]] FreePlace freePlace(const QSizeF& size) const;
    /// How many places of the curves lie in a box, in shares of the axes' lengths from below left.
    [[nodiscard]] int coveredBy(const QRectF& box) const;
    /// Draws what has an axis of its own at the right.
    void showRight(const CurveView& view);
    /// Equal steps or equal ratios upwards.
    void scaleUpwards(const CurveView& view);
    /// Puts a line at a place of the plot, with the values of all curves there.
    void mark(double x);
    void showTable(int index);
    static void fill(QTableWidget* widget, const TableView& view);
    QTabWidget* m_tabs;
    QComboBox *m_curveChoice, *m_tableChoice;
    QCustomPlot* m_plot;
    QTableWidget *m_table, *m_passes;
    QPlainTextEdit* m_log;
    QListWidget* m_modes;
    bool m_modesAreFresh = false;
    QSize m_legendPlacedFor;          ///< size of the plot
    bool m_isInPlaceOfCurve = false;  ///< the passes, until somebody chooses another tab
    void wantPictures();
    QPointF m_pressed;
    std::vector<CurveView> m_curves;
    std::vector<TableView> m_tables;
};

}  // namespace yh::app
