// What fields whose losses heat say of themselves: waves, and alternating currents.
#include "physics/transport/face.h"
#include "physics/wave/common/face.h"
#include "sheet/model.h"

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

bool currentHeats(const Document& d)
{
    return waveTask(d) == WaveTask::none && d.first("frequency") &&
           (usesSection(d, "heat") || usesSection(d, "couplings"));
}

void checkSheet(const Model& model, base::Faults& faults)
{
    if (currentHeats(model.document()))
        refuseElectrostaticLines(model, faults);
    else
        waveTopic({}, 0).checkSheet(model, faults);
}

}  // namespace

Topic heatingTopic()
{
    Topic t;
    t.key = "heating";
    t.order = 80;
    t.shownOn = [](const Document& d) {
        return currentHeats(d) ? std::vector<std::string>{"current", "heat", "couplings"}
                               : std::vector<std::string>{"waves", "heat"};
    };
    t.cards = {{"microwave heating", "Microwave heating",
                "What a wave loses in a medium, and how warm that gets, steady or over time.",
                microwaveHeatingSheet}};
    t.claims = [](const Document& d) {
        return waveTask(d) == WaveTask::heating || currentHeats(d);
    };
    t.checkSheet = checkSheet;
    t.isParityOfDrives = false;
    return t;
}

}  // namespace yh::physics
