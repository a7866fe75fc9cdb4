// What magnets and coils say of themselves.
#include "sheet/materials.h"
#include "sheet/model.h"
#include "sheet/schema_slots.h"

namespace yh::physics {

using namespace sheet;

namespace {

const std::string magnetic = "magnetic";
constexpr base::Dimension speed = dim::of(1, 0, -1);

void addSources(std::vector<Kind>& k)
{
    k.push_back({"magnet",
                 magnetic,
                 "magnet",
                 {nameSlot(),
                  placeSlot("in", "in", "the regions it fills"),
                  {.key = "remanence",
                   .type = T::quantity,
                   .marker = "with remanence",
                   .dimension = dim::fluxDensity,
                   .range = Range::positive,
                   .help = "B where H is zero",
                   .insteadOf = "curve"},
                  {.key = "recoil",
                   .type = T::quantity,
                   .marker = "recoil",
                   .fallback = "1.05",
                   .range = Range::positive,
                   .help = "relative recoil permeability, also across its direction"},
                  {.key = "curve",
                   .type = T::reference,
                   .marker = "by curve",
                   .refersTo = "magnetisation curve",
                   .help = "its demagnetising curve, instead of a remanence",
                   .insteadOf = "remanence"},
                  {.key = "along",
                   .type = T::direction,
                   .marker = "along",
                   .required = true,
                   .help = "from its south to its north pole: x, -y, or components; round an axis "
                           "r or z",
                   .turnedOver = true}},
                 "magnet M in body with remanence 1.2 T along y",
                 "A permanent magnet, magnetised along one direction."});
    k.push_back({"coil",
                 magnetic,
                 "coil",
                 {nameSlot(),
                  {.key = "turns",
                   .type = T::count,
                   .marker = "of",
                   .fallback = "1",
                   .suffix = "turns",
                   .help = "turns in series, spread evenly",
                   .always = true},
                  {.key = "current",
                   .type = T::quantity,
                   .marker = "at",
                   .dimension = dim::current,
                   .required = true,
                   .help = "in each turn",
                   .turnedOver = true},
                  placeSlot("in", "in",
                            "regions where the current comes towards the viewer; round an axis, "
                            "where it turns so that its field on the axis points along z"),
                  {.key = "back",
                   .type = T::place,
                   .marker = "and back in",
                   .help = "regions where it goes back (plane)",
                   .opposite = true},
                  {.key = "about",
                   .type = T::direction,
                   .marker = "about",
                   .help = "solids: what the current turns about, as a right-handed screw goes on; "
                           "its field in its middle points there",
                   .turnedOver = true}},
                 "coil C of 200 turns at 0.5 A in winding and back in winding2",
                 "Turns that carry a current."});
    k.push_back({"magnetisation curve",
                 magnetic,
                 "curve",
                 {nameSlot(),
                  {.key = "table",
                   .type = T::text,
                   .marker = "of",
                   .required = true,
                   .help = "two quantities with their units, then their numbers in pairs, as a "
                           "data sheet prints them: B, J or M over H or μ0 H"}},
                 "curve S of H (A/m), B (T): 0, 0; 200, 0.9; 2000, 1.5; 20000, 1.9",
                 "Magnetisation of a steel from zero, or of a magnet below zero."});
    k.push_back({"motion",
                 magnetic,
                 "motion",
                 {placeSlot("in", "of",
                            "conductors that move past magnets and coils, endless along "
                            "their way"),
                  {.key = "speed",
                   .type = T::quantity,
                   .marker = "at",
                   .dimension = speed,
                   .required = true,
                   .help = "how fast"},
                  {.key = "along",
                   .type = T::direction,
                   .marker = "along",
                   .required = true,
                   .help = "which way: x, -y, or components; round an axis z"}},
                 "motion of sleeve at 0.4 m/s along z",
                 "Conductors that slide evenly past magnets: induced currents and drag.",
                 false,
                 true});
    k.push_back({"alternation",
                 magnetic,
                 "currents alternate at",
                 {{.key = "frequency",
                   .type = T::quantity,
                   .dimension = dim::frequency,
                   .required = true,
                   .range = Range::positive,
                   .help = "coils' currents are peak values then"}},
                 "currents alternate at 50 Hz",
                 "Coils carry alternating currents, and media between them induced ones.",
                 false,
                 true});
    k.push_back({"flux wall",
                 magnetic,
                 "flux wall",
                 {placeSlot("on", "on", "edges")},
                 "flux wall on box.left",
                 "Edges that no flux crosses, as those of a superconductor."});
    k.push_back(
        {"flux at the edge",
         magnetic,
         "flux at the outer edge",
         {{.key = "way",
           .type = T::choice,
           .required = true,
           .choices = {"goes on into open space", "does not leave", "leaves at right angles"},
           .help = "open space goes on to infinity; at right angles it leaves into iron",
           .goesOn = "goes on into open space"}},
         "flux at the outer edge goes on into open space",
         "What is beyond the drawing.",
         false,
         true});
}

Slot at()
{
    return {.key = "at", .type = T::point, .marker = "at", .required = true, .help = "the point"};
}

Slot coilSlot(const std::string& key, bool required)
{
    return {.key = key,
            .type = T::reference,
            .marker = key,
            .required = required,
            .refersTo = "coil",
            .help = required ? "a coil" : "the other coil; without it, of the one alone"};
}

void addAsks(std::vector<Kind>& k)
{
    const std::string a = "ask";
    Slot point = at();
    point.marker.clear();
    k.push_back(
        {"flux density at",
         a,
         "|B| at",
         {point, within(), limit("above", dim::fluxDensity), limit("below", dim::fluxDensity)},
         "|B| at 0, 5 mm within 0.5 %",
         "Size of the flux density at a point."});
    k.push_back({"flux density along",
                 a,
                 "B along",
                 {{.key = "along",
                   .type = T::direction,
                   .required = true,
                   .help = "x, y, or components; round an axis r or z"},
                  at(),
                  within(),
                  limit("above", dim::fluxDensity),
                  limit("below", dim::fluxDensity)},
                 "B along y at 0, 5 mm within 0.5 %",
                 "A component of the flux density at a point, with its sign."});
    k.push_back({"field strength at",
                 a,
                 "|H| at",
                 {point, within()},
                 "|H| at 0, 5 mm within 0.5 %",
                 "Size of the magnetic field strength at a point."});
    k.push_back(
        {"largest flux density",
         a,
         "largest |B|",
         {placeSlot("in", "in", "regions"), within("2 %"), limit("below", dim::fluxDensity)},
         "largest |B| in core below 1.6 T",
         "The strongest flux density in a region."});
    k.push_back({"mean flux density",
                 a,
                 "mean |B|",
                 {placeSlot("in", "in", "regions"), within("1 %")},
                 "mean |B| in gap within 1 %",
                 "The volume mean of its size."});
    k.push_back({"flux linkage",
                 a,
                 "flux linkage",
                 {coilSlot("of", true), within(), limit("above", dim::flux)},
                 "flux linkage of C within 0.5 %",
                 "Flux through all turns of a coil."});
    k.push_back({"inductance",
                 a,
                 "inductance",
                 {coilSlot("of", true), coilSlot("to", false), within(),
                  limit("above", dim::inductance), limit("below", dim::inductance)},
                 "inductance of C within 0.5 %",
                 "By how much a flux linkage rises with a current, at the state as it is."});
    k.push_back({"inductance matrix",
                 a,
                 "inductance matrix",
                 {within()},
                 "inductance matrix within 0.5 %",
                 "Self and mutual inductances of all coils.",
                 false,
                 true});
    k.push_back({"co-energy",
                 a,
                 "co-energy",
                 {within()},
                 "co-energy within 0.5 %",
                 "Integral of B over H, in all of space."});
    k.push_back({"coil impedance",
                 a,
                 "coil impedance",
                 {coilSlot("of", true), within()},
                 "coil impedance of C within 0.5 %",
                 "Inductance of a coil, and the resistance that induced currents bring into it."});
    k.push_back(
        {"drag",
         a,
         "drag",
         {{.key = "up",
           .type = T::quantity,
           .marker = "up to",
           .dimension = speed,
           .range = Range::positive,
           .help = "last speed of the curve; without it, twice that of the motion"},
          within("1 %")},
         "drag up to 2 m/s within 1 %",
         "Force with which induced currents brake the motion, and its curve over the speed.",
         false,
         true});
    k.push_back({"terminal speed",
                 a,
                 "terminal speed",
                 {{.key = "mass",
                   .type = T::quantity,
                   .marker = "of mass",
                   .dimension = dim::of(0, 1, 0),
                   .required = true,
                   .range = Range::positive,
                   .help = "what sinks"},
                  {.key = "force",
                   .type = T::quantity,
                   .marker = "pulled by",
                   .dimension = dim::force,
                   .range = Range::positive,
                   .help = "instead of its weight"},
                  within("1 %")},
                 "terminal speed of mass 25 g within 1 %",
                 "Speed at which the drag carries a weight, and how it is reached from rest.",
                 false,
                 true});
    k.push_back({"working points",
                 a,
                 "working points",
                 {{.key = "of",
                   .type = T::reference,
                   .marker = "of",
                   .required = true,
                   .refersTo = "magnet",
                   .help = "a magnet"},
                  within("1 %")},
                 "working points of M within 1 %",
                 "Mean B and H of a magnet along its direction, and a picture of all its points."});
}

void checkLines(const Model& model, base::Faults& faults)
{
    for (const Line* l : model.document().ofKind("magnet"))
        if (!l->has("remanence") && !l->has("curve"))
            faults.push_back(
                {2072, {l->id, "remanence", -1}, "its remanence or its curve is missing", true});
        else if (l->has("remanence") && l->has("curve"))
            faults.push_back({2073,
                              {l->id, "curve", 0},
                              "a remanence and a curve are both stated; state one of them"});
    const bool solid = model.space() == Space::solid;
    for (const Line* l : model.document().ofKind("coil")) {
        if (model.space() != Space::plane && l->has("back"))
            faults.push_back({2074,
                              {l->id, "back", 0},
                              solid ? "in solids a winding is drawn whole, with its way back: take "
                                      "`and back in` away"
                                    : "round an axis a turn closes by itself: take `and back in` "
                                      "away"});
        if (solid && !l->has("about"))
            faults.push_back({2082,
                              {l->id, "about", -1},
                              "about which direction does its current turn? as in `coil C of 200 "
                              "turns at 0.5 A in winding about z`",
                              true});
        if (!solid && l->has("about"))
            faults.push_back({2083,
                              {l->id, "about", 0},
                              "in drawings the current points at the viewer or round the axis: "
                              "take `about` away, or make the sheet one of solids"});
    }
}

void checkSheet(const Model& model, base::Faults& faults)
{
    const Document& d = model.document();
    if (!d.first("magnet") && !d.first("coil"))
        faults.push_back({2076,
                          {-1, magnetic, -1},
                          "no magnet and no coil yet: nothing drives the field",
                          true});
    if (!d.first("motion"))
        for (const char* kind : {"drag", "terminal speed"})
            if (const Line* l = d.first(kind))
                faults.push_back({2080,
                                  {l->id, {}, -1},
                                  "nothing moves yet: add a line such as `motion of sleeve at 0.4 "
                                  "m/s along z`",
                                  true});
    if (!d.first("alternation"))
        if (const Line* l = d.first("coil impedance"))
            faults.push_back({2081,
                              {l->id, {}, -1},
                              "at which frequency? add a line such as `currents alternate at 50 "
                              "Hz`, or ask for the inductance alone",
                              true});
    if (!d.first("flux at the edge"))
        faults.push_back({2077,
                          {-1, "flux at the edge", -1},
                          "flux at the outer edge: does it go on into open space? choose",
                          true});
    if (const Line* wedge = d.first("wedge symmetry"))
        faults.push_back(
            {2078, {wedge->id, {}, -1}, "magnets and coils have no wedges yet; draw the whole"});
}

Document magnetSheet()
{
    Document d;
    d.add("aim", {{"text", "The flux density … of a magnet or coil"}});
    d.add("space", {{"type", "plane"}, {"depth", "10 mm"}});
    d.add("mesh", {});
    d.add("flux at the edge", {{"way", "goes on into open space"}});
    d.add("magnet", {{"name", "M"}, {"remanence", "1.2 T"}});
    d.add("flux density at", {});
    return d;
}

Document pickUpSheet()
{
    Document d;
    d.add("aim", {{"text", "The voltage of a pick-up while … turns past it"}});
    d.add("parameter", {{"name", "turn"}, {"value", "0 deg"}});
    d.add("space", {{"type", "solid"}});
    d.add("mesh", {});
    d.add("flux at the edge", {{"way", "goes on into open space"}});
    d.add("magnet", {{"name", "M"}, {"remanence", "1.1 T"}});
    d.add("coil", {{"name", "C"}, {"turns", "500"}, {"current", "0 A"}, {"about", "z"}});
    d.add("flux linkage", {{"of", "C"}, {"within", "2 %"}});
    d.add("sweep", {{"parameter", "turn"},
                    {"from", "0 deg"},
                    {"to", "30 deg"},
                    {"steps", "7"},
                    {"course", "with slopes"},
                    {"time", "5 ms"}});
    return d;
}

Document brakeSheet()
{
    Document d;
    d.add("aim", {{"text", "How … is braked by the currents that it induces"}});
    d.add("space", {{"type", "axisymmetric"}});
    d.add("mesh", {});
    d.add("flux at the edge", {{"way", "goes on into open space"}});
    d.add("magnet", {{"name", "M"}, {"remanence", "1.2 T"}, {"along", "z"}});
    d.add("motion", {{"speed", "0.1 m/s"}, {"along", "z"}});
    d.add("drag", {});
    d.add("terminal speed", {});
    return d;
}

}  // namespace

Topic magneticTopic()
{
    Topic t;
    t.key = "magnetic";
    t.order = 35;
    t.sections = {{magnetic, "Magnets and coils", "magnet or coil"}};
    t.shown = {magnetic};
    t.addLines = addSources;
    t.addAsks = addAsks;
    Property curve{35,
                   {.key = "curve",
                    .type = T::reference,
                    .marker = "along curve",
                    .refersTo = "magnetisation curve",
                    .help = "its magnetisation curve (magnets and coils)"}};
    t.properties = {permeability(), conductivity(), curve};
    t.cards = {{"magnet", "Magnets and coils",
                "Flux density, force, flux linkage and inductance of magnets, coils and steel that "
                "saturates.",
                magnetSheet},
               {"pick-up", "Pick-up and lifting magnet",
                "Solids: the voltage of a coil while iron turns past it, the pull of a racetrack "
                "coil.",
                pickUpSheet},
               {"brake", "Eddy current brake",
                "Drag on a conductor that slides past magnets, over speed; the speed at which "
                "something sinks.",
                brakeSheet}};
    using At = Offer::At;
    t.offers = {
        {"magnet here …", "magnet", "in", At::regions, {{"remanence", "1.2 T"}}, "along", "M"},
        {"coil here …", "coil", "in", At::regions, {{"turns", "100"}}, "current", "C"},
        {"force on it", "force", "on", At::regions},
        {"mean |B| here", "mean flux density", "in", At::regions},
        {"largest |B| here", "largest flux density", "in", At::regions}};
    t.claims = [](const Document& d) { return usesSection(d, magnetic); };
    t.givesHeat = true;
    t.checkLines = checkLines;
    t.checkSheet = checkSheet;
    return t;
}

}  // namespace yh::physics
