#include "fem/lu.h"

#include "fem/side_by_side.h"

#include "base/fault.h"
#include "fem/kernel_threads.h"

#include <umfpack.h>

#include <numeric>

namespace yh::fem {

template <class Value>
void SparseRows::multiply(const std::vector<Value>& x, std::vector<Value>& y) const
{
    y.resize(size_t(size));
#pragma omp parallel for schedule(static)
    for (int r = 0; r < size; ++r) {
        Value sum{};
        for (int k = start[size_t(r)]; k < start[size_t(r) + 1]; ++k)
            sum += value[size_t(k)] * x[size_t(column[size_t(k)])];
        y[size_t(r)] = sum;
    }
}

template void SparseRows::multiply(const std::vector<double>&, std::vector<double>&) const;
template void SparseRows::multiply(const std::vector<Wide>&, std::vector<Wide>&) const;

struct Lu::Data
{
    void *symbolic = nullptr, *numeric = nullptr;
    std::vector<int> pattern;
    double flops = 0;
    double control[UMFPACK_CONTROL], info[UMFPACK_INFO];

    explicit Data(Order order)
    {
        umfpack_di_defaults(control);
        if (order == Order::own)
            return;
        // The order is given, rows and columns alike; pivots leave the diagonal only when they
        // must.
        control[UMFPACK_STRATEGY] = UMFPACK_STRATEGY_SYMMETRIC;
        control[UMFPACK_ORDERING] = UMFPACK_ORDERING_GIVEN;
        control[UMFPACK_FIXQ] = 1;
    }
    ~Data()
    {
        umfpack_di_free_numeric(&numeric);
        umfpack_di_free_symbolic(&symbolic);
    }
    Data(const Data&) = delete;
    Data& operator=(const Data&) = delete;
};

namespace {

void check(int status, int size)
{
    if (status == UMFPACK_WARNING_singular_matrix)
        throw base::Error(5003,
                          "the system is singular: some part of the device has no fixed potential "
                          "or no path for heat to leave");
    if (status == UMFPACK_ERROR_out_of_memory)
        throw base::Error(
            5002, "there is not enough memory to factorise " + std::to_string(size) + " unknowns");
    if (status != UMFPACK_OK)
        throw base::Error(5004, "the factorisation failed with status " + std::to_string(status));
}

}  // namespace

Lu::Lu(Order order) : m_data(std::make_unique<Data>(order)) {}
Lu::~Lu() = default;

void Lu::factorise(const SparseRows& A)
{
    Data& d = *m_data;
    umfpack_di_free_numeric(&d.numeric);
    if (d.pattern != A.column || !d.symbolic) {
        umfpack_di_free_symbolic(&d.symbolic);
        std::vector<int> order(static_cast<size_t>(A.size));
        std::iota(order.begin(), order.end(), 0);
        // Rows here are columns to the library: it factorises the transpose.
        const int* given =
            d.control[UMFPACK_ORDERING] == UMFPACK_ORDERING_GIVEN ? order.data() : nullptr;
        check(umfpack_di_qsymbolic(A.size, A.size, A.start.data(), A.column.data(), A.value.data(),
                                   given, &d.symbolic, d.control, d.info),
              A.size);
        d.pattern = A.column;
        d.flops = d.info[UMFPACK_FLOPS_ESTIMATE];
    }
    const KernelThreads threads(d.flops);
    check(umfpack_di_numeric(A.start.data(), A.column.data(), A.value.data(), d.symbolic,
                             &d.numeric, d.control, d.info),
          A.size);
}

void Lu::solve(const SparseRows& A, std::vector<double>& x) const
{
    const KernelThreads threads(m_data->flops);
    std::vector<double> b = x;
    check(umfpack_di_solve(UMFPACK_At, A.start.data(), A.column.data(), A.value.data(), x.data(),
                           b.data(), m_data->numeric, m_data->control, m_data->info),
          A.size);
}

void Lu::solveTransposed(const SparseRows& A, std::vector<double>& x) const
{
    const KernelThreads threads(m_data->flops);
    std::vector<double> b = x;
    check(umfpack_di_solve(UMFPACK_A, A.start.data(), A.column.data(), A.value.data(), x.data(),
                           b.data(), m_data->numeric, m_data->control, m_data->info),
          A.size);
}

}  // namespace yh::fem
