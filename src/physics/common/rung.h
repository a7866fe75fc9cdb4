// What the passes of a field climb: each is solved on a rung, and asks it for a finer one.
#pragma once

#include "physics/common/solution.h"

#include <vector>

namespace yh::physics {

/// What the next pass is to be better for.
struct Goals
{
    int passes = 0;          ///< that there were
    bool onlyCheck = false;  ///< every ask is met: the next pass checks what the errors say
    bool wholly = false;     ///< figures that the field as a whole decides
    bool allDrives = false;  ///< of every drive's own field
    std::vector<LocalFunctional> places;  ///< values whose own error matters
};

class Rung
{
public:
    virtual ~Rung() = default;
    Rung() = default;
    Rung(const Rung&) = delete;
    Rung& operator=(const Rung&) = delete;

    /// The mesh that fields are solved on, or drawn on; without cells where there is no space.
    [[nodiscard]] virtual const mesh::Mesh& mesh() const = 0;
    /// Whether there are fields in space, which can be drawn and read at places.
    [[nodiscard]] bool isSampled() const { return mesh().cellCount() > 0; }
    /// Whether nothing had to be made anew for it.
    [[nodiscard]] virtual bool wasKnown() const { return false; }
    /// Whether there is none above it: errors follow from this pass alone.
    [[nodiscard]] virtual bool isTop() const = 0;
    /// Becomes the rung that the next pass is solved on, where there is one.
    /// @param field  the solution on this one
    virtual void climb(Solution& field, const Goals& goals) = 0;
};

}  // namespace yh::physics
