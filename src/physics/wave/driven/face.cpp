// What waves from ports, dipoles and far away say of themselves.
#include "physics/wave/common/face.h"

namespace yh::physics {

using namespace sheet;

namespace {

Document scatteringSheet()
{
    Document d;
    d.add("aim", {{"text", "The S-parameters of …"}});
    d.add("space", {{"type", "solid"}});
    d.add("material", {{"material", "air"}});
    d.add("mesh", {});
    d.add("band", {{"from", "8 GHz"}, {"to", "12 GHz"}});
    d.add("port", {{"name", "A"}});
    d.add("port", {{"name", "B"}});
    d.add("S-parameters", {});
    d.add("scattering", {{"from", "A"}, {"to", "A"}, {"at", "10 GHz"}});
    return d;
}

Document antennaSheet()
{
    Document d;
    d.add("aim", {{"text", "Reflection and gain of …"}});
    d.add("space", {{"type", "solid"}});
    d.add("material", {{"material", "copper"}});
    d.add("mesh", {});
    d.add("band", {{"from", "2.3 GHz"}, {"to", "2.6 GHz"}});
    d.add("lumped port", {{"name", "A"}});
    d.add("open space", {});
    d.add("S-parameters", {{"within", "2 %"}});
    d.add("gain", {{"of", "A"}, {"at", "2.45 GHz"}});
    d.add("pattern", {{"of", "A"}, {"at", "2.45 GHz"}});
    return d;
}

Document planeWaveSheet()
{
    Document d;
    d.add("aim", {{"text", "What … scatters and absorbs of a wave"}});
    d.add("space", {{"type", "solid"}});
    d.add("material", {{"material", "copper"}});
    d.add("mesh", {});
    d.add("band", {{"from", "1 GHz"}, {"to", "2 GHz"}});
    d.add("plane wave", {{"name", "W"}, {"E", "x"}});
    d.add("open space", {});
    d.add("cross-sections", {{"of", "W"}});
    d.add("radar cross-section", {{"of", "W"}, {"at", "1.5 GHz"}});
    return d;
}

}  // namespace

Topic waveDrivenTopic()
{
    Topic t = waveTopic("driven waves", 60);
    t.shown = {"waves", "heat"};
    t.cards = {
        {"scattering", "S-parameters",
         "Reflection and transmission between guides over a band, losses; Touchstone files.",
         scatteringSheet},
        {"antenna", "Antenna",
         "Reflection over a band, input impedance, gain, efficiency and pattern in open space.",
         antennaSheet},
        {"plane wave", "Scattering",
         "What a device scatters and absorbs of a wave from far away; its radar cross-section.",
         planeWaveSheet}};
    t.claims = [](const Document& d) { return waveTask(d) == WaveTask::driven; };
    t.givesHeat = true;
    return t;
}

}  // namespace yh::physics
