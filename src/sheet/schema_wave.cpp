// Conditions and figures of waves.
#include "sheet/schema_fields.h"

namespace yh::sheet {

void addWave(std::vector<Kind>& k)
{
    k.push_back({"modes",
                 "waves",
                 "lowest modes",
                 {{.key = "count",
                   .type = T::count,
                   .required = true,
                   .help = "how many resonances are looked for"},
                  {.key = "from",
                   .type = T::quantity,
                   .marker = "above",
                   .dimension = dim::frequency,
                   .range = Range::notNegative,
                   .help = "only those above this frequency"}},
                 "lowest modes 4",
                 "Resonances of a closed device, by rising frequency.",
                 false,
                 true});
    k.push_back({"band",
                 "waves",
                 "band",
                 {{.key = "from",
                   .type = T::quantity,
                   .marker = "from",
                   .dimension = dim::frequency,
                   .required = true,
                   .range = Range::positive},
                  {.key = "to",
                   .type = T::quantity,
                   .marker = "to",
                   .dimension = dim::frequency,
                   .required = true,
                   .range = Range::positive},
                  {.key = "points",
                   .type = T::count,
                   .marker = "in",
                   .fallback = "201",
                   .suffix = "points",
                   .always = true},
                  {.key = "shown",
                   .type = T::quantity,
                   .marker = "fields shown at",
                   .dimension = dim::frequency,
                   .range = Range::positive,
                   .help = "without it, at the middle of the band"}},
                 "band from 8 GHz to 12 GHz in 201 points",
                 "Frequencies of the waves that come in through the ports.",
                 false,
                 true});
    k.push_back({"port",
                 "waves",
                 "port",
                 {nameField(),
                  placeField("on", "on", "a plane face where the guide goes on"),
                  {.key = "modes",
                   .type = T::count,
                   .marker = "with",
                   .fallback = "1",
                   .suffix = "mode(s)",
                   .help = "how many modes of the guide count, by rising cut-off"},
                  {.key = "shift",
                   .type = T::quantity,
                   .marker = "referred",
                   .dimension = dim::length,
                   .suffix = "inside",
                   .help = "S-parameters are for a plane that far inside the device"}},
                 "port A on guide.left",
                 "An endless guide goes on here; its modes are found on the face."});
    k.push_back({"metal wall",
                 "waves",
                 "metal wall",
                 {{.key = "material",
                   .type = T::text,
                   .required = true,
                   .help = "its metal; known names bring their conductivity"},
                  placeField("on", "on", "faces or sheets"),
                  {.key = "sigma",
                   .type = T::quantity,
                   .marker = "σ",
                   .dimension = dim::conductivity,
                   .range = Range::positive,
                   .help = "conductivity, if it is another one"},
                  {.key = "roughness",
                   .type = T::quantity,
                   .marker = "rough by",
                   .dimension = dim::length,
                   .range = Range::notNegative,
                   .help = "root mean square height"}},
                 "metal wall copper on outer of chamber",
                 "A wall that is thick against its skin depth; its loss counts."});
    k.push_back({"electric wall",
                 "waves",
                 "electric wall",
                 {placeField("on", "on", "faces or sheets")},
                 "electric wall on chamber.top",
                 "A wall without loss. All faces that say nothing else are such walls."});
    k.push_back({"magnetic wall",
                 "waves",
                 "magnetic wall",
                 {placeField("on", "on", "faces that end the field")},
                 "magnetic wall on chamber.top",
                 "The magnetic field has no part along it."});
}

void addWaveAsks(std::vector<Kind>& k)
{
    const std::string a = "ask";
    auto portField = [](const std::string& key, const std::string& marker) {
        return Field{.key = key,
                     .type = T::reference,
                     .marker = marker,
                     .required = true,
                     .refersTo = "port",
                     .help = "a port"};
    };
    const Field at{.key = "at",
                   .type = T::quantity,
                   .marker = "at",
                   .dimension = dim::frequency,
                   .required = true,
                   .range = Range::positive,
                   .help = "a frequency of the band"};
    k.push_back({"scattering",
                 a,
                 "wave",
                 {portField("from", "from"), portField("to", "to"), at, within("0.5 %"),
                  limit("below", dim::none), limit("above", dim::none)},
                 "wave from A to B at 10 GHz within 0.5 %",
                 "|S| and its phase between the first modes of two ports, or back to the same one. "
                 "The accuracy is a share of the wave that comes in."});
    k.push_back({"S-parameters",
                 a,
                 "S-parameters",
                 {within("0.5 %")},
                 "S-parameters within 0.5 %",
                 "All S-parameters over the band, as curves and as a Touchstone file."});
    k.push_back({"port impedance",
                 a,
                 "impedance of port",
                 {portField("of", ""), at, within("0.1 %")},
                 "impedance of port A at 10 GHz",
                 "Of its first mode: of the line (voltage over current) for TEM, else E over H "
                 "across the guide."});
    const Field mode{.key = "mode",
                     .type = T::count,
                     .required = true,
                     .help = "which mode, counted by rising frequency"};
    k.push_back(
        {"resonance",
         a,
         "frequency of mode",
         {mode, within("0.01 %"), limit("above", dim::frequency), limit("below", dim::frequency)},
         "frequency of mode 1 within 0.01 %",
         "Resonant frequency."});
    k.push_back({"quality factor",
                 a,
                 "Q of mode",
                 {mode, within("0.5 %"), limit("above", dim::none)},
                 "Q of mode 1 within 0.5 %",
                 "Unloaded quality factor, by walls and media."});
    k.push_back({"shunt impedance",
                 a,
                 "R/Q of mode",
                 {mode,
                  {.key = "from", .type = T::point, .marker = "from", .required = true},
                  {.key = "to", .type = T::point, .marker = "to", .required = true},
                  within("1 %")},
                 "R/Q of mode 1 from 0, 0, 0 to 0, 0, 10 mm",
                 "V^2 / (2 ω W) with the peak voltage V along a straight line and the stored "
                 "energy W."});
}

}  // namespace yh::sheet
