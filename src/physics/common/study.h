// A field's problem on a given sheet, as `run` sees it: which pieces carry it, a solution for each
// mesh, the asks and the checks.
#pragma once

#include "physics/common/ask.h"
#include "physics/common/heat_source.h"
#include "physics/common/rung.h"

#include <memory>

namespace yh::physics {

/// What rungs are made from. Model and partition outlive them.
struct Ground
{
    const sheet::Model& model;
    const shape::Partition& partition;
    const mesh::Mesh* known = nullptr;  ///< of the same shape; null: none
    base::Progress& progress;
};

class Study
{
public:
    virtual ~Study() = default;
    /// Name of the field, as in the file of its results.
    [[nodiscard]] virtual std::string name() const = 0;
    /// What its first pass is solved on; if nothing else is said, a mesh whose cells are refined.
    /// @throws Error of the mesher
    [[nodiscard]] virtual std::unique_ptr<Rung> first(const Ground& ground) const;
    /// Pieces of the partition that are meshed.
    [[nodiscard]] virtual const std::vector<int>& activePieces() const = 0;
    /// What is to be solved on one mesh. Study, mesh and partition must outlive it.
    [[nodiscard]] virtual std::unique_ptr<Solution> on(const mesh::Mesh& mesh,
                                                       const shape::Partition& partition, int order,
                                                       base::Progress& progress) const = 0;
    /// Whether a look at part of the problem in space suits the mesh first (Solution::scout()).
    [[nodiscard]] virtual bool looksFirst() const { return false; }
    [[nodiscard]] virtual std::vector<Ask> asks(const sheet::Model& model,
                                                const shape::Partition& partition,
                                                base::Faults& faults) const = 0;
    [[nodiscard]] virtual std::vector<Check> checks(const sheet::Model& model,
                                                    const shape::Partition& partition,
                                                    Solution& field,
                                                    const std::vector<Ask>& asks) const = 0;
    /// Order of the elements in solids where the sheet says nothing.
    [[nodiscard]] virtual int solidOrder() const { return 2; }
    /// Share of the indicator whose cells are refined in solids; less where every ask is met.
    [[nodiscard]] virtual double solidShare(bool met) const { return met ? 0.4 : 0.55; }
    /// Largest cells of the first mesh, where the physics asks for some.
    [[nodiscard]] virtual std::vector<mesh::SizeRule> cellSizes() const { return {}; }
    /// Largest cells of the first mesh near lines, the same.
    [[nodiscard]] virtual std::vector<mesh::LineRule> cellsAlong() const { return {}; }
    /// Sides whose meshes must be the same.
    [[nodiscard]] virtual std::vector<mesh::PeriodicPair> periodic() const { return {}; }
    /// Lets transients take shorter steps from now on.
    virtual void shortenSteps() {}
    /// Corners to be refined before anything is solved.
    [[nodiscard]] virtual std::vector<SingularCorner> corners(const mesh::Mesh&,
                                                              const shape::Partition&) const
    {
        return {};
    }
    /// Sides on which field lines start, by side of the partition; none: there are no such sides.
    [[nodiscard]] virtual std::vector<char> lineSeeds(const shape::Partition& partition) const
    {
        return std::vector<char>(partition.sides().size(), 0);
    }
    /// Name of the quantity whose flux field lines carry; empty: none has.
    [[nodiscard]] virtual std::string lineQuantity() const { return {}; }
    [[nodiscard]] virtual fem::Measure measure() const { return fem::Measure::plane; }
    /// What the field gives to one that takes heat; null: it gives none. The topic says so too
    /// (Topic::givesHeat).
    /// @param[out] faults  what is missing for it, or cannot heat
    [[nodiscard]] virtual std::unique_ptr<HeatGiver> heat(const sheet::Model& model,
                                                          base::Faults& faults) const
    {
        static_cast<void>(model);
        static_cast<void>(faults);
        return nullptr;
    }
};

/// The study of the topic that solves a sheet; made by the build from the fields' folders
/// (cmake/rooms.cmake), each of which has a function of this kind in its study.cpp.
/// @param[out] faults  everything that is missing or wrong, each at its line
[[nodiscard]] std::unique_ptr<Study> studyOf(const sheet::Model& model,
                                             const shape::Partition& partition,
                                             base::Faults& faults);
/// The study of one topic, whichever the sheet would be solved by.
[[nodiscard]] std::unique_ptr<Study> studyFor(const std::string& topic, const sheet::Model& model,
                                              const shape::Partition& partition,
                                              base::Faults& faults);

}  // namespace yh::physics
