#include "fem/band_response.h"

#include "base/fault.h"
#include "fem/ldlt.h"

#include <algorithm>
#include <cmath>

namespace yh::fem {

using Complex = std::complex<double>;

namespace {

/// Frequencies of the band at which the residual is looked at, as lambda.
std::vector<double> places(const BandResponse::Band& band)
{
    constexpr int count = 16;
    const double a = std::sqrt(std::max(0.0, band.low)), b = std::sqrt(band.high);
    std::vector<double> list;
    for (int i = 0; i < count; ++i) {
        const double w = a + (b - a) * i / (count - 1);
        list.push_back(w * w);
    }
    return list;
}

/** Appends the third matrix times `v`. */
void addProduct(const FreePart& part, const Eigen::VectorXcd& v, std::vector<Complex>& next)
{
    const auto n = size_t(v.size());
    std::vector<double> x(n), y;
    const size_t from = next.size();
    next.resize(from + n);
    for (const bool imaginary : {false, true}) {
        for (size_t i = 0; i < n; ++i)
            x[i] = imaginary ? v(Eigen::Index(i)).imag() : v(Eigen::Index(i)).real();
        part.times(2, x, y);
        for (size_t i = 0; i < n; ++i)
            next[from + i] += imaginary ? Complex(0, y[i]) : Complex(y[i]);
    }
}

}  // namespace

BandResponse::BandResponse(const SymmetricFamily& family, int free,
                           const std::vector<std::vector<double>>& loads, const Band& band,
                           base::Progress& progress)
    : m_size(family.size), m_free(free), m_basis(free, 0)
{
    for (auto& product : m_product)
        product.resize(free, 0);
    gather(family, loads);
    if (m_free == 0 || inputs() == 0)
        return;
    const std::vector<double> tests = places(band);
    // A place that is no likely resonance of a round number.
    const double a = std::sqrt(std::max(0.0, band.low)), b = std::sqrt(band.high),
                 middle = a + 0.613 * (b - a);
    double next = middle * middle;
    m_about = middle * middle;
    constexpr int mostShifts = 24;
    std::vector<double> taken;
    for (int i = 0; i < mostShifts; ++i) {
        progress.check();
        const Eigen::Index before = m_count;
        extend(next, progress);
        taken.push_back(next);
        project();
        m_residual = 0;
        const std::vector<double> all = residuals(tests);
        for (size_t k = 0; k < tests.size(); ++k) {
            // Beside a place that was taken already rounding is all that is left.
            const bool known = std::any_of(taken.begin(), taken.end(), [&](double s) {
                return std::abs(s - tests[k]) <= 1e-9 * std::abs(s);
            });
            if (!known && !(all[k] <= m_residual)) {
                m_residual = all[k];
                next = tests[k];
            }
        }
        if (m_residual < band.tolerance || m_count == before)
            break;
    }
}

void BandResponse::gather(const SymmetricFamily& f, const std::vector<std::vector<double>>& loads)
{
    YH_ASSERT(f.value.size() == 3, "stiffness, its imaginary part, and mass");
    m_part = FreePart(f, m_free);
    const int given = m_size - m_free;
    m_toGiven = Eigen::MatrixXcd::Zero(m_free, given);
    m_among = Eigen::MatrixXcd::Zero(given, given);
    for (int c = 0; c < m_size; ++c)
        for (auto k = size_t(f.start[size_t(c)]); k < size_t(f.start[size_t(c) + 1]); ++k) {
            const int r = f.row[k];
            const Complex K(f.value[0][k], f.value[1][k]);
            m_isLossy = m_isLossy || K.imag() != 0;
            if (r < m_free)
                continue;
            if (c < m_free)
                m_toGiven(c, r - m_free) = m_part.scale[size_t(c)] * K;
            else
                m_among(r - m_free, c - m_free) = m_among(c - m_free, r - m_free) = K;
        }
    m_loads = Eigen::MatrixXd::Zero(m_free, int(loads.size()));
    for (size_t l = 0; l < loads.size(); ++l)
        for (int i = 0; i < m_free; ++i)
            m_loads(i, int(l)) = m_part.scale[size_t(i)] * loads[l][size_t(i)];
}

void BandResponse::extend(double lambda, base::Progress& progress)
{
    constexpr int depth = 10;
    const Eigen::Index n = m_free;
    const auto& value = m_part.value;
    std::vector<Complex> A(m_part.row.size());
    for (size_t k = 0; k < A.size(); ++k)
        A[k] = {value[0][k] - lambda * value[2][k], value[1][k]};
    Ldlt<Complex> factors;
    factors.factorise(m_free, m_part.start, m_part.row, std::move(A));
    std::vector<Complex> columns;
    int count = 0;
    auto add = [&columns, &count](const auto& column) {
        for (const auto& x : column)
            columns.emplace_back(x);
        ++count;
    };
    for (int p = 0; p < given(); ++p)
        if (m_toGiven.col(p).squaredNorm() > 0)
            add(m_toGiven.col(p));
    for (int l = 0; l < m_loads.cols(); ++l)
        add(m_loads.col(l));
    Eigen::MatrixXcd local(n, depth * count);
    Eigen::Index known = 0;
    for (int step = 0; step < depth && count > 0; ++step) {
        progress.check();
        factors.solve(columns, count);
        std::vector<Complex> next;
        int kept = 0;
        for (int c = 0; c < count; ++c) {
            Eigen::VectorXcd v = Eigen::Map<const Eigen::VectorXcd>(columns.data() + c * n, n);
            const double whole = v.norm();
            for (int pass = 0; pass < 2; ++pass)
                removeParts(local.leftCols(known), v);
            const double left = v.norm();
            constexpr double nothing = 1e-10;
            if (!(left > nothing * whole) || !std::isfinite(left))
                continue;
            v /= left;
            take(v.real());
            if (m_isLossy)
                take(v.imag());
            addProduct(m_part, v, next);
            ++kept;
            local.col(known++) = v;
        }
        columns = std::move(next);
        count = kept;
    }
}

void BandResponse::take(Eigen::VectorXd v)
{
    constexpr double nothing = 1e-9;
    if (!(v.norm() > nothing))
        return;
    for (int pass = 0; pass < 2; ++pass)
        removeParts(basis(), v);
    const double left = v.norm();
    if (!(left > nothing))
        return;
    v /= left;
    if (m_count == m_basis.cols()) {
        const Eigen::Index room = std::max<Eigen::Index>(32, 2 * m_count);
        m_basis.conservativeResize(m_free, room);
        for (auto& product : m_product)
            product.conservativeResize(m_free, room);
    }
    std::vector<double> y;
    const std::vector<double> x(v.begin(), v.end());
    for (size_t t = 0; t < 3; ++t) {
        m_part.times(t, x, y);
        m_product[t].col(m_count) = Eigen::Map<const Eigen::VectorXd>(y.data(), m_free);
    }
    m_basis.col(m_count++) = v;
}

void BandResponse::project()
{
    const Eigen::Index N = m_count, before = m_K.rows(), more = N - before;
    m_K.conservativeResize(N, N);
    m_M.conservativeResize(N, N);
    Eigen::MatrixXd part[3];
    for (int t = 0; t < 3; ++t)
        part[t] = transposedTimes(basis(), m_product[t].middleCols(before, more));
    m_K.rightCols(more).real() = part[0];
    m_K.rightCols(more).imag() = part[1];
    m_M.rightCols(more) = part[2];
    m_K.bottomRows(more) = m_K.rightCols(more).transpose().eval();
    m_M.bottomRows(more) = m_M.rightCols(more).transpose().eval();
    m_P = transposedTimes(basis(), m_toGiven);
    m_L = transposedTimes(basis(), m_loads);
}

Eigen::MatrixXcd BandResponse::solveReduced(double lambda) const
{
    Eigen::MatrixXcd B(m_K.rows(), inputs());
    B.leftCols(given()) = -m_P;
    B.rightCols(m_loads.cols()) = m_L.cast<Complex>();
    return solved(m_K - lambda * m_M.cast<Complex>(), B);
}

std::vector<double> BandResponse::residuals(const std::vector<double>& lambda) const
{
    const Eigen::Index places = Eigen::Index(lambda.size()), N = m_count;
    std::vector<Eigen::MatrixXcd> solution;
    for (const double l : lambda)
        solution.push_back(solveReduced(l));
    std::vector<double> worst(lambda.size(), 0.0);
    const auto K = m_product[0].leftCols(N), D = m_product[1].leftCols(N),
               M = m_product[2].leftCols(N);
    Eigen::MatrixXd re(N, places), im(N, places), weighted(N, places);
    for (Eigen::Index c = 0; c < inputs(); ++c) {
        const Eigen::VectorXcd b = c < given() ? Eigen::VectorXcd(-m_toGiven.col(c))
                                               : Eigen::VectorXcd(m_loads.col(c - given()));
        const double size = b.norm();
        if (size == 0)
            continue;
        for (Eigen::Index k = 0; k < places; ++k) {
            re.col(k) = solution[size_t(k)].col(c).real();
            im.col(k) = solution[size_t(k)].col(c).imag();
        }
        const Eigen::Map<const Eigen::RowVectorXd> by(lambda.data(), places);
        weighted = re.array().rowwise() * by.array();
        Eigen::MatrixXd real = times(K, re) - times(M, weighted);
        real.colwise() -= b.real();
        weighted = im.array().rowwise() * by.array();
        Eigen::MatrixXd imaginary = times(K, im) - times(M, weighted);
        imaginary.colwise() -= b.imag();
        if (m_isLossy) {
            real -= times(D, im);
            imaginary += times(D, re);
        }
        for (Eigen::Index k = 0; k < places; ++k)
            worst[size_t(k)] = std::max(
                worst[size_t(k)],
                std::sqrt(real.col(k).squaredNorm() + imaginary.col(k).squaredNorm()) / size);
    }
    return worst;
}

namespace {

/// Eigenvalues lambda and vectors of K x = lambda M x for a singular M: those of
/// (K - about M)^-1 M, theta = 1 / (lambda - about).
struct Spectrum
{
    Eigen::VectorXcd theta;
    Eigen::MatrixXcd X;
};
Spectrum spectrumOf(const Eigen::MatrixXcd& K, const Eigen::MatrixXcd& M, double about)
{
    const ComplexEigen e = complexEigen(solved(K - about * M, M));
    return {e.value, e.vector};
}

}  // namespace

void BandResponse::diagonalise() const
{
    const Eigen::MatrixXcd M = m_M.cast<Complex>();
    const Spectrum s = spectrumOf(m_K, M, m_about);
    // Symmetric matrices have vectors with X^T M X diagonal; those of massless parts are left out,
    // as they belong to no frequency.
    const double largest = s.theta.cwiseAbs().maxCoeff();
    constexpr double massless = 1e-12;
    for (Eigen::Index k = 0; k < s.theta.size(); ++k) {
        if (!(std::abs(s.theta(k)) > massless * largest))
            continue;
        const Eigen::VectorXcd x = s.X.col(k);
        const Complex mass = transposedTimes(x, times(M, x))(0);
        if (!(std::abs(mass) > 0))
            continue;
        // Modes answer x x^T b / (mass (at - lambda)).
        Eigen::RowVectorXcd in(inputs());
        in.leftCols(given()) = -transposedTimes(x, m_P);
        in.rightCols(m_loads.cols()) = transposedTimes(m_L, x).transpose();
        const Eigen::VectorXcd out = transposedTimes(m_P, x);
        m_poles.push_back({m_about + 1.0 / s.theta(k), out * in / mass});
    }
    std::sort(m_poles.begin(), m_poles.end(),
              [](const Pole& a, const Pole& b) { return a.at.real() < b.at.real(); });
}

std::vector<Complex> BandResponse::polesWithFree(int which) const
{
    const Eigen::Index N = m_K.rows();
    Eigen::MatrixXcd K(N + 1, N + 1), M = Eigen::MatrixXcd::Zero(N + 1, N + 1);
    // A balanced size for the value that is let free.
    const double s = 1 / std::sqrt(std::abs(m_among(which, which)));
    K.topLeftCorner(N, N) = m_K;
    K.block(0, N, N, 1) = s * m_P.col(which);
    K.block(N, 0, 1, N) = s * m_P.col(which).transpose();
    K(N, N) = s * s * m_among(which, which);
    M.topLeftCorner(N, N) = m_M.cast<Complex>();
    const Spectrum e = spectrumOf(K, M, m_about);
    const double largest = e.theta.cwiseAbs().maxCoeff();
    std::vector<Complex> list;
    for (Eigen::Index k = 0; k < e.theta.size(); ++k)
        if (std::abs(e.theta(k)) > 1e-12 * largest)
            list.push_back(m_about + 1.0 / e.theta(k));
    std::sort(list.begin(), list.end(),
              [](const Complex& a, const Complex& b) { return a.real() < b.real(); });
    return list;
}

Eigen::MatrixXcd BandResponse::flows(double lambda) const
{
    Eigen::MatrixXcd F = Eigen::MatrixXcd::Zero(given(), inputs());
    F.leftCols(given()) = m_among;
    if (m_K.rows() > 0)
        F += transposedTimes(m_P, solveReduced(lambda));
    return F;
}

std::vector<Complex> BandResponse::at(double lambda, const Eigen::VectorXcd& input) const
{
    std::vector<Complex> x(static_cast<size_t>(m_size));
    for (int p = 0; p < given(); ++p)
        x[size_t(m_free + p)] = input(p);
    if (m_K.rows() == 0)
        return x;
    const Eigen::VectorXcd y = times(solveReduced(lambda), input);
    const Eigen::VectorXd re = times(basis(), Eigen::VectorXd(y.real())),
                          im = times(basis(), Eigen::VectorXd(y.imag()));
    for (int i = 0; i < m_free; ++i)
        x[size_t(i)] = m_part.scale[size_t(i)] * Complex(re(i), im(i));
    return x;
}

}  // namespace yh::fem
