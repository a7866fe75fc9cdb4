// What junctions of semiconductors say of themselves.
#include "physics/junction/face_slots.h"
#include "sheet/model.h"

namespace yh::physics {

using namespace sheet;
using namespace junction_slots;

namespace {

const std::string junction = "junction", semiconductor = "semiconductor";

void addLines(std::vector<Kind>& k)
{
    k.push_back(
        {"semiconductor",
         semiconductor,
         "semiconductor",
         {{.key = "material",
           .type = T::choice,
           .required = true,
           .choices = {"silicon", "germanium", "gallium arsenide"},
           .help = "of all layers"},
          {.key = "temperature",
           .type = T::quantity,
           .marker = "at",
           .dimension = dim::temperature,
           .fallback = "300 K",
           .range = Range::positive,
           .help = "of the device",
           .always = true},
          positive("ni", "with intrinsic density", density, "instead of that of the library")},
         "semiconductor silicon at 300 K",
         "What the layers are made of.",
         false,
         true});
    k.push_back(
        {"semiconductor layer", junction, "layer",
         joined({nameSlot(), length("thickness", "of", "along the line, from left to right"),
                 dopants("donors", "by volume, all of them ionised"),
                 dopants("acceptors", "by volume, all of them ionised")},
                carriers()),
         "layer base of 55 um donors 1e15 /cm^3 electrons live 10 us",
         "A layer with its doping; the first one is at the left end."});
    k.push_back({"device area",
                 junction,
                 "area",
                 {{.key = "value",
                   .type = T::quantity,
                   .dimension = dim::area,
                   .required = true,
                   .range = Range::positive,
                   .help = "across the line"}},
                 "area 1 mm^2",
                 "What the current densities are multiplied with.",
                 false,
                 true});
    k.push_back({"bias", junction, "bias",
                 joined({{.key = "end",
                          .type = T::choice,
                          .marker = "on the",
                          .required = true,
                          .choices = {"left", "right"},
                          .help = "end that the voltage is on; the other one is at 0 V"}},
                        voltages()),
                 "bias on the left from 0 V to 0.8 V in 17 points",
                 "The voltages of the curves; both ends are ohmic contacts.", false, true});
    k.push_back({"recombination",
                 semiconductor,
                 "recombination",
                 {{.key = "of",
                   .type = T::choice,
                   .required = true,
                   .choices = {"traps, light and Auger", "traps only"},
                   .help = "traps take part where a layer states lifetimes"}},
                 "recombination traps only",
                 "Which ways of recombination take part; without it, all.",
                 false,
                 true});
}

Slot voltageSlot(bool required)
{
    return {.key = "at",
            .type = T::quantity,
            .marker = "at",
            .dimension = dim::voltage,
            .required = required,
            .fallback = required ? "" : "0 V",
            .help = "bias"};
}

void addAsks(std::vector<Kind>& k)
{
    const std::string a = "ask";
    k.push_back({"junction curve",
                 a,
                 "current curve",
                 {within("1 %")},
                 "current curve within 1 %",
                 "Current over voltage, linear and by ratios.",
                 false,
                 true});
    k.push_back({"junction current",
                 a,
                 "current at",
                 {[] {
                      Slot s = voltageSlot(true);
                      s.marker.clear();
                      return s;
                  }(),
                  within(), limit("below", dim::current), limit("above", dim::current)},
                 "current at 0.6 V within 0.5 %",
                 "Current into the end with the voltage."});
    k.push_back({"ideality factor",
                 a,
                 "ideality factor",
                 {voltageSlot(true), within()},
                 "ideality factor at 0.5 V within 0.5 %",
                 "By how much slower than exp(V / Vt) the current rises."});
    k.push_back({"junction capacitance",
                 a,
                 "junction capacitance",
                 {voltageSlot(false), within()},
                 "junction capacitance at -2 V within 0.5 %",
                 "How much the charge of holes changes with the voltage, slowly."});
    k.push_back({"capacitance curve",
                 a,
                 "capacitance curve",
                 {within("1 %")},
                 "capacitance curve within 1 %",
                 "Capacitance over voltage, and one over its square.",
                 false,
                 true});
    k.push_back({"built-in voltage",
                 a,
                 "built-in voltage",
                 {within("0.1 %")},
                 "built-in voltage within 0.1 %",
                 "Between both ends inside, without a bias.",
                 false,
                 true});
    k.push_back({"open-circuit voltage",
                 a,
                 "open-circuit voltage",
                 {within("0.1 %")},
                 "open-circuit voltage within 0.1 %",
                 "Voltage at which a lit device carries no current.",
                 false,
                 true});
    k.push_back({"largest power",
                 a,
                 "largest power",
                 {within()},
                 "largest power within 0.5 %",
                 "That a lit device gives, its voltage and fill factor.",
                 false,
                 true});
    k.push_back({"band diagram",
                 a,
                 "bands",
                 {voltageSlot(false)},
                 "bands at 0.3 V",
                 "Bands, quasi-Fermi levels and densities from contact to contact."});
}

void checkSheet(const Model& model, base::Faults& faults)
{
    const Document& d = model.document();
    auto missing = [&](const char* kind, int number, const char* text) {
        if (!d.first(kind))
            faults.push_back({number, {-1, junction, -1}, text, true});
    };
    missing("semiconductor", 2320, "of which semiconductor? add `semiconductor silicon`");
    missing("semiconductor layer", 2321,
            "no layer yet: add a line such as `layer base of 50 um donors 1e15 /cm^3`");
    missing("device area", 2322, "across which area? add a line such as `area 1 mm^2`");
    missing("bias", 2323,
            "which voltages? add a line such as `bias on the left from 0 V to 0.7 V in 15 points`");
    for (const Line* l : d.ofKind("semiconductor layer"))
        if (l->has("hole life") && !l->has("electron life"))
            faults.push_back({2324,
                              {l->id, "electron life", -1},
                              "how long do electrons live? traps take both",
                              true});
}

Diagram diagramOf(const Document& d)
{
    Diagram g;
    g.boxes.push_back({"left", "contact", -1, 1, true});
    for (const Line* l : d.ofKind("semiconductor layer")) {
        const bool n = l->has("donors"), p = l->has("acceptors");
        std::string text = l->get("thickness");
        if (n)
            text += ", n";
        if (p)
            text += n ? "p" : ", p";
        g.links.push_back(
            {{int(g.boxes.size()) - 1, int(g.boxes.size())}, {g.boxes.size() == 1 ? 0 : 1, 0}});
        g.boxes.push_back({l->name(), text, l->id, 2, false});
    }
    g.links.push_back(
        {{int(g.boxes.size()) - 1, int(g.boxes.size())}, {g.boxes.size() == 1 ? 0 : 1, 0}});
    g.boxes.push_back({"right", "contact", -1, 1, true});
    return g;
}

Document junctionSheet()
{
    Document d;
    d.add("aim", {{"text", "Current over voltage of …"}});
    d.add("semiconductor", {{"material", "silicon"}});
    d.add("semiconductor layer", {{"name", "p"}, {"acceptors", "1e17 /cm^3"}});
    d.add("semiconductor layer", {{"name", "n"}, {"donors", "1e15 /cm^3"}});
    d.add("device area", {{"value", "1 mm^2"}});
    d.add("bias", {{"end", "left"}, {"from", "0 V"}, {"to", "0.7 V"}, {"steps", "15"}});
    d.add("junction curve", {});
    d.add("ideality factor", {{"at", "0.5 V"}});
    return d;
}

}  // namespace

Topic junctionTopic()
{
    Topic t;
    t.key = "junction";
    t.order = 110;
    t.sections = {{semiconductor, "Semiconductor", "semiconductor or recombination"},
                  {junction, "Layers", "layer or bias"}};
    t.shown = {semiconductor, junction};
    t.addLines = addLines;
    t.addAsks = addAsks;
    t.cards = {{"junction", "Diode and solar cell",
                "Current and capacitance over voltage of layers, ideality, bands; dark or lit.",
                junctionSheet}};
    t.claims = [](const Document& d) {
        return usesSection(d, junction) || usesSection(d, semiconductor);
    };
    t.checkSheet = checkSheet;
    t.diagram = diagramOf;
    t.hasShape = false;
    return t;
}

}  // namespace yh::physics
