#include "fem/dense.h"

#include "base/fault.h"

#include <limits>
#include <vector>

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
void zgetrf_(const int* m, const int* n, Complex* a, const int* lda, int* pivot, int* info);
void zgetri_(const int* n, Complex* a, const int* lda, const int* pivot, Complex* work,
             const int* lwork, int* info);
void dgetrf_(const int* m, const int* n, double* a, const int* lda, int* pivot, int* info);
void dgetri_(const int* n, double* a, const int* lda, const int* pivot, double* work,
             const int* lwork, int* info);
void zgetrs_(const char* form, const int* n, const int* columns, const Complex* a, const int* lda,
             const int* pivot, Complex* b, const int* ldb, int* info);
void dsysv_(const char* half, const int* n, const int* columns, double* a, const int* lda,
            int* pivot, double* b, const int* ldb, double* work, const int* lwork, int* info);
// BLAS.
void zgemm_(const char* formA, const char* formB, const int* m, const int* n, const int* k,
            const Complex* alpha, const Complex* a, const int* lda, const Complex* b,
            const int* ldb, const Complex* beta, Complex* c, const int* ldc);
void dgemm_(const char* formA, const char* formB, const int* m, const int* n, const int* k,
            const double* alpha, const double* a, const int* lda, const double* b, const int* ldb,
            const double* beta, double* c, const int* ldc);
void zgemv_(const char* form, const int* m, const int* n, const Complex* alpha, const Complex* a,
            const int* lda, const Complex* x, const int* stepX, const Complex* beta, Complex* y,
            const int* stepY);
void dgemv_(const char* form, const int* m, const int* n, const double* alpha, const double* a,
            const int* lda, const double* x, const int* stepX, const double* beta, double* y,
            const int* stepY);
}

