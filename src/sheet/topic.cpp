#include "sheet/topic.h"

#include <algorithm>

namespace yh::sheet {

const Topic& topicOf(const Document& document)
{
    const auto& all = topics();
    const auto found = std::find_if(all.rbegin(), all.rend(),
                                    [&](const Topic& t) { return t.claims && t.claims(document); });
    return found == all.rend() ? all.front() : *found;
}

bool usesSection(const Document& document, std::string_view section)
{
    return std::any_of(document.lines.begin(), document.lines.end(), [&](const Line& l) {
        const Kind* k = findKind(l.kind);
        return k && k->section == section;
    });
}

std::vector<TopicMaterial> topicMaterials()
{
    std::vector<TopicMaterial> list;
    for (const Topic& t : topics())
        list.insert(list.end(), t.materials.begin(), t.materials.end());
    return list;
}

std::vector<std::string> materialNames()
{
    std::vector<std::string> list;
    for (const Material& m : materials())
        list.push_back(m.name);
    for (const TopicMaterial& m : topicMaterials())
        if (!findMaterial(m.name))
            list.push_back(m.name);
    return list;
}

Document newSheet(const std::string& card)
{
    for (const Topic& t : topics())
        for (const Card& c : t.cards)
            if (c.key == card)
                return c.begin();
    return {};
}

}  // namespace yh::sheet
