// Fields of lines that mean nothing: a slip of the pen would otherwise pass in silence.
#include "sheet/model.h"
#include "sheet/nearest.h"
#include "sheet/topic.h"

#include <string>
#include <vector>

namespace yh::sheet {

base::Faults unknownWords(const Document& document)
{
    base::Faults list;
    for (const Line& line : document.lines) {
        const Kind* kind = findKind(line.kind);
        if (!kind)
            continue;
        auto say = [&](const std::string& key) {
            if (kind->slot(key))
                return;
            std::vector<std::string> keys;
            std::string all;
            for (const Slot& s : kind->entries) {
                keys.push_back(s.key);
                all += (all.empty() ? "" : ", ") + s.key;
            }
            const std::string near = nearestTo(key, keys);
            list.push_back({2013,
                            {line.id, key, -1},
                            "'" + key + "' means nothing in a line of the kind '" + line.kind +
                                "' and is not used; " +
                                (!near.empty() ? "did you mean '" + near + "'?"
                                 : all.empty() ? "it has no fields"
                                               : "it has " + all)});
        };
        for (const auto& [key, value] : line.values)
            if (!value.empty())
                say(key);
        for (const auto& [key, value] : line.extra)
            say(key);
    }
    return list;
}

}  // namespace yh::sheet
