#include "physics/wave/common/guide_modes.h"

#include "base/clock.h"
#include "fem/arnoldi.h"
#include "fem/ldlt.h"
#include "fem/quadrature.h"
#include "physics/common/constants.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yh::physics {

namespace {

using Complex = std::complex<double>;
using ComplexVector = std::vector<Complex>;

/// m with rows and columns turned by a quarter: u . turned v = (z x u) . m (z x v).
fem::Tensor turned(const fem::Tensor& m)
{
    fem::Tensor r = m;
    r.xx = m.yy;
    r.yy = m.xx;
    r.xy = -m.xy;
    return r;
}

fem::Tensor valueAt(const fem::Coefficient& k, const Point& p)
{
    return k.at ? k.at(p) : k.constant;
}

/// A tensor in a guide that is bent: s or 1/s across, the inverse along.
fem::Coefficient bent(const fem::Coefficient& k, double radius, bool inverse)
{
    if (radius <= 0)
        return k;
    fem::Coefficient b;
    b.at = [k, radius, inverse](Point p) {
        const double r = 1 + p.x / radius, s = inverse ? 1 / r : r;
        fem::Tensor t = valueAt(k, p);
        t.xx *= s;
        t.xy *= s;
        t.yy *= s;
        t.zz /= s;
        return t;
    };
    return b;
}

/// Lower triangle by columns of a complex symmetric matrix.
struct Sparse
{
    const std::vector<int>*start, *row;
    ComplexVector value;

    void multiply(const ComplexVector& x, ComplexVector& y) const
    {
        fem::multiplySymmetric<Complex>(*start, *row, value, x, y);
    }
};

Complex product(const ComplexVector& a, const ComplexVector& b, bool conjugated)
{
    Complex sum;
    for (size_t i = 0; i < a.size(); ++i)
        sum += (conjugated ? std::conj(a[i]) : a[i]) * b[i];
    return sum;
}

}  // namespace

