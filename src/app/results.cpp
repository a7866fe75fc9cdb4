#include "app/results.h"

#include "app/text.h"
#include "app/units.h"

#include "base/constants.h"
#include "base/expression.h"

#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QObject>
#include <algorithm>
#include <cmath>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace {

double numberOf(const QJsonValue& v)
{
    return v.isDouble() ? v.toDouble() : std::numeric_limits<double>::quiet_NaN();
}

/// Value and error in one unit, with the digits that the error supports.
struct Shown
{
    QString value, error, unit;
    base::DisplayUnit in;
};

Shown show(double value, double error, const QString& unit, const base::DisplayUnit* chosen)
{
    const base::Dimension d = dimensionOf(unit);
    const base::DisplayUnit u = chosen ? *chosen : readingUnit(value, d);
    // In the chosen unit the number has no dimension, so that no other prefix is picked.
    const auto t = base::formatWithError(u.shown(value), error / u.factor, base::Dimension{});
    return {qs(t.value), qs(t.error), unitText(base::symbolIn(u.symbol, unit.toStdString())), u};
}

}  // namespace

base::Dimension dimensionOf(const QString& unit)
{
    return base::dimensionOf(unit.toStdString());
}

QString Results::load(const QString& folder, const std::vector<int>& lineIds)
{
    QFile file(folder + "/run.json"_L1);
    if (!file.open(QIODevice::ReadOnly))
        return QObject::tr("There are no stored results.");
    const QJsonObject j = QJsonDocument::fromJson(file.readAll()).object();
    if (!j.contains("findings"_L1) || !j.contains("sheet_hash"_L1))
        return QObject::tr("The stored results are broken; solve again.");
    m_json = j;
    m_folder = folder;
    const QJsonArray stored = j["line_ids"_L1].toArray();
    for (size_t i = 0; i < lineIds.size() && i < size_t(stored.size()); ++i)
        m_lines[stored[qsizetype(i)].toInt()] = lineIds[i];
    return {};
}

base::DisplayUnit Results::chosenUnit(const QString& finding, double largest,
                                      const base::Dimension& d) const
{
    const auto it = units.find(finding);
    // A profile shows other quantities than its line's.
    if (it != units.end())
        for (const base::DisplayUnit& u : base::unitChoices(d))
            if (u.symbol == it->second.symbol)
                return u;
    return readingUnit(largest, d);
}

int Results::lineOf(const QJsonValue& stored) const
{
    const auto it = m_lines.find(stored.toInt(-1));
    return m_lines.empty() ? stored.toInt(-1) : it == m_lines.end() ? -1 : it->second;
}

QString Results::sheetHash() const
{
    return m_json["sheet_hash"_L1].toString();
}
QString Results::fieldPath() const
{
    return m_json.contains("field"_L1) ? m_folder + u'/' + m_json["field"_L1].toString()
                                       : QString();
}

std::vector<QPolygonF> Results::fieldLines() const
{
    std::vector<QPolygonF> list;
    QFile file(m_folder + u'/' + m_json["lines"_L1].toString());
    if (m_json.contains("lines"_L1) && file.open(QIODevice::ReadOnly))
        for (const QJsonValue& line : QJsonDocument::fromJson(file.readAll()).array()) {
            QPolygonF p;
            for (const QJsonValue& q : line.toArray())
                p << QPointF(q[0].toDouble(), q[1].toDouble());
            list.push_back(p);
        }
    return list;
}

int Results::unknowns() const
{
    const QJsonArray p = m_json["passes"_L1].toArray();
    return p.isEmpty() ? 0 : p.last()["unknowns"_L1].toInt();
}

QString Results::summary() const
{
    const auto n = m_json["passes"_L1].toArray().size();
    QString count = QString::number(unknowns());
    for (qsizetype i = count.size() - 3; i > 0; i -= 3)
        count.insert(i, QChar(0x202F));
    return QObject::tr("answered in %1, %n pass(es), %2 unknowns", nullptr, int(n))
        .arg(qs(base::format(m_json["seconds"_L1].toDouble(), base::dim::time, 2)), count)
        .replace("(es)"_L1, n == 1 ? ""_L1 : "es"_L1);
}

