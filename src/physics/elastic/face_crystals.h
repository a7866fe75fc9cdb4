// Elastic and piezoelectric constants of known materials.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace yh::physics {

/// Of the class 6mm of poled ceramics, or 3m; stiffness at constant field in Pa, e in C/m^2,
/// relative permittivity at constant strain.
struct KnownCrystal
{
    std::string name;
    double c11, c12, c13, c14, c33, c44;
    double e15, e22, e31, e33;
    double eps11, eps33;
    double density;        ///< kg/m^3
    double quality, loss;  ///< mechanical Q and dielectric loss tangent; 0: not stated
    std::string source;
};

[[nodiscard]] const std::vector<KnownCrystal>& knownCrystals();
[[nodiscard]] const KnownCrystal* knownCrystal(const std::string& material);

struct KnownElastic
{
    double young = 0, poisson = 0, density = 0;
};
/// Of a material in the library that is alike in all directions.
[[nodiscard]] std::optional<KnownElastic> knownElastic(const std::string& material);

}  // namespace yh::physics
