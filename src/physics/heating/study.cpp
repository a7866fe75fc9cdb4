#include "physics/common/study.h"
#include "physics/heating/face.h"
#include "physics/heating/heated.h"
#include "physics/transport/study.h"
#include "sheet/schema.h"
#include "sheet/topic.h"

#include <algorithm>
#include <set>

namespace yh::physics {

using sheet::Line;

namespace {

HeatingField& solverOf(Solution& field)
{
    return as<HeatingField>(field);
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
            f = [inner = f, part](Solution& field, auto&&... more) {
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

/// A field with losses and the heat they make.
class HeatingStudy : public Study
{
public:
    /// @param lossy  the field, with its asks and checks
    HeatingStudy(std::unique_ptr<Study> lossy, HeatGiver giver,
                 std::unique_ptr<TransportProblem> heat)
        : m_lossy(std::move(lossy)),
          m_giver(std::move(giver)),
          m_heat(*heat),
          m_transport(transportStudyOf(std::move(heat)))
    {
        // Metal carries no wave, but heat.
        std::vector<int> warm;
        for (size_t f = 0; f < m_heat.warms.size(); ++f)
            if (m_heat.warms[f])
                warm.push_back(int(f));
        const auto& lossyPieces = m_lossy->activePieces();
        std::set_union(lossyPieces.begin(), lossyPieces.end(), warm.begin(), warm.end(),
                       std::back_inserter(m_pieces));
    }
    std::string name() const override { return m_giver.name; }
    const std::vector<int>& activePieces() const override { return m_pieces; }
    std::vector<mesh::SizeRule> cellSizes() const override { return m_lossy->cellSizes(); }
    std::vector<mesh::PeriodicPair> periodic() const override { return m_lossy->periodic(); }
    void shortenSteps() override { m_transport->shortenSteps(); }
    std::unique_ptr<Solution> on(const mesh::Mesh& mesh, const shape::Partition& partition,
                                 int order, base::Progress& progress) const override
    {
        return std::make_unique<HeatingField>(m_giver.on(mesh, partition, order, progress), m_heat,
                                              mesh, partition, order, progress);
    }
    std::vector<Ask> asks(const sheet::Model& model, const shape::Partition& partition,
                          base::Faults& faults) const override
    {
        const auto fields = m_lossy->asks(model.without([](const Line& l) {
            return isAsk(l) && (isHeatAsk(l) || l.kind == "heating power");
        }),
                                          partition, faults);
        const auto heats = m_transport->asks(
            model.without([](const Line& l) { return isAsk(l) && !isHeatAsk(l); }), partition,
            faults);
        // In the order of the sheet.
        std::vector<Ask> list;
        for (const Line& l : model.document().lines) {
            for (const Ask& a : fields)
                if (a.finding.line == l.id)
                    list.push_back(
                        ofPart(a, [](HeatingField& f) -> Solution& { return f.lossy().field(); }));
            for (const Ask& a : heats)
                if (a.finding.line == l.id)
                    list.push_back(
                        ofPart(a, [](HeatingField& f) -> Solution& { return f.heat(); }));
            if (l.kind == "heating power")
                list.push_back(power(model, partition, l));
        }
        return list;
    }
    std::vector<Check> checks(const sheet::Model& model, const shape::Partition& partition,
                              Solution& field, const std::vector<Ask>& asks) const override
    {
        HeatingField& f = solverOf(field);
        auto list = m_lossy->checks(model, partition, f.lossy().field(), asks);
        std::erase_if(list, [this](const Check& c) {
            return std::find(m_giver.silent.begin(), m_giver.silent.end(), c.id) !=
                   m_giver.silent.end();
        });
        for (Check& c : m_transport->checks(model, partition, f.heat(), asks))
            list.push_back(std::move(c));
        heatOfLosses(f, list);
        if (f.lossy().follows()) {
            char text[120];
            std::snprintf(text, sizeof text,
                          "field and heat solved in %d turns, until the temperature moved by %.0e "
                          "of its rise",
                          f.rounds(), f.unsettled());
            list.push_back({"turns", Check::State::note, text, -1, {}});
        }
        return list;
    }
    std::vector<SingularCorner> corners(const mesh::Mesh& mesh,
                                        const shape::Partition& partition) const override
    {
        return m_transport->corners(mesh, partition);
    }
    std::vector<char> lineSeeds(const shape::Partition& partition) const override
    {
        return m_transport->lineSeeds(partition);
    }
    std::string lineQuantity() const override { return m_transport->lineQuantity(); }
    fem::Measure measure() const override { return m_lossy->measure(); }

private:
    /// What the field loses where it heats against what the heat problem was given.
    void heatOfLosses(HeatingField& f, std::vector<Check>& list) const
    {
        std::vector<int> pieces;
        bool others = false, any = false;
        for (const int p : m_heat.activePieces) {
            others = others || !m_heat.pieces[size_t(p)].sources.empty() ||
                     m_heat.pieces[size_t(p)].perfusion > 0;
            const bool given = !f.heat().problem().pieces[size_t(p)].sources.empty();
            any = any || given;
            if (given)
                pieces.push_back(p);
        }
        for (const auto& [side, c] : f.heat().problem().sides)
            any = any || !c.flux.empty();
        if (!any)
            list.push_back({"heat of the losses", Check::State::warning, m_giver.nothing, -1, {}});
        const double taken = f.lossy().power(f.order(), pieces, {});
        if (others || taken <= 0)
            return;
        const double off = std::abs(f.heat().givenHeat(f.order()) / taken - 1);
        char text[120];
        std::snprintf(text, sizeof text, "the heat set free equals what the field loses to %.0e",
                      off);
        constexpr double closes = 1e-3;
        list.push_back({"heat of the losses",
                        off < closes ? Check::State::good : Check::State::warning,
                        text,
                        -1,
                        {}});
    }
    static Ask power(const sheet::Model& model, const shape::Partition& partition, const Line& l)
    {
        Ask a = beginAsk(model, l, base::dim::power, "heating power in " + l.get("in"));
        std::vector<int> pieces, sheets;
        sheet::PlaceRule shapes;
        for (const auto& atom : model.place(l, "in").atoms) {
            const Line* named = model.document().findNamed(atom.name);
            if (named && named->kind == "conducting sheet")
                sheets.push_back(named->id);
            else
                shapes.atoms.push_back(atom);
        }
        if (!shapes.atoms.empty())
            pieces = partition.resolve(shapes, model, {l.id, "in", 0}).pieces;
        a.evaluate = [pieces, sheets](Solution& field, int order) {
            return std::vector{solverOf(field).lossy().power(order, pieces, sheets)};
        };
        return a;
    }

    std::vector<int> m_pieces;
    std::unique_ptr<Study> m_lossy;
    HeatGiver m_giver;
    const TransportProblem& m_heat;
    std::unique_ptr<Study> m_transport;
};

}  // namespace

std::unique_ptr<Study> heatingStudy(const sheet::Model& model, const shape::Partition& partition,
                                    base::Faults& faults)
{
    auto field =
        studyFor(sheet::topicOf(withoutHeat(model.document())).key, model, partition, faults);
    auto giver = field->heat(model, faults);
    YH_ASSERT(giver, "a topic that gives heat has a study that does");
    return std::make_unique<HeatingStudy>(std::move(field), std::move(*giver),
                                          defineTransport(model, partition, faults));
}

}  // namespace yh::physics
