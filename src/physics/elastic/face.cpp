// What elastic and piezoelectric bodies say of themselves.
#include "physics/elastic/face_crystals.h"
#include "sheet/model.h"
#include "sheet/schema_slots.h"

namespace yh::physics {

using namespace sheet;

namespace {

const std::string mechanics = "mechanics";
constexpr base::Dimension acceleration = dim::of(1, 0, -2), compliance = dim::of(1, -1, 2),
                          chargeByForce = dim::of(-1, -1, 3, 1);

Slot alongSlot(const std::string& help)
{
    return {.key = "along",
            .type = T::direction,
            .marker = "along",
            .required = true,
            .help = help + ": x, -y, or components; round an axis r or z"};
}

void addSupports(std::vector<Kind>& k)
{
    k.push_back({"poling",
                 mechanics,
                 "poled",
                 {placeSlot("in", "", "regions of a piezoelectric material"),
                  alongSlot("which way its third axis, that of the poling, points")},
                 "poled ceramic along y",
                 "The axis of a piezoelectric ceramic or crystal."});
    k.push_back({"fixed",
                 mechanics,
                 "fixed",
                 {placeSlot("on", "on", "edges that cannot move")},
                 "fixed on beam.left",
                 "Edges that are held in place."});
    k.push_back({"roller",
                 mechanics,
                 "roller",
                 {placeSlot("on", "on", "straight edges that slide along themselves")},
                 "roller on plate.left",
                 "Edges that slide along themselves but do not move across."});
    k.push_back({"pressure load",
                 mechanics,
                 "pressure load",
                 {{.key = "pressure",
                   .type = T::quantity,
                   .dimension = dim::pressure,
                   .required = true,
                   .help = "towards the body; it alternates where the body vibrates"},
                  placeSlot("on", "on", "edges")},
                 "pressure load 10 kPa on plate.top",
                 "A pressure on edges."});
    k.push_back({"pull",
                 mechanics,
                 "pull",
                 {{.key = "force",
                   .type = T::quantity,
                   .marker = "of",
                   .dimension = dim::force,
                   .required = true,
                   .help = "in all, spread evenly; it alternates where the body vibrates"},
                  alongSlot("which way it pulls"),
                  placeSlot("on", "on", "edges")},
                 "pull of 2 N along -y on beam.right",
                 "A force, spread evenly over edges."});
    k.push_back({"weight",
                 mechanics,
                 "weight",
                 {alongSlot("which way is down"),
                  {.key = "acceleration",
                   .type = T::quantity,
                   .marker = "of",
                   .dimension = acceleration,
                   .fallback = "9.80665 m/s^2",
                   .help = "acceleration of free fall"}},
                 "weight along -y",
                 "Gravity, or the acceleration of what carries the device.",
                 false,
                 true});
    k.push_back({"across the drawing",
                 mechanics,
                 "across the drawing",
                 {{.key = "is",
                   .type = T::choice,
                   .required = true,
                   .choices = {"held (plane strain)", "free (plane stress)"},
                   .help = "held: far longer across the drawing than in it; free: far thinner"}},
                 "across the drawing free (plane stress)",
                 "Whether a plane device can grow thicker.",
                 false,
                 true});
    k.push_back({"vibration",
                 mechanics,
                 "vibration",
                 {{.key = "from",
                   .type = T::quantity,
                   .marker = "from",
                   .dimension = dim::frequency,
                   .required = true,
                   .range = Range::positive,
                   .help = "where the band begins; voltages and loads are peak values"},
                  {.key = "to",
                   .type = T::quantity,
                   .marker = "to",
                   .dimension = dim::frequency,
                   .required = true,
                   .range = Range::positive,
                   .help = "where it ends"},
                  {.key = "steps",
                   .type = T::count,
                   .marker = "in",
                   .fallback = "1000",
                   .suffix = "frequencies",
                   .help = "of the curves",
                   .always = true,
                   .most = 1e5}},
                 "vibration from 0.5 MHz to 2.5 MHz in 1000 frequencies",
                 "Voltages and loads alternate, over a band of frequencies.",
                 false,
                 true});
    k.push_back(
        {"natural vibrations",
         mechanics,
         "natural vibrations",
         {{.key = "count", .type = T::count, .required = true, .help = "how many of the lowest"}},
         "natural vibrations 6",
         "The lowest frequencies at which the body vibrates by itself.",
         false,
         true});
}

Slot electrodeSlot()
{
    return {.key = "of",
            .type = T::reference,
            .marker = "of",
            .required = true,
            .refersTo = "electrode",
            .help = "an electrode; all others keep 0 V"};
}
Slot frequencySlot(bool required)
{
    return {
        .key = "frequency",
        .type = T::quantity,
        .marker = required ? "at" : "vibrating at",
        .dimension = dim::frequency,
        .required = required,
        .range = Range::positive,
        .help = required ? "a frequency of the band" : "a frequency of the band, if there is one"};
}
Slot numberSlot()
{
    return {.key = "number",
            .type = T::count,
            .marker = "number",
            .help = "among those in the band; without it, the strongest"};
}

void addAsks(std::vector<Kind>& k)
{
    const std::string a = "ask";
    k.push_back({"impedance curve",
                 a,
                 "impedance curve",
                 {electrodeSlot(), within("2 %")},
                 "impedance curve of A within 2 %",
                 "Size and phase of an electrode's impedance over the band."});
    k.push_back({"impedance at",
                 a,
                 "|Z|",
                 {electrodeSlot(), frequencySlot(true), within(), limit("below", dim::resistance),
                  limit("above", dim::resistance)},
                 "|Z| of A at 1.2 MHz within 0.5 %",
                 "Size and phase of an electrode's impedance at a frequency."});
    k.push_back({"electrical resonance",
                 a,
                 "resonance and antiresonance",
                 {electrodeSlot(), numberSlot(), within("0.1 %")},
                 "resonance and antiresonance of A within 0.1 %",
                 "Frequencies of largest conductance and resistance of an electrode, its effective "
                 "coupling and mechanical Q."});
    k.push_back({"equivalent circuit",
                 a,
                 "equivalent circuit",
                 {electrodeSlot(), numberSlot(), within("1 %")},
                 "equivalent circuit of A within 1 %",
                 "A resonance as L1, C1, R1 in series beside C0."});
    k.push_back({"natural frequency",
                 a,
                 "natural frequency",
                 {{.key = "mode", .type = T::count, .required = true, .help = "its number, from 1"},
                  within("0.1 %"),
                  limit("below", dim::frequency),
                  limit("above", dim::frequency)},
                 "natural frequency 1 within 0.1 %",
                 "Frequency of a natural vibration."});
    k.push_back(
        {"displacement",
         a,
         "displacement",
         {alongSlot("which component"),
          {.key = "at", .type = T::point, .marker = "at", .required = true, .help = "the point"},
          frequencySlot(false),
          within("1 %"),
          limit("below", dim::length),
          limit("above", dim::length)},
         "displacement along y at 0, 1 mm within 1 %",
         "How far a point moves."});
    k.push_back({"largest stress",
                 a,
                 "largest stress",
                 {placeSlot("in", "in", "regions"), frequencySlot(false), within("2 %"),
                  limit("below", dim::pressure)},
                 "largest stress in beam below 20 MPa",
                 "The largest equivalent stress (von Mises) in a region."});
}

void checkLines(const Model& model, base::Faults& faults)
{
    for (const Line* l : model.document().ofKind("material"))
        if (l->has("quality") && l->has("mechanical loss"))
            faults.push_back({2090,
                              {l->id, "quality", 0},
                              "state its mechanical Q or its mechanical tan δ, which is 1/Q"});
}

void checkSheet(const Model& model, base::Faults& faults)
{
    const Document& d = model.document();
    if (model.space() == Space::solid)
        faults.push_back({2091,
                          {d.first("space") ? d.first("space")->id : -1, "type", 0},
                          "elastic bodies are solved in the plane and round an axis so far"});
    if (model.space() == Space::axisymmetric)
        if (const Line* l = d.first("across the drawing"))
            faults.push_back(
                {2092, {l->id, {}, -1}, "round an axis nothing is across the drawing"});
    if (d.first("vibration"))
        if (const Line* l = d.first("natural vibrations"))
            faults.push_back({2093,
                              {l->id, {}, -1},
                              "natural vibrations and a driven band are two sheets: take one of "
                              "them away"});
    for (const char* kind : {"wedge symmetry", "periodic pair"})
        if (const Line* l = d.first(kind))
            faults.push_back({2094,
                              {l->id, {}, -1},
                              "elastic bodies have no such symmetry yet; draw the whole"});
    for (const char* kind : {"space charge", "surface charge"})
        if (const Line* l = d.first(kind))
            faults.push_back(
                {2095, {l->id, {}, -1}, "elastic bodies hold no charges beside electrodes"});
}

Document impedanceSheet()
{
    Document d;
    d.add("aim", {{"text", "The impedance of …"}});
    d.add("space", {{"type", "plane"}, {"depth", "10 mm"}});
    d.add("material", {{"material", "soft PZT"}});
    d.add("mesh", {});
    d.add("poling", {{"along", "y"}});
    d.add("vibration", {{"from", "0.2 MHz"}, {"to", "2 MHz"}});
    d.add("electrode", {{"name", "A"}, {"voltage", "1 V"}});
    d.add("electrode", {{"name", "B"}, {"voltage", "0 V"}});
    d.add("impedance curve", {{"of", "A"}});
    d.add("electrical resonance", {{"of", "A"}});
    return d;
}

Document vibrationSheet()
{
    Document d;
    d.add("aim", {{"text", "Natural frequencies of …"}});
    d.add("space", {{"type", "plane"}, {"depth", "10 mm"}});
    d.add("material", {{"material", "steel"}});
    d.add("mesh", {});
    d.add("fixed", {});
    d.add("natural vibrations", {{"count", "4"}});
    d.add("natural frequency", {{"mode", "1"}});
    return d;
}

Document bendingSheet()
{
    Document d;
    d.add("aim", {{"text", "How far … moves under its load"}});
    d.add("space", {{"type", "plane"}, {"depth", "10 mm"}});
    d.add("material", {{"material", "steel"}});
    d.add("mesh", {});
    d.add("fixed", {});
    d.add("pull", {{"force", "1 N"}, {"along", "-y"}});
    d.add("displacement", {{"along", "y"}});
    d.add("largest stress", {});
    return d;
}

std::vector<Property> properties()
{
    std::vector<Property> list;
    auto add = [&list, order = 200](const std::string& key, const std::string& marker,
                                    base::Dimension d, const std::string& help,
                                    Range range = Range::any) mutable {
        list.push_back({order++,
                        {.key = key,
                         .type = T::quantity,
                         .marker = marker,
                         .dimension = d,
                         .range = range,
                         .help = help}});
    };
    add("E", "E", dim::pressure, "Young's modulus", Range::positive);
    add("nu", "ν", dim::none, "Poisson's ratio");
    for (const char* key : {"c11", "c12", "c13", "c14", "c33", "c44", "c66"})
        add(key, key, dim::pressure,
            "stiffness at constant field; without c13 and c33 that of a cubic crystal");
    for (const char* key : {"s11", "s12", "s13", "s14", "s33", "s44", "s66"})
        add(key, key, compliance, "compliance at constant field, instead of stiffness");
    for (const char* key : {"e15", "e22", "e31", "e33"})
        add(key, key, dim::chargePerArea, "piezoelectric constant, beside ε at constant strain");
    for (const char* key : {"d15", "d22", "d31", "d33"})
        add(key, key, chargeByForce,
            "piezoelectric constant, instead of e, beside ε at constant stress");
    add("eps11", "ε11", dim::none,
        "relative permittivity across the poling: at constant strain beside e, at constant stress "
        "beside d",
        Range::positive);
    add("eps33", "ε33", dim::none, "the same along the poling", Range::positive);
    add("quality", "mechanical Q", dim::none, "1 over its mechanical loss factor", Range::positive);
    add("mechanical loss", "mechanical tan δ", dim::none, "its mechanical loss factor, 1/Q",
        Range::positive);
    list.push_back(lossTangent());
    list.push_back(massDensity());
    list.push_back(permittivity());
    return list;
}

std::vector<TopicMaterial> crystals()
{
    std::vector<TopicMaterial> list;
    for (const KnownCrystal& k : knownCrystals()) {
        TopicMaterial m{k.name, "piezoelectric, " + k.source, {}};
        auto add = [&](const char* what, double value, const base::Dimension& d,
                       const char* holds) {
            if (value != 0)
                m.statements.push_back({what, base::format(value, d, 5), holds, k.source});
        };
        const char *field = "constant field", *strain = "constant strain", *room = "20 °C";
        add("c11", k.c11, dim::pressure, field);
        add("c12", k.c12, dim::pressure, field);
        add("c13", k.c13, dim::pressure, field);
        add("c14", k.c14, dim::pressure, field);
        add("c33", k.c33, dim::pressure, field);
        add("c44", k.c44, dim::pressure, field);
        add("e15", k.e15, dim::chargePerArea, room);
        add("e22", k.e22, dim::chargePerArea, room);
        add("e31", k.e31, dim::chargePerArea, room);
        add("e33", k.e33, dim::chargePerArea, room);
        add("ε11", k.eps11, dim::none, strain);
        add("ε33", k.eps33, dim::none, strain);
        add("density", k.density, dim::density, room);
        add("mechanical Q", k.quality, dim::none, room);
        add("tan δ", k.loss, dim::none, room);
        list.push_back(std::move(m));
    }
    return list;
}

}  // namespace

Topic elasticTopic()
{
    Topic t;
    t.key = "elastic";
    t.order = 80;
    t.sections = {{mechanics, "Elastic body", "support or load"}};
    t.shown = {mechanics, "electrostatic"};
    t.addLines = addSupports;
    t.addAsks = addAsks;
    t.properties = properties();
    t.materials = crystals();
    t.cards = {
        {"impedance", "Piezoelectric element",
         "Impedance over frequency, resonance and antiresonance, coupling, Q, equivalent circuit.",
         impedanceSheet},
        {"vibration", "Natural frequencies",
         "Frequencies and shapes at which a beam, plate or ring vibrates by itself.",
         vibrationSheet},
        {"bending", "Displacement and stress",
         "How far a part moves under forces, pressures, its weight or a voltage, and its "
         "largest stress.",
         bendingSheet}};
    using At = Offer::At;
    t.offers = {{"fixed here", "fixed", "on", At::sides},
                {"roller here", "roller", "on", At::sides},
                {"pressure here …", "pressure load", "on", At::sides, {}, "pressure"},
                {"pull here …", "pull", "on", At::sides, {{"along", "y"}}, "force"},
                {"electrode here …", "electrode", "on", At::both, {{"voltage", "1 V"}}, "voltage"},
                {"poled …", "poling", "in", At::regions, {}, "along"},
                {"largest stress here", "largest stress", "in", At::regions}};
    t.claims = [](const Document& d) { return usesSection(d, mechanics); };
    t.isParityOfDrives = false;
    t.checkLines = checkLines;
    t.checkSheet = checkSheet;
    return t;
}

}  // namespace yh::physics
