// Asks about S-parameters, whichever way they were found.
#pragma once

#include "base/quantity.h"
#include "physics/common/ask_maker.h"
#include "physics/wave/common/scattering.h"

#include <memory>

namespace yh::physics {

[[nodiscard]] inline std::string frequencyText(double f)
{
    return base::format(f, base::dim::frequency, 6);
}

/// Base of the makers of asks of solutions that are a Scattering.
class ScatteringAsks : public AskMaker<WaveProblem>
{
public:
    using AskMaker::AskMaker;

protected:
    using Line = sheet::Line;
    [[nodiscard]] static Scattering& scatteringOf(Solution& solution);
    /// The frequency of an ask; it must lie in the band.
    double frequencyOf(const Line& l);
    void scattering(const Line& l);
    void table(const Line& l);
    void standing(const Line& l);
    void bandwidth(const Line& l);
    void imbalance(const Line& l);

private:
    /// The network in a file that a line names.
    std::shared_ptr<const network::Network> besideOf(const Line& l);
};

}  // namespace yh::physics
