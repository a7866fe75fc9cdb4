// Reading elastic and piezoelectric bodies from a sheet.
#include "physics/common/constants.h"
#include "physics/common/sheet_reader.h"
#include "physics/elastic/elastic.h"
#include "physics/elastic/face_crystals.h"
#include "sheet/materials.h"
#include "sheet/nearest.h"
#include "sheet/schema.h"

#include <algorithm>
#include <cmath>

namespace yh::physics {

using base::Error;
using sheet::Line;
using Complex = std::complex<double>;
using Component = ElasticProblem::Component;

namespace {

bool hasAny(const Line& l, std::initializer_list<const char*> keys)
{
    return std::any_of(keys.begin(), keys.end(), [&l](const char* k) { return l.has(k); });
}

/// The constants of the classes 6mm and 3m by their places; those of a cubic crystal are a part.
void placeElastic(Crystal& k, double k11, double k12, double k13, double k14, double k33,
                  double k44, double k66)
{
    k.c(0, 0) = k.c(1, 1) = k11;
    k.c(0, 1) = k.c(1, 0) = k12;
    for (const int i : {0, 1})
        k.c(i, 2) = k.c(2, i) = k13;
    k.c(2, 2) = k33;
    k.c(3, 3) = k.c(4, 4) = k44;
    k.c(5, 5) = k66;
    k.c(0, 3) = k.c(3, 0) = k14;
    k.c(1, 3) = k.c(3, 1) = -k14;
    k.c(4, 5) = k.c(5, 4) = k14;
}
void placePiezo(Crystal& k, double p15, double p22, double p31, double p33, double factor22)
{
    k.e(0, 4) = k.e(1, 3) = p15;
    k.e(2, 0) = k.e(2, 1) = p31;
    k.e(2, 2) = p33;
    k.e(1, 0) = -p22;
    k.e(1, 1) = p22;
    k.e(0, 5) = -factor22 * p22;
}

class Reader : SheetReader
{
public:
    using SheetReader::SheetReader;

    std::unique_ptr<ElasticProblem> run()
    {
        auto& p = *m_problem;
        p.area = m_model.space() == sheet::Space::axisymmetric ? fem::Measure::axisymmetric
                                                               : fem::Measure::plane;
        p.isSolid = m_model.space() == sheet::Space::solid;
        p.scale = p.isSolid ? 1.0 : m_model.depth();
        p.media.resize(m_p.pieces().size());
        for (auto& h : p.held)
            h.assign(m_p.sides().size(), 0);
        if (const Line* l = m_model.document().first("across the drawing"))
            p.isFree = l->get("is").starts_with("free");
        task();
        symmetry();
        materials();
        supports();
        loads();
        electrodes();
        for (size_t f = 0; f < p.media.size(); ++f)
            if (p.media[f].moves || p.media[f].polarises)
                p.activePieces.push_back(int(f));
        sayWithoutMaterial([this](size_t f) { return m_filled[f] != 0 || isElectrode(int(f)); },
                           "material soft PZT");
        enough();
        return std::move(m_problem);
    }

private:
    bool isElectrode(int f) const
    {
        return std::any_of(m_problem->electrodes.begin(), m_problem->electrodes.end(),
                           [f](const auto& e) { return e.pieces[size_t(f)] != 0; });
    }

    void task()
    {
        auto& p = *m_problem;
        const sheet::Document& d = m_model.document();
        if (const Line* l = d.first("vibration")) {
            p.task = ElasticProblem::Task::band;
            p.low = m_model.number(*l, "from");
            p.high = m_model.number(*l, "to");
            p.steps = m_model.count(*l, "steps");
            if (!(p.high > p.low))
                fault(7510, *l, "to", "the band ends below where it begins");
            constexpr int most = 100000;
            if (p.steps < 2 || p.steps > most)
                fault(7511, *l, "steps", "from 2 to 100 000 frequencies make a curve");
            for (const Line& ask : d.lines)
                if (const sheet::Kind* k = sheet::findKind(ask.kind);
                    k && k->section == "ask" && ask.has("frequency")) {
                    const double f = m_model.number(ask, "frequency");
                    if (f < p.low || f > p.high)
                        fault(7512, ask, "frequency", "this frequency lies outside of the band");
                    else
                        p.marked.push_back(f);
                }
        } else if (const Line* m = d.first("natural vibrations")) {
            p.task = ElasticProblem::Task::modes;
            p.modes = m_model.count(*m, "count");
            constexpr int most = 60;
            if (p.modes > most)
                fault(7513, *m, "count", "at most 60 natural vibrations are looked for at once");
        }
    }

