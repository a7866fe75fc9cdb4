// What slowly alternating fields say of themselves.
#include "physics/transport/face.h"
#include "sheet/schema_slots.h"

namespace yh::physics {

using namespace sheet;

namespace {

void addLines(std::vector<Kind>& k)
{
    k.push_back({"frequency",
                 "current",
                 "frequency",
                 {{.key = "value",
                   .type = T::quantity,
                   .dimension = dim::frequency,
                   .required = true,
                   .range = Range::positive,
                   .help = "voltages and currents alternate, with these peak values"}},
                 "frequency 10 kHz",
                 "Alternating voltages: media conduct and polarise, with their losses.",
                 false,
                 true});
}

}  // namespace

Topic quasistaticTopic()
{
    Topic t;
    t.key = "quasistatic";
    t.order = 30;
    t.shown = {"current", "heat", "couplings"};
    t.addLines = addLines;
    t.properties = {permittivity(), lossTangent(), turnedAxes(), conductivity()};
    t.offers = transportOffers();
    t.claims = [](const Document& d) { return d.first("frequency") != nullptr; };
    t.givesHeat = true;
    t.checkSheet = refuseElectrostaticLines;
    return t;
}

}  // namespace yh::physics
