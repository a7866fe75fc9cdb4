// The drawing as one partition of the plane: regions and edges that know their names, with exact
// curves. Later lines of the sheet paint over earlier ones where they overlap.
#pragma once

#include "sheet/model.h"

#include <memory>
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

/// A piece of a region, bounded by edges, free of inner borders.
struct Face
{
    int region = 0;
    std::vector<int> edges;
    double area = 0.0;  ///< m^2
    Point inside;       ///< a point of it, m
};

/// A smooth curve between two corners.
struct Edge
{
    std::vector<int> faces;  ///< one or two; none for a thin line in the open
    double t0 = 0.0, t1 = 0.0;
    double length = 0.0;  ///< m
    struct Source
    {
        int line = -1;
        int copy = 1;
        std::string side;  ///< top, outer, …; empty where the side has no name
    };
    std::vector<Source> sources;
    bool thin = false;  ///< belongs to a thin line
};

/// Regions and edges that a rule picks.
struct Selection
{
    std::vector<int> faces;
    std::vector<int> edges;
    [[nodiscard]] bool empty() const { return faces.empty() && edges.empty(); }
};

/// The mapped shell that stands for the open space beyond a circle (or sphere).
struct OpenShell
{
    bool present = false;
    Point centre;
    double inner = 0.0;  ///< radius where the shell begins, m
    double outer = 0.0;  ///< radius that stands for infinity, m
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
    [[nodiscard]] const std::vector<Face>& faces() const;
    [[nodiscard]] const std::vector<Edge>& edges() const;
    [[nodiscard]] const OpenShell& openShell() const;
    /// Largest extent of the drawing without the open space, m.
    [[nodiscard]] double size() const;

    /// Point of an edge at curve parameter t in [t0, t1], m.
    [[nodiscard]] Point at(int edge, double t) const;
    /// Tangent of an edge by the curve parameter, m per unit of t.
    [[nodiscard]] Point tangent(int edge, double t) const;
    /// Points along an edge close enough to draw it, m.
    [[nodiscard]] std::vector<Point> polyline(int edge) const;
    /// Closed outlines of a face, outer one first, m.
    [[nodiscard]] std::vector<std::vector<Point>> outlines(int face) const;

    /// What a rule picks now. Empty without error when nothing matches.
    /// @throws Error where a name is used up by another shape, a copy or side does not exist
    [[nodiscard]] Selection resolve(const sheet::PlaceRule& rule, const sheet::Model& model,
                                    base::Place place) const;
    /// A rule in words that picks the edge (and as few others as possible).
    [[nodiscard]] std::string propose(int edge) const;
    /// A rule in words for a region.
    [[nodiscard]] std::string proposeRegion(int region) const;

    /// For the mesher: the compound as a native shape, and metres in one unit of it.
    [[nodiscard]] const void* nativeShape() const;
    [[nodiscard]] double nativeUnit() const;

    struct Data;

private:
    std::shared_ptr<const Data> m_data;
};

}  // namespace yh::shape
