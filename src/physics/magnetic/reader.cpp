// Reading magnets, coils and media from a sheet.
#include "physics/common/constants.h"
#include "physics/common/sheet_reader.h"
#include "physics/magnetic/library.h"
#include "physics/magnetic/magnetic.h"
#include "sheet/materials.h"
#include "sheet/nearest.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace yh::physics {

using base::Error;
using sheet::Line;

namespace {

class Reader : SheetReader
{
public:
    using SheetReader::SheetReader;

    std::unique_ptr<MagneticProblem> run()
    {
        m_problem->area = m_model.space() == sheet::Space::axisymmetric ? fem::Measure::axisymmetric
                                                                        : fem::Measure::plane;
        m_problem->isSolid = m_model.space() == sheet::Space::solid;
        m_problem->scale = m_model.depth();
        m_problem->media.resize(m_p.pieces().size());
        m_sigma.assign(m_p.pieces().size(), 0.0);
        m_problem->shell = m_p.openShell();
        symmetry();
        curves();
        materials();
        magnets();
        coils();
        motion();
        alternation();
        walls();
        conductors();
        missingMaterials();
        openCircuit();
        if (m_problem->isSolid)
            islands();
        return std::move(m_problem);
    }

private:
    shape::Selection resolve(const Line& l, const std::string& key, bool mayBeImage = false)
    {
        return SheetReader::resolve(l, key, 6701,
                                    mayBeImage && m_problem->scale != m_model.depth());
    }
    std::vector<int> regions(const Line& l, const std::string& key, bool mayBeImage = false)
    {
        const auto s = resolve(l, key, mayBeImage);
        if (s.pieces.empty() && !s.sides.empty())
            fault(6702, l, key, "'" + l.get(key) + "' picks edges; this fills regions");
        return s.pieces;
    }

    void symmetry()
    {
        for (const Line* l : m_model.document().ofKind("mirror plane")) {
            const auto axis = size_t(m_model.axisOf(l->get("at")));
            m_problem->mirror[axis] = true;
            m_problem->odd[axis] = l->get("kind") == "odd";
            m_problem->scale *= 2;
        }
    }

    void curves()
    {
        for (const Line* l : m_model.document().ofKind("magnetisation curve")) {
            try {
                m_curves[l->name()] =
                    std::make_shared<MagneticCurve>(readMagneticTable(l->get("table")));
            } catch (const Error& e) {
                const auto f = e.fault();
                m_faults.push_back({f.number, {l->id, "table", 0}, f.text, false});
            }
        }
    }
    std::shared_ptr<const MagneticCurve> curveOf(const Line& l)
    {
        const auto it = m_curves.find(l.get("curve"));
        return it == m_curves.end() ? nullptr : it->second;
    }

    /// A permeability that is stated; where it depends on the place the scope without one does not
    /// know it.
    void statedPermeability(const Line& l, MagneticMedium& medium)
    {
        const auto mu = base::Expression(l.get("mu")).evaluate(m_model.parameters().scope());
        if (!mu.ok() || !(mu.value->value.real() > 0) || mu.value->value.imag() != 0)
            fault(6704, l, "mu",
                  "magnets and coils take one real relative permeability above 0 "
                  "everywhere in a medium; part it into regions where it changes");
        else
            medium.mu = mu0 * mu.value->value.real();
    }

    /// Whatever is around the drawing is empty.
    void surroundings()
    {
        for (size_t f = 0; f < m_p.pieces().size(); ++f) {
            const shape::Region& r = m_p.regions()[size_t(m_p.pieces()[f].region)];
            if (!r.hidden)
                continue;
            m_problem->media[f].mu = mu0;
            m_problem->media[f].material = "vacuum";
            m_problem->media[f].isFarShell = r.name == "far shell";
        }
    }

