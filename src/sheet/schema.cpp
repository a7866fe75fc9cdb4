#include "sheet/schema.h"

#include "sheet/document.h"

#include <algorithm>

namespace yh::sheet {

namespace {

using base::Dimension;
namespace dim = base::dim;
using T = FieldType;

Field nameField()
{
    return {.key = "name", .type = T::name, .required = true, .help = "its name"};
}

Field length(std::string key, std::string marker, std::string help, Range range = Range::positive)
{
    return {.key = std::move(key),
            .type = T::quantity,
            .marker = std::move(marker),
            .dimension = dim::length,
            .required = true,
            .range = range,
            .help = std::move(help)};
}

Field within(const std::string& fallback = "0.5 %")
{
    return {.key = "within",
            .type = T::quantity,
            .marker = "within",
            .fallback = fallback,
            .range = Range::positive,
            .help = "accuracy asked for, relative to the value",
            .always = true};
}

Field limit(const std::string& key, Dimension d)
{
    return {.key = key,
            .type = T::quantity,
            .marker = key,
            .dimension = d,
            .help = key == "below" ? "largest value allowed" : "smallest value allowed"};
}

/// A property of a material that may depend on place and temperature.
Field ofTemperature(const std::string& key, const std::string& marker, Dimension d,
                    const std::string& what, Range range = Range::positive)
{
    return {.key = key,
            .type = T::function,
            .marker = marker,
            .dimension = d,
            .range = range,
            .help = what + "; may depend on the temperature T",
            .ofTemperature = true};
}

Field placeField(const std::string& key, const std::string& marker, const std::string& help)
{
    return {.key = key, .type = T::place, .marker = marker, .required = true, .help = help};
}

/// Fields every shape has: where it is, how it is turned and repeated.
std::vector<Field> shapeFields(std::vector<Field> own, bool sector = false, bool rounded = false,
                               bool solid = false)
{
    std::vector<Field> f{nameField()};
    f.insert(f.end(), own.begin(), own.end());
    if (!solid)
        f.push_back({.key = "high",
                     .type = T::quantity,
                     .marker = "high",
                     .dimension = dim::length,
                     .range = Range::positive,
                     .help = "how far it reaches up from its place (solids)"});
    f.push_back({.key = "at",
                 .type = T::point,
                 .marker = "at",
                 .fallback = "0, 0",
                 .help = "where its centre is",
                 .always = true});
    if (sector) {
        f.push_back({.key = "from",
                     .type = T::quantity,
                     .marker = "from",
                     .fallback = "0",
                     .help = "start angle of a sector"});
        f.push_back({.key = "to",
                     .type = T::quantity,
                     .marker = "to",
                     .fallback = "360 deg",
                     .help = "end angle of a sector"});
    }
    if (rounded)
        f.push_back({.key = "round",
                     .type = T::quantity,
                     .marker = "corners rounded by",
                     .dimension = dim::length,
                     .range = Range::notNegative,
                     .help = "radius of its corners"});
    f.push_back({.key = "turned",
                 .type = T::quantity,
                 .marker = "turned by",
                 .help = "angle about its centre, anticlockwise"});
    f.push_back({.key = "copies",
                 .type = T::count,
                 .marker = ",",
                 .suffix = "copies",
                 .help = "how many of them in all, numbered 1, 2, …"});
    f.push_back({.key = "every",
                 .type = T::point,
                 .marker = "every",
                 .help = "step from one copy to the next; one length is a step along x"});
    f.push_back({.key = "spread",
                 .type = T::choice,
                 .marker = "spread",
                 .fallback = "centred",
                 .choices = {"centred", "onward"},
                 .help = "copies lie centred about its place, or go on from it"});
    f.push_back({.key = "turning",
                 .type = T::quantity,
                 .marker = "turning by",
                 .help = "angle from one copy to the next about `about`"});
    f.push_back({.key = "about",
                 .type = T::point,
                 .marker = "about",
                 .fallback = "0, 0",
                 .help = "centre of the turning"});
    f.push_back({.key = "mirrored",
                 .type = T::choice,
                 .marker = "and mirrored at",
                 .choices = {"x = 0", "y = 0", "z = 0"},
                 .help = "adds the mirror image of each copy"});
    return f;
}

/// Primitives of solids. Their place is the middle of the bottom; of a sphere or torus the centre.
void addSolids(std::vector<Kind>& k)
{
    const Field axis{.key = "axis",
                     .type = T::choice,
                     .marker = "along",
                     .fallback = "z",
                     .choices = {"x", "y", "z"},
                     .help = "direction of its axis"};
    k.push_back({"box", "shape", "box",
                 shapeFields({length("width", "", "extent along x"),
                              length("length", "×", "extent along y"),
                              length("height", "×", "extent along z")},
                             false, false, true),
                 "plate box 20 mm × 10 mm × 2 mm at 0, 0, 0", "A box on the middle of its bottom.",
                 true});
    k.push_back({"cylinder", "shape", "cylinder",
                 shapeFields({length("radius", "radius", "its radius"),
                              length("height", "height", "its height"), axis},
                             false, false, true),
                 "pin cylinder radius 1 mm height 8 mm at 0, 0, 0",
                 "A cylinder on the middle of its bottom.", true});
    k.push_back({"cone", "shape", "cone",
                 shapeFields({length("radius", "radius", "radius at its bottom"),
                              length("top", "to", "radius at its top", Range::notNegative),
                              length("height", "height", "its height"), axis},
                             false, false, true),
                 "tip cone radius 2 mm to 0.5 mm height 3 mm at 0, 0, 0",
                 "A cone or a frustum of one.", true});
    k.push_back({"sphere", "shape", "sphere",
                 shapeFields({length("radius", "radius", "its radius")}, false, false, true),
                 "ball sphere radius 3 mm at 0, 0, 0", "A ball about its centre.", true});
    k.push_back({"torus", "shape", "torus",
                 shapeFields({length("radius", "radius", "of the circle its tube follows"),
                              length("tube", "tube", "radius of the tube"), axis},
                             false, false, true),
                 "ring torus radius 10 mm tube 1 mm at 0, 0, 0", "A torus about its centre.",
                 true});
}

/// Current, heat and what couples them.
void addTransport(std::vector<Kind>& k)
{
    const Field surroundings{.key = "to",
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
                 {nameField(),
                  {.key = "voltage",
                   .type = T::quantity,
                   .marker = "at",
                   .dimension = dim::voltage,
                   .help = "its potential"},
                  {.key = "current",
                   .type = T::quantity,
                   .marker = "with current",
                   .dimension = dim::current,
                   .help = "current into the device, instead of a potential"},
                  placeField("on", "on", "sides (or regions) that it covers"),
                  {.key = "film",
                   .type = T::quantity,
                   .marker = "through",
                   .dimension = dim::contactResistance,
                   .range = Range::positive,
                   .help = "specific resistance of the contact, in ohm m^2"}},
                 "contact A at 1 V on foil.left",
                 "Where current enters or leaves."});
    k.push_back({"conducting sheet",
                 "current",
                 "conducting sheet",
                 {nameField(),
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
                  placeField("on", "on", "the sides that it covers")},
                 "conducting sheet F of thickness 18 um made of copper on board.top",
                 "A thin layer that carries current and heat along a side."});
    k.push_back({"held temperature",
                 "heat",
                 "held temperature",
                 {nameField(),
                  {.key = "value",
                   .type = T::quantity,
                   .marker = "at",
                   .dimension = dim::temperature,
                   .required = true,
                   .range = Range::positive,
                   .help = "its temperature, such as 20 degC or 293 K"},
                  placeField("on", "on", "sides or regions")},
                 "held temperature sink at 293.15 K on base.bottom",
                 "A side or region whose temperature is given."});
    k.push_back({"convection",
                 "heat",
                 "convection",
                 {nameField(),
                  {.key = "h",
                   .type = T::quantity,
                   .marker = "of",
                   .dimension = dim::heatTransfer,
                   .required = true,
                   .range = Range::positive,
                   .help = "heat transfer coefficient, W/m^2/K"},
                  surroundings,
                  placeField("on", "on", "sides")},
                 "convection air of 10 W/m^2/K to 293.15 K on outer of plate",
                 "Heat carried off by a moving gas or liquid."});
    k.push_back({"radiation",
                 "heat",
                 "radiation",
                 {nameField(),
                  {.key = "emissivity",
                   .type = T::quantity,
                   .marker = "with emissivity",
                   .required = true,
                   .range = Range::positive,
                   .help = "emissivity, 0 to 1"},
                  surroundings,
                  placeField("on", "on", "sides")},
                 "radiation glow with emissivity 0.8 to 293.15 K on outer of plate",
                 "Heat radiated to surroundings, by the fourth powers of temperature."});
    k.push_back({"heat flux",
                 "heat",
                 "heat flux",
                 {nameField(),
                  {.key = "flux",
                   .type = T::function,
                   .marker = "of",
                   .dimension = dim::heatFlux,
                   .required = true,
                   .help = "heat into the device by area; may depend on place"},
                  placeField("on", "on", "sides")},
                 "heat flux sun of 800 W/m^2 on plate.top",
                 "Heat that enters through a side."});
    k.push_back({"heat source",
                 "heat",
                 "heat source",
                 {nameField(),
                  {.key = "power",
                   .type = T::quantity,
                   .marker = "of",
                   .dimension = dim::power,
                   .help = "heat set free in the place as a whole"},
                  {.key = "density",
                   .type = T::function,
                   .marker = "by volume",
                   .dimension = dim::powerPerVolume,
                   .help = "heat set free by volume, instead of the whole"},
                  placeField("in", "in", "regions")},
                 "heat source chip of 2 W in die",
                 "Heat set free in a region."});
    k.push_back({"current heats",
                 "couplings",
                 "current heats",
                 {placeField("in", "", "regions or conducting sheets")},
                 "current heats foil",
                 "Joule heat of the current goes into the heat problem."});
    k.push_back({"resistivity follows temperature",
                 "couplings",
                 "temperature changes resistivity of",
                 {placeField("in", "", "regions or conducting sheets")},
                 "temperature changes resistivity of foil",
                 "The conductivity is taken at the temperature of the place, not at 20 degC."});
    k.push_back({"thermoelectric",
                 "couplings",
                 "thermoelectric effects in",
                 {placeField("in", "", "regions")},
                 "thermoelectric effects in leg",
                 "Seebeck, Peltier and Thomson effects by the material's Seebeck coefficient."});
}

/// Figures of current and heat.
void addTransportAsks(std::vector<Kind>& k)
{
    const std::string a = "ask";
    auto contactField = [](const std::string& key, const std::string& marker, bool required) {
        return Field{.key = key,
                     .type = T::reference,
                     .marker = marker,
                     .required = required,
                     .refersTo = "contact",
                     .help = "a contact"};
    };
    k.push_back({"resistance",
                 a,
                 "resistance",
                 {contactField("from", "", true), contactField("to", "to", true), within(),
                  limit("below", dim::resistance), limit("above", dim::resistance)},
                 "resistance A to B within 0.5 %",
                 "Voltage between two contacts over the current through the first."});
    k.push_back({"current",
                 a,
                 "current",
                 {contactField("of", "through", true), within(), limit("below", dim::current),
                  limit("above", dim::current)},
                 "current through A within 0.5 %",
                 "Current that enters at a contact."});
    k.push_back(
        {"heating power",
         a,
         "heating power",
         {placeField("in", "in", "regions or sheets"), within(), limit("below", dim::power)},
         "heating power in foil within 0.5 %",
         "Power that the current turns into heat."});
    k.push_back(
        {"largest current density",
         a,
         "largest |J|",
         {placeField("in", "in", "regions"), limit("below", dim::currentDensity), within("2 %")},
         "largest |J| in foil within 2 %",
         "Where the current crowds."});
    for (const char* which : {"highest", "lowest", "mean"})
        k.push_back({std::string(which) + " temperature",
                     a,
                     std::string(which) + " temperature",
                     {placeField("in", "in", "regions"), limit("below", dim::temperature),
                      limit("above", dim::temperature), within("0.5 %")},
                     std::string(which) + " temperature in plate within 0.5 %",
                     "Accuracy is relative to the temperature rise over the coldest given one."});
    k.push_back({"temperature at",
                 a,
                 "temperature at",
                 {{.key = "at", .type = T::point, .required = true, .help = "the point"},
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
                  within(),
                  limit("below", dim::power)},
                 "heat flow through sink within 0.5 %",
                 "Heat that leaves the device there."});
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
                 {nameField(),
                  {.key = "value",
                   .type = T::quantity,
                   .marker = "=",
                   .required = true,
                   .help = "a number with its unit, or a formula of other parameters"}},
                 "gap = 120 um",
                 "A named number that lengths, voltages and materials can refer to.",
                 true});

    k.push_back({"space",
                 "shape",
                 "space",
                 {{.key = "type",
                   .type = T::choice,
                   .required = true,
                   .fallback = "plane",
                   .choices = {"plane", "axisymmetric", "solid"},
                   .help = "a section of depth, a body of revolution about the z axis, or a solid"},
                  {.key = "depth",
                   .type = T::quantity,
                   .marker = "depth",
                   .dimension = dim::length,
                   .fallback = "1 m",
                   .range = Range::positive,
                   .help = "extent out of the plane; figures are for this depth"}},
                 "space plane depth 8 mm",
                 "How the drawing stands for a solid device.",
                 false,
                 true});
    k.push_back(
        {"rectangle", "shape", "rectangle",
         shapeFields({length("width", "", "its width"), length("height", "×", "its height")}, false,
                     true),
         "base rectangle 4.2 mm × 0.5 mm at 0, 0", "A rectangle about its centre.", true});
    k.push_back({"disc", "shape", "disc",
                 shapeFields({length("radius", "radius", "its radius")}, true),
                 "core disc radius 1 mm at 0, 0", "A disc, or a sector of one.", true});
    k.push_back(
        {"ellipse", "shape", "ellipse",
         shapeFields({length("a", "", "half axis along x"), length("b", "×", "half axis along y")}),
         "pole ellipse 2 mm × 1 mm at 0, 0", "An ellipse by its half axes.", true});
    k.push_back({"ring", "shape", "ring",
                 shapeFields({length("inner", "from radius", "inner radius"),
                              length("outer", "to radius", "outer radius")}),
                 "shield ring from radius 3 mm to radius 3.5 mm at 0, 0",
                 "The region between two circles.", true});
    k.push_back({"polygon", "shape", "polygon",
                 shapeFields({{.key = "points",
                               .type = T::points,
                               .marker = "through",
                               .required = true,
                               .help = "its corners in order, x, y; x, y; …"}},
                             false, true),
                 "wedge polygon through 0, 0; 2 mm, 0; 0, 1 mm",
                 "A closed outline of straight sides.", true});
    k.push_back({"path", "shape", "path",
                 shapeFields({{.key = "points",
                               .type = T::points,
                               .marker = "along",
                               .required = true,
                               .help = "points in order; `arc via x, y to x, y` bends"}},
                             false, true),
                 "bell path along 0, 0; 2 mm, 0; arc via 1.4 mm, 1.4 mm to 0, 2 mm",
                 "A closed outline of lines and arcs.", true});
    k.push_back({"thin line", "shape", "thin line",
                 shapeFields({{.key = "points",
                               .type = T::points,
                               .marker = "along",
                               .required = true,
                               .help = "points in order; `arc via x, y to x, y` bends"}}),
                 "strip thin line along -1 mm, 0; 1 mm, 0",
                 "A line without thickness, for foils and printed conductors.", true});
    addSolids(k);
    k.push_back({"union",
                 "shape",
                 "union",
                 {nameField(), placeField("of", "of", "the shapes that become one")},
                 "body union of head and neck",
                 "Several shapes as one region.",
                 true});
    k.push_back({"subtract",
                 "shape",
                 "rest of",
                 {nameField(), placeField("of", "", "the shape that is cut"),
                  placeField("by", "without", "the shapes cut away")},
                 "wall rest of block without hole",
                 "A shape with others cut away.",
                 true});
    k.push_back(
        {"intersect",
         "shape",
         "common part of",
         {nameField(), placeField("of", "", "one shape"), placeField("by", "with", "the other")},
         "lens common part of left with right",
         "What two shapes have in common.",
         true});
    k.push_back({"import",
                 "shape",
                 "outline from",
                 {nameField(),
                  {.key = "file",
                   .type = T::file,
                   .required = true,
                   .help = "a DXF or STEP file with a plane outline"},
                  {.key = "unit",
                   .type = T::quantity,
                   .marker = "in",
                   .dimension = dim::length,
                   .fallback = "1 mm",
                   .range = Range::positive,
                   .help = "length of one unit of a DXF file"}},
                 "pad outline from pad.dxf in 1 mm",
                 "A plane outline from a DXF or STEP file.",
                 true});

    k.push_back(
        {"material",
         "materials",
         "",
         {{.key = "material",
           .type = T::text,
           .required = true,
           .help = "its name; known names bring their data"},
          placeField("in", "in", "the regions it fills"),
          {.key = "eps",
           .type = T::function,
           .marker = "ε",
           .range = Range::positive,
           .help = "relative permittivity; may depend on x and y (r and z)"},
          {.key = "eps2",
           .type = T::function,
           .marker = "across",
           .range = Range::positive,
           .help = "relative permittivity along the second axis, if it differs"},
          {.key = "turned",
           .type = T::quantity,
           .marker = "axes turned by",
           .help = "angle of the first axis"},
          ofTemperature("sigma", "σ", dim::conductivity, "electric conductivity"),
          ofTemperature("k", "k", dim::thermalConductivity, "thermal conductivity"),
          ofTemperature("seebeck", "Seebeck", dim::seebeck, "Seebeck coefficient", Range::any),
          ofTemperature("density", "density", dim::density, "mass by volume"),
          ofTemperature("heatCapacity", "heat capacity", dim::heatCapacity,
                        "heat capacity by mass"),
          {.key = "limit",
           .type = T::quantity,
           .marker = "up to",
           .dimension = dim::temperature,
           .range = Range::positive,
           .help = "temperature that it must not pass, such as its melting point"}},
         "borosilicate glass in base",
         "What fills a region."});

    const std::string es = "electrostatic";
    k.push_back({"electrode",
                 es,
                 "electrode",
                 {nameField(),
                  {.key = "voltage",
                   .type = T::quantity,
                   .marker = "at",
                   .dimension = dim::voltage,
                   .help = "its potential"},
                  {.key = "charge",
                   .type = T::quantity,
                   .marker = "with charge",
                   .dimension = dim::charge,
                   .help = "its charge, instead of a potential"},
                  placeField("on", "on", "regions or edges it covers")},
                 "electrode A at 1 V on core",
                 "A conductor held at a potential, or given a charge."});
    k.push_back({"floating",
                 es,
                 "floating conductor",
                 {nameField(), placeField("on", "on", "regions or edges it covers")},
                 "floating conductor F on shield",
                 "A conductor with no charge of its own and no connection."});
    k.push_back({"space charge",
                 es,
                 "space charge",
                 {{.key = "density",
                   .type = T::function,
                   .dimension = dim::chargePerVolume,
                   .required = true,
                   .help = "charge per volume; may depend on position"},
                  placeField("in", "in", "the regions that hold it")},
                 "space charge 1 uC/m^3 in gel",
                 "Charge spread through a region."});
    k.push_back({"surface charge",
                 es,
                 "surface charge",
                 {{.key = "density",
                   .type = T::function,
                   .dimension = dim::chargePerArea,
                   .required = true,
                   .help = "charge per area; may depend on position"},
                  placeField("on", "on", "the edges that hold it")},
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
                           "grounded: 0 V"}},
                 "outer edge is open space",
                 "What is beyond the drawing.",
                 false,
                 true});

    addTransport(k);

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
                   .help = "even: same potentials on both sides; odd: opposite potentials"}},
                 "mirror plane x = 0 kind even",
                 "Model one side only."});

    k.push_back({"mesh",
                 "mesh",
                 "automatic,",
                 {{.key = "cells",
                   .type = T::count,
                   .marker = "at least",
                   .fallback = "2",
                   .suffix = "cells across a gap",
                   .help = "triangles across every gap to start with",
                   .always = true},
                  {.key = "order",
                   .type = T::choice,
                   .marker = "of order",
                   .fallback = "3",
                   .choices = {"1", "2", "3"},
                   .help = "polynomial order of the potential"}},
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
                  placeField("in", "in", "regions or edges")},
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
                   .always = true},
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

    const std::string a = "ask";
    Field from{.key = "from",
               .type = T::reference,
               .required = true,
               .refersTo = "electrode",
               .help = "an electrode"};
    Field to{.key = "to",
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
                 "Energy of the electric field."});
    k.push_back({"largest field",
                 a,
                 "largest |E|",
                 {placeField("in", "in", "regions"),
                  {.key = "below",
                   .type = T::quantity,
                   .marker = "below",
                   .dimension = dim::electricField,
                   .range = Range::positive,
                   .help = "limit it must not pass"},
                  within("2 %")},
                 "largest |E| in base below 3 kV/mm",
                 "The strongest field in a region, for breakdown."});
    k.push_back({"mean field",
                 a,
                 "mean |E|",
                 {placeField("in", "in", "regions"), within("1 %")},
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
                 "Field strength at a point."});
    k.push_back({"profile",
                 a,
                 "profile",
                 {{.key = "from", .type = T::point, .marker = "from", .required = true},
                  {.key = "to", .type = T::point, .marker = "to", .required = true},
                  {.key = "count",
                   .type = T::count,
                   .marker = "in",
                   .fallback = "200",
                   .suffix = "points"}},
                 "profile from 0, 0 to 0, 3 mm",
                 "V and E along a straight line, as a curve."});
    k.push_back({"force",
                 a,
                 "force",
                 {placeField("on", "on", "the body"), within("1 %")},
                 "force on rotor within 1 %",
                 "Electric force on a body, by virtual work and by surface stress."});
    k.push_back({"torque",
                 a,
                 "torque",
                 {placeField("on", "on", "the body"),
                  {.key = "about",
                   .type = T::point,
                   .marker = "about",
                   .fallback = "0, 0",
                   .help = "the point it turns about",
                   .always = true},
                  within("1 %")},
                 "torque on rotor about 0, 0 within 1 %",
                 "Electric torque on a body (plane)."});

    addTransportAsks(k);

    k.push_back({"sweep",
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
                   .always = true},
                  {.key = "spacing",
                   .type = T::choice,
                   .marker = "spaced",
                   .fallback = "evenly",
                   .choices = {"evenly", "by equal ratios"}}},
                 "gap from 60 um to 240 um in 7 steps",
                 "Solve again for several values of a parameter."});
    return k;
}

}  // namespace

