#include "run/parity.h"

#include "shape/partition.h"
#include "sheet/topic.h"

#include <algorithm>
#include <cmath>

namespace yh::run {

using base::Point;
using sheet::Line;
using sheet::Model;

namespace {

struct Drive
{
    std::string what;
    double value = 0;
    bool reverses = false;  ///< equal behind an odd plane, opposite behind an even one
    auto operator<=>(const Drive&) const = default;
};

/// What the lines of a sheet say about a piece or side.
struct Imprint
{
    std::vector<std::string> same;  ///< must be equal on both sides
    std::vector<Drive> drives;      ///< equal, or opposite
};

class Mirror
{
public:
    Mirror(const Model& model, const shape::Partition& partition, int axis)
        : m_p(partition), m_axis(axis)
    {
        m_piece.resize(partition.pieces().size());
        m_side.resize(partition.sides().size());
        for (const Line& l : model.document().lines)
            read(model, l);
        for (auto* list : {&m_piece, &m_side})
            for (Imprint& i : *list) {
                std::sort(i.same.begin(), i.same.end());
                std::sort(i.drives.begin(), i.drives.end());
            }
    }

    Parity parity()
    {
        if (!findPartners())
            return Parity::none;
        bool even = true, odd = true, driven = false;
        auto compare = [&](const std::vector<Imprint>& list, const std::vector<int>& partner) {
            for (size_t i = 0; i < list.size(); ++i) {
                const Imprint &a = list[i], &b = list[size_t(partner[i])];
                if (a.same != b.same || a.drives.size() != b.drives.size())
                    return false;
                for (const Drive& drive : a.drives)
                    driven = driven || drive.value != 0;
                even = even && agree(a.drives, b.drives, 1);
                odd = odd && agree(a.drives, b.drives, -1);
            }
            return true;
        };
        if (!compare(m_piece, m_pieceOf) || !compare(m_side, m_sideOf))
            return Parity::none;
        if (!driven)
            return m_anyDrive ? Parity::open : Parity::even;
        return even ? Parity::even : odd ? Parity::odd : Parity::none;
    }

private:
    static bool agree(const std::vector<Drive>& a, std::vector<Drive> b, double sign)
    {
        for (Drive& drive : b)
            drive.value *= drive.reverses ? -sign : sign;
        std::sort(b.begin(), b.end());
        return std::equal(a.begin(), a.end(), b.begin(), [](const Drive& x, const Drive& y) {
            constexpr double rounding = 1e-9;
            return x.what == y.what && std::abs(x.value - y.value) <=
                                           rounding * (std::abs(x.value) + std::abs(y.value));
        });
    }

    /** Of an axial vector the part across an even plane is the same on both sides. */
    void addParts(const Model& model, const Line& l, const std::string& key,
                  const std::string& what, Imprint& own) const
    {
        constexpr double none = 1e-12;
        const Point d = model.direction(l, key);
        const bool round = model.space() == sheet::Space::axisymmetric;
        const double part[3] = {d.x, round ? d.z : d.y, round ? 0.0 : d.z};
        for (int k = 0; k < 3; ++k)
            own.drives.push_back(
                {what + "xyz"[k], std::abs(part[k]) < none ? 0 : part[k], k != m_axis});
    }

    void lay(const Model& model, const Line& l, const sheet::Slot& f, const Imprint& own)
    {
        shape::Selection s;
        try {
            s = m_p.resolve(model.place(l, f.key), model, {l.id, f.key, 0});
        } catch (const base::Error&) {
            return;  // the line's own fault is told at its place
        }
        Imprint there = own;
        for (Drive& drive : there.drives)
            drive.value *= f.opposite ? -1 : 1;
        for (const int p : s.pieces)
            add(m_piece[size_t(p)], there);
        for (const int p : s.sides)
            add(m_side[size_t(p)], there);
    }