/// The matrices of an order: A x = -beta^2 B x.
class GuideModesSolver::System
{
public:
    System(const GuideModesSolver& s, int order) : m_s(s), m_order(order)
    {
        const mesh::Mesh& mesh = s.m_mesh;
        const int edges = s.m_space.count(order), all = edges + s.m_scalar.count(order);
        std::vector<char> isFree(size_t(all), 1);
        for (const int side : electricSides()) {
            for (const int i : s.m_space.onSide(side, order))
                isFree[size_t(i)] = 0;
            for (const int i : s.m_scalar.onSide(side, order))
                isFree[size_t(edges + i)] = 0;
        }
        std::vector<int> ranks = s.m_space.functionRanks(order, s.m_ranks);
        const auto more = fem::functionRanks(s.m_scalar, order, s.m_ranks);
        ranks.insert(ranks.end(), more.begin(), more.end());
        numbering = fem::byRank(ranks, isFree);
        // The functions of this order, on each cell the first of either kind.
        const int nEdge = s.m_space.localCount(order), nScalar = s.m_scalar.localCount(order),
                  topEdge = s.m_space.localCount(s.order()), local = nEdge + nScalar;
        fem::CellFunctions functions{&mesh, local, local, {}};
        functions.number.resize(size_t(mesh.cellCount()) * size_t(local));
        int number[fem::mostEdgeLocal];
        double sign[fem::mostLocal];
        for (int t = 0; t < mesh.cellCount(); ++t) {
            int* to = &functions.number[size_t(t) * size_t(local)];
            s.m_space.local(t, order, to);
            s.m_scalar.local(t, number, sign);
            for (int i = 0; i < nScalar; ++i)
                to[nEdge + i] = edges + number[i];
        }
        auto part = [&](const fem::ElementMatrices& whole) {
            fem::ElementMatrices p;
            p.local = local;
            p.stride = size_t(local * (local + 1) / 2);
            p.entries.resize(p.stride * size_t(mesh.cellCount()));
            for (int t = 0; t < mesh.cellCount(); ++t) {
                const double* from = whole.of(t);
                double* to = &p.entries[size_t(t) * p.stride];
                for (int i = 0; i < local; ++i)
                    for (int j = i; j < local; ++j)
                        *to++ = from[whole.at(i < nEdge ? i : topEdge + i - nEdge,
                                              j < nEdge ? j : topEdge + j - nEdge)];
            }
            return p;
        };
        std::vector<double> loss;
        for (size_t f = 0; f < s.m_problem.eps.size(); ++f)
            loss.push_back(s.lossOf(f));
        const bool isLossy = std::any_of(loss.begin(), loss.end(), [](double x) { return x != 0; });
        std::vector<fem::ElementMatrices> kept;
        kept.reserve(8);
        std::vector<fem::Term> terms;
        auto add = [&](const fem::ElementMatrices& whole, std::vector<double> byPiece) {
            kept.push_back(part(whole));
            terms.push_back({&kept.back(), std::move(byPiece)});
        };
        for (int im = 0; im < (s.m_isStretched ? 2 : 1); ++im) {
            add(s.m_elements[im].curl, {});
            add(s.m_elements[im].across, {});
            add(s.m_elements[im].along, {});
            add(s.m_elements[im].grad, {});
        }
        const size_t lossy = terms.size();
        if (isLossy) {
            terms.push_back({&kept[1], loss});
            terms.push_back({&kept[2], loss});
        }
        const size_t steep = terms.size();
        const bool isSteep = !s.m_problem.steepness.empty();
        if (isSteep) {
            terms.push_back({&kept[1], s.m_problem.steepness});
            terms.push_back({&kept[2], s.m_problem.steepness});
        }
        m_family = fem::assemble(functions, terms, numbering);
        const double k2 = s.m_k * s.m_k;
        // Factors of curl, across, along and grad.
        auto sumOf = [&](std::array<Complex, 4> factor) {
            ComplexVector v(m_family.row.size());
            for (size_t m = 0; m < (s.m_isStretched ? 8U : 4U); ++m) {
                const Complex f = factor[m % 4] * (m < 4 ? Complex(1) : Complex(0, 1));
                if (f != 0.0)
                    for (size_t i = 0; i < v.size(); ++i)
                        v[i] += f * m_family.value[m][i];
            }
            for (size_t m = 0; m < 2 && isLossy; ++m)
                if (const Complex f = factor[1 + m] * Complex(0, -1); f != 0.0)
                    for (size_t i = 0; i < v.size(); ++i)
                        v[i] += f * m_family.value[lossy + m][i];
            return Sparse{&m_family.start, &m_family.row, std::move(v)};
        };
        A = sumOf({1, -k2, 0, 0});
        B = sumOf({0, 0, -k2, 1});
        across = sumOf({0, 1, 0, 0});
        along = sumOf({0, 0, 1, 0});
        risingAcross = across;
        risingAlong = along;
        for (size_t i = 0; i < across.value.size() && isSteep; ++i) {
            risingAcross.value[i] += m_family.value[steep][i];
            risingAlong.value[i] += m_family.value[steep + 1][i];
        }
        grad = sumOf({0, 0, 0, 1});
        addWalls(edges);
    }

    [[nodiscard]] int size() const { return m_family.size; }