namespace {

/** The largest size of a matrix's entries. */
double largestIn(const QJsonValue& matrix)
{
    double largest = 0;
    for (const QJsonValue& row : matrix.toArray())
        for (const QJsonValue& x : row.toArray())
            largest = std::max(largest, std::abs(x.toDouble()));
    return largest;
}

/// A matrix as lines of text, all entries with as many decimals as its largest error has.
QStringList matrixRows(const QJsonObject& finding, const base::Dimension& d,
                       const base::DisplayUnit* unit)
{
    const double largest = largestIn(finding["value"_L1]), error = largestIn(finding["error"_L1]);
    const base::DisplayUnit u = unit ? *unit : base::displayUnit(largest, d);
    constexpr int width = 8, mostDecimals = 6;
    auto decimalsOf = [mostDecimals](double x) {
        return x > 0 ? std::clamp(int(-std::floor(std::log10(x))), 0, mostDecimals) : mostDecimals;
    };
    // With a sign, a point and a gap before it.
    const int before = std::max(1, int(std::floor(std::log10(largest / u.factor))) + 1),
              decimals =
                  std::clamp(decimalsOf(error / u.factor), 0, std::max(0, width - 3 - before));
    const QJsonArray names = finding["conductors"_L1].toArray();
    QString head = u"   "_s;
    for (const QJsonValue& n : names)
        head += n.toString().left(6).rightJustified(width);
    QStringList rows{head};
    qsizetype r = 0;
    for (const QJsonValue& row : finding["value"_L1].toArray()) {
        QString text = names[r++].toString().left(3).leftJustified(3);
        for (const QJsonValue& x : row.toArray()) {
            const double entry = x.toDouble() / u.factor;
            // What rounds to nothing is none.
            const bool isNone = std::abs(entry) < 0.5 * std::pow(10, -decimals);
            text += (isNone ? u"0"_s : QString::number(entry, 'f', decimals)).rightJustified(width);
        }
        rows << text;
    }
    const auto e = base::formatWithError(largest / u.factor, error / u.factor, base::Dimension{});
    rows << u"in %1, each ± %2 or less"_s.arg(unitText(u.symbol), qs(e.error));
    return rows;
}

/** The band of a gauge: what was asked for. */
void setBand(FindingView& f, const Shown& s, const QJsonObject& ask, double value)
{
    const double within = numberOf(ask["within"_L1]), below = numberOf(ask["below"_L1]),
                 above = numberOf(ask["above"_L1]);
    if (std::isfinite(below)) {
        f.gauge.bandLow = s.in.shown(0);
        f.gauge.bandHigh = s.in.shown(below);
    } else if (std::isfinite(above)) {
        f.gauge.bandLow = s.in.shown(above);
        f.gauge.bandHigh = s.in.shown(std::max(2 * above, 1.5 * value));
    } else if (within > 0) {
        const double band = within * std::abs(value - ask["reference"_L1].toDouble());
        f.gauge.bandLow = s.in.shown(value - band);
        f.gauge.bandHigh = s.in.shown(value + band);
    }
}

/** Value, error and gauge of a figure. */
void setFigure(FindingView& f, const QJsonObject& j, const base::DisplayUnit* unit)
{
    const double value = numberOf(j["value"_L1]), error = numberOf(j["error"_L1]);
    const Shown s = show(value, f.noLimit ? 0 : error, j["unit"_L1].toString(), unit);
    f.value = s.value;
    f.error = f.noLimit ? QString() : s.error;
    f.unit = s.unit;
    f.gauge.value = s.in.shown(value);
    f.gauge.error = f.noLimit || !std::isfinite(error) ? 0 : error / s.in.factor;
    f.gauge.good = f.met;
    f.gauge.noLimit = f.noLimit;
    setBand(f, s, j["ask"_L1].toObject(), value);
}

}  // namespace

namespace {

/// A value in the unit that a figure is shown in, where that is °C; else as the core writes it.
QString inUnitOf(const FindingView& f, double value, const base::Dimension& d)
{
    constexpr double freezing = 273.15;  // K
    return f.unit == u"°C"_s ? qs(base::formatNumber(value - freezing, 4)) + u" °C"_s
                             : qs(base::format(value, d, 4));
}

}  // namespace

QStringList Results::askedUnits() const
{
    QStringList list;
    // A profile is of all quantities, and voltages are of electrodes.
    for (const QJsonValue& finding : m_json["findings"_L1].toArray())
        if (const QString unit = finding["unit"_L1].toString();
            finding["value"_L1].isDouble() && unit != "V"_L1)
            list << unit;
    return list;
}

