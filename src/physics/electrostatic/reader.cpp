// Reading the electrostatic section of a sheet.
#include "physics/common/constants.h"
#include "physics/common/sheet_reader.h"
#include "physics/electrostatic/electrostatic.h"

#include "sheet/materials.h"
#include "sheet/schema.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <set>

namespace yh::physics {

using base::Error;
using base::Fault;
using sheet::Line;

namespace {

/// Permittivity of the mapped shell: isotropic eps in real space seen in shell coordinates.
///   k_radial = (r/s)^(d-1) / r',  k_tangential = r' (r/s)^(d-3)
fem::Coefficient shellCoefficient(const shape::OpenShell& shell, double eps, int d)
{
    fem::Coefficient k;
    k.constant = fem::Tensor::isotropic(eps);
    k.at = [shell, eps, d](Point p) {
        const auto [n, slope, ratio] = shell.stretchAt(p);
        const double kr = eps * (d == 2 ? ratio : ratio * ratio) / slope,
                     kt = eps * (d == 2 ? slope / ratio : slope), dk = kr - kt;
        return fem::Tensor{kt + dk * n.x * n.x, dk * n.x * n.y, kt + dk * n.y * n.y,
                           dk * n.x * n.z,      dk * n.y * n.z, kt + dk * n.z * n.z};
    };
    return k;
}

class Reader : SheetReader
{
public:
    Reader(const sheet::Model& model, const shape::Partition& partition, bool asEven,
           base::Faults& faults)
        : SheetReader(model, partition, faults), m_asEven(asEven)
    {
    }

    ElectrostaticProblem run()
    {
        const size_t n = m_p.pieces().size();
        m_problem.measure = m_model.space() == sheet::Space::axisymmetric
                                ? fem::Measure::axisymmetric
                                : fem::Measure::plane;
        m_problem.scale = m_model.depth();
        m_problem.eps.assign(n, {});
        m_problem.material.assign(n, "");
        m_problem.spaceCharge.resize(n);
        m_metal.assign(n, 0);
        m_owner.assign(n, -1);
        symmetry();
        materials();
        electrodes();
        metals();
        outerEdge();
        charges();
        for (size_t f = 0; f < n; ++f)
            if (m_owner[f] < 0)
                m_problem.activePieces.push_back(int(f));
        missingMaterials();
        return std::move(m_problem);
    }

private:
    shape::Selection resolve(const Line& l, const std::string& key)
    {
        return SheetReader::resolve(l, key, 6001, mayBeImage(l));
    }
    /// Behind an odd mirror plane an electrode's image is cut away; that is no fault.
    bool mayBeImage(const Line& l) const
    {
        return l.kind == "electrode" && (m_problem.isOdd() || m_asEven);
    }

    void symmetry()
    {
        for (const Line* l : m_model.document().ofKind("mirror plane")) {
            const bool odd = l->get("kind") == "odd" && !m_asEven;
            const auto axis = size_t(m_model.axisOf(l->get("at")));
            m_problem.mirror[axis] = true;
            m_problem.odd[axis] = odd;
            m_problem.scale *= 2;
        }
        if (const Line* l = m_model.document().first("wedge symmetry")) {
            m_problem.wedges = m_model.wedges(*l);
            m_problem.scale *= m_problem.wedges;
        }
    }

    void materials()
    {
        const int d =
            m_problem.measure == fem::Measure::axisymmetric || m_p.dimension() == 3 ? 3 : 2;
        for (size_t f = 0; f < m_p.pieces().size(); ++f) {
            const shape::Region& r = m_p.regions()[size_t(m_p.pieces()[f].region)];
            if (!r.hidden)
                continue;
            m_problem.material[f] = "vacuum";
            m_problem.eps[f].constant = fem::Tensor::isotropic(eps0);
            if (r.name == "far shell")
                m_problem.eps[f] = shellCoefficient(m_p.openShell(), eps0, d);
        }
        for (const Line* l : m_model.document().ofKind("material")) {
            const sheet::Material* known = sheet::findMaterial(l->get("material"));
            const shape::Selection s = resolve(*l, "in");
            if (s.pieces.empty() && !s.sides.empty())
                fault(6002, *l, "in",
                      "'" + l->get("in") + "' picks edges; a material fills regions");
            for (const int f : s.pieces) {
                m_problem.material[size_t(f)] = l->get("material");
                m_metal[size_t(f)] = known && known->conductor && !l->has("eps");
                if (!m_metal[size_t(f)])
                    m_problem.eps[size_t(f)] = coefficient(*l, known);
            }
        }
    }
    fem::Coefficient coefficient(const Line& l, const sheet::Material* known)
    {
        fem::Coefficient k;
        if (!l.has("eps")) {
            const double e = eps0 * (known ? known->eps : 1.0);
            k.constant = fem::Tensor::isotropic(e);
            return k;
        }
        const base::Expression e1(l.get("eps")), e2(l.has("eps2") ? l.get("eps2") : l.get("eps"));
        const double turn = l.has("turned") ? m_model.number(l, "turned") : 0.0, c = std::cos(turn),
                     s = std::sin(turn);
        auto tensor = [c, s](double a, double b) {
            return fem::Tensor{eps0 * (a * c * c + b * s * s),
                               eps0 * (a - b) * c * s,
                               eps0 * (a * s * s + b * c * c),
                               0,
                               0,
                               eps0 * a};
        };
        const auto scope = m_model.parameters().scope();
        const auto a = e1.evaluate(scope), b = e2.evaluate(scope);
        if (a.ok() && b.ok()) {
            k.constant = tensor(a.value->value.real(), b.value->value.real());
            return k;
        }
        // Depends on position. A value that is not positive is caught by the factorisation.
        k.constant = tensor(1, 1);
        k.at = [this_model = m_model, e1, e2, tensor](Point p) {
            const auto at = this_model.scopeAt(p);
            const auto u = e1.evaluate(at), v = e2.evaluate(at);
            return tensor(u.ok() ? u.value->value.real() : NAN,
                          v.ok() ? v.value->value.real() : NAN);
        };
        return k;
    }

