#include "fem/cholesky.h"

#include "fem/kernel_threads.h"

#include <cholmod.h>

#include <algorithm>

namespace yh::fem {

struct Cholesky::Data
{
    cholmod_common common{};
    cholmod_factor* factor = nullptr;
    double reciprocal = 0;

    Data()
    {
        cholmod_start(&common);
        common.supernodal = CHOLMOD_SUPERNODAL;
        common.nmethods = 1;
        common.method[0].ordering = CHOLMOD_NATURAL;
        common.postorder = 1;
        common.print = 0;
        common.quick_return_if_not_posdef = 1;
        common.error_handler = nullptr;
    }
    ~Data()
    {
        cholmod_free_factor(&factor, &common);
        cholmod_finish(&common);
    }
    Data(const Data&) = delete;
    Data& operator=(const Data&) = delete;
};

namespace {

cholmod_sparse view(const SparseSymmetric& K)
{
    cholmod_sparse a{};
    a.nrow = a.ncol = size_t(K.size);
    a.nzmax = K.row.size();
    a.p = const_cast<int*>(K.start.data());
    a.i = const_cast<int*>(K.row.data());
    a.x = const_cast<double*>(K.value.data());
    a.stype = -1;
    a.itype = CHOLMOD_INT;
    a.xtype = CHOLMOD_REAL;
    a.dtype = CHOLMOD_DOUBLE;
    a.sorted = 1;
    a.packed = 1;
    return a;
}

}  // namespace

Cholesky::Cholesky() : m_data(std::make_unique<Data>()) {}
Cholesky::~Cholesky() = default;
Cholesky::Cholesky(Cholesky&&) noexcept = default;
Cholesky& Cholesky::operator=(Cholesky&&) noexcept = default;

void Cholesky::analyse(const SparseSymmetric& K)
{
    cholmod_sparse a = view(K);
    cholmod_free_factor(&m_data->factor, &m_data->common);
    m_data->factor = cholmod_analyze(&a, &m_data->common);
    if (!m_data->factor)
        throw base::Error(5002, "there is not enough memory to factorise " +
                                    std::to_string(K.size) + " unknowns");
}

void Cholesky::factorise(const SparseSymmetric& K)
{
    cholmod_sparse a = view(K);
    const KernelThreads threads(m_data->common.fl);
    cholmod_factorize(&a, m_data->factor, &m_data->common);
    if (m_data->common.status == CHOLMOD_OUT_OF_MEMORY ||
        m_data->common.status == CHOLMOD_TOO_LARGE)
        throw base::Error(5002, "there is not enough memory to factorise " +
                                    std::to_string(K.size) + " unknowns");
    if (m_data->common.status == CHOLMOD_NOT_POSDEF || m_data->factor->minor < size_t(K.size))
        throw base::Error(5003,
                          "the system is singular: some part of the device has no fixed potential, "
                          "or a permittivity is not positive");
    m_data->reciprocal = cholmod_rcond(m_data->factor, &m_data->common);
}

void Cholesky::solve(std::vector<double>& columns, int count)
{
    if (count == 0)
        return;
    const KernelThreads threads(m_data->common.fl);
    cholmod_dense b{};
    b.nrow = m_data->factor->n;
    b.ncol = size_t(count);
    b.nzmax = columns.size();
    b.d = b.nrow;
    b.x = columns.data();
    b.xtype = CHOLMOD_REAL;
    b.dtype = CHOLMOD_DOUBLE;
    cholmod_dense* x = cholmod_solve(CHOLMOD_A, m_data->factor, &b, &m_data->common);
    if (!x)
        throw base::Error(5002, "there is not enough memory to solve");
    std::copy_n(static_cast<double*>(x->x), columns.size(), columns.begin());
    cholmod_free_dense(&x, &m_data->common);
}

double Cholesky::factorEntries() const
{
    return m_data->common.lnz;
}
double Cholesky::factorFlops() const
{
    return m_data->common.fl;
}
double Cholesky::reciprocalCondition() const
{
    return m_data->reciprocal;
}

}  // namespace yh::fem
