// What fields whose losses heat say of themselves: waves, and alternating currents.
#include "physics/heating/face.h"
#include "sheet/model.h"
#include "sheet/schema.h"
#include "sheet/topic.h"

namespace yh::physics {

using namespace sheet;

namespace {

Document microwaveHeatingSheet()
{
    Document d;
    d.add("aim", {{"text", "How warm … gets in a wave, and how much of it it takes"}});
    d.add("space", {{"type", "solid"}});
    d.add("material", {{"material", "vacuum"}});
    d.add("mesh", {});
    d.add("band", {{"from", "2.4 GHz"}, {"to", "2.5 GHz"}, {"power", "100 W"}});
    d.add("port", {{"name", "A"}});
    d.add("convection", {{"name", "air"}, {"h", "10 W/m^2/K"}});
    d.add("heating power", {});
    d.add("highest temperature", {});
    return d;
}

Document inductionSheet()
{
    Document d;
    d.add("aim", {{"text", "How warm … gets in the field of a coil"}});
    d.add("space", {{"type", "axisymmetric"}});
    d.add("mesh", {});
    d.add("flux at the edge", {{"way", "goes on into open space"}});
    d.add("coil", {{"name", "C"}, {"turns", "20"}});
    d.add("alternation", {{"frequency", "10 kHz"}});
    d.add("convection", {{"name", "air"}, {"h", "10 W/m^2/K"}});
    d.add("heating power", {});
    d.add("highest temperature", {});
    return d;
}

const Topic& fieldOf(const Document& d)
{
    return topicOf(withoutHeat(d));
}

}  // namespace

Document withoutHeat(const Document& document)
{
    Document rest = document;
    std::erase_if(rest.lines, [](const Line& l) {
        const Kind* k = findKind(l.kind);
        return k && (k->section == "heat" || k->section == "couplings");
    });
    return rest;
}

Topic heatingTopic()
{
    Topic t;
    t.key = "heating";
    t.order = 80;
    t.shownOn = [](const Document& d) {
        const Topic& field = fieldOf(d);
        auto shown = field.shownOn ? field.shownOn(d) : field.shown;
        shown.push_back("heat");
        return shown;
    };
    t.cards = {{"microwave heating", "Microwave heating",
                "What a wave loses in a medium, and how warm that gets, steady or over time.",
                microwaveHeatingSheet},
               {"induction heating", "Induction heating",
                "What the currents that a coil induces leave in a conductor, and how warm that "
                "gets.",
                inductionSheet}};
    t.claims = [](const Document& d) {
        return (usesSection(d, "heat") || usesSection(d, "couplings")) && fieldOf(d).givesHeat;
    };
    t.checkSheet = [](const Model& model, base::Faults& faults) {
        if (const auto check = fieldOf(model.document()).checkSheet)
            check(model, faults);
    };
    t.isParityOfDrives = false;
    return t;
}

}  // namespace yh::physics
