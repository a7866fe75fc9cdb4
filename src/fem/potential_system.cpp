#include "fem/potential_system.h"

#include <algorithm>

namespace yh::fem {

void PotentialSystem::factorise(const SparseSymmetric& K, const std::vector<char>& coarse,
                                const base::Progress& progress)
{
    // In space a factor grows with n^(4/3): beyond this size iteration is faster and smaller.
    constexpr int largestDirect = 30000;
    m_iterative = m_dimension == 3 && m_order > 1 && K.size > largestDirect;
    if (!m_iterative) {
        m_direct.analyse(K);
        progress.check();
        m_direct.factorise(K);
        return;
    }
    m_rows = fullRows(K);
    std::vector<int> level(coarse.size());
    std::transform(coarse.begin(), coarse.end(), level.begin(), [](char c) { return c ? 0 : -1; });
    m_levels.setUp(m_rows, level, 1);
}

void PotentialSystem::solve(std::vector<double>& columns, int count, const base::Progress& progress,
                            double tolerance)
{
    if (!m_iterative) {
        m_direct.solve(columns, count);
        return;
    }
    const auto n = size_t(m_rows.size);
    const int width = columnsAtATime(count);
    for (int k = 0; k < count; k += width) {
        double* const some = columns.data() + size_t(k) * n;
        const int here = std::min(width, count - k);
        if (here == 1) {
            std::vector<double> x(some, some + n);
            m_levels.conjugateGradients(x, tolerance, progress);
            std::copy(x.begin(), x.end(), some);
            continue;
        }
        std::vector<Wide> x = sideBySide(some, here, n);
        m_levels.conjugateGradients(x, tolerance, progress);
        oneAfterTheOther(x, here, some);
    }
}

void PotentialSystem::precondition(std::vector<double>& x) const
{
    if (!m_iterative) {
        m_direct.solve(x, 1);
        return;
    }
    std::vector<double> z(x.size());
    m_levels.precondition(x, z);
    x.swap(z);
}

void PotentialSystem::precondition(std::vector<Wide>& x) const
{
    if (!m_iterative) {
        std::vector<double> columns(wide * x.size());
        oneAfterTheOther(x, wide, columns.data());
        m_direct.solve(columns, wide);
        x = sideBySide(columns.data(), wide, x.size());
        return;
    }
    std::vector<Wide> z(x.size());
    m_levels.precondition(x, z);
    x.swap(z);
}

double PotentialSystem::factorEntries() const
{
    return m_iterative ? double(m_rows.column.size()) : m_direct.factorEntries();
}

}  // namespace yh::fem
