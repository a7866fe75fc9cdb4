#include "physics/wave/common/grid_pictures.h"

#include <algorithm>

namespace yh::physics {

GridPictures::GridPictures(const GridFrame& frame, const Voxels& voxels) : m_from(frame.from)
{
    constexpr int widest = 120, widestPlane = 500;
    const int most = frame.isSolid ? widest : widestPlane;
    for (size_t a = 0; a < 3; ++a) {
        const int n = voxels.cells()[a];
        m_stride[a] = std::max(1, (n + most - 1) / most);
        m_places[a] = n / m_stride[a] + 1;
        m_apart[a] = m_stride[a] * voxels.size()[a];
    }
}

void GridPictures::read(const Picture* picture, const Point& p, double* out) const
{
    std::fill_n(out, 3, 0.0);
    if (!picture)
        return;
    const double x[3] = {p.x - m_from.x, p.y - m_from.y, p.z - m_from.z};
    std::array<int, 3> first{};
    std::array<double, 3> share{};
    for (size_t b = 0; b < 3; ++b) {
        const double u =
            m_places[b] > 1 ? std::clamp(x[b] / m_apart[b], 0.0, double(m_places[b] - 1)) : 0.0;
        first[b] = std::min(int(u), std::max(0, m_places[b] - 2));
        share[b] = u - first[b];
    }
    overCorners(first, share, [&](const std::array<int, 3>& at, double weight) {
        const size_t place =
            3 * ((size_t(at[2]) * size_t(m_places[1]) + size_t(at[1])) * size_t(m_places[0]) +
                 size_t(at[0]));
        for (size_t a = 0; a < 3; ++a)
            out[a] += weight * double(picture->value[place + a]);
    });
}

}  // namespace yh::physics
