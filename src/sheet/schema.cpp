#include "sheet/schema.h"

#include "sheet/document.h"
#include "sheet/schema_slots.h"

#include <algorithm>

namespace yh::sheet {

/// Adds the shapes, in the plane and solid.
void addShapes(std::vector<Kind>& kinds);

namespace {

/// Those of all topics in their order, each once.
std::vector<Property> properties()
{
    std::vector<Property> list;
    for (const Topic& t : topics())
        for (const Property& p : t.properties)
            if (std::none_of(list.begin(), list.end(),
                             [&](const Property& q) { return q.slot.key == p.slot.key; }))
                list.push_back(p);
    std::stable_sort(list.begin(), list.end(),
                     [](const Property& a, const Property& b) { return a.order < b.order; });
    return list;
}

std::vector<Kind> makeKinds()
{
    std::vector<Kind> k;
    k.push_back({"aim",
                 "aim",
                 "",
                 {{.key = "text",
                   .type = T::text,
                   .required = true,
                   .help = "what is to be found, in your own words"}},
                 "Capacitance of …",
                 "What the device is and what is wanted."});
    k.push_back({"parameter",
                 "parameters",
                 "",
                 {nameSlot(),
                  {.key = "value",
                   .type = T::quantity,
                   .marker = "=",
                   .required = true,
                   .help = "a number with its unit, or a formula of other parameters"}},
                 "gap = 120 um",
                 "A named number that lengths, voltages and materials can refer to.",
                 true});

    addShapes(k);

    k.push_back({"material",
                 "materials",
                 "",
                 {{.key = "material",
                   .type = T::text,
                   .required = true,
                   .help = "its name; known names bring their data"},
                  placeSlot("in", "in", "the regions it fills")},
                 "borosilicate glass in base",
                 "What fills a region."});
    for (const Property& p : properties())
        k.back().entries.push_back(p.slot);

    for (const Topic& t : topics())
        if (t.addLines)
            t.addLines(k);

    k.push_back({"mirror plane",
                 "symmetry",
                 "mirror plane",
                 {{.key = "at",
                   .type = T::choice,
                   .required = true,
                   .choices = {"x = 0", "y = 0", "z = 0"},
                   .help = "only the positive side is modelled; every figure is for the whole"},
                  {.key = "kind",
                   .type = T::choice,
                   .marker = "kind",
                   .required = true,
                   .choices = {"even", "odd"},
                   .help = "even: same potentials on both sides (waves: a magnetic wall); odd: "
                           "opposite potentials (an electric wall)"}},
                 "mirror plane x = 0 kind even",
                 "Model one side only."});
    k.push_back({"wedge symmetry",
                 "symmetry",
                 "wedge of",
                 {{.key = "angle",
                   .type = T::quantity,
                   .required = true,
                   .range = Range::positive,
                   .help = "a whole fraction of 360 deg, at most half of it"}},
                 "wedge of 30 deg",
                 "Model one wedge about the z axis, from y = 0 on, of a device that is its own "
                 "mirror image at both its planes; every figure is for the whole.",
                 false,
                 true});

    k.push_back({"mesh",
                 "mesh",
                 "automatic,",
                 {{.key = "cells",
                   .type = T::count,
                   .marker = "at least",
                   .fallback = "2",
                   .suffix = "cells across a gap",
                   .help = "triangles across every gap to start with",
                   .always = true,
                   .most = 100},
                  {.key = "order",
                   .type = T::choice,
                   .marker = "of order",
                   .fallback = "3",
                   .choices = {"1", "2", "3"},
                   .help = "polynomial order of the potential"},
                  {.key = "mirrored",
                   .type = T::choice,
                   .marker = "mirrored about",
                   .choices = {"x = 0", "y = 0", "z = 0"},
                   .help = "the same cells on both sides of a plane, for devices whose difference "
                           "of two sides counts"}},
                 "automatic, at least 2 cells across a gap",
                 "How fine the first mesh is.",
                 false,
                 true});
    k.push_back({"mesh size",
                 "mesh",
                 "cells up to",
                 {{.key = "size",
                   .type = T::quantity,
                   .dimension = dim::length,
                   .required = true,
                   .range = Range::positive,
                   .help = "largest edge of a triangle"},
                  placeSlot("in", "in", "regions or edges")},
                 "cells up to 20 um in gel",
                 "A largest size of cells in a place."});
    k.push_back({"limits",
                 "mesh",
                 "stop after",
                 {{.key = "passes",
                   .type = T::count,
                   .fallback = "14",
                   .suffix = "passes",
                   .help = "most passes of refinement",
                   .always = true},
                  {.key = "unknowns",
                   .type = T::count,
                   .marker = "or",
                   .fallback = "600000",
                   .suffix = "unknowns",
                   .always = true,
                   .most = 1e9},
                  {.key = "seconds",
                   .type = T::quantity,
                   .marker = "or",
                   .dimension = dim::time,
                   .fallback = "120 s",
                   .range = Range::positive,
                   .always = true}},
                 "stop after 14 passes",
                 "Where the refinement ends even if an ask is not met.",
                 false,
                 true});

    for (const Topic& t : topics())
        if (t.addAsks)
            t.addAsks(k);

    k.push_back(
        {"sweep",
         "sweep",
         "",
         {{.key = "parameter",
           .type = T::reference,
           .required = true,
           .refersTo = "parameter",
           .help = "the parameter that changes"},
          {.key = "from", .type = T::quantity, .marker = "from", .required = true},
          {.key = "to", .type = T::quantity, .marker = "to", .required = true},
          {.key = "steps",
           .type = T::count,
           .marker = "in",
           .required = true,
           .fallback = "7",
           .suffix = "steps",
           .always = true,
           .most = mostSteps},
          {.key = "spacing",
           .type = T::choice,
           .marker = "spaced",
           .fallback = "evenly",
           .choices = {"evenly", "by equal ratios"}},
          {.key = "course",
           .type = T::choice,
           .choices = {"with slopes", "as one period", "as half a period"},
           .help = "how fast each figure changes, and its harmonics: a period ends where it "
                   "began, half a period goes back the way it came"},
          {.key = "time",
           .type = T::quantity,
           .marker = "passed in",
           .dimension = dim::time,
           .range = Range::positive,
           .help = "how long it takes, for changes by time: of a flux linkage the voltage"}},
         "gap from 60 um to 240 um in 7 steps",
         "Solve again for several values of a parameter."});
    return k;
}

}  // namespace

const Slot* Kind::slot(const std::string& slotKey) const
{
    for (const Slot& f : entries)
        if (f.key == slotKey)
            return &f;
    return nullptr;
}

const std::vector<Section>& sections()
{
    static const std::vector<Section> list = [] {
        std::vector<Section> all = {{"aim", "Aim", "aim"},
                                    {"parameters", "Parameters", "parameter"},
                                    {"shape", "Shape", "shape"},
                                    {"materials", "Materials", "material"}};
        for (const Topic& t : topics())
            all.insert(all.end(), t.sections.begin(), t.sections.end());
        for (const Section& s : {Section{"symmetry", "Symmetry", "mirror plane"},
                                 {"mesh", "Mesh", "mesh setting"},
                                 {"ask", "Ask", "ask"},
                                 {"sweep", "Sweep", "sweep"}})
            all.push_back(s);
        return all;
    }();
    return list;
}

const std::vector<Kind>& kinds()
{
    static const std::vector<Kind> list = makeKinds();
    return list;
}

const Kind* findKind(const std::string& key)
{
    for (const Kind& k : kinds())
        if (k.key == key)
            return &k;
    return nullptr;
}

int sectionOrder(const std::string& kind)
{
    const Kind* k = findKind(kind);
    const auto& list = sections();
    for (size_t i = 0; k && i < list.size(); ++i)
        if (list[i].key == k->section)
            return int(i);
    return int(list.size());
}

bool isOffered(const std::string& section, const Document& document)
{
    const Topic& topic = topicOf(document);
    const auto shown = topic.shownOn ? topic.shownOn(document) : topic.shown;
    if (std::find(shown.begin(), shown.end(), section) != shown.end())
        return true;
    // What has no shape has nothing to be filled, cut or meshed.
    if (!topic.hasShape && (section == "shape" || section == "materials" || section == "symmetry" ||
                            section == "mesh"))
        return false;
    return std::none_of(topics().begin(), topics().end(), [&](const Topic& t) {
        return std::any_of(t.sections.begin(), t.sections.end(),
                           [&](const Section& s) { return s.key == section; });
    });
}

bool isShape(const std::string& kind)
{
    const Kind* k = findKind(kind);
    return k && k->section == "shape" && kind != "space" && kind != "wire";
}

}  // namespace yh::sheet