    fem::Numbering numbering;
    Sparse A, B;
    Sparse across, along;  ///< eps e . w and eps phi psi
    /// The same with d (k^2 eps) / d k^2 in place of eps, by which the group index goes.
    Sparse risingAcross, risingAlong;
    Sparse grad;  ///< (e + grad phi) . (w + grad psi) / mu

private:
    [[nodiscard]] int kindOf(int side) const
    {
        const int tag = m_s.m_mesh.sideTag[size_t(side)];
        return tag < 0 ? int(WaveProblem::open) : m_s.m_problem.sides[size_t(tag)];
    }
    [[nodiscard]] std::vector<int> electricSides() const
    {
        std::vector<int> list;
        for (const int side : wallSides(m_s.m_problem, m_s.m_mesh))
            if (kindOf(side) < 0)
                list.push_back(side);
        return list;
    }
    void addWalls(int edges)
    {
        std::vector<int> walls;
        for (int side = 0; side < m_s.m_mesh.sideCount(); ++side)
            if (kindOf(side) >= 0)
                walls.push_back(side);
        if (walls.empty())
            return;
        const double omega = m_s.m_k * c0;
        auto factor = [&](int side) {
            const double R = m_s.m_problem.walls[size_t(kindOf(side))].resistance(omega / (2 * pi));
            return Complex(0, omega * mu0) / Complex(R, R);
        };
        auto put = [&](Sparse& to, const std::vector<int>& number, const std::vector<double>& value,
                       Complex y) {
            const size_t n = number.size();
            for (size_t i = 0; i < n; ++i)
                for (size_t j = 0; j < n; ++j) {
                    const int a = numbering.place[size_t(number[i])],
                              b = numbering.place[size_t(number[j])];
                    if (a >= b && b >= 0)
                        to.value[m_family.slot(a, b)] += y * value[i * n + j];
                }
        };
        // Bends stretch what lies along the guide, and so the wall, as they do the medium.
        const double radius = m_s.m_problem.bend;
        for (const auto& m : fem::sideMass(m_s.m_space, m_order, walls, fem::Measure::plane)) {
            const auto ends = m_s.m_mesh.sideCorners(m.side);
            const double x = 0.5 * (m_s.m_mesh.vertices[size_t(ends[0])].x +
                                    m_s.m_mesh.vertices[size_t(ends[1])].x),
                         s = radius > 0 ? 1 + x / radius : 1.0;
            put(A, m.number, m.value, s * factor(m.side));
        }
        for (const int side : walls) {
            const auto list = m_s.m_scalar.onSide(side, m_order);
            const size_t n = list.size();
            std::vector<double> value(n * n, 0.0);
            std::vector<int> number;
            for (const int i : list)
                number.push_back(edges + i);
            const int cell = m_s.m_mesh.sideCells[size_t(side)][0];
            int there[fem::mostLocal];
            double sign[fem::mostLocal];
            m_s.m_scalar.local(cell, there, sign);
            const mesh::Geometry g(m_s.m_mesh, cell);
            const int k = m_s.m_mesh.localSide(cell, side);
            for (const fem::CellPoint& q : fem::cellRule(1, 2 * m_order + 3)) {
                const Point xi = g.onSide(k, q.xi);
                fem::Basis basis;
                fem::basis(2, m_order, xi, basis);
                std::vector<double> f(n, 0.0);
                for (int i = 0; i < m_s.m_scalar.localCount(m_order); ++i)
                    for (size_t a = 0; a < n; ++a)
                        if (list[a] == there[i])
                            f[a] = sign[i] * basis.value[i];
                const double s = radius > 0 ? 1 + g.at(xi).x / radius : 1.0,
                             w = q.w * norm(g.outward(k, xi)) / s;
                for (size_t a = 0; a < n; ++a)
                    for (size_t b = 0; b < n; ++b)
                        value[a * n + b] += w * f[a] * f[b];
            }
            put(B, number, value, factor(side));
        }
    }

    const GuideModesSolver& m_s;
    int m_order;
    fem::SymmetricFamily m_family;
};

void GuideModesSolver::nameQuantities()
{
    for (int k = 1; k <= m_problem.guideModes; ++k) {
        const std::string mode = m_problem.guideModes == 1 ? "" : " " + std::to_string(k);
        for (const auto& [name, label, unit] :
             {std::array{"E", "electric", "V/m"}, {"H", "magnetic", "A/m"}}) {
            const std::string text = label + std::string(" field of mode") + mode;
            m_quantities.push_back({name + mode, text, unit, 3});
            m_quantities.push_back({name + mode + " ahead", text + ", a quarter ahead", unit, 3});
        }
        m_quantities.push_back({"power" + mode, "power along the guide, mode" + mode, "W/m^2", 1});
    }
}

