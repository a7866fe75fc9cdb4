// What ring-downs say of themselves: waves in time after a pulse.
#include "physics/wave/common/face.h"
#include "sheet/model.h"
#include "sheet/schema_slots.h"

namespace yh::physics {

using namespace sheet;

namespace {

void addLines(std::vector<Kind>& k)
{
    k.push_back({"ring-down",
                 "waves",
                 "ring-down",
                 {{.key = "from",
                   .type = T::quantity,
                   .marker = "from",
                   .dimension = dim::frequency,
                   .required = true,
                   .range = Range::positive},
                  {.key = "to",
                   .type = T::quantity,
                   .marker = "to",
                   .dimension = dim::frequency,
                   .required = true,
                   .range = Range::positive,
                   .help = "band of the pulse; resonances in it are found"},
                  {.key = "time",
                   .type = T::quantity,
                   .marker = "for",
                   .dimension = dim::time,
                   .range = Range::positive,
                   .help = "how long the fields are followed; without it, fifty times the "
                           "inverse of the band"},
                  {.key = "cell",
                   .type = T::quantity,
                   .marker = "in cells of",
                   .dimension = dim::length,
                   .range = Range::positive,
                   .help = "size of the finest grid's cells; without it, a thirtieth of the "
                           "shortest wave, or a fortieth of the device"}},
                 "ring-down from 2 GHz to 4 GHz for 30 ns in cells of 0.5 mm",
                 "Point dipoles send a short pulse, then nothing; fields are followed in time on "
                 "grids, and resonances read from how they ring.",
                 false,
                 true});
}

void addAsks(std::vector<Kind>& k)
{
    k.push_back({"field trace",
                 "ask",
                 "field over time",
                 {{.key = "at", .type = T::point, .marker = "at", .required = true}, within("5 %")},
                 "field over time at 0, 0, 5 mm within 5 %",
                 "The electric field at a place while a device rings."});
}

Document ringingSheet()
{
    Document d;
    d.add("aim", {{"text", "How … rings after a pulse: its resonances and Q"}});
    d.add("space", {{"type", "solid"}});
    d.add("material", {{"material", "vacuum"}});
    d.add("ring-down", {});
    d.add("point dipole", {{"name", "D"}});
    d.add("resonance", {{"mode", "1"}});
    return d;
}

}  // namespace

Topic waveRingingTopic()
{
    Topic t = waveTopic("ringing", 52);
    t.addLines = addLines;
    t.addAsks = addAsks;
    t.cards = {{"ringing", "Ring-down in time",
                "A pulse in a cavity, followed in time: resonances and Q from how it rings.",
                ringingSheet}};
    t.claims = [](const Document& d) { return waveTask(d) == WaveTask::ringing; };
    return t;
}

}  // namespace yh::physics
