// What can be laid over or into the picture of a solid field: surfaces of equal value, arrows,
// field lines.
#pragma once

#include "app/far_pattern.h"
#include "app/field_data.h"
#include "app/scene_canvas.h"

#include <array>
#include <memory>
#include <vector>

class vtkLookupTable;
class vtkRenderer;

namespace yh::app {

class SolidLayers
{
public:
    /// Both must outlive the layers.
    SolidLayers(vtkRenderer* renderer, vtkLookupTable* colours);
    ~SolidLayers();

    /// Places to start field lines from; without any, lines start where flux enters the device.
    void setSeeds(std::vector<std::array<double, 3>> seeds);
    /// @param centre, size  of the surface that stands for the pattern, m
    void setPattern(const FarPattern& pattern, const std::array<double, 3>& centre, double size);
    /// @param low, high  range of the colours, in which surfaces of equal value are laid
    void update(const FieldData* field, const Lens& lens, double low, double high,
                const Layers& layers);
    /// Whether something inside is shown, for which the surface must let the eye through.
    [[nodiscard]] bool areInside() const { return m_inside; }

private:
    struct Vtk;
    void surfaces(const FieldData& field, const Lens& lens, double low, double high);
    void arrows(const FieldData& field);
    void lines(const FieldData& field);
    std::unique_ptr<Vtk> m_vtk;
    std::vector<std::array<double, 3>> m_seeds;
    bool m_inside = false;
};

}  // namespace yh::app
