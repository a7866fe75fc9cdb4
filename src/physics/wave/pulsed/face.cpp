// What pulses through ports say of themselves: S-parameters on a grid in time.
#include "physics/wave/common/face.h"
#include "sheet/model.h"
#include "sheet/schema_slots.h"

namespace yh::physics {

using namespace sheet;

namespace {

void addLines(std::vector<Kind>& k)
{
    k.push_back({"time grid",
                 "waves",
                 "time grid",
                 {{.key = "cell",
                   .type = T::quantity,
                   .marker = "in cells of",
                   .dimension = dim::length,
                   .range = Range::positive,
                   .help = "size of the finest grid's cells; without it, a twentieth of the "
                           "shortest wave, or a fortieth of the device"},
                  {.key = "time",
                   .type = T::quantity,
                   .marker = "for at most",
                   .dimension = dim::time,
                   .range = Range::positive,
                   .help = "how long a pulse is followed where the device rings on; without it, "
                           "forty times the way through it"}},
                 "time grid in cells of 50 nm",
                 "Waves through ports are found by pulses, one into each mode of each port, which "
                 "are followed in time on a grid; large devices take less memory so.",
                 false,
                 true});
    k.push_back({"layout port",
                 "waves",
                 "layout port",
                 {nameSlot(),
                  {.key = "label",
                   .type = T::text,
                   .marker = "at label",
                   .required = true,
                   .help = "the text in the layout that stands where the guide ends"},
                  {.key = "of",
                   .type = T::reference,
                   .marker = "of",
                   .required = true,
                   .refersTo = "layout",
                   .help = "the line of the guide's layer; its file and cell hold the label"},
                  {.key = "layer",
                   .type = T::quantity,
                   .marker = "on layer",
                   .range = Range::notNegative,
                   .help = "of the label and of the short path that says how wide the guide is; "
                           "without it, any layer"},
                  portModesSlot("falling effective index"),
                  portShiftSlot(),
                  portDriveSlot()},
                 "layout port A at label in of guide",
                 "A guide enters where a layout says so, by a label beside a short path.",
                 true});
}

Document photonicSheet()
{
    Document d;
    d.add("aim", {{"text", "How … parts light: its S-parameters, from a layout"}});
    d.add("parameter", {{"name", "thick"}, {"value", "400 nm"}});
    d.add("space", {{"type", "solid"}});
    d.add("layout",
          {{"name", "clad"}, {"layer", "2"}, {"high", "1.6 um"}, {"at", "0, 0, -0.6 um"}});
    d.add("layout", {{"name", "core"}, {"layer", "1"}, {"outline", "2"}, {"high", "thick"}});
    d.add("material",
          {{"material", "silicon oxide"}, {"in", "clad"}, {"eps", "1.444^2"}, {"loss", "0"}});
    d.add("material",
          {{"material", "silicon nitride"}, {"in", "core"}, {"eps", "1.996^2"}, {"loss", "0"}});
    d.add("band", {{"from", "188 THz"}, {"to", "199 THz"}, {"points", "101"}});
    d.add("time grid", {{"cell", "70 nm"}});
    d.add("absorbing wall", {{"on", "outer of clad"}});
    d.add("layout port", {{"name", "A"}, {"of", "core"}});
    d.add("layout port", {{"name", "B"}, {"of", "core"}});
    d.add("scattering", {{"from", "A"}, {"to", "B"}, {"at", "193.4 THz"}, {"within", "2 %"}});
    d.add("S-parameters", {{"within", "2 %"}});
    return d;
}

}  // namespace

Topic wavePulsedTopic()
{
    Topic t = waveTopic("pulsed", 56);
    t.addLines = addLines;
    t.cards = {{"photonic part", "Photonic part",
                "A part from a layout: all S-parameters of its guides, by pulses in time.",
                photonicSheet}};
    t.claims = [](const Document& d) { return waveTask(d) == WaveTask::pulsed; };
    return t;
}

}  // namespace yh::physics
