#include "run/sound_part.h"

namespace yh::run {

namespace {

shape::Partition builtFrom(const sheet::Model& model, const std::string& folder)
{
    for (const sheet::Line& l : model.document().lines)
        if (sheet::isShape(l.kind) || l.kind == "space" || l.kind == "mirror plane")
            if (const auto f = model.slotFaults(l); !f.empty())
                throw base::Error(f[0].number, f[0].text, f[0].place);
    return shape::Partition::build(model, folder);
}

}  // namespace

SoundPart soundPart(sheet::Document document, const std::string& folder)
{
    std::set<std::string> leftOut;
    base::Faults faults;
    while (true)
        try {
            auto model = std::make_unique<const sheet::Model>(document);
            shape::Partition partition = builtFrom(*model, folder);
            return {std::move(model), std::move(partition), std::move(leftOut), std::move(faults)};
        } catch (const base::Error& e) {
            const sheet::Line* l = document.find(e.fault().place.line);
            if (!l || !sheet::isShape(l->kind)) {
                if (!faults.empty())
                    throw base::Error(faults[0].number, faults[0].text, faults[0].place);
                throw;
            }
            faults.push_back(e.fault());
            leftOut.insert(l->name());
            document.remove(l->id);
        }
}

}  // namespace yh::run