    void materials()
    {
        surroundings();
        for (const Line* l : m_model.document().ofKind("material")) {
            MagneticMedium medium;
            medium.material = l->get("material");
            medium.mu = mu0;
            if (l->has("curve")) {
                medium.curve = curveOf(*l);
                if (medium.curve && !medium.curve->isOdd())
                    fault(6703, *l, "curve",
                          "the curve " + l->get("curve") +
                              " does not begin at H = 0, B = 0, as that of a soft material does; "
                              "a magnet takes its curve in its own line");
            } else if (l->has("mu")) {
                statedPermeability(*l, medium);
            } else if (auto known = knownCurve(medium.material)) {
                medium.curve = std::make_shared<MagneticCurve>(*known);
            } else if (!sheet::findMaterial(medium.material) && !l->has("sigma")) {
                fault(6705, *l, "mu",
                      sheet::notInLibrary(medium.material) +
                          ": its relative permeability μ or its curve is missing",
                      true);
            }
            if (medium.curve)
                medium.mu = 1 / medium.curve->slope(0);
            const double sigma = conductivity(*l);
            for (const int f : regions(*l, "in")) {
                m_problem->media[size_t(f)] = medium;
                m_sigma[size_t(f)] = sigma;
            }
        }
    }

    /// The curve of a magnet; false, and said, where it has none or one of another kind.
    bool takeCurve(const Line& l, MagneticMedium& medium)
    {
        medium.curve = curveOf(l);
        if (!medium.curve)
            return false;  // said at the curve
        medium.remanence = medium.curve->remanence();
        medium.mu = std::max(mu0, medium.curve->recoil());
        if (medium.curve->isOdd() || !(medium.remanence > 0)) {
            fault(6707, l, "curve",
                  "the curve " + l.get("curve") +
                      " has no remanence: that of a magnet goes from H < 0 to H = 0");
            return false;
        }
        return true;
    }

    void magnets()
    {
        std::set<int> taken;
        for (const Line* l : m_model.document().ofKind("magnet")) {
            const std::vector<int> pieces = regions(*l, "in");
            // Whatever else is wrong, these regions are not without a material.
            for (const int f : pieces)
                m_problem->media[size_t(f)].mu = std::max(mu0, m_problem->media[size_t(f)].mu);
            MagneticMedium medium;
            medium.material = "magnet " + l->name();
            const Point d = m_model.direction(*l, "along");
            // Round an axis z is the second coordinate.
            medium.along = m_problem->isSolid            ? d
                           : m_problem->isAxisymmetric() ? Point{d.x, d.z + d.y}
                                                         : Point{d.x, d.y};
            if (!(norm(medium.along) > 1 - 1e-9)) {
                fault(6706, *l, "along",
                      m_problem->isSolid            ? "a magnet points in one direction: x, -y, or "
                                                      "components such as 1, 0, 1"
                      : m_problem->isAxisymmetric() ? "round an axis a magnet points along r or z"
                                                    : "in the plane a magnet points along x and y");
                continue;
            }
            if (l->has("curve")) {
                if (!takeCurve(*l, medium))
                    continue;
            } else if (l->has("remanence")) {
                medium.remanence = m_model.number(*l, "remanence");
                medium.mu = mu0 * m_model.number(*l, "recoil");
            } else {
                continue;  // said by the face
            }
            isItsOwnImage(*l, pieces, medium.along);
            for (const int f : pieces) {
                if (!taken.insert(f).second)
                    fault(6708, *l, "in", "two magnets lie in the same region");
                m_problem->media[size_t(f)] = medium;
            }
        }
    }

    /// A magnet that a plane cuts goes on behind it as its image: magnetised across an even plane,
    /// along an odd one.
    void isItsOwnImage(const Line& l, const std::vector<int>& pieces, const Point& along)
    {
        for (const int f : pieces)
            for (const int e : m_p.pieces()[size_t(f)].sides) {
                const int cut = m_p.sides()[size_t(e)].cut;
                if (cut < 0 || cut > 2 || !m_problem->mirror[size_t(cut)])
                    continue;
                const bool odd = m_problem->odd[size_t(cut)];
                const double across = std::abs(cut == 0   ? along.x
                                               : cut == 1 ? along.y
                                                          : along.z),
                             beside = std::sqrt(std::max(0.0, 1 - across * across));
                constexpr double none = 1e-7;
                if ((odd ? across : beside) < none)
                    continue;
                fault(6722, l, "along",
                      std::string("a mirror plane of kind ") + (odd ? "odd" : "even") +
                          " cuts this magnet, which would turn over behind it; " +
                          ((odd ? beside : across) < none
                               ? std::string("choose ") + (odd ? "even" : "odd")
                               : "at an angle to a plane a magnet is no image of itself: draw "
                                 "the whole"));
                return;
            }
    }

