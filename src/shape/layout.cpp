// Layers of a GDSII stream file. The format: records of a 16-bit length, a type and a data type,
// big-endian, reals with a base of 16 (Calma, GDSII Stream Format Manual, release 6.0, from
// memory).
#include "shape/layout.h"

#include "base/constants.h"
#include "shape/native.h"

#include <BRepAlgoAPI_Common.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <ShapeUpgrade_UnifySameDomain.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Wire.hxx>
#include <gp_Pln.hxx>

#include <cmath>
#include <complex>
#include <cstdint>
#include <fstream>
#include <map>
#include <set>

namespace yh::shape {

namespace {

using Complex = std::complex<double>;
using base::pi;

enum Record : int {
    units = 0x03,
    endLibrary = 0x04,
    beginStructure = 0x05,
    structureName = 0x06,
    endStructure = 0x07,
    boundary = 0x08,
    path = 0x09,
    reference = 0x0a,
    arrayReference = 0x0b,
    label = 0x0c,
    layer = 0x0d,
    width = 0x0f,
    coordinates = 0x10,
    endElement = 0x11,
    referenceName = 0x12,
    columnsRows = 0x13,
    string = 0x19,
    transformation = 0x1a,
    magnification = 0x1b,
    angle = 0x1c,
    pathType = 0x21,
    box = 0x2d,
};

struct Element
{
    int kind = 0, layer = -1, pathType = 0, columns = 1, rows = 1;
    bool flipped = false;
    double width = 0, scale = 1, turn = 0;
    std::string name;  ///< of the cell referred to, or a text
    std::vector<Complex> points;
};

class Reader
{
public:
    Reader(const std::string& file, const base::Place& place) : m_file(file), m_place(place) {}

    void read()
    {
        std::ifstream in(m_file, std::ios::binary);
        m_data.assign(std::istreambuf_iterator<char>(in), {});
        Element* open = nullptr;
        bool ended = false;
        for (size_t at = 0; at + 4 <= m_data.size() && !ended;) {
            const size_t length = size_t(integer(at, 2) & 0xffff);
            const int type = byte(at + 2);
            if (length < 4 || at + length > m_data.size())
                broken();
            const size_t from = at + 4, n = length - 4;
            at += length;
            switch (type) {
                case units:
                    m_metres = real(from + 8);
                    break;
                case structureName:
                    m_current = text(from, n);
                    m_order.push_back(m_current);
                    m_cells[m_current];
                    break;
                case boundary:
                case path:
                case reference:
                case arrayReference:
                case label:
                case box:
                    m_cells[m_current].push_back({});
                    open = &m_cells[m_current].back();
                    open->kind = type;
                    break;
                case endElement:
                    open = nullptr;
                    break;
                case endLibrary:
                    ended = true;
                    break;
                default:
                    if (open)
                        field(*open, type, from, n);
            }
        }
        if (!ended || m_cells.empty() || !(m_metres > 0))
            broken();
    }

    /// Cells that no other one refers to.
    [[nodiscard]] std::vector<std::string> tops() const
    {
        std::set<std::string> used;
        for (const auto& [name, elements] : m_cells)
            for (const Element& e : elements)
                if (e.kind != label)
                    used.insert(e.name);
        std::vector<std::string> list;
        for (const std::string& n : m_order)
            if (!used.count(n))
                list.push_back(n);
        return list;
    }
    [[nodiscard]] bool hasCell(const std::string& name) const { return m_cells.count(name) != 0; }
    [[nodiscard]] double metres() const { return m_metres; }
    [[nodiscard]] const std::set<int>& layers() const { return m_layers; }

