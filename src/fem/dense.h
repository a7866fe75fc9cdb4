// Dense factorisations and eigenproblems of small matrices: the one place that instantiates them,
// since each costs the compiler ten seconds and more.
#pragma once

#include <Eigen/Core>

#include <memory>

namespace yh::fem {

/// LU with a search for pivots in each column, kept for several right-hand sides.
class DenseLu
{
public:
    /// @param A  square
    explicit DenseLu(const Eigen::MatrixXcd& A);
    ~DenseLu();
    DenseLu(const DenseLu&) = delete;
    DenseLu& operator=(const DenseLu&) = delete;
    /// X of A X = B; not finite where A is singular.
    [[nodiscard]] Eigen::MatrixXcd solve(const Eigen::MatrixXcd& B) const;

private:
    struct Factors;
    std::unique_ptr<Factors> m_factors;
};

/// X of A X = B for a square A; not finite where A is singular, as the next ones.
[[nodiscard]] Eigen::MatrixXcd solved(const Eigen::MatrixXcd& A, const Eigen::MatrixXcd& B);
/// The same for a symmetric A, definite or not.
[[nodiscard]] Eigen::MatrixXd solvedSymmetric(const Eigen::MatrixXd& A, const Eigen::MatrixXd& B);

using RowMajor = Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;
using RowMajorComplex =
    Eigen::Matrix<std::complex<double>, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;
[[nodiscard]] RowMajor inverse(const RowMajor& A);
[[nodiscard]] RowMajorComplex inverse(const RowMajorComplex& A);

struct SymmetricEigen
{
    Eigen::VectorXd value;   ///< rising
    Eigen::MatrixXd vector;  ///< by column
};
/// A x = value x for a symmetric A; vectors of length 1.
[[nodiscard]] SymmetricEigen symmetricEigen(const Eigen::MatrixXd& A);
/// A x = value B x for symmetric A and positive definite B; x^T B x = 1.
[[nodiscard]] SymmetricEigen symmetricEigen(const Eigen::MatrixXd& A, const Eigen::MatrixXd& B);

struct ComplexEigen
{
    Eigen::VectorXcd value;   ///< in no order
    Eigen::MatrixXcd vector;  ///< by column, of length 1
};
[[nodiscard]] ComplexEigen complexEigen(const Eigen::MatrixXcd& A);

/// The right singular vector of the least singular value, of length 1.
/// @param A  at least as many rows as columns
[[nodiscard]] Eigen::VectorXcd leastSingularVector(const Eigen::MatrixXcd& A);

/// The largest singular value.
[[nodiscard]] double largestSingularValue(const Eigen::MatrixXcd& A);

// Products, of matrices whose kernels a file would else instantiate for itself.
using ComplexView = Eigen::Ref<const Eigen::MatrixXcd>;
using RealView = Eigen::Ref<const Eigen::MatrixXd>;
/// A B.
[[nodiscard]] Eigen::MatrixXcd times(const ComplexView& A, const ComplexView& B);
[[nodiscard]] Eigen::MatrixXcd times(const ComplexView& A, const RealView& B);
[[nodiscard]] Eigen::MatrixXd times(const RealView& A, const RealView& B);
/// A^T B, nothing conjugated.
[[nodiscard]] Eigen::MatrixXcd transposedTimes(const ComplexView& A, const ComplexView& B);
[[nodiscard]] Eigen::MatrixXcd transposedTimes(const RealView& A, const ComplexView& B);
[[nodiscard]] Eigen::MatrixXd transposedTimes(const RealView& A, const RealView& B);
/// A^T B added to sum.
void addTransposedTimes(const ComplexView& A, const ComplexView& B, Eigen::MatrixXcd& sum);
/// The real part of x^H A x for a real A: that of a power.
[[nodiscard]] double powerOf(const RealView& A, const Eigen::VectorXcd& x);
/// v less its parts along the columns of an orthonormal Q.
void removeParts(const ComplexView& Q, Eigen::VectorXcd& v);
void removeParts(const RealView& Q, Eigen::VectorXd& v);

}  // namespace yh::fem