    void symmetry()
    {
        for (const Line* l : m_model.document().ofKind("mirror plane")) {
            const auto axis = size_t(m_model.axisOf(l->get("at")));
            m_problem->scale *= 2;
            m_mirror[std::min<size_t>(axis, 2)] = l;
            if (l->get("kind") == "odd")
                fault(7514, *l, "kind",
                      "elastic bodies are mirrored evenly: nothing moves across the plane; choose "
                      "even, or draw the whole");
        }
        for (size_t s = 0; s < m_p.sides().size(); ++s) {
            const int cut = m_p.sides()[s].cut;
            // Nothing moves across a plane of symmetry, nor off an axis.
            if (cut >= 0 && cut < 3)
                m_problem->held[cut][s] = 1;
            else if (m_problem->isAxisymmetric() && isOnAxis(int(s)))
                m_problem->held[0][s] = 1;
        }
    }
    [[nodiscard]] bool isOnAxis(int side) const
    {
        const double near = 1e-9 * m_p.size();
        for (const Point& p : m_p.samples(side))
            if (std::abs(p.x) > near)
                return false;
        return true;
    }

    double of(const Line& l, const char* key, double fallback = 0)
    {
        return l.has(key) ? m_model.number(l, key) : fallback;
    }

    /// By its stiffnesses or, where `s`, its compliances.
    bool byConstants(const Line& l, bool s, Crystal& k)
    {
        auto key = [s](const char* of) { return std::string(s ? "s" : "c") + of; };
        for (const char* needed : {"11", "12", "44"})
            if (!l.has(key(needed))) {
                fault(7516, l, key(needed), key(needed) + " is missing", true);
                return false;
            }
        auto value = [&](const char* which, double fallback) {
            return of(l, key(which).c_str(), fallback);
        };
        const double k11 = value("11", 0), k12 = value("12", 0);
        placeElastic(k, k11, k12, value("13", k12), value("14", 0), value("33", k11),
                     value("44", 0), value("66", s ? 2 * (k11 - k12) : (k11 - k12) / 2));
        if (s) {
            // In compliances the last entry of 3m is twice as large.
            k.c(4, 5) = k.c(5, 4) = 2.0 * k.c(4, 5);
            if (!isPositive(k.c.real()))
                return indefinite(l, "s11");
            k.c = inverted(k.c);
        }
        return isPositive(k.c.real()) || indefinite(l, s ? "s11" : "c11");
    }

    /// By Young's modulus and Poisson's ratio.
    bool byYoung(const Line& l, Crystal& k)
    {
        const double E = of(l, "E"), nu = of(l, "nu");
        if (!l.has("E") || !l.has("nu")) {
            fault(7517, l, l.has("E") ? "nu" : "E",
                  l.has("E") ? "Poisson's ratio ν is missing" : "Young's modulus E is missing",
                  true);
            return false;
        }
        if (!(nu > -1 && nu < 0.5)) {
            fault(7518, l, "nu", "Poisson's ratio of a solid lies above -1 and below 0.5");
            return false;
        }
        k.c = isotropic(E, nu).c;
        return true;
    }

    /// The elastic constants that a line or the library states, without losses.
    /// @returns whether there are any
    bool elastic(const Line& l, const KnownCrystal* known, Crystal& k)
    {
        const bool c = hasAny(l, {"c11", "c12", "c13", "c14", "c33", "c44", "c66"}),
                   s = hasAny(l, {"s11", "s12", "s13", "s14", "s33", "s44", "s66"}),
                   young = hasAny(l, {"E", "nu"});
        if (int(c) + int(s) + int(young) > 1)
            fault(7515, l, c ? "c11" : "s11",
                  "state its elasticity in one way: c11 …, s11 …, or E and ν");
        if (c || s)
            return byConstants(l, s, k);
        if (young)
            return byYoung(l, k);
        if (known) {
            placeElastic(k, known->c11, known->c12, known->c13, known->c14, known->c33, known->c44,
                         (known->c11 - known->c12) / 2);
            return true;
        }
        if (const auto plain = knownElastic(l.get("material"))) {
            k.c = isotropic(plain->young, plain->poisson).c;
            return true;
        }
        return false;
    }
    bool indefinite(const Line& l, const char* key)
    {
        fault(7519, l, key,
              "no solid has these elastic constants: some strain would give energy away; look "
              "for a sign or a unit");
        return false;
    }

