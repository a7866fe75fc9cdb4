// Curves of the drawer: figures over a sweep, and the columns of stored tables.
#include "app/results.h"
#include "app/text.h"
#include "base/expression.h"

#include <QFile>
#include <QJsonArray>
#include <QObject>
#include <algorithm>
#include <array>
#include <cmath>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace {

QString labelled(const QString& name, const std::string& symbol)
{
    return symbol.empty() ? name : name + u" / "_s + unitText(symbol);
}

/// Lines that nobody could tell apart become one, with all their names.
void mergeLevels(CurveView& plot)
{
    auto [low, high] = std::pair(std::numeric_limits<double>::max(), -1e300);
    auto spread = [&low = low, &high = high](const std::vector<double>& y) {
        for (const double v : y) {
            low = std::min(low, v);
            high = std::max(high, v);
        }
    };
    spread(plot.y);
    for (const CurveView::Series& s : plot.more)
        spread(s.y);
    constexpr double pixel = 1.0 / 300;
    const double visible = pixel * (high - low);
    auto same = [visible](const std::vector<double>& a, const std::vector<double>& b) {
        return a.size() == b.size() &&
               std::equal(a.begin(), a.end(), b.begin(),
                          [visible](double x, double y) { return std::abs(x - y) <= visible; });
    };
    std::vector<CurveView::Series> kept;
    for (CurveView::Series& s : plot.more) {
        const auto twin =
            std::find_if(kept.begin(), kept.end(), [&](const auto& k) { return same(k.y, s.y); });
        if (s.x.empty() && same(plot.y, s.y))
            plot.first += u", "_s + s.name;
        else if (s.x.empty() && twin != kept.end())
            twin->name += u", "_s + s.name;
        else
            kept.push_back(std::move(s));
    }
    plot.more = std::move(kept);
}

}  // namespace

namespace {

/// Reflections from the complex numbers of a table, as curves.
void addReflections(std::vector<CurveView>& list, const QStringList& head, const QStringList& rows)
{
    for (qsizetype level = 1; level < head.size(); ++level) {
        const QString name = head[level].section(u" ("_s, 0, 0);
        const qsizetype real = head.indexOf(name + u"_re (1)"_s),
                        imaginary = head.indexOf(name + u"_im (1)"_s);
        if (name.section(u" to "_s, 0, 0) != name.section(u" to "_s, 1) || real < 0 ||
            imaginary < 0)
            continue;
        CurveView c;
        c.chart = CurveView::Chart::reflection;
        c.name = QObject::tr("%1, reflection chart").arg(name);
        c.first = name;
        for (qsizetype r = 1; r < rows.size(); ++r) {
            const QStringList cells = rows[r].split(u',');
            if (cells.value(real).isEmpty())
                continue;
            c.x.push_back(cells[real].toDouble());
            c.y.push_back(cells.value(imaginary).toDouble());
        }
        if (!c.x.empty())
            list.push_back(std::move(c));
    }
}

/// Cuts through a pattern, in one diagram.
CurveView polarOf(const QString& label, const QStringList& head, const QStringList& rows)
{
    CurveView c;
    c.chart = CurveView::Chart::polar;
    c.name = label;
    c.yLabel = head.value(1).section(u" ("_s, 1).chopped(1);
    for (qsizetype column = 1; column < head.size(); ++column) {
        const QString name = head[column].section(u" ("_s, 0, 0);
        std::vector<double> levels;
        for (qsizetype r = 1; r < rows.size(); ++r) {
            const QStringList cells = rows[r].split(u',');
            if (column == 1)
                c.x.push_back(cells[0].toDouble());
            levels.push_back(cells.value(column).toDouble());
        }
        if (column == 1) {
            c.first = name;
            c.y = std::move(levels);
        } else {
            c.more.push_back({name, std::move(levels)});
        }
    }
    return c;
}

}  // namespace

/// Makes curves of one table's columns and appends them.
class Results::TableCurves
{
public:
    /// @param finding  that the table belongs to
    TableCurves(const Results& results, const QJsonObject& finding, const QStringList& head,
                const QStringList& rows, std::vector<CurveView>& list)
        : m_results(results),
          m_finding(finding),
          m_label(finding["label"_L1].toString()),
          m_head(head),
          m_rows(rows),
          m_list(list),
          m_along(head[0].section(u" ("_s, 0, 0)),
          m_alongUnit(head[0].section(u" ("_s, 1).chopped(1))
    {
        m_overTime = head[0] == "t (s)"_L1;
        if (m_overTime)
            m_along = QObject::tr("time");
    }

