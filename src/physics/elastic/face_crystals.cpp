// In the library of faces, so that the window can show them.
#include "physics/elastic/face_crystals.h"

#include "sheet/materials.h"

namespace yh::physics {

const std::vector<KnownCrystal>& knownCrystals()
{
    // name, c11, c12, c13, c14, c33, c44, e15, e22, e31, e33, eps11, eps33, density, Q, tan delta
    static const std::vector<KnownCrystal> list = {
        {"soft PZT", 121e9, 75.4e9, 75.2e9, 0, 111e9, 21.1e9, 12.3, 0, -5.4, 15.8, 916, 830, 7750,
         75, 0.02, "Berlincourt, Curran and Jaffe, Physical Acoustics 1A, 1964 (from memory)"},
        {"hard PZT", 139e9, 77.8e9, 74.3e9, 0, 115e9, 25.6e9, 12.7, 0, -5.2, 15.1, 730, 635, 7500,
         500, 0.004, "Berlincourt, Curran and Jaffe, Physical Acoustics 1A, 1964 (from memory)"},
        {"barium titanate", 150e9, 66e9, 66e9, 0, 146e9, 44e9, 11.4, 0, -4.35, 17.5, 1115, 1260,
         5700, 400, 0.006, "Auld, Acoustic Fields and Waves in Solids, 1973 (from memory)"},
        {"zinc oxide", 209.7e9, 121.1e9, 105.1e9, 0, 210.9e9, 42.5e9, -0.59, 0, -0.61, 1.14, 8.55,
         10.2, 5680, 0, 0, "Auld, Acoustic Fields and Waves in Solids, 1973 (from memory)"},
        {"aluminium nitride", 345e9, 125e9, 120e9, 0, 395e9, 118e9, -0.48, 0, -0.58, 1.55, 8.0, 9.5,
         3260, 0, 0, "Tsubouchi, Sugai and Mikoshiba, IEEE Ultrasonics Symp. 1981 (from memory)"},
        {"lithium niobate", 203e9, 53e9, 75e9, 9e9, 245e9, 60e9, 3.7, 2.5, 0.2, 1.3, 44, 29, 4700,
         0, 0, "Warner, Onoe and Coquin, J. Acoust. Soc. Am. 42 (1967) 1223 (from memory)"},
    };
    return list;
}

const KnownCrystal* knownCrystal(const std::string& material)
{
    for (const KnownCrystal& k : knownCrystals())
        if (k.name == material)
            return &k;
    return nullptr;
}

std::optional<KnownElastic> knownElastic(const std::string& name)
{
    const sheet::Material* m = sheet::findMaterial(name);
    if (!m)
        return std::nullopt;
    const sheet::Elasticity e = sheet::elasticityOf(*m);
    if (!(e.young > 0))
        return std::nullopt;
    return KnownElastic{e.young, e.poisson, m->density};
}

}  // namespace yh::physics
