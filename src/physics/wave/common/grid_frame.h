// What all waves on a regular grid share: the box that the device just fits into, its walls, the
// pulse that is sent, and three grids of which the coarser ones tell the error of the finest.
#pragma once

#include "grid/yee_grid.h"
#include "physics/common/sheet_reader.h"
#include "physics/wave/common/wave.h"

#include <array>
#include <memory>
#include <string>

namespace yh::physics {

/// Of the cells of the three grids over those of the finest.
inline constexpr double gridSizes[] = {2, 4.0 / 3, 1};

/// How much the figures of the three grids count in what they say of smaller cells.
/// @param ratio  of the change from the coarsest grid to the next, over that from there to the
///               finest: it tells the order
[[nodiscard]] std::array<double, 3> gridWeights(double ratio);
/// What a figure on the three grids says of smaller cells.
[[nodiscard]] double extrapolatedOverGrids(double coarse, double middle, double fine);

/// A wave in a Gaussian envelope; a tenth of its middle is left at the ends of its band.
struct Pulse
{
    double low = 0, high = 0;  ///< Hz
    /// s, the standard deviation of the envelope.
    [[nodiscard]] double width() const;
    [[nodiscard]] double middle() const { return 4.5 * width(); }
    [[nodiscard]] double silence() const { return 9 * width(); }
    [[nodiscard]] double operator()(double time) const;
};

struct GridFrame
{
    std::shared_ptr<WaveProblem> wave;
    double low = 0, high = 0;  ///< Hz
    double cell = 0;           ///< m, of the finest grid
    Point from, to;            ///< of the box, m
    std::array<grid::Wall, 6> walls{};
    std::array<bool, 6> isMirror{};  ///< planes of symmetry
    bool isSolid = true;
    /// Of a grid whose cells are so much coarser than those of the finest.
    [[nodiscard]] std::array<int, 3> cells(double coarser) const;
};

/// Reads the frame of a sheet.
class GridFrameReader : protected SheetReader
{
protected:
    /// @param what  in words, with its article
    GridFrameReader(const sheet::Model& model, const shape::Partition& partition,
                    base::Faults& faults, std::string what)
        : SheetReader(model, partition, faults), m_what(std::move(what))
    {
    }
    /// Media and sheets that a grid does not know.
    void refuseMedia(const GridFrame& frame);
    /// The box that the device just fits into.
    void readBox(GridFrame& frame) const;
    /// Its walls.
    /// @param hasPort  by side of the frame: behind a port the guide goes on, so that all of the
    ///                 side absorbs
    void readWalls(GridFrame& frame, const std::array<bool, 6>& hasPort);
    /// Cells resolve waves and device.
    void checkCells(const GridFrame& p, const sheet::Line& l, double wave, double least);
    /// Cells small enough for the waves and the device.
    /// @param perWave  in the shortest one, where the line states no size
    void readCells(GridFrame& frame, const sheet::Line& l, double perWave);
    /// Says where there would be too many.
    void limit(const GridFrame& frame, const sheet::Line& l, double time, double runs);
    /// Which side of the frame a side of the partition lies in; -1: in none.
    [[nodiscard]] int frameSide(const GridFrame& frame, int side) const;
    /// Places on a side of the partition, m.
    [[nodiscard]] std::vector<Point> places(const GridFrame& frame, int side) const;

    std::string m_what;
};

}  // namespace yh::physics
