// Inside `mesh` only: what meshes of drawings and of solids share in their use of the gmsh library.
#pragma once

#include "mesh/mesh.h"

#include <map>
#include <unordered_map>

namespace yh::mesh {

/// Keeps the library's state to one call.
struct Session
{
    Session();
    ~Session();
    Session(const Session&) = delete;
    Session& operator=(const Session&) = delete;

private:
    int m_threads;
};

/// Edges of the mesh on one curve of the library.
/// @param index  number of a vertex by the library's node tag
void collectCurve(int tag, int curve, double period,
                  const std::unordered_map<std::size_t, int>& index,
                  std::vector<Mesh::CurveEdge>& onCurves);

/// Tells the library which of its sides are periodic.
/// @param tagOf  of the library, by side of the partition
void setPeriodic(const shape::Partition& partition, const Options& options,
                 const std::map<int, int>& tagOf);

/// Splits cells that a curved side turns inside out, until none is left.
[[nodiscard]] Mesh untangle(Mesh mesh, const shape::Partition& partition, base::Progress& progress);

/// Called in a handler: turns what the library threw into an Error.
[[noreturn]] void mesherFailed();

[[nodiscard]] Mesh generateSolid(const shape::Partition& partition, const Options& options,
                                 base::Progress& progress);

}  // namespace yh::mesh
