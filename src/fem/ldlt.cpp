#include "fem/ldlt.h"

#include "base/fault.h"

#include <cmumps_c.h>
#include <dmumps_c.h>
#include <smumps_c.h>
#include <zmumps_c.h>

#include <fstream>
#include <limits>
#include <numeric>
#include <span>
#include <string>

namespace yh::fem {

namespace {

/// One of the library's four arithmetics.
template <class S, class N, void (*Call)(S*)>
struct Arithmetic
{
    using Struct = S;
    using Number = N;
    static void call(S& s) { Call(&s); }
};
template <class Scalar>
struct KindFor;
template <>
struct KindFor<double> : Arithmetic<DMUMPS_STRUC_C, double, dmumps_c>
{
};
template <>
struct KindFor<std::complex<double>> : Arithmetic<ZMUMPS_STRUC_C, ZMUMPS_COMPLEX, zmumps_c>
{
};
template <>
struct KindFor<float> : Arithmetic<SMUMPS_STRUC_C, float, smumps_c>
{
};
template <>
struct KindFor<std::complex<float>> : Arithmetic<CMUMPS_STRUC_C, CMUMPS_COMPLEX, cmumps_c>
{
};

/// Memory that programs may still take, bytes; without end where the system does not say.
double availableBytes()
{
    std::ifstream file("/proc/meminfo");
    std::string word;
    for (double kilobytes = 0; file >> word;)
        if (word == "MemAvailable:" && file >> kilobytes)
            return 1024 * kilobytes;
    return std::numeric_limits<double>::infinity();
}

/** The places of entries and the order of unknowns, as the library wants them. */
template <typename Data>
void setPattern(Data& d, int size, std::span<const int> start, std::span<const int> row)
{
    auto& m = d.mumps;
    d.irn.resize(row.size());
    d.jcn.resize(row.size());
    for (int c = 0; c < size; ++c)
        for (int k = start[size_t(c)]; k < start[size_t(c) + 1]; ++k) {
            d.irn[size_t(k)] = row[size_t(k)] + 1;
            d.jcn[size_t(k)] = c + 1;
        }
    d.identity.resize(size_t(size));
    std::iota(d.identity.begin(), d.identity.end(), 1);
    m.n = size;
    m.nnz = MUMPS_INT8(row.size());
    m.irn = d.irn.data();
    m.jcn = d.jcn.data();
    m.perm_in = d.identity.data();
}

}  // namespace

template <class Scalar>
struct Ldlt<Scalar>::Data
{
    using Kind = KindFor<Scalar>;
    typename Kind::Struct mumps{};
    std::vector<int> irn, jcn, identity;
    std::vector<Scalar> value;