GuideModesSolver::GuideModesSolver(const WaveProblem& problem, const mesh::Mesh& mesh,
                                   const shape::Partition& partition, int order, base::Progress&)
    : m_problem(problem),
      m_mesh(mesh),
      m_partition(partition),
      m_space(mesh, order),
      m_scalar(mesh, order),
      m_locator(mesh),
      m_k(2 * pi * problem.guideFrequency / c0)
{
    const double start = base::seconds();
    for (int im = 0; im < 2; ++im) {
        for (size_t f = 0; f < problem.eps.size(); ++f) {
            fem::Coefficient eps = problem.eps[f], inverseMu = problem.inverseMu[f];
            if (im == 1) {
                eps.constant = inverseMu.constant = fem::Tensor::isotropic(0);
                eps.at = inverseMu.at = nullptr;
                if (problem.shell.present && int(f) == problem.shell.piece) {
                    m_isStretched = true;
                    eps.at = [a = problem.shell](Point p) { return a.stretched(p).eps[1]; };
                    inverseMu.at = [a = problem.shell](Point p) {
                        return a.stretched(p).inverseMu[1];
                    };
                }
            }
            m_eps[im].push_back(bent(eps, problem.bend, false));
            m_inverseMu[im].push_back(bent(inverseMu, problem.bend, true));
        }
        if (im == 0 || m_isStretched)
            m_elements[im] = elementsOf(im == 1);
    }
    m_counters.assembleSeconds = base::seconds() - start;
    nameQuantities();
}

double GuideModesSolver::images() const
{
    return std::pow(2.0, double(m_problem.mirrors.size())) * m_problem.wedges;
}

double GuideModesSolver::lossOf(size_t piece) const
{
    return m_problem.loss[piece] +
           m_problem.sigma[piece] / (m_k * c0 * eps0 * m_problem.eps[piece].constant.xx);
}

GuideModesSolver::Elements GuideModesSolver::elementsOf(bool imaginary) const
{
    const int p = order(), nEdge = m_space.localCount(p), nScalar = m_scalar.localCount(p),
              local = nEdge + nScalar;
    Elements out;
    for (fem::ElementMatrices* m : {&out.curl, &out.across, &out.along, &out.grad}) {
        m->local = local;
        m->stride = size_t(local * (local + 1) / 2);
        m->entries.assign(m->stride * size_t(m_mesh.cellCount()), 0.0);
    }
    const auto& rule = fem::cellRule(2, 2 * p + 3);
    const auto &eps = m_eps[imaginary], &inverseMu = m_inverseMu[imaginary];
#pragma omp parallel for schedule(dynamic, 64)
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const auto piece = size_t(m_mesh.piece[size_t(t)]);
        if (imaginary && !eps[piece].at)
            continue;
        const fem::SortedCell sorted(m_mesh, t);
        const mesh::Geometry g(m_mesh, t);
        int number[fem::mostLocal];
        double sign[fem::mostLocal];
        m_scalar.local(t, number, sign);
        fem::EdgeBasis edge;
        fem::Basis scalar;
        std::vector<Point> value(static_cast<size_t>(local)), slope(value);
        std::vector<double> curl(size_t(local), 0.0), phi(curl);
        for (const auto& q : rule) {
            const Point xi = sorted.sorted(q.xi), place = g.at(q.xi);
            fem::edgeBasis(2, {}, p, xi, edge);
            fem::basis(2, p, q.xi, scalar);
            Point row[3];
            const double det = sorted.geometry.inverse(xi, row);
            for (int i = 0; i < nEdge; ++i) {
                value[size_t(i)] = edge.value[i].x * row[0] + edge.value[i].y * row[1];
                curl[size_t(i)] = edge.curl[i].z / det;
            }
            const double w = q.w * g.inverse(q.xi, row);
            for (int i = 0; i < nScalar; ++i) {
                phi[size_t(nEdge + i)] = sign[i] * scalar.value[i];
                slope[size_t(nEdge + i)] =
                    sign[i] * (scalar.d[0][i] * row[0] + scalar.d[1][i] * row[1]);
            }
            const fem::Tensor e = valueAt(eps[piece], place), m = valueAt(inverseMu[piece], place),
                              r = turned(m);
            size_t at = size_t(t) * out.curl.stride;
            for (int i = 0; i < local; ++i) {
                const auto a = size_t(i);
                const Point both = value[a] + slope[a];
                const Point flux =
                    w * Point{r.xx * both.x + r.xy * both.y, r.xy * both.x + r.yy * both.y};
                const Point shift = w * Point{e.xx * value[a].x + e.xy * value[a].y,
                                              e.xy * value[a].x + e.yy * value[a].y};
                for (int j = i; j < local; ++j, ++at) {
                    const auto b = size_t(j);
                    out.curl.entries[at] += w * m.zz * curl[a] * curl[b];
                    out.across.entries[at] += shift.x * value[b].x + shift.y * value[b].y;
                    out.along.entries[at] += w * e.zz * phi[a] * phi[b];
                    out.grad.entries[at] +=
                        flux.x * (value[b].x + slope[b].x) + flux.y * (value[b].y + slope[b].y);
                }
            }
        }
    }
    return out;
}

