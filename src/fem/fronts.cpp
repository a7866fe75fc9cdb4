#include "fem/fronts.h"

#include "base/fault.h"

#include <Eigen/LU>

#include <algorithm>
#include <cmath>

namespace yh::fem {

namespace {

using Matrix = Eigen::MatrixXd;

struct Front
{
    int first = 0, last = 0;    ///< its own unknowns
    std::vector<int> touched;   ///< later unknowns, rising
    std::vector<int> children;  ///< fronts whose rest goes into this one
    std::vector<int> inParent;  ///< where what is touched stands in the front that takes the rest
    struct Entry
    {
        int at = 0, row = 0, column = 0;  ///< of the matrix; in the front
    };
    std::vector<Entry> entries;  ///< of which the earlier unknown is its own
    Eigen::PartialPivLU<Matrix> own;
    Matrix above, below;  ///< own^-1 times the columns of later unknowns; their rows
    Matrix rest;          ///< of later unknowns, until it is taken over
    [[nodiscard]] int size() const { return last - first; }
    /// Where an unknown stands in the front.
    [[nodiscard]] int place(int unknown) const
    {
        if (unknown < last)
            return unknown - first;
        return size() +
               int(std::lower_bound(touched.begin(), touched.end(), unknown) - touched.begin());
    }
};

}  // namespace

struct Fronts::Data
{
    std::vector<Front> fronts;
    std::vector<std::vector<int>> levels;  ///< fronts by height
    std::vector<double> scale, scaled;     ///< by row; values
    std::vector<int> place;  ///< of each unknown in the order of fronts; empty: its own
    std::vector<int> entry;  ///< of A, by entry in that order
    SparseRows inOrder;
};

namespace {

/// Parents in the tree of elimination; -1: none. Source: Liu, SIAM J. Matrix Anal. Appl. 11 (1990)
/// 134 (from memory).
std::vector<int> eliminationTree(const SparseRows& A)
{
    // What sees a column earlier, by column.
    std::vector<std::vector<int>> earlier(size_t(A.size));
    for (int r = 0; r < A.size; ++r)
        for (int k = A.start[size_t(r)]; k < A.start[size_t(r) + 1]; ++k)
            if (A.column[size_t(k)] > r)
                earlier[size_t(A.column[size_t(k)])].push_back(r);
    std::vector<int> parent(size_t(A.size), -1), ancestor(size_t(A.size), -1);
    for (int j = 0; j < A.size; ++j)
        for (int i : earlier[size_t(j)])
            while (i != -1 && i != j) {
                const int next = ancestor[size_t(i)];
                ancestor[size_t(i)] = j;
                if (next == -1)
                    parent[size_t(i)] = j;
                i = next;
            }
    return parent;
}

/// Places at which children come right before their parents, those of one branch together.
std::vector<int> postorder(const std::vector<int>& parent)
{
    const int n = int(parent.size());
    std::vector<std::vector<int>> children(static_cast<size_t>(n));
    std::vector<int> roots, place(static_cast<size_t>(n));
    for (int k = 0; k < n; ++k)
        (parent[size_t(k)] < 0 ? roots : children[size_t(parent[size_t(k)])]).push_back(k);
    int next = 0;
    std::vector<std::pair<int, size_t>> stack;
    for (const int root : roots) {
        stack.emplace_back(root, 0);
        while (!stack.empty()) {
            auto& [at, done] = stack.back();
            if (done < children[size_t(at)].size()) {
                const int child = children[size_t(at)][done++];
                stack.emplace_back(child, 0);
            } else {
                place[size_t(at)] = next++;
                stack.pop_back();
            }
        }
    }
    return place;
}

}  // namespace

Fronts::Fronts(const SparseRows& A, std::vector<int> starts) : m_data(std::make_unique<Data>())
{
    setUp(A, std::move(starts));
}

Fronts::Fronts(const SparseRows& A) : m_data(std::make_unique<Data>())
{
    const std::vector<int> parent = eliminationTree(A);
    Data& d = *m_data;
    d.place = postorder(parent);
    std::vector<int> at(d.place.size());
    for (size_t k = 0; k < at.size(); ++k)
        at[size_t(d.place[k])] = int(k);
    SparseRows moved;
    moved.size = A.size;
    moved.start = {0};
    std::vector<std::pair<int, int>> row;
    for (int r = 0; r < A.size; ++r) {
        row.clear();
        const auto from = size_t(at[size_t(r)]);
        for (int k = A.start[from]; k < A.start[from + 1]; ++k)
            row.emplace_back(d.place[size_t(A.column[size_t(k)])], k);
        std::sort(row.begin(), row.end());
        for (const auto& [column, k] : row) {
            moved.column.push_back(column);
            d.entry.push_back(k);
        }
        moved.start.push_back(int(moved.column.size()));
    }
    // How many later unknowns each touches once those before are eliminated.
    std::vector<std::vector<int>> touched(size_t(A.size));
    std::vector<int> up(size_t(A.size), -1), count(size_t(A.size), 0), seen(size_t(A.size), -1);
    for (size_t k = 0; k < parent.size(); ++k)
        if (parent[k] >= 0)
            up[size_t(d.place[k])] = d.place[size_t(parent[k])];
    std::vector<std::vector<int>> children(size_t(A.size));
    for (int j = 0; j < A.size; ++j) {
        auto& own = touched[size_t(j)];
        auto touch = [&](int k) {
            if (k > j && seen[size_t(k)] != j) {
                seen[size_t(k)] = j;
                own.push_back(k);
            }
        };
        for (int k = moved.start[size_t(j)]; k < moved.start[size_t(j) + 1]; ++k)
            touch(moved.column[size_t(k)]);
        for (const int c : children[size_t(j)]) {
            for (const int k : touched[size_t(c)])
                touch(k);
            touched[size_t(c)] = {};
        }
        count[size_t(j)] = int(own.size());
        if (up[size_t(j)] >= 0)
            children[size_t(up[size_t(j)])].push_back(j);
    }
    // Zeros are taken along where that makes blocks larger.
    std::vector<int> starts;
    int zeros = 0;
    for (int j = 0; j < A.size; ++j) {
        constexpr double share = 0.25;
        constexpr int few = 8;
        const bool goesOn = j > 0 && up[size_t(j) - 1] == j;
        if (goesOn)
            zeros += (count[size_t(j)] + 1 - count[size_t(j) - 1]) * (j - starts.back());
        if (!goesOn || zeros > share * (count[size_t(j)] + few) * (j + 1 - starts.back())) {
            starts.push_back(j);
            zeros = 0;
        }
    }
    moved.value.assign(moved.column.size(), 0.0);
    d.inOrder = std::move(moved);
    setUp(d.inOrder, std::move(starts));
}

void Fronts::setUp(const SparseRows& A, std::vector<int> starts)
{
    auto& fronts = m_data->fronts;
    fronts.resize(starts.size());
    starts.push_back(A.size);
    std::vector<int> frontOf(static_cast<size_t>(A.size));
    for (size_t f = 0; f < fronts.size(); ++f) {
        fronts[f].first = starts[f];
        fronts[f].last = starts[f + 1];
        for (int k = starts[f]; k < starts[f + 1]; ++k)
            frontOf[size_t(k)] = int(f);
    }
    std::vector<int> height(fronts.size(), 0), seen(size_t(A.size), -1);
    for (size_t f = 0; f < fronts.size(); ++f) {
        Front& front = fronts[f];
        auto touch = [&](int k) {
            if (k >= front.last && seen[size_t(k)] != int(f)) {
                seen[size_t(k)] = int(f);
                front.touched.push_back(k);
            }
        };
        for (int k = A.start[size_t(front.first)]; k < A.start[size_t(front.last)]; ++k)
            touch(A.column[size_t(k)]);
        for (const int c : front.children)
            for (const int k : fronts[size_t(c)].touched)
                touch(k);
        std::sort(front.touched.begin(), front.touched.end());
        if (m_data->levels.size() <= size_t(height[f]))
            m_data->levels.resize(size_t(height[f]) + 1);
        m_data->levels[size_t(height[f])].push_back(int(f));
        if (front.touched.empty())
            continue;
        const auto parent = size_t(frontOf[size_t(front.touched.front())]);
        fronts[parent].children.push_back(int(f));
        height[parent] = std::max(height[parent], height[f] + 1);
    }
    for (Front& f : fronts) {
        auto take = [&](int row, bool isOwn) {
            for (int k = A.start[size_t(row)]; k < A.start[size_t(row) + 1]; ++k)
                if (const int c = A.column[size_t(k)]; c >= f.first && (isOwn || c < f.last))
                    f.entries.push_back({k, f.place(row), f.place(c)});
        };
        for (int row = f.first; row < f.last; ++row)
            take(row, true);
        for (const int row : f.touched)
            take(row, false);
        for (const int c : f.children)
            for (const int k : fronts[size_t(c)].touched)
                fronts[size_t(c)].inParent.push_back(f.place(k));
    }
    m_data->scale.resize(size_t(A.size));
    m_data->scaled.resize(A.column.size());
}

Fronts::~Fronts() = default;

void Fronts::factorise(const SparseRows& A)
{
    Data& d = *m_data;
    if (!d.place.empty()) {
        SparseRows& to = d.inOrder;
        for (size_t k = 0; k < d.entry.size(); ++k)
            to.value[k] = A.value[size_t(d.entry[k])];
        factoriseInOrder(to);
        return;
    }
    factoriseInOrder(A);
}

void Fronts::factoriseInOrder(const SparseRows& A)
{
    Data& d = *m_data;
    bool isSingular = false;
    for (int r = 0; r < A.size; ++r) {
        double largest = 0;
        for (int k = A.start[size_t(r)]; k < A.start[size_t(r) + 1]; ++k)
            largest = std::max(largest, std::abs(A.value[size_t(k)]));
        isSingular = isSingular || !(largest > 0) || !std::isfinite(largest);
        d.scale[size_t(r)] = 1 / largest;
        for (int k = A.start[size_t(r)]; k < A.start[size_t(r) + 1]; ++k)
            d.scaled[size_t(k)] = A.value[size_t(k)] / largest;
    }
    auto make = [&](Front& f) {
        const int own = f.size(), later = int(f.touched.size()), all = own + later;
        Matrix F = Matrix::Zero(all, all);
        for (const auto& e : f.entries)
            F(e.row, e.column) = d.scaled[size_t(e.at)];
        for (const int c : f.children) {
            Front& child = d.fronts[size_t(c)];
            const auto& to = child.inParent;
            for (size_t j = 0; j < to.size(); ++j)
                for (size_t i = 0; i < to.size(); ++i)
                    F(to[i], to[j]) += child.rest(Eigen::Index(i), Eigen::Index(j));
            child.rest.resize(0, 0);
        }
        if (!F.allFinite())
            return false;
        f.own.compute(F.topLeftCorner(own, own));
        f.below = F.bottomLeftCorner(later, own);
        f.above = f.own.solve(F.topRightCorner(own, later));
        f.rest = F.bottomRightCorner(later, later);
        f.rest.noalias() -= f.below * f.above;
        return std::isfinite(f.own.matrixLU().sum()) &&
               f.own.matrixLU().diagonal().cwiseAbs().minCoeff() > 0;
    };
    for (const auto& level : d.levels) {
        int failed = 0;
#pragma omp parallel for schedule(dynamic, 1) reduction(+ : failed)
        for (size_t k = 0; k < level.size(); ++k)
            failed += make(d.fronts[size_t(level[k])]) ? 0 : 1;
        if (failed > 0) {
            isSingular = true;
            break;
        }
    }
    if (isSingular)
        throw base::Error(5003, "the system is singular");
}

void Fronts::solve(std::vector<double>& x) const
{
    const auto& place = m_data->place;
    if (place.empty()) {
        solveInOrder(x);
        return;
    }
    std::vector<double> y(x.size());
    for (size_t k = 0; k < x.size(); ++k)
        y[size_t(place[k])] = x[k];
    solveInOrder(y);
    for (size_t k = 0; k < x.size(); ++k)
        x[k] = y[size_t(place[k])];
}

void Fronts::solveInOrder(std::vector<double>& x) const
{
    using Vector = Eigen::VectorXd;
    const Data& d = *m_data;
    for (size_t k = 0; k < x.size(); ++k)
        x[k] *= d.scale[k];
    for (const Front& f : d.fronts) {
        Eigen::Map<Vector> own(x.data() + f.first, f.size());
        own = f.own.solve(Vector(own));
        const Vector moved = f.below * own;
        for (size_t k = 0; k < f.touched.size(); ++k)
            x[size_t(f.touched[k])] -= moved(Eigen::Index(k));
    }
    Vector later;
    for (size_t b = d.fronts.size(); b-- > 0;) {
        const Front& f = d.fronts[b];
        later.resize(Eigen::Index(f.touched.size()));
        for (size_t k = 0; k < f.touched.size(); ++k)
            later(Eigen::Index(k)) = x[size_t(f.touched[k])];
        Eigen::Map<Vector>(x.data() + f.first, f.size()) -= f.above * later;
    }
}

}  // namespace yh::fem