    enum Job { begin = -1, end = -2, analyse = 1, factorise = 2, solve = 3 };
    Data()
    {
        mumps.comm_fortran = -987654;  // the library's sign for one process
        mumps.par = 1;
        mumps.sym = 2;
        run(begin);
        for (int k = 0; k < 4; ++k)
            mumps.icntl[k] = k == 3 ? 0 : -1;  // no printing
        mumps.icntl[5] = 0;                    // no permutation to a heavy diagonal
        mumps.icntl[6] = 1;                    // the order of elimination is given
        mumps.icntl[11] = 1;                   // no pairing of unknowns beforehand
        mumps.icntl[13] = 40;                  // per cent of room for delayed pivots
        mumps.icntl[23] = 0;
        // Refined solutions need no search for good pivots, which costs as much as all the rest.
        if constexpr (sizeof(mumps.cntl[0]) == sizeof(float)) {
            mumps.cntl[0] = 0;
            mumps.icntl[13] = 5;
            mumps.icntl[47] = 1;  // small branches of the tree side by side
        }
    }
    ~Data() { run(end); }
    Data(const Data&) = delete;
    Data& operator=(const Data&) = delete;
    void run(Job job)
    {
        mumps.job = job;
        Kind::call(mumps);
    }
    /// @throws Error where the last call failed
    void check() const
    {
        const int code = mumps.infog[0];
        if (code >= 0)
            return;
        constexpr int singular = -10, numericallySingular = -6, noMemory = -13, noSpace = -9;
        if (code == singular || code == numericallySingular)
            throw base::Error(5022, "the system of equations is singular");
        if (code == noMemory || code == noSpace)
            throw base::Error(5023, "not enough memory to factorise a system of " +
                                        std::to_string(mumps.n) + " unknowns: about " +
                                        std::to_string(mumps.infog[15]) +
                                        " MB are needed; ask for less accuracy or use symmetry");
        throw base::Error(5024, "the factorisation failed (" + std::to_string(code) + ")");
    }
};

template <class Scalar>
Ldlt<Scalar>::Ldlt() : m_data(std::make_unique<Data>())
{
}
template <class Scalar>
Ldlt<Scalar>::~Ldlt() = default;

template <class Scalar>
void Ldlt<Scalar>::factorise(int size, std::span<const int> start, std::span<const int> row,
                             std::vector<Scalar> value)
{
    Data& d = *m_data;
    auto& m = d.mumps;
    const bool known = m.n == size && d.value.size() == value.size();
    d.value = std::move(value);
    if (!known) {
        setPattern(d, size, start, row);
        d.run(Data::analyse);
        d.check();
        if (const double wanted = 1e6 * m.infog[15], there = availableBytes(); wanted > there)
            throw base::Error(5023, "factorising a system of " + std::to_string(size) +
                                        " unknowns would take about " +
                                        std::to_string(int(wanted / 1e9) + 1) + " GB, and " +
                                        std::to_string(int(there / 1e9)) +
                                        " GB are free; ask for less accuracy or use symmetry");
    }
    m.a = reinterpret_cast<typename Data::Kind::Number*>(d.value.data());
    d.run(Data::factorise);
    // Delayed pivots may need more room than foreseen.
    for (int more = 0; m.infog[0] == -9 && more < 6; ++more) {
        m.icntl[13] *= 2;
        // Cells far smaller than the wavelength make gradients nearly singular: their small pivots
        // are right as they are, and waiting for better ones fills the memory.
        if (more >= 2)
            m.cntl[0] = static_cast<std::remove_reference_t<decltype(m.cntl[0])>>(1e-6);
        d.run(Data::factorise);
    }
    d.check();
}

template <class Scalar>
void Ldlt<Scalar>::solve(std::vector<Scalar>& columns, int count)
{
    auto& m = m_data->mumps;
    m.nrhs = count;
    m.lrhs = m.n;
    m.rhs = reinterpret_cast<typename Data::Kind::Number*>(columns.data());
    m_data->run(Data::solve);
    m_data->check();
}

template <class Scalar>
int Ldlt<Scalar>::negativePivots() const
{
    return m_data->mumps.infog[11];
}

template <class Scalar>
double Ldlt<Scalar>::bytes() const
{
    constexpr double million = 1e6;
    const double entries = m_data->mumps.infog[8];  // negative: in millions
    return (entries < 0 ? -entries * million : entries) * sizeof(Scalar);
}

template class Ldlt<double>;
template class Ldlt<std::complex<double>>;
template class Ldlt<float>;
template class Ldlt<std::complex<float>>;

namespace {

template <class Scalar>
using Single = std::conditional_t<std::is_same_v<Scalar, double>, float, std::complex<float>>;

template <class Scalar>
double norm2(std::span<const Scalar> v)
{
    double sum = 0;
    for (const Scalar& x : v)
        sum += std::norm(x);
    return std::sqrt(sum);
}

}  // namespace

template <class Scalar>
struct RefinedLdlt<Scalar>::Data
{
    int size = 0;
    std::span<const int> start, row;
    std::vector<Scalar> value;
    std::unique_ptr<Ldlt<Single<Scalar>>> rough = std::make_unique<Ldlt<Single<Scalar>>>();
    std::unique_ptr<Ldlt<Scalar>> full;  ///< once the rough one does not do

