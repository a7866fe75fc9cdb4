#include "sheet/nearest.h"

#include "sheet/topic.h"

#include <algorithm>
#include <cctype>
#include <map>
#include <numeric>
#include <utility>

namespace yh::sheet {

namespace {

/// Letters to put in, take out, change, or swap with their neighbours. Source: Damerau, Commun. ACM
/// 7 (1964) 171.
size_t slips(const std::string& a, const std::string& b)
{
    const size_t width = b.size() + 1;
    std::vector<size_t> before(width), last(width), row(width);
    std::iota(row.begin(), row.end(), size_t(0));
    for (size_t i = 1; i <= a.size(); ++i) {
        before = std::exchange(last, row);
        row[0] = i;
        for (size_t j = 1; j <= b.size(); ++j) {
            const size_t changed = last[j - 1] + (a[i - 1] == b[j - 1] ? 0 : 1);
            row[j] = std::min({last[j] + 1, row[j - 1] + 1, changed});
            if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                row[j] = std::min(row[j], before[j - 2] + 1);
        }
    }
    return row.back();
}

std::string small(std::string text)
{
    for (char& c : text)
        c = char(std::tolower(static_cast<unsigned char>(c)));
    return text;
}

/// Formulas and abbreviations of classes of materials, by small letters without signs; common
/// practice, no source.
const std::map<std::string, std::string>& abbreviations()
{
    static const std::map<std::string, std::string> list{{"fr4", "epoxy glass laminate"},
                                                         {"xlpe", "cross-linked polyethylene"},
                                                         {"pe", "polyethylene"},
                                                         {"pp", "polypropylene"},
                                                         {"ps", "polystyrene"},
                                                         {"pi", "polyimide"},
                                                         {"pmma", "acrylic glass"},
                                                         {"pa66", "polyamide 6.6"},
                                                         {"pc", "polycarbonate"},
                                                         {"pet", "polyester film"},
                                                         {"peek", "polyether ether ketone"},
                                                         {"pom", "polyoxymethylene"},
                                                         {"epoxy", "epoxy resin"},
                                                         {"silicone", "silicone rubber"},
                                                         {"sio2", "fused silica"},
                                                         {"quartzglass", "fused silica"},
                                                         {"glass", "soda-lime glass"},
                                                         {"al2o3", "alumina 99.5 %"},
                                                         {"alumina", "alumina 99.5 %"},
                                                         {"aln", "aluminium nitride"},
                                                         {"beo", "beryllia"},
                                                         {"zro2", "zirconia"},
                                                         {"bn", "boron nitride"},
                                                         {"si", "silicon"},
                                                         {"ge", "germanium"},
                                                         {"gaas", "gallium arsenide"},
                                                         {"gan", "gallium nitride"},
                                                         {"sic", "silicon carbide"},
                                                         {"sf6", "sulphur hexafluoride"},
                                                         {"n2", "nitrogen"},
                                                         {"he", "helium"},
                                                         {"ar", "argon"},
                                                         {"h2o", "water"},
                                                         {"ag", "silver"},
                                                         {"cu", "copper"},
                                                         {"au", "gold"},
                                                         {"al", "aluminium"},
                                                         {"aluminum", "aluminium"},
                                                         {"w", "tungsten"},
                                                         {"fe", "iron"},
                                                         {"ni", "nickel"},
                                                         {"ti", "titanium"},
                                                         {"pt", "platinum"},
                                                         {"ss304", "stainless steel"},
                                                         {"ss316", "stainless steel"},
                                                         {"304", "stainless steel"},
                                                         {"316l", "stainless steel"},
                                                         {"aisi304", "stainless steel"}};
    return list;
}

}  // namespace

std::string nearestTo(const std::string& word, const std::vector<std::string>& list)
{
    size_t least = 3;
    std::string near;
    for (const std::string& candidate : list) {
        const size_t n = slips(small(word), small(candidate));
        // Half of a short word is another word.
        if (n < least && n <= std::min(word.size(), candidate.size()) / 2) {
            least = n;
            near = candidate;
        }
    }
    return near;
}

std::string meant(const std::string& word, const std::vector<std::string>& list)
{
    const std::string near = nearestTo(word, list);
    return near.empty() ? std::string() : " (did you mean '" + near + "'?)";
}

std::string notInLibrary(const std::string& material)
{
    const std::vector<std::string> names = materialNames();
    std::string plain = small(material);
    std::erase_if(plain, [](char c) { return c == ' ' || c == '-' || c == '_'; });
    const auto known = abbreviations().find(plain);
    const bool isThere = known != abbreviations().end() &&
                         std::find(names.begin(), names.end(), known->second) != names.end();
    return "'" + material + "' is not in the library" +
           (isThere ? " (did you mean '" + known->second + "'?)" : meant(material, names));
}

}  // namespace yh::sheet
