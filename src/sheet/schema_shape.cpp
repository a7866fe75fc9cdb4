// Shapes of the plane and of space.
#include "sheet/schema_slots.h"

namespace yh::sheet {

void addShapes(std::vector<Kind>& kinds);

namespace {

/// Fields every shape has: where it is, how it is turned and repeated.
std::vector<Slot> shapeFields(std::vector<Slot> own, bool sector = false, bool rounded = false,
                              bool solid = false)
{
    std::vector<Slot> f{nameSlot()};
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
    const Slot axis{.key = "axis",
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

}  // namespace

void addShapes(std::vector<Kind>& k)
{
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
                 {nameSlot(), placeSlot("of", "of", "the shapes that become one")},
                 "body union of head and neck",
                 "Several shapes as one region.",
                 true});
    k.push_back({"subtract",
                 "shape",
                 "rest of",
                 {nameSlot(), placeSlot("of", "", "the shape that is cut"),
                  placeSlot("by", "without", "the shapes cut away")},
                 "wall rest of block without hole",
                 "A shape with others cut away.",
                 true});
    k.push_back(
        {"intersect",
         "shape",
         "common part of",
         {nameSlot(), placeSlot("of", "", "one shape"), placeSlot("by", "with", "the other")},
         "lens common part of left with right",
         "What two shapes have in common.",
         true});
    k.push_back({"revolve",
                 "shape",
                 "revolution of",
                 {nameSlot(),
                  placeSlot("of", "",
                            "plane shapes at x > 0: x is the distance "
                            "from the z axis, y the height"),
                  {.key = "angle",
                   .type = T::quantity,
                   .marker = "by",
                   .fallback = "360 deg",
                   .range = Range::positive,
                   .help = "how far it is turned about the z axis",
                   .always = true}},
                 "bowl revolution of profile by 360 deg",
                 "A plane shape turned about the z axis (solids).",
                 true});
    k.push_back({"swept",
                 "shape",
                 "bar",
                 {nameSlot(),
                  {.key = "radius",
                   .type = T::quantity,
                   .marker = "radius",
                   .dimension = dim::length,
                   .range = Range::positive,
                   .help = "of a round cross-section"},
                  {.key = "width",
                   .type = T::quantity,
                   .marker = "width",
                   .dimension = dim::length,
                   .range = Range::positive,
                   .help = "of a rectangular cross-section, in the plane of the path"},
                  {.key = "thickness",
                   .type = T::quantity,
                   .marker = "thickness",
                   .dimension = dim::length,
                   .range = Range::positive,
                   .help = "of a rectangular cross-section, across the plane of the path"},
                  {.key = "points",
                   .type = T::points,
                   .marker = "along",
                   .required = true,
                   .help = "points x, y, z in order; `arc via x, y, z to x, y, z` bends"},
                  {.key = "bend",
                   .type = T::quantity,
                   .marker = "bent by",
                   .dimension = dim::length,
                   .range = Range::notNegative,
                   .help = "radius of the bends at its corners"},
                  {.key = "ends",
                   .type = T::choice,
                   .marker = "ends",
                   .fallback = "open",
                   .choices = {"open", "closed"},
                   .help = "closed: the end runs back to the start, as in a coil"}},
                 "coil bar width 2 mm thickness 3 mm along -8 mm, -5 mm, 0; 8 mm, -5 mm, 0; "
                 "8 mm, 5 mm, 0; -8 mm, 5 mm, 0 bent by 3 mm ends closed",
                 "A bar of one cross-section along a path: a lead, a busbar, a coil (solids).",
                 true});
    k.push_back({"wire",
                 "shape",
                 "wire",
                 {nameSlot(),
                  {.key = "radius",
                   .type = T::quantity,
                   .marker = "radius",
                   .dimension = dim::length,
                   .required = true,
                   .range = Range::positive},
                  {.key = "points",
                   .type = T::points,
                   .marker = "along",
                   .required = true,
                   .help = "points x, y, z in order; `arc via x, y, z to x, y, z` bends"},
                  {.key = "ends",
                   .type = T::choice,
                   .marker = "ends",
                   .fallback = "open",
                   .choices = {"open", "closed"},
                   .help = "closed: the end runs back to the start, as in a loop"},
                  {.key = "material",
                   .type = T::text,
                   .marker = "of",
                   .help = "a metal of the library, whose loss counts; without it the wire has "
                           "none"}},
                 "whip wire radius 0.5 mm along 0, 0, 0; 0, 0, 75 mm",
                 "A round wire that is thin against its length and the wavelength, for waves in "
                 "solids. It is not meshed: its current and its near field follow by formula.",
                 true});
    k.push_back({"loft",
                 "shape",
                 "loft through",
                 {nameSlot(),
                  placeSlot("of", "", "plane shapes in order, with `and` between"),
                  {.key = "sides",
                   .type = T::choice,
                   .marker = "with sides",
                   .fallback = "straight",
                   .choices = {"straight", "smooth"},
                   .help = "straight from outline to outline, or one smooth surface"}},
                 "horn loft through throat and mouth",
                 "A solid through plane outlines at different heights.",
                 true});
    const Slot edges{.key = "edges",
                     .type = T::choice,
                     .marker = "at edges",
                     .fallback = "all",
                     .choices = {"all", "upright", "top", "bottom"},
                     .help = "which of its edges"};
    k.push_back({"rounded edges",
                 "shape",
                 "rounded",
                 {nameSlot(), placeSlot("of", "", "the solid"),
                  length("by", "by", "radius of its edges"), edges},
                 "case rounded block by 1 mm at edges upright",
                 "A solid with rounded edges.",
                 true});
    k.push_back({"chamfered edges",
                 "shape",
                 "chamfered",
                 {nameSlot(), placeSlot("of", "", "the solid"),
                  length("by", "by", "width taken off both faces"), edges},
                 "case chamfered block by 0.5 mm at edges top",
                 "A solid with its edges cut off at equal widths.",
                 true});
    k.push_back({"split",
                 "shape",
                 "split of",
                 {nameSlot(),
                  placeSlot("of", "", "the shape that is parted"),
                  {.key = "axis",
                   .type = T::choice,
                   .marker = "at",
                   .required = true,
                   .fallback = "z",
                   .choices = {"x", "y", "z"},
                   .help = "the plane stands across this axis",
                   .always = true},
                  length("at", "=", "where the plane lies", Range::any)},
                 "core split of block at z = 1 mm",
                 "A shape parted by a plane: copy 1 below it, copy 2 above.",
                 true});
    k.push_back({"layout", "shape", "layer",
                 shapeFields({{.key = "layer",
                               .type = T::quantity,
                               .required = true,
                               .range = Range::notNegative,
                               .help = "number of the layer"},
                              {.key = "file",
                               .type = T::file,
                               .marker = "from",
                               .required = true,
                               .help = "a GDSII file"},
                              {.key = "cell",
                               .type = T::text,
                               .marker = "cell",
                               .help = "name of the cell, where the file has several top cells"},
                              {.key = "outline",
                               .type = T::quantity,
                               .marker = "within layer",
                               .range = Range::notNegative,
                               .help = "layer whose outline bounds the part; what lies beyond it "
                                       "is cut off"}}),
                 "strip layer 3 from chip.gds",
                 "The polygons of one layer of a GDSII layout; with `high`, as solids.", true});
    k.push_back(
        {"picture", "shape", "grey levels",
         shapeFields({{.key = "from",
                       .type = T::quantity,
                       .required = true,
                       .range = Range::notNegative,
                       .help = "the darkest level that counts, 0 to 255"},
                      {.key = "to",
                       .type = T::quantity,
                       .marker = "to",
                       .required = true,
                       .range = Range::notNegative,
                       .help = "the lightest one"},
                      {.key = "file",
                       .type = T::file,
                       .marker = "of",
                       .required = true,
                       .help = "a PNG picture; colours count as greys"},
                      length("width", "width", "of the whole picture")}),
         "post grey levels 100 to 160 of basin.png width 50 mm at 0, 0",
         "The regions of a picture whose grey lies between two levels; staircases of pixels "
         "are straightened.",
         true});
    k.push_back({"import",
                 "shape",
                 "shape from",
                 {nameSlot(),
                  {.key = "file",
                   .type = T::file,
                   .required = true,
                   .help = "a DXF or STEP file with a plane outline; solids: STEP, BREP, STL"},
                  {.key = "unit",
                   .type = T::quantity,
                   .marker = "in",
                   .dimension = dim::length,
                   .fallback = "1 mm",
                   .range = Range::positive,
                   .help = "length of one unit of a DXF, BREP or STL file"}},
                 "pad shape from pad.dxf in 1 mm",
                 "An outline from a DXF or STEP file, or solids from STEP, BREP or STL.",
                 true});
}

}  // namespace yh::sheet
