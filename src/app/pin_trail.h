// Pins one after the other: how far each lies from the one before, and how long after it.
#pragma once

#include <QString>

#include <array>
#include <optional>
#include <vector>

namespace yh::app {

class PinTrail
{
public:
    struct Row
    {
        QString reading, since;
    };
    /// @param at    m
    /// @param time  s, of the picture that was looked at; none: steady
    void add(const QString& reading, const std::array<double, 3>& at, std::optional<double> time);
    void clear();
    /// Another reading at the same place: of another result.
    void read(size_t row, const QString& reading) { m_rows[row].reading = reading; }
    [[nodiscard]] const std::vector<Row>& rows() const { return m_rows; }

private:
    std::vector<Row> m_rows;
    std::array<double, 3> m_at{};
    std::optional<double> m_time;
};

}  // namespace yh::app
