// Values on the edges of a mesh of solids whose sums round faces are given: line integrals of a
// field from the flux of its curl. They are found up to gradients, which a tree of edges fixes.
// Source: Albanese and Rubinacci, IEE Proc. A 135 (1988) 457 (tree and cotree, from memory).
#pragma once

#include "mesh/mesh.h"

#include <span>
#include <vector>

namespace yh::fem {

struct Circulation
{
    /// One a given set of fluxes; shape (edges) each, from the lower to the higher corner.
    std::vector<std::vector<double>> value;
    /// Fields without any curl that are no gradients: one for each way round a hole; shape (edges).
    std::vector<std::vector<double>> loops;
};

/// @param faces  of the mesh, those that count; all their edges get values, others zero
/// @param fixed  by edge: its value is zero; empty: none is
/// @param flux   through each face of `faces`, by the right-hand rule of its corners as they rise;
///               shape (faces) each. It must add up to nothing round every cell.
[[nodiscard]] Circulation circulation(const mesh::Mesh& mesh, std::span<const int> faces,
                                      std::span<const char> fixed,
                                      std::span<const std::vector<double>> flux);

}  // namespace yh::fem