    /// Area of pieces, m^2, with what planes cut away.
    double wholeArea(const Line& l, const std::string& key, const std::vector<int>& pieces)
    {
        double sum = 0;
        for (const int f : pieces) {
            std::set<int> cuts;
            for (const int e : m_p.pieces()[size_t(f)].sides)
                if (const int cut = m_p.sides()[size_t(e)].cut;
                    cut >= 0 && cut < 3 && m_problem->mirror[size_t(cut)])
                    cuts.insert(cut);
            for (const int cut : cuts)
                if (m_problem->odd[size_t(cut)])
                    fault(6709, l, key,
                          "an odd plane cuts through this winding: its current would have to turn "
                          "over inside; choose even, or part the winding");
            sum += m_p.pieces()[size_t(f)].content * double(1 << cuts.size());
        }
        return sum;
    }

    /// Its regions carry its turns.
    void wind(const Line& l, const Coil& c, std::map<int, std::string>& owner)
    {
        for (const auto& [list, way, area] :
             {std::tuple{&c.pieces, 1.0, c.area}, {&c.back, -1.0, c.areaBack}})
            for (const int f : *list) {
                MagneticMedium& m = m_problem->media[size_t(f)];
                if (!owner.emplace(f, c.name).second)
                    fault(6710, l, way > 0 ? "in" : "back",
                          "this region belongs to coil " + owner[f] + " already");
                if (m.isMagnet())
                    fault(6711, l, way > 0 ? "in" : "back",
                          "this region is a magnet; a winding is beside it");
                if (!(m.mu > 0)) {
                    m.mu = mu0;
                    m.material = "coil " + c.name;
                }
                if (!m_problem->isSolid)
                    m.currentDensity += way * c.turns * c.current / area;
            }
    }

    void coils()
    {
        std::map<int, std::string> owner;
        for (const Line* l : m_model.document().ofKind("coil")) {
            Coil c;
            c.name = l->name();
            c.line = l->id;
            c.turns = m_model.count(*l, "turns");
            c.current = m_model.number(*l, "current");
            c.pieces = regions(*l, "in", true);
            if (m_problem->isSolid && l->has("about"))
                c.about = m_model.direction(*l, "about");
            c.area = m_problem->isSolid ? 1 : wholeArea(*l, "in", c.pieces);
            if (l->has("back")) {
                c.back = regions(*l, "back", true);
                c.areaBack = wholeArea(*l, "back", c.back);
            }
            wind(*l, c, owner);
            m_problem->hasImageCoils = m_problem->hasImageCoils || c.isImage();
            m_problem->coils.push_back(std::move(c));
        }
        // Where the image of a coil has a line of its own, it is not in series with it.
        if (m_problem->hasImageCoils)
            for (Coil& c : m_problem->coils)
                for (const bool mirror : m_problem->mirror)
                    c.share *= mirror ? 0.5 : 1.0;
    }

    /// Conductivity of what lines of material fill, S/m; 0: an insulator.
    double conductivity(const Line& l)
    {
        if (l.has("sigma")) {
            const auto sigma = base::Expression(l.get("sigma")).evaluate(m_model.scopeOf(0, room));
            if (sigma.ok() && sigma.value->value.real() >= 0 && sigma.value->value.imag() == 0)
                return sigma.value->value.real();
            fault(6715, l, "sigma",
                  "induced currents take one conductivity everywhere in a medium");
            return 0;
        }
        const sheet::Material* known = sheet::findMaterial(l.get("material"));
        return known && known->resistivity > 0 ? 1 / known->resistivity : 0.0;
    }
    /// What moves, where it conducts.
    void movingPieces(const Line& l)
    {
        bool conducts = false;
        for (const int f : regions(l, "in")) {
            MagneticMedium& m = m_problem->media[size_t(f)];
            m.sigma = m_sigma[size_t(f)];
            m.moves = m.sigma > 0;
            conducts = conducts || m.moves;
            if (m.isMagnet() || m.currentDensity != 0)
                fault(6718, l, "in",
                      "magnets and windings stand still here; let the conductor move past them, "
                      "which is the same");
        }
        if (!conducts)
            fault(6719, l, "in", "'" + l.get("in") + "' does not conduct: nothing is induced");
    }

