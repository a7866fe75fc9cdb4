#include "fem/next_order.h"

#include "fem/conjugate_gradients.h"

#include <algorithm>
#include <numeric>

namespace yh::fem {

HigherPart::HigherPart(const H1Space& space, int order, const ElementMatrices& elements,
                       std::vector<char> isFree, const Numbering& numbering,
                       const PotentialSystem& system)
    : m_space(space),
      m_elements(elements),
      m_isFree(std::move(isFree)),
      m_numbering(numbering),
      m_system(system),
      m_count(space.count(order + 1)),
      m_below(space.count(order)),
      m_local(space.localCount(order + 1))
{
    const int nt = space.mesh().cellCount();
    int number[mostLocal];
    double sign[mostLocal];
    m_diagonal.assign(size_t(m_count), 0.0);
    m_first.assign(size_t(m_count) + 1, 0);
    for (int t = 0; t < nt; ++t) {
        m_space.local(t, number, sign);
        for (int i = 0; i < m_local; ++i) {
            m_diagonal[size_t(number[i])] += m_elements.of(t)[m_elements.at(i, i)];
            ++m_first[size_t(number[i]) + 1];
        }
    }
    std::partial_sum(m_first.begin(), m_first.end(), m_first.begin());
    m_where.resize(size_t(m_first.back()));
    std::vector<int> next(m_first.begin(), m_first.end() - 1);
    for (int t = 0; t < nt; ++t) {
        m_space.local(t, number, sign);
        for (int i = 0; i < m_local; ++i)
            m_where[size_t(next[size_t(number[i])]++)] = t * m_local + i;
    }
}

template <class Value>
void HigherPart::multiply(const std::vector<Value>& x, std::vector<Value>& y) const
{
    std::vector<Value>* kept;
    if constexpr (std::is_same_v<Value, Wide>)
        kept = &m_wideParts;
    else
        kept = &m_parts;
    std::vector<Value>& parts = *kept;
    parts.resize(m_where.size());
    const int nt = m_space.mesh().cellCount();
#pragma omp parallel for schedule(static)
    for (int t = 0; t < nt; ++t) {
        int number[mostLocal];
        double sign[mostLocal];
        Value own[mostLocal];
        m_space.local(t, number, sign);
        for (int i = 0; i < m_local; ++i)
            own[i] = x[size_t(number[i])];
        m_elements.multiply(t, m_local, own, &parts[size_t(t) * size_t(m_local)]);
    }
    // Gathered by function, so that sums are the same for any number of threads.
#pragma omp parallel for schedule(static)
    for (int f = 0; f < m_count; ++f) {
        Value sum{};
        for (int k = m_first[size_t(f)]; k < m_first[size_t(f) + 1]; ++k)
            sum += parts[size_t(m_where[size_t(k)])];
        y[size_t(f)] = sum;
    }
}

template <class Value>
void HigherPart::precondition(const std::vector<Value>& r, std::vector<Value>& z) const
{
    std::vector<Value> below(size_t(m_numbering.size()));
    for (size_t i = 0; i < below.size(); ++i)
        below[i] = r[size_t(m_numbering.function[i])];
    if (!below.empty())
        m_system.precondition(below);
    std::fill(z.begin(), z.end(), Value{});
    for (size_t i = 0; i < below.size(); ++i)
        z[size_t(m_numbering.function[i])] = below[i];
    for (int f = m_below; f < m_count; ++f)
        if (m_isFree[size_t(f)])
            z[size_t(f)] = r[size_t(f)] / m_diagonal[size_t(f)];
}

double HigherPart::product(const std::vector<double>& a, const std::vector<double>& b) const
{
    double sum = 0;
    for (size_t i = 0; i < size_t(m_count); ++i)
        sum += a[i] * b[i];
    return sum;
}

namespace {

// The last step's share of the energy gained: what is left is of that size.
constexpr double enough = 0.01;
constexpr int leastSteps = 3, mostLooks = 40;

}  // namespace

int HigherPart::add(const std::vector<std::vector<double>*>& columns, std::span<const double> load,
                    const base::Progress& progress) const
{
    int steps = 0;
    const auto width = size_t(columnsAtATime(int(columns.size())));
    for (size_t k = 0; k < columns.size(); k += width) {
        const size_t here = std::min(width, columns.size() - k);
        if (here == 1) {
            steps += add(*columns[k], load, progress);
            continue;
        }
        std::vector<Wide> x(size_t(m_count), Wide{});
        for (size_t c = 0; c < here; ++c)
            for (size_t i = 0; i < x.size(); ++i)
                x[i][c] = (*columns[k + c])[i];
        steps += add(x, load, progress);
        for (size_t c = 0; c < here; ++c)
            for (size_t i = 0; i < x.size(); ++i)
                (*columns[k + c])[i] = x[i][c];
    }
    return steps;
}

int HigherPart::add(std::vector<Wide>& x, std::span<const double> load,
                    const base::Progress& progress) const
{
    const auto n = size_t(m_count);
    ColumnsOfGradients gradients;
    std::vector<Wide>& r = gradients.r;
    r.resize(n);
    multiply(x, r);
    for (size_t i = 0; i < n; ++i)
        r[i] = m_isFree[i] ? (load.empty() ? 0.0 : load[i]) - r[i] : Wide{};
    gradients.x = std::move(x);
    Wide gained{};
    gradients.run(
        mostLooks, progress,
        [this](const std::vector<Wide>& p, std::vector<Wide>& q) {
            multiply(p, q);
            for (size_t i = 0; i < q.size(); ++i)
                if (!m_isFree[i])
                    q[i] = Wide{};
        },
        [this](const std::vector<Wide>& residual, std::vector<Wide>& z) {
            precondition(residual, z);
        },
        [&](const Wide&, int c, int step, double gain) {
            gained[c] += gain;
            return step >= leastSteps && gain < enough * gained[c];
        });
    x = std::move(gradients.x);
    return gradients.steps();
}

int HigherPart::add(std::vector<double>& x, std::span<const double> load,
                    const base::Progress& progress) const
{
    const auto n = size_t(m_count);
    std::vector<double> r(n), z(n), p(n), q(n);
    multiply(x, r);
    for (size_t i = 0; i < n; ++i)
        r[i] = m_isFree[i] ? (load.empty() ? 0.0 : load[i]) - r[i] : 0.0;
    precondition(r, z);
    p = z;
    double rz = product(r, z), gained = 0;
    int step = 0;
    while (step < mostLooks && rz > 0) {
        progress.check();
        multiply(p, q);
        for (size_t i = 0; i < n; ++i)
            if (!m_isFree[i])
                q[i] = 0;
        const double pq = product(p, q);
        if (!(pq > 0))
            break;
        const double alpha = rz / pq, gain = alpha * rz;
        for (size_t i = 0; i < n; ++i) {
            x[i] += alpha * p[i];
            r[i] -= alpha * q[i];
        }
        gained += gain;
        ++step;
        if (step >= leastSteps && gain < enough * gained)
            break;
        precondition(r, z);
        const double next = product(r, z), beta = next / rz;
        rz = next;
        for (size_t i = 0; i < n; ++i)
            p[i] = z[i] + beta * p[i];
    }
    return step;
}

}  // namespace yh::fem
