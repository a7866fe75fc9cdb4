// Inside `shape` only: Open CASCADE shapes of single lines, in scaled units.
#pragma once

#include "shape/partition.h"

#include <BRepAdaptor_Curve.hxx>
#include <Geom_Surface.hxx>
#include <TopTools_ListOfShape.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Shape.hxx>

#include <map>
#include <set>

namespace yh::shape {

/// Whole turns and seams start at this odd angle, off the planes that may cut the body.
inline constexpr double seamAngle = 0.4142;

struct Partition::Data
{
    int dimension = 2;
    std::string folder;  ///< of the sheet, for files that it names
    std::vector<Region> regions;
    std::vector<Piece> pieces;
    std::vector<Side> sides;
    OpenShell shell;
    double size = 0.0;
    double unit = 1.0;                               ///< metres in one kernel unit
    TopoDS_Compound compound;                        ///< of the pieces, in their order
    std::vector<TopoDS_Shape> nativePieces;          ///< faces or solids
    std::vector<TopoDS_Shape> nativeSides;           ///< edges or faces
    std::vector<BRepAdaptor_Curve> curves;           ///< of the edges
    std::vector<char> hiddenCurves;                  ///< by curve, solids
    std::set<int> used;                              ///< lines taken up by a boolean
    std::map<int, std::set<std::string>> sideNames;  ///< by line, cut away or not
};

/// An edge or face with the name of the side that it is.
struct NamedSide
{
    TopoDS_Shape native;
    std::string side;
};

/// One copy of a line's shape: faces (or bare edges of a thin line) or solids (or bare faces of a
/// sheet), and its named sides.
struct Body
{
    int line = -1;
    std::string name;
    int copy = 1;
    int copyCount = 1;
    TopoDS_Shape shape;  ///< a face, solid, compound of them, or what is thin
    std::vector<NamedSide> sides;
    std::vector<NamedSide> outline;  ///< edges of a plane shape that lies in space as a sheet
    bool thin = false;
    bool used = false;  ///< taken up by a union, subtraction or intersection
};

/// Kernel units: the ends of shorter sides are one point to the kernel, whose tolerance is a tenth
/// of it; sides are lost then, and shapes parted by curves that are not there.
inline constexpr double shortestSide = 1e-6;
/// @throws Error that says so at the line
[[noreturn]] void refuseTinySide(const sheet::Line& line, double length, double unit);

/// The copies of a primitive or imported line. `unit`: metres in one kernel unit.
[[nodiscard]] std::vector<Body> makeBodies(const sheet::Model& model, const sheet::Line& line,
                                           double unit, const std::string& folder);

/// A solid primitive, with its named faces. Its own place and turn are left to makeBodies.
[[nodiscard]] Body solidPrimitive(const sheet::Model& model, const sheet::Line& line, double unit);
/// A plane body drawn up along z.
[[nodiscard]] Body extruded(const Body& plane, double height);
/// True for the kinds of lines that are made of shapes above them.
[[nodiscard]] bool isDerived(const std::string& kind);
/// What a boolean, revolution, loft, rounding, chamfer or split makes of earlier bodies, which are
/// marked as used up.
/// @throws Error where they are missing or the kernel cannot make it
[[nodiscard]] std::vector<Body> derivedBodies(std::vector<Body>& bodies, const sheet::Model& model,
                                              const sheet::Line& line, double unit);
/// A bar of constant cross-section along a path with rounded corners.
[[nodiscard]] Body sweptBody(const sheet::Model& model, const sheet::Line& line, double unit);

/// @throws Error where there is no file, or what is there is a folder, a device or far too large
void checkFile(const std::string& path, base::Place place);

/// Polygons of one layer of a GDSII file as faces, in kernel units.
/// @param outline  layer beyond whose polygons all is cut off; -1: none
/// @throws Error where the file is missing or broken, or a layer is empty
[[nodiscard]] TopoDS_Shape importLayer(const std::string& path, int layer, const std::string& cell,
                                       int outline, double unit, base::Place place);

/// Regions of a PNG picture between two grey levels, 0 to 255, about its middle, in kernel units.
/// @param width  of the picture, m
/// @throws Error where the file is missing or broken, or no region has such a level
[[nodiscard]] TopoDS_Shape importPicture(const std::string& path, int low, int high, double width,
                                         double unit, base::Place place);

[[nodiscard]] TopoDS_Compound compoundOf(const std::vector<TopoDS_Shape>& shapes);
[[nodiscard]] TopTools_ListOfShape listOf(const std::vector<TopoDS_Shape>& shapes);

/// Solids in a STEP, BREP or STL file, in kernel units.
/// @throws Error where the file is missing or broken, or its surface is open
[[nodiscard]] TopoDS_Shape importSolid(const std::string& path, double unitOfFile, double unit,
                                       base::Place place);

/// Faces from the outline in a DXF or STEP file, in kernel units.
/// @throws Error where the file is missing, broken, or holds no closed plane outline
[[nodiscard]] TopoDS_Shape importOutline(const std::string& path, double unitOfFile, double unit,
                                         base::Place place);

}  // namespace yh::shape
