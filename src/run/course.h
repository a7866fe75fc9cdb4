// What figures do along a sweep: how fast they change, and the harmonics of a period.
//
// A period is summed from its harmonics, half a period that mirrors itself at both ends from
// cosines; other sweeps take slopes of the polynomial through the five nearest points. What all
// points err by alike does not matter: their own ± count with the sign in which the last pass has
// moved each. The ± of a slope is that of these errors, in the root of the mean square or at the
// place itself, whichever is more, and what the last harmonic (or a polynomial through three
// points) would change.
#pragma once

#include "run/report.h"
#include "sheet/model.h"

#include <optional>
#include <string>
#include <vector>

namespace yh::run {

/// Values along a sweep, with their errors, which have signs.
struct Samples
{
    std::vector<double> x, y, error;
};

/// A figure along a sweep.
class Course
{
public:
    enum class Kind {
        open,        ///< slopes only
        period,      ///< the last sample is the first again
        halfPeriod,  ///< goes back the way it came
    };
    Course(Kind kind, Samples samples);
    struct Slope
    {
        double value = 0, slope = 0, error = 0;  ///< by the unit of x
    };
    /// Value and slope at a place, and the error of the slope.
    [[nodiscard]] Slope at(double x) const;
    struct Harmonic
    {
        int number = 0;
        double amplitude = 0, error = 0;  ///< of the values; times 2 pi number / period: of slopes
    };
    /// From the first on; none of an open course.
    [[nodiscard]] std::vector<Harmonic> harmonics() const;
    /// Length of the whole period, in the unit of x.
    [[nodiscard]] double period() const;

private:
    static constexpr size_t mostNear = 5, fewNear = 3;
    struct Series
    {
        std::vector<double> cosine, sine;  ///< by harmonic, from 0 on
    };
    [[nodiscard]] Series harmonicsOf(const std::vector<double>& given) const;
    [[nodiscard]] double slopeOf(const Series& series, const std::vector<double>& y,
                                 double x) const;
    /// The polynomial through the nearest points.
    [[nodiscard]] Slope through(const std::vector<double>& y, size_t count, double x) const;
    Kind m_kind;
    Samples m_given;
    Series m_values, m_errors;
    double m_typical = 0;  ///< error of slopes, root of the mean square
};

/// Adds what a sweep line asks of its course to the findings, with tables where results are stored.
/// @param out  folder of the results; empty: nothing is written
void addCourses(const sheet::Model& model, Result& result, const std::string& out);

/// How a sweep line is to be taken; nothing: as single points.
[[nodiscard]] std::optional<Course::Kind> courseOf(const sheet::Line& sweep);

}  // namespace yh::run
