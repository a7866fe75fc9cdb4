#include "base/quantity.h"

#include "base/constants.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <map>
#include <unordered_map>

namespace yh::base {

namespace {

struct Prefix
{
    std::string_view symbol;
    double factor;
};
constexpr Prefix prefixes[] = {{"f", 1e-15}, {"p", 1e-12}, {"n", 1e-9}, {"u", 1e-6}, {"µ", 1e-6},
                               {"μ", 1e-6},  {"m", 1e-3},  {"c", 1e-2}, {"d", 1e-1}, {"k", 1e3},
                               {"M", 1e6},   {"G", 1e9},   {"T", 1e12}, {"P", 1e15}, {"a", 1e-18}};

using Map = std::unordered_map<std::string_view, Unit>;

Map makeUnits()
{
    static std::vector<Unit> all;
    using dim::of;
    auto add = [](std::vector<const char*> names, double f, Dimension d, bool prefix = false,
                  double offset = 0, Unit::Kind kind = Unit::Kind::linear) {
        for (const char* n : names)
            all.push_back(Unit{n, f, offset, d, prefix, kind});
    };
    Dimension mol, cd;
    mol.twelfths[5] = 12;
    cd.twelfths[6] = 12;
    add({"m"}, 1, of(1, 0, 0), true);
    add({"g"}, 1e-3, of(0, 1, 0), true);
    add({"s"}, 1, of(0, 0, 1), true);
    add({"A"}, 1, of(0, 0, 0, 1), true);
    add({"K"}, 1, of(0, 0, 0, 0, 1), true);
    add({"mol"}, 1, mol, true);
    add({"cd"}, 1, cd, true);
    add({"Hz"}, 1, of(0, 0, -1), true);
    add({"N"}, 1, of(1, 1, -2), true);
    add({"Pa"}, 1, of(-1, 1, -2), true);
    add({"bar"}, 1e5, of(-1, 1, -2), true);
    add({"J"}, 1, of(2, 1, -2), true);
    add({"Wh"}, 3600, of(2, 1, -2), true);
    add({"eV"}, 1.602176634e-19, of(2, 1, -2), true);
    add({"W"}, 1, of(2, 1, -3), true);
    add({"C"}, 1, of(0, 0, 1, 1), true);
    add({"V"}, 1, of(2, 1, -3, -1), true);
    add({"F"}, 1, of(-2, -1, 4, 2), true);
    add({"ohm", "Ω", "Ω"}, 1, of(2, 1, -3, -2), true);
    add({"S"}, 1, of(-2, -1, 3, 2), true);
    add({"Wb"}, 1, of(2, 1, -2, -1), true);
    add({"T"}, 1, of(0, 1, -2, -1), true);
    add({"H"}, 1, of(2, 1, -2, -2), true);
    add({"L"}, 1e-3, of(3, 0, 0), true);
    add({"rad"}, 1, dim::none, true);
    add({"deg", "°"}, pi / 180, dim::none);
    add({"%", "percent"}, 1e-2, dim::none);
    add({"ppm"}, 1e-6, dim::none);
    add({"min"}, 60, of(0, 0, 1));
    add({"h"}, 3600, of(0, 0, 1));
    add({"in", "inch"}, 0.0254, of(1, 0, 0));
    add({"mil"}, 2.54e-5, of(1, 0, 0));
    add({"degC", "°C"}, 1, of(0, 0, 0, 0, 1), false, 273.15);
    add({"degF", "°F"}, 5.0 / 9.0, of(0, 0, 0, 0, 1), false, 459.67 * 5.0 / 9.0);
    add({"dB"}, 1, dim::none, false, 0, Unit::Kind::amplitudeLevel);
    add({"dBm"}, 1e-3, of(2, 1, -3), false, 0, Unit::Kind::powerLevel);
    Map map;
    for (const Unit& u : all)
        map.emplace(u.symbol, u);
    return map;
}

const Map& units()
{
    static const Map map = makeUnits();
    return map;
}

/// Named dimensions with the unit they are shown in. `scale` true: the unit takes prefixes.
struct Named
{
    Dimension dimension;
    const char* name;
    const char* unit;
    bool scale;
    std::vector<const char*> choices;
};

const std::vector<Named>& named()
{
    static const std::vector<Named> list = {
        {dim::length, "length", "m", true, {"nm", "µm", "mm", "m"}},
        {dim::area, "area", "m^2", false, {"m^2"}},
        {dim::time, "time", "s", true, {"ns", "µs", "ms", "s"}},
        {dim::frequency, "frequency", "Hz", true, {"Hz", "kHz", "MHz", "GHz"}},
        {dim::temperature, "temperature", "K", false, {"K", "degC"}},
        {dim::voltage, "voltage", "V", true, {"mV", "V", "kV"}},
        {dim::electricField,
         "electric field",
         "V/m",
         true,
         {"V/m", "kV/m", "V/mm", "MV/m", "kV/mm"}},
        {dim::magneticField, "magnetic field", "A/m", true, {"mA/m", "A/m", "kA/m"}},
        {dim::fluxDensity, "magnetic flux density", "T", true, {"µT", "mT", "T"}},
        {dim::flux, "magnetic flux", "Wb", true, {"nWb", "µWb", "mWb", "Wb"}},
        {dim::fluxPerLength, "magnetic flux per length", "Wb/m", true, {"µWb/m", "mWb/m", "Wb/m"}},
        {dim::inductance, "inductance", "H", true, {"nH", "µH", "mH", "H"}},
        {dim::displacement, "charge per area", "C/m^2", true, {"nC/m^2", "µC/m^2", "C/m^2"}},
        {dim::charge, "charge", "C", true, {"pC", "nC", "C"}},
        {dim::chargePerLength, "charge per length", "C/m", true, {"pC/m", "nC/m", "C/m"}},
        {dim::chargePerVolume, "charge per volume", "C/m^3", true, {"µC/m^3", "C/m^3"}},
        {dim::capacitance, "capacitance", "F", true, {"fF", "pF", "nF", "F"}},
        {dim::capacitancePerLength, "capacitance per length", "F/m", true, {"pF/m", "nF/m", "F/m"}},
        {dim::energy, "energy", "J", true, {"pJ", "nJ", "µJ", "J"}},
        {dim::energyDensity, "energy per volume", "J/m^3", true, {"µJ/m^3", "mJ/m^3", "J/m^3"}},
        {dim::force, "force", "N", true, {"nN", "µN", "mN", "N"}},
        {dim::of(0, 1, -2), "force per length", "N/m", true, {"µN/m", "mN/m", "N/m"}},
        {dim::of(2, 1, -3), "power", "W", true, {"mW", "W", "kW"}},
        {dim::of(2, 1, -3, -2), "resistance", "ohm", true, {"mohm", "ohm", "kohm"}},
        {dim::of(0, 0, 0, 1), "current", "A", true, {"mA", "A"}},
        {dim::of(0, 1, 0), "mass", "kg", false, {"kg"}},
        {dim::currentDensity, "current density", "A/m^2", true, {"A/m^2", "A/mm^2"}},
        {dim::conductivity, "conductivity", "S/m", true, {"S/m", "kS/m", "MS/m"}},
        {dim::heatFlux, "heat flux", "W/m^2", true, {"W/m^2", "kW/m^2"}},
        {dim::powerPerVolume, "power per volume", "W/m^3", true, {"W/m^3", "kW/m^3"}},
        {dim::resistivity, "resistivity", "ohm*m", false, {}},
        {dim::volumeHeatCapacity,
         "heat capacity by volume",
         "J/m^3/K",
         true,
         {"J/m^3/K", "MJ/m^3/K"}},
        {dim::latentHeat, "heat by mass", "J/kg", true, {"J/kg", "kJ/kg"}},
        {dim::thermalConductivity, "thermal conductivity", "W/m/K", false, {}},
        {dim::heatTransfer, "heat transfer coefficient", "W/m^2/K", false, {}},
        {dim::seebeck, "Seebeck coefficient", "V/K", true, {"V/K"}},
        {dim::density, "density", "kg/m^3", false, {"kg/m^3"}},
        {dim::heatCapacity, "heat capacity", "J/kg/K", false, {}},
    };
    return list;
}

const Named* findNamed(const Dimension& d)
{
    for (const Named& n : named())
        if (n.dimension == d)
            return &n;
    return nullptr;
}

std::string baseUnits(const Dimension& d)
{
    static const char* symbol[7] = {"m", "kg", "s", "A", "K", "mol", "cd"};
    std::string up, down;
    for (size_t i = 0; i < 7; ++i) {
        const int e = d.twelfths[i];
        if (e == 0)
            continue;
        std::string& s = e > 0 ? up : down;
        if (!s.empty())
            s += " ";
        s += symbol[i];
        const int a = std::abs(e);
        if (a != 12)
            s += a % 12 == 0 ? "^" + std::to_string(a / 12) : "^(" + std::to_string(a) + "/12)";
    }
    if (up.empty())
        up = "1";
    return down.empty()
               ? up
               : up + "/" + (down.find(' ') != std::string::npos ? "(" + down + ")" : down);
}

}  // namespace

Dimension operator*(const Dimension& a, const Dimension& b)
{
    Dimension r;
    for (size_t i = 0; i < 7; ++i)
        r.twelfths[i] = a.twelfths[i] + b.twelfths[i];
    return r;
}

Dimension operator/(const Dimension& a, const Dimension& b)
{
    Dimension r;
    for (size_t i = 0; i < 7; ++i)
        r.twelfths[i] = a.twelfths[i] - b.twelfths[i];
    return r;
}

std::optional<Dimension> power(const Dimension& a, double exponent)
{
    // Exponents such as 1/3 arrive as the nearest double; a twelfth is recognised within this.
    constexpr double roundingOfAFraction = 1e-9;
    Dimension r;
    for (size_t i = 0; i < 7; ++i) {
        const double e = a.twelfths[i] * exponent;
        if (std::abs(e - std::round(e)) > roundingOfAFraction)
            return std::nullopt;
        r.twelfths[i] = int(std::lround(e));
    }
    return r;
}

Quantity Unit::apply(std::complex<double> number) const
{
    switch (kind) {
        case Kind::amplitudeLevel:
            return {std::pow(10.0, number / 20.0), dimension};
        case Kind::powerLevel:
            return {factor * std::pow(10.0, number / 10.0), dimension};
        case Kind::linear:
            break;
    }
    return {number * factor + offset, dimension};
}

std::optional<Unit> findUnit(std::string_view symbol)
{
    const Map& map = units();
    if (auto it = map.find(symbol); it != map.end())
        return it->second;
    for (const Prefix& p : prefixes) {
        if (symbol.size() <= p.symbol.size() || symbol.substr(0, p.symbol.size()) != p.symbol)
            continue;
        auto it = map.find(symbol.substr(p.symbol.size()));
        if (it != map.end() && it->second.takesPrefix) {
            Unit u = it->second;
            u.symbol = std::string(symbol);
            u.factor *= p.factor;
            return u;
        }
    }
    return std::nullopt;
}

std::string describe(const Dimension& d)
{
    if (d.isNone())
        return "plain number";
    if (const Named* n = findNamed(d))
        return n->name;
    return "quantity in " + baseUnits(d);
}

std::string siUnit(const Dimension& d)
{
    if (d.isNone())
        return "";
    if (const Named* n = findNamed(d))
        return n->unit;
    return baseUnits(d);
}

namespace {

/// Squares of lengths have steps of their own.
const std::vector<DisplayUnit>& areaUnits()
{
    static const std::vector<DisplayUnit> list = {
        {"nm^2", 1e-18}, {"µm^2", 1e-12}, {"mm^2", 1e-6}, {"m^2", 1.0}};
    return list;
}

}  // namespace

DisplayUnit displayUnit(double value, const Dimension& d)
{
    if (d == dim::area && std::isfinite(value) && value != 0) {
        // From a hundredth of a unit on.
        const DisplayUnit* best = &areaUnits().front();
        for (const DisplayUnit& u : areaUnits())
            if (std::abs(value) >= 0.01 * u.factor)
                best = &u;
        return *best;
    }
    const Named* n = findNamed(d);
    if (!n || !n->scale)
        return {siUnit(d), 1.0};
    static constexpr Prefix scale[] = {{"f", 1e-15}, {"p", 1e-12}, {"n", 1e-9}, {"µ", 1e-6},
                                       {"m", 1e-3},  {"", 1},      {"k", 1e3},  {"M", 1e6},
                                       {"G", 1e9},   {"T", 1e12}};
    const double a = std::abs(value);
    if (!(a > 0) || !std::isfinite(a))
        return {n->unit, 1.0};
    // Just below a power of 1000 the printed number would round up to "1000".
    constexpr double roundsUp = 0.99995;
    const Prefix* best = &scale[0];
    for (const Prefix& p : scale)
        if (a >= roundsUp * p.factor)
            best = &p;
    if (d == dim::length && best->factor > 1)
        best = &scale[5];
    return {std::string(best->symbol) + n->unit, best->factor};
}

std::string symbolIn(const std::string& symbol, const std::string& unit)
{
    // A level has a unit, but no dimension.
    if (unit == "dB" && (symbol.empty() || symbol == "1"))
        return unit;
    // A torque is no energy, a stress no energy by volume.
    for (const auto& [own, general, shown] : {std::array{"N*m", "J", "N m"}, {"Pa", "J/m^3", "Pa"}})
        if (unit == own && symbol.ends_with(general))
            return symbol.substr(0, symbol.size() - std::string_view(general).size()) + shown;
    return symbol;
}

std::vector<DisplayUnit> unitChoices(const Dimension& d)
{
    if (d == dim::area)
        return areaUnits();
    std::vector<DisplayUnit> list;
    if (const Named* n = findNamed(d)) {
        for (const char* text : n->choices) {
            const std::string s = text;
            const auto slash = s.find('/');
            double factor = findUnit(s.substr(0, slash)).value_or(Unit{}).factor;
            if (slash != std::string::npos) {
                std::string den = s.substr(slash + 1);
                const auto caret = den.find('^');
                const double base = findUnit(den.substr(0, caret)).value_or(Unit{}).factor;
                factor /= std::pow(
                    base, caret == std::string::npos ? 1 : std::stoi(den.substr(caret + 1)));
            }
            const double offset = findUnit(s).value_or(Unit{}).offset;
            list.push_back({s == "degC" ? "°C" : s, factor, offset});
        }
    }
    if (list.empty())
        list.push_back({siUnit(d), 1.0});
    return list;
}

std::string formatNumber(double value, int digits)
{
    if (std::isnan(value))
        return "not a number";
    char buffer[64];
    const double a = std::abs(value);
    if (a != 0 && (a >= 1e6 || a < 1e-4))
        std::snprintf(buffer, sizeof buffer, "%.*e", digits - 1, value);
    else {
        const int before = a > 0 ? int(std::floor(std::log10(a))) + 1 : 1;
        std::snprintf(buffer, sizeof buffer, "%.*f", std::clamp(digits - before, 0, 15), value);
    }
    std::string s = buffer;
    if (s.find('e') == std::string::npos && s.find('.') != std::string::npos) {
        s.erase(s.find_last_not_of('0') + 1);
        if (s.back() == '.')
            s.pop_back();
    }
    return s == "-0" ? "0" : s;
}

std::string format(double value, const Dimension& d, int digits)
{
    const DisplayUnit u = displayUnit(value, d);
    return formatNumber(value / u.factor, digits) + (u.symbol.empty() ? "" : " " + u.symbol);
}

ValueWithError formatWithError(double value, double error, const Dimension& d)
{
    const DisplayUnit u = displayUnit(value, d);
    const double v = value / u.factor;
    ValueWithError r;
    r.unit = u.symbol;
    if (!(error > 0) || !std::isfinite(error)) {
        r.value = formatNumber(v, 6);
        return r;
    }
    const double e = error / u.factor;
    // More digits than this nobody reads, however small the error.
    constexpr int mostDigits = 8;
    const int before = v != 0 ? int(std::floor(std::log10(std::abs(v)))) + 1 : 0;
    const int decimals =
        std::clamp(1 - int(std::floor(std::log10(e))), 0, std::clamp(mostDigits - before, 0, 10));
    // What is small beside its error is nothing.
    const bool large = std::abs(v) >= 1e7 || (v != 0 && std::abs(v) < 1e-4 && e < 1e-4);
    char buffer[64];
    if (large) {
        r.value = formatNumber(v, 6);
    } else {
        // Without a sign where all digits shown are zeros.
        const bool isZero = std::abs(v) < 0.5 * std::pow(10.0, -decimals);
        std::snprintf(buffer, sizeof buffer, "%.*f", decimals, isZero ? 0.0 : v);
        r.value = buffer;
    }
    if (e < 1e-4 || e >= 1e7)
        std::snprintf(buffer, sizeof buffer, "%.1e", e);
    else
        std::snprintf(buffer, sizeof buffer, "%.*f", decimals, e);
    r.error = buffer;
    return r;
}

}  // namespace yh::base
