#include "physics/common/body_force.h"

#include <set>

namespace yh::physics {

bool isInOneMedium(const shape::Partition& partition, const std::vector<int>& pieces,
                   const std::vector<std::string>& material, std::string& trouble)
{
    const auto body = flags(pieces, partition.pieces().size());
    std::set<std::string> around;
    for (const int f : pieces)
        for (const int e : partition.pieces()[size_t(f)].sides)
            for (const int other : partition.sides()[size_t(e)].pieces)
                if (!body[size_t(other)])
                    around.insert(material[size_t(other)]);
    if (around.size() > 1) {
        trouble = "the body touches";
        for (const std::string& m : around)
            trouble += (m == *around.begin() ? " " : ", ") + (m.empty() ? "a conductor" : m);
        trouble += ": how its force divides over these is not defined by the field alone";
    }
    return around.size() <= 1;
}

WholeBody::WholeBody(const shape::Partition& partition, const std::vector<int>& pieces,
                     const std::array<bool, 3>& mirror, int wedges)
{
    for (const int f : pieces)
        for (const int e : partition.pieces()[size_t(f)].sides) {
            const int cut = partition.sides()[size_t(e)].cut;
            if (cut == shape::Side::wedge)
                m_wedge = true;
            else if (cut >= 0 && mirror[size_t(cut)])
                m_cut[size_t(cut)] = true;
        }
    for (size_t k = 0; k < 3; ++k)
        if (mirror[k] && !m_cut[k])
            m_share *= 0.5;
    if (!m_wedge)
        m_share /= wedges;
}

BodyForce WholeBody::of(BodyForce f) const
{
    Point &F = f.force, &T = f.torque;
    F = m_share * F;
    T = m_share * T;
    if (m_cut[0])
        F.x = T.y = T.z = 0;
    if (m_cut[1])
        F.y = T.x = T.z = 0;
    if (m_cut[2])
        F.z = T.x = T.y = 0;
    if (m_wedge) {
        F.x = F.y = 0;
        T = {};
    }
    return f;
}

std::vector<ForcePart> forceParts(bool torque, bool solid, bool axisymmetric)
{
    std::vector<ForcePart> parts;
    if (torque && solid)
        parts = {{"torque about x on ", &Point::x}, {"torque about y on ", &Point::y}};
    if (torque)
        parts.push_back({solid ? "torque about z on " : "torque on ", &Point::z});
    else if (axisymmetric)
        parts = {{"force along z on ", &Point::y}};
    else
        parts = {{"force along x on ", &Point::x}, {"force along y on ", &Point::y}};
    if (!torque && solid)
        parts.push_back({"force along z on ", &Point::z});
    for (ForcePart& part : parts)
        part.isTorque = torque;
    return parts;
}

}  // namespace yh::physics