std::vector<GuideModesSolver::Mode> GuideModesSolver::modesOf(int order, base::Progress& progress)
{
    double start = base::seconds();
    const System system(*this, order);
    m_counters.assembleSeconds += base::seconds() - start;
    m_counters.unknowns = system.size();
    // Nothing travels slower than in the densest medium: all wanted modes lie on one side.
    double densest = 0;
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const auto piece = size_t(m_mesh.piece[size_t(t)]);
        if (m_problem.shell.present && int(piece) == m_problem.shell.piece)
            continue;
        const mesh::Geometry g(m_mesh, t);
        for (const Point& p : g.node) {
            const fem::Tensor e = valueAt(m_eps[0][piece], p),
                              m = valueAt(m_inverseMu[0][piece], p);
            densest = std::max(densest, std::max(e.xx, e.yy) / std::min(m.xx, m.yy));
        }
    }
    constexpr double beyond = 1.02;
    const double sigma = beyond * densest * m_k * m_k;
    start = base::seconds();
    fem::Ldlt<Complex> factor;
    {
        ComplexVector shifted = system.A.value;
        for (size_t i = 0; i < shifted.size(); ++i)
            shifted[i] += sigma * system.B.value[i];
        factor.factorise(system.size(), *system.A.start, *system.A.row, shifted);
    }
    m_counters.factorSeconds += base::seconds() - start;
    start = base::seconds();
    // The shell has modes of its own, which may come before those of the guide.
    const int spare = m_problem.shell.present ? 6 : 2;
    const auto size = size_t(system.size());
    const int edges = m_space.count(order);
    ComplexVector work(size);
    std::vector<ComplexVector> guess;
    for (const Mode& known : m_solved.empty() ? std::vector<Mode>() : m_solved.back().modes) {
        guess.emplace_back(size);
        for (size_t i = 0; i < size; ++i) {
            const int f = system.numbering.function[i];
            const auto at = size_t(f < edges ? f : f - edges);
            const auto* list = f < edges ? known.e : known.phi;
            if (at < list[0].size())
                guess.back()[i] = {list[0][at], list[1][at]};
        }
    }
    // No symmetry of the guide may hide a mode from all starts.
    for (size_t k = 0; k < 2 || guess.size() < 2; ++k) {
        guess.emplace_back(size);
        for (size_t i = 0; i < size; ++i)
            guess.back()[i] = 1 + 0.5 * std::sin((1.7 + 0.4 * double(k)) * double(i) * double(i) +
                                                 0.3 * double(i));
    }
    const auto vectors = fem::largestEigenvectors(
        guess, std::min(m_problem.guideModes + spare, std::max(1, system.size() / 3)),
        m_problem.guideModes,
        [&](ComplexVector& x) {
            system.B.multiply(x, work);
            factor.solve(work, 1);
            x = work;
            ++m_counters.iterations;
        },
        progress);
    std::vector<Mode> modes;
    for (const ComplexVector& x : vectors) {
        Mode mode;
        system.A.multiply(x, work);
        const Complex a = product(x, work, false);
        system.B.multiply(x, work);
        const Complex b = product(x, work, false);
        mode.beta2 = -a / b;
        if (!(mode.beta2.real() > 1e-6 * sigma) && order == this->order())
            continue;
        // One watt, with e along the real axis.
        const Complex beta = std::sqrt(mode.beta2);
        system.across.multiply(x, work);
        const Complex square = product(x, work, false);
        // d(beta^2)/d(k^2) from the derivative of the eigenvalue problem.
        system.risingAcross.multiply(x, work);
        Complex rise = product(x, work, false);
        system.risingAlong.multiply(x, work);
        rise += mode.beta2 * product(x, work, false);
        mode.groupIndex = (m_k / beta * rise / b).real();
        system.grad.multiply(x, work);
        Complex power;
        for (size_t i = 0; i < x.size(); ++i)
            if (system.numbering.function[i] < edges)
                power += x[i] * std::conj(work[i]);
        const double watts =
            0.5 * images() * std::abs((std::conj(beta) * power).real()) / (m_k * c0 * mu0);
        Complex scale = std::abs(square) > 0 ? std::sqrt(std::conj(square) / std::abs(square)) : 1;
        // What hardly travels, and solutions without any field along, carry next to nothing.
        constexpr double least = 1e-9;
        scale /= std::sqrt(std::max(watts, least * images() * std::abs(square) / (c0 * mu0)));
        for (int im = 0; im < 2; ++im) {
            mode.e[im].assign(size_t(edges), 0.0);
            mode.phi[im].assign(size_t(m_scalar.count(order)), 0.0);
        }
        for (size_t i = 0; i < x.size(); ++i) {
            const Complex c = scale * x[i];
            const int f = system.numbering.function[i];
            for (int im = 0; im < 2; ++im)
                (f < edges ? mode.e[im][size_t(f)] : mode.phi[im][size_t(f - edges)]) =
                    im ? c.imag() : c.real();
        }
        if (!isOfShell(mode, order))
            modes.push_back(std::move(mode));
    }
    std::sort(modes.begin(), modes.end(),
              [](const Mode& a, const Mode& b) { return a.beta2.real() > b.beta2.real(); });
    m_counters.solveSeconds += base::seconds() - start;
    return modes;
}

