// What of a sheet's shape can be drawn while some of its lines are faulty.
#pragma once

#include "base/fault.h"
#include "shape/partition.h"
#include "sheet/model.h"

#include <memory>
#include <set>
#include <string>

namespace yh::run {

struct SoundPart
{
    std::unique_ptr<const sheet::Model> model;  ///< of the lines that are left
    shape::Partition partition;
    std::set<std::string> leftOut;  ///< names of shapes
    base::Faults faults;            ///< why, at their lines
};

/// Takes shapes out of a document until the rest can be built: what is wrong with them is said at
/// their lines. @throws base::Error where no shape of it can be drawn
[[nodiscard]] SoundPart soundPart(sheet::Document document, const std::string& folder);

}  // namespace yh::run