std::vector<FindingView> Results::findings() const
{
    std::vector<FindingView> list;
    for (const QJsonValue& v : m_json["findings"_L1].toArray()) {
        const QJsonObject j = v.toObject();
        FindingView f;
        const QString name = j["name"_L1].toString();
        f.line = lineOf(j["line"_L1]);
        f.label = j["label"_L1].toString();
        f.note = j["note"_L1].toString();
        f.met = j["met"_L1].toBool(true);
        f.noLimit = j["no_limit"_L1].toBool();
        const base::Dimension d = dimensionOf(j["unit"_L1].toString());
        const auto chosen = units.find(name);
        const base::DisplayUnit* unit = chosen == units.end() ? nullptr : &chosen->second;
        const double below = numberOf(j["ask"_L1].toObject()["below"_L1]);
        f.status = !j.contains("met"_L1) ? QString()
                   : f.met               ? QObject::tr("met")
                                         : QObject::tr("missed");
        if (j.contains("table"_L1) && !j["value"_L1].isDouble()) {
            f.status = QObject::tr("see Curve");
            f.hasGauge = false;
            list.push_back(f);
            continue;
        }
        if (j.contains("conductors"_L1)) {
            f.hasGauge = false;
            f.rows = matrixRows(j, d, unit);
            list.push_back(f);
            continue;
        }
        setFigure(f, j, unit);
        if (std::isfinite(below) && f.note.isEmpty())
            f.note = QObject::tr("limit %1").arg(inUnitOf(f, below, d));
        // Of a temperature the share is that of a rise.
        const QJsonObject ask = j["ask"_L1].toObject();
        const double from = ask["reference"_L1].toDouble(), within = numberOf(ask["within"_L1]);
        if (d == base::dim::temperature && from != 0 && within > 0 && f.note.isEmpty())
            f.note = QObject::tr("asked ± %1 K: %2 % of the rise")
                         .arg(within * std::abs(numberOf(j["value"_L1]) - from), 0, 'g', 2)
                         .arg(100 * within, 0, 'g', 3);
        list.push_back(f);
    }
    return list;
}

std::vector<CheckView> Results::checks() const
{
    std::vector<CheckView> list;
    int index = 0;
    for (const QJsonValue& v : m_json["checks"_L1].toArray()) {
        const QString s = v["state"_L1].toString();
        list.push_back({s == "good"_L1      ? 0
                        : s == "note"_L1    ? 1
                        : s == "warning"_L1 ? 2
                                            : 3,
                        v["text"_L1].toString(), index++, v["proposal"_L1].toString()});
    }
    return list;
}

FarPattern Results::pattern() const
{
    for (const QJsonValue& v : m_json["findings"_L1].toArray())
        if (const QString file = v["directions"_L1].toString(); !file.isEmpty())
            return FarPattern::fromFile(m_folder + u'/' + file, v["of"_L1].toString());
    return {};
}

std::vector<Results::Mode> Results::modes() const
{
    std::vector<Mode> list;
    for (const QJsonValue& axis : m_json["axes"_L1].toArray())
        if (axis["kind"_L1].toString() == "mode"_L1)
            for (const QJsonValue& place : axis["places"_L1].toArray())
                list.push_back({QObject::tr("mode %1").arg(list.size() + 1) + u'\n' +
                                    place["label"_L1].toString(),
                                place["shown"_L1].toString()});
    return list;
}

std::vector<QPointF> Results::marksOfCheck(int index) const
{
    std::vector<QPointF> list;
    const QJsonArray at = m_json["checks"_L1].toArray().at(index)["at"_L1].toArray();
    for (qsizetype i = 0; i + 1 < at.size(); i += 2)
        list.emplace_back(at[i].toDouble(), at[i + 1].toDouble());
    return list;
}

int Results::lineOfCheck(int index) const
{
    return lineOf(m_json["checks"_L1].toArray().at(index)["line"_L1]);
}

std::vector<double> Results::placeOfLine(int line) const
{
    std::vector<double> place;
    for (const QJsonValue& f : m_json["findings"_L1].toArray())
        if (lineOf(f["line"_L1]) == line && place.empty())
            for (const QJsonValue& x : f["at"_L1].toArray())
                place.push_back(x.toDouble());
    return place;
}

std::vector<Results::Number> Results::numbersOfLine(int line) const
{
    std::vector<Number> list;
    for (const QJsonValue& f : m_json["findings"_L1].toArray())
        if (lineOf(f["line"_L1]) == line && f["value"_L1].isDouble())
            list.push_back({f["name"_L1].toString(), dimensionOf(f["unit"_L1].toString()),
                            f["value"_L1].toDouble()});
    return list;
}

