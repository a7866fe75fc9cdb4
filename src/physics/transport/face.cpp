// What current and heat say of themselves.
#include "physics/transport/face.h"

#include "sheet/model.h"
#include "sheet/schema_slots.h"

namespace yh::physics {

using namespace sheet;

namespace {

void addLines(std::vector<Kind>& k)
{
    const Slot surroundings{.key = "to",
                            .type = T::quantity,
                            .marker = "to",
                            .dimension = dim::temperature,
                            .fallback = "293.15 K",
                            .range = Range::positive,
                            .help = "temperature of the surroundings",
                            .always = true};
    k.push_back({"contact",
                 "current",
                 "contact",
                 {nameSlot(),
                  {.key = "voltage",
                   .type = T::quantity,
                   .marker = "at",
                   .dimension = dim::voltage,
                   .help = "its potential",
                   .insteadOf = "current",
                   .turnedOver = true},
                  {.key = "current",
                   .type = T::quantity,
                   .marker = "with current",
                   .dimension = dim::current,
                   .help = "current into the device, instead of a potential",
                   .insteadOf = "voltage",
                   .turnedOver = true},
                  placeSlot("on", "on", "sides (or regions) that it covers"),
                  {.key = "film",
                   .type = T::quantity,
                   .marker = "through",
                   .dimension = dim::contactResistance,
                   .range = Range::positive,
                   .help = "specific resistance of the contact, in ohm m^2"},
                  lasting()},
                 "contact A at 1 V on foil.left",
                 "Where current enters or leaves."});
    k.push_back({"joint resistance",
                 "current",
                 "contact resistance",
                 {{.key = "value",
                   .type = T::quantity,
                   .marker = "of",
                   .dimension = dim::contactResistance,
                   .required = true,
                   .range = Range::positive,
                   .help = "resistance times area, ohm m^2"},
                  placeSlot("on", "on", "sides where two regions touch, such as a & b")},
                 "contact resistance of 1e-9 ohm*m^2 on pad & leg",
                 "Resistance to the current where two regions touch."});
    k.push_back({"conducting sheet",
                 "current",
                 "conducting sheet",
                 {nameSlot(),
                  {.key = "thickness",
                   .type = T::quantity,
                   .marker = "of thickness",
                   .dimension = dim::length,
                   .required = true,
                   .range = Range::positive,
                   .help = "its thickness"},
                  {.key = "material",
                   .type = T::text,
                   .marker = "made of",
                   .required = true,
                   .help = "a material with a conductivity"},
                  placeSlot("on", "on", "the sides that it covers")},
                 "conducting sheet F of thickness 18 um made of copper on board.top",
                 "A thin layer that carries current and heat along a side."});
    k.push_back({"held temperature",
                 "heat",
                 "held temperature",
                 {nameSlot(),
                  {.key = "value",
                   .type = T::quantity,
                   .marker = "at",
                   .dimension = dim::temperature,
                   .required = true,
                   .range = Range::positive,
                   .help = "its temperature, such as 20 degC or 293 K"},
                  placeSlot("on", "on", "sides or regions")},
                 "held temperature sink at 293.15 K on base.bottom",
                 "A side or region whose temperature is given."});
    k.push_back({"convection",
                 "heat",
                 "convection",
                 {nameSlot(),
                  {.key = "h",
                   .type = T::quantity,
                   .marker = "of",
                   .dimension = dim::heatTransfer,
                   .required = true,
                   .range = Range::positive,
                   .help = "heat transfer coefficient, W/m^2/K"},
                  surroundings,
                  placeSlot("on", "on", "sides")},
                 "convection air of 10 W/m^2/K to 293.15 K on outer of plate",
                 "Heat carried off by a moving gas or liquid."});
    k.push_back({"joint conductance",
                 "heat",
                 "contact conductance",
                 {{.key = "value",
                   .type = T::quantity,
                   .marker = "of",
                   .dimension = dim::heatTransfer,
                   .required = true,
                   .range = Range::positive,
                   .help = "heat by area and difference of temperature, W/m^2/K"},
                  placeSlot("on", "on", "sides where two regions touch, such as a & b")},
                 "contact conductance of 5 kW/m^2/K on chip & sink",
                 "Thermal contact where two regions touch."});
    k.push_back({"radiation",
                 "heat",
                 "radiation",
                 {nameSlot(),
                  {.key = "emissivity",
                   .type = T::quantity,
                   .marker = "with emissivity",
                   .required = true,
                   .range = Range::positive,
                   .help = "emissivity, 0 to 1"},
                  surroundings,
                  placeSlot("on", "on", "sides")},
                 "radiation glow with emissivity 0.8 to 293.15 K on outer of plate",
                 "Heat radiated to surroundings, by the fourth powers of temperature."});
    k.push_back({"heat flux",
                 "heat",
                 "heat flux",
                 {nameSlot(),
                  {.key = "flux",
                   .type = T::function,
                   .marker = "of",
                   .dimension = dim::heatFlux,
                   .required = true,
                   .help = "heat into the device by area; may depend on place"},
                  placeSlot("on", "on", "sides"),
                  lasting()},
                 "heat flux sun of 800 W/m^2 on plate.top",
                 "Heat that enters through a side."});
    k.push_back({"heat source",
                 "heat",
                 "heat source",
                 {nameSlot(),
                  {.key = "power",
                   .type = T::quantity,
                   .marker = "of",
                   .dimension = dim::power,
                   .help = "heat set free in the place as a whole",
                   .insteadOf = "density"},
                  {.key = "density",
                   .type = T::function,
                   .marker = "by volume",
                   .dimension = dim::powerPerVolume,
                   .help = "heat set free by volume, instead of the whole",
                   .insteadOf = "power"},
                  placeSlot("in", "in", "regions"),
                  lasting()},
                 "heat source chip of 2 W in die",
                 "Heat set free in a region."});
    k.push_back({"perfusion",
                 "heat",
                 "perfusion",
                 {nameSlot(),
                  {.key = "rate",
                   .type = T::quantity,
                   .marker = "of",
                   .dimension = dim::frequency,
                   .required = true,
                   .range = Range::positive,
                   .help = "volume that flows through by volume of tissue and time, 1/s"},
                  {.key = "by",
                   .type = T::quantity,
                   .marker = "at",
                   .dimension = dim::temperature,
                   .fallback = "310.15 K",
                   .range = Range::positive,
                   .help = "temperature of what flows in",
                   .always = true},
                  {.key = "capacity",
                   .type = T::quantity,
                   .marker = "of heat capacity",
                   .dimension = dim::volumeHeatCapacity,
                   .fallback = "3.8 MJ/m^3/K",
                   .range = Range::positive,
                   .help = "heat capacity by volume of what flows; blood has 3.8 MJ/m^3/K"},
                  placeSlot("in", "in", "regions")},
                 "perfusion blood of 0.01/(1 s) at 310.15 K in muscle",
                 "Blood that flows through tissue and brings it to its own temperature."});
    k.push_back({"transient",
                 "heat",
                 "transient",
                 {{.key = "duration",
                   .type = T::quantity,
                   .marker = "over",
                   .dimension = dim::time,
                   .required = true,
                   .range = Range::positive,
                   .help = "how long the device is followed"},
                  {.key = "start",
                   .type = T::quantity,
                   .marker = "from",
                   .dimension = dim::temperature,
                   .fallback = "293.15 K",
                   .range = Range::positive,
                   .help = "temperature everywhere at the start",
                   .always = true}},
                 "transient over 60 s from 293.15 K",
                 "Follows the temperatures over time instead of the steady state.",
                 false,
                 true});
    k.push_back({"current heats",
                 "couplings",
                 "current heats",
                 {placeSlot("in", "", "regions or conducting sheets")},
                 "current heats foil",
                 "Joule heat of the current goes into the heat problem."});
    k.push_back({"resistivity follows temperature",
                 "couplings",
                 "temperature changes resistivity of",
                 {placeSlot("in", "", "regions or conducting sheets")},
                 "temperature changes resistivity of foil",
                 "The conductivity is taken at the temperature of the place, not at 20 degC."});
    k.push_back({"thermoelectric",
                 "couplings",
                 "thermoelectric effects in",
                 {placeSlot("in", "", "regions")},
                 "thermoelectric effects in leg",
                 "Seebeck, Peltier and Thomson effects by the material's Seebeck coefficient."});
}

void addAsks(std::vector<Kind>& k)
{
    const std::string a = "ask";
    auto contactSlot = [](const std::string& key, const std::string& marker, bool required) {
        return Slot{.key = key,
                    .type = T::reference,
                    .marker = marker,
                    .required = required,
                    .refersTo = "contact",
                    .help = "a contact"};
    };
    auto throughSlot = [](const std::string& help) {
        return Slot{.key = "of",
                    .type = T::reference,
                    .marker = "at",
                    .required = true,
                    .refersTo = "held temperature",
                    .help = help,
                    .alsoRefersTo = {"convection", "radiation", "heat flux"}};
    };
    k.push_back({"resistance",
                 a,
                 "resistance",
                 {contactSlot("from", "", true), contactSlot("to", "to", true), within(),
                  limit("below", dim::resistance), limit("above", dim::resistance)},
                 "resistance A to B within 0.5 %",
                 "Voltage between two contacts over the current through the first."});
    k.push_back({"resistance matrix",
                 a,
                 "resistance matrix",
                 {{.key = "reference",
                   .type = T::reference,
                   .marker = "against",
                   .refersTo = "contact",
                   .help = "the contact that voltages are counted from; without it, the first one "
                           "at a voltage"},
                  within()},
                 "resistance matrix against ground within 0.5 %",
                 "Voltage of each contact by the current into each, the others' currents kept.",
                 false,
                 true});
    for (const auto& [key, help] :
         {std::pair{"admittance", "Conductance, susceptance and parallel capacitance."},
          {"impedance", "Resistance, reactance and magnitude."},
          {"loss factor", "Conductance over susceptance (tan delta)."}})
        k.push_back({key,
                     a,
                     key,
                     {contactSlot("from", "", true), contactSlot("to", "to", true), within()},
                     std::string(key) + " A to B within 0.5 %",
                     help});
    k.push_back({"current",
                 a,
                 "current",
                 {contactSlot("of", "through", true), within(), limit("below", dim::current),
                  limit("above", dim::current)},
                 "current through A within 0.5 %",
                 "Current that enters at a contact."});
    k.push_back({"heating power",
                 a,
                 "heating power",
                 {placeSlot("in", "in", "regions or sheets"), within(), limit("below", dim::power)},
                 "heating power in foil within 0.5 %",
                 "Power that the current turns into heat."});
    k.push_back(
        {"largest current density",
         a,
         "largest |J|",
         {placeSlot("in", "in", "regions"), limit("below", dim::currentDensity), within("2 %")},
         "largest |J| in foil within 2 %",
         "Where the current crowds."});
    for (const char* which : {"highest", "lowest", "mean"})
        k.push_back(
            {std::string(which) + " temperature",
             a,
             std::string(which) + " temperature",
             {placeSlot("in", "in", "regions"), afterTime(), limit("below", dim::temperature),
              limit("above", dim::temperature), within("0.5 %")},
             std::string(which) + " temperature in plate within 0.5 %",
             "Accuracy is relative to the temperature rise over the coldest given one."});
    k.push_back({"time to reach",
                 a,
                 "time until",
                 {{.key = "which",
                   .type = T::choice,
                   .fallback = "highest",
                   .choices = {"highest", "mean", "lowest"},
                   .help = "which temperature of the place",
                   .always = true},
                  placeSlot("in", "temperature in", "regions"),
                  {.key = "value",
                   .type = T::quantity,
                   .marker = "passes",
                   .dimension = dim::temperature,
                   .required = true,
                   .range = Range::positive,
                   .help = "the temperature that is reached"},
                  limit("below", dim::time),
                  limit("above", dim::time),
                  within("1 %")},
                 "time until highest temperature in pad passes 320 K within 1 %",
                 "When a temperature first passes a value (transients)."});
    k.push_back({"temperature at",
                 a,
                 "temperature at",
                 {{.key = "at", .type = T::point, .required = true, .help = "the point"},
                  afterTime(),
                  within("0.5 %"),
                  limit("below", dim::temperature)},
                 "temperature at 0, 1 mm within 0.5 %",
                 "Temperature at a point."});
    k.push_back({"heat flow",
                 a,
                 "heat flow",
                 {{.key = "of",
                   .type = T::reference,
                   .marker = "through",
                   .required = true,
                   .refersTo = "held temperature",
                   .help = "a held temperature, convection or radiation",
                   .alsoRefersTo = {"convection", "radiation", "heat flux"}},
                  afterTime(),
                  within(),
                  limit("below", dim::power)},
                 "heat flow through sink within 0.5 %",
                 "Heat that leaves the device there."});
    k.push_back({"performance",
                 a,
                 "coefficient of performance",
                 {throughSlot("where the heat that is pumped comes in"), within()},
                 "coefficient of performance at load within 0.5 %",
                 "Heat that comes in there over the electric power taken in."});
    k.push_back({"generator efficiency",
                 a,
                 "generator efficiency",
                 {throughSlot("where the heat comes in"), within()},
                 "generator efficiency at hot within 0.5 %",
                 "Electric power given out over the heat that comes in there."});
    k.push_back({"melted share",
                 a,
                 "melted share",
                 {placeSlot("in", "of", "regions"),
                  {.key = "melting",
                   .type = T::quantity,
                   .marker = "melting at",
                   .dimension = dim::temperature,
                   .range = Range::positive,
                   .help = "without it, the melting point or limit of the material"},
                  afterTime(),
                  within("1 %"),
                  limit("below", dim::none)},
                 "melted share of pad within 1 %",
                 "Share of the volume that is molten; the accuracy is a share of the whole."});
}

void checkLines(const Model& model, base::Faults& faults)
{
    const Document& document = model.document();
    for (const Line* l : document.ofKind("contact")) {
        if (l->has("voltage") && l->has("current"))
            faults.push_back({2022,
                              {l->id, "current", 0},
                              "contact " + l->name() + " is given " + l->get("voltage") + " and " +
                                  l->get("current") + "; state one of them"});
        else if (!l->has("voltage") && !l->has("current"))
            faults.push_back(
                {2023, {l->id, "voltage", -1}, "its potential or its current is missing", true});
    }
    for (const Line* l : document.ofKind("heat source")) {
        if (l->has("power") && l->has("density"))
            faults.push_back({2025,
                              {l->id, "density", 0},
                              "heat source " + l->name() +
                                  " is given as a whole and by volume; state one of them"});
        else if (!l->has("power") && !l->has("density"))
            faults.push_back({2026, {l->id, "power", -1}, "its power is missing", true});
    }
    for (const Line* l : document.ofKind("radiation"))
        if (l->has("emissivity") && model.slotFaults(*l).empty() &&
            model.number(*l, "emissivity") > 1)
            faults.push_back({2027, {l->id, "emissivity", 0}, "an emissivity is at most 1"});
}

Document heatingSheet()
{
    Document d;
    d.add("aim", {{"text", "The resistance of …, and how warm it gets"}});
    d.add("space", {{"type", "plane"}, {"depth", "1 mm"}});
    d.add("mesh", {});
    d.add("contact", {{"name", "A"}, {"voltage", "1 V"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}});
    d.add("convection", {{"name", "air"}, {"h", "10 W/m^2/K"}});
    d.add("current heats", {});
    d.add("resistance", {{"from", "A"}, {"to", "B"}});
    d.add("highest temperature", {});
    return d;
}

Document thermoelectricSheet()
{
    Document d;
    d.add("aim", {{"text", "The temperature and voltage of …"}});
    d.add("space", {{"type", "plane"}, {"depth", "1 mm"}});
    d.add("mesh", {});
    d.add("contact", {{"name", "A"}, {"current", "1 A"}});
    d.add("contact", {{"name", "B"}, {"voltage", "0 V"}});
    d.add("held temperature", {{"name", "base"}, {"value", "300 K"}});
    d.add("thermoelectric", {});
    d.add("lowest temperature", {});
    d.add("voltage", {{"of", "A"}});
    d.add("heat flow", {{"of", "base"}});
    return d;
}

}  // namespace

void refuseElectrostaticLines(const Model& model, base::Faults& faults)
{
    for (const char* kind : {"electrode", "floating", "space charge", "surface charge"})
        if (const Line* l = model.document().first(kind))
            faults.push_back(
                {2050,
                 {l->id, {}, -1},
                 "one sheet solves either the electrostatic field or current and heat; "
                 "take these lines to a sheet of their own"});
}

std::vector<Offer> transportOffers()
{
    using At = Offer::At;
    return {
        {"contact here …", "contact", "on", At::both, {{"voltage", "1 V"}}, "voltage"},
        {"held temperature here …",
         "held temperature",
         "on",
         At::both,
         {{"value", "293.15 K"}},
         "value",
         "base"},
        {"convection here …", "convection", "on", At::both, {{"h", "10 W/m^2/K"}}, "h"},
        {"radiation here …", "radiation", "on", At::both, {{"emissivity", "0.8"}}, "emissivity"},
        {"heat source here …",
         "heat source",
         "in",
         At::regions,
         {{"power", "1 W"}},
         "power",
         "source"},
        {"highest temperature here", "highest temperature", "in", At::regions},
        {"largest |J| here", "largest current density", "in", At::regions}};
}

Topic transportTopic()
{
    Topic t;
    t.key = "transport";
    t.order = 20;
    t.sections = {{"current", "Current", "contact or sheet"},
                  {"heat", "Heat", "heat condition"},
                  {"couplings", "Couplings", "coupling"}};
    t.shown = {"current", "heat", "couplings"};
    t.addLines = addLines;
    t.addAsks = addAsks;
    t.properties = {
        conductivity(),
        massDensity(),
        {70, ofTemperature("k", "k", dim::thermalConductivity, "thermal conductivity")},
        {80, ofTemperature("seebeck", "Seebeck", dim::seebeck, "Seebeck coefficient", Range::any)},
        {100, ofTemperature("heatCapacity", "heat capacity", dim::heatCapacity,
                            "heat capacity by mass")},
        {110,
         {.key = "latent",
          .type = T::quantity,
          .marker = "latent heat",
          .dimension = dim::latentHeat,
          .range = Range::positive,
          .help = "heat of melting by mass (transients)"}},
        {120,
         {.key = "melting",
          .type = T::quantity,
          .marker = "melting at",
          .dimension = dim::temperature,
          .range = Range::positive,
          .help = "temperature at which it melts"}},
        {130,
         {.key = "meltingRange",
          .type = T::quantity,
          .marker = "over",
          .dimension = dim::temperature,
          .fallback = "2 K",
          .range = Range::positive,
          .help = "range of temperature over which it melts"}},
        {140,
         {.key = "limit",
          .type = T::quantity,
          .marker = "up to",
          .dimension = dim::temperature,
          .range = Range::positive,
          .help = "temperature that it must not pass, such as its melting point"}}};
    t.cards = {
        {"heating", "Resistance and heating",
         "Resistance, current and where it crowds; temperatures with convection and radiation.",
         heatingSheet},
        {"thermoelectric", "Thermoelectric",
         "Seebeck, Peltier and Thomson effects: the cold temperature, the voltage, the heat "
         "pumped.",
         thermoelectricSheet}};
    t.offers = transportOffers();
    t.claims = [](const Document& d) {
        return usesSection(d, "current") || usesSection(d, "heat") || usesSection(d, "couplings");
    };
    t.checkLines = checkLines;
    t.checkSheet = refuseElectrostaticLines;
    return t;
}

}  // namespace yh::physics
