// Semiconductors: densities of states, gap, mobilities, recombination. Boltzmann statistics, fully
// ionised dopants, one material.
#pragma once

#include <string>
#include <vector>

namespace yh::physics {

struct Semiconductor
{
    std::string name;
    double eps = 0;                        ///< relative permittivity
    double gap = 0;                        ///< eV at 300 K
    double gap0 = 0, alpha = 0, beta = 0;  ///< eV, eV/K, K: gap0 - alpha T^2 / (T + beta)
    double Nc = 0, Nv = 0;                 ///< 1/m^3 at 300 K, as T^1.5
    /// By doping N: low + (high - low) / (1 + (N / reference)^exponent), m^2/(V s).
    struct Mobility
    {
        double low = 0, high = 0, reference = 0, exponent = 0;
        [[nodiscard]] double at(double doping) const;
    };
    Mobility electrons, holes;
    double radiative = 0;           ///< m^3/s
    double augerN = 0, augerP = 0;  ///< m^6/s
    std::string source;

    [[nodiscard]] double gapAt(double temperature) const;  ///< eV
    /// Of the intrinsic level from which densities count, above the middle of the gap, in the unit
    /// of the thermal voltage: densities of states differ.
    [[nodiscard]] double skew(double thermal) const;
    /// Intrinsic density, 1/m^3.
    [[nodiscard]] double intrinsic(double temperature) const;
};

[[nodiscard]] const std::vector<Semiconductor>& semiconductors();
[[nodiscard]] const Semiconductor* findSemiconductor(const std::string& name);

}  // namespace yh::physics
