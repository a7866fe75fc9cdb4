// What actuators say of themselves: bodies that electrodes pull across a gap.
#include "sheet/model.h"
#include "sheet/schema_slots.h"

namespace yh::physics {

using namespace sheet;

// Properties of elastic bodies are said by their own topic.
sheet::Topic elasticTopic();

namespace {

const std::string actuator = "actuator";

void addLines(std::vector<Kind>& k)
{
    k.push_back({"raised voltage",
                 actuator,
                 "raise",
                 {{.key = "of",
                   .type = T::reference,
                   .marker = "",
                   .required = true,
                   .refersTo = "electrode",
                   .help = "the electrode; voltages of others rise in the same ratio"},
                  {.key = "to",
                   .type = T::quantity,
                   .marker = "to",
                   .dimension = dim::voltage,
                   .required = true,
                   .range = Range::positive}},
                 "raise A to 12 V",
                 "The voltage rises slowly from zero; bodies move as far as it pulls them.",
                 false,
                 true});
    k.push_back({"stop",
                 actuator,
                 "stop",
                 {{.key = "distance",
                   .type = T::quantity,
                   .dimension = dim::length,
                   .required = true,
                   .range = Range::positive},
                  placeSlot("before", "before",
                            "straight sides or plane faces that nothing comes nearer to")},
                 "stop 0.2 um before base.top",
                 "Where the way of what moves ends.",
                 false,
                 true});
}

Slot underSlot()
{
    return {.key = "voltage",
            .type = T::quantity,
            .marker = "under",
            .dimension = dim::voltage,
            .required = true,
            .range = Range::positive,
            .help = "of the raised electrode"};
}

void addAsks(std::vector<Kind>& k)
{
    const std::string a = "ask";
    k.push_back(
        {"pull-in voltage",
         a,
         "pull-in voltage",
         {within("0.5 %"), limit("below", dim::voltage), limit("above", dim::voltage)},
         "pull-in voltage within 0.5 %",
         "The voltage at which a rising one loses its equilibrium and the gap snaps shut."});
    k.push_back({"release voltage",
                 a,
                 "release voltage",
                 {within("1 %"), limit("below", dim::voltage), limit("above", dim::voltage)},
                 "release voltage within 1 %",
                 "The voltage at which a falling one lets go of the stop."});
    k.push_back({"deflection",
                 a,
                 "deflection",
                 {{.key = "along",
                   .type = T::direction,
                   .marker = "along",
                   .required = true,
                   .help = "which component: x, -y, or components"},
                  {.key = "at", .type = T::point, .marker = "at", .required = true},
                  underSlot(),
                  within("1 %"),
                  limit("below", dim::length),
                  limit("above", dim::length)},
                 "deflection along -y at 0, 2 um under 8 V within 1 %",
                 "How far a point has moved under a voltage that rose from zero."});
    k.push_back({"capacitance under",
                 a,
                 "capacitance while pulled",
                 {underSlot(), within("0.5 %"), limit("below", dim::capacitance),
                  limit("above", dim::capacitance)},
                 "capacitance while pulled under 8 V within 0.5 %",
                 "Charge of the raised electrode over its voltage, with the gap as it then is."});
    k.push_back({"actuator curve",
                 a,
                 "travel over voltage",
                 {within("2 %")},
                 "travel over voltage within 2 %",
                 "All equilibria, stable or not, of the place that moves most, and the "
                 "capacitance."});
}

void checkSheet(const Model& model, base::Faults& faults)
{
    const Document& d = model.document();
    if (model.space() == Space::axisymmetric)
        faults.push_back({2361,
                          {d.first("space") ? d.first("space")->id : -1, "type", 0},
                          "actuators run in the plane and in solids so far"});
    if (model.space() == Space::solid)
        for (const char* kind : {"across the drawing", "poling"})
            if (const Line* l = d.first(kind))
                faults.push_back({2366,
                                  {l->id, {}, -1},
                                  "this line belongs to drawings: a solid is what it is in all "
                                  "directions, and not "
                                  "poled"});
    if (!d.first("raised voltage"))
        faults.push_back({2362,
                          {-1, actuator, -1},
                          "which voltage rises, and how far? add a line such as `raise A to 12 V`",
                          true});
    for (const char* kind : {"vibration", "natural vibrations", "poling"})
        if (const Line* l = d.first(kind))
            faults.push_back({2363,
                              {l->id, {}, -1},
                              "an actuator is at rest at each voltage, and not piezoelectric; take "
                              "this line to a sheet of its own"});
    for (const char* kind :
         {"wedge symmetry", "periodic pair", "space charge", "surface charge", "floating"})
        if (const Line* l = d.first(kind))
            faults.push_back({2364, {l->id, {}, -1}, "actuators do not know this line yet"});
    if (d.first("release voltage") && !d.first("stop"))
        faults.push_back({2365,
                          {d.first("release voltage")->id, {}, -1},
                          "what snaps shut is let go from a stop: add a line such as `stop 0.2 um "
                          "before base.top`",
                          true});
}

Document actuatorSheet()
{
    Document d;
    d.add("aim", {{"text", "How far … moves under a voltage, and where it snaps shut"}});
    d.add("space", {{"type", "plane"}, {"depth", "20 um"}});
    d.add("material", {{"material", "silicon"}, {"E", "160 GPa"}, {"nu", "0.22"}});
    d.add("material", {{"material", "air"}});
    d.add("mesh", {});
    d.add("fixed", {});
    d.add("electrode", {{"name", "A"}, {"voltage", "1 V"}});
    d.add("electrode", {{"name", "B"}, {"voltage", "0 V"}});
    d.add("raised voltage", {{"of", "A"}});
    d.add("pull-in voltage", {});
    d.add("actuator curve", {});
    return d;
}

}  // namespace

Topic elasticActuatorTopic()
{
    const Topic body = elasticTopic();
    Topic t;
    t.key = "actuator";
    t.order = 82;
    t.sections = {{actuator, "Actuator", "voltage or stop"}};
    t.shown = {"mechanics", "electrostatic", actuator};
    t.addLines = addLines;
    t.addAsks = addAsks;
    t.properties = body.properties;
    t.offers = body.offers;
    t.cards = {{"actuator", "Electrostatic actuator",
                "How far a body moves under a voltage, pull-in and release, capacitance.",
                actuatorSheet}};
    t.claims = [](const Document& d) { return usesSection(d, actuator); };
    t.isParityOfDrives = false;
    t.checkSheet = checkSheet;
    return t;
}

}  // namespace yh::physics
