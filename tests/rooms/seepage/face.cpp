// An exercise: seepage through soil, what it says of itself.
#include "sheet/schema_slots.h"

namespace yh::physics {

using namespace sheet;

namespace {

void addLines(std::vector<Kind>& k)
{
    k.push_back({"water level",
                 "seepage",
                 "water level",
                 {nameSlot(),
                  {.key = "head",
                   .type = T::quantity,
                   .marker = "of",
                   .dimension = dim::length,
                   .required = true,
                   .help = "height to which the water stands"},
                  placeSlot("on", "on", "edges that it touches")},
                 "water level up of 3 m on soil.left",
                 "An edge that water of a given level touches."});
}

void addAsks(std::vector<Kind>& k)
{
    k.push_back({"seepage",
                 "ask",
                 "seepage",
                 {within(), limit("below", dim::length)},
                 "seepage within 0.5 %",
                 "Water that seeps from one level to the other, over the conductivity of the soil "
                 "and by depth."});
}

}  // namespace

Topic seepageTopic()
{
    Topic t;
    t.key = "seepage";
    t.order = 500;
    t.sections = {{"seepage", "Seepage", "water level"}};
    t.shown = {"seepage"};
    t.addLines = addLines;
    t.addAsks = addAsks;
    t.claims = [](const Document& d) { return usesSection(d, "seepage"); };
    return t;
}

}  // namespace yh::physics
