// What pulses of sound say of themselves.
#include "sheet/model.h"
#include "sheet/schema_slots.h"

namespace yh::physics {

using namespace sheet;

namespace {

const std::string sound = "sound";
constexpr base::Dimension speed = dim::of(1, 0, -1);

void addLines(std::vector<Kind>& k)
{
    k.push_back(
        {"sound run",
         sound,
         "sound",
         {{.key = "time",
           .type = T::quantity,
           .marker = "for",
           .dimension = dim::time,
           .required = true,
           .range = Range::positive,
           .help = "how long the waves are followed"},
          {.key = "cell",
           .type = T::quantity,
           .marker = "in cells of",
           .dimension = dim::length,
           .range = Range::positive,
           .help = "size of the grid's cells; without it, a sixteenth of the slowest wave"}},
         "sound for 30 us in cells of 50 um",
         "Waves in time on a grid, absorbed at all edges.",
         false,
         true});
    k.push_back({"sound source",
                 sound,
                 "pulse",
                 {nameSlot(),
                  {.key = "frequency",
                   .type = T::quantity,
                   .marker = "of",
                   .dimension = dim::frequency,
                   .required = true,
                   .range = Range::positive,
                   .help = "of the sine"},
                  {.key = "cycles",
                   .type = T::quantity,
                   .marker = "over",
                   .fallback = "3",
                   .range = Range::positive,
                   .suffix = "cycles",
                   .help = "of the envelope, a Gaussian, at half of its height",
                   .always = true},
                  {.key = "pressure",
                   .type = T::quantity,
                   .marker = "with",
                   .dimension = dim::pressure,
                   .fallback = "1 Pa",
                   .range = Range::positive,
                   .help = "largest pressure of the wave that leaves a long line"},
                  {.key = "from", .type = T::point, .marker = "from", .required = true},
                  {.key = "to", .type = T::point, .marker = "to", .required = true},
                  {.key = "taper",
                   .type = T::quantity,
                   .marker = "tapered by",
                   .fallback = "20 %",
                   .range = Range::notNegative,
                   .help = "share of the line over which it swells at either end"}},
                 "pulse S of 1 MHz over 3 cycles from -5 mm, 2 mm to 5 mm, 2 mm",
                 "A line that sends a pulse to both sides."});
    k.push_back({"receiver",
                 sound,
                 "receiver",
                 {nameSlot(), {.key = "at", .type = T::point, .marker = "at", .required = true}},
                 "receiver R at 0, 30 mm",
                 "A place at which the pressure is kept over time."});
    k.push_back(
        {"smooth wall",
         sound,
         "smooth wall",
         {{.key = "at",
           .type = T::choice,
           .required = true,
           .choices = {"left", "right", "bottom", "top", "left and right", "bottom and top"},
           .help = "sides of the drawing's frame that nothing moves across"}},
         "smooth wall bottom and top",
         "Sides of the frame that are rigid and smooth, or planes of symmetry; all others but an "
         "axis "
         "absorb."});
}

Slot receiverSlot(const std::string& key, const std::string& marker)
{
    return {.key = key,
            .type = T::reference,
            .marker = marker,
            .required = true,
            .refersTo = "receiver",
            .help = "a receiver"};
}
Slot arrivalSlot()
{
    return {.key = "number",
            .type = T::count,
            .marker = "number",
            .fallback = "1",
            .help = "among the pulses that arrive"};
}

void addAsks(std::vector<Kind>& k)
{
    const std::string a = "ask";
    k.push_back({"arrival",
                 a,
                 "arrival",
                 {receiverSlot("at", "at"), arrivalSlot(), within("1 %"), limit("below", dim::time),
                  limit("above", dim::time)},
                 "arrival at R within 1 %",
                 "When a pulse arrives, from its middle at the source, and how strong it is."});
    k.push_back({"sound trace",
                 a,
                 "trace",
                 {receiverSlot("at", "at"), within("5 %")},
                 "trace at R within 5 %",
                 "Pressure and velocity at a receiver over time."});
    k.push_back({"speed of a pulse",
                 a,
                 "speed of the pulse",
                 {receiverSlot("from", "from"), receiverSlot("to", "to"), within("1 %")},
                 "speed of the pulse from R to T within 1 %",
                 "Distance of two receivers over the time between their first arrivals."});
}

void checkSheet(const Model& model, base::Faults& faults)
{
    const Document& d = model.document();
    if (model.space() == Space::solid)
        faults.push_back({2340,
                          {d.first("space") ? d.first("space")->id : -1, "type", 0},
                          "pulses of sound run in the plane and round an axis so far"});
    auto missing = [&](const char* kind, int number, const char* text) {
        if (!d.first(kind))
            faults.push_back({number, {-1, sound, -1}, text, true});
    };
    missing("sound run", 2341, "for how long? add a line such as `sound for 30 us`");
    missing("sound source", 2342,
            "nothing sends yet: add a line such as `pulse S of 1 MHz from 0, 0 to 0, 5 mm`");
    for (const char* kind : {"mirror plane", "wedge symmetry", "periodic pair"})
        if (const Line* l = d.first(kind))
            faults.push_back({2343,
                              {l->id, {}, -1},
                              "a plane of symmetry is a `smooth wall` here; draw the half"});
}

Document pulseSheet()
{
    Document d;
    d.add("aim", {{"text", "When a pulse arrives at …"}});
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("material", {{"material", "water"}});
    d.add("sound run", {{"time", "30 us"}});
    d.add("sound source", {{"name", "S"}, {"frequency", "1 MHz"}});
    d.add("receiver", {{"name", "R"}});
    d.add("arrival", {{"at", "R"}});
    d.add("sound trace", {{"at", "R"}});
    return d;
}

}  // namespace

Topic soundTopic()
{
    Topic t;
    t.key = "sound";
    t.order = 85;
    t.sections = {{sound, "Pulse of sound", "pulse or receiver"}};
    t.shown = {sound};
    t.addLines = addLines;
    t.addAsks = addAsks;
    Property c{190,
               {.key = "sound speed",
                .type = T::quantity,
                .marker = "speed of sound",
                .dimension = speed,
                .range = Range::positive,
                .help = "of waves of pressure (pulses of sound)"}};
    Property s{191,
               {.key = "shear speed",
                .type = T::quantity,
                .marker = "shear speed",
                .dimension = speed,
                .range = Range::positive,
                .help = "of waves of shear; without it a fluid, or by E and ν"}};
    t.properties = {massDensity(), c, s};
    t.cards = {{"sound", "Pulse of ultrasound",
                "A pulse runs through water and solids: when it arrives where, how strong, and "
                "moving pictures.",
                pulseSheet}};
    t.claims = [](const Document& d) { return usesSection(d, sound); };
    t.isParityOfDrives = false;
    t.checkSheet = checkSheet;
    return t;
}

}  // namespace yh::physics
