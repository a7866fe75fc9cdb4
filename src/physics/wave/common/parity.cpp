#include "physics/wave/common/parity.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

namespace {

enum class Kind { none, even, odd };

class Mirror
{
public:
    Mirror(const physics::WaveProblem& problem, const physics::Solution& field)
        : m_problem(problem), m_field(field), m_locator(field.mesh())
    {
        int width = 0;
        for (const auto& q : field.quantities()) {
            m_offset.push_back(width);
            width += q.components;
        }
        m_here.resize(size_t(width));
        m_there.resize(size_t(width));
    }

    /// Kinds of some fields about a plane; empty where the device is not its own image.
    std::vector<Kind> kinds(int axis, const std::vector<std::string>& fields)
    {
        const mesh::Mesh& m = m_field.mesh();
        constexpr int wanted = 500;
        const int stride = std::max(1, m.cellCount() / wanted);
        int seen = 0, missed = 0;
        std::vector<double> like(fields.size(), 0.0), whole(like);
        for (int t = 0; t < m.cellCount(); t += stride) {
            if (m_problem.shell.present && m.piece[size_t(t)] == m_problem.shell.piece)
                continue;
            const mesh::Geometry g(m, t);
            Point p = g.at(g.centre());
            (axis == 0 ? p.x : axis == 1 ? p.y : p.z) *= -1;
            const auto hit = m_locator.find(p);
            ++seen;
            if (hit.cell < 0 || !isSame(t, hit.cell)) {
                ++missed;
                continue;
            }
            m_field.sample(t, g.centre(), m_here.data());
            m_field.sample(hit.cell, hit.xi, m_there.data());
            // Cells near edges differ most between two halves that are not meshed alike.
            const double content = std::abs(g.determinant(g.centre()));
            for (size_t k = 0; k < fields.size(); ++k)
                for (size_t q = 0; q < m_field.quantities().size(); ++q) {
                    const std::string& name = m_field.quantities()[q].name;
                    if (name != fields[k] && name != fields[k] + quarterAhead)
                        continue;
                    for (int c = 0; c < 3; ++c) {
                        const double a = m_here[size_t(m_offset[q] + c)],
                                     b = m_there[size_t(m_offset[q] + c)];
                        like[k] += content * (c == axis ? -1 : 1) * a * b;
                        whole[k] += content * 0.5 * (a * a + b * b);
                    }
                }
        }
        // Places beside curved borders may have no image in the mesh.
        if (seen == 0 || missed > 0.02 * seen)
            return {};
        std::vector<Kind> list;
        for (size_t k = 0; k < fields.size(); ++k) {
            constexpr double close = 0.98;
            const double share = whole[k] > 0 ? like[k] / whole[k] : 0.0;
            list.push_back(share > close ? Kind::even : share < -close ? Kind::odd : Kind::none);
        }
        return list;
    }

private:
    /// Whether the same medium is at both places.
    bool isSame(int a, int b) const
    {
        const auto p = size_t(m_field.mesh().piece[size_t(a)]),
                   q = size_t(m_field.mesh().piece[size_t(b)]);
        return m_problem.eps[p].constant.xx == m_problem.eps[q].constant.xx &&
               m_problem.inverseMu[p].constant.xx == m_problem.inverseMu[q].constant.xx &&
               m_problem.loss[p] == m_problem.loss[q] && m_problem.sigma[p] == m_problem.sigma[q];
    }

    const physics::WaveProblem& m_problem;
    const physics::Solution& m_field;
    mesh::Locator m_locator;
    std::vector<int> m_offset;
    std::vector<double> m_here, m_there;
};

}  // namespace

void proposeWalls(const sheet::Model& model, const physics::WaveProblem& problem,
                  const physics::Solution& field, const std::vector<std::string>& fields,
                  std::vector<Check>& checks)
{
    const bool axi = model.space() == sheet::Space::axisymmetric;
    Mirror mirror(problem, field);
    for (int axis = axi ? 1 : 0; axis < field.mesh().dimension; ++axis) {
        const bool isCut =
            std::any_of(problem.mirrors.begin(), problem.mirrors.end(),
                        [&](const physics::WaveProblem::Mirror& m) { return m.axis == axis; });
        if (isCut || (problem.wedges > 1 && axis < 2))
            continue;
        const std::vector<Kind> kinds = mirror.kinds(axis, fields);
        if (kinds.empty() || std::find(kinds.begin(), kinds.end(), Kind::none) != kinds.end())
            continue;
        const std::string plane = std::string(axi ? "z" : axis == 0 ? "x" : axis == 1 ? "y" : "z");
        const bool alike =
            std::all_of(kinds.begin(), kinds.end(), [&](Kind k) { return k == kinds[0]; });
        std::string text = "mirror plane " + plane + " = 0 found (";
        if (alike) {
            text += kinds[0] == Kind::even ? "even, a magnetic wall" : "odd, an electric wall";
            text += "): half the model would give the same answer";
        } else {
            for (size_t k = 0; k < kinds.size(); ++k)
                text += (k ? ", mode " : "mode ") + std::to_string(k + 1) +
                        (kinds[k] == Kind::even ? " even" : " odd");
            text +=
                "): half the model gives the even ones with a magnetic wall there, the odd ones "
                "with an electric one";
        }
        std::string proposal;
        if (alike)
            proposal = std::string("mirror plane ") + "xyz"[axis] + " = 0 kind " +
                       (kinds[0] == Kind::even ? "even" : "odd");
        checks.push_back({"mirror plane", Check::State::note, text, -1, {}, proposal});
    }
}

}  // namespace yh::physics
