// Rungs with a mesh: the first one follows the sheet's rules, each further one is finer where the
// field errs most; mirrored about a plane and alike on periodic sides where that is asked for.
#pragma once

#include "physics/common/study.h"
#include "sheet/model.h"

#include <vector>

namespace yh::physics {

class MeshRung : public Rung
{
public:
    /// Takes a known mesh of the same shape where it suits, else makes the first one.
    /// @param study  outlives it, as do model and partition
    /// @throws Error of the mesher, or where periodic sides cannot be meshed alike
    MeshRung(const Study& study, const Ground& ground);
    [[nodiscard]] const mesh::Mesh& mesh() const override { return m_mesh; }
    [[nodiscard]] bool wasKnown() const override { return m_known; }
    [[nodiscard]] bool isTop() const override { return false; }
    void climb(Solution& field, const Goals& goals) override;

private:
    /// Takes a known mesh. @returns whether it suits
    [[nodiscard]] bool take(const mesh::Mesh& known);
    /// Finds what is the same on periodic sides of a mesh.
    void pairUp(mesh::Mesh& m) const;
    [[nodiscard]] mesh::Options options() const;
    [[nodiscard]] mesh::Mesh first(base::Progress& progress) const;
    /// Refines marked cells, on both sides where the mesh is mirrored.
    /// @param marked  by cell
    void refine(const std::vector<char>& marked);
    /// By cell: its share of what keeps the goals from being reached.
    [[nodiscard]] std::vector<double> indicator(Solution& field, const Goals& goals) const;

    const Study& m_study;
    const sheet::Model& m_model;
    const shape::Partition& m_partition;
    bool m_known = false;
    int m_mirror = -1;  ///< axis of the plane that the mesh is mirrored about
    mesh::Mesh m_mesh;
    mesh::Mesh m_half;  ///< its positive side, where it is mirrored
};

/// The mesh of a field that is solved otherwise, on grids of its own: it shows what was found.
class DrawnRung : public MeshRung
{
public:
    using MeshRung::MeshRung;
    [[nodiscard]] bool isTop() const override { return true; }
    void climb(Solution&, const Goals&) override {}
};

}  // namespace yh::physics
