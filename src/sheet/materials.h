// Materials that the program knows, with the source of each value.
#pragma once

#include <string>
#include <vector>

namespace yh::sheet {

struct Material
{
    std::string name;
    double eps = 0.0;  ///< relative permittivity at low frequency, 20 to 25 degC; 0: not known
    bool conductor = false;  ///< its electrostatic field is zero
    std::string source;
};

[[nodiscard]] const std::vector<Material>& materials();
[[nodiscard]] const Material* findMaterial(const std::string& name);

}  // namespace yh::sheet
