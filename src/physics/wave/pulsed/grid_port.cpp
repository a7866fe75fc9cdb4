#include "physics/wave/pulsed/grid_port.h"

#include "base/fault.h"
#include "base/quantity.h"
#include "fem/block_krylov.h"
#include "fem/lu.h"
#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

namespace yh::physics {

namespace {

using Complex = std::complex<double>;
/// Nodes inside of the frame where currents flow and where waves are told apart.
constexpr int sourceDepth = 1, listenDepth = 2;

fem::SparseRows rowsOf(const Eigen::SparseMatrix<double, Eigen::RowMajor>& A)
{
    fem::SparseRows rows;
    rows.size = int(A.rows());
    rows.start.assign(A.outerIndexPtr(), A.outerIndexPtr() + A.rows() + 1);
    rows.column.assign(A.innerIndexPtr(), A.innerIndexPtr() + A.nonZeros());
    rows.value.assign(A.valuePtr(), A.valuePtr() + A.nonZeros());
    return rows;
}

}  // namespace

GridPort::GridPort(const GridFrame& frame, const Voxels& voxels, const grid::YeeGrid& g,
                   const PortWindow& w, const std::string& name, int line)
    : m_axis(w.axis),
      m_b((w.axis + 1) % 3),
      m_c((w.axis + 2) % 3),
      m_line(line),
      m_isHigh(w.isHigh),
      m_name(name),
      m_cells(voxels.cells()),
      m_size(voxels.size()),
      m_walls(frame.walls),
      m_dt(g.dt())
{
    for (size_t a = 0; a < 3; ++a)
        m_length[a] = m_cells[a] > 0 ? m_size[a] / m_size[0] : 1;
    const int end = m_cells[size_t(m_axis)];
    m_source = m_isHigh ? end - sourceDepth : sourceDepth;
    m_listen = m_isHigh ? end - listenDepth : listenDepth;
    window(frame, w);
    checkStraight(voxels);
    edges(frame, voxels, g);
    section(voxels);
}

std::array<int, 3> GridPort::node(int along, int b, int c) const
{
    std::array<int, 3> p{};
    p[size_t(m_axis)] = along;
    p[size_t(m_b)] = m_first[0] + b;
    p[size_t(m_c)] = m_first[1] + c;
    return p;
}

bool GridPort::isMirrored(int axis, bool high) const
{
    const size_t which = axis == m_b ? 0 : 1;
    const int end = high ? m_first[which] + m_count[which] - 1 : m_first[which];
    return end == (high ? m_cells[size_t(axis)] : 0) &&
           m_walls[size_t(2 * axis + int(high))] == grid::Wall::magnetic;
}

void GridPort::window(const GridFrame& frame, const PortWindow& w)
{
    auto part = [](const Point& p, int a) { return a == 0 ? p.x : a == 1 ? p.y : p.z; };
    size_t which = 0;
    for (const int a : {m_b, m_c}) {
        const auto A = size_t(a);
        if (isFlat(a)) {
            m_first[which] = 0;
            m_count[which] = 1;
        } else {
            auto nodeOf = [&](const Point& p) {
                return std::clamp(int(std::lround((part(p, a) - part(frame.from, a)) / m_size[A])),
                                  0, m_cells[A]);
            };
            m_first[which] = nodeOf(w.from);
            m_count[which] = nodeOf(w.to) - m_first[which] + 1;
            constexpr int fewest = 4;
            if (m_count[which] < fewest)
                throw base::Error(
                    7950,
                    "the grid has too few cells across port " + m_name + ": choose smaller ones",
                    {m_line, {}, -1});
        }
        ++which;
    }
}

void GridPort::checkStraight(const Voxels& voxels) const
{
    // From the frame to behind the plane where waves are told apart.
    const int from = m_isHigh ? m_cells[size_t(m_axis)] : 0, way = m_isHigh ? -1 : 1;
    for (int c = 0; c < m_count[1]; ++c)
        for (int b = 0; b < m_count[0]; ++b)
            for (const int axis : {m_b, m_c}) {
                auto there = [&](int along) {
                    const auto p = node(along, b, c);
                    return voxels.edge(axis, p[0], p[1], p[2]);
                };
                const auto first = there(from + way);
                for (int k = 1; k <= listenDepth + 1; ++k) {
                    const auto now = there(from + way * k);
                    // Bent walls are drawn with facets, which are not the same all along.
                    constexpr float sameOpen = 0.05F, sameMedium = 0.01F;
                    if (std::abs(now.open - first.open) > sameOpen ||
                        (now.open > 0 && std::abs(now.eps / first.eps - 1) > sameMedium))
                        throw base::Error(
                            7951,
                            "the guide at port " + m_name + " changes within the first " +
                                base::format((listenDepth + 1) * m_size[size_t(m_axis)],
                                             base::dim::length, 2) +
                                " of the device: let it go straight on for that long, or choose "
                                "smaller cells",
                            {m_line, {}, -1});
                }
            }
}

bool GridPort::placeEdge(Edge& e, const Voxels& voxels, const grid::YeeGrid& g, int axis,
                         int across)
{
    const auto p = node(m_source, e.b, e.c), q = node(m_listen, e.b, e.c);
    e.source = g.edge(axis, p[0], p[1], p[2]);
    if (!(e.source.perMoment > 0))
        return false;
    const auto there = voxels.edge(axis, p[0], p[1], p[2]);
    e.open = double(there.open);
    e.eps = double(there.eps);
    m_largestEps = std::max(m_largestEps, e.eps);
    if (e.isBorder)
        m_borderIndex = std::max(m_borderIndex, std::sqrt(e.eps));
    e.e = g.line(axis, q[1], q[2]) + q[0];
    auto r = q;
    --r[size_t(m_axis)];
    e.behind = g.line(3 + across, q[1], q[2]) + q[0];
    e.before = g.line(3 + across, r[1], r[2]) + r[0];
    return true;
}

void GridPort::edges(const GridFrame& frame, const Voxels& voxels, const grid::YeeGrid& g)
{
    const int lastB = m_count[0] - 1, lastC = m_count[1] - 1;
    for (const bool alongB : {true, false})
        for (int c = 0; c < m_count[1]; ++c)
            for (int b = 0; b < m_count[0]; ++b) {
                const int axis = alongB ? m_b : m_c, across = alongB ? m_c : m_b;
                const int along = alongB ? b : c, place = alongB ? c : b;
                const int last = alongB ? lastC : lastB;
                // A drawing holds one polarisation.
                if (!frame.isSolid &&
                    (axis == 2) != (frame.wave->kind.parts == fem::EdgeKind::across))
                    continue;
                if (!isFlat(axis) && along == (alongB ? lastB : lastC))
                    continue;
                Edge e;
                e.b = b;
                e.c = c;
                e.isAlongB = alongB;
                const bool low = place == 0, high = place == last;
                if (!isFlat(across) && (low || high)) {
                    if ((low && !isMirrored(across, false)) || (high && !isMirrored(across, true)))
                        continue;
                    e.weight = 0.5;
                }
                // Within two cells of where the window ends in the cladding.
                auto ends = [&](int of, int at, int end) {
                    return !isFlat(of) && ((at <= 1 && !isMirrored(of, false)) ||
                                           (at >= end - 2 && !isMirrored(of, true)));
                };
                e.isBorder = ends(m_b, b, lastB) || ends(m_c, c, lastC);
                if (placeEdge(e, voxels, g, axis, across))
                    m_edges.push_back(e);
            }
    if (m_edges.empty())
        throw base::Error(7952, "port " + m_name + " lies in metal: nothing can travel there",
                          {m_line, {}, -1});
}

void GridPort::section(const Voxels& voxels)
{
    using Triplet = Eigen::Triplet<double>;
    const auto n = Eigen::Index(m_edges.size());
    const int places = m_count[0] * m_count[1];
    auto place = [&](int b, int c) { return c * m_count[0] + b; };
    std::map<std::array<int, 3>, int> number;
    for (size_t i = 0; i < m_edges.size(); ++i)
        number[{m_edges[i].isAlongB ? 0 : 1, m_edges[i].b, m_edges[i].c}] = int(i);
    auto edgeAt = [&](bool alongB, int b, int c) {
        const auto found = number.find({alongB ? 0 : 1, b, c});
        return found == number.end() ? -1 : found->second;
    };
    const double db = m_size[size_t(m_b)], dc = m_size[size_t(m_c)];
    const bool flatB = isFlat(m_b), flatC = isFlat(m_c);
    std::vector<Triplet> curl, fromCurl, divergence, gradient;
    for (int c = 0; c < m_count[1]; ++c)
        for (int b = 0; b < m_count[0]; ++b) {
            // Curl of E through the face from here.
            if ((flatB || b + 1 < m_count[0]) && (flatC || c + 1 < m_count[1])) {
                const auto p = node(m_source, b, c);
                const double open = double(voxels.face(m_axis, p[0], p[1], p[2]));
                auto put = [&](bool alongB, int bb, int cc, double sign) {
                    if (const int i = edgeAt(alongB, bb, cc); i >= 0 && open > 0)
                        curl.emplace_back(
                            place(b, c), i,
                            sign * m_edges[size_t(i)].open / (open * (alongB ? dc : db)));
                };
                if (!flatC) {
                    put(true, b, c, 1);
                    put(true, b, c + 1, -1);
                }
                if (!flatB) {
                    put(false, b + 1, c, 1);
                    put(false, b, c, -1);
                }
            }
            // Divergence of eps E at the node, over eps along the guide.
            const auto p = node(std::min(m_source, m_cells[size_t(m_axis)] - 1), b, c);
            const auto along = voxels.edge(m_axis, p[0], p[1], p[2]);
            const bool insideB = flatB || ((b > 0 || isMirrored(m_b, false)) &&
                                           (b + 1 < m_count[0] || isMirrored(m_b, true))),
                       insideC = flatC || ((c > 0 || isMirrored(m_c, false)) &&
                                           (c + 1 < m_count[1] || isMirrored(m_c, true)));
            if (!insideB || !insideC || !(along.open > 0))
                continue;
            auto put = [&](bool alongB, int at, int last, double d) {
                for (const int back : {0, 1}) {
                    const int i = alongB ? edgeAt(true, b - back, c) : edgeAt(false, b, c - back);
                    if (i < 0)
                        continue;
                    const double twice = at == 0 || at == last ? 2 : 1;
                    divergence.emplace_back(
                        place(b, c), i,
                        (back ? -1 : 1) * twice * m_edges[size_t(i)].eps / (double(along.eps) * d));
                }
            };
            if (!flatB)
                put(true, b, m_count[0] - 1, db);
            if (!flatC)
                put(false, c, m_count[1] - 1, dc);
        }
    for (size_t i = 0; i < m_edges.size(); ++i) {
        const Edge& e = m_edges[i];
        const auto row = int(i);
        const bool flatAcross = e.isAlongB ? flatC : flatB, flatAlong = e.isAlongB ? flatB : flatC;
        const int at = e.isAlongB ? e.c : e.b, last = m_count[e.isAlongB ? 1 : 0] - 1;
        const double across = e.isAlongB ? dc : db, along = e.isAlongB ? db : dc;
        if (!flatAcross) {
            const double sign = e.isAlongB ? -1 : 1, twice = at == 0 || at == last ? 2 : 1;
            if (at < last)
                fromCurl.emplace_back(row, place(e.b, e.c), sign * twice / across);
            if (at > 0)
                fromCurl.emplace_back(row, e.isAlongB ? place(e.b, e.c - 1) : place(e.b - 1, e.c),
                                      -sign * twice / across);
        }
        if (!flatAlong) {
            gradient.emplace_back(row, place(e.b, e.c), -1 / (e.open * along));
            gradient.emplace_back(row, e.isAlongB ? place(e.b + 1, e.c) : place(e.b, e.c + 1),
                                  1 / (e.open * along));
        }
    }
    auto matrix = [](Eigen::Index rows, Eigen::Index cols, const std::vector<Triplet>& list) {
        Eigen::SparseMatrix<double> m(rows, cols);
        m.setFromTriplets(list.begin(), list.end());
        return m;
    };
    const auto faces = matrix(places, n, curl), back = matrix(n, places, fromCurl);
    m_divergence = matrix(places, n, divergence);
    m_gradient = matrix(n, places, gradient);
    m_operator = back * faces + m_gradient * m_divergence;
}

double GridPort::vacuum(double f) const
{
    return 2 * std::sin(pi * f * m_dt) / (c0 * m_dt);
}

GridPort::Profile GridPort::profile(Eigen::VectorXd e, double beta2, double k) const
{
    Profile out;
    out.beta2 = beta2;
    const double beta = std::sqrt(std::max(beta2, 0.0));
    const Eigen::VectorXd steep = m_gradient * (m_divergence * e);
    out.e.resize(e.size());
    out.h.resize(e.size());
    for (size_t i = 0; i < m_edges.size(); ++i) {
        const Edge& edge = m_edges[i];
        const auto I = Eigen::Index(i);
        const double h = beta > 0 ? (beta * e(I) - steep(I) / beta) / k : 0;
        out.e(I) = e(I) * edge.open * m_length[size_t(edge.isAlongB ? m_b : m_c)];
        out.h(I) = (edge.isAlongB ? h : -h) * m_length[size_t(edge.isAlongB ? m_c : m_b)];
    }
    return out;
}

double GridPort::product(const Profile& e, const Profile& h) const
{
    double sum = 0;
    for (size_t i = 0; i < m_edges.size(); ++i) {
        const auto I = Eigen::Index(i);
        sum += (m_edges[i].isAlongB ? 1 : -1) * m_edges[i].weight * e.e(I) * h.h(I);
    }
    return sum;
}

std::vector<GridPort::Profile> GridPort::solve(double f, int count, Eigen::MatrixXd& space) const
{
    const auto n = Eigen::Index(m_edges.size());
    const double k = vacuum(f), above = 1.0005 * k * k * m_largestEps;
    Eigen::SparseMatrix<double> system = m_operator;
    std::vector<double> diagonal(m_edges.size());
    for (size_t i = 0; i < m_edges.size(); ++i)
        diagonal[i] = k * k * m_edges[i].eps;
    Eigen::SparseMatrix<double> shifted(n, n);
    {
        std::vector<Eigen::Triplet<double>> list;
        for (Eigen::Index i = 0; i < n; ++i)
            list.emplace_back(i, i, diagonal[size_t(i)] - above);
        shifted.setFromTriplets(list.begin(), list.end());
        shifted += system;
    }
    const fem::SparseRows rows = rowsOf(shifted);
    fem::Lu factor(fem::Lu::Order::own);
    try {
        factor.factorise(rows);
    } catch (const base::Error&) {
        throw base::Error(7953, "the modes of port " + m_name + " cannot be found",
                          {m_line, {}, -1});
    }
    auto solved = [&](Eigen::MatrixXd of) {
        std::vector<double> x(static_cast<size_t>(n));
        for (Eigen::Index j = 0; j < of.cols(); ++j) {
            std::copy(of.col(j).begin(), of.col(j).end(), x.begin());
            factor.solve(rows, x);
            std::copy(x.begin(), x.end(), of.col(j).begin());
        }
        return of;
    };
    // Those nearest to what no mode exceeds, by inverse iteration; more than were asked for, so
    // that like ones stay together.
    auto found =
        fem::largestRealPairs(space, n, count + 2, count, solved, [&](const fem::RealPair& pair) {
            const Eigen::VectorXd& x = pair.vector;
            Eigen::VectorXd rest = system * x - (above + 1 / pair.value) * x;
            for (Eigen::Index i = 0; i < n; ++i)
                rest(i) += diagonal[size_t(i)] * x(i);
            return rest.norm() / (above * x.norm());
        });
    std::vector<Profile> list;
    for (auto& [theta, e] : found) {
        const double value = above + 1 / theta;
        // Towards higher places along b and c, so that like ports get like signs.
        double lean = 0;
        for (size_t i = 0; i < m_edges.size(); ++i) {
            const Edge& edge = m_edges[i];
            lean += (edge.isAlongB ? 1.0 : 0.7) * e(Eigen::Index(i)) *
                    std::exp(double(edge.b) / m_count[0] + 0.618 * edge.c / m_count[1]);
        }
        if (lean < 0)
            e = -e;
        Profile p = profile(std::move(e), value, k);
        if (value > 0) {
            const double power = product(p, p);
            p.e /= std::sqrt(std::abs(power));
            p.h *= (power < 0 ? -1 : 1) / std::sqrt(std::abs(power));
        }
        list.push_back(std::move(p));
    }
    return list;
}

void GridPort::findModes(const std::vector<double>& frequencies, int count)
{
    m_frequencies = frequencies;
    m_modes.assign(size_t(count), {});
    const size_t n = frequencies.size(), middle = n / 2;
    for (Mode& m : m_modes)
        m.at.resize(n);
    auto travels = [&](const Profile& p, double f, int mode) {
        if (!(p.beta2 > 0))
            throw base::Error(7954,
                              "mode " + std::to_string(mode + 1) + " of port " + m_name +
                                  " does not travel at " +
                                  base::format(f, base::dim::frequency, 4) +
                                  ": raise the band, or let fewer modes count",
                              {m_line, {}, -1});
    };
    Eigen::MatrixXd start;
    const auto first = solve(frequencies[middle], count, start);
    if (int(first.size()) < count)
        throw base::Error(7955, "the grid is too coarse for that many modes of port " + m_name,
                          {m_line, {}, -1});
    for (int m = 0; m < count; ++m) {
        travels(first[size_t(m)], frequencies[middle], m);
        m_modes[size_t(m)].at[middle] = first[size_t(m)];
    }
    // From one frequency to the next the fields hardly change: each search begins with those
    // before.
    Eigen::MatrixXd last = start;
    auto follow = [&](size_t from, size_t to) {
        const auto next = solve(frequencies[to], count, last);
        const double k = vacuum(frequencies[to]);
        for (int m = 0; m < count; ++m) {
            const Profile& before = m_modes[size_t(m)].at[from];
            size_t best = 0;
            double most = -1;
            std::vector<double> share(next.size());
            for (size_t c = 0; c < next.size(); ++c) {
                share[c] = next[c].beta2 > 0 ? product(before, next[c]) : 0;
                if (std::abs(share[c]) > most) {
                    most = std::abs(share[c]);
                    best = c;
                }
            }
            Profile p = next[best];
            travels(p, frequencies[to], m);
            // Of modes that travel alike, the mixture that was followed so far.
            p.e *= share[best];
            p.h *= share[best];
            for (size_t c = 0; c < next.size(); ++c)
                if (c != best && std::abs(next[c].beta2 - p.beta2) < 1e-6 * k * k) {
                    p.e += share[c] * next[c].e;
                    p.h += share[c] * next[c].h;
                }
            const double power = std::sqrt(product(p, p));
            p.e /= power;
            p.h /= power;
            m_modes[size_t(m)].at[to] = std::move(p);
        }
    };
    for (size_t k = middle; k > 0; --k)
        follow(k, k - 1);
    last = std::move(start);
    for (size_t k = middle; k + 1 < n; ++k)
        follow(k, k + 1);
    for (Mode& m : m_modes) {
        m.power.resize(Eigen::Index(n), Eigen::Index(n));
        for (size_t i = 0; i < n; ++i)
            for (size_t j = 0; j < n; ++j)
                m.power(Eigen::Index(i), Eigen::Index(j)) = product(m.at[i], m.at[j]);
        double across = 0, all = 0;
        for (size_t i = 0; i < m_edges.size(); ++i) {
            const Edge& edge = m_edges[i];
            const int axis = edge.isAlongB ? m_b : m_c;
            const double e = m.at[middle].e(Eigen::Index(i)) / m_length[size_t(axis)],
                         square = edge.weight * e * e;
            all += square;
            across += axis == 2 ? 0 : square;
        }
        m.level = across / all;
    }
}

void GridPort::drive(grid::YeeGrid& g, int mode, double current) const
{
    const Profile& p = m_modes[size_t(mode)].at[m_frequencies.size() / 2];
    for (size_t i = 0; i < m_edges.size(); ++i) {
        const Edge& e = m_edges[i];
        const int axis = e.isAlongB ? m_b : m_c;
        const double along = (e.isAlongB ? 1 : -1) * p.h(Eigen::Index(i)) * m_length[size_t(axis)];
        g.drive(e.source, float(current * along));
    }
}

GridPort::Heard GridPort::begin(double first, double step) const
{
    Heard heard{first, step, {}, {}};
    heard.U.resize(m_modes.size() * m_frequencies.size());
    heard.I.resize(heard.U.size());
    return heard;
}

void GridPort::listen(Heard& heard) const
{
    const size_t n = m_edges.size();
    Eigen::VectorXd e(n), h(n);
    for (size_t i = 0; i < n; ++i) {
        const Edge& edge = m_edges[i];
        const auto I = Eigen::Index(i);
        const double weight = (edge.isAlongB ? 1 : -1) * edge.weight;
        e(I) = weight * double(*edge.e);
        h(I) = weight * 0.5 * (double(*edge.before) + double(*edge.behind));
    }
    size_t slot = 0;
    for (const Mode& m : m_modes)
        for (const Profile& p : m.at) {
            heard.U[slot].push_back(float(e.dot(p.h)));
            heard.I[slot].push_back(float(h.dot(p.e)));
            ++slot;
        }
}

std::vector<double> GridPort::shares(double f) const
{
    std::vector<double> list;
    for (size_t i = 0; i < m_frequencies.size(); ++i) {
        double share = 1;
        for (size_t j = 0; j < m_frequencies.size(); ++j)
            if (j != i)
                share *= (f - m_frequencies[j]) / (m_frequencies[i] - m_frequencies[j]);
        list.push_back(share);
    }
    return list;
}

double GridPort::beta(const Mode& m, double f) const
{
    const auto share = shares(f);
    double square = 0;
    for (size_t i = 0; i < share.size(); ++i)
        square += share[i] * m.at[i].beta2;
    const double d = m_size[size_t(m_axis)];
    return 2 / d * std::asin(std::min(1.0, std::sqrt(std::max(square, 0.0)) * d / 2));
}

GridPort::Wave GridPort::wave(const Heard& heard, int mode, double f, double inside,
                              double samples) const
{
    const Mode& m = m_modes[size_t(mode)];
    const auto share = shares(f);
    const size_t n = share.size(), base = size_t(mode) * n,
                 count = size_t(samples * double(heard.U[base].size()));
    // The mixture of signals first, then one transform of each.
    std::vector<double> u(count, 0.0), i(count, 0.0);
    double power = 0;
    for (size_t k = 0; k < n; ++k) {
        const auto &U = heard.U[base + k], &I = heard.I[base + k];
        for (size_t t = 0; t < count; ++t) {
            u[t] += share[k] * double(U[t]);
            i[t] += share[k] * double(I[t]);
        }
        for (size_t j = 0; j < n; ++j)
            power += share[k] * share[j] * m.power(Eigen::Index(k), Eigen::Index(j));
    }
    const double omega = 2 * pi * f, beta = this->beta(m, f);
    const Complex turn = std::polar(1.0, -omega * heard.step);
    Complex phase = std::polar(1.0, -omega * heard.first), voltage = 0, current = 0;
    // What is left at the end is turned down softly: of waves near a cut-off, which are slow and
    // beyond the band, nothing gets into it then.
    const size_t falls = count / 4;
    for (size_t t = 0; t < count; ++t) {
        const double left = double(count - t) / double(falls + 1),
                     window = left < 1 ? 0.5 - 0.5 * std::cos(pi * left) : 1.0;
        voltage += window * u[t] * phase;
        current += window * i[t] * phase;
        phase *= turn;
    }
    // H is half a step earlier, and the mean of two places.
    current *= std::polar(1.0, omega * m_dt / 2) / std::cos(beta * m_size[size_t(m_axis)] / 2);
    const Complex up = (voltage + current) / (2 * power), down = (voltage - current) / (2 * power);
    const double depth = listenDepth * m_size[size_t(m_axis)] - inside;
    const Complex in = m_isHigh ? down : up, out = m_isHigh ? up : down;
    return {in * std::polar(1.0, beta * depth), out * std::polar(1.0, -beta * depth)};
}

double GridPort::index(int mode, double f) const
{
    return beta(m_modes[size_t(mode)], f) * c0 / (2 * pi * f);
}

double GridPort::waveImpedance(int mode, double f) const
{
    const Mode& m = m_modes[size_t(mode)];
    const auto share = shares(f);
    double ee = 0, hh = 0, eh = 0;
    for (size_t i = 0; i < m_edges.size(); ++i) {
        const Edge& edge = m_edges[i];
        double e = 0, h = 0;
        for (size_t k = 0; k < share.size(); ++k) {
            e += share[k] * m.at[k].e(Eigen::Index(i));
            h += share[k] * m.at[k].h(Eigen::Index(i));
        }
        e /= edge.open * m_length[size_t(edge.isAlongB ? m_b : m_c)];
        h *= (edge.isAlongB ? 1 : -1) / m_length[size_t(edge.isAlongB ? m_c : m_b)];
        ee += edge.weight * e * e;
        hh += edge.weight * h * h;
        eh += edge.weight * e * h;
    }
    constexpr double alike = 0.999;
    if (eh * eh < alike * ee * hh)
        return std::numeric_limits<double>::quiet_NaN();
    return mu0 * c0 * std::sqrt(ee / hh);
}

double GridPort::atBorder(int mode) const
{
    const Profile& p = m_modes[size_t(mode)].at[m_frequencies.size() / 2];
    double border = 0, most = 0;
    for (size_t i = 0; i < m_edges.size(); ++i) {
        const double e = std::abs(p.e(Eigen::Index(i)));
        most = std::max(most, e);
        if (m_edges[i].isBorder)
            border = std::max(border, e);
    }
    return border / most;
}

}  // namespace yh::physics
