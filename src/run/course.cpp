#include "run/course.h"

#include "base/constants.h"
#include "base/quantity.h"
#include "run/store.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace yh::run {

using base::pi;
using physics::Finding;

Course::Course(Kind kind, Samples samples) : m_kind(kind), m_given(std::move(samples))
{
    if (kind != Kind::open) {
        m_values = harmonicsOf(m_given.y);
        m_errors = harmonicsOf(m_given.error);
    }
    constexpr int steps = 64;
    double squares = 0;
    for (int i = 0; i <= steps; ++i) {
        const double x = m_given.x.front() + (m_given.x.back() - m_given.x.front()) * i / steps,
                     e = slopeOf(m_errors, m_given.error, x);
        squares += e * e / (steps + 1);
    }
    m_typical = std::sqrt(squares);
}

Course::Series Course::harmonicsOf(const std::vector<double>& given) const
{
    std::vector<double> y = given;
    if (m_kind == Kind::period)
        y.pop_back();
    else
        for (size_t i = given.size() - 1; i-- > 1;)
            y.push_back(given[i]);
    const size_t n = y.size(), most = (n - 1) / 2;
    Series series{std::vector<double>(most + 1, 0.0), std::vector<double>(most + 1, 0.0)};
    for (size_t i = 0; i < n; ++i)
        for (size_t k = 0; k <= most; ++k) {
            const double angle = 2 * pi * double(k * i % n) / double(n),
                         share = (k == 0 ? 1.0 : 2.0) / double(n) * y[i];
            series.cosine[k] += share * std::cos(angle);
            series.sine[k] += share * std::sin(angle);
        }
    return series;
}

double Course::period() const
{
    const double length = m_given.x.back() - m_given.x.front();
    return m_kind == Kind::halfPeriod ? 2 * length : length;
}

double Course::slopeOf(const Series& series, const std::vector<double>& y, double x) const
{
    if (m_kind == Kind::open)
        return through(y, mostNear, x).slope;
    const double turn = 2 * pi / period(), angle = turn * (x - m_given.x.front());
    double slope = 0;
    for (size_t k = 1; k < series.cosine.size(); ++k)
        slope += turn * double(k) *
                 (series.sine[k] * std::cos(double(k) * angle) -
                  series.cosine[k] * std::sin(double(k) * angle));
    return slope;
}

Course::Slope Course::at(double x) const
{
    Slope s;
    // What is not resolved: the last harmonic, or what fewer points would say.
    double unseen = 0;
    if (m_kind == Kind::open) {
        s = through(m_given.y, mostNear, x);
        unseen = s.slope - through(m_given.y, fewNear, x).slope;
    } else {
        const double turn = 2 * pi / period(), angle = turn * (x - m_given.x.front());
        const size_t last = m_values.cosine.size() - 1;
        for (size_t k = 0; k <= last; ++k)
            s.value += m_values.cosine[k] * std::cos(double(k) * angle) +
                       m_values.sine[k] * std::sin(double(k) * angle);
        s.slope = slopeOf(m_values, m_given.y, x);
        if (last > 1)
            unseen = turn * double(last) * std::hypot(m_values.cosine[last], m_values.sine[last]);
    }
    s.error =
        std::hypot(unseen, std::max(std::abs(slopeOf(m_errors, m_given.error, x)), m_typical));
    return s;
}

Course::Slope Course::through(const std::vector<double>& y, size_t count, double x) const
{
    const auto& X = m_given.x;
    const bool rises = X.back() > X.front();
    size_t near = 0;
    while (near + 1 < X.size() && (rises ? X[near + 1] <= x : X[near + 1] >= x))
        ++near;
    const size_t n = std::min(count, X.size()),
                 first = std::min(near - std::min(near, (n - 1) / 2), X.size() - n);
    Slope s;
    for (size_t i = first; i < first + n; ++i) {
        double value = 1, slope = 0;
        for (size_t j = first; j < first + n; ++j) {
            if (j == i)
                continue;
            const double by = 1 / (X[i] - X[j]);
            slope = slope * (x - X[j]) * by + value * by;
            value *= (x - X[j]) * by;
        }
        s.value += value * y[i];
        s.slope += slope * y[i];
    }
    return s;
}

std::vector<Course::Harmonic> Course::harmonics() const
{
    std::vector<Harmonic> list;
    double squares = 0;
    const size_t n = m_values.cosine.size();
    for (size_t k = 1; k < n; ++k)
        squares += std::pow(std::hypot(m_errors.cosine[k], m_errors.sine[k]), 2) / double(n - 1);
    for (size_t k = 1; k < n; ++k)
        list.push_back(
            {int(k), std::hypot(m_values.cosine[k], m_values.sine[k]),
             std::max(std::hypot(m_errors.cosine[k], m_errors.sine[k]), std::sqrt(squares))});
    return list;
}

std::optional<Course::Kind> courseOf(const sheet::Line& sweep)
{
    const std::string course = sweep.get("course");
    if (course == "with slopes")
        return Course::Kind::open;
    if (course == "as one period")
        return Course::Kind::period;
    if (course == "as half a period")
        return Course::Kind::halfPeriod;
    return std::nullopt;
}

namespace {

/// The courses of all single numbers along one sweep.
class Courses
{
public:
    Courses(const sheet::Model& model, const sheet::Line& line, Course::Kind kind, Result& result,
            std::string out)
        : m_line(line), m_kind(kind), m_result(result), m_out(std::move(out))
    {
        m_along = model.parameters().values.at(line.get("parameter")).dimension;
        if (const auto time = model.optionalNumber(line, "time")) {
            m_time = *time;
            m_by = base::dim::time;
        } else {
            m_by = m_along;
        }
    }

