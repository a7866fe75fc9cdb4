// Maxwell's equations in time on a regular grid: E along the edges and H through the faces of
// cells, half a step apart in time.
//
//   eps dE/dt = curl H - sigma E - J,   mu dH/dt = -curl E
//
// Edges and faces that a wall of metal cuts count by the part that is left, so that curved walls
// err by the square of the cells' size. Layers outside absorb what leaves. A drawing of the plane
// is a grid of one layer in which nothing changes along z; it holds both polarisations. Sources:
// Yee, IEEE Trans. Antennas Propag. 14 (1966) 302; Dey and Mittra, IEEE Microw. Guided Wave Lett. 7
// (1997) 273; absorbing layers: Roden and Gedney, Microw. Opt. Technol. Lett. 27 (2000) 334 (all
// from memory).
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <functional>
#include <memory>
#include <span>
#include <vector>

namespace yh::grid {

using std::size_t;

enum class Wall {
    electric,
    magnetic,
    absorbing  ///< an electric wall behind layers that absorb
};

/// Along an edge: the share of it outside of metal, and what is there.
struct YeeEdge
{
    float open = 1, eps = 1, sigma = 0;  ///< sigma in S/m
};
/// Through a face: the share of it outside of metal, and what is there.
struct YeeFace
{
    float open = 1, mu = 1;
};

class YeeGrid
{
public:
    struct Options
    {
        std::array<int, 3> cells{1, 1, 0};    ///< 0 along z: the plane
        std::array<double, 3> size{1, 1, 1};  ///< m, of a cell
        std::array<Wall, 6> walls{};          ///< x low, x high, y low, …
        int layer = 10;                       ///< cells of an absorbing layer
        double lowest = 1e9;                  ///< Hz, that the layers must absorb
        bool isCut = false;                   ///< some edges or faces are cut by metal
        double leastIndex = 1;                ///< smallest refractive index
    };
    /// What lies along the edge from node i, j, k in a direction; in the layers outside, what lies
    /// at the border goes on.
    using Edges = std::function<YeeEdge(int axis, int i, int j, int k)>;
    using Faces = std::function<YeeFace(int axis, int i, int j, int k)>;
    /// What joins the directions at a node where borders between media run at an angle: the parts
    /// yz, zx and xy of 1 / eps. Kept where no metal is near.
    using Joints = std::function<std::array<float, 3>(int i, int j, int k)>;
    /// @param joints  may be empty
    YeeGrid(const Options& options, const Edges& edges, const Faces& faces,
            const Joints& joints = {});

    [[nodiscard]] double dt() const { return m_dt; }
    [[nodiscard]] double time() const { return m_time; }
    /// One step: H, then E.
    void step();
    /// Back to no field at time 0.
    void clear();

    /// What a current element through the middle of an edge adds to E.
    struct Edge
    {
        size_t at = 0;
        int axis = 0;
        float perField = 0;   ///< V/m by what is stored; 0 in metal
        float perMoment = 0;  ///< what is stored by A m (the plane: A), over a step
    };
    [[nodiscard]] Edge edge(int axis, int i, int j, int k) const;
    void drive(const Edge& e, float moment) { m_field[e.axis][e.at] -= e.perMoment * moment; }
    /// V/m.
    [[nodiscard]] float electric(const Edge& e) const { return m_field[e.axis][e.at] * e.perField; }
    /// A row of E (0 to 2) or H (3 to 5) as stored: E times the share of its edge that is open and,
    /// as H, times the edge's length over that along x.
    [[nodiscard]] const float* line(int component, int j, int k) const
    {
        return m_field[component] + at(0, j, k, true);
    }

private:
    struct Run
    {
        int from, to;
        std::uint32_t kind;  ///< or, of mixed ones, where theirs begin
        enum Way : std::uint8_t { plain, lossy, mixed } way;
    };
    struct KindE
    {
        std::array<float, 3> keep, curl;
        bool operator<(const KindE& o) const
        {
            return keep != o.keep ? keep < o.keep : curl < o.curl;
        }
    };
    struct KindH
    {
        std::array<float, 3> curl;
        bool operator<(const KindH& o) const { return curl < o.curl; }
    };
    /// How an absorbing layer takes a derivative: psi = b psi + a d.
    struct Decay
    {
        std::vector<float> a, b;
    };
    /// Runs of cells of a row, and what each cell is.
    struct Rows
    {
        std::vector<std::uint32_t> kind;  ///< by cell; kept for absorbing layers only
        std::vector<Run> runs;
        /// Those of cells in mixed runs one after the other, as a step meets them.
        std::vector<std::uint32_t> mixed;
        std::vector<size_t> first;  ///< by row, and the end
    };

    [[nodiscard]] size_t at(int i, int j, int k, bool inner = false) const
    {
        const auto& o = m_offset;
        return (inner ? size_t(i + o[0]) + size_t(j + o[1]) * m_sy + size_t(k + o[2]) * m_sz
                      : size_t(i) + size_t(j) * m_sy + size_t(k) * m_sz) +
               m_origin;
    }
    [[nodiscard]] size_t row(int j, int k) const
    {
        return size_t(k) * size_t(m_n[1] + 1) + size_t(j);
    }
    void allocate();
    void kinds(const Edges& edges, const Faces& faces);
    template <class Kind, class IsLossy>
    void runs(Rows& rows, const std::vector<Kind>& kinds, IsLossy isLossy) const;
    /// Takes steps short enough for the smallest cut cells.
    void shorten();
    void layers();
    void fringes(int low, int high, int n);
    void join(const Joints& joints);
    /// The parts of curl H that lie along other edges: taken first, then put in.
    void takeJoined(int thread, int threads);
    void putJoined(int thread, int threads);
    void rowH(int j, int k);
    void rowE(int j, int k);
    void absorb(bool electric, int axis, int j, int k, int from, int to, size_t psi);
    void absorbRow(bool electric, int j, int k);
    void mirrorRow(int j, int k);

    Options m_options;
    std::array<int, 3> m_n{};       ///< cells with the layers
    std::array<int, 3> m_offset{};  ///< cells of the layers at the low ends
    std::array<int, 3> m_end{};     ///< cells of the layers at the high ends
    bool m_isPlane, m_hasLayers = false, m_hasMirrors = false;
    size_t m_sy = 0, m_sz = 0, m_origin = 0, m_total = 0;
    struct Free
    {
        void operator()(float* p) const;
    };
    std::unique_ptr<float, Free> m_memory[6];
    float* m_field[6] = {};  ///< E along edges and H through faces, as integrals over h
    std::array<float, 3> m_perField{};
    double m_dt = 0, m_time = 0;
    Rows m_rowsE, m_rowsH;
    std::vector<KindE> m_kindsE;
    std::vector<KindH> m_kindsH;
    Decay m_decayE[3], m_decayH[3];  ///< by axis, by place along it
    /// Edges that are joined with others, by axis and place; from which, and how much.
    struct Joined
    {
        std::vector<std::uint8_t> axis;
        std::vector<size_t> at;
        std::vector<float> curl;  ///< of H round each, now
        std::vector<size_t> first;
        std::vector<std::uint32_t> from;
        std::vector<float> share;
    } m_joined;
    /// Where layers along x end at the low end of a row, and begin at the high one.
    int m_lowFringe = 0, m_highFringe = 0;
    std::vector<float> m_psi[3][4];  ///< by axis: of both parts of H, of both of E
};

}  // namespace yh::grid
