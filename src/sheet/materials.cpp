#include "sheet/materials.h"

namespace yh::sheet {

namespace {
// CRC: Handbook of Chemistry and Physics. KL: Kaye and Laby, Tables of Physical and Chemical
// Constants, 16th ed. All read from memory.
constexpr const char* crc = "CRC Handbook of Chemistry and Physics (from memory)";
constexpr const char* kl = "Kaye and Laby, 16th ed. (from memory)";
constexpr const char* practice = "common practice, no source";
}  // namespace

const std::vector<Material>& materials()
{
    static const std::vector<Material> list = {
        {"vacuum", 1.0, false, "by definition"},
        {"air", 1.000589, false,
         "CRC Handbook of Chemistry and Physics, dry air, 101 325 Pa, 0 degC (from memory)"},
        {"sulphur hexafluoride", 1.00204, false, crc},
        {"PTFE", 2.1, false, kl},
        {"polyethylene", 2.26, false, kl},
        {"cross-linked polyethylene", 2.3, false, practice},
        {"polypropylene", 2.2, false, kl},
        {"polystyrene", 2.55, false, kl},
        {"polyimide", 3.4, false, practice},
        {"PVC", 3.5, false, practice},
        {"epoxy resin", 3.6, false, practice},
        {"epoxy glass laminate", 4.5, false, practice},
        {"silicone rubber", 2.9, false, practice},
        {"fused silica", 3.78, false, kl},
        {"borosilicate glass", 4.6, false, kl},
        {"soda-lime glass", 7.2, false, practice},
        {"mica", 6.9, false, kl},
        {"alumina 96 %", 9.4, false, practice},
        {"alumina 99.5 %", 9.8, false, practice},
        {"zirconia", 25.0, false, practice},
        {"silicon", 11.7, false, crc},
        {"gallium arsenide", 12.9, false, crc},
        {"water", 80.1, false, "CRC Handbook of Chemistry and Physics, 20 degC (from memory)"},
        {"sea water", 74.0, false,
         "static permittivity at 20 degC, salinity 35, after Stogryn 1971 (from memory)"},
        {"ice", 91.6, false, "static, at -10 degC: Auty and Cole 1952 (from memory)"},
        {"mineral oil", 2.2, false, kl},
        {"ethanol", 25.3, false, crc},
        {"copper", 0.0, true, "conductor"},
        {"aluminium", 0.0, true, "conductor"},
        {"gold", 0.0, true, "conductor"},
        {"silver", 0.0, true, "conductor"},
        {"platinum", 0.0, true, "conductor"},
        {"titanium", 0.0, true, "conductor"},
        {"steel", 0.0, true, "conductor"},
        {"stainless steel", 0.0, true, "conductor"},
        {"brass", 0.0, true, "conductor"},
    };
    return list;
}

const Material* findMaterial(const std::string& name)
{
    for (const Material& m : materials())
        if (m.name == name)
            return &m;
    return nullptr;
}

}  // namespace yh::sheet