bool GuideModesSolver::isOfShell(const Mode& mode, int order) const
{
    if (!m_problem.shell.present)
        return false;
    double inside = 0, all = 0;
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        const mesh::Geometry g(m_mesh, t);
        const fem::EdgePoint point(m_space, order, t, g.centre());
        double square = 0;
        for (const auto& e : mode.e) {
            const Point v = point.of(e).value;
            square += g.determinant(g.centre()) * dot(v, v);
        }
        all += square;
        inside += m_mesh.piece[size_t(t)] == m_problem.shell.piece ? square : 0.0;
    }
    constexpr double most = 0.3;
    return inside > most * all;
}

void GuideModesSolver::solve(int lowestOrder, base::Progress& progress)
{
    m_solved.clear();
    double start = base::seconds();
    m_ranks = fem::cornerRanks(m_mesh);
    m_counters.orderSeconds = base::seconds() - start;
    for (int p = lowestOrder; p <= order(); ++p) {
        progress.check();
        m_solved.push_back({p, modesOf(p, progress)});
    }
    const int found = modeCount();
    if (found < m_problem.guideModes)
        throw base::Error(5026,
                          found == 0
                              ? "no mode travels at this frequency: the guide is below its cut-off"
                              : "only " + std::to_string(found) + " of the " +
                                    std::to_string(m_problem.guideModes) +
                                    " modes travel at this frequency",
                          {m_problem.guideLine, found == 0 ? "at" : "count", 0});
    follow();
}

double GuideModesSolver::likeness(const Mode& a, const Mode& b) const
{
    double sum = 0;
    for (int t = 0; t < m_mesh.cellCount(); ++t) {
        int number[fem::mostEdgeLocal];
        const int n = m_space.localCount(order());
        m_space.local(t, order(), number);
        const double* m = m_elements[0].across.of(t);
        for (int i = 0; i < n; ++i)
            for (int j = 0; j < n; ++j) {
                const auto x = size_t(number[i]), y = size_t(number[j]);
                if (x < a.e[0].size() && y < b.e[0].size())
                    sum += a.e[0][x] * b.e[0][y] *
                           m[m_elements[0].across.at(std::min(i, j), std::max(i, j))];
            }
    }
    return sum;
}

