// The channel by which a field hands heat to the one that it warms, and takes temperatures back.
#pragma once

#include "fem/coupled.h"
#include "physics/common/solution.h"

#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace yh::physics {

/// A solved field that sets heat free, as whatever takes the heat sees it.
class HeatSource
{
public:
    virtual ~HeatSource() = default;
    [[nodiscard]] virtual Solution& field() = 0;
    [[nodiscard]] const Solution& field() const { return const_cast<HeatSource*>(this)->field(); }
    /// Power of the device over that of the fields sampled.
    [[nodiscard]] virtual double share() const { return 1; }

    /// Whether it heats wherever it loses something; else where the sheet says that it heats.
    [[nodiscard]] virtual bool heatsEverywhere() const { return true; }
    /// Whether it loses something in a piece, on a side as a wall or as a resistance between
    /// regions, and in a thin layer of a line along a side.
    [[nodiscard]] virtual bool losesIn(int piece) const = 0;
    [[nodiscard]] virtual bool losesOn(int side) const
    {
        static_cast<void>(side);
        return false;
    }
    [[nodiscard]] virtual bool losesBetween(int side) const
    {
        static_cast<void>(side);
        return false;
    }
    [[nodiscard]] virtual bool losesAlong(int side, int line) const
    {
        static_cast<void>(side);
        static_cast<void>(line);
        return false;
    }
    /// Power by volume, W/m^3, at the time of the place.
    [[nodiscard]] virtual double inside(const fem::Spot& spot) const = 0;
    /// Power by area, W/m^2: of a wall, half of that of a resistance between regions, of a layer.
    [[nodiscard]] virtual double on(int side, const fem::Spot& spot) const
    {
        static_cast<void>(side);
        static_cast<void>(spot);
        return 0;
    }
    [[nodiscard]] virtual double between(const fem::Spot& spot) const
    {
        static_cast<void>(spot);
        return 0;
    }
    [[nodiscard]] virtual double along(int side, int line, const fem::Spot& spot) const
    {
        static_cast<void>(side);
        static_cast<void>(line);
        static_cast<void>(spot);
        return 0;
    }
    /// Power by volume of the newest field, W/m^3.
    [[nodiscard]] virtual double density(int order, int cell, const Point& xi) const = 0;
    /// Power that pieces and layers of lines turn into heat, W, whole device.
    [[nodiscard]] virtual double power(int order, const std::vector<int>& pieces,
                                       const std::vector<int>& lines) const = 0;

    using Temperature = std::function<double(int cell, const Point& xi)>;  ///< K
    /// Whether the field depends on the temperature.
    [[nodiscard]] virtual bool follows() const { return false; }
    /// Solves the field alone, or for the last of the temperatures that it was told.
    virtual void solve(int lowestOrder, base::Progress& progress)
    {
        field().solve(lowestOrder, progress);
    }
    /// Tells it the temperatures at times, s, of which it works out what it heats with there.
    virtual void warm(const std::vector<double>& times, const std::vector<Temperature>& T,
                      base::Progress& progress)
    {
        static_cast<void>(times);
        static_cast<void>(T);
        static_cast<void>(progress);
    }
};

/// What a study says of the heat that its field sets free. The study must outlive it.
struct HeatGiver
{
    std::string name;                 ///< of both fields together, as in the file of results
    std::string nothing;              ///< what to say where nothing is heated
    std::vector<std::string> silent;  ///< checks that say nothing of use beside the heat
    std::function<std::unique_ptr<HeatSource>(const mesh::Mesh&, const shape::Partition&, int order,
                                              base::Progress&)>
        on;  ///< on a mesh
};

}  // namespace yh::physics
