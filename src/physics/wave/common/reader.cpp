// Reading the waves of a sheet: materials, walls and what is looked for.
#include "physics/wave/common/reader.h"
#include "physics/common/constants.h"
#include "sheet/materials.h"
#include "sheet/nearest.h"
#include "sheet/schema.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <set>

namespace yh::physics {

using sheet::Line;

std::unique_ptr<WaveProblem> WaveReader::run()
{
    auto& o = *m_out;
    const size_t n = m_p.pieces().size();
    o.measure = m_model.space() == sheet::Space::axisymmetric ? fem::Measure::axisymmetric
                                                              : fem::Measure::plane;
    o.scale = m_model.depth();
    o.eps.resize(n);
    o.inverseMu.resize(n);
    o.loss.assign(n, 0.0);
    o.sigma.assign(n, 0.0);
    o.density.assign(n, 0.0);
    o.sides.assign(m_p.sides().size(), WaveProblem::open);
    m_isMetal.assign(n, 0);
    m_known.assign(n, 0);
    kind();
    materials();
    surfaces();
    symmetry();
    stated();
    sheets();
    guide();
    openSpace();
    periodicPairs();
    ports();
    wires();
    dipoles();
    incidence();
    findTurning();
    planeWaves();
    wanted();
    for (size_t f = 0; f < n; ++f)
        if (!m_isMetal[f])
            o.activePieces.push_back(int(f));
    if (o.activePieces.empty() && m_faults.empty())
        m_faults.push_back({6203,
                            {-1, "materials", -1},
                            "all regions are metal: there is nothing in which a wave could be",
                            false});
    return std::move(m_out);
}

shape::Selection WaveReader::resolve(const Line& l)
{
    return SheetReader::resolve(l, l.kind == "material" ? "in" : "on", 6001);
}

fem::Coefficient WaveReader::coefficient(const Line& l, const std::string& key, double fallback,
                                         bool inverse)
{
    fem::Coefficient k;
    if (!l.has(key)) {
        k.constant = fem::Tensor::isotropic(inverse ? 1 / fallback : fallback);
        return k;
    }
    const base::Expression e(l.get(key));
    if (const auto c = e.evaluate(m_model.parameters().scope()); c.ok()) {
        const double v = c.value->value.real();
        k.constant = fem::Tensor::isotropic(inverse ? 1 / v : v);
        return k;
    }
    k.at = [model = m_model, e, inverse](Point p) {
        const auto v = e.evaluate(model.scopeAt(p));
        const double x = v.ok() ? v.value->value.real() : NAN;
        return fem::Tensor::isotropic(inverse ? 1 / x : x);
    };
    return k;
}

WaveProblem::Dispersive WaveReader::running(const Line& l, double eps, double loss, double sigma)
{
    bool runs = false;
    WaveProblem::Dispersive out;
    auto cold = [scope = m_model.scopeOf(1e9, roomTemperature)](const std::string& name) {
        return name == "T" ? std::nullopt : scope(name);
    };
    for (const char* key : {"eps", "loss", "sigma"}) {
        if (!l.has(key))
            continue;
        const base::Expression e(l.get(key));
        if (const auto v = e.evaluate(m_model.parameters().scope()); v.ok())
            runs = runs || v.value->value.imag() != 0;
        else if (e.evaluate(m_model.scopeOf(1e9, roomTemperature)).ok()) {
            runs = true;
            out.warms = out.warms || !e.evaluate(cold).ok();
        }
    }
    if (!runs)
        return out;
    auto read = [&](const char* key,
                    double fallback) -> std::function<std::complex<double>(const base::Scope&)> {
        if (!l.has(key))
            return [fallback](const base::Scope&) { return fallback; };
        return [e = base::Expression(l.get(key))](const base::Scope& scope) {
            const auto v = e.evaluate(scope);
            return v.ok() ? v.value->value : std::complex<double>(NAN);
        };
    };
    out.eps = [model = m_model, e = read("eps", eps), d = read("loss", loss),
               s = read("sigma", sigma)](double f, double T) {
        const auto scope = model.scopeOf(f, T);
        const std::complex<double> j(0, 1);
        return e(scope) * (1.0 - j * d(scope)) - j * s(scope) / (2 * pi * f * eps0);
    };
    return out;
}

void WaveReader::dispersive(const Line& l, WaveProblem::Dispersive d)
{
    auto& o = *m_out;
    const auto& document = m_model.document();
    auto eps = [&d](double f) { return d.eps(f, roomTemperature); };
    const bool modes = document.first("modes") != nullptr;
    const bool runs = eps(1e9) != eps(1.5e9), follows = modes && runs;
    if (follows && (document.first("open space") || document.first("periodic pair"))) {
        fault(6240, l, "eps",
              "in open space and between periodic sides resonances take constants: state ε "
              "and tan δ at the frequency looked for");
        return;
    }
    const double from =
        follows ? m_model.optionalNumber(*document.first("modes"), "from").value_or(0) : 0;
    if (follows && !(from > 0)) {
        fault(6257, *document.first("modes"), "from",
              "a medium runs with the frequency: state one a little below the first resonance "
              "wanted, from which the search begins",
              true);
        return;
    }
    const double low = follows ? from : m_model.lowestFrequency().value_or(1e9),
                 high =
                     document.first("band") ? m_model.number(*document.first("band"), "to") : low;
    std::complex<double> at[3];
    for (int i = 0; i < 3; ++i) {
        const double f = low + (high - low) * i / 2;
        at[i] = eps(f);
        if (!std::isfinite(std::abs(at[i])) || at[i].imag() > 1e-12 * std::abs(at[i])) {
            fault(6241, l, "eps",
                  std::isfinite(std::abs(at[i]))
                      ? "at " + base::format(f, base::dim::frequency, 4) +
                            " the imaginary part is above zero: losses go with exp(+jωt), so "
                            "that ε = ε' - jε''"
                      : "the permittivity has no value at " +
                            base::format(f, base::dim::frequency, 4));
            return;
        }
    }
    o.steepness.resize(m_p.pieces().size(), 0.0);
    const double step = 1e-4 * low, steep = 0.5 * low * (eps(low + step) - eps(low - step)).real() /
                                            (2 * step) / at[0].real();
    d.reference = 0;
    for (const auto& v : at)
        d.reference = std::max(d.reference, std::abs(v));
    const bool isFixed = modes || document.first("guide modes") != nullptr;
    if (follows) {
        d.reference = at[0].real();
        if (!(d.reference > 0)) {
            fault(6240, l, "eps",
                  "resonances need a permittivity above zero at the frequency from which they "
                  "are looked for");
            return;
        }
    }
    for (const int f : d.pieces) {
        const auto k = size_t(f);
        o.sigma[k] = 0;
        o.loss[k] = isFixed && !follows ? -at[0].imag() / at[0].real() : 0;
        o.eps[k].constant = fem::Tensor::isotropic(isFixed ? at[0].real() : d.reference);
        o.eps[k].at = nullptr;
        o.steepness[k] = steep;
    }
    if (!isFixed || follows)
        o.dispersive.push_back(std::move(d));
}

double WaveReader::plain(const Line& l, const std::string& key, double fallback)
{
    if (!l.has(key))
        return fallback;
    const auto v = base::Expression(l.get(key)).evaluate(m_model.parameters().scope());
    if (v.ok())
        return v.value->value.real();
    fault(6204, l, key, "this may not depend on place or temperature in a wave problem");
    return fallback;
}

void WaveReader::kind()
{
    auto& o = *m_out;
    const bool axi = m_model.space() == sheet::Space::axisymmetric;
    if (const Line* l = m_model.document().first("field across")) {
        o.kind.parts = axi ? fem::EdgeKind::round : fem::EdgeKind::across;
        if (m_model.space() == sheet::Space::solid)
            fault(6236, *l, {}, "a solid holds E in all directions; this is for drawings");
        else if (m_model.document().first("guide modes"))
            fault(6236, *l, {}, "the modes of a guide hold E in all directions");
    }
    const Line* modes = m_model.document().first("modes");
    if (!modes || !modes->has("turns"))
        return;
    if (!axi)
        fault(6237, *modes, "turns",
              "only what is drawn round an axis has fields of an azimuthal order");
    else if (o.kind.parts == fem::EdgeKind::round)
        fault(6238, *modes, "turns",
              "fields that change with the angle point in all directions: take the line `E "
              "across the drawing` out");
    else
        o.kind = {fem::EdgeKind::turning, m_model.count(*modes, "turns")};
    // Energies hold the mean square of the cosine.
    o.scale /= 2;
}

void WaveReader::materials()
{
    auto& o = *m_out;
    for (const Line* l : m_model.document().ofKind("material")) {
        const sheet::Material* known = sheet::findMaterial(l->get("material"));
        const bool metal = known && known->conductor && !l->has("eps");
        if (!known && !l->has("eps"))
            fault(6201, *l, "eps",
                  sheet::notInLibrary(l->get("material")) + ": its permittivity ε is missing",
                  true);
        if (l->has("eps2"))
            fault(6205, *l, "eps2", "waves take the same permittivity in all directions");
        const shape::Selection s = resolve(*l);
        if (s.pieces.empty() && !s.sides.empty())
            fault(6002, *l, "in", "'" + l->get("in") + "' picks sides; a material fills regions");
        const double knownEps = known ? known->eps : 1.0,
                     knownLoss = known ? sheet::lossTangent(*known) : 0.0,
                     resistivity = known ? known->resistivity : 0.0,
                     knownSigma = resistivity > 0 ? 1 / resistivity : 0.0;
        const auto mu = coefficient(*l, "mu", 1.0, true);
        auto runs =
            metal ? WaveProblem::Dispersive() : running(*l, knownEps, knownLoss, knownSigma);
        // Of a medium that runs with the frequency the constants are set below.
        const bool fixed = !runs.eps;
        const auto eps = fixed ? coefficient(*l, "eps", knownEps, false) : fem::Coefficient();
        const double loss = fixed ? plain(*l, "loss", knownLoss) : 0,
                     sigma = fixed ? plain(*l, "sigma", knownSigma) : 0;
        if (sigma > 0 && !metal && eps.at)
            fault(6218, *l, "sigma",
                  "a conductivity beside a permittivity that depends on place is not possible "
                  "for waves; state the loss as tan δ");
        // Of those that depend on the temperature, no figure of waves makes use.
        const auto stated =
            base::Expression(l->get("density")).evaluate(m_model.parameters().scope());
        const double density = l->has("density") ? (stated.ok() ? stated.value->value.real() : 0)
                               : known           ? known->density
                                                 : 0.0;
        int wall = -1;
        if (metal) {
            wall = int(o.walls.size());
            o.walls.push_back({-1, l->get("material"), sigma, 0});
        }
        for (const int f : s.pieces) {
            const auto k = size_t(f);
            m_isMetal[k] = metal;
            m_metalWall[k] = wall;
            m_known[k] = 1;
            o.eps[k] = eps;
            o.inverseMu[k] = mu;
            o.loss[k] = loss;
            o.density[k] = density;
            o.sigma[k] = metal ? 0.0 : sigma;
        }
        if (runs.eps) {
            runs.pieces = s.pieces;
            dispersive(*l, std::move(runs));
        }
    }
    sayWithoutMaterial([this](size_t f) { return m_known[f] != 0; }, "vacuum");
}

void WaveReader::surfaces()
{
    for (size_t s = 0; s < m_p.sides().size(); ++s) {
        int wall = -1;
        bool inside = false;
        for (const int f : m_p.sides()[s].pieces) {
            if (m_isMetal[size_t(f)])
                wall = m_metalWall[size_t(f)];
            else
                inside = true;
        }
        if (wall >= 0 && inside)
            m_out->sides[s] = wall;
    }
}

void WaveReader::symmetry()
{
    auto& o = *m_out;
    std::array<int, 4> kind{WaveProblem::magnetic, WaveProblem::magnetic, WaveProblem::magnetic,
                            WaveProblem::magnetic};
    for (const Line* l : m_model.document().ofKind("mirror plane")) {
        const auto axis = size_t(m_model.axisOf(l->get("at")));
        o.scale *= 2;
        // Opposite potentials on both sides: no potential on the plane, an electric wall.
        const bool odd = l->get("kind") == "odd";
        if (odd)
            kind[axis] = WaveProblem::electric;
        o.mirrors.push_back({int(axis), odd});
    }
    if (const Line* l = m_model.document().first("wedge symmetry")) {
        o.wedges = m_model.wedges(*l);
        o.scale *= o.wedges;
    }
    for (size_t s = 0; s < m_p.sides().size(); ++s)
        if (const int cut = m_p.sides()[s].cut; cut >= 0)
            o.sides[s] = kind[size_t(cut)];
}

void WaveReader::wallOn(const Line& l, int side, int kind)
{
    auto& o = *m_out;
    const shape::Side& where = m_p.sides()[size_t(side)];
    int inside = 0;
    for (const int f : where.pieces)
        inside += !m_isMetal[size_t(f)];
    if (kind == WaveProblem::magnetic && inside > 1)
        fault(
            6208, l, "on",
            "a magnetic wall ends the field; '" + l.get("on") + "' has field on both of its sides");
    // Which side is which shows by the regions, or by the plane.
    const bool oneRegion =
        where.pieces.size() < 2 ? where.thin : where.pieces[0] == where.pieces[1];
    if (l.kind == "metal wall" && !where.flat && oneRegion && m_model.document().first("band"))
        fault(6215, l, "on",
              "'" + l.get("on") +
                  "' is a bent sheet inside one region; for waves through ports draw "
                  "it as a region of metal, or take an electric wall");
    // Symmetry is stronger than a rule such as 'outer of'.
    if (where.cut < 0)
        o.sides[size_t(side)] = kind;
}

void WaveReader::stated()
{
    auto& o = *m_out;
    for (const Line& l : m_model.document().lines) {
        if (l.kind != "metal wall" && l.kind != "magnetic wall" && l.kind != "electric wall")
            continue;
        const shape::Selection s = resolve(l);
        if (!s.pieces.empty())
            fault(6202, l, "on",
                  "'" + l.get("on") + "' picks regions; a wall lies on sides, such as " +
                      l.get("on") + ".top or outer of " + l.get("on"));
        int kind = WaveProblem::electric;
        if (l.kind == "magnetic wall")
            kind = WaveProblem::magnetic;
        if (l.kind == "metal wall") {
            const sheet::Material* known = sheet::findMaterial(l.get("material"));
            double sigma = known && known->resistivity > 0 ? 1 / known->resistivity : 0.0;
            if (l.has("sigma"))
                sigma = m_model.number(l, "sigma");
            if (!(sigma > 0))
                fault(6207, l, "sigma",
                      "the conductivity of '" + l.get("material") + "' is not known: state σ",
                      true);
            kind = int(o.walls.size());
            o.walls.push_back({l.id, l.get("material"), sigma,
                               l.has("roughness") ? m_model.number(l, "roughness") : 0.0});
        }
        for (const int side : s.sides)
            wallOn(l, side, kind);
    }
}

void WaveReader::sheets()
{
    auto& o = *m_out;
    for (const Line& l : m_model.document().lines) {
        if (l.kind != "resistive sheet" && l.kind != "absorbing wall")
            continue;
        ResistiveSheet sheet;
        sheet.line = l.id;
        const bool absorbs = l.kind == "absorbing wall";
        if (!absorbs)
            sheet.resistance = m_model.number(l, "resistance");
        if (!m_model.document().first("band") && !m_model.document().first("ring-down"))
            fault(6255, l, {},
                  "films and absorbing walls serve waves over a band; resonances and modes of "
                  "guides do not know them yet");
        const shape::Selection s = resolve(l);
        if (!s.pieces.empty())
            fault(6202, l, "on",
                  "'" + l.get("on") + "' picks regions; a wall lies on sides, such as " +
                      l.get("on") + ".top or outer of " + l.get("on"));
        for (const int side : s.sides) {
            const int fields = fieldsAt(side);
            if (m_p.sides()[size_t(side)].cut >= 0)
                continue;  // symmetry is stronger
            if (fields == 0)
                fault(6256, l, "on", "no field reaches '" + l.get("on") + "'");
            else if (absorbs && fields > 1)
                fault(6256, l, "on",
                      "an absorbing wall ends the field; '" + l.get("on") +
                          "' has field on both of its sides");
            sheet.sides.push_back(side);
            o.sides[size_t(side)] = fields > 1 ? WaveProblem::open : WaveProblem::magnetic;
        }
        o.sheets.push_back(std::move(sheet));
    }
}

void WaveReader::guide()
{
    auto& o = *m_out;
    const Line* l = m_model.document().first("guide modes");
    if (!l)
        return;
    o.guideModes = m_model.count(*l, "count");
    o.guideLine = l->id;
    o.guideFrequency = m_model.lowestFrequency().value_or(0);
    if (m_model.space() != sheet::Space::plane)
        m_faults.push_back({6226,
                            {l->id, {}, -1},
                            "modes of a guide belong to its section: choose a plane drawing",
                            false});
    o.bend = m_model.optionalNumber(*l, "bend").value_or(0);
    if (o.bend <= 0)
        return;
    for (size_t side = 0; side < m_p.sides().size(); ++side)
        for (const Point& p : m_p.samples(int(side)))
            if (p.x <= -0.98 * o.bend) {
                fault(6227, *l, "bend",
                      "the section reaches the line that it is bent about, at x = " +
                          base::format(-o.bend, base::dim::length));
                return;
            }
}

void WaveReader::openSpace()
{
    auto& o = *m_out;
    const auto open = m_model.openSpace();
    const Line* l = m_model.document().first("open space");
    if (const Line* modes = m_model.document().first("modes");
        l && o.guideModes == 0 && modes && m_model.lowestFrequency().value_or(0) <= 0)
        fault(6219, *modes, "from",
              "in open space resonances are looked for above a frequency: state it, a little "
              "below the first one wanted",
              true);
    if (!open || !l)
        return;
    const shape::OpenShell& s = m_p.openShell();
    AbsorbingShell& a = o.shell;
    a.present = true;
    a.cylinder = m_model.space() == sheet::Space::plane;
    a.centre = s.centre;
    a.inner = s.inner;
    a.outer = s.outer;
    // There and back a wave of the lowest frequency falls by this factor.
    const double left = o.guideModes > 0 ? 1e-4 : 1e-6;
    const double k = 2 * pi * m_model.lowestFrequency().value() / c0;
    a.depth = -std::log(left) / (2 * k);
    for (size_t f = 0; f < m_p.pieces().size(); ++f)
        if (m_p.regions()[size_t(m_p.pieces()[f].region)].name == "far shell" &&
            m_p.regions()[size_t(m_p.pieces()[f].region)].hidden)
            a.piece = int(f);
    YH_ASSERT(a.piece >= 0, "the open space has a shell");
    const auto piece = size_t(a.piece);
    for (const int side : m_p.pieces()[piece].sides)
        if (m_p.sides()[size_t(side)].pieces.size() == 2)
            a.sphere.push_back(side);
    o.eps[piece].at = [a](Point p) { return a.stretched(p).eps[0]; };
    o.inverseMu[piece].at = [a](Point p) { return a.stretched(p).inverseMu[0]; };
}

void WaveReader::wanted()
{
    auto& o = *m_out;
    if (const Line* l = m_model.document().first("band")) {
        o.low = m_model.number(*l, "from");
        o.high = m_model.number(*l, "to");
        o.points = m_model.count(*l, "points");
        o.shown = m_model.optionalNumber(*l, "shown").value_or((o.low + o.high) / 2);
        if (o.shown < o.low || o.shown > o.high)
            fault(6217, *l, "shown", "this frequency lies outside the band");
        // A hundredth of the accuracy that is asked for.
        double finest = 0.1;
        for (const char* kind : {"scattering", "S-parameters", "cross-section", "cross-sections",
                                 "radar cross-section", "received power"})
            for (const Line* ask : m_model.document().ofKind(kind))
                finest = std::min(finest, m_model.number(*ask, "within"));
        o.settled = std::max(0.01 * finest, 1e-7);
    }
    if (const Line* l = m_model.document().first("modes")) {
        o.modes = m_model.count(*l, "count");
        o.stored = m_model.number(*l, "stored");
        if (const auto f = m_model.optionalNumber(*l, "from"))
            o.from = *f;
    }
    for (const Line& l : m_model.document().lines)
        if (const sheet::Kind* k = sheet::findKind(l.kind);
            k && k->section == "ask" && k->slot("mode") && l.has("mode"))
            o.asked = std::max(o.asked, m_model.count(l, "mode"));
}

std::unique_ptr<WaveProblem> defineWave(const sheet::Model& model,
                                        const shape::Partition& partition, base::Faults& faults)
{
    return WaveReader(model, partition, faults).run();
}

}  // namespace yh::physics
