// What the modes of endless guides say of themselves.
#include "physics/wave/common/face.h"

namespace yh::physics {

using namespace sheet;

namespace {

Document guideSheet()
{
    Document d;
    d.add("aim", {{"text", "What travels along …: index, impedance and loss"}});
    d.add("space", {{"type", "plane"}});
    d.add("material", {{"material", "vacuum"}});
    d.add("mesh", {});
    d.add("guide modes", {{"count", "1"}, {"at", "10 GHz"}});
    d.add("effective index", {{"mode", "1"}});
    d.add("group index", {{"mode", "1"}});
    return d;
}

}  // namespace

Topic waveGuideTopic()
{
    Topic t = waveTopic("guide modes", 70);
    t.cards = {{"guide modes", "Guide modes",
                "Effective and group index, line impedance, loss and area of an endless guide, "
                "also a bent one.",
                guideSheet}};
    t.claims = [](const Document& d) { return waveTask(d) == WaveTask::guide; };
    return t;
}

}  // namespace yh::physics