    void run()
    {
        const size_t count = m_result.report.findings.size();
        for (size_t i = 0; i < count; ++i) {
            const Finding f = m_result.report.findings[i];
            if (f.value.size() != 1 || !f.conductors.empty())
                continue;
            Samples s;
            for (const SweepPoint& p : m_result.points) {
                if (i >= p.report.findings.size())
                    continue;
                const Finding& own = p.report.findings[i];
                if (own.value.size() != 1 || !std::isfinite(own.value[0]))
                    continue;
                s.x.push_back(p.parameters[0]);
                s.y.push_back(own.value[0]);
                s.error.push_back(own.error.empty() || !std::isfinite(own.error[0]) ? 0.0
                                                                                    : own.error[0]);
            }
            // A gap in a period leaves no harmonics.
            if (s.x.size() == m_result.points.size())
                one(f, std::move(s));
        }
    }

private:
    /// The error of a figure, with the sign in which its last pass has moved it.
    static double signedError(const Finding& f, const std::vector<Pass>& passes, size_t i)
    {
        if (f.error.empty() || !std::isfinite(f.error[0]))
            return 0;
        const size_t n = passes.size();
        if (n < 2 || i >= passes[n - 1].value.size() || i >= passes[n - 2].value.size())
            return f.error[0];
        return std::copysign(f.error[0], passes[n - 1].value[i] - passes[n - 2].value[i]);
    }

    /** Tells of the harmonics after the first in the note of `first`; returns all of them as a
     * table. */
    static std::string describe(const std::vector<Course::Harmonic>& list, bool ofRate,
                                double share, Finding& first)
    {
        std::string csv = "harmonic,amplitude (" + first.unit + ")\n";
        for (const auto& h : list) {
            const double size = share * (ofRate ? h.number : 1) * h.amplitude;
            csv += std::to_string(h.number) + "," + number(size) + "\n";
            constexpr int told = 3;
            constexpr double felt = 0.005;
            if (h.number > 1 && h.number <= told && size > felt * first.value[0]) {
                char text[64];
                std::snprintf(text, sizeof text, "%s%s %.2g %%", first.note.empty() ? "" : ", ",
                              h.number == 2 ? "second" : "third", 100 * size / first.value[0]);
                first.note += text;
            }
        }
        if (!first.note.empty())
            first.note += " of it";
        return csv;
    }

    void one(const Finding& f, Samples samples)
    {
        const double length = samples.x.back() - samples.x.front();
        const Course course(m_kind, std::move(samples));
        const base::Dimension own = base::dimensionOf(f.unit);
        const std::string unit = base::siUnit(own / m_by);
        // Slopes by time, where the time that the sweep takes is known.
        const double by = m_time > 0 ? length / m_time : 1.0;
        rates(f, course, unit, by, length);
        if (m_kind == Course::Kind::open)
            return;
        const auto list = course.harmonics();
        if (list.empty())
            return;
        const double turn = 2 * pi / std::abs(course.period()) * std::abs(by);
        const bool ofRate = m_time > 0;
        Finding first;
        first.name = first.label =
            std::string("first harmonic of ") + (ofRate ? "the rate of change of " : "") + f.label;
        first.line = m_line.id;
        first.unit = ofRate ? unit : f.unit;
        const double share = ofRate ? turn : 1.0;
        first.value = {share * list[0].amplitude};
        first.error = {share * list[0].error};
        first.met = true;
        store(first, describe(list, ofRate, share, first));
    }

    void rates(const Finding& f, const Course& course, const std::string& unit, double by,
               double length)
    {
        Finding rate;
        rate.name = rate.label = "largest rate of change of " + f.label;
        rate.line = m_line.id;
        rate.unit = unit;
        rate.met = true;
        std::string csv = m_line.get("parameter") + head(base::siUnit(m_along)) + "," + f.label +
                          head(f.unit) + ",rate of change" + head(unit) + "\n";
        const double from = m_result.points.front().parameters[0];
        constexpr int steps = 240;
        double largest = -1, error = 0;
        for (int i = 0; i <= steps; ++i) {
            const double x = from + length * i / steps;
            const Course::Slope s = course.at(x);
            if (std::abs(s.slope) > largest) {
                largest = std::abs(s.slope);
                error = s.error;
            }
            csv += number(x) + "," + number(s.value) + "," + number(by * s.slope) + "\n";
        }
        rate.value = {std::abs(by) * largest};
        rate.error = {std::abs(by) * error};
        if (unit == base::siUnit(base::dim::voltage) && m_time > 0)
            rate.note = "the voltage that it induces";
        store(rate, csv);
    }

    static std::string number(double x)
    {
        char text[32];
        std::snprintf(text, sizeof text, "%.9g", x);
        return text;
    }
    static std::string head(const std::string& unit)
    {
        return unit.empty() ? "" : " (" + unit + ")";
    }
    void store(Finding& f, const std::string& csv)
    {
        f.table = "tables/course-" + std::to_string(++m_tables) + ".csv";
        if (!m_out.empty())
            writeText(m_out + "/" + f.table, csv);
        m_result.report.findings.push_back(f);
    }

    const sheet::Line& m_line;
    Course::Kind m_kind;
    Result& m_result;
    std::string m_out;
    base::Dimension m_along, m_by;
    double m_time = 0;
    int m_tables = 0;
};

}  // namespace

void addCourses(const sheet::Model& model, Result& result, const std::string& out)
{
    const auto sweeps = model.document().ofKind("sweep");
    if (sweeps.size() != 1 || result.points.size() < 3)
        return;
    if (const auto kind = courseOf(*sweeps[0]))
        Courses(model, *sweeps[0], *kind, result, out).run();
}

}  // namespace yh::run