    void motion()
    {
        const Line* l = m_model.document().first("motion");
        if (!l)
            return;
        if (m_problem->isSolid) {
            fault(6734, *l, {},
                  "in solids nothing moves yet: draw it in the plane or round an axis");
            return;
        }
        const Point d = m_model.direction(*l, "along");
        Point& way = m_problem->way;
        way = m_problem->isAxisymmetric() ? Point{0, d.y + d.z} : Point{d.x, d.y};
        m_problem->speed = m_model.number(*l, "speed");
        if (!(norm(way) > 1 - 1e-9) || m_problem->speed == 0) {
            fault(6716, *l, norm(way) > 1 - 1e-9 ? "speed" : "along",
                  m_problem->speed == 0         ? "at no speed nothing is induced; state one"
                  : m_problem->isAxisymmetric() ? "round an axis a conductor moves along z"
                                                : "in the plane a conductor moves along x and y");
            way = {};
            return;
        }
        for (size_t k = 0; k < 3; ++k)
            if (m_problem->mirror[k] && std::abs(k == 0 ? way.x : k == 1 ? way.y : 0.0) > 1e-9)
                fault(6717, *l, "along",
                      "what moves across a mirror plane is no mirror image of itself; draw the "
                      "whole device");
        movingPieces(*l);
    }
    void alternation()
    {
        const Line* l = m_model.document().first("alternation");
        if (!l)
            return;
        if (m_problem->isSolid) {
            fault(6735, *l, {},
                  "in solids currents are steady so far: draw it in the plane or round an axis");
            return;
        }
        m_problem->omega = 2 * pi * m_model.number(*l, "frequency");
        if (m_problem->moves())
            fault(6720, *l, {},
                  "a field that alternates and a conductor that moves are not solved together yet");
        if (m_problem->coils.empty())
            fault(6721, *l, {}, "nothing alternates: add a coil");
        for (size_t f = 0; f < m_problem->media.size(); ++f) {
            MagneticMedium& m = m_problem->media[f];
            // Small fields about the state without any; magnets only lend their permeability.
            m.curve = nullptr;
            m.along = {};
            m.remanence = 0;
            m.sigma = m_sigma[f];
        }
        for (const Coil& c : m_problem->coils)
            for (const auto* list : {&c.pieces, &c.back})
                for (const int f : *list)
                    m_problem->media[size_t(f)].sigma = 0;
    }

    /// No flux crosses the sides of a wall.
    void fluxWall(const Line& l)
    {
        const auto s = resolve(l, "on");
        if (s.sides.empty() && !s.pieces.empty())
            fault(6713, l, "on",
                  "'" + l.get("on") + "' picks regions; a wall is on edges, for example `" +
                      l.get("on") + ".left`");
        for (const int e : s.sides) {
            if (m_problem->isSolid && m_p.sides()[size_t(e)].pieces.size() > 1) {
                fault(6736, l, "on",
                      "in solids a wall is on the border of what is drawn: no flux crosses it "
                      "there unless it goes on into open space");
                break;
            }
            m_problem->held[size_t(e)] = m_problem->isSolid ? 0 : 1;
        }
    }

    /// Where no flux leaves A is zero: on electric walls, behind odd planes, at the outer edge
    /// that says so, and far away.
    void walls()
    {
        const Line* outer = m_model.document().first("flux at the edge");
        const bool crosses = outer && outer->get("way") == "leaves at right angles";
        m_problem->held.assign(m_p.sides().size(), 0);
        m_isFar.assign(m_p.sides().size(), 0);
        const shape::OpenShell& shell = m_p.openShell();
        for (size_t e = 0; e < m_p.sides().size(); ++e) {
            const shape::Side& side = m_p.sides()[e];
            if (side.pieces.size() != 1)
                continue;
            // In drawings A is zero where no flux crosses; in solids H has no part along where it
            // crosses at right angles.
            if (side.cut != shape::Side::none) {
                m_problem->held[e] = side.cut != shape::Side::wedge &&
                                     m_problem->odd[size_t(side.cut)] != m_problem->isSolid;
                continue;
            }
            bool far = shell.present;
            for (const Point& q : m_p.samples(int(e)))
                far = far && std::abs(norm(q - shell.centre) - shell.outer) < 1e-2 * shell.outer;
            m_isFar[e] = far;
            m_problem->held[e] = far || crosses == m_problem->isSolid;
        }
        for (const Line* l : m_model.document().ofKind("flux wall"))
            fluxWall(*l);
        if (m_problem->isSolid)
            return;
        parts();
        if (m_problem->groupList.empty() && !m_problem->isAxisymmetric())
            m_faults.push_back({6714,
                                {outer ? outer->id : -1, "way", -1},
                                "flux crosses every edge, which leaves it open where it goes: let "
                                "it not leave at one of them with `flux wall on …`",
                                false});
    }

