// What waves say of themselves, whatever is looked for.
#include "physics/wave/common/face.h"

#include "sheet/model.h"
#include "sheet/schema_slots.h"

namespace yh::physics {

using namespace sheet;

namespace {

void add(base::Faults& faults, int number, base::Place place, std::string text,
         bool incomplete = false)
{
    faults.push_back({number, std::move(place), std::move(text), incomplete});
}

void guideModes(const Document& document, const Line& guide, base::Faults& faults)
{
    for (const char* kind :
         {"modes", "band", "port", "lumped port", "gap feed", "point dipole", "plane wave"})
        if (const Line* other = document.first(kind))
            add(faults, 2057, {other->id, {}, -1},
                "the modes of an endless guide stand alone; take this line to a sheet of its "
                "own");
    if (guide.has("at") == guide.has("wavelength"))
        add(faults, 2058, {guide.id, "at", 0},
            guide.has("at") ? "state either the frequency or the wavelength"
                            : "at which frequency, or with which wavelength?",
            !guide.has("at"));
}

void checkSheet(const Model& model, base::Faults& faults)
{
    const Document& document = model.document();
    const Line *modes = document.first("modes"), *band = document.first("band"),
               *port = document.first("port"), *guide = document.first("guide modes"),
               *ringing = document.first("ring-down");
    if (guide)
        guideModes(document, *guide, faults);
    for (const char* kind :
         {"layout port", "lumped port", "gap feed", "point dipole", "plane wave"})
        if (!port)
            port = document.first(kind);
    for (const Line* other : {modes, band, guide})
        if (ringing && other)
            add(faults, 2059, {other->id, {}, -1},
                "a ring-down finds resonances by itself; take this line to a sheet of its own");
    if (ringing)
        modes = band = nullptr;
    if (const Line* grid = document.first("time grid"); grid && (ringing || guide || modes))
        add(faults, 2067, {grid->id, {}, -1},
            "a time grid serves waves through ports over a band; take this line to a sheet of "
            "its own");
    else if (grid && !band)
        add(faults, 2068, {grid->id, {}, -1},
            "over which frequencies? add a line such as `band from 8 GHz to 12 GHz`", true);
    if (!modes && !band && !guide && !ringing && !document.first("time grid"))
        add(faults, 2051, {-1, "waves", -1},
            "what is looked for? add `lowest modes 4` for resonances, `band from … to …` "
            "with ports for S-parameters, `guide modes 1 at 10 GHz` for the section of a guide, "
            "or `ring-down from … to …` for a pulse in time",
            true);
    if (const Line* l = document.first("layout port"); l && !document.first("time grid"))
        add(faults, 2069, {l->id, {}, -1},
            "ports at the labels of a layout are those of a grid: add the line `time grid`", true);
    if (modes && (band || port))
        add(faults, 2054, {modes->id, {}, -1},
            "a sheet looks either for resonances of a closed device or for waves through "
            "ports; take one of them to a sheet of its own");
    if (band && !port)
        add(faults, 2055, {band->id, {}, -1},
            "no port yet: nothing drives the field; add a line such as `port A on "
            "guide.left` or `lumped port A on feed`",
            true);
    if (band && model.slotFaults(*band).empty() &&
        model.number(*band, "from") > model.number(*band, "to"))
        add(faults, 2056, {band->id, "to", 0}, "the band ends below its beginning");
    for (const Line& l : document.lines)
        if (const Kind* k = findKind(l.kind);
            k && (k->section == "electrostatic" || k->section == "current" ||
                  (k->section == "heat" && !band) || k->section == "couplings"))
            add(faults, 2052, {l.id, {}, -1},
                "a sheet about waves has walls, ports and heat only; take this line to a "
                "sheet "
                "of its own");
    for (const Line& l : document.lines)
        if (const Kind* k = findKind(l.kind); k && k->slot("mode") && model.slotFaults(l).empty())
            if (const Line* m = guide ? guide : modes;
                m && model.slotFaults(*m).empty() &&
                model.count(l, "mode") > model.count(*m, "count"))
                add(faults, 2053, {l.id, "mode", 0},
                    "only " + std::to_string(model.count(*m, "count")) + " modes are looked for");
}

}  // namespace

WaveTask waveTask(const Document& document)
{
    if (!usesSection(document, "waves"))
        return WaveTask::none;
    if (document.first("ring-down"))
        return WaveTask::ringing;
    if (document.first("guide modes"))
        return WaveTask::guide;
    if (document.first("time grid"))
        return WaveTask::pulsed;
    if (!document.first("band"))
        return WaveTask::resonance;
    return WaveTask::driven;
}

Topic waveTopic(const std::string& key, int order)
{
    using At = Offer::At;
    Topic t;
    t.key = key;
    t.order = order;
    t.shown = {"waves"};
    t.properties = {permittivity(), secondPermittivity(), permeability(), lossTangent(),
                    turnedAxes(),   conductivity(),       massDensity()};
    t.offers = {
        {"metal wall here …", "metal wall", "on", At::sides, {{"material", "copper"}}, "material"},
        {"lumped port here", "lumped port", "on", At::sides},
        {"magnetic wall here", "magnetic wall", "on", At::sides},
        {"electric wall here", "electric wall", "on", At::sides},
        {"absorbing wall here", "absorbing wall", "on", At::sides},
        {"resistive sheet here …",
         "resistive sheet",
         "on",
         At::sides,
         {{"resistance", "50 ohm"}},
         "resistance"}};
    t.checkSheet = checkSheet;
    t.isParityOfDrives = false;
    return t;
}

Topic waveCommonTopic()
{
    Topic t;
    t.key = "waves";
    t.order = 40;
    t.sections = {{"waves", "Waves", "wall or port"}};
    t.addLines = addWaveLines;
    t.addAsks = addWaveAsks;
    return t;
}

}  // namespace yh::physics
