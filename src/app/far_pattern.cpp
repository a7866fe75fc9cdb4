#include "app/far_pattern.h"

#include "base/constants.h"

#include <QFile>

#include <algorithm>
#include <cmath>

namespace yh::app {

using namespace Qt::StringLiterals;

double FarPattern::radius(size_t index) const
{
    return std::clamp(1 + (gain[index] - largest) / span, 0.0, 1.0);
}

std::array<double, 3> FarPattern::direction(int row, int column) const
{
    using base::pi;
    const double theta = pi * row / rows, phi = pi * column / rows;
    return {std::sin(theta) * std::cos(phi), std::sin(theta) * std::sin(phi), std::cos(theta)};
}

FarPattern FarPattern::fromFile(const QString& path, const QString& source)
{
    FarPattern p;
    QFile file(path);
    if (path.isEmpty() || !file.open(QIODevice::ReadOnly | QIODevice::Text))
        return p;
    p.name = source;
    const QString title = QString::fromUtf8(file.readLine()).trimmed().section(u',', 2);
    p.quantity = title.section(u" ("_s, 0, 0);
    p.unit = title.section(u" ("_s, 1).chopped(1);
    while (!file.atEnd()) {
        const QList<QByteArray> cells = file.readLine().trimmed().split(',');
        bool ok = false;
        const double gain = cells.size() == 3 ? cells[2].toDouble(&ok) : 0;
        if (!ok)
            return {};
        p.gain.push_back(gain);
    }
    // (rows + 1) times 2 rows entries.
    while (2 * (p.rows + 1) * p.rows < int(p.gain.size()))
        ++p.rows;
    if (p.gain.empty() || 2 * (p.rows + 1) * p.rows != int(p.gain.size()))
        return {};
    p.largest = *std::max_element(p.gain.begin(), p.gain.end());
    return p;
}

}  // namespace yh::app
