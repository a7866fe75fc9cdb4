// Elastic waves in time on a regular grid of the plane, or of a half-plane that turns about an
// axis: velocities and stresses in turn, at places half a cell apart, with differences of fourth
// order; fluids beside solids.
//
//   rho dv/dt = div T,   dT/dt = lambda div v + 2 mu sym grad v
//
// Round an axis x is the distance from it, y runs along it, and nothing turns about it; what v_x
// over the distance and the stress around the axis add is a mean of four places, so that these
// terms err by the fourth order too and no value is needed on the axis itself.
// Layers outside absorb what leaves. Source: Virieux, Geophysics 51 (1986) 889; Levander,
// Geophysics 53 (1988) 1425; absorbing layers: Komatitsch and Martin, Geophysics 72 (2007) SM155
// (all from memory). Moduli at the corners between cells are harmonic means, so that a fluid
// carries no shear.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace yh::grid {

using std::size_t;

/// Of a cell: density, kg/m^3, and Lame's constants, Pa; a fluid has mu = 0.
struct Elastic
{
    double rho = 1000, lambda = 2.2e9, mu = 0;
    bool operator<(const Elastic& o) const
    {
        return std::array{rho, lambda, mu} < std::array{o.rho, o.lambda, o.mu};
    }
};

enum class Edge {
    absorbing,
    mirror  ///< smooth and rigid: nothing moves across
};

class ElasticGrid
{
public:
    struct Options
    {
        double h = 0;                ///< m, size of a cell
        double frequency = 0;        ///< Hz, that the absorbing layers suit
        int layer = 16;              ///< cells of an absorbing layer
        std::array<Edge, 4> edge{};  ///< left, right, bottom, top
        bool aboutAxis = false;      ///< round the left edge, which then is a mirror
    };
    /// @param cells  row by row from the lower left; shape (ny, nx)
    ElasticGrid(int nx, int ny, const std::vector<Elastic>& cells, const Options& options);

    [[nodiscard]] double dt() const { return m_dt; }
    [[nodiscard]] double time() const { return m_time; }
    /// One step: velocities, then stresses.
    void step();

    /// Cells about a place or along a line, with their shares.
    struct Place
    {
        std::vector<size_t> at;
        std::vector<float> share;
        void add(size_t cell, float part);
        void add(const Place& other, float part);
    };
    /// By cubic polynomials of the cells about it, or by straight ones where these differ.
    /// @param x, y  in cells from the lower left corner of the first
    [[nodiscard]] Place place(double x, double y) const;
    /// Adds to the pressure.
    void addPressure(const Place& place, float pressure);
    /// Mean of -T_xx and -T_yy, Pa; round an axis of the stress around it too.
    [[nodiscard]] float pressure(const Place& place) const;
    /// Velocities at the middle of cells, m/s.
    [[nodiscard]] std::array<float, 2> velocity(const Place& place) const;
    /// Pressure of every second, third … cell, row by row.
    void pressures(int stride, std::vector<float>& out) const;
    [[nodiscard]] double fastest() const { return m_fastest; }

private:
    /// Which coefficients a cell has.
    [[nodiscard]] int kindOf(int i, int j) const;
    [[nodiscard]] size_t at(int i, int j) const
    {
        return size_t(j + ghosts) * size_t(m_stride) + size_t(i + ghosts);
    }
    void coefficients(const std::vector<Elastic>& cells);
    void layers();
    template <bool aboutAxis>
    void velocityRow(int j);
    template <bool aboutAxis>
    void stressRow(int j);
    template <bool aboutAxis>
    void update();
    /// Beyond the left and right edges of a row.
    void mirrorVelocitiesOf(int j);
    void mirrorStressesOf(int j);
    [[nodiscard]] float pressureOf(size_t c) const
    {
        return m_aboutAxis ? (m_xx[c] + m_yy[c] + m_around[c]) * (-1.0F / 3)
                           : -0.5F * (m_xx[c] + m_yy[c]);
    }
    /// Values beyond the lower and upper edges.
    void mirrorVelocities();
    void mirrorStresses();
    /// What the layers add to a derivative: psi = b psi + a d.
    struct Decay
    {
        std::vector<float> a, b;
    };
    /// Visits runs of like cells in a part of a row: visit(coefficients, first, how many).
    template <class Visit>
    void overRuns(int j, int from, int to, Visit visit) const;
    /// Visits the cells of the layers at the left and right: visit(from, to).
    template <class Visit>
    void overLayers(Visit visit) const
    {
        if (m_left > 0)
            visit(0, m_left);
        if (m_right > 0)
            visit(m_nx - m_right - 1, m_nx);
    }
    [[nodiscard]] bool isInLayer(int j) const
    {
        return j < m_bottom || (m_top > 0 && j >= m_ny - m_top - 1);
    }
    /// Where the layers at the left and right, and those below and above, keep their own.
    [[nodiscard]] size_t sideways(int i, int j) const
    {
        return size_t(j) * size_t(m_left + m_right + 1) +
               size_t(i < m_left ? i : m_left + i - (m_nx - m_right - 1));
    }
    [[nodiscard]] size_t upwards(int i, int j) const
    {
        return size_t(j < m_bottom ? j : m_bottom + j - (m_ny - m_top - 1)) * size_t(m_nx) +
               size_t(i);
    }

    static constexpr int reach = 2;  ///< rows that a difference takes to either side
    static constexpr int ghosts = 2;
    int m_nx, m_ny;                ///< with the layers
    int m_left = 0, m_bottom = 0;  ///< cells of the layers there
    int m_right = 0, m_top = 0;
    int m_stride;
    double m_h, m_dt = 0, m_time = 0, m_frequency, m_fastest = 0;
    int m_layer;
    std::array<Edge, 4> m_edge;
    bool m_aboutAxis;
    std::vector<float> m_vx, m_vy, m_xx, m_yy, m_xy;
    std::vector<float> m_around;  ///< stress around the axis
    /// Size of a cell over the distance from the axis, at cells and between them.
    std::vector<float> m_bend, m_halfBend;
    /// Runs of cells in a row with the same coefficients.
    struct Run
    {
        int from, to, kind;
    };
    std::vector<std::vector<Run>> m_runs;  ///< by row
    struct Coefficients
    {
        float bx, by;   ///< dt / (rho h) at the places of both velocities
        float p, l, s;  ///< dt / h times lambda + 2 mu, lambda, and mu at the corner
        bool quiet;     ///< no shear here nor beside
        bool isBesideBorder;
        bool operator<(const Coefficients& o) const
        {
            return std::array{bx, by, p, l, s, float(quiet), float(isBesideBorder)} <
                   std::array{o.bx, o.by, o.p, o.l, o.s, float(o.quiet), float(o.isBesideBorder)};
        }
    };
    std::vector<Coefficients> m_kinds;
    Decay m_whole[2], m_half[2];  ///< by axis, at cells and between them
    std::vector<float> m_psi[8];
};

}  // namespace yh::grid