    /// Permittivity, F/m, of an axis of the crystal; 0: not stated.
    double permittivity(const Line& l, const char* key, double known)
    {
        if (l.has(key))
            return eps0 * m_model.number(l, key);
        if (l.has("eps")) {
            const auto v = base::Expression(l.get("eps")).evaluate(m_model.parameters().scope());
            if (v.ok() && v.value->value.real() > 0 && v.value->value.imag() == 0)
                return eps0 * v.value->value.real();
            fault(7520, l, "eps", "elastic bodies take one real permittivity; state tan δ apart");
        }
        if (known > 0)
            return eps0 * known;
        const sheet::Material* m = sheet::findMaterial(l.get("material"));
        return m ? eps0 * m->eps : 0.0;
    }

    /// Piezoelectric constants and permittivities, with losses, beside elastic ones with theirs.
    void electric(const Line& l, const KnownCrystal* known, Crystal& k)
    {
        const bool d = hasAny(l, {"d15", "d22", "d31", "d33"}),
                   e = hasAny(l, {"e15", "e22", "e31", "e33"});
        if (d && e)
            fault(7521, l, "d33", "state e or d, not both");
        const double tan = of(l, "loss", known ? known->loss : 0);
        const Complex lossy(1, -tan);
        const double eps1 = permittivity(l, "eps11", known ? known->eps11 : 0),
                     eps3 = permittivity(l, "eps33", known ? known->eps33 : 0);
        k.eps(0, 0) = k.eps(1, 1) = eps1 * lossy;
        k.eps(2, 2) = eps3 * lossy;
        if (d) {
            placePiezo(k, of(l, "d15"), of(l, "d22"), of(l, "d31"), of(l, "d33"), 2);
            const Eigen::Matrix<Complex, 3, 6> D = k.e;
            k.e = D * k.c;
            k.eps -= D * k.c * D.transpose();
        } else if (e) {
            placePiezo(k, of(l, "e15"), of(l, "e22"), of(l, "e31"), of(l, "e33"), 1);
        } else if (known) {
            placePiezo(k, known->e15, known->e22, known->e31, known->e33, 1);
        } else {
            return;
        }
        if (!(eps1 > 0 && eps3 > 0)) {
            fault(7522, l, "eps33", "its permittivities ε11 and ε33 are missing", true);
            k.e.setZero();
        } else if (!isPositive(k.eps.real())) {
            fault(7523, l, "d33",
                  "d, the stiffness and ε do not fit together: at constant strain the "
                  "permittivity would be negative; beside d the ε are those at constant stress");
        }
    }

    void material(const Line* l, std::vector<const Line*>& lineOf)
    {
        const std::string name = l->get("material");
        const KnownCrystal* known = knownCrystal(name);
        Crystal k;
        const bool moves = elastic(*l, known, k);
        const auto plain = knownElastic(name);
        const sheet::Material* library = sheet::findMaterial(name);
        double quality = of(*l, "quality", known ? known->quality : 0);
        if (l->has("mechanical loss"))
            quality = 1 / m_model.number(*l, "mechanical loss");
        if (quality > 0)
            k.c *= Complex(1, 1 / quality);
        electric(*l, known, k);
        ElasticMedium m;
        m.material = name;
        m.density = of(*l, "density",
                       known     ? known->density
                       : plain   ? plain->density
                       : library ? library->density
                                 : 0);
        if (!moves && !library && !hasAny(*l, {"eps", "eps33"}))
            fault(7524, *l, "E",
                  sheet::notInLibrary(name) + ": its elasticity is missing (E and ν, or c11 …)",
                  true);
        if (moves && m_problem->task != ElasticProblem::Task::steady && !(m.density > 0))
            fault(7525, *l, "density", "its density is missing", true);
        for (const int f : resolve(*l, "in", 7526).pieces) {
            m_problem->media[size_t(f)] = m;
            m_crystals[size_t(f)] = k;
            m_filled[size_t(f)] = 1;
            lineOf[size_t(f)] = l;
        }
    }

