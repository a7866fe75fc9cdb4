// What is known of each material, value by value: for the fields that need it, and for people.
#include "sheet/materials.h"

#include "base/quantity.h"
#include "sheet/material_sources.h"

#include <map>

namespace yh::sheet {

namespace {

using namespace sources;

/// Loss tangent at a frequency (Hz), Young's modulus (Pa), Poisson's ratio, linear expansion (1/K);
/// 0 where one is not known.
struct More
{
    double loss, at, young, poisson, expansion;
    const char* source;
};

const std::map<std::string, More>& more()
{
    static const std::map<std::string, More> list = {
        {"PTFE", {0.0002, 10e9, 0.5e9, 0.46, 120e-6, kl}},
        {"polyethylene", {0.0003, 10e9, 0.8e9, 0.42, 200e-6, kl}},
        {"cross-linked polyethylene", {0.0005, 1e9, 0.6e9, 0.46, 200e-6, practice}},
        {"polypropylene", {0.0003, 1e9, 1.5e9, 0.42, 110e-6, practice}},
        {"polystyrene", {0.0004, 10e9, 3.2e9, 0.34, 70e-6, kl}},
        {"polyimide", {0.003, 1e9, 2.5e9, 0.34, 20e-6, practice}},
        {"PVC", {0.01, 1e9, 3e9, 0.38, 70e-6, practice}},
        {"acrylic glass", {0.006, 3e9, 3.1e9, 0.37, 70e-6, practice}},
        {"polyamide 6.6", {0.013, 1e9, 2.8e9, 0.39, 80e-6, practice}},
        {"polycarbonate", {0.006, 1e9, 2.35e9, 0.37, 68e-6, practice}},
        {"polyester film", {0.008, 1e9, 4.5e9, 0.38, 17e-6, practice}},
        {"polyether ether ketone", {0.003, 1e9, 3.7e9, 0.4, 47e-6, practice}},
        {"polyoxymethylene", {0.006, 1e9, 2.9e9, 0.38, 110e-6, practice}},
        {"epoxy resin", {0.02, 1e9, 3e9, 0.35, 60e-6, practice}},
        {"epoxy glass laminate", {0.02, 1e9, 22e9, 0.15, 16e-6, practice}},
        {"silicone rubber", {0.005, 1e9, 0.005e9, 0.49, 300e-6, practice}},
        {"fused silica", {0.0001, 10e9, 72.5e9, 0.17, 0.55e-6, kl}},
        {"borosilicate glass", {0.0045, 1e9, 64e9, 0.2, 3.3e-6, practice}},
        {"soda-lime glass", {0.012, 1e9, 70e9, 0.22, 9e-6, practice}},
        {"sapphire", {0.0001, 10e9, 400e9, 0.27, 5.6e-6, practice}},
        {"mica", {0.0003, 1e9, 0e9, 0, 0e-6, practice}},
        {"alumina 96 %", {0.0004, 10e9, 300e9, 0.21, 6.8e-6, practice}},
        {"alumina 99.5 %", {0.00015, 10e9, 370e9, 0.22, 7e-6, practice}},
        {"aluminium nitride", {0.0005, 1e9, 320e9, 0.24, 4.5e-6, practice}},
        {"beryllia", {0.0004, 10e9, 345e9, 0.26, 7.5e-6, practice}},
        {"steatite", {0.0014, 1e9, 110e9, 0.25, 8e-6, practice}},
        {"zirconia", {0.001, 1e9, 205e9, 0.31, 10.5e-6, practice}},
        {"boron nitride", {0.0003, 10e9, 0e9, 0, 0e-6, practice}},
        {"diamond", {0.0001, 10e9, 1050e9, 0.1, 1e-6, practice}},
        {"concrete", {0, 0e9, 30e9, 0.2, 10e-6, practice}},
        {"silicon", {0, 0e9, 160e9, 0.22, 2.6e-6, practice}},
        {"germanium", {0, 0e9, 103e9, 0.26, 5.9e-6, practice}},
        {"gallium arsenide", {0, 0e9, 85.5e9, 0.31, 5.7e-6, practice}},
        {"silicon carbide", {0, 0e9, 410e9, 0.14, 4e-6, practice}},
        {"silver", {0, 0e9, 83e9, 0.37, 18.9e-6, kl}},
        {"copper", {0, 0e9, 128e9, 0.34, 16.5e-6, kl}},
        {"gold", {0, 0e9, 78e9, 0.44, 14.2e-6, kl}},
        {"aluminium", {0, 0e9, 70e9, 0.35, 23.1e-6, kl}},
        {"magnesium", {0, 0e9, 45e9, 0.29, 24.8e-6, kl}},
        {"tungsten", {0, 0e9, 411e9, 0.28, 4.5e-6, kl}},
        {"molybdenum", {0, 0e9, 329e9, 0.31, 4.8e-6, kl}},
        {"zinc", {0, 0e9, 108e9, 0.25, 30.2e-6, kl}},
        {"nickel", {0, 0e9, 200e9, 0.31, 13.4e-6, kl}},
        {"indium", {0, 0e9, 11e9, 0.45, 32.1e-6, kl}},
        {"iron", {0, 0e9, 211e9, 0.29, 11.8e-6, kl}},
        {"platinum", {0, 0e9, 168e9, 0.38, 8.8e-6, kl}},
        {"palladium", {0, 0e9, 121e9, 0.39, 11.8e-6, kl}},
        {"tin", {0, 0e9, 50e9, 0.36, 22e-6, kl}},
        {"chromium", {0, 0e9, 279e9, 0.21, 4.9e-6, kl}},
        {"tantalum", {0, 0e9, 186e9, 0.34, 6.3e-6, kl}},
        {"lead", {0, 0e9, 16e9, 0.44, 28.9e-6, kl}},
        {"titanium", {0, 0e9, 116e9, 0.32, 8.6e-6, kl}},
        {"bismuth", {0, 0e9, 32e9, 0.33, 13.4e-6, kl}},
        {"brass", {0, 0e9, 100e9, 0.34, 19e-6, practice}},
        {"phosphor bronze", {0, 0e9, 110e9, 0.34, 17.8e-6, practice}},
        {"steel", {0, 0e9, 205e9, 0.29, 12e-6, practice}},
        {"stainless steel", {0, 0e9, 195e9, 0.29, 16e-6, practice}},
        {"constantan", {0, 0e9, 160e9, 0.33, 14.9e-6, practice}},
        {"nickel chromium 80/20", {0, 0e9, 214e9, 0.3, 14e-6, practice}},
        {"iron chromium aluminium", {0, 0e9, 220e9, 0.3, 11e-6, practice}},
        {"graphite", {0, 0e9, 10e9, 0.2, 5e-6, practice}},
        {"solder tin lead 63/37", {0, 0e9, 30e9, 0.38, 24.7e-6, practice}},
        {"solder tin silver copper", {0, 0e9, 50e9, 0.36, 21.7e-6, practice}},
    };
    return list;
}

/// Iron and its kin have no single permeability: it depends on the field and on the treatment.
bool isFerromagnetic(const std::string& name)
{
    return name == "iron" || name == "nickel" || name == "steel" ||
           name == "iron chromium aluminium";
}

}  // namespace

double lossTangent(const Material& m)
{
    const auto it = more().find(m.name);
    return it == more().end() ? 0.0 : it->second.loss;
}

Elasticity elasticityOf(const Material& m)
{
    const auto it = more().find(m.name);
    return it == more().end() ? Elasticity{} : Elasticity{it->second.young, it->second.poisson};
}

std::vector<Statement> statements(const Material& m)
{
    constexpr base::Dimension perTemperature = base::dim::of(0, 0, 0, 0, -1),
                              pressureUnit = base::dim::of(-1, 1, -2);
    namespace dim = base::dim;
    std::vector<Statement> list;
    const std::string room = "20 °C", pressure = "20 °C, 1013 hPa",
                      &usual = m.gas ? pressure : room;
    auto add = [&](const char* property, double value, const base::Dimension& d,
                   const std::string& holds, const std::string& source) {
        if (value != 0)
            list.push_back({property, base::format(value, d, 5), holds, source});
    };
    add("permittivity ε", m.eps, dim::none, m.gas ? pressure : room + ", below 1 MHz", m.source);
    add("resistivity", m.resistivity, dim::resistivity, room, m.source);
    add("its change with temperature", m.alpha, perTemperature,
        m.conductor ? "-50 to 250 °C" : "0 to 40 °C", m.source);
    add("thermal conductivity", m.k, dim::thermalConductivity, usual, m.source);
    add("density", m.density, dim::density, usual, m.source);
    add("heat capacity", m.c, dim::heatCapacity, usual, m.source);
    add("Seebeck coefficient", m.seebeck, dim::seebeck, "20 to 80 °C", m.source);
    add("melts, boils or fails at", m.limit, dim::temperature, "1013 hPa", m.source);
    const bool isMetal = m.conductor && m.name.rfind("bismuth telluride", 0) != 0;
    if (m.gas || (isMetal && !isFerromagnetic(m.name)))
        list.push_back({"permeability μ", "1.000", "static", practice});
    if (const auto it = more().find(m.name); it != more().end()) {
        const More& x = it->second;
        add("loss tangent", x.loss, dim::none,
            room + ", near " + base::format(x.at, dim::frequency, 3), practice);
        add("Young's modulus", x.young, pressureUnit, room, x.source);
        add("Poisson's ratio", x.poisson, dim::none, room, x.source);
        add("linear expansion", x.expansion, perTemperature, "0 to 100 °C", x.source);
    }
    return list;
}

}  // namespace yh::sheet
