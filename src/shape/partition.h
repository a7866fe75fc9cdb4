// The drawing as one partition of the plane or of space: regions and their sides, which know their
// names, with exact curves and surfaces. Later lines of the sheet paint over earlier ones where
// they overlap.
#pragma once

#include "sheet/model.h"

#include <array>
#include <memory>
#include <set>
#include <span>
#include <string>
#include <vector>

namespace yh::shape {

using sheet::Point;

/// What one line of the sheet (one copy of it) fills.
struct Region
{
    std::string
        name;       ///< name of the line; "open space" and "far shell" for what is made by itself
    int line = -1;  ///< identity of the line
    int copy = 1;   ///< 1, 2, …
    int copyCount = 1;
    bool hidden = false;  ///< part of the open space, not shown
};

/// A piece of a region, free of inner borders: a plane face, or a solid.
struct Piece
{
    int region = 0;
    std::vector<int> sides;
    double content = 0.0;  ///< area in m^2 or volume in m^3
    Point inside;          ///< a point of it, m
};

/// What bounds pieces: a smooth curve between two corners in the plane, a smooth face of solids.
struct Side
{
    std::vector<int> pieces;    ///< one or two; none for a thin line or sheet in the open
    double t0 = 0.0, t1 = 0.0;  ///< plane: range of the curve's parameter
    double content = 0.0;       ///< length in m or area in m^2
    Point centre;               ///< of gravity, m
    struct Source
    {
        int line = -1;
        int copy = 1;
        std::string side;  ///< top, outer, …; empty where the side has no name
    };
    std::vector<Source> sources;
    bool thin = false;  ///< belongs to a thin line or sheet
    bool flat = true;   ///< straight or plane
    /// Where the modelled part ends: the plane x, y, z = 0 (0, 1, 2; the axis too), or a wedge's.
    enum Cut { none = -1, wedge = 3 };
    int cut = none;
    Point inside;  ///< solids: a point of it, m
    Point normal;  ///< solids: unit normal there, out of its first piece
};

/// Regions and sides that a rule picks.
struct Selection
{
    std::vector<int> pieces;
    std::vector<int> sides;
    [[nodiscard]] bool empty() const { return pieces.empty() && sides.empty(); }
};

/// The mapped shell that stands for the open space beyond a circle (or sphere).
struct OpenShell
{
    bool present = false;
    Point centre;
    double inner = 0.0;   ///< radius where the shell begins, m
    double outer = 0.0;   ///< radius that stands for infinity, m
    bool mapped = false;  ///< stands for all of space beyond; false: absorbs waves, unmapped
    /// How the shell is drawn at a place: its radial direction, and the sizes of real space along
    /// and across it over those drawn.
    struct Stretch
    {
        Point radial;
        double along = 1, across = 1;
        /// A gradient in real space from one in the drawing.
        [[nodiscard]] Point shrunk(const Point& g) const
        {
            return (1 / across) * g + ((1 / along - 1 / across) * dot(radial, g)) * radial;
        }
    };
    /// Where a place of real space is drawn. With s the distance from the centre in the drawing and
    /// r in space, r = inner (outer - inner) / (outer - s): 1/r becomes linear.
    [[nodiscard]] Point drawn(const Point& p) const;
    /// At a place of the drawing within the shell.
    [[nodiscard]] Stretch stretchAt(const Point& p) const;
};

/// Geometry of a sheet. Immutable after build(); cheap to copy.
class Partition
{
public:
    /// Builds the shapes of a sheet that has no faults in its fields.
    /// @throws Error with the line: impossible shape, missing file, boolean with an empty result,
    ///         overlapping thin lines that the kernel cannot part
    static Partition build(const sheet::Model& model, const std::string& folder = ".");

