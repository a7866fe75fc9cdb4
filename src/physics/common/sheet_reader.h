// The base of what reads the lines of one field from a sheet.
#pragma once

#include "shape/partition.h"
#include "sheet/model.h"

#include <set>
#include <string>

namespace yh::physics {

class SheetReader
{
public:
    /// All must outlive it.
    SheetReader(const sheet::Model& model, const shape::Partition& partition, base::Faults& faults)
        : m_model(model), m_p(partition), m_faults(faults)
    {
    }

protected:
    void fault(int number, const sheet::Line& l, const std::string& key, const std::string& text,
               bool incomplete = false)
    {
        m_faults.push_back({number, {l.id, key, -1}, text, incomplete});
    }

    /// What a place picks, with a fault of its own where its rule is wrong.
    /// @param number    of the fault where it picks nothing
    /// @param mayBeCut  it may lie wholly behind a plane of symmetry, which is none
    shape::Selection resolve(const sheet::Line& l, const std::string& key, int number,
                             bool mayBeCut = false)
    {
        shape::Selection s;
        try {
            s = m_p.resolve(m_model.place(l, key), m_model, {l.id, key, 0});
        } catch (const base::Error& e) {
            m_faults.push_back(e.fault());
            return s;
        }
        if (s.empty() && !mayBeCut)
            fault(number, l, key,
                  "'" + l.get(key) + "' picks nothing: it is painted over, cut away or used up");
        return s;
    }

    /// Says once for each region that has no material.
    /// @param isKnown  of a piece: whether it has one
    /// @param example  what might fill it
    template <class IsKnown>
    void sayWithoutMaterial(IsKnown isKnown, const std::string& example)
    {
        std::set<int> said;
        for (size_t f = 0; f < m_p.pieces().size(); ++f) {
            const shape::Region& r = m_p.regions()[size_t(m_p.pieces()[f].region)];
            if (!r.hidden && !isKnown(f) && said.insert(r.line).second)
                m_faults.push_back({6008,
                                    {r.line, {}, -1},
                                    "region '" + r.name +
                                        "' has no material: add a line such as `" + example +
                                        " in " + r.name + "`",
                                    true});
        }
    }

    const sheet::Model& m_model;
    const shape::Partition& m_p;
    base::Faults& m_faults;
};

}  // namespace yh::physics