const Field* Kind::field(const std::string& fieldKey) const
{
    for (const Field& f : fields)
        if (f.key == fieldKey)
            return &f;
    return nullptr;
}

const std::vector<Section>& sections()
{
    static const std::vector<Section> list = {
        {"aim", "Aim", "aim"},
        {"parameters", "Parameters", "parameter"},
        {"shape", "Shape", "shape"},
        {"materials", "Materials", "material"},
        {"electrostatic", "Electrostatic field", "condition"},
        {"current", "Current", "contact or sheet"},
        {"heat", "Heat", "heat condition"},
        {"couplings", "Couplings", "coupling"},
        {"symmetry", "Symmetry", "mirror plane"},
        {"mesh", "Mesh", "mesh setting"},
        {"ask", "Ask", "ask"},
        {"sweep", "Sweep", "sweep"},
    };
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
    const bool transport = fieldOf(document) == FieldKind::transport;
    if (section == "electrostatic")
        return !transport;
    if (section == "current" || section == "heat" || section == "couplings")
        return transport;
    return true;
}

FieldKind fieldOf(const Document& document)
{
    for (const Line& l : document.lines)
        if (const Kind* k = findKind(l.kind);
            k && (k->section == "current" || k->section == "heat" || k->section == "couplings"))
            return FieldKind::transport;
    return FieldKind::electrostatic;
}

bool isShape(const std::string& kind)
{
    const Kind* k = findKind(kind);
    return k && k->section == "shape" && kind != "space";
}

}  // namespace yh::sheet
