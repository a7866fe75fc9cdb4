#include "base/fault.h"

#include <utility>

namespace yh::base {

Error::Error(int number, const std::string& text, Place place)
    : std::runtime_error(text), m_number(number), m_place(std::move(place))
{
}

}  // namespace yh::base
