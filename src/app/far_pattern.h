// Gain of a far field over all directions, as the solver's table holds it.
#pragma once

#include <QString>
#include <array>
#include <vector>

namespace yh::app {

struct FarPattern
{
    QString name;              ///< of the source
    int rows = 0;              ///< steps from pole to pole; twice as many go round
    QString quantity, unit;    ///< gain in dBi, or radar cross-section in dBsm
    std::vector<double> gain;  ///< in decibels; shape (rows + 1, 2 rows)
    double largest = 0;        ///< the same
    [[nodiscard]] bool isEmpty() const { return gain.empty(); }
    /// Radius of the surface that stands for it, 0 to 1: 1 at the largest gain, 0 where it is
    /// `span` decibels below.
    [[nodiscard]] double radius(size_t index) const;
    /// Unit vector of a direction of the table.
    [[nodiscard]] std::array<double, 3> direction(int row, int column) const;
    static constexpr double span = 25;

    /// Reads a table; empty where it is missing or broken.
    static FarPattern fromFile(const QString& path, const QString& source);
};

}  // namespace yh::app