    /// Goes through the elements of a cell and of those it refers to:
    /// visit(element, place: database units of the element to those of the top cell).
    template <class Visit>
    void walk(const std::string& cell, const Visit& visit, Complex factor = 1, bool flipped = false,
              Complex offset = 0, int depth = 0)
    {
        constexpr int deepest = 64;
        if (depth > deepest)
            throw base::Error(3062, "the cells of " + m_file + " contain themselves", m_place);
        auto place = [&](Complex p) { return offset + factor * (flipped ? std::conj(p) : p); };
        const auto cellOf = m_cells.find(cell);
        if (cellOf == m_cells.end())
            throw base::Error(3063, "the cell '" + cell + "' is not in " + m_file, m_place);
        for (const Element& e : cellOf->second) {
            constexpr long most = 2'000'000;
            if (++m_visited > most)
                throw base::Error(3066,
                                  "the references of " + m_file + " unfold to more than " +
                                      std::to_string(most) + " elements",
                                  m_place);
            if (e.kind != reference && e.kind != arrayReference) {
                visit(e, place, std::abs(factor));
                continue;
            }
            if (e.points.empty())
                broken();
            const bool array = e.kind == arrayReference && e.points.size() >= 3;
            const Complex column = array ? (e.points[1] - e.points[0]) / double(e.columns) : 0,
                          row = array ? (e.points[2] - e.points[0]) / double(e.rows) : 0;
            const Complex own = std::polar(e.scale, e.turn * pi / 180);
            for (int i = 0; i < (array ? e.columns : 1); ++i)
                for (int j = 0; j < (array ? e.rows : 1); ++j)
                    walk(e.name, visit, factor * (flipped ? std::conj(own) : own),
                         flipped != e.flipped,
                         place(e.points[0] + double(i) * column + double(j) * row), depth + 1);
        }
    }
    /// Outlines of a layer in database units.
    [[nodiscard]] std::vector<std::vector<Complex>> outlines(const std::string& cell, int wanted)
    {
        std::vector<std::vector<Complex>> list;
        walk(cell, [&](const Element& e, const auto& place, double) {
            if (e.layer != wanted || e.kind == label)
                return;
            std::vector<Complex> o = e.kind == path ? widened(e) : e.points;
            for (Complex& p : o)
                p = place(p);
            list.push_back(std::move(o));
        });
        return list;
    }
    /// The cell that is meant.
    [[nodiscard]] std::string cellOf(const std::string& name) const
    {
        if (!name.empty())
            return name;
        const auto list = tops();
        if (list.size() != 1)
            throw base::Error(3064,
                              "there are " + std::to_string(list.size()) + " top cells in " +
                                  m_file + "; name the wanted one",
                              m_place);
        return list.front();
    }

private:
    [[noreturn]] void broken() const
    {
        throw base::Error(3060, "the file " + m_file + " cannot be read as GDSII; it is broken",
                          m_place);
    }
    [[nodiscard]] int byte(size_t at) const { return static_cast<unsigned char>(m_data[at]); }
    [[nodiscard]] int integer(size_t at, int bytes) const
    {
        if (at + size_t(bytes) > m_data.size())
            broken();
        std::uint32_t v = 0;
        for (int i = 0; i < bytes; ++i)
            v = v << 8 | std::uint32_t(byte(at + size_t(i)));
        return bytes == 2 ? int(std::int16_t(v)) : int(std::int32_t(v));
    }
    [[nodiscard]] double real(size_t at) const
    {
        if (at + 8 > m_data.size())
            broken();
        double m = 0;
        for (int i = 7; i >= 1; --i)
            m = (m + byte(at + size_t(i))) / 256;
        const int e = (byte(at) & 0x7f) - 64;
        return (byte(at) & 0x80 ? -1 : 1) * m * std::pow(16.0, e);
    }
    [[nodiscard]] std::string text(size_t at, size_t n) const
    {
        std::string s(m_data.begin() + std::ptrdiff_t(at), m_data.begin() + std::ptrdiff_t(at + n));
        while (!s.empty() && s.back() == 0)
            s.pop_back();
        return s;
    }
    void field(Element& e, int type, size_t from, size_t n)
    {
        if (type == layer) {
            e.layer = integer(from, 2);
            m_layers.insert(e.layer);
        } else if (type == width) {
            e.width = std::abs(integer(from, 4));
        } else if (type == pathType) {
            e.pathType = integer(from, 2);
        } else if (type == referenceName || type == string) {
            e.name = text(from, n);
        } else if (type == columnsRows) {
            e.columns = std::max(1, integer(from, 2));
            e.rows = std::max(1, integer(from + 2, 2));
        } else if (type == transformation) {
            e.flipped = (integer(from, 2) & 0x8000) != 0;
        } else if (type == magnification) {
            e.scale = real(from);
        } else if (type == angle) {
            e.turn = real(from);
        } else if (type == coordinates) {
            for (size_t k = 0; k + 8 <= n; k += 8)
                e.points.emplace_back(integer(from + k, 4), integer(from + k + 4, 4));
        }
    }
    /// Outline of a path: mitred at its corners, with its ends as its type says.
    static std::vector<Complex> widened(const Element& e)
    {
        std::vector<Complex> p = e.points, left, right;
        if (p.size() < 2)
            return {};
        const double h = e.width / 2;
        if (e.pathType == 2 || e.pathType == 1) {
            p.front() -= h * (p[1] - p[0]) / std::abs(p[1] - p[0]);
            const size_t k = p.size() - 1;
            p.back() += h * (p[k] - p[k - 1]) / std::abs(p[k] - p[k - 1]);
        }
        for (size_t i = 0; i < p.size(); ++i) {
            const Complex u = i > 0 ? (p[i] - p[i - 1]) / std::abs(p[i] - p[i - 1]) : Complex(0),
                          v = i + 1 < p.size() ? (p[i + 1] - p[i]) / std::abs(p[i + 1] - p[i])
                                               : Complex(0);
            Complex along = u + v;
            along /= std::abs(along);
            const Complex normal = Complex(0, 1) * along;
            const Complex one = i > 0 ? u : v;
            const double stretch = 1 / std::max(0.2, std::real(std::conj(one) * along));
            left.push_back(p[i] + h * stretch * normal);
            right.push_back(p[i] - h * stretch * normal);
        }
        left.insert(left.end(), right.rbegin(), right.rend());
        return left;
    }