    void read(const Model& model, const Line& l)
    {
        const sheet::Kind* kind = sheet::findKind(l.kind);
        if (!kind || kind->section == "ask" || kind->section == "shape" || kind->section == "mesh")
            return;
        Imprint own;
        std::vector<Drive> scalars;
        std::string text = l.kind;
        for (const sheet::Slot& f : kind->entries) {
            if (f.type == sheet::SlotType::name || f.type == sheet::SlotType::place ||
                !l.has(f.key))
                continue;
            if (!f.turnedOver) {
                text += "|" + f.key + "=" + l.get(f.key);
                continue;
            }
            m_anyDrive = true;
            const std::string what = l.kind + "|" + f.key;
            if (f.type == sheet::SlotType::direction) {
                addParts(model, l, f.key, what, own);
            } else if (const auto value = model.optionalNumber(l, f.key)) {
                scalars.push_back({what, *value, false});
            }
        }
        // A current that turns about a direction is an axial vector along it.
        for (const Drive& scalar : scalars)
            for (Drive& part : own.drives)
                part.value *= scalar.value;
        if (own.drives.empty())
            own.drives = std::move(scalars);
        own.same.push_back(text);
        for (const sheet::Slot& f : kind->entries)
            if (f.type == sheet::SlotType::place && l.has(f.key))
                lay(model, l, f, own);
    }
    static void add(Imprint& to, const Imprint& own)
    {
        to.same.insert(to.same.end(), own.same.begin(), own.same.end());
        to.drives.insert(to.drives.end(), own.drives.begin(), own.drives.end());
    }

    [[nodiscard]] Point mirrored(Point p) const
    {
        (m_axis == 0 ? p.x : m_axis == 1 ? p.y : p.z) *= -1;
        return p;
    }
    bool findPartners()
    {
        constexpr double near = 1e-5;
        const auto& sides = m_p.sides();
        const double size = m_p.size();
        m_sideOf.assign(sides.size(), -1);
        for (size_t i = 0; i < sides.size(); ++i)
            for (size_t k = 0; k < sides.size() && m_sideOf[i] < 0; ++k)
                if (norm(mirrored(sides[i].centre) - sides[k].centre) < near * size &&
                    std::abs(sides[i].content - sides[k].content) < near * sides[i].content)
                    m_sideOf[i] = int(k);
        if (std::count(m_sideOf.begin(), m_sideOf.end(), -1) > 0)
            return false;
        std::vector<std::vector<int>> own;
        for (const shape::Piece& p : m_p.pieces()) {
            own.push_back(p.sides);
            std::sort(own.back().begin(), own.back().end());
        }
        for (size_t i = 0; i < own.size(); ++i) {
            std::vector<int> image;
            for (const int s : own[i])
                image.push_back(m_sideOf[size_t(s)]);
            std::sort(image.begin(), image.end());
            const auto found = std::find(own.begin(), own.end(), image);
            if (found == own.end())
                return false;
            m_pieceOf.push_back(int(found - own.begin()));
        }
        return true;
    }

    const shape::Partition& m_p;
    int m_axis;
    bool m_anyDrive = false;
    std::vector<Imprint> m_piece, m_side;
    std::vector<int> m_pieceOf, m_sideOf;
};

}  // namespace

Parity parityOf(const Model& model, const std::string& plane, const std::string& folder)
{
    sheet::Document whole = model.document();
    // What lies beyond the device is the same on both sides.
    std::erase_if(whole.lines, [](const Line& l) {
        return l.kind == "mirror plane" || l.kind == "outer edge" || l.kind == "open space";
    });
    while (const Line* open = Model(whole).mappedSpace())
        std::erase_if(whole.lines, [id = open->id](const Line& l) { return l.id == id; });
    const Model uncut(whole);
    return Mirror(uncut, shape::Partition::build(uncut, folder), model.axisOf(plane)).parity();
}

}  // namespace yh::run
