// The base of solutions without a mesh: closed forms, circuits, lines.
#pragma once

#include "physics/common/study.h"

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
    [[nodiscard]] std::vector<double> dualIndicator(const LocalFunctional&) override { return {}; }
    [[nodiscard]] double geometryError() const override { return 0; }
    [[nodiscard]] std::vector<SingularCorner> singularCorners() const override { return {}; }

private:
    mesh::Mesh m_none;
    std::vector<Quantity> m_nothing;
};

/// There is nothing to climb.
class MeshlessRung : public Rung
{
public:
    [[nodiscard]] const mesh::Mesh& mesh() const override { return m_none; }
    [[nodiscard]] bool isTop() const override { return true; }
    void climb(Solution&, const Goals&) override {}

private:
    mesh::Mesh m_none;
};

/// The base of their studies.
class MeshlessStudy : public Study
{
public:
    [[nodiscard]] std::unique_ptr<Rung> first(const Ground&) const override
    {
        return std::make_unique<MeshlessRung>();
    }
    [[nodiscard]] const std::vector<int>& activePieces() const override { return m_noPieces; }

private:
    std::vector<int> m_noPieces;
};

}  // namespace yh::physics
