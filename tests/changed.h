// Sheets with one thing wrong, and exact problems counted.
#pragma once

#include "sheet/document.h"

#include <QString>

#include <algorithm>
#include <cmath>

namespace yh::test {

/// A sheet with one slot of the first line of a kind set to a value, taken away where the value is
/// empty, or without all lines of the kind where the slot is. A kind that is not there is added.
inline sheet::Document changed(sheet::Document d, const QString& kind, const QString& slot,
                               const QString& value)
{
    const std::string k = kind.toStdString(), s = slot.toStdString();
    const auto line =
        std::find_if(d.lines.begin(), d.lines.end(), [&k](const auto& l) { return l.kind == k; });
    if (slot.isEmpty())
        std::erase_if(d.lines, [&k](const auto& l) { return l.kind == k; });
    else if (line == d.lines.end())
        d.add(k, {{s, value.toStdString()}});
    else if (value.isEmpty())
        line->values.erase(s);
    else
        line->values[s] = value.toStdString();
    return d;
}

/// How many exact problems lie within their stated errors, with the rows of their table.
struct Coverage
{
    int within = 0, all = 0;
    QString rows;

    /// @returns by how much it is off
    double take(const char* name, double truth, double value, double error)
    {
        const double off = std::abs(value - truth), size = std::abs(truth);
        ++all;
        within += off <= error;
        if (off > error)
            qInfo("%s: %.12g, not %.12g, off %.2g of stated %.2g", name, value, truth, off, error);
        rows += QString("| %1 | %2 | %3 | %4 | %5 |\n")
                    .arg(name)
                    .arg(truth, 0, 'e', 8)
                    .arg(value, 0, 'e', 8)
                    .arg(off / size, 0, 'e', 1)
                    .arg(error / size, 0, 'e', 1);
        return off;
    }
    [[nodiscard]] bool isEnough() const { return within * 10 >= all * 9; }
    [[nodiscard]] QString text() const { return QString("%1 of %2").arg(within).arg(all); }
};

}  // namespace yh::test
