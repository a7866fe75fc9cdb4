// What other fields that hold current and heat need of their topic.
#pragma once

#include "sheet/topic.h"

namespace yh::physics {

/// Says that electrodes and charges do not belong to a sheet about current and heat.
void refuseElectrostaticLines(const sheet::Model& model, base::Faults& faults);
/// Lines of current and heat that a place offers.
[[nodiscard]] std::vector<sheet::Offer> transportOffers();

}  // namespace yh::physics
