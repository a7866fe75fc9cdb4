#include "physics/junction/semiconductor.h"

#include "physics/junction/junction.h"

#include <cmath>

namespace yh::physics {

double Semiconductor::Mobility::at(double doping) const
{
    return low + (high - low) / (1 + std::pow(doping / reference, exponent));
}

double Semiconductor::gapAt(double T) const
{
    // Varshni's form, moved so that the stated gap holds at 300 K.
    constexpr double room = 300;
    auto bend = [this](double t) { return alpha * t * t / (t + beta); };
    return gap + bend(room) - bend(T);
}

double Semiconductor::skew(double thermal) const
{
    return 0.5 * thermal * std::log(Nc / Nv);
}

double Semiconductor::intrinsic(double T) const
{
    constexpr double room = 300;
    const double states = std::sqrt(Nc * Nv) * std::pow(T / room, 1.5);
    return states * std::exp(-gapAt(T) * elementary / (2 * boltzmann * T));
}

const std::vector<Semiconductor>& semiconductors()
{
    // Sze and Ng, Physics of Semiconductor Devices, 3rd ed., appendices F to H; mobilities after
    // Caughey and Thomas, Proc. IEEE 55 (1967) 2192; Auger: Dziewior and Schmid, Appl. Phys. Lett.
    // 31 (1977) 346; radiative: Trupke et al., J. Appl. Phys. 94 (2003) 4930. All from memory.
    static const std::vector<Semiconductor> list = {
        {"silicon",
         11.9,
         1.12,
         1.169,
         4.9e-4,
         655,
         2.8e25,
         2.65e25,
         {68.5e-4, 1414e-4, 9.2e22, 0.711},
         {44.9e-4, 470.5e-4, 2.23e23, 0.719},
         4.73e-21,
         2.8e-43,
         0.99e-43,
         "Sze and Ng, 3rd ed.; Caughey and Thomas 1967; Dziewior and Schmid 1977; Trupke 2003"},
        {"germanium",
         16.2,
         0.66,
         0.744,
         4.77e-4,
         235,
         1.04e25,
         6.0e24,
         {850e-4, 3900e-4, 2.6e23, 0.56},
         {300e-4, 1900e-4, 1.0e23, 0.56},
         6.4e-20,
         1e-43,
         1e-43,
         "Sze and Ng, 3rd ed."},
        {"gallium arsenide",
         12.9,
         1.42,
         1.519,
         5.41e-4,
         204,
         4.7e23,
         7.0e24,
         {500e-4, 9400e-4, 6.0e22, 0.394},
         {20e-4, 491.5e-4, 1.48e23, 0.38},
         7.2e-16,
         1e-42,
         1e-42,
         "Sze and Ng, 3rd ed."},
    };
    return list;
}

const Semiconductor* findSemiconductor(const std::string& name)
{
    for (const Semiconductor& s : semiconductors())
        if (s.name == name)
            return &s;
    return nullptr;
}

}  // namespace yh::physics
