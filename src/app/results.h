// Stored results of a run, read back into plain views for the window.
#pragma once

#include "app/drawer.h"
#include "app/far_pattern.h"
#include "app/findings_view.h"
#include "base/quantity.h"

#include <QJsonObject>
#include <QPolygonF>
#include <map>
#include <optional>
#include <vector>

namespace yh::app {

/// Dimension of a unit as results write it.
[[nodiscard]] base::Dimension dimensionOf(const QString& unit);

/// The content of a result folder (run.json and what it names).
class Results
{
public:
    /// @returns a sentence when the folder holds no readable results
    /// @param lineIds  identities of the sheet's lines now, when it was read anew; empty: unchanged
    QString load(const QString& folder, const std::vector<int>& lineIds = {});
    void clear() { *this = Results(); }
    [[nodiscard]] bool isEmpty() const { return m_json.isEmpty(); }
    [[nodiscard]] QString sheetHash() const;
    [[nodiscard]] QString fieldPath() const;
    [[nodiscard]] QString folder() const { return m_folder; }
    /// The same results at another place.
    void moveTo(const QString& folder) { m_folder = folder; }
    [[nodiscard]] std::vector<QPolygonF> fieldLines() const;
    [[nodiscard]] QString summary() const;
    [[nodiscard]] int unknowns() const;

    /// Units of the figures, SI, in the order of the asks.
    [[nodiscard]] QStringList askedUnits() const;

    /// Unit that the user chose for a finding, by its name.
    std::map<QString, base::DisplayUnit> units;
    [[nodiscard]] std::vector<FindingView> findings() const;
    [[nodiscard]] std::vector<CheckView> checks() const;
    /// Names of the modes that were found, each with its frequency or index; empty without modes.
    /// A mode of the fields in the file, and the quantity that shows it.
    struct Mode
    {
        QString text, quantity;
    };
    [[nodiscard]] std::vector<Mode> modes() const;
    /// The pattern of a far field, the first that was asked for; empty: none. The folder may hold
    /// tables of earlier runs.
    [[nodiscard]] FarPattern pattern() const;
    [[nodiscard]] std::vector<QPointF> marksOfCheck(int index) const;
    [[nodiscard]] int lineOfCheck(int index) const;
    [[nodiscard]] std::vector<CurveView> curves() const;
    [[nodiscard]] std::vector<TableView> tables() const;
    [[nodiscard]] TableView passes() const;
    /// Names of findings of a line, with their dimension and value (SI).
    struct Number
    {
        QString name;
        base::Dimension dimension;
        double value = 0;
    };
    [[nodiscard]] std::vector<Number> numbersOfLine(int line) const;
    /// Where the figure of a line is, m: two numbers in drawings, three in solids, else none.
    [[nodiscard]] std::vector<double> placeOfLine(int line) const;

private:
    /// The points of a sweep.
    [[nodiscard]] TableView sweepTable(const QJsonArray& swept) const;
    class TableCurves;
    /// Figures over what was swept.
    void addSwept(std::vector<CurveView>& list) const;
    /// @param index  of the finding
    /// @param other  value of the second swept parameter, where there is one
    [[nodiscard]] CurveView sweptCurve(const QJsonObject& finding, qsizetype index,
                                       std::optional<double> other) const;
    /// The unit chosen for a finding, or what reads best.
    [[nodiscard]] base::DisplayUnit chosenUnit(const QString& finding, double largest,
                                               const base::Dimension& d) const;
    /// What a swept parameter is shown in; angles in degrees where the sheet states them so.
    [[nodiscard]] base::DisplayUnit sweptUnit(qsizetype sweep, double largest) const;
    [[nodiscard]] QString sweptText(qsizetype sweep, double value) const;
    [[nodiscard]] int lineOf(const QJsonValue& stored) const;
    QJsonObject m_json;
    QString m_folder;
    std::map<int, int> m_lines;  ///< stored to present identities; empty: the same
};

}  // namespace yh::app
