// The base of solutions on grids in time: their figures come from several grids, of which the
// coarser ones tell the error; the mesh only serves to draw what they found.
#pragma once

#include "physics/common/solution.h"

#include <algorithm>
#include <utility>
#include <vector>

namespace yh::physics {

class GridSolution : public Solution
{
public:
    GridSolution(const mesh::Mesh& mesh, std::vector<Quantity> quantities)
        : m_mesh(mesh), m_quantities(std::move(quantities))
    {
    }
    [[nodiscard]] const mesh::Mesh& mesh() const override { return m_mesh; }
    [[nodiscard]] int order() const override { return 1; }
    /// The coarsest grid, the finest, and what all say of smaller cells.
    [[nodiscard]] std::vector<int> estimates() const override { return {0, 1, 2}; }
    [[nodiscard]] Counters counters() const override { return m_counters; }
    [[nodiscard]] const std::vector<Quantity>& quantities() const override { return m_quantities; }
    [[nodiscard]] std::vector<double> indicator(bool) const override { return {}; }
    [[nodiscard]] std::vector<double> dualIndicator(const LocalFunctional&) override { return {}; }
    [[nodiscard]] double geometryError() const override { return 0; }
    [[nodiscard]] std::vector<SingularCorner> singularCorners() const override { return {}; }
    [[nodiscard]] std::vector<double> showTimes() const override { return m_times; }
    void showAt(double time) override
    {
        const auto next = std::lower_bound(m_times.begin(), m_times.end(), time * (1 - 1e-12));
        m_now = m_times.empty() ? 0 : std::min(size_t(next - m_times.begin()), m_times.size() - 1);
    }

protected:
    const mesh::Mesh& m_mesh;
    std::vector<Quantity> m_quantities;
    Counters m_counters;
    std::vector<double> m_times;  ///< of the pictures, s
    size_t m_now = 0;             ///< the picture that is looked at
};

}  // namespace yh::physics