    void electrodes()
    {
        for (const Line& l : m_model.document().lines) {
            if (l.kind != "electrode" && l.kind != "floating")
                continue;
            Conductor c;
            c.name = l.name();
            c.line = l.id;
            const shape::Selection s = resolve(l, "on");
            if (l.kind == "floating") {
                c.kind = Conductor::Kind::floating;
            } else if (l.has("charge")) {
                c.kind = Conductor::Kind::charge;
                c.value = m_model.number(l, "charge");
            } else if (l.has("voltage")) {
                c.value = m_model.number(l, "voltage");
            }
            c.sides = s.sides;
            c.image = s.empty();
            const int k = int(m_problem.conductors.size());
            m_problem.conductors.push_back(c);
            for (const int f : s.pieces)
                own(f, k, l);
        }
    }
    void own(int f, int k, const Line& l)
    {
        if (m_owner[size_t(f)] >= 0 && m_owner[size_t(f)] != k) {
            fault(6003, l, "on",
                  "conductors " + m_problem.conductors[size_t(m_owner[size_t(f)])].name + " and " +
                      m_problem.conductors[size_t(k)].name + " are both on " +
                      m_p.proposeRegion(m_p.pieces()[size_t(f)].region) +
                      "; take it off one of them");
            return;
        }
        m_owner[size_t(f)] = k;
        m_problem.conductors[size_t(k)].pieces.push_back(f);
    }

    /// Conductors get all the sides that they own.
    void giveSides(const std::vector<int>& curveOwner)
    {
        for (size_t e = 0; e < curveOwner.size(); ++e)
            if (const int k = curveOwner[e]; k >= 0) {
                auto& list = m_problem.conductors[size_t(k)].sides;
                if (std::find(list.begin(), list.end(), int(e)) == list.end())
                    list.push_back(int(e));
            }
    }

    /// Metal that nothing touches floats by itself.
    void addFloating(size_t f)
    {
        Conductor c;
        c.name = m_p.proposeRegion(m_p.pieces()[f].region) + " (floating)";
        c.kind = Conductor::Kind::floating;
        c.pieces = {int(f)};
        m_owner[f] = int(m_problem.conductors.size());
        m_problem.conductors.push_back(c);
    }

    /// Metal regions join the conductor that they touch; what touches none floats.
    void metals()
    {
        const auto& faces = m_p.pieces();
        std::vector<int> curveOwner(m_p.sides().size(), -1);
        for (size_t k = 0; k < m_problem.conductors.size(); ++k)
            for (const int e : m_problem.conductors[k].sides)
                claim(curveOwner, e, int(k));
        bool changed = true;
        while (changed) {
            changed = false;
            for (size_t f = 0; f < faces.size(); ++f)
                if (m_owner[f] >= 0)
                    for (const int e : faces[f].sides)
                        claim(curveOwner, e, m_owner[f]);
            for (size_t f = 0; f < faces.size(); ++f) {
                if (!m_metal[f] || m_owner[f] >= 0)
                    continue;
                for (const int e : faces[f].sides)
                    if (curveOwner[size_t(e)] >= 0) {
                        m_owner[f] = curveOwner[size_t(e)];
                        m_problem.conductors[size_t(m_owner[f])].pieces.push_back(int(f));
                        changed = true;
                        break;
                    }
            }
            if (changed)
                continue;
            for (size_t f = 0; f < faces.size() && !changed; ++f)
                if (m_metal[f] && m_owner[f] < 0) {
                    addFloating(f);
                    changed = true;
                }
        }
        giveSides(curveOwner);
        m_curveOwner = std::move(curveOwner);
    }
    void claim(std::vector<int>& owner, int e, int k)
    {
        int& o = owner[size_t(e)];
        if (o < 0)
            o = k;
        else if (o != k && m_shorts.insert({std::min(o, k), std::max(o, k)}).second) {
            const Conductor &a = m_problem.conductors[size_t(std::min(o, k))],
                            &b = m_problem.conductors[size_t(std::max(o, k))];
            m_faults.push_back(
                {6004,
                 {std::max(a.line, b.line), "on", -1},
                 "conductors " + a.name + " and " + b.name + " touch each other: a short circuit",
                 false});
        }
    }

