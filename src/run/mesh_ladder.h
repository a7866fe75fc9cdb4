// The meshes that passes climb: the first one from the sheet's rules, then finer ones where cells
// are marked; mirrored about a plane and alike on periodic sides where that is asked for.
#pragma once

#include "physics/common/study.h"
#include "sheet/model.h"

#include <memory>
#include <string>
#include <vector>

namespace yh::run {

/// Everything that geometry and mesh depend on, as one text.
[[nodiscard]] std::string shapeKey(const sheet::Model& model);

/// Cells with one of these corners; by cell.
[[nodiscard]] std::vector<char> touching(const mesh::Mesh& m, const std::vector<char>& vertices);

class MeshLadder
{
public:
    /// All must outlive it.
    MeshLadder(const sheet::Model& model, const shape::Partition& partition,
               const physics::Study& study, base::Progress& progress);

    /// The first mesh. @throws Error of the mesher, or where periodic sides cannot be meshed alike
    void begin();
    /// Takes a known mesh in its place. @returns whether it suits
    [[nodiscard]] bool take(const mesh::Mesh& known);
    /// Refines marked cells, on both sides where the mesh is mirrored.
    /// @param marked  by cell
    void refine(const std::vector<char>& marked);
    [[nodiscard]] const mesh::Mesh& mesh() const { return m_mesh; }

private:
    /// Finds what is the same on periodic sides of a mesh.
    void pairUp(mesh::Mesh& m) const;
    [[nodiscard]] mesh::Options options() const;
    [[nodiscard]] mesh::Mesh first() const;

    const sheet::Model& m_model;
    const shape::Partition& m_partition;
    const physics::Study& m_study;
    base::Progress& m_progress;
    int m_mirror = -1;  ///< axis of the plane that the mesh is mirrored about
    mesh::Mesh m_mesh;
    mesh::Mesh m_half;  ///< its positive side, where it is mirrored
};

}  // namespace yh::run
