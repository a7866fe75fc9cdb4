// Materials that the program knows, with the source of their values.
#pragma once

#include <string>
#include <vector>

namespace yh::sheet {

/// Values at 20 degC; 0 where one is not known. Resistivity follows
/// rho = rho20 (1 + alpha (T - 293.15 K)), which holds to some per cent from -50 to 250 degC in
/// metals and is carried on to the melting point.
struct Material
{
    std::string name;
    double eps = 0.0;          ///< relative permittivity at low frequency; 0: not known
    bool conductor = false;    ///< its electrostatic field is zero
    double resistivity = 0.0;  ///< ohm m; 0: an insulator
    double alpha = 0.0;        ///< 1/K, change of the resistivity
    double k = 0.0;            ///< thermal conductivity, W/(m K)
    double density = 0.0;      ///< kg/m^3
    double c = 0.0;            ///< heat capacity, J/(kg K)
    double limit = 0.0;        ///< melting or highest service temperature, K; 0: not known
    double seebeck = 0.0;      ///< V/K
    bool gas = false;          ///< left out of heat conduction unless k is given in the sheet
    std::string source;
};

/// One value of a material in words: where it holds and where it comes from.
struct Statement
{
    std::string property, value, holds, source;
};
/// All that is known of a material, also what only other fields need.
[[nodiscard]] std::vector<Statement> statements(const Material& material);

/// Dielectric loss tangent near the frequency at which it is known; 0: not known or none.
[[nodiscard]] double lossTangent(const Material& material);

/// Young's modulus in Pa and Poisson's ratio; 0 where they are not known, as of fluids.
struct Elasticity
{
    double young = 0, poisson = 0;
};
[[nodiscard]] Elasticity elasticityOf(const Material& material);

[[nodiscard]] const std::vector<Material>& materials();
[[nodiscard]] const Material* findMaterial(const std::string& name);

}  // namespace yh::sheet
