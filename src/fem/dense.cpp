#include "fem/dense.h"

#include "base/fault.h"

#include <Eigen/Cholesky>
#include <Eigen/LU>

using Complex = std::complex<double>;
using Eigen::MatrixXcd;
using Eigen::MatrixXd;

// LAPACK, as its reference documentation states it; matrices by column.
extern "C" {
void zgeev_(const char* left, const char* right, const int* n, Complex* a, const int* lda,
            Complex* w, Complex* vl, const int* ldvl, Complex* vr, const int* ldvr, Complex* work,
            const int* lwork, double* rwork, int* info);
void dsyev_(const char* job, const char* half, const int* n, double* a, const int* lda, double* w,
            double* work, const int* lwork, int* info);
void dsygv_(const int* type, const char* job, const char* half, const int* n, double* a,
            const int* lda, double* b, const int* ldb, double* w, double* work, const int* lwork,
            int* info);
void zgesvd_(const char* u, const char* vt, const int* m, const int* n, Complex* a, const int* lda,
             double* s, Complex* left, const int* ldu, Complex* right, const int* ldvt,
             Complex* work, const int* lwork, double* rwork, int* info);
}

namespace yh::fem {

struct DenseLu::Factors
{
    Eigen::PartialPivLU<MatrixXcd> lu;
};

DenseLu::DenseLu(const MatrixXcd& A)
    : m_factors(std::make_unique<Factors>(Factors{Eigen::PartialPivLU<MatrixXcd>(A)}))
{
}

DenseLu::~DenseLu() = default;

MatrixXcd DenseLu::solve(const MatrixXcd& B) const
{
    return m_factors->lu.solve(B);
}

MatrixXcd solved(const MatrixXcd& A, const MatrixXcd& B)
{
    return DenseLu(A).solve(B);
}

MatrixXd solvedSymmetric(const MatrixXd& A, const MatrixXd& B)
{
    return A.ldlt().solve(B);
}

RowMajor inverse(const RowMajor& A)
{
    return A.inverse();
}

RowMajorComplex inverse(const RowMajorComplex& A)
{
    return A.inverse();
}

namespace {

void check(int info)
{
    if (info != 0)
        throw base::Error(5040,
                          "a small dense eigenproblem did not converge or its matrix is not "
                          "positive definite; a material may be out of range");
}

/// Calls a routine of LAPACK twice: for the size of its work array, and to do the work.
template <class Scalar, class Call>
void withWork(Call call)
{
    int info = 0, size = -1;
    Scalar best{};
    call(&best, &size, &info);
    check(info);
    size = std::max(1, int(std::real(best)));
    std::vector<Scalar> work(static_cast<size_t>(size));
    call(work.data(), &size, &info);
    check(info);
}

}  // namespace

SymmetricEigen symmetricEigen(const MatrixXd& A)
{
    const int n = int(A.rows());
    SymmetricEigen found{Eigen::VectorXd(n), A};
    if (n > 0)
        withWork<double>([&](double* work, const int* size, int* info) {
            dsyev_("V", "L", &n, found.vector.data(), &n, found.value.data(), work, size, info);
        });
    return found;
}

SymmetricEigen symmetricEigen(const MatrixXd& A, const MatrixXd& B)
{
    const int n = int(A.rows()), type = 1;
    SymmetricEigen found{Eigen::VectorXd(n), A};
    MatrixXd factor = B;
    if (n > 0)
        withWork<double>([&](double* work, const int* size, int* info) {
            dsygv_(&type, "V", "L", &n, found.vector.data(), &n, factor.data(), &n,
                   found.value.data(), work, size, info);
        });
    return found;
}

ComplexEigen complexEigen(const MatrixXcd& A)
{
    const int n = int(A.rows()), none = 1;
    ComplexEigen found{Eigen::VectorXcd(n), MatrixXcd(n, n)};
    MatrixXcd work = A;
    std::vector<double> real(size_t(2 * n));
    if (n > 0)
        withWork<Complex>([&](Complex* more, const int* size, int* info) {
            zgeev_("N", "V", &n, work.data(), &n, found.value.data(), nullptr, &none,
                   found.vector.data(), &n, more, size, real.data(), info);
        });
    return found;
}

Eigen::VectorXcd leastSingularVector(const MatrixXcd& A)
{
    const int m = int(A.rows()), n = int(A.cols()), none = 1;
    YH_ASSERT(m >= n && n > 0, "at least as many rows as columns");
    MatrixXcd work = A, right(n, n);
    std::vector<double> value(static_cast<size_t>(n)), real(size_t(5 * n));
    withWork<Complex>([&](Complex* more, const int* size, int* info) {
        zgesvd_("N", "S", &m, &n, work.data(), &m, value.data(), nullptr, &none, right.data(), &n,
                more, size, real.data(), info);
    });
    // The routine gives the conjugate transpose of the vectors.
    return right.row(n - 1).adjoint();
}

double largestSingularValue(const MatrixXcd& A)
{
    const int m = int(A.rows()), n = int(A.cols()), none = 1;
    if (m == 0 || n == 0)
        return 0;
    MatrixXcd work = A;
    std::vector<double> value(size_t(std::min(m, n))), real(size_t(5 * std::min(m, n)));
    withWork<Complex>([&](Complex* more, const int* size, int* info) {
        zgesvd_("N", "N", &m, &n, work.data(), &m, value.data(), nullptr, &none, nullptr, &none,
                more, size, real.data(), info);
    });
    return value[0];
}

MatrixXcd times(const ComplexView& A, const ComplexView& B)
{
    return A * B;
}

namespace {

/// Of two real matrices, its parts.
MatrixXcd joined(const MatrixXd& real, const MatrixXd& imaginary)
{
    MatrixXcd whole(real.rows(), real.cols());
    whole.real() = real;
    whole.imag() = imaginary;
    return whole;
}

}  // namespace

MatrixXcd times(const ComplexView& A, const RealView& B)
{
    return joined(times(MatrixXd(A.real()), B), times(MatrixXd(A.imag()), B));
}

MatrixXd times(const RealView& A, const RealView& B)
{
    return A * B;
}

MatrixXcd transposedTimes(const ComplexView& A, const ComplexView& B)
{
    return A.transpose() * B;
}

MatrixXcd transposedTimes(const RealView& A, const ComplexView& B)
{
    return joined(transposedTimes(A, MatrixXd(B.real())), transposedTimes(A, MatrixXd(B.imag())));
}

MatrixXd transposedTimes(const RealView& A, const RealView& B)
{
    return A.transpose() * B;
}

void addTransposedTimes(const ComplexView& A, const ComplexView& B, MatrixXcd& sum)
{
    sum.noalias() += A.transpose() * B;
}

double powerOf(const RealView& A, const Eigen::VectorXcd& x)
{
    const Eigen::VectorXd re = x.real(), im = x.imag();
    return re.dot(A * re) + im.dot(A * im);
}

void removeParts(const ComplexView& Q, Eigen::VectorXcd& v)
{
    v -= Q * (Q.adjoint() * v).eval();
}

void removeParts(const RealView& Q, Eigen::VectorXd& v)
{
    v -= Q * (Q.transpose() * v).eval();
}

}  // namespace yh::fem
