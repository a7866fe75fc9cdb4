// A cube cut into tetrahedra, without the mesher: each small cube falls into six along its
// diagonal (Kuhn). For tests of the core.
#pragma once

#include "mesh/mesh.h"

#include <algorithm>
#include <array>

namespace yh::test {

/// Unit cube of n^3 small ones. The border carries side tag 0.
inline mesh::Mesh cubeMesh(const shape::Partition& any, int n)
{
    mesh::Mesh m;
    m.dimension = 3;
    auto index = [n](int i, int j, int k) { return (k * (n + 1) + j) * (n + 1) + i; };
    for (int k = 0; k <= n; ++k)
        for (int j = 0; j <= n; ++j)
            for (int i = 0; i <= n; ++i)
                m.vertices.push_back({double(i) / n, double(j) / n, double(k) / n});
    constexpr std::array<std::array<int, 3>, 6> walks = {
        {{0, 1, 2}, {0, 2, 1}, {1, 0, 2}, {1, 2, 0}, {2, 0, 1}, {2, 1, 0}}};
    for (int k = 0; k < n; ++k)
        for (int j = 0; j < n; ++j)
            for (int i = 0; i < n; ++i)
                for (const auto& walk : walks) {
                    std::array<int, 3> at{i, j, k};
                    std::array<int, 4> c{index(i, j, k), 0, 0, 0};
                    for (size_t s = 0; s < 3; ++s) {
                        ++at[size_t(walk[s])];
                        c[s + 1] = index(at[0], at[1], at[2]);
                    }
                    const auto &p = m.vertices, &q = m.vertices;
                    const auto a = p[size_t(c[1])] - q[size_t(c[0])],
                               b = p[size_t(c[2])] - q[size_t(c[0])],
                               d = p[size_t(c[3])] - q[size_t(c[0])];
                    if (dot(a, cross(b, d)) < 0)
                        std::swap(c[2], c[3]);
                    m.cells.push_back(c);
                    m.piece.push_back(0);
                }
    m.connect(any, {}, {});
    return m;
}

/// Total content of the cells.
inline double contentOf(const mesh::Mesh& m)
{
    double sum = 0;
    for (int t = 0; t < m.cellCount(); ++t) {
        const mesh::Geometry g(m, t);
        sum += g.determinant(g.centre()) / (m.dimension == 2 ? 2 : 6);
    }
    return sum;
}

}  // namespace yh::test