    void materials()
    {
        m_filled.assign(m_p.pieces().size(), 0);
        m_crystals.resize(m_p.pieces().size());
        std::vector<const Line*> lineOf(m_p.pieces().size(), nullptr);
        for (const Line* l : m_model.document().ofKind("material"))
            material(l, lineOf);
        poling(lineOf);
    }

    void poling(const std::vector<const Line*>& lineOf)
    {
        std::vector<const Line*> by(m_p.pieces().size(), nullptr);
        for (const Line* l : m_model.document().ofKind("poling"))
            for (const int f : resolve(*l, "in", 7527).pieces)
                by[size_t(f)] = l;
        std::set<const Line*> said;
        for (size_t f = 0; f < by.size(); ++f) {
            if (!m_filled[f])
                continue;
            const Crystal& k = m_crystals[f];
            const bool piezo = k.e.cwiseAbs().maxCoeff() > 0;
            if (m_problem->isSolid) {
                solidMedium(f, by[f], lineOf[f], piezo);
                continue;
            }
            // What is alike in all directions needs none.
            Point along{0, 1, 0};
            if (by[f]) {
                const Point d = m_model.direction(*by[f], "along");
                along = m_problem->isAxisymmetric() ? Point{d.x, d.y + d.z} : d;
                if (!piezo && said.insert(by[f]).second &&
                    std::abs(k.c(0, 0) - k.c(2, 2)) < 1e-9 * std::abs(k.c(0, 0)))
                    fault(7528, *by[f], "in", "what it picks is not piezoelectric");
            } else if (piezo && said.insert(lineOf[f]).second) {
                fault(7529, *lineOf[f], {},
                      "which way is it poled? add a line such as `poled ceramic along y`", true);
            }
            const bool inPlane = norm(Point{along.x, along.y}) > 1 - 1e-9,
                       across = std::abs(along.z) > 1 - 1e-9 && !m_problem->isAxisymmetric();
            if (!inPlane && !across) {
                if (said.insert(by[f]).second)
                    fault(7530, *by[f], "along",
                          m_problem->isAxisymmetric()
                              ? "round an axis a ceramic is poled along r and z"
                              : "a crystal's axis lies in the drawing or across it");
                continue;
            }
            const Crystal inDrawing = turned(k, axesAlong(along));
            const Line* at = by[f] ? by[f] : lineOf[f];
            if (leavesDrawing(inDrawing) && said.insert(at).second)
                fault(7531, *at, by[f] ? "along" : "",
                      across && piezo
                          ? "poled across the drawing, no voltage in it moves it: turn the drawing "
                            "so that the poling lies in it"
                          : "with this axis the crystal moves across the drawing as well; only "
                            "solids hold that");
            if (across && piezo && said.insert(at).second)
                fault(7531, *at, by[f] ? "along" : "",
                      "poled across the drawing, no voltage in it moves it: turn the drawing so "
                      "that the poling lies in it");
            ElasticMedium& m = m_problem->media[f];
            m.take(inDrawing, m_problem->isFree && !m_problem->isAxisymmetric());
            if (piezo)
                m.poled = along;
            mirrored(f, along, piezo, at);
        }
    }
    /// In solids a crystal's axes are those of the space.
    void solidMedium(size_t f, const Line* poled, const Line* material, bool piezo)
    {
        if (piezo && m_said.insert({int(f), -1}).second)
            fault(7544, *material, "material",
                  "piezoelectric bodies are solved in drawings so far, in the plane and round an "
                  "axis");
        if (poled && m_said.insert({int(f), -2}).second)
            fault(7528, *poled, "in", "what it picks is not piezoelectric");
        m_problem->media[f].take(m_crystals[f], false);
    }
    /// Behind a mirror plane a polar axis across it turns over.
    void mirrored(size_t f, const Point& along, bool piezo, const Line* at)
    {
        for (int axis = 0; axis < 2; ++axis) {
            const double across = std::abs(axis == 0 ? along.x : along.y);
            if (!m_mirror[axis] || !piezo || across < 1e-9)
                continue;
            // Between the plane and itself there is nothing to turn over where it only touches.
            if (m_said.insert({int(f), axis}).second)
                fault(7532, *at, {},
                      std::string("poled across the mirror plane ") + m_mirror[axis]->get("at") +
                          ", it would turn over behind it; draw the whole in this direction");
        }
    }

