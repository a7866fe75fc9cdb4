#include "physics/common/ask.h"

#include "sheet/schema.h"
#include "sheet/sentence.h"

namespace yh::physics {

using sheet::Line;

Ask beginAsk(const sheet::Model& model, const Line& l, const base::Dimension& d,
             const std::string& name)
{
    Ask a;
    a.finding.line = l.id;
    a.finding.name = a.finding.label = name;
    a.finding.unit = base::siUnit(d);
    a.dimension = d;
    const sheet::Kind* kind = sheet::findKind(l.kind);
    if (kind->slot("within"))
        a.finding.within = model.number(l, "within");
    for (const auto& [key, limit] :
         {std::pair{"below", &Finding::below}, {"above", &Finding::above}})
        if (kind->slot(key))
            if (const auto v = model.optionalNumber(l, key))
                a.finding.*limit = *v;
    return a;
}

}  // namespace yh::physics
