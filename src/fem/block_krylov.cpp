#include "fem/block_krylov.h"

#include "fem/dense.h"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <numeric>
#include <utility>

namespace yh::fem {

namespace {

using Eigen::Index;
using Eigen::MatrixXd;

/// Columns made orthonormal, to those of `others` as well, one after the other: products of whole
/// matrices would be shared out to threads, and their rounding with it.
MatrixXd orthonormal(MatrixXd v, const Eigen::Ref<const MatrixXd>& others)
{
    for (Index j = 0; j < v.cols(); ++j) {
        auto x = v.col(j);
        x.normalize();
        // Twice is enough.
        for (int time = 0; time < 2; ++time) {
            for (Index i = 0; i < others.cols(); ++i)
                x -= others.col(i).dot(x) * others.col(i);
            for (Index i = 0; i < j; ++i)
                x -= v.col(i).dot(x) * v.col(i);
        }
        x.normalize();
    }
    return v;
}

/// Columns to begin a search with: the same each time.
MatrixXd anyColumns(Index size, Index count)
{
    MatrixXd v(size, count);
    std::uint32_t seed = 4711;
    for (Index j = 0; j < count; ++j)
        for (Index i = 0; i < size; ++i) {
            seed = seed * 1664525U + 1013904223U;
            v(i, j) = double(seed >> 8) / double(1 << 24) - 0.5;
        }
    return v;
}

/// A space and what the operator makes of it, side by side.
struct Space
{
    MatrixXd v, w;
    Eigen::MatrixXcd small;  ///< v^T w
    Index filled = 0;

    Space(Index size, Index most)
        : v(size, most), w(size, most), small(Eigen::MatrixXcd::Zero(most, most))
    {
    }
    void add(const MatrixXd& columns, const MatrixXd& image)
    {
        const Index before = std::exchange(filled, filled + columns.cols());
        v.middleCols(before, columns.cols()) = columns;
        w.middleCols(before, columns.cols()) = image;
        for (Index i = 0; i < filled; ++i)
            for (Index j = i < before ? before : 0; j < filled; ++j)
                small(i, j) = v.col(i).dot(w.col(j));
    }
    [[nodiscard]] std::vector<RealPair> largest(Index count) const
    {
        const ComplexEigen eigen = complexEigen(small.topLeftCorner(filled, filled));
        std::vector<Index> order(static_cast<size_t>(filled));
        std::iota(order.begin(), order.end(), Index(0));
        std::stable_sort(order.begin(), order.end(), [&](Index x, Index y) {
            return std::abs(eigen.value(x)) > std::abs(eigen.value(y));
        });
        std::vector<RealPair> list;
        for (Index j = 0; j < std::min(count, filled); ++j) {
            const Index k = order[size_t(j)];
            Eigen::VectorXd x = Eigen::VectorXd::Zero(v.rows());
            for (Index i = 0; i < filled; ++i)
                x += eigen.vector(i, k).real() * v.col(i);
            list.push_back({eigen.value(k).real(), std::move(x)});
        }
        return list;
    }
};

}  // namespace

std::vector<RealPair> largestRealPairs(MatrixXd& space, Index size, int width, int sure,
                                       const std::function<MatrixXd(const MatrixXd&)>& apply,
                                       const std::function<double(const RealPair&)>& rest)
{
    constexpr int steps = 200;
    constexpr double near = 1e-9;
    const Index block = std::min<Index>(size, width),
                most = std::min<Index>(size, std::max<Index>(40, 8 * block));
    if (space.cols() != block)
        space = anyColumns(size, block);
    Space all(size, most);
    MatrixXd next = orthonormal(apply(space), all.v.leftCols(0));
    std::vector<RealPair> found;
    for (int step = 0; step < steps; ++step) {
        const MatrixXd image = apply(next);
        all.add(next, image);
        found = all.largest(block);
        double worst = 0;
        for (size_t j = 0; j < found.size(); ++j) {
            space.col(Index(j)) = found[j].vector;
            if (int(j) < sure)
                worst = std::max(worst, rest(found[j]));
        }
        if (worst < near || all.filled == size)
            break;
        if (all.filled + block > most) {
            next = orthonormal(apply(space), all.v.leftCols(0));
            all.filled = 0;
        } else {
            next = orthonormal(image, all.v.leftCols(all.filled));
        }
    }
    return found;
}

}  // namespace yh::fem
