#include "app/pin_trail.h"

#include "base/quantity.h"

#include <QObject>

#include <cmath>

namespace yh::app {

void PinTrail::add(const QString& reading, const std::array<double, 3>& at,
                   std::optional<double> time)
{
    namespace dim = base::dim;
    auto text = [](double value, const base::Dimension& d) {
        return QString::fromStdString(base::format(value, d, 4));
    };
    Row row{reading, {}};
    if (time)
        row.reading += QObject::tr("   at %1").arg(text(*time, dim::time));
    if (!m_rows.empty()) {
        const double way = std::hypot(at[0] - m_at[0], at[1] - m_at[1], at[2] - m_at[2]);
        row.since = text(way, dim::length);
        // What travels from pin to pin is as fast as that.
        if (time && m_time && *time != *m_time) {
            const double later = *time - *m_time;
            row.since += QObject::tr(" in %1: %2")
                             .arg(text(std::abs(later), dim::time),
                                  text(way / std::abs(later), dim::length / dim::time));
        }
    }
    m_rows.push_back(row);
    m_at = at;
    m_time = time;
}

void PinTrail::clear()
{
    m_rows.clear();
}

}  // namespace yh::app
