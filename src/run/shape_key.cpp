#include "run/shape_key.h"

#include "sheet/schema.h"

#include <cstdio>

namespace yh::run {

using base::Point;
using sheet::Line;
using sheet::Model;

namespace {

void add(const sheet::PathStep& s, std::string& key)
{
    char buffer[96];
    std::snprintf(buffer, sizeof buffer, "%.17g,%.17g,%.17g;", s.to.x, s.to.y, s.to.z);
    key += buffer;
    if (s.via) {
        std::snprintf(buffer, sizeof buffer, "via %.17g,%.17g,%.17g;", s.via->x, s.via->y,
                      s.via->z);
        key += buffer;
    }
}

}  // namespace

std::string shapeKey(const Model& model)
{
    std::string key;
    char buffer[96];
    const Line* open = model.mappedSpace();
    for (const Line& l : model.document().lines) {
        const sheet::Kind* k = sheet::findKind(l.kind);
        if (!k || (k->section != "shape" && k->section != "mesh" && k->section != "symmetry" &&
                   &l != open))
            continue;
        key += l.kind + ":" + l.name();
        for (const sheet::Slot& f : k->entries) {
            key += "|" + f.key + "=";
            if (f.type == sheet::SlotType::quantity && (l.has(f.key) || !f.fallback.empty())) {
                std::snprintf(buffer, sizeof buffer, "%.17g", model.number(l, f.key));
                key += buffer;
            } else if (f.type == sheet::SlotType::point && (l.has(f.key) || !f.fallback.empty())) {
                const Point p = model.point(l, f.key);
                std::snprintf(buffer, sizeof buffer, "%.17g,%.17g,%.17g", p.x, p.y, p.z);
                key += buffer;
            } else if (f.type == sheet::SlotType::points && l.has(f.key)) {
                for (const auto& s : model.path(l, f.key))
                    add(s, key);
            } else if (f.type == sheet::SlotType::count && (l.has(f.key) || !f.fallback.empty())) {
                key += std::to_string(model.count(l, f.key));
            } else {
                key += l.get(f.key);
            }
        }
        key += "\n";
    }
    if (const auto waves = model.openSpace()) {
        std::snprintf(buffer, sizeof buffer, "open space|%.17g|%.17g\n", waves->distance,
                      waves->thickness);
        key += buffer;
    }
    return key;
}

}  // namespace yh::run