/// Brings the modes of lower orders into the order of those of the highest by their likeness.
void GuideModesSolver::follow()
{
    const Solved& best = m_solved.back();
    auto like = [&](const Mode& a, const Mode& b) { return likeness(a, b); };
    for (Solved& s : m_solved) {
        if (&s == &best || s.modes.empty())
            continue;
        Solved sorted{s.order, {}};
        std::vector<char> used(s.modes.size(), 0);
        for (const Mode& mode : best.modes) {
            double most = -1, sign = 1;
            size_t which = std::min(sorted.modes.size(), s.modes.size() - 1);
            for (size_t j = 0; j < s.modes.size(); ++j) {
                const double x =
                    used[j] ? 0 : like(s.modes[j], mode) / std::sqrt(like(s.modes[j], s.modes[j]));
                if (!used[j] && std::abs(x) > most) {
                    most = std::abs(x);
                    sign = x < 0 ? -1 : 1;
                    which = j;
                }
            }
            used[which] = 1;
            sorted.modes.push_back(s.modes[which]);
            for (int im = 0; im < 2 && sign < 0; ++im)
                for (auto* list : {&sorted.modes.back().e[im], &sorted.modes.back().phi[im]})
                    for (double& v : *list)
                        v = -v;
        }
        s = std::move(sorted);
    }
}

const GuideModesSolver::Solved& GuideModesSolver::at(int order) const
{
    for (const Solved& s : m_solved)
        if (s.order == order)
            return s;
    YH_ASSERT(false, "order was solved");
    return m_solved.back();
}

std::complex<double> GuideModesSolver::beta(int order, int mode) const
{
    return std::sqrt(at(order).modes[size_t(mode)].beta2);
}

std::complex<double> GuideModesSolver::effectiveIndex(int order, int mode) const
{
    return beta(order, mode) / m_k;
}

GuideModesSolver::FieldAt GuideModesSolver::fieldAt(const Mode& mode, int order, int cell,
                                                    const Point& xi) const
{
    FieldAt out;
    const auto piece = size_t(m_mesh.piece[size_t(cell)]);
    const Point p = mesh::Geometry(m_mesh, cell).at(xi);
    const fem::EdgePoint point(m_space, order, cell, xi);
    Complex e[2], g[2], curl, phi;
    for (int im = 0; im < 2; ++im) {
        const Complex unit = im ? Complex(0, 1) : Complex(1);
        const auto v = point.of(mode.e[im]);
        const Point slope = m_scalar.gradient(mode.phi[im], order, cell, xi);
        e[0] += unit * v.value.x;
        e[1] += unit * v.value.y;
        g[0] += unit * (v.value.x + slope.x);
        g[1] += unit * (v.value.y + slope.y);
        curl += unit * v.curl.z;
        phi += unit * m_scalar.value(mode.phi[im], order, cell, xi);
    }
    auto part = [&](double fem::Tensor::*entry) {
        Complex m = valueAt(m_inverseMu[0][piece], p).*entry;
        if (m_isStretched && m_inverseMu[1][piece].at)
            m += Complex(0, valueAt(m_inverseMu[1][piece], p).*entry);
        return m;
    };
    const Complex beta = std::sqrt(mode.beta2);
    out.E[0] = e[0];
    out.E[1] = e[1];
    out.E[2] = Complex(0, 1) * beta * phi;
    // H = j curl E / (omega mu), with curl E = z curl e - z x (grad E_z + j beta e).
    const double omega = m_k * c0;
    const Complex along = beta / (omega * mu0), xx = part(&fem::Tensor::xx),
                  xy = part(&fem::Tensor::xy), yy = part(&fem::Tensor::yy);
    out.H[0] = along * (xx * -g[1] + xy * g[0]);
    out.H[1] = along * (xy * -g[1] + yy * g[0]);
    out.H[2] = Complex(0, 1) / (omega * mu0) * part(&fem::Tensor::zz) * curl;
    return out;
}

void GuideModesSolver::sample(int cell, const Point& xi, double* values) const
{
    for (int k = 0; k < m_problem.guideModes; ++k) {
        const FieldAt f = fieldAt(m_solved.back().modes[size_t(k)], order(), cell, xi);
        for (const auto* v : {f.E, f.H}) {
            for (int c = 0; c < 3; ++c)
                *values++ = v[c].real();
            for (int c = 0; c < 3; ++c)
                *values++ = -v[c].imag();
        }
        *values++ = f.power();
    }
}

std::vector<Axis> GuideModesSolver::axes() const
{
    std::vector<std::string> labels;
    for (int k = 0; k < m_problem.guideModes; ++k)
        labels.push_back("n = " + base::formatNumber(effectiveIndex(order(), k).real(), 6));
    return {modeAxis(quantities(), "E", labels)};
}

}  // namespace yh::physics
