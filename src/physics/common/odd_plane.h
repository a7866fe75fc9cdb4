// Inside `physics` only: contacts that mirror each other about an odd plane.
#pragma once

#include "base/fault.h"

#include <cmath>
#include <vector>

namespace yh::physics {

/// Gives every contact behind an odd plane its mate before it: the one with the opposite value.
/// @param fault  called with a contact that has none or several, and with what is to be said
template <class Contact, class Fault>
void pairAcrossPlane(std::vector<Contact>& contacts, Fault fault)
{
    constexpr double same = 1e-9;
    for (Contact& c : contacts) {
        if (!c.behind)
            continue;
        int mates = 0;
        for (size_t k = 0; k < contacts.size(); ++k)
            if (const Contact& m = contacts[k];
                !m.behind && m.byCurrent == c.byCurrent &&
                std::abs(m.value + c.value) <= same * std::abs(c.value)) {
                c.mate = int(k);
                ++mates;
            }
        if (mates != 1)
            fault(c, mates == 0 ? "contact " + c.name +
                                      " lies behind the odd plane; no contact before it has the "
                                      "opposite value"
                                : "several contacts could be the mirror image of " + c.name +
                                      "; model both sides");
    }
}

}  // namespace yh::physics
