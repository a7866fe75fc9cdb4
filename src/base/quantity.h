// Quantities: a complex number with the exponents of the seven SI base units.
#pragma once

#include <array>
#include <complex>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace yh::base {

/// Exponents of m, kg, s, A, K, mol, cd in twelfths, so that square and cube roots stay exact.
struct Dimension
{
    std::array<int, 7> twelfths{};
    bool operator==(const Dimension&) const = default;
    [[nodiscard]] bool isNone() const { return *this == Dimension{}; }
};

[[nodiscard]] Dimension operator*(const Dimension& a, const Dimension& b);
[[nodiscard]] Dimension operator/(const Dimension& a, const Dimension& b);
/// The power of a dimension; nullopt where an exponent would not be a twelfth.
[[nodiscard]] std::optional<Dimension> power(const Dimension& a, double exponent);

namespace dim {
/// Whole exponents of m, kg, s, A, K.
constexpr Dimension of(int m, int kg, int s, int A = 0, int K = 0)
{
    return Dimension{{12 * m, 12 * kg, 12 * s, 12 * A, 12 * K, 0, 0}};
}
inline constexpr Dimension none = of(0, 0, 0);
inline constexpr Dimension length = of(1, 0, 0);
inline constexpr Dimension area = of(2, 0, 0);
inline constexpr Dimension time = of(0, 0, 1);
inline constexpr Dimension frequency = of(0, 0, -1);
inline constexpr Dimension temperature = of(0, 0, 0, 0, 1);
inline constexpr Dimension voltage = of(2, 1, -3, -1);
inline constexpr Dimension electricField = of(1, 1, -3, -1);
inline constexpr Dimension magneticField = of(-1, 0, 0, 1);
inline constexpr Dimension fluxDensity = of(0, 1, -2, -1);
inline constexpr Dimension flux = of(2, 1, -2, -1);
inline constexpr Dimension fluxPerLength = of(1, 1, -2, -1);
inline constexpr Dimension inductance = of(2, 1, -2, -2);
inline constexpr Dimension displacement = of(-2, 0, 1, 1);
inline constexpr Dimension charge = of(0, 0, 1, 1);
inline constexpr Dimension chargePerLength = of(-1, 0, 1, 1);
inline constexpr Dimension chargePerArea = displacement;
inline constexpr Dimension chargePerVolume = of(-3, 0, 1, 1);
inline constexpr Dimension capacitance = of(-2, -1, 4, 2);
inline constexpr Dimension capacitancePerLength = of(-3, -1, 4, 2);
inline constexpr Dimension energy = of(2, 1, -2);
inline constexpr Dimension energyDensity = of(-1, 1, -2);
inline constexpr Dimension force = of(1, 1, -2);
inline constexpr Dimension pressure = of(-1, 1, -2);
inline constexpr Dimension torque = energy;
inline constexpr Dimension current = of(0, 0, 0, 1);
inline constexpr Dimension currentDensity = of(-2, 0, 0, 1);
inline constexpr Dimension resistance = of(2, 1, -3, -2);
inline constexpr Dimension conductance = of(-2, -1, 3, 2);
inline constexpr Dimension contactResistance = of(4, 1, -3, -2);
inline constexpr Dimension resistivity = of(3, 1, -3, -2);
inline constexpr Dimension conductivity = of(-3, -1, 3, 2);
inline constexpr Dimension seebeck = of(2, 1, -3, -1, -1);
inline constexpr Dimension power = of(2, 1, -3);
inline constexpr Dimension heatFlux = of(0, 1, -3);
inline constexpr Dimension powerPerVolume = of(-1, 1, -3);
inline constexpr Dimension heatTransfer = of(0, 1, -3, 0, -1);
inline constexpr Dimension thermalConductivity = of(1, 1, -3, 0, -1);
inline constexpr Dimension density = of(-3, 1, 0);
inline constexpr Dimension heatCapacity = of(2, 0, -2, 0, -1);
inline constexpr Dimension volumeHeatCapacity = of(-1, 1, -2, 0, -1);
inline constexpr Dimension latentHeat = of(2, 0, -2);
}  // namespace dim

/// A value in SI units with its dimension.
struct Quantity
{
    std::complex<double> value{};
    Dimension dimension{};
    bool operator==(const Quantity&) const = default;
};

/// A named unit: value in SI = number * factor + offset, or by a level (dB, dBm).
struct Unit
{
    enum class Kind { linear, amplitudeLevel, powerLevel };
    std::string symbol;
    double factor = 1.0;
    double offset = 0.0;  ///< K for degrees Celsius and Fahrenheit, else 0
    Dimension dimension;
    bool takesPrefix = false;
    Kind kind = Kind::linear;
    [[nodiscard]] Quantity apply(std::complex<double> number) const;
};

/// Looks a symbol up, with SI prefixes (`um`, `µm`, `kV`, `degC`, `°`, `%`, `dB`).
/// dB is the ratio of amplitudes, 10^(x/20); dBm is a power over 1 mW.
[[nodiscard]] std::optional<Unit> findUnit(std::string_view symbol);

/// What a dimension is called: "length", "voltage", or its base units "kg m/s^2".
[[nodiscard]] std::string describe(const Dimension& dimension);
/// A coherent SI unit for the dimension: "V/m", "F", or base units.
[[nodiscard]] std::string siUnit(const Dimension& dimension);

/// A number with a unit that suits its size: 4.173e-11 F as "41.73 pF".
/// @param digits  significant digits
[[nodiscard]] std::string format(double value, const Dimension& dimension, int digits = 4);

/// Unit and factor in which `value` reads best (between 1 and 1000 where prefixes allow).
struct DisplayUnit
{
    std::string symbol;
    double factor = 1.0;  ///< SI value of one display unit
    double offset = 0.0;  ///< SI value where it reads zero (temperatures)
    [[nodiscard]] double shown(double si) const { return (si - offset) / factor; }
    [[nodiscard]] double si(double shown) const { return shown * factor + offset; }
};
[[nodiscard]] DisplayUnit displayUnit(double value, const Dimension& dimension);
/// The symbol of a display unit as a figure's own unit has it: what is stated in newton metres says
/// N m where its dimension alone would say J.
[[nodiscard]] std::string symbolIn(const std::string& symbol, const std::string& unit);
/// The units offered for a dimension in menus, smallest first.
[[nodiscard]] std::vector<DisplayUnit> unitChoices(const Dimension& dimension);

/// A number written with just so many digits that its error shows: the error gets two.
/// @param value, error  in the same unit; error <= 0: six significant digits
[[nodiscard]] std::string formatNumber(double value, int digits);
struct ValueWithError
{
    std::string value, error, unit;
};
[[nodiscard]] ValueWithError formatWithError(double value, double error, const Dimension& dim);

}  // namespace yh::base
