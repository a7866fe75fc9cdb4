// The base of what makes the asks of one field: a table says which function makes which.
#pragma once

#include "physics/common/ask.h"
#include "shape/partition.h"
#include "sheet/schema.h"

#include <map>
#include <string>
#include <utility>
#include <vector>

namespace yh::physics {

/// @tparam Problem  what the sheet says about the field
template <class Problem>
class AskMaker
{
public:
    /// All must outlive it.
    AskMaker(const sheet::Model& model, const shape::Partition& partition, const Problem& problem,
             base::Faults& faults)
        : m_model(model), m_p(partition), m_problem(problem), m_faults(faults)
    {
    }

protected:
    /// By kind of line: the function of a maker that makes its asks.
    template <class Own>
    using Table = std::map<std::string, void (Own::*)(const sheet::Line&)>;

    /// Goes through the asks of the sheet.
    /// @param number   of the fault where a kind is not in the table
    /// @param instead  what the field is, and what may be asked of it
    template <class Own>
    [[nodiscard]] std::vector<Ask> make(const Table<Own>& table, int number,
                                        const std::string& instead)
    {
        for (const sheet::Line& l : m_model.document().lines) {
            const sheet::Kind* kind = sheet::findKind(l.kind);
            if (!kind || kind->section != "ask")
                continue;
            if (const auto row = table.find(l.kind); row != table.end())
                (static_cast<Own*>(this)->*row->second)(l);
            else
                fault(number, l, {}, "'" + kind->words + "' is not defined for " + instead);
        }
        return std::move(m_asks);
    }

    void fault(int number, const sheet::Line& l, const std::string& key, const std::string& text)
    {
        m_faults.push_back({number, {l.id, key, -1}, text, false});
    }
    Ask& add(const sheet::Line& l, const base::Dimension& d, const std::string& name)
    {
        m_asks.push_back(beginAsk(m_model, l, d, name));
        return m_asks.back();
    }
    /// All quantities along a straight line; the store gives it its file.
    /// @param d  of the first quantity
    void profileOf(const sheet::Line& l, const base::Dimension& d)
    {
        add(l, d, "profile " + l.get("from") + " to " + l.get("to")).finding.table = "profile";
    }

    const sheet::Model& m_model;
    const shape::Partition& m_p;
    const Problem& m_problem;
    base::Faults& m_faults;
    std::vector<Ask> m_asks;
};

}  // namespace yh::physics