    std::string m_file;
    base::Place m_place;
    std::vector<char> m_data;
    std::string m_current;
    std::vector<std::string> m_order;
    std::map<std::string, std::vector<Element>> m_cells;
    std::set<int> m_layers;
    double m_metres = 0;
    long m_visited = 0;  ///< elements, those of references as often as they are used
};

Reader opened(const std::string& file, const base::Place& place)
{
    checkFile(file, place);
    Reader reader(file, place);
    reader.read();
    return reader;
}

/** A face within an outline; not done where it has no corners. */
std::optional<BRepBuilderAPI_MakeFace> faceWithin(const std::vector<Complex>& outline, double scale)
{
    BRepBuilderAPI_MakeWire w;
    std::vector<gp_Pnt> corners;
    constexpr double same = 1e-6;
    for (const Complex& p : outline) {
        const gp_Pnt q(p.real() * scale, p.imag() * scale, 0);
        if (corners.empty() || corners.back().Distance(q) > same)
            corners.push_back(q);
    }
    while (corners.size() > 1 && corners.back().Distance(corners.front()) < same)
        corners.pop_back();
    if (corners.size() < 3)
        return {};
    for (size_t i = 0; i < corners.size(); ++i)
        w.Add(BRepBuilderAPI_MakeEdge(corners[i], corners[(i + 1) % corners.size()]).Edge());
    return BRepBuilderAPI_MakeFace(gp_Pln(gp::Origin(), gp::DZ()), w.Wire(), true);
}

[[noreturn]] void nothingOn(Reader& reader, int wanted, const std::string& file,
                            const base::Place& place)
{
    std::string list;
    for (const int l : reader.layers())
        list += (list.empty() ? "" : ", ") + std::to_string(l);
    throw base::Error(3061,
                      "there is nothing on layer " + std::to_string(wanted) + " of " + file +
                          (list.empty() ? "" : "; it has layers " + list),
                      place);
}

/// The polygons of a layer, joined, in kernel units.
TopoDS_Shape polygons(Reader& reader, const std::string& cell, int wanted, double unit,
                      const std::string& file, const base::Place& place)
{
    const auto outlines = reader.outlines(cell, wanted);
    const double scale = reader.metres() / unit;
    std::vector<TopoDS_Shape> faces;
    for (const auto& o : outlines) {
        if (auto f = faceWithin(o, scale); f && f->IsDone())
            faces.emplace_back(f->Face());
    }
    if (faces.empty())
        nothingOn(reader, wanted, file, place);
    if (faces.size() == 1)
        return faces.front();
    // Polygons that overlap or touch become one region.
    BRepAlgoAPI_Fuse fuse;
    fuse.SetArguments(listOf({faces.front()}));
    fuse.SetTools(listOf({faces.begin() + 1, faces.end()}));
    fuse.Build();
    if (fuse.HasErrors())
        throw base::Error(3022, "the shape kernel could not join the polygons of this layer",
                          place);
    ShapeUpgrade_UnifySameDomain unify(fuse.Shape(), true, true, false);
    unify.Build();
    return unify.Shape();
}

}  // namespace

TopoDS_Shape importLayer(const std::string& file, int wanted, const std::string& cell, int outline,
                         double unit, base::Place place)
{
    Reader reader = opened(file, place);
    const TopoDS_Shape whole = polygons(reader, reader.cellOf(cell), wanted, unit, file, place);
    if (outline < 0)
        return whole;
    const TopoDS_Shape bounds = polygons(reader, reader.cellOf(cell), outline, unit, file, place);
    BRepAlgoAPI_Common inside(whole, bounds);
    inside.Build();
    if (inside.HasErrors() || !TopExp_Explorer(inside.Shape(), TopAbs_FACE).More())
        throw base::Error(3065,
                          "nothing of layer " + std::to_string(wanted) + " lies within layer " +
                              std::to_string(outline) + " of " + file,
                          place);
    return inside.Shape();
}

LayoutMarks layoutMarks(const std::string& file, const std::string& cell, base::Place place)
{
    Reader reader = opened(file, place);
    LayoutMarks marks;
    const double metres = reader.metres();
    reader.walk(reader.cellOf(cell), [&](const Element& e, const auto& at, double scale) {
        if (e.kind == label && !e.points.empty()) {
            // Texts of any kind of bytes are shown in messages.
            std::string name = e.name;
            for (char& c : name)
                if (static_cast<unsigned char>(c) < ' ' || static_cast<unsigned char>(c) > '~')
                    c = '?';
            marks.labels.push_back({std::move(name), e.layer, metres * at(e.points[0])});
        }
        if (e.kind == path && e.points.size() == 2)
            marks.paths.push_back({e.layer, metres * at(e.points[0]), metres * at(e.points[1]),
                                   metres * scale * e.width});
    });
    return marks;
}

}  // namespace yh::shape
