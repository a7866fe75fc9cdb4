#include "fem/ldlt.h"

#include "base/fault.h"

#include <dmumps_c.h>
#include <zmumps_c.h>

#include <fstream>
#include <limits>
#include <numeric>
#include <string>

namespace yh::fem {

namespace {

struct RealKind
{
    using Struct = DMUMPS_STRUC_C;
    using Number = double;
    static void call(Struct& s) { dmumps_c(&s); }
};
struct ComplexKind
{
    using Struct = ZMUMPS_STRUC_C;
    using Number = ZMUMPS_COMPLEX;
    static void call(Struct& s) { zmumps_c(&s); }
};
template <class Scalar>
using KindOf = std::conditional_t<std::is_same_v<Scalar, double>, RealKind, ComplexKind>;

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

}  // namespace

template <class Scalar>
struct Ldlt<Scalar>::Data
{
    using Kind = KindOf<Scalar>;
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
void Ldlt<Scalar>::factorise(int size, const std::vector<int>& start, const std::vector<int>& row,
                             const std::vector<Scalar>& value)
{
    Data& d = *m_data;
    auto& m = d.mumps;
    const bool known = m.n == size && d.value.size() == value.size();
    d.value = value;
    if (!known) {
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
            m.cntl[0] = 1e-6;
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

}  // namespace yh::fem
