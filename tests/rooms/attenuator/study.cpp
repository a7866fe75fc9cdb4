// An exercise without a mesh: the resistance of an endless ladder, section by section.
//
//   R_n+1 = series + shunt R_n / (shunt + R_n),   R_0 open
//
// Source: Feynman, Lectures on Physics, volume II, section 22-6 (from memory).
#include "physics/common/meshless.h"

#include <cmath>

namespace yh::physics {

namespace {

class Ladder : public MeshlessSolution
{
public:
    Ladder(double series, double shunt) : m_series(series), m_shunt(shunt) {}
    [[nodiscard]] int order() const override { return 40; }
    [[nodiscard]] std::vector<int> estimates() const override { return {10, 20, 40}; }

    /// Ohm, of some sections.
    [[nodiscard]] double resistance(int sections) const
    {
        double conductance = 0;
        for (int k = 0; k < sections; ++k)
            conductance = 1 / (m_series + 1 / (1 / m_shunt + conductance));
        return 1 / conductance;
    }

private:
    double m_series, m_shunt;
};

class LadderStudy : public MeshlessStudy
{
public:
    explicit LadderStudy(const sheet::Model& model)
    {
        const sheet::Line& l = *model.document().first("ladder");
        m_series = model.number(l, "series");
        m_shunt = model.number(l, "shunt");
    }
    [[nodiscard]] std::string name() const override { return "attenuator"; }
    [[nodiscard]] std::unique_ptr<Solution> on(const mesh::Mesh&, const shape::Partition&, int,
                                               base::Progress&) const override
    {
        return std::make_unique<Ladder>(m_series, m_shunt);
    }
    [[nodiscard]] std::vector<Ask> asks(const sheet::Model& model, const shape::Partition&,
                                        base::Faults&) const override
    {
        std::vector<Ask> list;
        for (const sheet::Line* l : model.document().ofKind("ladder resistance")) {
            list.push_back(beginAsk(model, *l, base::dim::resistance, "resistance of the ladder"));
            list.back().evaluate = [](Solution& s, int sections) {
                return Evaluated({as<Ladder>(s).resistance(sections)}, sections);
            };
            // A later evaluation, at another order.
            list.back().scale = [value = list.back().evaluate](Solution& s, int) {
                return value(s, 1)[0];
            };
            list.back().reduce = [](Finding& f, const std::any& with) {
                f.note = "of " + std::to_string(std::any_cast<int>(with)) + " sections";
            };
        }
        return list;
    }
    [[nodiscard]] std::vector<Check> checks(const sheet::Model&, const shape::Partition&, Solution&,
                                            const std::vector<Ask>&) const override
    {
        return {};
    }
    [[nodiscard]] std::string lineQuantity() const override { return {}; }

private:
    double m_series = 0, m_shunt = 0;
};

}  // namespace

std::unique_ptr<Study> attenuatorStudy(const sheet::Model& model, const shape::Partition&,
                                       base::Faults&)
{
    return std::make_unique<LadderStudy>(model);
}

}  // namespace yh::physics
