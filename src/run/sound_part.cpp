#include "run/sound_part.h"

namespace yh::run {

namespace {

/// Takes out the shapes whose own values are wrong. @throws base::Error of space and planes
void leaveOutFaulty(sheet::Document& document, std::set<std::string>& leftOut, base::Faults& faults)
{
    const sheet::Model model(document);
    const std::vector<sheet::Line> lines = document.lines;
    for (const sheet::Line& l : lines) {
        const bool isShape = sheet::isShape(l.kind);
        if (!isShape && l.kind != "space" && l.kind != "mirror plane")
            continue;
        const base::Faults own = model.slotFaults(l);
        if (own.empty())
            continue;
        if (!isShape)
            throw base::Error(own[0].number, own[0].text, own[0].place);
        leftOut.insert(l.name());
        faults.push_back(own[0]);
    }
    for (const base::Fault& f : faults)
        document.remove(f.place.line);
}

}  // namespace

SoundPart soundPart(sheet::Document document, const std::string& folder)
{
    std::set<std::string> leftOut;
    base::Faults faults;
    leaveOutFaulty(document, leftOut, faults);
    // What the kernel cannot make shows one by one.
    constexpr size_t most = 20;
    const size_t known = faults.size();
    while (true)
        try {
            auto model = std::make_unique<const sheet::Model>(document);
            shape::Partition partition = shape::Partition::build(*model, folder);
            return {std::move(model), std::move(partition), std::move(leftOut), std::move(faults)};
        } catch (const base::Error& e) {
            const sheet::Line* l = document.find(e.fault().place.line);
            if (!l || !sheet::isShape(l->kind) || faults.size() - known > most) {
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