    void add(qsizetype column)
    {
        // Scalars and magnitudes; places and components stay in the table.
        const QString title = m_head[column].trimmed();
        Column c{title.section(u" ("_s, 0, 0), title.section(u" ("_s, 1).chopped(1)};
        if (c.quantity.contains(u'_') || c.quantity == "x"_L1 || c.quantity == "y"_L1 ||
            c.quantity == "z"_L1 || c.quantity == "r"_L1)
            return;
        c.together = c.unit == "dB"_L1 || c.unit == "eV"_L1 ||
                     (column == 1 && c.quantity == "scattering"_L1) ||
                     (m_levels >= 0 && c.unit == "m^2"_L1);
        read(column, c);
        if (c.samples.empty() || asPhase(c) || asDots(c))
            return;
        // The course of a figure along a sweep.
        const QJsonArray swept = m_results.m_json["swept"_L1].toArray();
        const bool overSwept = !swept.isEmpty() && m_along == swept[0].toString();
        m_x = overSwept ? m_results.sweptUnit(0, c.largestX)
                        : base::displayUnit(c.largestX, dimensionOf(m_alongUnit));
        m_y =
            m_results.chosenUnit(m_finding["name"_L1].toString(), c.largestY, dimensionOf(c.unit));
        CurveView view = curveOf(c);
        if (c.together)
            joinLevels(c, view);
        m_list.push_back(std::move(view));
    }

    /// After the last column.
    void finish()
    {
        if (m_levels >= 0)
            mergeLevels(m_list[size_t(m_levels)]);
    }

private:
    struct Column
    {
        QString quantity, unit;
        bool together = false;  ///< shares a plot with others of its unit
        std::vector<std::array<double, 2>> samples;
        double largestX = 0, largestY = 0;
    };

    void read(qsizetype column, Column& c) const
    {
        for (qsizetype r = 1; r < m_rows.size(); ++r) {
            const QStringList cells = m_rows[r].split(u',');
            if (cells.value(column).isEmpty())
                continue;
            c.samples.push_back({cells[0].toDouble(), cells[column].toDouble()});
            c.largestX = std::max(c.largestX, std::abs(c.samples.back()[0]));
            c.largestY = std::max(c.largestY, std::abs(c.samples.back()[1]));
        }
        // What shares a plot shares its unit: extinction, the last, is the largest.
        if (c.together && c.unit == "m^2"_L1)
            for (qsizetype r = 1; r < m_rows.size(); ++r)
                c.largestY = std::max(c.largestY, std::abs(m_rows[r].section(u',', -1).toDouble()));
    }

    /// A phase goes with its size, on an axis of its own.
    bool asPhase(const Column& c)
    {
        if (c.quantity != "phase"_L1 || m_list.empty() || !m_list.back().byRatios ||
            c.samples.size() != m_list.back().x.size())
            return false;
        m_list.back().rightLabel = c.quantity + u" / °"_s;
        m_list.back().right.name = c.quantity;
        for (const auto& s : c.samples)
            m_list.back().right.y.push_back(s[1]);
        return true;
    }

    /// A column with a dot is drawn as points, in the plot of the one before.
    bool asDots(const Column& c)
    {
        if (!c.quantity.startsWith(u'•') || m_list.empty())
            return false;
        CurveView::Series dots{c.quantity.mid(1).trimmed(), {}, {}};
        for (const auto& s : c.samples) {
            dots.x.push_back(m_x.shown(s[0]));
            dots.y.push_back(m_y.shown(s[1]));
        }
        m_list.back().first = m_list.back().yLabel.section(u" / "_s, 0, 0);
        m_list.back().more.push_back(std::move(dots));
        return true;
    }

    [[nodiscard]] QString nameOf(const Column& c) const
    {
        const QString name = m_overTime ? m_label + QObject::tr(" over time")
                             : c.quantity == m_label
                                 ? QObject::tr("%1 over %2").arg(m_label, m_along)
                                 : c.quantity + u", "_s + m_label;
        // The second and third quantity over time are told apart.
        const bool taken = std::any_of(m_list.begin(), m_list.end(),
                                       [&](const CurveView& x) { return x.name == name; });
        return taken ? c.quantity + u", "_s + name : name;
    }

    /// Levels and angles have a unit, but no dimension.
    [[nodiscard]] QString symbolOf(const Column& c) const
    {
        return unitText(m_y.symbol.empty() ? c.unit.toStdString()
                                           : base::symbolIn(m_y.symbol, c.unit.toStdString()));
    }

    [[nodiscard]] CurveView curveOf(const Column& c) const
    {
        CurveView view;
        view.name = nameOf(c);
        view.points = false;
        view.byRatios = c.quantity.startsWith("abs("_L1);
        for (const auto& s : c.samples) {
            view.x.push_back(m_x.shown(s[0]));
            view.y.push_back(m_y.shown(s[1]));
        }
        view.xLabel = labelled(m_along, m_x.symbol);
        view.yLabel = m_overTime && m_head.size() == 2 ? m_label : c.quantity;
        if (const QString symbol = symbolOf(c); symbol != "1"_L1)
            view.yLabel += u" / "_s + symbol;
        return view;
    }