base::DisplayUnit Results::sweptUnit(qsizetype sweep, double largest) const
{
    if (m_json["swept_degrees"_L1][sweep].toBool())
        return {"°", base::pi / 180, 0};
    return base::displayUnit(largest, dimensionOf(m_json["swept_units"_L1][sweep].toString()));
}

QString Results::sweptText(qsizetype sweep, double value) const
{
    const auto unit = sweptUnit(sweep, std::abs(value));
    const QString symbol = qs(unit.symbol);
    return qs(base::formatNumber(unit.shown(value), 5)) +
           (symbol.isEmpty() || symbol == u"°"_s ? symbol : u' ' + symbol);
}

TableView Results::sweepTable(const QJsonArray& swept) const
{
    TableView t;
    t.name = QObject::tr("sweep");
    for (const QJsonValue& s : swept)
        t.header << s.toString();
    // What the course of a sweep says stands behind the figures of its points.
    for (const QJsonValue& f : m_json["points"_L1][0]["findings"_L1].toArray())
        if (f["value"_L1].isDouble())
            t.header << f["label"_L1].toString() << u"±"_s;
    for (const QJsonValue& p : m_json["points"_L1].toArray()) {
        QStringList row;
        for (qsizetype i = 0; i < swept.size(); ++i)
            row << sweptText(i, p["parameters"_L1][i].toDouble());
        for (const QJsonValue& f : p["findings"_L1].toArray())
            if (!f["value"_L1].isArray() &&
                (f["value"_L1].isDouble() || !f.toObject().contains("table"_L1))) {
                const Shown s = show(f["value"_L1].toDouble(), numberOf(f["error"_L1]),
                                     f["unit"_L1].toString(), nullptr);
                row << (f["value"_L1].isDouble() ? s.value + u' ' + s.unit : QObject::tr("failed"))
                    << s.error;
            }
        t.rows.push_back(row);
    }
    return t;
}

std::vector<TableView> Results::tables() const
{
    std::vector<TableView> list;
    const QJsonArray swept = m_json["swept"_L1].toArray();
    if (!swept.isEmpty())
        list.push_back(sweepTable(swept));
    TableView f;
    f.name = QObject::tr("findings");
    f.header << QObject::tr("finding") << QObject::tr("value") << u"±"_s << QObject::tr("unit");
    for (const QJsonValue& v : m_json["findings"_L1].toArray()) {
        auto row = [&](const QString& name, double value, double error) {
            const Shown s = show(value, error, v["unit"_L1].toString(), nullptr);
            f.rows.push_back({name, s.value, s.error, s.unit});
        };
        if (v["value"_L1].isDouble())
            row(v["label"_L1].toString(), v["value"_L1].toDouble(), numberOf(v["error"_L1]));
        const QJsonArray names = v["conductors"_L1].toArray();
        for (qsizetype i = 0; i < names.size(); ++i)
            for (qsizetype k = 0; k < names.size(); ++k)
                row(v["label"_L1].toString() + u' ' + names[i].toString() + u" / "_s +
                        names[k].toString(),
                    v["value"_L1][i][k].toDouble(), numberOf(v["error"_L1][i][k]));
    }
    list.push_back(f);
    return list;
}

TableView Results::passes() const
{
    TableView t;
    t.name = QObject::tr("passes");
    t.header << QObject::tr("pass") << QObject::tr("cells") << QObject::tr("unknowns")
             << QObject::tr("time");
    const QJsonArray findings = m_json["findings"_L1].toArray();
    for (const QJsonValue& f : findings)
        if (f["value"_L1].isDouble())
            t.header << f["label"_L1].toString();
    for (const QJsonValue& p : m_json["passes"_L1].toArray()) {
        QStringList row{QString::number(p["pass"_L1].toInt()),
                        QString::number(p["triangles"_L1].toInt()),
                        QString::number(p["unknowns"_L1].toInt()),
                        qs(base::format(p["seconds"_L1].toDouble(), base::dim::time, 3))};
        for (qsizetype i = 0; i < findings.size(); ++i)
            if (findings[i]["value"_L1].isDouble()) {
                const Shown s = show(p["value"_L1][i].toDouble(), numberOf(p["error"_L1][i]),
                                     findings[i]["unit"_L1].toString(), nullptr);
                row << s.value + (s.error.isEmpty() ? QString() : u" ± "_s + s.error) + u' ' +
                           s.unit;
            }
        t.rows.push_back(row);
    }
    return t;
}

}  // namespace yh::app