    /// All sides that hang together with `first` belong to a part; true where its A is zero.
    bool gather(int first, int number, const std::vector<int>& sides, std::vector<int>& part,
                fem::Group& group) const
    {
        const double near = 1e-7 * m_p.size();
        auto touch = [&](int a, int b) {
            for (const Point& p : m_p.samples(a))
                for (const Point& q : m_p.samples(b))
                    if (norm(p - q) < near)
                        return true;
            return false;
        };
        std::vector<int> open{first};
        part[size_t(first)] = number;
        bool isZero = false;
        while (!open.empty()) {
            const int e = open.back();
            open.pop_back();
            group.sides.push_back(e);
            const int cut = m_p.sides()[size_t(e)].cut;
            isZero = isZero || m_isFar[size_t(e)] ||
                     (cut >= 0 && cut < 3 && m_problem->odd[size_t(cut)]);
            for (const int other : sides)
                if (part[size_t(other)] < 0 && touch(e, other)) {
                    part[size_t(other)] = number;
                    open.push_back(other);
                }
        }
        return isZero;
    }

    /// Walls that hang together have one value of A. It is zero on odd planes and far away; a wall
    /// apart from these takes the value at which no net current flows in it, so that flux may pass
    /// between it and others. Round an axis it is A r that a wall keeps, and all are zero: flux
    /// goes round a wall that does not reach the axis, not through it.
    void parts()
    {
        std::vector<int> sides, part(m_problem->held.size(), -1);
        for (size_t e = 0; e < m_problem->held.size(); ++e)
            if (m_problem->held[e])
                sides.push_back(int(e));
        for (const int first : sides) {
            if (part[size_t(first)] >= 0)
                continue;
            const bool apart = !m_problem->isAxisymmetric() && !m_problem->groupList.empty();
            const int number =
                apart || m_problem->groupList.empty() ? int(m_problem->groupList.size()) : 0;
            if (size_t(number) == m_problem->groupList.size())
                m_problem->groupList.emplace_back();
            fem::Group& group = m_problem->groupList[size_t(number)];
            const bool isZero = gather(first, number, sides, part, group);
            group.given = isZero || m_problem->isAxisymmetric();
        }
        auto& list = m_problem->groupList;
        if (!list.empty() &&
            std::none_of(list.begin(), list.end(), [](const auto& g) { return g.given; }))
            list[0].given = true;
        // The imaginary part is held likewise.
        if (m_problem->alternates())
            for (size_t k = 0, n = list.size(); k < n; ++k) {
                list.push_back(list[k]);
                list.back().field = 1;
            }
    }

    /// Conductors of the plane that hang together; one that an odd plane cuts goes on as its own
    /// image, whose currents are opposite.
    void conductors()
    {
        if (m_problem->isSolid || m_problem->isAxisymmetric() ||
            (!m_problem->alternates() && !m_problem->moves()))
            return;
        auto carries = [this](int f) {
            const MagneticMedium& m = m_problem->media[size_t(f)];
            return m.sigma > 0 && (m.moves || m_problem->alternates());
        };
        std::vector<char> seen(m_problem->media.size(), 0);
        for (size_t first = 0; first < seen.size(); ++first) {
            if (seen[first] || !carries(int(first)))
                continue;
            std::vector<int> list, open{int(first)};
            bool isCut = false;
            seen[first] = 1;
            while (!open.empty()) {
                const int f = open.back();
                open.pop_back();
                list.push_back(f);
                for (const int e : m_p.pieces()[size_t(f)].sides) {
                    const shape::Side& side = m_p.sides()[size_t(e)];
                    isCut = isCut ||
                            (side.cut >= 0 && side.cut < 3 && m_problem->odd[size_t(side.cut)]);
                    for (const int other : side.pieces)
                        if (!seen[size_t(other)] && carries(other)) {
                            seen[size_t(other)] = 1;
                            open.push_back(other);
                        }
                }
            }
            if (!isCut)
                m_problem->isolated.push_back(list);
        }
    }