    void supports()
    {
        for (const char* kind : {"fixed", "roller"})
            for (const Line* l : m_model.document().ofKind(kind)) {
                const bool fixed = l->kind == "fixed";
                for (const int s : sidesOf(*l)) {
                    if (fixed) {
                        for (auto& held : m_problem->held)
                            held[size_t(s)] = 1;
                        continue;
                    }
                    const int across = directionAcross(s);
                    if (across < 0) {
                        fault(7533, *l, "on",
                              "rollers run on straight edges or plane faces along the axes so far");
                        break;
                    }
                    m_problem->held[across][size_t(s)] = 1;
                }
            }
    }
    /// Sides that a line is about; those of regions are their outlines.
    std::vector<int> sidesOf(const Line& l, const char* key = "on")
    {
        const shape::Selection s = resolve(l, key, 7534);
        std::vector<int> sides = s.sides;
        for (const int f : s.pieces)
            for (const int e : m_p.pieces()[size_t(f)].sides)
                sides.push_back(e);
        std::sort(sides.begin(), sides.end());
        sides.erase(std::unique(sides.begin(), sides.end()), sides.end());
        return sides;
    }
    /// 0: the side lies across x, 1: across y, 2: across z, -1: neither.
    [[nodiscard]] int directionAcross(int side) const
    {
        const auto across = sidesAcross(m_p, side);
        for (const int axis : {0, 1, 2})
            if (across[size_t(axis)] && (axis < 2 || m_problem->isSolid))
                return axis;
        return -1;
    }
    /// A direction as the drawing or the solid has it.
    [[nodiscard]] Point vector(const Point& d) const
    {
        return m_problem->isSolid ? d : Point{d.x, d.y};
    }

    void loads()
    {
        auto& list = m_problem->loads;
        for (const Line* l : m_model.document().ofKind("pressure load"))
            list.push_back({sidesOf(*l), m_model.number(*l, "pressure"), {}});
        for (const Line* l : m_model.document().ofKind("pull")) {
            const std::vector<int> sides = sidesOf(*l);
            double area = 0;
            for (const int s : sides)
                area += areaOf(s);
            Point d = m_model.direction(*l, "along");
            if (m_problem->isAxisymmetric())
                d = {d.x, d.y + d.z};
            if (m_problem->isAxisymmetric() && std::abs(d.x) > 1e-9)
                fault(7535, *l, "along",
                      "round an axis a force has no direction across it; state a pressure");
            if (area > 0)
                list.push_back({sides, 0, (m_model.number(*l, "force") / area) * vector(d)});
        }
        for (const Line* l : m_model.document().ofKind("weight")) {
            Point d = m_model.direction(*l, "along");
            if (m_problem->isAxisymmetric())
                d = {d.x, d.y + d.z};
            if (m_problem->isAxisymmetric() && std::abs(d.x) > 1e-9)
                fault(7535, *l, "along", "round an axis a weight pulls along z");
            list.push_back({{}, 0, m_model.number(*l, "acceleration") * vector(d)});
        }
        for (const int axis : {0, 1, 2})
            for (const auto& load : list)
                if (m_mirror[axis] && std::abs(axis == 0   ? load.traction.x
                                               : axis == 1 ? load.traction.y
                                                           : load.traction.z) > 0)
                    fault(7536, *m_mirror[axis], "at",
                          "a load across this plane is not its own mirror image: draw the whole");
    }
    /// Area of a side with that of its images, m^2.
    [[nodiscard]] double areaOf(int side) const
    {
        double area = m_p.sides()[size_t(side)].content * m_problem->scale;
        if (m_problem->isAxisymmetric())
            area *= 2 * pi * m_p.sides()[size_t(side)].centre.x;
        return area;
    }