    /// Levels belong together: one plot of all of them comes first.
    void joinLevels(const Column& c, const CurveView& view)
    {
        if (m_levels < 0) {
            m_levels = qsizetype(m_list.size());
            CurveView all = view;
            all.name = c.unit == "dB"_L1 ? QObject::tr("%1 in dB").arg(m_label) : m_label;
            all.yLabel = (c.unit == "dB"_L1   ? u"|S|"_s
                          : c.unit == "eV"_L1 ? QObject::tr("energy")
                                              : QObject::tr("area")) +
                         u" / "_s + symbolOf(c);
            all.first = c.quantity;
            m_list.push_back(std::move(all));
        } else if (view.x.size() == m_list[size_t(m_levels)].x.size()) {
            m_list[size_t(m_levels)].more.push_back({c.quantity, view.y, {}});
        }
    }

    const Results& m_results;
    const QJsonObject& m_finding;
    QString m_label;
    const QStringList &m_head, &m_rows;
    std::vector<CurveView>& m_list;
    QString m_along, m_alongUnit;
    bool m_overTime = false;
    qsizetype m_levels = -1;     ///< the plot of what belongs together; -1: none yet
    base::DisplayUnit m_x, m_y;  ///< of the last column
};

CurveView Results::sweptCurve(const QJsonObject& finding, qsizetype index,
                              std::optional<double> other) const
{
    const QJsonArray swept = m_json["swept"_L1].toArray();
    CurveView c;
    c.name = finding["label"_L1].toString();
    if (other)
        c.name += u", %1 = %2"_s.arg(swept[1].toString(), sweptText(1, *other));
    double xm = 0, ym = 0;
    std::vector<std::array<double, 3>> rows;
    for (const QJsonValue& p : m_json["points"_L1].toArray()) {
        if (other && p["parameters"_L1][1].toDouble() != *other)
            continue;
        const QJsonValue f = p["findings"_L1].toArray().at(index);
        if (!f["value"_L1].isDouble())
            continue;
        rows.push_back({p["parameters"_L1][0].toDouble(), f["value"_L1].toDouble(),
                        f["error"_L1].toDouble(NAN)});
        xm = std::max(xm, std::abs(rows.back()[0]));
        ym = std::max(ym, std::abs(rows.back()[1]));
    }
    const auto ux = sweptUnit(0, xm), uy = chosenUnit(finding["name"_L1].toString(), ym,
                                                      dimensionOf(finding["unit"_L1].toString()));
    for (const auto& r : rows) {
        c.x.push_back(ux.shown(r[0]));
        c.y.push_back(uy.shown(r[1]));
        c.error.push_back(std::isfinite(r[2]) ? r[2] / uy.factor : 0);
    }
    c.xLabel = labelled(swept[0].toString(), ux.symbol);
    c.yLabel = labelled(finding["label"_L1].toString(), uy.symbol);
    if (m_json.contains("swept_here"_L1))
        c.marked = m_json["swept_here"_L1][0].toDouble() / ux.factor;
    return c;
}

void Results::addSwept(std::vector<CurveView>& list) const
{
    const QJsonArray swept = m_json["swept"_L1].toArray();
    if (swept.isEmpty())
        return;
    // A second swept parameter makes a curve for each of its values.
    std::vector<std::optional<double>> others;
    for (const QJsonValue& p : m_json["points"_L1].toArray()) {
        const std::optional<double> o =
            swept.size() > 1 ? std::optional(p["parameters"_L1][1].toDouble()) : std::nullopt;
        if (std::find(others.begin(), others.end(), o) == others.end())
            others.push_back(o);
    }
    const QJsonArray findings = m_json["findings"_L1].toArray();
    for (qsizetype i = 0; i < findings.size(); ++i) {
        if (!findings[i]["value"_L1].isDouble())
            continue;
        for (const auto& other : others)
            if (CurveView c = sweptCurve(findings[i].toObject(), i, other); !c.x.empty())
                list.push_back(std::move(c));
    }
}

std::vector<CurveView> Results::curves() const
{
    std::vector<CurveView> list;
    addSwept(list);
    for (const QJsonValue& f : m_json["findings"_L1].toArray()) {
        const QJsonObject finding = f.toObject();
        QFile file(m_folder + u'/' + finding["table"_L1].toString());
        if (!finding.contains("table"_L1) || !file.open(QIODevice::ReadOnly))
            continue;
        const QStringList rows = QString::fromUtf8(file.readAll()).split(u'\n', Qt::SkipEmptyParts);
        const QStringList head = rows.value(0).split(u',');
        if (head[0] == "angle (deg)"_L1) {
            list.push_back(polarOf(finding["label"_L1].toString(), head, rows));
            continue;
        }
        TableCurves table(*this, finding, head, rows, list);
        for (qsizetype column = 1; column < head.size(); ++column)
            table.add(column);
        table.finish();
        addReflections(list, head, rows);
    }
    return list;
}

}  // namespace yh::app
