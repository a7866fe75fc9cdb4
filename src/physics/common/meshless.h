// The base of solutions without a mesh: closed forms, circuits, lines.
#pragma once

#include "physics/common/solution.h"

#include <vector>

namespace yh::physics {

class MeshlessSolution : public Solution
{
public:
    void solve(int, base::Progress&) override {}
    [[nodiscard]] const mesh::Mesh& mesh() const override { return m_none; }
    [[nodiscard]] Counters counters() const override { return {}; }
    [[nodiscard]] const std::vector<Quantity>& quantities() const override { return m_nothing; }
    void sample(int, const Point&, double*) const override {}
    [[nodiscard]] std::vector<double> indicator(bool) const override { return {}; }
    [[nodiscard]] std::vector<double> dualIndicator(const PointFunctional&) override { return {}; }
    [[nodiscard]] double geometryError() const override { return 0; }
    [[nodiscard]] std::vector<SingularCorner> singularCorners() const override { return {}; }

private:
    mesh::Mesh m_none;
    std::vector<Quantity> m_nothing;
};

}  // namespace yh::physics