    void missingMaterials()
    {
        sayWithoutMaterial([this](size_t f) { return m_problem->media[f].mu > 0; }, "air");
        for (size_t f = 0; f < m_problem->media.size(); ++f)
            if (m_problem->media[f].mu > 0)
                m_problem->activePieces.push_back(int(f));
    }

    /// Solids: what does not touch anything carries its flux alone, which nobody means.
    void islands()
    {
        std::vector<char> seen(m_problem->media.size(), 0);
        std::vector<int> open;
        const auto& active = m_problem->activePieces;
        if (active.empty())
            return;
        seen[size_t(active[0])] = 1;
        open.push_back(active[0]);
        while (!open.empty()) {
            const int f = open.back();
            open.pop_back();
            for (const int e : m_p.pieces()[size_t(f)].sides)
                for (const int other : m_p.sides()[size_t(e)].pieces)
                    if (!seen[size_t(other)] && m_problem->media[size_t(other)].mu > 0) {
                        seen[size_t(other)] = 1;
                        open.push_back(other);
                    }
        }
        auto regionOf = [this](int f) -> const shape::Region& {
            return m_p.regions()[size_t(m_p.pieces()[size_t(f)].region)];
        };
        for (const int f : active)
            if (!seen[size_t(f)]) {
                m_faults.push_back({6737,
                                    {regionOf(f).line, {}, -1},
                                    "no flux gets from '" + regionOf(active[0]).name + "' to '" +
                                        regionOf(f).name +
                                        "': draw the space between them, or let flux go on into "
                                        "open space",
                                    false});
                return;
            }
    }

    /// In the plane a current without a way back has no field that vanishes far away.
    void openCircuit()
    {
        const Line* outer = m_model.document().first("flux at the edge");
        const bool open = m_p.openShell().present;
        const bool anyOdd = std::count(m_problem->odd.begin(), m_problem->odd.end(), true) > 0;
        const bool crosses = outer && outer->get("way") == "leaves at right angles";
        if (m_problem->isSolid || m_problem->isAxisymmetric() || anyOdd || (!open && !crosses))
            return;
        double sum = 0, most = 0;
        const Coil* worst = nullptr;
        for (const Coil& c : m_problem->coils) {
            const double in = c.pieces.empty() ? 0.0 : 1.0, out = c.back.empty() ? 0.0 : 1.0,
                         I = (in - out) * c.turns * c.current;
            sum += I;
            if (std::abs(c.turns * c.current) > most)
                worst = &c;
            most = std::max(most, std::abs(c.turns * c.current));
        }
        constexpr double closes = 1e-9;
        if (worst && std::abs(sum) > closes * most)
            m_faults.push_back(
                {6712,
                 {worst->line, "back", -1},
                 "the currents of the drawing add up to " + base::format(sum, base::dim::current) +
                     ", which must come back somewhere: say where with `and back in …`, or add the "
                     "coil that takes it back",
                 false});
    }

    std::map<std::string, std::shared_ptr<const MagneticCurve>> m_curves;
    static constexpr double room = 293.15;  ///< K
    std::vector<double> m_sigma;            ///< S/m, by piece, by its material
    std::vector<char> m_isFar;              ///< by side: the rim of the mapped shell
    std::unique_ptr<MagneticProblem> m_problem = std::make_unique<MagneticProblem>();
};

}  // namespace

std::unique_ptr<MagneticProblem> defineMagnetic(const sheet::Model& model,
                                                const shape::Partition& partition,
                                                base::Faults& faults)
{
    return Reader(model, partition, faults).run();
}

}  // namespace yh::physics
