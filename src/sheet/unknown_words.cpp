// Fields of lines that mean nothing: a slip of the pen would otherwise pass in silence.
#include "sheet/model.h"
#include "sheet/topic.h"

#include <algorithm>
#include <numeric>

namespace yh::sheet {

namespace {

/// Letters to put in, take out or change. Source: Levenshtein, Sov. Phys. Doklady 10 (1966) 707.
size_t slips(const std::string& a, const std::string& b)
{
    std::vector<size_t> row(b.size() + 1);
    std::iota(row.begin(), row.end(), size_t(0));
    for (size_t i = 0; i < a.size(); ++i) {
        size_t corner = row[0];
        row[0] = i + 1;
        for (size_t j = 0; j < b.size(); ++j) {
            const size_t changed = corner + (a[i] == b[j] ? 0 : 1);
            corner = row[j + 1];
            row[j + 1] = std::min({row[j] + 1, row[j + 1] + 1, changed});
        }
    }
    return row.back();
}

}  // namespace

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
            // Half of a short word is another word.
            const size_t most = std::min<size_t>(2, key.size() / 2);
            const Slot* near = nullptr;
            size_t least = most + 1;
            std::string all;
            for (const Slot& s : kind->entries) {
                all += (all.empty() ? "" : ", ") + s.key;
                if (const size_t n = slips(key, s.key); n < least) {
                    least = n;
                    near = &s;
                }
            }
            list.push_back({2013,
                            {line.id, key, -1},
                            "'" + key + "' means nothing in a line of the kind '" + line.kind +
                                "' and is not used; " +
                                (near          ? "did you mean '" + near->key + "'?"
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