    /// Which conductors lie on an odd plane.
    void markOnPlanes()
    {
        const double near = 1e-6 * m_p.size();
        for (Conductor& c : m_problem.conductors)
            for (const int e : c.sides)
                for (const Point& q : m_p.samples(e))
                    c.onPlane = c.onPlane || (m_problem.odd[0] && std::abs(q.x) < near) ||
                                (m_problem.odd[1] && std::abs(q.y) < near) ||
                                (m_problem.odd[2] && std::abs(q.z) < near);
    }

    /// Edges that border on nothing, by what the sheet says is beyond.
    void outerEdge()
    {
        const Line* l = m_model.document().first("outer edge");
        const std::string is = l ? l->get("is") : "insulated";
        Conductor ground, infinity, plane;
        ground.name = "grounded edge";
        plane.name = "mirror plane";
        infinity.name = "infinity";
        ground.line = l ? l->id : -1;
        ground.hidden = infinity.hidden = plane.hidden = true;
        const bool axi = m_problem.measure == fem::Measure::axisymmetric;
        for (size_t e = 0; e < m_p.sides().size(); ++e) {
            const shape::Side& edge = m_p.sides()[e];
            if (edge.pieces.size() != 1 || m_curveOwner[e] >= 0)
                continue;
            bool far = m_p.openShell().present;
            const shape::OpenShell& shell = m_p.openShell();
            for (const Point& q : m_p.samples(int(e))) {
                far = far && std::abs(norm(q - shell.centre) - shell.outer) < 1e-2 * shell.outer;
            }
            if (edge.cut != shape::Side::none) {
                if (edge.cut != shape::Side::wedge && m_problem.odd[size_t(edge.cut)])
                    plane.sides.push_back(int(e));
                continue;
            }
            if (far)
                infinity.sides.push_back(int(e));
            else if (is == "grounded")
                ground.sides.push_back(int(e));
        }
        markOnPlanes();
        // Round an axis infinity is 0 V, and so it is beside an odd plane. Else, in the plane, no
        // net charge reaches it and its potential is free.
        if (!axi && m_p.dimension() == 2 && plane.sides.empty())
            m_problem.tiedSides.swap(infinity.sides);
        for (Conductor* c : {&ground, &infinity, &plane})
            if (!c->sides.empty())
                m_problem.conductors.push_back(*c);
    }

    void charges()
    {
        for (const Line* l : m_model.document().ofKind("space charge"))
            for (const int f : resolve(*l, "in").pieces)
                m_problem.spaceCharge[size_t(f)] = function(*l);
        for (const Line* l : m_model.document().ofKind("surface charge")) {
            const shape::Selection s = resolve(*l, "on");
            if (s.sides.empty() && !s.pieces.empty())
                fault(6006, *l, "on",
                      "'" + l->get("on") +
                          "' picks regions; surface charge sits on edges, for example `edges of " +
                          l->get("on") + "`");
            for (const int e : s.sides)
                if (m_curveOwner[size_t(e)] >= 0)
                    fault(6007, *l, "on",
                          "'" + l->get("on") +
                              "' lies on a conductor, which would carry the charge away; give the "
                              "electrode a charge instead");
            m_problem.surfaceCharge.push_back({s.sides, function(*l)});
        }
    }
    std::function<double(Point)> function(const Line& l)
    {
        const base::Expression e(l.get("density"));
        const auto constant = e.evaluate(m_model.parameters().scope());
        if (constant.ok())
            return [v = constant.value->value.real()](Point) { return v; };
        return [model = m_model, e](Point p) {
            const auto r = e.evaluate(model.scopeAt(p));
            return r.ok() ? r.value->value.real() : NAN;
        };
    }

    void missingMaterials()
    {
        sayWithoutMaterial(
            [this](size_t f) { return m_owner[f] >= 0 || !m_problem.material[f].empty(); }, "air");
    }

    const bool m_asEven;  ///< odd mirror planes are read as even ones
    ElectrostaticProblem m_problem;
    std::vector<char> m_metal;
    std::vector<int> m_owner, m_curveOwner;
    std::set<std::pair<int, int>> m_shorts;
};

}  // namespace

bool ElectrostaticProblem::hasFixedCharge() const
{
    return !surfaceCharge.empty() || std::any_of(spaceCharge.begin(), spaceCharge.end(),
                                                 [](const auto& f) { return bool(f); });
}

int ElectrostaticProblem::conductorOf(const std::string& name) const
{
    for (size_t k = 0; k < conductors.size(); ++k)
        if (conductors[k].name == name)
            return int(k);
    return -1;
}

ElectrostaticProblem defineElectrostatic(const sheet::Model& model,
                                         const shape::Partition& partition, base::Faults& faults)
{
    ElectrostaticProblem problem = Reader(model, partition, false, faults).run();
    if (problem.isOdd()) {
        base::Faults said;
        problem.even =
            std::make_shared<ElectrostaticProblem>(Reader(model, partition, true, said).run());
    }
    return problem;
}

}  // namespace yh::physics
