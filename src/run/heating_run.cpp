#include "run/heating_run.h"

#include "physics/microwave_heating.h"
#include "run/transport_run.h"
#include "run/wave_driven_run.h"
#include "sheet/schema.h"

#include <algorithm>
#include <set>

namespace yh::run {

using physics::Field;
using physics::HeatingField;
using physics::TransportProblem;
using physics::WaveProblem;
using sheet::Line;

namespace {

HeatingField& solverOf(Field& field)
{
    return static_cast<HeatingField&>(field);
}

/// Asks about temperature and heat; all others but the power are about the wave.
bool isHeatAsk(const Line& l)
{
    static const std::set<std::string> kinds{
        "highest temperature", "lowest temperature", "mean temperature", "temperature at",
        "heat flow",           "time to reach",      "profile"};
    return kinds.count(l.kind) > 0;
}
bool isAsk(const Line& l)
{
    const sheet::Kind* k = sheet::findKind(l.kind);
    return k && k->section == "ask";
}

/// An ask of one of the two fields as one of both.
template <class Part>
Ask ofPart(Ask a, Part part)
{
    auto wrap = [part](auto& f) {
        if (f)
            f = [inner = f, part](Field& field, auto&&... more) {
                return inner(part(solverOf(field)), std::forward<decltype(more)>(more)...);
            };
    };
    wrap(a.evaluate);
    wrap(a.local);
    wrap(a.where);
    wrap(a.scale);
    wrap(a.secondRoute);
    wrap(a.history);
    wrap(a.curves);
    wrap(a.files);
    return a;
}

class HeatingRun : public Problem
{
public:
    HeatingRun(std::unique_ptr<WaveProblem> wave, std::unique_ptr<TransportProblem> heat,
               double power)
        : m_wave(*wave),
          m_heat(*heat),
          m_driven(drivenRun(std::move(wave))),
          m_transport(transportRun(std::move(heat))),
          m_power(power)
    {
    }
    std::string name() const override { return "microwave-heating"; }
    const std::vector<int>& activePieces() const override { return m_wave.activePieces; }
    std::vector<mesh::SizeRule> cellSizes() const override { return m_driven->cellSizes(); }
    void shortenSteps() override { m_transport->shortenSteps(); }
    std::unique_ptr<Field> field(const mesh::Mesh& mesh, const shape::Partition& partition,
                                 int order, base::Progress& progress) const override
    {
        return std::make_unique<HeatingField>(m_wave, m_heat, m_power, mesh, partition, order,
                                              progress);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        const auto waves = m_driven->asks(model.without([](const Line& l) {
            return isAsk(l) && (isHeatAsk(l) || l.kind == "heating power");
        }),
                                          partition, faults);
        const auto heats = m_transport->asks(
            model.without([](const Line& l) { return isAsk(l) && !isHeatAsk(l); }), partition,
            faults);
        // In the order of the sheet.
        std::vector<Ask> list;
        for (const Line& l : model.document().lines) {
            for (const Ask& a : waves)
                if (a.finding.line == l.id)
                    list.push_back(ofPart(a, [](HeatingField& f) -> Field& { return f.wave(); }));
            for (const Ask& a : heats)
                if (a.finding.line == l.id)
                    list.push_back(ofPart(a, [](HeatingField& f) -> Field& { return f.heat(); }));
            if (l.kind == "heating power")
                list.push_back(power(model, partition, l));
        }
        return list;
    }
    std::vector<Check> checks(const sheet::Model& model, const shape::Partition& partition,
                              Field& field, const std::vector<Ask>& asks) const override
    {
        HeatingField& f = solverOf(field);
        auto list = m_driven->checks(model, partition, f.wave(), asks);
        std::erase_if(list, [](const Check& c) { return c.id == "scale of waves"; });
        for (Check& c : m_transport->checks(model, partition, f.heat(), asks))
            list.push_back(std::move(c));
        const double taken = f.absorbed(f.order(), m_heat.activePieces),
                     set = f.heat().givenHeat(f.order()), off = std::abs(set / taken - 1);
        char text[120];
        std::snprintf(text, sizeof text, "the heat set free equals what the wave loses to %.0e",
                      off);
        constexpr double closes = 1e-3;
        bool others = false;
        for (const auto& piece : m_heat.pieces)
            others = others || !piece.sources.empty();
        if (!others && taken > 0)
            list.push_back({"heat of the wave",
                            off < closes ? Check::State::good : Check::State::warning,
                            text,
                            -1,
                            {}});
        return list;
    }
    std::vector<physics::SingularCorner> corners(const mesh::Mesh& mesh,
                                                 const shape::Partition& partition) const override
    {
        return m_transport->corners(mesh, partition);
    }
    std::vector<char> lineSeeds(const shape::Partition& partition) const override
    {
        return m_transport->lineSeeds(partition);
    }
    std::string lineQuantity() const override { return m_transport->lineQuantity(); }
    fem::Measure measure() const override { return m_wave.measure; }

private:
    static Ask power(const sheet::Model& model, const shape::Partition& partition, const Line& l)
    {
        Ask a = beginAsk(model, l, base::dim::power, "heating power in " + l.get("in"));
        const auto pieces = partition.resolve(model.place(l, "in"), model, {l.id, "in", 0}).pieces;
        a.evaluate = [pieces](Field& field, int order) {
            return std::vector{solverOf(field).absorbed(order, pieces)};
        };
        return a;
    }

    const WaveProblem& m_wave;
    const TransportProblem& m_heat;
    std::unique_ptr<Problem> m_driven, m_transport;
    double m_power;
};

}  // namespace

std::unique_ptr<Problem> defineHeatingRun(const sheet::Model& model,
                                          const shape::Partition& partition,
                                          std::unique_ptr<WaveProblem> wave, base::Faults& faults)
{
    auto heat = physics::defineTransport(model, partition, faults);
    // Metal carries no wave and is not meshed.
    for (size_t f = 0; f < heat->warms.size(); ++f)
        if (std::find(wave->activePieces.begin(), wave->activePieces.end(), int(f)) ==
            wave->activePieces.end())
            heat->warms[f] = 0;
    std::erase_if(heat->activePieces, [&](int f) { return !heat->warms[size_t(f)]; });
    const Line* band = model.document().first("band");
    const auto power = model.optionalNumber(*band, "power");
    if (!power)
        faults.push_back({6225,
                          {band->id, "power", -1},
                          "how much power comes in? without it nothing is heated",
                          true});
    return std::make_unique<HeatingRun>(std::move(wave), std::move(heat), power.value_or(1));
}

}  // namespace yh::run
