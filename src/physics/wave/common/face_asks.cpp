// Figures of waves.
#include "physics/wave/common/face.h"
#include "sheet/schema_slots.h"

namespace yh::physics {

using namespace sheet;

void addWaveAsks(std::vector<Kind>& k)
{
    const std::string a = "ask";
    auto portSlot = [](const std::string& key, const std::string& marker) {
        return Slot{.key = key,
                    .type = T::reference,
                    .marker = marker,
                    .required = true,
                    .refersTo = "port",
                    .help = "a port",
                    .alsoRefersTo = {"lumped port", "gap feed", "layout port"}};
    };
    const Slot at{.key = "at",
                  .type = T::quantity,
                  .marker = "at",
                  .dimension = dim::frequency,
                  .required = true,
                  .range = Range::positive,
                  .help = "a frequency of the band"};
    k.push_back({"scattering",
                 a,
                 "wave",
                 {portSlot("from", "from"),
                  portSlot("to", "to"),
                  at,
                  {.key = "fromMode",
                   .type = T::count,
                   .marker = "of mode",
                   .fallback = "1",
                   .help = "which mode comes in, where a port has several"},
                  {.key = "toMode",
                   .type = T::count,
                   .marker = "into mode",
                   .fallback = "1",
                   .help = "which one it is looked for in"},
                  within("0.5 %"),
                  limit("below", dim::none),
                  limit("above", dim::none)},
                 "wave from A to B at 10 GHz within 0.5 %",
                 "|S| and its phase between modes of two ports, or back to the same one. The "
                 "accuracy is a share of the wave that comes in."});
    k.push_back({"imbalance",
                 a,
                 "imbalance",
                 {portSlot("of", "of"),
                  portSlot("and", "over"),
                  portSlot("from", "from"),
                  at,
                  {.key = "mode",
                   .type = T::count,
                   .marker = "mode",
                   .fallback = "1",
                   .help = "of all three ports, where they have several"},
                  within("1 %")},
                 "imbalance of B over C from A at 194 THz within 1 %",
                 "How much more of a wave comes out of one port than of another, in dB. The "
                 "accuracy is a share of a decibel."});
    k.push_back({"S-parameters",
                 a,
                 "S-parameters",
                 {{.key = "reference",
                   .type = T::quantity,
                   .marker = "referred to",
                   .dimension = dim::resistance,
                   .range = Range::positive,
                   .help = "resistance of all ports, in place of their own impedances"},
                  {.key = "file",
                   .type = T::file,
                   .marker = "beside",
                   .help = "a Touchstone file whose curves are drawn beside"},
                  within("0.5 %")},
                 "S-parameters within 0.5 %",
                 "All S-parameters over the band with their group delay, as curves and as "
                 "Touchstone files."});
    k.push_back({"port impedance",
                 a,
                 "impedance of port",
                 {portSlot("of", ""), at, within("0.1 %")},
                 "impedance of port A at 10 GHz",
                 "Of its first mode: of the line (voltage over current) for TEM, else E over H "
                 "across the guide."});
    k.push_back({"input impedance",
                 a,
                 "input impedance at",
                 {portSlot("of", ""), at, within("1 %")},
                 "input impedance at A at 2 GHz",
                 "Resistance and reactance that a source at this port sees, the other ports "
                 "closed by their own impedances."});
    k.push_back({"standing wave ratio",
                 a,
                 "standing wave ratio at",
                 {portSlot("of", ""),
                  at,
                  {.key = "reference",
                   .type = T::quantity,
                   .marker = "referred to",
                   .dimension = dim::resistance,
                   .range = Range::positive,
                   .help = "resistance of all ports, in place of their own impedances"},
                  within("2 %"),
                  limit("below", dim::none)},
                 "standing wave ratio at A at 2 GHz below 2",
                 "Largest over least voltage along the line before the first mode of a port "
                 "(VSWR): 1 where nothing is reflected."});
    k.push_back({"bandwidth",
                 a,
                 "bandwidth at",
                 {portSlot("of", ""),
                  at,
                  {.key = "loss",
                   .type = T::quantity,
                   .marker = "with return loss above",
                   .fallback = "10",
                   .range = Range::positive,
                   .suffix = "dB",
                   .always = true},
                  within("5 %"),
                  limit("above", dim::frequency)},
                 "bandwidth at A at 2.45 GHz with return loss above 10",
                 "How far the match reaches around a frequency, and the middle of that range."});
    k.push_back({"loaded Q",
                 a,
                 "loaded Q near",
                 {{.key = "at",
                   .type = T::quantity,
                   .dimension = dim::frequency,
                   .required = true,
                   .range = Range::positive,
                   .help = "a frequency of the band, near a resonance"},
                  within("1 %"),
                  limit("above", dim::none),
                  limit("below", dim::none)},
                 "loaded Q near 10 GHz within 1 %",
                 "Of the resonance next to a frequency, with its frequency, the external Q of "
                 "every port, and the unloaded Q that is left."});
    const Slot theta{.key = "theta",
                     .type = T::quantity,
                     .marker = "theta",
                     .dimension = dim::none,
                     .help = "angle from the z axis; without a direction, the largest value"};
    const Slot phi{.key = "phi",
                   .type = T::quantity,
                   .marker = "phi",
                   .dimension = dim::none,
                   .help = "angle about the z axis from the x axis"};
    const Slot source{.key = "of",
                      .type = T::reference,
                      .marker = "of",
                      .required = true,
                      .refersTo = "port",
                      .help = "the port or dipole that drives",
                      .alsoRefersTo = {"lumped port", "gap feed", "point dipole"}};
    k.push_back({"gain",
                 a,
                 "gain",
                 {source,
                  at,
                  {.key = "kind",
                   .type = T::choice,
                   .marker = "as",
                   .fallback = "gain",
                   .choices = {"gain", "realised gain", "directivity"},
                   .help = "per power accepted, per power offered, or per power radiated",
                   .always = true},
                  theta,
                  phi,
                  within("2 %"),
                  limit("above", dim::none)},
                 "gain of A at 2 GHz as directivity within 2 %",
                 "Intensity of the far field over that of a source which radiates evenly, the "
                 "largest one or in a direction; its number in dBi is said beside it."});
    k.push_back({"radiation efficiency",
                 a,
                 "radiation efficiency",
                 {source, at, within("1 %"), limit("above", dim::none)},
                 "radiation efficiency of A at 2 GHz",
                 "Power radiated over power accepted."});
    k.push_back(
        {"radiated power",
         a,
         "radiated power",
         {source, at, within("1 %")},
         "radiated power of D at 2 GHz",
         "Of a dipole, or of a port that a wave comes into, of 1 W unless it states another."});
    k.push_back({"axial ratio",
                 a,
                 "axial ratio",
                 {source, at, theta, phi, within("5 %"), limit("below", dim::none)},
                 "axial ratio of A at 2 GHz theta 0 deg phi 0 deg",
                 "Long over short axis of the ellipse that the far field runs through."});
    Slot any = source;
    any.alsoRefersTo.push_back("plane wave");
    any.help = "the port or dipole that drives, or the plane wave that is scattered";
    Slot from = any;
    from.key = from.marker = "from";
    from.help =
        "the port that a wave comes into, of 1 W unless it states another, the dipole or the plane "
        "wave";
    k.push_back({"absorbed power",
                 a,
                 "power absorbed in",
                 {placeSlot("in", "", "regions"), from, at, within("1 %"),
                  limit("below", dim::power), limit("above", dim::power)},
                 "power absorbed in block from A at 2 GHz",
                 "What media take from the wave there."});
    const base::Dimension byMass = dim::power / (dim::density * dim::length * dim::area);
    k.push_back({"specific absorption rate",
                 a,
                 "specific absorption rate in",
                 {placeSlot("in", "", "regions"),
                  from,
                  at,
                  {.key = "kind",
                   .type = T::choice,
                   .marker = "as",
                   .fallback = "mean",
                   .choices = {"mean", "largest"},
                   .help = "of the whole mass there, or at the worst place",
                   .always = true},
                  within("2 %"),
                  limit("below", byMass)},
                 "specific absorption rate in block from A at 2 GHz as mean",
                 "Power absorbed by mass; its material states the density."});
    k.push_back({"pattern",
                 a,
                 "pattern",
                 {any, at},
                 "pattern of A at 2 GHz",
                 "Gain of the far field over all directions, or radar cross-section where a plane "
                 "wave is scattered: cuts in the drawer, the whole in the scene, and a table."});
    const Slot wave{.key = "of",
                    .type = T::reference,
                    .required = true,
                    .refersTo = "plane wave",
                    .help = "the wave that comes in"};
    k.push_back({"cross-section",
                 a,
                 "cross-section for",
                 {wave,
                  at,
                  {.key = "kind",
                   .type = T::choice,
                   .marker = "of",
                   .fallback = "scattering",
                   .choices = {"scattering", "absorption", "extinction"},
                   .help = "what becomes of the power: sent on, taken, or both",
                   .always = true},
                  within("1 %"),
                  limit("below", dim::area),
                  limit("above", dim::area)},
                 "cross-section for W at 2 GHz of scattering within 1 %",
                 "Power that the device scatters or absorbs over the power by area of the wave. In "
                 "a drawing it is that of its depth."});
    k.push_back({"cross-sections",
                 a,
                 "cross-sections for",
                 {wave, within("1 %")},
                 "cross-sections for W",
                 "Scattering, absorption and extinction over the band, as curves."});
    Slot back = theta;
    back.help = "angle of the observer from the z axis; without one, back where the wave is from";
    Slot turn = phi;
    turn.help = "angle of the observer about the z axis from the x axis";
    k.push_back({"radar cross-section",
                 a,
                 "radar cross-section for",
                 {wave, at, back, turn, within("1 %"), limit("below", dim::area)},
                 "radar cross-section for W at 2 GHz",
                 "4 pi times the power by solid angle that goes back, or to an observer, over the "
                 "power by area of the wave; its number in dB of 1 m² is said beside it."});
    k.push_back({"received power",
                 a,
                 "power received at",
                 {portSlot("of", ""),
                  {.key = "from",
                   .type = T::reference,
                   .marker = "from",
                   .required = true,
                   .refersTo = "plane wave",
                   .help = "the wave that comes in"},
                  at,
                  within("1 %"),
                  limit("above", dim::power)},
                 "power received at A from W at 2 GHz",
                 "What the port takes from the wave, closed by its own impedance."});
    const Slot mode{.key = "mode",
                    .type = T::count,
                    .required = true,
                    .help =
                        "which mode, counted by rising frequency, or of a guide by falling "
                        "effective index"};
    k.push_back({"effective index",
                 a,
                 "effective index of mode",
                 {mode, within("0.01 %"), limit("above", dim::none), limit("below", dim::none)},
                 "effective index of mode 1 within 0.01 %",
                 "Speed of light over the phase velocity along the guide."});
    k.push_back({"group index",
                 a,
                 "group index of mode",
                 {mode, within("0.1 %"), limit("above", dim::none), limit("below", dim::none)},
                 "group index of mode 1 within 0.1 %",
                 "Speed of light over that of a pulse along the guide."});
    k.push_back({"attenuation",
                 a,
                 "attenuation of mode",
                 {mode, within("1 %"), limit("below", dim::none / dim::length)},
                 "attenuation of mode 1 within 1 %",
                 "By how much the field falls along the guide; its number in dB by length is said "
                 "beside it."});
    k.push_back({"mode area",
                 a,
                 "area of mode",
                 {mode, within("0.5 %")},
                 "area of mode 1 within 0.5 %",
                 "Effective area: the integral of |E|² squared over that of |E|⁴."});
    k.push_back({"mode polarisation",
                 a,
                 "polarisation along x of mode",
                 {mode, within("1 %")},
                 "polarisation along x of mode 1",
                 "Share of E along x in the square of E across the guide."});
    k.push_back({"mode confinement",
                 a,
                 "power share of mode",
                 {mode, placeSlot("in", "in", "regions"), within("0.5 %")},
                 "power share of mode 1 in core within 0.5 %",
                 "Share of the power that runs in some regions."});
    k.push_back({"line impedance",
                 a,
                 "line impedance of mode",
                 {mode,
                  {.key = "from", .type = T::point, .marker = "from", .required = true},
                  {.key = "to", .type = T::point, .marker = "to", .required = true},
                  within("0.5 %"),
                  limit("above", dim::resistance),
                  limit("below", dim::resistance)},
                 "line impedance of mode 1 from 0, 0 to 0, 1 mm",
                 "V² / (2 P) with the peak voltage V along a straight line between two conductors "
                 "and the power P."});
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

}  // namespace yh::physics
