// Constants of nature, under the names that the pages of physics use.
#pragma once

#include "base/constants.h"

namespace yh::physics {

using base::c0;
using base::eps0;
using base::mu0;
using base::pi;

}  // namespace yh::physics