namespace yh::fem {

struct DenseLu::Factors
{
    MatrixXcd a;
    std::vector<int> pivot;
    bool isSingular = false;
};

DenseLu::DenseLu(const MatrixXcd& A) : m_factors(std::make_unique<Factors>())
{
    Factors& f = *m_factors;
    f.a = A;
    const int n = int(A.rows());
    f.pivot.resize(size_t(n));
    int info = 0;
    if (n > 0)
        zgetrf_(&n, &n, f.a.data(), &n, f.pivot.data(), &info);
    f.isSingular = info != 0;
}

DenseLu::~DenseLu() = default;

MatrixXcd DenseLu::solve(const MatrixXcd& B) const
{
    const Factors& f = *m_factors;
    MatrixXcd X = B;
    const int n = int(B.rows()), columns = int(B.cols());
    int info = 0;
    if (f.isSingular)
        X.setConstant(std::numeric_limits<double>::quiet_NaN());
    else if (n > 0 && columns > 0)
        zgetrs_("N", &n, &columns, f.a.data(), &n, f.pivot.data(), X.data(), &n, &info);
    return X;
}

MatrixXcd solved(const MatrixXcd& A, const MatrixXcd& B)
{
    return DenseLu(A).solve(B);
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

MatrixXd solvedSymmetric(const MatrixXd& A, const MatrixXd& B)
{
    const int n = int(A.rows()), columns = int(B.cols());
    MatrixXd factor = A, X = B;
    if (n == 0 || columns == 0)
        return X;
    std::vector<int> pivot(static_cast<size_t>(n));
    int singular = 0;
    withWork<double>([&](double* work, const int* size, int* info) {
        dsysv_("L", &n, &columns, factor.data(), &n, pivot.data(), X.data(), &n, work, size,
               &singular);
        *info = 0;
    });
    if (singular != 0)
        X.setConstant(std::numeric_limits<double>::quiet_NaN());
    return X;
}

namespace {

/// The inverse of a transpose is the transpose of the inverse: rows do as well as columns.
template <class Matrix, class Factorise, class Invert>
Matrix inverseBy(const Matrix& A, Factorise factorise, Invert invert)
{
    using Scalar = typename Matrix::Scalar;
    Matrix X = A;
    const int n = int(A.rows());
    if (n == 0)
        return X;
    std::vector<int> pivot(static_cast<size_t>(n));
    int info = 0;
    factorise(&n, &n, X.data(), &n, pivot.data(), &info);
    if (info != 0) {
        X.setConstant(std::numeric_limits<double>::quiet_NaN());
        return X;
    }
    withWork<Scalar>([&](Scalar* work, const int* size, int* done) {
        invert(&n, X.data(), &n, pivot.data(), work, size, done);
    });
    return X;
}

}  // namespace

RowMajor inverse(const RowMajor& A)
{
    return inverseBy(A, dgetrf_, dgetri_);
}

RowMajorComplex inverse(const RowMajorComplex& A)
{
    return inverseBy(A, zgetrf_, zgetri_);
}

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

namespace {

/// C += A B or A^T B.
template <class View, class Matrix, class Multiply>
void addProduct(Multiply multiply, bool isTransposed, const View& A, const View& B, Matrix& C)
{
    const int m = int(C.rows()), n = int(C.cols()), k = int(B.rows());
    const int strideA = std::max(1, int(A.outerStride())),
              strideB = std::max(1, int(B.outerStride())), strideC = std::max(1, m);
    YH_ASSERT((isTransposed ? A.cols() == m && A.rows() == k : A.rows() == m && A.cols() == k) &&
                  B.cols() == n,
              "matrices fit");
    const typename Matrix::Scalar one = 1;
    if (m > 0 && n > 0 && k > 0)
        multiply(isTransposed ? "T" : "N", "N", &m, &n, &k, &one, A.data(), &strideA, B.data(),
                 &strideB, &one, C.data(), &strideC);
}

/// Of two real matrices, its parts.
MatrixXcd joined(const MatrixXd& real, const MatrixXd& imaginary)
{
    MatrixXcd whole(real.rows(), real.cols());
    whole.real() = real;
    whole.imag() = imaginary;
    return whole;
}

}  // namespace

MatrixXcd times(const ComplexView& A, const ComplexView& B)
{
    MatrixXcd C = MatrixXcd::Zero(A.rows(), B.cols());
    addProduct(zgemm_, false, A, B, C);
    return C;
}

MatrixXcd times(const ComplexView& A, const RealView& B)
{
    return joined(times(MatrixXd(A.real()), B), times(MatrixXd(A.imag()), B));
}

MatrixXd times(const RealView& A, const RealView& B)
{
    MatrixXd C = MatrixXd::Zero(A.rows(), B.cols());
    addProduct(dgemm_, false, A, B, C);
    return C;
}

MatrixXcd transposedTimes(const ComplexView& A, const ComplexView& B)
{
    MatrixXcd C = MatrixXcd::Zero(A.cols(), B.cols());
    addProduct(zgemm_, true, A, B, C);
    return C;
}

MatrixXcd transposedTimes(const RealView& A, const ComplexView& B)
{
    return joined(transposedTimes(A, MatrixXd(B.real())), transposedTimes(A, MatrixXd(B.imag())));
}

MatrixXd transposedTimes(const RealView& A, const RealView& B)
{
    MatrixXd C = MatrixXd::Zero(A.cols(), B.cols());
    addProduct(dgemm_, true, A, B, C);
    return C;
}

void addTransposedTimes(const ComplexView& A, const ComplexView& B, MatrixXcd& sum)
{
    addProduct(zgemm_, true, A, B, sum);
}

double powerOf(const RealView& A, const Eigen::VectorXcd& x)
{
    double sum = 0;
    for (const Eigen::VectorXd& part : {Eigen::VectorXd(x.real()), Eigen::VectorXd(x.imag())})
        sum += part.dot(times(A, part).col(0));
    return sum;
}

namespace {

template <class View, class Vector, class Multiply>
void removePartsBy(Multiply multiply, const char* adjoint, const View& Q, Vector& v)
{
    using Scalar = typename Vector::Scalar;
    const int m = int(Q.rows()), n = int(Q.cols()), stride = std::max(1, int(Q.outerStride())),
              one = 1;
    if (m == 0 || n == 0)
        return;
    Vector along(n);
    const Scalar plus = 1, none = 0, minus = -1;
    multiply(adjoint, &m, &n, &plus, Q.data(), &stride, v.data(), &one, &none, along.data(), &one);
    multiply("N", &m, &n, &minus, Q.data(), &stride, along.data(), &one, &plus, v.data(), &one);
}

}  // namespace

void removeParts(const ComplexView& Q, Eigen::VectorXcd& v)
{
    removePartsBy(zgemv_, "C", Q, v);
}

void removeParts(const RealView& Q, Eigen::VectorXd& v)
{
    removePartsBy(dgemv_, "T", Q, v);
}

}  // namespace yh::fem
