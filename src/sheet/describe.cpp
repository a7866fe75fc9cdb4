#include "sheet/describe.h"

#include "sheet/schema.h"

namespace yh::sheet {

namespace {

/** The alternatives, with commas between. */
std::string joined(const std::vector<std::string>& list)
{
    std::string text;
    for (const std::string& c : list)
        text += (text.empty() ? "" : ", ") + c;
    return text;
}

std::string kindOfValue(const Slot& f)
{
    switch (f.type) {
        case SlotType::name:
        case SlotType::text:
            return {};
        case SlotType::quantity: {
            const std::string unit = base::siUnit(f.dimension);
            return unit.empty() ? "number" : unit;
        }
        case SlotType::count:
            return "count";
        case SlotType::point:
            return "point";
        case SlotType::direction:
            return "direction";
        case SlotType::points:
            return "points";
        case SlotType::place:
            return "place";
        case SlotType::choice:
            return joined(f.choices);
        case SlotType::reference: {
            std::vector<std::string> list{f.refersTo};
            list.insert(list.end(), f.alsoRefersTo.begin(), f.alsoRefersTo.end());
            return "name of: " + joined(list);
        }
        case SlotType::function: {
            const std::string unit = base::siUnit(f.dimension);
            return (unit.empty() ? "number" : unit) +
                   std::string(f.ofTemperature ? ", of place and T"
                               : f.ofFrequency ? ", of place and f"
                                               : ", of place");
        }
        case SlotType::file:
            return "file";
    }
    return {};
}

std::string keysOf(const Kind& kind)
{
    std::string text;
    for (const Slot& f : kind.entries) {
        const std::string value = kindOfValue(f);
        text += text.empty() ? "" : "; ";
        text += f.required ? "**" + f.key + "**" : f.key;
        if (!value.empty() || !f.fallback.empty())
            text += " (" + value + (value.empty() || f.fallback.empty() ? "" : "; ") +
                    (f.fallback.empty() ? "" : "else " + f.fallback) + ")";
    }
    return text;
}

}  // namespace

std::string describeLines()
{
    std::string text;
    for (const Section& s : sections()) {
        text += "### " + s.title + "\n\n| line | as a sentence | keys |\n|---|---|---|\n";
        for (const Kind& k : kinds())
            if (k.section == s.key)
                text += "| " + k.key + " | " + (k.example.empty() ? "" : "`" + k.example + "`") +
                        " | " + keysOf(k) + " |\n";
        text += "\n";
    }
    return text;
}

}  // namespace yh::sheet
