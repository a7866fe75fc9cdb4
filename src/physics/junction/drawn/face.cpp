// What drawn junctions of semiconductors say of themselves.
#include "physics/junction/face_slots.h"
#include "sheet/model.h"

namespace yh::physics {

using namespace sheet;
using namespace junction_slots;

namespace {

const std::string drawn = "carriers", semiconductor = "semiconductor";
constexpr const char* ionised = "by volume, all of them ionised; what several lines state adds up";

Slot atVoltage(bool isRequired)
{
    return {.key = "at",
            .type = T::quantity,
            .marker = "at",
            .dimension = dim::voltage,
            .required = isRequired,
            .fallback = isRequired ? "" : "0 V",
            .help = "of the contact whose voltage is swept"};
}

void addLines(std::vector<Kind>& k)
{
    k.push_back(
        {"doping", drawn, "doping",
         joined({dopants("donors", ionised),
                 dopants("acceptors", ionised),
                 placeSlot("in", "in", "regions of the semiconductor"),
                 {.key = "from",
                  .type = T::point,
                  .marker = "largest from",
                  .help = "where a profile is largest: along a straight line, or at a place"},
                 {.key = "to",
                  .type = T::point,
                  .marker = "to",
                  .help = "end of that line; without it, a place alone"},
                 positive("fall", "falling over", dim::length,
                          "distance from that line after which 1/e is left, as exp(-x^2)")},
                carriers()),
         "doping donors 1e15 /cm^3 in body electrons live 10 us",
         "Dopants of a region, everywhere in it or as a profile that falls from a line."});
    k.push_back({"ohmic contact",
                 drawn,
                 "ohmic contact",
                 {nameSlot(),
                  {.key = "voltage",
                   .type = T::quantity,
                   .marker = "at",
                   .dimension = dim::voltage,
                   .fallback = "0 V",
                   .help = "unless it is swept"},
                  placeSlot("on", "on", "sides of the semiconductor, or a region of metal")},
                 "ohmic contact A on body.top",
                 "Where current enters or leaves; both densities are those of no current."});
    k.push_back({"contact sweep", drawn, "sweep of the contact",
                 joined({{.key = "on",
                          .type = T::reference,
                          .required = true,
                          .refersTo = "ohmic contact",
                          .help = "the contact whose voltage runs"}},
                        voltages()),
                 "sweep of the contact A from 0 V to 0.8 V in 17 points",
                 "The voltages of the curves; all other contacts stay at theirs.", false, true});
}

void addAsks(std::vector<Kind>& k)
{
    const std::string a = "ask";
    k.push_back({"contact current",
                 a,
                 "current of the contact",
                 {{.key = "of",
                   .type = T::reference,
                   .required = true,
                   .refersTo = "ohmic contact",
                   .help = "a contact"},
                  atVoltage(true),
                  within(),
                  limit("below", dim::current),
                  limit("above", dim::current)},
                 "current of the contact B at 0.6 V within 0.5 %",
                 "Current into a contact of a drawn junction, whichever is swept."});
    k.push_back({"bands along",
                 a,
                 "bands along",
                 {{.key = "from", .type = T::point, .marker = "from", .required = true},
                  {.key = "to", .type = T::point, .marker = "to", .required = true},
                  atVoltage(false)},
                 "bands along from 0, 0 to 0, 20 um at 0.3 V",
                 "Bands, quasi-Fermi levels and densities along a line of a drawn junction."});
}

/** Lines of other kinds of device have no meaning here. */
void refuseOthers(const Document& d, base::Faults& faults)
{
    for (const char* kind : {"mirror plane", "wedge symmetry", "periodic pair"})
        if (const Line* l = d.first(kind))
            faults.push_back({2355,
                              {l->id, {}, -1},
                              "sides without a contact are mirrors here; draw the half, and take "
                              "its currents twice"});
    for (const Line* l : d.ofKind("material"))
        faults.push_back({2356,
                          {l->id, {}, -1},
                          "the semiconductor is stated once for all regions; what differs is their "
                          "`doping`"});
    for (const char* kind : {"semiconductor layer", "device area", "bias"})
        if (const Line* l = d.first(kind))
            faults.push_back({2358,
                              {l->id, {}, -1},
                              "this line is one of layers along a line; a drawing has `doping`, "
                              "`ohmic contact` and `sweep of the contact`"});
    for (const char* kind : {"contact", "electrode"})
        for (const Line* l : d.ofKind(kind))
            faults.push_back({2359,
                              {l->id, {}, -1},
                              "a semiconductor has ohmic contacts: write `ohmic contact " +
                                  (l->name().empty() ? std::string("A") : l->name()) + " on …`"});
}

void checkSheet(const Model& model, base::Faults& faults)
{
    const Document& d = model.document();
    if (model.space() == Space::solid)
        faults.push_back({2350,
                          {d.first("space") ? d.first("space")->id : -1, "type", 0},
                          "carriers are solved along a line, in the plane and round an axis"});
    auto missing = [&](const char* kind, int number, const char* text) {
        if (!d.first(kind))
            faults.push_back({number, {-1, drawn, -1}, text, true});
    };
    if (!d.first("semiconductor"))
        faults.push_back({2351,
                          {-1, semiconductor, -1},
                          "of which semiconductor? add `semiconductor silicon`",
                          true});
    missing("doping", 2352,
            "nothing is doped yet: add a line such as `doping donors 1e15 /cm^3 in body`");
    if (d.ofKind("ohmic contact").size() < 2)
        faults.push_back({2353,
                          {-1, drawn, -1},
                          "a current takes two contacts: add lines such as `ohmic contact A on "
                          "body.top`",
                          true});
    missing("contact sweep", 2354,
            "which voltages? add a line such as `sweep of the contact A from 0 V to 0.7 V in 15 "
            "points`");
    refuseOthers(d, faults);
    for (const Line* l : d.ofKind("doping"))
        if (l->has("hole life") && !l->has("electron life"))
            faults.push_back({2357,
                              {l->id, "electron life", -1},
                              "how long do electrons live? traps take both",
                              true});
}

Document drawnSheet()
{
    Document d;
    d.add("aim", {{"text", "Current over voltage of …"}});
    d.add("space", {{"type", "plane"}, {"depth", "1 mm"}});
    d.add("semiconductor", {{"material", "silicon"}});
    d.add("doping", {{"donors", "1e15 /cm^3"}});
    d.add("ohmic contact", {{"name", "A"}});
    d.add("ohmic contact", {{"name", "B"}});
    d.add("contact sweep", {{"on", "A"}, {"from", "0 V"}, {"to", "0.7 V"}, {"steps", "15"}});
    d.add("junction curve", {});
    d.add("ideality factor", {{"at", "0.5 V"}});
    return d;
}

}  // namespace

Topic junctionDrawnTopic()
{
    Topic t;
    t.key = "carriers";
    t.order = 111;
    t.sections = {{drawn, "Doping and contacts", "doping or contact"}};
    t.shown = {semiconductor, drawn};
    t.addLines = addLines;
    t.addAsks = addAsks;
    t.offers = {{"Ohmic contact here", "ohmic contact", "on", Offer::At::sides, {}, {}, "A"},
                {"Doping of this region", "doping", "in", Offer::At::regions, {}, "donors", {}}};
    t.cards = {{"carriers", "Drawn junction",
                "Doped regions in the plane or round an axis: currents and capacitance over "
                "voltage, densities, bands.",
                drawnSheet}};
    t.claims = [](const Document& d) { return usesSection(d, drawn); };
    t.isParityOfDrives = false;
    t.checkSheet = checkSheet;
    return t;
}

}  // namespace yh::physics