    /// y -= A x
    void subtractProduct(std::span<const Scalar> x, std::span<Scalar> y) const
    {
        for (size_t c = 0; c < x.size(); ++c) {
            Scalar own = 0;
            for (auto k = size_t(start[c]); k < size_t(start[c + 1]); ++k) {
                const auto r = size_t(row[k]);
                y[r] -= value[k] * x[c];
                if (r != c)
                    own += value[k] * x[r];
            }
            y[c] -= own;
        }
    }
    /// False where the residual does not fall as it should. @param[in,out] columns  as of solve()
    bool refine(std::vector<Scalar>& columns, int count)
    {
        const auto n = size_t(size);
        std::vector<Scalar> rest = columns, x(columns.size(), Scalar(0));
        std::vector<Single<Scalar>> step(columns.size());
        std::vector<double> whole(static_cast<size_t>(count)), scale = whole;
        auto column = [n](auto& all, int c) { return std::span(all).subspan(size_t(c) * n, n); };
        for (int c = 0; c < count; ++c)
            scale[size_t(c)] = whole[size_t(c)] = norm2(std::span<const Scalar>(column(rest, c)));
        constexpr int most = 40;
        constexpr double closes = 1e-11, slow = 0.5;
        for (int pass = 0; pass < most; ++pass) {
            for (int c = 0; c < count; ++c)
                for (size_t i = 0; i < n; ++i)
                    step[size_t(c) * n + i] =
                        scale[size_t(c)] > 0 ? Single<Scalar>(column(rest, c)[i] / scale[size_t(c)])
                                             : Single<Scalar>(0);
            rough->solve(step, count);
            bool done = true;
            double worst = 0;
#pragma omp parallel for reduction(max : worst) reduction(&& : done)
            for (int c = 0; c < count; ++c) {
                const auto s = column(step, c);
                const auto add = column(x, c), left = column(rest, c);
                std::vector<Scalar> moved(n);
                for (size_t i = 0; i < n; ++i) {
                    moved[i] = scale[size_t(c)] * Scalar(s[i]);
                    add[i] += moved[i];
                }
                subtractProduct(moved, left);
                const double now = norm2(std::span<const Scalar>(left));
                if (scale[size_t(c)] > 0 && now > closes * whole[size_t(c)]) {
                    done = false;
                    worst = std::max(worst, std::isfinite(now) ? now / scale[size_t(c)] : 1e9);
                }
                scale[size_t(c)] = now;
            }
            if (done) {
                columns = std::move(x);
                return true;
            }
            if (worst > slow)
                return false;
        }
        return false;
    }
};

template <class Scalar>
RefinedLdlt<Scalar>::RefinedLdlt() : m_data(std::make_unique<Data>())
{
}
template <class Scalar>
RefinedLdlt<Scalar>::~RefinedLdlt() = default;

template <class Scalar>
void RefinedLdlt<Scalar>::factorise(int size, std::span<const int> start, std::span<const int> row,
                                    std::vector<Scalar> value)
{
    Data& d = *m_data;
    d.size = size;
    d.start = start;
    d.row = row;
    d.value = std::move(value);
    if (d.full) {
        d.full->factorise(size, start, row, d.value);
        return;
    }
    std::vector<Single<Scalar>> rounded(d.value.size());
    for (size_t k = 0; k < rounded.size(); ++k)
        rounded[k] = Single<Scalar>(d.value[k]);
    try {
        d.rough->factorise(size, start, row, std::move(rounded));
    } catch (const base::Error& e) {
        constexpr int noMemory = 5023;
        if (e.fault().number == noMemory)
            throw;
        takeFull();
    }
}

template <class Scalar>
void RefinedLdlt<Scalar>::takeFull()
{
    Data& d = *m_data;
    d.rough.reset();
    d.full = std::make_unique<Ldlt<Scalar>>();
    d.full->factorise(d.size, d.start, d.row, d.value);
}

template <class Scalar>
void RefinedLdlt<Scalar>::solve(std::vector<Scalar>& columns, int count)
{
    Data& d = *m_data;
    if (!d.full && !d.refine(columns, count))
        takeFull();
    if (d.full)
        d.full->solve(columns, count);
}

template class RefinedLdlt<double>;
template class RefinedLdlt<std::complex<double>>;

}  // namespace yh::fem