    [[nodiscard]] const std::vector<Region>& regions() const;
    /// Where a file that the sheet names lies.
    [[nodiscard]] std::string pathOf(const std::string& file) const;
    [[nodiscard]] const std::vector<Piece>& pieces() const;
    [[nodiscard]] const std::vector<Side>& sides() const;
    [[nodiscard]] const OpenShell& openShell() const;
    /// Largest extent of the drawing without the open space, m.
    [[nodiscard]] double size() const;

    [[nodiscard]] int dimension() const;
    /// Folder of the sheet that the shapes were built for.
    [[nodiscard]] const std::string& folder() const;
    /// Volume of the body that a piece of the plane makes round the axis x = 0, m^3 (Pappus).
    [[nodiscard]] double revolvedContent(int piece) const;

    /// Point of a side of the plane at curve parameter t in [t0, t1], m.
    [[nodiscard]] Point at(int side, double t) const { return onCurve(side, t); }
    /// Tangent of a side of the plane by the curve parameter, m per unit of t.
    [[nodiscard]] Point tangent(int side, double t) const;
    /// Points along a side of the plane close enough to draw it, m.
    [[nodiscard]] std::vector<Point> polyline(int side) const;
    /// Closed outlines of a piece of the plane, outer one first, m.
    [[nodiscard]] std::vector<std::vector<Point>> outlines(int piece) const;

    /// Curves: the sides of the plane, or the edges between faces of solids.
    [[nodiscard]] int curveCount() const;
    /// A seam, or a curve of the open space: not drawn.
    [[nodiscard]] bool isHiddenCurve(int curve) const;
    [[nodiscard]] Point onCurve(int curve, double t) const;
    /// Points along a curve close enough to draw it, m.
    [[nodiscard]] std::vector<Point> curvePolyline(int curve) const;
    /// Some points of a side with its corners, m.
    [[nodiscard]] std::vector<Point> samples(int side) const;
    /// Triangles of a side of solids, close enough to draw it: three points each, m.
    [[nodiscard]] std::vector<std::array<Point, 3>> triangles(int side) const;
    /// A round side of solids with those that go on from it on the same surface between the same
    /// pieces: a seam of the surface parts them, nothing of the device.
    [[nodiscard]] std::vector<int> acrossSeams(int side) const;
    /// Distance of a point from a side of solids, m.
    [[nodiscard]] double distanceTo(int side, const Point& p) const;
    /// Distance of a straight line between two points from a side of solids, m.
    [[nodiscard]] double distanceTo(int side, const Point& a, const Point& b) const;
    /// The piece of solids that holds a point or has it on its surface; -1: none.
    [[nodiscard]] int pieceAt(const Point& p) const;
    /// Unit normal of a flat side that points out of one of its pieces.
    [[nodiscard]] Point outward(int side, int piece) const;
    /// Writes the shape as STEP, in millimetres, without the open space.
    /// @throws Error where the file cannot be written
    void writeStep(const std::string& path) const;
    /// Nearest point of the surface of a side of solids, m.
    [[nodiscard]] Point nearestOn(int side, const Point& p) const;

    /// Names of the sides that a line's shape has, whether cut away or not.
    [[nodiscard]] const std::set<std::string>& sideNames(int line) const;

    /// What a rule picks now. Empty without error when nothing matches.
    /// @throws Error where a name is used up by another shape, a copy or side does not exist
    [[nodiscard]] Selection resolve(const sheet::PlaceRule& rule, const sheet::Model& model,
                                    base::Place place) const;
    /// A rule in words that picks the side (and as few others as possible).
    [[nodiscard]] std::string propose(int side) const;
    /// A rule in words for a region.
    [[nodiscard]] std::string proposeRegion(int region) const;

    /// For the mesher: the compound as a native shape, and metres in one unit of it.
    [[nodiscard]] const void* nativeShape() const;
    [[nodiscard]] double nativeUnit() const;

    struct Data;
    /// Inside `shape` and `mesh` only.
    [[nodiscard]] const Data& data() const { return *m_data; }

private:
    std::shared_ptr<const Data> m_data;
};

}  // namespace yh::shape
