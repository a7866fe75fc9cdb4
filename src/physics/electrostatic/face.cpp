// What the electrostatic field says of itself.
#include "sheet/materials.h"
#include "sheet/model.h"
#include "sheet/nearest.h"
#include "sheet/schema_slots.h"

namespace yh::physics {

using namespace sheet;

namespace {

void addLines(std::vector<Kind>& k)
{
    const std::string es = "electrostatic";
    k.push_back({"electrode",
                 es,
                 "electrode",
                 {nameSlot(),
                  {.key = "voltage",
                   .type = T::quantity,
                   .marker = "at",
                   .dimension = dim::voltage,
                   .help = "its potential",
                   .insteadOf = "charge",
                   .turnedOver = true},
                  {.key = "charge",
                   .type = T::quantity,
                   .marker = "with charge",
                   .dimension = dim::charge,
                   .help = "its charge, instead of a potential",
                   .insteadOf = "voltage",
                   .turnedOver = true},
                  placeSlot("on", "on", "regions or edges it covers")},
                 "electrode A at 1 V on core",
                 "A conductor held at a potential, or given a charge."});
    k.push_back({"floating",
                 es,
                 "floating conductor",
                 {nameSlot(), placeSlot("on", "on", "regions or edges it covers")},
                 "floating conductor F on shield",
                 "A conductor with no charge of its own and no connection."});
    k.push_back({"space charge",
                 es,
                 "space charge",
                 {{.key = "density",
                   .type = T::function,
                   .dimension = dim::chargePerVolume,
                   .required = true,
                   .help = "charge per volume; may depend on position",
                   .turnedOver = true},
                  placeSlot("in", "in", "the regions that hold it")},
                 "space charge 1 uC/m^3 in gel",
                 "Charge spread through a region."});
    k.push_back({"surface charge",
                 es,
                 "surface charge",
                 {{.key = "density",
                   .type = T::function,
                   .dimension = dim::chargePerArea,
                   .required = true,
                   .help = "charge per area; may depend on position",
                   .turnedOver = true},
                  placeSlot("on", "on", "the edges that hold it")},
                 "surface charge 1 nC/m^2 on film.top",
                 "Charge spread on an edge."});
    k.push_back({"outer edge",
                 es,
                 "outer edge is",
                 {{.key = "is",
                   .type = T::choice,
                   .required = true,
                   .choices = {"insulated", "open space", "grounded"},
                   .help = "insulated: no field leaves; open space: the field goes on to infinity; "
                           "grounded: 0 V",
                   .goesOn = "open space"}},
                 "outer edge is open space",
                 "What is beyond the drawing.",
                 false,
                 true});
}

void addAsks(std::vector<Kind>& k)
{
    const std::string a = "ask";
    Slot from{.key = "from",
              .type = T::reference,
              .required = true,
              .refersTo = "electrode",
              .help = "an electrode"};
    Slot to{.key = "to",
            .type = T::reference,
            .marker = "to",
            .refersTo = "electrode",
            .help = "the other electrode; without it, the capacitance to all the rest"};
    k.push_back(
        {"capacitance",
         a,
         "capacitance",
         {from, to, within(), limit("below", dim::capacitance), limit("above", dim::capacitance)},
         "capacitance A to B within 0.5 %",
         "Mutual capacitance of two electrodes, or all of one."});
    k.push_back({"capacitance matrix",
                 a,
                 "capacitance matrix",
                 {within()},
                 "capacitance matrix within 0.5 %",
                 "Maxwell and mutual capacitances of all conductors.",
                 false,
                 true});
    k.push_back({"charge",
                 a,
                 "charge",
                 {{.key = "of",
                   .type = T::reference,
                   .marker = "of",
                   .required = true,
                   .refersTo = "electrode",
                   .help = "an electrode or floating conductor"},
                  within(),
                  limit("below", dim::charge)},
                 "charge of A within 0.5 %",
                 "Charge on a conductor."});
    k.push_back({"voltage",
                 a,
                 "potential",
                 {{.key = "of",
                   .type = T::reference,
                   .marker = "of",
                   .required = true,
                   .refersTo = "electrode",
                   .help = "a floating conductor, or an electrode with given charge",
                   .alsoRefersTo = {"contact"}},
                  within()},
                 "potential of F within 0.5 %",
                 "Potential that a conductor takes."});
    k.push_back({"energy",
                 a,
                 "stored energy",
                 {within(), limit("below", dim::energy)},
                 "stored energy within 0.5 %",
                 "Energy of the field."});
    k.push_back({"largest field",
                 a,
                 "largest |E|",
                 {placeSlot("in", "in", "regions"),
                  {.key = "below",
                   .type = T::quantity,
                   .marker = "below",
                   .dimension = dim::electricField,
                   .range = Range::positive,
                   .help = "limit it must not pass"},
                  within("2 %")},
                 "largest |E| in base below 3 kV/mm",
                 "The strongest field in a region, for breakdown."});
    for (const auto& [key, words, help] :
         {std::array{"inception voltage", "inception voltage",
                     "Voltage at which a discharge in air begins, by the streamer criterion."},
          {"breakdown voltage", "breakdown voltage",
           "Voltage at which a streamer begins and crosses the gap in air."}})
        k.push_back({key,
                     a,
                     words,
                     {from,
                      {.key = "to",
                       .type = T::reference,
                       .marker = "to",
                       .refersTo = "electrode",
                       .help = "the other electrode; without it, 0 V"},
                      placeSlot("in", "in", "the regions of air"),
                      {.key = "pressure",
                       .type = T::quantity,
                       .marker = "at",
                       .dimension = dim::pressure,
                       .fallback = "101.3 kPa",
                       .range = Range::positive,
                       .help = "pressure of the air",
                       .always = true},
                      {.key = "temperature",
                       .type = T::quantity,
                       .marker = "and",
                       .dimension = dim::temperature,
                       .fallback = "293.15 K",
                       .range = Range::positive,
                       .help = "temperature of the air",
                       .always = true},
                      within("2 %"),
                      limit("above", dim::voltage)},
                     std::string(words) + " A to B in gap at 101.3 kPa and 293.15 K within 2 %",
                     help});
    k.push_back({"mean field",
                 a,
                 "mean |E|",
                 {placeSlot("in", "in", "regions"), within("1 %")},
                 "mean |E| in base within 1 %",
                 "The volume mean of the field strength."});
    k.push_back(
        {"potential at",
         a,
         "potential at",
         {{.key = "at", .type = T::point, .required = true, .help = "the point"}, within("1 %")},
         "potential at 0, 1 mm within 1 %",
         "V at a point."});
    k.push_back({"field at",
                 a,
                 "|E| at",
                 {{.key = "at", .type = T::point, .required = true, .help = "the point"},
                  within("1 %"),
                  limit("below", dim::electricField)},
                 "|E| at 0, 1 mm within 1 %",
                 "Slot strength at a point."});
    k.push_back({"profile",
                 a,
                 "profile",
                 {{.key = "from", .type = T::point, .marker = "from", .required = true},
                  {.key = "to", .type = T::point, .marker = "to", .required = true},
                  {.key = "count",
                   .type = T::count,
                   .marker = "in",
                   .fallback = "200",
                   .suffix = "points",
                   .most = 1e5}},
                 "profile from 0, 0 to 0, 3 mm",
                 "All quantities along a straight line, as curves."});
    k.push_back({"force",
                 a,
                 "force",
                 {placeSlot("on", "on", "the body"), within("1 %")},
                 "force on rotor within 1 %",
                 "Force of the field on a body, by virtual work and by surface stress."});
    k.push_back({"torque",
                 a,
                 "torque",
                 {placeSlot("on", "on", "the body"),
                  {.key = "about",
                   .type = T::point,
                   .marker = "about",
                   .fallback = "0, 0",
                   .help = "the point it turns about",
                   .always = true},
                  within("1 %")},
                 "torque on rotor about 0, 0 within 1 %",
                 "Torque of the field on a body (plane)."});
    // What may be an electrode may be a floating conductor.
    for (Kind& kind : k)
        for (Slot& f : kind.entries)
            if (f.refersTo == "electrode")
                f.alsoRefersTo.insert(f.alsoRefersTo.begin(), "floating");
}

void checkLines(const Model& model, base::Faults& faults)
{
    for (const Line* l : model.document().ofKind("electrode")) {
        if (l->has("voltage") && l->has("charge"))
            faults.push_back({2020,
                              {l->id, "charge", 0},
                              "electrode " + l->name() + " is given " + l->get("voltage") +
                                  " and " + l->get("charge") + "; state one of them"});
        else if (!l->has("voltage") && !l->has("charge"))
            faults.push_back(
                {2021, {l->id, "voltage", -1}, "its potential or its charge is missing", true});
    }
    for (const Line* l : model.document().ofKind("material"))
        if (l->has("eps2") && !l->has("eps"))
            faults.push_back({2031, {l->id, "eps", -1}, "ε along the first axis is missing", true});
    if (model.space() == Space::axisymmetric)
        for (const Line* l : model.document().ofKind("torque"))
            faults.push_back({2046,
                              {l->id, {}, -1},
                              "a torque in the plane has no meaning for an axisymmetric device"});
}

void checkSheet(const Model& model, base::Faults& faults)
{
    const Document& document = model.document();
    for (const Line* l : document.ofKind("material"))
        if (l->has("material") && !findMaterial(l->get("material")) && !l->has("eps"))
            faults.push_back({2030,
                              {l->id, "eps", -1},
                              notInLibrary(l->get("material")) + ": its permittivity ε is missing",
                              true});
    if (!document.first("electrode"))
        faults.push_back(
            {2041, {-1, "electrostatic", -1}, "no electrode yet: nothing drives the field", true});
    if (!document.first("outer edge"))
        faults.push_back({2042,
                          {-1, "outer edge", -1},
                          "the outer edge: insulated, open space or grounded? choose",
                          true});
}

Document capacitanceSheet()
{
    Document d;
    d.add("aim", {{"text", "The capacitance of …"}});
    d.add("space", {{"type", "plane"}, {"depth", "1 m"}});
    d.add("mesh", {});
    d.add("electrode", {{"name", "A"}, {"voltage", "1 V"}});
    d.add("electrode", {{"name", "B"}, {"voltage", "0 V"}});
    d.add("outer edge", {});
    d.add("capacitance", {{"from", "A"}, {"to", "B"}});
    return d;
}

}  // namespace

Topic electrostaticTopic()
{
    Topic t;
    t.key = "electrostatic";
    t.order = 10;
    t.sections = {{"electrostatic", "Electrostatic field", "condition"}};
    t.shown = {"electrostatic"};
    t.addLines = addLines;
    t.addAsks = addAsks;
    t.properties = {permittivity(), secondPermittivity(), turnedAxes()};
    t.cards = {{"capacitance", "Capacitance",
                "Capacitances, charge, stored energy, electric field and force; voltages at which "
                "air discharges.",
                capacitanceSheet}};
    using At = Offer::At;
    t.offers = {{"electrode here …", "electrode", "on", At::both, {{"voltage", "1 V"}}, "voltage"},
                {"floating conductor here", "floating", "on", At::both, {}, {}, "F"},
                {"largest |E| here", "largest field", "in", At::regions},
                {"force on it", "force", "on", At::regions},
                {"surface charge here …", "surface charge", "on", At::sides, {}, "density"}};
    // A sheet without a line of any other field is about this one.
    t.claims = [](const Document&) { return true; };
    t.checkLines = checkLines;
    t.checkSheet = checkSheet;
    return t;
}

}  // namespace yh::physics
