// Fields of a grid for the screen: on a lattice of its nodes that a screen can show.
#pragma once

#include "physics/wave/common/voxels.h"

#include <array>
#include <vector>

namespace yh::physics {

class GridPictures
{
public:
    /// Three components by place of the lattice.
    struct Picture
    {
        std::vector<float> value;
    };
    GridPictures() = default;
    GridPictures(const GridFrame& frame, const Voxels& voxels);

    /// Of each component at a node: the mean of the edges that meet there, outside of metal.
    /// @param valueOf  (axis, place of the edge, edge): V/m times the share that is open
    template <class ValueOf>
    [[nodiscard]] Picture take(const grid::YeeGrid& g, const Voxels& voxels, ValueOf valueOf) const
    {
        Picture picture;
        picture.value.reserve(3 * size_t(m_places[0]) * size_t(m_places[1]) * size_t(m_places[2]));
        const auto n = voxels.cells();
        for (int k = 0; k < m_places[2]; ++k)
            for (int j = 0; j < m_places[1]; ++j)
                for (int i = 0; i < m_places[0]; ++i)
                    for (int a = 0; a < 3; ++a) {
                        const std::array<int, 3> p{i * m_stride[0], j * m_stride[1],
                                                   k * m_stride[2]};
                        const auto A = size_t(a);
                        float sum = 0, count = 0;
                        for (const int back : {0, 1}) {
                            auto q = p;
                            q[A] -= back;
                            if ((n[A] == 0 && back) || q[A] < 0 || (n[A] > 0 && q[A] >= n[A]))
                                continue;
                            const auto e = g.edge(a, q[0], q[1], q[2]);
                            if (!(e.perMoment > 0))
                                continue;
                            sum += valueOf(a, q, e) / voxels.edge(a, q[0], q[1], q[2]).open;
                            count += 1;
                        }
                        picture.value.push_back(count > 0 ? sum / count : 0.0F);
                    }
        return picture;
    }
    /// Three components at a place, m; zero without a picture.
    void read(const Picture* picture, const Point& p, double* out) const;
    /// Places along an axis, and how many nodes of the grid lie from one to the next.
    [[nodiscard]] const std::array<int, 3>& places() const { return m_places; }
    [[nodiscard]] const std::array<int, 3>& stride() const { return m_stride; }

private:
    Point m_from;
    std::array<int, 3> m_places{}, m_stride{};
    std::array<double, 3> m_apart{};
};

/// Visits the eight places about one, with their weights: visit(place, weight).
/// @param first, share  the lowest place, and how far beyond it, by axis
template <class Visit>
void overCorners(const std::array<int, 3>& first, const std::array<double, 3>& share, Visit visit)
{
    for (int corner = 0; corner < 8; ++corner) {
        double weight = 1;
        std::array<int, 3> at = first;
        for (size_t b = 0; b < 3; ++b) {
            const int up = (corner >> b) & 1;
            at[b] += up;
            weight *= up ? share[b] : 1 - share[b];
        }
        if (weight > 0)
            visit(at, weight);
    }
}

}  // namespace yh::physics