    void electrodes()
    {
        for (const Line& l : m_model.document().lines) {
            if (l.kind != "electrode" && l.kind != "floating")
                continue;
            ElasticProblem::Electrode e;
            e.name = l.name();
            e.line = l.id;
            e.floats = l.kind == "floating";
            if (l.has("charge")) {
                if (m_model.number(l, "charge") != 0)
                    fault(7537, l, "charge",
                          "here electrodes are given voltages; one that is left open has charge 0");
                e.floats = true;
            } else if (!e.floats) {
                e.voltage = m_model.number(l, "voltage");
            }
            e.sides.assign(m_p.sides().size(), 0);
            e.pieces.assign(m_p.pieces().size(), 0);
            const shape::Selection s = resolve(l, "on", 7538);
            for (const int side : s.sides)
                e.sides[size_t(side)] = 1;
            for (const int f : s.pieces) {
                e.pieces[size_t(f)] = 1;
                for (const int side : m_p.pieces()[size_t(f)].sides)
                    e.sides[size_t(side)] = 1;
            }
            touching(l, e);
            m_problem->electrodes.push_back(std::move(e));
        }
    }
    void touching(const Line& l, const ElasticProblem::Electrode& e)
    {
        bool carries = false;
        for (size_t s = 0; s < e.sides.size(); ++s)
            for (const int f : m_p.sides()[s].pieces)
                carries = carries || (e.sides[s] && m_problem->media[size_t(f)].polarises);
        if (!carries)
            fault(7539, l, "on",
                  "nothing that it touches has a permittivity: it carries no charge");
        for (const auto& other : m_problem->electrodes)
            for (size_t s = 0; s < e.sides.size(); ++s)
                if (e.sides[s] && other.sides[s]) {
                    fault(7540, l, "on", "it shares an edge with electrode " + other.name);
                    return;
                }
    }

    void enough()
    {
        auto& p = *m_problem;
        const bool moves =
            std::any_of(p.media.begin(), p.media.end(), [](const auto& m) { return m.moves; });
        if (!p.activePieces.empty() && !moves)
            m_faults.push_back({7541, {-1, "mechanics", -1}, "nothing in this sheet is elastic"});
        if (p.task != ElasticProblem::Task::modes && !p.isDriven()) {
            const Line* l = m_model.document().first("vibration");
            m_faults.push_back({7542,
                                {l ? l->id : -1, l ? "" : "mechanics", -1},
                                "nothing drives it: give an electrode a voltage, or add a line "
                                "such as `pressure load 10 kPa on plate.top`",
                                true});
        }
        groundless();
    }

    /// Where no electrode says what the potential is, it has no value: what is not piezoelectric
    /// does without one.
    void groundless()
    {
        auto& media = m_problem->media;
        std::vector<int> part(media.size(), -1);
        for (size_t first = 0; first < media.size(); ++first) {
            if (!media[first].polarises || part[first] >= 0)
                continue;
            std::vector<int> own = {int(first)};
            part[first] = int(first);
            bool held = false, piezo = false;
            for (size_t i = 0; i < own.size(); ++i) {
                piezo = piezo || media[size_t(own[i])].isPiezo;
                for (const int s : m_p.pieces()[size_t(own[i])].sides) {
                    for (const auto& e : m_problem->electrodes)
                        held = held || (e.sides[size_t(s)] && !e.floats);
                    for (const int f : m_p.sides()[size_t(s)].pieces)
                        if (media[size_t(f)].polarises && part[size_t(f)] < 0) {
                            part[size_t(f)] = int(first);
                            own.push_back(f);
                        }
                }
            }
            if (held)
                continue;
            if (piezo)
                m_faults.push_back(
                    {7543,
                     {-1, "electrostatic", -1},
                     "'" + m_p.regions()[size_t(m_p.pieces()[first].region)].name +
                         "' needs an electrode with a voltage, which may be 0: add a line such as "
                         "`electrode B at 0 V on plate.bottom`",
                     true});
            for (const int f : own)
                media[size_t(f)].polarises = false;
        }
    }

    std::unique_ptr<ElasticProblem> m_problem = std::make_unique<ElasticProblem>();
    std::vector<char> m_filled;
    std::vector<Crystal> m_crystals;
    const Line* m_mirror[3] = {nullptr, nullptr, nullptr};
    std::set<std::pair<int, int>> m_said;
};

}  // namespace

std::array<bool, 3> sidesAcross(const shape::Partition& partition, int side)
{
    const auto points = partition.samples(side);
    const double near = 1e-9 * partition.size();
    std::array<bool, 3> is{true, true, true};
    for (const Point& p : points) {
        is[0] = is[0] && std::abs(p.x - points[0].x) < near;
        is[1] = is[1] && std::abs(p.y - points[0].y) < near;
        is[2] = is[2] && std::abs(p.z - points[0].z) < near;
    }
    return is;
}

std::unique_ptr<ElasticProblem> defineElastic(const sheet::Model& model,
                                              const shape::Partition& partition,
                                              base::Faults& faults)
{
    return Reader(model, partition, faults).run();
}

}  // namespace yh::physics
