// An exercise without a mesh: a resistive attenuator, what it says of itself.
#include "sheet/schema_slots.h"

namespace yh::physics {

using namespace sheet;

namespace {

void addLines(std::vector<Kind>& k)
{
    auto resistance = [](const char* key, const char* marker) {
        return Slot{.key = key,
                     .type = T::quantity,
                     .marker = marker,
                     .dimension = dim::resistance,
                     .required = true,
                     .range = Range::positive};
    };
    k.push_back({"ladder",
                 "attenuator",
                 "ladder",
                 {resistance("series", "of"), resistance("shunt", "and")},
                 "ladder of 10 ohm and 100 ohm",
                 "An endless chain of series and shunt resistors.",
                 false,
                 true});
}

void addAsks(std::vector<Kind>& k)
{
    k.push_back({"ladder resistance",
                 "ask",
                 "resistance of the ladder",
                 {within()},
                 "resistance of the ladder within 0.5 %",
                 "At its beginning."});
}

}  // namespace

Topic attenuatorTopic()
{
    Topic t;
    t.key = "attenuator";
    t.order = 510;
    t.sections = {{"attenuator", "Attenuator", "ladder"}};
    t.shown = {"attenuator"};
    t.addLines = addLines;
    t.addAsks = addAsks;
    t.claims = [](const Document& d) { return usesSection(d, "attenuator"); };
    t.hasShape = false;
    return t;
}

}  // namespace yh::physics
