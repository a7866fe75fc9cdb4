// From shapes to the edges and faces of a grid.
#pragma once

#include "physics/wave/common/grid_frame.h"
#include "physics/wave/common/medium_lines.h"

#include <array>
#include <memory>
#include <vector>

namespace yh::physics {

/// What of a grid's edges and faces lies outside of metal, and what is along the edges.
class Voxels
{
public:
    Voxels(const GridFrame& problem, const mesh::Mesh& mesh, std::array<int, 3> cells,
           double lossFrequency);
    [[nodiscard]] const std::array<int, 3>& cells() const { return m_n; }
    [[nodiscard]] const std::array<double, 3>& size() const { return m_d; }
    [[nodiscard]] bool isCut() const { return m_isCut; }
    /// Metal lies between nodes of which none is in it: waves would slip through.
    [[nodiscard]] bool hidesMetal() const;
    [[nodiscard]] grid::YeeEdge edge(int axis, int i, int j, int k) const;
    [[nodiscard]] float face(int axis, int i, int j, int k) const
    {
        return m_face[size_t(axis)][at(i, j, k)];
    }
    /// What joins the directions at a node (grid::YeeGrid::Joints).
    [[nodiscard]] bool hasJoints() const { return !m_joints.empty(); }
    [[nodiscard]] std::array<float, 3> joint(int i, int j, int k) const
    {
        return m_joints[at(i, j, k)];
    }
    [[nodiscard]] size_t at(int i, int j, int k) const
    {
        return (size_t(k) * size_t(m_n[1] + 1) + size_t(j)) * size_t(m_n[0] + 1) + size_t(i);
    }
    [[nodiscard]] size_t count() const { return m_node.size(); }

private:
    struct Simplex
    {
        std::array<Point, 4> corner;
        int piece;
    };
    [[nodiscard]] std::vector<Simplex> simplices(const mesh::Mesh& mesh) const;
    /// Visits all intervals of lines along an axis inside a simplex:
    /// visit(line's numbers, from, to in m from the frame).
    template <class Visit>
    void cast(const Simplex& s, int axis, const std::array<double, 3>& step,
              const std::array<double, 3>& first, const std::array<int, 3>& count,
              Visit visit) const;
    void cover(const std::vector<Simplex>& all);
    void faces();
    void media(const std::vector<Simplex>& all, double lossFrequency);
    [[nodiscard]] std::array<float, 2> span(int axis, std::array<int, 3> p) const;

    const GridFrame& m_problem;
    std::array<int, 3> m_n{};
    std::array<double, 3> m_d{};
    bool m_isCut = false;
    std::vector<float> m_open[3], m_face[3];
    std::vector<char> m_node;
    using Medium = MediumLines::Medium;
    Medium m_only;  ///< where there is one medium only
    std::vector<Medium> m_media[3];
    std::vector<std::array<float, 3>> m_joints;  ///< by node; empty: one medium
};

/// The grid of a device.
/// @throws Error where some metal is thinner than its cells
[[nodiscard]] std::unique_ptr<grid::YeeGrid> yeeGrid(const GridFrame& frame, const Voxels& voxels);

}  // namespace yh::physics
